package review

import (
	"strings"
	"testing"
)

// voices reads A for agreed, R for agreed with remarks, N for not agreed and - for nothing.
func voices(said string) (list []Voice) {
	names := []string{"Ida", "Jo", "Kim", "Lea", "Max"}
	for i, r := range said {
		list = append(list, Voice{names[i], map[rune]string{'A': Agreed, 'R': WithRemarks, 'N': NotAgreed, '-': ""}[r]})
	}
	return list
}

// What is said of a round, in words, for whatever can have been said.
func TestOutcomes(t *testing.T) {
	const open, two, changed, running = 1, 2, true, false
	for _, c := range []struct {
		said    string
		open    int
		changed bool
		ended   bool
		want    string
	}{
		{"A", 0, false, true, "agreed by Ida"},
		{"AA", 0, false, true, "agreed by both"},
		{"AAAAA", 0, false, true, "agreed by all five"},
		{"A", 0, changed, true, "agreed by Ida; the map was changed since version 3"},
		{"AAA", 0, changed, true, "agreed by all three; the map was changed since version 3"},
		{"A", open, false, true, "agreed by Ida; 1 remark is open"},
		{"AAA", open, false, true, "agreed by all three; 1 remark is open"},
		{"AAA", two, false, true, "agreed by all three; 2 remarks are open"},
		{"AA", two, changed, true, "agreed by both; 2 remarks are open; the map was changed since version 3"},
		{"R", 0, false, true, "agreed with remarks by Ida"},
		{"RR", 0, false, true, "agreed with remarks by both"},
		{"AR", 0, false, true, "agreed by 1 of 2, agreed with remarks by 1"},
		{"AAR", 0, false, true, "agreed by 2 of 3, agreed with remarks by 1"},
		{"ARR", open, false, true, "agreed by 1 of 3, agreed with remarks by 2 (1 open)"},
		{"AR", 0, changed, true, "agreed by 1 of 2, agreed with remarks by 1; the map was changed since version 3"},
		{"R--", 0, changed, true, "agreed with remarks by 1 of 3, 2 have not answered; the map was changed since version 3"},
		{"R--", 0, false, true, "agreed with remarks by 1 of 3, 2 have not answered"},
		{"A-", 0, false, true, "agreed by 1 of 2, 1 has not answered"},
		{"A--", 0, false, true, "agreed by 1 of 3, 2 have not answered"},
		{"AA-", 0, false, true, "agreed by 2 of 3, 1 has not answered"},
		{"AAAA-", 0, false, true, "agreed by 4 of 5, 1 has not answered"},
		{"A-", open, false, true, "agreed by 1 of 2, 1 has not answered; 1 remark is open"},
		{"AR-", 0, false, true, "agreed by 1 of 3, agreed with remarks by 1, 1 has not answered"},
		{"N", 0, false, true, "not agreed: Ida"},
		{"NN", 0, false, true, "not agreed: Ida, Jo"},
		{"AN", 0, false, true, "not agreed: Jo, agreed by 1 of 2"},
		{"AAAAN", 0, false, true, "not agreed: Max, agreed by 4 of 5"},
		{"N-", 0, false, true, "not agreed: Ida, 1 has not answered"},
		{"NR", 0, false, true, "not agreed: Ida, agreed with remarks by 1 of 2"},
		{"ARN-", 0, false, true, "not agreed: Kim, agreed by 1 of 4, agreed with remarks by 1, 1 has not answered"},
		{"ARN-A", two, changed, true, "not agreed: Kim, agreed by 2 of 5, agreed with remarks by 1 (2 open), 1 has not answered; the map was changed since version 3"},
		{"N", open, changed, true, "not agreed: Ida; 1 remark is open; the map was changed since version 3"},
		{"-", 0, false, true, "ended without an answer"},
		{"---", 0, false, true, "ended without an answer"},
		{"--", 0, changed, true, "ended without an answer; the map was changed since version 3"},
		{"--", two, false, true, "ended without an answer; 2 remarks are open"},
		{"", 0, false, true, "nobody was asked"},
		{"-", 0, false, running, "nobody has answered yet"},
		{"---", 0, changed, running, "nobody has answered yet; the map was changed since version 3"},
		{"A-", 0, false, running, "agreed by 1 of 2, 1 has not answered"},
		{"A", 0, false, running, "agreed by Ida"},
		{"AAA", 0, false, running, "agreed by all three"},
		{"AAA", open, false, running, "agreed by all three; 1 remark is open"},
		{"R--", 0, changed, running, "agreed with remarks by 1 of 3, 2 have not answered; the map was changed since version 3"},
		{"NA-", 0, false, running, "not agreed: Ida, agreed by 1 of 3, 1 has not answered"},
		{"N", 0, false, running, "not agreed: Ida"},
		{"R", open, false, running, "agreed with remarks by Ida (1 open)"},
	} {
		one := Case{Version: 3, Voices: voices(c.said), Open: c.open, Changed: c.changed, Ended: c.ended}
		if got := one.Outcome(); got != c.want {
			t.Errorf("%s, %d open, changed %v, ended %v: %q, not %q", c.said, c.open, c.changed, c.ended, got, c.want)
		}
	}
	one := Case{Voices: voices("AR-N")}
	if got := one.Names(); got != "Not agreed: Lea. Has not answered: Kim. Agreed with remarks: Jo. Agreed: Ida." {
		t.Error(got)
	}
}

// What is said of rounds in which fewer than all have to agree.
func TestOutcomesByRules(t *testing.T) {
	for _, c := range []struct {
		rule    Rule
		said    string
		open    int
		changed bool
		ended   bool
		want    string
	}{
		{Majority, "AAA", 0, false, true, "agreed by all three"},
		{Majority, "AAN", 0, false, true, "agreed by 2 of 3, not by Kim; enough, since more than half were needed"},
		{Majority, "AA-", 0, false, true, "agreed by 2 of 3, 1 has not answered; enough, since more than half were needed"},
		{Majority, "AA-", 0, false, false, "agreed by 2 of 3, 1 has not answered; more than half were needed"},
		{Majority, "AA--", 0, false, true, "agreed by 2 of 4, 2 have not answered; not enough, more than half were needed"},
		{Majority, "AAA-R", 1, false, true, "agreed by 3 of 5, agreed with remarks by 1 (1 open), 1 has not answered; more than half were needed"},
		{Majority, "AAA-N", 0, true, true, "agreed by 3 of 5, not by Max, 1 has not answered; enough, since more than half were needed; the map was changed since version 3"},
		{Majority, "A", 0, false, true, "agreed by Ida"},
		{Majority, "N", 0, false, true, "not agreed: Ida"},
		{Majority, "---", 0, false, true, "ended without an answer"},
		{One, "A--", 0, false, true, "agreed by 1 of 3, 2 have not answered; enough, since one was needed"},
		{One, "R--", 0, false, true, "agreed with remarks by 1 of 3, 2 have not answered; not enough, one was needed"},
		{One, "AN", 0, false, true, "agreed by 1 of 2, not by Jo; enough, since one was needed"},
		{One, "AAA", 0, true, true, "agreed by all three; the map was changed since version 3"},
		{One, "NN", 0, false, true, "not agreed: Ida, Jo; not enough, one was needed"},
	} {
		one := Case{Version: 3, Voices: voices(c.said), Needs: c.rule, Open: c.open, Changed: c.changed, Ended: c.ended}
		if got := one.Outcome(); got != c.want {
			t.Errorf("%s by %q: %q, not %q", c.said, c.rule, got, c.want)
		}
	}
	if Rule("most").Known() || !Majority.Known() || All.Says() == "" {
		t.Error("the rules that are known are others")
	}
}

// By a rule a version is agreed exactly where as many agreed as it wants and nothing is open, whatever the others said.
func TestARuleIsKept(t *testing.T) {
	for all := 1; all <= 5; all++ {
		for agreed := range all + 1 {
			for _, rest := range "RN-" {
				said := strings.Repeat("A", agreed) + strings.Repeat(string(rest), all-agreed)
				for rule, enough := range map[Rule]bool{All: agreed == all, Majority: 2*agreed > all, One: agreed > 0} {
					for open := range 2 {
						c := Case{Version: 2, Voices: voices(said), Needs: rule, Open: open, Ended: true}
						if c.IsAgreed() != (enough && open == 0) {
							t.Errorf("%s by %q with %d open: %v", said, rule, open, c.IsAgreed())
						}
						if out := c.Outcome(); strings.Contains(out, "; enough") && (!enough || open > 0) ||
							strings.Contains(out, "not enough") && enough {
							t.Errorf("%s by %q with %d open says %q", said, rule, open, out)
						}
					}
				}
			}
		}
	}
}

// Of whatever was said, "agreed" is never said without how many of how many or who; it is said of all exactly where all
// agreed; and where somebody does not agree, and that matters, this comes first, so that no text that is cut short
// sounds better than the whole.
func TestAgreedSaysByWhom(t *testing.T) {
	var all func(n int, said string)
	cases := 0
	all = func(n int, said string) {
		if n > 0 {
			for _, r := range "ARN-" {
				all(n-1, said+string(r))
			}
			return
		}
		for open := range 3 {
			for _, changed := range []bool{false, true} {
				for _, ended := range []bool{false, true} {
					cases++
					c := Case{Version: 2, Voices: voices(said), Open: open, Changed: changed, Ended: ended}
					unanimous := strings.Trim(said, "A") == "" && said != ""
					if c.IsAgreed() != (unanimous && ended && open == 0) {
						t.Fatalf("%+v is agreed: %v", c, c.IsAgreed())
					}
					out := c.Outcome()
					first := strings.FieldsFunc(out, func(r rune) bool { return r == ',' || r == ';' })[0]
					whole := map[int]string{1: "agreed by Ida", 2: "agreed by both", 3: "agreed by all three",
						4: "agreed by all four"}[len(said)]
					if (first == whole) != unanimous || strings.Contains(said, "N") && !strings.HasPrefix(first, "not agreed: ") {
						t.Fatalf("%+v begins with %q", c, first)
					}
					for _, after := range strings.Split(out, "agreed")[1:] {
						if !strings.HasPrefix(after, " by ") && !strings.HasPrefix(after, " with remarks by ") &&
							!strings.HasPrefix(after, ": ") {
							t.Fatalf("%+v says %q", c, out)
						}
					}
				}
			}
		}
	}
	for n := range 5 {
		all(n, "")
	}
	if cases < 1000 {
		t.Errorf("only %d cases", cases)
	}
}

// What was changed after the version is said, and whether it is part of what was agreed.
func TestChangesSinceAreSaid(t *testing.T) {
	one, many := []string{"step 8 reworded"}, []string{"step 8 reworded", "step 9 added", "step 3 removed", "step 4 moved"}
	for _, c := range []struct {
		since []string
		taken bool
		want  string
	}{
		{one, true, "agreed by both; with 1 change taken in since: step 8 reworded"},
		{one, false, "agreed by both; of version 4, 1 change since is not part of it: step 8 reworded"},
		{many, false, "agreed by both; of version 4, 4 changes since are not part of it: step 8 reworded; step 9 added; step 3 removed and 1 more"},
		{nil, false, "agreed by both; the map was changed since version 4"},
	} {
		one := Case{Version: 4, Voices: voices("AA"), Ended: true, Changed: !c.taken, Since: c.since, TakenIn: c.taken}
		if got := one.Outcome(); got != c.want || !one.IsAgreed() {
			t.Errorf("%q, not %q", got, c.want)
		}
	}
}
