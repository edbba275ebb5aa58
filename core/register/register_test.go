package register_test

import (
	"fmt"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"

	"plaintracer/core/edit"
	"plaintracer/core/flow"
	"plaintracer/core/geometry"
	"plaintracer/core/model"
	"plaintracer/core/register"
	"plaintracer/core/values"
)

// lamp is a map of some steps in lanes, with fields of its own.
func lamp(t testing.TB) *model.Map {
	m := model.New("A street light is out", model.Rightwards, "A3", true)
	s := m.Sheets[0]
	s.Pools = []*model.Pool{{ID: "pool", X: 0, Y: 0, W: 140000,
		Lanes:  []model.Lane{{ID: "l1", Name: "Service desk", H: 15000}, {ID: "l2", Name: "Field crew", H: 15000}},
		Stages: []model.Stage{{ID: "st1", Name: "Report", L: 60000}, {ID: "st2", Name: "Repair", L: 80000}}}}
	add := func(id string, kind model.Kind, text string, x, y int) {
		s.Symbols = append(s.Symbols, &model.Symbol{ID: id, Kind: kind, Text: text,
			Box: geometry.Box{X: x * 100, Y: y * 100, W: 12000, H: 6000}})
	}
	add("start", model.Terminator, "A light is out", 100, 40)
	add("log", model.Process, "Log the report", 300, 40)
	add("known", model.Decision, "Reported before?", 450, 40)
	add("date", model.Process, "Give the date", 700, 40)
	add("mend", model.Process, "Change the lamp", 700, 200)
	add("order", model.Document, "Work order", 900, 200)
	add("end", model.Terminator, "It burns", 1100, 40)
	link := func(from, to, text string) {
		s.Connectors = append(s.Connectors, &model.Connector{ID: from + "-" + to, From: model.End{Symbol: from},
			To: model.End{Symbol: to}, Text: text})
	}
	link("start", "log", "")
	link("log", "known", "")
	link("known", "date", "Yes")
	link("known", "mend", "No")
	link("date", "end", "")
	link("mend", "end", "")
	link("mend", "order", "")
	for i, f := range []model.Field{{ID: "time", Name: "Time", Type: values.Duration},
		{ID: "cost", Name: "Cost", Type: values.Money}, {ID: "system", Name: "System", Type: values.Choice,
			Choices: []string{"Desk tool", "Asset register"}}} {
		if _, err := edit.Apply(m, &edit.AddField{Field: f, At: i}); err != nil {
			t.Fatal(err)
		}
	}
	m.Currency = "EUR"
	for _, v := range [][3]string{{"log", "time", "5 min"}, {"known", "time", "2 min"}, {"mend", "time", "1.5 h"},
		{"mend", "cost", "84.50"}, {"date", "cost", "0.5"}, {"log", "system", "desk tool"}} {
		if _, err := edit.Apply(m, &edit.SetValue{Sheet: s.ID, ID: v[0], Field: v[1], Text: v[2]}); err != nil {
			t.Fatal(err)
		}
	}
	return m
}

func lines(rows []register.Row) string {
	var out []string
	for _, r := range rows {
		out = append(out, strings.Join(r.Cells, "|"))
	}
	return strings.Join(out, "\n")
}

func TestTheRegister(t *testing.T) {
	got := lines(register.Of(flow.New(lamp(t))).Rows)
	want := `1|Log the report|Process|Service desk|Report|2|A light is out||5 min||Desk tool
2|Reported before?|Decision|Service desk|Report|Yes > 3; No > 4|1||2 min||
3|Give the date|Process|Service desk|Repair|It burns|2|||0.50 EUR|
4|Change the lamp|Process|Field crew|Repair|It burns|2|Work order|1 h 30 min|84.50 EUR|`
	if got != want {
		t.Errorf("the register is\n%s\nnot\n%s", got, want)
	}
}

func TestAsking(t *testing.T) {
	m := lamp(t)
	ask := func(q register.Query) *register.Answer { return register.Of(flow.New(m)).Ask(q, m.Measures()) }
	for _, c := range []struct {
		q    register.Query
		want string
	}{
		{register.Query{}, "log known date mend"},
		{register.Query{Sort: "time"}, "known log mend date"},
		{register.Query{Sort: "time", Down: true}, "mend log known date"},
		{register.Query{Sort: "system"}, "log known date mend"},
		{register.Query{Sort: register.Number, Down: true}, "mend date known log"},
		{register.Query{Search: "LAMP"}, "mend"},
		{register.Query{Filters: map[string]string{"time": "> 4 min"}}, "log mend"},
		{register.Query{Filters: map[string]string{"time": ">= 1.5 h", register.Who: "crew"}}, "mend"},
		{register.Query{Filters: map[string]string{"time": "empty"}}, "date"},
		{register.Query{Filters: map[string]string{"cost": "not empty"}}, "date mend"},
		{register.Query{Filters: map[string]string{register.Who: "= service desk"}}, "log known date"},
		{register.Query{Filters: map[string]string{register.Number: "> 2"}}, "date mend"},
		{register.Query{Filters: map[string]string{"system": "<> Desk tool"}}, "known date mend"},
	} {
		var ids []string
		for _, r := range ask(c.q).Rows {
			ids = append(ids, r.ID)
		}
		if got := strings.Join(ids, " "); got != c.want {
			t.Errorf("%+v: %s, not %s", c.q, got, c.want)
		}
	}
	if a := ask(register.Query{Filters: map[string]string{"time": "> soon"}}); a.Wrong["time"] == "" ||
		len(a.Rows) != 4 {
		t.Errorf("a filter that cannot be read: %v, %d rows", a.Wrong, len(a.Rows))
	}
	a := ask(register.Query{By: register.Who})
	if got := fmt.Sprint(a.Sums); got != "[{time 3 1 h 37 min 32.33 min 2 min 1 h 30 min} {cost 2 85.00 EUR 42.50 EUR 0.50 EUR 84.50 EUR}]" {
		t.Error(got)
	}
	if len(a.Groups) != 2 || a.Groups[0].Name != "Service desk" || a.Groups[0].Rows != 3 ||
		a.Groups[1].Sums[0].Sum != "1 h 30 min" {
		t.Errorf("%+v", a.Groups)
	}
}

// Natural is an order, and has numbers rise.
func TestNatural(t *testing.T) {
	want := []string{"1", "2", "4", "4a1", "4a2", "4a10", "4b1", "9", "10", "A2", "A10", "B1", ""}
	got := slices.Clone(want)
	r := rand.New(rand.NewPCG(1, 1))
	for range 50 {
		r.Shuffle(len(got), func(i, j int) { got[i], got[j] = got[j], got[i] })
		slices.SortFunc(got, register.Natural)
		if !slices.Equal(got, want) {
			t.Fatal(got)
		}
	}
}

// large is a map of so many steps with ten fields.
func large(t testing.TB, steps int) *model.Map {
	m := model.New("Large", model.Rightwards, "A3", true)
	for i := range 10 {
		m.Fields = append(m.Fields, model.Field{ID: fmt.Sprint("f", i), Name: fmt.Sprint("Field ", i),
			Type: []values.Type{values.Text, values.Duration, values.Money, values.Decimal, values.Date}[i%5]})
	}
	s := m.Sheets[0]
	for i := range steps {
		sym := &model.Symbol{ID: fmt.Sprint("s", i), Kind: model.Process, Text: fmt.Sprint("Step ", i),
			Box: geometry.Box{X: i % 40 * 16000, Y: i / 40 * 12000, W: 12000, H: 6000}}
		for k, f := range m.Fields {
			sym.Values = append(sym.Values,
				model.Value{ID: f.ID, Text: []string{"Some text", "90", "12.5", "3.25", "2026-11-28"}[k%5]})
		}
		s.Symbols = append(s.Symbols, sym)
		if i > 0 {
			s.Connectors = append(s.Connectors, &model.Connector{ID: fmt.Sprint("c", i),
				From: model.End{Symbol: fmt.Sprint("s", i-1)}, To: model.End{Symbol: sym.ID}})
		}
	}
	return m
}

// The register of 1,000 steps with ten fields, sorted and filtered.
func BenchmarkRegister(b *testing.B) {
	m := large(b, 1000)
	for b.Loop() {
		a := register.Of(flow.New(m)).Ask(register.Query{Sort: "f1", Filters: map[string]string{"f3": "> 3"},
			By: register.Who}, values.Measures{Currency: "EUR"})
		if len(a.Rows) != 1000 {
			b.Fatal(len(a.Rows))
		}
	}
}

// Two states of a process on two sheets count alike, each with its own letter, and the table says on which sheet a row
// stands. What a step makes or uses has rows of its own, with values of its own.
func TestSheetsAndPapersInTheRegister(t *testing.T) {
	m := model.New("Lend", model.Rightwards, "A4", true)
	m.Fields = []model.Field{{ID: "f", Name: "Kept for", Type: values.Text}}
	build := func(s *model.Sheet, mark string) {
		add := func(id string, kind model.Kind, x int, text string) {
			s.Symbols = append(s.Symbols, &model.Symbol{ID: mark + id, Kind: kind, Text: text,
				Box: geometry.Box{X: x * geometry.Px, Y: 100 * geometry.Px, W: 100 * geometry.Px, H: 60 * geometry.Px}})
		}
		add("a", model.Process, 100, "Ask")
		add("d", model.Document, 250, "Form")
		add("b", model.Process, 400, "Lend")
		for i, l := range [][2]string{{"a", "d"}, {"d", "b"}, {"a", "b"}} {
			s.Connectors = append(s.Connectors, &model.Connector{ID: fmt.Sprint(mark, "c", i),
				From: model.End{Symbol: mark + l[0]},
				To:   model.End{Symbol: mark + l[1]}})
		}
	}
	build(m.Sheets[0], "x")
	if c := register.OfSubject(flow.New(m), "").Columns; slices.ContainsFunc(c,
		func(c register.Column) bool { return c.ID == "sheet" }) {
		t.Error("with one sheet there is a column for it")
	}
	m.Sheets[0].Name = "As it is"
	m.Sheets = append(m.Sheets, &model.Sheet{SheetHead: model.SheetHead{ID: "two", Name: "As it will be", Paper: "A4",
		Across: true}})
	build(m.Sheets[1], "y")
	m.Sheets[1].Symbols[1].Values = []model.Value{{ID: "f", Text: "two years"}}
	m.Numbering = model.Numbering{Scheme: model.BySheet}
	rows := func(subject string, columns ...string) string {
		table := register.OfSubject(flow.New(m), subject)
		var out []string
		for _, r := range table.Rows {
			if len(r.Cells) != len(table.Columns) {
				t.Fatalf("a row of %d cells under %d columns", len(r.Cells), len(table.Columns))
			}
			var cells []string
			for _, id := range columns {
				cells = append(cells, r.Cells[table.Column(id)])
			}
			out = append(out, strings.Join(cells, "/"))
		}
		return strings.Join(out, " ")
	}
	if got := rows("", "number", "text",
		"sheet"); got != "A1/Ask/As it is A2/Lend/As it is B1/Ask/As it will be B2/Lend/As it will be" {
		t.Errorf("the steps are %s", got)
	}
	if got := rows("papers", "text", "from", "next", "f"); got != "Form/A1/A2/ Form/B1/B2/two years" {
		t.Errorf("the documents are %s", got)
	}
}
