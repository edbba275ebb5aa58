package diagram

import (
	"fmt"
	"slices"
)

func init() {
	register("revert", func(_ *Map, r *Revert) string { return r.Of })
}

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

func (r *Revert) change(t *trial) error {
	t.exact, t.restoring = true, true
	t.leaving = map[string]bool{}
	for i := range r.Changes {
		if err := r.Changes[i].sound(); err != nil {
			return err
		}
		if c := r.Changes[i].Connector; c != nil && c.Before == nil {
			t.leaving[r.Changes[i].ID] = true
		}
	}
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
	case s == nil && (c.Symbol != nil || c.Connector != nil || c.Pool != nil || c.SheetHead != nil):
		return incomplete(c) // it does not say on which sheet
	case c.Symbol != nil:
		return t.revertSymbol(s, c)
	case c.Connector != nil:
		return t.revertConnector(s, c)
	case c.Pool != nil:
		return t.revertPool(s, c)
	case c.Picture != nil:
		return t.revertPicture(c)
	case c.Font != nil:
		return t.revertFont(c)
	case c.Whole != nil:
		return t.revertSheet(c)
	case c.SheetHead != nil && c.SheetHead.Before != nil && c.SheetHead.After != nil:
		h, b, a := t.editSheetHead(s), c.SheetHead.Before, c.SheetHead.After
		ok := back(&h.Name, b.Name, a.Name)
		ok = back(&h.Paper, b.Paper, a.Paper) && ok
		ok = back(&h.Across, b.Across, a.Across) && ok
		ok = back(&h.Fitting, b.Fitting, a.Fitting) && ok
		ok = back(&h.Ground, b.Ground, a.Ground) && ok
		ok = back(&h.Headed, b.Headed, a.Headed) && ok
		ok = back(&h.Merging, b.Merging, a.Merging) && ok
		ok = back(&h.Edge, b.Edge, a.Edge) && ok
		if ok = back(&h.Crossings, b.Crossings, a.Crossings) && ok; !ok {
			t.skip("the sheet "+quote(h.Name), changedSince)
		}
	case c.Head != nil && c.Head.Before != nil && c.Head.After != nil:
		h, b, a := t.editHead(), c.Head.Before, c.Head.After
		ok := back(&h.Title, b.Title, a.Title)
		ok = back(&h.Direction, b.Direction, a.Direction) && ok
		ok = back(&h.Numbers, b.Numbers, a.Numbers) && ok
		ok = back(&h.Units, b.Units, a.Units) && ok
		ok = back(&h.Look, b.Look, a.Look) && ok
		ok = back(&h.Heading, b.Heading, a.Heading) && ok
		ok = back(&h.Above, b.Above, a.Above) && ok
		ok = backList(&h.Answers, b.Answers, a.Answers) && ok
		ok = backList(&h.Colours, b.Colours, a.Colours) && ok
		ok = backList(&h.Faces, b.Faces, a.Faces) && ok
		if ok = backStyles(&h.Styles, b.Styles, a.Styles) && ok; !ok {
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

// sound reports a change that no edit of ours could have made. It is all that stands between
// a message from outside and the code that takes it for the work of an edit.
func (c *Change) sound() error {
	spans := 0
	for _, there := range [...]bool{c.Symbol != nil, c.Connector != nil, c.Picture != nil, c.Font != nil, c.Pool != nil,
		c.Whole != nil, c.SheetHead != nil, c.Head != nil, c.Order != nil} {
		if there {
			spans++
		}
	}
	if spans != 1 || c.At < 0 {
		return incomplete(c)
	}
	if c.Whole != nil {
		for _, s := range [...]*Sheet{c.Whole.Before, c.Whole.After} {
			if s != nil && (slices.Contains(s.Symbols, nil) || slices.Contains(s.Connectors, nil) || slices.Contains(s.Pools, nil)) {
				return incomplete(c)
			}
		}
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

// backList is back for a list as a whole.
func backList[T comparable](now *[]T, before, after []T) bool {
	if slices.Equal(before, after) {
		return true
	}
	if !slices.Equal(*now, after) {
		return slices.Equal(*now, before)
	}
	*now = slices.Clone(before)
	return true
}

func quote(text string) string { return fmt.Sprintf("“%.40s”", text) }

func describe(s *Symbol) string {
	if s.Text == "" {
		return "a " + string(s.Kind)
	}
	return quote(s.Text)
}

// standing is what an item is now, seen from a change that is taken back.
type standing struct {
	id     string // of what the span speaks
	was    bool   // it was there before the change
	became bool   // it was there after it
	now    bool
	// held says that it still is as the change left it.
	held func() bool
	name func() string
}

// remake takes back that an item was made or removed, and reports whether that
// was all there was to do. What is there before and after has yet to be
// changed back, field by field.
func (t *trial) remake(c *Change, st standing, remove, add func() error) (done bool, err error) {
	switch {
	case !st.was && !st.became || st.id != c.ID:
		return true, incomplete(c)
	case !st.was && !st.now || !st.became && st.now:
		return true, nil
	case !st.was && !st.held():
		t.skip(st.name(), changedSince)
		return true, nil
	case !st.was:
		return true, remove()
	case !st.became:
		return true, add()
	case !st.now:
		t.skip(st.name(), goneSince)
		return true, nil
	}
	return false, nil
}

// spanID returns the id both ends of a span have; empty when they differ.
func spanID[T any, P interface {
	*T
	identified
}](s *Span[T]) string {
	switch {
	case s.Before == nil && s.After == nil:
		return ""
	case s.Before == nil:
		return P(s.After).id()
	case s.After == nil || P(s.Before).id() == P(s.After).id():
		return P(s.Before).id()
	}
	return ""
}

func (t *trial) revertSymbol(s *Sheet, c *Change) error {
	b, a := c.Symbol.Before, c.Symbol.After
	now := s.Symbol(c.ID)
	used := slices.ContainsFunc(s.Connectors, func(k *Connector) bool { return k.From.Symbol == c.ID || k.To.Symbol == c.ID })
	if b == nil && a != nil && now != nil && used {
		t.skip(describe(now), usedSince)
		return nil
	}
	done, err := t.remake(c, standing{spanID(c.Symbol), b != nil, a != nil, now != nil,
		func() bool { return *now == *a },
		func() string {
			if now == nil {
				return describe(a)
			}
			return describe(now)
		}},
		func() error { return t.removeSymbol(s, c.ID) },
		func() error { return t.addSymbol(s, min(c.At, len(s.Symbols)), *b) })
	if done {
		return err
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
	ok = back(&sym.Owner, b.Owner, a.Owner) && ok
	ok = back(&sym.Fill, b.Fill, a.Fill) && ok
	ok = back(&sym.Dashed, b.Dashed, a.Dashed) && ok
	ok = back(&sym.Emphasis, b.Emphasis, a.Emphasis) && ok
	ok = back(&sym.Trunk, b.Trunk, a.Trunk) && ok
	ok = back(&sym.Picture, b.Picture, a.Picture) && ok
	ok = back(&sym.Tip, b.Tip, a.Tip) && ok
	ok = back(&sym.Ink, b.Ink, a.Ink) && ok
	ok = back(&sym.Weight, b.Weight, a.Weight) && ok
	ok = back(&sym.Style, b.Style, a.Style) && ok
	ok = back(&sym.Look, b.Look, a.Look) && ok
	ok = back(&sym.Group, b.Group, a.Group) && ok
	ok = back(&sym.Locked, b.Locked, a.Locked) && ok
	if ok = sym.Type.back(&b.Type, &a.Type) && ok; !ok {
		t.skip(describe(sym), changedSince)
	}
	return nil
}

func (y *Type) back(b, a *Type) bool {
	ok := back(&y.Bold, b.Bold, a.Bold)
	ok = back(&y.Italic, b.Italic, a.Italic) && ok
	ok = back(&y.Underline, b.Underline, a.Underline) && ok
	ok = back(&y.Size, b.Size, a.Size) && ok
	ok = back(&y.Colour, b.Colour, a.Colour) && ok
	ok = back(&y.Align, b.Align, a.Align) && ok
	ok = back(&y.Stand, b.Stand, a.Stand) && ok
	ok = back(&y.Margin, b.Margin, a.Margin) && ok
	return back(&y.Bullets, b.Bullets, a.Bullets) && ok
}

func (k *Stroke) back(b, a *Stroke) bool {
	ok := back(&k.Dashed, b.Dashed, a.Dashed)
	ok = back(&k.Line, b.Line, a.Line) && ok
	ok = back(&k.Weight, b.Weight, a.Weight) && ok
	ok = back(&k.Ink, b.Ink, a.Ink) && ok
	ok = back(&k.Course, b.Course, a.Course) && ok
	ok = back(&k.Radius, b.Radius, a.Radius) && ok
	ok = back(&k.Hop, b.Hop, a.Hop) && ok
	ok = back(&k.Merge, b.Merge, a.Merge) && ok
	ok = back(&k.FromMark, b.FromMark, a.FromMark) && ok
	ok = back(&k.ToMark, b.ToMark, a.ToMark) && ok
	return back(&k.MarkSize, b.MarkSize, a.MarkSize) && ok
}

// revertPicture lets a picture go again that nothing shows any more, or brings
// one back.
func (t *trial) revertPicture(c *Change) error {
	b, a := c.Picture.Before, c.Picture.After
	switch {
	case b == nil && a != nil:
		for _, s := range t.m.Sheets {
			if s.Ground.Picture == c.ID || slices.ContainsFunc(s.Symbols, func(sym *Symbol) bool { return sym.Picture == c.ID }) {
				return nil
			}
		}
		t.removePicture(c.ID)
	case b != nil && a == nil && b.ID == c.ID:
		return t.addPicture(*b)
	default:
		return incomplete(c)
	}
	return nil
}

func (t *trial) revertConnector(s *Sheet, c *Change) error {
	b, a := c.Connector.Before, c.Connector.After
	now := s.Connector(c.ID)
	done, err := t.remake(c, standing{spanID(c.Connector), b != nil, a != nil, now != nil,
		func() bool { return now.Equal(a) }, func() string { return "a connector" }},
		func() error {
			if t.joined(s, c.ID) {
				t.skip("a connector", usedSince)
				return nil
			}
			return t.removeConnector(s, c.ID)
		},
		func() error {
			if b.From.Symbol != "" && s.Symbol(b.From.Symbol) == nil || b.To.Symbol != "" && s.Symbol(b.To.Symbol) == nil {
				t.skip("the symbol a connector led to", goneSince)
				return nil
			}
			return t.addConnector(s, min(c.At, len(s.Connectors)), *b)
		})
	if done {
		return err
	}
	con, err := t.editConnector(s, c.ID)
	if err != nil {
		return err
	}
	ok := back(&con.From, b.From, a.From)
	ok = back(&con.To, b.To, a.To) && ok
	ok = back(&con.Text, b.Text, a.Text) && ok
	ok = back(&con.FromText, b.FromText, a.FromText) && ok
	ok = back(&con.ToText, b.ToText, a.ToText) && ok
	ok = back(&con.Place, b.Place, a.Place) && ok
	ok = back(&con.FromPlace, b.FromPlace, a.FromPlace) && ok
	ok = back(&con.ToPlace, b.ToPlace, a.ToPlace) && ok
	ok = con.Type.back(&b.Type, &a.Type) && ok
	ok = con.Stroke.back(&b.Stroke, &a.Stroke) && ok
	ok = back(&con.Style, b.Style, a.Style) && ok
	ok = back(&con.Locked, b.Locked, a.Locked) && ok
	if ok = backList(&con.Bends, b.Bends, a.Bends) && ok; !ok {
		t.skip("a connector", changedSince)
	}
	return nil
}

// joined reports whether a connector that stays ends on the one called id.
func (t *trial) joined(s *Sheet, id string) bool {
	return slices.ContainsFunc(s.Connectors, func(c *Connector) bool { return c.To.Connector == id && !t.leaving[c.ID] })
}

func (t *trial) revertPool(s *Sheet, c *Change) error {
	b, a := c.Pool.Before, c.Pool.After
	now := s.Pool(c.ID)
	done, err := t.remake(c, standing{spanID(c.Pool), b != nil, a != nil, now != nil,
		func() bool { return now.equal(a) }, func() string { return "the pool" }},
		func() error { return t.removePool(s, c.ID) },
		func() error { return t.addPool(s, min(c.At, len(s.Pools)), b.clone()) })
	if done {
		return err
	}
	p, err := t.editPool(s, c.ID)
	if err != nil {
		return err
	}
	ok := back(&p.Title, b.Title, a.Title)
	ok = back(&p.X, b.X, a.X) && ok
	ok = back(&p.Y, b.Y, a.Y) && ok
	ok = back(&p.W, b.W, a.W) && ok
	ok = back(&p.Down, b.Down, a.Down) && ok
	ok = back(&p.Level, b.Level, a.Level) && ok
	ok = back(&p.Locked, b.Locked, a.Locked) && ok
	if slices.Equal(p.Stages, a.Stages) {
		p.Stages = slices.Clone(b.Stages)
	} else if !slices.Equal(a.Stages, b.Stages) {
		ok = false
	}
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
			ok = back(&p.Lanes[k].Of, b.Of, after.Lanes[j].Of) && ok
			ok = back(&p.Lanes[k].Fill, b.Fill, after.Lanes[j].Fill) && ok
			ok = back(&p.Lanes[k].Head, b.Head, after.Lanes[j].Head) && ok
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
	now := t.m.Sheet(c.ID)
	_, err := t.remake(c, standing{spanID(c.Whole), b != nil, a != nil, now != nil,
		func() bool { return now.equal(a) }, func() string { return "a sheet" }},
		func() error { return t.removeSheet(c.ID) },
		func() error { return t.addSheet(min(c.At, len(t.m.Sheets)), b) })
	return err
}

func (s *Sheet) equal(o *Sheet) bool {
	return s.SheetHead == o.SheetHead &&
		slices.EqualFunc(s.Symbols, o.Symbols, func(a, b *Symbol) bool { return *a == *b }) &&
		slices.EqualFunc(s.Connectors, o.Connectors, (*Connector).Equal) &&
		slices.EqualFunc(s.Pools, o.Pools, (*Pool).equal)
}
