package compose

import (
	"cmp"
	"fmt"
	"slices"
	"strings"

	"plaintracer/core/arrange"
	"plaintracer/core/edit"
	"plaintracer/core/flow"
	"plaintracer/core/geometry"
	"plaintracer/core/model"
	"plaintracer/core/numbering"
	"plaintracer/core/register"
	"plaintracer/core/symbols"
)

// Cell returns the edit that writes a text into a cell of the register, in the row of a symbol of the sheet; nil where
// that stands there already. It is the edit that the same change on the drawing makes. Names says what the names in
// Next mean that no step has.
func (w *Work) Cell(sym *model.Symbol, column, text string, names Meanings) (edit.Edit, error) {
	text = strings.TrimSpace(strings.ReplaceAll(text, "\r\n", "\n"))
	one := []*model.Symbol{sym}
	switch column {
	case register.Number:
		text = model.Flat(text)
		if text == sym.Pinned || sym.Pinned == "" && text == numbering.Labels(flow.New(w.Map))[sym.ID] {
			return nil, nil
		}
		return &edit.SetNumber{Sheet: w.Sheet.ID, IDs: []string{sym.ID}, Pinned: &text}, model.CheckNumber(text)
	case register.Text:
		edit, _ := w.Write(sym, text)
		return edit, nil
	case register.Kind:
		for _, k := range model.Kinds {
			if strings.EqualFold(symbols.Of(k).Name, model.Flat(text)) || string(k) == text {
				return w.ChangeKind(one, k), nil
			}
		}
		return nil, fmt.Errorf("there is no kind of step called “%.60s”", text)
	case register.Who:
		return w.SetOwner(one, text)
	case register.Stage:
		return w.intoStage(sym, model.Flat(text))
	case register.Next:
		return w.Next(sym, text, names)
	case register.From, register.Papers:
		return nil, fmt.Errorf("this follows from the connectors; change it on the drawing, or in Next")
	}
	f := w.Map.Field(column)
	if f == nil {
		return nil, fmt.Errorf("this column is not there any more")
	}
	edit := &edit.SetValue{Sheet: w.Sheet.ID, ID: sym.ID, Field: column, Text: text}
	if text == w.Map.Show(f, sym) {
		return nil, nil
	}
	return edit, nil
}

// ChangeKind returns the edit that gives symbols another kind; nil where they have it already.
func (w *Work) ChangeKind(list []*model.Symbol, kind model.Kind) edit.Edit {
	var edits []edit.Edit
	for _, sym := range list {
		if sym.Kind == kind {
			continue
		}
		after := *sym
		edits = append(edits, &edit.SetKind{Sheet: w.Sheet.ID, ID: sym.ID, Kind: kind})
		if kind.Asks() {
			edits = append(edits, w.Answered(sym.ID)...)
		}
		// it had its standard size, and gets the other's
		if old := symbols.Of(sym.Kind); sym.W == old.W && sym.H == old.H {
			after.Box = arrange.Standard(w.Sheet, kind, sym.Centre())
		}
		after.Kind = kind
		places := []edit.Place{{ID: sym.ID, Box: after.Box}}
		if fit := arrange.Fit(w.Map, w.Sheet, &after); len(fit) > 0 {
			places = fit
		}
		if len(places) > 1 || places[0].Box != sym.Box {
			edits = append(edits, &edit.PlaceItems{Sheet: w.Sheet.ID, Boxes: places})
		}
	}
	if len(edits) == 0 {
		return nil
	}
	return edit.Together("change the kind", edits...)
}

// intoStage returns the edit that moves a step into a stage of its pool, to the first free place in it; nil where it
// stands there already.
func (w *Work) intoStage(sym *model.Symbol, name string) (edit.Edit, error) {
	s := w.Sheet
	pool, lane := s.LaneAt(sym.Centre())
	if pool == nil || len(pool.Stages) == 0 {
		if name == "" {
			return nil, nil
		}
		return nil, fmt.Errorf("this step stands in no lanes with stages")
	}
	at := slices.IndexFunc(pool.Stages,
		func(st model.Stage) bool { return strings.EqualFold(model.Flat(st.Name), name) })
	if at < 0 {
		return nil, fmt.Errorf("there is no stage called “%.60s”", name)
	}
	if now := s.StageOf(sym); now == &pool.Stages[at] {
		return nil, nil
	}
	stage, own := pool.Own(pool.StageBox(at)), pool.Own(sym.Box)
	from, to := max(stage.X, pool.Own(pool.Inner(lane)).X)+model.LanePad, stage.Right()-model.LanePad-own.W
	free := func(b geometry.Box) bool {
		return !slices.ContainsFunc(s.Symbols, func(o *model.Symbol) bool {
			return o.ID != sym.ID && !o.Kind.StandsAnywhere() && o.Meets(b.Grown(arrange.Grid))
		})
	}
	for x := from; ; x += arrange.Grid {
		if b := pool.Own(own.At(geometry.Point{X: x, Y: own.Y})); free(b) || x+arrange.Grid > to {
			if x+arrange.Grid > to && !free(b) { // no place is free: it lies at the beginning, where a finding names it
				b = pool.Own(own.At(geometry.Point{X: from, Y: own.Y}))
			}
			return &edit.PlaceItems{Sheet: s.ID, Boxes: []edit.Place{{ID: sym.ID, Box: b}}}, nil
		}
	}
}

// way is where a step leads on by an answer.
type way struct {
	answer string
	to     *model.Symbol
	// called is the text of a step that is to be made.
	called string
}

// Meanings say what names in a cell mean that no step has: a step by its number or text, or, where that is empty, a new
// one.
type Meanings map[string]string

// Unknown is the error of a cell that names a step there is none of: it may be a new one, or a slip.
type Unknown struct {
	// Name is what was written, Near are the steps of the sheet whose texts are like it, the likest first.
	Name string
	Near []Candidate
}

// Candidate is a step that may have been meant.
type Candidate struct {
	// Name is what means it in a cell: its number, or else its text.
	Name string `json:"name"`
	Text string `json:"text"`
}

func (u *Unknown) Error() string { return fmt.Sprintf("there is no step called “%.60s”", u.Name) }

// Next returns the edit that leads a step on as a cell says: “5”, “Yes > 5; No > 9”, by numbers or texts. What led
// elsewhere is led there, new ways are added and others taken away. What a name means that no step has is in names;
// otherwise the error is an *Unknown.
func (w *Work) Next(sym *model.Symbol, text string, names Meanings) (edit.Edit, error) {
	ways, err := w.ways(sym, text, names)
	if err != nil {
		return nil, err
	}
	had, left := w.matched(sym, ways)
	if turns := w.leadOn(sym, ways, had, left); len(turns) > 0 {
		return w.InTurn("lead the step on", turns...)
	}
	return nil, nil
}

// ways reads where a text says that a step goes on.
func (w *Work) ways(sym *model.Symbol, text string, names Meanings) ([]way, error) {
	var ways []way
	for _, part := range strings.FieldsFunc(text, func(r rune) bool { return r == ';' || r == '\n' }) {
		if part = model.Flat(part); part == "" {
			continue
		}
		var y way
		if answer, to, ok := strings.Cut(part, ">"); ok {
			y.answer, part = model.Flat(answer), model.Flat(to)
		}
		meant, answered := names[part]
		if meant != "" {
			part = meant
		}
		to, err := w.named(part)
		if err != nil {
			return nil, err
		}
		if y.to = to; to == nil {
			if y.called = part; !answered || meant != "" {
				return nil, &Unknown{part, w.near(part, sym)}
			}
		}
		if to == sym {
			return nil, fmt.Errorf("a step does not lead to itself")
		}
		if slices.ContainsFunc(ways, func(o way) bool { return o.to != nil && o.to == y.to && o.answer == y.answer }) {
			return nil, fmt.Errorf("“%.60s” stands there twice", part)
		}
		ways = append(ways, y)
	}
	if len(ways) > 20 {
		return nil, fmt.Errorf("a step leads on by at most 20 ways")
	}
	return ways, nil
}

// matched finds for each way the connector that is there for it, or is best turned into it; nil where there is none.
// Left are those that no way needs.
func (w *Work) matched(sym *model.Symbol, ways []way) (had []*model.Connector, left []flow.Link) {
	s := w.Sheet
	for _, l := range flow.Links(s) {
		if l.From == sym &&
			(l.To == nil || !l.To.Kind.IsAside() && !(l.To.Kind.IsInformation() && leadsNowhere(s, l.To))) {
			left = append(left, l)
		}
	}
	take := func(fits func(l flow.Link) bool) *model.Connector {
		if i := slices.IndexFunc(left, fits); i >= 0 {
			c := left[i].Connector
			left = slices.Delete(left, i, i+1)
			return c
		}
		return nil
	}
	had = make([]*model.Connector, len(ways))
	for _, fits := range []func(y way, l flow.Link) bool{
		func(y way, l flow.Link) bool {
			return y.to != nil && l.To == y.to && model.Flat(l.Connector.Text) == y.answer
		},
		func(y way, l flow.Link) bool { return y.to != nil && l.To == y.to },
		func(y way, l flow.Link) bool { return y.answer != "" && model.Flat(l.Connector.Text) == y.answer },
		func(way, flow.Link) bool { return true },
	} {
		for i, y := range ways {
			if had[i] == nil {
				had[i] = take(func(l flow.Link) bool { return fits(y, l) })
			}
		}
	}
	return had, left
}

// leadOn are the edits, each made after the one before, that have a step go on by its ways.
func (w *Work) leadOn(sym *model.Symbol, ways []way, had []*model.Connector,
	left []flow.Link) (turns []func() []edit.Edit) {
	s := w.Sheet
	add := func(edits ...edit.Edit) { turns = append(turns, func() []edit.Edit { return edits }) }
	if len(left) > 0 {
		remove := &edit.RemoveItems{Sheet: s.ID}
		for _, l := range left {
			remove.IDs = append(remove.IDs, l.Connector.ID)
		}
		add(remove)
	}
	for i, y := range ways {
		c := had[i]
		target := ""
		if y.to != nil {
			target = y.to.ID
		} else {
			target = w.NewID()
			kind := KindOf(model.Process, y.called)
			turns = append(turns, func() []edit.Edit {
				from := w.Map.Sheet(s.ID).Symbol(sym.ID)
				box, room := arrange.Append(w.Map, w.Map.Sheet(s.ID), from, kind)
				step := model.Symbol{ID: target, Kind: kind, Text: y.called, Owner: from.Owner, Box: box}
				return append(room, &edit.AddItems{Sheet: s.ID, Symbols: []model.Symbol{step}})
			}, func() []edit.Edit {
				edits, _ := w.Grow(arrange.Fit(w.Map, w.Map.Sheet(s.ID), w.Map.Sheet(s.ID).Symbol(target)))
				return edits
			})
		}
		switch {
		case c == nil:
			answer := y.answer
			turns = append(turns, func() []edit.Edit {
				if answer == "" {
					answer = w.NextAnswer(sym.ID)
				}
				return []edit.Edit{&edit.AddItems{Sheet: s.ID,
					Connectors: []model.Connector{{ID: w.NewID(), From: model.End{Symbol: sym.ID},
						To: model.End{Symbol: target}, Text: answer}}}}
			})
			continue
		case y.to == nil || leadsTo(s, c) != y.to:
			add(&edit.SetEnds{Sheet: s.ID, ID: c.ID, To: &model.End{Symbol: target}})
		}
		if model.Flat(c.Text) != y.answer && (y.answer != "" || !sym.Kind.Asks()) {
			add(&edit.SetText{Sheet: s.ID, ID: c.ID, Text: y.answer})
		}
	}
	return turns
}

func leadsNowhere(s *model.Sheet, sym *model.Symbol) bool {
	return !slices.ContainsFunc(s.Connectors, func(c *model.Connector) bool { return c.From.Symbol == sym.ID })
}

// leadsTo returns the symbol to which a connector leads, over those it joins.
func leadsTo(s *model.Sheet, c *model.Connector) *model.Symbol {
	for _, l := range flow.Links(s) {
		if l.Connector == c {
			return l.To
		}
	}
	return nil
}

// numbers returns the numbers by which cells name steps.
func (w *Work) numbers() map[string]string {
	if w.Numbers != nil {
		return w.Numbers
	}
	return numbering.Labels(flow.New(w.Map))
}

// named returns the symbol of the sheet that a cell means: the one with that number, or the only one with that text.
// Where there is none it is nil.
func (w *Work) named(name string) (*model.Symbol, error) {
	labels := w.numbers()
	var texts []*model.Symbol
	elsewhere := ""
	for _, s := range w.Map.Sheets {
		for _, sym := range s.Symbols {
			label := strings.EqualFold(labels[sym.ID], name)
			switch text := strings.EqualFold(model.Flat(sym.Text), name); {
			case !label && !text || sym.Kind.IsAside():
			case s != w.Sheet:
				elsewhere = s.Name
			case label:
				return sym, nil
			default:
				texts = append(texts, sym)
			}
		}
	}
	switch {
	case len(texts) == 1:
		return texts[0], nil
	case len(texts) > 1:
		return nil, fmt.Errorf("%d symbols are called “%.60s”; say which one by its number", len(texts), name)
	case elsewhere != "":
		return nil, fmt.Errorf("“%.60s” stands on the sheet “%.60s”; a pair of references leads there", name, elsewhere)
	case strings.Trim(name, "0123456789") == "":
		return nil, fmt.Errorf("there is no step %s", name)
	}
	return nil, nil
}

// mostNear is how many steps that may have been meant are named; a text in another one is like it from few letters on.
const mostNear, few = 3, 4

// near returns the steps of the sheet whose texts are like a name: that begin with it or it with them, or that differ
// by a few letters (Levenshtein, Binary codes capable of correcting deletions, insertions and reversals, 1966).
func (w *Work) near(name string, but *model.Symbol) []Candidate {
	labels := w.numbers()
	type found struct {
		Candidate
		apart int
	}
	var list []found
	low := strings.ToLower(name)
	for _, sym := range w.Sheet.Symbols {
		text := model.Flat(sym.Text)
		if text == "" || sym == but || sym.Kind.IsAside() {
			continue
		}
		other := strings.ToLower(text)
		apart := distance([]rune(low), []rune(other))
		if len(low) >= few && strings.Contains(other, low) || len(other) >= few && strings.Contains(low, other) {
			apart = 0
		}
		if apart > max(2, len([]rune(low))/3) {
			continue
		}
		c := Candidate{labels[sym.ID], text}
		if c.Name == "" {
			c.Name = text
		}
		list = append(list, found{c, apart})
	}
	slices.SortStableFunc(list, func(a, b found) int { return cmp.Compare(a.apart, b.apart) })
	var out []Candidate
	for _, f := range list[:min(len(list), mostNear)] {
		out = append(out, f.Candidate)
	}
	return out
}

// distance is how many letters have to be put in, taken out or changed to make one text of another.
func distance(a, b []rune) int {
	row := make([]int, len(b)+1)
	for k := range row {
		row[k] = k
	}
	for i := range a {
		diagonal := row[0]
		row[0] = i + 1
		for k := range b {
			change := diagonal
			if a[i] != b[k] {
				change++
			}
			diagonal = row[k+1]
			row[k+1] = min(change, row[k]+1, row[k+1]+1)
		}
	}
	return row[len(b)]
}

// Reorder returns the edit that puts a step right after another one of the same straight stretch of flow, or right
// before it. The places along the flow and the connectors stay; the steps take them in their new order, each in its
// lane.
func (w *Work) Reorder(sym, beside *model.Symbol, before bool) (edit.Edit, error) {
	if sym == beside {
		return nil, nil
	}
	s, g := w.Sheet, flow.New(w.Map)
	chain := straight(g, sym)
	to := slices.Index(chain, beside)
	if to < 0 {
		return nil,
			fmt.Errorf("steps change places only along a straight stretch of flow, not across a branch, a merge or an end")
	}
	order := slices.DeleteFunc(slices.Clone(chain), func(o *model.Symbol) bool { return o == sym })
	if to = slices.Index(order, beside); !before {
		to++
	}
	order = slices.Insert(order, to, sym)
	if slices.Equal(order, chain) {
		return nil, nil
	}
	place := &edit.PlaceItems{Sheet: s.ID, As: "reorder"}
	at := map[string]string{} // whose place a step takes
	turned := w.Map.Direction == model.Downwards
	for i, now := range order {
		at[chain[i].ID] = now.ID
		slot, b := chain[i].Centre().Turned(turned), now.Box.Turned(turned)
		b.X = slot.X - b.W/2
		if s.LaneOf(now) == nil || s.LaneOf(now) == s.LaneOf(chain[i]) { // it may go to the row of the other, too
			b.Y = slot.Y - b.H/2
		}
		if b = b.Turned(turned); b != now.Box {
			place.Boxes = append(place.Boxes, edit.Place{ID: now.ID, Box: b})
		}
	}
	edits := []edit.Edit{}
	if len(place.Boxes) > 0 {
		edits = append(edits, place)
	}
	for _, l := range flow.Links(s) {
		c := l.Connector
		if l.From != nil && (l.From.Kind.IsAside() || besideFlow(g.Node(l.From.ID))) ||
			l.To != nil && (l.To.Kind.IsAside() || besideFlow(g.Node(l.To.ID))) {
			continue // what explains a step, or is used or made in it, goes with the step
		}
		from, to := c.From, c.To
		if now, ok := at[from.Symbol]; ok {
			from.Symbol = now
		}
		if now, ok := at[to.Symbol]; ok {
			to.Symbol = now
		}
		if from != c.From || to != c.To {
			edits = append(edits, &edit.SetEnds{Sheet: s.ID, ID: c.ID, From: &from, To: &to})
		}
	}
	return edit.Together("reorder the steps", edits...), nil
}

// besideFlow reports whether a document or data is only used by a step or made in one, and the flow does not go over
// it.
func besideFlow(n *flow.Node) bool {
	return n != nil && n.Symbol.Kind.IsInformation() && (len(n.Entries) == 0 || len(n.Exits) == 0)
}

// straight returns the stretch of flow through a step on which each leads to the next one only, and nothing else leads
// to that. Its ends are steps, too; what branches is on none.
func straight(g *flow.Graph, sym *model.Symbol) []*model.Symbol {
	exits := func(n *flow.Node) []*flow.Exit {
		return slices.DeleteFunc(slices.Clone(n.Exits), func(e *flow.Exit) bool { return besideFlow(e.To) })
	}
	entries := func(n *flow.Node) []*flow.Exit {
		return slices.DeleteFunc(slices.Clone(n.Entries), func(e *flow.Exit) bool { return besideFlow(e.From) })
	}
	fits := func(n *flow.Node) bool {
		return n != nil && len(exits(n)) <= 1 && len(n.Loose) == 0 && !n.Symbol.Kind.IsEnd() &&
			!n.Symbol.Kind.IsReference()
	}
	on := func(n *flow.Node) *flow.Node { // the next one, if it is on the stretch
		ways := exits(n)
		if len(ways) != 1 {
			return nil
		}
		if to := ways[0].To; len(entries(to)) == 1 && ways[0].Connector != nil && to.Sheet == n.Sheet && fits(to) {
			return to
		}
		return nil
	}
	n := g.Node(sym.ID)
	if !fits(n) {
		return []*model.Symbol{sym}
	}
	for first := n; len(entries(n)) == 1; {
		back := entries(n)[0].From
		if !fits(back) || on(back) != n || back == first {
			break
		}
		n = back
	}
	var list []*model.Symbol
	for seen := map[*flow.Node]bool{}; n != nil && !seen[n]; n = on(n) {
		seen[n] = true
		list = append(list, n.Symbol)
	}
	return list
}

// CellText is what is to stand in a cell of the register.
type CellText struct {
	ID     string   `json:"id"`
	Column string   `json:"column"`
	Text   string   `json:"text"`
	Names  Meanings `json:"names,omitempty"`
}

// Cells returns one edit that writes several cells, each on what those before have made, on whatever sheets they are;
// nil where nothing changes. Wrong says of cells, by their place in the list, why they were left as they are.
func (w *Work) Cells(list []CellText, as string) (e edit.Edit, wrong map[int]error) {
	wrong = map[int]error{}
	t := &turns{m: w.Map}
	defer t.takeBack()
	now := w.asNumbered()
	for i, c := range list {
		if err := now.writeCell(t, c); err != nil {
			wrong[i] = err
		}
	}
	if len(t.edits) == 0 {
		return nil, wrong
	}
	return edit.Together(as, t.edits...), wrong // one alone is the very edit that the drawing makes
}

// asNumbered returns the same work, in which numbers go on meaning the steps that have them now,
// whatever steps are put in before.
func (w *Work) asNumbered() *Work {
	now := *w
	now.Numbers = w.numbers()
	return &now
}

// writeCell writes a cell on what has been tried so far, on whatever sheet its step stands. A text that stands there
// already makes no edit.
func (w *Work) writeCell(t *turns, c CellText) error {
	s := w.Map.SheetOf(c.ID)
	if s == nil || s.Symbol(c.ID) == nil {
		return fmt.Errorf("this step is not there any more")
	}
	on := &Work{Map: w.Map, Sheet: s, NewID: w.NewID, Numbers: w.Numbers}
	edit, err := on.Cell(s.Symbol(c.ID), c.Column, c.Text, c.Names)
	if err != nil || edit == nil {
		return err
	}
	return t.try(edit)
}
