package edit_test

import (
	"fmt"
	"math/rand"
	"slices"
	"strings"
	"testing"

	"plaintracer/core/edit"
	"plaintracer/core/geometry"
	"plaintracer/core/model"
	_ "plaintracer/core/typeset" // knows how high texts are
)

// lived is a map whose second sheet holds two journeys of four stages with a row of every type, and a field that
// counts.
func lived(t testing.TB) (*model.Map, *model.Sheet) {
	t.Helper()
	m := model.New("Lighting", model.Rightwards, "A4", true)
	field := model.Field{ID: "f", Name: "Time", Type: "duration"}
	if _, err := edit.Apply(m, &edit.AddField{Field: field}); err != nil {
		t.Fatal(err)
	}
	s := model.Sheet{SheetHead: model.SheetHead{ID: "lived", Name: "Journey", Paper: "A4", Kind: model.JourneySheet},
		Pools: []*model.Pool{}, Symbols: []*model.Symbol{}, Connectors: []*model.Connector{}}
	for j := range 2 {
		p := &model.Pool{ID: fmt.Sprint("p", j), Title: "Alva", W: model.MinPool, Journey: true}
		for i, k := range model.RowKinds {
			p.Lanes = append(p.Lanes, model.Lane{ID: fmt.Sprintf("r%d-%d", j, i), Name: k.Name, H: model.MinLane,
				Row: k.Type})
		}
		p.Lanes[len(p.Lanes)-1].Field = "f"
		for i := range 4 {
			p.Stages = append(p.Stages, model.Stage{ID: fmt.Sprintf("s%d-%d", j, i), Name: fmt.Sprint("Stage ", i),
				L: model.JourneyStage})
		}
		s.Pools = append(s.Pools, p)
	}
	if _, err := edit.Apply(m, &edit.AddSheet{At: 1, Sheet: s}); err != nil {
		t.Fatal(err)
	}
	return m, m.Sheet("lived")
}

// standing reports what stands where it should not: outside its cell, on something else, or in a journey that lies on
// another one.
func standing(t *testing.T, s *model.Sheet) {
	t.Helper()
	var seen []*model.Symbol
	for _, sym := range s.Symbols {
		if !s.IsCell(sym) || s.Hides(sym.ID) {
			continue
		}
		p, i := s.RowOf(sym.Row)
		k := p.StageIndex(sym.Stage)
		cell := p.CellAt(i, k)
		last := min(k+max(sym.Span, 1), len(p.Stages)) - 1
		_, right := p.Span(last)
		if cell.W = right - cell.X; !cell.Holds(sym.Box) {
			t.Errorf("%s at %v stands beyond its cell %v", sym.ID, sym.Box, cell)
		}
		for _, other := range seen {
			if other.Meets(sym.Box) {
				t.Errorf("%s at %v lies on %s at %v", sym.ID, sym.Box, other.ID, other.Box)
			}
		}
		seen = append(seen, sym)
	}
	for i, p := range s.Pools {
		at := p.Y + p.StageHead()
		for k := range p.Lanes {
			if b := p.LaneBox(k); b.Y != at {
				t.Errorf("row %d begins at %d, not where the one above ends, at %d", k, b.Y, at)
			}
			at += p.Lanes[k].H
		}
		if i > 0 && p.Box().Meets(s.Pools[i-1].Box()) {
			t.Errorf("the journeys %d and %d lie on each other", i-1, i)
		}
	}
}

// Whatever is done to journeys, everything stands in its cell and on nothing else, what was done can be taken back to
// the byte, and a second map that is told what was done becomes the same, as does one that is read from a file.
func TestEverythingStandsInItsCell(t *testing.T) {
	words := strings.Fields("a resident whose lamp is dark waits for an incomprehensibly long time and hears nothing")
	seeds := 60
	if testing.Short() {
		seeds = 20
	}
	for seed := range seeds {
		r := rand.New(rand.NewSource(int64(seed)))
		m, s := lived(t)
		other := m.Clone()
		next, refused := 0, 0
		type done struct {
			before string
			undo   edit.Edit
		}
		var past []done
		text := func() string {
			var list []string
			for range r.Intn(14) {
				list = append(list, words[r.Intn(len(words))])
			}
			return strings.Join(list, []string{" ", " ", "\n"}[r.Intn(3)])
		}
		for range 90 {
			p := s.Pools[r.Intn(len(s.Pools))]
			row, stage := p.Lanes[r.Intn(len(p.Lanes))], p.Stages[r.Intn(len(p.Stages))]
			one := ""
			if len(s.Symbols) > 0 {
				one = s.Symbols[r.Intn(len(s.Symbols))].ID
			}
			next++
			var e edit.Edit
			switch r.Intn(16) {
			default:
				kind := row.Row.Row().Kind
				if kind == "" {
					continue
				}
				e = &edit.AddItems{Sheet: "lived", Symbols: []model.Symbol{{ID: fmt.Sprint("n", next), Kind: kind,
					Box: model.CellBox, Text: text(), Seat: model.Seat{Rank: r.Intn(1000)},
					Cell: model.Cell{Row: row.ID, Stage: stage.ID}}}}
			case 4, 5:
				seat := &edit.SeatCells{Sheet: "lived", IDs: []string{one}, Row: row.ID, Stage: stage.ID}
				if in := s.InCell(row.ID, stage.ID); len(in) > 0 && in[0].ID != one {
					seat.Before = in[0].ID
				}
				e = seat
			case 6:
				span := r.Intn(4)
				e = &edit.SetCells{Sheet: "lived", IDs: []string{one}, Span: &span}
			case 7:
				mood := r.Intn(2*model.MostMood+1) - model.MostMood
				e = &edit.SetCells{Sheet: "lived", IDs: []string{one}, Mood: &mood}
			case 8:
				e = &edit.SetText{Sheet: "lived", ID: one, Text: text()}
			case 9:
				fold := r.Intn(2) == 0
				e = &edit.SetLane{Sheet: "lived", Pool: p.ID, Lane: row.ID, Folded: &fold}
				if r.Intn(2) == 0 {
					e = &edit.SetStage{Sheet: "lived", Pool: p.ID, Stage: stage.ID, Folded: &fold}
				}
			case 10:
				kind := model.RowKinds[r.Intn(len(model.RowKinds))].Type
				e = &edit.SetLane{Sheet: "lived", Pool: p.ID, Lane: row.ID, Row: &kind}
			case 11:
				e = &edit.RemoveLane{Sheet: "lived", Pool: p.ID, Lane: row.ID}
				if r.Intn(2) == 0 {
					e = &edit.RemoveStage{Sheet: "lived", Pool: p.ID, Stage: stage.ID}
				}
			case 12:
				e = &edit.MoveLane{Sheet: "lived", Pool: p.ID, Lane: row.ID, To: r.Intn(len(p.Lanes))}
				if r.Intn(2) == 0 {
					e = &edit.MoveStage{Sheet: "lived", Pool: p.ID, Stage: stage.ID, To: r.Intn(len(p.Stages))}
				}
			case 13:
				e = &edit.InsertLane{Sheet: "lived", Pool: p.ID, At: r.Intn(len(p.Lanes) + 1), Lane: model.Lane{
					ID: fmt.Sprint("n", next), H: model.MinLane, Row: model.RowKinds[r.Intn(len(model.RowKinds))].Type}}
				if r.Intn(2) == 0 {
					e = &edit.InsertStage{Sheet: "lived", Pool: p.ID, At: r.Intn(len(p.Stages) + 1),
						Stage: model.Stage{ID: fmt.Sprint("n", next), L: model.JourneyStage}}
				}
			case 14:
				l := r.Intn(30000)
				e = &edit.SetStage{Sheet: "lived", Pool: p.ID, Stage: stage.ID, L: &l}
				if name := text(); r.Intn(2) == 0 {
					e = &edit.SetStage{Sheet: "lived", Pool: p.ID, Stage: stage.ID, Name: &name}
				}
			case 15: // what would move things on another sheet moves nothing here
				e = edit.Together("move", &edit.MoveItems{Sheet: "lived", IDs: []string{one},
					By: geometry.Point{X: 4000, Y: 300}}, &edit.OpenSpace{Sheet: "lived", At: 20000, By: 3000},
					&edit.SetValue{Sheet: "lived", ID: one, Field: "f", Text: "5 min"})
				if r.Intn(4) == 0 {
					e = &edit.RemoveItems{Sheet: "lived", IDs: []string{one}}
				}
			}
			before := bytesOf(t, m)
			trial, err := edit.Attempt(m, e)
			if err != nil {
				refused++
				if bytesOf(t, m) != before {
					t.Fatalf("seed %d: a refused edit left something behind: %v", seed, err)
				}
				continue
			}
			if err := m.Validate(); err != nil {
				t.Fatalf("seed %d: %T: %v", seed, e, err)
			}
			if standing(t, s); t.Failed() {
				t.Fatalf("seed %d: after %T %+v", seed, e, e)
			}
			if err := edit.Enact(other, trial.Changes()); err != nil {
				t.Fatal(err)
			}
			if other.SettleAll(); bytesOf(t, other) != bytesOf(t, m) {
				t.Fatalf("seed %d: told of %T, another map is not the same", seed, e)
			}
			if read, err := model.ReadMap([]byte(bytesOf(t, m))); err != nil || bytesOf(t, read) != bytesOf(t, m) {
				t.Fatalf("seed %d: read from a file it is another map (%v)", seed, err)
			}
			past = append(past, done{before, trial.Inverse()})
		}
		if refused > 60 || len(past) < 20 {
			t.Fatalf("seed %d: %d edits were refused, %d made", seed, refused, len(past))
		}
		for _, d := range slices.Backward(past) {
			if len(d.undo.(*edit.Revert).Changes) == 0 {
				continue
			}
			if _, err := edit.Apply(m, d.undo); err != nil {
				t.Fatalf("seed %d: taking back: %v", seed, err)
			}
			if got := bytesOf(t, m); got != d.before {
				t.Fatalf("seed %d: taken back it is\n%s\nand was\n%s", seed, got, d.before)
			}
		}
	}
}

// One text more in a journey of a hundred is one change: places are in none.
func TestPlacesOfCellsAreInNoChange(t *testing.T) {
	m, s := lived(t)
	add := func(id string) *edit.Transaction {
		t.Helper()
		trial, err := edit.Attempt(m, &edit.AddItems{Sheet: "lived", Symbols: []model.Symbol{{ID: id,
			Kind: model.MomentCell, Box: model.CellBox, Text: "Waits",
			Cell: model.Cell{Row: "r0-0", Stage: "s0-0"}}}})
		if err != nil {
			t.Fatal(err)
		}
		return trial
	}
	for i := range 100 {
		add(fmt.Sprint("a", i))
	}
	low := s.Pool("p1").Y
	if trial := add("b"); len(trial.Changes()) != 1 {
		t.Errorf("it takes %d changes: %v", len(trial.Changes()), trial.Changes())
	}
	if s.Pool("p1").Y <= low {
		t.Error("the journey below did not make way")
	}
}

// What goes with a row or a stage is what stands in it; what reaches over the stage from elsewhere gets narrower.
func TestRemovingRowsAndStages(t *testing.T) {
	m, s := lived(t)
	at := func(id, row, stage string, span int) model.Symbol {
		return model.Symbol{ID: id, Kind: model.MomentCell, Box: model.CellBox, Text: id,
			Cell: model.Cell{Row: row, Stage: stage, Span: span}}
	}
	add := &edit.AddItems{Sheet: "lived", Symbols: []model.Symbol{at("first", "r0-0", "s0-0", 0),
		at("wide", "r0-0", "s0-0", 3), at("on", "r0-0", "s0-1", 2), at("in", "r0-0", "s0-1", 0),
		at("other", "r0-4", "s0-1", 0)}}
	if _, err := edit.Apply(m, add); err != nil {
		t.Fatal(err)
	}
	if _, err := edit.Apply(m, &edit.RemoveStage{Sheet: "lived", Pool: "p0", Stage: "s0-1"}); err != nil {
		t.Fatal(err)
	}
	said := ""
	for _, sym := range s.Symbols {
		said += fmt.Sprintf("%s %s %d, ", sym.ID, sym.Stage, sym.Span)
	}
	if want := "first s0-0 0, wide s0-0 2, on s0-2 1, "; said != want {
		t.Errorf("%s; want %s", said, want)
	}
	if _, err := edit.Apply(m, &edit.RemoveLane{Sheet: "lived", Pool: "p0", Lane: "r0-0"}); err != nil {
		t.Fatal(err)
	}
	if len(s.Symbols) != 0 {
		t.Errorf("%d symbols are left without their row", len(s.Symbols))
	}
}

// Sums count values of cells, else those of the steps they lead to, each step once in a stage; and they follow when a
// value on another sheet changes.
func TestSumsOfAJourney(t *testing.T) {
	m, s := lived(t)
	do := func(e edit.Edit) {
		t.Helper()
		if _, err := edit.Apply(m, e); err != nil {
			t.Fatal(err)
		}
	}
	do(&edit.AddItems{Sheet: m.Sheets[0].ID, Symbols: []model.Symbol{{ID: "step", Kind: model.Process,
		Box: geometry.Box{W: 14000, H: 7000}, Text: "Log the report"}}})
	leads := []model.Hyperlink{{To: "#step"}}
	in := func(id, stage string, links []model.Hyperlink, value string) {
		sym := model.Symbol{ID: id, Kind: model.MomentCell, Box: model.CellBox, Text: id, Links: links,
			Cell: model.Cell{Row: "r0-0", Stage: stage}}
		do(&edit.AddItems{Sheet: "lived", Symbols: []model.Symbol{sym}})
		if value != "" {
			do(&edit.SetValue{Sheet: "lived", ID: id, Field: "f", Text: value})
		}
	}
	in("a", "s0-0", leads, "")
	in("b", "s0-0", leads, "")
	in("c", "s0-0", nil, "10 min")
	in("d", "s0-2", leads, "")
	do(&edit.SetValue{Sheet: m.Sheets[0].ID, ID: "step", Field: "f", Text: "5 min"})
	if got, want := s.Board().Sums("r0-7"), []string{"15 min", "", "5 min", "", "20 min"}; !slices.Equal(got, want) {
		t.Errorf("%q, want %q", got, want)
	}
}

// A row that somebody else has set something down in since stays when adding it is taken back.
func TestARowInUseStays(t *testing.T) {
	m, s := lived(t)
	undo, err := edit.Apply(m, &edit.InsertLane{Sheet: "lived", Pool: "p0", At: 1,
		Lane: model.Lane{ID: "new", H: model.MinLane, Row: model.StepsRow}})
	if err != nil {
		t.Fatal(err)
	}
	if _, err := edit.Apply(m, &edit.AddItems{Sheet: "lived", Symbols: []model.Symbol{{ID: "a", Kind: model.MomentCell,
		Box: model.CellBox, Cell: model.Cell{Row: "new", Stage: "s0-0"}}}}); err != nil {
		t.Fatal(err)
	}
	if _, err := edit.Apply(m, undo); err == nil {
		t.Error("taking the row back is not refused, though nothing of it can be taken back")
	}
	if s.Pool("p0").LaneIndex("new") < 0 || s.Symbol("a") == nil {
		t.Error("the row or what stands in it is gone")
	}
}
