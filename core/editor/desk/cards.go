package desk

import (
	"fmt"
	"slices"
	"strings"

	"plaintracer/core/arrange"
	"plaintracer/core/compose"
	"plaintracer/core/edit"
	"plaintracer/core/geometry"
	"plaintracer/core/hierarchy"
	"plaintracer/core/model"
)

// Charted reports whether the sheet that is shown is a hierarchy.
func (e *Window) Charted() bool { return e.Sheet().Kind == model.HierarchySheet }

// OneCard returns the card that alone is selected; nil for none.
func (e *Window) OneCard() *model.Symbol {
	if sym := e.One(); sym != nil && e.Sheet().IsCard(sym) {
		return sym
	}
	return nil
}

// ChosenCards returns the cards that are selected.
func (e *Window) ChosenCards() []*model.Symbol {
	return slices.DeleteFunc(slices.Clone(e.Chosen()), func(sym *model.Symbol) bool { return !e.Sheet().IsCard(sym) })
}

// Relation is where a new card stands, seen from one that is there.
type Relation string

// The relations. Above is between the card and its superior.
const (
	Beside Relation = "beside"
	Below  Relation = "below"
	Above  Relation = "above"
)

// Add sets down a new card by the selected one, or the first of the sheet, and opens it for writing. Beside a card at
// the head nobody stands as a rule: there the new one comes below.
func (e *Cards) Add(where Relation) { e.add(where, "") }

// AddKind is Add below the selected card with a kind of card.
func (e *Cards) AddKind(kind model.Kind) { e.add(Below, kind) }

func (e *Cards) add(where Relation, kind model.Kind) {
	s, from := e.Sheet(), e.OneCard()
	tree := s.Tree()
	if from == nil && len(tree.Order()) > 0 {
		e.Say("Select the card by which the new one comes.")
		return
	}
	if kind == "" {
		if kind = model.PersonCard; from != nil {
			kind = from.Kind
		}
	}
	w, h := arrange.Size(s, kind)
	sym := e.NewSymbol(kind, geometry.Box{W: w, H: h})
	add := &edit.AddItems{Sheet: s.ID, Symbols: []model.Symbol{sym}}
	hang := &edit.HangCards{Sheet: s.ID, IDs: []string{sym.ID}}
	edits := []edit.Edit{add, hang}
	switch {
	case from == nil:
	case where == Above:
		hang.Under, hang.Before = from.Under, from.ID
		edits = append(edits, &edit.HangCards{Sheet: s.ID, IDs: []string{from.ID}, Under: sym.ID})
	case where == Below || tree.Superior(from.ID) == nil:
		hang.Under = from.ID
		if from.Folded {
			edits = append(edits, &edit.SetCards{Sheet: s.ID, IDs: []string{from.ID}, Folded: new(bool)})
		}
	default:
		hang.Under, hang.Before = from.Under, after(tree.Below(from.Under), from.ID)
	}
	if e.Do(edit.Together("add a card", edits...)) {
		e.Sel, e.Lane, e.Centre = []string{sym.ID}, "", sym.ID
		e.Writing.WriteNew(sym.ID)
	}
}

// Place sets a new card of a kind down at p: under the card that lies there or beside it, or else at the head.
func (e *Cards) Place(kind model.Kind, p geometry.Point) {
	s := e.Sheet()
	at, ok := e.Land(e.Spots(nil), p)
	if heads := s.Tree().Below(""); !ok && len(heads) > 0 {
		e.Say("Set the card down on another one, to stand under it, or at its edge, to stand beside it.")
		return
	}
	if !e.Stick {
		e.Hand = ""
	}
	w, h := arrange.Size(s, kind)
	sym := e.NewSymbol(kind, geometry.Box{W: w, H: h})
	if e.Do(edit.Together("add a card", &edit.AddItems{Sheet: s.ID, Symbols: []model.Symbol{sym}},
		&edit.HangCards{Sheet: s.ID, IDs: []string{sym.ID}, Under: at.Under, Before: at.Before})) {
		e.Sel, e.Lane = []string{sym.ID}, ""
		e.Writing.WriteNew(sym.ID)
	}
}

// Paste sets the people of a list under the selected card, each line a card, its indentation the level.
func (e *Cards) Paste(text string) {
	file, _ := compose.ListTable(text)
	under := ""
	if card := e.OneCard(); card != nil {
		under = card.ID
	}
	change, err := e.Work().UnderCard(file, under)
	if err != nil {
		e.Refuse(err)
		return
	}
	e.Do(change)
}

// after returns the id of the card behind another one in a list; empty behind the last.
func after(list []*model.Symbol, id string) string {
	if i := model.Index(list, id); i >= 0 && i+1 < len(list) {
		return list[i+1].ID
	}
	return ""
}

// GoOn is what a key does that ends writing on a card: Enter adds one beside it, Tab one below, Shift and Tab goes to
// its superior. It reports whether the key is one of these. Where nothing was written, the key only ends it.
func (e *Cards) GoOn(key string, mods int) bool {
	card := e.OneCard()
	if card == nil || mods&(Ctrl|Alt) != 0 {
		return false
	}
	switch {
	case key == "Tab" && mods&Shift != 0:
		e.Up()
	case mods&Shift != 0 || key != "Enter" && key != "Tab":
		return false
	case card.Text == "":
	case key == "Tab":
		e.Add(Below)
	default:
		e.Add(Beside)
	}
	return true
}

// Key is what a key does with the selected card while nothing is written; it reports whether it is one of cards.
func (e *Cards) Key(key string, mods int) bool {
	card := e.OneCard()
	switch {
	case mods&Ctrl != 0:
		return false
	case card == nil:
		if key == "Enter" && mods == 0 && e.Hand == "" && len(e.Sel) == 0 && len(e.Sheet().Tree().Order()) == 0 {
			e.Add(Below)
			return true
		}
		return false
	case key == "Tab" && mods == 0:
		e.Add(Below)
	case key == "Tab" && mods == Shift:
		e.Up()
	case key == "Enter" && mods == 0:
		e.Add(Beside)
	case key == "Enter" && mods == Shift:
		e.Writing.StartWriting(card.ID, false)
	case strings.HasPrefix(key, "Arrow") && mods == 0:
		e.step(card, Arrows[key])
	case strings.HasPrefix(key, "Arrow") && mods == Alt:
		e.shift(card, Arrows[key])
	default:
		return false
	}
	return true
}

// Up goes to the superior of the selected card.
func (e *Cards) Up() {
	card := e.OneCard()
	if card == nil {
		e.Say("Select a card first.")
		return
	}
	if up := e.Sheet().Tree().Superior(card.ID); up != nil {
		e.Selecting.goTo(up.ID)
		return
	}
	e.Say("Nobody stands above this card.")
}

// step goes to the next card in a direction: its superior, one of those under it or beside it, or else the nearest.
func (e *Cards) step(card *model.Symbol, to geometry.Side) {
	tree := e.Sheet().Tree()
	kin := map[string]bool{card.Under: true}
	for _, list := range [][]*model.Symbol{tree.Below(card.ID), tree.Below(card.Under)} {
		for _, c := range list {
			kin[c.ID] = true
		}
	}
	best, least := "", 0
	for _, c := range tree.Order() {
		d := c.Centre().Sub(card.Centre())
		ahead, aside := d.X*to.Step().X+d.Y*to.Step().Y, geometry.Abs(d.X*to.Step().Y)+geometry.Abs(d.Y*to.Step().X)
		if c == card || tree.Hides(c.ID) || ahead <= 0 || aside > 4*ahead {
			continue
		}
		far := ahead + 2*aside
		if !kin[c.ID] {
			far *= 4
		}
		if best == "" || far < least {
			best, least = c.ID, far
		}
	}
	if best == "" {
		e.Say("There is no card further that way.")
		return
	}
	e.Selecting.goTo(best)
}

// shift moves the selected card by one place among those beside it.
func (e *Cards) shift(card *model.Symbol, to geometry.Side) {
	list := e.Sheet().Tree().Below(card.Under)
	i := model.Index(list, card.ID)
	by := 1
	if to == geometry.Left || to == geometry.Top {
		by = -1
	}
	if i+by < 0 || i+by >= len(list) {
		e.Say("It stands at the end already.")
		return
	}
	before := list[i+by].ID
	if by > 0 {
		before = after(list, before)
	}
	if e.Do(&edit.HangCards{Sheet: e.SheetID, IDs: []string{card.ID}, Under: card.Under, Before: before}) {
		e.Centre = card.ID
	}
}

// What deleting a card asks, and the answers.
const (
	askDelete = "card-delete"
	goUp      = "They go up"
	goWithIt  = "They go with it"
)

// Delete takes the selected cards away. Those under them come up to the next superior; they can be deleted, too, which
// is asked where there are any.
func (e *Cards) Delete() {
	tree := e.Sheet().Tree()
	gone := map[string]bool{}
	for _, id := range e.Sel {
		gone[id] = true
	}
	left, next := 0, ""
	for _, card := range e.ChosenCards() {
		for _, sub := range tree.Branch(card.ID) {
			if !gone[sub.ID] {
				left++
			}
		}
		if next == "" {
			next = card.Under
		}
	}
	// Asked for once more, what is proposed is meant.
	if left > 0 && e.Ask != nil && e.Ask.Command == askDelete {
		e.DeleteAs(e.Ask.ID + ":" + e.Ask.Chosen)
		return
	}
	if left > 0 {
		card := e.ChosenCards()[0]
		e.Ask = &ask{ID: card.ID, X: card.X, Y: card.Bottom(), Name: "What becomes of those under it",
			Command: askDelete, Options: []string{goUp, goWithIt}, Chosen: goUp}
		e.Say("%s under it: do they go up, or with it? Delete once more lets them go up.",
			counted(left, "card is", "cards are"))
		return
	}
	e.remove(slices.Clone(e.Sel), next)
}

// DeleteAs is Delete with the answer to what it asked.
func (e *Cards) DeleteAs(answer string) {
	id, what, _ := strings.Cut(answer, ":")
	tree := e.Sheet().Tree()
	card := tree.Card(id)
	if card == nil {
		return
	}
	ids := slices.Clone(e.Sel)
	if !slices.Contains(ids, id) {
		ids = []string{id}
	}
	if what == goWithIt {
		for _, card := range e.ChosenCards() {
			for _, sub := range tree.Branch(card.ID) {
				if !slices.Contains(ids, sub.ID) {
					ids = append(ids, sub.ID)
				}
			}
		}
	}
	e.remove(ids, card.Under)
}

func (e *Cards) remove(ids []string, next string) {
	if e.Do(&edit.RemoveItems{Sheet: e.SheetID, IDs: ids}) && e.Sheet().Symbol(next) != nil {
		e.Sel = []string{next}
	}
}

func counted(n int, one, many string) string {
	if n == 1 {
		return "1 " + one
	}
	return fmt.Sprintf("%d %s", n, many)
}

// Fold hides what is under the selected cards, or shows it again.
func (e *Cards) Fold() {
	tree := e.Sheet().Tree()
	var ids []string
	fold := false
	for _, c := range e.ChosenCards() {
		if len(tree.Below(c.ID)) > 0 {
			ids = append(ids, c.ID)
			fold = fold || !c.Folded
		}
	}
	if len(ids) == 0 {
		e.Say("Nobody stands under this card.")
		return
	}
	words := map[bool]string{true: "fold the branch", false: "unfold the branch"}[fold]
	e.Do(&edit.SetCards{Sheet: e.SheetID, IDs: ids, Folded: &fold, As: words})
}

// UnfoldAll shows all that is folded on the sheet.
func (e *Cards) UnfoldAll() {
	var ids []string
	for _, c := range e.Sheet().Tree().Order() {
		if c.Folded {
			ids = append(ids, c.ID)
		}
	}
	if len(ids) == 0 {
		e.Say("Nothing is folded on this sheet.")
		return
	}
	e.Do(&edit.SetCards{Sheet: e.SheetID, IDs: ids, Folded: new(bool), As: "unfold all"})
}

// Set changes what the selected cards say of their place: "assistant", "post=vacant" or another state of a post.
func (e *Cards) Set(arg string) {
	set := &edit.SetCards{Sheet: e.SheetID, IDs: model.IDsOf(e.ChosenCards())}
	name, value, _ := strings.Cut(arg, "=")
	switch name {
	case "assistant":
		on := slices.ContainsFunc(e.ChosenCards(), func(c *model.Symbol) bool { return !c.Assistant })
		set.Assistant, set.As = &on, map[bool]string{true: "make it an assistant", false: "make it no assistant"}[on]
	case "post":
		post := model.Post(value)
		if !slices.ContainsFunc(e.ChosenCards(), func(c *model.Symbol) bool { return c.Post != post }) {
			post = model.Filled
		}
		set.Post = &post
	case "via":
		value = strings.Join(strings.Fields(value), " ")
		set.Via, set.As = &value, "write on the line"
	}
	e.Do(set)
}

// Stand sets how the cards below the selected ones stand; with nothing selected, all of the sheet. The argument is an
// arrangement, "last=" before one for the last level, or empty to stand as those above.
func (e *Cards) Stand(arg string) {
	last, isLast := strings.CutPrefix(arg, "last=")
	a := hierarchy.Arrangement(arg)
	if isLast {
		a = hierarchy.Arrangement(last)
	}
	ids := model.IDsOf(e.ChosenCards())
	if len(ids) == 0 {
		set := &edit.SetChart{Sheet: e.SheetID, Below: &a}
		if isLast {
			set = &edit.SetChart{Sheet: e.SheetID, Last: &a}
		}
		e.Do(set)
		return
	}
	set := &edit.SetCards{Sheet: e.SheetID, IDs: ids, Below: &a, As: "arrange the branch"}
	if isLast {
		set.Below, set.Last = nil, &a
	}
	e.Do(set)
}

// Chart switches something of the chart on or off: "aligned", "square", "counted", "byLevel" or "numbered".
func (e *Cards) Chart(name string) {
	c := e.Sheet().Chart
	set := &edit.SetChart{Sheet: e.SheetID}
	for _, part := range []struct {
		name string
		now  bool
		to   **bool
	}{{"aligned", c.Aligned, &set.Aligned}, {"square", c.Square, &set.Square}, {"counted", c.Counted, &set.Counted},
		{"byLevel", c.ByLevel, &set.ByLevel}, {"numbered", c.Numbered, &set.Numbered}} {
		if part.name == name {
			on := !part.now
			*part.to = &on
		}
	}
	e.Do(set)
}

// Levels names the levels, one a line from the head down, and lets the cards of each begin on one line.
func (e *Cards) Levels(text string) {
	levels := []string{}
	for _, line := range strings.Split(strings.TrimSpace(text), "\n") {
		if line = strings.Join(strings.Fields(line), " "); line != "" || len(levels) > 0 {
			levels = append(levels, line)
		}
	}
	on := len(levels) > 0
	e.Do(&edit.SetChart{Sheet: e.SheetID, Levels: &levels, Aligned: &on})
}

// SelectBranch selects the cards with all that are under them.
func (e *Cards) SelectBranch() {
	var list []*model.Symbol
	for _, c := range e.ChosenCards() {
		for _, sub := range e.Sheet().Tree().Branch(c.ID) {
			if !slices.Contains(list, sub) {
				list = append(list, sub)
			}
		}
	}
	e.Selecting.Pick(list)
}

// ShowCard says of a card in a folded branch where that is, and offers to unfold all.
func (e *Cards) ShowCard(id string) {
	tree := e.Sheet().Tree()
	if !tree.Hides(id) {
		return
	}
	for up := tree.Superior(id); up != nil; up = tree.Superior(up.ID) {
		if up.Folded && !tree.Hides(up.ID) {
			e.Say("It is in the folded branch of “%s”.", up.CardTitle())
			e.Suggest = &Offer{Command: "card-unfold", Text: "Unfold all"}
			return
		}
	}
}

// SheetOfOwn gives the branches of the selected cards sheets of their own; with level set, those of all cards on the
// level of the first.
func (e *Cards) SheetOfOwn(level bool) {
	cards := e.ChosenCards()
	if tree := e.Sheet().Tree(); level && len(cards) > 0 {
		at := tree.Level[tree.Place(cards[0].ID)]
		cards = nil
		for _, c := range tree.Order() {
			if tree.Level[tree.Place(c.ID)] == at {
				cards = append(cards, c)
			}
		}
	}
	change, err := e.Work().CardSheet(cards)
	if err != nil {
		e.Refuse(err)
		return
	}
	e.Do(change)
}

// Back brings the branch of the selected card back from its sheet.
func (e *Cards) Back() {
	card := e.OneCard()
	if card == nil {
		e.Say("Select one card first.")
		return
	}
	change, err := e.Work().CardBack(card)
	if err != nil {
		e.Refuse(err)
		return
	}
	if e.Do(change) {
		e.Sel, e.Centre = []string{card.ID}, card.ID
	}
}

// Act is a step that somebody does, for a list.
type Act struct {
	ID   string `json:"id"`
	Text string `json:"text"`
}

// Acts returns the steps of whoever is on the selected card.
func (e *Cards) Acts() []Act {
	out := []Act{}
	if card := e.OneCard(); card != nil {
		for _, step := range compose.Acts(e.M, card) {
			out = append(out, Act{step.Symbol.ID, strings.TrimSpace(step.Number + " " + model.Flat(step.Symbol.Text))})
		}
	}
	return out
}

// Landing is where cards that are dragged would come: under a card, before one of those there or behind all.
type Landing struct{ Under, Before string }

// Spots are where the cards of a chart stand at a time, those in folded branches left out: while cards are dragged, the
// chart would run away from the pointer.
type Spots struct {
	list []spot
	kin  map[string][]spot // by superior, in their order
}

type spot struct {
	id, under string
	box       geometry.Box
}

// Spots returns where the cards stand now, but for those that move.
func (e *Cards) Spots(moving map[string]bool) *Spots {
	tree := e.Sheet().Tree()
	out := &Spots{kin: map[string][]spot{}}
	for _, c := range tree.Order() {
		if moving[c.ID] || tree.Hides(c.ID) {
			continue
		}
		one := spot{c.ID, "", c.Box}
		if up := tree.Superior(c.ID); up != nil {
			one.under = up.ID
		}
		out.list, out.kin[one.under] = append(out.list, one), append(out.kin[one.under], one)
	}
	return out
}

// Land returns where cards come that are let go at p: on a card, under it; at one of its edges along which those beside
// it lie, before or behind it. Ok is false where they would stay.
func (e *Cards) Land(on *Spots, p geometry.Point) (at Landing, ok bool) {
	reach := e.Reach(8)
	i := slices.IndexFunc(on.list, func(s spot) bool { return s.box.Grown(reach).Contains(p) })
	if i < 0 {
		return at, false
	}
	card := on.list[i]
	list := on.kin[card.under]
	k := slices.Index(list, card)
	upright := false
	if other := k + 1; len(list) > 1 {
		if other == len(list) {
			other = k - 1
		}
		d := list[other].box.Centre().Sub(card.box.Centre())
		upright = geometry.Abs(d.Y) > geometry.Abs(d.X)
	}
	b := card.box
	along, size := p.X-b.X, b.W
	if upright {
		along, size = p.Y-b.Y, b.H
	}
	edge := min(size/4, 24*Px)
	switch {
	case card.under != "" && along < edge:
		return Landing{card.under, card.id}, true
	case card.under != "" && along > size-edge:
		next := ""
		if k+1 < len(list) {
			next = list[k+1].id
		}
		return Landing{card.under, next}, true
	}
	return Landing{Under: card.id}, true
}

// Hang sets cards where they were let go.
func (e *Cards) Hang(ids []string, at Landing) bool {
	if !e.Do(&edit.HangCards{Sheet: e.SheetID, IDs: ids, Under: at.Under, Before: at.Before}) {
		return false
	}
	if up := e.Sheet().Symbol(at.Under); up != nil {
		e.Say("Now under “%s”.", up.CardTitle())
	}
	return true
}
