package diagram

import (
	"fmt"
	"slices"
)

// Revert takes an earlier edit back on the map as it is now: whatever still
// holds the value that edit gave it gets its former value again, and the rest,
// which somebody else has changed since, is skipped and named.
type Revert struct {
	// Of says what is taken back, in words.
	Of      string   `json:"of"`
	Changes []Change `json:"changes"`
	// Skipped names what was left alone when this inverse was made by taking
	// back another edit.
	Skipped []string `json:"-"`
}

// Words says what is taken back.
func (r *Revert) Words() string { return r.Of }

func (r *Revert) change(t *trial) error {
	t.exact = true
	for i := len(r.Changes) - 1; i >= 0; i-- {
		if err := t.revert(&r.Changes[i]); err != nil {
			return err
		}
	}
	return nil
}

func (t *trial) skip(what, why string) { t.skipped = append(t.skipped, what+" "+why) }

const (
	changedSince = "was changed by somebody else since"
	goneSince    = "is gone"
	usedSince    = "is used by something newer"
)

func (t *trial) revert(c *Change) error {
	s := t.m.Sheet(c.Sheet)
	if c.Sheet != "" && s == nil {
		t.skip("the sheet", goneSince)
		return nil
	}
	switch {
	case c.Symbol != nil:
		return t.revertSymbol(s, c)
	case c.Connector != nil:
		return t.revertConnector(s, c)
	case c.Pool != nil:
		return t.revertPool(s, c)
	case c.Whole != nil:
		return t.revertSheet(c)
	case c.SheetHead != nil && c.SheetHead.Before != nil && c.SheetHead.After != nil:
		h, b, a := t.editSheetHead(s), c.SheetHead.Before, c.SheetHead.After
		ok := back(&h.Name, b.Name, a.Name)
		ok = back(&h.Paper, b.Paper, a.Paper) && ok
		if ok = back(&h.Across, b.Across, a.Across) && ok; !ok {
			t.skip("the sheet "+quote(h.Name), changedSince)
		}
	case c.Head != nil && c.Head.Before != nil && c.Head.After != nil:
		h, b, a := t.editHead(), c.Head.Before, c.Head.After
		ok := back(&h.Title, b.Title, a.Title)
		ok = back(&h.Direction, b.Direction, a.Direction) && ok
		ok = back(&h.Numbers, b.Numbers, a.Numbers) && ok
		if slices.Equal(h.Answers, a.Answers) {
			h.Answers = slices.Clone(b.Answers)
		} else if !slices.Equal(a.Answers, b.Answers) {
			ok = false
		}
		if !ok {
			t.skip("the map's setting", changedSince)
		}
	case c.Order != nil && c.Order.Before != nil && c.Order.After != nil:
		var now []string
		if s == nil {
			now = ids(t.m.Sheets)
		} else {
			now = ids(s.Symbols)
		}
		if !slices.Equal(sorted(*c.Order.Before), sorted(*c.Order.After)) {
			return incomplete(c)
		}
		if !slices.Equal(now, *c.Order.After) {
			t.skip("the order", changedSince)
			return nil
		}
		t.reorder(s, slices.Clone(*c.Order.Before))
	default:
		return incomplete(c)
	}
	return nil
}

func incomplete(c *Change) error { return refuse(c.ID, "a change to take back is incomplete") }

func sorted(list []string) []string {
	list = slices.Clone(list)
	slices.Sort(list)
	return list
}

// back sets *now to before if it still is after; it reports false when the
// edit changed the value and somebody else has changed it again.
func back[T comparable](now *T, before, after T) bool {
	if before == after {
		return true
	}
	if *now != after {
		return *now == before
	}
	*now = before
	return true
}

func quote(text string) string { return fmt.Sprintf("“%.40s”", text) }

func describe(s *Symbol) string {
	if s.Text == "" {
		return "a " + string(s.Kind)
	}
	return quote(s.Text)
}

func (t *trial) revertSymbol(s *Sheet, c *Change) error {
	b, a := c.Symbol.Before, c.Symbol.After
	if b != nil && b.ID != c.ID || a != nil && a.ID != c.ID {
		return incomplete(c)
	}
	now := s.Symbol(c.ID)
	switch {
	case b == nil && a == nil:
		return incomplete(c)
	case b == nil:
		if now == nil {
			return nil
		}
		for _, k := range s.Connectors {
			if k.From.Symbol == c.ID || k.To.Symbol == c.ID {
				t.skip(describe(now), usedSince)
				return nil
			}
		}
		if *now != *a {
			t.skip(describe(now), changedSince)
			return nil
		}
		return t.removeSymbol(s, c.ID)
	case a == nil:
		if now != nil {
			return nil
		}
		return t.addSymbol(s, min(c.At, len(s.Symbols)), *b)
	case now == nil:
		t.skip(describe(a), goneSince)
		return nil
	}
	sym, err := t.editSymbol(s, c.ID)
	if err != nil {
		return err
	}
	ok := back(&sym.Kind, b.Kind, a.Kind)
	if b.X != a.X || b.Y != a.Y {
		at, from, to := sym.Corner(), b.Corner(), a.Corner()
		ok = back(&at, from, to) && ok
		sym.Box = sym.At(at)
	}
	ok = back(&sym.W, b.W, a.W) && ok
	ok = back(&sym.H, b.H, a.H) && ok
	ok = back(&sym.Text, b.Text, a.Text) && ok
	ok = back(&sym.Fill, b.Fill, a.Fill) && ok
	ok = back(&sym.Dashed, b.Dashed, a.Dashed) && ok
	ok = back(&sym.Emphasis, b.Emphasis, a.Emphasis) && ok
	if ok = back(&sym.Bold, b.Bold, a.Bold) && ok; !ok {
		t.skip(describe(sym), changedSince)
	}
	return nil
}

func (t *trial) revertConnector(s *Sheet, c *Change) error {
	b, a := c.Connector.Before, c.Connector.After
	if b != nil && b.ID != c.ID || a != nil && a.ID != c.ID {
		return incomplete(c)
	}
	now := s.Connector(c.ID)
	switch {
	case b == nil && a == nil:
		return incomplete(c)
	case b == nil:
		if now == nil {
			return nil
		}
		if *now != *a {
			t.skip("a connector", changedSince)
			return nil
		}
		return t.removeConnector(s, c.ID)
	case a == nil:
		if now != nil {
			return nil
		}
		if s.Symbol(b.From.Symbol) == nil || s.Symbol(b.To.Symbol) == nil {
			t.skip("the symbol a connector led to", goneSince)
			return nil
		}
		return t.addConnector(s, min(c.At, len(s.Connectors)), *b)
	case now == nil:
		t.skip("a connector", goneSince)
		return nil
	}
	con, err := t.editConnector(s, c.ID)
	if err != nil {
		return err
	}
	ok := back(&con.From, b.From, a.From)
	ok = back(&con.To, b.To, a.To) && ok
	ok = back(&con.Text, b.Text, a.Text) && ok
	if ok = back(&con.Dashed, b.Dashed, a.Dashed) && ok; !ok {
		t.skip("a connector", changedSince)
	}
	return nil
}

func (t *trial) revertPool(s *Sheet, c *Change) error {
	b, a := c.Pool.Before, c.Pool.After
	if b != nil && b.ID != c.ID || a != nil && a.ID != c.ID {
		return incomplete(c)
	}
	now := s.Pool(c.ID)
	switch {
	case b == nil && a == nil:
		return incomplete(c)
	case b == nil:
		if now == nil {
			return nil
		}
		if !now.equal(a) {
			t.skip("the pool", changedSince)
			return nil
		}
		return t.removePool(s, c.ID)
	case a == nil:
		if now != nil {
			return nil
		}
		return t.addPool(s, min(c.At, len(s.Pools)), b.clone())
	case now == nil:
		t.skip("the pool", goneSince)
		return nil
	}
	p, err := t.editPool(s, c.ID)
	if err != nil {
		return err
	}
	ok := back(&p.Title, b.Title, a.Title)
	ok = back(&p.X, b.X, a.X) && ok
	ok = back(&p.Y, b.Y, a.Y) && ok
	ok = back(&p.W, b.W, a.W) && ok
	if slices.Equal(p.Lanes, a.Lanes) {
		p.Lanes = slices.Clone(b.Lanes)
	} else {
		ok = revertLanes(p, b, a) && ok
	}
	if !ok {
		t.skip("a lane", changedSince)
	}
	return nil
}

// revertLanes takes lane changes back one by one where others have changed
// lanes of the same pool since.
func revertLanes(p, before, after *Pool) bool {
	ok := true
	for i, b := range before.Lanes {
		j, k := after.LaneIndex(b.ID), p.LaneIndex(b.ID)
		switch {
		case j < 0 && k < 0:
			p.Lanes = slices.Insert(p.Lanes, min(i, len(p.Lanes)), b)
		case j >= 0 && k >= 0:
			ok = back(&p.Lanes[k].Name, b.Name, after.Lanes[j].Name) && ok
			ok = back(&p.Lanes[k].H, b.H, after.Lanes[j].H) && ok
		}
	}
	for _, a := range after.Lanes {
		if before.LaneIndex(a.ID) >= 0 {
			continue
		}
		k := p.LaneIndex(a.ID)
		if k >= 0 && p.Lanes[k] == a && len(p.Lanes) > 1 {
			p.Lanes = slices.Delete(p.Lanes, k, k+1)
		} else if k >= 0 {
			ok = false
		}
	}
	return ok
}

func (t *trial) revertSheet(c *Change) error {
	b, a := c.Whole.Before, c.Whole.After
	if b != nil && b.ID != c.ID || a != nil && a.ID != c.ID {
		return incomplete(c)
	}
	now := t.m.Sheet(c.ID)
	switch {
	case b == nil && a == nil:
		return incomplete(c)
	case b == nil && now != nil:
		if !now.equal(a) {
			t.skip("the sheet "+quote(now.Name), changedSince)
			return nil
		}
		return t.removeSheet(c.ID)
	case a == nil && now == nil:
		return t.addSheet(min(c.At, len(t.m.Sheets)), b)
	}
	return nil
}

func (s *Sheet) equal(o *Sheet) bool {
	return s.SheetHead == o.SheetHead &&
		slices.EqualFunc(s.Symbols, o.Symbols, func(a, b *Symbol) bool { return *a == *b }) &&
		slices.EqualFunc(s.Connectors, o.Connectors, func(a, b *Connector) bool { return *a == *b }) &&
		slices.EqualFunc(s.Pools, o.Pools, (*Pool).equal)
}
