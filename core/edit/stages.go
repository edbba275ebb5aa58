package edit

import (
	"slices"

	"plaintracer/core/fields"
	"plaintracer/core/geometry"
	"plaintracer/core/model"
)

func init() {
	register("insertStage", says[*InsertStage]("add a stage"))
	register("setStage", says[*SetStage]("change the stage"))
	register("moveStage", says[*MoveStage]("move the stage"))
	register("removeStage", says[*RemoveStage]("remove the stage"))
}

// The edits of stages.
type (
	// InsertStage puts a stage at place At of a pool; what stands beyond moves on.
	// The first stage of a pool takes all of it. With From nothing moves: the stage
	// before ends at that place along the flow, and this one takes the rest of it.
	InsertStage struct {
		Sheet string      `json:"sheet"`
		Pool  string      `json:"pool"`
		At    int         `json:"at"`
		Stage model.Stage `json:"stage"`
		From  *int        `json:"from,omitempty"`
	}
	// SetStage changes a stage's name or length; nil leaves a value alone. What
	// stands beyond moves with its end; it never gets shorter than what it holds.
	SetStage struct {
		Sheet string  `json:"sheet"`
		Pool  string  `json:"pool"`
		Stage string  `json:"stage"`
		Name  *string `json:"name,omitempty"`
		L     *int    `json:"l,omitempty"`
		// Fill and Folded are of the stage of a journey.
		Fill   *string `json:"fill,omitempty"`
		Folded *bool   `json:"folded,omitempty"`
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
func (t *transaction) stageHead(s *model.Sheet, pool *model.Pool, by int) error {
	return t.openDown(s, pool.Corner().Y, by, pool)
}

// shiftWithin moves what stands in the pool at or beyond x, in its own frame.
func (t *transaction) shiftWithin(s *model.Sheet, pool *model.Pool, x, by int) error {
	for _, list := range t.members(s, pool) {
		beyond := slices.DeleteFunc(list, func(sym *model.Symbol) bool { return pool.Own(sym.Box).Centre().X < x })
		if err := t.shiftAlong(s, pool, beyond, by); err != nil {
			return err
		}
	}
	return nil
}

func (e *InsertStage) change(t *transaction) error {
	s, pool, err := t.pool(e.Sheet, e.Pool)
	if err != nil {
		return err
	}
	if e.At < 0 || e.At > len(pool.Stages) {
		return model.Refuse(e.Pool, "the pool has %d stages; there is no place %d among them", len(pool.Stages), e.At)
	}
	if err := t.fresh(e.Stage.ID); err != nil {
		return err
	}
	stage := e.Stage
	stage.L = max(stage.L, model.MinStage)
	if pool.Journey {
		return t.insertColumn(pool, e.At, stage)
	}
	if len(pool.Stages) == 0 {
		stage.L = max(pool.Corner().X+pool.W-pool.Content(), model.MinStage)
		if err := t.stageHead(s, pool, model.StageHead); err != nil {
			return err
		}
		pool.Stages = []model.Stage{stage}
		return nil
	}
	t.fixLast(pool)
	if e.From != nil {
		if e.At == 0 {
			return model.Refuse(e.Pool, "there is no stage before the first")
		}
		from, to := pool.Span(e.At - 1)
		if *e.From-from < model.MinStage || to-*e.From < model.MinStage {
			return model.Refuse(e.Pool, "a stage is at least %d px long", model.MinStage/geometry.Px)
		}
		pool.Stages[e.At-1].L, stage.L = *e.From-from, to-*e.From
		pool.Stages = slices.Insert(slices.Clone(pool.Stages), e.At, stage)
		return nil
	}
	x := pool.Corner().X + pool.W
	if e.At < len(pool.Stages) {
		x, _ = pool.Span(e.At)
	}
	if err := t.shiftWithin(s, pool, x, stage.L); err != nil {
		return err
	}
	pool.W += stage.L
	pool.Stages = slices.Insert(slices.Clone(pool.Stages), e.At, stage)
	return nil
}

// fixLast gives the last stage the length it has.
func (t *transaction) fixLast(pool *model.Pool) {
	if n := len(pool.Stages); n > 0 {
		from, to := pool.Span(n - 1)
		pool.Stages = slices.Clone(pool.Stages)
		pool.Stages[n-1].L = max(to-from, model.MinStage)
	}
}

// stageIn returns the place of a stage in a pool.
func stageIn(pool *model.Pool, id string) (int, error) {
	i := pool.StageIndex(id)
	if i < 0 {
		return 0, model.Refuse(id, "the stage %q is not there any more", id)
	}
	return i, nil
}

func (e *SetStage) change(t *transaction) error {
	s, pool, err := t.pool(e.Sheet, e.Pool)
	if err != nil {
		return err
	}
	i, err := stageIn(pool, e.Stage)
	if err != nil {
		return err
	}
	if pool.Journey {
		wide := *e
		if e.L != nil {
			l := geometry.Clamp(*e.L, model.MinStage, model.MaxColumn)
			wide.L = &l
		}
		pool.Stages = slices.Clone(pool.Stages)
		fields.Assign(&pool.Stages[i], &wide)
		return nil
	}
	if e.Folded != nil {
		return model.Refuse(e.Stage, "only stages of journeys are folded")
	}
	t.fixLast(pool)
	named := *e
	named.L = nil // the steps beside its end give way
	fields.Assign(&pool.Stages[i], &named)
	if e.L == nil {
		return nil
	}
	if t.earlier {
		return t.lengthen(s, pool, i, *e.L)
	}
	return t.moveBorder(s, pool, i, geometry.Clamp(*e.L, model.MinStage, model.MaxPlace))
}

// lengthen makes a stage so long as earlier programs did: all that stands beyond its end moves along, and the pool
// becomes as much longer or shorter.
func (t *transaction) lengthen(s *model.Sheet, pool *model.Pool, i, l int) error {
	from, to := pool.Span(i)
	need := model.MinStage
	for _, list := range t.members(s, pool) {
		for _, sym := range list {
			if b := pool.Own(sym.Box); pool.StageAt(sym.Centre()) == i {
				need = max(need, b.Right()+model.LanePad-from)
			}
		}
	}
	l = geometry.Clamp(l, need, model.MaxPlace)
	by := l - (to - from)
	if err := t.shiftWithin(s, pool, to, by); err != nil {
		return err
	}
	pool.Stages[i].L = l
	pool.W = max(pool.W+by, model.MinPool)
	return nil
}

// moveBorder moves the end of a stage, so that the stage is so long. What stands in it or in the next one stays, as
// long as the end does not pass it; else it gives way together, and so do the stages beyond where the room does not do.
// Towards its beginning a stage becomes no shorter than what it holds.
func (t *transaction) moveBorder(s *model.Sheet, pool *model.Pool, i, l int) error {
	n := len(pool.Stages)
	groups := make([][]*model.Symbol, n)
	for _, list := range t.members(s, pool) {
		for _, sym := range list {
			if k := pool.StageAt(sym.Centre()); k >= 0 {
				groups[k] = append(groups[k], sym)
			}
		}
	}
	extent := func(k int) (lo, hi int) {
		for j, sym := range groups[k] {
			b := pool.Own(sym.Box)
			if j == 0 {
				lo, hi = b.X, b.Right()
			}
			lo, hi = min(lo, b.X), max(hi, b.Right())
		}
		return lo, hi
	}
	from, to := pool.Span(i)
	edge := from + l
	if edge < to {
		if lo, hi := extent(i); len(groups[i]) > 0 {
			need := max(hi+min(model.LanePad, to-hi)-edge, 0)
			room := max(lo-from-model.LanePad, 0)
			edge += max(need-room, 0)
			edge = min(edge, to)
			if err := t.shiftAlong(s, pool, groups[i], -min(need, room)); err != nil {
				return err
			}
		}
		pool.Stages[i].L = edge - from
		if i == n-1 {
			pool.W = max(pool.W-(to-edge), model.MinPool)
		} else {
			pool.Stages[i+1].L += to - edge
		}
		return nil
	}
	pool.Stages[i].L = l
	for k := i + 1; k < n && edge > to; k++ {
		begin, end := to, to+pool.Stages[k].L
		to = max(end, edge+model.MinStage)
		if lo, hi := extent(k); len(groups[k]) > 0 {
			by := max(edge+min(model.LanePad, max(lo-begin, 0))-lo, 0)
			to = max(to, hi+by+min(model.LanePad, max(end-hi, 0)))
			if err := t.shiftAlong(s, pool, groups[k], by); err != nil {
				return err
			}
		}
		pool.Stages[k].L = to - edge
		edge, to = to, end
	}
	pool.W += max(edge-to, 0)
	return nil
}

// shiftAlong moves symbols along the flow of a pool.
func (t *transaction) shiftAlong(s *model.Sheet, pool *model.Pool, list []*model.Symbol, by int) error {
	if by == 0 {
		return nil
	}
	was := t.following
	t.following = true
	defer func() { t.following = was }()
	for _, sym := range list {
		if err := t.touch(s, sym); err != nil {
			return err
		}
		sym.Box = sym.Moved(geometry.Point{X: by}.Turned(pool.Down))
	}
	return nil
}

func (e *MoveStage) change(t *transaction) error {
	s, pool, err := t.pool(e.Sheet, e.Pool)
	if err != nil {
		return err
	}
	from, err := stageIn(pool, e.Stage)
	if err != nil {
		return err
	}
	if e.To < 0 || e.To >= len(pool.Stages) {
		return model.Refuse(e.Pool, "the pool has %d stages; there is no place %d among them", len(pool.Stages), e.To)
	}
	if pool.Journey {
		pool.Stages = moveTo(pool.Stages, from, e.To)
		return nil
	}
	t.fixLast(pool)
	begin, in := map[string]int{}, map[string]string{}
	for i, st := range pool.Stages {
		begin[st.ID], _ = pool.Span(i)
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
		now[st.ID], _ = pool.Span(i)
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

func (e *RemoveStage) change(t *transaction) error {
	s, pool, err := t.pool(e.Sheet, e.Pool)
	if err != nil {
		return err
	}
	i, err := stageIn(pool, e.Stage)
	if err != nil {
		return err
	}
	if pool.Journey {
		return t.removeColumn(s, pool, i)
	}
	t.fixLast(pool)
	l := pool.Stages[i].L
	pool.Stages = slices.Delete(slices.Clone(pool.Stages), i, i+1)
	if len(pool.Stages) == 0 {
		pool.Stages = nil
		return t.stageHead(s, pool, -model.StageHead)
	}
	pool.Stages[max(i-1, 0)].L += l
	return nil
}
