package editor_test

import (
	"fmt"
	"slices"
	"strings"
	"testing"

	"plaintracer/core/edit"
	"plaintracer/core/editor/desk"
	"plaintracer/core/geometry"
	"plaintracer/core/model"
	"plaintracer/core/worker"
)

// laneNames lists the lanes of the first pool, from the top.
func laneNames(s *model.Sheet) string {
	var out []string
	for _, l := range s.Pools[0].Lanes {
		out = append(out, l.Name)
	}
	return strings.Join(out, ", ")
}

// owned is a plain flowchart whose steps have owners.
func owned() *model.Map {
	m := model.New("A loan", model.Rightwards, "A4", true)
	s := m.Sheets[0]
	for i, step := range [][3]string{{"start", "terminator", ""}, {"ask", "process", "Member"},
		{"look", "process", "Desk"}, {"there", "decision", "Desk"},
		{"fetch", "process", "Stacks"}, {"slip", "document", ""}, {"sort", "process", ""}, {"end", "terminator", ""}} {
		h := 80 * px
		s.Symbols = append(s.Symbols, &model.Symbol{ID: step[0], Kind: model.Kind(step[1]), Text: step[0],
			Owner: step[2], Box: geometry.Box{X: (40 + i*170) * px, Y: 100 * px, W: 120 * px, H: h}})
	}
	for i, c := range [][2]string{{"start", "ask"}, {"ask", "look"}, {"look", "there"}, {"there", "fetch"},
		{"fetch", "slip"}, {"fetch", "sort"}, {"sort", "end"}} {
		s.Connectors = append(s.Connectors, &model.Connector{ID: "c" + string(rune('0'+i)),
			From: model.End{Symbol: c[0]}, To: model.End{Symbol: c[1]}})
	}
	return m
}

func (d *seat) owner(id string) string {
	d.Helper()
	return d.Sheet().OwnerOf(d.Sheet().Symbol(id))
}

// Owners become lanes with one command, and lanes owners again; nobody loses
// theirs. What is no step goes with the step it belongs to.
func TestOwnersBecomeLanesAndBack(t *testing.T) {
	d := open(t, owned())
	start := string(document(t, d.Map()))
	d.Command("owners-lanes", "")
	answer, err := worker.Do([]byte(d.task()), nil)
	if err != nil {
		t.Fatal(err)
	}
	d.Layout.Worked(answer)
	d.flush()
	if string(document(t, d.server)) != start {
		t.Fatal("it is done before it is kept")
	}
	d.Key("Enter", 0)
	d.flush()
	if got := laneNames(d.Sheet()); got != "Member, Desk, Stacks, No owner yet" {
		t.Fatalf("the lanes are %s (said %v)", got, d.said)
	}
	want := map[string]string{"start": "Member", "ask": "Member", "look": "Desk", "there": "Desk", "fetch": "Stacks",
		"slip": "Stacks", "sort": "No owner yet", "end": "Stacks"}
	delete(want, "end") // of the one who reaches it, who is nobody yet
	for id, lane := range want {
		if got := d.owner(id); got != lane {
			t.Errorf("%s stands in the lane %q, not %q", id, got, lane)
		}
	}
	d.same()
	d.Command("lanes-owners", "")
	d.flush()
	if len(d.Sheet().Pools) > 0 {
		t.Fatal("the lanes are still there")
	}
	for id, owner := range map[string]string{"ask": "Member", "there": "Desk", "fetch": "Stacks", "sort": ""} {
		if got := d.owner(id); got != owner {
			t.Errorf("%s is done by %q, not %q", id, got, owner)
		}
	}
	d.same()
	d.Undo()
	d.Undo()
	d.flush()
	if string(document(t, d.Map())) != start {
		t.Error("undo leaves another map")
	}
}

// In lanes, to set the owner of a step is to move it into the lane of that name,
// which comes when there is none.
func TestOwnerIsTheLane(t *testing.T) {
	d := open(t, model.New("Lanes", model.Rightwards, "A4", true))
	d.Command("lanes-list", "Desk\n Stacks ; Member\n\nDesk")
	d.flush()
	if got := laneNames(d.Sheet()); got != "Member, Desk, Stacks" {
		t.Fatalf("the lanes are %s", got)
	}
	d.Command("take", "process")
	d.click(d.Sheet().Pools[0].LaneBox(1).Centre(), 0)
	d.Writing.Write(d.Sheet().Symbols[0].ID, "Stamp the slip")
	id := d.Sheet().Symbols[0].ID
	for _, name := range []string{"Stacks", "Courier", "Desk"} {
		d.click(d.Sheet().Symbol(id).Centre(), 0)
		d.Command("owner", name)
		d.flush()
		if got := d.owner(id); got != name {
			t.Errorf("it stands in the lane %q, not %q (said %v)", got, name, d.said)
		}
	}
	if got := laneNames(d.Sheet()); got != "Member, Desk, Stacks, Courier" {
		t.Errorf("the lanes are %s", got)
	}
	// A further list goes after the lane that is selected.
	pool := d.Sheet().Pools[0]
	d.click(geometry.Point{X: pool.Content() - 5*px, Y: pool.LaneBox(1).Centre().Y}, 0)
	d.Command("lanes-list", "Cashier")
	d.flush()
	if got := laneNames(d.Sheet()); got != "Member, Desk, Cashier, Stacks, Courier" {
		t.Errorf("the lanes are %s", got)
	}
	d.same()
}

// A lane dragged by its name goes past those whose middle it passes, with its
// steps; by command, too. A removed one leaves its steps where one chooses.
func TestLanesAreMovedAndRemoved(t *testing.T) {
	for _, c := range []struct {
		name  string
		do    func(d *seat, head func(i int) geometry.Point)
		lanes string
		owner string // of the step that stood in B; "-" when it is gone
	}{
		{"drag to the top",
			func(d *seat, head func(int) geometry.Point) { d.drag(head(1), head(0).Add(at(0, -10)), 0) }, "B, A, C",
			"B"},
		{"drag to the foot",
			func(d *seat, head func(int) geometry.Point) { d.drag(head(0), head(2).Add(at(0, 10)), 0) }, "B, C, A",
			"B"},
		{"a short drag", func(d *seat, head func(int) geometry.Point) { d.drag(head(1), head(1).Add(at(0, 20)), 0) },
			"A, B, C", "B"},
		{"by command", func(d *seat, head func(int) geometry.Point) {
			d.click(head(1), 0)
			d.Command("lane-move", "down")
		}, "A, C, B", "B"},
		{"at the end", func(d *seat, head func(int) geometry.Point) {
			d.click(head(0), 0)
			d.Command("lane-move", "up")
		}, "A, B, C", "B"},
		{"remove", func(d *seat, head func(int) geometry.Point) {
			d.click(head(1), 0)
			d.Command("lane-remove", "")
		}, "A, C", "A"},
		{"remove into above", func(d *seat, head func(int) geometry.Point) {
			d.click(head(1), 0)
			d.Command("lane-remove", "above")
		}, "A, C", "A"},
		{"remove into below", func(d *seat, head func(int) geometry.Point) {
			d.click(head(1), 0)
			d.Command("lane-remove", "below")
		}, "A, C", "C"},
		{"remove with steps", func(d *seat, head func(int) geometry.Point) {
			d.click(head(1), 0)
			d.Command("lane-remove", "delete")
		}, "A, C", "-"},
	} {
		t.Run(c.name, func(t *testing.T) {
			m := model.New("Lanes", model.Rightwards, "A4", true)
			s := m.Sheets[0]
			pool := &model.Pool{ID: "pool", X: 40 * px, Y: 40 * px, W: 900 * px}
			for i, name := range []string{"A", "B", "C"} {
				pool.Lanes = append(pool.Lanes, model.Lane{ID: "l" + name, Name: name, H: (100 + i*20) * px})
				s.Symbols = append(s.Symbols, &model.Symbol{ID: "s" + name, Kind: model.Process,
					Box: geometry.Box{X: 300 * px, Y: (50 + i*110) * px, W: 120 * px, H: 80 * px}})
			}
			s.Pools = append(s.Pools, pool)
			d := open(t, m)
			start := string(document(t, d.Map()))
			c.do(d, func(i int) geometry.Point {
				p := d.Sheet().Pools[0]
				return geometry.Point{X: p.Content() - 5*px, Y: p.LaneBox(i).Centre().Y}
			})
			d.flush()
			if got := laneNames(d.Sheet()); got != c.lanes {
				t.Errorf("the lanes are %s, not %s (said %v)", got, c.lanes, d.said)
			}
			if sym := d.Sheet().Symbol("sB"); (sym == nil) != (c.owner == "-") ||
				sym != nil && d.owner("sB") != c.owner {
				t.Errorf("the step is %v, and stands in the lane of %s", sym, d.owner("sB"))
			}
			for i, a := range d.Sheet().Symbols {
				for _, b := range d.Sheet().Symbols[:i] {
					if a.Meets(b.Box) {
						t.Errorf("%s and %s lie on each other", a.ID, b.ID)
					}
				}
			}
			d.same()
			for range 3 {
				d.Undo()
			}
			d.flush()
			if string(document(t, d.Map())) != start {
				t.Error("undo leaves another map")
			}
		})
	}
}

// A step that follows has the owner of the one before; the owners of a map are
// offered for further ones.
func TestNextStepHasTheSameOwner(t *testing.T) {
	d := open(t, owned())
	d.click(d.Sheet().Symbol("end").Centre(), 0)
	d.Command("owner", "  Front   office ")
	d.Command("append", "process")
	d.flush()
	list := d.Sheet().Symbols
	if got := list[len(list)-1].Owner; got != "Front office" {
		t.Errorf("the next step is done by %q", got)
	}
	if !strings.Contains(string(d.State()), `"owners":["Member","Desk","Stacks","Front office"]`) {
		t.Errorf("the owners offered are others: %s", d.State())
	}
	d.Command("owner", "")
	d.flush()
	if slices.ContainsFunc(d.said, func(s string) bool { return strings.Contains(s, "Not done") }) ||
		list[len(list)-1].Owner != "" {
		t.Errorf("it cannot be without an owner: %v", d.said)
	}
}

// Lanes across are turned down and back with all that stands in them; a step that
// follows in a lane down the sheet stands below, in the same lane.
func TestLanesAreTurned(t *testing.T) {
	d := open(t, model.New("Lanes", model.Rightwards, "A4", true))
	d.Command("lanes-list", "Desk; Stacks")
	d.Command("take", "process")
	d.click(d.Sheet().Pools[0].LaneBox(1).Centre(), 0)
	d.flush()
	start := string(document(t, d.Map()))
	d.Command("lanes-turn", "")
	d.flush()
	if p := d.Sheet().Pools[0]; !p.Down || d.Map().Direction != model.Downwards ||
		d.owner(d.Sheet().Symbols[0].ID) != "Stacks" {
		t.Fatalf("turned, the pool is %+v, the step stands with %s", p, d.owner(d.Sheet().Symbols[0].ID))
	}
	for range 3 {
		d.Command("append", "process")
		d.flush()
	}
	list := d.Sheet().Symbols
	for i, sym := range list {
		if i > 0 && (sym.Centre().X != list[0].Centre().X || sym.Y < list[i-1].Bottom()) ||
			d.owner(sym.ID) != "Stacks" {
			t.Errorf("step %d stands at %v with %s", i, sym.Box, d.owner(sym.ID))
		}
	}
	// The edge between the lanes is dragged to the side, a lane by its name.
	pool := d.Sheet().Pools[0]
	width := pool.Lanes[0].H
	edge := geometry.Point{X: pool.LaneBox(0).Right(), Y: pool.Box().Y + 200*px}
	d.drag(edge, edge.Add(at(50, 0)), 0)
	if got := d.Sheet().Pools[0].Lanes[0].H; got <= width {
		t.Errorf("the first lane is %d wide, as before", got)
	}
	pool = d.Sheet().Pools[0]
	name := func(i int) geometry.Point {
		return geometry.Point{X: pool.LaneBox(i).Centre().X, Y: pool.Content() - 5*px}
	}
	d.drag(name(0), name(1).Add(at(20, 0)), 0)
	if got := laneNames(d.Sheet()); got != "Stacks, Desk" || d.owner(list[0].ID) != "Stacks" {
		t.Errorf("the lanes are %s (said %v)", got, d.said)
	}
	d.same()
	for range 6 {
		d.Undo()
	}
	d.flush()
	if string(document(t, d.Map())) != start {
		t.Error("undo leaves another map")
	}
}

// Every further stage takes its share of the pool from the room behind the steps, so that the pool stays on its paper.
// Borders of stages are pulled over all lanes, both ways; steps give way only where the border would pass them, with
// their stage together, and each stays in its stage. A stage has a colour, and all in it is selected.
func TestBordersOfStages(t *testing.T) {
	m := model.New("Lanes", model.Rightwards, "A4", true)
	d := open(t, m)
	d.Command("lanes-list", "Desk; Stacks")
	pool := func() *model.Pool { return d.Sheet().Pools[0] }
	long := pool().W
	for i := range 4 {
		d.Command("stage-add", "")
		d.flush()
		d.Writing.Write(d.write, fmt.Sprint("Part ", i))
		d.flush()
	}
	if pool().W != long || len(pool().Stages) != 4 {
		t.Fatalf("with %d stages the pool is %d long, was %d", len(pool().Stages), pool().W/px, long/px)
	}
	for i := range 4 {
		if w := pool().StageBox(i).W; w < long/6 {
			t.Errorf("stage %d is %d long of %d", i, w/px, long/px)
		}
	}
	for i := range 2 { // a step at the end of the first stage, one at the beginning of the second
		b := pool().StageBox(i)
		d.Command("take", "process")
		x := b.Right() - 70*px
		if i == 1 {
			x = b.X + 80*px
		}
		d.click(geometry.Point{X: x, Y: pool().LaneBox(i).Centre().Y}, desk.Alt)
	}
	d.keys("Escape", "Escape")
	a, b := d.Sheet().Symbols[0], d.Sheet().Symbols[1]
	stages := func() string { return d.Sheet().StageOf(a).Name + ", " + d.Sheet().StageOf(b).Name }
	for _, by := range []int{60, 150, 600, -40, -300, -900, 30} {
		before, ax, bx := string(document(t, d.Map())), a.X, b.X
		border := pool().StageBox(0).Right()
		at0 := geometry.Point{X: border, Y: pool().Box().Bottom() - 6*px} // far from the heads
		d.drag(at0, at0.Add(at(by, 0)), 0)
		now := pool().StageBox(0).Right()
		if now == border && by != -900 {
			t.Errorf("pulled by %d the border stays", by)
		}
		if stages() != "Part 0, Part 1" || a.Right() > now || b.X < now {
			t.Errorf("pulled by %d the steps stand in %s: %v, %v at %d", by, stages(), a.Box, b.Box, now)
		}
		if by > 0 && a.X != ax || by < 0 && b.X != bx {
			t.Errorf("pulled by %d a step moves that is not in the way", by)
		}
		if by > 0 && b.X-bx > max(now+model.LanePad-bx, 0) {
			t.Errorf("pulled by %d the step in the way moves by %d", by, (b.X-bx)/px)
		}
		d.same()
		d.Undo()
		d.flush()
		if string(document(t, d.Map())) != before {
			t.Errorf("pulled by %d and taken back it is another map", by)
		}
		d.Redo()
		d.flush()
		a, b = d.Sheet().Symbols[0], d.Sheet().Symbols[1]
	}
	d.click(pool().StageBox(1).Centre(), 0)
	d.Command("fill", "straw")
	d.Command("select-lane", "")
	d.flush()
	if pool().Stages[1].Fill != "straw" || len(d.Sel) != 1 || d.Sel[0] != b.ID {
		t.Errorf("the stage is %q, %v is selected", pool().Stages[1].Fill, d.Sel)
	}
	// A pool that reaches over the paper comes onto it.
	m = chain(4)
	m.Sheets[0].Pools[0].X, m.Sheets[0].Pools[0].W = -200*px, 2000*px
	for _, sym := range m.Sheets[0].Symbols {
		sym.X -= 240 * px
	}
	d = open(t, m)
	d.Command("onto-page", "")
	d.flush()
	if s := d.Sheet(); !s.Area().Holds(s.Drawn()) || d.Proposed != nil {
		t.Errorf("%v is drawn on %v (said %v)", s.Drawn(), s.Area(), d.said)
	}
	d.same()
}

// Stages are added, named, dragged by their names and their ends, and removed; the
// first takes the whole pool.
func TestStages(t *testing.T) {
	m := model.New("Lanes", model.Rightwards, "A4", true)
	d := open(t, m)
	d.Command("lanes-list", "Desk; Stacks")
	start := string(document(t, d.Map()))
	for _, name := range []string{"Ask", "Lend", "Return"} {
		d.Command("stage-add", "")
		d.flush()
		d.Writing.Write(d.write, name)
		d.flush()
	}
	pool := func() *model.Pool { return d.Sheet().Pools[0] }
	names := func() string {
		var out []string
		for _, st := range pool().Stages {
			out = append(out, st.Name)
		}
		return strings.Join(out, ", ")
	}
	if names() != "Ask, Lend, Return" {
		t.Fatalf("the stages are %s (said %v)", names(), d.said)
	}
	d.Command("take", "process")
	d.click(geometry.Point{X: pool().StageBox(1).Centre().X, Y: pool().LaneBox(0).Centre().Y}, 0)
	d.flush()
	step := d.Sheet().Symbols[0]
	stage := func() string { return d.Sheet().StageOf(step).Name }
	if stage() != "Lend" {
		t.Fatalf("the step stands in %s", stage())
	}
	d.drag(pool().StageBox(1).Centre(), pool().StageBox(2).Centre().Add(at(20, 0)), 0)
	if names() != "Ask, Return, Lend" || stage() != "Lend" {
		t.Errorf("dragged on, the stages are %s, and the step stands in %s", names(), stage())
	}
	was := pool().StageBox(0).W
	end := geometry.Point{X: pool().StageBox(0).Right(), Y: pool().StageBox(0).Centre().Y}
	x, long := step.X, pool().W
	d.drag(end, end.Add(at(60, 0)), 0)
	if got := pool().StageBox(0).W; got <= was || step.X != x || pool().W != long {
		t.Errorf("the first stage is %d wide, was %d; what stands beyond has moved by %d", got, was, step.X-x)
	}
	d.click(pool().StageBox(2).Centre(), 0)
	if !strings.Contains(d.Selecting.Described(), "stage Lend") {
		t.Errorf("selected is %s", d.Selecting.Described())
	}
	d.Command("stage-move", "back")
	d.Key("Delete", 0)
	d.flush()
	if names() != "Ask, Return" || stage() != "Ask" {
		t.Errorf("the stages are %s, and the step stands in %s", names(), stage())
	}
	for range 2 {
		d.click(pool().StageBox(0).Centre(), 0)
		d.Command("stage-remove", "")
		d.flush()
	}
	if len(pool().Stages) > 0 || d.Sheet().StageOf(step) != nil {
		t.Errorf("stages are left: %s", names())
	}
	d.same()
	for range 20 {
		d.Undo()
	}
	d.Redo()
	d.flush()
	if string(document(t, d.Map())) != start {
		t.Error("undo leaves another map")
	}
}

// Lanes that are part of the same share a head; the steps move on when it comes, and
// back when it goes. Names are level or turned, lanes and their heads coloured.
func TestLanesAreNestedAndColoured(t *testing.T) {
	d := open(t, model.New("Lanes", model.Rightwards, "A4", true))
	d.Command("lanes-list", "Front; Back; Stacks")
	d.Command("take", "process")
	d.click(d.Sheet().Pools[0].LaneBox(1).Centre(), 0)
	d.flush()
	pool := func() *model.Pool { return d.Sheet().Pools[0] }
	step := d.Sheet().Symbols[0]
	head := func(i int) { d.click(geometry.Point{X: pool().Content() - 5*px, Y: pool().LaneBox(i).Centre().Y}, 0) }
	start := string(document(t, d.Map()))
	x, content := step.X, pool().Content()
	for _, i := range []int{0, 1} {
		head(i)
		d.Command("lane-part", " Desk ")
	}
	d.flush()
	if p := pool(); p.PartRun(0) != p.Lanes[0].H+p.Lanes[1].H || p.PartRun(1) != 0 || p.PartRun(2) != 0 ||
		p.Content()-content != model.PartHead || step.X-x != model.PartHead {
		t.Fatalf("the lanes are %+v, the step has moved by %d", p.Lanes, step.X-x)
	}
	head(2)
	d.Command("lane-move", "up") // between the two: it becomes part of the same
	d.flush()
	if got := pool().Lanes[1]; got.Name != "Stacks" || got.Of != "Desk" {
		t.Errorf("between the two stands %+v", got)
	}
	d.Command("lane-above", "")
	d.flush()
	if got := pool().Lanes[1]; got.Name != "New lane" || got.Of != "Desk" {
		t.Errorf("inserted is %+v", got)
	}
	d.Command("fill", "moss")
	d.Command("lane-head", "clay")
	d.Command("names-level", "")
	d.flush()
	if got := pool(); got.Lanes[1].Fill != "moss" || got.Lanes[1].Head != "clay" || !got.Level ||
		step.X-x != model.PartHead+model.LevelHead-model.LaneHead {
		t.Errorf("the pool is %+v, the step has moved by %d", got, step.X-x)
	}
	for i, a := range d.Sheet().Symbols {
		if !pool().Box().Holds(a.Box) || pool().Content() > a.X {
			t.Errorf("symbol %d stands at %v in a pool of %v", i, a.Box, pool().Box())
		}
	}
	d.same()
	for range 7 {
		d.Undo()
	}
	d.flush()
	if string(document(t, d.Map())) != start {
		t.Error("undo leaves another map")
	}
}

// Several pools stand on a sheet; roles pasted while a lane is selected become
// lanes behind it.
func TestFurtherPoolAndPastedRoles(t *testing.T) {
	d := open(t, model.New("Lanes", model.Rightwards, "A4", true))
	d.Command("pool-add", "")
	d.Command("pool-add", "")
	d.flush()
	s := d.Sheet()
	if len(s.Pools) != 2 || s.Pools[0].Box().Meets(s.Pools[1].Box()) || s.Pools[0].X != s.Pools[1].X {
		t.Fatalf("the pools are %+v", s.Pools)
	}
	d.Writing.Write(s.Pools[1].ID, "The supplier")
	d.click(geometry.Point{X: s.Pools[1].Content() - 5*px, Y: s.Pools[1].LaneBox(0).Centre().Y}, 0)
	d.Clipboard.PasteText("Dispatch\nBilling\n")
	d.flush()
	var names []string
	for _, l := range d.Sheet().Pools[1].Lanes {
		names = append(names, l.Name)
	}
	if got := strings.Join(names, ", "); got != "Lane 1, Dispatch, Billing, Lane 2" || len(d.Sheet().Symbols) > 0 {
		t.Errorf("the lanes are %s", got)
	}
	d.same()
}

// With a step selected, a new stage begins with it and nothing moves.
func TestStageBeginsWithAStep(t *testing.T) {
	d := open(t, model.New("Lanes", model.Rightwards, "A4", true))
	d.Command("lanes-list", "Desk; Stacks")
	for i := range 3 {
		d.Command("take", "process")
		d.click(geometry.Point{X: (250 + i*250) * px, Y: d.Sheet().Pools[0].LaneBox(0).Centre().Y}, 0)
		d.flush()
	}
	list := d.Sheet().Symbols
	before := []geometry.Box{list[0].Box, list[1].Box, list[2].Box}
	d.click(list[1].Centre(), 0)
	d.Command("stage-add", "")
	d.flush()
	d.click(list[2].Centre(), 0)
	d.Command("stage-add", "")
	d.flush()
	s := d.Sheet()
	if len(s.Pools[0].Stages) != 3 {
		t.Fatalf("the stages are %+v (said %v)", s.Pools[0].Stages, d.said)
	}
	for i, sym := range list {
		if got := s.StageOf(sym).ID; got != s.Pools[0].Stages[i].ID {
			t.Errorf("step %d stands in %s", i, got)
		}
		if sym.X != before[i].X || sym.Y-before[i].Y != model.StageHead { // only the heads came in
			t.Errorf("step %d stands at %v, stood at %v", i, sym.Box, before[i])
		}
	}
	d.same()
}

// A pool is drawn anew whatever of it changes: also where turning its names leaves it as long as it
// was, since it is as short as a pool can be.
func TestAShortPoolIsDrawnAnewWhenItsNamesTurn(t *testing.T) {
	m := model.New("Lanes", model.Rightwards, "A4", true)
	m.Sheets[0].Pools = []*model.Pool{{ID: "pool", Title: "P", X: 10 * px, Y: 30 * px, W: model.MinPool, Level: true,
		Lanes: []model.Lane{{ID: "one", Name: "One", H: 120 * px}}}}
	d := open(t, m)
	level := false
	if err := d.Foreign(&edit.SetPool{Sheet: "sheet-1", Pool: "pool", Level: &level}, 1); err != nil {
		t.Fatal(err)
	}
	if p := d.Sheet().Pools[0]; p.W != model.MinPool || p.Level {
		t.Fatalf("the pool is %d px long, level %v", p.W/px, p.Level)
	}
	if patch := string(d.Flush()); !strings.Contains(patch, `["set","pool"`) {
		t.Errorf("it is not drawn anew: %s", patch)
	}
}
