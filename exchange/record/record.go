// Package record writes the outcome of a review as a page to file: what was reviewed, who said what, and the sheets as
// they were seen.
package record

import (
	"bytes"
	"context"
	"fmt"
	"html/template"

	"plaintracer/core/geometry"
	"plaintracer/core/model"
	"plaintracer/core/scene"
	"plaintracer/exchange/document"
	"plaintracer/exchange/pdf"
)

// Record is the outcome of a review.
type Record struct {
	Title, Subtitle string
	// Facts are names and values, of which empty ones are left out.
	Facts [][2]string
	// Head names the columns of Rows, which say who said what.
	Head []string
	Rows [][]string
	// Threads are the remarks that were made, in their order.
	Threads []Thread
	// Map is what was reviewed.
	Map *model.Map
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

// Write writes a record as "pdf" or "html".
func (r *Record) Write(ctx context.Context, format string) ([]byte, error) {
	switch format {
	case "html":
		var out bytes.Buffer
		err := page.Execute(&out, r)
		return out.Bytes(), err
	case "pdf":
		return r.paper(ctx)
	}
	return nil, fmt.Errorf("a record is written as pdf or html, not %q", format)
}

var page = template.Must(template.New("page").Parse(`<!doctype html>
<html lang="en"><head><meta charset="utf-8"><title>{{.Title}}: {{.Subtitle}}</title>
<style>body{font:15px/1.5 sans-serif;max-width:760px;margin:40px auto;padding:0 16px;color:#22303c}table{border-collapse:collapse;width:100%}td,th{border-bottom:1px solid #d8d2c5;padding:6px 8px;text-align:left;vertical-align:top}dt{color:#5b6773}dd{margin:0 0 8px;overflow-wrap:anywhere}li p{margin:2px 0;white-space:pre-line;overflow-wrap:anywhere}.answer{padding-left:24px}</style></head>
<body><h1>{{.Title}}</h1><p>{{.Subtitle}}</p>
<dl>{{range .Facts}}{{if index . 1}}<dt>{{index . 0}}</dt><dd>{{index . 1}}</dd>{{end}}{{end}}</dl>
<table><thead><tr>{{range .Head}}<th scope="col">{{.}}</th>{{end}}</tr></thead><tbody>{{range .Rows}}<tr>{{range .}}<td>{{.}}</td>{{end}}</tr>{{end}}</tbody></table>
{{if .Threads}}<h2>Remarks</h2><ol>{{range .Threads}}<li><p><strong>{{.About}}</strong></p><p>{{.By}}, {{.At}}: {{.Text}}</p>{{range .Answers}}<p class="answer">{{.By}}, {{.At}}: {{.Text}}</p>{{end}}<p><em>{{.Settled}}</em></p></li>{{end}}</ol>{{end}}</body></html>
`))

// paper sets the record on pages, with the sheets behind it.
func (r *Record) paper(ctx context.Context) ([]byte, error) {
	text := func(kind document.Kind, text string) document.Block {
		return document.Block{Kind: kind, Runs: []document.Run{{Text: text}}}
	}
	blocks := []document.Block{text(document.Title, r.Title), text(document.Facts, r.Subtitle)}
	for _, f := range r.Facts {
		if f[1] != "" {
			blocks = append(blocks, text(document.Paragraph, f[0]+": "+f[1]))
		}
	}
	blocks = append(blocks, text(document.Heading, "What was said"))
	for _, row := range r.Rows {
		line := ""
		for i, cell := range row {
			if cell != "" && i > 0 {
				line += ", "
			}
			line += cell
		}
		blocks = append(blocks, text(document.Item, line))
	}
	if len(r.Threads) > 0 {
		blocks = append(blocks, text(document.Heading, "Remarks"))
	}
	for _, t := range r.Threads {
		blocks = append(blocks, text(document.Item, t.About+", "+t.Settled))
		for _, said := range append([]Saying{t.Saying}, t.Answers...) {
			blocks = append(blocks, text(document.Paragraph, said.By+", "+said.At+": "+said.Text))
		}
	}
	var drawings []*scene.Drawing
	facts := scene.Know(r.Map)
	for _, s := range r.Map.Sheets {
		d, ok := scene.DrawUntil(r.Map, s, facts, func() bool { return ctx.Err() != nil })
		if !ok {
			return nil, ctx.Err()
		}
		drawings = append(drawings, d)
	}
	const margin = 76 * geometry.Px // 20 mm
	list, err := document.Pages(blocks, r.Map, drawings, "A4", margin)
	if err != nil {
		return nil, err
	}
	return pdf.Write(ctx, &pdf.Document{Title: r.Title, Subject: r.Subtitle, Language: "en", Pages: list})
}
