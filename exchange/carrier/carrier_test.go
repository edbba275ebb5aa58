package carrier_test

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"image"
	topng "image/png"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"

	"plaintracer/bench/hands"
	"plaintracer/core/model"
	"plaintracer/core/pages"
	"plaintracer/core/scene"
	"plaintracer/exchange/carrier"
	"plaintracer/exchange/pdf"
	"plaintracer/exchange/svg"
	"plaintracer/exchange/tracerjson"
)

// carriers makes every kind of file that carries a map.
func carriers(t testing.TB, m *model.Map, file []byte) map[string][]byte {
	t.Helper()
	d := scene.Draw(m, m.Sheets[0])
	vector, err := svg.Write(d, svg.Options{Inside: carrier.InSVG(file)})
	if err != nil {
		t.Fatal(err)
	}
	var bitmap bytes.Buffer
	if err := topng.Encode(&bitmap, image.NewGray(image.Rect(0, 0, 3, 2))); err != nil {
		t.Fatal(err)
	}
	list, err := pages.Of(d, m, pages.Options{})
	if err != nil {
		t.Fatal(err)
	}
	paper, err := pdf.Write(context.Background(), &pdf.Document{Title: m.Title, Pages: list,
		Attachments: []pdf.Attachment{{Name: carrier.Attachment, MediaType: "application/json", Data: file}}})
	if err != nil {
		t.Fatal(err)
	}
	return map[string][]byte{"svg": vector, "png": carrier.IntoPNG(bitmap.Bytes(), file), "pdf": paper, "json": file}
}

// A map that went out in a picture or a document comes back as the same bytes.
func TestMapsComeBackAsTheSameBytes(t *testing.T) {
	for _, h := range hands.All() {
		m := h.Map()
		m.Title = h.Name + " \u202e<&\">\x27 \U0001F600"
		file, err := tracerjson.Write(m)
		if err != nil {
			t.Fatal(err)
		}
		for kind, carried := range carriers(t, m, file) {
			if got, err := carrier.Inside(carried); err != nil || !bytes.Equal(got, file) {
				t.Errorf("%s, %s: %d bytes went in, %d came back: %v", h.Name, kind, len(file), len(got), err)
			}
		}
	}
}

// rewritten is what a program makes of a file. Its arguments name that as IN and the outcome as OUT; NONE is an empty
// one.
func rewritten(t *testing.T, program, arguments, in, out string) []byte {
	t.Helper()
	words := strings.Fields(arguments)
	for i := range words {
		words[i] = strings.NewReplacer("IN", in, "OUT", out, "NONE", "").Replace(words[i])
	}
	if said, err := exec.Command(program, words...).CombinedOutput(); err != nil {
		t.Fatalf("%s %s: %v: %s", program, arguments, err, said)
	}
	anew, err := os.ReadFile(out)
	if err != nil {
		t.Fatal(err)
	}
	return anew
}

// Other programs that write a file anew do not lose the map.
func TestMapsOutliveOtherPrograms(t *testing.T) {
	m := hands.All()[0].Map()
	file, err := tracerjson.Write(m)
	if err != nil {
		t.Fatal(err)
	}
	made := carriers(t, m, file)
	dir := t.TempDir()
	for _, c := range []struct{ name, program, arguments string }{
		{"pdf", "qpdf", "IN OUT"},
		{"pdf", "qpdf", "--object-streams=generate --compress-streams=y IN OUT"},
		{"pdf", "qpdf", "--qdf --object-streams=disable IN OUT"},
		{"pdf", "qpdf", "--linearize IN OUT"},
		{"svg", "xmllint", "--format --output OUT IN"},
	} {
		in, out := filepath.Join(dir, "in."+c.name), filepath.Join(dir, "out."+c.name)
		if err := os.WriteFile(in, made[c.name], 0o600); err != nil {
			t.Fatal(err)
		}
		anew := rewritten(t, c.program, c.arguments, in, out)
		if got, err := carrier.Inside(anew); err != nil || !bytes.Equal(got, file) {
			t.Errorf("after %s %s: %d bytes of %d: %v", c.program, c.arguments, len(got), len(file), err)
		}
	}
}

// What carries no map says so; what is broken or too large is refused.
func TestFilesWithoutAMapAreNamed(t *testing.T) {
	m := hands.All()[0].Map()
	plain, err := svg.Write(scene.Draw(m, m.Sheets[0]), svg.Options{})
	if err != nil {
		t.Fatal(err)
	}
	var bitmap bytes.Buffer
	if err := topng.Encode(&bitmap, image.NewGray(image.Rect(0, 0, 3, 2))); err != nil {
		t.Fatal(err)
	}
	for name, file := range map[string][]byte{"SVG": plain, "PNG": bitmap.Bytes(),
		"JPEG": []byte("\xff\xd8\xff\xe0 rest"), "PDF": []byte("%PDF-1.7\n%%EOF"),
		"half a PNG": []byte("\x89PNG\r\n\x1a\n\xff\xff\xff\xff")} {
		if _, err := carrier.Inside(file); !errors.Is(err, carrier.ErrNone) {
			t.Errorf("%s: %v", name, err)
		}
	}
	// A megabyte of zeros packs a thousand times smaller.
	bomb := make([]byte, tracerjson.MaxSize+1)
	for kind, file := range carriers(t, m, bomb) {
		if kind == "json" {
			continue
		}
		if len(file) > 1<<20 {
			t.Fatalf("%s: the bomb has %d bytes", kind, len(file))
		}
		if got, err := carrier.Inside(file); err == nil {
			t.Errorf("%s: a bomb of %d bytes was taken", kind, len(got))
		}
	}
}

// Where a map is gone it is said what took it, as far as the file tells: encryption, another program, or whoever saved
// it without.
func TestWhyAMapIsGoneIsSaid(t *testing.T) {
	m := hands.All()[0].Map()
	file, err := tracerjson.Write(m)
	if err != nil {
		t.Fatal(err)
	}
	made := carriers(t, m, file)
	dir := t.TempDir()
	in, out := filepath.Join(dir, "in.pdf"), filepath.Join(dir, "out.pdf")
	if err := os.WriteFile(in, made["pdf"], 0o600); err != nil {
		t.Fatal(err)
	}
	for _, c := range []struct{ program, arguments, why string }{
		{"qpdf", "--encrypt NONE owner 256 -- IN OUT", "encrypted"},
		{"qpdf", "--remove-attachment=" + carrier.Attachment + " IN OUT", "another program took it out"},
		{"pdftocairo", "-pdf IN OUT", "saved anew by another program"},
		{"qpdf", "--empty --pages IN 1 -- OUT", "saved anew by another program"},
	} {
		anew := rewritten(t, c.program, c.arguments, in, out)
		if _, err := carrier.Inside(anew); !errors.Is(err, carrier.ErrNone) || !strings.Contains(err.Error(), c.why) {
			t.Errorf("after %s %s it is said: %v", c.program, c.arguments, err)
		}
	}
	if _, err := carrier.Inside([]byte("\xff\xd8\xff\xe0 rest")); !strings.Contains(fmt.Sprint(err),
		"JPEG file never") {
		t.Errorf("of a JPEG it is said: %v", err)
	}
}

func FuzzInside(f *testing.F) {
	m := hands.All()[0].Map()
	file, err := tracerjson.Write(m)
	if err != nil {
		f.Fatal(err)
	}
	for _, carried := range carriers(f, m, file) {
		f.Add(carried)
	}
	f.Fuzz(func(t *testing.T, file []byte) {
		if out, err := carrier.Inside(file); err == nil && len(out) > max(len(file), tracerjson.MaxSize) {
			t.Error(fmt.Sprint(len(out), " bytes came of ", len(file)))
		}
	})
}
