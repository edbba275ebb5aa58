package exchange_test

import (
	"fmt"
	"math/rand"
	"slices"
	"strings"
	"testing"

	"plaintracer/core/compose"
	"plaintracer/core/findings"
	"plaintracer/core/model"
	"plaintracer/exchange/registerfile"
)

// walked is a map with a sheet of journeys that was made up, of which some have other stages than the ones above.
func walked(t *testing.T, r *rand.Rand) *model.Map {
	t.Helper()
	m := model.New("Walked", model.Rightwards, "A4", true)
	m.Fields = []model.Field{{ID: "f", Name: "Time", Type: "duration"}}
	s := &model.Sheet{SheetHead: model.SheetHead{ID: "lived", Name: "Lived", Paper: "A4", Kind: model.JourneySheet},
		Pools: []*model.Pool{}, Symbols: []*model.Symbol{}, Connectors: []*model.Connector{}}
	words := []string{"Waits", "=SUM(A1)", "\"So what\"", "Ärger, groß", "-12 degrees", "[sic] a word", "12; 13"}
	n := 0
	text := func(lines bool) string {
		out := words[r.Intn(len(words))]
		for lines && r.Intn(3) == 0 {
			out += "\n" + words[r.Intn(5)]
		}
		return out
	}
	stages := 1 + r.Intn(5)
	for j := range 1 + r.Intn(3) {
		if r.Intn(2) == 0 {
			stages = 1 + r.Intn(5)
		}
		p := &model.Pool{ID: fmt.Sprint("p", j), W: model.MinPool, Journey: true, Title: fmt.Sprint("Person ", j)}
		if r.Intn(2) == 0 {
			p.Words = "Walks.\nSings, too."
		}
		for i := range stages {
			p.Stages = append(p.Stages, model.Stage{ID: fmt.Sprint(p.ID, "s", i), Name: fmt.Sprint("Stage ", i),
				L: model.JourneyStage})
		}
		for i, k := range model.RowKinds {
			if r.Intn(4) == 0 && i > 0 {
				continue
			}
			lane := model.Lane{ID: fmt.Sprint(p.ID, "r", i), Name: fmt.Sprint("Row ", i), H: model.MinLane, Row: k.Type}
			if k.Type == model.SumRow {
				lane.Field = "f"
			}
			p.Lanes = append(p.Lanes, lane)
			if k.Kind == "" || k.Kind == model.Picture {
				continue
			}
			over := 0
			for c := range p.Stages {
				if over--; over > 0 || r.Intn(3) == 0 {
					continue
				}
				count := 1 + r.Intn(2)
				for x := range count {
					n++
					sym := &model.Symbol{ID: fmt.Sprint("c", n), Kind: k.Kind, Box: model.CellBox, Text: text(true),
						Seat: model.Seat{Rank: (x + 1) * model.RankStep},
						Cell: model.Cell{Row: lane.ID, Stage: p.Stages[c].ID}}
					switch k.Kind {
					case model.MoodCell:
						sym.Mood = r.Intn(201) - 100
					case model.ContactCell:
						sym.Sign = []string{"", "mail", model.NoSign}[r.Intn(3)]
					}
					if k.Kind != model.MoodCell && x == count-1 && r.Intn(4) == 0 && c+1 < stages {
						sym.Span = 2 + r.Intn(stages-c-1)
						over = sym.Span
					}
					if k.Kind == model.MomentCell && r.Intn(3) == 0 {
						sym.Owner = "Field crew"
					}
					s.Symbols = append(s.Symbols, sym)
				}
			}
		}
		s.Pools = append(s.Pools, p)
	}
	m.Sheets = append(m.Sheets, s)
	m.SettleAll()
	if err := m.Validate(); err != nil {
		t.Fatal(err)
	}
	return m
}

// lives lists what stands in the journeys of a sheet.
func lives(s *model.Sheet) (list []string) {
	for _, p := range s.Pools {
		list = append(list, fmt.Sprintf("%q %q", p.Title, p.Words))
		for _, l := range p.Lanes {
			list = append(list, fmt.Sprintf("row %q %s %s", l.Name, l.Row, l.Field))
		}
		for _, sym := range s.Cells(p) {
			list = append(list, fmt.Sprintf("%s: %s %q %s %+d %q %q", s.CellName(sym), sym.Kind, sym.Text, sym.Sign,
				sym.Mood, sym.Owner, fmt.Sprint(max(sym.Span, 1))))
		}
	}
	return list
}

// A table of journeys that was written makes the same journeys.
func TestJourneysGoOutAndInTheSame(t *testing.T) {
	seeds := 60
	if testing.Short() {
		seeds = 15
	}
	for seed := range seeds {
		m := walked(t, rand.New(rand.NewSource(int64(seed))))
		for format, name := range map[string]string{"journey-csv": "journey.csv", "register-xlsx": "journey.xlsx"} {
			table, err := registerfile.Read(name, made(t, m, format).Data, &model.Head{})
			if err != nil {
				t.Fatal(err)
			}
			n := 0
			w := &compose.Work{Map: m, Sheet: m.Sheets[0], NewID: func() string { n++; return fmt.Sprint("new", n) }}
			plan := w.ReadJourney(*table)
			if plan.Refusal != "" {
				t.Fatalf("seed %d, %s: %s", seed, format, plan.Refusal)
			}
			if got, want := lives(plan.Sheet()), lives(m.Sheets[1]); !slices.Equal(got, want) {
				t.Fatalf("seed %d, %s:\n%s\nwant\n%s\n%q", seed, format, strings.Join(got, "\n"), strings.Join(want, "\n"),
					table.Rows)
			}
		}
	}
}

// Types are guessed by the names of rows, which is said; what cannot be read is said by its line or refused.
func TestATableOfAJourneyIsReadWithCare(t *testing.T) {
	n := 0
	w := &compose.Work{Map: model.New("x", model.Rightwards, "A4", true),
		NewID: func() string { n++; return fmt.Sprint("n", n) }}
	w.Sheet = w.Map.Sheets[0]
	plan := w.ReadJourney(compose.Sheet{Rows: [][]string{{"", "Need", "Asking", ""},
		{"What she does", "Looks\nCalls", "Waits"}, {"Touchpoints", "", "Telephone"}, {"Mood", "bad", "-200"},
		{"", "", ""}, {"Anything", "- one\n- two", "→"}, {"Duration", "5 min", ""}}})
	want := []string{`Line 2, “What she does”: taken for a row of the type What happens.`,
		`Line 3, “Touchpoints”: taken for a row of the type Contact points.`,
		`Line 4, “Mood”: taken for a row of the type Mood.`,
		`Line 6, “Anything”: taken for a row of the type Thoughts.`,
		`Line 7, “Duration”: it sums up a field of the map, which has to be chosen; what stands in the table is left out.`}
	if plan.Refusal != "" || !slices.Equal(plan.Notes, want) || plan.Stages != 2 || plan.Rows != 5 {
		t.Errorf("%q, %d stages, %d rows\n%s", plan.Refusal, plan.Stages, plan.Rows, strings.Join(plan.Notes, "\n"))
	}
	s := plan.Sheet()
	if got := s.Cells(s.Pools[0]); len(got) != 7 || got[len(got)-1].Mood != -model.MostMood {
		t.Errorf("%q", lives(s))
	}
	for _, rows := range [][][]string{{{"Row"}, {"x"}}, {{"Name", "Reports to"}, {"a", ""}}, {{"Row", "A"}}, nil} {
		if plan := w.ReadJourney(compose.Sheet{Rows: rows}); plan.Refusal == "" {
			t.Errorf("%q is taken", rows)
		}
	}
	for _, titles := range [][]string{{"id", "text", "kind"}, {"Number", "Step"}, {"Name", "Reports to"}, {"", "Step", "Who"}} {
		if compose.IsJourney(titles) {
			t.Errorf("%q is taken for the titles of a journey", titles)
		}
	}
}

// A journey is told in the documents, with what the fields come to.
func TestAJourneyIsTold(t *testing.T) {
	m, err := compose.JourneyMap(compose.Sheet{Rows: [][]string{{"Journey", "Row", "Type", "Darkness", "Light"},
		{"Alva, 68\nSings.", "Steps", "What happens", "Comes home\n  by Alva", "Walks"},
		{"", "Mood", "Mood", "-40: Dark", "70"}, {"", "Ideas", "Opportunities", "A word at once", "→"}}}, "Light")
	if err != nil {
		t.Fatal(err)
	}
	text := string(made(t, m, "procedure-markdown", "pictures", "no").Data)
	if strings.Contains(text, "Who takes part") {
		t.Errorf("rows are taken for roles:\n%s", text)
	}
	for _, want := range []string{"Journey: Alva, 68", "Sings.", "Darkness", "Steps: Comes home (Alva)", "Mood: -40, Dark",
		"Mood: +70", "Ideas: A word at once, until Light"} {
		if !strings.Contains(text, want) {
			t.Errorf("the procedure does not say %q:\n%s", want, text)
		}
	}
	for _, format := range []string{"svg", "pdf", "html", "png"} {
		if data := made(t, m, format).Data; len(data) < 1000 {
			t.Errorf("%s has %d bytes", format, len(data))
		}
	}
	svg := string(made(t, m, "svg").Data)
	for _, want := range []string{"Comes home", "Dark", "good", "poor", "Alva, 68", "Sings."} {
		if !strings.Contains(svg, ">"+want+"<") {
			t.Errorf("the picture does not say %q", want)
		}
	}
}

// The findings of journeys are theirs, not those of flows.
func TestFindingsOfAJourney(t *testing.T) {
	m, err := compose.JourneyMap(compose.Sheet{Rows: [][]string{{"Row", "Type", "Darkness", "Waiting", "Light"},
		{"Contact points", "Contact points", "Telephone\nLetter\n  by Service desk", "", ""},
		{"Mood", "Mood", "10: Well", "", "-40"}, {"Thoughts", "Thoughts", "", "", ""}}}, "Light")
	if err != nil {
		t.Fatal(err)
	}
	var got []string
	for _, f := range findings.Check(m) {
		got = append(got, f.Text)
	}
	want := []string{"is an empty stage: say what happens there, or remove it",
		"is a contact point that nobody owns: set its owner, or let it lead to a step",
		"is the lowest point of “Mood” and says nothing: why is it so low?"}
	if !slices.Equal(got, want) {
		t.Errorf("%q, want %q", got, want)
	}
	titles := []string{"Row"}
	for i := range 9 {
		titles = append(titles, fmt.Sprint("Stage ", i))
	}
	if m, err = compose.JourneyMap(compose.Sheet{Rows: [][]string{titles, {"Thoughts"}}}, "Wide"); err != nil {
		t.Fatal(err)
	}
	list := findings.Check(m)
	if len(list) != 1 || list[0].Text != "lies beyond the edge of the page" || list[0].Fixes[0].Command != "paper-larger" {
		t.Errorf("of a journey beyond its paper: %v", list)
	}
}
