package editor_test

import (
	"slices"
	"strings"
	"testing"

	"plaintracer/core/arrange"
	"plaintracer/core/editor/desk"
	"plaintracer/core/geometry"
	"plaintracer/core/model"
)

// called returns the symbol with a text on the sheet that is shown.
func (d *seat) called(text string) *model.Symbol {
	d.Helper()
	i := slices.IndexFunc(d.Sheet().Symbols, func(sym *model.Symbol) bool { return sym.Text == text })
	if i < 0 {
		d.Fatalf("no symbol says %q: %s (said %v)", text, texts(d.Map()), d.said)
	}
	return d.Sheet().Symbols[i]
}

// ways lists the connectors of the sheet as From>To, sorted; -> for the exceptional ones.
func (d *seat) ways() string {
	d.leave()
	s := d.Sheet()
	var list []string
	for _, c := range s.Connectors {
		to, arrow := "?", ">"
		if sym := s.Symbol(c.To.Symbol); sym != nil {
			to = sym.Text
		}
		if c.Dashed {
			arrow = "->"
		}
		list = append(list, s.Symbol(c.From.Symbol).Text+arrow+to)
	}
	slices.Sort(list)
	return strings.Join(list, " ")
}

// What is asked for happens, and nothing else: a line does not end on one that goes the same way,
// going on does not cut a loop, a copy is of what is dragged.
func TestALineDoesNotEndOnItsSibling(t *testing.T) {
	m := model.New("Siblings", model.Rightwards, "A4", true)
	m.Sheets[0].Symbols = []*model.Symbol{{ID: "a", Kind: model.Process, Text: "Call",
		Box: geometry.Box{X: 480 * px, Y: 100 * px, W: 120 * px, H: 80 * px}}}
	d := open(t, m)
	d.drag(at(540, 180), at(400, 400), 0)
	d.keys("<Front>")
	d.click(at(800, 600), 0)
	// straight down, on the line and on its label's place
	for _, to := range []geometry.Point{at(540, 300), at(540, 190), at(470, 300)} {
		d.drag(at(540, 180), to, 0)
		if d.Coming == nil {
			t.Fatalf("a line let go at %v makes no step: %s (said %v)", to, d.ways(), d.said)
		}
		d.keys("<Stage>")
		if got := d.ways(); got != "Call>Front Call>Stage" {
			t.Fatalf("the lines are %s", got)
		}
		d.Undo()
		d.Undo()
		d.flush()
		if got := d.ways(); got != "Call>Front" {
			t.Fatalf("undone, the lines are %s", got)
		}
		d.click(at(800, 600), 0)
	}
	// Nor on one that leads back to where it comes from; on any other line it does.
	m.Sheets[0].Symbols = append(m.Sheets[0].Symbols,
		&model.Symbol{ID: "b", Kind: model.Process, Text: "Back",
			Box: geometry.Box{X: 100 * px, Y: 100 * px, W: 120 * px, H: 80 * px}},
		&model.Symbol{ID: "c", Kind: model.Process, Text: "Other",
			Box: geometry.Box{X: 100 * px, Y: 500 * px, W: 120 * px, H: 80 * px}},
		&model.Symbol{ID: "e", Kind: model.Process, Text: "End",
			Box: geometry.Box{X: 800 * px, Y: 500 * px, W: 120 * px, H: 80 * px}})
	m.Sheets[0].Connectors = []*model.Connector{{ID: "k", From: model.End{Symbol: "b"}, To: model.End{Symbol: "a"}},
		{ID: "l", From: model.End{Symbol: "c"}, To: model.End{Symbol: "e"}}}
	d = open(t, m)
	d.drag(at(540, 180), at(350, 140), 0)
	if got := d.ways(); got != "Back>Call Call> Other>End" && got != "Back>Call Other>End" {
		t.Errorf("led to a line that leads back: %s", got)
	}
	d = open(t, m)
	d.drag(at(540, 180), at(540, 540), 0)
	if got := d.ways(); got != "Back>Call Call>? Other>End" || d.Sheet().Connectors[2].To.Connector != "l" {
		t.Errorf("led to another line: %s", got)
	}
}

// loop is One, Two, Three, and a line from Three back to One.
func loop(dashed bool) *model.Map {
	m := model.New("Loop", model.Rightwards, "A4", true)
	s := m.Sheets[0]
	for i, text := range []string{"One", "Two", "Three"} {
		s.Symbols = append(s.Symbols, &model.Symbol{ID: text, Kind: model.Process, Text: text,
			Box: geometry.Box{X: (60 + 200*i) * px, Y: 200 * px, W: 120 * px, H: 80 * px}})
	}
	join := func(id, from, to string) *model.Connector {
		return &model.Connector{ID: id, From: model.End{Symbol: from}, To: model.End{Symbol: to}}
	}
	s.Connectors = []*model.Connector{join("k", "One", "Two"), join("l", "Two", "Three"), join("b", "Three", "One")}
	s.Connectors[2].Dashed = dashed
	return m
}

func TestGoingOnLeavesTheLoop(t *testing.T) {
	for _, c := range []struct {
		name string
		do   func(d *seat)
	}{
		{"Enter", func(d *seat) { d.keys("Enter", "<Four>") }},
		{"a key of the tray", func(d *seat) { d.keys("1", "<Four>") }},
		{"pasted", func(d *seat) { d.Clipboard.PasteText("Four"); d.flush() }},
		{"a row of the register", func(d *seat) { d.Writing.Write(d.Rows.InsertRow("Three"), "Four"); d.flush() }},
	} {
		for _, dashed := range []bool{false, true} {
			d := open(t, loop(dashed))
			d.click(d.called("Three").Centre(), 0)
			c.do(d)
			want := "One>Two Three>Four Three>One Two>Three"
			if dashed {
				want = "One>Two Three->One Three>Four Two>Three"
			}
			if got := d.ways(); got != want {
				t.Errorf("%s, dashed %v: %s", c.name, dashed, got)
			}
		}
	}
	// What is dashed and leads ahead is the exceptional path: going on is beside it, too.
	m := loop(true)
	m.Sheets[0].Connectors[2] = &model.Connector{ID: "b", From: model.End{Symbol: "One"},
		To: model.End{Symbol: "Three"}}
	m.Sheets[0].Connectors[2].Dashed = true
	m.Sheets[0].Connectors = m.Sheets[0].Connectors[1:]
	d := open(t, m)
	d.click(d.called("One").Centre(), 0)
	d.keys("Enter", "<Then>")
	if got := d.ways(); got != "One->Three One>Then Two>Three" {
		t.Errorf("beside an exceptional path: %s", got)
	}
	// Where the flow goes on, the step still comes in between.
	d = open(t, loop(false))
	d.click(d.called("Two").Centre(), 0)
	d.keys("Enter", "<Then>")
	if got := d.ways(); got != "One>Two Then>Three Three>One Two>Then" {
		t.Errorf("in between: %s", got)
	}
}

func TestADragTakesWhatItBeganOn(t *testing.T) {
	for _, mods := range []int{desk.Ctrl, desk.Shift} {
		d := open(t, two())
		d.click(at(160, 140), 0)
		d.drag(at(460, 140), at(460, 400), mods)
		s := d.Sheet()
		if mods == desk.Ctrl && (texts(d.Map()) != "process:A process:B process:B" || s.Symbols[2].X != 400*px) ||
			s.Symbols[0].Box != two().Sheets[0].Symbols[0].Box {
			t.Errorf("with %d held, the drag of B makes %s", mods, document(t, d.Map()))
		}
		// What was selected together is dragged together.
		d = open(t, two())
		d.click(at(160, 140), 0)
		d.click(at(460, 140), desk.Shift)
		d.drag(at(460, 140), at(460, 400), mods)
		if n := len(d.Sheet().Symbols); mods == desk.Ctrl && n != 4 ||
			mods == desk.Shift && d.Sheet().Symbols[0].Y == 100*px {
			t.Errorf("with %d held, the drag of both makes %s", mods, document(t, d.Map()))
		}
	}
}

// A step let go where it would hide another one lies beside it, whoever is dragged with it; with
// Alt it lies where it was put.
func TestAStepHidesNoOther(t *testing.T) {
	d := open(t, two())
	d.drag(at(160, 140), at(460, 140), 0)
	s := d.Sheet()
	if s.Symbols[0].Meets(s.Symbols[1].Box) || s.Symbols[0].X == 100*px {
		t.Errorf("A was dropped on B and lies at %v, B at %v", s.Symbols[0].Box, s.Symbols[1].Box)
	}
	if len(d.said) != 1 || !strings.Contains(d.said[0], "“B”") {
		t.Errorf("said is %q", d.said)
	}
	d.same()
	d.Undo()
	d.flush()
	if got := string(document(t, d.Map())); got != string(document(t, two())) {
		t.Errorf("undone it is %s", got)
	}
	d.drag(at(160, 140), at(460, 140), desk.Alt)
	if s := d.Sheet(); s.Symbols[0].Box != s.Symbols[1].Box {
		t.Errorf("with Alt, A lies at %v", s.Symbols[0].Box)
	}
	d = open(t, two())
	d.drag(at(160, 140), at(460, 140), desk.Ctrl)
	if s := d.Sheet(); len(s.Symbols) != 3 || s.Symbols[2].Meets(s.Symbols[1].Box) {
		t.Errorf("a copy dropped on B: %s", document(t, d.Map()))
	}
	// Two together keep their distance.
	m := two()
	m.Sheets[0].Symbols = append(m.Sheets[0].Symbols, &model.Symbol{ID: "c", Kind: model.Process, Text: "C",
		Box: geometry.Box{X: 100 * px, Y: 300 * px, W: 120 * px, H: 80 * px}})
	d = open(t, m)
	d.click(at(160, 140), 0)
	d.click(at(160, 340), desk.Shift)
	d.drag(at(160, 140), at(460, 140), 0)
	s = d.Sheet()
	if v := s.Symbols[2].Corner().Sub(s.Symbols[0].Corner()); v != at(0, 200) || s.Symbols[0].Meets(s.Symbols[1].Box) {
		t.Errorf("two dropped on B: %s", document(t, d.Map()))
	}
}

// A row that is lined up by its left edges does not come to lie in a pile.
func TestLiningUpMakesNoPile(t *testing.T) {
	d := open(t, two())
	d.click(at(160, 140), 0)
	d.click(at(460, 140), desk.Shift)
	for edge, piles := range map[string]bool{"left": true, "centre": true, "right": true, "top": false,
		"middle": false} {
		d.said = nil
		d.Command("align", edge)
		d.flush()
		if said := len(d.said) == 1 && strings.Contains(d.said[0], "would lie on"); said != piles {
			t.Errorf("lined up by %s: %q", edge, d.said)
		}
	}
	if got := string(document(t, d.Map())); got != string(document(t, two())) {
		t.Errorf("the row is %s", got)
	}
}

// With nothing selected a symbol is set down by its name in the middle of what is seen; a second click in the tray
// sets both down beside each other, and further ones those that are clicked, until something else is done.
func TestSymbolsAreSetDownWithoutThePointer(t *testing.T) {
	d := open(t, model.New("A", model.Rightwards, "A4", false))
	d.Seen = geometry.Box{X: 300 * px, Y: 200 * px, W: 400 * px, H: 300 * px}
	d.Command("set-down", "decision")
	d.flush()
	first := d.Sheet().Symbols[0]
	if c := first.Centre(); first.Kind != model.Decision || geometry.Abs(c.X-500*px) > 10*px ||
		geometry.Abs(c.Y-350*px) > 10*px || len(d.Sel) != 1 {
		t.Fatalf("set down is a %s at %v, %v is selected", first.Kind, first.Centre(), d.Sel)
	}
	d.keys("Escape")
	d.Command("set-down", "process") // the middle is taken
	d.flush()
	if b := d.Sheet().Symbols[1].Box; b.Meets(first.Box) || b.Centre().Manhattan(first.Centre()) > 300*px {
		t.Errorf("the second stands at %v, the first at %v", b, first.Box)
	}

	d = open(t, model.New("A", model.Rightwards, "A4", false))
	kinds := []string{"terminator", "process", "process", "document"}
	for i, kind := range kinds {
		d.Command("tray", kind)
		d.flush()
		if n, want := len(d.Sheet().Symbols), []int{0, 2, 3, 4}[i]; n != want || (d.Hand != "") != (i == 0) {
			t.Fatalf("after %d clicks %d symbols stand there, in the hand is %q", i+1, n, d.Hand)
		}
	}
	for i, sym := range d.Sheet().Symbols {
		if string(sym.Kind) != kinds[i] {
			t.Errorf("symbol %d is a %s", i, sym.Kind)
		}
		if i == 0 {
			continue
		}
		if last := d.Sheet().Symbols[i-1]; sym.X-last.Right() != arrange.Gap || sym.Centre().Y != last.Centre().Y {
			t.Errorf("symbol %d stands at %v, the one before at %v", i, sym.Box, last.Box)
		}
	}
	if len(d.Sheet().Connectors) > 0 {
		t.Error("clicks in the tray connect")
	}
	d.click(at(30, 30), 0)
	if d.Command("tray", "process"); d.Hand != model.Process || len(d.Sheet().Symbols) != 4 {
		t.Errorf("after a click on the desk %q is in the hand", d.Hand)
	}
	d.same()
}

// A line let go over the sheet asks for the symbol that comes: a digit or a click chooses it, Enter or a letter makes a
// process, going on elsewhere leaves the process that was shown, Esc leaves nothing.
func TestALineLetGoOverTheSheetAsksForTheSymbol(t *testing.T) {
	for _, c := range []struct {
		name string
		do   func(d *seat)
		kind model.Kind
		text string
	}{
		{"a digit", func(d *seat) { d.keys("2", "<Known?>") }, model.Decision, "Known?"},
		{"a click", func(d *seat) { d.Command("next-kind", "next:document"); d.flush(); d.keys("<Order>") },
			model.Document, "Order"},
		{"Enter", func(d *seat) { d.keys("Enter", "<Log it>") }, model.Process, "Log it"},
		{"a letter", func(d *seat) { d.keys("<Log it>") }, model.Process, "Log it"},
		{"a click elsewhere", func(d *seat) { d.click(at(800, 700), 0) }, model.Process, ""},
		{"a command", func(d *seat) { d.Command("select-all", "") }, model.Process, ""},
		{"Esc", func(d *seat) { d.keys("Escape") }, "", ""},
		{"another sheet", func(d *seat) { d.Command("sheet-add", ""); d.Command("sheet", "sheet-1") }, model.Process,
			""},
		{"undo", func(d *seat) { d.Undo() }, "", ""},
		{"nothing known", func(d *seat) { d.Command("next-kind", "next:lamp"); d.keys("Escape") }, "", ""},
	} {
		d := open(t, two())
		d.click(at(460, 140), 0)
		d.drag(at(530, 140), at(700, 160), 0)
		if d.Coming == nil || len(d.Sheet().Symbols) != 2 {
			t.Fatalf("let go, there are %d symbols", len(d.Sheet().Symbols))
		}
		c.do(d)
		d.flush()
		s := d.Sheet()
		switch {
		case d.Coming != nil:
			t.Errorf("%s: it still asks", c.name)
		case c.kind == "" && (len(s.Symbols) != 2 || len(s.Connectors) != 0):
			t.Errorf("%s: %d symbols stand there", c.name, len(s.Symbols))
		case c.kind == "":
		case len(s.Symbols) != 3 || s.Symbols[2].Kind != c.kind || s.Symbols[2].Text != c.text:
			t.Errorf("%s: %d symbols, the last %+v", c.name, len(s.Symbols), s.Symbols[len(s.Symbols)-1])
		case len(s.Connectors) != 1 || s.Connectors[0].From.Symbol != "b" ||
			s.Connectors[0].To.Symbol != s.Symbols[2].ID:
			t.Errorf("%s: %d connectors", c.name, len(s.Connectors))
		}
		d.same()
	}
}

// By its name a symbol is set down as the next step of the one that is selected.
func TestSetDownFromTheSearchGoesOn(t *testing.T) {
	set := func(d *seat, kind string) {
		for _, entry := range d.Directory() {
			if entry.Arg == kind && strings.HasPrefix(entry.Title, "Set down") {
				d.Command(entry.Command, entry.Arg)
				d.flush()
			}
		}
	}
	d := open(t, two())
	d.click(at(460, 140), 0)
	set(d, "document")
	d.keys("<Order>")
	if got := d.ways(); got != "B>Order" {
		t.Errorf("set down after B: %s", got)
	}
	d = open(t, two())
	d.click(at(460, 140), 0)
	set(d, "frame")
	if len(d.Sheet().Symbols) != 2 {
		t.Error("a frame follows no step")
	}
	d.keys("Enter")
	if s := d.Sheet(); len(s.Symbols) != 3 || !s.Page().Holds(s.Symbols[0].Box) || len(s.Connectors) != 0 {
		t.Errorf("a frame set down: %s", document(t, d.Map()))
	}
}

// After a refusal nothing that is typed begins a text, until nothing was typed for two seconds or
// something else is selected.
func TestNothingTypedAfterARefusalOverwrites(t *testing.T) {
	for _, refused := range []struct {
		key  string
		mods int
	}{{"Insert", 0}, {"Enter", desk.Shift}, {"/", 0}} {
		d := open(t, two())
		d.click(at(160, 140), 0)
		d.Now(10_000)
		d.Key(refused.key, refused.mods)
		d.flush()
		if len(d.said) == 0 || d.write != "" {
			t.Fatalf("%s is not refused: %v", refused.key, d.said)
		}
		now := int64(10_000)
		for _, key := range []string{"C", "a", "l", "l", " ", "3", "?", "Backspace", "Enter", "Enter"} {
			now += 1900
			d.Now(now)
			if used := d.Key(key, 0); !used {
				t.Errorf("after %s, %q is left to the page", refused.key, key)
			}
			d.flush()
			if d.write != "" || len(d.log) > 0 {
				t.Fatalf("after %s, %q begins a text (%v)", refused.key, key, d.log)
			}
		}
		d.Now(now + 2000)
		d.Key("C", 0)
		d.flush()
		if d.write != "a" {
			t.Errorf("after %s and a rest, nothing can be written", refused.key)
		}
		// Something else is selected: it can be written on at once.
		d = open(t, two())
		d.click(at(160, 140), 0)
		d.Now(10_000)
		d.Key(refused.key, refused.mods)
		d.click(at(460, 140), 0)
		d.Now(10_100)
		d.Key("C", 0)
		d.flush()
		if d.write != "b" {
			t.Errorf("after %s and a click on B, nothing can be written", refused.key)
		}
		// Enter right after a refusal goes on, as it says.
		d = open(t, two())
		d.click(at(160, 140), 0)
		d.Now(10_000)
		d.Key(refused.key, refused.mods)
		d.flush()
		d.keys("Enter", "<C>")
		if got := d.ways(); got != "A>C" {
			t.Errorf("Enter after %s: %s", refused.key, got)
		}
	}
}

// A copied branch lands in sight on free paper, under its owners, and is selected.
func TestABranchLandsOnAnotherSheet(t *testing.T) {
	m := model.New("Branch", model.Rightwards, "A3", true)
	s := m.Sheets[0]
	s.Pools = []*model.Pool{{ID: "pool", Title: "P", X: 10 * px, Y: 30 * px, W: 1500 * px,
		Lanes: []model.Lane{{ID: "one", Name: "Desk", H: 160 * px}, {ID: "two", Name: "Crew", H: 160 * px}}}}
	for i, text := range []string{"Ask", "Go", "Look"} {
		s.Symbols = append(s.Symbols, &model.Symbol{ID: text, Kind: model.Process, Text: text,
			Box: geometry.Box{X: (900 + 180*i) * px, Y: (60 + 160*min(i, 1)) * px, W: 120 * px, H: 80 * px}})
	}
	s.Connectors = []*model.Connector{{ID: "k", From: model.End{Symbol: "Ask"}, To: model.End{Symbol: "Go"}},
		{ID: "l", From: model.End{Symbol: "Go"}, To: model.End{Symbol: "Look"}}}
	small := model.New("", model.Rightwards, "A4", true).Sheets[0]
	small.ID, small.Name = "plain", "Plain"
	small.Symbols = []*model.Symbol{{ID: "there", Kind: model.Process, Text: "There",
		Box: geometry.Box{X: 100 * px, Y: 100 * px, W: 120 * px, H: 80 * px}}}
	laned := small.Clone()
	laned.ID, laned.Name, laned.Symbols = "laned", "Laned", nil
	laned.Pools = []*model.Pool{{ID: "other", Title: "O", X: 10 * px, Y: 30 * px, W: 1000 * px,
		Lanes: []model.Lane{{ID: "x", Name: "Crew", H: 200 * px}, {ID: "y", Name: "Board", H: 200 * px}}}}
	m.Sheets = append(m.Sheets, small, laned)
	for _, c := range []struct{ sheet, take, want string }{
		{"plain", "Ask Go Look", "Desk Crew Crew"},
		{"laned", "Go Look", "Crew Crew"},
		{"laned", "Ask Go Look", "Desk Crew Crew"},
	} {
		d := open(t, m)
		for i, text := range strings.Fields(c.take) {
			d.click(d.called(text).Centre(), min(i, 1)*desk.Shift)
		}
		data, _ := d.Clipboard.Copy()
		d.Command("sheet", c.sheet)
		d.flush()
		had := len(d.Sheet().Symbols)
		d.Clipboard.Paste(data)
		out := string(d.Flush())
		s := d.Sheet()
		var owners []string
		var all geometry.Box
		for _, sym := range s.Symbols[had:] {
			owners, all = append(owners, s.OwnerOf(sym)), all.Union(sym.Box)
			if slices.ContainsFunc(s.Symbols[:had], func(o *model.Symbol) bool { return o.Meets(sym.Box) }) {
				t.Errorf("on %s, %q lies on another", c.sheet, sym.Text)
			}
		}
		if got := strings.Join(owners, " "); got != c.want {
			t.Errorf("on %s they are done by %s", c.sheet, got)
		}
		if !s.Page().Holds(all) || !slices.Equal(d.Selection(), []string{s.Symbols[had].ID, s.Symbols[had+1].ID}) &&
			len(d.Selection()) != len(owners) {
			t.Errorf("on %s they lie at %v and %v are selected", c.sheet, all, d.Selection())
		}
		if len(s.Connectors) != len(owners)-1 || !strings.Contains(out, `"centre":`) {
			t.Errorf("on %s there are %d connectors, and nothing is brought into sight", c.sheet, len(s.Connectors))
		}
	}
}
