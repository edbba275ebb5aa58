package bundle

import (
	"archive/zip"
	"bytes"
	"crypto/sha256"
	"errors"
	"io"
	"math/rand/v2"
	"os"
	"os/exec"
	"strings"
	"testing"

	"plaintracer/core/model"
	"plaintracer/exchange/tracerjson"
)

func idOf(data []byte) string { return model.FileID(sha256.Sum256(data)) }

// What is written comes back byte for byte, whatever the files are called.
func TestThereAndBack(t *testing.T) {
	random := rand.New(rand.NewPCG(1, 2))
	contents := map[string][]byte{}
	var files []model.File
	for _, name := range []string{"form.pdf", "Form.pdf", "photo of the pole.jpg", "form.pdf", "a"} {
		data := make([]byte, 1+random.IntN(200_000))
		for i := range data {
			data[i] = byte(random.IntN(7))
		}
		files = append(files, model.File{ID: idOf(data), Name: name, Size: len(data), Type: "x/y"})
		contents[idOf(data)] = data
	}
	gone := idOf([]byte("gone"))
	files = append(files, model.File{ID: gone, Name: "gone.txt", Size: 4})
	var out bytes.Buffer
	err := Write(&out, []byte(`{"a": 1}`), files, func(id string) (io.Reader, error) {
		if data, ok := contents[id]; ok {
			return bytes.NewReader(data), nil
		}
		return nil, ErrMissing
	})
	if err != nil {
		t.Fatal(err)
	}
	b, err := Open(bytes.NewReader(out.Bytes()), int64(out.Len()))
	if err != nil {
		t.Fatal(err)
	}
	if string(b.Map) != `{"a": 1}` {
		t.Errorf("the map comes back as %q", b.Map)
	}
	for id, data := range contents {
		r, err := b.File(id)
		if err != nil {
			t.Fatal(err)
		}
		if got, err := io.ReadAll(r); err != nil || !bytes.Equal(got, data) {
			t.Errorf("%d bytes come back as %d, %v", len(data), len(got), err)
		}
		r.Close()
	}
	if _, err := b.File(gone); !errors.Is(err, ErrMissing) {
		t.Errorf("what was not there opens: %v", err)
	}
	// An independent reader of ZIP archives finds nothing wrong, and no two names that are one on some systems.
	name := t.TempDir() + "/map.tracer.zip"
	writeFile(t, name, out.Bytes())
	list, err := exec.Command("unzip", "-t", name).CombinedOutput()
	if err != nil || strings.Count(string(list), " OK") != 6 {
		t.Errorf("unzip says %v: %s", err, list)
	}
}

// archive packs entries, in pairs of a name and a content.
func archive(t *testing.T, pairs ...string) []byte {
	t.Helper()
	var out bytes.Buffer
	z := zip.NewWriter(&out)
	for i := 0; i < len(pairs); i += 2 {
		w, err := z.Create(pairs[i])
		if err == nil {
			_, err = io.WriteString(w, pairs[i+1])
		}
		if err != nil {
			t.Fatal(err)
		}
	}
	if err := z.Close(); err != nil {
		t.Fatal(err)
	}
	return out.Bytes()
}

// What climbs out of its folder, lies about its size, or asks for endless room is refused in words or passed over.
func TestHostileArchives(t *testing.T) {
	const m = "map.tracer.json"
	many := []string{m, "{}"}
	for i := range 60_000 {
		many = append(many, "x"+strings.Repeat("y", i%40), "")
	}
	lying := archive(t, m, "{}", "files/a", strings.Repeat("a", 5000))
	at := bytes.LastIndex(lying, []byte("PK\x01\x02"))
	lying[at+24] = 1 // its length, in the directory
	for name, data := range map[string][]byte{
		"bomb":    archive(t, m, "{}", "files/zeros", strings.Repeat("\x00", model.MaxFile+1)),
		"large":   archive(t, m, strings.Repeat(" ", tracerjson.MaxSize+1)),
		"no map":  archive(t, "files/a", "a"),
		"entries": archive(t, many...),
		"lying":   lying,
		"cut":     archive(t, m, "{}", "files/a", "a")[:80],
		"no zip":  []byte("PK\x03\x04 and nothing else"),
	} {
		var fault *tracerjson.Fault
		if b, err := Open(bytes.NewReader(data), int64(len(data))); !errors.As(err, &fault) {
			t.Errorf("%s: %v, %v", name, b, err)
		}
	}
	if !testing.Short() {
		all := archive(t, together(m)...)
		if _, err := Open(bytes.NewReader(all), int64(len(all))); err == nil {
			t.Error("more is taken together than a map keeps")
		}
	}
	climbing := archive(t, m, "{}", "../../etc/passwd", "root", "files/../../etc/x", "climbs", "/files/y", "absolute",
		"files/\\..\\z", "backwards")
	b, err := Open(bytes.NewReader(climbing), int64(len(climbing)))
	if err != nil {
		t.Fatal(err)
	}
	if _, ok := b.Has(idOf([]byte("root"))); ok {
		t.Error("what lies outside of the folder is taken for a file")
	}
}

// together is too much together, though each for itself is not.
func together(m string) []string {
	list := []string{m, "{}"}
	for i := range model.MaxFiles/model.MaxFile + 1 {
		list = append(list, "files/"+strings.Repeat("n", i+1), strings.Repeat(string(rune('a'+i)), model.MaxFile))
	}
	return list
}

func FuzzOpen(f *testing.F) {
	var out bytes.Buffer
	data := []byte("content")
	if err := Write(&out, []byte("{}"), []model.File{{ID: idOf(data), Name: "a"}},
		func(string) (io.Reader, error) { return bytes.NewReader(data), nil }); err != nil {
		f.Fatal(err)
	}
	f.Add(out.Bytes())
	f.Fuzz(func(t *testing.T, data []byte) {
		b, err := Open(bytes.NewReader(data), int64(len(data)))
		var fault *tracerjson.Fault
		if err != nil {
			if !errors.As(err, &fault) {
				t.Fatalf("not said in words: %v", err)
			}
			return
		}
		for id := range b.entries { // each is what its id says
			r, err := b.File(id)
			if err != nil {
				t.Fatal(err)
			}
			got, err := io.ReadAll(r)
			if err != nil || idOf(got) != id {
				t.Fatalf("%s is %d bytes, %v", id, len(got), err)
			}
			r.Close()
		}
	})
}

func writeFile(t *testing.T, name string, data []byte) {
	t.Helper()
	if err := os.WriteFile(name, data, 0o600); err != nil {
		t.Fatal(err)
	}
}
