package register

import (
	"cmp"
	"fmt"
	"slices"
	"strings"

	"plaintracer/core/values"
)

// Query is what of a register is to be seen, and in which order.
type Query struct {
	// Rows is the name of a Subject; empty for the steps.
	Rows string `json:"rows"`
	// Sort is the column by which the rows stand; empty for the order of the flow. Down turns it round.
	Sort string `json:"sort"`
	Down bool   `json:"down"`
	// Filters are what rows have to hold, by column; Search is what stands anywhere in them.
	Filters map[string]string `json:"filters"`
	Search  string            `json:"search"`
	// By is the column by which sums are told apart: Who or Stage; empty for none.
	By string `json:"by"`
}

// Sum is what comes out of a column that counts.
type Sum struct {
	Column string `json:"column"`
	Count  int    `json:"count"`
	Sum    string `json:"sum"`
	Mean   string `json:"mean"`
	Least  string `json:"least"`
	Most   string `json:"most"`
}

// Group are the sums of the rows that have one thing in common.
type Group struct {
	Name string `json:"name"`
	Rows int    `json:"rows"`
	Sums []Sum  `json:"sums"`
}

// Answer is what a query comes to.
type Answer struct {
	Columns []Column `json:"columns"`
	Rows    []Row    `json:"rows"`
	// All is how many rows there are without filters.
	All    int     `json:"all"`
	Sums   []Sum   `json:"sums"`
	Groups []Group `json:"groups"`
	// Wrong says of each filter that cannot be read why.
	Wrong map[string]string `json:"wrong,omitempty"`
}

// Ask answers a query of a table. Currency is that of the map's money.
func (t *Table) Ask(q Query, in values.Measures) *Answer {
	a := &Answer{Columns: t.Columns, Rows: []Row{}, All: len(t.Rows), Groups: []Group{}, Wrong: map[string]string{}}
	type test struct {
		at    int
		holds func(cell, key string) bool
	}
	var tests []test
	for id, text := range q.Filters {
		i := t.Column(id)
		if i < 0 || strings.TrimSpace(text) == "" {
			continue
		}
		holds, err := filter(&t.Columns[i], text, in)
		if err != nil {
			a.Wrong[id] = err.Error()
			continue
		}
		tests = append(tests, test{i, holds})
	}
	search := strings.ToLower(strings.TrimSpace(q.Search))
	for _, r := range t.Rows {
		ok := search == "" || slices.ContainsFunc(r.Cells, func(c string) bool {
			return strings.Contains(strings.ToLower(c), search)
		})
		for _, f := range tests {
			ok = ok && f.holds(r.Cells[f.at], r.keys[f.at])
		}
		if ok {
			a.Rows = append(a.Rows, r)
		}
	}
	a.Sums = sums(t.Columns, a.Rows, in)
	if i := t.Column(q.By); i >= 0 {
		a.Groups = groups(t.Columns, a.Rows, i, in)
	}
	if i := t.Column(q.Sort); i >= 0 {
		c := &t.Columns[i]
		slices.SortStableFunc(a.Rows, func(x, y Row) int {
			order := values.Compare(c.Type, c.Choices, x.keys[i], y.keys[i])
			if c.ID == Number || c.ID == Next || c.ID == From {
				order = Natural(x.keys[i], y.keys[i])
			}
			if q.Down && x.keys[i] != "" && y.keys[i] != "" {
				return -order
			}
			return order
		})
	}
	return a
}

// filter reads what a person wrote above a column: a text that stands in it; =, <> and a value; <, >, <=, >= and a
// value of a column that has an order; “empty” or “not empty”.
func filter(c *Column, text string, in values.Measures) (func(cell, key string) bool, error) {
	text = strings.TrimSpace(text)
	switch strings.ToLower(text) {
	case "empty":
		return func(_, key string) bool { return key == "" }, nil
	case "not empty":
		return func(_, key string) bool { return key != "" }, nil
	}
	for _, op := range []string{"<=", ">=", "<>", "<", ">", "="} {
		rest, ok := strings.CutPrefix(text, op)
		if !ok {
			continue
		}
		rest = strings.TrimSpace(rest)
		value := rest
		if c.Own {
			var err error
			if value, err = values.Read(c.Type, c.Choices, rest, in); err != nil {
				return nil, err
			}
		}
		if value == "" {
			return nil, fmt.Errorf("write a value after %s", op)
		}
		return func(_, key string) bool {
			if key == "" {
				return op == "<>"
			}
			order := values.Compare(c.Type, c.Choices, key, value)
			if !c.Own {
				order = Natural(strings.ToLower(key), strings.ToLower(value))
			}
			return map[string]bool{"<=": order <= 0, ">=": order >= 0, "<>": order != 0, "<": order < 0, ">": order > 0,
				"=": order == 0}[op]
		}, nil
	}
	low := strings.ToLower(text)
	return func(cell, _ string) bool { return strings.Contains(strings.ToLower(cell), low) }, nil
}

// sums adds up the columns that count.
func sums(columns []Column, rows []Row, in values.Measures) []Sum {
	list := []Sum{}
	for i, c := range columns {
		if !c.Type.Counts() {
			continue
		}
		s := Sum{Column: c.ID}
		var sum, least, most int64
		beyond := false
		for _, r := range rows {
			amount, ok := values.Amount(c.Type, r.keys[i])
			if !ok {
				continue
			}
			if s.Count++; s.Count == 1 {
				least, most = amount, amount
			}
			const limit = 1 << 61 // so that one more can be added
			beyond = beyond || sum > limit || sum < -limit
			if !beyond {
				sum += amount
			}
			least, most = min(least, amount), max(most, amount)
		}
		if s.Count > 0 {
			show := func(amount int64) string { return values.ShowSum(c.Type, amount, in) }
			s.Sum, s.Mean, s.Least, s.Most = show(sum), show(rounded(sum, int64(s.Count))), show(least), show(most)
		}
		if beyond {
			s.Sum, s.Mean = "too large", "too large"
		}
		list = append(list, s)
	}
	return list
}

// rounded divides an amount, to hundredths.
func rounded(sum, by int64) int64 {
	const part = values.Parts / 100
	half := by * part / 2
	if sum < 0 {
		half = -half
	}
	return (sum + half) / (by * part) * part
}

// groups adds up the rows that have the same in a column, in the order in which they come.
func groups(columns []Column, rows []Row, at int, in values.Measures) []Group {
	place := map[string]int{}
	var members [][]Row
	list := []Group{}
	for _, r := range rows {
		name := r.keys[at]
		i, ok := place[name]
		if !ok {
			i = len(list)
			place[name] = i
			list, members = append(list, Group{Name: name}), append(members, nil)
		}
		members[i] = append(members[i], r)
	}
	for i := range list {
		list[i].Rows, list[i].Sums = len(members[i]), sums(columns, members[i], in)
	}
	return list
}

// Natural compares texts with the numbers in them taken as numbers: 4a2 before 4a10, and 9 before 10. Nothing comes
// last.
func Natural(a, b string) int {
	if a == "" || b == "" {
		return cmp.Compare(b, a)
	}
	for a != "" && b != "" {
		x, restA := piece(a)
		y, restB := piece(b)
		if x != y {
			if digit(x[0]) && digit(y[0]) {
				p, q := strings.TrimLeft(x, "0"), strings.TrimLeft(y, "0")
				if c := cmp.Or(cmp.Compare(len(p), len(q)), cmp.Compare(p, q)); c != 0 {
					return c
				}
				return cmp.Compare(len(x), len(y))
			}
			return cmp.Compare(x, y)
		}
		a, b = restA, restB
	}
	return cmp.Compare(len(a), len(b))
}

func digit(c byte) bool { return c >= '0' && c <= '9' }

// piece cuts the digits, or what is none, off the beginning of a text.
func piece(s string) (head, rest string) {
	i := 1
	for i < len(s) && digit(s[i]) == digit(s[0]) {
		i++
	}
	return s[:i], s[i:]
}
