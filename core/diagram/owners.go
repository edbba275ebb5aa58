package diagram

import (
	"slices"

	"plaintracer/core/geometry"
)

// OwnerOf returns the name of the one who does a step: of its lane, or, where it
// stands in none, its own owner. It is empty for nobody.
func (s *Sheet) OwnerOf(sym *Symbol) string {
	if l := s.LaneOf(sym); l != nil {
		return l.Name
	}
	return sym.Owner
}

// SetOwner says who does steps that stand in no lane: a role, a department or a
// person; empty for nobody.
type SetOwner struct {
	Sheet string   `json:"sheet"`
	IDs   []string `json:"ids"`
	Owner string   `json:"owner"`
}

// Words is what the edit does.
func (e *SetOwner) Words() string { return "set the owner" }

func (e *SetOwner) change(t *trial) error {
	s, err := t.sheet(e.Sheet)
	if err != nil {
		return err
	}
	for _, id := range e.IDs {
		sym, err := t.editSymbol(s, id)
		if err != nil {
			return err
		}
		sym.Owner = e.Owner
	}
	return nil
}

// MoveLane takes a lane to place To of its pool, with the steps that stand in it;
// the lanes between make way, with theirs.
type MoveLane struct {
	Sheet string `json:"sheet"`
	Pool  string `json:"pool"`
	Lane  string `json:"lane"`
	To    int    `json:"to"`
}

// Words is what the edit does.
func (e *MoveLane) Words() string { return "move the lane" }

func (e *MoveLane) change(t *trial) error {
	s, pool, err := t.pool(e.Sheet, e.Pool)
	if err != nil {
		return err
	}
	from := pool.LaneIndex(e.Lane)
	if from < 0 {
		return refuse(e.Lane, "the lane %q is not there any more", e.Lane)
	}
	if e.To < 0 || e.To >= len(pool.Lanes) {
		return refuse(e.Pool, "the pool has %d lanes; there is no place %d in it", len(pool.Lanes), e.To)
	}
	members := t.members(s, pool)
	was := map[string]int{}
	for i, l := range pool.Lanes {
		was[l.ID] = i
	}
	tops := make([]int, len(pool.Lanes))
	for i := range pool.Lanes {
		tops[i] = pool.strip(i).Y
	}
	lane := pool.Lanes[from]
	pool.Lanes = slices.Insert(slices.Delete(slices.Clone(pool.Lanes), from, from+1), e.To, lane)
	heads := pool.Heads()
	pool.Lanes[e.To].Of = pool.partAt(e.To)
	t.following = true // they go along with their lanes, whether locked or not
	defer func() { t.following = false }()
	for i, l := range pool.Lanes {
		k := was[l.ID]
		d := pool.strip(i).Y - tops[k]
		if d == 0 {
			continue
		}
		for _, sym := range members[k] {
			if err := t.touch(s, sym); err != nil {
				return err
			}
			sym.Box = sym.Moved(geometry.Point{Y: d}.Turned(pool.Down))
		}
	}
	return t.headed(s, pool, heads)
}

// partAt returns what a lane at place i is a part of: of the same as both its
// neighbours, where they agree; of what it was, while one of them is; of nothing,
// where it has left the others.
func (p *Pool) partAt(i int) string {
	of := func(k int) string {
		if k < 0 || k >= len(p.Lanes) {
			return ""
		}
		return p.Lanes[k].Of
	}
	mine := of(i)
	if before, behind := of(i-1), of(i+1); before == behind && before != "" {
		return before
	} else if before == mine || behind == mine {
		return mine
	}
	for k, l := range p.Lanes {
		if k != i && l.Of == mine {
			return ""
		}
	}
	return mine
}
