// Package reviews is what is said of maps: remarks, rounds of review, and the versions these are of.
package reviews

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"
	"sync"
	"time"

	"github.com/gofiber/fiber/v3"

	"plaintracer/account"
	"plaintracer/app/phrase"
	"plaintracer/core/edit"
	"plaintracer/core/model"
	"plaintracer/exchange/record"
	"plaintracer/mail"
	"plaintracer/review"
	"plaintracer/store"
	"plaintracer/web/shelf"
	"plaintracer/web/site"
)

// roundView is a round as the side book and its page show it.
type roundView struct {
	store.Round
	AskedBy string
	// Mine is what the visitor says of it; Asked that they were asked.
	Mine  store.Verdict
	Asked bool
	// Since is the version of the round before, where there was one.
	Since string
	// AsReviewed says whether the map is as it was reviewed.
	AsReviewed bool
	// Case is what the outcome depends on.
	Case   *review.Case
	tokens *sync.Map
}

// Outcome says what was said.
func (r *roundView) Outcome() string { return r.Case.Outcome() }

// Over reports whether the round has ended.
func (r *roundView) Over() bool { return !r.Ended.IsZero() }

// roundView is the latest round on the map of a visit; nil for none.
func (s *Reviews) roundView(v *site.Visit) (*roundView, error) {
	rounds, err := v.Rounds()
	if err != nil || len(rounds) == 0 {
		return nil, err
	}
	return s.viewRound(v, rounds, 0)
}

// openTo are those who were asked by name and in whose place the visitor by a link may answer: by the link that was
// made for them, or in rounds from before there were such links by any; and nobody else has answered for them.
func (r *roundView) openTo(v *site.Visit) (list []store.Verdict) {
	for _, one := range r.Verdicts {
		if one.ByLink() && (one.Link == "" || one.Link == v.Link) && (one.Visitor == "" || one.Visitor == v.Visitor) {
			list = append(list, one)
		}
	}
	return list
}

func (s *Reviews) viewRound(v *site.Visit, rounds []store.Round, i int) (*roundView, error) {
	names, err := s.Names()
	if err != nil {
		return nil, err
	}
	r := &roundView{Round: rounds[i], AskedBy: phrase.ByName(names, rounds[i].Asker), tokens: &s.asked}
	if i+1 < len(rounds) {
		r.Since = rounds[i+1].Version.ID
	}
	for k := range r.Verdicts {
		one := &r.Verdicts[k]
		if name := names[one.Who]; name != "" {
			one.Name = name
		}
		if v.Who != nil && one.Who == v.Who.ID {
			r.Mine, r.Asked = *one, true
		}
	}
	shown, err := v.Shown()
	if err != nil {
		return nil, err
	}
	shown.View(func(_ *model.Map, revision int) { r.AsReviewed, r.Case = r.Stands(revision), r.Round.Case(revision) })
	return r, nil
}

// roundNamed is a round on the map of a visit, by its id.
func (s *Reviews) roundNamed(c fiber.Ctx) (*site.Visit, *roundView, error) {
	v := site.At(c)
	rounds, err := v.Rounds()
	if err != nil {
		return v, nil, err
	}
	for i := range rounds {
		if rounds[i].ID == c.Params("round") {
			r, err := s.viewRound(v, rounds, i)
			return v, r, err
		}
	}
	return v, nil, store.ErrNotFound
}

// BeginRound asks people for a review of the map as it is now.
func (s *Reviews) BeginRound(c fiber.Ctx) error {
	return s.orRemarks(c, s.askForReview(c))
}

func (s *Reviews) askForReview(c fiber.Ctx) error {
	v := site.At(c)
	word, err := saidText(c.FormValue("word"))
	if err != nil {
		return err
	}
	people, err := s.askable(v)
	if err != nil {
		return err
	}
	r := store.Round{Map: v.Map, Asker: v.Who.ID, Word: word, Needs: review.Rule(c.FormValue("needs"))}
	if !r.Needs.Known() {
		return site.FormError("choose how many have to agree")
	}
	asked := map[string]bool{}
	for _, raw := range c.Request().PostArgs().PeekMulti("person") {
		asked[string(raw)] = true
	}
	var to []askable
	for _, p := range people {
		if asked[p.ID] && p.ID != v.Who.ID {
			to = append(to, p)
			r.Verdicts = append(r.Verdicts, store.Verdict{Who: p.ID, Name: p.Name})
		}
	}
	for _, name := range strings.FieldsFunc(c.FormValue("names"),
		func(r rune) bool { return r == ',' || r == ';' || r == '\n' }) {
		name, err := account.Name(name)
		if err != nil {
			return site.FormError(err.Error())
		}
		for _, one := range r.Verdicts {
			if account.Alike(one.Name, name) {
				return site.FormError("two of those who are asked are called " + name +
					", or nearly; say which is which")
			}
		}
		r.Verdicts = append(r.Verdicts, store.Verdict{Who: "name:" + account.Folded(name), Name: name})
	}
	const most = 100
	if len(r.Verdicts) == 0 || len(r.Verdicts) > most {
		return site.FormError(fmt.Sprintf("choose who is asked, up to %d", most))
	}
	if c.FormValue("until") != "" {
		if r.Until, err = phrase.InDays(c.FormValue("until"), 0); err != nil {
			return site.FormError(err.Error())
		}
	}
	if running, err := s.House.Rounds.Running(v.Map); err != nil {
		return err
	} else if running != "" {
		return site.FormError("a round is under way already; end it first")
	}
	if err := s.holdNumbers(v); err != nil {
		return err
	}
	if r.Version, err = s.keepAs(c, store.Keep{Word: word, Reason: store.ForRound}); err != nil {
		return err
	}
	_, tokens, err := s.House.Rounds.Begin(r)
	if errors.Is(err, store.ErrRunning) {
		return site.FormError("a round is under way already; end it first")
	} else if err != nil {
		return err
	}
	for link, token := range tokens {
		s.asked.Store(link, token)
	}
	d, err := v.Document()
	if err != nil {
		return err
	}
	s.Note(c, fmt.Sprintf("asked %s for a review", phrase.Count(len(r.Verdicts), "person")), s.TitleOf(d))
	for _, p := range to {
		may := ""
		if !p.May { // whoever is asked can say something
			if err := s.House.Folders.Grant(account.Grant{Place: account.Place{Map: v.Map}, Person: p.ID,
				Right: account.Remark}); err != nil {
				return err
			}
			may = account.Rights[account.Remark].Verb
			s.Note(c, "gave the right to "+may+" "+s.TitleOf(d), p.Email)
		}
		s.Post.Send(mail.Review, p.Email, v.Map, map[string]any{"Name": p.Name, "By": v.Who.Name, "Title": s.TitleOf(d),
			"Word":  word,
			"Until": until(r.Until), "May": may, "Link": s.Address + v.Base + "#page=remarks"})
	}
	s.Live.RightsChanged()
	s.remarked(v)
	return nil
}

// askable is somebody of the house who can be asked for a review; May says that they may remark already.
type askable struct {
	account.Person
	May bool
	// Before says that they were asked in the round before.
	Before bool
}

// askable are all people of the house who can sign in.
func (s *Reviews) askable(v *site.Visit) (list []askable, err error) {
	where, _, err := s.House.Maps.Where(v.Map)
	if err != nil {
		return nil, err
	}
	people, err := s.House.People.List()
	if err != nil {
		return nil, err
	}
	rules, err := s.House.Folders.Rules()
	if err != nil {
		return nil, err
	}
	for _, p := range people {
		if p.Off.IsZero() {
			list = append(list, askable{p, rules.OnMap(p.ID, where) >= account.Remark, false})
		}
	}
	return list, nil
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
	link, token, err := s.House.Rounds.AskAgain(&r.Round, c.FormValue("who"))
	if err != nil {
		return s.orRemarks(c, err)
	}
	for _, one := range r.Verdicts {
		if one.Who == c.FormValue("who") && one.Link != "" {
			s.asked.Delete(one.Link)
			s.Live.LinkEnded(v.Map, one.Link)
		}
	}
	s.asked.Store(link, token)
	return s.orRemarks(c, nil)
}

// Token is what opens the link of somebody who was asked by name, where the program still knows it: who asks copies it
// when they get to it. Nothing of it is written down; after a restart a new link is made.
func (r *roundView) Token(one store.Verdict) string {
	if t, ok := r.tokens.Load(one.Link); ok && one.Opens {
		return t.(string)
	}
	return ""
}

// holdNumbers holds the numbers of the map of a visit, since reviewers cite them; they stay so until somebody releases
// them.
func (s *Reviews) holdNumbers(v *site.Visit) error {
	d, err := v.Document()
	if err != nil {
		return err
	}
	if m, _ := d.Snapshot(); m.Held.On() || !m.Numbers {
		return nil
	}
	window, _ := d.NewWindow()
	_, err = d.ApplyAs(v.Author(), window, 1, &edit.HoldNumbers{Since: time.Now().UTC().Format(phrase.HeldLayout),
		By: v.Who.Name})
	var refusal *model.Refusal
	if errors.As(err, &refusal) { // somebody was faster, or the map takes no edits: it is reviewed all the same
		return nil
	}
	return err
}

func until(t time.Time) string {
	if t.IsZero() {
		return ""
	}
	return t.Add(-time.Second).Format("2 January 2006")
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
	if v.Who != nil {
		one.Who, one.Name = v.Who.ID, v.Who.Name
	} else {
		list := r.openTo(v)
		k := slices.IndexFunc(list, func(asked store.Verdict) bool { return asked.Who == c.FormValue("as") })
		if k < 0 {
			return s.orRemarks(c, site.FormError("choose who you are among those who were asked and have not answered"))
		}
		one.Who, one.Name = list[k].Who, list[k].Name
	}
	if err = s.House.Rounds.Say(r.ID, one); err == nil {
		v.AnswersAs(c, one.Name)
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
	rounds, err := s.House.Rounds.Of(v.Map)
	d, err2 := s.House.Documents.Open(v.Map)
	i := slices.IndexFunc(rounds, func(r store.Round) bool { return r.ID == round })
	if err != nil || err2 != nil || i < 0 {
		return ""
	}
	revision := 0
	d.View(func(_ *model.Map, now int) { revision = now })
	return rounds[i].Case(revision).Outcome()
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
	d, err := v.Document()
	if err != nil {
		return err
	}
	for _, one := range r.Missing() {
		p, err := s.House.People.Get(one.Who)
		if err != nil || c.FormValue("who") != one.Who {
			continue
		}
		if time.Since(one.Reminded) < time.Hour {
			return s.orRemarks(c, site.FormError(p.Name+" was reminded less than an hour ago"))
		}
		s.Post.Send(mail.Remind, p.Email, v.Map, map[string]any{"Name": p.Name, "By": v.Who.Name, "Title": s.TitleOf(d),
			"Until": until(r.Until), "Link": s.Address + v.Base + "#page=remarks"})
		if err := s.House.Rounds.Reminded(r.ID, one.Who); err != nil {
			return err
		}
	}
	return s.orRemarks(c, nil)
}

// EndRound ends a round; its outcome is what was said.
func (s *Reviews) EndRound(c fiber.Ctx) error {
	v, r, err := s.roundNamed(c)
	if err != nil {
		return s.orRemarks(c, orGone(err))
	}
	if err = s.House.Rounds.End(r.ID); err == nil {
		s.remarked(v)
		if d, fault := v.Document(); fault == nil {
			r.Case.Ended = true
			s.Note(c, "ended a round of review: "+r.Outcome(), s.TitleOf(d))
		}
	}
	return s.orRemarks(c, err)
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
	heading.Version = phrase.Clip(fmt.Sprintf("%d, %s", r.Version.Number, r.Outcome()), model.MaxName)
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

// roundToFile is a round of a request, with the map that was reviewed.
func (s *Reviews) roundToFile(c fiber.Ctx) (*roundView, *model.Map, error) {
	_, r, err := s.roundNamed(c)
	if errors.Is(err, store.ErrNotFound) {
		return nil, nil, fiber.ErrNotFound
	}
	if err != nil {
		return nil, nil, err
	}
	_, m, err := s.House.Versions.Get(r.Version.ID)
	return r, m, err
}

// ShowRound is the page of a round, to file.
func (s *Reviews) ShowRound(c fiber.Ctx) error {
	v := site.At(c)
	r, m, err := s.roundToFile(c)
	if err != nil {
		return err
	}
	talk, err := s.talk(r, m)
	if err != nil {
		return err
	}
	return s.Page(c, "round.html", &roundPage{Frame: site.Frame{Title: m.Title + ", round " + fmt.Sprint(r.Number)},
		Map: m.Title, Base: v.Base, Round: r, Sheets: m.Sheets, Result: r.said(), Talk: talk, House: v.Who != nil})
}

// said is the outcome of a round, or how it stands while it runs.
func (r *roundView) said() string {
	if r.Over() {
		return r.Outcome()
	}
	return "under way: " + r.Outcome()
}

// talk are the remarks of a round with their answers, and what became of each, for its page and its file.
func (s *Reviews) talk(r *roundView, m *model.Map) (list []record.Thread, err error) {
	all, err := s.House.Remarks.Of(r.Map)
	if err != nil {
		return nil, err
	}
	said := func(one store.Remark) record.Saying {
		words := one.Text
		if one.Deleted {
			words = "(deleted)"
		}
		if one.Proposal != "" {
			words = strings.TrimSpace(words + "\nProposed text: " + one.Proposal)
		}
		if one.HasPicture {
			words = strings.TrimSpace(words + "\n(with a picture)")
		}
		by := one.Name
		if one.ByLink() {
			by += " (by link)"
		}
		return record.Saying{By: by, At: one.At.Format(filedTime), Text: words}
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
			t.Settled = "settled by " + one.Settler + ", " + one.Settled.Format(filedTime)
			if one.Answered != "" {
				t.Settled = "proposal " + one.Answered + " by " + one.Settler + ", " + one.Settled.Format(filedTime)
			}
		}
		list = append(list, t)
	}
	return list, nil
}

// filedTime is how times are written into what is filed.
const filedTime = "2 January 2006, 15:04"

// RoundFile is the page of a round as a file.
func (s *Reviews) RoundFile(c fiber.Ctx) error {
	r, m, err := s.roundToFile(c)
	if err != nil {
		return err
	}
	talk, err := s.talk(r, m)
	if err != nil {
		return err
	}
	subtitle := fmt.Sprintf("Round %d of review, of version %d", r.Number, r.Version.Number)
	page := &record.Record{Map: m, Threads: talk, Title: m.Title, Subtitle: subtitle, Facts: [][2]string{
		{"Outcome", r.said()}, {"In words", r.Case.Names()},
		{"Version", fmt.Sprintf("%s, kept on %s", r.Version.Title(), r.Version.Created.Format(filedTime))},
		{"SHA-256", r.Version.Hash},
		{"Asked by", r.AskedBy + ", " + r.At.Format(filedTime)}, {"Ended", until(r.Ended.Add(time.Second))},
		{"Rule", r.Needs.Says()}, {"Open remarks", fmt.Sprint(r.Open)}, {"Asked for", r.Word}},
		Head: []string{"Who", "What they said", "When", "Why"}}
	for _, one := range r.Verdicts {
		when, verdict := "", one.Verdict
		if !one.At.IsZero() {
			when = one.At.Format(filedTime)
		}
		if verdict == "" {
			verdict = "nothing yet"
		}
		name := one.Name
		if strings.HasPrefix(one.Who, "name:") {
			name += " (by link)"
		}
		page.Rows = append(page.Rows, []string{name, verdict, when, one.Reason})
	}
	format := c.Params("format")
	if format != "pdf" && format != "html" {
		return fiber.NewError(fiber.StatusNotFound, "")
	}
	out, err := site.Made(s.Site, c, func(ctx context.Context) ([]byte, error) { return page.Write(ctx, format) })
	if err != nil {
		return err
	}
	site.Attach(c, fmt.Sprintf("%s, round %d.%s", m.Title, r.Number, format))
	return site.SendFile(c, map[string]string{"pdf": "application/pdf", "html": "text/html"}[format], out, nil)
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
	seen sync.Map
	// asked are the tokens of links that were made for those who are asked by name, by the ids of the links, while it
	// runs.
	asked sync.Map
}

// New returns them; what is copied from a version goes onto a shelf.
func New(s *site.Site, shelf *shelf.Shelf) *Reviews { return &Reviews{Site: s, shelf: shelf} }

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

// roundPage is what round.html shows.
type roundPage struct {
	site.Frame
	Map    string
	Base   string
	Round  *roundView
	Sheets []*model.Sheet
	Result string
	Talk   []record.Thread
	House  bool
}
