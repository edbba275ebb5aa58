// Package registerfile reads tables that people have filled in elsewhere back for the register of a map: CSV (RFC 4180)
// with a comma, semicolon or tab between the cells, and spreadsheets (Office Open XML, ISO/IEC 29500; OpenDocument,
// ISO/IEC 26300).
//
// Read returns the cells as texts. What they mean is for package compose, which compares them with the map.
package registerfile

import (
	"bytes"
	"encoding/csv"
	"errors"
	"fmt"
	"io"
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
	"plaintracer/exchange/cell"
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

// Read returns the table in a file; its kind follows from its name. The head of the map says what the columns hold.
// Every error is a *Fault.
func Read(name string, data []byte, head *model.Head) (*compose.Sheet, error) {
	if len(data) > MaxSize {
		return nil, &Fault{Text: fmt.Sprintf("the table is larger than %d MB", MaxSize>>20)}
	}
	if isODS(name, data) {
		return readODS(data)
	}
	if strings.EqualFold(path.Ext(name), ".xlsx") || bytes.HasPrefix(data, []byte("PK\x03\x04")) {
		return readBook(data, head)
	}
	return readText(data)
}

// separatorOf is what stands most often between the cells of the first line: a comma, a semicolon or a tab.
func separatorOf(text string) rune {
	line, _, _ := strings.Cut(text, "\n")
	best, most := ',', strings.Count(line, ",")
	for _, r := range ";\t" {
		if n := strings.Count(line, string(r)); n > most {
			best, most = r, n
		}
	}
	return best
}

func readText(data []byte) (*compose.Sheet, error) {
	data = bytes.TrimPrefix(data, []byte("\xef\xbb\xbf"))
	if !utf8.Valid(data) {
		return nil, &Fault{Text: "the table is not in UTF-8; save it so"}
	}
	r := csv.NewReader(bytes.NewReader(data))
	r.Comma = separatorOf(string(data))
	r.FieldsPerRecord = -1
	out := &reading{Sheet: &compose.Sheet{Rows: [][]string{}, Notes: []string{}}}
	for {
		record, err := r.Read()
		if errors.Is(err, io.EOF) {
			break
		}
		var broken *csv.ParseError
		if errors.As(err, &broken) {
			return nil, &Fault{Row: broken.StartLine, Text: broken.Err.Error()}
		}
		if err != nil {
			return nil, &Fault{Text: err.Error()}
		}
		line, _ := r.FieldPos(0)
		for i := range record { // what was written so that no spreadsheet takes it for a formula
			record[i] = cell.Plain(record[i])
		}
		if err := out.add(record, line); err != nil {
			return nil, err
		}
	}
	return out.Sheet, out.fits()
}

func readBook(data []byte, head *model.Head) (*compose.Sheet, error) {
	opened, err := book.Open(data, true)
	if err != nil {
		return nil, &Fault{Text: err.Error()}
	}
	defer opened.Close()
	name := opened.GetSheetList()[0]
	computed, err := book.Computed(opened, name)
	if err != nil {
		return nil, &Fault{Text: err.Error()}
	}
	if may, err := book.MayMerge(opened, name); err != nil {
		return nil, &Fault{Text: err.Error()}
	} else if may {
		merged, err := opened.GetMergeCells(name, true)
		if err != nil {
			return nil, &Fault{Text: "the merged cells cannot be read: " + err.Error()}
		}
		if len(merged) > 0 {
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
	out := &reading{Sheet: &compose.Sheet{Rows: [][]string{}, Notes: []string{}}}
	line := 0
	var types []values.Type
	for list.Next() {
		line++
		cells, err := list.Columns()
		if err != nil {
			return nil, &Fault{Row: line, Text: err.Error()}
		}
		for i := range cells {
			if types == nil || i >= len(types) || types[i] != values.Date || cells[i] == "" {
				continue
			}
			if cells[i], err = dayOf(cells[i], from1904); err != nil {
				name, _ := excelize.CoordinatesToCellName(i+1, line)
				return nil, &Fault{Cell: name, Text: err.Error()}
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
	return out.Sheet, out.fits()
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

// reading gathers rows within the bounds.
type reading struct{ *compose.Sheet }

func (r *reading) add(record []string, line int) error {
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
func (r *reading) fits() error {
	if len(r.Rows) == 0 {
		return &Fault{Text: "the file holds no table"}
	}
	return nil
}
