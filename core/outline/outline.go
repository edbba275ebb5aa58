// Package outline puts a sheet into words, for those who do not see it and for whatever writes the work
// down: every step with its number, kind and lane, and where it leads.
package outline

import (
	"fmt"
	"strings"

	"plaintracer/core/flow"
	"plaintracer/core/geometry"
	"plaintracer/core/links"
	"plaintracer/core/model"
	"plaintracer/core/numbering"
	"plaintracer/core/symbols"
)

// Step is a step as it is read out: what it is, and where it leads.
type Step struct {
	ID    string `json:"id"`
	Text  string `json:"text"`
	Exits string `json:"exits"`
}

// Of lists a sheet for those who do not see it: where its flow begins and what follows, in the order in which it is
// read, then all other symbols, each with its exits.
func Of(m *model.Map, g *flow.Graph, s *model.Sheet) []Step {
	numbers := numbering.Labels(g)
	listed := map[string]bool{}
	var list []*model.Symbol
	for _, card := range s.Tree().Order() { // superiors before those under them
		list = append(list, card)
		listed[card.ID] = true
	}
	for _, p := range s.Pools { // stage by stage
		if p.Journey {
			for _, cell := range s.Cells(p) {
				list = append(list, cell)
				listed[cell.ID] = true
			}
		}
	}
	for _, n := range numbering.Reading(g) {
		if n.Sheet == s && !listed[n.Symbol.ID] && !n.Symbol.Kind.IsAside() {
			list = append(list, n.Symbol)
			listed[n.Symbol.ID] = true
		}
	}
	for _, sym := range s.Symbols {
		if !listed[sym.ID] {
			list = append(list, sym)
		}
	}
	out := make([]Step, 0, len(list))
	for _, sym := range list {
		exits := ""
		switch {
		case s.IsCell(sym): // it leads on in the order of the stages
		case s.IsCard(sym):
			exits = Dotted(s, sym)
		default:
			exits = Exits(m, g, sym, numbers)
		}
		out = append(out, Step{sym.ID, Symbol(m, s, sym, numbers), exits})
	}
	return out
}

// Symbol says what a symbol is: its number, text, kind and lane, and the fields that the map shows.
func Symbol(m *model.Map, s *model.Sheet, sym *model.Symbol, numbers map[string]string) string {
	text := strings.ReplaceAll(sym.Text, "\n", " ")
	if s.Seated(sym) {
		text = strings.ReplaceAll(sym.Text, "\n", ", ")
	}
	if text == "" {
		text = "nothing written yet"
	}
	if n := numbers[sym.ID]; n != "" {
		text = n + ". " + text
	}
	if name := strings.ToLower(symbols.Of(sym.Kind).Name); sym.Kind.IsReference() {
		text = name + " " + text
	} else if !s.IsCell(sym) { // what it is there says its row
		text += ", " + name
	}
	if s.IsCard(sym) {
		text += standing(s, sym)
	}
	if s.IsCell(sym) {
		text += inCell(s, sym)
	} else if lane := s.LaneOf(sym); lane != nil {
		text += ", lane " + lane.Name
	} else if sym.Owner != "" {
		text += ", done by " + sym.Owner
	}
	if stage := s.StageOf(sym); stage != nil && !s.IsCell(sym) {
		text += ", stage " + stage.Name
	}
	for _, id := range m.Shown { // what stands under it
		if f := m.Field(id); f != nil && sym.Value(id) != "" {
			text += ", " + f.Name + " " + m.Show(f, sym)
		}
	}
	if list := links.Of(m, sym); len(list) > 0 {
		var titles []string
		for i := range list {
			titles = append(titles, links.Title(m, &list[i], numbers))
		}
		text += ", links to " + strings.Join(titles, " and ")
	}
	if to := m.DetailOf(sym); to != nil {
		text += ", opens into the sheet " + to.Name
	}
	if sym.Locked {
		text += ", locked"
	}
	return text
}

// inCell says in which cell of a journey a symbol stands, and what is drawn of it there.
func inCell(s *model.Sheet, sym *model.Symbol) string {
	text := ", in " + s.CellName(sym)
	if p, _ := s.RowOf(sym.Row); p != nil && len(s.Pools) > 1 && p.Title != "" {
		text += ", journey of " + model.Flat(p.Title)
	}
	if sym.Kind == model.MoodCell {
		text += fmt.Sprintf(", mood %+d of %d", sym.Mood, model.MostMood)
	}
	if sym.Kind == model.ContactCell {
		for _, sign := range model.Signs {
			if sign.Name == sym.SignOf() {
				text += ", " + strings.ToLower(sign.Title)
			}
		}
	}
	if sym.Owner != "" {
		text += ", done by " + sym.Owner
	}
	if s.Hides(sym.ID) {
		text += ", folded"
	}
	return text
}

// standing says where a card stands in its hierarchy.
func standing(s *model.Sheet, sym *model.Symbol) string {
	tree := s.Tree()
	i := tree.Place(sym.ID)
	if i < 0 {
		return ""
	}
	text, deepest := "", 0
	if n := tree.Seen(sym.ID).Number; n != "" {
		text = ", number " + n
	}
	for _, level := range tree.Level {
		deepest = max(deepest, level)
	}
	if sym.Post != model.Filled {
		text += ", " + string(sym.Post)
	}
	if sym.Assistant {
		text += ", assistant"
	}
	switch n := len(tree.Under[i]); n {
	case 0:
	case 1:
		text += ", 1 below"
	default:
		text += fmt.Sprintf(", %d below", n)
	}
	text += fmt.Sprintf(", level %d of %d", tree.Level[i]+1, deepest+1)
	if up := tree.Superior(sym.ID); up != nil {
		text += ", under " + up.CardTitle()
		if sym.Via != "" {
			text += " by the line " + model.Flat(sym.Via)
		}
	}
	if tree.Hidden[i] {
		text += ", in a folded branch"
	} else if sym.Folded {
		text += ", folded"
	}
	return text
}

// Exits says where the flow goes on from a symbol.
func Exits(m *model.Map, g *flow.Graph, sym *model.Symbol, numbers map[string]string) string {
	var out []string
	for _, x := range g.Exits(sym.ID) {
		c, target := x.Connector, x.To.Symbol
		text := strings.ReplaceAll(target.Text, "\n", " ")
		if n := numbers[target.ID]; n != "" {
			text = n + ". " + text
		} else if text == "" {
			text = strings.ToLower(symbols.Of(target.Kind).Name)
		}
		if c.Text != "" {
			text = c.Text + ": " + text
		}
		out = append(out, text)
	}
	var over []string
	for _, p := range g.Passages(sym) {
		over = append(over, p.Words(numbers))
	}
	if len(out) > 0 {
		over = append(over, "leads to "+strings.Join(out, "; "))
	}
	switch {
	case len(over) > 0:
		return strings.Join(over, "; ")
	case sym.Kind.IsAside() || sym.Kind.IsEnd():
		return ""
	}
	return "leads nowhere yet"
}

// Dotted says by the dotted lines to whom else a card reports, and who else reports to it.
func Dotted(s *model.Sheet, sym *model.Symbol) string {
	var up, down []string
	for _, c := range s.Connectors {
		if from := s.Symbol(c.From.Symbol); from != nil && c.To.Symbol == sym.ID {
			up = append(up, from.CardTitle())
		}
		if to := s.Symbol(c.To.Symbol); to != nil && c.From.Symbol == sym.ID {
			down = append(down, to.CardTitle())
		}
	}
	var words []string
	if len(up) > 0 {
		words = append(words, "also under "+strings.Join(up, " and "))
	}
	if len(down) > 0 {
		words = append(words, "also above "+strings.Join(down, " and "))
	}
	return strings.Join(words, "; ")
}

// Stage is a part of the way to a sheet that tells a step in detail.
type Stage struct {
	// Text is what the sheet at which the way begins is called, or a step with its number.
	Text string `json:"text"`
	// Symbol is the id of the step, on the sheet that Text tells in detail or names, through which the way goes on;
	// empty where it ends. Sheet is that of the step.
	Symbol string `json:"symbol,omitempty"`
	Sheet  string `json:"sheet,omitempty"`
}

// Way returns the way to a sheet through the steps that open into each other, with the numbers that are shown; nil
// where it is no detail.
func Way(m *model.Map, s *model.Sheet, numbers map[string]string) []Stage {
	var way []Stage
	text := ""
	for i, h := range m.WayTo(s) {
		if i == 0 {
			text = h.Sheet.Name
		}
		way = append(way, Stage{text, h.Symbol.ID, h.Sheet.ID})
		text = model.Flat(h.Symbol.Text)
		if n := numbers[h.Symbol.ID]; n != "" {
			text = n + " " + text
		}
	}
	if way != nil {
		way = append(way, Stage{Text: text})
	}
	return way
}

// Stop is a stop as a page lists it, with what is seen in pixels of the sheet.
type Stop struct {
	ID    string     `json:"id"`
	Sheet string     `json:"sheet"`
	Title string     `json:"title"`
	Words string     `json:"words"`
	Seen  [4]float64 `json:"seen"`
}

// Stops lists the stops of a map, on sheets that it still has.
func Stops(m *model.Map) []Stop {
	var out []Stop
	for _, s := range m.StopsShown() {
		tab := Stop{s.ID, s.Sheet, s.Title, s.Words, [4]float64{}}
		for i, n := range [...]int{s.X, s.Y, s.W, s.H} {
			tab.Seen[i] = float64(n) / geometry.Px
		}
		out = append(out, tab)
	}
	return out
}
