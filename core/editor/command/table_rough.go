package command

import (
	"plaintracer/core/editor/desk"
	"plaintracer/core/model"
)

// roughOutCommands are the commands of the part "Rough out".
var roughOutCommands = []command{
	{name: "append",
		needs: func(e *desk.Desk) string {
			if e.One() == nil && len(e.Sheet().Symbols) > 0 {
				return desk.NeedFrom
			}
			return ""
		},
		do:    func(e *Commands, arg string) { e.Writing.AppendStep(model.Kind(arg)) },
		menus: places{inSymbol: 102},
		ways: []way{
			{arg: "process", title: "Add the next step", key: "Enter", words: "append process after"},
		},
	},
	{name: "exit",
		flows: true,
		needs: needBranch,
		do:    func(e *Commands, _ string) { e.Selecting.FurtherExit() },
		menus: places{inSymbol: 103},
		ways: []way{
			{title: "Add the step of the other answer", key: "Shift+Enter", words: "branch exit decision no second"},
		},
	},
	{name: "between",
		flows:   true,
		buttons: []button{{bar: "steps", at: 2, icon: "between-vertical-start"}},
		needs: func(e *desk.Desk) string {
			if len(e.ChosenLines()) != 1 {
				return "Select a connector to put a step into."
			}
			return ""
		},
		do:    func(e *Commands, _ string) { e.Lines.InsertBetween() },
		menus: places{inConnector: 102},
		ways: []way{
			{title: "Put a step in between", key: "Insert", words: "insert middle"},
		},
	},
	{name: "connect",
		buttons: []button{{bar: "steps", at: 1, icon: "spline"}},
		needs: func(e *desk.Desk) string {
			if e.OnJourney() {
				return "A journey has no connectors: its stages lead on. Give it a link to lead to a step."
			}
			if e.One() == nil && e.Connector() == nil {
				return "Select the symbol to connect from, or a connector to lead elsewhere."
			}
			return ""
		},
		do:    func(e *Commands, arg string) { e.Lines.Lead(arg == "from") },
		menus: places{inSymbol: 104, inConnector: 103},
		ways: []way{
			{title: "Connect by keys", key: "Ctrl+L", words: "lead link line arrow loop back"},
			{arg: "from", aside: true, title: "Lead the beginning elsewhere", key: "Ctrl+Shift+L", words: "reconnect"},
		},
	},
	{name: "swap",
		flows:   true,
		buttons: []button{{bar: "ends", at: 3, icon: "replace"}},
		needs:   needDecision,
		do:      func(e *Commands, _ string) { e.Writing.SwapAnswers() },
		menus:   places{inSymbol: 105, inConnector: 104},
		ways: []way{
			{title: "Swap the answers", key: "/", words: "yes no exchange"},
		},
	},
	{name: "lane-up",
		buttons: []button{{bar: "owners", at: 4, icon: "arrow-up", title: "Move the step to the lane above"}},
		needs:   needInLane,
		do:      func(e *Commands, _ string) { e.Lanes.ToLane(-1) },
		ways: []way{
			{title: "Into the lane above", key: "Ctrl+ArrowUp", words: "owner move"},
		},
	},
	{name: "lane-down",
		buttons: []button{{bar: "owners", at: 5, icon: "arrow-down", title: "Move the step to the lane below"}},
		needs:   needInLane,
		do:      func(e *Commands, _ string) { e.Lanes.ToLane(1) },
		ways: []way{
			{title: "Into the lane below", key: "Ctrl+ArrowDown", words: "owner move"},
		},
	},
	{name: "delete",
		buttons: []button{{bar: "steps", at: 4, icon: "trash-2"}},
		needs: func(e *desk.Desk) string {
			if len(e.Sel) == 0 && e.Lane == "" {
				return "Select something to delete."
			}
			return ""
		},
		do:    func(e *Commands, arg string) { e.delete(arg) },
		menus: places{inSymbol: 502, inConnector: 401, inPool: 201},
		ways: []way{
			{title: "Delete", key: "Delete", words: "remove"},
		},
	},
	{name: "delete-close",
		buttons: []button{{bar: "steps", at: 3, icon: "trash-2"}},
		needs: func(e *desk.Desk) string {
			if e.One() == nil {
				return "Select the one step to delete."
			}
			return ""
		},
		do:    func(e *Commands, _ string) { e.Lines.RemoveClosing() },
		menus: places{inSymbol: 503},
		ways: []way{
			{title: "Delete and close the gap", key: "Shift+Delete", words: "remove"},
		},
	},
}
