package desk

import (
	"slices"
	"strings"

	"plaintracer/core/edit"
	"plaintracer/core/links"
	"plaintracer/core/model"
)

// LinkTab is a link of what is selected, as the page lists it.
type LinkTab struct {
	Title string `json:"title"`
	// To is an address, or # with the id of a step or sheet. Own says that it can be removed: it is none that stands
	// in a text or field.
	To  string `json:"to"`
	Own bool   `json:"own"`
}

// Links returns where the one thing selected leads beside the flow.
func (e *Writing) Links() []LinkTab {
	id, own := e.ownLinks()
	list := own
	if sym := e.Sheet().Symbol(id); sym != nil {
		list = links.Of(e.M, sym)
	}
	var out []LinkTab
	for i := range list {
		out = append(out, LinkTab{links.Title(e.M, &list[i], e.Facts.Numbers), list[i].To, i < len(own)})
	}
	return out
}

// ownLinks returns the links of the one thing selected that stand on it, and its id.
func (e *Writing) ownLinks() (id string, list []model.Hyperlink) {
	if pool, i := e.LaneSelected(); pool != nil && len(e.Sel) == 0 {
		return pool.Lanes[i].ID, pool.Lanes[i].Links
	}
	if len(e.Sel) != 1 || e.Sheet().Symbol(e.Sel[0]) == nil && e.Sheet().Connector(e.Sel[0]) == nil {
		return "", nil
	}
	return e.Sel[0], linksOf(e.Sheet(), e.Sel[0])
}

// linksOf returns the links that stand on a symbol, connector or lane of a sheet.
func linksOf(s *model.Sheet, id string) []model.Hyperlink {
	if sym := s.Symbol(id); sym != nil {
		return sym.Links
	}
	if c := s.Connector(id); c != nil {
		return c.Links
	}
	for _, p := range s.Pools {
		if i := p.LaneIndex(id); i >= 0 {
			return p.Lanes[i].Links
		}
	}
	return nil
}

// AddLink adds a link to the one thing selected: to what a person typed, before a line break and a title.
func (e *Writing) AddLink(arg string) {
	text, title, _ := strings.Cut(arg, "\n")
	to, ok := links.Read(e.M, text, e.Facts.Numbers)
	if !ok {
		e.Say("“%.60s” is no address that begins with https://, http:// or mailto:, and names no single step or sheet.",
			text)
		return
	}
	id, list := e.ownLinks()
	if slices.ContainsFunc(list, func(l model.Hyperlink) bool { return l.To == to }) {
		e.Say("It leads there already.")
		return
	}
	if id != "" {
		e.Do(&edit.SetLinks{Sheet: e.SheetID, ID: id,
			Links: append(slices.Clone(list), model.Hyperlink{Title: model.Flat(title), To: to})})
	}
}

// RemoveLink takes the link to a target away.
func (e *Writing) RemoveLink(to string) {
	id, list := e.ownLinks()
	rest := slices.DeleteFunc(slices.Clone(list), func(l model.Hyperlink) bool { return l.To == to })
	if id != "" && len(rest) < len(list) {
		e.Do(&edit.SetLinks{Sheet: e.SheetID, ID: id, Links: rest})
	}
}

// pastedLink makes a link of a pasted text that is an address, where one thing is selected. It reports whether it did.
func (e *Writing) pastedLink(text string) bool {
	address, ok := links.Address(text)
	if !ok || len(e.Tracing) > 0 {
		return false
	}
	if id, list := e.ownLinks(); id == "" || len(list) == model.MaxLinks {
		return false
	}
	e.AddLink(address)
	if e.Words == "" {
		e.Say("It leads to %.80s now.", strings.TrimPrefix(address, "mailto:"))
	}
	return true
}
