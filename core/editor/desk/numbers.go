package desk

import (
	"fmt"
	"slices"
	"strconv"
	"strings"

	"plaintracer/core/edit"
	"plaintracer/core/model"
	"plaintracer/core/numbering"
)

// TryNumbering shows how the map would be numbered with one value changed; what is shown can be kept or left. Values
// that were tried before stay.
func (e *Numbering) TryNumbering(arg string) {
	n := e.M.Numbering
	if p := e.Proposed; p != nil && p.numbers != nil {
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
			e.Say("“%s” is no whole number.", value)
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
	e.Drop()
	before := numbering.Labels(e.Flow())
	e.Layout.propose(&edit.SetHead{Numbering: &n, Numbers: new(true)}, "")
	if e.Proposed == nil {
		return
	}
	changed, example := 0, ""
	after := numbering.Labels(e.Flow())
	for _, step := range numbering.Of(e.Flow()) {
		if id := step.Symbol.ID; before[id] != after[id] {
			if changed++; changed == 1 {
				example = fmt.Sprintf(": %s becomes %s", before[id], after[id])
			}
		}
	}
	if changed == 0 { // other things get numbers of their own, or lose them
		changed = max(len(after)-len(before), 0)
	}
	e.Proposed.numbers = &n
	e.Proposed.Words = fmt.Sprintf("%d numbers change%s.", changed, example)
	if changed == 1 {
		e.Proposed.Words = "One number changes" + example + "."
	}
	e.Stale.Facts = true
}

// Numbers tells what is set about numbers, for the bars.
type Numbers struct {
	model.Numbering
	Shown bool `json:"shown"`
	// Since and By say since when they are held, and by whom.
	Since string `json:"since,omitempty"`
	By    string `json:"by,omitempty"`
}

// Numbers is what is set about numbers.
func (e *Numbering) Numbers() Numbers {
	n := Numbers{e.M.Numbering, e.M.Numbers, e.M.Held.Since, e.M.Held.By}
	if p := e.Proposed; p != nil && p.numbers != nil {
		n.Numbering = *p.numbers
	}
	return n
}

// Renumbering lists the steps whose numbers change when they are released, as JSON: the old number, the new one and the
// text.
func (e *Numbering) Renumbering() []byte {
	list := [][3]string{}
	for _, r := range numbering.Release(e.Flow()) {
		list = append(list, [3]string{r.Was, r.Number, strings.Join(strings.Fields(r.Symbol.Text), " ")})
	}
	return AsJSON(list)
}
