// Package rounds runs reviews of maps: it tells people when it is their turn, reminds them, says what was changed since
// the version that was asked about, and which version of a map is agreed.
package rounds

import (
	"cmp"
	"context"
	"fmt"
	"log"
	"slices"
	"strings"
	"sync"
	"time"

	"plaintracer/app/house"
	"plaintracer/app/phrase"
	"plaintracer/app/post"
	"plaintracer/core/model"
	"plaintracer/exchange/changes"
	"plaintracer/mail"
	"plaintracer/store"
)

// Rounds are the reviews of a house.
type Rounds struct {
	house *house.House
	post  *post.Post
	// address is where people in the organisation find the application, links where links begin.
	address, links string
	// tokens are those of links that were made for people who are asked by name, by the ids of the links. Nothing of
	// them is written down; after a restart a new link is made.
	tokens sync.Map
	// pictures are those that go with the messages about rounds, until these end.
	pictures sync.Map
	// compared are the changes between versions that were asked for.
	comparing sync.Mutex
	compared  map[string][]changes.Line
}

// New returns them.
func New(h *house.House, p *post.Post, address, links string) *Rounds {
	return &Rounds{house: h, post: p, address: address, links: links}
}

// Begin asks for a review, and tells those whose turn it is. May says what each of those who could not remark on the
// map before may do from now on; picture is one of the map, as PNG, or none.
func (s *Rounds) Begin(r store.Round, may map[string]string, picture []byte) error {
	id, tokens, err := s.house.Rounds.Begin(r)
	if err != nil {
		return err
	}
	for link, token := range tokens {
		s.tokens.Store(link, token)
	}
	s.pictures.Store(id, telling{may, picture})
	return s.tell(r.Map, id)
}

// telling is what goes with the messages about a round.
type telling struct {
	may     map[string]string
	picture []byte
}

// Token is what opens a link that was made for somebody, where the program still knows it; empty where not.
func (s *Rounds) Token(link string) string {
	if t, ok := s.tokens.Load(link); ok {
		return t.(string)
	}
	return ""
}

// NewLink makes a new link for somebody who was asked by name, in place of the one they had, and sends it where an
// address is known.
func (s *Rounds) NewLink(r *store.Round, who string) error {
	link, token, err := s.house.Rounds.AskAgain(r, who)
	if err != nil {
		return err
	}
	i := slices.IndexFunc(r.Verdicts, func(v store.Verdict) bool { return v.Who == who })
	if i >= 0 {
		s.tokens.Delete(r.Verdicts[i].Link)
	}
	s.tokens.Store(link, token)
	if i < 0 || r.Verdicts[i].Told.IsZero() {
		return nil
	}
	v := r.Verdicts[i]
	v.Link = link
	return s.send(mail.Review, r, v)
}

// tell tells those whose turn it is.
func (s *Rounds) tell(of, round string) error {
	list, err := s.house.Rounds.Tell(round)
	if err != nil || len(list) == 0 {
		return err
	}
	r, err := s.Named(of, round)
	if err != nil {
		return err
	}
	for _, v := range list {
		if err := s.send(mail.Review, r, v); err != nil {
			return err
		}
	}
	return nil
}

// Named is a round on a map, by its id.
func (s *Rounds) Named(of, round string) (*store.Round, error) {
	rounds, err := s.house.Rounds.Of(of)
	if err != nil {
		return nil, err
	}
	for i := range rounds {
		if rounds[i].ID == round {
			return &rounds[i], nil
		}
	}
	return nil, store.ErrNotFound
}

// send writes to one of those who were asked, where they have an address.
func (s *Rounds) send(kind string, r *store.Round, v store.Verdict) error {
	names, title := "", ""
	asker, err := s.house.People.Get(r.Asker)
	if err == nil {
		names = asker.Name
	}
	d, err := s.house.Documents.Open(r.Map)
	if err != nil {
		return err
	}
	d.View(func(m *model.Map, _ int) { title = "“" + m.Title + "”" })
	with := map[string]any{"Name": v.Name, "By": cmp.Or(names, "Somebody"), "Title": title, "Word": r.Word,
		"Until": phrase.Until(r.Until)}
	to := v.Email
	if v.ByLink() {
		if token := s.Token(v.Link); token != "" {
			with["Link"] = s.links + "/m/" + token
		}
	} else {
		p, err := s.house.People.Get(v.Who)
		if err != nil || !p.Off.IsZero() {
			return nil
		}
		to, with["Link"] = p.Email, s.address+"/maps/"+r.Map+"#page=review"
	}
	if to == "" {
		return nil
	}
	var picture []byte
	if kept, ok := s.pictures.Load(r.ID); ok {
		picture, with["May"] = kept.(telling).picture, kept.(telling).may[v.Who]
	}
	if kind == mail.Review {
		if with["Changed"], err = s.changed(r, v.Who); err != nil {
			return err
		}
	}
	s.post.SendPicture(kind, to, r.Map, picture, with)
	return nil
}

// changed says what is different in the version of a round from the one that somebody saw before; nothing where they
// saw none.
func (s *Rounds) changed(r *store.Round, who string) (string, error) {
	before, err := s.Before(r, who)
	if err != nil || before == "" {
		return "", err
	}
	lines, err := s.Between(before, r.Version.ID)
	if err != nil {
		return "", err
	}
	const most = 8
	var told []string
	for i, l := range lines {
		if i == most {
			told = append(told, fmt.Sprintf("and %d more", len(lines)-most))
			break
		}
		told = append(told, l.Sentence)
	}
	return strings.Join(told, "\n"), nil
}

// mostKept is how many comparisons of versions are kept at hand.
const mostKept = 64

// Between are the changes of the work from one version to another. Versions do not change, so that it is found out
// once.
func (s *Rounds) Between(before, after string) ([]changes.Line, error) {
	key := before + " " + after
	s.comparing.Lock()
	lines, ok := s.compared[key]
	s.comparing.Unlock()
	if ok {
		return lines, nil
	}
	lines, err := s.compare(before, after)
	if err != nil {
		return nil, err
	}
	s.comparing.Lock()
	defer s.comparing.Unlock()
	if s.compared == nil || len(s.compared) >= mostKept {
		s.compared = map[string][]changes.Line{}
	}
	s.compared[key] = lines
	return lines, nil
}

func (s *Rounds) compare(before, after string) ([]changes.Line, error) {
	_, was, err := s.house.Versions.Get(before)
	if err != nil {
		return nil, err
	}
	_, is, err := s.house.Versions.Get(after)
	if err != nil {
		return nil, err
	}
	return ofTheWork(was, is), nil
}

// ofTheWork are the changes from one state of a map to another, without that its numbers are held, which a round does
// itself.
func ofTheWork(was, is *model.Map) []changes.Line {
	return slices.DeleteFunc(changes.Between(was, is, "", "").Lines,
		func(l changes.Line) bool { return l.Attribute == "held" })
}

// Before is the id of the version of the latest round before another in which somebody was asked, or asked others;
// empty for none.
func (s *Rounds) Before(r *store.Round, who string) (string, error) {
	rounds, err := s.house.Rounds.Of(r.Map)
	if err != nil {
		return "", err
	}
	return BeforeIn(rounds, r.Number, who), nil
}

// BeforeIn is Before, of rounds of which the latest comes first.
func BeforeIn(rounds []store.Round, number int, who string) string {
	for i := range rounds {
		one := &rounds[i]
		if one.Number < number && (one.Asker == who ||
			slices.ContainsFunc(one.Asked(), func(v store.Verdict) bool { return v.Who == who })) {
			return cmp.Or(one.TakenIn, one.Version.ID)
		}
	}
	return ""
}

// Say notes what somebody says, and tells those whose turn it is then.
func (s *Rounds) Say(r *store.Round, v store.Verdict) error {
	if err := s.house.Rounds.Say(r.ID, v); err != nil {
		return err
	}
	return s.tell(r.Map, r.ID)
}

// Remind writes to somebody who has not answered.
func (s *Rounds) Remind(r *store.Round, v store.Verdict, by string) error {
	if err := s.send(mail.Remind, r, v); err != nil {
		return err
	}
	return s.house.Rounds.Reminded(r.ID, v.Who, by)
}

// RemindAll reminds all those whose time it is.
func (s *Rounds) RemindAll(ctx context.Context) {
	if s.house.ReadOnly() != "" {
		return
	}
	rounds, err := s.house.Rounds.ToRemind(time.Now())
	for i := range rounds {
		for _, v := range rounds[i].Verdicts {
			if err == nil && ctx.Err() == nil {
				err = s.Remind(&rounds[i], v, "the server")
			}
		}
	}
	if err != nil {
		log.Printf("reminding of reviews: %v", err)
	}
}

// Since is what was changed from the version that a round asks about to the map as it is now.
type Since struct {
	Lines []changes.Line
	// Small says that all of it are rewordings that were proposed in the round and taken.
	Small bool
}

// Words are the changes, each in a few words.
func (s *Since) Words() (list []string) {
	for i := range s.Lines {
		list = append(list, s.Lines[i].Short())
	}
	return list
}

// Since returns what was changed since a round asked for its version.
func (s *Rounds) Since(r *store.Round, now *model.Map) (*Since, error) {
	_, asked, err := s.house.Versions.Get(r.Version.ID)
	if err != nil {
		return nil, err
	}
	out := &Since{Lines: ofTheWork(asked, now)}
	remarks, err := s.house.Remarks.Of(r.Map)
	if err != nil {
		return nil, err
	}
	out.Small = len(out.Lines) > 0
	for _, l := range out.Lines {
		out.Small = out.Small && l.Attribute == "text" && slices.ContainsFunc(remarks, func(one store.Remark) bool {
			return one.Round == r.ID && one.Answered == store.Taken && one.Anchor.Item == l.Thing.ID &&
				model.Flat(one.Proposal) == l.New
		})
	}
	return out, nil
}

// Agreement is a version that was agreed.
type Agreement struct {
	Round   int
	Version store.Version
	At      time.Time
}

// Agreed are the versions of a map that were agreed, the latest first.
func (s *Rounds) Agreed(of string) (list []Agreement, err error) {
	rounds, err := s.house.Rounds.Of(of)
	if err != nil {
		return nil, err
	}
	for i := range rounds {
		r := &rounds[i]
		if !r.Case(r.Version.Revision).IsAgreed() {
			continue
		}
		a := Agreement{r.Number, r.Version, r.Ended}
		if r.TakenIn != "" {
			if a.Version, _, err = s.house.Versions.Get(r.TakenIn); err != nil {
				return nil, err
			}
		}
		list = append(list, a)
	}
	return list, nil
}

// Standing says of a version of a map, or of the map as it is now where there is none, what whoever reads it has to
// know: that it was withdrawn, is past its time, or was replaced. It is empty where there is nothing to say.
func (s *Rounds) Standing(of, version string) (string, error) {
	life, err := s.house.Lives.Get(of)
	if err != nil {
		return "", err
	}
	switch {
	case !life.Withdrawn.IsZero():
		said := "Withdrawn on " + life.Withdrawn.Format("2 January 2006")
		if life.Why != "" {
			said += ": " + life.Why
		}
		return said, nil
	case version != "":
		kept, _, err := s.house.Versions.Get(version)
		if err != nil {
			return "", err
		}
		agreed, err := s.Agreed(of)
		if err != nil {
			return "", err
		}
		if len(agreed) > 0 && agreed[0].Version.Revision > kept.Revision {
			return fmt.Sprintf("Replaced: a newer version, %d, was agreed on %s", agreed[0].Version.Number,
				agreed[0].At.Format("2 January 2006")), nil
		}
	}
	if !life.Until.IsZero() && life.Until.Before(time.Now()) {
		agreed, err := s.Agreed(of)
		if err != nil || len(agreed) == 0 {
			return "", err
		}
		return "No longer in force: it was agreed until " + phrase.Until(life.Until), nil
	}
	return "", nil
}

// Told is what a document says of a map beside what is in it: where its review stands, who owns the process, and what
// changed since the version that was agreed last, whose name comes first. Names are those of people, by their ids.
type Told struct {
	Review, Owner string
	Changed       []string
}

// Told returns it of a map as it is at a revision.
func (s *Rounds) Told(of string, m *model.Map, revision int, names map[string]string) (out Told, err error) {
	life, err := s.house.Lives.Get(of)
	if err != nil {
		return out, err
	}
	out.Owner = life.OwnerName(names)
	rounds, err := s.house.Rounds.Of(of)
	if err != nil || len(rounds) == 0 {
		return out, err
	}
	out.Review = phrase.Sentence(State(&rounds[0], revision, life))
	agreed, err := s.Agreed(of)
	if err != nil || len(agreed) == 0 {
		return out, err
	}
	_, was, err := s.house.Versions.Get(agreed[0].Version.ID)
	if err != nil {
		return out, err
	}
	out.Changed = []string{fmt.Sprintf("version %d, which was agreed on %s", agreed[0].Version.Number,
		agreed[0].At.Format("2 January 2006"))}
	for _, l := range ofTheWork(was, m) {
		out.Changed = append(out.Changed, l.Sentence)
	}
	return out, nil
}

// State says in words where the review of a map stands, by its latest round and its life; nil for no round.
func State(r *store.Round, revision int, l store.Life) string {
	said := phrase.StateOf(r, revision)
	now := time.Now()
	switch {
	case !l.Withdrawn.IsZero():
		return "withdrawn on " + l.Withdrawn.Format("2 January 2006")
	case r == nil || r.Ended.IsZero():
		return said
	case !l.Until.IsZero() && l.Until.Before(now):
		return said + "; no longer in force since " + l.Until.Format("2 January 2006")
	case !l.Until.IsZero():
		return said + "; in force until " + phrase.Until(l.Until)
	}
	return said
}

// Wait is something that waits for a person: a review, what others said, a map that is due.
type Wait struct {
	Map, Title, Words string
	// At is where on the page of the map it is found.
	At string
}

// Waiting is what waits for a person, reviews first.
func (s *Rounds) Waiting(person, name string) (list []Wait, err error) {
	asked, err := s.house.Rounds.Waiting(person)
	if err != nil {
		return nil, err
	}
	people, err := s.house.People.List()
	if err != nil {
		return nil, err
	}
	names := map[string]string{}
	for i := range people {
		names[people[i].ID] = people[i].Name
	}
	for _, r := range asked {
		words := phrase.ByName(names, r.Asker) + " asks for a review"
		if !r.Until.IsZero() {
			words += " until " + phrase.Until(r.Until)
		}
		if r.Word != "" {
			words += ": “" + r.Word + "”"
		}
		list = append(list, Wait{Map: r.Map, Words: words, At: "#page=review"})
	}
	said, err := s.house.Remarks.ToAnswer(person, name)
	if err != nil {
		return nil, err
	}
	for _, t := range said {
		var parts []string
		for _, p := range []struct {
			n         int
			one, many string
		}{{t.Remarks, "1 remark to answer", "%d remarks to answer"}, {t.Proposals, "1 proposal to decide",
			"%d proposals to decide"},
			{t.Spoken, "you are spoken to once", "you are spoken to in %d threads"}} {
			switch {
			case p.n == 1:
				parts = append(parts, p.one)
			case p.n > 1:
				parts = append(parts, fmt.Sprintf(p.many, p.n))
			}
		}
		list = append(list, Wait{Map: t.Map, Words: strings.Join(parts, ", "), At: "#remark=" + t.Latest})
	}
	due, err := s.due(person)
	return append(list, due...), err
}

// dueAhead is how long before a map is due for review its owner is told.
const dueAhead = 30 * 24 * time.Hour

// due are the maps that are due for review, or soon will be, whose process a person owns; the owner of the map is told
// where nobody in the organisation owns the process.
func (s *Rounds) due(person string) (list []Wait, err error) {
	lives, err := s.house.Lives.All()
	if err != nil {
		return nil, err
	}
	for id, l := range lives {
		if !l.Withdrawn.IsZero() || l.Owner != person && l.Owner != "" && !strings.HasPrefix(l.Owner, "name:") {
			continue
		}
		if l.Owner != person {
			where, binned, err := s.house.Maps.Where(id)
			if err != nil || binned || where.Owner != person {
				continue
			}
		}
		soon := time.Now().Add(dueAhead)
		switch {
		case !l.Until.IsZero() && l.Until.Before(time.Now()):
			list = append(list, Wait{Map: id, Words: "no longer in force since " + l.Until.Format("2 January 2006"),
				At: "#page=remarks"})
		case !l.Due.IsZero() && l.Due.Before(soon):
			list = append(list, Wait{Map: id, Words: "due for review on " + phrase.Until(l.Due), At: "#page=remarks"})
		case !l.Until.IsZero() && l.Until.Before(soon):
			list = append(list, Wait{Map: id, Words: "in force until " + phrase.Until(l.Until), At: "#page=remarks"})
		}
	}
	slices.SortFunc(list, func(a, b Wait) int {
		return cmp.Or(cmp.Compare(a.Words, b.Words), cmp.Compare(a.Map,
			b.Map))
	})
	return list, nil
}
