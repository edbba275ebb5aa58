package exchange_test

import (
	"fmt"
	"math/rand"
	"slices"
	"testing"

	"plaintracer/core/compose"
	"plaintracer/core/edit"
	"plaintracer/core/geometry"
	"plaintracer/core/model"
	"plaintracer/core/pictures"
	"plaintracer/exchange/registerfile"
)

// crew is a map with a hierarchy that was made up: several people of one name, posts that nobody holds, assistants.
func crew(t *testing.T, r *rand.Rand) *model.Map {
	t.Helper()
	m := model.New("Crew", model.Rightwards, "A4", true)
	m.Fields = []model.Field{{ID: "f-town", Name: "Town", Type: "text"}}
	s := model.Sheet{SheetHead: model.SheetHead{ID: "chart", Name: "Crew", Paper: "A4", Kind: model.HierarchySheet},
		Pools: []*model.Pool{}, Symbols: []*model.Symbol{}, Connectors: []*model.Connector{}}
	names := []string{"Pia Holm", "Leo Falk", "=SUM(A1)", "Ada, \"Q\"", "Jörg Öst", "Runa"}
	for i := range 2 + r.Intn(20) {
		sym := &model.Symbol{ID: fmt.Sprint("c", i), Kind: model.PersonCard, Box: geometry.Box{W: 18000, H: 5600},
			Text: names[r.Intn(len(names))] + "\nFitter", Seat: model.Seat{Rank: i * model.RankStep}}
		if i > 0 {
			sym.Under = fmt.Sprint("c", r.Intn(i))
			sym.Assistant = r.Intn(5) == 0
		}
		switch r.Intn(6) {
		case 0:
			sym.Kind, sym.Text = model.TeamCard, "Crew\nEmil\nVera"
		case 1:
			sym.Post, sym.Text = model.Vacant, fmt.Sprint("Post ", i)
		case 2:
			sym.Values = []model.Value{{ID: "f-town", Text: "Nordby"}}
		}
		s.Symbols = append(s.Symbols, sym)
	}
	m.Sheets = append(m.Sheets, &s)
	m.SettleAll()
	if err := m.Validate(); err != nil {
		t.Fatal(err)
	}
	return m
}

// told lists the cards of a hierarchy as they stand: what each says, and who is above it.
func told(s *model.Sheet) (list []string) {
	tree := s.Tree()
	for _, c := range tree.Order() {
		up := ""
		if over := tree.Superior(c.ID); over != nil {
			up = over.Text
		}
		list = append(list, fmt.Sprintf("%d %q %s %v %v under %q", tree.Level[tree.Place(c.ID)], c.Text, c.Kind, c.Post,
			c.Assistant, up))
	}
	return list
}

// A table of people that was written can be read again: into its own hierarchy it brings nothing new, and a map made of
// it has the same one.
func TestPeopleGoOutAndInTheSame(t *testing.T) {
	for seed := range 40 {
		m := crew(t, rand.New(rand.NewSource(int64(seed))))
		for _, format := range []string{"people-csv", "register-xlsx"} {
			file := made(t, m, format).Data
			name := "people.csv"
			if format == "register-xlsx" {
				name = "people.xlsx"
			}
			table, err := registerfile.Read(name, file, &model.Head{})
			if err != nil {
				t.Fatal(err)
			}
			w := &compose.Work{Map: m, Sheet: m.Sheet("chart"), NewID: func() string { return "new" }}
			p := w.ReadPeople(*table, nil)
			if all := slices.Concat(p.Came, p.Left, p.Moved, p.Changed); p.Refusal != "" || len(all) > 0 {
				t.Fatalf("seed %d, %s: read into its own hierarchy: %q %q, wrong: %q", seed, format, p.Refusal, all,
					p.Wrong)
			}
			other, err := compose.PeopleMap(*table, "Again")
			if err != nil {
				t.Fatal(err)
			}
			if was, is := told(m.Sheet("chart")), told(other.Sheets[0]); !slices.Equal(was, is) {
				t.Fatalf("seed %d, %s:\n%q\nbecame\n%q", seed, format, was, is)
			}
		}
	}
}

// A newer table: who came, left and moved is said before, and then done; whoever stays keeps the place.
func TestANewerTableBringsAHierarchyUpToDate(t *testing.T) {
	rows := func(list ...[]string) compose.Sheet {
		return compose.Sheet{Rows: append([][]string{{"Personnel number", "Full name", "Job title", "Manager", "Site"}},
			list...)}
	}
	m, err := compose.PeopleMap(rows([]string{"1", "Mara Lind", "Head", "", "Nordby"},
		[]string{"2", "Pia Holm", "Clerk", "1", "Nordby"}, []string{"3", "Leo Falk", "Driver", "2", "Sund"},
		[]string{"4", "Ada Quist", "Clerk", "Mara Lind", "Sund"}), "Crew")
	if err != nil {
		t.Fatal(err)
	}
	s := m.Sheets[0]
	n := 0
	w := &compose.Work{Map: m, Sheet: s, NewID: func() string { n++; return fmt.Sprint("n", n) }}
	newer := rows([]string{"1", "Mara Lind", "Head of lighting", "", "Nordby"},
		[]string{"3", "Leo Falk", "Driver", "4", "Sund"},
		[]string{"4", "Ada Quist", "Clerk", "1", "Sund"}, []string{"5", "Emil Storm", "Fitter", "4", "Nordby"})
	p := w.ReadPeople(newer, nil)
	for what, pair := range map[string][2][]string{"came": {p.Came, {"Emil Storm"}}, "left": {p.Left, {"Pia Holm"}},
		"moved":   {p.Moved, {"Leo Falk to Ada Quist"}},
		"changed": {p.Changed, {"Mara Lind: text"}}} {
		if !slices.Equal(pair[0], pair[1]) {
			t.Errorf("%s: %q, want %q", what, pair[0], pair[1])
		}
	}
	e, _, err := w.TakePeople(newer, nil, nil)
	if err != nil {
		t.Fatal(err)
	}
	if _, err := edit.Apply(m, e); err != nil {
		t.Fatal(err)
	}
	want := []string{`0 "Mara Lind\nHead of lighting" person-card  false under ""`,
		`1 "Ada Quist\nClerk" person-card  false under "Mara Lind\nHead of lighting"`,
		`2 "Leo Falk\nDriver" person-card  false under "Ada Quist\nClerk"`,
		`2 "Emil Storm\nFitter" person-card  false under "Ada Quist\nClerk"`}
	if got := told(s); !slices.Equal(got, want) {
		t.Errorf("%q, want %q", got, want)
	}
	if _, _, err := w.TakePeople(newer, nil, nil); err == nil {
		t.Error("the same table has something new again")
	}
}

// What is wrong with a table is said by its rows, and what becomes of it.
func TestWhatIsWrongWithATableOfPeopleIsSaid(t *testing.T) {
	table := compose.Sheet{Rows: [][]string{{"Name", "Reports to", "Role"}, {"Ada", "", "Head"},
		{"Bo", "", "Head, too"},
		{"Cia", "Dan", ""}, {"Dan", "Cia", ""}, {"Eva", "Nobody", ""}, {"Finn", "Finn", ""}, {"Gro", "Ada", ""},
		{"Gro", "Bo", ""}, {"Hal", "Gro", ""}, {"", "", ""}}}
	w := &compose.Work{Map: model.New("x", model.Rightwards, "A4", true)}
	w.Sheet = w.Map.Sheets[0]
	p := w.ReadPeople(table, nil)
	want := []string{
		"Row 6: Eva reports to “Nobody”, who is not in the table; it stands at the head.",
		"Row 7: Finn reports to itself; it stands at the head.",
		"Row 10: Hal reports to “Gro”, a name that stands in the rows 8 and 9; it is set under the first of them.",
		"The name “Gro” stands in the rows 8 and 9; each of them gets a card.",
		"The rows 4 and 5 report to each other in a circle; row 4, Cia, stands at the head.",
		"The rows 2, 3, 4, 6 and 7 have no superior; their cards stand beside each other at the head.",
	}
	if !slices.Equal(p.Wrong, want) {
		t.Errorf("%q, want %q", p.Wrong, want)
	}
	if p.People != 9 || p.Heads != 5 {
		t.Errorf("%d people, %d heads", p.People, p.Heads)
	}
}

// A table that names picture files: the cards show them.
func TestATableNamesPictures(t *testing.T) {
	face, err := pictures.Read([]byte(`<svg xmlns="http://www.w3.org/2000/svg" width="10" height="10"><path d="M0 0h10v10z"/></svg>`))
	if err != nil {
		t.Fatal(err)
	}
	n := 0
	w := &compose.Work{Map: model.New("x", model.Rightwards, "A4", true),
		NewID: func() string { n++; return fmt.Sprint("n", n) }}
	w.Sheet = w.Map.Sheets[0]
	table := compose.Sheet{Rows: [][]string{{"Name", "Reports to", "Photo"}, {"Ada", "", "ADA.svg"},
		{"Bo", "Ada", "bo.svg"}}}
	e, sheet, err := w.TakePeople(table, nil, compose.Portraits{"ada.svg": face})
	if err != nil {
		t.Fatal(err)
	}
	if _, err := edit.Apply(w.Map, e); err != nil {
		t.Fatal(err)
	}
	list := w.Map.Sheet(sheet).Tree().Order()
	if list[0].Picture != face.ID || list[1].Picture != "" || w.Map.Picture(face.ID) == nil {
		t.Errorf("%q and %q show pictures of %d", list[0].Picture, list[1].Picture, len(w.Map.Pictures))
	}
}

// The first column the map does not know goes behind the fields it has, whether or not the table brings pictures too.
func TestATableBringsPicturesAndFields(t *testing.T) {
	face, err := pictures.Read([]byte(`<svg xmlns="http://www.w3.org/2000/svg" width="10" height="10"><path d="M0 0h10v10z"/></svg>`))
	if err != nil {
		t.Fatal(err)
	}
	n := 0
	w := &compose.Work{Map: model.New("x", model.Rightwards, "A4", true),
		NewID: func() string { n++; return fmt.Sprint("n", n) }}
	w.Sheet = w.Map.Sheets[0]
	before := len(w.Map.Fields)
	table := compose.Sheet{Rows: [][]string{{"Name", "Reports to", "Photo", "Town", "Desk"},
		{"Ada", "", "ada.svg", "Norhaven", "4"}}}
	e, sheet, err := w.TakePeople(table, nil, compose.Portraits{"ada.svg": face})
	if err != nil {
		t.Fatal(err)
	}
	if _, err := edit.Apply(w.Map, e); err != nil {
		t.Fatal(err)
	}
	card := w.Map.Sheet(sheet).Tree().Order()[0]
	var names []string
	for _, f := range w.Map.Fields[before:] {
		names = append(names, f.Name+" "+card.Value(f.ID))
	}
	if !slices.Equal(names, []string{"Town Norhaven", "Desk 4"}) || card.Picture != face.ID {
		t.Errorf("the map has the fields %q, the card the picture %q", names, card.Picture)
	}
}

// A list whose indentation is the level.
func TestAListBecomesAHierarchy(t *testing.T) {
	file, ok := compose.ListTable("Mara Lind, Head\n\tPia Holm, Clerk\n\t\t- Leo Falk\n  Ada Quist\n")
	if !ok {
		t.Fatal("it is no list")
	}
	m, err := compose.PeopleMap(file, "List")
	if err != nil {
		t.Fatal(err)
	}
	want := []string{`0 "Mara Lind\nHead" person-card  false under ""`,
		`1 "Pia Holm\nClerk" person-card  false under "Mara Lind\nHead"`,
		`2 "Leo Falk" person-card  false under "Pia Holm\nClerk"`,
		`1 "Ada Quist" person-card  false under "Mara Lind\nHead"`}
	if got := told(m.Sheets[0]); !slices.Equal(got, want) {
		t.Errorf("%q, want %q", got, want)
	}
	if _, ok := compose.ListTable("Name\tRole\nAda\tHead"); ok {
		t.Error("a table is taken for a list")
	}
}

// A chart of 1,000 people as PDF. Target: 1 s.
func BenchmarkPDFOf1000Cards(b *testing.B) {
	rows := [][]string{{"Id", "Name", "Role", "Reports to"}}
	for i := range 1000 {
		up := ""
		if i > 0 {
			up = fmt.Sprint((i - 1) / 5)
		}
		rows = append(rows, []string{fmt.Sprint(i), fmt.Sprint("Person ", i), "Fitter", up})
	}
	m, err := compose.PeopleMap(compose.Sheet{Rows: rows}, "Staff")
	if err != nil {
		b.Fatal(err)
	}
	benchmark(b, m, "pdf")
}
