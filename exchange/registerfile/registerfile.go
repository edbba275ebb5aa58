// Package registerfile reads tables that people have filled in elsewhere back for the register of a map: CSV (RFC 4180)
// with a comma, semicolon or tab between the cells, and spreadsheets (Office Open XML, ISO/IEC 29500; OpenDocument,
// ISO/IEC 26300).
//
// Read returns the cells as texts. What they mean is for package compose, which compares them with the map.
package registerfile

import (
	"bytes"
	"fmt"
	"math"
	"path"
	"strconv"
	"strings"
	"unicode/utf8"

	"github.com/xuri/excelize/v2"

	"plaintracer/core/compose"
	"plaintracer/core/model"
	"plaintracer/core/values"
	"plaintracer/exchange/book"
)

// The bounds of a file: its size, and how many rows and columns are read.
const (
	MaxSize    = 8 << 20
	maxRows    = model.MaxSymbols + 1000
	maxColumns = 200
)

// Fault says why a file cannot be read, and where.
type Fault struct {
	// Row counts from 1, Cell is a name such as C5; zero and empty for the file as a whole.
	Row  int
	Cell string
	Text string
}

func (f *Fault) Error() string {
	switch {
	case f.Cell != "":
		return fmt.Sprintf("cell %s: %s", f.Cell, f.Text)
	case f.Row > 0:
		return fmt.Sprintf("row %d: %s", f.Row, f.Text)
	}
	return f.Text
}

// As says how a table is read. One of text is in one of the Encodings, and has one of the Separators between its cells;
// both are empty for what is recognised. Loose takes any table: cells of spreadsheets as they are shown, and what is
// merged, of which each row has what stands there.
type As struct {
	Encoding, Separator string
	Loose               bool
}

// Read returns the table in a file; its kind follows from its name. The head of the map says what the columns hold.
// Every error is a *Fault.
func Read(name string, data []byte, head *model.Head) (*compose.Sheet, error) {
	return ReadAs(name, data, head, As{})
}

// ReadAs is Read of a table of text as is said.
func ReadAs(name string, data []byte, head *model.Head, as As) (*compose.Sheet, error) {
	if len(data) > MaxSize {
		return nil, &Fault{Text: fmt.Sprintf("the table is larger than %d MB", MaxSize>>20)}
	}
	if isODS(name, data) {
		return readODS(data, as.Loose)
	}
	if strings.EqualFold(path.Ext(name), ".xlsx") || bytes.HasPrefix(data, []byte("PK\x03\x04")) {
		return readBook(data, head, as.Loose)
	}
	return readText(data, as)
}

func readBook(data []byte, head *model.Head, loose bool) (*compose.Sheet, error) {
	opened, err := book.Open(data, !loose)
	if err != nil {
		return nil, &Fault{Text: err.Error()}
	}
	defer opened.Close()
	name := opened.GetSheetList()[0]
	computed, err := book.Computed(opened, name)
	if err != nil {
		return nil, &Fault{Text: err.Error()}
	}
	var merged []excelize.MergeCell
	if may, err := book.MayMerge(opened, name); err != nil {
		return nil, &Fault{Text: err.Error()}
	} else if may {
		if merged, err = opened.GetMergeCells(name, true); err != nil {
			return nil, &Fault{Text: "the merged cells cannot be read: " + err.Error()}
		}
		if len(merged) > 0 && !loose {
			return nil, &Fault{Cell: merged[0].GetStartAxis(),
				Text: "it is merged with those up to " + merged[0].GetEndAxis() + "; split them first"}
		}
	}
	list, err := opened.Rows(name)
	if err != nil {
		return nil, &Fault{Text: "the first sheet cannot be read: " + err.Error()}
	}
	defer list.Close()
	from1904 := opened.WorkBook != nil && opened.WorkBook.WorkbookPr != nil && opened.WorkBook.WorkbookPr.Date1904
	out := &gathering{Sheet: &compose.Sheet{Rows: [][]string{}, Notes: []string{}}}
	line := 0
	var types []values.Type
	sheet, clocked := name, clocks{}
	for list.Next() {
		line++
		cells, err := list.Columns()
		if err != nil {
			return nil, &Fault{Row: line, Text: err.Error()}
		}
		for i := range cells {
			if types == nil || i >= len(types) || cells[i] == "" {
				continue
			}
			name, _ := excelize.CoordinatesToCellName(i+1, line)
			switch types[i] {
			case values.Date:
				if cells[i], err = dayOf(cells[i], from1904); err != nil {
					return nil, &Fault{Cell: name, Text: err.Error()}
				}
			case values.Duration:
				if n, err := strconv.ParseFloat(cells[i], 64); err == nil && clocked.shows(opened, sheet, name) {
					cells[i] = minutes(n * 24 * 60)
				}
			}
		}
		if err := out.add(cells, line); err != nil {
			return nil, err
		}
		for i := range cells {
			if computed[[2]int{line, i + 1}] {
				out.Computed = append(out.Computed, [2]int{len(out.Rows) - 1, i})
			}
		}
		if line == 1 {
			types = typesOf(cells, head)
		}
	}
	if err := list.Error(); err != nil {
		return nil, &Fault{Row: line, Text: err.Error()}
	}
	out.spread(merged)
	comments, err := opened.GetComments(sheet)
	if err != nil {
		return nil, &Fault{Text: "the comments cannot be read: " + err.Error()}
	}
	for _, c := range comments {
		column, row, err := excelize.CellNameToCoordinates(c.Cell)
		if err != nil {
			continue
		}
		out.comment(row-1, column-1, c.Author, c.Text)
	}
	return out.Sheet, out.fits()
}

// mostComments bounds how many comments are read.
const mostComments = 500

// comment takes what somebody said of a cell. Some programs begin the text with the name.
func (r *gathering) comment(row, column int, author, text string) {
	text = strings.TrimSpace(strings.TrimPrefix(strings.TrimSpace(text), author+":"))
	if n := []rune(text); len(n) > model.MaxText {
		text = string(n[:model.MaxText])
	}
	if len(r.Comments) < mostComments && text != "" {
		r.Comments = append(r.Comments, compose.CellComment{Row: row, Column: column, Author: author, Text: text})
	}
}

// spread gives each row what stands in the cells that are merged over it.
func (r *gathering) spread(merged []excelize.MergeCell) {
	for _, m := range merged {
		column, from, err := excelize.CellNameToCoordinates(m.GetStartAxis())
		_, to, fault := excelize.CellNameToCoordinates(m.GetEndAxis())
		if err != nil || fault != nil || from > len(r.Rows) || column > len(r.Rows[from-1]) {
			continue
		}
		text := r.Rows[from-1][column-1]
		for i := from; i < to && i < len(r.Rows); i++ {
			for len(r.Rows[i]) < column {
				r.Rows[i] = append(r.Rows[i], "")
			}
			if r.Rows[i][column-1] == "" {
				r.Rows[i][column-1] = text
			}
		}
	}
}

// typesOf are the types of the columns, by their titles.
func typesOf(titles []string, head *model.Head) []values.Type {
	out := make([]values.Type, len(titles))
	for i, title := range titles {
		for k := range head.Fields {
			if f := &head.Fields[k]; strings.EqualFold(strings.Join(strings.Fields(title), " "), head.FieldTitle(f)) {
				out[i] = f.Type
			}
		}
	}
	return out
}

// minutes are a number of them as a duration is read, to a millionth.
func minutes(n float64) string {
	return strconv.FormatFloat(math.Round(n*1e6)/1e6, 'f', -1, 64) + " min"
}

// clocks are the styles of cells, and whether each shows a number as hours and minutes, of which a day has one.
type clocks map[int]bool

// shows reports whether a cell shows its number so. Others have minutes.
func (c clocks) shows(opened *excelize.File, sheet, cell string) bool {
	id, err := opened.GetCellStyle(sheet, cell)
	if err != nil {
		return false
	}
	known, ok := c[id]
	if !ok {
		if style, err := opened.GetStyle(id); err == nil {
			known = style.NumFmt >= 18 && style.NumFmt <= 22 || style.NumFmt >= 45 && style.NumFmt <= 47
			if style.CustomNumFmt != nil {
				known = strings.Contains(*style.CustomNumFmt, "h") && strings.Contains(*style.CustomNumFmt, ":")
			}
		}
		c[id] = known
	}
	return known
}

// dayOf returns a date as the register has it, of a text or of a day's number. Before 1 March 1900 these numbers say
// different days in different programs, which take that year for a leap year or do not.
func dayOf(cell string, from1904 bool) (string, error) {
	n, err := strconv.ParseFloat(cell, 64)
	if err != nil {
		return cell, nil
	}
	if math.IsNaN(n) || n < 61 && !from1904 || n < 0 || n > 2958465 {
		return "", fmt.Errorf("this is no date from 1 March 1900 on; write it as text, like 1899-12-31")
	}
	day, err := excelize.ExcelDateToTime(math.Floor(n), from1904)
	if err != nil {
		return "", err
	}
	return day.Format("2006-01-02"), nil
}

// gathering gathers rows within the bounds.
type gathering struct{ *compose.Sheet }

func (r *gathering) add(record []string, line int) error {
	for len(record) > 0 && strings.TrimSpace(record[len(record)-1]) == "" {
		record = record[:len(record)-1]
	}
	if len(record) > maxColumns {
		return &Fault{Row: line, Text: fmt.Sprintf("it has %d cells; a register has at most %d columns", len(record),
			maxColumns)}
	}
	if r.Rows = append(r.Rows, record); len(r.Rows) > maxRows {
		return &Fault{Row: line, Text: fmt.Sprintf("the table goes on; a map has at most %d steps on a sheet",
			model.MaxSymbols)}
	}
	for i, cell := range record {
		if n := utf8.RuneCountInString(cell); n > model.MaxText {
			return &Fault{Row: line, Text: fmt.Sprintf("column %d holds %d characters; at most %d fit", i+1, n,
				model.MaxText)}
		}
	}
	return nil
}

// fits reports a table in which there is nothing.
func (r *gathering) fits() error {
	if len(r.Rows) == 0 {
		return &Fault{Text: "the file holds no table"}
	}
	return nil
}
