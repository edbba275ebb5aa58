package changes

import (
	"context"
	"encoding/json"
	"strings"
	"testing"

	"plaintracer/core/geometry"
	"plaintracer/core/model"
)

// The words that stayed, with those of one side, give that side back.
func FuzzWords(f *testing.F) {
	f.Add("Log the report", "Note the long report")
	f.Add("Größe prüfen", "Grösse genau prüfen")
	f.Add("", "a")
	f.Fuzz(func(t *testing.T, old, now string) {
		if len(old)+len(now) > 4000 {
			return
		}
		var was, is strings.Builder
		for _, p := range Words(old, now) {
			if !p.New {
				was.WriteString(p.Text)
			}
			if !p.Old {
				is.WriteString(p.Text)
			}
		}
		if was.String() != old || is.String() != now {
			t.Errorf("%q and %q come back as %q and %q", old, now, was.String(), is.String())
		}
	})
}

// An account is told as a page, as Markdown and as JSON, and nothing in it runs.
func TestAccounts(t *testing.T) {
	before := model.New("<script>alert(1)</script>", model.Rightwards, "A4", true)
	before.Sheets[0].Symbols = []*model.Symbol{{ID: "a", Kind: model.Process, Text: "Log the report",
		Box: geometry.Box{X: 100, Y: 100, W: 12000, H: 8000}}}
	after := before.Clone()
	after.Sheets[0].Symbols[0].Text = "Note the *report* <b>"
	a := Between(before, after, "version 1", "version 2")
	page, err := a.HTML(t.Context())
	if err != nil || strings.Contains(string(page), "<script>") ||
		!strings.Contains(string(page), "<del>Log</del><ins>Note</ins> the <ins>*</ins>report<ins>* &lt;b&gt;</ins>") {
		t.Errorf("%v %s", err, page)
	}
	if text := string(a.Markdown()); !strings.Contains(text,
		`- Step 1 “Log the report” was reworded: “Note the \*report\* \<b>”. It was “Log the report”.`) {
		t.Errorf("%s", text)
	}
	raw, err := a.JSON()
	var back struct {
		Changes []struct{ Kind, Attribute, Old, New string }
	}
	if err != nil || json.Unmarshal(raw, &back) != nil || len(back.Changes) != 1 ||
		back.Changes[0].Old != "Log the report" {
		t.Errorf("%v %s", err, raw)
	}
	after.Sheets[0].Symbols[0].Text, after.Sheets[0].Symbols[0].X = "Log the report", 500
	moved := Between(before, after, "1", "2")
	if len(moved.Lines) != 0 || moved.Counted() != "Nothing of the work changed; one thing was moved or sized." {
		t.Errorf("%v %s", moved.Lines, moved.Counted())
	}
	// The picture marks it where it is now, and the page tells it apart from the work.
	if list := moved.Marks(before.Sheets[0].ID); len(list) != 1 || list[0].Form != "moved" ||
		list[0].Box != after.Sheets[0].Symbols[0].Grown(6*geometry.Px) {
		t.Errorf("marked: %v", list)
	}
	if page, err = moved.HTML(t.Context()); err != nil || strings.Count(string(page), "<img") != 1 ||
		!strings.Contains(string(page), "<h2>On the page</h2><ul><li>Step 1 “Log the report” was moved or sized.") {
		t.Errorf("%v %.2000s", err, page)
	}
	after.Sheets[0].Symbols = nil // what is gone is marked where it was
	gone := Between(before, after, "1", "2")
	d, ok := gone.Drawing(t.Context(), before.Sheets[0].ID)
	if list := gone.Marks(before.Sheets[0].ID); !ok || len(list) != 1 || list[0].Form != "removed" ||
		list[0].Box != before.Sheets[0].Symbols[0].Grown(6*geometry.Px) || d.Nodes[len(d.Nodes)-1].Class != "mark" {
		t.Errorf("removed: %v", list)
	}
	stopped, stop := context.WithCancel(t.Context())
	stop()
	if _, err := gone.PDF(stopped); err == nil {
		t.Error("nobody waits for it, and it is written all the same")
	}
}
