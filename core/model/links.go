package model

import (
	"slices"
	"strings"
)

// The bounds of links.
const (
	MaxLinks  = 20
	maxTarget = 2000
)

// Hyperlink leads from something of the map to a web or mail address, to a step or sheet of the map, to a file kept
// with it, or to another map of the organisation.
type Hyperlink struct {
	Title string `json:"title,omitempty"`
	// To begins with https://, http:// or mailto:, is # with the id of a step, sheet or file, or map: with
	// that of a map.
	To string `json:"to"`
}

// targets are what the targets of links may begin with. Nothing else is ever opened.
var targets = []string{"https://", "http://", "mailto:"}

// checkLinks reports the first fault in links.
func checkLinks(list []Hyperlink, path string) error {
	if len(list) > MaxLinks {
		return fault(path+".links", "at most %d links stand on one thing, not %d", MaxLinks, len(list))
	}
	for i, l := range list {
		id, inside := strings.CutPrefix(l.To, "#")
		switch {
		case len([]rune(l.Title)) > MaxName || strings.ContainsFunc(l.Title, isControl):
			return fault(path+".links", "the title of link %d is too long, or holds signs that cannot be shown", i+1)
		case inside && !ValidID(id):
			return fault(path+".links", "%q is no id", id)
		case inside || l.OtherMap() != "":
		case len(l.To) > maxTarget:
			return fault(path+".links", "the address of link %d is longer than %d signs", i+1, maxTarget)
		case !l.Opens():
			return broken(path+".links", "link %d leads to no address that can be opened: %.60q", i+1, l.To)
		}
	}
	return nil
}

// OtherMap returns the id of the map of the organisation to which a link leads; empty where it leads to none.
func (l *Hyperlink) OtherMap() string {
	if id, ok := strings.CutPrefix(l.To, "map:"); ok && ValidID(id) {
		return id
	}
	return ""
}

// Opens reports whether a link leads to an address that may be opened.
func (l *Hyperlink) Opens() bool {
	return slices.ContainsFunc(targets, func(t string) bool { return strings.HasPrefix(l.To, t) && l.To != t }) &&
		!strings.ContainsFunc(l.To,
			func(r rune) bool { return r <= ' ' || r == '<' || r == '>' || r == '"' || r == 0x7f })
}

func isControl(r rune) bool { return r < ' ' || r == 0x7f }
