package reviews

import (
	"fmt"
	"html/template"
	"regexp"
	"strconv"
	"strings"
	"time"

	"plaintracer/app/phrase"
	"plaintracer/core/flow"
	"plaintracer/core/model"
	"plaintracer/core/numbering"
	"plaintracer/store"
	"plaintracer/web/site"
)

// threadView is a thread as the side panel shows it.
type threadView struct {
	store.Remark
	// About says what it is about, Gone that this is not there any more; Order is its place in the flow. Pointed says
	// what it points at beside the thing that it is on.
	About, Pointed string
	Gone           bool
	Order          int
	Mine           bool
	Fresh          bool
	Lines          []template.HTML
	// Place says that it is about a place, not the thing beside it.
	Place bool
	// Whole says that it is about the whole map: a line of the conversation.
	Whole bool
	// Replies are its answers; Earlier counts those before them that are not shown, and Before is how many to ask for
	// to see more.
	Replies         []answerView
	Earlier, Before int
}

type answerView struct {
	store.Remark
	Mine, Fresh bool
	Lines       []template.HTML
}

var inText = regexp.MustCompile(`https?://[^\s<>"]+[^\s<>".,;:!?)]`)

// words are what texts are written out with: the names of people, which are marked where they are spoken to, and the
// ids of steps by their numbers, so that #7 leads to step 7.
type words struct {
	names []string
	steps map[string]string
}

// wordsOf are those of a map.
func wordsOf(m *model.Map, names []string) *words {
	w := &words{names, map[string]string{}}
	for id, number := range numbering.Labels(flow.New(m)) {
		w.steps[number] = id
	}
	return w
}

var stepNamed = regexp.MustCompile(`#[0-9]+[a-z]*(\.[0-9]+[a-z]*)*`)

// linesOf writes a text as lines of HTML, with the addresses in it and the steps that are named as links, and the names
// that are spoken to marked.
func (w *words) linesOf(text string) (list []template.HTML) {
	for _, line := range strings.Split(text, "\n") {
		var out strings.Builder
		rest := line
		for {
			at := inText.FindStringIndex(rest)
			if at == nil {
				out.WriteString(w.spoken(rest))
				break
			}
			out.WriteString(w.spoken(rest[:at[0]]))
			link := template.HTMLEscapeString(rest[at[0]:at[1]])
			out.WriteString(`<a href="` + link + `" rel="noopener noreferrer nofollow" target="_blank">` + link +
				`</a>`)
			rest = rest[at[1]:]
		}
		list = append(list, template.HTML(out.String()))
	}
	return list
}

func (w *words) spoken(text string) string {
	if at := stepNamed.FindStringIndex(text); at != nil {
		before, said, after := text[:at[0]], text[at[0]:at[1]], text[at[1]:]
		if id := w.steps[said[1:]]; id != "" {
			id = template.HTMLEscapeString(id)
			said = `<a class="step-link" href="#at=` + id + `" data-goto="` + id + `">` + said + `</a>`
		}
		return w.spoken(before) + said + w.spoken(after)
	}
	text = template.HTMLEscapeString(text)
	for _, n := range w.names {
		n = template.HTMLEscapeString(n)
		text = strings.ReplaceAll(text, "@"+n, `<b class="spoken-to">@`+n+`</b>`)
	}
	return text
}

// threadsOf are those on the map of a visit, as the visitor sees them, with the map they are about.
func threadsOf(v *site.Visit, seen time.Time) (out []threadView, m *model.Map, err error) {
	list, err := v.Site.House.Remarks.Outlines(v.Map)
	if err != nil {
		return nil, nil, err
	}
	shown, err := v.Shown()
	if err != nil {
		return nil, nil, err
	}
	m, _ = shown.Snapshot()
	place := map[string]int{}
	g := flow.New(m)
	for i, n := range numbering.Reading(g) {
		place[n.Symbol.ID] = i + 1
	}
	numbers := numbering.Labels(g)
	me := v.Author()
	mine := func(r *store.Remark) bool { return v.IsAuthor(r.Author, r.Visitor) }
	fresh := func(r *store.Remark) bool { return v.Who != nil && r.Author != me && r.At.After(seen) }
	for _, r := range list {
		t := threadView{Remark: r, Mine: mine(&r), Fresh: fresh(&r), Place: r.Anchor.X != 0 || r.Anchor.Y != 0}
		switch a := r.Anchor; {
		case a.Item == "" && a.Sheet == "":
			t.About, t.Whole = "The whole map", true
		default:
			t.Gone = true
			for _, s := range m.Sheets {
				if text, ok := textOf(s, a.Item); ok {
					t.Gone, t.About, t.Order = false, model.Flat(text), place[a.Item]
					if n := numbers[a.Item]; n != "" {
						t.About = n + "  " + t.About
					}
				}
			}
			if a.Item == "" && m.Sheet(a.Sheet) != nil {
				t.Gone, t.About = false, "A place on "+m.Sheet(a.Sheet).Name
			}
			if t.Gone {
				t.About = strings.TrimSpace(a.Number + "  " + a.Text)
			} else if t.Place && a.Item != "" {
				t.About = "A place by " + t.About
			}
			if a.Field != "" {
				t.About += ", " + a.Field
			}
			var pointed []string
			if a.Words != "" {
				pointed = append(pointed, "on the words “"+a.Words+"”")
				t.About = "“" + a.Words + "” in " + t.About
			}
			if n := len(a.Also); n > 0 {
				pointed = append(pointed, fmt.Sprintf("and on %d more", n))
				t.About += fmt.Sprintf(" and %d more", n)
			}
			if len(a.Stroke) > 0 {
				pointed = append(pointed, "with a line")
				t.About += ", with a line"
			}
			t.Pointed = strings.Join(pointed, ", ")
		}
		if v.Chosen.Version != "" {
			if t.Gone && !t.Mine { // it is about what is not in the state that is shown
				continue
			}
			if sheet := m.Sheet(r.Anchor.Sheet); sheet != nil {
				t.Anchor.Text, _ = textOf(sheet, r.Anchor.Item)
			}
		}
		for _, one := range r.Answers {
			t.Replies = append(t.Replies, answerView{one, mine(&one), fresh(&one), nil})
		}
		out = append(out, t)
	}
	return out, m, nil
}

// How many answers of a thread are shown at first, and come with each step; and how much the list says at most, in
// bytes.
const (
	shownAnswers = 10
	mostShown    = 400 << 10
)

// fill gets what the threads of a list say, and shapes it. Of each the latest answers are shown, of the one that is
// opened as many as are asked for.
func (s *Reviews) fill(list []*threadView, with *words, opened, wanted string) error {
	most, _ := strconv.Atoi(wanted)
	var all []*store.Remark
	for _, t := range list {
		show := shownAnswers
		if t.ID == opened {
			show = min(max(most, shownAnswers), store.MostAnswers)
		}
		t.Earlier = max(len(t.Replies)-show, 0)
		t.Before = show + 5*shownAnswers
		t.Replies = t.Replies[t.Earlier:]
		all = append(all, &t.Remark)
		for k := range t.Replies {
			all = append(all, &t.Replies[k].Remark)
		}
	}
	if err := s.House.Remarks.FillIn(all); err != nil {
		return err
	}
	size := 0
	lines := func(text string) []template.HTML {
		if size += len(text); size > mostShown {
			text = phrase.Clip(text, 200) + "…"
		}
		return with.linesOf(text)
	}
	for _, t := range list {
		t.Lines = lines(t.Text)
		for k := range t.Replies {
			t.Replies[k].Lines = lines(t.Replies[k].Text)
		}
	}
	return nil
}

// ShownThreads is how many threads stand in the list at first, and come with each step.
const ShownThreads = 100

// remarkMark is a flag on the drawing: a thread there, and how much was said.
type remarkMark struct {
	store.Anchor
	Thread string
	Count  int
	// Settled says that it is dealt with.
	Settled bool
	// Left and Foot are the corner of what has no drawing of its own: a lane or a stage.
	Left, Foot int
}

// AlsoIn are the further things as a page takes them, Points the line that was drawn.
func (r *remarkMark) AlsoIn() string { return strings.Join(r.Also, " ") }

// Points are the points of the line that was drawn with the thread, in pixels of the sheet.
func (r *remarkMark) Points() string {
	var out []string
	for i := 0; i+1 < len(r.Stroke); i += 2 {
		out = append(out, px(r.Stroke[i])+","+px(r.Stroke[i+1]))
	}
	return strings.Join(out, " ")
}

// marksOf are the flags for the threads about what is there: those that are open, or those that are settled.
func marksOf(m *model.Map, all []threadView, settled bool) (list []remarkMark) {
	type key struct {
		item, sheet, column, also string
		x, y, stroke              int
	}
	place := map[key]int{}
	for i := range all {
		t := &all[i]
		if t.Settled.IsZero() == settled || t.Gone || t.Anchor.Item == "" && t.Anchor.Sheet == "" {
			continue
		}
		k := key{t.Anchor.Item, t.Anchor.Sheet, t.Anchor.Column, strings.Join(t.Anchor.Also, " "), t.Anchor.X,
			t.Anchor.Y, 0}
		if len(t.Anchor.Stroke) > 0 { // each line is its own
			k.stroke = i + 1
		}
		at, known := place[k]
		if !known {
			at = len(list)
			place[k], list = at, append(list, remarkMark{Anchor: t.Anchor, Thread: t.ID, Settled: settled})
			list[at].Left, list[at].Foot = partCorner(m.Sheet(t.Anchor.Sheet), t.Anchor.Item)
		}
		list[at].Count += 1 + len(t.Answers)
	}
	return list
}

// partCorner is the lower left corner of a lane or stage on a sheet; zero where the item is something else.
func partCorner(s *model.Sheet, item string) (left, foot int) {
	if s == nil {
		return 0, 0
	}
	for _, p := range s.Pools {
		if i := p.LaneIndex(item); i >= 0 {
			b := p.Inner(i)
			return b.X, b.Bottom()
		}
		if i := p.StageIndex(item); i >= 0 {
			b := p.StageBox(i)
			return b.X, b.Bottom()
		}
	}
	return 0, 0
}
