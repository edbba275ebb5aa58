package handover_test

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"testing"

	"plaintracer/core/handover"
	"plaintracer/core/model"
)

// maps are the maps drawn by hand that the layouts are measured by.
func maps(t *testing.T) (list []*model.Map) {
	t.Helper()
	files, err := filepath.Glob("../../bench/hands/*.json")
	if err != nil || len(files) < 5 {
		t.Fatal(files, err)
	}
	for _, name := range files {
		raw, err := os.ReadFile(name)
		if err != nil {
			t.Fatal(err)
		}
		m, err := model.ReadMap(raw)
		if err != nil || m.Sound() != nil {
			continue // not every file there is a map
		}
		list = append(list, m)
	}
	if len(list) < 3 {
		t.Fatalf("%d maps", len(list))
	}
	return list
}

func text(t *testing.T, m *model.Map) string {
	t.Helper()
	raw, err := json.Marshal(m)
	if err != nil {
		t.Fatal(err)
	}
	return string(raw)
}

// Whatever part goes out is a sound map of what was chosen, nothing in it refers to what stays behind, and the map it
// was taken of is as it was.
func TestAPartIsAMapOfItsOwn(t *testing.T) {
	for _, m := range maps(t) {
		before := text(t, m)
		for _, s := range m.Sheets {
			for k := range s.Symbols {
				var ids []string
				for i, sym := range s.Symbols {
					if i%(k+1) == 0 {
						ids = append(ids, sym.ID)
					}
				}
				part, err := handover.Part(m, handover.Scope{Sheet: s.ID, IDs: ids})
				if err != nil {
					t.Fatal(err)
				}
				if err := part.Sound(); err != nil {
					t.Fatalf("%s: %v", m.Title, err)
				}
				out := part.Sheets[0]
				if len(part.Sheets) != 1 || len(out.Symbols) != len(ids) {
					t.Fatalf("%s: %d sheets, %d of %d symbols", m.Title, len(part.Sheets), len(out.Symbols), len(ids))
				}
				for _, c := range out.Connectors {
					if out.Symbol(c.From.Symbol) == nil || out.Symbol(c.To.Symbol) == nil &&
						out.Connector(c.To.Connector) == nil {
						t.Errorf("%s: the connector %s leads to what is not there", m.Title, c.ID)
					}
				}
			}
		}
		if text(t, m) != before {
			t.Errorf("%s is another map now", m.Title)
		}
	}
}

func TestPartsThatCannotBe(t *testing.T) {
	m := maps(t)[0]
	for name, s := range map[string]handover.Scope{"no such sheet": {Sheet: "none"},
		"nothing selected": {Sheet: m.Sheets[0].ID, IDs: []string{"none"}}} {
		if _, err := handover.Part(m, s); err == nil {
			t.Errorf("%s: a part was made", name)
		}
	}
}

// What is left out is gone with all that hangs on it, and nothing else is.
func TestDressedLeavesOutWhatWasAsked(t *testing.T) {
	m := model.New("Map", model.Rightwards, "A4", true)
	m.Numbers = true
	s := m.Sheets[0]
	s.Headed = true
	for i, kind := range []model.Kind{model.Process, model.Process, model.Annotation, model.Legend} {
		sym := &model.Symbol{ID: string(rune('a' + i)), Kind: kind, Text: "Text", Look: "slate"}
		sym.X, sym.W, sym.H = i*20000, 12000, 8000
		s.Symbols = append(s.Symbols, sym)
	}
	s.Connectors = []*model.Connector{
		{ID: "k1", From: model.End{Symbol: "a"}, To: model.End{Symbol: "b"}},
		{ID: "k2", From: model.End{Symbol: "c"}, To: model.End{Symbol: "a"}},
		{ID: "k3", From: model.End{Symbol: "b"}, To: model.End{Connector: "k2"}},
	}
	before := text(t, m)
	if got := text(t, handover.Dressed(m, handover.Dress{})); got != before {
		t.Errorf("undressed it is another map: %s", got)
	}
	out := handover.Dressed(m, handover.Dress{WithoutNotes: true, WithoutLegend: true, WithoutHeading: true,
		WithoutNumbers: true, Look: "print"})
	o := out.Sheets[0]
	if out.Numbers || o.Headed || out.Look != "print" || len(o.Symbols) != 2 || len(o.Connectors) != 1 ||
		o.Connectors[0].ID != "k1" || o.Symbols[0].Look != "" {
		t.Errorf("it is %s", text(t, out))
	}
	if text(t, m) != before {
		t.Error("the map itself was changed")
	}
	if list, err := handover.Drawings(context.Background(), m, out); err != nil || len(list) != 1 {
		t.Errorf("%d drawings, %v", len(list), err)
	}
}

// What takes long is called off with its context.
func TestDrawingIsCalledOff(t *testing.T) {
	m := model.New("Many", model.Rightwards, "A2", true)
	s := m.Sheets[0]
	for i := range 600 {
		sym := &model.Symbol{ID: fmt.Sprint("s", i), Kind: model.Process, Text: "Step"}
		sym.X, sym.Y, sym.W, sym.H = i%25*16000, i/25*12000, 12000, 8000
		s.Symbols = append(s.Symbols, sym)
		if i > 0 {
			s.Connectors = append(s.Connectors, &model.Connector{ID: fmt.Sprint("k", i),
				From: model.End{Symbol: fmt.Sprint("s", i-1)}, To: model.End{Symbol: sym.ID}})
		}
	}
	ctx, stop := context.WithCancel(context.Background())
	stop()
	if _, err := handover.Drawings(ctx, m, m); !errors.Is(err, context.Canceled) {
		t.Errorf("called off before it began it says %v", err)
	}
}
