// Package links knows where the things of a map lead beside the flow: to web and mail addresses, to other steps and to
// sheets. Links stand on symbols and connectors, and addresses in their texts and fields are links as well.
package links

import (
	"slices"
	"strings"
	"unicode"
	"unicode/utf8"

	"plaintracer/core/model"
	"plaintracer/core/values"
)

// Span is an address within a text: the bytes it takes, and where it leads.
type Span struct {
	From, To int
	Address  string
}

// Address returns the address that a text is as a whole, as a link has it: https://, http:// or mailto:; false where it
// is none. What begins with www. is taken for a web address, and name@place.top for a mail address.
func Address(text string) (string, bool) {
	text = strings.TrimSpace(text)
	if rest, ok := cutFold(text, "mailto:"); ok {
		if !mailbox(rest) {
			return "", false
		}
		return "mailto:" + rest, true
	}
	if mailbox(text) {
		return "mailto:" + text, true
	}
	to, err := values.Read(values.Address, nil, text, values.Measures{})
	return to, err == nil && to != ""
}

func cutFold(text, prefix string) (string, bool) {
	if len(text) < len(prefix) || !strings.EqualFold(text[:len(prefix)], prefix) {
		return "", false
	}
	return text[len(prefix):], true
}

// mailbox reports whether a text is a plain mail address: a local part of the signs that need no quotes (RFC 5322,
// 3.4.1), and a host of at least two labels.
func mailbox(text string) bool {
	name, host, ok := strings.Cut(text, "@")
	if !ok || name == "" || len(text) > 254 || !strings.Contains(host, ".") ||
		strings.HasPrefix(name, ".") || strings.HasSuffix(name, ".") {
		return false
	}
	for _, r := range name {
		if !letter(r) && !strings.ContainsRune("!#$%&'*+-/=?^_`{|}~.", r) {
			return false
		}
	}
	for _, label := range strings.Split(host, ".") {
		if label == "" || strings.HasPrefix(label, "-") || strings.HasSuffix(label, "-") ||
			strings.ContainsFunc(label, func(r rune) bool { return !letter(r) && r != '-' }) {
			return false
		}
	}
	return true
}

func letter(r rune) bool { return unicode.IsLetter(r) || unicode.IsDigit(r) }

// InText returns the addresses within a text, in their order: words that are one, without the punctuation around them.
func InText(text string) []Span {
	var out []Span
	for at := 0; at < len(text); {
		r, n := utf8.DecodeRuneInString(text[at:])
		if unicode.IsSpace(r) {
			at += n
			continue
		}
		end := at + strings.IndexFunc(text[at:]+" ", unicode.IsSpace)
		from, to := at, end
		for from < to && strings.ContainsRune("(<[{\"'“‘„«", first(text[from:to])) {
			from += utf8.RuneLen(first(text[from:to]))
		}
		for from < to {
			r, n := utf8.DecodeLastRuneInString(text[from:to])
			if !strings.ContainsRune(".,;:!?>]}\"'“”’»", r) && (r != ')' || strings.Contains(text[from:to], "(")) {
				break
			}
			to -= n
		}
		word := text[from:to]
		if marks := strings.Contains(word, "://") || strings.Contains(word, "@") ||
			strings.HasPrefix(word, "www."); marks {
			if address, ok := Address(word); ok {
				out = append(out, Span{from, to, address})
			}
		}
		at = end
	}
	return out
}

func first(text string) rune {
	r, _ := utf8.DecodeRuneInString(text)
	return r
}

// Of returns all links of a symbol: its own, then the addresses in its text and in its fields, each once, and for what
// moments of journeys lead to, these.
func Of(m *model.Map, sym *model.Symbol) []model.Hyperlink {
	out := sym.Links
	add := func(title, text string) {
		if !strings.Contains(text, "://") && !strings.Contains(text, "@") && !strings.Contains(text, "www.") {
			return
		}
		for _, span := range InText(text) {
			known := false
			for _, l := range out {
				known = known || l.To == span.Address
			}
			if !known {
				out = append(out[:len(out):len(out)], model.Hyperlink{Title: title, To: span.Address})
			}
		}
	}
	add("", sym.Text)
	for i := range m.Fields {
		if f := &m.Fields[i]; len(sym.Values) > 0 {
			add(f.Name, sym.Value(f.ID))
		}
	}
	from := map[*model.Pool]bool{} // one way back into each journey will do
	for _, h := range m.Moments(sym.ID) {
		to := "#" + h.Symbol.ID
		p, _ := h.Sheet.RowOf(h.Symbol.Row)
		if from[p] {
			continue
		}
		from[p] = true
		if !slices.ContainsFunc(out, func(l model.Hyperlink) bool { return l.To == to }) {
			out = append(out[:len(out):len(out)], model.Hyperlink{
				Title: model.Short(h.Sheet.Name + ": " + model.Flat(h.Symbol.Text)), To: to})
		}
	}
	return out
}

// Inside returns the id of the step, sheet or file to which a link within the map leads; false for an address.
func Inside(l *model.Hyperlink) (id string, ok bool) { return strings.CutPrefix(l.To, "#") }

// Gone reports whether a link leads to a step, sheet or file that the map does not have.
func Gone(m *model.Map, l *model.Hyperlink) bool {
	id, inside := Inside(l)
	return inside && m.Sheet(id) == nil && m.SheetOf(id) == nil && m.File(id) == nil
}

// File returns the file to which a link leads, or nil.
func File(m *model.Map, l *model.Hyperlink) *model.File {
	if id, ok := Inside(l); ok {
		return m.File(id)
	}
	return nil
}

// Place names the step, sheet or file with an id as a link does; empty where the map has none.
func Place(m *model.Map, id string, numbers map[string]string) string {
	if f := m.File(id); f != nil {
		return f.Name
	}
	if s := m.Sheet(id); s != nil {
		return s.Name
	}
	s := m.SheetOf(id)
	if s == nil || s.Symbol(id) == nil {
		return ""
	}
	text := model.Flat(s.Symbol(id).Text)
	if n := numbers[id]; n != "" {
		text = strings.TrimSpace(n + " " + text)
	}
	return text
}

// Title names a link: by its title, by what it leads to within the map, or by its address. A place that is gone is
// named as that.
func Title(m *model.Map, l *model.Hyperlink, numbers map[string]string) string {
	if l.Title != "" {
		return l.Title
	}
	if id, ok := Inside(l); ok {
		if place := Place(m, id, numbers); place != "" {
			return place
		}
		if model.IsFileID(id) {
			return "a file that is gone"
		}
		return "a step or sheet that is gone"
	}
	if l.OtherMap() != "" {
		return "another map"
	}
	return strings.TrimPrefix(l.To, "mailto:")
}

// Read returns the target of a link from what a person typed: an address, the number or text of a step, or the name of
// a sheet. It reports false where it is none of these, or several.
func Read(m *model.Map, text string, numbers map[string]string) (string, bool) {
	if to, ok := Address(text); ok {
		return to, true
	}
	if other := (model.Hyperlink{To: text}); other.OtherMap() != "" {
		return text, true
	}
	text = model.Flat(text)
	if text == "" {
		return "", false
	}
	found := ""
	for pass := range 2 {
		n := 0
		for _, s := range m.Sheets {
			if pass == 1 && strings.EqualFold(s.Name, text) {
				found, n = s.ID, n+1
			}
			for _, sym := range s.Symbols {
				if pass == 0 && (numbers[sym.ID] == text || Place(m, sym.ID, numbers) == text) ||
					pass == 1 && strings.EqualFold(model.Flat(sym.Text), text) {
					found, n = sym.ID, n+1
				}
			}
		}
		if n > 0 {
			return "#" + found, n == 1
		}
	}
	return "", false
}
