package reviews

import (
	"bytes"
	"cmp"
	"errors"
	"fmt"
	"image"
	"io"
	"slices"
	"strconv"
	"strings"
	"time"
	"unicode/utf8"

	"github.com/gofiber/fiber/v3"

	"plaintracer/account"
	"plaintracer/app/live"
	"plaintracer/app/phrase"
	"plaintracer/app/rounds"
	"plaintracer/core/flow"
	"plaintracer/core/model"
	"plaintracer/core/numbering"
	"plaintracer/core/pictures"
	"plaintracer/core/register"
	"plaintracer/core/symbols"
	"plaintracer/exchange/intake"
	"plaintracer/store"
	"plaintracer/web/site"
)

// The bounds of what somebody says.
const (
	mostSaid   = 5000
	mostPixels = 25_000_000
)

// said returns a text that somebody says, as it is kept: without characters that turn the direction of what stands
// after it.
func saidText(text string) (string, error) {
	text = strings.TrimSpace(strings.ReplaceAll(text, "\r\n", "\n"))
	if !utf8.ValidString(text) {
		return "", site.FormError("this is not text")
	}
	if n := utf8.RuneCountInString(text); n > mostSaid {
		return "", site.FormError(fmt.Sprintf("this has %d characters; a remark has at most %d", n, mostSaid))
	}
	return strings.Map(func(r rune) rune {
		if r < ' ' && r != '\n' && r != '\t' || r == 0x7f || r >= 0x202a && r <= 0x202e || r >= 0x2066 && r <= 0x2069 {
			return -1
		}
		return r
	}, text), nil
}

// anchorOf is what a remark is about, by the id of a thing, with a column of the register or none, or a place on a
// sheet.
func anchorOf(m *model.Map, item, sheet, column string, x, y int) (store.Anchor, error) {
	a := store.Anchor{Item: item, Sheet: sheet, X: x, Y: y}
	switch {
	case item != "":
		for _, s := range m.Sheets {
			text, ok := textOf(s, item)
			if !ok {
				continue
			}
			a.Sheet, a.Text = s.ID, phrase.Clip(model.Flat(text), 200)
			a.Number = numbering.Labels(flow.New(m))[item]
			if column != "" {
				columns := register.Columns(m)
				k := slices.IndexFunc(columns, func(c register.Column) bool { return c.ID == column })
				if k < 0 {
					return a, site.FormError("this column was removed just now")
				}
				a.Column, a.Field = column, columns[k].Title
			}
			return a, nil
		}
		return a,
			site.FormError("what this is about was deleted just now; say it of the whole map, or of something else")
	case sheet != "":
		s := m.Sheet(sheet)
		if s == nil {
			return a, site.FormError("this sheet was removed just now")
		}
		// A place moves with what stands nearest.
		nearest, least := (*model.Symbol)(nil), 0
		for _, sym := range s.Symbols {
			p := sym.Centre()
			if d := (p.X-x)*(p.X-x) + (p.Y-y)*(p.Y-y); nearest == nil || d < least {
				nearest, least = sym, d
			}
		}
		if nearest != nil {
			a.Item, a.X, a.Y = nearest.ID, x-nearest.X, y-nearest.Y
			if a.X == 0 && a.Y == 0 {
				a.X = 1
			}
		}
	}
	return a, nil
}

// The bounds of what a remark points at beside its step.
const (
	mostAlso   = 100
	mostStroke = 400
)

// moreOf adds to an anchor what else a remark is about: further things, words of a text, a line that was drawn.
func moreOf(a *store.Anchor, m *model.Map, c fiber.Ctx) error {
	sheet := m.Sheet(a.Sheet)
	for _, id := range strings.Fields(c.FormValue("also")) {
		if id == a.Item || slices.Contains(a.Also, id) {
			continue
		}
		if _, ok := textOf(sheet, id); sheet == nil || !ok {
			return site.FormError("one of the things that this is about was deleted just now, or stands on another sheet")
		}
		if a.Also = append(a.Also, id); len(a.Also) > mostAlso {
			return site.FormError(fmt.Sprintf("a remark is about at most %d things", mostAlso+1))
		}
	}
	if words := model.Flat(c.FormValue("words")); words != "" {
		text := ""
		if sheet != nil {
			text, _ = textOf(sheet, a.Item)
		}
		if !strings.Contains(model.Flat(text), words) {
			return site.FormError("these words do not stand there any more")
		}
		a.Words = words
	}
	for _, text := range strings.FieldsFunc(c.FormValue("stroke"), func(r rune) bool { return r == ' ' || r == ',' }) {
		n, err := strconv.Atoi(text)
		if err != nil || n < -1<<24 || n > 1<<24 || len(a.Stroke) >= mostStroke {
			return site.FormError(fmt.Sprintf("a line that is drawn has at most %d points", mostStroke/2))
		}
		a.Stroke = append(a.Stroke, n)
	}
	if len(a.Stroke)%2 == 1 || len(a.Stroke) == 2 || len(a.Stroke) > 0 && sheet == nil {
		return site.FormError("the line that was drawn is not whole; draw it again")
	}
	return nil
}

// freshView is what is new to a visitor: how much, and the latest of it.
type freshView struct {
	N                int
	Thread, By, Said string
	at               time.Time
}

// freshOf is what is new among threads that were filled in or not.
func freshOf(all []threadView) (f freshView) {
	note := func(thread string, about string, r *store.Remark) {
		f.N++
		if r.At.After(f.at) {
			f.Thread, f.By, f.Said, f.at = thread, r.Name, about, r.At
		}
	}
	for i := range all {
		t := &all[i]
		if t.Fresh {
			note(t.ID, t.About, &t.Remark)
		}
		for k := range t.Replies {
			if t.Replies[k].Fresh {
				note(t.ID, t.About, &t.Replies[k].Remark)
			}
		}
	}
	return f
}

// textOf is what a thing on a sheet says.
func textOf(s *model.Sheet, id string) (string, bool) {
	if sym := s.Symbol(id); sym != nil {
		return cmp.Or(sym.Text, symbols.Of(sym.Kind).Name), true
	}
	if c := s.Connector(id); c != nil {
		return cmp.Or(c.Text, "a connector"), true
	}
	for _, p := range s.Pools {
		if p.ID == id {
			return p.Title, true
		}
		if i := p.LaneIndex(id); i >= 0 {
			return "the lane " + p.Lanes[i].Name, true
		}
		for _, st := range p.Stages {
			if st.ID == id {
				return "the stage " + st.Name, true
			}
		}
	}
	return "", false
}

// remarkOrder is a way in which threads stand in the list.
type remarkOrder struct {
	Name, Title string
	less        func(a, b *threadView) int
}

// remarkOrders are the ways in which threads stand in the list.
var remarkOrders = []remarkOrder{
	{"step", "By step", func(a, b *threadView) int {
		last := func(t *threadView) int { return cmp.Or(t.Order, 1<<30) }
		return cmp.Or(cmp.Compare(last(a), last(b)), a.At.Compare(b.At))
	}},
	{"newest", "Newest first", func(a, b *threadView) int { return latestOf(b).Compare(latestOf(a)) }},
	{"person", "By person", func(a, b *threadView) int {
		return cmp.Or(cmp.Compare(account.Folded(a.Name), account.Folded(b.Name)), a.At.Compare(b.At))
	}},
}

func latestOf(t *threadView) time.Time {
	if n := len(t.Replies); n > 0 {
		return t.Replies[n-1].At
	}
	return t.At
}

// remarkFilter is a selection of threads.
type remarkFilter struct {
	Name, Title string
	holds       func(t *threadView) bool
}

// remarkFilters are the selections of threads.
var remarkFilters = []remarkFilter{
	{"open", "Open", func(t *threadView) bool { return t.Settled.IsZero() }},
	{"settled", "Resolved", func(t *threadView) bool { return !t.Settled.IsZero() }},
	{"mine", "Mine", func(t *threadView) bool {
		return t.Mine || slices.ContainsFunc(t.Replies, func(a answerView) bool { return a.Mine })
	}},
	{"unseen", "Unseen", func(t *threadView) bool {
		return t.Fresh || slices.ContainsFunc(t.Replies, func(a answerView) bool { return a.Fresh })
	}},
	{"talk", "Conversation", func(t *threadView) bool { return t.Whole }},
}

// Remarks is the page of the side panel with what was said.
func (s *Reviews) Remarks(c fiber.Ctx) error { return s.showRemarks(c, "") }

// showRemarks shows the remarks on a map and its round, with why something was not done.
func (s *Reviews) showRemarks(c fiber.Ctx, refusal string) error {
	v := site.At(c)
	people, err := s.readers(v)
	if err != nil {
		return err
	}
	var names []string
	for i := range people {
		names = append(names, people[i].Name)
	}
	seen := time.Now()
	quiet := c.Query("quiet") != "" // nobody looks at the list: what is new stays new
	if v.Who != nil && quiet {
		if seen, err = s.House.Remarks.SeenBefore(v.Who.ID, v.Map); err != nil {
			return err
		}
	} else if v.Who != nil && s.House.ReadOnly() == "" {
		if seen, err = s.House.Remarks.Seen(v.Who.ID, v.Map); err != nil {
			return err
		}
		key := v.Who.ID + " " + v.Map
		if c.Query("again") == "" && c.Method() == fiber.MethodGet {
			s.seen.Store(key, seen)
		} else if opened, ok := s.seen.Load(key); ok { // what was new when the page was opened stays so
			seen = opened.(time.Time)
		}
	}
	all, m, err := threadsOf(v, seen)
	if err != nil {
		return err
	}
	ask := func(name, usual string) string { return cmp.Or(c.Query(name), c.FormValue(name), usual) }
	filter, order := ask("show", "open"), ask("sort", "step")
	counts := map[string]int{}
	var list []*threadView // they are large, and sorted by what they say
	for _, f := range remarkFilters {
		for i := range all {
			if f.holds(&all[i]) {
				if counts[f.Name]++; f.Name == filter {
					list = append(list, &all[i])
				}
			}
		}
	}
	for _, o := range remarkOrders {
		if o.Name == order {
			slices.SortStableFunc(list, o.less)
		}
	}
	if filter == "talk" {
		slices.SortStableFunc(list, func(a, b *threadView) int { return a.At.Compare(b.At) })
	}
	most, _ := strconv.Atoi(ask("most", ""))
	most = max(most, ShownThreads)
	more := max(len(list)-most, 0)
	list = list[:len(list)-more]
	if wanted := c.Query("wanted"); wanted != "" && !slices.ContainsFunc(list, func(t *threadView) bool {
		return t.ID == wanted
	}) {
		for i := range all { // whatever is shown, and however much stands before it
			if all[i].ID == wanted || slices.ContainsFunc(all[i].Answers, func(a store.Remark) bool {
				return a.ID == wanted
			}) {
				list = slices.Insert(list, 0, &all[i])
				break
			}
		}
	}
	// These count all answers; what is filled in leaves out those that are not shown.
	marks, news := marksOf(m, all, filter == "settled"), freshOf(all)
	with := wordsOf(m, names)
	if err := s.fill(list, with, ask("thread", ""), ask("answers", "")); err != nil {
		return err
	}
	round, err := s.roundView(v)
	if err != nil {
		return err
	}
	var invited []store.Verdict
	own, called := false, ""
	awaited := round != nil && !round.Over() && round.Mine.Who != "" && round.Mine.Verdict == "" &&
		!round.Waits(round.Mine)
	if round != nil && v.Who == nil {
		invited = round.openTo(v)
		own = len(invited) == 1 && invited[0].Link == v.Link
	}
	if own {
		called = invited[0].Name
	}
	var whom []askable
	if v.Right >= account.Manage && v.Link == "" {
		if whom, err = s.askable(v); err != nil {
			return err
		}
	}
	asks, err := s.asking(v, round, whom)
	if err != nil {
		return err
	}
	if !quiet {
		if err := s.looked(v, round); err != nil {
			return err
		}
	}
	return s.Page(c, "remarks.html", &remarksPage{Base: v.Base, Asking: asks, Threads: list, More: more, Next: most +
		ShownThreads,
		Marks: marks, Fresh: news, Counts: counts, Filters: remarkFilters, Orders: remarkOrders, Show: filter,
		Sort:    order,
		Refusal: refusal, ByLink: v.Who == nil, Invited: invited, Own: own, LinksURL: s.LinksBegin(),
		Called: cmp.Or(c.FormValue("called"), s.Kept(c, site.CalledCookie), called), Changes: v.Right >= account.Edit,
		Manages: v.Right >= account.Manage && v.Link == "", Round: round, Awaited: awaited,
		Fixed: v.Chosen.Version != ""})
}

// readers are the people in the organisation who may see the remarks on a map.
func (s *Reviews) readers(v *site.Visit) (list []account.Person, err error) {
	all, err := s.askable(v)
	for _, p := range all {
		if p.May {
			list = append(list, p.Person)
		}
	}
	return list, err
}

// orRemarks shows the remarks again, with why something was not done.
func (s *Reviews) orRemarks(c fiber.Ctx, err error) error {
	words, err := refused(err)
	if err != nil {
		return err
	}
	if words != "" {
		c.Status(fiber.StatusOK) // so that the page takes it in
	}
	return s.showRemarks(c, words)
}

// refused puts into words why something was not done that somebody asked for; other is any other fault.
func refused(err error) (words string, other error) {
	var wrong *site.FormFault
	switch {
	case errors.As(err, &wrong):
		return phrase.Sentence(wrong.Error()), nil
	case errors.Is(err, store.ErrNotAsked):
		return "Somebody has answered in this place already. Say it as a remark.", nil
	case errors.Is(err, store.ErrSaid):
		return "You have answered, and in this round an answer stays as it is. Say more as a remark.", nil
	case errors.Is(err, store.ErrFull):
		return fmt.Sprintf("More is not kept on one map: %d threads, %d answers in a thread, %d in all. "+
			"Resolve what is done in a copy of the map.", store.MostThreads, store.MostAnswers, store.MostRemarks), nil
	case errors.Is(err, store.ErrOver):
		return "This round has ended. Ask for a new one.", nil
	case errors.Is(err, rounds.ErrMuch), errors.Is(err, rounds.ErrBusy):
		return phrase.Sentence(err.Error()), nil
	}
	return "", err
}

// AddRemark takes what somebody says of a map.
func (s *Reviews) AddRemark(c fiber.Ctx) error {
	return s.orRemarks(c, s.takeRemark(c))
}

func (s *Reviews) takeRemark(c fiber.Ctx) error {
	v := site.At(c)
	text, err := saidText(c.FormValue("text"))
	if err != nil {
		return err
	}
	proposal, err := saidText(c.FormValue("proposal"))
	if err != nil {
		return err
	}
	picture, err := pictureWith(c)
	if err != nil {
		return err
	}
	if text == "" && proposal == "" && picture == nil {
		return site.FormError("write something first")
	}
	name, err := v.CallsOneself(c)
	if err != nil {
		return err
	}
	r := store.Remark{Map: v.Map, Thread: c.FormValue("thread"), Author: v.Author(), Visitor: v.Visitor, Name: name,
		Text: text, Proposal: proposal}
	if r.Thread == "" {
		shown, err := v.Shown()
		if err != nil {
			return err
		}
		m, _ := shown.Snapshot()
		x, _ := strconv.Atoi(c.FormValue("x"))
		y, _ := strconv.Atoi(c.FormValue("y"))
		const far = 1 << 24
		if r.Anchor, err = anchorOf(m, c.FormValue("item"), c.FormValue("sheet"), c.FormValue("column"),
			min(max(x, -far), far), min(max(y, -far), far)); err != nil {
			return err
		}
		if err = moreOf(&r.Anchor, m, c); err != nil {
			return err
		}
		if proposal != "" && r.Anchor.Item == "" {
			return site.FormError("a text is proposed for a step; select one first")
		}
	}
	if r.Round, err = s.House.Rounds.Running(v.Map); err != nil {
		return err
	}
	_, err = s.House.Remarks.Add(r, picture)
	if errors.Is(err, store.ErrNotFound) {
		return site.FormError("the remark that this answers is not there any more")
	}
	if err != nil {
		return err
	}
	s.remarked(v)
	s.tellOf(v, r)
	return nil
}

// pictureWith is a picture that comes with a form, once it was drawn; nil for none.
func pictureWith(c fiber.Ctx) ([]byte, error) {
	h, err := c.FormFile("picture")
	if err != nil || h.Size == 0 {
		return nil, nil
	}
	const most = 4 << 20
	if h.Size > most {
		return nil, site.FormError("a picture with a remark has at most 4 MB")
	}
	f, err := h.Open()
	if err != nil {
		return nil, err
	}
	defer f.Close()
	data, err := io.ReadAll(f)
	if err != nil {
		return nil, err
	}
	p := pictures.Picture{ID: "p", Data: data}
	switch {
	case strings.HasPrefix(string(data), "\x89PNG"):
		p.Type = "image/png"
	case strings.HasPrefix(string(data), "\xff\xd8\xff"):
		p.Type = "image/jpeg"
	default:
		return nil, site.FormError("a picture with a remark is PNG or JPEG")
	}
	ctx, stop := site.WhileThere(c)
	defer stop()
	size, _, err := image.DecodeConfig(bytes.NewReader(data))
	if err != nil {
		return nil, site.FormError("the picture cannot be read")
	}
	if p.W, p.H = size.Width, size.Height; p.W*p.H > mostPixels {
		return nil, site.FormError(fmt.Sprintf("the picture has more than %d million pixels", mostPixels/1_000_000))
	}
	if err := intake.Sound(ctx, []pictures.Picture{p}, nil); err != nil {
		return nil, site.OrUnread(err)
	}
	return data, nil
}

// RemarkPicture is the picture with a remark.
func (s *Reviews) RemarkPicture(c fiber.Ctx) error {
	data, err := s.House.Remarks.Picture(site.At(c).Map, c.Params("remark"))
	if errors.Is(err, store.ErrNotFound) {
		return fiber.ErrNotFound
	}
	if err != nil {
		return err
	}
	mediaType := "image/png"
	if strings.HasPrefix(string(data), "\xff\xd8") {
		mediaType = "image/jpeg"
	}
	return site.SendFile(c, mediaType, data, nil)
}

// onRemark does something with a remark on the map of a visit and shows the list again.
func (s *Reviews) onRemark(c fiber.Ctx, do func(v *site.Visit, r store.Remark) error) error {
	v := site.At(c)
	r, err := s.House.Remarks.Get(v.Map, c.Params("remark"))
	if errors.Is(err, store.ErrNotFound) || err == nil && r.Deleted {
		return s.orRemarks(c, site.FormError("this remark is not there any more"))
	}
	if err == nil {
		err = do(v, r)
	}
	if err == nil {
		s.remarked(v)
	}
	return s.orRemarks(c, err)
}

// SettleRemark notes that a thread is dealt with, or open again.
func (s *Reviews) SettleRemark(c fiber.Ctx) error {
	return s.onRemark(c, func(v *site.Visit, r store.Remark) error {
		if v.Right < account.Edit && !v.IsAuthor(r.Author, r.Visitor) {
			return site.FormError("only who began a thread, or may edit the map, resolves it")
		}
		by, err := v.CallsOneself(c)
		if err != nil {
			return err
		}
		return s.House.Remarks.Settle(cmp.Or(r.Thread, r.ID), by, c.FormValue("open") == "")
	})
}

// PinRemark has a thread of the conversation be about a thing on the drawing from now on.
func (s *Reviews) PinRemark(c fiber.Ctx) error {
	return s.onRemark(c, func(v *site.Visit, r store.Remark) error {
		if v.Right < account.Edit && !v.IsAuthor(r.Author, r.Visitor) {
			return site.FormError("only who said it, or may edit the map, pins it to a step")
		}
		if r.Thread != "" || r.Anchor.Item != "" || r.Anchor.Sheet != "" {
			return site.FormError("only what was said of the whole map is pinned to a step")
		}
		if c.FormValue("item") == "" {
			return site.FormError("select the step first to which this is to be pinned")
		}
		shown, err := v.Shown()
		if err != nil {
			return err
		}
		m, _ := shown.Snapshot()
		to, err := anchorOf(m, c.FormValue("item"), "", "", 0, 0)
		if err != nil {
			return err
		}
		return s.House.Remarks.Pin(r.ID, to)
	})
}

// RewordRemark gives one's own remark another text.
func (s *Reviews) RewordRemark(c fiber.Ctx) error {
	return s.onRemark(c, func(v *site.Visit, r store.Remark) error {
		text, err := saidText(c.FormValue("text"))
		if err != nil {
			return err
		}
		if text == "" {
			return site.FormError("write something, or delete the remark")
		}
		if !v.IsAuthor(r.Author, r.Visitor) {
			return site.FormError("a remark is changed only by who made it")
		}
		return s.House.Remarks.Reword(r.ID, text, r.Name)
	})
}

// DeleteRemark takes back what one said oneself.
func (s *Reviews) DeleteRemark(c fiber.Ctx) error {
	return s.onRemark(c, func(v *site.Visit, r store.Remark) error {
		if !v.IsAuthor(r.Author, r.Visitor) {
			return site.FormError("a remark is deleted only by who made it")
		}
		return s.House.Remarks.Delete(r.ID, r.Name)
	})
}

// AnswerProposal notes what became of a proposed text. The window that takes it makes the edit.
func (s *Reviews) AnswerProposal(c fiber.Ctx) error {
	return s.onRemark(c, func(v *site.Visit, r store.Remark) error {
		name, err := v.CallsOneself(c)
		if err != nil {
			return err
		}
		answer := store.Taken
		if c.FormValue("declined") != "" {
			word, err := saidText(c.FormValue("word"))
			if err != nil {
				return err
			}
			answer = strings.TrimSpace(store.Declined + ": " + word)
			if word == "" {
				answer = store.Declined
			}
		}
		if err := s.House.Remarks.AnswerProposal(r.ID, answer, name); errors.Is(err, store.ErrNotFound) {
			return site.FormError("this proposal was answered already")
		} else if err != nil {
			return err
		}
		return nil
	})
}

// remarked tells the windows on a map that something was said.
func (s *Reviews) remarked(v *site.Visit) {
	s.Live.Notify(v.Map, live.Remarked{}, func(w *live.Window) bool { return w.Right >= account.Remark })
}

// remarksPage is what remarks.html shows.
type remarksPage struct {
	// Awaited says that somebody waits for what the visitor says of the round.
	Awaited bool
	site.Frame
	Base    string
	Threads []*threadView
	More    int
	Next    int
	Marks   []remarkMark
	// Fresh is what is new to the visitor.
	Fresh    freshView
	Counts   map[string]int
	Filters  []remarkFilter
	Orders   []remarkOrder
	Show     string
	Sort     string
	Refusal  string
	ByLink   bool
	Invited  []store.Verdict
	Own      bool
	LinksURL string
	Called   string
	Changes  bool
	Manages  bool
	Asking   *asking
	Round    *roundView
	Fixed    bool
}
