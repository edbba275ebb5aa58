package desk

import (
	"encoding/json"
	"path"
	"slices"
	"strings"

	"plaintracer/core/arrange"
	"plaintracer/core/edit"
	"plaintracer/core/geometry"
	"plaintracer/core/model"
	"plaintracer/core/symbols"
)

// filesOf reads what the server says of files that it keeps with the map.
func (e *Writing) filesOf(arg string) []model.File {
	var list []model.File
	if err := json.Unmarshal([]byte(arg), &list); err != nil {
		e.Say("The files could not be read: %s.", err)
		return nil
	}
	return list
}

// Attach has the one thing selected lead to files that are kept with the map. A document without a text takes the name
// of the first.
func (e *Writing) Attach(arg string) {
	list := e.filesOf(arg)
	if len(list) == 0 {
		return
	}
	id, had := e.ownLinks()
	if id == "" {
		return
	}
	if leads := leading(had, list); len(leads) > len(had) {
		e.attach(id, leads, list)
	} else {
		e.Say("It leads there already.")
	}
}

// leading adds those files to links to which none of them leads yet.
func leading(had []model.Hyperlink, list []model.File) []model.Hyperlink {
	out := slices.Clone(had)
	for _, f := range list {
		to := "#" + f.ID
		if !slices.ContainsFunc(out, func(l model.Hyperlink) bool { return l.To == to }) {
			out = append(out, model.Hyperlink{To: to})
		}
	}
	return out
}

func (e *Writing) attach(id string, leads []model.Hyperlink, list []model.File) {
	var all edit.Edit = &edit.SetLinks{Sheet: e.SheetID, ID: id, Links: leads, Files: list}
	if sym := e.Symbol(id); sym != nil && sym.Kind == model.Document && strings.TrimSpace(sym.Text) == "" {
		if named, _ := e.Work().Write(sym, titled(list[0].Name)); named != nil {
			all = edit.Together("attach "+list[0].Name, all, named)
		}
	}
	if e.Do(all) {
		e.sayKept(list)
	}
}

func (e *Writing) sayKept(list []model.File) {
	if len(list) == 1 {
		e.Say("%s is kept with the map.", list[0].Name)
	} else {
		e.Say("%d files are kept with the map.", len(list))
	}
}

// titled is the name of a file without its ending, as a text.
func titled(name string) string {
	return strings.TrimSpace(strings.ReplaceAll(strings.TrimSuffix(name, path.Ext(name)), "_", " "))
}

// TakesFiles reports whether a symbol lies at a place that would lead to a picture file which is let go there, rather
// than show it.
func (e *Writing) TakesFiles(at geometry.Point) bool {
	sym := e.Symbol(e.SymbolAt(at, 0))
	return sym != nil && !sym.Kind.ShowsPicture()
}

// Detach has nothing of the map lead to a file any more.
func (e *Writing) Detach(id string) {
	f := e.M.File(id)
	if f == nil {
		return
	}
	var all []edit.Edit
	done := map[string]bool{}
	for l := range e.M.Leads() {
		if l.Link.To != "#"+id || done[l.On] {
			continue
		}
		done[l.On] = true
		list := linksOf(l.Sheet, l.On)
		all = append(all, &edit.SetLinks{Sheet: l.Sheet.ID, ID: l.On, Links: slices.DeleteFunc(slices.Clone(list),
			func(o model.Hyperlink) bool { return o.To == "#"+id })})
	}
	if len(all) > 0 && e.Do(edit.Together("take off "+f.Name, all...)) {
		e.Say("%s is off the map.", f.Name)
	}
}

// AttachAt takes files that were let go at a place: the symbol there leads to them, and where none is, each becomes a
// document that does.
func (e *Writing) AttachAt(at geometry.Point, arg string) {
	list := e.filesOf(arg)
	if len(list) == 0 {
		return
	}
	if len(e.Tracing) > 0 {
		e.Say(TracingWords)
		return
	}
	if id := e.SymbolAt(at, 0); id != "" {
		e.Sel, e.Lane = []string{id}, ""
		e.Attach(arg)
		return
	}
	def := symbols.Of(model.Document)
	add := &edit.AddItems{Sheet: e.SheetID, As: "set down documents", Files: list}
	if len(list) == 1 {
		add.As = "set down " + list[0].Name
	}
	var chosen []string
	top := at.Y
	for _, f := range list {
		sym := e.NewSymbol(model.Document, geometry.Around(geometry.Point{X: geometry.Snap(at.X, arrange.Grid),
			Y: geometry.Snap(top, arrange.Grid)}, def.W, def.H))
		sym.Text, sym.Links = titled(f.Name), []model.Hyperlink{{To: "#" + f.ID}}
		for _, place := range arrange.Fit(e.M, e.Sheet(), &sym) {
			if place.ID == sym.ID {
				sym.Box = place.Box
			}
		}
		top = sym.Bottom() + arrange.Gap + sym.H/2
		add.Symbols, chosen = append(add.Symbols, sym), append(chosen, sym.ID)
	}
	if e.Do(add) {
		e.Sel, e.Lane = chosen, ""
		e.sayKept(list)
	}
}
