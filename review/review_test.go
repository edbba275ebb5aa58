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
