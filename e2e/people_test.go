package e2e

import (
	"net/http"
	"net/http/cookiejar"
	"net/url"
	"regexp"
	"strings"
	"testing"
	"time"

	"plaintracer/e2e/browser"
	"plaintracer/e2e/program"
)

// be signs somebody of the demo in.
func (s *server) be(b *browser.Browser, name string) *browser.Page {
	s.Helper()
	p := b.Open(s.URL + "/sign-in")
	p.Until("document.querySelector('.be')")
	browser.Eval[any](p, "[...document.querySelectorAll('.be button')].find(b => b.textContent.includes('"+name+
		"')).click()")
	p.Until("document.readyState === 'complete' && document.querySelector('.who-menu')?.textContent.includes('" + name +
		"')")
	return p
}

// Two people work on one map in two browsers; a third reads it, sees it change, and is told at once when that ends.
func TestTwoPeopleAndAReader(t *testing.T) {
	s := start(t, "demo")
	ida := browser.Start(t)
	path := s.demo(ida, "A street light is out")
	if who := s.be(ida, "Ida Brandt"); !strings.Contains(who.Text(".home"), "Lend a cargo bike") {
		t.Error("the analyst does not see her maps")
	}
	d := s.desk(ida, path)
	other := browser.Start(t)
	p := s.be(other, "Jonas Petri")
	if text := p.Text(".home"); strings.Contains(text, "Lend a cargo bike") ||
		!strings.Contains(text, "A street light is out") {
		t.Errorf("Jonas sees %s", text)
	}
	jonas := &desk{Page: other.Open(s.URL + path), s: s, path: path}
	jonas.ready()
	if browser.Eval[bool](jonas.Page, "document.getElementById('share').checkVisibility()") {
		t.Error("who may not share is offered to")
	}
	jonas.clickStep("Log the report")
	jonas.Key("Note the report" + browser.Enter)
	jonas.saved()
	d.Until("document.getElementById('symbols').textContent.includes('Note') && document.querySelector('#here').textContent.includes('2')")
	// where the other one points, and what is selected there, is seen; following goes to that sheet
	jonas.clickStep("Fault in the lamp?")
	d.Until("document.querySelector('#others text')?.textContent === 'Jonas Petri' && document.querySelector('#others rect') && document.querySelector('#follow button')?.textContent === 'JP'")
	d.ClickOn("#follow button")
	jonas.ClickOn("#tabs button:nth-child(2)")
	x, y, _, _ := jonas.where("Replace the lamp")
	jonas.Click(x, y)
	d.Until("document.querySelector('#tabs [aria-selected=true]').textContent === 'Repair'")
	d.ClickOn("#tabs button:nth-child(1)")
	jonas.ClickOn("#tabs button:nth-child(1)")
	for _, step := range []string{"/links", "/people", "/delete"} {
		if code := browser.Eval[bool](jonas.Page,
			"window.asked = undefined, fetch(location.pathname + '"+step+"', { method: '"+
				map[bool]string{true: "POST", false: "GET"}[step == "/delete"]+
				"' }).then(r => { window.asked = r.status }), true"); !code {
			t.Fatal("not asked")
		}
		jonas.Until("window.asked")
		if code := browser.Eval[int](jonas.Page, "window.asked"); code != 403 {
			t.Errorf("%s answers Jonas with %d", step, code)
		}
	}
	third := browser.Start(t)
	s.be(third, "Selma Kurt")
	selma := third.Open(s.URL + path)
	selma.Until("document.getElementById('live')?.textContent === 'Live'")
	d.clickStep("Note the report")
	d.Key("Write the report down" + browser.Enter)
	d.saved()
	selma.Until("document.getElementById('sheet').textContent.includes('Write')")
	// The folder is everyone's to read; on the map itself Selma is kept out.
	d.ClickOn("#share")
	d.Until("document.querySelector('#shares .give')")
	d.ClickOn("#shares [name=email]")
	d.Key("selma.kurt@town.example")
	browser.Eval[any](d.Page, "document.querySelector('#shares .give [name=right]').value = 'edit'")
	d.ClickOn("#shares .give button")
	d.Until("[...document.querySelectorAll('#shares li')].some(l => l.textContent.includes('Selma'))")
	selma.Go(s.URL + path)
	selma.Until("document.documentElement.dataset.ready")
	browser.Eval[any](d.Page,
		"(() => { const f = [...document.querySelectorAll('#shares li')].find(l => l.textContent.includes('Selma')).querySelector('select'); f.value = 'none'; f.dispatchEvent(new Event('change', { bubbles: true })) })()")
	selma.Until("document.getElementById('saved').textContent.includes('What you may do with this map has changed')")
	selma.Go(s.URL + path)
	selma.Until("document.body.textContent.includes('There is nothing here for you')")
	// Who is switched off is out at once.
	_, page := get(t, s.URL+"/people")
	id := regexp.MustCompile(`(?s)jonas\.petri@town\.example.*?/people/([A-Z0-9]+)/switch`).FindSubmatch(page)
	if code, _, _ := s.Post("/people/"+string(id[1])+"/switch", nil); code != 200 {
		t.Fatalf("switching off: %d", code)
	}
	jonas.Until("document.getElementById('saved').textContent.includes('You are signed out')")
	jonas.Go(s.URL + "/me")
	if text := jonas.Text("body"); strings.Contains(text, "Jonas") {
		t.Errorf("who is switched off is still there: %.200s", text)
	}
	d.ClickOn("#share-dialog .end button")
	d.sound()
}

// A house begins with its first owner; maps of others are searched for and opened at the step that was found; folders
// are made, and maps moved there, by keyboard alone and by dragging.
func TestHomeByKeyboard(t *testing.T) {
	s := &server{program.StartForPeople(t)}
	b := browser.Start(t)
	p := b.Open(s.URL + "/")
	p.Until("location.pathname === '/first'")
	p.Go(s.First)
	p.Until("document.querySelector('[name=key]')?.value.length > 20")
	p.ClickOn("[name=name]")
	p.Key("Ida Brandt\tida@town.example\tseven grey lamp posts" + browser.Enter)
	p.Until("location.pathname === '/' && document.querySelector('.who-menu')")
	for _, title := range []string{"Approval", "Incident"} {
		p.ClickOn("#begin")
		p.Until("document.querySelector('.start-card')")
		p.ClickOn("label:has([data-title=" + title + "])")
		p.ClickOn("#create")
		p.Until("document.documentElement.dataset.ready")
		p.Go(s.URL + "/?view=cards")
	}
	p.Until("document.querySelectorAll('.card').length === 2 && document.querySelector('.card').textContent.includes('9 steps') === false")
	// a folder, by keyboard
	browser.Eval[any](p, "document.querySelector('[data-dialog=folder-new]').focus()")
	p.Key(browser.Enter)
	p.Until("document.activeElement.name === 'name' && document.getElementById('folder-new').open")
	p.Key("Works" + browser.Enter)
	p.Until("document.querySelector('.folders')?.textContent.includes('Works') && location.search.includes('folder=')")
	p.Go(s.URL + "/")
	p.Until("document.querySelectorAll('.card').length === 2")
	browser.Eval[any](p, "document.querySelector('.card h2 a').focus()")
	p.Key(" ")
	p.Until("document.getElementById('marked').textContent === '1 map is selected'")
	p.Key("m")
	p.Until("document.getElementById('maps-move').open && document.activeElement.name === 'folder'")
	p.Key("W" + browser.Enter)
	p.Until("document.readyState === 'complete' && !document.getElementById('maps-move')?.open && [...document.querySelectorAll('.card')].some(c => c.textContent.includes('Works'))")
	// and the other by dragging
	browser.Eval[any](p, `(() => {
		const card = [...document.querySelectorAll('.card')].find(c => !c.textContent.includes('Works')), into = document.querySelector('[data-takes]'), data = new DataTransfer()
		card.dispatchEvent(new DragEvent('dragstart', { bubbles: true, dataTransfer: data }))
		into.dispatchEvent(new DragEvent('dragover', { bubbles: true, cancelable: true, dataTransfer: data }))
		into.dispatchEvent(new DragEvent('drop', { bubbles: true, cancelable: true, dataTransfer: data })) })()`)
	p.Until("document.readyState === 'complete' && document.querySelectorAll('.card').length === 2 && [...document.querySelectorAll('.card')].every(c => c.textContent.includes('Works'))")
	// renamed in place
	browser.Eval[any](p, "[...document.querySelectorAll('.card h2 a')].find(a => a.textContent === 'Incident').focus()")
	p.Key(browser.F2)
	p.Until("document.activeElement.name === 'title'")
	p.Key("Accident" + browser.Enter)
	p.Until("[...document.querySelectorAll('.card h2 a')].some(a => a.textContent === 'Accident')")
	// found by a step, and opened there
	p.ClickOn("[name=q]")
	p.Key("safe place" + browser.Enter)
	p.Until("document.querySelectorAll('.card').length === 1 && document.querySelector('.hits')?.textContent.includes('Make the place safe')")
	p.ClickOn(".hits a")
	p.Until("document.documentElement.dataset.ready && document.querySelector('.register .chosen')?.textContent.includes('Make the place safe')")
	// into the bin by key, and signed out
	p.Go(s.URL + "/")
	browser.Eval[any](p, "document.querySelector('.card h2 a').focus()")
	gone := browser.Eval[string](p, "document.activeElement.textContent")
	p.Key(browser.Delete)
	p.Until("document.querySelectorAll('.card').length === 1 && document.getElementById('binned').textContent.includes('" + gone + "') && document.activeElement.matches('.card h2 a')")
	p.ClickOn("#binned button") // it was a slip
	p.Until("document.querySelectorAll('.card').length === 2 && document.getElementById('binned').hidden && document.activeElement.textContent === '" + gone + "'")
	p.Key(browser.Delete)
	p.Until("document.querySelectorAll('.card').length === 1 && !document.getElementById('binned').hidden")
	p.ClickOn(".who-menu summary")
	p.ClickOn(".who-menu form button")
	p.Until("location.pathname === '/sign-in'")
	p.ClickOn("[name=email]")
	p.Key("ida@town.example\tseven grey lamp post" + browser.Enter)
	p.Until("document.querySelector('.refusal')?.textContent.includes('Wrong email address or password')")
	p.ClickOn("[name=password]")
	p.Key("seven grey lamp posts" + browser.Enter)
	p.Until("document.querySelector('.who-menu')")
	if faults := p.Faults(); len(faults) > 0 {
		t.Errorf("the page reports %q", faults)
	}
}

// A link to edit opens the editor for whoever has it; one for named addresses asks for a code that went there by mail;
// one of a fixed state goes on showing that.
func TestLinksForAPurpose(t *testing.T) {
	s := start(t, "demo")
	b := browser.Start(t)
	d := s.desk(b, s.demo(b, "Lend a cargo bike"))
	fixed := d.link("state", "fixed")
	edit := d.link("purpose", "edit")
	named := d.link("addresses", "ann@else.example, bob@else.example")
	if !strings.Contains(edit, "/e/") || !strings.Contains(fixed, "/r/") {
		t.Errorf("the links are %s and %s", edit, fixed)
	}
	other := browser.Start(t)
	guest := &desk{Page: other.Open(edit), s: s, path: d.path}
	guest.ready()
	guest.clickStep("Hang the key on its hook")
	guest.Key("Put the key away" + browser.Enter)
	guest.saved()
	d.Until("document.getElementById('symbols').textContent.includes('away')")
	reader := other.Open(fixed)
	reader.Until("document.getElementById('live')?.textContent === 'Live'")
	if text := reader.Text("#sheet"); strings.Contains(text, "away") || !strings.Contains(text, "hook") {
		t.Errorf("the fixed state shows %s", text)
	}
	if !strings.Contains(reader.Text(".badge"), "as it was on") {
		t.Error("it does not say as of when it is")
	}
	// who is not named gets no code, and the same page
	jar, err := cookiejar.New(nil)
	if err != nil {
		t.Fatal(err)
	}
	client := &http.Client{Jar: jar, Timeout: time.Minute}
	r, err := client.PostForm(named+"/enter", url.Values{"address": {"eve@else.example"}})
	if err != nil {
		t.Fatal(err)
	}
	r.Body.Close()
	p := other.Open(named)
	p.Until("document.querySelector('[name=address]')")
	p.ClickOn("[name=address]")
	p.Key("Ann@else.example" + browser.Enter)
	p.Until("document.querySelector('[name=code]')")
	_, outbox := get(t, s.URL+"/outbox")
	code := regexp.MustCompile(`(?s)Your code for a map.*?<p>(\d{6})</p>`).FindSubmatch(outbox)
	if code == nil || strings.Contains(string(outbox), "eve@") {
		t.Fatalf("the outbox holds %.600s", outbox)
	}
	p.ClickOn("[name=code]")
	p.Key("000000" + browser.Enter)
	p.Until("document.querySelector('.refusal')?.textContent.includes('not the code')")
	p.ClickOn("[name=code]")
	p.Key(string(code[1]) + browser.Enter)
	p.Until("document.getElementById('live')?.textContent === 'Live'")
	// the link to edit is withdrawn while somebody writes
	guest.clickStep("Put the key away")
	guest.Key("Half a wo")
	d.ClickOn("#share")
	d.Until("document.querySelectorAll('#links li').length === 3")
	browser.Eval[any](d.Page,
		"[...document.querySelectorAll('#links li')].find(l => l.textContent.includes('to edit')).querySelector('button').click()")
	guest.Until("document.body.textContent.includes('ended')")
	d.ClickOn("#share-dialog .end button")
	d.sound()
}

// The people in the organisation are looked after from the command line, while the program runs.
func TestPeopleByCommand(t *testing.T) {
	s := &server{program.StartForPeople(t)}
	out, err := program.Run("people", "add", "ida@town.example", "--name", "Ida Brandt", "--role", "owner", "--data",
		s.Data, "--address", s.URL)
	link := regexp.MustCompile(`http://\S+/invited/\S+`).Find(out)
	if err != nil || link == nil {
		t.Fatalf("%v %s", err, out)
	}
	p := browser.Start(t).Open(string(link))
	p.Until("document.querySelector('[name=password]')")
	p.ClickOn("[name=password]")
	p.Key("seven grey lamp posts" + browser.Enter)
	p.Until("document.querySelector('.who-menu')?.textContent.includes('Ida Brandt')")
	if out, err := program.Run("people", "list", "--data", s.Data); err != nil ||
		!strings.Contains(string(out), "ida@town.example") || !strings.Contains(string(out), "has a password") {
		t.Errorf("%v %s", err, out)
	}
	for _, wrong := range [][]string{{"add", "ida@town.example", "--name", "Ida"}, {"add", "nobody", "--name", "No"},
		{"add", "a@b.example"}, {"reset", "who@town.example"}} {
		if out, err := program.Run(append([]string{"people"}, append(wrong, "--data", s.Data)...)...); err == nil {
			t.Errorf("%v: %s", wrong, out)
		}
	}
	if out, err := program.Run("people", "reset", "ida@town.example", "--data", s.Data, "--address",
		s.URL); err != nil || !strings.Contains(string(out), "/reset/") {
		t.Errorf("%v %s", err, out)
	}
	for _, unsafe := range [][]string{{"--listen", "0.0.0.0:0"},
		{"--listen", "0.0.0.0:0", "--as", "ida@town.example", "--behind-proxy"}, {"--smtp", "localhost:25"},
		{"--openid-issuer", "https://x.example"}} {
		if out, err := program.Run(append([]string{"serve", "--data", t.TempDir()}, unsafe...)...); err == nil {
			t.Errorf("%v is served: %s", unsafe, out)
		}
	}
}
