package symbols

import (
	"plaintracer/core/geometry"
	"plaintracer/core/model"
)

// bar is the width of the side strips of a predefined process.
const bar = 10 * px

func middle(w, h int, side geometry.Side) geometry.Point {
	switch side {
	case geometry.Top:
		return geometry.Point{X: w / 2, Y: 0}
	case geometry.Right:
		return geometry.Point{X: w, Y: h / 2}
	case geometry.Bottom:
		return geometry.Point{X: w / 2, Y: h}
	}
	return geometry.Point{X: 0, Y: h / 2}
}

func rectangle(w, h int) geometry.Path {
	return geometry.Path{}.Move(0, 0).Line(w, 0).Line(w, h).Line(0, h).Close()
}

// upright returns the text area of an outline with upright sides.
func upright(side, foot int) func(w, h int) TextArea {
	return func(w, h int) TextArea {
		return TextArea{CX: w / 2, Top: margin / 2, Bottom: h - margin/2 - foot,
			Half: func(int, int) int { return w/2 - side }}
	}
}

func doubled(w, h int, _ bool) geometry.Path {
	return geometry.Path{}.Move(bar, 0).Line(bar, h).Move(w-bar, 0).Line(w-bar, h)
}

func diamond(w, h int) geometry.Path {
	return geometry.Path{}.Move(w/2, 0).Line(w, h/2).Line(w/2, h).Line(0, h/2).Close()
}

func diamondText(w, h int) TextArea {
	return TextArea{CX: w / 2, Top: 0, Bottom: h, Half: func(y0, y1 int) int {
		away := max(geometry.Abs(y0-h/2), geometry.Abs(y1-h/2))
		return (h/2-away)*w/h - margin/2
	}}
}

func stadium(w, h int) geometry.Path {
	r := min(w, h) / 2
	k := r * geometry.Quarter / 10000
	return geometry.Path{}.Move(r, 0).Line(w-r, 0).
		Curve(w-r+k, 0, w, r-k, w, r).Line(w, h-r).
		Curve(w, h-r+k, w-r+k, h, w-r, h).Line(r, h).
		Curve(r-k, h, 0, h-r+k, 0, h-r).Line(0, r).
		Curve(0, r-k, r-k, 0, r, 0).Close()
}

func stadiumText(w, h int) TextArea {
	r := min(w, h) / 2
	return TextArea{CX: w / 2, Top: margin / 2, Bottom: h - margin/2, Half: func(y0, y1 int) int {
		// How far the band reaches into the rounded parts at top and foot.
		d := min(max(r-y0, y1-(h-r), 0), r)
		return w/2 - (r - geometry.Sqrt(r*r-d*d)) - margin/2
	}}
}

func circle(w, h int) geometry.Path { return geometry.Ellipse(geometry.Box{W: w, H: h}) }

func circleText(w, h int) TextArea {
	return TextArea{CX: w / 2, Top: 0, Bottom: h, Half: func(y0, y1 int) int {
		d := min(max(geometry.Abs(y0-h/2), geometry.Abs(y1-h/2)), h/2)
		return geometry.Sqrt((h/2)*(h/2)-d*d)*w/h - margin/2
	}}
}

// slant is how far the sides of a data symbol lean.
func slant(w, h int) int { return min(w/5, h/4) }

func slanted(w, h int) geometry.Path {
	s := slant(w, h)
	return geometry.Path{}.Move(s, 0).Line(w, 0).Line(w-s, h).Line(0, h).Close()
}

func slantedText(w, h int) TextArea {
	s := slant(w, h)
	return TextArea{CX: w / 2, Top: margin / 2, Bottom: h - margin/2, Half: func(y0, y1 int) int {
		left := s * (h - y0) / h
		right := s * y1 / h
		return w/2 - max(left, right) - margin/2
	}}
}

func slantedGlue(w, h int, side geometry.Side) geometry.Point {
	p := middle(w, h, side)
	switch side {
	case geometry.Right:
		p.X -= slant(w, h) / 2
	case geometry.Left:
		p.X += slant(w, h) / 2
	}
	return p
}

// wave is the height of the curve at the foot of a document.
func wave(h int) int { return h / 8 }

func wavy(w, h int) geometry.Path {
	a := wave(h)
	y := h - a
	// The handles stand 4/3 of the wave's depth off the line, which brings the
	// curve itself out to just under that depth on either side.
	return geometry.Path{}.Move(0, 0).Line(w, 0).Line(w, y).
		Curve(w*3/4, y-a*4/3, w*3/4, y-a*4/3, w/2, y).
		Curve(w/4, y+a*4/3, w/4, y+a*4/3, 0, y).Close()
}

func wavyText(w, h int) TextArea {
	a := wave(h)
	return TextArea{CX: w / 2, Top: margin / 2, Bottom: h - 2*a - margin/3,
		Half: func(int, int) int { return w/2 - margin }}
}

func wavyGlue(w, h int, side geometry.Side) geometry.Point {
	p := middle(w, h, side)
	if side == geometry.Bottom {
		p.Y -= wave(h)
	}
	return p
}

// bow is how far the curved sides of stored data stand out.
func bow(w int) int { return w / 10 }

func bowed(w, h int) geometry.Path {
	b := bow(w)
	k := b * 4 / 3
	return geometry.Path{}.Move(b, 0).Line(w, 0).
		Curve(w-k, h/4, w-k, h*3/4, w, h).Line(b, h).
		Curve(b-k, h*3/4, b-k, h/4, b, 0).Close()
}

func bowedText(w, h int) TextArea {
	b := bow(w)
	return TextArea{CX: w / 2, Top: margin / 2, Bottom: h - margin/2,
		Half: func(int, int) int { return w/2 - b - margin/2 }}
}

func bowedGlue(w, h int, side geometry.Side) geometry.Point {
	p := middle(w, h, side)
	if side == geometry.Right {
		p.X -= bow(w)
	}
	return p
}

func homePlate(w, h int) geometry.Path {
	return geometry.Path{}.Move(0, 0).Line(w, 0).Line(w, h*6/10).Line(w/2, h).Line(0, h*6/10).Close()
}

func homePlateText(w, h int) TextArea {
	return TextArea{CX: w / 2, Top: margin / 2, Bottom: h * 7 / 10, Half: func(_, y1 int) int {
		shoulder := h * 6 / 10
		if y1 <= shoulder {
			return w/2 - margin/2
		}
		return (h-y1)*(w/2)/(h-shoulder) - margin/2
	}}
}

// within returns the text area of any outline in which a level line through
// the middle meets the sides once on the left and once on the right.
func within(outline func(w, h int) geometry.Path) func(w, h int) TextArea {
	return func(w, h int) TextArea { return band(outline(w, h), w/2, margin/2, h-margin/2) }
}

// upperHalf is within for the upper half of an outline.
func upperHalf(outline func(w, h int) geometry.Path) func(w, h int) TextArea {
	return func(w, h int) TextArea { return band(outline(w, h), w/2, margin/2, h/2-px) }
}

// band measures the room around cx inside an outline, height by height. Where
// the room is one-sided (as under a sloping edge) the middle stays at cx.
func band(outline geometry.Path, cx, top, bottom int) TextArea {
	lines := outline.Flatten()
	return TextArea{CX: cx, Top: top, Bottom: bottom, Half: func(y0, y1 int) int {
		room := int(^uint(0) >> 1)
		for _, line := range lines {
			for i := 1; i < len(line); i++ {
				p, q := line[i-1], line[i]
				if p.Y > q.Y {
					p, q = q, p
				}
				if q.Y < y0 || p.Y > y1 {
					continue
				}
				// The part of the piece between the two heights.
				a, b := p.X, q.X
				if q.Y > p.Y {
					if p.Y < y0 {
						a = p.X + (q.X-p.X)*(y0-p.Y)/(q.Y-p.Y)
					}
					if q.Y > y1 {
						b = p.X + (q.X-p.X)*(y1-p.Y)/(q.Y-p.Y)
					}
				}
				if (a <= cx) != (b <= cx) {
					return 0 // an edge passes over the middle
				}
				room = min(room, geometry.Abs(a-cx), geometry.Abs(b-cx))
			}
		}
		return room - margin/2
	}}
}

// onOutline returns glue points where the middles of the sides, seen straight
// on, first meet one of the outlines.
func onOutline(outlines ...func(w, h int) geometry.Path) func(w, h int, side geometry.Side) geometry.Point {
	return func(w, h int, side geometry.Side) geometry.Point {
		var p geometry.Path
		for _, o := range outlines {
			p = append(p, o(w, h)...)
		}
		whole := Symbol{Outline: func(int, int) geometry.Path { return p }, Glue: middle}
		at := middle(w, h, side)
		if side.Upright() {
			at.Y = whole.Meet(w, h, side, at.X)
		} else {
			at.X = whole.Meet(w, h, side, at.Y)
		}
		return at
	}
}

func polygon(xy ...int) geometry.Path {
	p := geometry.Path{}.Move(xy[0], xy[1])
	for i := 2; i < len(xy); i += 2 {
		p = p.Line(xy[i], xy[i+1])
	}
	return p.Close()
}

func rounded(w, h int) geometry.Path {
	r := min(12*px, w/2, h/2)
	k := r * geometry.Quarter / 10000
	return geometry.Path{}.Move(r, 0).Line(w-r, 0).Curve(w-r+k, 0, w, r-k, w, r).
		Line(w, h-r).Curve(w, h-r+k, w-r+k, h, w-r, h).
		Line(r, h).Curve(r-k, h, 0, h-r+k, 0, h-r).
		Line(0, r).Curve(0, r-k, r-k, 0, r, 0).Close()
}

func trapezoid(w, h int) geometry.Path {
	s := min(w/6, h/3)
	return polygon(0, 0, w, 0, w-s, h, s, h)
}

func slopedTop(w, h int) geometry.Path { return polygon(0, h/4, w, 0, w, h, 0, h) }

func hexagon(w, h int) geometry.Path {
	s := min(w/6, h/2)
	return polygon(s, 0, w-s, 0, w, h/2, w-s, h, s, h, 0, h/2)
}

func rails(w, h int, _ bool) geometry.Path {
	return geometry.Path{}.Move(0, 0).Line(w, 0).Move(0, h).Line(w, h)
}

// cut is the size of a corner that is cut off.
func cut(w, h int) int { return min(18*px, w/4, h/3) }

func cutTop(w, h int) geometry.Path {
	c := cut(w, h)
	return polygon(c, 0, w-c, 0, w, c, w, h, 0, h, 0, c)
}

func cutFoot(w, h int) geometry.Path {
	c := cut(w, h)
	return polygon(0, 0, w, 0, w, h-c, w-c, h, c, h, 0, h-c)
}

func cutCorner(w, h int) geometry.Path {
	c := cut(w, h)
	return polygon(c, 0, w, 0, w, h, 0, h, 0, c)
}

func halfRound(w, h int) geometry.Path {
	r := min(w/2, h/2)
	kx, ky := r*geometry.Quarter/10000, h/2*geometry.Quarter/10000
	return geometry.Path{}.Move(0, 0).Line(w-r, 0).Curve(w-r+kx, 0, w, h/2-ky, w, h/2).
		Curve(w, h/2+ky, w-r+kx, h, w-r, h).Line(0, h).Close()
}

// sheafStep is by how much the sheets behind stand out.
const sheafStep = 5 * px

func shifted(p geometry.Path, x, y int) geometry.Path { return p.Moved(geometry.Point{X: x, Y: y}) }

func sheaf(w, h int) geometry.Path {
	return shifted(wavy(w-2*sheafStep, h-2*sheafStep), 0, 2*sheafStep)
}

func sheafBack(w, h int) geometry.Path {
	a, b := w-2*sheafStep, h-2*sheafStep
	return append(shifted(wavy(a, b), 2*sheafStep, 0), shifted(wavy(a, b), sheafStep, sheafStep)...)
}

// rim is half the height of the round top of a cylinder.
func rim(h int) int { return min(10*px, h/6) }

func cylinder(w, h int) geometry.Path {
	r := rim(h)
	kx, ky := w/2*geometry.Quarter/10000, r*geometry.Quarter/10000
	return geometry.Path{}.Move(0, r).Curve(0, r-ky, w/2-kx, 0, w/2, 0).Curve(w/2+kx, 0, w, r-ky, w, r).
		Line(w, h-r).Curve(w, h-r+ky, w/2+kx, h, w/2, h).Curve(w/2-kx, h, 0, h-r+ky, 0, h-r).Close()
}

func cylinderRim(w, h int, _ bool) geometry.Path {
	r := rim(h)
	kx, ky := w/2*geometry.Quarter/10000, r*geometry.Quarter/10000
	return geometry.Path{}.Move(0, r).Curve(0, r+ky, w/2-kx, 2*r, w/2, 2*r).Curve(w/2+kx, 2*r, w, r+ky, w, r)
}

func cylinderText(w, h int) TextArea {
	r := rim(h)
	return band(cylinder(w, h), w/2, 2*r+px, h-margin/2)
}

// drum lies on its side, its round end to the right.
func drum(w, h int) geometry.Path {
	r := min(14*px, w/8)
	kx, ky := r*geometry.Quarter/10000, h/2*geometry.Quarter/10000
	return geometry.Path{}.Move(r, 0).Line(w-r, 0).Curve(w-r+kx, 0, w, h/2-ky, w, h/2).Curve(w, h/2+ky, w-r+kx, h, w-r,
		h).
		Line(r, h).Curve(r-kx, h, 0, h/2+ky, 0, h/2).Curve(0, h/2-ky, r-kx, 0, r, 0).Close()
}

func drumRim(w, h int, _ bool) geometry.Path {
	r := min(14*px, w/8)
	kx, ky := r*geometry.Quarter/10000, h/2*geometry.Quarter/10000
	return geometry.Path{}.Move(w-r, 0).Curve(w-r-kx, 0, w-2*r, h/2-ky, w-2*r, h/2).Curve(w-2*r, h/2+ky, w-r-kx, h, w-r,
		h)
}

func drumText(w, h int) TextArea {
	r := min(14*px, w/8)
	area := band(drum(w, h), w/2-r, margin/2, h-margin/2)
	left := area.Half
	area.Half = func(y0, y1 int) int { return min(left(y0, y1), w/2-r-margin/2) }
	return area
}

const corner = 12 * px

func cornered(w, h int, _ bool) geometry.Path {
	return geometry.Path{}.Move(corner, 0).Line(corner, h).Move(0, corner).Line(w, corner)
}

func corneredText(w, h int) TextArea {
	return TextArea{CX: (w + corner) / 2, Top: corner + px, Bottom: h - margin/2,
		Half: func(int, int) int { return (w-corner)/2 - margin/2 }}
}

func tail(w, h int, _ bool) geometry.Path { return geometry.Path{}.Move(w/2, h).Line(w, h) }

func waving(w, h int) geometry.Path {
	a := h / 8
	b := a * 4 / 3
	return geometry.Path{}.Move(0, a).Curve(w/4, a+b, w/4, a+b, w/2, a).Curve(w*3/4, a-b, w*3/4, a-b, w, a).
		Line(w, h-a).Curve(w*3/4, h-a-b, w*3/4, h-a-b, w/2, h-a).Curve(w/4, h-a+b, w/4, h-a+b, 0, h-a).Close()
}

func screen(w, h int) geometry.Path {
	s, r := w/6, min(w/6, h/2)
	kx, ky := r*geometry.Quarter/10000, h/2*geometry.Quarter/10000
	return geometry.Path{}.Move(s, 0).Line(w-r, 0).Curve(w-r+kx, 0, w, h/2-ky, w, h/2).Curve(w, h/2+ky, w-r+kx, h, w-r,
		h).
		Line(s, h).Line(0, h/2).Close()
}

func triangleDown(w, h int) geometry.Path { return polygon(0, 0, w, 0, w/2, h) }
func triangleUp(w, h int) geometry.Path   { return polygon(w/2, 0, w, h, 0, h) }

func across(w, h int, _ bool) geometry.Path { return geometry.Path{}.Move(0, h/2).Line(w, h/2) }

func hourglass(w, h int) geometry.Path {
	return append(polygon(0, 0, w, 0, w/2, h/2), polygon(w/2, h/2, w, h, 0, h)...)
}

// crossed and plussed fill a circle; beside a text only their ends show.
func crossed(w, h int, written bool) geometry.Path {
	x, y := w*1464/10000, h*1464/10000 // (1 - 1/sqrt 2) / 2: where the diagonals meet the circle
	if !written {
		return geometry.Path{}.Move(x, y).Line(w-x, h-y).Move(w-x, y).Line(x, h-y)
	}
	u, v := w*22/100, h*22/100
	return geometry.Path{}.Move(x, y).Line(u, v).Move(w-x, y).Line(w-u, v).Move(x, h-y).Line(u, h-v).Move(w-x,
		h-y).Line(w-u, h-v)
}

func plussed(w, h int, written bool) geometry.Path {
	if !written {
		return geometry.Path{}.Move(w/2, 0).Line(w/2, h).Move(0, h/2).Line(w, h/2)
	}
	u, v := w/10, h/10
	return geometry.Path{}.Move(w/2, 0).Line(w/2, v).Move(w/2, h-v).Line(w/2, h).Move(0, h/2).Line(u, h/2).Move(w-u,
		h/2).Line(w, h/2)
}

func innerCircleText(w, h int) TextArea {
	dx, dy := w/9, h/9
	a := circleText(w-2*dx, h-2*dy)
	half := a.Half
	return TextArea{CX: w / 2, Top: dy, Bottom: h - dy, Half: func(y0, y1 int) int { return half(y0-dy, y1-dy) }}
}

func arrow(w, h int) geometry.Path {
	head, s := min(w/3, h/2), h/5
	return polygon(0, s, w-head, s, w-head, 0, w, h/2, w-head, h, w-head, h-s, 0, h-s)
}

func chevron(w, h int) geometry.Path {
	s := min(w/6, h/2)
	return polygon(0, 0, w-s, 0, w, h/2, w-s, h, 0, h, s, h/2)
}

func bracket(w, h int, _ bool) geometry.Path { return bracketTo(w, h, geometry.Left) }

// bracketTo is a bracket along a side, open to the other one.
func bracketTo(w, h int, side geometry.Side) geometry.Path {
	b := min(8*px, w/4, h/2)
	x, y := 0, 0 // the corner at which it has its back, and from where it reaches b inwards
	switch side {
	case geometry.Right:
		x, b = w, -b
	case geometry.Bottom:
		y, b = h, -b
	}
	if side.Upright() {
		return geometry.Path{}.Move(0, y+b).Line(0, y).Line(w, y).Line(w, y+b)
	}
	return geometry.Path{}.Move(x+b, 0).Line(x, 0).Line(x, h).Line(x+b, h)
}

func folded(w, h int) geometry.Path {
	c := min(14*px, w/4, h/3)
	return polygon(0, 0, w-c, 0, w, c, w, h, 0, h)
}

func fold(w, h int, _ bool) geometry.Path {
	c := min(14*px, w/4, h/3)
	return geometry.Path{}.Move(w-c, 0).Line(w-c, c).Line(w, c)
}

// pointer is the height of the tip of a call-out.
const pointer = 14 * px

func callOut(w, h int) geometry.Path {
	f := h - min(pointer, h/3)
	return polygon(0, 0, w, 0, w, f, w/2, f, w/4, h, w/4, f, 0, f)
}

// spokenTip is where the tip of a call-out is as long as nobody has pulled it.
func spokenTip(w, h int) geometry.Point { return geometry.Point{X: w / 4, Y: h} }

// spokenTo is a call-out with its tip pulled to a place: a wedge from the edge that faces the
// tip, or none where the tip lies inside.
func spokenTo(w, h int, tip geometry.Point) geometry.Path {
	body := geometry.Box{W: w, H: h - min(pointer, h/3)}
	if body.Contains(tip) {
		return rectangle(body.W, body.H)
	}
	// The edge beyond which the tip lies farthest, as a share of the body, bears the wedge.
	at := tip.Sub(body.Centre())
	side := geometry.Right
	if geometry.Abs(at.Y)*body.W > geometry.Abs(at.X)*body.H {
		if side = geometry.Bottom; at.Y < 0 {
			side = geometry.Top
		}
	} else if at.X < 0 {
		side = geometry.Left
	}
	p := geometry.Path{}.Move(0, 0)
	wedge := func(edge geometry.Side, length, along int, point func(int) geometry.Point) {
		if edge != side {
			return
		}
		half := min(pointer*2/3, length/4)
		c := geometry.Clamp(along, half+length/10, length-half-length/10)
		if edge == geometry.Bottom || edge == geometry.Left { // walked backwards
			half = -half
		}
		a, b := point(c-half), point(c+half)
		p = p.Line(a.X, a.Y).Line(tip.X, tip.Y).Line(b.X, b.Y)
	}
	wedge(geometry.Top, body.W, tip.X, func(v int) geometry.Point { return geometry.Point{X: v} })
	p = p.Line(body.W, 0)
	wedge(geometry.Right, body.H, tip.Y, func(v int) geometry.Point { return geometry.Point{X: body.W, Y: v} })
	p = p.Line(body.W, body.H)
	wedge(geometry.Bottom, body.W, tip.X, func(v int) geometry.Point { return geometry.Point{X: v, Y: body.H} })
	p = p.Line(0, body.H)
	wedge(geometry.Left, body.H, tip.Y, func(v int) geometry.Point { return geometry.Point{Y: v} })
	return p.Close()
}

func dots(w, h int, written bool) geometry.Path {
	if written {
		return nil
	}
	r := px
	var p geometry.Path
	for i := range 3 {
		p = append(p, geometry.Ellipse(geometry.Box{X: w*(2*i+1)/6 - r, Y: h/2 - r, W: 2 * r, H: 2 * r})...)
	}
	return p
}

func headStrip(w, h int) TextArea {
	return TextArea{CX: w / 2, Top: px, Bottom: h - px, Half: func(int, int) int { return w/2 - margin }}
}

// nameRow is the height of the row with an entity's name.
const nameRow = 28 * px

func ruled(w, h int, _ bool) geometry.Path {
	return geometry.Path{}.Move(0, min(nameRow, h)).Line(w, min(nameRow, h))
}

func headRow(w, h int) TextArea {
	return TextArea{CX: w / 2, Top: px, Bottom: min(nameRow, h) - px, Half: func(int, int) int { return w/2 - margin }}
}

func bodyRows(w, h int) TextArea {
	return TextArea{CX: w / 2, Top: nameRow + 3*px, Bottom: h - 3*px, Half: func(int, int) int { return w/2 - margin }}
}

// strip is the height of the text under a figure.
func strip(h int) int { return max(min(36*px, h/2), h*2/5) }

func footStrip(w, h int) TextArea {
	return TextArea{CX: w / 2, Top: h - strip(h), Bottom: h - px, Half: func(int, int) int { return w/2 - px }}
}

// Figure returns the part of a picture symbol that the picture may fill.
func Figure(w, h int, written bool) geometry.Box {
	if written {
		h -= strip(h)
	}
	return geometry.Box{W: w, H: h}
}

func bust(w, h int) geometry.Path {
	h -= strip(h)
	r := min(w/2, h*10/22) / 2 * 9 / 10 // radius of the head
	cx := w / 2
	head := geometry.Ellipse(geometry.Box{X: cx - r, Y: 0, W: 2 * r, H: 2 * r})
	s := min(w/2, 2*r) // half the width of the shoulders
	top := 2*r + 2*px
	k := s * geometry.Quarter / 10000
	ky := (h - top) * geometry.Quarter / 10000
	return append(head, geometry.Path{}.Move(cx-s, h).Curve(cx-s, h-ky, cx-k, top, cx, top).
		Curve(cx+k, top, cx+s, h-ky, cx+s, h).Close()...)
}

func legendHead(w, _ int) TextArea {
	return TextArea{CX: w / 2, Top: 4 * px, Bottom: model.LegendHead,
		Half: func(int, int) int { return w/2 - margin - 2*px }}
}

// soft is a rectangle with slightly rounded corners.
func soft(w, h int) geometry.Path {
	const r = 4 * px
	k := r - r*geometry.Quarter/10000
	return geometry.Path{}.Move(r, 0).Line(w-r, 0).Curve(w-k, 0, w, k, w, r).Line(w, h-r).Curve(w, h-k, w-k, h, w-r, h).
		Line(r, h).Curve(k, h, 0, h-k, 0, h-r).Line(0, r).Curve(0, k, k, 0, r, 0).Close()
}

// Portrait is the place of the picture on the card of a person.
func Portrait(h int) geometry.Box {
	size := min(36*px, h-16*px)
	return geometry.Box{X: 8 * px, Y: (h - size) / 2, W: size, H: size}
}

// portraitRing marks the place of the picture.
func portraitRing(_, h int, _ bool) geometry.Path { return geometry.Ellipse(Portrait(h)) }

// besidePortrait is the text area of a card at the right of its picture.
func besidePortrait(w, h int) TextArea {
	left := Portrait(h).Right() + 8*px
	return TextArea{CX: (left + w - margin) / 2, Top: margin, Bottom: h - margin,
		Half: func(int, int) int { return (w - margin - left) / 2 }}
}

// SignSize is the size of the sign of a contact point, which stands at the left of its text.
const SignSize = 16 * px

// besideSign is the text area of a contact point, at the right of its sign.
func besideSign(w, h int) TextArea {
	left := 8*px + SignSize + 6*px
	return TextArea{CX: (left + w - margin) / 2, Top: margin / 2, Bottom: h - margin/2,
		Half: func(int, int) int { return (w - margin - left) / 2 }}
}

// moodDot is the point of a curve where nothing says how high it is.
func moodDot(w, h int, _ bool) geometry.Path {
	return geometry.Ellipse(geometry.Around(geometry.Point{X: w / 2, Y: min(h/4, 10*px)}, model.MoodDot, model.MoodDot))
}

// BesideDot is the text area of a point of a curve: below the point in the upper half of a box, else above it.
func BesideDot(dot geometry.Point) func(w, h int) TextArea {
	return func(w, h int) TextArea {
		a := upright(2*px, 0)(w, h)
		if room := model.MoodDot/2 + 2*px; dot.Y <= h/2 {
			a.Top = dot.Y + room
		} else {
			a.Bottom = dot.Y - room
		}
		return a
	}
}
