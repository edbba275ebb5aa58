package attack

import (
	"bytes"
	"crypto/sha256"
	"encoding/json"
	"fmt"
	"image"
	"image/png"
	"math/rand/v2"
	"reflect"
	"slices"
	"strings"

	"plaintracer/core/edit"
	"plaintracer/core/geometry"
	"plaintracer/core/hierarchy"
	"plaintracer/core/model"
	"plaintracer/core/pictures"
	"plaintracer/core/values"
)

// wild makes up edits: sensible ones for a map as it stands, inverses of earlier ones, and
// all of them with parts changed, left out, doubled and exchanged.
type wild struct {
	rnd *rand.Rand
	// seen are edits accepted before, from which parts are taken.
	seen []any
	raw  [][]byte
	n    int
	// prefix begins the ids it makes.
	prefix string
}

func pick[T any](w *wild, list []T) T { return list[w.rnd.IntN(len(list))] }

func (w *wild) newID() string {
	w.n++
	return fmt.Sprintf("%sq%d", w.prefix, w.n)
}

var dot = func() pictures.Picture {
	var file bytes.Buffer
	if err := png.Encode(&file, image.NewGray(image.Rect(0, 0, 3, 2))); err != nil {
		panic(err)
	}
	p, err := pictures.Read(file.Bytes())
	if err != nil {
		panic(err)
	}
	return p
}()

// begin returns a small map with a bit of everything.
func (w *wild) begin() *model.Map {
	m := model.New("Wild", pick(w, []model.Direction{model.Rightwards, model.Downwards}), "A4", true)
	m.Pictures = append(m.Pictures, dot)
	m.Styles = []model.Style{{ID: "style-1", Name: "One", Fill: "straw"}}
	s := m.Sheets[0]
	if w.rnd.IntN(4) > 0 {
		p := &model.Pool{ID: "pool", Title: "Pool", X: 4000, Y: 4000, W: 90000, Down: w.rnd.IntN(4) == 0,
			Lanes: []model.Lane{{ID: "lane-a", Name: "A", H: 15000}, {ID: "lane-b", Name: "B", H: 15000, Of: "Part"},
				{ID: "lane-c", Name: "C", H: 15000, Of: "Part"}}}
		if w.rnd.IntN(2) == 0 {
			p.Stages = []model.Stage{{ID: "stage-a", Name: "Before", L: 32000},
				{ID: "stage-b", Name: "After", L: 32000}}
		}
		s.Pools = append(s.Pools, p)
	}
	var ids []string
	for range 3 + w.rnd.IntN(8) {
		sym := w.symbol()
		s.Symbols = append(s.Symbols, &sym)
		ids = append(ids, sym.ID)
	}
	for range w.rnd.IntN(10) {
		from, to := pick(w, ids), pick(w, ids)
		if from != to {
			s.Connectors = append(s.Connectors, &model.Connector{ID: w.newID(), From: model.End{Symbol: from},
				To: model.End{Symbol: to}})
		}
	}
	m.Sheets = append(m.Sheets, &model.Sheet{SheetHead: model.SheetHead{ID: "sheet-2", Name: "Two", Paper: "A3"},
		Pools: []*model.Pool{}, Symbols: []*model.Symbol{}, Connectors: []*model.Connector{}})
	m.Sheets = append(m.Sheets, w.chart(), w.journey())
	m.SettleAll()
	return m
}

// chart is a small hierarchy.
func (w *wild) chart() *model.Sheet {
	s := &model.Sheet{SheetHead: model.SheetHead{ID: "chart", Name: "Chart", Paper: "A4", Kind: model.HierarchySheet},
		Pools: []*model.Pool{}, Symbols: []*model.Symbol{}, Connectors: []*model.Connector{}}
	for i := range 3 + w.rnd.IntN(6) {
		kind := pick(w, []model.Kind{model.PersonCard, model.PostCard, model.TeamCard})
		card := &model.Symbol{ID: w.newID(), Kind: kind, Text: w.text(), Box: geometry.Box{W: 18000, H: 5600},
			Seat: model.Seat{Rank: i * model.RankStep}}
		if i > 0 {
			card.Under = pick(w, s.Symbols).ID
		}
		s.Symbols = append(s.Symbols, card)
	}
	return s
}

// journey is a small journey, in which nothing stands in some cells.
func (w *wild) journey() *model.Sheet {
	s := &model.Sheet{SheetHead: model.SheetHead{ID: "journey", Name: "Journey", Paper: "A4", Kind: model.JourneySheet},
		Pools: []*model.Pool{}, Symbols: []*model.Symbol{}, Connectors: []*model.Connector{}}
	p := &model.Pool{ID: "pool-j", Title: "Alva", W: model.MinPool, Journey: true, Words: w.text()}
	for i := range 2 + w.rnd.IntN(4) {
		p.Lanes = append(p.Lanes, model.Lane{ID: fmt.Sprint("lane-j", i), H: model.MinLane,
			Row: pick(w, model.RowKinds).Type})
	}
	for i := range 1 + w.rnd.IntN(4) {
		p.Stages = append(p.Stages, model.Stage{ID: fmt.Sprint("stage-j", i), L: model.JourneyStage})
	}
	s.Pools = append(s.Pools, p)
	for range w.rnd.IntN(10) {
		lane := pick(w, p.Lanes)
		if kind := lane.Row.Row().Kind; kind != "" {
			s.Symbols = append(s.Symbols, &model.Symbol{ID: w.newID(), Kind: kind, Text: w.text(), Box: model.CellBox,
				Cell: model.Cell{Row: lane.ID, Stage: pick(w, p.Stages).ID, Mood: w.rnd.IntN(201) - 100}})
		}
	}
	return s
}

func (w *wild) symbol() model.Symbol {
	return model.Symbol{ID: w.newID(), Kind: pick(w, model.Kinds), Text: w.text(),
		Box: geometry.Box{X: w.rnd.IntN(100000), Y: w.rnd.IntN(70000), W: 8000 + 1000*w.rnd.IntN(12),
			H: 4000 + 1000*w.rnd.IntN(8)}}
}

// file is one of a few files that might be kept with a map.
func (w *wild) file() model.File {
	content := pick(w, []string{"one", "two", "three"})
	return model.File{ID: model.FileID(sha256.Sum256([]byte(content))), Name: content + ".txt", Type: "text/plain",
		Size: len(content)}
}

func (w *wild) text() string {
	return pick(w, []string{"", "A step", "Fault in the lamp?", "ä “quoted” \\ <b>\n& more", "\u2028", "x\ty",
		strings.Repeat("long ", 40)})
}

// edit returns an edit as it would come over the wire.
func (w *wild) edit(m *model.Map) []byte {
	var raw []byte
	switch n := w.rnd.IntN(20); {
	case n < 4 && len(w.raw) > 0:
		raw = pick(w, w.raw)
	case n < 6:
		var parts []json.RawMessage
		for range 1 + w.rnd.IntN(4) {
			parts = append(parts, w.one(m))
		}
		raw, _ = json.Marshal(map[string]any{"do": "batch", "as": "several", "edits": parts})
	default:
		raw = w.one(m)
	}
	if w.rnd.IntN(2) == 0 {
		var v any
		dec := json.NewDecoder(bytes.NewReader(raw))
		dec.UseNumber()
		if dec.Decode(&v) != nil {
			return raw
		}
		for range 1 + w.rnd.IntN(3) {
			v = w.mutate(v, m, 0)
		}
		if out, err := json.Marshal(v); err == nil {
			return out
		}
	}
	return raw
}

// remember keeps an accepted edit and its inverse, to be sent again and mixed with others.
func (w *wild) remember(raw []byte, inverse *edit.Revert) {
	keep := func(raw []byte) {
		var v any
		if json.Unmarshal(raw, &v) == nil {
			w.seen = append(w.seen, v)
		}
		w.raw = append(w.raw, raw)
		if len(w.raw) > 40 {
			w.raw, w.seen = w.raw[1:], w.seen[1:]
		}
	}
	keep(raw)
	if back, err := json.Marshal(edit.Envelope{Edit: inverse}); err == nil {
		keep(back)
	}
}

var editNames = edit.Names()

// editsOf are the edits that are for sheets of one kind alone.
var editsOf = map[string]model.SheetKind{"hangCards": model.HierarchySheet, "setCards": model.HierarchySheet,
	"setChart": model.HierarchySheet, "seatCells": model.JourneySheet, "setCells": model.JourneySheet,
	"setPersona": model.JourneySheet}

// one returns a sensible edit of a random kind.
func (w *wild) one(m *model.Map) []byte {
	name := pick(w, editNames)
	for name == "revert" || name == "batch" || name == "keepFont" && w.rnd.IntN(20) > 0 {
		name = pick(w, editNames)
	}
	var e edit.Envelope
	if err := json.Unmarshal([]byte(`{"do":"`+name+`"}`), &e); err != nil {
		panic(err)
	}
	sheet := pick(w, m.Sheets)
	if len(sheet.Symbols) == 0 && w.rnd.IntN(3) > 0 {
		sheet = m.Sheets[0]
	}
	if kind, has := editsOf[name]; has && w.rnd.IntN(8) > 0 {
		of := slices.DeleteFunc(slices.Clone(m.Sheets), func(s *model.Sheet) bool { return s.Kind != kind })
		if len(of) > 0 {
			sheet = pick(w, of)
		}
	}
	if ofField := name == "setField" || name == "moveField" || name == "removeField"; ofField && len(m.Fields) > 0 &&
		w.rnd.IntN(4) > 0 {
		raw, err := json.Marshal(map[string]any{"do": name, "id": pick(w, m.Fields).ID, "name": w.text(),
			"at": w.rnd.IntN(3)})
		if err != nil {
			panic(err)
		}
		return raw
	}
	if ofCase := name == "nameCase" || name == "removeCase"; ofCase && len(m.Cases) > 0 && w.rnd.IntN(4) > 0 {
		raw, err := json.Marshal(map[string]any{"do": name, "id": pick(w, m.Cases).ID, "name": "Another " + w.text()})
		if err != nil {
			panic(err)
		}
		return raw
	}
	if name == "return" {
		e.Edit = edit.ReturnTo(m, w.another(m), "return")
	} else {
		w.fill(reflect.ValueOf(e.Edit).Elem(), m, sheet, "")
	}
	raw, err := json.Marshal(e)
	if err != nil {
		panic(err)
	}
	return raw
}

// another is a map as one may have been before: things are missing, others are there, some are otherwise.
func (w *wild) another(m *model.Map) *model.Map {
	then := m.Clone()
	s := pick(w, then.Sheets)
	for range w.rnd.IntN(4) {
		switch n := len(s.Connectors); {
		case n > 0 && w.rnd.IntN(2) == 0:
			i := w.rnd.IntN(n)
			s.Connectors = append(s.Connectors[:i], s.Connectors[i+1:]...)
		case len(s.Symbols) > 0 && w.rnd.IntN(3) > 0:
			sym := pick(w, s.Symbols)
			sym.Text, sym.X = w.text(), sym.X+w.rnd.IntN(9000)-4500
		default:
			sym := w.symbol()
			s.Symbols = append(s.Symbols, &sym)
		}
	}
	if w.rnd.IntN(4) == 0 && len(then.Sheets) > 1 {
		then.Sheets = then.Sheets[1:]
	}
	return then
}

var (
	typeSymbol    = reflect.TypeFor[model.Symbol]()
	typeConnector = reflect.TypeFor[model.Connector]()
	typeSheet     = reflect.TypeFor[model.Sheet]()
	typeField     = reflect.TypeFor[model.Field]()
	typePicture   = reflect.TypeFor[pictures.Picture]()
	typeEnd       = reflect.TypeFor[model.End]()
	typeFile      = reflect.TypeFor[model.File]()
	typeCase      = reflect.TypeFor[model.Case]()
	typeLink      = reflect.TypeFor[model.Hyperlink]()
)

// fill sets every field of an edit to something that could be meant.
func (w *wild) fill(v reflect.Value, m *model.Map, s *model.Sheet, name string) {
	switch v.Type() {
	case typeSymbol:
		v.Set(reflect.ValueOf(w.symbol()))
		return
	case typePicture:
		v.Set(reflect.ValueOf(dot))
		return
	case typeFile:
		v.Set(reflect.ValueOf(w.file()))
		return
	case typeCase:
		c := model.Case{ID: w.newID(), Name: "A case", Way: []string{w.newID()}}
		for range w.rnd.IntN(5) {
			if len(s.Symbols) > 0 {
				c.Way = append(c.Way, pick(w, s.Symbols).ID)
			}
		}
		v.Set(reflect.ValueOf(c))
		return
	case typeLink:
		v.Set(reflect.ValueOf(model.Hyperlink{To: pick(w, []string{"https://example.org/a", "mailto:a@example.org",
			"map:other", "#" + s.ID, "#" + w.file().ID, "#gone"})}))
		return
	case typeField:
		f := model.Field{ID: pick(w, []string{"f1", "f2", "f3"}), Name: pick(w, []string{"Time", "System", "Cost"})}
		w.fill(reflect.ValueOf(&f.Type).Elem(), m, s, "Type")
		if f.Type == values.Choice {
			f.Choices = []string{"Yes", "Maybe"}
		}
		v.Set(reflect.ValueOf(f))
		return
	case typeSheet:
		sheet := model.Sheet{SheetHead: model.SheetHead{ID: w.newID(), Name: "More", Paper: "A4"}}
		for range w.rnd.IntN(3) {
			sym := w.symbol()
			sheet.Symbols = append(sheet.Symbols, &sym)
		}
		v.Set(reflect.ValueOf(sheet))
		return
	case typeConnector:
		c := model.Connector{ID: w.newID(), Text: w.text()}
		w.fill(reflect.ValueOf(&c.From).Elem(), m, s, "")
		w.fill(reflect.ValueOf(&c.To).Elem(), m, s, "")
		c.From.Connector = ""
		v.Set(reflect.ValueOf(c))
		return
	case typeEnd:
		var end model.End
		switch n := w.rnd.IntN(6); {
		case n < 4 && len(s.Symbols) > 0:
			end.Symbol = pick(w, s.Symbols).ID
			end.Side = pick(w, []string{"", "", "top", "right", "bottom", "left"})
		case n == 4 && len(s.Connectors) > 0:
			end.Connector = pick(w, s.Connectors).ID
		default:
			end.At = geometry.Point{X: w.rnd.IntN(90000), Y: w.rnd.IntN(60000)}
		}
		v.Set(reflect.ValueOf(end))
		return
	}
	switch v.Kind() {
	case reflect.Struct:
		for i := range v.NumField() {
			if f := v.Type().Field(i); f.IsExported() && f.Tag.Get("json") != "-" {
				w.fill(v.Field(i), m, s, f.Name)
			}
		}
	case reflect.Pointer:
		if w.rnd.IntN(3) == 0 {
			v.Set(reflect.New(v.Type().Elem()))
			w.fill(v.Elem(), m, s, name)
		}
	case reflect.Slice:
		if v.Type().Elem().Kind() == reflect.Uint8 {
			return
		}
		list := reflect.MakeSlice(v.Type(), w.rnd.IntN(4), 4)
		for i := range list.Len() {
			w.fill(list.Index(i), m, s, name)
		}
		if list.Len() > 0 || w.rnd.IntN(2) == 0 {
			v.Set(list)
		}
	case reflect.Bool:
		v.SetBool(w.rnd.IntN(2) == 0)
	case reflect.Int:
		v.SetInt(int64(w.number(name)))
	case reflect.String:
		v.SetString(w.word(v.Type().Name(), m, s, name))
	}
}

func (w *wild) number(name string) int {
	switch name {
	case "At", "To":
		return pick(w, []int{0, 1, 2, 3, 5000, 20000, 40000})
	case "Size":
		return pick(w, []int{0, 1100, 1300, 2400})
	case "Weight":
		return pick(w, []int{0, 50, 200})
	case "Span":
		return w.rnd.IntN(4)
	case "Mood":
		return w.rnd.IntN(220) - 110
	case "Along":
		return w.rnd.IntN(10001)
	}
	return pick(w, []int{-3000, 0, 100, 800, 1000, 4000, 5000, 8000, 10000, 16000, 32000, 60000})
}

// word returns a text that suits a field by its name or its type.
func (w *wild) word(kind string, m *model.Map, s *model.Sheet, name string) string {
	switch kind {
	case "Kind":
		return string(pick(w, model.Kinds))
	case "Direction":
		return pick(w, []string{"right", "down"})
	case "Units":
		return pick(w, []string{"", "mm", "in"})
	case "Scheme":
		return string(pick(w, model.Schemes))
	case "Type":
		return string(pick(w, []values.Type{values.Text, values.Duration, values.Choice, values.Money, values.Date}))
	case "Arrangement":
		return string(pick(w, append([]hierarchy.Arrangement{""}, hierarchy.Arrangements...)))
	case "Post":
		return pick(w, []string{"", "vacant", "planned"})
	case "SheetKind":
		return pick(w, []string{"", "hierarchy", "journey"})
	case "RowType":
		return string(pick(w, model.RowKinds).Type)
	case "Fitting", "Crossing", "Mark", "MarkSize", "Line", "Run":
		return pick(w, []string{"", "", "together", "alone", "smaller", "plain", "gap", "arc", "none", "arrow", "small",
			"large", "dash", "dot", "straight", "curved"})
	}
	var pools []string
	for _, p := range s.Pools {
		pools = append(pools, p.ID)
		for _, l := range p.Lanes {
			pools = append(pools, l.ID)
		}
		for _, st := range p.Stages {
			pools = append(pools, st.ID)
		}
	}
	var items []string
	for _, sym := range s.Symbols {
		items = append(items, sym.ID)
	}
	for _, c := range s.Connectors {
		items = append(items, c.ID)
	}
	switch name {
	case "Sheet":
		return s.ID
	case "Sign":
		return pick(w, []string{"", "none", "phone", "mail"})
	case "Pool", "Lane", "Stage", "Row":
		if len(pools) > 0 {
			for range 20 {
				id := pick(w, pools)
				begins := strings.ToLower(name)
				if name == "Row" {
					begins = "lane"
				}
				if strings.HasPrefix(id, begins) || w.rnd.IntN(12) == 0 {
					return id
				}
			}
		}
	case "ID", "IDs", "Free":
		if w.rnd.IntN(8) == 0 {
			return w.newID()
		}
		if items = append(items, pools...); len(items) > 0 {
			return pick(w, items)
		}
	case "Under", "Before":
		if len(s.Symbols) > 0 && w.rnd.IntN(3) > 0 {
			return pick(w, s.Symbols).ID
		}
		return ""
	case "Field", "Shown", "ColourBy":
		return pick(w, []string{"", "f1", "f2", "f3"})
	case "Text":
		return pick(w, []string{w.text(), "5 min", "12.5", "2026-11-28", "Maybe", ""})
	case "Since":
		return pick(w, []string{"2026-11-28T10:00Z", ""})
	case "Pinned":
		return pick(w, []string{"", "3", "7a", "<b>"})
	case "Also":
		return pick(w, model.Countable)
	case "Badge":
		return pick(w, model.Badges)
	case "Choices":
		return pick(w, []string{"Yes", "Maybe", "Later"})
	case "Paper":
		return pick(w, []string{"A4", "A3", "Letter"})
	case "Fill", "Ink", "Colour", "Head", "Value":
		return pick(w, []string{"", "straw", "lake", "#a0b1c2"})
	case "Picture":
		return pick(w, []string{"", dot.ID})
	case "Style":
		return pick(w, []string{"", "style-1"})
	case "Group":
		return pick(w, []string{"", "g1", "g1/g2"})
	case "Look":
		return pick(w, []string{"", "print"})
	case "Align":
		return pick(w, []string{"", "left", "right"})
	case "Stand":
		return pick(w, []string{"", "top"})
	case "From", "To", "At", "Side":
		return pick(w, []string{"", "from", "to", "top", "left"})
	case "Answers":
		return pick(w, []string{"Yes", "No", "Maybe", "Later"})
	}
	return w.text()
}

// mutate changes one part of a JSON value, somewhere in it.
func (w *wild) mutate(v any, m *model.Map, depth int) any {
	if depth > 0 && w.rnd.IntN(6) == 0 {
		return w.strange(v, m)
	}
	switch x := v.(type) {
	case map[string]any:
		if len(x) == 0 {
			return w.strange(v, m)
		}
		keys := make([]string, 0, len(x))
		for k := range x {
			keys = append(keys, k)
		}
		slices.Sort(keys)
		key := pick(w, keys)
		out := map[string]any{}
		for k, part := range x {
			out[k] = part
		}
		switch w.rnd.IntN(12) {
		case 0:
			delete(out, key)
		case 1:
			out[pick(w, keys)] = x[key]
		default:
			out[key] = w.mutate(x[key], m, depth+1)
		}
		return out
	case []any:
		out := slices.Clone(x)
		if len(out) == 0 {
			return []any{w.strange(nil, m)}
		}
		i := w.rnd.IntN(len(out))
		switch w.rnd.IntN(8) {
		case 0:
			return slices.Delete(out, i, i+1)
		case 1:
			return append(out, out[i])
		case 2:
			j := w.rnd.IntN(len(out))
			out[i], out[j] = out[j], out[i]
		default:
			out[i] = w.mutate(out[i], m, depth+1)
		}
		return out
	}
	return w.strange(v, m)
}

// strange returns a value that does not belong where another stood.
func (w *wild) strange(v any, m *model.Map) any {
	numbers := []json.Number{"0", "-1", "1", "2", "100", "3999", "-5000", "20000", "10000000", "10000001", "-10000000",
		"400000", "9223372036854775807", "-9223372036854775808", "4611686018427387904"}
	switch w.rnd.IntN(10) {
	case 0:
		return nil
	case 1, 2, 3:
		if _, ok := v.(string); !ok {
			return pick(w, numbers)
		}
		s := pick(w, m.Sheets)
		return w.word("", m, s, pick(w, []string{"ID", "Sheet", "Lane", "Fill", "Text"}))
	case 4:
		if b, ok := v.(bool); ok {
			return !b
		}
		return pick(w, []any{"", "sheet-1", "sheet-2", "pool", "lane-a", "stage-a", "no such thing", "\u0001", "\xff",
			strings.Repeat("y", 300)})
	case 5:
		return pick(w, []any{[]any{}, map[string]any{}, []any{nil}, true, json.Number("1.5")})
	case 6, 7:
		if len(w.seen) > 0 {
			return w.part(pick(w, w.seen))
		}
	case 8:
		return pick(w, numbers)
	}
	return w.newID()
}

// part returns some part of a JSON value.
func (w *wild) part(v any) any {
	switch x := v.(type) {
	case map[string]any:
		if len(x) > 0 && w.rnd.IntN(4) > 0 {
			keys := make([]string, 0, len(x))
			for k := range x {
				keys = append(keys, k)
			}
			slices.Sort(keys)
			return w.part(x[pick(w, keys)])
		}
	case []any:
		if len(x) > 0 && w.rnd.IntN(4) > 0 {
			return w.part(pick(w, x))
		}
	}
	return v
}
