package e2e

import (
	"fmt"
	"math/rand/v2"
	"testing"

	"plaintracer/core/geometry"
	"plaintracer/core/model"
	"plaintracer/core/scene"
	"plaintracer/e2e/browser"
)

// three puts the processes One, Two and Three on a new map.
func three(t *testing.T) *desk {
	t.Helper()
	d := start(t, "serve").create(browser.Start(t), "Lines", "flowchart", "A4")
	x, y := d.Middle(".piece[data-take=process]")
	d.DoubleClick(x, y)
	d.Click(420, 240)
	d.Click(800, 400)
	d.Click(500, 580)
	d.Key(browser.Escape)
	for i, text := range []string{"One", "Two", "Three"} {
		d.Click([]float64{420, 800, 500}[i], []float64{240, 400, 580}[i])
		d.Key(browser.F2)
		d.writeHere(text)
	}
	return d
}

// ids of the symbols by their texts.
func (d *desk) ids() map[string]string {
	out := map[string]string{}
	for _, sym := range d.sheet().Symbols {
		out[sym.Text] = sym.ID
	}
	return out
}

// line returns a point of the first connector's line, a share along it, in the
// window.
func (d *desk) line(share float64) (x, y float64) {
	d.s.Helper()
	v := browser.Eval[[]float64](d.Page,
		fmt.Sprintf(`(p => { const q = p.getPointAtLength(p.getTotalLength() * %f).matrixTransform(p.getScreenCTM()); return [q.x, q.y] })(document.querySelector('#connectors .connector path'))`, share))
	return v[0], v[1]
}

// connector returns the only connector, as the server has it.
func (d *desk) connector() *model.Connector {
	d.s.Helper()
	list := d.sheet().Connectors
	if len(list) != 1 {
		d.s.Fatalf("there are %d connectors", len(list))
	}
	return list[0]
}

func TestLinesByTheMouse(t *testing.T) {
	d := three(t)
	id := d.ids()
	// Glue: from a bar to a symbol as a whole, then its end to a bar of another.
	d.connect("One", "right", "Two")
	if c := d.connector(); c.From.Symbol != id["One"] || c.From.Side != "right" ||
		c.To != (model.End{Symbol: id["Two"]}) {
		t.Fatalf("glued from %+v to %+v", c.From, c.To)
	}
	x, y := d.line(0.3)
	d.Click(x, y)
	d.Until("document.querySelectorAll('#overlay .knob').length === 2")
	k := browser.Eval[[]float64](d.Page,
		"(r => [r.x + r.width / 2, r.y + r.height / 2])([...document.querySelectorAll('#overlay .knob')].at(-1).getBoundingClientRect())")
	tx, ty := d.glue("Three", "top")
	d.Drag(k[0], k[1], tx, ty)
	if c := d.connector(); c.To != (model.End{Symbol: id["Three"], Side: "top"}) {
		t.Fatalf("glued anew to %+v", c.To)
	}
	// Dropped on the empty desk the end is loose, and shown so.
	k = browser.Eval[[]float64](d.Page,
		"(r => [r.x + r.width / 2, r.y + r.height / 2])([...document.querySelectorAll('#overlay .knob')].at(-1).getBoundingClientRect())")
	d.Drag(k[0], k[1], 900, 560)
	d.Until("document.querySelector('#overlay .loose-end')")
	if c := d.connector(); !c.To.Loose() {
		t.Fatalf("dropped on the desk it is glued to %+v", c.To)
	}
	d.Key("z", ctrl)
	d.Key("z", ctrl)
	if c := d.connector(); c.To.Symbol != id["Two"] {
		t.Fatalf("undone it leads to %+v", c.To)
	}
	// Bend a stretch, and give the course back.
	x, y = d.line(0.35)
	d.Drag(x, y, x, y+70)
	bent := d.connector().Bends
	if len(bent) != 1 {
		t.Fatalf("bent there are %v", bent)
	}
	d.ClickOn("[data-needs=line]")
	d.ClickOn("[data-command=give-back]")
	if c := d.connector(); len(c.Bends) != 0 {
		t.Fatalf("given back there are %v", c.Bends)
	}
	d.Key(browser.Escape)
	// A label, slid off the line.
	x, y = d.line(0.3)
	d.DoubleClick(x, y)
	d.writeHere("when dark")
	d.saved()
	b := browser.Eval[[]float64](d.Page,
		"(r => [r.x + r.width / 2, r.y + r.height / 2])(document.querySelector('#connectors text').getBoundingClientRect())")
	d.Drag(b[0], b[1], b[0]+30, b[1]-40)
	if c := d.connector(); c.Text != "when dark" || c.Place == (model.Spot{}) {
		t.Fatalf("the label %q lies at %+v", c.Text, c.Place)
	}
	// A symbol of another kind keeps text and connectors.
	d.clickStep("Two")
	d.ClickOn("[data-needs=kind]")
	d.ClickOn(".kinds [data-arg=database]")
	if sym := d.sheet().Symbol(id["Two"]); sym.Kind != model.Database || sym.Text != "Two" ||
		d.connector().To.Symbol != id["Two"] {
		t.Fatalf("of another kind it is %+v", sym)
	}
	// Three, dropped on the line, comes in between.
	x, y = d.line(0.6)
	sx, sy, _, _ := d.where("Three")
	d.Drag(sx, sy, x, y)
	s := d.sheet()
	if len(s.Connectors) != 2 || s.Connectors[0].To.Symbol != id["Three"] ||
		s.Connectors[1].From.Symbol != id["Three"] || s.Connectors[1].To.Symbol != id["Two"] {
		t.Fatalf("in between there are %d connectors", len(s.Connectors))
	}
	// Deleted again, the gap can be closed.
	d.Key(browser.Delete)
	d.Until("document.querySelector('#words button') && !document.querySelector('#words button').hidden")
	d.ClickOn("#words button")
	if c := d.connector(); c.From.Symbol != id["One"] || c.To.Symbol != id["Two"] {
		t.Fatalf("closed, it leads from %+v to %+v", c.From, c.To)
	}
	d.sound()
}

func TestLinesByTheKeyboard(t *testing.T) {
	d := three(t)
	id := d.ids()
	// Glue: Three to its neighbour above, chosen by arrows.
	d.clickStep("One")
	d.Key("l", ctrl)
	d.Until("document.querySelector('#overlay .target')")
	d.Key(browser.Right + browser.Enter)
	if c := d.connector(); c.From.Symbol != id["One"] || c.To.Symbol != id["Two"] {
		t.Fatalf("glued from %+v to %+v", c.From, c.To)
	}
	// Its end elsewhere, and back.
	d.Key("l", ctrl)
	d.Key(browser.Left + browser.Down + browser.Enter)
	if c := d.connector(); c.To.Symbol != id["Three"] {
		t.Fatalf("glued anew to %+v, Three is %s", c.To, id["Three"])
	}
	d.Key("z", ctrl)
	// Bend with arrows, give back.
	d.Key(browser.Down + browser.Down)
	if c := d.connector(); len(c.Bends) == 0 {
		d.Key(browser.Right) // the way has only upright stretches between its ends
	}
	if c := d.connector(); len(c.Bends) == 0 {
		t.Fatal("the arrows do not bend it")
	}
	d.Key(browser.Backspace, ctrl)
	if c := d.connector(); len(c.Bends) != 0 {
		t.Fatalf("given back there are %v", c.Bends)
	}
	// Typing labels it, Shift and arrows slide the label.
	d.Key("w")
	d.Until("document.activeElement.id === 'writing'")
	d.Key("hen dark" + browser.Enter)
	d.Until("document.activeElement.id === 'drawing'")
	d.Key(browser.Up, shift)
	if c := d.connector(); c.Text != "when dark" || c.Place == (model.Spot{}) {
		t.Fatalf("the label %q lies at %+v", c.Text, c.Place)
	}
	// Ins puts a step in between.
	d.Key(browser.Insert)
	d.writeHere("Check")
	s := d.sheet()
	if len(s.Connectors) != 2 || len(s.Symbols) != 4 || s.Connectors[1].From.Symbol != s.Symbols[3].ID {
		t.Fatalf("in between there are %d connectors and %d symbols", len(s.Connectors), len(s.Symbols))
	}
	// Alt and a digit change its kind.
	d.Key("6", alt)
	if sym := d.sheet().Symbols[3]; sym.Kind != model.Document || sym.Text != "Check" ||
		len(d.sheet().Connectors) != 2 {
		t.Fatalf("of another kind it is %+v", sym)
	}
	d.Key(browser.Delete, shift)
	if c := d.connector(); c.To.Symbol != id["Two"] {
		t.Fatalf("closed, it leads to %+v", c.To)
	}
	d.sound()
}

// Characters beyond the shipped typeface are shown within their symbols by the
// system's fonts; an export says which it cannot draw.
func TestOtherScriptsStayInsideAndExportsSayWhatTheyLack(t *testing.T) {
	d := three(t)
	d.rewrite("One", "مصباح الشارع مطفأ")
	d.saved()
	d.rewrite("Two", "路灯坏了 請報告")
	d.saved()
	inside := browser.Eval[bool](d.Page,
		`[...document.querySelectorAll('#symbols .symbol')].every(g => { const b = g.querySelector('path').getBBox(); return [...g.querySelectorAll('text')].every(t => { const r = t.getBBox(); return r.x >= b.x - 0.5 && r.x + r.width <= b.x + b.width + 0.5 && r.y + r.height <= b.y + b.height + 4 }) })`)
	if !inside {
		t.Error("a text shows outside its symbol")
	}
	if dir := browser.Eval[string](d.Page,
		`[...document.querySelectorAll('#symbols text')].find(t => /[\u0600-\u06ff]/.test(t.textContent)).getAttribute('direction')`); dir != "rtl" {
		t.Errorf("Arabic is set %q", dir)
	}
	d.ClickOn("#export")
	d.Until("document.getElementById('export-notes').textContent.includes('U+8DEF')") // no font of the machine has it
	d.sound()
}

// Every dimmed control of the menus is dimmed for the browser too, and the page
// of symbols finds them by meaning.
func TestThePageOfSymbols(t *testing.T) {
	s := start(t, "serve")
	p := browser.Start(t).Open(s.URL + "/symbols")
	if n := browser.Eval[int](p, "document.querySelectorAll('.all-symbols li').length"); n != len(model.Kinds)+4 {
		t.Errorf("the page shows %d symbols and lines", n)
	}
	p.ClickOn("#find-symbol")
	p.Key("wait")
	p.Until("document.querySelector('.all-symbols li[hidden]') && [...document.querySelectorAll(" +
		"'.all-symbols li:not([hidden]) h3')].map(h => h.textContent).join(' ').includes('Delay')")
	if n := browser.Eval[int](p, "document.querySelectorAll('.all-symbols li:not([hidden])').length"); n > 6 {
		t.Errorf("%d symbols are found for waiting", n)
	}
	if faults := p.Faults(); len(faults) > 0 {
		t.Errorf("the page reports %q", faults)
	}
}

// The browser's core and the server's draw the same, to the last digit: every
// outline, course, crossing, mark and line of text of sheets with everything on
// them.
func TestBrowserAndServerDrawTheSame(t *testing.T) {
	r := rand.New(rand.NewPCG(41, 42))
	m := model.New("Everything", model.Rightwards, "A3", true)
	s := m.Sheets[0]
	for i, kind := range append(model.Kinds, model.Kinds...) {
		w, h := (60+r.IntN(120))*geometry.Px, (40+r.IntN(80))*geometry.Px+r.IntN(100)
		s.Symbols = append(s.Symbols, &model.Symbol{ID: fmt.Sprint("s", i), Kind: kind,
			Text: "Look up the pole number in the register"[:r.IntN(39)+1],
			Box:  geometry.Box{X: (i%12)*19000 + r.IntN(3000), Y: (i/12)*15000 + r.IntN(3000), W: w, H: h},
			Type: model.Type{Bold: i%3 == 0, Italic: i%4 == 0, Bullets: i%7 == 0,
				Align: []string{"", "left", "right"}[i%3]}, Fill: []string{"", "moss", "#203040"}[i%3]})
	}
	for i := range 120 {
		a, b := r.IntN(len(s.Symbols)), r.IntN(len(s.Symbols))
		if a == b || s.Symbols[a].Kind.Explains() || s.Symbols[b].Kind.Explains() {
			continue
		}
		c := &model.Connector{ID: fmt.Sprint("k", i), From: model.End{Symbol: s.Symbols[a].ID},
			To: model.End{Symbol: s.Symbols[b].ID}, Text: []string{"", "when dark", "No"}[i%3]}
		c.Course, c.Weight, c.Radius = []model.Run{"", "", "curved", "straight"}[i%4], i%5*150, i%3*800
		c.ToMark, c.Line, c.Hop = model.Marks[i%len(model.Marks)], []model.Line{"", "dashed", "transfer", "link"}[i%4],
			[]model.Crossing{"", "gap", "plain"}[i%3]
		s.Connectors = append(s.Connectors, c)
	}
	server, path := stock(t, m)
	d := server.desk(browser.Start(t), path)
	shown := browser.Eval[[]string](d.Page,
		`[...document.querySelectorAll('#connectors path, #symbols path:not(a > path)')].map(p => p.getAttribute('d')).concat([...document.querySelectorAll('#connectors text, #symbols text')].map(t => [t.getAttribute('x'), t.getAttribute('y'), t.textContent].join(' ')))`)
	var paths, texts []string
	for _, n := range scene.Draw(m, s).Nodes {
		for _, shape := range n.Shapes {
			paths = append(paths, string(scene.AppendPath(nil, shape.Path)))
		}
		for _, l := range n.Texts {
			texts = append(texts, string(scene.AppendPx(append(scene.AppendPx(nil, l.X), ' '), l.Y))+" "+l.Text)
		}
	}
	drawn := append(paths, texts...)
	if len(shown) != len(drawn) {
		t.Fatalf("the window shows %d things, the server draws %d", len(shown), len(drawn))
	}
	for i := range drawn {
		if shown[i] != drawn[i] {
			t.Fatalf("thing %d is %s in the window, %s on the server", i, shown[i], drawn[i])
		}
	}
}
