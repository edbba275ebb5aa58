package compose_test

import (
	"fmt"
	"slices"
	"testing"

	"plaintracer/core/compose"
	"plaintracer/core/edit"
	"plaintracer/core/handover"
	"plaintracer/core/model"
)

// crew is a map with a chart of seven people: 1 over 2 and 3, 2 over 4 and 5, 3 over 6, 6 over 7.
func crew(t *testing.T) *model.Map {
	t.Helper()
	m, err := compose.PeopleMap(compose.Sheet{Rows: [][]string{{"Id", "Name", "Reports to"}, {"1", "Mara", ""},
		{"2", "Pia", "1"}, {"3", "Leo", "1"}, {"4", "Ada", "2"}, {"5", "Bo", "2"}, {"6", "Eva", "3"},
		{"7", "Finn", "6"}}}, "Crew")
	if err != nil {
		t.Fatal(err)
	}
	return m
}

var made int // ids

func working(m *model.Map, s *model.Sheet) *compose.Work {
	return &compose.Work{Map: m, Sheet: s, NewID: func() string { made++; return fmt.Sprint("new", made) }}
}

// lines lists the cards of a chart as they stand, each with a dash for every level.
func lines(s *model.Sheet) (list []string) {
	tree := s.Tree()
	for _, c := range tree.Order() {
		line := ""
		for range tree.Level[tree.Place(c.ID)] {
			line += "-"
		}
		list = append(list, line+c.Text)
	}
	return list
}

func apply(t *testing.T, m *model.Map, e edit.Edit, err error) {
	t.Helper()
	if err != nil {
		t.Fatal(err)
	}
	if _, err := edit.Apply(m, e); err != nil {
		t.Fatal(err)
	}
	if err := m.Validate(); err != nil {
		t.Fatal(err)
	}
}

func TestABranchGetsASheetOfItsOwn(t *testing.T) {
	m := crew(t)
	s := m.Sheets[0]
	card := s.Symbol("p-3")
	e, err := working(m, s).CardSheet([]*model.Symbol{card})
	apply(t, m, e, err)
	if got, want := lines(s), []string{"Mara", "-Pia", "--Ada", "--Bo", "-Leo"}; !slices.Equal(got, want) {
		t.Errorf("%q stay, want %q", got, want)
	}
	next := m.Sheets[1]
	if got, want := lines(next), []string{"Leo", "-Eva", "--Finn"}; !slices.Equal(got, want) {
		t.Errorf("%q went, want %q", got, want)
	}
	if to := s.Symbol("p-3").Links; len(to) != 1 || to[0].To != "#"+next.ID {
		t.Errorf("the card leads to %v", to)
	}
	if to := next.Symbols[0].Links; len(to) != 1 || to[0].To != "#p-3" {
		t.Errorf("its copy leads to %v", to)
	}
	// And back, with what was added there.
	whole := []string{"Mara", "-Pia", "--Ada", "--Bo", "-Leo", "--Eva", "---Finn", "---Gus"}
	gus := model.Symbol{ID: "gus", Kind: model.PersonCard, Text: "Gus", Box: next.Symbols[0].Box}
	apply(t, m, edit.Together("", &edit.AddItems{Sheet: next.ID, Symbols: []model.Symbol{gus}},
		&edit.HangCards{Sheet: next.ID, IDs: []string{"gus"}, Under: "p-6"}), nil)
	if _, err := working(m, s).CardBack(s.Symbol("p-4")); err == nil {
		t.Error("a branch comes back that never left")
	}
	e, err = working(m, s).CardBack(s.Symbol("p-3"))
	apply(t, m, e, err)
	if got := lines(s); !slices.Equal(got, whole) || len(m.Sheets) != 1 || len(s.Symbol("p-3").Links) != 0 {
		t.Errorf("%q came back, want %q; %d sheets, links %v", got, whole, len(m.Sheets), s.Symbol("p-3").Links)
	}
}

// What is copied keeps who is under whom, and comes under the card that is selected.
func TestCopiedCardsComeUnderTheSelectedOne(t *testing.T) {
	m := crew(t)
	s := m.Sheets[0]
	w := working(m, s)
	w.Under = "p-4"
	clip := compose.Clip{Symbols: []model.Symbol{*s.Symbol("p-7"), *s.Symbol("p-6")}}
	e, ids := w.SetDown(clip, clip.Symbols[0].Corner(), "", "paste")
	apply(t, m, e, nil)
	want := []string{"Mara", "-Pia", "--Ada", "---Eva", "----Finn", "--Bo", "-Leo", "--Eva", "---Finn"}
	if got := lines(s); len(ids) != 2 || !slices.Equal(got, want) {
		t.Errorf("%q, want %q", got, want)
	}
	// A copy of what is selected comes beside it.
	w.Under = "p-6"
	e, _ = w.SetDown(clip, clip.Symbols[0].Corner(), "", "duplicate")
	apply(t, m, e, nil)
	if got := lines(s)[len(lines(s))-4:]; !slices.Equal(got, []string{"--Eva", "---Finn", "--Eva", "---Finn"}) {
		t.Errorf("duplicated: %q", got)
	}
	// On a sheet that shows a flow they stand under nobody.
	flow := model.Sheet{SheetHead: model.SheetHead{ID: "flow", Name: "Flow", Paper: "A4"}}
	apply(t, m, &edit.AddSheet{Sheet: flow}, nil)
	e, _ = working(m, m.Sheet("flow")).SetDown(clip, clip.Symbols[0].Corner(), "", "paste")
	apply(t, m, e, nil)
	for _, sym := range m.Sheet("flow").Symbols {
		if sym.Seat != (model.Seat{}) {
			t.Errorf("%s has the seat %v", sym.Text, sym.Seat)
		}
	}
}

func TestACopyOfASheetHasTheSameChart(t *testing.T) {
	m := crew(t)
	next := working(m, m.Sheets[0]).Renewed(m.Sheets[0], nil)
	apply(t, m, &edit.AddSheet{At: 1, Sheet: *next}, nil)
	if a, b := lines(m.Sheets[0]), lines(m.Sheets[1]); !slices.Equal(a, b) {
		t.Errorf("%q, want %q", b, a)
	}
}

// What goes out of a chart where only some cards are selected: each under the next of its superiors that goes, too.
func TestSelectedCardsGoOut(t *testing.T) {
	m := crew(t)
	part, err := handover.Part(m, handover.Scope{Sheet: m.Sheets[0].ID, IDs: []string{"p-1", "p-4", "p-7"}})
	if err != nil {
		t.Fatal(err)
	}
	if err := part.Validate(); err != nil {
		t.Fatal(err)
	}
	if got, want := lines(part.Sheets[0]), []string{"Mara", "-Ada", "-Finn"}; !slices.Equal(got, want) {
		t.Errorf("%q, want %q", got, want)
	}
}

// Whoever is on a card does the steps whose owner or lane bears the name or the role.
func TestActs(t *testing.T) {
	m := crew(t)
	s := &model.Sheet{SheetHead: model.SheetHead{ID: "flow", Name: "Flow", Paper: "A4"}}
	for i, owner := range []string{"Pia", "pia", "Leo", ""} {
		sym := &model.Symbol{ID: fmt.Sprint("s", i), Kind: model.Process, Text: fmt.Sprint("Step ", i), Owner: owner}
		sym.X, sym.W, sym.H = i*20000, 12000, 8000
		s.Symbols = append(s.Symbols, sym)
	}
	apply(t, m, &edit.AddSheet{Sheet: *s}, nil)
	if n := len(compose.Acts(m, m.Sheet("chart").Symbol("p-2"))); n != 2 {
		t.Errorf("Pia does %d steps", n)
	}
}
