// Package findings checks a map the way a careful reviewer would, and names
// what is unfinished. The rules follow the conventions of ISO 5807: paths end
// in a terminator, exits of a decision carry their answers, and references
// come in pairs.
package findings

import (
	"fmt"
	"strings"

	"plaintracer/core/diagram"
	"plaintracer/core/looks"
	"plaintracer/core/symbols"
	"plaintracer/core/typeset"
)

// Finding is one thing to look at.
type Finding struct {
	Sheet string
	// Symbol is the id of the symbol, or of the connector, it is about.
	Symbol string
	Text   string
	// Mends each put it right by one click; none where that takes a decision.
	Mends []Mend
}

// Mend is a command of the editor with its argument, under the words that offer it.
type Mend struct{ Command, Arg, Title string }

// ontoPaper are the ways to bring what lies beyond the edge back onto paper.
var ontoPaper = []Mend{
	{"onto-page", "", "Fit it onto the page"},
	{"paper-larger", "", "Take a larger paper"},
	{"lay-out", "over", "Continue on another sheet"},
}

// Check returns the findings of a map in reading order.
func Check(m *diagram.Map) []Finding {
	var out []Finding
	for _, s := range m.Sheets {
		in, exits := map[string]int{}, map[string][]*diagram.Connector{}
		for _, c := range s.Connectors {
			from, to := s.Leads(c)
			if isRemark(s, from) || isRemark(s, to) {
				continue
			}
			in[to]++
			exits[from] = append(exits[from], c)
			if c.From.Loose() || c.To.Loose() {
				out = append(out, Finding{Sheet: s.ID, Symbol: c.ID, Text: "has a loose end: glue it to a symbol"})
			}
		}
		for i, sym := range s.Symbols {
			add := func(format string, args ...any) {
				out = append(out, Finding{Sheet: s.ID, Symbol: sym.ID, Text: fmt.Sprintf(format, args...)})
			}
			if !s.Page().Holds(sym.Box) {
				add("lies beyond the edge of the page")
				out[len(out)-1].Mends = ontoPaper
			}
			if other := overlapped(s, i); other != nil {
				add("lies on %s: move one of them", named(other))
			}
			if len(s.Pools) > 0 && s.Straddles(sym) {
				add("lies across a border: move it into one lane and one stage")
			}
			for _, rule := range rules {
				if text := rule(m, sym, in[sym.ID], exits[sym.ID]); text != "" {
					add("%s", text)
				}
			}
		}
	}
	return out
}

// overlapped returns the first symbol below number i of the drawing order on which it lies.
// Frames, notes and the like may lie on anything.
func overlapped(s *diagram.Sheet, i int) *diagram.Symbol {
	sym := s.Symbols[i]
	if sym.Kind.IsRemark() {
		return nil
	}
	for _, other := range s.Symbols[:i] {
		if sym.Meets(other.Box) && !other.Kind.IsRemark() {
			return other
		}
	}
	return nil
}

// named says which symbol is meant.
func named(sym *diagram.Symbol) string {
	if sym.Text == "" {
		return "another symbol"
	}
	return fmt.Sprintf("“%.40s”", strings.Join(strings.Fields(sym.Text), " "))
}

func isRemark(s *diagram.Sheet, id string) bool {
	sym := s.Symbol(id)
	return sym != nil && sym.Kind.IsRemark()
}

type rule func(m *diagram.Map, sym *diagram.Symbol, in int, exits []*diagram.Connector) string

var rules = []rule{
	func(m *diagram.Map, sym *diagram.Symbol, _ int, _ []*diagram.Connector) string {
		if sym.Kind != diagram.Legend && typeset.HouseOf(m).Set(symbols.Of(sym.Kind), sym.Text, looks.For(m, sym).Type(sym.Type), sym.W, sym.H).Cut {
			return "has more text than it can show: make it larger or the text shorter"
		}
		return ""
	},
	func(_ *diagram.Map, sym *diagram.Symbol, _ int, _ []*diagram.Connector) string {
		if sym.Text == "" && (sym.Kind.IsStep() || sym.Kind.IsReference()) {
			return "says nothing yet"
		}
		return ""
	},
	func(_ *diagram.Map, sym *diagram.Symbol, _ int, exits []*diagram.Connector) string {
		if sym.Kind.IsStep() && len(exits) == 0 {
			return "is a dead end: nothing leads on from here"
		}
		return ""
	},
	func(_ *diagram.Map, sym *diagram.Symbol, in int, _ []*diagram.Connector) string {
		if sym.Kind.IsStep() && in == 0 {
			return "cannot be reached: nothing leads here"
		}
		return ""
	},
	func(_ *diagram.Map, sym *diagram.Symbol, _ int, exits []*diagram.Connector) string {
		if sym.Kind != diagram.Decision || len(exits) == 0 {
			return ""
		}
		if len(exits) == 1 {
			return "asks a question but has only one exit"
		}
		seen := map[string]bool{}
		for _, c := range exits {
			switch {
			case c.Text == "":
				return "has an exit without an answer"
			case seen[c.Text]:
				return fmt.Sprintf("has two exits with the answer %q", c.Text)
			}
			seen[c.Text] = true
		}
		return ""
	},
	func(m *diagram.Map, sym *diagram.Symbol, _ int, _ []*diagram.Connector) string {
		if !sym.Kind.IsReference() || sym.Text == "" {
			return ""
		}
		if _, partner := m.Partner(sym); partner == nil {
			return fmt.Sprintf("has no partner with the letter %q", sym.Text)
		}
		return ""
	},
}
