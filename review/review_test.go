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
		{"A", 0, false, true, "agreed"},
		{"AA", 0, false, true, "agreed"},
		{"AAAAA", 0, false, true, "agreed"},
		{"A", 0, changed, true, "the one who was asked agreed; the map was changed since version 3"},
		{"AAA", 0, changed, true, "all 3 agreed; the map was changed since version 3"},
		{"A", open, false, true, "the one who was asked agreed; 1 remark is open"},
		{"AAA", open, false, true, "all 3 agreed; 1 remark is open"},
		{"AAA", two, false, true, "all 3 agreed; 2 remarks are open"},
		{"AA", two, changed, true, "all 2 agreed; 2 remarks are open; the map was changed since version 3"},
		{"R", 0, false, true, "1 of 1 agreed with remarks"},
		{"RR", 0, false, true, "2 of 2 agreed with remarks"},
		{"AR", 0, false, true, "1 of 2 agreed with remarks, 1 agreed"},
		{"AAR", 0, false, true, "1 of 3 agreed with remarks, 2 agreed"},
		{"ARR", open, false, true, "2 of 3 agreed with remarks, 1 agreed; 1 remark is open"},
		{"AR", 0, changed, true, "1 of 2 agreed with remarks, 1 agreed; the map was changed since version 3"},
		{"R--", 0, changed, true, "2 of 3 said nothing, 1 agreed with remarks; the map was changed since version 3"},
		{"R--", 0, false, true, "2 of 3 said nothing, 1 agreed with remarks"},
		{"A-", 0, false, true, "1 of 2 said nothing, 1 agreed"},
		{"A--", 0, false, true, "2 of 3 said nothing, 1 agreed"},
		{"AA-", 0, false, true, "1 of 3 said nothing, 2 agreed"},
		{"AAAA-", 0, false, true, "1 of 5 said nothing, 4 agreed"},
		{"A-", open, false, true, "1 of 2 said nothing, 1 agreed; 1 remark is open"},
		{"AR-", 0, false, true, "1 of 3 said nothing, 1 agreed with remarks, 1 agreed"},
		{"N", 0, false, true, "1 of 1 did not agree"},
		{"NN", 0, false, true, "2 of 2 did not agree"},
		{"AN", 0, false, true, "1 of 2 did not agree, 1 agreed"},
		{"AAAAN", 0, false, true, "1 of 5 did not agree, 4 agreed"},
		{"N-", 0, false, true, "1 of 2 did not agree, 1 said nothing"},
		{"NR", 0, false, true, "1 of 2 did not agree, 1 agreed with remarks"},
		{"ARN-", 0, false, true, "1 of 4 did not agree, 1 said nothing, 1 agreed with remarks, 1 agreed"},
		{"ARN-A", two, changed, true,
			"1 of 5 did not agree, 1 said nothing, 1 agreed with remarks, 2 agreed; 2 remarks are open; the map was changed since version 3"},
		{"N", open, changed, true, "1 of 1 did not agree; 1 remark is open; the map was changed since version 3"},
		{"-", 0, false, true, "nobody said anything"},
		{"---", 0, false, true, "nobody said anything"},
		{"--", 0, changed, true, "nobody said anything; the map was changed since version 3"},
		{"--", two, false, true, "nobody said anything; 2 remarks are open"},
		{"", 0, false, true, "nobody was asked"},
		{"-", 0, false, running, "nobody has said anything yet"},
		{"---", 0, changed, running, "nobody has said anything yet; the map was changed since version 3"},
		{"A-", 0, false, running, "1 of 2 said nothing yet, 1 agreed"},
		{"A", 0, false, running, "the one who was asked agreed"},
		{"AAA", 0, false, running, "all 3 agreed"},
		{"AAA", open, false, running, "all 3 agreed; 1 remark is open"},
		{"R--", 0, changed, running,
			"2 of 3 said nothing yet, 1 agreed with remarks; the map was changed since version 3"},
		{"NA-", 0, false, running, "1 of 3 did not agree, 1 said nothing yet, 1 agreed"},
		{"N", 0, false, running, "1 of 1 did not agree"},
		{"R", open, false, running, "1 of 1 agreed with remarks; 1 remark is open"},
	} {
		one := Case{Version: 3, Voices: voices(c.said), Open: c.open, Changed: c.changed, Ended: c.ended}
		if got := one.Outcome(); got != c.want {
			t.Errorf("%s, %d open, changed %v, ended %v: %q, not %q", c.said, c.open, c.changed, c.ended, got, c.want)
		}
	}
	one := Case{Voices: voices("AR-N")}
	if got := one.Names(); got != "Not agreed: Lea. Said nothing: Kim. Agreed with remarks: Jo. Agreed: Ida." {
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
		{Majority, "AAA", 0, false, true, "agreed"},
		{Majority, "AAN", 0, false, true, "1 of 3 did not agree, 2 agreed; agreed, since more than half were needed"},
		{Majority, "AA-", 0, false, true, "1 of 3 said nothing, 2 agreed; agreed, since more than half were needed"},
		{Majority, "AA-", 0, false, false, "1 of 3 said nothing yet, 2 agreed; more than half were needed"},
		{Majority, "AA--", 0, false, true, "2 of 4 said nothing, 2 agreed; not enough agreed, more than half were needed"},
		{Majority, "AAA-R", 1, false, true,
			"1 of 5 said nothing, 1 agreed with remarks, 3 agreed; more than half were needed; 1 remark is open"},
		{Majority, "AAA-N", 0, true, true, "1 of 5 did not agree, 1 said nothing, 3 agreed; more than half were needed; " +
			"the map was changed since version 3"},
		{Majority, "A", 0, false, true, "agreed"},
		{Majority, "N", 0, false, true, "1 of 1 did not agree"},
		{Majority, "---", 0, false, true, "nobody said anything"},
		{One, "A--", 0, false, true, "2 of 3 said nothing, 1 agreed; agreed, since one was needed"},
		{One, "R--", 0, false, true,
			"2 of 3 said nothing, 1 agreed with remarks; not enough agreed, one was needed"},
		{One, "AN", 0, false, true, "1 of 2 did not agree, 1 agreed; agreed, since one was needed"},
		{One, "AAA", 0, true, true, "all 3 agreed; the map was changed since version 3"},
		{One, "NN", 0, false, true, "2 of 2 did not agree; not enough agreed, one was needed"},
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
						if c.isAgreed() != (enough && open == 0) {
							t.Errorf("%s by %q with %d open: %v", said, rule, open, c.isAgreed())
						}
						if out := c.Outcome(); agreed < all && strings.HasPrefix(out, "agreed") ||
							strings.Contains(out, "; agreed") && (!enough || open > 0) {
							t.Errorf("%s by %q with %d open says %q", said, rule, open, out)
						}
					}
				}
			}
		}
	}
}

// Of whatever was said the word "agreed" stands alone exactly where all agreed to what the map still is and nothing is
// open, and no text that is cut short sounds better than the whole.
func TestAgreedAloneMeansAgreed(t *testing.T) {
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
					clean := strings.Trim(said, "A") == "" && said != "" && open == 0
					if out := c.Outcome(); (out == "agreed") != (clean && !changed && ended) || c.isAgreed() != clean {
						t.Fatalf("%+v: %q", c, out)
					}
					bad := strings.ContainsAny(said, "RN-")
					if out := c.Outcome(); bad && (strings.HasPrefix(out, "agreed") ||
						strings.HasPrefix(out, "all ")) || strings.Contains(said, "N") &&
						!strings.Contains(strings.SplitN(out, ",", 2)[0], "did not agree") {
						t.Fatalf("%+v begins too well: %q", c, out)
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
