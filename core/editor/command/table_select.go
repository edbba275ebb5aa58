package command

import (
	"plaintracer/core/editor/desk"
)

// selectingCommands are the commands of the part "Select".
var selectingCommands = []command{
	{name: "next",
		do: func(e *Commands, _ string) { e.Selecting.Along(false) },
		ways: []way{
			{title: "Go to the next along the flow", key: "PageDown", words: "go"},
		},
	},
	{name: "previous",
		do: func(e *Commands, _ string) { e.Selecting.Along(true) },
		ways: []way{
			{title: "Go to the previous along the flow", key: "PageUp", words: "go back"},
		},
	},
	{name: "beside-steps",
		do: func(e *Commands, _ string) { e.Selecting.Others() },
		ways: []way{
			{title: "Go from steps to lines, lanes and stages", key: "F4",
				words: "select connector lane stage by keys keyboard"},
		},
	},
	{name: "sibling",
		needs: needOne,
		do:    func(e *Commands, _ string) { e.Selecting.Sibling() },
		ways: []way{
			{title: "Go to the other branch", key: "Shift+PageDown", words: "next exit"},
		},
	},
	{name: "first",
		do: func(e *Commands, _ string) { e.Selecting.ToEnd(false) },
		ways: []way{
			{title: "Go to the first step", key: "Home"},
		},
	},
	{name: "last",
		do: func(e *Commands, _ string) { e.Selecting.ToEnd(true) },
		ways: []way{
			{title: "Go to the last step", key: "End"},
		},
	},
	{name: "select-all",
		do:    func(e *Commands, _ string) { e.selectAll() },
		menus: places{inDesk: 103},
		ways: []way{
			{title: "Select everything on the sheet", key: "Ctrl+A", words: "select all"},
		},
	},
	{name: "select-kind",
		buttons: []button{{bar: "select", at: 1, icon: "shapes"}},
		needs: func(e *desk.Desk) string {
			if len(e.Sel) == 0 {
				return "Select a symbol or a connector first."
			}
			return ""
		},
		do:    func(e *Commands, _ string) { e.Selecting.SelectKind() },
		menus: places{inSymbol: 301},
		ways: []way{
			{title: "Select all of its kind", key: "Alt+K", words: "select same"},
		},
	},
	{name: "select-lane",
		buttons: []button{{bar: "this lane", at: 4, icon: "square-dashed", title: "Select all in the lane"}},
		needs: func(e *desk.Desk) string {
			if p, _ := e.StageSelected(); p == nil && len(e.Selecting.LanesChosen()) == 0 {
				return "Select a lane or a stage, or a step that stands in one."
			}
			return ""
		},
		do:    func(e *Commands, _ string) { e.Selecting.SelectLane() },
		menus: places{inLane: 102, inStage: 105, inSymbol: 302},
		ways: []way{
			{title: "Select all in its lane or stage", key: "Alt+L", words: "select owner phase"},
		},
	},
	{name: "select-onward",
		buttons: []button{{bar: "select", at: 2, icon: "move-right"}},
		needs:   needSymbols(1, desk.NeedStep),
		do:      func(e *Commands, _ string) { e.Selecting.Pick(e.Selecting.Reachable(false)) },
		menus:   places{inSymbol: 303},
		ways: []way{
			{title: "Select everything downstream", key: "Alt+PageDown", words: "select after"},
		},
	},
	{name: "select-upstream",
		buttons: []button{{bar: "select", at: 3, icon: "arrow-left"}},
		needs:   needSymbols(1, desk.NeedStep),
		do:      func(e *Commands, _ string) { e.Selecting.Pick(e.Selecting.Reachable(true)) },
		menus:   places{inSymbol: 304},
		ways: []way{
			{title: "Select everything upstream", key: "Alt+PageUp", words: "select before"},
		},
	},
}
