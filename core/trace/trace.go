// Package trace walks one case through a map: At says where the case is, and what ways lead on from there, over
// connectors and pairs of references. It holds no way itself: whoever walks keeps the places in their order.
package trace

import (
	"strings"

	"plaintracer/core/flow"
	"plaintracer/core/links"
	"plaintracer/core/model"
	"plaintracer/core/symbols"
	"plaintracer/core/values"
)

// Place is where a case has come to.
type Place struct {
	// Symbol is its id, Sheet that of the sheet on which it stands.
	Symbol string `json:"symbol"`
	Sheet  string `json:"sheet"`
	// Text, Kind, Lane and Number describe it.
	Text   string `json:"text"`
	Kind   string `json:"kind"`
	Lane   string `json:"lane"`
	Number string `json:"number"`
	// Exits are the ways on, none at the end.
	Exits []Exit `json:"exits"`
	// Fields is what stands in the fields of the map, Links where it leads beside the flow: titles, and addresses or #
	// with an id.
	Fields []Fact `json:"fields,omitempty"`
	Links  []Fact `json:"links,omitempty"`
	// Sums add up what the fields that count say of all steps on the way, this one included; Handovers is how often the
	// work went from one to another.
	Sums      []Fact `json:"sums,omitempty"`
	Handovers int    `json:"handovers,omitempty"`
}

// Fact is a name and what is known by it.
type Fact struct {
	Name  string `json:"name"`
	Value string `json:"value"`
}

// Exit is one way on: by a connector, or to the partner of a reference.
type Exit struct {
	Answer string `json:"answer"`
	To     string `json:"to"`
	// Via is the id of the connector, empty to a partner; Target that of the symbol it leads to.
	Via    string `json:"via"`
	Target string `json:"target"`
}

// Begin returns the id of the symbol at which a case begins; empty where there is none.
func Begin(g *flow.Graph) string {
	starts := g.Starts()
	for _, n := range starts {
		if len(g.Map().OpensInto(n.Sheet)) == 0 {
			return n.Symbol.ID
		}
	}
	if len(starts) > 0 {
		return starts[0].Symbol.ID
	}
	return ""
}

// At describes a symbol to which a case has come, with the numbers that are shown; nil where it is not there.
func At(g *flow.Graph, numbers map[string]string, id string) *Place {
	s := g.Map().SheetOf(id)
	if s == nil || s.Symbol(id) == nil {
		return nil
	}
	m, sym := g.Map(), s.Symbol(id)
	p := &Place{Symbol: id, Sheet: s.ID, Text: Title(sym), Kind: symbols.Of(sym.Kind).Name, Lane: s.OwnerOf(sym),
		Number: numbers[id], Exits: Exits(g, id)}
	for i := range m.Fields {
		if value := model.Flat(m.Show(&m.Fields[i], sym)); value != "" {
			p.Fields = append(p.Fields, Fact{m.Fields[i].Name, value})
		}
	}
	for _, l := range links.Of(m, sym) {
		p.Links = append(p.Links, Fact{model.Flat(links.Title(m, &l, numbers)), l.To})
	}
	return p
}

// Along adds up what was on the way to a place: the ids of all symbols, in the order in which the case came by them,
// the place itself at last. What is not in the map any more does not count. The sums are returned as fields hold them
// as well, by the ids of the fields.
func (p *Place) Along(g *flow.Graph, way []string) (amounts map[string]string) {
	m := g.Map()
	sums, counted := make([]int64, len(m.Fields)), make([]bool, len(m.Fields))
	last := ""
	p.Sums, p.Handovers = nil, 0
	for _, id := range way {
		n := g.Node(id)
		if n == nil {
			continue
		}
		for i := range m.Fields {
			f := &m.Fields[i]
			if amount, ok := values.Amount(f.Type, n.Symbol.Value(f.ID)); ok {
				sums[i], counted[i] = sums[i]+amount, true
			}
		}
		if owner := n.Owner(); n.Symbol.Kind.IsStep() && owner != "" {
			if last != "" && owner != last {
				p.Handovers++
			}
			last = owner
		}
	}
	for i := range m.Fields {
		if f := &m.Fields[i]; counted[i] {
			if amounts == nil {
				amounts = map[string]string{}
			}
			amounts[f.ID] = values.FromAmount(sums[i])
			p.Sums = append(p.Sums, Fact{f.Name, values.ShowSum(f.Type, sums[i], m.Measures())})
		}
	}
	return amounts
}

// Exits returns the ways on from a symbol, in the order of the answers, and at last into the detail of a step. At the
// end of a detail they are those of the step that opens into it: the one with the text of the end, where it has
// several.
func Exits(g *flow.Graph, id string) []Exit {
	here := g.Node(id)
	if here == nil {
		return nil
	}
	out := exits(here)
	if len(out) == 0 {
		out = outOf(g, here)
	}
	if to := g.Map().DetailOf(here.Symbol); to != nil {
		if start := g.StartOf(to); start != nil {
			out = append(out, Exit{"", "into " + to.Name, "", start.Symbol.ID})
		}
	}
	return out
}

// exits are those by connectors, and to the partner of a reference.
func exits(here *flow.Node) []Exit {
	var out []Exit
	for _, x := range here.Exits {
		if x.Connector != nil {
			out = append(out, Exit{x.Answer(), Title(x.To.Symbol), x.Connector.ID, x.To.Symbol.ID})
		} else if len(out) == 0 {
			out = append(out, Exit{"", "reference " + x.To.Symbol.Text + " on " + x.To.Sheet.Name, "", x.To.Symbol.ID})
		}
	}
	return out
}

// outOf are the exits at the end of a detail.
func outOf(g *flow.Graph, end *flow.Node) []Exit {
	for range model.MaxDepth {
		list := g.Map().OpensInto(end.Sheet)
		if len(list) == 0 {
			return nil
		}
		step := g.Node(list[0].Symbol.ID)
		out := exits(step)
		for _, x := range out {
			text := model.Flat(end.Symbol.Text)
			if len(out) > 1 && x.Answer != "" && strings.EqualFold(x.Answer, text) {
				return []Exit{x}
			}
		}
		if len(out) > 0 {
			return out
		}
		end = step
	}
	return nil
}

// Title names a symbol by its text, or its kind where it has none.
func Title(sym *model.Symbol) string {
	if sym.Text == "" {
		return symbols.Of(sym.Kind).Name
	}
	return sym.Text
}
