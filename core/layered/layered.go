// Package layered computes where the steps of a process stand, from what leads
// where: in layers along the flow, in bands (the lanes) across it.
//
// The stages are those of Sugiyama, Tagawa and Toda, Methods for Visual
// Understanding of Hierarchical System Structures (1981): what leads back is
// found, every step gets a layer, the layers are ordered so that little crosses,
// and the steps get their places. Each stage names its own source. Nothing here
// knows about paper, symbols or courses.
//
// Everything is a function of the graph alone. The order of nodes and edges
// counts: what was said first comes first.
package layered

import "plaintracer/core/geometry"

const px = geometry.Px

// None is the stage of a node that belongs to none, and the band of a node in a
// graph without bands.
const None = -1

// Node is a step.
type Node struct {
	// Along is its length along the flow. Across the flow it reaches to Near on
	// the side of the first band and to Far on the other, counted from the line
	// on which it is glued to others.
	Along, Near, Far int
	// Band is the band it stays in, Stage the stage; None for none.
	Band, Stage int
	// Aside says that it is no step of the flow but only written or read: it may stand on any side of its step.
	Aside bool
	// At is where it stands now, its middle along the flow and across it; drawings that keep to that need it.
	At geometry.Point
}

// Edge leads from one node to another.
type Edge struct {
	From, To int
	// Exit is its place among the exits of a choice: 0 goes on, all others turn
	// to the side.
	Exit int
	// Label is the room it needs along the flow for its label; zero for none.
	Label int
}

// Graph is what is to be drawn.
type Graph struct {
	Nodes []Node
	Edges []Edge
	// Bands is the number of bands; zero for a graph without.
	Bands int
	// Gap is the least distance along the flow between two layers, Apart that
	// across it between two nodes of a layer.
	Gap, Apart int
	// Mirror turns exits to the side towards the first band instead of the last.
	Mirror bool
	// Rails says that what leaves a fork may run on one line until it parts.
	Rails bool
	// Tell hears how far the work has come, and says whether to go on; it may be
	// nil.
	Tell func(done, of int) bool
}

// Span is a stretch of an axis.
type Span struct{ From, To int }

// Drawing says where everything stands.
type Drawing struct {
	// Along are the middles of the nodes along the flow, Across where they are
	// glued; what comes first lies at zero.
	Along, Across []int
	// Layer is the layer of every node, from 0; Order its place in the layer.
	Layer, Order []int
	// Back marks the edges that lead back, or nowhere.
	Back []bool
	// Bands are the stretches across the flow that the bands need for their
	// nodes, Layers those along the flow that the layers fill.
	Bands, Layers []Span
	// Lines are the places across the flow on which most of each long edge runs;
	// Long says which edges have one.
	Lines []int
	Long  []bool
	// LineBands are the bands in which those lines lie, Crossed is how often each
	// edge is crossed as far as the order decides it.
	LineBands, Crossed []int
	// Sides are those by which each edge was meant to leave and arrive, Right being onward and Bottom the side
	// of the last band; nil where nothing was said of that.
	Sides [][2]geometry.Side
	// Bends is how many bends each edge was meant to have; nil with Sides.
	Bends []int
	// Crossings is how often edges cross between the layers, as far as the
	// order decides it.
	Crossings int
	// Before and After are the room that lines need outside the first and the last row.
	Before, After int
}

// Draw computes the drawing of a graph, or nil when it was told not to go on.
func Draw(g Graph) *Drawing {
	if !g.Mirror {
		return draw(g)
	}
	nodes := make([]Node, len(g.Nodes))
	for v, n := range g.Nodes {
		n.Near, n.Far = n.Far, n.Near
		nodes[v] = n
	}
	turned := g
	turned.Nodes = nodes
	d := draw(turned)
	if d != nil {
		d.mirror(&g)
	}
	return d
}

// mirror exchanges the two sides: of every band by itself, or of the whole.
func (d *Drawing) mirror(g *Graph) {
	whole := Span{}
	for v, n := range g.Nodes {
		if v == 0 {
			whole = Span{d.Across[v] - n.Far, d.Across[v] + n.Near}
		}
		whole.From, whole.To = min(whole.From, d.Across[v]-n.Far), max(whole.To, d.Across[v]+n.Near)
	}
	in := func(band int) Span {
		if g.Bands == 0 {
			return whole
		}
		return d.Bands[band]
	}
	for v, n := range g.Nodes {
		s := in(n.Band)
		d.Across[v] = s.From + s.To - d.Across[v]
	}
	for k := range d.Lines {
		s := in(d.LineBands[k])
		d.Lines[k] = s.From + s.To - d.Lines[k]
	}
}

func draw(g Graph) *Drawing {
	d := &Drawing{Back: BackEdges(&g)}
	n := newNet(&g, d.Back)
	d.Layer = n.layer[:len(g.Nodes)]
	if !n.arrange() {
		return nil
	}
	d.Crossings = n.crossings()
	n.place(d)
	d.Crossed = n.crossedEdges()
	d.Order = n.pos[:len(g.Nodes)]
	return d
}

func (g *Graph) tell(done, of int) bool { return g.Tell == nil || g.Tell(done, of) }
