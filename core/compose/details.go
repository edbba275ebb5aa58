package compose

import (
	"fmt"
	"slices"
	"strings"

	"plaintracer/core/arrange"
	"plaintracer/core/edit"
	"plaintracer/core/flow"
	"plaintracer/core/geometry"
	"plaintracer/core/model"
	"plaintracer/core/spread"
)

// OpenDetail returns the edit by which a step opens into a sheet of its own, set up like the one it stands on, with
// where its flow begins and a first step that says nothing yet.
func (w *Work) OpenDetail(sym *model.Symbol) (*Onward, error) {
	switch {
	case !sym.Kind.IsStep():
		return nil, Refusal("Only a step opens into a sheet of its own.")
	case w.Map.DetailOf(sym) != nil:
		return nil, Refusal("It opens into a sheet already.")
	}
	next := spread.Like(w.Sheet, w.sheetName(sym.Text), w.NewID)
	start := model.Symbol{ID: w.NewID(), Kind: model.Terminator, Text: sym.Text}
	step := model.Symbol{ID: w.NewID(), Kind: model.Process, Owner: sym.Owner}
	pool, lane := w.laneOn(next, sym)
	start.Box = arrange.First(w.Map, next, pool, lane, model.Terminator)
	next.Symbols = append(next.Symbols, &start)
	e, err := w.InTurn("open a step into a sheet",
		func() []edit.Edit {
			return []edit.Edit{w.addBehind(next), &edit.SetDetail{Sheet: w.Sheet.ID, ID: sym.ID, Detail: next.ID}}
		},
		func() []edit.Edit { return w.fitted(next.ID, start.ID) },
		func() []edit.Edit { return w.firstBehind(next.ID, start.ID, step) })
	if err != nil {
		return nil, err
	}
	return &Onward{Edit: e, Sheet: next.ID, Step: step.ID}, nil
}

// fitted returns the edits that let symbols of a sheet hold their texts.
func (w *Work) fitted(sheet string, ids ...string) []edit.Edit {
	s := w.Map.Sheet(sheet)
	var places []edit.Place
	for _, id := range ids {
		if sym := s.Symbol(id); sym != nil {
			for _, p := range arrange.Fit(w.Map, s, sym) {
				if slices.Contains(ids, p.ID) {
					places = append(places, p)
				}
			}
		}
	}
	return arrange.Grow(s, places)
}

// sheetName is what the sheet of a step is called: as the step, or by its place where that says nothing.
func (w *Work) sheetName(text string) string {
	if text = model.Flat(text); text == "" {
		text = fmt.Sprint(unnamed, len(w.Map.Sheets)+1)
	}
	return model.Short(text)
}

// namedAfter reports whether the detail of a step still has the name it was given for it.
func (w *Work) namedAfter(detail *model.Sheet, step *model.Symbol) bool {
	if model.Flat(step.Text) == "" {
		return strings.HasPrefix(detail.Name, unnamed)
	}
	return detail.Name == w.sheetName(step.Text)
}

// unnamed is what a sheet is called by its place.
const unnamed = "Sheet "

// laneOn returns the lane on a sheet set up like the one at hand that is that of a symbol; none where it stands in
// none.
func (w *Work) laneOn(next *model.Sheet, by *model.Symbol) (*model.Pool, int) {
	pool, lane := w.Sheet.LaneAt(by.Centre())
	if pool == nil {
		return nil, 0
	}
	return next.Pools[slices.Index(w.Sheet.Pools, pool)], lane
}

// Fold moves symbols into a sheet of their own and leaves a predefined process in their place that opens into it, to
// which all connectors from and to the others are glued. On the new sheet the flow begins in terminators with the
// texts of the steps it came from, and ends in such with the answers, or the steps, to which it led. It returns a
// Refusal where there is nothing to move, or a locked symbol among it.
func (w *Work) Fold(list []*model.Symbol) (*Onward, error) {
	s := w.Sheet
	gone := map[string]bool{}
	var first *model.Symbol
	for _, sym := range list {
		if sym.Locked {
			return nil, Refusal("One of the symbols is locked; unlock it first.")
		}
		if gone[sym.ID] = true; sym.Kind.IsStep() && first == nil {
			first = sym
		}
	}
	if first == nil {
		return nil, Refusal("Select the steps that go into a sheet of their own.")
	}
	down := w.downAt(first)
	f := folding{w: w, gone: gone, down: down, next: spread.Like(s, w.sheetName(""), w.NewID)}
	pw, ph := arrange.Size(s, model.Predefined)
	f.step = model.Symbol{ID: w.NewID(), Kind: model.Predefined, Detail: f.next.ID,
		Box: geometry.Around(first.Centre(), pw, ph)}
	if s.LaneOf(first) == nil {
		f.step.Owner = first.Owner
	}
	pool, lane := w.laneOn(f.next, first)
	begin := arrange.First(w.Map, f.next, pool, lane, model.Terminator).Turned(down)
	f.by = w.shift(gone, begin.Right()+arrange.Gap, down)
	remove := &edit.RemoveItems{Sheet: s.ID}
	for _, sym := range s.Clone().Symbols {
		if gone[sym.ID] {
			remove.IDs = append(remove.IDs, sym.ID)
			sym.Box, sym.Group = sym.Moved(f.by), ""
			f.next.Symbols = append(f.next.Symbols, sym)
		}
	}
	add := &edit.AddItems{Sheet: s.ID, Symbols: []model.Symbol{f.step}, Connectors: f.connectors()}
	rest := *s
	rest.Symbols = slices.DeleteFunc(slices.Clone(rest.Symbols), func(sym *model.Symbol) bool { return gone[sym.ID] })
	add.Symbols[0].Box = arrange.Free(&rest, f.step.Box)
	e, err := w.InTurn("move into a sheet of its own",
		func() []edit.Edit { return []edit.Edit{remove, w.addBehind(f.next), add} },
		func() []edit.Edit { return w.fitted(f.next.ID, f.ends...) })
	if err != nil {
		return nil, err
	}
	return &Onward{Edit: e, Sheet: f.next.ID, Step: f.step.ID, Moved: len(remove.IDs)}, nil
}

// folding is the work of taking symbols into a sheet of their own.
type folding struct {
	w    *Work
	gone map[string]bool
	next *model.Sheet
	step model.Symbol
	by   geometry.Point
	down bool
	// ends are the ids of the terminators on the new sheet.
	ends []string
}

// connectors puts those among what moves on the new sheet, with terminators where others came in or led out, and
// returns those that the step has in their place: one from each symbol that led in, and one for each way out.
func (f *folding) connectors() []model.Connector {
	s, w := f.w.Sheet, f.w
	var outer []model.Connector
	starts := map[string]bool{}        // by what is led to
	came := map[string]bool{}          // from where the step is led to already
	ends := map[string]*model.Symbol{} // by where the flow goes and under which answer
	links := flow.Links(s)
	leaves := map[string]bool{} // where the flow goes from here
	for _, l := range links {
		if l.From != nil && l.To != nil && f.gone[l.From.ID] && !f.gone[l.To.ID] && !l.To.Kind.IsAside() {
			leaves[l.To.ID] = true
		}
	}
	for i, con := range s.Clone().Connectors {
		from, to := links[i].From, links[i].To
		switch {
		case from == nil && to == nil, from != nil && to != nil && !f.gone[from.ID] && !f.gone[to.ID]:
			continue
		case from == nil || to == nil: // with a loose end, it goes with what it has
			if from != nil && f.gone[from.ID] || to != nil && f.gone[to.ID] {
				move(con, f.by)
				f.next.Connectors = append(f.next.Connectors, con)
			}
		case f.gone[from.ID] && f.gone[to.ID]:
			move(con, f.by)
			if con.From.Connector+con.To.Connector != "" {
				con.From, con.To, con.Bends = model.End{Symbol: from.ID}, model.End{Symbol: to.ID}, nil
			}
			f.next.Connectors = append(f.next.Connectors, con)
		case from.Kind.IsAside() || to.Kind.IsAside():
		case f.gone[to.ID]: // it leads in
			if !starts[to.ID] && !from.Kind.IsInformation() {
				starts[to.ID] = true
				start := f.end(from.Text, to, true)
				f.next.Connectors = append(f.next.Connectors, &model.Connector{ID: w.NewID(),
					From: model.End{Symbol: start.ID}, To: model.End{Symbol: to.ID}})
			}
			if !came[from.ID+"\x00"+con.Text] {
				came[from.ID+"\x00"+con.Text] = true
				con.ID, con.From, con.To, con.Bends = w.NewID(), model.End{Symbol: from.ID},
					model.End{Symbol: f.step.ID}, nil
				outer = append(outer, *con)
			}
		default: // it leads out
			if to.Kind.IsInformation() {
				con.ID, con.From, con.To, con.Bends = w.NewID(), model.End{Symbol: f.step.ID},
					model.End{Symbol: to.ID}, nil
				outer = append(outer, *con)
				continue
			}
			end := ends[to.ID]
			if end == nil {
				name := to.Text
				if len(leaves) > 1 { // the exits of the step are told apart by it
					name = f.unlike(ends, con.Text, to.Text)
				}
				end = f.end(name, from, false)
				ends[to.ID] = end
				lead := model.Connector{ID: w.NewID(), From: model.End{Symbol: f.step.ID}, To: model.End{Symbol: to.ID}}
				if len(leaves) > 1 {
					lead.Text = name
				}
				outer = append(outer, lead)
			}
			con.From, con.To, con.Bends = model.End{Symbol: from.ID}, model.End{Symbol: end.ID}, nil
			f.next.Connectors = append(f.next.Connectors, con)
		}
	}
	return outer
}

// unlike returns the first of two names for an end that none of the ends has, or one made of it.
func (f *folding) unlike(ends map[string]*model.Symbol, names ...string) string {
	taken := func(name string) bool {
		for _, end := range ends {
			if strings.EqualFold(model.Flat(end.Text), name) {
				return true
			}
		}
		return name == ""
	}
	last := "Exit"
	for _, name := range names {
		if name = model.Short(model.Flat(name)); !taken(name) {
			return name
		} else if name != "" {
			last = name
		}
	}
	for n := 2; ; n++ {
		number := fmt.Sprint(" ", n)
		if name := string([]rune(last)[:min(len([]rune(last)), model.MaxName-len(number))]) + number; !taken(name) {
			return name
		}
	}
}

// end sets a terminator down on the new sheet, before a symbol of it or behind.
func (f *folding) end(text string, by *model.Symbol, before bool) *model.Symbol {
	at := f.next.Symbol(by.ID).Turned(f.down)
	w, h := arrange.Size(f.next, model.Terminator)
	own := geometry.Box{W: w, H: h}.Turned(f.down)
	own.X, own.Y = at.Right()+arrange.Gap, at.Centre().Y-own.H/2
	if before {
		own.X = at.X - arrange.Gap - own.W
	}
	sym := &model.Symbol{ID: f.w.NewID(), Kind: model.Terminator, Text: text,
		Box: freeAlong(f.next, own.Turned(f.down), f.down)}
	f.next.Symbols, f.ends = append(f.next.Symbols, sym), append(f.ends, sym.ID)
	return sym
}

// within reports whether the sheet at hand is the one with this id, or a detail in it.
func (w *Work) within(id string) bool {
	return w.Sheet.ID == id ||
		slices.ContainsFunc(w.Map.WayTo(w.Sheet), func(h model.Half) bool { return h.Sheet.ID == id })
}
