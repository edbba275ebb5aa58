package desk

import (
	"fmt"
	"strings"

	"plaintracer/core/model"
	"plaintracer/core/outline"
	"plaintracer/core/symbols"
)

// Outline lists the shown sheet in words.
func (e *Selecting) Outline() []outline.Step { return outline.Of(e.M, e.Flow(), e.Sheet()) }

// Described says what is selected, for those who do not see it.
func (e *Selecting) Described() string {
	s := e.Sheet()
	if e.Link.On {
		return e.Lines.Aimed()
	}
	switch sym := e.One(); {
	case sym != nil:
		text := outline.Symbol(e.M, s, sym, e.Facts.Numbers)
		if s.IsCell(sym) {
			return text
		}
		if s.IsCard(sym) {
			if also := outline.Dotted(s, sym); also != "" {
				text += "; " + also
			}
		} else if exits := outline.Exits(e.M, e.Flow(), sym, e.Facts.Numbers); exits != "" {
			text += "; " + exits
		}
		return text
	case e.Connector() != nil:
		c := e.Connector()
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
		return text + e.place()
	case e.Lane != "":
		if pool, i := e.LaneSelected(); pool != nil && pool.Journey {
			return "row " + pool.Lanes[i].Called() + ", " + pool.Lanes[i].Row.Row().Hint
		} else if pool != nil {
			return "lane " + pool.Lanes[i].Name + e.place()
		}
		if pool, i := e.StageSelected(); pool != nil {
			return "stage " + pool.Stages[i].Name + e.place()
		}
	case len(e.Sel) == 0:
		if at, p := e.SpotNow(); p != nil {
			return "empty cell, " + p.Lanes[p.LaneIndex(at.Row)].Called() + ", " +
				model.Flat(p.Stages[p.StageIndex(at.Stage)].Name)
		}
	case len(e.Sel) > 1:
		return fmt.Sprintf("%d items selected", len(e.Sel))
	}
	return ""
}
