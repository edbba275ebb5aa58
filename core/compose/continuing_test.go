package compose

import (
	"bytes"
	"encoding/json"
	"fmt"
	"math/rand/v2"
	"slices"
	"testing"

	"plaintracer/bench/processes"
	"plaintracer/core/edit"
	"plaintracer/core/flow"
	"plaintracer/core/geometry"
	"plaintracer/core/layout"
	"plaintracer/core/model"
)

// leads lists what leads where in a map, over references, each with its label.
func leads(m *model.Map) []string {
	var out []string
	var ends func(n *flow.Node, label string, from string, deep int)
	ends = func(n *flow.Node, label, from string, deep int) {
		if !n.Symbol.Kind.IsReference() || deep > 9 {
			out = append(out, from+" -"+label+"> "+n.Symbol.ID)
			return
		}
		for _, x := range n.Exits {
			ends(x.To, label, from, deep+1)
		}
	}
	for _, n := range flow.New(m).Nodes() {
		for _, x := range n.Exits {
			if !n.Symbol.Kind.IsReference() {
				ends(x.To, x.Answer(), n.Symbol.ID, 0)
			}
		}
	}
	slices.Sort(out)
	return out
}

// tidy reports what is wrong with a map whose flow goes over sheets: symbols on each other, halves without a partner.
func tidy(m *model.Map) error {
	if err := m.Validate(); err != nil {
		return err
	}
	for _, s := range m.Sheets {
		for i, a := range s.Symbols {
			for _, b := range s.Symbols[:i] {
				if a.Meets(b.Box) {
					return fmt.Errorf("on %s %s and %s lie on each other: %v, %v", s.Name, a.ID, b.ID, a.Box, b.Box)
				}
			}
			if a.Kind.IsReference() && len(m.Partners(a)) != 1 {
				return fmt.Errorf("the reference %s on %s has %d partners", a.Text, s.Name, len(m.Partners(a)))
			}
		}
	}
	return nil
}

// owners says who does each step.
func owners(m *model.Map) map[string]string {
	out := map[string]string{}
	for _, s := range m.Sheets {
		for _, sym := range s.Symbols {
			if !sym.Kind.IsReference() {
				out[sym.ID] = s.OwnerOf(sym)
			}
		}
	}
	return out
}

// Wherever a flow goes on on the next sheet, and is brought back, the same leads to the same, everybody does what they
// did, nothing lies on anything, and undo leads back to the same bytes.
func TestFlowGoesOnOnTheNextSheetAndComesBack(t *testing.T) {
	n, moved, fresh, joined := 300, 0, 0, 0
	if testing.Short() {
		n = 100
	}
	for i := range n {
		r := rand.New(rand.NewPCG(uint64(i), 5))
		m := processes.Make(uint64(i), processes.Shape{Steps: 5 + i%25, Lanes: i % 4, Strays: i % 3}).Map()
		if i%2 == 1 && len(m.Sheets[0].Pools) == 0 {
			m.Direction = model.Downwards
		} else if i%4 == 1 {
			_, _ = edit.Apply(m, &edit.TurnPool{Sheet: "sheet-1", Pool: "pool", Down: true})
		}
		way := layout.Options{Long: true, Down: m.Direction == model.Downwards}
		if e := layout.Find(m, m.Sheets[0], way); e != nil {
			if _, err := edit.Apply(m, e); err != nil {
				t.Fatal(err)
			}
		}
		ids := 0
		w := &Work{Map: m, Sheet: m.Sheets[0], NewID: func() string { ids++; return fmt.Sprint("new", ids) }}
		s := m.Sheets[0]
		var on *Onward
		var err error
		if i%3 > 0 && len(s.Connectors) > 0 {
			on, err = w.ContinueAt(s.Connectors[r.IntN(len(s.Connectors))])
		} else {
			on, err = w.ContinueFrom(s.Symbols[r.IntN(len(s.Symbols))])
		}
		if err != nil {
			if _, said := err.(Refusal); !said {
				t.Fatalf("%d: %v", i, err)
			}
			continue
		}
		before, who, flowed := doc(t, m), owners(m), leads(m)
		undo, err := edit.Apply(m, on.Edit)
		if err != nil {
			t.Fatalf("%d: %v", i, err)
		}
		if err := tidy(m); err != nil {
			t.Fatalf("%d: %v", i, err)
		}
		if len(m.Sheets) != 2 || m.SheetOf(on.Step) != m.Sheet(on.Sheet) || m.Sheets[1].ID != on.Sheet {
			t.Fatalf("%d: the step is not on the next sheet", i)
		}
		if on.Moved == 0 {
			fresh++
			who[on.Step], flowed = owners(m)[on.Step], leads(m)
		} else if moved++; !slices.Equal(leads(m), flowed) {
			t.Fatalf("%d: the flow is\n%v\nand was\n%v", i, leads(m), flowed)
		}
		if got := owners(m); fmt.Sprint(got) != fmt.Sprint(who) {
			t.Fatalf("%d: who does what is\n%v\nand was\n%v", i, got, who)
		}
		// Back again, from the reference.
		w.Sheet = m.Sheets[0]
		for _, sym := range w.Sheet.Symbols {
			if !sym.Kind.LeadsAcross() {
				continue
			}
			e, err := w.JoinSheets(sym)
			if err != nil {
				t.Fatalf("%d: %v", i, err)
			}
			comeTogether(t, m, e, fmt.Sprint(i, ", ", "joined"), flowed, who)
			joined++
			break
		}
		if _, err := edit.Apply(m, undo); err != nil || !bytes.Equal(doc(t, m), before) {
			t.Fatalf("%d: undo leaves another map: %v", i, err)
		}
	}
	if moved < n/10 || fresh < n/30 || joined < n/5 {
		t.Errorf("only %d moved, %d new, %d joined of %d", moved, fresh, joined, n)
	}
}

// comeTogether makes an edit that brings what stands on two sheets together, and takes it back: on the one sheet the
// same leads to the same, everybody does what they did, nothing lies on anything, and undone the map is as before to
// the byte.
func comeTogether(t *testing.T, m *model.Map, e edit.Edit, what string, flowed []string, who map[string]string) {
	t.Helper()
	over := doc(t, m)
	apart, err := edit.Apply(m, e)
	if err != nil {
		t.Fatalf("%s: %v", what, err)
	}
	if err := tidy(m); err != nil {
		t.Fatalf("%s: %v", what, err)
	}
	if len(m.Sheets) != 1 || !slices.Equal(leads(m), flowed) {
		t.Fatalf("%s, the flow is\n%v\nand was\n%v", what, leads(m), flowed)
	}
	if got := owners(m); fmt.Sprint(got) != fmt.Sprint(who) {
		t.Fatalf("%s, who does what is\n%v\nand was\n%v", what, got, who)
	}
	if _, err := edit.Apply(m, apart); err != nil || !bytes.Equal(doc(t, m), over) {
		t.Fatalf("%s: undoing leaves another map: %v", what, err)
	}
}

func doc(t *testing.T, m *model.Map) []byte {
	t.Helper()
	raw, err := json.Marshal(m)
	if err != nil {
		t.Fatal(err)
	}
	return raw
}

// While numbers are held, a step keeps its own on the next sheet.
func TestHeldNumbersGoAlong(t *testing.T) {
	w := draft(t, "", "", "", "")
	apply(t, w, &edit.HoldNumbers{Since: "2026-11-01", By: "Ida Brandt"})
	kept := w.Sheet.Symbol("s2").Kept
	on, err := w.ContinueAt(w.Sheet.Connector("c2"))
	if err != nil {
		t.Fatal(err)
	}
	apply(t, w, on.Edit)
	if got := w.Map.Sheets[1].Symbol("s2").Kept; got != kept || kept == "" {
		t.Errorf("the number is %q and was %q", got, kept)
	}
}

// references is a map of two sheets with a pair A between them; on the second sheet the flow leads on.
func references(t *testing.T) *Work {
	w := draft(t, "", "", "")
	on, err := w.ContinueAt(w.Sheet.Connector("c2"))
	if err != nil {
		t.Fatal(err)
	}
	apply(t, w, on.Edit)
	return w
}

func reference(s *model.Sheet) *model.Symbol {
	i := slices.IndexFunc(s.Symbols, func(sym *model.Symbol) bool { return sym.Kind.IsReference() })
	return s.Symbols[i]
}

// Letters of pairs: renamed, both halves change; a letter that is there joins that pair; several lead to one.
func TestLettersOfReferences(t *testing.T) {
	w := references(t)
	e, _ := w.Write(reference(w.Sheet), "q")
	apply(t, w, e)
	if a, b := reference(w.Map.Sheets[0]).Text, reference(w.Map.Sheets[1]).Text; a != "Q" || b != "Q" {
		t.Errorf("the letters are %s and %s", a, b)
	}
	// A copied reference leads to the same place; a copy of the sheet at which the flow arrives begins a pair of its
	// own.
	leave := *reference(w.Sheet)
	e, ids := w.SetDown(Clip{Symbols: []model.Symbol{leave}}, geometry.Point{Y: 200 * px}, "", "paste")
	apply(t, w, e)
	copied := w.Sheet.Symbol(ids[0])
	where, partner := w.Map.Partner(copied)
	if copied.Text != "Q" || where != w.Map.Sheets[1] || len(w.Map.Partners(partner)) != 2 {
		t.Errorf("the copy is %s and leads to %v", copied.Text, partner)
	}
	again := w.Renewed(w.Map.Sheets[1], nil)
	if got := reference(again).Text; got != "A" {
		t.Errorf("the copy of the sheet has the reference %s", got)
	}
	apply(t, w, &edit.AddSheet{At: 2, Sheet: *again})
	if _, partner := w.Map.Partner(copied); partner != reference(w.Map.Sheets[1]) {
		t.Error("the copy of a sheet took the reference over")
	}
	// A third pair, renamed to the first, joins it.
	w.Sheet = w.Map.Sheets[2]
	e, _ = w.Write(reference(w.Map.Sheets[2]), "Q")
	apply(t, w, e)
	if list := w.Map.Partners(copied); len(list) != 0 {
		t.Errorf("two lead on from Q, and it leads to %d", len(list))
	}
}
