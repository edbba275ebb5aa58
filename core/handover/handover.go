// Package handover makes the map that goes out of the one that is worked on: a part of it, without what is not to be
// shown, in another look. The map itself stays as it is.
package handover

import (
	"context"
	"fmt"
	"slices"

	"plaintracer/core/model"
	"plaintracer/core/scene"
)

// Scope is what of a map goes out. The zero value is all of it.
type Scope struct {
	// Sheet is the id of the only sheet; empty for all.
	Sheet string
	// IDs are what is selected on that sheet; none for all of it.
	IDs []string
}

// Part returns the part of a map.
func Part(m *model.Map, s Scope) (*model.Map, error) {
	out := m.Clone()
	if s.Sheet == "" {
		return out, nil
	}
	sheet := out.Sheet(s.Sheet)
	if sheet == nil {
		return nil, fmt.Errorf("there is no sheet %q", s.Sheet)
	}
	out.Sheets = []*model.Sheet{sheet}
	if len(s.IDs) > 0 {
		selected(sheet, s.IDs)
		if len(sheet.Symbols)+len(sheet.Connectors)+len(sheet.Pools) == 0 {
			return nil, fmt.Errorf("nothing of what is selected is on the sheet %q", sheet.Name)
		}
		out.Settle(sheet)
	}
	return out, nil
}

// selected leaves what is selected on a sheet, and the connectors between.
func selected(s *model.Sheet, ids []string) {
	in := map[string]bool{}
	for _, id := range ids {
		in[id] = true
	}
	for _, p := range s.Pools {
		in[p.ID] = in[p.ID] || slices.ContainsFunc(p.Lanes, func(l model.Lane) bool { return in[l.ID] })
	}
	// What stands in the cells of a journey goes with it; a cell alone takes the journey along.
	for _, p := range s.Pools {
		whole := in[p.ID]
		for _, sym := range s.Symbols {
			if p.Journey && p.LaneIndex(sym.Row) >= 0 {
				in[sym.ID] = in[sym.ID] || whole
				in[p.ID] = in[p.ID] || in[sym.ID]
			}
		}
	}
	s.Pools = slices.DeleteFunc(s.Pools, func(p *model.Pool) bool { return !in[p.ID] })
	tree := s.Tree()
	for _, sym := range s.Symbols { // a card whose superior stays behind comes under the next one that goes
		for sym.Under != "" && !in[sym.Under] {
			over := ""
			if up := tree.Card(sym.Under); up != nil {
				over = up.Under
			}
			sym.Under = over
		}
	}
	s.Symbols = slices.DeleteFunc(s.Symbols, func(sym *model.Symbol) bool { return !in[sym.ID] })
	for { // what joins a connector goes with it
		before := len(s.Connectors)
		stands := map[string]bool{}
		for _, sym := range s.Symbols {
			stands[sym.ID] = true
		}
		for _, c := range s.Connectors {
			stands[c.ID] = true
		}
		there := func(e model.End) bool {
			return (e.Symbol == "" || stands[e.Symbol]) && (e.Connector == "" || stands[e.Connector])
		}
		s.Connectors = slices.DeleteFunc(s.Connectors, func(c *model.Connector) bool {
			loose := c.From.Symbol == "" || c.To.Symbol == "" && c.To.Connector == ""
			return !there(c.From) || !there(c.To) || loose && !in[c.ID]
		})
		if len(s.Connectors) == before {
			break
		}
	}
	for _, sym := range s.Symbols { // a call-out that points at what stays behind points as it did without
		if sym.Tip.On != "" && s.Symbol(sym.Tip.On) == nil &&
			!slices.ContainsFunc(s.Connectors, func(c *model.Connector) bool { return c.ID == sym.Tip.On }) {
			sym.Tip = model.Tip{}
		}
	}
}

// Dress says what of a map is shown, and in which look. The zero value changes nothing.
type Dress struct {
	// Without what is left out.
	WithoutNumbers, WithoutHeading, WithoutLegend, WithoutNotes bool
	// Look is the name of another look; empty keeps that of the map and those of single symbols.
	Look string
}

// Dressed returns the map as it is shown.
func Dressed(m *model.Map, d Dress) *model.Map {
	out := m.Clone()
	if d.WithoutNumbers {
		out.Numbers = false
	}
	if d.Look != "" {
		out.Look = d.Look
	}
	for _, s := range out.Sheets {
		if d.WithoutHeading {
			s.Headed = false
		}
		gone := map[string]bool{}
		s.Symbols = slices.DeleteFunc(s.Symbols, func(sym *model.Symbol) bool {
			if d.Look != "" {
				sym.Look = ""
			}
			gone[sym.ID] = d.WithoutLegend && sym.Kind.Explains() && !sym.Kind.Lists() ||
				d.WithoutNotes && sym.Kind.IsNote()
			return gone[sym.ID]
		})
		for { // with the connectors to them, and what joins these
			before := len(s.Connectors)
			s.Connectors = slices.DeleteFunc(s.Connectors, func(c *model.Connector) bool {
				if gone[c.From.Symbol] || gone[c.To.Symbol] || gone[c.To.Connector] {
					gone[c.ID] = true
				}
				return gone[c.ID]
			})
			if len(s.Connectors) == before {
				break
			}
		}
		out.Settle(s)
	}
	return out
}

// Drawings draws the sheets of a part of a map. Numbers and captions are those of the whole map. It ends early, with
// the error of the context, when that has ended.
func Drawings(ctx context.Context, whole, part *model.Map) ([]*scene.Drawing, error) {
	facts := scene.Know(whole)
	if !part.Numbers {
		facts.Numbers = nil
	}
	for id, kinds := range scene.Know(part).Legends {
		facts.Legends[id] = kinds
	}
	var out []*scene.Drawing
	for _, s := range part.Sheets {
		d, ok := scene.DrawUntil(part, s, facts, func() bool { return ctx.Err() != nil })
		if !ok {
			return nil, ctx.Err()
		}
		out = append(out, d)
	}
	return out, nil
}
