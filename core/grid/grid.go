// Package grid draws a process the way a draughtsman does: on columns along the flow and rows across it. It
// begins with a drawing in layers (package layered), whose layers are the first columns, and then moves
// steps from cell to cell as long as that makes the drawing better: a side branch goes straight down from
// its decision, a step in another lane stands in the same column, columns and rows that nothing needs go.
//
// Draw is the only entry. A board (board.go) holds the cells and a path for every edge; paths.go lists the
// ways an edge can run between two cells, with the prices of package routing, so that what is chosen here
// is what the router will draw; search.go moves steps; measure.go turns cells into coordinates.
//
// The idea of placing a process on a grid with branches in rows of their own is that of Kitzmann, König,
// Lübke and Singer, A Simple Algorithm for Automatic Layout of BPMN Processes (2009); what people prefer
// (few bends, compact, aligned, symmetric) that of Kieffer, Dwyer, Marriott and Wybrow, HOLA: Human-like
// Orthogonal Network Layout (2016). Both from memory; the search is ours.
//
// Everything is a function of the graph alone.
package grid

import (
	"plaintracer/core/geometry"
	"plaintracer/core/layered"
)

const px = geometry.Px

// largest is how many nodes a graph may have; larger ones are drawn in layers, since the search would take seconds.
const largest = 600

// Draw draws a graph on a grid, or returns nil when it was told not to go on.
func Draw(g layered.Graph) *layered.Drawing { return From(g, layered.Draw(g)) }

// From is Draw for a graph whose drawing in layers is known.
func From(g layered.Graph, d *layered.Drawing) *layered.Drawing {
	if d == nil || len(g.Nodes) < 2 || len(g.Nodes) > largest {
		return d
	}
	b := newBoard(&g, d)
	b.improve()
	return b.measure(d)
}
