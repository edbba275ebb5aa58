package desk

import (
	"plaintracer/core/edit"
	"plaintracer/core/looks"
	"plaintracer/core/model"
)

// Some words of a text are set otherwise than the rest while it is written: they are marked in its field.

// worded is a text that is being written on a symbol.
type worded struct {
	id string
	model.Accented
}

// wordedAs returns the text of the field as it would be set.
func (e *Writing) wordedAs(id, text string) model.Accented {
	if e.Worded != nil && e.Worded.id == id {
		return e.Worded.Rewritten(text)
	}
	if sym := e.symbolOn(id); sym != nil {
		return sym.Accented().Rewritten(text)
	}
	return model.Accented{Text: text}
}

// symbolOn returns the symbol with an id on whatever sheet.
func (e *Writing) symbolOn(id string) *model.Symbol {
	if s := e.M.SheetOf(id); s != nil {
		return s.Symbol(id)
	}
	return nil
}

// WordedText is the text of the field as it will be drawn.
type WordedText struct {
	Parts []WordedPart `json:"parts"`
	// Fill is what it stands on, Ink its colour.
	Fill string `json:"fill"`
	Ink  string `json:"ink"`
	// Bold, Italic and Colour are how all of the marked words are set.
	Bold   bool   `json:"bold"`
	Italic bool   `json:"italic"`
	Colour string `json:"colour"`
	// Set says that some words are set otherwise than the rest.
	Set bool `json:"set"`
}

// WordedPart is a stretch of a text that is set in one way.
type WordedPart struct {
	Text   string `json:"text"`
	Bold   bool   `json:"bold"`
	Italic bool   `json:"italic"`
	Colour string `json:"colour"`
}

// WordedAs returns how the text of the field will be drawn, with the characters marked from one up to another; nil
// where it is the text of no symbol.
func (e *Writing) WordedAs(id, text string, from, to int) *WordedText {
	sym := e.symbolOn(id)
	if sym == nil {
		return nil
	}
	a, look := e.wordedAs(id, text), looks.For(e.M, sym)
	ink := look.TextOf(sym)
	out := &WordedText{Fill: look.Fill(sym.Fill), Ink: ink, Set: len(a.Accents) > 0, Parts: []WordedPart{}}
	runes, at := []rune(a.Text), 0
	put := func(to int, as model.Accent) {
		if at < to {
			out.Parts = append(out.Parts, WordedPart{string(runes[at:to]), sym.Bold || as.Bold, sym.Italic || as.Italic,
				look.Line(as.Colour, ink)})
			at = to
		}
	}
	for _, one := range a.Accents {
		put(min(one.From, len(runes)), model.Accent{})
		put(min(one.To, len(runes)), one)
	}
	put(len(runes), model.Accent{})
	from, to = a.Marked(from, to)
	out.Bold = from < to && a.All(from, to, func(one *model.Accent) bool { return one.Bold })
	out.Italic = from < to && a.All(from, to, func(one *model.Accent) bool { return one.Italic })
	for _, one := range a.Accents {
		if one.From <= from && from < one.To && a.All(from, to,
			func(o *model.Accent) bool { return o.Colour == one.Colour }) {
			out.Colour = one.Colour
		}
	}
	return out
}

// AccentWords sets the marked words of the field otherwise: "bold" and "italic" turn that on or off, "colour" takes its
// value, and "plain" gives up all three. Where nothing is marked, the word is meant in which the caret stands.
func (e *Writing) AccentWords(id, text string, from, to int, way, value string) {
	if e.symbolOn(id) == nil {
		return
	}
	a := e.wordedAs(id, text)
	from, to = a.Marked(from, to)
	if from == to {
		e.Say("Mark some words first.")
		return
	}
	change := func(*model.Accent) {}
	switch way {
	case "bold":
		on := !a.All(from, to, func(one *model.Accent) bool { return one.Bold })
		change = func(one *model.Accent) { one.Bold = on }
	case "italic":
		on := !a.All(from, to, func(one *model.Accent) bool { return one.Italic })
		change = func(one *model.Accent) { one.Italic = on }
	case "colour":
		colour, ok := e.colour(value)
		if !ok {
			return
		}
		change = func(one *model.Accent) { one.Colour = colour }
	case "plain":
		change = func(one *model.Accent) { *one = model.Accent{From: one.From, To: one.To} }
	}
	next := a.Set(from, to, change)
	if len(next.Accents) > model.MaxAccents {
		e.Say("At most %d stretches of a text are set otherwise.", model.MaxAccents)
		return
	}
	e.Worded = &worded{id, next}
}

// PlainWords sets all words of the selected symbols as the rest of their texts.
func (e *Writing) PlainWords() {
	var edits []edit.Edit
	for _, sym := range e.accented() {
		edits = append(edits, &edit.SetAccents{Sheet: e.SheetID, ID: sym.ID, Text: sym.Text})
	}
	e.Do(edit.Together("set all words alike", edits...))
}

// HasAccents reports whether words of the selected symbols are set otherwise.
func (e *Writing) HasAccents() bool { return len(e.accented()) > 0 }

func (e *Writing) accented() (list []*model.Symbol) {
	for _, sym := range e.Chosen() {
		if len(sym.Accents) > 0 {
			list = append(list, sym)
		}
	}
	return list
}
