package steplist

import (
	"fmt"
	"plaintracer/core/compose"
	"plaintracer/core/model"
	"plaintracer/core/symbols"
	"slices"
	"strings"
	"unicode/utf8"
)

// Read reads a list of steps, and returns what that does and the list as a table of the columns id, text, kind, lane
// and next, with the fields behind; nil where it is refused. Rows stay where they are: what stands in line 5 of the
// list does so in line 5 of the table.
func Read(rows [][]string, as Reading) (*Plan, [][]string) {
	r := &reading{Reading: as, rows: rows, plan: &Plan{Columns: []Column{}, Lanes: []string{},
		Wrong: []string{}, Notes: []string{}}, keys: newKeys(), of: map[string]int{}}
	r.columns()
	if r.plan.Refusal == "" {
		r.steps()
	}
	if r.plan.Refusal != "" {
		return r.plan, nil
	}
	return r.plan, r.table()
}

// reading is a list of steps that is read.
type reading struct {
	Reading
	rows [][]string
	plan *Plan
	keys *stepKeys
	// of are the columns by what they hold, where only one can; answers and fields the others.
	of              map[string]int
	answers, fields []int
	// lines are the rows with steps, ways where each leads; ends are the names of ends that are made, whose places come
	// after those of the steps.
	lines []int
	ways  [][]way
	ends  []string
}

func (r *reading) wrong(row, column int, format string, args ...any) {
	const most = 30
	if len(r.plan.Wrong) == most {
		r.plan.Wrong = append(r.plan.Wrong, "And more.")
	}
	if len(r.plan.Wrong) < most {
		r.plan.Wrong = append(r.plan.Wrong, CellName(row, column)+": "+fmt.Sprintf(format, args...))
	}
}

// columns finds out which column is what.
func (r *reading) columns() {
	width := 0
	for _, row := range r.rows {
		width = max(width, len(row))
	}
	if r.Titles > len(r.rows) || r.Titles < 0 {
		r.Titles = 0
	}
	for k := range width {
		title, as := "", AsNothing
		if r.Titles > 0 {
			title = model.Flat(cellAt(r.rows[r.Titles-1], k))
		}
		if title == "" {
			title = "Column " + columnName(k)
		}
		if k < len(r.Columns) {
			as = r.Columns[k]
		}
		sample := ""
		for _, row := range r.rows[r.Titles:] {
			if sample = cellAt(row, k); sample != "" {
				break
			}
		}
		r.plan.Columns = append(r.plan.Columns, Column{Title: title, As: as, Sample: sample})
		switch as {
		case AsNothing:
		case AsField:
			r.fields = append(r.fields, k)
		case AsAnswer:
			r.answers = append(r.answers, k)
		default:
			if other, twice := r.of[as]; twice {
				r.plan.Refusal = fmt.Sprintf("The columns “%.40s” and “%.40s” cannot both be the same.",
					r.plan.Columns[other].Title, title)
				return
			}
			r.of[as] = k
		}
	}
	if _, ok := r.of[AsText]; !ok {
		r.plan.Refusal = "No column says what is done."
	}
	if len(r.fields) > model.MaxFields {
		r.plan.Refusal = fmt.Sprintf("A map has at most %d fields; choose which columns are.", model.MaxFields)
	}
}

func (r *reading) cell(line int, as string) string {
	k, ok := r.of[as]
	if !ok {
		return ""
	}
	return cellAt(r.rows[line], k)
}

// steps finds the steps, and where each leads.
func (r *reading) steps() {
	if r.Titles > 1 {
		r.plan.Notes = append(r.plan.Notes, "What stands above the titles was left out.")
	}
	for i := r.Titles; i < len(r.rows); i++ {
		if strings.TrimSpace(strings.Join(r.rows[i], "")) == "" {
			continue
		}
		if r.cell(i, AsText) == "" {
			r.wrong(i, r.of[AsText], "nothing stands here; the row is left out.")
			continue
		}
		for as, most := range map[string]int{AsText: model.MaxText, AsWho: model.MaxName} {
			if n := utf8.RuneCountInString(r.cell(i, as)); n > most {
				r.plan.Refusal = fmt.Sprintf("%s: there are %d characters; at most %d fit.", CellName(i, r.of[as]), n,
					most)
				return
			}
		}
		if r.lines = append(r.lines, i); len(r.lines) > model.MaxSymbols {
			r.plan.Refusal = fmt.Sprintf("A sheet holds at most %d steps.", model.MaxSymbols)
			return
		}
		if r.keys.add(len(r.lines)-1, r.cell(i, AsNumber), r.cell(i, AsText)) {
			r.wrong(i, r.of[AsNumber], "the number “%.20s” is there twice; what leads to it leads to the first.",
				r.cell(i, AsNumber))
		}
	}
	if r.plan.Steps = len(r.lines); r.plan.Steps == 0 {
		r.plan.Refusal = "There are no steps in the list."
		return
	}
	r.ways = make([][]way, len(r.lines))
	for n, i := range r.lines {
		r.lead(n, i)
	}
	if k, ok := r.of[AsBefore]; ok {
		for n, i := range r.lines {
			list, unknown := r.keys.ways(cellAt(r.rows[i], k))
			if cellAt(r.rows[i], k) == "" {
				continue
			}
			for _, u := range unknown {
				r.wrong(i, k, "there is no step “%.60s”.", u)
			}
			for _, w := range list {
				if w.to >= 0 && w.to != n {
					r.ways[w.to] = append(r.ways[w.to], way{w.label, n})
				}
			}
		}
	}
	for _, list := range r.ways {
		r.plan.Links += len(list)
	}
	if r.plan.Links > model.MaxConnectors {
		r.plan.Refusal = fmt.Sprintf("A sheet holds at most %d connectors.", model.MaxConnectors)
	}
}

// lead finds out where the step of a line leads: what it says itself, what stands under an answer, or what its saying
// nothing means.
func (r *reading) lead(n, line int) {
	said := false
	add := func(k int, label string) {
		text := cellAt(r.rows[line], k)
		if text == "" {
			return
		}
		said = true
		list, unknown := r.keys.ways(text)
		for _, u := range unknown {
			if name, label, ok := r.end(u); ok {
				list = append(list, way{label, name})
			} else {
				r.wrong(line, k, "there is no step “%.60s”.", u)
			}
		}
		for _, w := range list {
			if w.to == -3 {
				w.to = n + 1
			}
			if w.label == "" {
				w.label = label
			}
			switch {
			case w.to < 0 || w.to >= len(r.lines)+len(r.ends):
			case w.to == n:
				r.wrong(line, k, "the step leads to itself; that is left out.")
			default:
				r.ways[n] = append(r.ways[n], w)
			}
		}
	}
	if k, ok := r.of[AsNext]; ok {
		add(k, "")
	}
	for _, k := range r.answers {
		add(k, answer(r.plan.Columns[k].Title))
	}
	_, precedes := r.of[AsBefore]
	if !said && r.Blank != BlankEnd && !precedes && n+1 < len(r.lines) {
		r.ways[n] = []way{{"", n + 1}}
	}
}

// end returns the place of an end that a text names, behind an answer or not, where ends are made.
func (r *reading) end(text string) (place int, label string, ok bool) {
	if !r.Ends {
		return 0, "", false
	}
	if a, b, parted := strings.Cut(text, ">"); parted && strings.TrimSpace(b) != "" {
		label, text = answer(a), b
	}
	text = model.Flat(text)
	if isNumber(text) || utf8.RuneCountInString(text) > model.MaxName {
		return 0, "", false
	}
	at := slices.IndexFunc(r.ends, func(e string) bool { return folded(e) == folded(text) })
	if at < 0 {
		at = len(r.ends)
		r.ends = append(r.ends, text)
	}
	return len(r.lines) + at, label, true
}

// table is the list as a table of steps.
func (r *reading) table() [][]string {
	head := []string{"id", "text", "kind", "lane", "next"}
	used := map[string]bool{}
	for _, name := range head {
		used[name] = true
	}
	for _, k := range r.fields {
		name := r.plan.Columns[k].Title
		if utf8.RuneCountInString(name) > model.MaxName {
			name = string([]rune(name)[:model.MaxName-4])
		}
		for first, n := name, 2; used[strings.ToLower(name)]; n++ {
			name = fmt.Sprintf("%s %d", first, n)
		}
		used[strings.ToLower(name)] = true
		head = append(head, name)
	}
	out := make([][]string, len(r.rows)+1)
	from := 1
	if r.Titles > 0 {
		from, out = 0, out[:len(r.rows)]
	}
	at := max(r.Titles-1, 0)
	for i := range out {
		out[i] = []string{}
	}
	out = out[at:]
	out[0] = head
	lanes := map[string]bool{}
	for n, i := range r.lines {
		text := r.cell(i, AsText)
		kind := compose.KindOf(model.Process, text)
		if name := r.cell(i, AsKind); name != "" {
			known, ok := kindNamed(name)
			if !ok {
				r.wrong(i, r.of[AsKind], "there is no kind “%.40s”; it becomes a %s.", name,
					strings.ToLower(symbols.Of(kind).Name))
			} else if kind = known; kind == model.Process {
				kind = compose.KindOf(kind, text)
			}
		}
		if lane := r.cell(i, AsWho); lane != "" && !lanes[lane] {
			lanes[lane] = true
			r.plan.Lanes = append(r.plan.Lanes, lane)
		}
		var next []string
		for _, w := range r.ways[n] {
			to := fmt.Sprintf("s%d", w.to+1)
			if label := strings.ReplaceAll(w.label, ";", ","); label != "" {
				to = label + ": " + to
			}
			next = append(next, to)
		}
		row := []string{fmt.Sprintf("s%d", n+1), text, string(kind), r.cell(i, AsWho), strings.Join(next, "; ")}
		for _, k := range r.fields {
			row = append(row, cellAt(r.rows[i], k))
		}
		out[i-at+from] = row
	}
	for n, name := range r.ends {
		out = append(out, []string{fmt.Sprintf("s%d", len(r.lines)+n+1), name, string(model.Terminator)})
	}
	return out
}
