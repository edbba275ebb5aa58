package steplist

import (
	"plaintracer/core/model"
	"slices"
	"strconv"
	"strings"
	"unicode"
	"unicode/utf8"
)

// way is where a step leads: the row of the other, and on which answer.
type way struct {
	label string
	to    int
}

// stepKeys find the rows of steps by their numbers and texts.
type stepKeys struct {
	numbers, texts map[string]int
	// twice are keys that several rows have.
	twice map[string]bool
}

func newKeys() *stepKeys {
	return &stepKeys{map[string]int{}, map[string]int{}, map[string]bool{}}
}

// add notes the keys of a row. It reports whether its number is that of another already.
func (s *stepKeys) add(row int, number, text string) (twice bool) {
	if number = numberKey(number); number != "" {
		if _, twice = s.numbers[number]; !twice {
			s.numbers[number] = row
		}
	}
	if text = folded(text); text != "" {
		if _, again := s.texts[text]; again {
			s.twice[text] = true
		} else {
			s.texts[text] = row
		}
	}
	return twice
}

// numberKey is the number of a step as it is compared: without what stands around it.
func numberKey(text string) string {
	text = strings.ToLower(strings.Trim(strings.TrimSpace(text), ".):#"))
	if n, err := strconv.ParseFloat(text, 64); err == nil && n == float64(int(n)) && !strings.Contains(text, ".") {
		return strconv.Itoa(int(n))
	}
	return strings.TrimSuffix(text, ".0")
}

// before are words that stand before the number or the name of a step, ends those that end the work, and onward those
// that lead to the next line.
var (
	before = []string{"go to", "goto", "continue with", "go on with", "step", "nr", "weiter mit", "weiter zu",
		"gehe zu",
		"weiter", "schritt", "zu", "aller a", "etape", "vers", "puis", "n", "numero", "ir a", "paso", "a", "then",
		"dann", "alors",
		"entonces", "back to", "return to", "zuruck zu", "retour a", "volver a", "with", "mit"}
	ends = []string{"end", "ende", "stop", "fin", "fini", "done", "fertig", "none", "keiner", "keine", "aucun",
		"aucune",
		"ninguno", "ninguna", "n a", "finished", "the end", "final", "finish", "terme", "termine", "schluss"}
	onward = []string{"next", "next step", "next line", "nachster", "nachster schritt", "suivant", "etape suivante",
		"siguiente", "paso siguiente", "siguiente paso", "folgender"}
	// conditions are words that stand before an answer.
	conditions = []string{"if", "wenn", "falls", "bei", "si", "en caso de", "in case of", "when", "case"}
)

// cut takes words off the beginning of a folded text, the longest that fit.
func cut(text string, words []string) string {
	for again := true; again; {
		again = false
		for _, w := range words {
			if rest, ok := strings.CutPrefix(text, w+" "); ok {
				text, again = rest, true
			}
		}
	}
	return text
}

// row returns the row that a text names: by a number, by its text, or -1; -2 ends the work, -3 is the next line.
func (s *stepKeys) row(text string) int {
	text = strings.TrimSpace(text)
	if strings.Trim(text, "-–—./ ") == "" || slices.Contains(ends, folded(text)) {
		if _, step := s.texts[folded(text)]; !step {
			return -2
		}
	}
	if slices.Contains(onward, folded(text)) {
		return -3
	}
	if i, ok := s.numbers[numberKey(text)]; ok {
		return i
	}
	words := folded(text)
	if i, ok := s.texts[words]; ok && !s.twice[words] {
		return i
	}
	short := cut(words, before)
	if i, ok := s.numbers[numberKey(short)]; ok {
		return i
	}
	// Numbers such as 2.1 lose their points when they are folded.
	if at := strings.LastIndexByte(text, ' '); at >= 0 && short == folded(text[at:]) {
		if i, ok := s.numbers[numberKey(text[at:])]; ok {
			return i
		}
	}
	if i, ok := s.texts[short]; ok && !s.twice[short] {
		return i
	}
	return -1
}

// signs part an answer from where it leads.
var signs = []string{"→", "->", "=>", ":", ">", "=", " – ", " - "}

// ways reads where a step leads. What names no step is returned as well.
func (s *stepKeys) ways(cell string) (list []way, unknown []string) {
	if i := s.row(cell); i != -1 {
		return []way{{"", i}}, nil
	}
	for _, piece := range pieces(cell, ";\n|") {
		if i := s.row(piece); i != -1 {
			list = append(list, way{"", i})
			continue
		}
		// Commas and slashes may part ways, or stand in a name.
		if some, ok := s.all(pieces(piece, ",/")); ok {
			list = append(list, some...)
		} else if some, ok = s.all(joined(piece)); ok {
			list = append(list, some...)
		} else if w, ok := s.way(piece); ok {
			list = append(list, w)
		} else {
			unknown = append(unknown, piece)
		}
	}
	// "No. 4" alone is step 4; beside a "yes 3" it is an answer.
	if len(list) == 1 && len(unknown) == 0 && strings.EqualFold(list[0].label, "no") && !strings.ContainsAny(cell,
		":>=→(–") {
		list[0].label = ""
	}
	return list, unknown
}

// all reads several ways; it reports false where one of them is none.
func (s *stepKeys) all(texts []string) (list []way, ok bool) {
	for _, text := range texts {
		w, ok := s.way(text)
		if !ok {
			return nil, false
		}
		list = append(list, w)
	}
	return list, len(texts) > 1
}

// joined parts a text at the words that join, "3 and 5" or "3 oder 5".
func joined(text string) (out []string) {
	var words []string
	for _, word := range append(strings.Fields(text), "and") {
		if slices.Contains([]string{"and", "or", "und", "oder", "et", "ou", "y", "o"}, strings.ToLower(word)) {
			if len(words) > 0 {
				out = append(out, strings.Join(words, " "))
			}
			words = nil
			continue
		}
		words = append(words, word)
	}
	return out
}

func pieces(text, at string) (out []string) {
	for _, p := range strings.FieldsFunc(text, func(r rune) bool { return strings.ContainsRune(at, r) }) {
		if p = strings.TrimSpace(p); p != "" {
			out = append(out, p)
		}
	}
	return out
}

// way reads one way: a step, or an answer and a step in any order.
func (s *stepKeys) way(text string) (way, bool) {
	if i := s.row(text); i != -1 {
		return way{"", i}, true
	}
	for _, sign := range signs {
		a, b, ok := strings.Cut(text, sign)
		if !ok {
			continue
		}
		if i := s.row(b); i != -1 && strings.TrimSpace(b) != "" {
			return way{answer(a), i}, true
		}
		if i := s.row(a); i != -1 && strings.TrimSpace(a) != "" {
			return way{answer(b), i}, true
		}
	}
	if a, b, ok := strings.Cut(text, "("); ok {
		b = strings.TrimSuffix(strings.TrimSpace(b), ")")
		if i := s.row(a); i != -1 && strings.TrimSpace(a) != "" {
			return way{answer(b), i}, true
		}
		if i := s.row(b); i != -1 && b != "" {
			return way{answer(a), i}, true
		}
	}
	words := strings.Fields(text)
	for k := 1; k < len(words); k++ {
		if i := s.row(strings.Join(words[k:], " ")); i != -1 {
			return way{answer(strings.Join(words[:k], " ")), i}, true
		}
	}
	if len(words) > 1 {
		if i := s.row(words[0]); i >= 0 {
			return way{answer(strings.Join(words[1:], " ")), i}, true
		}
	}
	return way{}, false
}

// answer is an answer without the words around it.
func answer(text string) string {
	text = strings.Trim(model.Flat(text), " ,.:()–-")
	for again := true; again; {
		again = false
		for _, list := range [2][]string{conditions, before} {
			for _, w := range list {
				first, rest, ok := strings.Cut(text, " ")
				if ok && strings.EqualFold(first, w) {
					text, again = strings.TrimLeft(rest, " ,"), true
				}
				if at := strings.LastIndexByte(text, ' '); at > 0 && strings.EqualFold(text[at+1:], w) {
					text, again = strings.TrimRight(text[:at], " ,"), true
				}
			}
		}
	}
	if r, n := utf8.DecodeRuneInString(text); n > 0 {
		text = string(unicode.ToUpper(r)) + text[n:]
	}
	return text
}
