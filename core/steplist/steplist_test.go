package steplist

import (
	"fmt"
	"strings"
	"testing"
)

// What people write of where a step leads is understood: numbers and names, with answers before and behind them, in
// four languages, several in one cell. The words are common practice, no source.
func TestWaysPeopleWrite(t *testing.T) {
	keys := newKeys()
	for i, text := range []string{"Report the light", "Is it damaged?", "Order pole, lamp and fuse", "Repair",
		"Close"} {
		keys.add(i, fmt.Sprint(i+1), text)
	}
	keys.add(5, "2.1", "Look closer")
	keys.add(6, "S-07", "File it")
	for cell, want := range map[string]string{
		"2": "2", "2.": "2", "Step 2": "2", "no. 2": "2", "Nr. 2": "2", "Schritt 2": "2", "étape 2": "2", "paso 2": "2",
		"#2": "2", "2.1": "6", "step 2.1": "6", "S-07": "7", "go to 4": "4", "Weiter mit Schritt 4": "4",
		"volver a 2":       "2",
		"return to step 1": "1", "Repair": "4", "repair": "4", "Order pole, lamp and fuse": "3",
		"2; 3": "2 3", "2, 3": "2 3", "2 / 3": "2 3", "2 and 3": "2 3", "2 oder 3": "2 3", "2\n3": "2 3",
		"Yes: 3; No: 4": "Yes>3 No>4", "Yes > 3; No > 4": "Yes>3 No>4", "yes -> 3, no -> 4": "Yes>3 No>4",
		"yes → Repair; no → Close": "Yes>4 No>5", "3 (yes); 4 (no)": "Yes>3 No>4", "yes (3), no (4)": "Yes>3 No>4",
		"if yes 3 / if no 4": "Yes>3 No>4", "wenn ja, dann 3; wenn nein weiter mit 4": "Ja>3 Nein>4",
		"si oui 3; si non étape 4": "Oui>3 Non>4", "sí 3 / no 4": "Sí>3 No>4", "damaged: Repair": "Damaged>4",
		"end": "end", "Ende": "end", "fin": "end", "-": "end", "next": "next", "siguiente": "next",
		"99": "?99", "Paint it": "?Paint it", "yes: 99": "?yes: 99", "Yes: 3; No: Paint it": "Yes>3 ?No: Paint it",
	} {
		list, unknown := keys.ways(cell)
		var got []string
		for _, w := range list {
			to := fmt.Sprint(w.to + 1)
			switch w.to {
			case -2:
				to = "end"
			case -3:
				to = "next"
			}
			if w.label != "" {
				to = w.label + ">" + to
			}
			got = append(got, to)
		}
		for _, u := range unknown {
			got = append(got, "?"+u)
		}
		if strings.Join(got, " ") != want {
			t.Errorf("%q is read as %q, not %q", cell, strings.Join(got, " "), want)
		}
	}
}

// Whatever a list holds, what comes of it is a table whose steps have ids of their own and lead to such, no longer than
// the list, but for the ends it makes.
func FuzzRead(f *testing.F) {
	f.Add("No,Step,Who,Next\n1,Ask,Desk,2\n2,Well?,Desk,yes: 1; no: 3\n", 1, "number text who next", true)
	f.Add("a,b\n,\nb,c", 0, "text next", false)
	f.Fuzz(func(t *testing.T, text string, titles int, as string, ends bool) {
		var rows [][]string
		for _, line := range strings.Split(text, "\n") {
			rows = append(rows, strings.Split(line, ","))
		}
		guess := Guess(rows)
		for _, r := range []Reading{guess, GuessUnder(rows, titles), {Titles: titles, Columns: strings.Fields(as),
			Ends: ends}} {
			plan, table := Read(rows, r)
			if (table == nil) != (plan.Refusal != "") {
				t.Fatalf("refused for %q, with the table %q", plan.Refusal, table)
			}
			if table == nil {
				continue
			}
			ids, steps := map[string]bool{}, 0
			for _, row := range table[1:] {
				if len(row) == 0 {
					continue
				}
				if ids[row[0]] || row[1] == "" {
					t.Fatalf("a step is %q", row)
				}
				ids[row[0]] = true
				if len(row) > 4 {
					steps++
				}
			}
			if steps != plan.Steps || len(table) > len(rows)+1+len(ids)-steps {
				t.Fatalf("%d steps of %d, %d rows of %d", steps, plan.Steps, len(table), len(rows))
			}
			links := 0
			for _, row := range table[1:] {
				if len(row) < 5 || row[4] == "" {
					continue
				}
				for _, to := range strings.Split(row[4], "; ") {
					id := to[strings.LastIndex(to, " ")+1:]
					if links++; !ids[id] || id == row[0] {
						t.Fatalf("%q leads to %q", row[0], to)
					}
				}
			}
			if links != plan.Links {
				t.Fatalf("%d ways, not %d", links, plan.Links)
			}
		}
	})
}
