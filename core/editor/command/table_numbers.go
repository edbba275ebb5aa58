package command

import (
	"strings"

	"plaintracer/core/edit"
	"plaintracer/core/editor/desk"
	"plaintracer/core/model"
)

// numberCommands are the commands of the part "Number".
var numberCommands = []command{
	{name: "number",
		buttons: []button{{bar: "number", at: 1, icon: "list-ordered", on: "number", title: "Show the numbers"}},
		do: func(e *Commands, _ string) {
			v := !e.M.Numbers
			e.Do(&edit.SetHead{Numbers: &v})
		},
		ways: []way{
			{title: "Step numbers on or off"},
		},
	},
	{name: "numbering",
		buttons: []button{
			{bar: "number also", at: 1, arg: "also=ends", on: "also-ends", title: "terminators"},
			{bar: "number also", at: 2, arg: "also=documents", on: "also-documents", title: "documents"},
			{bar: "number also", at: 3, arg: "also=data", on: "also-data", title: "data"},
			{bar: "number also", at: 4, arg: "also=references", on: "also-references", title: "references"},
		},
		needs: needFollowing,
		do:    func(e *Commands, arg string) { e.Numbering.TryNumbering(arg) },
		choices: []choice{
			{"scheme=", "Number", []string{"", string(model.Branched), string(model.ByLane), string(model.ByStage),
				string(model.ByPlace), string(model.BySheet)},
				[]string{"in the order of the flow", "by the answers of decisions", "by lane", "by stage",
					"by place on the sheet", "by sheet"}},
		},
	},
	{name: "badge",
		do: func(e *Commands, arg string) {
			n := e.M.Numbering
			n.Badge = arg
			e.Do(&edit.SetHead{Numbering: &n})
		},
		choices: []choice{
			{"", "Numbers stand", model.Badges, []string{"at the corner", "before the text", "above the symbol"}},
		},
	},
	{name: "pin-open",
		buttons: []button{{bar: "this number", at: 1, icon: "pin"}},
		needs:   needTheOne,
		do:      pageOpens("pin-open"),
		menus:   places{inSymbol: 304},
		ways: []way{
			{title: "Pin its number…", words: "fix number by hand"},
		},
	},
	{name: "pin",
		needs: needTheOne,
		do: func(e *Commands, arg string) {
			arg = strings.TrimSpace(arg)
			e.Do(&edit.SetNumber{Sheet: e.SheetID, IDs: []string{e.One().ID}, Pinned: &arg})
		},
	},
	{name: "uncount",
		buttons: []button{{bar: "this number", at: 2, icon: "eye-off", on: "uncounted", title: "Leave it out"}},
		needs:   needSymbols(1, desk.NeedStep),
		do: func(e *Commands, _ string) {
			v := !e.Chosen()[0].Uncounted
			var ids []string
			for _, sym := range e.Chosen() {
				ids = append(ids, sym.ID)
			}
			e.Do(&edit.SetNumber{Sheet: e.SheetID, IDs: ids, Uncounted: &v})
		},
		menus: places{inSymbol: 305},
		ways: []way{
			{title: "Leave it out of the numbers, or take it in", words: "number exclude skip count"},
		},
	},
	{name: "hold-open",
		buttons: []button{{bar: "hold", at: 1, icon: "lock"}},
		needs: func(e *desk.Desk) string {
			if e.M.Held.On() {
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
		needs: needFollowing,
		do: func(e *Commands, arg string) {
			since, by, _ := strings.Cut(arg, " ")
			if e.Do(&edit.HoldNumbers{Since: since, By: by}) {
				e.Say("The numbers stay as they are until they are released.")
			}
		},
	},
	{name: "release-open",
		buttons: []button{{bar: "hold", at: 2, icon: "lock-open"}},
		needs: func(e *desk.Desk) string {
			if !e.M.Held.On() {
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
	{name: "fields-open",
		do: pageOpens("fields-open"),
		ways: []way{
			{title: "Fields of the map…", words: "field column add attribute cost time system currency working day"},
		},
	},
	{name: "release-numbers",
		do: func(e *Commands, _ string) { e.Do(&edit.ReleaseNumbers{}) },
	},
}

// needFollowing is for what goes only while the numbers follow the flow.
func needFollowing(e *desk.Desk) string {
	if e.M.Held.On() {
		return "Release the numbers first."
	}
	return ""
}

func needTheOne(e *desk.Desk) string {
	if e.One() == nil {
		return "Select one symbol."
	}
	return ""
}
