package model

import (
	"slices"
	"strings"
)

// GroupWithin returns the path of the outermost group a symbol belongs to
// inside the group with the path within; empty when it is in none. A symbol
// outside that group is in none either.
func (s *Symbol) GroupWithin(within string) string {
	rest := s.Group
	if within != "" {
		var ok bool
		if rest, ok = strings.CutPrefix(s.Group, within+"/"); !ok {
			return ""
		}
		within += "/"
	}
	first, _, _ := strings.Cut(rest, "/")
	if first == "" {
		return ""
	}
	return within + first
}

// InGroup reports whether a symbol belongs to the group with that path, or to
// one inside it.
func (s *Symbol) InGroup(path string) bool {
	return path == "" || s.Group == path || strings.HasPrefix(s.Group, path+"/")
}

func validGroup(path string) bool {
	if path == "" {
		return true
	}
	parts := strings.Split(path, "/")
	return len(parts) <= MaxNesting && !slices.ContainsFunc(parts, func(id string) bool { return !ValidID(id) })
}
