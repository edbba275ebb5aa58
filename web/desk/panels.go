package desk

import (
	"cmp"
	"fmt"
	"time"

	"github.com/gofiber/fiber/v3"

	"plaintracer/account"
	"plaintracer/app/phrase"
	"plaintracer/core/findings"
	"plaintracer/core/model"
	"plaintracer/core/numbering"
	"plaintracer/core/symbols"
	"plaintracer/web/site"
)

// panel is a page of the side panel.
type panel struct {
	// Name is its address below that of the map, and the id of its tab and container; Title and
	// Icon are those of the tab.
	Name, Title, Icon string
	// view is the template that draws what fill returns of the map as it is.
	view string
	fill func(m *model.Map) any
	// Or show draws it of more than the map.
	show func(s *Desk, c fiber.Ctx) error
	// Needs is the right that seeing it takes.
	Needs account.Right
}

// Answer draws the panel.
func (p *panel) Answer(s *Desk, c fiber.Ctx) error {
	if p.show != nil {
		return p.show(s, c)
	}
	d, err := site.At(c).Shown()
	if err != nil {
		return err
	}
	m, _ := d.Snapshot() // so that nobody waits for what is computed
	return s.Page(c, p.view, p.fill(m))
}

// heldSince says in words since when and by whom the numbers of a map are held; empty where they are not.
func heldSince(m *model.Map) string {
	if !m.Held.On() {
		return ""
	}
	text := "Numbers are held"
	if at, err := time.Parse(phrase.HeldLayout, m.Held.Since); err == nil {
		text += " since " + at.Local().Format("2 January, 15:04")
	}
	if m.Held.By != "" {
		text += ", by " + m.Held.By
	}
	return text + "."
}

// stepsPanel is what the panel of the steps shows, with since when their numbers are held.
type stepsPanel struct {
	Rows   []stepRow
	Held   string
	Charts []chart
	// Journeys are the journeys of the map.
	Journeys []journey
}

type stepRow struct {
	ID, Text, Kind, Lane, Stage, Number string
}

// steps lists the steps in order.
func steps(m *model.Map) any {
	var rows []stepRow
	for _, step := range numbering.Number(m) {
		r := stepRow{ID: step.Symbol.ID, Text: model.Flat(step.Symbol.Text), Kind: symbols.Of(step.Symbol.Kind).Name,
			Number: step.Number, Lane: step.Sheet.OwnerOf(step.Symbol)}
		if stage := step.Sheet.StageOf(step.Symbol); stage != nil {
			r.Stage = stage.Name
		}
		rows = append(rows, r)
	}
	return stepsPanel{rows, heldSince(m), charts(m), journeys(m)}
}

// charts are the hierarchies of a map with their cards, superiors before those under them.
func charts(m *model.Map) (list []chart) {
	for _, s := range m.Sheets {
		if s.Kind != model.HierarchySheet {
			continue
		}
		c := chart{Name: s.Name}
		tree := s.Tree()
		for _, sym := range tree.Order() {
			c.Cards = append(c.Cards, cardRow{ID: sym.ID, Name: sym.CardTitle(), Role: sym.CardRole(),
				State: string(sym.Post), Level: min(tree.Level[tree.Place(sym.ID)], 6)})
		}
		list = append(list, c)
	}
	return list
}

// chart is a hierarchy in the register.
type chart struct {
	Name  string
	Cards []cardRow
}

// journey is a journey in the register: what stands in its cells, stage by stage.
type journey struct {
	Name  string
	Cells []cellRow
}

// cellRow is what stands in a cell. Begins names the stage of which it is the first.
type cellRow struct{ ID, Text, Row, Begins string }

func journeys(m *model.Map) (list []journey) {
	for _, s := range m.Sheets {
		for _, p := range s.Pools {
			if !p.Journey {
				continue
			}
			j := journey{Name: cmp.Or(model.Flat(p.Title), s.Name)}
			stage := ""
			for _, sym := range s.Cells(p) {
				row := cellRow{ID: sym.ID, Text: model.Flat(sym.Text), Row: s.LaneOf(sym).Called()}
				if sym.Kind == model.MoodCell {
					row.Row += fmt.Sprintf(" %+d", sym.Mood)
				}
				if sym.Stage != stage {
					stage = sym.Stage
					row.Begins = model.Flat(p.Stages[p.StageIndex(stage)].Name)
				}
				j.Cells = append(j.Cells, row)
			}
			list = append(list, j)
		}
	}
	return list
}

// cardRow is a card in the register. Levels beyond the sixth are set as far in as that.
type cardRow struct {
	ID, Name, Role, State string
	Level                 int
}

// found lists the findings.
func found(m *model.Map) any {
	type item struct {
		ID, What, Text, Sheet string
		Mends                 []findings.Fix
	}
	var list []item
	for _, f := range findings.Check(m) {
		i := item{f.Symbol, "The map", f.Text, "", f.Fixes}
		if sheet := m.Sheet(f.Sheet); sheet != nil {
			i.Sheet, i.What = sheet.Name, "A connector"
			for _, p := range sheet.Pools {
				if k := p.StageIndex(f.Symbol); k >= 0 {
					i.What = model.Flat(p.Stages[k].Name)
				} else if p.ID == f.Symbol {
					i.What = cmp.Or(model.Flat(p.Title), "The journey")
				}
			}
			if sym := sheet.Symbol(f.Symbol); sym != nil {
				if i.What = model.Flat(sym.Text); i.What == "" {
					i.What = symbols.Of(sym.Kind).Name
				}
			}
		}
		list = append(list, i)
	}
	return list
}

// Panels are the pages of the side panel, in their order; the first one is open at the start.
var Panels = []panel{
	{Name: "register", Title: "Register", Icon: "book-open", view: "register.html", fill: steps, Needs: account.Read},
	{Name: "findings", Title: "Findings", Icon: "triangle-alert", view: "findings.html", fill: found,
		Needs: account.Read},
	{Name: "attached", Title: "Files", Icon: "paperclip",
		show: func(s *Desk, c fiber.Ctx) error { return s.attached(c) }, Needs: account.Read},
	{Name: "remarks", Title: "Remarks", Icon: "message-square",
		show: func(s *Desk, c fiber.Ctx) error { return s.reviews.Remarks(c) }, Needs: account.Remark},
	{Name: "history", Title: "History", Icon: "history", show: func(s *Desk, c fiber.Ctx) error {
		return s.reviews.History(c)
	}, Needs: account.Edit},
}
