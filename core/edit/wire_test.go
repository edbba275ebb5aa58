package edit_test

import (
	"encoding/json"
	"fmt"
	"strings"
	"testing"

	"plaintracer/core/edit"
	"plaintracer/core/geometry"
	"plaintracer/core/model"
)

// small returns a map with two steps, a connector, a pool and a second sheet.
func small(t testing.TB) *model.Map {
	t.Helper()
	m := model.New("Small", model.Rightwards, "A4", true)
	s := m.Sheets[0]
	s.Pools = append(s.Pools, &model.Pool{ID: "pool", Title: "Pool", X: 0, Y: 50000, W: 90000,
		Lanes: []model.Lane{{ID: "lane-a", Name: "A", H: 12000}, {ID: "lane-b", Name: "B", H: 12000}}})
	for i, id := range []string{"a", "b"} {
		s.Symbols = append(s.Symbols, &model.Symbol{ID: id, Kind: model.Process, Text: id,
			Box: geometry.Box{X: i * 20000, Y: 1000, W: 12000, H: 8000}})
	}
	s.Connectors = append(s.Connectors, &model.Connector{ID: "c", From: model.End{Symbol: "a"},
		To: model.End{Symbol: "b"}})
	if err := m.Validate(); err != nil {
		t.Fatal(err)
	}
	return m
}

// What no page of ours sends is refused with a reason, whatever it is made of, and changes nothing.
func TestMessagesThatNoPageSendsAreRefused(t *testing.T) {
	revert := func(change string) string { return `{"do":"revert","of":"x","changes":[` + change + `]}` }
	symbol := `{"id":"n","kind":"process","x":0,"y":0,"w":9000,"h":6000}`
	for name, raw := range map[string]string{
		"a symbol before the first": revert(`{"id":"n","sheet":"sheet-1","at":-1,"symbol":{"before":` + symbol +
			`}}`),
		"a connector before the first":   revert(`{"id":"n","sheet":"sheet-1","at":-1,"connector":{"before":{"id":"n","from":{},"to":{}}}}`),
		"a pool before the first":        revert(`{"id":"n","sheet":"sheet-1","at":-1,"pool":{"before":{"id":"n","title":"","x":0,"y":0,"w":90000,"lanes":[{"id":"l","name":"","h":9000}]}}}`),
		"a sheet before the first":       revert(`{"id":"n","at":-1,"whole":{"before":{"id":"n","name":"n","paper":"A4","across":true,"pools":[],"symbols":[],"connectors":[]}}}`),
		"a sheet added before the first": `{"do":"addSheet","at":-1,"sheet":{"id":"n","name":"n","paper":"A4","pools":[],"symbols":[],"connectors":[]}}`,
		"a sheet with a missing symbol":  revert(`{"id":"sheet-1","whole":{"after":{"id":"sheet-1","name":"","paper":"A4","across":true,"pools":[],"symbols":[null],"connectors":[]}}}`),
		"lanes of one id":                revert(`{"id":"n","sheet":"sheet-1","pool":{"before":{"id":"n","title":"","x":0,"y":0,"w":90000,"lanes":[{"id":"l","name":"","h":9000},{"id":"l","name":"","h":9000}]}}}`),
		"lanes of no id":                 revert(`{"id":"pool","sheet":"sheet-1","pool":{"before":{"id":"pool","title":"","x":0,"y":50000,"w":90000,"lanes":[{"id":"","name":"","h":9000}]},"after":{"id":"pool","title":"Pool","x":0,"y":50000,"w":90000,"lanes":[{"id":"lane-a","name":"A","h":12000},{"id":"lane-b","name":"B","h":12000}]}}}`),
		"a lane with a symbol's id":      `{"do":"insertLane","sheet":"sheet-1","pool":"pool","at":0,"lane":{"id":"a","name":"","h":9000}}`,
		"a change of two things": revert(`{"id":"n","sheet":"sheet-1","symbol":{"before":` + symbol +
			`},"connector":{"before":{"id":"n","from":{},"to":{}}}}`),
		"a pool of no lanes": `{"do":"batch","as":"x","edits":[{"do":"addPool","sheet":"sheet-1","pool":{"id":"n","title":"","x":0,"y":0,"w":90000,"lanes":[]}},{"do":"openSpace","sheet":"sheet-1","down":true,"at":-5000,"by":3000}]}`,
		"an edit that is none": `{"do":"batch","as":"x","edits":[{"do":"addItems","sheet":"sheet-1","symbols":[` +
			symbol + `]},{"do":"setHead","title":"Other"},{"do":"removeSheet","sheet":"sheet-1"}]}`,
		"an id used again": `{"do":"batch","as":"x","edits":[{"do":"removeItems","sheet":"sheet-1","ids":["a"]},{"do":"addItems","sheet":"sheet-1","symbols":[{"id":"a","kind":"process","x":0,"y":0,"w":9000,"h":6000}]}]}`,
	} {
		m := small(t)
		before := bytesOf(t, m)
		var e edit.Envelope
		if err := json.Unmarshal([]byte(raw), &e); err != nil {
			t.Errorf("%s: %v", name, err)
			continue
		}
		if _, err := edit.Apply(m, e.Edit); err == nil && name != "a sheet with a missing symbol" {
			t.Errorf("%s: it was accepted", name)
		}
		if after := bytesOf(t, m); after != before {
			t.Errorf("%s: the map is now %s", name, after)
		}
	}
}

// Two chains of connectors that join each other are each as long as they may be; joined, a
// reader would follow more than the bound, so that the edit is refused, not the file later.
func TestChainsOfJoiningConnectorsStayWithinBounds(t *testing.T) {
	m := small(t)
	s := m.Sheets[0]
	chain := func(name string, onto string, n int) {
		for i := range n {
			c := model.Connector{ID: fmt.Sprint(name, i), From: model.End{At: geometry.Point{X: i * 100, Y: 90000}},
				To: model.End{Connector: onto}}
			if onto == "" {
				c.To = model.End{Symbol: "b"}
			}
			onto = c.ID
			if _, err := edit.Apply(m, &edit.AddItems{Sheet: s.ID, Connectors: []model.Connector{c}}); err != nil {
				t.Fatal(err)
			}
		}
	}
	chain("x", "", 81)
	chain("y", "", 81)
	before := bytesOf(t, m)
	if _, err := edit.Apply(m, &edit.SetEnds{Sheet: s.ID, ID: "x0", To: &model.End{Connector: "y80"}}); err == nil {
		t.Error("the chains were joined")
	}
	if err := m.Validate(); err != nil || bytesOf(t, m) != before {
		t.Errorf("the map changed, %v", err)
	}
}

// A batch in a batch in a batch is refused before it is read through again and again, and so
// is a change that would take everybody's time.
func TestEditsThatWouldTakeForeverAreRefusedAtOnce(t *testing.T) {
	nested := strings.Repeat(`{"do":"batch","as":"","edits":[`, 1000) + `{"do":"setHead"}` + strings.Repeat("]}", 1000)
	var e edit.Envelope
	if err := json.Unmarshal([]byte(nested), &e); err == nil || !strings.Contains(err.Error(), "deep") {
		t.Errorf("it was read: %v", err)
	}
	m := model.New("Large", model.Rightwards, "A4", true)
	s := m.Sheets[0]
	var list []string
	for i := range model.MaxSymbols {
		id := fmt.Sprint("s", i)
		s.Symbols = append(s.Symbols, &model.Symbol{ID: id, Kind: model.Process,
			Box: geometry.Box{X: i * 1000, W: 900, H: 900}})
		if i%2 == 0 {
			list = append(list, id)
		}
	}
	one := &edit.Order{Sheet: s.ID, IDs: list, Step: true}
	if _, err := edit.Apply(m, one); err != nil {
		t.Error(err)
	}
	all := &edit.Batch{As: "order"}
	for range 200 {
		all.Edits = append(all.Edits, edit.Envelope{Edit: one})
	}
	before := bytesOf(t, m)
	if _, err := edit.Apply(m, all); err == nil || !strings.Contains(err.Error(), "too much") {
		t.Errorf("200 times half a full sheet: %v", err)
	}
	if bytesOf(t, m) != before {
		t.Error("it left something behind")
	}

}
