package command

import (
	"plaintracer/core/editor/desk"
)

// needChart says why there are no cards to work on.
func needChart(e *desk.Desk) string {
	if !e.Charted() {
		return "Turn to a hierarchy first."
	}
	return ""
}

// needCard says that a card has to be selected.
func needCard(e *desk.Desk) string {
	if lack := needChart(e); lack != "" {
		return lack
	}
	if len(e.ChosenCards()) == 0 {
		return "Select a card first."
	}
	return ""
}

// cardsCommands are the commands of the part "Hierarchies".
var cardsCommands = []command{
	{name: "sheet-hierarchy",
		buttons: []button{{bar: "sheets", at: 3, icon: "network"}},
		do:      func(e *Commands, _ string) { e.Sheets.AddHierarchy() },
		ways: []way{
			{title: "Add a hierarchy", words: "organisation chart org people tree who reports to whom"},
		},
	},
	{name: "people-open",
		buttons: []button{{bar: "cards", at: 7, icon: "file-input", title: "From a table or a list…"}},
		do:      pageOpens("people-open"),
		ways: []way{
			{title: "A hierarchy from a table or a list", words: "read people import csv xlsx ods organisation chart update"},
		},
	},
	{name: "card",
		buttons: []button{
			{bar: "cards", at: 1, arg: "below", icon: "chevron-down"},
			{bar: "cards", at: 2, arg: "beside", icon: "chevron-right"},
			{bar: "cards", at: 3, arg: "above", icon: "chevron-up"},
		},
		needs: needChart,
		do:    func(e *Commands, arg string) { e.Cards.Add(desk.Relation(arg)) },
		menus: places{inSymbol: 106},
		ways: []way{
			{arg: "below", title: "Add a card below", words: "subordinate child report employee"},
			{arg: "beside", title: "Add a card beside", words: "sibling colleague peer"},
			{arg: "above", title: "Add a card above", words: "superior parent head boss"},
		},
	},
	{name: "card-up",
		needs: needCard,
		do:    func(e *Commands, _ string) { e.Cards.Up() },
		ways: []way{
			{title: "Go to the superior", words: "parent head up"},
		},
	},
	{name: "card-fold",
		buttons: []button{{bar: "cards", at: 4, icon: "minus"},
			{bar: "part of journey", at: 3, icon: "minus", title: "Fold, or unfold"}},
		needs: func(e *desk.Desk) string {
			if e.OnJourney() {
				return needPart(e)
			}
			return needCard(e)
		},
		do: func(e *Commands, _ string) {
			if e.OnJourney() {
				e.Journeys.Fold()
			} else {
				e.Cards.Fold()
			}
		},
		menus: places{inSymbol: 107, inLane: 207, inStage: 112},
		ways: []way{
			{title: "Fold the branch, row or stage, or unfold it", key: "Alt+F", words: "collapse hide expand"},
		},
	},
	{name: "card-unfold",
		buttons: []button{{bar: "cards", at: 5, icon: "plus"}},
		needs:   needChart,
		do:      func(e *Commands, _ string) { e.Cards.UnfoldAll() },
		ways: []way{
			{title: "Unfold all", words: "expand show"},
		},
	},
	{name: "card-branch",
		buttons: []button{{bar: "cards", at: 6, icon: "square-dashed"}},
		needs:   needCard,
		do:      func(e *Commands, _ string) { e.Cards.SelectBranch() },
		menus:   places{inSymbol: 305},
		ways: []way{
			{title: "Select the branch", words: "select all under"},
		},
	},
	{name: "card-set",
		buttons: []button{
			{bar: "card", at: 1, arg: "assistant", icon: "users", on: "assistant"},
			{bar: "card", at: 2, arg: "post=vacant", icon: "square-dashed", on: "vacant"},
			{bar: "card", at: 3, arg: "post=planned", icon: "plus", on: "planned"},
		},
		needs: needCard,
		do:    func(e *Commands, arg string) { e.Cards.Set(arg) },
		menus: places{inSymbol: 108},
		ways: []way{
			{arg: "assistant", title: "Assistant", words: "staff deputy secretary"},
			{arg: "post=vacant", title: "The post is vacant", words: "open empty nobody"},
			{arg: "post=planned", title: "The post is planned", words: "future new"},
		},
	},
	{name: "card-sheet",
		buttons: []button{{bar: "cards", at: 8, icon: "file-output", title: "A sheet of its own"},
			{bar: "cards", at: 9, arg: "level", icon: "file-output", title: "Sheets for all of this level"}},
		needs: needCard,
		do:    func(e *Commands, arg string) { e.Cards.SheetOfOwn(arg == "level") },
		menus: places{inSymbol: 306},
		ways: []way{
			{title: "Give the branch a sheet of its own", words: "department split page"},
			{arg: "level", aside: true, title: "Give each branch of this level a sheet of its own", words: "department split pages depth"},
		},
	},
	{name: "card-back",
		buttons: []button{{bar: "cards", at: 10, icon: "file-input", title: "Back from its sheet"}},
		needs:   needCard,
		do:      func(e *Commands, _ string) { e.Cards.Back() },
		ways: []way{
			{title: "Bring the branch back from its sheet", words: "join merge undo sheet department"},
		},
	},
	{name: "acts-open",
		buttons: []button{{bar: "card", at: 4, icon: "footprints", title: "What it does…"}},
		needs: func(e *desk.Desk) string {
			if e.OneCard() == nil {
				return "Select one card first."
			}
			return ""
		},
		do:    pageOpens("acts-open"),
		menus: places{inSymbol: 109},
		ways: []way{
			{title: "Where this person acts", words: "steps tasks owner does who"},
		},
	},
	{name: "chart-last",
		needs: needChart,
		do:    func(e *Commands, arg string) { e.Sel = nil; e.Cards.Stand("last=" + arg) },
	},
	{name: "card-delete",
		needs: needChart,
		do:    func(e *Commands, arg string) { e.Cards.DeleteAs(arg) },
	},
	{name: "stand",
		buttons: []button{
			{bar: "stand", at: 1, arg: "down", title: "Down", on: "stand-down"},
			{bar: "stand", at: 2, arg: "up", title: "Up", on: "stand-up"},
			{bar: "stand", at: 3, arg: "across", title: "Across", on: "stand-across"},
			{bar: "stand", at: 4, arg: "right", title: "Hung on the right", on: "stand-right"},
			{bar: "stand", at: 5, arg: "left", title: "Hung on the left", on: "stand-left"},
			{bar: "stand", at: 6, arg: "both", title: "On both sides", on: "stand-both"},
			{bar: "stand", at: 7, arg: "list", title: "As a list", on: "stand-list"},
			{bar: "stand", at: 8, arg: "rows", title: "In rows", on: "stand-rows"},
			{bar: "stand", at: 9, title: "As those above", on: "stand-"},
			{bar: "stand last", at: 1, arg: "last=right", title: "Hung on the right", on: "last-right"},
			{bar: "stand last", at: 2, arg: "last=left", title: "Hung on the left", on: "last-left"},
			{bar: "stand last", at: 3, arg: "last=both", title: "On both sides", on: "last-both"},
			{bar: "stand last", at: 4, arg: "last=list", title: "As a list", on: "last-list"},
			{bar: "stand last", at: 5, arg: "last=rows", title: "In rows", on: "last-rows"},
			{bar: "stand last", at: 6, arg: "last=", title: "Like the others", on: "last-"},
		},
		needs: needChart,
		do:    func(e *Commands, arg string) { e.Cards.Stand(arg) },
		ways: []way{
			{arg: "down", title: "Downwards", words: "arrange cards tree"},
			{arg: "up", title: "Upwards", words: "arrange cards tree"},
			{arg: "across", title: "To the right", words: "arrange cards tree across"},
			{arg: "right", title: "One below the other, on the right of a line", words: "arrange cards hanging"},
			{arg: "left", title: "One below the other, on the left of a line", words: "arrange cards hanging"},
			{arg: "both", title: "On both sides of a line", words: "arrange cards hanging"},
			{arg: "list", title: "As a list", words: "arrange cards"},
			{arg: "rows", title: "In several rows", words: "arrange cards wrap"},
			{arg: "last=right", title: "The last level on the right of a line", words: "arrange cards hanging"},
			{arg: "last=left", title: "The last level on the left of a line", words: "arrange cards hanging"},
			{arg: "last=both", title: "The last level on both sides of a line", words: "arrange cards hanging"},
			{arg: "last=list", title: "The last level as a list", words: "arrange cards"},
			{arg: "last=rows", title: "The last level in several rows", words: "arrange cards wrap"},
		},
	},
	{name: "chart",
		buttons: []button{
			{bar: "chart", at: 1, arg: "aligned", icon: "align-horizontal-distribute-center", on: "aligned"},
			{bar: "chart", at: 2, arg: "counted", icon: "users", on: "counted"},
			{bar: "chart", at: 3, arg: "byLevel", icon: "palette", on: "byLevel"},
			{bar: "chart", at: 5, arg: "numbered", icon: "list-ordered", on: "numbered"},
			{bar: "chart", at: 4, arg: "square", icon: "square-dashed", on: "square"},
		},
		needs: needChart,
		do:    func(e *Commands, arg string) { e.Cards.Chart(arg) },
		ways: []way{
			{arg: "aligned", title: "Each level on one line", words: "rank align"},
			{arg: "counted", title: "Count the people below", words: "head count"},
			{arg: "byLevel", title: "A colour for each level", words: "colour"},
			{arg: "square", title: "Square pictures", words: "portrait round"},
			{arg: "numbered", title: "Number the cards: 1, 1.1, 1.2", words: "outline"},
		},
	},
	{name: "levels",
		needs: needChart,
		do:    func(e *Commands, arg string) { e.Cards.Levels(arg) },
	},
}
