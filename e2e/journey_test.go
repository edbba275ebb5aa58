package e2e

import (
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/chromedp/chromedp"

	"plaintracer/core/model"
	"plaintracer/e2e/browser"
)

// journey returns the sheet of journeys of the map as the server has it, once it is saved.
func (d *desk) journey() *model.Sheet {
	d.s.Helper()
	d.saved()
	m := d.s.file(d.path)
	m.SettleAll()
	for _, s := range m.Sheets {
		if s.Kind == model.JourneySheet {
			return s
		}
	}
	d.s.Fatalf("the map has no journey")
	return nil
}

// said lists what stands in the cells of the first journey, row by row.
func said(s *model.Sheet) (rows []string) {
	p := s.Pools[0]
	for _, l := range p.Lanes {
		row := l.Name + ":"
		for _, st := range p.Stages {
			for _, sym := range s.InCell(l.ID, st.ID) {
				row += " [" + strings.ReplaceAll(sym.Text, "\n", "/") + "]"
			}
		}
		rows = append(rows, row)
	}
	return rows
}

// placeOf returns the middle of a text of the drawing, in pixels of the window.
func (d *desk) placeOf(text string) (x, y float64) {
	d.s.Helper()
	v := browser.Eval[[]float64](d.Page, fmt.Sprintf(`(t => { const r = t.getBoundingClientRect(); return [r.x + r.width / 2, r.y + r.height / 2] })(
		[...document.querySelectorAll('#symbols text, #pools text')].find(t => t.textContent === %q))`, text))
	return v[0], v[1]
}

// A journey of five stages by six rows is typed without the mouse: a text with the key that ends it is one gesture.
func TestAJourneyOfThirtyCellsByKeys(t *testing.T) {
	s := start(t, "serve")
	d := s.create(browser.Start(t), "Light", "flowchart", "A4")
	d.Key("k", ctrl)
	d.Until("document.activeElement.id === 'search-text'")
	d.Key("Add a journey")
	d.Key(browser.Enter)
	gestures := 2
	end := func(text, key string, mods ...chromedp.Modifier) {
		t.Helper()
		d.Until("!document.getElementById('writing').hidden && document.activeElement.id === 'writing'")
		was := browser.Eval[string](d.Page, "document.getElementById('writing').getAttribute('aria-label')")
		d.Key(text)
		d.Key(key, mods...)
		d.Until(fmt.Sprintf("document.getElementById('writing').hidden || document.getElementById('writing').getAttribute('aria-label') !== %q || document.getElementById('writing').value !== %q",
			was, text))
		gestures++
	}
	for i := range 5 {
		key := browser.Tab
		if i == 4 {
			key = browser.Enter
		}
		end(fmt.Sprint("Stage no ", i+1), key)
	}
	var want []string
	for row := range 6 {
		line := ""
		for stage := range 5 {
			text := fmt.Sprintf("Text %d of row %d", stage+1, row+1)
			line += " [" + text + "]"
			if row == 5 && stage == 4 {
				d.Key(text)
				d.Key(browser.Enter)
				gestures++
				break
			}
			end(text, browser.Tab)
		}
		want = append(want, line)
	}
	if gestures > 40 {
		t.Errorf("it took %d gestures", gestures)
	}
	d.Until("document.getElementById('writing').hidden")
	got := said(d.journey())
	for i := range want {
		if !strings.HasSuffix(got[i], ":"+want[i]) {
			t.Errorf("row %d is %q, want %q", i, got[i], want[i])
		}
	}
	// All is there after a reload, where arrows go on; a tab closed in the middle of a word keeps it.
	d.Go(s.URL + d.path)
	d.Until("document.getElementById('saved').textContent.includes('Saved')")
	d.ClickOn("#tabs [role=tab]:last-child")
	d.Until("document.getElementById('pools').textContent.includes('Stage no 5')")
	d.Key(browser.Down)
	d.Key(browser.Down)
	d.Until("document.getElementById('spoken').textContent.startsWith('Text 1 of row 1')")
	d.Key(browser.Enter, ctrl)
	d.Until("document.activeElement.id === 'writing'")
	d.Key("half a wo")
	d.Go(s.URL + d.path)
	d.Until("document.getElementById('words').textContent.includes('You were writing “half a wo”')")
	d.ClickOn("#words button")
	d.Until("!document.getElementById('writing').hidden && document.getElementById('writing').value === 'half a wo'")
	d.Key("rd")
	d.Key(browser.Escape)
	d.sound()
}

// Points are dragged, texts go to other cells, the person is written, and everything can be taken back.
func TestAJourneyByThePointer(t *testing.T) {
	s := start(t, "demo")
	b := browser.Start(t)
	d := s.desk(b, s.demo(b, "A street light is out"))
	d.ClickOn("#tabs [role=tab]:last-child")
	d.Until("document.getElementById('symbols').textContent.includes('A date, at least')")
	before := fmt.Sprint(said(d.journey()))

	x, y := d.placeOf("Takes the longer")
	tx, ty := d.placeOf("Watches the crew")
	d.Press(x, y)
	d.Move(x+20, y+10, 1)
	d.Move(tx, ty+4, 1)
	d.Until("document.querySelector('#overlay .into-lane') && document.querySelector('#overlay .ghost')")
	d.Release(tx, ty+4)
	if got := said(d.journey())[0]; !strings.Contains(got, "[Hears when it will be repaired] [Watches the crew from the window] [Takes the longer way]") &&
		!strings.Contains(got, "[Hears when it will be repaired] [Takes the longer way] [Watches the crew from the window]") {
		t.Errorf("dragged: %s", got)
	}
	d.Key("z", ctrl)
	if got := fmt.Sprint(said(d.journey())); got != before {
		t.Errorf("taken back: %s", got)
	}
	// A remark is on what stands in a cell.
	x, y = d.placeOf("Card at the door")
	d.Click(x, y)
	d.ClickOn("#review")
	d.Key("r")
	d.Until("document.activeElement.name === 'text' && document.getElementById('remark-on').textContent === '“Card at the door”'")
	d.Key("What does it say?")
	d.Key(browser.Enter, ctrl)
	d.Until("document.querySelector('.thread .about')?.textContent.includes('Card at the door') && document.querySelector('#flags .flag')")
	d.ClickOn("#draw")
	// A link leads to the step, and from the step back.
	x, y = d.placeOf("Reports the lamp")
	d.Click(x, y)
	d.Until("document.getElementById('spoken').textContent.includes('links to 1 Report the light by phone or form')")
	d.ClickOn("#tabs [role=tab]")
	d.Until("document.getElementById('symbols').textContent.includes('Log the report')")
	x, y = d.placeOf("Log the report")
	d.Click(x, y)
	d.Until("document.getElementById('spoken').textContent.includes('links to What a resident lives through')")
	d.ClickOn("#tabs [role=tab]:last-child")
	// The person is written in one field: the name, and below it a few words.
	d.Until("document.getElementById('pools').textContent.includes('Alva Norin')")
	x, y = d.placeOf("Alva Norin, 68")
	d.DoubleClick(x, y)
	d.Until("document.activeElement.id === 'writing' && document.getElementById('writing').value.startsWith('Alva Norin, 68\\nSings')")
	d.Key("Alva N.")
	d.Key(browser.Enter, chromedp.ModifierShift)
	d.Key("Waits.")
	d.Key(browser.Enter)
	if p := d.journey().Pools[0]; p.Title != "Alva N." || p.Words != "Waits." {
		t.Errorf("%q, %q", p.Title, p.Words)
	}
	// A row is folded and unfolded from the bar; a stage takes a colour, which its texts carry.
	x, y = d.placeOf("Thoughts")
	d.Click(x, y)
	d.ClickOn("#journey")
	d.ClickOn("[aria-label=Journey] [data-command=card-fold]")
	d.Until("!document.getElementById('symbols').textContent.includes('What is the number')")
	d.Key("f", chromedp.ModifierAlt)
	d.Until("document.getElementById('symbols').textContent.includes('What is the number')")
	// An empty cell is written into after a double click.
	_, y = d.placeOf("Opportunities")
	tx, _ = d.placeOf("The crew comes")
	d.DoubleClick(tx, y)
	d.Until("document.activeElement.id === 'writing'")
	d.Key("Say hello")
	d.Key(browser.Escape)
	d.DoubleClick(tx, y)
	d.Until("document.activeElement.id === 'writing'")
	d.Key("Say goodbye")
	d.Key(browser.Enter)
	d.Until("document.getElementById('symbols').textContent.includes('Say goodbye')")
	if got := strings.Join(said(d.journey()), "\n"); strings.Contains(got, "hello") || !strings.Contains(got, "[Say goodbye]") {
		t.Errorf("%s", got)
	}
	// A finger drags a point of the curve.
	moods := func() (list []int) {
		s := d.journey()
		for _, c := range s.Cells(s.Pools[0]) {
			if c.Kind == model.MoodCell {
				list = append(list, c.Mood)
			}
		}
		return list
	}
	was := moods()
	x, y = d.placeOf("A date, at least")
	finger := func(x, y float64) []browser.Finger { return []browser.Finger{{X: x, Y: y}} }
	d.Touch(finger(x, y), finger(x, y+10), finger(x, y+40))
	d.Until(saved)
	if now := moods(); now[2] >= was[2]-20 || now[1] != was[1] {
		t.Errorf("dragged down by a finger the moods are %v, and were %v", now, was)
	}
	// The wide register lists it all, and is written into; nothing is deleted there.
	d.Key("t", chromedp.ModifierAlt)
	d.Until("!document.getElementById('wide-of').hidden")
	browser.Eval[any](d.Page, `(f => { f.value = 'moments'; f.dispatchEvent(new Event('change')) })(document.getElementById('wide-rows'))`)
	d.Until("[...document.querySelectorAll('.grid-row')].some(r => r.textContent.includes('Asks the neighbour'))")
	at := browser.Eval[[]float64](d.Page, `(r => [r.x + 20, r.y + 10])([...document.querySelectorAll('.grid-row [role=gridcell]')].find(
		c => c.textContent === 'Asks the neighbour').getBoundingClientRect())`)
	d.Click(at[0], at[1])
	d.Key("Asks a friend")
	d.Key(browser.Enter)
	d.Until("[...document.querySelectorAll('.grid-row')].some(r => r.textContent.includes('Asks a friend'))")
	d.Key(browser.Delete, ctrl)
	d.Until("document.getElementById('words').textContent.includes('added, moved and deleted on its sheet')")
	if got := said(d.journey())[0]; !strings.Contains(got, "[Asks a friend]") {
		t.Errorf("written in the register: %s", got)
	}
	d.sound()
}

// A table becomes a journey; what was guessed is said before.
func TestAJourneyFromATable(t *testing.T) {
	s := start(t, "serve")
	d := s.create(browser.Start(t), "Light", "flowchart", "A4")
	file := filepath.Join(t.TempDir(), "journey.csv")
	table := "Row;Darkness;Light\nWhat happens;Comes home;Walks\nMood;-40: Dark;70\n"
	if err := os.WriteFile(file, []byte(table), 0o600); err != nil {
		t.Fatal(err)
	}
	d.Key("k", ctrl)
	d.Until("document.activeElement.id === 'search-text'")
	d.Key("A journey from a table")
	d.Key(browser.Enter)
	d.Until("document.querySelector('#journey-dialog[open]')")
	d.Choose("#journey-file", file)
	d.Until("!document.getElementById('journey-take').disabled")
	words := d.Text("#journey-dialog")
	for _, want := range []string{"1 journey of 2 stages and 2 rows, with something in 4 cells", "Line 3, “Mood”: taken for a row of the type Mood."} {
		if !strings.Contains(words, want) {
			t.Errorf("it does not say %q: %s", want, words)
		}
	}
	d.ClickOn("#journey-take")
	d.Until("document.getElementById('symbols').textContent.includes('Comes home')")
	if got := fmt.Sprint(said(d.journey())); got != "[What happens: [Comes home] [Walks] Mood: [Dark] []]" {
		t.Errorf("%s", got)
	}
	d.sound()
}
