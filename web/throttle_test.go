package web

import (
	"encoding/csv"
	"fmt"
	"net/http"
	"net/netip"
	"net/url"
	"path/filepath"
	"regexp"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/gofiber/fiber/v3"

	"plaintracer/account"
	"plaintracer/app/house"
	"plaintracer/app/live"
	"plaintracer/core/edit"
	"plaintracer/core/model"
	"plaintracer/mail"
	"plaintracer/review"
	"plaintracer/store"
	"plaintracer/web/site"
)

// letters counts the messages to an address whose subject holds a text.
func (h *town) letters(to, subject string) (n int) {
	h.Helper()
	list, err := h.s.Letters.Outbox()
	if err != nil {
		h.Fatal(err)
	}
	for _, l := range list {
		if l.To == to && strings.Contains(l.Subject, subject) {
			n++
		}
	}
	return n
}

// Codes that are sent to an address are few, and each is tried a few times, however the requests are mixed and wherever
// they come from: nothing is forgotten but by who has proved something.
func TestCodesAreNotGuessed(t *testing.T) {
	h := openTown(t, site.Settings{Proxies: []netip.Prefix{netip.MustParsePrefix("127.0.0.0/8")}}, false)
	token, err := h.s.Links.Create(h.id, h.people["ida"], store.Choices{Right: account.Remark,
		Addresses: "jo@town.example"}, "")
	if err != nil {
		t.Fatal(err)
	}
	g := newGuest(t, h.base)
	tried, sent, right := 0, 0, 0
	var last string
	for n := range 400 {
		at := fmt.Sprintf("198.51.100.%d", n%200) // somebody with many addresses
		g.do("POST", "/m/"+token+"/enter", url.Values{"passcode": {"x"}}, "X-Forwarded-For", at)
		g.do("POST", "/m/"+token+"/enter", url.Values{"address": {"jo@town.example"}}, "X-Forwarded-For", at)
		if list, err := h.s.Letters.Outbox(); err != nil {
			t.Fatal(err)
		} else if len(list) > 0 && list[0].Plain != last {
			last = list[0].Plain
			sent++
		}
		r, body := g.do("POST", "/m/"+token+"/enter", url.Values{"address": {"jo@town.example"},
			"code": {fmt.Sprintf("%06d", n)}}, "X-Forwarded-For", at)
		switch {
		case r.StatusCode == http.StatusSeeOther:
			right++
		case strings.Contains(body, "That is not the code"):
			tried++
		}
	}
	if sent < 1 || sent > site.CodesSent.Free+2 || tried > site.CodesWrong.Free+2 || right > 0 {
		t.Errorf("%d codes were sent, %d guesses tried, %d right", sent, tried, right)
	}
	// No subject holds a code.
	list, err := h.s.Letters.Outbox()
	if err != nil {
		t.Fatal(err)
	}
	for _, l := range list {
		if regexp.MustCompile(`\d{6}`).MatchString(l.Subject) {
			t.Errorf("the subject %q holds a code", l.Subject)
		}
	}
}

// A code dies after five wrong tries, and is good once.
func TestACodeDies(t *testing.T) {
	k := site.NewCodes()
	code := k.Make("a")
	wrong := "000000"
	if code == wrong {
		wrong = "111111"
	}
	for n := range site.CodeTries {
		if k.Take("a", wrong) {
			t.Fatalf("try %d is taken", n)
		}
	}
	if k.Take("a", code) {
		t.Error("the code outlives its tries")
	}
	code = k.Make("a")
	if !k.Take("a", code) || k.Take("a", code) {
		t.Error("a code is not good once")
	}
}

// Many tries at once are as slow as one after the other: each counts before it is made.
func TestTriesAtOnceCount(t *testing.T) {
	h := openTown(t, site.Settings{}, false)
	var all sync.WaitGroup
	var mu sync.Mutex
	answers := map[string]int{}
	for range 24 {
		g := newGuest(t, h.base)
		all.Go(func() {
			_, body := g.do("POST", "/sign-in", url.Values{"email": {"jonas@town.example"},
				"password": {"a wrong password"}})
			mu.Lock()
			defer mu.Unlock()
			for _, text := range []string{"Wrong email address or password", "Too many tries"} {
				if strings.Contains(body, text) {
					answers[text]++
				}
			}
		})
	}
	all.Wait()
	if answers["Wrong email address or password"] > site.ByAccount.Free+1 ||
		answers["Wrong email address or password"]+answers["Too many tries"] != 24 {
		t.Errorf("of 24 at once: %v", answers)
	}
	// The person is kept out of nothing where they have been before, and elsewhere only as long as anybody there.
	h.server.Attempts.Forget(site.ByAccount.Of("jonas@town.example 127.0.0.1"))
	known := h.enter("jonas")
	for range 12 {
		newGuest(t, h.base).do("POST", "/sign-in", url.Values{"email": {"jonas@town.example"},
			"password": {"a wrong password"}})
	}
	if r := newGuest(t, h.base).signIn("jonas@town.example", word); r.StatusCode != http.StatusUnauthorized {
		t.Errorf("a new device after many wrong tries: %d", r.StatusCode)
	}
	if r := known.signIn("jonas@town.example", word); r.StatusCode != http.StatusSeeOther {
		t.Errorf("a known device is kept out by others: %d", r.StatusCode)
	}
	// A colleague with many wrong tries keeps nobody else behind the same address out.
	if r := newGuest(t, h.base).signIn("mara@town.example", word); r.StatusCode != http.StatusSeeOther {
		t.Errorf("another one behind that address: %d", r.StatusCode)
	}
	// A known device has its own allowance, and no more.
	refused := 0
	for range 12 {
		if _, body := known.do("POST", "/sign-in", url.Values{"email": {"jonas@town.example"},
			"password": {"a wrong password"}}); strings.Contains(body, "Too many tries") {
			refused++
		}
	}
	if refused == 0 {
		t.Error("a known device tries without end")
	}
	// A device of one account is not known for another.
	if knownAs(h.server, known, "mara") || !knownAs(h.server, known, "jonas") {
		t.Error("the device of jonas is known for mara, or not for him")
	}
}

// knownAs reports whether the browser would be taken for a known device of somebody.
func knownAs(s *Server, g *guest, name string) bool {
	u, _ := url.Parse(g.base)
	for _, c := range g.client.Jar.Cookies(u) {
		parts := strings.Split(c.Value, ".")
		if c.Name != "device" || len(parts) < 2 {
			continue
		}
		p, _, err := s.House.People.ByMail(name + "@town.example")
		if err != nil {
			return false
		}
		for _, sign := range parts[1:] {
			if s.House.Signed(sign, "device", parts[0], p.ID) {
				return true
			}
		}
	}
	return false
}

// Where a request comes from is what the last proxy that is ours says, and is an address: what whoever asks writes
// themselves is not believed, and stands in no list.
func TestAddressesAreThoseOfProxies(t *testing.T) {
	proxies, err := site.ReadProxies([]string{"127.0.0.1", "10.1.0.0/16"})
	if err != nil {
		t.Fatal(err)
	}
	s := &site.Site{Settings: site.Settings{Proxies: proxies}}
	local := netip.MustParseAddr("127.0.0.1")
	for said, want := range map[string]string{
		"": "127.0.0.1", "198.51.100.7": "198.51.100.7", "203.0.113.9, 198.51.100.7": "198.51.100.7",
		"203.0.113.9,198.51.100.7 , 10.1.2.3": "198.51.100.7",
		"=cmd|' /C calc'!A0":                  "127.0.0.1", "198.51.100.7, nonsense": "127.0.0.1",
		"nonsense, 10.1.2.3": "10.1.2.3",
		"10.1.2.3":           "10.1.2.3", "198.51.100.7:4711": "198.51.100.7",
		"[2001:db8::7]:4711": "2001:db8::7", "2001:db8::7": "2001:db8::7", "::ffff:198.51.100.7": "198.51.100.7",
		",,": "127.0.0.1", "fe80::1%eth0": "fe80::1",
	} {
		if got := s.LastStranger(local, []string{said}); got.String() != want {
			t.Errorf("%q is taken for %s, not %s", said, got, want)
		}
	}
	if got := s.LastStranger(local, []string{"203.0.113.9", "198.51.100.7"}); got.String() != "198.51.100.7" {
		t.Errorf("of two lines it takes %s", got)
	}
	if _, err := site.ReadProxies([]string{"proxy.town.example"}); err == nil {
		t.Error("a name is taken for the address of a proxy")
	}
	a, b := site.Origin{Ip: netip.MustParseAddr("2001:db8:1:2:3::4")},
		site.Origin{Ip: netip.MustParseAddr("2001:db8:1:2:ffff::5")}
	if a.Network() != b.Network() ||
		a.Network() == (site.Origin{Ip: netip.MustParseAddr("2001:db8:1:3::4")}).Network() {
		t.Error("IPv6 addresses are not counted by their first 64 bits")
	}

	// Through the application: without a proxy nothing of it is believed, with one only what it has written last.
	for _, with := range []site.Settings{{}, {Proxies: proxies}} {
		h := openTown(t, with, false)
		waits := 0
		for n := range 12 {
			forged := []string{"X-Forwarded-For", fmt.Sprintf("=HYPERLINK(%d), 198.51.100.7", n), "X-Real-IP",
				fmt.Sprint("192.0.2.", n), "Forwarded", fmt.Sprint("for=192.0.2.", n)}
			if _, body := newGuest(t, h.base).do("POST", "/sign-in",
				url.Values{"email": {"jonas@town.example"}, "password": {"a wrong password"}},
				forged...); strings.Contains(body, "Too many tries") {
				waits++
			}
		}
		if waits == 0 {
			t.Error("forged addresses escape the waits")
		}
		want := "127.0.0.1"
		if len(with.Proxies) > 0 {
			want = "198.51.100.7"
		}
		events, err := h.s.Audit.Events(0, 10)
		if err != nil || len(events) == 0 || events[0].Origin != want {
			t.Errorf("what was done came from %+v, not %s", events[:min(1, len(events))], want)
		}
		ida := h.enter("ida")
		_, file := ida.do("GET", "/audit.csv", nil)
		rows, err := csv.NewReader(strings.NewReader(file)).ReadAll()
		if err != nil || len(rows) < 2 {
			t.Fatal(err, len(rows))
		}
		for _, row := range rows {
			for _, cell := range row {
				if strings.ContainsAny(cell[:min(1, len(cell))], "=+-@\t\r") {
					t.Errorf("the cell %q is a formula to a spreadsheet", cell)
				}
			}
		}
	}
}

// What protects an account is remembered when the program ends.
func TestTriesSurviveARestart(t *testing.T) {
	folder := filepath.Join(t.TempDir(), "data")
	s, err := house.Open(folder)
	if err != nil {
		t.Fatal(err)
	}
	a := site.NewAttempts(s.Attempts)
	kept, brief := site.ByAccount.Of("jo@town.example 192.0.2.1"), site.FromHere.Of("192.0.2.1")
	for range site.ByAccount.Free + 6 {
		a.Mu.Lock()
		known := a.At(kept, time.Now())
		known.Next = time.Time{} // as if it had been waited for
		a.Set(kept, known)
		a.Mu.Unlock()
		if wait := a.Begin(kept, brief); wait > 0 {
			t.Fatalf("it waits for %s", wait)
		}
	}
	if err := s.Close(); err != nil {
		t.Fatal(err)
	}
	if s, err = house.Open(folder); err != nil {
		t.Fatal(err)
	}
	defer s.Close()
	a = site.NewAttempts(s.Attempts)
	if wait := a.Wait(kept); wait < 30*time.Second {
		t.Errorf("after a restart the account is free in %s", wait)
	}
	if a.Wait(brief) > 0 {
		t.Error("a network is held up after a restart")
	}
	a.Forget(kept)
	if got, err := s.Attempts.Of(kept.Key()); err != nil || got.Failures != 0 {
		t.Errorf("what was proved is still held against the account: %+v, %v", got, err)
	}
	if a.Wait(kept) > 0 {
		t.Error("it still waits")
	}
	// What was begun and was none is given back.
	for range 50 {
		if wait := a.Begin(kept); wait > 0 {
			t.Fatal("a try that was right counts")
		}
		a.GiveBack(kept)
	}
}

// Tokens of links that lead nowhere are tried slowly; who was there before is not held up by that.
func TestLinkTokensAreNotGuessed(t *testing.T) {
	h := openTown(t, site.Settings{}, false)
	token, err := h.s.Links.Create(h.id, h.people["ida"], store.Choices{Right: account.Read}, "")
	if err != nil {
		t.Fatal(err)
	}
	reader := newGuest(t, h.base)
	if r, _ := reader.do("GET", "/r/"+token, nil); r.StatusCode != 200 {
		t.Fatal(r.StatusCode)
	}
	answers := map[int]int{}
	guesser := newGuest(t, h.base)
	for range 100 { // the same one, which is gone, guesses nothing
		if r, _ := guesser.do("GET", "/r/AAAAAAAAAAAAAAAAAAAAAAAAAA", nil); r.StatusCode != 410 {
			t.Fatalf("a link that is gone: %d", r.StatusCode)
		}
	}
	for n := range 100 {
		r, _ := guesser.do("GET", fmt.Sprintf("/r/AAAAAAAAAAAAAAAAAAAAAA%04d", n), nil)
		answers[r.StatusCode]++
	}
	if answers[410] > site.Guesses.Free+1 || answers[410]+answers[429] != 100 {
		t.Errorf("of a hundred guesses: %v", answers)
	}
	if r, _ := guesser.do("GET", "/r/"+token, nil); r.StatusCode != 429 {
		t.Errorf("a right guess among them is told: %d", r.StatusCode)
	}
	if r, _ := reader.do("GET", "/r/"+token, nil); r.StatusCode != 200 {
		t.Errorf("a reader is held up: %d", r.StatusCode)
	}
}

// What is said of a round counts from those who were asked, once each, and is gathered in few messages; other messages
// that wait stay where they are.
func TestMessagesAreGathered(t *testing.T) {
	h := openTown(t, site.Settings{}, false)
	ida := h.enter("ida")
	if r, _ := ida.do("POST", "/people/invite",
		url.Values{"name": {"Selma"}, "email": {"selma@town.example"}}); r.StatusCode != 200 {
		t.Fatal(r.StatusCode)
	}
	if err := h.s.Folders.Grant(account.Grant{Place: account.Place{Map: h.id}, Person: h.people["mara"],
		Right: account.Remark}); err != nil {
		t.Fatal(err)
	}
	r, asked := ida.do("POST", "/maps/"+h.id+"/rounds", url.Values{"person": {h.people["jonas"]},
		"names": {"Jo Roads, Kim Stores"}})
	if r.StatusCode != 200 || strings.Contains(asked, `class="refusal"`) {
		t.Fatalf("%d %.300s", r.StatusCode, asked)
	}
	rounds, err := h.s.Rounds.Of(h.id)
	if err != nil || len(rounds) != 1 {
		t.Fatal(err, len(rounds))
	}
	token, err := h.s.Links.Create(h.id, h.people["ida"], store.Choices{Right: account.Remark}, "")
	if err != nil {
		t.Fatal(err)
	}
	own := map[string]string{}
	for _, link := range regexp.MustCompile(`The link of (\w+ \w+)" value="[^"]*/m/(\w+)"`).FindAllStringSubmatch(asked,
		-1) {
		own["name:"+strings.ToLower(link[1])] = link[2]
	}
	if len(own) != 2 {
		t.Fatalf("the links of those who were asked by name are %v", own)
	}
	say := "/rounds/" + rounds[0].ID + "/say"
	jo, kim := newGuest(t, h.base), newGuest(t, h.base)
	by := func(g *guest, token, who, verdict string) string {
		_, body := g.do("POST", "/m/"+token+say, url.Values{"as": {who}, "called": {who}, "verdict": {verdict},
			"reason": {"why"}})
		return body
	}
	as := func(g *guest, who, verdict string) string { return by(g, own[who], who, verdict) }
	for n := range 150 { // under new names, which nobody asked, and by a link to remark in the place of those who were
		who := []string{fmt.Sprint("name:visitor ", n), "name:jo roads"}[n%2]
		if body := by(newGuest(t, h.base), token, who, review.Agreed); n < 2 &&
			!strings.Contains(body, "among those who were asked") {
			t.Errorf("who was not asked is answered: %.500s", body)
		}
	}
	if body := by(kim, own["name:kim stores"], "name:jo roads", review.NotAgreed); !strings.Contains(body,
		`class="refusal"`) {
		t.Error("one who was asked answers for another")
	}
	if _, body := jo.do("GET", "/m/"+own["name:jo roads"]+"/remarks",
		nil); !strings.Contains(body, "You answer as <b>Jo Roads</b>") ||
		strings.Contains(body, own["name:kim stores"]) {
		t.Errorf("the own link does not lead to the round, or shows that of another: %.900s", body)
	}
	if body := as(jo, "name:jo roads", review.Agreed); strings.Contains(body, `class="refusal"`) {
		t.Errorf("who was asked is answered: %.500s", body)
	}
	if body := as(kim, "name:jo roads", review.NotAgreed); !strings.Contains(body, `class="refusal"`) {
		t.Error("another browser answers for one who has answered")
	}
	for n := range 40 { // the same one changes their mind
		as(jo, "name:jo roads", []string{review.Agreed, review.WithRemarks}[n%2])
	}
	as(kim, "name:kim stores", review.NotAgreed)
	if _, body := h.enter("mara").do("POST", "/maps/"+h.id+say,
		url.Values{"verdict": {review.Agreed}}); !strings.Contains(body, "not asked, does not count") {
		t.Errorf("the word of a colleague who was not asked is not marked so: %.500s", body)
	}
	if r, _ := h.enter("jonas").do("POST", "/maps/"+h.id+say,
		url.Values{"verdict": {review.Agreed}}); r.StatusCode != 200 {
		t.Error(r.StatusCode)
	}
	rounds, err = h.s.Rounds.Of(h.id)
	if err != nil {
		t.Fatal(err)
	}
	got := map[string]string{}
	for _, v := range rounds[0].Verdicts {
		got[v.Name] = v.Verdict
	}
	if len(got) != 4 || got["jonas"] != review.Agreed || got["mara"] != review.Agreed ||
		got["Jo Roads"] != review.WithRemarks ||
		got["Kim Stores"] != review.NotAgreed {
		t.Errorf("what was said: %v", got)
	}
	if n := h.letters("ida@town.example", ""); n != 1 {
		t.Errorf("the asker has %d messages about one map", n)
	}
	list, err := h.s.Letters.Outbox()
	if err != nil {
		t.Fatal(err)
	}
	if !strings.Contains(list[0].Plain, "Kim Stores says of") || !strings.Contains(list[0].Plain, "jonas says of") ||
		!strings.Contains(list[0].Subject, "answers about") {
		t.Errorf("the message is %q\n%s", list[0].Subject, list[0].Plain)
	}
	if n := h.letters("selma@town.example", "invites you"); n != 1 {
		t.Errorf("the invitation is there %d times", n)
	}
}

// A message is kept until it is sent: others do not push it out, and one that was sent, or is of no use any more, keeps
// no text.
func TestTheOutboxKeepsWhatWaits(t *testing.T) {
	h := openTown(t, site.Settings{}, false)
	if r, _ := h.enter("ida").do("POST", "/people/invite", url.Values{"name": {"Selma"},
		"email": {"selma@town.example"}}); r.StatusCode != 200 {
		t.Fatal(r.StatusCode)
	}
	for n := range 700 {
		h.server.Post.Send(mail.Changed, fmt.Sprintf("p%d@town.example", n), "",
			map[string]any{"Name": "N", "When": "now", "Link": "l"})
	}
	if err := h.s.Letters.Tidy(time.Now()); err != nil {
		t.Fatal(err)
	}
	waiting, _, err := h.s.Letters.Due(time.Now().Add(time.Hour), 2000)
	if err != nil || len(waiting) != 701 {
		t.Fatalf("%d messages wait, %v", len(waiting), err)
	}
	ticket := regexp.MustCompile(`/invited/\w+`).FindString(waiting[0].Plain)
	if ticket == "" {
		t.Fatalf("the first one is %q", waiting[0].Subject)
	}
	for _, l := range waiting[1:] {
		if err := h.s.Letters.Sent(l.N); err != nil {
			t.Fatal(err)
		}
	}
	if err := h.s.Letters.Tidy(time.Now()); err != nil {
		t.Fatal(err)
	}
	if left, _, err := h.s.Letters.Due(time.Now().Add(time.Hour), 2000); err != nil || len(left) != 1 ||
		!strings.Contains(left[0].Plain, ticket) {
		t.Errorf("%d wait, %v", len(left), err)
	}
	if err := h.s.Letters.Tidy(time.Now().AddDate(0, 1, 0)); err != nil {
		t.Fatal(err)
	}
	list, err := h.s.Letters.Outbox()
	if err != nil || len(list) != 500 {
		t.Errorf("%d are listed, %v", len(list), err)
	}
	for _, l := range list {
		if l.Plain != "" || l.HTML != "" || len(l.Items) > 0 || l.Waits() {
			t.Errorf("what is over keeps its text: %+v", l)
			break
		}
	}
}

// One who came by a link is known by their browser: nobody else changes what they said, whatever name they type; and no
// name passes for that of a colleague.
func TestVisitorsAreKnownByTheirBrowser(t *testing.T) {
	h := openTown(t, site.Settings{}, false)
	token, err := h.s.Links.Create(h.id, h.people["ida"], store.Choices{Right: account.Remark}, "")
	if err != nil {
		t.Fatal(err)
	}
	base := "/m/" + token
	jo, other := newGuest(t, h.base), newGuest(t, h.base)
	jo.do("POST", base+"/remarks", url.Values{"text": {"Good so far."}, "called": {"Jo"}})
	list, err := h.s.Remarks.Of(h.id)
	if err != nil || len(list) != 1 {
		t.Fatal(err, len(list))
	}
	at := base + "/remarks/" + list[0].ID
	for _, g := range []*guest{other, newGuest(t, h.base)} {
		g.do("POST", base+"/remarks", url.Values{"text": {"I am Jo as well."}, "called": {"Jo"}})
		for _, what := range []string{"/edit", "/delete", "/settle", "/pin"} {
			g.do("POST", at+what, url.Values{"text": {"Bad."}, "called": {"Jo"}, "item": {"s"}}, "Cookie",
				"called=Jo; visitor="+list[0].Visitor+".0000")
		}
	}
	if list, err = h.s.Remarks.Of(h.id); err != nil || list[0].Text != "Good so far." || list[0].Deleted ||
		!list[0].Settled.IsZero() {
		t.Errorf("another has changed it: %+v, %v", list[0], err)
	}
	jo.do("POST", at+"/edit", url.Values{"text": {"Very good."}})
	if list, err = h.s.Remarks.Of(h.id); err != nil || list[0].Text != "Very good." {
		t.Errorf("who said it cannot change it: %+v, %v", list[0], err)
	}
	if err := h.s.People.SetName(h.people["ida"], "Ida Brandt"); err != nil {
		t.Fatal(err)
	}
	for _, name := range []string{"Ida Brandt", "ida  brandt", "IDA BRANDT", "lda Brandt", "Іda Brandt", "Ida Вrandt",
		"Ida\u200bBrandt", "I\u00adda Brandt", "Idá Brandt", "Ｉｄａ Brandt", "Ida\u2060 Brandt", "𝐈𝐝𝐚 Brandt"} {
		_, body := newGuest(t, h.base).do("POST", base+"/remarks", url.Values{"text": {"x"}, "called": {name}})
		if !strings.Contains(body, "somebody in the organisation is called so") &&
			!strings.Contains(body, "Somebody in the organisation is called so") &&
			!strings.Contains(body, "characters that do not show") {
			t.Errorf("the name %+q passes", name)
		}
	}
	if _, body := newGuest(t, h.base).do("POST", base+"/remarks",
		url.Values{"text": {"x"}, "called": {"Ida Brand"}}); strings.Contains(body, "is called so") {
		t.Error("another name is refused")
	}
}

// A link to a state that stays as it is shows nothing that came later, by any of its routes.
func TestAFixedLinkShowsNothingLater(t *testing.T) {
	h := openTown(t, site.Settings{}, false)
	d, err := h.s.Documents.Open(h.id)
	if err != nil {
		t.Fatal(err)
	}
	add := func(n int, text string) {
		t.Helper()
		if _, err := d.Apply("w1", n,
			&edit.AddItems{Sheet: "sheet-1", Symbols: []model.Symbol{step(fmt.Sprint("s", n), text, n)}}); err != nil {
			t.Fatal(err)
		}
	}
	add(1, "Before")
	version, err := d.KeepVersion(h.people["ida"])
	if err != nil {
		t.Fatal(err)
	}
	const secret = "Zanzibar"
	add(2, secret)
	if _, err := d.Apply("w1", 3, &edit.SetText{Sheet: "sheet-1", ID: "s1", Text: secret + " too"}); err != nil {
		t.Fatal(err)
	}
	title := secret + " title"
	if _, err := d.Apply("w1", 4, &edit.SetHead{Title: &title}); err != nil {
		t.Fatal(err)
	}
	later, err := d.KeepAs(store.Keep{Name: secret, Reason: store.ByHand})
	if err != nil {
		t.Fatal(err)
	}
	// A remark on what came later, one on what was reworded later, and a round about the later state.
	for _, item := range []string{"s2", "s1"} {
		if _, err := h.s.Remarks.Add(store.Remark{Map: h.id, Author: h.people["ida"], Name: "ida", Text: "About it",
			Proposal: "Better", Anchor: store.Anchor{Item: item, Sheet: "sheet-1", Text: secret, Number: "2"}},
			nil); err != nil {
			t.Fatal(err)
		}
	}
	round, _, err := h.s.Rounds.Begin(store.Round{Map: h.id, Asker: h.people["ida"], Version: later, Word: secret,
		Verdicts: []store.Verdict{{Who: "name:jo", Name: "Jo"}}})
	if err != nil {
		t.Fatal(err)
	}
	token, err := h.s.Links.Create(h.id, h.people["ida"], store.Choices{Right: account.Remark, Version: version,
		Download: true, Embed: true}, "")
	if err != nil {
		t.Fatal(err)
	}
	g := newGuest(t, h.base)
	asked := 0
	for _, route := range h.server.Editor().GetRoutes(true) {
		if route.Method == "HEAD" || !strings.HasPrefix(route.Path, "/m/:token") {
			continue
		}
		for _, state := range []string{"now", "visit", "r0", "r1", "r2", "r4", later.ID, version} {
			for _, format := range []string{"svg", "html", "md", "json", "csv", "map", "pdf"} {
				if !strings.Contains(route.Path, ":format") && format != "svg" ||
					!strings.Contains(route.Path, ":state") && !strings.Contains(route.Path, "changes") &&
						state != "now" {
					continue
				}
				path := strings.NewReplacer(":token", token, ":state", state, ":format", format, ":sheet", "sheet-1",
					":face", "none", ":remark", "none", ":round", round).Replace(route.Path)
				path += "?sheet=sheet-1&from=" + state + "&to=now&what=map&inline=1&show=open"
				form := url.Values{"verdict": {review.Agreed}, "as": {"name:jo"}, "called": {"Visitor"}, "item": {"s2"},
					"sheet": {"sheet-1"}, "format": {format}}
				r, body := g.do(route.Method, path, form)
				asked++
				if strings.Contains(body, secret) || strings.Contains(r.Header.Get("Content-Disposition"), secret) {
					t.Errorf("%s %s shows what came later (%d)", route.Method, path, r.StatusCode)
				}
				if r.StatusCode >= 500 {
					t.Errorf("%s %s: %d", route.Method, path, r.StatusCode)
				}
			}
		}
	}
	if asked < 100 {
		t.Errorf("only %d answers were looked at", asked)
	}
	for path, want := range map[string]string{"": "Before", "/register": "Before", "/export/svg": "Before",
		"/versions/now": "as it was on"} {
		if r, body := g.do("GET", "/m/"+token+path, nil); r.StatusCode != 200 || !strings.Contains(body, want) {
			t.Errorf("%s shows nothing of the state itself: %d", path, r.StatusCode)
		}
	}
	for _, state := range []string{"r0", "r2", later.ID, "nothing"} {
		if r, _ := g.do("GET", "/m/"+token+"/versions/"+state, nil); r.StatusCode != 404 {
			t.Errorf("the state %s is answered by %d", state, r.StatusCode)
		}
	}
	if list, err := h.s.Rounds.Of(h.id); err != nil || list[0].Verdicts[0].Verdict != "" {
		t.Errorf("by a link to an earlier state something was said of a later one: %+v, %v", list[0].Verdicts, err)
	}
}

// step is a process that stands in its place in a row.
func step(id, text string, n int) model.Symbol {
	sym := model.Symbol{ID: id, Kind: model.Process, Text: text}
	sym.X, sym.Y, sym.W, sym.H = n*20000, 10000, 12000, 8000
	return sym
}

// A second factor is asked for beside the password, each code is good once, words stand in for it, and a link for a new
// password does not get round it (RFC 6238).
func TestASecondFactor(t *testing.T) {
	h := openTown(t, site.Settings{}, false)
	jonas := h.enter("jonas")
	_, page := jonas.do("POST", "/me/factor", url.Values{"old": {"wrong"}})
	if !strings.Contains(page, "The present password is another one") {
		t.Errorf("without the password: %.300s", page)
	}
	_, page = jonas.do("POST", "/me/factor", url.Values{"old": {word}})
	field := func(name string) string {
		m := regexp.MustCompile(`name="` + name + `" value="([^"]+)"`).FindStringSubmatch(page)
		if m == nil {
			t.Fatalf("the page has no %s: %.600s", name, page)
		}
		return m[1]
	}
	secret, sign := field("secret"), field("sign")
	if !strings.Contains(page, `src="data:image/png;base64,`) {
		t.Error("there is no picture for the camera")
	}
	keep := func(code, sign string) string {
		_, body := jonas.do("POST", "/me/factor/keep", url.Values{"secret": {secret}, "sign": {sign}, "code": {code}})
		return body
	}
	if body := keep("000000", sign); !strings.Contains(body, "That is not the code") {
		t.Errorf("a wrong code: %.300s", body)
	}
	if body := keep(account.CodeAt(secret, time.Now()), strings.Repeat("0", 64)); !strings.Contains(body,
		"Begin anew") {
		t.Errorf("a secret of somebody else's choice: %.300s", body)
	}
	code := account.CodeAt(secret, time.Now())
	words := regexp.MustCompile(`<code>([a-z2-7]{5}-[a-z2-7]{5})</code>`).FindAllStringSubmatch(keep(code, sign), -1)
	if len(words) != 8 {
		t.Fatalf("%d words stand in for it", len(words))
	}
	in := func(code string) (int, string) {
		t.Helper()
		g := newGuest(t, h.base)
		if r, body := g.do("POST", "/sign-in", url.Values{"email": {"jonas@town.example"},
			"password": {word}}); r.StatusCode != 200 || !strings.Contains(body, "The code that your app shows") {
			t.Fatalf("the password alone: %d %.300s", r.StatusCode, body)
		}
		if r, _ := g.do("GET", "/", nil); r.StatusCode != 303 {
			t.Fatal("the password alone lets in")
		}
		r, body := g.do("POST", "/sign-in/code", url.Values{"code": {code}})
		return r.StatusCode, body
	}
	if status, _ := in(code); status != 401 {
		t.Errorf("a code that was used: %d", status)
	}
	// the next one, of a clock that is fast
	if status, body := in(account.CodeAt(secret, time.Now().Add(30*time.Second))); status != 303 {
		t.Errorf("the code: %d %.300s", status, body)
	}
	if status, _ := in(words[0][1]); status != 303 {
		t.Errorf("a word in place of a code: %d", status)
	}
	if status, _ := in(words[0][1]); status != 401 {
		t.Errorf("the word again: %d", status)
	}
	ticket, err := h.s.Sessions.NewTicket(store.NewWord, h.people["jonas"], time.Now().Add(time.Hour))
	if err != nil {
		t.Fatal(err)
	}
	g := newGuest(t, h.base)
	g.do("POST", "/reset/"+ticket, url.Values{"password": {word}})
	if r, _ := g.do("GET", "/", nil); r.StatusCode != 303 {
		t.Error("a link for a new password gets round the second factor")
	}
	if r, _ := g.do("POST", "/sign-in/code",
		url.Values{"code": {account.CodeAt(secret, time.Now())}}); r.StatusCode != 401 {
		t.Errorf("a code without the password: %d", r.StatusCode)
	}
	slow := false
	for range 9 {
		if _, body := in("123456"); strings.Contains(body, "Too many tries") {
			slow = true
		}
	}
	if !slow {
		t.Error("codes are guessed without end")
	}
	// An owner helps who has lost it.
	if _, body := h.enter("ida").do("POST", "/people/"+h.people["jonas"]+"/factor", nil); !strings.Contains(body,
		"by the password alone now") {
		t.Errorf("taken away: %.300s", body)
	}
	h.enter("jonas")
	for _, what := range []string{"set up", "taken away"} {
		if n := h.letters("jonas@town.example", "Your second factor was "+what); n != 1 {
			t.Errorf("they are told %d times that it was %s", n, what)
		}
	}
}

// What is said on a map is bounded, and comes in pages: a thread of a thousand long answers makes no page of megabytes,
// and the earlier ones are a click away.
func TestLongThreadsComeInPages(t *testing.T) {
	h := openTown(t, site.Settings{}, false)
	long := strings.Repeat("words ", 816)
	id, err := h.s.Remarks.Add(store.Remark{Map: h.id, Author: h.people["ida"], Name: "ida", Text: "It begins"}, nil)
	if err != nil {
		t.Fatal(err)
	}
	for n := range store.MostAnswers {
		if _, err := h.s.Remarks.Add(store.Remark{Map: h.id, Thread: id, Author: h.people["jonas"], Name: "jonas",
			Text: fmt.Sprint("Answer ", n, ": ", long)}, nil); err != nil {
			t.Fatal(n, err)
		}
	}
	ida := h.enter("ida")
	_, page := ida.do("GET", "/maps/"+h.id+"/remarks?show=open", nil)
	if len(page) > 200<<10 || !strings.Contains(page, "Answer 999:") || strings.Contains(page, "Answer 980:") ||
		!strings.Contains(page, "Show earlier answers, 990 more") {
		t.Errorf("the list has %d KB", len(page)>>10)
	}
	_, page = ida.do("GET", "/maps/"+h.id+"/remarks?show=open&thread="+id+"&answers=60", nil)
	if !strings.Contains(page, "Answer 941:") || !strings.Contains(page, "Show earlier answers, 940 more") ||
		strings.Count(page, long[:100]) < 60 {
		t.Errorf("sixty of them: %d KB, without what was asked for", len(page)>>10)
	}
	_, page = ida.do("GET", "/maps/"+h.id+"/remarks?show=open&thread="+id+"&answers=99999", nil)
	if len(page) > 2<<20 || !strings.Contains(page, "Answer 0:") {
		t.Errorf("all of them have %d KB", len(page)>>10)
	}
	_, page = ida.do("POST", "/maps/"+h.id+"/remarks", url.Values{"thread": {id}, "text": {"One more"}})
	if !strings.Contains(page, "More is not kept on one map") {
		t.Error("one answer more than are kept is taken")
	}
}

// What a directory says nothing about makes no members, unless the organisation trusts its addresses.
func TestADirectoryThatSaysNothing(t *testing.T) {
	h := openTown(t, site.Settings{Directory: &site.Directory{Issuer: "https://id.town.example"}}, false)
	app := h.server.Editor()
	yes, no := true, false
	for n, one := range []struct {
		verified *bool
		trusting bool
		member   bool
	}{{nil, false, false}, {nil, true, true}, {&yes, false, true}, {&no, true, false}} {
		h.server.Directory.Trusting = one.trusting
		email := fmt.Sprintf("new%d@town.example", n)
		app.Get("/try"+email, func(c fiber.Ctx) error {
			_, err := h.server.accounts.NewFrom(c, site.Vouched{Subject: "s " + email, Name: "New", Email: email,
				Verified: one.verified})
			return err
		})
		req := fromPageOf("GET", "/try"+email, "")
		r, err := app.Test(req)
		if err != nil {
			t.Fatal(err)
		}
		r.Body.Close()
		if _, _, err := h.s.People.ByMail(email); (err == nil) != one.member {
			t.Errorf("case %d: %v", n, err)
		}
	}
	// An address that only looks like that of somebody is another address, and no way into their account.
	h.server.Directory.Trusting = true
	app.Get("/alike", func(c fiber.Ctx) error {
		p, err := h.server.accounts.NewFrom(c, site.Vouched{Subject: "s alike", Name: "Ida", Email: "ｉda@town.example",
			Verified: &yes})
		if err == nil && p.ID == h.people["ida"] {
			t.Error("a wide letter gets into the account of ida")
		}
		return err
	})
	if r, err := app.Test(fromPageOf("GET", "/alike", "")); err == nil {
		r.Body.Close()
	}
	if p, _, err := h.s.People.ByMail("ida@town.example"); err != nil || p.Directory {
		t.Errorf("the account of ida: %+v, %v", p, err)
	}
}

// Where somebody points is told a few times a second at most, and no more than fits.
func TestPointingIsSlow(t *testing.T) {
	h := openTown(t, site.Settings{}, false)
	one, other := h.enter("ida").window("/maps/"+h.id), h.enter("jonas").window("/maps/"+h.id)
	for n := range 200 {
		if err := one.WriteMessage(1,
			fmt.Appendf(nil, `{"kind":"pointing","sheet":"sheet-1","x":%d,"y":1,"items":["a"]}`, n)); err != nil {
			t.Fatal(err)
		}
	}
	many := strings.Repeat(`"a",`, 25) + `"b"`
	if err := one.WriteMessage(1,
		[]byte(`{"kind":"pointing","sheet":"sheet-1","x":777,"y":1,"items":[`+many+`]}`)); err != nil {
		t.Fatal(err)
	}
	begun := time.Now()
	if err := one.say(); err != nil {
		t.Fatal(err)
	}
	told := 0
	for {
		kind, all := other.hear("pointing", "edit")
		if kind == "edit" {
			break
		}
		if kind == "" || strings.Contains(all, `"x":777`) {
			t.Fatalf("it hears %s", all)
		}
		told++
	}
	if most := 2 + int(time.Since(begun)/live.PointingPause); told < 1 || told > most {
		t.Errorf("of 200 places %d were told, not 1 to %d", told, most)
	}
}
