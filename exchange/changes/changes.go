// Package changes writes what changed between two states of a map as a document: as a web page, as Markdown, or as
// JSON.
package changes

import (
	"bytes"
	"context"
	"encoding/json"
	"fmt"
	"html/template"
	"regexp"
	"strings"

	"github.com/sergi/go-diff/diffmatchpatch"

	"plaintracer/core/compare"
	"plaintracer/core/model"
)

// Piece is a part of a text that stayed, or is only in the old or the new one.
type Piece struct {
	Text     string
	Old, New bool
}

// tokens are the words of a text and what stands between them, so that a word that stayed is not marked for the space
// that came after it.
var tokens = regexp.MustCompile(`[\pL\pN]+|\s+|[^\pL\pN\s]`)

// Words parts two texts into the words that stayed and those that changed (Myers, "An O(ND) Difference Algorithm",
// 1986, by go-diff, over words).
func Words(old, now string) []Piece {
	d := diffmatchpatch.New()
	numbers, words := map[string]rune{}, []string{}
	code := func(text string) []rune {
		var out []rune
		for _, w := range tokens.FindAllString(text, -1) {
			n, known := numbers[w]
			if !known {
				n = rune(len(words)) + 0x100
				if n >= 0xd800 { // beyond what no character may be
					n += 0x800
				}
				numbers[w], words = n, append(words, w)
			}
			out = append(out, n)
		}
		return out
	}
	var list []Piece
	for _, part := range d.DiffMainRunes(code(old), code(now), false) {
		var text strings.Builder
		for _, r := range part.Text {
			if r >= 0xe000 {
				r -= 0x800
			}
			text.WriteString(words[r-0x100])
		}
		list = append(list, Piece{text.String(), part.Type == diffmatchpatch.DiffDelete,
			part.Type == diffmatchpatch.DiffInsert})
	}
	return list
}

// Line is a change as it is told.
type Line struct {
	compare.Change
	Sentence string
	// Pieces are those of a text that was reworded.
	Pieces []Piece
}

// Form says how a change is marked, so that colour is not needed to tell it.
func (l Line) Form() string {
	if l.Attribute == compare.Moved || l.Attribute == compare.Restyled {
		return "moved"
	}
	return [...]string{compare.Added: "added", compare.Removed: "removed", compare.Changed: "changed"}[l.Kind]
}

// Short says a change in a few words, without a full stop: "step 8 reworded".
func (l *Line) Short() string {
	of := l.Of
	if i := strings.Index(of, " “"); i > 0 && strings.HasPrefix(of, "Step ") {
		of = of[:i]
	}
	of = strings.ToLower(of[:1]) + of[1:]
	switch {
	case l.Kind == compare.Added:
		return of + " added"
	case l.Kind == compare.Removed:
		return of + " removed"
	case l.Attribute == "text":
		return of + " reworded"
	}
	said := strings.TrimSuffix(l.Sentence, ".")
	return strings.ToLower(said[:1]) + said[1:]
}

// Account is what changed between two states, ready to be told.
type Account struct {
	Title, From, To string
	// Lines are what changed in the work, Moves what changed on the page alone.
	Lines, Moves []Line
	compare.Report

	before, after *model.Map
}

// Between tells what changed between two states of a map, which are called from and to. Steps that only have another
// number are counted.
func Between(before, after *model.Map, from, to string) *Account {
	a := &Account{Title: after.Title, From: from, To: to, Report: compare.Maps(before, after), before: before,
		after: after}
	others := map[string]bool{}
	for _, c := range a.Changes {
		if c.Attribute != "number" {
			others[c.Thing.ID] = true
		}
	}
	for i := range a.Changes {
		c := &a.Changes[i]
		if c.Attribute == "number" && !others[c.Thing.ID] {
			continue
		}
		l := Line{Change: *c, Sentence: a.Sentence(c)}
		if c.Attribute == "text" {
			l.Pieces = Words(c.Old, c.New)
		}
		a.Lines = append(a.Lines, l)
	}
	for i := range a.Page {
		a.Moves = append(a.Moves, Line{Change: a.Page[i], Sentence: a.Sentence(&a.Page[i])})
	}
	return a
}

// Counted says what is counted only, in a sentence; empty for nothing.
func (a *Account) Counted() string {
	var parts []string
	moved := 0
	for i := range a.Moves {
		if a.Moves[i].Attribute == compare.Moved {
			moved++
		}
	}
	for _, p := range []struct {
		n        int
		one, all string
	}{{a.Renumbered, "one step has another number", "steps have another number"},
		{moved, "one thing was moved or sized", "things were moved or sized"},
		{len(a.Moves) - moved, "one looks otherwise", "look otherwise"}} {
		switch {
		case p.n == 1:
			parts = append(parts, p.one)
		case p.n > 1:
			parts = append(parts, fmt.Sprint(p.n, " ", p.all))
		}
	}
	if len(parts) == 0 {
		return ""
	}
	text := "Beside that, " + strings.Join(parts, ", ") + "."
	if len(a.Lines) == 0 {
		text = "Nothing of the work changed; " + strings.Join(parts, ", ") + "."
	}
	return text
}

// Markdown writes the account as CommonMark.
func (a *Account) Markdown() []byte {
	var b bytes.Buffer
	safe := strings.NewReplacer("\\", "\\\\", "*", "\\*", "_", "\\_", "[", "\\[", "]", "\\]", "<", "\\<", "`", "\\`",
		"#", "\\#", "|", "\\|")
	fmt.Fprintf(&b, "# Changes from %s to %s\n\n%s\n", safe.Replace(a.From), safe.Replace(a.To), safe.Replace(a.Title))
	for i := range a.Lines {
		l := &a.Lines[i]
		fmt.Fprintf(&b, "\n- %s", safe.Replace(l.Sentence))
		if len(l.Pieces) > 0 {
			fmt.Fprintf(&b, " It was “%s”.", safe.Replace(l.Old))
		}
	}
	if len(a.Lines) == 0 && a.Counted() == "" {
		b.WriteString("\nNothing changed.")
	}
	if text := a.Counted(); text != "" {
		b.WriteString("\n\n" + text)
	}
	if len(a.Moves) > 0 {
		b.WriteString("\n\n## On the page\n")
		for i := range a.Moves {
			fmt.Fprintf(&b, "\n- %s", safe.Replace(a.Moves[i].Sentence))
		}
	}
	b.WriteByte('\n')
	return b.Bytes()
}

var page = template.Must(template.New("page").Parse(`<!doctype html>
<html lang="en"><head><meta charset="utf-8"><title>Changes from {{.From}} to {{.To}}: {{.Title}}</title>
<style>body{font:15px/1.5 sans-serif;max-width:720px;margin:40px auto;padding:0 16px;color:#22303c}li{margin:6px 0}img{max-width:100%;border:1px solid #d8d2c5}figure{margin:16px 0;break-inside:avoid}del{color:#ae4630}ins{color:#1f6b57;text-decoration:underline}b{font-weight:600}</style></head>
<body><h1>{{.Title}}</h1><p>Changes from {{.From}} to {{.To}}</p>
<h2>In the work</h2><ul>{{range .Lines}}<li><b>{{.Form}}</b>: {{if .Pieces}}{{.Of}} was reworded: {{range .Pieces}}{{if .Old}}<del>{{.Text}}</del>{{else if .New}}<ins>{{.Text}}</ins>{{else}}{{.Text}}{{end}}{{end}}{{else}}{{.Sentence}}{{end}}</li>
{{else}}<li>Nothing changed.</li>{{end}}</ul>{{with .Renumbering}}<p>{{.}}</p>{{end}}
{{if .Moves}}<h2>On the page</h2><ul>{{range .Moves}}<li>{{.Sentence}}</li>{{end}}</ul>{{end}}
{{range .Pictures}}<figure><figcaption>{{.Name}}, with what changed marked: added by a thick frame, changed by a double one, removed by a dotted one, moved by a dashed one</figcaption><img alt="{{.Name}}" src="{{.Source}}"></figure>{{end}}</body></html>
`))

// Renumbering says how many steps only have another number, in a sentence; empty for none.
func (a *Account) Renumbering() string {
	switch a.Renumbered {
	case 0:
		return ""
	case 1:
		return "One step only has another number."
	}
	return fmt.Sprintf("%d steps only have another number.", a.Renumbered)
}

// HTML writes the account as a page that needs nothing else, with pictures of the sheets on which something changed.
func (a *Account) HTML(ctx context.Context) ([]byte, error) {
	list, err := a.pictures(ctx)
	if err != nil {
		return nil, err
	}
	var b bytes.Buffer
	err = page.Execute(&b, struct {
		*Account
		Pictures []picture
	}{a, list})
	return b.Bytes(), err
}

// JSON writes the account for programs.
func (a *Account) JSON() ([]byte, error) {
	type change struct {
		Kind      string            `json:"kind"`
		What      string            `json:"what"`
		ID        string            `json:"id,omitempty"`
		Sheet     string            `json:"sheet,omitempty"`
		Sentence  string            `json:"sentence"`
		Attribute string            `json:"attribute,omitempty"`
		Old       string            `json:"old,omitempty"`
		New       string            `json:"new,omitempty"`
		Facts     map[string]string `json:"facts,omitempty"`
	}
	out := struct {
		From       string   `json:"from"`
		To         string   `json:"to"`
		Changes    []change `json:"changes"`
		Renumbered int      `json:"renumbered"`
		Page       []change `json:"page"`
	}{From: a.From, To: a.To, Changes: []change{}, Renumbered: a.Renumbered, Page: []change{}}
	for i := range a.Lines {
		l := &a.Lines[i]
		out.Changes = append(out.Changes, change{l.Form(), l.Thing.What, l.Thing.ID, l.Sheet, l.Sentence, l.Attribute,
			l.Old, l.New, l.Facts})
	}
	for i := range a.Moves {
		l := &a.Moves[i]
		out.Page = append(out.Page, change{Kind: l.Attribute, What: l.Thing.What, ID: l.Thing.ID, Sheet: l.Sheet,
			Sentence: l.Sentence})
	}
	var b bytes.Buffer
	enc := json.NewEncoder(&b)
	enc.SetEscapeHTML(false)
	enc.SetIndent("", "  ")
	err := enc.Encode(out)
	return b.Bytes(), err
}
