package exchange_test

import (
	"archive/zip"
	"bytes"
	"context"
	"encoding/csv"
	"errors"
	"fmt"
	"image/png"
	"maps"
	"plaintracer/core/procedure"
	"regexp"
	"slices"
	"strings"
	"testing"

	"github.com/xuri/excelize/v2"
	"github.com/yuin/goldmark"
	"github.com/yuin/goldmark/ast"
	"github.com/yuin/goldmark/extension"
	"github.com/yuin/goldmark/text"

	"plaintracer/bench/gallery"
	"plaintracer/bench/hands"
	"plaintracer/core/geometry"
	"plaintracer/core/model"
	"plaintracer/core/numbering"
	"plaintracer/exchange"
	"plaintracer/exchange/carrier"
	"plaintracer/exchange/tracerjson"
	"plaintracer/exchange/typeface"
)

// two is a map of two sheets that a pair of references joins.
func two(t testing.TB) *model.Map {
	t.Helper()
	list, err := gallery.Maps()
	if err != nil {
		t.Fatal(err)
	}
	m := list["lanes"]
	m.Title, m.Heading.Author = "Lamp is out: “Repair”", "A. Writer"
	m.Heading.Purpose = "Lamps burn again within three days."
	second := &model.Sheet{SheetHead: model.SheetHead{ID: "second", Name: "After the repair", Paper: "A4",
		Across: true}, Pools: []*model.Pool{}}
	box := func(x int) geometry.Box { return geometry.Box{X: x * px, Y: 200 * px, W: 120 * px, H: 80 * px} }
	m.Sheets[0].Symbols = append(m.Sheets[0].Symbols, &model.Symbol{ID: "out", Kind: model.SheetReference, Text: "A",
		Box: geometry.Box{X: 900 * px, Y: 470 * px, W: 44 * px, H: 44 * px}})
	m.Sheets[0].Connectors = append(m.Sheets[0].Connectors, &model.Connector{ID: "5", From: model.End{Symbol: "e"},
		To: model.End{Symbol: "out"}})
	second.Symbols = []*model.Symbol{{ID: "in", Kind: model.SheetReference, Text: "A",
		Box: geometry.Box{X: 60 * px, Y: 218 * px, W: 44 * px, H: 44 * px}},
		{ID: "test", Kind: model.Process, Text: "Test the light", Box: box(160)},
		{ID: "lit", Kind: model.Terminator, Text: "It burns",
			Box: geometry.Box{X: 340 * px, Y: 216 * px, W: 120 * px, H: 45 * px}}}
	second.Connectors = []*model.Connector{{ID: "6", From: model.End{Symbol: "in"}, To: model.End{Symbol: "test"}},
		{ID: "7", From: model.End{Symbol: "test"}, To: model.End{Symbol: "lit"}}}
	m.Sheets = append(m.Sheets, second)
	if err := m.Validate(); err != nil {
		t.Fatal(err)
	}
	return m
}

const px = geometry.Px

// The PDF is sound to programs that did not write it: its structure, its fonts, its words and their order, its
// bookmarks, its links inside and what it carries.
func TestOtherProgramsReadThePDF(t *testing.T) {
	m := two(t)
	for _, format := range []string{"pdf", "procedure-pdf"} {
		file := made(t, m, format, "date", "2026-11-27", "language", "en-GB").Data
		run(t, file, "qpdf", "--check", "IN")
		info := run(t, file, "pdfinfo", "IN")
		for _, want := range []string{"Lamp is out: “Repair”", "A. Writer", "Tagged:          yes",
			"Fri Nov 27 00:00:00 2026"} {
			if !strings.Contains(info, want) {
				t.Errorf("%s: pdfinfo does not say %q:\n%s", format, want, info)
			}
		}
		for i, line := range strings.Split(strings.TrimSpace(run(t, file, "pdffonts", "IN")), "\n") {
			if i > 1 && !regexp.MustCompile(`yes +yes +yes +\d+ +\d+$`).MatchString(line) {
				t.Errorf("%s: a font is not embedded as a subset with its characters: %s", format, line)
			}
		}
		words := strings.Join(strings.Fields(run(t, file, "pdftotext", "-raw", "IN", "-")), " ")
		for _, s := range m.Sheets {
			for _, sym := range s.Symbols {
				if !strings.Contains(words, strings.Join(strings.Fields(sym.Text), " ")) {
					t.Errorf("%s: pdftotext does not find %q in %s", format, sym.Text, words)
				}
			}
		}
		if list := run(t, file, "pdfdetach", "-list", "IN"); !strings.Contains(list, "1: map.tracer.json") {
			t.Errorf("%s: %s", format, list)
		}
		whole := run(t, file, "qpdf", "--qdf", "--object-streams=disable", "IN", "-")
		for _, want := range []string{"/Outlines", "/Subtype /Link", "/Lang"} {
			if !strings.Contains(whole, want) {
				t.Errorf("%s has no %s", format, want)
			}
		}
	}
}

// Read aloud, a sheet comes in the order of its flow, wherever its symbols stand.
func TestAPDFIsReadInTheOrderOfTheFlow(t *testing.T) {
	for _, h := range hands.All() {
		m := h.Map()
		read := run(t, made(t, m, "pdf", "paper", "A2").Data, "pdfinfo", "-struct-text", "IN")
		read = strings.Join(strings.Fields(strings.Map(func(r rune) rune {
			if r == '"' {
				return ' '
			}
			return r
		}, read)), " ") + " "
		at := 0
		for _, step := range numbering.Number(m) {
			want := fmt.Sprintf("%s %s ", strings.Join(strings.Fields(step.Symbol.Text), " "), step.Number)
			i := strings.Index(read[at:], want)
			if i < 0 {
				t.Errorf("%s: step %s, %q, is not read after those before it", h.Name, step.Number, step.Symbol.Text)
				break
			}
			at += i
		}
	}
}

// Pages have the size of their paper, to a hundredth of a millimetre.
func TestPagesHaveTheSizeOfTheirPaper(t *testing.T) {
	m := two(t)
	sizes := func(pairs ...string) string {
		return run(t, made(t, m, "pdf", pairs...).Data, "pdfinfo", "-f", "1", "-l", "99", "IN")
	}
	// ISO 216: A3 is 297 by 420 mm, A4 210 by 297; 72 points are 25.4 mm.
	if own := sizes(); !strings.Contains(own, "1190.55 x 841.89 pts (A3)") ||
		!strings.Contains(own, "841.89 x 595.275 pts (A4)") {
		t.Error(own)
	}
	if fit := sizes("paper", "A4"); strings.Count(fit, "841.89 x 595.2") != 2 {
		t.Error(fit)
	}
	tiles := sizes("paper", "A5", "use", "tiles", "margin", "5")
	if n := strings.Count(tiles, " pts"); n < 4 || strings.Count(tiles, "419.527") != n || strings.Count(tiles, "595.275") != n {
		t.Error(tiles)
	}
}

// Web pages, drawings and office documents are well-formed, and hold every step.
func TestOtherProgramsReadPagesAndDocuments(t *testing.T) {
	m := two(t)
	for _, format := range []string{"html", "procedure-html"} {
		page := made(t, m, format).Data
		for _, want := range []string{"Close the lane at once", "Test the light", "Log the report"} {
			if !bytes.Contains(page, []byte(want)) {
				t.Errorf("%s: no %q", format, want)
			}
		}
		// Whatever it shows is inside.
		if found := regexp.MustCompile(`(?:src|href|url)\s*[=(]\s*["']?(https?:|//|/)`).Find(page); found != nil {
			t.Errorf("%s asks for %s", format, found)
		}
		body := bytes.ReplaceAll(bytes.Replace(page, []byte("<!doctype html>"), nil, 1), []byte("&nbsp;"), []byte(" "))
		script := regexp.MustCompile(`(?s)<script>.*?</script>|<style>.*?</style>`).ReplaceAll(body, nil)
		meta := regexp.MustCompile(`<(meta|input|br)([^>]*[^/])>`).ReplaceAll(script, []byte("<$1$2/>"))
		run(t, meta, "xmllint", "--noout", "IN")
	}
	run(t, made(t, m, "svg").Data, "xmllint", "--noout", "IN")

	document := made(t, m, "procedure-odt").Data
	z, err := zip.NewReader(bytes.NewReader(document), int64(len(document)))
	if err != nil {
		t.Fatal(err)
	}
	if z.File[0].Name != "mimetype" || z.File[0].Method != zip.Store {
		t.Error("the media type of the document does not come first")
	}
	for _, f := range z.File {
		r, err := f.Open()
		if err != nil {
			t.Fatal(err)
		}
		var data bytes.Buffer
		if _, err := data.ReadFrom(r); err != nil {
			t.Fatal(err)
		}
		switch {
		case strings.HasSuffix(f.Name, ".xml"):
			run(t, data.Bytes(), "xmllint", "--noout", "IN")
		case strings.HasSuffix(f.Name, ".png"):
			if _, err := png.Decode(&data); err != nil {
				t.Errorf("%s: %v", f.Name, err)
			}
		}
	}
	if list := run(t, document, "zipinfo", "-1", "IN"); !strings.Contains(list, "content.xml") ||
		!strings.Contains(list, "Pictures/plaintracer2.png") {
		t.Error(list)
	}
}

// Markdown says what it is meant to, whatever texts hold: what a parser reads of it is the text itself.
func TestMarkdownSaysWhatTheMapSays(t *testing.T) {
	m := two(t)
	odd := "1. *Not* a_list_ [x](y) <b> # & `c` | ~~z~~ !"
	m.Sheets[0].Symbols[1].Text = odd
	source := made(t, m, "procedure-markdown", "pictures", "no").Data
	var said strings.Builder
	steps, links := 0, 0
	parser := goldmark.New(goldmark.WithExtensions(extension.GFM)).Parser() // a superset of CommonMark
	err := ast.Walk(parser.Parse(text.NewReader(source)),
		func(n ast.Node, entering bool) (ast.WalkStatus, error) {
			if !entering {
				return ast.WalkContinue, nil
			}
			switch n := n.(type) {
			case *ast.Text:
				said.Write(n.Segment.Value(source))
				said.WriteByte(' ')
			case *ast.ListItem:
				if n.Parent().(*ast.List).IsOrdered() {
					steps++
				}
			case *ast.CodeBlock, *ast.FencedCodeBlock:
				t.Error("what stands under a step became code")
			case *ast.Link:
				links++
			case *ast.Emphasis, *ast.CodeSpan, *ast.Image:
				t.Errorf("a text became %s", n.Kind())
			}
			return ast.WalkContinue, nil
		})
	if err != nil {
		t.Fatal(err)
	}
	plain := regexp.MustCompile(`\\(.)`).ReplaceAllString(said.String(), "$1")
	if !strings.Contains(strings.Join(strings.Fields(plain), " "), strings.Join(strings.Fields(odd), " ")) {
		t.Errorf("%q is not in %s", odd, plain)
	}
	if want := len(procedure.Of(m).Steps); steps != want || links == 0 {
		t.Errorf("%d steps of %d are items of a list, %d links:\n%s", steps, want, links, source)
	}
}

// Tables have a row for each step, and what looks like a formula stays a text.
func TestTablesHoldTheRegister(t *testing.T) {
	m := two(t)
	m.Sheets[0].Symbols[1].Text = "=HYPERLINK(\"x\")"
	rows, err := csv.NewReader(bytes.NewReader(bytes.TrimPrefix(made(t, m, "register-csv").Data,
		[]byte("\xef\xbb\xbf")))).ReadAll()
	if err != nil {
		t.Fatal(err)
	}
	steps := numbering.Number(m)
	if len(rows) != len(steps)+1 || !strings.HasPrefix(rows[1][1], "'=") {
		t.Errorf("%v", rows)
	}
	f, err := excelize.OpenReader(bytes.NewReader(made(t, m, "register-xlsx").Data),
		excelize.Options{UnzipSizeLimit: 10 << 20, UnzipXMLSizeLimit: 10 << 20})
	if err != nil {
		t.Fatal(err)
	}
	defer f.Close()
	table, err := f.GetRows("Register")
	if err != nil || len(table) != len(steps)+1 || table[1][1] != "=HYPERLINK(\"x\")" {
		t.Errorf("%v %v", table, err)
	}
	if formula, err := f.GetCellFormula("Register", "B2"); err != nil || formula != "" {
		t.Errorf("a text became the formula %q: %v", formula, err)
	}
}

// The same map gives the same bytes in every format, and a picture of a part carries that part alone.
func TestSameMapSameBytes(t *testing.T) {
	for i := range exchange.Formats {
		f := &exchange.Formats[i]
		if a, b := made(t, two(t), f.Name), made(t, two(t), f.Name); !bytes.Equal(a.Data, b.Data) {
			t.Errorf("%s differs from one time to the next", f.Name)
		}
		if !f.Heeds("inside") {
			continue
		}
		without := made(t, two(t), f.Name, "inside", "no", "what", "sheet").Data
		if _, err := carrier.Inside(without); !errors.Is(err, carrier.ErrNone) {
			t.Errorf("%s without the map inside has one: %v", f.Name, err)
		}
		if f.Heeds("ids") {
			file, err := carrier.Inside(made(t, two(t), f.Name, "what", "selection", "ids", "b,c").Data)
			if err != nil || bytes.Contains(file, []byte("Test the light")) ||
				bytes.Contains(file, []byte("Lamp is out\"")) || !bytes.Contains(file, []byte("Log the report")) {
				t.Errorf("%s of a selection carries more, or less: %v", f.Name, err)
			}
			if m, err := tracerjson.Read(file); err != nil || len(m.Sheets[0].Connectors) != 1 {
				t.Errorf("%s: what it carries is no map: %v", f.Name, err)
			}
		}
	}
}

// Maps as nobody would draw them are exported, or refused in plain words.
func TestOddMapsGoOut(t *testing.T) {
	empty := model.New("", model.Rightwards, "A4", true)
	long := model.New(strings.Repeat("\U0001F600", 200), model.Rightwards, "A4", true)
	quoted := model.New("a/b\\c:\"d\"<e>|f?*\u202egpj", model.Rightwards, "A2", false)
	for name, m := range map[string]*model.Map{"empty": empty, "long": long, "quoted": quoted} {
		for i := range exchange.Formats {
			f := &exchange.Formats[i]
			out := made(t, m, f.Name)
			data, err := out.Whole()
			if err != nil || len(data) == 0 ||
				!slices.Contains(
					[]string{f.Ending, ".zip"},
					strings.TrimPrefix(out.Name, exchange.FileName(strings.TrimSuffix(
						strings.TrimSuffix(out.Name, ".zip"), f.Ending))),
				) ||
				strings.ContainsAny(out.Name, "/\\:*?\"<>|\n") || len(out.Name) > 150 {
				t.Errorf("%s as %s: %d bytes, called %q", name, f.Name, len(data), out.Name)
			}
		}
	}
	for _, name := range []string{"", ".", "..", "con", "COM1.x", "a\x00b"} {
		if got := exchange.FileName(name); got == "" || strings.Trim(got, ".") == "" ||
			strings.EqualFold(got, name) && name != "a" {
			t.Errorf("the file name of %q is %q", name, got)
		}
	}
	for _, wrong := range [][]string{{"png", "scale", "0"}, {"png", "scale", "NaN"}, {"pdf", "paper", "A99"},
		{"pdf", "paper", "A5", "margin", "60", "use", "tiles", "overlap", "60"}, {"svg", "sheet", "9"},
		{"svg", "what", "selection"}, {"svg", "what", "selection", "ids", "nobody"},
		{"png", "scale", "16"}, {"pdf", "date", "yesterday"}, {"jpeg", "quality", "many"}} {
		f := exchange.Named(wrong[0])
		s, err := exchange.Read(f, func(name string) (string, bool) {
			for i := 1; i < len(wrong); i += 2 {
				if wrong[i] == name {
					return wrong[i+1], true
				}
			}
			return "", false
		})
		if err == nil {
			_, err = exchange.Make(context.Background(), quoted, f, s, nil)
		}
		var said *exchange.ChoiceError
		if !errors.As(err, &said) || len(said.Text) < 15 {
			t.Errorf("%v: %v", wrong, err)
		}
	}
}

// Characters that nothing draws are named, with the step they are in.
func TestWhatCannotBeDrawnIsNamed(t *testing.T) {
	back, err := typeface.From(t.TempDir())
	if err != nil {
		t.Fatal(err)
	}
	defer back()
	m := two(t)
	m.Sheets[0].Symbols[1].Text = "Log 報告"
	out := made(t, m, "pdf")
	if words := strings.Join(out.Words, " "); !strings.Contains(words, "Step 1") || !strings.Contains(words, "U+5831") {
		t.Errorf("it says %q", words)
	}
}

// Every choice that a format names is one of the list, and every choice is some format's.
func TestFormatsNameChoicesThereAre(t *testing.T) {
	named := map[string]bool{}
	for i := range exchange.Formats {
		f := &exchange.Formats[i]
		s, err := exchange.Read(f, func(string) (string, bool) { return "", false })
		if err != nil {
			t.Errorf("%s: %v", f.Name, err)
		}
		for _, name := range f.Choices {
			if _, ok := s[name]; !ok {
				t.Errorf("%s heeds %q, which is no choice", f.Name, name)
			}
			named[name] = true
		}
		for name := range f.Defaults {
			if !f.Heeds(name) {
				t.Errorf("%s has a default for %q, which it does not heed", f.Name, name)
			}
		}
		for _, c := range exchange.Choices {
			if d := c.DefaultFor(f); c.Kind == exchange.List &&
				!slices.ContainsFunc(c.Options, func(o exchange.Option) bool { return o.Value == d }) {
				t.Errorf("%s: %q is no option of %s", f.Name, d, c.Name)
			}
		}
	}
	for _, c := range exchange.Choices {
		if !named[c.Name] {
			t.Errorf("no format heeds %q", c.Name)
		}
	}
	if list := slices.Sorted(maps.Keys(named)); len(list) != len(exchange.Choices) {
		t.Errorf("%d choices of %d", len(list), len(exchange.Choices))
	}
}

// Links go out as links: as other programs read them in a PDF, and in the text of every kind of document.
func TestLinksGoOut(t *testing.T) {
	m := model.New("Lost key", model.Rightwards, "A4", true)
	m.Sheets[0].Symbols = []*model.Symbol{
		{ID: "a", Kind: model.Process, Text: "Ask for it", Box: geometry.Box{X: 8000, Y: 8000, W: 12000, H: 6400},
			Links: []model.Hyperlink{{Title: "Form (12)", To: "https://forms.example/key?a=(1)&b=ü"}, {To: "#b"}}},
		{ID: "b", Kind: model.Process, Text: "Mail desk@keys.example",
			Box: geometry.Box{X: 30000, Y: 8000, W: 12000, H: 6400}},
	}
	m.Sheets[0].Connectors = []*model.Connector{{ID: "c", From: model.End{Symbol: "a"}, To: model.End{Symbol: "b"}}}
	for _, format := range []string{"pdf", "procedure-pdf"} {
		read := run(t, made(t, m, format).Data, "pdfinfo", "-url", "IN")
		for _, want := range []string{"https://forms.example/key?a=(1)&b=%C3%BC", "mailto:desk@keys.example"} {
			if !strings.Contains(read, want) {
				t.Errorf("pdfinfo finds no %s in %s:\n%s", want, format, read)
			}
		}
	}
	for format, want := range map[string]string{
		"svg":                `href="https://forms.example/key?a=(1)&amp;b=ü"`,
		"html":               `rel="noopener noreferrer" href="https://forms.example/key?a=(1)&amp;b=ü"`,
		"procedure-html":     `<a href="https://forms.example/key?a=%281%29&amp;b=%c3%bc" target="_blank"`,
		"procedure-markdown": "[desk@keys.example](<mailto:desk@keys.example>)",
	} {
		if got := string(made(t, m, format, "pictures", "no").Data); !strings.Contains(got, want) {
			t.Errorf("%s does not hold %s", format, want)
		}
	}
}
