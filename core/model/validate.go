package model

import (
	"errors"
	"fmt"
	"iter"
	"slices"
	"unicode/utf8"

	"plaintracer/core/geometry"
)

// The bounds of a map. They keep a broken or hostile file from taking the
// program down, and lie far beyond what a reader can follow.
const (
	MaxText       = 4000
	MaxName       = 200
	MaxPlace      = 100_000 * geometry.Px
	MaxSymbols    = 5000
	MaxSheets     = 200
	MaxLanes      = 60
	MinSymbol     = 8 * geometry.Px
	MaxSymbol     = 4000 * geometry.Px
	maxID         = 64
	maxAnswers    = 12
	MaxConnectors = 10000
	maxBends      = 40
	// MaxPictures is the size of all pictures of a map together, in bytes.
	MaxPictures = 16 << 20
	// MaxPictureCount is how many pictures a map may come to have.
	MaxPictureCount = 250
	// MinType and MaxType bound the type size, MaxMargin the room around a
	// text, MaxWeight the width of a line and MaxRadius its rounded corners.
	MinType   = 9 * geometry.Px
	MaxType   = 72 * geometry.Px
	maxMargin = 60 * geometry.Px
	MaxWeight = 12 * geometry.Px
	maxRadius = 60 * geometry.Px
	// MaxNesting is how deep groups may lie in each other.
	MaxNesting = 8
	maxColours = 40
	maxStyles  = 100
)

// Fault is something wrong in a map, with its place in the document.
type Fault struct {
	// Path leads to the faulty value, such as sheets[0].symbols[3].kind.
	Path string
	Text string
	// Sheet and ID say which thing it is about; empty for the map itself.
	Sheet, ID string
	// Broken says that things do not go together, so that nothing can be done with the map. Other
	// faults break a rule, which may be younger than the map.
	Broken bool
}

// Error says where and what.
func (f *Fault) Error() string { return f.Path + ": " + f.Text }

func fault(path, format string, args ...any) error {
	return &Fault{Path: path, Text: fmt.Sprintf(format, args...)}
}

// broken is a fault in how things go together.
func broken(path, format string, args ...any) error {
	return &Fault{Path: path, Text: fmt.Sprintf(format, args...), Broken: true}
}

// Validate returns the first fault of a map as a *Fault, or nil.
func (m *Map) Validate() error {
	for f := range m.Faults() {
		return f
	}
	return nil
}

// Sound returns the first fault of a map that is more than a broken rule, or nil. A sound map can
// be shown and worked on, whatever its faults.
func (m *Map) Sound() error {
	for f := range m.Faults() {
		if f.Broken {
			return f
		}
	}
	return nil
}

// Faults returns what is wrong in a map, of each thing the first.
func (m *Map) Faults() iter.Seq[*Fault] {
	return func(yield func(*Fault) bool) {
		on := reporter{yield: yield}
		on.report("", "", m.Head.Validate())
		if len(m.Sheets) == 0 {
			on.report("", "", broken("sheets", "a map has 1 to %d sheets, not none", MaxSheets))
		} else if len(m.Sheets) > MaxSheets {
			on.report("", "", fault("sheets", "a map has 1 to %d sheets, not %d", MaxSheets, len(m.Sheets)))
		}
		on.report("", "", m.validatePictures())
		on.report("", "", m.validateFonts())
		on.report("", "", m.validateFiles())
		on.report("", "", m.CheckDetails())
		used := map[string]place{}
		for i, s := range m.Sheets {
			if s == nil {
				on.report("", "", broken(fmt.Sprintf("sheets[%d]", i), "a sheet is missing"))
			} else {
				s.faults(&on, fmt.Sprintf("sheets[%d]", i), used)
			}
		}
	}
}

// reporter passes faults on until nobody asks for more.
type reporter struct {
	yield func(*Fault) bool
	done  bool
}

func (r *reporter) report(sheet, id string, err error) {
	var f *Fault
	if r.done || !errors.As(err, &f) {
		return
	}
	f.Sheet, f.ID = sheet, id
	r.done = !r.yield(f)
}

func (m *Map) validatePictures() error {
	size, seen := 0, map[string]bool{}
	for i := range m.Pictures {
		if err := m.Pictures[i].Check(); err != nil {
			return fault(fmt.Sprintf("pictures[%d]", i), "%s", err)
		}
		if seen[m.Pictures[i].ID] {
			return fault(fmt.Sprintf("pictures[%d].id", i), "the picture stands there twice")
		}
		seen[m.Pictures[i].ID] = true
		size += len(m.Pictures[i].Data)
	}
	if size > MaxPictures {
		return fault("pictures", "the pictures of a map take at most %d MB together", MaxPictures>>20)
	}
	return nil
}

// IDs returns the ids of the sheet and of all that stands on it, each with a word what it is.
func (s *Sheet) IDs() iter.Seq2[string, string] {
	return func(yield func(id, what string) bool) {
		if !yield(s.ID, "the sheet") {
			return
		}
		for _, p := range s.Pools {
			for _, id := range p.IDs() {
				if !yield(id, "a pool, lane or stage") {
					return
				}
			}
		}
		for _, sym := range s.Symbols {
			if !yield(sym.ID, "a symbol") {
				return
			}
		}
		for _, c := range s.Connectors {
			if !yield(c.ID, "a connector") {
				return
			}
		}
	}
}

// IDs returns the ids of a pool and its parts.
func (p *Pool) IDs() []string {
	list := []string{p.ID}
	for _, l := range p.Lanes {
		list = append(list, l.ID)
	}
	for _, st := range p.Stages {
		list = append(list, st.ID)
	}
	return list
}

// claim notes the ids of a sheet that is known to be sound, and reports the first one that
// is used already.
func (s *Sheet) claim(path string, used map[string]place) error {
	for id, what := range s.IDs() {
		if err := checkID(place{path: path}, id, used); err != nil {
			return err
		}
		used[id] = place{path: path, of: what}
	}
	return nil
}

// Validate returns the first fault of the head.
func (h *Head) Validate() error {
	if len(h.Answers) < 2 {
		return broken("answers", "a map has 2 to %d answer words, not %d", maxAnswers, len(h.Answers))
	}
	if err := checkText("title", h.Title, MaxName); err != nil {
		return err
	}
	for _, name := range HeadingFields {
		if err := checkText("heading."+name, *h.Heading.Field(name), MaxName); err != nil {
			return err
		}
	}
	for _, name := range HeadingTexts {
		if err := checkText("heading."+name, *h.Heading.Field(name), MaxText); err != nil {
			return err
		}
	}
	if err := h.checkCases(); err != nil {
		return err
	}
	if err := h.checkStops(); err != nil {
		return err
	}
	if h.Direction != Rightwards && h.Direction != Downwards {
		return fault("direction", "%q is no direction; use %q or %q", h.Direction, Rightwards, Downwards)
	}
	if len(h.Answers) > maxAnswers {
		return fault("answers", "a map has 2 to %d answer words, not %d", maxAnswers, len(h.Answers))
	}
	for i, a := range h.Answers {
		path := fmt.Sprintf("answers[%d]", i)
		if a == "" {
			return fault(path, "an answer word is empty")
		}
		if slices.Index(h.Answers, a) != i {
			return fault(path, "the answer %q stands there twice", a)
		}
		if err := checkText(path, a, MaxName); err != nil {
			return err
		}
	}
	if !slices.Contains([]Units{Pixels, Millimetres, Inches}, h.Units) {
		return fault("units", "%q is no unit; use mm, in, or nothing for px", h.Units)
	}
	if h.Look != "" && !ValidID(h.Look) {
		return fault("look", "%q is no name of a look", h.Look)
	}
	if len(h.Colours) > maxColours {
		return fault("colours", "an organisation has at most %d colours of its own", maxColours)
	}
	for i, c := range h.Colours {
		if err := checkText(fmt.Sprintf("colours[%d].name", i), c.Name, MaxName); err != nil {
			return err
		}
		if !isHex(c.Value) {
			return fault(fmt.Sprintf("colours[%d].value", i), "%q is no colour; use #rrggbb", c.Value)
		}
	}
	if len(h.Styles) > maxStyles {
		return fault("styles", "a map has at most %d styles", maxStyles)
	}
	for i := range h.Styles {
		if err := h.Styles[i].Validate(fmt.Sprintf("styles[%d]", i)); err != nil {
			return err
		}
		if h.StyleNamed(h.Styles[i].ID) != &h.Styles[i] {
			return fault(fmt.Sprintf("styles[%d].id", i), "the id %q stands there twice", h.Styles[i].ID)
		}
	}
	if err := h.validateNumbers(); err != nil {
		return err
	}
	return h.validateFields()
}

// Validate returns the first fault of the head of a sheet.
func (h *SheetHead) Validate(path string) error {
	if err := checkText(path+".name", h.Name, MaxName); err != nil {
		return err
	}
	if w, _ := PaperSize(h.Paper, false); w == 0 {
		return fault(path+".paper", "%q is no paper size this program knows", h.Paper)
	}
	if !slices.Contains([]Fitting{FitTogether, FitAlone, FitSmaller}, h.Fitting) {
		return fault(path+".fitting", "%q is no way of fitting a text", h.Fitting)
	}
	if !h.Crossings.known() {
		return fault(path+".crossings", "%q is no form of a crossing", h.Crossings)
	}
	if err := h.validateChart(path); err != nil {
		return err
	}
	if h.Edge != EdgeStay && h.Edge != EdgeGrow {
		return fault(path+".edge", "%q is nothing that can happen at the edge of the paper", h.Edge)
	}
	if !isColour(h.Colour) {
		return fault(path+".colour", "%q is no colour of the palette and no #rrggbb", h.Colour)
	}
	if !isColour(h.Background.Fill) {
		return fault(path+".ground.fill", "%q is no colour of the palette and no #rrggbb", h.Background.Fill)
	}
	if h.Background.Picture != "" && !ValidID(h.Background.Picture) {
		return fault(path+".ground.picture", "%q is no id of a picture", h.Background.Picture)
	}
	return nil
}

// Admits reports why a sheet cannot be taken into the map: a fault of its own, or an id that the map has already.
func (m *Map) Admits(s *Sheet) error {
	used := map[string]place{}
	for i, other := range m.Sheets {
		if err := other.claim(fmt.Sprintf("sheets[%d]", i), used); err != nil {
			return err
		}
	}
	return s.firstFault("sheet", used)
}

// SoundSheets returns the first fault in how the things of the map go together, and on which sheet it is. Only the
// named sheets are looked through; of the others, which are known to be sound, it takes the ids, where new ones may
// have come to the map.
func (m *Map) SoundSheets(named map[string]bool, brought bool) (sheet string, err error) {
	used := map[string]place{}
	for i, s := range m.Sheets {
		check := s.claim
		if named[s.ID] {
			check = s.sound
		} else if !brought {
			continue
		}
		if err := check(fmt.Sprintf("sheets[%d]", i), used); err != nil {
			return s.ID, err
		}
	}
	return "", nil
}

// Validate returns the first fault of a sheet as it is by itself.
func (s *Sheet) Validate(path string) error { return s.firstFault(path, map[string]place{}) }

// firstFault returns the first fault of a sheet, whose ids are not among those used.
func (s *Sheet) firstFault(path string, used map[string]place) error {
	return s.first(path, used, func(*Fault) bool { return true })
}

// sound returns the first fault of a sheet that is more than a broken rule.
func (s *Sheet) sound(path string, used map[string]place) error {
	return s.first(path, used, func(f *Fault) bool { return f.Broken })
}

func (s *Sheet) first(path string, used map[string]place, counts func(*Fault) bool) (err error) {
	s.faults(&reporter{yield: func(f *Fault) bool {
		if counts(f) {
			err = f
		}
		return err == nil
	}}, path, used)
	return err
}

// faults reports what is wrong on a sheet, of each thing the first.
func (s *Sheet) faults(on *reporter, path string, used map[string]place) {
	on.report(s.ID, "", checkID(place{path: path}, s.ID, used))
	on.report(s.ID, "", s.SheetHead.Validate(path))
	if len(s.Symbols) > MaxSymbols {
		on.report(s.ID, "", fault(path+".symbols", "a sheet holds at most %d symbols, not %d", MaxSymbols,
			len(s.Symbols)))
	}
	if len(s.Connectors) > MaxConnectors {
		on.report(s.ID, "", fault(path+".connectors", "a sheet holds at most %d connectors, not %d", MaxConnectors,
			len(s.Connectors)))
	}
	for i, p := range s.Pools {
		if on.done {
			return
		}
		at := fmt.Sprintf("%s.pools[%d]", path, i)
		if p == nil {
			on.report(s.ID, "", broken(at, "a pool is missing"))
			continue
		}
		on.report(s.ID, p.ID, checkID(place{path: at}, p.ID, used))
		for j := range p.Stages {
			on.report(s.ID, p.ID, checkID(place{path: at, list: "stages", i: j}, p.Stages[j].ID, used))
		}
		for j := range p.Lanes {
			on.report(s.ID, p.ID, checkID(place{path: at, list: "lanes", i: j}, p.Lanes[j].ID, used))
		}
		on.report(s.ID, p.ID, p.Validate(at))
	}
	symbols, connectors := make(map[string]*Symbol, len(s.Symbols)), make(map[string]*Connector, len(s.Connectors))
	for i, sym := range s.Symbols {
		if on.done {
			return
		}
		at := place{path: path, list: "symbols", i: i}
		if sym == nil {
			on.report(s.ID, "", broken(at.String(), "a symbol is missing"))
			continue
		}
		on.report(s.ID, sym.ID, checkID(at, sym.ID, used))
		on.report(s.ID, sym.ID, within(at, sym.Validate("")))
		symbols[sym.ID] = sym
	}
	s.seatFaults(on, path, symbols)
	s.cellFaults(on, path)
	missing := false
	for i, c := range s.Connectors {
		at := place{path: path, list: "connectors", i: i}
		if c == nil {
			on.report(s.ID, "", broken(at.String(), "a connector is missing"))
			missing = true
			continue
		}
		on.report(s.ID, c.ID, checkID(at, c.ID, used))
		connectors[c.ID] = c
	}
	has, connector := func(id string) bool { return symbols[id] != nil }, func(id string) *Connector {
		return connectors[id]
	}
	for i, c := range s.Connectors {
		if on.done || missing {
			return
		}
		at := place{path: path, list: "connectors", i: i}
		on.report(s.ID, c.ID, within(at, c.Validate("", has, connector)))
	}
}

// Validate returns the first fault of the symbol as it is by itself; path is where it stands.
func (s *Symbol) Validate(path string) error {
	switch {
	case !s.Kind.Known():
		return fault(path+".kind", "%q is no symbol this program knows", s.Kind)
	case s.W < MinSymbol || s.H < MinSymbol || s.W > MaxSymbol || s.H > MaxSymbol:
		return fault(path+".w", "a symbol is %d to %d px wide and high, not %d by %d",
			MinSymbol/geometry.Px, MaxSymbol/geometry.Px, s.W/geometry.Px, s.H/geometry.Px)
	case (!placed(s.X) || !placed(s.Y)) && !s.seated() && s.Row == "":
		return fault(path+".x", "the place %d, %d px is beyond the desk", s.X/geometry.Px, s.Y/geometry.Px)
	case !isColour(s.Fill):
		return fault(path+".fill", "%q is no colour of the palette and no #rrggbb", s.Fill)
	case !isColour(s.Ink):
		return fault(path+".ink", "%q is no colour of the palette and no #rrggbb", s.Ink)
	case !isWeight(s.Weight):
		return fault(path+".weight", "a line is a half to %d px wide", MaxWeight/geometry.Px)
	case s.Style != "" && !ValidID(s.Style):
		return fault(path+".style", "%q is no id of a style", s.Style)
	case s.Look != "" && !ValidID(s.Look):
		return fault(path+".look", "%q is no name of a look", s.Look)
	case !validGroup(s.Group):
		return fault(path+".group", "%q is no path of at most %d groups", s.Group, MaxNesting)
	case s.Picture != "" && !ValidID(s.Picture):
		return fault(path+".picture", "%q is no id of a picture", s.Picture)
	case s.Detail != "" && !ValidID(s.Detail):
		return fault(path+".detail", "%q is no id", s.Detail)
	case s.Tip.On != "" && !ValidID(s.Tip.On):
		return fault(path+".tip.on", "%q is no id", s.Tip.On)
	case !placed(s.Tip.At.X) || !placed(s.Tip.At.Y):
		return fault(path+".tip.at", "the place %d, %d px is beyond the desk", s.Tip.At.X/geometry.Px,
			s.Tip.At.Y/geometry.Px)
	case s.Tip.Along < 0 || s.Tip.Along > WholeCourse:
		return fault(path+".tip.along", "a place on a connector is 0 to %d", WholeCourse)
	}
	if err := s.Type.Validate(path); err != nil {
		return err
	}
	if err := s.Seat.validate(path); err != nil {
		return err
	}
	if err := s.Cell.validate(path); err != nil {
		return err
	}
	for _, text := range [...]struct {
		name, text string
		most       int
	}{{"owner", s.Owner, MaxName}, {"pinned", s.Pinned, maxNumber}, {"kept", s.Kept, MaxName},
		{"text", s.Text, MaxText}} {
		if err := checkText(path+"."+text.name, text.text, text.most); err != nil {
			return err
		}
	}
	if err := checkLinks(s.Links, path); err != nil {
		return err
	}
	if err := checkAccents(s.Accents, path); err != nil {
		return err
	}
	return s.validateValues(path)
}

// Validate returns the first fault of the way a text is set.
func (t *Type) Validate(path string) error {
	switch {
	case t.Size != 0 && (t.Size < MinType || t.Size > MaxType):
		return fault(path+".size", "a type size is %d to %d px", MinType/geometry.Px, MaxType/geometry.Px)
	case t.Margin < 0 || t.Margin > maxMargin:
		return fault(path+".margin", "a margin is 0 to %d px", maxMargin/geometry.Px)
	case !isColour(t.Colour):
		return fault(path+".colour", "%q is no colour of the palette and no #rrggbb", t.Colour)
	case len([]rune(t.Face)) > MaxName || slices.ContainsFunc([]rune(t.Face), isControl):
		return fault(path+".face", "%.60q is no name of a typeface", t.Face)
	case !slices.Contains([]string{"", "left", "centre", "right"}, t.Align):
		return fault(path+".align", "%q is no alignment; use left, centre or right", t.Align)
	case !slices.Contains([]string{"", "top", "middle", "bottom"}, t.Stand):
		return fault(path+".stand", "%q is no height; use top, middle or bottom", t.Stand)
	}
	return nil
}

// Validate returns the first fault of the line.
func (k *Stroke) Validate(path string) error {
	switch {
	case !isWeight(k.Weight):
		return fault(path+".weight", "a line is a half to %d px wide", MaxWeight/geometry.Px)
	case k.Radius < 0 || k.Radius > maxRadius:
		return fault(path+".radius", "a corner has a radius of 0 to %d px", maxRadius/geometry.Px)
	case !isColour(k.Ink):
		return fault(path+".ink", "%q is no colour of the palette and no #rrggbb", k.Ink)
	case !slices.Contains([]Line{Solid, DashLine, DotLine, DashDot, Transfer, Link}, k.Line):
		return fault(path+".line", "%q is no pattern of a line", k.Line)
	case !slices.Contains([]Run{Angled, Straight, Curved}, k.Course):
		return fault(path+".course", "%q is no kind of course", k.Course)
	case !k.Hop.known():
		return fault(path+".hop", "%q is no form of a crossing", k.Hop)
	case !slices.Contains([]Merging{"", MergeAlways, MergeNever}, k.Merge):
		return fault(path+".merge", "%q is no way of merging", k.Merge)
	case k.FromMark != "" && !slices.Contains(Marks, k.FromMark):
		return fault(path+".fromMark", "%q is no mark for the end of a line", k.FromMark)
	case k.ToMark != "" && !slices.Contains(Marks, k.ToMark):
		return fault(path+".toMark", "%q is no mark for the end of a line", k.ToMark)
	case !slices.Contains([]MarkSize{"", MarkSmall, MarkLarge}, k.MarkSize):
		return fault(path+".markSize", "%q is no size of a mark", k.MarkSize)
	}
	return nil
}

func (c Crossing) known() bool {
	return slices.Contains([]Crossing{"", CrossPlain, CrossGap, CrossArc, CrossSquare}, c)
}

func isWeight(w int) bool { return w == 0 || w >= geometry.Px/2 && w <= MaxWeight }

// isColour reports whether a colour is one of the palette, or #rrggbb.
func isColour(colour string) bool { return slices.Contains(Fills, colour) || isHex(colour) }

// isHex reports whether a colour is written #rrggbb.
func isHex(colour string) bool {
	if len(colour) != 7 || colour[0] != '#' {
		return false
	}
	for _, c := range colour[1:] {
		if (c < '0' || c > '9') && (c < 'a' || c > 'f') && (c < 'A' || c > 'F') {
			return false
		}
	}
	return true
}

// Validate returns the first fault of the connector, of whose sheet it is told which symbols and connectors there are.
func (c *Connector) Validate(path string, has func(symbol string) bool, connector func(id string) *Connector) error {
	ends := [...]struct {
		name string
		End
	}{{".from", c.From}, {".to", c.To}}
	for _, end := range ends { // how things go together comes first
		if end.Symbol != "" && !has(end.Symbol) {
			return broken(path+end.name+".symbol", "there is no symbol %q on this sheet", end.Symbol)
		}
		if end.Symbol != "" && end.Connector != "" {
			return broken(path+end.name, "an end is glued to a symbol or to a connector, not to both")
		}
	}
	if c.From.Symbol != "" && c.From.Symbol == c.To.Symbol {
		return broken(path+".to.symbol", "a connector leads from one symbol to another, not back to the same")
	}
	if c.From.Connector != "" {
		return broken(path+".from.connector", "a connector can join another one, but not begin on it")
	}
	for next, n := c, 0; next.To.Connector != ""; n++ {
		target := connector(next.To.Connector)
		if target == nil {
			return broken(path+".to.connector", "there is no connector %q on this sheet", next.To.Connector)
		}
		if target == c || n > maxJoins {
			return broken(path+".to.connector", "the connectors would lead into each other in a circle")
		}
		next = target
	}
	for _, end := range ends {
		if _, ok := geometry.SideNamed(end.Side); end.Side != "" && !ok {
			return fault(path+end.name+".side", "%q is no glue point", end.Side)
		}
		if !placed(end.At.X) || !placed(end.At.Y) {
			return fault(path+end.name+".at", "the loose end is beyond the desk")
		}
	}
	if len(c.Bends) > maxBends {
		return fault(path+".bends", "a course has at most %d stretches laid by hand", maxBends)
	}
	for i, b := range c.Bends {
		if !placed(b.At) {
			return fault(fmt.Sprintf("%s.bends[%d].at", path, i), "the stretch is beyond the desk")
		}
	}
	if c.Style != "" && !ValidID(c.Style) {
		return fault(path+".style", "%q is no id of a style", c.Style)
	}
	if err := checkLinks(c.Links, path); err != nil {
		return err
	}
	for i, l := range c.Labels() {
		name := [...]string{".text", ".fromText", ".toText"}[i]
		if err := checkText(path+name, *l.Text, MaxText); err != nil {
			return err
		}
		if p := *l.Place; p.Along < 0 || p.Along > WholeCourse || !placed(p.Off.X) || !placed(p.Off.Y) {
			return fault(path+[...]string{".place", ".fromPlace", ".toPlace"}[i],
				"the label is beyond the desk or its connector")
		}
	}
	if err := c.Type.Validate(path); err != nil {
		return err
	}
	return c.Stroke.Validate(path)
}

// maxJoins is how many connectors may follow each other by joining.
const maxJoins = 100

// Validate returns the first fault of the pool, its lanes and stages.
func (p *Pool) Validate(path string) error {
	if len(p.Lanes) == 0 {
		return broken(path+".lanes", "a pool has 1 to %d lanes, not none", MaxLanes)
	}
	if err := checkText(path+".title", p.Title, MaxName); err != nil {
		return err
	}
	if len(p.Lanes) > MaxLanes {
		return fault(path+".lanes", "a pool has 1 to %d lanes, not %d", MaxLanes, len(p.Lanes))
	}
	if !placed(p.X) || !placed(p.Y) || p.W < MinPool || p.W > MaxPlace {
		return fault(path+".x", "the pool is beyond the desk or narrower than %d px", MinPool/geometry.Px)
	}
	for i, l := range p.Lanes {
		at := fmt.Sprintf("%s.lanes[%d]", path, i)
		if l.H < MinLane && !l.Folded || l.H < FoldedRow || l.H > MaxPlace {
			return fault(at+".h", "a lane is at least %d px high, not %d", MinLane/geometry.Px, l.H/geometry.Px)
		}
		if l.Grown < 0 || l.Grown > l.H {
			return fault(at+".grown", "a lane that is %d px high cannot have grown by %d", l.H/geometry.Px,
				l.Grown/geometry.Px)
		}
		if err := checkText(at+".name", l.Name, MaxName); err != nil {
			return err
		}
		if err := checkText(at+".of", l.Of, MaxName); err != nil {
			return err
		}
		if err := checkLinks(l.Links, at); err != nil {
			return err
		}
		if !isColour(l.Fill) || !isColour(l.Head) {
			return fault(at+".fill", "%q or %q is no colour of the palette and no #rrggbb", l.Fill, l.Head)
		}
	}
	if len(p.Stages) > MaxLanes {
		return fault(path+".stages", "a pool has at most %d stages, not %d", MaxLanes, len(p.Stages))
	}
	for i, st := range p.Stages {
		at := fmt.Sprintf("%s.stages[%d]", path, i)
		if st.L < MinStage || st.L > MaxPlace {
			return fault(at+".l", "a stage is at least %d px long, not %d", MinStage/geometry.Px, st.L/geometry.Px)
		}
		if err := checkText(at+".name", st.Name, MaxName); err != nil {
			return err
		}
		if !isColour(st.Fill) {
			return fault(at+".fill", "%q is no colour of the palette and no #rrggbb", st.Fill)
		}
	}
	return p.validateJourney(path)
}

func placed(n int) bool { return n >= -MaxPlace && n <= MaxPlace }

func checkText(path, text string, limit int) error {
	if n := utf8.RuneCountInString(text); n > limit {
		return fault(path, "the text has %d characters; at most %d fit", n, limit)
	}
	if !utf8.ValidString(text) {
		return fault(path, "the text is not valid UTF-8")
	}
	for _, r := range text {
		// XML cannot carry these, so neither could the exported picture.
		if r < ' ' && r != '\n' && r != '\t' || r == 0xFFFE || r == 0xFFFF {
			return fault(path, "the text holds the control character U+%04X", r)
		}
	}
	return nil
}
