package edit

import (
	"slices"

	"plaintracer/core/geometry"
	"plaintracer/core/model"
)

func init() {
	register("layOut", says[*LayOut]("lay out"))
}

// LayOut gives a whole arrangement: new frames for pools with all their lanes, new
// boxes for symbols, and connectors that find their own ends, courses and places
// of labels again. Symbols without a new box go along with their lanes.
type LayOut struct {
	Sheet string      `json:"sheet"`
	Boxes []Place     `json:"boxes,omitempty"`
	Pools []PoolFrame `json:"pools,omitempty"`
	Free  []string    `json:"free,omitempty"`
	// Led are those of which sides are chosen and stretches laid, as if by hand:
	// they are led round what they would cross, and from row to row.
	Led []Lead `json:"led,omitempty"`
}

// Lead is a connector with the stretches laid, and the sides it leaves by and
// comes to, empty for any.
type Lead struct {
	ID    string       `json:"id"`
	Bends []model.Bend `json:"bends,omitempty"`
	From  string       `json:"from,omitempty"`
	To    string       `json:"to,omitempty"`
}

// PoolFrame is where a pool stands, and how high its lanes are, in their order.
type PoolFrame struct {
	ID      string `json:"id"`
	X       int    `json:"x"`
	Y       int    `json:"y"`
	W       int    `json:"w"`
	Heights []int  `json:"heights"`
	// Stages are the lengths of its stages; none leave them as they are.
	Stages []int `json:"stages,omitempty"`
}

func (e *LayOut) change(t *transaction) error {
	s, err := t.sheet(e.Sheet)
	if err != nil {
		return err
	}
	along := e.left(s)
	if err := e.framePools(t, s); err != nil {
		return err
	}
	if err := along.follow(t, s); err != nil {
		return err
	}
	for _, b := range e.Boxes {
		sym, err := t.editSymbol(s, b.ID)
		if err != nil {
			return err
		}
		sym.Box = b.Box
	}
	return e.lead(t, s)
}

// inLane is a symbol in a lane, with where that began.
type inLane struct {
	sym  *model.Symbol
	pool *model.Pool
	lane int
	y    int
}

type inLanes []inLane

// left are the symbols in lanes that get no box: each goes along with its lane.
func (e *LayOut) left(s *model.Sheet) (list inLanes) {
	placed := map[string]bool{}
	for _, b := range e.Boxes {
		placed[b.ID] = true
	}
	for _, sym := range s.Symbols {
		if p, k := s.LaneAt(sym.Centre()); p != nil && !placed[sym.ID] {
			list = append(list, inLane{sym, p, k, p.Strip(k).Y})
		}
	}
	return list
}

// follow moves the symbols as far as their lanes have moved.
func (list inLanes) follow(t *transaction, s *model.Sheet) error {
	t.following = true
	defer func() { t.following = false }()
	for _, h := range list {
		if d := h.pool.Strip(h.lane).Y - h.y; d != 0 {
			if err := t.touch(s, h.sym); err != nil {
				return err
			}
			h.sym.Box = h.sym.Moved(geometry.Point{Y: d}.Turned(h.pool.Down))
		}
	}
	return nil
}

// framePools gives the pools their frames.
func (e *LayOut) framePools(t *transaction, s *model.Sheet) error {
	for _, f := range e.Pools {
		p, err := t.editPool(s, f.ID)
		if err != nil {
			return err
		}
		if len(f.Heights) != len(p.Lanes) {
			return model.Refuse(f.ID, "the pool %s has other lanes now", model.Quote(p.Title))
		}
		p.X, p.Y, p.W = f.X, f.Y, f.W
		for i, h := range f.Heights {
			p.Lanes[i].H, p.Lanes[i].Grown = h, 0
		}
		if len(f.Stages) > 0 && len(f.Stages) != len(p.Stages) {
			return model.Refuse(f.ID, "the pool %s has other stages now", model.Quote(p.Title))
		}
		for i, l := range f.Stages {
			p.Stages[i].L = l
		}
	}
	return nil
}

// lead gives courses back to the router, and lays others by hand.
func (e *LayOut) lead(t *transaction, s *model.Sheet) error {
	for _, id := range e.Free {
		c, err := t.editConnector(s, id)
		if err != nil {
			return err
		}
		c.Bends = nil
		for _, l := range c.Labels() {
			*l.Place = model.Spot{}
		}
		for _, end := range []*model.End{&c.From, &c.To} {
			if end.Symbol != "" {
				end.Side = ""
			}
		}
	}
	for _, l := range e.Led {
		c, err := t.editConnector(s, l.ID)
		if err != nil {
			return err
		}
		c.Bends = slices.Clone(l.Bends)
		if c.From.Symbol != "" {
			c.From.Side = l.From
		}
		if c.To.Symbol != "" {
			c.To.Side = l.To
		}
	}
	return nil
}
