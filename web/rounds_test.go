package web

import (
	"archive/zip"
	"bytes"
	"context"
	"database/sql"
	"encoding/xml"
	"io"
	"path/filepath"
	"regexp"
	"strings"
	"testing"
	"time"

	"plaintracer/account"
	"plaintracer/account/passcode"
	"plaintracer/app/rounds"
	"plaintracer/core/edit"
	"plaintracer/review"
	"plaintracer/store"
)

// latest is the latest round on a map.
func (h *household) latest(id string) store.Round {
	h.Helper()
	list, err := h.s.Rounds.Of(id)
	h.must(err)
	if len(list) == 0 {
		h.Fatal("there is no round")
	}
	return list[0]
}

// says is what somebody says of the latest round on a map, and what the page shows then.
func (h *household) says(who, id, verdict string, pairs ...string) string {
	h.Helper()
	_, body := h.form(who, "/maps/"+id+"/rounds/"+h.latest(id).ID+"/say", append([]string{"verdict", verdict},
		pairs...)...)
	return body
}

// told are those who were written to about a review.
func (h *household) told() string {
	h.Helper()
	list, err := h.s.Letters.Outbox()
	h.must(err)
	var to []string
	for i := range list {
		if strings.Contains(list[len(list)-1-i].Subject, "asks you to review") {
			to = append(to, strings.TrimSuffix(list[len(list)-1-i].To, "@town.example"))
		}
	}
	return strings.Join(to, " ")
}

// First the team is asked, as a group, then the head and somebody by a link to an address; those of the second turn are
// told when the first have answered. An answer stays as it is where that was chosen.
func TestAskingInTurns(t *testing.T) {
	h, id := reviewed(t)
	base := "/maps/" + id
	h.form("house owner", "/people/groups", "name", "The team", "person", h.ids["remark"], "person", h.ids["edit"])
	if _, body := h.form("house owner", "/people/groups", "name", "the TEAM"); !strings.Contains(body,
		"There is a group") {
		t.Error("two groups have one name")
	}
	groups, err := h.s.Groups.List()
	h.must(err)
	if len(groups) != 1 || len(groups[0].People) != 2 {
		t.Fatalf("the groups are %+v", groups)
	}
	if _, body := h.ask("owner", "GET", base+"/remarks", ""); !strings.Contains(body, "The team") {
		t.Error("the group is not offered")
	}
	_, body := h.form("owner", base+"/rounds", "person", groups[0].ID, "then", h.ids["manage"], "then-names",
		"Ann <ann@roads.example>", "final", "yes", "remind", "2")
	if !strings.Contains(body, "asked when the others have answered") || h.told() != "edit remark" &&
		h.told() != "remark edit" {
		t.Fatalf("told were %q: %.500s", h.told(), body)
	}
	if r, body := h.ask("manage", "GET", "/", ""); r.StatusCode != 200 || strings.Contains(body, "Waiting for you") {
		t.Error("the map waits for who is not asked yet")
	}
	h.says("remark", id, review.Agreed)
	if strings.Contains(h.told(), "manage") {
		t.Error("the second turn begins before all of the first have answered")
	}
	if body := h.says("remark", id, review.NotAgreed, "reason", "No"); !strings.Contains(body,
		"an answer stays as it is") {
		t.Error("an answer that stays as it is was changed")
	}
	h.says("edit", id, review.Agreed)
	if told := h.told(); !strings.HasSuffix(told, "manage ann@roads.example") {
		t.Errorf("then were told %q", told)
	}
	if _, body := h.ask("manage", "GET", "/", ""); !strings.Contains(body, "Waiting for you") {
		t.Error("the map does not wait for who is asked now")
	}
	// the message by mail brings the link and a picture
	l := letter(t, h.s, "ann@roads.example", "asks you to review")
	if !strings.Contains(l.Plain, "/m/") || !bytes.HasPrefix(l.Picture, []byte("\x89PNG")) || !strings.Contains(l.HTML,
		"cid:") {
		t.Errorf("the message says %s, with %d bytes of a picture", l.Plain, len(l.Picture))
	}
	// those who are silent are reminded in the rhythm, and no sooner
	for days, want := range map[int]int{1: 0, 3: 1} {
		due, err := h.s.Rounds.ToRemind(time.Now().AddDate(0, 0, days))
		h.must(err)
		if len(due) != want {
			t.Errorf("after %d days %d rounds remind", days, len(due))
		}
		for _, r := range due {
			if len(r.Verdicts) != 2 {
				t.Errorf("reminded are %+v", r.Verdicts)
			}
		}
	}
}

// Whoever was not asked may say a word, by a link as well; it is kept and does not count. Nobody speaks in the place of
// somebody who was asked.
func TestAWordUnasked(t *testing.T) {
	h, id := reviewed(t)
	h.form("owner", "/maps/"+id+"/rounds", "person", h.ids["remark"], "names", "Ann")
	if body := h.says("edit", id, review.NotAgreed, "reason", "I see it otherwise"); !strings.Contains(body,
		"not asked, does not count") ||
		!strings.Contains(body, "nobody has answered yet") {
		t.Errorf("a word unasked: %.900s", body)
	}
	h.says("remark", id, review.Agreed)
	r := h.latest(id)
	if c := r.Case(r.Version.Revision); len(c.Voices) != 2 || c.Outcome() != "agreed by 1 of 2, 1 has not answered" {
		t.Errorf("the outcome is %q of %+v", c.Outcome(), c.Voices)
	}
	_, page := h.ask("owner", "GET", "/maps/"+id+"/rounds/"+r.ID+"/page.html", "")
	if !strings.Contains(page, "was not asked, does not count") || !strings.Contains(page, "I see it otherwise") {
		t.Error("the record leaves out what was said unasked, or does not say that it was")
	}
}

// Where the organisation asks for signatures, whoever agrees gives their password again, and the record holds what they
// signed.
func TestSigning(t *testing.T) {
	h, id := reviewed(t)
	h.must(h.s.People.SetPassword(h.ids["remark"], passcode.Hash("thirteen owls at dusk"), h.tokens["remark"]))
	if _, body := h.form("house owner", "/people/reviews", "needs", "majority", "sign", "yes", "remind",
		"3"); !strings.Contains(body, "proposed from now on") {
		t.Fatalf("%.300s", body)
	}
	if _, body := h.ask("owner", "GET", "/maps/"+id+"/remarks", ""); !strings.Contains(body,
		`value="majority" selected`) ||
		!strings.Contains(body, `max="60" value="3"`) {
		t.Error("what the organisation proposes is not proposed")
	}
	h.form("owner", "/maps/"+id+"/rounds", "person", h.ids["remark"], "needs", "")
	if body := h.says("remark", id, review.Agreed, "old", "thirteen owls at noon"); !strings.Contains(body,
		"password is another one") {
		t.Errorf("signed with another password: %.400s", body)
	}
	if v := h.latest(id).Verdicts[0]; v.Verdict != "" {
		t.Fatalf("what was not signed is kept: %+v", v)
	}
	h.says("remark", id, review.Agreed, "old", "thirteen owls at dusk")
	r := h.latest(id)
	if v := r.Verdicts[0]; !strings.Contains(v.Signature,
		"I agree to version 1 of “Lend a bike” (SHA-256 "+r.Version.Hash[:16]) ||
		!strings.Contains(v.Signature, "remark, ") || !strings.HasSuffix(v.Signature, "with their password") {
		t.Errorf("what was signed is %q", v.Signature)
	}
	h.form("owner", "/maps/"+id+"/rounds/"+r.ID+"/end")
	if _, page := h.ask("owner", "GET", "/maps/"+id+"/rounds/"+r.ID+"/page.html", ""); !strings.Contains(page,
		"I agree to version 1") {
		t.Error("the record lacks the signature")
	}
}

// A round ends as of the version that was asked about, whatever was changed since; with what was proposed in it and
// taken only where the organisation allows that and nothing else was changed; or is asked again with one click.
func TestEndingWithChanges(t *testing.T) {
	h, id := reviewed(t)
	base := "/maps/" + id
	h.form("owner", base+"/rounds", "person", h.ids["remark"], "names", "Ann <ann@roads.example>")
	h.form("remark", base+"/remarks", "item", "s1", "text", "Say which", "proposal", "Hand over bike and key")
	h.says("remark", id, review.Agreed)
	d, err := h.s.Documents.Open(id)
	h.must(err)
	_, err = d.Apply("w1", 1, &edit.SetText{Sheet: "sheet-1", ID: "s1", Text: "Hand over bike and key"})
	h.must(err)
	threads, err := h.s.Remarks.Of(id)
	h.must(err)
	h.form("owner", base+"/remarks/"+threads[0].ID+"/proposal")
	r := h.latest(id)
	_, body := h.ask("owner", "GET", base+"/remarks", "")
	if !strings.Contains(body, "step 2 reworded") || strings.Contains(body, "End it with these changes") {
		t.Errorf("before the organisation allows it: %.3000s", body)
	}
	if _, body := h.form("owner", base+"/rounds/"+r.ID+"/end", "how", "take"); !strings.Contains(body,
		"more than what was proposed") ||
		!h.latest(id).Ended.IsZero() {
		t.Error("changes are taken in that the organisation does not allow")
	}
	h.must(h.s.Rounds.SetHabits(review.Habits{TakeIn: true}))
	if _, body = h.ask("owner", "GET", base+"/remarks", ""); !strings.Contains(body, "End it with these changes") {
		t.Error("what the organisation allows is not offered")
	}
	// anything else that was changed is too much
	_, err = d.Apply("w1", 2, &edit.SetText{Sheet: "sheet-1", ID: "s2", Text: "Take the bike back"})
	h.must(err)
	if _, body := h.form("owner", base+"/rounds/"+r.ID+"/end", "how", "take"); !strings.Contains(body,
		"more than what was proposed") {
		t.Error("a change that nobody proposed was taken in")
	}
	_, err = d.Apply("w1", 3, &edit.SetText{Sheet: "sheet-1", ID: "s2", Text: "Take it back"})
	h.must(err)
	h.form("owner", base+"/rounds/"+r.ID+"/end", "how", "take")
	r = h.latest(id)
	m, revision := d.Snapshot()
	if c := r.Case(revision); c.Outcome() != "agreed by 1 of 2, 1 has not answered; with 1 change taken in since: step 2 reworded" || c.IsAgreed() {
		t.Errorf("the outcome is %q", c.Outcome())
	}
	if kept, with, err := h.s.Versions.Get(r.TakenIn); err != nil || kept.Number != 2 ||
		with.Sheets[0].Symbols[1].Text != m.Sheets[0].Symbols[1].Text {
		t.Errorf("the version with what was taken in: %+v, %v", kept, err)
	}
	// again, with the same people by one click; those who were asked before are told what is different
	h.form("owner", base+"/rounds/"+r.ID+"/again")
	next := h.latest(id)
	if next.Number != 2 || len(next.Verdicts) != 2 || next.Verdicts[1].Email != "ann@roads.example" {
		t.Errorf("the round after: %+v", next.Verdicts)
	}
	_, err = d.Apply("w1", 4, &edit.SetText{Sheet: "sheet-1", ID: "s0", Text: "Ask for card and name"})
	h.must(err)
	h.form("owner", base+"/rounds/"+next.ID+"/again")
	if again := h.latest(id); again.Number != 3 || again.Version.Number != 3 {
		t.Errorf("asked again: %+v", again)
	}
	app := rounds.New(h.s, nil, "", "")
	last := h.latest(id)
	if before, err := app.Before(&last, h.ids["remark"]); err != nil || before != next.Version.ID {
		t.Errorf("before they were asked about %s, not %s: %v", before, next.Version.ID, err)
	}
	if l := letter(t, h.s, "remark@town.example", "asks you to review"); !strings.Contains(l.Plain,
		"What changed since you were asked before:") ||
		!strings.Contains(l.Plain, "Step 1 “Ask for a card” was reworded") {
		t.Errorf("the message says %s", l.Plain)
	}
}

// The record of a round that has ended says what was said in it, whatever is written, taken back or settled later; as a
// file for word processors it is what another reader makes of it.
func TestTheRecordStaysAsItIs(t *testing.T) {
	h, id := reviewed(t)
	base := "/maps/" + id
	h.form("owner", base+"/rounds", "person", h.ids["remark"])
	h.form("remark", base+"/remarks", "item", "s1", "text", "What of the key?")
	threads, err := h.s.Remarks.Of(id)
	h.must(err)
	h.form("owner", base+"/remarks", "thread", threads[0].ID, "text", "It hangs at the desk")
	h.form("owner", base+"/remarks/"+threads[0].ID+"/settle")
	h.ask("remark", "GET", base+"/remarks", "")
	h.says("remark", id, review.Agreed)
	r := h.latest(id)
	h.form("owner", base+"/rounds/"+r.ID+"/end")
	h.form("remark", base+"/remarks/"+threads[0].ID+"/edit", "text", "Something else")
	h.form("owner", base+"/remarks/"+threads[0].ID+"/settle", "open", "yes")
	_, page := h.ask("owner", "GET", base+"/rounds/"+r.ID+"/page.html", "")
	for _, want := range []string{"What of the key?", "It hangs at the desk", "resolved by owner", "Looked at it: ",
		"Answered: ",
		"Asked: as a member of the organisation, ", "Agreed by remark.", "data:image/svg", r.Version.Hash} {
		if !strings.Contains(page, want) {
			t.Errorf("the record lacks %q", want)
		}
	}
	if strings.Contains(page, "Something else") {
		t.Error("the record says what was written after the end")
	}
	_, file := h.ask("owner", "GET", base+"/rounds/"+r.ID+"/page.docx", "")
	z, err := zip.NewReader(strings.NewReader(file), int64(len(file)))
	if err != nil {
		t.Fatal(err)
	}
	for _, f := range z.File {
		in, err := f.Open()
		h.must(err)
		raw, err := io.ReadAll(in)
		h.must(err)
		if strings.HasSuffix(f.Name, ".xml") || strings.HasSuffix(f.Name, ".rels") {
			for dec := xml.NewDecoder(bytes.NewReader(raw)); ; {
				if _, err := dec.Token(); err == io.EOF {
					break
				} else if err != nil {
					t.Fatalf("%s: %v", f.Name, err)
				}
			}
		}
		if f.Name == "word/document.xml" && !strings.Contains(string(raw), "It hangs at the desk") {
			t.Error("the file for word processors lacks an answer")
		}
	}
}

// Whatever is changed in the log of a round, or in what stands beside it, is found.
func TestVerifyFindsWhatWasChanged(t *testing.T) {
	h, id := reviewed(t)
	h.form("owner", "/maps/"+id+"/rounds", "person", h.ids["remark"], "names", "Ann")
	h.form("remark", "/maps/"+id+"/remarks", "item", "s1", "text", "What of the key?")
	h.says("remark", id, review.NotAgreed, "reason", "There is no key")
	r := h.latest(id)
	h.form("owner", "/maps/"+id+"/rounds/"+r.ID+"/end")
	checked := func() string {
		list, err := h.s.Rounds.Verify()
		h.must(err)
		if len(list) != 1 || list[0].Entries < 5 || list[0].Head == "" {
			t.Fatalf("checked was %+v", list)
		}
		return strings.Join(list[0].Faults, "; ")
	}
	if said := checked(); said != "" {
		t.Fatalf("at first: %s", said)
	}
	db, err := sql.Open("sqlite", filepath.Join(h.data, "plaintracer.db"))
	h.must(err)
	defer db.Close()
	for _, c := range []struct{ do, undo, want string }{
		{"UPDATE verdicts SET verdict = 'agreed', reason = '' WHERE verdict <> ''",
			"UPDATE verdicts SET verdict = 'not agreed', reason = 'There is no key' WHERE verdict <> ''",
			"is not what the log says"},
		{"UPDATE verdicts SET verdict = '' WHERE verdict <> ''",
			"UPDATE verdicts SET verdict = 'not agreed' WHERE reason <> ''", "is gone"},
		{"UPDATE round_log SET entry = replace(entry, 'not agreed', 'agreed')",
			"UPDATE round_log SET entry = replace(entry, '\"verdict\":\"agreed', '\"verdict\":\"not agreed')",
			"is not as it was written"},
		{"UPDATE rounds SET ended = NULL, open = NULL", "UPDATE rounds SET ended = 1, open = 1", "ended in one place"},
		{"UPDATE versions SET hash = 'x' || substr(hash, 2)", "UPDATE versions SET hash = '" + r.Version.Hash + "'",
			"version that was asked about"},
		{"DELETE FROM round_log WHERE n = 3", "", "is missing"},
	} {
		_, err := db.ExecContext(context.Background(), c.do)
		h.must(err)
		if said := checked(); !strings.Contains(said, c.want) {
			t.Errorf("after %s: %q", c.do, said)
		}
		if c.undo != "" {
			_, err := db.ExecContext(context.Background(), c.undo)
			h.must(err)
			if said := checked(); said != "" {
				t.Fatalf("after %s: %q", c.undo, said)
			}
		}
	}
}

// A map that was agreed has a life: until when, when to review, whose process; it can be withdrawn, and readers of an
// older version are told that a newer one was agreed.
func TestTheLifeOfAgreedMaps(t *testing.T) {
	h, id := reviewed(t)
	base := "/maps/" + id
	round := func() store.Round {
		h.form("owner", base+"/rounds", "person", h.ids["remark"])
		h.says("remark", id, review.Agreed)
		r := h.latest(id)
		h.form("owner", base+"/rounds/"+r.ID+"/end")
		return h.latest(id)
	}
	first := round()
	soon := time.Now().AddDate(0, 0, 10).Format(time.DateOnly)
	h.form("owner", base+"/life", "until", time.Now().AddDate(1, 0, 0).Format(time.DateOnly), "due", soon, "owner",
		"edit")
	l, err := h.s.Lives.Get(id)
	h.must(err)
	if l.Owner != h.ids["edit"] || l.Due.Before(time.Now()) {
		t.Errorf("the life is %+v", l)
	}
	if _, body := h.ask("edit", "GET", "/", ""); !strings.Contains(body, "due for review on") {
		t.Error("home does not tell the owner of the process what is due")
	}
	if _, body := h.ask("remark", "GET", "/", ""); strings.Contains(body, "due for review on") {
		t.Error("home tells others what is due")
	}
	app := rounds.New(h.s, nil, "", "")
	if said, err := app.Standing(id, first.Version.ID); said != "" || err != nil {
		t.Errorf("the version stands as %q, %v", said, err)
	}
	d, err := h.s.Documents.Open(id)
	h.must(err)
	_, err = d.Apply("w1", 1, &edit.SetText{Sheet: "sheet-1", ID: "s0", Text: "Ask for card and name"})
	h.must(err)
	round()
	said, err := app.Standing(id, first.Version.ID)
	if err != nil || !regexp.MustCompile(`^Replaced: a newer version, 2, was agreed on \d`).MatchString(said) {
		t.Errorf("the first version stands as %q, %v", said, err)
	}
	token, err := h.s.Links.Create(id, h.ids["owner"], store.Choices{Right: account.Read, Version: first.Version.ID},
		"")
	h.must(err)
	if _, body := h.ask("", "GET", "/m/"+token, ""); !strings.Contains(body, "a newer version, 2, was agreed") {
		t.Errorf("readers by a link to the older version are not told: %.1500s", body)
	}
	h.form("owner", base+"/life", "what", "withdraw", "why", "The bikes are sold")
	if _, body := h.ask("owner", "GET", "/?view=list", ""); !strings.Contains(body, "withdrawn on") {
		t.Error("home does not say that it is withdrawn")
	}
	if _, out := h.ask("owner", "GET", base+"/export/procedure-html", ""); !strings.Contains(out,
		"The bikes are sold") {
		t.Errorf("what is exported does not say that it is withdrawn: %.600s", out)
	}
	h.form("owner", base+"/life", "what", "restore")
	if _, out := h.ask("owner", "GET", base+"/export/procedure-html", ""); strings.Contains(out, "ithdrawn") {
		t.Error("what is in force again is exported as withdrawn")
	}
}

// A procedure says where the review of its map stands, who owns it, and what changed since it was agreed: to people of
// the organisation and those who may remark, and to no reader by a link.
func TestAProcedureSaysWhatWasAgreed(t *testing.T) {
	h, id := reviewed(t)
	base := "/maps/" + id
	h.form("owner", base+"/rounds", "person", h.ids["remark"])
	h.says("remark", id, review.Agreed)
	h.form("owner", base+"/rounds/"+h.latest(id).ID+"/end")
	h.form("owner", base+"/life", "owner", "Runa Dahl")
	d, err := h.s.Documents.Open(id)
	h.must(err)
	_, err = d.ApplyAs(h.ids["owner"], "w9", 1, &edit.SetText{Sheet: "sheet-1", ID: "s1", Text: "Hand the key over"})
	h.must(err)
	link, err := h.s.Links.Create(id, h.ids["owner"], store.Choices{Right: account.Read, Download: true}, "")
	h.must(err)
	const format = "/export/procedure-markdown?what=map&pictures=no"
	_, own := h.ask("edit", "GET", base+format, "")
	_, theirs := h.ask("nobody", "GET", "/r/"+link+format, "")
	for _, want := range []string{"Agreed: version 1", "by remark", "Runa Dahl",
		"Changed since version 1, which was agreed on",
		"Hand the key over"} {
		if !strings.Contains(own, want) {
			t.Errorf("the procedure does not say %q: %.2500s", want, own)
		}
		if want != "Hand the key over" && strings.Contains(theirs, want) {
			t.Errorf("a reader by a link is told %q", want)
		}
	}
	if !strings.Contains(theirs, "Hand the key over") {
		t.Errorf("a reader by a link gets %.600s", theirs)
	}
}
