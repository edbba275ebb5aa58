package main

import (
	"bytes"
	"crypto/sha256"
	_ "embed"
	"errors"
	"fmt"
	"time"

	"plaintracer/account"
	"plaintracer/app/house"
	"plaintracer/core/compose"
	"plaintracer/core/edit"
	"plaintracer/core/geometry"
	"plaintracer/core/hierarchy"
	"plaintracer/core/model"
	"plaintracer/core/symbols"
	"plaintracer/core/values"
	"plaintracer/store"
)

// The demo is the work of the public works department of an invented town.

// demoPeople are those of the town who can be tried out; the first is the analyst.
var demoPeople = []store.NewPerson{
	{Name: "Ida Brandt", Email: "ida.brandt@town.example", Role: account.Owner},
	{Name: "Jonas Petri", Email: "jonas.petri@town.example", Role: account.Member},
	{Name: "Selma Kurt", Email: "selma.kurt@town.example", Role: account.Member},
}

// addDemo stores the people and maps of the demo in a data folder that has none yet.
// With a past the map of the street light was reviewed before, and is again.
func addDemo(s *house.House, withPast bool) error {
	if s.ReadOnly() != "" {
		return nil
	}
	some, err := s.People.Any()
	if err != nil {
		return err
	}
	ids := make([]string, len(demoPeople))
	if !some {
		for i, p := range demoPeople {
			if ids[i], err = s.People.Add(p); err != nil {
				return err
			}
		}
	} else if p, _, err := s.People.ByMail(demoPeople[0].Email); err == nil {
		ids[0] = p.ID
	}
	for _, binned := range []bool{false, true} {
		if maps, err := s.Maps.List("", binned); err != nil || len(maps) > 0 {
			return err
		}
	}
	if withPast = withPast && !some; withPast {
		begun := daysAgo(30, 9, 0)
		store.SetClock(func() time.Time { begun = begun.Add(time.Minute); return begun })
		defer store.SetClock(time.Now)
	}
	folder, err := s.Folders.Add("Street lighting", "", ids[0])
	if errors.Is(err, store.ErrTaken) {
		folder, err = "", nil
	}
	if err != nil {
		return err
	}
	if folder != "" {
		if err := s.Folders.Grant(account.Grant{Place: account.Place{Folder: folder},
			Right: account.Read}); err != nil {
			return err
		}
		if ids[1] != "" {
			if err := s.Folders.Grant(account.Grant{Place: account.Place{Folder: folder}, Person: ids[1],
				Right: account.Edit}); err != nil {
				return err
			}
		}
	}
	if _, err := s.Maps.CreateFor(cargoBike(), ids[0], ""); err != nil { // the latest comes first
		return err
	}
	chart, err := department()
	if err != nil {
		return err
	}
	people, err := s.Maps.CreateFor(chart, ids[0], folder)
	if err != nil {
		return err
	}
	light := streetLight()
	for _, sheet := range light.Sheets { // the lanes of the town lead to who works there
		for _, pool := range sheet.Pools {
			for i, lane := range pool.Lanes {
				if lane.Name == "Service desk" || lane.Name == "Field crew" || lane.Name == "Stores" {
					pool.Lanes[i].Links = []model.Hyperlink{{To: "map:" + people, Title: "Who works there"}}
				}
			}
		}
	}
	if err := fillFields(light); err != nil {
		return err
	}
	if err := livedThrough(light); err != nil {
		return err
	}
	if withPast {
		if err := younger(light); err != nil {
			return err
		}
	}
	id, err := withForm(s, light, ids[0], folder)
	if err != nil || !withPast {
		return err
	}
	return liveThrough(s, id, ids)
}

// lighting are the people of the lighting department: id, name, role, to whom each reports, department, and the state
// of the post.
var lighting = [][]string{
	{"Id", "Name", "Role", "Reports to", "Department", "State", "Also reports to", "Card"},
	{"10", "Mara Lindqvist", "Head of lighting", "", "Management", "", "", ""},
	{"11", "Ida Brandt", "Process analyst", "10", "Management", "assistant", "", ""},
	{"20", "Service desk", "Answers residents", "10", "Service desk", "", "", "Card of a post"},
	{"21", "Jonas Petri", "Lead of the desk", "20", "Service desk", "", "", ""},
	{"22", "Pia Holm", "Clerk", "21", "Service desk", "", "", ""},
	{"23", "", "Clerk for the evenings", "21", "Service desk", "planned", "", ""},
	{"30", "Field crew", "Inspects and repairs", "10", "Field crew", "", "", "Card of a post"},
	{"31", "Olle Varg", "Lead of crew north", "30", "Field crew", "", "", ""},
	{"32", "Runa Dahl", "Electrician", "31", "Field crew", "", "", ""},
	{"33", "Emil Storm", "Fitter", "31", "Field crew", "", "", ""},
	{"34", "Vera Moe", "Lead of crew south", "30", "Field crew", "", "", ""},
	{"35", "Axel Krog", "Electrician", "34", "Field crew", "", "", ""},
	{"36", "", "Fitter", "34", "Field crew", "vacant", "", ""},
	{"40", "Stores", "Keeps lamps and parts", "10", "Stores", "", "", "Card of a post"},
	{"41", "Selma Kurt", "Storekeeper", "40", "Stores", "", "", ""},
	{"42", "Leo Falk", "Driver", "41", "Stores", "", "31", ""},
}

// department is the map of who is who in street lighting.
func department() (*model.Map, error) {
	m, err := compose.PeopleMap(compose.Sheet{Rows: lighting}, "Who is who in street lighting")
	if err != nil {
		return nil, err
	}
	s := m.Sheets[0]
	s.Name, s.Chart.Last, s.Paper, s.Across = "Lighting department", hierarchy.Right, "A4", true
	for i := range m.Fields {
		if m.Fields[i].Name == "Department" {
			m.ColourBy = m.Fields[i].ID
		}
	}
	m.SettleAll()
	return m, nil
}

// workOrder is the form that the crew takes along.
//
//go:embed "demofiles/Form 12, work order.pdf"
var workOrder []byte

// withForm stores the street light map with the form of its work order, and returns its id.
func withForm(s *house.House, m *model.Map, owner, folder string) (string, error) {
	f := model.File{ID: model.FileID(sha256.Sum256(workOrder)), Name: "Form 12, work order.pdf",
		Type: "application/pdf",
		Size: len(workOrder), By: demoPeople[0].Name}
	m.Files = append(m.Files, f)
	for _, sheet := range m.Sheets {
		for _, sym := range sheet.Symbols {
			if sym.Text == "Work order" {
				sym.Links = append(sym.Links, model.Hyperlink{To: "#" + f.ID})
			}
		}
	}
	id, err := s.Maps.CreateFor(m, owner, folder)
	if err != nil {
		return "", err
	}
	_, err = s.Files.Put(id, f.Name, f.Size, 0, bytes.NewReader(workOrder),
		func([]byte) (string, error) { return f.Type, nil })
	return id, err
}

// fillFields adds what the department wants to know of each step: the system it is done in, how long it takes and
// waits, and what it costs.
func fillFields(m *model.Map) error {
	edits := []edit.Edit{&edit.SetHead{Currency: new("EUR")}}
	for i, f := range []model.Field{
		{ID: "f-system", Name: "System", Type: values.Choice,
			Choices: []string{"Desk tool", "Asset register", "On paper"}},
		{ID: "f-time", Name: "Time", Type: values.Duration}, {ID: "f-wait", Name: "Wait", Type: values.Duration},
		{ID: "f-cost", Name: "Cost", Type: values.Money},
	} {
		edits = append(edits, &edit.AddField{Field: f, At: i})
	}
	for text, cells := range map[string][4]string{
		"Report the light by phone or form": {"", "4 min", "", ""},
		"Log the report":                    {"Desk tool", "5 min", "2 h", "3.50"},
		"Look up the pole number":           {"Asset register", "3 min", "", "2.10"},
		"Reported before?":                  {"Desk tool", "2 min", "", "1.40"},
		"Give the date of the repair":       {"Desk tool", "3 min", "", "2.10"},
		"Inspect the light on site":         {"On paper", "25 min", "1.5 d", "38"},
		"Fault in the lamp?":                {"On paper", "10 min", "", "15"},
		"Write the work order":              {"Desk tool", "10 min", "4 h", "15"},
		"Restore the supply to the pole":    {"", "1.5 h", "3 d", ""},
		"Pick lamp, ballast and fuse":       {"Asset register", "15 min", "3 h", "9.50"},
		"All in stock?":                     {"Asset register", "2 min", "", "1.20"},
		"Order the missing parts":           {"Desk tool", "12 min", "4 d", "8"},
		"Hand out the parts":                {"On paper", "5 min", "", "3.20"},
		"Lane closure":                      {"", "30 min", "2 d", "120"},
		"Replace the lamp":                  {"On paper", "40 min", "", "84.50"},
		"Test the light":                    {"On paper", "10 min", "12 h", "15"},
		"Lamp burning?":                     {"On paper", "2 min", "", "3"},
		"Close the report":                  {"Desk tool", "4 min", "", "2.80"},
	} {
		for _, s := range m.Sheets {
			for _, sym := range s.Symbols {
				if sym.Text != text {
					continue
				}
				for i, field := range []string{"f-system", "f-time", "f-wait", "f-cost"} {
					if cells[i] != "" {
						edits = append(edits, &edit.SetValue{Sheet: s.ID, ID: sym.ID, Field: field, Text: cells[i]})
					}
				}
			}
		}
	}
	_, err := edit.Apply(m, edit.Together("fill the fields", edits...))
	return err
}

// drawer sets down symbols by the pixel and counts ids.
type drawer struct {
	s *model.Sheet
	n int
	p string
}

func (d *drawer) id() string { d.n++; return fmt.Sprintf("%s%d", d.p, d.n) }

// at sets a symbol of standard size down around a point.
func (d *drawer) at(kind model.Kind, x, y int, text string) *model.Symbol {
	def := symbols.Of(kind)
	sym := &model.Symbol{ID: d.id(), Kind: kind, Text: text,
		Box: geometry.Around(geometry.Point{X: x * geometry.Px, Y: y * geometry.Px}, def.W, def.H)}
	d.s.Symbols = append(d.s.Symbols, sym)
	return sym
}

func (d *drawer) join(from, to *model.Symbol, answer string) *model.Connector {
	c := &model.Connector{ID: d.id(), From: model.End{Symbol: from.ID}, To: model.End{Symbol: to.ID}, Text: answer}
	d.s.Connectors = append(d.s.Connectors, c)
	return c
}

func (d *drawer) chain(list ...*model.Symbol) {
	for i := 1; i < len(list); i++ {
		d.join(list[i-1], list[i], "")
	}
}

// side glues the ends of a connector to fixed points.
func side(c *model.Connector, from, to string) {
	c.From.Side, c.To.Side = from, to
}

func (d *drawer) pool(title string, y int, lanes ...any) {
	p := &model.Pool{ID: d.id(), Title: title, X: 30 * geometry.Px, Y: y * geometry.Px, W: 1062 * geometry.Px}
	for i := 0; i < len(lanes); i += 2 {
		p.Lanes = append(p.Lanes, model.Lane{ID: d.id(), Name: lanes[i].(string), H: lanes[i+1].(int) * geometry.Px})
	}
	d.s.Pools = append(d.s.Pools, p)
}

func streetLight() *model.Map {
	m := model.New("A street light is out", model.Rightwards, "A4", true)
	one := m.Sheets[0]
	one.ID, one.Name = "report", "Report and diagnosis"
	d := &drawer{s: one, p: "r"}
	d.pool("Public works, street lighting", 40, "Resident", 110, "Service desk", 210, "Field crew", 120, "Stores", 110,
		"Grid operator", 120)
	c := [6]int{165, 317, 469, 621, 773, 925}

	start := d.at(model.Terminator, c[0], 95, "A street light is out")
	report := d.at(model.Process, c[1], 95, "Report the light by phone or form")
	informed := d.at(model.Terminator, c[4], 95, "Resident has a date")
	log := d.at(model.Process, c[1], 205, "Log the report")
	find := d.at(model.Process, c[2], 205, "Look up the pole number")
	assets := d.at(model.StoredData, c[2], 305, "Asset register")
	known := d.at(model.Decision, c[3], 205, "Reported before?")
	date := d.at(model.Process, c[4], 205, "Give the date of the repair")
	inspect := d.at(model.Process, c[3], 420, "Inspect the light on site")
	lamp := d.at(model.Decision, c[4], 420, "Fault in the lamp?")
	write := d.at(model.Process, c[5], 420, "Write the work order")
	order := d.at(model.Document, c[5], 535, "Work order")
	toStores := d.at(model.SheetReference, 1040, 535, "A")
	restore := d.at(model.Process, c[4], 650, "Restore the supply to the pole")
	toTest := d.at(model.SheetReference, c[5], 650, "B")

	d.chain(start, report, log, find)
	d.join(assets, find, "")
	d.join(find, known, "")
	d.join(known, date, "Yes")
	d.join(date, informed, "")
	d.join(known, inspect, "No")
	d.join(inspect, lamp, "")
	d.join(lamp, write, "Yes")
	d.join(lamp, restore, "No")
	d.chain(write, order, toStores)
	d.join(restore, toTest, "")

	two := model.New("", model.Rightwards, "A4", true).Sheets[0]
	two.ID, two.Name = "repair", "Repair"
	m.Sheets = append(m.Sheets, two)
	d = &drawer{s: two, p: "f"}
	d.pool("Public works, street lighting", 70, "Resident", 100, "Service desk", 120, "Field crew", 210, "Stores", 220)
	x := [7]int{125, 225, 377, 529, 681, 833, 985}
	fromOrder := d.at(model.SheetReference, x[0], 555, "A")
	pick := d.at(model.Process, x[1], 555, "Pick lamp, ballast and fuse")
	stock := d.at(model.Decision, x[2], 555, "All in stock?")
	buy := d.at(model.Process, x[2], 660, "Order the missing parts")
	buy.Fill = "straw"
	hand := d.at(model.Process, x[3], 555, "Hand out the parts")
	lane := d.at(model.Predefined, x[3], 425, "Lane closure")
	replace := d.at(model.Process, x[4], 425, "Replace the lamp")
	test := d.at(model.Process, x[5], 425, "Test the light")
	fromMains := d.at(model.SheetReference, x[5], 330, "B")
	burning := d.at(model.Decision, x[6], 425, "Lamp burning?")
	update := d.at(model.Process, x[6], 230, "Close the report")
	register := d.at(model.StoredData, x[5], 230, "Asset register")
	end := d.at(model.Terminator, x[6], 120, "The lamp burns again")

	d.chain(fromOrder, pick, stock)
	d.join(stock, hand, "Yes")
	d.join(stock, buy, "No")
	d.join(buy, pick, "")
	d.chain(hand, lane, replace, test, burning)
	d.join(fromMains, test, "")
	d.join(burning, update, "Yes")
	back := d.join(burning, replace, "No")
	side(back, "bottom", "bottom")
	back.Dashed = true
	d.join(update, register, "")
	d.join(update, end, "")
	order.Links = []model.Hyperlink{{Title: "How form 12 is filled in", To: "https://works.example/forms/12"}}
	laneClosure(m, lane)
	stop := func(sheet *model.Sheet, x, y, w, h int, title, words string) {
		m.Stops = append(m.Stops, model.Stop{ID: fmt.Sprint("stop", len(m.Stops)+1), Sheet: sheet.ID,
			Box:   geometry.Box{X: x * geometry.Px, Y: y * geometry.Px, W: w * geometry.Px, H: h * geometry.Px},
			Title: title, Words: words})
	}
	stop(one, 20, 30, 860, 340, "A report comes in", "Two in five reports are about a light that is known already.")
	stop(one, 480, 340, 640, 400, "What the crew finds",
		"Lamp or mains: the crew cannot know before it has been there.")
	stop(two, 20, 60, 1080, 670, "The repair", "Parts that are not in stock cost a second drive.")
	return m
}

// laneClosure adds the sheet on which a step of the street light map is told in detail.
func laneClosure(m *model.Map, of *model.Symbol) {
	s := model.New("", model.Rightwards, "A4", true).Sheets[0]
	s.ID, s.Name = "closure", "Lane closure"
	m.Sheets = append(m.Sheets, s)
	of.Detail = s.ID
	d := &drawer{s: s, p: "c"}
	x := [5]int{140, 320, 500, 680, 860}
	start := d.at(model.Terminator, x[0], 200, "Lane closure")
	permit := d.at(model.Process, x[1], 200, "Read out the permit number to the traffic desk")
	cones := d.at(model.Process, x[2], 200, "Put out signs and cones")
	clear := d.at(model.Decision, x[3], 200, "Does traffic keep clear?")
	further := d.at(model.Process, x[3], 340, "Begin the cones further out")
	end := d.at(model.Terminator, x[4], 200, "The lane is closed")
	for _, sym := range []*model.Symbol{permit, cones, clear, further} {
		sym.Owner = "Field crew"
	}
	d.chain(start, permit, cones, clear)
	d.join(clear, end, "Yes")
	d.join(clear, further, "No")
	d.join(further, cones, "")
}

func cargoBike() *model.Map {
	m := model.New("Lend a cargo bike", model.Rightwards, "A4", true)
	s := m.Sheets[0]
	s.ID, s.Name = "lend", "At the counter"
	d := &drawer{s: s, p: "b"}
	c := [6]int{120, 296, 472, 648, 824, 1000}
	start := d.at(model.Terminator, c[0], 150, "A resident asks for a bike")
	card := d.at(model.Process, c[1], 150, "Check the resident’s card")
	valid := d.at(model.Decision, c[2], 150, "Card still valid?")
	renew := d.at(model.Process, c[2], 290, "Renew the card")
	renew.Fill = "straw"
	free := d.at(model.Decision, c[3], 150, "A bike free today?")
	wait := d.at(model.Process, c[3], 290, "Put the name on the list")
	later := d.at(model.Terminator, c[3], 420, "Resident gets a call")
	lend := d.at(model.Process, c[4], 150, "Hand over bike, lock and key")
	slip := d.at(model.Document, c[5], 150, "Loan slip")
	back := d.at(model.Process, c[5], 290, "Take the bike back")
	harm := d.at(model.Decision, c[5], 430, "Bike damaged?")
	mend := d.at(model.Predefined, c[4], 570, "Bike repair")
	file := d.at(model.Process, c[5], 570, "Hang the key on its hook")
	end := d.at(model.Terminator, c[5], 690, "The bike is back")
	d.chain(start, card, valid)
	d.join(valid, free, "Yes")
	d.join(valid, renew, "No")
	d.join(renew, card, "")
	d.join(free, lend, "Yes")
	d.join(free, wait, "No")
	d.chain(wait, later)
	d.chain(lend, slip, back, harm)
	d.join(harm, mend, "Yes")
	d.join(harm, file, "No")
	d.join(mend, file, "").Dashed = true
	d.join(file, end, "")
	register := d.at(model.Database, c[4], 290, "Bike register")
	d.join(lend, register, "")
	about := d.at(model.Annotation, c[1]+10, 420, "A card is valid for a year; the resident need not come back.")
	about.H = 60 * geometry.Px
	said := d.join(about, renew, "")
	said.Line, said.ToMark = model.DashLine, model.MarkNone
	side(said, "right", "bottom")
	legend := d.at(model.Legend, 0, 0, "")
	legend.H = model.LegendHead + len(s.LegendKinds())*model.LegendRow
	legend.X, legend.Y = 60*geometry.Px, 740*geometry.Px-legend.H
	return m
}
