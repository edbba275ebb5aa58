// Package webpage writes a map, or its procedure, as one page that needs nothing beside it: no network, no account,
// and no script to be read. The drawings are inside as SVG, with the characters of the typeface that they show.
package webpage

import (
	"bytes"
	"cmp"
	_ "embed"
	"encoding/base64"
	"html"
	"html/template"
	"regexp"
	"slices"

	"plaintracer/core/model"
	"plaintracer/core/procedure"
	"plaintracer/core/scene"
	"plaintracer/core/typeset"
	"plaintracer/exchange/document"
	"plaintracer/exchange/svg"
	"plaintracer/exchange/typeface"
)

//go:embed page.html
var source string

//go:embed page.css
var style string

//go:embed page.js
var script string

var pages = template.Must(template.New("page").Parse(source))

// Page is what is written.
type Page struct {
	Map       *model.Map
	Language  string
	Drawings  []*scene.Drawing
	Procedure *procedure.Procedure
	// Blocks are the procedure in words; with them the page is a document, without them it shows the sheets.
	Blocks []document.Block
	// Files are the contents that go along of the files kept with the map.
	Files []File
	// Still leaves out what the page does beside being read, for where no script may run.
	Still bool
}

// File is the content of a file kept with the map, by its id.
type File struct {
	ID   string
	Data []byte
}

// fileView is a file kept with the map, as the page lists it. Address holds its content, where that goes along.
type fileView struct {
	ID, Name string
	Address  template.URL
}

type sheetView struct {
	ID, Name      string
	Width, Height float64
	SVG           template.HTML
}

type blockView struct {
	document.Block
	Sheet *sheetView
}

// Is reports the kind of a block by the name templates have for it.
func (b blockView) Is(kind string) bool {
	return map[string]document.Kind{"title": document.Title, "facts": document.Facts, "heading": document.Heading,
		"paragraph": document.Paragraph,
		"item":      document.Item, "step": document.Step, "under": document.Under,
		"picture": document.Picture, "section": document.Section, "subsection": document.Subsection,
		"table": document.Table, "contents": document.Contents}[kind] == b.Kind
}

// Write returns the page.
func Write(p *Page) ([]byte, error) {
	leads := map[string]string{}
	for _, s := range p.Map.Sheets {
		for _, sym := range s.Symbols {
			if to := p.Map.LeadsAway(sym); to != "" {
				leads[sym.ID] = to
			}
		}
	}
	var sheets []*sheetView
	for _, d := range p.Drawings {
		inside, err := svg.Inline(d, "Sheet "+d.Sheet.Name, leads)
		if err != nil {
			return nil, err
		}
		sheets = append(sheets, &sheetView{d.Sheet.ID, d.Sheet.Name, float64(d.Extent.W) / 100,
			float64(d.Extent.H) / 100, template.HTML(inside)})
	}
	var blocks []blockView
	for _, b := range p.Blocks {
		v := blockView{Block: b}
		if i := slices.IndexFunc(sheets,
			func(s *sheetView) bool { return b.Kind == document.Picture && s.ID == b.ID }); i >= 0 {
			v.Sheet = sheets[i]
		}
		blocks = append(blocks, v)
	}
	var files []fileView
	for _, f := range p.Map.Attached() {
		v := fileView{ID: f.ID, Name: f.Name}
		for i := range p.Files {
			if p.Files[i].ID == f.ID { // never as what it is: it is to be saved, not to be run
				v.Address = template.URL("data:application/octet-stream;base64," +
					base64.StdEncoding.EncodeToString(p.Files[i].Data))
			}
		}
		files = append(files, v)
	}
	var register *registerView
	if p.Procedure != nil && len(p.Procedure.Steps) > 0 {
		register = registerOf(p.Procedure, len(sheets) > 1)
	}
	values := map[string]any{"Title": p.Map.Title, "Language": cmp.Or(p.Language, "en"), "Sheets": sheets,
		"Procedure": p.Procedure, "Register": register, "Blocks": blocks, "Files": files}
	if !p.Still {
		values["Script"] = template.JS(script)
	}
	// What the page says is known when it is made; then its fonts get the characters of it.
	var plain bytes.Buffer
	if err := pages.Execute(&plain, values); err != nil {
		return nil, err
	}
	faces, families, err := faces(p.Drawings, plain.String())
	if err != nil {
		return nil, err
	}
	values["Style"] = template.CSS(style + "body { font-family: " + families + " }\n" + string(faces))
	var out bytes.Buffer
	err = pages.Execute(&out, values)
	return out.Bytes(), err
}

// registerView is the register as the page shows it.
type registerView struct {
	Sheets, Uses, Makes bool
	Fields              []string
	Rows                []registerRow
}

// registerRow is a step with what stands in each field.
type registerRow struct {
	*procedure.Step
	Cells []string
}

func registerOf(p *procedure.Procedure, sheets bool) *registerView {
	v := &registerView{Sheets: sheets, Fields: p.Fields}
	for i := range p.Steps {
		s := &p.Steps[i]
		v.Uses, v.Makes = v.Uses || len(s.Uses) > 0, v.Makes || len(s.Makes) > 0
		row := registerRow{s, make([]string, len(p.Fields))}
		for _, value := range s.Values {
			if k := slices.Index(p.Fields, value.Name); k >= 0 {
				row.Cells[k] = value.Value
			}
		}
		v.Rows = append(v.Rows, row)
	}
	return v
}

// tags are what stands on a page beside its words.
var tags = regexp.MustCompile(`(?s)<svg.*?</svg>|<script.*?</script>|<style.*?</style>|<[^>]*>`)

// faces are the fonts of drawings and of a page around them as CSS, each with the characters that it shows on any of
// them, and how CSS names them.
func faces(list []*scene.Drawing, page string) (css []byte, families string, err error) {
	said := html.UnescapeString(tags.ReplaceAllString(page, " "))
	all := &scene.Drawing{Nodes: []scene.Node{{Texts: []scene.Text{{Text: said},
		{Text: said, Style: typeset.Style{Bold: true}}}}}}
	for _, d := range list {
		all.Nodes = append(all.Nodes, d.Nodes...)
		all.Fonts = d.Fonts
	}
	set, err := typeface.Of(all)
	if err != nil {
		return nil, "", err
	}
	embedded, err := set.Embedded(all)
	if err != nil {
		return nil, "", err
	}
	for _, f := range embedded {
		css = append(css, `@font-face{font-family:"`+f.Family+`";font-weight:`+f.Weight()+`;font-style:`+f.Style()+
			`;src:url(data:font/ttf;base64,`...)
		css = append(base64.StdEncoding.AppendEncode(css, f.Data), ")}\n"...)
	}
	return css, typeface.Families(all), nil
}
