package pdf

import (
	"fmt"
	"slices"

	"plaintracer/core/geometry"
)

// chapter is a bookmark: where it leads, and how deep it stands.
type chapter struct {
	title          string
	page, y, level int
}

// chapters are the pages that have names, and the titled places on each.
func (w *writer) chapters() (list []chapter) {
	for i := range w.doc.Pages {
		p := &w.doc.Pages[i]
		if p.Name != "" {
			list = append(list, chapter{p.Name, i, 0, 0})
		}
		for _, a := range p.Anchors {
			if a.Title != "" {
				list = append(list, chapter{a.Title, i, max(a.Y-20*geometry.Px, 0), a.Level})
			}
		}
	}
	return list
}

// outline adds the bookmarks, each inside the last one before it that stands less deep (ISO 32000-1, 12.3.3), and
// returns the entry of the catalogue.
func (w *writer) outline() string {
	list := w.chapters()
	if len(list) == 0 {
		return ""
	}
	top := w.file.reserve()
	type item struct {
		ref    ref
		kids   []int
		parent int
	}
	items, roots := make([]item, len(list)), []int(nil)
	var open []int
	for i, c := range list {
		items[i] = item{w.file.reserve(), nil, -1}
		for len(open) > 0 && list[open[len(open)-1]].level >= c.level {
			open = open[:len(open)-1]
		}
		if len(open) > 0 {
			up := open[len(open)-1]
			items[i].parent = up
			items[up].kids = append(items[up].kids, i)
		} else {
			roots = append(roots, i)
		}
		open = append(open, i)
	}
	// family writes the entries that lead to kids, of which count are seen at first.
	family := func(kids []int, count int) string {
		if len(kids) == 0 {
			return ""
		}
		return fmt.Sprintf("/First %s/Last %s/Count %d", items[kids[0]].ref, items[kids[len(kids)-1]].ref, count)
	}
	var within func(i int) int
	within = func(i int) int {
		n := 0
		for _, k := range items[i].kids {
			n += 1 + within(k)
		}
		return n
	}
	for i, c := range list {
		up, row := top, roots
		if p := items[i].parent; p >= 0 {
			up, row = items[p].ref, items[p].kids
		}
		entry := fmt.Sprintf("<</Title%s/Parent %s/Dest[%s/XYZ 0 %s null]", text(c.title), up, w.pageRefs[c.page],
			points(w.doc.Pages[c.page].H-c.y))
		at := slices.Index(row, i)
		if at > 0 {
			entry += "/Prev " + items[row[at-1]].ref.String()
		}
		if at+1 < len(row) {
			entry += "/Next " + items[row[at+1]].ref.String()
		}
		w.file.set(items[i].ref, entry+family(items[i].kids, within(i))+">>")
	}
	w.file.set(top, "<</Type/Outlines"+family(roots, len(list))+">>")
	return "/Outlines " + top.String() + "/PageMode/UseOutlines"
}
