package diagram

import (
	"slices"

	"plaintracer/core/fields"
	"plaintracer/core/geometry"
)

func init() {
	register("insertStage", says[*InsertStage]("add a stage"))
	register("setStage", says[*SetStage]("change the stage"))
	register("moveStage", says[*MoveStage]("move the stage"))
	register("removeStage", says[*RemoveStage]("remove the stage"))
}

func (p *Pool) stageHead() int {
	if len(p.Stages) == 0 {
		return 0
	}
	return StageHead
}

// StageIndex returns the place of the stage with this id, or -1.
func (p *Pool) StageIndex(id string) int {
	return slices.IndexFunc(p.Stages, func(s Stage) bool { return s.ID == id })
}

// span returns where stage i begins and ends along the flow, in the pool's own
// frame.
func (p *Pool) span(i int) (from, to int) {
	from = p.Content()
	for _, st := range p.Stages[:i] {
		from += st.L
	}
	if i == len(p.Stages)-1 {
		return from, p.corner().X + p.W
	}
	return from, from + p.Stages[i].L
}

// StageBox returns the head of stage i.
func (p *Pool) StageBox(i int) geometry.Box {
	from, to := p.span(i)
	return p.Own(geometry.Box{X: from, Y: p.corner().Y, W: to - from, H: StageHead})
}

// StageAt returns the number of the stage of a pool that a place lies in, or -1.
func (p *Pool) StageAt(at geometry.Point) int {
	x := at.Turned(p.Down).X
	for i := range p.Stages {
		if from, to := p.span(i); x < to || i == len(p.Stages)-1 {
			if x < from && i == 0 {
				return 0
			}
			return i
		}
	}
	return -1
}

// StageOf returns the stage a symbol stands in, which is where its centre lies;
// nil when it stands in none.
func (s *Sheet) StageOf(sym *Symbol) *Stage {
	pool, _ := s.LaneAt(sym.Centre())
	if pool == nil {
		return nil
	}
	if i := pool.StageAt(sym.Centre()); i >= 0 {
		return &pool.Stages[i]
	}
	return nil
}

// The edits of stages.
type (
	// InsertStage puts a stage at place At of a pool; what stands beyond moves on.
	// The first stage of a pool takes all of it. With From nothing moves: the stage
	// before ends at that place along the flow, and this one takes the rest of it.
	InsertStage struct {
		Sheet string `json:"sheet"`
		Pool  string `json:"pool"`
		At    int    `json:"at"`
		Stage Stage  `json:"stage"`
		From  *int   `json:"from,omitempty"`
	}
	// SetStage changes a stage's name or length; nil leaves a value alone. What
	// stands beyond moves with its end; it never gets shorter than what it holds.
	SetStage struct {
		Sheet string  `json:"sheet"`
		Pool  string  `json:"pool"`
		Stage string  `json:"stage"`
		Name  *string `json:"name,omitempty"`
		L     *int    `json:"l,omitempty"`
	}
	// MoveStage takes a stage to place To of its pool, with the steps that stand in
	// it.
	MoveStage struct {
		Sheet string `json:"sheet"`
		Pool  string `json:"pool"`
		Stage string `json:"stage"`
		To    int    `json:"to"`
	}
	// RemoveStage takes a stage away; its steps stay where they are and join the
	// stage before, or behind the first.
	RemoveStage struct {
		Sheet string `json:"sheet"`
		Pool  string `json:"pool"`
		Stage string `json:"stage"`
	}
)

// stageHead opens the head of the stages, or shuts it: all lanes move by it.
func (t *trial) stageHead(s *Sheet, pool *Pool, by int) error {
	return t.openDown(s, pool.corner().Y, by, pool)
}

// shiftWithin moves what stands in the pool at or beyond x, in its own frame.
func (t *trial) shiftWithin(s *Sheet, pool *Pool, x, by int) error {
	was := t.following
	t.following = true
	defer func() { t.following = was }()
	for _, list := range t.members(s, pool) {
		for _, sym := range list {
			if pool.Own(sym.Box).Centre().X < x {
				continue
			}
			if err := t.touch(s, sym); err != nil {
				return err
			}
			sym.Box = sym.Moved(geometry.Point{X: by}.Turned(pool.Down))
		}
	}
	return nil
}

func (e *InsertStage) change(t *trial) error {
	s, pool, err := t.pool(e.Sheet, e.Pool)
	if err != nil {
		return err
	}
	if e.At < 0 || e.At > len(pool.Stages) {
		return refuse(e.Pool, "the pool has %d stages; there is no place %d among them", len(pool.Stages), e.At)
	}
	if err := t.fresh(e.Stage.ID); err != nil {
		return err
	}
	stage := e.Stage
	stage.L = max(stage.L, MinStage)
	if len(pool.Stages) == 0 {
		stage.L = max(pool.corner().X+pool.W-pool.Content(), MinStage)
		if err := t.stageHead(s, pool, StageHead); err != nil {
			return err
		}
		pool.Stages = []Stage{stage}
		return nil
	}
	t.fixLast(pool)
	if e.From != nil {
		if e.At == 0 {
			return refuse(e.Pool, "there is no stage before the first")
		}
		from, to := pool.span(e.At - 1)
		if *e.From-from < MinStage || to-*e.From < MinStage {
			return refuse(e.Pool, "a stage is at least %d px long", MinStage/geometry.Px)
		}
		pool.Stages[e.At-1].L, stage.L = *e.From-from, to-*e.From
		pool.Stages = slices.Insert(slices.Clone(pool.Stages), e.At, stage)
		return nil
	}
	x := pool.corner().X + pool.W
	if e.At < len(pool.Stages) {
		x, _ = pool.span(e.At)
	}
	if err := t.shiftWithin(s, pool, x, stage.L); err != nil {
		return err
	}
	pool.W += stage.L
	pool.Stages = slices.Insert(slices.Clone(pool.Stages), e.At, stage)
	return nil
}

// fixLast gives the last stage the length it has.
func (t *trial) fixLast(pool *Pool) {
	if n := len(pool.Stages); n > 0 {
		from, to := pool.span(n - 1)
		pool.Stages = slices.Clone(pool.Stages)
		pool.Stages[n-1].L = max(to-from, MinStage)
	}
}

// stageIn returns the place of a stage in a pool.
func stageIn(pool *Pool, id string) (int, error) {
	i := pool.StageIndex(id)
	if i < 0 {
		return 0, refuse(id, "the stage %q is not there any more", id)
	}
	return i, nil
}

func (e *SetStage) change(t *trial) error {
	s, pool, err := t.pool(e.Sheet, e.Pool)
	if err != nil {
		return err
	}
	i, err := stageIn(pool, e.Stage)
	if err != nil {
		return err
	}
	t.fixLast(pool)
	named := *e
	named.L = nil // the length takes the stages behind along
	fields.Assign(&pool.Stages[i], &named)
	if e.L == nil {
		return nil
	}
	from, to := pool.span(i)
	need := MinStage
	for _, list := range t.members(s, pool) {
		for _, sym := range list {
			if b := pool.Own(sym.Box); pool.StageAt(sym.Centre()) == i {
				need = max(need, b.Right()+LanePad-from)
			}
		}
	}
	l := geometry.Clamp(*e.L, need, MaxPlace)
	by := l - (to - from)
	if err := t.shiftWithin(s, pool, to, by); err != nil {
		return err
	}
	pool.Stages[i].L = l
	pool.W = max(pool.W+by, MinPool)
	return nil
}

func (e *MoveStage) change(t *trial) error {
	s, pool, err := t.pool(e.Sheet, e.Pool)
	if err != nil {
		return err
	}
	from, err := stageIn(pool, e.Stage)
	if err != nil {
		return err
	}
	if e.To < 0 || e.To >= len(pool.Stages) {
		return refuse(e.Pool, "the pool has %d stages; there is no place %d among them", len(pool.Stages), e.To)
	}
	t.fixLast(pool)
	begin, in := map[string]int{}, map[string]string{}
	for i, st := range pool.Stages {
		begin[st.ID], _ = pool.span(i)
	}
	members := t.members(s, pool)
	for _, list := range members {
		for _, sym := range list {
			in[sym.ID] = pool.Stages[pool.StageAt(sym.Centre())].ID
		}
	}
	stage := pool.Stages[from]
	pool.Stages = slices.Insert(slices.Delete(slices.Clone(pool.Stages), from, from+1), e.To, stage)
	now := map[string]int{}
	for i, st := range pool.Stages {
		now[st.ID], _ = pool.span(i)
	}
	t.following = true
	defer func() { t.following = false }()
	for _, list := range members {
		for _, sym := range list {
			if d := now[in[sym.ID]] - begin[in[sym.ID]]; d != 0 {
				if err := t.touch(s, sym); err != nil {
					return err
				}
				sym.Box = sym.Moved(geometry.Point{X: d}.Turned(pool.Down))
			}
		}
	}
	return nil
}

func (e *RemoveStage) change(t *trial) error {
	s, pool, err := t.pool(e.Sheet, e.Pool)
	if err != nil {
		return err
	}
	i, err := stageIn(pool, e.Stage)
	if err != nil {
		return err
	}
	t.fixLast(pool)
	l := pool.Stages[i].L
	pool.Stages = slices.Delete(slices.Clone(pool.Stages), i, i+1)
	if len(pool.Stages) == 0 {
		pool.Stages = nil
		return t.stageHead(s, pool, -StageHead)
	}
	pool.Stages[max(i-1, 0)].L += l
	return nil
}

// Straddles reports whether a symbol lies across a border: of its lane or stage, or
// of a pool in which its centre does not lie.
func (s *Sheet) Straddles(sym *Symbol) bool {
	if sym.Kind.StandsAnywhere() {
		return false
	}
	pool, k := s.LaneAt(sym.Centre())
	if pool == nil {
		return slices.ContainsFunc(s.Pools, func(p *Pool) bool { return p.Box().Meets(sym.Box) })
	}
	b, lane := pool.Own(sym.Box), pool.strip(k)
	if b.Y < lane.Y || b.Bottom() > lane.Bottom() || b.X < pool.Content() || b.Right() > lane.Right() {
		return true
	}
	if i := pool.StageAt(sym.Centre()); i >= 0 {
		from, to := pool.span(i)
		return b.X < from || b.Right() > to
	}
	return false
}
