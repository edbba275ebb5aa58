package account

import (
	"fmt"
	"math/rand/v2"
	"strings"
	"testing"
	"time"
)

// naive says what somebody may do by the words of the rule: the nearest that is granted to them, and the nearest
// granted to everyone, whichever is more; nothing where they are kept out by name; everything for who owns it or a
// folder around it.
func naive(person string, m Map, folders []Folder, grants []Grant) Right {
	type level struct {
		at    Place
		owner string
	}
	levels := []level{{Place{Map: m.ID}, m.Owner}}
	for id := m.Folder; id != ""; {
		for _, f := range folders {
			if f.ID == id {
				levels = append(levels, level{Place{Folder: id}, f.Owner})
				id = f.Parent
				break
			}
		}
	}
	nearest := func(who string) (Right, bool) {
		for _, l := range levels {
			for _, g := range grants {
				if g.Place == l.at && g.Person == who {
					return g.Right, true
				}
			}
		}
		return None, false
	}
	for _, l := range levels {
		if l.owner == person {
			return Manage
		}
	}
	own, named := nearest(person)
	if named && own == None {
		return None
	}
	all, _ := nearest("")
	return max(own, all)
}

// Rights come down from folders as the rule says, over random houses.
func TestRightsComeDown(t *testing.T) {
	r := rand.New(rand.NewPCG(19, 5))
	people := []string{"a", "b", "c", "d"}
	for round := range 3000 {
		var folders []Folder
		for i := range r.IntN(6) {
			f := Folder{ID: fmt.Sprint("f", i), Owner: people[r.IntN(3)], Name: fmt.Sprint("F", i)}
			if i > 0 && r.IntN(3) > 0 {
				f.Parent = folders[r.IntN(i)].ID
			}
			folders = append(folders, f)
		}
		m := Map{ID: "m", Owner: people[r.IntN(3)]}
		if len(folders) > 0 {
			m.Folder = folders[r.IntN(len(folders))].ID
		}
		var grants []Grant
		taken := map[string]bool{}
		for range r.IntN(8) {
			g := Grant{Place{Map: "m"}, append(people, "")[r.IntN(5)], Right(r.IntN(5))}
			if len(folders) > 0 && r.IntN(3) > 0 {
				g.Place = Place{Folder: folders[r.IntN(len(folders))].ID}
			}
			if key := fmt.Sprint(g.Place, g.Person); !taken[key] {
				taken[key] = true
				grants = append(grants, g)
			}
		}
		rules := NewRules(folders, grants)
		for _, p := range people {
			if got, want := rules.OnMap(p, m), naive(p, m, folders, grants); got != want {
				t.Fatalf("round %d: %s may %v, not %v: %v in %v with %v", round, p, got, want, m, folders, grants)
			}
			for _, f := range folders { // a folder is shared as a map in it would be that belongs to nobody
				if got, want := rules.OnFolder(p, f.ID), naive(p, Map{ID: "x", Folder: f.ID}, folders,
					grants); got != want {
					t.Fatalf("round %d: on %s %s may %v, not %v", round, f.ID, p, got, want)
				}
			}
		}
		if rules.OnMap("", m) != None || rules.OnFolder("a", "nowhere") != None {
			t.Fatal("nobody, or nowhere, has a right")
		}
	}
}

func TestPasswords(t *testing.T) {
	p := &Person{Name: "Ida Brandt", Email: "ida.brandt@town.example"}
	for word, good := range map[string]bool{"seven grey posts": true, "Ψηλό δέντρο στο λόφο": true,
		"k3-V!pqz9x%T": true, "short word": false, "aaaaaaaaaaaaaaa": false, "abcdefghijklmno": false,
		"1234567890123456": false, "qwertyuiop asdf": false, "ida.brandt-2026": false, "password-12345": false,
		"Plain Tracer 1": false, strings.Repeat("long and good ", 20): false} {
		if err := Password(word, p); (err == nil) != good {
			t.Errorf("%q: %v", word, err)
		}
	}
}

func TestNamesAndAddresses(t *testing.T) {
	for text, want := range map[string]string{"  Ida   Brandt ": "Ida Brandt", "": "", "\n": "", "Ida\u202eB": "",
		strings.Repeat("x", 101): "", "Zoe\u0308": "Zoë"} {
		if got, err := Name(text); got != want || (err == nil) != (want != "") {
			t.Errorf("%q is %q, %v", text, got, err)
		}
	}
	for text, want := range map[string]string{"Ida.Brandt@Town.example": "ida.brandt@town.example",
		" a@b.example ": "a@b.example", "Ida <a@b.example>": "", "a@b.example, c@d.example": "",
		"a@b.example\r\nBcc: x@y.example": "", "a": "", "\"a b\"@c.example": "",
		strings.Repeat("a", 250) + "@b.example": ""} {
		if _, got, err := Address(text); got != want || (err == nil) != (want != "") {
			t.Errorf("%q is %q, %v", text, got, err)
		}
	}
	if Folded("STRASSE") != Folded("straße") {
		t.Error("letters that are the same folded are not")
	}
}

// Codes of the time are those of RFC 6238, appendix B: its test vectors have eight digits, of which ours are the last
// six.
func TestCodesOfTime(t *testing.T) {
	const secret = "GEZDGNBVGY3TQOJQGEZDGNBVGY3TQOJQ" // "12345678901234567890"
	for at, eight := range map[int64]string{59: "94287082", 1111111109: "07081804", 1111111111: "14050471",
		1234567890: "89005924", 2000000000: "69279037", 20000000000: "65353130"} {
		moment := time.Unix(at, 0)
		if got := CodeAt(secret, moment); got != eight[2:] {
			t.Errorf("at %d the code is %s, not %s", at, got, eight[2:])
		}
		if step := CodeStep(secret, eight[2:5]+" "+eight[5:], moment); step != at/30 {
			t.Errorf("at %d it is of step %d, not %d", at, step, at/30)
		}
		for _, off := range []time.Duration{-30 * time.Second, 30 * time.Second} { // of a clock that is fast or slow
			if step := CodeStep(secret, eight[2:], moment.Add(off)); step != at/30 {
				t.Errorf("%s off it is of step %d", off, step)
			}
		}
		if CodeStep(secret, eight[2:], moment.Add(2*time.Minute)) != 0 || CodeStep(secret, "", moment) != 0 ||
			CodeStep("", eight[2:], moment) != 0 {
			t.Errorf("at %d another code is taken", at)
		}
	}
	f, err := NewFactor("jo@town.example")
	if err != nil || len(f.Secret()) < 32 {
		t.Errorf("a new secret is %q, %v", f.Secret(), err)
	}
	again, err := FactorOf(f.Secret(), "jo@town.example")
	if err != nil || again.Secret() != f.Secret() {
		t.Errorf("the secret comes back as %q, %v", again.Secret(), err)
	}
}

// The commonest passwords are refused where they are long enough to be passwords at all, and those that are little
// more.
func TestCommonPasswords(t *testing.T) {
	words := strings.Fields(commonList)
	if len(words) != 10_000 {
		t.Fatalf("the list has %d", len(words))
	}
	long := 0
	for _, word := range words {
		if err := Password(word, &Person{}); err == nil {
			t.Errorf("%q is taken", word)
		}
		if len(word) >= LeastPassword {
			long++
		}
		if err := Password(word+word, &Person{}); err == nil && len(word) >= 6 {
			t.Errorf("%q twice is taken", word)
		}
	}
	if long == 0 {
		t.Error("none of them is long enough to be refused for being common")
	}
	for _, word := range []string{"basketball12!", "1basketball2", "xXpassword1X"} {
		if !isCommon(Folded(word)) {
			t.Errorf("%q is taken", word)
		}
	}
	for _, word := range []string{"seven grey lamp posts", "correct horse battery staple", "Zwölf blaue Eimer",
		"k2#vVq9!tR4m"} {
		if err := Password(word, &Person{}); err != nil {
			t.Errorf("%q: %v", word, err)
		}
	}
}

// Addresses that only look alike, or become alike by a folding of Unicode, are different addresses.
func TestAddressesAreCompared(t *testing.T) {
	_, plain, err := Address("jonas.k@town.example")
	if err != nil {
		t.Fatal(err)
	}
	if _, folded, err := Address("Jonas.K@Town.example"); err != nil || folded != plain {
		t.Errorf("capitals make another address: %q, %v", folded, err)
	}
	for _, other := range []string{"ｊonas.k@town.example", "jonas.\u212a@town.example", "jonaſ.k@town.example",
		"jonas.k@town.ｅxample", "jonas․k@town.example", "ﬁ.k@town.example"} {
		if _, folded, err := Address(other); err == nil && folded == plain {
			t.Errorf("%+q is taken for the same address", other)
		}
	}
}
