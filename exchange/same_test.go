package exchange_test

import (
	"bytes"
	"context"
	"fmt"
	"image"
	"image/jpeg"
	"image/png"
	"maps"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"plaintracer/bench/gallery"
	"plaintracer/bench/scripts"
	"plaintracer/core/model"
	"plaintracer/exchange"
	"plaintracer/exchange/gate"
	"plaintracer/exchange/typeface"
)

// made makes a file of a map with choices, in pairs of a name and a value.
func made(t testing.TB, m *model.Map, format string, pairs ...string) *exchange.Result {
	t.Helper()
	f := exchange.Named(format)
	s, err := exchange.Read(f, func(name string) (string, bool) {
		for i := 0; i < len(pairs); i += 2 {
			if pairs[i] == name {
				return pairs[i+1], true
			}
		}
		return "", false
	})
	if err != nil {
		t.Fatalf("%s: %v", format, err)
	}
	out, err := exchange.Make(context.Background(), m, f, s, nil)
	if err != nil {
		t.Fatalf("%s: %v", format, err)
	}
	return out
}

// run runs a program on a file of some data, and returns what it says. IN stands for the file.
func run(t testing.TB, data []byte, program string, arguments ...string) string {
	t.Helper()
	file := filepath.Join(t.TempDir(), "in")
	if err := os.WriteFile(file, data, 0o600); err != nil {
		t.Fatal(err)
	}
	for i := range arguments {
		arguments[i] = strings.ReplaceAll(arguments[i], "IN", file)
	}
	out, err := exec.Command(program, arguments...).CombinedOutput()
	if err != nil {
		t.Fatalf("%s %s: %v: %s", program, strings.Join(arguments, " "), err, out)
	}
	return string(out)
}

// paper draws the first page of a PDF file.
func paper(t testing.TB, data []byte) image.Image {
	t.Helper()
	img, err := gallery.FirstPage(data, t.TempDir())
	if err != nil {
		t.Fatal(err)
	}
	return img
}

// compared fails where two pictures differ, and leaves a picture of the difference.
func compared(t *testing.T, what string, a, b image.Image) {
	t.Helper()
	if d := a.Bounds().Size().Sub(b.Bounds().Size()); d.X < -2 || d.X > 2 || d.Y < -2 || d.Y > 2 {
		t.Errorf("%s: one is %v, the other %v", what, a.Bounds().Size(), b.Bounds().Size())
		return
	}
	differ, shown := gallery.Compare(a, b)
	if strings.HasPrefix(what, "pictures") {
		differ /= 2 // the edges of a bitmap fall between pixels
	}
	if gallery.Same(differ) {
		return
	}
	file, err := gallery.Difference(what, shown)
	if err != nil {
		t.Fatal(err)
	}
	t.Errorf("%s: %d pixels of a million differ; see %s", what, differ, file)
}

// Everything that can be drawn looks the same in all formats: SVG as librsvg draws it, PDF as poppler does, our own
// bitmaps.
func TestEverythingLooksTheSameInEveryFormat(t *testing.T) {
	list, err := gallery.Maps()
	if err != nil {
		t.Fatal(err)
	}
	for _, name := range slices.Sorted(maps.Keys(list)) {
		m := list[name]
		bitmap, err := png.Decode(bytes.NewReader(made(t, m, "png", "scale", "1").Data))
		if err != nil {
			t.Fatal(err)
		}
		compared(t, name+" as SVG", rsvg(t, made(t, m, "svg").Data), bitmap)
		if strings.HasPrefix(name, "look ") && name != "look print" { // which differ in colours and weights alone
			continue
		}
		fine, err := png.Decode(bytes.NewReader(made(t, m, "png", "scale", "2").Data))
		if err != nil {
			t.Fatal(err)
		}
		photo, err := jpeg.Decode(bytes.NewReader(made(t, m, "jpeg", "scale", "1", "quality", "95").Data))
		if err != nil {
			t.Fatal(err)
		}
		compared(t, name+" as PDF", gallery.Halved(paper(t, made(t, m, "pdf", "what", "sheet").Data)),
			gallery.Halved(fine))
		compared(t, name+" as JPEG", photo, bitmap)
	}
}

// A comparison finds a missing line and a letter that is another one.
func TestDifferencesAreFound(t *testing.T) {
	list, err := gallery.Maps()
	if err != nil {
		t.Fatal(err)
	}
	m := list["lanes"]
	draw := func() image.Image {
		img, err := png.Decode(bytes.NewReader(made(t, m, "png", "scale", "1").Data))
		if err != nil {
			t.Fatal(err)
		}
		return img
	}
	before := draw()
	m.Sheets[0].Symbols[1].Text = "Lose the resort"
	if differ, _ := gallery.Compare(before, draw()); differ == 0 {
		t.Error("another text is not seen")
	}
	m.Sheets[0].Connectors = m.Sheets[0].Connectors[:3]
	if differ, _ := gallery.Compare(before, draw()); gallery.Same(differ) {
		t.Error(fmt.Sprint("a connector that is gone is within the tolerance: ", differ))
	}
}

func TestMain(m *testing.M) {
	if len(os.Args) > 1 && os.Args[1] == gate.Command {
		if err := gate.Main(os.Args[2:], os.Stdin, os.Stdout); err != nil {
			os.Exit(1)
		}
		return
	}
	fonts, err := scripts.Folder()
	if err == nil {
		_, err = typeface.From(fonts)
	}
	if err != nil {
		fmt.Fprintln(os.Stderr, err)
		os.Exit(1)
	}
	code := m.Run()
	os.RemoveAll(fonts)
	os.Exit(code)
}
