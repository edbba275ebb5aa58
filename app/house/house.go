// Package house opens a data folder with what works on it: the store, the maps that are open, and the search.
package house

import (
	"time"

	"plaintracer/app/documents"
	"plaintracer/app/search"
	"plaintracer/background"
	"plaintracer/core/edit"
	"plaintracer/exchange/intake"
	"plaintracer/store"
)

// House is an open data folder. It is safe for concurrent use.
type House struct {
	*store.Store
	Documents *documents.Documents
	Search    *search.Search
	beside    *background.Group
}

// tidyPause is how often it is looked for maps that nobody follows, and for those that have been in the bin too long.
const tidyPause = 150 * time.Second

// Open opens the data folder, and makes it where there is none. One program at a time can hold it.
func Open(folder string) (*House, error) {
	s, err := store.Open(folder)
	if err != nil {
		return nil, err
	}
	docs := documents.New(s.Logs, s.Maps, s.Versions)
	h := &House{s, docs, search.New(s.Words, docs), background.New()}
	docs.Vet = h.vet
	h.beside.Every(tidyPause, "letting maps and files go", h.tidy)
	if s.ReadOnly() == "" {
		h.beside.Go("noting words for the search", h.Search.Run)
	}
	return h, nil
}

// vet looks at what an edit brings into a map: pictures, fonts and files.
func (h *House) vet(id, author string, made *edit.Revert) error {
	if err := intake.Vet(made); err != nil {
		return err
	}
	return h.vetFiles(id, author, made)
}

// List are all maps in use, or all in the bin, whoever may see them, the latest changed first; with what a person has
// to do with them.
func (h *House) List(person string, binned bool) ([]store.Info, error) {
	h.Search.CatchUp()
	return h.Maps.List(person, binned)
}

// Close ends what runs, closes the database and lets the folder go.
func (h *House) Close() error {
	h.beside.Close()
	return h.Store.Close()
}
