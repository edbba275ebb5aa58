package compose

import (
	"slices"
	"strconv"
	"strings"

	"plaintracer/core/edit"
	"plaintracer/core/model"
)

// FirstRows are the rows with which a journey begins, FirstStages how many stages it has then.
var FirstRows = []model.RowType{model.StepsRow, model.ContactsRow, model.WordsRow, model.MoodRow, model.IdeasRow,
	model.BehindRow}

// FirstStages is how many stages a journey begins with.
const FirstStages = 3

// NewJourney makes a journey of a person with rows of these types and so many stages.
func (w *Work) NewJourney(title string, rows []model.RowType, stages int) model.Pool {
	p := model.Pool{ID: w.NewID(), Title: title, W: model.MinPool, Journey: true}
	for _, t := range rows {
		p.Lanes = append(p.Lanes, model.Lane{ID: w.NewID(), Name: t.Row().Name, H: model.MinLane, Row: t})
	}
	for i := range stages {
		p.Stages = append(p.Stages, model.Stage{ID: w.NewID(), Name: "Stage " + strconv.Itoa(i+1),
			L: model.JourneyStage})
	}
	return p
}

// LikeJourney makes an empty journey with the rows and stages of another one, or as a new one begins where that is nil.
func (w *Work) LikeJourney(like *model.Pool) model.Pool {
	if like == nil {
		return w.NewJourney("", FirstRows, FirstStages)
	}
	p := model.Pool{ID: w.NewID(), W: model.MinPool, Journey: true}
	for _, l := range like.Lanes {
		p.Lanes = append(p.Lanes, model.Lane{ID: w.NewID(), Name: l.Name, H: model.MinLane, Row: l.Row, Field: l.Field,
			Fill: l.Fill, Head: l.Head})
	}
	for _, st := range like.Stages {
		p.Stages = append(p.Stages, model.Stage{ID: w.NewID(), Name: st.Name, L: st.L, Fill: st.Fill})
	}
	return p
}

// InCell returns the edit that sets a new symbol down in a cell, behind what is there.
func (w *Work) InCell(sym model.Symbol, row, stage, as string) edit.Edit {
	sym.Row, sym.Stage, sym.Rank = row, stage, model.RankStep
	if in := w.Sheet.InCell(row, stage); len(in) > 0 {
		sym.Rank = in[len(in)-1].Rank + model.RankStep
	}
	return &edit.AddItems{Sheet: w.Sheet.ID, Symbols: []model.Symbol{sym}, As: as}
}

// Lines returns the lines of a list, without the signs that begin its items and without empty ones at its end.
func Lines(text string) (list []string) {
	for _, line := range strings.Split(strings.TrimRight(text, " \t\r\n"), "\n") {
		list = append(list, Unlisted(strings.Join(strings.Fields(line), " ")))
	}
	return list
}

// NameStages returns the edit that names the stages of a journey from one on, and adds those that are missing.
func (w *Work) NameStages(p *model.Pool, from int, names []string) edit.Edit {
	var edits []edit.Edit
	for i, name := range names {
		if at := from + i; at < len(p.Stages) {
			edits = append(edits, &edit.SetStage{Sheet: w.Sheet.ID, Pool: p.ID, Stage: p.Stages[at].ID, Name: &name})
		} else {
			edits = append(edits, &edit.InsertStage{Sheet: w.Sheet.ID, Pool: p.ID, At: at,
				Stage: model.Stage{ID: w.NewID(), Name: name, L: model.JourneyStage}})
		}
	}
	return edit.Together("name the stages", edits...)
}

// FillCells returns the edit that writes a text into the cells of a journey from one on: where it has columns, cell by
// cell; else its lines from left to right. Left counts the texts for which there was no cell.
func (w *Work) FillCells(p *model.Pool, row, stage int, text string) (e edit.Edit, left int) {
	table := cut(text)
	if !slices.ContainsFunc(table, func(line []string) bool { return len(line) > 1 }) {
		table = [][]string{Lines(text)}
	}
	add := &edit.AddItems{Sheet: w.Sheet.ID, As: "paste into the cells"}
	last := map[*model.Lane]map[int]int{} // ranks
	for i, line := range table {
		for k, cell := range line {
			if strings.TrimSpace(cell) == "" {
				continue
			}
			if row+i >= len(p.Lanes) || stage+k >= len(p.Stages) || p.Lanes[row+i].Row == model.SumRow {
				left++
				continue
			}
			lane := &p.Lanes[row+i]
			if last[lane] == nil {
				last[lane] = map[int]int{}
			}
			for _, sym := range w.read(lane, cell) {
				sym.Row, sym.Stage = lane.ID, p.Stages[stage+k].ID
				if last[lane][k] == 0 {
					if in := w.Sheet.InCell(sym.Row, sym.Stage); len(in) > 0 {
						last[lane][k] = in[len(in)-1].Rank
					}
				}
				last[lane][k] += model.RankStep
				sym.Rank = last[lane][k]
				add.Symbols = append(add.Symbols, sym)
			}
		}
	}
	if len(add.Symbols) == 0 {
		return nil, left
	}
	return add, left
}

// cut returns the cells of a text from a clipboard: columns are parted by tabs, and a cell with line breaks stands in
// quotes.
func cut(text string) (rows [][]string) {
	text = strings.ReplaceAll(text, "\r\n", "\n")
	var row []string
	for len(text) > 0 {
		var cell string
		if quoted, rest, ok := quotedCell(text); ok {
			cell, text = quoted, rest
		} else if i := strings.IndexAny(text, "\t\n"); i >= 0 {
			cell, text = text[:i], text[i:]
		} else {
			cell, text = text, ""
		}
		row = append(row, cell)
		if text == "" || text[0] == '\n' {
			rows, row = append(rows, row), nil
		}
		if text != "" {
			text = text[1:]
		}
	}
	return rows
}

// quotedCell takes a cell in quotes from the beginning of a text.
func quotedCell(text string) (cell, rest string, ok bool) {
	if !strings.HasPrefix(text, `"`) {
		return "", text, false
	}
	for at := 1; ; {
		i := strings.IndexByte(text[at:], '"')
		if i < 0 {
			return "", text, false
		}
		at += i + 1
		if strings.HasPrefix(text[at:], `"`) {
			at++
			continue
		}
		if at < len(text) && text[at] != '\t' && text[at] != '\n' {
			return "", text, false
		}
		return strings.ReplaceAll(text[1:at-1], `""`, `"`), text[at:], true
	}
}

// seating returns what gives copies of what is on a clip their cells: those of journeys that come along, or cells as
// far from the one that the work names as they were from each other, or all that one; none on a sheet without journeys.
func (w *Work) seating(c *Clip, ids map[string]string) func(sym *model.Symbol) {
	if w.Sheet.Kind != model.JourneySheet {
		return func(sym *model.Symbol) { sym.Cell = model.Cell{} }
	}
	s := w.Sheet
	to, row := s.RowOf(w.Row)
	if to == nil && len(s.Pools) > 0 {
		to, row = s.Pools[0], 0
	}
	stage := 0
	if to != nil {
		stage = max(to.StageIndex(w.Stage), 0)
	}
	firstRow, firstStage := -1, -1 // of what stood in cells of this sheet
	for i := range c.Symbols {
		if from, r := s.RowOf(c.Symbols[i].Row); from != nil {
			k := from.StageIndex(c.Symbols[i].Stage)
			if firstRow < 0 || r < firstRow {
				firstRow = r
			}
			if firstStage < 0 || k < firstStage {
				firstStage = k
			}
		}
	}
	last := 0 // they come behind all that is there
	for _, sym := range s.Symbols {
		last = max(last, sym.Rank)
	}
	return func(sym *model.Symbol) {
		moment := sym.Kind.IsMoment() || sym.Kind.ShowsPicture() && sym.Row != ""
		if row := ids[sym.Row]; row != "" && sym.Row != "" {
			sym.Row, sym.Stage = row, ids[sym.Stage]
			return
		}
		if !moment || to == nil {
			sym.Cell = model.Cell{}
			return
		}
		r, k := row, stage
		if from, i := s.RowOf(sym.Row); from != nil && w.Row != "" {
			r, k = row+i-firstRow, stage+from.StageIndex(sym.Stage)-firstStage
		} else if from != nil {
			to, r, k = from, i, from.StageIndex(sym.Stage)
		}
		lane := to.Lanes[min(r, len(to.Lanes)-1)]
		if lane.Row == model.SumRow { // nothing stands there
			lane = to.Lanes[0]
		}
		if kind := lane.Row.Row().Kind; !sym.Kind.ShowsPicture() && !kind.ShowsPicture() && kind != "" {
			sym.Kind = kind
		}
		last += model.RankStep
		sym.Row, sym.Stage, sym.Rank = lane.ID, to.Stages[min(max(k, 0), len(to.Stages)-1)].ID, last
	}
}
