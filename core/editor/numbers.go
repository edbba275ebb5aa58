package editor

import (
	"fmt"
	"slices"
	"strconv"
	"strings"

	"plaintracer/core/edit"
	"plaintracer/core/model"
	"plaintracer/core/numbering"
)

// tryNumbering shows how the map would be numbered with one value changed; what is shown can be kept or left. Values that were
// tried before stay.
func (e *Numbering) tryNumbering(arg string) {
	n := e.m.Numbering
	if p := e.proposed; p != nil && p.numbers != nil {
		n = *p.numbers
	}
	n.Also = slices.Clone(n.Also)
	name, value, _ := strings.Cut(arg, "=")
	count, err := strconv.Atoi(value)
	if value == "" {
		count, err = 0, nil
	}
	number := func(to *int) bool {
		if err != nil || count < 0 {
			e.say("“%s” is no whole number.", value)
			return false
		}
		*to = count
		return true
	}
	ok := true
	switch name {
	case "scheme":
		n.Scheme = model.Scheme(value)
	case "prefix":
		n.Prefix = value
	case "first":
		ok = number(&n.First)
	case "step":
		ok = number(&n.Step)
	case "digits":
		ok = number(&n.Digits)
	case "also":
		if i := slices.Index(n.Also, value); i >= 0 {
			n.Also = slices.Delete(n.Also, i, i+1)
		} else {
			n.Also = append(n.Also, value)
		}
	default:
		ok = false
	}
	if !ok {
		return
	}
	e.drop()
	before := numbering.Labels(e.flow())
	e.Layout.propose(&edit.SetHead{Numbering: &n, Numbers: new(true)}, "")
	if e.proposed == nil {
		return
	}
	changed, example := 0, ""
	after := numbering.Labels(e.flow())
	for _, step := range numbering.Of(e.flow()) {
		if id := step.Symbol.ID; before[id] != after[id] {
			if changed++; changed == 1 {
				example = fmt.Sprintf(": %s becomes %s", before[id], after[id])
			}
		}
	}
	if changed == 0 { // other things get numbers of their own, or lose them
		changed = max(len(after)-len(before), 0)
	}
	e.proposed.numbers = &n
	e.proposed.words = fmt.Sprintf("%d numbers change%s.", changed, example)
	if changed == 1 {
		e.proposed.words = "One number changes" + example + "."
	}
	e.stale.facts = true
}

// Numbers tells what is set about numbers, for the bars.
type Numbers struct {
	model.Numbering
	Shown bool `json:"shown"`
	// Since and By say since when they are held, and by whom.
	Since string `json:"since,omitempty"`
	By    string `json:"by,omitempty"`
}

func (e *Numbering) numbers() Numbers {
	n := Numbers{e.m.Numbering, e.m.Numbers, e.m.Held.Since, e.m.Held.By}
	if p := e.proposed; p != nil && p.numbers != nil {
		n.Numbering = *p.numbers
	}
	return n
}

// Renumbering lists the steps whose numbers change when they are released, as JSON: the old number, the new one and the text.
func (e *Numbering) Renumbering() []byte {
	list := [][3]string{}
	for _, r := range numbering.Release(e.flow()) {
		list = append(list, [3]string{r.Was, r.Number, strings.Join(strings.Fields(r.Symbol.Text), " ")})
	}
	return asJSON(list)
}
