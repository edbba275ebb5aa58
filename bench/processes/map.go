package processes

import (
	"fmt"

	"plaintracer/core/diagram"
	"plaintracer/core/geometry"
	"plaintracer/core/symbols"
)

// Map makes a map of a process, its steps lying on each other, in their lanes if
// there are any. Step i is called n and its number, edge i e and its number.
func (g *Graph) Map() *diagram.Map {
	const px = geometry.Px
	m := diagram.New("A process", diagram.Rightwards, "A3", true)
	s := m.Sheets[0]
	kinds := [...]diagram.Kind{Step: diagram.Process, Decision: diagram.Decision, Terminator: diagram.Terminator}
	var pool *diagram.Pool
	if g.Lanes > 0 {
		pool = &diagram.Pool{ID: "pool", Title: "Everybody", X: 30 * px, Y: 40 * px, W: 400 * px}
		for i := range g.Lanes {
			pool.Lanes = append(pool.Lanes, diagram.Lane{ID: fmt.Sprint("lane", i), Name: fmt.Sprint("Lane ", i+1), H: diagram.LaneHeight})
		}
		s.Pools = append(s.Pools, pool)
	}
	for i, n := range g.Nodes {
		def := symbols.Of(kinds[n.Kind])
		sym := &diagram.Symbol{ID: fmt.Sprint("n", i), Kind: kinds[n.Kind], Text: n.Text, Box: geometry.Box{X: 150 * px, Y: 10 * px, W: def.W, H: def.H}}
		if pool != nil {
			sym.Y = pool.LaneBox(n.Lane).Y + (diagram.LaneHeight-def.H)/2
		}
		s.Symbols = append(s.Symbols, sym)
	}
	for i, e := range g.Edges {
		s.Connectors = append(s.Connectors, &diagram.Connector{ID: fmt.Sprint("e", i), Text: e.Label, From: diagram.End{Symbol: fmt.Sprint("n", e.From)}, To: diagram.End{Symbol: fmt.Sprint("n", e.To)}})
	}
	return m
}
