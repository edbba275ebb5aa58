package symbols

import (
	"plaintracer/core/geometry"
	"plaintracer/core/model"
)

// Often used steps of growth: in height alone, or keeping the proportions of
// 3 to 2.
var (
	higher  = geometry.Point{Y: 10 * px}
	larger  = geometry.Point{X: 15 * px, Y: 10 * px}
	rounder = geometry.Point{X: 10 * px, Y: 10 * px}
)

// catalogue is in the order of model.Kinds. The proportions of process,
// decision, data, preparation, terminator and reference follow ANSI X3.5-1970 /
// ISO 1028 (from memory); the others are common practice, no source.
var catalogue = []*Symbol{
	{
		Kind: model.Process, Name: "Process", Others: []string{"step", "activity", "task", "action", "do"},
		Meaning: "Work that somebody does.",
		When:    "For every plain step: a verb and an object, such as Log the report.",
		Source:  ISO5807, Key: '1', W: 120 * px, H: 80 * px, Step: higher,
		Outline: rectangle, Text: upright(margin, 0),
	},
	{
		Kind: model.Decision, Name: "Decision", Others: []string{"choice", "question", "branch", "if", "yes no",
			"gateway"},
		Meaning: "A question whose answer says which way the work goes on.",
		When:    "Where the path splits; every exit carries its answer.",
		Source:  ISO5807, Key: '2', W: 120 * px, H: 80 * px, Step: larger,
		Outline: diamond, Text: diamondText,
	},
	{
		Kind: model.Terminator, Name: "Terminator", Others: []string{"start", "end", "begin", "stop", "finish"},
		Meaning: "Where the work begins or ends.",
		When:    "First and last on every path; the first names what starts the work.",
		Source:  ISO5807, Key: '3', W: 120 * px, H: 45 * px, Step: geometry.Point{X: 16 * px, Y: 6 * px},
		Outline: stadium, Text: stadiumText,
	},
	{
		Kind: model.RoundEnd, Name: "Round terminator", Others: []string{"start", "end", "circle", "event", "begin",
			"stop"},
		Meaning: "Where the work begins or ends, drawn as a circle.",
		When:    "For a small start or end with at most a word.",
		Source:  Trade, Key: '4', W: 60 * px, H: 60 * px, Step: rounder,
		Outline: circle, Text: circleText,
	},
	{
		Kind: model.Data, Name: "Data", Others: []string{"input", "output", "information", "io", "message"},
		Meaning: "Information that comes in or goes out.", When: "For what is handed over, whatever carries it.",
		Source: ISO5807, Key: '5', W: 120 * px, H: 80 * px, Step: larger,
		Outline: slanted, Text: slantedText, Glue: slantedGlue,
	},
	{
		Kind: model.Document, Name: "Document", Others: []string{"form", "report", "paper", "letter", "print"},
		Meaning: "Information people can read: a form, a report, a letter.",
		When:    "Beside or after the step that produces it.",
		Source:  ISO5807, Key: '6', W: 120 * px, H: 80 * px, Step: higher,
		Outline: wavy, Text: wavyText, Glue: wavyGlue,
	},
	{
		Kind: model.StoredData, Name: "Stored data", Others: []string{"record", "file", "register", "archive",
			"system"},
		Meaning: "Information kept so that it can be used again.",
		When:    "For a record in a system or an archive that a step reads or writes.",
		Source:  ISO5807, Key: '7', W: 120 * px, H: 80 * px, Step: larger,
		Outline: bowed, Text: bowedText, Glue: bowedGlue,
	},
	{
		Kind: model.Predefined, Name: "Predefined process", Others: []string{"subprocess", "procedure", "routine",
			"called process"},
		Meaning: "A process described elsewhere.",
		When:    "For a step that has a map or procedure of its own, under its name.",
		Source:  ISO5807, Key: '8', W: 120 * px, H: 80 * px, Step: higher,
		Outline: rectangle, Inner: doubled, Text: upright(bar+margin, 0),
	},
	{
		Kind: model.Reference, Name: "Reference", Others: []string{"connector", "jump", "link", "continue", "goto"},
		Meaning: "The flow goes on at the other reference with the same letter on this sheet.",
		When:    "Instead of a long line; always in pairs.",
		Source:  ISO5807, Key: '9', W: 40 * px, H: 40 * px, Step: rounder,
		Outline: circle, Text: circleText,
	},
	{
		Kind: model.SheetReference, Name: "Sheet reference",
		Others:  []string{"off-page connector", "next page", "continue", "other sheet", "jump"},
		Meaning: "The flow goes on at the reference with the same letter on another sheet.",
		When:    "Where a map is spread over sheets; always in pairs.",
		Source:  Trade, Key: '0', W: 44 * px, H: 44 * px, Step: rounder,
		Outline: homePlate, Text: homePlateText,
	},
	{
		Kind: model.RoundedProcess, Name: "Rounded process", Others: []string{"step", "activity", "task", "soft"},
		Meaning: "Work that somebody does, set apart from plain steps.",
		When:    "Where a map tells two sorts of steps apart, such as work by hand and by a system.",
		Source:  Trade, W: 120 * px, H: 80 * px, Step: higher,
		Outline: rounded, Text: upright(margin, 0),
	},
	{
		Kind: model.ManualOperation, Name: "Manual operation", Others: []string{"by hand", "human", "offline"},
		Meaning: "Work done by hand, without a machine.", When: "Where it matters that no system helps.",
		Source: ISO5807, W: 120 * px, H: 80 * px, Step: larger,
		Outline: trapezoid, Text: within(trapezoid), Glue: onOutline(trapezoid),
	},
	{
		Kind: model.ManualInput, Name: "Manual input", Others: []string{"keyboard", "computer", "enter", "type in", "key in",
			"form entry"},
		Meaning: "Information somebody enters by hand.",
		When:    "Where a person types, scans or ticks something into a system.",
		Source:  ISO5807, W: 120 * px, H: 80 * px, Step: higher,
		Outline: slopedTop, Text: within(slopedTop), Glue: onOutline(slopedTop),
	},
	{
		Kind: model.Preparation, Name: "Preparation", Others: []string{"set up", "initialise", "get ready", "hexagon"},
		Meaning: "Setting something up so that what follows can be done.",
		When:    "Before a run of steps that needs it, such as setting a counter or a machine.",
		Source:  ISO5807, W: 120 * px, H: 80 * px, Step: larger,
		Outline: hexagon, Text: within(hexagon),
	},
	{
		Kind: model.ParallelMode, Name: "Parallel mode", Others: []string{"fork", "join", "at the same time",
			"synchronise", "and"},
		Meaning: "Paths that begin together, or that all have to end before the work goes on.",
		When:    "Above and below the paths that run at the same time.",
		Source:  ISO5807, W: 180 * px, H: 28 * px, MinW: 40 * px, MinH: 10 * px,
		Step:    geometry.Point{X: 20 * px, Y: 4 * px},
		Outline: rectangle, Inner: rails, Text: upright(margin, 0), Bare: true,
	},
	{
		Kind: model.LoopStart, Name: "Loop limit, start", Others: []string{"repeat", "for each", "while", "loop begin"},
		Meaning: "The beginning of steps that are repeated.",
		When:    "In pairs with the end, both with the name of the loop and its condition.",
		Source:  ISO5807, W: 120 * px, H: 60 * px, Step: higher,
		Outline: cutTop, Text: within(cutTop),
	},
	{
		Kind: model.LoopEnd, Name: "Loop limit, end", Others: []string{"repeat", "until", "loop close", "next"},
		Meaning: "The end of steps that are repeated.",
		When:    "In pairs with the start, both with the name of the loop and its condition.",
		Source:  ISO5807, W: 120 * px, H: 60 * px, Step: higher,
		Outline: cutFoot, Text: within(cutFoot),
	},
	{
		Kind: model.Delay, Name: "Delay", Others: []string{"wait", "pause", "waiting", "hold"},
		Meaning: "The work waits.", When: "Where time passes until something happens, such as an answer or a delivery.",
		Source: Trade, W: 120 * px, H: 80 * px, Step: larger,
		Outline: halfRound, Text: within(halfRound),
	},
	{
		Kind: model.Documents, Name: "Several documents", Others: []string{"forms", "reports", "papers", "file",
			"copies"},
		Meaning: "More than one document, or one in several copies.",
		When:    "For a set of papers that goes along together.",
		Source:  Trade, W: 120 * px, H: 80 * px, Step: higher,
		Outline: sheaf, Back: sheafBack, Text: within(sheaf), Glue: onOutline(sheaf, sheafBack),
	},
	{
		Kind: model.Database, Name: "Database", Others: []string{"cylinder", "computer", "system", "store", "disk", "register",
			"archive"},
		Meaning: "Information kept in a system that is searched and kept up to date.",
		When:    "For the system of record a step reads or writes.",
		Source:  Trade, W: 100 * px, H: 80 * px, Step: higher,
		Outline: cylinder, Inner: cylinderRim, Text: cylinderText,
	},
	{
		Kind: model.InternalStorage, Name: "Internal storage", Others: []string{"memory", "working list", "buffer"},
		Meaning: "Information held at hand while the work goes on.",
		When:    "For a working list or what a system keeps in its memory.",
		Source:  ISO5807, W: 120 * px, H: 80 * px, Step: higher,
		Outline: rectangle, Inner: cornered, Text: corneredText,
	},
	{
		Kind: model.SequentialStorage, Name: "Sequential access storage",
		Others:  []string{"tape", "magnetic tape", "archive", "backup", "log"},
		Meaning: "Information kept so that it can only be read in its order.",
		When:    "For backups, logs and archives on tape.",
		Source:  ISO5807, W: 80 * px, H: 80 * px, Step: rounder,
		Outline: circle, Inner: tail, Text: circleText,
	},
	{
		Kind: model.DirectStorage, Name: "Direct access storage",
		Others:  []string{"disk", "drive", "drum", "file store"},
		Meaning: "Information kept so that any part of it can be reached at once.", When: "For files on a disk.",
		Source: ISO5807, W: 120 * px, H: 80 * px, Step: larger,
		Outline: drum, Inner: drumRim, Text: drumText,
	},
	{
		Kind: model.Card, Name: "Card", Others: []string{"index card", "punched card", "ticket", "badge"},
		Meaning: "Information on a card.", When: "For index cards, tickets and badges that go along with the work.",
		Source: ISO5807, W: 120 * px, H: 80 * px, Step: higher,
		Outline: cutCorner, Text: within(cutCorner),
	},
	{
		Kind: model.PunchedTape, Name: "Punched tape", Others: []string{"tape", "strip", "label roll", "receipt"},
		Meaning: "Information on a strip of paper.", When: "For receipts, labels and other paper from a roll.",
		Source: ISO5807, W: 120 * px, H: 80 * px, Step: higher,
		Outline: waving, Text: within(waving), Glue: onOutline(waving),
	},
	{
		Kind: model.Display, Name: "Display", Others: []string{"screen", "monitor", "computer", "show", "dashboard", "sign"},
		Meaning: "Information shown for people to read.", When: "For what appears on a screen, a board or a sign.",
		Source: ISO5807, W: 120 * px, H: 80 * px, Step: larger,
		Outline: screen, Text: within(screen),
	},
	{
		Kind: model.Merge, Name: "Merge", Others: []string{"combine", "bring together", "join", "triangle"},
		Meaning: "Several sets become one.", When: "Where items or files are put together.",
		Source: Trade, W: 80 * px, H: 70 * px, Step: larger,
		Outline: triangleDown, Text: within(triangleDown), Glue: onOutline(triangleDown),
	},
	{
		Kind: model.Extract, Name: "Extract", Others: []string{"take out", "select", "split", "filter", "triangle"},
		Meaning: "One or more sets are taken out of one.", When: "Where items are picked out of a larger set.",
		Source: Trade, W: 80 * px, H: 70 * px, Step: larger,
		Outline: triangleUp, Text: within(triangleUp), Glue: onOutline(triangleUp),
	},
	{
		Kind: model.Sort, Name: "Sort", Others: []string{"order", "arrange", "sequence", "rank"},
		Meaning: "A set is put into an order.", When: "Where items are sorted, such as by street or by date.",
		Source: Trade, W: 100 * px, H: 80 * px, Step: geometry.Point{X: 20 * px, Y: 16 * px},
		Outline: diamond, Inner: across, Text: upperHalf(diamond),
	},
	{
		Kind: model.Collate, Name: "Collate", Others: []string{"match", "put together in order", "hourglass",
			"assemble"},
		Meaning: "Sets are brought into step with each other.", When: "Where two sets are matched item by item.",
		Source: Trade, W: 80 * px, H: 80 * px, Step: rounder,
		Outline: hourglass, Text: upperHalf(hourglass), Glue: onOutline(hourglass),
	},
	{
		Kind: model.SummingJunction, Name: "Summing junction", Others: []string{"sum", "add", "and", "join", "cross"},
		Meaning: "Paths come together and all of them are needed.",
		When:    "Where the work goes on only after every path has come in.",
		Source:  Trade, W: 40 * px, H: 40 * px, Step: rounder,
		Outline: circle, Inner: crossed, Text: innerCircleText,
	},
	{
		Kind: model.Or, Name: "Or", Others: []string{"either", "any", "choice", "split", "plus"},
		Meaning: "The work goes on along one or more of the paths.",
		When:    "Where paths part or meet and any of them may be taken.",
		Source:  Trade, W: 40 * px, H: 40 * px, Step: rounder,
		Outline: circle, Inner: plussed, Text: innerCircleText,
	},
	{
		Kind: model.Operation, Name: "Operation", Others: []string{"work measurement", "process chart", "do", "value"},
		Meaning: "Work measurement: something is changed, made or handled.",
		When:    "In a process chart, for each piece of work itself.",
		Source:  ASME, W: 64 * px, H: 64 * px, Step: rounder,
		Outline: circle, Text: circleText,
	},
	{
		Kind: model.Inspection, Name: "Inspection", Others: []string{"work measurement", "process chart", "check",
			"verify", "control"},
		Meaning: "Work measurement: something is checked for what it is or how much.",
		When:    "In a process chart, for each check.",
		Source:  ASME, W: 64 * px, H: 64 * px, Step: rounder,
		Outline: rectangle, Text: upright(margin, 0),
	},
	{
		Kind: model.Transport, Name: "Transport", Others: []string{"work measurement", "process chart", "move", "carry",
			"send"},
		Meaning: "Work measurement: something goes from one place to another.",
		When:    "In a process chart, for each way it is carried.",
		Source:  ASME, W: 84 * px, H: 64 * px, Step: larger,
		Outline: arrow, Text: within(arrow), Glue: onOutline(arrow),
	},
	{
		Kind: model.Waiting, Name: "Delay in work", Others: []string{"work measurement", "process chart", "wait",
			"queue", "idle"},
		Meaning: "Work measurement: something waits before the next piece of work.",
		When:    "In a process chart, for each wait nobody planned.",
		Source:  ASME, W: 64 * px, H: 64 * px, Step: rounder,
		Outline: halfRound, Text: within(halfRound),
	},
	{
		Kind: model.Storage, Name: "Storage", Others: []string{"work measurement", "process chart", "keep", "archive",
			"stock"},
		Meaning: "Work measurement: something is kept and guarded.",
		When:    "In a process chart, for stock and archives one has to ask for.",
		Source:  ASME, W: 76 * px, H: 66 * px, Step: larger,
		Outline: triangleDown, Text: within(triangleDown), Glue: onOutline(triangleDown),
	},
	{
		Kind: model.Annotation, Name: "Annotation", Others: []string{"comment", "explanation", "remark", "bracket"},
		Meaning: "An explanation of what it is joined to.",
		When:    "Beside a symbol that needs a word more; its line is dashed.",
		Source:  ISO5807, W: 140 * px, H: 50 * px, Step: higher,
		Outline: rectangle, Inner: bracket, Facing: bracketTo, Text: upright(margin+2*px, 0), Align: "left", Bare: true,
	},
	{
		Kind: model.Note, Name: "Note", Others: []string{"comment", "memo", "remark", "paper"},
		Meaning: "A word to the reader of the map.", When: "For what concerns the drawing or its making.",
		Source: Trade, W: 140 * px, H: 70 * px, Step: higher,
		Outline: folded, Inner: fold, Text: within(folded), Align: "left",
	},
	{
		Kind: model.CallOut, Name: "Call-out", Others: []string{"speech", "comment", "pointer", "quote"},
		Meaning: "A word that points at something.", When: "To draw the eye to one place of the map.",
		Source: Trade, W: 140 * px, H: 70 * px, Step: higher,
		Outline: callOut, Pointing: spokenTo, Tip: spokenTip, Text: upright(margin, pointer), Glue: onOutline(callOut),
	},
	{
		Kind: model.PlainText, Name: "Plain text", Others: []string{"caption", "heading", "label", "title"},
		Meaning: "Words without a symbol.", When: "For headings and captions on the sheet.",
		Source: Trade, W: 160 * px, H: 30 * px, MinH: 20 * px, Step: higher,
		Outline: rectangle, Text: upright(2*px, 0), Align: "left", Bare: true,
	},
	{
		Kind: model.Ellipsis, Name: "Ellipsis", Others: []string{"dots", "omitted", "and so on", "repeated"},
		Meaning: "Symbols are left out here.", When: "Where more of the same follows that need not be drawn.",
		Source: ISO5807, W: 60 * px, H: 24 * px, MinH: 12 * px, Step: geometry.Point{X: 10 * px, Y: 8 * px},
		Outline: rectangle, Inner: dots, Text: upright(2*px, 0), Bare: true,
	},
	{
		Kind: model.Frame, Name: "Frame", Others: []string{"group", "box", "boundary", "area", "together"},
		Meaning: "What belongs together, under a name.", When: "Around symbols; it takes along what lies in it.",
		Source: Trade, W: 320 * px, H: 200 * px, MinW: 60 * px, MinH: 40 * px, Step: higher,
		Outline: rectangle, Text: headStrip, Align: "left", Stand: "top", Hollow: true,
	},
	{
		Kind: model.WideArrow, Name: "Wide arrow", Others: []string{"block arrow", "flow", "transition", "direction"},
		Meaning: "A whole part of the work leads on to the next.",
		When:    "Between groups or pictures rather than single steps.",
		Source:  Trade, W: 120 * px, H: 70 * px, Step: larger,
		Outline: arrow, Text: within(arrow), Glue: onOutline(arrow),
	},
	{
		Kind: model.StageMark, Name: "Stage chevron", Others: []string{"phase", "period", "milestone", "stage",
			"value chain"},
		Meaning: "A stage of the work.", When: "In a row above the steps, one for each phase.",
		Source: Trade, W: 160 * px, H: 60 * px, Step: larger,
		Outline: chevron, Text: within(chevron), Glue: onOutline(chevron),
	},
	{
		Kind: model.Entity, Name: "Entity", Others: []string{"table", "record", "attributes", "class", "data model"},
		Meaning: "A thing one keeps data about, with its attributes.",
		When:    "In a data model: the first line is its name, every further line an attribute.",
		Source:  Trade, W: 140 * px, H: 100 * px, MinH: 50 * px, Step: higher,
		Outline: rectangle, Inner: ruled, Text: headRow, Body: bodyRows,
	},
	{
		Kind: model.Person, Name: "Person", Others: []string{"role", "user", "actor", "customer", "who"},
		Meaning: "Somebody who takes part in the work.",
		When:    "Where a person or role is to be seen, beside what they do.",
		Source:  Trade, W: 80 * px, H: 90 * px, MinH: 60 * px, Step: rounder,
		Outline: bust, Text: footStrip, Glue: middle,
	},
	{
		Kind: model.PersonCard, Name: "Card of a person", Others: []string{"employee", "hierarchy",
			"organisation chart",
			"portrait", "colleague"},
		Meaning: "Somebody with name, role and picture.",
		When:    "In a hierarchy: the first line is the name, the next ones the role.",
		Source:  Trade, W: 180 * px, H: 56 * px, MinW: 120 * px, MinH: 50 * px, Step: higher,
		Outline: soft, Inner: portraitRing, Text: besidePortrait, Body: besidePortrait, Align: "left", Strong: true,
		Follows: true,
	},
	{
		Kind: model.PostCard, Name: "Card of a post", Others: []string{"position", "unit", "department",
			"organisation chart", "part", "topic"},
		Meaning: "A post, a department, a part or a topic.",
		When:    "In a hierarchy: the first line is its name, the next ones say more.",
		Source:  Trade, W: 160 * px, H: 56 * px, MinW: 80 * px, MinH: 30 * px, Step: higher,
		Outline: soft, Text: upright(margin, 0), Body: upright(margin, 0), Align: "centre", Strong: true, Follows: true,
	},
	{
		Kind: model.TeamCard, Name: "Card of a team", Others: []string{"group", "several persons", "committee", "crew",
			"organisation chart"},
		Meaning: "Several people in one place.",
		When:    "In a hierarchy: the first line is the name of the team, every further line a person.",
		Source:  Trade, W: 180 * px, H: 80 * px, MinW: 100 * px, MinH: 50 * px, Step: higher,
		Outline: soft, Inner: ruled, Text: headRow, Body: bodyRows, Strong: true,
	},
	{
		Kind: model.MomentCell, Name: "Moment", Others: []string{"journey", "step", "activity", "opportunity",
			"experience"},
		Meaning: "Something that happens in a journey.",
		When:    "In a journey: what the person does, what happens behind the scenes, what could be better.",
		Source:  Trade, W: 144 * px, H: 36 * px, MinW: 60 * px, MinH: 30 * px, Step: higher,
		Outline: soft, Text: upright(8*px, 0), Align: "left",
	},
	{
		Kind: model.ContactCell, Name: "Contact point", Others: []string{"journey", "touchpoint", "channel",
			"telephone", "mail", "counter"},
		Meaning: "Where somebody meets the organisation.",
		When:    "In a journey: a telephone call, a letter, a web page, a person; its words choose its sign.",
		Source:  Trade, W: 144 * px, H: 36 * px, MinW: 60 * px, MinH: 30 * px, Step: higher,
		Outline: soft, Text: besideSign, Align: "left",
	},
	{
		Kind: model.WordsCell, Name: "Thoughts", Others: []string{"journey", "list", "quote", "says", "feels"},
		Meaning: "What somebody thinks or says.", When: "In a journey: a list, each line a thought.",
		Source: Trade, W: 144 * px, H: 36 * px, MinW: 60 * px, MinH: 20 * px, Step: higher,
		Outline: rectangle, Text: upright(2*px, 0), Align: "left", Stand: "top", Bare: true, Listed: true,
	},
	{
		Kind: model.MoodCell, Name: "Mood", Others: []string{"journey", "emotion", "satisfaction", "curve", "point"},
		Meaning: "How somebody feels at a time.", When: "In a journey: a point of the curve, with words.",
		Source: Trade, W: 144 * px, H: 60 * px, MinW: 40 * px, MinH: 20 * px, Step: higher,
		Outline: rectangle, Inner: moodDot, Text: upright(2*px, 0), Bare: true,
	},
	{
		Kind: model.Picture, Name: "Picture", Others: []string{"image", "photo", "logo", "screenshot"},
		Meaning: "A picture of the thing itself.", When: "For a photo, a screenshot or a sign; PNG, JPEG or SVG.",
		Source: Trade, W: 160 * px, H: 120 * px, Step: rounder,
		Outline: rectangle, Text: footStrip, Bare: true,
	},
	{
		Kind: model.Legend, Name: "Legend", Others: []string{"key", "symbols used", "explanation"},
		Meaning: "The symbols used on the sheet, with their meanings.",
		When:    "Once on a sheet for readers who do not know the symbols; it keeps itself up to date.",
		Source:  Trade, W: 400 * px, H: model.LegendHead + model.LegendRow, MinW: 200 * px,
		Step:    geometry.Point{X: 20 * px},
		Outline: rectangle, Text: legendHead, Align: "left",
	},
	{
		Kind: model.Contents, Name: "Table of contents", Others: []string{"contents", "list of sheets", "index"},
		Meaning: "The sheets of the map, each leading there.",
		When:    "On the first of many sheets; it keeps itself up to date.",
		Source:  Trade, W: 300 * px, H: model.LegendHead + model.ContentsRow, MinW: 140 * px,
		Step:    geometry.Point{X: 20 * px},
		Outline: rectangle, Text: legendHead, Align: "left",
	},
}

func init() {
	for _, s := range catalogue {
		if s.MinW == 0 {
			s.MinW = min(s.W/2, 40*px)
		}
		if s.MinH == 0 {
			s.MinH = min(s.H/2, 30*px)
		}
	}
}
