package house

import (
	"context"
	"errors"
	"log"
	"slices"
	"strings"
	"time"

	"plaintracer/account"
	"plaintracer/core/edit"
	"plaintracer/core/model"
	"plaintracer/store"
)

// start begins the names of the maps to begin from, as holders of files.
const start = "start:"

// vetFiles looks at the files that an edit brings to a map: their contents have to be there, as they are said to be,
// and kept with this map or with one that its author may read. Whoever knows no more than the id of a file gets
// nothing.
func (h *House) vetFiles(id, author string, made *edit.Revert) error {
	for i := range made.Changes {
		one, ok := edit.Changed[model.File](&made.Changes[i])
		if !ok || one.Before != nil {
			continue
		}
		f := one.After
		held, err := h.share(id, author, f.ID)
		if err != nil {
			return err
		}
		if !held {
			return model.Refuse(f.ID, "the file %s is not kept here: add it again", model.Quote(f.Name))
		}
		content, err := h.Files.Open(id, f.ID)
		if err != nil {
			return err
		}
		if content.Size != int64(f.Size) || content.Type != f.Type {
			return model.Refuse(f.ID, "the file %s is not what it is said to be", model.Quote(f.Name))
		}
	}
	return nil
}

// share has a map hold a file that another one holds which somebody may read, or to begin from; it reports whether the
// map holds it then.
func (h *House) share(id, author, file string) (bool, error) {
	holders, err := h.Files.Holders(file)
	if err != nil {
		return false, err
	}
	if slices.Contains(holders, id) {
		return true, nil
	}
	if author == "" || strings.HasPrefix(author, "link:") {
		return false, nil
	}
	for _, holder := range holders {
		reads := strings.HasPrefix(holder, start) // anybody of the organisation may begin from it
		if !reads {
			if reads, err = h.Reads(author, holder); err != nil {
				return false, err
			}
		}
		if reads {
			return true, h.Files.Keep(id, file)
		}
	}
	return false, nil
}

// Reads reports whether somebody in the organisation may read a map; false where it is not there.
func (h *House) Reads(person, id string) (bool, error) {
	where, binned, err := h.Maps.Where(id)
	if errors.Is(err, store.ErrNotFound) {
		return false, nil
	}
	if err != nil {
		return false, err
	}
	rules, err := h.Folders.Rules()
	if err != nil {
		return false, err
	}
	right := rules.OnMap(person, where)
	return right >= account.Read && (!binned || right >= account.Manage), nil
}

// Add stores a new map of an owner in a folder, which may be none, and has it hold its files, as far as they are kept
// with maps that the owner may read.
func (h *House) Add(m *model.Map, owner, folder string) (string, error) {
	id, err := h.Maps.CreateFor(m, owner, folder)
	if err != nil {
		return "", err
	}
	return id, h.shareAll(id, owner, m)
}

// AddStart keeps a map to begin others from, with its files.
func (h *House) AddStart(m *model.Map, about, owner string) error {
	id, err := h.Starts.Add(m, about, owner)
	if err != nil {
		return err
	}
	return h.shareAll(start+id, owner, m)
}

func (h *House) shareAll(holder, owner string, m *model.Map) error {
	for _, f := range m.Attached() {
		if _, err := h.share(holder, owner, f.ID); err != nil {
			return err
		}
	}
	return nil
}

// tidy is done now and then beside the work.
func (h *House) tidy(context.Context) {
	now := time.Now()
	h.Documents.Tidy(now)
	if h.ReadOnly() == "" {
		if err := h.Files.Tidy(now); err != nil {
			log.Printf("letting files go: %v", err)
		}
	}
}
