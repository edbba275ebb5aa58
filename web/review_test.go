package web

import (
	"bytes"
	"fmt"
	"html"
	"image"
	"image/png"
	"mime/multipart"
	"net/url"
	"regexp"
	"strings"
	"testing"
	"time"

	"plaintracer/account"
	"plaintracer/core/edit"
	"plaintracer/core/geometry"
	"plaintracer/core/model"
	"plaintracer/store"
	"plaintracer/web/reviews"
)

// reviewed is a house with a map of three steps, on which everybody has the right they are called after.
func reviewed(t *testing.T) (h *household, id string) {
	t.Helper()
	h = openHouse(t)
	m := model.New("Lend a bike", model.Rightwards, "A4", true)
	for i, text := range []string{"Ask for a card", "Hand over the bike", "Take it back"} {
		m.Sheets[0].Symbols = append(m.Sheets[0].Symbols, &model.Symbol{ID: fmt.Sprint("s", i), Kind: model.Process,
			Text: text, Box: geometry.Box{X: 6000 + i*18000, Y: 9000, W: 12000, H: 7000}})
		if i > 0 {
			m.Sheets[0].Connectors = append(m.Sheets[0].Connectors,
				&model.Connector{ID: fmt.Sprint("c", i), From: model.End{Symbol: fmt.Sprint("s", i-1)},
					To: model.End{Symbol: fmt.Sprint("s", i)}})
		}
	}
	var err error
	id, err = h.s.Maps.CreateFor(m, h.ids["owner"], "")
	h.must(err)
	for _, r := range account.Rights {
		if h.ids[r.Name] != "" {
			h.must(h.s.Folders.Grant(account.Grant{Place: account.Place{Map: id}, Person: h.ids[r.Name],
				Right: r.Right}))
		}
	}
	return h, id
}

func (h *household) form(who, path string, pairs ...string) (int, string) {
	h.Helper()
	q := url.Values{}
	for i := 0; i < len(pairs); i += 2 {
		q.Add(pairs[i], pairs[i+1])
	}
	r, body := h.ask(who, "POST", path, q.Encode())
	return r.StatusCode, html.UnescapeString(body)
}

// A remark stays with its step when that moves, changes kind or text, or is deleted and brought back; it stays readable
// meanwhile, with what the step said.
func TestRemarksStick(t *testing.T) {
	h, id := reviewed(t)
	base := "/maps/" + id
	for _, r := range [][]string{{"item", "s1", "text", "Which bike?"}, {"item", "c2", "text", "How long between?"},
		{"text", "Good overview"}, {"sheet", "sheet-1", "x", "30000", "y", "30000", "text", "What is here?"}} {
		if code, body := h.form("remark", base+"/remarks", r...); code != 200 ||
			strings.Contains(body, `class="refusal"`) {
			t.Fatalf("%v: %d %.300s", r, code, body)
		}
	}
	d, err := h.s.Documents.Open(id)
	h.must(err)
	window, _ := d.NewWindow()
	n := 0
	do := func(e edit.Edit) {
		t.Helper()
		n++
		_, err := d.Apply(window, n, e)
		h.must(err)
	}
	sees := func(about string, gone bool) {
		t.Helper()
		_, body := h.ask("edit", "GET", base+"/remarks", "")
		body = html.UnescapeString(body)
		at := strings.Index(body, "Which bike?")
		if at < 0 {
			t.Fatal("the remark is gone")
		}
		head := body[strings.LastIndex(body[:at], `class="about"`):at]
		if !strings.Contains(head, about) || strings.Contains(head, "gone:") != gone {
			t.Errorf("it is about %.200s, not %q, gone %v", head, about, gone)
		}
	}
	sees("2  Hand over the bike", false)
	do(&edit.MoveItems{Sheet: "sheet-1", IDs: []string{"s1"}, By: geometry.Point{X: 500, Y: 40000}})
	do(&edit.SetKind{Sheet: "sheet-1", ID: "s1", Kind: model.Document})
	do(&edit.SetText{Sheet: "sheet-1", ID: "s1", Text: "Loan slip"})
	sees("Loan slip", false)
	do(&edit.RemoveItems{Sheet: "sheet-1", IDs: []string{"s1"}})
	sees("2  Hand over the bike", true)
	list, err := h.s.Remarks.Of(id)
	h.must(err)
	if a := list[3].Anchor; a.Item != "s1" && a.Item != "s0" || a.X == 0 {
		t.Errorf("the place is kept by %+v", a)
	}
	m, _ := d.Snapshot()
	was, err := d.At(3)
	h.must(err)
	do(edit.ReturnTo(m, was, "return"))
	sees("Loan slip", false)
	// A copy takes none along unless that is asked for.
	if r, _ := h.ask("owner", "POST", base+"/copy", ""); r.StatusCode != 303 {
		t.Fatal(r.StatusCode)
	}
	maps, err := h.s.List("", false)
	h.must(err)
	for _, one := range maps {
		if one.ID != id {
			if list, err := h.s.Remarks.Of(one.ID); err != nil || len(list) > 0 {
				t.Errorf("the copy has %d remarks, %v", len(list), err)
			}
			h.must(h.s.Documents.Bin(one.ID))
		}
	}
	first, err := h.s.Remarks.Add(store.Remark{Map: id, Thread: list[0].ID, Author: h.ids["edit"], Name: "edit",
		Text: "The blue one"}, nil)
	h.must(err)
	if code, _ := h.form("owner", base+"/copy", "remarks", "yes"); code != 303 || first == "" {
		t.Fatal(code)
	}
	maps, err = h.s.List("", false)
	h.must(err)
	for _, one := range maps {
		if copied, err := h.s.Remarks.Of(one.ID); err != nil || len(copied) != 4 || len(copied[0].Answers) != 1 {
			t.Errorf("the copy has %d remarks, %v", len(copied), err)
		}
	}
}

// What is said is answered, settled, changed and deleted by whom it is for; a proposal is taken once; nothing that is
// said runs, or passes for what it is not.
func TestWhatIsSaid(t *testing.T) {
	h, id := reviewed(t)
	base := "/maps/" + id
	link, err := h.s.Links.Create(id, h.ids["owner"], store.Choices{Right: account.Remark}, "")
	h.must(err)
	say := func(who, path string, pairs ...string) string {
		t.Helper()
		code, body := h.form(who, path, pairs...)
		if code != 200 {
			t.Fatalf("%s %v: %d %.300s", path, pairs, code, body)
		}
		return body
	}
	refused := func(body, why string) {
		t.Helper()
		if m := regexp.MustCompile(`class="refusal"[^>]*>([^<]*)`).FindStringSubmatch(body); m == nil ||
			!strings.Contains(m[1], why) {
			t.Errorf("it is not refused with %q: %v", why, m)
		}
	}
	body := say("remark", base+"/remarks", "item", "s0", "text",
		"<script>alert(1)</script> see https://town.example/x, @owner \u202egnp")
	if strings.Contains(body, "<script>alert") && !strings.Contains(body, "&lt;script") &&
		strings.Count(body, "<script>") > 0 {
		if r, raw := h.ask("owner", "GET", base+"/remarks", ""); strings.Contains(raw, "<script>") ||
			r.StatusCode != 200 {
			t.Error("what was said runs")
		}
	}
	_, raw := h.ask("owner", "GET", base+"/remarks", "")
	for _, want := range []string{`<a href="https://town.example/x" rel="noopener noreferrer nofollow"`,
		`<b class="spoken-to">@owner</b>`, "&lt;script&gt;"} {
		if !strings.Contains(raw, want) {
			t.Errorf("the remark does not show %s", want)
		}
	}
	if strings.Contains(raw, "\u202e") {
		t.Error("what was said turns the direction of the page")
	}
	letter(t, h.s, "owner@town.example", "1 remark you have not seen")
	list, err := h.s.Remarks.Of(id)
	h.must(err)
	first := list[0].ID
	refused(say("remark", base+"/remarks", "text", strings.Repeat("long ", 20000)), "has at most 5000")
	refused(say("remark", base+"/remarks", "text", " "), "Write something first")
	refused(say("remark", base+"/remarks", "item", "nothing", "text", "x"), "was deleted just now")
	refused(say("remark", base+"/remarks", "thread", "NOTHERE", "text", "x"), "not there any more")
	refused(say("owner", base+"/remarks/"+first+"/edit", "text", "changed"), "only by who made it")
	refused(say("owner", base+"/remarks/"+first+"/delete"), "only by who made it")
	refused(say("nobody", "/m/"+link+"/remarks", "text", "x"), "Say first what you are called")
	refused(say("nobody", "/m/"+link+"/remarks", "text", "x", "called", "OWNER"),
		"Somebody in the organisation is called so")
	if body := say("nobody", "/m/"+link+"/remarks", "text", "From outside", "called", "Ann, Roads", "thread",
		first); !strings.Contains(body, "Ann, Roads") || !strings.Contains(body, "by link") {
		t.Error("who came by the link is not told as such")
	}
	say("remark", base+"/remarks/"+first+"/delete")
	if list, err = h.s.Remarks.Of(id); err != nil || len(list) != 1 || !list[0].Deleted || list[0].Text != "" ||
		len(list[0].Answers) != 1 {
		t.Errorf("deleted with an answer: %+v, %v", list, err)
	}
	refused(say("remark", base+"/remarks/"+first+"/settle"), "not there any more")

	say("remark", base+"/remarks", "item", "s2", "proposal", "Take the bike back", "text", "Clearer so")
	list, err = h.s.Remarks.Of(id)
	h.must(err)
	proposed := list[len(list)-1].ID
	if code, _ := h.form("remark", base+"/remarks/"+proposed+"/proposal"); code != 403 {
		t.Errorf("who may remark takes a proposal: %d", code)
	}
	say("edit", base+"/remarks/"+proposed+"/proposal", "declined", "yes", "word", "too long")
	refused(say("edit", base+"/remarks/"+proposed+"/proposal"), "answered already")
	if one, err := h.s.Remarks.Get(id, proposed); err != nil || one.Answered != "declined: too long" ||
		one.Settled.IsZero() {
		t.Errorf("the proposal: %+v, %v", one, err)
	}
	refused(say("remark", base+"/remarks", "proposal", "Nothing"), "A text is proposed for a step")

	// A line of the conversation is pinned to a step, by who said it or who edits.
	say("remark", base+"/remarks", "text", "Who has the key?")
	list, err = h.s.Remarks.Of(id)
	h.must(err)
	line := list[len(list)-1].ID
	refused(say("nobody", "/m/"+link+"/remarks/"+line+"/pin", "item", "s1"), "Only who said it")
	refused(say("edit", base+"/remarks/"+line+"/pin"), "Select the step first")
	refused(say("edit", base+"/remarks/"+line+"/pin", "item", "nothing"), "was deleted just now")
	say("edit", base+"/remarks/"+line+"/pin", "item", "s1")
	if r, err := h.s.Remarks.Get(id, line); err != nil || r.Anchor.Item != "s1" {
		t.Errorf("the pinned line is about %+v, %v", r.Anchor, err)
	}
	refused(say("remark", base+"/remarks/"+line+"/pin", "item", "s2"), "Only what was said of the whole map")

	// One that is wanted by its address is shown, whatever is chosen and however many stand before it.
	var last string
	for range reviews.ShownThreads + 5 {
		last, err = h.s.Remarks.Add(store.Remark{Map: id, Author: h.ids["edit"], Name: "edit", Text: "One of many"},
			nil)
		h.must(err)
	}
	if _, body := h.ask("edit", "GET", base+"/remarks", ""); strings.Contains(body, "thread-"+last) ||
		!strings.Contains(body, "data-more") {
		t.Error("all threads are shown at once")
	}
	if _, body := h.ask("edit", "GET", base+"/remarks?show=settled&wanted="+last, ""); !strings.Contains(body,
		"thread-"+last) {
		t.Error("a thread that is wanted is not shown")
	}

	// Pictures are decoded before they are kept.
	var good bytes.Buffer
	h.must(png.Encode(&good, image.NewRGBA(image.Rect(0, 0, 20, 10))))
	for name, c := range map[string]struct {
		data []byte
		why  string
	}{"good": {good.Bytes(), ""}, "no picture": {[]byte("GIF89a"), "is PNG or JPEG"},
		"cut short": {good.Bytes()[:40], "picture"}, "large": {bytes.Repeat([]byte("\x89PNG"), 2<<20), "at most 4 MB"},
		"a bomb": {bomb(), "million pixels"}} {
		var body bytes.Buffer
		w := multipart.NewWriter(&body)
		h.must(w.WriteField("text", "With a picture"))
		part, err := w.CreateFormFile("picture", "p.png")
		h.must(err)
		_, err = part.Write(c.data)
		h.must(errorsJoin(err, w.Close()))
		b := newBrowser(t, h.app)
		b.cookies["session"], b.token = h.tokens["remark"], h.s.Sign("form", h.ids["remark"], h.tokens["remark"])
		r, answer := b.do("POST", base+"/remarks", body.String(), w.FormDataContentType())
		switch {
		case c.why == "" && (r.StatusCode != 200 || strings.Contains(answer, `class="refusal"`)):
			t.Errorf("%s: %d %.300s", name, r.StatusCode, answer)
		case c.why != "":
			refused(answer, c.why)
		}
	}
	list, err = h.s.Remarks.Of(id)
	h.must(err)
	if r, data := h.ask("remark", "GET", base+"/remarks/"+list[len(list)-1].ID+"/picture", ""); r.StatusCode != 200 ||
		data != good.String() {
		t.Errorf("the picture: %d, %d bytes", r.StatusCode, len(data))
	}
	if r, _ := h.ask("nobody", "GET", "/m/"+link+"/remarks", ""); r.StatusCode != 200 {
		t.Errorf("the list by link: %d", r.StatusCode)
	}
}

// bomb is a PNG that claims to be of 100,000 by 100,000 pixels.
func bomb() []byte {
	var b bytes.Buffer
	if err := png.Encode(&b, image.NewGray(image.Rect(0, 0, 1, 1))); err != nil {
		panic(err)
	}
	raw := b.Bytes()
	copy(raw[16:24], []byte{0, 1, 0x86, 0xa0, 0, 1, 0x86, 0xa0})
	// the checksum of the header (PNG, 5.3) is over type and data
	sum := crc(raw[12:29])
	copy(raw[29:33], []byte{byte(sum >> 24), byte(sum >> 16), byte(sum >> 8), byte(sum)})
	return raw
}

func crc(data []byte) uint32 {
	sum := ^uint32(0)
	for _, b := range data {
		sum ^= uint32(b)
		for range 8 {
			if sum&1 != 0 {
				sum = sum>>1 ^ 0xedb88320
			} else {
				sum >>= 1
			}
		}
	}
	return ^sum
}

// A round asks people for a version; what they say, and what it comes to, stays; after it ended nothing is said any
// more.
func TestRounds(t *testing.T) {
	h, id := reviewed(t)
	base := "/maps/" + id
	state := func() string {
		t.Helper()
		_, body := h.ask("owner", "GET", "/?view=list", "")
		return regexp.MustCompile(`draft|in review: [^<]*|(agreed|reviewed): version \d, [^<]*`).FindString(body)
	}
	today := time.Now().Format("2 January 2006")
	if state() != "draft" {
		t.Errorf("the map is %q at first", state())
	}
	if _, body := h.form("owner", base+"/rounds"); !strings.Contains(body, "Choose who is asked") {
		t.Error("a round with nobody is begun")
	}
	if _, body := h.form("owner", base+"/rounds", "person", h.ids["remark"], "person", h.ids["read"], "names",
		"Ann, Bob", "word", "Please look", "until",
		time.Now().AddDate(0, 0, 3).Format(time.DateOnly)); !strings.Contains(body, "Round 1") ||
		state() != "in review: nobody has answered yet" {
		t.Fatalf("the round: %s %.600s", state(), body)
	}
	letter(t, h.s, "remark@town.example", "asks you to review")
	if _, body := h.form("owner", base+"/rounds", "names", "Ann"); !strings.Contains(body, "under way already") {
		t.Error("two rounds run at once")
	}
	rounds, err := h.s.Rounds.Of(id)
	h.must(err)
	r := rounds[0]
	if len(r.Verdicts) != 4 || r.Version.Number != 1 || len(r.Version.Hash) != 64 {
		t.Errorf("the round is %+v", r)
	}
	// Who could only read was asked as well, and is told that they may remark from now on; the map waits for them.
	if text := letter(t, h.s, "read@town.example", "asks you to review").Plain; !strings.Contains(text,
		"You may remark on it from now on.") {
		t.Errorf("who gets a right is told: %s", text)
	}
	if _, body := h.ask("read", "GET", "/", ""); !strings.Contains(body, "Waiting for you") ||
		!strings.Contains(body, "Please look") {
		t.Error("home does not say that the map waits for who was asked")
	}
	if _, body := h.ask("read", "GET", base, ""); !strings.Contains(body, "data-asked") {
		t.Error("the map does not open with the round")
	}
	said := func(who, want string, pairs ...string) {
		t.Helper()
		if _, body := h.form(who, base+"/rounds/"+r.ID+"/say", pairs...); !strings.Contains(body, want) {
			t.Errorf("%s saying %v is not answered with %q", who, pairs, want)
		}
	}
	said("remark", "Choose what you say", "verdict", "perhaps")
	said("remark", "Say why", "verdict", "not agreed")
	said("remark", "no loan slip", "verdict", "not agreed", "reason", "There is no loan slip")
	d, err := h.s.Documents.Open(id)
	h.must(err)
	_, err = d.Apply("w1", 1, &edit.SetText{Sheet: "sheet-1", ID: "s1", Text: "Hand over bike and slip"})
	h.must(err)
	said("read",
		"So far: not agreed: remark, agreed with remarks by 1 of 4, 2 have not answered; the map was changed since version 1.",
		"verdict", "agreed with remarks")
	if _, body := h.ask("read", "GET", "/", ""); strings.Contains(body, "Waiting for you") {
		t.Error("the map waits for who has said something")
	}
	const first = "not agreed: remark, agreed with remarks by 1 of 4, 2 have not answered; of version 1, 1 change since is not part of it: step 2 reworded"
	if _, body := h.form("owner", base+"/rounds/"+r.ID+"/end"); !strings.Contains(body, first) ||
		state() != "reviewed: version 1, "+today+": "+first {
		t.Errorf("the outcome: %s %.300s", state(), body)
	}
	if text := letter(t, h.s, "owner@town.example", "").Plain; !strings.Contains(text, "So far: ") {
		t.Errorf("the message says %s", text)
	}
	said("remark", "This round has ended", "verdict", "agreed")

	// The second round, of what was changed, is agreed.
	h.form("owner", base+"/rounds", "person", h.ids["remark"])
	rounds, err = h.s.Rounds.Of(id)
	h.must(err)
	r = rounds[0]
	if _, body := h.ask("remark", "GET", fmt.Sprintf("%s/changes?from=%s&to=%s", base, rounds[1].Version.ID,
		r.Version.ID), ""); !strings.Contains(html.UnescapeString(body), "Step 2 “Hand over the bike” was reworded") {
		t.Error("the reviewer is not told what changed")
	}
	said("remark", "agreed", "verdict", "agreed")
	h.form("owner", base+"/rounds/"+r.ID+"/end")
	if state() != "agreed: version 2, "+today+", by remark" {
		t.Errorf("after the second round it is %q", state())
	}
	// The outcome goes into the heading, and the map stands as agreed until something else changes.
	h.form("owner", base+"/rounds/"+r.ID+"/heading")
	if m, _ := d.Snapshot(); m.Heading.Version != "2, agreed by remark" || m.Heading.Date == "" ||
		state() != "agreed: version 2, "+today+", by remark" {
		t.Errorf("the heading says %+v, and the map is %s", m.Heading, state())
	}
	_, err = d.Apply("w3", 1, &edit.SetText{Sheet: "sheet-1", ID: "s2", Text: "Changed since"})
	h.must(err)
	const changed = "by remark; the map was changed since version 2"
	if state() != "agreed: version 2, "+today+", "+changed {
		t.Errorf("changed after it was agreed, it is %s", state())
	}
	answer, body := h.ask("owner", "GET", base+"/rounds/"+r.ID+"/page.pdf", "")
	if answer.StatusCode != 200 || !strings.HasPrefix(body, "%PDF-") {
		t.Errorf("the page as PDF: %d", answer.StatusCode)
	}
	if _, body := h.ask("owner", "GET", base+"/rounds/"+r.ID+"/page.html",
		""); !strings.Contains(body, r.Version.Hash) || !strings.Contains(body, changed) {
		t.Error("the page does not hold the version's hash and what was said")
	}
	_, err = d.Apply("w1", 2, &edit.SetText{Sheet: "sheet-1", ID: "s0", Text: "Ask for card and name"})
	h.must(err)
	if state() != "agreed: version 2, "+today+", "+changed {
		t.Errorf("changed after that it is %q", state())
	}
	// What was agreed stays as it was.
	_, m, err := h.s.Versions.Get(r.Version.ID)
	if err != nil || m.Sheets[0].Symbols[0].Text != "Ask for a card" {
		t.Errorf("the agreed version says %q, %v", m.Sheets[0].Symbols[0].Text, err)
	}
}

// Versions are kept, shown as they were, compared, copied, and returned to; the history says who did what.
func TestVersionsAndHistory(t *testing.T) {
	h, id := reviewed(t)
	base := "/maps/" + id
	if code, body := h.form("edit", base+"/versions", "name", "first draft", "word", "For Stores"); code != 200 ||
		!strings.Contains(body, "Version 1, first draft") {
		t.Fatalf("%d %.300s", code, body)
	}
	d, err := h.s.Documents.Open(id)
	h.must(err)
	for n, e := range []edit.Edit{&edit.SetText{Sheet: "sheet-1", ID: "s0", Text: "Ask"},
		&edit.SetText{Sheet: "sheet-1", ID: "s2", Text: "Back"},
		&edit.RemoveItems{Sheet: "sheet-1", IDs: []string{"c1"}}} {
		_, err := d.ApplyAs(h.ids["edit"], "w1", n+1, e)
		h.must(err)
	}
	_, body := h.ask("edit", "GET", base+"/history", "")
	for _, want := range []string{"reworded steps", "removed 1 thing", "edit, <time"} {
		if !strings.Contains(strings.ReplaceAll(body, "\n    ", " "), want) && !strings.Contains(body, want) {
			t.Errorf("the history does not say %q: %.2500s", want, body)
		}
	}
	if _, body := h.ask("edit", "GET", base+"/history?q=nothing+like+it", ""); strings.Contains(body, "reworded") {
		t.Error("the search in the history finds everything")
	}
	list, err := h.s.Versions.Of(id)
	h.must(err)
	v := list[0]
	for path, want := range map[string]string{"/versions/" + v.ID: "version 1, first draft",
		"/versions/r1": "revision 1", "/versions/now": "now", "/changes?from=" + v.ID: "was reworded",
		"/changes/account.md?from=" + v.ID: "- Step 1",
		"/changes/account.json?from=r0":    `"changes"`, "/changes/side.svg?sheet=sheet-1&side=old&from=" + v.ID: "Ask",
		"/versions/" + v.ID + "/sheet.svg?sheet=sheet-1": "<svg"} {
		if r, body := h.ask("remark", "GET", base+path, ""); r.StatusCode != 200 ||
			!strings.Contains(html.UnescapeString(body), want) {
			t.Errorf("%s: %d, without %q", path, r.StatusCode, want)
		}
	}
	for path, code := range map[string]int{"/versions/NOTHERE": 404, "/versions/r99": 404,
		"/versions/r99999999999": 404, "/changes?from=r-1": 404, "/changes/account.exe": 404,
		"/changes/side.svg?sheet=none": 404} {
		if r, _ := h.ask("remark", "GET", base+path, ""); r.StatusCode != code {
			t.Errorf("%s answers %d", path, r.StatusCode)
		}
	}
	other, err := h.s.Maps.CreateFor(model.New("Another", model.Rightwards, "A4", true), h.ids["owner"], "")
	h.must(err)
	if r, _ := h.ask("owner", "GET", "/maps/"+other+"/versions/"+v.ID, ""); r.StatusCode != 404 {
		t.Errorf("a version is shown on another map: %d", r.StatusCode)
	}
	r, raw := h.ask("edit", "GET", base+"/versions/"+v.ID+"/return", "")
	var e edit.Envelope
	if err := e.UnmarshalJSON([]byte(raw)); err != nil || r.StatusCode != 200 {
		t.Fatalf("%v %d", err, r.StatusCode)
	}
	_, err = d.Apply("w2", 1, e.Edit)
	h.must(err)
	now, _ := d.Snapshot()
	_, then, err := h.s.Versions.Get(v.ID)
	h.must(err)
	if fmt.Sprint(now.Sheets[0].Symbols[0].Text,
		len(now.Sheets[0].Connectors)) != fmt.Sprint(then.Sheets[0].Symbols[0].Text, len(then.Sheets[0].Connectors)) {
		t.Error("returned to a version the map is another")
	}
	// who may not see what was before does not copy it
	for who, code := range map[string]int{"read": 403, "remark": 303} {
		if r, _ := h.ask(who, "POST", base+"/versions/"+v.ID+"/copy", ""); r.StatusCode != code {
			t.Errorf("a copy of the version as %s: %d", who, r.StatusCode)
		}
	}
}
