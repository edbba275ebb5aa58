package compose

import (
	"slices"

	"plaintracer/core/arrange"
	"plaintracer/core/edit"
	"plaintracer/core/flow"
	"plaintracer/core/geometry"
	"plaintracer/core/model"
	"plaintracer/core/spread"
)

// Onward is how the flow of a sheet goes on on another one.
type Onward struct {
	Edit edit.Edit
	// Sheet is the id of the sheet on which it goes on, Step that of the step there.
	Sheet, Step string
	// Moved is how many symbols went there; none where Step is new and says nothing yet.
	Moved int
}

// onward are the words under which it can be undone.
const onward = "continue on the next sheet"

// ContinueFrom goes on from a symbol on a new sheet behind, set up like its own, by a pair of references: with a new
// step where nothing leads on, or another answer is free; else with what the one way on leads to. It returns a Refusal
// where there is no telling what is to go on.
func (w *Work) ContinueFrom(sym *model.Symbol) (*Onward, error) {
	exits := flow.New(w.Map).Exits(sym.ID)
	var loose []*model.Connector // those that lead nowhere yet
	for _, c := range w.Sheet.Connectors {
		if c.From.Symbol == sym.ID && c.To.Loose() {
			loose = append(loose, c)
		}
	}
	answer := w.NextAnswer(sym.ID)
	switch {
	case sym.Kind.IsAside():
		return nil, Refusal("No flow leads through this. Select a step or a connector.")
	case sym.Kind.IsReference() && len(w.Map.Partners(sym)) > 0:
		return nil, Refusal("The flow goes on by this reference already.")
	case sym.Kind.IsReference():
		return nil, Refusal("Select the step before the reference, or the connector to it.")
	case len(exits)+len(loose) == 0 || sym.Kind.Asks() && answer != "":
		return w.continueNew(sym, answer, nil)
	case len(exits) == 0 && len(loose) == 1:
		return w.continueNew(sym, "", loose[0])
	case len(exits) == 1 && len(loose) == 0:
		return w.ContinueAt(exits[0].Connector)
	}
	return nil, Refusal("Several ways lead on from here. Select the connector that is to go on on the next sheet.")
}

// continueNew leads a symbol on to a new step on a new sheet, by a connector with a label or by one that is there.
func (w *Work) continueNew(sym *model.Symbol, label string, by *model.Connector) (*Onward, error) {
	s, m := w.Sheet, w.Map
	next := spread.Like(s, spread.Continued(s.Name), w.NewID)
	letter, step := spread.LettersOf(m).Next(), model.Symbol{ID: w.NewID(), Kind: model.Process, Owner: sym.Owner}
	arrive := spread.Reference(w.NewID(), letter, w.begin(next, sym).Centre())
	e, err := w.InTurn(onward,
		func() []edit.Edit {
			box, edits := arrange.Beside(m, s, sym, model.SheetReference)
			leave := spread.Reference(w.NewID(), letter, box.Centre())
			add := &edit.AddItems{Sheet: s.ID, Symbols: []model.Symbol{leave}}
			if by == nil {
				add.Connectors = []model.Connector{{ID: w.NewID(), Text: label, From: model.End{Symbol: sym.ID},
					To: model.End{Symbol: leave.ID}}}
				return append(edits, add)
			}
			return append(edits, add, &edit.SetEnds{Sheet: s.ID, ID: by.ID, To: &model.End{Symbol: leave.ID}})
		},
		func() []edit.Edit {
			next.Symbols = append(next.Symbols, &arrive)
			return []edit.Edit{w.addBehind(next)}
		},
		func() []edit.Edit { return w.firstBehind(next.ID, arrive.ID, step) })
	if err != nil {
		return nil, err
	}
	return &Onward{Edit: e, Sheet: next.ID, Step: step.ID}, nil
}

// firstBehind returns the edits that set a step down behind a symbol of a sheet, connected.
func (w *Work) firstBehind(sheet, from string, step model.Symbol) []edit.Edit {
	s := w.Map.Sheet(sheet)
	box, edits := arrange.Append(w.Map, s, s.Symbol(from), step.Kind)
	step.Box = box
	return append(edits, &edit.AddItems{Sheet: sheet, Symbols: []model.Symbol{step},
		Connectors: []model.Connector{{ID: w.NewID(), From: model.End{Symbol: from}, To: model.End{Symbol: step.ID}}}})
}

// begin returns where the reference stands at which the flow arrives on a sheet that is set up like the one at hand,
// in the lane of a symbol.
func (w *Work) begin(next *model.Sheet, by *model.Symbol) geometry.Box {
	pool, lane := w.laneOn(next, by)
	return arrange.First(w.Map, next, pool, lane, model.SheetReference)
}

// addBehind puts a sheet behind the one at hand.
func (w *Work) addBehind(next *model.Sheet) edit.Edit {
	return &edit.AddSheet{At: slices.Index(w.Map.Sheets, w.Sheet) + 1, Sheet: *next}
}

// ContinueAt goes on where a connector leads on a new sheet behind: whatever of its sheet is reached by no other way
// goes there, as it stands, and what leads over goes by pairs of references. It returns a Refusal where that is
// nothing.
func (w *Work) ContinueAt(c *model.Connector) (*Onward, error) {
	s := w.Sheet
	from, to := s.Leads(c)
	target := s.Symbol(to)
	switch source := s.Symbol(from); {
	case source == nil || source.Kind.IsAside() || target != nil && target.Kind.IsAside():
		return nil, Refusal("No flow leads along this connector. Select one between steps.")
	case target == nil:
		return w.continueNew(source, "", c)
	case target.Kind.IsReference() || source.Kind.IsReference():
		return nil, Refusal("A reference stands here already.")
	}
	gone := onlyBy(s, c, from, to)
	if !gone[to] {
		return nil, Refusal("Other ways lead there, too, so that it stays on this sheet.")
	}
	for id := range gone {
		if sym := s.Symbol(id); sym != nil && sym.Locked {
			return nil, Refusal("A step that would go to the next sheet is locked; unlock it first.")
		}
	}
	next := spread.Like(s, spread.Continued(s.Name), w.NewID)
	down := w.downAt(target)
	first := w.begin(next, target).Turned(down)
	by := w.shift(gone, first.Right()+arrange.Gap, down)
	taken := spread.Take(w.Map, s, next, gone, w.NewID, func(h spread.Half) geometry.Point {
		w, to := first.W, h.To.Box.Turned(down)
		switch {
		case h.Arrives && h.Next: // before the step it leads to
			return geometry.Point{X: to.X + by.Turned(down).X - arrange.Gap - w/2, Y: to.Centre().Y +
				by.Turned(down).Y}.Turned(down)
		case h.Next: // behind the step that leads back
			from := h.From.Box.Turned(down)
			return geometry.Point{X: from.Right() + by.Turned(down).X + arrange.Gap + w/2, Y: from.Centre().Y +
				by.Turned(down).Y}.Turned(down)
		case h.Arrives: // where the step stood that led back
			return h.From.Centre()
		}
		return h.To.Centre() // where the step stood to which the flow goes on
	})
	refs := next.Symbols[len(taken.Remove.IDs):]
	next.Symbols = next.Symbols[:len(taken.Remove.IDs)]
	for _, sym := range next.Symbols {
		sym.Box = sym.Moved(by)
	}
	for _, con := range next.Connectors {
		move(con, by)
	}
	for _, ref := range refs {
		ref.Box = freeAlong(next, ref.Box, down)
		next.Symbols = append(next.Symbols, ref)
	}
	w.settle(gone, taken.Add.Symbols, down)
	return &Onward{Edit: edit.Together(onward, taken.Remove, w.addBehind(next), taken.Add), Sheet: next.ID, Step: to,
		Moved: len(taken.Remove.IDs)}, nil
}

// settle lets references stand on nothing that stays on the sheet.
func (w *Work) settle(gone map[string]bool, refs []model.Symbol, down bool) {
	rest := *w.Sheet
	rest.Symbols = slices.DeleteFunc(slices.Clone(rest.Symbols), func(sym *model.Symbol) bool { return gone[sym.ID] })
	for i := range refs {
		refs[i].Box = freeAlong(&rest, refs[i].Box, down)
		rest.Symbols = append(rest.Symbols, &refs[i])
	}
}

// freeAlong returns the place nearest to a box at which it lies on nothing; where there is none near, the first one
// before it along the flow, or else behind it.
func freeAlong(s *model.Sheet, b geometry.Box, down bool) geometry.Box {
	free := func(b geometry.Box) bool {
		return !slices.ContainsFunc(s.Symbols, func(o *model.Symbol) bool { return o.Meets(b) })
	}
	if near := arrange.Free(s, b); free(near) {
		return near
	}
	area, on := s.Area().Turned(down), b.Turned(down)
	for _, step := range [2]int{-arrange.Grid, arrange.Grid} {
		for at := on; at.X >= area.X && at.Right() <= area.Right(); at.X += step {
			if out := at.Turned(down); free(out) {
				return out
			}
		}
	}
	return b
}

// downAt reports whether the flow runs down at a symbol: as its lanes do, or the map.
func (w *Work) downAt(sym *model.Symbol) bool {
	if pool, _ := w.Sheet.LaneAt(sym.Centre()); pool != nil {
		return pool.Down
	}
	return w.Map.Direction == model.Downwards
}

// shift returns how far symbols have to be moved so that the first of them begins at a place along the flow. Across it
// they stay where they are in lanes, and begin where the sheet does in none.
func (w *Work) shift(these map[string]bool, begin int, down bool) geometry.Point {
	var all geometry.Box
	for _, sym := range w.Sheet.Symbols {
		if these[sym.ID] {
			all = all.Union(sym.Box)
		}
	}
	all = all.Turned(down)
	by := geometry.Point{X: begin - all.X}
	if len(w.Sheet.Pools) == 0 {
		by.Y = w.Sheet.Drawn().Turned(down).Y - all.Y
	}
	return by.Turned(down)
}

// move moves what of a connector is given as places.
func move(c *model.Connector, by geometry.Point) {
	for _, end := range [...]*model.End{&c.From, &c.To} {
		if end.Loose() {
			end.At = end.At.Add(by)
		}
	}
	c.Bends = slices.Clone(c.Bends)
	for i := range c.Bends {
		if c.Bends[i].Upright {
			c.Bends[i].At += by.X
		} else {
			c.Bends[i].At += by.Y
		}
	}
}

// onlyBy returns the symbols of a sheet that the flow reaches by no other way than a connector, with what hangs on
// nothing but them: notes, documents and data.
func onlyBy(s *model.Sheet, c *model.Connector, from, to string) map[string]bool {
	links := flow.Links(s)
	walk := func(seen map[string]bool, stack []string, but *model.Connector) {
		for len(stack) > 0 {
			id := stack[len(stack)-1]
			if stack = stack[:len(stack)-1]; seen[id] {
				continue
			}
			seen[id] = true
			for _, l := range links {
				if l.Connector != but && l.From != nil && l.From.ID == id && l.To != nil && !l.To.Kind.IsAside() {
					stack = append(stack, l.To.ID)
				}
			}
		}
	}
	behind, otherwise := map[string]bool{}, map[string]bool{}
	walk(behind, []string{to}, nil)
	begin := []string{from}
	for _, sym := range s.Symbols {
		if !behind[sym.ID] && !sym.Kind.IsInformation() && !sym.Kind.IsAside() {
			begin = append(begin, sym.ID)
		}
	}
	walk(otherwise, begin, c)
	gone := map[string]bool{}
	for id := range behind {
		if !otherwise[id] {
			gone[id] = true
		}
	}
	for again := true; again; {
		again = false
		for _, sym := range s.Symbols {
			if gone[sym.ID] || otherwise[sym.ID] || !sym.Kind.IsAside() && !sym.Kind.IsInformation() {
				continue
			}
			hangs, elsewhere := gone[sym.Tip.On] && sym.Tip.On != "", false
			for _, l := range links {
				if l.From == nil || l.To == nil || l.From != sym && l.To != sym {
					continue
				}
				other := l.To.ID
				if l.To == sym {
					other = l.From.ID
				}
				hangs, elsewhere = hangs || gone[other], elsewhere || !gone[other]
			}
			if hangs && !elsewhere {
				gone[sym.ID], again = true, true
			}
		}
	}
	return gone
}
