package web

import (
	"sync"
	"time"
)

func inWords(d time.Duration) string {
	if s := int(d.Seconds()) + 1; s < 90 {
		return count(s, "second")
	}
	return count(int(d.Minutes())+1, "minute")
}

// attempts slows down who tries passcodes: after some tries each takes twice as long as the one before. It goes by what
// is tried from which address, so that nobody is kept out by the tries of others.
type attempts struct {
	mu   sync.Mutex
	list map[string]*attempt
}

type attempt struct {
	failures int
	next     time.Time
}

const (
	freeTries    = 5
	longestWait  = 15 * time.Minute
	keptAttempts = 10_000
)

func newAttempts() *attempts { return &attempts{list: map[string]*attempt{}} }

// wait returns how long it is until the next try may be made.
func (a *attempts) wait(key string) time.Duration {
	a.mu.Lock()
	defer a.mu.Unlock()
	if t := a.list[key]; t != nil {
		return max(time.Until(t.next), 0)
	}
	return 0
}

func (a *attempts) failed(key string) { a.failedOf(key, freeTries) }

// failedOf notes a try in vain where so many are free.
func (a *attempts) failedOf(key string, free int) {
	a.mu.Lock()
	defer a.mu.Unlock()
	now := time.Now()
	if len(a.list) >= keptAttempts {
		for k, t := range a.list {
			if now.Sub(t.next) > longestWait {
				delete(a.list, k)
			}
		}
	}
	t := a.list[key]
	if t == nil {
		if len(a.list) >= keptAttempts { // then everybody new waits
			t = &attempt{failures: free}
		} else {
			t = &attempt{}
		}
		a.list[key] = t
	}
	t.failures++
	if over := t.failures - free; over >= 0 {
		t.next = now.Add(min(time.Second<<min(over, 20), longestWait))
	}
}

func (a *attempts) forget(key string) {
	a.mu.Lock()
	defer a.mu.Unlock()
	delete(a.list, key)
}
