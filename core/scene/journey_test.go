package scene_test

import (
	"fmt"
	"slices"
	"strings"
	"testing"

	"plaintracer/core/geometry"
	"plaintracer/core/model"
	"plaintracer/core/scene"
	_ "plaintracer/core/typeset" // knows how high texts are
)

// The heads of rows and stages grow with their names, and a stage with the points of its curve, so that nothing is cut
// and no point lies on another one.
func TestHeadsAndStagesOfAJourneyGrow(t *testing.T) {
	names := []string{"Short", "What a resident does who waits for the crew and hears nothing for two weeks",
		"Two\nlines", ""}
	const points = 11
	m := model.New("Lighting", model.Rightwards, "A4", true)
	s := m.Sheets[0]
	s.Kind = model.JourneySheet
	p := &model.Pool{ID: "p", Title: "Alva", W: model.MinPool, Journey: true, Lanes: []model.Lane{
		{ID: "mood", Name: "Mood", H: model.MinLane, Row: model.MoodRow},
		{ID: "said", Name: "What is thought and said while nothing at all happens in the street", H: model.MinLane,
			Row: model.WordsRow},
	}}
	for i, name := range names {
		p.Stages = append(p.Stages, model.Stage{ID: fmt.Sprint("s", i), Name: name, L: model.MinStage})
	}
	s.Pools = []*model.Pool{p}
	for i := range points {
		s.Symbols = append(s.Symbols, &model.Symbol{ID: fmt.Sprint("m", i), Kind: model.MoodCell, Box: model.CellBox,
			Seat: model.Seat{Rank: i}, Cell: model.Cell{Row: "mood", Stage: "s0"}})
	}
	m.SettleAll()

	var written strings.Builder
	for _, text := range scene.ViewOf(m, s).Pool(p).Texts {
		written.WriteString(text.Text)
	}
	bare := func(text string) string { return strings.Join(strings.Fields(text), "") }
	for _, name := range slices.Concat(names, []string{p.Lanes[1].Name}) {
		if !strings.Contains(bare(written.String()), bare(name)) {
			t.Errorf("%q is cut: %s", name, written.String())
		}
	}
	dots := s.Board().Curve("mood")
	if len(dots) != points {
		t.Fatalf("%d points are drawn", len(dots))
	}
	for i := range dots[1:] {
		if dots[i+1].X-dots[i].X < model.MoodDot {
			t.Errorf("the points %d and %d are %d apart", i, i+1, (dots[i+1].X-dots[i].X)/geometry.Px)
		}
	}
	if _, to := p.Span(0); dots[points-1].X > to {
		t.Errorf("a point at %d stands beyond its stage, which ends at %d", dots[points-1].X, to)
	}
}
