package steptable

import (
	"errors"
	"strings"
	"testing"

	"plaintracer/core/model"
)

const loan = `id,text,kind,lane,next
start,A resident asks for a bike,terminator,Resident,check
check,Check the card,,Counter,ok
ok,"Card valid,
and paid for?",,Counter,Yes:hand;No:start
hand,Hand over the bike,manual-operation,Counter,
`

// The ids are kept, lanes come in the order in which they are named, a question is
// a decision, and the labels stand on the connectors.
func TestTableBecomesMap(t *testing.T) {
	m, err := Read([]byte("\ufeff"+loan), "Loan", model.Rightwards)
	if err != nil {
		t.Fatal(err)
	}
	s := m.Sheets[0]
	var ids, kinds, lanes []string
	for _, sym := range s.Symbols {
		ids, kinds, lanes = append(ids, sym.ID), append(kinds, string(sym.Kind)), append(lanes, s.LaneOf(sym).Name)
	}
	for got, want := range map[string]string{
		strings.Join(ids, " "):   "start check ok hand",
		strings.Join(kinds, " "): "terminator process decision manual-operation",
		strings.Join(lanes, " "): "Resident Counter Counter Counter",
	} {
		if got != want {
			t.Errorf("%q instead of %q", got, want)
		}
	}
	if s.Symbols[2].Text != "Card valid,\nand paid for?" {
		t.Errorf("the text reads %q", s.Symbols[2].Text)
	}
	var next []string
	for _, c := range s.Connectors {
		next = append(next, c.From.Symbol+">"+c.To.Symbol+":"+c.Text)
	}
	if got, want := strings.Join(next, " "), "start>check: check>ok: ok>hand:Yes ok>start:No"; got != want {
		t.Errorf("it leads %s instead of %s", got, want)
	}
}

// The columns may stand in any order, and some may be missing; empty lines are
// passed over; ids that the program gives never meet those of the table.
func TestColumnsInAnyOrder(t *testing.T) {
	m, err := Read([]byte("Next, TEXT ,other,id,lane\nlink1,One,x,lane1,Desk\n\n,Two,,link1,Yard\n"), "",
		model.Downwards)
	if err != nil {
		t.Fatal(err)
	}
	s := m.Sheets[0]
	if len(s.Symbols) != 2 || s.Symbols[0].ID != "lane1" || s.Symbols[1].ID != "link1" || len(s.Connectors) != 1 ||
		s.Connectors[0].To.Symbol != "link1" || len(s.Pools[0].Lanes) != 2 {
		t.Errorf("it reads %+v", s)
	}
}

// Whatever is wrong is named with its line and column.
func TestFaultsHaveTheirPlace(t *testing.T) {
	for table, want := range map[string]string{
		"":                              "the table is empty",
		"id,kind\na,process\n":          "line 1, column text: this column is missing",
		"id,text,ID\n":                  "line 1, column id: this column is there twice",
		"id,text\na,A\n\na,B\n":         `line 4, column id: "a" is the id of line 2 already`,
		"id,text\n,A\n":                 "line 2, column id: every step needs an id",
		"id,text\na b,A\n":              `line 2, column id: "a b" is no id`,
		"id,text,kind\na,A,robot\n":     `line 2, column kind: there is no kind "robot"`,
		"id,text,next\na,A,Yes:b\n":     `line 2, column next: there is no step "b"`,
		"id,text,next\na,A,\nb,B,a;b\n": `line 3, column next: the step "b" leads to itself`,
		"id,text\na,A,too,many\n":       "line 2: there are 4 values, but only 2 columns",
		"id,text\na,\"A\nb,B\n":         "line 3: at character",
		"id,text\na,\xff\n":             "not in UTF-8",
		"id,text\na,one\x01two\n":       "control character",
	} {
		_, err := Read([]byte(table), "", model.Rightwards)
		var f *Fault
		if !errors.As(err, &f) || !strings.Contains(err.Error(), want) {
			t.Errorf("%q: %v, instead of %s", table, err, want)
		}
	}
}

// No table makes it panic, and every map it makes is sound.
func FuzzRead(f *testing.F) {
	f.Add([]byte(loan))
	f.Add([]byte("id,text\na,b\n"))
	f.Fuzz(func(t *testing.T, data []byte) {
		m, err := Read(data, "Fuzz", model.Rightwards)
		if err != nil {
			return
		}
		if err := m.Validate(); err != nil {
			t.Error(err)
		}
	})
}

// Further columns become fields of the map, of the first type that all their values fit.
func TestFurtherColumnsAreFields(t *testing.T) {
	m,
		err := Read([]byte("id,text,System used,Time,People,Since\na,One,Desk tool,5 min,2,2026-11-28\nb,Two,,1.5 h,,\nc,Three,On paper,,3,01.12.2026\n"), "", model.Rightwards)
	if err != nil {
		t.Fatal(err)
	}
	var types []string
	for _, f := range m.Fields {
		types = append(types, f.Name+" "+string(f.Type))
	}
	if got := strings.Join(types, ", "); got != "System used text, Time duration, People whole, Since date" {
		t.Error(got)
	}
	s := m.Sheets[0]
	if s.Symbol("b").Value("f-2") != "90" || s.Symbol("c").Value("f-4") != "2026-12-01" ||
		s.Symbol("b").Value("f-1") != "" {
		t.Errorf("%v, %v", s.Symbol("b").Values, s.Symbol("c").Values)
	}
	if _, err := Read([]byte("id,text,Time,time\na,b,,\n"), "", model.Rightwards); err == nil ||
		!strings.Contains(err.Error(), "there twice") {
		t.Errorf("two columns of one name: %v", err)
	}
}
