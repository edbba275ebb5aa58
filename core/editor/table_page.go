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
			do: func(e *Editor, _ string) { e.closeGap() },
		},
		{name: "keep",
			do: func(e *Editor, arg string) { e.keep(arg == "other") },
		},
		{name: "leave",
			do: func(e *Editor, _ string) { e.drop(); e.again = nil },
		},
		{name: "frame",
			needs: needSymbols(1, needStep),
			do:    (*Editor).setFrame,
		},
		{name: "style-save",
			needs: needStyled,
			do:    (*Editor).saveStyle,
		},
		{name: "style-wear",
			needs: needStyled,
			do:    (*Editor).wear,
		},
		{name: "style-change",
			needs: needStyled,
			do:    (*Editor).changeStyle,
		},
		{name: "style-name",
			do: (*Editor).nameStyle,
		},
		{name: "style-remove",
			do: func(e *Editor, arg string) { e.do(&edit.RemoveStyle{ID: arg}) },
		},
		{name: "look",
			do: func(e *Editor, arg string) { e.look(arg, false) },
		},
		{name: "look-try",
			do: func(e *Editor, arg string) { e.look(arg, true) },
		},
		{name: "house",
			do: (*Editor).setBrand,
		},
		{name: "search",
			do:      (*Editor).searchFor,
			reading: true,
		},
		{name: "replace",
			needs: needSearch,
			do:    (*Editor).replace,
		},
		{name: "replace-all",
			needs: needSearch,
			do:    (*Editor).replaceAll,
		},
		{name: "kind",
			needs: func(e *Editor) string {
				if len(e.chosen()) == 0 {
					return "Select a symbol to change its kind."
				}
				return ""
			},
			do: (*Editor).changeKind,
		},
		{name: "answer",
			do: (*Editor).answer,
		},
		{name: "answers",
			do: (*Editor).setAnswers,
		},
		{name: "take",
			do: func(e *Editor, arg string) {
				e.cancel()
				e.hand, e.stick = model.Kind(arg), false
				if !e.hand.Known() {
					e.hand = ""
				}
			},
		},
		{name: "hold",
			do: func(e *Editor, arg string) { e.hand, e.stick = model.Kind(arg), model.Kind(arg).Known() },
		},
		{name: "put",
			do:      func(e *Editor, _ string) { e.hand, e.stick = "", false },
			reading: true,
		},
		{name: "lane-part",
			needs: needLane,
			do: func(e *Editor, arg string) {
				arg = strings.Join(strings.Fields(arg), " ")
				e.setLane(&edit.SetLane{Of: &arg})
			},
		},
		{name: "lanes-list",
			do: (*Editor).lanesFromList,
		},
		{name: "owner",
			needs: needOwned,
			do:    (*Editor).setOwner,
		},
		{name: "title",
			do: func(e *Editor, arg string) { arg = strings.TrimSpace(arg); e.do(&edit.SetHead{Title: &arg}) },
		},
		{name: "find",
			do:      (*Editor).find,
			reading: true,
		},
		{name: "sheet",
			do: func(e *Editor, arg string) {
				if e.m.Sheet(arg) != nil && arg != e.sheetID {
					e.show(arg)
				}
			},
			reading: true,
		},
		{name: "sheet-to",
			do: func(e *Editor, arg string) { // id:place
				id, place, _ := strings.Cut(arg, ":")
				if to, err := strconv.Atoi(place); err == nil {
					e.do(&edit.MoveSheet{Sheet: id, To: to})
				}
			},
		},
		{name: "sheet-name",
			do: func(e *Editor, arg string) {
				arg = strings.TrimSpace(arg)
				e.do(&edit.SetSheet{Sheet: e.sheetID, Name: &arg})
			},
		},
		{name: "sheet-paper",
			do: func(e *Editor, arg string) { e.do(&edit.SetSheet{Sheet: e.sheetID, Paper: &arg}) },
		},
		{name: "trace-go",
			do:      func(e *Editor, arg string) { i, _ := strconv.Atoi(arg); e.traceGo(i) },
			reading: true,
		},
		{name: "trace-back",
			do:      func(e *Editor, _ string) { e.traceBack() },
			reading: true,
		},
	}
}
