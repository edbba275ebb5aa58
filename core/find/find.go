// Package find looks for words in all texts of a map. All returns the places that hold a query, Replaced and
// Write make what stands there anew.
package find

import (
	"slices"
	"strings"
	"unicode"
	"unicode/utf8"

	"plaintracer/core/edit"
	"plaintracer/core/flow"
	"plaintracer/core/links"
	"plaintracer/core/model"
	"plaintracer/core/numbering"
)

// Place is where a text stands: a symbol, a label of a connector (At names which), a link on one (At says where it
// leads), a lane, a stage or a pool (At says "words" of those on the person of a journey), on a sheet.
type Place struct {
	Sheet, ID, At string
	Text          string
	// Fixed says that the text can be found, not replaced: it is the title of a link, or the name of a file.
	Fixed bool
}

// texts lists every text of the map, sheet by sheet: the steps in the order of
// the flow, then all else.
func texts(m *model.Map) []Place {
	order := map[string]int{}
	for i, step := range numbering.Number(m) {
		order[step.Symbol.ID] = i + 1
	}
	var out []Place
	for _, s := range m.Sheets {
		list := slices.Clone(s.Symbols)
		slices.SortStableFunc(list, func(a, b *model.Symbol) int {
			x, y := order[a.ID], order[b.ID]
			if x == 0 || y == 0 { // what is no step comes after
				return y - x
			}
			return x - y
		})
		for _, sym := range list {
			out = append(out, Place{s.ID, sym.ID, "", sym.Text, false})
		}
		for _, c := range s.Connectors {
			for i, l := range c.Labels() {
				out = append(out, Place{s.ID, c.ID, model.LabelNames[i], *l.Text, false})
			}
		}
		for _, p := range s.Pools {
			out = append(out, Place{s.ID, p.ID, "", p.Title, false})
			if p.Words != "" {
				out = append(out, Place{s.ID, p.ID, ofPerson, p.Words, false})
			}
			for _, l := range p.Lanes {
				out = append(out, Place{s.ID, l.ID, "", l.Name, false})
			}
			for _, st := range p.Stages {
				out = append(out, Place{s.ID, st.ID, "", st.Name, false})
			}
		}
	}
	for l := range m.Leads() {
		out = append(out, Place{l.Sheet.ID, l.On, "link " + l.Link.To, links.Title(m, &l.Link, nil), true})
	}
	return out
}

// ofPerson is where the words on the person of a journey stand.
const ofPerson = "words"

// All lists the texts that hold what is looked for. A number finds the step
// that carries it, before all texts.
func All(m *model.Map, query string) []Place {
	if query == "" {
		return nil
	}
	var out []Place
	if number := strings.TrimSpace(strings.TrimPrefix(query, "#")); number != "" {
		labels := numbering.Labels(flow.New(m))
		for _, s := range m.Sheets {
			for _, sym := range s.Symbols {
				if strings.EqualFold(labels[sym.ID], number) {
					out = append(out, Place{s.ID, sym.ID, "", sym.Text, false})
				}
			}
		}
	}
	for _, p := range texts(m) {
		if at, _ := index(p.Text, query); at >= 0 && !slices.Contains(out, p) {
			out = append(out, p)
		}
	}
	return out
}

// index returns where a text holds a query, whatever the case of letters,
// and how many bytes of the text that takes; -1 when it does not.
func index(text, query string) (at, size int) {
	want := []rune(query)
	for i := range text {
		n, k := 0, i
		for k < len(text) && n < len(want) {
			r, width := utf8.DecodeRuneInString(text[k:])
			if fold(r) != fold(want[n]) {
				break
			}
			k += width
			n++
		}
		if n == len(want) {
			return i, k - i
		}
	}
	return -1, 0
}

func fold(r rune) rune {
	if r == '\n' { // a line broken by hand reads on
		return ' '
	}
	return unicode.ToLower(unicode.ToUpper(r))
}

// Replaced returns a text with every match of a query replaced, and whether that makes a difference.
func Replaced(text, query, with string) (out string, changed bool) {
	var b strings.Builder
	for rest := text; ; {
		at, size := index(rest, query)
		if rest == "" || query == "" || at < 0 {
			b.WriteString(rest)
			return b.String(), b.String() != text
		}
		b.WriteString(rest[:at] + with)
		rest = rest[at+size:]
	}
}

// Write returns the edit that writes a text at a place other than a symbol; nil where there is none.
func Write(m *model.Map, p Place, text string) edit.Edit {
	s := m.Sheet(p.Sheet)
	switch {
	case s.Connector(p.ID) != nil:
		return &edit.SetText{Sheet: s.ID, ID: p.ID, At: p.At, Text: text}
	case s.Pool(p.ID) != nil && p.At == ofPerson:
		return &edit.SetPersona{Sheet: s.ID, Pool: p.ID, Words: &text}
	case s.Pool(p.ID) != nil:
		return &edit.SetPool{Sheet: s.ID, Pool: p.ID, Title: &text}
	}
	for _, pool := range s.Pools {
		if pool.LaneIndex(p.ID) >= 0 {
			return &edit.SetLane{Sheet: s.ID, Pool: pool.ID, Lane: p.ID, Name: &text}
		}
		if pool.StageIndex(p.ID) >= 0 {
			return &edit.SetStage{Sheet: s.ID, Pool: pool.ID, Stage: p.ID, Name: &text}
		}
	}
	return nil
}

// Locked reports whether what a match stands on is locked.
func Locked(m *model.Map, p Place) bool {
	s := m.Sheet(p.Sheet)
	if sym := s.Symbol(p.ID); sym != nil {
		return sym.Locked
	}
	if c := s.Connector(p.ID); c != nil {
		return c.Locked
	}
	for _, pool := range s.Pools {
		if pool.ID == p.ID || pool.LaneIndex(p.ID) >= 0 || pool.StageIndex(p.ID) >= 0 {
			return pool.Locked
		}
	}
	return false
}
