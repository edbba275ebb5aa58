package e2e

import (
	"fmt"
	"strings"
	"testing"

	"plaintracer/core/model"
	"plaintracer/e2e/browser"
)

// laneHead returns where the name of a lane, or of a stage, stands in the window.
func (d *desk) laneHead(name string) (x, y float64) {
	d.s.Helper()
	at := browser.Eval[[]float64](d.Page,
		fmt.Sprintf(`(() => { const t = [...document.querySelectorAll('#pools text')].find(t => t.textContent === %q)
		const r = t.getBoundingClientRect(); return [r.x + r.width / 2, r.y + r.height / 2] })()`, name))
	return at[0], at[1]
}

func (d *desk) lanesAre(want string) {
	d.s.Helper()
	d.saved()
	var got []string
	for _, l := range d.sheet().Pools[0].Lanes {
		got = append(got, l.Name)
	}
	if strings.Join(got, ", ") != want {
		d.s.Errorf("the lanes are %s, not %s", strings.Join(got, ", "), want)
	}
}

// Lanes from a list of roles, dragged by their names, turned, with stages across
// them; owners in a plain flowchart that become lanes and owners again: by mouse
// and keys in the real page.
func TestLanesByMouseAndKeys(t *testing.T) {
	s, path := stock(t, model.New("Lend a bike", model.Rightwards, "A3", true))
	b := browser.Start(t)
	d := s.desk(b, path)
	menu := ".drop:has([data-command=roles-open]) > .tool"

	// A plain flowchart first: two steps with their owners.
	d.Key(browser.Enter)
	d.writeHere("Ask for a bike")
	d.Key("1")
	d.writeHere("Hand it over")
	for step, owner := range map[string]string{"Ask for a bike": "Resident", "Hand it over": "Counter"} {
		d.clickStep(step)
		d.ClickOn(menu)
		d.ClickOn("[data-command=owner-open]")
		d.Until("document.getElementById('owner-dialog').open")
		d.Key(owner + browser.Enter)
		d.Until("!document.getElementById('owner-dialog').open")
	}
	d.Until("[...document.querySelectorAll('.register .who')].map(x => x.textContent).join() === 'Resident,Counter'")

	// Owners become lanes, shown before they are kept, and a third comes from a list.
	d.ClickOn(menu)
	d.ClickOn("[data-command=owners-lanes]")
	d.Until("!document.getElementById('proposal').hidden")
	d.Key(browser.Enter)
	d.Until("document.getElementById('proposal').hidden")
	d.lanesAre("Resident, Counter")
	d.ClickOn(menu)
	d.ClickOn("[data-command=roles-open]")
	d.Until("document.getElementById('roles-dialog').open")
	d.ClickOn("#roles")
	d.Key("Workshop")
	d.ClickOn("#set-roles")
	d.lanesAre("Resident, Counter, Workshop")

	// A lane is dragged by its name, and the step goes along.
	d.ClickOn("#fit")
	x, y := d.laneHead("Counter")
	_, to := d.laneHead("Workshop")
	d.Drag(x, y, x, to+12)
	d.lanesAre("Resident, Workshop, Counter")
	for _, sym := range d.sheet().Symbols {
		want := map[string]string{"Ask for a bike": "Resident", "Hand it over": "Counter"}[sym.Text]
		if got := d.sheet().OwnerOf(sym); got != want {
			t.Errorf("%s stands in %s", sym.Text, got)
		}
	}

	// Two stages, named at once, and everything turned.
	for _, name := range []string{"Before", "After"} {
		d.ClickOn(menu)
		d.ClickOn("[data-command=stage-add]")
		d.Until("!document.getElementById('writing').hidden")
		d.Key(name + browser.Enter)
		d.Until("document.getElementById('writing').hidden")
	}
	d.laneHead("After")
	d.ClickOn(menu)
	d.ClickOn("[data-command=lanes-turn]")
	d.saved()
	if p := d.sheet().Pools[0]; !p.Down || len(p.Stages) != 2 || p.Stages[0].Name != "Before" {
		t.Errorf("turned, the pool is %+v", p)
	}
	d.Until("document.querySelector('.register .who').textContent === 'Resident · Before'")

	// And owners again.
	d.ClickOn(menu)
	d.ClickOn("[data-command=lanes-owners]")
	d.saved()
	if sheet := d.sheet(); len(sheet.Pools) > 0 || sheet.Symbols[0].Owner != "Resident" {
		t.Errorf("the sheet has %d pools, its first step is done by %q", len(sheet.Pools), sheet.Symbols[0].Owner)
	}
	d.sound()
	if faults := d.Faults(); len(faults) > 0 {
		t.Error(faults)
	}
}
