package steptable

import (
	"bytes"
	"fmt"
	"io"
	"path"
	"slices"
	"strings"

	"plaintracer/core/model"
	"plaintracer/exchange/book"
)

// maxRows is how many rows of a spreadsheet are read.
const maxRows = model.MaxSymbols + 1

// IsTable reports whether a file is a table of steps, by its name and how it begins.
func IsTable(name string, data []byte) bool {
	switch strings.ToLower(path.Ext(name)) {
	case ".csv", ".tsv":
		return true
	case ".xlsx", ".ods":
		return bytes.HasPrefix(data, []byte("PK"))
	}
	return false
}

// ReadFile returns the map of a table of steps in a file, which is a spreadsheet where its name says so. Every error is
// a *Fault.
func ReadFile(name string, data []byte, title string, direction model.Direction) (*model.Map, error) {
	if !strings.EqualFold(path.Ext(name), ".xlsx") {
		return Read(data, title, direction)
	}
	if len(data) > maxSize {
		return nil, &Fault{Text: fmt.Sprintf("the table is larger than %d MB", maxSize>>20)}
	}
	rows, own, err := readSheet(data)
	if err != nil {
		return nil, err
	}
	return build(rows, own, title, direction)
}

func readSheet(data []byte) ([]row, []string, error) {
	opened, err := book.Open(data, false)
	if err != nil {
		return nil, nil, &Fault{Text: err.Error()}
	}
	defer opened.Close()
	list, err := opened.Rows(opened.GetSheetList()[0])
	if err != nil {
		return nil, nil, &Fault{Text: "the first sheet cannot be read: " + err.Error()}
	}
	defer list.Close()
	line := 0
	return gather(func() ([]string, int, error) {
		if !list.Next() {
			if err := list.Error(); err != nil {
				return nil, 0, &Fault{Line: line, Text: err.Error()}
			}
			return nil, 0, io.EOF
		}
		if line++; line > maxRows+1000 { // empty ones count little
			return nil, 0, &Fault{Line: line, Text: fmt.Sprintf("a sheet holds at most %d steps", model.MaxSymbols)}
		}
		cells, err := list.Columns()
		if err != nil {
			return nil, 0, &Fault{Line: line, Text: err.Error()}
		}
		for len(cells) > 0 && slices.Contains([]string{""}, cells[len(cells)-1]) {
			cells = cells[:len(cells)-1]
		}
		return cells, line, nil
	})
}

// ReadRows is Read for a table whose rows are known, the titles first.
func ReadRows(table [][]string, title string, direction model.Direction) (*model.Map, error) {
	at := 0
	rows, own, err := gather(func() ([]string, int, error) {
		if at++; at > len(table) {
			return nil, 0, io.EOF
		}
		return table[at-1], at, nil
	})
	if err != nil {
		return nil, err
	}
	return build(rows, own, title, direction)
}
