// Package record writes the outcome of a review as a page to file: what was reviewed, who said what, what changed since
// the version before, and the sheets as they were seen.
package record

import (
	"bytes"
	"context"
	"fmt"
	"html/template"
	"strings"

	"plaintracer/core/geometry"
	"plaintracer/core/model"
	"plaintracer/core/scene"
	"plaintracer/exchange/document"
	"plaintracer/exchange/pdf"
	"plaintracer/exchange/png"
	"plaintracer/exchange/svg"
)

// Record is the outcome of a review.
type Record struct {
	Title, Subtitle string
	// Facts are names and values, of which empty ones are left out.
	Facts [][2]string
	// Voices are those who were asked, and those who only said a word.
	Voices []Voice
	// Threads are the remarks that were made, in their order.
	Threads []Thread
	// Before names the version before, Changes what changed since then; both empty where there was none.
	Before  string
	Changes []string
	// Map is what was reviewed.
	Map *model.Map
}

// Voice is one who was asked: by what way, when they were told, looked at it and answered, what they said and why, and
// the sentence they signed. Empty is nothing yet.
type Voice struct {
	Name, Way, Told, Looked, Said, At, Why, Signature string
	// Unasked says that they were not asked, and do not count.
	Unasked bool
}

// Facts are the lines about a voice beside its name and what it said, each a name and a value.
func (v *Voice) Facts() (list [][2]string) {
	for _, f := range [][2]string{{"Asked", strings.Trim(v.Way+", "+v.Told, ", ")}, {"Looked at it", v.Looked},
		{"Answered", v.At},
		{"Why", v.Why}, {"Signed", v.Signature}} {
		if f[1] != "" && !(v.Unasked && f[0] == "Asked") {
			list = append(list, f)
		}
	}
	return list
}

// Thread is a remark with its answers: what it is about, and what became of it.
type Thread struct {
	About string
	Saying
	Answers []Saying
	Settled string
}

// Saying is what somebody said, and when.
type Saying struct{ By, At, Text string }

// Formats are those in which a record is written, with their media types.
var Formats = map[string]string{"pdf": "application/pdf", "html": "text/html",
	"docx": "application/vnd.openxmlformats-officedocument.wordprocessingml.document"}

// Write writes a record in one of the formats.
func (r *Record) Write(ctx context.Context, format string) ([]byte, error) {
	switch format {
	case "html":
		return r.page(ctx)
	case "pdf":
		return r.paper(ctx)
	case "docx":
		return r.word(ctx)
	}
	return nil, fmt.Errorf("a record is written as pdf, docx or html, not %q", format)
}

var page = template.Must(template.New("page").Parse(`<!doctype html>
<html lang="en"><head><meta charset="utf-8"><title>{{.Title}}: {{.Subtitle}}</title>
<style>body{font:15px/1.5 sans-serif;max-width:820px;margin:40px auto;padding:0 16px;color:#22303c}table{border-collapse:collapse;width:100%}td,th{border-bottom:1px solid #d8d2c5;padding:6px 8px;text-align:left;vertical-align:top;overflow-wrap:anywhere}dt{color:#5b6773}dd{margin:0 0 8px;overflow-wrap:anywhere}li p{margin:2px 0;white-space:pre-line;overflow-wrap:anywhere}.answer{padding-left:24px}img{max-width:100%;border:1px solid #d8d2c5}figure{margin:16px 0}</style></head>
<body><h1>{{.Title}}</h1><p>{{.Subtitle}}</p>
<dl>{{range .Facts}}{{if index . 1}}<dt>{{index . 0}}</dt><dd>{{index . 1}}</dd>{{end}}{{end}}</dl>
<h2>What was said</h2><table><thead><tr><th scope="col">Who</th><th scope="col">What they said</th><th scope="col">How it came about</th></tr></thead><tbody>{{range .Voices}}<tr><td>{{.Name}}</td><td>{{.Said}}{{if .Unasked}} (was not asked, does not count){{end}}</td><td>{{range .Facts}}{{index . 0}}: {{index . 1}}<br>{{end}}</td></tr>{{end}}</tbody></table>
{{if .Threads}}<h2>Remarks</h2><ol>{{range .Threads}}<li><p><strong>{{.About}}</strong></p><p>{{.By}}, {{.At}}: {{.Text}}</p>{{range .Answers}}<p class="answer">{{.By}}, {{.At}}: {{.Text}}</p>{{end}}<p><em>{{.Settled}}</em></p></li>{{end}}</ol>{{end}}
{{with .Before}}<h2>What changed since {{.}}</h2><ul>{{range $.Changes}}<li>{{.}}</li>{{else}}<li>Nothing.</li>{{end}}</ul>{{end}}
<h2>The sheets that were reviewed</h2>
{{range .Pictures}}<figure><figcaption>{{.Name}}</figcaption><img alt="{{.Name}}" src="{{.Source}}"></figure>{{end}}</body></html>
`))

// pictured is a sheet as the page shows it.
type pictured struct {
	Name   string
	Source template.URL
}

func (r *Record) page(ctx context.Context) ([]byte, error) {
	drawings, err := r.drawings(ctx)
	if err != nil {
		return nil, err
	}
	var list []pictured
	for i, d := range drawings {
		source, err := svg.Source(d)
		if err != nil {
			return nil, err
		}
		list = append(list, pictured{r.Map.Sheets[i].Name, source})
	}
	var out bytes.Buffer
	err = page.Execute(&out, struct {
		*Record
		Pictures []pictured
	}{r, list})
	return out.Bytes(), err
}

// drawings are the sheets that were reviewed.
func (r *Record) drawings(ctx context.Context) (list []*scene.Drawing, err error) {
	facts := scene.Know(r.Map)
	for _, s := range r.Map.Sheets {
		d, ok := scene.DrawUntil(r.Map, s, facts, func() bool { return ctx.Err() != nil })
		if !ok {
			return nil, ctx.Err()
		}
		list = append(list, d)
	}
	return list, nil
}

// blocks are the parts of the record as a document.
func (r *Record) blocks() []document.Block {
	blocks := []document.Block{document.Plain(document.Title, r.Title), document.Plain(document.Facts, r.Subtitle)}
	for _, f := range r.Facts {
		if f[1] != "" {
			blocks = append(blocks, document.Plain(document.Paragraph, f[0]+": "+f[1]))
		}
	}
	blocks = append(blocks, document.Plain(document.Heading, "What was said"))
	for i := range r.Voices {
		v := &r.Voices[i]
		said := v.Name + ": " + v.Said
		if v.Unasked {
			said += " (was not asked, does not count)"
		}
		blocks = append(blocks, document.Plain(document.Item, said))
		for _, f := range v.Facts() {
			blocks = append(blocks, document.Plain(document.Under, f[0]+": "+f[1]))
		}
	}
	if len(r.Threads) > 0 {
		blocks = append(blocks, document.Plain(document.Heading, "Remarks"))
	}
	for _, t := range r.Threads {
		blocks = append(blocks, document.Plain(document.Item, t.About+", "+t.Settled))
		for _, said := range append([]Saying{t.Saying}, t.Answers...) {
			blocks = append(blocks, document.Plain(document.Under, said.By+", "+said.At+": "+said.Text))
		}
	}
	if r.Before != "" {
		blocks = append(blocks, document.Plain(document.Heading, "What changed since "+r.Before))
		if len(r.Changes) == 0 {
			blocks = append(blocks, document.Plain(document.Paragraph, "Nothing."))
		}
		for _, one := range r.Changes {
			blocks = append(blocks, document.Plain(document.Item, one))
		}
	}
	return blocks
}

// paper sets the record on pages, with the sheets behind it.
func (r *Record) paper(ctx context.Context) ([]byte, error) {
	drawings, err := r.drawings(ctx)
	if err != nil {
		return nil, err
	}
	const margin = 76 * geometry.Px // 20 mm
	list, read, err := document.Pages(r.blocks(), r.Map, drawings, "A4", margin)
	if err != nil {
		return nil, err
	}
	return pdf.Write(ctx, &pdf.Document{Title: r.Title, Subject: r.Subtitle, Language: "en", Pages: list,
		Structure: read})
}

// word writes the record for word processors.
func (r *Record) word(ctx context.Context) ([]byte, error) {
	drawings, err := r.drawings(ctx)
	if err != nil {
		return nil, err
	}
	blocks := append(r.blocks(), document.Plain(document.Heading, "The sheets that were reviewed"))
	pictures := map[string]document.Drawn{}
	for i, d := range drawings {
		s := r.Map.Sheets[i]
		data, err := png.Write(ctx, d, 2)
		if err != nil {
			return nil, err
		}
		pictures[s.ID] = document.Drawn{Data: data, Width: float64(d.Extent.W) / geometry.Px,
			Height: float64(d.Extent.H) / geometry.Px}
		blocks = append(blocks, document.Block{Kind: document.Picture, ID: s.ID, Runs: []document.Run{{Text: s.Name}}})
	}
	text := &document.Text{Blocks: blocks, Pictures: pictures, Language: "en", Foot: r.Title + ", " + r.Subtitle}
	return text.Word()
}
