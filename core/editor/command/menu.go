package command

import (
	"slices"
	"strings"

	"plaintracer/core/editor/desk"
	"plaintracer/core/geometry"
	"plaintracer/core/looks"
	"plaintracer/core/model"
	"plaintracer/core/symbols"
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

// keyName writes a key as entries do.
func keyName(key string, mods int) string {
	if len(key) == 1 {
		key = strings.ToUpper(key)
	}
	name := ""
	if mods&desk.Ctrl != 0 {
		name += "Ctrl+"
	}
	if mods&desk.Alt != 0 {
		name += "Alt+"
	}
	// A character that takes Shift to type is that character.
	if mods&desk.Shift != 0 && (len(key) > 1 || mods&(desk.Ctrl|desk.Alt) != 0 || key >= "A" && key <= "Z") {
		name += "Shift+"
	}
	return name + key
}

// Menu lists what fits the thing at p, which it selects first unless it is
// selected already.
func (e *Commands) Menu(p geometry.Point) []Entry {
	e.Cancel()
	e.At = p
	h := e.Hit(p)
	where := inDesk
	switch sym := e.Symbol(h.ID); {
	case len(e.Tracing) > 0:
		where = inTracing
	case h.Stage != "":
		e.Sel, e.Lane = nil, h.Stage
		where = inStage
	case h.Cell != (desk.Spot{}):
		e.Sel, e.Lane, e.Blank = nil, "", h.Cell
		where = inCell
	case h.Lane != "":
		e.Sel, e.Lane = nil, h.Lane
		where = inLane
	case sym != nil:
		e.chooseAt(h.ID)
		where = inSymbol
	case h.ID != "" && e.Sheet().Connector(h.ID) != nil:
		e.chooseAt(h.ID)
		where = inConnector
	case h.ID != "":
		e.Sel, e.Lane = []string{h.ID}, ""
		where = inPool
	default:
		e.Sel = nil
	}
	var out []Entry
	group := 0
	for _, c := range menus[where] {
		if c.lacks(e.Desk) != "" {
			continue
		}
		for _, w := range c.ways {
			if w.aside {
				continue
			}
			entry := w.entry(c)
			entry.Line = len(out) > 0 && c.menus[where]/100 != group
			group = c.menus[where] / 100
			out = append(out, entry)
		}
	}
	return out
}

// chooseAt selects the thing called id, with what it is grouped with, unless it
// is selected already.
func (e *Commands) chooseAt(id string) {
	for _, had := range e.Sel {
		if had == id {
			return
		}
	}
	e.Sel, e.Lane = e.UnitOf(id), ""
}

// Directory lists every command, each with what it needs now.
func (e *Commands) Directory() []Entry {
	var out []Entry
	for i := range table {
		c := &table[i]
		needs := c.lacks(e.Desk)
		for _, w := range c.ways {
			entry := w.entry(c)
			entry.Needs = needs
			out = append(out, entry)
		}
	}
	return append(append(out, e.kindEntries()...), e.choiceEntries()...)
}

// kindEntries lists every kind of symbol as a command: to take it in hand, or to
// make the selected symbols of that kind.
func (e *Commands) kindEntries() []Entry {
	var out []Entry
	needs := commands["kind"].lacks(e.Desk)
	for _, kind := range model.Kinds {
		if kind.IsMoment() { // what stands in a cell is as its row wants it
			continue
		}
		def := symbols.Of(kind)
		name := strings.ToLower(def.Name)
		set := "take"
		switch from := e.One(); {
		case from == nil:
			set = "set-down"
		case !from.Kind.IsAside() && !kind.IsAside(): // it is the next step
			set = "append"
		}
		out = append(out, Entry{Part: "Symbols", Command: set, Arg: string(kind), Title: "Set down: " + name,
			Words: "draw add " + string(kind)},
			Entry{Part: "Symbols", Command: "kind", Arg: string(kind), Title: "Make it: " + name,
				Words: "change kind " + string(kind), Needs: needs})
	}
	return out
}

var (
	colourNames           = model.ColourNames()
	markValues, markNames = namedMarks()
	// weights are those of lines that are offered, sizes those of type.
	weights = []string{"0.5 px", "1 px", "1.5 px", "2 px", "3 px", "4 px"}
	sizes   = []string{"8 pt", "9 pt", "10 pt", "11 pt", "12 pt", "14 pt", "18 pt", "24 pt"}
)

func namedMarks() (values, names []string) {
	values, names = []string{""}, []string{"default"}
	for _, m := range model.Marks {
		values, names = append(values, string(m)), append(names, strings.ReplaceAll(string(m), "-", " "))
	}
	return values, names
}

// choiceEntries lists the choices, with those the map itself brings.
func (e *Commands) choiceEntries() []Entry {
	var out []Entry
	add := func(part, command, arg, title, words string) {
		out = append(out, Entry{Part: part, Command: command, Arg: arg, Title: title, Words: words,
			Needs: commands[command].lacks(e.Desk)})
	}
	for i := range table {
		c := &table[i]
		for _, choice := range c.choices {
			words := ""
			if slices.Equal(choice.values, model.Fills) {
				words = "colour"
			}
			for k, v := range choice.values {
				add(c.part, c.name, choice.prefix+v, choice.title+": "+choice.names[k], words)
			}
		}
	}
	for _, c := range e.M.Colours {
		add("Style", "fill", c.Value, "Fill: "+c.Name, "house")
		add("Style", "outline", "ink="+c.Value, "Outline colour: "+c.Name, "house")
		add("Style", "text", "colour="+c.Value, "Text colour: "+c.Name, "house")
		add("Connectors", "line", "ink="+c.Value, "Line colour: "+c.Name, "house")
	}
	for _, y := range e.M.Styles {
		add("Style", "style-wear", y.ID, "Wear the style: "+y.Name, "saved")
		add("Style", "style-change", y.ID, "Change the style: "+y.Name, "saved like the selected")
	}
	for _, l := range looks.All {
		add("Style", "look-try", l.Name, "Look: "+l.Title, l.About)
	}
	for _, p := range model.Papers {
		add("Lanes and sheets", "sheet-paper", p.Name, "Paper: "+p.Name, "size")
	}
	for _, s := range e.M.Sheets {
		if s.ID != e.SheetID {
			add("Lanes and sheets", "sheet", s.ID, "Go to the sheet: "+s.Name, "turn")
		}
	}
	return out
}
