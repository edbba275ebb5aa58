// Package steptable reads a table of steps: a CSV file (RFC 4180) or the first sheet of a spreadsheet (XLSX) with the
// columns id, text, kind, lane and next, in any order; further columns become fields of the map. Every row is a step;
// next lists what it leads to, separated by semicolons, each as the id of a step or as label:id.
package steptable

import (
	"bytes"
	"encoding/csv"
	"errors"
	"fmt"
	"io"
	"slices"
	"strings"
	"unicode/utf8"

	"plaintracer/core/arrange"
	"plaintracer/core/compose"
	"plaintracer/core/geometry"
	"plaintracer/core/model"
	"plaintracer/core/symbols"
	"plaintracer/core/values"
)

// maxSize is the largest table that is read, in bytes.
const maxSize = 8 << 20

// Fault is what is wrong with a table, and where: the line, and the column by its
// name where there is one.
type Fault struct {
	Line   int
	Column string
	Text   string
}

func (f *Fault) Error() string {
	switch {
	case f.Line == 0:
		return f.Text
	case f.Column == "":
		return fmt.Sprintf("line %d: %s", f.Line, f.Text)
	}
	return fmt.Sprintf("line %d, column %s: %s", f.Line, f.Column, f.Text)
}

// columns are those that are read; the first two must be there.
var columns = []string{"id", "text", "kind", "lane", "next"}

// longest says how many characters a cell may have.
var longest = map[string]int{"text": model.MaxText, "lane": model.MaxName, "next": 100 * model.MaxText}

// row is one step as it stands in the table.
type row struct {
	line  int
	cells map[string]string
	// own are the cells of the further columns, in their order.
	own []string
}

// Read returns the map of a table: one sheet, the steps in their lanes but not laid
// out. A step without a kind is a process, or a decision when its text ends in a
// question mark. Every error is a *Fault.
func Read(data []byte, title string, direction model.Direction) (*model.Map, error) {
	if len(data) > maxSize {
		return nil, &Fault{Text: fmt.Sprintf("the table is larger than %d MB", maxSize>>20)}
	}
	if !utf8.Valid(data) {
		return nil, &Fault{Text: "the table is not in UTF-8"}
	}
	rows, own, err := read(bytes.TrimPrefix(data, []byte("\ufeff")))
	if err != nil {
		return nil, err
	}
	return build(rows, own, title, direction)
}

// build makes the map of rows, with the titles of the further columns.
func build(rows []row, own []string, title string, direction model.Direction) (*model.Map, error) {
	m := model.New(title, direction, "A4", direction == model.Rightwards)
	s := m.Sheets[0]
	if err := steps(m, s, rows); err != nil {
		return nil, err
	}
	if err := links(s, rows); err != nil {
		return nil, err
	}
	if err := fields(m, own, rows); err != nil {
		return nil, err
	}
	if err := m.Validate(); err != nil {
		return nil, &Fault{Text: err.Error()}
	}
	return m, nil
}

func read(data []byte) ([]row, []string, error) {
	r := csv.NewReader(bytes.NewReader(data))
	r.FieldsPerRecord = -1
	return gather(func() ([]string, int, error) {
		record, err := r.Read()
		if err != nil && !errors.Is(err, io.EOF) {
			err = broken(err)
		}
		if err != nil {
			return nil, 0, err
		}
		line, _ := r.FieldPos(0)
		return record, line, nil
	})
}

// gather reads the rows of a table, which next gives one after the other with the line each stands in.
func gather(next func() ([]string, int, error)) (rows []row, own []string, err error) {
	head, _, err := next()
	if err != nil {
		if errors.Is(err, io.EOF) {
			return nil, nil, &Fault{Text: "the table is empty"}
		}
		return nil, nil, err
	}
	place := map[string]int{}
	further := []int{}
	for i, name := range head {
		title := strings.Join(strings.Fields(name), " ")
		name = strings.ToLower(title)
		if name != "" && !slices.Contains(columns, name) {
			if slices.ContainsFunc(own, func(o string) bool { return strings.EqualFold(o, title) }) {
				return nil, nil, &Fault{1, title, "this column is there twice"}
			}
			if further, own = append(further, i), append(own, title); len(own) > model.MaxFields {
				return nil, nil, &Fault{1, title, fmt.Sprintf("beside the known columns there are at most %d",
					model.MaxFields)}
			}
		}
		for _, known := range columns {
			if name == known {
				if _, twice := place[name]; twice {
					return nil, nil, &Fault{1, name, "this column is there twice"}
				}
				place[name] = i
			}
		}
	}
	for _, name := range columns[:2] {
		if _, ok := place[name]; !ok {
			return nil, nil, &Fault{1, name,
				"this column is missing: the first line names the columns id, text, kind, lane and next"}
		}
	}
	for {
		record, line, err := next()
		if errors.Is(err, io.EOF) {
			return rows, own, nil
		}
		if err != nil {
			return nil, nil, err
		}
		if len(record) > len(head) {
			return nil, nil, &Fault{line, "", fmt.Sprintf("there are %d values, but only %d columns", len(record),
				len(head))}
		}
		one := row{line: line, cells: map[string]string{}}
		empty := true
		for _, name := range columns {
			if i, ok := place[name]; ok && i < len(record) {
				one.cells[name] = strings.TrimSpace(record[i])
				empty = empty && one.cells[name] == ""
			}
		}
		if empty {
			continue
		}
		for _, i := range further {
			cell := ""
			if i < len(record) {
				cell = strings.TrimSpace(record[i])
			}
			one.own = append(one.own, cell)
		}
		for name, most := range longest {
			if n := utf8.RuneCountInString(one.cells[name]); n > most {
				return nil, nil, &Fault{line, name, fmt.Sprintf("there are %d characters; at most %d fit", n, most)}
			}
		}
		if rows = append(rows, one); len(rows) > model.MaxSymbols {
			return nil, nil, &Fault{line, "", fmt.Sprintf("a sheet holds at most %d steps", model.MaxSymbols)}
		}
	}
}

func broken(err error) error {
	var p *csv.ParseError
	if errors.As(err, &p) {
		return &Fault{p.Line, "", fmt.Sprintf("at character %d: %v", p.Column, p.Err)}
	}
	return &Fault{Text: err.Error()}
}

// steps makes the symbols and lanes.
func steps(m *model.Map, s *model.Sheet, rows []row) error {
	seen := map[string]int{}
	lanes := map[string]int{}
	var pool *model.Pool
	prefix := "lane"
	for taken := true; taken; { // lanes get ids that no step has
		taken = false
		for _, r := range rows {
			if strings.HasPrefix(r.cells["id"], prefix) {
				taken = true
				prefix += "-"
				break
			}
		}
	}
	var list []model.Symbol
	var strips []int
	for _, r := range rows {
		id := r.cells["id"]
		if id == "" {
			return &Fault{r.line, "id", "every step needs an id"}
		}
		if !model.ValidID(id) {
			return &Fault{r.line, "id",
				fmt.Sprintf("%q is no id: at most 64 letters, digits, points, hyphens and underscores", id)}
		}
		if first, ok := seen[id]; ok {
			return &Fault{r.line, "id", fmt.Sprintf("%q is the id of line %d already", id, first)}
		}
		seen[id] = r.line
		kind := model.Kind(strings.ToLower(r.cells["kind"]))
		if kind == "" {
			if kind = compose.KindOf(model.Process, r.cells["text"]); kind == model.Decision {
				kind = model.Decision
			}
		}
		if !kind.Known() {
			return &Fault{r.line, "kind", fmt.Sprintf("there is no kind %q", r.cells["kind"])}
		}
		def := symbols.Of(kind)
		list = append(list, model.Symbol{ID: id, Kind: kind, Text: r.cells["text"],
			Box: geometry.Box{W: def.W, H: def.H}})
		strip := -1
		if name := r.cells["lane"]; name != "" {
			if pool == nil {
				pool = &model.Pool{ID: prefix + "s", Title: m.Title, X: 30 * geometry.Px, Y: 40 * geometry.Px,
					W: model.MinPool, Down: m.Direction == model.Downwards}
				s.Pools = append(s.Pools, pool)
			}
			k, ok := lanes[name]
			if !ok {
				k = len(pool.Lanes)
				lanes[name] = k
				pool.Lanes = append(pool.Lanes, model.Lane{ID: fmt.Sprintf("%s%d", prefix, k+1), Name: name,
					H: model.LaneHeight})
			}
			strip = k
		}
		strips = append(strips, strip)
	}
	arrange.Largest(m, s, list)
	for i := range list {
		sym := &list[i]
		if k := strips[i]; k >= 0 {
			b := pool.Own(sym.Box)
			pool.Lanes[k].H = max(pool.Lanes[k].H, b.H+2*model.LanePad)
			pool.W = max(pool.W, b.W+pool.Heads()+2*model.LanePad)
		}
	}
	beyond := 40 * geometry.Px
	if pool != nil {
		beyond = pool.Box().Bottom() + 40*geometry.Px
	}
	for i := range list {
		sym := &list[i]
		if k := strips[i]; k >= 0 {
			inner, b := pool.Own(pool.Inner(k)), pool.Own(sym.Box)
			sym.Box = pool.Own(b.At(geometry.Point{X: inner.X + model.LanePad, Y: inner.Y + (inner.H-b.H)/2}))
		} else {
			sym.X, sym.Y = 40*geometry.Px, beyond
		}
		s.Symbols = append(s.Symbols, sym)
	}
	return nil
}

// fields makes a field of the map of every further column, and gives the steps their values.
func fields(m *model.Map, titles []string, rows []row) error {
	for k, title := range titles {
		f := model.Field{ID: fmt.Sprintf("f-%d", k+1), Name: title}
		var fault error
		for _, t := range values.Guesses() {
			fault = nil
			for _, r := range rows {
				if _, err := values.Read(t, nil, r.own[k], values.Measures{}); err != nil {
					fault = &Fault{r.line, title, err.Error()}
					break
				}
			}
			if f.Type = t; fault == nil {
				break
			}
		}
		if fault != nil {
			return fault
		}
		m.Fields = append(m.Fields, f)
		for _, r := range rows {
			if value, err := values.Read(f.Type, nil, r.own[k], values.Measures{}); err == nil && value != "" {
				sym := m.Sheets[0].Symbol(r.cells["id"])
				sym.Values = append(sym.Values, model.Value{ID: f.ID, Text: value})
			}
		}
	}
	return nil
}

// links makes the connectors.
func links(s *model.Sheet, rows []row) error {
	used, steps := map[string]bool{}, map[string]bool{}
	for _, sym := range s.Symbols {
		used[sym.ID], steps[sym.ID] = true, true
	}
	n := 0
	for _, r := range rows {
		for _, next := range strings.Split(r.cells["next"], ";") {
			if next = strings.TrimSpace(next); next == "" {
				continue
			}
			label, target := "", next
			if k := strings.LastIndex(next, ":"); k >= 0 {
				label, target = strings.TrimSpace(next[:k]), strings.TrimSpace(next[k+1:])
			}
			if !steps[target] {
				return &Fault{r.line, "next", fmt.Sprintf("there is no step %q", target)}
			}
			if target == r.cells["id"] {
				return &Fault{r.line, "next", fmt.Sprintf("the step %q leads to itself", target)}
			}
			id := ""
			for ok := false; !ok; ok = !used[id] {
				n++
				id = fmt.Sprintf("link%d", n)
			}
			if len(s.Connectors) >= model.MaxConnectors {
				return &Fault{r.line, "next", fmt.Sprintf("a sheet holds at most %d connectors", model.MaxConnectors)}
			}
			s.Connectors = append(s.Connectors, &model.Connector{ID: id, Text: label,
				From: model.End{Symbol: r.cells["id"]}, To: model.End{Symbol: target}})
		}
	}
	return nil
}
