package web

import (
	"slices"
	"strings"
	"testing"

	"plaintracer/bench/hands"
	"plaintracer/core/scene"
	"plaintracer/web/desk"
)

// Where a connector goes on on the line of another, the reader's page has that part for the trace of a case: it ends
// where the other one does.
func TestTheTraceHasTheLineOthersDraw(t *testing.T) {
	list := hands.All()
	m := list[slices.IndexFunc(list, func(h hands.Hand) bool { return h.Name == "five-refusals" })].Map()
	page := string(desk.ViewSheet(m, m.Sheets[0], scene.Draw(m, m.Sheets[0])).Nodes)
	into := 0 // the rail
	for _, c := range m.Sheets[0].Connectors {
		if c.To.Symbol == "r" && c.To.Side != "top" {
			into++
		}
	}
	if n := strings.Count(page, `class="rest"`); n != into-2 { // a rail from either side has one that is drawn whole
		t.Errorf("of %d lines that meet %d are drawn by others", into, n)
	}
	for _, c := range m.Sheets[0].Connectors {
		if at := strings.Index(page, `id="r-`+c.ID+`"`); at >= 0 && c.To.Symbol != "r" {
			t.Errorf("%s, to %s, meets nothing", c.ID, c.To.Symbol)
		}
	}
}
