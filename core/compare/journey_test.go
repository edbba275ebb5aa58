package compare_test

import (
	"fmt"
	"slices"
	"testing"

	"plaintracer/core/compare"
	"plaintracer/core/geometry"
	"plaintracer/core/model"
)

// What changed in a journey is told by rows, stages and moods; where things stand follows and is not told.
func TestWhatChangedInAJourney(t *testing.T) {
	m := model.New("Light", model.Rightwards, "A4", true)
	s := m.Sheets[0]
	s.Kind = model.JourneySheet
	s.Pools = []*model.Pool{{ID: "p", Title: "Alva", W: model.MinPool, Journey: true,
		Lanes: []model.Lane{{ID: "r", Name: "Contact points", H: model.MinLane, Row: model.ContactsRow},
			{ID: "q", Name: "Mood", H: model.MinLane, Row: model.MoodRow}},
		Stages: []model.Stage{{ID: "a", Name: "Darkness", L: model.JourneyStage},
			{ID: "b", Name: "Waiting", L: model.JourneyStage}}}}
	s.Symbols = []*model.Symbol{
		{ID: "c", Kind: model.ContactCell, Box: model.CellBox, Text: "Calls", Cell: model.Cell{Row: "r", Stage: "a"}},
		{ID: "d", Kind: model.MoodCell, Box: model.CellBox, Text: "Dark", Cell: model.Cell{Row: "q", Stage: "a"}}}
	m.SettleAll()
	after := m.Clone()
	to := after.Sheets[0]
	to.Symbols[0].Stage, to.Symbols[0].Sign = "b", "mail"
	to.Symbols[1].Mood = -40
	to.Pools[0].Words = "Sings."
	to.Pools[0].Lanes[0].Name = "Where we meet"
	after.SettleAll()
	r := compare.Maps(m, after)
	var got []string
	for i := range r.Changes {
		got = append(got, r.Sentence(&r.Changes[i]))
	}
	want := []string{"Journey “Alva” says of the person “Sings.”.",
		"Row “Where we meet” is called “Where we meet” instead of “Contact points”.",
		"Contact point “Calls” moved to the stage “Waiting” instead of “Darkness”.",
		"Contact point “Calls” has the sign “mail” instead of “phone”.", "Mood “Dark” has the mood “-40” instead of “0”."}
	if !slices.Equal(got, want) {
		t.Errorf("%q, want %q", got, want)
	}
	if len(r.Page) > 0 {
		t.Errorf("told as changed on the page alone: %v", r.Page)
	}
}

// A lane or stage that is called otherwise has not moved its steps: that is told once.
func TestARenamedLaneMovesNothing(t *testing.T) {
	m := model.New("Light", model.Rightwards, "A4", true)
	m.Sheets[0].Pools = []*model.Pool{{ID: "p", W: 90000, Lanes: []model.Lane{{ID: "l", Name: "Crew", H: 20000}},
		Stages: []model.Stage{{ID: "s", Name: "Before", L: 32000}}}}
	for i := range 3 {
		m.Sheets[0].Symbols = append(m.Sheets[0].Symbols, &model.Symbol{ID: fmt.Sprint("a", i), Kind: model.Process,
			Text: "Step", Box: geometry.Box{X: 10000 + i*20000, Y: 5000, W: 14000, H: 7000}})
	}
	after := m.Clone()
	after.Sheets[0].Pools[0].Lanes[0].Name, after.Sheets[0].Pools[0].Stages[0].Name = "Field crew", "Earlier"
	r := compare.Maps(m, after)
	if len(r.Changes) != 2 || r.Changes[0].Thing.What != compare.Lane || r.Changes[1].Thing.What != compare.Stage {
		for i := range r.Changes {
			t.Error(r.Sentence(&r.Changes[i]))
		}
	}
}
