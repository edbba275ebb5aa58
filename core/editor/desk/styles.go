package desk

import (
	"fmt"
	"slices"
	"strings"

	"plaintracer/core/compose"
	"plaintracer/core/edit"
	"plaintracer/core/geometry"
	"plaintracer/core/model"
)

// CopiedStyle is how symbols and connectors are drawn, as far as it can be taken
// from one and given to another.
type CopiedStyle struct {
	style model.Style
	// worn is the id of the saved style it came from.
	worn string
	// stroke is that of a connector; only one that was taken from one has it.
	stroke model.Stroke
	line   bool
}

// NewSymbol returns a symbol under a new id, in the style symbols were given
// last and in the group one works in.
func (e *Window) NewSymbol(kind model.Kind, box geometry.Box) model.Symbol {
	sym := model.Symbol{ID: e.NewID(), Kind: kind, Box: box, Text: e.Work().Letter(kind), Group: e.Inside}
	if !kind.IsAside() && !kind.IsReference() {
		y := e.Last.style
		sym.Fill, sym.Ink, sym.Weight, sym.Dashed, sym.Type = y.Fill, y.Ink, y.Weight, y.Dashed, y.Type
		if e.M.StyleNamed(e.Last.worn) != nil {
			sym.Style, sym.Emphasis = e.Last.worn, y.Emphasis
		}
	}
	return sym
}

// giveTo gives a new connector the style connectors were given last. What
// says something about the flow (marks, the exceptional path) is not taken on.
func (o *CopiedStyle) giveTo(c *model.Connector) {
	k := o.stroke
	c.Line, c.Weight, c.Ink, c.Course, c.Radius, c.Hop, c.MarkSize = k.Line, k.Weight, k.Ink, k.Course, k.Radius, k.Hop,
		k.MarkSize
}

// styleOf returns how the thing called id is drawn.
func (e *Window) styleOf(id string) (CopiedStyle, bool) {
	s := e.Sheet()
	if sym := s.Symbol(id); sym != nil {
		return CopiedStyle{style: sym.StyleOf(), worn: sym.Style}, true
	}
	if c := s.Connector(id); c != nil {
		return CopiedStyle{style: c.StyleOf(), worn: c.Style, stroke: c.Stroke, line: true}, true
	}
	return CopiedStyle{}, false
}

// remember lets what comes new take the style that was given last.
func (e *Window) remember(ids []string) {
	for _, id := range ids {
		o, ok := e.styleOf(id)
		switch {
		case ok && o.line:
			e.Last.stroke = o.stroke
		case ok:
			e.Last.style, e.Last.worn = o.style, o.worn
		}
	}
}

// TakeStyle picks up how the first thing selected is drawn.
func (e *Styling) TakeStyle() {
	if o, ok := e.styleOf(e.Sel[0]); ok {
		e.Taken = &o
		e.Say("Style copied. Select other things and apply it to them.")
	}
}

// styleIDs returns the selected symbols and connectors.
func (e *Styling) styleIDs() []string {
	s := e.Sheet()
	return slices.DeleteFunc(slices.Clone(e.Sel),
		func(id string) bool { return s.Symbol(id) == nil && s.Connector(id) == nil })
}

// GiveStyle gives the style that was taken to all that is selected.
func (e *Styling) GiveStyle(o CopiedStyle, as string) {
	y, k := o.style, o.stroke
	set := &edit.SetStyle{Sheet: e.SheetID, IDs: e.styleIDs(), Ink: &y.Ink, Weight: &y.Weight, Bold: &y.Bold,
		Italic:    &y.Italic,
		Underline: &y.Underline, Size: &y.Size, Colour: &y.Colour, Align: &y.Align, Stand: &y.Stand, Margin: &y.Margin,
		Bullets: &y.Bullets}
	if o.line {
		set.Dashed, set.Line, set.Course, set.Radius, set.Hop, set.Merge = &k.Dashed, &k.Line, &k.Course, &k.Radius,
			&k.Hop, &k.Merge
		set.FromMark, set.ToMark, set.MarkSize = &k.FromMark, &k.ToMark, &k.MarkSize
	} else {
		set.Fill, set.Emphasis = &y.Fill, &y.Emphasis
	}
	worn := o.worn
	if e.M.StyleNamed(worn) == nil {
		worn = ""
	}
	edits := []edit.Edit{&edit.Wear{Sheet: e.SheetID, IDs: set.IDs, Style: worn}, set}
	if !o.line { // a dashed connector is the exceptional path: that is not taken from a symbol
		if ids := e.SymbolIDs(); len(ids) > 0 {
			edits = append(edits, &edit.SetStyle{Sheet: e.SheetID, IDs: ids, Dashed: &y.Dashed})
		}
	}
	e.giveStyleTo(edit.Together(as, edits...), set.IDs)
}

// SymbolIDs are the ids of the selected symbols.
func (e *Styling) SymbolIDs() []string {
	var out []string
	for _, sym := range e.Chosen() {
		out = append(out, sym.ID)
	}
	return out
}

// giveStyleTo makes an edit of styles, with what has to grow for it.
func (e *Styling) giveStyleTo(edit edit.Edit, ids []string) {
	all, err := compose.FitAfter(e.M, "", edit, e.Sheet())
	if err != nil {
		e.Say("Not done: %s.", err)
		return
	}
	if e.Do(all) {
		e.remember(ids)
	}
}

// SaveStyle saves how the first thing selected is drawn under a name; it wears
// the style from now on.
func (e *Styling) SaveStyle(name string) {
	if name = strings.TrimSpace(name); name == "" {
		e.Say("Give the style a name.")
		return
	}
	if slices.ContainsFunc(e.M.Styles, func(y model.Style) bool { return strings.EqualFold(y.Name, name) }) {
		e.Say("There is a style called “%s” already.", name)
		return
	}
	o, ok := e.styleOf(e.Sel[0])
	if !ok {
		return
	}
	y := o.style
	y.ID, y.Name = e.NewID(), name
	if e.Do(edit.Together(fmt.Sprintf("save the style “%s”", name), &edit.SaveStyle{Style: y},
		&edit.Wear{Sheet: e.SheetID, IDs: e.Sel[:1:1], Style: y.ID})) {
		e.remember(e.Sel[:1])
	}
}

// Wear gives the saved style called id to all that is selected.
func (e *Styling) Wear(id string) {
	if e.M.StyleNamed(id) == nil {
		e.Say("That style is not there any more.")
		return
	}
	ids := e.styleIDs()
	e.giveStyleTo(edit.Together("wear the style “"+e.M.StyleNamed(id).Name+"”",
		&edit.Wear{Sheet: e.SheetID, IDs: ids, Style: id}), ids)
}

// ChangeStyle makes a saved style what the first thing selected looks like; all
// that wear it follow, on all sheets.
func (e *Styling) ChangeStyle(id string) {
	had := e.M.StyleNamed(id)
	o, ok := e.styleOf(e.Sel[0])
	if had == nil || !ok {
		e.Say("That style is not there any more.")
		return
	}
	y := o.style
	y.ID, y.Name = had.ID, had.Name
	if o.line { // a connector says nothing about these
		y.Fill, y.Emphasis = had.Fill, had.Emphasis
	}
	edit, err := compose.FitAfter(e.M, fmt.Sprintf("change the style “%s”", y.Name),
		edit.Together("", &edit.SaveStyle{Style: y},
			&edit.Wear{Sheet: e.SheetID, IDs: e.Sel[:1:1], Style: y.ID}), e.M.Sheets...)
	if err != nil {
		e.Say("Not done: %s.", err)
		return
	}
	if e.Do(edit) {
		e.remember(e.Sel[:1])
	}
}

// NameStyle gives a saved style another name: its id, an equals sign, the name.
func (e *Styling) NameStyle(arg string) {
	id, name, _ := strings.Cut(arg, "=")
	had := e.M.StyleNamed(id)
	if name = strings.TrimSpace(name); had == nil || name == "" || name == had.Name {
		return
	}
	y := *had
	y.Name = name
	e.Do(&edit.SaveStyle{Style: y})
}
