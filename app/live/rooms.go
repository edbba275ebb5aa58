package live

import (
	"slices"
	"sync"

	"plaintracer/account"
	"plaintracer/app/documents"
)

// Rooms know the windows that are open on each map, and tell them what happens there. It is what maps tell of edits
// (documents.Audience).
type Rooms struct {
	mu sync.Mutex // guards both against windows that come and go at once
	// follow hear of edits; present are known to the others, too.
	follow, present map[string]map[*Window]bool
	// shown is what the latest window shows in a meeting, by maps.
	shown map[string]*show
}

// show is what a window shows in a meeting.
type show struct {
	by *Window
	Showing
}

// newRooms returns rooms in which nobody is.
func newRooms() *Rooms {
	return &Rooms{follow: map[string]map[*Window]bool{}, present: map[string]map[*Window]bool{},
		shown: map[string]*show{}}
}

// Committed tells all windows on a map of an edit: those of the editor what it is, those of readers that there was one.
func (r *Rooms) Committed(id string, c documents.Committed) {
	r.mu.Lock()
	defer r.mu.Unlock()
	for w := range r.follow[id] {
		if !w.Reads() {
			w.send(Edited{&c})
			continue
		}
		select {
		case w.news <- struct{}{}:
		default:
		}
	}
}

// Follows reports whether a window hears of the edits of a map.
func (r *Rooms) Follows(id string) bool {
	r.mu.Lock()
	defer r.mu.Unlock()
	return len(r.follow[id]) > 0
}

// hear has a window hear of the edits of a map.
func (r *Rooms) hear(id string, w *Window) {
	r.mu.Lock()
	defer r.mu.Unlock()
	put(r.follow, id, w)
}

// enter has the others on a map know of a window.
func (r *Rooms) enter(id string, w *Window) {
	r.mu.Lock()
	defer r.mu.Unlock()
	put(r.present, id, w)
	r.tellPresence(id)
	if s := r.shown[id]; s != nil {
		w.send(s.told(w))
	}
}

// leave takes a window away from a map.
func (r *Rooms) leave(id string, w *Window) {
	r.mu.Lock()
	defer r.mu.Unlock()
	drop(r.follow, id, w)
	if r.present[id][w] {
		drop(r.present, id, w)
		r.tellPresence(id)
	}
	if s := r.shown[id]; s != nil && s.by == w {
		r.show(id, w, Showing{})
	}
}

// told is what a window is told of what another one shows.
func (s *show) told(w *Window) Showing {
	out := s.Showing
	if w.Right < account.Remark { // a reader does not learn who else is there
		out.Name = ""
	}
	return out
}

// Show tells the other windows on a map what one shows in a meeting; nothing any more where it is empty.
func (r *Rooms) Show(id string, by *Window, what Showing) {
	r.mu.Lock()
	defer r.mu.Unlock()
	if r.present[id][by] {
		r.show(id, by, what)
	}
}

// show tells the others. The caller holds the rooms.
func (r *Rooms) show(id string, by *Window, what Showing) {
	had := r.shown[id]
	if what == (Showing{}) {
		if had == nil || had.by != by {
			return // somebody else shows it now
		}
		delete(r.shown, id)
	}
	s := &show{by, what}
	if what != (Showing{}) {
		s.Name = by.Name
		r.shown[id] = s
	}
	for w := range r.present[id] {
		if w != by {
			w.send(s.told(w))
		}
	}
}

func put(rooms map[string]map[*Window]bool, id string, w *Window) {
	if rooms[id] == nil {
		rooms[id] = map[*Window]bool{}
	}
	rooms[id][w] = true
}

func drop(rooms map[string]map[*Window]bool, id string, w *Window) {
	delete(rooms[id], w)
	if len(rooms[id]) == 0 {
		delete(rooms, id)
	}
}

// tellPresence tells every window how many there are.
func (r *Rooms) tellPresence(id string) {
	editors, readers := 0, 0
	var who []string
	for w := range r.present[id] {
		if !slices.Contains(who, w.Name) {
			who = append(who, w.Name)
		}
		if w.Reads() {
			readers++
		} else {
			editors++
		}
	}
	slices.Sort(who)
	for w := range r.present[id] {
		told := who
		if w.Right < account.Remark { // a reader does not learn who else is there
			told = nil
		}
		w.send(Here{editors, readers, told})
	}
}

// relay passes a message of one window of the editor on to the others on the map.
func (r *Rooms) relay(id string, from *Window, m Event) {
	r.Notify(id, m, func(w *Window) bool { return w != from && !w.Reads() })
}

// Notify tells the windows on a map that which holds for.
func (r *Rooms) Notify(id string, m Event, which func(w *Window) bool) {
	r.mu.Lock()
	defer r.mu.Unlock()
	for w := range r.present[id] {
		if which(w) {
			w.send(m)
		}
	}
}

// Seat is a window on a map.
type Seat struct {
	Map string
	*Window
}

// Windows are those on a map, or on all maps where id is empty, that which holds for. They are asked about and ended
// without the rooms held, which dealing with their messages takes.
func (r *Rooms) Windows(id string, which func(w *Window) bool) (list []Seat) {
	r.mu.Lock()
	defer r.mu.Unlock()
	for room, windows := range r.present {
		if id != "" && room != id {
			continue
		}
		for w := range windows {
			if which(w) {
				list = append(list, Seat{room, w})
			}
		}
	}
	return list
}

// End ends the windows on a map that which holds for, with a last word.
func (r *Rooms) End(id string, last Event, which func(w *Window) bool) {
	for _, w := range r.Windows(id, which) {
		w.shut(last)
	}
}
