package model

import (
	"slices"

	"plaintracer/core/geometry"
)

// StageHead returns how wide the strip with the names of the stages is across the flow. That of a journey grows with
// the names.
func (p *Pool) StageHead() int {
	if len(p.Stages) == 0 {
		return 0
	}
	return max(StageHead, p.head)
}

// length returns how long stage i is drawn: that of a journey at least as long as the points of its curves need.
func (p *Pool) length(i int) int {
	switch st := &p.Stages[i]; {
	case st.Folded:
		return FoldedStage
	case i < len(p.wide):
		return max(st.L, p.wide[i])
	default:
		return st.L
	}
}

// StageIndex returns the place of the stage with this id, or -1.
func (p *Pool) StageIndex(id string) int {
	return slices.IndexFunc(p.Stages, func(s Stage) bool { return s.ID == id })
}

// Span returns where stage i begins and ends along the flow, in the pool's own
// frame.
func (p *Pool) Span(i int) (from, to int) {
	from = p.Content()
	for k := range p.Stages[:i] {
		from += p.length(k)
	}
	if i == len(p.Stages)-1 {
		return from, p.Corner().X + p.W
	}
	return from, from + p.length(i)
}

// StageBox returns the head of stage i.
func (p *Pool) StageBox(i int) geometry.Box {
	from, to := p.Span(i)
	return p.Own(geometry.Box{X: from, Y: p.Corner().Y, W: to - from, H: p.StageHead()})
}

// StageAt returns the number of the stage of a pool that a place lies in, or -1.
func (p *Pool) StageAt(at geometry.Point) int {
	x := at.Turned(p.Down).X
	for i := range p.Stages {
		if from, to := p.Span(i); x < to || i == len(p.Stages)-1 {
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
	if s.IsCell(sym) {
		if p, _ := s.RowOf(sym.Row); p != nil && p.StageIndex(sym.Stage) >= 0 {
			return &p.Stages[p.StageIndex(sym.Stage)]
		}
		return nil
	}
	pool, _ := s.LaneAt(sym.Centre())
	if pool == nil {
		return nil
	}
	if i := pool.StageAt(sym.Centre()); i >= 0 {
		return &pool.Stages[i]
	}
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
	b, lane := pool.Own(sym.Box), pool.Strip(k)
	if b.Y < lane.Y || b.Bottom() > lane.Bottom() || b.X < pool.Content() || b.Right() > lane.Right() {
		return true
	}
	if i := pool.StageAt(sym.Centre()); i >= 0 {
		from, to := pool.Span(i)
		return b.X < from || b.Right() > to
	}
	return false
}
