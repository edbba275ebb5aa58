package command

import (
	"plaintracer/core/edit"
	"plaintracer/core/editor/desk"
	"plaintracer/core/model"
)

// connectorsCommands are the commands of the part "Connectors".
var connectorsCommands = []command{
	{name: "exceptional",
		buttons: []button{{bar: "line", at: 1, icon: "square-dashed", on: "exceptional"}},
		needs:   needLine,
		do: func(e *Commands, _ string) {
			v := !e.ChosenLines()[0].Dashed
			e.Styling.Style(&edit.SetStyle{Dashed: &v}, true)
		},
		menus: places{inConnector: 201},
		ways: []way{
			{title: "Exceptional path", words: "dashed"},
		},
	},
	{name: "give-back",
		buttons: []button{{bar: "course", at: 1, icon: "rotate-ccw"}},
		needs: func(e *desk.Desk) string {
			for _, c := range e.ChosenLines() {
				if len(c.Bends) > 0 {
					return ""
				}
			}
			return "Select a connector that was bent by hand."
		},
		do: func(e *Commands, _ string) {
			var edits []edit.Edit
			for _, c := range e.ChosenLines() {
				if len(c.Bends) > 0 {
					edits = append(edits, &edit.SetBends{Sheet: e.SheetID, ID: c.ID})
				}
			}
			e.Do(edit.Together("give the course back", edits...))
		},
		menus: places{inConnector: 202},
		ways: []way{
			{title: "Reset route", key: "Ctrl+Backspace", words: "bend course let it find its own way again"},
		},
	},
	{name: "glue",
		buttons: []button{{bar: "course", at: 2, icon: "spline"}},
		needs: func(e *desk.Desk) string {
			if c := e.Connector(); c == nil || c.From.Side == "" && c.To.Side == "" {
				return "Select a connector that is glued to a fixed point."
			}
			return ""
		},
		do: func(e *Commands, _ string) {
			c := e.Connector()
			from, to := c.From, c.To
			from.Side, to.Side = "", ""
			e.Do(&edit.SetEnds{Sheet: e.SheetID, ID: c.ID, From: &from, To: &to})
		},
		menus: places{inConnector: 203},
		ways: []way{
			{title: "Glue to the best sides"},
		},
	},
	{name: "trunk",
		buttons: []button{{bar: "course", at: 3, icon: "git-fork", on: "trunk",
			title: "Exits of the symbol share a trunk"}},
		needs: func(e *desk.Desk) string {
			if len(e.Styling.Sources()) == 0 {
				return "Select an exit, or the symbol whose exits are to share a trunk."
			}
			return ""
		},
		do: func(e *Commands, _ string) {
			list := e.Styling.Sources()
			v := !list[0].Trunk
			s := &edit.SetStyle{Sheet: e.SheetID, Trunk: &v}
			for _, sym := range list {
				s.IDs = append(s.IDs, sym.ID)
			}
			e.Do(s)
		},
		menus: places{inConnector: 205},
		ways: []way{
			{title: "Exits share a trunk"},
		},
	},
	{name: "labels-home",
		buttons: []button{{bar: "course", at: 4, icon: "tag"}},
		needs: func(e *desk.Desk) string {
			for _, c := range e.ChosenLines() {
				if c.Place != (model.Spot{}) || c.FromPlace != (model.Spot{}) || c.ToPlace != (model.Spot{}) {
					return ""
				}
			}
			return "Select a connector whose label was moved by hand."
		},
		do: func(e *Commands, _ string) {
			var edits []edit.Edit
			for _, c := range e.ChosenLines() {
				for _, at := range model.LabelNames {
					edits = append(edits, &edit.SetPlace{Sheet: e.SheetID, ID: c.ID, At: at})
				}
			}
			e.Do(edit.Together("let labels find their place", edits...))
		},
		menus: places{inConnector: 206},
		ways: []way{
			{title: "Labels find their own place"},
		},
	},
	{name: "turn",
		flows:   true,
		buttons: []button{{bar: "ends", at: 1, icon: "arrow-left-right"}},
		needs: func(e *desk.Desk) string {
			if e.Connector() == nil {
				return "Select a connector to reverse."
			}
			return ""
		},
		do: func(e *Commands, _ string) {
			c := e.Connector()
			from, to := c.To, c.From
			if from.Connector != "" {
				e.Say("This connector ends on another connector, so it cannot be reversed.")
				return
			}
			e.Do(&edit.SetEnds{Sheet: e.SheetID, ID: c.ID, From: &from, To: &to})
		},
		menus: places{inConnector: 204},
		ways: []way{
			{title: "Reverse the connector"},
		},
	},
	{name: "ends",
		buttons: []button{{bar: "ends", at: 2, icon: "move-horizontal"}},
		needs:   needLine,
		do:      func(e *Commands, _ string) { e.Styling.BothWays() },
		ways: []way{
			{title: "Both ways"},
		},
	},
	{name: "label",
		buttons: []button{
			{bar: "ends", at: 4, arg: "from", icon: "tag"},
			{bar: "ends", at: 5, arg: "to", icon: "tag"},
		},
		needs: func(e *desk.Desk) string {
			if e.Connector() == nil {
				return "Select a connector to label."
			}
			return ""
		},
		do: func(e *Commands, arg string) { e.Writing.StartWritingAt(e.Sel[0], arg, false) },
		ways: []way{
			{arg: "from", title: "Label at the beginning"},
			{arg: "to", title: "Label at the end"},
		},
	},
	{name: "line",
		peeks: true,
		needs: needLine,
		do:    func(e *Commands, arg string) { e.Styling.StyleLine(arg) },
		choices: []choice{
			{"ink=", "Line colour", model.Fills, colourNames},
			{"course=", "Route", []string{"", "straight", "curved"}, []string{"right-angled", "straight", "curved"}},
			{"line=", "Pattern", []string{"", "dashed", "dotted", "dash-dot", "transfer", "link"},
				[]string{"solid", "dashed", "dotted", "dash and dot", "control transfer", "communication link"}},
			{"hop=", "Where it crosses others", []string{"", "arc", "square", "gap", "plain"},
				[]string{"as the sheet says", "with an arc", "with a square jump", "with a gap", "plainly"}},
			{"merge=", "Where others reach the same side", []string{"", "merge", "apart"},
				[]string{"as the sheet says", "merges with them", "keeps apart"}},
			{"from=", "Beginning", markValues, markNames},
			{"to=", "End", markValues, markNames},
			{"size=", "Size of the ends", []string{"small", "", "large"}, []string{"small", "medium", "large"}},
			{"weight=", "Weight", weights, weights},
		},
	},
}
