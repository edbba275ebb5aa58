package exchange

import (
	"archive/zip"
	"bytes"
	"context"
	"fmt"
	"maps"
	"slices"
	"strconv"
	"strings"
	"time"
	"unicode/utf8"

	"github.com/xuri/excelize/v2"

	"plaintracer/core/values"
)

// columns is how many columns the table has: some tables stand below others with fewer.
func (t *table) columns() (n int) {
	for _, row := range t.rows {
		n = max(n, len(row))
	}
	return n
}

// widths are how many characters wide the columns are: as their texts, within bounds.
func (t *table) widths() []int {
	const least, most = 8, 48
	out := make([]int, t.columns())
	for r, row := range t.rows {
		for c, text := range row {
			for _, line := range strings.Split(text, "\n") {
				n := utf8.RuneCountInString(line) + 2
				if r == 0 {
					n += 3 // a sign to filter by stands beside a title
				}
				out[c] = max(out[c], min(n, most))
			}
		}
	}
	for c := range out {
		out[c] = max(out[c], least)
	}
	return out
}

// format is how a spreadsheet shows the values of a column; empty for texts.
func (t *table) format(column int) string {
	format := t.types[column].Cell()
	if t.types[column] == values.Money && t.currency != "" {
		format += ` "` + strings.ReplaceAll(t.currency, `"`, "") + `"`
	}
	return format
}

// write puts the rows into a sheet of a book, with the types of their cells, and what columns can hold into lists. It
// streams, since a book that is built cell by cell takes many times as long.
func (t *table) write(f *excelize.File, lists *lists) error {
	wrap, err := f.NewStyle(&excelize.Style{Alignment: &excelize.Alignment{WrapText: true, Vertical: "top"}})
	if err != nil {
		return err
	}
	quiet, err := f.NewStyle(&excelize.Style{Font: &excelize.Font{Color: "999999", Size: 8}})
	if err != nil {
		return err
	}
	asText := "@"
	textual, err := f.NewStyle(&excelize.Style{CustomNumFmt: &asText,
		Alignment: &excelize.Alignment{WrapText: true, Vertical: "top"}})
	if err != nil {
		return err
	}
	styles := map[int]int{}
	for at := range t.types {
		if format := t.format(at); format != "" {
			if styles[at], err = f.NewStyle(&excelize.Style{CustomNumFmt: &format,
				Alignment: &excelize.Alignment{Vertical: "top"}}); err != nil {
				return err
			}
		}
	}
	bold, err := f.NewStyle(&excelize.Style{Font: &excelize.Font{Bold: true},
		Alignment: &excelize.Alignment{Vertical: "top", WrapText: true}})
	if err != nil {
		return err
	}
	fits := true // said before the sheet begins to stream
	if err := f.SetSheetProps(t.name, &excelize.SheetPropsOptions{FitToPage: &fits}); err != nil {
		return err
	}
	w, err := f.NewStreamWriter(t.name)
	if err != nil {
		return err
	}
	if err := t.asSheet(f, w, lists); err != nil {
		return err
	}
	for r, row := range t.rows {
		cells := make([]any, len(row))
		for c, text := range row {
			cell := excelize.Cell{StyleID: wrap, Value: text}
			switch n, err := strconv.Atoi(text); {
			case r == 0:
				cell.StyleID = bold
			case c == t.quiet && t.quiet > 0:
				cell.StyleID = quiet
			case t.text[c]:
				cell.StyleID = textual
			case t.types[c] != "":
				if cell.Value = typed(t.types[c], t.values[r][c], text); styles[c] > 0 {
					cell.StyleID = styles[c]
				}
			case err == nil && strconv.Itoa(n) == text:
				cell.Value = n
			}
			cells[c] = cell
		}
		at, err := excelize.CoordinatesToCellName(1, r+1)
		if err != nil {
			return err
		}
		if err := w.SetRow(at, cells); err != nil {
			return err
		}
	}
	return w.Flush()
}

// asSheet says how the sheet of a table looks and is printed: columns as wide as their texts, the titles staying in
// sight and on every page, with signs to filter by, and what can be chosen from in the cells of a column.
func (t *table) asSheet(f *excelize.File, w *excelize.StreamWriter, lists *lists) error {
	for c, width := range slices.Backward(t.widths()) { // the writer puts the last one said first
		if err := w.SetColWidth(c+1, c+1, float64(width)); err != nil {
			return err
		}
	}
	last, err := excelize.CoordinatesToCellName(t.columns(), max(len(t.rows), 2))
	if err != nil {
		return err
	}
	landscape, one, endless := "landscape", 1, 0
	for _, err := range []error{
		w.SetPanes(&excelize.Panes{Freeze: true, YSplit: 1, TopLeftCell: "A2", ActivePane: "bottomLeft"}),
		f.AutoFilter(t.name, "A1:"+last, nil),
		f.SetPageLayout(t.name, &excelize.PageLayoutOptions{Orientation: &landscape, FitToWidth: &one,
			FitToHeight: &endless}),
		f.SetDefinedName(&excelize.DefinedName{Name: "_xlnm.Print_Titles", RefersTo: "'" + t.name + "'!$1:$1",
			Scope: t.name}),
	} {
		if err != nil {
			return err
		}
	}
	const further = 200 // lines under the table, for new ones
	for _, c := range sortedKeys(t.choices) {
		if len(t.choices[c]) == 0 {
			continue
		}
		from, err := excelize.CoordinatesToCellName(c+1, 2)
		if err != nil {
			return err
		}
		to, err := excelize.CoordinatesToCellName(c+1, len(t.rows)+further)
		if err != nil {
			return err
		}
		choice := excelize.NewDataValidation(true)
		choice.SetSqref(from + ":" + to)
		choice.SetSqrefDropList(lists.add(t.choices[c]))
		choice.SetError(excelize.DataValidationErrorStyleWarning, t.rows[0][c],
			"This is none of those there are so far.")
		if err := f.AddDataValidation(t.name, choice); err != nil {
			return err
		}
	}
	return nil
}

// listsSheet is the sheet that holds what can be chosen from; it is not shown.
const listsSheet = "Lists"

// lists are what can be chosen from, each a column of the sheet.
type lists struct{ columns [][]string }

// add adds a list, and returns where it stands.
func (l *lists) add(list []string) string {
	at := slices.IndexFunc(l.columns, func(other []string) bool { return slices.Equal(other, list) })
	if at < 0 {
		at = len(l.columns)
		l.columns = append(l.columns, list)
	}
	name, err := excelize.ColumnNumberToName(at + 1)
	if err != nil {
		return ""
	}
	return fmt.Sprintf("%s!$%s$1:$%s$%d", listsSheet, name, name, len(list))
}

func (l *lists) write(f *excelize.File) error {
	if len(l.columns) == 0 {
		return nil
	}
	if _, err := f.NewSheet(listsSheet); err != nil {
		return err
	}
	for c, list := range l.columns {
		at, err := excelize.CoordinatesToCellName(c+1, 1)
		if err != nil {
			return err
		}
		if err := f.SetSheetCol(listsSheet, at, &list); err != nil {
			return err
		}
	}
	return f.SetSheetVisible(listsSheet, false)
}

func sortedKeys(m map[int][]string) []int { return slices.Sorted(maps.Keys(m)) }

// minutesInDay are as many as spreadsheets count as one.
const minutesInDay = 24 * 60

// typed is a value as a cell of a spreadsheet holds it: a number, a day, or its text.
func typed(kind values.Type, value, text string) any {
	if kind == values.Date {
		if day, err := time.Parse(time.DateOnly, value); err == nil && day.Year() > 1900 && day.Year() < 9999 {
			return day
		}
		return value
	}
	if kind.Counts() {
		if n, err := strconv.ParseFloat(value, 64); err == nil {
			if kind == values.Duration {
				n /= minutesInDay
			}
			return n
		}
	}
	return text
}

// sheets are the tables of a spreadsheet, the first of which is what a program reads.
func sheets(j *Job) []table {
	list := []table{registerTable(j), fieldsTable(j), lanesTable(j), connectorsTable(j)}
	if cases := casesTable(j); len(cases.rows) > 1 {
		list = append(list, cases)
	}
	if people := peopleTable(j); len(people.rows) > 1 { // where there are no steps, it is what a program reads first
		at := 1
		if len(list[0].rows) == 1 {
			at = 0
		}
		list = slices.Insert(list, at, people)
	}
	if journeys := journeyTable(j); len(journeys.rows) > 1 {
		at := 1
		if len(list[0].rows) == 1 {
			at = 0
		}
		list = slices.Insert(list, at, journeys)
	}
	return list
}

func writeXLSX(_ context.Context, j *Job) ([]byte, error) {
	f := excelize.NewFile()
	defer f.Close()
	lists := &lists{}
	for i, t := range sheets(j) {
		if i == 0 {
			if err := f.SetSheetName("Sheet1", t.name); err != nil {
				return nil, err
			}
		} else if _, err := f.NewSheet(t.name); err != nil {
			return nil, err
		}
		if err := t.write(f, lists); err != nil {
			return nil, err
		}
	}
	if err := lists.write(f); err != nil {
		return nil, err
	}
	// The day the file says it was made on has to be one; it is the one chosen, or always the same.
	day, err := j.Settings.day()
	if err != nil {
		return nil, err
	}
	said := "2000-01-01T00:00:00Z"
	if !day.IsZero() {
		said = day.UTC().Format("2006-01-02T15:04:05Z")
	}
	if err := f.SetDocProps(&excelize.DocProperties{Title: j.Whole.Title, Creator: "Plain Tracer", Created: said,
		Modified: said}); err != nil {
		return nil, err
	}
	out, err := f.WriteToBuffer()
	if err != nil {
		return nil, err
	}
	return inOrder(out.Bytes())
}

// inOrder returns an archive with its files by name, since streamed sheets are written in whatever order.
func inOrder(archive []byte) ([]byte, error) {
	r, err := zip.NewReader(bytes.NewReader(archive), int64(len(archive)))
	if err != nil {
		return nil, err
	}
	slices.SortFunc(r.File, func(a, b *zip.File) int { return strings.Compare(a.Name, b.Name) })
	var out bytes.Buffer
	w := zip.NewWriter(&out)
	for _, f := range r.File {
		if err := w.Copy(f); err != nil {
			return nil, err
		}
	}
	err = w.Close()
	return out.Bytes(), err
}
