package e2e

import (
	"fmt"
	"strings"
	"testing"

	"plaintracer/core/model"
	"plaintracer/e2e/browser"

	"github.com/chromedp/chromedp"
)

// What the hand does most: clicks in the tray, symbols drawn and dragged from it, lines let go over the sheet.
func TestTheTrayAndLinesLetGo(t *testing.T) {
	s := start(t, "serve")
	d := s.create(browser.Start(t), "Hand", "flowchart", "A4")

	// Three clicks in the tray set down three symbols beside each other, in sight.
	for _, kind := range []string{"terminator", "process", "decision"} {
		d.ClickOn(".piece[data-take=" + kind + "]")
	}
	d.Until("document.querySelectorAll('#symbols .symbol').length === 3")
	list := d.sheet().Symbols
	for i, sym := range list[1:] {
		if last := list[i]; sym.X <= last.Right() || sym.Centre().Y != last.Centre().Y {
			t.Errorf("%s stands at %v, %s at %v", sym.Kind, sym.Box, last.Kind, last.Box)
		}
	}
	// Drawn with Shift a symbol is square, and guide lines show what it lines up with.
	d.Key(browser.Escape)
	d.ClickOn(".piece[data-take=process]")
	box := browser.Eval[[]float64](d.Page, `(() => { const r = document.querySelector('#symbols .symbol').getBoundingClientRect()
		return [r.x, r.bottom] })()`)
	d.Move(box[0]+40, box[1]+120, 0)
	d.Until("document.querySelector('#overlay .ghost') && document.querySelector('#overlay .guide, #overlay .gap')")
	d.Drag(box[0], box[1]+100, box[0]+160, box[1]+130, shift)
	if sym := d.sheet().Symbols[3]; sym.W != sym.H || sym.W < 100*100 {
		t.Errorf("drawn with Shift it is %v", sym.Box)
	}
	// A line let go over the sheet: a digit, and a click.
	for i, choose := range []func(){func() { d.Key("2") }, func() { d.ClickOn("#ask [data-kind=document]") }} {
		r := browser.Eval[[]float64](d.Page, fmt.Sprintf(`(() => { const r = document.querySelectorAll('#symbols .symbol')[%d].getBoundingClientRect()
			return [r.right, r.y + r.height / 2] })()`, 3+i))
		d.Move(r[0]-20, r[1], 0)
		d.Drag(r[0]+6, r[1], r[0]+130, r[1]+10)
		d.Until("document.querySelectorAll('#ask .piece').length === 10 && document.querySelector('#overlay .ghost')")
		choose()
		d.Until("!document.getElementById('writing').hidden && document.getElementById('ask').querySelector('.piece') === null || document.getElementById('ask').hidden")
		d.Key("Next")
		d.Key(browser.Enter)
	}
	sheet := d.sheet()
	if n := len(sheet.Symbols); n != 6 || sheet.Symbols[4].Kind != model.Decision ||
		sheet.Symbols[5].Kind != model.Document ||
		sheet.Symbols[5].Text != "Next" || len(sheet.Connectors) != 2 {
		t.Errorf("there are %d symbols and %d connectors: %+v", n, len(sheet.Connectors), sheet.Symbols[4:])
	}
	d.sound()
}

// Lanes are inserted beside the one in which the selected step stands, what they are part of is offered, they are
// turned and widened with the paper, and all of it is in sight then.
func TestLanesUnderTheHand(t *testing.T) {
	s := start(t, "serve")
	d := s.create(browser.Start(t), "Lanes", "swimlanes", "A4")
	inSight := func(what string) {
		t.Helper()
		d.Until(`(() => { const a = document.querySelector('#pools').getBoundingClientRect(), b = document.getElementById('drawing').getBoundingClientRect()
			return a.top >= b.top && a.left >= b.left && a.right <= b.right && a.bottom <= b.bottom })()`)
	}
	lanes := func() (names []string) {
		for _, l := range d.sheet().Pools[0].Lanes {
			names = append(names, l.Name)
		}
		return names
	}
	before := lanes()
	d.Key("1") // a first step
	d.Key("Log it")
	d.Key(browser.Enter)
	d.Key(browser.Escape)
	d.clickStep("Log it")
	d.byName("Insert a lane below")
	d.Key("Workshop")
	d.Key(browser.Enter)
	if got := lanes(); len(got) != len(before)+1 || got[1] != "Workshop" {
		t.Errorf("the lanes are %v", got)
	}
	part := func(name string) {
		d.Key("k", ctrl)
		d.Until("document.activeElement.closest('.finder, dialog')")
		d.Key("Part of a department")
		d.Key(browser.Enter)
		d.Until("document.getElementById('part-dialog').open")
		if name == "" {
			return
		}
		d.Key(name)
		d.Key(browser.Enter)
		d.Until("!document.getElementById('part-dialog').open")
	}
	part("Public works")
	d.saved()
	part("")
	if got := browser.Eval[string](d.Page,
		"[...document.querySelectorAll('#parts option')].map(o => o.value).join()"); got != "Public works" {
		t.Errorf("offered are %q", got)
	}
	d.Key(browser.Escape)

	d.byName("Turn the lanes across")
	inSight("turned")
	d.Key("z", ctrl)
	width := d.sheet().Pools[0].W
	browser.Eval[any](d.Page,
		"(s => { s.value = 'A3'; s.dispatchEvent(new Event('change')) })(document.getElementById('sheet-paper'))")
	inSight("on A3")
	d.Until("document.querySelector('#words button').textContent === 'Widen the lanes'")
	d.ClickOn("#words button")
	sheet := d.sheet()
	if b, page := sheet.Pools[0].Box(), sheet.Page(); b.W <= width || !page.Holds(b) ||
		page.Right()-b.Right()-b.X > 100 {
		t.Errorf("widened the lanes are %v on %v", b, page)
	}
	d.sound()
}

// What a value would look like shows while the pointer rests on it, or it has the focus, and goes without a trace;
// colours are written as hexadecimal digits.
func TestValuesShowWhileThePointerRests(t *testing.T) {
	d := three(t)
	before := fmt.Sprint(d.sheet().Symbols[0], d.sheet().Symbols[1])
	was := func(list string) {
		browser.Eval[any](d.Page,
			"window.was = document.getElementById('"+list+"').innerHTML, 1")
	}
	looks := func(list, is string) {
		d.Until("document.getElementById('" + list + "').innerHTML " + is +
			" window.was")
	}
	rest := func(on string) {
		d.Move(d.middleOf(on))
	}
	d.clickStep("One")
	d.ClickOn(".draw-strip .tool[data-needs=fill]")
	was("symbols")
	for _, of := range []string{"[data-command=fill][data-arg=lake]", "[data-command=outline][data-arg='ink=clay']"} {
		rest(of)
		looks("symbols", "!==")
		rest("#saved")
		looks("symbols", "===")
	}
	// By the keyboard, and Esc.
	browser.Eval[any](d.Page,
		"document.querySelector('[data-command=fill][data-arg=straw]').focus({ focusVisible: true }), 1")
	looks("symbols", "!==")
	d.Key(browser.Escape)
	looks("symbols", "===")
	if now := fmt.Sprint(d.sheet().Symbols[0], d.sheet().Symbols[1]); now != before {
		t.Errorf("looking at values changed %s to %s", before, now)
	}
	// Written colours.
	d.ClickOn(".draw-strip .tool[data-needs=fill]")
	d.ClickOn(".hex[data-set=fill]")
	d.Key("a", ctrl)
	d.Key("#2a7")
	d.Until("document.getElementById('symbols').innerHTML.includes('#22aa77')")
	d.Key(browser.Enter)
	if fill := d.called("One").Fill; fill != "#22aa77" {
		t.Errorf("the fill is %q", fill)
	}
	d.Key(browser.Escape)
	// A mark at the end of a line.
	d.connect("One", "bottom", "Three")
	d.Click(d.line(0.5))
	d.ClickOn(".draw-strip .tool:has(+ .menu[aria-label='The ends of the connector'])")
	was("connectors")
	rest("[data-command=line][data-arg='to=filled-diamond']")
	looks("connectors", "!==")
	rest("#saved")
	looks("connectors", "===")
	d.ClickOn("[data-command=line][data-arg='to=filled-diamond']")
	if c := d.connector(); c.ToMark != model.MarkFullDiamond {
		t.Errorf("the mark is %q", c.ToMark)
	}
	d.sound()
}

// middleOf returns the middle of a part of the page, to move to with no button held.
func (d *desk) middleOf(sel string) (x, y float64, buttons int64) {
	d.s.Helper()
	x, y = d.Middle(sel)
	return x, y, 0
}

// In the register a block is filled by one key, a double click on a border fits a column, filters leave the strip as it
// is, and all columns are in sight; sheets have a column, documents rows of their own that take values.
func TestTheRegisterUnderTheHand(t *testing.T) {
	s := start(t, "demo")
	b := browser.Start(t)
	d := s.desk(b, s.demo(b, "A street light is out"))
	d.Key("t", alt)
	d.Until("document.body.classList.contains('wide') && document.querySelectorAll('.grid-body .grid-row').length > 5")
	high := func() float64 {
		return browser.Eval[float64](d.Page, "document.getElementById('wide-strip').getBoundingClientRect().height")
	}
	before := high()
	d.Until("(() => { const g = document.querySelector('.cells'); return g.scrollWidth <= g.clientWidth + 1 })()")
	if got := d.cell(0, "Sheet"); got != "Report and diagnosis" {
		t.Errorf("the first step is on the sheet %q", got)
	}
	// Ctrl Enter fills what is selected with what was typed.
	d.goCell(0, "System")
	for range 3 {
		d.Key(browser.Down, shift)
	}
	d.Key("Paper")
	d.Until("document.querySelector('.grid-editor')")
	d.Key("a", ctrl)
	d.Key("On paper")
	d.Key(browser.Enter, ctrl)
	for row := range 5 {
		if got := d.cell(row, "System"); (got == "On paper") != (row < 4) {
			t.Errorf("row %d says %q", row, got)
		}
	}
	d.Key("z", ctrl)
	if got := d.cell(1, "System"); got != "Desk tool" {
		t.Errorf("taken back, row 1 says %q", got)
	}
	// A border that is clicked twice.
	wide := func() float64 {
		return browser.Eval[float64](d.Page, "plainTracerApp.register.grid.columns.find(c => c.id === 'text').width")
	}
	was := wide()
	edge := browser.Eval[[]float64](d.Page,
		"(r => [r.x + r.width / 2, r.y + r.height / 2])(document.querySelector('[data-column=text] .grid-edge').getBoundingClientRect())")
	d.DoubleClick(edge[0], edge[1])
	d.Until(fmt.Sprintf("plainTracerApp.register.grid.columns.find(c => c.id === 'text').width !== %v", was))
	d.Until("[...document.querySelectorAll('.grid-body [data-col=\"1\"]')].every(c => c.scrollWidth <= c.clientWidth)")
	// A filter leaves the strip in one row.
	d.ClickOn(".grid-filter[data-column=who]")
	d.Key("Field crew")
	d.Until("document.getElementById('wide-count').textContent.includes(' of ')")
	if now := high(); now != before || before > 44 {
		t.Errorf("filtered the strip is %v high, was %v", now, before)
	}
	d.Key(browser.Escape)
	// What a day is in the map, and how long waits are then.
	if got := d.cell(5, "Wait"); got != "1 d 12 h" {
		t.Errorf("the wait is %q", got)
	}
	d.ClickOn("#wide-fields")
	for field, n := range map[string]string{"day": "8", "week": "5"} {
		d.ClickOn("#work-" + field)
		d.Key(n + browser.Tab)
	}
	d.Until("document.getElementById('work-day').value === '8' && document.getElementById('work-week').value === '5'")
	d.ClickOn("#fields-dialog .primary:not(#add-field)")
	if got := d.cell(5, "Wait"); got != "4 d 4 h" {
		t.Errorf("in days of 8 hours the wait is %q", got)
	}
	if foot := d.Text("#wide-foot"); !strings.Contains(foot, " w ") || strings.Contains(foot, ".5 h") ||
		!strings.Contains(foot, "EUR") {
		t.Errorf("the sums are %s", foot)
	}
	d.goCell(0, "Wait")
	d.Key("2 d 1 h" + browser.Enter)
	if got := d.called("Report the light by phone or form").Value(d.s.file(d.path).Fields[2].ID); got != "1020" {
		t.Errorf("two days and an hour are kept as %q minutes", got)
	}
	// Documents have rows of their own.
	browser.Eval[any](d.Page,
		"(s => { s.value = 'papers'; s.dispatchEvent(new Event('change')) })(document.getElementById('wide-rows'))")
	d.Until("plainTracerApp.register.grid.columns.some(c => c.title === 'Document or data')")
	row := browser.Eval[int](d.Page, "plainTracerApp.register.grid.rows.findIndex(r => r.cells.text === 'Work order')")
	d.goCell(row, "System")
	d.Key("On paper" + browser.Enter)
	for _, sym := range d.sheet().Symbols {
		if sym.Text == "Work order" && len(sym.Values) != 1 {
			t.Errorf("the work order has the values %v", sym.Values)
		}
	}
	d.sound()
}

// Undo survives a reload of the page: the same window goes on, and takes back what it did before, around what others
// did meanwhile. A window that is opened anew has nothing to take back.
func TestUndoSurvivesAReload(t *testing.T) {
	s := start(t, "serve")
	b := browser.Start(t)
	d := s.create(b, "Reload", "flowchart", "A4")
	d.Key("1")
	d.Key("One" + browser.Enter)
	d.Key(browser.Enter)
	d.Key("Two" + browser.Enter)
	d.Key(browser.Escape)
	d.clickStep("One")
	d.Key("b", ctrl)
	d.saved()
	bold := func() bool { return d.called("One").Bold }
	if !bold() {
		t.Fatal("it is not bold")
	}
	name := browser.Eval[string](d.Page, "plainTracerApp.sync.window")
	d.reload()
	if now := browser.Eval[string](d.Page, "plainTracerApp.sync.window"); now != name {
		t.Errorf("the window was %s and is %s", name, now)
	}
	other := s.desk(b, d.path)
	if browser.Eval[bool](other.Page, "plainTracerApp.sync.window === "+fmt.Sprintf("%q", name)) {
		t.Error("another window has the same name")
	}
	other.rewrite("Two", "Second")
	other.saved()
	d.Until("document.getElementById('symbols').textContent.includes('Second')")
	d.Key("z", ctrl)
	d.saved()
	if bold() {
		t.Error("undo after the reload left it bold")
	}
	d.Key("y", ctrl)
	d.saved()
	if !bold() {
		t.Error("redo left it plain")
	}
	d.reload()
	for range 3 {
		d.Key("z", ctrl)
		d.saved()
	}
	if got := d.called("Second"); bold() || got == nil {
		t.Errorf("after the second reload %v, and One is bold: %v", d.sheet().Symbols, bold())
	}
	other.Key("z", ctrl)
	other.saved()
	fresh := s.desk(b, d.path)
	if undo := browser.Eval[string](fresh.Page, "plainTracerApp.bars.state.undo"); undo != "" {
		t.Errorf("a window just opened offers to undo %q", undo)
	}
	d.sound()
}

// reload loads the page of the desk again.
func (d *desk) reload() {
	d.s.Helper()
	browser.Eval[any](d.Page, "delete document.documentElement.dataset.ready, setTimeout(() => location.reload()), 1")
	d.ready()
}

// gesturing counts what a person does: a text is one gesture, with the key that ends it, and so is any other key or
// click.
type gesturing struct {
	*desk
	count int
}

func (g *gesturing) write(text, end string, mods ...chromedp.Modifier) {
	g.count++
	g.Until("!document.getElementById('writing').hidden")
	g.Key(text)
	g.Key(end, mods...)
}

func (g *gesturing) press(key string, mods ...chromedp.Modifier) {
	g.count++
	g.Key(key, mods...)
}

// Seven symbols with a decision are mapped in eleven gestures: while a step is written, Tab goes on to the next one.
func TestSevenSymbolsInElevenGestures(t *testing.T) {
	s := start(t, "serve")
	g := &gesturing{desk: s.create(browser.Start(t), "Lamp", "flowchart", "A4")}
	g.press("3")
	g.write("A light is out", browser.Tab)
	g.write("Log the report", browser.Tab)
	g.write("Reported before?", browser.Tab)
	g.write("Give the date", browser.Enter)
	g.press(browser.PageUp)
	g.press(browser.Enter)
	g.write("Inspect the light", browser.Tab)
	g.write("Mend it", browser.Enter)
	g.press("3")
	g.write("It burns", browser.Enter)
	sheet := g.sheet()
	const want = "A light is out>Log the report Inspect the light>Mend it Log the report>Reported before? Mend it>It burns Reported before?>Give the date Reported before?>Inspect the light"
	if got := g.ways(0); len(sheet.Symbols) != 7 || got != want || g.called("Reported before?").Kind != model.Decision {
		t.Errorf("there are %d symbols: %s", len(sheet.Symbols), got)
	}
	if g.count > 11 {
		t.Errorf("it took %d gestures", g.count)
	}
	g.sound()
}

// Nine symbols in four lanes with a loop are mapped in twenty: Ctrl and an arrow take the step that is written to the
// next lane.
func TestNineSymbolsInFourLanesInTwentyGestures(t *testing.T) {
	s := start(t, "serve")
	d := s.create(browser.Start(t), "Lamp", "swimlanes", "A4")
	d.byName("Add a lane at the end") // there are three to begin with
	d.Key("Stores" + browser.Enter)
	d.saved()
	d.Key(browser.Escape)
	g := &gesturing{desk: d}
	g.press("3")
	g.write("A light is out", browser.Tab)
	g.write("Report it", browser.Tab)
	g.press(browser.Down, ctrl)
	g.write("Log the report", browser.Tab)
	g.write("All said?", browser.Tab)
	g.press(browser.Down, ctrl)
	g.write("Inspect the light", browser.Tab)
	g.press(browser.Down, ctrl)
	g.write("Hand out the lamp", browser.Tab)
	g.press(browser.Up, ctrl)
	g.write("Mend it", browser.Tab)
	g.write("Tell the desk", browser.Enter)
	g.press("3")
	g.write("It burns", browser.Enter)
	// The loop: from the decision back to the report.
	g.drag("All said?", "top", "Report it")
	sheet := g.sheet()
	lanes := map[string]bool{}
	for _, sym := range sheet.Symbols {
		lanes[sheet.OwnerOf(sym)] = true
	}
	got := g.ways(0)
	if len(sheet.Symbols) != 9 || len(lanes) != 4 || len(sheet.Connectors) != 9 || !strings.Contains(got,
		"All said?>Report it") ||
		!strings.Contains(got, "All said?>Inspect the light") {
		t.Errorf("there are %d symbols in %v: %s", len(sheet.Symbols), lanes, got)
	}
	if g.count > 20 {
		t.Errorf("it took %d gestures", g.count)
	}
	g.sound()
}

func (g *gesturing) drag(from, side, to string) {
	g.count++
	g.clickStep(from)
	g.connect(from, side, to)
}

// The page of all symbols finds by description, the best first.
func TestThePageOfSymbolsFindsByDescription(t *testing.T) {
	s := start(t, "serve")
	p := browser.Start(t).Open(s.URL + "/symbols")
	p.ClickOn("#find-symbol")
	p.Key("paper form somebody fills in")
	p.Until("(l => l.length > 0 && l.length < 12 && l.sort((a, b) => a.style.order - b.style.order).slice(0, 3).some(l => l.id === 'document'))([...document.querySelectorAll('.all-symbols li[id]:not([hidden])')])")
	p.Key("a", ctrl)
	p.Key(browser.Delete)
	p.Until("document.querySelectorAll('.all-symbols li[hidden]').length === 0")
}

// The search of commands opens the pages beside the drawing and leaves for those of the organisation, by the words
// people have.
func TestPagesAreFoundByName(t *testing.T) {
	d := three(t)
	for query, page := range map[string]string{"errors": "findings", "versions": "history", "discussion": "remarks"} {
		d.byName(query)
		d.Until("!document.getElementById('" + page + "').hidden && document.activeElement.id === 'tab-" + page + "'")
		d.Key(browser.Escape)
	}
	d.byName("home")
	d.Until("location.pathname === '/'")
}
