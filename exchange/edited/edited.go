// Package edited finds out which texts of a picture have been changed by another program since it was saved: an SVG
// picture shows its texts beside the map that it carries.
package edited

import (
	"bytes"
	"encoding/xml"
	"slices"
	"strings"
	"unicode"

	"plaintracer/core/model"
	"plaintracer/core/scene"
	"plaintracer/exchange/svg"
)

// Text is a text that the picture shows otherwise than its map: of a symbol, or the label of a connector at a place
// among those that it has.
type Text struct {
	ID       string
	Label    int
	Was, Now string
}

// mostTexts bounds how many are found.
const mostTexts = 500

// Texts returns the texts of a picture that differ from those of the map that it carries, in the order in which they
// are drawn. A picture that is broken has none.
func Texts(picture []byte, m *model.Map) (list []Text) {
	if !bytes.Contains(picture, []byte(`class="`+svg.WordsClass+`"`)) {
		return nil
	}
	r := reader{d: xml.NewDecoder(bytes.NewReader(picture)), texts: map[string][]string{}, skip: map[string]bool{}}
	r.read()
	drawn := map[string][]string{}
	for _, s := range m.Sheets {
		if !slices.ContainsFunc(r.order, func(id string) bool {
			return s.Symbol(id) != nil ||
				s.Connector(id) != nil
		}) {
			continue
		}
		d := scene.Draw(m, s)
		for i := range d.Nodes {
			drawn[d.Nodes[i].ID] = svg.Words(&d.Nodes[i])
		}
	}
	for _, id := range r.order {
		shown, all := r.texts[id], kept(m, id)
		if r.skip[id] || len(shown) != len(drawn[id]) || len(shown) != len(all) {
			continue // it was made something else of
		}
		for at, was := range drawn[id] {
			if bare(was) != bare(shown[at]) && len(list) < mostTexts {
				list = append(list, Text{id, at, model.Flat(*all[at]), shown[at]})
			}
		}
	}
	return list
}

// Take gives a map the texts that a picture shows.
func Take(m *model.Map, list []Text) {
	for _, t := range list {
		if s := m.SheetOf(t.ID); s != nil && s.Symbol(t.ID) != nil {
			s.Symbol(t.ID).Rewrite(clipped(t.Now))
		} else if all := kept(m, t.ID); t.Label < len(all) {
			*all[t.Label] = clipped(t.Now)
		}
	}
}

// clipped is a text no longer than a map holds.
func clipped(text string) string {
	if r := []rune(text); len(r) > model.MaxText {
		return string(r[:model.MaxText])
	}
	return text
}

// kept are the texts of a thing in the map, as many as its picture shows.
func kept(m *model.Map, id string) (list []*string) {
	for _, s := range m.Sheets {
		if sym := s.Symbol(id); sym != nil && sym.Text != "" {
			return []*string{&sym.Text}
		}
		if c := s.Connector(id); c != nil {
			for _, l := range c.Labels() {
				if *l.Text != "" {
					list = append(list, l.Text)
				}
			}
			return list
		}
	}
	return nil
}

// bare is a text without its spaces, which differ where its lines are broken.
func bare(text string) string {
	return strings.Map(func(r rune) rune {
		if unicode.IsSpace(r) || r == '•' {
			return -1
		}
		return r
	}, text)
}

// reader goes through a picture.
type reader struct {
	d     *xml.Decoder
	order []string
	texts map[string][]string
	// skip are the things of which a line is drawn as outlines.
	skip map[string]bool
}

func (r *reader) read() {
	var nodes []string // the ids of the groups around, empty for those that are no things
	node := func() string {
		for i := len(nodes) - 1; i >= 0; i-- {
			if nodes[i] != "" {
				return nodes[i]
			}
		}
		return ""
	}
	for {
		t, err := r.d.Token()
		if err != nil {
			return
		}
		switch t := t.(type) {
		case xml.StartElement:
			id := ""
			if t.Name.Local == "g" {
				if own, ok := strings.CutPrefix(attribute(t, "id"), "n-"); ok {
					id = own
				} else if attribute(t, "role") == "img" {
					r.skip[node()] = true
				}
			}
			if t.Name.Local == "text" && node() != "" && within(attribute(t, "class"), svg.WordsClass) {
				r.add(node(), r.words())
				continue // its end has been read
			}
			nodes = append(nodes, id)
		case xml.EndElement:
			if len(nodes) > 0 {
				nodes = nodes[:len(nodes)-1]
			}
		}
	}
}

func (r *reader) add(id, text string) {
	if _, known := r.texts[id]; !known {
		r.order = append(r.order, id)
	}
	r.texts[id] = append(r.texts[id], text)
}

// words reads the rest of an element of text, a space between its parts.
func (r *reader) words() string {
	var out strings.Builder
	for deep := 1; deep > 0; {
		t, err := r.d.Token()
		if err != nil {
			break
		}
		switch t := t.(type) {
		case xml.StartElement:
			if deep++; attribute(t, "x") != "" || t.Name.Local != "tspan" { // not a stretch of a line
				out.WriteByte(' ')
			}
		case xml.EndElement:
			deep--
		case xml.CharData:
			out.Write(t)
		}
	}
	return model.Flat(out.String())
}

func attribute(t xml.StartElement, name string) string {
	for _, a := range t.Attr {
		if a.Name.Local == name {
			return a.Value
		}
	}
	return ""
}

func within(classes, name string) bool {
	for _, c := range strings.Fields(classes) {
		if c == name {
			return true
		}
	}
	return false
}
