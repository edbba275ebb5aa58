// Package document writes a procedure as a document: HTML, Markdown, OpenDocument text, and pages for PDF. The wording
// is that of words.tmpl, of which a house can replace any part; what the writers share is a list of blocks.
package document

import (
	_ "embed"
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"slices"
	"strconv"
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
	// Section begins what is told of a sheet, Subsection of one that shows a step in detail.
	Section
	Subsection
	// Table is a table of rows, the first of which is its head where Head says so.
	Table
	// Contents stands where documents that are read on paper list their parts.
	Contents
)

// Block is a part of a document.
type Block struct {
	Kind Kind
	Runs []Run
	// ID is that of the step, or of the sheet of a picture; Number that of the step.
	ID     string
	Number string
	Rows   [][]string
	Head   bool
}

// Run is a stretch of text. To is the id of the step it leads to, Sheet that of a sheet whose drawing stands on a page
// of its own, Address the address; empty for none.
type Run struct{ Text, To, Address, Sheet string }

// Plain is a block of a text without links.
func Plain(kind Kind, text string) Block { return Block{Kind: kind, Runs: []Run{{Text: text}}} }

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

// UseFolder has documents written in the words of a folder, and in the styles of the documents in it. It fails where
// these cannot be used, and changes nothing then.
func UseFolder(folder string) error {
	if _, err := words(&procedure.Procedure{}, folder); err != nil {
		return err
	}
	was := folderOfHouse()
	take := func(folder string) {
		house.Lock()
		defer house.Unlock()
		house.folder = folder
	}
	take(folder)
	_, err := new(Text).Word()
	if err == nil {
		_, err = new(Text).OpenDocument()
	}
	if err != nil {
		take(was)
	}
	return err
}

func folderOfHouse() string {
	house.Lock()
	defer house.Unlock()
	return house.folder
}

// words returns the templates for a procedure.
func words(p *procedure.Procedure, folder string) (*template.Template, error) {
	ids := map[string]string{}
	for _, s := range p.Steps {
		ids[s.Called()] = s.ID
	}
	ref := func(n string) string { return fmt.Sprintf("%c%s%c%s%c", open, n, split, ids[n], shut) }
	sp := speechOf(p)
	t := template.New("words").Funcs(template.FuncMap{
		"ref":   ref,
		"list":  func(list []string) string { return strings.Join(list, "; ") },
		"lower": lower,
		"upper": upper,
		"bar":   func(text string) string { return strings.ReplaceAll(text, "|", "/") },
		// between the titles of columns
		"stop": func(text string) string {
			if r, _ := utf8.DecodeLastRuneInString(text); unicode.IsPunct(r) && r != ')' && r != '"' && r != '”' &&
				r != '’' {
				return ""
			}
			return "."
		},
		"things":    sp.things,
		"inside":    sp.inside,
		"occasions": sp.occasions,
		"all":       all,
		"step": func(n string) string { // a step by its number, or by its text
			if strings.HasPrefix(n, "“") {
				return ref(n)
			}
			return "step " + ref(n)
		},
		"steps": func(list []string) string {
			if len(list) == 1 && !strings.HasPrefix(list[0], "“") {
				return "step " + ref(list[0])
			}
			var out []string
			for _, n := range list {
				out = append(out, ref(n))
			}
			return "steps " + all(out)
		},
		"stores":    func(list []procedure.Thing) []procedure.Thing { return only(list, true) },
		"documents": func(list []procedure.Thing) []procedure.Thing { return only(list, false) },
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

// only are the stores among things, or the others.
func only(list []procedure.Thing, stores bool) (out []procedure.Thing) {
	for _, t := range list {
		if t.Store == stores {
			out = append(out, t)
		}
	}
	return out
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
	t, err := words(p, folderOfHouse())
	if err != nil {
		return nil, err
	}
	b := builder{t: t}
	b.add(Block{Kind: Title, Runs: []Run{{Text: clean(p.Title)}}})
	if len(p.Facts) > 0 {
		var rows [][]string
		for _, f := range p.Facts {
			rows = append(rows, []string{f.Name, clean(f.Value)})
		}
		b.add(Block{Kind: Table, Rows: rows})
	}
	b.say(Contents, "contents", nil)
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
	if len(p.Ends) > 0 {
		b.say(Paragraph, "ends", p.Ends)
	}
	shown := map[string]bool{}
	picture := func(s *procedure.Sheet) {
		if pictures && !shown[s.ID] {
			shown[s.ID] = true
			b.say(Picture, "sheet", s)
			b.list[len(b.list)-1].ID = s.ID
		}
	}
	parts := partsOf(p)
	for i := range parts {
		part := &parts[i]
		if len(parts) > 1 {
			kind := Section
			if part.sheet.Of != "" {
				kind = Subsection
			}
			b.say(kind, "section", &part.sheet)
		}
		picture(&part.sheet)
		for k := range part.steps {
			b.step(&part.steps[k])
		}
	}
	for i := range p.Charts {
		b.say(Heading, "chart", &p.Charts[i])
		picture(&p.Charts[i].Sheet)
		for k := range p.Charts[i].Cards {
			b.say(Item, "card", &p.Charts[i].Cards[k])
		}
	}
	for i := range p.Journeys {
		b.say(Heading, "journey", &p.Journeys[i])
		picture(&p.Journeys[i].Sheet)
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
	if pictures && slices.ContainsFunc(p.Sheets, func(one procedure.Sheet) bool { return !shown[one.ID] }) {
		b.say(Heading, "sheets", nil)
		for i := range p.Sheets {
			picture(&p.Sheets[i])
		}
	}
	b.appendix(p)
	if len(p.Legend) > 0 {
		b.say(Heading, "legend", nil)
		for _, f := range p.Legend {
			b.add(Block{Kind: Item, Runs: []Run{{Text: f.Name + ": " + f.Value}}})
		}
	}
	return b.list, b.err
}

// appendix tells what is looked up: the steps as a table, what the fields hold, the documents and stores, and what
// changed since the version that was agreed.
func (b *builder) appendix(p *procedure.Procedure) {
	if p.Since != "" {
		b.say(Heading, "changed", p.Since)
		for _, one := range p.Changes {
			b.add(Block{Kind: Item, Runs: []Run{{Text: clean(one)}}})
		}
		if len(p.Changes) == 0 {
			b.say(Paragraph, "unchanged", nil)
		}
	}
	if !p.Appendix {
		return
	}
	if len(p.Steps) > 0 {
		b.table("register", p, registerRows(p))
	}
	if len(p.Things) > 0 {
		var rows [][]string
		for i := range p.Things {
			t := &p.Things[i]
			rows = append(rows, []string{t.Text, lower(t.Kind), strings.Join(t.By, ", "), strings.Join(t.From, ", ")})
		}
		b.table("things-list", p, rows)
	}
	if len(p.Holds) > 0 {
		var rows [][]string
		for _, f := range p.Holds {
			rows = append(rows, []string{f.Name, f.Value})
		}
		b.table("fields", p, rows)
	}
}

// mostColumns is how many fields have columns of their own in the register.
const mostColumns = 4

func registerRows(p *procedure.Procedure) (rows [][]string) {
	for i := range p.Steps {
		s := &p.Steps[i]
		var on []string
		for _, e := range s.Exits {
			to := e.Number
			if to == "" {
				to = e.Text
			}
			if e.Answer != "" {
				to = e.Answer + ": " + to
			}
			if to != "" {
				on = append(on, to)
			}
		}
		row := []string{s.Number, s.Text, s.Who, strings.Join(on, "; ")}
		values := map[string]string{}
		var all []string
		for _, v := range s.Values {
			values[v.Name] = v.Value
			all = append(all, v.Name+": "+v.Value)
		}
		if len(p.Fields) > mostColumns {
			row = append(row, strings.Join(all, "; "))
		} else {
			for _, name := range p.Fields {
				row = append(row, values[name])
			}
		}
		rows = append(rows, row)
	}
	return rows
}

// table adds a table under a heading, whose head is what a template of that name and "-head" says, with bars between.
func (b *builder) table(name string, p *procedure.Procedure, rows [][]string) {
	b.say(Heading, name, nil)
	var head []string
	for _, title := range strings.Split(b.words(name+"-head", p), "|") {
		head = append(head, strings.TrimSpace(title))
	}
	for i := range rows {
		for k := range rows[i] {
			rows[i][k] = clean(rows[i][k])
		}
		rows[i] = append(rows[i], make([]string, max(len(head)-len(rows[i]), 0))...)[:len(head)]
	}
	b.add(Block{Kind: Table, Rows: append([][]string{head}, rows...), Head: true})
}

// chapter is a heading as a list of contents shows it. At is its place among the blocks, Level how deep it stands, from
// 0.
type chapter struct {
	At, Level int
	Text      string
}

// fewest is how many headings are worth a list of contents.
const fewest = 4

// contents are the headings of a document; none where there are few.
func contents(blocks []Block) (list []chapter) {
	for i := range blocks {
		if level := slices.Index(headings, blocks[i].Kind); level >= 0 {
			list = append(list, chapter{i, level, blocks[i].Text()})
		}
	}
	if len(list) < fewest {
		return nil
	}
	return list
}

// counted is the number of a step where a list of a word processor can count it.
func counted(number string) (int, bool) {
	n, err := strconv.Atoi(number)
	return n, err == nil && n > 0 && strconv.Itoa(n) == number
}

// leads reports whether something stands under the block at a place, which stays on its page.
func leads(blocks []Block, i int) bool { return i+1 < len(blocks) && blocks[i+1].Kind == Under }

// part is what is told of one sheet.
type part struct {
	sheet procedure.Sheet
	steps []procedure.Step
}

// partsOf parts the steps by their sheets: a sheet that shows a step in detail comes after the one with that step.
// Where a way on leads to what is told next it need not be said; this is about the order in which they are told.
func partsOf(p *procedure.Procedure) (list []part) {
	bySheet := map[string][]procedure.Step{}
	var order []procedure.Sheet
	for _, s := range p.Steps {
		if bySheet[s.Sheet.ID] == nil {
			order = append(order, s.Sheet)
		}
		s.Exits = slices.Clone(s.Exits)
		bySheet[s.Sheet.ID] = append(bySheet[s.Sheet.ID], s)
	}
	slices.SortStableFunc(order, func(a, b procedure.Sheet) int { return a.Number - b.Number })
	told := map[string]bool{}
	var tell func(s procedure.Sheet)
	tell = func(s procedure.Sheet) {
		if told[s.ID] {
			return
		}
		told[s.ID] = true
		list = append(list, part{s, bySheet[s.ID]})
		for _, detail := range order {
			if detail.Of == s.ID {
				tell(detail)
			}
		}
	}
	for _, s := range order {
		if bySheet[s.Of] == nil { // else it is told with the one it belongs to
			tell(s)
		}
	}
	for _, s := range order { // details of each other
		tell(s)
	}
	for i := range list {
		steps := list[i].steps
		for k := range steps {
			for n := range steps[k].Exits {
				steps[k].Exits[n].Next = k+1 < len(steps) && steps[k].Exits[n].ID == steps[k+1].ID
			}
		}
	}
	return list
}

// pageWords returns the words at the foot of a page.
func pageWords(number, of int) (string, error) {
	t, err := words(&procedure.Procedure{}, folderOfHouse())
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
		switch {
		case x.Answer != "":
			name = "answer"
		case len(s.Exits) > 1: // of several ways on each is said
			name = "onward"
		}
		if way := b.words(name, x); way != "" {
			ways = append(ways, way)
		}
	}
	switch {
	case s.Asks || len(ways) == 1:
		for _, way := range ways {
			text += " " + upper(way) + "."
		}
	case len(ways) > 1:
		text += " " + b.words("together", nil) + " " + strings.Join(ways, "; ") + "."
	}
	b.add(Block{Kind: Step, Runs: runs(text), ID: s.ID, Number: s.Number})
	if len(s.Uses) > 0 {
		b.say(Under, "uses", s.Uses)
	}
	if len(s.Makes) > 0 {
		b.say(Under, "makes", s.Makes)
	}
	if len(s.Files) > 0 {
		b.say(Under, "files", s.Files)
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
