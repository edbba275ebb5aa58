package editor_test

import (
	"bytes"
	"image"
	"image/color"
	"image/png"
	"strings"
	"testing"

	"plaintracer/core/editor/desk"
	"plaintracer/core/findings"
	"plaintracer/core/geometry"
	"plaintracer/core/model"
	"plaintracer/core/symbols"
)

// joined is a and b with a connector between them, and c far below.
func joined() *model.Map {
	m := two()
	s := m.Sheets[0]
	s.Symbols = append(s.Symbols, &model.Symbol{ID: "c", Kind: model.Process, Text: "C",
		Box: geometry.Box{X: 250 * px, Y: 400 * px, W: 120 * px, H: 80 * px}})
	s.Connectors = []*model.Connector{{ID: "k", From: model.End{Symbol: "a"}, To: model.End{Symbol: "b"}}}
	return m
}

// stepped is joined with b set lower, so that the course has an upright stretch
// in its middle.
func stepped() *model.Map {
	m := joined()
	m.Sheets[0].Symbols[1].Y = 250 * px
	m.Sheets[0].Connectors[0].From.Side, m.Sheets[0].Connectors[0].To.Side = "right", "left"
	return m
}

// doubled adds a second connector from a to c, and selects the first one, which leads to b.
func (d *seat) doubled() {
	d.click(at(160, 140), 0)
	d.Key("l", desk.Ctrl)
	d.keys("ArrowDown", "Enter")
	d.click(at(310, 220), 0)
}

// toldOfDouble checks that the second of two that say the same was refused with a word.
func (d *seat) toldOfDouble() {
	d.Helper()
	if len(d.said) == 0 || !strings.Contains(d.said[len(d.said)-1], "leads there already") {
		d.Errorf("of the double it says %q", d.said)
	}
}

// What is done to the line of a connector, by mouse and by keys.
func TestLineGestures(t *testing.T) {
	bends := func(s *model.Sheet) []model.Bend { return s.Connectors[0].Bends }
	for _, c := range []gestured{
		{"bend by the mouse", "SetBends", func(d *seat) { d.drag(at(310, 220), at(350, 220), 0) },
			func(s *model.Sheet) bool {
				return len(bends(s)) == 1 && bends(s)[0] == model.Bend{Upright: true, At: 350 * px}
			}},
		{"bend by keys", "SetBends", func(d *seat) { d.click(at(310, 220), 0); d.keys("ArrowRight") },
			func(s *model.Sheet) bool {
				return len(bends(s)) == 1 && bends(s)[0] == model.Bend{Upright: true, At: 320 * px}
			}},
		{"bend twice: both stretches stay", "SetBends SetBends", func(d *seat) {
			d.drag(at(310, 220), at(350, 220), 0)
			d.drag(at(280, 140), at(280, 60), 0)
		}, func(s *model.Sheet) bool { return len(bends(s)) == 2 && bends(s)[1].At == 350*px }},
		{"give the course back", "SetBends SetBends", func(d *seat) {
			d.drag(at(310, 220), at(350, 220), 0)
			d.Key("Backspace", desk.Ctrl)
			d.flush()
		}, func(s *model.Sheet) bool { return len(bends(s)) == 0 }},
		{"moving both ends takes the bend along", "SetBends MoveItems", func(d *seat) {
			d.drag(at(310, 220), at(350, 220), 0)
			d.click(at(130, 130), 0)
			d.click(at(430, 280), desk.Shift)
			d.keys("ArrowRight")
		}, func(s *model.Sheet) bool { return len(bends(s)) == 1 && bends(s)[0].At == 360*px }},
		{"moving one end keeps the bend", "SetBends MoveItems", func(d *seat) {
			d.drag(at(310, 220), at(350, 220), 0)
			d.click(at(430, 280), 0)
			d.keys("ArrowDown")
		}, func(s *model.Sheet) bool { return len(bends(s)) == 1 && bends(s)[0].At == 350*px }},
		{"another end loses the bends laid for the old one", "SetBends SetEnds", func(d *seat) {
			d.drag(at(310, 220), at(350, 220), 0)
			d.click(at(350, 220), 0)
			d.drag(at(400, 290), at(310, 440), 0)
		}, func(s *model.Sheet) bool { return len(bends(s)) == 0 && s.Connectors[0].To.Symbol == "c" }},
		{"connect by keys", "AddItems", func(d *seat) {
			d.click(at(310, 440), 0)
			d.Key("l", desk.Ctrl)
			d.keys("ArrowUp", "Enter")
		}, func(s *model.Sheet) bool {
			return len(s.Connectors) == 2 && s.Connectors[1].From.Symbol == "c" && s.Connectors[1].To.Symbol != ""
		}},
		{"lead an end elsewhere by keys", "SetEnds", func(d *seat) {
			d.click(at(310, 220), 0)
			d.Key("l", desk.Ctrl)
			d.keys("ArrowDown", "Enter")
		}, func(s *model.Sheet) bool { return s.Connectors[0].To.Symbol == "c" }},
		{"connect by keys out of a chosen side", "AddItems", func(d *seat) {
			d.click(at(310, 440), 0)
			d.Key("l", desk.Ctrl)
			for _, key := range []string{"ArrowUp", "Shift+ArrowLeft", "Enter"} {
				d.press(key)
			}
		}, func(s *model.Sheet) bool {
			return s.Connectors[1].From == model.End{Symbol: "c", Side: "left"} && s.Connectors[1].To.Side == ""
		}},
		{"by keys no connector is made twice", "AddItems", func(d *seat) {
			for range 2 {
				d.click(at(310, 440), 0)
				d.Key("l", desk.Ctrl)
				d.keys("ArrowUp", "Enter")
			}
			if len(d.said) == 0 || !strings.Contains(d.said[len(d.said)-1], "leads there already") {
				d.Errorf("of the second it says %q", d.said)
			}
		}, func(s *model.Sheet) bool { return len(s.Connectors) == 2 }},
		{"an end led elsewhere doubles no connector, by keys", "AddItems", func(d *seat) {
			d.doubled()
			d.Key("l", desk.Ctrl)
			d.keys("ArrowDown", "Enter")
			d.toldOfDouble()
		}, func(s *model.Sheet) bool {
			return s.Connectors[1].To.Symbol == "c" && s.Connectors[0].To.Symbol == "b"
		}},
		{"an end led elsewhere doubles no connector, by mouse", "AddItems", func(d *seat) {
			d.doubled()
			d.drag(at(400, 290), at(310, 440), 0)
			d.toldOfDouble()
		}, func(s *model.Sheet) bool {
			return s.Connectors[1].To.Symbol == "c" && s.Connectors[0].To.Symbol == "b"
		}},
		{"the same side again leaves it open", "AddItems", func(d *seat) {
			d.click(at(310, 440), 0)
			d.Key("l", desk.Ctrl)
			for _, key := range []string{"ArrowUp", "Shift+ArrowDown", "Shift+ArrowDown", "Enter"} {
				d.press(key)
			}
		}, func(s *model.Sheet) bool { return s.Connectors[1].From == model.End{Symbol: "c"} }},
		{"lead an end to a chosen side by keys", "SetEnds", func(d *seat) {
			d.click(at(310, 220), 0)
			d.Key("l", desk.Ctrl)
			for _, key := range []string{"ArrowDown", "Shift+ArrowRight", "Enter"} {
				d.press(key)
			}
		}, func(s *model.Sheet) bool { return s.Connectors[0].To == model.End{Symbol: "c", Side: "right"} }},
		{"Esc leaves leading without a trace", "", func(d *seat) {
			d.click(at(310, 220), 0)
			d.Key("l", desk.Ctrl)
			d.keys("ArrowDown", "Escape")
		}, nil},
		{"an end dropped on empty desk is loose", "SetEnds", func(d *seat) {
			d.click(at(310, 220), 0)
			d.drag(at(400, 290), at(600, 500), 0)
		}, func(s *model.Sheet) bool {
			return s.Connectors[0].To.Loose() && s.Connectors[0].To.At == at(600, 500)
		}},
		{"a new connector stays loose with Alt", "AddItems",
			func(d *seat) { d.drag(at(310, 400), at(700, 600), desk.Alt) },
			func(s *model.Sheet) bool { return s.Connectors[1].To.Loose() && len(s.Symbols) == 3 }},
		{"a connector joins another one", "AddItems", func(d *seat) { d.drag(at(310, 400), at(310, 220), 0) },
			func(s *model.Sheet) bool { return s.Connectors[1].To == model.End{Connector: "k"} }},
		{"type a label and slide it by the mouse", "SetText SetPlace", func(d *seat) {
			d.click(at(310, 220), 0)
			d.keys("x", "<when dark>")
			b := d.Courses()[0].Labels[0]
			d.drag(b.Centre(), b.Centre().Add(at(30, 40)), 0)
		}, func(s *model.Sheet) bool {
			return s.Connectors[0].Text == "when dark" && s.Connectors[0].Place != model.Spot{}
		}},
		{"slide a label by keys", "SetText SetPlace", func(d *seat) {
			d.click(at(310, 220), 0)
			d.keys("x", "<when dark>")
			d.Key("ArrowDown", desk.Shift)
			d.flush()
		}, func(s *model.Sheet) bool { return s.Connectors[0].Place != model.Spot{} }},
		{"labels at both ends", "SetText SetText", func(d *seat) {
			d.click(at(310, 220), 0)
			d.Command("label", "from")
			d.flush()
			d.Writing.WriteAt("k", "from", "1")
			d.Writing.WriteAt("k", "to", "n")
			d.flush()
		}, func(s *model.Sheet) bool { return s.Connectors[0].FromText == "1" && s.Connectors[0].ToText == "n" }},
		{"drop a symbol on a connector", "Batch", func(d *seat) { d.drag(at(310, 440), at(312, 200), 0) },
			func(s *model.Sheet) bool {
				return len(s.Connectors) == 2 && s.Connectors[0].To.Symbol == "c" &&
					s.Connectors[1].From.Symbol == "c" && s.Connectors[1].To.Symbol == "b"
			}},
		{"set a new symbol down on a connector", "Batch",
			func(d *seat) { d.Command("take", "document"); d.click(at(312, 200), 0) },
			func(s *model.Sheet) bool { return len(s.Connectors) == 2 && len(s.Symbols) == 4 }},
		{"Alt sets it down beside the line only", "AddItems",
			func(d *seat) { d.Command("take", "document"); d.click(at(312, 200), desk.Alt) },
			func(s *model.Sheet) bool { return len(s.Connectors) == 1 }},
		{"put a new step in between by keys", "Batch SetText",
			func(d *seat) { d.click(at(310, 220), 0); d.keys("Insert", "<Check>") },
			func(s *model.Sheet) bool { return len(s.Connectors) == 2 && s.Symbols[3].Text == "Check" }},
		{"put the selected symbol in between by keys", "Batch", func(d *seat) {
			d.click(at(310, 220), 0)
			d.click(at(310, 440), desk.Shift)
			d.keys("Insert")
		}, func(s *model.Sheet) bool { return len(s.Connectors) == 2 && s.Connectors[0].To.Symbol == "c" }},
		{"change the kind, all else stays", "Batch", func(d *seat) {
			d.click(at(430, 280), 0)
			d.Command("text", "italic")
			d.log = nil
			d.flush()
			d.log = nil
			d.Key("6", desk.Alt)
			d.flush()
		}, nil},
		{"both ways", "SetStyle", func(d *seat) { d.click(at(310, 220), 0); d.Command("ends", "both"); d.flush() },
			func(s *model.Sheet) bool { return s.Connectors[0].FromMark == model.MarkArrow }},
		{"the exceptional path", "SetStyle",
			func(d *seat) { d.click(at(310, 220), 0); d.Command("exceptional", ""); d.flush() },
			func(s *model.Sheet) bool { return s.Connectors[0].Dashed }},
		{"a weight that is no number is refused", "",
			func(d *seat) { d.click(at(310, 220), 0); d.Command("line", "weight=NaN"); d.flush() }, nil},
		{"a weight beyond bounds is refused", "",
			func(d *seat) { d.click(at(310, 220), 0); d.Command("line", "weight=99"); d.flush() }, nil},
	} {
		if c.name == "change the kind, all else stays" {
			c.edits = "SetKind"
		}
		t.Run(c.name, func(t *testing.T) { c.run(t, stepped()) })
	}
}

// Where there is too little room for a symbol put in between, what stands beyond
// moves on, and nothing comes to lie on anything.
func TestPuttingInBetweenMakesRoom(t *testing.T) {
	m := two()
	s := m.Sheets[0]
	s.Symbols[1].X = 260 * px // 40 px beyond the first
	s.Symbols = append(s.Symbols, &model.Symbol{ID: "c", Kind: model.Process, Text: "C",
		Box: geometry.Box{X: 500 * px, Y: 300 * px, W: 120 * px, H: 80 * px}})
	s.Connectors = []*model.Connector{{ID: "k", From: model.End{Symbol: "a"}, To: model.End{Symbol: "b"}}}
	d := open(t, m)
	d.Command("take", "document")
	d.click(at(240, 140), 0)
	list := d.Sheet().Symbols
	for i, p := range list {
		for _, q := range list[:i] {
			if p.Grown(10 * px).Meets(q.Box) {
				t.Errorf("%v and %v are too close", p.Box, q.Box)
			}
		}
	}
	if len(d.Sheet().Connectors) != 2 || list[0].X != 100*px || list[1].X <= 260*px || list[2].X <= 500*px {
		t.Errorf("the sheet is %s", document(t, d.Map()))
	}
	d.Undo()
	d.flush()
	d.same()
	if got, want := string(document(t, d.Map())), string(document(t, m)); got != want {
		t.Errorf("undone it is %s", got)
	}
}

// Deleting a step leaves a gap that can be closed, in one go or afterwards.
func TestClosingTheGap(t *testing.T) {
	chain := func() *model.Map {
		m := two()
		s := m.Sheets[0]
		s.Symbols = append(s.Symbols, &model.Symbol{ID: "c", Kind: model.Process, Text: "C",
			Box: geometry.Box{X: 700 * px, Y: 100 * px, W: 120 * px, H: 80 * px}})
		s.Connectors = []*model.Connector{
			{ID: "k", From: model.End{Symbol: "a"}, To: model.End{Symbol: "b"}, Text: "Yes"},
			{ID: "l", From: model.End{Symbol: "b"}, To: model.End{Symbol: "c"}},
		}
		return m
	}
	closed := func(s *model.Sheet) bool {
		return len(s.Symbols) == 2 && len(s.Connectors) == 1 && s.Connectors[0].To.Symbol == "c" &&
			s.Connectors[0].Text == "Yes"
	}
	for _, c := range []gestured{
		{"with Shift", "Batch", func(d *seat) { d.click(at(460, 140), 0); d.Key("Delete", desk.Shift); d.flush() },
			closed},
		{"offered afterwards", "RemoveItems Revert Batch", func(d *seat) {
			d.click(at(460, 140), 0)
			d.keys("Delete")
			d.Command("close-gap", "")
			d.flush()
		}, closed},
	} {
		t.Run(c.name, func(t *testing.T) { c.run(t, chain()) })
	}
}

// A bend that a moved symbol makes impossible is given back with the move, and
// undo brings both back.
func TestABendThatCannotBeKeptIsGivenBack(t *testing.T) {
	m := two()
	s := m.Sheets[0]
	s.Symbols[1].Box = s.Symbols[0].Box.Moved(at(0, 200))
	s.Symbols = append(s.Symbols, &model.Symbol{ID: "wall", Kind: model.Process,
		Box: geometry.Box{X: 600 * px, Y: -1500 * px, W: 40 * px, H: 4000 * px}})
	s.Connectors = []*model.Connector{{ID: "k", From: model.End{Symbol: "a"}, To: model.End{Symbol: "b"},
		Bends: []model.Bend{{Upright: true, At: 400 * px}}}}
	d := open(t, m)
	before := string(document(t, d.Map()))
	if c := d.Courses()[0]; c.BendsDropped || c.Obstructed {
		t.Fatalf("to begin with the course is %+v", c)
	}
	d.drag(at(620, 250), at(320, 250), desk.Alt) // it comes between the two and the stretch
	if got := d.Sheet().Connectors[0].Bends; len(got) != 0 {
		t.Errorf("the bends are %v; said %q", got, d.said)
	}
	d.Undo()
	d.flush()
	if got := string(document(t, d.Map())); got != before {
		t.Errorf("undone it is %s", got)
	}
}

// Texts that do not fit: the sheet's choice decides what gives way.
func TestFittingFollowsTheSheet(t *testing.T) {
	long := "Look up the pole number in the asset register and compare the address"
	for _, c := range []struct {
		fitting      string
		own, other   bool // whether the symbol and its fellow grow
		fellowsStays bool
	}{{"", true, true, false}, {"alone", true, false, true}, {"smaller", false, false, true}} {
		d := open(t, two())
		d.Command("fitting", c.fitting)
		d.Writing.Write("a", long)
		d.flush()
		s := d.Sheet()
		a, b := s.Symbols[0], s.Symbols[1]
		if own := a.H > 80*px || a.W > 120*px; own != c.own {
			t.Errorf("%q: the symbol is %d by %d", c.fitting, a.W/px, a.H/px)
		}
		if other := b.Box.W != 120*px || b.Box.H != 80*px; other != c.other || c.other && (b.W != a.W || b.H != a.H) {
			t.Errorf("%q: the other is %d by %d", c.fitting, b.W/px, b.H/px)
		}
		// The next one of the kind has the size of the others.
		d.click(b.Centre(), 0)
		d.keys("Enter")
		if n := d.Sheet().Symbols[2]; c.other && (n.W != a.W || n.H != a.H) {
			t.Errorf("%q: the next is %d by %d", c.fitting, n.W/px, n.H/px)
		}
	}
}

// Corners and the outline resize, proportions with Shift, from the centre with Alt, never
// smaller than the kind allows. From beside a symbol a connector is drawn, never an edge pulled; by a
// finger the outline drags the symbol.
func TestHandles(t *testing.T) {
	// Handles stand 4 px off the corners.
	for _, c := range []struct {
		name     string
		from, to geometry.Point
		mods     int
		want     geometry.Box
	}{
		{"right edge", at(220, 120), at(260, 120), 0, geometry.Box{X: 100, Y: 100, W: 160, H: 80}},
		{"left edge", at(101, 165), at(61, 165), 0, geometry.Box{X: 60, Y: 100, W: 160, H: 80}},
		{"top edge", at(130, 98), at(130, 68), 0, geometry.Box{X: 100, Y: 70, W: 120, H: 110}},
		{"bottom edge", at(200, 180), at(200, 220), 0, geometry.Box{X: 100, Y: 100, W: 120, H: 120}},
		{"corner, proportions kept", at(224, 184), at(284, 190), desk.Shift,
			geometry.Box{X: 100, Y: 100, W: 180, H: 120}},
		{"edge, proportions kept", at(200, 180), at(200, 220), desk.Shift, geometry.Box{X: 70, Y: 100, W: 180, H: 120}},
		{"corner, from the centre", at(224, 184), at(244, 194), desk.Alt, geometry.Box{X: 80, Y: 90, W: 160, H: 100}},
		{"no smaller than allowed", at(224, 184), at(0, 0), 0,
			geometry.Box{X: 100, Y: 100, W: symbols.Of(model.Process).MinW / px,
				H: symbols.Of(model.Process).MinH / px}},
	} {
		d := open(t, two())
		d.click(at(150, 150), 0)
		d.drag(c.from, c.to, c.mods)
		c.want.X, c.want.Y, c.want.W, c.want.H = c.want.X*px, c.want.Y*px, c.want.W*px, c.want.H*px
		if got := d.Sheet().Symbols[0].Box; got != c.want {
			t.Errorf("%s: %v, not %v", c.name, got, c.want)
		}
		d.same()
	}
	for _, finger := range []bool{false, true} {
		for _, from := range []geometry.Point{at(222, 140), at(230, 136), at(232, 146), at(160, 90), at(155, 190),
			at(90, 140)} {
			d := open(t, two())
			d.Coarse(finger)
			d.click(at(150, 150), 0)
			was := d.Sheet().Symbols[0].Box
			d.drag(from, at(460, 140), 0)
			if n := len(d.Sheet().Connectors); n != 1 || d.Sheet().Symbols[0].Box != was {
				t.Errorf("drawn from %v, finger %v: %d connectors, and the symbol at %v", from, finger, n,
					d.Sheet().Symbols[0].Box)
			}
			d.same()
		}
	}
	d := open(t, two())
	d.Coarse(true)
	d.click(at(150, 150), 0)
	d.drag(at(219, 110), at(259, 110), 0)
	if b := d.Sheet().Symbols[0].Box; b.W != 120*px || b.X != 140*px {
		t.Errorf("dragged by a finger at its outline it is %d wide at %d", b.W/px, b.X/px)
	}
	// A click on a bar means what is drawn there: a line, or nothing.
	d = open(t, two())
	d.click(at(150, 150), 0)
	d.drag(at(228, 140), at(460, 140), 0)
	d.click(at(150, 150), 0)
	if d.click(at(228, 140), 0); len(d.Sel) != 1 || d.Sheet().Connector(d.Sel[0]) == nil {
		t.Errorf("a click on the line beside it selects %v", d.Sel)
	}
	d.click(at(150, 150), 0)
	if d.click(at(92, 143), 0); len(d.Sel) != 0 {
		t.Errorf("a click beside it selects %v", d.Sel)
	}
}

func TestSameSizeAndSizeToText(t *testing.T) {
	d := open(t, two())
	d.click(at(150, 150), 0)
	d.drag(at(224, 184), at(304, 224), 0) // a is 200 by 120
	d.click(at(460, 140), 0)
	d.click(at(200, 150), desk.Shift)
	d.Command("same", "width")
	if b := d.Sheet().Symbols[1]; b.W != 200*px || b.H != 80*px {
		t.Errorf("the same width gives %d by %d", b.W/px, b.H/px)
	}
	d.Command("same", "both")
	if b := d.Sheet().Symbols[1]; b.W != 200*px || b.H != 120*px {
		t.Errorf("the same size gives %d by %d", b.W/px, b.H/px)
	}
	d.Command("snug", "")
	if b := d.Sheet().Symbols[1]; b.W >= 120*px || b.H >= 80*px {
		t.Errorf("sized to its text it is %d by %d", b.W/px, b.H/px)
	}
	d.flush()
	d.same()
}

// The legend explains what the sheet uses, and keeps up with it.
func TestLegendKeepsItselfUpToDate(t *testing.T) {
	d := open(t, two())
	d.Command("legend", "")
	d.flush()
	legend := func() (h int, text string) {
		for _, sym := range d.Sheet().Symbols {
			if sym.Kind == model.Legend {
				h = sym.H
			}
		}
		return h, string(d.Flush())
	}
	one, _ := legend()
	if one != model.LegendHead+model.LegendRow {
		t.Errorf("for one kind the legend is %d high", one)
	}
	d.Command("take", "document")
	d.Move(at(300, 400), 1000, 0)
	d.Down(at(300, 400), 1000, 0)
	d.Up(at(300, 400), 1000, 0)
	two, patch := legend()
	if two != one+model.LegendRow || !strings.Contains(patch, "Information people can read") {
		t.Errorf("for two kinds the legend is %d high; the window is told %s", two, patch)
	}
	d.Undo()
	if again, _ := legend(); again != one {
		t.Errorf("undone the legend is %d high", again)
	}
}

// A picture from a file is kept once, cleaned, however often it is shown.
func TestPictures(t *testing.T) {
	var file bytes.Buffer
	img := image.NewRGBA(image.Rect(0, 0, 40, 20))
	img.Set(3, 3, color.White)
	if err := png.Encode(&file, img); err != nil {
		t.Fatal(err)
	}
	d := open(t, two())
	before := string(document(t, d.Map()))
	d.Styling.Picture(file.Bytes(), 300*px, 300*px)
	d.keys("Escape")
	d.Styling.Picture(file.Bytes(), 500*px, 300*px)
	d.flush()
	m := d.Map()
	if len(m.Pictures) != 1 || len(d.Sheet().Symbols) != 4 || d.Sheet().Symbols[2].Picture != m.Pictures[0].ID {
		t.Fatalf("there are %d pictures and %d symbols", len(m.Pictures), len(d.Sheet().Symbols))
	}
	d.same()
	d.Styling.Picture([]byte("GIF89a"), 0, 0)
	d.flush()
	if !strings.Contains(strings.Join(d.said, " "), "no PNG, JPEG or SVG") {
		t.Errorf("of another file it says %q", d.said)
	}
	// Copied to another map the picture goes along.
	data, _ := d.Clipboard.Copy()
	other := open(t, two())
	other.Clipboard.Paste(data)
	other.flush()
	if len(other.Map().Pictures) != 1 {
		t.Error("the picture stays behind")
	}
	for range 4 {
		d.Undo()
		d.flush()
	}
	if got := string(document(t, d.Map())); got != before {
		t.Errorf("undone it is %s", got)
	}
}

// A frame takes along what lies in it, and lets clicks through to it.
func TestFrameTakesAlongWhatLiesInIt(t *testing.T) {
	d := open(t, two())
	d.Command("take", "frame")
	d.drag(at(80, 60), at(260, 220), 0)
	if s := d.Sheet(); s.Symbols[0].Kind != model.Frame {
		t.Fatalf("the frame does not lie behind: %v", texts(d.Map()))
	}
	d.keys("Escape")
	d.drag(at(80, 130), at(80, 330), desk.Alt) // by its edge
	s := d.Sheet()
	if s.Symbols[0].Y != 260*px || s.Symbols[1].Y != 300*px || s.Symbols[2].Y != 100*px {
		t.Errorf("moved, they stand at %d, %d and %d", s.Symbols[0].Y/px, s.Symbols[1].Y/px, s.Symbols[2].Y/px)
	}
	d.keys("Escape")
	d.click(at(160, 340), 0)
	if sel := d.Selection(); len(sel) != 1 || sel[0] != "a" {
		t.Errorf("a click inside selects %v", sel)
	}
	d.same()
}

// A file let go over a picture takes its place, whatever is selected; elsewhere it is a new one.
func TestAPictureFileLetGoOverAPicture(t *testing.T) {
	file := func(w int) []byte {
		var b bytes.Buffer
		if err := png.Encode(&b, image.NewRGBA(image.Rect(0, 0, w, 20))); err != nil {
			t.Fatal(err)
		}
		return b.Bytes()
	}
	d := open(t, two())
	d.Styling.PictureOn(file(40), 300*px, 500*px)
	d.Styling.PictureOn(file(60), 600*px, 500*px)
	d.flush()
	list := d.Sheet().Symbols
	if len(list) != 4 || list[2].Picture == list[3].Picture {
		t.Fatalf("there are %d symbols, not two pictures beside two steps", len(list))
	}
	first, second := list[2].Picture, list[3].Picture
	d.Styling.PictureOn(file(80), 300*px, 500*px) // the other one is selected
	d.flush()
	if list = d.Sheet().Symbols; len(list) != 4 || list[2].Picture == first || list[3].Picture != second {
		t.Errorf("of %d symbols the pictures are %s and %s", len(list), list[2].Picture, list[3].Picture)
	}
	d.Styling.PictureOn(file(80), list[0].Centre().X, list[0].Centre().Y)
	d.flush()
	if list = d.Sheet().Symbols; len(list) != 5 || list[4].Picture != list[2].Picture || list[0].Kind != model.Process {
		t.Errorf("over a step there are %d symbols", len(list))
	}
	d.same()
}

// A text that is hard to read is told of at once and among the findings, on every ground: on a fill, in a coloured lane
// or stage, on a label; one click mends it.
func TestFaintTextIsMended(t *testing.T) {
	faint := func(d *seat) (list []string) {
		for _, f := range findings.Check(d.Map()) {
			if strings.Contains(f.Text, "hard to read") {
				list = append(list, f.Symbol)
				if len(f.Fixes) != 1 || f.Fixes[0].Command != "legible" || f.Fixes[0].Arg != f.Symbol {
					t.Errorf("%s is mended by %+v", f.Symbol, f.Fixes)
				}
			}
		}
		return list
	}
	for _, c := range []struct {
		name, on string
		do       func(d *seat)
	}{
		{"a colour of text", "ask", func(d *seat) { d.Command("text", "colour=#cccccc") }},
		{"a dark fill", "ask", func(d *seat) { d.Command("text", "colour=#222"); d.Command("fill", "#123") }},
		{"a middle grey", "ask", func(d *seat) { d.Command("fill", "#7b7b7b"); d.Command("text", "colour=#808080") }},
		{"a label", "c2", func(d *seat) { d.Command("text", "colour=#ddd") }},
		{"a label in a lane", "c2", func(d *seat) {
			d.Command("find", "pool")
			d.Sel, d.Lane = nil, "desk"
			d.Command("fill", "#102030")
			d.Sel, d.Lane = []string{"c2"}, ""
			d.Command("text", "colour=#203040")
		}},
	} {
		d := open(t, flowOf())
		if list := faint(d); len(list) > 0 {
			t.Fatalf("at first %v are hard to read", list)
		}
		d.Sel = []string{c.on}
		c.do(d)
		offer := d.Suggest
		d.flush()
		if list := faint(d); len(list) != 1 || list[0] != c.on {
			t.Errorf("%s: hard to read are %v", c.name, list)
		}
		if offer == nil || offer.Command != "legible" || !strings.Contains(strings.Join(d.said, " "), "hard to read") {
			t.Errorf("%s: said is %v", c.name, d.said)
		}
		d.Sel = nil
		d.Command("legible", c.on)
		d.flush()
		if list := faint(d); len(list) > 0 {
			t.Errorf("%s: mended, hard to read are %v", c.name, list)
		}
		d.same()
	}
}
