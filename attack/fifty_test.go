package attack

import (
	"fmt"
	"net/url"
	"os"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"sync"
	"testing"
	"time"

	"plaintracer/e2e/program"
)

// Fifty windows on one map, which together make 25 edits a second: how long after it was sent
// an edit has come to another window. Targets: 2.5 ms in the middle, 3.6 ms for 95 %.
func BenchmarkFiftyWindows(b *testing.B) { fifty(b, 0) }

// The same with five remarks a second. Targets: 100 ms in the middle, 250 ms for 95 %, and 300 MB for the server.
func BenchmarkFiftyReviewers(b *testing.B) { fifty(b, 5) }

func fifty(b *testing.B, remarks int) {
	const count, rate = 50, 25
	s := program.Start(b, "serve")
	id := create(b, s, 1)
	var windows []*window
	var mu sync.Mutex
	var took []time.Duration
	sent := map[int]time.Time{} // by revision: edits are sent one at a time
	var all sync.WaitGroup
	for range count {
		w, err := newWindow(s, id)
		if err != nil {
			b.Fatal(err)
		}
		if err := w.connect(w.Revision); err != nil {
			b.Fatal(err)
		}
		windows = append(windows, w)
		all.Go(func() {
			for {
				a, err := w.read()
				if err != nil {
					return
				}
				if a.Kind == "edit" && a.Window != w.Window {
					now := time.Now()
					mu.Lock()
					took = append(took, now.Sub(sent[a.Revision]))
					mu.Unlock()
				}
			}
		})
	}
	over := make(chan struct{})
	for k := range remarks {
		all.Go(func() {
			for n := 0; ; n++ {
				select {
				case <-over:
					return
				case <-time.After(time.Second):
				}
				if code, body, _ := s.Post("/maps/"+id+"/remarks",
					url.Values{"text": {fmt.Sprintf("Reviewer %d says %d", k, n)}}); code != 200 ||
					strings.Contains(body, `class="refusal"`) {
					b.Errorf("a remark is answered by %d", code)
					return
				}
			}
		})
	}
	tick := time.NewTicker(time.Second / rate)
	defer tick.Stop()
	n := 0
	for b.Loop() {
		w := windows[n%count]
		n++
		edit := addStep(w, 1, "Step")
		if n > count {
			edit = move(w.Window+"-1", n/count)
		}
		<-tick.C
		mu.Lock()
		sent[n] = time.Now()
		mu.Unlock()
		if err := w.send(1+(n-1)/count, edit); err != nil {
			b.Fatal(err)
		}
	}
	for deadline := time.Now().Add(patience); time.Now().Before(deadline); {
		mu.Lock()
		got := len(took)
		mu.Unlock()
		if got == n*(count-1) {
			break
		}
		<-tick.C
	}
	if status, err := os.ReadFile(fmt.Sprintf("/proc/%d/status", s.PID())); err == nil { // on Linux
		if m := regexp.MustCompile(`VmRSS:\s+(\d+) kB`).FindSubmatch(status); m != nil {
			kb, _ := strconv.Atoi(string(m[1]))
			b.ReportMetric(float64(kb)/1000, "MB")
		}
	}
	close(over)
	for _, w := range windows {
		w.conn.Close()
	}
	all.Wait()
	if len(took) != n*(count-1) {
		b.Errorf("%d edits came %d times, not %d", n, len(took), n*(count-1))
	}
	slices.Sort(took)
	b.ReportMetric(float64(took[len(took)/2].Microseconds())/1000, "ms-median")
	b.ReportMetric(float64(took[len(took)*95/100].Microseconds())/1000, "ms-95%")
}
