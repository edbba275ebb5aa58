package compose

import (
	"cmp"
	"fmt"
	"slices"
	"strconv"
	"strings"

	"plaintracer/core/edit"
	"plaintracer/core/model"
)

// A table of a journey has a line for each row and a column for each stage. Before the stages stand the names of the
// rows, their types, and where there are several journeys whose each is. In a cell each line is an item; a line that is
// set in goes on with the one before. A point of a curve begins with its height, a contact point whose sign was chosen
// with that in brackets, a line that is set in and begins with "by" says who does it, and an arrow lets the last item
// of the cell before reach over this stage, too.

// The titles of the columns before the stages.
const (
	journeyTitle = "Journey"
	rowTitle     = "Row"
	typeTitle    = "Type"
	// reaches stands in a cell over which something of the one before reaches.
	reaches = "→"
	// heldIn begins the lines that go on with the item before, doneBy those that say who does it.
	heldIn = "  "
	doneBy = "  by "
)

// headOf returns the places of the columns before the stages, -1 for one that is not there, and where the stages begin.
func headOf(titles []string) (journey, row, kind, first int) {
	journey, row, kind = -1, -1, -1
	for i, title := range titles {
		switch title = strings.ToLower(model.Flat(title)); {
		case journey < 0 && (title == "journey" || title == "persona"):
			journey = i
		case row < 0 && (title == "row" || title == "rows" || title == "" && i == 0):
			row = i
		case kind < 0 && title == "type":
			kind = i
		default:
			return journey, row, kind, i
		}
	}
	return journey, row, kind, len(titles)
}

// IsJourney reports whether a table with these titles is one of a journey: it says what is a row, and has stages.
func IsJourney(titles []string) bool {
	_, row, _, first := headOf(titles)
	if row < 0 || first == len(titles) {
		return false
	}
	return model.Flat(titles[row]) != "" || !slices.ContainsFunc(titles[first:], model.IsTitle)
}

// JourneyPlan is what a table of a journey would make.
type JourneyPlan struct {
	// Refusal says why nothing can be made of it; Notes say by line what was guessed or left out.
	Refusal string   `json:"refusal"`
	Notes   []string `json:"notes"`
	// Journeys, Rows, Stages and Cells are how many there are.
	Journeys int `json:"journeys"`
	Rows     int `json:"rows"`
	Stages   int `json:"stages"`
	Cells    int `json:"cells"`
	sheet    *model.Sheet
}

// Sheet returns the sheet that the table makes; nil where it is refused.
func (p *JourneyPlan) Sheet() *model.Sheet { return p.sheet }

// ReadJourney says what a table would make.
func (w *Work) ReadJourney(table Sheet) *JourneyPlan {
	plan := &JourneyPlan{Notes: []string{}}
	if len(table.Rows) < 2 || !IsJourney(table.Rows[0]) {
		plan.Refusal = "This is no table of a journey: its first line names the stages, behind a column “Row”."
		return plan
	}
	journey, row, kind, first := headOf(table.Rows[0])
	stages := named(table.Rows[0][first:])
	if len(stages) == 0 || len(stages) > model.MaxLanes {
		plan.Refusal = fmt.Sprintf("A journey has 1 to %d stages; this table has %d.", model.MaxLanes, len(stages))
		return plan
	}
	s := &model.Sheet{SheetHead: model.SheetHead{ID: w.NewID(), Name: "Journey", Paper: "A4", Across: true,
		Middle: true, Kind: model.JourneySheet}, Pools: []*model.Pool{}, Symbols: []*model.Symbol{},
		Connectors: []*model.Connector{}}
	plan.sheet, plan.Stages = s, len(stages)
	at := func(line []string, i int) string {
		if i < 0 || i >= len(line) {
			return ""
		}
		return strings.TrimSpace(strings.ReplaceAll(line[i], "\r\n", "\n"))
	}
	var p *model.Pool
	for n, line := range table.Rows[1:] {
		if _, again, _, begin := headOf(line); again >= 0 && model.Flat(line[again]) != "" && begin < len(line) {
			// Another journey with stages of its own.
			journey, row, kind, first = headOf(line)
			if stages = named(line[first:]); len(stages) == 0 || len(stages) > model.MaxLanes {
				plan.Refusal = fmt.Sprintf("Line %d: a journey has 1 to %d stages, not %d.", n+2, model.MaxLanes,
					len(stages))
				return plan
			}
			plan.Stages, p = max(plan.Stages, len(stages)), nil
			continue
		}
		name := model.Flat(at(line, row))
		if name == "" && !slices.ContainsFunc(line, func(c string) bool { return strings.TrimSpace(c) != "" }) {
			continue
		}
		title, words, _ := strings.Cut(at(line, journey), "\n")
		if p == nil || title != "" && title != p.Title {
			made := w.NewJourney(title, nil, 0)
			p, made.Words = &made, strings.TrimSpace(words)
			for _, name := range stages {
				p.Stages = append(p.Stages, model.Stage{ID: w.NewID(), Name: model.Short(model.Flat(name)),
					L: model.JourneyStage})
			}
			s.Pools = append(s.Pools, p)
			plan.Journeys++
		}
		lane := model.Lane{ID: w.NewID(), Name: model.Short(name), H: model.MinLane}
		note := w.typed(&lane, at(line, kind))
		if note != "" {
			plan.Notes = append(plan.Notes, fmt.Sprintf("Line %d, “%s”: %s", n+2, name, note))
		}
		if len(p.Lanes) == model.MaxLanes {
			plan.Refusal = fmt.Sprintf("A journey has at most %d rows.", model.MaxLanes)
			return plan
		}
		p.Lanes = append(p.Lanes, lane)
		plan.Rows++
		plan.Cells += w.fill(s, p, &lane, line[min(first, len(line)):])
	}
	if plan.Rows == 0 {
		plan.Refusal = "There is no row in the table."
	}
	if len(s.Symbols) > model.MaxSymbols {
		plan.Refusal = fmt.Sprintf("A sheet holds at most %d items; this table has %d.", model.MaxSymbols,
			len(s.Symbols))
	}
	return plan
}

// named returns the titles of stages without those at the end that say nothing.
func named(titles []string) []string {
	for len(titles) > 0 && strings.TrimSpace(titles[len(titles)-1]) == "" {
		titles = titles[:len(titles)-1]
	}
	return titles
}

// typed gives a row the type that a table names, or else its name speaks of, and says what was guessed.
func (w *Work) typed(lane *model.Lane, named string) (note string) {
	named, field, _ := strings.Cut(model.Flat(named), ":")
	for _, k := range model.RowKinds {
		if strings.EqualFold(named, k.Name) || strings.EqualFold(named, string(k.Type)) {
			lane.Row = k.Type
		}
	}
	if lane.Row == "" {
		lane.Row = model.GuessRow(lane.Name)
		note = "taken for a row of the type " + lane.Row.Row().Name + "."
	}
	if lane.Row == model.SumRow {
		field = strings.TrimSpace(field)
		for _, f := range w.Map.Fields {
			if called := cmp.Or(field, lane.Name); f.Type.Counts() && strings.EqualFold(f.Name, called) {
				lane.Field = f.ID
			}
		}
		note = "its sums are computed, so what stands in the table is left out."
		if lane.Field == "" {
			note = "it sums up a field of the map, which has to be chosen; what stands in the table is left out."
		}
	}
	if lane.Row == model.PicturesRow {
		note = "pictures are not read from a table; its words are kept."
	}
	return note
}

// fill sets what stands in the cells of a line of a table down in a row, and returns how many cells hold something.
func (w *Work) fill(s *model.Sheet, p *model.Pool, lane *model.Lane, cells []string) (filled int) {
	var last *model.Symbol
	for k := range p.Stages {
		if k >= len(cells) || lane.Row == model.SumRow {
			break
		}
		text := strings.TrimRight(strings.ReplaceAll(cells[k], "\r\n", "\n"), " \t\n")
		if text == reaches || text == "->" {
			if last != nil && lane.Row != model.MoodRow {
				last.Span = max(last.Span, 1) + 1
			}
			continue
		}
		if last = nil; strings.TrimSpace(text) == "" {
			continue
		}
		filled++
		for i, sym := range w.read(lane, text) {
			sym.Row, sym.Stage, sym.Rank = lane.ID, p.Stages[k].ID, (i+1)*model.RankStep
			s.Symbols = append(s.Symbols, &sym)
			last = s.Symbols[len(s.Symbols)-1]
		}
	}
	return filled
}

// read returns the symbols that the text of a cell says, without their places.
func (w *Work) read(lane *model.Lane, text string) (list []model.Symbol) {
	kind := lane.Row.Row().Kind
	if kind.ShowsPicture() {
		kind = model.MomentCell
	}
	var items, owners []string
	if kind == model.WordsCell { // one list; several are parted by an empty line
		items = strings.Split(strings.ReplaceAll(text, "\r\n", "\n"), "\n\n")
	} else {
		for _, line := range strings.Split(strings.ReplaceAll(text, "\r\n", "\n"), "\n") {
			if owner, ok := strings.CutPrefix(line, doneBy); ok && len(items) > 0 {
				owners[len(items)-1] = model.Flat(owner)
			} else if strings.HasPrefix(line, heldIn) && len(items) > 0 {
				items[len(items)-1] += "\n" + line[len(heldIn):]
			} else if strings.TrimSpace(line) != "" {
				items, owners = append(items, line), append(owners, "")
			}
		}
	}
	for i, item := range items {
		sym := model.Symbol{ID: w.NewID(), Kind: kind, Box: model.CellBox, Text: strings.TrimSpace(item)}
		switch kind {
		case model.WordsCell:
			lines := strings.Split(sym.Text, "\n")
			for i, line := range lines {
				lines[i] = Unlisted(strings.TrimSpace(line))
			}
			sym.Text = strings.Join(lines, "\n")
		case model.MoodCell:
			sym.Mood, sym.Text = moodOf(sym.Text)
		case model.ContactCell:
			sym.Sign, sym.Text = signOf(sym.Text)
		}
		if i < len(owners) {
			sym.Owner = model.Short(owners[i])
		}
		if sym.Text != "" || kind == model.MoodCell {
			list = append(list, sym)
		}
	}
	return list
}

// moodOf parts the height of a point from its words.
func moodOf(text string) (mood int, words string) {
	end := strings.IndexFunc(text, func(r rune) bool { return !strings.ContainsRune("0123456789+-−", r) })
	if end < 0 {
		end = len(text)
	}
	n, err := strconv.Atoi(strings.ReplaceAll(text[:end], "−", "-"))
	if err != nil {
		return 0, text
	}
	return min(max(n, -model.MostMood), model.MostMood), strings.TrimSpace(strings.TrimPrefix(text[end:], ":"))
}

// signOf parts the sign that was chosen for a contact point from its words.
func signOf(text string) (sign, words string) {
	name, rest, ok := strings.Cut(strings.TrimPrefix(text, "["), "]")
	if !ok || !strings.HasPrefix(text, "[") {
		return "", text
	}
	if name == model.NoSign {
		return name, strings.TrimSpace(rest)
	}
	for _, s := range model.Signs {
		if s.Name == name {
			return name, strings.TrimSpace(rest)
		}
	}
	return "", text
}

// TakeJourney returns the edit that makes the sheet of a table of a journey behind the one at hand, and its id.
func (w *Work) TakeJourney(table Sheet) (e edit.Edit, sheet string, err error) {
	plan := w.ReadJourney(table)
	if plan.Refusal != "" {
		return nil, "", Refusal(plan.Refusal)
	}
	s := plan.sheet
	paper := w.Sheet.Paper
	for _, s.Paper = range papersFrom(paper) {
		if w.Map.Settle(s); s.Area().Holds(s.Drawn()) {
			break
		}
	}
	return &edit.AddSheet{At: slices.Index(w.Map.Sheets, w.Sheet) + 1, Sheet: *s}, s.ID, nil
}

// JourneyMap returns a map of its own with the journey of a table.
func JourneyMap(table Sheet, title string) (*model.Map, error) {
	m := model.New(title, model.Rightwards, "A4", true)
	n := 0
	w := &Work{Map: m, Sheet: m.Sheets[0], NewID: func() string { n++; return fmt.Sprintf("j%d", n) }}
	plan := w.ReadJourney(table)
	if plan.Refusal != "" {
		return nil, Refusal(plan.Refusal)
	}
	m.Sheets = []*model.Sheet{plan.sheet}
	m.SettleAll()
	return m, m.Validate()
}

// JourneyTable returns the tables of the journeys of a sheet, by which they are read again. Several that have the same
// stages make one.
func JourneyTable(m *model.Map, s *model.Sheet) (rows [][]string) {
	var names []string
	several := len(s.Pools) > 1
	for _, p := range s.Pools {
		several = several || p.Title != "" || p.Words != ""
	}
	for _, p := range s.Pools {
		own := make([]string, 0, len(p.Stages))
		for _, st := range p.Stages {
			own = append(own, model.Flat(st.Name))
		}
		if !slices.Equal(own, names) || len(rows) == 0 {
			names = own
			head := append([]string{rowTitle, typeTitle}, names...)
			if several {
				head = append([]string{journeyTitle}, head...)
			}
			rows = append(rows, head)
		}
		for i := range p.Lanes {
			line := cellsOf(m, s, p, &p.Lanes[i])
			if several {
				title := ""
				if i == 0 {
					title = strings.TrimSpace(p.Title + "\n" + p.Words)
				}
				line = append([]string{title}, line...)
			}
			rows = append(rows, line)
		}
	}
	return rows
}

func cellsOf(m *model.Map, s *model.Sheet, p *model.Pool, lane *model.Lane) []string {
	kind := lane.Row.Row().Name
	if lane.Row == model.SumRow && m.Field(lane.Field) != nil {
		kind += ": " + m.FieldName(lane.Field)
	}
	line := []string{lane.Name, kind}
	sums := s.Board().Sums(lane.ID)
	over := 0
	for k, st := range p.Stages {
		if lane.Row == model.SumRow {
			sum := ""
			if k < len(sums) {
				sum = sums[k]
			}
			line = append(line, sum)
			continue
		}
		var items []string
		reach := 0
		for _, sym := range s.InCell(lane.ID, st.ID) {
			items = append(items, written(sym))
			reach = max(reach, min(sym.Span, len(p.Stages)-k)-1)
		}
		between := "\n"
		if lane.Row == model.WordsRow {
			between = "\n\n"
		}
		text := strings.Join(items, between)
		if text == "" && over > 0 {
			text = reaches
		}
		over = max(over-1, reach)
		line = append(line, text)
	}
	return line
}

// written is what a cell of a table says of a symbol.
func written(sym *model.Symbol) string {
	text := sym.Text
	switch sym.Kind {
	case model.WordsCell:
		return text
	case model.MoodCell:
		if text = strings.TrimSpace(fmt.Sprintf("%+d: %s", sym.Mood, text)); sym.Text == "" {
			text = fmt.Sprintf("%+d", sym.Mood)
		}
	case model.ContactCell:
		if sym.Sign != "" {
			text = "[" + sym.Sign + "] " + text
		}
	case model.Picture:
		text = strings.TrimSpace("(picture) " + text)
	}
	text = strings.ReplaceAll(text, "\n", "\n"+heldIn)
	if sym.Owner != "" {
		text += "\n" + doneBy + sym.Owner
	}
	return text
}
