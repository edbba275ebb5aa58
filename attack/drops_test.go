package attack

import (
	"fmt"
	"math/rand/v2"
	"net"
	"regexp"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/fasthttp/websocket"

	"plaintracer/core/edit"
	"plaintracer/core/model"
	"plaintracer/e2e/program"
)

// Readers and editors of two maps, two to eight at once, drop their connections without a
// word while somebody edits. The server stays, and no window ever hears of another map.
func TestDroppedConnections(t *testing.T) {
	s := program.Start(t, "serve")
	ids := []string{create(t, s, 0), create(t, s, 1)}
	links := []string{share(t, s, ids[0]), share(t, s, ids[1])}
	// One window on each map edits all the time; its steps say which map they are of.
	stop := make(chan struct{})
	var all sync.WaitGroup
	for k, id := range ids {
		w, err := newWindow(s, id)
		if err != nil {
			t.Fatal(err)
		}
		if err := w.connect(w.Revision); err != nil {
			t.Fatal(err)
		}
		all.Go(func() {
			defer w.conn.Close()
			if err := w.send(1, addStep(w, 1, fmt.Sprint("map-", k))); err != nil {
				t.Error(err)
				return
			}
			for n := 2; ; n++ {
				if _, err := w.until("saved"); err != nil {
					t.Errorf("the editing window of map %d: %v", k, err)
					return
				}
				select {
				case <-stop:
					return
				case <-time.After(2 * time.Millisecond):
				}
				text := fmt.Appendf(nil, `{"do":"setText","sheet":"sheet-1","id":"%s-1","text":"map-%d %d"}`, w.Window,
					k, n)
				if err := w.send(n, text); err != nil {
					t.Error(err)
					return
				}
			}
		})
	}
	rnd := rand.New(rand.NewPCG(*firstSeed, 1))
	for round := 0; round < *dropRounds && s.Alive() && !t.Failed(); round++ {
		var conns []*window
		for range 2 + rnd.IntN(7) {
			k := rnd.IntN(2)
			w := &window{}
			if rnd.IntN(2) == 0 {
				var err error
				if w.conn, w.raw, err = dial(links[k]); err != nil {
					t.Fatalf("round %d: a reader: %v", round, err)
				}
			} else {
				var err error
				if w, err = newWindow(s, ids[k]); err != nil {
					t.Fatalf("round %d: an editor: %v", round, err)
				}
				if err := w.connect(max(w.Revision-rnd.IntN(600), 0)); err != nil {
					t.Fatalf("round %d: an editor: %v", round, err)
				}
			}
			conns = append(conns, w)
			w.Window = fmt.Sprint("map-", 1-k) // what it must not hear of
		}
		// They hear a few messages and are gone, all at once.
		var heard sync.WaitGroup
		for _, w := range conns {
			n := 1 + rnd.IntN(4)
			heard.Go(func() {
				for range n {
					w.conn.SetReadDeadline(time.Now().Add(patience))
					_, raw, err := w.conn.ReadMessage()
					if err != nil {
						return
					}
					if strings.Contains(string(raw), w.Window) {
						t.Errorf("round %d: a window hears of %s: %s", round, w.Window, raw)
					}
				}
			})
		}
		heard.Wait()
		for _, w := range conns {
			all.Go(w.drop)
		}
	}
	close(stop)
	all.Wait()
	if !s.Alive() {
		t.Fatal("the server died")
	}
	for _, id := range ids {
		s.File("/maps/" + id)
	}
}

// A window that is far behind is brought up to date, one that does not read is cut off, and
// the others hear everything meanwhile.
func TestWindowsThatFallBehind(t *testing.T) {
	s := program.Start(t, "serve")
	id := create(t, s, 1)
	w, err := newWindow(s, id)
	if err != nil {
		t.Fatal(err)
	}
	if err := w.connect(0); err != nil {
		t.Fatal(err)
	}
	deaf, err := newWindow(s, id) // connects and never reads again
	if err != nil {
		t.Fatal(err)
	}
	if err := deaf.connect(0); err != nil {
		t.Fatal(err)
	}
	defer deaf.conn.Close()
	var steps []model.Symbol
	var texts []edit.Edit
	for i := range 20 {
		steps = append(steps, step(fmt.Sprintf("%s-%d", w.Window, i), "", i))
		texts = append(texts,
			&edit.SetText{Sheet: "sheet-1", ID: steps[i].ID, Text: strings.Repeat("long ", model.MaxText/5)})
	}
	const edits = 700
	for n := 1; n <= edits; n++ {
		var e edit.Edit = &edit.AddItems{Sheet: "sheet-1", Symbols: steps}
		if n > 1 {
			texts[0].(*edit.SetText).Text = fmt.Sprint("Edit ", n)
			e = edit.Together("write", texts...)
		}
		if err := w.send(n, marshal(t, edit.Envelope{Edit: e})); err != nil {
			t.Fatal(err)
		}
		if a, err := w.until("saved", "refused"); err != nil || a.Kind != "saved" || a.Revision != n {
			t.Fatalf("edit %d: %+v, %v", n, a, err)
		}
	}
	// The deaf window's connection has ended, once what the system kept for it is read.
	for {
		if _, err := deaf.read(); err != nil {
			if ne, ok := err.(net.Error); ok && ne.Timeout() {
				t.Error("a window that does not read is never cut off")
			}
			break
		}
	}
	back, err := newWindow(s, id)
	if err != nil {
		t.Fatal(err)
	}
	for _, behind := range []int{0, 100, 505, 510, 700} {
		if back.conn, back.raw, err = dial(back.address); err != nil {
			t.Fatal(err)
		}
		if err := back.conn.WriteJSON(map[string]any{"kind": "window", "window": back.Window, "secret": back.Secret,
			"after": edits - behind}); err != nil {
			t.Fatal(err)
		}
		at := edits - behind
		for {
			a, err := back.read()
			if err != nil {
				t.Fatalf("%d behind: %v", behind, err)
			}
			switch a.Kind {
			case "edit":
				at++
			case "fresh":
				at = a.Revision
			}
			if (a.Kind == "edit" || a.Kind == "fresh") && a.Revision != at {
				t.Fatalf("%d behind: revision %d comes where %d is next", behind, a.Revision, at)
			}
			if a.Kind == "caught-up" {
				break
			}
		}
		if at != edits {
			t.Errorf("%d behind: it is caught up at revision %d", behind, at)
		}
		back.conn.Close()
	}
}

// Ten thousand bad messages at once are all answered, with a word that they are too many.
func TestAFloodIsAnswered(t *testing.T) {
	s := program.Start(t, "serve")
	w, err := newWindow(s, create(t, s, 1))
	if err != nil {
		t.Fatal(err)
	}
	if err := w.connect(0); err != nil {
		t.Fatal(err)
	}
	const flood = 1500
	go func() {
		for range flood {
			w.conn.SetWriteDeadline(time.Now().Add(patience))
			if w.conn.WriteMessage(websocket.TextMessage, []byte(`{"kind":"edit","seq":`)) != nil {
				return
			}
		}
	}()
	refused, slow := 0, 0
	for refused < flood {
		a, err := w.read()
		if err != nil {
			t.Fatalf("after %d answers: %v", refused, err)
		}
		switch a.Kind {
		case "refused":
			refused++
		case "slow":
			slow++
		}
	}
	if slow == 0 {
		t.Error("there was no word that it is too much")
	}
	if err := w.send(1, addStep(w, 1, "after the flood")); err != nil {
		t.Fatal(err)
	}
	if a, err := w.until("saved", "refused"); err != nil || a.Kind != "saved" {
		t.Errorf("after the flood: %+v, %v", a, err)
	}
}

// Sockets that answer no ping are ended, readers and editors.
func TestSilentConnectionsAreEnded(t *testing.T) {
	if !*long {
		t.Skip("it takes a minute; make attack runs it")
	}
	s := program.Start(t, "serve")
	id := create(t, s, 1)
	link := share(t, s, id)
	var all sync.WaitGroup
	for n := range 200 {
		w, err := newWindow(s, id)
		if err != nil {
			t.Fatal(err)
		}
		if n%2 == 0 {
			w.conn, w.raw, err = dial(link)
		} else {
			err = w.connect(0)
		}
		if err != nil {
			t.Fatal(err)
		}
		w.conn.SetPingHandler(func(string) error { return nil }) // it reads, but answers nothing
		all.Go(func() {
			defer w.conn.Close()
			for {
				if _, err := w.read(); err != nil {
					if ne, ok := err.(net.Error); ok && ne.Timeout() {
						t.Error("it is still open")
					}
					return
				}
			}
		})
	}
	all.Wait()
}

// When a link is withdrawn, those who read by it are told and hear no more; others do.
func TestAWithdrawnLinkIsDeaf(t *testing.T) {
	s := program.Start(t, "serve")
	id := create(t, s, 1)
	links := []string{share(t, s, id), ""}
	w, err := newWindow(s, id)
	if err != nil {
		t.Fatal(err)
	}
	if err := w.connect(w.Revision); err != nil {
		t.Fatal(err)
	}
	links[1] = share(t, s, id)
	var readers [2]*window
	for k := range readers {
		readers[k] = &window{}
		if readers[k].conn, readers[k].raw, err = dial(links[k]); err != nil {
			t.Fatal(err)
		}
		defer readers[k].conn.Close()
		if _, err := readers[k].until("here"); err != nil {
			t.Fatal(err)
		}
	}
	token := strings.TrimSuffix(links[0][strings.LastIndex(links[0], "/r/")+3:], "/live")
	_, list := program.Get(t, s.URL+"/maps/"+id+"/links")
	m := regexp.MustCompile(`(?s)<code>` + token[:4] + `….*?/links/([A-Z0-9]+)/withdraw`).FindSubmatch(list)
	if m == nil {
		t.Fatalf("the link is not in the list: %s", list)
	}
	if code, body, _ := s.Post("/maps/"+id+"/links/"+string(m[1])+"/withdraw", nil); code != 200 {
		t.Fatal(code, body)
	}
	if err := w.send(1, addStep(w, 1, "after")); err != nil {
		t.Fatal(err)
	}
	if _, err := readers[1].until("changed"); err != nil {
		t.Errorf("the other reader does not hear: %v", err)
	}
	for last := ""; ; {
		a, err := readers[0].read()
		if err != nil {
			if last != "again" {
				t.Errorf("the last it heard is %q, and then %v", last, err)
			}
			break
		}
		if last = a.Kind; last == "changed" {
			t.Error("it hears of a change")
		}
	}
}
