package editor

import (
	"strconv"
	"strings"

	"plaintracer/core/edit"
	"plaintracer/core/model"
)

// forThePageCommands are those that pages ask for by themselves; no menu lists them.
func forThePageCommands() []command {
	return []command{
		{name: "close-gap",
			do: func(e *Commands, _ string) { e.Lines.closeGap() },
		},
		{name: "keep",
			do: func(e *Commands, arg string) { e.Layout.keep(arg == "other") },
		},
		{name: "leave",
			do: func(e *Commands, _ string) { e.drop(); e.again = nil },
		},
		{name: "frame",
			needs: needSymbols(1, needStep),
			do:    func(e *Commands, arg string) { e.Sheets.setFrame(arg) },
		},
		{name: "style-save",
			needs: needStyled,
			do:    func(e *Commands, arg string) { e.Styling.saveStyle(arg) },
		},
		{name: "style-wear",
			needs: needStyled,
			do:    func(e *Commands, arg string) { e.Styling.wear(arg) },
		},
		{name: "style-change",
			needs: needStyled,
			do:    func(e *Commands, arg string) { e.Styling.changeStyle(arg) },
		},
		{name: "style-name",
			do: func(e *Commands, arg string) { e.Styling.nameStyle(arg) },
		},
		{name: "style-remove",
			do: func(e *Commands, arg string) { e.do(&edit.RemoveStyle{ID: arg}) },
		},
		{name: "look",
			do: func(e *Commands, arg string) { e.Layout.look(arg, false) },
		},
		{name: "look-try",
			do: func(e *Commands, arg string) { e.Layout.look(arg, true) },
		},
		{name: "house",
			do: func(e *Commands, arg string) { e.Styling.setBrand(arg) },
		},
		{name: "search",
			do:      func(e *Commands, arg string) { e.Searching.searchFor(arg) },
			reading: true,
		},
		{name: "replace",
			needs: needSearch,
			do:    func(e *Commands, arg string) { e.Searching.replace(arg) },
		},
		{name: "replace-all",
			needs: needSearch,
			do:    func(e *Commands, arg string) { e.Searching.replaceAll(arg) },
		},
		{name: "kind",
			needs: func(e *Desk) string {
				if len(e.chosen()) == 0 {
					return "Select a symbol to change its kind."
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
				e.cancel()
				e.hand, e.stick = model.Kind(arg), false
				if !e.hand.Known() {
					e.hand = ""
				}
			},
		},
		{name: "hold",
			do: func(e *Commands, arg string) { e.hand, e.stick = model.Kind(arg), model.Kind(arg).Known() },
		},
		{name: "put",
			do:      func(e *Commands, _ string) { e.hand, e.stick = "", false },
			reading: true,
		},
		{name: "lane-part",
			needs: needLane,
			do: func(e *Commands, arg string) {
				arg = strings.Join(strings.Fields(arg), " ")
				e.Lanes.setLane(&edit.SetLane{Of: &arg})
			},
		},
		{name: "lanes-list",
			do: func(e *Commands, arg string) { e.Lanes.lanesFromList(arg) },
		},
		{name: "owner",
			needs: needOwned,
			do:    func(e *Commands, arg string) { e.Lanes.setOwner(arg) },
		},
		{name: "title",
			do: func(e *Commands, arg string) { arg = strings.TrimSpace(arg); e.do(&edit.SetHead{Title: &arg}) },
		},
		{name: "find",
			do:      func(e *Commands, arg string) { e.find(arg) },
			reading: true,
		},
		{name: "sheet",
			do: func(e *Commands, arg string) {
				if e.m.Sheet(arg) != nil && arg != e.sheetID {
					e.show(arg)
				}
			},
			reading: true,
		},
		{name: "sheet-to",
			do: func(e *Commands, arg string) { // id:place
				id, place, _ := strings.Cut(arg, ":")
				if to, err := strconv.Atoi(place); err == nil {
					e.do(&edit.MoveSheet{Sheet: id, To: to})
				}
			},
		},
		{name: "sheet-name",
			do: func(e *Commands, arg string) {
				arg = strings.TrimSpace(arg)
				e.do(&edit.SetSheet{Sheet: e.sheetID, Name: &arg})
			},
		},
		{name: "sheet-paper",
			do: func(e *Commands, arg string) { e.do(&edit.SetSheet{Sheet: e.sheetID, Paper: &arg}) },
		},
		{name: "trace-go",
			do:      func(e *Commands, arg string) { i, _ := strconv.Atoi(arg); e.Tracing.traceGo(i) },
			reading: true,
		},
		{name: "trace-back",
			do:      func(e *Commands, _ string) { e.Tracing.traceBack() },
			reading: true,
		},
	}
}
