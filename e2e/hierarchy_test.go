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

// chart returns the hierarchy of the map as the server has it, once it is saved.
func (d *desk) chart() *model.Sheet {
	d.s.Helper()
	d.saved()
	m := d.s.file(d.path)
	m.SettleAll()
	for _, s := range m.Sheets {
		if s.Kind == model.HierarchySheet {
			return s
		}
	}
	d.s.Fatalf("the map has no hierarchy")
	return nil
}

// under says of each card by its first line whose card it stands under.
func under(s *model.Sheet) map[string]string {
	out := map[string]string{}
	for _, c := range s.Tree().Order() {
		name, _, _ := strings.Cut(c.Text, "\n")
		if out[name] = ""; s.Tree().Superior(c.ID) != nil {
			out[name], _, _ = strings.Cut(s.Tree().Superior(c.ID).Text, "\n")
		}
	}
	return out
}

// cardBox returns the middle of the card of a name.
func (d *desk) cardBox(name string) (x, y float64) {
	d.s.Helper()
	v := browser.Eval[[]float64](d.Page, fmt.Sprintf(`(t => { const r = t.closest('g').getBoundingClientRect(),
		p = [...t.closest('g').querySelectorAll('path')].map(p => p.getBoundingClientRect()).find(b => b.width > 60 && b.height > 20)
		return [p.x + p.width / 2, p.y + p.height / 2] })([...document.querySelectorAll('#symbols text')].find(t => t.textContent === %q))`,
		name))
	return v[0], v[1]
}

// A chart of 20 people is made by keys alone: every text is one gesture, and so is every key.
func TestAChartOfTwentyPeopleByKeys(t *testing.T) {
	s := start(t, "serve")
	d := s.create(browser.Start(t), "Crew", "flowchart", "A4")
	d.ClickOn("[data-command=sheet-hierarchy]")
	d.Until("!document.getElementById('writing').hidden")
	gestures := 1
	write := func(name string) { d.Key(name); gestures++ }
	key := func(k string, mods ...chromedp.Modifier) {
		before := browser.Eval[int](d.Page, "document.querySelectorAll('#symbols .symbol').length")
		d.Key(k, mods...)
		if gestures++; len(mods) == 0 {
			d.Until(fmt.Sprintf("document.querySelectorAll('#symbols .symbol').length === %d && !document.getElementById('writing').hidden",
				before+1))
		}
	}
	write("Mara Lind")
	n := 1
	for team := range 3 {
		for i := range 6 {
			switch {
			case team == 0 && i == 0:
				key(browser.Tab)
			case i == 0: // from the last of the team before: up to its lead, and one beside it
				d.Key(browser.Tab, chromedp.ModifierShift)
				gestures++
				key(browser.Enter)
			case i == 1:
				key(browser.Tab)
			default:
				key(browser.Enter)
			}
			write(fmt.Sprintf("Person %d", n))
			n++
		}
	}
	key(browser.Enter)
	write("Person 19")
	d.Key(browser.Tab, chromedp.ModifierShift)
	gestures++
	if gestures > 45 {
		t.Errorf("it took %d gestures", gestures)
	}
	got := under(d.chart())
	if len(got) != 20 || got["Person 1"] != "Mara Lind" || got["Person 6"] != "Person 1" ||
		got["Person 7"] != "Mara Lind" || got["Person 19"] != "Person 13" {
		t.Errorf("%d cards: %v", len(got), got)
	}
	// Going on by keys: fold, unfold, another place among those beside it; all is there after a reload.
	d.Key("f", chromedp.ModifierAlt)
	d.Until("document.getElementById('symbols').textContent.includes('+6')")
	d.Key("f", chromedp.ModifierAlt)
	d.Until("document.getElementById('symbols').textContent.includes('Person 19')")
	d.Key(browser.Left, chromedp.ModifierAlt)
	order := func() (list []string) {
		c := d.chart()
		for _, card := range c.Tree().Below(c.Tree().Order()[0].ID) {
			list = append(list, card.Text)
		}
		return list
	}
	if got := strings.Join(order(), " "); got != "Person 1 Person 13 Person 7" {
		t.Errorf("beside each other: %s", got)
	}
	d.Go(s.URL + d.path)
	d.Until("document.getElementById('saved').textContent.includes('Saved')")
	if got := len(under(d.chart())); got != 20 {
		t.Errorf("%d cards after a reload", got)
	}
	d.sound()
}

// Cards are dragged onto others and to their edges, deleted with those under them or without, and everything can be
// taken back.
func TestCardsByThePointer(t *testing.T) {
	s := start(t, "demo")
	b := browser.Start(t)
	d := s.desk(b, s.demo(b, "Who is who in street lighting"))
	before := under(d.chart())

	x, y := d.cardBox("Pia Holm")
	tx, ty := d.cardBox("Emil Storm")
	d.Press(x, y)
	d.Move(x+20, y+20, 1)
	d.Move(tx, ty, 1)
	d.Until("document.querySelector('#overlay .into-lane') && document.querySelector('#overlay .ghost')")
	d.Release(tx, ty)
	d.Until("document.body.textContent.includes('Now under “Emil Storm”')")
	if got := under(d.chart()); got["Pia Holm"] != "Emil Storm" {
		t.Errorf("Pia Holm stands under %q", got["Pia Holm"])
	}
	d.Key("z", ctrl)
	if got := under(d.chart()); fmt.Sprint(got) != fmt.Sprint(before) {
		t.Errorf("taken back: %v", got)
	}
	// A card cannot come under one of its own people.
	x, y = d.cardBox("Field crew")
	tx, ty = d.cardBox("Emil Storm")
	d.Drag(x, y, tx, ty)
	if got := under(d.chart()); fmt.Sprint(got) != fmt.Sprint(before) {
		t.Errorf("dragged onto its own branch: %v", got)
	}
	// A finger does the same.
	x, y = d.cardBox("Pia Holm")
	tx, ty = d.cardBox("Emil Storm")
	finger := func(x, y float64) []browser.Finger { return []browser.Finger{{X: x, Y: y}} }
	d.Touch(finger(x, y), finger(x+20, y+20), finger(tx, ty))
	if got := under(d.chart()); got["Pia Holm"] != "Emil Storm" {
		t.Errorf("dragged by a finger Pia Holm stands under %q", got["Pia Holm"])
	}
	d.Key("z", ctrl)
	if got := under(d.chart()); fmt.Sprint(got) != fmt.Sprint(before) {
		t.Errorf("taken back: %v", got)
	}
	// Deleting asks what becomes of those below.
	x, y = d.cardBox("Olle Varg")
	d.Click(x, y)
	d.Key(browser.Delete)
	d.Until("!document.getElementById('ask').hidden")
	d.Key(browser.Delete) // once more, and what is proposed is meant
	d.Until("!document.getElementById('symbols').textContent.includes('Olle Varg')")
	if got := under(d.chart()); got["Emil Storm"] != "Field crew" || len(got) != len(before)-1 {
		t.Errorf("those of Olle Varg went to %q; %d cards", got["Emil Storm"], len(got))
	}
	d.Key("z", ctrl)
	d.Until("document.getElementById('symbols').textContent.includes('Olle Varg')")
	x, y = d.cardBox("Olle Varg")
	d.Click(x, y)
	d.Key(browser.Delete)
	d.Until("!document.getElementById('ask').hidden")
	d.ClickOn("#ask button:last-child")
	if got := under(d.chart()); len(got) != len(before)-3 {
		t.Errorf("with those under it: %d cards of %d", len(got), len(before))
	}
	d.Key("z", ctrl)
	if got := under(d.chart()); fmt.Sprint(got) != fmt.Sprint(before) {
		t.Errorf("taken back: %v", got)
	}
	// It is told to those who do not see it.
	x, y = d.cardBox("Vera Moe")
	d.Click(x, y)
	d.Until("document.getElementById('spoken').textContent.includes('Vera Moe, Lead of crew south, card of a person, " +
		"2 below, level 3 of 4, under Field crew')")
	// Another arrangement, for this branch alone.
	d.ClickOn("#cards")
	d.ClickOn("[data-command=stand][data-arg=both]")
	if c := d.chart(); string(c.Tree().Card(c.Tree().Order()[0].ID).Seat.Below) != "" {
		t.Error("the whole chart was arranged")
	} else {
		for _, card := range c.Symbols {
			if strings.HasPrefix(card.Text, "Vera Moe") && card.Seat.Below != "both" {
				t.Errorf("her branch stands %q", card.Seat.Below)
			}
		}
	}
	d.sound()
}

// A table of people becomes a chart in four gestures; a newer one says what it changes before.
func TestAChartFromATable(t *testing.T) {
	s := start(t, "serve")
	d := s.create(browser.Start(t), "Crew", "flowchart", "A4")
	file := filepath.Join(t.TempDir(), "people.csv")
	put := func(text string) {
		t.Helper()
		if err := os.WriteFile(file, []byte(text), 0o600); err != nil {
			t.Fatal(err)
		}
	}
	open := func() {
		t.Helper()
		d.Key("k", ctrl)
		d.Until("document.activeElement.id === 'search-text'")
		d.Key("A hierarchy from a table")
		d.Key(browser.Enter)
		d.Until("document.querySelector('#people-dialog[open]')")
	}
	put("Name;Job title;Manager\nMara Lind;Head;\nPia Holm;Clerk;Mara Lind\nLeo Falk;Driver;Pia Holm\n")
	open()
	d.Choose("#people-file", file)
	d.Until("!document.getElementById('people-take').disabled")
	d.ClickOn("#people-take")
	d.Until("document.getElementById('symbols').textContent.includes('Leo Falk')")
	if got := under(d.chart()); len(got) != 3 || got["Leo Falk"] != "Pia Holm" {
		t.Fatalf("%v", got)
	}
	put("Name;Job title;Manager\nMara Lind;Head;\nLeo Falk;Driver;Mara Lind\nAda Quist;Clerk;Leo Falk\nBo;;Nobody\n")
	open()
	d.Choose("#people-file", file)
	d.Until("document.getElementById('people-changes').textContent.includes('Leave: Pia Holm')")
	words := d.Text("#people-dialog")
	for _, want := range []string{"Come: Ada Quist; Bo", "Move: Leo Falk to Mara Lind",
		"Row 5: Bo reports to “Nobody”, who is not in the table"} {
		if !strings.Contains(words, want) {
			t.Errorf("it does not say %q: %s", want, words)
		}
	}
	d.ClickOn("#people-take")
	d.Until("!document.getElementById('symbols').textContent.includes('Pia Holm')")
	if got := under(d.chart()); len(got) != 4 || got["Ada Quist"] != "Leo Falk" || got["Leo Falk"] != "Mara Lind" {
		t.Errorf("%v", got)
	}
	d.sound()
}
