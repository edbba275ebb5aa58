package registerfile_test

import (
	"archive/zip"
	"bytes"
	"context"
	"encoding/csv"
	"fmt"
	"io"
	"math/rand/v2"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"testing"
	"time"

	"github.com/thedatashed/xlsxreader"
	"github.com/xuri/excelize/v2"

	"plaintracer/core/compose"
	"plaintracer/core/edit"
	"plaintracer/core/geometry"
	"plaintracer/core/model"
	"plaintracer/core/values"
	"plaintracer/exchange"
	"plaintracer/exchange/registerfile"
)

// filled is a map of so many steps whose fields of all types hold made-up values.
func filled(t testing.TB, r *rand.Rand, steps int) *model.Map {
	m := model.New("Filled", model.Rightwards, "A3", true)
	for i, info := range values.Types() {
		f := model.Field{ID: fmt.Sprint("f", i), Name: "My " + info.Title, Type: info.Type}
		if info.Type == values.Choice {
			f.Choices = []string{"Desk tool", "=SUM(1)", "On; paper"}
		}
		m.Fields = append(m.Fields, f)
	}
	s := m.Sheets[0]
	for i := range steps {
		s.Symbols = append(s.Symbols, &model.Symbol{ID: fmt.Sprint("s", i), Kind: model.Process, Text: pickText(r, i),
			Box: geometry.Box{X: i % 40 * 16000, Y: i / 40 * 12000, W: 12000, H: 6000}})
		if i > 0 {
			s.Connectors = append(s.Connectors, &model.Connector{ID: fmt.Sprint("c", i),
				From: model.End{Symbol: fmt.Sprint("s", i-1)}, To: model.End{Symbol: fmt.Sprint("s", i)}})
		}
	}
	for _, sym := range s.Symbols {
		for _, f := range m.Fields {
			typed := map[values.Type][]string{
				values.Text: {"plain", "=1+1", "@x", "-5 degrees", "a \"quoted\", text", "’"},
				values.Long: {"two\nlines", "one; line"}, values.Whole: {"0", "-7", "123456789"},
				values.Decimal:  {"0.5", "-12.000001", "99999.25"},
				values.Duration: {"5 min", "1.5 h", "2 d", "100.5 min", "0"}, values.Money: {"12.50", "0.01", "-3"},
				values.YesNo:  {"yes", "no"},
				values.Choice: {"Desk tool", "=SUM(1)", "On; paper"},
				values.Date:   {"2026-11-28", "1999-12-31", "1850-05-04"}, values.Person: {"Ida Brandt"},
				values.Address: {"https://town.example/a?b=c"},
			}[f.Type]
			if r.IntN(4) == 0 {
				continue
			}
			value, err := values.Read(f.Type, f.Choices, typed[r.IntN(len(typed))], values.Measures{})
			if err != nil {
				t.Fatal(err)
			}
			sym.Values = append(sym.Values, model.Value{ID: f.ID, Text: value})
		}
	}
	return m
}

func pickText(r *rand.Rand, i int) string {
	return fmt.Sprintf("%s %d", []string{"Log the report", "=HYPERLINK(1)", "Ask, \"why\"; or not", "+49 call",
		"Schlüssel\nholen"}[r.IntN(5)], i)
}

func written(t testing.TB, m *model.Map, format string, more ...string) []byte {
	f := exchange.Named(format)
	settings, err := exchange.Read(f, func(name string) (string, bool) {
		if i := slices.Index(more, name); i >= 0 {
			return more[i+1], true
		}
		return "", false
	})
	if err != nil {
		t.Fatal(err)
	}
	out, err := exchange.Make(context.Background(), m, f, settings, nil)
	if err != nil {
		t.Fatal(err)
	}
	return out.Data
}

func planOf(t testing.TB, m *model.Map, name string, data []byte) *compose.Plan {
	t.Helper()
	table, err := registerfile.Read(name, data, &m.Head)
	if err != nil {
		t.Fatalf("%s: %v", name, err)
	}
	n := 0
	w := &compose.Work{Map: m, Sheet: m.Sheets[0], NewID: func() string { n++; return fmt.Sprint("new-", n) }}
	return w.ReadBack(*table)
}

// What was sent out and comes back as it was changes nothing, in every format and with every separator.
func TestRoundTrip(t *testing.T) {
	r := rand.New(rand.NewPCG(4, 4))
	for round := range 12 {
		m := filled(t, r, 12)
		for _, f := range [][]string{{"register-csv", "a.csv"}, {"register-csv", "a.csv", "separator", "semicolon"},
			{"register-csv", "a.tsv", "separator", "tab"}, {"register-xlsx", "a.xlsx"}, {"register-ods", "a.ods"}} {
			p := planOf(t, m, f[1], written(t, m, f[0], f[2:]...))
			if p.Refusal != "" || len(p.Changes) > 0 || len(p.Missing) > 0 {
				t.Fatalf("round %d, %v: %+v", round, f, p)
			}
		}
	}
}

// Fields that are called like columns of the table, as in older maps, go out under other titles and come back; no new
// field gets such a name.
func TestFieldsCalledLikeColumns(t *testing.T) {
	m := filled(t, rand.New(rand.NewPCG(7, 7)), 12)
	for i, name := range []string{"Step", "notes", "ID", "Kind", "Sheet", "Comes  from", "Step (field)"} {
		m.Fields[i].Name = name
	}
	for _, f := range [][]string{{"register-csv", "a.csv"}, {"register-xlsx", "a.xlsx"}, {"register-ods", "a.ods"}} {
		data := written(t, m, f[0])
		// of Sheet, Uses, Makes and Notes nothing is taken, and nothing said
		if p := planOf(t, m, f[1], data); p.Refusal != "" || len(p.Changes) > 0 || len(p.Notes) != 0 {
			t.Errorf("%s: %+v", f[1], p)
		}
		sym := m.Sheets[0].Symbols[0]
		was := sym.Values
		sym.Values = nil
		if p := planOf(t, m, f[1], data); len(p.Changes) != len(was) {
			t.Errorf("%s: %d values come back, not %d: %+v", f[1], len(p.Changes), len(was), p)
		}
		sym.Values = was
	}
	for _, name := range []string{"Step", " notes ", "ID", "comes  FROM", "Documents and data"} {
		add := &edit.AddField{Field: model.Field{ID: "new", Name: name, Type: values.Text}}
		if _, err := edit.Apply(m, add); err == nil || !strings.Contains(err.Error(), "another name") {
			t.Errorf("a field may be called %q: %v", name, err)
		}
		if _, err := edit.Apply(m, &edit.SetField{ID: "f8", Name: &name}); err == nil ||
			!strings.Contains(err.Error(), "another name") {
			t.Errorf("a field may be renamed to %q: %v", name, err)
		}
	}
}

// What colleagues said of cells comes along, with who said it and of what; rows in another order are told of, and
// change nothing; what the register computes is not complained of.
func TestCommentsComeAlong(t *testing.T) {
	m := filled(t, rand.New(rand.NewPCG(9, 9)), 6)
	f, err := excelize.OpenReader(bytes.NewReader(written(t, m, "register-xlsx")))
	if err != nil {
		t.Fatal(err)
	}
	if err := f.AddComment("Register", excelize.Comment{Cell: "B3", Author: "Maria Lind",
		Text: "Is this still so?"}); err != nil {
		t.Fatal(err)
	}
	rows, err := f.GetRows("Register")
	if err != nil {
		t.Fatal(err)
	}
	var out bytes.Buffer
	if err := f.Write(&out); err != nil {
		t.Fatal(err)
	}
	p := planOf(t, m, "a.xlsx", out.Bytes())
	if len(p.Comments) != 1 || p.Comments[0].Text != "Maria Lind: Is this still so?" || p.Comments[0].Title != "Step" ||
		p.Comments[0].ID != rows[2][len(rows[2])-1] || len(p.Notes)+len(p.Changes) > 0 {
		t.Errorf("%+v", p)
	}
	list, err := csv.NewReader(bytes.NewReader(bytes.TrimPrefix(written(t, m, "register-csv"),
		[]byte("\xef\xbb\xbf")))).ReadAll()
	if err != nil {
		t.Fatal(err)
	}
	list[1], list[4] = list[4], list[1]
	var turned bytes.Buffer
	if err := csv.NewWriter(&turned).WriteAll(list); err != nil {
		t.Fatal(err)
	}
	if p := planOf(t, m, "a.csv", turned.Bytes()); len(p.Changes) > 0 || len(p.Notes) != 1 ||
		!strings.Contains(p.Notes[0], "another order") {
		t.Errorf("of rows in another order: %+v", p)
	}
}

// Numbers that another program has saved again, with all digits of their binary form or with an exponent, are the same
// numbers; negative ones in CSV are numbers, not texts.
func TestNumbersSavedAgain(t *testing.T) {
	m := filled(t, rand.New(rand.NewPCG(8, 8)), 30)
	rows, err := csv.NewReader(bytes.NewReader(bytes.TrimPrefix(written(t, m, "register-csv"),
		[]byte("\xef\xbb\xbf")))).ReadAll()
	if err != nil {
		t.Fatal(err)
	}
	minus, seen := 0, 0
	for i := range rows[1:] {
		for k := range rows[i+1] {
			cell := &rows[i+1][k]
			n, err := strconv.ParseFloat(*cell, 64)
			if err != nil || rows[0][k] == "Number" || rows[0][k] == "Next" || rows[0][k] == "Comes from" {
				continue
			}
			seen++
			if n < 0 {
				minus++
			}
			*cell = strconv.FormatFloat(n, []byte("ge")[i%2], 17, 64)
		}
	}
	if minus < 5 || seen < 20 {
		t.Fatalf("of %d numbers only %d are negative", seen, minus)
	}
	var out bytes.Buffer
	if err := csv.NewWriter(&out).WriteAll(rows); err != nil {
		t.Fatal(err)
	}
	if p := planOf(t, m, "a.csv", out.Bytes()); p.Refusal != "" || len(p.Changes) > 0 {
		t.Errorf("%+v", p)
	}
}

// A reader that did not write the book finds the same in it: numbers as numbers, days as days, texts as texts.
func TestAnotherReaderReadsTheBook(t *testing.T) {
	m := filled(t, rand.New(rand.NewPCG(5, 5)), 40)
	book, err := xlsxreader.NewReader(written(t, m, "register-xlsx"))
	if err != nil {
		t.Fatal(err)
	}
	var titles []string
	seen := 0
	for row := range book.ReadRows("Register") {
		if row.Error != nil {
			t.Fatal(row.Error)
		}
		cells := map[string]xlsxreader.Cell{}
		for _, c := range row.Cells {
			if row.Index == 1 {
				titles = append(titles, c.Value)
			} else {
				cells[titles[c.ColumnIndex()]] = c
			}
		}
		if row.Index == 1 {
			continue
		}
		sym := m.Sheets[0].Symbol(cells["id"].Value)
		if sym == nil || cells["Step"].Value != sym.Text {
			t.Fatalf("row %d is of %q and says %q", row.Index, cells["id"].Value, cells["Step"].Value)
		}
		for _, f := range m.Fields {
			value, cell := sym.Value(f.ID), cells[f.Name]
			if value == "" {
				continue
			}
			seen++
			switch {
			case f.Type == values.Duration: // which readers take for a time of the first day there is
				minutes, err := strconv.ParseFloat(value, 64)
				when := cell.Value
				if len(when) == len(time.DateOnly) {
					when += "T00:00:00Z"
				}
				at, err2 := time.Parse(time.RFC3339, when)
				off := at.Sub(time.Date(1899, 12, 30, 0, 0, 0, 0,
					time.UTC)) - time.Duration(minutes*float64(time.Minute))
				if err != nil || err2 != nil || off.Abs() > time.Second || cell.Type != xlsxreader.TypeDateTime {
					t.Errorf("%s %s is a cell of type %s, %s", f.Name, value, cell.Type, cell.Value)
				}
			case f.Type.Counts():
				want, err := strconv.ParseFloat(value, 64)
				got, err2 := strconv.ParseFloat(cell.Value, 64)
				if err != nil || err2 != nil || got != want || cell.Type != xlsxreader.TypeNumerical {
					t.Errorf("%s %s is a cell of type %s, %s", f.Name, value, cell.Type, cell.Value)
				}
			case f.Type == values.Date: // those before 1900 are texts
				if !strings.HasPrefix(cell.Value, value) || cell.Type != xlsxreader.TypeDateTime {
					t.Errorf("%s %s is a cell of type %s, %s", f.Name, value, cell.Type, cell.Value)
				}
			case cell.Value != value || cell.Type != xlsxreader.TypeString:
				t.Errorf("%s %q is a cell of type %s, %q", f.Name, value, cell.Type, cell.Value)
			}
		}
	}
	if seen < 200 {
		t.Errorf("only %d values were looked at", seen)
	}
}

// Three cells are changed in a spreadsheet and a line is added; two of the cells are taken, and the new step.
func TestTakenInPart(t *testing.T) {
	m := filled(t, rand.New(rand.NewPCG(6, 6)), 5)
	book, err := excelize.OpenReader(bytes.NewReader(written(t, m, "register-xlsx")))
	if err != nil {
		t.Fatal(err)
	}
	rows, err := book.GetRows("Register")
	if err != nil {
		t.Fatal(err)
	}
	column := func(title string) string {
		name, err := excelize.ColumnNumberToName(slices.Index(rows[0], title) + 1)
		if err != nil || slices.Index(rows[0], title) < 0 {
			t.Fatalf("no column %s", title)
		}
		return name
	}
	for cell, v := range map[string]any{column("My Duration") + "2": 33.0 / 24 / 60, column("My Money") + "3": "soon",
		column("Step") + "4": "Call back", column("Step") + "8": "Write it down"} {
		if err := book.SetCellValue("Register", cell, v); err != nil {
			t.Fatal(err)
		}
	}
	var out bytes.Buffer
	if err := book.Write(&out); err != nil {
		t.Fatal(err)
	}
	p := planOf(t, m, "a.xlsx", out.Bytes())
	if len(p.Changes) != 4 || len(p.Missing) > 0 {
		t.Fatalf("%+v", p)
	}
	var take []compose.Taken
	for _, c := range p.Changes {
		if (c.Why != "") != (c.Text == "soon") {
			t.Errorf("%+v", c)
		}
		if c.Why == "" {
			take = append(take, c)
		}
	}
	n := 0
	w := &compose.Work{Map: m, Sheet: m.Sheets[0], NewID: func() string { n++; return fmt.Sprint("new-", n) }}
	e, wrong := w.TakeBack(take)
	if len(wrong) > 0 || e == nil {
		t.Fatal(wrong)
	}
	back, err := edit.Apply(m, e)
	if err != nil {
		t.Fatal(err)
	}
	s := m.Sheets[0]
	if s.Symbol("s0").Value("f4") != "33" || s.Symbol("s2").Text != "Call back" || s.Symbol("new-1") == nil ||
		s.Symbol("new-1").Text != "Write it down" {
		t.Errorf("what was taken: %v, %q, %v", s.Symbol("s0").Values, s.Symbol("s2").Text, s.Symbol("new-1"))
	}
	if _, err := edit.Apply(m, back); err != nil || s.Symbol("new-1") != nil || s.Symbol("s2").Text == "Call back" {
		t.Error("one undo does not take it all back")
	}
}

// What cannot be read is refused with its place, and changes nothing.
func TestBadTables(t *testing.T) {
	m := filled(t, rand.New(rand.NewPCG(7, 7)), 3)
	book := func(change func(f *excelize.File)) []byte {
		f, err := excelize.OpenReader(bytes.NewReader(written(t, m, "register-xlsx")))
		if err != nil {
			t.Fatal(err)
		}
		change(f)
		var out bytes.Buffer
		if err := f.Write(&out); err != nil {
			t.Fatal(err)
		}
		return out.Bytes()
	}
	bomb := func() []byte {
		var out bytes.Buffer
		z := zip.NewWriter(&out)
		w, err := z.Create("xl/worksheets/sheet1.xml")
		if err != nil {
			t.Fatal(err)
		}
		for range 300 {
			w.Write(make([]byte, 1<<20))
		}
		z.Close()
		return out.Bytes()
	}
	must := func(err error) {
		t.Helper()
		if err != nil {
			t.Fatal(err)
		}
	}
	for _, c := range []struct {
		name, why string
		data      []byte
	}{
		{"a.csv", "the file holds no table", nil},
		{"a.csv", "no table of text", []byte("id,Step\n\xff\x00,x")},
		{"a.csv", "row 2: bare", []byte("id,Step\nx,a\"b")},
		{"a.csv", "larger than 8 MB", make([]byte, registerfile.MaxSize+1)},
		{"a.csv", "the table goes on", []byte("id,Step\n" + strings.Repeat("s1,x\n", 100_000))},
		{"a.csv", "row 2: column 2 holds 5000 characters", []byte("id,Step\ns1," + strings.Repeat("x", 5000))},
		{"a.csv", "row 1: it has 300 cells", []byte(strings.Repeat("x,", 299) + "x")},
		{"a.xlsx", "cannot be read", []byte("PK\x03\x04 no archive")},
		{"a.xlsx", "unpacks to more than 64 MB", bomb()},
		{"a.xlsx", "cell B2: it is merged with those up to C3",
			book(func(f *excelize.File) { must(f.MergeCell("Register", "B2", "C3")) })},
		{"a.xlsx", "no date from 1 March 1900 on", book(func(f *excelize.File) {
			rows, err := f.GetRows("Register")
			must(err)
			name, err := excelize.CoordinatesToCellName(slices.Index(rows[0], "My Date")+1, 2)
			must(err)
			must(f.SetCellInt("Register", name, 12))
		})},
	} {
		_, err := registerfile.Read(c.name, c.data, &m.Head)
		if err == nil || !strings.Contains(err.Error(), c.why) {
			t.Errorf("%v instead of %q", err, c.why)
		}
	}
	for _, c := range [][2]string{
		{"Step,Who\nx,y", "there is no column “id”"},
		{"id,Step,Step\ns1,a,b", "Row 1, column 3: the title “Step” stands there twice"},
		{"id,Step\ns1,a\ns1,b", "Row 3: its id stands in row 2 already"},
	} {
		if p := planOf(t, m, "a.csv", []byte(c[0])); !strings.Contains(p.Refusal, c[1]) {
			t.Errorf("%q is answered with %q", c[0], p.Refusal)
		}
	}
	if p := planOf(t, m, "a.csv", []byte("id,Step,Weather\nzz,a,b\n,,c\n")); len(p.Notes) != 3 || len(p.Changes) > 0 ||
		len(p.Missing) != 3 {
		t.Errorf("%+v", p)
	}
}

// Whatever a file holds, it is read or refused with a word, and what a plan says can be taken or says why not.
func FuzzRead(f *testing.F) {
	m := filled(f, rand.New(rand.NewPCG(8, 8)), 3)
	f.Add("a.csv", written(f, m, "register-csv"))
	f.Add("a.xlsx", written(f, m, "register-xlsx"))
	f.Add("a.csv", []byte("id;Step;Next;My Duration\ns1;x;2;soon\n;New;;1 h\n"))
	f.Fuzz(func(t *testing.T, name string, data []byte) {
		table, err := registerfile.Read(name, data, &m.Head)
		if err != nil {
			if _, ok := err.(*registerfile.Fault); !ok {
				t.Errorf("%T: %v", err, err)
			}
			return
		}
		n := 0
		w := &compose.Work{Map: m.Clone(), NewID: func() string { n++; return fmt.Sprint("new-", n) }}
		w.Sheet = w.Map.Sheets[0]
		p := w.ReadBack(*table)
		if e, _ := w.TakeBack(p.Changes); e != nil {
			if _, err := edit.Apply(w.Map, e); err != nil {
				t.Errorf("what was to be taken is refused: %v", err)
			}
			if err := w.Map.Validate(); err != nil {
				t.Errorf("the map is broken: %v", err)
			}
		}
	})
}

// A spreadsheet of 1,000 steps with eleven fields. Targets: 300 ms to write it, 300 ms to read it, under 100 MB.
func BenchmarkSpreadsheet(b *testing.B) {
	m := filled(b, rand.New(rand.NewPCG(9, 9)), 1000)
	var data []byte
	b.Run("write", func(b *testing.B) {
		b.ReportAllocs()
		for b.Loop() {
			data = written(b, m, "register-xlsx")
		}
	})
	b.Run("read", func(b *testing.B) {
		b.ReportAllocs()
		for b.Loop() {
			if _, err := registerfile.Read("a.xlsx", data, &m.Head); err != nil {
				b.Fatal(err)
			}
		}
	})
	b.Run("compare", func(b *testing.B) {
		b.ReportAllocs()
		for b.Loop() {
			if p := planOf(b, m, "a.xlsx", data); len(p.Changes) > 0 {
				b.Fatal(len(p.Changes))
			}
		}
	})
}

// A formula costs its cell, not the file: its value as it was computed elsewhere is read, and marked, however the sheet
// is written.
func TestFormulasCostTheirCell(t *testing.T) {
	m := filled(t, rand.New(rand.NewPCG(7, 7)), 3)
	f, err := excelize.OpenReader(bytes.NewReader(written(t, m, "register-xlsx")))
	if err != nil {
		t.Fatal(err)
	}
	var out bytes.Buffer
	if err := f.Write(&out); err != nil {
		t.Fatal(err)
	}
	plain, err := registerfile.Read("a.xlsx", out.Bytes(), &m.Head)
	if err != nil || len(plain.Computed) > 0 {
		t.Fatalf("%v, %v", err, plain.Computed)
	}
	for name, cell := range map[string]string{
		"as usual":                     `<c r="B3" t="str"><f>1+1</f><v>2 lamps</v></c>`,
		"with single quotes":           `<c r='B3' t='str'><f>1+1</f><v>2 lamps</v></c>`,
		"in another order":             `<c t="str" r="B3"><v>2 lamps</v><f>1+1</f></c>`,
		"with an attribute and spaces": "<c\n r = \"B3\" t=\"str\"\n><f t=\"shared\" si=\"0\"/><v>2 lamps</v></c>",
		"with a comment before":        `<c r="B3" t="str"><!-- > --><f >1+1</f ><v>2 lamps</v></c>`,
	} {
		data := changed(t, out.Bytes(), func(sheet string) string {
			return regexp.MustCompile(`<c r="B3"[^>]*?(/>|>.*?</c>)`).ReplaceAllLiteralString(sheet, cell)
		})
		got, err := registerfile.Read("a.xlsx", data, &m.Head)
		if err != nil {
			t.Errorf("%s: %v", name, err)
			continue
		}
		if fmt.Sprint(got.Computed) != "[[2 1]]" || got.Rows[2][1] != "2 lamps" {
			t.Errorf("%s: computed %v, and B3 is %q", name, got.Computed, got.Rows[2][1])
		}
		plan := (&compose.Work{Map: m}).ReadBack(*got)
		found := false
		for _, one := range plan.Changes {
			if one.Text == "2 lamps" {
				found = one.Computed
			} else if one.Computed {
				t.Errorf("%s: %+v is marked", name, one)
			}
		}
		if !found {
			t.Errorf("%s: the plan is %+v", name, plan.Changes)
		}
	}
}

// changed is a spreadsheet with its first sheet written otherwise.
func changed(t *testing.T, data []byte, change func(sheet string) string) []byte {
	t.Helper()
	z, err := zip.NewReader(bytes.NewReader(data), int64(len(data)))
	if err != nil {
		t.Fatal(err)
	}
	var out bytes.Buffer
	w := zip.NewWriter(&out)
	for _, f := range z.File {
		r, err := f.Open()
		if err != nil {
			t.Fatal(err)
		}
		raw, err := io.ReadAll(r)
		if err != nil {
			t.Fatal(err)
		}
		if strings.HasSuffix(f.Name, "worksheets/sheet1.xml") {
			is := change(string(raw))
			if is == string(raw) {
				t.Fatal("nothing was changed")
			}
			raw = []byte(is)
		}
		part, err := w.Create(f.Name)
		if err != nil {
			t.Fatal(err)
		}
		part.Write(raw)
	}
	if err := w.Close(); err != nil {
		t.Fatal(err)
	}
	return out.Bytes()
}
