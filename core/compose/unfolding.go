package compose

import (
	"slices"
	"strings"

	"plaintracer/core/arrange"
	"plaintracer/core/edit"
	"plaintracer/core/flow"
	"plaintracer/core/geometry"
	"plaintracer/core/model"
	"plaintracer/core/spread"
)

// Unfold returns the edit that brings the detail of a step back in its place: what led to the step leads to where the
// detail begins, its ends lead to where the step did, and its sheet goes. Room is made for it along the flow. It
// returns a Refusal where beginning, ends or lanes do not go together.
func (w *Work) Unfold(sym *model.Symbol) (edit.Edit, error) {
	o := w.Map.DetailOf(sym)
	switch {
	case o == nil:
		return nil, Refusal("This step opens into no sheet.")
	case sym.Locked:
		return nil, Refusal("The step is locked; unlock it first.")
	case len(w.Map.OpensInto(o)) > 1:
		return nil, Refusal("Other steps open into this sheet, too. Copy it for one of them first.")
	case len(o.Pools) > 0 && !spread.SameLanes(w.Sheet, o):
		return nil, Refusal("The lanes of the two sheets differ: give them the same names in the same order first.")
	}
	u := unfolding{w: w, s: w.Sheet, o: o, step: sym, ends: map[string]*flow.Exit{}, dropped: map[string]bool{}}
	if err := u.match(flow.New(w.Map)); err != nil {
		return nil, err
	}
	return w.InTurn("bring the detail back",
		func() []edit.Edit { return append([]edit.Edit{&edit.RemoveSheet{Sheet: o.ID}}, u.room()...) },
		u.place)
}

// unfolding is the work of bringing a detail back.
type unfolding struct {
	w    *Work
	s, o *model.Sheet
	step *model.Symbol
	// start is where the detail begins: a terminator that goes, which leads to target; or target itself.
	start, target string
	// ends are the exits of the step that ends of the detail become; none where the flow ends there, too.
	ends map[string]*flow.Exit
	// dropped are the symbols of the detail that go.
	dropped map[string]bool
	// by is how far what comes is moved, and depth how much room it needs along the flow.
	by   geometry.Point
	down bool
}

// match finds the beginning of the detail, and which of its ends is which exit of the step.
func (u *unfolding) match(g *flow.Graph) error {
	var begins, ends []*flow.Node
	for _, n := range g.Nodes() {
		switch {
		case n.Sheet != u.o || n.Symbol.Kind.IsInformation():
		case len(n.Entries) == 0:
			begins = append(begins, n)
		case n.Symbol.Kind.IsEnd() && len(n.Exits) == 0:
			ends = append(ends, n)
		}
	}
	switch {
	case len(begins) != 1:
		return Refusal("The detail has to begin in one place before it can come back.")
	case !begins[0].Symbol.Kind.IsEnd() || len(g.Entries(u.step.ID)) == 0: // with the step the whole flow begins
		u.target = begins[0].Symbol.ID
	case len(begins[0].Exits) != 1:
		return Refusal("Exactly one connector has to lead on from where the detail begins.")
	default:
		u.start, u.target = begins[0].Symbol.ID, begins[0].Exits[0].To.Symbol.ID
		u.dropped[u.start] = true
	}
	own := g.Exits(u.step.ID)
	for _, n := range ends {
		if to := exitFor(n, ends, own); to != nil {
			u.ends[n.Symbol.ID], u.dropped[n.Symbol.ID] = to, true
		}
	}
	for _, x := range own {
		if !slices.ContainsFunc(ends, func(n *flow.Node) bool { return u.ends[n.Symbol.ID] == x }) {
			return Refusal("The step has an exit to which no end of the detail leads.")
		}
	}
	return nil
}

// exitFor returns the exit of a step that one of the ends of its detail is: the one with its name, or that leads to
// what has its name. Where the step has a single exit that no end is named after, all are it. Nil is where the flow
// ends.
func exitFor(end *flow.Node, ends []*flow.Node, own []*flow.Exit) *flow.Exit {
	named := func(n *flow.Node, x *flow.Exit) bool {
		text := model.Flat(n.Symbol.Text)
		return strings.EqualFold(text, model.Flat(x.Answer())) ||
			len(own) == 1 && strings.EqualFold(text, model.Flat(x.To.Symbol.Text))
	}
	for _, x := range own {
		if named(end, x) {
			return x
		}
	}
	if len(own) == 1 && !slices.ContainsFunc(ends, func(n *flow.Node) bool { return named(n, own[0]) }) {
		return own[0]
	}
	return nil
}

// room returns the edits that make room along the flow for what comes.
func (u *unfolding) room() []edit.Edit {
	u.down = u.w.downAt(u.step)
	var all geometry.Box
	for _, sym := range u.o.Symbols {
		if !u.dropped[sym.ID] {
			all = all.Union(sym.Box)
		}
	}
	all = all.Turned(u.down)
	at := u.step.Turned(u.down)
	// What stands before the middle of the step stays: the detail comes behind it. The rest moves on behind the detail.
	begin, rest := at.X, at.Right()+arrange.Gap
	for _, sym := range u.s.Symbols {
		b := sym.Turned(u.down)
		switch {
		case sym == u.step || sym.Kind.StandsAnywhere():
		case b.Centre().X > at.X:
			rest = min(rest, b.X)
		case b.Right() > at.X:
			begin = max(begin, b.Right()+arrange.Gap)
		}
	}
	by := geometry.Point{X: begin - all.X, Y: at.Centre().Y - all.Centre().Y}
	if page := u.s.Area().Turned(u.down); len(u.s.Pools) == 0 && all.Y+by.Y < page.Y {
		by.Y = page.Y + arrange.Grid - all.Y
	}
	u.by = by.Turned(u.down)
	more := begin + all.W + arrange.Gap - rest
	if more <= 0 {
		return nil
	}
	return []edit.Edit{&edit.OpenSpace{Sheet: u.s.ID, Down: u.down, At: at.X, By: more}}
}

// place returns the edits that set down what comes, and take the step away.
func (u *unfolding) place() []edit.Edit {
	s := u.w.Map.Sheet(u.s.ID)
	add := &edit.AddItems{Sheet: s.ID}
	for _, sym := range u.o.Symbols {
		if !u.dropped[sym.ID] {
			copied := *sym
			copied.Box = sym.Moved(intoLane(u.o, s, sym, u.by.Turned(u.down), u.down).Turned(u.down))
			add.Symbols = append(add.Symbols, copied)
		}
	}
	for _, c := range u.o.Connectors {
		if c.From.Symbol != "" && c.From.Symbol == u.start {
			continue
		}
		copied := *c
		move(&copied, u.by)
		if _, to := u.o.Leads(c); c.To.Connector != "" || u.dropped[to] {
			if copied.To = (model.End{Symbol: to}); u.ends[to] != nil {
				if copied.To = u.ends[to].Connector.To; copied.To.Symbol == u.step.ID {
					copied.To = model.End{Symbol: u.target}
				}
			}
			copied.Bends = nil
		}
		add.Connectors = append(add.Connectors, copied)
	}
	edits := []edit.Edit{add}
	for _, c := range s.Connectors {
		if from, _ := s.Leads(c); c.To.Symbol == u.step.ID && from != u.step.ID {
			edits = append(edits, &edit.SetEnds{Sheet: s.ID, ID: c.ID, To: &model.End{Symbol: u.target}})
		}
	}
	return append(edits, &edit.RemoveItems{Sheet: s.ID, IDs: []string{u.step.ID}})
}
