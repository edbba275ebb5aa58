package document

import (
	"strings"
	"testing"

	"plaintracer/core/procedure"
)

// Ends of a flow stand inside a sentence where they are clauses, and are quoted where they are not: what begins with a
// name keeps its letter, and no word is taken for a verb that is none.
func TestWhenTheWorkBegins(t *testing.T) {
	steps := []procedure.Step{
		{Text: "Check the resident's card"},
		{Text: "Ask Runa for the key"},
		{Text: "Call back all customers"},
		{Text: "Log it in the SAP system"},
	}
	for _, c := range []struct {
		ends []string
		want string
	}{
		{[]string{"A street light is out"}, "when a street light is out"},
		{[]string{"Resident has a date", "The lamp burns again."}, "when the resident has a date or the lamp burns again"},
		{[]string{"A resident calls"}, "when a resident calls"},
		{[]string{"Runa gets a call"}, "when Runa gets a call"},
		{[]string{"Customers want a bike"}, "when customers want a bike"},
		{[]string{"SAP is down"}, "when SAP is down"},
		{[]string{"Foreman comes back"}, "when Foreman comes back"}, // it may be a name
		{[]string{"I am ill"}, "with “I am ill”"},
		{[]string{"Start"}, "with “Start”"},
		{[]string{"Work orders"}, "with “Work orders”"},
		{[]string{"Report received"}, "with “Report received”"},
		{[]string{"New glass"}, "with “New glass”"},
		{[]string{"A street light is out", "Storm"}, "with “A street light is out” or “Storm”"},
		{[]string{"Das Licht ist aus", "Ein Licht hat keinen Strom", "Sturm"}, "with “Das Licht ist aus”, “Ein Licht hat keinen Strom” or “Sturm”"},
	} {
		sp := speechOf(&procedure.Procedure{Title: "A street light is out", Steps: steps, Begins: c.ends})
		if got := sp.occasions(c.ends); got != c.want {
			t.Errorf("%q: %s, not %s", c.ends, got, c.want)
		}
	}
	german := speechOf(&procedure.Procedure{Language: "de"})
	if got := german.occasions([]string{"A is out"}); got != "with “A is out”" {
		t.Error(got)
	}
}

// A procedure is told as one who files it would write it: branches with one verb, loops as a return, what is updated
// and what is used, forks and where they meet, waits, and what is filed at the end.
func TestSentences(t *testing.T) {
	p := &procedure.Procedure{Title: "Map", Begins: []string{"A report comes in"}, Steps: []procedure.Step{
		{
			ID:     "a",
			Number: "1",
			Text:   "Look it up",
			Lines:  []string{"Look it up"},
			Who:    "Desk",
			Uses: []procedure.Thing{{Text: "Asset register", Store: true},
				{Text: "Form 12"}, {Kind: "Document"}},
			Exits: []procedure.Exit{{ID: "b", Number: "2", Next: true}},
		},
		{
			ID:     "b",
			Number: "2",
			Text:   "Known?",
			Lines:  []string{"Known?"},
			Asks:   true,
			Exits: []procedure.Exit{{Answer: "Yes", ID: "c", Number: "3", Next: true},
				{Answer: "No", ID: "a", Number: "1", Back: true}, {Answer: "Not clear", Text: "The report is closed"}},
		},
		{
			ID:     "c",
			Number: "3",
			Text:   "Write",
			Lines:  []string{"Write"},
			Makes:  []procedure.Thing{{Text: "Letter"}, {Text: "the archive", Store: true}},
			Exits:  []procedure.Exit{{ID: "d", Number: "4", Next: true}, {ID: "e", Number: "5"}},
		},
		{
			ID:     "d",
			Number: "4",
			Text:   "Two days",
			Lines:  []string{"Two days"},
			Waits:  true,
			Exits:  []procedure.Exit{{ID: "f", Text: "Sort", Number: "“Sort”", Joins: []string{"5", "6"}}},
		},
		{
			ID:    "f",
			Text:  "Sort",
			Lines: []string{"Sort", "by street"},
			Files: []procedure.Thing{{Text: "Letter"}, {Text: "Slip"}},
		},
	}}
	blocks, err := Blocks(p, false)
	if err != nil {
		t.Fatal(err)
	}
	var out []string
	for i := range blocks {
		out = append(out, blocks[i].Text())
	}
	said := strings.Join(out, "\n")
	for _, want := range []string{"The work begins when a report comes in.", "Look it up (Desk).\nUses the Asset register, the “Form 12” and a document.",
		"Known? If yes, go to step 3. If no, return to step 1. If not clear, the work ends: the report is closed.",
		"Write. At the same time: go to step 4; go to step 5.\nMakes the “Letter”. Updates the archive.",
		"Wait: Two days. When steps 5 and 6 are done as well, go to “Sort”.",
		"Sort\nby street.\nThe “Letter” and the “Slip” are filed."} {
		if !strings.Contains(said, want) {
			t.Errorf("%q is not in\n%s", want, said)
		}
	}
}
