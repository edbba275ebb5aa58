package edit_test

import (
	"encoding/json"
	"slices"
	"strings"
	"testing"

	"golang.org/x/image/font/gofont/goregular"

	"plaintracer/core/edit"
	"plaintracer/core/fonts"
	"plaintracer/core/geometry"
	"plaintracer/core/model"
)

// face returns a font of another house.
func face(t *testing.T) fonts.Font {
	t.Helper()
	f, err := fonts.Read(goregular.TTF)
	if err != nil {
		t.Fatal(err)
	}
	return f
}

// What edits do that no other test of this package is about, each taken back to the same bytes.
func TestWhatEditsDo(t *testing.T) {
	font := face(t)
	styled := func() *model.Map {
		m := laneMap()
		m.Styles = []model.Style{{ID: "y", Name: "Unusual", Fill: "straw", Type: model.Type{Bold: true}}}
		one, two := m.Sheets[0].Symbols[0], m.Sheets[0].Symbols[1]
		one.Style, one.Fill, one.Bold = "y", "straw", true
		two.Style, two.Fill, two.Bold = "y", "lake", true // its own fill
		return m
	}
	symbol := func(m *model.Map, i int) *model.Symbol { return m.Sheets[0].Symbols[i] }
	for _, c := range []struct {
		name  string
		m     *model.Map
		edit  edit.Edit
		check func(m *model.Map) bool
	}{
		{"keep a font", laneMap(), &edit.KeepFont{Font: font},
			func(m *model.Map) bool { return m.Font(font.ID) != nil }},
		{"keep another font lets one go that nothing is written in",
			func() *model.Map { m := laneMap(); m.Fonts = []fonts.Font{font}; return m }(),
			&edit.KeepFont{Font: renamed(font)},
			func(m *model.Map) bool { return len(m.Fonts) == 1 && m.Fonts[0].ID != font.ID }},
		{"lay out", laneMap(),
			&edit.LayOut{Sheet: "sheet-1",
				Boxes: []edit.Place{{ID: "s0", Box: geometry.Box{X: 300 * px, Y: 40 * px, W: 120 * px, H: 80 * px}}},
				Led: []edit.Lead{{ID: "k0", Bends: []model.Bend{{Upright: true, At: 500 * px}}, From: "right",
					To: "left"}}},
			func(m *model.Map) bool {
				k := m.Sheets[0].Connector("k0")
				return symbol(m, 0).X == 300*px && len(k.Bends) == 1 && k.From.Side == "right"
			}},
		{"lay out with a higher lane takes what has no box along", laneMap(),
			&edit.LayOut{Sheet: "sheet-1",
				Pools: []edit.PoolFrame{{ID: "pool", X: 0, Y: 20 * px, W: 900 * px,
					Heights: []int{150 * px, 100 * px, 100 * px}}}},
			func(m *model.Map) bool { return symbol(m, 1).Y == 180*px && symbol(m, 0).Y == 30*px }},
		{"group", laneMap(),
			&edit.SetGroups{Sheet: "sheet-1", As: "group", Groups: []edit.Membership{{ID: "s0", Group: "g"},
				{ID: "s1", Group: "g"}}},
			func(m *model.Map) bool { return symbol(m, 0).InGroup("g") && symbol(m, 1).GroupWithin("") == "g" }},
		{"lock", laneMap(), &edit.SetLock{Sheet: "sheet-1", IDs: []string{"s0", "k0", "pool"}, Locked: true},
			func(m *model.Map) bool {
				return symbol(m, 0).Locked && m.Sheets[0].Connector("k0").Locked && m.Sheets[0].Pool("pool").Locked
			}},
		{"open space down moves what lies beyond and lets the lane grow", laneMap(),
			&edit.OpenSpace{Sheet: "sheet-1", Down: true, At: 125 * px, By: 40 * px},
			func(m *model.Map) bool {
				return symbol(m, 0).Y == 30*px && symbol(m, 1).Y == 170*px && m.Sheets[0].Pools[0].Lanes[1].H == 140*px
			}},
		{"open space across lets the pool grow", laneMap(), &edit.OpenSpace{Sheet: "sheet-1", At: 250 * px,
			By: 60 * px},
			func(m *model.Map) bool {
				return symbol(m, 0).X == 100*px && symbol(m, 1).X == 360*px && m.Sheets[0].Pools[0].W == 960*px
			}},
		{"save a style: what wears it follows, but for what was chosen otherwise", styled(),
			&edit.SaveStyle{Style: model.Style{ID: "y", Name: "Unusual", Fill: "clay"}},
			func(m *model.Map) bool {
				return symbol(m, 0).Fill == "clay" && !symbol(m, 0).Bold && symbol(m, 1).Fill == "lake" &&
					!symbol(m, 1).Bold
			}},
		{"remove a style: what wears it stays as it looks", styled(), &edit.RemoveStyle{ID: "y"},
			func(m *model.Map) bool {
				return len(m.Styles) == 0 && symbol(m, 0).Style == "" && symbol(m, 0).Fill == "straw" &&
					symbol(m, 0).Bold
			}},
		{"wear a style, symbols and connectors", styled(), &edit.Wear{Sheet: "sheet-1", IDs: []string{"s2", "k0"},
			Style: "y"},
			func(m *model.Map) bool {
				k := m.Sheets[0].Connector("k0")
				return symbol(m, 2).Fill == "straw" && symbol(m, 2).Bold && k.Style == "y" && k.Bold
			}},
		{"take a style off", styled(), &edit.Wear{Sheet: "sheet-1", IDs: []string{"s0"}},
			func(m *model.Map) bool { return symbol(m, 0).Style == "" && symbol(m, 0).Fill == "straw" }},
	} {
		before := bytesOf(t, c.m)
		inverse, err := edit.Apply(c.m, through(t, c.edit))
		if err != nil {
			t.Errorf("%s: %v", c.name, err)
			continue
		}
		if !c.check(c.m) {
			t.Errorf("%s: the map is %s", c.name, bytesOf(t, c.m))
		}
		if _, err := edit.Apply(c.m, through(t, inverse)); err != nil || bytesOf(t, c.m) != before {
			t.Errorf("%s: undone (%v) it is %s", c.name, err, bytesOf(t, c.m))
		}
	}
}

// renamed is the same font under another id, as another file would have.
func renamed(f fonts.Font) fonts.Font {
	f.Data = slices.Clone(f.Data)
	f.Data[len(f.Data)-1] ^= 1
	raw, err := fonts.Read(f.Data)
	if err != nil {
		panic(err)
	}
	return raw
}

// Undo leaves alone what somebody has locked since, except what only follows, such as a step that
// its lane moves; the lock itself can be taken back.
func TestUndoObeysLocks(t *testing.T) {
	m := laneMap()
	do := func(e edit.Edit) *edit.Revert {
		t.Helper()
		inverse, err := edit.Apply(m, e)
		if err != nil {
			t.Fatal(err)
		}
		return inverse.(*edit.Revert)
	}
	s := m.Sheets[0]
	write := do(&edit.SetText{Sheet: "sheet-1", ID: "s1", Text: "Later"})
	lane := do(&edit.InsertLane{Sheet: "sheet-1", Pool: "pool", At: 1,
		Lane: model.Lane{ID: "new", Name: "New", H: 100 * px}})
	lock := do(&edit.SetLock{Sheet: "sheet-1", IDs: []string{"s1"}, Locked: true})
	if _, err := edit.Apply(m, write); err == nil || !strings.Contains(err.Error(), "is locked") ||
		s.Symbol("s1").Text != "Later" {
		t.Errorf("what is locked was changed back: %v, %q", err, s.Symbol("s1").Text)
	}
	y := s.Symbol("s1").Y
	if do(lane); s.Symbol("s1").Y != y-100*px {
		t.Errorf("the locked step stays at %d when its lane goes back", s.Symbol("s1").Y)
	}
	do(lock)
	if do(write); s.Symbol("s1").Text != "" || s.Symbol("s1").Locked {
		t.Errorf("unlocked, the text is %q", s.Symbol("s1").Text)
	}
}

// Every edit says what it does, and is read back from JSON as it was written.
func TestEveryEditIsRegistered(t *testing.T) {
	m := laneMap()
	for _, name := range edit.Names() {
		var e edit.Envelope
		if err := json.Unmarshal([]byte(`{"do":"`+name+`"}`), &e); err != nil {
			t.Errorf("%s: %v", name, err)
			continue
		}
		raw, err := json.Marshal(e)
		if err != nil || !strings.HasPrefix(string(raw), `{"do":"`+name+`"`) {
			t.Errorf("%s is written as %s, %v", name, raw, err)
		}
		if words := edit.Words(m, e.Edit); words == "" && !slices.Contains([]string{"revert", "batch", "setGroups"},
			name) {
			t.Errorf("%s says nothing", name)
		}
	}
}
