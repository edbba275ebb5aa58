package web

import (
	"crypto/sha256"
	"log"
	"sync"
	"time"

	"plaintracer/store"
)

func inWords(d time.Duration) string {
	if s := int(d.Seconds()) + 1; s < 90 {
		return count(s, "second")
	}
	return count(int(d.Minutes())+1, "minute")
}

// limit is how often something may be tried: so many times at once, and then after waits that double with every try.
type limit struct {
	name           string
	free           int
	first, longest time.Duration
	// kept says that it protects an account or an address, so that tries are remembered when the program ends.
	kept bool
}

// The limits there are. Those that go by what is tried together with where from, or by the device, let nobody be kept out by
// others; those that go by what is tried alone hold wherever tries come from, and leave more room.
var (
	// Passwords and codes of the second factor: of a device that has signed in to the account before, of others in a network,
	// of all others together, and of a network for all accounts.
	byDevice   = limit{"device", 5, time.Second, 15 * time.Minute, true}
	byAccount  = limit{"account from", 5, time.Second, 15 * time.Minute, true}
	ofAccount  = limit{"account", 30, time.Second, 15 * time.Minute, true}
	fromHere   = limit{"from", 30, time.Second, time.Minute, false}
	ofPassword = limit{"present password", 5, time.Second, 15 * time.Minute, true}
	// What a link asks for: from a network, and from everywhere.
	byLink = limit{"link from", 5, time.Second, 15 * time.Minute, true}
	ofLink = limit{"link", 100, time.Second, 15 * time.Minute, true}
	// Codes: those that are sent for a link to an address, to an address for all links, and wrong ones.
	codesSent  = limit{"codes for", 3, time.Minute, time.Hour, true}
	codesTo    = limit{"codes to", 6, time.Minute, time.Hour, true}
	codesWrong = limit{"code", 10, time.Minute, time.Hour, true}
	// Links for a new password: asked for from a network, and sent to a person.
	resetsFrom = limit{"resets from", 5, time.Second, 15 * time.Minute, false}
	resetsTo   = limit{"resets to", 3, time.Minute, time.Hour, true}
	// Tokens of links that lead nowhere.
	guesses = limit{"guesses from", 30, time.Second, 15 * time.Minute, false}
)

// try is something that is limited, and by what.
type try struct {
	limit
	what string
}

// of is a try of something.
func (l limit) of(what string) try { return try{l, what} }

func (t try) key() string { return t.name + " " + t.what }

// attempts slows down who tries in vain. A try counts before it is made, so that many at once are as slow as one after the
// other; one that was right is given back.
type attempts struct {
	mu    sync.Mutex
	list  map[string]store.Tries
	same  map[[32]byte]time.Time
	store *store.Attempts
}

const (
	// remembered is how long tries count.
	remembered   = 24 * time.Hour
	keptAttempts = 20_000
)

func newAttempts(s *store.Attempts) *attempts {
	return &attempts{list: map[string]store.Tries{}, same: map[[32]byte]time.Time{}, store: s}
}

// at is what is known of a try. The caller holds the lock.
func (a *attempts) at(t try, now time.Time) store.Tries {
	known, ok := a.list[t.key()]
	if !ok && t.limit.kept {
		var err error
		if known, err = a.store.Of(t.key()); err != nil {
			log.Printf("reading tries: %v", err)
		}
	}
	if now.Sub(known.Last) > remembered {
		return store.Tries{}
	}
	return known
}

func (a *attempts) set(t try, to store.Tries) {
	if to.Failures <= 0 {
		to = store.Tries{}
		delete(a.list, t.key())
	} else {
		a.list[t.key()] = to
	}
	if t.limit.kept {
		if err := a.store.Keep(t.key(), to); err != nil {
			log.Printf("keeping tries: %v", err)
		}
	}
}

// begin counts a try under all of its limits and returns zero, or returns how long it is until it may be made and counts
// nothing.
func (a *attempts) begin(list ...try) (wait time.Duration) {
	a.mu.Lock()
	defer a.mu.Unlock()
	now := time.Now()
	all := make([]store.Tries, len(list)) // each is asked of the store once
	for i, t := range list {
		all[i] = a.at(t, now)
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
		if over := known.Failures - t.free; over >= 0 {
			known.Next = now.Add(min(t.first<<min(over, 20), t.longest))
		}
		a.set(t, known)
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

// wait is how long it is until something may be tried.
func (a *attempts) wait(t try) time.Duration {
	a.mu.Lock()
	defer a.mu.Unlock()
	return max(time.Until(a.at(t, time.Now()).Next), 0)
}

// giveBack undoes the counting of a try that was right, or was none. Earlier ones still count.
func (a *attempts) giveBack(list ...try) {
	a.mu.Lock()
	defer a.mu.Unlock()
	now := time.Now()
	for _, t := range list {
		known := a.at(t, now)
		if known.Failures--; known.Failures < t.free {
			known.Next = time.Time{}
		}
		a.set(t, known)
	}
}

// beginOnce counts a try as begin does, but the same one, by a name, only once a day from the same place: a picture on a page
// elsewhere whose link is gone is asked for by everybody who looks at that page, and guesses nothing.
func (a *attempts) beginOnce(t try, name string) {
	a.mu.Lock()
	key := sha256.Sum256([]byte(t.key() + " " + name))
	at, known := a.same[key]
	if known = known && time.Since(at) < remembered; !known {
		if len(a.same) >= keptAttempts {
			clear(a.same)
		}
		a.same[key] = time.Now()
	}
	a.mu.Unlock()
	if !known {
		a.begin(t)
	}
}

// forget forgets all tries, once something was proved by which they mean nothing any more.
func (a *attempts) forget(list ...try) {
	a.mu.Lock()
	defer a.mu.Unlock()
	for _, t := range list {
		a.set(t, store.Tries{})
	}
}
