package symbols

import "plaintracer/core/geometry"

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

func doubled(w, h int) geometry.Path {
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
