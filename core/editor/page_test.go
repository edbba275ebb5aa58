package editor_test

import (
	"encoding/json"
	"fmt"
	"math/rand/v2"
	"regexp"
	"slices"
	"strings"
	"testing"

	"plaintracer/core/edit"
	"plaintracer/core/editor"
	"plaintracer/core/geometry"
	"plaintracer/core/model"
	"plaintracer/core/scene"
)

// page carries patches out as the script does, on markup.
type page struct {
	size   [2]float64
	ground string
	layers map[string][]string // ids, in order
	nodes  map[string]*shownNode
}

type shownNode struct{ open, transform, inner string }

var (
	group      = regexp.MustCompile(`(?s)^(<g id="n-([^"]*)" class="[^"]*")(?: transform="([^"]*)")?>(.*)</g>$`)
	pathsOf    = regexp.MustCompile(`<path d="[^"]*"`)
	layerNames = map[string]string{"pool": "pools", "connector": "connectors", "symbol": "symbols"}
)

func blank() *page { return &page{layers: map[string][]string{}, nodes: map[string]*shownNode{}} }

// served is the page as the server sends it, with the picture of a sheet.
func served(d *scene.Drawing) *page {
	p := blank()
	p.size = [2]float64{float64(d.Page.W) / px, float64(d.Page.H) / px}
	for i := range d.Nodes {
		n := &d.Nodes[i]
		if layer := layerNames[n.Class]; layer != "" {
			p.add(layer, n.ID, string(n.AppendSVG(nil)))
		} else if n.Class == "ground" {
			p.ground = string(n.AppendInner(nil))
		}
	}
	return p
}

func (p *page) add(layer, id, markup string) {
	m := group.FindStringSubmatch(markup)
	if m == nil || m[2] != id {
		panic("no node " + id + ": " + markup)
	}
	p.nodes[id] = &shownNode{m[1], m[3], m[4]}
	p.layers[layer] = append(p.layers[layer], id)
}

func (p *page) patch(t *testing.T, flushed []byte) {
	t.Helper()
	var out struct{ Patch [][]any }
	if err := json.Unmarshal(flushed, &out); err != nil {
		t.Fatal(err)
	}
	for _, op := range out.Patch {
		text := func(i int) string { return op[i].(string) }
		switch op[0] {
		case "all":
			*p = *blank()
			fallthrough
		case "page", "adopt":
			p.size = [2]float64{op[1].(float64), op[2].(float64)}
		case "ground":
			p.ground = text(1)
		case "add":
			p.add(text(1), text(2), text(3))
		case "to":
			p.nodes[text(1)].transform = fmt.Sprintf("translate(%v %v)", op[2], op[3])
		case "set":
			p.nodes[text(1)].inner = text(2)
		case "paths":
			n, i := p.nodes[text(1)], 1
			n.inner = pathsOf.ReplaceAllStringFunc(n.inner, func(string) string {
				i++
				return `<path d="` + text(i) + `"`
			})
			if i+1 != len(op) {
				t.Fatalf("%s has %d paths and is given %d", text(1), i-1, len(op)-2)
			}
		case "drop":
			delete(p.nodes, text(1))
			for layer, ids := range p.layers {
				p.layers[layer] = slices.DeleteFunc(ids, func(id string) bool { return id == text(1) })
			}
		case "order":
			p.layers[text(1)] = nil
			for _, id := range op[2].([]any) {
				p.layers[text(1)] = append(p.layers[text(1)], id.(string))
			}
		default:
			t.Fatalf("a patch %v", op)
		}
	}
}

// String is the page as markup. A node that stands at the origin has no transform, or that to the origin.
func (p *page) String() string {
	var b strings.Builder
	fmt.Fprintln(&b, p.size, p.ground)
	for _, layer := range []string{"pools", "connectors", "symbols"} {
		for _, id := range p.layers[layer] {
			n := p.nodes[id]
			fmt.Fprintln(&b, n.open, strings.TrimPrefix(n.transform, "translate(0 0)"), n.inner)
		}
	}
	return b.String()
}

func difference(a, b string) string {
	i := 0
	for i < len(a) && i < len(b) && a[i] == b[i] {
		i++
	}
	return fmt.Sprintf("\n…%s\n…%s", a[max(i-80, 0):min(i+200, len(a))], b[max(i-80, 0):min(i+200, len(b))])
}

// A page that came with the picture, which the core took over, and one that the core drew itself show the same,
// whatever is done then: what a computation from nothing draws.
func TestPatchesKeepThePageAsItWouldBeDrawnAfresh(t *testing.T) {
	for seed := range uint64(80) {
		m := []func() *model.Map{two, owned, joined, stepped}[seed%4]()
		drawn, taken := editor.New(), editor.New()
		for _, e := range []*editor.Editor{drawn, taken} {
			if err := e.Open(document(t, m), 0, "w"); err != nil {
				t.Fatal(err)
			}
		}
		taken.Adopt()
		windows := []struct {
			*editor.Editor
			*page
		}{{drawn, blank()}, {taken, served(scene.Draw(m, m.Sheets[0]))}}
		for round := range uint64(60) {
			for _, w := range windows {
				if round > 0 {
					act(rand.New(rand.NewPCG(seed, round)), w.Editor)
				}
				w.patch(t, w.Flush())
			}
			if a, b := windows[0].String(), windows[1].String(); a != b {
				t.Fatalf("seed %d, round %d: drawn and taken over, the page differs: %s", seed, round, difference(a, b))
			}
		}
		for _, w := range windows {
			w.Key("Escape", 0)
			w.Key("Escape", 0)
			for w.Pause() {
			}
			w.patch(t, w.Flush())
			if a, b := w.String(), served(scene.Draw(w.Map(), w.Sheet())).String(); a != b {
				t.Fatalf("seed %d: after all that, the page and one drawn afresh differ: %s", seed, difference(a, b))
			}
		}
	}
}

// What changes away from the items in the hand is drawn too: a remark turns to its connector, another sheet is shown,
// and the numbers follow what somebody else did during a drag once that is over.
func TestPatchesShowWhatChangesBesideTheHand(t *testing.T) {
	m := two()
	m.Numbers = true
	s := m.Sheets[0]
	step := func(id string, kind model.Kind, x, y int) *model.Symbol {
		return &model.Symbol{ID: id, Kind: kind, Text: id, Box: geometry.Box{X: x * px, Y: y * px, W: 120 * px,
			H: 80 * px}}
	}
	s.Symbols = append(s.Symbols, step("note", model.Annotation, 400, 300))
	s.Connectors = []*model.Connector{
		{ID: "k", From: model.End{Symbol: "a"}, To: model.End{Symbol: "b"}},
		{ID: "says", From: model.End{Symbol: "note"}, To: model.End{Symbol: "a"}},
	}
	other := stepped().Sheets[0]
	other.ID, other.Name = "sheet-2", "Other"
	for _, sym := range other.Symbols {
		sym.ID += "2"
	}
	other.Connectors[0].ID, other.Connectors[0].From.Symbol, other.Connectors[0].To.Symbol = "k2", "a2", "b2"
	m.Sheets = append(m.Sheets, other)
	e := editor.New()
	if err := e.Open(document(t, m), 0, "w"); err != nil {
		t.Fatal(err)
	}
	p := blank()
	shows := func(when string) {
		t.Helper()
		for e.Pause() {
		}
		p.patch(t, e.Flush())
		if a, b := p.String(), served(scene.Draw(e.Map(), e.Sheet())).String(); a != b {
			t.Errorf("%s, the page and one drawn afresh differ: %s", when, difference(a, b))
		}
	}
	p.patch(t, e.Flush())
	hold := func(to geometry.Point) {
		e.Move(at(160, 140), 1000, 0)
		e.Down(at(160, 140), 1000, 0)
		for _, q := range []geometry.Point{at(250, 200), to} {
			e.Move(q, 1000, 0)
			p.patch(t, e.Flush())
		}
	}
	turned := p.nodes["note"].inner
	hold(at(700, 340))
	shows("with a step held at the other side of its remark")
	if p.nodes["note"].inner == turned {
		t.Error("the remark did not turn")
	}
	if err := e.Foreign(&edit.AddItems{Sheet: s.ID, Symbols: []model.Symbol{*step("first", model.Process, 20, 20)}},
		1); err != nil {
		t.Fatal(err)
	}
	p.patch(t, e.Flush())
	e.Key("Escape", 0)
	shows("after a drag given up, with a step made by somebody else")
	hold(at(300, 300))
	e.Command("sheet", other.ID)
	shows("on another sheet")
}
