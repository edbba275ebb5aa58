package rounds

import (
	"encoding/json"
	"errors"
	"fmt"
	"strings"
	"time"

	"plaintracer/app/documents"
	"plaintracer/app/phrase"
	"plaintracer/core/edit"
	"plaintracer/core/model"
	"plaintracer/exchange/record"
	"plaintracer/store"
)

// ErrMuch is returned where more was changed than may count as part of what is agreed; ErrBusy where the map is changed
// at the same time.
var (
	ErrMuch = errors.New("the map was changed by more than what was proposed in this round and taken; end it as of the version that was asked about, or ask again")
	ErrBusy = errors.New("the map was changed just now; look at it again, and end the round then")
)

// HoldNumbers holds the numbers of a map, since reviewers cite them; they stay so until somebody releases them. Author
// is an id, name what they are called.
func HoldNumbers(d *documents.Document, author, name string, at time.Time) error {
	if m, _ := d.Snapshot(); m.Held.On() || !m.Numbers {
		return nil
	}
	window, _ := d.NewWindow()
	_, err := d.ApplyAs(author, window, 1, &edit.HoldNumbers{Since: at.UTC().Format(phrase.HeldLayout), By: name})
	var refusal *model.Refusal
	if errors.As(err, &refusal) { // somebody was faster, or the map takes no edits: it is reviewed all the same
		return nil
	}
	return err
}

// End ends a round, by somebody called so. With takeIn the map as it is now is what was agreed, where the organisation
// allows that and no more was changed than was proposed in the round; it is kept by a function then. The round is told
// of how it ended. It returns ErrMuch, ErrBusy, or store.ErrOver.
func (s *Rounds) End(r *store.Round, d *documents.Document, by string, takeIn bool,
	keep func(store.Keep) (store.Version, error)) error {
	e := store.Ending{By: by}
	m, revision := d.Snapshot()
	since, err := s.Since(r, m)
	if err != nil {
		return err
	}
	if e.Since = since.Words(); takeIn {
		habits, err := s.house.Rounds.Habits()
		if err != nil {
			return err
		}
		if !habits.TakeIn || !since.Small {
			return ErrMuch
		}
		kept, err := keep(store.Keep{Name: fmt.Sprintf("version %d with what was taken in", r.Version.Number),
			Reason: store.ForRound})
		if err != nil {
			return err
		}
		if kept.Revision != revision {
			return ErrBusy
		}
		e.TakenIn = kept.ID
	}
	_, reviewed, err := s.house.Versions.Get(r.Version.ID)
	if err != nil {
		return err
	}
	talk, err := s.Talk(r, reviewed)
	if err != nil {
		return err
	}
	raw, err := json.Marshal(talk)
	if err != nil {
		return err
	}
	e.Talk = string(raw)
	if err = s.house.Rounds.End(r.ID, e); err != nil {
		return err
	}
	s.pictures.Delete(r.ID)
	r.Since, r.TakenIn, r.Talk = e.Since, e.TakenIn, e.Talk
	return nil
}

// Talk are the remarks of a round with their answers, and what became of each, for its page and its file.
//
// Of a round that has ended it is what was kept then: what is written or taken back later is no part of it.
func (s *Rounds) Talk(r *store.Round, m *model.Map) (list []record.Thread, err error) {
	if r.Talk != "" {
		err := json.Unmarshal([]byte(r.Talk), &list)
		return list, err
	}
	all, err := s.house.Remarks.Of(r.Map)
	if err != nil {
		return nil, err
	}
	said := func(one store.Remark) record.Saying {
		words := one.Text
		if one.Deleted {
			words = "(deleted)"
		}
		if one.Proposal != "" {
			words = strings.TrimSpace(words + "\nProposed: “" + one.Proposal + "” instead of “" + one.Anchor.Text + "”")
		}
		if one.HasPicture {
			words = strings.TrimSpace(words + "\n(with a picture)")
		}
		by := one.Name
		if one.ByLink() {
			by += " (by link)"
		}
		return record.Saying{By: by, At: one.At.Format(FiledTime), Text: words}
	}
	for _, one := range all {
		if one.Round != r.ID {
			continue
		}
		t := record.Thread{About: strings.TrimSpace(one.Anchor.Number + " " + model.Flat(one.Anchor.Text)),
			Saying: said(one), Settled: "open"}
		switch {
		case t.About != "":
		case m.Sheet(one.Anchor.Sheet) != nil:
			t.About = "A place on " + m.Sheet(one.Anchor.Sheet).Name
		default:
			t.About = "The whole map"
		}
		if one.Anchor.Field != "" {
			t.About += ", " + one.Anchor.Field
		}
		for _, answer := range one.Answers {
			t.Answers = append(t.Answers, said(answer))
		}
		if !one.Settled.IsZero() {
			t.Settled = "resolved by " + one.Settler + ", " + one.Settled.Format(FiledTime)
			if one.Answered != "" {
				t.Settled = "proposal " + one.Answered + " by " + one.Settler + ", " + one.Settled.Format(FiledTime)
			}
		}
		list = append(list, t)
	}
	return list, nil
}

// FiledTime is how times are written into what is filed.
const FiledTime = "2 January 2006, 15:04"
