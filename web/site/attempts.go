package site

import (
	"crypto/sha256"
	"log"
	"sync"
	"time"

	"plaintracer/store"
)

// Limit is how often something may be tried: so many times at once, and then after waits that double with every try.
type Limit struct {
	name           string
	Free           int
	first, longest time.Duration
	// kept says that it protects an account or an address, so that tries are remembered when the program ends.
	kept bool
}

// The limits there are. Those that go by what is tried together with where from, or by the device, let nobody be kept
// out by others; those that go by what is tried alone hold wherever tries come from, and leave more room.
var (
	// Passwords and codes of the second factor: of a device that has signed in to the account before, of others in a
	// network, of all others together, and of a network for all accounts.
	ByDevice  = Limit{"device", 5, time.Second, 15 * time.Minute, true}
	ByAccount = Limit{"account from", 5, time.Second, 15 * time.Minute, true}
	OfAccount = Limit{"account", 30, time.Second, 15 * time.Minute, true}
	FromHere  = Limit{"from", 30, time.Second, time.Minute, false}
	// Wrong codes of an account, wherever they come from, since whoever gets that far knows the password.
	OfSecond   = Limit{"second factor", 5, 5 * time.Second, 15 * time.Minute, true}
	OfPassword = Limit{"present password", 5, time.Second, 15 * time.Minute, true}
	// What a link asks for: from a network, and from everywhere.
	byLink = Limit{"link from", 5, time.Second, 15 * time.Minute, true}
	ofLink = Limit{"link", 100, time.Second, 15 * time.Minute, true}
	// Codes: those that are sent for a link to an address, to an address for all links, and wrong ones.
	CodesSent  = Limit{"codes for", 3, time.Minute, time.Hour, true}
	codesTo    = Limit{"codes to", 6, time.Minute, time.Hour, true}
	CodesWrong = Limit{"code", 10, time.Minute, time.Hour, true}
	// Links for a new password: asked for from a network, and sent to a person.
	ResetsFrom = Limit{"resets from", 5, time.Second, 15 * time.Minute, false}
	ResetsTo   = Limit{"resets to", 3, time.Minute, time.Hour, true}
	// Tokens of links that lead nowhere.
	Guesses = Limit{"guesses from", 30, time.Second, 15 * time.Minute, false}
)

// Try is something that is limited, and by what.
type Try struct {
	Limit
	what string
}

// Of is a try of something.
func (l Limit) Of(what string) Try { return Try{l, what} }

// Key names the try where it is kept.
func (t Try) Key() string { return t.name + " " + t.what }

// attempts slows down who tries in vain. A try counts before it is made, so that many at once are as slow as one after
// the other; one that was right is given back.
type attempts struct {
	Mu    sync.Mutex
	list  map[string]store.Tries
	same  map[[32]byte]time.Time
	store *store.Attempts
}

const (
	// remembered is how long tries count.
	remembered   = 24 * time.Hour
	keptAttempts = 20_000
)

// NewAttempts returns the attempts that are kept in a store.
func NewAttempts(s *store.Attempts) *attempts {
	return &attempts{list: map[string]store.Tries{}, same: map[[32]byte]time.Time{}, store: s}
}

// At is what is known of a try. The caller holds the lock.
func (a *attempts) At(t Try, now time.Time) store.Tries {
	known, ok := a.list[t.Key()]
	if !ok && t.Limit.kept {
		var err error
		if known, err = a.store.Of(t.Key()); err != nil {
			log.Printf("reading tries: %v", err)
		}
	}
	if now.Sub(known.Last) > remembered {
		return store.Tries{}
	}
	return known
}

// Set notes what is known of a try. The caller holds the lock.
func (a *attempts) Set(t Try, to store.Tries) {
	if to.Failures <= 0 {
		to = store.Tries{}
		delete(a.list, t.Key())
	} else {
		a.list[t.Key()] = to
	}
	if t.Limit.kept {
		if err := a.store.Keep(t.Key(), to); err != nil {
			log.Printf("keeping tries: %v", err)
		}
	}
}

// Begin counts a try under all of its limits and returns zero, or returns how long it is until it may be made and
// counts nothing.
func (a *attempts) Begin(list ...Try) (wait time.Duration) {
	a.Mu.Lock()
	defer a.Mu.Unlock()
	now := time.Now()
	all := make([]store.Tries, len(list)) // each is asked of the store once
	for i, t := range list {
		all[i] = a.At(t, now)
		wait = max(wait, all[i].Next.Sub(now))
	}
	if wait > 0 {
		return wait
	}
	a.room(now)
	for i, t := range list {
		known := all[i]
		known.Failures++
		known.Last = now
		if over := known.Failures - t.Free; over >= 0 {
			known.Next = now.Add(min(t.first<<min(over, 20), t.longest))
		}
		a.Set(t, known)
	}
	return 0
}

// room lets go of what has waited longest for another try when there is too much of it.
func (a *attempts) room(now time.Time) {
	if len(a.list) < keptAttempts {
		return
	}
	for key, t := range a.list {
		if now.Sub(t.Next) > time.Hour && now.Sub(t.Last) > time.Hour {
			delete(a.list, key)
		}
	}
	for key := range a.list { // those that are to be remembered are in the store as well
		if len(a.list) < keptAttempts*3/4 {
			return
		}
		delete(a.list, key)
	}
}

// Wait is how long it is until something may be tried.
func (a *attempts) Wait(t Try) time.Duration {
	a.Mu.Lock()
	defer a.Mu.Unlock()
	return max(time.Until(a.At(t, time.Now()).Next), 0)
}

// GiveBack undoes the counting of a try that was right, or was none. Earlier ones still count.
func (a *attempts) GiveBack(list ...Try) {
	a.Mu.Lock()
	defer a.Mu.Unlock()
	now := time.Now()
	for _, t := range list {
		known := a.At(t, now)
		if known.Failures--; known.Failures < t.Free {
			known.Next = time.Time{}
		}
		a.Set(t, known)
	}
}

// beginOnce counts a try as begin does, but the same one, by a name, only once a day from the same place: a picture on
// a page elsewhere whose link is gone is asked for by everybody who looks at that page, and guesses nothing.
func (a *attempts) beginOnce(t Try, name string) {
	a.Mu.Lock()
	key := sha256.Sum256([]byte(t.Key() + " " + name))
	at, known := a.same[key]
	if known = known && time.Since(at) < remembered; !known {
		if len(a.same) >= keptAttempts {
			clear(a.same)
		}
		a.same[key] = time.Now()
	}
	a.Mu.Unlock()
	if !known {
		a.Begin(t)
	}
}

// Forget forgets all tries, once something was proved by which they mean nothing any more.
func (a *attempts) Forget(list ...Try) {
	a.Mu.Lock()
	defer a.Mu.Unlock()
	for _, t := range list {
		a.Set(t, store.Tries{})
	}
}
