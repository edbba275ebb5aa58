package processes

import (
	"fmt"

	"plaintracer/core/geometry"
	"plaintracer/core/model"
	"plaintracer/core/symbols"
)

// Map makes a map of a process, its steps lying on each other, in their lanes if
// there are any. Step i is called n and its number, edge i e and its number.
func (g *Graph) Map() *model.Map {
	const px = geometry.Px
	m := model.New("A process", model.Rightwards, "A3", true)
	s := m.Sheets[0]
	kinds := [...]model.Kind{Step: model.Process, Decision: model.Decision, Terminator: model.Terminator}
	var pool *model.Pool
	if g.Lanes > 0 {
		pool = &model.Pool{ID: "pool", Title: "Everybody", X: 30 * px, Y: 40 * px, W: 400 * px}
		for i := range g.Lanes {
			pool.Lanes = append(pool.Lanes, model.Lane{ID: fmt.Sprint("lane", i), Name: fmt.Sprint("Lane ", i+1),
				H: model.LaneHeight})
		}
		s.Pools = append(s.Pools, pool)
	}
	for i, n := range g.Nodes {
		def := symbols.Of(kinds[n.Kind])
		sym := &model.Symbol{ID: fmt.Sprint("n", i), Kind: kinds[n.Kind], Text: n.Text,
			Box: geometry.Box{X: 150 * px, Y: 10 * px, W: def.W, H: def.H}}
		if pool != nil {
			sym.Y = pool.LaneBox(n.Lane).Y + (model.LaneHeight-def.H)/2
		}
		s.Symbols = append(s.Symbols, sym)
	}
	for i, e := range g.Edges {
		s.Connectors = append(s.Connectors, &model.Connector{ID: fmt.Sprint("e", i), Text: e.Label,
			From: model.End{Symbol: fmt.Sprint("n", e.From)}, To: model.End{Symbol: fmt.Sprint("n", e.To)}})
	}
	return m
}
