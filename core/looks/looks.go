// Package looks holds the looks a map can be drawn in: its colours, the weight
// of its lines and the size of its type.
package looks

import (
	"fmt"
	"slices"
	"strconv"
	"strings"

	"plaintracer/core/geometry"
	"plaintracer/core/model"
)

const px = geometry.Px

// Look is a set of colours, lines and type. Colours are #rrggbb.
type Look struct {
	// Name is what a map stores; Title and About are for people.
	Name, Title, About string
	// Ink is for text and outlines, Soft for what is secondary, Paper for
	// symbols without a fill.
	Ink, Soft, Paper string
	// Head, Lane and Rule are for pools: the strips with names, the lanes and
	// the lines between them.
	Head, Lane, Rule string
	// Weight is the width of outlines and connectors, Heavy that of emphasis.
	Weight, Heavy int
	// Size is that of text for which none was chosen.
	Size int
	// Grey shows colours that are not of the palette as greys.
	Grey bool
	// Tones are the light and the dark tone of each colour of the palette.
	Tones map[string]Tone
}

// Tone is a colour of the palette: light for fills, dark for lines and text.
type Tone struct{ Light, Dark string }

// Standard is the look of a map that names none.
var Standard = &Look{
	Name: "field-book", Title: "Field book", About: "White symbols, dark ink, warm heads.",
	Ink: "#22303c", Soft: "#5b6773", Paper: "#ffffff", Head: "#f3efe5", Lane: "#ffffff", Rule: "#8d877a",
	Weight: px * 3 / 2, Heavy: 3 * px, Size: 13 * px,
	Tones: map[string]Tone{
		"moss": {"#dcebd7", "#3b6b32"}, "lake": {"#d6e6f0", "#1f5f86"}, "straw": {"#f6ecc9", "#7a5b0c"},
		"clay": {"#f3d9cd", "#9a3f22"}, "fog": {"#e6e7e6", "#5a6062"},
	},
}

// All lists the looks, the standard one first.
var All = []*Look{
	Standard,
	{
		Name: "slate", Title: "Slate", About: "Cool and quiet: thin lines, blue-grey heads.",
		Ink: "#1c2a33", Soft: "#566570", Paper: "#ffffff", Head: "#e4eaee", Lane: "#fbfcfd", Rule: "#a3b0b9",
		Weight: px, Heavy: 5 * px / 2, Size: 13 * px,
		Tones: map[string]Tone{
			"moss": {"#d9e9df", "#2c6a4b"}, "lake": {"#d3e3f1", "#205c8c"}, "straw": {"#f0ead0", "#6c5a14"},
			"clay": {"#efd9d5", "#8f3d33"}, "fog": {"#e1e5e8", "#51606b"},
		},
	},
	{
		Name: "wall", Title: "Wall", About: "For the projector: larger type, heavy lines, strong colours.",
		Ink: "#101820", Soft: "#3f4b55", Paper: "#ffffff", Head: "#e9e1cf", Lane: "#ffffff", Rule: "#5f5a4f",
		Weight: 2 * px, Heavy: 4 * px, Size: 15 * px,
		Tones: map[string]Tone{
			"moss": {"#c3e3b8", "#28561f"}, "lake": {"#b9daf0", "#134c70"}, "straw": {"#f7e39a", "#604603"},
			"clay": {"#f4c4ae", "#7f2d12"}, "fog": {"#d7d9d8", "#41474a"},
		},
	},
	{
		Name: "print", Title: "Black and white", About: "For the printer: black lines, fills as greys that stay apart.",
		Ink: "#000000", Soft: "#4a4a4a", Paper: "#ffffff", Head: "#ffffff", Lane: "#ffffff", Rule: "#000000",
		Weight: px * 3 / 2, Heavy: 3 * px, Size: 13 * px, Grey: true,
		Tones: map[string]Tone{
			"moss": {"#f0f0f0", "#000000"}, "lake": {"#e0e0e0", "#262626"}, "straw": {"#d0d0d0", "#3a3a3a"},
			"clay": {"#bfbfbf", "#4d4d4d"}, "fog": {"#adadad", "#606060"},
		},
	},
	{
		Name: "safe", Title: "Safe colours",
		About: "Told apart by readers who see no difference between red and green.",
		Ink:   "#1a1a1a", Soft: "#555555", Paper: "#ffffff", Head: "#f0f0f0", Lane: "#ffffff", Rule: "#8a8a8a",
		Weight: px * 3 / 2, Heavy: 3 * px, Size: 13 * px,
		// Tints and shades of the palette of Okabe and Ito, Color Universal
		// Design, 2008 (from memory): sky blue, yellow, vermilion, bluish green.
		Tones: map[string]Tone{
			"moss": {"#7fc9b1", "#005f45"}, "lake": {"#b5dcf5", "#00558a"}, "straw": {"#f9f1a1", "#655c00"},
			"clay": {"#f0a578", "#8f3f00"}, "fog": {"#d9d9d9", "#4d4d4d"},
		},
	},
}

// Named returns the look with that name, the standard one where there is none.
func Named(name string) *Look {
	for _, l := range All {
		if l.Name == name {
			return l
		}
	}
	return Standard
}

// Known reports whether there is a look with that name; the empty one is the
// standard.
func Known(name string) bool { return name == "" || Named(name).Name == name }

// Of returns the look of a map.
func Of(m *model.Map) *Look { return Named(m.Look) }

// For returns the look of a symbol: its own, or that of the map.
func For(m *model.Map, sym *model.Symbol) *Look {
	if sym.Look != "" {
		return Named(sym.Look)
	}
	return Of(m)
}

// ParseColour reads a colour as a person writes it: a name of the palette, nothing, or three or six hexadecimal digits
// with or without a # before them, which become #rrggbb.
func ParseColour(text string) (string, bool) {
	text = strings.ToLower(strings.TrimSpace(text))
	if slices.Contains(model.Fills, text) {
		return text, true
	}
	digits := strings.TrimPrefix(text, "#")
	if strings.Trim(digits, "0123456789abcdef") != "" {
		return "", false
	}
	switch len(digits) {
	case 3:
		return fmt.Sprintf("#%c%c%c%c%c%c", digits[0], digits[0], digits[1], digits[1], digits[2], digits[2]), true
	case 6:
		return "#" + digits, true
	}
	return "", false
}

// Fill returns the colour of a fill: of the palette by its name, or #rrggbb.
func (l *Look) Fill(colour string) string {
	if colour == "" {
		return l.Paper
	}
	return l.tone(colour, func(t Tone) string { return t.Light })
}

// Line returns the colour of a line or text, or what stands for none.
func (l *Look) Line(colour, none string) string {
	if colour == "" {
		return none
	}
	return l.tone(colour, func(t Tone) string { return t.Dark })
}

func (l *Look) tone(colour string, of func(Tone) string) string {
	if t, ok := l.Tones[colour]; ok {
		return of(t)
	}
	if l.Grey {
		return grey(colour)
	}
	return strings.ToLower(colour)
}

// grey returns the grey of the same luma (ITU-R BT.601).
func grey(colour string) string {
	n, err := strconv.ParseUint(strings.TrimPrefix(colour, "#"), 16, 32)
	if err != nil || len(colour) != 7 {
		return colour
	}
	v := (299*(n>>16) + 587*(n>>8&255) + 114*(n&255) + 500) / 1000
	const hex = "0123456789abcdef"
	two := string([]byte{hex[v>>4], hex[v&15]})
	return "#" + two + two + two
}

// Type returns how a text is set in this look, where nothing else was chosen.
func (l *Look) Type(t model.Type) model.Type {
	if t.Size == 0 && l.Size != Standard.Size {
		t.Size = l.Size
	}
	return t
}
