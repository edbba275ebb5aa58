package fontfile_test

import (
	"bytes"
	"encoding/binary"
	"encoding/json"
	"math/rand/v2"
	"slices"
	"strings"
	"sync"
	"testing"

	"github.com/go-fonts/latin-modern/lmroman10regular"
	"golang.org/x/image/font"
	"golang.org/x/image/font/sfnt"
	"golang.org/x/image/math/fixed"

	"plaintracer/core/fonts"
	"plaintracer/exchange/fontfile"
	"plaintracer/exchange/typeface"
)

// table returns the content of a table of a font file, to look at or to change,
// and where its entry in the directory is.
func table(t testing.TB, file []byte, tag string) (content, entry []byte) {
	t.Helper()
	for i := range int(binary.BigEndian.Uint16(file[4:])) {
		e := file[12+16*i:]
		if string(e[:4]) == tag {
			from, size := binary.BigEndian.Uint32(e[8:]), binary.BigEndian.Uint32(e[12:])
			return file[from : from+size], e[:16]
		}
	}
	t.Fatalf("there is no table %q", tag)
	return nil, nil
}

func unpacked(t testing.TB, packed []byte) []byte {
	t.Helper()
	file, err := fontfile.Unpack(packed)
	if err != nil {
		t.Fatal(err)
	}
	return slices.Clone(file)
}

// A TrueType file, an OpenType file and a WOFF2 file are read, and every width
// is what another reader of fonts finds.
func TestFontsAreReadAndMeasured(t *testing.T) {
	for _, c := range []struct {
		name, family string
		file         []byte
		bold, italic bool
		atLeast      int
	}{
		{"TrueType", "IBM Plex Sans", unpacked(t, typeface.Regular), false, false, 600},
		{"OpenType", "Latin Modern Roman", lmroman10regular.TTF, false, false, 400},
		{"WOFF2", "IBM Plex Sans", typeface.SemiBoldItalic, true, true, 600},
	} {
		f, err := fontfile.Read(c.file)
		if err != nil {
			t.Errorf("%s: %v", c.name, err)
			continue
		}
		if !strings.HasPrefix(f.Family, c.family) || f.Bold != c.bold || f.Italic != c.italic {
			t.Errorf("%s: read as %q, bold %v, italic %v", c.name, f.Family, f.Bold, f.Italic)
		}
		other, err := sfnt.Parse(f.Data)
		if err != nil {
			t.Fatal(err)
		}
		var buf sfnt.Buffer
		m := f.Metrics()
		if m.UnitsPerEm != int(other.UnitsPerEm()) {
			t.Errorf("%s: %d units, not %d", c.name, m.UnitsPerEm, other.UnitsPerEm())
		}
		found := 0
		for r := rune(1); r < 0x20000; r++ {
			i, err := other.GlyphIndex(&buf, r)
			width, ok := m.Find(r)
			if ok != (err == nil && i != 0) {
				t.Fatalf("%s: has U+%04X: %v", c.name, r, ok)
			}
			if !ok {
				continue
			}
			found++
			want, err := other.GlyphAdvance(&buf, i, fixed.I(m.UnitsPerEm), font.HintingNone)
			if err != nil {
				t.Fatal(err)
			}
			if fixed.I(width) != want {
				t.Fatalf("%s: U+%04X is %d wide, not %v", c.name, r, width, want)
			}
		}
		if found < c.atLeast {
			t.Errorf("%s: only %d characters", c.name, found)
		}

		// What comes back from a file of a map is the same, and nothing else passes.
		raw, err := json.Marshal(f)
		if err != nil {
			t.Fatal(err)
		}
		var again fonts.Font
		if err := json.Unmarshal(raw, &again); err != nil || again.Check() != nil || again.ID != f.ID {
			t.Errorf("%s: it does not come back: %v, %v", c.name, err, again.Check())
		}
		again.Family = "Another"
		raw, _ = json.Marshal(again)
		if err := json.Unmarshal(raw, &again); err != nil || again.Check() == nil {
			t.Errorf("%s: a font under another name is taken (%v)", c.name, err)
		}
	}
}

// A broken font and one whose licence does not let it be embedded are refused,
// and the reason is named. The bits are those of fsType (OpenType 1.9, OS/2).
func TestFontsAreRefusedWithTheReason(t *testing.T) {
	use := func(bits uint16) func(t *testing.T, file []byte) []byte {
		return func(t *testing.T, file []byte) []byte {
			os2, _ := table(t, file, "OS/2")
			binary.BigEndian.PutUint16(os2[8:], bits)
			return file
		}
	}
	rename := func(from, to string) func(t *testing.T, file []byte) []byte {
		return func(t *testing.T, file []byte) []byte {
			_, entry := table(t, file, from)
			copy(entry, to)
			return file
		}
	}
	for _, c := range []struct {
		name string
		make func(t *testing.T, file []byte) []byte
		want string // empty: it is taken
	}{
		{"installable", use(0), ""},
		{"editable", use(0x0008), ""},
		{"editable, whole only", use(0x0108), ""},
		{"editable and restricted: the least restrictive holds", use(0x000A), ""},
		{"restricted", use(0x0002), "does not let it be embedded"},
		{"for viewing and printing", use(0x0004), "viewing and printing only"},
		{"bitmaps only", use(0x0200), "bitmaps"},
		{"editable, bitmaps only", use(0x0208), "bitmaps"},
		{"cut short", func(_ *testing.T, file []byte) []byte { return file[:len(file)/2] }, "beyond the end"},
		{"no font", func(*testing.T, []byte) []byte { return []byte(strings.Repeat("This is a letter. ", 9)) },
			"no TrueType or OpenType font"},
		{"next to nothing", func(*testing.T, []byte) []byte { return []byte("font") }, "no font"},
		{"packed and damaged", func(*testing.T, []byte) []byte {
			file := slices.Clone(typeface.Regular)
			copy(file[len(file)/2:], "damaged")
			return file
		}, "broken"},
		{"without widths", rename("hmtx", "xxxx"), `lacks the table "hmtx"`},
		{"without outlines", rename("glyf", "xxxx"), "no outlines"},
		{"a variable one", rename("GPOS", "fvar"), "variable"},
		{"without letters", func(t *testing.T, file []byte) []byte {
			cmap, _ := table(t, file, "cmap")
			for i := range int(binary.BigEndian.Uint16(cmap[2:])) { // none of its tables is of Unicode
				binary.BigEndian.PutUint16(cmap[4+8*i:], 9)
			}
			return file
		}, "characters of Unicode"},
		{"too large",
			func(*testing.T, []byte) []byte { return append([]byte("\x00\x01\x00\x00"), make([]byte, 5<<20)...) },
			"larger than"},
	} {
		f, err := fontfile.Read(c.make(t, unpacked(t, typeface.Regular)))
		switch {
		case c.want == "" && err != nil:
			t.Errorf("%s: refused: %v", c.name, err)
		case c.want != "" && (err == nil || !strings.Contains(err.Error(), c.want)):
			t.Errorf("%s: %v", c.name, err)
		case c.name == "editable, whole only" && !f.Whole():
			t.Errorf("%s: it may be reduced", c.name)
		}
	}
}

// Whatever is done to a font file, reading it neither panics nor gives a font
// that cannot be drawn.
func FuzzFont(f *testing.F) {
	otf, ttf := lmroman10regular.TTF, unpacked(f, typeface.Italic)
	for seed := range uint64(20) {
		f.Add(seed, seed%2 == 0, seed%3 == 0)
	}
	f.Fuzz(func(t *testing.T, seed uint64, trueType, packed bool) {
		r := rand.New(rand.NewPCG(seed, 9))
		file := slices.Clone(otf)
		if trueType {
			file = slices.Clone(ttf)
		}
		if packed {
			file = slices.Clone(typeface.Italic)
		}
		for range 1 + r.IntN(6) { // in the small tables rather than among the outlines
			from := r.IntN(len(file))
			if r.IntN(2) == 0 {
				from = r.IntN(min(3000, len(file)))
			}
			file[from] = byte(r.Uint32())
		}
		font, err := fontfile.Read(file)
		if err != nil {
			return
		}
		drawn, err := fontfile.Open(font.Data)
		if err != nil {
			t.Fatal(err)
		}
		if small, err := fontfile.Open(drawn.Subset("Lamp 7")); err != nil || !small.Has('L') {
			t.Fatalf("reduced it has no L: %v", err)
		}
		for _, run := range font.Metrics().Runs {
			if _, _, err := drawn.Glyph(run.First); err != nil {
				t.Fatalf("U+%04X: %v", run.First, err)
			}
		}
	})
}

// A font reduced to the characters of a text draws them as the whole one does, and
// is small where the text is short.
func TestSubsetsDrawTheSame(t *testing.T) {
	r := rand.New(rand.NewPCG(7, 44))
	for _, c := range []struct {
		name    string
		data    []byte
		reduces bool
	}{{"TrueType", unpacked(t, typeface.Regular), true}, {"OpenType", lmroman10regular.TTF, false}} {
		file, err := fontfile.Open(c.data)
		if err != nil {
			t.Fatal(err)
		}
		f, err := fonts.Read(c.data)
		if err != nil {
			t.Fatal(err)
		}
		for range 60 {
			var text []rune
			for range 1 + r.IntN(40) {
				run := f.Metrics().Runs[r.IntN(len(f.Metrics().Runs))]
				if c := run.First + rune(r.IntN(len(run.Advances))); c >= ' ' { // no text has others
					text = append(text, c)
				}
			}
			small := file.Subset(string(text))
			if c.reduces && len(small)*3 > len(c.data) {
				t.Errorf("%s: %d bytes for %q", c.name, len(small), string(text))
			}
			other, err := fontfile.Open(small)
			if err != nil {
				t.Fatalf("%s: %q: %v", c.name, string(text), err)
			}
			for _, r := range text {
				want, _, _ := file.Glyph(r)
				if got, _, err := other.Glyph(r); err != nil || !slices.Equal(got, want) {
					t.Fatalf("%s: of %q, %q is drawn otherwise (%v)", c.name, string(text), r, err)
				}
			}
		}
	}
}

// Reducing fonts at the same time gives what reducing them one by one gives: the
// home page draws many small pictures at once.
func TestSubsetsAtTheSameTime(t *testing.T) {
	file, err := fontfile.Open(unpacked(t, typeface.Regular))
	if err != nil {
		t.Fatal(err)
	}
	texts := []string{"Log the report", "Known?", "Give a date", strings.Repeat("abcdefghij", 3)}
	var want [][]byte
	for _, text := range texts {
		want = append(want, file.Subset(text))
	}
	var done sync.WaitGroup
	for n := range 24 {
		done.Go(func() {
			if !bytes.Equal(file.Subset(texts[n%4]), want[n%4]) {
				t.Errorf("%q gives another file", texts[n%4])
			}
		})
	}
	done.Wait()
}
