package edit_test

import (
	"bytes"
	"encoding/json"
	"fmt"
	"image"
	"image/png"
	"strings"
	"testing"

	"plaintracer/core/edit"
	"plaintracer/core/geometry"
	"plaintracer/core/model"
	"plaintracer/core/pictures"
	"plaintracer/core/session"
	"plaintracer/core/values"
)

// row is a chain s0, s1, s2 with a connector that joins the first of its lines.
func row() *model.Map {
	m := laneMap()
	s := m.Sheets[0]
	s.Pools = []*model.Pool{}
	s.Symbols = append(s.Symbols,
		&model.Symbol{ID: "s3", Kind: model.Process, Box: geometry.Box{X: 300 * px, Y: 600 * px, W: 120 * px,
			H: 80 * px}})
	s.Connectors = append(s.Connectors, &model.Connector{ID: "j", From: model.End{Symbol: "s3"},
		To: model.End{Connector: "k0"}},
		&model.Connector{ID: "jj", From: model.End{Symbol: "s2"}, To: model.End{Connector: "j"}})
	return m
}

func apply(t *testing.T, m *model.Map, e edit.Edit) *model.Sheet {
	t.Helper()
	if _, err := edit.Apply(m, e); err != nil {
		t.Fatalf("%s: %v", edit.Words(m, e), err)
	}
	if err := m.Validate(); err != nil {
		t.Fatalf("%s: %v", edit.Words(m, e), err)
	}
	return m.Sheets[0]
}

// What joined a connector that goes leads to where that one led; what led to a
// symbol that goes goes with it, over however many lines.
func TestConnectorsThatJoinAnotherOutliveIt(t *testing.T) {
	m := row()
	sheet := m.Sheets[0]
	if _, to := sheet.Leads(sheet.Connector("jj")); to != "s1" {
		t.Errorf("over two lines it leads to %q", to)
	}
	s := apply(t, m, &edit.RemoveItems{Sheet: "sheet-1", IDs: []string{"k0"}})
	if got := s.Connector("j").To; got != (model.End{Symbol: "s1"}) {
		t.Errorf("with its line gone it leads to %+v", got)
	}
	s = apply(t, row(), &edit.RemoveItems{Sheet: "sheet-1", IDs: []string{"s0"}})
	if len(s.Connectors) != 3 || s.Connector("j").To.Symbol != "s1" {
		t.Errorf("without the start of its line there are %d connectors", len(s.Connectors))
	}
	s = apply(t, row(), &edit.RemoveItems{Sheet: "sheet-1", IDs: []string{"s1"}})
	if len(s.Connectors) != 0 {
		t.Errorf("without its target there are %d connectors", len(s.Connectors))
	}
}

// Everything that would break a connector is refused with a reason.
func TestConnectorsAreRefusedWithAReason(t *testing.T) {
	end := func(e model.End) *model.End { return &e }
	thin, wild := 1, model.Run("wild")
	mark, hex := model.Mark("star"), "red"
	for _, c := range []struct {
		edit edit.Edit
		want string
	}{
		{&edit.SetEnds{Sheet: "sheet-1", ID: "k0", To: end(model.End{Connector: "j"})}, "in a circle"},
		{&edit.SetEnds{Sheet: "sheet-1", ID: "k0", To: end(model.End{Connector: "k0"})}, "in a circle"},
		{&edit.SetEnds{Sheet: "sheet-1", ID: "k1", From: end(model.End{Connector: "k0"})}, "not begin on it"},
		{&edit.SetEnds{Sheet: "sheet-1", ID: "k1", To: end(model.End{Connector: "none"})}, "no connector"},
		{&edit.SetEnds{Sheet: "sheet-1", ID: "k1", To: end(model.End{Symbol: "s0", Connector: "k0"})}, "not to both"},
		{&edit.SetStyle{Sheet: "sheet-1", IDs: []string{"k0"}, Weight: &thin}, "12 px wide"},
		{&edit.SetStyle{Sheet: "sheet-1", IDs: []string{"k0"}, Course: &wild}, "kind of course"},
		{&edit.SetStyle{Sheet: "sheet-1", IDs: []string{"k0"}, ToMark: &mark}, "no mark"},
		{&edit.SetStyle{Sheet: "sheet-1", IDs: []string{"s0"}, Colour: &hex}, "#rrggbb"},
		{&edit.SetStyle{Sheet: "sheet-1", IDs: []string{"s0"}, Fill: &hex}, "no colour"},
		{&edit.SetPlace{Sheet: "sheet-1", ID: "k0", Place: model.Spot{Along: 10001}}, "beyond"},
		{&edit.SetText{Sheet: "sheet-1", ID: "k0", At: "under", Text: "x"}, "no label"},
		{&edit.SetBends{Sheet: "sheet-1", ID: "k0", Bends: make([]model.Bend, 99)}, "at most"},
		{&edit.SetBends{Sheet: "sheet-1", ID: "gone"}, "not there any more"},
	} {
		m := row()
		before := bytesOf(t, m)
		if _, err := edit.Apply(m, c.edit); err == nil || !strings.Contains(err.Error(), c.want) {
			t.Errorf("%s: %v, not %q", edit.Words(m, c.edit), err, c.want)
		}
		if bytesOf(t, m) != before {
			t.Errorf("%s left something behind", edit.Words(m, c.edit))
		}
	}
}

// A bend goes along when both its symbols move alike, whoever moves them, and
// stays when one does.
func TestBendsGoAlongWithBothSymbols(t *testing.T) {
	bent := func() *model.Map {
		m := row()
		m.Sheets[0].Connectors[0].Bends = []model.Bend{{Upright: true, At: 250 * px}, {At: 90 * px}}
		return m
	}
	by := geometry.Point{X: 30 * px, Y: -20 * px}
	s := apply(t, bent(), &edit.MoveItems{Sheet: "sheet-1", IDs: []string{"s0", "s1"}, By: by})
	if b := s.Connector("k0").Bends; b[0].At != 280*px || b[1].At != 70*px {
		t.Errorf("both moved, the bends lie at %v", b)
	}
	m := bent()
	a, b := m.Sheets[0].Symbol("s0").Box.Moved(by), m.Sheets[0].Symbol("s1").Box.Moved(by)
	s = apply(t, m, &edit.PlaceItems{Sheet: "sheet-1", Boxes: []edit.Place{{ID: "s0", Box: a}, {ID: "s1", Box: b}}})
	if b := s.Connector("k0").Bends; b[0].At != 280*px || b[1].At != 70*px {
		t.Errorf("both placed, the bends lie at %v", b)
	}
	s = apply(t, bent(), &edit.MoveItems{Sheet: "sheet-1", IDs: []string{"s0"}, By: by})
	if b := s.Connector("k0").Bends; b[0].At != 250*px || b[1].At != 90*px {
		t.Errorf("one moved, the bends lie at %v", b)
	}
}

// A frame takes along what lies wholly in it.
func TestFramesMoveWhatTheyHold(t *testing.T) {
	m := row()
	s := m.Sheets[0]
	frame := model.Symbol{ID: "f", Kind: model.Frame, Box: s.Symbol("s0").Grown(10 * px)}
	apply(t, m, &edit.AddItems{Sheet: "sheet-1", Symbols: []model.Symbol{frame}, Behind: true})
	if s.Symbols[0].ID != "f" {
		t.Error("the frame does not lie behind")
	}
	before, other := s.Symbol("s0").Box, s.Symbol("s1").Box
	apply(t, m, &edit.MoveItems{Sheet: "sheet-1", IDs: []string{"f"}, By: geometry.Point{X: 50 * px}})
	if s.Symbol("s0").Box != before.Moved(geometry.Point{X: 50 * px}) || s.Symbol("s1").Box != other {
		t.Errorf("they stand at %v and %v", s.Symbol("s0").Box, s.Symbol("s1").Box)
	}
}

// A picture is checked, kept once, and goes again with the edit that brought it
// unless something else shows it.
func TestPicturesComeAndGoWithTheirEdit(t *testing.T) {
	var file bytes.Buffer
	if err := png.Encode(&file, image.NewGray(image.Rect(0, 0, 9, 9))); err != nil {
		t.Fatal(err)
	}
	p, err := pictures.Read(file.Bytes())
	if err != nil {
		t.Fatal(err)
	}
	m := row()
	start := bytesOf(t, m)
	show := func(id string) edit.Edit {
		return &edit.AddItems{Sheet: "sheet-1", Pictures: []pictures.Picture{p},
			Symbols: []model.Symbol{{ID: id, Kind: model.Picture, Picture: p.ID,
				Box: geometry.Box{W: 100 * px, H: 100 * px}}}}
	}
	first, err := edit.Apply(m, through(t, show("p1")))
	if err != nil {
		t.Fatal(err)
	}
	second, err := edit.Apply(m, show("p2"))
	if err != nil {
		t.Fatal(err)
	}
	if len(m.Pictures) != 1 {
		t.Fatalf("the map keeps %d pictures", len(m.Pictures))
	}
	if _, err := edit.Apply(m, first); err != nil {
		t.Fatal(err)
	}
	if len(m.Pictures) != 1 {
		t.Error("the picture went although the second symbol shows it")
	}
	if _, err := edit.Apply(m, second); err != nil {
		t.Fatal(err)
	}
	m.Pictures = nil // still there for the first; what is written to a file leaves it out
	if got := bytesOf(t, m); got != start {
		t.Errorf("undone it is %s", got)
	}
	bad := p
	bad.W = 99
	for _, e := range []edit.Edit{
		&edit.AddItems{Sheet: "sheet-1", Pictures: []pictures.Picture{bad}},
		&edit.AddItems{Sheet: "sheet-1",
			Symbols: []model.Symbol{{ID: "p3", Kind: model.Picture, Picture: "pnone",
				Box: geometry.Box{W: 100 * px, H: 100 * px}}}},
	} {
		if _, err := edit.Apply(m, e); err == nil {
			t.Errorf("%+v was taken", e)
		}
	}
}

// What stands under a step stays in its lane: the lane grows for it, and the others move on; taking it back gives the
// first bytes again.
func TestLanesHoldWhatStandsUnderSteps(t *testing.T) {
	m := model.New("", model.Rightwards, "A3", true)
	s := m.Sheets[0]
	s.Pools = []*model.Pool{{ID: "p", X: 1000, Y: 1000, W: 60000,
		Lanes: []model.Lane{{ID: "a", Name: "A", H: 10000}, {ID: "b", Name: "B", H: 10000}}}}
	s.Symbols = []*model.Symbol{{ID: "one", Kind: model.Process,
		Box: geometry.Box{X: 10000, Y: 2500, W: 12000, H: 7400}},
		{ID: "two", Kind: model.Process, Box: geometry.Box{X: 10000, Y: 12500, W: 12000, H: 7000}}}
	m.Fields = []model.Field{{ID: "f", Name: "Time", Type: values.Duration},
		{ID: "g", Name: "Wait", Type: values.Duration}}
	before, err := json.Marshal(m)
	if err != nil {
		t.Fatal(err)
	}
	back, err := edit.Apply(m, edit.Together("show", &edit.SetValue{Sheet: s.ID, ID: "one", Field: "f", Text: "5 min"},
		&edit.SetValue{Sheet: s.ID, ID: "one", Field: "g", Text: "2 d"},
		&edit.SetHead{Shown: &[]string{"f", "g"}}))
	if err != nil {
		t.Fatal(err)
	}
	p := s.Pools[0]
	if foot := s.Symbol("one").Bottom() + 2*model.ValueLine; p.LaneBox(0).Bottom() < foot ||
		s.Symbol("two").Y <= 12500 || p.Lanes[1].H != 10000 {
		t.Errorf("the lane ends at %d and what stands under the step at %d; the next one stands at %d",
			p.LaneBox(0).Bottom(), foot, s.Symbol("two").Y)
	}
	if _, err := edit.Apply(m, back); err != nil {
		t.Fatal(err)
	}
	if after, err := json.Marshal(m); err != nil || string(after) != string(before) {
		t.Errorf("taken back it is\n%s, not\n%s", after, before)
	}
}

// A table of contents has a row for every sheet, whoever adds or removes one, grows away from the edge of the paper,
// and is as it was when that is taken back.
func TestContentsFollowTheSheets(t *testing.T) {
	m := model.New("Many", model.Rightwards, "A4", true)
	s := m.Sheets[0]
	h := m.ExplainedHeight(s, model.Contents)
	page := s.Page()
	s.Symbols = []*model.Symbol{
		{ID: "top", Kind: model.Contents, Box: geometry.Box{X: 2000, Y: 2000, W: 30000, H: h}},
		{ID: "foot", Kind: model.Contents, Box: geometry.Box{X: 40000, Y: page.Bottom() - h, W: 30000, H: h}}}
	before, err := json.Marshal(m)
	if err != nil {
		t.Fatal(err)
	}
	doc, err := session.Open(before, 0, "w1")
	if err != nil {
		t.Fatal(err)
	}
	for i := range 4 {
		sheet := model.New("", model.Rightwards, "A4", true).Sheets[0]
		sheet.ID, sheet.Name = fmt.Sprint("more", i), "More"
		if err := doc.Do(&edit.AddSheet{At: 1, Sheet: *sheet}); err != nil {
			t.Fatal(err)
		}
	}
	now := doc.Map().Sheets[0]
	top, foot := now.Symbol("top"), now.Symbol("foot")
	if want := h + 4*model.ContentsRow; top.H != want || foot.H != want || top.Y != 2000 ||
		foot.Bottom() != page.Bottom() {
		t.Errorf("with five sheets they are %v and %v", top.Box, foot.Box)
	}
	takenBack(t, doc, 4, before)
}
