package edit_test

import (
	"crypto/sha256"
	"encoding/json"
	"fmt"
	"math/rand/v2"
	"testing"

	"plaintracer/core/edit"
	"plaintracer/core/geometry"
	"plaintracer/core/model"
	"plaintracer/core/session"
)

// Links and files on symbols, connectors and lanes, set at random, keep the map sound; a file is there as long as
// something leads to it; and all of it taken back, the map is as it was, byte for byte.
func TestLinksUnderRandomEdits(t *testing.T) {
	m := model.New("Links", model.Rightwards, "A4", true)
	s := m.Sheets[0]
	s.Pools = []*model.Pool{{ID: "p", W: 90000, Lanes: []model.Lane{{ID: "l1", Name: "One", H: 20000},
		{ID: "l2", Name: "Two", H: 20000}}}}
	s.Symbols = []*model.Symbol{{ID: "a", Kind: model.Process, Text: "A", Box: geometry.Box{X: 10000, Y: 4000, W: 12000,
		H: 8000}}, {ID: "b", Kind: model.Process, Text: "B", Box: geometry.Box{X: 40000, Y: 4000, W: 12000, H: 8000}}}
	s.Connectors = []*model.Connector{{ID: "c", From: model.End{Symbol: "a"}, To: model.End{Symbol: "b"}}}
	if err := m.Validate(); err != nil {
		t.Fatal(err)
	}
	before, err := json.Marshal(m)
	if err != nil {
		t.Fatal(err)
	}
	random := rand.New(rand.NewPCG(7, 8))
	for range 30 {
		doc, err := session.Open(before, 0, "w1")
		if err != nil {
			t.Fatal(err)
		}
		made := 0
		for range 40 {
			if made > 0 && random.IntN(3) == 0 {
				if _, _, err := doc.Undo(); err != nil {
					t.Fatal(err)
				}
				made--
				continue
			}
			set := &edit.SetLinks{Sheet: s.ID, ID: []string{"a", "b", "c", "l1", "l2"}[random.IntN(5)]}
			for range random.IntN(4) {
				content := fmt.Sprint("content ", random.IntN(5))
				f := model.File{ID: model.FileID(sha256.Sum256([]byte(content))), Name: content + ".txt",
					Type: "text/plain", Size: len(content)}
				to := []string{"https://example.org/" + content, "#a", "#" + s.ID, "map:other",
					"#" + f.ID}[random.IntN(5)]
				if to == "#"+f.ID {
					set.Files = append(set.Files, f)
				}
				set.Links = append(set.Links, model.Hyperlink{Title: content, To: to})
			}
			if err := doc.Do(set); err == nil {
				made++
			}
			now := doc.Map()
			if err := now.Validate(); err != nil {
				t.Fatal(err)
			}
			led := map[string]bool{}
			for l := range now.Leads() {
				if id := l.Link.To[1:]; model.IsFileID(id) {
					led[id] = true
					if now.File(id) == nil {
						t.Fatalf("%s leads to a file that is not there", l.On)
					}
				}
			}
			if len(now.Attached()) != len(led) {
				t.Fatalf("%d files are attached, %d led to", len(now.Attached()), len(led))
			}
		}
		takenBack(t, doc, made, before)
	}
}

// takenBack takes so many edits back, after which a map is as it was before, byte for byte.
func takenBack(t *testing.T, doc *session.Session, made int, before []byte) {
	t.Helper()
	for range made {
		if _, _, err := doc.Undo(); err != nil {
			t.Fatal(err)
		}
	}
	after, err := json.Marshal(doc.Map())
	if err != nil {
		t.Fatal(err)
	}
	if string(after) != string(before) {
		t.Fatalf("taken back it is\n%s\nand was\n%s", after, before)
	}
}
