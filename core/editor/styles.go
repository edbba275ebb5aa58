package editor

import (
	"fmt"
	"slices"
	"strings"

	"plaintracer/core/compose"
	"plaintracer/core/edit"
	"plaintracer/core/geometry"
	"plaintracer/core/model"
)

// copiedStyle is how symbols and connectors are drawn, as far as it can be taken
// from one and given to another.
type copiedStyle struct {
	style model.Style
	// worn is the id of the saved style it came from.
	worn string
	// stroke is that of a connector; only one that was taken from one has it.
	stroke model.Stroke
	line   bool
}

// newSymbol returns a symbol under a new id, in the style symbols were given
// last and in the group one works in.
func (e *Window) newSymbol(kind model.Kind, box geometry.Box) model.Symbol {
	sym := model.Symbol{ID: e.newID(), Kind: kind, Box: box, Text: e.work().Letter(kind), Group: e.inside}
	if !kind.IsAside() && !kind.IsReference() {
		y := e.last.style
		sym.Fill, sym.Ink, sym.Weight, sym.Dashed, sym.Type = y.Fill, y.Ink, y.Weight, y.Dashed, y.Type
		if e.m.StyleNamed(e.last.worn) != nil {
			sym.Style, sym.Emphasis = e.last.worn, y.Emphasis
		}
	}
	return sym
}

// giveTo gives a new connector the style connectors were given last. What
// says something about the flow (marks, the exceptional path) is not taken on.
func (o *copiedStyle) giveTo(c *model.Connector) {
	k := o.stroke
	c.Line, c.Weight, c.Ink, c.Course, c.Radius, c.Hop, c.MarkSize = k.Line, k.Weight, k.Ink, k.Course, k.Radius, k.Hop, k.MarkSize
}

// styleOf returns how the thing called id is drawn.
func (e *Window) styleOf(id string) (copiedStyle, bool) {
	s := e.Sheet()
	if sym := s.Symbol(id); sym != nil {
		return copiedStyle{style: sym.StyleOf(), worn: sym.Style}, true
	}
	if c := s.Connector(id); c != nil {
		return copiedStyle{style: c.StyleOf(), worn: c.Style, stroke: c.Stroke, line: true}, true
	}
	return copiedStyle{}, false
}

// remember lets what comes new take the style that was given last.
func (e *Window) remember(ids []string) {
	for _, id := range ids {
		o, ok := e.styleOf(id)
		switch {
		case ok && o.line:
			e.last.stroke = o.stroke
		case ok:
			e.last.style, e.last.worn = o.style, o.worn
		}
	}
}

// takeStyle picks up how the first thing selected is drawn.
func (e *Styling) takeStyle() {
	if o, ok := e.styleOf(e.sel[0]); ok {
		e.taken = &o
		e.say("Style copied. Select other things and apply it to them.")
	}
}

// styleIDs returns the selected symbols and connectors.
func (e *Styling) styleIDs() []string {
	s := e.Sheet()
	return slices.DeleteFunc(slices.Clone(e.sel), func(id string) bool { return s.Symbol(id) == nil && s.Connector(id) == nil })
}

// giveStyle gives the style that was taken to all that is selected.
func (e *Styling) giveStyle(o copiedStyle, as string) {
	y, k := o.style, o.stroke
	set := &edit.SetStyle{Sheet: e.sheetID, IDs: e.styleIDs(), Ink: &y.Ink, Weight: &y.Weight, Bold: &y.Bold, Italic: &y.Italic,
		Underline: &y.Underline, Size: &y.Size, Colour: &y.Colour, Align: &y.Align, Stand: &y.Stand, Margin: &y.Margin, Bullets: &y.Bullets}
	if o.line {
		set.Dashed, set.Line, set.Course, set.Radius, set.Hop, set.Merge = &k.Dashed, &k.Line, &k.Course, &k.Radius, &k.Hop, &k.Merge
		set.FromMark, set.ToMark, set.MarkSize = &k.FromMark, &k.ToMark, &k.MarkSize
	} else {
		set.Fill, set.Emphasis = &y.Fill, &y.Emphasis
	}
	worn := o.worn
	if e.m.StyleNamed(worn) == nil {
		worn = ""
	}
	edits := []edit.Edit{&edit.Wear{Sheet: e.sheetID, IDs: set.IDs, Style: worn}, set}
	if !o.line { // a dashed connector is the exceptional path: that is not taken from a symbol
		if ids := e.symbolIDs(); len(ids) > 0 {
			edits = append(edits, &edit.SetStyle{Sheet: e.sheetID, IDs: ids, Dashed: &y.Dashed})
		}
	}
	e.giveStyleTo(edit.Together(as, edits...), set.IDs)
}

func (e *Styling) symbolIDs() []string {
	var out []string
	for _, sym := range e.chosen() {
		out = append(out, sym.ID)
	}
	return out
}

// giveStyleTo makes an edit of styles, with what has to grow for it.
func (e *Styling) giveStyleTo(edit edit.Edit, ids []string) {
	all, err := compose.FitAfter(e.m, "", edit, e.Sheet())
	if err != nil {
		e.say("Not done: %s.", err)
		return
	}
	if e.do(all) {
		e.remember(ids)
	}
}

// saveStyle saves how the first thing selected is drawn under a name; it wears
// the style from now on.
func (e *Styling) saveStyle(name string) {
	if name = strings.TrimSpace(name); name == "" {
		e.say("Give the style a name.")
		return
	}
	if slices.ContainsFunc(e.m.Styles, func(y model.Style) bool { return strings.EqualFold(y.Name, name) }) {
		e.say("There is a style called “%s” already.", name)
		return
	}
	o, ok := e.styleOf(e.sel[0])
	if !ok {
		return
	}
	y := o.style
	y.ID, y.Name = e.newID(), name
	if e.do(edit.Together(fmt.Sprintf("save the style “%s”", name), &edit.SaveStyle{Style: y},
		&edit.Wear{Sheet: e.sheetID, IDs: e.sel[:1:1], Style: y.ID})) {
		e.remember(e.sel[:1])
	}
}

// wear gives the saved style called id to all that is selected.
func (e *Styling) wear(id string) {
	if e.m.StyleNamed(id) == nil {
		e.say("That style is not there any more.")
		return
	}
	ids := e.styleIDs()
	e.giveStyleTo(edit.Together("wear the style “"+e.m.StyleNamed(id).Name+"”", &edit.Wear{Sheet: e.sheetID, IDs: ids, Style: id}), ids)
}

// changeStyle makes a saved style what the first thing selected looks like; all
// that wear it follow, on all sheets.
func (e *Styling) changeStyle(id string) {
	had := e.m.StyleNamed(id)
	o, ok := e.styleOf(e.sel[0])
	if had == nil || !ok {
		e.say("That style is not there any more.")
		return
	}
	y := o.style
	y.ID, y.Name = had.ID, had.Name
	if o.line { // a connector says nothing about these
		y.Fill, y.Emphasis = had.Fill, had.Emphasis
	}
	edit, err := compose.FitAfter(e.m, fmt.Sprintf("change the style “%s”", y.Name), edit.Together("", &edit.SaveStyle{Style: y},
		&edit.Wear{Sheet: e.sheetID, IDs: e.sel[:1:1], Style: y.ID}), e.m.Sheets...)
	if err != nil {
		e.say("Not done: %s.", err)
		return
	}
	if e.do(edit) {
		e.remember(e.sel[:1])
	}
}

// nameStyle gives a saved style another name: its id, an equals sign, the name.
func (e *Styling) nameStyle(arg string) {
	id, name, _ := strings.Cut(arg, "=")
	had := e.m.StyleNamed(id)
	if name = strings.TrimSpace(name); had == nil || name == "" || name == had.Name {
		return
	}
	y := *had
	y.Name = name
	e.do(&edit.SaveStyle{Style: y})
}
