package reviews

import (
	"html/template"
	"time"

	"github.com/gofiber/fiber/v3"

	"plaintracer/account"
	"plaintracer/app/live"
	"plaintracer/web/site"
)

// shownTalk is how many lines of the conversation are shown.
const shownTalk = 100

// talkLine is something said in the conversation on a map, as the strip beside the drawing shows it.
type talkLine struct {
	ID, Name     string
	At           time.Time
	Lines        []template.HTML
	Mine, ByLink bool
	// Same says that the one before is by the same person, a short time ago.
	Same bool
}

// talkPage is what talk.html shows.
type talkPage struct {
	site.Frame
	Base    string
	Lines   []talkLine
	ByLink  bool
	Called  string
	Changes bool
	Refusal string
}

// Talk is the conversation on a map: what was said of the whole of it, the latest last.
func (s *Reviews) Talk(c fiber.Ctx) error { return s.showTalk(c, "") }

func (s *Reviews) showTalk(c fiber.Ctx, refusal string) error {
	v := site.At(c)
	all, err := s.House.Remarks.Whole(v.Map, shownTalk)
	if err != nil {
		return err
	}
	people, err := s.readers(v)
	if err != nil {
		return err
	}
	var names []string
	for i := range people {
		names = append(names, people[i].Name)
	}
	shown, err := v.Shown()
	if err != nil {
		return err
	}
	m, _ := shown.Snapshot()
	with := wordsOf(m, names)
	page := &talkPage{Base: v.Base, ByLink: v.Who == nil, Called: s.Kept(c, site.CalledCookie),
		Changes: v.Right >= account.Edit,
		Refusal: refusal}
	for i, r := range all {
		page.Lines = append(page.Lines, talkLine{ID: r.ID, Name: r.Name, At: r.At, Lines: with.linesOf(r.Text),
			Mine: v.IsAuthor(r.Author, r.Visitor), ByLink: r.ByLink(),
			Same: i > 0 && all[i-1].Author == r.Author && all[i-1].Visitor == r.Visitor &&
				r.At.Sub(all[i-1].At) < 5*time.Minute})
	}
	return s.Page(c, "talk.html", page)
}

// SayInTalk takes a line of the conversation. It is a remark on the whole map.
func (s *Reviews) SayInTalk(c fiber.Ctx) error {
	if err := s.takeRemark(c); err != nil {
		words, other := refused(err)
		if other != nil {
			return other
		}
		return s.showTalk(c, words)
	}
	return s.showTalk(c, "")
}

// WritesInTalk tells the others that somebody writes in the conversation.
func (s *Reviews) WritesInTalk(c fiber.Ctx) error {
	v := site.At(c)
	name := s.Kept(c, site.CalledCookie)
	if v.Who != nil {
		name = v.Who.Name
	}
	if name != "" {
		s.Live.Notify(v.Map, live.Talking{Name: name}, func(w *live.Window) bool { return w.Right >= account.Remark })
	}
	return c.SendStatus(fiber.StatusNoContent)
}
