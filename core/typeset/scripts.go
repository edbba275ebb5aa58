package typeset

import "unicode"

// How wide letters are that no font of ours has: the browser, or whoever opens the file, takes them from another one,
// so that these are estimates, in thousandths of the type size.

// arabic are those from U+0621 to U+064A within a word, hebrew those from U+05D0 to U+05EA: the widest of what Chromium
// measures in DejaVu Sans, Noto Sans Arabic and Hebrew, and Noto Naskh Arabic; of Arabic with a seventh more, since the
// last letters of words reach farther, of Hebrew with a twentieth.
var arabic = [...]int{
	540, 320, 320, 555, 320, 394, 320, 394, 603, 429, 429, 766, 766, 766,
	557, 557, 588, 588, 1026, 1026, 1091, 1091, 943, 943, 599, 599, 620, 620,
	620, 620, 620, 400, 582, 582, 635, 381, 665, 394, 583, 555, 394, 429,
}

var hebrew = [...]int{
	701, 607, 433, 573, 686, 316, 363, 695, 680, 310, 572, 555, 596, 718,
	713, 345, 420, 681, 657, 672, 656, 567, 623, 744, 592, 766, 719,
}

// Estimates of all others: a letter of a script that is written in squares, a letter of any other script, what is no
// letter, and a pictograph.
const (
	squareLetter = 1100
	otherLetter  = 800
	otherSign    = 1100
	pictograph   = 1500
)

// estimate returns how wide a character is that no font has, in thousandths of the type size.
func estimate(r rune) int {
	switch {
	case unicode.In(r, unicode.Mn, unicode.Me, unicode.Cf):
		return 0
	case r >= 0x0621 && r < 0x0621+rune(len(arabic)):
		return arabic[r-0x0621]
	case r >= 0x05D0 && r < 0x05D0+rune(len(hebrew)):
		return hebrew[r-0x05D0]
	case r >= 0x1F000:
		return pictograph
	case unicode.In(r, unicode.Han, unicode.Hangul, unicode.Hiragana, unicode.Katakana, unicode.Bopomofo, unicode.Yi):
		return squareLetter
	case unicode.IsLetter(r):
		return otherLetter
	}
	return otherSign
}
