package compose_test

import (
	"encoding/json"
	"fmt"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"

	"plaintracer/core/compose"
	"plaintracer/core/diagram"
	"plaintracer/core/flow"
	"plaintracer/core/geometry"
	"plaintracer/core/register"
	"plaintracer/core/values"
)

// lanes is a map of a chain a > b > c > d with a decision d? behind it, in two lanes with two stages.
func lanes() *diagram.Map {
	m := diagram.New("Lanes", diagram.Rightwards, "A3", true)
	s := m.Sheets[0]
	s.Pools = []*diagram.Pool{{ID: "pool", X: 2000, Y: 2000, W: 150000, Lanes: []diagram.Lane{{ID: "l1", Name: "Desk", H: 20000}, {ID: "l2", Name: "Crew", H: 20000}},
		Stages: []diagram.Stage{{ID: "st1", Name: "Before", L: 75000}, {ID: "st2", Name: "After", L: 75000}}}}
	for i, id := range []string{"start", "a", "b", "c", "d", "yes", "no"} {
		kind, lane := diagram.Process, i%2
		switch id {
		case "start":
			kind = diagram.Terminator
		case "d":
			kind = diagram.Decision
		}
		s.Symbols = append(s.Symbols, &diagram.Symbol{ID: id, Kind: kind, Text: "Step " + id, Box: geometry.Box{X: 8000 + i*20000, Y: 8000 + lane*20000, W: 12000, H: 8000}})
	}
	for _, pair := range []string{"start a", "a b", "b c", "c d", "d yes", "d no"} {
		from, to, _ := strings.Cut(pair, " ")
		c := &diagram.Connector{ID: from + to, From: diagram.End{Symbol: from}, To: diagram.End{Symbol: to}}
		if from == "d" {
			c.Text = strings.ToUpper(to[:1]) + to[1:]
		}
		s.Connectors = append(s.Connectors, c)
	}
	m.Fields = []diagram.Field{{ID: "time", Name: "Time", Type: values.Duration}}
	return m
}

func work(m *diagram.Map) *compose.Work {
	n := 0
	return &compose.Work{Map: m, Sheet: m.Sheets[0], NewID: func() string { n++; return fmt.Sprint("new-", n) }}
}

func bytesOf(t *testing.T, m *diagram.Map) string {
	t.Helper()
	raw, err := json.Marshal(m)
	if err != nil {
		t.Fatal(err)
	}
	return string(raw)
}

// What is written into a cell of the register is the very edit that the drawing makes: the map is the same to the byte.
func TestCellsAreTheEditsOfTheDrawing(t *testing.T) {
	for _, c := range []struct {
		id, column, text string
		drawn            func(w *compose.Work, sym *diagram.Symbol) diagram.Edit
	}{
		{"a", register.Text, "Look up the pole number in the asset register, and the one beside it", func(w *compose.Work, sym *diagram.Symbol) diagram.Edit {
			e, _ := w.Write(sym, "Look up the pole number in the asset register, and the one beside it")
			return e
		}},
		{"a", register.Text, "Known?", func(w *compose.Work, sym *diagram.Symbol) diagram.Edit { e, _ := w.Write(sym, "Known?"); return e }},
		{"b", register.Kind, "decision", func(w *compose.Work, sym *diagram.Symbol) diagram.Edit {
			return w.ChangeKind([]*diagram.Symbol{sym}, diagram.Decision)
		}},
		{"b", register.Who, "Crew", func(w *compose.Work, sym *diagram.Symbol) diagram.Edit {
			e, err := w.SetOwner([]*diagram.Symbol{sym}, "Crew")
			if err != nil {
				t.Fatal(err)
			}
			return e
		}},
		{"c", register.Number, "9", func(w *compose.Work, sym *diagram.Symbol) diagram.Edit {
			return &diagram.SetNumber{Sheet: "sheet-1", IDs: []string{"c"}, Pinned: new("9")}
		}},
		{"c", "time", "1.5 h", func(w *compose.Work, sym *diagram.Symbol) diagram.Edit {
			return &diagram.SetValue{Sheet: "sheet-1", ID: "c", Field: "time", Text: "1.5 h"}
		}},
	} {
		one, other := lanes(), lanes()
		edit, err := work(one).Cell(one.Sheets[0].Symbol(c.id), c.column, c.text)
		if err != nil {
			t.Fatalf("%s: %v", c.column, err)
		}
		drawn := c.drawn(work(other), other.Sheets[0].Symbol(c.id))
		for m, e := range map[*diagram.Map]diagram.Edit{one: edit, other: drawn} {
			if _, err := diagram.Apply(m, e); err != nil {
				t.Fatalf("%s: %v", c.column, err)
			}
		}
		if bytesOf(t, one) != bytesOf(t, other) {
			t.Errorf("%s %q does another thing than the drawing", c.column, c.text)
		}
		cell := register.Of(flow.New(one))
		row := cell.Rows[slices.IndexFunc(cell.Rows, func(r register.Row) bool { return r.ID == c.id })]
		if got := row.Cells[cell.Column(c.column)]; !strings.EqualFold(got, c.text) {
			t.Errorf("%s says %q after %q was written", c.column, got, c.text)
		}
		if again, err := work(one).Cell(one.Sheets[0].Symbol(c.id), c.column, c.text); err != nil || again != nil {
			t.Errorf("%s: writing what is there makes an edit: %v", c.column, err)
		}
	}
}

func TestNext(t *testing.T) {
	for _, c := range []struct{ id, text, want, refused string }{
		{"d", "Yes > 6; No > 5", "Yes > 5; No > 6", ""}, // they change places, and are numbered anew
		{"d", "Yes > 5", "Yes > 5", ""},
		{"d", "Yes > 5; No > 6; Perhaps > Step a", "Yes > 5; No > 6; Perhaps > 1", ""},
		{"c", "step no", "6", ""},
		{"c", "", "", ""},
		{"c", "Call the resident", "4", ""},
		{"d", "Yes > 5; No > Is it safe?", "Yes > 5; No > 6", ""},
		{"c", "99", "", "there is no step 99"},
		{"c", "3", "", "does not lead to itself"},
		{"c", "4; 4", "", "stands there twice"},
	} {
		m := lanes()
		s := m.Sheets[0]
		edit, err := work(m).Next(s.Symbol(c.id), c.text)
		if c.refused != "" {
			if err == nil || !strings.Contains(err.Error(), c.refused) {
				t.Errorf("%s leads to %q: %v", c.id, c.text, err)
			}
			continue
		}
		if err != nil {
			t.Fatalf("%s leads to %q: %v", c.id, c.text, err)
		}
		if _, err := diagram.Apply(m, edit); err != nil {
			t.Fatalf("%s leads to %q: %v", c.id, c.text, err)
		}
		table := register.Of(flow.New(m))
		row := table.Rows[slices.IndexFunc(table.Rows, func(r register.Row) bool { return r.ID == c.id })]
		if got := row.Cells[table.Column(register.Next)]; got != c.want {
			t.Errorf("%s, told to lead to %q, leads to %q, not %q", c.id, c.text, got, c.want)
		}
	}
	// What led elsewhere by the same answer is led there: the connector is the same one.
	m := lanes()
	edit, err := work(m).Next(m.Sheets[0].Symbol("d"), "Yes > 1; No > 6")
	if err != nil {
		t.Fatal(err)
	}
	if _, err := diagram.Apply(m, edit); err != nil {
		t.Fatal(err)
	}
	if c := m.Sheets[0].Connector("dyes"); c == nil || c.To.Symbol != "a" || c.Text != "Yes" {
		t.Errorf("the connector is %+v", c)
	}
}

func TestIntoStage(t *testing.T) {
	m := lanes()
	s := m.Sheets[0]
	edit, err := work(m).Cell(s.Symbol("a"), register.Stage, "after")
	if err != nil {
		t.Fatal(err)
	}
	if _, err := diagram.Apply(m, edit); err != nil {
		t.Fatal(err)
	}
	if st := s.StageOf(s.Symbol("a")); st == nil || st.Name != "After" || s.LaneOf(s.Symbol("a")).Name != "Crew" {
		t.Errorf("it stands in %v", st)
	}
	for _, o := range s.Symbols {
		if o.ID != "a" && o.Meets(s.Symbol("a").Box) {
			t.Errorf("it stands on %s", o.ID)
		}
	}
	if _, err := work(m).Cell(s.Symbol("a"), register.Stage, "Never"); err == nil {
		t.Error("there is any stage")
	}
}

// A step changes places with others on its stretch: the connectors stay, in their order, each step keeps its lane, and putting
// it back gives the same map. Across a branch it is refused.
func TestReorder(t *testing.T) {
	r := rand.New(rand.NewPCG(1, 7))
	for range 200 {
		m := lanes()
		s := m.Sheets[0]
		before := bytesOf(t, m)
		ids := []string{"a", "b", "c"}
		from := r.IntN(3)
		to := (from + 1 + r.IntN(2)) % 3
		front := r.IntN(2) == 0
		lane := s.LaneOf(s.Symbol(ids[from])).Name
		edit, err := work(m).Reorder(s.Symbol(ids[from]), s.Symbol(ids[to]), front)
		if err != nil {
			t.Fatal(err)
		}
		if edit == nil {
			continue
		}
		back, err := diagram.Apply(m, edit)
		if err != nil {
			t.Fatal(err)
		}
		want := slices.DeleteFunc(slices.Clone(ids), func(id string) bool { return id == ids[from] })
		at := slices.Index(want, ids[to])
		if !front {
			at++
		}
		want = slices.Insert(want, at, ids[from])
		var got []string
		for _, row := range register.Of(flow.New(m)).Rows[:3] {
			got = append(got, row.ID)
		}
		if !slices.Equal(got, want) {
			t.Fatalf("%s beside %s, before %v: %v, not %v", ids[from], ids[to], front, got, want)
		}
		if s.LaneOf(s.Symbol(ids[from])).Name != lane {
			t.Fatalf("%s went to another lane", ids[from])
		}
		if len(s.Connectors) != 6 {
			t.Fatal("a connector came or went")
		}
		if _, err := diagram.Apply(m, back); err != nil || bytesOf(t, m) != before {
			t.Fatal("it cannot be taken back")
		}
	}
	m := lanes()
	s := m.Sheets[0]
	for _, pair := range [][2]string{{"a", "yes"}, {"a", "d"}, {"start", "a"}, {"yes", "no"}} {
		if _, err := work(m).Reorder(s.Symbol(pair[0]), s.Symbol(pair[1]), false); err == nil || !strings.Contains(err.Error(), "not across a branch") {
			t.Errorf("%v: %v", pair, err)
		}
	}
}

// A step that is deleted leads those before it to the one after it; the data it uses and the document it makes lead nowhere else.
func TestTheGapClosesWithoutWhatIsUsed(t *testing.T) {
	m := lanes()
	s := m.Sheets[0]
	s.Symbols = append(s.Symbols, &diagram.Symbol{ID: "data", Kind: diagram.StoredData, Box: geometry.Box{X: 8000, Y: 60000, W: 12000, H: 8000}}, &diagram.Symbol{ID: "doc", Kind: diagram.Document, Box: geometry.Box{X: 28000, Y: 60000, W: 12000, H: 8000}})
	for _, pair := range [][2]string{{"data", "b"}, {"b", "doc"}} {
		s.Connectors = append(s.Connectors, &diagram.Connector{ID: pair[0] + pair[1], From: diagram.End{Symbol: pair[0]}, To: diagram.End{Symbol: pair[1]}})
	}
	if _, err := diagram.Apply(m, diagram.Together("delete", append(work(m).GapEdits("b"), &diagram.RemoveItems{Sheet: s.ID, IDs: []string{"b"}})...)); err != nil {
		t.Fatal(err)
	}
	if c := s.Connector("ab"); c == nil || c.To.Symbol != "c" || s.Connector("datab") != nil || s.Connector("bdoc") != nil || len(s.Connectors) != 5 {
		t.Errorf("%+v of %d connectors", c, len(s.Connectors))
	}
}
