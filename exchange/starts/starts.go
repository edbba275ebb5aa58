// Package starts holds the maps that others are begun from. Each is a table of steps or of people in tables/, which is
// laid out for the direction and paper that somebody chooses, so that it is tidy on any of them.
package starts

import (
	"embed"
	"errors"
	"fmt"
	"slices"

	"plaintracer/core/compose"
	"plaintracer/core/edit"
	"plaintracer/core/hierarchy"
	"plaintracer/core/layout"
	"plaintracer/core/model"
	"plaintracer/exchange/registerfile"
	"plaintracer/exchange/steptable"
)

//go:embed tables/*.csv
var tables embed.FS

// Start is a map to begin from.
type Start struct {
	// Name is that of its table, Title that of the map it becomes; About says what for in a line.
	Name, Title, About string
	// Lanes says that its steps stand in lanes, Cards that it is a hierarchy, whose cards stand as Chart says.
	Lanes, Cards bool
	// Journey says that it is a journey.
	Journey bool
	Chart   model.Chart
}

// All are the starting points, in the order in which they are shown.
var All = []Start{
	{Name: "approval", Title: "Approval", About: "A request that goes back until it is complete", Lanes: true},
	{Name: "service-request", Title: "Request through a service desk", About: "Logged, solved at once or passed on, closed", Lanes: true},
	{Name: "three-quotes", Title: "Purchase with three quotes", About: "From the need to the paid invoice",
		Lanes: true},
	{Name: "joining", Title: "A colleague joins", About: "From the contract to the talk after four weeks", Lanes: true},
	{Name: "leaving", Title: "A colleague leaves", About: "Handing over, keys and accounts", Lanes: true},
	{Name: "incident", Title: "Incident", About: "Safe first, repaired, its cause found", Lanes: true},
	{Name: "complaint", Title: "Complaint", About: "Looked into, answered, and learnt from", Lanes: true},
	{Name: "hand-over", Title: "Hand-over between two teams", About: "Short, with a checklist", Lanes: true},
	{Name: "monthly-closing", Title: "Monthly closing", About: "Reminders, balances and a signed report", Lanes: true},
	{Name: "form-check", Title: "Form with checks", About: "A plain flowchart of three checks"},
	{Name: "project-start", Title: "Start of a project", About: "From an idea to the first meeting", Lanes: true},
	{Name: "change-request", Title: "Change request", About: "Decided by a board, tested, put into use", Lanes: true},
	{Name: "two-rows", Title: "A flow in rows", About: "Many steps after each other"},
	{Name: "people-line", Title: "Department", About: "Who reports to whom, in one line", Cards: true,
		Chart: model.Chart{Last: hierarchy.Right, Counted: true}},
	{Name: "people-matrix", Title: "Matrix", About: "One line to the section, a dotted one to the project",
		Cards: true},
	{Name: "people-project", Title: "Project", About: "Steering group, lead and parts", Cards: true,
		Chart: model.Chart{Last: hierarchy.List}},
	{Name: "people-committee", Title: "Committee", About: "Chair, members and guests", Cards: true},
	{Name: "people-sites", Title: "Site by site", About: "One column for each place of work", Cards: true,
		Chart: model.Chart{Last: hierarchy.Right}},
	{Name: "products", Title: "Family of products", About: "From the whole to its parts, across", Cards: true,
		Chart: model.Chart{Below: hierarchy.Across}},
	{Name: "journey-service", Title: "Journey through a service", About: "What a person lives through, stage by stage",
		Journey: true},
	{Name: "journey-joining", Title: "Journey of a new colleague", About: "From the contract to three months later",
		Journey: true},
	{Name: "journey-two", Title: "Two journeys compared", About: "By web and in person, below each other",
		Journey: true},
}

// Named returns the starting point of a name; nil for none.
func Named(name string) *Start {
	i := slices.IndexFunc(All, func(s Start) bool { return s.Name == name })
	if i < 0 {
		return nil
	}
	return &All[i]
}

// ErrLong is returned where a layout was stopped.
var ErrLong = errors.New("it takes too long to lay out; spread it over several sheets")

// Paper is what a map is begun on.
type Paper struct {
	Name   string // of model.Papers
	Across bool
}

// Make returns the map of a starting point, laid out on paper. Steps that do not fit are given the next larger paper.
func (s *Start) Make(title string, direction model.Direction, paper Paper, stopped func() bool) (*model.Map, error) {
	data, err := tables.ReadFile("tables/" + s.Name + ".csv")
	if err != nil {
		return nil, err
	}
	m, err := s.read(data, title, direction)
	if err != nil {
		return nil, err
	}
	m.Sheets[0].Paper, m.Sheets[0].Across = paper.Name, paper.Across
	if err := OnPaper(m, Unless(stopped)); err != nil {
		return nil, err
	}
	return m, m.Validate()
}

// read reads the table of a starting point.
func (s *Start) read(data []byte, title string, direction model.Direction) (*model.Map, error) {
	if !s.Cards && !s.Journey {
		return steptable.Read(data, title, direction)
	}
	table, err := registerfile.Read(s.Name+".csv", data, &model.Head{})
	if err != nil {
		return nil, err
	}
	if s.Journey {
		return compose.JourneyMap(*table, title)
	}
	m, err := compose.PeopleMap(*table, title)
	if err != nil {
		return nil, err
	}
	m.Sheets[0].Chart = s.Chart
	return m, nil
}

// Unless makes the answer to how far a layout has come of what asks for its end.
func Unless(stopped func() bool) func(done, of int) bool {
	return func(int, int) bool { return !stopped() }
}

// OnPaper lays out all sheets of a new map, each on the smallest paper, from its own up, that holds it; on the largest
// where none does. Tell is as in LayOut.
func OnPaper(m *model.Map, tell func(done, of int) bool) error {
	for _, s := range m.Sheets {
		for {
			if err := layOut(m, s, tell); err != nil {
				return err
			}
			if s.Kind != model.FlowSheet && !s.Area().Holds(s.Drawn()) { // it may fit the other way round
				s.Across = !s.Across
				if m.Settle(s); !s.Area().Holds(s.Drawn()) {
					s.Across = !s.Across
				}
			}
			if larger[s.Paper] == "" || s.Area().Holds(s.Drawn()) {
				break
			}
			s.Paper = larger[s.Paper]
		}
	}
	return nil
}

// larger is the paper that is taken where one is too small.
var larger = map[string]string{"A5": "A4", "A4": "A3", "A3": "A2", "Letter": "Tabloid", "Legal": "Tabloid",
	"Tabloid": "A2", "Slide": "A3"}

// LayOut lays out all sheets of a map. Tell hears how far the work on a sheet has come, and says whether to go on.
func LayOut(m *model.Map, tell func(done, of int) bool) error {
	for _, s := range m.Sheets {
		if err := layOut(m, s, tell); err != nil {
			return err
		}
	}
	return nil
}

func layOut(m *model.Map, s *model.Sheet, tell func(done, of int) bool) error {
	if s.Kind != model.FlowSheet {
		m.Settle(s)
		return nil
	}
	ended := false
	plan := layout.Find(m, s, layout.Options{Down: m.Direction == model.Downwards, Above: m.Above,
		Tell: func(done, of int) bool {
			ended = ended || !tell(done, of)
			return !ended
		}})
	if ended {
		return fmt.Errorf("sheet %s, with %d steps and %d connectors: %w", s.Name, len(s.Symbols), len(s.Connectors),
			ErrLong)
	}
	if plan == nil {
		return nil
	}
	_, err := edit.Apply(m, plan)
	return err
}
