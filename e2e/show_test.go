package e2e

import (
	"strconv"
	"strings"
	"testing"

	"plaintracer/e2e/browser"
)

// A map is shown over the whole screen: from stop to stop and along the flow by keys, answers chosen, close and blank,
// a remark taken down; by the address of a step somebody else sees the same; by a link, with a finger, it goes on and
// back.
func TestAMapIsShownInAMeeting(t *testing.T) {
	s := start(t, "demo")
	b := browser.Start(t)
	path := s.demo(b, "A street light is out")
	d := s.desk(b, path)
	link := d.link()
	step := func(p *browser.Page, text string) {
		t.Helper()
		p.Until("document.getElementById('case-at').textContent.endsWith(" + strconv.Quote(text) +
			") && document.querySelector('#sheet .standing')")
	}
	stop := func(p *browser.Page, title string) {
		t.Helper()
		p.Until("document.getElementById('case-at').textContent === " + strconv.Quote(title) +
			" && location.hash.startsWith('#stop=')")
	}
	p := b.Open(s.URL + path + "/show")
	stop(p, "A report comes in")
	p.Key(browser.Right)
	stop(p, "What the crew finds")
	if got := p.Text("#case-facts"); !strings.HasPrefix(got, "Lamp or mains") {
		t.Errorf("the band says %q", got)
	}
	p.Key(browser.PageDown)
	stop(p, "The repair")
	p.Until("document.getElementById('sheet').dataset.sheet === 'repair'")
	p.Key(browser.Left)
	stop(p, "What the crew finds")
	p.Key("s")
	step(p, "A street light is out")
	if browser.Eval[bool](p, "document.getElementById('trace').checkVisibility({ visibilityProperty: true })") {
		t.Error("the bar of the reader's page is shown")
	}
	for _, key := range []string{browser.Right, " ", browser.PageDown, browser.Enter} {
		at := browser.Eval[string](p, "document.getElementById('case-at').textContent")
		p.Key(key)
		p.Until("document.getElementById('case-at').textContent !== " + strconv.Quote(at))
	}
	step(p, "Reported before?")
	if got := p.Text("#case-facts"); !strings.Contains(got, "So far:") || !strings.Contains(got, "1 hand-over") {
		t.Errorf("the band says %q", got)
	}
	p.Key("2") // No
	step(p, "Inspect the light on site")
	p.Key(browser.Left)
	step(p, "Reported before?")
	p.Key("2")
	step(p, "Inspect the light on site")

	small := browser.Eval[float64](p, "document.querySelector('#sheet .standing').getBoundingClientRect().width")
	p.Key("t")
	large := browser.Eval[float64](p, "document.querySelector('#sheet .standing').getBoundingClientRect().width")
	if large < 1.5*small {
		t.Errorf("close by, the step is %.0f px wide, and was %.0f", large, small)
	}
	p.Key("b")
	p.Until("!document.getElementById('blank').hidden")
	p.Key("b")
	p.Until("document.getElementById('blank').hidden")
	p.Key("r")
	p.Until("document.activeElement.name === 'text'")
	p.Key("Who drives there?")
	p.ClickOn("#said-here button.primary")
	p.Until("document.querySelector('.thread')?.textContent.includes('Who drives there?')")
	p.Key(browser.Escape)
	p.Until("!document.body.classList.contains('noting')")
	p.Key(browser.Left)
	step(p, "Reported before?")
	p.Key("2") // what was said on the step stands in the band now
	p.Until("document.getElementById('case-facts').textContent.includes('Who drives there?')")

	// The address is that of the step.
	other := b.Open(browser.Eval[string](p, "location.href"))
	step(other, "Inspect the light on site")
	p.Key(browser.Escape)
	p.Until("!location.pathname.endsWith('/show')")

	// A form that a step leads to opens from the band.
	form := b.Open(s.URL + path + "/show#at=" + d.called("Work order").ID)
	step(form, "Work order")
	form.Until("document.querySelectorAll('#case-facts a').length === 2")
	address := browser.Eval[string](form,
		`(() => { const a = [...document.querySelectorAll('#case-facts a')].find(a => a.textContent.startsWith('Form 12'))
		a.focus(); return a.href })()`)
	if _, body := get(t, address); !strings.HasPrefix(string(body), "%PDF-") {
		t.Errorf("the form opens as %.60q at %s", body, address)
	}

	// By a link and with a finger.
	phone := b.Open(link)
	phone.Phone(390, 800)
	phone.ClickOn("#show")
	stop(phone, "A report comes in")
	swipe := func(from, to float64) {
		phone.Touch([]browser.Finger{{X: from, Y: 300}}, []browser.Finger{{X: (from + to) / 2, Y: 302}},
			[]browser.Finger{{X: to, Y: 304}})
	}
	swipe(300, 60)
	stop(phone, "What the crew finds")
	swipe(60, 300)
	stop(phone, "A report comes in")
	if browser.Eval[bool](phone, "document.documentElement.scrollWidth > innerWidth") {
		t.Error("on a phone the page is wider than its window")
	}
	for _, page := range []*browser.Page{p, other, form, phone} {
		if list := page.Faults(); len(list) > 0 {
			t.Error(list)
		}
	}
}

// Who has the map open can follow whoever shows it, from stop to stop and along the flow, until they go their own way
// or the meeting is over; a reader by a link does not learn who shows it.
func TestAMeetingIsFollowed(t *testing.T) {
	s := start(t, "demo")
	b := browser.Start(t)
	path := s.demo(b, "A street light is out")
	d := s.desk(b, path)
	reader := b.Open(d.link())
	p := b.Open(s.URL + path + "/show")
	at := func(p *browser.Page, text string) {
		t.Helper()
		p.Until("document.getElementById('case-at').textContent.endsWith(" + strconv.Quote(text) + ")")
	}
	at(p, "A report comes in")
	d.Until("document.getElementById('follow-name').textContent === 'Follow Ida Brandt' && document.getElementById('follow-show').checkVisibility()")
	reader.Until("document.getElementById('follow-name').textContent === 'Follow who shows it' && document.getElementById('follow-show').checkVisibility()")
	p.Key(browser.Right)
	at(p, "What the crew finds")
	reader.ClickOn("#follow-show")
	at(reader, "What the crew finds")
	late := b.Open(s.URL + path + "/show#follow")
	at(late, "What the crew finds")
	p.Key(browser.Right)
	for _, page := range []*browser.Page{reader, late} {
		at(page, "The repair")
		page.Until("document.getElementById('sheet').dataset.sheet === 'repair'")
	}
	p.Key("s")
	at(p, "A street light is out")
	at(reader, "A street light is out")
	p.Key(browser.Right)
	at(reader, "Report the light by phone or form")
	at(late, "Report the light by phone or form")
	late.Key(browser.Right) // its own way
	at(late, "Log the report")
	p.Key(browser.Left)
	at(reader, "A street light is out")
	if got := late.Text("#case-at"); !strings.HasSuffix(got, "Log the report") {
		t.Errorf("who goes their own way is taken along to %q", got)
	}
	p.Key(browser.Escape)
	reader.Until("!document.body.classList.contains('showing') && document.getElementById('follow-show').hidden")
	d.Until("document.getElementById('follow-show').hidden")
	for _, page := range []*browser.Page{p, reader, late} {
		if list := page.Faults(); len(list) > 0 {
			t.Error(list)
		}
	}
}

// Stops are added where one looks, named, put in order, gone to and removed; what somebody else adds at once stays.
func TestStopsAreSet(t *testing.T) {
	s := start(t, "demo")
	b := browser.Start(t)
	path := s.demo(b, "A street light is out")
	d := s.desk(b, path)
	d.byName("Stops for a meeting")
	d.Until("document.querySelectorAll('#stops-list li').length === 3")
	d.ClickOn("#stops-list li:nth-child(3) button")
	d.Until("document.querySelector('#tabs [aria-selected=true]').textContent === 'Repair'")
	other := s.desk(browser.Start(t), path)
	browser.Eval[any](other.Page, "plainTracerApp.command('stop-add', '0 0 100 100')")
	other.saved()
	d.ClickOn("#stop-add")
	d.Until("document.querySelectorAll('#stops-list li').length === 5 && " + saved)
	browser.Eval[any](d.Page,
		`(() => { const [title, words] = document.querySelectorAll('#stops-list li:last-child :is(input, textarea)')
		title.value = 'Tests'; words.value = 'Twice'; words.dispatchEvent(new Event('change', { bubbles: true })) })()`)
	d.ClickOn("#stops-list li:last-child [data-does='-1']")
	d.Until(saved)
	d.ClickOn("#stops-list li:first-child [data-does=remove]")
	d.Until("document.querySelectorAll('#stops-list li').length === 4 && " + saved)
	var got []string
	for _, stop := range s.file(path).Stops {
		got = append(got, stop.Title+" "+stop.Words)
	}
	want := "What the crew finds Lamp or mains: the crew cannot know before it has been there.," +
		"The repair Parts that are not in stock cost a second drive.,Tests Twice,Report and diagnosis "
	if strings.Join(got, ",") != want {
		t.Errorf("the stops are %s", strings.Join(got, ","))
	}
	for range 4 { // the removal, the move, the words, the stop
		d.Key("z", ctrl)
	}
	d.Until(saved)
	if n := len(s.file(path).Stops); n != 4 {
		t.Errorf("undone, there are %d stops", n)
	}
	d.sound()
}
