// Package findings checks a map the way a careful reviewer would, and names
// what is unfinished. The rules follow the conventions of ISO 5807: paths end
// in a terminator, exits of a decision carry their answers, and references
// come in pairs.
package findings

import (
	"fmt"
	"maps"
	"slices"
	"strings"

	"plaintracer/core/flow"
	"plaintracer/core/geometry"
	"plaintracer/core/links"
	"plaintracer/core/looks"
	"plaintracer/core/model"
	"plaintracer/core/numbering"
	"plaintracer/core/symbols"
	"plaintracer/core/typeset"
)

// Finding is one thing to look at.
type Finding struct {
	Sheet string
	// Symbol is the id of the symbol, or of the connector, it is about.
	Symbol string
	Text   string
	// Fixes each put it right by one click; none where that takes a decision.
	Fixes []Fix
}

// Fix is a command of the editor with its argument, under the words that offer it.
type Fix struct{ Command, Arg, Title string }

// ontoPaper are the ways to bring what lies beyond the edge back onto paper.
var ontoPaper = []Fix{
	{"onto-page", "", "Fit it onto the page"},
	{"paper-larger", "", "Take a larger paper"},
	{"lay-out", "over", "Continue on another sheet"},
}

// chartOntoPaper are those of a hierarchy.
var chartOntoPaper = []Fix{
	{"paper-larger", "", "Take a larger paper"},
	{"chart-last", "right", "Set the last level below each other"},
}

// Check returns the findings of a map in reading order.
func Check(m *model.Map) []Finding { return CheckFlow(m, flow.New(m)) }

// CheckFlow is Check with the flow of the map at hand.
func CheckFlow(m *model.Map, g *flow.Graph) []Finding {
	var out []Finding
	for f := range m.Faults() { // by rules younger than the map; no edit leads to one
		out = append(out, Finding{Sheet: f.Sheet, Symbol: f.ID, Text: "breaks a rule: " + f.Text})
	}
	repeated := map[string]string{}
	for _, step := range numbering.Repeated(g) {
		repeated[step.Symbol.ID] = step.Number
	}
	for _, s := range m.Sheets {
		for _, l := range flow.Links(s) {
			aside := func(sym *model.Symbol) bool { return sym != nil && sym.Kind.IsAside() }
			if c := l.Connector; (c.From.Loose() || c.To.Loose()) && !aside(l.From) && !aside(l.To) {
				out = append(out, Finding{Sheet: s.ID, Symbol: c.ID, Text: "has a loose end: glue it to a symbol"})
			}
			if text := faint(m, s, l.Connector); text != "" {
				out = append(out, Finding{Sheet: s.ID, Symbol: l.Connector.ID, Text: text,
					Fixes: []Fix{{legible.Command, l.Connector.ID, legible.Title}}})
			}
		}
		for i, sym := range s.Symbols {
			if s.Hides(sym.ID) {
				continue
			}
			on := subject{m: m, sheet: s, sym: sym, at: i, graph: g, node: g.Node(sym.ID), repeats: repeated[sym.ID]}
			if on.node == nil {
				on.node = &flow.Node{}
			}
			for _, c := range checks {
				if s.IsCell(sym) && !slices.Contains(cellChecks, c.name) {
					continue
				}
				if text := c.look(&on); text != "" {
					mends := c.mends
					if len(mends) > 0 && mends[0] == ontoPaper[0] {
						mends = onto(s.Kind)
					}
					if c.of != nil {
						mends = []Fix{{c.of.Command, sym.ID, c.of.Title}}
					}
					out = append(out, Finding{Sheet: s.ID, Symbol: sym.ID, Text: text, Fixes: mends})
				}
			}
		}
		out = append(out, journeys(m, s)...)
	}
	return out
}

// onto returns the ways back onto paper on a sheet of a kind.
func onto(kind model.SheetKind) []Fix {
	switch kind {
	case model.HierarchySheet:
		return chartOntoPaper
	case model.JourneySheet:
		return journeyOntoPaper
	}
	return ontoPaper
}

// subject is a symbol that is being looked at.
type subject struct {
	m     *model.Map
	sheet *model.Sheet
	sym   *model.Symbol
	at    int // its place in the drawing order
	graph *flow.Graph
	// node is its place in the flow; an empty one where it is not part of the work.
	node *flow.Node
	// repeats is its number where another one has that, too.
	repeats string
}

// check is one thing that is looked at on every symbol.
type check struct {
	// name is what the check is called in documents.
	name string
	// look says what is wrong, empty where nothing is.
	look func(on *subject) string
	// mends each put it right by one click; of is one that is told which symbol it is about.
	mends []Fix
	of    *Fix
}

// overlapped returns the first symbol below number i of the drawing order on which it lies.
// Frames, notes and the like may lie on anything.
func overlapped(s *model.Sheet, i int) *model.Symbol {
	sym := s.Symbols[i]
	if sym.Kind.IsAside() {
		return nil
	}
	for _, other := range s.Symbols[:i] {
		if sym.Meets(other.Box) && !other.Kind.IsAside() {
			return other
		}
	}
	return nil
}

// named says which symbol is meant.
func named(sym *model.Symbol) string {
	if sym.Text == "" {
		return "another symbol"
	}
	return fmt.Sprintf("“%.40s”", strings.Join(strings.Fields(sym.Text), " "))
}

// checks are all checks on symbols, in the order in which their findings are listed.
var checks = []check{
	{"off the page", func(on *subject) string {
		off := func(sym *model.Symbol) bool { return !on.sheet.Page().Holds(sym.Box) }
		if !off(on.sym) || slices.ContainsFunc(on.sheet.Symbols[:on.at], off) { // it is said once for the sheet
			return ""
		}
		more := 0
		for _, sym := range on.sheet.Symbols[on.at+1:] {
			if off(sym) {
				more++
			}
		}
		switch more {
		case 0:
			return "lies beyond the edge of the page"
		case 1:
			return "lies beyond the edge of the page, with one other"
		}
		return fmt.Sprintf("lies beyond the edge of the page, with %d others", more)
	}, ontoPaper, nil},
	{"overlap", func(on *subject) string {
		if other := overlapped(on.sheet, on.at); other != nil {
			return fmt.Sprintf("lies on %s: move one of them", named(other))
		}
		return ""
	}, nil, nil},
	{"across a border", func(on *subject) string {
		if len(on.sheet.Pools) > 0 && on.sheet.Straddles(on.sym) {
			return "lies across a border: move it into one lane and one stage"
		}
		return ""
	}, nil, nil},
	{"text cut", func(on *subject) string {
		if sym := on.sym; !sym.Kind.Explains() && typeset.HouseOf(on.m).Set(symbols.Of(sym.Kind), sym.Accented(),
			looks.For(on.m, sym).Type(sym.Type), sym.W, sym.H).Cut {
			return "has more text than it can show: make it larger or the text shorter"
		}
		return ""
	}, nil, nil},
	{"hard to read", func(on *subject) string {
		if on.sym.Colour == "" && on.sym.Fill == "" {
			return ""
		}
		return Faint(on.m, on.sheet, on.sym.ID)
	}, nil, &legible},
	{"no text", func(on *subject) string {
		if on.sym.Text == "" && (on.sym.Kind.IsStep() || on.sym.Kind.IsReference()) {
			return "says nothing yet"
		}
		return ""
	}, nil, nil},
	{"dead end", func(on *subject) string {
		if on.sym.Kind.IsStep() && len(on.node.Exits)+len(on.node.Loose) == 0 {
			return "is a dead end: nothing leads on from here"
		}
		return ""
	}, nil, nil},
	{"unreachable", func(on *subject) string {
		if on.sym.Kind.IsStep() && len(on.node.Entries) == 0 {
			return "cannot be reached: nothing leads here"
		}
		return ""
	}, nil, nil},
	{"answers", answers, nil, nil},
	{"number twice", func(on *subject) string {
		if on.repeats != "" {
			return fmt.Sprintf("has the number %s, as another one has: pin another number or give it back", on.repeats)
		}
		return ""
	}, nil, nil},
	{"detail", detail, nil, nil},
	{"dead link", func(on *subject) string {
		for i := range on.sym.Links {
			if links.Gone(on.m, &on.sym.Links[i]) {
				return "has a link to a step or sheet that is gone: remove it"
			}
		}
		return ""
	}, nil, nil},
	{"reference without a partner", func(on *subject) string {
		if !on.sym.Kind.IsReference() || on.sym.Text == "" {
			return ""
		}
		if len(on.m.Partners(on.sym)) > 0 {
			return ""
		}
		if on.m.Lettered(on.sym) > 1 {
			return fmt.Sprintf("does not tell where the flow goes on: several lead on with the letter %q, or none does",
				on.sym.Text)
		}
		return fmt.Sprintf("has no partner with the letter %q", on.sym.Text)
	}, nil, nil},
}

// legible gives the text of a symbol or connector a colour in which it can be read.
var legible = Fix{Command: "legible", Title: "Set it so that it can be read"}

// Contrast returns the contrast of the text of a symbol or connector with what is behind it, and the colour of that; 0
// where there is no text. Of words in a colour of their own and the rest, that which has least counts.
func Contrast(m *model.Map, s *model.Sheet, id string) (ratio float64, background string) {
	if sym := s.Symbol(id); sym != nil {
		if sym.Text == "" || sym.Kind.ShowsPicture() {
			return 0, ""
		}
		look := looks.For(m, sym)
		background = look.Fill(sym.Fill)
		if def := symbols.Of(sym.Kind); sym.Fill == "" && (def.Bare || def.Hollow) {
			background = behind(m, s, sym.Centre())
		}
		ratio = looks.Contrast(look.TextOf(sym), background)
		for _, a := range sym.Accents {
			ratio = min(ratio, looks.Contrast(look.Line(a.Colour, look.TextOf(sym)), background))
		}
		return ratio, background
	}
	c := s.Connector(id)
	if c == nil || c.Text+c.FromText+c.ToText == "" {
		return 0, ""
	}
	background = behind(m, s, c.From.At)
	if sym := s.Symbol(c.From.Symbol); sym != nil {
		background = behind(m, s, sym.Centre())
	}
	return looks.Contrast(looks.Of(m).LabelOf(c), background), background
}

// behind returns the colour of the sheet at a place where no symbol stands: of the lane, the stage or the page.
func behind(m *model.Map, s *model.Sheet, at geometry.Point) string {
	look := looks.Of(m)
	if pool, i := s.LaneAt(at); pool != nil {
		if fill := pool.Lanes[i].Fill; fill != "" {
			return look.Fill(fill)
		}
		if k := pool.StageAt(at); k >= 0 && pool.Stages[k].Fill != "" {
			return look.Fill(pool.Stages[k].Fill)
		}
		return look.Lane
	}
	if s.Background.Fill != "" {
		return look.Fill(s.Background.Fill)
	}
	return look.Paper
}

// Faint says that the text of a symbol or connector is hard to read, after W3C WCAG 2.2, 1.4.3; nothing where it is
// not.
func Faint(m *model.Map, s *model.Sheet, id string) string {
	if ratio, _ := Contrast(m, s, id); ratio > 0 && ratio < looks.AA {
		return fmt.Sprintf("is hard to read: its text has a contrast of %.1f to 1, and 4.5 is the least", ratio)
	}
	return ""
}

func faint(m *model.Map, s *model.Sheet, c *model.Connector) string {
	if c.Colour == "" {
		return "" // ink can be read
	}
	return Faint(m, s, c.ID)
}

// detail looks at how the sheet into which a step opens goes together with the step: it begins in one place, and where
// the step has several exits, each of them is an end there.
func detail(on *subject) string {
	if on.sym.Detail == "" || !on.sym.Kind.IsStep() {
		return ""
	}
	to := on.m.Sheet(on.sym.Detail)
	if to == nil {
		return "opens into a sheet that is gone: take the detail off, or open it anew"
	}
	begins, ends := 0, map[string]bool{}
	for _, n := range on.graph.Nodes() {
		if n.Sheet != to || n.Symbol.Kind.IsInformation() {
			continue
		}
		if len(n.Entries) == 0 {
			begins++
		}
		if n.Symbol.Kind.IsEnd() && len(n.Exits) == 0 && len(n.Entries) > 0 {
			ends[strings.ToLower(model.Flat(n.Symbol.Text))] = true
		}
	}
	name := fmt.Sprintf("“%.40s”", to.Name)
	switch {
	case begins == 0:
		return fmt.Sprintf("opens into %s, where nothing begins yet", name)
	case begins > 1:
		return fmt.Sprintf("opens into %s, which begins in %d places instead of one", name, begins)
	case len(ends) == 0:
		return fmt.Sprintf("opens into %s, which has no end yet", name)
	}
	if len(on.node.Exits) < 2 {
		return ""
	}
	for _, x := range on.node.Exits {
		answer := strings.ToLower(model.Flat(x.Answer()))
		if answer != "" && !ends[answer] {
			return fmt.Sprintf("has the exit “%.40s”, and %s ends in none of that name", x.Answer(), name)
		}
		delete(ends, answer)
	}
	for _, end := range slices.Sorted(maps.Keys(ends)) {
		return fmt.Sprintf("opens into %s, which ends in “%.40s”, and no exit has that name", name, end)
	}
	return ""
}

// answers looks at the exits of a decision.
func answers(on *subject) string {
	if !on.sym.Kind.Asks() {
		return ""
	}
	var list []string
	for _, x := range on.node.Exits {
		list = append(list, x.Answer())
	}
	for _, c := range on.node.Loose {
		list = append(list, c.Text)
	}
	switch len(list) {
	case 0:
		return "" // it is a dead end
	case 1:
		return "asks a question but has only one exit"
	}
	seen := map[string]bool{}
	for _, answer := range list {
		switch {
		case answer == "":
			return "has an exit without an answer"
		case seen[answer]:
			return fmt.Sprintf("has two exits with the answer %q", answer)
		}
		seen[answer] = true
	}
	return ""
}
