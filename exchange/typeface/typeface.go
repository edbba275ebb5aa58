// Package typeface ships the one typeface of the application: IBM Plex Sans,
// under the SIL Open Font License.
package typeface

import (
	_ "embed"
	"fmt"
	"slices"
	"sync"

	"github.com/tdewolff/font"
)

// Family is the name under which pages and pictures use the typeface.
const Family = "Tracer Sans"

// Regular and SemiBold are the two weights as WOFF2 files.
var (
	//go:embed IBMPlexSans-Regular.woff2
	Regular []byte
	//go:embed IBMPlexSans-SemiBold.woff2
	SemiBold []byte
)

// Face returns a weight as a parsed font, which must not be changed.
func Face(bold bool) (*font.SFNT, error) { return faces[bold]() }

var faces = map[bool]func() (*font.SFNT, error){
	false: sync.OnceValues(func() (*font.SFNT, error) { return parse(Regular) }),
	true:  sync.OnceValues(func() (*font.SFNT, error) { return parse(SemiBold) }),
}

func parse(woff2 []byte) (*font.SFNT, error) {
	sfnt, err := font.ToSFNT(woff2)
	if err != nil {
		return nil, fmt.Errorf("the shipped typeface: %w", err)
	}
	return font.ParseSFNT(sfnt, 0)
}

// Subset returns a font file with just the characters of text.
func Subset(bold bool, text string) ([]byte, error) {
	f, err := Face(bold)
	if err != nil {
		return nil, err
	}
	glyphs := []uint16{0}
	for _, r := range text {
		if g := f.GlyphIndex(r); g != 0 {
			glyphs = append(glyphs, g)
		}
	}
	slices.Sort(glyphs)
	small, err := f.Subset(slices.Compact(glyphs), font.SubsetOptions{Tables: font.KeepMinTables})
	if err != nil {
		return nil, fmt.Errorf("reducing the typeface: %w", err)
	}
	return small.Write(), nil
}
