package layout

import (
	"errors"
	"fmt"
	"slices"

	"plaintracer/core/arrange"
	"plaintracer/core/edit"
	"plaintracer/core/flow"
	"plaintracer/core/geometry"
	"plaintracer/core/model"
	"plaintracer/core/spread"
	"plaintracer/core/symbols"
)

// mostSheets is how many sheets a flow goes on over at most.
const mostSheets = 20

// Continue returns the edit that lays a sheet out over as many as it takes along the
// flow: what is beyond the paper goes to a sheet behind it, with the same lanes, and
// every connector that leads over goes by a pair of references. NewID hands out
// ids. It is nil when the flow fits its paper.
func Continue(m *model.Map, s *model.Sheet, w Options, newID func() string) (edit.Edit, error) {
	c := &continuing{m: m.Clone(), first: s.ID, wish: w, newID: newID}
	c.wish.Long, c.wish.Paged, c.wish.IDs = len(s.Pools) > 0, true, nil
	id := s.ID
	for range mostSheets {
		if err := c.lay(id); err != nil {
			return nil, err
		}
		next, err := c.splitToFit(id)
		if err != nil {
			return nil, err
		}
		if next == "" {
			break
		}
		id = next
	}
	if id == s.ID {
		return nil, nil
	}
	for i, o := range c.m.Sheets { // the new ones come as they are in the end
		if m.Sheet(o.ID) == nil {
			c.edits = append(c.edits, &edit.AddSheet{At: i, Sheet: *o.Clone()})
		}
	}
	return edit.Together("continue on further sheets", c.edits...), nil
}

// continuing is the work on a copy of the map, with the edits made on the sheet that
// was there.
type continuing struct {
	m     *model.Map
	first string
	wish  Options
	newID func() string
	edits []edit.Edit
}

var errStopped = errors.New("it was stopped")

func (c *continuing) do(sheet string, e edit.Edit) error {
	if _, err := edit.Apply(c.m, e); err != nil {
		return err
	}
	if sheet == c.first {
		c.edits = append(c.edits, e)
	}
	return nil
}

func (c *continuing) lay(id string) error {
	if edit := Find(c.m, c.m.Sheet(id), c.wish); edit != nil {
		return c.do(id, edit)
	}
	if c.wish.Tell != nil && !c.wish.Tell(0, 1) {
		return errStopped
	}
	return nil
}

// axis returns the start and end of a box on the axis on which a sheet is cut: along the flow where there are lanes,
// else from row to row.
func (c *continuing) axis(s *model.Sheet, b geometry.Box) (from, to int) {
	down := c.wish.Down
	if len(s.Pools) > 0 {
		down = s.Pools[0].Down
	} else {
		down = !down
	}
	b = b.Turned(down)
	return b.X, b.Right()
}

// cut returns the place at which a sheet is to be cut: between two
// columns of steps, or two rows, so that what comes before fits the paper with references behind
// it and some slack, as few connectors as can be lead over, and the sheet is more
// than half full.
func (c *continuing) cut(s *model.Sheet, slack int) (at int, needed bool, err error) {
	_, end := c.axis(s, s.Area())
	if _, last := c.axis(s, s.Drawn()); last <= end {
		return 0, false, nil
	}
	ref := symbols.Of(model.SheetReference)
	_, most := c.axis(s, geometry.Box{X: end, Y: end})
	if most -= margin + slack; len(s.Pools) > 0 { // else they stand at the end of a row
		most -= arrange.Gap + max(ref.W, ref.H)
	}
	best, fewest, links := 0, -1, flow.Links(s)
	for _, sym := range s.Symbols {
		_, x := c.axis(s, sym.Box)
		x += arrange.Gap / 2
		through := slices.ContainsFunc(s.Symbols, func(o *model.Symbol) bool {
			from, to := c.axis(s, o.Box)
			return from < x && x < to
		})
		if through || x > most || 2*x < most {
			continue
		}
		over := 0
		for _, k := range links {
			if k.From != nil && k.To != nil && c.beyond(s, k.From.ID, x) != c.beyond(s, k.To.ID, x) {
				over++
			}
		}
		if fewest < 0 || over < fewest || over == fewest && x > best {
			best, fewest = x, over
		}
	}
	if fewest < 0 {
		return 0, false, fmt.Errorf("there is no place to cut the sheet “%s”: lay it on a larger paper", s.Name)
	}
	return best, true, nil
}

func (c *continuing) beyond(s *model.Sheet, id string, x int) bool {
	from, to := c.axis(s, s.Symbol(id).Box)
	return (from+to)/2 > x
}

// splitToFit splits a sheet so that it fits its paper with the references it then
// has: where they make it longer than the paper, it is split earlier.
func (c *continuing) splitToFit(id string) (string, error) {
	m, edits := c.m.Clone(), len(c.edits)
	for slack := 0; ; slack += 80 * px {
		next, err := c.split(id, slack)
		if err != nil || next == "" {
			return next, err
		}
		if err := c.lay(id); err != nil {
			return "", err
		}
		s := c.m.Sheet(id)
		_, end := c.axis(s, s.Area())
		if _, last := c.axis(s, s.Drawn()); last <= end {
			return next, nil
		}
		c.m, c.edits = m.Clone(), c.edits[:edits]
	}
}

// split takes what does not fit the paper to a sheet behind, and returns its id,
// empty when everything fits.
func (c *continuing) split(id string, slack int) (string, error) {
	s := c.m.Sheet(id)
	x, needed, err := c.cut(s, slack)
	if err != nil || !needed {
		return "", err
	}
	next := spread.Like(s, spread.Continued(s.Name), c.newID)
	gone := map[string]bool{}
	for _, sym := range s.Symbols {
		gone[sym.ID] = c.beyond(s, sym.ID, x)
	}
	// Laying both sheets out finds places for the references: here they only come into the right lanes.
	taken := spread.Take(c.m, s, next, gone, c.newID, func(h spread.Half) geometry.Point {
		if h.Arrives {
			return h.To.Centre()
		}
		return h.From.Centre()
	})
	at := slices.IndexFunc(c.m.Sheets, func(o *model.Sheet) bool { return o.ID == id }) + 1
	if err := c.do(id, taken.Remove); err != nil {
		return "", err
	}
	if err := c.do(next.ID, &edit.AddSheet{At: at, Sheet: *next}); err != nil {
		return "", err
	}
	if err := c.do(id, taken.Add); err != nil {
		return "", err
	}
	return next.ID, c.lay(next.ID)
}
