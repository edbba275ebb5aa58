package symbols

import (
	"math"
	"slices"
	"strings"
	"unicode"

	"plaintracer/core/model"
)

// What a word is worth where it stands: in the name of a symbol, among what people also call it, in what it means, and
// in when it is used.
const (
	inName    = 6.0
	inOthers  = 5.0
	inMeaning = 2.0
	inWhen    = 1.0
)

// idle are words that say nothing of a symbol.
var idle = map[string]bool{"a": true, "an": true, "the": true, "of": true, "to": true, "in": true, "on": true,
	"is":   true,
	"that": true, "which": true, "it": true, "or": true, "and": true, "for": true, "with": true, "by": true, "as": true,
	"at": true, "be": true, "are": true, "this": true, "something": true, "somebody": true, "someone": true,
	"where": true,
	"when":  true, "what": true, "i": true, "my": true, "symbol": true, "shape": true, "sign": true, "need": true,
	"can": true,
	"has": true, "have": true, "from": true, "up": true, "one": true, "so": true, "its": true, "they": true,
	"not": true}

// wordsOf are the words of a text that say something, without their endings. Where all are idle, they are what there
// is.
func wordsOf(text string) []string {
	all := strings.FieldsFunc(strings.ToLower(text), func(r rune) bool {
		return !unicode.IsLetter(r) &&
			!unicode.IsDigit(r)
	})
	var out []string
	for _, w := range all {
		if !idle[w] {
			out = append(out, stem(w))
		}
	}
	if len(out) == 0 {
		return all
	}
	return out
}

// stem takes the commonest endings of English off a word, so that one finds the other: waits, waiting and waited.
func stem(w string) string {
	for _, ending := range []string{"ing", "ed", "es", "s"} {
		if rest, ok := strings.CutSuffix(w, ending); ok && len(rest) > 2 && !strings.HasSuffix(w, "ss") {
			w = rest
			break
		}
	}
	if n := len(w); n > 3 && w[n-1] == w[n-2] && w[n-1] != 'l' && w[n-1] != 's' { // planned, plan
		w = w[:n-1]
	}
	if n := len(w); n > 3 && w[n-1] == 'e' { // store, stored
		w = w[:n-1]
	}
	return w
}

// entry is what a search knows of a symbol.
type entry struct {
	symbol *Symbol
	// worth is that of each of its words, where they stand best.
	worth map[string]float64
}

// index are the entries, and how many of them have a word.
var index, having = func() ([]entry, map[string]int) {
	var list []entry
	having := map[string]int{}
	for _, s := range catalogue {
		e := entry{s, map[string]float64{}}
		for _, part := range []struct {
			text  string
			worth float64
		}{{s.When, inWhen}, {s.Meaning, inMeaning}, {strings.Join(s.Others, " "), inOthers}, {s.Name, inName}} {
			for _, w := range wordsOf(part.text) {
				e.worth[w] = max(e.worth[w], part.worth)
			}
		}
		for w := range e.worth {
			having[w]++
		}
		list = append(list, e)
	}
	return list, having
}()

// Search returns the symbols that a description fits, the best first: any word of it counts, the more the fewer symbols
// have it (after Spärck Jones, 1972). The last word may be unfinished. Nothing finds all, in their order.
func Search(description string) []*Symbol {
	words := wordsOf(description)
	if len(words) == 0 {
		return catalogue
	}
	type found struct {
		symbol *Symbol
		worth  float64
	}
	var list []found
	for _, e := range index {
		sum := 0.0
		for i, w := range words {
			best := e.worth[w] * rarity(w)
			if last := i == len(words)-1; last && best == 0 && len(w) > 1 {
				for other, worth := range e.worth {
					if strings.HasPrefix(other, w) || len(other) > 3 && strings.HasPrefix(w, other) {
						best = max(best, 0.7*worth*rarity(other))
					}
				}
			}
			sum += best
		}
		for _, other := range append([]string{e.symbol.Name}, e.symbol.Others...) {
			if strings.EqualFold(other, strings.TrimSpace(description)) {
				sum += 2 * inName
			}
		}
		if sum > 0 {
			list = append(list, found{e.symbol, sum})
		}
	}
	slices.SortStableFunc(list, func(a, b found) int {
		switch {
		case a.worth > b.worth:
			return -1
		case a.worth < b.worth:
			return 1
		}
		return 0
	})
	var out []*Symbol
	for _, f := range list {
		out = append(out, f.symbol)
	}
	return out
}

// rarity is how much a word tells: the more, the fewer symbols have it.
func rarity(word string) float64 {
	if having[word] == 0 {
		return 0
	}
	return math.Sqrt(float64(len(index)) / float64(having[word])) // exact on every machine, unlike a logarithm
}

// Kinds are the kinds of symbols.
func Kinds(list []*Symbol) []model.Kind {
	out := make([]model.Kind, len(list))
	for i, s := range list {
		out[i] = s.Kind
	}
	return out
}
