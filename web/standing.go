package web

import (
	"errors"
	"time"

	"plaintracer/account"
	"plaintracer/background"
	"plaintracer/store"
)

// A window belongs to a session or to a link, and has a right on its map. When one of them ends, so does the window, at once:
// nothing it has sent counts any more, whatever still waits in its connection. Ends come by what somebody does (signing out, a
// new password, a right taken back, a link withdrawn) and by themselves (a session or link that comes to its end).

// rightsWords and signedOutWords are the last to a window whose person may not have it open any more.
const (
	rightsWords    = "What you may do with this map has changed. Load the page again."
	signedOutWords = "You are signed out. Sign in in another window, and load this page again."
)

// stands reports whether a window may still be open on a map; why says what to tell it otherwise. What cannot be asked now
// says nothing.
func (s *Server) stands(id string, p *peer) (stands bool, why event) {
	if p.link != "" {
		stands, err := s.store.Stands(p.link)
		return stands || err != nil, linkOverFor(p)
	}
	if p.session != "" {
		if _, err := s.store.Session(p.session); errors.Is(err, store.ErrNotFound) {
			return false, ended{signedOutWords}
		}
	}
	return s.still(p.person, id, p.needs), ended{rightsWords}
}

// linkOverFor is the last word to a window of a link that is over: readers look what has become of it, editors keep what is not
// saved.
func linkOverFor(p *peer) event {
	if p.reads() {
		return again{}
	}
	return ended{"This link has ended. Ask its owner for a new one."}
}

// still reports whether a person may still do something with a map.
func (s *Server) still(person, id string, needs account.Right) bool {
	where, binned, err := s.store.Where(id)
	switch {
	case errors.Is(err, store.ErrNotFound) || err == nil && binned:
		return false
	case err != nil:
		return true
	}
	p, err := s.store.Person(person)
	if err != nil {
		return !errors.Is(err, store.ErrNotFound)
	}
	right, err := s.rightOn(person, where)
	return err != nil || p.Off.IsZero() && right >= needs
}

// review ends the windows that may not be open any more, of those that which holds for.
func (s *Server) review(which func(p *peer) bool) {
	for _, w := range s.hub.windows("", which) {
		if stands, why := s.stands(w.id, w.peer); !stands {
			w.shut(why)
		}
	}
}

// rightsChanged ends the windows of those who may not have them open any more.
func (s *Server) rightsChanged() { s.review(func(p *peer) bool { return p.person != "" }) }

// sessionsEnded ends the windows of the sessions of a person that have ended. The store calls it.
func (s *Server) sessionsEnded(person string) {
	s.review(func(p *peer) bool { return p.person == person && p.session != "" })
}

// endLink ends the windows of a link.
func (s *Server) endLink(id, link string) {
	for _, w := range s.hub.windows(id, func(p *peer) bool { return p.link == link }) {
		w.shut(linkOverFor(w.peer))
	}
}

// joined has a window hear what happens on a map. What it may do was found out before that: it is asked once more, since its
// session, right or link may have ended between.
func (s *Server) joined(id string, p *peer) {
	s.hub.join(id, p)
	if stands, why := s.stands(id, p); !stands {
		p.shut(why)
	}
}

// seldom is how often a window that is worked in counts as a use of its session.
const seldom = 10 * time.Minute

// keepUsed lets what is done in a window count as a use of its session, now and then.
func (s *Server) keepUsed(p *peer) {
	if now := time.Now(); p.session != "" && now.Sub(p.touched) > seldom {
		p.touched = now
		if _, err := s.store.Session(p.session); errors.Is(err, store.ErrNotFound) {
			p.shut(ended{signedOutWords})
		}
	}
}

// watch ends a window when the session or link it belongs to comes to its end by itself. The returned function calls that off.
func (s *Server) watch(v *visit, p *peer) (stop func()) {
	var at time.Time
	switch {
	case v.who != nil:
		at = v.who.ends
	case v.link != "":
		at = v.chosen.Until
	}
	if at.IsZero() {
		return func() {}
	}
	var timer *time.Timer
	const never = 1 << 62
	timer = time.AfterFunc(never, func() {
		defer background.Caught("ending a window")
		stands, why := s.stands(v.id, p)
		if !stands {
			p.shut(why)
			return
		}
		// It was used since: then it ends later.
		if session, err := s.store.Session(p.session); err == nil {
			timer.Reset(max(time.Until(session.Ends()), time.Second))
		}
	})
	timer.Reset(time.Until(at))
	return func() { timer.Stop() }
}
