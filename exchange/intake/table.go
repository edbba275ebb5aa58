package intake

import (
	"context"
	"path"
	"slices"
	"strings"

	"plaintracer/core/compose"
	"plaintracer/core/model"
	"plaintracer/core/steplist"
	"plaintracer/exchange/registerfile"
	"plaintracer/exchange/steptable"
)

// Asked is what is said of a table that becomes a map: the title and direction of the map, how a table of text is
// written, and how a list of steps is read, nil for what is guessed.
type Asked struct {
	Title               string
	Direction           model.Direction
	Encoding, Separator string
	Reading             *steplist.Reading
}

// Listed is a table that was read, and the map that it becomes. The map is not laid out yet.
type Listed struct {
	Map *model.Map
	// Known says that the table says by its titles what its columns are. Reading is how any other list of steps is
	// read, Plan what comes of it; both are nil for known ones, beside registers.
	Known   bool
	Reading *steplist.Reading
	Plan    *steplist.Plan
	// Rows are the first lines of the table. Encoding, Separator and Doubt are as in compose.Sheet.
	Rows                       [][]string
	Encoding, Separator, Doubt string
}

// rowsShown is how many lines of a table are shown to whoever says what its columns are.
const rowsShown = 8

// ReadTable reads a table of steps of any form, one of people, who become a hierarchy, or one of a journey; the name
// says what kind of file it is. The map is nil where the plan says that there is none.
func ReadTable(name string, data []byte, a Asked) (*Listed, error) {
	as := registerfile.As{Encoding: a.Encoding, Separator: a.Separator, Loose: true}
	table, err := registerfile.ReadAs(name, data, &model.Head{}, as)
	if err != nil {
		return nil, err
	}
	out := &Listed{Known: true, Rows: table.Rows[:min(len(table.Rows), rowsShown)], Encoding: table.Encoding,
		Separator: table.Separator, Doubt: table.Doubt}
	if !slices.ContainsFunc(table.Rows, func(row []string) bool {
		return strings.TrimSpace(strings.Join(row,
			"")) != ""
	}) {
		return nil, &registerfile.Fault{Text: "the file holds no table"}
	}
	titles := table.Rows[0]
	has := func(title string) bool {
		return slices.ContainsFunc(titles, func(t string) bool { return strings.EqualFold(model.Flat(t), title) })
	}
	switch {
	case a.Reading != nil:
	case compose.IsPeople(titles):
		out.Map, err = compose.PeopleMap(*table, a.Title)
		return out, err
	case compose.IsJourney(titles):
		out.Map, err = compose.JourneyMap(*table, a.Title)
		return out, err
	case has("id") && has("text"):
		if strings.EqualFold(path.Ext(name), ".csv") && table.Encoding == "utf-8" && table.Separator == "comma" {
			out.Map, err = steptable.Read(data, a.Title, a.Direction) // which says of faults in which line of the text
		} else {
			out.Map, err = steptable.ReadRows(table.Rows, a.Title, a.Direction)
		}
		return out, err
	}
	reading := a.Reading
	if reading == nil {
		guess := steplist.Guess(table.Rows)
		reading = &guess
		out.Known = steplist.Known(titles)
	} else {
		out.Known = false
		if len(reading.Columns) == 0 {
			guess := steplist.GuessUnder(table.Rows, reading.Titles)
			guess.Ends = guess.Ends || reading.Ends
			reading = &guess
		}
	}
	plan, rows := steplist.Read(table.Rows, *reading)
	out.Reading, out.Plan = reading, plan
	out.Rows = table.Rows[:min(len(table.Rows), max(reading.Titles, 1)+rowsShown)]
	if rows != nil {
		if out.Map, err = steptable.ReadRows(rows, a.Title, a.Direction); err != nil {
			out.Map, out.Plan.Refusal = nil, err.Error()
		}
	}
	return out, nil
}

// Table is ReadTable through the gate.
func Table(ctx context.Context, name string, data []byte, a Asked) (*Listed, error) {
	out, err := through[*Listed](ctx, tableReader, tableHead{name, a}, data)
	if err == nil && out.Map != nil {
		out.Map.SettleAll()
	}
	return out, err
}
