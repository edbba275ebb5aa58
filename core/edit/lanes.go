package edit

import (
	"slices"

	"plaintracer/core/fields"
	"plaintracer/core/geometry"
	"plaintracer/core/model"
)

func init() {
	register("addPool", says[*AddPool]("add lanes"))
	register("setPool", says[*SetPool]("change the pool"))
	register("insertLane", says[*InsertLane]("insert a lane"))
	register("setLane", says[*SetLane]("change the lane"))
	register("removeLane", says[*RemoveLane]("remove a lane"))
	register("moveLane", says[*MoveLane]("move the lane"))
	register("turnPool", func(_ *model.Map, e *TurnPool) string {
		if e.Down {
			return "turn the lanes down"
		}
		return "turn the lanes across"
	})
}

// growLanes lets every lane and pool of the sheet grow until it holds the steps
// that stand in it. A lane that grows moves everything below it down.
func (t *transaction) growLanes(s *model.Sheet) error {
	if s.Kind == model.JourneySheet { // its rows follow from what stands in them
		return nil
	}
	for i := range s.Pools {
		pool := s.Pools[i]
		lanes := t.members(s, pool)
		begin := pool.Corner().X
		right := begin + pool.W
		for _, list := range lanes {
			for _, sym := range list {
				right = max(right, pool.Own(sym.Box).Right()+model.LanePad)
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
			if err := t.growLane(s, pool, k, list); err != nil {
				return err
			}
		}
	}
	return nil
}

// members returns the symbols standing in each lane of the pool; legends and tables of contents only lie over it.
func (t *transaction) members(s *model.Sheet, pool *model.Pool) [][]*model.Symbol {
	lanes := make([][]*model.Symbol, len(pool.Lanes))
	for _, sym := range s.Symbols {
		if sym.Kind.Explains() {
			continue
		}
		if p, k := s.LaneAt(sym.Centre()); p == pool {
			lanes[k] = append(lanes[k], sym)
		}
	}
	return lanes
}

func (t *transaction) growLane(s *model.Sheet, pool *model.Pool, k int, members []*model.Symbol) error {
	if len(members) == 0 {
		return nil
	}
	lane := pool.Strip(k)
	top, bottom := t.reach(pool, members)
	if above := lane.Y - (top - model.LanePad); above > 0 {
		p, err := t.editPool(s, pool.ID)
		if err != nil {
			return err
		}
		p.Lanes[k].H += above
		t.noteGrown(&p.Lanes[k], above)
		if err := t.openDown(s, lane.Y, above, pool); err != nil {
			return err
		}
		bottom += above
		lane.H += above
	}
	if below := bottom + model.LanePad - lane.Bottom(); below > 0 {
		p, err := t.editPool(s, pool.ID)
		if err != nil {
			return err
		}
		if err := t.openDown(s, lane.Bottom(), below, pool); err != nil {
			return err
		}
		p.Lanes[k].H += below
		t.noteGrown(&p.Lanes[k], below)
	}
	return nil
}

// noteGrown notes that a lane has grown by itself. Earlier programs did not know of it, nor let lanes shrink again.
func (t *transaction) noteGrown(lane *model.Lane, by int) {
	if !t.earlier {
		lane.Grown += by
	}
}

// left returns the lanes of the sheet that a symbol stood in before the edit and stands in no more, by their ids.
func (t *transaction) left(s *model.Sheet) map[string]bool {
	var out map[string]bool
	for i := range t.log {
		c, ok := Changed[model.Symbol](&t.log[i])
		if !ok || c.Before == nil || t.log[i].Sheet != s.ID || c.Before.Kind.Explains() {
			continue
		}
		for _, pool := range s.Pools {
			was := pool
			if entry := t.entry(pool.ID); entry != nil {
				if was = spanOf[model.Pool](entry).Before; was == nil {
					continue
				}
			}
			own := c.Before.Centre().Turned(was.Down)
			for k, lane := range was.Lanes {
				if strip := was.Strip(k); lane.Grown == 0 || !strip.Contains(own) {
					continue
				}
				if now := s.Symbol(c.Before.ID); now == nil || s.LaneOf(now) == nil || s.LaneOf(now).ID != lane.ID {
					if out == nil {
						out = map[string]bool{}
					}
					out[lane.ID] = true
				}
			}
		}
	}
	return out
}

// shrinkLanes takes from lanes that a step has left what they had grown by, as far as nothing stands there.
func (t *transaction) shrinkLanes(s *model.Sheet) error {
	left := t.left(s)
	if len(left) == 0 || s.Kind == model.JourneySheet {
		return nil
	}
	for _, pool := range s.Pools {
		for k := range pool.Lanes {
			if !left[pool.Lanes[k].ID] || pool.Lanes[k].Grown == 0 {
				continue
			}
			if err := t.shrinkLane(s, pool, k); err != nil {
				return err
			}
		}
	}
	return nil
}

func (t *transaction) shrinkLane(s *model.Sheet, pool *model.Pool, k int) error {
	p, err := t.editPool(s, pool.ID)
	if err != nil {
		return err
	}
	take := func(y, room int) error {
		lane := &p.Lanes[k]
		room = geometry.Clamp(min(room, lane.Grown, lane.H-model.MinLane), 0, model.MaxPlace)
		if room == 0 {
			return nil
		}
		if err := t.openDown(s, y, -room, pool); err != nil {
			return err
		}
		lane.H -= room
		lane.Grown -= room
		return nil
	}
	lane, members := pool.Strip(k), t.members(s, pool)[k]
	if len(members) == 0 {
		return take(lane.Bottom(), lane.H)
	}
	top, bottom := t.reach(pool, members)
	if err := take(lane.Bottom(), lane.Bottom()-bottom-model.LanePad); err != nil {
		return err
	}
	return take(lane.Y, top-model.LanePad-lane.Y)
}

// reach returns from where to where symbols stand across the flow of their pool, with the values under them. There is
// at least one.
func (t *transaction) reach(pool *model.Pool, members []*model.Symbol) (top, bottom int) {
	first := pool.Own(members[0].Box)
	top, bottom = first.Y, first.Bottom()
	for _, sym := range members {
		b := pool.Own(sym.Box)
		top, bottom = min(top, b.Y), max(bottom, b.Bottom())
		if under := t.m.Under(t.m.SheetOf(pool.ID), sym); under > 0 && !pool.Down {
			bottom = max(bottom, b.Bottom()+under-model.LanePad/2)
		}
	}
	return top, bottom
}

// openDown moves everything that stands at or beyond y down by d (up if d is
// negative), except the pool in which the space is made: in the frame of that
// pool, so that where its lanes lie down the sheet, all goes to the right.
func (t *transaction) openDown(s *model.Sheet, y, d int, except *model.Pool) error {
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
func (t *transaction) insertLane(s *model.Sheet, pool *model.Pool, at int, lane model.Lane) error {
	if at < 0 || at > len(pool.Lanes) {
		return model.Refuse(pool.ID, "the pool has %d lanes; there is no place %d in it", len(pool.Lanes), at)
	}
	if len(pool.Lanes) >= model.MaxLanes {
		return model.Refuse(pool.ID, "a pool has at most %d lanes", model.MaxLanes)
	}
	if err := t.fresh(lane.ID); err != nil {
		return err
	}
	y := pool.Own(pool.Box()).Bottom()
	if at < len(pool.Lanes) {
		y = pool.Strip(at).Y
	}
	p, err := t.editPool(s, pool.ID)
	if err != nil {
		return err
	}
	if err := t.openDown(s, y, lane.H, pool); err != nil {
		return err
	}
	heads := p.Heads()
	p.Lanes = append(p.Lanes[:at:at], append([]model.Lane{lane}, p.Lanes[at:]...)...)
	return t.headed(s, p, heads)
}

// removeLane takes a lane away. An empty one closes up; the steps of any other
// stay where they are and join the lane above (below, for the first).
func (t *transaction) removeLane(s *model.Sheet, pool *model.Pool, id string) error {
	k := pool.LaneIndex(id)
	if k < 0 {
		return model.Refuse(id, "the lane %q is not there any more", id)
	}
	if len(pool.Lanes) == 1 {
		return model.Refuse(id, "a pool keeps at least one lane; delete the pool instead")
	}
	empty := len(t.members(s, pool)[k]) == 0
	box := pool.Strip(k)
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
// everything below moves. It never gets smaller than what it holds. Where it grows for a step, that is noted.
func (t *transaction) resizeLane(s *model.Sheet, pool *model.Pool, id string, h int, grows bool) error {
	k := pool.LaneIndex(id)
	if k < 0 {
		return model.Refuse(id, "the lane %q is not there any more", id)
	}
	box := pool.Strip(k)
	need := model.MinLane
	for _, sym := range t.members(s, pool)[k] {
		need = max(need, pool.Own(sym.Box).Bottom()+model.LanePad-box.Y)
	}
	h = geometry.Clamp(h, need, model.MaxPlace)
	p, err := t.editPool(s, pool.ID)
	if err != nil {
		return err
	}
	if err := t.openDown(s, box.Bottom(), h-box.H, pool); err != nil {
		return err
	}
	if p.Lanes[k].H = h; grows {
		t.noteGrown(&p.Lanes[k], max(h-box.H, 0))
	} else {
		p.Lanes[k].Grown = 0
	}
	return nil
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

func (e *TurnPool) change(t *transaction) error {
	s, pool, err := t.pool(e.Sheet, e.Pool)
	if err != nil {
		return err
	}
	if pool.Down == e.Down {
		return nil
	}
	if pool.Journey {
		return model.Refuse(pool.ID, "the rows of a journey lie across the sheet")
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
		tops[k] = pool.Strip(k).Y
	}
	t.fixLast(pool)
	origin := pool.Corner()
	frame := *pool.Clone()
	pool.Down = e.Down
	pool.W = max(scaled(frame.W-frame.Heads(), along)+pool.Heads(), model.MinPool)
	for i := range pool.Stages {
		pool.Stages[i].L = max(scaled(frame.Stages[i].L, along), model.MinStage)
	}
	for k := range pool.Lanes {
		pool.Lanes[k].H, pool.Lanes[k].Grown = max(scaled(frame.Lanes[k].H, across), model.MinLane), 0
	}
	now := pool.Corner()
	t.following = true
	defer func() { t.following = false }()
	for k, list := range members {
		for _, sym := range list {
			c := frame.Own(sym.Box).Centre().Sub(geometry.Point{X: origin.X + frame.Heads(), Y: tops[k]})
			at := geometry.Point{X: now.X + pool.Heads() + scaled(c.X, along), Y: pool.Strip(k).Y + scaled(c.Y, across)}
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
			*l.Place = model.Spot{}
		}
		con.From.Side, con.To.Side = turnedSide(con.From.Side), turnedSide(con.To.Side)
	}
	// The first steps keep clear of the names.
	least := 0
	for _, list := range members {
		for _, sym := range list {
			least = max(least, pool.Content()+model.LanePad-pool.Own(sym.Box).X)
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
func (t *transaction) headed(s *model.Sheet, pool *model.Pool, before int) error {
	by := pool.Heads() - before
	if by == 0 || pool.Journey {
		return nil
	}
	pool.W = max(pool.W+by, model.MinPool)
	return t.shiftWithin(s, pool, -model.MaxPlace, by)
}

// AddPool sets down a pool with its lanes.
type AddPool struct {
	Sheet string     `json:"sheet"`
	Pool  model.Pool `json:"pool"`
}

func (e *AddPool) change(t *transaction) error {
	s, err := t.sheet(e.Sheet)
	if err != nil {
		return err
	}
	return poolList.add(t, s, len(s.Pools), e.Pool.Clone())
}

// pool returns the sheet and the pool an edit is about.
func (t *transaction) pool(sheet, id string) (*model.Sheet, *model.Pool, error) {
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

func (e *SetPool) change(t *transaction) error {
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
	Sheet string     `json:"sheet"`
	Pool  string     `json:"pool"`
	At    int        `json:"at"`
	Lane  model.Lane `json:"lane"`
}

func (e *InsertLane) change(t *transaction) error {
	s, p, err := t.pool(e.Sheet, e.Pool)
	if err != nil {
		return err
	}
	if p.Journey {
		return t.insertRow(p, e.At, e.Lane)
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
	// Grows says that the lane becomes so high to hold a step, not because somebody wanted it so high.
	Grows bool    `json:"grows,omitempty"`
	Of    *string `json:"of,omitempty"`
	Fill  *string `json:"fill,omitempty"`
	Head  *string `json:"head,omitempty"`
	// Row, Field and Folded are of a row of a journey. What stands in it becomes what its type wants.
	Row    *model.RowType `json:"row,omitempty"`
	Field  *string        `json:"field,omitempty"`
	Folded *bool          `json:"folded,omitempty"`
}

func (e *SetLane) change(t *transaction) error {
	s, p, err := t.pool(e.Sheet, e.Pool)
	if err != nil {
		return err
	}
	k := p.LaneIndex(e.Lane)
	if k < 0 {
		return model.Refuse(e.Lane, "the lane %q is not there any more", e.Lane)
	}
	if !p.Journey && (e.Row != nil || e.Field != nil || e.Folded != nil) {
		return model.Refuse(e.Lane, "only rows of journeys have a type, and are folded")
	}
	if p.Journey {
		e = &SetLane{Sheet: e.Sheet, Pool: e.Pool, Lane: e.Lane, Name: e.Name, Fill: e.Fill, Head: e.Head, Row: e.Row,
			Field: e.Field, Folded: e.Folded}
	}
	heads := p.Heads()
	named := *e
	named.H = nil // the height takes the lanes below along
	fields.Assign(&p.Lanes[k], &named)
	if e.Row != nil {
		if err := t.retype(s, p.Lanes[k]); err != nil {
			return err
		}
	}
	if err := t.headed(s, p, heads); err != nil {
		return err
	}
	if e.H != nil {
		return t.resizeLane(s, p, e.Lane, *e.H, e.Grows)
	}
	return nil
}

// RemoveLane takes a lane away; its steps join the neighbouring lane.
type RemoveLane struct {
	Sheet string `json:"sheet"`
	Pool  string `json:"pool"`
	Lane  string `json:"lane"`
}

func (e *RemoveLane) change(t *transaction) error {
	s, p, err := t.pool(e.Sheet, e.Pool)
	if err != nil {
		return err
	}
	if p.Journey {
		return t.removeRow(s, p, e.Lane)
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

func (e *MoveLane) change(t *transaction) error {
	s, pool, err := t.pool(e.Sheet, e.Pool)
	if err != nil {
		return err
	}
	from := pool.LaneIndex(e.Lane)
	if from < 0 {
		return model.Refuse(e.Lane, "the lane %q is not there any more", e.Lane)
	}
	if e.To < 0 || e.To >= len(pool.Lanes) {
		return model.Refuse(e.Pool, "the pool has %d lanes; there is no place %d in it", len(pool.Lanes), e.To)
	}
	if pool.Journey {
		pool.Lanes = moveTo(pool.Lanes, from, e.To)
		return nil
	}
	members := t.members(s, pool)
	was := map[string]int{}
	for i, l := range pool.Lanes {
		was[l.ID] = i
	}
	tops := make([]int, len(pool.Lanes))
	for i := range pool.Lanes {
		tops[i] = pool.Strip(i).Y
	}
	lane := pool.Lanes[from]
	pool.Lanes = slices.Insert(slices.Delete(slices.Clone(pool.Lanes), from, from+1), e.To, lane)
	heads := pool.Heads()
	pool.Lanes[e.To].Of = pool.PartAt(e.To)
	t.following = true // they go along with their lanes, whether locked or not
	defer func() { t.following = false }()
	for i, l := range pool.Lanes {
		k := was[l.ID]
		d := pool.Strip(i).Y - tops[k]
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
