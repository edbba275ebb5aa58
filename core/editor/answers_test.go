package editor_test

import (
	"strings"
	"testing"

	"plaintracer/core/geometry"
	"plaintracer/core/model"
)

// exitsOf lists the answers of a symbol's exits by the texts they lead to.
func exitsOf(s *model.Sheet, id string) string {
	var out []string
	for _, c := range s.Connectors {
		if c.From.Symbol == id {
			out = append(out, c.Text+">"+s.Symbol(c.To.Symbol).Text)
		}
	}
	return strings.Join(out, " ")
}

// A step that becomes a decision late gives the exit it has the first answer and the next one
// the second; chaining first and writing afterwards comes to the same.
func TestDecisionsThatComeLate(t *testing.T) {
	first := func(do func(d *seat)) string {
		d := open(t, two())
		d.click(at(460, 140), 0)
		do(d)
		d.same()
		for _, sym := range d.Sheet().Symbols {
			if sym.Kind == model.Decision {
				return exitsOf(d.Sheet(), sym.ID)
			}
		}
		return "there is no decision"
	}
	rewrite := func(d *seat, text string) { d.keys("F2", "<"+text+">") }
	side := func(d *seat, text string) { // by dragging the foot of the decision to the empty desk
		var sym *model.Symbol
		for _, s := range d.Sheet().Symbols {
			if s.Kind == model.Decision {
				sym = s
			}
		}
		foot := geometry.Point{X: sym.Centre().X, Y: sym.Bottom()}
		d.click(sym.Centre(), 0)
		d.drag(foot, foot.Add(geometry.Point{Y: 220 * px}), 0)
		d.keys("<" + text + ">")
	}
	want := "Yes>Then No>Else"
	if got := first(func(d *seat) {
		d.keys("Enter", "<Known?>", "Enter", "<Then>")
		side(d, "Else")
	}); got != want {
		t.Errorf("written as it is chained: %s", got)
	}
	if got := first(func(d *seat) {
		d.keys("Enter", "<Known>", "Enter", "<Then>", "PageUp")
		rewrite(d, "Known?")
		side(d, "Else")
	}); got != want {
		t.Errorf("made a decision by its text later: %s", got)
	}
	if got := first(func(d *seat) {
		d.keys("Enter", "<Known>", "Enter", "<Then>", "PageUp")
		d.Command("kind", "decision")
		d.flush()
		side(d, "Else")
	}); got != want {
		t.Errorf("made a decision by its kind later: %s", got)
	}
	if got := first(func(d *seat) {
		d.keys("Enter", "<>", "Enter", "<>", "PageUp")
		rewrite(d, "Known?")
		side(d, "Else")
		d.keys("PageUp", "PageDown")
		rewrite(d, "Then")
	}); got != want {
		t.Errorf("chained empty and written later: %s", got)
	}
	if got := first(func(d *seat) { d.keys("Enter", "<Known?>", "Enter", "<Then>", "PageUp", "/") }); got != "No>Then" {
		t.Errorf("swapped where one is missing: %s", got)
	}
}

// The lanes a new map begins with make way for a list of roles, as long as nothing stands in
// them; afterwards lanes are added.
func TestRolesReplaceTheFirstLanes(t *testing.T) {
	m := model.New("New", model.Rightwards, "A4", true)
	pool := &model.Pool{ID: "pool-1", Title: "New", X: 40 * px, Y: 40 * px, W: 900 * px}
	for i, name := range model.FirstLanes {
		pool.Lanes = append(pool.Lanes, model.Lane{ID: "lane-" + string(rune('1'+i)), Name: name, H: pool.LaneStart()})
	}
	m.Sheets[0].Pools = []*model.Pool{pool}
	lanes := func(d *seat) string {
		var names []string
		for _, l := range d.Sheet().Pools[0].Lanes {
			names = append(names, l.Name)
		}
		return strings.Join(names, ", ")
	}
	for list, want := range map[string]string{
		"Desk\nResident": "Resident, Desk",
		"Resident\nDesk\nCrew\nStores\nGrid operator": "Resident, Desk, Crew, Stores, Grid operator", "Crew": "Crew",
	} {
		d := open(t, m)
		d.Command("lanes-list", list)
		d.flush()
		d.same()
		if got := lanes(d); got != want {
			t.Errorf("%q gives %s", list, got)
		}
		d.Undo()
		d.flush()
		if got := lanes(d); got != strings.Join(model.FirstLanes, ", ") {
			t.Errorf("undone there are %s", got)
		}
	}
	d := open(t, m)
	d.Command("take", "process")
	d.click(geometry.Point{X: 52 * px, Y: 90 * px}, 0) // on the names
	step := d.Sheet().Symbols[0]
	if p := d.Sheet().Pools[0]; step.X < p.Content() || d.Sheet().LaneOf(step) == nil {
		t.Errorf("a step clicked on the name of a lane stands at %v, the steps begin at %d", step.Box, p.Content())
	}
	d.Command("lanes-list", "Stores")
	d.flush()
	if got := lanes(d); got != strings.Join(model.FirstLanes, ", ")+", Stores" {
		t.Errorf("with a step in them the lanes are %s", got)
	}
}

// Lines of a list lose their marks and numbers, not the numbers that are part of the text.
func TestPastedListsLoseTheirMarks(t *testing.T) {
	d := open(t, model.New("New", model.Rightwards, "A3", true))
	d.Clipboard.PasteText("1. Ask\n2) Look it up\n- Note\n• Tell\n(c) Write\n1.2. File\n3 days later\n2.5 km on\nA. Smith decides\n– End")
	d.flush()
	var got []string
	for _, sym := range d.Sheet().Symbols {
		got = append(got, sym.Text)
	}
	if want := "Ask|Look it up|Note|Tell|Write|File|3 days later|2.5 km on|A. Smith decides|End"; strings.Join(got,
		"|") != want {
		t.Errorf("pasted as %s", strings.Join(got, "|"))
	}
}

// A step that is being written is not sent before its text, and is kept with it.
func TestAStepWaitsForItsText(t *testing.T) {
	d := open(t, two())
	d.click(at(460, 140), 0)
	d.Key("Enter", 0)
	d.flush()
	if len(d.log) != 0 || len(d.Writing.Held()) == 0 {
		t.Fatalf("sent are %v, held is %s", d.log, d.Writing.Held())
	}
	held, id := string(d.Writing.Held()), d.write
	d.keys("<Next>")
	if strings.Join(d.log, " ") != "AddItems SetText" || len(d.Writing.Held()) != 0 {
		t.Errorf("sent are %v, held is %s", d.log, d.Writing.Held())
	}
	d.same()
	// Another window goes on with it.
	other := open(t, two())
	other.Writing.Resume(id, "", []byte(held))
	other.flush()
	if other.write != id || len(other.log) != 0 {
		t.Fatalf("it is open on %q, sent are %v", other.write, other.log)
	}
	other.keys("<Next>")
	other.same()
	if s := other.Sheet(); len(s.Symbols) != 3 || s.Symbols[2].Text != "Next" || len(s.Connectors) != 1 {
		t.Errorf("the sheet is %s", document(t, other.Map()))
	}
	// Where the step it hangs on is gone, nothing is made.
	gone := open(t, model.New("Empty", model.Rightwards, "A4", true))
	gone.Writing.Resume(id, "", []byte(held))
	gone.flush()
	if gone.write != "" || len(gone.Sheet().Symbols) != 0 {
		t.Error("a step was made without the one it comes after")
	}
	gone.Writing.Resume(id, "", []byte(`[{"seq":1,"edit":{"do":`))
}
