package editor

import (
	"fmt"
	"slices"
	"strings"
	"unicode"
	"unicode/utf8"

	"plaintracer/core/diagram"
	"plaintracer/core/numbering"
)

// place is where a text stands: a symbol, a label of a connector, a lane or a
// pool, on a sheet.
type place struct {
	sheet, id, at string
	text          string
}

// search is what is looked for in the texts of all sheets.
type search struct {
	query string
	// at is the match one stands on, found how many there are.
	at, found int
	on        place
}

// Search is what the bars show of a search.
type Search struct {
	Query string `json:"query"`
	// At counts from 1; 0 when one stands on none.
	At    int    `json:"at"`
	Found int    `json:"found"`
	Where string `json:"where"`
}

// texts lists every text of the map, sheet by sheet: the steps in the order of
// the flow, then all else.
func (e *Editor) texts() []place {
	order := map[string]int{}
	for _, step := range numbering.Number(e.m) {
		order[step.Symbol.ID] = step.Number
	}
	var out []place
	for _, s := range e.m.Sheets {
		list := slices.Clone(s.Symbols)
		slices.SortStableFunc(list, func(a, b *diagram.Symbol) int {
			x, y := order[a.ID], order[b.ID]
			if x == 0 || y == 0 { // what has no number comes after
				return y - x
			}
			return x - y
		})
		for _, sym := range list {
			out = append(out, place{s.ID, sym.ID, "", sym.Text})
		}
		for _, c := range s.Connectors {
			for i, l := range c.Labels() {
				out = append(out, place{s.ID, c.ID, diagram.LabelNames[i], *l.Text})
			}
		}
		for _, p := range s.Pools {
			out = append(out, place{s.ID, p.ID, "", p.Title})
			for _, l := range p.Lanes {
				out = append(out, place{s.ID, l.ID, "", l.Name})
			}
		}
	}
	return out
}

// matches lists the texts that hold what is looked for. A number finds the step
// that carries it, before all texts.
func (e *Editor) matches(query string) []place {
	if query == "" {
		return nil
	}
	var out []place
	if number := strings.TrimPrefix(query, "#"); number != "" && strings.IndexFunc(number, func(r rune) bool { return r < '0' || r > '9' }) < 0 {
		for _, step := range numbering.Number(e.m) {
			if fmt.Sprint(step.Number) == number {
				out = append(out, place{step.Sheet.ID, step.Symbol.ID, "", step.Symbol.Text})
			}
		}
	}
	for _, p := range e.texts() {
		if at, _ := foldIndex(p.text, query); at >= 0 && !slices.Contains(out, p) {
			out = append(out, p)
		}
	}
	return out
}

// foldIndex returns where a text holds a query, whatever the case of letters,
// and how many bytes of the text that takes; -1 when it does not.
func foldIndex(text, query string) (at, size int) {
	want := []rune(query)
	for i := range text {
		n, k := 0, i
		for k < len(text) && n < len(want) {
			r, width := utf8.DecodeRuneInString(text[k:])
			if fold(r) != fold(want[n]) {
				break
			}
			k += width
			n++
		}
		if n == len(want) {
			return i, k - i
		}
	}
	return -1, 0
}

func fold(r rune) rune {
	if r == '\n' { // a line broken by hand reads on
		return ' '
	}
	return unicode.ToLower(unicode.ToUpper(r))
}

// look for a text in all sheets, from where one stands.
func (e *Editor) searchFor(query string) {
	e.search = search{query: query}
	list := e.matches(query)
	e.search.found = len(list)
	if len(list) == 0 {
		return
	}
	// The nearest one from here on: on this sheet first.
	for i, p := range list {
		if p.sheet == e.sheetID {
			e.stand(list, i)
			return
		}
	}
	e.stand(list, 0)
}

// jump goes to another match.
func (e *Editor) jump(by int) {
	list := e.matches(e.search.query)
	e.search.found = len(list)
	if len(list) == 0 {
		e.search.at = 0
		e.say("No sheet contains this text.")
		return
	}
	at := slices.IndexFunc(list, func(p place) bool {
		return p.id == e.search.on.id && p.at == e.search.on.at
	})
	if at < 0 { // what it stood on is gone or says something else now
		at = e.search.at - 1
		if by > 0 {
			at--
		}
	}
	e.stand(list, ((at+by)%len(list)+len(list))%len(list))
}

// stand goes to a match.
func (e *Editor) stand(list []place, i int) {
	p := list[i]
	keep := e.search
	if p.sheet != e.sheetID {
		e.show(p.sheet)
	}
	keep.at, keep.found, keep.on = i+1, len(list), p
	e.search = keep
	switch s := e.Sheet(); {
	case s.Symbol(p.id) != nil:
		e.goTo(p.id)
	case s.Connector(p.id) != nil, s.Pool(p.id) != nil:
		e.sel, e.lane, e.centre = []string{p.id}, "", p.id
	default:
		e.sel, e.lane, e.centre = nil, p.id, p.id
	}
}

// replaceEdit returns the edit that writes a text anew with every match in it
// replaced.
func (e *Editor) replaceEdit(p place, with string) diagram.Edit {
	s := e.m.Sheet(p.sheet)
	text, rest := "", p.text
	for rest != "" {
		at, size := foldIndex(rest, e.search.query)
		if at < 0 {
			break
		}
		text += rest[:at] + with
		rest = rest[at+size:]
	}
	text += rest
	if text == p.text {
		return nil
	}
	switch {
	case s.Symbol(p.id) != nil:
		return e.textEditOn(s, s.Symbol(p.id), text)
	case s.Connector(p.id) != nil:
		return &diagram.SetText{Sheet: s.ID, ID: p.id, At: p.at, Text: text}
	case s.Pool(p.id) != nil:
		return &diagram.SetPool{Sheet: s.ID, Pool: p.id, Title: &text}
	}
	for _, pool := range s.Pools {
		if pool.LaneIndex(p.id) >= 0 {
			return &diagram.SetLane{Sheet: s.ID, Pool: pool.ID, Lane: p.id, Name: &text}
		}
	}
	return nil
}

// replace replaces what the match one stands on says, and goes on.
func (e *Editor) replace(with string) {
	list := e.matches(e.search.query)
	i := slices.IndexFunc(list, func(p place) bool { return p.id == e.search.on.id && p.at == e.search.on.at })
	if i < 0 {
		e.jump(1)
		return
	}
	edit := e.replaceEdit(list[i], with)
	if edit == nil {
		e.say("Step numbers are computed and cannot be replaced.")
		return
	}
	if e.do(diagram.Together("replace", edit)) {
		e.search.at = i + 1
		if next := e.matches(e.search.query); len(next) > 0 {
			e.search.on = place{}
			e.jump(1)
		} else {
			e.search.at, e.search.found = 0, 0
		}
	}
}

// replaceAll replaces in all sheets at once.
func (e *Editor) replaceAll(with string) {
	var edits []diagram.Edit
	for _, p := range e.matches(e.search.query) {
		if e.m.SheetOf(p.id) != nil && e.lockedOn(p) {
			continue
		}
		if edit := e.replaceEdit(p, with); edit != nil {
			edits = append(edits, edit)
		}
	}
	if len(edits) == 0 {
		e.say("There is nothing to replace.")
		return
	}
	as := "replace in one place"
	if len(edits) > 1 {
		as = fmt.Sprintf("replace in %d places", len(edits))
	}
	if e.do(diagram.Together(as, edits...)) {
		e.say("Done: %s.", as)
		e.search.at, e.search.found = 0, len(e.matches(e.search.query))
	}
}

// lockedOn reports whether what a match stands on is locked.
func (e *Editor) lockedOn(p place) bool {
	s := e.m.Sheet(p.sheet)
	if sym := s.Symbol(p.id); sym != nil {
		return sym.Locked
	}
	if c := s.Connector(p.id); c != nil {
		return c.Locked
	}
	for _, pool := range s.Pools {
		if pool.ID == p.id || pool.LaneIndex(p.id) >= 0 {
			return pool.Locked
		}
	}
	return false
}

// searched is what the bars show of the search.
func (e *Editor) searched() *Search {
	if e.search.query == "" {
		return nil
	}
	out := &Search{Query: e.search.query, At: e.search.at, Found: e.search.found}
	if s := e.m.Sheet(e.search.on.sheet); s != nil && e.search.at > 0 {
		out.Where = s.Name
	}
	return out
}
