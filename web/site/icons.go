package site

import (
	"fmt"
	"html/template"
	"io/fs"
	"regexp"
)

// symbol is an icon in the sprite that "make icons" gathers: its name and what it draws.
var symbol = regexp.MustCompile(`<symbol id="([^"]+)" [^>]*>(.*)</symbol>`)

// icons returns a function that writes an icon out in a page. A page that refers to a file of them instead has the
// browser ask for that file once for each, which for the two hundred of the editor takes it longer than to read them.
func icons(files fs.FS) (func(name string) (template.HTML, error), error) {
	sprite, err := fs.ReadFile(files, "views/icons.svg")
	if err != nil {
		return nil, err
	}
	drawn := map[string]template.HTML{}
	for _, m := range symbol.FindAllSubmatch(sprite, -1) {
		drawn[string(m[1])] = template.HTML(`<svg class="icon" viewBox="0 0 24 24" aria-hidden="true">` + string(m[2]) +
			`</svg>`)
	}
	return func(name string) (template.HTML, error) {
		out, ok := drawn[name]
		if !ok {
			return "", fmt.Errorf("there is no icon %q", name)
		}
		return out, nil
	}, nil
}
