package findings_test

import (
	"fmt"
	"strings"
	"testing"

	"plaintracer/core/findings"
	"plaintracer/core/geometry"
	"plaintracer/core/model"
)

func TestFindingsNameTheStepAndTheFault(t *testing.T) {
	box := geometry.Box{W: 12000, H: 8000}
	m := model.New("", model.Rightwards, "A4", true)
	s := m.Sheets[0]
	s.Symbols = []*model.Symbol{
		{ID: "start", Kind: model.Terminator, Text: "Begin", Box: box},
		{ID: "ask", Kind: model.Decision, Text: "Known?", Box: box},
		{ID: "stop", Kind: model.Process, Text: "Stop here", Box: box},
		{ID: "end", Kind: model.Terminator, Text: "End", Box: box},
	}
	s.Connectors = []*model.Connector{
		{ID: "1", From: model.End{Symbol: "start"}, To: model.End{Symbol: "ask"}},
		{ID: "2", From: model.End{Symbol: "ask"}, To: model.End{Symbol: "stop"}, Text: "Yes"},
		{ID: "3", From: model.End{Symbol: "ask"}, To: model.End{Symbol: "end"}, Text: "No"},
	}
	for i, sym := range s.Symbols {
		sym.Box = sym.Moved(geometry.Point{X: 20000 * i})
	}
	expect := func(what, id, words string) {
		t.Helper()
		for _, f := range findings.Check(m) {
			if f.Symbol == id && strings.Contains(f.Text, words) {
				return
			}
		}
		t.Errorf("%s: %v does not say that %s %s", what, findings.Check(m), id, words)
	}
	expect("a branch that stops", "stop", "dead end")
	s.Connectors = append(s.Connectors, &model.Connector{ID: "4", From: model.End{Symbol: "stop"},
		To: model.End{Symbol: "end"}})
	if f := findings.Check(m); len(f) != 0 {
		t.Fatalf("a finished map has findings: %v", f)
	}
	was := s.Symbols[2].Box
	s.Symbols[2].Box = s.Symbols[1].Moved(geometry.Point{X: 500})
	expect("a step on another", "stop", "lies on “Known?”")
	s.Symbols[2].Box = was.Moved(geometry.Point{X: 90000})
	expect("a step off the page", "stop", "beyond the edge")
	s.Symbols[2].Box = was
	s.Connectors[2].Text = ""
	expect("an exit without a label", "ask", "without an answer")
	s.Connectors[2].Text = "Yes"
	expect("two exits alike", "ask", `"Yes"`)
	s.Connectors = s.Connectors[1:]
	expect("nothing leads to it", "ask", "cannot be reached")
	s.Symbols = append(s.Symbols, &model.Symbol{ID: "r", Kind: model.Reference, Text: "A", Box: box})
	expect("half a pair", "r", "no partner")
	s.Connectors = append(s.Connectors, &model.Connector{ID: "loose", From: model.End{Symbol: "stop"},
		To: model.End{At: geometry.Point{X: 5}}})
	expect("an end glued to nothing", "loose", "loose end")
	s.Symbols = append(s.Symbols, &model.Symbol{ID: "full", Kind: model.Document,
		Text: strings.Repeat("Look up the pole number. ", 20), Box: box})
	expect("a text that cannot be shown", "full", "more text")

	// A remark is not part of the work: nothing has to lead to it or from it, and
	// its line is no exit.
	before := len(findings.Check(m))
	s.Symbols = append(s.Symbols, &model.Symbol{ID: "note", Kind: model.Annotation, Text: "Since March", Box: box})
	s.Connectors = append(s.Connectors, &model.Connector{ID: "said", From: model.End{Symbol: "ask"},
		To: model.End{Symbol: "note"}})
	if after := findings.Check(m); len(after) != before {
		t.Errorf("an annotation gives findings: %v", after)
	}
}

// A step that lies across a border belongs to both sides and to neither.
func TestStepAcrossABorderIsFound(t *testing.T) {
	const px = geometry.Px
	m := model.New("", model.Rightwards, "A4", true)
	s := m.Sheets[0]
	s.Pools = []*model.Pool{{ID: "pool", X: 0, Y: 0, W: 900 * px,
		Lanes:  []model.Lane{{ID: "a", H: 100 * px}, {ID: "b", H: 100 * px}},
		Stages: []model.Stage{{ID: "s", L: 400 * px}, {ID: "t", L: 400 * px}}}}
	sym := &model.Symbol{ID: "x", Kind: model.RoundEnd, Text: "End", Box: geometry.Box{W: 60 * px, H: 60 * px}}
	s.Symbols = []*model.Symbol{sym}
	pool := s.Pools[0]
	inner, border := pool.Inner(0), pool.StageBox(0).Right()
	for name, c := range map[string]struct {
		x, y    int
		between bool
	}{
		"within":              {inner.X + 10*px, inner.Y + 10*px, false},
		"across two lanes":    {inner.X + 10*px, inner.Bottom() - 20*px, true},
		"across two stages":   {border - 20*px, inner.Y + 10*px, true},
		"over the names":      {inner.X - 20*px, inner.Y + 10*px, true},
		"over the pool's end": {pool.Box().Right() - 20*px, inner.Y + 10*px, true},
		"beside the pool":     {pool.Box().Right() + 10*px, inner.Y + 10*px, false},
	} {
		sym.X, sym.Y = c.x, c.y
		if got := len(findings.Check(m)) > 0; got != c.between {
			t.Errorf("%s: found %v", name, findings.Check(m))
		}
	}
}

// What lies beyond the edge is one finding of the sheet, however much of it does.
func TestOneFindingForWhatIsOffThePage(t *testing.T) {
	m := model.New("Off", model.Rightwards, "A4", true)
	s := m.Sheets[0]
	for i := range 6 {
		s.Symbols = append(s.Symbols, &model.Symbol{ID: fmt.Sprint("s", i), Kind: model.Process,
			Text: fmt.Sprint("Do ", i), Box: geometry.Box{X: (40 + 260*i) * geometry.Px, Y: 100 * geometry.Px,
				W: 120 * geometry.Px, H: 80 * geometry.Px}})
	}
	var off []string
	for _, f := range findings.Check(m) {
		if strings.Contains(f.Text, "beyond the edge") {
			off = append(off, f.Symbol+" "+f.Text)
		}
	}
	if len(off) != 1 || off[0] != "s4 lies beyond the edge of the page, with one other" {
		t.Errorf("the findings are %q", off)
	}
}
