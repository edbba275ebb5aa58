package editor

import "plaintracer/core/model"

// roughOutCommands are the commands of the part "Rough out".
func roughOutCommands() []command {
	return []command{
		{name: "append",
			needs: func(e *Desk) string {
				if e.one() == nil && len(e.Sheet().Symbols) > 0 {
					return needFrom
				}
				return ""
			},
			do:    func(e *Commands, arg string) { e.Writing.appendStep(model.Kind(arg)) },
			menus: places{inSymbol: 102},
			ways: []way{
				{arg: "process", title: "Add the next step", key: "Enter", words: "append process after"},
			},
		},
		{name: "exit",
			needs: needBranch,
			do:    func(e *Commands, _ string) { e.Selecting.furtherExit() },
			menus: places{inSymbol: 103},
			ways: []way{
				{title: "Add the step of the other answer", key: "Shift+Enter", words: "branch exit decision no second"},
			},
		},
		{name: "between",
			needs: func(e *Desk) string {
				if len(e.lines()) != 1 {
					return "Select a connector to put a step into."
				}
				return ""
			},
			do:    func(e *Commands, _ string) { e.Lines.insertBetween() },
			menus: places{inConnector: 102},
			ways: []way{
				{title: "Put a step in between", key: "Insert", words: "insert middle"},
			},
		},
		{name: "connect",
			needs: func(e *Desk) string {
				if e.one() == nil && e.connector() == nil {
					return "Select the symbol to connect from, or a connector to lead elsewhere."
				}
				return ""
			},
			do:    func(e *Commands, arg string) { e.Lines.lead(arg == "from") },
			menus: places{inSymbol: 104, inConnector: 103},
			ways: []way{
				{title: "Connect by keys", key: "Ctrl+L", words: "lead link line arrow loop back"},
				{arg: "from", aside: true, title: "Lead the beginning elsewhere", key: "Ctrl+Shift+L", words: "reconnect"},
			},
		},
		{name: "swap",
			needs: needDecision,
			do:    func(e *Commands, _ string) { e.Writing.swapAnswers() },
			menus: places{inSymbol: 105, inConnector: 104},
			ways: []way{
				{title: "Swap the answers", key: "/", words: "yes no exchange"},
			},
		},
		{name: "lane-up",
			needs: needInLane,
			do:    func(e *Commands, _ string) { e.Lanes.toLane(-1) },
			ways: []way{
				{title: "Into the lane above", key: "Ctrl+ArrowUp", words: "owner move"},
			},
		},
		{name: "lane-down",
			needs: needInLane,
			do:    func(e *Commands, _ string) { e.Lanes.toLane(1) },
			ways: []way{
				{title: "Into the lane below", key: "Ctrl+ArrowDown", words: "owner move"},
			},
		},
		{name: "delete",
			needs: func(e *Desk) string {
				if len(e.sel) == 0 && e.lane == "" {
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
			needs: func(e *Desk) string {
				if e.one() == nil {
					return "Select the one step to delete."
				}
				return ""
			},
			do:    func(e *Commands, _ string) { e.Lines.removeClosing() },
			menus: places{inSymbol: 503},
			ways: []way{
				{title: "Delete and close the gap", key: "Shift+Delete", words: "remove"},
			},
		},
	}
}
