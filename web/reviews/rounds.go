// Package reviews is what is said of maps: remarks, rounds of review, and the versions these are of.
package reviews

import (
	"errors"
	"fmt"
	"slices"
	"strings"
	"sync"
	"time"

	"github.com/gofiber/fiber/v3"

	"plaintracer/account"
	"plaintracer/app/phrase"
	"plaintracer/app/rounds"
	"plaintracer/core/edit"
	"plaintracer/core/model"
	"plaintracer/exchange/changes"
	"plaintracer/mail"
	"plaintracer/review"
	"plaintracer/store"
	"plaintracer/web/shelf"
	"plaintracer/web/site"
)

// roundView is a round as the side panel and its page show it.
type roundView struct {
	store.Round
	AskedBy string
	// Mine is what the visitor says of it; Asked that they were asked.
	Mine  store.Verdict
	Asked bool
	// Me is the id of the visitor, where they are of the organisation.
	Me string
	// Before is the version that was asked about in the round before, where there was one; Seen the one that the
	// visitor was asked about before.
	Before, Seen string
	// Marked are the changes since Seen, or for people in the organisation since Before; More is how many there are
	// beside.
	Marked []changes.Line
	More   int
	// Known names the version that these start from, From is its id.
	Known, From string
	// Earlier are the rounds before, the latest first.
	Earlier []earlierRound
	// AsReviewed says whether the map is as it was reviewed.
	AsReviewed bool
	// Case is what the outcome depends on.
	Case *review.Case
	// Changed is what was changed since, while the round runs; nil for who does not end it. Habits are those of the
	// house.
	Changed *rounds.Since
	Habits  review.Habits
	// Life is that of the map, OwnerName who owns the process, Standing what readers have to know.
	Life                store.Life
	OwnerName, Standing string
	// Title is that of the map as it was reviewed.
	Title string
	// Now is when the view was made.
	Now    time.Time
	rounds *rounds.Rounds
}

// Outcome says what was said.
func (r *roundView) Outcome() string { return r.Case.Outcome() }

// Result is the outcome as a sentence, or how it stands while the round runs.
func (r *roundView) Result() string {
	if r.Over() {
		return phrase.Sentence(r.Outcome())
	}
	return "Under way: " + r.Outcome() + "."
}

// Over reports whether the round has ended.
func (r *roundView) Over() bool { return !r.Ended.IsZero() }

// Sentence is what somebody signs who agrees.
func (r *roundView) Sentence() string {
	return fmt.Sprintf("I agree to version %d of “%s” (SHA-256 %.16s…)", r.Version.Number, r.Title, r.Version.Hash)
}

// Waits reports whether somebody who was asked is told only when others have answered.
func (r *roundView) Waits(v store.Verdict) bool { return v.Told.IsZero() && !v.Unasked }

// MayTakeIn reports whether what was changed since may count as part of what is agreed.
func (r *roundView) MayTakeIn() bool { return r.Habits.TakeIn && r.Changed != nil && r.Changed.Small }

// Token is what opens the link of somebody who was asked by name, where the program still knows it: who asks copies it
// when they get to it.
func (r *roundView) Token(one store.Verdict) string {
	if !one.Opens {
		return ""
	}
	return r.rounds.Token(one.Link)
}

// roundView is the latest round on the map of a visit; nil for none.
func (s *Reviews) roundView(v *site.Visit) (*roundView, error) {
	list, err := v.Rounds()
	if err != nil || len(list) == 0 {
		return nil, err
	}
	return s.viewRound(v, list, 0)
}

// openTo are those who were asked by name and in whose place the visitor by a link may answer: by the link that was
// made for them, or in rounds from before there were such links by any; and nobody else has answered for them.
func (r *roundView) openTo(v *site.Visit) (list []store.Verdict) {
	for _, one := range r.Round.Asked() {
		if one.ByLink() && (one.Link == "" || one.Link == v.Link) && (one.Visitor == "" || one.Visitor == v.Visitor) {
			list = append(list, one)
		}
	}
	return list
}

func (s *Reviews) viewRound(v *site.Visit, list []store.Round, i int) (*roundView, error) {
	names, err := s.Names()
	if err != nil {
		return nil, err
	}
	r := &roundView{Round: list[i], AskedBy: phrase.ByName(names, list[i].Asker), Now: time.Now(), rounds: s.rounds}
	if i+1 < len(list) {
		r.Before = list[i+1].Version.ID
	}
	for k := i + 1; k < len(list); k++ {
		one := &list[k]
		r.Earlier = append(r.Earlier, earlierRound{one.ID, one.Number, one.Ended,
			one.Case(one.Version.Revision).Outcome()})
	}
	me := ""
	if v.Who != nil {
		r.Me = v.Who.ID
	}
	for k := range r.Verdicts {
		one := &r.Verdicts[k]
		if name := names[one.Who]; name != "" {
			one.Name = name
		}
		if v.Who != nil && one.Who == v.Who.ID || v.Who == nil && one.Link != "" && one.Link == v.Link {
			me, r.Mine = one.Who, *one
			r.Asked = v.Who != nil && !one.Unasked
		}
	}
	if me != "" {
		if r.Seen, err = s.rounds.Before(&r.Round, me); err != nil {
			return nil, err
		}
	}
	if err := s.mark(v, r); err != nil {
		return nil, err
	}
	shown, err := v.Shown()
	if err != nil {
		return nil, err
	}
	now := -1
	shown.View(func(m *model.Map, revision int) {
		r.AsReviewed, r.Case, now, r.Title = r.Stands(revision), r.Round.Case(revision), revision, m.Title
	})
	if r.Habits, err = s.House.Rounds.Habits(); err != nil {
		return nil, err
	}
	if r.Life, err = s.House.Lives.Get(v.Map); err != nil {
		return nil, err
	}
	r.OwnerName = r.Life.OwnerName(names)
	if r.Standing, err = s.rounds.Standing(v.Map, v.Chosen.Version); err != nil {
		return nil, err
	}
	if !r.Over() && !r.AsReviewed && v.Right >= account.Manage && v.Who != nil && now >= 0 {
		m, _ := shown.Snapshot()
		if r.Changed, err = s.rounds.Since(&r.Round, m); err != nil {
			return nil, err
		}
	}
	return r, nil
}

// earlierRound is a round that has ended, as it is listed: with what came of it.
type earlierRound struct {
	ID      string
	Number  int
	Ended   time.Time
	Outcome string
}

// mostMarked is how many changes since the version before are told with a round.
const mostMarked = 60

// mark tells with a round that runs what changed since the version that the visitor knows.
func (s *Reviews) mark(v *site.Visit, r *roundView) error {
	from := r.Seen
	if from == "" && v.Who != nil {
		from = r.Before
	}
	if r.Over() || from == "" {
		return nil
	}
	before, _, err := s.House.Versions.Get(from)
	if err != nil {
		return err
	}
	lines, err := s.rounds.Between(from, r.Version.ID)
	if err != nil {
		return err
	}
	r.Marked = lines[:min(len(lines), mostMarked)]
	r.More, r.Known, r.From = len(lines)-len(r.Marked), fmt.Sprint("version ", before.Number), from
	return nil
}

// roundNamed is a round on the map of a visit, by its id.
func (s *Reviews) roundNamed(c fiber.Ctx) (*site.Visit, *roundView, error) {
	v := site.At(c)
	list, err := v.Rounds()
	if err != nil {
		return v, nil, err
	}
	for i := range list {
		if list[i].ID == c.Params("round") {
			r, err := s.viewRound(v, list, i)
			return v, r, err
		}
	}
	return v, nil, store.ErrNotFound
}

// LinkInRound makes a new link for somebody who was asked by name.
func (s *Reviews) LinkInRound(c fiber.Ctx) error {
	v, r, err := s.roundNamed(c)
	if err != nil {
		return s.orRemarks(c, orGone(err))
	}
	if r.Over() {
		return s.orRemarks(c, store.ErrOver)
	}
	who := c.FormValue("who")
	if err := s.rounds.NewLink(&r.Round, who); err != nil {
		return s.orRemarks(c, err)
	}
	for _, one := range r.Verdicts {
		if one.Who == who && one.Link != "" {
			s.Live.LinkEnded(v.Map, one.Link)
		}
	}
	return s.orRemarks(c, nil)
}

// SayInRound takes what a reviewer says of the version that a round is about.
func (s *Reviews) SayInRound(c fiber.Ctx) error {
	v, r, err := s.roundNamed(c)
	if err != nil {
		return s.orRemarks(c, orGone(err))
	}
	verdict := c.FormValue("verdict")
	reason, err := saidText(c.FormValue("reason"))
	switch {
	case err != nil:
	case !review.Known(verdict):
		err = site.FormError("choose what you say: agreed, agreed with remarks, or not agreed")
	case verdict == review.NotAgreed && reason == "":
		err = site.FormError("say why you do not agree, so that it can be changed")
	}
	if err != nil {
		return s.orRemarks(c, err)
	}
	one := store.Verdict{Visitor: v.Visitor, Verdict: verdict, Reason: reason}
	switch list := r.openTo(v); {
	case v.Who != nil:
		one.Who, one.Name, one.Unasked = v.Who.ID, v.Who.Name, !r.Asked
	case c.FormValue("as") == "" && len(list) == 0: // a word of somebody who was not asked
		name, err := v.CallsOneself(c)
		if err != nil {
			return s.orRemarks(c, err)
		}
		for _, asked := range r.Round.Asked() {
			if account.Alike(asked.Name, name) {
				return s.orRemarks(c, site.FormError(asked.Name+" was asked; answer by the link that was sent to you"))
			}
		}
		one.Who, one.Name, one.Unasked = "visitor:"+v.Visitor, name, true
	default:
		k := slices.IndexFunc(list, func(asked store.Verdict) bool { return asked.Who == c.FormValue("as") })
		if k < 0 {
			return s.orRemarks(c, site.FormError("choose who you are among those who were asked and have not answered"))
		}
		one.Who, one.Name = list[k].Who, list[k].Name
	}
	if r.Signed && verdict == review.Agreed && !one.Unasked {
		how := "by the link sent to them"
		if v.Who != nil {
			if refusal, err := s.KnowsPassword(c); err != nil {
				return err
			} else if refusal != "" {
				return s.orRemarks(c, site.FormError(refusal))
			}
			how = "signed in by the directory"
			if v.Who.Locked {
				how = "with their password"
			}
		}
		one.Signature = r.Sentence() + ". " + one.Name + ", " + time.Now().Format(rounds.FiledTime) + ", " + how
	}
	if err = s.rounds.Say(&r.Round, one); err == nil {
		if !one.Unasked {
			v.AnswersAs(c, one.Name)
		}
		s.remarked(v)
		if asker, fault := s.House.People.Get(r.Asker); fault == nil && asker.ID != one.Who {
			d, err := s.House.Documents.Open(v.Map)
			if err != nil {
				return err
			}
			s.Post.Send(mail.Said, asker.Email, v.Map, map[string]any{"Name": asker.Name, "By": one.Name,
				"Title": s.TitleOf(d), "Verdict": verdict,
				"Reason": reason, "So": s.soFar(v, r.ID), "Link": s.Address + "/maps/" + v.Map + "#page=remarks"})
		}
	}
	return s.orRemarks(c, err)
}

// soFar is what has been said in a round by now.
func (s *Reviews) soFar(v *site.Visit, round string) string {
	list, err := s.House.Rounds.Of(v.Map)
	d, err2 := s.House.Documents.Open(v.Map)
	i := slices.IndexFunc(list, func(r store.Round) bool { return r.ID == round })
	if err != nil || err2 != nil || i < 0 {
		return ""
	}
	revision := 0
	d.View(func(_ *model.Map, now int) { revision = now })
	return list[i].Case(revision).Outcome()
}

func orGone(err error) error {
	if errors.Is(err, store.ErrNotFound) {
		return site.FormError("this round is not there any more")
	}
	return err
}

// RemindRound reminds somebody who has not said anything yet.
func (s *Reviews) RemindRound(c fiber.Ctx) error {
	v, r, err := s.roundNamed(c)
	if err != nil {
		return s.orRemarks(c, orGone(err))
	}
	if r.Over() {
		return s.orRemarks(c, store.ErrOver)
	}
	for _, one := range r.Missing() {
		if c.FormValue("who") != one.Who {
			continue
		}
		if time.Since(one.Reminded) < time.Hour {
			return s.orRemarks(c, site.FormError(one.Name+" was reminded less than an hour ago"))
		}
		if err := s.rounds.Remind(&r.Round, one, v.Who.Name); err != nil {
			return err
		}
	}
	return s.orRemarks(c, nil)
}

// EndRound ends a round; its outcome is what was said. What was agreed is the version that was asked about, or, where
// the organisation allows it and all that was changed since was proposed in the round, that with these changes.
func (s *Reviews) EndRound(c fiber.Ctx) error {
	v, r, err := s.roundNamed(c)
	if err != nil {
		return s.orRemarks(c, orGone(err))
	}
	return s.orRemarks(c, s.end(c, v, r, c.FormValue("how") == "take"))
}

func (s *Reviews) end(c fiber.Ctx, v *site.Visit, r *roundView, takeIn bool) error {
	d, err := v.Document()
	if err != nil {
		return err
	}
	keep := func(k store.Keep) (store.Version, error) { return s.keepAs(c, k) }
	if err := s.rounds.End(&r.Round, d, v.Who.Name, takeIn, keep); err != nil {
		return err
	}
	s.remarked(v)
	r.Case.Ended, r.Case.Since, r.Case.TakenIn = true, r.Since, r.TakenIn != ""
	s.Note(c, "ended a round of review: "+r.Outcome(), s.TitleOf(d))
	return nil
}

// AskAgain ends a round as of the version that was asked about, and asks the same people for the map as it is now.
func (s *Reviews) AskAgain(c fiber.Ctx) error {
	v, r, err := s.roundNamed(c)
	if err != nil {
		return s.orRemarks(c, orGone(err))
	}
	if !r.Over() {
		if err := s.end(c, v, r, false); err != nil {
			return s.orRemarks(c, err)
		}
	}
	next := store.Round{Map: v.Map, Asker: v.Who.ID, Word: r.Word, Needs: r.Needs, Remind: r.Remind, Final: r.Final,
		Signed: r.Habits.Sign}
	if r.Until.After(time.Now()) {
		next.Until = r.Until
	}
	people, err := s.askable(v)
	if err != nil {
		return err
	}
	for _, one := range r.Round.Asked() {
		if one.ByLink() || slices.ContainsFunc(people, func(p askable) bool { return p.ID == one.Who }) {
			next.Verdicts = append(next.Verdicts, store.Verdict{Who: one.Who, Name: one.Name, Email: one.Email,
				Turn: one.Turn})
		}
	}
	if len(next.Verdicts) == 0 {
		return s.orRemarks(c, site.FormError("nobody of those who were asked can be asked any more"))
	}
	return s.orRemarks(c, s.begin(c, v, next))
}

// HeadRound writes the outcome of a round that has ended into the heading of its map: the version and the date.
func (s *Reviews) HeadRound(c fiber.Ctx) error {
	v, r, err := s.roundNamed(c)
	if err != nil {
		return s.orRemarks(c, orGone(err))
	}
	if !r.Over() {
		return s.orRemarks(c, site.FormError("the round is still under way; end it first"))
	}
	d, err := v.Document()
	if err != nil {
		return err
	}
	m, revision := d.Snapshot()
	heading := m.Heading
	said := r.Outcome()
	if !r.Case.IsAgreed() {
		said = "reviewed: " + said
	}
	heading.Version = phrase.Clip(fmt.Sprintf("%d, %s", r.Version.Number, said), model.MaxName)
	heading.Date = r.Ended.Format("2 January 2006")
	if heading == m.Heading {
		return s.orRemarks(c, nil)
	}
	window, _ := d.NewWindow()
	headed, err := d.ApplyAs(v.Author(), window, 1, &edit.SetHead{Heading: &heading})
	var refusal *model.Refusal
	if errors.As(err, &refusal) {
		err = site.FormError(refusal.Text)
	}
	// Only the heading of what was reviewed has changed, unless somebody was faster.
	if err == nil && r.Stands(revision) && headed == revision+1 {
		err = s.House.Rounds.NoteHeading(r.ID, headed)
	}
	return s.orRemarks(c, err)
}

// tellOf has people told by mail of a remark: the owner of the map, those who took part in the thread, and those it
// speaks to.
func (s *Reviews) tellOf(v *site.Visit, r store.Remark) {
	people, err := s.readers(v)
	if err != nil {
		return
	}
	part := map[string]bool{}
	if where, _, err := s.House.Maps.Where(v.Map); err == nil {
		part[where.Owner] = true
	}
	if r.Thread != "" {
		if authors, err := s.House.Remarks.Authors(r.Thread); err == nil {
			for _, author := range authors {
				part[author] = true
			}
		}
	}
	for _, p := range people {
		spoken := strings.Contains(r.Text, "@"+p.Name)
		kept, err := s.House.Visits.Arrangement(p.ID)
		if err != nil || p.ID == r.Author || kept["mail"] == "none" ||
			!spoken && (kept["mail"] == "spoken" || !part[p.ID]) {
			continue
		}
		s.Post.Digest(p)
	}
}

// Reviews are what is said of maps: remarks, rounds of review, and the versions these are of.
type Reviews struct {
	*site.Site
	shelf *shelf.Shelf
	// seen is up to when people had seen the remarks on a map when they opened its page.
	seen   sync.Map
	rounds *rounds.Rounds
}

// New returns them; what is copied from a version goes onto a shelf.
func New(s *site.Site, shelf *shelf.Shelf, all *rounds.Rounds) *Reviews {
	r := &Reviews{Site: s, shelf: shelf, rounds: all}
	s.Beside.Every(10*time.Minute, "reminding of reviews", r.rounds.RemindAll)
	return r
}

// IsAsked reports whether the visitor was asked for a review that runs, and has not said anything yet.
func (s *Reviews) IsAsked(v *site.Visit) (bool, error) {
	if v.Who != nil {
		return s.House.Rounds.IsAsked(v.Who.ID, v.Map)
	}
	r, err := s.roundView(v)
	if err != nil || r == nil || r.Over() {
		return false, err
	}
	return slices.ContainsFunc(r.openTo(v),
		func(one store.Verdict) bool { return one.Link == v.Link && one.Verdict == "" }), nil
}
