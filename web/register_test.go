package web

import (
	"bytes"
	"html"
	"mime/multipart"
	"strings"
	"testing"

	"plaintracer/app/live"
	"plaintracer/core/compose"
	"plaintracer/core/edit"
	"plaintracer/core/model"
)

// upload sends a file to an address as somebody.
func (h *household) upload(who, path, name string, data []byte) (int, string) {
	h.Helper()
	var body bytes.Buffer
	w := multipart.NewWriter(&body)
	part, err := w.CreateFormFile("file", name)
	h.must(err)
	_, err = part.Write(data)
	h.must(errorsJoin(err, w.Close()))
	b := newBrowser(h.T, h.app)
	b.cookies["session"], b.token = h.tokens[who], h.s.Sign("form", h.ids[who], h.tokens[who])
	r, answer := b.do("POST", path, body.String(), w.FormDataContentType())
	return r.StatusCode, html.UnescapeString(answer)
}

// A table that is read back is unpacked and sent to the page; what cannot be read is refused with its place. How the
// columns are arranged is kept for each person alone.
func TestTheRegisterOnTheServer(t *testing.T) {
	h, id := reviewed(t)
	base := "/maps/" + id
	if code, body := h.upload("edit", base+"/table", "a.csv",
		[]byte("id,Step\ns1,\"Hand over, the bike\"\n")); code != 200 ||
		!strings.Contains(body, `["s1","Hand over, the bike"]`) {
		t.Errorf("a table is answered by %d %.300s", code, body)
	}
	for name, c := range map[string]struct {
		data []byte
		why  string
	}{"a.csv": {[]byte("id,Step\nx,a\"b"), "row 2"}, "b.xlsx": {[]byte("PK\x03\x04"), "cannot be read"},
		"c.csv": {bytes.Repeat([]byte("x,y\n"), 3<<20), "larger than 8 mb"}} {
		if code, body := h.upload("edit", base+"/table", name, c.data); code != 400 ||
			!strings.Contains(strings.ToLower(body), c.why) {
			t.Errorf("%s is answered by %d %.300s", name, code, body)
		}
	}
	if code, _ := h.form("edit", base+"/table"); code != 400 {
		t.Errorf("no file is answered by %d", code)
	}

	const mine = `{"order":["text","number"],"widths":{"text":300},"hidden":["from"]}`
	if code, _ := h.form("edit", base+"/arrangement", "arrangement", mine); code != 204 {
		t.Errorf("an arrangement is answered by %d", code)
	}
	for _, bad := range []string{"[]", `{"order":5}`, `{"order":["` + strings.Repeat("x", 9000) + `"]}`, "no"} {
		if code, _ := h.form("edit", base+"/arrangement", "arrangement", bad); code != 400 {
			t.Errorf("%.40s is answered by %d", bad, code)
		}
	}
	if _, body := h.ask("edit", "GET", base+"/table", ""); !strings.Contains(html.UnescapeString(body),
		`data-arrangement="`+mine) || !strings.Contains(body, " data-wide") {
		t.Error("the arrangement does not come with the page")
	}
	if _, body := h.ask("owner", "GET", base, ""); strings.Contains(html.UnescapeString(body),
		`"widths":{"text":300}`) || strings.Contains(body, " data-wide") {
		t.Error("somebody else has it, too")
	}

	// A remark on a cell names the column, also once that is gone.
	d, err := h.s.Documents.Open(id)
	h.must(err)
	_, err = d.Apply("w1", 1, &edit.AddField{Field: model.Field{ID: "f1", Name: "Deposit", Type: "money"}})
	h.must(err)
	if _, body := h.form("remark", base+"/remarks", "item", "s1", "column", "f1", "text",
		"How much?"); !strings.Contains(body, "2  Hand over the bike, Deposit") {
		t.Errorf("a remark on a cell: %.400s", body)
	}
	if _, body := h.form("remark", base+"/remarks", "item", "s1", "column", "f9", "text",
		"What?"); !strings.Contains(body, "This column was removed just now") {
		t.Errorf("a remark on a column that is not there: %.400s", body)
	}
	_, err = d.Apply("w1", 2, &edit.RemoveField{ID: "f1"})
	h.must(err)
	if _, body := h.ask("edit", "GET", base+"/remarks", ""); !strings.Contains(html.UnescapeString(body),
		"Hand over the bike, Deposit") {
		t.Error("the remark does not say any more what it is about")
	}

	// Before a table is read back a version is kept.
	if live.KeptBefore(&edit.Batch{As: compose.FromTable}) == "" || live.KeptBefore(&edit.LayOut{}) == "" ||
		live.KeptBefore(&edit.Batch{As: "write"}) != "" {
		t.Error("versions are kept before the wrong edits")
	}
}
