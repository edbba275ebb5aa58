package flow

import (
	"fmt"
	"slices"

	"plaintracer/core/model"
)

// Passage is where the flow goes on, or comes from, by a pair of references.
type Passage struct {
	// Half is the other half of the pair; Place is that of its sheet among those of the map, from 1.
	model.Half
	Place int
	// Comes says that the flow comes from there.
	Comes bool
	// Step is the one to which it goes on, or from which it comes; nil where there is none yet.
	Step *Node
}

// Passages returns where the flow goes on at a reference, or where it comes from; none at any other symbol.
func (g *Graph) Passages(sym *model.Symbol) []Passage {
	own := g.Node(sym.ID)
	if own == nil {
		return nil
	}
	comes := slices.ContainsFunc(own.Exits, func(x *Exit) bool { return x.Connector != nil })
	var out []Passage
	for _, half := range g.letters.Partners(sym) {
		p := Passage{Half: half, Place: slices.Index(g.m.Sheets, half.Sheet) + 1, Comes: comes}
		if comes {
			if list := g.Entries(half.Symbol.ID); len(list) > 0 {
				p.Step = list[0].From
			}
		} else if list := g.Exits(half.Symbol.ID); len(list) > 0 {
			p.Step = list[0].To
		}
		out = append(out, p)
	}
	return out
}

// Words says where a passage leads: "continues on sheet 2, Repair: 7. Replace the lamp". Numbers are those of the
// steps.
func (p *Passage) Words(numbers map[string]string) string {
	verb := "continues on"
	if p.Comes {
		verb = "comes from"
	}
	out := fmt.Sprintf("%s sheet %d, %s", verb, p.Place, p.Sheet.Name)
	if p.Step == nil || p.Step.Symbol.Text == "" {
		return out
	}
	out += ": "
	if n := numbers[p.Step.Symbol.ID]; n != "" {
		out += n + ". "
	}
	return out + model.Flat(p.Step.Symbol.Text)
}
