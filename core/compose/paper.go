package compose

import (
	"cmp"
	"slices"
	"strings"

	"plaintracer/core/geometry"
	"plaintracer/core/model"
)

// LargerPaper returns the smallest paper of the sheet's kind that holds a box.
func LargerPaper(s *model.Sheet, all geometry.Box) (name string, across, ok bool) {
	area := 0
	for _, paper := range model.Papers {
		if paper.Name == "Slide" || isISO(paper.Name) != isISO(s.Paper) {
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

func isISO(paper string) bool { return strings.HasPrefix(paper, "A") }

// papersFrom returns a paper and the larger ones of its kind, the smallest first.
func papersFrom(name string) []string {
	size := func(name string) int {
		w, h := model.PaperSize(name, false)
		return w * h
	}
	var list []string
	for _, paper := range model.Papers {
		if paper.Name == name ||
			paper.Name != "Slide" && isISO(paper.Name) == isISO(name) && size(paper.Name) > size(name) {
			list = append(list, paper.Name)
		}
	}
	slices.SortFunc(list, func(a, b string) int { return cmp.Compare(size(a), size(b)) })
	return list
}
