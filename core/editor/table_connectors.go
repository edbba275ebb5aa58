package editor

import (
	"plaintracer/core/edit"
	"plaintracer/core/model"
)

// connectorsCommands are the commands of the part "Connectors".
func connectorsCommands() []command {
	return []command{
		{name: "exceptional",
			needs: needLine,
			do: func(e *Commands, _ string) {
				v := !e.lines()[0].Dashed
				e.Styling.style(&edit.SetStyle{Dashed: &v}, true)
			},
			menus: places{inConnector: 201},
			ways: []way{
				{title: "Exceptional path", words: "dashed"},
			},
		},
		{name: "give-back",
			needs: func(e *Desk) string {
				for _, c := range e.lines() {
					if len(c.Bends) > 0 {
						return ""
					}
				}
				return "Select a connector that was bent by hand."
			},
			do: func(e *Commands, _ string) {
				var edits []edit.Edit
				for _, c := range e.lines() {
					if len(c.Bends) > 0 {
						edits = append(edits, &edit.SetBends{Sheet: e.sheetID, ID: c.ID})
					}
				}
				e.do(edit.Together("give the course back", edits...))
			},
			menus: places{inConnector: 202},
			ways: []way{
				{title: "Let it find its own way again", key: "Ctrl+Backspace", words: "bend reset route"},
			},
		},
		{name: "glue",
			needs: func(e *Desk) string {
				if c := e.connector(); c == nil || c.From.Side == "" && c.To.Side == "" {
					return "Select a connector that is glued to a fixed point."
				}
				return ""
			},
			do: func(e *Commands, _ string) {
				c := e.connector()
				from, to := c.From, c.To
				from.Side, to.Side = "", ""
				e.do(&edit.SetEnds{Sheet: e.sheetID, ID: c.ID, From: &from, To: &to})
			},
			menus: places{inConnector: 203},
			ways: []way{
				{title: "Glue to the best sides"},
			},
		},
		{name: "trunk",
			needs: func(e *Desk) string {
				if len(e.Styling.sources()) == 0 {
					return "Select an exit, or the symbol whose exits are to share a trunk."
				}
				return ""
			},
			do: func(e *Commands, _ string) {
				list := e.Styling.sources()
				v := !list[0].Trunk
				s := &edit.SetStyle{Sheet: e.sheetID, Trunk: &v}
				for _, sym := range list {
					s.IDs = append(s.IDs, sym.ID)
				}
				e.do(s)
			},
			menus: places{inConnector: 205},
			ways: []way{
				{title: "Exits share a trunk"},
			},
		},
		{name: "labels-home",
			needs: func(e *Desk) string {
				for _, c := range e.lines() {
					if c.Place != (model.Spot{}) || c.FromPlace != (model.Spot{}) || c.ToPlace != (model.Spot{}) {
						return ""
					}
				}
				return "Select a connector whose label was moved by hand."
			},
			do: func(e *Commands, _ string) {
				var edits []edit.Edit
				for _, c := range e.lines() {
					for _, at := range model.LabelNames {
						edits = append(edits, &edit.SetPlace{Sheet: e.sheetID, ID: c.ID, At: at})
					}
				}
				e.do(edit.Together("let labels find their place", edits...))
			},
			menus: places{inConnector: 206},
			ways: []way{
				{title: "Labels find their own place"},
			},
		},
		{name: "turn",
			needs: func(e *Desk) string {
				if e.connector() == nil {
					return "Select a connector to reverse."
				}
				return ""
			},
			do: func(e *Commands, _ string) {
				c := e.connector()
				from, to := c.To, c.From
				if from.Connector != "" {
					e.say("This connector ends on another connector, so it cannot be reversed.")
					return
				}
				e.do(&edit.SetEnds{Sheet: e.sheetID, ID: c.ID, From: &from, To: &to})
			},
			menus: places{inConnector: 204},
			ways: []way{
				{title: "Reverse the connector"},
			},
		},
		{name: "ends",
			needs: needLine,
			do:    func(e *Commands, _ string) { e.Styling.bothWays() },
			ways: []way{
				{title: "Both ways"},
			},
		},
		{name: "label",
			needs: func(e *Desk) string {
				if e.connector() == nil {
					return "Select a connector to label."
				}
				return ""
			},
			do: func(e *Commands, arg string) { e.Writing.startWritingAt(e.sel[0], arg, false) },
			ways: []way{
				{arg: "from", title: "Label at the beginning"},
				{arg: "to", title: "Label at the end"},
			},
		},
		{name: "line",
			needs: needLine,
			do:    func(e *Commands, arg string) { e.Styling.styleLine(arg) },
			choices: []choice{
				{"ink=", "Line colour", model.Fills, colourNames},
				{"course=", "Course", []string{"", "straight", "curved"}, []string{"right-angled", "straight", "curved"}},
				{"line=", "Pattern", []string{"", "dashed", "dotted", "dash-dot", "transfer", "link"}, []string{"solid", "dashed", "dotted", "dash and dot", "control transfer", "communication link"}},
				{"hop=", "Where it crosses others", []string{"", "plain", "gap", "arc"}, []string{"as the sheet says", "plainly", "with a gap", "with an arc"}},
				{"merge=", "Where others reach the same side", []string{"", "merge", "apart"}, []string{"as the sheet says", "merges with them", "keeps apart"}},
				{"from=", "Beginning", markValues, markNames},
				{"to=", "End", markValues, markNames},
				{"size=", "Size of the ends", []string{"small", "", "large"}, []string{"small", "middle", "large"}},
			},
		},
	}
}
