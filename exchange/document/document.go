// Package document writes a procedure as a document: HTML, Markdown, OpenDocument text, and pages for PDF. The wording
// is that of words.tmpl, of which a house can replace any part; what the writers share is a list of blocks.
package document

import (
	_ "embed"
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"sync"
	"text/template"
	"unicode"
	"unicode/utf8"

	"plaintracer/core/links"
	"plaintracer/core/procedure"
)

//go:embed words.tmpl
var shipped string

// Kind is what a block is.
type Kind int

// The kinds of blocks.
const (
	Title Kind = iota
	Facts
	Heading
	Paragraph
	Item
	// Step is a numbered step, Under what stands under it.
	Step
	Under
	// Picture stands for a sheet, and its text under it.
	Picture
)

// Block is a part of a document.
type Block struct {
	Kind Kind
	Runs []Run
	// ID is that of the step, or of the sheet of a picture; Number that of the step.
	ID     string
	Number string
}

// Run is a stretch of text. To is the id of the step it leads to, Address the address; empty for none.
type Run struct{ Text, To, Address string }

// Text returns the words of a block.
func (b *Block) Text() string {
	var out strings.Builder
	for _, r := range b.Runs {
		out.WriteString(r.Text)
	}
	return out.String()
}

// A reference to a step stands in the text that templates make between these, from the private part of Unicode, which
// texts of maps may not hold by chance: they are taken out of them before.
const (
	open, split, shut = '\uE0F0', '\uE0F1', '\uE0F2'
)

var house struct {
	sync.Mutex
	folder string
}

// UseFolder has documents written in the words of a folder. It fails where these cannot be used.
func UseFolder(folder string) error {
	if _, err := words(&procedure.Procedure{}, folder); err != nil {
		return err
	}
	house.Lock()
	defer house.Unlock()
	house.folder = folder
	return nil
}

// words returns the templates for a procedure.
func words(p *procedure.Procedure, folder string) (*template.Template, error) {
	ids := map[string]string{}
	for _, s := range p.Steps {
		ids[s.Called()] = s.ID
	}
	t := template.New("words").Funcs(template.FuncMap{
		"ref": func(n string) string {
			return fmt.Sprintf("%c%s%c%s%c", open, n, split, ids[n], shut)
		},
		"list":  func(list []string) string { return strings.Join(list, "; ") },
		"lower": lower,
		"stop": func(text string) string {
			if r, _ := utf8.DecodeLastRuneInString(text); unicode.IsPunct(r) && r != ')' && r != '"' && r != '”' &&
				r != '’' {
				return ""
			}
			return "."
		},
		"things": func(list []procedure.Thing) string {
			var out []string
			for _, t := range list {
				if t.Text == "" {
					t.Text = lower(t.Kind)
				}
				out = append(out, "“"+t.Text+"”")
			}
			return strings.Join(out, ", ")
		},
	})
	t, err := t.Parse(shipped)
	if err != nil || folder == "" {
		return t, err
	}
	name := filepath.Join(folder, "words.tmpl")
	own, err := os.ReadFile(name)
	if errors.Is(err, os.ErrNotExist) {
		return t, nil
	}
	if err != nil {
		return nil, err
	}
	if t, err = t.Parse(string(own)); err != nil {
		return nil, fmt.Errorf("%s: %w", name, err)
	}
	return t, nil
}

// anchor is the name under which a document leads to the step with a number.
func anchor(number string) string {
	return "step-" + strings.Map(func(r rune) rune {
		if unicode.IsLetter(r) || unicode.IsDigit(r) || r == '.' {
			return r
		}
		return '-'
	}, number)
}

// mark stands before a step.
func mark(number string) string {
	if number == "" {
		return "•"
	}
	return number + "."
}

// lower writes the first letter small, unless the word is written large throughout.
func lower(text string) string {
	r, n := utf8.DecodeRuneInString(text)
	if next, _ := utf8.DecodeRuneInString(text[n:]); unicode.IsUpper(next) {
		return text
	}
	return string(unicode.ToLower(r)) + text[n:]
}

// clean takes the marks of references out of the texts of a map.
func clean(text string) string {
	return strings.Map(func(r rune) rune {
		if r == open || r == split || r == shut {
			return -1
		}
		return r
	}, text)
}

// Blocks tells a procedure. Without pictures the sheets are left out.
func Blocks(p *procedure.Procedure, pictures bool) ([]Block, error) {
	house.Lock()
	folder := house.folder
	house.Unlock()
	t, err := words(p, folder)
	if err != nil {
		return nil, err
	}
	b := builder{t: t}
	b.add(Block{Kind: Title, Runs: []Run{{Text: clean(p.Title)}}})
	for _, f := range p.Facts {
		b.add(Block{Kind: Facts, Runs: []Run{{Text: f.Name + ": " + clean(f.Value)}}})
	}
	for _, part := range [2][2]string{{"purpose", p.Purpose}, {"scope", p.Scope}} {
		if strings.TrimSpace(part[1]) == "" {
			continue
		}
		b.say(Heading, part[0], nil)
		for _, paragraph := range strings.Split(part[1], "\n") {
			if paragraph = strings.TrimSpace(paragraph); paragraph != "" {
				b.add(Block{Kind: Paragraph, Runs: []Run{{Text: clean(paragraph)}}})
			}
		}
	}
	if len(p.Roles) > 0 {
		b.say(Heading, "roles", nil)
		for _, r := range p.Roles {
			b.say(Item, "role", r)
		}
	}
	if len(p.Steps) > 0 || len(p.Charts)+len(p.Journeys) == 0 {
		b.say(Heading, "steps", nil)
	}
	if len(p.Begins) > 0 {
		b.say(Paragraph, "begins", p.Begins)
	}
	for i := range p.Steps {
		b.step(&p.Steps[i])
	}
	if len(p.Ends) > 0 {
		b.say(Paragraph, "ends", p.Ends)
	}
	for i := range p.Charts {
		b.say(Heading, "chart", &p.Charts[i])
		for k := range p.Charts[i].Cards {
			b.say(Item, "card", &p.Charts[i].Cards[k])
		}
	}
	for i := range p.Journeys {
		b.say(Heading, "journey", &p.Journeys[i])
		if p.Journeys[i].Words != "" {
			b.say(Paragraph, "person", &p.Journeys[i])
		}
		for k := range p.Journeys[i].Stages {
			stage := &p.Journeys[i].Stages[k]
			b.say(Paragraph, "stage", stage)
			for n := range stage.Cells {
				b.say(Item, "moment", &stage.Cells[n])
			}
		}
	}
	if pictures && len(p.Sheets) > 0 {
		b.say(Heading, "sheets", nil)
		for _, s := range p.Sheets {
			b.say(Picture, "sheet", s)
			b.list[len(b.list)-1].ID = s.ID
		}
	}
	if len(p.Legend) > 0 {
		b.say(Heading, "legend", nil)
		for _, f := range p.Legend {
			b.add(Block{Kind: Item, Runs: []Run{{Text: f.Name + ": " + f.Value}}})
		}
	}
	return b.list, b.err
}

// pageWords returns the words at the foot of a page.
func pageWords(number, of int) (string, error) {
	house.Lock()
	folder := house.folder
	house.Unlock()
	t, err := words(&procedure.Procedure{}, folder)
	if err != nil {
		return "", err
	}
	b := builder{t: t}
	text := b.words("page", struct{ Number, Of int }{number, of})
	return text, b.err
}

type builder struct {
	t    *template.Template
	list []Block
	err  error
}

func (b *builder) add(block Block) { b.list = append(b.list, block) }

func (b *builder) words(name string, data any) string {
	var out strings.Builder
	if err := b.t.ExecuteTemplate(&out, name, data); err != nil && b.err == nil {
		b.err = err
	}
	return strings.TrimSpace(out.String())
}

// say adds what a template makes of something.
func (b *builder) say(kind Kind, name string, data any) {
	b.add(Block{Kind: kind, Runs: runs(b.words(name, data))})
}

// step adds a numbered step: what is done, where it goes on, and under it what else is known.
func (b *builder) step(s *procedure.Step) {
	text := b.words("step", s)
	var ways []string
	for _, x := range s.Exits {
		name := "further"
		if x.Answer != "" {
			name = "answer"
		}
		if way := b.words(name, x); way != "" {
			ways = append(ways, way)
		}
	}
	if s.Asks && len(ways) > 1 || len(ways) == 1 {
		text += " " + upper(strings.Join(lowered(ways), "; ")) + "."
	} else if len(ways) > 1 {
		text += " " + b.words("together", nil) + " " + strings.Join(ways, "; ") + "."
	}
	b.add(Block{Kind: Step, Runs: runs(text), ID: s.ID, Number: s.Number})
	if len(s.Uses) > 0 {
		b.say(Under, "uses", s.Uses)
	}
	if len(s.Makes) > 0 {
		b.say(Under, "makes", s.Makes)
	}
	if len(s.Values) > 0 {
		b.say(Under, "values", s.Values)
	}
	if len(s.Links) > 0 {
		b.say(Under, "links", s.Links)
	}
	for _, n := range s.Notes {
		b.say(Under, "note", n)
	}
}

func lowered(list []string) []string {
	out := make([]string, len(list))
	for i, s := range list {
		if out[i] = s; i > 0 {
			out[i] = lower(s)
		}
	}
	return out
}

func upper(text string) string {
	r, n := utf8.DecodeRuneInString(text)
	return string(unicode.ToUpper(r)) + text[n:]
}

// runs takes the references and the addresses out of a text.
func runs(text string) []Run {
	var out []Run
	for text != "" {
		plain, rest, found := strings.Cut(text, string(open))
		out = append(out, addresses(plain)...)
		if !found {
			break
		}
		ref, behind, _ := strings.Cut(rest, string(shut))
		number, id, _ := strings.Cut(ref, string(split))
		out = append(out, Run{Text: number, To: id})
		text = behind
	}
	return out
}

// addresses takes the addresses out of a text.
func addresses(text string) []Run {
	var out []Run
	at := 0
	for _, span := range links.InText(text) {
		if span.From > at {
			out = append(out, Run{Text: text[at:span.From]})
		}
		out = append(out, Run{Text: text[span.From:span.To], Address: span.Address})
		at = span.To
	}
	if at < len(text) {
		out = append(out, Run{Text: text[at:]})
	}
	return out
}
