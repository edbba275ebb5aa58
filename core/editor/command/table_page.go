package command

import (
	"strconv"
	"strings"

	"plaintracer/core/edit"
	"plaintracer/core/editor/desk"
	"plaintracer/core/model"
)

// forThePageCommands are those that pages ask for by themselves; no menu lists them.
var forThePageCommands = []command{
	{name: "close-gap",
		do: func(e *Commands, _ string) { e.Lines.CloseGap() },
	},
	{name: "keep",
		do: func(e *Commands, arg string) { e.Layout.Keep(arg == "other") },
	},
	{name: "leave",
		do: func(e *Commands, _ string) { e.Drop(); e.Again = nil },
	},
	{name: "frame",
		needs: needSymbols(1, desk.NeedStep),
		do:    func(e *Commands, arg string) { e.Sheets.SetFrame(arg) },
	},
	{name: "style-save",
		needs: needStyled,
		do:    func(e *Commands, arg string) { e.Styling.SaveStyle(arg) },
	},
	{name: "style-wear",
		peeks: true,
		needs: needStyled,
		do:    func(e *Commands, arg string) { e.Styling.Wear(arg) },
	},
	{name: "style-change",
		needs: needStyled,
		do:    func(e *Commands, arg string) { e.Styling.ChangeStyle(arg) },
	},
	{name: "style-name",
		do: func(e *Commands, arg string) { e.Styling.NameStyle(arg) },
	},
	{name: "style-remove",
		do: func(e *Commands, arg string) { e.Do(&edit.RemoveStyle{ID: arg}) },
	},
	{name: "look",
		do: func(e *Commands, arg string) { e.Layout.Look(arg, false) },
	},
	{name: "look-try",
		peeks: true,
		do:    func(e *Commands, arg string) { e.Layout.Look(arg, true) },
	},
	{name: "house",
		do: func(e *Commands, arg string) { e.Styling.SetBrand(arg) },
	},
	{name: "search",
		do:      func(e *Commands, arg string) { e.Searching.SearchFor(arg) },
		reading: true,
	},
	{name: "replace",
		needs: needSearch,
		do:    func(e *Commands, arg string) { e.Searching.Replace(arg) },
	},
	{name: "replace-all",
		needs: needSearch,
		do:    func(e *Commands, arg string) { e.Searching.ReplaceAll(arg) },
	},
	{name: "kind",
		peeks: true,
		needs: func(e *desk.Desk) string {
			if len(e.Chosen()) == 0 {
				return "Select a symbol to change its kind."
			}
			if len(e.ChosenCells()) > 0 {
				return "What stands in a cell is as its row wants it."
			}
			return ""
		},
		do: func(e *Commands, arg string) { e.changeKind(arg) },
	},
	{name: "answer",
		do: func(e *Commands, arg string) { e.answer(arg) },
	},
	{name: "answers",
		do: func(e *Commands, arg string) { e.setAnswers(arg) },
	},
	{name: "take",
		do: func(e *Commands, arg string) {
			e.Cancel()
			e.Hand, e.Stick = model.Kind(arg), false
			if !e.Hand.Known() {
				e.Hand = ""
			}
		},
	},
	{name: "next-kind",
		do: func(e *Commands, arg string) {
			if _, kind, _ := strings.Cut(arg, ":"); model.Kind(kind).Known() {
				e.Placing.Bring(model.Kind(kind), true)
			}
		},
	},
	{name: "tray",
		do: func(e *Commands, arg string) { e.Placing.Take(model.Kind(arg)) },
	},
	{name: "set-down",
		do: func(e *Commands, arg string) {
			if kind := model.Kind(arg); kind.Known() {
				e.Placing.SetDown(kind)
			}
		},
	},
	{name: "hold",
		do: func(e *Commands, arg string) { e.Hand, e.Stick = model.Kind(arg), model.Kind(arg).Known() },
	},
	{name: "put",
		do:      func(e *Commands, _ string) { e.Hand, e.Stick = "", false },
		reading: true,
	},
	{name: "lane-part",
		flows: true,
		needs: needLane,
		do: func(e *Commands, arg string) {
			arg = strings.Join(strings.Fields(arg), " ")
			e.Lanes.SetLane(&edit.SetLane{Of: &arg})
		},
	},
	{name: "lanes-list",
		flows: true,
		do:    func(e *Commands, arg string) { e.Lanes.LanesFromList(arg) },
	},
	{name: "owner",
		needs: needOwned,
		do:    func(e *Commands, arg string) { e.Lanes.SetOwner(arg) },
	},
	{name: "title",
		do: func(e *Commands, arg string) { arg = strings.TrimSpace(arg); e.Do(&edit.SetHead{Title: &arg}) },
	},
	{name: "find",
		do:      func(e *Commands, arg string) { e.find(arg) },
		reading: true,
	},
	{name: "sheet",
		do: func(e *Commands, arg string) {
			if e.M.Sheet(arg) != nil && arg != e.SheetID {
				e.Show(arg)
			}
		},
		reading: true,
	},
	{name: "sheet-to",
		do: func(e *Commands, arg string) { // id:place
			id, place, _ := strings.Cut(arg, ":")
			if to, err := strconv.Atoi(place); err == nil {
				e.Do(&edit.MoveSheet{Sheet: id, To: to})
			}
		},
	},
	{name: "sheet-name",
		do: func(e *Commands, arg string) {
			arg = strings.TrimSpace(arg)
			e.Do(&edit.SetSheet{Sheet: e.SheetID, Name: &arg})
		},
	},
	{name: "sheet-paper",
		do: func(e *Commands, arg string) { e.Sheets.Take(&edit.SetSheet{Paper: &arg}) },
	},
	{name: "trace-go",
		do:      func(e *Commands, arg string) { i, _ := strconv.Atoi(arg); e.Cases.TraceGo(i) },
		reading: true,
	},
	{name: "trace-back",
		do:      func(e *Commands, _ string) { e.Cases.TraceBack() },
		reading: true,
	},
}
