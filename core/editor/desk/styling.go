package desk

import (
	"slices"
	"strings"

	"plaintracer/core/arrange"
	"plaintracer/core/compose"
	"plaintracer/core/edit"
	"plaintracer/core/findings"
	"plaintracer/core/geometry"
	"plaintracer/core/looks"
	"plaintracer/core/model"
	"plaintracer/core/pictures"
	"plaintracer/core/symbols"
	"plaintracer/core/typeset"
	"plaintracer/core/units"
)

// Sources returns the selected symbols, and those the selected connectors come
// from.
func (e *Styling) Sources() []*model.Symbol {
	out := e.Chosen()
	for _, c := range e.ChosenLines() {
		if sym := e.Symbol(c.From.Symbol); sym != nil && !slices.Contains(out, sym) {
			out = append(out, sym)
		}
	}
	return out
}

// Style applies a style to the selected connectors, or to the selected symbols;
// a change of the text itself to both. What grows is part of the edit.
func (e *Styling) Style(s *edit.SetStyle, lines bool) {
	s.Sheet, s.IDs = e.SheetID, nil
	if lines {
		for _, c := range e.ChosenLines() {
			s.IDs = append(s.IDs, c.ID)
		}
	} else {
		for _, sym := range e.Chosen() {
			s.IDs = append(s.IDs, sym.ID)
		}
	}
	e.styled(s)
}

func (e *Styling) styled(s *edit.SetStyle) {
	edits := []edit.Edit{s}
	if trial, err := edit.Attempt(e.M, s); err == nil {
		sized := map[string]bool{}
		for _, id := range s.IDs {
			sym := e.Symbol(id)
			if sym == nil || sized[id] {
				continue
			}
			if fit := arrange.Fit(e.M, e.Sheet(), sym); len(fit) > 0 {
				edits = append(edits, arrange.Grow(e.Sheet(), fit)...)
				for _, p := range fit {
					sized[p.ID] = true
				}
			}
		}
		trial.Rollback()
	}
	if e.Do(edit.Together("", edits...)) {
		e.remember(s.IDs)
		if s.Colour != nil || s.Fill != nil {
			e.sayFaint()
		}
	}
}

// StyleOutline sets the outline of symbols: "ink" or "weight", an equals sign
// and the value.
func (e *Styling) StyleOutline(arg string) {
	s := &edit.SetStyle{}
	name, value, _ := strings.Cut(arg, "=")
	if name == "ink" {
		colour, ok := e.colour(value)
		if !ok {
			return
		}
		s.Ink = &colour
	} else {
		n, ok := units.Parse(value, e.M.Units)
		if !ok {
			e.Say("The width of a line is a number of %s.", units.Name(e.M.Units))
			return
		}
		s.Weight = &n
	}
	e.Style(s, false)
}

// colour reads a colour: the name of one of the palette, or three or six hexadecimal digits, with or without a # before
// them. It says so where it is none.
func (e *Window) colour(text string) (string, bool) {
	c, ok := looks.ParseColour(text)
	if !ok {
		e.Say("“%s” is no colour: six hexadecimal digits, such as #2a7a5c, or three.", text)
	}
	return c, ok
}

// Readable gives the text of a symbol or connector, or of what is selected, a colour in which it can be read.
func (e *Styling) Readable(id string) {
	ids := e.Sel
	if id != "" {
		ids = []string{id}
	}
	var edits []edit.Edit
	for _, id := range ids {
		for _, s := range e.M.Sheets {
			if findings.Faint(e.M, s, id) == "" {
				continue
			}
			_, background := findings.Contrast(e.M, s, id)
			look := looks.Of(e.M)
			if sym := s.Symbol(id); sym != nil {
				look = looks.For(e.M, sym)
				plain := sym.Accented().Set(0, len([]rune(sym.Text)), func(a *model.Accent) {
					if looks.Contrast(look.Line(a.Colour, look.TextOf(sym)), background) < looks.AA {
						a.Colour = ""
					}
				})
				if !slices.Equal(plain.Accents, sym.Accents) {
					edits = append(edits, &edit.SetAccents{Sheet: s.ID, ID: id, Text: sym.Text, Accents: plain.Accents})
				}
				if looks.Contrast(look.TextOf(sym), background) >= looks.AA {
					continue
				}
			}
			colour := look.Readable(background)
			edits = append(edits, &edit.SetStyle{Sheet: s.ID, IDs: []string{id}, Colour: &colour})
		}
	}
	if len(edits) == 0 {
		e.Say("The text can be read.")
		return
	}
	e.Do(edit.Together("set text so that it can be read", edits...))
}

// sayFaint says so where what was selected has become hard to read.
func (e *Styling) sayFaint() {
	for _, id := range e.Sel {
		if text := findings.Faint(e.M, e.Sheet(), id); text != "" {
			e.Say("This %s.", text)
			e.Suggest = &Offer{"legible", "Set it so that it can be read"}
			return
		}
	}
}

// StyleText sets how texts are set: "bold", "italic", "underline" and "bullets"
// turn it on or off; others are a name, an equals sign and the value.
func (e *Styling) StyleText(arg string) {
	s := &edit.SetStyle{Sheet: e.SheetID}
	var first *model.Type
	for _, id := range e.Sel {
		var t *model.Type
		if sym := e.Symbol(id); sym != nil {
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
	length, ok := units.Parse(value, e.M.Units)
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
		size := typeset.HouseOf(e.M).StyleOf(looks.Of(e.M).Type(*first)).Size + Px
		if name == "smaller" {
			size -= 2 * Px
		}
		size = geometry.Clamp(size, model.MinType, model.MaxType)
		s.Size = &size
	case "size":
		length, ok := units.ParsePoints(value)
		if !ok || length < model.MinType || length > model.MaxType {
			e.Say("A type size is a number of points, from %s to %s pt.", units.Points(model.MinType),
				units.Points(model.MaxType))
			return
		}
		if length == looks.Of(e.M).Size {
			length = 0
		}
		s.Size = &length
	case "margin":
		if !ok {
			e.Say("A margin is a number of %s.", units.Name(e.M.Units))
			return
		}
		s.Margin = &length
	case "colour":
		colour, ok := e.colour(value)
		if !ok {
			return
		}
		s.Colour = &colour
	case "face":
		s.Face = &value
	case "align":
		s.Align = &value
	case "stand":
		s.Stand = &value
	default:
		e.Say("There is no way of setting text called %q.", name)
		return
	}
	e.styled(s)
}

// StyleLine sets how lines are drawn: a name, an equals sign and the value.
func (e *Styling) StyleLine(arg string) {
	s := &edit.SetStyle{}
	name, value, _ := strings.Cut(arg, "=")
	length, ok := units.Parse(value, e.M.Units)
	switch name {
	case "weight", "radius":
		if !ok {
			e.Say("The %s of a line is a number of %s.", name, units.Name(e.M.Units))
			return
		}
		if name == "weight" {
			s.Weight = &length
		} else {
			s.Radius = &length
		}
	case "ink":
		colour, ok := e.colour(value)
		if !ok {
			return
		}
		s.Ink = &colour
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
		e.Say("There is no way of drawing a line called %q.", name)
		return
	}
	e.Style(s, true)
}

// BothWays gives the beginnings of the selected connectors the marks of their
// ends, and an arrow at both where there was none.
func (e *Styling) BothWays() {
	var edits []edit.Edit
	for _, c := range e.ChosenLines() {
		_, mark := c.Marks()
		if mark == model.MarkNone {
			mark = model.MarkArrow
		}
		edits = append(edits, &edit.SetStyle{Sheet: e.SheetID, IDs: []string{c.ID}, FromMark: &mark, ToMark: &mark})
	}
	e.Do(edit.Together("change the ends", edits...))
}

// SameSize gives the selected symbols the width, the height or both of the one
// selected last; none gets smaller than its text needs.
func (e *Styling) SameSize(arg string) {
	list := e.Chosen()
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
		if fit := arrange.Fit(e.M, e.Sheet(), &after); len(fit) > 0 {
			after.Box = fit[0].Box
			e.Say("Some symbols stay larger because of their text.")
		}
		if after.Box != sym.Box {
			boxes = append(boxes, edit.Place{ID: sym.ID, Box: after.Box})
		}
	}
	if len(boxes) > 0 {
		e.DoMoving(&edit.PlaceItems{Sheet: e.SheetID, As: "make the same size", Boxes: boxes})
	}
}

// SizeToText makes the selected symbols as small as their texts allow.
func (e *Styling) SizeToText() {
	var boxes []edit.Place
	for _, sym := range e.Chosen() {
		w, h := typeset.HouseOf(e.M).Snug(symbols.Of(sym.Kind), sym.Accented(), looks.For(e.M, sym).Type(sym.Type))
		if b := geometry.Around(sym.Centre(), w, h); b != sym.Box {
			boxes = append(boxes, edit.Place{ID: sym.ID, Box: b})
		}
	}
	if len(boxes) > 0 {
		e.DoMoving(&edit.PlaceItems{Sheet: e.SheetID, As: "size to text", Boxes: boxes})
	}
}

// AddLegend sets the sheet's legend down in a corner of the paper, the lower right one where there is room, or selects
// the one that is there.
func (e *Styling) AddLegend() { e.addExplained(model.Legend) }

// AddContents does the same with a table of contents, in the upper right corner where there is room.
func (e *Styling) AddContents() { e.addExplained(model.Contents) }

func (e *Styling) addExplained(kind model.Kind) {
	s := e.Sheet()
	if i := slices.IndexFunc(s.Symbols, func(sym *model.Symbol) bool { return sym.Kind == kind }); i >= 0 {
		e.Sel, e.Lane, e.Centre = []string{s.Symbols[i].ID}, "", s.Symbols[i].ID
		return
	}
	sym := model.Symbol{ID: e.NewID(), Kind: kind,
		Box: e.corner(symbols.Of(kind).W, e.M.ExplainedHeight(s, kind), kind.Lists())}
	if e.Do(&edit.AddItems{Sheet: s.ID, Symbols: []model.Symbol{sym}}) {
		e.Sel, e.Lane, e.Centre = []string{sym.ID}, "", sym.ID
	}
}

// corner returns the place of something of a size in a corner of the paper: the first of the right and left ones in
// which nothing stands, else no symbol, else the first. Upper ones come before lower ones, or after them.
func (e *Styling) corner(w, h int, upper bool) geometry.Box {
	s, page := e.Sheet(), e.Sheet().Page().Grown(-2*arrange.Grid)
	var list []geometry.Box
	for _, up := range [2]bool{upper, !upper} {
		for _, x := range [2]int{page.Right() - w, page.X} {
			y := page.Bottom() - h
			if up {
				y = page.Y
			}
			list = append(list, geometry.Box{X: x, Y: y, W: w, H: h})
		}
	}
	covers := func(b geometry.Box) bool {
		return slices.ContainsFunc(s.Symbols, func(o *model.Symbol) bool { return o.Meets(b) })
	}
	for _, pools := range [2]bool{true, false} {
		for _, b := range list {
			if !covers(b) &&
				(!pools || !slices.ContainsFunc(s.Pools, func(p *model.Pool) bool { return p.Box().Meets(b) })) {
				return b
			}
		}
	}
	return list[0]
}

// SetFitting sets what gives way when a text does not fit. Symbols that are too
// small for their texts under the new way grow with it.
func (e *Styling) SetFitting(arg string) {
	v := model.Fitting(arg)
	set := &edit.SetSheet{Sheet: e.SheetID, Fitting: &v}
	edit, err := compose.FitAfter(e.M, "change how text fits", set, e.Sheet())
	if err != nil {
		e.Say("Not done: %s.", err)
		return
	}
	e.Do(edit)
}

// Picture puts a picture file on the sheet: into the selected picture symbol,
// else into a new one in the middle of what is in sight.
func (e *Styling) Picture(file []byte, x, y int) { e.picture(file, geometry.Point{X: x, Y: y}) }

// PictureOn is Picture for a file let go at x, y: a picture that lies there takes it, whatever
// is selected; elsewhere it is a new one.
func (e *Styling) PictureOn(file []byte, x, y int) {
	at := geometry.Point{X: x, Y: y}
	e.Sel, e.Lane = nil, ""
	if sym := e.Symbol(e.SymbolAt(at, 0)); sym != nil && takesPicture(sym) {
		e.Sel = []string{sym.ID}
	} else if h := e.Hit(at); e.OnJourney() && h == (Hit{ID: h.ID}) && e.Sheet().Pool(h.ID) != nil { // on the person
		e.Sel = []string{h.ID}
	}
	e.picture(file, at)
}

// takesPicture reports whether a picture goes into the symbol: into one that shows nothing else, or onto the card of a
// person.
func takesPicture(sym *model.Symbol) bool {
	return sym.Kind.ShowsPicture() || sym.Kind == model.PersonCard
}

func (e *Styling) picture(file []byte, at geometry.Point) {
	pic, err := pictures.Read(file)
	if err != nil {
		e.ToBackground = false
		e.Say("Not done: %s.", err)
		return
	}
	if len(e.Tracing) > 0 {
		e.Say(TracingWords)
		return
	}
	if e.ToBackground {
		e.ToBackground = false
		g := e.Sheet().Background
		g.Picture = pic.ID
		keep := &edit.AddItems{Sheet: e.SheetID, Pictures: []pictures.Picture{pic}}
		e.Do(edit.Together("set the background", keep, &edit.SetSheet{Sheet: e.SheetID, Background: &g}))
		return
	}
	if p := e.Journeys.oneJourney(); p != nil && p.Journey {
		e.Do(&edit.SetPersona{Sheet: e.SheetID, Pool: p.ID, Picture: &pic.ID, Pictures: []pictures.Picture{pic}})
		return
	}
	if sym := e.One(); sym != nil && takesPicture(sym) {
		keep := &edit.AddItems{Sheet: e.SheetID, Pictures: []pictures.Picture{pic}}
		e.Do(edit.Together("change the picture", keep, &edit.SetStyle{Sheet: e.SheetID, IDs: []string{sym.ID},
			Picture: &pic.ID}))
		return
	}
	if spot, in := e.SpotAt(at); in && e.Journeys.holds(spot, model.Picture) {
		sym := e.NewSymbol(model.Picture, model.CellBox)
		sym.Picture = pic.ID
		keep := &edit.AddItems{Sheet: e.SheetID, Pictures: []pictures.Picture{pic}}
		if e.Do(edit.Together("add a picture", keep, e.Work().InCell(sym, spot.Row, spot.Stage, ""))) {
			e.Sel, e.Lane = []string{sym.ID}, ""
		}
		return
	}
	const most = 320 * Px
	w, h := pic.W*Px, pic.H*Px
	if w > most || h > most {
		w, h = most*w/max(w, h), most*h/max(w, h)
	}
	def := symbols.Of(model.Picture)
	sym := model.Symbol{ID: e.NewID(), Kind: model.Picture, Picture: pic.ID,
		Box: geometry.Around(at, max(w, def.MinW), max(h, def.MinH))}
	if e.Do(&edit.AddItems{Sheet: e.SheetID, Symbols: []model.Symbol{sym}, Pictures: []pictures.Picture{pic}}) {
		e.Sel, e.Lane = []string{sym.ID}, ""
	}
}
