package document

import (
	"slices"
	"strings"
	"unicode"
	"unicode/utf8"

	"plaintracer/core/procedure"
)

// The sentences of a procedure take in texts of the map: "The work begins when a street light is out." What follows is
// about English alone; a procedure in another language, or a text of which it is not clear how it goes on in a
// sentence, is quoted as it stands.

// speech knows how words are written in the texts of a map, by which it tells names from other words.
type speech struct {
	english bool
	// small and large are words that stand inside a text, with a small and with a large first letter.
	small, large map[string]bool
}

// Words before a noun, and pronouns: what begins with one is written small inside a sentence.
var determiners = []string{
	"a",
	"an",
	"the",
	"this",
	"that",
	"these",
	"those",
	"each",
	"every",
	"all",
	"both",
	"no",
	"some",
	"any",
	"one",
	"two",
	"three",
	"several",
	"its",
	"his",
	"her",
	"their",
	"our",
	"my",
	"your",
	"it",
	"he",
	"she",
	"they",
	"we",
	"you",
	"nobody",
	"somebody",
	"everybody",
	"nothing",
	"something",
	"everything",
	"nothing",
	"who",
	"there",
}

// Verbs by which a text is a clause.
var verbs = []string{
	"is",
	"are",
	"was",
	"were",
	"has",
	"have",
	"had",
	"gets",
	"get",
	"does",
	"do",
	"can",
	"could",
	"will",
	"would",
	"must",
	"should",
	"may",
	"might",
	"needs",
	"need",
	"wants",
	"want",
}

// Words that follow a verb rather than a plural.
var after = []string{
	"a",
	"an",
	"the",
	"in",
	"on",
	"at",
	"to",
	"for",
	"from",
	"with",
	"by",
	"of",
	"about",
	"up",
	"out",
	"off",
	"again",
	"back",
	"away",
	"down",
	"over",
	"into",
	"no",
	"some",
	"his",
	"her",
	"their",
	"its",
	"that",
	"too",
	"not",
}

func speechOf(p *procedure.Procedure) *speech {
	sp := &speech{
		english: p.Language == "" || p.Language == "en" || strings.HasPrefix(p.Language, "en-"),
		small:   map[string]bool{},
		large:   map[string]bool{},
	}
	note := func(text string) {
		for i, w := range strings.Fields(text) {
			w = strings.TrimFunc(w, func(r rune) bool { return !unicode.IsLetter(r) })
			w = strings.TrimSuffix(strings.TrimSuffix(w, "'s"), "’s")
			r, _ := utf8.DecodeRuneInString(w)
			switch {
			case w == "" || i == 0:
			case unicode.IsUpper(r):
				sp.large[strings.ToLower(w)] = true
			default:
				sp.small[w] = true
			}
		}
	}
	for _, text := range append(append([]string{p.Title, p.Purpose, p.Scope}, p.Begins...), p.Ends...) {
		note(text)
	}
	for i := range p.Steps {
		note(p.Steps[i].Text)
		for _, n := range p.Steps[i].Notes {
			note(n)
		}
	}
	for _, s := range p.Sheets {
		note(s.Name)
	}
	return sp
}

// clause says whether a text is one: that something is, has or does something.
func (sp *speech) clause(text string) bool {
	w := strings.Fields(strings.ToLower(text))
	if !sp.english || len(w) < 2 {
		return false
	}
	for i := 1; i < min(len(w), 5); i++ {
		word := strings.Trim(w[i], ".,;:!?")
		if slices.Contains(verbs, word) && i+1 < len(w) {
			return true
		}
		does := len(word) > 3 && strings.HasSuffix(word, "s") && !strings.HasSuffix(word, "ss") &&
			!strings.HasSuffix(word, "us")
		switch {
		case !does:
		case i+1 < len(w) && slices.Contains(after, strings.Trim(w[i+1], ".,;:!?")):
			return true
		case i+1 == len(w) && i > 1 && slices.Contains([]string{"a", "an", "each", "every", "one"},
			w[0]): // one of them does
			return true
		}
	}
	return false
}

// inside writes a clause as it stands inside a sentence: without a full stop, small where it does not begin with a
// name, and with an article where the map writes its first word small elsewhere.
func (sp *speech) inside(text string) string {
	text = strings.TrimRight(strings.TrimSpace(text), ".")
	first, rest, _ := strings.Cut(text, " ")
	word := strings.ToLower(strings.Trim(first, ",;:"))
	r, n := utf8.DecodeRuneInString(first)
	switch {
	case !sp.english || !unicode.IsUpper(r) || first == "I" || strings.ToLower(first[n:]) != first[n:]: // as it stands
	case slices.Contains(determiners, word):
		return string(unicode.ToLower(r)) + first[n:] + " " + rest
	case sp.large[word]: // a name
	case sp.small[word] && strings.HasSuffix(word, "s"): // several of them
		return word + " " + rest
	case sp.small[word]:
		return "the " + word + " " + rest
	}
	return text
}

// occasions are texts of ends as the rest of a sentence: "when the resident has a date or the lamp burns again".
func (sp *speech) occasions(list []string) string {
	var out []string
	clauses := !slices.ContainsFunc(list, func(text string) bool { return !sp.clause(text) })
	for _, text := range list {
		if clauses {
			out = append(out, sp.inside(text))
		} else {
			out = append(out, "“"+text+"”")
		}
	}
	if clauses {
		return "when " + either(out)
	}
	return "with " + either(out)
}

// either joins a list by commas, and its last two by "or".
func either(list []string) string { return joined(list, "or") }

// all joins a list by commas, and its last two by "and".
func all(list []string) string { return joined(list, "and") }

func joined(list []string, last string) string {
	if len(list) < 2 {
		return strings.Join(list, "")
	}
	return strings.Join(list[:len(list)-1], ", ") + " " + last + " " + list[len(list)-1]
}

// things are documents and stores as they are named in a sentence.
func (sp *speech) things(list []procedure.Thing) string {
	var out []string
	for _, t := range list {
		first, _, _ := strings.Cut(strings.ToLower(t.Text), " ")
		switch {
		case t.Text == "" && strings.ContainsRune("aeiou", rune(strings.ToLower(t.Kind + " ")[0])):
			out = append(out, "an "+lower(t.Kind))
		case t.Text == "":
			out = append(out, "a "+lower(t.Kind))
		case t.Store && sp.english && slices.Contains(determiners, first):
			out = append(out, lower(t.Text))
		case t.Store && sp.english:
			out = append(out, "the "+t.Text)
		default:
			out = append(out, "the “"+t.Text+"”")
		}
	}
	return all(out)
}
