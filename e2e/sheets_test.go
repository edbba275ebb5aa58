package e2e

import (
	"testing"

	"plaintracer/core/model"
	"plaintracer/e2e/browser"
)

// A sheet is duplicated with everything on it, and its tab dragged to another place.
func TestSheetsAreDuplicatedAndDragged(t *testing.T) {
	s := start(t, "demo")
	b := browser.Start(t)
	d := s.desk(b, s.demo(b, "A street light is out"))
	d.ClickOn("#tabs [aria-selected=true]")
	d.ClickOn("[data-command=sheet-copy]")
	d.Until("document.querySelectorAll('#tabs [role=tab]').length === 3 && " + saved)
	m := s.file(d.path)
	one, two := m.Sheets[0], m.Sheets[1]
	if two.Name != "Copy of "+one.Name || len(two.Symbols) != len(one.Symbols) ||
		len(two.Connectors) != len(one.Connectors) || len(two.Pools[0].Lanes) != len(one.Pools[0].Lanes) {
		t.Errorf("the copy %q has %d symbols", two.Name, len(two.Symbols))
	}
	for i, sym := range two.Symbols {
		if o := one.Symbols[i]; sym.Text != o.Text || sym.Box != o.Box || sym.ID == o.ID {
			t.Errorf("%q became %q at %v", o.Text, sym.Text, sym.Box)
		}
	}
	browser.Eval[any](d.Page,
		`(() => { const [a, , c] = document.querySelectorAll('#tabs [role=tab]'), data = new DataTransfer()
		a.dispatchEvent(new DragEvent('dragstart', { bubbles: true, dataTransfer: data })); c.dispatchEvent(new DragEvent('dragover', { bubbles: true, cancelable: true, dataTransfer: data }))
		c.dispatchEvent(new DragEvent('drop', { bubbles: true, cancelable: true, dataTransfer: data })) })()`)
	d.Until(saved + " && document.querySelectorAll('#tabs [role=tab]')[2].textContent === 'Report and diagnosis'")
	if m := s.file(d.path); m.Sheets[2].ID != "report" {
		t.Errorf("the dragged sheet is not the last")
	}
	d.Key("z", ctrl)
	d.Key("z", ctrl)
	d.Until("document.querySelectorAll('#tabs [role=tab]').length === 2")
	d.sound()
}

// A new map is asked for its lanes at once; from top to bottom it is drawn on upright paper.
func TestANewMapBeginsWithItsRoles(t *testing.T) {
	s := start(t, "serve")
	b := browser.Start(t)
	p := b.Open(s.URL + "/begin")
	p.ClickOn("input[name=title]")
	p.Key("Dropped kerbs")
	p.ClickOn("input[name=direction][value=down]")
	p.ClickOn("textarea[name=roles]")
	p.Key("Resident" + browser.Enter + "Service desk" + browser.Enter + "Resident" + browser.Enter + "Field crew")
	p.ClickOn("#create")
	p.Until("location.pathname.startsWith('/maps/')")
	m := s.file(browser.Eval[string](p, "location.pathname"))
	lanes := m.Sheets[0].Pools[0].Lanes
	if len(lanes) != 3 || lanes[0].Name != "Resident" || lanes[1].Name != "Service desk" ||
		lanes[2].Name != "Field crew" {
		t.Errorf("the lanes are %+v", lanes)
	}
	if m.Direction != model.Downwards || m.Sheets[0].Across {
		t.Errorf("direction %s, across %v", m.Direction, m.Sheets[0].Across)
	}
	p.Go(s.URL + "/begin")
	if browser.Eval[bool](p, "document.querySelector('[name=direction]:checked').value !== 'down'") {
		t.Error("how a map was begun is not remembered")
	}
	p.ClickOn("label:has([value=flowchart])")
	p.Until("document.querySelector('.field.lanes').hidden")
}
