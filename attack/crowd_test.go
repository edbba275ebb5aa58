package attack

import (
	"bytes"
	"encoding/json"
	"fmt"
	"html"
	"io"
	"math/rand/v2"
	"net/http"
	"net/url"
	"regexp"
	"strings"
	"sync"
	"testing"
	"time"

	"plaintracer/core/edit"
	"plaintracer/core/model"
	"plaintracer/e2e/program"
)

// gathering is a program that is killed while many are at work.
type gathering struct {
	*program.Server
	id string
	// gate is held while the program is started again.
	gate sync.RWMutex
}

// later waits until the program can be asked again.
func (c *gathering) later() {
	time.Sleep(5 * time.Millisecond)
	c.gate.RLock()
	defer c.gate.RUnlock()
}

var tokenOnPage = regexp.MustCompile(`name="page-token" content="([0-9a-f]+)"`)

// remark says something about a step, and reports whether that was acknowledged. Where no answer came it may have been
// kept.
func (c *gathering) remark(item, text string) (acknowledged bool, err error) {
	page, err := http.Get(c.URL + "/")
	if err != nil {
		return false, nil
	}
	body, err := io.ReadAll(page.Body)
	page.Body.Close()
	token := tokenOnPage.FindSubmatch(body)
	if err != nil || token == nil {
		return false, nil
	}
	req, err := http.NewRequest("POST", c.URL+"/maps/"+c.id+"/remarks",
		strings.NewReader(url.Values{"item": {item}, "text": {text}}.Encode()))
	if err != nil {
		return false, err
	}
	req.Header.Set("Content-Type", "application/x-www-form-urlencoded")
	req.Header.Set("X-Page-Token", string(token[1]))
	r, err := http.DefaultClient.Do(req)
	if err != nil {
		return false, nil
	}
	defer r.Body.Close()
	if body, err = io.ReadAll(r.Body); err != nil {
		return false, nil
	}
	if r.StatusCode != 200 {
		return false, fmt.Errorf("a remark is answered by %d: %.200s", r.StatusCode, body)
	}
	return !bytes.Contains(body, []byte(`class="refusal"`)), nil
}

// member is an editor of a crowd: a window with its own copy of the map, which hears of every edit.
type member struct {
	*window
	m        *model.Map
	revision int
}

// hear takes in a message about the map.
func (e *member) hear(a answer) error {
	switch a.Kind {
	case "fresh":
		e.m, e.revision = new(model.Map), a.Revision
		return json.Unmarshal(a.Map, e.m)
	case "edit":
		var change edit.Envelope
		if a.Revision != e.revision+1 {
			return fmt.Errorf("revision %d comes after %d", a.Revision, e.revision)
		}
		if err := json.Unmarshal(a.Edit, &change); err != nil {
			return err
		}
		if _, err := edit.Attempt(e.m, change.Edit); err != nil {
			return fmt.Errorf("revision %d: %w", a.Revision, err)
		}
		e.revision = a.Revision
	}
	return nil
}

// listen takes in messages up to one that answers the edit with a number, or that all is told.
func (e *member) listen(seq int) (kind string, err, broken error) {
	for {
		a, err := e.read()
		if err != nil {
			return "", nil, err
		}
		if err := e.hear(a); err != nil {
			return "", err, nil
		}
		if seq == 0 && a.Kind == "caught-up" || seq > 0 && a.Seq == seq && (a.Kind == "saved" || a.Kind == "refused") {
			return a.Kind, nil, nil
		}
	}
}

// join connects an editor, again and again until it is up to date.
func (e *member) join(c *gathering) error {
	for {
		conn, raw, err := dial(e.address)
		if err == nil {
			e.conn, e.raw = conn, raw
			if conn.WriteJSON(map[string]any{"kind": "window", "window": e.Window, "secret": e.Secret,
				"after": e.revision}) == nil {
				_, wrong, broken := e.listen(0)
				if wrong != nil || broken == nil {
					return wrong
				}
			}
			conn.Close()
		}
		c.later()
	}
}

// Twenty people are at work on one map: twelve draw, and eight say something of it. Connections drop without a word,
// edits are offered twice and late, and the server is killed twice. In the end all have the same map to the byte, with
// every edit that was acknowledged, and see the same threads, with every remark that was.
func TestACrowdComesToTheSame(t *testing.T) {
	const editors, reviewers, edits, remarks = 12, 8, 40, 25
	c := &gathering{Server: program.Start(t, "serve")}
	c.id = create(t, c.Server, 1)
	var all sync.WaitGroup
	var members []*member
	var mu sync.Mutex
	said, steps := map[string]bool{}, map[string]bool{}
	for k := range editors {
		w, err := newWindow(c.Server, c.id)
		if err != nil {
			t.Fatal(err)
		}
		e := &member{window: w, m: new(model.Map), revision: w.Revision}
		if err := json.Unmarshal(w.Map, e.m); err != nil {
			t.Fatal(err)
		}
		members = append(members, e)
		rnd := rand.New(rand.NewPCG(*firstSeed, uint64(100+k)))
		all.Go(func() {
			if err := e.join(c); err != nil {
				t.Errorf("editor %d: %v", k, err)
				return
			}
			for n := 1; n <= edits; n++ {
				edit := addStep(e.window, n, fmt.Sprint("Step ", n))
				if s := e.m.Sheets[0]; n%3 != 1 && len(s.Symbols) > 0 { // anybody's step
					other := s.Symbols[rnd.IntN(len(s.Symbols))].ID
					edit = move(other, n)
					if n%3 == 2 {
						edit = fmt.Appendf(nil, `{"do":"setText","sheet":"sheet-1","id":%q,"text":"%s wrote %d"}`,
							other, e.Window, n)
					}
				}
				for {
					err := e.send(n, edit)
					if err == nil && rnd.IntN(5) == 0 {
						err = e.send(n, edit)
					}
					if rnd.IntN(12) == 0 {
						e.drop()
					}
					kind, wrong, broken := "", error(nil), err
					if err == nil {
						kind, wrong, broken = e.listen(n)
					}
					if wrong != nil {
						t.Errorf("editor %d: %v", k, wrong)
						return
					}
					if broken != nil {
						e.conn.Close()
						if err := e.join(c); err != nil {
							t.Errorf("editor %d: %v", k, err)
							return
						}
						continue
					}
					if kind == "saved" && n%3 == 1 {
						mu.Lock()
						steps[fmt.Sprintf("%s-%d", e.Window, n)] = true
						mu.Unlock()
					}
					break
				}
			}
		})
	}
	for k := range reviewers {
		rnd := rand.New(rand.NewPCG(*firstSeed, uint64(200+k)))
		all.Go(func() {
			for n := range remarks {
				item := ""
				mu.Lock()
				for id := range steps {
					if item = id; rnd.IntN(4) == 0 {
						break
					}
				}
				mu.Unlock()
				text := fmt.Sprintf("Reviewer %d says %d", k, n)
				kept, err := c.remark(item, text)
				if err != nil {
					t.Errorf("reviewer %d: %v", k, err)
					return
				}
				if kept {
					mu.Lock()
					said[text] = true
					mu.Unlock()
				} else {
					c.later()
				}
			}
		})
	}
	for range 2 {
		mu.Lock()
		then := len(steps)
		mu.Unlock()
		for now := then; now < then+editors*edits/10 && !t.Failed(); time.Sleep(2 * time.Millisecond) {
			mu.Lock()
			now = len(steps)
			mu.Unlock()
		}
		c.Kill()
		c.gate.Lock()
		c.Again()
		c.gate.Unlock()
	}
	all.Wait()
	if t.Failed() {
		return
	}
	now, err := newWindow(c.Server, c.id)
	if err != nil {
		t.Fatal(err)
	}
	want := compact(now.Map)
	for k, e := range members {
		e.conn.Close()
		if err := e.join(c); err != nil {
			t.Fatal(err)
		}
		e.conn.Close()
		if got, err := json.Marshal(e.m); err != nil || e.revision != now.Revision || !bytes.Equal(got, want) {
			t.Errorf("editor %d ends at revision %d with another map than the server at %d", k, e.revision,
				now.Revision)
		}
	}
	m := new(model.Map)
	if err := json.Unmarshal(now.Map, m); err != nil {
		t.Fatal(err)
	}
	for id := range steps {
		if m.Sheets[0].Symbol(id) == nil {
			t.Errorf("step %s was acknowledged and is not there", id)
		}
	}
	_, first := program.Get(t, c.URL+"/maps/"+c.id+"/remarks?show=open&most=5000")
	for range reviewers { // each sees the same; what is told to one is told to all
		if _, page := program.Get(t,
			c.URL+"/maps/"+c.id+"/remarks?show=open&most=5000"); threadIDs(page) != threadIDs(first) {
			t.Error("two see other threads")
		}
	}
	list := html.UnescapeString(string(first))
	for text := range said {
		if n := strings.Count(list, "<p>"+text+"</p>"); n != 1 {
			t.Errorf("%q was acknowledged and is there %d times", text, n)
		}
	}
	t.Logf("%d steps and %d remarks were acknowledged", len(steps), len(said))
}

var threadID = regexp.MustCompile(`id="thread-(\w+)"`)

func threadIDs(page []byte) string {
	var ids []string
	for _, m := range threadID.FindAllSubmatch(page, -1) {
		ids = append(ids, string(m[1]))
	}
	return strings.Join(ids, " ")
}

var aboutThread = regexp.MustCompile(`(?s)id="thread-\w+" data-thread="\w+"\s+data-item="([^"]*)">.*?class="about"[^>]*>(.*?)</button>`)

// Whatever is done to a map, a remark stays with its thing: it is about that while the thing is there, wherever it went
// and whatever it says now, and says that it is gone while it is not; undoing brings it back.
func TestRemarksStickUnderAnyEdits(t *testing.T) {
	s := program.Start(t, "serve")
	id := create(t, s, 0)
	w, err := newWindow(s, id)
	if err != nil {
		t.Fatal(err)
	}
	if err := w.connect(w.Revision); err != nil {
		t.Fatal(err)
	}
	defer w.conn.Close()
	m := new(model.Map)
	if err := json.Unmarshal(w.Map, m); err != nil {
		t.Fatal(err)
	}
	made := &wild{rnd: rand.New(rand.NewPCG(*firstSeed, 9)), prefix: w.Window}
	anchored := map[string]bool{}
	seq, undone := 0, 0
	apply := func(raw []byte) *edit.Revert {
		seq++
		if err := w.send(seq, raw); err != nil {
			t.Fatal(err)
		}
		a, err := w.until("saved", "refused", "trouble")
		if err != nil || a.Kind == "trouble" {
			t.Fatalf("edit %d: %+v, %v", seq, a, err)
		}
		if a.Kind == "refused" {
			return nil
		}
		var e edit.Envelope
		if err := json.Unmarshal(raw, &e); err != nil {
			t.Fatal(err)
		}
		trial, err := edit.Attempt(m, e.Edit)
		if err != nil {
			t.Fatalf("edit %d: %v", seq, err)
		}
		back := trial.Inverse()
		back.Seq = seq
		made.remember(raw, back)
		return back
	}
	there := func(id string) bool {
		for _, sheet := range m.Sheets {
			if sheet.Symbol(id) != nil || sheet.Connector(id) != nil {
				return true
			}
		}
		return false
	}
	look := func(after []byte) {
		_, page := program.Get(t, s.URL+"/maps/"+id+"/remarks?show=open&most=5000")
		seen := 0
		for _, about := range aboutThread.FindAllSubmatch(page, -1) {
			item := string(about[1])
			if seen++; !anchored[item] {
				t.Fatalf("a thread is about %q, of which nothing was said", item)
			}
			if gone := bytes.Contains(about[2], []byte("gone:")); gone == there(item) {
				t.Fatalf("of %q, there %v, the thread says %.200s; after %.500s", item, there(item), about[2], after)
			}
		}
		if seen != len(anchored) {
			t.Fatalf("there are %d threads of %d after %.500s", seen, len(anchored), after)
		}
	}
	const rounds = 1500
	apply(made.beginning(m))
	for round := range rounds {
		if round%50 == 0 { // now and then all is removed
			left := 0
			for _, sheet := range m.Sheets {
				left += len(sheet.Symbols)
			}
			if left < 4 {
				apply(made.beginning(m))
			}
		}
		raw := made.edit(m)
		back := apply(raw)
		sheet := pick(made, m.Sheets)
		if n := len(sheet.Symbols); n > 0 && len(anchored) < 40 && round%3 == 0 {
			item := sheet.Symbols[made.rnd.IntN(n)].ID
			if c := sheet.Connectors; len(c) > 0 && round%2 == 0 {
				item = c[made.rnd.IntN(len(c))].ID
			}
			if !anchored[item] {
				if code, body, _ := s.Post("/maps/"+id+"/remarks",
					url.Values{"item": {item}, "text": {"About " + item}}); code != 200 ||
					strings.Contains(body, `class="refusal"`) {
					t.Fatalf("a remark on %s: %d", item, code)
				}
				anchored[item] = true
			}
		}
		if back == nil {
			continue
		}
		if round%7 == 0 {
			look(raw)
		}
		if round%4 == 0 {
			if raw, err := json.Marshal(edit.Envelope{Edit: back}); err == nil && apply(raw) != nil {
				undone++
			}
		}
	}
	look(nil)
	if len(anchored) < 20 || undone < 20 {
		t.Errorf("only %d remarks were made and %d edits undone", len(anchored), undone)
	}
}
