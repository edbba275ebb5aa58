package editor

import (
	"fmt"
	"strings"

	"plaintracer/core/diagram"
	"plaintracer/core/numbering"
	"plaintracer/core/symbols"
)

// OutlineStep is a step as it is read out: what it is, and where it leads.
type OutlineStep struct {
	ID    string `json:"id"`
	Text  string `json:"text"`
	Exits string `json:"exits"`
}

// Outline lists the shown sheet for those who do not see it: the steps in the
// order of the flow, then all other symbols, each with its exits.
func (e *Editor) Outline() []OutlineStep {
	s := e.Sheet()
	numbers := map[string]int{}
	var list []*diagram.Symbol
	for _, step := range numbering.Number(e.m) {
		if step.Sheet == s {
			list = append(list, step.Symbol)
		}
		numbers[step.Symbol.ID] = step.Number
	}
	for _, sym := range s.Symbols {
		if numbers[sym.ID] == 0 {
			list = append(list, sym)
		}
	}
	out := make([]OutlineStep, 0, len(list))
	for _, sym := range list {
		out = append(out, OutlineStep{sym.ID, e.spoken(s, sym, numbers), e.spokenExits(s, sym, numbers)})
	}
	return out
}

// spoken says what a symbol is: its number, text, kind and lane.
func (e *Editor) spoken(s *diagram.Sheet, sym *diagram.Symbol, numbers map[string]int) string {
	text := strings.ReplaceAll(sym.Text, "\n", " ")
	if text == "" {
		text = "nothing written yet"
	}
	if n := numbers[sym.ID]; n > 0 {
		text = fmt.Sprintf("%d. %s", n, text)
	}
	text += ", " + strings.ToLower(symbols.Of(sym.Kind).Name)
	if lane := s.LaneOf(sym); lane != nil {
		text += ", lane " + lane.Name
	} else if sym.Owner != "" {
		text += ", done by " + sym.Owner
	}
	if stage := s.StageOf(sym); stage != nil {
		text += ", stage " + stage.Name
	}
	if sym.Locked {
		text += ", locked"
	}
	return text
}

// spokenExits says where the flow goes on from a symbol.
func (e *Editor) spokenExits(s *diagram.Sheet, sym *diagram.Symbol, numbers map[string]int) string {
	var out []string
	for _, x := range e.exits(sym.ID) {
		c, target := x.Connector, x.To.Symbol
		text := strings.ReplaceAll(target.Text, "\n", " ")
		if n := numbers[target.ID]; n > 0 {
			text = fmt.Sprintf("%d. %s", n, text)
		} else if text == "" {
			text = strings.ToLower(symbols.Of(target.Kind).Name)
		}
		if c.Text != "" {
			text = c.Text + ": " + text
		}
		out = append(out, text)
	}
	if where, partner := e.m.Partner(sym); partner != nil {
		out = append(out, "goes on at "+partner.Text+" on "+where.Name)
	}
	switch {
	case len(out) > 0:
		return "leads to " + strings.Join(out, "; ")
	case sym.Kind.IsAside() || sym.Kind.IsEnd():
		return ""
	}
	return "leads nowhere yet"
}

// Spoken says what is selected, for those who do not see it.
func (e *Editor) Spoken() string {
	s := e.Sheet()
	switch sym := e.one(); {
	case sym != nil:
		numbers := map[string]int{}
		for id, n := range e.facts.Numbers {
			numbers[id] = n
		}
		text := e.spoken(s, sym, numbers)
		if exits := e.spokenExits(s, sym, numbers); exits != "" {
			text += "; " + exits
		}
		return text
	case e.connector() != nil:
		c := e.connector()
		from, to := s.Leads(c)
		name := func(id string) string {
			if at := s.Symbol(id); at != nil && at.Text != "" {
				return strings.ReplaceAll(at.Text, "\n", " ")
			} else if at != nil {
				return strings.ToLower(symbols.Of(at.Kind).Name)
			}
			return "nothing"
		}
		text := "connector from " + name(from) + " to " + name(to)
		if c.Text != "" {
			text += ", " + c.Text
		}
		return text
	case e.lane != "":
		if pool, i := e.laneSelected(); pool != nil {
			return "lane " + pool.Lanes[i].Name
		}
		if pool, i := e.stageSelected(); pool != nil {
			return "stage " + pool.Stages[i].Name
		}
	case len(e.sel) > 1:
		return fmt.Sprintf("%d items selected", len(e.sel))
	}
	return ""
}
