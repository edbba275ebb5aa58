package desk

import (
	"encoding/json"
	"slices"
	"strings"

	"plaintracer/core/compose"
	"plaintracer/core/edit"
	"plaintracer/core/fonts"
	"plaintracer/core/model"
)

// The style of the house: its colours and its fonts.

// SetBrand sets the house's own colours, one a line: a name and #rrggbb.
func (e *Styling) SetBrand(arg string) {
	list := []model.HouseColour{}
	for _, line := range strings.Split(arg, "\n") {
		line = strings.TrimSpace(line)
		if line == "" {
			continue
		}
		at := strings.LastIndex(line, "#")
		if at < 0 {
			e.Say("“%s” has no colour. Write a name and the colour as #rrggbb.", line)
			return
		}
		c := model.HouseColour{Name: strings.TrimSpace(line[:at]), Value: strings.ToLower(strings.TrimSpace(line[at:]))}
		if c.Name == "" {
			c.Name = c.Value
		}
		list = append(list, c)
	}
	e.Do(&edit.SetHead{Colours: &list})
}

// FontTab is a font of the house as the page lists it.
type FontTab struct {
	ID     string `json:"id"`
	Family string `json:"family"`
	Cut    string `json:"cut"`
}

// Faces lists the fonts the map is written in, and which of them draws each cut.
func (e *Styling) Faces() ([]FontTab, []fonts.Face) {
	list, had := []FontTab{}, e.M.HouseFonts()
	for i := range had {
		name := [...]string{"regular", "bold", "italic", "bold italic"}[fonts.CutOf(had[i].Bold, had[i].Italic)]
		list = append(list, FontTab{had[i].ID, had[i].Family, name})
	}
	return list, fonts.Faces(had)
}

// Face returns the file of a font of the map; nil when it has none of that id.
func (e *Styling) Face(id string) []byte {
	if f := e.M.Font(id); f != nil {
		return f.Data
	}
	return nil
}

// Font writes the map in a font of the house, given as JSON. Symbols grow where
// their text needs it.
func (e *Styling) Font(raw []byte) {
	var f fonts.Font
	if err := json.Unmarshal(raw, &f); err != nil {
		e.Say("Not done: the font could not be read.")
		return
	}
	if err := f.Check(); err != nil {
		e.Say("Not done: %s.", err)
		return
	}
	faces := e.M.WithFace(&f)
	if slices.Equal(faces, e.M.Faces) {
		e.Say("The map uses this font already.")
		return
	}
	e.typeface("set the typeface "+f.Family, &edit.KeepFont{Font: f}, &edit.SetHead{Faces: &faces})
}

// DropFont takes a font of the house off again; without an argument all.
func (e *Styling) DropFont(id string) {
	faces := slices.DeleteFunc(slices.Clone(e.M.Faces), func(face string) bool { return id == "" || face == id })
	if faces == nil {
		faces = []string{}
	}
	e.typeface("take the font off", &edit.SetHead{Faces: &faces})
}

func (e *Styling) typeface(as string, edits ...edit.Edit) {
	e.Drop()
	edit, err := compose.FitAfter(e.M, as, edit.Together(as, edits...), e.M.Sheets...)
	if err != nil {
		e.Say("Not done: %s.", err)
		return
	}
	e.Do(edit)
}
