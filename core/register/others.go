package register

import (
	"cmp"
	"slices"
	"strings"

	"plaintracer/core/flow"
	"plaintracer/core/model"
	"plaintracer/core/numbering"
	"plaintracer/core/symbols"
	"plaintracer/core/values"
)

// Columns of registers of cards and of journeys.
const (
	Under   = "under"
	Journey = "journey"
	InRow   = "row"
	InSheet = "sheet"
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
	of   func(g *flow.Graph) *Table
	has  func(m *model.Map) bool
}

// subjects are all there are, but for the steps.
var subjects = []Subject{
	{"papers", "Documents and data", "document", "documents",
		"Documents and data are added, moved and deleted on the drawing.", papers, func(m *model.Map) bool {
			return slices.ContainsFunc(m.Sheets, func(s *model.Sheet) bool {
				return s.Kind == model.FlowSheet && slices.ContainsFunc(s.Symbols, isPaper)
			})
		}},
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
			return s.of(g).bySheet(g.Map())
		}
	}
	return Of(g).bySheet(g.Map())
}

// bySheet adds the column that says on which sheet a row stands, where there are several.
func (t *Table) bySheet(m *model.Map) *Table {
	if len(m.Sheets) < 2 {
		return t
	}
	at := len(t.Columns) - len(m.Fields)
	t.Columns = slices.Insert(slices.Clone(t.Columns), at,
		Column{ID: InSheet, Title: model.SheetTitle, Type: values.Text, Fixed: true, Why: onSheet})
	for i := range t.Rows {
		r := &t.Rows[i]
		name := ""
		if s := m.Sheet(r.Sheet); s != nil {
			name = s.Name
		}
		r.Cells, r.keys = slices.Insert(slices.Clone(r.Cells), at, name), slices.Insert(slices.Clone(r.keys), at, name)
	}
	return t
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

func isPaper(sym *model.Symbol) bool { return sym.Kind.IsInformation() && !sym.Kind.IsStep() }

// papers lists the documents, data and stores of the flows, with the steps that make and use them.
func papers(g *flow.Graph) *Table {
	m := g.Map()
	t := listed(m, []Column{
		{ID: Number, Title: model.NumberTitle, Type: values.Text, Fixed: true, Why: onSheet},
		{ID: Text, Title: "Document or data", Type: values.Long},
		{ID: Kind, Title: model.KindTitle, Type: values.Text, Fixed: true, Why: onSheet},
		{ID: From, Title: "Made by", Type: values.Text, Fixed: true, Why: byConnectors},
		{ID: Next, Title: "Used by", Type: values.Text, Fixed: true, Why: byConnectors},
	})
	labels := numbering.Labels(g)
	for _, n := range numbering.Reading(g) {
		if !isPaper(n.Symbol) {
			continue
		}
		var made, used []string
		for _, e := range n.Entries {
			made = append(made, Name(e.From.Symbol, labels))
		}
		for _, e := range n.Exits {
			used = append(used, Name(e.To.Symbol, labels))
		}
		t.add(m, n.Sheet, n.Symbol, labels[n.Symbol.ID], n.Symbol.Text, symbols.Of(n.Symbol.Kind).Name,
			strings.Join(made, "; "), strings.Join(used, "; "))
	}
	return t
}

// cards lists the cards of hierarchies, superiors before those under them.
func cards(g *flow.Graph) *Table {
	m := g.Map()
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
func moments(g *flow.Graph) *Table {
	m := g.Map()
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
