// Package command is the table of all that a person can ask for, by button, menu or key, and what each does.
package command

import (
	"cmp"
	"fmt"
	"slices"

	"plaintracer/core/editor/desk"
)

// command is something a person can ask for: by a button, a key, a menu or its name. The table of
// all commands is the one place that says what there is; bars, menus, keys, the search and the
// lists of keys are made from it.
type command struct {
	name string
	// part is the part of the work it belongs to; empty for what only pages ask for.
	part string
	// needs says what to select where the command does not apply, empty where it does; nil where it
	// always applies.
	needs func(d *desk.Desk) string
	do    func(e *Commands, arg string)
	// peeks says that what it would do can be shown before it is asked for.
	peeks bool
	// flows says that it is for sheets that show a flow.
	flows bool
	// reading says that it leaves the map as it is, and may run while a case is traced.
	reading bool
	// menus say in which context menus it stands: the group times a hundred, and the place in it.
	menus places
	// buttons are those in the bars.
	buttons []button
	// ways are how a person meets it, choices the values it takes, each a command to whoever looks
	// for it by name.
	ways    []way
	choices []choice
}

// button is a button of a command in one of the bars: at its place there, with what stands on it. Its title is that of
// the way to ask for the command with the same argument, unless it says another one.
type button struct {
	bar              string
	at               int
	arg, icon, title string
	// on names what of the state of the bars shows it pressed.
	on string
	// closes says that it closes the dialog it stands in.
	closes bool
}

// Button is a button as a page shows it. Key says that it tells its key, Closes that it closes the dialog it stands in.
type Button struct {
	Command, Arg, Icon, Title, On string
	Key, Closes                   bool
	at                            int
}

// Bar returns the buttons of a bar, in their order; an error where there is no such bar.
func Bar(name string) ([]Button, error) {
	var out []Button
	for i := range table {
		c := &table[i]
		for _, b := range c.buttons {
			if b.bar == name {
				out = append(out, Button{c.name, b.arg, b.icon, c.titleOf(b), b.on, b.arg == "" && KeyOf(c.name) != "",
					b.closes, b.at})
			}
		}
	}
	if len(out) == 0 {
		return nil, fmt.Errorf("there is no bar %q", name)
	}
	slices.SortFunc(out, func(a, b Button) int { return cmp.Compare(a.at, b.at) })
	return out, nil
}

func (c *command) titleOf(b button) string {
	if b.title != "" {
		return b.title
	}
	for _, w := range c.ways {
		if w.arg == b.arg {
			return w.title
		}
	}
	return ""
}

// way is one way to ask for a command.
type way struct {
	arg, title string
	// key is what to press, such as Ctrl+Shift+G; words are further ones by which it is found.
	key, words string
	// aside says that it stands in no context menu though its command does.
	aside   bool
	command *command
}

// entry returns a way as a person meets it.
func (w *way) entry(c *command) Entry {
	return Entry{Part: c.part, Command: c.name, Arg: w.arg, Title: w.title, Key: w.key, Words: w.words}
}

// choice is a set of values that a command takes: what is written behind a prefix, and what each is
// called.
type choice struct {
	prefix, title string
	values, names []string
}

// Choice is a value that a command takes, as a page offers it.
type Choice struct{ Command, Arg, Value, Name string }

// Choices are the values that a command takes behind a prefix, under their title; an error where there are none.
func Choices(name, prefix string) (title string, list []Choice, err error) {
	for _, c := range table {
		for _, choice := range c.choices {
			if c.name != name || choice.prefix != prefix {
				continue
			}
			for i, v := range choice.values {
				list = append(list, Choice{name, prefix + v, v, choice.names[i]})
			}
			return choice.title, list, nil
		}
	}
	return "", nil, fmt.Errorf("the command %q has no choices %q", name, prefix)
}

// spot is something that has a context menu.
type spot uint8

const (
	inDesk spot = iota
	inSymbol
	inConnector
	inPool
	inLane
	inStage
	inCell
	inTracing
	spots int = iota
)

// places say where in which menu a command stands; zero for not at all.
type places [spots]int

// The table, and what is looked up in it.
var (
	table    []command
	commands = map[string]*command{}
	keyed    = map[string]*way{}
	menus    = map[spot][]*command{}
)

func init() {
	for _, part := range []struct {
		name string
		list []command
	}{
		{"Rough out", roughOutCommands}, {"Write and find", writeAndFindCommands}, {"Select", selectingCommands},
		{"Move and line up", moveAndLineUpCommands}, {"Copy and hold together", copyAndHoldCommands},
		{"Style", stylesCommands},
		{"Connectors", connectorsCommands}, {"Lanes and sheets", lanesAndSheetsCommands}, {"Number", numberCommands},
		{"Hierarchies", cardsCommands}, {"Journeys", journeysCommands}, {"Review", reviewCommands},
		{"View and hand over", viewAndHandOverCommands},
		{"", forThePageCommands},
	} {
		for _, c := range part.list {
			c.part = part.name
			table = append(table, c)
		}
	}
	for i := range table {
		c := &table[i]
		if commands[c.name] != nil {
			panic("two commands are called " + c.name)
		}
		commands[c.name] = c
		for k := range c.ways {
			w := &c.ways[k]
			if w.command = c; w.key != "" {
				keyed[w.key] = w
			}
		}
		for where, place := range c.menus {
			if place != 0 {
				menus[spot(where)] = append(menus[spot(where)], c)
			}
		}
	}
	for where, list := range menus {
		slices.SortFunc(list, func(a, b *command) int { return cmp.Compare(a.menus[where], b.menus[where]) })
	}
	keyed["Ctrl+Shift+Z"] = keyed["Ctrl+Y"]
	keyed["Backspace"] = keyed["Delete"]
}

// lacks says why a command does not apply now; empty when it does.
func (c *command) lacks(e *desk.Desk) string {
	switch {
	case len(e.Tracing) > 0 && !c.reading:
		return desk.TracingWords
	case c.flows && e.Charted():
		return "This is for a flow; in a hierarchy the cards find their places by themselves."
	case c.flows && e.OnJourney():
		return "This is for a flow; in a journey everything stands in its cell."
	case c.needs == nil:
		return ""
	}
	return c.needs(e)
}

// pageOpens is a command that the page carries out itself.
func pageOpens(name string) func(*Commands, string) {
	return func(e *Commands, _ string) { e.ToOpen = name }
}

// Entries lists every command as a person meets it, by the part of the work it belongs to.
func Entries() (out []Entry) {
	for i := range table {
		for k := range table[i].ways {
			out = append(out, table[i].ways[k].entry(&table[i]))
		}
	}
	return out
}

// KeyOf returns the key of a command, such as Ctrl+Shift+G; empty where it has none.
func KeyOf(name string) string {
	if c := commands[name]; c != nil {
		for _, w := range c.ways {
			if w.key != "" {
				return w.key
			}
		}
	}
	return ""
}

// Needs says of every command that does not apply now what it lacks.
func Needs(d *desk.Desk) map[string]string {
	out := map[string]string{}
	for name, c := range commands {
		if lack := c.lacks(d); lack != "" {
			out[name] = lack
		}
	}
	return out
}
