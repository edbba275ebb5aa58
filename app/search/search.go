// Package search notes what is written in maps for the search, soon after it has changed and beside all else, so that
// no edit waits for it. A search first notes what has changed since.
package search

import (
	"context"
	"crypto/sha256"
	"errors"
	"fmt"
	"log"
	"sync"
	"time"

	"plaintracer/core/flow"
	"plaintracer/core/links"
	"plaintracer/core/model"
	"plaintracer/core/numbering"
	"plaintracer/store"
)

// Index keeps the texts of maps. *store.Words does.
type Index interface {
	// Behind returns the ids of maps whose texts have changed since they were noted, at most so many that follow one.
	Behind(after string, most int) ([]string, error)
	// Note notes the texts of maps, of all or of none.
	Note(list ...*store.MapTexts) error
	Search(query string) (numbers map[int64]bool, err error)
	Hits(query string, number int64, most int) ([]store.Hit, error)
	Changed() <-chan struct{}
	ReadOnly() string
}

// Maps are the maps themselves. *documents.Documents has them.
type Maps interface {
	Glance(id string, look func(m *model.Map, revision int)) error
}

// Search finds texts in all maps.
type Search struct {
	index Index
	maps  Maps
	// indexing lets one note texts at a time, who keeps in noted the hashes of what is noted of maps.
	indexing sync.Mutex
	noted    map[string][32]byte
}

// New returns a search in maps.
func New(index Index, maps Maps) *Search {
	return &Search{index: index, maps: maps, noted: map[string][32]byte{}}
}

// indexWait is how long changes are gathered before their texts are noted.
const indexWait = time.Second

// besideShare is how much of the time is spent on it while nobody waits for it.
const besideShare = 0.1

// Run notes the texts of maps as they change, until the context ends.
func (s *Search) Run(ctx context.Context) {
	for {
		if err := s.catchUp(ctx, time.Hour, besideShare); err != nil && ctx.Err() == nil {
			log.Printf("noting words for the search: %v", err)
		}
		select {
		case <-s.index.Changed():
		case <-ctx.Done():
			return
		}
		select {
		case <-time.After(indexWait):
		case <-ctx.Done():
			return
		}
	}
}

// catchUp notes the texts of all maps that have changed since theirs were noted, as far as it comes in a time. Of that
// time it works a share, from 0 to 1, so that those who edit meanwhile hardly wait for it.
func (s *Search) catchUp(ctx context.Context, within time.Duration, share float64) error {
	late := time.Now().Add(within)
	for last := ""; ctx.Err() == nil && time.Now().Before(late); {
		begun := time.Now()
		next, err := s.catchUpAfter(last)
		if err != nil || next == "" {
			return err
		}
		last = next
		if rest := time.Duration(float64(time.Since(begun)) * (1/share - 1)); rest > 0 {
			select {
			case <-time.After(rest):
			case <-ctx.Done():
			}
		}
	}
	return nil
}

// notedTogether is how many maps are noted in one transaction.
const notedTogether = 4

// catchUpAfter notes the texts of some maps, those whose ids follow one, and returns the last of these; nothing where
// there was none left.
func (s *Search) catchUpAfter(id string) (last string, err error) {
	s.indexing.Lock()
	defer s.indexing.Unlock()
	behind, err := s.index.Behind(id, notedTogether)
	if err != nil || len(behind) == 0 {
		return "", err
	}
	var list []*store.MapTexts
	sums := map[string][32]byte{}
	for _, id := range behind {
		one, sum, err := s.read(id)
		if err != nil && !errors.Is(err, store.ErrNotFound) {
			log.Printf("map %s: reading its words: %v", id, err) // the others are noted all the same
		}
		if err == nil {
			list, sums[id] = append(list, one), sum
		}
	}
	last = behind[len(behind)-1]
	err = s.index.Note(list...)
	if err != nil && store.CannotWrite(err) {
		return last, err
	}
	for _, one := range list {
		if err != nil { // one of them is at fault
			if fault := s.index.Note(one); fault != nil {
				log.Printf("map %s: noting its words: %v", one.Map, fault)
				continue
			}
		}
		s.noted[one.Map] = sums[one.Map]
	}
	return last, nil
}

// read reads what the search is to know of a map, with a hash of its texts.
func (s *Search) read(id string) (*store.MapTexts, [32]byte, error) {
	out := &store.MapTexts{Map: id}
	err := s.maps.Glance(id, func(m *model.Map, revision int) {
		out.Revision, out.Sheets, out.Texts = revision, len(m.Sheets), texts(m)
		out.Steps = len(numbering.Of(flow.New(m)))
	})
	if err != nil {
		return nil, [32]byte{}, err
	}
	hash := sha256.New()
	for _, l := range out.Texts {
		fmt.Fprintf(hash, "%q %q %q\n", l.Kind, l.Item, l.Text)
	}
	sum := [32]byte(hash.Sum(nil))
	out.Same = s.noted[id] == sum
	return out, sum, nil
}

// How long those who look wait for what has changed to be noted: it is all of it, except just after a program that
// noted none has been replaced.
const (
	searchWait = 5 * time.Second
	listWait   = 100 * time.Millisecond
)

// CatchUp notes what has changed before somebody looks at the list of maps, as far as it comes in a moment.
func (s *Search) CatchUp() { s.within(listWait) }

func (s *Search) within(wait time.Duration) {
	if s.index.ReadOnly() != "" {
		return
	}
	if err := s.catchUp(context.Background(), wait, 1); err != nil {
		log.Printf("noting words for the search: %v", err)
	}
}

// Find returns the maps, by their numbers, that hold a text in which all words of a query stand, or begin.
func (s *Search) Find(query string) (numbers map[int64]bool, err error) {
	s.within(searchWait)
	return s.index.Search(query)
}

// Hits returns the texts of a map, by its number, in which all words of a query stand, at most so many.
func (s *Search) Hits(query string, number int64, most int) ([]store.Hit, error) {
	return s.index.Hits(query, number, most)
}

// What a text is, as hits tell it.
const (
	titleText = "title"
	sheetText = "sheet"
	laneText  = "lane"
	stageText = "stage"
	stepText  = "step"
	labelText = "answer"
	fieldText = "field"
	linkText  = "link"
)

// texts are those of a map.
func texts(m *model.Map) []store.Hit {
	list := []store.Hit{{Kind: titleText, Text: m.Title}}
	add := func(kind, item, text string) { list = append(list, store.Hit{Item: item, Kind: kind, Text: text}) }
	for _, sheet := range m.Sheets {
		add(sheetText, sheet.ID, sheet.Name)
		for _, p := range sheet.Pools {
			if p.Title != m.Title {
				add(laneText, p.ID, p.Title)
			}
			if p.Words != "" {
				add(laneText, p.ID, p.Words)
			}
			for _, l := range p.Lanes {
				add(laneText, l.ID, l.Name)
			}
			for _, st := range p.Stages {
				add(stageText, st.ID, st.Name)
			}
		}
		for _, sym := range sheet.Symbols {
			add(stepText, sym.ID, sym.Text)
			for _, v := range sym.Values {
				if f := m.Field(v.ID); f != nil && f.Type.Found() {
					add(fieldText, sym.ID, f.Name+": "+v.Text)
				}
			}
		}
		for _, c := range sheet.Connectors {
			if len([]rune(c.Text)) > 3 { // Yes and No are found everywhere
				add(labelText, c.ID, c.Text)
			}
		}
	}
	for l := range m.Leads() {
		add(linkText, l.On, links.Title(m, &l.Link, nil))
	}
	return list
}
