package steplist

import (
	"plaintracer/core/model"
	"slices"
	"strconv"
	"strings"
	"unicode"
	"unicode/utf8"
)

// Known reports whether a table is a list of steps by its titles alone: one with the columns of a register of ours.
func Known(titles []string) bool {
	has := func(name string) bool {
		return slices.ContainsFunc(titles, func(t string) bool { return strings.EqualFold(model.Flat(t), name) })
	}
	return has(model.IDTitle) && has(model.StepTitle) && has(model.NextTitle)
}

// Guess says how a list of steps is read, by its titles and by what stands in it.
func Guess(rows [][]string) Reading { return GuessUnder(rows, titleRow(rows)) }

// computed are the columns of a register that say what follows from the others.
var computed = []string{model.IDTitle, model.FromTitle, model.SheetTitle}

// GuessUnder is Guess where it is known in which row the titles are, from 1; 0 for none.
func GuessUnder(rows [][]string, titles int) Reading {
	out := Reading{Titles: max(min(titles, len(rows)), 0)}
	width := 0
	for _, row := range rows {
		width = max(width, len(row))
	}
	g := guessing{rows: rows[min(out.Titles, len(rows)):], as: make([]string, width), taken: map[string]bool{}}
	if out.Titles > 0 {
		g.byTitle(rows[out.Titles-1])
	}
	g.byContent(out.Titles > 0)
	if out.Titles > 0 && Known(rows[out.Titles-1]) {
		out.Ends = true // ends are no rows of a register
		for k, title := range rows[out.Titles-1] {
			if g.as[k] == AsField && slices.Contains(computed, model.Flat(title)) {
				g.as[k] = AsNothing
			}
		}
	}
	out.Columns = g.as
	out.Blank = g.blank()
	return out
}

// titleRow is the row with the titles, from 1; 0 where there is none. Above it stand at most some lines that name the
// list.
func titleRow(rows [][]string) int {
	best, most := 0, 0
	for i := range rows[:min(len(rows), 12)] {
		known, filled, numbers := 0, 0, 0
		for k := range rows[i] {
			text := cellAt(rows[i], k)
			if text == "" {
				continue
			}
			filled++
			if len(meanings(text)) > 0 {
				known++
			}
			if _, err := strconv.ParseFloat(strings.ReplaceAll(text, ",", "."), 64); err == nil {
				numbers++
			}
		}
		if filled > 1 && known > most && numbers == 0 {
			best, most = i+1, known
		}
	}
	if best > 0 && most >= 2 || len(rows) < 2 {
		return best
	}
	// Without known titles: a first row that holds no number where all the others do.
	for i := range rows[:min(len(rows)-1, 4)] {
		filled := 0
		for k := range rows[i] {
			if cellAt(rows[i], k) != "" {
				filled++
			}
		}
		if filled < 2 {
			continue
		}
		for k := range rows[i] {
			numbered, all := 0, 0
			for _, row := range rows[i+1:] {
				if text := cellAt(row, k); text != "" {
					all++
					if isNumber(text) {
						numbered++
					}
				}
			}
			if all > 1 && numbered == all && !isNumber(cellAt(rows[i], k)) {
				return i + 1
			}
		}
		return best
	}
	return best
}

// isNumber reports whether a text is the number of a step: 3, 3., 2.1, 4a or S-07.
func isNumber(text string) bool {
	digits, others := 0, 0
	for _, r := range text {
		switch {
		case unicode.IsDigit(r):
			digits++
		case r == '.' || r == '-' || r == ')':
		case unicode.IsLetter(r):
			others++
		default:
			return false
		}
	}
	return digits > 0 && others <= 2 && utf8.RuneCountInString(text) <= 8
}

// guessing finds out what columns hold.
type guessing struct {
	rows  [][]string
	as    []string
	taken map[string]bool
}

// byTitle takes what titles say; where one can mean two things, or two say the same, what stands there decides.
func (g *guessing) byTitle(titles []string) {
	type claim struct{ column, rank int }
	// "No" is a number, but beside a "Yes" it is an answer.
	no := func(k int) bool { return folded(titles[k]) == "no" }
	answered := slices.ContainsFunc(titles, func(t string) bool {
		return slices.Contains([]string{"yes", "si", "if yes"}, folded(t))
	})
	for _, c := range As {
		var claims []claim
		for k, title := range titles {
			for rank, m := range meanings(title) {
				if m == c.As && g.as[k] == "" {
					claims = append(claims, claim{k, rank})
				}
			}
		}
		slices.SortStableFunc(claims, func(a, b claim) int {
			if a.rank != b.rank {
				return a.rank - b.rank
			}
			return titleRank(c.Titles, titles[a.column]) - titleRank(c.Titles, titles[b.column])
		})
		for _, one := range claims {
			if c.As == AsAnswer {
				if no(one.column) && !answered {
					continue
				}
				g.as[one.column] = AsAnswer
				continue
			}
			if g.taken[c.As] || !g.could(one.column, c.As) {
				continue
			}
			if c.As == AsNumber && no(one.column) && answered {
				continue
			}
			g.as[one.column], g.taken[c.As] = c.As, true
		}
	}
}

func titleRank(titles []string, title string) int { return slices.Index(titles, folded(title)) }

// texts are what stands in a column.
func (g *guessing) texts(k int) (list []string) {
	for _, row := range g.rows {
		if text := cellAt(row, k); text != "" {
			list = append(list, text)
		}
	}
	return list
}

// could reports whether what stands in a column can be what its title says: a "Step" of numbers is no text, and a
// number of words none.
func (g *guessing) could(k int, as string) bool {
	list := g.texts(k)
	numbers := 0
	for _, text := range list {
		if isNumber(text) {
			numbers++
		}
	}
	switch as {
	case AsText:
		return numbers*2 < len(list)
	case AsNumber:
		return numbers*2 >= len(list)
	case AsKind:
		return g.kinds(k)*2 >= len(list)
	}
	return true
}

// kinds counts the cells of a column that name a kind.
func (g *guessing) kinds(k int) (n int) {
	for _, text := range g.texts(k) {
		if _, ok := kindNamed(text); ok {
			n++
		}
	}
	return n
}

// byContent gives what is missing to the columns that hold something like it, and has the others be fields.
func (g *guessing) byContent(titled bool) {
	free := func(k int) bool { return g.as[k] == "" && len(g.texts(k)) > 0 }
	if !g.taken[AsNumber] {
		for k := range g.as {
			list := g.texts(k)
			seen := map[string]bool{}
			for _, text := range list {
				seen[text] = true
			}
			if free(k) && g.could(k, AsNumber) && len(seen) == len(list) && len(list)*2 > len(g.rows) {
				g.as[k], g.taken[AsNumber] = AsNumber, true
				break
			}
		}
	}
	if !g.taken[AsText] {
		best, most := -1, 0
		for k := range g.as {
			list := g.texts(k)
			length, seen := 0, map[string]bool{}
			for _, text := range list {
				length += utf8.RuneCountInString(text)
				seen[text] = true
			}
			if free(k) && g.could(k, AsText) && len(seen)*10 >= len(list)*7 && length > most {
				best, most = k, length
			}
		}
		if best >= 0 {
			g.as[best], g.taken[AsText] = AsText, true
		}
	}
	keys := g.keys()
	if !g.taken[AsNext] && !slices.Contains(g.as, AsAnswer) && !g.taken[AsBefore] {
		for k := range g.as {
			list := g.texts(k)
			leads := 0
			for _, text := range list {
				if targets, _ := keys.ways(text); len(targets) > 0 {
					leads++
				}
			}
			if free(k) && len(list) > 1 && leads*4 >= len(list)*3 {
				g.as[k], g.taken[AsNext] = AsNext, true
				break
			}
		}
	}
	if !titled && !g.taken[AsKind] {
		for k := range g.as {
			if list := g.texts(k); free(k) && g.kinds(k)*4 >= len(list)*3 {
				g.as[k], g.taken[AsKind] = AsKind, true
				break
			}
		}
	}
	if !g.taken[AsWho] {
		for k := range g.as {
			list := g.texts(k)
			seen, long, numbers := map[string]bool{}, 0, 0
			for _, text := range list {
				seen[text] = true
				long = max(long, utf8.RuneCountInString(text))
				if isNumber(text) {
					numbers++
				}
			}
			// Few that stand there again and again, each short; a title that is not known may say anything.
			if free(k) && !titled && numbers == 0 && len(list)*4 >= len(g.rows)*3 && len(seen) > 1 &&
				len(seen)*2 <= len(list) && long <= 40 {
				g.as[k], g.taken[AsWho] = AsWho, true
				break
			}
		}
	}
	for k := range g.as {
		if free(k) {
			g.as[k] = AsField
		}
	}
}

// blank says what is meant by saying nothing of what comes next: where most lines say it, the work ends; where few do,
// these are the exceptions.
func (g *guessing) blank() Blank {
	next := slices.Index(g.as, AsNext)
	if next < 0 || len(g.rows) < 2 {
		return BlankNext
	}
	if len(g.texts(next))*3 >= (len(g.rows)-1)*2 {
		return BlankEnd
	}
	return BlankNext
}

// keys are the keys of the steps as they are guessed.
func (g *guessing) keys() *stepKeys {
	keys := newKeys()
	number, text := slices.Index(g.as, AsNumber), slices.Index(g.as, AsText)
	for i, row := range g.rows {
		keys.add(i, cellAt(row, number), cellAt(row, text))
	}
	return keys
}
