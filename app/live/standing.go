package live

import (
	"errors"
	"time"

	"plaintracer/account"
	"plaintracer/background"
	"plaintracer/store"
)

// A window belongs to a session or to a link, and has a right on its map. When one of them ends, so does the window, at
// once:
// nothing it has sent counts any more, whatever still waits in its connection. Ends come by what somebody does (signing
// out, a new password, a right taken back, a link withdrawn) and by themselves (a session or link that comes to its
// end).

// The last words to a window whose person may not have it open any more.
var (
	rightsChanged = Ended{"What you may do with this map has changed. Load the page again."}
	signedOut     = Ended{"You are signed out. Sign in in another window, and load this page again."}
)

// Live is what windows are served by.
type Live struct {
	*Rooms
	store *store.Store
	// build names the browser core the server goes with.
	build string
}

// New returns what serves the windows on the maps of a store, of which none is open.
func New(s *store.Store, build string) *Live { return &Live{newRooms(), s, build} }

// stands reports whether a window may still be open on a map; why says what to tell it otherwise. What cannot be asked
// now says nothing.
func (l *Live) stands(id string, w *Window) (stands bool, why Event) {
	if w.Link != "" {
		stands, err := l.store.Links.Stands(w.Link)
		return stands || err != nil, linkOver(w)
	}
	if w.Session != "" {
		if _, err := l.store.Sessions.Get(w.Session); errors.Is(err, store.ErrNotFound) {
			return false, signedOut
		}
	}
	return l.Still(w.Person, id, w.Needs), rightsChanged
}

// linkOver is the last word to a window of a link that is over: readers look what has become of it, editors keep what
// is not saved.
func linkOver(w *Window) Event {
	if w.Reads() {
		return Again{}
	}
	return Ended{"This link has ended. Ask its owner for a new one."}
}

// Still reports whether a person may still do something with a map.
func (l *Live) Still(person, id string, needs account.Right) bool {
	where, binned, err := l.store.Maps.Where(id)
	switch {
	case errors.Is(err, store.ErrNotFound) || err == nil && binned:
		return false
	case err != nil:
		return true
	}
	p, err := l.store.People.Get(person)
	if err != nil {
		return !errors.Is(err, store.ErrNotFound)
	}
	rules, err := l.store.Folders.Rules()
	return err != nil || p.Off.IsZero() && rules.OnMap(person, where) >= needs
}

// review ends the windows that may not be open any more, of those that which holds for.
func (l *Live) review(which func(w *Window) bool) {
	for _, w := range l.Windows("", which) {
		if stands, why := l.stands(w.Map, w.Window); !stands {
			w.shut(why)
		}
	}
}

// RightsChanged ends the windows of those who may not have them open any more.
func (l *Live) RightsChanged() { l.review(func(w *Window) bool { return w.Person != "" }) }

// SessionsEnded ends the windows of the sessions of a person that have ended.
func (l *Live) SessionsEnded(person string) {
	l.review(func(w *Window) bool { return w.Person == person && w.Session != "" })
}

// LinkEnded ends the windows of a link to a map.
func (l *Live) LinkEnded(id, link string) {
	for _, w := range l.Windows(id, func(w *Window) bool { return w.Link == link }) {
		w.shut(linkOver(w.Window))
	}
}

// Left ends the windows of a person without a session, who has left.
func (l *Live) Left(person string) {
	l.End("", signedOut, func(w *Window) bool { return w.Person == person && w.Session == "" })
}

// join has a window hear what happens on a map. What it may do was found out before that: it is asked once more, since
// its session, right or link may have ended between.
func (l *Live) join(id string, w *Window) {
	l.enter(id, w)
	if stands, why := l.stands(id, w); !stands {
		w.shut(why)
	}
}

// seldom is how often a window that is worked in counts as a use of its session.
const seldom = 10 * time.Minute

// keepUsed lets what is done in a window count as a use of its session, now and then.
func (l *Live) keepUsed(w *Window) {
	if now := time.Now(); w.Session != "" && now.Sub(w.touched) > seldom {
		w.touched = now
		if _, err := l.store.Sessions.Get(w.Session); errors.Is(err, store.ErrNotFound) {
			w.shut(signedOut)
		}
	}
}

// watch ends a window when the session or link it belongs to comes to its end by itself. The returned function calls
// that off.
func (l *Live) watch(id string, w *Window) (stop func()) {
	if w.Ends.IsZero() {
		return func() {}
	}
	var timer *time.Timer
	const never = 1 << 62
	timer = time.AfterFunc(never, func() {
		defer background.Caught("ending a window")
		stands, why := l.stands(id, w)
		if !stands {
			w.shut(why)
			return
		}
		// It was used since: then it ends later.
		if session, err := l.store.Sessions.Get(w.Session); err == nil {
			timer.Reset(max(time.Until(session.Ends()), time.Second))
		}
	})
	timer.Reset(time.Until(w.Ends))
	return func() { timer.Stop() }
}
