package model

import (
	"fmt"
	"slices"
	"strings"
)

// Scheme is what a number is made of.
type Scheme string

// The schemes of numbering.
const (
	Plain    Scheme = ""       // 1, 2, 3
	Branched Scheme = "branch" // after decision 4: 4a1, 4a2 and 4b1
	ByLane   Scheme = "lane"   // B3: the letter of the lane
	ByStage  Scheme = "stage"  // 2.3: the stage
	ByPlace  Scheme = "place"  // 1, 2, 3 as they stand on the sheet
	BySheet  Scheme = "sheet"  // B3: the letter of the sheet
)

// Schemes are all of them, in the order in which they are offered.
var Schemes = []Scheme{Plain, Branched, ByLane, ByStage, ByPlace, BySheet}

// Countable are the kinds of things besides steps that a map may number, each in a row of its own.
var Countable = []string{"ends", "documents", "data", "references"}

// Badges are the places of a number: at the corner of the symbol, before its text, above it.
var Badges = []string{"", "before", "above"}

// Numbering is how the steps of a map are numbered.
type Numbering struct {
	Scheme Scheme `json:"scheme,omitempty"`
	// Prefix stands before every number.
	Prefix string `json:"prefix,omitempty"`
	// First is the first number, Step how far one lies from the next; zero is one. Digits is how many digits a number
	// has at least, with zeros before it.
	First  int `json:"first,omitempty"`
	Step   int `json:"step,omitempty"`
	Digits int `json:"digits,omitempty"`
	// Also are the kinds of things that are numbered besides steps, of Countable.
	Also []string `json:"also,omitempty"`
	// Badge is where a number stands, of Badges.
	Badge string `json:"badge,omitempty"`
}

// Held says that the numbers of a map stay as they are.
type Held struct {
	// Since is a date and time as ISO 8601 has it, By the name of who held them.
	Since string `json:"since,omitempty"`
	By    string `json:"by,omitempty"`
}

// On reports whether numbers are held.
func (h Held) On() bool { return h.Since != "" }

// Row is a row of numbers, such as those of a lane, with the one that comes next in it.
type Row struct {
	// ID names the row: what its numbers begin with.
	ID   string `json:"row"`
	Next int    `json:"next"`
}

// Number is that of a symbol.
type Number struct {
	Sheet  *Sheet
	Symbol *Symbol
	Text   string
}

// Validate reports a numbering that is none.
func (n *Numbering) Validate() error {
	switch {
	case !slices.Contains(Schemes, n.Scheme):
		return fault("numbering.scheme", "%q is no way of numbering; use branch, lane, stage, place, sheet, or nothing",
			n.Scheme)
	case n.First < 0 || n.First > 100_000:
		return fault("numbering.first", "the first number is 0 to 100000, not %d", n.First)
	case n.Step < 0 || n.Step > 1000:
		return fault("numbering.step", "from one number to the next is 1 to 1000, not %d", n.Step)
	case n.Digits < 0 || n.Digits > 6:
		return fault("numbering.digits", "a number has at least 1 to 6 digits, not %d", n.Digits)
	case !slices.Contains(Badges, n.Badge):
		return fault("numbering.badge", "%q is no place of a number; use before, above, or nothing for the corner",
			n.Badge)
	}
	for i, k := range n.Also {
		if path := fmt.Sprintf("numbering.also[%d]", i); !slices.Contains(Countable, k) {
			return fault(path, "%q cannot be numbered; use %s", k, strings.Join(Countable, ", "))
		} else if slices.Index(n.Also, k) != i {
			return fault(path, "%q stands there twice", k)
		}
	}
	return checkText("numbering.prefix", n.Prefix, maxNumber)
}

// maxNumber is how long a number may be.
const maxNumber = 20

// validateNumbers reports what is wrong with how the map numbers.
func (h *Head) validateNumbers() error {
	if err := h.Numbering.Validate(); err != nil {
		return err
	}
	if err := checkText("held.since", h.Held.Since, 40); err != nil {
		return err
	}
	if err := checkText("held.by", h.Held.By, MaxName); err != nil {
		return err
	}
	if len(h.Next) > 2*MaxSymbols {
		return fault("next", "there are at most %d rows of numbers, not %d", 2*MaxSymbols, len(h.Next))
	}
	for i, r := range h.Next {
		if err := checkText(fmt.Sprintf("next[%d].row", i), r.ID, MaxName); err != nil {
			return err
		}
		if r.Next < 0 || r.Next > 1<<40 {
			return fault(fmt.Sprintf("next[%d].next", i), "%d is no number that comes next", r.Next)
		}
	}
	return nil
}

// CheckNumber reports a text that is no number a person may pin: it is short, of letters, digits, full stops and
// strokes.
func CheckNumber(text string) error {
	if len(text) > maxNumber {
		return Refuse("", "a number has at most %d characters", maxNumber)
	}
	if i := strings.IndexFunc(text, func(r rune) bool {
		return !(r >= '0' && r <= '9' || r >= 'a' && r <= 'z' || r >= 'A' && r <= 'Z' ||
			strings.ContainsRune(".-/ _", r))
	}); i >= 0 || strings.TrimSpace(text) != text {
		return Refuse("", "a number is made of letters, digits, full stops and strokes")
	}
	return nil
}
