// Package webpage writes a map, or its procedure, as one page that needs nothing beside it: no network, no account,
// and no script to be read. The drawings are inside as SVG, with the characters of the typeface that they show.
package webpage

import (
	"bytes"
	"cmp"
	_ "embed"
	"encoding/base64"
	"html/template"
	"slices"

	"plaintracer/core/model"
	"plaintracer/core/procedure"
	"plaintracer/core/scene"
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
	faces, err := faces(p.Drawings)
	if err != nil {
		return nil, err
	}
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
	var out bytes.Buffer
	err = pages.Execute(&out, map[string]any{
		"Title": p.Map.Title, "Language": cmp.Or(p.Language, "en"), "Sheets": sheets, "Procedure": p.Procedure,
		"Blocks": blocks, "Files": files,
		"Style": template.CSS(style + string(faces)), "Script": template.JS(script),
	})
	return out.Bytes(), err
}

// faces are the fonts of drawings as CSS, each with the characters it shows on any of them.
func faces(list []*scene.Drawing) ([]byte, error) {
	all := &scene.Drawing{}
	for _, d := range list {
		all.Nodes = append(all.Nodes, d.Nodes...)
		all.Fonts = d.Fonts
	}
	set, err := typeface.Of(all)
	if err != nil {
		return nil, err
	}
	embedded, err := set.Embedded(all)
	if err != nil {
		return nil, err
	}
	var out []byte
	for _, f := range embedded {
		out = append(out, `@font-face{font-family:"`+f.Family+`";font-weight:`+f.Weight()+`;font-style:`+f.Style()+
			`;src:url(data:font/ttf;base64,`...)
		out = append(base64.StdEncoding.AppendEncode(out, f.Data), ")}\n"...)
	}
	return out, nil
}
