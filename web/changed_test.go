package web

import (
	"fmt"
	"strconv"
	"strings"
	"testing"
	"time"

	"plaintracer/account"
	"plaintracer/core/edit"
	"plaintracer/core/geometry"
	"plaintracer/core/model"
	"plaintracer/store"
	"plaintracer/web/site"
)

// Readers by a link see what changed since they looked last, where the link shows that: from that state to the one of
// now, and no other. What they looked at is believed as the program has signed it.
func TestReadersSeeWhatChanged(t *testing.T) {
	h := openTown(t, site.Settings{}, false)
	told, err := h.s.Links.Create(h.id, h.people["ida"], store.Choices{Right: account.Read, Changes: true}, "")
	if err != nil {
		t.Fatal(err)
	}
	untold, err := h.s.Links.Create(h.id, h.people["ida"], store.Choices{Right: account.Read}, "")
	if err != nil {
		t.Fatal(err)
	}
	list, err := h.s.Links.Of(h.id)
	if err != nil {
		t.Fatal(err)
	}
	link := ""
	for _, l := range list {
		if strings.HasPrefix(told, l.Begins) {
			link = l.ID
		}
	}
	d, err := h.s.Documents.Open(h.id)
	if err != nil {
		t.Fatal(err)
	}
	change := func(seq int, title string) {
		if _, err := d.ApplyAs(h.people["ida"], "w1", seq, &edit.SetHead{Title: &title}); err != nil {
			t.Fatal(err)
		}
	}
	change(1, "A first name")
	g := newGuest(t, h.base)
	if _, body := g.do("GET", "/r/"+told, nil); strings.Contains(body, "/changes?from=visit") {
		t.Error("who is there for the first time is told of changes")
	}
	change(2, "A second name")
	// The visit before this one was at revision 1, an hour ago.
	words := []string{"-1", "1", strconv.FormatInt(time.Now().Add(-time.Hour).Unix(), 10)}
	kept := strings.Join(append(words, h.s.Sign(append([]string{"looked", link}, words...)...)), ".")
	r, body := newGuest(t, h.base).do("GET", "/r/"+told, nil, "Cookie", "looked="+kept)
	if !strings.Contains(body, "What changed since you looked last") {
		t.Errorf("a reader is not told that something changed: %d %.900s", r.StatusCode, body)
	}
	now := ""
	for _, c := range r.Cookies() {
		if c.Name == "looked" {
			now = "looked=" + c.Value
		}
	}
	ask := func(path, cookie string) (int, string) {
		r, body := newGuest(t, h.base).do("GET", path, nil, "Cookie", cookie)
		return r.StatusCode, body
	}
	if code, body := ask("/r/"+told+"/changes?from=visit", now); code != 200 || !strings.Contains(body,
		"A second name") ||
		!strings.Contains(body, "instead of “A first name”") || strings.Contains(body, "Their map") {
		t.Errorf("what changed: %d %.2000s", code, body)
	}
	for path, code := range map[string]int{"/r/" + told + "/changes/side.svg?from=visit&sheet=sheet-1&side=old": 200,
		"/r/" + told + "/changes/account.md?from=visit": 200, "/r/" + told + "/changes?from=r0": 404,
		"/r/" + told + "/changes?from=visit&to=r0": 404, "/r/" + told + "/changes?from=d2020-01-01": 404,
		"/r/" + told + "/versions/r0": 403, "/r/" + untold + "/changes?from=visit": 403} {
		if got, _ := ask(path, now); got != code {
			t.Errorf("%s answers %d, not %d", path, got, code)
		}
	}
	forged := "looked=" + strings.Replace(strings.TrimPrefix(now, "looked="), "1.", "0.", 1)
	if _, body := ask("/r/"+told+"/changes?from=visit", forged); strings.Contains(body, "Their map") {
		t.Error("a reader says what they have seen, and is believed")
	}
	// A reader of the organisation sees it too, and those who may remark between any two states: a day, a round, a
	// version.
	if r, body := h.enter("mara").do("GET", "/maps/"+h.id+"/changes?from=visit", nil); r.StatusCode != 200 ||
		strings.Contains(body, `name="from"`) {
		t.Errorf("a reader of the organisation: %d", r.StatusCode)
	}
	if r, _ := h.enter("mara").do("GET", "/maps/"+h.id+"/changes?from=r0", nil); r.StatusCode != 404 {
		t.Errorf("a reader of the organisation compares any states: %d", r.StatusCode)
	}
	jonas := h.enter("jonas")
	for from, want := range map[string]string{"r1": "instead of “A first name”",
		"d2020-01-01":                          "instead of “Their map”",
		"d" + time.Now().Format(time.DateOnly): "Nothing changed."} {
		if r, body := jonas.do("GET", "/maps/"+h.id+"/changes?from="+from, nil); r.StatusCode != 200 ||
			!strings.Contains(body, want) || !strings.Contains(body, "to=r2") {
			t.Errorf("from %s: %d, without %q: %.3000s", from, r.StatusCode, want, body)
		}
	}
	for _, ending := range []string{"pdf", "html", "md", "json"} {
		if r, body := jonas.do("GET", fmt.Sprintf("/maps/%s/changes/account.%s?from=r0", h.id, ending),
			nil); r.StatusCode != 200 ||
			len(body) < 100 {
			t.Errorf("as %s: %d, %d bytes", ending, r.StatusCode, len(body))
		}
	}
	if _, err := d.ApplyAs(h.people["ida"], "w1", 3, &edit.AddItems{Sheet: "sheet-1",
		Symbols: []model.Symbol{{ID: "a", Kind: model.Process, Text: "Ask", Box: geometry.Box{X: 12000, Y: 12000,
			W: 12000, H: 6000}}}}); err != nil {
		t.Fatal(err)
	}
	if r, body := jonas.do("GET", "/maps/"+h.id+"/changes/side.svg?from=r0&sheet=sheet-1&side=marked",
		nil); r.StatusCode != 200 ||
		!strings.Contains(body, "#1f6b57") {
		t.Errorf("the picture with marks: %d", r.StatusCode)
	}
}
