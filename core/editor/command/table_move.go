package command

import (
	"plaintracer/core/edit"
	"plaintracer/core/editor/desk"
)

// moveAndLineUpCommands are the commands of the part "Move and line up".
var moveAndLineUpCommands = []command{
	{name: "straighten",
		flows:   true,
		buttons: []button{{bar: "arrange", at: 1, icon: "ruler"}},
		needs:   needAny,
		do:      func(e *Commands, _ string) { e.Layout.Straighten() },
		menus:   places{inSymbol: 401, inDesk: 104},
		ways: []way{
			{title: "Straighten", key: "Alt+S", words: "line up tidy rows columns"},
		},
	},
	{name: "lay-out",
		flows:   true,
		buttons: []button{{bar: "arrange", at: 2, icon: "workflow"}},
		needs:   needAny,
		do:      func(e *Commands, arg string) { e.Layout.LayOut(arg) },
		menus:   places{inSymbol: 402, inDesk: 105},
		ways: []way{
			{title: "Lay out", key: "Alt+Y", words: "arrange whole flow automatic layout tidy"},
			{arg: "right", aside: true, title: "Lay out from left to right", words: "arrange direction layout"},
			{arg: "down", aside: true, title: "Lay out from top to bottom", words: "arrange direction layout"},
			{arg: "over", aside: true, title: "Lay out over several sheets", words: "continue next page reference"},
		},
	},
	{name: "lay-out-afresh",
		flows: true,
		needs: needAny,
		do:    func(e *Commands, _ string) { e.Layout.LayOut("afresh") },
		menus: places{inDesk: 106},
		ways: []way{
			{title: "Lay out afresh, wherever the steps stand",
				words: "anew again from scratch start over clean up mess rearrange reset automatic layout"},
		},
	},
	{name: "room",
		flows:   true,
		buttons: []button{{bar: "arrange", at: 3, icon: "unfold-horizontal", on: "room", title: "Make room"}},
		needs:   needAny,
		do: func(e *Commands, _ string) {
			e.Cancel()
			e.Hand, e.Armed = "", true
			e.Say("Press where you need room and drag: right or down opens a gap, back closes it.")
		},
		menus: places{inDesk: 102},
		ways: []way{
			{title: "Make room", key: "Alt+W", words: "space open close gap insert"},
		},
	},
	{name: "align",
		flows: true,
		buttons: []button{
			{bar: "align", at: 1, arg: "left", icon: "align-start-vertical", title: "Left edges"},
			{bar: "align", at: 2, arg: "centre", icon: "align-center-vertical", title: "Centres, in a column"},
			{bar: "align", at: 3, arg: "right", icon: "align-end-vertical", title: "Right edges"},
			{bar: "align", at: 4, arg: "top", icon: "align-start-horizontal", title: "Top edges"},
			{bar: "align", at: 5, arg: "middle", icon: "align-center-horizontal", title: "Middles, in a row"},
			{bar: "align", at: 6, arg: "bottom", icon: "align-end-horizontal", title: "Bottom edges"},
			{bar: "align sheet", at: 1, arg: "left sheet", icon: "align-start-vertical"},
			{bar: "align sheet", at: 2, arg: "centre sheet", icon: "align-center-vertical",
				title: "To the centre, across, of the sheet"},
			{bar: "align sheet", at: 3, arg: "right sheet", icon: "align-end-vertical"},
			{bar: "align sheet", at: 4, arg: "top sheet", icon: "align-start-horizontal"},
			{bar: "align sheet", at: 5, arg: "middle sheet", icon: "align-center-horizontal",
				title: "To the middle, down, of the sheet"},
			{bar: "align sheet", at: 6, arg: "bottom sheet", icon: "align-end-horizontal"},
		},
		needs: needSymbols(1, "Select what to line up: two or more symbols, or one for the sheet."),
		do:    func(e *Commands, arg string) { e.align(arg) },
		ways: []way{
			{arg: "left", title: "Align left edges"},
			{arg: "centre", title: "Align centres, in a column"},
			{arg: "right", title: "Align right edges"},
			{arg: "top", title: "Align top edges"},
			{arg: "middle", title: "Align middles, in a row"},
			{arg: "bottom", title: "Align bottom edges"},
			{arg: "left sheet", title: "To the left of the sheet", words: "align page"},
			{arg: "centre sheet", title: "To the centre of the sheet, horizontally", words: "align page"},
			{arg: "right sheet", title: "To the right of the sheet", words: "align page"},
			{arg: "top sheet", title: "To the top of the sheet", words: "align page"},
			{arg: "middle sheet", title: "To the middle of the sheet, vertically", words: "align page"},
			{arg: "bottom sheet", title: "To the bottom of the sheet", words: "align page"},
		},
	},
	{name: "distribute",
		flows: true,
		buttons: []button{
			{bar: "distribute", at: 1, arg: "across", icon: "align-horizontal-distribute-center"},
			{bar: "distribute", at: 2, arg: "down", icon: "align-vertical-distribute-center"},
			{bar: "distribute", at: 3, arg: "across centres", icon: "align-horizontal-distribute-center"},
			{bar: "distribute", at: 4, arg: "down centres", icon: "align-vertical-distribute-center"},
		},
		needs: func(e *desk.Desk) string {
			if len(e.Selecting.Units()) < 3 {
				return desk.NeedThree
			}
			return ""
		},
		do: func(e *Commands, arg string) { e.distribute(arg) },
		ways: []way{
			{arg: "across", title: "Equal gaps across", words: "distribute space"},
			{arg: "down", title: "Equal gaps down", words: "distribute space"},
			{arg: "across centres", title: "Equal distances of centres across", words: "distribute space"},
			{arg: "down centres", title: "Equal distances of centres down", words: "distribute space"},
		},
	},
	{name: "same",
		buttons: []button{
			{bar: "size", at: 1, arg: "width", icon: "move-horizontal"},
			{bar: "size", at: 2, arg: "height", icon: "move-vertical"},
			{bar: "size", at: 3, arg: "both", icon: "maximize"},
		},
		needs: needSymbols(2, "Select two or more symbols to make the same size; the first one sets it."),
		do:    func(e *Commands, arg string) { e.Styling.SameSize(arg) },
		ways: []way{
			{arg: "both", title: "Same size as the last selected"},
			{arg: "width", title: "Same width as the last selected"},
			{arg: "height", title: "Same height as the last selected"},
		},
	},
	{name: "snug",
		buttons: []button{{bar: "size", at: 4, icon: "shrink"}},
		needs:   needSymbols(1, desk.NeedStep),
		do:      func(e *Commands, _ string) { e.Styling.SizeToText() },
		ways: []way{
			{title: "Size to text"},
		},
	},
	{name: "grid",
		buttons: []button{{bar: "map more", at: 1, icon: "grid-3x3", on: "grid", title: "Grid"}},
		do: func(e *Commands, arg string) {
			e.Free = arg == "off" || arg == "" && !e.Free
		},
		menus: places{inDesk: 301},
		ways: []way{
			{title: "Grid on or off", key: "Alt+G", words: "snap"},
		},
	},
	{name: "others",
		do: func(e *Commands, arg string) {
			v := arg == "above"
			e.Do(&edit.SetHead{Above: &v})
		},
		choices: []choice{
			{"", "Lay out turns the other answers", []string{"", "above"},
				[]string{"down, or to the right", "up, or to the left"}},
		},
	},
}
