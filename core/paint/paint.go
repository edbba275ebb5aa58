// Package paint finds out what has changed in the picture of a sheet since it was last shown, and
// writes it as patches for the page.
//
// A Painter remembers what the page shows. Patch compares a Picture with it and appends the
// differences, which the page carries out one after the other:
//
//	["all", page w, page h], ["page", w, h], ["add", layer, id, svg], ["ground", svg],
//	["to", id, x, y], ["set", id, svg], ["paths", id, path, ...], ["drop", id], ["order", layer, ids],
//	["adopt", page w, page h], which takes over all nodes of a picture that the page has already
//
// Lengths are in pixels of the sheet.
package paint

import (
	"encoding/json"
	"fmt"
	"slices"
	"strconv"
	"unicode/utf8"

	"plaintracer/core/edit"
	"plaintracer/core/geometry"
	"plaintracer/core/looks"
	"plaintracer/core/model"
	"plaintracer/core/routing"
	"plaintracer/core/scene"
	"plaintracer/core/typeset"
)

// Picture is a sheet as it is to be shown.
type Picture struct {
	Map   *model.Map
	Sheet *model.Sheet
	// Courses are those of the sheet's connectors, in their order.
	Courses []routing.Course
	Facts   *scene.Facts
	// Touched is what may have changed since the last Patch; where that is more than some items, the facts too. Nil is
	// anything.
	Touched *edit.Touched
	// Sketched says that courses are only sketched, as in a drag.
	Sketched bool
}

// Painter knows what a page shows. The zero value shows nothing.
type Painter struct {
	symbols    map[string]*shownSymbol
	connectors map[string]*shownConnector
	// lines and steps are those of the sheet, in their order.
	lines []*shownConnector
	steps []*shownSymbol
	pools map[string]*model.Pool
	// boards are what is drawn in journeys beside what their pools say, by their ids.
	boards map[string]string
	order  [3][]string // ids in drawing order, by layer
	ground string
	page   geometry.Box
	drawn  *looks.Look
	house  typeset.House
	inner  []byte
	ids    []string
	merger scene.Merger
	look   model.Symbol // the one at hand: one of its own for each would be new memory in every frame
	// adopting says that the page shows what is noted.
	adopting bool
}

// Adopt begins from a page that shows the picture already, as scene.Draw makes it.
func (v *Painter) Adopt(b []byte, p *Picture) []byte {
	v.adopting = true
	b = v.Patch(b, p, true)
	v.adopting = false
	return b
}

// Patch appends what has changed, without a comma at the end; with all it begins from nothing, as
// when another sheet is shown.
func (v *Painter) Patch(b []byte, p *Picture, all bool) []byte {
	start := len(b)
	var items map[string]bool
	few := false
	if p.Touched != nil && !all {
		items, few = p.Touched.Few()
	}
	if all {
		*v = Painter{
			symbols: map[string]*shownSymbol{}, connectors: map[string]*shownConnector{},
			pools: map[string]*model.Pool{}, boards: map[string]string{},
			drawn: v.drawn, house: v.house, inner: v.inner, ids: v.ids, lines: v.lines, steps: v.steps,
			adopting: v.adopting,
		}
	}
	if page := p.Sheet.Page(); all || page != v.page {
		v.page = page
		name := `["page",`
		if v.adopting {
			name = `["adopt",`
		} else if all {
			name = `["all",`
		}
		b = append(scene.AppendPx(append(scene.AppendPx(append(b, name...), page.W), ','), page.H), "],"...)
	}
	if house := typeset.HouseOf(p.Map); house != v.house {
		v.forget()
		v.house = house
	}
	if !few {
		b = v.patchGround(b, p)
	}
	b = v.patchPools(b, p)
	b = v.patchConnectors(b, p, items, few)
	b = v.patchSymbols(b, p, items, few)
	if len(b) > start && b[len(b)-1] == ',' {
		b = b[:len(b)-1]
	}
	return b
}

type shownSymbol struct {
	look  model.Symbol // with its place taken out
	at    geometry.Point
	extra scene.Extra
	drawn *looks.Look
}

type shownConnector struct {
	look      model.Connector
	points    geometry.Polyline
	labels    [3]geometry.Box
	hops      []routing.Hop
	meets     scene.Meeting
	crossings model.Crossing
	behind    model.Background
	drawn     *looks.Look
	// shapes is of how many it consists, or unknown.
	shapes int
	// at is by how much it is shown beside where it was drawn, during a drag.
	at geometry.Point
}

const unknown = -1

// shift moves a connector to a course that is the one it has, elsewhere; it
// reports false when that is another one.
func (c *shownConnector) shift(to *routing.Course) bool {
	if len(c.points) != len(to.Points) || len(c.points) == 0 || len(c.hops) != len(to.Hops) {
		return false
	}
	d := to.Points[0].Sub(c.points[0])
	for i, p := range c.points {
		if p.Add(d) != to.Points[i] {
			return false
		}
	}
	for i, h := range c.hops {
		if h.At = h.At.Add(d); h != to.Hops[i] {
			return false
		}
	}
	for i, l := range c.labels {
		if l.W > 0 {
			l = l.Moved(d)
		}
		if l != to.Labels[i] {
			return false
		}
	}
	c.points, c.hops, c.labels, c.at = append(c.points[:0], to.Points...), append(c.hops[:0], to.Hops...), to.Labels,
		c.at.Add(d)
	return true
}

// The layers of the drawing, from below.
var layers = [3]string{"pools", "connectors", "symbols"}

// forget has everything drawn anew in its place.
func (v *Painter) forget() {
	v.drawn = nil
	for _, c := range v.connectors {
		c.drawn = nil
	}
	for _, sym := range v.symbols {
		sym.drawn = nil
	}
}

// patchGround draws what lies behind everything anew when it is another.
func (v *Painter) patchGround(b []byte, p *Picture) []byte {
	s := p.Sheet
	key := s.Background.Fill + " " + s.Background.Picture + " " + looks.Of(p.Map).Name + " " + s.Paper + " " +
		strconv.FormatBool(s.Across)
	if s.Background == (model.Background{}) {
		key = ""
	}
	if s.Headed {
		key += fmt.Sprintf("\x00%s %s %v %q %d %d", looks.Of(p.Map).Name, s.Paper, s.Across,
			[]string{p.Map.Title, fmt.Sprint(p.Map.Heading)}, slices.Index(p.Map.Sheets, s), len(p.Map.Sheets))
	}
	if bands := s.Bands(); len(bands) > 0 {
		key += fmt.Sprint("\x00", bands, s.Extent().Right(), looks.Of(p.Map).Name)
	}
	if key == v.ground {
		return b
	}
	v.ground = key
	if v.adopting {
		return b
	}
	n := scene.ViewOf(p.Map, s).Background()
	v.inner = n.AppendInner(v.inner[:0])
	return append(appendBytes(append(b, `["ground",`...), v.inner), "],"...)
}

func (v *Painter) patchPools(b []byte, p *Picture) []byte {
	v.ids = v.ids[:0]
	seen := scene.ViewOf(p.Map, p.Sheet)
	turned := v.drawn != seen.Look
	v.drawn = seen.Look
	for _, pool := range p.Sheet.Pools {
		v.ids = append(v.ids, pool.ID)
		old := v.pools[pool.ID]
		board := p.Sheet.Board().Drawn(pool)
		if old != nil && !turned && old.Equal(pool) && v.boards[pool.ID] == board {
			continue
		}
		copied := *pool
		copied.Lanes, copied.Stages = slices.Clone(pool.Lanes), slices.Clone(pool.Stages)
		v.pools[pool.ID], v.boards[pool.ID] = &copied, board
		if v.adopting {
			continue
		}
		n := seen.Pool(pool)
		b = v.appendNode(b, 0, &n, old == nil, old == nil || old.X != pool.X || old.Y != pool.Y)
	}
	return v.patchOrder(b, 0, func(id string) { delete(v.pools, id) })
}

// shownAs returns what is shown of the item of an id, and reports whether that is nothing yet. It notes the item as the
// next one of its list.
func shownAs[T any](v *Painter, byID map[string]*T, list *[]*T, id string) (shown *T, isNew bool) {
	if shown, isNew = byID[id], byID[id] == nil; isNew {
		shown = new(T)
		byID[id] = shown
	}
	v.ids, *list = append(v.ids, id), append(*list, shown)
	return shown, isNew
}

// patchConnectors draws the connectors that are others. Where few is set, only those among items may be, beside their
// courses.
func (v *Painter) patchConnectors(b []byte, p *Picture, items map[string]bool, few bool) []byte {
	s := p.Sheet
	seen := scene.ViewOf(p.Map, s)
	meetings := v.merger.Meet(s, p.Courses)
	if !few {
		v.ids, v.lines = v.ids[:0], v.lines[:0]
	}
	for i, c := range s.Connectors {
		course := &p.Courses[i]
		var now *shownConnector
		isNew := false
		if few {
			now = v.lines[i]
		} else {
			now, isNew = shownAs(v, v.connectors, &v.lines, c.ID)
		}
		alike := !isNew && now.meets == meetings[i]
		if alike && (!few || items[c.ID]) {
			alike = now.crossings == s.Crossings && now.behind == s.Background && now.drawn == seen.Look &&
				now.look.Equal(c)
		}
		same := alike && now.labels == course.Labels && slices.Equal(now.points, course.Points) &&
			slices.Equal(now.hops, course.Hops)
		if same && (p.Sketched || now.at == geometry.Point{}) {
			continue
		}
		if alike && p.Sketched && !meetings[i].Ends && now.shift(course) {
			b = appendTo(b, c.ID, now.at)
			continue
		}
		labels := now.labels
		now.points, now.hops = append(now.points[:0], course.Points...), append(now.hops[:0], course.Hops...)
		now.meets = meetings[i]
		now.look, now.labels, now.crossings, now.behind, now.drawn = *c, course.Labels, s.Crossings, s.Background,
			seen.Look
		moved := now.at != geometry.Point{}
		now.at = geometry.Point{}
		if v.adopting {
			now.shapes = unknown
			continue
		}
		n := seen.Connector(c, course, meetings[i])
		if bare := [3]geometry.Box{}; alike && labels == bare && course.Labels == bare && now.shapes == len(n.Shapes) {
			b = appendPaths(b, &n)
			if moved {
				b = appendTo(b, c.ID, now.at)
			}
			continue
		}
		now.shapes = len(n.Shapes)
		b = v.appendNode(b, 1, &n, isNew, moved)
	}
	if few {
		return b
	}
	return v.patchOrder(b, 1, func(id string) { delete(v.connectors, id) })
}

// patchSymbols draws the symbols that are others. Where few is set, only those among items may be, beside what
// surrounds them.
func (v *Painter) patchSymbols(b []byte, p *Picture, items map[string]bool, few bool) []byte {
	s := p.Sheet
	seen := scene.ViewOf(p.Map, s)
	around := p.Facts.Around(s, p.Courses)
	if !few {
		v.ids, v.steps = v.ids[:0], v.steps[:0]
	}
	for i, sym := range s.Symbols {
		var old *shownSymbol
		isNew := false
		if few {
			if old = v.steps[i]; !items[sym.ID] && around.Suits(&old.extra, sym.ID) {
				continue
			}
		} else {
			old, isNew = shownAs(v, v.symbols, &v.steps, sym.ID)
		}
		extra := p.Facts.Of(s, sym)
		around.Complete(&extra, sym.ID)
		look := &v.look
		*look = *sym
		look.X, look.Y = 0, 0
		look.Values, look.Kept, look.Pinned = nil, "", "" // what is shown of them is in extra
		if !isNew && old.look.Equal(look) && old.extra == extra && old.drawn == looks.For(p.Map, sym) {
			if old.at != sym.Corner() {
				old.at = sym.Corner()
				b = appendTo(b, sym.ID, old.at)
			}
			continue
		}
		moved := !isNew && old.at != sym.Corner()
		*old = shownSymbol{look: *look, at: sym.Corner(), extra: extra, drawn: looks.For(p.Map, sym)}
		if v.adopting {
			continue
		}
		n := seen.Symbol(sym, extra)
		b = v.appendNode(b, 2, &n, isNew, moved)
	}
	if few {
		return b
	}
	return v.patchOrder(b, 2, func(id string) { delete(v.symbols, id) })
}

func appendTo(b []byte, id string, at geometry.Point) []byte {
	b = append(append(append(b, `["to","`...), id...), `",`...)
	b = scene.AppendPx(append(scene.AppendPx(b, at.X), ','), at.Y)
	return append(b, "],"...)
}

// appendPaths writes the paths of a node in which nothing else has changed.
func appendPaths(b []byte, n *scene.Node) []byte {
	b = append(append(append(b, `["paths","`...), n.ID...), '"')
	for k := range n.Shapes {
		b = append(scene.AppendPath(append(b, `,"`...), n.Shapes[k].Path), '"')
	}
	return append(b, "],"...)
}

// appendNode writes a node that is new, or the inside of one that changed.
func (v *Painter) appendNode(b []byte, layer int, n *scene.Node, isNew, moved bool) []byte {
	if isNew {
		v.inner = n.AppendSVG(v.inner[:0])
		b = append(append(append(append(append(b, `["add","`...), layers[layer]...), `","`...), n.ID...), `",`...)
		b = append(appendBytes(b, v.inner), "],"...)
		v.order[layer] = append(v.order[layer], n.ID)
		return b
	}
	v.inner = n.AppendInner(v.inner[:0])
	b = append(append(append(b, `["set","`...), n.ID...), `",`...)
	b = append(appendBytes(b, v.inner), "],"...)
	if moved {
		b = appendTo(b, n.ID, n.At)
	}
	return b
}

// patchOrder drops what is gone from a layer and puts the rest in order. The
// wanted order is in view.ids.
func (v *Painter) patchOrder(b []byte, layer int, forget func(id string)) []byte {
	if v.adopting {
		v.order[layer] = append(v.order[layer][:0], v.ids...)
	}
	if slices.Equal(v.order[layer], v.ids) {
		return b
	}
	wanted := make(map[string]bool, len(v.ids))
	for _, id := range v.ids {
		wanted[id] = true
	}
	v.order[layer] = slices.DeleteFunc(v.order[layer], func(id string) bool {
		if wanted[id] {
			return false
		}
		b = append(append(append(b, `["drop","`...), id...), `"],`...)
		forget(id)
		return true
	})
	if !slices.Equal(v.order[layer], v.ids) {
		v.order[layer] = append(v.order[layer][:0], v.ids...)
		raw, _ := json.Marshal(v.ids)
		b = append(append(append(append(b, `["order","`...), layers[layer]...), `",`...), raw...)
		b = append(b, "],"...)
	}
	return b
}

// AppendString writes UTF-8 text as a JSON string.
func AppendString(b []byte, s string) []byte { return appendBytes(b, []byte(s)) }

// appendBytes writes UTF-8 text as a JSON string.
func appendBytes(b, s []byte) []byte {
	b = append(b, '"')
	for i := 0; i < len(s); {
		c := s[i]
		switch {
		case c == '"' || c == '\\':
			b = append(b, '\\', c)
		case c == '\n':
			b = append(b, '\\', 'n')
		case c < 0x20:
			const hex = "0123456789abcdef"
			b = append(b, '\\', 'u', '0', '0', hex[c>>4], hex[c&15])
		case c < utf8.RuneSelf:
			b = append(b, c)
		default:
			_, n := utf8.DecodeRune(s[i:])
			b = append(b, s[i:i+n]...)
			i += n
			continue
		}
		i++
	}
	return append(b, '"')
}
