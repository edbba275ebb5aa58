package editor_test

import (
	"encoding/json"
	"fmt"
	"slices"
	"strings"
	"testing"

	"plaintracer/bench/hands"
	"plaintracer/bench/processes"
	"plaintracer/core/editor/desk"
	"plaintracer/core/geometry"
	"plaintracer/core/layout"
	"plaintracer/core/model"
	"plaintracer/core/worker"
)

// task returns what the editor asks to have done, as the page finds it.
func (d *seat) task() string {
	d.Helper()
	var out struct{ Task string }
	if err := json.Unmarshal(d.Flush(), &out); err != nil {
		d.Fatal(err)
	}
	return out.Task
}

// layOut has the sheet laid out and shows the proposal.
func (d *seat) layOut(arg string) {
	d.Helper()
	d.Command("lay-out", arg)
	answer, err := worker.Do([]byte(d.task()), nil)
	if err != nil {
		d.Fatal(err)
	}
	d.Layout.Worked(answer)
	d.flush()
}

// The layout is done beside the page, shown, and kept or left; it is one step to
// undo, and the direction of the map goes with it.
func TestLayOutIsProposed(t *testing.T) {
	m := processes.Make(1, processes.Shape{Steps: 15, Strays: 5}).Map()
	d := open(t, m)
	d.flush()
	before := string(document(t, d.Map()))
	d.layOut("down")
	if len(d.said) > 0 || string(document(t, d.server)) != before {
		t.Fatalf("it is made before it is kept: %v", d.said)
	}
	d.Key("Escape", 0)
	d.flush()
	if string(document(t, d.Map())) != before {
		t.Fatal("what was left has changed the map")
	}
	d.layOut("down")
	d.Key("Enter", 0)
	d.flush()
	if d.Map().Direction != model.Downwards {
		t.Error("the map still runs to the right")
	}
	if s := d.Sheet(); s.Symbols[1].Y <= s.Symbols[0].Y || s.Symbols[1].Centre().X != s.Symbols[0].Centre().X {
		t.Errorf("the first two steps stand at %v and %v", s.Symbols[0].Box, s.Symbols[1].Box)
	}
	d.same()
	d.layOut("")
	if n := len(d.said); n == 0 || !strings.Contains(d.said[n-1], "laid out already") {
		t.Errorf("laid out twice it says %q", d.said)
	}
	d.Undo()
	d.flush()
	if string(document(t, d.Map())) != before {
		t.Error("undo leaves another map")
	}
}

// What is simpler as it stands is not laid out: it is straightened, and to lay it out all the same is the other way;
// where it is straight, nothing is changed.
func TestWhatIsSimplerStays(t *testing.T) {
	i := slices.IndexFunc(hands.All(), func(h hands.Hand) bool { return h.Name == "twelve-in-a-row" })
	m := hands.All()[i].Map()
	for i, sym := range m.Sheets[0].Symbols[7:] { // the second row leads back below the first
		sym.Box = geometry.Around(geometry.Point{X: m.Sheets[0].Symbols[6-i].Centre().X, Y: sym.Centre().Y}, sym.W,
			sym.H)
	}
	d := open(t, m)
	before := string(document(t, d.Map()))
	d.layOut("")
	if n := len(d.said); n == 0 ||
		!strings.Contains(d.said[n-1], "As it stands it is simpler than laid out: bends 0, not 2") ||
		!strings.Contains(d.said[n-1], "Nothing was changed") {
		t.Errorf("it says %q", d.said)
	}
	step := d.Sheet().Symbols[3]
	d.drag(step.Centre(), step.Centre().Add(geometry.Point{Y: 4 * px}), desk.Alt)
	was := step.Box
	d.layOut("")
	d.Key("Enter", 0)
	d.flush()
	if got := string(document(t, d.Map())); got != before || d.Sheet().Symbols[3].Box == was {
		t.Errorf("Enter does not straighten it: %s", got)
	}
	d.Undo()
	d.flush()
	d.layOut("")
	d.Command("keep", "other")
	d.flush()
	if got := d.Sheet().Symbols[3].Box; got.Centre().Y == was.Centre().Y && string(document(t, d.Map())) == before {
		t.Error("it cannot be laid out all the same")
	}
	d.same()
}

// charter is a row of so many checks that share one refusal.
func charter(checks int) *model.Map {
	m := model.New("Charter", model.Rightwards, "A4", true)
	s := m.Sheets[0]
	put := func(id string, kind model.Kind) {
		s.Symbols = append(s.Symbols, &model.Symbol{ID: id, Kind: kind, Text: id,
			Box: geometry.Box{X: 100 * px, Y: 100 * px, W: 120 * px, H: 80 * px}})
	}
	lead := func(from, to, text string) {
		s.Connectors = append(s.Connectors, &model.Connector{ID: from + to, From: model.End{Symbol: from},
			To: model.End{Symbol: to}, Text: text})
	}
	put("begin", model.Terminator)
	put("refuse", model.Process)
	last, answer := "begin", ""
	for i := range checks {
		id := fmt.Sprint("check", i)
		put(id, model.Decision)
		lead(last, id, answer)
		lead(id, "refuse", "No")
		last, answer = id, "Yes"
	}
	put("grant", model.Terminator)
	lead(last, "grant", answer)
	return m
}

// Where a flow needs many more bends in rows than in one, a paper is proposed that holds it in one; rows are the other
// way.
func TestALargerPaperRatherThanTangledRows(t *testing.T) {
	d := open(t, charter(7))
	d.Command("lay-out", "")
	answer, err := worker.Do([]byte(d.task()), nil)
	if err != nil {
		t.Fatal(err)
	}
	d.Layout.Worked(answer)
	raw := string(d.Flush())
	if !strings.Contains(raw, "in one row on A") || !strings.Contains(raw, "In rows on A4") {
		t.Fatalf("proposed is %.600s", raw[strings.Index(raw, `"state"`):])
	}
	d.Key("Enter", 0)
	d.flush()
	s := d.Sheet()
	if s.Paper == "A4" || !s.Area().Holds(s.Drawn()) || layout.Measure(d.Map(), s, false).Bends > 16 {
		t.Errorf("on %s with %+v", s.Paper, layout.Measure(d.Map(), s, false))
	}
	d.same()
	d.Undo()
	d.flush()
	d.layOut("")
	d.Command("keep", "other")
	d.flush()
	if s := d.Sheet(); s.Paper != "A4" {
		t.Errorf("the other way lies on %s", s.Paper)
	}
}

// With several symbols selected only these move; what was asked for another sheet,
// or is no task, changes nothing.
func TestLayOutOfASelection(t *testing.T) {
	m := processes.Make(2, processes.Shape{Steps: 12}).Map()
	d := open(t, m)
	d.layOut("")
	d.Key("Enter", 0)
	d.flush()
	stays := d.Sheet().Symbols[0].Box
	d.click(d.Sheet().Symbols[2].Centre(), 0)
	d.click(d.Sheet().Symbols[3].Centre(), desk.Shift)
	d.Command("lay-out", "")
	task := d.task()
	if !strings.Contains(task, `"ids":["n2","n3"]`) {
		t.Errorf("the task names other symbols: %.100s", task)
	}
	answer, err := worker.Do([]byte(task), nil)
	if err != nil {
		t.Fatal(err)
	}
	d.Layout.Worked(answer)
	d.Key("Enter", 0)
	d.flush()
	if d.Sheet().Symbols[0].Box != stays {
		t.Error("what was not selected has moved")
	}
	d.Command("lay-out", "")
	task = d.task()
	answer, _ = worker.Do([]byte(task), nil)
	d.Command("sheet-add", "")
	d.flush()
	before := string(document(t, d.Map()))
	if string(answer) != "null" {
		d.Layout.Worked(answer)
	}
	for _, broken := range []string{"{", `{"do":"layOut","sheet":"nowhere"}`,
		`{"do":"setText","sheet":"sheet-1","id":"n1","text":"x"}`} {
		d.Layout.Worked([]byte(broken))
		d.Command("keep", "")
	}
	d.Key("Escape", 0)
	d.flush()
	if string(document(t, d.Map())) != before {
		t.Error("what does not fit any more has changed the map")
	}
	if _, err := worker.Do([]byte(`{"map":{"sheets":[]},"sheet":"x"}`), nil); err == nil {
		t.Error("a task without its sheet is done")
	}
}

// Where it is larger than its paper, a larger one that holds it is offered; that
// is one step to undo, too.
func TestLayOutOffersALargerPaper(t *testing.T) {
	m := processes.Make(4, processes.Shape{Steps: 12, Lanes: 3}).Map()
	m.Sheets[0].Paper = "A4"
	d := open(t, m)
	before := string(document(t, d.Map()))
	d.Command("lay-out", "")
	answer, err := worker.Do([]byte(d.task()), nil)
	if err != nil {
		t.Fatal(err)
	}
	d.Layout.Worked(answer)
	var out struct {
		State struct{ Proposal, Other string }
	}
	if err := json.Unmarshal(d.Flush(), &out); err != nil || out.State.Other != "Keep on A3" {
		t.Fatalf("it offers %q with %q", out.State.Other, out.State.Proposal)
	}
	d.Command("keep", "other")
	d.flush()
	if s := d.Sheet(); s.Paper != "A3" || !s.Page().Holds(s.Extent()) {
		t.Errorf("%v lies on %s", s.Extent(), s.Paper)
	}
	d.Undo()
	d.flush()
	if string(document(t, d.Map())) != before {
		t.Error("undo leaves another map")
	}
}

// A flow that is larger than its paper can go on over further sheets, by pairs of
// references; kept, it is one step to undo.
func TestLayOutOverSheets(t *testing.T) {
	m := processes.Make(4, processes.Shape{Steps: 20, Lanes: 3}).Map()
	m.Sheets[0].Paper = "A4"
	d := open(t, m)
	before := string(document(t, d.Map()))
	d.layOut("")
	if !strings.Contains(string(d.State()), `"longer":true`) {
		t.Fatalf("it is not offered: %s", d.State())
	}
	d.layOut("over")
	if !strings.Contains(string(d.State()), "more sheet") {
		t.Fatalf("it proposes %s (said %v)", d.State(), d.said)
	}
	d.Key("Enter", 0)
	d.flush()
	if len(d.Map().Sheets) < 2 {
		t.Fatal("there is one sheet")
	}
	for _, s := range d.Map().Sheets {
		if page := s.Page(); s.Drawn().Right() > page.Right() {
			t.Errorf("%s reaches beyond its paper", s.Name)
		}
		for _, sym := range s.Symbols {
			if _, partner := d.Map().Partner(sym); sym.Kind.IsReference() && partner == nil {
				t.Errorf("the reference %s stands alone", sym.Text)
			}
		}
	}
	d.same()
	d.Undo()
	d.flush()
	if string(document(t, d.Map())) != before {
		t.Error("undo leaves another map")
	}
}
