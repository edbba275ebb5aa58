package reviews

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"strings"
	"time"

	"github.com/gofiber/fiber/v3"

	"plaintracer/app/phrase"
	"plaintracer/app/rounds"
	"plaintracer/core/model"
	"plaintracer/exchange/changes"
	"plaintracer/exchange/record"
	"plaintracer/store"
	"plaintracer/web/site"
)

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
	page, err := s.record(r, m)
	if err != nil {
		return err
	}
	return s.Page(c, "round.html", &roundPage{Frame: site.Frame{Title: m.Title + ", round " + fmt.Sprint(r.Number)},
		Map: m.Title, Base: v.Base, Round: r, Sheets: m.Sheets, Record: page, House: v.Who != nil})
}

// record is what is filed of a round.
func (s *Reviews) record(r *roundView, m *model.Map) (*record.Record, error) {
	talk, err := s.rounds.Talk(&r.Round, m)
	if err != nil {
		return nil, err
	}
	when := func(t time.Time) string {
		if t.IsZero() {
			return ""
		}
		return t.Format(rounds.FiledTime)
	}
	log, err := s.House.Rounds.Log(r.ID)
	if err != nil {
		return nil, err
	}
	kept := ""
	if n := len(log); n > 0 {
		kept = fmt.Sprintf("%d entries, the last one with the SHA-256 %s", n, log[n-1].Hash)
	}
	signed := ""
	if r.Signed {
		signed = "Whoever agrees signs the sentence shown with their answer."
	}
	out := &record.Record{Map: m, Threads: talk, Title: m.Title,
		Subtitle: fmt.Sprintf("Round %d of review, of version %d", r.Number, r.Version.Number), Facts: [][2]string{
			{"Outcome", r.Result()}, {"In words", r.Case.Names()},
			{"Version", fmt.Sprintf("%s, kept on %s", r.Version.Title(), when(r.Version.Created))},
			{"SHA-256 of the version", r.Version.Hash},
			{"Asked by", r.AskedBy + ", " + when(r.At)}, {"Ended", when(r.Ended)},
			{"Rule", r.Needs.Says()}, {"Signatures", signed}, {"Open remarks", fmt.Sprint(r.Open)}, {"Asked for",
				r.Word},
			{"In force until", phrase.Until(r.Life.Until)}, {"Due for review on", phrase.Until(r.Life.Due)},
			{"Owner of the process", r.OwnerName}, {"Standing", r.Standing}, {"Log of the round", kept}}}
	for _, one := range r.Verdicts {
		voice := record.Voice{Name: one.Name, Way: "as a member of the organisation", Told: when(one.Told),
			Looked: when(one.Looked),
			Said:   cmp.Or(one.Verdict, "has not answered"), At: when(one.At), Why: one.Reason,
			Signature: one.Signature,
			Unasked:   one.Unasked}
		switch {
		case one.ByLink() && one.Email != "":
			voice.Way = "by a link, sent to " + one.Email
		case one.ByLink():
			voice.Way = "by a link"
		}
		out.Voices = append(out.Voices, voice)
	}
	if r.Before != "" {
		before, was, err := s.House.Versions.Get(r.Before)
		if err != nil {
			return nil, err
		}
		a := changes.Between(was, m, "", "")
		out.Before = fmt.Sprint("version ", before.Number)
		for _, l := range a.Lines {
			said := l.Sentence
			if l.Attribute == "text" {
				said = strings.TrimSuffix(said, ".") + ", instead of “" + l.Old + "”."
			}
			out.Changes = append(out.Changes, said)
		}
		if counted := a.Counted(); counted != "" {
			out.Changes = append(out.Changes, counted)
		}
	}
	return out, nil
}

// RoundFile is the page of a round as a file.
func (s *Reviews) RoundFile(c fiber.Ctx) error {
	r, m, err := s.roundToFile(c)
	if err != nil {
		return err
	}
	page, err := s.record(r, m)
	if err != nil {
		return err
	}
	format := c.Params("format")
	if record.Formats[format] == "" {
		return fiber.NewError(fiber.StatusNotFound, "")
	}
	out, err := site.Made(s.Site, c, func(ctx context.Context) ([]byte, error) { return page.Write(ctx, format) })
	if err != nil {
		return err
	}
	site.Attach(c, fmt.Sprintf("%s, round %d.%s", m.Title, r.Number, format))
	return site.SendFile(c, record.Formats[format], out, nil)
}

// roundPage is what round.html shows.
type roundPage struct {
	site.Frame
	Map    string
	Base   string
	Round  *roundView
	Sheets []*model.Sheet
	Record *record.Record
	House  bool
}
