package e2e

import (
	"bytes"
	"fmt"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/xuri/excelize/v2"

	"plaintracer/core/flow"
	"plaintracer/core/model"
	"plaintracer/core/numbering"
	"plaintracer/e2e/browser"
)

// cell is what stands in a cell of the wide register, by the number of its row and the title of its column.
func (d *desk) cell(row int, column string) string {
	d.s.Helper()
	return browser.Eval[string](d.Page,
		fmt.Sprintf(`(() => { const g = plainTracerApp.register.grid; return g.rows[%d]?.cells[g.columns.find(c => c.title === %q).id] ?? '' })()`, row, column))
}

// goCell puts the focus on a cell.
func (d *desk) goCell(row int, column string) {
	d.s.Helper()
	browser.Eval[any](d.Page,
		fmt.Sprintf(`(() => { const g = plainTracerApp.register.grid; g.focus(); g.go(%d, g.columns.findIndex(c => c.title === %q)) })()`, row, column))
}

func (d *desk) pasteInto(text string) {
	d.s.Helper()
	browser.Eval[any](d.Page,
		fmt.Sprintf(`(() => { const t = new DataTransfer(); t.setData('text/plain', %q); document.activeElement.dispatchEvent(new ClipboardEvent('paste', { clipboardData: t, bubbles: true, cancelable: true })) })()`, text))
}

// rows are the numbers of the rows of the register, as they stand.
func (d *desk) rows() string {
	d.s.Helper()
	return browser.Eval[string](d.Page, "plainTracerApp.register.grid.rows.map(r => r.cells.number).join(' ')")
}

// The register is worked in like a spreadsheet: a field is filled for twelve steps by the keyboard, a block is pasted,
// rows are sorted, filtered and moved, and what comes next is written; it is one map with the drawing, in this window
// and another.
func TestTheRegisterIsWorkedIn(t *testing.T) {
	s := start(t, "demo")
	b := browser.Start(t)
	path := s.demo(b, "A street light is out")
	other := s.desk(b, path)
	d := s.desk(b, path)
	d.Key("t", chromedp.ModifierAlt)
	d.Until("document.body.classList.contains('wide') && document.querySelectorAll('.grid-body .grid-row').length > 5 && location.pathname.endsWith('/table')")
	d.ClickOn("#wide-fields")
	d.ClickOn("#field-name")
	d.Key("Form")
	d.ClickOn("#add-field")
	d.Until("document.querySelectorAll('#fields-list li').length === 5")
	browser.Eval[any](d.Page, "document.getElementById('fields-dialog').close()")
	d.goCell(0, "Form")
	for i := range 12 {
		d.Key(fmt.Sprint("F", i+1))
		d.Key(browser.Enter)
	}
	for i := range 12 {
		if got := d.cell(i, "Form"); got != fmt.Sprint("F", i+1) {
			t.Errorf("row %d holds %q", i+1, got)
		}
	}
	d.saved()

	// A block comes from a spreadsheet; what does not fit is marked, with the reason, and changes nothing.
	d.goCell(0, "Time")
	d.pasteInto("6 min\t1 h\nsoon\t2 d\n")
	d.Until("document.querySelector('.grid-cell[aria-invalid=true] .refused')?.textContent === 'soon'")
	if d.cell(0, "Time") != "6 min" || d.cell(0, "Wait") != "1 h" || d.cell(1, "Time") != "5 min" ||
		d.cell(1, "Wait") != "2 d" {
		t.Errorf("pasted: %s, %s; %s, %s", d.cell(0, "Time"), d.cell(0, "Wait"), d.cell(1, "Time"), d.cell(1, "Wait"))
	}
	if title := browser.Eval[string](d.Page,
		"document.querySelector('.grid-cell[aria-invalid=true]').title"); !strings.Contains(title,
		"“soon” is no duration") {
		t.Errorf("the reason is %q", title)
	}
	d.Key("z", chromedp.ModifierCtrl) // one undo takes the block back
	d.Until("plainTracerApp.register.grid.rows[1].cells['f-wait'] === '2 h'")
	if d.cell(0, "Time") != "4 min" {
		t.Errorf("after undo it is %q", d.cell(0, "Time"))
	}

	// Sorted and filtered; the rest of the drawing fades meanwhile.
	browser.Eval[any](d.Page, "plainTracerApp.register.sort('f-wait')")
	browser.Eval[any](d.Page, "plainTracerApp.register.sort('f-wait')")
	if got := d.rows(); !strings.HasPrefix(got, "14 15 12 6 ") {
		t.Errorf("by wait, the longest first: %s", got)
	}
	d.ClickOn(".grid-filter[data-column=who]")
	d.Key("crew")
	d.Until("document.getElementById('wide-count').textContent.includes('of 22') && document.querySelector('#symbols .dimmed')")
	if got := d.rows(); !strings.HasPrefix(got, "12 6 ") || strings.Contains(got, "14") {
		t.Errorf("of the crew: %s", got)
	}
	browser.Eval[any](d.Page, "(f => { f.value = ''; f.dispatchEvent(new Event('input')) })(document.activeElement)")
	browser.Eval[any](d.Page, "plainTracerApp.register.sort('f-wait')")
	d.Until("!document.querySelector('#symbols .dimmed')")

	// A row changes places with the one before it, where the flow is straight; across a branch it does not.
	d.goCell(2, "Step")
	d.Key(browser.Up, chromedp.ModifierAlt)
	d.Until("plainTracerApp.register.grid.rows[1].cells.text.startsWith('Look up')")
	d.goCell(3, "Step")
	d.Key(browser.Down, chromedp.ModifierAlt)
	d.Until("document.getElementById('words').textContent.includes('not across a branch')")
	d.Key("z", chromedp.ModifierCtrl)
	d.Until("plainTracerApp.register.grid.rows[1].cells.text.startsWith('Log')")

	// So does one that is dragged by its number.
	d.goCell(1, "Number")
	at := browser.Eval[[]float64](d.Page,
		`(() => [...document.querySelectorAll('.grid-body .grid-row')].sort((a, b) => a.at - b.at).slice(1, 3).map(r => r.firstElementChild.getBoundingClientRect()).flatMap(r => [r.x + 20, r.y + r.height / 2]))()`)
	d.Drag(at[0], at[1], at[2], at[3]+14)
	d.Until("plainTracerApp.register.grid.rows[1].cells.text.startsWith('Look up')")
	d.Key("z", chromedp.ModifierCtrl)
	d.Until("plainTracerApp.register.grid.rows[1].cells.text.startsWith('Log')")

	// A remark is about a cell, which shows it.
	d.goCell(1, "Wait")
	d.Key("r", chromedp.ModifierAlt)
	d.Until("document.activeElement.name === 'text' && document.getElementById('remark-on').textContent === 'step 2, Wait'")
	d.Key("Always two hours?")
	d.ClickOn("#new-remark .primary")
	d.Until("document.querySelector('.thread .about')?.textContent.endsWith('Log the report, Wait')")
	d.Until("document.querySelectorAll('.grid-cell.noted').length === 1 && document.querySelector('#new-remark [name=text]').value === ''")
	browser.Eval[any](d.Page, "document.getElementById('shut-book').click()")

	// Next is written: the connector of that answer leads elsewhere, and a new name makes a step.
	d.goCell(3, "Next")
	d.Key("Yes > 5; No > Ask the neighbours")
	d.Key(browser.Enter)
	d.Until("!document.getElementById('wide-ask').hidden")
	d.Key("1", chromedp.ModifierAlt)
	d.Until("document.getElementById('symbols').textContent.includes('neighbours')")
	d.saved()
	m := s.file(path)
	i := slices.IndexFunc(m.Sheets[0].Connectors, func(c *model.Connector) bool {
		to := m.Sheets[0].Symbol(c.To.Symbol)
		return c.Text == "No" && to != nil && to.Text == "Ask the neighbours"
	})
	if i < 0 {
		t.Error("no answer leads to the new step")
	}
	other.Until("document.getElementById('symbols').textContent.includes('neighbours')")
	d.Key("z", chromedp.ModifierCtrl)

	// What comes in from the other window does not disturb what is being typed, and shows in the other rows at once.
	d.goCell(0, "Form")
	d.Key("F-")
	other.rewrite("Log the report", "Write the report down")
	d.Until("[...document.querySelectorAll('.grid-cell')].some(c => c.textContent === 'Write the report down')")
	d.Key("900")
	d.Key(browser.Tab)
	d.Until("plainTracerApp.register.grid.rows[0].cells[plainTracerApp.register.grid.columns.find(c => c.title === 'Form').id] === 'F-900'")
	d.Until("document.activeElement.id === 'grid-table' && document.getElementById(document.activeElement.getAttribute('aria-activedescendant'))")

	// Selecting goes both ways, over sheets.
	d.goCell(11, "Step")
	d.Until("document.querySelector('#tabs [aria-selected=true]').textContent === 'Repair' && plainTracerApp.bars.state.selected[0] === plainTracerApp.register.grid.at.id")
	d.Key("t", chromedp.ModifierAlt)
	d.Until("true")
	d.sound()
}

// Numbers by lane, held while a step is put in and another taken out, and released.
func TestNumbersAreHeld(t *testing.T) {
	s := start(t, "demo")
	b := browser.Start(t)
	path := s.demo(b, "A street light is out")
	d := s.desk(b, path)
	label := func(text string) string {
		m := s.file(path)
		for _, step := range numbering.Of(flow.New(m)) {
			if step.Symbol.Text == text {
				return step.Number
			}
		}
		return "none"
	}
	// A text is written in the list of the side panel.
	d.Until("document.querySelectorAll('#register .register:not(.chart) [data-find]').length === 22")
	at := browser.Eval[[]float64](d.Page,
		"(r => [r.x + 60, r.y + 10])(document.querySelectorAll('#register [data-find]')[1].getBoundingClientRect())")
	d.DoubleClick(at[0], at[1])
	d.Until("document.activeElement.className === 'book-editor'")
	d.Key("Note the report" + browser.Enter)
	d.Until("[...document.querySelectorAll('#register .what')].some(w => w.textContent === 'Note the report') && document.querySelector('#register [data-find]:focus')")
	d.saved()
	if label("Note the report") != "2" {
		t.Error("what was written in the list is not in the map")
	}
	browser.Eval[any](d.Page, "plainTracerApp.command('undo')")
	d.saved()
	browser.Eval[any](d.Page, "plainTracerApp.command('numbering', 'scheme=lane')")
	d.Until("document.getElementById('proposal-words').textContent.includes('1 becomes A1') && [...document.querySelectorAll('#symbols text')].some(t => t.textContent === 'B3')")
	if label("Log the report") != "2" {
		t.Error("what is tried is kept already")
	}
	d.ClickOn("#proposal [data-command=keep]")
	d.saved()
	if label("Log the report") != "B1" || label("Look up the pole number") != "B2" {
		t.Errorf("by lane: %s, %s", label("Log the report"), label("Look up the pole number"))
	}
	browser.Eval[any](d.Page, "plainTracerApp.command('hold-open')")
	d.Until("document.querySelector('.held')?.textContent.includes('Numbers are held since') && document.querySelector('.held').textContent.includes('Ida Brandt')")
	d.clickStep("Log the report")
	d.Key(browser.Enter)
	d.writeHere("Ask for the street")
	d.saved()
	d.Until("[...document.querySelectorAll('#symbols text')].some(t => t.textContent === 'B1a')")
	if label("Ask for the street") != "B1a" || label("Look up the pole number") != "B2" {
		t.Errorf("held: %s, %s", label("Ask for the street"), label("Look up the pole number"))
	}
	d.clickStep("Log the report")
	browser.Eval[any](d.Page, "plainTracerApp.command('delete-close')")
	d.saved()
	if label("Ask for the street") != "B1a" || label("Look up the pole number") != "B2" {
		t.Errorf("held: %s, %s", label("Ask for the street"), label("Look up the pole number"))
	}
	d.Key("f", chromedp.ModifierCtrl) // a number is found
	d.Until("document.activeElement.id === 'find-text'")
	d.Key("b1a")
	d.Until("document.getElementById('find-count').textContent.startsWith('1 of 1')")
	d.Key(browser.Escape)
	d.Until("document.querySelector('.held [data-command=release-open]')")
	d.ClickOn(".held [data-command=release-open]")
	d.Until("document.getElementById('release-dialog').open && document.getElementById('renumbering').textContent.includes('B1aB1Ask for the street')")
	d.ClickOn("#release-form .primary")
	d.Until("!document.querySelector('.held [data-command=release-open]')")
	d.saved()
	if label("Ask for the street") != "B1" || label("Look up the pole number") != "B2" {
		t.Errorf("released: %s, %s", label("Ask for the street"), label("Look up the pole number"))
	}
	browser.Eval[any](d.Page, "plainTracerApp.command('undo')") // and held again
	d.Until("document.querySelector('.held [data-command=release-open]')")
	d.saved()
	if label("Ask for the street") != "B1a" {
		t.Errorf("undone: %s", label("Ask for the street"))
	}
	d.sound()
}

// The register goes to a spreadsheet and comes back with three changes, of which two are taken.
func TestTheRegisterComesBack(t *testing.T) {
	s := start(t, "demo")
	b := browser.Start(t)
	path := s.demo(b, "A street light is out")
	code, file := get(t, s.URL+path+"/export/register-xlsx")
	if code != 200 {
		t.Fatal(code)
	}
	book, err := excelize.OpenReader(bytes.NewReader(file))
	if err != nil {
		t.Fatal(err)
	}
	rows, err := book.GetRows("Register")
	if err != nil {
		t.Fatal(err)
	}
	set := func(row int, column string, v any) {
		t.Helper()
		cell, err := excelize.CoordinatesToCellName(slices.Index(rows[0], column)+1, row)
		if err == nil {
			err = book.SetCellValue("Register", cell, v)
		}
		if err != nil {
			t.Fatal(err)
		}
	}
	set(2, "Time", 45.0/24/60) // 0:45, as a spreadsheet has it
	set(3, "Step", "Note the report")
	set(4, "Cost", "9,75")
	set(len(rows)+1, "Step", "Thank the resident")
	name := filepath.Join(t.TempDir(), "back.xlsx")
	if err := book.SaveAs(name); err != nil {
		t.Fatal(err)
	}
	d := s.desk(b, path+"/table")
	d.Until("document.querySelectorAll('.grid-body .grid-row').length > 5")
	d.Choose("#wide-file", name)
	d.Until("document.getElementById('taken-dialog').open && document.querySelectorAll('#taken tr').length === 4")
	if text := d.Text("#taken-words"); !strings.Contains(text, "4 cells change.") {
		t.Error(text)
	}
	if text := d.Text("#taken"); !strings.Contains(text,
		"“18 Close the report” leads to it, no longer to “The lamp burns again”; it leads to “The lamp burns again”") {
		t.Errorf("of the connectors it is said: %s", text)
	}
	browser.Eval[any](d.Page,
		"[...document.querySelectorAll('#taken tr')].find(r => r.textContent.includes('Note the report')).querySelector('input').click()")
	d.ClickOn("#taken-take")
	d.Until("document.getElementById('words').textContent.includes('3 cells were taken')")
	if last := browser.Eval[string](d.Page,
		"plainTracerApp.register.grid.rows.at(-1).cells.text"); last != "Thank the resident" {
		t.Errorf("the last row is %q", last)
	}
	if d.cell(0, "Time") != "45 min" || d.cell(2, "Cost") != "9.75 EUR" || d.cell(1, "Step") != "Log the report" {
		t.Errorf("%s, %s, %s", d.cell(0, "Time"), d.cell(2, "Cost"), d.cell(1, "Step"))
	}
	browser.Eval[any](d.Page, "plainTracerApp.command('undo')")
	d.Until("plainTracerApp.register.grid.rows[0].cells['f-time'] === '4 min' && plainTracerApp.register.grid.rows[2].cells['f-cost'] === '2.10 EUR'")
	bad := filepath.Join(t.TempDir(), "bad.csv")
	if err := os.WriteFile(bad, []byte("Step,Who\nx,y\n"), 0o600); err != nil {
		t.Fatal(err)
	}
	d.Choose("#wide-file", bad)
	d.Until("document.getElementById('words').textContent.includes('there is no column')")
	d.sound()
}

// What is typed into the table by habit changes only what it is typed on: a slip in Next is asked about, a refused text
// leaves the value, Tab and Enter go where they go in spreadsheets, and the table is left by the key that opens it.
func TestTheRegisterForgivesSlips(t *testing.T) {
	s := start(t, "demo")
	b := browser.Start(t)
	d := s.desk(b, s.demo(b, "A street light is out"))
	symbols := func() int {
		d.saved()
		return len(s.file(d.path).Sheets[0].Symbols) + len(s.file(d.path).Sheets[1].Symbols)
	}
	before := symbols()
	open := func() {
		d.Key("t", chromedp.ModifierAlt)
		d.Until("document.body.classList.contains('wide') && document.querySelectorAll('.grid-body .grid-row').length > 5")
	}
	open()
	was := d.cell(3, "Next")

	// A slip: it is asked about, without taking the keys; nothing has changed.
	d.goCell(3, "Next")
	d.Key("Yes > Giv the date of the repair; No > 6" + browser.Enter)
	d.Until("document.getElementById('wide-ask').textContent.includes('no step called “Giv the date of the repair”')")
	if symbols() != before || d.cell(3, "Next") != was {
		t.Fatalf("a slip changes the map: %s", d.cell(3, "Next"))
	}
	d.Until("document.querySelector('.grid-cell.wrong .value').textContent === 'Yes > 5; No > 6' && document.querySelector('.grid-cell.wrong .refused').textContent.startsWith('Yes > Giv')")
	d.Key("1", chromedp.ModifierAlt) // it was meant
	d.Until("document.getElementById('wide-ask').hidden && !document.querySelector('.grid-cell.wrong')")
	if symbols() != before || d.cell(3, "Next") != was {
		t.Errorf("meant was 5: %s, %d symbols", d.cell(3, "Next"), symbols())
	}
	// A new step, said so.
	d.goCell(3, "Next")
	d.Key("Yes > 5; No > Telephone" + browser.Enter)
	d.Until("!document.getElementById('wide-ask').hidden")
	browser.Eval[any](d.Page,
		"([...document.querySelectorAll('#wide-ask button')].find(b => b.textContent.includes('new step')).click(), 0)")
	d.Until("document.getElementById('symbols').textContent.includes('Telephone')")
	if symbols() != before+1 {
		t.Errorf("there are %d symbols, not %d", symbols(), before+1)
	}
	d.Key("z", ctrl)
	d.Until("!document.getElementById('symbols').textContent.includes('Telephone')")

	// A refused text stands beside the value; Esc takes it away, and so does undo, which undoes nothing else.
	d.goCell(2, "Time")
	d.Key("7" + browser.Enter)
	d.goCell(2, "Time")
	d.Key("soon" + browser.Enter)
	d.Until("document.querySelector('.grid-cell.wrong .value')?.textContent === '7 min' && document.querySelector('.grid-cell.wrong .refused').textContent === 'soon'")
	d.Key("z", ctrl)
	d.Until("!document.querySelector('.grid-cell.wrong')")
	if d.cell(2, "Time") != "7 min" {
		t.Errorf("undo of a refused text undoes the one before: %s", d.cell(2, "Time"))
	}
	d.goCell(2, "Time")
	d.Key("soon" + browser.Enter)
	d.goCell(2, "Time")
	d.Key(browser.Escape)
	d.Until("!document.querySelector('.grid-cell.wrong')")
	d.Key("z", ctrl)
	d.Until("plainTracerApp.register.grid.rows[2].cells['f-time'] === '3 min'")

	// Tab and Enter: two rows are filled in, from the column where the typing began; no number is pinned, no text
	// written over.
	texts := func() string {
		return browser.Eval[string](d.Page,
			"plainTracerApp.register.grid.rows.map(r => r.cells.number + ' ' + r.cells.text).join('; ')")
	}
	all := texts()
	d.goCell(0, "System")
	d.Key("Desk tool" + browser.Tab + "8" + browser.Tab + "1 h" + browser.Enter + "On paper" + browser.Tab + "9" +
		browser.Enter)
	d.Until("plainTracerApp.register.grid.at.row === 2")
	if got := []string{d.cell(0, "System"), d.cell(0, "Time"), d.cell(0, "Wait"), d.cell(1, "System"),
		d.cell(1, "Time")}; !slices.Equal(got, []string{"Desk tool", "8 min", "1 h", "On paper", "9 min"}) {
		t.Errorf("filled in row by row: %q", got)
	}
	if at := browser.Eval[string](d.Page, "plainTracerApp.register.grid.column.title"); at != "System" {
		t.Errorf("after Tab and Enter the focus is in %s", at)
	}
	d.goCell(0, "Cost")
	d.Key(browser.Tab)
	if at := browser.Eval[string](d.Page,
		"plainTracerApp.register.grid.at.row + ' ' + plainTracerApp.register.grid.column.title"); at != "1 Step" {
		t.Errorf("Tab past the last column goes to %s", at)
	}
	last := browser.Eval[int](d.Page, "plainTracerApp.register.grid.rows.length - 1")
	d.goCell(last, "Wait")
	d.Key("2 h" + browser.Tab + "3" + browser.Enter + "typed on by habit" + browser.Tab + "and on" + browser.Enter)
	d.saved()
	if got := texts(); got != all || d.cell(last, "Wait") != "2 h" {
		t.Errorf("typing on behind the last row changes %s to %s", all, got)
	}

	// A field that is called like a column of the table is refused.
	d.ClickOn("#wide-fields")
	d.ClickOn("#field-name")
	d.Key("notes")
	d.ClickOn("#add-field")
	d.Until("document.getElementById('words').textContent.includes('another name')")
	browser.Eval[any](d.Page, "document.getElementById('fields-dialog').close()")

	// The key that opens the table leads back, from the grid, from a field that is open and from the strip.
	for _, from := range []string{"plainTracerApp.register.grid.focus()", "plainTracerApp.register.grid.edit('x')",
		"document.getElementById('wide-search').focus()", "document.getElementById('wide-insert').focus()"} {
		browser.Eval[any](d.Page, "(plainTracerApp.register.grid.go(0, 1), "+from+", 0)")
		d.Key("t", chromedp.ModifierAlt)
		d.Until("!document.body.classList.contains('wide') && document.activeElement.id === 'drawing'")
		open()
	}
	for _, width := range []int64{1024, 1280} {
		d.Do(chromedp.EmulateViewport(width, 800))
		d.Until(fmt.Sprintf("innerWidth === %d", width))
		if out := browser.Eval[[]string](d.Page,
			"[...document.querySelectorAll('#wide-strip .tools > *, #wide-strip .drop > button')].filter(c => c.getClientRects().length && c.getBoundingClientRect().right > innerWidth).map(c => c.textContent.trim())"); len(out) > 0 {
			t.Errorf("at %d px these lie outside: %q", width, out)
		}
	}
	d.sound()
}
