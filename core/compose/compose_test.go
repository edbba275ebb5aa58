package compose

import (
	"fmt"
	"math/rand"
	"slices"
	"strings"
	"testing"

	"plaintracer/core/edit"
	"plaintracer/core/geometry"
	"plaintracer/core/model"
)

const px = geometry.Px

// draft makes a sheet with a chain of steps, some of them with owners.
func draft(t *testing.T, owners ...string) *Work {
	t.Helper()
	m := model.New("Lost key", model.Rightwards, "A4", true)
	n := 0
	w := &Work{Map: m, Sheet: m.Sheets[0], NewID: func() string { n++; return fmt.Sprint("new", n) }}
	add := &edit.AddItems{Sheet: w.Sheet.ID}
	for i, owner := range owners {
		id := fmt.Sprint("s", i)
		add.Symbols = append(add.Symbols, model.Symbol{ID: id, Kind: model.Process, Text: "Step " + id, Owner: owner,
			Box: geometry.Box{X: (80 + 200*i) * px, Y: 80 * px, W: 120 * px, H: 64 * px}})
		if i > 0 {
			add.Connectors = append(add.Connectors, model.Connector{ID: fmt.Sprint("c", i),
				From: model.End{Symbol: fmt.Sprint("s", i-1)}, To: model.End{Symbol: id}})
		}
	}
	apply(t, w, add)
	return w
}

func apply(t *testing.T, w *Work, e edit.Edit) {
	t.Helper()
	if _, err := edit.Attempt(w.Map, e); err != nil {
		t.Fatal(err)
	}
	w.Sheet = w.Map.Sheets[0]
	if err := w.Map.Validate(); err != nil {
		t.Fatal(err)
	}
}

// TestOwnersAndLanes turns owners into lanes and back: who does a step is the same before, between and after.
func TestOwnersAndLanes(t *testing.T) {
	w := draft(t, "Porter", "", "Guest", "Porter", "Desk")
	ownersNow := func() []string {
		var out []string
		for _, sym := range w.Sheet.Symbols {
			out = append(out, strings.Replace(w.Sheet.OwnerOf(sym), nobody, "", 1))
		}
		return out
	}
	want := ownersNow()
	edit, err := w.OwnersIntoLanes()
	if err != nil {
		t.Fatal(err)
	}
	apply(t, w, edit)
	if got := ownersNow(); !slices.Equal(got, want) {
		t.Errorf("in lanes the steps belong to %q, before to %q", got, want)
	}
	if name := w.Sheet.Pools[0].Lanes[0].Name; name != "Guest" {
		t.Errorf("the first lane is %q, not that of whom the work is done for", name)
	}
	apply(t, w, w.LanesIntoOwners())
	if got := ownersNow(); !slices.Equal(got, want) || len(w.Sheet.Pools) > 0 {
		t.Errorf("without lanes the steps belong to %q, before to %q", got, want)
	}
}

// TestRemoveLane takes lanes away with all that can be done to their steps.
func TestRemoveLane(t *testing.T) {
	for _, c := range []struct {
		steps string
		left  int
		owner string
	}{{"", 3, "Porter"}, {"above", 3, "Guest"}, {"below", 3, "Porter"}, {"delete", 2, ""}} {
		w := draft(t, "Guest", "Desk", "Porter")
		edit, err := w.OwnersIntoLanes()
		if err != nil {
			t.Fatal(err)
		}
		apply(t, w, edit)
		if edit, _, err = w.RemoveLane(w.Sheet.Pools[0], 1, c.steps); err != nil {
			t.Fatal(err)
		}
		apply(t, w, edit)
		if n := len(w.Sheet.Symbols); n != c.left {
			t.Errorf("%q leaves %d steps, not %d", c.steps, n, c.left)
		}
		if sym := w.Sheet.Symbol("s1"); c.steps == "above" || c.steps == "below" {
			if got := w.Sheet.OwnerOf(sym); got != c.owner {
				t.Errorf("%q puts the step into the lane of %q, not %q", c.steps, got, c.owner)
			}
		}
	}
	w := draft(t, "Guest", "Desk")
	edit, err := w.OwnersIntoLanes()
	if err != nil {
		t.Fatal(err)
	}
	apply(t, w, edit)
	if _, _, err := w.RemoveLane(w.Sheet.Pools[0], 0, "above"); err == nil {
		t.Error("steps go into a lane above the first")
	}
}

// TestSetDown copies random parts of a sheet: what comes has ids of its own and keeps its shape.
func TestSetDown(t *testing.T) {
	r := rand.New(rand.NewSource(4))
	for range 50 {
		w := draft(t, "", "", "", "", "")
		var clip Clip
		for _, sym := range w.Sheet.Symbols {
			if r.Intn(2) == 0 {
				clip.Symbols = append(clip.Symbols, *sym)
			}
		}
		has := func(id string) bool {
			return slices.ContainsFunc(clip.Symbols, func(s model.Symbol) bool { return s.ID == id })
		}
		for _, c := range w.Sheet.Connectors {
			if has(c.From.Symbol) && has(c.To.Symbol) {
				clip.Connectors = append(clip.Connectors, *c)
			}
		}
		edit, ids := w.SetDown(clip, geometry.Point{Y: 200 * px}, "", "paste")
		if len(clip.Symbols) == 0 {
			if edit != nil {
				t.Fatal("nothing was pasted as something")
			}
			continue
		}
		apply(t, w, edit)
		for i, id := range ids {
			sym := w.Sheet.Symbol(id)
			if sym == nil || sym.Box != clip.Symbols[i].Moved(geometry.Point{Y: 200 * px}) ||
				sym.Text != clip.Symbols[i].Text {
				t.Fatalf("%v is not the copy of %v", sym, clip.Symbols[i])
			}
		}
		if n := len(w.Sheet.Connectors) - 4; n != len(clip.Connectors) {
			t.Fatalf("%d connectors were copied, not %d", n, len(clip.Connectors))
		}
	}
}

// TestRenewed copies a sheet: no id is shared, and the copy is otherwise the same.
func TestRenewed(t *testing.T) {
	w := draft(t, "A", "B", "C")
	edit, err := w.OwnersIntoLanes()
	if err != nil {
		t.Fatal(err)
	}
	apply(t, w, edit)
	s := w.Renewed(w.Sheet, nil)
	s.Name = "As it will be"
	w.Map.Sheets = append(w.Map.Sheets, s)
	if err := w.Map.Validate(); err != nil { // ids that two things share are refused
		t.Fatal(err)
	}
	for i, c := range s.Connectors {
		from, to := s.Leads(c)
		a, b := w.Sheet.Leads(w.Sheet.Connectors[i])
		if s.Symbol(from).Text != w.Sheet.Symbol(a).Text || s.Symbol(to).Text != w.Sheet.Symbol(b).Text {
			t.Errorf("connector %d leads elsewhere", i)
		}
	}
}

// TestWrite makes a step that asks a decision, whose exits get answers, in one edit.
func TestWrite(t *testing.T) {
	w := draft(t, "", "")
	edit, _ := w.Write(w.Sheet.Symbol("s0"), "Is the key there?")
	apply(t, w, edit)
	if k := w.Sheet.Symbol("s0").Kind; k != model.Decision {
		t.Errorf("a question is a %v", k)
	}
	if got := w.Sheet.Connectors[0].Text; got != w.Map.Answers[0] {
		t.Errorf("its exit says %q", got)
	}
	if edit, _ := w.Write(w.Sheet.Symbol("s0"), "Is the key there?"); edit != nil {
		t.Error("writing the same is an edit")
	}
}
