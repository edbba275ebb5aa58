package command

import (
	"plaintracer/core/edit"
	"plaintracer/core/editor/desk"
	"plaintracer/core/model"
)

// lanesAndSheetsCommands are the commands of the part "Lanes and sheets".
var lanesAndSheetsCommands = []command{
	{name: "lanes",
		flows:   true,
		buttons: []button{{bar: "lanes", at: 1, icon: "plus"}},
		do:      func(e *Commands, _ string) { e.Lanes.AddLanes() },
		menus:   places{inPool: 102, inDesk: 201},
		ways: []way{
			{title: "Add a lane at the end"},
		},
	},
	{name: "lane-above",
		flows:   true,
		buttons: []button{{bar: "lanes", at: 2, icon: "chevron-up"}},
		needs:   needLaneHere,
		do:      func(e *Commands, _ string) { e.Lanes.InsertLane(0) },
		menus:   places{inLane: 201},
		ways: []way{
			{title: "Insert a lane above"},
		},
	},
	{name: "lane-below",
		flows:   true,
		buttons: []button{{bar: "lanes", at: 3, icon: "chevron-down"}},
		needs:   needLaneHere,
		do:      func(e *Commands, _ string) { e.Lanes.InsertLane(1) },
		menus:   places{inLane: 202},
		ways: []way{
			{title: "Insert a lane below"},
		},
	},
	{name: "lane-move",
		flows: true,
		buttons: []button{
			{bar: "this lane", at: 1, arg: "up", icon: "arrow-up"},
			{bar: "this lane", at: 2, arg: "down", icon: "arrow-down"},
		},
		needs: needLane,
		do: func(e *Commands, arg string) {
			if arg == "up" {
				e.Lanes.MoveLane(-1)
			} else {
				e.Lanes.MoveLane(1)
			}
		},
		menus: places{inLane: 203},
		ways: []way{
			{arg: "up", title: "Move the lane up", words: "reorder"},
			{arg: "down", title: "Move the lane down", words: "reorder"},
		},
	},
	{name: "lane-remove",
		flows: true,
		buttons: []button{
			{bar: "remove lane", at: 1, icon: "x", title: "Remove, keep its steps"},
			{bar: "remove lane", at: 2, arg: "above", icon: "x", title: "Remove, steps to the lane above"},
			{bar: "remove lane", at: 3, arg: "below", icon: "x", title: "Remove, steps to the lane below"},
			{bar: "remove lane", at: 4, arg: "delete", icon: "trash-2", title: "Remove with its steps"},
		},
		needs: needLane,
		do:    func(e *Commands, arg string) { e.Lanes.RemoveLane(arg) },
		menus: places{inLane: 301},
		ways: []way{
			{title: "Remove the lane, keep its steps", words: "delete"},
			{arg: "above", title: "Remove the lane, its steps to the lane above", words: "delete"},
			{arg: "below", title: "Remove the lane, its steps to the lane below", words: "delete"},
			{arg: "delete", title: "Remove the lane with its steps", words: "delete"},
		},
	},
	{name: "pool-add",
		flows:   true,
		buttons: []button{{bar: "lanes", at: 5, icon: "plus", title: "Add another pool"}},
		do:      func(e *Commands, _ string) { e.Lanes.AddPool() },
		ways: []way{
			{title: "Add another pool of lanes", words: "organisation company"},
		},
	},
	{name: "lanes-widen",
		flows: true,
		needs: needPool,
		do:    func(e *Commands, _ string) { e.Lanes.Widen() },
		ways: []way{
			{title: "Widen the lanes to the paper", words: "larger longer page edge"},
		},
	},
	{name: "part-open",
		flows:   true,
		buttons: []button{{bar: "this lane", at: 3, icon: "list-tree", title: "Part of a department or group…"}},
		needs:   needLane,
		do:      pageOpens("part-open"),
		menus:   places{inLane: 204},
		ways: []way{
			{title: "Part of a department or group", words: "nested department sublane parent"},
		},
	},
	{name: "names-level",
		flows:   true,
		buttons: []button{{bar: "all lanes", at: 2, icon: "type"}},
		needs:   needPool,
		do:      func(e *Commands, _ string) { e.Lanes.LevelNames() },
		ways: []way{
			{title: "Turn the lane names", words: "upright horizontal"},
		},
	},
	{name: "stage-add",
		flows:   true,
		buttons: []button{{bar: "all lanes", at: 1, icon: "plus", title: "Add a stage across the lanes"}},
		needs:   needPool,
		do:      func(e *Commands, _ string) { e.Lanes.AddStage() },
		menus:   places{inStage: 102, inLane: 205, inPool: 104},
		ways: []way{
			{title: "Add a stage", words: "phase period across"},
		},
	},
	{name: "stage-move",
		flows: true,
		needs: needStage,
		do: func(e *Commands, arg string) {
			if arg == "back" {
				e.Lanes.MoveStage(-1)
			} else {
				e.Lanes.MoveStage(1)
			}
		},
		menus: places{inStage: 103},
		ways: []way{
			{arg: "back", title: "Move the stage back", words: "phase reorder earlier"},
			{arg: "on", title: "Move the stage on", words: "phase reorder later"},
		},
	},
	{name: "stage-remove",
		flows: true,
		needs: needStage,
		do:    func(e *Commands, _ string) { e.Lanes.RemoveStage() },
		menus: places{inStage: 104},
		ways: []way{
			{title: "Remove the stage, keep its steps", words: "phase delete"},
		},
	},
	{name: "lanes-turn",
		flows:   true,
		buttons: []button{{bar: "all lanes", at: 3, icon: "rotate-ccw"}},
		needs:   needPool,
		do:      func(e *Commands, _ string) { e.Lanes.TurnLanes() },
		menus:   places{inPool: 103},
		ways: []way{
			{title: "Turn the lanes across or down", words: "vertical horizontal direction"},
		},
	},
	{name: "roles-open",
		flows:   true,
		buttons: []button{{bar: "lanes", at: 4, icon: "clipboard-paste", title: "Lanes from a list of roles…"}},
		do:      pageOpens("roles-open"),
		ways: []way{
			{title: "Lanes from a list of roles", words: "paste owners"},
		},
	},
	{name: "owners-lanes",
		flows:   true,
		buttons: []button{{bar: "owners", at: 2, icon: "rows-3"}},
		needs:   needNoLanes,
		do:      func(e *Commands, _ string) { e.Lanes.OwnersIntoLanes() },
		ways: []way{
			{title: "Turn owners into lanes", words: "swimlanes who does"},
		},
	},
	{name: "lanes-owners",
		flows:   true,
		buttons: []button{{bar: "owners", at: 3, icon: "workflow"}},
		needs:   needPool,
		do:      func(e *Commands, _ string) { e.Lanes.LanesIntoOwners() },
		ways: []way{
			{title: "Turn lanes into owners", words: "flowchart plain"},
		},
	},
	{name: "owner-open",
		buttons: []button{{bar: "owners", at: 1, icon: "users", title: "Owner of the step…"}},
		needs:   needOwned,
		do:      pageOpens("owner-open"),
		ways: []way{
			{title: "Set the owner", words: "who does role person department"},
		},
	},
	{name: "sheet-add",
		buttons: []button{{bar: "sheets", at: 1, icon: "plus"}},
		do:      func(e *Commands, _ string) { e.Sheets.AddSheet() },
		ways: []way{
			{title: "Add a sheet"},
		},
	},
	{name: "sheet-take",
		buttons: []button{{bar: "sheet", at: 2, icon: "clipboard-copy", title: "Copy", closes: true}},
		do:      pageOpens("sheet-take"),
		ways: []way{
			{title: "Copy the whole sheet to the clipboard", words: "another map paste"},
		},
	},
	{name: "onto-page",
		do: func(e *Commands, arg string) { e.Sheets.OntoPage(arg) },
		ways: []way{
			{title: "Bring everything onto the page", words: "fit edge paper"},
		},
	},
	{name: "paper-larger",
		do: func(e *Commands, arg string) { e.Sheets.Enlarge(arg) },
		ways: []way{
			{title: "Take a paper that holds everything", words: "larger size page"},
		},
	},
	{name: "sheet-copy",
		buttons: []button{{bar: "sheet", at: 1, icon: "copy", title: "Duplicate", closes: true}},
		do:      func(e *Commands, _ string) { e.Sheets.Duplicate() },
		ways: []way{
			{title: "Duplicate the sheet with everything on it", words: "copy as it is as it will be"},
		},
	},
	{name: "sheet-open",
		do:    pageOpens("sheet-open"),
		menus: places{inDesk: 303},
		ways: []way{
			{title: "This sheet: name, paper, background", words: "ground picture"},
		},
	},
	{name: "heading",
		do: func(e *Commands, arg string) { e.Sheets.SetHeading(arg) },
		ways: []way{
			{title: "Heading of the sheet on or off", words: "title block frame project author version date"},
		},
	},
	{name: "sheet-left",
		buttons: []button{{bar: "sheet", at: 3, icon: "chevron-left", title: "Move left"}},
		do:      func(e *Commands, _ string) { e.Sheets.MoveSheet(-1) },
		ways: []way{
			{title: "Move the sheet to the left", words: "order"},
		},
	},
	{name: "sheet-right",
		buttons: []button{{bar: "sheet", at: 4, icon: "chevron-right", title: "Move right"}},
		do:      func(e *Commands, _ string) { e.Sheets.MoveSheet(1) },
		ways: []way{
			{title: "Move the sheet to the right", words: "order"},
		},
	},
	{name: "sheet-remove",
		buttons: []button{{bar: "sheet", at: 5, icon: "trash-2", title: "Remove", closes: true}},
		do:      func(e *Commands, _ string) { e.Sheets.RemoveSheet() },
		ways: []way{
			{title: "Remove the sheet", words: "delete"},
		},
	},
	{name: "ground-picture",
		buttons: []button{{bar: "ground", at: 1, icon: "image", title: "Picture…", closes: true}},
		do:      func(e *Commands, _ string) { e.ToBackground, e.ToOpen = true, "picture-open" },
		ways: []way{
			{title: "Background picture from a file"},
		},
	},
	{name: "ground-none",
		buttons: []button{{bar: "ground", at: 2, icon: "eraser", title: "None"}},
		needs: func(e *desk.Desk) string {
			if e.Sheet().Background == (model.Background{}) {
				return "This sheet has no background."
			}
			return ""
		},
		do: func(e *Commands, _ string) { e.Do(&edit.SetSheet{Sheet: e.SheetID, Background: &model.Background{}}) },
		ways: []way{
			{title: "No background", words: "remove"},
		},
	},
	{name: "continue",
		flows:   true,
		buttons: []button{{bar: "over", at: 1, icon: "file-output"}},
		needs:   needItem("Select the step or the connector from which it goes on."),
		do:      func(e *Commands, _ string) { e.Sheets.Continue() },
		menus:   places{inSymbol: 106, inConnector: 105},
		ways: []way{
			{title: "Continue on the next sheet", key: "Alt+O", words: "reference page off-page new sheet spread"},
		},
	},
	{name: "sheets-join",
		flows:   true,
		buttons: []button{{bar: "over", at: 3, icon: "file-input"}},
		needs:   needReference,
		do:      func(e *Commands, _ string) { e.Sheets.Join() },
		ways: []way{
			{title: "Join with the sheet it leads to", words: "reference one flow merge bring back"},
		},
	},
	{name: "detail-in",
		flows:   true,
		buttons: []button{{bar: "over", at: 4, icon: "log-in"}},
		needs:   needStep,
		do:      func(e *Commands, _ string) { e.Sheets.Into() },
		menus:   places{inSymbol: 108},
		ways: []way{
			{title: "Open into a sheet of its own", key: "Alt+I", words: "detail drill down into subprocess open"},
		},
	},
	{name: "detail-out",
		flows:   true,
		buttons: []button{{bar: "over", at: 5, icon: "log-out"}},
		needs: func(e *desk.Desk) string {
			if len(e.M.OpensInto(e.Sheet())) == 0 {
				return "This sheet is the detail of no step."
			}
			return ""
		},
		do: func(e *Commands, _ string) { e.Sheets.Out() },
		ways: []way{
			{title: "Back to the step it is the detail of", key: "Alt+U", words: "detail up out parent"},
		},
	},
	{name: "detail-fold",
		flows:   true,
		buttons: []button{{bar: "over", at: 6, icon: "folder-input"}},
		needs: func(e *desk.Desk) string {
			if len(e.Chosen()) == 0 {
				return "Select the steps that go into a sheet of their own."
			}
			return ""
		},
		do: func(e *Commands, _ string) { e.Sheets.Fold() },
		ways: []way{
			{title: "Move into a sheet of their own", words: "detail subprocess predefined process fold collapse"},
		},
	},
	{name: "detail-unfold",
		flows:   true,
		buttons: []button{{bar: "over", at: 7, icon: "unfold-horizontal"}},
		needs:   needDetail,
		do:      func(e *Commands, _ string) { e.Sheets.Unfold() },
		ways: []way{
			{title: "Bring its detail back here", words: "detail subprocess unfold expand inline"},
		},
	},
	{name: "detail-off",
		needs: needDetail,
		do:    func(e *Commands, _ string) { e.Sheets.CloseDetail() },
		ways: []way{
			{title: "Take its detail off, keep the sheet", words: "detail remove link"},
		},
	},
	{name: "follow",
		buttons: []button{{bar: "over", at: 2, icon: "link"}},
		needs:   needReference,
		do:      func(e *Commands, _ string) { e.Sheets.Follow() },
		menus:   places{inSymbol: 107},
		ways: []way{
			{title: "Go to the partner", key: "Alt+P", words: "reference follow sheet"},
		},
	},
	{name: "legend",
		buttons: []button{{bar: "map", at: 2, icon: "list-tree"}},
		do:      func(e *Commands, _ string) { e.Styling.AddLegend() },
		menus:   places{inDesk: 202},
		ways: []way{
			{title: "Legend of the symbols used"},
		},
	},
	{name: "contents",
		buttons: []button{{bar: "map", at: 6, icon: "list-ordered"}},
		do:      func(e *Commands, _ string) { e.Styling.AddContents() },
		ways: []way{
			{title: "Table of contents", words: "list of sheets index overview"},
		},
	},
	{name: "picture-open",
		buttons: []button{{bar: "map", at: 1, icon: "image", title: "Picture from a file…"}},
		do:      pageOpens("picture-open"),
		ways: []way{
			{title: "Picture from a file"},
		},
	},
	{name: "units",
		do: func(e *Commands, arg string) { e.Sheets.SetUnits(arg) },
		ways: []way{
			{arg: "", title: "Lengths in pixels", words: "units px"},
			{arg: "mm", title: "Lengths in millimetres", words: "units mm"},
			{arg: "in", title: "Lengths in inches", words: "units in"},
		},
	},
	{name: "fitting",
		do: func(e *Commands, arg string) { e.Styling.SetFitting(arg) },
		choices: []choice{
			{"", "Text that does not fit", []string{"", "alone", "smaller"},
				[]string{"lets all symbols of the kind grow", "lets its own symbol grow", "is set smaller"}},
		},
	},
	{name: "crossings",
		peeks: true,
		do: func(e *Commands, arg string) {
			v := model.Crossing(arg)
			e.Do(&edit.SetSheet{Sheet: e.SheetID, Crossings: &v})
		},
		choices: []choice{
			{"", "Connectors of the sheet cross", []string{"", "square", "gap", "plain"},
				[]string{"with an arc", "with a square jump", "with a gap", "plainly"}},
		},
	},
	{name: "merging",
		peeks: true,
		do: func(e *Commands, arg string) {
			v := arg == string(model.MergeAlways)
			e.Do(&edit.SetSheet{Sheet: e.SheetID, Merging: &v})
		},
		choices: []choice{
			{"", "Connectors that reach the same side", []string{"", "merge"},
				[]string{"run side by side", "merge into one line"}},
		},
	},
	{name: "middle",
		do: func(e *Commands, arg string) {
			v := arg == "middle"
			e.Do(&edit.SetSheet{Sheet: e.SheetID, Middle: &v})
		},
		choices: []choice{
			{"", "Lay out sets the drawing", []string{"", "middle"},
				[]string{"at the upper left", "in the middle of the page"}},
		},
	},
	{name: "edge",
		do: func(e *Commands, arg string) { e.Sheets.SetEdge(arg) },
		choices: []choice{
			{"", "At the edge of the paper", []string{"", "grow"}, []string{"stay on the page", "grow the paper"}},
		},
	},
	{name: "lane-head",
		peeks: true,
		needs: needLane,
		do:    func(e *Commands, arg string) { e.Lanes.SetLane(&edit.SetLane{Head: &arg}) },
		choices: []choice{
			{"", "Head of the lane", model.Fills, colourNames},
		},
	},
	{name: "ground",
		peeks: true,
		do: func(e *Commands, arg string) {
			g := e.Sheet().Background
			g.Fill = arg
			e.Do(&edit.SetSheet{Sheet: e.SheetID, Background: &g})
		},
		choices: []choice{
			{"", "Background", model.Fills[1:], model.Fills[1:]},
		},
	},
	{name: "sheet-colour",
		peeks: true,
		do:    func(e *Commands, arg string) { e.Do(&edit.SetSheet{Sheet: e.SheetID, Colour: &arg}) },
		choices: []choice{
			{"", "Colour of the tab", model.Fills, colourNames},
		},
	},
	{name: "sheets-open",
		buttons: []button{{bar: "sheets", at: 2, icon: "layout-grid"}},
		do:      pageOpens("sheets-open"),
		reading: true,
		ways: []way{
			{title: "All sheets", key: "Alt+J", words: "overview pictures order go to sheet number"},
		},
	},
	{name: "sheet-turn",
		do: func(e *Commands, arg string) {
			across := arg == "across"
			e.Sheets.Take(&edit.SetSheet{Across: &across})
		},
		choices: []choice{
			{"", "Paper lies", []string{"across", "upright"}, []string{"across", "upright"}},
		},
	},
}
