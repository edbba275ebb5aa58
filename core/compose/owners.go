package compose

import (
	"fmt"
	"slices"
	"strings"

	"plaintracer/core/arrange"
	"plaintracer/core/edit"
	"plaintracer/core/geometry"
	"plaintracer/core/layout"
	"plaintracer/core/model"
	"plaintracer/core/numbering"
)

// SetOwner says who does some steps; nil when that is so already. Where there are lanes, they go into
// the lane of that name, which is added when there is none.
func (w *Work) SetOwner(list []*model.Symbol, name string) (edit.Edit, error) {
	s := w.Sheet
	name = strings.Join(strings.Fields(name), " ")
	set := &edit.SetOwner{Sheet: s.ID, Owner: name}
	var laned []*model.Symbol
	for _, sym := range list {
		switch {
		case sym.Kind.IsAside() || s.OwnerOf(sym) == name:
		case s.IsCell(sym):
			set.IDs = append(set.IDs, sym.ID)
		case s.LaneOf(sym) != nil:
			laned = append(laned, sym)
		default:
			set.IDs = append(set.IDs, sym.ID)
		}
	}
	if len(laned) > 0 && name == "" {
		return nil, Refusal("The lane says who owns this step. Move the step out of the lanes first.")
	}
	var steps []func() []edit.Edit
	if len(set.IDs) > 0 {
		steps = append(steps, func() []edit.Edit { return []edit.Edit{set} })
	}
	for _, sym := range laned {
		pool, _ := s.LaneAt(sym.Centre())
		steps = append(steps, func() []edit.Edit { return w.intoLaneOf(pool.ID, name, sym.ID) })
	}
	if len(steps) == 0 {
		return nil, nil
	}
	return w.InTurn("set the owner", steps...)
}

// OwnersIntoLanes adds a lane for every owner, in the order in which the work comes to them, and puts
// every step into that of its owner. The sheet is to be laid out next.
func (w *Work) OwnersIntoLanes() (edit.Edit, error) {
	s := w.Sheet
	owners := layout.Owners(w.Map, s)
	var names []string
	without := false
	take := func(id string) {
		switch name, ok := owners[id]; {
		case !ok:
		case name == "":
			without = true
		case !slices.Contains(names, name):
			names = append(names, name)
		}
	}
	for _, step := range numbering.Number(w.Map) {
		take(step.Symbol.ID)
	}
	for _, sym := range s.Symbols {
		take(sym.ID)
	}
	names = AskingFirst(names)
	if without {
		names = append(names, nobody)
	}
	if len(names) > model.MaxLanes {
		return nil, Refusal(fmt.Sprintf("A pool has at most %d lanes; the steps have %d owners.", model.MaxLanes,
			len(names)))
	}
	pool := w.NewPool(names)
	each := func(do func(sym *model.Symbol, lane int)) {
		for _, sym := range s.Symbols {
			name, ok := owners[sym.ID]
			if !ok || sym.Locked {
				continue
			}
			if name == "" {
				name = nobody
			}
			do(sym, slices.Index(names, name))
		}
	}
	each(func(sym *model.Symbol, k int) {
		pool.Lanes[k].H = max(pool.Lanes[k].H, pool.Own(sym.Box).H+2*model.LanePad)
	})
	place := &edit.PlaceItems{Sheet: s.ID}
	each(func(sym *model.Symbol, k int) {
		inner, b := pool.Own(pool.Inner(k)), pool.Own(sym.Box)
		b = b.At(geometry.Point{X: inner.X + model.LanePad, Y: inner.Y + (inner.H-b.H)/2})
		place.Boxes = append(place.Boxes, edit.Place{ID: sym.ID, Box: pool.Own(b)})
	})
	return edit.Together("turn owners into lanes", &edit.AddPool{Sheet: s.ID, Pool: pool}, place), nil
}

// LanesIntoOwners takes all lanes away and gives every step the name of its lane as its owner.
func (w *Work) LanesIntoOwners() edit.Edit {
	s := w.Sheet
	var edits []edit.Edit
	pools := make([]string, 0, len(s.Pools))
	for _, p := range s.Pools {
		pools = append(pools, p.ID)
		for i, lane := range p.Lanes {
			set := &edit.SetOwner{Sheet: s.ID, Owner: lane.Name}
			if lane.Name == nobody {
				set.Owner = ""
			}
			for _, sym := range s.Symbols {
				if q, k := s.LaneAt(sym.Centre()); q == p && k == i && !sym.Kind.IsAside() && sym.Owner != set.Owner {
					set.IDs = append(set.IDs, sym.ID)
				}
			}
			if len(set.IDs) > 0 {
				edits = append(edits, set)
			}
		}
	}
	return edit.Together("turn lanes into owners", append(edits, &edit.RemoveItems{Sheet: s.ID, IDs: pools})...)
}

// RemoveLane takes lane i of a pool away, and returns what to tell the person. Its steps stay where they
// are and join the lane beside it; with "above" or "below" they go into that lane, with "delete" they go, too.
func (w *Work) RemoveLane(pool *model.Pool, i int, steps string) (e edit.Edit, said string, err error) {
	s, lane := w.Sheet, &pool.Lanes[i]
	remove := &edit.RemoveLane{Sheet: s.ID, Pool: pool.ID, Lane: lane.ID}
	as := edit.Words(w.Map, remove)
	var members []string
	for _, sym := range s.Symbols {
		if p, k := s.LaneAt(sym.Centre()); p == pool && k == i {
			members = append(members, sym.ID)
		}
	}
	to := i
	switch steps {
	case "above":
		to--
	case "below":
		to++
	}
	switch {
	case len(members) > 0 && steps == "delete":
		said = fmt.Sprintf("The lane “%s” is gone with its steps. Undo brings them back.", lane.Name)
		return edit.Together(as, &edit.RemoveItems{Sheet: s.ID, IDs: members}, remove), said, nil
	case len(members) == 0 || to == i:
		return remove, fmt.Sprintf("The lane “%s” is gone; its steps, if any, stay where they are.", lane.Name), nil
	case to < 0 || to >= len(pool.Lanes):
		return nil, "", Refusal("There is no lane on that side for its steps.")
	}
	into := &pool.Lanes[to]
	said = fmt.Sprintf("The lane “%s” is gone; its steps stand in “%s”.", lane.Name, into.Name)
	id := into.ID
	var turns []func() []edit.Edit
	for _, member := range members {
		turns = append(turns, func() []edit.Edit {
			p := s.Pool(pool.ID)
			box, room := arrange.IntoLane(s, p, p.LaneIndex(id), s.Symbol(member))
			return append(room, &edit.PlaceItems{Sheet: s.ID, Boxes: []edit.Place{{ID: member, Box: box}}})
		})
	}
	e, err = w.InTurn(as, append(turns, func() []edit.Edit { return []edit.Edit{remove} })...)
	return e, said, err
}
