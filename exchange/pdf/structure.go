package pdf

import (
	"fmt"
	"maps"
	"slices"
	"strings"

	"plaintracer/core/geometry"
	"plaintracer/core/pages"
	"plaintracer/core/scene"
)

// reading is what is read of a document: what its pages hold of each element (ISO 32000-1, 14.7).
type reading struct {
	// kinds are the types of the elements that have content, by its id.
	kinds map[string]string
	// held is the content of an id, notes what leads on from there.
	held  map[string][]content
	notes map[string][]note
	// order are the ids in the order in which they are drawn, each with its page.
	order []content
	// counts is how much each page holds; noted how many links there are.
	counts []int
	noted  int
	// where is the page on which a drawing that is spread over several has a node read.
	where map[*scene.Node]int
}

// content is a marked part of a page: its number there, and where it stands.
type content struct {
	id           string
	page, number int
	on           geometry.Box
}

// note is an annotation: its object, the key under which its element is found, its page, and what it is and leads to.
type note struct {
	ref      ref
	key      int
	page     int
	kind, to string
}

func readingOf(d *Document) reading {
	r := reading{kinds: map[string]string{}, held: map[string][]content{}, notes: map[string][]note{},
		counts: make([]int, len(d.Pages)), where: map[*scene.Node]int{}}
	var note func(list []pages.Element, outer string)
	note = func(list []pages.Element, outer string) {
		for i := range list {
			e := &list[i]
			kind := e.Type
			if kind == "" {
				kind = outer
			}
			if e.Of != "" {
				r.kinds[e.Of] = kind
			}
			note(e.Kids, kind)
		}
	}
	note(d.Structure, pages.Paragraph)
	// Of a drawing that is spread a node is read where all of it is seen, or else where it is seen first.
	for whole := range 2 {
		for i := range d.Pages {
			for k := range d.Pages[i].Views {
				v := &d.Pages[i].Views[k]
				for j := range v.Drawing.Nodes {
					n := &v.Drawing.Nodes[j]
					if _, known := r.where[n]; !v.Spread || known || len(n.Texts) == 0 {
						continue
					}
					if b := n.Bounds(); v.From.Holds(b) || whole == 1 && v.From.Meets(b) {
						r.where[n] = i
					}
				}
			}
		}
	}
	return r
}

// elsewhere reports whether a node of a view is read on another page.
func (r *reading) elsewhere(page int, v *pages.View, n *scene.Node) bool { return r.where[n] != page }

// kind is the type of the element whose content an id is; none where it is that of no element.
func (r *reading) kind(id string) string { return r.kinds[id] }

// add notes that a page holds content of an id, and returns the type of its element and its number on the page.
func (r *reading) add(page int, id string, on geometry.Box) (kind string, number int) {
	c := content{id, page, r.counts[page], on}
	r.counts[page]++
	r.held[id] = append(r.held[id], c)
	r.order = append(r.order, c)
	if kind = r.kinds[id]; kind == "" {
		kind = pages.Paragraph
	}
	return kind, c.number
}

// linked notes an annotation, and returns the key under which its element is found, from zero.
func (r *reading) linked(page int, l *pages.Link, annotation ref, kind string) int {
	key := len(r.counts) + r.noted
	r.noted++
	r.notes[l.Of] = append(r.notes[l.Of], note{annotation, key, page, kind, l.To})
	return key
}

// tree writes the elements.
type tree struct {
	*writer
	// byNumber are the elements of the content of each page, byKey those of annotations.
	byNumber [][]ref
	byKey    []ref
}

// structure adds all elements, and returns the root of their tree.
func (w *writer) structure() ref {
	t := tree{w, make([][]ref, len(w.doc.Pages)), make([]ref, w.read.noted)}
	for i, n := range w.read.counts {
		t.byNumber[i] = make([]ref, n)
	}
	f := w.file
	root, top := f.reserve(), f.reserve()
	var kids []string
	for i := range w.doc.Structure {
		kids = append(kids, t.element(&w.doc.Structure[i], top)...)
	}
	kids = append(kids, t.rest(top)...)
	f.set(top, fmt.Sprintf("<</Type/StructElem/S/Document/P %s/K[%s]>>", root, strings.Join(kids, " ")))
	var parents []string
	for i, list := range t.byNumber {
		var refs []string
		for _, r := range list {
			refs = append(refs, r.String())
		}
		parents = append(parents, fmt.Sprintf("%d[%s]", i, strings.Join(refs, " ")))
	}
	for i, r := range t.byKey {
		parents = append(parents, fmt.Sprintf("%d %s", len(t.byNumber)+i, r))
	}
	f.set(root, fmt.Sprintf("<</Type/StructTreeRoot/K %s/ParentTree<</Nums[%s]>>/ParentTreeNextKey %d>>", top,
		strings.Join(parents, " "), len(parents)))
	return root
}

// element adds an element with all in it, and returns what its parent holds of it; nothing where there is nothing in
// it.
func (t *tree) element(e *pages.Element, parent ref) []string {
	if e.Type == "" {
		return t.inside(e, parent)
	}
	self := t.file.reserve()
	var on content
	if list := t.read.held[e.Of]; len(list) > 0 {
		on = list[0]
	}
	kids := t.inside(e, self)
	if len(kids) == 0 {
		t.file.set(self, "null")
		return nil
	}
	entries := ""
	if e.Alt != "" {
		entries += "/Alt" + text(e.Alt)
	}
	if e.Title != "" {
		entries += "/T" + text(e.Title)
	}
	switch e.Type {
	case pages.Head:
		entries += "/A<</O/Table/Scope/" + e.How + ">>"
	case pages.List:
		entries += "/A<</O/List/ListNumbering/" + e.How + ">>"
	case pages.Figure:
		h := t.doc.Pages[on.page].H
		entries += fmt.Sprintf("/Pg %s/A<</O/Layout/Placement/Block/BBox[%s %s %s %s]>>", t.pageRefs[on.page],
			points(on.on.X),
			points(h-on.on.Bottom()), points(on.on.Right()), points(h-on.on.Y))
	}
	t.set(self, e.Type, parent, entries, kids)
	return []string{self.String()}
}

func (t *tree) set(self ref, kind string, parent ref, entries string, kids []string) {
	t.file.set(self, fmt.Sprintf("<</Type/StructElem/S/%s/P %s%s/K[%s]>>", kind, parent, entries, strings.Join(kids,
		" ")))
}

// inside returns what an element holds: its content, in a link where it leads on, and the elements in it. Content is
// held once.
func (t *tree) inside(e *pages.Element, self ref) (kids []string) {
	if e.Of != "" {
		list, notes := t.read.held[e.Of], t.read.notes[e.Of]
		delete(t.read.held, e.Of)
		delete(t.read.notes, e.Of)
		kids = t.hold(list, notes, self, e.Type == pages.Leading)
	}
	for i := range e.Kids {
		kids = append(kids, t.element(&e.Kids[i], self)...)
	}
	return kids
}

// hold returns what an element holds of content and the annotations on it. Where all of these lead to the same, the
// content is inside of a link, which the element may be itself.
func (t *tree) hold(list []content, notes []note, self ref, isLink bool) (kids []string) {
	put := func(by ref) (kids []string) {
		for _, c := range list {
			t.byNumber[c.page][c.number] = by
			kids = append(kids, fmt.Sprintf("<</Type/MCR/Pg %s/MCID %d>>", t.pageRefs[c.page], c.number))
		}
		return kids
	}
	lead := func(by ref, n *note) string {
		t.byKey[n.key-len(t.byNumber)] = by
		return fmt.Sprintf("<</Type/OBJR/Obj %s/Pg %s>>", n.ref, t.pageRefs[n.page])
	}
	one := len(notes) > 0
	for i := range notes {
		one = one && notes[i].kind == "Link" && notes[i].to == notes[0].to
	}
	if one {
		by := self
		if !isLink {
			by = t.file.reserve()
		}
		kids = put(by)
		for i := range notes {
			kids = append(kids, lead(by, &notes[i]))
		}
		if !isLink {
			t.set(by, pages.Leading, self, "", kids)
			kids = []string{by.String()}
		}
		return kids
	}
	kids = put(self)
	for i := range notes {
		by := t.file.reserve()
		kind, entries := pages.Leading, ""
		if notes[i].kind != "Link" {
			kind, entries = "Annot", "/Alt"+text(t.attached[notes[i].to].name)
		}
		t.set(by, kind, self, entries, []string{lead(by, &notes[i])})
		kids = append(kids, by.String())
	}
	return kids
}

// rest adds what has no place in the structure, a part for each page and in it a paragraph for each id.
func (t *tree) rest(top ref) (parts []string) {
	for page := range t.doc.Pages {
		part := t.file.reserve()
		var kids []string
		paragraph := func(list []content, notes []note) {
			by := t.file.reserve()
			t.set(by, pages.Paragraph, part, "", t.hold(list, notes, by, false))
			kids = append(kids, by.String())
		}
		for _, c := range t.read.order {
			if c.page != page || t.byNumber[page][c.number] != 0 {
				continue
			}
			list := []content{c}
			if c.id != "" {
				list = slices.DeleteFunc(slices.Clone(t.read.held[c.id]),
					func(o content) bool { return o.page != page })
			}
			paragraph(list, t.taken(c.id, page))
		}
		for _, id := range slices.Sorted(maps.Keys(t.read.notes)) {
			if notes := t.taken(id, page); len(notes) > 0 {
				paragraph(nil, notes)
			}
		}
		if len(kids) == 0 {
			t.file.set(part, "null")
			continue
		}
		t.set(part, pages.Part, top, "", kids)
		parts = append(parts, part.String())
	}
	return parts
}

// taken takes the annotations on an id that stand on a page.
func (t *tree) taken(id string, page int) (out []note) {
	var others []note
	for _, n := range t.read.notes[id] {
		if n.page == page {
			out = append(out, n)
		} else {
			others = append(others, n)
		}
	}
	t.read.notes[id] = others
	return out
}
