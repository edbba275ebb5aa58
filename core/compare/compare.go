// Package compare says what of the work changed between two states of a map: steps, connectors, lanes, stages and
// sheets, matched by their ids. What only tidies the drawing is listed apart.
//
// Facts returns what a map says of the work, Maps the changes that lead from one to the other. A change of a thing that
// was added or removed holds all that is said of it, so that the changes applied to the facts of the one map give those
// of the other.
package compare

import (
	"fmt"
	"maps"
	"regexp"
	"slices"
	"strconv"
	"strings"

	"plaintracer/core/flow"
	"plaintracer/core/links"
	"plaintracer/core/model"
	"plaintracer/core/numbering"
	"plaintracer/core/symbols"
)

// What a fact is about.
const (
	TheMap    = "map"
	Sheet     = "sheet"
	Pool      = "pool"
	Lane      = "lane"
	Stage     = "stage"
	Field     = "field"
	Step      = "step"      // any symbol
	Connector = "connector" // a line between two
)

// Thing names what a fact is about. The map itself has no id.
type Thing struct{ What, ID string }

// Facts are what a map says of the work: of each thing, its attributes by their names.
type Facts map[Thing]map[string]string

// The attributes, each with how a change of it is told: by a verb before the values, or where these say nothing to a
// reader, by a sentence about the old and the new one, without a full stop.
var attributes = []attribute{
	{"sheet", "moved to the sheet", nil}, {"lane", "moved to the lane", nil}, {"stage", "moved to the stage", nil},
	{"kind", "is now a", nil}, {"owner", "is now done by", nil},
	{"text", "reworded", nil}, {"number", "has the number", nil}, {"from", "begins at", nil}, {"to", "leads to", nil},
	{"answer", "has the answer", nil}, {"at its beginning", "says at its beginning", nil},
	{"at its end", "says at its end", nil}, {"name", "is called", nil}, {"part of", "is part of", nil}, {"place", "",
		placeSaid},
	{"title", "is called", nil}, {"answers", "has the answer words", nil},
	{"direction", "", directionSaid}, {"project", "says as its project", nil}, {"process", "says as its process", nil},
	{"author", "says as its author", nil}, {"version", "says as its version", nil},
	{"purpose", "says as its purpose", nil}, {"scope", "says as its scope", nil}, {"type", "holds", nil}, {"values",
		"offers", nil},
	{"detail", "opens into the sheet", nil}, {"links", "", linksSaid}, {"numbering", "is numbered", nil}, {"held", "",
		heldSaid},
	{"currency", "counts its money in", nil}, {"under", "is now under", nil}, {"post", "has the post marked as", nil},
	{"assistant", "", assistantSaid}, {"line", "says on its line", nil},
	{"row", "moved to the row", nil}, {"mood", "has the mood", nil}, {"sign", "has the sign", nil}, {"reaches over",
		"reaches over", nil},
	{"holds", "holds", nil}, {"field", "sums up", nil}, {"words", "says of the person", nil},
}

type attribute struct {
	name, told string
	said       func(old, now string) string
}

// heldSaid is about the time since when numbers are held, which is for programs.
func heldSaid(old, now string) string {
	switch {
	case now == "":
		return "does not hold its numbers any more"
	case old == "":
		return "holds its numbers now"
	}
	return "holds its numbers anew"
}

func placeSaid(old, now string) string { return "was moved from place " + old + " to place " + now }

func assistantSaid(_, now string) string {
	if now == "" {
		return "is no assistant any more"
	}
	return "is an assistant now"
}

func directionSaid(_, now string) string {
	if now == "" {
		return "runs from left to right now"
	}
	return "runs " + now + " now"
}

// inside are the addresses of what is in the map or in the organisation, as they follow the title of a link.
var inside = regexp.MustCompile(` \((?:#|map:)[^()]*\)`)

// linksSaid names links by their titles. The addresses of what is in the organisation say nothing, unless nothing else
// changed.
func linksSaid(old, now string) string {
	old, now = inside.ReplaceAllString(old, ""), inside.ReplaceAllString(now, "")
	switch {
	case old == now:
		return "links elsewhere under the same title, “" + now + "”"
	case now == "":
		return "links to nothing any more, instead of “" + old + "”"
	case old == "":
		return "links to “" + now + "”"
	}
	return "links to “" + now + "” instead of “" + old + "”"
}

// ofField begins the attributes that are values of fields; the id of the field follows.
const ofField = "field "

// FactsOf returns the facts of a map.
func FactsOf(m *model.Map) Facts { return factsOf(m, flow.New(m)) }

func factsOf(m *model.Map, g *flow.Graph) Facts {
	f := Facts{}
	put := func(what, id string, pairs ...string) {
		at := f[Thing{what, id}]
		if at == nil {
			at = map[string]string{}
			f[Thing{what, id}] = at
		}
		for i := 0; i < len(pairs); i += 2 {
			if pairs[i+1] != "" {
				at[pairs[i]] = pairs[i+1]
			}
		}
	}
	h := m.Heading
	put(TheMap, "", "title", m.Title, "answers", strings.Join(m.Answers, ", "), "direction",
		map[model.Direction]string{model.Downwards: "from top to bottom"}[m.Direction],
		"project", model.Flat(h.Project), "process", model.Flat(h.Process), "author", model.Flat(h.Author), "version",
		model.Flat(h.Version), "purpose", model.Flat(h.Purpose), "scope", model.Flat(h.Scope), "held", m.Held.Since,
		"currency", m.Currency, "working day", span(m.Day, "h"), "working week", span(m.Week, "d"))
	if m.Numbering.Scheme != model.Plain {
		put(TheMap, "", "numbering", numbering.Name(m.Numbering.Scheme))
	}
	for i := range m.Fields {
		f := &m.Fields[i]
		put(Field, f.ID, "name", f.Name, "type", f.Type.Title(), "values", strings.Join(f.Choices, ", "))
	}
	numbers := numbering.Labels(g)
	for i, s := range m.Sheets {
		put(Sheet, s.ID, "name", s.Name, "place", strconv.Itoa(i+1))
		for _, p := range s.Pools {
			put(Pool, p.ID, "title", p.Title, "sheet", s.Name, "words", model.Flat(p.Words))
			if p.Journey {
				put(Pool, p.ID, "kind", "journey")
			}
			for k, l := range p.Lanes {
				put(Lane, l.ID, "name", l.Name, "part of", l.Of, "place", strconv.Itoa(k+1))
				if p.Journey {
					put(Lane, l.ID, "holds", l.Row.Row().Name, "field", m.Head.FieldNamed(l.Field))
				}
			}
			for k, st := range p.Stages {
				put(Stage, st.ID, "name", st.Name, "place", strconv.Itoa(k+1))
			}
		}
		for _, sym := range s.Symbols {
			put(Step, sym.ID, "text", model.Flat(sym.Text), "kind", symbols.Of(sym.Kind).Name, "sheet", s.Name,
				"number", numbers[sym.ID])
			if lane := s.LaneOf(sym); lane != nil && lane.Row == "" {
				put(Step, sym.ID, "lane", lane.Name)
			} else {
				put(Step, sym.ID, "owner", sym.Owner)
			}
			var leads []string
			for i := range sym.Links {
				leads = append(leads, links.Title(m, &sym.Links[i], nil)+" ("+sym.Links[i].To+")")
			}
			put(Step, sym.ID, "links", strings.Join(leads, "; "))
			if to := m.DetailOf(sym); to != nil {
				put(Step, sym.ID, "detail", to.Name)
			}
			if stage := s.StageOf(sym); stage != nil {
				put(Step, sym.ID, "stage", stage.Name)
			}
			if s.IsCell(sym) {
				sign := ""
				if sym.Kind == model.ContactCell {
					sign = sym.SignOf()
				}
				put(Step, sym.ID, "row", s.LaneOf(sym).Called(), "owner", sym.Owner, "reaches over",
					strings.TrimPrefix(strconv.Itoa(max(sym.Span, 1))+" stages", "1 stages"), "sign", sign)
				if sym.Kind == model.MoodCell {
					put(Step, sym.ID, "mood", strconv.Itoa(sym.Mood))
				}
			}
			if s.IsCard(sym) {
				under := "nobody"
				if up := s.Tree().Superior(sym.ID); up != nil {
					under = up.CardTitle()
				}
				assistant := map[bool]string{true: "yes"}[sym.Assistant]
				put(Step, sym.ID, "under", under, "post", string(sym.Post), "assistant", assistant, "line", sym.Via)
			}
			for i := range m.Fields {
				put(Step, sym.ID, ofField+m.Fields[i].ID, model.Flat(m.Show(&m.Fields[i], sym)))
			}
		}
		for _, c := range s.Connectors {
			put(Connector, c.ID, "from", end(c.From), "to", end(c.To), "answer", model.Flat(c.Text), "at its beginning",
				model.Flat(c.FromText), "at its end", model.Flat(c.ToText))
		}
	}
	return f
}

// end names what an end of a connector is glued to, by its id.
func end(e model.End) string {
	if e.Symbol != "" {
		return e.Symbol
	}
	return e.Connector
}

// Kinds of change.
type Kind uint8

// The kinds: a thing is there now, or not any more, or says something else.
const (
	Added Kind = iota
	Removed
	Changed
)

// Change is one thing of the work that changed.
type Change struct {
	Kind  Kind
	Thing Thing
	// Sheet is the id of the sheet it stands on, or stood on.
	Sheet string
	// Of says in words what it is about: the number and text of a step, the two ends of a connector.
	Of string
	// Attribute, Old and New are what changed of it.
	// On the page alone it is Moved or Restyled, with no values.
	Attribute, Old, New string
	// Facts are all that is said of a thing that was added or removed.
	Facts map[string]string
}

// What changes of a thing on the page alone.
const (
	Moved    = "moved"
	Restyled = "restyled"
)

// Report is what changed between two states of a map.
type Report struct {
	Changes []Change
	// Page is what changed on the page alone, in the same order: things that were only Moved or sized, and those that
	// only look otherwise.
	Page []Change
	// Renumbered counts the steps that have another number and are otherwise as they were.
	Renumbered int

	was, is naming
}

// Maps returns what of the work changed from one state of a map to another, in the order of the flow.
func Maps(before, after *model.Map) Report {
	r := Report{was: names(before), is: names(after)}
	w, n := &r.was, &r.is
	for _, t := range order(w, n) {
		old, now := w.facts[t], n.facts[t]
		switch {
		case old == nil:
			r.Changes = append(r.Changes, Change{Kind: Added, Thing: t, Sheet: n.sheets[t], Of: n.of(t), Facts: now})
		case now == nil:
			r.Changes = append(r.Changes, Change{Kind: Removed, Thing: t, Sheet: w.sheets[t], Of: w.of(t), Facts: old})
		default:
			for _, name := range namesOf(old, now) {
				if old[name] != now[name] && !(placed(name) && w.in[t][name] != "" && w.in[t][name] == n.in[t][name]) {
					c := Change{Kind: Changed, Thing: t, Sheet: n.sheets[t], Of: n.of(t), Attribute: name,
						Old: old[name], New: now[name]}
					if name == "text" { // it is known by what it was called
						c.Of = w.of(t)
					}
					r.Changes = append(r.Changes, c)
				}
			}
		}
	}
	r.onPage(before, after)
	return r
}

// placed reports whether an attribute names what a thing stands in or leads to. Where that is only called otherwise,
// nothing has moved: it is told of what has the name.
func placed(attribute string) bool {
	return slices.Contains([]string{"sheet", "lane", "row", "stage", "detail", "links"}, attribute)
}

// namesOf are the attributes of a thing in two states, in the order in which they are told: those of every map, then
// the fields.
func namesOf(old, now map[string]string) (list []string) {
	for _, a := range attributes {
		list = append(list, a.name)
	}
	var own []string
	for _, at := range [...]map[string]string{old, now} {
		for name := range at {
			if strings.HasPrefix(name, ofField) && !slices.Contains(own, name) {
				own = append(own, name)
			}
		}
	}
	slices.Sort(own)
	return append(list, own...)
}

// naming knows what things are called, and on which sheet they stand.
type naming struct {
	facts  Facts
	sheets map[Thing]string
	steps  map[string]Thing
	// in are the ids of what a thing stands in and leads to, by the names of the attributes that name these.
	in map[Thing]map[string]string
	// reading are the ids of the symbols in the order of the flow.
	reading []string
}

func names(m *model.Map) naming {
	g := flow.New(m)
	n := naming{factsOf(m, g), map[Thing]string{}, map[string]Thing{}, map[Thing]map[string]string{}, nil}
	for _, node := range numbering.Reading(g) {
		n.reading = append(n.reading, node.Symbol.ID)
	}
	for _, s := range m.Sheets {
		n.sheets[Thing{Sheet, s.ID}] = s.ID
		for _, p := range s.Pools {
			n.sheets[Thing{Pool, p.ID}] = s.ID
			n.in[Thing{Pool, p.ID}] = map[string]string{"sheet": s.ID}
			for _, l := range p.Lanes {
				n.sheets[Thing{Lane, l.ID}] = s.ID
			}
			for _, st := range p.Stages {
				n.sheets[Thing{Stage, st.ID}] = s.ID
			}
		}
		for _, c := range s.Connectors {
			n.sheets[Thing{Connector, c.ID}] = s.ID
		}
		for _, sym := range s.Symbols {
			t := Thing{Step, sym.ID}
			n.sheets[t], n.steps[sym.ID] = s.ID, t
			n.in[t] = map[string]string{"sheet": s.ID, "detail": sym.Detail}
			for i := range sym.Links {
				n.in[t]["links"] += sym.Links[i].To + " " + sym.Links[i].Title + "\n"
			}
			if lane := s.LaneOf(sym); lane != nil {
				n.in[t]["lane"], n.in[t]["row"] = lane.ID, lane.ID
			}
			if stage := s.StageOf(sym); stage != nil {
				n.in[t]["stage"] = stage.ID
			}
		}
	}
	return n
}

// of says in words what a thing is.
func (n *naming) of(t Thing) string {
	at := n.facts[t]
	switch t.What {
	case TheMap:
		return "The map"
	case Connector:
		return "The connector from " + n.short(at["from"]) + " to " + n.short(at["to"])
	case Step:
		what := at["kind"]
		if at["number"] != "" {
			what = "Step " + at["number"]
		}
		return strings.TrimSpace(what + quoted(at["text"]))
	}
	what := t.What
	switch {
	case what == Lane && at["holds"] != "":
		what = "row"
	case what == Pool && at["kind"] != "":
		what = at["kind"]
	}
	return strings.ToUpper(what[:1]) + what[1:] + quoted(at["name"]+at["title"])
}

// short names a symbol as the end of a connector.
func (n *naming) short(id string) string {
	t, ok := n.steps[id]
	if !ok {
		return "nothing"
	}
	if number := n.facts[t]["number"]; number != "" {
		return number
	}
	if text := n.facts[t]["text"]; text != "" {
		return "“" + text + "”"
	}
	return n.facts[t]["kind"]
}

func quoted(text string) string {
	if text == "" {
		return ""
	}
	return " “" + text + "”"
}

// order returns all things of two maps: the map, its sheets, pools, lanes and stages, then the steps in the order of
// the flow, what was removed at its old place, and the connectors.
func order(was, is *naming) []Thing {
	rank := map[string]int{TheMap: 0, Sheet: 1, Pool: 2, Lane: 3, Stage: 4, Field: 5, Step: 6, Connector: 7}
	place := map[string]int{}
	all := map[Thing]bool{}
	for _, n := range []*naming{was, is} { // what is there now counts
		for i, id := range n.reading {
			place[id] = i
		}
		for t := range n.facts {
			all[t] = true
		}
	}
	at := func(t Thing) int {
		if t.What == Connector {
			f := is.facts[t]
			if f == nil {
				f = was.facts[t]
			}
			return place[f["from"]]
		}
		return place[t.ID]
	}
	return slices.SortedFunc(maps.Keys(all), func(a, b Thing) int {
		if d := rank[a.What] - rank[b.What]; d != 0 {
			return d
		}
		if d := at(a) - at(b); d != 0 {
			return d
		}
		return strings.Compare(a.ID, b.ID)
	})
}

// onPage lists what changed of the drawing alone.
func (r *Report) onPage(before, after *model.Map) {
	listed, numbered := map[string]bool{}, map[string]bool{}
	for _, c := range r.Changes {
		if c.Attribute == "number" {
			numbered[c.Thing.ID] = true
		} else {
			listed[c.Thing.ID] = true
		}
	}
	for id := range numbered {
		if !listed[id] {
			r.Renumbered++
		}
	}
	only := map[Thing]string{}
	page := func(t Thing, how string) { only[t] = how }
	old := map[string]*model.Symbol{}
	lines := map[string]*model.Connector{}
	for _, s := range before.Sheets {
		for _, sym := range s.Symbols {
			old[sym.ID] = sym
		}
		for _, c := range s.Connectors {
			lines[c.ID] = c
		}
	}
	for _, s := range after.Sheets {
		for _, sym := range s.Symbols {
			was := old[sym.ID]
			if was == nil || listed[sym.ID] {
				continue
			}
			a, b := *was, *sym
			a.Text, b.Text = "", ""
			if s.IsCard(sym) { // its place follows
				a.Box.X, a.Box.Y, a.Rank, a.Under = b.Box.X, b.Box.Y, b.Rank, b.Under
			}
			if s.IsCell(sym) {
				a.Box, a.Rank, a.Cell = b.Box, b.Rank, b.Cell
			}
			a.Values, b.Values, a.Kept, b.Kept, a.Pinned, b.Pinned, a.Uncounted, b.Uncounted = nil, nil, "", "", "", "",
				false, false
			switch {
			case a.Box != b.Box:
				page(Thing{Step, sym.ID}, Moved)
			case !a.Equal(&b):
				page(Thing{Step, sym.ID}, Restyled)
			}
		}
		for _, c := range s.Connectors {
			was := lines[c.ID]
			if was == nil || listed[c.ID] {
				continue
			}
			switch {
			case was.From != c.From || was.To != c.To || !slices.Equal(was.Bends, c.Bends) || was.Place != c.Place:
				page(Thing{Connector, c.ID}, Moved)
			case was.Stroke != c.Stroke:
				page(Thing{Connector, c.ID}, Restyled)
			}
		}
	}
	for _, t := range order(&r.was, &r.is) {
		if how := only[t]; how != "" {
			r.Page = append(r.Page, Change{Kind: Changed, Thing: t, Sheet: r.is.sheets[t], Of: r.is.of(t),
				Attribute: how})
		}
	}
}

// called says what a symbol is called that a change names by its id, in the later state or else in the earlier.
func (r *Report) called(id string) string {
	if _, ok := r.is.steps[id]; ok {
		return r.is.short(id)
	}
	return r.was.short(id)
}

// Sentence says a change of the report in words.
func (r *Report) Sentence(c *Change) string {
	switch c.Kind {
	case Added:
		return c.Of + where(c) + " was added."
	case Removed:
		return c.Of + where(c) + " was removed."
	}
	switch c.Attribute {
	case Moved:
		return c.Of + " was moved or sized."
	case Restyled:
		return c.Of + " looks otherwise."
	}
	old, now := c.Old, c.New
	if c.Attribute == "from" || c.Attribute == "to" {
		old, now = r.called(old), r.called(now)
	}
	told := c.Attribute
	for _, a := range attributes {
		if a.name == c.Attribute {
			if told = a.told; a.said != nil {
				return c.Of + " " + a.said(old, now) + "."
			}
		}
	}
	if id, ok := strings.CutPrefix(c.Attribute, ofField); ok {
		f := r.is.facts[Thing{Field, id}]
		if f == nil {
			f = r.was.facts[Thing{Field, id}]
		}
		told = "has as its " + f["name"]
	}
	switch {
	case now == "" && c.Attribute == "text":
		return fmt.Sprintf("%s has no text any more.", c.Of)
	case c.Attribute == "text":
		return fmt.Sprintf("%s was reworded: “%s”.", c.Of, now)
	case now == "":
		return fmt.Sprintf("%s %s nothing any more, instead of “%s”.", c.Of, told, old)
	case old == "":
		return fmt.Sprintf("%s %s “%s”.", c.Of, told, now)
	}
	return fmt.Sprintf("%s %s “%s” instead of “%s”.", c.Of, told, now, old)
}

func where(c *Change) string {
	if lane := c.Facts["lane"]; lane != "" {
		return " in the lane " + lane
	}
	return ""
}

// span writes a number with its unit; nothing for none.
func span(n int, unit string) string {
	if n == 0 {
		return ""
	}
	return strconv.Itoa(n) + " " + unit
}
