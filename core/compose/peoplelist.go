package compose

import (
	"strconv"
	"strings"

	"plaintracer/core/edit"
	"plaintracer/core/model"
)

// ListTable returns the table of people that a list says: one a line, whose indentation is the level, with a role
// behind a comma. Tabs, spaces and the marks of lists count as indentation. Ok is false where the text is no such list:
// its lines are all on one level, or have cells.
func ListTable(text string) (file Sheet, ok bool) {
	type level struct{ depth, id int }
	file.Rows, file.Notes = [][]string{{"Id", "Name", "Role", "Reports to"}}, []string{}
	var above []level
	for _, line := range strings.Split(strings.ReplaceAll(text, "\r\n", "\n"), "\n") {
		rest := strings.TrimLeft(line, " \t\u00a0")
		if strings.TrimSpace(rest) == "" {
			continue
		}
		depth := 0
		for _, r := range line[:len(line)-len(rest)] {
			if depth++; r == '\t' {
				depth += 3
			}
		}
		for _, mark := range [...]string{"- ", "* ", "• ", "– "} {
			rest = strings.TrimPrefix(rest, mark)
		}
		if strings.Contains(rest, "\t") {
			return file, false
		}
		for len(above) > 0 && above[len(above)-1].depth >= depth {
			above = above[:len(above)-1]
		}
		name, role, _ := strings.Cut(rest, ",")
		up := ""
		if len(above) > 0 {
			up = strconv.Itoa(above[len(above)-1].id)
			ok = true
		}
		id := len(file.Rows)
		above = append(above, level{depth, id})
		file.Rows = append(file.Rows, []string{strconv.Itoa(id), model.Flat(name), model.Flat(role), up})
	}
	return file, ok
}

// UnderCard returns the edit that sets the people of a table under a card of the sheet, those at the head of the table
// directly; an empty id stands for the head of the sheet.
func (w *Work) UnderCard(file Sheet, card string) (edit.Edit, error) {
	c := readCrew(file, nil)
	if c.plan.Refusal != "" {
		return nil, Refusal(c.plan.Refusal)
	}
	for i := range c.people { // ids of a list say nothing outside it
		c.people[i].key = ""
	}
	edits, fields := w.fieldsFor(c)
	s := w.chart(c, fields)
	add := &edit.AddItems{Sheet: w.Sheet.ID}
	var heads []string
	for _, sym := range s.Symbols {
		if sym.Under == "" {
			heads = append(heads, sym.ID)
		}
		w.size(sym)
		add.Symbols = append(add.Symbols, *sym)
	}
	return edit.Together("paste", append(edits, add,
		&edit.HangCards{Sheet: w.Sheet.ID, IDs: heads, Under: card})...), nil
}
