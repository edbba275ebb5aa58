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

// numberCommands are the commands of the part "Number".
func numberCommands() []command {
	holding := func(e *Editor) string {
		if e.m.Held.On() {
			return "Release the numbers first."
		}
		return ""
	}
	return []command{
		{name: "number",
			do: func(e *Editor, _ string) {
				v := !e.m.Numbers
				e.do(&edit.SetHead{Numbers: &v})
			},
			ways: []way{
				{title: "Step numbers on or off"},
			},
		},
		{name: "numbering",
			needs: holding,
			do:    (*Editor).tryNumbering,
			choices: []choice{
				{"scheme=", "Number", []string{"", string(model.Branched), string(model.ByLane), string(model.ByStage), string(model.ByPlace)},
					[]string{"in the order of the flow", "by the answers of decisions", "by lane", "by stage", "by place on the sheet"}},
			},
		},
		{name: "badge",
			do: func(e *Editor, arg string) {
				n := e.m.Numbering
				n.Badge = arg
				e.do(&edit.SetHead{Numbering: &n})
			},
			choices: []choice{
				{"", "Numbers stand", model.Badges, []string{"at the corner", "before the text", "above the symbol"}},
			},
		},
		{name: "pin-open",
			needs: needTheOne,
			do:    pageOpens("pin-open"),
			menus: places{inSymbol: 304},
			ways: []way{
				{title: "Pin its number…", words: "fix number by hand"},
			},
		},
		{name: "pin",
			needs: needTheOne,
			do: func(e *Editor, arg string) {
				arg = strings.TrimSpace(arg)
				e.do(&edit.SetNumber{Sheet: e.sheetID, IDs: []string{e.one().ID}, Pinned: &arg})
			},
		},
		{name: "uncount",
			needs: needSymbols(1, needStep),
			do: func(e *Editor, _ string) {
				v := !e.chosen()[0].Uncounted
				var ids []string
				for _, sym := range e.chosen() {
					ids = append(ids, sym.ID)
				}
				e.do(&edit.SetNumber{Sheet: e.sheetID, IDs: ids, Uncounted: &v})
			},
			menus: places{inSymbol: 305},
			ways: []way{
				{title: "Leave it out of the numbers, or take it in", words: "number exclude skip count"},
			},
		},
		{name: "hold-open",
			needs: func(e *Editor) string {
				if e.m.Held.On() {
					return "The numbers are held already."
				}
				return ""
			},
			do: pageOpens("hold-open"),
			ways: []way{
				{title: "Hold the numbers", words: "freeze keep number"},
			},
		},
		{name: "hold-numbers",
			needs: holding,
			do: func(e *Editor, arg string) {
				since, by, _ := strings.Cut(arg, " ")
				if e.do(&edit.HoldNumbers{Since: since, By: by}) {
					e.say("The numbers stay as they are until they are released.")
				}
			},
		},
		{name: "release-open",
			needs: func(e *Editor) string {
				if !e.m.Held.On() {
					return "The numbers are not held."
				}
				return ""
			},
			do: pageOpens("release-open"),
			ways: []way{
				{title: "Release the numbers…", words: "renumber hold"},
			},
		},
		{name: "register-wide",
			do: pageOpens("register-wide"),
			ways: []way{
				{title: "Register over the whole window", key: "Alt+T", words: "table spreadsheet grid fields"},
			},
			reading: true,
		},
		{name: "release-numbers",
			do: func(e *Editor, _ string) { e.do(&edit.ReleaseNumbers{}) },
		},
	}
}

func needTheOne(e *Editor) string {
	if e.one() == nil {
		return "Select one symbol."
	}
	return ""
}

// tryNumbering shows how the map would be numbered with one value changed; what is shown can be kept or left. Values that were
// tried before stay.
func (e *Editor) tryNumbering(arg string) {
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
	e.propose(&edit.SetHead{Numbering: &n, Numbers: new(true)}, "")
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

func (e *Editor) numbers() Numbers {
	n := Numbers{e.m.Numbering, e.m.Numbers, e.m.Held.Since, e.m.Held.By}
	if p := e.proposed; p != nil && p.numbers != nil {
		n.Numbering = *p.numbers
	}
	return n
}

// Renumbering lists the steps whose numbers change when they are released, as JSON: the old number, the new one and the text.
func (e *Editor) Renumbering() []byte {
	list := [][3]string{}
	for _, r := range numbering.Release(e.flow()) {
		list = append(list, [3]string{r.Was, r.Number, strings.Join(strings.Fields(r.Symbol.Text), " ")})
	}
	return asJSON(list)
}
