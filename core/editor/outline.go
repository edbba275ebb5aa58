package editor

import (
	"fmt"
	"strings"

	"plaintracer/core/outline"
	"plaintracer/core/symbols"
)

// Outline lists the shown sheet in words.
func (e *Selecting) Outline() []outline.Step { return outline.Of(e.m, e.flow(), e.Sheet()) }

// Spoken says what is selected, for those who do not see it.
func (e *Selecting) Spoken() string {
	s := e.Sheet()
	switch sym := e.one(); {
	case sym != nil:
		text := outline.Symbol(e.m, s, sym, e.facts.Numbers)
		if exits := outline.Exits(e.m, e.flow(), sym, e.facts.Numbers); exits != "" {
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
