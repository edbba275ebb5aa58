package account

import (
	"fmt"
	"math/rand/v2"
	"strings"
	"testing"
)

// naive says what somebody may do by the words of the rule: the nearest that is granted to them, and the nearest granted to
// everyone, whichever is more; nothing where they are kept out by name; everything for who owns it or a folder around it.
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
				if got, want := rules.OnFolder(p, f.ID), naive(p, Map{ID: "x", Folder: f.ID}, folders, grants); got != want {
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
	for word, good := range map[string]bool{"seven grey posts": true, "Ψηλό δέντρο στο λόφο": true, "k3-V!pqz9x%T": true, "short word": false, "aaaaaaaaaaaaaaa": false, "abcdefghijklmno": false,
		"1234567890123456": false, "qwertyuiop asdf": false, "ida.brandt-2026": false, "password-12345": false, "Plain Tracer 1": false, strings.Repeat("long and good ", 20): false} {
		if err := Password(word, p); (err == nil) != good {
			t.Errorf("%q: %v", word, err)
		}
	}
}

func TestNamesAndAddresses(t *testing.T) {
	for text, want := range map[string]string{"  Ida   Brandt ": "Ida Brandt", "": "", "\n": "", "Ida\u202eB": "", strings.Repeat("x", 101): "", "Zoe\u0308": "Zoë"} {
		if got, err := Name(text); got != want || (err == nil) != (want != "") {
			t.Errorf("%q is %q, %v", text, got, err)
		}
	}
	for text, want := range map[string]string{"Ida.Brandt@Town.example": "ida.brandt@town.example", " a@b.example ": "a@b.example", "Ida <a@b.example>": "", "a@b.example, c@d.example": "",
		"a@b.example\r\nBcc: x@y.example": "", "a": "", "\"a b\"@c.example": "", strings.Repeat("a", 250) + "@b.example": ""} {
		if _, got, err := Address(text); got != want || (err == nil) != (want != "") {
			t.Errorf("%q is %q, %v", text, got, err)
		}
	}
	if Folded("STRASSE") != Folded("straße") {
		t.Error("letters that are the same folded are not")
	}
}
