package attack

import (
	"bytes"
	"encoding/base64"
	"encoding/json"
	"fmt"
	"hash/fnv"
	"image"
	"image/png"
	"io"
	"math/rand/v2"
	"net/http"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"plaintracer/core/edit"
	"plaintracer/core/geometry"
	"plaintracer/core/model"
	"plaintracer/e2e/program"
	"plaintracer/exchange/tracerjson"
)

// fill gives a map steps at places, and connectors between them.
func fillMap(m *model.Map, n int, at func(i int) geometry.Point, links int, ends func() (int, int)) *model.Map {
	s := m.Sheets[0]
	for i := range n {
		sym := step(fmt.Sprint("s", i), fmt.Sprint("Step ", i), 0)
		sym.Box = sym.At(at(i))
		s.Symbols = append(s.Symbols, &sym)
	}
	for i := range links {
		a, b := ends()
		if a != b {
			s.Connectors = append(s.Connectors, &model.Connector{ID: fmt.Sprint("c", i),
				From: model.End{Symbol: fmt.Sprint("s", a)}, To: model.End{Symbol: fmt.Sprint("s", b)}})
		}
	}
	return m
}

func blank(title string) *model.Map { return model.New(title, model.Rightwards, "A4", true) }

// crowd is a map of steps in rows, a bit out of line, joined at random.
func crowd(n, links int) *model.Map {
	r := rand.New(rand.NewPCG(1, 2))
	return fillMap(blank("Crowd"), n, func(i int) geometry.Point {
		return geometry.Point{X: i%40*20000 + r.IntN(5000), Y: i/40*16000 + r.IntN(5000)}
	}, links, func() (int, int) { return r.IntN(n), r.IntN(n) })
}

// far is a map of two symbols as far apart as can be, with many connectors.

func far(by geometry.Point, links int) *model.Map {
	n := 0
	return fillMap(blank("Far"), 2, func(i int) geometry.Point {
		return geometry.Point{X: -9_900_000 + i*by.X, Y: -9_900_000 + i*by.Y}
	}, links, func() (int, int) { n++; return n % 2, 1 - n%2 })
}

// showing is the file of a map with one picture, whatever is in it.
func showing(t testing.TB, kind string, w, h int, data []byte) []byte {
	hash := fnv.New128a()
	hash.Write(data)
	id := fmt.Sprintf("p%x", hash.Sum(nil))
	return fmt.Appendf(nil,
		`{"format":"plain-tracer-map","version":1,"title":"Picture","direction":"right","answers":["Yes","No"],"numbers":true,
		"pictures":[{"id":%q,"type":%q,"w":%d,"h":%d,"data":%q}],
		"sheets":[{"id":"sheet-1","name":"One","paper":"A4","across":true,"pools":[],"connectors":[],
		"symbols":[{"id":"a","kind":"picture","x":1000,"y":1000,"w":60000,"h":40000,"picture":%q}]}]}`,
		id, kind, w, h, base64.StdEncoding.EncodeToString(data), id)
}

func svgFile(t testing.TB, inside string) []byte {
	return showing(t, "image/svg+xml", 100, 100,
		[]byte(`<svg xmlns="http://www.w3.org/2000/svg" width="100" height="100">`+inside+`</svg>`))
}

func mapFile(t testing.TB, m *model.Map) []byte {
	raw, err := tracerjson.Write(m)
	if err != nil {
		t.Fatal(err)
	}
	return raw
}

// longest is the burden that takes as long as all others together.
const longest = "1,000 symbols, 3,000 random connectors"

// burdens are small files that once took the server's memory, or minutes.
func burdens(t testing.TB) map[string][]byte {
	var bitmap bytes.Buffer
	if err := png.Encode(&bitmap, image.NewRGBA64(image.Rect(0, 0, 10000, 10000))); err != nil {
		t.Fatal(err)
	}
	wide := blank("Wide")
	wide.Sheets[0].Symbols = append(wide.Sheets[0].Symbols, &model.Symbol{ID: "a", Kind: model.Process,
		Box: geometry.Box{X: 1_980_000, Y: 1_900_000, W: 12000, H: 8000}})
	many := func(n int) []byte {
		var list []string
		for i := range n {
			data := fmt.Appendf(nil,
				`<svg xmlns="http://www.w3.org/2000/svg" width="5" height="5"><path d="M0 0L%d 5"></path></svg>`, i)
			hash := fnv.New128a()
			hash.Write(data)
			list = append(list, fmt.Sprintf(`{"id":"p%x","type":"image/svg+xml","w":5,"h":5,"data":%q}`, hash.Sum(nil),
				base64.StdEncoding.EncodeToString(data)))
		}
		return fmt.Appendf(nil,
			`{"format":"plain-tracer-map","version":1,"title":"Many","direction":"right","answers":["Yes","No"],"numbers":true,"pictures":[%s],
			"sheets":[{"id":"sheet-1","name":"One","paper":"A4","across":true,"pools":[],"connectors":[],"symbols":[]}]}`, strings.Join(list, ","))
	}
	deep := mapFile(t, crowd(5000, 9000))
	deep = append(bytes.TrimRight(deep, "}] \n"), strings.Repeat("[", 100)...)
	long := mapFile(t, crowd(5000, 9000))
	at := bytes.LastIndex(long, []byte(`"to"`))
	long = append(append(long[:at:at], `"tp"`...), long[at+4:]...)
	return map[string][]byte{
		"two symbols far apart, 1,000 connectors": mapFile(t, far(geometry.Point{X: 19_800_000}, 1000)),
		"two symbols far apart, not in line":      mapFile(t, far(geometry.Point{X: 19_800_000, Y: 5000}, 1000)),
		"two symbols far apart across": mapFile(t,
			far(geometry.Point{X: 19_800_000, Y: 19_800_000}, 1000)),
		"two symbols close together, 2,000 connectors": mapFile(t, far(geometry.Point{X: 20000}, 2000)),
		longest:                                  mapFile(t, crowd(1000, 3000)),
		"5,000 symbols, 9,000 random connectors": mapFile(t, crowd(5000, 9000)),
		"a drawing with tiny dashes": svgFile(t,
			`<path d="M0 0L100 100" stroke="#000000" stroke-dasharray="0.00001"></path>`),
		"a drawing scaled beyond all numbers": svgFile(t,
			`<g transform="scale(1e300)"><rect width="1" height="1"></rect></g>`),
		"a drawing with an endless ellipse": svgFile(t,
			`<ellipse cx="0" cy="0" rx="1000000000" ry="1000000000" stroke="#000000" stroke-dasharray="1"></ellipse>`),
		"a drawing of 60,000 arcs": svgFile(t,
			`<path d="M0 0`+strings.Repeat(`A9 9 0 0 1 9 9`, 60000)+`" stroke="#000000"></path>`),
		"a drawing with letters as high as the moon": svgFile(t,
			`<text x="1" y="1" font-size="1000000000">Hi</text>`),
		"a drawing in a font that nobody has": svgFile(t,
			`<text x="1" y="50" font-family="Nobody Has This">Hi</text>`),
		"a drawing with odd path data":           svgFile(t, `<path d="M0,0 QQ 5 z z L 1e"></path>`),
		"a bitmap of 100 million pixels":         showing(t, "image/png", 10000, 10000, bitmap.Bytes()),
		"a bitmap that is cut short":             showing(t, "image/png", 3, 2, dot.Data[:len(dot.Data)-20]),
		"a sheet nearly 20,000 px wide and high": mapFile(t, wide),
		"30,000 tiny drawings":                   many(30000),
		"1,000 tiny drawings":                    many(1000),
		"a fault that lies deep":                 deep,
		"a fault that lies far down":             long,
		"brackets in brackets": []byte(`{"format":"plain-tracer-map","version":1,"sheets":` +
			strings.Repeat("[", 4_000_000)),
		"half a million empty objects": []byte(`{"format":"plain-tracer-map","version":1,"sheets":[{"symbols":[` +
			strings.Repeat("{},", 2_000_000) + `{}]}]}`),
	}
}

// upload opens a file as a person does on the home page, and returns the address of the map,
// or the words of the refusal.
func upload(s *program.Server, file []byte) (path, words string, err error) {
	code, said, to, err := sendFile(s, "/maps/open", "map.tracer.json", file)
	switch {
	case err != nil || code == 303:
		return to, "", err
	case code != 400:
		return "", "", fmt.Errorf("opening it is answered by %d: %s", code, said)
	}
	return "", said, nil
}

// fetch asks for a page and returns its status; anything but a picture or a clear refusal is
// an error.
func fetch(url string) (string, error) {
	client := http.Client{Timeout: patience}
	req, err := http.NewRequest("GET", url, nil)
	if err != nil {
		return "", err
	}
	req.Header.Set("Accept", "application/json")
	r, err := client.Do(req)
	if err != nil {
		return "", err
	}
	defer r.Body.Close()
	body, err := io.ReadAll(r.Body)
	switch {
	case err != nil:
		return "", err
	case r.StatusCode == 200:
		return fmt.Sprintf("%d KB", len(body)>>10), nil
	case r.StatusCode == 400 || r.StatusCode == 503:
		return string(body), nil
	}
	return "", fmt.Errorf("%d: %.200s", r.StatusCode, body)
}

// memoryOf returns the most memory a process has had, in bytes; zero where that is not known.
func memoryOf(pid int) (most int) {
	raw, err := os.ReadFile(fmt.Sprintf("/proc/%d/status", pid))
	if err != nil {
		return 0
	}
	_, rest, _ := strings.Cut(string(raw), "VmHWM:")
	fmt.Sscanf(rest, "%d", &most)
	return most << 10
}

// Whatever small file is opened, it is refused with a word, or its pictures come or are
// refused with a word; the server stays, and answers others meanwhile. How long it takes and
// how much memory is logged, and measured by BenchmarkBurdens.
func TestSmallFilesThatAskForMuch(t *testing.T) {
	for name, file := range burdens(t) {
		if testing.Short() && name == longest {
			continue
		}
		t.Run(name, func(t *testing.T) { burden(t, file) })
	}
}

func burden(t testing.TB, file []byte) {
	s := program.Start(t, "serve")
	other := create(t, s, 1)
	begun := time.Now()
	path, words, err := upload(s, file)
	if err != nil {
		t.Fatal(err)
	}
	t.Logf("opened in %v: %s%s", time.Since(begun).Round(time.Millisecond), path, words)
	if path != "" {
		for _, ask := range []string{"/thumbnail.svg", "/export/png?scale=1", "/findings", "/export/map"} {
			begun := time.Now()
			got, err := fetch(s.URL + path + ask)
			if err != nil {
				t.Errorf("%s: %v", ask, err)
			}
			t.Logf("%s in %v: %s", ask, time.Since(begun).Round(time.Millisecond), got)
		}
	}
	if _, err := newWindow(s, other); err != nil {
		t.Errorf("another map does not open any more: %v", err)
	}
	if !s.Alive() {
		t.Fatal("the server died")
	}
	t.Logf("%d KB of file, at most %d MB of memory", len(file)>>10, memoryOf(s.PID())>>20)
}

// Messages that ask for much are answered, and the map takes others at once.
func TestSmallMessagesThatAskForMuch(t *testing.T) {
	s := program.Start(t, "serve")
	path, words, err := upload(s, mapFile(t, crowd(5000, 0)))
	if err != nil || path == "" {
		t.Fatal(words, err)
	}
	w, err := newWindow(s, strings.TrimPrefix(path, "/maps/"))
	if err != nil {
		t.Fatal(err)
	}
	if err := w.connect(w.Revision); err != nil {
		t.Fatal(err)
	}
	var half []string
	for i := 0; i < 5000; i += 2 {
		half = append(half, fmt.Sprint("s", i))
	}
	order := &edit.Order{Sheet: "sheet-1", IDs: half, Step: true}
	var orders []edit.Edit
	for range 20 {
		orders = append(orders, order)
	}
	nested := func(deep int, with string) []byte {
		return []byte(strings.Repeat(`{"do":"batch","as":"`+with+`","edits":[`, deep) + `{"do":"setHead"}` +
			strings.Repeat("]}", deep))
	}
	for n, c := range []struct {
		name string
		edit []byte
	}{
		{"a batch nested 1,000 deep", nested(1000, strings.Repeat("x", 7000))},
		{"a batch nested 4,990 deep", nested(4990, "")},
		{"20 steps of half a full sheet", marshal(t, edit.Envelope{Edit: edit.Together("order", orders...)})},
		{"a million empty symbols",
			[]byte(`{"do":"addItems","sheet":"sheet-1","symbols":[` + strings.Repeat("{},", 1_000_000) + `{}]}`)},
	} {
		begun := time.Now()
		if err := w.send(2*n+1, c.edit); err != nil {
			t.Fatalf("%s: %v", c.name, err)
		}
		a, err := w.until("saved", "refused")
		if err != nil {
			t.Fatalf("%s: %v", c.name, err)
		}
		t.Logf("%s in %v: %s %s", c.name, time.Since(begun).Round(time.Millisecond), a.Kind, a.Why)
		if err := w.send(2*n+2,
			json.RawMessage(`{"do":"setText","sheet":"sheet-1","id":"s1","text":"`+fmt.Sprint(n)+`"}`)); err != nil {
			t.Fatal(err)
		}
		if a, err := w.until("saved", "refused"); err != nil || a.Kind != "saved" {
			t.Errorf("after %s: %+v, %v", c.name, a, err)
		}
	}
	t.Logf("at most %d MB of memory", memoryOf(s.PID())>>20)
}

// Tables of steps that ask for much are laid out or refused with a word.
func TestTablesThatAskForMuch(t *testing.T) {
	dir := t.TempDir()
	var links strings.Builder
	r := rand.New(rand.NewPCG(1, 1))
	links.WriteString("id,text,kind,lane,next\n")
	for i := range 1000 {
		fmt.Fprintf(&links, "s%d,Step %d,,Lane %d,", i, i, i%5)
		for k := range 5 {
			fmt.Fprintf(&links, "s%d;", (i+1+r.IntN(900)+k)%1000)
		}
		links.WriteString("\n")
	}
	for name, table := range map[string]string{
		"a cell of 7 MB":                "id,text\ns1," + strings.Repeat("word ", 1_400_000) + "\n",
		"1,000 rows of five links each": links.String(),
	} {
		in := filepath.Join(dir, "in.csv")
		if err := os.WriteFile(in, []byte(table), 0o600); err != nil {
			t.Fatal(err)
		}
		begun := time.Now()
		out, err := program.Run("layout", in, filepath.Join(dir, "out.tracer.json"), "--deadline", "4s")
		if err != nil && !strings.Contains(string(out), "at most 4000 fit") &&
			!strings.Contains(string(out), "which --deadline set") {
			t.Errorf("%s: %v: %s", name, err, out)
		}
		t.Logf("%s in %v: %s", name, time.Since(begun).Round(time.Millisecond), out)
	}
}

// Targets: every file of TestSmallFilesThatAskForMuch within 5 s and 500 MB.
func BenchmarkBurdens(b *testing.B) {
	for name, file := range burdens(b) {
		b.Run(name, func(b *testing.B) {
			for b.Loop() {
				s := program.Start(b, "serve")
				begun := time.Now()
				path, _, err := upload(s, file)
				if err != nil {
					b.Fatal(err)
				}
				longest := time.Since(begun)
				for _, ask := range []string{"/thumbnail.svg", "/export/png?scale=1"} {
					if path == "" {
						break
					}
					begun := time.Now()
					if _, err := fetch(s.URL + path + ask); err != nil {
						b.Fatal(err)
					}
					longest = max(longest, time.Since(begun))
				}
				b.ReportMetric(longest.Seconds(), "s-longest")
				b.ReportMetric(float64(memoryOf(s.PID())>>20), "MB")
				s.Kill()
			}
		})
	}
}
