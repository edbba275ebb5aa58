package desk

import (
	"slices"
	"strconv"
	"strings"

	"plaintracer/core/compose"
	"plaintracer/core/edit"
	"plaintracer/core/geometry"
	"plaintracer/core/model"
)

// OnJourney reports whether the sheet that is shown holds journeys.
func (e *Window) OnJourney() bool { return e.Sheet().Kind == model.JourneySheet }

// Spot is a cell of a journey: the ids of its row and its stage.
type Spot struct{ Row, Stage string }

func (s Spot) id() string { return model.CellID(s.Row, s.Stage) }

// spotNamed returns the spot of a name, and where it is: the journey, and the places of row and stage.
func spotNamed(s *model.Sheet, id string) (at Spot, p *model.Pool, row, stage int) {
	if s.Kind != model.JourneySheet {
		return at, nil, -1, -1
	}
	for _, ids := range model.CellIDs(id) {
		at = Spot{ids[0], ids[1]}
		if p, row = s.RowOf(at.Row); p != nil {
			if stage = p.StageIndex(at.Stage); stage >= 0 {
				return at, p, row, stage
			}
		}
	}
	return at, nil, -1, -1
}

// sheetWith returns the sheet on which something with an id stands, or a cell of that name is; nil for none.
func (e *Window) sheetWith(id string) *model.Sheet {
	for _, s := range e.M.Sheets {
		if _, p, _, _ := spotNamed(s, id); p != nil {
			return s
		}
	}
	return e.M.SheetOf(id)
}

// SpotBox returns where the cell of a journey lies that has an id.
func (e *Window) SpotBox(id string) (geometry.Box, bool) {
	_, p, row, stage := spotNamed(e.Sheet(), id)
	if p == nil {
		return geometry.Box{}, false
	}
	return p.CellAt(row, stage), true
}

// OneCell returns the symbol in a cell that alone is selected; nil for none.
func (e *Window) OneCell() *model.Symbol {
	if sym := e.One(); sym != nil && e.Sheet().IsCell(sym) {
		return sym
	}
	return nil
}

// ChosenCells returns the symbols in cells that are selected.
func (e *Window) ChosenCells() []*model.Symbol {
	return slices.DeleteFunc(slices.Clone(e.Chosen()), func(sym *model.Symbol) bool { return !e.Sheet().IsCell(sym) })
}

// SpotNow returns the cell that is selected, by what stands in it or as an empty one, and its journey; nil for none.
func (e *Window) SpotNow() (at Spot, p *model.Pool) {
	if !e.OnJourney() || e.Lane != "" {
		return Spot{}, nil
	}
	if sym := e.OneCell(); sym != nil {
		at = Spot{sym.Row, sym.Stage}
	} else if len(e.Sel) == 0 {
		at = e.Blank
	}
	at, p, _, _ = spotNamed(e.Sheet(), at.id())
	return at, p
}

// JourneyNow returns the journey that is selected, or in which something is; else the first of the sheet.
func (e *Window) JourneyNow() *model.Pool {
	s := e.Sheet()
	if _, p := e.SpotNow(); p != nil {
		return p
	}
	if p, _ := e.LaneSelected(); p != nil {
		return p
	}
	if p, _ := e.StageSelected(); p != nil {
		return p
	}
	for _, id := range e.Sel {
		if p := s.Pool(id); p != nil {
			return p
		}
		if sym := s.Symbol(id); sym != nil {
			if p, _ := s.RowOf(sym.Row); p != nil {
				return p
			}
		}
	}
	if len(s.Pools) == 0 {
		return nil
	}
	return s.Pools[0]
}

// AddJourney adds a sheet with a journey after the one that is shown, with its first stage open for writing.
func (e *Sheets) AddJourney() {
	s := e.emptySheet("Journey")
	s.Kind, s.Across, s.Middle = model.JourneySheet, true, true
	pool := e.Work().NewJourney("", compose.FirstRows, compose.FirstStages)
	s.Pools = append(s.Pools, &pool)
	if e.addSheet(s) {
		e.Sel, e.Lane = nil, pool.Stages[0].ID
		e.Writing.StartWriting(e.Lane, true)
	}
}

// AddPerson adds a journey below those that are there, with the rows and stages of the one at hand, for comparison.
func (e *Journeys) AddPerson() {
	like := e.JourneyNow()
	pool := e.Work().LikeJourney(like)
	if e.Do(&edit.AddPool{Sheet: e.SheetID, Pool: pool}) {
		e.Sel, e.Lane, e.Blank = []string{pool.ID}, "", Spot{}
		e.Sight = e.Sel
		e.Writing.StartWriting(pool.ID, false)
	}
}

// AddRow adds a row of a type below the one at hand, or at the foot of the journey.
func (e *Journeys) AddRow(t model.RowType) {
	p := e.JourneyNow()
	at := len(p.Lanes)
	if spot, on := e.SpotNow(); on != nil {
		at = p.LaneIndex(spot.Row) + 1
	} else if _, i := e.LaneSelected(); i >= 0 {
		at = i + 1
	}
	lane := model.Lane{ID: e.NewID(), Name: t.Row().Name, H: model.MinLane, Row: t}
	if t == model.SumRow {
		if f := e.summed(p); f != nil {
			lane.Field, lane.Name = f.ID, f.Name
		}
	}
	if e.Do(&edit.InsertLane{Sheet: e.SheetID, Pool: p.ID, At: at, Lane: lane}) {
		e.Sel, e.Lane = nil, lane.ID
		if t == model.SumRow && lane.Field == "" {
			e.Say("Add a field that counts, such as minutes or money, and choose it for the row.")
		}
	}
}

// summed returns the first field that counts and that no row of the journey sums yet.
func (e *Journeys) summed(p *model.Pool) *model.Field {
	for i := range e.M.Fields {
		f := &e.M.Fields[i]
		if f.Type.Counts() && !slices.ContainsFunc(p.Lanes, func(l model.Lane) bool { return l.Field == f.ID }) {
			return f
		}
	}
	return nil
}

// AddStage adds a stage behind the one at hand, or the last, and opens its name for writing.
func (e *Journeys) AddStage() {
	p := e.JourneyNow()
	at := len(p.Stages)
	if spot, on := e.SpotNow(); on != nil {
		at = p.StageIndex(spot.Stage) + 1
	} else if _, i := e.StageSelected(); i >= 0 {
		at = i + 1
	}
	stage := model.Stage{ID: e.NewID(), Name: "Stage " + strconv.Itoa(len(p.Stages)+1), L: model.JourneyStage}
	if len(p.Stages) > 0 {
		stage.L = p.Stages[min(at, len(p.Stages)-1)].L
	}
	if e.Do(&edit.InsertStage{Sheet: e.SheetID, Pool: p.ID, At: at, Stage: stage}) {
		e.Sel, e.Lane = nil, stage.ID
		e.Writing.StartWriting(stage.ID, true)
	}
}

// pick selects a cell: what stands in it first, or last, or the empty cell. With write set its text is opened.
func (e *Journeys) pick(at Spot, last, write bool) {
	s := e.Sheet()
	_, p, row, stage := spotNamed(s, at.id())
	if p == nil {
		return
	}
	e.Sel, e.Lane, e.Blank = nil, "", at
	e.Centre = at.id()
	if in := s.InCell(at.Row, at.Stage); len(in) > 0 {
		sym := in[0]
		if last {
			sym = in[len(in)-1]
		}
		e.Sel, e.Centre = []string{sym.ID}, sym.ID
		if write && !sym.Kind.ShowsPicture() {
			e.Writing.StartWriting(sym.ID, false)
		}
		return
	}
	if !write || p.Lanes[row].Folded || p.Stages[stage].Folded || p.Lanes[row].Row == model.SumRow {
		return
	}
	if p.Lanes[row].Row == model.PicturesRow {
		return
	}
	e.Writing.StartWriting(at.id(), false)
}

// beside returns the cell so many rows and stages on, past those that are folded; false beyond the edge.
func (e *Journeys) beside(at Spot, rows, stages int) (Spot, bool) {
	_, p, row, stage := spotNamed(e.Sheet(), at.id())
	if p == nil {
		return at, false
	}
	for {
		row, stage = row+rows, stage+stages
		if row < 0 || stage < 0 || row >= len(p.Lanes) || stage >= len(p.Stages) {
			return at, false
		}
		if !p.Lanes[row].Folded && !p.Stages[stage].Folded {
			return Spot{p.Lanes[row].ID, p.Stages[stage].ID}, true
		}
	}
}

// Next goes to the cell behind the one at hand, row by row, or before it, and opens it for writing where that is asked.
func (e *Journeys) Next(back, write bool) {
	at, p := e.SpotNow()
	if p == nil {
		return
	}
	by := 1
	if back {
		by = -1
	}
	if to, ok := e.beside(at, 0, by); ok {
		e.pick(to, back, write)
		return
	}
	row := p.LaneIndex(at.Row)
	for row += by; row >= 0 && row < len(p.Lanes); row += by { // the next row that can be written into
		if lane := p.Lanes[row]; lane.Folded || lane.Row == model.SumRow && write {
			continue
		}
		stage := 0
		if back {
			stage = len(p.Stages) - 1
		}
		for stage >= 0 && stage < len(p.Stages) && p.Stages[stage].Folded {
			stage += by
		}
		if stage >= 0 && stage < len(p.Stages) {
			e.pick(Spot{p.Lanes[row].ID, p.Stages[stage].ID}, back, write)
		}
		return
	}
	e.Say("This is the %s cell.", map[bool]string{true: "first", false: "last"}[back])
}

// GoOn is what a key does that ends writing in a journey: Tab goes to the next cell and Shift and Tab to the one
// before, Enter to the one below; of the names of stages Tab goes to the next one, behind the last to a new one, and
// Enter into the first cell. It reports whether the key is one of these. Where nothing was written, Enter only ends it.
func (e *Journeys) GoOn(id, key string, mods int, wrote bool) bool {
	if !e.OnJourney() || mods&Alt != 0 || key != "Enter" && key != "Tab" {
		return false
	}
	s, back := e.Sheet(), mods&Shift != 0
	if p, i := stageNamed(s, id); p != nil {
		e.afterStage(p, i, key, back, wrote)
		return true
	}
	if p, i := s.RowOf(id); p != nil {
		e.afterRow(p, i, key, back)
		return true
	}
	at, p := e.SpotNow()
	switch {
	case p == nil:
		return false
	case key == "Enter" && mods&Ctrl != 0:
		if wrote {
			e.Another()
		}
	case key == "Tab":
		e.Next(back, true)
	case !wrote:
	default:
		if to, ok := e.beside(at, 1, 0); ok {
			e.pick(to, false, true)
		}
	}
	return true
}

func (e *Journeys) afterStage(p *model.Pool, i int, key string, back, wrote bool) {
	switch {
	case key == "Enter":
		e.pick(Spot{p.Lanes[0].ID, p.Stages[0].ID}, false, true)
	case back && i > 0:
		e.toName(p.Stages[i-1].ID, true)
	case back:
	case i+1 < len(p.Stages):
		e.toName(p.Stages[i+1].ID, true)
	case wrote:
		e.Lane = p.Stages[i].ID
		e.AddStage()
	}
}

func (e *Journeys) afterRow(p *model.Pool, i int, key string, back bool) {
	switch {
	case key == "Tab" && !back:
		e.pick(Spot{p.Lanes[i].ID, p.Stages[0].ID}, false, true)
	case back && i > 0:
		e.toName(p.Lanes[i-1].ID, true)
	case !back && i+1 < len(p.Lanes):
		e.toName(p.Lanes[i+1].ID, true)
	}
}

// toName selects a row or stage, and opens its name for writing where that is asked.
func (e *Journeys) toName(id string, write bool) {
	if e.Sel, e.Lane, e.Blank = nil, id, (Spot{}); write {
		e.Writing.StartWriting(id, false)
	}
}

// Another opens a further text in the cell at hand.
func (e *Journeys) Another() {
	at, p := e.SpotNow()
	if p == nil {
		e.Say("Select a cell first.")
		return
	}
	e.Sel, e.Blank = nil, at
	e.Writing.StartWriting(at.id(), false)
}

// Key is what a key does in a journey while nothing is written; it reports whether it is one of these.
func (e *Journeys) Key(key string, mods int) bool {
	at, p := e.SpotNow()
	arrow := strings.HasPrefix(key, "Arrow")
	switch {
	case mods&Ctrl != 0 && key == "Enter" && p != nil:
		e.Another()
		return true
	case mods&Ctrl != 0:
		return false
	case p == nil && e.Lane != "":
		return e.nameKey(key, mods)
	case p == nil && (key == "Tab" || arrow) && len(e.Sel) == 0 && mods == 0:
		p = e.JourneyNow()
		if p == nil {
			return false
		}
		e.toName(p.Stages[0].ID, false)
	case p == nil && key == "Enter" && mods == 0 && e.oneJourney() != nil:
		e.Writing.StartWriting(e.Sel[0], false)
	case p == nil:
		return false
	case key == "Tab" && mods&Alt == 0:
		e.Next(mods&Shift != 0, false)
	case key == "Enter" && mods == 0:
		if cell := e.OneCell(); cell != nil && cell.Kind.ShowsPicture() {
			e.ToOpen = "picture-open"
		} else if cell != nil {
			e.Writing.StartWriting(cell.ID, false)
		} else {
			e.pick(at, false, true)
		}
	case arrow && mods == 0:
		e.step(at, p, Arrows[key])
	case arrow && mods == Alt:
		e.shift(at, p, Arrows[key])
	case key == "Delete" || key == "Backspace":
		if e.OneCell() == nil {
			return true // there is nothing in it
		}
		return false
	case len([]rune(key)) == 1 && mods&Alt == 0 && key != "?":
		return e.typed(at, p)
	default:
		return false
	}
	return true
}

// oneJourney returns the journey that alone is selected; nil for none.
func (e *Journeys) oneJourney() *model.Pool {
	if len(e.Sel) != 1 {
		return nil
	}
	return e.Sheet().Pool(e.Sel[0])
}

// typed begins to write in the cell at hand.
func (e *Journeys) typed(at Spot, p *model.Pool) bool {
	if cell := e.OneCell(); cell != nil {
		if cell.Locked || cell.Kind.ShowsPicture() {
			return false
		}
		e.Writing.StartWriting(cell.ID, true)
		return true
	}
	if lane := p.Lanes[p.LaneIndex(at.Row)]; lane.Row == model.SumRow {
		e.Say("What stands in this row is computed from a field.")
		return true
	}
	e.Writing.StartWriting(at.id(), true)
	return true
}

// nameKey is what a key does while a row or stage is selected.
func (e *Journeys) nameKey(key string, mods int) bool {
	p, stage := e.StageSelected()
	row := -1
	if p == nil {
		if p, row = e.LaneSelected(); p == nil {
			return false
		}
	}
	if len([]rune(key)) == 1 && mods&Alt == 0 && key != "?" {
		e.Writing.StartWriting(e.Lane, true)
		return true
	}
	if key == "Tab" && mods&Alt == 0 {
		key = map[bool]string{true: "ArrowRight", false: "ArrowDown"}[row < 0]
		if mods&Shift != 0 {
			key = map[bool]string{true: "ArrowLeft", false: "ArrowUp"}[row < 0]
		}
		mods = 0
	}
	if !strings.HasPrefix(key, "Arrow") || mods != 0 {
		return false
	}
	switch to := Arrows[key].Step(); {
	case row < 0 && to.Y > 0:
		e.pick(Spot{p.Lanes[0].ID, p.Stages[stage].ID}, false, false)
	case row < 0 && to.X != 0 && stage+to.X >= 0 && stage+to.X < len(p.Stages):
		e.toName(p.Stages[stage+to.X].ID, false)
	case row < 0 && to.X < 0:
		e.toName(p.Lanes[0].ID, false)
	case row >= 0 && to.X > 0:
		e.pick(Spot{p.Lanes[row].ID, p.Stages[0].ID}, false, false)
	case row >= 0 && to.X < 0:
		e.Sel, e.Lane = []string{p.ID}, ""
	case row >= 0 && to.Y != 0 && row+to.Y >= 0 && row+to.Y < len(p.Lanes):
		e.toName(p.Lanes[row+to.Y].ID, false)
	case row == 0 && to.Y < 0:
		e.toName(p.Stages[0].ID, false)
	}
	return true
}

// step goes to the next thing in a direction: in a cell from one to the other, then to the next cell, the name of the
// row or that of the stage.
func (e *Journeys) step(at Spot, p *model.Pool, to geometry.Side) {
	d := to.Step()
	if cell := e.OneCell(); cell != nil && d.Y != 0 {
		in := e.Sheet().InCell(at.Row, at.Stage)
		if i := model.Index(in, cell.ID) + d.Y; i >= 0 && i < len(in) {
			e.Sel, e.Centre = []string{in[i].ID}, in[i].ID
			return
		}
	}
	if next, ok := e.beside(at, d.Y, d.X); ok {
		e.pick(next, d.Y < 0, false)
		return
	}
	switch {
	case d.X < 0:
		e.toName(at.Row, false)
	case d.Y < 0:
		e.toName(at.Stage, false)
	case d.Y > 0: // the next journey
		s := e.Sheet()
		if i := slices.Index(s.Pools, p) + 1; i < len(s.Pools) {
			e.toName(s.Pools[i].Stages[0].ID, false)
		}
	}
}

// shift moves what is selected into the next cell of its row, or by one place in its cell; a point of a curve up or
// down.
func (e *Journeys) shift(at Spot, p *model.Pool, to geometry.Side) {
	cell := e.OneCell()
	if cell == nil {
		return
	}
	d := to.Step()
	if cell.Kind == model.MoodCell && d.Y != 0 {
		mood := geometry.Clamp(cell.Mood-10*d.Y, -model.MostMood, model.MostMood)
		e.Do(&edit.SetCells{Sheet: e.SheetID, IDs: []string{cell.ID}, Mood: &mood, As: "move the point"})
		return
	}
	if d.Y != 0 {
		in := e.Sheet().InCell(at.Row, at.Stage)
		i := model.Index(in, cell.ID)
		if i+d.Y < 0 || i+d.Y >= len(in) {
			e.Say("It stands at the end of its cell already.")
			return
		}
		before := in[i+d.Y].ID
		if d.Y > 0 {
			before = after(in, before)
		}
		e.Do(&edit.SeatCells{Sheet: e.SheetID, IDs: []string{cell.ID}, Row: at.Row, Stage: at.Stage, Before: before})
		return
	}
	if next, ok := e.beside(at, 0, d.X); ok {
		e.Seat([]string{cell.ID}, next, "")
		return
	}
	e.Say("There is no further stage that way.")
}

// Seat takes symbols into a cell, before one that stands there or behind all.
func (e *Journeys) Seat(ids []string, at Spot, before string) bool {
	ok := e.Do(&edit.SeatCells{Sheet: e.SheetID, IDs: ids, Row: at.Row, Stage: at.Stage, Before: before})
	if ok && len(ids) > 0 {
		e.Centre = ids[0]
	}
	return ok
}

// SpotAt returns the cell that a place of the sheet lies in.
func (e *Window) SpotAt(p geometry.Point) (Spot, bool) { return SpotIn(e.Sheet().Pools, p) }

// SpotIn returns the cell of one of some journeys that a place lies in.
func SpotIn(pools []*model.Pool, p geometry.Point) (Spot, bool) {
	for _, pool := range pools {
		if !pool.Journey || p.X < pool.Content() {
			continue
		}
		for i := range pool.Lanes {
			for k := range pool.Stages {
				if pool.CellAt(i, k).Contains(p) {
					return Spot{pool.Lanes[i].ID, pool.Stages[k].ID}, true
				}
			}
		}
	}
	return Spot{}, false
}

// Place sets a new symbol down in the cell at a place, as the row wants it, and opens it for writing.
func (e *Journeys) Place(kind model.Kind, p geometry.Point) {
	at, ok := e.SpotAt(p)
	if !ok {
		e.Say("Set it down in a cell.")
		return
	}
	if !e.Stick {
		e.Hand = ""
	}
	if e.Sel, e.Lane, e.Blank = nil, "", at; !e.holds(at, kind) {
		e.Say("Nothing of that kind stands in this row.")
		return
	}
	if !kind.ShowsPicture() {
		e.Another()
		return
	}
	sym := e.NewSymbol(kind, model.CellBox)
	if e.Do(e.Work().InCell(sym, at.Row, at.Stage, "")) {
		e.Sel, e.ToOpen = []string{sym.ID}, "picture-open"
	}
}

// Write writes a text into an empty cell.
func (e *Journeys) Write(at Spot, text string) bool {
	if text == "" {
		return true
	}
	_, p, row, _ := spotNamed(e.Sheet(), at.id())
	if p == nil {
		e.Say("Someone else removed the row or the stage. Your text is still in the field: copy it from there.")
		return false
	}
	sym := e.NewSymbol(p.Lanes[row].Row.Row().Kind, model.CellBox)
	sym.Text = text
	if !e.Do(e.Work().InCell(sym, at.Row, at.Stage, "write")) {
		return false
	}
	e.Sel, e.Lane, e.Centre = []string{sym.ID}, "", sym.ID
	return true
}

// Paste writes a list or a table into the cells from the one at hand on, its lines from left to right, or where there
// are columns these; with a stage selected the lines name the stages from it on, with a row selected they fill it.
func (e *Journeys) Paste(text string) {
	p := e.JourneyNow()
	if p == nil {
		return
	}
	if _, i := e.StageSelected(); i >= 0 {
		e.Do(e.Work().NameStages(p, i, compose.Lines(text)))
		return
	}
	row, stage := 0, 0
	if at, on := e.SpotNow(); on != nil {
		row, stage = p.LaneIndex(at.Row), p.StageIndex(at.Stage)
	} else if _, i := e.LaneSelected(); i >= 0 {
		row = i
	}
	change, left := e.Work().FillCells(p, row, stage, text)
	if change == nil {
		e.Say("There is nothing in it that stands in a cell.")
		return
	}
	if e.Do(change) && left > 0 {
		e.Say("%s beyond the last stage or row.", counted(left, "text was left out", "texts were left out"))
	}
}

// Span lets what is selected reach over so many stages more, or fewer.
func (e *Journeys) Span(by int) {
	var edits []edit.Edit
	for _, cell := range e.ChosenCells() {
		n := max(cell.Span, 1) + by
		if n < 1 {
			continue
		}
		if n == 1 {
			n = 0
		}
		edits = append(edits, &edit.SetCells{Sheet: e.SheetID, IDs: []string{cell.ID}, Span: &n})
	}
	if len(edits) == 0 {
		e.Say("It stands in one stage already.")
		return
	}
	e.Do(edit.Together(map[bool]string{true: "reach over a further stage", false: "reach over a stage less"}[by > 0],
		edits...))
}

// Fold folds the row or stage that is selected, or of the cell at hand; or shows it again.
func (e *Journeys) Fold() {
	p := e.JourneyNow()
	if _, i := e.StageSelected(); i >= 0 {
		on := !p.Stages[i].Folded
		e.Do(&edit.SetStage{Sheet: e.SheetID, Pool: p.ID, Stage: p.Stages[i].ID, Folded: &on})
		return
	}
	i := -1
	if _, i = e.LaneSelected(); i < 0 {
		if at, on := e.SpotNow(); on != nil {
			i = p.LaneIndex(at.Row)
		}
	}
	if i < 0 {
		e.Say("Select a row, a stage or a cell first.")
		return
	}
	on := !p.Lanes[i].Folded
	if id := p.Lanes[i].ID; e.Do(&edit.SetLane{Sheet: e.SheetID, Pool: p.ID, Lane: id, Folded: &on}) {
		e.toName(id, false)
	}
}

// RowAt returns the row that is selected, or of the cell at hand; nil for none.
func (e *Window) RowAt() (*model.Pool, *model.Lane) {
	if p, i := e.LaneSelected(); p != nil && p.Journey {
		return p, &p.Lanes[i]
	}
	if at, p := e.SpotNow(); p != nil {
		return p, &p.Lanes[p.LaneIndex(at.Row)]
	}
	return nil, nil
}

// SetRow changes the type of a row; what stands in it becomes what that wants.
func (e *Journeys) SetRow(t model.RowType) {
	p, lane := e.RowAt()
	set := &edit.SetLane{Sheet: e.SheetID, Pool: p.ID, Lane: lane.ID, Row: &t}
	if lane.Name == lane.Row.Row().Name { // it was called so for its type
		name := t.Row().Name
		set.Name = &name
	}
	e.Do(set)
}

// SetSum says which field a row sums up.
func (e *Journeys) SetSum(field string) {
	p, lane := e.RowAt()
	set := &edit.SetLane{Sheet: e.SheetID, Pool: p.ID, Lane: lane.ID, Field: &field}
	if lane.Name == model.SumRow.Row().Name || lane.Name == e.M.FieldName(lane.Field) {
		name := e.M.FieldName(field)
		set.Name = &name
	}
	e.Do(set)
}

// Sign gives the selected contact points a sign; empty is the one that their words speak of.
func (e *Journeys) Sign(name string) {
	e.Do(&edit.SetCells{Sheet: e.SheetID, IDs: model.IDsOf(e.ChosenCells()), Sign: &name, As: "choose the sign"})
}

// hitJourney returns what lies at a place of a journey: the name of a stage or the end of one, that of a row, the
// person, or a cell.
func (e *Window) hitJourney(p *model.Pool, at geometry.Point) Hit {
	if h, ok := e.hitStage(p, at); ok {
		return h
	}
	near := e.Reach(5)
	if last := len(p.Stages) - 1; last >= 0 { // the end of the last one, too
		if b := p.StageBox(last); at.Y >= b.Y && at.Y < b.Bottom() && geometry.Abs(at.X-b.Right()) <= near {
			return Hit{ID: p.ID, Stage: p.Stages[last].ID, LaneEdge: true}
		}
	}
	for i, l := range p.Lanes {
		if b := p.Strip(i); at.Y >= b.Y && at.Y < b.Bottom() && at.X >= b.X && at.X < p.Content() {
			return Hit{ID: p.ID, Lane: l.ID}
		}
	}
	if spot, ok := e.SpotAt(at); ok {
		return Hit{ID: p.ID, Cell: spot}
	}
	return Hit{ID: p.ID}
}

// Open opens an empty cell for writing, or asks for the picture that it is to show.
func (e *Journeys) Open(at Spot) {
	_, p, row, _ := spotNamed(e.Sheet(), at.id())
	if p == nil {
		return
	}
	e.Sel, e.Lane, e.Blank = nil, "", at
	switch p.Lanes[row].Row {
	case model.SumRow:
		e.Say("What stands in this row is computed from a field.")
	case model.PicturesRow:
		sym := e.NewSymbol(model.Picture, model.CellBox)
		if e.Do(e.Work().InCell(sym, at.Row, at.Stage, "")) {
			e.Sel, e.ToOpen = []string{sym.ID}, "picture-open"
		}
	default:
		e.Another()
	}
}

// Move takes the row or stage that is selected, or the row of the cell at hand, one place on or back.
func (e *Journeys) Move(by int) {
	if p, i := e.StageSelected(); p != nil {
		if i+by < 0 || i+by >= len(p.Stages) {
			e.Say("The stage is at the end of its journey.")
			return
		}
		e.Do(&edit.MoveStage{Sheet: e.SheetID, Pool: p.ID, Stage: e.Lane, To: i + by})
		return
	}
	p, lane := e.RowAt()
	i := p.LaneIndex(lane.ID)
	if i+by < 0 || i+by >= len(p.Lanes) {
		e.Say("The row is at the end of its journey.")
		return
	}
	e.Do(&edit.MoveLane{Sheet: e.SheetID, Pool: p.ID, Lane: lane.ID, To: i + by})
}

// Remove takes the row or stage away that is selected, or the row of the cell at hand, with what stands in it, and says
// how much that was.
func (e *Journeys) Remove() {
	s := e.Sheet()
	gone := func(in func(sym *model.Symbol) bool) string {
		n := 0
		for _, sym := range s.Symbols {
			if s.IsCell(sym) && in(sym) {
				n++
			}
		}
		if n == 0 {
			return "."
		}
		return ", with " + counted(n, "text", "texts") + " in it. Undo brings it back."
	}
	if p, i := e.StageSelected(); p != nil {
		st := p.Stages[i]
		rest := gone(func(sym *model.Symbol) bool { return sym.Stage == st.ID && sym.Span < 2 })
		if e.Do(&edit.RemoveStage{Sheet: e.SheetID, Pool: p.ID, Stage: st.ID}) {
			e.Say("The stage “%s” is gone%s", st.Name, rest)
			p = e.Sheet().Pool(p.ID)
			e.toName(p.Stages[min(i, len(p.Stages)-1)].ID, false)
		}
		return
	}
	p, lane := e.RowAt()
	i, name := p.LaneIndex(lane.ID), lane.Called()
	rest := gone(func(sym *model.Symbol) bool { return sym.Row == lane.ID })
	if e.Do(&edit.RemoveLane{Sheet: e.SheetID, Pool: p.ID, Lane: lane.ID}) {
		e.Say("The row “%s” is gone%s", name, rest)
		p = e.Sheet().Pool(p.ID)
		e.toName(p.Lanes[min(i, len(p.Lanes)-1)].ID, false)
	}
}

// Delete takes away what is selected on a sheet with journeys, and stays in the cell.
func (e *Journeys) Delete() {
	if e.Lane != "" {
		e.Remove()
		return
	}
	at, p := e.SpotNow()
	if e.Do(&edit.RemoveItems{Sheet: e.SheetID, IDs: slices.Clone(e.Sel)}) && p != nil {
		e.Sel, e.Lane, e.Blank = nil, "", at
	}
}

// ShowCell says of what stands in a folded row or stage where that is, and offers to unfold all.
func (e *Journeys) ShowCell(id string) {
	s := e.Sheet()
	sym := s.Symbol(id)
	if sym == nil || !s.IsCell(sym) || !s.Hides(id) {
		return
	}
	e.Say("It is folded: %s.", s.CellName(sym))
	e.Suggest = &Offer{Command: "journey-unfold", Text: "Unfold all"}
}

// UnfoldAll shows all rows and stages of the sheet that are folded.
func (e *Journeys) UnfoldAll() {
	var edits []edit.Edit
	off := false
	for _, p := range e.Sheet().Pools {
		for _, l := range p.Lanes {
			if l.Folded {
				edits = append(edits, &edit.SetLane{Sheet: e.SheetID, Pool: p.ID, Lane: l.ID, Folded: &off})
			}
		}
		for _, st := range p.Stages {
			if st.Folded {
				edits = append(edits, &edit.SetStage{Sheet: e.SheetID, Pool: p.ID, Stage: st.ID, Folded: &off})
			}
		}
	}
	if len(edits) == 0 {
		e.Say("Nothing is folded on this sheet.")
		return
	}
	e.Do(edit.Together("unfold all", edits...))
}

// holds reports whether a symbol of a kind can stand in a cell: pictures can everywhere but on a curve, and nothing can
// where sums stand.
func (e *Journeys) holds(at Spot, kind model.Kind) bool {
	_, p, row, _ := spotNamed(e.Sheet(), at.id())
	if p == nil {
		return false
	}
	of := p.Lanes[row].Row
	return of != model.SumRow && (of != model.MoodRow || !kind.ShowsPicture())
}
