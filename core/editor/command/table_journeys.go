package command

import (
	"plaintracer/core/editor/desk"
	"plaintracer/core/model"
)

// needJourney says why there is no journey to work on.
func needJourney(e *desk.Desk) string {
	if !e.OnJourney() {
		return "Turn to a sheet with a journey first."
	}
	return ""
}

// needCells says that something in a cell has to be selected.
func needCells(e *desk.Desk) string {
	if lack := needJourney(e); lack != "" {
		return lack
	}
	if len(e.ChosenCells()) == 0 {
		return "Select what stands in a cell first."
	}
	return ""
}

// needSpot says that a cell has to be selected.
func needSpot(e *desk.Desk) string {
	if lack := needJourney(e); lack != "" {
		return lack
	}
	if _, p := e.SpotNow(); p == nil {
		return "Select a cell first."
	}
	return ""
}

// needRow says that a row has to be selected, or a cell of one.
func needRow(e *desk.Desk) string {
	if lack := needJourney(e); lack != "" {
		return lack
	}
	if _, row := e.RowAt(); row == nil {
		return "Select a row by its name first, or a cell in it."
	}
	return ""
}

// needPart says that a row or a stage has to be selected, or a cell.
func needPart(e *desk.Desk) string {
	lack := needRow(e)
	if p, _ := e.StageSelected(); p != nil && e.OnJourney() {
		return ""
	}
	return lack
}

// needSigned says that contact points have to be selected.
func needSigned(e *desk.Desk) string {
	lack := needCells(e)
	for _, cell := range e.ChosenCells() {
		if cell.Kind != model.ContactCell {
			lack = "Select contact points first."
		}
	}
	return lack
}

// rowButtons are those of a bar for all types of rows.
func rowButtons(bar, on string) (list []button) {
	for i, k := range model.RowKinds {
		b := button{bar: bar, at: i + 1, arg: string(k.Type), title: k.Name}
		if on != "" {
			b.on = on + string(k.Type)
		} else {
			b.icon = "plus"
		}
		list = append(list, b)
	}
	return list
}

// rowWays are ways to ask for something with each type of rows.
func rowWays(title, words string) (list []way) {
	for _, k := range model.RowKinds {
		list = append(list, way{arg: string(k.Type), title: title + k.Name, words: words + " " + k.Hint, aside: true})
	}
	return list
}

// signButtons are those of the bar of signs, signWays the ways to ask for one.
func signButtons() []button {
	list := []button{{bar: "signs", at: 1, title: "By its words", on: "sign-"}}
	for i, s := range model.Signs {
		list = append(list, button{bar: "signs", at: i + 2, arg: s.Name, title: s.Title, on: "sign-" + s.Name})
	}
	return append(list, button{bar: "signs", at: len(model.Signs) + 2, arg: model.NoSign, title: "None",
		on: "sign-" + model.NoSign})
}

func signWays() (list []way) {
	for _, s := range model.Signs {
		list = append(list, way{arg: s.Name, title: "Sign of the contact point: " + s.Title, words: "channel icon",
			aside: true})
	}
	return append(list, way{arg: model.NoSign, title: "Contact point without a sign", aside: true},
		way{title: "Sign of the contact point by its words", aside: true})
}

// journeysCommands are the commands of the part "Journeys".
var journeysCommands = []command{
	{name: "sheet-journey",
		buttons: []button{{bar: "sheets", at: 4, icon: "footprints"}},
		do:      func(e *Commands, _ string) { e.Sheets.AddJourney() },
		ways: []way{
			{title: "Add a journey", words: "customer experience map persona stages touchpoints"},
		},
	},
	{name: "journey-open",
		buttons: []button{{bar: "journey", at: 4, icon: "file-input", title: "From a table…"}},
		do:      pageOpens("journey-open"),
		ways: []way{
			{title: "A journey from a table", words: "read import csv xlsx ods paste rows by stages"},
		},
	},
	{name: "journey-stage",
		buttons: []button{{bar: "journey", at: 1, icon: "chevron-right"}},
		needs:   needJourney,
		do:      func(e *Commands, _ string) { e.Journeys.AddStage() },
		menus:   places{inStage: 110, inCell: 203},
		ways: []way{
			{title: "Add a stage to the journey", words: "phase column"},
		},
	},
	{name: "journey-person",
		buttons: []button{{bar: "journey", at: 2, icon: "users"}},
		needs:   needJourney,
		do:      func(e *Commands, _ string) { e.Journeys.AddPerson() },
		menus:   places{inPool: 105},
		ways: []way{
			{title: "Add a journey below, for comparison", words: "persona another person"},
		},
	},
	{name: "journey-picture",
		buttons: []button{{bar: "journey", at: 3, icon: "image", title: "Picture of the person…"}},
		needs: func(e *desk.Desk) string {
			if e.OnJourney() && e.JourneyNow() != nil {
				return ""
			}
			return "Turn to a sheet with a journey first."
		},
		do: func(e *Commands, _ string) {
			e.Sel, e.Lane, e.ToOpen = []string{e.JourneyNow().ID}, "", "picture-open"
		},
		menus: places{inPool: 106},
		ways: []way{
			{title: "Picture of the person whose journey it is", words: "persona portrait photo"},
		},
	},
	{name: "journey-row",
		buttons: rowButtons("rows", ""),
		needs:   needJourney,
		do: func(e *Commands, arg string) {
			if t := model.RowType(arg); t.Known() && e.JourneyNow() != nil {
				e.Journeys.AddRow(t)
			}
		},
		ways: rowWays("Add a row: ", "journey"),
	},
	{name: "row-type",
		buttons: rowButtons("row type", "row-"),
		needs:   needRow,
		do: func(e *Commands, arg string) {
			if t := model.RowType(arg); t.Known() {
				e.Journeys.SetRow(t)
			}
		},
		ways: rowWays("Make the row one of: ", "journey type"),
	},
	{name: "row-sum",
		needs: func(e *desk.Desk) string {
			if _, row := e.RowAt(); row == nil || row.Row != model.SumRow {
				return "Select a row that sums up a field first."
			}
			return ""
		},
		do: func(e *Commands, arg string) { e.Journeys.SetSum(arg) },
	},
	{name: "journey-move",
		buttons: []button{
			{bar: "part of journey", at: 1, arg: "on", icon: "arrow-down"},
			{bar: "part of journey", at: 2, arg: "back", icon: "arrow-up"},
		},
		needs: needPart,
		do: func(e *Commands, arg string) {
			e.Journeys.Move(map[bool]int{true: 1, false: -1}[arg == "on"])
		},
		menus: places{inLane: 206, inStage: 111},
		ways: []way{
			{arg: "on", title: "Move the row down, or the stage on", words: "reorder journey"},
			{arg: "back", title: "Move the row up, or the stage back", words: "reorder journey"},
		},
	},
	{name: "journey-unfold",
		buttons: []button{{bar: "journey", at: 5, icon: "unfold-horizontal"}},
		needs:   needJourney,
		do:      func(e *Commands, _ string) { e.Journeys.UnfoldAll() },
		ways: []way{
			{title: "Unfold all rows and stages", words: "expand show journey"},
		},
	},
	{name: "journey-remove",
		buttons: []button{{bar: "part of journey", at: 4, icon: "trash-2", title: "Remove with what is in it"}},
		needs:   needPart,
		do:      func(e *Commands, _ string) { e.Journeys.Remove() },
		menus:   places{inLane: 302, inStage: 201},
		ways: []way{
			{title: "Remove the row or stage with what stands in it", words: "delete journey"},
		},
	},
	{name: "cell-add",
		buttons: []button{{bar: "cell", at: 1, icon: "plus"}},
		needs:   needSpot,
		do:      func(e *Commands, _ string) { e.Journeys.Another() },
		menus:   places{inSymbol: 110, inCell: 101},
		ways: []way{
			{title: "Write another text in the cell", words: "journey add item moment"},
		},
	},
	{name: "cell-span",
		buttons: []button{
			{bar: "cell", at: 2, arg: "wider", icon: "chevron-right"},
			{bar: "cell", at: 3, arg: "narrower", icon: "chevron-left"},
		},
		needs: needCells,
		do: func(e *Commands, arg string) {
			e.Journeys.Span(map[bool]int{true: 1, false: -1}[arg == "wider"])
		},
		menus: places{inSymbol: 111},
		ways: []way{
			{arg: "wider", title: "Reach over a further stage", words: "merge cells span journey"},
			{arg: "narrower", title: "Reach over a stage less", words: "split unmerge cells journey"},
		},
	},
	{name: "cell-sign",
		buttons: signButtons(),
		needs:   needSigned,
		do:      func(e *Commands, arg string) { e.Journeys.Sign(arg) },
		ways:    signWays(),
	},
}
