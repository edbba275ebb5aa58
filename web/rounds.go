package web

import (
	"context"
	"errors"
	"fmt"
	"log"
	"slices"
	"strings"
	"time"

	"github.com/gofiber/fiber/v3"

	"plaintracer/account"
	"plaintracer/core/diagram"
	"plaintracer/exchange/record"
	"plaintracer/mail"
	"plaintracer/store"
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
	// Open counts the open threads of the round.
	Open int
}

// Over reports whether the round has ended.
func (r *roundView) Over() bool { return !r.Ended.IsZero() }

// roundView is the latest round on the map of a visit; nil for none.
func (s *Server) roundView(v *visit) (*roundView, error) {
	rounds, err := v.rounds()
	if err != nil || len(rounds) == 0 {
		return nil, err
	}
	return s.viewRound(v, rounds, 0)
}

// rounds are those on the map of a visit, the latest first. By a link that shows a state that stays as it is, those about it
// alone.
func (v *visit) rounds() ([]store.Round, error) {
	rounds, err := v.s.store.Rounds(v.id)
	if fixed := v.chosen.Version; fixed != "" {
		rounds = slices.DeleteFunc(rounds, func(r store.Round) bool { return r.Version.ID != fixed })
	}
	return rounds, err
}

// openTo are those who were asked by name and in whose place the visitor by a link may answer: nobody has yet, or they did.
func (r *roundView) openTo(v *visit) (list []store.Verdict) {
	for _, one := range r.Verdicts {
		if one.ByLink() && (one.Visitor == "" || one.Visitor == v.visitor) {
			list = append(list, one)
		}
	}
	return list
}

func (s *Server) viewRound(v *visit, rounds []store.Round, i int) (*roundView, error) {
	names, err := s.names()
	if err != nil {
		return nil, err
	}
	r := &roundView{Round: rounds[i], AskedBy: byName(names, rounds[i].Asker)}
	if i+1 < len(rounds) {
		r.Since = rounds[i+1].Version.ID
	}
	for k := range r.Verdicts {
		one := &r.Verdicts[k]
		if name := names[one.Who]; name != "" {
			one.Name = name
		}
		if v.who != nil && one.Who == v.who.ID {
			r.Mine, r.Asked = *one, true
		}
	}
	shown, err := v.shown()
	if err != nil {
		return nil, err
	}
	shown.View(func(_ *diagram.Map, revision int) { r.AsReviewed = r.Stands(revision) })
	threads, err := s.store.Outlines(v.id)
	if err != nil {
		return nil, err
	}
	for _, t := range threads {
		if t.Round == r.ID && t.Settled.IsZero() {
			r.Open++
		}
	}
	return r, nil
}

// roundNamed is a round on the map of a visit, by its id.
func (s *Server) roundNamed(c fiber.Ctx) (*visit, *roundView, error) {
	v := at(c)
	rounds, err := v.rounds()
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

// beginRound asks people for a review of the map as it is now.
func (s *Server) beginRound(c fiber.Ctx) error {
	return s.orRemarks(c, s.askForReview(c))
}

func (s *Server) askForReview(c fiber.Ctx) error {
	v := at(c)
	word, err := saidText(c.FormValue("word"))
	if err != nil {
		return err
	}
	people, err := s.readers(v)
	if err != nil {
		return err
	}
	r := store.Round{Map: v.id, Asker: v.who.ID, Word: word}
	asked := map[string]bool{}
	for _, raw := range c.Request().PostArgs().PeekMulti("person") {
		asked[string(raw)] = true
	}
	var to []account.Person
	for _, p := range people {
		if asked[p.ID] && p.ID != v.who.ID {
			to = append(to, p)
			r.Verdicts = append(r.Verdicts, store.Verdict{Who: p.ID, Name: p.Name})
		}
	}
	for _, name := range strings.FieldsFunc(c.FormValue("names"), func(r rune) bool { return r == ',' || r == ';' || r == '\n' }) {
		name, err := account.Name(name)
		if err != nil {
			return &unfit{err.Error()}
		}
		for _, one := range r.Verdicts {
			if account.Alike(one.Name, name) {
				return &unfit{"two of those who are asked are called " + name + ", or nearly; say which is which"}
			}
		}
		r.Verdicts = append(r.Verdicts, store.Verdict{Who: "name:" + account.Folded(name), Name: name})
	}
	const most = 100
	if len(r.Verdicts) == 0 || len(r.Verdicts) > most {
		return &unfit{fmt.Sprintf("choose who is asked, up to %d", most)}
	}
	if c.FormValue("until") != "" {
		if r.Until, err = inDays(c.FormValue("until"), 0); err != nil {
			return &unfit{err.Error()}
		}
	}
	if running, err := s.store.RunningRound(v.id); err != nil {
		return err
	} else if running != "" {
		return &unfit{"a round is under way already; end it first"}
	}
	if err := s.holdNumbers(v); err != nil {
		return err
	}
	if r.Version, err = s.keepAs(c, store.Keep{Word: word, Reason: store.ForRound}); err != nil {
		return err
	}
	if _, err = s.store.BeginRound(r); errors.Is(err, store.ErrRunning) {
		return &unfit{"a round is under way already; end it first"}
	} else if err != nil {
		return err
	}
	d, err := v.document()
	if err != nil {
		return err
	}
	s.note(c, fmt.Sprintf("asked %s for a review", count(len(r.Verdicts), "person")), s.titleOf(d))
	for _, p := range to {
		s.sendMail(mail.Review, p.Email, v.id, map[string]any{"Name": p.Name, "By": v.who.Name, "Title": s.titleOf(d), "Word": word, "Until": until(r.Until), "Link": s.Address + v.base + "#page=remarks"})
	}
	s.remarked(v)
	return nil
}

// holdNumbers holds the numbers of the map of a visit, since reviewers cite them; they stay so until somebody releases them.
func (s *Server) holdNumbers(v *visit) error {
	d, err := v.document()
	if err != nil {
		return err
	}
	if m, _ := d.Snapshot(); m.Held.On() || !m.Numbers {
		return nil
	}
	window, _ := d.NewWindow()
	_, err = d.ApplyAs(v.author(), window, 1, &diagram.HoldNumbers{Since: time.Now().UTC().Format(heldLayout), By: v.who.Name})
	var refusal *diagram.Refusal
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

// sayInRound takes what a reviewer says of the version that a round is about.
func (s *Server) sayInRound(c fiber.Ctx) error {
	v, r, err := s.roundNamed(c)
	if err != nil {
		return s.orRemarks(c, orGone(err))
	}
	verdict := c.FormValue("verdict")
	reason, err := saidText(c.FormValue("reason"))
	switch {
	case err != nil:
	case verdict != store.Agreed && verdict != store.WithRemarks && verdict != store.NotAgreed:
		err = &unfit{"choose what you say: agreed, agreed with remarks, or not agreed"}
	case verdict == store.NotAgreed && reason == "":
		err = &unfit{"say why you do not agree, so that it can be changed"}
	}
	if err != nil {
		return s.orRemarks(c, err)
	}
	one := store.Verdict{Visitor: v.visitor, Verdict: verdict, Reason: reason}
	if v.who != nil {
		one.Who, one.Name = v.who.ID, v.who.Name
	} else {
		list := r.openTo(v)
		k := slices.IndexFunc(list, func(asked store.Verdict) bool { return asked.Who == c.FormValue("as") })
		if k < 0 {
			return s.orRemarks(c, &unfit{"choose who you are among those who were asked and have not answered"})
		}
		one.Who, one.Name = list[k].Who, list[k].Name
	}
	if err = s.store.Say(r.ID, one); err == nil {
		v.answersAs(c, one.Name)
		s.remarked(v)
		if asker, fault := s.store.Person(r.Asker); fault == nil && asker.ID != one.Who {
			d, err := s.store.Document(v.id)
			if err != nil {
				return err
			}
			s.sendMail(mail.Said, asker.Email, v.id, map[string]any{"Name": asker.Name, "By": one.Name, "Title": s.titleOf(d), "Verdict": verdict, "Reason": reason, "Link": s.Address + "/maps/" + v.id + "#page=remarks"})
		}
	}
	return s.orRemarks(c, err)
}

func orGone(err error) error {
	if errors.Is(err, store.ErrNotFound) {
		return &unfit{"this round is not there any more"}
	}
	return err
}

// remindRound reminds somebody who has not said anything yet.
func (s *Server) remindRound(c fiber.Ctx) error {
	v, r, err := s.roundNamed(c)
	if err != nil {
		return s.orRemarks(c, orGone(err))
	}
	if r.Over() {
		return s.orRemarks(c, store.ErrOver)
	}
	d, err := v.document()
	if err != nil {
		return err
	}
	for _, one := range r.Missing() {
		p, err := s.store.Person(one.Who)
		if err != nil || c.FormValue("who") != one.Who {
			continue
		}
		if time.Since(one.Reminded) < time.Hour {
			return s.orRemarks(c, &unfit{p.Name + " was reminded less than an hour ago"})
		}
		s.sendMail(mail.Remind, p.Email, v.id, map[string]any{"Name": p.Name, "By": v.who.Name, "Title": s.titleOf(d), "Until": until(r.Until), "Link": s.Address + v.base + "#page=remarks"})
		if err := s.store.Reminded(r.ID, one.Who); err != nil {
			return err
		}
	}
	return s.orRemarks(c, nil)
}

// endRound ends a round; its outcome is what was said.
func (s *Server) endRound(c fiber.Ctx) error {
	v, r, err := s.roundNamed(c)
	if err != nil {
		return s.orRemarks(c, orGone(err))
	}
	if err = s.store.EndRound(r.ID, r.result()); err == nil {
		s.remarked(v)
		if d, fault := v.document(); fault == nil {
			s.note(c, "ended a round of review: "+r.result(), s.titleOf(d))
		}
	}
	return s.orRemarks(c, err)
}

// headRound writes the outcome of a round that has ended into the heading of its map: the version and the date.
func (s *Server) headRound(c fiber.Ctx) error {
	v, r, err := s.roundNamed(c)
	if err != nil {
		return s.orRemarks(c, orGone(err))
	}
	if !r.Over() {
		return s.orRemarks(c, &unfit{"the round is still under way; end it first"})
	}
	d, err := v.document()
	if err != nil {
		return err
	}
	m, revision := d.Snapshot()
	heading := m.Heading
	heading.Version = fmt.Sprintf("%d, %s", r.Version.Number, r.Outcome)
	heading.Date = r.Ended.Format("2 January 2006")
	if heading == m.Heading {
		return s.orRemarks(c, nil)
	}
	window, _ := d.NewWindow()
	headed, err := d.ApplyAs(v.author(), window, 1, &diagram.SetHead{Heading: &heading})
	var refusal *diagram.Refusal
	if errors.As(err, &refusal) {
		err = &unfit{refusal.Text}
	}
	// Only the heading of what was reviewed has changed, unless somebody was faster.
	if err == nil && r.Stands(revision) && headed == revision+1 {
		err = s.store.Head(r.ID, headed)
	}
	return s.orRemarks(c, err)
}

// result is the outcome of a round by what was said in it: agreed when somebody agreed and nobody did not.
func (r *roundView) result() string {
	said, no := 0, 0
	for _, v := range r.Verdicts {
		switch v.Verdict {
		case store.Agreed, store.WithRemarks:
			said++
		case store.NotAgreed:
			no++
		}
	}
	switch {
	case no > 0:
		return store.NotAgreed
	case said == 0:
		return "nobody said anything"
	case r.Open > 0:
		return store.WithRemarks
	}
	return store.Agreed
}

// stateOf says in words where the review of a map stands, by its latest round; nil for none.
func stateOf(r *store.Round, revision int) string {
	switch {
	case r == nil:
		return "draft"
	case r.Ended.IsZero():
		return "in review"
	case r.Outcome != store.Agreed && r.Outcome != store.WithRemarks:
		return r.Outcome
	case !r.Stands(revision):
		return fmt.Sprintf("changed since version %d was agreed", r.Version.Number)
	default:
		return fmt.Sprintf("agreed, version %d, %s", r.Version.Number, r.Ended.Format("2 January 2006"))
	}
}

// roundToFile is a round of a request, with the map that was reviewed.
func (s *Server) roundToFile(c fiber.Ctx) (*roundView, *diagram.Map, error) {
	_, r, err := s.roundNamed(c)
	if errors.Is(err, store.ErrNotFound) {
		return nil, nil, fiber.ErrNotFound
	}
	if err != nil {
		return nil, nil, err
	}
	_, m, err := s.store.Version(r.Version.ID)
	return r, m, err
}

// showRound is the page of a round, to file.
func (s *Server) showRound(c fiber.Ctx) error {
	v := at(c)
	r, m, err := s.roundToFile(c)
	if err != nil {
		return err
	}
	return s.page(c, "round.html", map[string]any{"Title": m.Title + ", round " + fmt.Sprint(r.Number), "Map": m.Title, "Base": v.base, "Round": r, "Sheets": m.Sheets, "Result": r.said(), "House": v.who != nil})
}

// said is the outcome of a round, or that it runs.
func (r *roundView) said() string {
	if r.Over() {
		return r.Outcome
	}
	return "under way"
}

// roundFile is the page of a round as a file.
func (s *Server) roundFile(c fiber.Ctx) error {
	r, m, err := s.roundToFile(c)
	if err != nil {
		return err
	}
	page := &record.Record{Map: m, Title: m.Title, Subtitle: fmt.Sprintf("Round %d of review, of version %d", r.Number, r.Version.Number), Facts: [][2]string{
		{"Outcome", r.said()}, {"Version", fmt.Sprintf("%s, kept on %s", r.Version.Title(), r.Version.Created.Format("2 January 2006, 15:04"))}, {"SHA-256", r.Version.Hash},
		{"Asked by", r.AskedBy + ", " + r.At.Format("2 January 2006, 15:04")}, {"Ended", until(r.Ended.Add(time.Second))}, {"Open remarks", fmt.Sprint(r.Open)}, {"Asked for", r.Word}},
		Head: []string{"Who", "What they said", "When", "Why"}}
	for _, one := range r.Verdicts {
		when, verdict := "", one.Verdict
		if !one.At.IsZero() {
			when = one.At.Format("2 January 2006, 15:04")
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
	out, err := made(s, c, func(ctx context.Context) ([]byte, error) { return page.Write(ctx, format) })
	if err != nil {
		return err
	}
	attach(c, fmt.Sprintf("%s, round %d.%s", m.Title, r.Number, format))
	return sendFile(c, map[string]string{"pdf": "application/pdf", "html": "text/html"}[format], out, nil)
}

// The choices of a person for messages about remarks.
var mailChoices = []struct{ Name, Title string }{{"", "remarks that concern me, at most once an hour"}, {"spoken", "only where my name is mentioned"}, {"none", "none"}}

// tellOf has people told by mail of a remark: the owner of the map, those who took part in the thread, and those it speaks to.
func (s *Server) tellOf(v *visit, r store.Remark) {
	people, err := s.readers(v)
	if err != nil {
		return
	}
	part := map[string]bool{}
	if where, _, err := s.store.Where(v.id); err == nil {
		part[where.Owner] = true
	}
	if r.Thread != "" {
		if authors, err := s.store.Authors(r.Thread); err == nil {
			for _, author := range authors {
				part[author] = true
			}
		}
	}
	for _, p := range people {
		spoken := strings.Contains(r.Text, "@"+p.Name)
		kept, err := s.store.Arrangement(p.ID)
		if err != nil || p.ID == r.Author || kept["mail"] == "none" || !spoken && (kept["mail"] == "spoken" || !part[p.ID]) {
			continue
		}
		if with, some := s.digest(p); some {
			s.sendMail(mail.Digest, p.Email, "remarks", with)
		}
	}
}

// digest is what a person is told by mail of remarks that they have not seen, on maps on which they may see them, with the way
// to the latest; false where there is nothing to tell.
func (s *Server) digest(p account.Person) (with map[string]any, some bool) {
	unseen, err := s.store.Unseen(p.ID)
	if err != nil {
		log.Printf("counting remarks: %v", err)
		return nil, false
	}
	remarks, maps, latest := 0, 0, store.Unseen{}
	for id, one := range unseen {
		if !s.still(p.ID, id, account.Remark) {
			continue
		}
		remarks, maps = remarks+one.Count, maps+1
		if one.At.After(latest.At) || one.At.Equal(latest.At) && one.Map > latest.Map {
			latest = one
		}
	}
	if remarks == 0 {
		return nil, false
	}
	return map[string]any{"Name": p.Name, "Count": count(remarks, "remark"), "Maps": count(maps, "map"), "Link": s.Address + "/maps/" + latest.Map + "#remark=" + latest.Latest}, true
}
