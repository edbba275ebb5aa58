package editor_test

import (
	"slices"
	"strings"
	"testing"

	"plaintracer/core/editor/command"
	"plaintracer/core/geometry"
	"plaintracer/core/model"
)

// At any zoom, by mouse and by finger, a press in the middle of a symbol takes hold of the
// symbol, and a connector let go there is glued to it as a whole; at its edge glue points and
// handles keep their size on the screen.
func TestTheMiddleOfASymbolIsTheSymbol(t *testing.T) {
	for _, kind := range []model.Kind{model.Process, model.Decision, model.Legend, model.Terminator} {
		for _, scale := range []int{100, 270, 500, 1000, 4000} {
			for _, finger := range []bool{false, true} {
				m := two()
				m.Sheets[0].Symbols[0].Kind = kind
				d := open(t, m)
				d.Coarse(finger)
				sym := d.Sheet().Symbols[0]
				c, other := sym.Centre(), d.Sheet().Symbols[1].Centre()
				for range 2 { // the first selects it, the second finds it with its handles
					for _, off := range []geometry.Point{{}, {X: sym.W / 5}, {Y: -sym.H / 5}} {
						at, was := c.Add(off), sym.Corner()
						d.Move(at, scale, 0)
						d.Down(at, scale, 0)
						d.Move(at.Add(geometry.Point{X: 200 * px, Y: 300 * px}), scale, 0)
						d.Up(at.Add(geometry.Point{X: 200 * px, Y: 300 * px}), scale, 0)
						d.flush()
						if sym = d.Sheet().Symbols[0]; len(d.Sheet().Connectors) > 0 || sym.Corner() == was {
							t.Fatalf("%s at %d thousandths, finger %v, %v from the middle: it stands at %v with %d connectors", kind, scale, finger, off, sym.Box, len(d.Sheet().Connectors))
						}
						d.Undo()
						d.flush()
						sym = d.Sheet().Symbols[0]
					}
				}
				if kind == model.Legend {
					continue
				}
				right := geometry.Point{X: sym.Right(), Y: c.Y}
				d.Move(right, scale, 0)
				d.Down(right, scale, 0)
				d.Move(other, scale, 0)
				d.Up(other, scale, 0)
				d.flush()
				if len(d.Sheet().Connectors) == 1 && d.Sheet().Connectors[0].To != (model.End{Symbol: "b"}) {
					t.Errorf("%s at %d thousandths, finger %v: let go in the middle it is glued to %+v", kind, scale,
						finger, d.Sheet().Connectors[0].To)
				}
			}
		}
	}
}

// No command is on a key that a browser or a system keeps for itself (docs/keys.md), and no two
// are on the same.
func TestNoKeyIsTakenByTheBrowser(t *testing.T) {
	taken := map[string]bool{}
	for key := range strings.FieldsSeq(`Ctrl+N Ctrl+Shift+N Ctrl+T Ctrl+Shift+T Ctrl+W Ctrl+Shift+W Ctrl+F4 Alt+F4 Ctrl+Tab Ctrl+Shift+Tab
		Ctrl+PageUp Ctrl+PageDown Ctrl+Q Ctrl+H Ctrl+M Ctrl+Space Ctrl+Alt+D
		F11 F12 Alt+Tab Alt+ Alt+Space Alt+Escape`) {
		taken[key] = true
	}
	of := map[string]string{}
	for _, entry := range command.Entries() {
		if entry.Key == "" {
			continue
		}
		if taken[entry.Key] {
			t.Errorf("%q is on %s, which never comes", entry.Title, entry.Key)
		}
		if other := of[entry.Key]; other != "" {
			t.Errorf("%q and %q are both on %s", other, entry.Title, entry.Key)
		}
		of[entry.Key] = entry.Title
	}
	if len(of) < 40 {
		t.Errorf("only %d commands have keys", len(of))
	}
}

// A window that takes the place of another one after a reload undoes and redoes what that one did, gives out no id
// again, and numbers its edits on; what was left over by no window of ours changes nothing.
func TestUndoGoesOnAfterAReload(t *testing.T) {
	d := open(t, flowOf())
	states := []string{string(document(t, d.Map()))}
	step := func(do func()) {
		do()
		d.flush()
		states = append(states, string(document(t, d.Map())))
	}
	step(func() { d.drag(at(200, 100), at(220, 110), 0) })
	step(func() { d.Command("take", "document"); d.click(at(800, 300), 0) })
	step(func() { d.Sel = []string{"known"}; d.Command("fill", "lake") })
	step(func() { d.Sel = []string{"look"}; d.keys("Delete") })
	d.Undo()
	d.flush()
	made := d.Doc.Made()

	next := open(t, d.server)
	if err := next.Doc.Resume(d.Doc.Past(1 << 20)); err != nil {
		t.Fatal(err)
	}
	if id := next.Doc.NewID(); strings.Contains(states[len(states)-1], `"`+id+`"`) {
		t.Errorf("%s is given out again", id)
	}
	next.Redo()
	next.flush()
	if next.Doc.Made() != made+1 || string(document(t, next.Map())) != states[4] {
		t.Errorf("made again as edit %d of %d the map is another one", next.Doc.Made(), made)
	}
	for i := 3; i >= 0; i-- {
		next.Undo()
		next.flush()
		if got := string(document(t, next.Map())); got != states[i] {
			t.Fatalf("taken back to state %d the map is\n%s\nnot\n%s", i, got, states[i])
		}
	}
	next.same()
	if undo, _ := next.Doc.Next(); undo != "" {
		t.Errorf("there is still %q to undo", undo)
	}
	for _, raw := range []string{"", "[]", `{"undo":[{"do":"addItems","sheet":"sheet-1"}]}`,
		`{"undo":[{"do":"no such"}]}`} {
		if next.Doc.Resume([]byte(raw)) == nil {
			t.Errorf("%q is taken", raw)
		}
	}
	if undo, redo := next.Doc.Next(); undo != "" || redo == "" {
		t.Errorf("after that there is %q to undo and %q to redo", undo, redo)
	}
	// Where there is no room for all, the latest are left.
	if raw := d.Doc.Past(3000); len(raw) > 3000 {
		t.Errorf("%d bytes are left", len(raw))
	}
}

// Near a thin line, up to 8 pixels of the screen away, a press takes hold of it, however small the drawing is seen.
func TestAThinLineIsTakenNearIt(t *testing.T) {
	for _, scale := range []int{460, 1000, 2000} {
		d := open(t, flowOf())
		d.flush()
		for off, want := range map[int]bool{0: true, 5: true, 7: true, 12: false} {
			p := at(290, 100).Add(geometry.Point{Y: off * px * 1000 / scale})
			d.Sel = nil
			d.Move(p, scale, 0)
			d.Hover = "" // no bar beside a symbol is meant
			d.Down(p, scale, 0)
			d.Up(p, scale, 0)
			if got := len(d.Sel) == 1 && d.Sel[0] == "c1"; got != want {
				t.Errorf("at %d thousandths, %d pixels away: selected is %v", scale, off, d.Sel)
			}
		}
	}
}

// What people call things finds the command, among the first three.
func TestCommandsAreFoundByWhatPeopleCallThem(t *testing.T) {
	for query, want := range map[string]string{
		"remark": "Remark", "comment": "Remark", "review": "Review", "history": "History", "versions": "History",
		"findings": "Findings", "errors": "Findings", "home": "All maps", "sign out": "Account", "logout": "Account",
		"colour fill lake": "Fill: lake blue", "color fill lake": "Fill: lake blue", "print": "Export", "pdf": "Export",
		"download": "Export",
		"help":     "Help", "stage": "Add a stage", "phase": "Add a stage", "bigger": "Larger text",
		"center horizontally": "To the centre of the sheet, horizontally", "image": "Background picture from a file",
		"landscape": "Paper lies: across", "files": "Files", "arrange": "Lay out",
		"font": "House style: colours and typeface",
		"undo": "Undo", "comments": "Remarks", "import": "Begin a map",
	} {
		d := open(t, flowOf())
		var titles []string
		for _, entry := range d.Find(query) {
			titles = append(titles, entry.Title)
		}
		if !slices.Contains(titles[:min(3, len(titles))], want) {
			t.Errorf("%q finds %v, not %s", query, titles[:min(6, len(titles))], want)
		}
	}
	if list := open(t, flowOf()).Find("qwertz"); len(list) > 0 {
		t.Errorf("nonsense finds %v", list)
	}
}
