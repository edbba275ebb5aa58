package exchange

import (
	"bytes"
	"context"
	"encoding/csv"
	"fmt"
	"html"
	"strconv"
	"strings"

	"github.com/xuri/excelize/v2"

	"plaintracer/core/diagram"
	"plaintracer/core/flow"
	"plaintracer/core/procedure"
)

// table is a name and rows, of which the first says what stands in the columns.
type table struct {
	name string
	rows [][]string
}

// registerTable lists the steps in their order.
func registerTable(j *Job) table {
	t := table{name: "Register", rows: [][]string{{"Number", "Step", "Who", "Stage", "Kind", "Sheet", "Goes on to", "Uses", "Makes", "Notes"}}}
	for _, s := range procedure.Part(j.Whole, j.Inside).Steps {
		var on []string
		for _, x := range s.Exits {
			to := x.Text
			if x.Number != "" {
				to = x.Number
			}
			if x.Answer != "" {
				to = x.Answer + ": " + to
			}
			on = append(on, to)
		}
		t.rows = append(t.rows, []string{s.Number, s.Text, s.Who, s.Stage, s.Kind, s.Sheet.Name, strings.Join(on, "; "), things(s.Uses), things(s.Makes), strings.Join(s.Notes, "; ")})
	}
	return t
}

func things(list []procedure.Thing) string {
	var out []string
	for _, t := range list {
		if t.Text == "" {
			t.Text = t.Kind
		}
		out = append(out, t.Text)
	}
	return strings.Join(out, "; ")
}

// lanesTable has a row for every step and a column for every role; the one who does it is marked.
func lanesTable(j *Job) table {
	p := procedure.Part(j.Whole, j.Inside)
	t := table{name: "Lanes by steps", rows: [][]string{{"Number", "Step"}}}
	for _, r := range p.Roles {
		t.rows[0] = append(t.rows[0], r.Name)
	}
	for _, s := range p.Steps {
		row := []string{s.Number, s.Text}
		for _, r := range p.Roles {
			mark := ""
			if r.Name == s.Who {
				mark = "x"
			}
			row = append(row, mark)
		}
		t.rows = append(t.rows, row)
	}
	return t
}

// connectorsTable is the flow as a list of edges.
func connectorsTable(j *Job) table {
	numbers := map[string]string{}
	for _, s := range procedure.Part(j.Whole, j.Inside).Steps {
		numbers[s.ID] = s.Number
	}
	t := table{name: "Connectors", rows: [][]string{{"Sheet", "From", "From number", "From id", "To", "To number", "To id", "Label"}}}
	for _, s := range j.Inside.Sheets {
		for _, l := range flow.Links(s) {
			row := []string{s.Name, "", "", "", "", "", "", strings.Join(strings.Fields(l.Connector.Text), " ")}
			for i, sym := range [2]*diagram.Symbol{l.From, l.To} {
				if sym != nil {
					row[1+3*i], row[2+3*i], row[3+3*i] = strings.Join(strings.Fields(sym.Text), " "), numbers[sym.ID], sym.ID
				}
			}
			t.rows = append(t.rows, row)
		}
	}
	return t
}

func asCSV(make func(*Job) table) func(context.Context, *Job) ([]byte, error) {
	return func(_ context.Context, j *Job) ([]byte, error) {
		var out bytes.Buffer
		out.WriteString("\xef\xbb\xbf") // by which spreadsheets know that it is UTF-8
		w := csv.NewWriter(&out)
		w.UseCRLF = true // RFC 4180
		for _, row := range make(j).rows {
			safe := append([]string(nil), row...)
			for i := range safe {
				safe[i] = harmless(safe[i])
			}
			if err := w.Write(safe); err != nil {
				return nil, err
			}
		}
		w.Flush()
		return out.Bytes(), w.Error()
	}
}

// harmless keeps a text from being taken for a formula by a spreadsheet.
func harmless(text string) string {
	if text != "" && strings.ContainsRune("=+-@\t\r", rune(text[0])) {
		return "'" + text
	}
	return text
}

func writeXLSX(_ context.Context, j *Job) ([]byte, error) {
	f := excelize.NewFile()
	defer f.Close()
	for i, t := range []table{registerTable(j), lanesTable(j), connectorsTable(j)} {
		if i == 0 {
			if err := f.SetSheetName("Sheet1", t.name); err != nil {
				return nil, err
			}
		} else if _, err := f.NewSheet(t.name); err != nil {
			return nil, err
		}
		bold, err := f.NewStyle(&excelize.Style{Font: &excelize.Font{Bold: true}})
		if err != nil {
			return nil, err
		}
		wrap, err := f.NewStyle(&excelize.Style{Alignment: &excelize.Alignment{WrapText: true, Vertical: "top"}})
		if err != nil {
			return nil, err
		}
		for r, row := range t.rows {
			for c, v := range row {
				cell, err := excelize.CoordinatesToCellName(c+1, r+1)
				if err != nil {
					return nil, err
				}
				if n, err := strconv.Atoi(v); err == nil && r > 0 {
					err = f.SetCellInt(t.name, cell, int64(n))
					if err != nil {
						return nil, err
					}
					continue
				}
				if err := f.SetCellStr(t.name, cell, v); err != nil {
					return nil, err
				}
			}
		}
		last, err := excelize.ColumnNumberToName(len(t.rows[0]))
		if err != nil {
			return nil, err
		}
		for _, err := range []error{
			f.SetColWidth(t.name, "A", last, 18), f.SetColWidth(t.name, "B", "B", 40),
			f.SetCellStyle(t.name, "A1", fmt.Sprintf("%s%d", last, len(t.rows)), wrap), f.SetCellStyle(t.name, "A1", last+"1", bold),
			f.SetPanes(t.name, &excelize.Panes{Freeze: true, YSplit: 1, TopLeftCell: "A2", ActivePane: "bottomLeft"}),
		} {
			if err != nil {
				return nil, err
			}
		}
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
	if err := f.SetDocProps(&excelize.DocProperties{Title: j.Whole.Title, Creator: "Plain Tracer", Created: said, Modified: said}); err != nil {
		return nil, err
	}
	out, err := f.WriteToBuffer()
	if err != nil {
		return nil, err
	}
	return out.Bytes(), nil
}

// showTable shows the first rows of a table.
func showTable(make ...func(*Job) table) func(context.Context, *Job, int) (*Sight, error) {
	return func(_ context.Context, j *Job, page int) (*Sight, error) {
		const most = 60
		t := make[min(max(page, 0), len(make)-1)](j)
		var out strings.Builder
		out.WriteString(`<!doctype html><meta charset="utf-8"/><style>body{font:13px/1.4 system-ui,sans-serif;margin:12px;color:#22303c;background:#fff}table{border-collapse:collapse}th,td{border:1px solid #d8d3c7;padding:3px 8px;text-align:left;vertical-align:top}th{background:#f3efe5}</style><table>`)
		for i, row := range t.rows {
			if i > most {
				fmt.Fprintf(&out, `<tr><td colspan="%d">and %d rows more</td></tr>`, len(row), len(t.rows)-i)
				break
			}
			out.WriteString("<tr>")
			for _, cell := range row {
				tag := "td"
				if i == 0 {
					tag = "th"
				}
				fmt.Fprintf(&out, "<%s>%s</%s>", tag, html.EscapeString(cell), tag)
			}
			out.WriteString("</tr>")
		}
		out.WriteString("</table>")
		return &Sight{MediaType: "text/html", Data: []byte(out.String()), Pages: len(make)}, nil
	}
}
