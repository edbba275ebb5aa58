package reviews

import (
	"strings"
	"time"

	"github.com/gofiber/fiber/v3"

	"plaintracer/account"
	"plaintracer/app/phrase"
	"plaintracer/app/rounds"
	"plaintracer/core/model"
	"plaintracer/web/site"
)

// SetLife notes until when what was agreed is in force, when it is to be reviewed again, and who owns the process.
func (s *Reviews) SetLife(c fiber.Ctx) error {
	return s.orRemarks(c, s.setLife(c))
}

// Standing says what whoever sees the map of a visit has to know of it.
func (s *Reviews) Standing(v *site.Visit) (string, error) {
	return s.rounds.Standing(v.Map, v.Chosen.Version)
}

// Told is what a document says of the map of a visit beside what is in it; nothing for those who only read by a link,
// and for a state that stays as it is, of which all this may be otherwise by now.
func (s *Reviews) Told(v *site.Visit, m *model.Map, revision int) (rounds.Told, error) {
	if v.Chosen.Version != "" || v.Who == nil && v.Right < account.Remark {
		return rounds.Told{}, nil
	}
	names, err := s.Names()
	if err != nil {
		return rounds.Told{}, err
	}
	return s.rounds.Told(v.Map, m, revision, names)
}

func (s *Reviews) setLife(c fiber.Ctx) error {
	v := site.At(c)
	l, err := s.House.Lives.Get(v.Map)
	if err != nil {
		return err
	}
	why, err := saidText(c.FormValue("why"))
	if err != nil {
		return err
	}
	d, err := v.Document()
	if err != nil {
		return err
	}
	switch c.FormValue("what") {
	case "withdraw":
		l.Withdrawn, l.Why = time.Now(), phrase.Clip(model.Flat(why), model.MaxName)
		s.Note(c, "withdrew a map", s.TitleOf(d))
	case "restore":
		l.Withdrawn, l.Why = time.Time{}, ""
		s.Note(c, "put a map that was withdrawn into force again", s.TitleOf(d))
	default:
		for _, one := range []struct {
			name string
			to   *time.Time
		}{{"until", &l.Until}, {"due", &l.Due}} {
			*one.to = time.Time{}
			if text := c.FormValue(one.name); text != "" {
				t, err := time.ParseInLocation(time.DateOnly, text, time.Local)
				if err != nil || t.Year() < 2000 || t.Year() > 2200 {
					return site.FormError("write the day as year, month and day")
				}
				*one.to = t.AddDate(0, 0, 1)
			}
		}
		l.Owner = ""
		if name := strings.TrimSpace(c.FormValue("owner")); name != "" {
			if name, err = account.Name(name); err != nil {
				return site.FormError(err.Error())
			}
			l.Owner = "name:" + name
			people, err := s.House.People.List()
			if err != nil {
				return err
			}
			for _, p := range people {
				if account.Folded(p.Name) == account.Folded(name) {
					l.Owner = p.ID
				}
			}
		}
	}
	if err := s.House.Lives.Set(v.Map, l); err != nil {
		return err
	}
	s.remarked(v)
	return nil
}
