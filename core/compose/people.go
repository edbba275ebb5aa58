package compose

import (
	"fmt"
	"slices"
	"strconv"
	"strings"

	"plaintracer/core/arrange"
	"plaintracer/core/edit"
	"plaintracer/core/geometry"
	"plaintracer/core/hierarchy"
	"plaintracer/core/model"
	"plaintracer/core/pictures"
	"plaintracer/core/symbols"
	"plaintracer/core/values"
)

// What a column of a table of people holds.
const (
	AsNothing  = ""
	AsName     = "name"
	AsRole     = "role"
	AsSuperior = "superior"
	AsID       = "id"
	AsPost     = "post"
	AsKind     = "kind"
	AsDotted   = "dotted"
	AsPicture  = "picture"
	AsField    = "field"
)

// PeopleAs are what a column of a table of people can hold, each with its name, and the titles by which it is known.
// The titles are common practice, no source.
var PeopleAs = []struct {
	As, Name string
	Titles   []string
}{
	{AsName, "Name", []string{"name", "full name", "person", "employee", "people", "who", "holder"}},
	{AsRole, "Role", []string{"role", "job title", "title", "position", "function", "job"}},
	{AsSuperior, "Reports to", []string{"reports to", "reports-to", "superior", "manager", "supervisor", "head", "boss",
		"line manager", "parent", "under", "manager id", "superior id"}},
	{AsID, "Id", []string{"id", "number", "personnel number", "employee id", "employee number", "key", "no"}},
	{AsPost, "State of the post", []string{"state", "status", "post"}},
	{AsKind, "Card", []string{"card", "kind"}},
	{AsDotted, "Also reports to", []string{"also reports to", "dotted line", "second superior", "dotted"}},
	{AsPicture, "Name of a picture file", []string{"picture", "photo", "picture file", "portrait", "image"}},
	{AsField, "A field of the map", nil},
	{AsNothing, "Nothing", nil},
}

// GuessPeople says of each column of a table of people by its title what it holds. No two are the same but fields.
func GuessPeople(titles []string) []string {
	as, taken := make([]string, len(titles)), map[string]bool{}
	rounds := 0
	for _, c := range PeopleAs {
		rounds = max(rounds, len(c.Titles))
	}
	for round := range rounds { // earlier titles of a list mean it more certainly than later ones
		for i, title := range titles {
			title = strings.ToLower(model.Flat(strings.ReplaceAll(title, "_", " ")))
			for _, c := range PeopleAs {
				if as[i] == "" && !taken[c.As] && round < len(c.Titles) && c.Titles[round] == title {
					as[i], taken[c.As] = c.As, true
				}
			}
		}
	}
	for i, title := range titles {
		if as[i] == "" && model.Flat(title) != "" && !strings.EqualFold(model.Flat(title), model.SheetTitle) {
			as[i] = AsField
		}
	}
	return as
}

// IsPeople reports whether a table with these titles is one of people: it has names, and says who reports to whom.
func IsPeople(titles []string) bool {
	as := GuessPeople(titles)
	return slices.Contains(as, AsName) && slices.Contains(as, AsSuperior) && !slices.ContainsFunc(titles,
		func(t string) bool { return strings.EqualFold(model.Flat(t), "text") })
}

// PeopleColumn is a column of a table of people.
type PeopleColumn struct {
	Title string `json:"title"`
	// As is what it holds, Sample the first thing that stands there.
	As     string `json:"as"`
	Sample string `json:"sample"`
}

// PeoplePlan is what reading a table of people would do.
type PeoplePlan struct {
	Columns []PeopleColumn `json:"columns"`
	// Wrong says by their rows what is wrong, and what becomes of it.
	Wrong []string `json:"wrong"`
	// People counts the cards the table makes, Heads those without a superior.
	People int `json:"people"`
	Heads  int `json:"heads"`
	// Came, Left, Moved and Changed name, where the sheet is a hierarchy already, who is new, who is not in the table,
	// who has another superior, and of whom something else is different.
	Came    []string `json:"came"`
	Left    []string `json:"left"`
	Moved   []string `json:"moved"`
	Changed []string `json:"changed"`
	Notes   []string `json:"notes"`
	// Refusal says why nothing can be made of it.
	Refusal string `json:"refusal,omitempty"`
}

// person is a row of a table of people.
type person struct {
	line       int
	key        string
	name, role string
	// up is who the person reports to, and dotted whom else; under is the row of the first, or -1, also those of the
	// others.
	up, dotted string
	under      int
	also       []int
	post       model.Post
	assistant  bool
	kind       model.Kind
	picture    string // the name of a file
	own        []string
}

// text is what the card of a person says.
func (p *person) text() string { return strings.TrimSpace(p.name + "\n" + p.role) }

// called names a person in a message.
func (p *person) called() string {
	if p.name != "" {
		return p.name
	}
	return p.role
}

// crew is a table of people that was read.
type crew struct {
	people []person
	// own are the titles of the columns that are fields.
	own   []string
	plan  *PeoplePlan
	faces Portraits
}

// face returns the picture of a person, if its file was given.
func (c *crew) face(p *person) (pictures.Picture, bool) {
	face, ok := c.faces[strings.ToLower(p.picture)]
	return face, ok && p.picture != ""
}

// facesFor returns the edit that keeps the pictures the table names.
func (w *Work) facesFor(c *crew) []edit.Edit {
	keep := &edit.AddItems{Sheet: w.Sheet.ID}
	for i := range c.people {
		if face, ok := c.face(&c.people[i]); ok {
			keep.Pictures = append(keep.Pictures, face)
		}
	}
	if len(keep.Pictures) == 0 {
		return nil
	}
	return []edit.Edit{keep}
}

// readCrew reads a table of people whose columns hold what as says; nil guesses by the titles.
func readCrew(file Sheet, as []string) *crew {
	c := &crew{plan: &PeoplePlan{Columns: []PeopleColumn{}, Wrong: []string{}, Came: []string{}, Left: []string{},
		Moved: []string{}, Changed: []string{}, Notes: append([]string{}, file.Notes...)}}
	if len(file.Rows) == 0 {
		c.plan.Refusal = "The file holds no table."
		return c
	}
	titles := file.Rows[0]
	if len(as) != len(titles) {
		as = GuessPeople(titles)
	}
	for i, title := range titles {
		col := PeopleColumn{Title: model.Flat(title), As: as[i]}
		for _, row := range file.Rows[1:] {
			if i < len(row) && strings.TrimSpace(row[i]) != "" {
				col.Sample = model.Flat(row[i])
				break
			}
		}
		if c.plan.Columns = append(c.plan.Columns, col); col.As == AsField {
			c.own = append(c.own, col.Title)
		}
	}
	for _, one := range PeopleAs {
		if one.Titles == nil { // several columns can be fields, or nothing
			continue
		}
		if n := strings.Count("\n"+strings.Join(as, "\n")+"\n", "\n"+one.As+"\n"); n > 1 {
			c.plan.Refusal = fmt.Sprintf("%d columns hold “%s”; choose one of them.", n, one.Name)
			return c
		}
	}
	if !slices.Contains(as, AsName) && !slices.Contains(as, AsRole) {
		c.plan.Refusal = "Say which column holds the names."
		return c
	}
	for n, row := range file.Rows[1:] {
		c.readRow(n+2, row, as)
	}
	if len(c.people) == 0 {
		c.plan.Refusal = "The table has titles but no people."
	}
	if len(c.people) > model.MaxSymbols {
		c.plan.Refusal = fmt.Sprintf("The table has %d people; a sheet holds at most %d.", len(c.people),
			model.MaxSymbols)
	}
	if c.plan.Refusal == "" {
		c.findSuperiors(slices.Contains(as, AsID))
		c.cutCircles()
		c.count()
	}
	return c
}

func (c *crew) wrong(format string, args ...any) {
	c.plan.Wrong = append(c.plan.Wrong, fmt.Sprintf(format, args...))
}

func (c *crew) readRow(line int, row, as []string) {
	p := person{line: line, under: -1, kind: model.PersonCard}
	for i, what := range as {
		cell := ""
		if i < len(row) {
			cell = strings.TrimSpace(row[i])
		}
		switch what {
		case AsName:
			p.name = model.Flat(cell)
		case AsRole:
			p.role = cell
		case AsSuperior:
			p.up = model.Flat(cell)
		case AsID:
			p.key = model.Flat(cell)
		case AsPost:
			p.readPost(cell)
		case AsKind:
			p.kind = kindCalled(cell)
		case AsDotted:
			p.dotted = cell
		case AsPicture:
			p.picture = cell
		case AsField:
			p.own = append(p.own, cell)
		}
	}
	if strings.Join(row, "") == "" {
		return
	}
	if p.text() == "" {
		c.wrong("Row %d has neither a name nor a role; it is left out.", line)
		return
	}
	if p.name == "" && p.post == model.Filled {
		p.post = model.Vacant
	}
	c.people = append(c.people, p)
}

// readPost reads what a cell says of a post: in any order the words vacant, planned and assistant.
func (p *person) readPost(cell string) {
	for _, word := range strings.FieldsFunc(strings.ToLower(cell), func(r rune) bool { return r < 'a' || r > 'z' }) {
		switch word {
		case "vacant", "open", "free":
			p.post = model.Vacant
		case "planned", "new":
			p.post = model.Planned
		case "assistant":
			p.assistant = true
		}
	}
}

// kindCalled returns the kind of card with a name, that of a person where there is none.
func kindCalled(name string) model.Kind {
	for _, def := range symbols.All() {
		if strings.EqualFold(def.Name, strings.TrimSpace(name)) && def.Kind.IsCard() {
			return def.Kind
		}
	}
	return model.PersonCard
}

// findSuperiors finds out who each person reports to: by id where the table has ids, else by name, or by role where a
// row has no name.
func (c *crew) findSuperiors(keyed bool) {
	byKey, byName := map[string][]int{}, map[string][]int{}
	for i := range c.people {
		p := &c.people[i]
		if p.key != "" {
			byKey[strings.ToLower(p.key)] = append(byKey[strings.ToLower(p.key)], i)
		}
		name := strings.ToLower(model.Flat(p.called())) // a post that nobody holds goes by its role
		byName[name] = append(byName[name], i)
	}
	for i := range c.people {
		p := &c.people[i]
		if same := byKey[strings.ToLower(p.key)]; p.key != "" && len(same) > 1 && same[0] == i {
			c.wrong("The id “%s” stands in the rows %s; whoever reports to it is set under the first of them.", p.key,
				c.rows(same))
		}
		for _, name := range strings.Split(p.dotted, ";") {
			name = strings.ToLower(model.Flat(name))
			found := slices.Concat(byKey[name], byName[name])
			if name != "" && (len(found) == 0 || found[0] == i) {
				c.wrong("Row %d: %s also reports to “%s”, who is not in the table; that line is left out.", p.line,
					p.called(), model.Flat(name))
			} else if name != "" {
				p.also = append(p.also, found[0])
			}
		}
		if p.up == "" {
			continue
		}
		found := byKey[strings.ToLower(p.up)]
		if len(found) == 0 {
			if found = byName[strings.ToLower(p.up)]; len(found) > 1 {
				c.wrong("Row %d: %s reports to “%s”, a name that stands in the rows %s; it is set under the first of them.",
					p.line, p.called(), p.up, c.rows(found))
			}
		}
		switch {
		case len(found) == 0:
			c.wrong("Row %d: %s reports to “%s”, who is not in the table; it stands at the head.", p.line, p.called(),
				p.up)
		case found[0] == i:
			c.wrong("Row %d: %s reports to itself; it stands at the head.", p.line, p.called())
		default:
			p.under = found[0]
		}
	}
	if !keyed {
		for i := range c.people {
			p := &c.people[i]
			if same := byName[strings.ToLower(p.name)]; p.name != "" && len(same) > 1 && same[0] == i {
				c.wrong("The name “%s” stands in the rows %s; each of them gets a card.", p.name, c.rows(same))
			}
		}
	}
}

// rows lists the lines of people, for a message.
func (c *crew) rows(list []int) string {
	var words []string
	for _, i := range list {
		words = append(words, strconv.Itoa(c.people[i].line))
	}
	if n := len(words); n > 1 {
		return strings.Join(words[:n-1], ", ") + " and " + words[n-1]
	}
	return strings.Join(words, "")
}

// cutCircles sets the first person of every circle of superiors at the head.
func (c *crew) cutCircles() {
	state := make([]int, len(c.people)) // 1 under way, 2 known to lead to a head
	for i := range c.people {
		var way []int
		k := i
		for k >= 0 && state[k] == 0 {
			state[k] = 1
			way = append(way, k)
			k = c.people[k].under
		}
		if k >= 0 && state[k] == 1 {
			circle := slices.Clone(way[slices.Index(way, k):])
			slices.Sort(circle)
			first := &c.people[circle[0]]
			c.wrong("The rows %s report to each other in a circle; row %d, %s, stands at the head.", c.rows(circle),
				first.line, first.called())
			first.under = -1
		}
		for _, k := range way {
			state[k] = 2
		}
	}
}

// count counts the cards and names the heads, where there are several.
func (c *crew) count() {
	var heads []int
	for i := range c.people {
		if c.people[i].under < 0 {
			heads = append(heads, i)
		}
	}
	c.plan.People, c.plan.Heads = len(c.people), len(heads)
	if len(heads) > 1 {
		rows := c.rows(heads[:min(len(heads), 8)])
		if len(heads) > 8 {
			rows += fmt.Sprintf(" and %d more", len(heads)-8)
		}
		c.wrong("The rows %s have no superior; their cards stand beside each other at the head.", rows)
	}
}

// ReadPeople says what reading a table of people would do: to the sheet, where it is a hierarchy with cards already,
// else for one of its own. As says what each column holds, by the constants of this package; nil guesses by the titles.
func (w *Work) ReadPeople(file Sheet, as []string) *PeoplePlan {
	c := readCrew(file, as)
	if c.plan.Refusal == "" && w.Sheet != nil && w.Sheet.Kind == model.HierarchySheet {
		w.match(c).tell()
	}
	return c.plan
}

// Portraits are pictures by the names of their files, in small letters.
type Portraits map[string]pictures.Picture

// TakePeople returns the edit that does what ReadPeople says, with the pictures whose files the table names, and the id
// of the sheet it is about.
func (w *Work) TakePeople(file Sheet, as []string, faces Portraits) (e edit.Edit, sheet string, err error) {
	c := readCrew(file, as)
	c.faces = faces
	if c.plan.Refusal != "" {
		return nil, "", Refusal(c.plan.Refusal)
	}
	if w.Sheet.Kind == model.HierarchySheet && len(w.Sheet.Tree().Order()) > 0 {
		e, err = w.match(c).edit()
		return e, w.Sheet.ID, err
	}
	edits, fields := w.fieldsFor(c)
	edits = append(edits, w.facesFor(c)...)
	s := w.chart(c, fields)
	if w.Sheet.Kind == model.HierarchySheet { // an empty one takes them
		add := &edit.AddItems{Sheet: w.Sheet.ID}
		for _, sym := range s.Symbols {
			add.Symbols = append(add.Symbols, *sym)
		}
		for _, c := range s.Connectors {
			add.Connectors = append(add.Connectors, *c)
		}
		return edit.Together(FromTable, append(edits, add)...), w.Sheet.ID, nil
	}
	at := slices.Index(w.Map.Sheets, w.Sheet) + 1
	return edit.Together(FromTable, append(edits, &edit.AddSheet{At: at, Sheet: *s})...), s.ID, nil
}

// PeopleMap returns a map with one sheet, the hierarchy of a table of people.
func PeopleMap(file Sheet, title string) (*model.Map, error) {
	c := readCrew(file, nil)
	if c.plan.Refusal != "" {
		return nil, Refusal(c.plan.Refusal)
	}
	m := model.New(title, model.Downwards, "A4", true)
	n := 0
	w := &Work{Map: m, Sheet: m.Sheets[0], NewID: func() string { n++; return "p" + strconv.Itoa(n) }}
	edits, fields := w.fieldsFor(c)
	s := w.chart(c, fields)
	s.ID = "chart"
	edits = append(edits, &edit.AddSheet{Sheet: *s}, &edit.RemoveSheet{Sheet: m.Sheets[0].ID})
	for _, e := range edits {
		if _, err := edit.Apply(m, e); err != nil {
			return nil, err
		}
	}
	if err := m.Validate(); err != nil {
		return nil, err
	}
	return m, nil
}

// fieldsFor returns the edits that add the fields the table has and the map has not, and for each column of its own the
// field it goes into. A column with few values, each of which stands there several times, becomes a choice.
func (w *Work) fieldsFor(c *crew) (edits []edit.Edit, fields []model.Field) {
	for k, title := range c.own {
		name := title
		if model.IsTitle(name) {
			name += " (person)"
		}
		at := slices.IndexFunc(w.Map.Fields, func(f model.Field) bool { return strings.EqualFold(f.Name, name) })
		if at >= 0 {
			fields = append(fields, w.Map.Fields[at])
			continue
		}
		f := model.Field{ID: w.NewID(), Name: model.Short(name), Type: values.Text}
		var seen []string
		filled := 0
		for i := range c.people {
			if v := model.Flat(c.people[i].own[k]); v != "" {
				if filled++; !slices.ContainsFunc(seen, func(s string) bool { return strings.EqualFold(s, v) }) {
					seen = append(seen, v)
				}
			}
		}
		if len(seen) > 1 && len(seen) <= 20 && filled >= 2*len(seen) {
			f.Type, f.Choices = values.Choice, seen
		}
		fields = append(fields, f)
		if n := len(w.Map.Fields) + len(edits); n < model.MaxFields {
			edits = append(edits, &edit.AddField{Field: f, At: n})
		} else {
			fields[len(fields)-1].ID = ""
			c.plan.Notes = append(c.plan.Notes, fmt.Sprintf("“%s” is left out: a map has at most %d fields.", title,
				model.MaxFields))
		}
	}
	return edits, fields
}

// value returns what stands in a field for a person, as a map keeps it.
func (p *person) value(k int, f model.Field) string {
	text := model.Flat(p.own[k])
	for _, choice := range f.Choices {
		if strings.EqualFold(choice, text) {
			return choice
		}
	}
	if v, err := values.Read(f.Type, f.Choices, text, values.Measures{}); err == nil {
		return v
	}
	return ""
}

// chart returns a new sheet with the cards of all people, in the order of the table, large enough for their texts.
func (w *Work) chart(c *crew, fields []model.Field) *model.Sheet {
	s := &model.Sheet{SheetHead: model.SheetHead{ID: w.NewID(), Name: "People", Paper: "A4", Across: true,
		Kind: model.HierarchySheet, Middle: true, Chart: model.Chart{Counted: true}},
		Pools: []*model.Pool{}, Symbols: []*model.Symbol{}, Connectors: []*model.Connector{}}
	ids := make([]string, len(c.people))
	for i := range c.people {
		ids[i] = w.cardID(&c.people[i], ids[:i])
	}
	for i := range c.people {
		p := &c.people[i]
		sym := c.card(i, ids[i], fields)
		if p.under >= 0 {
			sym.Under = ids[p.under]
		}
		s.Symbols = append(s.Symbols, sym)
	}
	for i := range c.people {
		for _, k := range c.people[i].also {
			s.Connectors = append(s.Connectors, &model.Connector{ID: w.NewID(), From: model.End{Symbol: ids[k]},
				To: model.End{Symbol: ids[i]}, Stroke: model.DottedLine()})
		}
	}
	for _, sym := range s.Symbols {
		for _, p := range arrange.Fit(w.Map, s, sym) {
			if o := s.Symbol(p.ID); o != nil {
				o.Box = p.Box
			}
		}
	}
	w.ontoPaper(s)
	for _, sym := range s.Symbols {
		sym.X, sym.Y = 0, 0
	}
	return s
}

// ontoPaper finds how a new chart stands on the smallest paper, from that of the map up: each level beside each other,
// or the last one below each other, on paper that lies across or upright.
func (w *Work) ontoPaper(s *model.Sheet) {
	paper := "A4"
	if w.Sheet != nil {
		paper = w.Sheet.Paper
	}
	for _, s.Paper = range papersFrom(paper) {
		for _, s.Chart.Last = range [...]hierarchy.Arrangement{"", hierarchy.Right} {
			for _, s.Across = range [...]bool{true, false} {
				if w.Map.Settle(s); s.Area().Holds(s.Drawn()) {
					return
				}
			}
		}
	}
	s.Across = true
}

// keyed begins the ids of cards that are made of the ids of a table.
const keyed = "p-"

// cardID returns an id for the card of a person: that of the table where it can be one, so that a later table finds the
// card again, else a new one.
func (w *Work) cardID(p *person, taken []string) string {
	id := keyed + p.key
	if p.key != "" && model.ValidID(id) && !slices.Contains(taken, id) && w.Map.Sheet(id) == nil &&
		w.Map.SheetOf(id) == nil {
		return id
	}
	return w.NewID()
}

// size gives a new card the size of those on the sheet, or as much more as its text needs.
func (w *Work) size(card *model.Symbol) {
	card.W, card.H = arrange.Size(w.Sheet, card.Kind)
	if fit := arrange.Fit(w.Map, w.Sheet, card); len(fit) > 0 {
		card.W, card.H = fit[0].W, fit[0].H
	}
}

// card returns the card of the person in a row of the table.
func (c *crew) card(at int, id string, fields []model.Field) *model.Symbol {
	p := &c.people[at]
	def := symbols.Of(p.kind)
	sym := &model.Symbol{ID: id, Kind: p.kind, Text: p.text(), Box: geometry.Box{W: def.W, H: def.H},
		Seat: model.Seat{Rank: (at + 1) * model.RankStep, Post: p.post, Assistant: p.assistant}}
	for k, f := range fields {
		if v := p.value(k, f); f.ID != "" && v != "" {
			sym.Values = append(sym.Values, model.Value{ID: f.ID, Text: v})
		}
	}
	if face, ok := c.face(p); ok {
		sym.Picture = face.ID
	}
	return sym
}
