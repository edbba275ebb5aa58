package edit

import (
	"plaintracer/core/geometry"
	"plaintracer/core/model"
)

func init() {
	register("openSpace", func(_ *model.Map, e *OpenSpace) string {
		if e.By < 0 {
			return "close a gap"
		}
		return "make room"
	})
}

// OpenSpace opens space across the sheet, or closes it where By is negative:
// everything whose centre lies beyond At moves by By. A pool that At cuts
// grows or shrinks with it, down the sheet in the lane that it cuts.
type OpenSpace struct {
	Sheet string `json:"sheet"`
	// Down opens space downwards at y = At; else it opens to the right at x = At.
	Down bool `json:"down,omitempty"`
	At   int  `json:"at"`
	By   int  `json:"by"`
	Held bool `json:"-"`
}

func (e *OpenSpace) change(t *transaction) error {
	s, err := t.sheet(e.Sheet)
	if err != nil {
		return err
	}
	t.exact = t.exact || e.Held
	t.following = true // space opens for what is locked, too
	defer func() { t.following = false }()
	along := func(p geometry.Point) int {
		if e.Down {
			return p.Y
		}
		return p.X
	}
	by := geometry.Point{X: e.By}
	if e.Down {
		by = geometry.Point{Y: e.By}
	}
	moved := map[string]bool{}
	for _, sym := range s.Symbols {
		if sym.Kind.Holds() && e.cuts(sym.Box, along) {
			if err := t.touch(s, sym); err != nil {
				return err
			}
			if e.Down {
				sym.H += e.By
			} else {
				sym.W += e.By
			}
			continue
		}
		if along(sym.Centre()) < e.At {
			continue
		}
		if err := t.touch(s, sym); err != nil {
			return err
		}
		sym.Box = sym.Moved(by)
		moved[sym.ID] = true
	}
	for _, p := range s.Pools {
		if err := e.pool(t, s, p, by, along); err != nil {
			return err
		}
	}
	for _, c := range s.Connectors {
		if err := e.connector(t, s, c, by, along, moved); err != nil {
			return err
		}
	}
	return nil
}

// cuts reports whether the line of the space runs through a box.
func (e *OpenSpace) cuts(b geometry.Box, along func(geometry.Point) int) bool {
	return along(b.Corner()) < e.At && e.At < along(geometry.Point{X: b.Right(), Y: b.Bottom()})
}

func (e *OpenSpace) pool(t *transaction, s *model.Sheet, pool *model.Pool, by geometry.Point,
	along func(geometry.Point) int) error {
	b := pool.Box()
	if along(geometry.Point{X: b.Right(), Y: b.Bottom()}) <= e.At {
		return nil
	}
	p, err := t.editPool(s, pool.ID)
	if err != nil {
		return err
	}
	switch {
	case along(b.Corner()) >= e.At:
		p.X, p.Y = p.X+by.X, p.Y+by.Y
	case e.Down == p.Down: // along the flow
		t.fixLast(p)
		for i := range p.Stages {
			if _, to := p.Span(i); e.At < to {
				p.Stages[i].L = max(p.Stages[i].L+e.By, model.MinStage)
				break
			}
		}
		p.W += e.By
	default:
		k := len(p.Lanes) - 1
		for k > 0 && along(p.LaneBox(k).Corner()) > e.At {
			k--
		}
		p.Lanes[k].H += e.By
		p.Lanes[k].Grown = min(p.Lanes[k].Grown, p.Lanes[k].H)
	}
	return nil
}

// connector moves the loose ends that lie beyond, and the bends of a connector
// that has only one end there. Bends between two that move alike are carried
// along anyway.
func (e *OpenSpace) connector(t *transaction, s *model.Sheet, c *model.Connector, by geometry.Point,
	along func(geometry.Point) int, moved map[string]bool) error {
	goes := func(end model.End) bool { return moved[end.Symbol] || end.Loose() && along(end.At) >= e.At }
	from, to := goes(c.From), goes(c.To)
	loose := from && c.From.Loose() || to && c.To.Loose()
	if from == to && !loose || !loose && len(c.Bends) == 0 {
		return nil
	}
	con, err := t.editConnector(s, c.ID)
	if err != nil {
		return err
	}
	for _, end := range [...]*model.End{&con.From, &con.To} {
		if end.Loose() && along(end.At) >= e.At {
			end.At = end.At.Add(by)
		}
	}
	if from && to && !con.From.Loose() && !con.To.Loose() {
		return nil
	}
	bends := make([]model.Bend, len(con.Bends))
	for i, b := range con.Bends {
		if bends[i] = b; b.Upright != e.Down && b.At >= e.At {
			bends[i].At += e.By
		}
	}
	con.Bends = bends
	return nil
}
