package e2e

import (
	"fmt"
	"slices"
	"strings"
	"testing"

	"github.com/chromedp/chromedp"

	"plaintracer/core/flow"
	"plaintracer/core/model"
	"plaintracer/e2e/browser"
)

// ways are the connectors of a sheet of the map, as From>To, sorted.
func (d *desk) ways(sheet int) string {
	d.s.Helper()
	d.saved()
	var list []string
	for _, l := range flow.Links(d.s.file(d.path).Sheets[sheet]) {
		to := "?"
		if l.To != nil {
			to = l.To.Text
		}
		list = append(list, l.From.Text+">"+to)
	}
	slices.Sort(list)
	return strings.Join(list, " ")
}

// called is the symbol with a text, on whatever sheet it is, as the server has it.
func (d *desk) called(text string) *model.Symbol {
	d.s.Helper()
	d.saved()
	for _, s := range d.s.file(d.path).Sheets {
		for _, sym := range s.Symbols {
			if sym.Text == text {
				return sym
			}
		}
	}
	d.s.Fatalf("nothing says %q", text)
	return nil
}

// byName runs a command by its name.
func (d *desk) byName(name string) {
	d.s.Helper()
	d.Key("k", ctrl)
	d.Until("document.activeElement.closest('.finder, dialog')")
	d.Key(name)
	d.Key(browser.Enter)
	d.Until("!document.activeElement.matches('.finder input, dialog input')")
}

// What is asked for by the mouse and by keys happens, and nothing beside it.
func TestNothingHappensUnasked(t *testing.T) {
	s := start(t, "serve")
	b := browser.Start(t)
	d := s.create(b, "Asked", "flowchart", "A4")
	step := func(text string, x, y float64) {
		d.ClickOn(".piece[data-take=process]")
		d.Click(x, y)
		d.Key(browser.F2)
		d.writeHere(text)
	}
	// Two lines from one bar, the second dragged straight down along the first.
	step("Call", 640, 180)
	x, y := d.glue("Call", "bottom")
	d.Drag(x, y, x-150, y+160)
	d.Key(browser.Enter)
	d.writeHere("Front")
	d.Click(1000, 560)
	x, y = d.glue("Call", "bottom")
	d.Drag(x, y, x, y+100)
	d.Key(browser.Enter)
	d.writeHere("Stage")
	if got := d.ways(0); got != "Call>Front Call>Stage" {
		t.Errorf("two lines from one bar: %s", got)
	}

	// A copy is of what is dragged, though something else is selected.
	d.clickStep("Call")
	x, y, _, _ = d.where("Front")
	d.Drag(x, y, x+320, y+60, ctrl)
	count := func(text string) (n int) {
		for _, sym := range d.sheet().Symbols {
			if sym.Text == text {
				n++
			}
		}
		return n
	}
	if count("Front") != 2 || count("Call") != 1 {
		t.Errorf("after the copy of Front there are %d of it and %d of Call", count("Front"), count("Call"))
	}
	d.Key(browser.Delete)

	// A step let go on another lies beside it.
	fx, fy, _, _ := d.where("Front")
	x, y, _, _ = d.where("Stage")
	d.Drag(x, y, fx, fy)
	d.Until("document.getElementById('words').textContent.includes('“Front”')")
	if d.called("Stage").Meets(d.called("Front").Box) {
		t.Errorf("Stage lies at %v, on Front at %v", d.called("Stage").Box, d.called("Front").Box)
	}

	// A refused command, and typing on: nothing is written over. Typed on the step by itself, Esc brings the text back,
	// and so does undo.
	d.clickStep("Stage")
	d.Key(browser.Insert)
	d.Until("document.getElementById('words').textContent.includes('Select a connector')")
	d.Key("Write the order" + browser.Enter)
	if got := browser.Eval[string](d.Page, "document.activeElement.id"); got != "drawing" {
		t.Errorf("after a refusal typing goes to %q", got)
	}
	if d.called("Stage") == nil || len(d.sheet().Symbols) != 3 {
		t.Error("typing after a refusal changes the drawing")
	}
	d.Key(browser.Escape)
	d.clickStep("Stage")
	d.Key("Over")
	d.Until("document.activeElement.value === 'Over'")
	d.Key(browser.Escape)
	d.Until("document.activeElement.id === 'drawing'")
	d.called("Stage")
	d.Key("Over" + browser.Enter)
	d.called("Over")
	d.Key("z", ctrl)
	d.called("Stage")

	// By its name a symbol is set down after the step that is selected.
	d.clickStep("Stage")
	d.byName("Set down: document")
	d.writeHere("Order")
	if got := d.ways(0); got != "Call>Front Call>Stage Stage>Order" || d.called("Order").Kind != model.Document {
		t.Errorf("set down by name: %s", got)
	}
	d.sound()

	// Going on from the end of a loop leaves the loop.
	d = s.create(b, "Loop", "flowchart", "A4")
	step("One", 340, 240)
	d.then("Two", "Three")
	x, y = d.glue("Three", "bottom")
	tx, ty, _, _ := d.where("One")
	d.Drag(x, y, tx, ty)
	d.clickStep("Three")
	d.Key(browser.Enter)
	d.writeHere("Four")
	d.clickStep("Three")
	d.Key("1")
	d.writeHere("Then")
	if got := d.ways(0); got != "One>Two Then>Four Three>One Three>Then Two>Three" {
		t.Errorf("going on from a loop: %s", got)
	}
	d.sound()
}

// A branch that is copied to another sheet lands in sight, under those who do it.
func TestACopiedBranchIsThere(t *testing.T) {
	s := start(t, "demo")
	b := browser.Start(t)
	d := s.desk(b, s.demo(b, "A street light is out"))
	d.clickStep("Look up the pole number")
	x, y, _, _ := d.where("Reported before?")
	d.Click(x, y, chromedp.ModifierShift)
	d.Until("plainTracerApp.bars.state.selected.length === 2")
	data := browser.Eval[[]string](d.Page, "plainTracerApp.core.copy()")
	d.ClickOn("[data-command=sheet-add]")
	d.Until("document.querySelectorAll('#tabs [role=tab]').length === 5")
	// An older window is scrolled far away.
	browser.Eval[any](d.Page, "(plainTracerApp.viewport.panBy(-3000, -2000), 0)")
	browser.Eval[any](d.Page, fmt.Sprintf("(plainTracerApp.core.paste(%q), plainTracerApp.flush(), 0)", data[0]))
	d.Until("plainTracerApp.bars.state.selected.length === 2")
	d.saved()
	copied := d.s.file(d.path).Sheets[1].Symbols
	if len(copied) != 2 || copied[0].Owner != "Service desk" || copied[1].Owner != "Service desk" {
		t.Fatalf("copied is %d, done by %q", len(copied), copied[0].Owner)
	}
	x, y, _, _ = d.where("Reported before?")
	if r := browser.Eval[[]float64](d.Page,
		"(r => [r.x, r.y, r.right, r.bottom])(document.getElementById('drawing').getBoundingClientRect())"); x < r[0] ||
		x > r[2] || y < r[1] || y > r[3] {
		t.Errorf("the copy is shown at %.0f, %.0f; the desk is %v", x, y, r)
	}
	d.sound()
}

// Keys of the drawing are the drawing's while it has the focus: what was reached by Tab keeps its own, and Del on a tab
// deletes no step.
func TestControlsKeepTheirKeys(t *testing.T) {
	s := start(t, "demo")
	b := browser.Start(t)
	d := s.desk(b, s.demo(b, "Lend a cargo bike"))
	d.saved()
	first := s.file(d.path).Sheets[0].Symbols
	for _, control := range []string{"#tab-history", "#share", "#export", "#fit", ".piece[data-take=process]",
		"#tabs [role=tab]"} {
		d.clickStep(first[0].Text)
		if !browser.Eval[bool](d.Page,
			fmt.Sprintf("(c => { c?.focus(); return !!c && document.activeElement === c })(document.querySelector(%q))",
				control)) {
			t.Errorf("%s cannot have the focus", control)
			continue
		}
		d.Key(browser.Delete)
		d.Key("3x?")
		d.Key(browser.Backspace)
		d.Key(browser.Insert)
		d.Key("d", ctrl)
		d.saved()
		if got := s.file(d.path).Sheets[0].Symbols; len(got) != len(first) || got[0].Text != first[0].Text {
			t.Fatalf("keys on %s change the drawing", control)
		}
		d.Key(browser.Escape) // and gives the keys back
		d.Until("document.activeElement.id === 'drawing'")
	}
	// What was opened and is shut gives the focus back to the drawing.
	d.ClickOn("#share")
	d.Until("document.getElementById('share-dialog').open")
	d.Key(browser.Escape)
	d.Until("!document.querySelector('dialog[open]') && document.activeElement.id === 'drawing'")
	d.clickStep(first[0].Text)
	d.Key(browser.Delete)
	d.Until("plainTracerApp.bars.state.undo")
	d.saved()
	if got := s.file(d.path).Sheets[0].Symbols; len(got) != len(first)-1 {
		t.Errorf("with the focus on the drawing Del deletes nothing")
	}
	d.sound()
}
