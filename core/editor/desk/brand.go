package desk

import (
	"encoding/json"
	"slices"
	"strings"

	"plaintracer/core/compose"
	"plaintracer/core/edit"
	"plaintracer/core/fonts"
	"plaintracer/core/model"
	"plaintracer/core/scene"
	"plaintracer/core/typeset"
)

// The style of the organisation: its colours and its fonts.

// SetBrand sets the organisation's own colours, one a line: a name and #rrggbb.
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

// FontTab is a font of the organisation as the page lists it.
type FontTab struct {
	ID     string `json:"id"`
	Family string `json:"family"`
	Cut    string `json:"cut"`
	// Single says that it is for single texts.
	Single bool `json:"single"`
}

// Faces lists the fonts the map is written in and those for single texts, and which of them draws each cut.
func (e *Styling) Faces() (list []FontTab, cuts []fonts.Face) {
	list = []FontTab{}
	for face, had := range typeset.FontsOf(e.M) {
		for i := range had {
			name := [...]string{"regular", "bold", "italic", "bold italic"}[fonts.CutOf(had[i].Bold, had[i].Italic)]
			list = append(list, FontTab{had[i].ID, had[i].Family, name, typeset.Face(face) != typeset.OwnFace})
		}
	}
	return list, scene.Faces(e.M)
}

// FaceTab is a typeface that a text may be set in: how the edit calls it, and how a person does.
type FaceTab struct {
	Value string `json:"value"`
	Title string `json:"title"`
}

// Typefaces lists those that a single text may be set in, that of the map first; none where there is no other.
func (e *Styling) Typefaces() []FaceTab {
	const builtIn = "Built-in"
	list := []FaceTab{{"", builtIn}}
	if own := e.M.HouseFonts(); len(own) > 0 {
		list = []FaceTab{{"", own[0].Family}, {model.BuiltInFace, builtIn}}
	}
	for _, t := range e.M.Further() {
		list = append(list, FaceTab{t.Family, t.Family})
	}
	if len(list) == 1 {
		return []FaceTab{}
	}
	return list
}

// Face returns the file of a font of the map; nil when it has none of that id.
func (e *Styling) Face(id string) []byte {
	if f := e.M.Font(id); f != nil {
		return f.Data
	}
	return nil
}

// Font writes the map in a font of the organisation, given as JSON, or has it for single texts. Symbols grow where
// their text needs it.
func (e *Styling) Font(raw []byte, single bool) {
	var f fonts.Font
	if err := json.Unmarshal(raw, &f); err != nil {
		e.Say("Not done: the font could not be read.")
		return
	}
	if err := f.Check(); err != nil {
		e.Say("Not done: %s.", err)
		return
	}
	if e.M.UsesFont(f.ID) && single == slices.Contains(e.M.Also, f.ID) {
		e.Say("The map uses this font already.")
		return
	}
	if single {
		if own := e.M.HouseFonts(); len(own) > 0 && own[0].Family == f.Family {
			e.Say("The map is written in %s already.", f.Family)
			return
		}
		also := e.M.AlsoWith(&f)
		e.typeface("add the typeface "+f.Family, &edit.KeepFont{Font: f}, &edit.SetHead{Also: &also})
		return
	}
	faces := e.M.WithFace(&f)
	also := e.without(func(had *fonts.Font) bool { return had.Family == f.Family })
	e.typeface("set the typeface "+f.Family, &edit.KeepFont{Font: f}, &edit.SetHead{Faces: &faces, Also: &also})
}

// without returns the fonts of further typefaces but for some.
func (e *Styling) without(gone func(*fonts.Font) bool) []string {
	also := []string{}
	for _, id := range e.M.Also {
		if f := e.M.Font(id); f != nil && !gone(f) {
			also = append(also, id)
		}
	}
	return also
}

// DropFont takes a font off again; without an argument all that the map is written in.
func (e *Styling) DropFont(id string) {
	faces := slices.DeleteFunc(slices.Clone(e.M.Faces), func(face string) bool { return id == "" || face == id })
	if faces == nil {
		faces = []string{}
	}
	also := e.without(func(f *fonts.Font) bool { return f.ID == id })
	e.typeface("take the font off", &edit.SetHead{Faces: &faces, Also: &also})
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
