package compose

import (
	"strings"

	"plaintracer/core/geometry"
	"plaintracer/core/model"
)

// LargerPaper returns the smallest paper of the sheet's kind that holds a box.
func LargerPaper(s *model.Sheet, all geometry.Box) (name string, across, ok bool) {
	area := 0
	iso := func(name string) bool { return strings.HasPrefix(name, "A") }
	for _, paper := range model.Papers {
		if paper.Name == "Slide" || iso(paper.Name) != iso(s.Paper) {
			continue // it would not be at hand
		}
		for _, lying := range [2]bool{s.Across, !s.Across} {
			larger := *s
			larger.Paper, larger.Across = paper.Name, lying
			w, h := larger.Area().W, larger.Area().H
			if all.X < 0 || all.Y < 0 || w < all.Right() || h < all.Bottom() || area > 0 && w*h >= area {
				continue
			}
			area = w * h
			name, across, ok = paper.Name, lying, true
		}
	}
	return name, across, ok
}
