package compose

import (
	"slices"
	"strconv"
	"strings"

	"plaintracer/core/diagram"
	"plaintracer/core/pictures"
)

// Clip is what copying puts on the clipboard.
type Clip struct {
	Format     string              `json:"format"`
	Symbols    []diagram.Symbol    `json:"symbols"`
	Connectors []diagram.Connector `json:"connectors"`
	Pictures   []pictures.Picture  `json:"pictures,omitempty"`
	Pools      []diagram.Pool      `json:"pools,omitempty"`
	// Sheet is a whole sheet, which is pasted as one; Heading is that of its map.
	Sheet   *diagram.Sheet  `json:"sheet,omitempty"`
	Heading diagram.Heading `json:"heading,omitzero"`
}

// Keep takes a picture of the map along, once.
func (c *Clip) Keep(m *diagram.Map, id string) {
	p := m.Picture(id)
	if p != nil && !slices.ContainsFunc(c.Pictures, func(q pictures.Picture) bool { return q.ID == p.ID }) {
		c.Pictures = append(c.Pictures, *p)
	}
}

// ClipFormat marks the JSON form of a Clip.
const ClipFormat = "plain-tracer-clip-1"

// Unlisted takes the mark or number off a line of a list: "- Ask", "• Ask", "3. Ask", "b) Ask".
// A number that is part of the text ("3 days later", "2.5 km") stays.
func Unlisted(line string) string {
	mark, rest, ok := strings.Cut(line, " ")
	if !ok {
		return line
	}
	if slices.Contains([]string{"-", "–", "—", "*", "•", "◦", "▪", "·"}, mark) {
		return rest
	}
	mark = strings.TrimPrefix(mark, "(")
	number := strings.TrimRight(mark, ".)")
	if number == mark || len(number) > 3 || number == "" {
		return line
	}
	for _, part := range strings.Split(number, ".") {
		if _, err := strconv.Atoi(part); err != nil && (len(part) != 1 || part[0] < 'a' || part[0] > 'z') {
			return line
		}
	}
	return rest
}

// Titled puts a word before a name, which is cut to the longest a name may be.
func Titled(word, name string) string {
	r := []rune(word + name)
	return string(r[:min(len(r), diagram.MaxName)])
}
