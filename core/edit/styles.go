package edit

import (
	"slices"

	"plaintracer/core/fields"
	"plaintracer/core/model"
)

func init() {
	register("setStyle", func(m *model.Map, e *SetStyle) string { return "style " + speak(m, e.Sheet, e.IDs) })
	register("saveStyle",
		func(_ *model.Map, e *SaveStyle) string { return "save the style " + model.Quote(e.Style.Name) })
	register("removeStyle", says[*RemoveStyle]("remove a style"))
	register("wear", func(m *model.Map, e *Wear) string { return "style " + speak(m, e.Sheet, e.IDs) })
}

type (
	// SaveStyle keeps a style under a name. Where there is one with its id,
	// all that wear it follow: whatever they have as that style said.
	SaveStyle struct {
		Style model.Style `json:"style"`
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

// wearers changes all that wear a style, locked or not.
func (t *transaction) wearers(id string, do func(record any)) error {
	t.following = true
	defer func() { t.following = false }()
	for _, s := range t.m.Sheets {
		var ids []string
		for _, sym := range s.Symbols {
			if sym.Style == id {
				ids = append(ids, sym.ID)
			}
		}
		for _, c := range s.Connectors {
			if c.Style == id {
				ids = append(ids, c.ID)
			}
		}
		if err := t.each(s.ID, ids, do); err != nil {
			return err
		}
	}
	return nil
}

func (e *RemoveStyle) change(t *transaction) error {
	h := mapHead.edit(t, nil)
	if h.StyleNamed(e.ID) == nil {
		return model.Refuse(e.ID, "the style is not there any more")
	}
	h.Styles = slices.DeleteFunc(h.Styles, func(s model.Style) bool { return s.ID == e.ID })
	return t.wearers(e.ID, func(record any) { fields.Assign(record, &worn{Style: new(string)}) })
}

// worn is the style a record wears, as an edit would set it.
type worn struct{ Style *string }

func (e *Wear) change(t *transaction) error {
	style := t.m.StyleNamed(e.Style)
	if style == nil && e.Style != "" {
		return model.Refuse(e.Style, "the style is not there any more")
	}
	return t.each(e.Sheet, e.IDs, func(record any) {
		if fields.Assign(record, &worn{&e.Style}); style != nil {
			fields.Give(record, style)
		}
	})
}

// SetStyle changes how symbols and connectors are drawn and their texts
// set; nil leaves a value alone, and what a thing does not have is passed
// over.
type SetStyle struct {
	Sheet     string          `json:"sheet"`
	IDs       []string        `json:"ids"`
	Fill      *string         `json:"fill,omitempty"`
	Look      *string         `json:"look,omitempty"`
	Dashed    *bool           `json:"dashed,omitempty"`
	Emphasis  *bool           `json:"emphasis,omitempty"`
	Trunk     *bool           `json:"trunk,omitempty"`
	Picture   *string         `json:"picture,omitempty"`
	Tip       *model.Tip      `json:"tip,omitempty"`
	Bold      *bool           `json:"bold,omitempty"`
	Italic    *bool           `json:"italic,omitempty"`
	Underline *bool           `json:"underline,omitempty"`
	Face      *string         `json:"face,omitempty"`
	Size      *int            `json:"size,omitempty"`
	Colour    *string         `json:"colour,omitempty"`
	Align     *string         `json:"align,omitempty"`
	Stand     *string         `json:"stand,omitempty"`
	Margin    *int            `json:"margin,omitempty"`
	Bullets   *bool           `json:"bullets,omitempty"`
	Line      *model.Line     `json:"line,omitempty"`
	Weight    *int            `json:"weight,omitempty"`
	Ink       *string         `json:"ink,omitempty"`
	Course    *model.Run      `json:"course,omitempty"`
	Radius    *int            `json:"radius,omitempty"`
	Hop       *model.Crossing `json:"hop,omitempty"`
	Merge     *model.Merging  `json:"merge,omitempty"`
	FromMark  *model.Mark     `json:"fromMark,omitempty"`
	ToMark    *model.Mark     `json:"toMark,omitempty"`
	MarkSize  *model.MarkSize `json:"markSize,omitempty"`
}

func (e *SaveStyle) change(t *transaction) error {
	h := mapHead.edit(t, nil)
	had := h.StyleNamed(e.Style.ID)
	if had == nil {
		h.Styles = append(h.Styles, e.Style)
		return nil
	}
	before := *had
	*had = e.Style
	return t.wearers(before.ID, func(record any) { followStyle(record, &before, &e.Style) })
}

func (e *SetStyle) change(t *transaction) error {
	return t.each(e.Sheet, e.IDs, func(record any) { fields.Assign(record, e) })
}

// each calls do with symbols and connectors of a sheet that are going to change, as pointers.
func (t *transaction) each(sheet string, ids []string, do func(record any)) error {
	s, err := t.sheet(sheet)
	if err != nil {
		return err
	}
	for _, id := range ids {
		if s.Connector(id) != nil {
			c, err := t.editConnector(s, id)
			if err != nil {
				return err
			}
			do(c)
			continue
		}
		sym, err := t.editSymbol(s, id)
		if err != nil {
			return err
		}
		do(sym)
	}
	return nil
}

// followStyle gives a record what a style says now, wherever it is as the style said before.
func followStyle(record any, before, after *model.Style) {
	now := model.StyleOf(record)
	fields.TakeBack(&now, after, before, false) // what was chosen for the record itself stays
	fields.Give(record, &now)
}
