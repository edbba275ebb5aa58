package editor

import (
	"fmt"
	"slices"

	"plaintracer/core/edit"
	"plaintracer/core/find"
)

// search is what is looked for in the texts of all sheets.
type search struct {
	query string
	// at is the match one stands on, found how many there are.
	at, found int
	on        find.Place
}

// Search is what the bars show of a search.
type Search struct {
	Query string `json:"query"`
	// At counts from 1; 0 when one stands on none.
	At    int    `json:"at"`
	Found int    `json:"found"`
	Where string `json:"where"`
}

// look for a text in all sheets, from where one stands.
func (e *Searching) searchFor(query string) {
	e.search = search{query: query}
	list := find.All(e.m, query)
	e.search.found = len(list)
	if len(list) == 0 {
		return
	}
	// The nearest one from here on: on this sheet first.
	for i, p := range list {
		if p.Sheet == e.sheetID {
			e.stand(list, i)
			return
		}
	}
	e.stand(list, 0)
}

// jump goes to another match.
func (e *Searching) jump(by int) {
	list := find.All(e.m, e.search.query)
	e.search.found = len(list)
	if len(list) == 0 {
		e.search.at = 0
		e.say("No sheet contains this text.")
		return
	}
	at := slices.IndexFunc(list, func(p find.Place) bool {
		return p.ID == e.search.on.ID && p.At == e.search.on.At
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
func (e *Searching) stand(list []find.Place, i int) {
	p := list[i]
	keep := e.search
	if p.Sheet != e.sheetID {
		e.show(p.Sheet)
	}
	keep.at, keep.found, keep.on = i+1, len(list), p
	e.search = keep
	switch s := e.Sheet(); {
	case s.Symbol(p.ID) != nil:
		e.Selecting.goTo(p.ID)
	case s.Connector(p.ID) != nil, s.Pool(p.ID) != nil:
		e.sel, e.lane, e.centre = []string{p.ID}, "", p.ID
	default:
		e.sel, e.lane, e.centre = nil, p.ID, p.ID
	}
}

// replace replaces what the match one stands on says, and goes on.
func (e *Searching) replace(with string) {
	list := find.All(e.m, e.search.query)
	i := slices.IndexFunc(list, func(p find.Place) bool { return p.ID == e.search.on.ID && p.At == e.search.on.At })
	if i < 0 {
		e.jump(1)
		return
	}
	change := e.replaceEdit(list[i], with)
	if change == nil {
		e.say("Step numbers are computed and cannot be replaced.")
		return
	}
	if e.do(edit.Together("replace", change)) {
		e.search.at = i + 1
		if next := find.All(e.m, e.search.query); len(next) > 0 {
			e.search.on = find.Place{}
			e.jump(1)
		} else {
			e.search.at, e.search.found = 0, 0
		}
	}
}

// replaceAll replaces in all sheets at once.
func (e *Searching) replaceAll(with string) {
	var edits []edit.Edit
	for _, p := range find.All(e.m, e.search.query) {
		if e.m.SheetOf(p.ID) != nil && find.Locked(e.m, p) {
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
	if e.do(edit.Together(as, edits...)) {
		e.say("Done: %s.", as)
		e.search.at, e.search.found = 0, len(find.All(e.m, e.search.query))
	}
}

// searched is what the bars show of the search.
func (e *Searching) searched() *Search {
	if e.search.query == "" {
		return nil
	}
	out := &Search{Query: e.search.query, At: e.search.at, Found: e.search.found}
	if s := e.m.Sheet(e.search.on.Sheet); s != nil && e.search.at > 0 {
		out.Where = s.Name
	}
	return out
}

// replaceEdit returns the edit that writes a text anew with every match in it replaced; nil where there is none.
func (e *Searching) replaceEdit(p find.Place, with string) edit.Edit {
	text, found := find.Replaced(p.Text, e.search.query, with)
	if s := e.m.Sheet(p.Sheet); !found {
		return nil
	} else if sym := s.Symbol(p.ID); sym != nil {
		return e.Writing.textEdit(s, sym, text)
	}
	return find.Write(e.m, p, text)
}
