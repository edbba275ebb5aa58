package editor

import (
	"slices"
	"strings"

	"plaintracer/core/arrange"
	"plaintracer/core/compose"
	"plaintracer/core/edit"
	"plaintracer/core/geometry"
	"plaintracer/core/looks"
	"plaintracer/core/model"
	"plaintracer/core/pictures"
	"plaintracer/core/symbols"
	"plaintracer/core/typeset"
	"plaintracer/core/units"
)

// sources returns the selected symbols, and those the selected connectors come
// from.
func (e *Styling) sources() []*model.Symbol {
	out := e.chosen()
	for _, c := range e.lines() {
		if sym := e.symbol(c.From.Symbol); sym != nil && !slices.Contains(out, sym) {
			out = append(out, sym)
		}
	}
	return out
}

// style applies a style to the selected connectors, or to the selected symbols;
// a change of the text itself to both. What grows is part of the edit.
func (e *Styling) style(s *edit.SetStyle, lines bool) {
	s.Sheet, s.IDs = e.sheetID, nil
	if lines {
		for _, c := range e.lines() {
			s.IDs = append(s.IDs, c.ID)
		}
	} else {
		for _, sym := range e.chosen() {
			s.IDs = append(s.IDs, sym.ID)
		}
	}
	e.styled(s)
}

func (e *Styling) styled(s *edit.SetStyle) {
	edits := []edit.Edit{s}
	if trial, err := edit.Attempt(e.m, s); err == nil {
		sized := map[string]bool{}
		for _, id := range s.IDs {
			sym := e.symbol(id)
			if sym == nil || sized[id] {
				continue
			}
			if fit := arrange.Fit(e.m, e.Sheet(), sym); len(fit) > 0 {
				edits = append(edits, arrange.Grow(e.Sheet(), fit)...)
				for _, p := range fit {
					sized[p.ID] = true
				}
			}
		}
		trial.Rollback()
	}
	if e.do(edit.Together("", edits...)) {
		e.remember(s.IDs)
	}
}

// styleOutline sets the outline of symbols: "ink" or "weight", an equals sign
// and the value.
func (e *Styling) styleOutline(arg string) {
	s := &edit.SetStyle{}
	name, value, _ := strings.Cut(arg, "=")
	if name == "ink" {
		s.Ink = &value
	} else {
		n, ok := units.Parse(value, e.m.Units)
		if !ok {
			e.say("The width of a line is a number of %s.", units.Name(e.m.Units))
			return
		}
		s.Weight = &n
	}
	e.style(s, false)
}

// styleText sets how texts are set: "bold", "italic", "underline" and "bullets"
// turn it on or off; others are a name, an equals sign and the value.
func (e *Styling) styleText(arg string) {
	s := &edit.SetStyle{Sheet: e.sheetID}
	var first *model.Type
	for _, id := range e.sel {
		var t *model.Type
		if sym := e.symbol(id); sym != nil {
			t = &sym.Type
		} else if c := e.Sheet().Connector(id); c != nil {
			t = &c.Type
		} else {
			continue
		}
		s.IDs = append(s.IDs, id)
		if first == nil {
			first = t
		}
	}
	turn := func(now bool) *bool { now = !now; return &now }
	name, value, _ := strings.Cut(arg, "=")
	length, ok := units.Parse(value, e.m.Units)
	switch name {
	case "bold":
		s.Bold = turn(first.Bold)
	case "italic":
		s.Italic = turn(first.Italic)
	case "underline":
		s.Underline = turn(first.Underline)
	case "bullets":
		s.Bullets = turn(first.Bullets)
	case "larger", "smaller":
		size := typeset.HouseOf(e.m).StyleOf(looks.Of(e.m).Type(*first)).Size + px
		if name == "smaller" {
			size -= 2 * px
		}
		size = geometry.Clamp(size, model.MinType, model.MaxType)
		s.Size = &size
	case "size":
		length, ok := units.ParsePoints(value)
		if !ok || length < model.MinType || length > model.MaxType {
			e.say("A type size is a number of points, from %s to %s pt.", units.Points(model.MinType), units.Points(model.MaxType))
			return
		}
		if length == looks.Of(e.m).Size {
			length = 0
		}
		s.Size = &length
	case "margin":
		if !ok {
			e.say("A margin is a number of %s.", units.Name(e.m.Units))
			return
		}
		s.Margin = &length
	case "colour":
		s.Colour = &value
	case "align":
		s.Align = &value
	case "stand":
		s.Stand = &value
	default:
		e.say("There is no way of setting text called %q.", name)
		return
	}
	e.styled(s)
}

// styleLine sets how lines are drawn: a name, an equals sign and the value.
func (e *Styling) styleLine(arg string) {
	s := &edit.SetStyle{}
	name, value, _ := strings.Cut(arg, "=")
	length, ok := units.Parse(value, e.m.Units)
	switch name {
	case "weight", "radius":
		if !ok {
			e.say("The %s of a line is a number of %s.", name, units.Name(e.m.Units))
			return
		}
		if name == "weight" {
			s.Weight = &length
		} else {
			s.Radius = &length
		}
	case "ink":
		s.Ink = &value
	case "line":
		v := model.Line(value)
		s.Line = &v
	case "course":
		v := model.Run(value)
		s.Course = &v
	case "hop":
		v := model.Crossing(value)
		s.Hop = &v
	case "merge":
		v := model.Merging(value)
		s.Merge = &v
	case "from":
		v := model.Mark(value)
		s.FromMark = &v
	case "to":
		v := model.Mark(value)
		s.ToMark = &v
	case "size":
		v := model.MarkSize(value)
		s.MarkSize = &v
	default:
		e.say("There is no way of drawing a line called %q.", name)
		return
	}
	e.style(s, true)
}

// bothWays gives the beginnings of the selected connectors the marks of their
// ends, and an arrow at both where there was none.
func (e *Styling) bothWays() {
	var edits []edit.Edit
	for _, c := range e.lines() {
		_, mark := c.Marks()
		if mark == model.MarkNone {
			mark = model.MarkArrow
		}
		edits = append(edits, &edit.SetStyle{Sheet: e.sheetID, IDs: []string{c.ID}, FromMark: &mark, ToMark: &mark})
	}
	e.do(edit.Together("change the ends", edits...))
}

// sameSize gives the selected symbols the width, the height or both of the one
// selected last; none gets smaller than its text needs.
func (e *Styling) sameSize(arg string) {
	list := e.chosen()
	last := list[len(list)-1]
	var boxes []edit.Place
	for _, sym := range list[:len(list)-1] {
		after := *sym
		w, h := sym.W, sym.H
		if arg != "height" {
			w = last.W
		}
		if arg != "width" {
			h = last.H
		}
		after.Box = geometry.Around(sym.Centre(), w, h)
		if fit := arrange.Fit(e.m, e.Sheet(), &after); len(fit) > 0 {
			after.Box = fit[0].Box
			e.say("Some symbols stay larger because of their text.")
		}
		if after.Box != sym.Box {
			boxes = append(boxes, edit.Place{ID: sym.ID, Box: after.Box})
		}
	}
	if len(boxes) > 0 {
		e.doMoving(&edit.PlaceItems{Sheet: e.sheetID, As: "make the same size", Boxes: boxes})
	}
}

// sizeToText makes the selected symbols as small as their texts allow.
func (e *Styling) sizeToText() {
	var boxes []edit.Place
	for _, sym := range e.chosen() {
		w, h := typeset.HouseOf(e.m).Snug(symbols.Of(sym.Kind), sym.Text, looks.For(e.m, sym).Type(sym.Type))
		if b := geometry.Around(sym.Centre(), w, h); b != sym.Box {
			boxes = append(boxes, edit.Place{ID: sym.ID, Box: b})
		}
	}
	if len(boxes) > 0 {
		e.doMoving(&edit.PlaceItems{Sheet: e.sheetID, As: "size to text", Boxes: boxes})
	}
}

// addLegend sets the sheet's legend down in the lower right corner of the
// paper, or selects the one that is there.
func (e *Styling) addLegend() {
	s := e.Sheet()
	if i := slices.IndexFunc(s.Symbols, func(sym *model.Symbol) bool { return sym.Kind.Explains() }); i >= 0 {
		e.sel, e.lane, e.centre = []string{s.Symbols[i].ID}, "", s.Symbols[i].ID
		return
	}
	def, page := symbols.Of(model.Legend), s.Page()
	h := model.LegendHead + max(len(s.LegendKinds())+len(e.m.ColourKey()), 1)*model.LegendRow
	sym := model.Symbol{ID: e.newID(), Kind: model.Legend,
		Box: geometry.Box{X: page.Right() - def.W - 2*arrange.Grid, Y: page.Bottom() - h - 2*arrange.Grid, W: def.W, H: h}}
	if e.do(&edit.AddItems{Sheet: s.ID, Symbols: []model.Symbol{sym}}) {
		e.sel, e.lane, e.centre = []string{sym.ID}, "", sym.ID
	}
}

// setFitting sets what gives way when a text does not fit. Symbols that are too
// small for their texts under the new way grow with it.
func (e *Styling) setFitting(arg string) {
	v := model.Fitting(arg)
	set := &edit.SetSheet{Sheet: e.sheetID, Fitting: &v}
	edit, err := compose.FitAfter(e.m, "change how text fits", set, e.Sheet())
	if err != nil {
		e.say("Not done: %s.", err)
		return
	}
	e.do(edit)
}

// Picture puts a picture file on the sheet: into the selected picture symbol,
// else into a new one in the middle of what is in sight.
func (e *Styling) Picture(file []byte, x, y int) { e.picture(file, geometry.Point{X: x, Y: y}) }

// PictureOn is Picture for a file let go at x, y: a picture that lies there takes it, whatever
// is selected; elsewhere it is a new one.
func (e *Styling) PictureOn(file []byte, x, y int) {
	at := geometry.Point{X: x, Y: y}
	e.sel, e.lane = nil, ""
	if sym := e.symbol(e.symbolAt(at, 0)); sym != nil && sym.Kind.ShowsPicture() {
		e.sel = []string{sym.ID}
	}
	e.picture(file, at)
}

func (e *Styling) picture(file []byte, at geometry.Point) {
	p, err := pictures.Read(file)
	if err != nil {
		e.ground = false
		e.say("Not done: %s.", err)
		return
	}
	if len(e.tracing) > 0 {
		e.say(tracingWords)
		return
	}
	if e.ground {
		e.ground = false
		g := e.Sheet().Ground
		g.Picture = p.ID
		keep := &edit.AddItems{Sheet: e.sheetID, Pictures: []pictures.Picture{p}}
		e.do(edit.Together("set the background", keep, &edit.SetSheet{Sheet: e.sheetID, Ground: &g}))
		return
	}
	if sym := e.one(); sym != nil && sym.Kind.ShowsPicture() {
		keep := &edit.AddItems{Sheet: e.sheetID, Pictures: []pictures.Picture{p}}
		e.do(edit.Together("change the picture", keep, &edit.SetStyle{Sheet: e.sheetID, IDs: []string{sym.ID}, Picture: &p.ID}))
		return
	}
	const most = 320 * px
	w, h := p.W*px, p.H*px
	if w > most || h > most {
		w, h = most*w/max(w, h), most*h/max(w, h)
	}
	def := symbols.Of(model.Picture)
	sym := model.Symbol{ID: e.newID(), Kind: model.Picture, Picture: p.ID,
		Box: geometry.Around(at, max(w, def.MinW), max(h, def.MinH))}
	if e.do(&edit.AddItems{Sheet: e.sheetID, Symbols: []model.Symbol{sym}, Pictures: []pictures.Picture{p}}) {
		e.sel, e.lane = []string{sym.ID}, ""
	}
}
