// Package model is the document: a map with its sheets, symbols, connectors and lanes, what can be asked of them, and
// what a sound map is.
//
// A map is plain data. What can be computed from it (courses, wrapped lines,
// numbers, which lane a step stands in) is never stored. Lengths are in
// hundredths of a CSS pixel.
package model

import (
	"slices"

	"plaintracer/core/fonts"
	"plaintracer/core/geometry"
	"plaintracer/core/pictures"
)

// Map is one workflow, drawn on one or more sheets.
type Map struct {
	Head
	// Pictures are the pictures its symbols show, each kept once.
	Pictures []pictures.Picture `json:"pictures,omitempty"`
	// Fonts are the font files its texts are drawn with, each kept once.
	Fonts []fonts.Font `json:"fonts,omitempty"`
	// Files are those kept with the map, whose content is not in it.
	Files  []File   `json:"files,omitempty"`
	Sheets []*Sheet `json:"sheets"`
}

// Head is what belongs to the map as a whole.
type Head struct {
	Title string `json:"title"`
	// Direction is the way the flow normally runs.
	Direction Direction `json:"direction"`
	// Heading is what headed sheets say about the map.
	Heading Heading `json:"heading,omitzero"`
	// Answers are the words a decision's exits take, the first one leading on.
	Answers []string `json:"answers"`
	// Above says that the layout turns the other answers upwards, or to the left.
	Above bool `json:"above,omitempty"`
	// Numbers says whether step numbers are shown.
	Numbers bool `json:"numbers"`
	// Units are those in which lengths are shown.
	Units Units `json:"units,omitempty"`
	// Look names the look the map is drawn in; empty is the standard one.
	Look string `json:"look,omitempty"`
	// Colours are the organisation's own.
	Colours []HouseColour `json:"colours,omitempty"`
	// Faces are the ids of the fonts the map is written in, all of one
	// typeface; none are the shipped one.
	Faces []string `json:"faces,omitempty"`
	// Also are the ids of the fonts of further typefaces, in which single texts are set.
	Also []string `json:"also,omitempty"`
	// Styles are those saved under a name.
	Styles []Style `json:"styles,omitempty" earlier:"parts"`
	// Numbering is how the steps are numbered.
	Numbering Numbering `json:"numbering,omitzero"`
	// Held says since when the numbers are held, and by whom; the zero value that they are not.
	Held Held `json:"held,omitzero"`
	// Next are the numbers that steps take next while numbers are held, one for each row of numbers.
	Next []Row `json:"next,omitempty" undo:"quiet"`
	// Fields are the columns that the map adds to its steps, Currency the one in which their money counts.
	Fields   []Field `json:"fields,omitempty"`
	Currency string  `json:"currency,omitempty"`
	// Day is how many hours a working day has, Week how many days a week; with none a day has 24 hours, and nothing is
	// counted in weeks.
	Day  int `json:"day,omitempty"`
	Week int `json:"week,omitempty"`
	// Shown are the ids of the fields whose values stand under their symbols, ColourBy that of the choice that colours
	// them.
	Shown    []string `json:"shown,omitempty"`
	ColourBy string   `json:"colourBy,omitempty"`
	// Stops are the places to which a presenter goes, one after the other.
	Stops []Stop `json:"stops,omitempty"`
	// Cases are those that were traced and kept.
	Cases []Case `json:"cases,omitempty"`
}

// HouseColour is a colour of the organisation: #rrggbb under a name.
type HouseColour struct {
	Name  string `json:"name"`
	Value string `json:"value"`
}

// Direction is the way a flow runs over the sheet.
type Direction string

// The two directions of normal flow (ISO 5807).
const (
	Rightwards Direction = "right"
	Downwards  Direction = "down"
)

// Sheet is one page of a map. Symbols are in drawing order, the last on top.
type Sheet struct {
	SheetHead
	Pools      []*Pool      `json:"pools"`
	Symbols    []*Symbol    `json:"symbols"`
	Connectors []*Connector `json:"connectors"`
	// tree is how the cards of a hierarchy stand. It follows from the rest.
	tree *Tree
	// board is how the cells of journeys stand. It follows from the rest.
	board *Board
}

// SheetHead is what a sheet has beside its content.
type SheetHead struct {
	ID    string `json:"id"`
	Name  string `json:"name"`
	Paper string `json:"paper"`
	// Kind is what the sheet shows; empty is a flow of work.
	Kind SheetKind `json:"kind,omitempty"`
	// Chart is how a hierarchy is drawn, Levels are the names of its levels, from the head down. The list is never
	// changed in place.
	Chart  Chart    `json:"chart,omitzero"`
	Levels []string `json:"levels,omitempty"`
	// Across lays the paper on its long side.
	Across bool `json:"across"`
	// Fitting says what gives way when a text does not fit its symbol.
	Fitting Fitting `json:"fitting,omitempty"`
	// Crossings says how a connector passes over another one.
	Crossings Crossing `json:"crossings,omitempty"`
	// Merging lets connectors that lead into the same side of a symbol run into
	// one line before it.
	Merging bool `json:"merging,omitempty"`
	// Middle has Lay out set the whole drawing in the middle of the page, instead of at its upper left.
	Middle bool `json:"middle,omitempty"`
	// Edge says what happens where the drawing reaches the edge of the paper.
	Edge Edge `json:"edge,omitempty"`
	// Headed shows a frame with the heading of the map.
	Headed bool `json:"headed,omitempty"`
	// Colour marks the tab of the sheet, of the palette or #rrggbb; empty is none.
	Colour string `json:"colour,omitempty"`
	// Background lies behind everything and cannot be grabbed.
	Background Background `json:"ground,omitzero"`
}

// Background is what a sheet is drawn on: a colour of the palette or #rrggbb, and
// over it a picture that fills the page as far as its proportions allow.
type Background struct {
	Fill    string `json:"fill,omitempty"`
	Picture string `json:"picture,omitempty"`
}

// Symbol is one standard symbol with its text.
type Symbol struct {
	ID   string `json:"id"`
	Kind Kind   `json:"kind"`
	geometry.Box
	Text string `json:"text,omitempty"`
	// Accents are the stretches of its text that are set otherwise. The list is never changed in place.
	Accents []Accent `json:"accents,omitempty"`
	// Owner says who does it, a role, department or person, where it stands in
	// no lane.
	Owner string `json:"owner,omitempty"`
	// Pinned is a number chosen by hand, Uncounted leaves the step out of the count; Kept is its number while the
	// numbers of the map are held.
	Pinned    string `json:"pinned,omitempty"`
	Uncounted bool   `json:"uncounted,omitempty"`
	Kept      string `json:"kept,omitempty"`
	// Values are those of the map's own fields. The list is never changed in place.
	Values []Value `json:"values,omitempty"`
	Type
	// Detail is the id of the sheet on which the step is told as a flow of its own. Where the map has no such sheet
	// any more, the step has none.
	Detail string `json:"detail,omitempty"`
	// Links are where it leads beside the flow. The list is never changed in place.
	Links []Hyperlink `json:"links,omitempty"`
	// Fill names a colour of the palette or is #rrggbb; empty is the plain paper.
	Fill string `json:"fill,omitempty"`
	// Ink is the colour of the outline, of the palette or #rrggbb, and Weight
	// its width; empty and zero are the standard.
	Ink    string `json:"ink,omitempty"`
	Weight int    `json:"weight,omitempty"`
	// Dashed draws the outline broken.
	Dashed bool `json:"dashed,omitempty"`
	// Emphasis sets the unusual step apart by a heavier outline.
	Emphasis bool `json:"emphasis,omitempty"`
	// Trunk lets the exits share a first stretch.
	Trunk bool `json:"trunk,omitempty"`
	// Picture is the id of the picture a picture symbol shows.
	Picture string `json:"picture,omitempty"`
	// Tip is where a call-out points; the zero value is its usual tip.
	Tip Tip `json:"tip,omitzero"`
	// Style is the id of the saved style it wears. What the style says stands
	// in the symbol itself; it follows when the style changes.
	Style string `json:"style,omitempty"`
	// Look is the look the symbol keeps whatever look the map takes.
	Look string `json:"look,omitempty"`
	// Group is the path of the groups it belongs to, the outermost first,
	// with slashes between their ids.
	Group string `json:"group,omitempty"`
	// Locked keeps it as it is until it is unlocked.
	Locked bool `json:"locked,omitempty"`
	Seat
	Cell
}

// Tip is what a call-out points at: the symbol or connector it names, or a place
// beside the call-out.
type Tip struct {
	// On is the id of a symbol or connector on the same sheet. A tip whose symbol or
	// connector is no longer there is drawn as usual.
	On string `json:"on,omitempty"`
	// At is the place, from the centre of the symbol, or from the corner of the call-out
	// where On is empty.
	At geometry.Point `json:"at,omitzero"`
	// Along is the place on a connector, in ten-thousandths of its length.
	Along int `json:"along,omitempty"`
}

// Type is how a text is set. The zero value is the kind's own way.
type Type struct {
	Bold      bool `json:"bold,omitempty"`
	Italic    bool `json:"italic,omitempty"`
	Underline bool `json:"underline,omitempty"`
	// Face is the family of the typeface it is set in: one of the further typefaces of the map, or BuiltInFace. Empty
	// is that of the map, as is one that the map no longer has.
	Face string `json:"face,omitempty"`
	// Size is the type size; zero is the standard.
	Size int `json:"size,omitempty"`
	// Colour is of the palette or #rrggbb; empty follows from what is behind
	// the text.
	Colour string `json:"colour,omitempty"`
	// Align stands the lines left, centre or right, Stand all of them top,
	// middle or bottom; empty is the kind's own way.
	Align string `json:"align,omitempty"`
	Stand string `json:"stand,omitempty"`
	// Margin is room kept free all round, beside what the outline needs.
	Margin int `json:"margin,omitempty"`
	// Bullets makes every paragraph an item of a list.
	Bullets bool `json:"bullets,omitempty"`
}

// Connector leads from one symbol to another. Its course is computed; what was
// bent by hand is stored.
type Connector struct {
	ID   string `json:"id"`
	From End    `json:"from"`
	To   End    `json:"to"`
	// Text is the label in the middle, or by the decision it leaves; FromText
	// and ToText stand at the ends. A place that is not zero was chosen by hand.
	Text      string `json:"text,omitempty"`
	Place     Spot   `json:"place,omitzero"`
	FromText  string `json:"fromText,omitempty"`
	FromPlace Spot   `json:"fromPlace,omitzero"`
	ToText    string `json:"toText,omitempty"`
	ToPlace   Spot   `json:"toPlace,omitzero"`
	Type
	Stroke
	// Bends are the stretches that were laid by hand, in their order.
	Bends []Bend `json:"bends,omitempty"`
	// Links, Style and Locked are as for symbols.
	Links  []Hyperlink `json:"links,omitempty"`
	Style  string      `json:"style,omitempty"`
	Locked bool        `json:"locked,omitempty"`
}

// Stroke is how the line of a connector is drawn.
type Stroke struct {
	// Dashed marks the exceptional path: broken and lighter, unless Line or
	// Ink say otherwise.
	Dashed bool `json:"dashed,omitempty"`
	Line   Line `json:"line,omitempty"`
	// Weight is the width of the line; zero is the standard.
	Weight int `json:"weight,omitempty"`
	// Ink is the colour of the line, of the palette or #rrggbb; empty is the
	// standard.
	Ink    string `json:"ink,omitempty"`
	Course Run    `json:"course,omitempty"`
	// Radius rounds the corners of a right-angled course.
	Radius int `json:"radius,omitempty"`
	// Hop is how it passes over others; empty follows the sheet.
	Hop Crossing `json:"hop,omitempty"`
	// Merge says whether it merges with others that lead into the same side; empty
	// follows the sheet.
	Merge    Merging  `json:"merge,omitempty"`
	FromMark Mark     `json:"fromMark,omitempty"`
	ToMark   Mark     `json:"toMark,omitempty"`
	MarkSize MarkSize `json:"markSize,omitempty"`
}

// End says what one end of a connector is glued to. An end that names neither
// a symbol nor a connector is loose and lies at At.
type End struct {
	Symbol string `json:"symbol,omitempty"`
	// Side names the glue point; empty glues to the symbol as a whole, so that
	// the best side is chosen anew as things move.
	Side string `json:"side,omitempty"`
	// Connector is one whose line this end joins.
	Connector string         `json:"connector,omitempty"`
	At        geometry.Point `json:"at,omitzero"`
}

// Loose reports whether the end is glued to nothing.
func (e End) Loose() bool { return e.Symbol == "" && e.Connector == "" }

// WholeCourse is the length of any course, in the parts in which places on it are given.
const WholeCourse = 10000

// Spot is a place of a label chosen by hand: the middle of the label lies Off
// the point of the course at Along, in ten-thousandths of its length.
type Spot struct {
	Along int            `json:"along,omitempty"`
	Off   geometry.Point `json:"off,omitzero"`
}

// Bend is a stretch laid by hand: upright at x, or level at y.
type Bend struct {
	Upright bool `json:"upright,omitempty"`
	At      int  `json:"at"`
}

// Label is one of the three labels of a connector.
type Label struct {
	Text  *string
	Place *Spot
}

// Labels returns the labels in the middle, at the beginning and at the end.
func (c *Connector) Labels() [3]Label {
	return [3]Label{{&c.Text, &c.Place}, {&c.FromText, &c.FromPlace}, {&c.ToText, &c.ToPlace}}
}

// Gaps reports whether a symbol, connector or pool is missing in its list, as it can be in what
// was read from outside.
func (s *Sheet) Gaps() bool {
	return slices.Contains(s.Symbols, nil) || slices.Contains(s.Connectors, nil) || slices.Contains(s.Pools, nil)
}

// New returns a map with one empty sheet.
func New(title string, direction Direction, paper string, across bool) *Map {
	return &Map{
		Head: Head{Title: title, Direction: direction, Answers: []string{"Yes", "No"}, Numbers: true},
		Sheets: []*Sheet{{
			SheetHead: SheetHead{ID: "sheet-1", Name: "Sheet 1", Paper: paper, Across: across, Merging: true,
				Middle: true},
			Pools:      []*Pool{},
			Symbols:    []*Symbol{},
			Connectors: []*Connector{},
		}},
	}
}
