package numbering

import (
	"cmp"
	"strings"

	"plaintracer/core/flow"
	"plaintracer/core/model"
)

// inserted marks the rows of numbers that are put between others: "7+" is that of 7a, 7b.
const inserted = "+"

// All numbers all symbols of a map by its scheme, whatever they keep, and returns what comes next in each row.
func All(m *model.Map) ([]model.Number, []model.Row) { return fresh(flow.New(m)).held() }

// Missing numbers what has come into a map since its numbers are held, and returns what comes next in each row.
func Missing(m *model.Map) ([]model.Number, []model.Row) { return missingIn(flow.New(m)) }

func missingIn(g *flow.Graph) ([]model.Number, []model.Row) {
	reading, under := read(g)
	c := newCount(g, reading, under)
	used := map[string]bool{}
	place := map[*flow.Node]int{}
	for i, n := range reading {
		place[n] = i
		if sym := n.Symbol; Counts(c.m, sym) && (sym.Pinned != "" || sym.Kept != "") {
			label := cmp.Or(sym.Pinned, sym.Kept)
			c.labels[sym.ID] = label
			used[label], used[sym.Kept] = true, true
		}
	}
	for _, r := range c.m.Next {
		c.row(r.ID, c.outer(r.ID)).next = r.Next
	}
	for _, n := range reading {
		sym := n.Symbol
		if !Counts(c.m, sym) || sym.Kept != "" || sym.Pinned != "" {
			continue
		}
		text := ""
		if before := c.before(n, place); sym.Kind.IsStep() && before != "" && c.leadsOn(n) {
			base := strings.TrimRight(before, "abcdefghijklmnopqrstuvwxyz")
			if base == "" {
				base = before
			}
			r := c.row(base+inserted, false)
			for text = base + letters(r.next); used[text]; text = base + letters(r.next) {
				r.next++
			}
			r.next++
		} else {
			for r := c.rowOf(n); text == "" || used[text]; {
				text = r.take()
			}
		}
		used[text] = true
		c.add(n, text)
	}
	return c.held()
}

// outer reports whether a row counts as the map says: all but those of answers and of what is put in between.
func (c *count) outer(id string) bool {
	if strings.HasSuffix(id, inserted) || strings.HasSuffix(id, within) {
		return false
	}
	return c.m.Numbering.Scheme != model.Branched || id == c.m.Numbering.Prefix ||
		len(id) == len(c.m.Numbering.Prefix)+1 && strings.ContainsAny(id[len(id)-1:], "TDSR")
}

// before returns the number of the step that leads to a node, the last one of several in reading order, over what has
// none.
func (c *count) before(n *flow.Node, place map[*flow.Node]int) string {
	best, label := -1, ""
	seen := map[*flow.Node]bool{n: true}
	for list := []*flow.Node{n}; len(list) > 0; {
		at := list[len(list)-1]
		list = list[:len(list)-1]
		for _, e := range at.Entries {
			if from := e.From; !e.Back && !seen[from] {
				seen[from] = true
				if text := c.labels[from.Symbol.ID]; text == "" || !from.Symbol.Kind.IsStep() {
					list = append(list, from)
				} else if place[from] > best {
					best, label = place[from], text
				}
			}
		}
	}
	return label
}

// leadsOn reports whether a numbered step comes after a node.
func (c *count) leadsOn(n *flow.Node) bool {
	seen := map[*flow.Node]bool{n: true}
	for list := []*flow.Node{n}; len(list) > 0; {
		at := list[len(list)-1]
		list = list[:len(list)-1]
		for _, e := range at.Exits {
			if to := e.To; !e.Back && !seen[to] {
				seen[to] = true
				if to.Symbol.Kind.IsStep() && to.Symbol.Kept != "" {
					return true
				}
				list = append(list, to)
			}
		}
	}
	return false
}

// Renumbering is a step whose number changes when the numbers are released.
type Renumbering struct {
	Step
	// Was is the number that is held, Number the one that comes.
	Was string
}

// Release lists the steps of a map whose numbers would change if they were released, in order.
func Release(g *flow.Graph) (list []Renumbering) {
	fresh := Fresh(g)
	labels := Labels(g)
	for _, n := range Reading(g) {
		if id := n.Symbol.ID; labels[id] != fresh[id] {
			list = append(list, Renumbering{Step{fresh[id], n.Sheet, n.Symbol}, labels[id]})
		}
	}
	return list
}

// Repeated lists the steps whose number another one has, too, with a word for each.
func Repeated(g *flow.Graph) (list []Step) {
	labels := Labels(g)
	times := map[string]int{}
	for _, text := range labels {
		times[text]++
	}
	for _, n := range Reading(g) {
		if text := labels[n.Symbol.ID]; times[text] > 1 {
			list = append(list, Step{text, n.Sheet, n.Symbol})
		}
	}
	return list
}

// Name says in words what a scheme numbers by.
func Name(s model.Scheme) string {
	switch s {
	case model.Branched:
		return "By answer: 4, 4a1, 4b1, 5"
	case model.ByLane:
		return "By lane: A1, B1, B2"
	case model.ByStage:
		return "By stage: 1.1, 1.2, 2.1"
	case model.BySheet:
		return "By sheet: A1, A2, B1"
	case model.ByPlace:
		return "By place on the sheet: 1, 2, 3"
	}
	return "In the order of the flow: 1, 2, 3"
}
