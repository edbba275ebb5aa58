// Package symbols is the catalogue of the standard flowchart symbols: what
// each is called, means and looks like, where its text goes and where
// connectors may be glued.
package symbols

import (
	"strings"

	"plaintracer/core/diagram"
	"plaintracer/core/geometry"
)

// Symbol describes one kind. The functions take the width and height of the
// placed symbol and answer in coordinates from its top left corner.
type Symbol struct {
	Kind diagram.Kind
	// Name is the trade name, Others what people also search by.
	Name   string
	Others []string
	// Meaning is one line on what the symbol stands for, When on its use.
	Meaning, When string
	// Key appends the kind as the next step; zero for none.
	Key byte
	// W and H are the standard size; Step is by how much each grows at a time
	// when the text needs room.
	W, H int
	Step geometry.Point
	// Outline is the closed outline, Inner the lines drawn inside it.
	Outline func(w, h int) geometry.Path
	Inner   func(w, h int) geometry.Path
	// Text is the area the text may fill.
	Text func(w, h int) TextArea
	// Glue returns where a connector meets the outline on a side.
	Glue func(w, h int, side geometry.Side) geometry.Point
}

// TextArea is the room for text inside an outline. Lines are centred on CX.
type TextArea struct {
	CX, Top, Bottom int
	// Half returns how far text between the heights y0 and y1 may reach to
	// either side of CX; zero or less where there is no room.
	Half func(y0, y1 int) int
}

const px = geometry.Px

// margin is the space text keeps from an outline.
const margin = 6 * px

// catalogue is in the order of diagram.Kinds. The proportions of process,
// decision, data, terminator and reference follow ANSI X3.5-1970 / ISO 1028.
var catalogue = []*Symbol{
	{
		Kind: diagram.Process, Name: "Process", Others: []string{"step", "activity", "task", "action", "do"},
		Meaning: "Work that somebody does.", When: "For every plain step: a verb and an object, such as Log the report.",
		Key: '1', W: 120 * px, H: 80 * px, Step: geometry.Point{X: 0, Y: 10 * px},
		Outline: rectangle, Text: upright(margin, 0), Glue: middle,
	},
	{
		Kind: diagram.Decision, Name: "Decision", Others: []string{"choice", "question", "branch", "if", "yes no", "gateway"},
		Meaning: "A question whose answer says which way the work goes on.", When: "Where the path splits; every exit carries its answer.",
		Key: '2', W: 120 * px, H: 80 * px, Step: geometry.Point{X: 15 * px, Y: 10 * px},
		Outline: diamond, Text: diamondText, Glue: middle,
	},
	{
		Kind: diagram.Terminator, Name: "Terminator", Others: []string{"start", "end", "begin", "stop", "finish"},
		Meaning: "Where the work begins or ends.", When: "First and last on every path; the first names what starts the work.",
		Key: '3', W: 120 * px, H: 45 * px, Step: geometry.Point{X: 16 * px, Y: 6 * px},
		Outline: stadium, Text: stadiumText, Glue: middle,
	},
	{
		Kind: diagram.RoundEnd, Name: "Round terminator", Others: []string{"start", "end", "circle", "event", "begin", "stop"},
		Meaning: "Where the work begins or ends, drawn as a circle.", When: "For a small start or end with at most a word.",
		Key: '4', W: 60 * px, H: 60 * px, Step: geometry.Point{X: 10 * px, Y: 10 * px},
		Outline: circle, Text: circleText, Glue: middle,
	},
	{
		Kind: diagram.Data, Name: "Data", Others: []string{"input", "output", "information", "io", "message"},
		Meaning: "Information that comes in or goes out.", When: "For what is handed over, whatever carries it.",
		Key: '5', W: 120 * px, H: 80 * px, Step: geometry.Point{X: 15 * px, Y: 10 * px},
		Outline: slanted, Text: slantedText, Glue: slantedGlue,
	},
	{
		Kind: diagram.Document, Name: "Document", Others: []string{"form", "report", "paper", "letter", "print"},
		Meaning: "Information people can read: a form, a report, a letter.", When: "Beside or after the step that produces it.",
		Key: '6', W: 120 * px, H: 80 * px, Step: geometry.Point{X: 0, Y: 10 * px},
		Outline: wavy, Text: wavyText, Glue: wavyGlue,
	},
	{
		Kind: diagram.StoredData, Name: "Stored data", Others: []string{"record", "file", "register", "archive", "system", "database"},
		Meaning: "Information kept so that it can be used again.", When: "For a record in a system or an archive that a step reads or writes.",
		Key: '7', W: 120 * px, H: 80 * px, Step: geometry.Point{X: 15 * px, Y: 10 * px},
		Outline: bowed, Text: bowedText, Glue: bowedGlue,
	},
	{
		Kind: diagram.Predefined, Name: "Predefined process", Others: []string{"subprocess", "procedure", "routine", "called process"},
		Meaning: "A process described elsewhere.", When: "For a step that has a map or procedure of its own, under its name.",
		Key: '8', W: 120 * px, H: 80 * px, Step: geometry.Point{X: 0, Y: 10 * px},
		Outline: rectangle, Inner: doubled, Text: upright(bar+margin, 0), Glue: middle,
	},
	{
		Kind: diagram.Reference, Name: "Reference", Others: []string{"connector", "jump", "link", "continue", "goto"},
		Meaning: "The flow goes on at the other reference with the same letter on this sheet.", When: "Instead of a long line; always in pairs.",
		Key: '9', W: 40 * px, H: 40 * px, Step: geometry.Point{X: 10 * px, Y: 10 * px},
		Outline: circle, Text: circleText, Glue: middle,
	},
	{
		Kind: diagram.SheetReference, Name: "Sheet reference", Others: []string{"off-page reference", "next page", "continue", "other sheet", "jump"},
		Meaning: "The flow goes on at the reference with the same letter on another sheet.", When: "Where a map is spread over sheets; always in pairs.",
		Key: '0', W: 44 * px, H: 44 * px, Step: geometry.Point{X: 10 * px, Y: 10 * px},
		Outline: homePlate, Text: homePlateText, Glue: middle,
	},
}

var byKind = func() map[diagram.Kind]*Symbol {
	m := make(map[diagram.Kind]*Symbol, len(catalogue))
	for _, s := range catalogue {
		m[s.Kind] = s
	}
	return m
}()

// All returns the catalogue in the order of the tray.
func All() []*Symbol { return catalogue }

// Of returns the entry of a kind. A kind the catalogue lacks is drawn as a
// process, so that nothing a file holds can go unseen.
func Of(k diagram.Kind) *Symbol {
	if s := byKind[k]; s != nil {
		return s
	}
	return catalogue[0]
}

// ByKey returns the kind that a tray key appends.
func ByKey(key byte) (diagram.Kind, bool) {
	for _, s := range catalogue {
		if s.Key != 0 && s.Key == key {
			return s.Kind, true
		}
	}
	return "", false
}

// Matches reports whether a search finds the symbol: by its name, another
// name, or its meaning.
func (s *Symbol) Matches(query string) bool {
	query = strings.ToLower(strings.TrimSpace(query))
	text := strings.ToLower(s.Name + " " + strings.Join(s.Others, " ") + " " + s.Meaning + " " + s.When)
	return strings.Contains(text, query)
}

// GluePoint returns where a connector meets the placed symbol on a side.
func GluePoint(sym *diagram.Symbol, side geometry.Side) geometry.Point {
	return Of(sym.Kind).Glue(sym.W, sym.H, side).Add(sym.Corner())
}
