package attack

import (
	"bytes"
	"flag"
	"fmt"
	"io"
	"math/rand/v2"
	"net/http"
	"net/url"
	"os"
	"regexp"
	"runtime/debug"
	"slices"
	"strconv"
	"strings"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"github.com/fasthttp/websocket"

	"plaintracer/e2e/program"
)

// How large the crowd is; the defaults are for "make test", "make load" gives others.
var (
	loadWindows = flag.Int("windows", 60, "windows of the crowd")
	loadMaps    = flag.Int("maps", 12, "maps they are open on")
	loadRate    = flag.Int("rate", 60, "edits a second, together")
	loadSeconds = flag.Int("seconds", 2, "how long")
	loadRemarks = flag.Int("remarks", 4, "remarks a second, together")
	loadReaders = flag.Int("comers", 10, "readers by links who come and go all the time")
	loadExports = flag.Int("exporters", 1, "exports that run all the time")
	loadMedian  = flag.Float64("median", 0,
		"ms after which half of what is sent must have been seen by the others; 0 for no limit")
	loadMost = flag.Float64("most", 0, "ms for 99 % of it")
)

// after is the number that stands behind a text in a message, below zero for none. The crowd shares its processors with
// the server, so that it reads no more of a message than it has to.
func after(raw []byte, text string) (n int64) {
	i := bytes.Index(raw, []byte(text))
	if i < 0 {
		return -1
	}
	for _, c := range raw[i+len(text):] {
		if c < '0' || c > '9' {
			break
		}
		n = n*10 + int64(c-'0')
	}
	return n
}

// A crowd is at work on many maps: windows edit and follow, some remark, readers come and go, exports run. Every edit
// is acknowledged and seen by every other window of its map, once and in order; it is told how long that took, and what
// memory the server used. "make load" does it at length.
func TestALoad(t *testing.T) {
	defer debug.SetGCPercent(debug.SetGCPercent(400)) // the crowd's own memory is not what is measured
	s := program.Start(t, "serve")
	maps := make([]string, *loadMaps)
	links := make([]string, *loadMaps)
	for k := range maps {
		maps[k] = create(t, s, 1)
		links[k] = share(t, s, maps[k])
	}
	token := s.Token()
	begun := time.Now()
	micros := func() int64 { return time.Since(begun).Microseconds() }
	type member struct {
		*window
		room     int
		seq      int
		sent     atomic.Int64
		answered atomic.Int64
		own      []byte  // how messages of its own edits name it
		seen     []int32 // in tenths of a millisecond
		last     int
	}
	var members []*member
	var all sync.WaitGroup
	for n := range *loadWindows {
		w, err := newWindow(s, maps[n%len(maps)])
		if err != nil {
			t.Fatal(err)
		}
		if err := w.connect(w.Revision); err != nil {
			t.Fatal(err)
		}
		m := &member{window: w, room: n % len(maps), last: w.Revision, own: []byte(`"window":"` + w.Window + `"`)}
		members = append(members, m)
		w.Map = nil
	}
	t.Logf("%d windows on %d maps are open after %s, the server takes %d MB", len(members), len(maps),
		time.Since(begun).Round(time.Millisecond), memory(s, "VmRSS"))
	var fault atomic.Pointer[string]
	wrong := func(text string, with ...any) {
		text = fmt.Sprintf(text, with...)
		fault.CompareAndSwap(nil, &text)
	}
	var heard atomic.Int64
	for _, m := range members {
		all.Go(func() {
			for {
				_, raw, err := m.conn.ReadMessage()
				if err != nil {
					return
				}
				now := micros()
				kind, _, _ := bytes.Cut(bytes.TrimPrefix(raw, []byte(`{"kind":"`)), []byte(`"`))
				switch string(kind) {
				case "edit":
					revision := int(after(raw, `"revision":`))
					if revision != m.last+1 {
						wrong("revision %d comes after %d", revision, m.last)
					}
					m.last = revision
					if then := after(raw, `"text":"sent `); then >= 0 && !bytes.Contains(raw, m.own) {
						m.seen = append(m.seen, int32((now-then)/100))
						heard.Add(1)
					}
				case "saved":
					m.answered.Add(1)
				case "refused", "trouble", "ended", "again":
					wrong("a window is told: %.200s", raw)
				}
			}
		})
	}
	// The first edit of each map makes the step that the others write on.
	first := make([]*member, len(maps))
	for _, m := range members {
		if first[m.room] == nil {
			first[m.room] = m
			m.seq++
			m.sent.Add(1)
			if err := m.send(m.seq, addStep(m.window, 1, "Step")); err != nil {
				t.Fatal(err)
			}
		}
	}
	settle := func() {
		for late := time.Now().Add(patience); ; time.Sleep(5 * time.Millisecond) {
			waits := 0
			for _, m := range members {
				if m.answered.Load() < m.sent.Load() {
					waits++
				}
			}
			if waits == 0 || fault.Load() != nil {
				return
			}
			if time.Now().After(late) {
				t.Fatalf("%d windows wait for answers", waits)
			}
		}
	}
	settle()

	over := make(chan struct{})
	during := func(pause time.Duration, do func() error) {
		all.Go(func() {
			tick := time.NewTicker(pause)
			defer tick.Stop()
			for {
				select {
				case <-over:
					return
				case <-tick.C:
				}
				if err := do(); err != nil {
					wrong("%v", err)
				}
			}
		})
	}
	var remarks, exports, visits atomic.Int64
	client := &http.Client{Timeout: patience}
	for k := range *loadRemarks {
		during(time.Second, func() error {
			req, err := http.NewRequest("POST", s.URL+"/maps/"+maps[rand.IntN(len(maps))]+"/remarks",
				strings.NewReader(url.Values{"text": {fmt.Sprint("Remark of ", k)}}.Encode()))
			if err != nil {
				return err
			}
			req.Header.Set("Content-Type", "application/x-www-form-urlencoded")
			req.Header.Set("X-Page-Token", token)
			return asked(client, req, &remarks)
		})
	}
	for range *loadExports {
		during(time.Millisecond, func() error {
			req, err := http.NewRequest("GET", s.URL+"/maps/"+maps[rand.IntN(len(maps))]+"/export/pdf", nil)
			if err != nil {
				return err
			}
			return asked(client, req, &exports)
		})
	}
	for range *loadReaders {
		during(100*time.Millisecond, func() error {
			conn, _, err := websocket.DefaultDialer.Dial(links[rand.IntN(len(links))], nil)
			if err != nil {
				return fmt.Errorf("a reader: %w", err)
			}
			defer conn.Close()
			visits.Add(1)
			conn.SetReadDeadline(time.Now().Add(time.Second))
			conn.ReadMessage()
			return nil
		})
	}

	total := *loadRate * *loadSeconds
	gap := time.Second / time.Duration(*loadRate)
	start := time.Now()
	expected := int64(0)
	inRoom := make([]int64, len(maps))
	for _, m := range members {
		inRoom[m.room]++
	}
	order := rand.Perm(len(members))
	for n := range total {
		if wait := time.Until(start.Add(time.Duration(n) * gap)); wait > 0 {
			time.Sleep(wait)
		}
		m := members[order[n%len(order)]]
		m.seq++
		m.sent.Add(1)
		step := first[m.room].Window + "-1"
		if err := m.send(m.seq, fmt.Appendf(nil, `{"do":"setText","sheet":"sheet-1","id":%q,"text":"sent %d"}`, step,
			micros())); err != nil {
			t.Fatal(err)
		}
		expected += inRoom[m.room] - 1
		if fault.Load() != nil {
			break
		}
	}
	took := time.Since(start)
	settle()
	for late := time.Now().Add(patience); heard.Load() < expected && fault.Load() == nil && time.Now().Before(late); {
		time.Sleep(5 * time.Millisecond)
	}
	close(over)
	peak, now := memory(s, "VmHWM"), memory(s, "VmRSS")
	for _, m := range members {
		m.conn.Close()
	}
	all.Wait()
	if text := fault.Load(); text != nil {
		t.Fatal(*text)
	}
	if heard.Load() != expected {
		t.Errorf("edits were seen %d times, not %d", heard.Load(), expected)
	}
	var seen []int32
	for _, m := range members {
		seen = append(seen, m.seen...)
	}
	if len(seen) == 0 {
		t.Fatal("nothing was seen by others")
	}
	slices.Sort(seen)
	at := func(share float64) float64 { return float64(seen[int(share*float64(len(seen)-1))]) / 10 }
	t.Logf("%d edits in %s (%.0f a second), seen %d times: half within %.1f ms, 95 %% %.1f, 99 %% %.1f, all %.1f; %d remarks, %d exports, %d readers came; the server took %d MB, %d at most",
		total, took.Round(time.Millisecond), float64(total)/took.Seconds(), len(seen), at(0.5), at(0.95), at(0.99),
		at(1), remarks.Load(), exports.Load(), visits.Load(), now, peak)
	if *loadMedian > 0 && at(0.5) > *loadMedian || *loadMost > 0 && at(0.99) > *loadMost {
		t.Errorf("that is more than %.0f ms for half and %.0f for 99 %%", *loadMedian, *loadMost)
	}
	for _, id := range maps[:min(len(maps), 3)] {
		s.File("/maps/" + id)
	}
}

// asked asks for something, and counts it where the answer is what it has to be.
func asked(client *http.Client, req *http.Request, n *atomic.Int64) error {
	r, err := client.Do(req)
	if err != nil {
		return err
	}
	defer r.Body.Close()
	body, err := io.ReadAll(r.Body)
	if err != nil {
		return err
	}
	if r.StatusCode == http.StatusServiceUnavailable { // it says that it is busy
		return nil
	}
	if r.StatusCode != 200 || bytes.Contains(body, []byte(`class="refusal"`)) {
		return fmt.Errorf("%s %s: %d %.200s", req.Method, req.URL.Path, r.StatusCode, body)
	}
	n.Add(1)
	return nil
}

// memory is what the server takes, by a line of its status (Linux, proc(5)), in MB; zero elsewhere.
func memory(s *program.Server, line string) int {
	status, err := os.ReadFile(fmt.Sprintf("/proc/%d/status", s.PID()))
	if err != nil {
		return 0
	}
	m := regexp.MustCompile(line + `:\s+(\d+) kB`).FindSubmatch(status)
	if m == nil {
		return 0
	}
	kb, _ := strconv.Atoi(string(m[1]))
	return kb / 1000
}
