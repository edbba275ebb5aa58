package edit_test

import (
	"fmt"
	"math/rand"
	"slices"
	"testing"

	"plaintracer/core/edit"
	"plaintracer/core/geometry"
	"plaintracer/core/hierarchy"
	"plaintracer/core/model"
)

// charted is a map whose second sheet is a hierarchy of n cards, made up.
func charted(t testing.TB, r *rand.Rand, n int) (*model.Map, *model.Sheet) {
	t.Helper()
	m := model.New("Lighting", model.Rightwards, "A4", true)
	s := model.Sheet{SheetHead: model.SheetHead{ID: "chart", Name: "People", Paper: "A4", Kind: model.HierarchySheet},
		Pools: []*model.Pool{}, Symbols: []*model.Symbol{}, Connectors: []*model.Connector{}}
	for i := range n {
		sym := &model.Symbol{ID: fmt.Sprint("c", i), Kind: model.PersonCard,
			Box:  geometry.Box{W: 180 * geometry.Px, H: 56 * geometry.Px},
			Seat: model.Seat{Rank: i * model.RankStep}, Text: fmt.Sprint("Person ", i)}
		if i > 0 {
			sym.Under = fmt.Sprint("c", r.Intn(i))
		}
		s.Symbols = append(s.Symbols, sym)
	}
	if _, err := edit.Apply(m, &edit.AddSheet{At: 1, Sheet: s}); err != nil {
		t.Fatal(err)
	}
	return m, m.Sheet("chart")
}

// order lists the cards as they stand, from the head down.
func order(s *model.Sheet) (ids []string) {
	for _, c := range s.Tree().Order() {
		ids = append(ids, c.ID)
	}
	return ids
}

// Whatever is done to a hierarchy, no card comes under itself, every card stands somewhere, what was done can be taken
// back to the byte, and a second map that is told what was done becomes the same, as does one that is read from a file.
func TestCardsNeverStandInACircle(t *testing.T) {
	for seed := range 60 {
		r := rand.New(rand.NewSource(int64(seed)))
		m, s := charted(t, r, 12)
		other := m.Clone()
		next := 100
		refused := 0
		type done struct {
			before string
			undo   edit.Edit
		}
		var past []done
		for range 80 {
			one := func() string { return s.Symbols[r.Intn(len(s.Symbols))].ID }
			var e edit.Edit
			switch r.Intn(8) {
			case 0, 1, 2:
				h := &edit.HangCards{Sheet: "chart", IDs: []string{one()}, Under: one()}
				if r.Intn(5) == 0 {
					h.Under = ""
				}
				if list := s.Tree().Below(h.Under); len(list) > 0 && r.Intn(2) == 0 {
					h.Before = list[r.Intn(len(list))].ID
				}
				if h.Before == h.IDs[0] {
					h.Before = ""
				}
				e = h
			case 3:
				next++
				id := fmt.Sprint("c", next)
				e = edit.Together("add", &edit.AddItems{Sheet: "chart", Symbols: []model.Symbol{{ID: id,
					Kind: model.PostCard, Box: geometry.Box{W: 160 * geometry.Px, H: 56 * geometry.Px}}}},
					&edit.HangCards{Sheet: "chart", IDs: []string{id}, Under: one()})
			case 4:
				if len(s.Symbols) < 4 {
					continue
				}
				ids := []string{one()}
				if more := one(); more != ids[0] {
					ids = append(ids, more)
				}
				e = &edit.RemoveItems{Sheet: "chart", IDs: ids}
			case 5:
				fold := r.Intn(2) == 0
				a := hierarchy.Arrangements[r.Intn(len(hierarchy.Arrangements))]
				e = &edit.SetCards{Sheet: "chart", IDs: []string{one()}, Folded: &fold, Below: &a}
			case 6:
				e = &edit.MoveItems{Sheet: "chart", IDs: []string{one()}, By: geometry.Point{X: 4000, Y: 300}}
			default:
				e = &edit.SetText{Sheet: "chart", ID: one(), Text: fmt.Sprint("New ", next)}
			}
			before := bytesOf(t, m)
			trial, err := edit.Attempt(m, e)
			if err != nil {
				refused++
				if bytesOf(t, m) != before {
					t.Fatalf("seed %d: a refused edit left something behind: %v", seed, err)
				}
				continue
			}
			if err := m.Validate(); err != nil {
				t.Fatalf("seed %d: %T: %v", seed, e, err)
			}
			if got := order(s); len(got) != len(s.Symbols) {
				t.Fatalf("seed %d: %T: %d of %d cards stand in the chart", seed, e, len(got), len(s.Symbols))
			}
			if err := edit.Enact(other, trial.Changes()); err != nil {
				t.Fatal(err)
			}
			if other.SettleAll(); bytesOf(t, other) != bytesOf(t, m) {
				t.Fatalf("seed %d: told of %T, another map is not the same", seed, e)
			}
			if read, err := model.ReadMap([]byte(bytesOf(t, m))); err != nil || bytesOf(t, read) != bytesOf(t, m) {
				t.Fatalf("seed %d: read from a file it is another map (%v)", seed, err)
			}
			past = append(past, done{before, trial.Inverse()})
		}
		if refused == 80 {
			t.Fatalf("seed %d: every edit was refused", seed)
		}
		for _, d := range slices.Backward(past) {
			if _, err := edit.Apply(m, d.undo); err != nil {
				if len(d.undo.(*edit.Revert).Changes) == 0 {
					continue
				}
				t.Fatalf("seed %d: taking back: %v", seed, err)
			}
			if got := bytesOf(t, m); got != d.before {
				t.Fatalf("seed %d: taken back it is\n%s\nand was\n%s", seed, got, d.before)
			}
		}
	}
}

// Those under a card that is removed come up to its place, in their order.
func TestThoseUnderARemovedCardComeUp(t *testing.T) {
	m, s := charted(t, rand.New(rand.NewSource(1)), 0)
	add := func(id, under string) {
		t.Helper()
		if _, err := edit.Apply(m, edit.Together("", &edit.AddItems{Sheet: "chart", Symbols: []model.Symbol{{ID: id,
			Kind: model.PostCard, Box: geometry.Box{W: 16000, H: 5600}}}},
			&edit.HangCards{Sheet: "chart", IDs: []string{id}, Under: under})); err != nil {
			t.Fatal(err)
		}
	}
	for _, c := range [][2]string{{"head", ""}, {"a", "head"}, {"b", "head"}, {"c", "head"}, {"b1", "b"}, {"b2", "b"},
		{"b11", "b1"}, {"b12", "b1"}} {
		add(c[0], c[1])
	}
	if _, err := edit.Apply(m, &edit.RemoveItems{Sheet: "chart", IDs: []string{"b", "b1"}}); err != nil {
		t.Fatal(err)
	}
	if got, want := order(s), []string{"head", "a", "b11", "b12", "b2", "c"}; !slices.Equal(got, want) {
		t.Errorf("%v, want %v", got, want)
	}
	for _, id := range []string{"b11", "b12", "b2"} {
		if up := s.Symbol(id).Under; up != "head" {
			t.Errorf("%s stands under %q", id, up)
		}
	}
}

// There is always room between two cards, however often one comes between the same two.
func TestThereIsAlwaysRoomBetweenTwoCards(t *testing.T) {
	m, s := charted(t, rand.New(rand.NewSource(1)), 1)
	last := ""
	for i := range 60 {
		id := fmt.Sprint("n", i)
		if _, err := edit.Apply(m, edit.Together("", &edit.AddItems{Sheet: "chart", Symbols: []model.Symbol{{ID: id,
			Kind: model.PostCard, Box: geometry.Box{W: 16000, H: 5600}}}},
			&edit.HangCards{Sheet: "chart", IDs: []string{id}, Under: "c0", Before: last})); err != nil {
			t.Fatal(err)
		}
		if i%2 == 0 {
			last = id
		}
	}
	list := s.Tree().Below("c0")
	for i := 1; i < len(list); i++ {
		if list[i-1].Rank >= list[i].Rank {
			t.Fatalf("%d and %d have the ranks %d and %d", i-1, i, list[i-1].Rank, list[i].Rank)
		}
	}
	if len(list) != 60 {
		t.Errorf("%d cards", len(list))
	}
}
