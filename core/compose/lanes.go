package compose

import (
	"slices"
	"strings"

	"plaintracer/core/arrange"
	"plaintracer/core/edit"
	"plaintracer/core/model"
)

// NewPool makes a pool as wide as the paper, with lanes of these names.
func (w *Work) NewPool(names []string) model.Pool {
	page := w.Sheet.Page()
	pool := model.Pool{ID: w.NewID(), Title: w.Map.Title, X: 4 * arrange.Grid, Y: 4 * arrange.Grid,
		Down: w.Map.Direction == model.Downwards}
	pool.W = page.Turned(pool.Down).W - 8*arrange.Grid
	for _, name := range names {
		pool.Lanes = append(pool.Lanes, model.Lane{ID: w.NewID(), Name: name, H: pool.LaneStart()})
	}
	return pool
}

// Names takes the names out of a list, one a line or between semicolons.
func Names(list string) []string {
	var out []string
	for _, name := range strings.FieldsFunc(list,
		func(r rune) bool { return r == '\n' || r == ';' || r == '\r' || r == '\t' }) {
		if name = strings.Join(strings.Fields(name), " "); name != "" && !slices.Contains(out, name) {
			out = append(out, name)
		}
	}
	return out
}

// asking are words of roles for which the work is done: their lane comes first
// (common practice, no source).
var asking = []string{"customer", "client", "requester", "applicant", "resident", "citizen", "patient", "guest",
	"member"}

// AskingFirst puts the roles for which the work is done before the others.
func AskingFirst(names []string) []string {
	rank := func(name string) int {
		for _, word := range asking {
			if strings.Contains(strings.ToLower(name), word) {
				return 0
			}
		}
		return 1
	}
	out := slices.Clone(names)
	slices.SortStableFunc(out, func(a, b string) int { return rank(a) - rank(b) })
	return out
}

// Untouched reports whether a pool is as a new map begins with it: with the names it was given
// and nothing in it.
func Untouched(s *model.Sheet, pool *model.Pool) bool {
	if len(pool.Lanes) != len(model.FirstLanes) {
		return false
	}
	for i, l := range pool.Lanes {
		if l.Name != model.FirstLanes[i] {
			return false
		}
	}
	return !slices.ContainsFunc(s.Symbols, func(sym *model.Symbol) bool {
		p, _ := s.LaneAt(sym.Centre())
		return p == pool
	})
}

// nobody is the lane of the steps without an owner.
const nobody = "No owner yet"

// intoLaneOf moves a step into the lane of a name, at the foot of the pool when
// there is none.
func (w *Work) intoLaneOf(pool, name, id string) []edit.Edit {
	s := w.Sheet
	p := s.Pool(pool)
	at := slices.IndexFunc(p.Lanes, func(l model.Lane) bool { return strings.EqualFold(l.Name, name) })
	var edits []edit.Edit
	if at < 0 {
		at = len(p.Lanes)
		insert := &edit.InsertLane{Sheet: s.ID, Pool: pool, At: at,
			Lane: model.Lane{ID: w.NewID(), Name: name, H: p.LaneStart()}}
		trial, err := edit.Attempt(w.Map, insert)
		if err != nil {
			return []edit.Edit{insert} // refused again, with the reason
		}
		defer trial.Rollback()
		edits = append(edits, insert)
	}
	box, room := arrange.IntoLane(s, s.Pool(pool), at, s.Symbol(id))
	return append(append(edits, room...), &edit.PlaceItems{Sheet: s.ID, Boxes: []edit.Place{{ID: id, Box: box}}})
}
