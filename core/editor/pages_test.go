package editor_test

import (
	"slices"
	"strings"
	"testing"

	"plaintracer/core/editor/command"
	"plaintracer/core/editor/desk"
	"plaintracer/core/findings"
	"plaintracer/core/geometry"
	"plaintracer/core/model"
	"plaintracer/core/scene"
	"plaintracer/core/worker"
)

// A whole sheet goes into another map by the clipboard: lanes, stages, heading, choices, with ids
// of its own, as one undo; in its own map it is a second sheet.
func TestAWholeSheetIsPastedIntoAnotherMap(t *testing.T) {
	m := model.New("As it is", model.Rightwards, "A3", true)
	m.Heading = model.Heading{Project: "Street lights", Process: "Repair"}
	s := m.Sheets[0]
	s.Name, s.Headed, s.Merging, s.Edge, s.Crossings = "As it is", true, true, model.EdgeGrow, model.CrossGap
	s.Pools = []*model.Pool{{ID: "pool", Title: "P", X: 10 * px, Y: 30 * px, W: 900 * px,
		Lanes:  []model.Lane{{ID: "one", Name: "Crew", H: 160 * px}},
		Stages: []model.Stage{{ID: "st", Name: "Report", L: 300 * px}}}}
	s.Symbols = []*model.Symbol{
		{ID: "a", Kind: model.Process, Text: "Report fault",
			Box: geometry.Box{X: 150 * px, Y: 90 * px, W: 120 * px, H: 80 * px}, Group: "g"},
		{ID: "b", Kind: model.CallOut, Text: "Why?", Box: geometry.Box{X: 350 * px, Y: 90 * px, W: 120 * px,
			H: 70 * px}, Group: "g", Tip: model.Tip{On: "a"}},
	}
	s.Connectors = []*model.Connector{{ID: "k", From: model.End{Symbol: "a"}, To: model.End{Symbol: "b"}}}
	from := open(t, m)
	data, text := from.Sheets.CopySheet()
	if !strings.Contains(text, "Report fault") {
		t.Errorf("as plain text it is %q", text)
	}
	for name, other := range map[string]*model.Map{"another map": model.New("To be", model.Rightwards, "A4", false),
		"its own map": m.Clone()} {
		d := open(t, other)
		before := string(document(t, d.Map()))
		d.Clipboard.Paste(data)
		d.flush()
		d.same()
		got := d.Sheet()
		if len(d.Map().Sheets) != 2 || got != d.Map().Sheets[1] || got.Name != s.Name || d.Map().Heading != m.Heading {
			t.Fatalf("%s: shown is %q of %d sheets, the heading %v; said %q", name, got.Name, len(d.Map().Sheets),
				d.Map().Heading, d.said)
		}
		want := s.SheetHead
		want.ID = got.ID
		if !got.SheetHead.Equal(&want) {
			t.Errorf("%s: the sheet's choices are %+v", name, got.SheetHead)
		}
		p, a, b, k := got.Pools[0], got.Symbols[0], got.Symbols[1], got.Connectors[0]
		if p.Lanes[0].Name != "Crew" || p.Stages[0].Name != "Report" || b.Tip.On != a.ID || k.From.Symbol != a.ID ||
			k.To.Symbol != b.ID || a.Group != b.Group || a.Group == "" {
			t.Errorf("%s: pasted are %+v, %+v, %+v, %+v", name, p, a, b, k)
		}
		if a.ID == "a" || p.ID == "pool" || p.Lanes[0].ID == "one" || k.ID == "k" {
			t.Errorf("%s: ids came along", name)
		}
		d.Undo()
		d.flush()
		if after := string(document(t, d.Map())); after != before {
			t.Errorf("%s: undone it is %s", name, after)
		}
	}
	d := open(t, m)
	d.Clipboard.Paste(`{"format":"plain-tracer-clip-1","sheet":{"id":"x","symbols":[null]}}`)
	d.flush()
	if len(d.Map().Sheets) != 1 || len(d.said) == 0 {
		t.Errorf("a sheet with gaps was pasted, said is %q", d.said)
	}
}

// A sheet whose paper grows takes a larger paper together with the step that leaves it, in one
// undo, and sets no new row down; by dragging and pasting, too.
func TestThePaperGrowsWithTheDrawing(t *testing.T) {
	d := open(t, model.New("Chain", model.Rightwards, "A4", true))
	d.Command("edge", "grow")
	d.keys("Enter", "<Step>")
	for d.Sheet().Paper == "A4" && len(d.Sheet().Symbols) < 20 {
		d.keys("Enter", "<Step>")
	}
	s := d.Sheet()
	if s.Paper != "A3" || !s.Area().Holds(s.Drawn()) || s.Drawn().H > 120*px {
		t.Fatalf("%d steps stand on %s in %v", len(s.Symbols), s.Paper, s.Drawn())
	}
	n := len(s.Symbols)
	for len(d.Sheet().Symbols) == n { // the text, then the step
		d.Undo()
		d.flush()
	}
	if d.Sheet().Paper != "A4" {
		t.Errorf("undone the paper is %s", d.Sheet().Paper)
	}
	last := d.Sheet().Symbols[n-2]
	d.drag(last.Centre(), last.Centre().Add(at(400, 0)), desk.Alt)
	if d.Sheet().Paper != "A3" {
		t.Errorf("dragged beyond the edge the paper is %s", d.Sheet().Paper)
	}
	d.same()
	// What lay beyond the edge before the choice is held at once.
	d = open(t, two())
	d.Sheet()
	sym := d.Sheet().Symbols[0]
	d.drag(sym.Centre(), sym.Centre().Add(at(1200, 0)), desk.Alt)
	if d.Sheet().Paper != "A4" {
		t.Fatalf("a sheet that stays on the page took %s", d.Sheet().Paper)
	}
	d.Command("edge", "grow")
	d.flush()
	if s := d.Sheet(); s.Paper == "A4" || !s.Area().Holds(s.Drawn()) {
		t.Errorf("the paper is %s", s.Paper)
	}
}

// The fixes of what lies beyond the edge: moved onto the page as it stands where that is enough,
// else laid out; each leaves no such finding.
func TestWhatLiesOffThePageIsMended(t *testing.T) {
	beyond := func(d *seat) (n int) {
		for _, f := range findings.Check(d.Map()) {
			if strings.Contains(f.Text, "beyond the edge") {
				n++
				for _, m := range f.Fixes {
					if !slices.ContainsFunc(d.Directory(), func(e command.Entry) bool {
						return e.Command == m.Command && e.Arg == m.Arg && e.Needs == ""
					}) {
						t.Errorf("the fix %q is no command", m.Title)
					}
				}
			}
		}
		return n
	}
	d := open(t, two())
	before := d.Sheet().Symbols[1].Centre().Sub(d.Sheet().Symbols[0].Centre())
	d.Key("a", desk.Ctrl)
	sym := d.Sheet().Symbols[0]
	d.drag(sym.Centre(), sym.Centre().Add(at(-700, -500)), desk.Alt)
	if beyond(d) == 0 {
		t.Fatal("nothing lies off the page")
	}
	d.Command("onto-page", "")
	d.flush()
	if s := d.Sheet(); beyond(d) > 0 || s.Symbols[1].Centre().Sub(s.Symbols[0].Centre()) != before {
		t.Errorf("they stand at %v and %v", s.Symbols[0].Box, s.Symbols[1].Box)
	}
	// A chain that is longer than the page is proposed laid out.
	m := model.New("Long", model.Rightwards, "A4", true)
	s := m.Sheets[0]
	for i := range 9 {
		id := string(rune('a' + i))
		s.Symbols = append(s.Symbols, &model.Symbol{ID: id, Kind: model.Process, Text: id,
			Box: geometry.Box{X: (20 + 160*i) * px, Y: 100 * px, W: 120 * px, H: 80 * px}})
		if i > 0 {
			s.Connectors = append(s.Connectors,
				&model.Connector{ID: "k" + id, From: model.End{Symbol: s.Symbols[i-1].ID}, To: model.End{Symbol: id}})
		}
	}
	d = open(t, m)
	if beyond(d) == 0 {
		t.Fatal("nothing lies off the page")
	}
	d.Command("onto-page", "")
	answer, err := worker.Do([]byte(d.task()), nil)
	if err != nil {
		t.Fatal(err)
	}
	d.Layout.Worked(answer)
	d.Command("keep", "")
	d.flush()
	if n := beyond(d); n > 0 {
		t.Errorf("%d lie off the page: %v", n, d.Sheet().Drawn())
	}
}

// The tip of a call-out is pulled to a symbol, follows it, and can be pulled to a line, to an empty
// place and home.
func TestTheTipOfACallOutStaysWithWhatItIsAbout(t *testing.T) {
	m := joined()
	s := m.Sheets[0]
	s.Symbols = append(s.Symbols, &model.Symbol{ID: "say", Kind: model.CallOut, Text: "Since March",
		Box: geometry.Box{X: 600 * px, Y: 100 * px, W: 140 * px, H: 70 * px}})
	d := open(t, m)
	tip := func() model.Tip { return d.Sheet().Symbol("say").Tip }
	d.click(at(670, 130), 0)
	b := d.Sheet().Symbol("a")
	d.drag(at(635, 170), b.Centre().Add(at(20, 10)), 0)
	if tip() != (model.Tip{On: "a", At: at(20, 10)}) {
		t.Fatalf("pulled to a symbol it is %+v; said %q", tip(), d.said)
	}
	points := func() geometry.Box {
		nodes := scene.Draw(d.Map(), d.Sheet()).Nodes
		return nodes[slices.IndexFunc(nodes, func(n scene.Node) bool { return n.ID == "say" })].Bounds()
	}
	before := points()
	if !before.Contains(b.Centre().Add(at(20, 10))) {
		t.Errorf("it is drawn within %v, not to %v", before, b.Centre())
	}
	d.drag(b.Centre().Add(at(-30, 0)), b.Centre().Add(at(-30, 120)), desk.Alt)
	if now := points(); !now.Contains(d.Sheet().Symbol("a").Centre().Add(at(20, 10))) {
		t.Errorf("the symbol has gone to %v, it is drawn within %v", d.Sheet().Symbol("a").Box, now)
	}
	d.Undo()
	d.flush()
	d.click(at(670, 130), 0)
	d.leave()
	line := scene.Draw(d.Map(), d.Sheet()).Courses[0].Points
	mid := line.Along(line.Length() / 2)
	d.drag(b.Centre().Add(at(20, 10)), mid, 0)
	if tip().On != s.Connectors[0].ID || geometry.Abs(tip().Along-model.WholeCourse/2) > 200 {
		t.Errorf("pulled to a line it is %+v", tip())
	}
	d.drag(mid, at(560, 400), 0)
	if tip() != (model.Tip{At: at(560-600, 300)}) {
		t.Errorf("pulled to an empty place it is %+v", tip())
	}
	d.drag(at(560, 400), at(650, 120), 0)
	if tip() != (model.Tip{}) {
		t.Errorf("pulled home it is %+v", tip())
	}
	d.same()
}
