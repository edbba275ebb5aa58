package command

import (
	"cmp"
	"slices"
	"strings"
	"unicode"
	"unicode/utf8"
)

// alike are words that mean the same to whoever looks for a command: one of them finds what any of them would.
var alike = [][]string{
	{"colour", "color"}, {"centre", "center"}, {"grey", "gray"}, {"larger", "bigger"},
	{"picture", "image", "photo", "logo"}, {"remark", "comment"}, {"delete", "erase"}, {"connector", "arrow"},
	{"across", "landscape"}, {"upright", "portrait"}, {"stage", "phase", "milestone"},
	{"lane", "swimlane"}, {"number", "renumber"}, {"share", "publish"},
	{"symbol", "shape"}, {"account", "sign", "logout", "password"}, {"trace", "simulate"}, {"findings", "check",
		"errors", "validate"},
	{"typeface", "font"}, {"lay", "arrange", "tidy", "cleanup"}, {"straighten", "tidy"}, {"history", "versions"},
}

// mostFound is how many commands a search returns at the most.
const mostFound = 60

// Find returns the commands that have all words of a query in their names or among the words for them, those first that
// are called so and can be done now; of a query without words, the first there are.
func (e *Commands) Find(query string) []Entry {
	words := strings.Fields(strings.ToLower(query))
	means := make([][]string, len(words))
	for i, w := range words {
		means[i] = meaning(w)
	}
	type found struct {
		Entry
		rank int
	}
	var list []found
	for _, entry := range e.Directory() {
		title, all := strings.ToLower(entry.Title), strings.ToLower(entry.Title+" "+entry.Part+" "+entry.Words)
		f := found{Entry: entry}
		if entry.Needs != "" {
			f.rank += 2
		}
		if len(words) == 0 || !strings.HasPrefix(title, words[0]) {
			f.rank++
		}
		named, ok := true, true
		for i, w := range words {
			named = named && slices.ContainsFunc(means[i], func(w string) bool { return begins(title, w) })
			ok = ok && slices.ContainsFunc(means[i], func(w string) bool { return begins(all, w) })
			if !begins(title, w) {
				f.rank++
			}
		}
		if !ok {
			continue
		}
		if !named {
			f.rank += 4
		}
		list = append(list, f)
	}
	slices.SortStableFunc(list, func(a, b found) int { return cmp.Compare(a.rank, b.rank) })
	out := make([]Entry, 0, mostFound)
	for _, f := range list[:min(len(list), mostFound)] {
		out = append(out, f.Entry)
	}
	return out
}

// begins reports whether a word of a text begins as another one: “out” is no part of “without”.
func begins(text, word string) bool {
	for at := 0; ; {
		i := strings.Index(text[at:], word)
		if i < 0 {
			return false
		}
		if at += i; at == 0 {
			return true
		}
		before, _ := utf8.DecodeLastRuneInString(text[:at])
		if first, _ := utf8.DecodeRuneInString(word); !unicode.IsLetter(before) && !unicode.IsDigit(before) ||
			!unicode.IsLetter(first) && !unicode.IsDigit(first) {
			return true
		}
		at++
	}
}

// meaning returns the words that mean what a word does, as far as it is written.
func meaning(word string) []string {
	out := []string{word}
	for _, group := range alike {
		if slices.ContainsFunc(group, func(w string) bool { return len(word) > 2 && strings.HasPrefix(w, word) }) {
			out = append(out, group...)
		}
	}
	return out
}
