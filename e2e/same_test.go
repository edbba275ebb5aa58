package e2e

import (
	"bytes"
	"fmt"
	"image/png"
	"maps"
	"slices"
	"strings"
	"testing"

	"plaintracer/bench/gallery"
	"plaintracer/e2e/browser"
	"plaintracer/exchange/tracerjson"
)

// What an export shows is what the desk shows in Chromium: every symbol, end, crossing, look, lane, heading, badge and
// picture. Other scripts come out of other fonts there; that they stand where they should and read the same way is
// within a wider tolerance.
func TestExportsLookLikeTheDesk(t *testing.T) {
	list, err := gallery.Maps()
	if err != nil {
		t.Fatal(err)
	}
	s := start(t, "serve")
	b := browser.Start(t)
	for _, name := range slices.Sorted(maps.Keys(list)) {
		if strings.HasPrefix(name, "look ") && name != "look print" && name != "look wall" {
			continue
		}
		file, err := tracerjson.Write(list[name])
		if err != nil {
			t.Fatal(err)
		}
		home := b.Open(s.URL + "/")
		drop(home, "main", name+".tracer.json", "application/json", file)
		home.Until("location.pathname.startsWith('/maps/') && document.documentElement.dataset.ready")
		path := browser.Eval[string](home, "location.pathname")
		box := browser.Eval[[]float64](home,
			`(() => { document.querySelectorAll('#grid, #overlay').forEach(g => g.setAttribute('visibility', 'hidden')); const r = document.getElementById('page').getBoundingClientRect(), f = document.getElementById('page').getBBox(); return [r.x, r.y, r.width, r.height, f.width] })()`)
		shot, err := png.Decode(bytes.NewReader(home.PictureOf(box[0], box[1], box[2], box[3], 2*box[4]/box[2])))
		if err != nil {
			t.Fatal(err)
		}
		_, raw := get(t, s.URL+path+"/export/png?scale=2")
		bitmap, err := png.Decode(bytes.NewReader(raw))
		if err != nil {
			t.Fatal(err)
		}
		differ, shown := gallery.Compare(gallery.Halved(bitmap), gallery.Halved(shot))
		if name == "scripts" {
			differ /= 20
		}
		if !gallery.Same(differ) {
			out, err := gallery.Difference("desk "+name, shown)
			if err != nil {
				t.Fatal(err)
			}
			t.Errorf("%s: %d pixels of a million differ from the desk (%v and %v); see %s", name, differ,
				bitmap.Bounds().Size(), shot.Bounds().Size(), out)
		}
		if faults := home.Faults(); len(faults) > 0 {
			t.Error(fmt.Sprint(faults))
		}
		home.Close()
	}
}
