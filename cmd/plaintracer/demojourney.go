package main

import (
	"fmt"

	"plaintracer/core/compose"
	"plaintracer/core/model"
	"plaintracer/core/pictures"
)

// dark is what a resident lives through whose street lamp is dark: the rows of a journey by its stages.
var dark = [][]string{
	{"Journey", "Row", "Type", "Darkness", "Reporting", "Waiting", "The crew comes", "Light again"},
	{"Alva Norin, 68\nSings in a choir, comes home at ten in the evening, on foot. Does not like to telephone.",
		"What happens", "What happens", "Comes home in the dark\nAsks the neighbour", "Looks for who is in charge\nReports the lamp",
		"Hears when it will be repaired\nTakes the longer way", "Watches the crew from the window", "Walks home under the lamp"},
	{"", "Contact points", "Contact points", "", "[screen] Web form of the town\n[phone] Service desk",
		"[message] Message with the date", "[person] Crew at the lamp", "[paper] Card at the door\n  by Field crew"},
	{"", "Thoughts", "Thoughts", "Somebody must have noticed\nIs it safe to walk here?", "What is the number of the pole?",
		"Have they forgotten it?", "So many people for one lamp", "That was worth a report"},
	{"", "Mood", "Mood", "-40", "-65: Asked for a pole number nobody knows", "-20: A date, at least", "35", "75: Bright, and told so"},
	{"", "Opportunities", "Opportunities", "", "Find the pole on a map", "Say the date at once", "", "Ask how it went"},
	{"", "Behind the scenes", "Behind the scenes", "", "Log the report\n  by Service desk", "Write the work order\n  by Field crew\nPick the parts\n  by Stores", "Replace the lamp\n  by Field crew",
		"Close the report\n  by Field crew"},
	{"", "Time of the town", "Time or cost: Time", "", "", "", "", ""},
}

// acted says of what happens in the journey which steps of the map it leads to.
var acted = map[string]string{
	"Reports the lamp": "Report the light by phone or form", "Service desk": "Log the report",
	"Web form of the town": "Report the light by phone or form", "Message with the date": "Give the date of the repair",
	"Hears when it will be repaired": "Give the date of the repair", "Crew at the lamp": "Replace the lamp",
	"Log the report": "Log the report", "Write the work order": "Write the work order",
	"Pick the parts": "Pick lamp, ballast and fuse", "Replace the lamp": "Replace the lamp",
	"Close the report": "Close the report",
}

// alva is the picture of the resident.
const alva = `<svg xmlns="http://www.w3.org/2000/svg" width="96" height="96" viewBox="0 0 96 96">` +
	`<rect width="96" height="96" fill="#d9e4de"/><path d="M16 96c0-22 14-32 32-32s32 10 32 32z" fill="#1f6b57"/>` +
	`<circle cx="48" cy="42" r="20" fill="#f0d2b8"/><path d="M26 44c-2-22 10-30 22-30s24 8 22 30c-4-10-8-16-12-18-8 6-20 6-26 4-4 4-5 8-6 14z" fill="#b9bec4"/>` +
	`</svg>`

// livedThrough adds the journey of the resident to the map of the street light, with what leads from it to steps.
func livedThrough(m *model.Map) error {
	n := 0
	w := &compose.Work{Map: m, Sheet: m.Sheets[len(m.Sheets)-1],
		NewID: func() string { n++; return fmt.Sprint("lived-", n) }}
	plan := w.ReadJourney(compose.Sheet{Rows: dark})
	if plan.Refusal != "" {
		return compose.Refusal(plan.Refusal)
	}
	s := plan.Sheet()
	s.Name = "What a resident lives through"
	face, err := pictures.Read([]byte(alva))
	if err != nil {
		return err
	}
	m.Pictures, s.Pools[0].Picture = append(m.Pictures, face), face.ID
	for i, fill := range []string{"fog", "lake", "straw", "moss", "moss"} {
		s.Pools[0].Stages[i].Fill = fill
	}
	for _, cell := range s.Symbols {
		for _, sheet := range m.Sheets {
			for _, step := range sheet.Symbols {
				if step.Text != "" && step.Text == acted[cell.Text] && step.Kind.IsStep() {
					cell.Links = []model.Hyperlink{{To: "#" + step.ID}}
				}
			}
		}
	}
	m.Sheets = append(m.Sheets, s)
	m.SettleAll()
	return nil
}
