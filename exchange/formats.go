// Package exchange lists the formats in which maps go out: what each is called, and how it is
// written. The application, its pages and the command line all read the list, so that a new format
// is one entry.
package exchange

import (
	"context"
	"errors"
	"fmt"
	"strings"

	"plaintracer/core/diagram"
	"plaintracer/core/scene"
	"plaintracer/exchange/png"
	"plaintracer/exchange/svg"
	"plaintracer/exchange/tracerjson"
)

// Options say how a file is made.
type Options struct {
	// Scale enlarges pictures that have one; 1 shows a CSS pixel as one.
	Scale float64
}

// Format is one kind of file.
type Format struct {
	// Name stands in addresses, Title and Icon on buttons.
	Name, Title, Icon string
	// Ending is that of its files, with the dot.
	Ending, MediaType string
	// Scaled says that it heeds Options.Scale.
	Scaled bool
	// Sheet writes one drawn sheet, Map the whole map; each format has one of them.
	Sheet func(ctx context.Context, d *scene.Drawing, o Options) ([]byte, error)
	Map   func(m *diagram.Map) ([]byte, error)
}

// Formats are all formats, in the order in which they are offered.
var Formats = []Format{
	{Name: "svg", Title: "SVG picture", Icon: "image", Ending: ".svg", MediaType: "image/svg+xml", Scaled: true,
		Sheet: func(_ context.Context, d *scene.Drawing, o Options) ([]byte, error) {
			return svg.Write(d, svg.Options{Scale: o.Scale})
		}},
	{Name: "png", Title: "PNG picture", Icon: "image", Ending: ".png", MediaType: "image/png", Scaled: true,
		Sheet: func(ctx context.Context, d *scene.Drawing, o Options) ([]byte, error) {
			out, err := png.Write(ctx, d, o.Scale)
			var large *png.TooLarge
			if errors.As(err, &large) {
				return nil, &Wrong{large.Error()}
			}
			return out, err
		}},
	{Name: "map", Title: "Map file (.tracer.json)", Icon: "file-output", Ending: ".tracer.json", MediaType: "application/json", Map: tracerjson.Write},
}

// Wrong is a wish that cannot be met, in words for the person who asked.
type Wrong struct{ Text string }

func (w *Wrong) Error() string { return w.Text }

// Named returns the format of a name, or nil.
func Named(name string) *Format {
	for i := range Formats {
		if Formats[i].Name == name {
			return &Formats[i]
		}
	}
	return nil
}

// Ending returns the format of a file by the ending of its name; an error names those there are.
func Ending(file string) (*Format, error) {
	var known []string
	for i := range Formats {
		if strings.HasSuffix(strings.ToLower(file), Formats[i].Ending) {
			return &Formats[i], nil
		}
		known = append(known, Formats[i].Ending)
	}
	return nil, fmt.Errorf("files are written as %s, and %s is none of them", strings.Join(known, ", "), file)
}
