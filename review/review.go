// Package review says what came of a round of review: who agreed to which version, who did not, who
// said nothing, and what is open. A Case holds what that depends on; Outcome and Names put it into
// words, the same ones on the screen, in messages and in files. It knows neither pages nor the store.
package review

import (
	"fmt"
	"strings"
)

// What one of those who were asked says of a version.
const (
	Agreed      = "agreed"
	WithRemarks = "agreed with remarks"
	NotAgreed   = "not agreed"
)

// Known reports whether a verdict is one of those above.
func Known(verdict string) bool {
	return verdict == Agreed || verdict == WithRemarks || verdict == NotAgreed
}

// Rule says how many of those who are asked have to agree for a version to be agreed.
type Rule string

// The rules.
const (
	All      Rule = ""
	Majority Rule = "majority"
	One      Rule = "one"
)

// RuleWords is a rule with how it is chosen and said.
type RuleWords struct {
	Rule        Rule
	Title, Says string
}

// Rules are all of them.
var Rules = []RuleWords{
	{All, "all agree", "It is agreed when all who are asked agree."},
	{Majority, "more than half agree", "It is agreed when more than half of those who are asked agree."},
	{One, "one agrees", "It is agreed when one of those who are asked agrees."},
}

// Known reports whether there is such a rule.
func (r Rule) Known() bool { return r.Says() != "" }

// Says puts the rule into a sentence; empty where there is no such rule.
func (r Rule) Says() string {
	for _, one := range Rules {
		if one.Rule == r {
			return one.Says
		}
	}
	return ""
}

// least is how many of so many have to agree.
func (r Rule) least(all int) int {
	switch r {
	case Majority:
		return all/2 + 1
	case One:
		return 1
	}
	return all
}

// Habits are what is proposed for a round of the organisation, and what is allowed in one.
type Habits struct {
	// Needs is how many have to agree, Remind after how many days those who have not answered are reminded again; zero
	// for never.
	Needs  Rule `json:"needs,omitempty"`
	Remind int  `json:"remind,omitempty"`
	// Final says that an answer stays as it is, Sign that whoever agrees gives their password again.
	Final bool `json:"final,omitempty"`
	Sign  bool `json:"sign,omitempty"`
	// TakeIn allows that rewordings which were proposed in a round count as part of what was agreed in it.
	TakeIn bool `json:"takeIn,omitempty"`
}

// Voice is one of those who were asked, and what they said; an empty verdict is nothing yet.
type Voice struct{ Name, Verdict string }

// Case is what the outcome of a round depends on.
type Case struct {
	// Version is the number of the version that was asked about.
	Version int
	Voices  []Voice
	// Needs is how many of them have to agree.
	Needs Rule
	// Open is how many remarks of the round are not settled.
	Open int
	// Ended says that nobody is heard any more, Changed that the map is not that version now.
	Ended, Changed bool
	// Since are the changes from the version to the end of the round, in words; TakenIn says that they are part of what
	// was agreed.
	Since   []string
	TakenIn bool
}

// verdicts are what can be said, in the order in which names are told: what stands against an agreement comes first.
var verdicts = []struct{ verdict, name string }{
	{NotAgreed, "Not agreed"}, {"", "Has not answered"}, {WithRemarks, "Agreed with remarks"}, {Agreed, "Agreed"}}

// count is how many say something.
func (c *Case) count(verdict string) (n int) {
	for _, v := range c.Voices {
		if v.Verdict == verdict {
			n++
		}
	}
	return n
}

// enough reports whether as many agreed to the version as the rule wants.
func (c *Case) enough() bool {
	return len(c.Voices) > 0 && c.count(Agreed) >= c.Needs.least(len(c.Voices))
}

// IsAgreed reports whether the version is agreed: the round has ended, as many as its rule wants agreed without
// remarks, and no remark of it is open.
func (c *Case) IsAgreed() bool { return c.Ended && c.enough() && c.Open == 0 }

// Outcome says in a line, without a full stop, what was said: a count, with names where somebody does not agree. What
// stands against an agreement comes first, so that a text that is cut short never sounds better than it is.
func (c *Case) Outcome() string {
	said := c.said() + c.ruled()
	if c.count(WithRemarks) == 0 || c.count("") == len(c.Voices) {
		switch {
		case c.Open == 1:
			said += "; 1 remark is open"
		case c.Open > 1:
			said += fmt.Sprintf("; %d remarks are open", c.Open)
		}
	}
	switch n := len(c.Since); {
	case n > 0 && c.TakenIn:
		said += "; with " + changes(n) + " taken in since: " + listed(c.Since, "; ")
	case n > 0 && c.Ended:
		is := "are"
		if n == 1 {
			is = "is"
		}
		said += fmt.Sprintf("; of version %d, %s since %s not part of it: %s", c.Version, changes(n), is,
			listed(c.Since, "; "))
	case c.Changed:
		said += fmt.Sprintf("; the map was changed since version %d", c.Version)
	}
	return said
}

func changes(n int) string {
	if n == 1 {
		return "1 change"
	}
	return fmt.Sprintf("%d changes", n)
}

// listed puts a few of a list in a row, and counts the others.
func listed(list []string, between string) string {
	const most = 3
	if len(list) > most {
		return strings.Join(list[:most], between) + fmt.Sprintf(" and %d more", len(list)-most)
	}
	return strings.Join(list, between)
}

// named are those who say something, by their names.
func (c *Case) named(verdict string) string {
	var names []string
	for _, v := range c.Voices {
		if v.Verdict == verdict {
			names = append(names, v.Name)
		}
	}
	return listed(names, ", ")
}

// numbers are written out as far as one would.
var numbers = [...]string{3: "three", 4: "four", 5: "five", 6: "six", 7: "seven", 8: "eight", 9: "nine", 10: "ten"}

// everyone says who it was when all of those who were asked said the same.
func (c *Case) everyone() string {
	switch n := len(c.Voices); {
	case n == 1:
		return c.Voices[0].Name
	case n == 2:
		return "both"
	case n < len(numbers):
		return "all " + numbers[n]
	default:
		return fmt.Sprintf("all %d", n)
	}
}

func (c *Case) said() string {
	all, yes, with, no, none := len(c.Voices), c.count(Agreed), c.count(WithRemarks), c.count(NotAgreed), c.count("")
	switch {
	case all == 0:
		return "nobody was asked"
	case none == all && c.Ended:
		return "ended without an answer"
	case none == all:
		return "nobody has answered yet"
	case yes == all:
		return "agreed by " + c.everyone()
	}
	var parts []string
	if no > 0 && !c.enough() {
		parts = append(parts, "not agreed: "+c.named(NotAgreed))
	}
	if yes > 0 {
		parts = append(parts, fmt.Sprintf("agreed by %d of %d", yes, all))
	}
	if no > 0 && c.enough() {
		parts = append(parts, "not by "+c.named(NotAgreed))
	}
	if with > 0 {
		by := fmt.Sprint(with)
		switch {
		case with == all:
			by = c.everyone()
		case yes == 0:
			by = fmt.Sprintf("%d of %d", with, all)
		}
		if c.Open > 0 {
			by += fmt.Sprintf(" (%d open)", c.Open)
		}
		parts = append(parts, "agreed with remarks by "+by)
	}
	switch {
	case none == 1:
		parts = append(parts, "1 has not answered")
	case none > 1:
		parts = append(parts, fmt.Sprintf("%d have not answered", none))
	}
	return strings.Join(parts, ", ")
}

// ruled says what that comes to by a rule that wants fewer than all: nothing where all or none have said the same.
func (c *Case) ruled() string {
	all, agreed := len(c.Voices), c.count(Agreed)
	if c.Needs == All || all < 2 || agreed == all || c.count("") == all {
		return ""
	}
	who := map[Rule]string{Majority: "more than half were needed", One: "one was needed"}[c.Needs]
	switch {
	case c.IsAgreed():
		return "; enough, since " + who
	case c.Ended && !c.enough():
		return "; not enough, " + who
	}
	return "; " + who
}

// Names says who said what, in sentences.
func (c *Case) Names() string {
	var out []string
	for _, v := range verdicts {
		var names []string
		for _, voice := range c.Voices {
			if voice.Verdict == v.verdict {
				names = append(names, voice.Name)
			}
		}
		if len(names) > 0 {
			out = append(out, v.name+": "+strings.Join(names, ", ")+".")
		}
	}
	return strings.Join(out, " ")
}
