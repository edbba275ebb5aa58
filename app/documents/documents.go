// Package documents keeps the maps that are open: the state of each after the last committed edit. Edits are made here
// and committed before anybody hears of them; an Audience is told of each, in order.
//
// What is damaged in a log is set apart, so that all else can still be read and worked on: an entry that cannot be made
// any more is kept aside, and a map of which a part cannot be read is shown as it last could be.
package documents

import (
	"errors"
	"log"
	"maps"
	"slices"
	"sync"
	"sync/atomic"
	"time"

	"plaintracer/account"
	"plaintracer/core/edit"
	"plaintracer/core/model"
	"plaintracer/store"
)

// Logs keep what was committed. *store.Logs does.
type Logs interface {
	After(id string, revision int) ([]store.Entry, error)
	Numbered(id, window string, seq int) ([]store.Entry, error)
	Knows(id, window string, seq int) bool
	Last(id, window string) (seq int, err error)
	Append(a *store.Addition, snapshot *model.Map) error
	Snapshots(id string) ([]int, error)
	Snapshot(id string, revision int) (*model.Map, error)
	KeepSnapshot(id string, revision int, m *model.Map) error
	SetAside(id string, m *model.Map, revision int, why string) (last int, err error)
	Asides(id string) ([]store.Aside, error)
	Deeds(id string, before, most int) ([]store.Deed, error)
	ReadOnly() string
	Code(text string) []byte
}

// List is the list of maps. *store.Maps does.
type List interface {
	Where(id string) (m account.Map, binned bool, err error)
	Bin(id string) error
	Restore(id string) error
	Empty(now time.Time) (gone []string, err error)
}

// Versions keep states of maps. *store.Versions does.
type Versions interface {
	Keep(of string, m *model.Map, revision int, k store.Keep) (store.Version, error)
}

// Audience is who hears of edits.
type Audience interface {
	// Committed is told of every edit that has been made for good, of one map in order. It must neither block nor call
	// back.
	Committed(id string, c Committed)
	// Follows reports whether somebody hears of the edits of a map.
	Follows(id string) bool
}

// nobody hears of anything.
type nobody struct{}

func (nobody) Committed(string, Committed) {}
func (nobody) Follows(string) bool         { return false }

// Documents are the maps that are open. It is safe for concurrent use.
type Documents struct {
	logs     Logs
	list     List
	versions Versions
	// Vet looks closer at what an edit brings into a map than its own checks do; it may be nil. An edit it reports is
	// refused with its reason. It is set before the first map is opened.
	Vet func(id, author string, added *edit.Revert) error

	audience atomic.Pointer[Audience] // what runs in the background opens maps before there is one

	mu   sync.Mutex // guards open against those who open maps at once
	open map[string]*Document
}

// New returns the documents of a store, of which none is open.
func New(logs Logs, list List, versions Versions) *Documents {
	d := &Documents{logs: logs, list: list, versions: versions, open: map[string]*Document{}}
	d.Tell(nobody{})
	return d
}

// Tell has an audience hear of edits from now on.
func (d *Documents) Tell(a Audience) { d.audience.Store(&a) }

// idleTime is how long a map that nobody follows is kept in memory.
const idleTime = 10 * time.Minute

// Open opens a map that is not in the bin. All callers share one Document for each map. A map that takes long to read
// keeps nobody from others.
func (ds *Documents) Open(id string) (*Document, error) {
	// It is listed before it is asked for, so that nobody moves it to the bin unnoticed between.
	ds.mu.Lock()
	d := ds.open[id]
	if d == nil {
		d = &Document{ID: id, all: ds}
		ds.open[id] = d
	}
	ds.mu.Unlock()
	if d.away.Load() {
		return nil, store.ErrNotFound
	}
	d.mu.Lock()
	defer d.mu.Unlock()
	if !d.known {
		_, binned, err := ds.list.Where(id)
		if err == nil && binned {
			err = store.ErrNotFound
		}
		if errors.Is(err, store.ErrNotFound) {
			ds.forget(d)
		}
		if err != nil && !store.Damaged(err) {
			return nil, err
		}
	}
	if err := d.ensureLoaded(); err != nil {
		return nil, err
	}
	d.known = true
	if d.away.Load() {
		return nil, store.ErrNotFound
	}
	return d, nil
}

// forget takes a map out of the list of those that are open, since it is not there.
func (ds *Documents) forget(d *Document) {
	ds.mu.Lock()
	defer ds.mu.Unlock()
	if ds.open[d.ID] == d {
		delete(ds.open, d.ID)
	}
}

// Held reports whether the state of a map is in memory.
func (ds *Documents) Held(id string) bool {
	ds.mu.Lock()
	d := ds.open[id]
	ds.mu.Unlock()
	if d == nil {
		return false
	}
	d.mu.Lock()
	defer d.mu.Unlock()
	return d.m != nil
}

// Glance calls look with a map, which is let go again if it was not in memory before.
func (ds *Documents) Glance(id string, look func(m *model.Map, revision int)) error {
	held := ds.Held(id)
	d, err := ds.Open(id)
	if err != nil {
		return err
	}
	d.View(look)
	if !held {
		d.letGo(time.Now().Add(time.Second))
	}
	return nil
}

// Tidy lets the maps go that nobody has asked for in a while, and empties the bin of those that have been in it too
// long.
func (ds *Documents) Tidy(now time.Time) {
	ds.LetGo(now.Add(-idleTime))
	if ds.logs.ReadOnly() != "" {
		return
	}
	gone, err := ds.list.Empty(now)
	if err != nil {
		log.Printf("emptying the bin: %v", err)
	}
	ds.mu.Lock()
	defer ds.mu.Unlock()
	for _, id := range gone {
		delete(ds.open, id)
	}
}

// LetGo lets the maps go that nobody follows and nobody has asked for since a time.
func (ds *Documents) LetGo(since time.Time) {
	ds.mu.Lock()
	list := slices.Collect(maps.Values(ds.open))
	ds.mu.Unlock()
	for _, d := range list {
		d.letGo(since)
	}
}

// Bin puts a map into the bin.
func (ds *Documents) Bin(id string) error { return ds.setAway(id, true, ds.list.Bin(id)) }

// Restore takes a map out of the bin.
func (ds *Documents) Restore(id string) error { return ds.setAway(id, false, ds.list.Restore(id)) }

// setAway notes that a map is in the bin, or not any more, where err says that it was done.
func (ds *Documents) setAway(id string, away bool, err error) error {
	if err != nil {
		return err
	}
	ds.mu.Lock()
	defer ds.mu.Unlock()
	if d := ds.open[id]; d != nil {
		d.away.Store(away)
	}
	return nil
}
