package editor

import (
	"strings"

	"plaintracer/core/diagram"
	"plaintracer/core/geometry"
	"plaintracer/core/looks"
)

// Entry is a command as a person meets it: in the search for commands, in the
// list of keys and in the menu of what was clicked.
type Entry struct {
	Part    string `json:"part"`
	Command string `json:"command"`
	Arg     string `json:"arg,omitempty"`
	Title   string `json:"title"`
	// Key is what to press, such as Ctrl+Shift+G.
	Key string `json:"key,omitempty"`
	// Words are further ones by which it is found.
	Words string `json:"words,omitempty"`
	// Needs says why it does not apply now.
	Needs string `json:"needs,omitempty"`
	// Line sets it apart from the one before it in a menu.
	Line bool `json:"line,omitempty"`
}

// Entries lists every command, by the part of the work it belongs to.
var Entries = []Entry{
	{Part: "Rough out", Command: "append", Arg: "process", Title: "Add the next step", Key: "Enter", Words: "append process after"},
	{Part: "Rough out", Command: "exit", Title: "Add the step of the other answer", Key: "Shift+Enter", Words: "branch exit decision no second"},
	{Part: "Rough out", Command: "between", Title: "Put a step in between", Key: "Insert", Words: "insert middle"},
	{Part: "Rough out", Command: "connect", Title: "Connect by keys", Key: "Ctrl+L", Words: "lead link line arrow loop back"},
	{Part: "Rough out", Command: "connect", Arg: "from", Title: "Lead the beginning elsewhere", Key: "Ctrl+Shift+L", Words: "reconnect"},
	{Part: "Rough out", Command: "swap", Title: "Swap the answers", Key: "/", Words: "yes no exchange"},
	{Part: "Rough out", Command: "lane-up", Title: "Into the lane above", Key: "Ctrl+ArrowUp", Words: "owner move"},
	{Part: "Rough out", Command: "lane-down", Title: "Into the lane below", Key: "Ctrl+ArrowDown", Words: "owner move"},
	{Part: "Rough out", Command: "delete", Title: "Delete", Key: "Delete", Words: "remove"},
	{Part: "Rough out", Command: "delete-close", Title: "Delete and close the gap", Key: "Shift+Delete", Words: "remove"},

	{Part: "Write and find", Command: "write", Title: "Write on it", Key: "F2", Words: "text edit rename"},
	{Part: "Write and find", Command: "next-empty", Title: "Write on the next empty symbol", Key: "Ctrl+Enter"},
	{Part: "Write and find", Command: "find-open", Title: "Find and replace", Key: "Ctrl+F", Words: "search text number"},
	{Part: "Write and find", Command: "find-next", Title: "Next match", Key: "F3"},
	{Part: "Write and find", Command: "find-previous", Title: "Previous match", Key: "Shift+F3"},
	{Part: "Write and find", Command: "answers-open", Title: "Answer words", Words: "yes no decision"},
	{Part: "Write and find", Command: "search-open", Title: "Find a command", Key: "Ctrl+K", Words: "search"},
	{Part: "Write and find", Command: "keys-open", Title: "Keys and gestures", Key: "?", Words: "help shortcuts"},

	{Part: "Select", Command: "next", Title: "Go to the next along the flow", Key: "PageDown", Words: "go"},
	{Part: "Select", Command: "previous", Title: "Go to the previous along the flow", Key: "PageUp", Words: "go back"},
	{Part: "Select", Command: "sibling", Title: "Go to the other branch", Key: "Shift+PageDown", Words: "next exit"},
	{Part: "Select", Command: "first", Title: "Go to the first step", Key: "Home"},
	{Part: "Select", Command: "last", Title: "Go to the last step", Key: "End"},
	{Part: "Select", Command: "select-all", Title: "Select everything on the sheet", Key: "Ctrl+A", Words: "select all"},
	{Part: "Select", Command: "select-kind", Title: "Select all of its kind", Key: "Alt+K", Words: "select same"},
	{Part: "Select", Command: "select-lane", Title: "Select all in its lane", Key: "Alt+L", Words: "select owner"},
	{Part: "Select", Command: "select-onward", Title: "Select everything downstream", Key: "Alt+PageDown", Words: "select after"},
	{Part: "Select", Command: "select-upstream", Title: "Select everything upstream", Key: "Alt+PageUp", Words: "select before"},

	{Part: "Move and line up", Command: "straighten", Title: "Straighten", Key: "Alt+S", Words: "line up tidy rows columns"},
	{Part: "Move and line up", Command: "lay-out", Title: "Lay out", Key: "Alt+Y", Words: "arrange whole flow automatic layout tidy"},
	{Part: "Move and line up", Command: "lay-out", Arg: "right", Title: "Lay out from left to right", Words: "arrange direction layout"},
	{Part: "Move and line up", Command: "lay-out", Arg: "down", Title: "Lay out from top to bottom", Words: "arrange direction layout"},
	{Part: "Move and line up", Command: "lay-out", Arg: "over", Title: "Lay out over several sheets", Words: "continue next page reference"},
	{Part: "Move and line up", Command: "room", Title: "Make room", Key: "Alt+R", Words: "space open close gap insert"},
	{Part: "Move and line up", Command: "align", Arg: "left", Title: "Align left edges"},
	{Part: "Move and line up", Command: "align", Arg: "centre", Title: "Align centres, in a column"},
	{Part: "Move and line up", Command: "align", Arg: "right", Title: "Align right edges"},
	{Part: "Move and line up", Command: "align", Arg: "top", Title: "Align top edges"},
	{Part: "Move and line up", Command: "align", Arg: "middle", Title: "Align middles, in a row"},
	{Part: "Move and line up", Command: "align", Arg: "bottom", Title: "Align bottom edges"},
	{Part: "Move and line up", Command: "align", Arg: "left sheet", Title: "To the left of the sheet", Words: "align page"},
	{Part: "Move and line up", Command: "align", Arg: "centre sheet", Title: "To the centre of the sheet, horizontally", Words: "align page"},
	{Part: "Move and line up", Command: "align", Arg: "right sheet", Title: "To the right of the sheet", Words: "align page"},
	{Part: "Move and line up", Command: "align", Arg: "top sheet", Title: "To the top of the sheet", Words: "align page"},
	{Part: "Move and line up", Command: "align", Arg: "middle sheet", Title: "To the middle of the sheet, vertically", Words: "align page"},
	{Part: "Move and line up", Command: "align", Arg: "bottom sheet", Title: "To the bottom of the sheet", Words: "align page"},
	{Part: "Move and line up", Command: "distribute", Arg: "across", Title: "Equal gaps across", Words: "distribute space"},
	{Part: "Move and line up", Command: "distribute", Arg: "down", Title: "Equal gaps down", Words: "distribute space"},
	{Part: "Move and line up", Command: "distribute", Arg: "across centres", Title: "Equal distances of centres across", Words: "distribute space"},
	{Part: "Move and line up", Command: "distribute", Arg: "down centres", Title: "Equal distances of centres down", Words: "distribute space"},
	{Part: "Move and line up", Command: "same", Arg: "both", Title: "Same size as the last selected"},
	{Part: "Move and line up", Command: "same", Arg: "width", Title: "Same width as the last selected"},
	{Part: "Move and line up", Command: "same", Arg: "height", Title: "Same height as the last selected"},
	{Part: "Move and line up", Command: "snug", Title: "Size to text"},
	{Part: "Move and line up", Command: "grid", Title: "Grid on or off", Key: "Alt+G", Words: "snap"},

	{Part: "Copy and hold together", Command: "duplicate", Title: "Duplicate", Key: "Ctrl+D", Words: "copy"},
	{Part: "Copy and hold together", Command: "paste-here", Title: "Paste at the pointer", Key: "Ctrl+Shift+V"},
	{Part: "Copy and hold together", Command: "group", Title: "Group", Key: "Ctrl+G", Words: "hold together"},
	{Part: "Copy and hold together", Command: "ungroup", Title: "Ungroup", Key: "Ctrl+Shift+G", Words: "take apart"},
	{Part: "Copy and hold together", Command: "group-in", Title: "Edit inside the group", Key: "Alt+Enter", Words: "enter"},
	{Part: "Copy and hold together", Command: "lock", Title: "Lock or unlock", Key: "Ctrl+Shift+K", Words: "protect fix"},
	{Part: "Copy and hold together", Command: "order", Arg: "front", Title: "To the front"},
	{Part: "Copy and hold together", Command: "order", Arg: "forward", Title: "One step forward"},
	{Part: "Copy and hold together", Command: "order", Arg: "backward", Title: "One step back"},
	{Part: "Copy and hold together", Command: "order", Arg: "back", Title: "To the back"},

	{Part: "Style", Command: "emphasis", Title: "Emphasis", Key: "Alt+M", Words: "unusual step mark"},
	{Part: "Style", Command: "style-take", Title: "Copy its style", Key: "Alt+C", Words: "copy pick"},
	{Part: "Style", Command: "style-give", Title: "Apply the copied style", Key: "Alt+V", Words: "paste apply"},
	{Part: "Style", Command: "style-plain", Title: "Plain style", Key: "Alt+N", Words: "reset none standard"},
	{Part: "Style", Command: "styles-open", Title: "Save its style under a name", Words: "named"},
	{Part: "Style", Command: "looks-open", Title: "Look of the map", Words: "colours theme print black white"},
	{Part: "Style", Command: "look-keep", Title: "Keep its look when the look of the map changes", Words: "leave out"},
	{Part: "Style", Command: "house-open", Title: "House style: colours and typeface", Words: "palette brand font file"},
	{Part: "Style", Command: "font-drop", Title: "Back to the built-in typeface", Words: "font house"},
	{Part: "Style", Command: "text", Arg: "bold", Title: "Bold", Key: "Ctrl+B"},
	{Part: "Style", Command: "text", Arg: "italic", Title: "Italic", Key: "Ctrl+I"},
	{Part: "Style", Command: "text", Arg: "underline", Title: "Underline", Key: "Ctrl+U"},
	{Part: "Style", Command: "text", Arg: "larger", Title: "Larger text"},
	{Part: "Style", Command: "text", Arg: "smaller", Title: "Smaller text"},
	{Part: "Style", Command: "text", Arg: "bullets", Title: "Make every line a list item"},
	{Part: "Style", Command: "dashed", Title: "Dashed outline"},

	{Part: "Connectors", Command: "exceptional", Title: "Exceptional path", Words: "dashed"},
	{Part: "Connectors", Command: "give-back", Title: "Let it find its own way again", Key: "Ctrl+Backspace", Words: "bend reset route"},
	{Part: "Connectors", Command: "glue", Title: "Glue to the best sides"},
	{Part: "Connectors", Command: "trunk", Title: "Exits share a trunk"},
	{Part: "Connectors", Command: "labels-home", Title: "Labels find their own place"},
	{Part: "Connectors", Command: "turn", Title: "Reverse the connector"},
	{Part: "Connectors", Command: "ends", Title: "Both ways"},
	{Part: "Connectors", Command: "label", Arg: "from", Title: "Label at the beginning"},
	{Part: "Connectors", Command: "label", Arg: "to", Title: "Label at the end"},

	{Part: "Lanes and sheets", Command: "lanes", Title: "Add a lane at the end"},
	{Part: "Lanes and sheets", Command: "lane-above", Title: "Insert a lane above"},
	{Part: "Lanes and sheets", Command: "lane-below", Title: "Insert a lane below"},
	{Part: "Lanes and sheets", Command: "lane-move", Arg: "up", Title: "Move the lane up", Words: "reorder"},
	{Part: "Lanes and sheets", Command: "lane-move", Arg: "down", Title: "Move the lane down", Words: "reorder"},
	{Part: "Lanes and sheets", Command: "lane-remove", Title: "Remove the lane, keep its steps", Words: "delete"},
	{Part: "Lanes and sheets", Command: "lane-remove", Arg: "above", Title: "Remove the lane, its steps to the lane above", Words: "delete"},
	{Part: "Lanes and sheets", Command: "lane-remove", Arg: "below", Title: "Remove the lane, its steps to the lane below", Words: "delete"},
	{Part: "Lanes and sheets", Command: "lane-remove", Arg: "delete", Title: "Remove the lane with its steps", Words: "delete"},
	{Part: "Lanes and sheets", Command: "pool-add", Title: "Add another pool of lanes", Words: "organisation company"},
	{Part: "Lanes and sheets", Command: "part-open", Title: "Part of a department or group", Words: "nested department sublane parent"},
	{Part: "Lanes and sheets", Command: "names-level", Title: "Turn the lane names", Words: "upright horizontal"},
	{Part: "Lanes and sheets", Command: "stage-add", Title: "Add a stage", Words: "phase period across"},
	{Part: "Lanes and sheets", Command: "stage-move", Arg: "back", Title: "Move the stage back", Words: "phase reorder earlier"},
	{Part: "Lanes and sheets", Command: "stage-move", Arg: "on", Title: "Move the stage on", Words: "phase reorder later"},
	{Part: "Lanes and sheets", Command: "stage-remove", Title: "Remove the stage, keep its steps", Words: "phase delete"},
	{Part: "Lanes and sheets", Command: "lanes-turn", Title: "Turn the lanes across or down", Words: "vertical horizontal direction"},
	{Part: "Lanes and sheets", Command: "roles-open", Title: "Lanes from a list of roles", Words: "paste owners"},
	{Part: "Lanes and sheets", Command: "owners-lanes", Title: "Turn owners into lanes", Words: "swimlanes who does"},
	{Part: "Lanes and sheets", Command: "lanes-owners", Title: "Turn lanes into owners", Words: "flowchart plain"},
	{Part: "Lanes and sheets", Command: "owner-open", Title: "Set the owner", Words: "who does role person department"},
	{Part: "Lanes and sheets", Command: "sheet-add", Title: "Add a sheet"},
	{Part: "Lanes and sheets", Command: "sheet-take", Title: "Copy the whole sheet to the clipboard", Words: "another map paste"},
	{Part: "Lanes and sheets", Command: "onto-page", Title: "Bring everything onto the page", Words: "fit edge paper"},
	{Part: "Lanes and sheets", Command: "paper-larger", Title: "Take a paper that holds everything", Words: "larger size page"},
	{Part: "Lanes and sheets", Command: "sheet-copy", Title: "Duplicate the sheet with everything on it", Words: "copy as it is as it will be"},
	{Part: "Lanes and sheets", Command: "sheet-open", Title: "This sheet: name, paper, background", Words: "ground picture"},
	{Part: "Lanes and sheets", Command: "heading", Title: "Heading of the sheet on or off", Words: "title block frame project author version date"},
	{Part: "Lanes and sheets", Command: "sheet-left", Title: "Move the sheet to the left", Words: "order"},
	{Part: "Lanes and sheets", Command: "sheet-right", Title: "Move the sheet to the right", Words: "order"},
	{Part: "Lanes and sheets", Command: "sheet-remove", Title: "Remove the sheet", Words: "delete"},
	{Part: "Lanes and sheets", Command: "ground-picture", Title: "Background picture from a file"},
	{Part: "Lanes and sheets", Command: "ground-none", Title: "No background", Words: "remove"},
	{Part: "Lanes and sheets", Command: "follow", Title: "Go to the partner", Words: "reference"},
	{Part: "Lanes and sheets", Command: "legend", Title: "Legend of the symbols used"},
	{Part: "Lanes and sheets", Command: "picture-open", Title: "Picture from a file"},
	{Part: "Lanes and sheets", Command: "number", Title: "Step numbers on or off"},
	{Part: "Lanes and sheets", Command: "units", Arg: "", Title: "Lengths in pixels", Words: "units px"},
	{Part: "Lanes and sheets", Command: "units", Arg: "mm", Title: "Lengths in millimetres", Words: "units mm"},
	{Part: "Lanes and sheets", Command: "units", Arg: "in", Title: "Lengths in inches", Words: "units in"},

	{Part: "View and hand over", Command: "zoom-in", Title: "Zoom in", Key: "Ctrl++"},
	{Part: "View and hand over", Command: "zoom-out", Title: "Zoom out", Key: "Ctrl+-"},
	{Part: "View and hand over", Command: "zoom-fit", Title: "Fit the sheet", Key: "Ctrl+."},
	{Part: "View and hand over", Command: "trace", Title: "Trace a case", Words: "walk"},
	{Part: "View and hand over", Command: "draw", Title: "Draw", Words: "end the trace"},
	{Part: "View and hand over", Command: "share-open", Title: "Share by a link"},
	{Part: "View and hand over", Command: "export-open", Title: "Export", Words: "picture svg png file save"},
	{Part: "View and hand over", Command: "undo", Title: "Undo", Key: "Ctrl+Z"},
	{Part: "View and hand over", Command: "redo", Title: "Redo", Key: "Ctrl+Y", Words: "again"},
}

// keyed are the entries that have a key, by how the key is written.
var keyed = map[string]*Entry{}

func init() {
	for i := range Entries {
		if e := &Entries[i]; e.Key != "" {
			keyed[e.Key] = e
		}
	}
	keyed["Ctrl+Shift+Z"] = keyed["Ctrl+Y"]
	keyed["Backspace"] = keyed["Delete"]
}

// keyName writes a key as entries do.
func keyName(key string, mods int) string {
	if len(key) == 1 {
		key = strings.ToUpper(key)
	}
	name := ""
	if mods&Ctrl != 0 {
		name += "Ctrl+"
	}
	if mods&Alt != 0 {
		name += "Alt+"
	}
	// A character that takes Shift to type is that character.
	if mods&Shift != 0 && (len(key) > 1 || mods&(Ctrl|Alt) != 0 || key >= "A" && key <= "Z") {
		name += "Shift+"
	}
	return name + key
}

// Menu lists what fits the thing at p, which it selects first unless it is
// selected already.
func (e *Editor) Menu(p geometry.Point) []Entry {
	e.cancel()
	e.at = p
	h := e.hit(p)
	var want []string // an empty one stands for a line between
	switch sym := e.symbol(h.id); {
	case len(e.tracing) > 0:
		want = []string{"draw"}
	case h.stage != "":
		e.sel, e.lane = nil, h.stage
		want = []string{"write", "stage-add", "stage-move", "stage-remove"}
	case h.lane != "":
		e.sel, e.lane = nil, h.lane
		want = []string{"write", "select-lane", "", "lane-above", "lane-below", "lane-move", "part-open", "stage-add", "", "lane-remove"}
	case sym != nil:
		e.chooseAt(h.id)
		want = []string{"write", "append", "exit", "connect", "swap", "follow", "", "emphasis", "style-take", "style-give", "",
			"select-kind", "select-lane", "select-onward", "select-upstream", "", "straighten", "lay-out", "group", "ungroup", "group-in", "lock", "", "duplicate", "delete", "delete-close"}
	case h.id != "" && e.Sheet().Connector(h.id) != nil:
		e.chooseAt(h.id)
		want = []string{"write", "between", "connect", "swap", "", "exceptional", "give-back", "glue", "turn", "trunk", "labels-home", "", "style-take", "style-give", "lock", "", "delete"}
	case h.id != "":
		e.sel, e.lane = []string{h.id}, ""
		want = []string{"write", "lanes", "lanes-turn", "stage-add", "lock", "", "delete"}
	default:
		e.sel = nil
		want = []string{"paste-here", "room", "select-all", "straighten", "lay-out", "", "lanes", "legend", "", "grid", "looks-open", "sheet-open", "zoom-fit"}
	}
	var out []Entry
	line := false
	for _, name := range want {
		line = line || name == "" && len(out) > 0
		for _, entry := range Entries {
			if entry.Command == name && !((name == "connect" || name == "lay-out") && entry.Arg != "") {
				if entry.Needs = e.needs(name, commands[name]); entry.Needs == "" {
					entry.Line, line = line, false
					out = append(out, entry)
				}
			}
		}
	}
	return out
}

// chooseAt selects the thing called id, with what it is grouped with, unless it
// is selected already.
func (e *Editor) chooseAt(id string) {
	for _, had := range e.sel {
		if had == id {
			return
		}
	}
	e.sel, e.lane = e.unitOf(id), ""
}

// Directory lists every command, each with what it needs now.
func (e *Editor) Directory() []Entry {
	out := make([]Entry, 0, len(Entries)+len(diagram.Kinds))
	for _, entry := range Entries {
		entry.Needs = e.needs(entry.Command, commands[entry.Command])
		out = append(out, entry)
	}
	return append(append(out, e.kindEntries()...), e.choiceEntries()...)
}

// choices are the commands that take one of a few values, each value a command of
// its own to whoever looks for it by name.
var choices = []struct {
	part, command, prefix, title string
	// values are what is written behind the prefix, names what they are called.
	values, names []string
}{
	{"Style", "fill", "", "Fill", diagram.Fills, colourNames},
	{"Style", "outline", "ink=", "Outline colour", diagram.Fills, colourNames},
	{"Style", "text", "colour=", "Text colour", diagram.Fills, colourNames},
	{"Style", "text", "align=", "Text across", []string{"", "left", "centre", "right"}, []string{"as usual", "left", "centre", "right"}},
	{"Style", "text", "stand=", "Text down", []string{"", "top", "middle", "bottom"}, []string{"as usual", "top", "middle", "bottom"}},
	{"Connectors", "line", "ink=", "Line colour", diagram.Fills, colourNames},
	{"Connectors", "line", "course=", "Course", []string{"", "straight", "curved"}, []string{"right-angled", "straight", "curved"}},
	{"Connectors", "line", "line=", "Pattern", []string{"", "dashed", "dotted", "dash-dot", "transfer", "link"},
		[]string{"solid", "dashed", "dotted", "dash and dot", "control transfer", "communication link"}},
	{"Connectors", "line", "hop=", "Where it crosses others", []string{"", "plain", "gap", "arc"}, []string{"as the sheet says", "plainly", "with a gap", "with an arc"}},
	{"Connectors", "line", "merge=", "Where others reach the same side", []string{"", "merge", "apart"}, []string{"as the sheet says", "merges with them", "keeps apart"}},
	{"Connectors", "line", "from=", "Beginning", markValues, markNames},
	{"Connectors", "line", "to=", "End", markValues, markNames},
	{"Connectors", "line", "size=", "Size of the ends", []string{"small", "", "large"}, []string{"small", "middle", "large"}},
	{"Lanes and sheets", "fitting", "", "Text that does not fit", []string{"", "alone", "smaller"},
		[]string{"lets all symbols of the kind grow", "lets its own symbol grow", "is set smaller"}},
	{"Lanes and sheets", "crossings", "", "Connectors of the sheet cross", []string{"", "gap", "plain"}, []string{"with an arc", "with a gap", "plainly"}},
	{"Lanes and sheets", "merging", "", "Connectors that reach the same side", []string{"", "merge"}, []string{"run side by side", "merge into one line"}},
	{"Lanes and sheets", "edge", "", "At the edge of the paper", []string{"", "grow"}, []string{"stay on the page", "grow the paper"}},
	{"Move and line up", "others", "", "Lay out turns the other answers", []string{"", "above"}, []string{"down, or to the right", "up, or to the left"}},
	{"Lanes and sheets", "lane-head", "", "Head of the lane", diagram.Fills, colourNames},
	{"Lanes and sheets", "ground", "", "Background", diagram.Fills[1:], diagram.Fills[1:]},
	{"Lanes and sheets", "sheet-turn", "", "Paper lies", []string{"across", "upright"}, []string{"across", "upright"}},
}

var (
	colourNames           = append([]string{"as usual"}, diagram.Fills[1:]...)
	markValues, markNames = namedMarks()
)

func namedMarks() (values, names []string) {
	values, names = []string{""}, []string{"as usual"}
	for _, m := range diagram.Marks {
		values, names = append(values, string(m)), append(names, strings.ReplaceAll(string(m), "-", " "))
	}
	return values, names
}

// choiceEntries lists the choices, with those the map itself brings.
func (e *Editor) choiceEntries() []Entry {
	var out []Entry
	add := func(part, command, arg, title, words string) {
		out = append(out, Entry{Part: part, Command: command, Arg: arg, Title: title, Words: words, Needs: e.needs(command, commands[command])})
	}
	for _, c := range choices {
		for i, v := range c.values {
			add(c.part, c.command, c.prefix+v, c.title+": "+c.names[i], "")
		}
	}
	for _, c := range e.m.Colours {
		add("Style", "fill", c.Value, "Fill: "+c.Name, "house")
		add("Style", "outline", "ink="+c.Value, "Outline colour: "+c.Name, "house")
		add("Style", "text", "colour="+c.Value, "Text colour: "+c.Name, "house")
		add("Connectors", "line", "ink="+c.Value, "Line colour: "+c.Name, "house")
	}
	for _, y := range e.m.Styles {
		add("Style", "style-wear", y.ID, "Wear the style: "+y.Name, "saved")
		add("Style", "style-change", y.ID, "Change the style: "+y.Name, "saved like the selected")
	}
	for _, l := range looks.All {
		add("Style", "look-try", l.Name, "Look: "+l.Title, l.About)
	}
	for _, p := range diagram.Papers {
		add("Lanes and sheets", "sheet-paper", p.Name, "Paper: "+p.Name, "size")
	}
	for _, s := range e.m.Sheets {
		if s.ID != e.sheetID {
			add("Lanes and sheets", "sheet", s.ID, "Go to the sheet: "+s.Name, "turn")
		}
	}
	return out
}
