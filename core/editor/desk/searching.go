package desk

import (
	"fmt"
	"slices"

	"plaintracer/core/edit"
	"plaintracer/core/find"
)

// sought is what is looked for in the texts of all sheets.
type sought struct {
	Query string
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
func (e *Searching) SearchFor(query string) {
	e.Search = sought{Query: query}
	list := find.All(e.M, query)
	e.Search.found = len(list)
	if len(list) == 0 {
		return
	}
	// The nearest one from here on: on this sheet first.
	for i, p := range list {
		if p.Sheet == e.SheetID {
			e.stand(list, i)
			return
		}
	}
	e.stand(list, 0)
}

// Jump goes to another match.
func (e *Searching) Jump(by int) {
	list := find.All(e.M, e.Search.Query)
	e.Search.found = len(list)
	if len(list) == 0 {
		e.Search.at = 0
		e.Say("No sheet contains this text.")
		return
	}
	at := slices.IndexFunc(list, func(p find.Place) bool {
		return p.ID == e.Search.on.ID && p.At == e.Search.on.At
	})
	if at < 0 { // what it stood on is gone or says something else now
		at = e.Search.at - 1
		if by > 0 {
			at--
		}
	}
	e.stand(list, ((at+by)%len(list)+len(list))%len(list))
}

// stand goes to a match.
func (e *Searching) stand(list []find.Place, i int) {
	p := list[i]
	keep := e.Search
	if p.Sheet != e.SheetID {
		e.Show(p.Sheet)
	}
	keep.at, keep.found, keep.on = i+1, len(list), p
	e.Search = keep
	switch s := e.Sheet(); {
	case s.Symbol(p.ID) != nil:
		e.Selecting.goTo(p.ID)
	case s.Connector(p.ID) != nil, s.Pool(p.ID) != nil:
		e.Sel, e.Lane, e.Centre = []string{p.ID}, "", p.ID
	default:
		e.Sel, e.Lane, e.Centre = nil, p.ID, p.ID
	}
}

// Replace replaces what the match one stands on says, and goes on.
func (e *Searching) Replace(with string) {
	list := find.All(e.M, e.Search.Query)
	i := slices.IndexFunc(list, func(p find.Place) bool { return p.ID == e.Search.on.ID && p.At == e.Search.on.At })
	if i < 0 {
		e.Jump(1)
		return
	}
	if list[i].Fixed {
		e.Say("The titles of links are changed where the links are: Alt A.")
		return
	}
	change := e.replaceEdit(list[i], with)
	if change == nil {
		e.Say("Step numbers are computed and cannot be replaced.")
		return
	}
	if e.Do(edit.Together("replace", change)) {
		e.Search.at = i + 1
		if next := find.All(e.M, e.Search.Query); len(next) > 0 {
			e.Search.on = find.Place{}
			e.Jump(1)
		} else {
			e.Search.at, e.Search.found = 0, 0
		}
	}
}

// ReplaceAll replaces in all sheets at once.
func (e *Searching) ReplaceAll(with string) {
	var edits []edit.Edit
	for _, p := range find.All(e.M, e.Search.Query) {
		if e.M.SheetOf(p.ID) != nil && find.Locked(e.M, p) {
			continue
		}
		if edit := e.replaceEdit(p, with); edit != nil {
			edits = append(edits, edit)
		}
	}
	if len(edits) == 0 {
		e.Say("There is nothing to replace.")
		return
	}
	as := "replace in one place"
	if len(edits) > 1 {
		as = fmt.Sprintf("replace in %d places", len(edits))
	}
	if e.Do(edit.Together(as, edits...)) {
		e.Say("Done: %s.", as)
		e.Search.at, e.Search.found = 0, len(find.All(e.M, e.Search.Query))
	}
}

// Searched is what the bars show of the search.
func (e *Searching) Searched() *Search {
	if e.Search.Query == "" {
		return nil
	}
	out := &Search{Query: e.Search.Query, At: e.Search.at, Found: e.Search.found}
	if s := e.M.Sheet(e.Search.on.Sheet); s != nil && e.Search.at > 0 {
		out.Where = s.Name
	}
	return out
}

// replaceEdit returns the edit that writes a text anew with every match in it replaced; nil where there is none.
func (e *Searching) replaceEdit(p find.Place, with string) edit.Edit {
	text, found := find.Replaced(p.Text, e.Search.Query, with)
	if s := e.M.Sheet(p.Sheet); !found || p.Fixed {
		return nil
	} else if sym := s.Symbol(p.ID); sym != nil {
		return e.Writing.textEdit(s, sym, sym.Accented().Rewritten(text))
	}
	return find.Write(e.M, p, text)
}
