package editor

import (
	"encoding/json"
	"slices"
	"strings"

	"plaintracer/core/arrange"
	"plaintracer/core/edit"
	"plaintracer/core/geometry"
	"plaintracer/core/looks"
	"plaintracer/core/model"
	"plaintracer/core/session"
	"plaintracer/core/typeset"
)

// startWriting opens the text of a symbol, connector, lane or pool. With
// replace set, typing has begun and replaces what was there.
func (e *Writing) startWriting(id string, replace bool) { e.startWritingAt(id, "", replace) }

// startWritingAt is startWriting for one of the labels of a connector.
func (e *Writing) startWritingAt(id, label string, replace bool) {
	s := e.Sheet()
	w := &write{ID: id, At: label, Replace: replace}
	box := func(b geometry.Box) { w.X, w.Y, w.W, w.H = b.X, b.Y, b.W, b.H }
	switch {
	case s.Symbol(id) != nil:
		sym := s.Symbol(id)
		e.sel, e.lane = []string{id}, ""
		w.Name, w.Bold, w.Italic, w.Size = "Text of the symbol", sym.Bold, sym.Italic, typeset.HouseOf(e.m).StyleOf(looks.For(e.m, sym).Type(sym.Type)).Size
		box(sym.Box)
		if !replace {
			w.Text = sym.Text
		}
	case s.Connector(id) != nil:
		e.sel, e.lane = []string{id}, ""
		c, course := e.courseOf(id)
		k := slices.Index(model.LabelNames[:], label)
		if c == nil || k < 0 {
			return
		}
		w.Name = [...]string{"Label of the connector", "Label at its beginning", "Label at its end"}[k]
		w.Bold, w.Italic, w.Size = c.Bold, c.Italic, typeset.HouseOf(e.m).StyleOf(looks.Of(e.m).Type(c.Type)).Size
		if !replace {
			w.Text = *c.Labels()[k].Text
		}
		at := course.Labels[k]
		if at.W == 0 {
			share := [...]int{50, 10, 90}[k]
			at = geometry.Around(course.Points.Along(course.Points.Length()*share/100), 0, 0)
		}
		box(geometry.Around(at.Centre(), max(at.W+20*px, 120*px), max(at.H, 24*px)))
	case s.Pool(id) != nil:
		p := s.Pool(id)
		w.Name = "Title of the pool"
		if !replace {
			w.Text = p.Title
		}
		box(geometry.Box{X: p.X, Y: p.Y, W: 220 * px, H: 32 * px})
	default:
		for _, p := range s.Pools {
			if i := p.LaneIndex(id); i >= 0 {
				w.Name = "Name of the lane"
				if !replace {
					w.Text = p.Lanes[i].Name
				}
				b := p.LaneBox(i)
				if p.Down {
					box(geometry.Box{X: b.X, Y: b.Y, W: max(b.W, 120*px), H: 32 * px})
				} else {
					box(geometry.Box{X: b.X, Y: b.Y + b.H/2 - 16*px, W: 200 * px, H: 32 * px})
				}
			}
		}
		if p, i := stageNamed(s, id); p != nil {
			w.Name = "Name of the stage"
			if !replace {
				w.Text = p.Stages[i].Name
			}
			b := p.StageBox(i)
			box(geometry.Box{X: b.X, Y: b.Y, W: max(min(b.W, 240*px), 120*px), H: 32 * px})
		}
		if w.Name == "" {
			return
		}
	}
	w.Base, _ = e.TextOf(id, label)
	e.write = w
}

// TextOf returns the text of a symbol, connector, lane, stage or pool as it is now, and whether
// there is such a thing.
func (e *Writing) TextOf(id, label string) (string, bool) {
	s := e.m.SheetOf(id)
	if s == nil {
		return "", false
	}
	if sym := s.Symbol(id); sym != nil {
		return sym.Text, true
	}
	if c := s.Connector(id); c != nil {
		if k := slices.Index(model.LabelNames[:], label); k >= 0 {
			return *c.Labels()[k].Text, true
		}
		return "", false
	}
	for _, p := range s.Pools {
		if p.ID == id {
			return p.Title, true
		}
		if i := p.LaneIndex(id); i >= 0 {
			return p.Lanes[i].Name, true
		}
		if i := p.StageIndex(id); i >= 0 {
			return p.Stages[i].Name, true
		}
	}
	return "", false
}

// Write ends writing with a text. It reports false when the text was refused,
// in which case the person keeps it in the field.
func (e *Writing) Write(id, text string) bool { return e.WriteAt(id, "", text) }

// WriteAt is Write for one of the labels of a connector.
func (e *Writing) WriteAt(id, label, text string) bool {
	text = strings.TrimSpace(strings.ReplaceAll(text, "\r\n", "\n"))
	e.write, e.writing = nil, false
	s := e.Sheet()
	var change edit.Edit
	switch {
	case s.Symbol(id) != nil:
		change = e.textEdit(s, s.Symbol(id), text)
	case s.Connector(id) != nil:
		k := slices.Index(model.LabelNames[:], label)
		if k < 0 || *s.Connector(id).Labels()[k].Text == text {
			return true
		}
		change = &edit.SetText{Sheet: s.ID, ID: id, At: label, Text: text}
	case s.Pool(id) != nil:
		change = &edit.SetPool{Sheet: s.ID, Pool: id, Title: &text}
	default:
		for _, p := range s.Pools {
			if p.LaneIndex(id) >= 0 {
				change = &edit.SetLane{Sheet: s.ID, Pool: p.ID, Lane: id, Name: &text}
			}
			if p.StageIndex(id) >= 0 {
				change = &edit.SetStage{Sheet: s.ID, Pool: p.ID, Stage: id, Name: &text}
			}
		}
	}
	if change == nil {
		if s.Symbol(id) == nil && s.Connector(id) == nil {
			e.say("Someone else removed what you were writing on. Your text is still in the field: copy it from there.")
			return false
		}
		return true
	}
	return e.do(change)
}

// Cancel gives up writing; the text stays as it was.
func (e *Writing) Cancel() { e.write, e.writing = nil, false }

// writeNew opens the text of a symbol just made. What made it is held back until the text is
// written or given up.
func (e *Writing) writeNew(id string) {
	e.startWriting(id, false)
	if e.write != nil {
		e.doc.Hold(1)
	}
}

// Held returns the edits that wait for the text, as JSON; nothing if there are none.
func (e *Writing) Held() []byte {
	list := e.doc.Held()
	if len(list) == 0 {
		return nil
	}
	raw, err := json.Marshal(list)
	if err != nil {
		return nil
	}
	return raw
}

// Resume opens a text that was being written when a window was closed, and first makes the
// step it stood on, where that was held back.
func (e *Writing) Resume(id, label string, held []byte) {
	var list []session.Pending
	if len(held) > 0 && json.Unmarshal(held, &list) == nil {
		for _, p := range list {
			if p.Edit.Edit == nil || !e.do(p.Edit.Edit) {
				return
			}
		}
	}
	if s := e.m.SheetOf(id); s != nil && s.ID != e.sheetID {
		e.show(s.ID)
	}
	e.startWritingAt(id, label, false)
	if e.write != nil {
		e.doc.Hold(len(list))
		e.centre = id
	}
}

// askAnswer offers the answers for a new exit of a decision.
func (e *Writing) askAnswer(id string) {
	s := e.Sheet()
	c := s.Connector(id)
	if c == nil || s.Symbol(c.From.Symbol) == nil || !s.Symbol(c.From.Symbol).Kind.Asks() {
		return
	}
	if to := s.Symbol(c.To.Symbol); to != nil && to.Kind.IsAside() {
		return
	}
	e.refresh()
	for i, other := range s.Connectors {
		if other.ID == id {
			at := e.courses[i].Labels[0]
			if at.W == 0 {
				at = geometry.Around(e.courses[i].Points[0], 0, 0)
			}
			e.ask = &ask{ID: id, X: at.X, Y: at.Bottom(), Options: e.m.Answers, Chosen: c.Text}
		}
	}
}

// swapAnswers exchanges the answers of the first two exits of a decision.
func (e *Writing) swapAnswers() {
	sym := e.one()
	if sym == nil && len(e.sel) == 1 {
		if c := e.Sheet().Connector(e.sel[0]); c != nil {
			sym = e.symbol(c.From.Symbol)
		}
	}
	if sym == nil || !sym.Kind.Asks() {
		e.say("Select a decision or one of its exits to swap the answers.")
		return
	}
	var exits []*model.Connector
	for _, c := range e.Sheet().Connectors {
		if c.From.Symbol == sym.ID {
			exits = append(exits, c)
		}
	}
	switch len(exits) {
	case 0:
		e.say("This decision has no exit yet.")
		return
	case 1: // the other answer
		at := slices.Index(e.m.Answers, exits[0].Text)
		e.do(&edit.SetText{Sheet: e.sheetID, ID: exits[0].ID, Text: e.m.Answers[(at+1)%len(e.m.Answers)]})
		return
	}
	a, b := exits[0], exits[1]
	e.do(edit.Together("swap the answers",
		&edit.SetText{Sheet: e.sheetID, ID: a.ID, Text: b.Text},
		&edit.SetText{Sheet: e.sheetID, ID: b.ID, Text: a.Text}))
}

// appendStep sets the next step down after the selected one, connected, in
// line, and open for typing.
func (e *Writing) appendStep(kind model.Kind) {
	from := e.one()
	switch {
	case from == nil && len(e.Sheet().Symbols) == 0:
		e.firstStep(kind)
		return
	case from == nil:
		e.say(needFrom)
		return
	}
	if next := e.flow().Onward(from.ID); len(next) == 1 && !from.Kind.Asks() && !kind.IsAside() && !kind.IsReference() && !kind.IsEnd() {
		e.Lines.insertAfter(next[0].Connector, kind) // a step has one way on: the new one comes in between
		return
	}
	box, edits := arrange.Append(e.m, e.Sheet(), from, kind)
	sym := e.newSymbol(kind, box)
	if sym.Owner = from.Owner; kind.IsAside() {
		sym.Owner = ""
	}
	c := e.Lines.newConnector(model.End{Symbol: from.ID}, model.End{Symbol: sym.ID})
	if kind.IsAside() {
		c.Text, c.Line, c.ToMark = "", model.DashLine, model.MarkNone
	}
	edits = append(edits, &edit.AddItems{Sheet: e.sheetID, Symbols: []model.Symbol{sym}, Connectors: []model.Connector{c}})
	if !e.do(edit.Together("add the next step", edits...)) {
		return
	}
	e.sel, e.lane = []string{sym.ID}, ""
	e.askAnswer(c.ID)
	e.centre = sym.ID
	e.Sheets.edge(sym.ID)
	if !kind.IsReference() {
		e.writeNew(sym.ID)
	}
}

// firstStep sets the first symbol of a sheet down where a flow begins, in the
// first lane if there is one, open for typing.
func (e *Writing) firstStep(kind model.Kind) {
	s := e.Sheet()
	w, h := arrange.Size(s, kind)
	page := s.Page()
	at := geometry.Point{X: 8*arrange.Grid + w/2, Y: page.H / 4}
	if e.m.Direction == model.Downwards {
		at = geometry.Point{X: page.W / 2, Y: 8*arrange.Grid + h/2}
	}
	if len(s.Pools) > 0 {
		inner := s.Pools[0].Inner(0)
		at = geometry.Point{X: inner.X + 2*arrange.Grid + w/2, Y: inner.Centre().Y}
		if s.Pools[0].Down {
			at = geometry.Point{X: inner.Centre().X, Y: inner.Y + 2*arrange.Grid + h/2}
		}
	}
	box := geometry.Around(at, w, h)
	box.X, box.Y = geometry.Snap(box.X, arrange.Grid/2), geometry.Snap(box.Y, arrange.Grid/2)
	sym := e.newSymbol(kind, box)
	if e.do(&edit.AddItems{Sheet: e.sheetID, Symbols: []model.Symbol{sym}}) {
		e.sel, e.lane, e.centre = []string{sym.ID}, "", sym.ID
		e.writeNew(sym.ID)
	}
}

// nextEmpty opens the next symbol without a text.
func (e *Writing) nextEmpty() {
	list := e.Sheet().Symbols
	at := 0
	if sym := e.one(); sym != nil {
		at = slices.Index(list, sym) + 1
	}
	for i := range list {
		if sym := list[(at+i)%len(list)]; sym.Text == "" {
			e.centre = sym.ID
			e.startWriting(sym.ID, false)
			return
		}
	}
	e.say("Every symbol on this sheet has its text.")
}

// textEdit returns the edit that writes a symbol's text, and says so where only this symbol grows for it.
func (e *Writing) textEdit(s *model.Sheet, sym *model.Symbol, text string) edit.Edit {
	edit, alone := e.workOn(s).Write(sym, text)
	e.growsAlone(alone)
	return edit
}

func (e *Writing) growsAlone(alone bool) {
	if alone {
		e.say("This text is so long that only its symbol has grown; the others of its kind keep their size.")
	}
}
