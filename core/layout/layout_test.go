package layout_test

import (
	"bytes"
	"encoding/json"
	"fmt"
	"slices"
	"testing"

	"plaintracer/bench/processes"
	"plaintracer/core/edit"
	"plaintracer/core/geometry"
	"plaintracer/core/layout"
	"plaintracer/core/model"
	"plaintracer/core/scene"
	"plaintracer/core/symbols"
	"plaintracer/core/values"
)

const px = geometry.Px

// laid lays the first sheet of a map out and draws it.
func laid(t *testing.T, m *model.Map, w layout.Options) *scene.Drawing {
	t.Helper()
	plan := layout.Find(m, m.Sheets[0], w)
	if plan == nil {
		t.Fatal("nothing moves")
	}
	if _, err := edit.Apply(m, plan); err != nil {
		t.Fatal(err)
	}
	return scene.Draw(m, m.Sheets[0])
}

// sound holds of every sheet laid out: nothing lies on anything, no connector runs
// through a symbol, and unrelated ones share no stretch.
func sound(m *model.Map, d *scene.Drawing) error {
	s := d.Sheet
	room := func(sym *model.Symbol) geometry.Box { // with the values under it
		b := sym.Box
		b.H += m.Under(s, sym)
		return b
	}
	for i, a := range s.Symbols {
		for _, b := range s.Symbols[:i] {
			if room(a).Meets(room(b)) {
				return fmt.Errorf("%s and %s lie on each other: %v, %v", a.ID, b.ID, a.Box, b.Box)
			}
		}
	}
	for i, c := range s.Connectors {
		if d.Courses[i].Obstructed {
			return fmt.Errorf("%s from %s to %s runs through a symbol: %v", c.ID, c.From.Symbol, c.To.Symbol,
				d.Courses[i].Points)
		}
		for k := 1; k < len(d.Courses[i].Points); k++ {
			p, q := d.Courses[i].Points[k-1], d.Courses[i].Points[k]
			for _, sym := range s.Symbols {
				if sym.ID != c.From.Symbol && sym.ID != c.To.Symbol && room(sym).CutBy(p, q) {
					return fmt.Errorf("%s runs through %s", c.ID, sym.ID)
				}
			}
			for _, pool := range s.Pools {
				if len(s.Pools) == 1 && !pool.Box().Holds(geometry.Between(p, q)) {
					return fmt.Errorf("%s runs outside its pool: %v, %v", c.ID, p, q)
				}
			}
		}
	}
	return nil
}

// Made-up processes, with lanes and without, across and down: nothing overlaps, no
// connector runs through a symbol, every step stays in its lane, what leads on
// leads forwards, and laying out again changes nothing.
func TestProcessesAreLaidOutSoundly(t *testing.T) {
	n := 600
	if testing.Short() {
		n = 150
	}
	for i := range n {
		shape := processes.Shape{Steps: 4 + i*11%57, Lanes: i % 5, Strays: i % 4 * 2}
		m := processes.Make(uint64(i), shape).Map()
		s := m.Sheets[0]
		if len(s.Pools) > 0 && i%2 == 0 {
			if _, err := edit.Apply(m, &edit.TurnPool{Sheet: s.ID, Pool: "pool", Down: true}); err != nil {
				t.Fatal(err)
			}
		}
		if len(s.Pools) > 0 && i%3 == 0 {
			for k := range 3 {
				if _, err := edit.Apply(m, &edit.InsertStage{Sheet: s.ID, Pool: "pool", At: k,
					Stage: model.Stage{ID: fmt.Sprint("stage", k), L: 300 * px}}); err != nil {
					t.Fatal(err)
				}
			}
			for k, sym := range s.Symbols { // the first steps in the first, the last in the last
				pool := s.Pools[0]
				b, stage := pool.Own(sym.Box), pool.Own(pool.StageBox(k*3/len(s.Symbols)))
				b.X = stage.X + (stage.W-b.W)/2
				sym.Box = pool.Own(b)
			}
		}
		if i%5 == 2 { // with values under some of them
			m.Fields = []model.Field{{ID: "t", Name: "Time", Type: values.Duration}, {ID: "s", Name: "System",
				Type: values.Text}}
			m.Shown = []string{"t", "s"}
			for k, sym := range s.Symbols {
				if k%3 > 0 {
					sym.SetValue(&m.Head, "t", "90")
					sym.SetValue(&m.Head, "s", "The permit database of the traffic desk")
				}
			}
		}
		lanes, stages := map[string]string{}, map[string]string{}
		for _, sym := range s.Symbols {
			lanes[sym.ID], stages[sym.ID] = laneOf(s, sym), stageOf(s, sym)
		}
		w := layout.Options{Down: i%3 == 0, Long: i%2 == 0, Above: i%7 == 0}
		d := laid(t, m, w)
		if err := sound(m, d); err != nil {
			t.Errorf("%d %+v: %v", i, shape, err)
		}
		for _, sym := range s.Symbols {
			if laneOf(s, sym) != lanes[sym.ID] {
				t.Fatalf("%d %+v: %s is not in its lane any more", i, shape, sym.ID)
			}
			if stageOf(s, sym) != stages[sym.ID] {
				t.Fatalf("%d %+v: %s stands in the stage %q, not in %q", i, shape, sym.ID, stageOf(s, sym),
					stages[sym.ID])
			}
		}
		if again := layout.Find(m, s, w); again != nil {
			t.Fatalf("%d %+v: laying out again moves %v", i, shape, again)
		}
	}
}

// sheet builds a sheet from lines such as "a process b c:No": id, kind, and what it
// leads to, with a label.
func sheet(t *testing.T, lines ...[]string) *model.Map {
	t.Helper()
	m := model.New("A sheet", model.Rightwards, "A4", true)
	s := m.Sheets[0]
	for _, l := range lines {
		def := symbols.Of(model.Kind(l[1]))
		s.Symbols = append(s.Symbols, &model.Symbol{ID: l[0], Kind: model.Kind(l[1]),
			Box: geometry.Box{X: 40 * px, Y: 40 * px, W: def.W, H: def.H}})
		for _, next := range l[2:] {
			c := &model.Connector{ID: fmt.Sprint("c", len(s.Connectors)), From: model.End{Symbol: l[0]}}
			if to, label, ok := bytes.Cut([]byte(next), []byte(":")); ok {
				c.To.Symbol, c.Text = string(to), string(label)
			} else {
				c.To.Symbol = next
			}
			s.Connectors = append(s.Connectors, c)
		}
	}
	if err := m.Validate(); err != nil {
		t.Fatal(err)
	}
	return m
}

// laneOf returns the id of the lane that a step stands in, empty for none.
func laneOf(s *model.Sheet, sym *model.Symbol) string {
	if l := s.LaneOf(sym); l != nil {
		return l.ID
	}
	return ""
}

func stageOf(s *model.Sheet, sym *model.Symbol) string {
	if st := s.StageOf(sym); st != nil {
		return st.ID
	}
	return ""
}

func hops(d *scene.Drawing) int {
	n := 0
	for _, c := range d.Courses {
		n += len(c.Hops)
	}
	return n
}

// Start, step, decision, with No back to the start and Yes to the end: no crossing
// and a straight main path (common practice, no source).
func TestSmallestLoopIsDrawnAsTaught(t *testing.T) {
	for _, down := range []bool{false, true} {
		d := laid(t, sheet(t, []string{"start", "terminator", "step"}, []string{"step", "process", "ask"},
			[]string{"ask", "decision", "end:Yes", "step:No"}, []string{"end", "terminator"}),
			layout.Options{Down: down})
		if hops(d) > 0 {
			t.Errorf("down %v: lines cross", down)
		}
		for i, c := range d.Sheet.Connectors {
			if bends := d.Courses[i].Points.Bends(); c.Text != "No" && bends > 0 {
				t.Errorf("down %v: the main path has %d bends", down, bends)
			} else if c.Text == "No" && bends != 2 { // from one side to the same side: three stretches
				t.Errorf("down %v: the loop has %d bends", down, bends)
			}
		}
	}
}

// The other answers turn down, or up when that is wished; the main path is as
// straight either way.
func TestOtherAnswersTurnAside(t *testing.T) {
	for _, above := range []bool{false, true} {
		d := laid(t, sheet(t, []string{"start", "terminator", "ask"}, []string{"ask", "decision", "on:Yes", "aside:No"},
			[]string{"on", "process", "end"},
			[]string{"aside", "process", "end"}, []string{"end", "terminator"}), layout.Options{Above: above})
		s := d.Sheet
		if s.Symbol("ask").Centre().Y != s.Symbol("on").Centre().Y ||
			s.Symbol("start").Centre().Y != s.Symbol("end").Centre().Y {
			t.Errorf("above %v: the main path is not straight", above)
		}
		if got := s.Symbol("aside").Y < s.Symbol("on").Y; got != above {
			t.Errorf("above %v: the other answer stands at %v, the first at %v", above, s.Symbol("aside").Box,
				s.Symbol("on").Box)
		}
		if s.Drawn().X < 0 || s.Drawn().Y < 0 {
			t.Errorf("above %v: it is drawn from %v", above, s.Drawn().Corner())
		}
	}
}

// A row that is too long for the paper goes on in the row below: out of the last step's
// foot and in from above, three stretches with two bends (common practice, no source).
func TestLongRowGoesOnBelow(t *testing.T) {
	var lines [][]string
	for i := range 12 {
		line := []string{fmt.Sprint("s", i), "process"}
		if i < 11 {
			line = append(line, fmt.Sprint("s", i+1))
		}
		lines = append(lines, line)
	}
	for _, down := range []bool{false, true} {
		m := sheet(t, lines...)
		m.Sheets[0].Across = !down
		d := laid(t, m, layout.Options{Down: down})
		if page := d.Sheet.Page(); !page.Holds(d.Sheet.Extent()) {
			t.Errorf("down %v: it reaches to %v on %v", down, d.Sheet.Extent(), page)
		}
		turns := 0
		for _, c := range d.Courses {
			switch c.Points.Bends() {
			case 0:
			case 2:
				turns++
				if want := [2]geometry.Side{geometry.Bottom, geometry.Top}; !down &&
					[2]geometry.Side{c.FromSide, c.ToSide} != want {
					t.Errorf("it goes on from %v to %v", c.FromSide, c.ToSide)
				}
			default:
				t.Errorf("down %v: a connector has %d bends", down, c.Points.Bends())
			}
		}
		if turns == 0 {
			t.Errorf("down %v: nothing goes on in another row", down)
		}
	}
}

// Notes, data and documents stand next to the step they belong to, within its lane
// and nearer than any other step.
func TestDataStandsNextToItsStep(t *testing.T) {
	m := sheet(t, []string{"a", "process", "b", "doc"}, []string{"b", "process", "c"}, []string{"c", "process"},
		[]string{"doc", "document"}, []string{"base", "database", "b"}, []string{"note", "annotation", "c"})
	d := laid(t, m, layout.Options{})
	s := d.Sheet
	if err := sound(m, d); err != nil {
		t.Error(err)
	}
	for sat, host := range map[string]string{"doc": "a", "base": "b", "note": "c"} {
		p := s.Symbol(sat).Centre()
		for _, sym := range s.Symbols {
			if sym.Kind.IsStep() && sym.ID != host &&
				p.Manhattan(sym.Centre()) <= p.Manhattan(s.Symbol(host).Centre()) {
				t.Errorf("%s stands nearer to %s than to %s", sat, sym.ID, host)
			}
		}
		for i, c := range s.Connectors {
			if (c.From.Symbol == sat || c.To.Symbol == sat) && d.Courses[i].Points.Bends() > 0 {
				t.Errorf("the line of %s has bends", sat)
			}
		}
	}
}

// What is locked stays, and the rest is laid out around it.
func TestLockedStays(t *testing.T) {
	for i := range 60 {
		m := processes.Make(uint64(i), processes.Shape{Steps: 20, Lanes: i % 3, Strays: 2}).Map()
		laid(t, m, layout.Options{})
		s := m.Sheets[0]
		sym := s.Symbols[i%len(s.Symbols)]
		at := sym.Corner().Add(geometry.Point{X: 70 * px})
		if pool, lane := s.LaneAt(sym.Centre()); pool != nil {
			at.X = min(at.X, pool.Box().Right()-sym.W-model.LanePad)
			at.Y = pool.LaneBox(lane).Y + model.LanePad
		}
		sym.Box, sym.Locked = sym.At(at), true
		lane := laneOf(s, sym)
		plan := layout.Find(m, s, layout.Options{})
		if plan != nil {
			if _, err := edit.Apply(m, plan); err != nil {
				t.Fatalf("%d: %v", i, err)
			}
		}
		if sym.X != at.X || len(s.Pools) == 0 && sym.Y != at.Y || laneOf(s, sym) != lane {
			t.Fatalf("%d: %s has moved from %v to %v", i, sym.ID, at, sym.Corner())
		}
		for k, a := range s.Symbols {
			for _, b := range s.Symbols[:k] {
				if a.Meets(b.Box) {
					t.Fatalf("%d: %s and %s lie on each other", i, a.ID, b.ID)
				}
			}
		}
	}
}

// A legend is in nobody's way: it goes where there is room.
func TestLegendMakesWay(t *testing.T) {
	for _, lanes := range []int{0, 2} {
		m := processes.Make(9, processes.Shape{Steps: 14, Lanes: lanes}).Map()
		s := m.Sheets[0]
		legend := &model.Symbol{ID: "legend", Kind: model.Legend,
			Box: geometry.Box{X: 60 * px, Y: 60 * px, W: 320 * px,
				H: model.LegendHead + len(s.LegendKinds())*model.LegendRow}}
		s.Symbols = append(s.Symbols, legend)
		d := laid(t, m, layout.Options{})
		if err := sound(m, d); err != nil {
			t.Errorf("%d lanes: %v", lanes, err)
		}
		for _, p := range s.Pools {
			if p.Box().Meets(legend.Box) {
				t.Errorf("the legend lies at %v on the pool at %v", legend.Box, p.Box())
			}
		}
		if again := layout.Find(m, s, layout.Options{}); again != nil {
			t.Errorf("%d lanes: laying out again moves %v", lanes, again)
		}
	}
}

// With a selection only what is selected moves, and it lands on nothing.
func TestSelectionIsLaidOutAlone(t *testing.T) {
	n := 100
	if testing.Short() {
		n = 30
	}
	for i := range n {
		m := processes.Make(uint64(i), processes.Shape{Steps: 30, Lanes: i % 3, Strays: 2}).Map()
		laid(t, m, layout.Options{})
		s := m.Sheets[0]
		var ids []string
		for k, sym := range s.Symbols {
			if k%4 == i%4 || k > 20 {
				ids = append(ids, sym.ID)
			}
		}
		before := map[string]geometry.Box{}
		lanes := map[string]string{}
		for _, sym := range s.Symbols {
			before[sym.ID] = sym.Box
			lanes[sym.ID] = laneOf(s, sym)
		}
		plan := layout.Find(m, s, layout.Options{IDs: ids})
		if plan == nil {
			continue
		}
		for _, p := range plan.Boxes {
			if !slices.Contains(ids, p.ID) {
				t.Fatalf("%d: %s is moved, which is not selected", i, p.ID)
			}
		}
		if _, err := edit.Apply(m, plan); err != nil {
			t.Fatal(err)
		}
		for k, a := range s.Symbols {
			if laneOf(s, a) != lanes[a.ID] {
				t.Fatalf("%d: %s has changed its lane", i, a.ID)
			}
			for _, b := range s.Symbols[:k] {
				if a.Meets(b.Box) {
					t.Fatalf("%d: %s and %s lie on each other: %v, %v", i, a.ID, b.ID, a.Box, b.Box)
				}
			}
		}
	}
}

// What was bent, placed or glued by hand finds its own way again, and one undo
// brings all of it back to the byte.
func TestLayingOutIsTakenBackWhole(t *testing.T) {
	m := processes.Make(3, processes.Shape{Steps: 25, Lanes: 3, Strays: 4}).Map()
	s := m.Sheets[0]
	s.Connectors[0].Bends = []model.Bend{{Upright: true, At: 300 * px}}
	s.Connectors[1].From.Side, s.Connectors[2].Place = "top", model.Spot{Along: 100, Off: geometry.Point{X: px}}
	before, _ := json.Marshal(m)
	inverse, err := edit.Apply(m, layout.Find(m, s, layout.Options{}))
	if err != nil {
		t.Fatal(err)
	}
	if s.Connectors[1].From.Side != "" || s.Connectors[2].Place != (model.Spot{}) {
		t.Error("what was chosen by hand is kept")
	}
	if _, err := edit.Apply(m, inverse); err != nil {
		t.Fatal(err)
	}
	if after, _ := json.Marshal(m); !bytes.Equal(before, after) {
		t.Error("undo leaves another map")
	}
}

// All of it, courses too. Targets: 100 steps in four lanes 100 ms, 1,000 in five
// 1.5 s.
func BenchmarkFind(b *testing.B) {
	for _, s := range []processes.Shape{{Steps: 100, Lanes: 4, Strays: 3}, {Steps: 500, Strays: 3},
		{Steps: 1000, Lanes: 5, Strays: 3}} {
		b.Run(fmt.Sprintf("%d steps %d lanes", s.Steps, s.Lanes), func(b *testing.B) {
			m := processes.Make(1, s).Map()
			for b.Loop() {
				layout.Find(m, m.Sheets[0], layout.Options{Long: true})
			}
		})
	}
}

// flow lists what leads where in a map, over references, each with its label.
func flow(m *model.Map) []string {
	var out []string
	var ends func(id string) []string
	ends = func(id string) []string {
		s := m.SheetOf(id)
		if _, partner := m.Partner(s.Symbol(id)); partner != nil {
			var all []string
			for _, c := range m.SheetOf(partner.ID).Connectors {
				if c.From.Symbol == partner.ID {
					all = append(all, ends(c.To.Symbol)...)
				}
			}
			return all
		}
		return []string{id}
	}
	for _, s := range m.Sheets {
		for _, c := range s.Connectors {
			if !s.Symbol(c.From.Symbol).Kind.IsReference() {
				for _, to := range ends(c.To.Symbol) {
					out = append(out, c.From.Symbol+" -"+c.Text+"> "+to)
				}
			}
		}
	}
	slices.Sort(out)
	return out
}

// A flow that is too long for its paper goes on over further sheets: every sheet
// fits along the flow, every step is there once and in a lane of its name, and what
// leads where is what it was, over pairs of references.
func TestFlowGoesOnOverSheets(t *testing.T) {
	n := 48
	if testing.Short() {
		n = 20
	}
	for i := range n {
		shape := processes.Shape{Steps: 12 + i*7%50, Lanes: i % 4, Strays: i % 3 * 2}
		m := processes.Make(uint64(i), shape).Map()
		m.Sheets[0].Paper = "A4"
		if len(m.Sheets[0].Pools) > 0 && i%2 == 0 {
			if _, err := edit.Apply(m, &edit.TurnPool{Sheet: "sheet-1", Pool: "pool", Down: true}); err != nil {
				t.Fatal(err)
			}
		}
		before, owners := flow(m), map[string]string{}
		for _, sym := range m.Sheets[0].Symbols {
			owners[sym.ID] = m.Sheets[0].OwnerOf(sym)
		}
		ids := 0
		w := layout.Options{Down: i%3 == 0}
		e, err := layout.Continue(m, m.Sheets[0], w, func() string { ids++; return fmt.Sprint("new", ids) })
		if err != nil {
			t.Fatalf("%d %+v: %v", i, shape, err)
		}
		if e == nil {
			continue
		}
		original, _ := json.Marshal(m)
		inverse, err := edit.Apply(m, e)
		if err != nil {
			t.Fatalf("%d %+v: %v", i, shape, err)
		}
		if err := m.Validate(); err != nil {
			t.Fatalf("%d %+v: %v", i, shape, err)
		}
		steps := 0
		for _, s := range m.Sheets {
			down := w.Down
			if len(s.Pools) > 0 {
				down = s.Pools[0].Down
			}
			if page, drawn := s.Page().Turned(down), s.Drawn().Turned(down); drawn.Right() > page.Right() ||
				len(s.Pools) == 0 && drawn.Bottom() > page.Bottom() {
				t.Errorf("%d %+v: %s reaches to %d on a page of %d", i, shape, s.Name, drawn.Right()/px,
					page.Right()/px)
			}
			if err := sound(m, scene.Draw(m, s)); err != nil {
				t.Errorf("%d %+v: %s: %v", i, shape, s.Name, err)
			}
			for _, sym := range s.Symbols {
				if !sym.Kind.IsReference() {
					steps++
					if got := s.OwnerOf(sym); got != owners[sym.ID] {
						t.Errorf("%d %+v: %s stands with %q, not %q", i, shape, sym.ID, got, owners[sym.ID])
					}
				} else if _, partner := m.Partner(sym); partner == nil {
					t.Errorf("%d %+v: the reference %s has no partner", i, shape, sym.Text)
				}
			}
		}
		if steps != len(owners) || !slices.Equal(flow(m), before) {
			t.Fatalf("%d %+v: %d steps of %d, the flow is\n%v\nand was\n%v", i, shape, steps, len(owners), flow(m),
				before)
		}
		if _, err := edit.Apply(m, inverse); err != nil {
			t.Fatal(err)
		}
		if after, _ := json.Marshal(m); !bytes.Equal(original, after) {
			t.Fatalf("%d %+v: undo leaves another map", i, shape)
		}
	}
}
