package editor_test

import (
	"fmt"
	"slices"
	"strings"
	"testing"

	"plaintracer/core/editor/desk"
	"plaintracer/core/geometry"
	"plaintracer/core/model"
)

// journeyed returns an editor with a new journey, the name of whose first stage is open.
func journeyed(t *testing.T) *seat {
	t.Helper()
	d := open(t, model.New("x", model.Rightwards, "A4", true))
	d.Command("sheet-journey", "")
	d.flush()
	return d
}

// ends writes a text in the field that is open, and ends it by a key.
func (d *seat) ends(text, key string, mods int) {
	d.Helper()
	if d.write == "" {
		d.Fatalf("no field is open for %q", text)
	}
	if !d.Writing.WriteOn(d.write, "", text, key, mods) {
		d.Fatalf("%q was refused: %v", text, d.said)
	}
	d.flush()
}

// cells lists what stands in the rows of the first journey, stage by stage.
func cells(s *model.Sheet) (out []string) {
	p := s.Pools[0]
	for _, l := range p.Lanes {
		line := l.Name + ":"
		for _, st := range p.Stages {
			var in []string
			for _, sym := range s.InCell(l.ID, st.ID) {
				in = append(in, strings.ReplaceAll(sym.Text, "\n", "/"))
			}
			line += " [" + strings.Join(in, ", ") + "]"
		}
		out = append(out, line)
	}
	return out
}

// A journey is made by typing: Tab and Enter go from cell to cell, behind the last stage to a new one.
func TestAJourneyIsTyped(t *testing.T) {
	d := journeyed(t)
	for _, name := range []string{"Darkness", "Reporting", "Waiting", "Repair"} {
		d.ends(name, "Tab", 0)
	}
	d.ends("Light", "Enter", 0)
	p := d.Sheet().Pools[0]
	if len(p.Stages) != 5 || p.Stages[4].Name != "Light" {
		t.Fatalf("the stages are %v", p.Stages)
	}
	d.ends("Comes home", "Tab", 0)
	d.ends("", "Tab", 0) // nothing there
	d.ends("Waits", "Enter", desk.Ctrl)
	d.ends("Waits more", "Enter", 0) // down, into the contact points
	d.ends("Letter", "Tab", desk.Shift)
	d.ends("Telephone", "Tab", desk.Shift)
	d.ends("Street", "Tab", desk.Shift) // to the end of the row before
	d.ends("Sleeps", "Tab", 0)
	d.ends("Street", "Enter", 0) // what is there is opened again
	d.ends("Is it safe?\nWho knows?", "Enter", 0)
	d.ends("", "Enter", 0) // and nothing ends it
	if d.write != "" {
		t.Errorf("%s is still open", d.write)
	}
	want := []string{"What happens: [Comes home] [] [Waits, Waits more] [] [Sleeps]",
		"Contact points: [Street] [Telephone] [Letter] [] []", "Thoughts: [Is it safe?/Who knows?] [] [] [] []",
		"Mood: [] [] [] [] []", "Opportunities: [] [] [] [] []", "Behind the scenes: [] [] [] [] []"}
	if got := cells(d.Sheet()); !slices.Equal(got, want) {
		t.Errorf("\n%s\nwant\n%s", strings.Join(got, "\n"), strings.Join(want, "\n"))
	}
	d.same()
}

// The keys of a journey while nothing is written.
func TestKeysOfAJourney(t *testing.T) {
	d := journeyed(t)
	d.ends("Darkness", "Enter", 0)
	d.ends("Comes home", "Enter", desk.Ctrl)
	d.ends("Calls", "Escape", 0)
	here := func(want string) {
		t.Helper()
		if got := d.Selecting.Described(); !strings.HasPrefix(got, want) {
			t.Errorf("%q is selected, not %q", got, want)
		}
	}
	press := func(key string, mods int) { d.Key(key, mods); d.flush() }
	here("Calls, in What happens, Darkness")
	press("ArrowUp", 0)
	here("Comes home")
	press("ArrowUp", 0)
	here("stage Darkness")
	press("ArrowRight", 0)
	here("stage Stage 2")
	press("ArrowDown", 0)
	here("empty cell, What happens, Stage 2")
	press("Tab", desk.Shift)
	here("Calls") // going back, the last
	press("ArrowLeft", 0)
	here("row What happens")
	press("ArrowRight", 0)
	here("Comes home")
	press("ArrowDown", desk.Alt)
	press("ArrowRight", desk.Alt)
	here("Comes home, in What happens, Stage 2")
	press("7", 0) // a digit begins a text
	d.ends("7 days later", "Escape", 0)
	here("7 days later")
	press("Delete", 0)
	here("empty cell, What happens, Stage 2")
	press("Delete", 0) // there is nothing more, and nothing else goes
	press("ArrowDown", 0)
	press("ArrowDown", 0)
	press("ArrowDown", 0)
	press("x", 0)
	d.ends("So so", "Escape", 0)
	press("ArrowUp", desk.Alt)
	press("ArrowUp", desk.Alt)
	here("So so, in Mood, Stage 2, mood +20 of 100")
	press("ArrowLeft", 0)
	press("ArrowLeft", 0)
	here("row Mood")
	press("f", desk.Alt)
	if !d.Sheet().Pools[0].Lanes[3].Folded {
		t.Error("Alt F does not fold the row")
	}
	press("f", desk.Alt)
	want := []string{"What happens: [Calls] [] []", "Mood: [] [So so] []"}
	got := cells(d.Sheet())
	if got[0] != want[0] || got[3] != want[1] {
		t.Errorf("%q", got)
	}
	d.same()
}

// A point of a curve follows the pointer up and down and into another stage, other texts into another cell; what is
// only shown meanwhile leaves nothing behind.
func TestDraggingInAJourney(t *testing.T) {
	d := journeyed(t)
	d.ends("Darkness", "Enter", 0)
	d.ends("Comes home", "Escape", 0)
	p := d.Sheet().Pools[0]
	d.Command("find", p.Lanes[3].ID)
	d.Key("ArrowRight", 0)
	d.flush()
	d.keys("x", "<So so>")
	s := d.Sheet()
	mood := s.InCell(p.Lanes[3].ID, p.Stages[0].ID)[0]
	dot := mood.Corner().Add(s.Board().Seen(mood.ID).Dot)
	d.drag(dot, dot.Add(geometry.Point{Y: -30 * px}), 0)
	if mood = s.Symbol(mood.ID); mood.Mood < 40 || mood.Stage != p.Stages[0].ID {
		t.Errorf("the mood is %d in %s", mood.Mood, mood.Stage)
	}
	raised := s.Board().Seen(mood.ID).Dot.Y
	if want := dot.Y - mood.Y - 30*px; raised < want-4*px || raised > want+4*px {
		t.Errorf("the point is at %d, the pointer left it at %d", raised, want)
	}
	next := geometry.Point{X: model.JourneyStage}
	d.drag(dot.Add(geometry.Point{Y: -30 * px}), dot.Add(next), 0)
	if mood = s.Symbol(mood.ID); mood.Stage != p.Stages[1].ID || mood.Mood < -5 || mood.Mood > 5 {
		t.Errorf("the mood is %d in %s", mood.Mood, mood.Stage)
	}
	home := s.InCell(p.Lanes[0].ID, p.Stages[0].ID)[0]
	to := p.CellAt(1, 2).Centre()
	d.drag(home.Centre(), to, 0)
	home = s.Symbol(home.ID)
	if home.Row != p.Lanes[1].ID || home.Stage != p.Stages[2].ID || home.Kind != model.ContactCell {
		t.Errorf("it went to %s, %s as a %s", home.Row, home.Stage, home.Kind)
	}
	d.drag(home.Centre(), geometry.Point{X: 20 * px, Y: 20 * px}, 0) // beside the journey nothing stands
	if s.Symbol(home.ID).Row != p.Lanes[1].ID {
		t.Error("it left its cell for none")
	}
	d.same()
}

// Lists and tables go into the cells from the one at hand on.
func TestPastingIntoAJourney(t *testing.T) {
	d := journeyed(t)
	d.ends("Darkness", "Escape", 0)
	d.Clipboard.PasteText("Need\n- Asking\nWaiting\nDone")
	d.flush()
	p := d.Sheet().Pools[0]
	if len(p.Stages) != 4 || p.Stages[1].Name != "Asking" || p.Stages[3].Name != "Done" {
		t.Fatalf("the stages are %v", p.Stages)
	}
	d.Key("ArrowDown", 0)
	d.Clipboard.PasteText("• Finds out\n• Calls\n• Waits\n• Is glad\n• Too much")
	d.flush()
	if len(d.said) == 0 || !strings.HasPrefix(d.said[len(d.said)-1], "1 text was left out") {
		t.Errorf("of what did not fit nothing is said: %q", d.said)
	}
	d.Command("find", p.Lanes[1].ID)
	d.Key("ArrowRight", 0)
	d.Clipboard.PasteText("Street\tTelephone\t\"Letter\nMessage\"\n\t\"A \"\"quick\"\" answer\nSecond thought\"\n-40: Dark\t\t+10\t60")
	d.flush()
	want := []string{"What happens: [Finds out] [Calls] [Waits] [Is glad]", "Contact points: [Street] [Telephone] [Letter, Message] []",
		`Thoughts: [] [A "quick" answer/Second thought] [] []`, "Mood: [Dark] [] [] []"}
	got := cells(d.Sheet())
	for i := range want {
		if got[i] != want[i] {
			t.Errorf("%q, want %q", got[i], want[i])
		}
	}
	moods := ""
	for _, c := range d.Sheet().Cells(p) {
		if c.Kind == model.MoodCell {
			moods += fmt.Sprint(c.Mood, " ")
		}
	}
	if moods != "-40 10 60 " {
		t.Errorf("the moods are %s", moods)
	}
	d.same()
	d.Undo()
	d.Undo()
	d.Undo()
	d.flush()
	if len(d.Sheet().Symbols) != 0 {
		t.Errorf("three undone, %d texts are left", len(d.Sheet().Symbols))
	}
}

// What is copied comes into the cell at hand, as far from each other as it was, and journeys with all in them.
func TestCopyingInAJourney(t *testing.T) {
	d := journeyed(t)
	d.ends("Darkness", "Enter", 0)
	d.ends("Comes home", "Tab", 0)
	d.ends("Calls", "Escape", 0)
	s := d.Sheet()
	p := s.Pools[0]
	d.Command("select-all", "")
	data, _ := d.Clipboard.Copy()
	d.Command("find", p.Lanes[4].ID)
	d.Key("ArrowRight", 0)
	d.Key("ArrowRight", 0)
	d.Clipboard.Paste(data)
	d.flush()
	if got := cells(s); got[4] != "Opportunities: [] [Comes home] [Calls]" {
		t.Errorf("%q", got[4])
	}
	d.Sel, d.Lane = []string{p.ID}, ""
	data, _ = d.Clipboard.Copy()
	d.Clipboard.Paste(data)
	d.flush()
	if len(s.Pools) != 2 || len(s.Symbols) != 8 {
		t.Fatalf("%d journeys with %d texts", len(s.Pools), len(s.Symbols))
	}
	for _, sym := range s.Symbols {
		if q, _ := s.RowOf(sym.Row); q == nil || q.StageIndex(sym.Stage) < 0 {
			t.Errorf("%s stands in no cell", sym.ID)
		}
	}
	d.same()
	d.Command("sheet-copy", "")
	d.flush()
	d.Sheets.Duplicate()
	d.flush()
	if err := d.Map().Validate(); err != nil {
		t.Error(err)
	}
	if got := d.Sheet(); got.Kind != model.JourneySheet || len(got.Symbols) != 8 {
		t.Errorf("the copy of the sheet has %d texts", len(got.Symbols))
	}
	d.same()
}

// What is for flows is refused in words, and no connector is made.
func TestAJourneyIsNoFlow(t *testing.T) {
	d := journeyed(t)
	d.ends("Darkness", "Enter", 0)
	d.ends("Comes home", "Tab", 0)
	d.ends("Calls", "Escape", 0)
	for _, command := range []string{"lay-out", "straighten", "connect", "lanes", "stage-add", "lanes-turn", "align"} {
		d.said = nil
		d.Command(command, "")
		d.flush()
		if len(d.said) != 1 || !strings.Contains(d.said[0], "journey") {
			t.Errorf("%s says %q", command, d.said)
		}
	}
	box := d.Sheet().Symbols[0].Box
	d.click(box.Centre(), 0)
	d.drag(geometry.Point{X: box.Right(), Y: box.Centre().Y}, d.Sheet().Symbols[1].Centre(), 0)
	if len(d.Sheet().Connectors) != 0 {
		t.Error("a connector was made")
	}
	d.same()
}

// Rows and stages are dragged by their names, and take colours; pictures are let go on the person and on cells.
func TestRowsStagesAndPictures(t *testing.T) {
	d := journeyed(t)
	d.ends("Darkness", "Enter", 0)
	d.ends("Comes home", "Escape", 0)
	s := d.Sheet()
	p := s.Pools[0]
	names := func() (rows, stages string) {
		for _, l := range p.Lanes {
			rows += l.Name + ", "
		}
		for _, st := range p.Stages {
			stages += st.Name + ", "
		}
		return rows, stages
	}
	head := func(i int) geometry.Point {
		b := p.LaneBox(i)
		return geometry.Point{X: b.X + 20*px, Y: b.Centre().Y}
	}
	d.drag(head(0), head(2).Add(geometry.Point{Y: 10 * px}), 0)
	d.drag(p.StageBox(0).Centre(), p.StageBox(2).Centre().Add(geometry.Point{X: 10 * px}), 0)
	if rows, stages := names(); !strings.HasPrefix(rows, "Contact points, Thoughts, What happens, ") ||
		stages != "Stage 2, Stage 3, Darkness, " {
		t.Errorf("the rows are %s the stages %s", rows, stages)
	}
	if b := p.StageBox(0); b.W != model.JourneyStage {
		t.Errorf("the stage is %d wide", b.W)
	}
	edge := geometry.Point{X: p.StageBox(2).Right(), Y: p.StageBox(2).Centre().Y}
	d.drag(edge, edge.Add(geometry.Point{X: 60 * px}), 0)
	if got := p.Stages[2].L; got < model.JourneyStage+50*px {
		t.Errorf("pulled by 60 px the stage is %d wide", got)
	}
	d.click(p.StageBox(2).Centre(), 0)
	d.Command("fill", "lake")
	d.flush()
	home := s.Symbols[0]
	if p.Stages[2].Fill != "lake" || s.Board().Seen(home.ID).Fill != "lake" {
		t.Errorf("the stage is %q, what stands in it %q", p.Stages[2].Fill, s.Board().Seen(home.ID).Fill)
	}
	face := []byte(`<svg xmlns="http://www.w3.org/2000/svg" width="10" height="20"><path d="M0 0h10v20z"/></svg>`)
	person := geometry.Point{X: p.X + 20*px, Y: p.Y + 60*px}
	d.Styling.PictureOn(face, person.X, person.Y)
	d.flush()
	if p.Picture == "" || len(s.Symbols) != 1 {
		t.Errorf("the person has the picture %q, %d symbols", p.Picture, len(s.Symbols))
	}
	at := p.CellAt(1, 1).Centre()
	d.Styling.PictureOn(face, at.X, at.Y)
	d.flush()
	if in := s.InCell(p.Lanes[1].ID, p.Stages[1].ID); len(in) != 1 || in[0].Picture == "" || in[0].H < in[0].W {
		t.Errorf("in the cell stands %v", in)
	}
	at = p.CellAt(3, 1).Centre() // a curve holds none
	d.Styling.PictureOn(face, at.X, at.Y)
	d.flush()
	if in := s.InCell(p.Lanes[3].ID, p.Stages[1].ID); len(in) != 0 {
		t.Errorf("on the curve stands %v", in)
	}
	d.Undo()
	d.Undo()
	d.Undo()
	d.flush()
	if p.Picture != "" || len(d.Map().Pictures) != 0 {
		t.Errorf("taken back the person has the picture %q; %d are kept", p.Picture, len(d.Map().Pictures))
	}
	d.same()
}

// wide is a map with a journey of 20 stages by 15 rows, with a text in most of its 300 cells.
func wide() *model.Map {
	m := model.New("Wide", model.Rightwards, "A2", true)
	s := m.Sheets[0]
	s.Kind = model.JourneySheet
	p := &model.Pool{ID: "p", Title: "Alva", W: model.MinPool, Journey: true}
	for i := range 15 {
		row := model.RowKinds[i%6]
		p.Lanes = append(p.Lanes, model.Lane{ID: fmt.Sprint("r", i), Name: row.Name, H: model.MinLane, Row: row.Type})
	}
	for i := range 20 {
		p.Stages = append(p.Stages, model.Stage{ID: fmt.Sprint("s", i), Name: fmt.Sprint("Stage ", i),
			L: model.JourneyStage})
	}
	s.Pools = append(s.Pools, p)
	for i, l := range p.Lanes {
		for k, st := range p.Stages {
			if (i+k)%5 == 0 {
				continue
			}
			s.Symbols = append(s.Symbols, &model.Symbol{ID: fmt.Sprintf("c%d-%d", i, k), Kind: l.Row.Row().Kind,
				Box: model.CellBox, Text: "Waits for a date and hears nothing of it for some time",
				Cell: model.Cell{Row: l.ID, Stage: st.ID, Mood: (i*k*37)%200 - 100}})
		}
	}
	m.SettleAll()
	return m
}

// A letter in a cell whose row grows moves all rows below.
func BenchmarkWritingInAJourneyOf240Texts(b *testing.B) {
	d := open(b, wide())
	b.ResetTimer()
	for i := range b.N {
		text := "Waits"
		if i%2 == 0 {
			text = strings.Repeat("Waits for a date and hears nothing. ", 4)
		}
		d.Writing.Write("c0-1", text)
		d.Flush()
	}
}

// A frame of dragging a text over the cells.
func BenchmarkDragInAJourneyOf240Texts(b *testing.B) {
	d := open(b, wide())
	from := d.Sheet().Symbol("c0-1").Centre()
	d.Move(from, 1000, 0)
	d.Down(from, 1000, 0)
	p := d.Sheet().Pools[0]
	b.ResetTimer()
	for i := range b.N {
		d.Move(p.CellAt(i/20%6, i%20).Centre(), 1000, 0)
		d.Flush()
	}
}
