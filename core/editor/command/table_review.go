package command

// reviewCommands are the commands of the part "Review".
var reviewCommands = []command{
	{name: "remark-open",
		do:      pageOpens("remark-open"),
		reading: true,
		menus:   places{inDesk: 901, inSymbol: 901, inConnector: 901, inLane: 901, inStage: 901, inCell: 901},
		ways: []way{
			{title: "Remark", key: "Alt+R", words: "comment note say remark annotate mark up"},
		},
	},
	{name: "review-open",
		do:      pageOpens("review-open"),
		reading: true,
		ways: []way{
			{title: "Review", words: "comments remarks round approve agree sign off ask for a review"},
		},
	},
	{name: "talk-open",
		do:      pageOpens("talk-open"),
		reading: true,
		ways: []way{
			{title: "Talk beside the drawing", words: "conversation chat message discuss say"},
		},
	},
	{name: "changes-open",
		do:      pageOpens("changes-open"),
		reading: true,
		ways: []way{
			{title: "What changed", words: "history compare versions differences since"},
		},
	},
}
