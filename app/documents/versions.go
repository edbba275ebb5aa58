package documents

import (
	"plaintracer/core/model"
	"plaintracer/store"
)

// At returns the map as it was at a revision.
func (d *Document) At(revision int) (*model.Map, error) {
	s, err := d.rebuild(false, revision)
	if err != nil {
		return nil, err
	}
	if s.fault != nil || s.revision != revision {
		return nil, store.ErrNotFound
	}
	return s.m, nil
}

// KeepVersion keeps the map as it is now for a link and returns the id of the version. The same state is kept once.
func (d *Document) KeepVersion(author string) (string, error) {
	v, err := d.KeepAs(store.Keep{Author: author, Reason: store.ForLink})
	return v.ID, err
}

// KeepAs keeps the map as it is now. A state that was kept is kept once; it gets a number when people are to see it.
func (d *Document) KeepAs(k store.Keep) (store.Version, error) {
	m, revision := d.Snapshot()
	return d.all.versions.Keep(d.ID, m, revision, k)
}
