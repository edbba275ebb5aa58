package desk

import (
	"encoding/json"
	"slices"
	"strconv"
	"strings"

	"plaintracer/core/edit"
	"plaintracer/core/geometry"
	"plaintracer/core/model"
	"plaintracer/core/outline"
)

// AddStop adds a stop behind the others, at the part of the sheet that is seen: x, y, width and height in its pixels.
// It is called as what is selected, or as the sheet.
func (e *Sheets) AddStop(arg string) {
	var seen [4]int
	for i, word := range strings.SplitN(arg, " ", len(seen)) {
		n, err := strconv.ParseFloat(word, 64)
		if err != nil {
			return
		}
		seen[i] = int(n * geometry.Px)
	}
	s := model.Stop{ID: e.NewID(), Sheet: e.SheetID, Box: geometry.Box{X: seen[0], Y: seen[1], W: seen[2], H: seen[3]},
		Title: e.Sheet().Name}
	if sym := e.One(); sym != nil && sym.Text != "" {
		s.Title = model.Flat(sym.Text)
	}
	s.Title = model.Short(s.Title)
	if e.Do(&edit.AddStop{Stop: s, At: len(e.M.Stops)}) {
		e.Say("Stop %d is “%s”.", len(e.M.Stops), s.Title)
	}
}

// SetStop changes the title and the words of a stop: JSON with its id, title and words.
func (e *Sheets) SetStop(arg string) {
	var to outline.Stop
	if json.Unmarshal([]byte(arg), &to) != nil {
		return
	}
	to.Title, to.Words = model.Flat(to.Title), strings.TrimSpace(to.Words)
	if i := e.stopAt(to.ID); i >= 0 && (e.M.Stops[i].Title != to.Title || e.M.Stops[i].Words != to.Words) {
		e.Do(&edit.SetStop{ID: to.ID, Title: &to.Title, Words: &to.Words})
	}
}

// MoveStop takes a stop to another place: id:place, from 0.
func (e *Sheets) MoveStop(arg string) {
	id, place, _ := strings.Cut(arg, ":")
	to, err := strconv.Atoi(place)
	if i := e.stopAt(id); err == nil && i >= 0 && to >= 0 && to < len(e.M.Stops) && to != i {
		e.Do(&edit.MoveStop{ID: id, At: to})
	}
}

// RemoveStop takes a stop away.
func (e *Sheets) RemoveStop(id string) {
	if i := e.stopAt(id); i >= 0 {
		title := e.M.Stops[i].Title
		if e.Do(&edit.RemoveStop{ID: id}) {
			e.Say("The stop “%s” is gone. Undo brings it back.", title)
		}
	}
}

func (e *Sheets) stopAt(id string) int {
	return slices.IndexFunc(e.M.Stops, func(s model.Stop) bool { return s.ID == id })
}
