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
}

// verdicts are what can be said, in the order in which an outcome tells it: what stands against an
// agreement comes first, so that a text that is cut short never sounds better than it is.
var verdicts = []struct{ verdict, did, name string }{
	{NotAgreed, "did not agree", "Not agreed"},
	{"", "said nothing", "Said nothing"},
	{WithRemarks, "agreed with remarks", "Agreed with remarks"},
	{Agreed, "agreed", "Agreed"},
}

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

// isAgreed reports whether as many as the rule wants agreed to the version, without remarks that are open.
func (c *Case) isAgreed() bool { return c.enough() && c.Open == 0 }

// Outcome says in a line what was said. It is the word "agreed" alone only where a round has ended in
// which all agreed, no remark is open, and the map is still what they agreed to.
func (c *Case) Outcome() string {
	said := c.said() + c.ruled()
	if c.Open == 1 {
		said += "; 1 remark is open"
	} else if c.Open > 1 {
		said += fmt.Sprintf("; %d remarks are open", c.Open)
	}
	if c.Changed {
		said += fmt.Sprintf("; the map was changed since version %d", c.Version)
	}
	return said
}

func (c *Case) said() string {
	all := len(c.Voices)
	switch {
	case all == 0:
		return "nobody was asked"
	case c.count("") == all && c.Ended:
		return "nobody said anything"
	case c.count("") == all:
		return "nobody has said anything yet"
	case c.count(Agreed) == all && c.Ended && c.Open == 0 && !c.Changed:
		return "agreed"
	case c.count(Agreed) == all && all == 1:
		return "the one who was asked agreed"
	case c.count(Agreed) == all:
		return fmt.Sprintf("all %d agreed", all)
	}
	var parts []string
	for _, v := range verdicts {
		n := c.count(v.verdict)
		if n == 0 {
			continue
		}
		did := v.did
		if v.verdict == "" && !c.Ended {
			did = "said nothing yet"
		}
		if len(parts) == 0 {
			parts = append(parts, fmt.Sprintf("%d of %d %s", n, all, did))
		} else {
			parts = append(parts, fmt.Sprintf("%d %s", n, did))
		}
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
	case c.enough() && c.Ended && c.Open == 0 && !c.Changed:
		return "; agreed, since " + who
	case c.enough():
		return "; " + who
	case c.Ended:
		return "; not enough agreed, " + who
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
