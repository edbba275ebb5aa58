package command

import (
	"strings"

	"plaintracer/core/arrange"
	"plaintracer/core/edit"
	"plaintracer/core/editor/desk"
	"plaintracer/core/geometry"
)

// copyAndHoldCommands are the commands of the part "Copy and hold together".
var copyAndHoldCommands = []command{
	{name: "duplicate",
		buttons: []button{{bar: "steps", at: 5, icon: "copy"}},
		needs:   needSymbols(1, desk.NeedStep),
		do: func(e *Commands, _ string) {
			e.Clipboard.CopyBy(geometry.Point{X: 2 * arrange.Grid, Y: 2 * arrange.Grid})
		},
		menus: places{inSymbol: 501},
		ways: []way{
			{title: "Duplicate", key: "Ctrl+D", words: "copy"},
		},
	},
	{name: "paste-here",
		buttons: []button{{bar: "steps", at: 6, icon: "clipboard-paste"}},
		do:      pageOpens("paste-here"),
		menus:   places{inDesk: 101},
		ways: []way{
			{title: "Paste at the pointer", key: "Ctrl+Shift+V"},
		},
	},
	{name: "group",
		buttons: []button{{bar: "group", at: 1, icon: "group"}},
		needs:   needSymbols(2, "Select two or more symbols to group."),
		do:      func(e *Commands, _ string) { e.Selecting.Group() },
		menus:   places{inSymbol: 403},
		ways: []way{
			{title: "Group", key: "Ctrl+G", words: "hold together"},
		},
	},
	{name: "ungroup",
		buttons: []button{{bar: "group", at: 2, icon: "ungroup"}},
		needs:   needGroup,
		do:      func(e *Commands, _ string) { e.Selecting.Ungroup() },
		menus:   places{inSymbol: 404},
		ways: []way{
			{title: "Ungroup", key: "Ctrl+Shift+G", words: "take apart"},
		},
	},
	{name: "group-in",
		buttons: []button{{bar: "group", at: 3, icon: "log-in"}},
		needs:   needGroup,
		do:      func(e *Commands, _ string) { e.Selecting.Enter(e.Sel[len(e.Sel)-1]) },
		menus:   places{inSymbol: 405},
		ways: []way{
			{title: "Edit inside the group", key: "Alt+Enter", words: "enter"},
		},
	},
	{name: "lock",
		buttons: []button{{bar: "group", at: 4, icon: "lock", on: "locked"}},
		needs: func(e *desk.Desk) string {
			if len(e.Sel) == 0 {
				return "Select something to lock or unlock."
			}
			return ""
		},
		do:    func(e *Commands, _ string) { e.Selecting.Lock() },
		menus: places{inSymbol: 406, inConnector: 303, inPool: 105},
		ways: []way{
			{title: "Lock or unlock", key: "Ctrl+Shift+K", words: "protect fix"},
		},
	},
	{name: "order",
		buttons: []button{
			{bar: "order", at: 1, arg: "front", icon: "bring-to-front"},
			{bar: "order", at: 2, arg: "forward", icon: "arrow-up"},
			{bar: "order", at: 3, arg: "backward", icon: "arrow-down"},
			{bar: "order", at: 4, arg: "back", icon: "send-to-back"},
		},
		needs: needSymbols(1, desk.NeedStep),
		do: func(e *Commands, arg string) {
			e.Do(&edit.Order{Sheet: e.SheetID, IDs: e.Styling.SymbolIDs(), Back: strings.HasPrefix(arg, "back"),
				Step: strings.HasSuffix(arg, "ward")})
		},
		ways: []way{
			{arg: "front", title: "To the front"},
			{arg: "forward", title: "One step forward"},
			{arg: "backward", title: "One step back"},
			{arg: "back", title: "To the back"},
		},
	},
}
