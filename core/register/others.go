package register

import (
	"cmp"
	"slices"

	"plaintracer/core/flow"
	"plaintracer/core/model"
	"plaintracer/core/symbols"
	"plaintracer/core/values"
)

// Columns of registers of cards and of journeys.
const (
	Under   = "under"
	Journey = "journey"
	InRow   = "row"
)

// onSheet is why nothing is written into some columns.
const onSheet = "This follows from where it stands; change that on its sheet."

// Subject is what the rows of a register are.
type Subject struct {
	Name string `json:"name"`
	// Title names them, One and Many count them.
	Title string `json:"title"`
	One   string `json:"one"`
	Many  string `json:"many"`
	// Adds says why no row is added, moved or deleted in the table; empty where one can be.
	Adds string `json:"adds"`
	of   func(m *model.Map) *Table
	has  func(m *model.Map) bool
}

// subjects are all there are, but for the steps.
var subjects = []Subject{
	{"cards", "Cards", "card", "cards", "Cards are added, moved and deleted on their sheet.", cards,
		func(m *model.Map) bool { return hasSheet(m, model.HierarchySheet) }},
	{"moments", "Journeys", "text", "texts",
		"What stands in a journey is added, moved and deleted on its sheet.", moments,
		func(m *model.Map) bool { return hasSheet(m, model.JourneySheet) }},
}

func hasSheet(m *model.Map, kind model.SheetKind) bool {
	return slices.ContainsFunc(m.Sheets, func(s *model.Sheet) bool { return s.Kind == kind })
}

// Subjects lists what registers of a map can be of: its steps, and its cards and journeys where it has such.
func Subjects(m *model.Map) []Subject {
	list := []Subject{{Title: "Steps", One: "step", Many: "steps"}}
	for _, s := range subjects {
		if s.has(m) {
			list = append(list, s)
		}
	}
	return list
}

// OfSubject returns the register of what has a name; of the steps where nothing has it, or it is empty.
func OfSubject(g *flow.Graph, name string) *Table {
	for _, s := range subjects {
		if s.Name == name && s.has(g.Map()) {
			return s.of(g.Map())
		}
	}
	return Of(g)
}

// listed is a register under way, whose columns begin with some and end with the fields of the map.
func listed(m *model.Map, first []Column) *Table {
	all := Columns(m)
	return &Table{Columns: append(first, all[len(all)-len(m.Fields):]...), Rows: []Row{}}
}

// add adds a row with what stands in its first columns.
func (t *Table) add(m *model.Map, s *model.Sheet, sym *model.Symbol, first ...string) {
	r := Row{ID: sym.ID, Sheet: s.ID, Cells: first, keys: slices.Clone(first)}
	for i := range m.Fields {
		f := &m.Fields[i]
		r.keys = append(r.keys, sym.Value(f.ID))
		r.Cells = append(r.Cells, m.Show(f, sym))
	}
	t.Rows = append(t.Rows, r)
}

// cards lists the cards of hierarchies, superiors before those under them.
func cards(m *model.Map) *Table {
	var kinds []string
	for _, k := range model.Kinds {
		if k.IsSeat() {
			kinds = append(kinds, symbols.Of(k).Name)
		}
	}
	t := listed(m, []Column{
		{ID: Number, Title: model.NumberTitle, Type: values.Text, Fixed: true, Why: onSheet},
		{ID: Text, Title: "Name and role", Type: values.Long},
		{ID: Kind, Title: model.KindTitle, Type: values.Choice, Choices: kinds},
		{ID: Under, Title: "Reports to", Type: values.Text, Fixed: true, Why: onSheet},
	})
	for _, s := range m.Sheets {
		tree := s.Tree()
		for _, c := range tree.Order() {
			up := ""
			if over := tree.Superior(c.ID); over != nil {
				up = over.CardTitle()
			}
			t.add(m, s, c, tree.Seen(c.ID).Number, c.Text, symbols.Of(c.Kind).Name, up)
		}
	}
	return t
}

// moments lists what stands in the cells of journeys, stage by stage.
func moments(m *model.Map) *Table {
	t := listed(m, []Column{
		{ID: Journey, Title: "Journey", Type: values.Text, Fixed: true, Why: onSheet},
		{ID: Stage, Title: model.StageTitle, Type: values.Text, Fixed: true, Why: onSheet},
		{ID: InRow, Title: "Row", Type: values.Text, Fixed: true, Why: onSheet},
		{ID: Text, Title: "Text", Type: values.Long},
		{ID: Who, Title: model.WhoTitle, Type: values.Person, Choices: m.Owners()},
	})
	for _, s := range m.Sheets {
		for _, p := range s.Pools {
			if !p.Journey {
				continue
			}
			for _, c := range s.Cells(p) {
				t.add(m, s, c, cmp.Or(model.Flat(p.Title), s.Name), model.Flat(s.StageOf(c).Name), s.LaneOf(c).Called(),
					c.Text, c.Owner)
			}
		}
	}
	return t
}
