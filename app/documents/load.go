package documents

import (
	"errors"
	"fmt"
	"log"

	"plaintracer/core/edit"
	"plaintracer/core/model"
	"plaintracer/store"
)

// enact makes on a map what an entry says. Judged asks after it whether the map is sound.
func enact(e *store.Entry, m *model.Map, judged bool) error {
	if e.Earlier() {
		made, err := e.Edit()
		if err != nil {
			return err
		}
		if err := edit.Lift(m, made.Edit); err != nil || !judged {
			return err
		}
		return m.Sound()
	}
	changes, err := e.Did()
	if err == nil {
		err = edit.Enact(m, changes)
	}
	if err == nil && judged {
		err = m.Sound()
	}
	return err
}

// state is a map as far as it could be made of a snapshot and the log.
type state struct {
	m        *model.Map
	revision int
	// edits and bytes count what was made since the snapshot.
	edits, bytes int
	// lifted says that some of it was of an earlier format.
	lifted bool
	// fault says why it does not go on to the end of the log, and at which entry.
	fault error
	at    int
}

// load reads the map: the latest snapshot and the entries after it. Entries are trusted; if the
// outcome does not hang together after all, they are read again with every check, to find the
// first that is to blame. A map that ends before its log does goes on from there: the rest of its
// log is kept aside. A rule that the map breaks, since it is younger than the map or for any other
// reason, keeps nobody from opening it; it is among the findings.
func (d *Document) load() error {
	s, err := d.rebuild(false, -1)
	if err != nil {
		return err
	}
	if s.fault == nil {
		if fault := s.m.Sound(); fault != nil {
			if s, err = d.rebuild(true, -1); err != nil {
				return err
			}
			if s.fault == nil {
				return fmt.Errorf("no state of it is sound: %w", fault)
			}
		}
	}
	if s.fault != nil { // what the faulty entry has begun is left out
		fault, at := s.fault, s.at
		if s, err = d.rebuild(false, s.revision); err != nil {
			return err
		}
		s.fault, s.at = fault, at
	}
	d.m, d.revision, d.sinceEdits, d.sinceBytes, d.damage, d.last = s.m, s.revision, s.edits, s.bytes, "", nil
	if s.fault == nil {
		d.keepLifted(s)
		return nil
	}
	log.Printf("map %s: its log ends at revision %d, since entry %d is faulty: %v", d.ID, s.revision, s.at, s.fault)
	if store.Damaged(s.fault) {
		d.damage = fmt.Sprintf("a part of the data file cannot be read. This is the last state that can, revision %d.",
			s.revision)
		return nil
	}
	if err := d.setAside(s); err != nil {
		log.Printf("map %s: keeping the rest of its log aside: %v", d.ID, err)
		d.damage = fmt.Sprintf("its log is faulty after revision %d, and the rest of it cannot be kept aside: %v.",
			s.revision, err)
	}
	return nil
}

// keepLifted keeps the state that was made of entries of an earlier format, so that they are not
// asked again, when rules may be others.
func (d *Document) keepLifted(s state) {
	if !s.lifted || d.all.logs.ReadOnly() != "" {
		return
	}
	if err := d.all.logs.KeepSnapshot(d.ID, s.revision, s.m); err != nil {
		log.Printf("map %s: keeping what was lifted: %v", d.ID, err)
		return
	}
	d.sinceEdits, d.sinceBytes = 0, 0
}

// rebuild returns the map up to a revision, as replay makes it, with its cards in their places.
func (d *Document) rebuild(judged bool, until int) (state, error) {
	s, err := d.replay(judged, until)
	if s.m != nil {
		s.m.SettleAll()
	}
	return s, err
}

// replay makes the map from the latest snapshot that can be read and is sound, and the entries
// after it: up to a revision, or all of them if that is below zero. A fault in an entry leaves the
// map between two revisions.
func (d *Document) replay(judged bool, until int) (state, error) {
	list, err := d.all.logs.Snapshots(d.ID)
	if err != nil && len(list) == 0 {
		return state{}, err
	}
	for _, revision := range list {
		if until >= 0 && revision > until {
			continue
		}
		s := state{revision: revision}
		m, fault := d.all.logs.Snapshot(d.ID, revision)
		if fault == nil {
			fault = m.Sound()
		}
		if fault != nil {
			log.Printf("map %s: the snapshot at revision %d: %v", d.ID, revision, fault)
			err = errors.Join(err, fault)
			continue
		}
		s.m = m
		entries, failed := d.all.logs.After(d.ID, revision)
		if failed != nil && !store.Damaged(failed) {
			return state{}, failed
		}
		for i := range entries {
			e := &entries[i]
			if until >= 0 && e.Revision > until {
				return s, nil
			}
			if s.fault = enact(e, s.m, judged); s.fault != nil {
				s.at = e.Revision
				return s, nil
			}
			s.revision, s.lifted = e.Revision, s.lifted || e.Earlier()
			s.edits, s.bytes = s.edits+1, s.bytes+e.Size()
		}
		s.at, s.fault = s.revision+1, failed
		return s, nil
	}
	if err == nil {
		err = errors.New("it has no snapshot")
	}
	return state{}, fmt.Errorf("no state of it can be read: %w", err)
}

// setAside takes the entries of the log out that cannot be made, and has the map go on from the state before them.
func (d *Document) setAside(s state) error {
	last, err := d.all.logs.SetAside(d.ID, s.m, s.revision, s.fault.Error())
	if err == nil {
		d.revision, d.sinceEdits, d.sinceBytes = last, 0, 0
	}
	return err
}

// Asides returns the entries of the map's log that are kept aside, in their order.
func (d *Document) Asides() ([]store.Aside, error) { return d.all.logs.Asides(d.ID) }

// Deeds are the entries of the map's log before a revision, the latest first, at most so many. What cannot be read is
// left out.
func (d *Document) Deeds(before, most int) ([]store.Deed, error) {
	return d.all.logs.Deeds(d.ID, before, most)
}
