package editor_test

import (
	"fmt"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"

	"plaintracer/core/arrange"
	"plaintracer/core/editor/desk"
	"plaintracer/core/geometry"
	"plaintracer/core/model"
)

// press presses a key as it is written in the list of keys.
func (d *seat) press(name string) {
	d.Helper()
	mods := 0
	for prefix, mod := range map[string]int{"Ctrl+": desk.Ctrl, "Alt+": desk.Alt, "Shift+": desk.Shift} {
		if rest, ok := strings.CutPrefix(name, prefix); ok {
			d.pressed(rest, mods|mod)
			return
		}
	}
	d.pressed(name, mods)
}

func (d *seat) pressed(name string, mods int) {
	d.Helper()
	if rest, ok := strings.CutPrefix(name, "Shift+"); ok {
		name, mods = rest, mods|desk.Shift
	}
	if !d.Key(name, mods) {
		d.Fatalf("the key %s with %d is not used", name, mods)
	}
	d.flush()
}

// A flow of ten steps and its start, with two decisions and a loop back, is built
// on an empty sheet without the mouse, in at most three key presses a step beside the text itself. The key
// that ends a text counts; those that write it do not.
func TestTenStepsByKeysAlone(t *testing.T) {
	m := model.New("Keys", model.Rightwards, "A3", true)
	d := open(t, m)
	presses, steps := 0, 0
	key := func(names ...string) {
		for _, name := range names {
			presses++
			d.press(name)
		}
	}
	write := func(text string) {
		t.Helper()
		if d.write == "" {
			t.Fatalf("no field is open for %q (said %v)", text, d.said)
		}
		presses++ // Enter ends the text
		if !d.Writing.Write(d.write, text) {
			t.Fatal(d.said)
		}
		d.flush()
		steps++
	}
	key("3")
	write("A bike is asked for")
	key("Enter")
	write("Look for a free bike")
	key("Enter")
	write("Bike free?")
	key("Enter")
	write("Check the papers")
	key("Enter")
	write("Papers in order?")
	key("Enter")
	write("Hand over the key")
	key("Enter")
	write("Note the mileage")
	key("3")
	write("Bike is lent")
	key("PageUp", "PageUp", "Shift+Enter") // the other answer of “Papers in order?”
	write("Ask for the missing paper")
	key("Ctrl+L", "3", "Enter") // back to “Check the papers”
	key("Home", "PageDown", "PageDown", "Shift+Enter")
	write("Put on the waiting list")
	key("3")
	write("Resident waits")
	if steps != 11 {
		t.Fatalf("%d steps", steps)
	}
	if presses > 3*steps {
		t.Errorf("%d key presses for %d steps are more than three a step", presses, steps)
	}
	t.Logf("%d key presses for %d steps", presses, steps)
	s := d.Sheet()
	text := func(id string) string { return s.Symbol(id).Text }
	var flow []string
	for _, c := range s.Connectors {
		flow = append(flow, text(c.From.Symbol)+" -"+c.Text+"> "+text(c.To.Symbol))
	}
	want := []string{
		"A bike is asked for -> Look for a free bike", "Look for a free bike -> Bike free?",
		"Bike free? -Yes> Check the papers",
		"Check the papers -> Papers in order?", "Papers in order? -Yes> Hand over the key",
		"Hand over the key -> Note the mileage",
		"Note the mileage -> Bike is lent", "Papers in order? -No> Ask for the missing paper",
		"Ask for the missing paper -> Check the papers",
		"Bike free? -No> Put on the waiting list", "Put on the waiting list -> Resident waits",
	}
	if !slices.Equal(flow, want) {
		t.Errorf("the flow is\n%s", strings.Join(flow, "\n"))
	}
	for i, a := range s.Symbols {
		for _, b := range s.Symbols[:i] {
			if a.Meets(b.Box) {
				t.Errorf("%q lies on %q", a.Text, b.Text)
			}
		}
	}
	row := s.Symbols[0].Centre().Y
	for _, sym := range s.Symbols[:8] {
		if sym.Centre().Y != row {
			t.Errorf("%q is not in line", sym.Text)
		}
	}
	d.same()
}

// Wherever a next step is added on a crowded sheet, in lanes or not, it stands in
// line with the step before or beside its branch, on nothing, in that step's
// lane; others make room and keep their lanes.
func TestNewStepsPushOthersAside(t *testing.T) {
	r := rand.New(rand.NewPCG(44, 4))
	for n := range 60 {
		m := model.New("", model.Rightwards, "A3", true)
		if n%3 == 1 {
			m.Direction = model.Downwards
		}
		s := m.Sheets[0]
		if n%3 == 0 {
			s.Pools = []*model.Pool{{ID: "p", W: 900 * px, Lanes: []model.Lane{{ID: "a", H: 110 * px},
				{ID: "b", H: 110 * px}}}}
		}
		s.Symbols = []*model.Symbol{{ID: "first", Kind: model.Process, Text: "x",
			Box: geometry.Box{X: 100 * px, Y: 15 * px, W: 120 * px, H: 80 * px}}}
		d := open(t, m)
		for range 14 {
			list := d.Sheet().Symbols
			from := list[r.IntN(len(list))]
			lane := d.Sheet().LaneOf(from)
			d.Command("find", from.ID)
			if r.IntN(3) == 0 {
				d.keys("2")
			} else {
				d.keys("Enter")
			}
			if len(d.Sheet().Symbols) != len(list)+1 {
				t.Fatalf("%d: nothing was added: %v", n, d.said)
			}
			s := d.Sheet()
			sym := s.Symbols[len(s.Symbols)-1]
			if now := s.LaneOf(sym); lane != nil && (now == nil || now.ID != lane.ID) {
				t.Fatalf("%d: the step after one in lane %s stands in %v", n, lane.ID, now)
			}
			for _, a := range s.Symbols {
				for _, b := range s.Symbols {
					if a != b && a.Meets(b.Box) {
						t.Fatalf("%d: after %d steps %s %v lies on %s %v", n, len(list), a.ID, a.Box, b.ID, b.Box)
					}
				}
			}
		}
		d.same()
	}
}

// flowOf returns a map in lanes with a decision, its two branches and a loop.
func flowOf() *model.Map {
	m := model.New("Flow", model.Rightwards, "A3", true)
	s := m.Sheets[0]
	s.Pools = []*model.Pool{{ID: "pool", Title: "Town", X: 40 * px, Y: 40 * px, W: 1100 * px,
		Lanes: []model.Lane{{ID: "desk", Name: "Desk", H: 120 * px}, {ID: "crew", Name: "Crew", H: 120 * px}}}}
	step := func(id string, kind model.Kind, x, y int, text string) {
		s.Symbols = append(s.Symbols, &model.Symbol{ID: id, Kind: kind, Text: text,
			Box: geometry.Around(at(x, y), 120*px, 80*px)})
	}
	step("ask", model.Process, 200, 100, "Ask")
	step("known", model.Decision, 380, 100, "Known?")
	step("tell", model.Process, 560, 100, "Tell")
	step("look", model.Process, 380, 220, "Look it up")
	step("note", model.Document, 560, 220, "Note")
	link := func(id, from, to, text string) {
		s.Connectors = append(s.Connectors, &model.Connector{ID: id, From: model.End{Symbol: from},
			To: model.End{Symbol: to}, Text: text})
	}
	link("c1", "ask", "known", "")
	link("c2", "known", "tell", "Yes")
	link("c3", "known", "look", "No")
	link("c4", "look", "note", "")
	link("c5", "note", "ask", "")
	return m
}

// What is selected, by the ways to select.
func TestWaysToSelect(t *testing.T) {
	for _, c := range []struct {
		name string
		do   func(d *seat)
		want string
	}{
		{"next along the flow", func(d *seat) { d.click(at(200, 100), 0); d.press("PageDown") }, "known"},
		{"next takes the first answer", func(d *seat) { d.click(at(380, 100), 0); d.press("PageDown") }, "tell"},
		{"the other branch", func(d *seat) {
			d.click(at(380, 100), 0)
			d.press("PageDown")
			d.press("Shift+PageDown")
		}, "look"},
		{"previous", func(d *seat) { d.click(at(380, 220), 0); d.press("PageUp") }, "known"},
		{"previous does not go round the loop", func(d *seat) { d.click(at(200, 100), 0); d.press("PageUp") }, "note"},
		{"first", func(d *seat) { d.press("Home") }, "ask"},
		{"all of a kind", func(d *seat) { d.click(at(200, 100), 0); d.press("Alt+K") }, "ask tell look"},
		{"all in a lane", func(d *seat) { d.click(at(380, 220), 0); d.press("Alt+L") }, "look note"},
		{"downstream", func(d *seat) { d.click(at(560, 100), 0); d.press("Alt+PageDown") }, "tell"},
		{"upstream", func(d *seat) { d.click(at(560, 100), 0); d.press("Alt+PageUp") }, "ask known tell look note"},
		{"everything", func(d *seat) { d.press("Ctrl+A") }, "ask known tell look note c1 c2 c3 c4 c5"},
		{"a band that touches", func(d *seat) { d.drag(at(270, 55), at(520, 75), 0) }, "known tell"},
		{"a band that encloses", func(d *seat) { d.drag(at(130, 55), at(520, 145), desk.Alt) }, "ask known c1 c2"},
		{"a band over steps and the line between", func(d *seat) { d.drag(at(270, 55), at(520, 130), 0) },
			"known tell c1 c2"},
		{"all lines", func(d *seat) { d.drag(at(270, 90), at(290, 120), 0); d.press("Alt+K") }, "c1 c2 c3 c4 c5"},
		{"a band over a line alone", func(d *seat) { d.drag(at(270, 90), at(290, 120), 0) }, "c1"},
		{"Ctrl takes out", func(d *seat) { d.press("Ctrl+A"); d.click(at(380, 220), desk.Ctrl) },
			"ask known tell note c1 c2 c3 c4 c5"},
	} {
		d := open(t, flowOf())
		c.do(d)
		if got := strings.Join(d.Selection(), " "); got != c.want {
			t.Errorf("%s selects %q, not %q (said %v)", c.name, got, c.want, d.said)
		}
	}
}

// The gestures and commands of editing at speed, and the edits they lead to.
func TestGesturesOfSpeed(t *testing.T) {
	first := func(s *model.Sheet, id string) geometry.Box { return s.Symbol(id).Box }
	for _, c := range []gestured{
		{"make room across", "OpenSpace", func(d *seat) { d.drag(at(285, 300), at(345, 305), desk.Ctrl) },
			func(s *model.Sheet) bool {
				return first(s, "ask").X == 140*px && first(s, "known").X == 380*px && first(s, "note").X == 560*px &&
					s.Pools[0].W == 1160*px
			}},
		{"make room down grows the lane", "OpenSpace",
			func(d *seat) { d.Command("room", ""); d.drag(at(700, 150), at(700, 190), 0) },
			func(s *model.Sheet) bool {
				return first(s, "look").Y == 220*px && first(s, "ask").Y == 60*px && s.Pools[0].Lanes[0].H == 160*px
			}},
		{"close a gap no further than to the next symbol", "OpenSpace",
			func(d *seat) { d.drag(at(290, 300), at(100, 300), desk.Ctrl) },
			func(s *model.Sheet) bool { return first(s, "known").X == 270*px }},
		{"into the lane below, beside what stands there", "Batch",
			func(d *seat) { d.click(at(560, 100), 0); d.press("Ctrl+ArrowDown") },
			func(s *model.Sheet) bool {
				return s.LaneOf(s.Symbol("tell")).ID == "crew" && !first(s, "tell").Meets(first(s, "note"))
			}},
		{"drop into another lane", "MoveItems", func(d *seat) { d.drag(at(200, 100), at(200, 220), desk.Shift) },
			func(s *model.Sheet) bool { return s.LaneOf(s.Symbol("ask")).ID == "crew" }},
		{"align to the sheet", "PlaceItems",
			func(d *seat) { d.click(at(200, 100), 0); d.Command("align", "right sheet"); d.flush() },
			func(s *model.Sheet) bool { return first(s, "ask").Right() == s.Page().Right()-4*arrange.Grid }},
		{"nothing leaves its lane by aligning", "PlaceItems", func(d *seat) {
			d.click(at(560, 100), 0)
			d.click(at(380, 220), desk.Shift)
			d.Command("align", "middle")
			d.flush()
			d.Command("align", "left")
			d.flush()
		}, func(s *model.Sheet) bool {
			return first(s, "tell").Y == 60*px && first(s, "tell").X == first(s, "look").X
		}},
		{"group, then one drag moves both", "SetGroups MoveItems", func(d *seat) {
			d.click(at(200, 100), 0)
			d.click(at(380, 100), desk.Shift)
			d.press("Ctrl+G")
			d.click(at(900, 300), 0)
			d.drag(at(380, 75), at(420, 75), desk.Shift)
		}, func(s *model.Sheet) bool {
			return first(s, "known").X-first(s, "ask").X == 180*px && first(s, "ask").X != 140*px
		}},
		{"a second click goes inside the group", "SetGroups MoveItems", func(d *seat) {
			d.click(at(200, 100), 0)
			d.click(at(380, 100), desk.Shift)
			d.press("Ctrl+G")
			d.click(at(380, 100), 0)
			d.keys("ArrowRight")
		}, func(s *model.Sheet) bool { return first(s, "ask").X == 140*px && first(s, "known").X == 330*px }},
		{"groups nest, and come apart one by one", "SetGroups SetGroups SetGroups", func(d *seat) {
			d.click(at(200, 100), 0)
			d.click(at(380, 100), desk.Shift)
			d.press("Ctrl+G")
			d.click(at(560, 100), desk.Shift)
			d.press("Ctrl+G")
			d.press("Ctrl+Shift+G")
		}, func(s *model.Sheet) bool {
			return s.Symbol("ask").Group != "" && s.Symbol("ask").Group == s.Symbol("known").Group &&
				s.Symbol("tell").Group == ""
		}},
		{"what is locked is not moved or deleted", "SetLock", func(d *seat) {
			d.click(at(200, 100), 0)
			d.press("Ctrl+Shift+K")
			d.drag(at(200, 75), at(300, 75), 0)
			d.keys("ArrowRight", "Delete", "x")
		}, func(s *model.Sheet) bool { return s.Symbol("ask").Locked && first(s, "ask").X == 140*px }},
		{"emphasis in one key", "SetStyle", func(d *seat) { d.click(at(200, 100), 0); d.press("Alt+M") },
			func(s *model.Sheet) bool { return s.Symbol("ask").Emphasis }},
		{"a style taken and given, and worn by what is new", "SetStyle Batch AddItems", func(d *seat) {
			d.click(at(200, 100), 0)
			d.Command("fill", "moss")
			d.flush()
			d.press("Alt+C")
			d.click(at(560, 100), 0)
			d.click(at(380, 220), desk.Shift)
			d.press("Alt+V")
			d.Command("take", "process")
			d.click(at(900, 600), 0)
		}, func(s *model.Sheet) bool {
			return s.Symbol("tell").Fill == "moss" && s.Symbol("look").Fill == "moss" && s.Symbols[5].Fill == "moss" &&
				s.Symbol("known").Fill == ""
		}},
		{"a style saved under a name changes all that wear it", "Batch Wear SetStyle Batch", func(d *seat) {
			d.click(at(200, 100), 0)
			d.Command("style-save", "Outside")
			d.flush()
			id := d.Map().Styles[0].ID
			d.click(at(560, 100), 0)
			d.Command("style-wear", id)
			d.flush()
			d.Command("fill", "clay")
			d.flush()
			d.Command("style-change", id)
			d.flush()
		}, func(s *model.Sheet) bool { return s.Symbol("ask").Fill == "clay" && s.Symbol("tell").Fill == "clay" }},
		{"one step forward past what it overlaps", "AddItems Order", func(d *seat) {
			d.Command("take", "note")
			d.click(at(230, 130), desk.Alt)
			d.press("Escape")
			d.click(at(150, 70), 0)
			d.Command("order", "forward")
			d.flush()
		}, func(s *model.Sheet) bool { return s.Symbols[5].ID == "ask" }},
		{"an exit put in between keeps the answer", "Batch",
			func(d *seat) { d.click(at(200, 100), 0); d.keys("Enter") },
			func(s *model.Sheet) bool {
				return len(s.Connectors) == 6 && s.Connectors[0].To.Symbol == s.Symbols[5].ID &&
					s.Connectors[5].To.Symbol == "known" && first(s, "known").X > 380*px-60*px
			}},
		{"text pasted after a step goes on from it", "AddItems",
			func(d *seat) { d.click(at(560, 100), 0); d.Clipboard.PasteText("Write\nGone?\nFile it"); d.flush() },
			func(s *model.Sheet) bool {
				last := s.Connectors[len(s.Connectors)-1]
				return len(s.Connectors) == 8 && last.Text == "Yes" && s.Symbols[5].Centre().Y == 100*px &&
					s.LaneOf(s.Symbols[7]).ID == "desk"
			}},
		{"paste at the pointer", "AddItems", func(d *seat) {
			d.click(at(200, 100), 0)
			data, _ := d.Clipboard.Copy()
			d.Move(at(800, 500), 1000, 0)
			d.Clipboard.PasteHere(data)
			d.flush()
		}, func(s *model.Sheet) bool { return s.Symbols[5].Centre() == at(800, 500) }},
		{"a pool is copied with all that stands in it", "Batch", func(d *seat) {
			d.click(at(50, 150), 0)
			data, _ := d.Clipboard.Copy()
			d.Move(at(700, 600), 1000, 0)
			d.Clipboard.PasteHere(data)
			d.flush()
		}, func(s *model.Sheet) bool {
			return len(s.Pools) == 2 && len(s.Symbols) == 10 && len(s.Connectors) == 10 &&
				s.LaneOf(s.Symbols[9]).ID == s.Pools[1].Lanes[1].ID
		}},
		{"replace everywhere", "SetText", func(d *seat) {
			d.Command("search", "look")
			d.Command("replace-all", "Find")
			d.flush()
		}, func(s *model.Sheet) bool { return s.Symbol("look").Text == "Find it up" }},
		{"straighten shows first and is made on Enter", "PlaceItems", func(d *seat) {
			d.drag(at(560, 75), at(566, 81), desk.Alt)
			d.log = nil
			d.press("Escape")
			d.press("Alt+S")
			if len(d.log) > 0 {
				d.Fatal("it was made before it was kept")
			}
			d.keys("Enter")
		}, func(s *model.Sheet) bool {
			return first(s, "tell").Centre().Y == 100*px && first(s, "tell").Centre().X == first(s, "note").Centre().X
		}},
		{"straighten refused leaves everything", "MoveItems", func(d *seat) {
			d.drag(at(560, 75), at(566, 81), desk.Alt)
			d.press("Alt+S")
			d.keys("Escape")
		}, func(s *model.Sheet) bool { return first(s, "tell").Centre() == at(566, 106) }},
		{"an exact place and size in another unit", "SetHead MoveItems PlaceItems", func(d *seat) {
			d.Command("units", "mm")
			d.flush()
			d.click(at(200, 100), 0)
			d.Command("frame", "x=50")
			d.flush()
			d.Command("frame", "w=2 in")
			d.flush()
		}, func(s *model.Sheet) bool { return first(s, "ask").X == 18898 && first(s, "ask").W == 192*px }},
		{"one symbol is left out when the look changes", "SetStyle SetHead", func(d *seat) {
			d.click(at(200, 100), 0)
			d.Command("look-keep", "")
			d.flush()
			d.Command("look-try", "print")
			d.Command("keep", "")
			d.flush()
		}, func(s *model.Sheet) bool {
			return s.Symbol("ask").Look == "field-book" && s.Symbol("tell").Look == ""
		}},
		{"a look that is tried and left changes nothing", "", func(d *seat) {
			d.Command("look-try", "wall")
			d.Flush()
			d.Command("leave", "")
			d.flush()
		}, func(s *model.Sheet) bool { return first(s, "ask").W == 120*px }},
		{"a background is never selected", "SetSheet", func(d *seat) {
			d.Command("ground", "fog")
			d.flush()
			d.press("Ctrl+A")
			d.click(at(900, 600), 0)
			d.drag(at(900, 600), at(1000, 700), 0)
		}, func(s *model.Sheet) bool { return s.Background.Fill == "fog" }},
		{"a step let go near another stands beside it", "AddItems", func(d *seat) {
			d.Move(at(560, 100), 1000, 0)
			d.drag(at(620, 100), at(660, 110), 0)
			d.keys("Enter")
		}, func(s *model.Sheet) bool {
			last := s.Symbols[5]
			return !last.Meets(first(s, "tell")) && s.LaneOf(last).ID == "desk" && s.Connectors[5].To.Symbol == last.ID
		}},
		{"with Alt a symbol lands where the pointer is", "AddItems", func(d *seat) {
			d.Command("take", "process")
			d.click(at(230, 130), desk.Alt)
		}, func(s *model.Sheet) bool { return s.Symbols[5].Meets(first(s, "ask")) }},
		{"a symbol in hand is set down by Enter", "AddItems", func(d *seat) {
			d.Move(at(800, 500), 1000, 0)
			d.Command("take", "document")
			d.keys("Enter")
		}, func(s *model.Sheet) bool {
			return s.Symbols[5].Kind == model.Document && s.Symbols[5].Contains(at(800, 500))
		}},
		{"another look makes room for its larger type", "Batch", func(d *seat) {
			d.Command("look", "wall")
			d.flush()
		}, nil},
	} {
		t.Run(c.name, func(t *testing.T) {
			m := flowOf()
			if strings.HasPrefix(c.name, "another look") {
				m.Sheets[0].Symbols[0].Text = "Ask whoever has the key to the depot"
				m.Sheets[0].Symbols[0].Box = geometry.Around(at(200, 100), 100*px, 60*px)
			}
			c.run(t, m)
		})
	}
}

// On an empty sheet a paste lands at the same x and y; where something lies there already,
// beside it.
func TestPasteInPlace(t *testing.T) {
	d := open(t, flowOf())
	d.press("Ctrl+A")
	data, text := d.Clipboard.Copy()
	if text != "Ask\nKnown?\nTell\nLook it up\nNote" {
		t.Errorf("as text it is %q", text)
	}
	d.Command("sheet-add", "")
	d.flush()
	d.Clipboard.Paste(data)
	d.flush()
	for i, sym := range d.Sheet().Symbols {
		if was := d.Map().Sheets[0].Symbols[i]; sym.Box != was.Box || sym.Text != was.Text {
			t.Errorf("%s lands at %v, not %v", sym.Text, sym.Box, was.Box)
		}
	}
	if len(d.Sheet().Connectors) != 5 {
		t.Errorf("%d connectors came along", len(d.Sheet().Connectors))
	}
	other := open(t, two())
	other.Clipboard.Paste(data)
	other.flush()
	other.Clipboard.Paste(data)
	other.flush()
	s := other.Sheet()
	if len(s.Symbols) != 12 {
		t.Fatalf("there are %d symbols after two pastes of 5 beside 2", len(s.Symbols))
	}
	for i, sym := range s.Symbols {
		for _, o := range s.Symbols[i+1:] {
			if sym.Meets(o.Box) {
				t.Errorf("%s at %v lies on %s at %v", o.Text, o.Box, sym.Text, sym.Box)
			}
		}
	}
	d.same()
	other.same()
}

// Find goes through all sheets, by text whatever its case and by number, and
// comes round again.
func TestFindGoesThroughAllSheets(t *testing.T) {
	m := flowOf()
	second := flowOf().Sheets[0]
	second.ID, second.Name = "sheet-2", "Sheet 2"
	second.Pools = []*model.Pool{}
	for _, sym := range second.Symbols {
		sym.ID += "2"
	}
	for _, c := range second.Connectors {
		c.ID, c.From.Symbol, c.To.Symbol = c.ID+"2", c.From.Symbol+"2", c.To.Symbol+"2"
	}
	m.Sheets = append(m.Sheets, second)
	d := open(t, m)
	var visited []string
	d.Command("search", "look IT")
	for range 3 {
		visited = append(visited, d.Selection()...)
		d.Command("find-next", "")
		d.flush()
	}
	if got := strings.Join(visited, " "); got != "look look2 look" {
		t.Errorf("visited %s", got)
	}
	d.Command("search", "2")
	if got := d.Selection(); !slices.Equal(got, []string{"known"}) {
		t.Errorf("number 2 finds %v", got)
	}
	d.Command("search", "No")
	seen := map[string]bool{}
	for range 8 {
		for _, id := range d.Selection() {
			seen[id] = true
		}
		d.Command("find-next", "")
	}
	for _, id := range []string{"c3", "c32", "known", "known2", "note", "note2"} {
		if !seen[id] {
			t.Errorf("“No” in %s is not found", id)
		}
	}
}

// Every command that has a name can be run by it: on nothing, on a step and on a
// connector, none panics, breaks the map or leaves something that undo cannot
// take back, and every key of the list does what its entry says.
func TestEveryCommandByItsName(t *testing.T) {
	keys := map[string]string{}
	names := map[string]string{}
	shown := map[string]bool{}
	defer func() {
		for _, name := range []string{"fill", "outline", "text", "line", "kind", "look-try", "dashed"} {
			if !shown[name] {
				t.Errorf("what %s would do is never shown", name)
			}
		}
	}()
	for _, entry := range open(t, flowOf()).Directory() {
		if entry.Key != "" && keys[entry.Key] != "" {
			t.Errorf("%s is the key of %q and of %q", entry.Key, keys[entry.Key], entry.Title)
		}
		keys[entry.Key] = entry.Title
		if had, is := names[entry.Title], entry.Command+" "+entry.Arg; had != "" && had != is {
			t.Errorf("%q is the name of %s and of %s", entry.Title, had, is)
		}
		names[entry.Title] = entry.Command + " " + entry.Arg
		if entry.Title == "" || entry.Part == "" {
			t.Errorf("%s has no title or part", entry.Command)
		}
		for _, selected := range []string{"", "ask", "c2", "pool"} {
			d := open(t, flowOf())
			before := string(document(t, d.Map()))
			if selected != "" {
				d.Command("find", selected)
			}
			sel, said := fmt.Sprint(d.Sel, d.Lane), len(d.said)
			if d.Peek(entry.Command, entry.Arg) {
				shown[entry.Command] = true
			}
			d.flush()
			d.EndPeek()
			d.flush()
			if string(document(t, d.Map())) != before || fmt.Sprint(d.Sel, d.Lane) != sel || len(d.said) != said ||
				len(d.log) > 0 {
				t.Errorf("looking at what %s %s would do on %q left something: said %v", entry.Command, entry.Arg,
					selected,
					d.said[said:])
			}
			d.Command(entry.Command, entry.Arg)
			d.flush()
			d.Command("keep", "")
			d.flush()
			d.same()
			if err := d.Map().Validate(); err != nil {
				t.Fatalf("%s %s on %q: %v", entry.Command, entry.Arg, selected, err)
			}
			for range 3 {
				d.Undo()
				d.flush()
			}
			if entry.Command != "redo" && string(document(t, d.Map())) != before {
				t.Errorf("%s %s on %q cannot be undone", entry.Command, entry.Arg, selected)
			}
		}
	}
}

// Undo says what it takes back.
func TestUndoIsNamed(t *testing.T) {
	d := open(t, flowOf())
	for _, c := range []struct {
		do   func()
		want string
	}{
		{func() { d.press("Alt+L") }, ""},
		{func() { d.click(at(200, 100), 0); d.press("Alt+K"); d.keys("ArrowDown") }, `"undo":"move 3 steps"`},
		{func() { d.press("Ctrl+G") }, `"undo":"group"`},
		{func() { d.keys("Delete") }, `"undo":"delete 3 steps"`},
		{func() { d.click(at(380, 100), 0); d.press("Alt+M") }, `"undo":"style a step"`},
	} {
		c.do()
		if state := string(d.State()); c.want != "" && !strings.Contains(state, c.want) {
			t.Errorf("the state does not say %s", c.want)
		}
	}
}

// A reader who does not see the sheet hears the steps in order, each with its
// number, kind, lane and exits.
func TestOutlineReadsTheSheet(t *testing.T) {
	d := open(t, flowOf())
	var out []string
	for _, step := range d.Selecting.Outline() {
		out = append(out, step.Text+"; "+step.Exits)
	}
	want := `1. Ask, process, lane Desk; leads to 2. Known?
2. Known?, decision, lane Desk; leads to Yes: 3. Tell; No: 4. Look it up
3. Tell, process, lane Desk; leads nowhere yet
4. Look it up, process, lane Crew; leads to Note
Note, document, lane Crew; leads to 1. Ask`
	if got := strings.Join(out, "\n"); got != want {
		t.Errorf("it reads\n%s", got)
	}
	d.click(at(380, 100), 0)
	const said = "2. Known?, decision, lane Desk; leads to Yes: 3. Tell; No: 4. Look it up"
	if got := d.Selecting.Described(); got != said {
		t.Errorf("selected it says %q", got)
	}
}

// Random streams of events: the machine never panics, never leaves a broken map,
// what the window shows is what the server has, and undoing everything gives
// the first bytes back.
func FuzzGestures(f *testing.F) {
	for seed := range uint64(12) {
		f.Add(seed, uint16(200))
	}
	f.Fuzz(func(t *testing.T, seed uint64, length uint16) {
		r := rand.New(rand.NewPCG(seed, 45))
		d := open(t, flowOf())
		before := string(document(t, d.Map()))
		keys := []string{"Enter", "Escape", "Delete", "Backspace", "1", "2", "6", "9", "0", "x", "?", "/", "ArrowLeft",
			"ArrowUp", "ArrowDown", "PageDown", "PageUp", "Home", "End", "Insert", "F2",
			"a", "g", "k", "l", "d", "z", "y", "s", "c", "v", "m", "r", "n"}
		entries := d.Directory()
		clip := ""
		var tail []string
		done := 0
		for range int(length % 400) {
			mods := 0
			if r.IntN(3) == 0 {
				mods = r.IntN(8)
			}
			p := at(r.IntN(1100), r.IntN(400))
			if list := d.Sheet().Symbols; len(list) > 0 && r.IntN(2) == 0 {
				b := list[r.IntN(len(list))].Box
				p = []geometry.Point{b.Centre(), b.Corner(), {X: b.Right(), Y: b.Y + b.H/2},
					{X: b.X + b.W/2, Y: b.Bottom()}}[r.IntN(4)]
			}
			what := ""
			switch r.IntN(12) {
			case 0, 1:
				what = "down"
				d.Down(p, 1000, mods)
			case 2, 3:
				what = "move"
				d.Move(p, 1000, mods)
			case 4, 5:
				what = "up"
				d.Up(p, 1000, mods)
			case 6, 7:
				key := keys[r.IntN(len(keys))]
				what = "key " + key
				d.Key(key, mods)
			case 8:
				entry := entries[r.IntN(len(entries))]
				what = entry.Command + " " + entry.Arg
				d.Command(entry.Command, entry.Arg)
			case 9:
				what = "pause or double"
				if r.IntN(2) == 0 {
					d.settle()
				} else {
					d.Double(p)
				}
			case 10:
				what = "copy or paste"
				if data, _ := d.Clipboard.Copy(); data != "" {
					clip = data
				}
				if r.IntN(3) == 0 && clip != "" && len(d.Sheet().Symbols) < 60 {
					d.Clipboard.Paste(clip)
				}
			case 11:
				what = "write"
				if d.write != "" {
					d.Writing.Write(d.write, fmt.Sprintf("Text %d?", r.IntN(9)))
				}
			}
			if tail = append(tail, what); len(tail) > 12 {
				tail = tail[1:]
			}
			write := d.write
			d.flush()
			if d.write == "" {
				d.write = write
			}
			if done++; done%20 == 0 {
				if err := d.Map().Clone().Validate(); err != nil {
					t.Fatalf("after %q: %v", tail, err)
				}
			}
		}
		d.Key("Escape", 0)
		d.Command("draw", "")
		d.Key("Escape", 0)
		d.Up(at(0, 0), 1000, 0)
		d.flush()
		if err := d.Map().Validate(); err != nil {
			t.Fatalf("after %q: %v", tail, err)
		}
		d.same()
		for range 500 {
			d.Undo()
			d.flush()
		}
		if got := string(document(t, d.Map())); got != before {
			t.Fatalf("undone the map is\n%s\nnot\n%s", got, before)
		}
	})
}
