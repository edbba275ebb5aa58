package command

// viewAndHandOverCommands are the commands of the part "View and hand over".
var viewAndHandOverCommands = []command{
	{name: "show-open",
		do:      pageOpens("show-open"),
		reading: true,
		ways: []way{
			{title: "Show over the whole screen", words: "present meeting full screen walk slides"},
		},
	},
	{name: "zoom-in",
		do:      pageOpens("zoom-in"),
		reading: true,
		ways: []way{
			{title: "Zoom in", key: "Ctrl++"},
		},
	},
	{name: "zoom-out",
		do:      pageOpens("zoom-out"),
		reading: true,
		ways: []way{
			{title: "Zoom out", key: "Ctrl+-"},
		},
	},
	{name: "zoom-fit",
		do:      pageOpens("zoom-fit"),
		reading: true,
		menus:   places{inDesk: 304},
		ways: []way{
			{title: "Fit the sheet", key: "Ctrl+."},
		},
	},
	{name: "trace",
		do:      func(e *Commands, _ string) { e.Cases.TraceBegin() },
		reading: true,
		ways: []way{
			{title: "Trace a case", words: "walk"},
		},
	},
	{name: "draw",
		do:      func(e *Commands, _ string) { e.Tracing = nil },
		reading: true,
		menus:   places{inTracing: 101},
		ways: []way{
			{title: "Draw", words: "end the trace"},
		},
	},
	{name: "share-open",
		do:      pageOpens("share-open"),
		reading: true,
		ways: []way{
			{title: "Share by a link"},
		},
	},
	{name: "export-open",
		do:      pageOpens("export-open"),
		reading: true,
		ways: []way{
			{title: "Export", words: "picture svg png file save"},
		},
	},
	{name: "undo",
		buttons: []button{{bar: "back", at: 1, icon: "undo-2"}},
		do:      func(e *Commands, _ string) { e.Undo() },
		ways: []way{
			{title: "Undo", key: "Ctrl+Z"},
		},
	},
	{name: "redo",
		buttons: []button{{bar: "back", at: 2, icon: "redo-2"}},
		do:      func(e *Commands, _ string) { e.Redo() },
		ways: []way{
			{title: "Redo", key: "Ctrl+Y", words: "again"},
		},
	},
}
