package model

import (
	"fmt"
	"slices"
	"strings"
	"unicode"
)

// MaxAccents is how many stretches of a text may be set otherwise than the rest of it.
const MaxAccents = 100

// Accent is a stretch of a text that is set otherwise than the rest of it: bold, italic or in a colour as well. It
// reaches from one character of the text up to another one, which is not part of it.
type Accent struct {
	From   int  `json:"from"`
	To     int  `json:"to"`
	Bold   bool `json:"bold,omitempty"`
	Italic bool `json:"italic,omitempty"`
	// Colour is of the palette or #rrggbb; empty is that of the text.
	Colour string `json:"colour,omitempty"`
}

// plain reports whether a stretch is set as the rest of its text.
func (a *Accent) plain() bool { return !a.Bold && !a.Italic && a.Colour == "" }

// alike reports whether two stretches are set in the same way.
func (a *Accent) alike(b Accent) bool {
	return a.Bold == b.Bold && a.Italic == b.Italic && a.Colour == b.Colour
}

// Accented is a text with the stretches of it that are set otherwise, in their order, none over another.
type Accented struct {
	Text    string
	Accents []Accent
}

// Accented returns the text of a symbol as it is set.
func (s *Symbol) Accented() Accented { return Accented{s.Text, s.Accents} }

// Rewrite gives a symbol another text. What is set otherwise in it stays with its words.
func (s *Symbol) Rewrite(text string) {
	now := s.Accented().Rewritten(text)
	s.Text, s.Accents = now.Text, now.Accents
}

// Behind returns the text with another one before it, which is set plainly.
func (a Accented) Behind(head string) Accented {
	return Accented{head + a.Text, moved(a.Accents, 0, len([]rune(head)))}
}

// Tail returns what follows the first n characters of a text.
func (a Accented) Tail(n int) Accented {
	return Accented{string([]rune(a.Text)[n:]), moved(a.Accents, n, -n)}
}

// moved returns the stretches behind a character, each moved by a number of characters.
func moved(list []Accent, behind, by int) (out []Accent) {
	for _, one := range list {
		if one.From = max(one.From, behind); one.From < one.To {
			one.From, one.To = one.From+by, one.To+by
			out = append(out, one)
		}
	}
	return out
}

// Rewritten returns the text that takes the place of this one. A stretch keeps the characters that stay, and those that
// come within it; one that began or ended with a word does so still. What is written anew is plain.
func (a Accented) Rewritten(text string) Accented {
	if len(a.Accents) == 0 || a.Text == text {
		return Accented{text, a.Accents}
	}
	was, now := tokens(a.Text), tokens(text)
	out := a
	// From the end, so that places before stay what they are.
	i := len([]rune(a.Text))
	end, by := i, []string(nil)
	flush := func() {
		if end > i || len(by) > 0 {
			slices.Reverse(by)
			out = out.replaced(i, end, strings.Join(by, ""))
		}
		end, by = i, nil
	}
	for _, step := range slices.Backward(differences(was, now)) {
		if n := len([]rune(step.text)); step.gone {
			i -= n
		} else if step.come {
			by = append(by, step.text)
		} else {
			flush()
			i -= n
			end = i
		}
	}
	flush()
	return out
}

// difference is a part of a text that stays, is gone, or has come.
type difference struct {
	text       string
	gone, come bool
}

// mostTokens bounds the product of the numbers of words of two texts that are compared word by word.
const mostTokens = 1 << 20

// differences returns how one list of words becomes another one, with as many of them as possible staying: the longest
// common subsequence (Wagner and Fischer 1974).
func differences(was, now []string) (out []difference) {
	head, tail := 0, 0
	for head < min(len(was), len(now)) && was[head] == now[head] {
		out = append(out, difference{text: was[head]})
		head++
	}
	for tail < min(len(was), len(now))-head && was[len(was)-1-tail] == now[len(now)-1-tail] {
		tail++
	}
	a, b := was[head:len(was)-tail], now[head:len(now)-tail]
	if len(a)*len(b) > mostTokens {
		out = append(out, difference{text: strings.Join(a, ""), gone: true}, difference{text: strings.Join(b, ""),
			come: true})
		a, b = nil, nil
	}
	wide := len(b) + 1
	common := make([]int, (len(a)+1)*wide)
	for i := len(a) - 1; i >= 0; i-- {
		for j := len(b) - 1; j >= 0; j-- {
			if a[i] == b[j] {
				common[i*wide+j] = common[(i+1)*wide+j+1] + 1
			} else {
				common[i*wide+j] = max(common[(i+1)*wide+j], common[i*wide+j+1])
			}
		}
	}
	for i, j := 0, 0; i < len(a) || j < len(b); {
		switch {
		case i < len(a) && j < len(b) && a[i] == b[j]:
			out = append(out, difference{text: a[i]})
			i, j = i+1, j+1
		case j == len(b) || i < len(a) && common[(i+1)*wide+j] >= common[i*wide+j+1]:
			out = append(out, difference{text: a[i], gone: true})
			i++
		default:
			out = append(out, difference{text: b[j], come: true})
			j++
		}
	}
	for _, text := range was[len(was)-tail:] {
		out = append(out, difference{text: text})
	}
	return out
}

// tokens parts a text into its words and the characters between them.
func tokens(text string) (out []string) {
	runes, from := []rune(text), 0
	for at := range runes {
		if at > 0 && !inWord(runes, at) {
			out, from = append(out, string(runes[from:at])), at
		}
	}
	if from < len(runes) {
		out = append(out, string(runes[from:]))
	}
	return out
}

// replaced returns the text with another one in the place of its characters from one up to another.
func (a Accented) replaced(from, to int, by string) Accented {
	was := []rune(a.Text)
	now := slices.Concat(was[:from], []rune(by), was[to:])
	head, end := from, to
	for head < end && head < len(now)-(len(was)-end) && was[head] == now[head] {
		head++
	}
	for end > head && end+len(now)-len(was) > head && was[end-1] == now[end-1+len(now)-len(was)] {
		end--
	}
	moved := len(now) - len(was)
	var out []Accent
	for _, one := range a.Accents {
		one.From, one.To = max(one.From, 0), min(one.To, len(was))
		begins, ends := !inWord(was, one.From), !inWord(was, one.To)
		if one.From >= end {
			one.From += moved
		} else if one.From >= head {
			one.From = end + moved
		}
		if one.To > end {
			one.To += moved
		} else {
			one.To = min(one.To, head)
		}
		if one.From >= one.To {
			continue
		}
		for begins && inWord(now, one.From) {
			one.From--
		}
		for ends && inWord(now, one.To) {
			one.To++
		}
		if n := len(out); n > 0 {
			one.From = max(one.From, out[n-1].To)
		}
		if one.From < one.To {
			out = append(out, one)
		}
	}
	return Accented{string(now), joined(out)}
}

func wordly(r rune) bool { return unicode.IsLetter(r) || unicode.IsDigit(r) || unicode.IsMark(r) }

// inWord reports whether a place in a text lies between two characters of one word.
func inWord(text []rune, at int) bool {
	return at > 0 && at < len(text) && wordly(text[at-1]) && wordly(text[at])
}

// Set returns the text with its characters from one up to another set in one way more, or less: change is done to how
// each stretch of them is set.
func (a Accented) Set(from, to int, change func(*Accent)) Accented {
	from, to = max(from, 0), min(to, len([]rune(a.Text)))
	if from >= to {
		return a
	}
	var out []Accent
	at := from // up to there the stretch is set
	put := func(one Accent) {
		if change(&one); !one.plain() {
			out = append(out, one)
		}
	}
	for _, one := range a.Accents {
		before, behind, within := one, one, one
		before.To, behind.From = min(one.To, from), max(one.From, to)
		within.From, within.To = max(one.From, from), min(one.To, to)
		if before.From < before.To {
			out = append(out, before)
		}
		if within.From < within.To {
			if at < within.From {
				put(Accent{From: at, To: within.From})
			}
			put(within)
			at = within.To
		}
		if behind.From < behind.To {
			if at < to {
				put(Accent{From: at, To: to})
				at = to
			}
			out = append(out, behind)
		}
	}
	if at < to {
		put(Accent{From: at, To: to})
	}
	slices.SortFunc(out, func(a, b Accent) int { return a.From - b.From })
	return Accented{a.Text, joined(out)}
}

// Marked returns what is meant by characters that are marked in a text: these, or the word in which a place stands.
func (a Accented) Marked(from, to int) (int, int) {
	text := []rune(a.Text)
	from, to = min(max(from, 0), len(text)), min(max(to, 0), len(text))
	if from == to {
		for from > 0 && wordly(text[from-1]) {
			from--
		}
		for to < len(text) && wordly(text[to]) {
			to++
		}
	}
	return from, to
}

// joined makes one of stretches that follow each other and are set in the same way.
func joined(list []Accent) (out []Accent) {
	for _, one := range list {
		if n := len(out); n > 0 && out[n-1].To == one.From && out[n-1].alike(one) {
			out[n-1].To = one.To
			continue
		}
		out = append(out, one)
	}
	return out
}

// All reports whether every character from one up to another is set in a way.
func (a Accented) All(from, to int, way func(*Accent) bool) bool {
	for _, one := range a.Accents {
		if one.From <= from && one.To > from && way(&one) {
			from = one.To
		}
	}
	return from >= to
}

// checkAccents reports the first fault in the stretches of a text. They may reach over its end: what follows it is not
// drawn.
func checkAccents(list []Accent, path string) error {
	if len(list) > MaxAccents {
		return fault(path+".accents", "at most %d stretches of a text are set otherwise, not %d", MaxAccents, len(list))
	}
	at := 0
	for i, one := range list {
		path := fmt.Sprintf("%s.accents[%d]", path, i)
		switch {
		case one.From < at || one.To <= one.From || one.To > MaxText:
			return fault(path, "a stretch reaches from %d to %d, behind the one before it, within %d characters",
				one.From,
				one.To, MaxText)
		case one.plain():
			return fault(path, "a stretch is bold, italic or has a colour")
		case !isColour(one.Colour):
			return fault(path+".colour", "%q is no colour of the palette and no #rrggbb", one.Colour)
		}
		at = one.To
	}
	return nil
}
