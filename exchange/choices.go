package exchange

import (
	"fmt"
	"slices"
	"strconv"
	"strings"
	"time"

	"plaintracer/core/looks"
	"plaintracer/core/model"
)

// Choice is one thing that a person can say about how a file is made. Dialogs, addresses and the command line are made
// of the list of them.
type Choice struct {
	// Name stands in addresses and as a flag, Title on the page; About says more where it takes more than the title.
	Name, Title, About string
	Kind               ChoiceKind
	// Options are those of a list.
	Options []Option
	// Least, Most and Step bound a number, in its Unit.
	Least, Most, Step float64
	Unit              string
	// Default stands where nothing is said, unless a format says another one.
	Default string
	// When names another choice and the values of it for which this one matters; empty for always.
	When   string
	Values []string
	// Silent ones stand on no page.
	Silent bool
}

// ChoiceKind is how a choice is made.
type ChoiceKind string

// The kinds of choices.
const (
	List   ChoiceKind = "list"
	Number ChoiceKind = "number"
	Yes    ChoiceKind = "yes"
	Text   ChoiceKind = "text"
)

// Option is one of a list.
type Option struct{ Value, Title string }

// Choices are all there are, in the order in which they are asked for.
var Choices = []Choice{
	{Name: "what", Title: "What", Kind: List, Options: []Option{{"sheet", "This sheet"},
		{"selection", "What is selected"}, {"map", "The whole map"}}, Default: "sheet"},
	{Name: "sheet", Title: "Sheet", Kind: Text, About: "the number of the sheet, from 1, or its id", Default: "1",
		Silent: true, When: "what", Values: []string{"sheet"}},
	{Name: "ids", Title: "Selected", Kind: Text, About: "the ids of what is selected, with commas between",
		Silent: true, When: "what", Values: []string{"selection"}},
	{Name: "paper", Title: "Paper", Kind: List, Options: papers()},
	{Name: "way", Title: "Orientation", Kind: List, Options: []Option{{"", "Whichever serves better"},
		{"across", "Landscape"}, {"upright", "Portrait"}}, When: "paper", Values: paperNames()},
	{Name: "use", Title: "A sheet that is larger", Kind: List,
		Options: []Option{{"", "is scaled to fit, and spread where its texts would be under 6 points"},
			{"one", "is scaled to one page"}, {"tiles", "is spread over pages, to be cut and joined"}}},
	{Name: "margin", Title: "Margin", Kind: Number, Least: 0, Most: 60, Step: 1, Unit: "mm", Default: "10",
		When: "paper", Values: paperNames()},
	{Name: "overlap", Title: "Overlap", Kind: Number, Least: 0, Most: 60, Step: 1, Unit: "mm", Default: "10",
		When: "use", Values: []string{"tiles"}},
	{Name: "size", Title: "Size", Kind: List, Options: []Option{{"", "by scale"}, {"pixels", "by width in pixels"},
		{"print", "by width on paper"}}},
	{Name: "scale", Title: "Scale", Kind: Number, Least: 0.1, Most: 16, Step: 0.1, Unit: "×", Default: "1",
		When: "size", Values: []string{""}},
	{Name: "pixels", Title: "Width", Kind: Number, Least: 16, Most: 20000, Step: 1, Unit: "px", Default: "1600",
		When: "size", Values: []string{"pixels"}},
	{Name: "width", Title: "Width", Kind: Number, Least: 5, Most: 2000, Step: 1, Unit: "mm", Default: "160",
		When: "size", Values: []string{"print"}},
	{Name: "dots", Title: "Dots per inch", Kind: Number, Least: 36, Most: 1200, Step: 1, Unit: "dpi", Default: "300",
		When: "size", Values: []string{"print"}},
	{Name: "area", Title: "Shows", Kind: List, Options: []Option{{"", "the page"}, {"drawn", "what is drawn"}}},
	{Name: "border", Title: "Room around it", Kind: Number, Least: 0, Most: 400, Step: 1, Unit: "px", Default: "16",
		When: "area", Values: []string{"drawn"}},
	{Name: "clear", Title: "Transparent ground", Kind: Yes, Default: "no"},
	{Name: "letters", Title: "Letters", Kind: List, Options: []Option{{"", "text, its typeface inside"},
		{"named", "text alone"}, {"outlines", "outlines"}},
		About: "Web browsers draw with a typeface inside; other programs take one of their own. Outlines look alike everywhere."},
	{Name: "quality", Title: "Quality", Kind: Number, Least: 1, Most: 100, Step: 1, Unit: "%", Default: "90"},
	{Name: "look", Title: "Look", Kind: List, Options: lookOptions()},
	{Name: "numbers", Title: "Step numbers", Kind: Yes, Default: "yes"},
	{Name: "heading", Title: "Frame and heading", Kind: Yes, Default: "yes"},
	{Name: "legend", Title: "Legend", Kind: Yes, Default: "yes"},
	{Name: "notes", Title: "Notes", Kind: Yes, Default: "yes"},
	{Name: "pictures", Title: "Pictures of the sheets", Kind: Yes, Default: "yes"},
	{Name: "appendix", Title: "Register and lists at the end", Kind: Yes, Default: "yes"},
	{Name: "separator", Title: "Between the cells", Kind: List,
		Options: []Option{{"", "a comma"}, {"semicolon", "a semicolon"}, {"tab", "a tab"}}},
	{Name: "inside", Title: "The map inside, to be opened again", Kind: Yes,
		About: "Whoever has the file can then open and change the map, of what goes out.", Default: "yes"},
	{Name: "files", Title: "The files kept with the map inside", Kind: Yes,
		About: "Whoever has the document can then open and save them.", Default: "no"},
	{Name: "language", Title: "Language of the texts", Kind: Text,
		About: "such as en or de-AT; read by programs that read aloud", Default: "en"},
	{Name: "date", Title: "Date", Kind: Text,
		About: "the day the file says it was made on, such as 2026-11-27; none where it is empty", Silent: true},
}

func papers() []Option {
	out := []Option{{"", "Its own"}}
	for _, p := range model.Papers {
		title := p.Name
		if title == "Slide" {
			title = "16:9 slide"
		}
		out = append(out, Option{p.Name, title})
	}
	return out
}

func paperNames() []string {
	var out []string
	for _, p := range model.Papers {
		out = append(out, p.Name)
	}
	return out
}

func lookOptions() []Option {
	out := []Option{{"", "That of the map"}}
	for _, l := range looks.All {
		out = append(out, Option{l.Name, l.Title})
	}
	return out
}

// choice returns a choice by its name; it has to be there.
func choice(name string) *Choice {
	return &Choices[slices.IndexFunc(Choices, func(c Choice) bool { return c.Name == name })]
}

// DefaultFor returns what stands for a format where nothing is said.
func (c *Choice) DefaultFor(f *Format) string {
	if d, ok := f.Defaults[c.Name]; ok {
		return d
	}
	return c.Default
}

// check returns a value as it is kept, or why it cannot be.
func (c *Choice) check(v string) (string, error) {
	v = strings.TrimSpace(v)
	switch c.Kind {
	case List:
		var known []string
		for _, o := range c.Options {
			if strings.EqualFold(o.Value, v) {
				return o.Value, nil
			}
			if o.Value != "" {
				known = append(known, o.Value)
			}
		}
		return "", &ChoiceError{fmt.Sprintf("%s: %q is none of %s.", c.Title, v, strings.Join(known, ", "))}
	case Number:
		n, err := strconv.ParseFloat(v, 64)
		if err != nil || !(n >= c.Least && n <= c.Most) {
			return "", &ChoiceError{fmt.Sprintf("%s is a number from %g to %g %s.", c.Title, c.Least, c.Most, c.Unit)}
		}
		return v, nil
	case Yes:
		switch strings.ToLower(v) {
		case "yes", "true", "on", "1":
			return "yes", nil
		case "no", "false", "off", "0":
			return "no", nil
		}
		return "", &ChoiceError{fmt.Sprintf("%s: yes or no, not %q.", c.Title, v)}
	}
	if len(v) > 1<<16 {
		return "", &ChoiceError{c.Title + " is too long."}
	}
	return v, nil
}

// Settings are the choices made for a format, by name. All that it heeds are there.
type Settings map[string]string

// Read reads the settings for a format. What said returns as absent has its default.
func Read(f *Format, said func(name string) (string, bool)) (Settings, error) {
	out := Settings{}
	for i := range Choices {
		c := &Choices[i]
		if !f.Heeds(c.Name) {
			continue
		}
		v, ok := said(c.Name)
		if !ok {
			out[c.Name] = c.DefaultFor(f)
			continue
		}
		v, err := c.check(v)
		if err != nil {
			return nil, err
		}
		out[c.Name] = v
	}
	return out, nil
}

// Yes reports whether something was chosen, and whether a format that does not ask for it does it.
func (s Settings) Yes(name string) bool {
	v, ok := s[name]
	if !ok {
		return choice(name).Default == "yes"
	}
	return v == "yes"
}

// Number returns a number.
func (s Settings) Number(name string) float64 {
	v, ok := s[name]
	if !ok {
		v = choice(name).Default
	}
	n, _ := strconv.ParseFloat(v, 64)
	return n
}

// day returns the date that was chosen.
func (s Settings) day() (time.Time, error) {
	if s["date"] == "" {
		return time.Time{}, nil
	}
	t, err := time.Parse(time.DateOnly, s["date"])
	if err != nil {
		return time.Time{}, &ChoiceError{fmt.Sprintf("The date is a day such as 2026-11-27, not %q.", s["date"])}
	}
	return t, nil
}
