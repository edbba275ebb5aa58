package model

import (
	"plaintracer/core/geometry"
)

// Kind names a standard symbol. The catalogue in package symbols says what
// each looks like and means.
type Kind string

// The kinds a map may hold.
const (
	Terminator     Kind = "terminator"
	RoundEnd       Kind = "round-terminator"
	Process        Kind = "process"
	Decision       Kind = "decision"
	Data           Kind = "data"
	Document       Kind = "document"
	StoredData     Kind = "stored-data"
	Predefined     Kind = "predefined-process"
	Reference      Kind = "reference"
	SheetReference Kind = "sheet-reference"

	RoundedProcess    Kind = "rounded-process"
	ManualOperation   Kind = "manual-operation"
	ManualInput       Kind = "manual-input"
	Preparation       Kind = "preparation"
	ParallelMode      Kind = "parallel-mode"
	LoopStart         Kind = "loop-start"
	LoopEnd           Kind = "loop-end"
	InternalStorage   Kind = "internal-storage"
	SequentialStorage Kind = "sequential-storage"
	DirectStorage     Kind = "direct-storage"
	Card              Kind = "card"
	PunchedTape       Kind = "punched-tape"
	Display           Kind = "display"
	Annotation        Kind = "annotation"
	Ellipsis          Kind = "ellipsis"

	Documents       Kind = "documents"
	Database        Kind = "database"
	Delay           Kind = "delay"
	Merge           Kind = "merge"
	Extract         Kind = "extract"
	Sort            Kind = "sort"
	Collate         Kind = "collate"
	SummingJunction Kind = "summing-junction"
	Or              Kind = "or"

	Operation  Kind = "operation"
	Inspection Kind = "inspection"
	Transport  Kind = "transport"
	Waiting    Kind = "waiting"
	Storage    Kind = "storage"

	Entity    Kind = "entity"
	Note      Kind = "note"
	CallOut   Kind = "call-out"
	PlainText Kind = "text"
	Frame     Kind = "frame"
	WideArrow Kind = "wide-arrow"
	StageMark Kind = "stage-chevron"
	Person    Kind = "person"
	Picture   Kind = "picture"
	Legend    Kind = "legend"
	Contents  Kind = "contents"

	PersonCard Kind = "person-card"
	PostCard   Kind = "post-card"
	TeamCard   Kind = "team-card"

	MomentCell  Kind = "moment"
	ContactCell Kind = "contact-point"
	WordsCell   Kind = "thoughts"
	MoodCell    Kind = "mood"
)

// traits are what the rules need to know of a kind.
type traits uint32

const (
	// step: something happens in it; it carries a number and is done by somebody.
	step traits = 1 << iota
	// asks: its exits carry answers.
	asks
	// end: a flow begins or ends in it.
	end
	// reference: it is one half of a pair, at which the flow breaks off and goes on; across: on
	// another sheet.
	reference
	across
	// aside: it says something about the drawing and carries no flow.
	aside
	// informs: it is a document or data.
	informs
	// remarks: it explains what stands by it to a reader.
	remarks
	// ownSize: symbols of the kind do not keep one size together.
	ownSize
	// holds: it surrounds others, which move with it.
	holds
	// anywhere: it belongs to no lane and to no row or column.
	anywhere
	// explains: it lists the kinds on its sheet, from which its height follows.
	explains
	// shows: it shows a picture, which is what it says.
	shows
	// plain: a legend needs no row for it.
	plain
	// lists: what it explains are the sheets of the map.
	lists
	// seat: it is made to stand in a hierarchy.
	seat
	// cell: it is made to stand in a journey.
	cell
	// stores: it keeps data, which the work reads and updates.
	stores
)

// kinds are all kinds in the order of the tray, each with what the rules need to know of it.
var kinds = []struct {
	Kind
	traits
}{
	{Process, step},
	{Decision, step | asks},
	{Terminator, end},
	{RoundEnd, end},
	{Data, informs},
	{Document, informs},
	{StoredData, informs | stores},
	{Predefined, step},
	{Reference, reference | ownSize},
	{SheetReference, reference | ownSize | across},
	{RoundedProcess, step},
	{ManualOperation, step},
	{ManualInput, informs},
	{Preparation, step},
	{ParallelMode, 0},
	{LoopStart, 0},
	{LoopEnd, 0},
	{Delay, step},
	{Documents, informs},
	{Database, informs | stores},
	{InternalStorage, informs | stores},
	{SequentialStorage, informs | stores},
	{DirectStorage, informs | stores},
	{Card, informs},
	{PunchedTape, informs},
	{Display, informs},
	{Merge, 0},
	{Extract, 0},
	{Sort, 0},
	{Collate, 0},
	{SummingJunction, 0},
	{Or, 0},
	{Operation, step},
	{Inspection, step},
	{Transport, step},
	{Waiting, step},
	{Storage, step},
	{Annotation, aside | remarks | ownSize},
	{Note, aside | remarks | ownSize},
	{CallOut, aside | remarks | ownSize},
	{PlainText, aside | ownSize | plain},
	{Ellipsis, aside | ownSize},
	{Frame, aside | ownSize | holds | anywhere | plain},
	{WideArrow, 0},
	{StageMark, 0},
	{Entity, ownSize},
	{Person, ownSize},
	{PersonCard, plain | seat},
	{PostCard, plain | seat},
	{TeamCard, plain | seat},
	{MomentCell, plain | ownSize | cell},
	{ContactCell, plain | ownSize | cell},
	{WordsCell, plain | ownSize | cell},
	{MoodCell, plain | ownSize | cell},
	{Picture, aside | ownSize | shows | plain},
	{Legend, aside | ownSize | explains | anywhere | plain},
	{Contents, aside | ownSize | explains | lists | anywhere | plain},
}

// Kinds lists every kind in the order of the tray.
var Kinds, traitsOf = func() (list []Kind, of map[Kind]traits) {
	of = map[Kind]traits{}
	for _, k := range kinds {
		list = append(list, k.Kind)
		of[k.Kind] = k.traits
	}
	return list, of
}()

func (k Kind) has(t traits) bool { return traitsOf[k]&t != 0 }

// Known reports whether k is a kind of the catalogue.
func (k Kind) Known() bool { _, known := traitsOf[k]; return known }

// IsStep reports whether k is a step of the work: something that happens in it, which therefore
// carries a number.
func (k Kind) IsStep() bool { return k.has(step) }

// Asks reports whether the exits of k carry answers.
func (k Kind) Asks() bool { return k.has(asks) }

// IsEnd reports whether k begins or ends a flow.
func (k Kind) IsEnd() bool { return k.has(end) }

// IsReference reports whether k is one half of a pair.
func (k Kind) IsReference() bool { return k.has(reference) }

// LeadsAcross reports whether the partner of a reference stands on another sheet.
func (k Kind) LeadsAcross() bool { return k.has(across) }

// IsAside reports whether k says something about the drawing rather than being part of the work;
// its connectors carry no flow.
func (k Kind) IsAside() bool { return k.has(aside) }

// IsInformation reports whether k is a document or data, rather than work.
func (k Kind) IsInformation() bool { return k.has(informs) }

// IsStore reports whether k keeps data, rather than being a document.
func (k Kind) IsStore() bool { return k.has(stores) }

// Waits reports whether a step of kind k is that time passes.
func (k Kind) Waits() bool { return k == Delay || k == Waiting }

// IsNote reports whether k explains what stands by it: a note, an annotation or a call-out.
func (k Kind) IsNote() bool { return k.has(remarks) }

// KeepsSize reports whether symbols of kind k keep one size and grow together.
func (k Kind) KeepsSize() bool { return !k.has(ownSize) }

// Holds reports whether k surrounds other symbols, which move with it.
func (k Kind) Holds() bool { return k.has(holds) }

// StandsAnywhere reports whether k belongs to no lane and to no row or column.
func (k Kind) StandsAnywhere() bool { return k.has(anywhere) }

// Lists reports whether k lists the sheets of the map.
func (k Kind) Lists() bool { return k.has(lists) }

// Explains reports whether k lists the kinds on its sheet, or the sheets.
func (k Kind) Explains() bool { return k.has(explains) }

// IsSeat reports whether k is made to stand in a hierarchy, as other kinds can, too.
func (k Kind) IsSeat() bool { return k.has(seat) }

// ShowsPicture reports whether what k says is a picture.
func (k Kind) ShowsPicture() bool { return k.has(shows) }

// IsMoment reports whether k is made to stand in a journey.
func (k Kind) IsMoment() bool { return k.has(cell) }

// Sizes of a legend and of a table of contents, whose heights follow from what is on the sheet, and from the sheets.
const (
	LegendHead  = 26 * geometry.Px
	LegendRow   = 34 * geometry.Px
	ContentsRow = 22 * geometry.Px
)

// ExplainedHeight is the height that a symbol of a kind which explains needs on a sheet.
func (m *Map) ExplainedHeight(s *Sheet, k Kind) int {
	if k.Lists() {
		return LegendHead + max(len(m.Sheets), 1)*ContentsRow + 4*geometry.Px
	}
	return LegendHead + max(len(s.LegendKinds())+len(m.ColourKey()), 1)*LegendRow
}

// LegendKinds returns the kinds a legend of the sheet explains, in the order
// of the catalogue.
func (s *Sheet) LegendKinds() []Kind {
	used := map[Kind]bool{}
	for _, sym := range s.Symbols {
		used[sym.Kind] = true
	}
	var out []Kind
	for _, k := range Kinds {
		if used[k] && !k.has(plain) {
			out = append(out, k)
		}
	}
	return out
}

// Fitting says what gives way when a text does not fit its symbol.
type Fitting string

// The ways of fitting: all symbols of the kind grow together, this symbol
// grows alone, or the text is set smaller.
const (
	FitTogether Fitting = ""
	FitAlone    Fitting = "alone"
	FitSmaller  Fitting = "smaller"
)

// Crossing is how a connector passes over another one.
type Crossing string

// The forms of a crossing. The empty one is the standard: an arc on a sheet,
// the sheet's own on a connector.
const (
	CrossPlain  Crossing = "plain"
	CrossGap    Crossing = "gap"
	CrossArc    Crossing = "arc"
	CrossSquare Crossing = "square"
)

// Merging says whether a connector runs into one line with others that lead into the same
// side of the same symbol.
type Merging string

// The choices of one connector; the empty one follows the sheet.
const (
	MergeAlways Merging = "merge"
	MergeNever  Merging = "apart"
)

// Merges reports whether the connector merges with others on the sheet.
func (s *Sheet) Merges(c *Connector) bool {
	return c.Merge == MergeAlways || c.Merge == "" && s.Merging
}

// Edge says what happens where the drawing reaches the edge of the paper.
type Edge string

// The ways at the edge: the next step goes on in a new row on the page, or the sheet
// takes a larger paper.
const (
	EdgeStay Edge = ""
	EdgeGrow Edge = "grow"
)

// Run is the kind of course a connector takes.
type Run string

// The kinds of course; the empty one is right-angled.
const (
	Angled   Run = ""
	Straight Run = "straight"
	Curved   Run = "curved"
)

// Line is the pattern of a line. Transfer and Link are the lines ISO 5807
// gives a meaning of their own: control transfer and communication link.
type Line string

// The patterns; the empty one is solid.
const (
	Solid    Line = ""
	DashLine Line = "dashed"
	DotLine  Line = "dotted"
	DashDot  Line = "dash-dot"
	Transfer Line = "transfer"
	Link     Line = "link"
)

// Mark is what stands at the end of a line.
type Mark string

// The marks. The empty one is the standard: nothing where a connector comes
// from, an arrow where it leads to.
const (
	MarkNone        Mark = "none"
	MarkArrow       Mark = "arrow"
	MarkOpenArrow   Mark = "open-arrow"
	MarkCircle      Mark = "circle"
	MarkFullCircle  Mark = "filled-circle"
	MarkDiamond     Mark = "diamond"
	MarkFullDiamond Mark = "filled-diamond"
	MarkBar         Mark = "bar"
	MarkOne         Mark = "one"
	MarkMany        Mark = "many"
	MarkZeroOne     Mark = "zero-or-one"
	MarkOneMany     Mark = "one-or-many"
	MarkZeroMany    Mark = "zero-or-many"
)

// Marks returns what stands at the beginning and at the end of a line, with the
// standard where nothing was chosen.
func (k *Stroke) Marks() (from, to Mark) {
	from, to = MarkNone, MarkArrow
	if k.FromMark != "" {
		from = k.FromMark
	}
	if k.ToMark != "" {
		to = k.ToMark
	}
	return from, to
}

// Marks lists the marks one can choose.
var Marks = []Mark{MarkNone, MarkArrow, MarkOpenArrow, MarkCircle, MarkFullCircle, MarkDiamond, MarkFullDiamond,
	MarkBar,
	MarkOne, MarkMany, MarkZeroOne, MarkOneMany, MarkZeroMany}

// MarkSize is one of three sizes; the empty one is the middle.
type MarkSize string

// The sizes of marks.
const (
	MarkSmall MarkSize = "small"
	MarkLarge MarkSize = "large"
)

// Units are those in which lengths are shown and typed; what is stored is
// always the same.
type Units string

// The units; the empty one is the CSS pixel, 1/96 inch.
const (
	Pixels      Units = ""
	Millimetres Units = "mm"
	Inches      Units = "in"
)

// Fills names the colours of the palette, each of which has a light tone for
// fills and a dark one for lines and text. The empty one is the paper.
var Fills = []string{"", "moss", "lake", "straw", "clay", "fog"}

// ColourName says what a colour of the palette is for a person, with what it looks like in it.
func ColourName(fill string) string {
	if name, ok := map[string]string{"": "default", "moss": "moss green", "lake": "lake blue", "straw": "straw yellow",
		"clay": "clay red", "fog": "fog grey"}[fill]; ok {
		return name
	}
	return fill
}

// ColourNames are those of the palette, in its order.
func ColourNames() []string {
	out := make([]string, len(Fills))
	for i, fill := range Fills {
		out[i] = ColourName(fill)
	}
	return out
}

// Paper is a sheet size by its sides, upright.
type Paper struct {
	Name string
	// W and H are in hundredths of a CSS pixel, rounded to the nearest.
	W, H int
}

// Papers lists the sheet sizes: those of ISO 216, Letter with 8.5 x 11 in, Legal
// with 8.5 x 14 in and Tabloid with 11 x 17 in; the slide is 7.5 x 13 1/3 in, which
// shows as 1280 x 720 px across.
var Papers = []Paper{
	{"A4", millimetres(210), millimetres(297)},
	{"A3", millimetres(297), millimetres(420)},
	{"A2", millimetres(420), millimetres(594)},
	{"A5", millimetres(148), millimetres(210)},
	{"Letter", 816 * geometry.Px, 1056 * geometry.Px},
	{"Legal", 816 * geometry.Px, 1344 * geometry.Px},
	{"Tabloid", 1056 * geometry.Px, 1632 * geometry.Px},
	{"Slide", 720 * geometry.Px, 1280 * geometry.Px},
}

// millimetres converts to hundredths of a CSS pixel: 25.4 mm hold 96 px.
func millimetres(mm int) int { return (mm*96000 + 127) / 254 }

// PaperSize returns the width and height of a paper, turned on its long side
// when across is set. An unknown name gives no size.
func PaperSize(name string, across bool) (w, h int) {
	for _, p := range Papers {
		if p.Name == name {
			if across {
				return p.H, p.W
			}
			return p.W, p.H
		}
	}
	return 0, 0
}
