package procedure_test

import (
	"os"
	"path/filepath"
	"strings"
	"testing"

	"plaintracer/core/handover"
	"plaintracer/core/model"
	"plaintracer/core/numbering"
	"plaintracer/core/procedure"
)

// Every numbered step is told once, in the order of the numbers, and goes on to steps that are told, under their own
// numbers; "next" is said where it is the next one, and no role does a step that is not there.
func TestEveryStepIsToldOnce(t *testing.T) {
	files, err := filepath.Glob("../../bench/hands/*.json")
	if err != nil || len(files) < 5 {
		t.Fatal(files, err)
	}
	told := 0
	for _, file := range files {
		raw, err := os.ReadFile(file)
		if err != nil {
			t.Fatal(err)
		}
		m, err := model.ReadMap(raw)
		if err != nil || m.Sound() != nil {
			continue
		}
		p, steps := procedure.Of(m), numbering.Number(m)
		if len(p.Steps) != len(steps) {
			t.Errorf("%s: %d steps are told, of %d", file, len(p.Steps), len(steps))
			continue
		}
		numbers, at := map[string]string{}, map[string]int{}
		for i, s := range p.Steps {
			if s.ID != steps[i].Symbol.ID || s.Number != steps[i].Number {
				t.Errorf("%s: step %d is %s, not %s", file, i, s.Called(), steps[i].Number)
			}
			numbers[s.ID], at[s.ID] = s.Called(), i
		}
		for i, s := range p.Steps {
			for _, e := range s.Exits {
				if e.ID == "" {
					continue // an end of the work
				}
				if e.Number != numbers[e.ID] {
					t.Errorf("%s: %s goes on to %s, which is called %s", file, s.Called(), e.Number, numbers[e.ID])
				}
				if e.Next != (at[e.ID] == i+1) {
					t.Errorf("%s: %s goes on to %s, next: %v", file, s.Called(), e.Number, e.Next)
				}
			}
		}
		for _, r := range p.Roles {
			if r.Name == "" {
				t.Errorf("%s: a role without a name", file)
			}
		}
		told += len(p.Steps)

		// A part is told with the numbers of the whole.
		s := m.Sheets[0]
		if len(s.Symbols) < 4 {
			continue
		}
		var ids []string
		for _, sym := range s.Symbols[:len(s.Symbols)/2] {
			ids = append(ids, sym.ID)
		}
		part, err := handover.Part(m, handover.Scope{Sheet: s.ID, IDs: ids})
		if err != nil {
			t.Fatal(err)
		}
		for _, s := range procedure.Part(m, part).Steps {
			if s.Called() != numbers[s.ID] {
				t.Errorf("%s: in a part %s is called %s", file, numbers[s.ID], s.Called())
			}
		}
	}
	if told < 50 {
		t.Errorf("%d steps were told", told)
	}
}

// What a step uses and makes are the documents and data at it, and a loop is said to lead back.
func TestWhatStepsUseAndMake(t *testing.T) {
	m := model.New("Map", model.Rightwards, "A4", true)
	s := m.Sheets[0]
	for i, kind := range []model.Kind{model.Terminator, model.Process, model.Decision, model.Terminator, model.Document,
		model.Database} {
		sym := &model.Symbol{ID: string(rune('a' + i)), Kind: kind,
			Text: []string{"Begin", "Write", "Good?", "End", "Form", "Archive"}[i]}
		sym.X, sym.W, sym.H = i*16000, 12000, 8000
		s.Symbols = append(s.Symbols, sym)
	}
	for i, c := range [][3]string{{"a", "b"}, {"b", "c"}, {"c", "d", "Yes"}, {"c", "b", "No"}, {"e", "b"}, {"b", "f"}} {
		s.Connectors = append(s.Connectors, &model.Connector{ID: "k" + string(rune('a'+i)),
			From: model.End{Symbol: c[0]}, To: model.End{Symbol: c[1]}, Text: c[2]})
	}
	p := procedure.Of(m)
	if len(p.Steps) != 2 || len(p.Begins) != 1 || p.Begins[0] != "Begin" || len(p.Ends) != 1 || p.Ends[0] != "End" {
		t.Fatalf("%+v", p)
	}
	write, good := p.Steps[0], p.Steps[1]
	if len(write.Uses) != 1 || write.Uses[0].Text != "Form" || len(write.Makes) != 1 ||
		write.Makes[0].Text != "Archive" {
		t.Errorf("it uses %v and makes %v", write.Uses, write.Makes)
	}
	if !good.Asks || len(good.Exits) != 2 || good.Exits[0].Answer != "Yes" || good.Exits[0].Text != "End" ||
		!good.Exits[1].Back || good.Exits[1].Number != write.Number {
		t.Errorf("the question goes on %+v", good.Exits)
	}
}

// Paths that run at the same time say what has to be done before they go on together; a store that one step writes and
// another one reads is updated by the one and used by the other; a document at the end is filed; time passes in a
// delay.
func TestForksStoresAndWaits(t *testing.T) {
	m := model.New("Map", model.Rightwards, "A4", true)
	s := m.Sheets[0]
	long := strings.Repeat("Say what was seen on site. ", 4)
	for i, one := range []struct {
		kind model.Kind
		text string
	}{{model.Process, "Write"}, {model.ParallelMode, ""}, {model.Process, "Sign"}, {model.Delay, "Two days"}, {model.ParallelMode, ""},
		{model.Process, long + "\nAnd when."}, {model.Document, "Slip"}, {model.Database, "Register"}} {
		sym := &model.Symbol{ID: string(rune('a' + i)), Kind: one.kind, Text: one.text}
		sym.X, sym.W, sym.H = i*16000, 12000, 8000
		s.Symbols = append(s.Symbols, sym)
	}
	for i, c := range []string{"ab", "bc", "bd", "ce", "de", "ef", "fg", "ah", "hf"} {
		s.Connectors = append(s.Connectors, &model.Connector{ID: "k" + string(rune('a'+i)),
			From: model.End{Symbol: c[:1]}, To: model.End{Symbol: c[1:]}})
	}
	steps := map[string]procedure.Step{}
	for _, one := range procedure.Of(m).Steps {
		steps[one.ID] = one
	}
	write, sign, wait, last := steps["a"], steps["c"], steps["d"], steps["f"]
	if len(write.Makes) != 1 || !write.Makes[0].Store || len(write.Exits) < 2 {
		t.Errorf("it makes %v, and goes on %+v", write.Makes, write.Exits)
	}
	if len(sign.Exits) != 1 || len(sign.Exits[0].Joins) != 1 || sign.Exits[0].Joins[0] != wait.Number || !wait.Waits ||
		sign.Waits {
		t.Errorf("%+v, %+v", sign, wait)
	}
	if len(last.Files) != 1 || last.Files[0].Text != "Slip" || len(last.Makes) != 0 || len(last.Uses) != 1 ||
		len(last.Lines) != 2 {
		t.Errorf("%+v", last)
	}
}
