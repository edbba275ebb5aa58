package compose

import (
	"slices"

	"plaintracer/core/arrange"
	"plaintracer/core/edit"
	"plaintracer/core/geometry"
	"plaintracer/core/model"
	"plaintracer/core/spread"
)

// JoinSheets returns the edit that brings the sheet on which the flow goes on at a reference back to the one at hand:
// what stands there follows what stands here, in the lanes of the same names, every pair between the two becomes the
// connector it stood for, and the other sheet goes. A pair from which several ways lead on becomes one within the
// sheet. It returns a Refusal where the two cannot be one.
func (w *Work) JoinSheets(ref *model.Symbol) (edit.Edit, error) {
	s := w.Sheet
	if !ref.Kind.LeadsAcross() {
		return nil, Refusal("Select a sheet reference.")
	}
	o, _ := w.Map.Partner(ref)
	switch {
	case o == nil:
		return nil, Refusal("This reference has no partner yet.")
	case o == s:
		return nil, Refusal("Both references stand on this sheet.")
	case !spread.SameLanes(s, o):
		return nil, Refusal("The lanes of the two sheets differ: give them the same names in the same order first.")
	}
	for _, sym := range append(slices.Clone(s.Symbols), o.Symbols...) {
		if sym.Locked && sym.Kind.LeadsAcross() {
			return nil, Refusal("A reference that would go is locked; unlock it first.")
		}
	}
	j := joining{w: w, s: s, o: o, gone: map[string]bool{}, to: map[string]model.End{}, within: map[string]bool{}}
	j.pairs()
	by := j.shift()
	add := &edit.AddItems{Sheet: s.ID}
	for _, sym := range o.Symbols {
		if !j.gone[sym.ID] {
			copied := *sym
			copied.Box = sym.Moved(by(sym))
			if j.within[sym.ID] {
				copied.Kind = model.Reference
			}
			add.Symbols = append(add.Symbols, copied)
		}
	}
	along := by(nil)
	for _, c := range o.Connectors {
		if j.gone[c.From.Symbol] {
			continue
		}
		copied := *c
		move(&copied, along)
		if to, ok := j.to[c.To.Symbol]; ok {
			copied.To = to
		}
		if j.gone[o.ID+" "+c.To.Connector] { // it joined the one that led on from a reference
			_, to := o.Leads(c)
			copied.To = model.End{Symbol: to}
		}
		add.Connectors = append(add.Connectors, copied)
	}
	edits := append([]edit.Edit{&edit.RemoveSheet{Sheet: o.ID}}, j.room(add.Symbols)...)
	edits = append(edits, add)
	remove := &edit.RemoveItems{Sheet: s.ID}
	for _, c := range s.Connectors {
		if to, ok := j.to[c.To.Symbol]; ok {
			edits = append(edits, &edit.SetEnds{Sheet: s.ID, ID: c.ID, To: &to})
		}
	}
	for _, sym := range s.Symbols {
		switch {
		case j.gone[sym.ID]:
			remove.IDs = append(remove.IDs, sym.ID)
		case j.within[sym.ID]:
			edits = append(edits, &edit.SetKind{Sheet: s.ID, ID: sym.ID, Kind: model.Reference})
		}
	}
	if len(remove.IDs) > 0 {
		edits = append(edits, remove)
	}
	return edit.Together("join the sheets", edits...), nil
}

// joining is the work of making one sheet of two, of which s stays.
type joining struct {
	w    *Work
	s, o *model.Sheet
	// gone are the references that go, and under the sheet and id the connectors that lead on from them; to is where
	// those connectors led, by the reference that led there; within are references whose partner comes to stand beside
	// them.
	gone   map[string]bool
	to     map[string]model.End
	within map[string]bool
}

// pairs finds what becomes of each pair of references between the two sheets.
func (j *joining) pairs() {
	m := j.w.Map
	for _, own := range [2]*model.Sheet{j.s, j.o} {
		for _, sym := range own.Symbols {
			if !sym.Kind.LeadsAcross() || own.LeadsOn(sym.ID) {
				continue
			}
			list := m.Partners(sym)
			if len(list) != 1 || list[0].Sheet == own || list[0].Sheet != j.s && list[0].Sheet != j.o {
				continue
			}
			arrive := list[0]
			if all := m.Partners(arrive.Symbol); len(all) != 1 || all[0].Symbol != sym {
				continue // others lead there, too
			}
			var on []*model.Connector
			for _, c := range arrive.Sheet.Connectors {
				if c.From.Symbol == arrive.Symbol.ID {
					on = append(on, c)
				}
			}
			if len(on) != 1 || on[0].To.Symbol == "" {
				j.within[sym.ID], j.within[arrive.Symbol.ID] = true, true
				continue
			}
			j.gone[sym.ID], j.gone[arrive.Symbol.ID] = true, true
			j.gone[arrive.Sheet.ID+" "+on[0].ID] = true
			j.to[sym.ID] = model.End{Symbol: on[0].To.Symbol}
		}
	}
}

// room returns the edits that let the pools reach as far as what comes into them.
func (j *joining) room(coming []model.Symbol) []edit.Edit {
	ends := make([]int, len(j.s.Pools))
	for i := range coming {
		if pool, _ := j.o.LaneAt(j.o.Symbol(coming[i].ID).Centre()); pool != nil {
			k := slices.Index(j.o.Pools, pool)
			ends[k] = max(ends[k], j.s.Pools[k].Own(coming[i].Box).Right()+2*model.LanePad)
		}
	}
	var edits []edit.Edit
	for k, p := range j.s.Pools {
		if w := ends[k] - p.Corner().X; w > p.W {
			edits = append(edits, &edit.SetPool{Sheet: j.s.ID, Pool: p.ID, W: &w})
		}
	}
	return edits
}

// shift returns how far each symbol of the other sheet is moved: behind everything along the flow, and across it as
// its lane is; nil is what stands in none.
func (j *joining) shift() func(sym *model.Symbol) geometry.Point {
	down := j.w.Map.Direction == model.Downwards
	if len(j.s.Pools) > 0 {
		down = j.s.Pools[0].Down
	}
	extent := func(s *model.Sheet) (all geometry.Box) {
		for _, sym := range s.Symbols {
			if !j.gone[sym.ID] {
				all = all.Union(sym.Box)
			}
		}
		return all.Turned(down)
	}
	here, there := extent(j.s), extent(j.o)
	along := geometry.Point{X: here.Right() + arrange.Gap - there.X}
	return func(sym *model.Symbol) geometry.Point {
		return intoLane(j.o, j.s, sym, along, down).Turned(down)
	}
}

// intoLane returns how far a symbol of a sheet is moved to come into the lane of the same name on another one, with its
// axes exchanged where the flow runs down: along the flow as given, and across it from lane to lane. What stands in no
// lane, such as nil, is moved as given.
func intoLane(from, to *model.Sheet, sym *model.Symbol, by geometry.Point, down bool) geometry.Point {
	if sym == nil {
		return by
	}
	if pool, lane := from.LaneAt(sym.Centre()); pool != nil {
		own := to.Pools[slices.Index(from.Pools, pool)]
		by.Y = own.Inner(lane).Turned(down).Y - pool.Inner(lane).Turned(down).Y
	}
	return by
}
