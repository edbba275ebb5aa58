// Package register is a map as a table: a row for every step, with its number, text, kind, who does it, its stage, what
// comes next and what leads to it, and the fields that the map adds.
//
// Of makes the table, Ask sorts, filters and sums it. Cells are texts for people; package compose makes edits of what
// is written into them.
package register

import (
	"slices"
	"strings"

	"plaintracer/core/flow"
	"plaintracer/core/model"
	"plaintracer/core/numbering"
	"plaintracer/core/symbols"
	"plaintracer/core/values"
)

// The columns that every register has.
const (
	Number = "number"
	Text   = "text"
	Kind   = "kind"
	Who    = "who"
	Stage  = "stage"
	Next   = "next"
	From   = "from"
	Papers = "papers"
)

// Column is a column of a register.
type Column struct {
	// ID is one of those above, or the id of a field.
	ID    string      `json:"id"`
	Title string      `json:"title"`
	Type  values.Type `json:"type"`
	// Counts says that its values can be added up.
	Counts bool `json:"counts,omitempty"`
	// Own says that it is a field of the map, Fixed that nothing is written into it.
	Own   bool `json:"own,omitempty"`
	Fixed bool `json:"fixed,omitempty"`
	// Why says in a sentence why nothing is written into it.
	Why string `json:"why,omitempty"`
	// Choices are the values to choose from, where there are such.
	Choices []string `json:"choices,omitempty"`
	// Hint shows how a value is typed.
	Hint string `json:"hint,omitempty"`
}

// Row is a step.
type Row struct {
	ID    string `json:"id"`
	Sheet string `json:"sheet"`
	// Cells are the texts of the columns, in their order.
	Cells []string `json:"cells"`
	// Pinned says that its number was chosen by hand.
	Pinned bool `json:"pinned,omitempty"`
	// keys are the cells as they are compared: values as they are kept.
	keys []string
}

// Table is a register.
type Table struct {
	Columns []Column `json:"columns"`
	Rows    []Row    `json:"rows"`
}

// byConnectors is why nothing is written into some columns.
const byConnectors = "This follows from the connectors; change it on the drawing, or in Next."

// Columns lists the columns of a map's register.
func Columns(m *model.Map) []Column {
	var kinds, stages []string
	for _, k := range model.Kinds {
		if k.IsStep() {
			kinds = append(kinds, symbols.Of(k).Name)
		}
	}
	for p := range m.Laned() {
		for _, st := range p.Stages {
			if st.Name != "" && !slices.Contains(stages, st.Name) {
				stages = append(stages, st.Name)
			}
		}
	}
	list := []Column{
		{ID: Number, Title: model.NumberTitle, Type: values.Text, Hint: "pins a number; nothing gives it back"},
		{ID: Text, Title: model.StepTitle, Type: values.Long},
		{ID: Kind, Title: model.KindTitle, Type: values.Choice, Choices: kinds},
		{ID: Who, Title: model.WhoTitle, Type: values.Person, Choices: m.Owners()},
		{ID: Stage, Title: model.StageTitle, Type: values.Text, Choices: stages},
		{ID: Next, Title: model.NextTitle, Type: values.Text, Hint: "5, or Yes > 5; No > 9; a new name makes a step"},
		{ID: From, Title: model.FromTitle, Type: values.Text, Fixed: true, Why: byConnectors},
		{ID: Papers, Title: model.PapersTitle, Type: values.Text, Fixed: true, Why: byConnectors},
	}
	for _, f := range m.Fields {
		c := Column{ID: f.ID, Title: m.FieldTitle(&f), Type: f.Type, Counts: f.Type.Counts(), Own: true,
			Choices: f.Choices}
		for _, t := range values.Types() {
			if t.Type == f.Type {
				c.Hint = t.Hint
			}
		}
		if f.Type == values.YesNo {
			c.Choices = []string{"yes", "no"}
		}
		list = append(list, c)
	}
	return list
}

// Of returns the register of a flow: its steps in their order, and what else is numbered.
func Of(g *flow.Graph) *Table {
	m := g.Map()
	t := &Table{Columns: Columns(m), Rows: []Row{}}
	labels := numbering.Labels(g)
	for _, n := range numbering.Reading(g) {
		if sym := n.Symbol; !sym.Kind.IsStep() && !numbering.Counts(m, sym) {
			continue
		}
		t.Rows = append(t.Rows, row(m, n, labels, len(t.Columns)))
	}
	return t
}

func row(m *model.Map, n *flow.Node, labels map[string]string, columns int) Row {
	sym := n.Symbol
	r := Row{ID: sym.ID, Sheet: n.Sheet.ID, Cells: make([]string, 0, columns), Pinned: sym.Pinned != ""}
	stage := ""
	if s := n.Sheet.StageOf(sym); s != nil {
		stage = s.Name
	}
	var from, papers []string
	for _, e := range n.Entries {
		if e.From.Symbol.Kind.IsInformation() && len(e.From.Entries) == 0 {
			papers = append(papers, Name(e.From.Symbol, nil))
		} else {
			from = append(from, Name(e.From.Symbol, labels))
		}
	}
	var next []string
	for _, e := range n.Exits {
		if e.To.Symbol.Kind.IsInformation() && len(e.To.Exits) == 0 {
			papers = append(papers, Name(e.To.Symbol, nil))
			continue
		}
		to := Name(e.To.Symbol, labels)
		if answer := model.Flat(e.Answer()); answer != "" {
			to = answer + " > " + to
		}
		next = append(next, to)
	}
	r.Cells = append(r.Cells, labels[sym.ID], sym.Text, symbols.Of(sym.Kind).Name, n.Owner(), stage,
		strings.Join(next, "; "), strings.Join(from, "; "), strings.Join(papers, "; "))
	r.keys = slices.Clone(r.Cells)
	for i := range m.Fields {
		f := &m.Fields[i]
		r.keys = append(r.keys, sym.Value(f.ID))
		r.Cells = append(r.Cells, m.Show(f, sym))
	}
	return r
}

// Name is how a cell speaks of a symbol: by its number where it has one, or its text, or its kind.
func Name(sym *model.Symbol, labels map[string]string) string {
	if label := labels[sym.ID]; label != "" {
		return label
	}
	if text := model.Flat(sym.Text); text != "" {
		return text
	}
	return symbols.Of(sym.Kind).Name
}

// Column returns the place of a column, or -1.
func (t *Table) Column(id string) int {
	return slices.IndexFunc(t.Columns, func(c Column) bool { return c.ID == id })
}
