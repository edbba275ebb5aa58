package diagram

import (
	"slices"

	"plaintracer/core/fields"
	"plaintracer/core/geometry"
)

func init() {
	register("addPool", says[*AddPool]("add lanes"))
	register("setPool", says[*SetPool]("change the pool"))
	register("insertLane", says[*InsertLane]("insert a lane"))
	register("setLane", says[*SetLane]("change the lane"))
	register("removeLane", says[*RemoveLane]("remove a lane"))
	register("moveLane", says[*MoveLane]("move the lane"))
	register("turnPool", func(_ *Map, e *TurnPool) string {
		if e.Down {
			return "turn the lanes down"
		}
		return "turn the lanes across"
	})
}

// settle lets every lane and pool of the sheet grow until it holds the steps
// that stand in it. A lane that grows moves everything below it down.
func (t *trial) settle(s *Sheet) error {
	for i := range s.Pools {
		pool := s.Pools[i]
		lanes := t.members(s, pool)
		begin := pool.corner().X
		right := begin + pool.W
		for _, list := range lanes {
			for _, sym := range list {
				right = max(right, pool.Own(sym.Box).Right()+LanePad)
			}
		}
		if right > begin+pool.W {
			p, err := t.editPool(s, pool.ID)
			if err != nil {
				return err
			}
			p.W = right - begin
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
	lane := pool.strip(k)
	first := pool.Own(members[0].Box)
	top, bottom := first.Y, first.Bottom()
	for _, sym := range members {
		b := pool.Own(sym.Box)
		top, bottom = min(top, b.Y), max(bottom, b.Bottom())
		if n := t.m.linesUnder(sym); n > 0 && !pool.Down { // what stands under it stays in the lane, too
			bottom = max(bottom, b.Bottom()+n*ValueLine-LanePad/2)
		}
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

// openDown moves everything that stands at or beyond y down by d (up if d is
// negative), except the pool in which the space is made: in the frame of that
// pool, so that where its lanes lie down the sheet, all goes to the right.
func (t *trial) openDown(s *Sheet, y, d int, except *Pool) error {
	down := except.Down
	by := geometry.Point{Y: d}.Turned(down)
	was := t.following
	t.following = true
	defer func() { t.following = was }()
	for _, sym := range s.Symbols {
		if sym.Centre().Turned(down).Y < y {
			continue
		}
		if err := t.touch(s, sym); err != nil {
			return err
		}
		sym.Box = sym.Moved(by)
	}
	for _, p := range s.Pools {
		if p == except || (geometry.Point{X: p.X, Y: p.Y}).Turned(down).Y < y {
			continue
		}
		if _, err := t.editPool(s, p.ID); err != nil {
			return err
		}
		p.X, p.Y = p.X+by.X, p.Y+by.Y
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
	y := pool.Own(pool.Box()).Bottom()
	if at < len(pool.Lanes) {
		y = pool.strip(at).Y
	}
	p, err := t.editPool(s, pool.ID)
	if err != nil {
		return err
	}
	if err := t.openDown(s, y, lane.H, pool); err != nil {
		return err
	}
	heads := p.Heads()
	p.Lanes = append(p.Lanes[:at:at], append([]Lane{lane}, p.Lanes[at:]...)...)
	return t.headed(s, p, heads)
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
	box := pool.strip(k)
	p, err := t.editPool(s, pool.ID)
	if err != nil {
		return err
	}
	heads := p.Heads()
	p.Lanes = append(p.Lanes[:k:k], p.Lanes[k+1:]...)
	if empty {
		if err := t.openDown(s, box.Bottom(), -box.H, pool); err != nil {
			return err
		}
	} else {
		p.Lanes[max(0, k-1)].H += box.H
	}
	return t.headed(s, p, heads)
}

// resizeLane sets a lane's height; the steps in it keep their place and
// everything below moves. It never gets smaller than what it holds.
func (t *trial) resizeLane(s *Sheet, pool *Pool, id string, h int) error {
	k := pool.LaneIndex(id)
	if k < 0 {
		return refuse(id, "the lane %q is not there any more", id)
	}
	box := pool.strip(k)
	need := MinLane
	for _, sym := range t.members(s, pool)[k] {
		need = max(need, pool.Own(sym.Box).Bottom()+LanePad-box.Y)
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

// FirstLanes are the names of the lanes a new map begins with.
var FirstLanes = []string{"Customer", "Office", "Back office"}

// LaneStart is the width with which a lane of the pool begins: down the sheet it
// has to hold the length of a step.
func (p *Pool) LaneStart() int {
	if p.Down {
		return LaneHeight * 3 / 2
	}
	return LaneHeight
}

// TurnPool lets the lanes of a pool lie down the sheet, or across it again, with
// all that stands in them. Steps are wider than high, so the room between them is
// stretched to the side and drawn in along: what lies on nothing before does not
// afterwards.
type TurnPool struct {
	Sheet string `json:"sheet"`
	Pool  string `json:"pool"`
	Down  bool   `json:"down,omitempty"`
}

func (e *TurnPool) change(t *trial) error {
	s, pool, err := t.pool(e.Sheet, e.Pool)
	if err != nil {
		return err
	}
	if pool.Down == e.Down {
		return nil
	}
	// Across the sheet steps stand 4 parts apart where down it they stand 3; and
	// the other way 2 where 3.
	along, across := [2]int{3, 4}, [2]int{3, 2}
	if !e.Down {
		along, across = [2]int{4, 3}, [2]int{2, 3}
	}
	scaled := func(n int, by [2]int) int { return geometry.FloorDiv(n*by[0]+by[1]/2, by[1]) }
	members := t.members(s, pool)
	tops := make([]int, len(pool.Lanes))
	for k := range pool.Lanes {
		tops[k] = pool.strip(k).Y
	}
	t.fixLast(pool)
	origin := pool.corner()
	frame := *pool.clone()
	pool.Down = e.Down
	pool.W = max(scaled(frame.W-frame.Heads(), along)+pool.Heads(), MinPool)
	for i := range pool.Stages {
		pool.Stages[i].L = max(scaled(frame.Stages[i].L, along), MinStage)
	}
	for k := range pool.Lanes {
		pool.Lanes[k].H = max(scaled(frame.Lanes[k].H, across), MinLane)
	}
	now := pool.corner()
	t.following = true
	defer func() { t.following = false }()
	for k, list := range members {
		for _, sym := range list {
			c := frame.Own(sym.Box).Centre().Sub(geometry.Point{X: origin.X + frame.Heads(), Y: tops[k]})
			at := geometry.Point{X: now.X + pool.Heads() + scaled(c.X, along), Y: pool.strip(k).Y + scaled(c.Y, across)}
			if err := t.touch(s, sym); err != nil {
				return err
			}
			sym.Box = geometry.Around(at.Turned(pool.Down), sym.W, sym.H)
		}
	}
	inside := map[string]bool{}
	for _, list := range members {
		for _, sym := range list {
			inside[sym.ID] = true
		}
	}
	for _, c := range s.Connectors {
		if !inside[c.From.Symbol] || !inside[c.To.Symbol] || c.Free() {
			continue
		}
		con, err := t.editConnector(s, c.ID)
		if err != nil {
			return err
		}
		con.Bends = nil
		for _, l := range con.Labels() {
			*l.Place = Spot{}
		}
		con.From.Side, con.To.Side = turnedSide(con.From.Side), turnedSide(con.To.Side)
	}
	// The first steps keep clear of the names.
	least := 0
	for _, list := range members {
		for _, sym := range list {
			least = max(least, pool.Content()+LanePad-pool.Own(sym.Box).X)
		}
	}
	for _, list := range members {
		for _, sym := range list {
			sym.Box = sym.Moved(geometry.Point{X: least}.Turned(pool.Down))
		}
	}
	return nil
}

// turnedSide returns the side that a side becomes when the axes are exchanged.
func turnedSide(name string) string {
	side, ok := geometry.SideNamed(name)
	if !ok {
		return name
	}
	return [4]geometry.Side{geometry.Left, geometry.Bottom, geometry.Right, geometry.Top}[side].String()
}

// headed moves the steps of a pool on, or back, and lets it grow with them, where
// the strips with its names were so wide before.
func (t *trial) headed(s *Sheet, pool *Pool, before int) error {
	by := pool.Heads() - before
	if by == 0 {
		return nil
	}
	pool.W = max(pool.W+by, MinPool)
	return t.shiftWithin(s, pool, -MaxPlace, by)
}

// AddPool sets down a pool with its lanes.
type AddPool struct {
	Sheet string `json:"sheet"`
	Pool  Pool   `json:"pool"`
}

func (e *AddPool) change(t *trial) error {
	s, err := t.sheet(e.Sheet)
	if err != nil {
		return err
	}
	return poolList.add(t, s, len(s.Pools), e.Pool.clone())
}

// pool returns the sheet and the pool an edit is about.
func (t *trial) pool(sheet, id string) (*Sheet, *Pool, error) {
	s, err := t.sheet(sheet)
	if err != nil {
		return nil, nil, err
	}
	p, err := t.editPool(s, id)
	return s, p, err
}

// SetPool changes a pool's title or width, or the way the names of its lanes are
// set; nil leaves a value alone.
type SetPool struct {
	Sheet string  `json:"sheet"`
	Pool  string  `json:"pool"`
	Title *string `json:"title,omitempty"`
	W     *int    `json:"w,omitempty"`
	Level *bool   `json:"level,omitempty"`
}

func (e *SetPool) change(t *trial) error {
	s, p, err := t.pool(e.Sheet, e.Pool)
	if err != nil {
		return err
	}
	heads := p.Heads()
	fields.Assign(p, e)
	return t.headed(s, p, heads)
}

// InsertLane puts a lane at place At of a pool.
type InsertLane struct {
	Sheet string `json:"sheet"`
	Pool  string `json:"pool"`
	At    int    `json:"at"`
	Lane  Lane   `json:"lane"`
}

func (e *InsertLane) change(t *trial) error {
	s, p, err := t.pool(e.Sheet, e.Pool)
	if err != nil {
		return err
	}
	return t.insertLane(s, p, e.At, e.Lane)
}

// SetLane changes a lane's name, height or colours, or what it is a part of; nil
// leaves a value alone.
type SetLane struct {
	Sheet string  `json:"sheet"`
	Pool  string  `json:"pool"`
	Lane  string  `json:"lane"`
	Name  *string `json:"name,omitempty"`
	H     *int    `json:"h,omitempty"`
	Of    *string `json:"of,omitempty"`
	Fill  *string `json:"fill,omitempty"`
	Head  *string `json:"head,omitempty"`
}

func (e *SetLane) change(t *trial) error {
	s, p, err := t.pool(e.Sheet, e.Pool)
	if err != nil {
		return err
	}
	k := p.LaneIndex(e.Lane)
	if k < 0 {
		return refuse(e.Lane, "the lane %q is not there any more", e.Lane)
	}
	heads := p.Heads()
	named := *e
	named.H = nil // the height takes the lanes below along
	fields.Assign(&p.Lanes[k], &named)
	if err := t.headed(s, p, heads); err != nil {
		return err
	}
	if e.H != nil {
		return t.resizeLane(s, p, e.Lane, *e.H)
	}
	return nil
}

// RemoveLane takes a lane away; its steps join the neighbouring lane.
type RemoveLane struct {
	Sheet string `json:"sheet"`
	Pool  string `json:"pool"`
	Lane  string `json:"lane"`
}

func (e *RemoveLane) change(t *trial) error {
	s, p, err := t.pool(e.Sheet, e.Pool)
	if err != nil {
		return err
	}
	return t.removeLane(s, p, e.Lane)
}

// MoveLane takes a lane to place To of its pool, with the steps that stand in it;
// the lanes between make way, with theirs.
type MoveLane struct {
	Sheet string `json:"sheet"`
	Pool  string `json:"pool"`
	Lane  string `json:"lane"`
	To    int    `json:"to"`
}

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
