package e2e

import (
	"fmt"
	"math"
	"reflect"
	"strings"
	"testing"

	"plaintracer/core/geometry"
	"plaintracer/core/model"
	"plaintracer/e2e/browser"
)

// lamp is a small map of the town: a decision, two branches and a loop back.
func lamp() *model.Map {
	const px = geometry.Px
	m := model.New("Lamp", model.Rightwards, "A4", true)
	s := m.Sheets[0]
	step := func(id string, kind model.Kind, x, y int, text string) {
		s.Symbols = append(s.Symbols, &model.Symbol{ID: id, Kind: kind, Text: text,
			Box: geometry.Around(geometry.Point{X: x * px, Y: y * px}, 120*px, 80*px)})
	}
	step("take", model.Process, 140, 200, "Take the call")
	step("known", model.Decision, 320, 200, "Known?")
	step("date", model.Process, 500, 200, "Give a date")
	step("look", model.Process, 320, 400, "Send the crew")
	link := func(id, from, to, text string) {
		s.Connectors = append(s.Connectors, &model.Connector{ID: id, From: model.End{Symbol: from},
			To: model.End{Symbol: to}, Text: text})
	}
	link("c1", "take", "known", "")
	link("c2", "known", "date", "Yes")
	link("c3", "known", "look", "No")
	return m
}

// symbol returns a symbol as the server has it.
func (d *desk) symbol(id string) *model.Symbol {
	d.s.Helper()
	sym := d.sheet().Symbol(id)
	if sym == nil {
		d.s.Fatalf("there is no symbol %s", id)
	}
	return sym
}

// Menus, making room, groups, looks, straightening and finding, by mouse and
// keys in the real page.
func TestEditingAtSpeed(t *testing.T) {
	s, path := stock(t, lamp())
	b := browser.Start(t)
	d := s.desk(b, path)

	// The menu of what was clicked.
	x, y, _, _ := d.where("Give a date")
	d.ClickRight(x, y)
	d.Until("!document.getElementById('context').hidden")
	menu := d.Text("#context")
	if !strings.Contains(menu, "Emphasis") || strings.Contains(menu, "Ungroup") {
		t.Errorf("the menu of a step lists %s", menu)
	}
	d.Key(browser.Down + browser.Down + browser.Up + browser.Escape)
	d.Until("document.getElementById('context').hidden && document.activeElement.id === 'drawing'")

	// Ctrl and a drag from the empty desk make room.
	before := d.symbol("date").X
	lx, _, rx, _ := d.where("Known?")
	_, ly, _, _ := d.where("Send the crew")
	d.Key(browser.Escape) // beside what is selected a connector would be drawn
	d.Drag(lx+rx+30, ly, lx+rx+110, ly, ctrl)
	if now := d.symbol("date").X; now <= before || d.symbol("known").X != 260*geometry.Px {
		t.Errorf("room was made to %d from %d", now, before)
	}
	d.Key("z", ctrl)

	// A group moves as one; Undo is named.
	d.clickStep("Take the call")
	x, y, _, _ = d.where("Known?")
	d.Click(x, y, shift)
	d.Key("g", ctrl)
	d.clickStep("Send the crew")
	d.clickStep("Take the call")
	x, y, _, _ = d.where("Take the call")
	d.Drag(x, y, x, y+12, shift, alt)
	if a, b := d.symbol("take"), d.symbol("known"); a.Y != b.Y || a.Y == 160*geometry.Px {
		t.Errorf("the group moved to %d and %d", a.Y, b.Y)
	}
	d.Until("document.querySelector('[data-command=undo]').title === 'Undo move 2 steps'")

	// Straighten is shown, refused, shown again and kept.
	d.Key(browser.Escape)
	for _, answer := range []string{"leave", "keep"} {
		was := d.symbol("date").Y
		d.ClickOn("[data-command=straighten]")
		d.Until("!document.getElementById('proposal').hidden && document.getElementById('tray').hidden")
		d.ClickOn("#proposal [data-command=" + answer + "]")
		d.Until("document.getElementById('proposal').hidden")
		row := d.symbol("date").Y == d.symbol("take").Y
		if row != (answer == "keep") || answer == "leave" && d.symbol("date").Y != was {
			t.Errorf("after %s in line: %v", answer, row)
		}
	}

	// So is the whole arrangement, which a worker computes; on a lying sheet it is
	// seen as a whole.
	for _, answer := range []string{"leave", "keep"} {
		was := d.symbol("date").Box
		d.ClickOn("[data-command=lay-out]")
		d.Until("!document.getElementById('proposal').hidden")
		if words := d.Text("#proposal-words"); !strings.HasPrefix(words, "Lay out: ") {
			t.Errorf("it proposes %q", words)
		}
		d.ClickOn("#proposal [data-command=" + answer + "]")
		d.Until("document.getElementById('proposal').hidden")
		if moved := d.symbol("date").Box != was; moved != (answer == "keep") {
			t.Errorf("after %s moved: %v", answer, moved)
		}
	}

	// Looks are seen before they are kept.
	d.ClickOn(".drop:has([data-command=looks-open]) .tool")
	d.ClickOn("[data-command=looks-open]")
	d.ClickOn("[data-look=print]")
	d.Until("document.querySelector('#symbols path').getAttribute('stroke') === '#000000'")
	if got := s.file(path).Look; got != "" {
		t.Errorf("the look %q was saved before it was kept", got)
	}
	d.ClickOn("#proposal .primary")
	d.saved()
	if got := s.file(path).Look; got != "print" {
		t.Errorf("the look is %q", got)
	}
	d.ClickOn("#looks-shut")

	// Find and replace.
	d.Key("f", ctrl)
	d.Until("document.activeElement.id === 'find-text'")
	d.Key("the c")
	d.Until("document.getElementById('find-count').textContent === '1 of 2'")
	d.Key(browser.Enter)
	d.Until("document.getElementById('find-count').textContent === '2 of 2'")
	d.ClickOn("#replace-text")
	d.Key("a c")
	d.ClickOn("#replace-all")
	if a, b := d.symbol("take").Text, d.symbol("look").Text; a != "Take a call" || b != "Send a crew" {
		t.Errorf("replaced, they say %q and %q", a, b)
	}
	d.Key(browser.Escape)

	// A command by its name, wherever the focus is.
	d.ClickOn("#title")
	d.Key("k", ctrl)
	d.Until("document.activeElement.id === 'search-text'")
	d.Key("everything on")
	d.Until("document.querySelector('#search-list [aria-selected=true] .title').textContent.startsWith('Select everything')")
	d.Key(browser.Enter)
	d.Until("document.querySelector('#overlay .sel-one')?.getAttribute('d').split('M').length === 1 + 4")

	// Copied here, pasted in another window on another map at the same place; by
	// Ctrl+Shift+V, of which the browser leaves the text alone, at the pointer.
	copied := browser.Eval[[]string](d.Page,
		`(() => { const t = new DataTransfer(); document.dispatchEvent(new ClipboardEvent('copy', { clipboardData: t, cancelable: true })); return [t.getData('text/html'), t.getData('text/plain')] })()`)
	other := s.create(b, "Another", "flowchart", "A4")
	paste := func(html string) {
		browser.Eval[any](other.Page,
			fmt.Sprintf(`(() => { const t = new DataTransfer(); if (%[1]q) t.setData('text/html', %[1]q); t.setData('text/plain', %[2]q); document.dispatchEvent(new ClipboardEvent('paste', { clipboardData: t, cancelable: true })) })()`, html, copied[1]))
	}
	paste(copied[0])
	sheet := other.sheet()
	if len(sheet.Symbols) != 4 || len(sheet.Connectors) != 3 || sheet.Symbols[0].Box != d.symbol("take").Box {
		t.Errorf("pasted in another window there are %d symbols, %d connectors", len(sheet.Symbols),
			len(sheet.Connectors))
	}
	other.Move(900, 620, 0)
	browser.Eval[any](other.Page, "plainTracerApp.atPointer = true")
	paste("")
	if sheet = other.sheet(); len(sheet.Symbols) != 8 || sheet.Symbols[4].Box.Meets(sheet.Symbols[0].Box) {
		t.Errorf("pasted at the pointer there are %d symbols", len(sheet.Symbols))
	}
	d.sound()
	other.sound()
}

// A finger selects, moves, connects and scrolls; two zoom.
func TestTouch(t *testing.T) {
	s, path := stock(t, lamp())
	d := s.desk(browser.Start(t), path)
	finger := func(x, y float64) []browser.Finger { return []browser.Finger{{X: x, Y: y}} }

	x, y, _, _ := d.where("Give a date")
	d.Touch(finger(x, y))
	d.Until("document.querySelectorAll('#overlay .corner').length === 4 && document.querySelectorAll('#overlay .glue').length === 4")
	d.Touch(finger(x, y), finger(x+60, y+50), finger(x+80, y+60))
	if sym := d.symbol("date"); sym.X <= 440*geometry.Px || sym.Y <= 160*geometry.Px {
		t.Fatalf("dragged by a finger it stands at %v", sym.Box)
	}
	x, y, rx, _ := d.where("Give a date")
	tx, ty, _, _ := d.where("Send the crew")
	d.Touch(finger(x+rx+9, y), finger(x+rx+30, y+60), finger(tx, ty))
	sheet := d.sheet()
	if last := sheet.Connectors[len(sheet.Connectors)-1]; len(sheet.Connectors) != 4 || last.From.Symbol != "date" ||
		last.To.Symbol != "look" {
		t.Fatalf("connected by a finger there are %d connectors, the last from %+v to %+v", len(sheet.Connectors),
			last.From, last.To)
	}

	// On the empty desk a finger moves the sheet, and a tap selects nothing.
	pan := func() []float64 {
		return browser.Eval[[]float64](d.Page, "[plainTracerApp.pan.x, plainTracerApp.pan.y, plainTracerApp.zoom]")
	}
	before := pan()
	d.Touch(finger(900, 560), finger(860, 500))
	if now := pan(); math.Abs(now[0]-before[0]+40) > 0.01 || math.Abs(now[1]-before[1]+60) > 0.01 {
		t.Errorf("scrolled by %v, %v", now[0]-before[0], now[1]-before[1])
	}
	d.Touch(finger(900, 560))
	d.Until("!document.querySelector('#overlay .corner')")

	// Two fingers zoom about the place between them.
	before = pan()
	d.Touch([]browser.Finger{{X: 600, Y: 400}, {X: 700, Y: 400}}, []browser.Finger{{X: 550, Y: 400}, {X: 750, Y: 400}})
	if now := pan(); now[2] < before[2]*1.9 || now[2] > before[2]*2.1 {
		t.Errorf("two fingers zoomed from %v to %v", before[2], now[2])
	}
	if len(d.sheet().Symbols) != 4 {
		t.Error("zooming changed the map")
	}

	// A finger that rests asks what fits there.
	d.ClickOn("#fit")
	x, y, _, _ = d.where("Known?")
	lift := d.PutFinger(x, y)
	d.Until("!document.getElementById('context').hidden")
	lift()
	d.Until("!document.getElementById('context').hidden")
	d.sound()
}

// A large sheet takes a while to lay out: it shows that it is under way, the page
// answers meanwhile, and it can be stopped; then nothing has changed.
func TestLayingOutIsStopped(t *testing.T) {
	s, path := stock(t, hall(1000, false))
	d := s.desk(browser.Start(t), path)
	before := s.file(path)
	// As soon as it shows that it is under way somebody presses Stop: the page answers.
	// An answer that would come before that, while the page still draws, is held back.
	browser.Eval[any](d.Page,
		`(() => { const box = document.getElementById('working'), work = plainTracerApp.work, heard = work.heard.bind(work)
		work.heard = told => { if (told.done !== undefined || told.fault || window.shown) heard(told) }
		new MutationObserver(() => { if (!box.hidden) { window.shown = true; document.getElementById('working-stop').click() } }).observe(box, { attributes: true }) })()`)
	d.ClickOn("[data-command=lay-out]")
	d.Until("window.shown && document.getElementById('working').hidden")
	if words := d.Text("#words"); !strings.Contains(words, "Stopped") {
		t.Errorf("it says %q", words)
	}
	d.saved()
	if after := s.file(path); !reflect.DeepEqual(before.Sheets[0].Symbols, after.Sheets[0].Symbols) {
		t.Error("what was stopped has moved symbols")
	}
}
