package findings

import (
	"fmt"
	"slices"

	"plaintracer/core/model"
)

// cellChecks are the checks that hold for what stands in the cells of journeys, too, where all places follow.
var cellChecks = []string{"dead link"}

// journeyOntoPaper are the ways to bring a journey that lies beyond the edge back onto paper.
var journeyOntoPaper = []Fix{{"paper-larger", "", "Take a larger paper"}}

// journeys checks what is to be checked of the journeys of a sheet: they are no flows.
func journeys(m *model.Map, s *model.Sheet) (out []Finding) {
	if s.Kind != model.JourneySheet {
		return nil
	}
	add := func(id, text string) { out = append(out, Finding{Sheet: s.ID, Symbol: id, Text: text}) }
	for _, p := range s.Pools {
		if !s.Page().Holds(p.Box()) {
			out = append(out, Finding{Sheet: s.ID, Symbol: p.ID, Text: "lies beyond the edge of the page",
				Fixes: journeyOntoPaper})
		}
		cells := s.Cells(p)
		filled := make([]bool, len(p.Stages))
		for _, cell := range cells {
			from := p.StageIndex(cell.Stage)
			for k := from; k >= 0 && k < min(from+max(cell.Span, 1), len(p.Stages)); k++ {
				filled[k] = true
			}
		}
		if len(cells) > 0 {
			for k, st := range p.Stages {
				if !filled[k] {
					add(st.ID, "is an empty stage: say what happens there, or remove it")
				}
			}
		}
		for _, cell := range cells {
			if cell.Kind == model.ContactCell && cell.Text != "" && !owned(m, cell) {
				add(cell.ID, "is a contact point that nobody owns: set its owner, or let it lead to a step")
			}
		}
		for i := range p.Lanes {
			if p.Lanes[i].Row == model.MoodRow {
				out = append(out, lowest(s, p, &p.Lanes[i], cells)...)
			}
		}
	}
	return out
}

// owned reports whether somebody owns a contact point: who is named, or does the step to which it leads.
func owned(m *model.Map, cell *model.Symbol) bool {
	if cell.Owner != "" {
		return true
	}
	step := m.StepOf(cell)
	return step != nil && m.SheetOf(step.ID).OwnerOf(step) != ""
}

// lowest finds a curve that says nothing where it is lowest.
func lowest(s *model.Sheet, p *model.Pool, lane *model.Lane, cells []*model.Symbol) []Finding {
	points := slices.DeleteFunc(slices.Clone(cells), func(c *model.Symbol) bool { return c.Row != lane.ID })
	if len(points) < 2 {
		return nil
	}
	low := points[0]
	for _, c := range points {
		if c.Mood < low.Mood || c.Mood == low.Mood && low.Text == "" { // one of several that says why will do
			low = c
		}
	}
	if low.Text != "" || low.Mood == points[0].Mood && !slices.ContainsFunc(points, func(c *model.Symbol) bool {
		return c.Mood != low.Mood
	}) {
		return nil
	}
	return []Finding{{Sheet: s.ID, Symbol: low.ID,
		Text: fmt.Sprintf("is the lowest point of “%.40s” and says nothing: why is it so low?", lane.Called())}}
}
