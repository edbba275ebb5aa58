package exchange

import (
	"bytes"
	"context"
	"encoding/csv"
	"fmt"
	"html"
	"slices"
	"strings"

	"plaintracer/core/compose"
	"plaintracer/core/flow"
	"plaintracer/core/model"
	"plaintracer/core/numbering"
	"plaintracer/core/procedure"
	"plaintracer/core/register"
	"plaintracer/core/symbols"
	"plaintracer/core/trace"
	"plaintracer/core/values"
	"plaintracer/exchange/cell"
)

// table is what stands in a file, its titles first.
type table struct {
	name string
	rows [][]string
	// types are those of the columns that are more than text, by their place; values are what stands in them, as it is
	// kept.
	types  map[int]values.Type
	values [][]string
	// quiet is the place of a column that is for programs; zero for none.
	quiet int
	// text are the columns of which digits are texts as well.
	text map[int]bool
	// choices are what can stand in the columns that allow no more, or mostly hold one of these.
	choices map[int][]string
	// currency is that of amounts of money; empty for none.
	currency string
}

// registerTable lists the steps in their order, as the register has them, with what the documents say of them beside,
// the map's own fields, and their ids last, by which a table that was filled in elsewhere is read back.
func registerTable(j *Job) table {
	m := j.Whole
	reg := register.Of(flow.New(m))
	told := map[string]*procedure.Step{}
	p := procedure.Part(m, j.Inside)
	for i := range p.Steps {
		told[p.Steps[i].ID] = &p.Steps[i]
	}
	t := table{name: "Register", types: map[int]values.Type{}, text: map[int]bool{}, choices: map[int][]string{},
		currency: m.Currency}
	var places []int // of the columns, in the register
	titles := []string{}
	for _, id := range []string{register.Number, register.Text, register.Kind, register.Who, register.Stage,
		register.Next, register.From} {
		t.choices[len(titles)] = reg.Columns[reg.Column(id)].Choices
		t.text[len(titles)] = id == register.Next || id == register.From
		places = append(places, reg.Column(id))
		titles = append(titles, reg.Columns[reg.Column(id)].Title)
	}
	titles = append(titles, model.SheetTitle, model.UsesTitle, model.MakesTitle, model.NotesTitle)
	for i := range m.Fields {
		f := &m.Fields[i]
		t.types[len(titles)], t.choices[len(titles)] = f.Type, allowed(f)
		titles = append(titles, m.FieldTitle(f))
	}
	t.quiet = len(titles)
	t.rows = [][]string{append(titles, model.IDTitle)}
	t.values = [][]string{nil}
	for _, r := range reg.Rows {
		s := told[r.ID]
		if s == nil {
			continue // it is not in this part of the map, or no step
		}
		var row, kept []string
		for _, at := range places {
			row = append(row, r.Cells[at])
		}
		row = append(row, s.Sheet.Name, things(s.Uses), things(s.Makes), strings.Join(s.Notes, "; "))
		kept = slices.Clone(row)
		sym := m.SheetOf(r.ID).Symbol(r.ID)
		for i := range m.Fields {
			row = append(row, m.Show(&m.Fields[i], sym))
			kept = append(kept, sym.Value(m.Fields[i].ID))
		}
		t.rows, t.values = append(t.rows, append(row, r.ID)), append(t.values, append(kept, r.ID))
	}
	return t
}

// allowed are the values that a field takes, where these can be listed.
func allowed(f *model.Field) []string {
	if f.Type == values.YesNo {
		return []string{"yes", "no"}
	}
	return f.Choices
}

// journeyTable lists the rows of journeys by their stages, as such a table is read again.
func journeyTable(j *Job) table {
	t := table{name: "Journeys"}
	for _, s := range j.Inside.Sheets {
		if s.Kind == model.JourneySheet {
			t.rows = append(t.rows, compose.JourneyTable(j.Inside, s)...)
		}
	}
	if len(t.rows) == 0 {
		t.rows = [][]string{{"Row", "Type"}}
	}
	return t
}

// peopleTable lists the cards of hierarchies, superiors before those under them, with the titles by which such a table
// is read again. Who reports to whom is said by name where only one card has it, else by id.
func peopleTable(j *Job) table {
	m := j.Inside
	t := table{name: "People", types: map[int]values.Type{}, currency: m.Currency}
	titles := []string{"Name", "Role", "Reports to", "State", "Card", "Also reports to"}
	for i := range m.Fields {
		f := &m.Fields[i]
		t.types[len(titles)] = f.Type
		titles = append(titles, m.FieldTitle(f))
	}
	titles = append(titles, model.SheetTitle)
	t.quiet = len(titles)
	t.rows, t.values = [][]string{append(titles, model.IDTitle)}, [][]string{nil}
	for _, s := range m.Sheets {
		tree := s.Tree()
		called := map[string]int{}
		for _, c := range tree.Order() {
			called[strings.ToLower(c.CardTitle())]++
		}
		key := func(c *model.Symbol) string {
			if n := c.CardTitle(); n != "" && called[strings.ToLower(n)] == 1 {
				return n
			}
			return c.ID
		}
		for _, c := range tree.Order() {
			first, role := c.CardName()
			up := ""
			if over := tree.Superior(c.ID); over != nil {
				up = key(over)
			}
			state := string(c.Post)
			if c.Assistant {
				state = strings.TrimSpace(state + " assistant")
			}
			var also []string
			for _, line := range s.Connectors {
				if from := tree.Card(line.From.Symbol); from != nil && line.To.Symbol == c.ID {
					also = append(also, key(from))
				}
			}
			row := []string{first, role, up, state, symbols.Of(c.Kind).Name, strings.Join(also, "; ")}
			kept := slices.Clone(row)
			for i := range m.Fields {
				row = append(row, m.Show(&m.Fields[i], c))
				kept = append(kept, c.Value(m.Fields[i].ID))
			}
			t.rows, t.values = append(t.rows, append(row, s.Name, c.ID)), append(t.values, append(kept, s.Name, c.ID))
		}
	}
	return t
}

// fieldsTable says what lanes and fields a map has, for whoever fills its register in.
func fieldsTable(j *Job) table {
	t := table{name: "Lanes and fields", rows: [][]string{{"What", "Name", "Type", "Values"}}}
	for p := range j.Whole.Laned() {
		for _, l := range p.Lanes {
			t.rows = append(t.rows, []string{"Lane", l.Name, "", ""})
		}
		for _, st := range p.Stages {
			t.rows = append(t.rows, []string{"Stage", st.Name, "", ""})
		}
	}
	for _, f := range j.Whole.Fields {
		t.rows = append(t.rows, []string{"Field", f.Name, f.Type.Title(), strings.Join(f.Choices, "; ")})
	}
	return t
}

func things(list []procedure.Thing) string {
	var out []string
	for _, t := range list {
		if t.Text == "" {
			t.Text = t.Kind
		}
		out = append(out, t.Text)
	}
	return strings.Join(out, "; ")
}

// lanesTable has a row for every step and a column for every role; the one who does it is marked.
func lanesTable(j *Job) table {
	p := procedure.Part(j.Whole, j.Inside)
	t := table{name: "Lanes by steps", rows: [][]string{{"Number", "Step"}}}
	for _, r := range p.Roles {
		t.rows[0] = append(t.rows[0], r.Name)
	}
	for _, s := range p.Steps {
		row := []string{s.Number, s.Text}
		for _, r := range p.Roles {
			mark := ""
			if r.Name == s.Who {
				mark = "x"
			}
			row = append(row, mark)
		}
		t.rows = append(t.rows, row)
	}
	return t
}

// connectorsTable is the flow as a list of edges.
func connectorsTable(j *Job) table {
	numbers := map[string]string{}
	for _, s := range procedure.Part(j.Whole, j.Inside).Steps {
		numbers[s.ID] = s.Number
	}
	t := table{name: "Connectors",
		rows: [][]string{{"Sheet", "From", "From number", "From id", "To", "To number", "To id", "Label"}}}
	for _, s := range j.Inside.Sheets {
		for _, l := range flow.Links(s) {
			row := []string{s.Name, "", "", "", "", "", "", strings.Join(strings.Fields(l.Connector.Text), " ")}
			for i, sym := range [2]*model.Symbol{l.From, l.To} {
				if sym != nil {
					row[1+3*i], row[2+3*i], row[3+3*i] = strings.Join(strings.Fields(sym.Text), " "), numbers[sym.ID],
						sym.ID
				}
			}
			t.rows = append(t.rows, row)
		}
	}
	return t
}

// casesTable lists the steps of every case that was kept, in the order in which it came by them, and what comes
// together on its way.
func casesTable(j *Job) table {
	m := j.Whole
	g := flow.New(m)
	numbers := numbering.Labels(g)
	t := table{name: "Cases", types: map[int]values.Type{}, values: [][]string{nil}, currency: m.Currency}
	titles := []string{"Case", "Number", "Step", "Who", "Answer"}
	for i := range m.Fields {
		t.types[len(titles)] = m.Fields[i].Type
		titles = append(titles, m.FieldTitle(&m.Fields[i]))
	}
	t.rows = [][]string{titles}
	for i := range m.Cases {
		story := trace.Tell(g, numbers, &m.Cases[i])
		for _, s := range story.Steps {
			sym := g.Node(s.Symbol).Symbol
			row := []string{story.Name, s.Number, s.Text, s.Who, s.Answer}
			kept := slices.Clone(row)
			for k := range m.Fields {
				row, kept = append(row, m.Show(&m.Fields[k], sym)), append(kept, sym.Value(m.Fields[k].ID))
			}
			t.rows, t.values = append(t.rows, row), append(t.values, kept)
		}
		words := []string{fmt.Sprintf("%d hand-overs", story.Handovers)}
		if story.Handovers == 1 {
			words[0] = "1 hand-over"
		}
		if story.Fault != "" {
			words = append(words, story.Fault)
		}
		row := make([]string, len(titles))
		row[0], row[2] = story.Name, "All together: "+strings.Join(words, ". ")
		kept := slices.Clone(row)
		for k := range m.Fields {
			if amount, ok := story.Amounts[m.Fields[k].ID]; ok {
				row[5+k] = values.Show(m.Fields[k].Type, amount, m.Measures())
				kept[5+k] = amount
			}
		}
		t.rows, t.values = append(t.rows, row), append(t.values, kept)
	}
	return t
}

func asCSV(make func(*Job) table) func(context.Context, *Job) ([]byte, error) {
	return func(_ context.Context, j *Job) ([]byte, error) {
		var out bytes.Buffer
		out.WriteString("\xef\xbb\xbf") // by which spreadsheets know that it is UTF-8
		w := csv.NewWriter(&out)
		w.UseCRLF = true // RFC 4180
		if sign := []rune(separators[j.Settings["separator"]]); len(sign) == 1 {
			w.Comma = sign[0]
		}
		for _, row := range make(j).rows {
			if err := w.Write(cell.Row(row...)); err != nil {
				return nil, err
			}
		}
		w.Flush()
		return out.Bytes(), w.Error()
	}
}

// separators are the signs that can stand between the cells of a table of text.
var separators = map[string]string{"": ",", "semicolon": ";", "tab": "\t"}

// showTable shows the first rows of a table.
func showTable(make ...func(*Job) table) func(context.Context, *Job, int) (*Preview, error) {
	return func(_ context.Context, j *Job, page int) (*Preview, error) {
		const most = 60
		t := make[min(max(page, 0), len(make)-1)](j)
		var out strings.Builder
		out.WriteString(`<!doctype html><meta charset="utf-8"/><style>body{font:13px/1.4 system-ui,sans-serif;margin:12px;color:#22303c;background:#fff}table{border-collapse:collapse}th,td{border:1px solid #d8d3c7;padding:3px 8px;text-align:left;vertical-align:top}th{background:#f3efe5}</style><table>`)
		for i, row := range t.rows {
			if i > most {
				fmt.Fprintf(&out, `<tr><td colspan="%d">and %d rows more</td></tr>`, len(row), len(t.rows)-i)
				break
			}
			out.WriteString("<tr>")
			for _, cell := range row {
				tag := "td"
				if i == 0 {
					tag = "th"
				}
				fmt.Fprintf(&out, "<%s>%s</%s>", tag, html.EscapeString(cell), tag)
			}
			out.WriteString("</tr>")
		}
		out.WriteString("</table>")
		return &Preview{MediaType: "text/html", Data: []byte(out.String()), Pages: len(make)}, nil
	}
}
