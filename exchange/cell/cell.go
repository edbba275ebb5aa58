// Package cell writes texts into the cells of tables of text (CSV, RFC 4180) so that no spreadsheet takes them for more
// than that, and reads them back.
package cell

import (
	"regexp"
	"strings"
	"unicode/utf8"
)

// signs begin what spreadsheets take for a formula, after spaces or not; the wide ones are taken for the others by some
// (common practice, no source).
const signs = "=+-@\t\r\n＝＋－＠"

// number is what is a number to every spreadsheet, and so no formula.
var number = regexp.MustCompile(`^[-+]?[0-9]+([.,][0-9]+)?([eE][-+]?[0-9]+)?$`)

// Harmless returns a text that a spreadsheet shows as it is: one that it would take for a formula stands behind an
// apostrophe. Numbers stay numbers.
func Harmless(text string) string {
	if begins(text) && !number.MatchString(text) {
		return "'" + text
	}
	return text
}

// Plain is the text that Harmless was given.
func Plain(cell string) string {
	if rest, ok := strings.CutPrefix(cell, "'"); ok && begins(rest) && !number.MatchString(rest) {
		return rest
	}
	return cell
}

// Row returns a row of harmless texts.
func Row(texts ...string) []string {
	out := make([]string, len(texts))
	for i := range texts {
		out[i] = Harmless(texts[i])
	}
	return out
}

func begins(text string) bool {
	r, n := utf8.DecodeRuneInString(strings.TrimLeft(text, " "))
	return n > 0 && strings.ContainsRune(signs, r)
}
