package site

import (
	"io/fs"
	"regexp"
	"strings"
	"testing"

	"plaintracer/core/editor/command"
	"plaintracer/docs"
)

// The guide's chapters have addresses of their own, its pictures are there, and a key that it names is one of the
// table.
func TestTheGuideHoldsTogether(t *testing.T) {
	guide, err := fs.ReadFile(docs.Files, "guide.md")
	if err != nil {
		t.Fatal(err)
	}
	list, err := chapters(guide)
	if err != nil || len(list) < 10 {
		t.Fatalf("%d chapters, %v", len(list), err)
	}
	ids, pictures := map[string]bool{}, 0
	for _, c := range list {
		if ids[c.ID] || c.ID == "" || strings.ContainsAny(c.ID, " ,.") {
			t.Errorf("the chapter %q is at %q", c.Title, c.ID)
		}
		ids[c.ID] = true
		for _, m := range regexp.MustCompile(`src="/help/([^"]+)"`).FindAllStringSubmatch(string(c.Text), -1) {
			pictures++
			if _, err := fs.Stat(docs.Files, "screenshots/"+m[1]); err != nil {
				t.Errorf("%s: %v", c.Title, err)
			}
		}
	}
	if pictures < 8 {
		t.Errorf("there are %d pictures", pictures)
	}
	known := map[string]bool{"Ctrl+Z": true}
	for _, e := range command.Entries() {
		known[e.Key] = true
	}
	for _, m := range regexp.MustCompile(`\b(Ctrl|Alt) ([A-Z])\b`).FindAllStringSubmatch(string(guide), -1) {
		if !known[m[1]+"+"+m[2]] {
			t.Errorf("the guide names the key %s, which no command has", m[0])
		}
	}
}
