package editor_test

import (
	"bytes"
	"encoding/json"
	"fmt"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"

	"plaintracer/core/edit"
	"plaintracer/core/editor"
	"plaintracer/core/editor/desk"
	"plaintracer/core/geometry"
	"plaintracer/core/model"
	"plaintracer/core/scene"
)

const px = geometry.Px

func at(x, y int) geometry.Point { return geometry.Point{X: x * px, Y: y * px} }

func document(t testing.TB, m *model.Map) []byte {
	t.Helper()
	raw, err := json.Marshal(m)
	if err != nil {
		t.Fatal(err)
	}
	return raw
}

// seat is an editor whose edits go to a server that commits them at once.
type seat struct {
	testing.TB
	*editor.Editor
	server *model.Map
	said   []string
	write  string
	log    []string // the names of the edits sent
	rev    int
}

func open(t testing.TB, m *model.Map) *seat {
	t.Helper()
	d := &seat{TB: t, Editor: editor.New(), server: m.Clone()}
	if err := d.Open(document(t, m), 0, "w1"); err != nil {
		t.Fatal(err)
	}
	d.flush()
	return d
}

// settle has what is only sketched computed exactly, as the page does when nothing
// else happens.
func (d *seat) settle() {
	for d.Pause() {
	}
}

// flush takes what the editor gives out, as the page does.
func (d *seat) flush() {
	d.Helper()
	var out struct {
		Patch [][]any
		Send  []struct {
			Seq  int
			Edit edit.Envelope
		}
		Say   string
		Write *struct{ ID string }
	}
	raw := d.Flush()
	if err := json.Unmarshal(raw, &out); err != nil {
		d.Fatalf("%v in %s", err, raw)
	}
	for _, p := range out.Send {
		wire, _ := json.Marshal(p.Edit)
		var e edit.Envelope
		if err := json.Unmarshal(wire, &e); err != nil {
			d.Fatalf("%v in %s", err, wire)
		}
		if _, err := edit.Apply(d.server, e.Edit); err != nil {
			d.Fatalf("the server refuses %s: %v", wire, err)
		}
		d.log = append(d.log, fmt.Sprintf("%T", e.Edit)[len("*edit."):])
		d.rev++
		d.Confirm(p.Seq, d.rev)
	}
	if out.Say != "" {
		d.said = append(d.said, out.Say)
	}
	d.write = ""
	if out.Write != nil {
		d.write = out.Write.ID
	}
}

func (d *seat) drag(from, to geometry.Point, mods int) {
	d.Helper()
	d.Move(from, 1000, 0)
	d.Down(from, 1000, mods)
	for i := 1; i <= 4; i++ {
		v := to.Sub(from)
		d.Move(from.Add(geometry.Point{X: v.X * i / 4, Y: v.Y * i / 4}), 1000, mods)
		d.flush()
	}
	d.Up(to, 1000, mods)
	d.flush()
}

func (d *seat) click(p geometry.Point, mods int) {
	d.Move(p, 1000, 0)
	d.Down(p, 1000, mods)
	d.Up(p, 1000, mods)
	d.flush()
}

// keys presses keys; a text in angle brackets is written in the field.
func (d *seat) keys(keys ...string) {
	d.Helper()
	for _, k := range keys {
		if text, ok := strings.CutPrefix(k, "<"); ok {
			if d.Coming != nil { // its first letter opens the field
				d.Key(text[:1], 0)
				d.flush()
			}
			if !d.Writing.Write(d.write, strings.TrimSuffix(text, ">")) {
				d.Fatalf("the text %q was refused: %v", text, d.said)
			}
		} else {
			d.Key(k, 0)
		}
		d.flush()
	}
}

// leave gives up the text that is open, as a click elsewhere does with an empty one: what made
// its step goes to the server then.
func (d *seat) leave() {
	d.Writing.Cancel()
	d.flush()
}

func (d *seat) same() {
	d.Helper()
	d.leave()
	if mine, theirs := string(document(d, d.Map())), string(document(d, d.server)); mine != theirs {
		d.Fatalf("the window shows\n%s\nthe server has\n%s", mine, theirs)
	}
}

// texts lists the symbols as kind:text.
func texts(m *model.Map) string {
	var out []string
	for _, s := range m.Sheets {
		for _, sym := range s.Symbols {
			out = append(out, string(sym.Kind)+":"+sym.Text)
		}
	}
	return strings.Join(out, " ")
}

func two() *model.Map {
	m := model.New("Two", model.Rightwards, "A4", true)
	m.Sheets[0].Symbols = []*model.Symbol{
		{ID: "a", Kind: model.Process, Text: "A", Box: geometry.Box{X: 100 * px, Y: 100 * px, W: 120 * px, H: 80 * px}},
		{ID: "b", Kind: model.Process, Text: "B", Box: geometry.Box{X: 400 * px, Y: 100 * px, W: 120 * px, H: 80 * px}},
	}
	return m
}

// gestured is something a person does, the edits it leads to, and what the
// sheet is then.
type gestured struct {
	name, edits string
	do          func(d *seat)
	check       func(s *model.Sheet) bool
}

// run does it on a map, and takes it all back again.
func (c *gestured) run(t *testing.T, m *model.Map) {
	d := open(t, m)
	before := string(document(t, d.Map()))
	c.do(d)
	d.leave()
	if got := strings.Join(d.log, " "); got != c.edits {
		t.Fatalf("edits are %q, not %q (said %v)", got, c.edits, d.said)
	}
	if c.check != nil && !c.check(d.Sheet()) {
		t.Fatalf("the sheet is %s", document(t, d.Map()))
	}
	d.same()
	for range 6 {
		d.Undo()
		d.flush()
	}
	if got := string(document(t, d.Map())); got != before {
		t.Fatalf("undone it is %s, not %s", got, before)
	}
}

// Gestures and the edits they lead to.
func TestGestures(t *testing.T) {
	for _, c := range []gestured{
		{"set down in standard size", "AddItems",
			func(d *seat) { d.Command("take", "decision"); d.click(at(300, 400), 0) },
			func(s *model.Sheet) bool { return s.Symbols[2].W == 120*px && s.Symbols[2].H == 80*px }},
		{"draw to size", "AddItems",
			func(d *seat) { d.Command("take", "process"); d.drag(at(300, 400), at(500, 500), 0) },
			func(s *model.Sheet) bool {
				return s.Symbols[2].Box == geometry.Box{X: 300 * px, Y: 400 * px, W: 200 * px, H: 100 * px}
			}},
		{"Esc puts the symbol back", "",
			func(d *seat) { d.Command("take", "process"); d.keys("Escape"); d.click(at(300, 400), 0) }, nil},
		{"move lines up with the other", "MoveItems", func(d *seat) { d.drag(at(130, 130), at(173, 333), 0) },
			func(s *model.Sheet) bool { return s.Symbols[0].X == 143*px || s.Symbols[0].X == 140*px }},
		{"Shift keeps to one axis", "MoveItems", func(d *seat) { d.drag(at(130, 130), at(190, 160), desk.Shift) },
			func(s *model.Sheet) bool { return s.Symbols[0].Y == 100*px && s.Symbols[0].X != 100*px }},
		{"Ctrl drags a copy", "AddItems", func(d *seat) { d.drag(at(130, 130), at(130, 330), desk.Ctrl) },
			func(s *model.Sheet) bool { return s.Symbols[0].Y == 100*px && s.Symbols[2].Text == "A" }},
		{"rubber band and delete", "RemoveItems",
			func(d *seat) { d.drag(at(50, 50), at(300, 300), 0); d.keys("Delete") },
			func(s *model.Sheet) bool { return len(s.Symbols) == 1 && s.Symbols[0].ID == "b" }},
		{"connect from a glue point to a symbol", "AddItems", func(d *seat) { d.drag(at(220, 140), at(460, 140), 0) },
			func(s *model.Sheet) bool {
				return len(s.Connectors) == 1 && s.Connectors[0].From == model.End{Symbol: "a", Side: "right"} &&
					s.Connectors[0].To == model.End{Symbol: "b"}
			}},
		{"connect to a glue point", "AddItems", func(d *seat) { d.drag(at(220, 140), at(460, 100), 0) },
			func(s *model.Sheet) bool { return s.Connectors[0].To == model.End{Symbol: "b", Side: "top"} }},
		{"connect to empty desk makes the next step", "AddItems SetText",
			func(d *seat) { d.drag(at(160, 180), at(160, 400), 0); d.keys("<Next>") },
			func(s *model.Sheet) bool {
				return s.Symbols[2].Text == "Next" && s.Connectors[0].To.Symbol == s.Symbols[2].ID
			}},
		{"Enter appends, ? makes a decision", "AddItems Batch",
			func(d *seat) { d.click(at(460, 140), 0); d.keys("Enter", "<Done?>") },
			func(s *model.Sheet) bool { return s.Symbols[2].Kind == model.Decision && s.Symbols[2].X == 560*px }},
		{"a digit appends that kind", "AddItems", func(d *seat) { d.click(at(460, 140), 0); d.keys("6") },
			func(s *model.Sheet) bool { return s.Symbols[2].Kind == model.Document && len(s.Connectors) == 1 }},
		{"typing writes", "SetText", func(d *seat) { d.click(at(460, 140), 0); d.keys("x", "<xyz>") },
			func(s *model.Sheet) bool { return s.Symbols[1].Text == "xyz" }},
		{"resize by a corner", "PlaceItems",
			func(d *seat) { d.click(at(150, 150), 0); d.drag(at(222, 182), at(262, 212), 0) },
			func(s *model.Sheet) bool { return s.Symbols[0].W == 160*px && s.Symbols[0].H == 110*px }},
		{"nudge", "MoveItems MoveItems", func(d *seat) {
			d.click(at(150, 150), 0)
			d.keys("ArrowRight")
			d.Key("ArrowUp", desk.Alt)
			d.flush()
		},
			func(s *model.Sheet) bool { return s.Symbols[0].Corner() == at(110, 99) }},
		{"align to the last selected", "PlaceItems", func(d *seat) {
			d.click(at(150, 150), 0)
			d.keys("ArrowDown")
			d.log = nil
			d.click(at(460, 140), desk.Shift)
			d.Command("align", "top")
			d.flush()
		}, func(s *model.Sheet) bool { return s.Symbols[0].Y == 100*px }},
		{"Shift-click takes out of the selection", "RemoveItems", func(d *seat) {
			d.keys()
			d.Key("a", desk.Ctrl)
			d.click(at(150, 150), desk.Shift)
			d.keys("Delete")
		}, func(s *model.Sheet) bool { return len(s.Symbols) == 1 && s.Symbols[0].ID == "a" }},
		{"copy and paste", "AddItems", func(d *seat) {
			d.Key("a", desk.Ctrl)
			data, _ := d.Clipboard.Copy()
			d.Clipboard.Paste(data)
			d.flush()
		}, func(s *model.Sheet) bool {
			return len(s.Symbols) == 4 && s.Symbols[2].X > s.Symbols[1].Right() && s.Symbols[2].Y == 100*px
		}},
		{"text pasted becomes steps", "AddItems",
			func(d *seat) { d.Clipboard.PasteText("Ask\n\nWait long?\r\n"); d.flush() },
			func(s *model.Sheet) bool {
				return s.Symbols[2].Text == "Ask" && s.Symbols[3].Kind == model.Decision
			}},
		{"a command that does not apply says what it needs", "",
			func(d *seat) { d.Command("align", "left"); d.flush() }, nil},
	} {
		t.Run(c.name, func(t *testing.T) { c.run(t, two()) })
	}
}

func TestAnswersOfADecision(t *testing.T) {
	d := open(t, two())
	d.click(at(460, 140), 0)
	d.keys("Enter", "<Known?>", "Enter", "<Look up>")
	decision := d.Sheet().Symbols[2]
	d.click(decision.Centre(), 0)
	d.keys("Enter", "<Register>")
	c := d.Sheet().Connectors
	if c[1].Text != "Yes" || c[2].Text != "No" {
		t.Fatalf("the exits say %q and %q", c[1].Text, c[2].Text)
	}
	d.click(decision.Centre(), 0)
	d.keys("/")
	if c[1].Text != "No" || c[2].Text != "Yes" {
		t.Fatalf("swapped, the exits say %q and %q", c[1].Text, c[2].Text)
	}
	d.same()
}

func TestReferencesTakeTheLetterOfTheirPair(t *testing.T) {
	d := open(t, two())
	put := func(kind string, x int) {
		d.Command("take", kind)
		d.click(at(x, 500), 0)
	}
	put("sheet-reference", 100)
	put("reference", 300)
	put("reference", 500)
	put("sheet-reference", 700)
	d.Command("sheet-add", "")
	put("sheet-reference", 100)
	put("sheet-reference", 300)
	if got := texts(d.Map()); got != "process:A process:B sheet-reference:A reference:B reference:B sheet-reference:C sheet-reference:A sheet-reference:C" {
		t.Errorf("the letters are %s", got)
	}
	d.Command("follow", "")
	if d.Sheet() != d.Map().Sheets[0] {
		t.Error("following a reference does not lead to its partner")
	}
}

func TestLaneCommands(t *testing.T) {
	d := open(t, two())
	d.Command("lanes", "")
	d.flush()
	pool := d.Sheet().Pools[0]
	d.click(geometry.Point{X: pool.X + model.PoolHead + 5*px, Y: pool.Y + 50*px}, 0)
	d.Command("lane-below", "")
	d.flush()
	d.keys("<Depot>")
	if pool := d.Sheet().Pools[0]; len(pool.Lanes) != 4 || pool.Lanes[1].Name != "Depot" {
		t.Fatalf("lanes are %+v", pool.Lanes)
	}
	b := d.Sheet().Pools[0].LaneBox(1)
	d.drag(geometry.Point{X: b.X + 300*px, Y: b.Bottom()}, geometry.Point{X: b.X + 300*px, Y: b.Bottom() + 40*px}, 0)
	if h := d.Sheet().Pools[0].Lanes[1].H; h != 140*px {
		t.Errorf("pulled by 40 px the lane is %d px high", h/px)
	}
	d.same()
}

func TestRefusedTextStaysInTheField(t *testing.T) {
	d := open(t, two())
	before := string(document(t, d.Map()))
	if d.Writing.Write("a", strings.Repeat("x", 100_000)) {
		t.Error("a text of 100,000 characters was taken")
	}
	d.flush()
	if len(d.said) != 1 || !strings.Contains(d.said[0], "100000 characters") {
		t.Errorf("said %v", d.said)
	}
	if string(document(t, d.Map())) != before {
		t.Error("the map changed")
	}
	for _, data := range []string{"", "{", `{"format":"other"}`,
		`{"format":"plain-tracer-clip-1","symbols":[{"id":"q","kind":"cloud","w":1,"h":1}]}`} {
		d.Clipboard.Paste(data)
		d.flush()
	}
	if len(d.said) != 4 && len(d.said) != 5 || string(document(t, d.Map())) != before {
		t.Errorf("pasting rubbish: said %q", d.said)
	}
}

// wire is a server between two windows: it puts edits in one order and hands
// them to both, as late as it likes.
type wire struct {
	m     *model.Map
	order []committed
}

type committed struct {
	window, seq int
	edit        edit.Edit
}

// Two windows that edit at once, with edits on the way, end with the same map,
// which is the server's.
func TestWindowsConverge(t *testing.T) {
	for seed := range uint64(120) {
		r := rand.New(rand.NewPCG(seed, 21))
		m := two()
		w := wire{m: m.Clone()}
		var windows [2]*editor.Editor
		var outbox [2][]committed
		var seen [2]int
		for i := range windows {
			windows[i] = editor.New()
			if err := windows[i].Open(document(t, m), 0, fmt.Sprint("w", i)); err != nil {
				t.Fatal(err)
			}
		}
		refuse := [2][]int{}
		take := func(i int) {
			var out struct {
				Send []struct {
					Seq  int
					Edit edit.Envelope
				}
			}
			if err := json.Unmarshal(windows[i].Flush(), &out); err != nil {
				t.Fatal(err)
			}
			for _, p := range out.Send {
				outbox[i] = append(outbox[i], committed{i, p.Seq, p.Edit.Edit})
			}
		}
		commit := func(i int) {
			if len(outbox[i]) == 0 {
				return
			}
			c := outbox[i][0]
			outbox[i] = outbox[i][1:]
			if _, err := edit.Apply(w.m, c.edit); err != nil {
				refuse[i] = append(refuse[i], c.seq)
				return
			}
			w.order = append(w.order, c)
		}
		deliver := func(i int) {
			for _, seq := range refuse[i] {
				// A refusal overtakes nothing: everything before it comes first.
				for seen[i] < len(w.order) {
					handOver(t, windows[i], i, w.order[seen[i]], seen[i]+1)
					seen[i]++
				}
				windows[i].Refused(seq, "it was refused")
			}
			refuse[i] = nil
			if seen[i] < len(w.order) {
				handOver(t, windows[i], i, w.order[seen[i]], seen[i]+1)
				seen[i]++
			}
		}
		for range 80 {
			i := r.IntN(2)
			switch r.IntN(5) {
			case 0, 1:
				act(r, windows[i])
				take(i)
			case 2:
				commit(i)
			default:
				deliver(i)
			}
		}
		for i := range windows {
			windows[i].Key("Escape", 0) // what is only being dragged does not count
			take(i)
			for len(outbox[i]) > 0 {
				commit(i)
			}
		}
		for i := range windows {
			for seen[i] < len(w.order) || len(refuse[i]) > 0 {
				deliver(i)
			}
		}
		want := string(document(t, w.m))
		for i := range windows {
			if got := string(document(t, windows[i].Map())); got != want {
				t.Fatalf("seed %d: window %d shows\n%s\nthe server has\n%s", seed, i, got, want)
			}
		}
	}
}

func handOver(t *testing.T, w *editor.Editor, i int, c committed, revision int) {
	t.Helper()
	if c.window == i {
		w.Confirm(c.seq, revision)
	} else if err := w.Foreign(c.edit, revision); err != nil {
		t.Fatalf("a committed edit does not apply: %v", err)
	}
}

// act does something a person might do.
func act(r *rand.Rand, e *editor.Editor) {
	p := geometry.Point{X: r.IntN(700 * px), Y: r.IntN(500 * px)}
	if n := len(e.Courses()); n > 0 && r.IntN(4) == 0 { // on a line, its end or its label
		line := e.Courses()[r.IntN(n)]
		p = line.Points.Along(line.Points.Length() * r.IntN(5) / 4)
		if r.IntN(4) == 0 && line.Labels[0].W > 0 {
			p = line.Labels[0].Centre()
		}
	} else if n := len(e.Sheet().Symbols); n > 0 && r.IntN(3) > 0 {
		sym := e.Sheet().Symbols[r.IntN(n)]
		p = sym.Centre()
		if r.IntN(3) == 0 {
			p = geometry.Point{X: sym.Right(), Y: p.Y}
		}
	}
	scale, mods := 300+r.IntN(2000), []int{0, 0, 0, 1, 2, 4, 3}[r.IntN(7)]
	switch r.IntN(14) {
	case 0, 1:
		e.Move(p, scale, 0)
		e.Down(p, scale, mods)
	case 2, 3, 4:
		e.Move(p, scale, mods)
	case 5, 6:
		e.Up(p, scale, mods)
	case 7:
		e.Key([]string{"Enter", "Delete", "Escape", "1", "2", "9", "0", "/", "ArrowLeft", "F2", "q", "l", "b", "Insert",
			"ArrowDown", "Backspace"}[r.IntN(16)], mods)
	case 8:
		if n := len(e.Sheet().Connectors); n > 0 && r.IntN(3) == 0 {
			e.Writing.WriteAt(e.Sheet().Connectors[r.IntN(n)].ID, []string{"", "from", "to"}[r.IntN(3)], "when dark")
			return
		}
		if n := len(e.Sheet().Symbols); n > 0 {
			e.Writing.Write(e.Sheet().Symbols[r.IntN(n)].ID,
				[]string{"Text", "Really?", "", "A long text about the lamp and its pole"}[r.IntN(4)])
		}
	case 9:
		c := [...][2]string{{"align", "left"}, {"distribute", "across"}, {"duplicate", ""}, {"lanes", ""},
			{"lane-above", ""}, {"lane-remove", ""},
			{"sheet-add", ""}, {"sheet-remove", ""}, {"number", ""}, {"dashed", ""}, {"fill", "moss"},
			{"fill", "#102030"}, {"order", "back"},
			{"kind", "document"}, {"kind", "entity"}, {"take", "decision"}, {"take", "frame"}, {"turn", ""},
			{"glue", ""}, {"select-all", ""}, {"follow", ""},
			{"sheet-left", ""}, {"answers", "Ja\nNein"}, {"text", "bold"}, {"text", "size=20"}, {"text", "bullets"},
			{"text", "align=right"},
			{"line", "course=straight"}, {"line", "course=curved"}, {"line", "weight=6"}, {"line", "to=many"},
			{"line", "hop=gap"}, {"ends", "both"},
			{"exceptional", ""}, {"give-back", ""}, {"labels-home", ""}, {"label", "to"}, {"between", ""},
			{"connect", ""}, {"delete-close", ""}, {"close-gap", ""},
			{"same", "both"}, {"snug", ""}, {"legend", ""}, {"fitting", "smaller"}, {"fitting", ""},
			{"crossings", "gap"}, {"trunk", ""}}[r.IntN(46)]
		name, arg := c[0], c[1]
		e.Command(name, arg)
	case 10:
		e.Undo()
	case 11:
		e.Redo()
	case 12:
		e.Double(p)
	default:
		data, _ := e.Clipboard.Copy()
		if data != "" {
			e.Clipboard.Paste(data)
		}
	}
}

// Whatever happens, nothing panics, the map stays sound, the server agrees, and
// undo leads back to the beginning.
func TestRandomEventsNeverBreakTheMap(t *testing.T) {
	n := uint64(150)
	if testing.Short() {
		n = 60
	}
	for seed := range n {
		r := rand.New(rand.NewPCG(seed, 31))
		d := open(t, two())
		start := string(document(t, d.Map()))
		for range 120 {
			act(r, d.Editor)
			d.settle()
			d.flush()
		}
		d.Key("Escape", 0)
		d.flush()
		if err := d.Map().Validate(); err != nil {
			t.Fatalf("seed %d: %v", seed, err)
		}
		d.same()
		d.fresh(seed)
		for range 400 {
			d.Undo()
			d.flush()
		}
		d.fresh(seed)
		if got := string(document(t, d.Map())); got != start {
			t.Fatalf("seed %d: undone it is\n%s\nnot\n%s", seed, got, start)
		}
	}
}

// fresh holds the courses the window shows, after all that happened, against
// those of a computation from nothing.
func (d *seat) fresh(seed uint64) {
	d.Helper()
	mine, theirs := d.Courses(), scene.Draw(d.Map(), d.Sheet()).Courses
	for i := range theirs {
		if !slices.Equal(mine[i].Points, theirs[i].Points) || mine[i].Labels != theirs[i].Labels ||
			!slices.Equal(mine[i].Hops, theirs[i].Hops) {
			d.Fatalf("seed %d: connector %s runs %v, computed afresh %v", seed, d.Sheet().Connectors[i].ID, mine[i],
				theirs[i])
		}
	}
}

// What is pasted in bulk is drawn before all its courses are found; they settle
// in slices, to what a computation of the whole gives, whatever happens between.
func TestLargePasteSettles(t *testing.T) {
	from := open(t, hall(300, true))
	from.Command("select-all", "")
	data, _ := from.Clipboard.Copy()
	d := open(t, hall(300, true))
	d.Move(at(2200, 2700), 1000, 0)
	d.Clipboard.Paste(data)
	if out := d.Flush(); !bytes.Contains(out, []byte(`"settle":0`)) ||
		!bytes.Contains(out, []byte(`["add","connectors"`)) {
		t.Fatalf("the paste is not drawn first and settled later: %.200s", out)
	}
	if !d.Pause() {
		t.Fatal("it settles in one go, not in slices")
	}
	d.Key("ArrowRight", 0) // an edit on the way
	slices := 0
	for d.Pause() {
		slices++
	}
	d.Flush()
	d.Pause() // the findings are counted
	if out := d.Flush(); slices < 2 || bytes.Contains(out, []byte(`"settle"`)) {
		t.Fatalf("it has not settled after %d slices: %.200s", slices, out)
	}
	d.fresh(0)
}

// A case walks along the answers, back again, and over to the next sheet; the
// map stays as it is meanwhile.
func TestTraceWalksOneCaseThroughTheMap(t *testing.T) {
	d := open(t, two())
	d.click(at(460, 140), 0)
	d.keys("Enter", "<Known?>", "Enter", "<Yes way>", "0")
	d.click(d.Sheet().Symbols[2].Centre(), 0)
	d.keys("Enter", "<No way>")
	d.Command("sheet-add", "")
	d.Command("take", "sheet-reference")
	d.click(at(200, 200), 0)
	d.keys("Enter", "<Goes on>")
	d.flush()
	before := string(document(t, d.Map()))
	b := d.Map().Sheets[0].Symbols[1]
	d.Command("find", b.ID)
	d.Command("trace", "")
	where := func() string {
		d.Helper()
		d.flush()
		var state struct {
			Trace *desk.Trace
		}
		if err := json.Unmarshal(d.State(), &state); err != nil {
			d.Fatal(err)
		}
		if state.Trace == nil {
			return "nowhere"
		}
		return fmt.Sprint(state.Trace.Text, " ", len(state.Trace.Exits))
	}
	for i, step := range []struct{ key, want string }{
		{"", "B 1"}, {"Enter", "Known? 2"}, {"2", "No way 0"}, {"Enter", "No way 0"}, {"Backspace", "Known? 2"},
		{"1", "Yes way 1"}, {"Enter", "A 1"}, {"Enter", "A 1"}, {"Enter", "Goes on 0"}, {"x", "Goes on 0"},
		{"Delete", "Goes on 0"}, {"Escape", "nowhere"},
	} {
		if step.key != "" {
			d.Key(step.key, 0)
		}
		if step.key == "x" {
			d.Clipboard.PasteText("one\ntwo") // the clipboard is no way round it
		}
		if got := where(); got != step.want {
			t.Fatalf("step %d: after %q the case is at %q, not %q", i, step.key, got, step.want)
		}
	}
	if d.Sheet() != d.Map().Sheets[1] || string(document(t, d.Map())) != before {
		t.Error("the trace changed the map, or did not turn to the second sheet")
	}
}
