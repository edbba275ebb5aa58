package command

import (
	"plaintracer/core/editor/desk"
)

// writeAndFindCommands are the commands of the part "Write and find".
var writeAndFindCommands = []command{
	{name: "write",
		buttons: []button{{bar: "text more", at: 2, icon: "pencil-line"}},
		needs: func(e *desk.Desk) string {
			if len(e.Sel) != 1 && e.Lane == "" {
				return "Select one symbol, connector or lane to write on."
			}
			return ""
		},
		do: func(e *Commands, _ string) {
			if e.Lane != "" {
				e.Writing.StartWriting(e.Lane, false)
			} else {
				e.Writing.StartWriting(e.Sel[0], false)
			}
		},
		menus: places{inStage: 101, inLane: 101, inSymbol: 101, inConnector: 101, inPool: 101},
		ways: []way{
			{title: "Edit text", key: "F2", words: "write on it text edit rename"},
		},
	},
	{name: "next-empty",
		buttons: []button{{bar: "find", at: 5, icon: "pencil-line", title: "Next empty symbol"}},
		do:      func(e *Commands, _ string) { e.Writing.NextEmpty() },
		ways: []way{
			{title: "Write on the next empty symbol", key: "Ctrl+Enter"},
		},
	},
	{name: "links-open",
		buttons: []button{{bar: "steps", at: 7, icon: "link", title: "Links…"}},
		needs:   needLinked,
		do:      pageOpens("links-open"),
		menus:   places{inSymbol: 109, inConnector: 106, inLane: 205},
		ways: []way{
			{title: "Links", key: "Alt+A", words: "address web mail url hyperlink attach lead"},
		},
	},
	{name: "link-add", needs: needLinked, do: func(e *Commands, arg string) { e.Writing.AddLink(arg) }},
	{name: "link-remove", needs: needLinked, do: func(e *Commands, arg string) { e.Writing.RemoveLink(arg) }},
	{name: "attach", needs: needLinked, do: func(e *Commands, arg string) { e.Writing.Attach(arg) }},
	{name: "detach", do: func(e *Commands, arg string) { e.Writing.Detach(arg) }},
	{name: "find-open",
		buttons: []button{{bar: "find", at: 2, icon: "text-search"}},
		do:      pageOpens("find-open"),
		reading: true,
		ways: []way{
			{title: "Find and replace", key: "Ctrl+F", words: "search text number"},
		},
	},
	{name: "find-next",
		needs:   needSearch,
		do:      func(e *Commands, _ string) { e.Searching.Jump(1) },
		reading: true,
		ways: []way{
			{title: "Next match", key: "F3"},
		},
	},
	{name: "find-previous",
		needs:   needSearch,
		do:      func(e *Commands, _ string) { e.Searching.Jump(-1) },
		reading: true,
		ways: []way{
			{title: "Previous match", key: "Shift+F3"},
		},
	},
	{name: "answers-open",
		flows:   true,
		buttons: []button{{bar: "map", at: 3, icon: "replace", title: "Answer words…"}},
		do:      pageOpens("answers-open"),
		ways: []way{
			{title: "Answer words", words: "yes no decision"},
		},
	},
	{name: "search-open",
		buttons: []button{{bar: "find", at: 1, icon: "command"}},
		do:      pageOpens("search-open"),
		reading: true,
		ways: []way{
			{title: "Find a command", key: "Ctrl+K", words: "search"},
		},
	},
	{name: "help-open",
		buttons: []button{{bar: "find", at: 4, icon: "book-open"}},
		do:      pageOpens("help-open"),
		reading: true,
		ways: []way{
			{title: "Help", key: "F1", words: "guide manual how"},
		},
	},
	{name: "keys-open",
		buttons: []button{{bar: "find", at: 3, icon: "keyboard"}},
		do:      pageOpens("keys-open"),
		reading: true,
		ways: []way{
			{title: "Keys and gestures", key: "?", words: "help shortcuts"},
		},
	},
}
