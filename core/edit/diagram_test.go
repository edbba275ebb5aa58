package edit_test

import (
	"encoding/json"
	"errors"
	"fmt"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"

	"plaintracer/core/edit"
	"plaintracer/core/geometry"
	"plaintracer/core/model"
)

const px = geometry.Px

func bytesOf(t testing.TB, m *model.Map) string {
	t.Helper()
	raw, err := json.Marshal(m)
	if err != nil {
		t.Fatal(err)
	}
	return string(raw)
}

// through sends an edit over the wire and back, as every edit travels.
func through(t testing.TB, e edit.Edit) edit.Edit {
	t.Helper()
	raw, err := json.Marshal(edit.Envelope{Edit: e})
	if err != nil {
		t.Fatal(err)
	}
	var back edit.Envelope
	if err := json.Unmarshal(raw, &back); err != nil {
		t.Fatalf("%s: %v", raw, err)
	}
	return back.Edit
}

// author makes random edits, most of them sensible.
type author struct {
	r *rand.Rand
	n int
}

func (a *author) id() string { a.n++; return fmt.Sprintf("x%d", a.n) }

func (a *author) symbol() model.Symbol {
	return model.Symbol{ID: a.id(), Kind: model.Kinds[a.r.IntN(len(model.Kinds))],
		Text: []string{"", "Log", "Is it?", "ß \"quoted\""}[a.r.IntN(4)],
		Box:  geometry.Box{X: a.r.IntN(900 * px), Y: a.r.IntN(600 * px), W: 120 * px, H: 80 * px}}
}

func (a *author) edit(m *model.Map) edit.Edit {
	s := m.Sheets[a.r.IntN(len(m.Sheets))]
	pick := func() string {
		if len(s.Symbols) == 0 || a.r.IntN(40) == 0 {
			return "nobody"
		}
		return s.Symbols[a.r.IntN(len(s.Symbols))].ID
	}
	yes, h, text := a.r.IntN(2) == 0, (40+a.r.IntN(200))*px, []string{"Ask", "", "Done?"}[a.r.IntN(3)]
	var pool *model.Pool
	if len(s.Pools) > 0 {
		pool = s.Pools[a.r.IntN(len(s.Pools))]
	}
	line := func() string {
		if n := len(s.Connectors); n > 0 {
			return s.Connectors[a.r.IntN(n)].ID
		}
		return "nothing"
	}
	switch a.r.IntN(34) {
	case 20:
		return &edit.AddItems{Sheet: s.ID,
			Connectors: []model.Connector{{ID: a.id(), From: model.End{Symbol: pick()},
				To: model.End{Connector: line()}}}}
	case 21:
		end := model.End{At: geometry.Point{X: a.r.IntN(500 * px), Y: a.r.IntN(300 * px)}}
		return &edit.SetEnds{Sheet: s.ID, ID: line(), To: &end}
	case 22:
		end := model.End{Connector: line()}
		return &edit.SetEnds{Sheet: s.ID, ID: line(), To: &end}
	case 23:
		return &edit.SetBends{Sheet: s.ID, ID: line(),
			Bends: []model.Bend{{Upright: yes, At: a.r.IntN(400 * px)}}[:a.r.IntN(2)]}
	case 24:
		return &edit.SetPlace{Sheet: s.ID, ID: line(), At: model.LabelNames[a.r.IntN(3)],
			Place: model.Spot{Along: a.r.IntN(10001), Off: geometry.Point{X: px}}}
	case 25:
		weight, mark, hop := a.r.IntN(1300), model.Marks[a.r.IntN(len(model.Marks))], model.CrossGap
		merge, tip := []model.Merging{"", model.MergeAlways, model.MergeNever}[a.r.IntN(3)], model.Tip{On: pick(),
			At: geometry.Point{X: a.r.IntN(40 * px)}}
		return &edit.SetStyle{Sheet: s.ID, IDs: []string{line(), pick()}, Weight: &weight, ToMark: &mark, Hop: &hop,
			Merge: &merge, Tip: &tip, Italic: &yes, Trunk: &yes}
	case 26:
		legend := a.symbol()
		legend.Kind = model.Legend
		return &edit.AddItems{Sheet: s.ID, Symbols: []model.Symbol{legend}, Behind: yes}
	case 27:
		return &edit.RemoveItems{Sheet: s.ID, IDs: []string{line()}}
	case 0, 1, 2:
		return &edit.AddItems{Sheet: s.ID, Symbols: []model.Symbol{a.symbol(), a.symbol()}}
	case 3, 4:
		return &edit.AddItems{Sheet: s.ID,
			Connectors: []model.Connector{{ID: a.id(), From: model.End{Symbol: pick()},
				To: model.End{Symbol: pick(), Side: "left"}, Text: text}}}
	case 5:
		return &edit.RemoveItems{Sheet: s.ID, IDs: []string{pick()}}
	case 6, 7, 8:
		return &edit.MoveItems{Sheet: s.ID, IDs: []string{pick(), pick()},
			By: geometry.Point{X: a.r.IntN(200*px) - 100*px, Y: a.r.IntN(200*px) - 100*px}}
	case 9:
		return &edit.SetText{Sheet: s.ID, ID: pick(), Text: text}
	case 10:
		return &edit.SetKind{Sheet: s.ID, ID: pick(), Kind: model.Decision}
	case 11:
		return &edit.SetStyle{Sheet: s.ID, IDs: []string{pick()}, Bold: &yes, Emphasis: &yes}
	case 12:
		return &edit.Order{Sheet: s.ID, IDs: []string{pick()}, Back: yes}
	case 13:
		if a.r.IntN(2) == 0 {
			edge := []model.Edge{model.EdgeStay, model.EdgeGrow}[a.r.IntN(2)]
			return &edit.SetSheet{Sheet: s.ID, Merging: &yes, Edge: &edge}
		}
		return &edit.SetHead{Numbers: &yes, Title: &text}
	case 14:
		return &edit.AddSheet{At: a.r.IntN(len(m.Sheets) + 1),
			Sheet: model.Sheet{SheetHead: model.SheetHead{ID: a.id(), Name: "More", Paper: "A4"},
				Pools: []*model.Pool{}, Symbols: []*model.Symbol{}, Connectors: []*model.Connector{}}}
	case 15:
		if a.r.IntN(2) == 0 {
			return &edit.MoveSheet{Sheet: s.ID, To: a.r.IntN(len(m.Sheets))}
		}
		return &edit.RemoveSheet{Sheet: s.ID}
	case 16:
		if pool == nil {
			return &edit.AddPool{Sheet: s.ID, Pool: model.Pool{ID: a.id(), X: 10 * px, Y: a.r.IntN(300 * px),
				W: 800 * px,
				Lanes: []model.Lane{{ID: a.id(), Name: "One", H: model.LaneHeight},
					{ID: a.id(), Name: "Two", H: model.LaneHeight}}}}
		}
		return &edit.InsertLane{Sheet: s.ID, Pool: pool.ID, At: a.r.IntN(len(pool.Lanes) + 1),
			Lane: model.Lane{ID: a.id(), Name: "New", H: model.LaneHeight}}
	case 17:
		if pool != nil {
			return &edit.RemoveLane{Sheet: s.ID, Pool: pool.ID, Lane: pool.Lanes[a.r.IntN(len(pool.Lanes))].ID}
		}
	case 18:
		if pool != nil {
			return &edit.SetLane{Sheet: s.ID, Pool: pool.ID, Lane: pool.Lanes[0].ID, H: &h, Name: &text}
		}
	case 28:
		if pool != nil {
			return &edit.MoveLane{Sheet: s.ID, Pool: pool.ID, Lane: pool.Lanes[a.r.IntN(len(pool.Lanes))].ID,
				To: a.r.IntN(len(pool.Lanes))}
		}
	case 29:
		if pool != nil {
			return &edit.TurnPool{Sheet: s.ID, Pool: pool.ID, Down: !pool.Down}
		}
	case 31:
		if pool != nil {
			return &edit.InsertStage{Sheet: s.ID, Pool: pool.ID, At: a.r.IntN(len(pool.Stages) + 1),
				Stage: model.Stage{ID: a.id(), Name: "Stage", L: h}}
		}
	case 32:
		if pool != nil && len(pool.Stages) > 0 {
			return &edit.SetStage{Sheet: s.ID, Pool: pool.ID, Stage: pool.Stages[a.r.IntN(len(pool.Stages))].ID, L: &h,
				Name: &text}
		}
	case 33:
		if pool != nil && len(pool.Stages) > 0 {
			id, to := pool.Stages[a.r.IntN(len(pool.Stages))].ID, a.r.IntN(len(pool.Stages))
			if yes {
				return &edit.RemoveStage{Sheet: s.ID, Pool: pool.ID, Stage: id}
			}
			return &edit.MoveStage{Sheet: s.ID, Pool: pool.ID, Stage: id, To: to}
		}
	case 30:
		if len(s.Symbols) > 0 {
			return &edit.SetOwner{Sheet: s.ID, IDs: []string{s.Symbols[a.r.IntN(len(s.Symbols))].ID}, Owner: text}
		}
	}
	return edit.Together("several", &edit.AddItems{Sheet: s.ID, Symbols: []model.Symbol{a.symbol()}},
		&edit.MoveItems{Sheet: s.ID, IDs: []string{pick()}, By: geometry.Point{X: 10 * px}},
		&edit.RemoveItems{Sheet: s.ID, IDs: []string{pick()}})
}

// Undoing everything gives the first bytes back, redoing the last; making the
// edits again on a copy gives the same map; a refused edit changes nothing.
func TestRandomEditsUndoToTheSameBytes(t *testing.T) {
	for seed := range uint64(250) {
		a := &author{r: rand.New(rand.NewPCG(seed, 1))}
		m := model.New("Random", model.Rightwards, "A4", true)
		twin, logged := m.Clone(), m.Clone()
		// read makes of the changes in the log what an edit has made of the map.
		read := func(what string, inverse edit.Edit) {
			t.Helper()
			raw, err := json.Marshal(inverse.(*edit.Revert).Changes)
			if err != nil {
				t.Fatal(err)
			}
			var changes []edit.Change
			if err := json.Unmarshal(raw, &changes); err != nil {
				t.Fatalf("seed %d: %s: %v in %s", seed, what, err, raw)
			}
			if err := edit.Enact(logged, changes); err != nil {
				t.Fatalf("seed %d: %s: %v in %s", seed, what, err, raw)
			}
			if got, want := bytesOf(t, logged), bytesOf(t, m); got != want {
				t.Fatalf("seed %d: %s is read as\n%s\nnot\n%s\nfrom %s", seed, what, got, want, raw)
			}
		}
		states := []string{bytesOf(t, m)}
		var inverses []edit.Edit
		for range 60 {
			before := states[len(states)-1]
			e := through(t, a.edit(m))
			inverse, err := edit.Apply(m, e)
			if err != nil {
				var refusal *model.Refusal
				if !errors.As(err, &refusal) || refusal.Text == "" {
					t.Fatalf("seed %d: %T refused without a reason: %v", seed, e, err)
				}
				if bytesOf(t, m) != before {
					t.Fatalf("seed %d: the refused %T left something behind: %v", seed, e, err)
				}
				continue
			}
			if err := m.Validate(); err != nil {
				t.Fatalf("seed %d: %T broke the map: %v", seed, e, err)
			}
			if _, err := edit.Apply(twin, e); err != nil || bytesOf(t, twin) != bytesOf(t, m) {
				t.Fatalf("seed %d: %T made again gives another map (%v)", seed, e, err)
			}
			read(fmt.Sprintf("%T", e), inverse)
			inverses = append(inverses, through(t, inverse))
			states = append(states, bytesOf(t, m))
		}
		var redo []edit.Edit
		for i := len(inverses) - 1; i >= 0; i-- {
			back, err := edit.Apply(m, inverses[i])
			if err != nil {
				t.Fatalf("seed %d: undo %d: %v", seed, i, err)
			}
			if got := bytesOf(t, m); got != states[i] {
				t.Fatalf("seed %d: undo %d (%s) gives\n%s\nnot\n%s", seed, i, edit.Words(m, inverses[i]), got,
					states[i])
			}
			read(fmt.Sprint("undo ", i), back)
			redo = append(redo, back)
		}
		for i := len(redo) - 1; i >= 0; i-- {
			if _, err := edit.Apply(m, redo[i]); err != nil {
				t.Fatalf("seed %d: redo: %v", seed, err)
			}
		}
		if bytesOf(t, m) != states[len(states)-1] {
			t.Fatalf("seed %d: redoing everything does not give the last state", seed)
		}
	}
}

func laneMap() *model.Map {
	m := model.New("Lanes", model.Rightwards, "A4", true)
	s := m.Sheets[0]
	s.Pools = []*model.Pool{{ID: "pool", X: 0, Y: 20 * px, W: 900 * px, Lanes: []model.Lane{
		{ID: "a", Name: "A", H: 100 * px}, {ID: "b", Name: "B", H: 100 * px}, {ID: "c", Name: "C", H: 100 * px}}}}
	for i := range 3 {
		s.Symbols = append(s.Symbols, &model.Symbol{ID: fmt.Sprint("s", i), Kind: model.Process,
			Box: geometry.Box{X: (100 + 200*i) * px, Y: (30 + 100*i) * px, W: 120 * px, H: 80 * px}})
	}
	s.Connectors = []*model.Connector{{ID: "k0", From: model.End{Symbol: "s0"}, To: model.End{Symbol: "s1"}},
		{ID: "k1", From: model.End{Symbol: "s1"}, To: model.End{Symbol: "s2"}}}
	return m
}

func TestInsertedLaneMovesEverythingBelowByItsHeight(t *testing.T) {
	m := laneMap()
	before := bytesOf(t, m)
	inverse, err := edit.Apply(m, &edit.InsertLane{Sheet: "sheet-1", Pool: "pool", At: 1,
		Lane: model.Lane{ID: "new", Name: "New", H: 100 * px}})
	if err != nil {
		t.Fatal(err)
	}
	s := m.Sheets[0]
	for i, want := range []int{30, 230, 330} {
		if got := s.Symbols[i].Y; got != want*px {
			t.Errorf("symbol %d stands at %d px, not %d", i, got/px, want)
		}
	}
	for i, want := range []string{"a", "b", "c"} {
		if lane := s.LaneOf(s.Symbols[i]); lane == nil || lane.ID != want {
			t.Errorf("symbol %d stands in lane %v, not %s", i, lane, want)
		}
	}
	if len(s.Connectors) != 2 || s.Connectors[0].To.Symbol != "s1" {
		t.Error("a connector came off")
	}
	if _, err := edit.Apply(m, inverse); err != nil || bytesOf(t, m) != before {
		t.Errorf("one undo does not give the bytes back (%v)", err)
	}
}

// A lane that is moved takes its steps along, and those between make way with
// theirs: every step keeps its lane and its distance from the top of it.
func TestMovedLaneTakesItsStepsAlong(t *testing.T) {
	for from := range 3 {
		for to := range 3 {
			m := laneMap()
			s := m.Sheets[0]
			pool := s.Pools[0]
			type place struct {
				lane string
				off  int
			}
			where := func(sym *model.Symbol) place {
				p, k := s.LaneAt(sym.Centre())
				return place{p.Lanes[k].ID, sym.Y - p.LaneBox(k).Y}
			}
			before := map[string]place{}
			for _, sym := range s.Symbols {
				before[sym.ID] = where(sym)
			}
			id, frame := pool.Lanes[from].ID, pool.Box()
			if _, err := edit.Apply(m, &edit.MoveLane{Sheet: s.ID, Pool: pool.ID, Lane: id, To: to}); err != nil {
				t.Fatal(err)
			}
			if pool = s.Pools[0]; pool.LaneIndex(id) != to || pool.Box() != frame {
				t.Errorf("from %d to %d: it comes to %d in a pool of %v", from, to, pool.LaneIndex(id), pool.Box())
			}
			for _, sym := range s.Symbols {
				if where(sym) != before[sym.ID] {
					t.Errorf("from %d to %d: %s stood at %v, now at %v", from, to, sym.ID, before[sym.ID], where(sym))
				}
			}
		}
	}
}

// Stages are moved with their steps, resized with what stands beyond, and removed
// without losing any; whatever is done, every other step keeps its stage, and all
// keep their lanes. So do they in lanes down the sheet.
func TestStagesKeepTheirSteps(t *testing.T) {
	for seed := range uint64(120) {
		r := rand.New(rand.NewPCG(seed, 42))
		m := laneMap()
		s := m.Sheets[0]
		do := func(e edit.Edit) {
			t.Helper()
			if _, err := edit.Apply(m, e); err != nil {
				t.Fatalf("seed %d: %v", seed, err)
			}
			if err := m.Validate(); err != nil {
				t.Fatalf("seed %d: %v", seed, err)
			}
		}
		if seed%2 == 1 {
			do(&edit.TurnPool{Sheet: s.ID, Pool: "pool", Down: true})
		}
		for i := range 3 {
			do(&edit.InsertStage{Sheet: s.ID, Pool: "pool", At: i,
				Stage: model.Stage{ID: fmt.Sprint("st", i), Name: fmt.Sprint("Stage ", i), L: 300 * px}})
		}
		pool := s.Pools[0]
		for i, sym := range s.Symbols { // one in each lane, somewhere along
			inner := pool.Own(pool.Inner(i % len(pool.Lanes)))
			b := pool.Own(sym.Box)
			b.X = inner.X + 20*px + r.IntN(inner.W-b.W-40*px)
			do(&edit.PlaceItems{Sheet: s.ID, Boxes: []edit.Place{{ID: sym.ID, Box: pool.Own(b)}}})
		}
		for range 10 {
			pool = s.Pools[0]
			stage, lane := map[string]string{}, map[string]string{}
			for _, sym := range s.Symbols {
				stage[sym.ID], lane[sym.ID] = s.StageOf(sym).ID, s.LaneOf(sym).ID
			}
			gone := ""
			id := pool.Stages[r.IntN(len(pool.Stages))].ID
			switch r.IntN(4) {
			case 0:
				do(&edit.MoveStage{Sheet: s.ID, Pool: "pool", Stage: id, To: r.IntN(len(pool.Stages))})
			case 1:
				l := (50 + r.IntN(500)) * px
				do(&edit.SetStage{Sheet: s.ID, Pool: "pool", Stage: id, L: &l})
			case 2:
				do(&edit.InsertStage{Sheet: s.ID, Pool: "pool", At: r.IntN(len(pool.Stages) + 1),
					Stage: model.Stage{ID: fmt.Sprint("more", r.Uint64()), L: 200 * px}})
			case 3:
				if len(pool.Stages) > 1 {
					gone = id
					do(&edit.RemoveStage{Sheet: s.ID, Pool: "pool", Stage: id})
				}
			}
			for _, sym := range s.Symbols {
				if got := s.LaneOf(sym); got == nil || got.ID != lane[sym.ID] {
					t.Fatalf("seed %d: %s has left its lane", seed, sym.ID)
				}
				if got := s.StageOf(sym); got == nil || got.ID != stage[sym.ID] && stage[sym.ID] != gone {
					t.Fatalf("seed %d: %s stood in %s and stands in %v", seed, sym.ID, stage[sym.ID], got)
				}
				if !s.Pools[0].Box().Holds(sym.Box) {
					t.Fatalf("seed %d: %s lies beyond the pool", seed, sym.ID)
				}
			}
		}
	}
}

// Lanes that are turned keep their steps, in their order, and what lay on nothing
// lies on nothing; turned back, every step is in its lane again.
func TestTurnedLanesKeepTheirSteps(t *testing.T) {
	for seed := range uint64(100) {
		r := rand.New(rand.NewPCG(seed, 41))
		m := model.New("Lanes", model.Rightwards, "A3", true)
		s := m.Sheets[0]
		pool := &model.Pool{ID: "pool", X: 40 * px, Y: 40 * px, W: 1200 * px}
		for i := range 1 + r.IntN(4) {
			pool.Lanes = append(pool.Lanes, model.Lane{ID: fmt.Sprint("lane", i), H: 220 * px})
		}
		s.Pools = append(s.Pools, pool)
		for i := range 12 {
			lane, column, row := r.IntN(len(pool.Lanes)), i%6, i/6
			strip := pool.LaneBox(lane)
			s.Symbols = append(s.Symbols, &model.Symbol{ID: fmt.Sprint("s", i), Kind: model.Process,
				Box: geometry.Box{X: pool.Content() + (20+column*180+r.IntN(20))*px,
					Y: strip.Y + (15+row*105+r.IntN(10))*px, W: 120 * px, H: 80 * px}})
		}
		lanes := func() (out []string) {
			for _, sym := range s.Symbols {
				out = append(out, s.LaneOf(sym).ID)
			}
			return out
		}
		before := lanes()
		for _, down := range []bool{true, false} {
			if _, err := edit.Apply(m, &edit.TurnPool{Sheet: s.ID, Pool: "pool", Down: down}); err != nil {
				t.Fatal(err)
			}
			if err := m.Validate(); err != nil {
				t.Fatal(err)
			}
			if !slices.Equal(lanes(), before) {
				t.Fatalf("seed %d, down %v: the steps stand in %v, not in %v", seed, down, lanes(), before)
			}
			for i, a := range s.Symbols {
				if !pool.Box().Holds(a.Box) {
					t.Fatalf("seed %d, down %v: %s lies beyond the pool", seed, down, a.ID)
				}
				for _, b := range s.Symbols[:i] {
					if a.Meets(b.Box) {
						t.Fatalf("seed %d, down %v: %s and %s lie on each other: %v, %v", seed, down, a.ID, b.ID, a.Box,
							b.Box)
					}
				}
			}
		}
	}
}

func TestLaneGrowsToHoldItsStep(t *testing.T) {
	m := laneMap()
	if _, err := edit.Apply(m, &edit.MoveItems{Sheet: "sheet-1", IDs: []string{"s0"},
		By: geometry.Point{Y: 30 * px}}); err != nil {
		t.Fatal(err)
	}
	s := m.Sheets[0]
	if h := s.Pools[0].Lanes[0].H; h != 130*px {
		t.Errorf("the lane is %d px high, not 130", h/px)
	}
	if y := s.Symbols[1].Y; y != 160*px {
		t.Errorf("the step below stands at %d px, not 160", y/px)
	}
	for i, pool := 0, s.Pools[0]; i < 3; i++ {
		if box := pool.LaneBox(i); !box.Holds(s.Symbols[i].Box) {
			t.Errorf("lane %d at %v does not hold its step at %v", i, box, s.Symbols[i].Box)
		}
	}
}

// Undo restores what still holds one's own value and names what it had to skip.
func TestUndoLeavesWhatOthersChanged(t *testing.T) {
	m := laneMap()
	mine, err := edit.Apply(m, edit.Together("both", &edit.SetText{Sheet: "sheet-1", ID: "s0", Text: "mine"},
		&edit.SetText{Sheet: "sheet-1", ID: "s1", Text: "mine"}))
	if err != nil {
		t.Fatal(err)
	}
	if _, err := edit.Apply(m, &edit.SetText{Sheet: "sheet-1", ID: "s1", Text: "theirs"}); err != nil {
		t.Fatal(err)
	}
	transaction, err := edit.Attempt(m, mine)
	if err != nil {
		t.Fatal(err)
	}
	if a, b := m.Sheets[0].Symbols[0].Text, m.Sheets[0].Symbols[1].Text; a != "" || b != "theirs" {
		t.Errorf("the texts are %q and %q", a, b)
	}
	if skipped := transaction.Inverse().Skipped; len(skipped) != 1 || !strings.Contains(skipped[0], "theirs") {
		t.Errorf("skipped is %q", skipped)
	}
	if _, err := edit.Apply(m, mine); err == nil || !strings.Contains(err.Error(), "cannot be taken back") {
		t.Errorf("undo with nothing left to restore: %v", err)
	}
}

func TestRefusalsNameWhatIsWrong(t *testing.T) {
	long := strings.Repeat("x", 100_000)
	paper := "Napkin"
	bad := model.Symbol{ID: "s0", Kind: model.Process, Box: geometry.Box{W: 100 * px, H: 100 * px}}
	for _, c := range []struct {
		edit edit.Edit
		want string
	}{
		{&edit.SetText{Sheet: "sheet-1", ID: "gone", Text: "x"}, `"gone" is not there`},
		{&edit.SetText{Sheet: "elsewhere", ID: "s0", Text: "x"}, `no sheet "elsewhere"`},
		{&edit.SetText{Sheet: "sheet-1", ID: "s0", Text: long}, "100000 characters"},
		{&edit.SetText{Sheet: "sheet-1", ID: "s0", Text: "bell\a"}, "U+0007"},
		{&edit.AddItems{Sheet: "sheet-1", Symbols: []model.Symbol{bad}}, `"s0" is used already`},
		{&edit.AddItems{Sheet: "sheet-1",
			Connectors: []model.Connector{{ID: "n", From: model.End{Symbol: "s0"}, To: model.End{Symbol: "s0"}}}},
			"back to the same"},
		{&edit.SetKind{Sheet: "sheet-1", ID: "s0", Kind: "cloud"}, `"cloud" is no symbol`},
		{&edit.SetSheet{Sheet: "sheet-1", Paper: &paper}, `"Napkin" is no paper`},
		{&edit.RemoveSheet{Sheet: "sheet-1"}, "at least one sheet"},
		{&edit.RemoveLane{Sheet: "sheet-1", Pool: "pool", Lane: "z"}, `lane "z" is not there`},
		{&edit.Revert{Of: "nothing",
			Changes: []edit.Change{edit.NewChange("s0", "sheet-1", edit.Span[model.Symbol]{})}}, "incomplete"},
	} {
		m := laneMap()
		before := bytesOf(t, m)
		_, err := edit.Apply(m, c.edit)
		if err == nil || !strings.Contains(err.Error(), c.want) {
			t.Errorf("%T: %v, not %q", c.edit, err, c.want)
		}
		if bytesOf(t, m) != before {
			t.Errorf("%T: refused, and yet the map changed", c.edit)
		}
	}
}

// ISO 216 in millimetres; Letter in inches. A4 across is 1122.52 x 793.70 px
// at 96 to the inch (common practice, no source).
func TestPaperSizes(t *testing.T) {
	for _, c := range []struct {
		paper string
		w, h  float64 // mm
	}{{"A4", 210, 297}, {"A3", 297, 420}, {"A2", 420, 594}, {"A5", 148, 210}, {"Letter", 8.5 * 25.4, 11 * 25.4},
		{"Legal", 8.5 * 25.4, 14 * 25.4}, {"Tabloid", 11 * 25.4, 17 * 25.4}, {"Slide", 7.5 * 25.4, 40. / 3 * 25.4}} {
		w, h := model.PaperSize(c.paper, false)
		for i, pair := range [2][2]float64{{float64(w), c.w}, {float64(h), c.h}} {
			if want := pair[1] / 25.4 * 96 * px; pair[0]-want > 0.51 || want-pair[0] > 0.51 {
				t.Errorf("%s side %d is %.0f hundredths of a pixel, not %.2f", c.paper, i, pair[0], want)
			}
		}
	}
	if w, h := model.PaperSize("A4", true); w != 112252 || h != 79370 {
		t.Errorf("A4 across is %d x %d", w, h)
	}
}

func FuzzEditsFromTheWire(f *testing.F) {
	f.Add(`{"do":"revert","of":"x","changes":[{"whole":{"before":{"id":"q","sheets":null}}}]}`)
	f.Add(`{"do":"addSheet","at":0,"sheet":{"id":"q","symbols":[null]}}`)
	f.Add(`{"do":"batch","as":"x","edits":[{"do":"addPool","sheet":"sheet-1","pool":{"id":"p2"}},{"do":"insertLane","sheet":"sheet-1","pool":"p2","at":-1}]}`)
	f.Add(`{"do":"revert","changes":[{"order":{"before":[],"after":["sheet-1"]}},{"id":"s0","sheet":"sheet-1","symbol":{"before":{"id":"s9"}}}]}`)
	f.Fuzz(func(t *testing.T, wire string) {
		var e edit.Envelope
		if json.Unmarshal([]byte(wire), &e) != nil {
			return
		}
		m := laneMap()
		before := bytesOf(t, m)
		if _, err := edit.Apply(m, e.Edit); err != nil {
			if bytesOf(t, m) != before {
				t.Fatalf("%s: refused (%v), and yet the map changed", wire, err)
			}
			return
		}
		if err := m.Validate(); err != nil {
			t.Fatalf("%s broke the map: %v", wire, err)
		}
	})
}
