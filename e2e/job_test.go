package e2e

import (
	"bytes"
	"encoding/xml"
	"errors"
	"fmt"
	"image/png"
	"io"
	"slices"
	"strconv"
	"strings"
	"testing"

	"plaintracer/core/flow"
	"plaintracer/core/model"
	"plaintracer/core/numbering"
	"plaintracer/core/scene"
	"plaintracer/e2e/browser"
)

// From the home page to a numbered map of 25 steps over two sheets, by mouse
// and keyboard alone; then exported, read back, and opened from a link.
func TestTheWholeJob(t *testing.T) {
	s := start(t, "serve")
	b := browser.Start(t)
	d := s.create(b, "Bring a parcel", "swimlanes", "A3")

	// Five lanes: three are there, two are added by the menu, all are named.
	for range 2 {
		d.ClickOn(".strip .drop:has([data-command=lanes]) .tool")
		d.ClickOn("[data-command=lanes]")
		d.Until("document.activeElement.id === 'writing'")
		d.Key(browser.Enter)
	}
	for i, name := range []string{"Counter", "Office", "Depot", "Driver", "Night desk"} {
		old := []string{"Customer", "Office", "Back office", "Lane 4", "Lane 5"}[i]
		x := browser.Eval[float64](d.Page,
			fmt.Sprintf("(r => r.x + r.width / 2)([...document.querySelectorAll('#pools text')].find(t => t.textContent === %q).getBoundingClientRect())", old))
		d.DoubleClick(x, d.lane(old))
		d.writeHere(name)
	}

	// The first symbol comes from the tray, the rest from keys and drags.
	d.ClickOn(".piece[data-take=terminator]")
	left := browser.Eval[float64](d.Page, "document.querySelector('#pools path').getBoundingClientRect().x")
	d.Click(left+55, d.lane("Counter"))
	d.Key("Begin" + browser.Enter) // typing on the selected symbol writes
	d.Until("document.activeElement.id === 'drawing'")
	d.then("Take the call", "Write the slip", "Known?", "Find the file", "Read the file")
	d.down("Known?", "Office", "Open a file")
	d.then("Add the address", "Complete?", "Stamp it", "Sort it")
	d.connect("Complete?", "bottom", "Open a file") // first loop back
	d.connect("Read the file", "right", "Sort it")  // merge
	d.down("Sort it", "Depot", "Plan the day")
	d.then("Load the van", "All loaded?", "Drive off")
	d.connect("All loaded?", "bottom", "Load the van") // second loop back
	d.down("Drive off", "Driver", "Park")
	d.then("Ring the bell", "Somebody in?", "Hand it over")
	d.Key("0")
	d.down("Somebody in?", "Night desk", "Leave a card")
	d.then("Note the time")
	d.connect("Note the time", "right", "A")
	d.saved()

	d.ClickOn("[data-command=sheet-add]")
	d.Until("document.querySelectorAll('#tabs [role=tab]').length === 2 && document.querySelectorAll('#symbols .symbol').length === 0")
	d.ClickOn(".piece[data-take=sheet-reference]")
	d.Click(500, 300)
	d.then("File the slip", "Send the bill", "Check the bill", "Close the file", "Report")
	d.Key("3")
	d.writeHere("Done")
	d.saved()

	// Line up what was moved out of line.
	x, y, _, _ := d.where("Send the bill")
	d.Drag(x, y, x, y+40)
	d.clickStep("Send the bill")
	x, y, _, _ = d.where("File the slip")
	d.Click(x, y, shift)
	d.ClickOn("[data-needs=align]")
	d.ClickOn("[data-command=align][data-arg=middle]")
	d.saved()

	m := s.file(d.path)
	steps := numbering.Number(m)
	if len(m.Sheets) != 2 || len(steps) != 25 || len(m.Sheets[0].Pools[0].Lanes) != 5 {
		t.Fatalf("there are %d sheets, %d steps, %d lanes", len(m.Sheets), len(steps), len(m.Sheets[0].Pools[0].Lanes))
	}
	decisions := 0
	for _, step := range steps {
		if step.Symbol.Kind == model.Decision {
			decisions++
		}
	}
	back := 0
	for _, n := range flow.New(m).Nodes() {
		back += len(n.Exits) - len(n.Forward())
	}
	if decisions != 4 || back != 2 {
		t.Errorf("%d decisions, %d loops back", decisions, back)
	}
	for text, lane := range map[string]string{"Take the call": "Counter", "Sort it": "Office", "Drive off": "Depot",
		"Hand it over": "Driver", "Note the time": "Night desk"} {
		if i := slices.IndexFunc(m.Sheets[0].Symbols, func(sym *model.Symbol) bool {
			return sym.Text == text
		}); m.Sheets[0].LaneOf(m.Sheets[0].Symbols[i]).Name != lane {
			t.Errorf("%q stands in lane %q", text, m.Sheets[0].LaneOf(m.Sheets[0].Symbols[i]).Name)
		}
	}
	two := m.Sheets[1]
	if a, b := two.Symbols[1].Centre().Y, two.Symbols[2].Centre().Y; a != b {
		t.Errorf("aligned, the steps stand at %d and %d", a, b)
	}
	for _, sheet := range m.Sheets {
		for i, c := range scene.Draw(m, sheet).Courses {
			if c.Obstructed {
				t.Errorf("the connector %s cuts a symbol", sheet.Connectors[i].ID)
			}
		}
	}

	// The register lists the steps and finds them.
	d.Until("document.querySelectorAll('.register li').length === 25")
	d.ClickOn(".register li:nth-child(3) button")
	d.Until("document.querySelector('#tabs [aria-selected=true]').textContent === 'Sheet 1' && document.querySelector('#overlay .corner')")
	d.ClickOn("#numbers")
	d.ClickOn("[data-command=number]")
	d.Until("![...document.querySelectorAll('#symbols text')].some(t => t.textContent === '1')")
	d.ClickOn("[data-command=number]")
	d.Until("[...document.querySelectorAll('#symbols text')].some(t => t.textContent === '20')")
	d.saved()

	readBack(t, s, d)
	readByLink(t, s, b, d)
	d.sound()
}

func readBack(t *testing.T, s *server, d *desk) {
	t.Helper()
	code, vector := get(t, s.URL+d.path+"/export/svg")
	var shown []string
	dec := xml.NewDecoder(bytes.NewReader(vector))
	for inText := false; ; {
		tok, err := dec.Token()
		if errors.Is(err, io.EOF) {
			break
		} else if err != nil {
			t.Fatalf("the SVG: %v", err)
		}
		switch tok := tok.(type) {
		case xml.StartElement:
			inText = tok.Name.Local == "text"
		case xml.CharData:
			if inText {
				shown = append(shown, string(tok))
			}
		case xml.EndElement:
			inText = false
		}
	}
	text := strings.Join(shown, " ")
	for _, want := range []string{"Take the call", "Note the time", "Night desk", "Yes", "No", "20"} {
		if code != 200 || !strings.Contains(text, want) {
			t.Errorf("the SVG (%d) does not show %q: %s", code, want, text)
		}
	}
	_, bitmap := get(t, s.URL+d.path+"/export/png")
	if img, err := png.Decode(bytes.NewReader(bitmap)); err != nil || img.Bounds().Dx() < 3000 {
		t.Errorf("the PNG: %v", err)
	}
}

func readByLink(t *testing.T, s *server, b *browser.Browser, d *desk) {
	t.Helper()
	d.ClickOn("#share")
	d.ClickOn("#links .new-link button")
	d.Until("document.querySelector('#links [data-made]')")
	link := browser.Eval[string](d.Page, "document.querySelector('#links [data-made]').value")
	if !strings.HasPrefix(link, s.Links+"/r/") || strings.HasPrefix(link, "http://127.0.0.1") {
		t.Fatalf("the link is %s", link)
	}
	reader := b.Open(link)
	reader.Until("document.getElementById('live').textContent === 'Live' && document.body.textContent.includes('Take the call')")
	// The reader follows the reference to the other sheet, and back by its tab.
	reader.ClickOn(".leading")
	reader.Until("document.body.textContent.includes('Send the bill') && !document.body.textContent.includes('Ring the bell')")
	reader.ClickOn(".tabs a")
	reader.Until("document.body.textContent.includes('Ring the bell')")
	// The reader sees a change as it is made, and can make none.
	d.ClickOn("#share-dialog .end button")
	d.ClickOn(".register li:nth-child(15) button")
	d.Key(browser.F2)
	d.writeHere("Park the van")
	reader.Until("document.body.textContent.includes('van')")
	before := fmt.Sprint(s.file(d.path).Sheets[0].Symbols[0])
	reader.Key("x" + browser.Delete + browser.Enter)
	x, y := reader.Middle(".symbol")
	reader.DoubleClick(x, y)
	if n := browser.Eval[int](reader,
		"document.querySelectorAll('textarea, input:not(#letters), [contenteditable], form').length"); n != 0 {
		t.Errorf("the reader's page has %d fields", n)
	}
	for _, path := range []string{"/", "/bin", d.path, d.path + "/state", d.path + "/export/map", d.path + "/socket",
		d.path + "/links", d.path + "/export/svg"} {
		if code, _ := get(t, s.Links+path); code != 404 {
			t.Errorf("%s answers %d on the second listener", path, code)
		}
	}
	if after := fmt.Sprint(s.file(d.path).Sheets[0].Symbols[0]); after != before {
		t.Errorf("the reader changed %s to %s", before, after)
	}
	if faults := reader.Faults(); len(faults) > 0 {
		t.Errorf("the reader's page reports %q", faults)
	}
	// Withdrawn, the link says so in plain words.
	d.ClickOn("#share")
	d.ClickOn("#links li button")
	reader.Until("document.body.textContent.includes('This link ended on')")
	if code, body := get(t, s.Links+"/read/NOSUCHLINK"); code != 410 ||
		!bytes.Contains(body, []byte("no map behind this link")) {
		t.Errorf("an unknown link answers %d", code)
	}
}

// A case is traced, kept and named; another one is set beside it; each is walked again, exported, and goes with undo.
func TestCasesAreKeptAndCompared(t *testing.T) {
	s := start(t, "demo")
	b := browser.Start(t)
	d := s.desk(b, s.demo(b, "A street light is out"))
	keep := func(answers, name string) {
		t.Helper()
		d.ClickOn("#trace")
		d.Until("!document.getElementById('case').hidden")
		for _, answer := range answers {
			at := d.Text("#case-who")
			d.Key(string(answer))
			d.Until("document.getElementById('case-who').textContent !== " + strconv.Quote(at))
		}
		d.ClickOn("#keep-case")
		d.Until("document.activeElement.closest('#cases-list') && document.activeElement.value")
		d.Key(name + browser.Enter)
		d.Until(saved + " && document.getElementById('cases-list').innerHTML.includes(" + strconv.Quote(name) + ")")
		d.ClickOn("#cases-dialog [data-close]")
		d.ClickOn("#draw")
	}
	keep("111111", "Known already")
	keep("111121", "Seen on site")
	d.byName("Cases that were kept")
	d.Until("document.querySelectorAll('#cases-list li').length === 2")
	d.ClickOn("#cases-list li:nth-child(1) input[type=checkbox]")
	d.ClickOn("#cases-list li:nth-child(2) input[type=checkbox]")
	d.Until("document.querySelectorAll('#cases-beside tbody .apart').length === 5")
	if got := d.Text("#cases-beside tbody tr:nth-child(5)"); !strings.Contains(got, "Reported before? Yes") ||
		!strings.Contains(got, "Reported before? No") {
		t.Errorf("side by side stands %q", got)
	}
	d.ClickOn("#cases-list li:nth-child(2) [data-does=walk]")
	d.Until("!document.getElementById('case').hidden && document.getElementById('case-at').textContent.includes('Fault in the lamp?')")
	_, table := get(t, s.URL+d.path+"/export/cases-csv")
	if text := string(table); strings.Count(text, "Known already,") != 8 || strings.Count(text, "Seen on site,") != 8 ||
		!strings.Contains(text, "All together: 1 hand-over") {
		t.Errorf("the list of cases is\n%s", text)
	}
	d.ClickOn("#draw")
	d.Key("z", ctrl)
	d.Key("z", ctrl)
	d.Until(saved + " && document.querySelector('#drawing')")
	if n := len(s.file(d.path).Cases); n != 1 {
		t.Errorf("after taking back %d cases are left", n)
	}
	d.sound()
}
