package e2e

import (
	"slices"
	"strings"
	"testing"

	"plaintracer/core/flow"
	"plaintracer/core/model"
	"plaintracer/e2e/browser"
)

// readerPage opens the reader's page of the map by a link made in its dialog.
func (d *desk) readerPage(b *browser.Browser) *browser.Page {
	d.s.Helper()
	d.ClickOn("#share")
	d.ClickOn("#links .new-link button")
	d.Until("document.querySelector('#links [data-made]')")
	p := b.Open(browser.Eval[string](d.Page, "document.querySelector('#links [data-made]').value"))
	p.Until("document.querySelector('#in-words li')")
	d.Key(browser.Escape)
	return p
}

// A reader who does not see hears the whole flow: each symbol once, in the order in which it is read, with who does it
// and where it leads, under a heading; the drawing is one picture with its links. It is kept current.
func TestReadersHearTheWholeFlow(t *testing.T) {
	s := start(t, "demo")
	b := browser.Start(t)
	d := s.desk(b, s.demo(b, "A street light is out"))
	m := s.file(d.path)
	sheet := m.Sheets[0]
	p := d.readerPage(b)
	p.Until("document.querySelectorAll('#sheet [role=link]').length > 0")
	heard := p.Heard()
	at := slices.Index(heard, "heading "+sheet.Name+", in words")
	if at < 0 {
		t.Fatalf("there is no heading before the words: %q", heard)
	}
	said := strings.Join(heard[at:], "\n")
	g := flow.New(m)
	place := map[string]int{}
	for _, sym := range sheet.Symbols {
		text := model.Flat(sym.Text)
		if sym.Kind.IsReference() {
			text = "sheet reference " + text
		}
		place[sym.ID] = strings.Index(said, text+",")
		if place[sym.ID] < 0 {
			t.Errorf("nothing is heard of %q", text)
		}
		item := said[max(place[sym.ID], 0):]
		item = item[:strings.Index(item+"\n", "\n")]
		if lane := sheet.LaneOf(sym); lane != nil && !strings.Contains(item, lane.Name) {
			t.Errorf("nobody hears that %s does %q: %s", lane.Name, text, item)
		}
		for _, x := range g.Exits(sym.ID) {
			if !strings.Contains(item, model.Flat(x.To.Symbol.Text)) || !strings.Contains(item, x.Connector.Text) {
				t.Errorf("nobody hears that %q leads to %q by %q: %s", text, x.To.Symbol.Text, x.Connector.Text, item)
			}
		}
		if !sym.Kind.IsReference() && sym.Text != m.Title && slices.Contains(heard, "StaticText "+sym.Text) {
			t.Errorf("%q is heard a second time in the drawing", text)
		}
	}
	for _, x := range sheet.Connectors { // what comes first is heard first, where the flow does not lead back
		from, to := place[x.From.Symbol], place[x.To.Symbol]
		if n := g.Node(x.From.Symbol); n != nil && from > to && !back(n, x) {
			t.Errorf("%s is heard before %s, which leads there", x.To.Symbol, x.From.Symbol)
		}
	}
	accessible(t, p, "the reader's page", "null")

	// It is shown to everybody on wish, and follows what is written.
	p.Key(browser.Tab)
	p.Until("document.activeElement.id === 'to-words'")
	p.Key(browser.Enter)
	p.Until("document.activeElement.id === 'in-words' && document.querySelector('#reading').offsetParent === null")
	accessible(t, p, "the sheet in words", "null")
	d.rewrite("Log the report", "Write the report down")
	p.Until("document.getElementById('in-words').textContent.includes('2. Write the report down')")
	if faults := p.Faults(); len(faults) > 0 {
		t.Errorf("the page reports %q", faults)
	}
	d.sound()
}

// back reports whether a connector leads back in the flow.
func back(n *flow.Node, c *model.Connector) bool {
	return slices.ContainsFunc(n.Exits, func(x *flow.Exit) bool { return x.Connector == c && x.Back })
}

// What one does where nothing else says it is heard, and what others do, gathered and with their name.
func TestWhatIsDoneIsHeard(t *testing.T) {
	s := start(t, "demo")
	b := browser.Start(t)
	path := s.demo(b, "Lend a cargo bike")
	d := s.desk(b, path)
	heard := func(d *desk, want string) {
		t.Helper()
		d.Until("document.getElementById('heard').textContent.includes('" + want + "')")
	}
	d.clickStep("Renew the card")
	d.Key(browser.Right)
	heard(d, "Done: move")
	d.Key("z", ctrl)
	heard(d, "Undone: move")
	other := s.desk(browser.Start(t), path)
	other.rewrite("Renew the card", "Renew the old card")
	heard(d, ": write")
	d.sound()
	other.sound()
}
