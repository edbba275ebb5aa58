package diagram

import "plaintracer/core/geometry"

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
)

// Kinds lists every kind in the order of the tray.
var Kinds = []Kind{Process, Decision, Terminator, RoundEnd, Data, Document, StoredData, Predefined, Reference, SheetReference}

// Known reports whether k is a kind of the catalogue.
func (k Kind) Known() bool {
	for _, other := range Kinds {
		if k == other {
			return true
		}
	}
	return false
}

// IsReference reports whether k is one half of a pair.
func (k Kind) IsReference() bool { return k == Reference || k == SheetReference }

// IsEnd reports whether k begins or ends a flow.
func (k Kind) IsEnd() bool { return k == Terminator || k == RoundEnd }

// IsStep reports whether k is a step of the work: something somebody does,
// which therefore carries a number.
func (k Kind) IsStep() bool { return k == Process || k == Decision || k == Predefined }

// Fills names the colours of the palette.
var Fills = []string{"", "moss", "lake", "straw", "clay", "fog"}

// Paper is a sheet size by its sides, upright.
type Paper struct {
	Name string
	// W and H are in hundredths of a CSS pixel, rounded to the nearest.
	W, H int
}

// Papers lists the sheet sizes. A3 and A4 are ISO 216, Letter is 8.5 x 11 in;
// the slide is 7.5 x 13 1/3 in, which shows as 1280 x 720 px across.
var Papers = []Paper{
	{"A4", millimetres(210), millimetres(297)},
	{"A3", millimetres(297), millimetres(420)},
	{"Letter", 816 * geometry.Px, 1056 * geometry.Px},
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
