package typeset

import (
	"strings"

	"github.com/rivo/uniseg"

	"plaintracer/core/geometry"
	"plaintracer/core/model"
	"plaintracer/core/symbols"
)

// Anchor says which part of a line stands at its X.
type Anchor uint8

// The anchors.
const (
	Middle Anchor = iota
	Start
	End
)

// Placed is a line with its place: X is where its anchor stands, Top the upper
// edge. A line that begins an item of a list has its bullet at Bullet.
type Placed struct {
	Line
	X, Top int
	Anchor Anchor
	Listed bool
	Bullet int
	// Strong says that it is set in bold type.
	Strong bool
}

// Left returns the x at which the line begins.
func (p *Placed) Left() int {
	switch p.Anchor {
	case Start:
		return p.X
	case End:
		return p.X - p.Width
	}
	return p.X - p.Width/2
}

// Block is a text set into a symbol.
type Block struct {
	Lines []Placed
	Style Style
	// Cut says that not all of the text could be shown.
	Cut bool
}

// Setting is how a text stands in its area.
type Setting struct {
	Style
	Align, Stand string
	Margin       int
	Bullets      bool
}

// SettingOf returns how the text of a symbol of a kind is set.
func (f House) SettingOf(sym *symbols.Symbol, t model.Type) Setting {
	s := Setting{f.StyleOf(t), t.Align, t.Stand, t.Margin, t.Bullets || sym.Listed}
	if s.Align == "" {
		s.Align = sym.Align
	}
	if s.Align == "" && s.Bullets {
		s.Align = "left"
	}
	if s.Stand == "" {
		s.Stand = sym.Stand
	}
	return s
}

// bullet stands before the items of a list.
const bullet = "•"

// indent is the room a list keeps for its bullets.
func (s *Setting) indent() int {
	if !s.Bullets {
		return 0
	}
	return Measure(bullet+" ", s.Style)
}

// Fit sets text into an area and reports whether it fits. The fewest lines
// that hold it are taken. An outline may have room for them above or below its
// middle only: then the place nearest to where they are wanted is taken.
func Fit(text model.Accented, s Setting, area symbols.TextArea) ([]Placed, bool) {
	return prepare(text, s.Style).fit(s, area, false)
}

// fit is Fit, with every word kept whole if that is asked for.
func (p *prepared) fit(s Setting, area symbols.TextArea, whole bool) ([]Placed, bool) {
	if p.text == "" {
		return nil, true
	}
	area.Top, area.Bottom = area.Top+s.Margin, area.Bottom-s.Margin
	lh, indent := s.LineHeight(), s.indent()
	half := func(top int) int { return area.Half(top, top+lh) - s.Margin }
	room := (area.Bottom - area.Top) / lh
	least, breaks := 1, 0
	for _, c := range p.pieces {
		if c.must {
			breaks++
		}
	}
	least = max(least, breaks) // every paragraph takes a line
	uniform := even(half, area, lh)
	var lines []Line
	// Rather one line more about where it is wanted than fewer far from there.
	for _, roam := range [...]int{lh / 2, room * lh} {
		for n := least; n <= room; n++ {
			slack := area.Bottom - area.Top - n*lh
			wanted := area.Top + slack/2
			switch s.Stand {
			case "top":
				wanted = area.Top
			case "bottom":
				wanted = area.Top + slack
			}
			for away := 0; away <= min(slack, roam); away += max(lh/4, 1) {
				for _, top := range [...]int{wanted - away, wanted + away} {
					if top < area.Top || top > area.Top+slack {
						continue
					}
					var ok bool
					lines, ok = p.wrap(lines[:0], s.Size, n, whole,
						func(i int) int { return 2*half(top+i*lh) - indent })
					if ok && len(lines) == n {
						return place(lines, &s, area.CX, top, half), true
					}
					if away == 0 {
						break
					}
				}
				if uniform {
					break // every height offers the same room
				}
			}
		}
		if uniform {
			break
		}
	}
	return nil, false
}

// even reports whether an area is as wide at its edges as in its middle.
func even(half func(int) int, area symbols.TextArea, lh int) bool {
	w := half((area.Top + area.Bottom - lh) / 2)
	return half(area.Top) == w && half(area.Bottom-lh) == w
}

func place(lines []Line, s *Setting, cx, top int, half func(int) int) []Placed {
	lh, indent := s.LineHeight(), s.indent()
	out := make([]Placed, len(lines))
	for i, l := range lines {
		p := Placed{Line: l, Top: top + i*lh}
		room := half(p.Top)
		switch s.Align {
		case "left":
			p.X, p.Anchor = cx-room+indent, Start
		case "right":
			p.X, p.Anchor = cx+room, End
		default:
			p.X = cx + indent/2
		}
		if s.Bullets && l.First && l.Text != "" {
			p.Listed, p.Bullet = true, p.Left()-indent
		}
		out[i] = p
	}
	return out
}

// part is a text of a symbol with the area it stands in: most symbols have
// one, where the first paragraph stands apart there are two.
type part struct {
	*prepared
	whole model.Accented
	area  symbols.TextArea
	// named marks the first of two, strong one in bold type.
	named, body, strong bool
}

func parts(sym *symbols.Symbol, text model.Accented, s Setting, w, h int) []part {
	of := func(text model.Accented, st Style, area symbols.TextArea) part {
		return part{prepared: prepare(text, st), whole: text, area: area}
	}
	if sym.Body == nil {
		return []part{of(text, s.Style, sym.Text(w, h))}
	}
	name, _, more := strings.Cut(text.Text, "\n")
	head := len([]rune(name))
	rest := model.Accented{}
	if more {
		rest = text.Tail(head + 1)
	}
	st := s.Style
	st.Bold = st.Bold || sym.Strong
	first := of(model.Accented{Text: name, Accents: text.Accents}, st, sym.Text(w, h))
	first.named, first.strong = true, sym.Strong
	second := of(rest, s.Style, sym.Body(w, h))
	second.body = true
	switch {
	case sym.Follows && rest.Text == "":
		return []part{first}
	case sym.Follows:
		first.follow(&second, s)
	}
	return []part{first, second}
}

// follow parts the area of two texts: the first one has as many lines of it as it needs, and both stand together in the
// middle of what they leave free.
func (p *part) follow(next *part, s Setting) {
	lh, area := s.LineHeight(), p.area
	lines := func(of *part) int {
		set := of.setting(s)
		width := 2*(area.Half(area.Top, area.Top+lh)-set.Margin) - set.indent()
		list, _ := of.wrap(nil, s.Size, 0, false, func(int) int { return width })
		return len(list)
	}
	own := min(lines(p)*lh, area.Bottom-area.Top)
	free := max(area.Bottom-area.Top-own-lines(next)*lh, 0)
	p.area.Top = area.Top + free/2
	p.area.Bottom = p.area.Top + own
	next.area.Top = p.area.Bottom
}

// setting returns how a part of a symbol's text is set.
func (p *part) setting(s Setting) Setting {
	if p.named {
		s.Bullets, s.Margin, s.Bold = false, 0, s.Bold || p.strong
	}
	if p.body && s.Align == "" {
		s.Align = "left"
	}
	if p.body && s.Stand == "" {
		s.Stand = "top"
	}
	return s
}

// Holds reports whether a symbol of that size holds the text at its full size, every word whole
// unless the symbol is as wide as it may become.
func Holds(sym *symbols.Symbol, text model.Accented, s Setting, w, h int) bool {
	return holds(parts(sym, text, s, w, h), s, w < widest*sym.W)
}

// widest is how many times its standard width a symbol may become to keep a word whole.
const widest = 3

func holds(list []part, s Setting, whole bool) bool {
	for i := range list {
		if _, ok := list[i].fit(list[i].setting(s), list[i].area, whole); !ok {
			return false
		}
	}
	return true
}

// Set sets the text of a symbol: at its full size if it fits with every word whole, else
// smaller as far as it stays legible, else with words broken, else as much of it as there is
// room for.
func (f House) Set(sym *symbols.Symbol, text model.Accented, t model.Type, w, h int) Block {
	s := f.SettingOf(sym, t)
	out := Block{Style: s.Style}
	if text.Text == "" {
		return out
	}
	list := parts(sym, text, s, w, h)
	for _, whole := range [...]bool{true, false} {
		for at := s; ; {
			fits, least := true, at.Size <= Legible
			out.Lines, out.Style = out.Lines[:0], at.Style
			if sym.Follows && len(list) > 1 {
				list[0].area = sym.Text(w, h)
				list[0].follow(&list[1], at)
			}
			for i := range list {
				p := &list[i]
				lines, ok := p.fit(p.setting(at), p.area, whole)
				if !ok && least && !whole {
					lines, out.Cut = most(p.whole, p.setting(at), p.area), true
				}
				fits = fits && ok
				for k := range lines {
					lines[k].Strong = p.strong
				}
				out.Lines = append(out.Lines, lines...)
			}
			if fits || least && !whole {
				return out
			}
			if least || whole && w >= widest*sym.W { // it is as wide as it may be for a word
				break
			}
			at.Size = max(at.Size-geometry.Px/2, Legible)
			at.Margin = at.Margin * 3 / 4
		}
	}
	return out
}

// most returns as much of a text as its area has room for, ending in an
// ellipsis.
func most(whole model.Accented, s Setting, area symbols.TextArea) []Placed {
	const ellipsis = "…"
	lo, hi := 0, 0
	var ends []int // byte offsets after each character
	text := whole.Text
	for state, rest := -1, text; len(rest) > 0; {
		_, rest, _, state = uniseg.FirstGraphemeClusterInString(rest, state)
		ends = append(ends, len(text)-len(rest))
	}
	hi = len(ends)
	var best []Placed
	for lo < hi { // the longest beginning that fits; it fits ever less
		mid := (lo + hi + 1) / 2
		cut := model.Accented{Text: strings.TrimRight(text[:ends[mid-1]], " \t\r\n") + ellipsis,
			Accents: whole.Accents}
		if lines, ok := Fit(cut, s, area); ok {
			best, lo = lines, mid
		} else {
			hi = mid - 1
		}
	}
	return best
}

// Grow returns the smallest size, at least w by h, at which the symbol holds
// the text. It grows by the symbol's own steps; every word is kept whole as long
// as the symbol is not wider than three times its standard width.
func (f House) Grow(sym *symbols.Symbol, text model.Accented, t model.Type, w, h int) (int, int) {
	s := f.SettingOf(sym, t)
	list := parts(sym, text, s, w, h)
	for range 2000 {
		if list[0].area = sym.Text(w, h); len(list) > 1 {
			list[1].area = sym.Body(w, h)
			if sym.Follows {
				list[0].follow(&list[1], s)
			}
		}
		if holds(list, s, w < widest*sym.W) {
			return w, h
		}
		area := list[0].area
		mid := (area.Top + area.Bottom) / 2
		switch {
		case sym.Step.X > 0 && sym.Step.Y > 0:
			w, h = w+sym.Step.X, h+sym.Step.Y
		case 2*area.Half(mid, mid) < list[0].face.scaled(list[0].longest, s.Size) && w < widest*sym.W || h >= w ||
			sym.Step.Y == 0:
			w += 10 * geometry.Px
		default:
			h += sym.Step.Y
		}
	}
	return w, h
}

// Snug returns the smallest size a symbol of the kind has with the text.
func (f House) Snug(sym *symbols.Symbol, text model.Accented, t model.Type) (int, int) {
	return f.Grow(sym, text, t, max(sym.MinW, sym.W/2), max(sym.MinH, sym.H/2))
}
