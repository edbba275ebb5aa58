package tracerjson_test

import (
	"bytes"
	"encoding/json"
	"errors"
	"os"
	"reflect"
	"slices"
	"strings"
	"testing"

	"plaintracer/core/geometry"
	"plaintracer/core/model"
	"plaintracer/core/pictures"
	"plaintracer/core/values"
	"plaintracer/exchange/tracerjson"
)

func sample() *model.Map {
	m := model.New("Lamp & <pole>", model.Downwards, "Slide", false)
	s := m.Sheets[0]
	s.Pools = []*model.Pool{{ID: "p", Title: "Works", W: 90000, Lanes: []model.Lane{{ID: "l", Name: "Crew", H: 10000}}}}
	for i, kind := range model.Kinds {
		s.Symbols = append(s.Symbols, &model.Symbol{ID: string(kind), Kind: kind, Text: "Zeile 1\nline “2”",
			Fill: model.Fills[i%len(model.Fills)], Type: model.Type{Bold: i%2 == 0, Italic: i%3 == 0, Size: 1500},
			Box: geometry.Box{X: i * 15000, Y: -500, W: 12000, H: 8000}})
	}
	s.Connectors = []*model.Connector{{ID: "c", From: model.End{Symbol: "process", Side: "right"},
		To: model.End{Symbol: "decision"}, Text: "Yes", Place: model.Spot{Along: 5000,
			Off: geometry.Point{X: 10, Y: -5}}, Stroke: model.Stroke{Dashed: true, Line: model.DotLine,
			ToMark: model.MarkZeroMany}, Bends: []model.Bend{{Upright: true, At: 700}}},
		{ID: "loose", From: model.End{Symbol: "process"}, To: model.End{At: geometry.Point{X: 5, Y: 6}}},
		{ID: "joins", From: model.End{Symbol: "data"}, To: model.End{Connector: "c"}}}
	m.Units, m.Look = model.Millimetres, "print"
	m.Colours = []model.HouseColour{{Name: "Town green", Value: "#1f6b57"}}
	m.Styles = []model.Style{{ID: "outside", Name: "Outside", Fill: "moss", Ink: "lake", Weight: 200, Dashed: true,
		Emphasis: true, Type: model.Type{Colour: "clay", Margin: 300}}}
	s.Background = model.Background{Fill: "fog"}
	s.Pools[0].Locked, s.Connectors[0].Locked, s.Connectors[0].Style = true, true, "outside"
	one := s.Symbols[0]
	one.Ink, one.Weight, one.Style, one.Look, one.Group, one.Locked = "clay", 250, "outside", "wall", "g1/g2", true
	m.Numbering = model.Numbering{Scheme: model.ByLane, Prefix: "SL-", First: 10, Step: 10, Digits: 3,
		Also: []string{"data"}, Badge: "above"}
	m.Held, m.Next = model.Held{Since: "2026-11-28T10:00Z", By: "Ida Brandt"}, []model.Row{{ID: "SL-A", Next: 40}}
	m.Fields, m.Currency = []model.Field{{ID: "f-system", Name: "System", Type: values.Choice,
		Choices: []string{"Desk tool"}}, {ID: "f-time", Name: "Time", Type: values.Duration}}, "EUR"
	m.Shown, m.ColourBy = []string{"f-time"}, "f-system"
	one.Pinned, one.Uncounted, one.Kept, one.Values = "9", true, "SL-A010",
		[]model.Value{{ID: "f-system", Text: "Desk tool"}, {ID: "f-time", Text: "90"}}
	return m
}

func TestReadingThenWritingGivesTheSameBytes(t *testing.T) {
	first, err := tracerjson.Write(sample())
	if err != nil {
		t.Fatal(err)
	}
	m, err := tracerjson.Read(first)
	if err != nil {
		t.Fatal(err)
	}
	second, err := tracerjson.Write(m)
	if err != nil || !bytes.Equal(first, second) {
		t.Fatalf("%v: written again it is\n%s\nnot\n%s", err, second, first)
	}
}

// The file of a map is never larger than its weight, of which the bound is taken, says.
func TestTheWeightOfAMapBoundsItsFile(t *testing.T) {
	long := strings.Repeat("i", 64)
	m := model.New(strings.Repeat("\"", model.MaxName), model.Rightwards, "Tabloid", true)
	full := func(v reflect.Value) { // the longest value every field can have, texts that count aside
		var fill func(v reflect.Value)
		fill = func(v reflect.Value) {
			switch v.Kind() {
			case reflect.Struct:
				for i := range v.NumField() {
					if v.Type().Field(i).IsExported() {
						fill(v.Field(i))
					}
				}
			case reflect.Int:
				v.SetInt(-model.MaxPlace)
			case reflect.Bool:
				v.SetBool(true)
			case reflect.String:
				v.SetString(long)
			}
		}
		fill(v)
	}
	s := m.Sheets[0]
	for range 50 {
		sym, c := new(model.Symbol), new(model.Connector)
		full(reflect.ValueOf(sym).Elem())
		full(reflect.ValueOf(c).Elem())
		sym.Text, sym.Group = strings.Repeat("\n", 200), strings.Repeat(long+"/", model.MaxNesting)
		for range 40 {
			c.Bends = append(c.Bends, model.Bend{Upright: true, At: -model.MaxPlace})
		}
		pool := new(model.Pool)
		full(reflect.ValueOf(pool).Elem())
		pool.Lanes, pool.Stages = make([]model.Lane, model.MaxLanes), make([]model.Stage, model.MaxLanes)
		for i := range pool.Lanes {
			full(reflect.ValueOf(&pool.Lanes[i]).Elem())
			full(reflect.ValueOf(&pool.Stages[i]).Elem())
		}
		s.Symbols, s.Connectors, s.Pools = append(s.Symbols, sym), append(s.Connectors, c), append(s.Pools, pool)
	}
	for range 100 {
		var y model.Style
		full(reflect.ValueOf(&y).Elem())
		y.Name = strings.Repeat("\"", model.MaxName)
		m.Styles = append(m.Styles, y)
	}
	file, err := tracerjson.Write(m)
	if err != nil {
		t.Fatal(err)
	}
	if len(file) > m.Weight() {
		t.Errorf("the file takes %d bytes, the weight is %d", len(file), m.Weight())
	}
	if most := model.MaxContent + (model.MaxPictures+model.MaxFonts)*4/3 + 1<<20; most > tracerjson.MaxSize {
		t.Errorf("a map may become %d bytes long, but only %d are read", most, tracerjson.MaxSize)
	}
}

func TestFaultsAreRefusedWithTheirPlace(t *testing.T) {
	good, err := tracerjson.Write(sample())
	if err != nil {
		t.Fatal(err)
	}
	lineOf := func(text string) int { return 1 + bytes.Count(good[:bytes.Index(good, []byte(text))], []byte("\n")) }
	for _, c := range []struct {
		name, old, new, want string
		line                 int
	}{
		{"a later version", `"version": 1`, `"version": 9`, "version 9", lineOf(`"version"`)},
		{"another format", `plain-tracer-map`, `shopping-list`, "no map of Plain Tracer", 1},
		{"a broken file", `"kind": "decision",`, `"kind": "decision"`, "broken here", lineOf(`"kind": "decision"`) + 1},
		{"an unknown symbol", `"kind": "decision"`, `"kind": "cloud"`, `"cloud" is no symbol`,
			lineOf(`"kind": "decision"`)},
		{"an unknown field", `"kind": "decision"`, `"knid": "decision"`, `"knid"`, lineOf(`"kind": "decision"`)},
		{"text where a number belongs", `"x": 15000`, `"x": "left"`, "cannot be a string", lineOf(`"x": 15000`)},
		{"a connector to nowhere", `"symbol": "decision"`, `"symbol": "nobody"`, `no symbol "nobody"`,
			lineOf(`"symbol": "decision"`)},
		{"an id used twice", `"id": "decision"`, `"id": "process"`, "used already", lineOf(`"id": "decision"`)},
		{"an unknown paper", `"paper": "Slide"`, `"paper": "Napkin"`, `"Napkin"`, lineOf(`"paper"`)},
		{"too small", `"w": 90000`, `"w": 1`, "narrower", 0},
	} {
		data := bytes.Replace(good, []byte(c.old), []byte(c.new), 1)
		if bytes.Equal(data, good) {
			t.Fatalf("%s: the sample has no %s", c.name, c.old)
		}
		_, err := tracerjson.Read(data)
		var f *tracerjson.Fault
		if !errors.As(err, &f) || !strings.Contains(f.Text, c.want) {
			t.Errorf("%s: %v, not %q", c.name, err, c.want)
		} else if c.line > 0 && f.Line != c.line {
			t.Errorf("%s: found at line %d, stands at line %d", c.name, f.Line, c.line)
		}
	}
	for n := 0; n < len(good)-2; n += 97 { // half files
		if _, err := tracerjson.Read(good[:n]); err == nil {
			t.Fatalf("the first %d bytes were taken for a file", n)
		}
	}
}

// namesOf gathers the names of all fields of a record and of what it holds.
func namesOf(t reflect.Type, into map[string]bool) {
	switch t.Kind() {
	case reflect.Pointer, reflect.Slice:
		namesOf(t.Elem(), into)
	case reflect.Struct:
		for f := range t.Fields() {
			name, _, _ := strings.Cut(f.Tag.Get("json"), ",")
			if name != "-" && (name != "" || f.Anonymous) {
				into[name] = true
				namesOf(f.Type, into)
			}
		}
	}
}

// The schema in docs names every field the files have, and no other.
func TestSchemaNamesEveryField(t *testing.T) {
	schema, err := os.ReadFile("../../docs/tracer.schema.json")
	if err != nil {
		t.Fatal(err)
	}
	var whole any
	if err := json.Unmarshal(schema, &whole); err != nil {
		t.Fatal(err)
	}
	named := map[string]bool{}
	var walk func(v any)
	walk = func(v any) {
		switch v := v.(type) {
		case []any:
			for _, one := range v {
				walk(one)
			}
		case map[string]any:
			if fields, ok := v["properties"].(map[string]any); ok {
				for name := range fields {
					named[name] = true
				}
			}
			for _, one := range v {
				walk(one)
			}
		}
	}
	walk(whole)
	fields := map[string]bool{"format": true, "version": true}
	namesOf(reflect.TypeFor[model.Map](), fields)
	delete(fields, "")
	for name := range fields {
		if !named[name] {
			t.Errorf("the schema lacks %q", name)
		}
	}
	for name := range named {
		if !fields[name] {
			t.Errorf("the schema has %q, which is no field", name)
		}
	}
	for _, kind := range model.Kinds {
		if !bytes.Contains(schema, []byte(`"`+string(kind)+`"`)) {
			t.Errorf("the schema lacks the kind %s", kind)
		}
	}
}

// The example in the description of the format is a file that opens.
func TestTheDocumentedExampleOpens(t *testing.T) {
	doc, err := os.ReadFile("../../docs/format.md")
	if err != nil {
		t.Fatal(err)
	}
	_, rest, _ := bytes.Cut(doc, []byte("```json\n"))
	example, _, ok := bytes.Cut(rest, []byte("```"))
	if m, err := tracerjson.Read(example); !ok || err != nil || len(m.Sheets[0].Symbols) != 2 {
		t.Errorf("the example does not open: %v", err)
	}
}

func FuzzRead(f *testing.F) {
	good, _ := tracerjson.Write(sample())
	f.Add(good)
	f.Add([]byte(`{"format":"plain-tracer-map","version":1,"sheets":[null]}`))
	f.Add([]byte(`{"format":"plain-tracer-map","version":1,"direction":"right","answers":["a","b"],"sheets":[{"id":"s","paper":"A4","symbols":[null]}]}`))
	f.Fuzz(func(t *testing.T, data []byte) {
		m, err := tracerjson.Read(data)
		if err != nil {
			return
		}
		out, err := tracerjson.Write(m)
		if err != nil {
			t.Fatal(err)
		}
		if again, err := tracerjson.Read(out); err != nil {
			t.Fatalf("what was read cannot be read again: %v", err)
		} else if twice, _ := tracerjson.Write(again); !bytes.Equal(out, twice) {
			t.Fatal("written twice it differs")
		}
	})
}

// A picture goes into the file as long as a symbol shows it.
func TestOnlyPicturesThatAreShownAreWritten(t *testing.T) {
	m := model.New("Pictures", model.Rightwards, "A4", true)
	for _, colour := range []string{"red", "blue"} {
		p,
			err := pictures.Read([]byte(`<svg xmlns="http://www.w3.org/2000/svg" width="4" height="3"><rect width="4" height="3" fill="` + colour + `"/></svg>`))
		if err != nil {
			t.Fatal(err)
		}
		m.Pictures = append(m.Pictures, p)
	}
	m.Sheets[0].Symbols = []*model.Symbol{{ID: "p", Kind: model.Picture, Picture: m.Pictures[1].ID,
		Box: geometry.Box{W: 9000, H: 9000}}}
	file, err := tracerjson.Write(m)
	if err != nil {
		t.Fatal(err)
	}
	back, err := tracerjson.Read(file)
	if err != nil || len(back.Pictures) != 1 || back.Pictures[0].ID != m.Pictures[1].ID || len(m.Pictures) != 2 {
		t.Errorf("of two pictures, one of them shown, the file holds %d (%v)", len(back.Pictures), err)
	}
	// One that is not its own cleaned form is refused, with its place.
	dirty := bytes.Replace(file, []byte(`"w": 4`), []byte(`"w": 5`), 1)
	if _, err := tracerjson.Read(dirty); err == nil || !strings.Contains(err.Error(), "pictures[0]") {
		t.Errorf("a false picture gives %v", err)
	}
}

// What the schema lets a kind of sheet, a row and a sign be is what the program knows.
func TestTheSchemaKnowsSheetsRowsAndSigns(t *testing.T) {
	raw, err := os.ReadFile("../../docs/tracer.schema.json")
	if err != nil {
		t.Fatal(err)
	}
	type enums struct {
		Properties map[string]struct {
			Enum  []string
			Items json.RawMessage
		}
	}
	var schema struct {
		Defs map[string]enums `json:"$defs"`
	}
	if err := json.Unmarshal(raw, &schema); err != nil {
		t.Fatal(err)
	}
	var lanes enums
	if err := json.Unmarshal(schema.Defs["pool"].Properties["lanes"].Items, &lanes); err != nil {
		t.Fatal(err)
	}
	rows, signs := []string{""}, []string{"", model.NoSign}
	for _, k := range model.RowKinds {
		rows = append(rows, string(k.Type))
	}
	for _, s := range model.Signs {
		signs = append(signs, s.Name)
	}
	for what, pair := range map[string][2][]string{
		"kind of a sheet": {schema.Defs["sheet"].Properties["kind"].Enum,
			{string(model.FlowSheet), string(model.HierarchySheet), string(model.JourneySheet)}},
		"row":  {lanes.Properties["row"].Enum, rows},
		"sign": {schema.Defs["symbol"].Properties["sign"].Enum, signs},
	} {
		if !slices.Equal(pair[0], pair[1]) {
			t.Errorf("the %s can be %q, the program knows %q", what, pair[0], pair[1])
		}
	}
}
