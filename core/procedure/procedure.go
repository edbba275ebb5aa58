// Package procedure tells a map in words: what the process is for, who takes part, and its steps in order, each with
// where it goes on, what it uses and makes, and what is noted beside it. Writers of documents make sentences of it.
package procedure

import (
	"cmp"
	"fmt"
	"slices"
	"strings"

	"plaintracer/core/flow"
	"plaintracer/core/links"
	"plaintracer/core/model"
	"plaintracer/core/numbering"
	"plaintracer/core/symbols"
)

// Procedure is a map in words.
type Procedure struct {
	Title, Purpose, Scope string
	// Language is that of its texts, as in BCP 47; English where it is empty.
	Language string
	// Facts are what the heading says beside that.
	Facts []Fact
	// Roles are those who do steps, in the order of their lanes, then in that of their first step.
	Roles []Role
	// Begins and Ends are the texts of the symbols at which the work begins and ends.
	Begins, Ends []string
	Steps        []Step
	// Fields are the names of the map's own fields, Holds what each of them holds.
	Fields []string
	Holds  []Fact
	// Things are the documents and stores, in the order in which the work comes to them.
	Things []Used
	// Since names the version that was agreed last, where that is known, and Changes are what changed since, in
	// sentences.
	Since   string
	Changes []string
	// Appendix says that the register and the lists of fields, documents and stores are told at the end.
	Appendix bool
	Sheets   []Sheet
	// Legend are the kinds used, with what they mean.
	Legend []Fact
	// Charts are the hierarchies.
	Charts []Chart
	// Journeys are those of people, in the order of their sheets.
	Journeys []Journey
}

// Journey is told stage by stage. Name is the person whose journey it is, or the sheet; Words are on that person.
type Journey struct {
	Sheet       Sheet
	Name, Words string
	Stages      []JourneyStage
}

// JourneyStage is a stage of a journey with what stands in it, row by row.
type JourneyStage struct {
	Name  string
	Cells []JourneyCell
}

// JourneyCell is a text of a journey: in which row, who does it, over which further stages it reaches.
type JourneyCell struct{ Row, Text, Who, Until string }

// Chart is a hierarchy: its cards, superiors before those under them.
type Chart struct {
	Sheet Sheet
	Name  string
	Cards []Card
}

// Card is one of them. Under is who it stands under; empty at the head. Post is vacant, planned or empty.
type Card struct{ Name, Role, Under, Post string }

// Fact is a name and what is known by it.
type Fact struct{ Name, Value string }

// Role does steps.
type Role struct {
	Name  string
	Steps []string
}

// Sheet is a sheet with its number, from 1. Of is the id of the sheet with the step that it shows in detail; empty for
// one that is no detail.
type Sheet struct {
	ID, Name, Of string
	Number       int
}

// Step is a numbered step.
type Step struct {
	ID     string
	Number string
	Text   string
	// Lines are those of a text that is long and was written in lines; the text alone else. Waits says that what
	// happens is that time passes.
	Lines []string
	Waits bool
	// Who does it, in which Stage, on which Sheet; empty where the map does not say. Kind is what its symbol is called.
	Who, Stage, Kind string
	Sheet            Sheet
	// Asks says that its exits are answers to a question.
	Asks  bool
	Exits []Exit
	// Uses and Makes are the documents and data that lead into it and that it leads to, Files the documents with which
	// the work ends.
	Uses, Makes, Files []Thing
	// Notes are the texts of notes tied to it.
	Notes []string
	// Values is what stands in the fields of the map.
	Values []Fact
	// Links are where it leads beside the flow.
	Links []Link
}

// Link leads to an address, or to a step by its number, or to a sheet.
type Link struct {
	Title, Address, Step string
}

// Thing is a document, or data; a store keeps these.
type Thing struct {
	Text, Kind string
	Store      bool
}

// Used is a document or a store with the steps that use it, and those that make or update it.
type Used struct {
	Thing
	By, From []string
}

// Exit is a way on.
type Exit struct {
	Answer string
	// Number and Text are those of the step it leads to; Number is empty where the work ends, with the Text of the end.
	Number string
	ID     string
	Text   string
	// Next says that it leads to the step with the next number, Back that it leads back.
	Next, Back bool
	// Through are the documents and data it leads through.
	Through []Thing
	// Done is the number of the step that is done where the exit ends its detail.
	Done string
	// Joins are the other steps that have to be done before it goes on, where paths that ran at the same time meet.
	Joins []string
}

// Of tells a map.
func Of(m *model.Map) *Procedure {
	g := flow.New(m)
	p := &Procedure{Title: m.Title, Purpose: m.Heading.Purpose, Scope: m.Heading.Scope}
	for _, f := range [...]Fact{{"Project", m.Heading.Project}, {"Process", m.Heading.Process},
		{"Author", m.Heading.Author}, {"Version", m.Heading.Version}, {"Date", m.Heading.Date}} {
		if f.Value != "" {
			p.Facts = append(p.Facts, f)
		}
	}
	sheets := map[*model.Sheet]Sheet{}
	for i, s := range m.Sheets {
		sheets[s] = Sheet{ID: s.ID, Name: s.Name, Number: i + 1}
		if opens := m.OpensInto(s); len(opens) > 0 && opens[0].Sheet != s {
			one := sheets[s]
			one.Of = opens[0].Sheet.ID
			sheets[s] = one
		}
		p.Sheets = append(p.Sheets, sheets[s])
	}
	for _, s := range m.Sheets {
		if s.Kind != model.HierarchySheet {
			continue
		}
		c := Chart{Sheet: sheets[s], Name: s.Name}
		for _, sym := range s.Tree().Order() {
			card := Card{Name: sym.CardTitle(), Role: sym.CardRole(), Post: string(sym.Post)}
			if up := s.Tree().Superior(sym.ID); up != nil {
				card.Under = up.CardTitle()
			}
			c.Cards = append(c.Cards, card)
		}
		p.Charts = append(p.Charts, c)
	}
	for _, s := range m.Sheets {
		for _, pool := range s.Pools {
			if pool.Journey {
				j := journeyOf(s, pool)
				j.Sheet = sheets[s]
				p.Journeys = append(p.Journeys, j)
			}
		}
	}
	for _, f := range m.Fields {
		p.Fields = append(p.Fields, f.Name)
		holds := f.Type.Title()
		if len(f.Choices) > 0 {
			holds = "one of: " + strings.Join(f.Choices, "; ")
		}
		p.Holds = append(p.Holds, Fact{f.Name, holds})
	}
	steps := numbering.Of(g)
	places := map[string]int{}
	for i, s := range steps {
		places[s.Symbol.ID] = i
	}
	notes := notesOf(m)
	for i, s := range steps {
		n := g.Node(s.Symbol.ID)
		step := Step{ID: s.Symbol.ID, Number: s.Number, Text: model.Flat(s.Symbol.Text), Who: n.Owner(),
			Kind:  symbols.Of(s.Symbol.Kind).Name,
			Sheet: sheets[s.Sheet], Asks: s.Symbol.Kind.Asks(), Notes: notes[s.Symbol.ID],
			Lines: linesOf(s.Symbol.Text),
			Waits: s.Symbol.Kind.Waits()}
		if stage := s.Sheet.StageOf(s.Symbol); stage != nil {
			step.Stage = stage.Name
		}
		for k := range m.Fields {
			if value := model.Flat(m.Show(&m.Fields[k], s.Symbol)); value != "" {
				step.Values = append(step.Values, Fact{m.Fields[k].Name, value})
			}
		}
		for _, l := range s.Symbol.Links {
			step.Links = append(step.Links, linked(m, &l, steps, places))
		}
		for _, e := range n.Exits {
			p.follow(m, &step, e, i, steps, places)
		}
		for _, e := range n.Entries {
			if kind := e.From.Symbol.Kind; kind.IsStore() || kind.IsInformation() && len(e.From.Entries) == 0 {
				step.Uses = append(step.Uses, thing(e.From.Symbol))
			}
		}
		if len(step.Exits) == 0 { // what it makes at last is kept
			step.Makes, step.Files = parted(step.Makes)
		}
		p.Steps = append(p.Steps, step)
	}
	for _, n := range g.Order() {
		if !n.Symbol.Kind.IsEnd() || model.Flat(n.Symbol.Text) == "" || len(m.OpensInto(n.Sheet)) > 0 {
			continue
		}
		if len(n.Entries) == 0 {
			p.Begins = append(p.Begins, model.Flat(n.Symbol.Text))
		}
		if len(n.Exits) == 0 {
			p.Ends = append(p.Ends, model.Flat(n.Symbol.Text))
		}
	}
	p.roles(m)
	p.legend(m)
	p.things()
	return p
}

// things gathers the documents and stores of the steps.
func (p *Procedure) things() {
	at := map[Thing]int{}
	use := func(list []Thing, note func(u *Used)) {
		for _, t := range list {
			if t.Text == "" {
				continue
			}
			i, ok := at[t]
			if !ok {
				i = len(p.Things)
				at[t] = i
				p.Things = append(p.Things, Used{Thing: t})
			}
			note(&p.Things[i])
		}
	}
	once := func(list []string, step string) []string {
		if slices.Contains(list, step) {
			return list
		}
		return append(list, step)
	}
	p.Things = nil
	for i := range p.Steps {
		s := &p.Steps[i]
		use(s.Uses, func(u *Used) { u.By = once(u.By, s.Called()) })
		made := func(u *Used) { u.From = once(u.From, s.Called()) }
		use(s.Makes, made)
		use(s.Files, made)
		for k := range s.Exits {
			e := &s.Exits[k]
			use(e.Through, made)
			if e.Number != "" {
				use(e.Through, func(u *Used) { u.By = once(u.By, e.Number) })
			}
		}
	}
}

// Part tells a part of a map, with the numbers of the whole.
func Part(whole, part *model.Map) *Procedure {
	p := Of(whole)
	in := map[string]bool{}
	for _, s := range part.Sheets {
		in[s.ID] = true
		for _, sym := range s.Symbols {
			in[sym.ID] = true
		}
	}
	p.Steps = slices.DeleteFunc(p.Steps, func(s Step) bool { return !in[s.ID] })
	p.Sheets = slices.DeleteFunc(p.Sheets, func(s Sheet) bool { return !in[s.ID] })
	p.things()
	if len(part.Sheets) == len(whole.Sheets) {
		return p
	}
	p.Roles, p.Legend = nil, nil
	p.roles(part)
	p.legend(part)
	own := Of(part)
	p.Begins, p.Ends = own.Begins, own.Ends
	return p
}

// longText is how many characters a text has that keeps the lines in which it was written; the lines of a shorter one
// are those of its symbol.
const longText = 80

func linesOf(text string) []string {
	if len([]rune(text)) <= longText {
		return []string{model.Flat(text)}
	}
	var out []string
	for _, line := range strings.Split(text, "\n") {
		if line = model.Flat(line); line != "" {
			out = append(out, line)
		}
	}
	return out
}

// parted parts things into stores and documents.
func parted(list []Thing) (stores, documents []Thing) {
	for _, t := range list {
		if t.Store {
			stores = append(stores, t)
		} else {
			documents = append(documents, t)
		}
	}
	return stores, documents
}

// called is how a step is named: by its number, or by its text where it has none.
func called(s numbering.Step) string {
	if s.Number == "" {
		return "“" + model.Flat(s.Symbol.Text) + "”"
	}
	return s.Number
}

// Called is how the step is named: by its number, or by its text where it has none.
func (s *Step) Called() string {
	if s.Number == "" {
		return "“" + s.Text + "”"
	}
	return s.Number
}

// follow goes on from a step, the one at a place among all, until the next one, or an end; on the way lie documents,
// data and references.
func (p *Procedure) follow(m *model.Map, step *Step, e *flow.Exit, at int, steps []numbering.Step,
	places map[string]int) {
	seen := map[*flow.Node]bool{}
	var walk func(e *flow.Exit, out Exit)
	walk = func(e *flow.Exit, out Exit) {
		n := e.To
		out.Back = out.Back || e.Back
		if place, ok := places[n.Symbol.ID]; ok {
			out.Number, out.ID, out.Text, out.Next = called(steps[place]), n.Symbol.ID, model.Flat(n.Symbol.Text),
				place == at+1
			step.Exits = append(step.Exits, out)
			return
		}
		if seen[n] {
			return
		}
		seen[n] = true
		if n.Symbol.Kind == model.ParallelMode && len(n.Entries) > 1 {
			for _, other := range before(n, steps, places) {
				if other != step.Called() && !slices.Contains(out.Joins, other) {
					out.Joins = append(slices.Clone(out.Joins), other)
				}
			}
		}
		if n.Symbol.Kind.IsInformation() {
			if len(n.Exits) == 0 { // it is made here, and the flow does not go on by it
				step.Makes = append(step.Makes, thing(n.Symbol))
				return
			}
			if one := thing(n.Symbol); !one.Store {
				out.Through = append(slices.Clone(out.Through), one)
			} else if !slices.Contains(step.Makes, one) { // one step writes into it, another one reads it
				step.Makes = append(step.Makes, one)
			}
		}
		if len(n.Exits) == 0 {
			if opens := m.OpensInto(n.Sheet); len(opens) > 0 {
				if place, ok := places[opens[0].Symbol.ID]; ok {
					out.Done = called(steps[place])
				}
			}
			if out.Text = model.Flat(n.Symbol.Text); !n.Symbol.Kind.IsReference() {
				step.Exits = append(step.Exits, out)
			}
			return
		}
		for _, on := range n.Exits {
			walk(on, out)
		}
	}
	walk(e, Exit{Answer: e.Answer()})
}

// before are the steps that lead into a symbol, with nothing but what is no step between.
func before(n *flow.Node, steps []numbering.Step, places map[string]int) (list []string) {
	seen := map[*flow.Node]bool{}
	var walk func(n *flow.Node)
	walk = func(n *flow.Node) {
		if seen[n] {
			return
		}
		seen[n] = true
		for _, e := range n.Entries {
			if place, ok := places[e.From.Symbol.ID]; ok {
				list = append(list, called(steps[place]))
			} else {
				walk(e.From)
			}
		}
	}
	walk(n)
	return list
}

// linked tells a link: one to a step by its number.
func linked(m *model.Map, l *model.Hyperlink, steps []numbering.Step, places map[string]int) Link {
	out := Link{Title: model.Flat(links.Title(m, l, nil))}
	id, inside := links.Inside(l)
	if place, ok := places[id]; ok {
		out.Step = called(steps[place])
	} else if !inside && l.Opens() {
		if out.Address = strings.TrimPrefix(l.To, "mailto:"); l.Title == "" {
			out.Title = ""
		}
	}
	return out
}

func thing(sym *model.Symbol) Thing {
	return Thing{model.Flat(sym.Text), symbols.Of(sym.Kind).Name, sym.Kind.IsStore()}
}

// notesOf returns the texts of the notes that connectors tie to symbols, by the ids of these.
func notesOf(m *model.Map) map[string][]string {
	out := map[string][]string{}
	for _, s := range m.Sheets {
		for _, l := range flow.Links(s) {
			for _, pair := range [2][2]*model.Symbol{{l.From, l.To}, {l.To, l.From}} {
				if note, at := pair[0], pair[1]; note != nil && at != nil && note.Kind.IsNote() && !at.Kind.IsAside() &&
					model.Flat(note.Text) != "" {
					out[at.ID] = append(out[at.ID], model.Flat(note.Text))
				}
			}
		}
		for _, sym := range s.Symbols { // and those that point
			if sym.Kind.IsNote() && sym.Tip.On != "" && s.Symbol(sym.Tip.On) != nil && model.Flat(sym.Text) != "" {
				out[sym.Tip.On] = append(out[sym.Tip.On], model.Flat(sym.Text))
			}
		}
	}
	return out
}

func (p *Procedure) roles(m *model.Map) {
	at := map[string]int{}
	add := func(name string) int {
		i, ok := at[name]
		if !ok {
			i = len(p.Roles)
			at[name] = i
			p.Roles = append(p.Roles, Role{Name: name})
		}
		return i
	}
	for pool := range m.Laned() {
		for _, l := range pool.Lanes {
			if l.Name != "" {
				add(l.Name)
			}
		}
	}
	for _, s := range p.Steps {
		if s.Who != "" {
			i := add(s.Who)
			p.Roles[i].Steps = append(p.Roles[i].Steps, s.Called())
		}
	}
}

func (p *Procedure) legend(m *model.Map) {
	used := map[model.Kind]bool{}
	for _, s := range m.Sheets {
		for _, sym := range s.Symbols {
			used[sym.Kind] = true
		}
	}
	for _, k := range model.Kinds {
		if d := symbols.Of(k); used[k] && !k.Explains() && !k.ShowsPicture() {
			p.Legend = append(p.Legend, Fact{d.Name, d.Meaning})
		}
	}
}

// journeyOf tells a journey.
func journeyOf(s *model.Sheet, pool *model.Pool) Journey {
	j := Journey{Name: cmp.Or(model.Flat(pool.Title), s.Name), Words: model.Flat(pool.Words)}
	cells := s.Cells(pool)
	for k, st := range pool.Stages {
		stage := JourneyStage{Name: model.Flat(st.Name)}
		for i := range pool.Lanes {
			lane := &pool.Lanes[i]
			if sums := s.Board().Sums(lane.ID); k < len(sums) && sums[k] != "" {
				stage.Cells = append(stage.Cells, JourneyCell{Row: lane.Called(), Text: sums[k]})
			}
			for _, cell := range cells {
				if cell.Row != lane.ID || cell.Stage != st.ID || cell.Text == "" && cell.Kind != model.MoodCell {
					continue
				}
				one := JourneyCell{Row: lane.Called(), Text: strings.ReplaceAll(cell.Text, "\n", "; "), Who: cell.Owner}
				if cell.Kind == model.MoodCell {
					one.Text = strings.TrimSuffix(fmt.Sprintf("%+d, %s", cell.Mood, one.Text), ", ")
				}
				if last := min(k+cell.Span, len(pool.Stages)) - 1; last > k {
					one.Until = model.Flat(pool.Stages[last].Name)
				}
				stage.Cells = append(stage.Cells, one)
			}
		}
		j.Stages = append(j.Stages, stage)
	}
	return j
}
