// Package account says who may do what: people and their roles, rights, and how these come down from folders to the
// maps in them. It holds rules alone; the store keeps what they are asked about, and the application asks them.
package account

import (
	"errors"
	"fmt"
	"net/mail"
	"slices"
	"strings"
	"time"
	"unicode"
	"unicode/utf8"

	"github.com/mtibben/confusables"
	"golang.org/x/text/cases"
	"golang.org/x/text/unicode/norm"
)

// Right is what somebody may do with a map or folder. Each right holds those before it.
type Right uint8

// The rights. None is also what is granted to keep somebody out who would have a right from the folder above.
const (
	None Right = iota
	Read
	Remark
	Edit
	Manage // share it, move it, put it into the bin and bring it back
)

// RightWords are what a right is called and what it lets one do.
type RightWords struct {
	Right
	Name, Verb, About string
}

// Rights are the rights with what they are called and what they let one do.
var Rights = []RightWords{
	{None, "none", "nothing", "does not see it"},
	{Read, "read", "read", "sees it and what changed, traces it and saves copies"},
	{Remark, "remark", "remark on", "also says what they think of it"},
	{Edit, "edit", "edit", "also changes it"},
	{Manage, "manage", "manage", "also shares it, asks for reviews, moves it and puts it into the bin"},
}

// String is the name of a right, by which forms and links call it.
func (r Right) String() string { return Rights[min(int(r), len(Rights)-1)].Name }

// RightNamed returns the right of a name.
func RightNamed(name string) (Right, bool) {
	for _, r := range Rights {
		if r.Name == name {
			return r.Right, true
		}
	}
	return None, false
}

// Role is what somebody is to the organisation.
type Role string

// The roles: an owner decides who is in the organisation; what maps hold is no more open to them than to others.
const (
	Owner  Role = "owner"
	Member Role = "member"
)

// Person is somebody in the organisation.
type Person struct {
	ID, Name, Email string
	Role            Role
	Created, Seen   time.Time // Seen is zero for somebody who was never here
	// Off is since when the person is switched off; zero for not.
	Off time.Time
	// Locked says that there is a password, Directory that the organisation's directory vouches for them, Second that a
	// code of an app is asked for beside the password.
	Locked, Directory, Second bool
}

// Initials are one or two letters that stand for a person.
func (p *Person) Initials() string {
	var out []rune
	for _, word := range strings.Fields(p.Name) {
		r, _ := utf8.DecodeRuneInString(word)
		out = append(out, r)
	}
	if len(out) > 2 {
		out = []rune{out[0], out[len(out)-1]}
	}
	return strings.ToUpper(string(out))
}

// maxName is how many characters the name of a person or folder may have.
const maxName = 100

// Name returns a name for a person or folder as it is kept: one line of characters that show.
func Name(text string) (string, error) {
	text = norm.NFC.String(strings.Join(strings.Fields(text), " "))
	switch {
	case text == "":
		return "", errors.New("a name is needed")
	case !utf8.ValidString(text):
		return "", errors.New("the name is not text")
	case utf8.RuneCountInString(text) > maxName:
		return "", fmt.Errorf("the name is longer than %d characters", maxName)
	}
	for _, r := range text {
		// Marks that turn the direction of writing let one name pass for another (Unicode TR 36, 2.8).
		if r < ' ' || r == 0x7f || r >= 0x202a && r <= 0x202e || r >= 0x2066 && r <= 0x2069 || r == 0x200e ||
			r == 0x200f {
			return "", errors.New("the name holds characters that do not show")
		}
	}
	return text, nil
}

// Folded is the form in which two names that look alike are the same.
func Folded(text string) string { return cases.Fold().String(norm.NFKC.String(text)) }

// Address returns an address for mail as it is kept, and the form in which addresses are compared: capitals of ASCII
// are small, and nothing else is folded, since each folding of Unicode makes one address of what servers take for two.
// It takes what RFC 5322 calls an addr-spec, without comments, quotes or names beside it.
func Address(text string) (written, folded string, err error) {
	text = strings.TrimSpace(text)
	a, err := mail.ParseAddress(text)
	if err != nil || a.Address != text || len(text) > 254 || strings.ContainsAny(text, "\"\\<>, \r\n") {
		return "", "", fmt.Errorf("%q is no address for mail, such as name@town.example", short(text))
	}
	return text, lower(text), nil
}

// lower makes the letters of ASCII small and leaves all others, some of which become letters of ASCII otherwise: an
// address with one of these is another address.
func lower(text string) string {
	return strings.Map(func(r rune) rune {
		if r >= 'A' && r <= 'Z' {
			r += 'a' - 'A'
		}
		return r
	}, text)
}

// Alike reports whether two names are the same to who reads them: characters that do not show are left out, those that
// look alike are one (the skeletons of Unicode TS 39, section 4), and capitals are small. Since capitals look like
// other letters than small ones do, they are compared before and after that.
func Alike(a, b string) bool {
	plain := func(text string) string {
		return strings.Map(func(r rune) rune {
			if unicode.In(r, unicode.Cf, unicode.Mn, unicode.Me, unicode.White_Space,
				unicode.Other_Default_Ignorable_Code_Point) {
				return -1
			}
			return r
		}, norm.NFD.String(text))
	}
	seen := func(text string) string { return plain(confusables.Skeleton(plain(norm.NFKC.String(text)))) }
	for _, form := range []func(string) string{seen, func(t string) string { return seen(Folded(t)) },
		func(t string) string { return Folded(seen(t)) }} {
		if form(a) == form(b) {
			return true
		}
	}
	return false
}

func short(text string) string {
	if r := []rune(text); len(r) > 60 {
		return string(r[:60]) + "…"
	}
	return text
}

// The bounds of a password (OWASP ASVS 4.0.3, 2.1.1 and 2.1.2).
const (
	LeastPassword = 12
	mostPassword  = 128
)

// Password reports a password that is too easy to guess.
func Password(word string, p *Person) error {
	n := utf8.RuneCountInString(word)
	switch {
	case n < LeastPassword:
		return fmt.Errorf("a password has at least %d characters; a few words that nobody would expect together are good", LeastPassword)
	case n > mostPassword:
		return fmt.Errorf("a password has at most %d characters", mostPassword)
	}
	low := Folded(word)
	seen := map[rune]bool{}
	for _, r := range low {
		seen[r] = true
	}
	local, _, _ := strings.Cut(Folded(p.Email), "@")
	for _, easy := range append([]string{Folded(p.Email), local, Folded(p.Name), "plaintracer", "plain tracer",
		"password", "passwort"}, strings.Fields(Folded(p.Name))...) {
		if utf8.RuneCountInString(easy) > 3 && strings.Contains(low, easy) &&
			n-utf8.RuneCountInString(easy) < LeastPassword {
			return errors.New("this password is easy to guess: it is little more than a name or the word for it")
		}
	}
	if isCommon(low) {
		return errors.New("this password is one of the commonest there are")
	}
	if len(seen) < 5 || runs(low) {
		return errors.New("this password is easy to guess: its characters repeat or follow one another")
	}
	return nil
}

// runs reports a text in which nearly every character is the one before, or the next to it.
func runs(text string) bool {
	const rows = "abcdefghijklmnopqrstuvwxyz 01234567890 qwertyuiop asdfghjkl zxcvbnm qwertzuiop yxcvbnm"
	r := []rune(text)
	next := 0
	for i := 1; i < len(r); i++ {
		pair := string(r[i-1 : i+1])
		back := string([]rune{r[i], r[i-1]})
		if r[i] == r[i-1] || strings.Contains(rows, pair) || strings.Contains(rows, back) {
			next++
		}
	}
	return next*4 > len(r)*3
}

// Sort orders people by their names.
func Sort(list []Person) {
	slices.SortFunc(list, func(a, b Person) int {
		if c := strings.Compare(Folded(a.Name), Folded(b.Name)); c != 0 {
			return c
		}
		return strings.Compare(a.ID, b.ID)
	})
}
