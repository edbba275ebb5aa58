package editor_test

import (
	"strings"
	"testing"

	"plaintracer/core/model"
	"plaintracer/core/scene"
)

// The heading shows what the map and its sheets say about themselves, and fills
// itself: the title, the number of the sheet, and the date.
func TestHeadingFillsItself(t *testing.T) {
	d := open(t, model.New("Lend a bike", model.Rightwards, "A4", true))
	start := string(document(t, d.Map()))
	texts := func(s *model.Sheet) string {
		var out []string
		for _, n := range scene.Draw(d.Map(), s).Nodes {
			for _, text := range n.Texts {
				out = append(out, text.Text)
			}
		}
		return strings.Join(out, " | ")
	}
	if got := texts(d.Sheet()); got != "" {
		t.Fatalf("without a heading it shows %s", got)
	}
	d.Command("heading", "today=25 November 2026")
	d.Command("heading", "author=  R. Meyer ")
	d.flush()
	if got, want := texts(d.Sheet()),
		"Map | Lend a bike | Author | R. Meyer | Date | 25 November 2026 | Sheet | 1 of 1"; got != want {
		t.Errorf("the heading reads %q, not %q", got, want)
	}
	d.Command("sheet-add", "")
	d.Command("heading", "today=26 November 2026")
	d.flush()
	if got := texts(d.Sheet()); !strings.HasSuffix(got, "25 November 2026 | Sheet 2 of 2 | Sheet 2") {
		t.Errorf("the second heading reads %q", got)
	}
	// A new title and another sheet change what is shown, by a patch of the ground.
	d.Command("title", "Lend a cargo bike")
	d.flush()
	if got := texts(d.Sheet()); !strings.Contains(got, "Lend a cargo bike") {
		t.Errorf("the new title does not come to the heading: %s", got)
	}
	d.same()
	other := open(t, d.Map().Clone())
	other.Command("heading", "version=2")
	if out := string(other.Flush()); !strings.Contains(out, `["ground"`) || !strings.Contains(out, "Version") {
		t.Errorf("the version does not come to the picture: %.300s", out)
	}
	for range 6 {
		d.Undo()
	}
	d.flush()
	if string(document(t, d.Map())) != start {
		t.Errorf("undo leaves another map: %s", document(t, d.Map()))
	}
}

// What a sheet with a heading may be filled with ends above it, and so does what
// is laid out.
func TestLayoutKeepsClearOfTheHeading(t *testing.T) {
	m := owned()
	m.Direction = model.Downwards
	m.Sheets[0].Headed = true
	d := open(t, m)
	d.layOut("")
	d.Key("Enter", 0)
	d.flush()
	if s := d.Sheet(); !s.Area().Holds(s.Drawn()) || s.Area().Bottom() > s.HeadingBox().Y {
		t.Errorf("it is drawn over %v, the area is %v", s.Drawn(), s.Area())
	}
}
