package scene

import (
	"slices"

	"plaintracer/core/edit"
	"plaintracer/core/geometry"
	"plaintracer/core/labels"
	"plaintracer/core/looks"
	"plaintracer/core/model"
	"plaintracer/core/routing"
	"plaintracer/core/symbols"
	"plaintracer/core/typeset"
)

// Links returns what the router needs to know of a sheet.
func Links(m *model.Map, s *model.Sheet) routing.Scene {
	var l Linker
	l.Fill(m, s)
	return l.Scene
}

// Linker builds the router's scene again and again into the same memory, which
// keeps the garbage collector out of a drag.
type Linker struct {
	Scene  routing.Scene
	place  map[string]int
	link   map[string]int
	labels map[labelKey]geometry.Point
	sides  map[sizeKey]sides
	// exits counts those of every symbol.
	exits []exits
	m     *model.Map
	sheet *model.Sheet
	// filled are what links depend on of the symbols of the scene.
	filled []filled
	look   *looks.Look
	house  typeset.House
	// kept is the scene that Keep was told of, with the kinds of its symbols.
	kept  routing.Scene
	kinds []model.Kind
}

// Keep notes the scene as it is, whose courses are known now.
func (l *Linker) Keep() {
	l.kept.CopyOf(&l.Scene)
	l.kinds = l.kinds[:0]
	for _, sym := range l.sheet.Symbols {
		l.kinds = append(l.kinds, sym.Kind)
	}
}

// Forget has the next scene be another one, whatever it is.
func (l *Linker) Forget() { l.kinds = nil }

// Kept reports whether the scene is the one that was noted, so that its courses are the same.
func (l *Linker) Kept() bool {
	return l.kinds != nil && l.Scene.Equal(&l.kept) &&
		slices.EqualFunc(l.sheet.Symbols, l.kinds, func(sym *model.Symbol, kind model.Kind) bool {
			return sym.Kind == kind
		})
}

// filled is what of a symbol the links at it depend on.
type filled struct {
	kind  model.Kind
	trunk bool
}

type labelKey struct {
	text string
	model.Type
}

type sizeKey struct {
	kind model.Kind
	w, h int
}

// sides are the glue points of a kind at a size, and how far ends may slide.
type sides struct {
	glue  [4]geometry.Point
	reach [4]int
}

// Follow brings the scene up to date with a sheet of which only some may have changed since.
func (l *Linker) Follow(m *model.Map, s *model.Sheet, touched *edit.Touched) {
	if items, few := touched.Few(); !few || s != l.sheet || !l.follow(s, items) {
		l.Fill(m, s)
	}
}

// follow brings what is at some items up to date, and reports whether that is all there is to do.
func (l *Linker) follow(s *model.Sheet, items map[string]bool) bool {
	links := false
	for id := range items {
		if i, ok := l.place[id]; ok {
			sym := s.Symbols[i]
			if l.filled[i] != (filled{sym.Kind, sym.Trunk}) {
				return false
			}
			l.Scene.Boxes[i] = l.outline(sym)
			l.Scene.Glue[i], l.Scene.Reach[i] = l.sidesAt(sym, l.Scene.Boxes[i])
		} else if i, ok := l.link[id]; ok {
			l.Scene.Links[i] = l.linkOf(s.Connectors[i])
			links = true
		} else if s.Pool(id) != nil {
			return false
		}
	}
	if links {
		l.fork()
	}
	return true
}

// Fill brings the scene up to date with a sheet.
func (l *Linker) Fill(m *model.Map, s *model.Sheet) {
	out := &l.Scene
	out.Down = m.Direction == model.Downwards
	out.Boxes, out.Glue, out.Links = out.Boxes[:0], out.Glue[:0], out.Links[:0]
	out.Reach, out.Open, out.Heads = out.Reach[:0], out.Open[:0], out.Heads[:0]
	out.Borders, l.filled = out.Borders[:0], l.filled[:0]
	if l.place == nil {
		l.place, l.link = map[string]int{}, map[string]int{}
		l.labels, l.sides = map[labelKey]geometry.Point{}, map[sizeKey]sides{}
		out.Meet = func(box int, side geometry.Side, at int) int {
			sym := l.sheet.Symbols[box]
			if b := out.Boxes[box]; side == geometry.Bottom && b.H > sym.H { // values stand under it
				return b.Bottom()
			}
			if side.Upright() {
				return symbols.Of(sym.Kind).Meet(sym.W, sym.H, side, at-sym.X) + sym.Y
			}
			return symbols.Of(sym.Kind).Meet(sym.W, sym.H, side, at-sym.Y) + sym.X
		}
	}
	l.m, l.sheet, l.look = m, s, looks.Of(m)
	if house := typeset.HouseOf(m); house != l.house {
		l.house = house
		clear(l.labels)
	}
	clear(l.place)
	clear(l.link)
	for i, sym := range s.Symbols {
		l.place[sym.ID] = i
		outline := l.outline(sym)
		glue, reach := l.sidesAt(sym, outline)
		out.Boxes = append(out.Boxes, outline)
		out.Glue, out.Reach = append(out.Glue, glue), append(out.Reach, reach)
		l.filled = append(l.filled, filled{sym.Kind, sym.Trunk})
		out.Open = append(out.Open, symbols.Of(sym.Kind).Hollow)
		out.Heads = append(out.Heads, false)
	}
	for _, p := range s.Pools {
		b := p.Own(p.Box())
		b.W = p.Heads()
		b = p.Own(b)
		out.Boxes = append(out.Boxes, b)
		out.Heads = append(out.Heads, true)
		out.Glue = append(out.Glue, [4]geometry.Point{})
		out.Reach = append(out.Reach, [4]int{})
		out.Borders = borders(out.Borders, p)
	}
	for i, c := range s.Connectors {
		l.link[c.ID] = i
	}
	for _, c := range s.Connectors {
		out.Links = append(out.Links, l.linkOf(c))
	}
	l.fork()
}

// fork lets the exits of a step that leads to three or more others, without a word of which is which, leave by one
// line, where lines merge; and two or three answers by sides of their own.
func (l *Linker) fork() {
	if !l.sheet.Merging {
		return
	}
	const several = 3
	l.exits = slices.Grow(l.exits[:0], len(l.sheet.Symbols))[:len(l.sheet.Symbols)]
	clear(l.exits)
	for i := range l.Scene.Links {
		if k := &l.Scene.Links[i]; k.From != routing.None {
			e := &l.exits[k.From]
			e.count++
			e.labelled = e.labelled || k.Labels != [3]labels.Label{}
			e.other = e.other || k.To == routing.None || l.sheet.Symbols[k.To].Kind.IsInformation() || !k.Merge
		}
	}
	for i := range l.Scene.Links {
		k := &l.Scene.Links[i]
		if k.From == routing.None {
			continue
		}
		e := l.exits[k.From]
		k.Fork = e.count >= several && !e.labelled && !e.other && !k.Branch
		k.Answer = k.Branch && e.count <= several
	}
}

// exits are those of a symbol: how many, whether one has a label, and whether one leads to something other than a step,
// or apart.
type exits struct {
	count           int
	labelled, other bool
}

// borders adds those of a pool and of its lanes.
func borders(list []routing.Border, p *model.Pool) []routing.Border {
	b := p.Box()
	for _, x := range [2]int{b.X, b.Right()} {
		list = append(list, routing.Border{Upright: true, At: x, Lo: b.Y, Hi: b.Bottom()})
	}
	for _, y := range [2]int{b.Y, b.Bottom()} {
		list = append(list, routing.Border{At: y, Lo: b.X, Hi: b.Right()})
	}
	for i := 1; i < len(p.Lanes); i++ {
		l := p.LaneBox(i)
		if p.Down {
			list = append(list, routing.Border{Upright: true, At: l.X, Lo: b.Y, Hi: b.Bottom()})
		} else {
			list = append(list, routing.Border{At: l.Y, Lo: b.X, Hi: b.Right()})
		}
	}
	return list
}

func (l *Linker) linkOf(c *model.Connector) routing.Link {
	k := routing.Link{From: l.box(c.From), To: l.box(c.To), FromSide: side(c.From), ToSide: side(c.To),
		FromAt: c.From.At, ToAt: c.To.At,
		Straight: c.Course == model.Straight, Curved: c.Course == model.Curved}
	if onto, ok := l.link[c.To.Connector]; ok && c.To.Connector != "" {
		k.Joins, k.Onto = true, onto
	}
	if k.From != routing.None {
		from := l.sheet.Symbols[k.From]
		k.Branch, k.Trunk = from.Kind.Asks(), from.Trunk
	}
	k.Merge = l.sheet.Merges(c)
	if c.Course != model.Straight {
		for _, b := range c.Bends {
			k.Bends = append(k.Bends, routing.Bend{Upright: b.Upright, At: b.At})
		}
	}
	for i, label := range c.Labels() {
		if *label.Text == "" {
			continue
		}
		p := *label.Place
		k.Labels[i] = labels.Label{Size: l.label(labelKey{*label.Text, l.look.Type(c.Type)}), Held: p != model.Spot{},
			Along: p.Along, Off: p.Off}
	}
	return k
}

func (l *Linker) box(e model.End) int {
	if i, ok := l.place[e.Symbol]; ok && e.Symbol != "" {
		return i
	}
	return routing.None
}

// sidesAt returns the glue points of a symbol with its outline, and how far ends may slide.
func (l *Linker) sidesAt(sym *model.Symbol, outline geometry.Box) (glue [4]geometry.Point, reach [4]int) {
	d := l.sidesOf(sym)
	for k := range d.glue {
		d.glue[k] = d.glue[k].Add(sym.Corner())
	}
	if outline.H > sym.H {
		d.glue[geometry.Bottom].Y = outline.Bottom()
	}
	return d.glue, d.reach
}

// outline returns the box that lines and labels keep clear of: that of the symbol with the values under it.
func (l *Linker) outline(sym *model.Symbol) geometry.Box {
	b := sym.Box
	b.H += l.m.Under(l.sheet, sym)
	return b
}

// sidesOf returns the glue points of a symbol, from its corner.
func (l *Linker) sidesOf(sym *model.Symbol) sides {
	key := sizeKey{sym.Kind, sym.W, sym.H}
	d, ok := l.sides[key]
	if ok {
		return d
	}
	def := symbols.Of(sym.Kind)
	for k := range d.glue {
		d.glue[k] = def.GlueAt(sym.W, sym.H, geometry.Side(k))
		d.reach[k] = def.Reach(sym.W, sym.H, geometry.Side(k))
	}
	if len(l.sides) >= maxRemembered {
		clear(l.sides)
	}
	l.sides[key] = d
	return d
}

// label returns the size of a label.
func (l *Linker) label(key labelKey) geometry.Point {
	size, ok := l.labels[key]
	if ok {
		return size
	}
	st := l.house.StyleOf(key.Type)
	lines := labelLines(key.text, st)
	for _, line := range lines {
		size.X = max(size.X, line.Width)
	}
	size.X += 4 * px
	size.Y = len(lines) * st.LineHeight()
	if len(l.labels) >= maxRemembered {
		clear(l.labels)
	}
	l.labels[key] = size
	return size
}

func side(e model.End) int {
	if s, ok := geometry.SideNamed(e.Side); ok {
		return int(s)
	}
	return routing.Any
}

// labelLines returns the lines of a connector's label.
func labelLines(text string, st typeset.Style) []typeset.Line {
	lines, _ := typeset.Wrap(text, st, 0, func(int) int { return max(labelWidth, 4*st.Size) })
	return lines
}
