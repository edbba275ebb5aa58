package editor_test

import (
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
