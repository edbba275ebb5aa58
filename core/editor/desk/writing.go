package desk

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

// StartWriting opens the text of a symbol, connector, lane or pool. With
// replace set, typing has begun and replaces what was there.
func (e *Writing) StartWriting(id string, replace bool) { e.StartWritingAt(id, "", replace) }

// StartWritingAt is startWriting for one of the labels of a connector.
func (e *Writing) StartWritingAt(id, label string, replace bool) {
	s := e.Sheet()
	w := &write{ID: id, At: label, Replace: replace, Goes: e.OnJourney()}
	e.Worded = nil
	box := func(b geometry.Box) { w.X, w.Y, w.W, w.H = b.X, b.Y, b.W, b.H }
	switch {
	case s.Symbol(id) != nil:
		sym := s.Symbol(id)
		e.Sel, e.Lane = []string{id}, ""
		w.Name, w.Bold, w.Italic, w.Size = "Text of the symbol", sym.Bold, sym.Italic,
			typeset.HouseOf(e.M).StyleOf(looks.For(e.M, sym).Type(sym.Type)).Size
		box(sym.Box)
		w.Goes = s.Seated(sym) || goesOn(s, sym)
		w.Lanes = goesOn(s, sym) && s.LaneOf(sym) != nil
		if s.IsCell(sym) {
			w.Name = "Text in " + s.CellName(sym)
		}
		if !replace {
			w.Text = sym.Text
		}
	case s.Connector(id) != nil:
		e.Sel, e.Lane = []string{id}, ""
		c, course := e.CourseOf(id)
		k := slices.Index(model.LabelNames[:], label)
		if c == nil || k < 0 {
			return
		}
		w.Name = [...]string{"Label of the connector", "Label at its beginning", "Label at its end"}[k]
		w.Bold, w.Italic, w.Size = c.Bold, c.Italic, typeset.HouseOf(e.M).StyleOf(looks.Of(e.M).Type(c.Type)).Size
		if !replace {
			w.Text = *c.Labels()[k].Text
		}
		at := course.Labels[k]
		if at.W == 0 {
			share := [...]int{50, 10, 90}[k]
			at = geometry.Around(course.Points.Along(course.Points.Length()*share/100), 0, 0)
		}
		box(geometry.Around(at.Centre(), max(at.W+20*Px, 120*Px), max(at.H, 24*Px)))
	case s.Pool(id) != nil:
		p := s.Pool(id)
		w.Name = "Title of the pool"
		if !replace {
			w.Text = p.Title
		}
		if w.Goes = false; p.Journey {
			w.Name = "The person whose journey it is: the name, and below it a few words"
			if !replace {
				w.Text = strings.TrimSpace(p.Title + "\n" + p.Words)
			}
		}
		box(geometry.Box{X: p.X, Y: p.Y, W: 220 * Px, H: 32 * Px})
	default:
		for _, p := range s.Pools {
			if i := p.LaneIndex(id); i >= 0 {
				w.Name = "Name of the lane"
				if !replace {
					w.Text = p.Lanes[i].Name
				}
				b := p.LaneBox(i)
				if p.Journey {
					w.Name = "Name of the row"
				}
				if p.Down {
					box(geometry.Box{X: b.X, Y: b.Y, W: max(b.W, 120*Px), H: 32 * Px})
				} else {
					box(geometry.Box{X: b.X, Y: b.Y + b.H/2 - 16*Px, W: 200 * Px, H: 32 * Px})
				}
			}
		}
		if p, i := stageNamed(s, id); p != nil {
			w.Name = "Name of the stage"
			if !replace {
				w.Text = p.Stages[i].Name
			}
			b := p.StageBox(i)
			box(geometry.Box{X: b.X, Y: b.Y, W: max(min(b.W, 240*Px), 120*Px), H: 32 * Px})
		}
		if at, p, row, stage := spotNamed(s, id); p != nil {
			w.Name = "Text in " + p.Lanes[row].Called() + ", " + model.Flat(p.Stages[stage].Name)
			b := p.CellAt(row, stage).Grown(-model.CellPad)
			if in := s.InCell(at.Row, at.Stage); len(in) > 0 && p.Lanes[row].Row != model.MoodRow {
				b.Y = in[len(in)-1].Bottom() + model.CellGap
				b.H = model.CellLeast
			}
			box(b)
			e.Sel, e.Lane, e.Blank = nil, "", at
		}
		if w.Name == "" {
			return
		}
	}
	w.Base, _ = e.TextOf(id, label)
	e.TextField = w
}

// TextOf returns the text of a symbol, connector, lane, stage or pool as it is now, and whether
// there is such a thing.
func (e *Writing) TextOf(id, label string) (string, bool) {
	if _, p, _, _ := spotNamed(e.Sheet(), id); p != nil {
		return "", true
	}
	s := e.M.SheetOf(id)
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

// WriteOn is WriteAt with the key that ended it, which on a card goes on to another one.
func (e *Writing) WriteOn(id, label, text, key string, mods int) bool {
	if !e.WriteAt(id, label, text) {
		return false
	}
	if label == "" && !e.Journeys.GoOn(id, key, mods, strings.TrimSpace(text) != "") && !e.Cards.GoOn(key, mods) {
		e.goOn(id, key, mods)
	}
	return true
}

// goesOn reports whether Tab goes on from a symbol to the next step while its text is written.
func goesOn(s *model.Sheet, sym *model.Symbol) bool {
	return s.Kind == model.FlowSheet && !sym.Kind.IsAside() && !sym.Kind.IsReference()
}

// goOn is what a key does that ends the writing of a step in a flow: Tab goes on to the next step, which is added where
// there is none, Shift Tab back to the one before, and Ctrl with an arrow takes the step to the lane above or below and
// goes on writing.
func (e *Writing) goOn(id, key string, mods int) {
	sym := e.Symbol(id)
	if sym == nil || !goesOn(e.Sheet(), sym) {
		return
	}
	switch {
	case key == "Tab" && mods == Shift:
		if from := e.Flow().Entries(id); len(from) > 0 {
			e.StartWriting(from[0].From.Symbol.ID, false)
		}
	case key == "Tab" && mods == 0 && sym.Text != "":
		if next := e.Flow().Onward(id); len(next) > 0 {
			e.Centre = next[0].To.Symbol.ID
			e.StartWriting(next[0].To.Symbol.ID, false)
		} else if !sym.Kind.IsEnd() || len(e.Flow().Entries(id)) == 0 { // behind an end nothing comes
			e.AppendStep(model.Process)
		}
	case (key == "ArrowUp" || key == "ArrowDown") && mods == Ctrl:
		by := 1
		if key == "ArrowUp" {
			by = -1
		}
		e.Lanes.ToLane(by)
		e.StartWriting(id, false)
	}
}

// WriteAt is Write for one of the labels of a connector.
func (e *Writing) WriteAt(id, label, text string) bool {
	text = strings.TrimSpace(strings.ReplaceAll(text, "\r\n", "\n"))
	s := e.Sheet()
	to := e.wordedAs(id, text)
	e.TextField, e.InField, e.Worded = nil, false, nil
	if s.Symbol(id) == nil && len(model.CellIDs(id)) > 0 && e.OnJourney() {
		at, _, _, _ := spotNamed(s, id)
		return e.Journeys.Write(at, text)
	}
	var change edit.Edit
	switch {
	case s.Symbol(id) != nil:
		change = e.textEdit(s, s.Symbol(id), to)
	case s.Connector(id) != nil:
		k := slices.Index(model.LabelNames[:], label)
		if k < 0 || *s.Connector(id).Labels()[k].Text == text {
			return true
		}
		change = &edit.SetText{Sheet: s.ID, ID: id, At: label, Text: text}
	case s.Pool(id) != nil && s.Pool(id).Journey:
		title, words, _ := strings.Cut(text, "\n")
		words = strings.TrimSpace(words)
		change = &edit.SetPersona{Sheet: s.ID, Pool: id, Title: &title, Words: &words}
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
			e.Say("Someone else removed what you were writing on. Your text is still in the field: copy it from there.")
			return false
		}
		return true
	}
	return e.Do(change)
}

// Cancel gives up writing; the text stays as it was.
func (e *Writing) Cancel() { e.TextField, e.InField, e.Worded = nil, false, nil }

// WriteNew opens the text of a symbol just made. What made it is held back until the text is
// written or given up.
func (e *Writing) WriteNew(id string) {
	e.StartWriting(id, false)
	if e.TextField != nil {
		e.Doc.Hold(1)
	}
}

// Held returns the edits that wait for the text, as JSON; nothing if there are none.
func (e *Writing) Held() []byte {
	list := e.Doc.Held()
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
			if p.Edit.Edit == nil || !e.Do(p.Edit.Edit) {
				return
			}
		}
	}
	if s := e.sheetWith(id); s != nil && s.ID != e.SheetID {
		e.Show(s.ID)
	}
	e.StartWritingAt(id, label, false)
	if e.TextField != nil {
		e.Doc.Hold(len(list))
		e.Centre = id
	}
}

// AskAnswer offers the answers for a new exit of a decision.
func (e *Writing) AskAnswer(id string) {
	s := e.Sheet()
	c := s.Connector(id)
	if c == nil || s.Symbol(c.From.Symbol) == nil || !s.Symbol(c.From.Symbol).Kind.Asks() {
		return
	}
	if to := s.Symbol(c.To.Symbol); to != nil && to.Kind.IsAside() {
		return
	}
	e.Refresh()
	for i, other := range s.Connectors {
		if other.ID == id {
			at := e.Routed[i].Labels[0]
			if at.W == 0 {
				at = geometry.Around(e.Routed[i].Points[0], 0, 0)
			}
			e.Ask = &ask{ID: id, X: at.X, Y: at.Bottom(), Options: e.M.Answers, Chosen: c.Text}
		}
	}
}

// SwapAnswers exchanges the answers of the first two exits of a decision.
func (e *Writing) SwapAnswers() {
	sym := e.One()
	if sym == nil && len(e.Sel) == 1 {
		if c := e.Sheet().Connector(e.Sel[0]); c != nil {
			sym = e.Symbol(c.From.Symbol)
		}
	}
	if sym == nil || !sym.Kind.Asks() {
		e.Say("Select a decision or one of its exits to swap the answers.")
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
		e.Say("This decision has no exit yet.")
		return
	case 1: // the other answer
		at := slices.Index(e.M.Answers, exits[0].Text)
		e.Do(&edit.SetText{Sheet: e.SheetID, ID: exits[0].ID, Text: e.M.Answers[(at+1)%len(e.M.Answers)]})
		return
	}
	a, b := exits[0], exits[1]
	e.Do(edit.Together("swap the answers",
		&edit.SetText{Sheet: e.SheetID, ID: a.ID, Text: b.Text},
		&edit.SetText{Sheet: e.SheetID, ID: b.ID, Text: a.Text}))
}

// AppendStep sets the next step down after the selected one, connected, in
// line, and open for typing.
func (e *Writing) AppendStep(kind model.Kind) {
	from := e.One()
	switch {
	case from == nil && len(e.Sheet().Symbols) == 0:
		e.firstStep(kind)
		return
	case from == nil:
		e.Say(NeedFrom)
		return
	}
	if next := e.Flow().Onward(from.ID); len(next) == 1 && !from.Kind.Asks() && !kind.IsAside() &&
		!kind.IsReference() && !kind.IsEnd() {
		e.Lines.insertAfter(next[0].Connector, kind) // a step has one way on: the new one comes in between
		return
	}
	box, edits := arrange.Append(e.M, e.Sheet(), from, kind)
	sym := e.NewSymbol(kind, box)
	if sym.Owner = from.Owner; kind.IsAside() {
		sym.Owner = ""
	}
	c := e.Lines.newConnector(model.End{Symbol: from.ID}, model.End{Symbol: sym.ID})
	if kind.IsAside() {
		c.Text, c.Line, c.ToMark = "", model.DashLine, model.MarkNone
	}
	edits = append(edits, &edit.AddItems{Sheet: e.SheetID, Symbols: []model.Symbol{sym},
		Connectors: []model.Connector{c}})
	if !e.Do(edit.Together("add the next step", edits...)) {
		return
	}
	e.Sel, e.Lane = []string{sym.ID}, ""
	e.AskAnswer(c.ID)
	e.Centre = sym.ID
	e.Sheets.edge(sym.ID)
	if !kind.IsReference() {
		e.WriteNew(sym.ID)
	}
}

// firstStep sets the first symbol of a sheet down where a flow begins, in the
// first lane if there is one, open for typing.
func (e *Writing) firstStep(kind model.Kind) {
	s := e.Sheet()
	var pool *model.Pool
	if len(s.Pools) > 0 {
		pool = s.Pools[0]
	}
	box := arrange.First(e.M, s, pool, 0, kind)
	sym := e.NewSymbol(kind, box)
	if e.Do(&edit.AddItems{Sheet: e.SheetID, Symbols: []model.Symbol{sym}}) {
		e.Sel, e.Lane, e.Centre = []string{sym.ID}, "", sym.ID
		e.WriteNew(sym.ID)
	}
}

// NextEmpty opens the next symbol without a text.
func (e *Writing) NextEmpty() {
	list := e.Sheet().Symbols
	at := 0
	if sym := e.One(); sym != nil {
		at = slices.Index(list, sym) + 1
	}
	for i := range list {
		if sym := list[(at+i)%len(list)]; sym.Text == "" {
			e.Centre = sym.ID
			e.StartWriting(sym.ID, false)
			return
		}
	}
	e.Say("Every symbol on this sheet has its text.")
}

// textEdit returns the edit that writes a symbol's text, and says so where only this symbol grows for it.
func (e *Writing) textEdit(s *model.Sheet, sym *model.Symbol, text model.Accented) edit.Edit {
	edit, alone := e.WorkOn(s).WriteAccented(sym, text)
	e.growsAlone(alone)
	return edit
}

func (e *Writing) growsAlone(alone bool) {
	if alone {
		e.Say("This text is so long that only its symbol has grown; the others of its kind keep their size.")
	}
}
