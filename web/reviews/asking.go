package reviews

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strconv"
	"strings"
	"time"

	"github.com/gofiber/fiber/v3"

	"plaintracer/account"
	"plaintracer/app/phrase"
	"plaintracer/app/rounds"
	"plaintracer/core/geometry"
	"plaintracer/core/scene"
	"plaintracer/exchange/png"
	"plaintracer/review"
	"plaintracer/store"
	"plaintracer/web/site"
)

// BeginRound asks people for a review of the map as it is now.
func (s *Reviews) BeginRound(c fiber.Ctx) error {
	return s.orRemarks(c, s.askForReview(c))
}

// askForReview reads whom to ask, and how, and asks.
func (s *Reviews) askForReview(c fiber.Ctx) error {
	v := site.At(c)
	word, err := saidText(c.FormValue("word"))
	if err != nil {
		return err
	}
	habits, err := s.House.Rounds.Habits()
	if err != nil {
		return err
	}
	r := store.Round{Map: v.Map, Asker: v.Who.ID, Word: word, Needs: review.Rule(c.FormValue("needs")),
		Final: c.FormValue("final") != "", Signed: habits.Sign}
	if !r.Needs.Known() {
		return site.FormError("choose how many have to agree")
	}
	if r.Remind, err = days(c.FormValue("remind")); err != nil {
		return err
	}
	if r.Verdicts, err = s.asked(c, v); err != nil {
		return err
	}
	if c.FormValue("until") != "" {
		if r.Until, err = phrase.InDays(c.FormValue("until"), 0); err != nil {
			return site.FormError(err.Error())
		}
	}
	return s.begin(c, v, r)
}

// days reads after how many days to remind; none is never.
func days(text string) (int, error) {
	if text == "" {
		return 0, nil
	}
	n, err := strconv.Atoi(text)
	if err != nil || n < 0 || n > 60 {
		return 0, site.FormError("people are reminded every 1 to 60 days, or never")
	}
	return n, nil
}

// asked are those whom a form asks: people and groups of the organisation, those who are asked after the others, and
// others by name, with or without an address for mail.
func (s *Reviews) asked(c fiber.Ctx, v *site.Visit) (list []store.Verdict, err error) {
	people, err := s.askable(v)
	if err != nil {
		return nil, err
	}
	groups, err := s.groups(v, people)
	if err != nil {
		return nil, err
	}
	turn := map[string]int{}
	for t, name := range []string{"person", "then"} {
		for _, raw := range c.Request().PostArgs().PeekMulti(name) {
			one := string(raw)
			ids := []string{one}
			if k := slices.IndexFunc(groups, func(g askedGroup) bool { return g.ID == one }); k >= 0 {
				ids = groups[k].People
			}
			for _, id := range ids {
				if _, known := turn[id]; !known {
					turn[id] = t
				}
			}
		}
	}
	for _, p := range people {
		if t, ok := turn[p.ID]; ok && p.ID != v.Who.ID {
			list = append(list, store.Verdict{Who: p.ID, Name: p.Name, Turn: t})
		}
	}
	for t, field := range []string{"names", "then-names"} {
		for _, text := range strings.FieldsFunc(c.FormValue(field), func(r rune) bool {
			return r == ',' || r == ';' ||
				r == '\n'
		}) {
			one, err := byName(text)
			if err != nil {
				return nil, err
			}
			for _, other := range list {
				if account.Alike(other.Name, one.Name) {
					return nil, site.FormError("two of those who are asked are called " + one.Name +
						", or nearly; say which is which")
				}
			}
			one.Turn = t
			list = append(list, one)
		}
	}
	const most = 100
	if len(list) == 0 || len(list) > most {
		return nil, site.FormError(fmt.Sprintf("choose who is asked, up to %d", most))
	}
	return list, nil
}

// byName reads somebody who is asked by a link: "Ann", or "Ann <ann@roads.example>".
func byName(text string) (one store.Verdict, err error) {
	name, address, hasAddress := strings.Cut(strings.TrimSpace(text), "<")
	if hasAddress {
		if one.Email, _, err = account.Address(strings.TrimSuffix(strings.TrimSpace(address), ">")); err != nil {
			return one, site.FormError(err.Error())
		}
		if strings.TrimSpace(name) == "" {
			name, _, _ = strings.Cut(one.Email, "@")
		}
	}
	if one.Name, err = account.Name(name); err != nil {
		return one, site.FormError(err.Error())
	}
	one.Who = "name:" + account.Folded(one.Name)
	return one, nil
}

// begin keeps the version, asks those of a round, and gives those of the organisation the right to remark who lack it.
func (s *Reviews) begin(c fiber.Ctx, v *site.Visit, r store.Round) error {
	if running, err := s.House.Rounds.Running(v.Map); err != nil {
		return err
	} else if running != "" {
		return site.FormError("a round is under way already; end it first")
	}
	d, err := v.Document()
	if err != nil {
		return err
	}
	if err := rounds.HoldNumbers(d, v.Author(), v.Who.Name, time.Now()); err != nil {
		return err
	}
	if r.Version, err = s.keepAs(c, store.Keep{Word: r.Word, Reason: store.ForRound}); err != nil {
		return err
	}
	people, err := s.askable(v)
	if err != nil {
		return err
	}
	// Whoever is asked can say something. The right comes before the round, so that nobody is asked who may not answer.
	may := map[string]string{}
	for _, p := range people {
		if p.May || !slices.ContainsFunc(r.Verdicts, func(one store.Verdict) bool { return one.Who == p.ID }) {
			continue
		}
		if err := s.House.Folders.Grant(account.Grant{Place: account.Place{Map: v.Map}, Person: p.ID,
			Right: account.Remark}); err != nil {
			return err
		}
		may[p.ID] = account.Rights[account.Remark].Verb
		s.Note(c, "gave the right to "+may[p.ID]+" "+s.TitleOf(d), p.Email)
	}
	picture, err := s.firstSheet(c, r.Version.ID)
	if err != nil {
		return err
	}
	if err = s.rounds.Begin(r, may, picture); errors.Is(err, store.ErrRunning) {
		return site.FormError("a round is under way already; end it first")
	} else if err != nil {
		return err
	}
	s.Note(c, fmt.Sprintf("asked %s for a review", phrase.Count(len(r.Verdicts), "person")), s.TitleOf(d))
	s.Live.RightsChanged()
	s.remarked(v)
	return nil
}

// firstSheet is a small picture of the first sheet of a version, as PNG; none where it takes too long to draw.
func (s *Reviews) firstSheet(c fiber.Ctx, version string) ([]byte, error) {
	_, m, err := s.House.Versions.Get(version)
	if err != nil {
		return nil, err
	}
	return site.Made(s.Site, c, func(ctx context.Context) ([]byte, error) {
		d, ok := scene.DrawUntil(m, m.Sheets[0], scene.Know(m), func() bool { return ctx.Err() != nil })
		if !ok {
			return nil, nil
		}
		const width = 900
		return png.Write(ctx, d, min(1, width/max(float64(d.Extent.W)/geometry.Px, 1)))
	})
}

// askedGroup is a group of people who can be asked together.
type askedGroup struct {
	store.Group
	// Names are what its people are called.
	Names string
}

// groups are those of the organisation, and those who may see the folder of the map of a visit.
func (s *Reviews) groups(v *site.Visit, people []askable) (list []askedGroup, err error) {
	all, err := s.House.Groups.List()
	if err != nil {
		return nil, err
	}
	rules, err := s.House.Folders.Rules()
	if err != nil {
		return nil, err
	}
	if folder := v.Where.Folder; folder != "" {
		g := store.Group{ID: "folder", Name: "All of the folder " + rules.Folder(folder).Name}
		for _, p := range people {
			if rules.OnFolder(p.ID, folder) > account.None {
				g.People = append(g.People, p.ID)
			}
		}
		all = append(all, g)
	}
	for _, g := range all {
		var names []string
		for _, p := range people {
			if slices.Contains(g.People, p.ID) && p.ID != v.Who.ID {
				names = append(names, p.Name)
			}
		}
		if len(names) > 0 {
			list = append(list, askedGroup{g, strings.Join(names, ", ")})
		}
	}
	return list, nil
}

// askable is somebody in the organisation who can be asked for a review; May says that they may remark already.
type askable struct {
	account.Person
	May bool
	// Before says that they were asked in the round before, Later that they were asked after the others in it.
	Before, Later bool
}

// askable are all people in the organisation who can sign in.
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
			list = append(list, askable{p, rules.OnMap(p.ID, where) >= account.Remark, false, false})
		}
	}
	return list, nil
}

// asking is what the form for asking shows: whom, and what is proposed.
type asking struct {
	People []askable
	Groups []askedGroup
	Rules  []review.RuleWords
	// Habits are those of the organisation, or of the round before.
	Habits review.Habits
	// NamesBefore are those who were asked by link in the round before, LaterBefore those who were asked after the
	// others.
	NamesBefore, LaterBefore string
	Tomorrow                 string
}

// asking prepares the form for asking; nil for who may not ask. The next round is proposed as the last one was.
func (s *Reviews) asking(v *site.Visit, last *roundView, people []askable) (*asking, error) {
	if people == nil {
		return nil, nil
	}
	a := &asking{People: people, Rules: review.Rules, Tomorrow: time.Now().AddDate(0, 0, 1).Format(time.DateOnly)}
	var err error
	if a.Groups, err = s.groups(v, people); err != nil {
		return nil, err
	}
	if a.Habits, err = s.House.Rounds.Habits(); err != nil || last == nil {
		return a, err
	}
	a.Habits.Needs, a.Habits.Remind, a.Habits.Final = last.Needs, last.Remind, last.Final
	names := [2][]string{}
	for _, one := range last.Round.Asked() {
		if one.ByLink() {
			text := one.Name
			if one.Email != "" {
				text += " <" + one.Email + ">"
			}
			names[min(one.Turn, 1)] = append(names[min(one.Turn, 1)], text)
		}
		for i := range people {
			if people[i].ID == one.Who {
				people[i].Before, people[i].Later = one.Turn == 0, one.Turn > 0
			}
		}
	}
	a.NamesBefore, a.LaterBefore = strings.Join(names[0], ", "), strings.Join(names[1], ", ")
	return a, nil
}

// looked notes that the visitor looks at what they were asked about.
func (s *Reviews) looked(v *site.Visit, r *roundView) error {
	if r == nil || r.Over() || s.House.ReadOnly() != "" {
		return nil
	}
	for _, one := range r.Verdicts {
		if one.Looked.IsZero() && (v.Who != nil && one.Who == v.Who.ID || v.Who == nil && one.Link != "" &&
			one.Link == v.Link) {
			return s.House.Rounds.Looked(r.ID, one.Who)
		}
	}
	return nil
}
