package command

import (
	"plaintracer/core/edit"
	"plaintracer/core/editor/desk"
	"plaintracer/core/model"
)

// stylesCommands are the commands of the part "Style".
var stylesCommands = []command{
	{name: "emphasis",
		buttons: []button{{bar: "style marks", at: 1, icon: "highlighter", on: "emphasis"}},
		needs:   needSymbols(1, desk.NeedStep),
		do: func(e *Commands, _ string) {
			v := !e.Chosen()[0].Emphasis
			e.Styling.Style(&edit.SetStyle{Emphasis: &v}, false)
		},
		menus: places{inSymbol: 201},
		ways: []way{
			{title: "Emphasis", key: "Alt+M", words: "unusual step mark"},
		},
	},
	{name: "style-take",
		buttons: []button{{bar: "style", at: 1, icon: "pipette"}},
		needs:   needStyled,
		do:      func(e *Commands, _ string) { e.Styling.TakeStyle() },
		menus:   places{inSymbol: 202, inConnector: 301},
		ways: []way{
			{title: "Copy its style", key: "Alt+C", words: "copy pick"},
		},
	},
	{name: "style-give",
		buttons: []button{{bar: "style", at: 2, icon: "paintbrush"}},
		needs: func(e *desk.Desk) string {
			if e.Taken == nil {
				return "Copy the style of something first."
			}
			return needStyled(e)
		},
		do:    func(e *Commands, _ string) { e.Styling.GiveStyle(*e.Taken, "give the style") },
		menus: places{inSymbol: 203, inConnector: 302},
		ways: []way{
			{title: "Apply the copied style", key: "Alt+V", words: "paste apply"},
		},
	},
	{name: "style-plain",
		buttons: []button{{bar: "style", at: 3, icon: "eraser"}},
		needs:   needStyled,
		do: func(e *Commands, _ string) {
			e.Styling.GiveStyle(desk.CopiedStyle{}, "plain style")
			e.Last = desk.CopiedStyle{}
		},
		ways: []way{
			{title: "Plain style", key: "Alt+N", words: "reset none standard"},
		},
	},
	{name: "styles-open",
		buttons: []button{{bar: "style saved", at: 1, icon: "plus", title: "Save and manage styles…"}},
		needs:   needStyled,
		do:      pageOpens("styles-open"),
		ways: []way{
			{title: "Save its style under a name", words: "named"},
		},
	},
	{name: "looks-open",
		buttons: []button{{bar: "style saved", at: 2, icon: "swatch-book", title: "Look of the map…"}},
		do:      pageOpens("looks-open"),
		menus:   places{inDesk: 302},
		ways: []way{
			{title: "Look of the map", words: "colours theme print black white"},
		},
	},
	{name: "look-keep",
		buttons: []button{{bar: "style saved", at: 3, icon: "swatch-book", on: "keeps",
			title: "Keep its look when the map’s changes"}},
		needs: needSymbols(1, desk.NeedStep),
		do:    func(e *Commands, _ string) { e.Layout.KeepLook() },
		ways: []way{
			{title: "Keep its look when the look of the map changes", words: "leave out"},
		},
	},
	{name: "house-open",
		buttons: []button{{bar: "fill more", at: 2, icon: "palette", title: "House style…"}},
		do:      pageOpens("house-open"),
		ways: []way{
			{title: "House style: colours and typeface", words: "palette brand font file"},
		},
	},
	{name: "font-drop",
		buttons: []button{{bar: "font", at: 1, icon: "eraser"}},
		needs: func(e *desk.Desk) string {
			if len(e.M.Faces) == 0 {
				return "The map uses the built-in typeface."
			}
			return ""
		},
		do: func(e *Commands, arg string) { e.Styling.DropFont(arg) },
		ways: []way{
			{title: "Back to the built-in typeface", words: "font house"},
		},
	},
	{name: "text",
		peeks: true,
		buttons: []button{
			{bar: "text more", at: 1, arg: "bullets", icon: "list", on: "bullets"},
			{bar: "text set", at: 1, arg: "bold", icon: "bold", on: "bold"},
			{bar: "text set", at: 2, arg: "italic", icon: "italic", on: "italic"},
			{bar: "text set", at: 3, arg: "underline", icon: "underline", on: "underline"},
		},
		needs: func(e *desk.Desk) string {
			if len(e.Chosen()) == 0 && len(e.ChosenLines()) == 0 {
				return "Select a symbol or connector to format its text."
			}
			return ""
		},
		do: func(e *Commands, arg string) { e.Styling.StyleText(arg) },
		ways: []way{
			{arg: "bold", title: "Bold", key: "Ctrl+B"},
			{arg: "italic", title: "Italic", key: "Ctrl+I"},
			{arg: "underline", title: "Underline", key: "Ctrl+U"},
			{arg: "larger", title: "Larger text"},
			{arg: "smaller", title: "Smaller text"},
			{arg: "bullets", title: "Make every line a list item"},
		},
		choices: []choice{
			{"colour=", "Text colour", model.Fills, colourNames},
			{"size=", "Text size", sizes, sizes},
			{"align=", "Text across", []string{"", "left", "centre", "right"},
				[]string{"default", "left", "centre", "right"}},
			{"stand=", "Text down", []string{"", "top", "middle", "bottom"},
				[]string{"default", "top", "middle", "bottom"}},
		},
	},
	{name: "plain-words",
		buttons: []button{{bar: "text more", at: 2, icon: "remove-formatting"}},
		needs: func(e *desk.Desk) string {
			if !e.Writing.HasAccents() {
				return "No words of the selected symbols are set otherwise than the rest."
			}
			return ""
		},
		do: func(e *Commands, _ string) { e.Writing.PlainWords() },
		ways: []way{
			{title: "Set all words alike", words: "bold italic colour some words plain formatting remove"},
		},
	},
	{name: "dashed",
		peeks:   true,
		buttons: []button{{bar: "fill more", at: 1, icon: "square-dashed", on: "dashed"}},
		needs:   needSymbols(1, desk.NeedStep),
		do: func(e *Commands, _ string) {
			v := !e.Chosen()[0].Dashed
			e.Styling.Style(&edit.SetStyle{Dashed: &v}, false)
		},
		ways: []way{
			{title: "Dashed outline"},
		},
	},
	{name: "fill",
		peeks: true,
		needs: func(e *desk.Desk) string {
			if p, _ := e.LaneSelected(); p != nil || len(e.Chosen()) > 0 {
				return ""
			}
			if p, _ := e.StageSelected(); p != nil {
				return ""
			}
			return "Select a symbol, a lane or a stage first."
		},
		do: func(e *Commands, arg string) { e.Lanes.Fill(arg) },
		choices: []choice{
			{"", "Fill", model.Fills, colourNames},
		},
	},
	{name: "legible",
		do: func(e *Commands, arg string) { e.Styling.Readable(arg) },
		ways: []way{
			{title: "Set text so that it can be read", words: "contrast legible colour"},
		},
	},
	{name: "outline",
		peeks: true,
		needs: needSymbols(1, desk.NeedStep),
		do:    func(e *Commands, arg string) { e.Styling.StyleOutline(arg) },
		choices: []choice{
			{"ink=", "Outline colour", model.Fills, colourNames},
		},
	},
}
