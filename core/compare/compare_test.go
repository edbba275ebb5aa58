package compare_test

import (
	"fmt"
	"maps"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"

	"plaintracer/core/compare"
	"plaintracer/core/edit"
	"plaintracer/core/geometry"
	"plaintracer/core/model"
	"plaintracer/core/values"
)

func sketch(n int) *model.Map {
	m := model.New("Lend a bike", model.Rightwards, "A3", true)
	s := m.Sheets[0]
	s.Pools = append(s.Pools, &model.Pool{ID: "p", Title: "Works", X: 4000, Y: 4000, W: 140000,
		Lanes: []model.Lane{{ID: "l1", Name: "Desk", H: 20000}, {ID: "l2", Name: "Crew", H: 20000}}})
	for i := range n {
		sym := &model.Symbol{ID: fmt.Sprint("s", i), Kind: model.Process, Text: fmt.Sprint("Do thing ", i),
			Box: geometry.Box{X: 12000 + i*16000, Y: 6000 + i%2*20000, W: 12000, H: 6000}}
		s.Symbols = append(s.Symbols, sym)
		if i > 0 {
			s.Connectors = append(s.Connectors, &model.Connector{ID: fmt.Sprint("c", i),
				From: model.End{Symbol: fmt.Sprint("s", i-1)}, To: model.End{Symbol: sym.ID}})
		}
	}
	return m
}

func equal(a, b compare.Facts) bool {
	return maps.EqualFunc(a, b, func(x, y map[string]string) bool { return maps.Equal(x, y) })
}

// apply makes changes on facts: those of the map before become those of the map after.
func apply(f compare.Facts, changes []compare.Change) compare.Facts {
	out := compare.Facts{}
	for t, at := range f {
		out[t] = maps.Clone(at)
	}
	for _, c := range changes {
		switch c.Kind {
		case compare.Added:
			out[c.Thing] = maps.Clone(c.Facts)
		case compare.Removed:
			delete(out, c.Thing)
		case compare.Changed:
			if c.New == "" {
				delete(out[c.Thing], c.Attribute)
			} else {
				out[c.Thing][c.Attribute] = c.New
			}
			if c.Thing.What == compare.Lane && c.Attribute == "name" { // its steps are in it still
				for t, at := range out {
					if t.What == compare.Step && at["lane"] == c.Old {
						at["lane"] = c.New
					}
				}
			}
		}
	}
	return out
}

func must(t *testing.T, m *model.Map, e edit.Edit) {
	t.Helper()
	if _, err := edit.Apply(m, e); err != nil {
		t.Fatal(err)
	}
}

// The changes applied to what one map says give what the other says, over random edits; there are none exactly when
// both say the same; and what only moves within its lane, or looks otherwise, is counted and not listed.
func TestChangesLeadFromOneToTheOther(t *testing.T) {
	r := rand.New(rand.NewPCG(20, 1))
	for round := range 400 {
		before := sketch(4 + r.IntN(4))
		after := before.Clone()
		tidy := round%4 == 0
		for range 1 + r.IntN(6) {
			s := after.Sheets[0]
			if len(s.Symbols) == 0 || len(s.Connectors) == 0 {
				break
			}
			id := s.Symbols[r.IntN(len(s.Symbols))].ID
			line := s.Connectors[r.IntN(len(s.Connectors))].ID
			emphasis, lane := true, fmt.Sprint("Lane ", r.IntN(3))
			edits := []edit.Edit{
				&edit.MoveItems{Sheet: s.ID, IDs: []string{id},
					By: geometry.Point{X: 100 * (r.IntN(9) - 4), Y: 100 * (r.IntN(9) - 4)}},
				&edit.SetStyle{Sheet: s.ID, IDs: []string{id}, Emphasis: &emphasis},
				&edit.SetText{Sheet: s.ID, ID: id, Text: fmt.Sprint("Other words ", r.IntN(3))},
				&edit.SetText{Sheet: s.ID, ID: line, Text: []string{"Yes", "No", ""}[r.IntN(3)]},
				&edit.SetKind{Sheet: s.ID, ID: id,
					Kind: []model.Kind{model.Decision, model.Document, model.Process}[r.IntN(3)]},
				&edit.MoveItems{Sheet: s.ID, IDs: []string{id}, By: geometry.Point{Y: 20000}},
				&edit.RemoveItems{Sheet: s.ID, IDs: []string{id}},
				&edit.SetLane{Sheet: s.ID, Pool: "p", Lane: "l1", Name: &lane},
				&edit.SetEnds{Sheet: s.ID, ID: line, From: &model.End{Symbol: id},
					To: &model.End{Symbol: s.Symbols[r.IntN(len(s.Symbols))].ID}},
				&edit.AddItems{Sheet: s.ID,
					Symbols: []model.Symbol{{ID: fmt.Sprint("n", r.IntN(1<<30)), Kind: model.Process,
						Box: geometry.Box{X: 12000, Y: 60000, W: 9000, H: 6000}}}},
			}
			edits = append(edits,
				&edit.AddField{Field: model.Field{ID: fmt.Sprint("f", r.IntN(3)), Name: fmt.Sprint("Field ", r.IntN(9)),
					Type: values.Duration}},
				&edit.SetValue{Sheet: s.ID, ID: id, Field: fmt.Sprint("f", r.IntN(3)),
					Text: []string{"5 min", "2 h", ""}[r.IntN(3)]},
				&edit.SetField{ID: fmt.Sprint("f", r.IntN(3)), Name: &lane},
				&edit.RemoveField{ID: fmt.Sprint("f", r.IntN(3))},
				&edit.HoldNumbers{Since: "2026-11-28"},
				&edit.SetHead{Numbering: &model.Numbering{Scheme: model.ByLane}})
			if tidy {
				edits = edits[:2]
			}
			edit.Apply(after, edits[r.IntN(len(edits))]) // one that is refused changes nothing
		}
		report := compare.Maps(before, after)
		was, is := compare.FactsOf(before), compare.FactsOf(after)
		if got := apply(was, report.Changes); !equal(got, is) {
			t.Fatalf("round %d: the changes %+v lead to\n%v, not to\n%v", round, report.Changes, got, is)
		}
		if (len(report.Changes) == 0) != equal(was, is) {
			t.Fatalf("round %d: %d changes between maps that say the same: %v", round, len(report.Changes),
				equal(was, is))
		}
		if tidy && len(report.Changes) > 0 {
			t.Fatalf("round %d: tidying is listed: %+v", round, report.Changes)
		}
		for i := range report.Changes {
			if report.Sentence(&report.Changes[i]) == "" {
				t.Fatalf("round %d: %+v is not told", round, report.Changes[i])
			}
		}
		if back := compare.Maps(after, before); len(back.Changes) != len(report.Changes) {
			t.Fatalf("round %d: %d changes there, %d back", round, len(report.Changes), len(back.Changes))
		}
	}
}

// Every kind of change is told in words.
func TestChangesInWords(t *testing.T) {
	before := sketch(4)
	after := before.Clone()
	s := after.Sheets[0].ID
	name := "Front desk"
	for _, e := range []edit.Edit{
		&edit.SetText{Sheet: s, ID: "s1", Text: "Note the loan"},
		&edit.SetKind{Sheet: s, ID: "s2", Kind: model.Document},
		&edit.MoveItems{Sheet: s, IDs: []string{"s0"}, By: geometry.Point{Y: 20000}},
		&edit.SetLane{Sheet: s, Pool: "p", Lane: "l1", Name: &name},
		&edit.SetText{Sheet: s, ID: "c1", Text: "Yes"}, &edit.SetEnds{Sheet: s, ID: "c3",
			From: &model.End{Symbol: "s1"}, To: &model.End{Symbol: "s3"}},
		&edit.AddItems{Sheet: s,
			Symbols: []model.Symbol{{ID: "n1", Kind: model.Note, Text: "Ask first",
				Box: geometry.Box{X: 90000, Y: 60000, W: 9000, H: 6000}}}},
	} {
		must(t, after, e)
	}
	report := compare.Maps(before, after)
	told := map[string]bool{}
	for i := range report.Changes {
		told[report.Sentence(&report.Changes[i])] = true
	}
	for _, want := range []string{
		"Step 2 “Do thing 1” was reworded: “Note the loan”.",
		"Step 1 “Do thing 0” moved to the lane “Crew” instead of “Desk”.",
		"Lane “Front desk” is called “Front desk” instead of “Desk”.",
		"The connector from 1 to 2 has the answer “Yes”.", "Note “Ask first” was added.",
	} {
		if !told[want] {
			t.Errorf("%q is not among %q", want, slicesOf(told))
		}
	}
}

func slicesOf(told map[string]bool) (list []string) {
	for text := range told {
		list = append(list, text)
	}
	return list
}

// What changed between two states of 300 steps; the limit is 50 ms.
func BenchmarkMaps(b *testing.B) {
	before := sketch(300)
	after := before.Clone()
	for i := 0; i < 300; i += 7 {
		after.Sheets[0].Symbols[i].Text += " again"
		after.Sheets[0].Symbols[i].X += 3000
	}
	for b.Loop() {
		compare.Maps(before, after)
	}
}

// What is called otherwise is told once, of what has the name, and not again of all that stands in it or leads to it.
// No sentence has a value in it that is for programs.
func TestWhatIsCalledOtherwiseIsToldOnce(t *testing.T) {
	before := sketch(4)
	two := model.New("", model.Rightwards, "A4", true).Sheets[0]
	two.ID, two.Name = "two", "In detail"
	before.Sheets = append(before.Sheets, two)
	first := before.Sheets[0].Symbols
	first[1].Links = []model.Hyperlink{{To: "#s2"}}
	first[3].Detail = "two"
	after := before.Clone()
	renamed := after.Sheets[0]
	renamed.Name, after.Sheets[1].Name, renamed.Pools[0].Lanes[0].Name = "The loan", "Closer", "Counter"
	renamed.Symbols[2].Text = "Do it otherwise"
	r := compare.Maps(before, after)
	if len(r.Changes) != 4 {
		t.Errorf("%d changes, not 4:", len(r.Changes))
		for i := range r.Changes {
			t.Log(r.Sentence(&r.Changes[i]))
		}
	}
	after = before.Clone()
	after.Held = model.Held{Since: "2026-11-29T07:13Z", By: "Ida"}
	after.Direction = model.Downwards
	after.Sheets[0].Symbols[1].Links = []model.Hyperlink{{To: "#s0"}}
	after.Sheets[0].Symbols[0].Links = []model.Hyperlink{{To: "map:ABCDEFGHIJ", Title: "Who works there"}}
	slices.Reverse(after.Sheets)
	r = compare.Maps(before, after)
	for i := range r.Changes {
		said := r.Sentence(&r.Changes[i])
		if strings.ContainsAny(said, "#") || strings.Contains(said, "map:") || strings.Contains(said, "2026") ||
			strings.Contains(said, "“1”") {
			t.Error(said)
		}
	}
	if len(r.Changes) != 6 {
		t.Errorf("%d changes, not 6: %v", len(r.Changes), r.Changes)
	}
}
