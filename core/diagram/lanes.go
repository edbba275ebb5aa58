package diagram

import "plaintracer/core/geometry"

// settle lets every lane and pool of the sheet grow until it holds the steps
// that stand in it. A lane that grows moves everything below it down.
func (t *trial) settle(s *Sheet) error {
	for i := range s.Pools {
		pool := s.Pools[i]
		lanes := t.members(s, pool)
		right := pool.X + pool.W
		for _, list := range lanes {
			for _, sym := range list {
				right = max(right, sym.Right()+LanePad)
			}
		}
		if right > pool.X+pool.W {
			p, err := t.editPool(s, pool.ID)
			if err != nil {
				return err
			}
			p.W = right - pool.X
		}
		for k, list := range lanes {
			if err := t.settleLane(s, pool, k, list); err != nil {
				return err
			}
		}
	}
	return nil
}

// members returns the symbols standing in each lane of the pool.
func (t *trial) members(s *Sheet, pool *Pool) [][]*Symbol {
	lanes := make([][]*Symbol, len(pool.Lanes))
	for _, sym := range s.Symbols {
		if p, k := s.LaneAt(sym.Centre()); p == pool {
			lanes[k] = append(lanes[k], sym)
		}
	}
	return lanes
}

func (t *trial) settleLane(s *Sheet, pool *Pool, k int, members []*Symbol) error {
	if len(members) == 0 {
		return nil
	}
	lane := pool.LaneBox(k)
	top, bottom := members[0].Y, members[0].Bottom()
	left := members[0].X
	for _, sym := range members[1:] {
		top, bottom = min(top, sym.Y), max(bottom, sym.Bottom())
		left = min(left, sym.X)
	}
	if above := lane.Y - (top - LanePad); above > 0 {
		p, err := t.editPool(s, pool.ID)
		if err != nil {
			return err
		}
		p.Lanes[k].H += above
		if err := t.openDown(s, lane.Y, above, pool); err != nil {
			return err
		}
		bottom += above
		lane.H += above
	}
	if below := bottom + LanePad - lane.Bottom(); below > 0 {
		p, err := t.editPool(s, pool.ID)
		if err != nil {
			return err
		}
		if err := t.openDown(s, lane.Bottom(), below, pool); err != nil {
			return err
		}
		p.Lanes[k].H += below
	}
	return nil
}

// openDown moves everything that stands at or below y down by d (up if d is
// negative), except the pool in which the space is made.
func (t *trial) openDown(s *Sheet, y, d int, except *Pool) error {
	was := t.following
	t.following = true
	defer func() { t.following = was }()
	for _, sym := range s.Symbols {
		if sym.Centre().Y < y {
			continue
		}
		if _, err := t.editSymbol(s, sym.ID); err != nil {
			return err
		}
		sym.Y += d
	}
	for _, p := range s.Pools {
		if p == except || p.Y < y {
			continue
		}
		if _, err := t.editPool(s, p.ID); err != nil {
			return err
		}
		p.Y += d
	}
	return nil
}

// insertLane puts a lane before place at, moving everything below it down.
func (t *trial) insertLane(s *Sheet, pool *Pool, at int, lane Lane) error {
	if at < 0 || at > len(pool.Lanes) {
		return refuse(pool.ID, "the pool has %d lanes; there is no place %d in it", len(pool.Lanes), at)
	}
	if len(pool.Lanes) >= MaxLanes {
		return refuse(pool.ID, "a pool has at most %d lanes", MaxLanes)
	}
	if err := t.fresh(lane.ID); err != nil {
		return err
	}
	y := pool.Y + pool.Box().H
	if at < len(pool.Lanes) {
		y = pool.LaneBox(at).Y
	}
	p, err := t.editPool(s, pool.ID)
	if err != nil {
		return err
	}
	if err := t.openDown(s, y, lane.H, pool); err != nil {
		return err
	}
	p.Lanes = append(p.Lanes[:at:at], append([]Lane{lane}, p.Lanes[at:]...)...)
	return nil
}

// removeLane takes a lane away. An empty one closes up; the steps of any other
// stay where they are and join the lane above (below, for the first).
func (t *trial) removeLane(s *Sheet, pool *Pool, id string) error {
	k := pool.LaneIndex(id)
	if k < 0 {
		return refuse(id, "the lane %q is not there any more", id)
	}
	if len(pool.Lanes) == 1 {
		return refuse(id, "a pool keeps at least one lane; delete the pool instead")
	}
	empty := len(t.members(s, pool)[k]) == 0
	box := pool.LaneBox(k)
	p, err := t.editPool(s, pool.ID)
	if err != nil {
		return err
	}
	p.Lanes = append(p.Lanes[:k:k], p.Lanes[k+1:]...)
	if empty {
		return t.openDown(s, box.Bottom(), -box.H, pool)
	}
	p.Lanes[max(0, k-1)].H += box.H
	return nil
}

// resizeLane sets a lane's height; the steps in it keep their place and
// everything below moves. It never gets smaller than what it holds.
func (t *trial) resizeLane(s *Sheet, pool *Pool, id string, h int) error {
	k := pool.LaneIndex(id)
	if k < 0 {
		return refuse(id, "the lane %q is not there any more", id)
	}
	box := pool.LaneBox(k)
	need := MinLane
	for _, sym := range t.members(s, pool)[k] {
		need = max(need, sym.Bottom()+LanePad-box.Y)
	}
	h = geometry.Clamp(h, need, MaxPlace)
	p, err := t.editPool(s, pool.ID)
	if err != nil {
		return err
	}
	if err := t.openDown(s, box.Bottom(), h-box.H, pool); err != nil {
		return err
	}
	p.Lanes[k].H = h
	return nil
}
