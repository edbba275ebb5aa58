package site

import (
	"cmp"
	"crypto/rand"
	"errors"
	"fmt"
	"math/big"
	"slices"
	"strings"
	"sync"
	"time"

	"github.com/gofiber/fiber/v3"

	"plaintracer/account"
	"plaintracer/app/phrase"
	"plaintracer/core/model"
	"plaintracer/mail"
	"plaintracer/store"
)

// locked says what a link asks for that was not given: an address, the code that was sent there, or a passcode.
type locked struct{ asks, address, text string }

// Error implements error.
func (l *locked) Error() string { return "this link asks for " + l.asks }

// asksFor returns what a link asks for that the visitor has not given yet; nil for nothing.
func (s *Site) asksFor(c fiber.Ctx, f *store.Followed) error {
	if f.Addresses != "" && !s.isAddressed(c, f) {
		return &locked{asks: "an address"}
	}
	if f.Locked && !s.House.Links.Proved(f, s.Kept(c, proofCookie)) {
		return &locked{asks: "a passcode"}
	}
	return nil
}

// isAddressed reports whether the browser has shown to be of one of the addresses that a link names.
func (s *Site) isAddressed(c fiber.Ctx, f *store.Followed) bool {
	sign, address, _ := strings.Cut(s.Kept(c, addressCookie), " ")
	return slices.Contains(strings.Fields(f.Addresses), address) && s.House.Signed(sign, "address", f.ID, address)
}

// Enter takes what a link asks for: an address, a code, or a passcode.
func (s *Site) Enter(c fiber.Ctx) error {
	f, err := s.followed(c)
	if err != nil {
		return err
	}
	network := s.From(c).Network()
	tooMany := func(wait time.Duration) error {
		return &locked{asks: "a pause", text: fmt.Sprintf("Too many tries. Try again in %s.", phrase.InWords(wait))}
	}
	_, address, _ := account.Address(c.FormValue("address"))
	named := slices.Contains(strings.Fields(f.Addresses), address)
	switch code := model.Flat(c.FormValue("code")); {
	case f.Addresses != "" && address != "" && code == "":
		if wait := s.Attempts.Begin(byLink.Of(f.ID + " " + network)); wait > 0 {
			return tooMany(wait)
		}
		// Each costs a message, however it was asked for. Whether the address is one of those named is not told.
		if named && s.Attempts.Begin(CodesSent.Of(f.ID+" "+address), codesTo.Of(address)) == 0 {
			s.Post.SendUntil(mail.Code, address, "link "+f.ID, time.Now().Add(codeTime),
				map[string]any{"Code": s.codes.Make(f.ID + " " + address)})
		}
		return &locked{asks: "the code", address: address}
	case f.Addresses != "" && code != "":
		tries := []Try{byLink.Of(f.ID + " " + network), CodesWrong.Of(f.ID + " " + address)}
		if wait := s.Attempts.Begin(tries...); wait > 0 {
			return tooMany(wait)
		}
		if !named || !s.codes.Take(f.ID+" "+address, code) {
			return &locked{asks: "the code", address: address,
				text: "That is not the code, or it is over. Ask for a new one with your address."}
		}
		s.Attempts.Forget(append(tries, CodesSent.Of(f.ID+" "+address))...)
		s.Keep(c, addressCookie, s.House.Sign("address", f.ID, address)+" "+address)
	case f.Addresses != "" && !s.isAddressed(c, f):
		return &locked{asks: "an address", text: "Write your address for mail, such as name@town.example."}
	case f.Locked:
		tries := []Try{byLink.Of(f.ID + " " + network), ofLink.Of(f.ID)}
		if wait := s.Attempts.Begin(tries...); wait > 0 {
			return tooMany(wait)
		}
		if !f.Opens(c.FormValue("passcode")) {
			return &locked{asks: "a passcode", text: "That is not the passcode."}
		}
		s.Proved(tries)
		s.Keep(c, proofCookie, s.House.Links.Proof(f))
	}
	return c.Redirect().Status(fiber.StatusSeeOther).To(linkBase(c))
}

// codes are those that were sent to addresses and are good for a while, once.
type codes struct {
	mu   sync.Mutex
	list map[string]sentCode
}

type sentCode struct {
	code  string
	until time.Time
	tries int
}

// The bounds of codes (OWASP ASVS 4.0.3, 2.7: short-lived, and tried a few times only).
const (
	codeTime  = 10 * time.Minute
	CodeTries = 5
	keptCodes = 10_000
)

// NewCodes returns codes of which none was sent.
func NewCodes() *codes { return &codes{list: map[string]sentCode{}} }

// Make returns a new code of six digits under a key, in place of an earlier one.
func (k *codes) Make(key string) string {
	n, err := rand.Int(rand.Reader, big.NewInt(1_000_000))
	if err != nil {
		panic(err) // crypto/rand does not fail
	}
	code := fmt.Sprintf("%06d", n)
	k.mu.Lock()
	defer k.mu.Unlock()
	for old, c := range k.list {
		if time.Now().After(c.until) || len(k.list) >= keptCodes {
			delete(k.list, old)
		}
	}
	k.list[key] = sentCode{code, time.Now().Add(codeTime), 0}
	return code
}

// Take reports whether a code is the one that was made under a key. It is good once.
func (k *codes) Take(key, code string) bool {
	k.mu.Lock()
	defer k.mu.Unlock()
	c, ok := k.list[key]
	if !ok || time.Now().After(c.until) {
		return false
	}
	if c.tries++; c.code == code || c.tries >= CodeTries {
		delete(k.list, key)
		return c.code == code
	}
	k.list[key] = c
	return false
}

// unlock shows the page that asks for what is missing, or tells a script.
func (s *Site) unlock(c fiber.Ctx, l *locked) error {
	c.Status(fiber.StatusUnauthorized)
	if strings.Contains(c.Get("Accept"), "json") {
		return c.SendString(cmp.Or(l.text, "This link asks for "+l.asks+"."))
	}
	return s.Page(c, "passcode.html", &passcodePage{Frame: Frame{Title: "This map asks for " + l.asks},
		Base: linkBase(c), Text: l.text, Asks: l.asks, Mail: l.address})
}

func asLocked(err error) *locked {
	var l *locked
	if errors.As(err, &l) {
		return l
	}
	return nil
}

// LinksBegin is where links begin.
func (s *Site) LinksBegin() string { return cmp.Or(s.LinksURL, s.Address) }

// Proved takes back a try that was right: those of that account from there are forgotten, those of all are as they
// were.
func (s *Site) Proved(tries []Try) {
	s.Attempts.Forget(tries[0])
	s.Attempts.GiveBack(tries[1:]...)
}

// passcodePage is what passcode.html shows.
type passcodePage struct {
	Frame
	Base string
	Text string
	Asks string
	Mail string
}
