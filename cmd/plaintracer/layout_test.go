package main

import (
	"bytes"
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"plaintracer/exchange/tracerjson"
)

// table writes a table of so many steps, each with the next one, some of them decisions.
func table(t *testing.T, steps int) string {
	t.Helper()
	var b strings.Builder
	b.WriteString("id,text,kind,lane,next\n")
	for i := 1; i <= steps; i++ {
		switch {
		case i == steps:
			fmt.Fprintf(&b, "%d,Step %d,process,,\n", i, i)
		case i%6 == 3 && i+3 < steps:
			fmt.Fprintf(&b, "%d,Check %d,decision,,Yes: %d; No: %d\n", i, i, i+1, i+3)
		default:
			fmt.Fprintf(&b, "%d,Step %d,process,,%d\n", i, i, i+1)
		}
	}
	file := filepath.Join(t.TempDir(), "steps.csv")
	if err := os.WriteFile(file, []byte(b.String()), 0o600); err != nil {
		t.Fatal(err)
	}
	return file
}

// A table of steps that is laid out gets a paper that holds it; a map that is there already keeps its own. What takes
// longer than the deadline writes nothing.
func TestLayOutFindsThePaper(t *testing.T) {
	for steps, want := range map[int]string{8: "A4", 24: "A4", 60: "A2"} {
		out := filepath.Join(t.TempDir(), "out.tracer.json")
		if err := run([]string{"layout", table(t, steps), out}, nil); err != nil {
			t.Fatal(err)
		}
		raw, err := os.ReadFile(out)
		if err != nil {
			t.Fatal(err)
		}
		m, err := tracerjson.Read(raw)
		if err != nil {
			t.Fatal(err)
		}
		s := m.Sheets[0]
		if !s.Area().Holds(s.Drawn()) {
			t.Errorf("%d steps reach to %v on %s", steps, s.Drawn(), s.Paper)
		}
		if s.Paper != want {
			t.Errorf("%d steps are on %s", steps, s.Paper)
		}
	}
	file := written(t)
	before, _ := os.ReadFile(file)
	if err := run([]string{"layout", file, file}, nil); err != nil {
		t.Fatal(err)
	}
	after, _ := os.ReadFile(file)
	if a, b := bytes.Count(before, []byte(`"paper": "A4"`)), bytes.Count(after, []byte(`"paper": "A4"`)); a == 0 ||
		a != b {
		t.Errorf("%d sheets on A4 before, %d after", a, b)
	}
	out := filepath.Join(t.TempDir(), "late.tracer.json")
	err := run([]string{"layout", table(t, 300), out, "--deadline", "1ns"}, nil)
	if err == nil || !strings.Contains(err.Error(), "--deadline") {
		t.Errorf("it says %v", err)
	}
	if _, err := os.Stat(out); err == nil {
		t.Error("it writes a map all the same")
	}
}
