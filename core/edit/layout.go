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
	// What gets no box goes along with its lane.
	type held struct {
		sym  *model.Symbol
		pool *model.Pool
		lane int
		y    int
	}
	placed := map[string]bool{}
	for _, b := range e.Boxes {
		placed[b.ID] = true
	}
	var along []held
	for _, sym := range s.Symbols {
		if p, k := s.LaneAt(sym.Centre()); p != nil && !placed[sym.ID] {
			along = append(along, held{sym, p, k, p.Strip(k).Y})
		}
	}
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
			p.Lanes[i].H = h
		}
		if len(f.Stages) > 0 && len(f.Stages) != len(p.Stages) {
			return model.Refuse(f.ID, "the pool %s has other stages now", model.Quote(p.Title))
		}
		for i, l := range f.Stages {
			p.Stages[i].L = l
		}
	}
	t.following = true
	defer func() { t.following = false }()
	for _, h := range along {
		if d := h.pool.Strip(h.lane).Y - h.y; d != 0 {
			if err := t.touch(s, h.sym); err != nil {
				return err
			}
			h.sym.Box = h.sym.Moved(geometry.Point{Y: d}.Turned(h.pool.Down))
		}
	}
	t.following = false
	for _, b := range e.Boxes {
		sym, err := t.editSymbol(s, b.ID)
		if err != nil {
			return err
		}
		sym.Box = b.Box
	}
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
