package compose_test

import (
	"encoding/json"
	"errors"
	"fmt"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"

	"plaintracer/core/compose"
	"plaintracer/core/edit"
	"plaintracer/core/flow"
	"plaintracer/core/geometry"
	"plaintracer/core/model"
	"plaintracer/core/register"
	"plaintracer/core/values"
)

// lanes is a map of a chain a > b > c > d with a decision d? behind it, in two lanes with two stages.
func lanes() *model.Map {
	m := model.New("Lanes", model.Rightwards, "A3", true)
	s := m.Sheets[0]
	s.Pools = []*model.Pool{{ID: "pool", X: 2000, Y: 2000, W: 150000,
		Lanes:  []model.Lane{{ID: "l1", Name: "Desk", H: 20000}, {ID: "l2", Name: "Crew", H: 20000}},
		Stages: []model.Stage{{ID: "st1", Name: "Before", L: 75000}, {ID: "st2", Name: "After", L: 75000}}}}
	for i, id := range []string{"start", "a", "b", "c", "d", "yes", "no"} {
		kind, lane := model.Process, i%2
		switch id {
		case "start":
			kind = model.Terminator
		case "d":
			kind = model.Decision
		}
		s.Symbols = append(s.Symbols, &model.Symbol{ID: id, Kind: kind, Text: "Step " + id,
			Box: geometry.Box{X: 8000 + i*20000, Y: 8000 + lane*20000, W: 12000, H: 8000}})
	}
	for _, pair := range []string{"start a", "a b", "b c", "c d", "d yes", "d no"} {
		from, to, _ := strings.Cut(pair, " ")
		c := &model.Connector{ID: from + to, From: model.End{Symbol: from}, To: model.End{Symbol: to}}
		if from == "d" {
			c.Text = strings.ToUpper(to[:1]) + to[1:]
		}
		s.Connectors = append(s.Connectors, c)
	}
	m.Fields = []model.Field{{ID: "time", Name: "Time", Type: values.Duration}}
	return m
}

func work(m *model.Map) *compose.Work {
	n := 0
	return &compose.Work{Map: m, Sheet: m.Sheets[0], NewID: func() string { n++; return fmt.Sprint("new-", n) }}
}

func bytesOf(t *testing.T, m *model.Map) string {
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
		drawn            func(w *compose.Work, sym *model.Symbol) edit.Edit
	}{
		{"a", register.Text, "Look up the pole number in the asset register, and the one beside it",
			func(w *compose.Work, sym *model.Symbol) edit.Edit {
				e, _ := w.Write(sym, "Look up the pole number in the asset register, and the one beside it")
				return e
			}},
		{"a", register.Text, "Known?", func(w *compose.Work, sym *model.Symbol) edit.Edit {
			e, _ := w.Write(sym, "Known?")
			return e
		}},
		{"b", register.Kind, "decision", func(w *compose.Work, sym *model.Symbol) edit.Edit {
			return w.ChangeKind([]*model.Symbol{sym}, model.Decision)
		}},
		{"b", register.Who, "Crew", func(w *compose.Work, sym *model.Symbol) edit.Edit {
			e, err := w.SetOwner([]*model.Symbol{sym}, "Crew")
			if err != nil {
				t.Fatal(err)
			}
			return e
		}},
		{"c", register.Number, "9", func(w *compose.Work, sym *model.Symbol) edit.Edit {
			return &edit.SetNumber{Sheet: "sheet-1", IDs: []string{"c"}, Pinned: new("9")}
		}},
		{"c", "time", "1 h 30 min", func(w *compose.Work, sym *model.Symbol) edit.Edit {
			return &edit.SetValue{Sheet: "sheet-1", ID: "c", Field: "time", Text: "1 h 30 min"}
		}},
	} {
		one, other := lanes(), lanes()
		change, err := work(one).Cell(one.Sheets[0].Symbol(c.id), c.column, c.text, nil)
		if err != nil {
			t.Fatalf("%s: %v", c.column, err)
		}
		drawn := c.drawn(work(other), other.Sheets[0].Symbol(c.id))
		for m, e := range map[*model.Map]edit.Edit{one: change, other: drawn} {
			if _, err := edit.Apply(m, e); err != nil {
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
		if again, err := work(one).Cell(one.Sheets[0].Symbol(c.id), c.column, c.text, nil); err != nil || again != nil {
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
		e, err := work(m).Next(s.Symbol(c.id), c.text, nil)
		if unknown := (*compose.Unknown)(nil); errors.As(err, &unknown) { // it is asked for first
			if e != nil {
				t.Errorf("%q is led to unasked", unknown.Name)
			}
			e, err = work(m).Next(s.Symbol(c.id), c.text, compose.Meanings{unknown.Name: ""})
		}
		if c.refused != "" {
			if err == nil || !strings.Contains(err.Error(), c.refused) {
				t.Errorf("%s leads to %q: %v", c.id, c.text, err)
			}
			continue
		}
		if err != nil {
			t.Fatalf("%s leads to %q: %v", c.id, c.text, err)
		}
		if _, err := edit.Apply(m, e); err != nil {
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
	change, err := work(m).Next(m.Sheets[0].Symbol("d"), "Yes > 1; No > 6", nil)
	if err != nil {
		t.Fatal(err)
	}
	if _, err := edit.Apply(m, change); err != nil {
		t.Fatal(err)
	}
	if c := m.Sheets[0].Connector("dyes"); c == nil || c.To.Symbol != "a" || c.Text != "Yes" {
		t.Errorf("the connector is %+v", c)
	}
}

// A name that no step has is asked about, with the steps that may have been meant; nothing changes until it is
// answered.
func TestASlipInNextIsAskedAbout(t *testing.T) {
	for _, c := range []struct{ text, name, near string }{
		{"Stp d", "Stp d", "4 Step d"}, {"Yes > Step yess", "Step yess", "5 Step yes"},
		{"step n", "step n", "6 Step no"},
		{"Ask the neighbours", "Ask the neighbours", ""}, {"Step start here", "Step start here", "Step start"},
	} {
		m := lanes()
		before := bytesOf(t, m)
		e, err := work(m).Cell(m.Sheets[0].Symbol("c"), register.Next, c.text, nil)
		unknown := (*compose.Unknown)(nil)
		if !errors.As(err, &unknown) || e != nil || unknown.Name != c.name || bytesOf(t, m) != before {
			t.Errorf("%q: %v, %v", c.text, e, err)
			continue
		}
		near := ""
		if len(unknown.Near) > 0 {
			near = strings.TrimSpace(unknown.Near[0].Name + " " + unknown.Near[0].Text)
			if unknown.Near[0].Name == unknown.Near[0].Text {
				near = unknown.Near[0].Text
			}
		}
		if near != c.near {
			t.Errorf("%q: near are %v", c.text, unknown.Near)
		}
		if _, wrong := work(m).Cells([]compose.CellText{{ID: "c", Column: register.Next, Text: c.text,
			Names: compose.Meanings{c.name: ""}}}, "write"); len(wrong) > 0 {
			t.Errorf("%q is not made: %v", c.text, wrong)
		}
		if len(unknown.Near) == 0 {
			continue
		}
		e, err = work(m).Cell(m.Sheets[0].Symbol("c"), register.Next, c.text,
			compose.Meanings{c.name: unknown.Near[0].Name})
		if err == nil && e != nil {
			_, err = edit.Apply(m, e)
		}
		if err != nil || len(m.Sheets[0].Symbols) != 7 {
			t.Errorf("%q, meant as %q: %v", c.text, unknown.Near[0].Name, err)
		}
	}
}

// table is the register of a map as a file has it.
func table(m *model.Map) compose.Sheet {
	t := register.Of(flow.New(m))
	var head []string
	for _, c := range t.Columns {
		head = append(head, c.Title)
	}
	rows := [][]string{append(head, model.IDTitle)}
	for _, r := range t.Rows {
		rows = append(rows, append(slices.Clone(r.Cells), r.ID))
	}
	return compose.Sheet{Rows: rows}
}

// ways are the connectors of a map, by the texts they lead between.
func ways(m *model.Map) map[string]bool {
	out := map[string]bool{}
	for _, l := range flow.Links(m.Sheets[0]) {
		if l.From != nil && l.To != nil {
			out[l.From.Text+" > "+l.To.Text] = true
		}
	}
	return out
}

// Lines that are added to a table become steps where the table has them; of the connectors only those change that the
// plan tells of, no loop is cut, and a number in the file goes on meaning the step that had it.
func TestAddedLinesStandWhereTheTableHasThem(t *testing.T) {
	for _, loop := range []bool{false, true} {
		for at := 1; at <= 7; at++ {
			for _, many := range []int{1, 2} {
				m := lanes()
				s := m.Sheets[0]
				if loop {
					s.Connectors = append(s.Connectors, &model.Connector{ID: "back", From: model.End{Symbol: "no"},
						To: model.End{Symbol: "a"}})
				}
				had := ways(m)
				file := table(m)
				step, id := slices.Index(file.Rows[0], model.StepTitle), slices.Index(file.Rows[0], model.IDTitle)
				next := slices.Index(file.Rows[0], model.NextTitle)
				for n := range many {
					line := slices.Repeat([]string{""}, len(file.Rows[0]))
					line[step] = fmt.Sprintf("Added %d", n+1)
					file.Rows = slices.Insert(file.Rows, at+n, line)
				}
				if last := file.Rows[len(file.Rows)-1]; !loop && at < 7 && last[id] != "" {
					last[next] = "2" // by the number that a step has in the file
				}
				var want []string
				for _, r := range file.Rows[1:] {
					want = append(want, r[step])
				}
				w := work(m)
				p := w.ReadBack(file)
				told := ""
				for _, one := range p.Changes {
					if one.Why != "" {
						t.Errorf("at %d: %+v", at, one)
					}
					told += one.Also + "; "
				}
				e, wrong := w.TakeBack(p.Changes)
				if len(wrong) > 0 {
					t.Fatalf("at %d: %v", at, wrong)
				}
				if _, err := edit.Apply(m, e); err != nil {
					t.Fatalf("at %d: %v", at, err)
				}
				var got []string
				for _, r := range table(m).Rows[1:] {
					got = append(got, r[step])
				}
				if !slices.Equal(got, want) {
					t.Errorf("loop %v, %d lines at %d: the register is %q, the table %q", loop, many, at, got, want)
				}
				now := ways(m)
				for way := range had {
					from, to, _ := strings.Cut(way, " > ")
					if !now[way] && !strings.Contains(told, "no longer to") {
						t.Errorf("at %d: %s > %s is cut and nothing told: %s", at, from, to, told)
					}
				}
				if loop && !now["Step no > Step a"] {
					t.Errorf("at %d the loop is cut", at)
				}
				if at < 7 && !now["Step no > Step b"] && !loop {
					t.Errorf("at %d the number in Next means another step: %v", at, now)
				}
			}
		}
	}
}

func TestIntoStage(t *testing.T) {
	m := lanes()
	s := m.Sheets[0]
	e, err := work(m).Cell(s.Symbol("a"), register.Stage, "after", nil)
	if err != nil {
		t.Fatal(err)
	}
	if _, err := edit.Apply(m, e); err != nil {
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
	if _, err := work(m).Cell(s.Symbol("a"), register.Stage, "Never", nil); err == nil {
		t.Error("there is any stage")
	}
}

// A step changes places with others on its stretch: the connectors stay, in their order, each step keeps its lane, and
// putting it back gives the same map. Across a branch it is refused.
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
		e, err := work(m).Reorder(s.Symbol(ids[from]), s.Symbol(ids[to]), front)
		if err != nil {
			t.Fatal(err)
		}
		if e == nil {
			continue
		}
		back, err := edit.Apply(m, e)
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
		if _, err := edit.Apply(m, back); err != nil || bytesOf(t, m) != before {
			t.Fatal("it cannot be taken back")
		}
	}
	m := lanes()
	s := m.Sheets[0]
	for _, pair := range [][2]string{{"a", "yes"}, {"a", "d"}, {"start", "a"}, {"yes", "no"}} {
		if _, err := work(m).Reorder(s.Symbol(pair[0]), s.Symbol(pair[1]), false); err == nil ||
			!strings.Contains(err.Error(), "not across a branch") {
			t.Errorf("%v: %v", pair, err)
		}
	}
}

// A step that is deleted leads those before it to the one after it; the data it uses and the document it makes lead
// nowhere else.
func TestTheGapClosesWithoutWhatIsUsed(t *testing.T) {
	m := lanes()
	s := m.Sheets[0]
	s.Symbols = append(s.Symbols, &model.Symbol{ID: "data", Kind: model.StoredData,
		Box: geometry.Box{X: 8000, Y: 60000, W: 12000, H: 8000}},
		&model.Symbol{ID: "doc", Kind: model.Document, Box: geometry.Box{X: 28000, Y: 60000, W: 12000, H: 8000}})
	for _, pair := range [][2]string{{"data", "b"}, {"b", "doc"}} {
		s.Connectors = append(s.Connectors, &model.Connector{ID: pair[0] + pair[1], From: model.End{Symbol: pair[0]},
			To: model.End{Symbol: pair[1]}})
	}
	if _, err := edit.Apply(m, edit.Together("delete", append(work(m).GapEdits("b"),
		&edit.RemoveItems{Sheet: s.ID, IDs: []string{"b"}})...)); err != nil {
		t.Fatal(err)
	}
	if c := s.Connector("ab"); c == nil || c.To.Symbol != "c" || s.Connector("datab") != nil ||
		s.Connector("bdoc") != nil || len(s.Connectors) != 5 {
		t.Errorf("%+v of %d connectors", c, len(s.Connectors))
	}
}
