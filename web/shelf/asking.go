package shelf

import (
	"fmt"
	"strconv"
	"strings"

	"github.com/gofiber/fiber/v3"

	"plaintracer/core/steplist"
	"plaintracer/exchange/edited"
	"plaintracer/exchange/intake"
	"plaintracer/exchange/registerfile"
)

// A file that is opened may take a question to whoever opens it. The answer is part of a page with a form, by the
// header Asks; the page shows it, and sends the file again with what the form says.

func (s *Shelf) ask(c fiber.Ctx, view string, page any) error {
	c.Set("Asks", strings.TrimSuffix(view, ".html"))
	return s.Page(c, view, page)
}

// editedPage is what edited.html shows.
type editedPage struct {
	Map   string
	Texts []edited.Text
}

// listedPage is what listed.html shows.
type listedPage struct {
	Name string
	// Encodings and Separators are empty for a spreadsheet.
	Encodings, Separators []option
	Doubt                 string
	// Titles are the rows that can have the titles; none where the table says itself what its columns are.
	Titles  []option
	Columns []listedColumn
	Rows    []listedRow
	Blanks  []option
	Unknown []option
	// Comes says what comes of it, Refusal why nothing does.
	Comes, Refusal string
	Wrong, Notes   []string
}

// option is a value that can be chosen.
type option struct {
	Value, Title string
	Chosen       bool
}

// listedColumn is a column with what it can hold.
type listedColumn struct {
	Name, Title string
	Holds       []option
}

// listedRow is a line of the table; Heads says that it has the titles.
type listedRow struct {
	Number int
	Heads  bool
	Cells  []string
}

// askedOf is what a form says of a table, and whether that is to be looked at or taken; nothing at first.
func askedOf(c fiber.Ctx) (asked intake.Asked, said string) {
	asked.Encoding, asked.Separator = c.FormValue("encoding"), c.FormValue("separator")
	said = c.FormValue("said")
	titles, err := strconv.Atoi(c.FormValue("titles"))
	if said == "" || err != nil {
		return asked, said
	}
	asked.Reading = &steplist.Reading{Titles: titles, Blank: steplist.Blank(c.FormValue("blank")),
		Ends: c.FormValue("unknown") == "ends"}
	if c.FormValue("anew") != "" { // the columns are others now
		return asked, said
	}
	for k := range 200 {
		name := fmt.Sprint("column-", k)
		if form, err := c.MultipartForm(); err != nil || form.Value[name] == nil {
			break
		}
		asked.Reading.Columns = append(asked.Reading.Columns, c.FormValue(name))
	}
	return asked, said
}

// listedOf is the page about a table.
func listedOf(name string, l *intake.Listed) listedPage {
	p := listedPage{Name: name, Doubt: l.Doubt}
	if l.Encoding != "" {
		for _, e := range registerfile.Encodings {
			p.Encodings = append(p.Encodings, option{e.Name, e.Title, e.Name == l.Encoding})
		}
		for _, s := range registerfile.Separators {
			p.Separators = append(p.Separators, option{s.Name, s.Title, s.Name == l.Separator})
		}
	}
	width := 0
	for i, row := range l.Rows {
		width = max(width, len(row))
		p.Rows = append(p.Rows, listedRow{i + 1, l.Reading != nil && l.Reading.Titles == i+1, row})
	}
	for i := range p.Rows {
		for len(p.Rows[i].Cells) < width {
			p.Rows[i].Cells = append(p.Rows[i].Cells, "")
		}
	}
	if l.Plan == nil {
		return p
	}
	p.Refusal, p.Wrong, p.Notes = l.Plan.Refusal, l.Plan.Wrong, l.Plan.Notes
	for i := range min(len(p.Rows)+1, 13) {
		title := fmt.Sprint("row ", i)
		if i == 0 {
			title = "no row"
		}
		p.Titles = append(p.Titles, option{strconv.Itoa(i), title, i == l.Reading.Titles})
	}
	for k, c := range l.Plan.Columns {
		one := listedColumn{Name: fmt.Sprint("column-", k), Title: c.Title}
		for _, as := range steplist.As {
			one.Holds = append(one.Holds, option{as.As, as.Name, as.As == c.As})
		}
		p.Columns = append(p.Columns, one)
	}
	p.Blanks = []option{
		{string(steplist.BlankNext), "the next line follows", l.Reading.Blank != steplist.BlankEnd},
		{string(steplist.BlankEnd), "the work ends there", l.Reading.Blank == steplist.BlankEnd}}
	p.Unknown = []option{{"", "is left out", !l.Reading.Ends}, {"ends", "becomes an end of that name", l.Reading.Ends}}
	if l.Plan.Refusal == "" {
		p.Comes = fmt.Sprintf("%s with %s between them", counted(l.Plan.Steps, "step"), counted(l.Plan.Links, "way"))
		if n := len(l.Plan.Lanes); n > 0 {
			p.Comes += ", in " + counted(n, "lane")
		}
		p.Comes += "."
	}
	return p
}

func counted(n int, what string) string {
	if n == 1 {
		return "1 " + what
	}
	return fmt.Sprint(n, " ", what, "s")
}
