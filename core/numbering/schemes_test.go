package numbering_test

import (
	"cmp"
	"encoding/json"
	"fmt"
	"math/rand/v2"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"testing"

	"plaintracer/bench/processes"
	"plaintracer/core/edit"
	"plaintracer/core/flow"
	"plaintracer/core/geometry"
	"plaintracer/core/model"
	"plaintracer/core/numbering"
	"plaintracer/core/session"
)

// lamp is a decision in a decision, which merge, with two that do not.
func lamp() *model.Map {
	return sketch("start > Log", "Log > Known?", "Known? -Yes> Give date", "Give date > end", "Known? -No> Inspect",
		"Inspect > Lamp?", "Lamp? -Yes> Change lamp", "Change lamp > Test",
		"Lamp? -No> Mains?", "Mains? -Yes> Call grid", "Call grid > Wait", "Mains? -No> Dig", "Wait > Test",
		"Dig > Test", "Test > docs", "docs > Close", "Close > end")
}

func TestSchemes(t *testing.T) {
	for _, c := range []struct {
		name string
		by   model.Numbering
		want string
	}{
		{"plain", model.Numbering{},
			"Log 1, Known? 2, Give date 3, Inspect 4, Lamp? 5, Change lamp 6, Mains? 7, Call grid 8, Wait 9, Dig 10, Test 11, Close 12"},
		{"in tens, with zeros and a prefix", model.Numbering{Prefix: "SL-", First: 10, Step: 10, Digits: 3},
			"Log SL-010, Known? SL-020, Give date SL-030, Inspect SL-040, Lamp? SL-050, Change lamp SL-060, Mains? SL-070, Call grid SL-080, Wait SL-090, Dig SL-100, Test SL-110, Close SL-120"},
		{"by answer", model.Numbering{Scheme: model.Branched},
			"Log 1, Known? 2, Give date 2a1, Inspect 2b1, Lamp? 2b2, Change lamp 2b2a1, Mains? 2b2b1, Call grid 2b2b1a1, Wait 2b2b1a2, Dig 2b2b1b1, Test 2b3, Close 2b4"},
	} {
		m := lamp()
		m.Numbering = c.by
		if got := numbered(m); got != c.want {
			t.Errorf("%s:\n%s, not\n%s", c.name, got, c.want)
		}
	}
}

// Steps of lanes and stages are counted for themselves; who does a step outside of lanes has a letter, too.
func TestNumbersByLaneAndStage(t *testing.T) {
	m := sketch("start > a", "a > b", "b > c", "c > d", "d > e", "e > end")
	s := m.Sheets[0]
	s.Pools = []*model.Pool{{ID: "pool", X: 0, Y: 0, W: 40000,
		Lanes:  []model.Lane{{ID: "l1", Name: "Desk", H: 10000}, {ID: "l2", Name: "Crew", H: 10000}},
		Stages: []model.Stage{{ID: "s1", Name: "Before", L: 20000}, {ID: "s2", Name: "After", L: 20000}}}}
	for id, at := range map[string]geometry.Point{"a": {X: 9000, Y: 5000}, "b": {X: 9000, Y: 15000},
		"c": {X: 30000, Y: 5000}, "d": {X: 34000, Y: 5000}, "e": {X: 60000, Y: 60000}} {
		s.Symbol(id).X, s.Symbol(id).Y = at.X, at.Y
	}
	s.Symbol("e").Owner = "Stores"
	m.Numbering.Scheme = model.ByLane
	if got := numbered(m); got != "a A1, b B1, c A2, d A3, e C1" {
		t.Error(got)
	}
	m.Numbering.Scheme = model.ByStage
	if got := numbered(m); got != "a 1.1, b 1.2, c 2.1, d 2.2, e 1" {
		t.Error(got)
	}
	m.Numbering.Scheme = model.ByPlace
	if got := numbered(m); got != "a 1, b 4, c 2, d 3, e 5" {
		t.Error(got)
	}
}

// What is numbered besides the steps has rows of its own, and disturbs those of the steps in no scheme.
func TestOtherThingsAreNumberedForThemselves(t *testing.T) {
	for _, scheme := range model.Schemes {
		m := lamp()
		m.Numbering.Scheme = scheme
		before := numbered(m)
		m.Numbering.Also = []string{"ends", "documents"}
		if got := numbered(m); got != before {
			t.Errorf("%q: %s, and before %s", scheme, got, before)
		}
		labels := numbering.Labels(flow.New(m))
		if labels["start"] != "T1" || labels["end"] != "T2" || labels["docs"] != "D1" {
			t.Errorf("%q: %v", scheme, labels)
		}
	}
}

func TestPinnedAndLeftOut(t *testing.T) {
	m := sketch("start > a", "a > b", "b > c", "c > end")
	s := m.Sheets[0]
	for _, e := range []edit.Edit{&edit.SetNumber{Sheet: s.ID, IDs: []string{"b"}, Pinned: new("3")},
		&edit.SetNumber{Sheet: s.ID, IDs: []string{"a"}, Uncounted: new(true)}} {
		if _, err := edit.Apply(m, e); err != nil {
			t.Fatal(err)
		}
	}
	if got := numbered(m); got != "a , b 3, c 2" {
		t.Error(got)
	}
	if _, err := edit.Apply(m, &edit.SetNumber{Sheet: s.ID, IDs: []string{"c"}, Pinned: new("3")}); err != nil {
		t.Fatal(err)
	}
	if got := numbering.Repeated(flow.New(m)); len(got) != 2 {
		t.Errorf("%d steps have a number that another has", len(got))
	}
	if _, err := edit.Apply(m, &edit.SetNumber{Sheet: s.ID, IDs: []string{"c"}, Pinned: new("<3>")}); err == nil {
		t.Error("anything is a number")
	}
}

// The example of what holding means: a step put between 7 and 8 shows 7a, a deleted one leaves its number unused, one
// that is appended takes the next.
func TestHold(t *testing.T) {
	m := sketch("start > p1", "p1 > p2", "p2 > p3", "p3 > end")
	s := m.Sheets[0]
	var undo []edit.Edit
	do := func(edits ...edit.Edit) {
		t.Helper()
		for _, e := range edits {
			back, err := edit.Apply(m, e)
			if err != nil {
				t.Fatal(err)
			}
			undo = append(undo, back)
		}
	}
	is := func(want string) {
		t.Helper()
		if got := numbered(m); got != want {
			t.Errorf("%s, not %s", got, want)
		}
	}
	between := func(id, connector, from, to string) edit.Edit {
		return edit.Together("insert",
			&edit.AddItems{Sheet: s.ID,
				Symbols: []model.Symbol{{ID: id, Kind: model.Process, Text: id, Kept: "forged",
					Box: geometry.Box{W: 1000, H: 1000}}},
				Connectors: []model.Connector{{ID: id + "x", From: model.End{Symbol: from}, To: model.End{Symbol: id}},
					{ID: id + "y", From: model.End{Symbol: id}, To: model.End{Symbol: to}}}},
			&edit.RemoveItems{Sheet: s.ID, IDs: []string{connector}})
	}
	append1 := func(id, from string) edit.Edit {
		return &edit.AddItems{Sheet: s.ID,
			Symbols:    []model.Symbol{{ID: id, Kind: model.Process, Text: id, Box: geometry.Box{W: 1000, H: 1000}}},
			Connectors: []model.Connector{{ID: id + "x", From: model.End{Symbol: from}, To: model.End{Symbol: id}}}}
	}
	do(&edit.HoldNumbers{Since: "2026-11-28", By: "Ida Brandt"})
	do(between("n1", "k2", "p2", "p3"))
	is("p1 1, p2 2, n1 2a, p3 3")
	do(between("n2", "n1x", "p2", "n1"))
	is("p1 1, p2 2, n2 2b, n1 2a, p3 3") // what is cited as 2a stays so
	do(append1("n3", "p3"))
	is("p1 1, p2 2, n2 2b, n1 2a, p3 3, n3 4")
	do(&edit.RemoveItems{Sheet: s.ID, IDs: []string{"n3", "n1", "p1"}})
	do(append1("n4", "p3"))
	is("p2 2, n2 2b, p3 3, n4 5")
	do(between("n5", "n4x", "p3", "n4"))
	is("p2 2, n2 2b, p3 3, n5 3a, n4 5")
	for _, n := range slices.Backward(undo) {
		if _, err := edit.Apply(m, n); err != nil {
			t.Fatal(err)
		}
	}
	is("p1 1, p2 2, p3 3")
	if m.Held.On() || len(m.Next) > 0 || s.Symbol("p1").Kept != "" {
		t.Error("undoing all leaves something of it")
	}
}

// place is a number in the form in which it can be compared: its row, and the count in that.
var parts = regexp.MustCompile(`\d+|[a-z]+`)

func compare(a, b string) int {
	x, y := parts.FindAllString(a, -1), parts.FindAllString(b, -1)
	for i := range min(len(x), len(y)) {
		p, errP := strconv.Atoi(x[i])
		q, errQ := strconv.Atoi(y[i])
		if c := cmp.Compare(x[i], y[i]); errP != nil || errQ != nil {
			if c != 0 {
				return c
			}
		} else if p != q {
			return cmp.Compare(p, q)
		}
	}
	return cmp.Compare(len(x), len(y))
}

func wildMap(r *rand.Rand) *model.Map {
	var lines []string
	n := 3 + r.IntN(14)
	name := func(k int) string {
		if k%3 == 1 {
			return fmt.Sprintf("p%d?", k)
		}
		return fmt.Sprint("p", k)
	}
	lines = append(lines, "start > p0")
	for k := range n + r.IntN(n) {
		a, b := r.IntN(n), r.IntN(n)
		if a != b {
			lines = append(lines, fmt.Sprintf("%s -%s> %s", name(a), []string{"Yes", "No", "Perhaps"}[k%3], name(b)))
		}
	}
	m := sketch(lines...)
	m.Sheets[0].Pools = []*model.Pool{{ID: "pool", W: 200000,
		Lanes:  []model.Lane{{ID: "l1", Name: "Desk", H: 20000}, {ID: "l2", Name: "Crew", H: 20000}},
		Stages: []model.Stage{{ID: "s1", Name: "Before", L: 90000}, {ID: "s2", Name: "After", L: 90000}}}}
	for _, sym := range m.Sheets[0].Symbols {
		sym.X, sym.Y = 4000+r.IntN(60)*3000, 3000+r.IntN(20)*2000
	}
	m.Numbering = model.Numbering{Scheme: model.Schemes[r.IntN(len(model.Schemes))], First: r.IntN(20),
		Step: 1 + r.IntN(10)}
	return m
}

// In every scheme of the flow numbers rise along what leads forward: within a row where there are several, and over all
// answers in the scheme that follows them. No two steps have one number, and moves that change no lane or stage change
// none.
func TestNumbersRiseInEveryScheme(t *testing.T) {
	r := rand.New(rand.NewPCG(8, 9))
	for range 600 {
		m := wildMap(r)
		g := flow.New(m)
		labels := numbering.Labels(g)
		seen := map[string]string{}
		for _, n := range g.Nodes() {
			if id := n.Symbol.ID; n.Symbol.Kind.IsStep() {
				if labels[id] == "" || seen[labels[id]] != "" {
					t.Fatalf("%+v: %s has the number %q, as %s", m.Numbering, id, labels[id], seen[labels[id]])
				}
				seen[labels[id]] = id
			}
			for _, e := range n.Exits {
				from, to := labels[n.Symbol.ID], labels[e.To.Symbol.ID]
				if e.Back || from == "" || to == "" || m.Numbering.Scheme == model.ByPlace {
					continue
				}
				row := func(label string) string { return strings.TrimRight(label, "0123456789") }
				if several := m.Numbering.Scheme == model.ByLane || m.Numbering.Scheme == model.ByStage; several &&
					row(from) != row(to) {
					continue
				}
				if compare(from, to) >= 0 {
					t.Fatalf("%+v: %s leads forward to %s", m.Numbering, from, to)
				}
			}
		}
		if m.Numbering.Scheme != model.ByPlace {
			for _, sym := range m.Sheets[0].Symbols { // every one is moved a little, within what it stands in
				was := [2]any{m.Sheets[0].LaneOf(sym), m.Sheets[0].StageOf(sym)}
				x, y := sym.X, sym.Y
				sym.X, sym.Y = sym.X+r.IntN(900)-450, sym.Y+r.IntN(900)-450
				if was != [2]any{m.Sheets[0].LaneOf(sym), m.Sheets[0].StageOf(sym)} || sym.Kind.IsEnd() {
					sym.X, sym.Y = x, y
				}
			}
			again := flow.New(m)
			same := true // the order of the beginnings and of ways round is that of place
			for i, n := range again.Order() {
				same = same && n.Symbol == g.Order()[i].Symbol
			}
			if now := numbering.Labels(again); same && fmt.Sprint(now) != fmt.Sprint(labels) {
				t.Fatalf("%+v: moving made %v of %v", m.Numbering, now, labels)
			}
		}
	}
}

// Held numbers never change, whatever is edited; new steps get numbers nobody had; releasing is the same as numbering
// anew.
func TestHoldNeverRenumbers(t *testing.T) {
	r := rand.New(rand.NewPCG(10, 11))
	for round := range 300 {
		m := wildMap(r)
		s := m.Sheets[0]
		for _, sym := range s.Symbols { // as ids are
			sym.ID = strings.TrimSuffix(sym.ID, "?")
		}
		for _, c := range s.Connectors {
			c.From.Symbol, c.To.Symbol = strings.TrimSuffix(c.From.Symbol, "?"), strings.TrimSuffix(c.To.Symbol, "?")
		}
		do := func(e edit.Edit) error { _, err := edit.Apply(m, e); return err }
		if err := do(&edit.HoldNumbers{Since: "2026-11-28"}); err != nil {
			t.Fatal(err)
		}
		ever := map[string]string{} // the step of every number there was
		look := func() {
			t.Helper()
			for id, label := range numbering.Labels(flow.New(m)) {
				if was, known := ever[label]; known && was != id {
					t.Fatalf("round %d: %s was the number of %s and is that of %s", round, label, was, id)
				}
				ever[label] = id
			}
		}
		labels := numbering.Labels(flow.New(m))
		look()
		for k := range 15 {
			pick := func() string { return s.Symbols[r.IntN(len(s.Symbols))].ID }
			id := fmt.Sprint("n", k)
			switch r.IntN(6) {
			case 0, 1:
				var links []model.Connector
				if r.IntN(4) > 0 {
					links = append(links, model.Connector{ID: id + "x", From: model.End{Symbol: pick()},
						To: model.End{Symbol: id}})
				}
				if r.IntN(2) > 0 {
					links = append(links, model.Connector{ID: id + "y", From: model.End{Symbol: id},
						To: model.End{Symbol: pick()}})
				}
				do(&edit.AddItems{Sheet: s.ID,
					Symbols: []model.Symbol{{ID: id, Kind: model.Process,
						Box: geometry.Box{X: r.IntN(90000), Y: r.IntN(40000), W: 2000, H: 2000}}}, Connectors: links})
			case 2:
				if len(s.Symbols) > 3 {
					do(&edit.RemoveItems{Sheet: s.ID, IDs: []string{pick()}})
				}
			case 3:
				do(&edit.MoveItems{Sheet: s.ID, IDs: []string{pick()},
					By: geometry.Point{X: r.IntN(20000) - 10000, Y: r.IntN(20000) - 10000}})
			case 4:
				if len(s.Connectors) > 0 {
					do(&edit.RemoveItems{Sheet: s.ID, IDs: []string{s.Connectors[r.IntN(len(s.Connectors))].ID}})
				}
			case 5:
				do(&edit.SetHead{Numbering: &model.Numbering{Scheme: model.Schemes[r.IntN(len(model.Schemes))]}})
			}
			look()
		}
		for id, label := range numbering.Labels(flow.New(m)) {
			if was, known := labels[id]; known && was != label {
				t.Fatalf("round %d: %s was %s and is %s", round, id, was, label)
			}
		}
		coming := map[string]string{}
		for _, n := range numbering.Release(flow.New(m)) {
			coming[n.Symbol.ID] = n.Number
		}
		held := numbering.Labels(flow.New(m))
		if err := do(&edit.ReleaseNumbers{}); err != nil {
			t.Fatal(err)
		}
		bare := m.Clone()
		for _, sym := range bare.Sheets[0].Symbols {
			sym.Kept = ""
		}
		bare.Held, bare.Next = model.Held{}, nil
		now := numbering.Labels(flow.New(m))
		if fmt.Sprint(now) != fmt.Sprint(numbering.Labels(flow.New(bare))) {
			t.Fatalf("round %d: released is not numbered anew", round)
		}
		for id := range now {
			if changes := held[id] != now[id]; changes != (coming[id] != "") || changes && coming[id] != now[id] {
				t.Fatalf("round %d: %s goes from %s to %s, and %q was told", round, id, held[id], now[id], coming[id])
			}
		}
	}
}

// A map of 40 sheets with 60 symbols each is numbered. Target: 30 ms.
func BenchmarkNumberingManySheets(b *testing.B) {
	m := processes.Atlas(40, 60)
	for b.Loop() {
		if n := len(numbering.Number(m)); n != 40*60-2*40 {
			b.Fatal(n)
		}
	}
}

// Numbering 500 steps, flow included. Target: 5 ms natively.
func BenchmarkNumbering(b *testing.B) {
	var lines []string
	for k := range 500 {
		name := func(k int) string {
			if k%5 == 1 {
				return fmt.Sprintf("p%d?", k)
			}
			return fmt.Sprint("p", k)
		}
		if k < 499 {
			lines = append(lines, name(k)+" -Yes> "+name(k+1))
		}
		if k%5 == 1 && k < 490 {
			lines = append(lines, name(k)+" -No> "+name(k+4))
		}
	}
	m := sketch(lines...)
	for _, scheme := range model.Schemes {
		m.Numbering.Scheme = scheme
		b.Run("by-"+cmp.Or(string(scheme), "flow"), func(b *testing.B) {
			for b.Loop() {
				if n := len(numbering.Number(m)); n != 500 {
					b.Fatal(n)
				}
			}
		})
	}
}

// Two windows put a step behind the same one at the same time, while numbers are held: whichever comes first is 2a, the
// other 2b, in both windows and on the server.
func TestTwoWindowsNumberAlike(t *testing.T) {
	m := sketch("start > p1", "p1 > p2", "p2 > p3", "p3 > end")
	if _, err := edit.Apply(m, &edit.HoldNumbers{Since: "2026-11-28"}); err != nil {
		t.Fatal(err)
	}
	doc, err := json.Marshal(m)
	if err != nil {
		t.Fatal(err)
	}
	var windows []*session.Session
	for _, name := range []string{"wa", "wb"} {
		w, err := session.Open(doc, 1, name)
		if err != nil {
			t.Fatal(err)
		}
		windows = append(windows, w)
		id := w.NewID()
		if err := w.Do(&edit.AddItems{Sheet: "sheet-1",
			Symbols: []model.Symbol{{ID: id, Kind: model.Process, Box: geometry.Box{W: 1000, H: 1000}}},
			Connectors: []model.Connector{{ID: id + "x", From: model.End{Symbol: "p2"}, To: model.End{Symbol: id}},
				{ID: id + "y", From: model.End{Symbol: id}, To: model.End{Symbol: "p3"}}}}); err != nil {
			t.Fatal(err)
		}
		if got := numbered(w.Map()); !strings.Contains(got, id+" 2a") {
			t.Errorf("alone it is %s", got)
		}
	}
	server := m
	for i, w := range windows { // the server takes them in this order, and tells the other window
		for _, p := range w.Take() {
			if _, err := edit.Apply(server, p.Edit.Edit); err != nil {
				t.Fatal(err)
			}
			if _, err := w.Confirm(p.Seq, 2+i); err != nil {
				t.Fatal(err)
			}
			if err := windows[1-i].Foreign(p.Edit.Edit, 2+i); err != nil {
				t.Fatal(err)
			}
		}
	}
	want := numbered(server)
	if !strings.Contains(want, " 2a") || !strings.Contains(want, " 2b") {
		t.Errorf("the server has %s", want)
	}
	for _, w := range windows {
		if got := numbered(w.Map()); got != want {
			t.Errorf("a window has %s, the server %s", got, want)
		}
	}
}
