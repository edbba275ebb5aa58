package edit

import (
	"fmt"
	"slices"

	"plaintracer/core/fields"
	"plaintracer/core/model"
	"plaintracer/core/pictures"
)

// The edits of journeys. Rows and stages are changed by those of lanes and stages.

func init() {
	register("seatCells", func(m *model.Map, e *SeatCells) string {
		if e.As != "" {
			return e.As
		}
		return "move " + count(len(e.IDs), "a cell", "cells")
	})
	register("setCells", func(_ *model.Map, e *SetCells) string {
		if e.As != "" {
			return e.As
		}
		return "change " + count(len(e.IDs), "a cell", "cells")
	})
	register("setPersona", says[*SetPersona]("change whose journey it is"))
}

// SeatCells takes symbols into a cell of a journey, in their order. They become what the cells of that row hold.
type SeatCells struct {
	Sheet string   `json:"sheet"`
	IDs   []string `json:"ids"`
	Row   string   `json:"row"`
	Stage string   `json:"stage"`
	// Before is the symbol in the cell before which they come; empty for behind all.
	Before string `json:"before,omitempty"`
	As     string `json:"as,omitempty"`
}

func (e *SeatCells) change(t *transaction) error {
	s, err := t.journey(e.Sheet)
	if err != nil {
		return err
	}
	p, i := s.RowOf(e.Row)
	if p == nil {
		return model.Refuse(e.Row, "the row is not there any more")
	}
	if p.StageIndex(e.Stage) < 0 {
		return model.Refuse(e.Stage, "the stage %q is not there any more", e.Stage)
	}
	if err := t.spend(len(s.Symbols) * (1 + len(e.IDs)/16)); err != nil {
		return err
	}
	for _, id := range e.IDs {
		sym, err := t.editSymbol(s, id)
		if err != nil {
			return err
		}
		if !sym.Kind.IsMoment() && !sym.Kind.ShowsPicture() {
			return model.Refuse(id, "%s does not stand in a cell", sym.Describe())
		}
		kind, err := kindIn(p.Lanes[i], sym)
		if err != nil {
			return err
		}
		if sym.Kind = kind; sym.Row != e.Row {
			sym.Sign = ""
		}
		if kind == model.MoodCell {
			sym.Span = 0
		}
	}
	there := slices.DeleteFunc(s.InCell(e.Row, e.Stage), func(c *model.Symbol) bool {
		return slices.Contains(e.IDs, c.ID)
	})
	at := len(there)
	if e.Before != "" {
		if at = model.Index(there, e.Before); at < 0 {
			return model.Refuse(e.Before, "%q is not in the cell any more", e.Before)
		}
	}
	return t.rank(s, there, at, e.IDs, func(sym *model.Symbol) { sym.Row, sym.Stage = e.Row, e.Stage })
}

// kindIn returns what kind a symbol is in a row: pictures stay pictures, all others are as their row wants them.
func kindIn(lane model.Lane, sym *model.Symbol) (model.Kind, error) {
	kind := lane.Row.Row().Kind
	switch {
	case kind == "":
		return "", model.Refuse(sym.ID, "what stands in the row %s is computed", model.Quote(lane.Called()))
	case sym.Kind.ShowsPicture() && lane.Row == model.MoodRow:
		return "", model.Refuse(sym.ID, "a picture is no point of a curve")
	case sym.Kind.ShowsPicture():
		return sym.Kind, nil
	case kind.ShowsPicture():
		return model.MomentCell, nil
	}
	return kind, nil
}

// journey returns a sheet that shows journeys.
func (t *transaction) journey(id string) (*model.Sheet, error) {
	s, err := t.sheet(id)
	if err == nil && s.Kind != model.JourneySheet {
		err = model.Refuse(id, "the sheet %s is no journey", model.Quote(s.Name))
	}
	return s, err
}

// SetCells changes over how many stages symbols in cells reach, the height of points of a curve, or the signs of
// contact points; nil leaves a value alone.
type SetCells struct {
	Sheet string   `json:"sheet"`
	IDs   []string `json:"ids"`
	Span  *int     `json:"span,omitempty"`
	Mood  *int     `json:"mood,omitempty"`
	Sign  *string  `json:"sign,omitempty"`
	As    string   `json:"as,omitempty"`
}

func (e *SetCells) change(t *transaction) error {
	s, err := t.journey(e.Sheet)
	if err != nil {
		return err
	}
	for _, id := range e.IDs {
		sym, err := t.editSymbol(s, id)
		if err != nil {
			return err
		}
		if sym.Row == "" {
			return model.Refuse(id, "%s stands in no cell", sym.Describe())
		}
		if e.Span != nil {
			p, i := s.RowOf(sym.Row)
			k := p.StageIndex(sym.Stage)
			if p.Lanes[i].Row == model.MoodRow && *e.Span > 1 {
				return model.Refuse(id, "a point of a curve stands in one stage")
			}
			if *e.Span > len(p.Stages)-k {
				return model.Refuse(id, "there is no further stage to reach over")
			}
		}
		fields.Assign(&sym.Cell, e)
	}
	return nil
}

// SetPersona changes the words on the person whose journey it is, or the picture; nil leaves a value alone.
type SetPersona struct {
	Sheet   string  `json:"sheet"`
	Pool    string  `json:"pool"`
	Title   *string `json:"title,omitempty"`
	Words   *string `json:"words,omitempty"`
	Picture *string `json:"picture,omitempty"`
	// Pictures are those that the map may lack.
	Pictures []pictures.Picture `json:"pictures,omitempty"`
}

func (e *SetPersona) change(t *transaction) error {
	if _, err := t.journey(e.Sheet); err != nil {
		return err
	}
	for _, p := range e.Pictures {
		if err := pictureList.add(t, len(t.m.Pictures), p); err != nil {
			return err
		}
	}
	_, p, err := t.pool(e.Sheet, e.Pool)
	if err != nil {
		return err
	}
	fields.Assign(p, e)
	return nil
}

// cellsOf returns the ids of the symbols in the cells of a journey, all or those for which a condition holds.
func cellsOf(s *model.Sheet, p *model.Pool, where func(sym *model.Symbol) bool) (ids []string) {
	for _, sym := range s.Symbols {
		if s.IsCell(sym) && p.LaneIndex(sym.Row) >= 0 && (where == nil || where(sym)) {
			ids = append(ids, sym.ID)
		}
	}
	return ids
}

// removeCells takes the symbols in cells away that go with their row or stage.
func (t *transaction) removeCells(s *model.Sheet, ids []string) error {
	if len(ids) == 0 {
		return nil
	}
	t.following = true
	defer func() { t.following = false }()
	return (&RemoveItems{Sheet: s.ID, IDs: ids}).change(t)
}

// insertRow puts a row at a place of a journey.
func (t *transaction) insertRow(p *model.Pool, at int, lane model.Lane) error {
	if at < 0 || at > len(p.Lanes) {
		return model.Refuse(p.ID, "the journey has %d rows; there is no place %d in it", len(p.Lanes), at)
	}
	if len(p.Lanes) >= model.MaxLanes {
		return model.Refuse(p.ID, "a journey has at most %d rows", model.MaxLanes)
	}
	if err := t.fresh(lane.ID); err != nil {
		return err
	}
	lane.H = model.MinLane
	p.Lanes = slices.Insert(slices.Clone(p.Lanes), at, lane)
	return nil
}

// removeRow takes a row away with what stands in it.
func (t *transaction) removeRow(s *model.Sheet, p *model.Pool, id string) error {
	k := p.LaneIndex(id)
	switch {
	case k < 0:
		return model.Refuse(id, "the row %q is not there any more", id)
	case len(p.Lanes) == 1:
		return model.Refuse(id, "a journey keeps at least one row; delete the journey instead")
	}
	if err := t.removeCells(s, cellsOf(s, p, func(sym *model.Symbol) bool { return sym.Row == id })); err != nil {
		return err
	}
	p.Lanes = slices.Delete(slices.Clone(p.Lanes), k, k+1)
	return nil
}

// retype makes what stands in a row what its type wants.
func (t *transaction) retype(s *model.Sheet, lane model.Lane) error {
	for _, sym := range s.Symbols {
		if sym.Row != lane.ID || !s.IsCell(sym) {
			continue
		}
		kind, err := kindIn(lane, sym)
		if err != nil {
			return err
		}
		if err := t.touch(s, sym); err != nil {
			return err
		}
		if sym.Kind = kind; kind == model.MoodCell {
			sym.Span = 0
		}
	}
	return nil
}

// insertColumn puts a stage at a place of a journey.
func (t *transaction) insertColumn(p *model.Pool, at int, stage model.Stage) error {
	if len(p.Stages) >= model.MaxLanes {
		return model.Refuse(p.ID, "a journey has at most %d stages", model.MaxLanes)
	}
	stage.L = min(stage.L, model.MaxColumn)
	p.Stages = slices.Insert(slices.Clone(p.Stages), at, stage)
	return nil
}

// removeColumn takes a stage away with what stands in it. What reaches over it from elsewhere gets narrower.
func (t *transaction) removeColumn(s *model.Sheet, p *model.Pool, k int) error {
	if len(p.Stages) == 1 {
		return model.Refuse(p.ID, "a journey keeps at least one stage")
	}
	id := p.Stages[k].ID
	err := t.removeCells(s, cellsOf(s, p, func(sym *model.Symbol) bool { return sym.Stage == id && sym.Span < 2 }))
	if err != nil {
		return err
	}
	for _, sym := range s.Symbols {
		from := p.StageIndex(sym.Stage)
		if !s.IsCell(sym) || p.LaneIndex(sym.Row) < 0 || sym.Span < 2 || from > k || from+sym.Span <= k {
			continue
		}
		if err := t.touch(s, sym); err != nil {
			return err
		}
		if sym.Span--; from == k && k+1 < len(p.Stages) {
			sym.Stage = p.Stages[k+1].ID
		}
	}
	// One that was wider than what is left of the journey began in the last stage.
	last := cellsOf(s, p, func(sym *model.Symbol) bool { return sym.Stage == id })
	if err := t.removeCells(s, last); err != nil {
		return err
	}
	p.Stages = slices.Delete(slices.Clone(p.Stages), k, k+1)
	return nil
}

// moveTo takes what stands at a place of a list to another one.
func moveTo[T any](list []T, from, to int) []T {
	v := list[from]
	return slices.Insert(slices.Delete(slices.Clone(list), from, from+1), to, v)
}

// settle gives the cards of the hierarchies that the edit touched their places, and what stands in the cells of
// journeys.
func (t *transaction) settle() {
	touched := map[string]bool{}
	all, symbols := false, false
	for i := range t.log {
		c := &t.log[i]
		touched[c.Sheet] = true
		touched[c.ID] = touched[c.ID] || c.of == sheetList
		all = all || c.of == mapHead
		symbols = symbols || c.of == symbolList || c.of == sheetList
	}
	for _, s := range t.m.Sheets {
		if s.Kind != model.FlowSheet && (all || touched[s.ID]) || s.Kind == model.JourneySheet && symbols && s.Sums() {
			t.moved = append(t.moved, t.m.Settle(s)...)
		}
	}
}

// bare takes away from a symbol what follows from where a card hangs, or from the cell it stands in.
func bare(s *model.Sheet, v *model.Symbol) *model.Symbol {
	switch {
	case s.IsCard(v):
		v.X, v.Y = 0, 0
	case s.IsCell(v):
		v.Box = model.CellBox
	}
	return v
}

// barePool takes away from a journey what follows from what stands in it.
func barePool(s *model.Sheet, v *model.Pool) *model.Pool {
	if s.Kind == model.JourneySheet && v.Journey {
		v.X, v.Y, v.W = 0, 0, model.MinPool
		for i := range v.Lanes {
			v.Lanes[i].H = model.MinLane
		}
	}
	return v
}

// missesPlace says that the card is gone under which a removed one stood, or the cell in which a symbol did.
func missesPlace(t *transaction, s *model.Sheet, v *model.Symbol) string {
	if s.IsCard(v) && v.Under != "" && s.Symbol(v.Under) == nil && !t.coming[v.Under] {
		return fmt.Sprintf("the card above %s", v.Describe())
	}
	if s.IsCell(v) {
		if p, _ := s.RowOf(v.Row); p == nil || p.StageIndex(v.Stage) < 0 {
			return fmt.Sprintf("the cell of %s", v.Describe())
		}
	}
	return ""
}

// keepsCells leaves the rows and stages of a journey as they were where taking an edit back would take away one in
// which something stands that somebody set down since.
func keepsCells(t *transaction, s *model.Sheet, was, v *model.Pool) bool {
	if !v.Journey {
		return false
	}
	stands := slices.ContainsFunc(s.Symbols, func(sym *model.Symbol) bool {
		return s.IsCell(sym) && !t.leaving[sym.ID] && was.LaneIndex(sym.Row) >= 0 &&
			(v.LaneIndex(sym.Row) < 0 || v.StageIndex(sym.Stage) < 0)
	})
	if stands {
		v.Lanes, v.Stages = was.Lanes, was.Stages
	}
	return stands
}
