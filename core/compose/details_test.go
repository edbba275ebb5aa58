package compose

import (
	"bytes"
	"fmt"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"

	"plaintracer/bench/processes"
	"plaintracer/core/edit"
	"plaintracer/core/findings"
	"plaintracer/core/layout"
	"plaintracer/core/model"
	"plaintracer/core/numbering"
)

// Whatever part of a flow is moved into a sheet of its own, and brought back, the same leads to the same, everybody
// does what they did, nothing lies on anything, and undo leads back to the same bytes. In between, the exits of the
// step are the ends of its detail.
func TestStepsGoIntoASheetOfTheirOwnAndComeBack(t *testing.T) {
	n, folded, back := 300, 0, 0
	if testing.Short() {
		n = 100
	}
	for i := range n {
		r := rand.New(rand.NewPCG(uint64(i), 7))
		m := processes.Make(uint64(i), processes.Shape{Steps: 6 + i%20, Lanes: i % 4}).Map()
		if i%4 == 1 {
			_, _ = edit.Apply(m, &edit.TurnPool{Sheet: "sheet-1", Pool: "pool", Down: true})
		}
		if e := layout.Find(m, m.Sheets[0], layout.Options{Long: true}); e != nil {
			if _, err := edit.Apply(m, e); err != nil {
				t.Fatal(err)
			}
		}
		ids := 0
		s := m.Sheets[0]
		w := &Work{Map: m, Sheet: s, NewID: func() string { ids++; return fmt.Sprint("new", ids) }}
		list := chosen(r, s, 1+i%5)
		on, err := w.Fold(list)
		if err != nil {
			if _, said := err.(Refusal); !said {
				t.Fatalf("%d: %v", i, err)
			}
			continue
		}
		folded++
		before, who, flowed := doc(t, m), owners(m), leads(m)
		undo, err := edit.Apply(m, on.Edit)
		if err != nil {
			t.Fatalf("%d: %v", i, err)
		}
		if err := tidy(m); err != nil {
			t.Fatalf("%d: %v", i, err)
		}
		step := m.Sheets[0].Symbol(on.Step)
		for _, sym := range list {
			if m.SheetOf(sym.ID) != m.DetailOf(step) {
				t.Fatalf("%d: %s is not in the detail", i, sym.ID)
			}
		}
		for _, f := range findings.Check(m) {
			ends := slices.ContainsFunc(list, func(sym *model.Symbol) bool { return sym.Kind.IsEnd() })
			if f.Symbol == on.Step && !ends && strings.Contains(f.Text, "exit") {
				t.Fatalf("%d: the step %s", i, f.Text)
			}
		}
		if e, err := w.on(m.Sheets[0]).Unfold(step); err == nil {
			comeTogether(t, m, e, fmt.Sprint(i, ", ", "brought back"), flowed, who)
			back++
		} else if _, said := err.(Refusal); !said {
			t.Fatalf("%d: %v", i, err)
		}
		if _, err := edit.Apply(m, undo); err != nil || !bytes.Equal(doc(t, m), before) {
			t.Fatalf("%d: undo leaves another map: %v", i, err)
		}
	}
	if folded < n/2 || back < folded/4 {
		t.Errorf("only %d of %d were moved, %d brought back", folded, n, back)
	}
}

func (w *Work) on(s *model.Sheet) *Work {
	return &Work{Map: w.Map, Sheet: s, NewID: w.NewID}
}

// chosen returns symbols that hang together by connectors, one of them at random.
func chosen(r *rand.Rand, s *model.Sheet, n int) []*model.Symbol {
	list := []*model.Symbol{s.Symbols[r.IntN(len(s.Symbols))]}
	for i := 0; i < len(list) && len(list) < n; i++ {
		for _, c := range s.Connectors {
			if c.From.Symbol == list[i].ID {
				if to := s.Symbol(c.To.Symbol); to != nil && !slices.Contains(list, to) && len(list) < n {
					list = append(list, to)
				}
			}
		}
	}
	return list
}

// Details are numbered under the step that opens into them, as deep as they go, and held numbers stay.
func TestDetailsAreNumberedUnderTheirStep(t *testing.T) {
	w := draft(t, "", "", "")
	m := w.Map
	for _, id := range []string{"s1", ""} {
		sym := w.Sheet.Symbol(id)
		if id == "" { // the step that says nothing yet in the detail of s1
			w.Sheet = m.Sheets[1]
			sym = w.Sheet.Symbols[1]
		}
		on, err := w.OpenDetail(sym)
		if err != nil {
			t.Fatal(err)
		}
		apply(t, w, on.Edit)
	}
	want := "1 s0, 2 s1, 2.1 , 2.1.1 , 3 s2"
	if got := numbered(m); got != want {
		t.Errorf("the numbers are %s", got)
	}
	for _, scheme := range []model.Scheme{model.ByPlace, model.Branched} {
		apply(t, w, &edit.SetHead{Numbering: &model.Numbering{Scheme: scheme}})
		if got := numbered(m); got != want {
			t.Errorf("by %s, the numbers are %s", scheme, got)
		}
	}
	apply(t, w, &edit.HoldNumbers{Since: "2026-11-01"})
	detail := m.Sheets[1]
	apply(t, w, &edit.AddItems{Sheet: detail.ID, Symbols: []model.Symbol{{ID: "late", Kind: model.Process, Text: "late",
		Box: detail.Symbols[1].Moved(detail.Symbols[1].Corner())}}, Connectors: []model.Connector{{ID: "lead",
		From: model.End{Symbol: detail.Symbols[1].ID}, To: model.End{Symbol: "late"}}}})
	if got := numbered(m); got != "1 s0, 2 s1, 2.1 , 2.1.1 , 2.2 late, 3 s2" {
		t.Errorf("held, the numbers are %s", got)
	}
}

func numbered(m *model.Map) string {
	var out []string
	for _, step := range numbering.Number(m) {
		out = append(out, step.Number+" "+strings.TrimPrefix(step.Symbol.Text, "Step "))
	}
	return strings.Join(out, ", ")
}

// No detail is told within itself: every way to make a circle is refused with the steps named, or leaves the detail
// off.
func TestDetailsLeadInNoCircle(t *testing.T) {
	w := draft(t, "", "", "")
	m := w.Map
	s := w.Sheet
	for deep := 0; ; deep++ {
		on, err := w.OpenDetail(s.Symbols[1])
		if err != nil {
			if deep != model.MaxDepth || !strings.Contains(err.Error(), "5 deep") {
				t.Errorf("%d deep: %v", deep, err)
			}
			break
		}
		if _, err = edit.Apply(m, on.Edit); err != nil {
			t.Fatal(err)
		}
		s = m.Sheet(on.Sheet)
		w.Sheet = s
	}
	inner := m.Sheets[2]
	_, err := edit.Apply(m, &edit.SetDetail{Sheet: inner.ID, ID: inner.Symbols[1].ID, Detail: "sheet-1"})
	if err == nil || !strings.Contains(err.Error(), "in a circle: “Step s1” on “Sheet 1”") {
		t.Errorf("a circle: %v", err)
	}
	if err := m.Validate(); err != nil {
		t.Error(err)
	}
	// Copied into its own detail, the step has none.
	w.Sheet = inner
	clip := Clip{Symbols: []model.Symbol{*m.Sheets[0].Symbol("s1")}}
	e, ids := w.SetDown(clip, inner.Symbols[1].Corner(), "", "paste")
	if _, err := edit.Apply(m, e); err != nil || m.SheetOf(ids[0]).Symbol(ids[0]).Detail != "" {
		t.Errorf("copied into its own detail: %v", err)
	}
	// A sheet that goes leaves a finding, and comes back with undo.
	inverse, err := edit.Apply(m, &edit.RemoveSheet{Sheet: m.Sheets[1].ID})
	if err != nil {
		t.Fatal(err)
	}
	if !slices.ContainsFunc(findings.Check(m), func(f findings.Finding) bool {
		return f.Symbol == "s1" && strings.Contains(f.Text, "a sheet that is gone")
	}) {
		t.Error("nothing is found where the sheet of a detail is gone")
	}
	if _, err := edit.Apply(m, inverse); err != nil || m.DetailOf(m.Sheets[0].Symbol("s1")) == nil {
		t.Errorf("the detail does not come back: %v", err)
	}
}
