package session_test

import (
	"encoding/json"
	"fmt"
	"math/rand/v2"
	"testing"

	"plaintracer/core/edit"
	"plaintracer/core/geometry"
	"plaintracer/core/model"
	"plaintracer/core/session"
)

func raw(t testing.TB, m *model.Map) string {
	t.Helper()
	out, err := json.Marshal(m)
	if err != nil {
		t.Fatal(err)
	}
	return string(out)
}

func start() *model.Map {
	m := model.New("Lend a bike", model.Rightwards, "A4", true)
	for i := range 4 {
		m.Sheets[0].Symbols = append(m.Sheets[0].Symbols, &model.Symbol{ID: fmt.Sprint("s", i), Kind: model.Process,
			Text: fmt.Sprint("Step ", i), Box: geometry.Box{X: 15000 * i, W: 12000, H: 8000}})
	}
	return m
}

// Three windows edit, undo and show things at once, over connections that are now and then slow. The
// server puts their edits into one order; once all is told, all windows show what it has.
func TestAllWindowsComeToTheSameMap(t *testing.T) {
	for seed := range uint64(120) {
		r := rand.New(rand.NewPCG(seed, 4))
		server := start()
		type told struct {
			window, seq int
			edit        edit.Edit
			refused     bool
		}
		var log []told
		windows := make([]*session.Session, 3)
		heard, queues := make([]int, 3), make([][]session.Pending, 3)
		for i := range windows {
			var err error
			if windows[i], err = session.Open([]byte(raw(t, server)), 0, fmt.Sprint("w", i)); err != nil {
				t.Fatal(err)
			}
		}
		serve := func(i int) {
			if len(queues[i]) == 0 {
				return
			}
			p := queues[i][0]
			queues[i] = queues[i][1:]
			_, err := edit.Apply(server, p.Edit.Edit)
			log = append(log, told{i, p.Seq, p.Edit.Edit, err != nil})
		}
		hear := func(i int) {
			if heard[i] == len(log) {
				return
			}
			switch n := log[heard[i]]; {
			case n.window == i && n.refused:
				windows[i].Refused(n.seq)
			case n.window == i:
				if _, err := windows[i].Confirm(n.seq, heard[i]+1); err != nil {
					t.Fatalf("seed %d: %v", seed, err)
				}
			case !n.refused:
				if err := windows[i].Foreign(n.edit, heard[i]+1); err != nil {
					t.Fatalf("seed %d: %v", seed, err)
				}
			}
			heard[i]++
		}
		for range 160 {
			i := r.IntN(3)
			w := windows[i]
			id := fmt.Sprint("s", r.IntN(4))
			switch r.IntN(9) {
			case 0, 1:
				_ = w.Do(&edit.SetText{Sheet: "sheet-1", ID: id, Text: fmt.Sprint("By ", i, " at ", r.IntN(100))})
			case 2:
				_ = w.Do(&edit.MoveItems{Sheet: "sheet-1", IDs: []string{id},
					By: geometry.Point{X: 1000 * (r.IntN(5) - 2)}})
			case 3:
				_ = w.Do(&edit.RemoveItems{Sheet: "sheet-1", IDs: []string{id}})
			case 4:
				w.Show(&edit.MoveItems{Sheet: "sheet-1", IDs: []string{id}, By: geometry.Point{Y: 1000}})
			case 5:
				_, _, _ = w.Undo()
			case 6:
				_, _, _ = w.Redo()
			case 7:
				serve(r.IntN(3))
			default:
				hear(i)
			}
			queues[i] = append(queues[i], w.Take()...)
		}
		for i := range windows {
			windows[i].Hide()
			for len(queues[i]) > 0 {
				serve(i)
			}
		}
		want := raw(t, server)
		for i, w := range windows {
			for heard[i] < len(log) {
				hear(i)
			}
			if got := raw(t, w.Map()); got != want {
				t.Fatalf("seed %d: window %d shows\n%s\nthe server has\n%s", seed, i, got, want)
			}
		}
	}
}

// An edit that is held waits behind the others until it is let go.
func ExampleSession_Hold() {
	m, _ := json.Marshal(start())
	w, err := session.Open(m, 0, "w1")
	if err != nil {
		fmt.Println(err)
		return
	}
	_ = w.Do(&edit.SetText{Sheet: "sheet-1", ID: "s0", Text: "One"})
	_ = w.Do(&edit.SetText{Sheet: "sheet-1", ID: "s1", Text: "Two"})
	w.Hold(1)
	fmt.Println(len(w.Take()), len(w.Held()))
	w.Hold(0)
	fmt.Println(len(w.Take()))
	// Output:
	// 1 1
	// 1
}
