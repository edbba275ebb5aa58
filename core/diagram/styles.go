package diagram

import "slices"

func init() {
	register("setStyle", func(m *Map, e *SetStyle) string { return "style " + m.speak(e.Sheet, e.IDs) })
	register("saveStyle", func(_ *Map, e *SaveStyle) string { return "save the style " + quote(e.Style.Name) })
	register("removeStyle", says[*RemoveStyle]("remove a style"))
	register("wear", func(m *Map, e *Wear) string { return "style " + m.speak(e.Sheet, e.IDs) })
}

// Style is a way of drawing saved under a name. Fill and Emphasis are for
// symbols, the rest for connectors as well.
type Style struct {
	ID       string `json:"id"`
	Name     string `json:"name"`
	Fill     string `json:"fill,omitempty"`
	Ink      string `json:"ink,omitempty"`
	Weight   int    `json:"weight,omitempty"`
	Dashed   bool   `json:"dashed,omitempty"`
	Emphasis bool   `json:"emphasis,omitempty"`
	Type
}

type (
	// SaveStyle keeps a style under a name. Where there is one with its id,
	// all that wear it follow: whatever they have as that style said.
	SaveStyle struct {
		Style Style `json:"style"`
	}
	// RemoveStyle forgets a style. What wears it stays as it looks.
	RemoveStyle struct {
		ID string `json:"id"`
	}
	// Wear gives symbols and connectors a saved style; an empty one takes it
	// off and leaves them as they look.
	Wear struct {
		Sheet string   `json:"sheet"`
		IDs   []string `json:"ids"`
		Style string   `json:"style,omitempty"`
	}
)

func (h *Head) style(id string) *Style {
	if i := slices.IndexFunc(h.Styles, func(s Style) bool { return s.ID == id }); i >= 0 {
		return &h.Styles[i]
	}
	return nil
}

// StyleNamed returns the saved style with this id, or nil.
func (m *Map) StyleNamed(id string) *Style { return m.style(id) }

func (y *Style) validate(path string) error {
	switch {
	case !ValidID(y.ID):
		return fault(path+".id", "%q is no id", y.ID)
	case y.Name == "":
		return fault(path+".name", "a style needs a name")
	case !isColour(y.Fill):
		return fault(path+".fill", "%q is no colour of the palette and no #rrggbb", y.Fill)
	case !isColour(y.Ink):
		return fault(path+".ink", "%q is no colour of the palette and no #rrggbb", y.Ink)
	case !isWeight(y.Weight):
		return fault(path+".weight", "a line is a half to %d px wide", MaxWeight/100)
	}
	if err := checkText(path+".name", y.Name, MaxName); err != nil {
		return err
	}
	return y.Type.validate(path)
}

// StyleOf returns the style a symbol has, without a name.
func (s *Symbol) StyleOf() Style {
	return Style{Fill: s.Fill, Ink: s.Ink, Weight: s.Weight, Dashed: s.Dashed, Emphasis: s.Emphasis, Type: s.Type}
}

// StyleOf returns the style a connector has, without a name.
func (c *Connector) StyleOf() Style {
	return Style{Ink: c.Ink, Weight: c.Weight, Dashed: c.Dashed, Type: c.Type}
}

// follow sets *now to what a style says, where it is as the style said before.
func follow[T comparable](now *T, before, after T) {
	if *now == before {
		*now = after
	}
}

// change takes what a style said to what it says now.
func (s *Symbol) change(before, after *Style) {
	follow(&s.Fill, before.Fill, after.Fill)
	follow(&s.Ink, before.Ink, after.Ink)
	follow(&s.Weight, before.Weight, after.Weight)
	follow(&s.Dashed, before.Dashed, after.Dashed)
	follow(&s.Emphasis, before.Emphasis, after.Emphasis)
	s.Type.change(&before.Type, &after.Type)
}

func (c *Connector) change(before, after *Style) {
	follow(&c.Ink, before.Ink, after.Ink)
	follow(&c.Weight, before.Weight, after.Weight)
	follow(&c.Dashed, before.Dashed, after.Dashed)
	c.Type.change(&before.Type, &after.Type)
}

func (y *Type) change(before, after *Type) {
	follow(&y.Bold, before.Bold, after.Bold)
	follow(&y.Italic, before.Italic, after.Italic)
	follow(&y.Underline, before.Underline, after.Underline)
	follow(&y.Size, before.Size, after.Size)
	follow(&y.Colour, before.Colour, after.Colour)
	follow(&y.Align, before.Align, after.Align)
	follow(&y.Stand, before.Stand, after.Stand)
	follow(&y.Margin, before.Margin, after.Margin)
	follow(&y.Bullets, before.Bullets, after.Bullets)
}

func (e *SaveStyle) change(t *trial) error {
	h := t.editHead()
	had := h.style(e.Style.ID)
	if had == nil {
		h.Styles = append(h.Styles, e.Style)
		return nil
	}
	before := *had
	*had = e.Style
	return t.wearers(before.ID, func(sym *Symbol) { sym.change(&before, &e.Style) }, func(c *Connector) { c.change(&before, &e.Style) })
}

// wearers changes all that wear a style, locked or not.
func (t *trial) wearers(id string, symbol func(*Symbol), connector func(*Connector)) error {
	t.following = true
	defer func() { t.following = false }()
	for _, s := range t.m.Sheets {
		for _, sym := range s.Symbols {
			if sym.Style != id {
				continue
			}
			if err := t.touch(s, sym); err != nil {
				return err
			}
			symbol(sym)
		}
		for _, c := range s.Connectors {
			if c.Style != id {
				continue
			}
			if _, err := t.editConnector(s, c.ID); err != nil {
				return err
			}
			connector(c)
		}
	}
	return nil
}

func (e *RemoveStyle) change(t *trial) error {
	h := t.editHead()
	if h.style(e.ID) == nil {
		return refuse(e.ID, "the style is not there any more")
	}
	h.Styles = slices.DeleteFunc(h.Styles, func(s Style) bool { return s.ID == e.ID })
	return t.wearers(e.ID, func(sym *Symbol) { sym.Style = "" }, func(c *Connector) { c.Style = "" })
}

func (e *Wear) change(t *trial) error {
	s, err := t.sheet(e.Sheet)
	if err != nil {
		return err
	}
	style := t.m.style(e.Style)
	if style == nil && e.Style != "" {
		return refuse(e.Style, "the style is not there any more")
	}
	for _, id := range e.IDs {
		if s.Connector(id) != nil {
			c, err := t.editConnector(s, id)
			if err != nil {
				return err
			}
			if c.Style = e.Style; style != nil {
				c.Ink, c.Weight, c.Dashed, c.Type = style.Ink, style.Weight, style.Dashed, style.Type
			}
			continue
		}
		sym, err := t.editSymbol(s, id)
		if err != nil {
			return err
		}
		if sym.Style = e.Style; style != nil {
			sym.Fill, sym.Ink, sym.Weight, sym.Dashed, sym.Emphasis, sym.Type = style.Fill, style.Ink, style.Weight, style.Dashed, style.Emphasis, style.Type
		}
	}
	return nil
}

// backStyles takes changes of styles back one by one, where others have changed
// styles since.
func backStyles(now *[]Style, before, after []Style) bool {
	if slices.Equal(*now, after) {
		*now = slices.Clone(before)
		return true
	}
	at := func(list []Style, id string) int {
		return slices.IndexFunc(list, func(s Style) bool { return s.ID == id })
	}
	ok := true
	for i, b := range before {
		j, k := at(after, b.ID), at(*now, b.ID)
		switch {
		case j < 0 && k < 0:
			*now = slices.Insert(*now, min(i, len(*now)), b)
		case j >= 0 && k >= 0:
			ok = back(&(*now)[k], b, after[j]) && ok
		}
	}
	for _, a := range after {
		if k := at(*now, a.ID); at(before, a.ID) < 0 && k >= 0 {
			if (*now)[k] == a {
				*now = slices.Delete(*now, k, k+1)
			} else {
				ok = false
			}
		}
	}
	return ok
}

// SetStyle changes how symbols and connectors are drawn and their texts
// set; nil leaves a value alone, and what a thing does not have is passed
// over.
type SetStyle struct {
	Sheet     string    `json:"sheet"`
	IDs       []string  `json:"ids"`
	Fill      *string   `json:"fill,omitempty"`
	Look      *string   `json:"look,omitempty"`
	Dashed    *bool     `json:"dashed,omitempty"`
	Emphasis  *bool     `json:"emphasis,omitempty"`
	Trunk     *bool     `json:"trunk,omitempty"`
	Picture   *string   `json:"picture,omitempty"`
	Tip       *Tip      `json:"tip,omitempty"`
	Bold      *bool     `json:"bold,omitempty"`
	Italic    *bool     `json:"italic,omitempty"`
	Underline *bool     `json:"underline,omitempty"`
	Size      *int      `json:"size,omitempty"`
	Colour    *string   `json:"colour,omitempty"`
	Align     *string   `json:"align,omitempty"`
	Stand     *string   `json:"stand,omitempty"`
	Margin    *int      `json:"margin,omitempty"`
	Bullets   *bool     `json:"bullets,omitempty"`
	Line      *Line     `json:"line,omitempty"`
	Weight    *int      `json:"weight,omitempty"`
	Ink       *string   `json:"ink,omitempty"`
	Course    *Run      `json:"course,omitempty"`
	Radius    *int      `json:"radius,omitempty"`
	Hop       *Crossing `json:"hop,omitempty"`
	Merge     *Merging  `json:"merge,omitempty"`
	FromMark  *Mark     `json:"fromMark,omitempty"`
	ToMark    *Mark     `json:"toMark,omitempty"`
	MarkSize  *MarkSize `json:"markSize,omitempty"`
}

func (e *SetStyle) change(t *trial) error {
	s, err := t.sheet(e.Sheet)
	if err != nil {
		return err
	}
	for _, id := range e.IDs {
		if s.Connector(id) != nil {
			c, err := t.editConnector(s, id)
			if err != nil {
				return err
			}
			set(&c.Dashed, e.Dashed)
			set(&c.Line, e.Line)
			set(&c.Weight, e.Weight)
			set(&c.Ink, e.Ink)
			set(&c.Course, e.Course)
			set(&c.Radius, e.Radius)
			set(&c.Hop, e.Hop)
			set(&c.Merge, e.Merge)
			set(&c.FromMark, e.FromMark)
			set(&c.ToMark, e.ToMark)
			set(&c.MarkSize, e.MarkSize)
			e.setType(&c.Type)
			continue
		}
		sym, err := t.editSymbol(s, id)
		if err != nil {
			return err
		}
		set(&sym.Fill, e.Fill)
		set(&sym.Look, e.Look)
		set(&sym.Ink, e.Ink)
		set(&sym.Weight, e.Weight)
		set(&sym.Dashed, e.Dashed)
		set(&sym.Emphasis, e.Emphasis)
		set(&sym.Trunk, e.Trunk)
		set(&sym.Picture, e.Picture)
		set(&sym.Tip, e.Tip)
		e.setType(&sym.Type)
	}
	return nil
}

func (e *SetStyle) setType(y *Type) {
	set(&y.Bold, e.Bold)
	set(&y.Italic, e.Italic)
	set(&y.Underline, e.Underline)
	set(&y.Size, e.Size)
	set(&y.Colour, e.Colour)
	set(&y.Align, e.Align)
	set(&y.Stand, e.Stand)
	set(&y.Margin, e.Margin)
	set(&y.Bullets, e.Bullets)
}
