package gesture

import (
	"plaintracer/core/edit"
	"plaintracer/core/editor/desk"
	"plaintracer/core/geometry"
	"plaintracer/core/model"
)

// hang drags cards, each with all under it, to another superior or another place.
type hang struct {
	grip
	ids    []string
	moving map[string]bool
	// boxes are those of the cards that move, at their places before.
	boxes []geometry.Box
	kinds []model.Kind
	spots *desk.Spots
	at    desk.Landing
	lands bool
	shift geometry.Point
}

// gatherCards gathers the selected cards that no other selected card stands above.
func (e *Pointer) gatherCards(at grip) *hang {
	g := &hang{grip: at, moving: map[string]bool{}}
	tree := e.Sheet().Tree()
	for _, c := range e.ChosenCards() {
		if c.Locked {
			e.Say("It is locked. Unlock it to move it.")
			return nil
		}
		g.moving[c.ID] = true
	}
	for _, c := range tree.Order() {
		if g.moving[c.Under] && tree.Card(c.Under) != nil {
			g.moving[c.ID] = true
		} else if g.moving[c.ID] {
			g.ids = append(g.ids, c.ID)
		}
		if g.moving[c.ID] && !tree.Hides(c.ID) {
			g.boxes, g.kinds = append(g.boxes, c.Box), append(g.kinds, c.Kind)
		}
	}
	g.spots = e.Cards.Spots(g.moving)
	return g
}

func (g *hang) begin() Gesture { return g }

func (g *hang) Moves(id string) bool { return g.moving[id] }

func (g *hang) follow(p geometry.Point) {
	g.shift = p.Sub(g.start)
	at, lands := g.e.Cards.Land(g.spots, p)
	if lands == g.lands && at == g.at && g.e.Doc.Showing() == lands {
		return // what is shown is right already
	}
	g.at, g.lands = at, lands
	g.e.Drop()
	if lands {
		g.e.Try(&edit.HangCards{Sheet: g.e.SheetID, IDs: g.ids, Under: at.Under, Before: at.Before})
	}
}

func (g *hang) up(p geometry.Point) {
	switch at, lands := g.e.Cards.Land(g.spots, p); {
	case !g.moved:
	case lands:
		g.e.Cards.Hang(g.ids, at)
	default:
		g.e.Say("Let a card go on another one to set it under it, or at the edge of one to set it beside it.")
	}
}

func (g *hang) draw(o *overlay) {
	if !g.moved {
		return
	}
	for i, b := range g.boxes {
		o.shape("ghost", g.kinds[i], b.Moved(g.shift))
	}
	if up := o.e.Symbol(g.at.Under); g.lands && up != nil {
		o.box("into-lane", up.Grown(o.e.Screen(4)))
	}
}

// ways draws over the lines of the chart the one from the head to a card under the pointer.
func (o *overlay) ways(id string) {
	tree := o.e.Sheet().Tree()
	for i := tree.Place(id); i >= 0; i = tree.Place(tree.Cards[i].Under) {
		if way := tree.Way(i); len(way) > 1 {
			o.line("walked", way)
		}
	}
}
