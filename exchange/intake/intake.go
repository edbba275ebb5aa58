// Package intake reads what people bring from outside, each through the gate: map files and what carries one, tables of
// steps, registers that were filled in elsewhere, fonts, and the pictures and fonts that come into a map. What is in
// them is used once before it is taken: pictures are drawn, and so is every character of a font. What cannot be is
// refused then, and not by every export.
package intake

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"path"
	"strings"

	"github.com/gabriel-vasile/mimetype"

	"plaintracer/core/compose"
	"plaintracer/core/fonts"
	"plaintracer/core/model"
	"plaintracer/core/pictures"
	"plaintracer/exchange/carrier"
	"plaintracer/exchange/fontfile"
	"plaintracer/exchange/gate"
	"plaintracer/exchange/picturefile"
	"plaintracer/exchange/registerfile"
	"plaintracer/exchange/steptable"
	"plaintracer/exchange/tracerjson"
)

// The names of the readers.
const (
	mapReader      = "map"
	stepsReader    = "steps"
	registerReader = "register"
	fontReader     = "font"
	contentsReader = "contents"
	typeReader     = "type"
)

func init() {
	gate.Register(mapReader, reader(func(_ struct{}, data []byte) (*model.Map, error) {
		data, err := carrier.Inside(data)
		if err != nil {
			return nil, err
		}
		m, err := tracerjson.Read(data)
		if err != nil {
			return nil, err
		}
		return m, sound(contents{m.Pictures, m.Fonts})
	}))
	gate.Register(stepsReader, reader(func(h stepsHead, data []byte) (*model.Map, error) {
		return ReadSteps(h.Name, data, h.Title, h.Direction)
	}))
	gate.Register(registerReader, reader(func(h registerHead, data []byte) (*compose.Sheet, error) {
		return registerfile.Read(h.Name, data, h.Head)
	}))
	gate.Register(fontReader, reader(func(_ struct{}, data []byte) (fonts.Font, error) { return fontfile.Read(data) }))
	gate.Register(typeReader, func(_ string, begin []byte) ([]byte, error) {
		return []byte(mimetype.Detect(begin).String()), nil
	})
	gate.Register(contentsReader, func(_ string, data []byte) ([]byte, error) {
		var all contents
		if err := json.Unmarshal(data, &all); err != nil {
			return nil, err
		}
		return nil, sound(all)
	})
}

type (
	stepsHead struct {
		Name, Title string
		Direction   model.Direction
	}
	registerHead struct {
		Name string
		Head *model.Head
	}
	// contents are the pictures and fonts that a map carries.
	contents struct {
		Pictures []pictures.Picture
		Fonts    []fonts.Font
	}
)

// reader turns a function into a reader whose head and outcome are written as JSON.
func reader[H, T any](read func(head H, data []byte) (T, error)) gate.Reader {
	return func(head string, data []byte) ([]byte, error) {
		var h H
		if err := json.Unmarshal([]byte(head), &h); err != nil {
			return nil, err
		}
		out, err := read(h, data)
		if err != nil {
			return nil, err
		}
		return json.Marshal(out)
	}
}

// through reads data by a reader.
func through[T any](ctx context.Context, name string, head any, data []byte) (out T, err error) {
	h, err := json.Marshal(head)
	if err != nil {
		return out, err
	}
	raw, err := gate.Do(ctx, name, string(h), data)
	if err == nil {
		err = json.Unmarshal(raw, &out)
	}
	return out, err
}

// settled gives the cards of a map that came through the gate their places.
func settled(m *model.Map, err error) (*model.Map, error) {
	if err == nil {
		m.SettleAll()
	}
	return m, err
}

// Map reads a map file, or a file that carries one.
func Map(ctx context.Context, data []byte) (*model.Map, error) {
	return settled(through[*model.Map](ctx, mapReader, struct{}{}, data))
}

// ReadSteps is Steps without the gate, for whoever reads a file of their own.
func ReadSteps(name string, data []byte, title string, direction model.Direction) (*model.Map, error) {
	table, err := registerfile.Read(name, data, &model.Head{})
	if err == nil && len(table.Rows) > 0 && compose.IsPeople(table.Rows[0]) {
		return compose.PeopleMap(*table, title)
	}
	if err == nil && len(table.Rows) > 0 && compose.IsJourney(table.Rows[0]) {
		return compose.JourneyMap(*table, title)
	}
	if ext := strings.ToLower(path.Ext(name)); ext == ".ods" || ext == ".tsv" {
		if err != nil {
			return nil, err
		}
		return steptable.ReadRows(table.Rows, title, direction)
	}
	return steptable.ReadFile(name, data, title, direction)
}

// Steps reads a table of steps, one of people, who become a hierarchy, or one of a journey; the name says what kind of
// file it is. The map is not laid out yet.
func Steps(ctx context.Context, name string, data []byte, title string, direction model.Direction) (*model.Map, error) {
	return settled(through[*model.Map](ctx, stepsReader, stepsHead{name, title, direction}, data))
}

// Register reads a table that was filled in elsewhere, for the register of a map with a head.
func Register(ctx context.Context, name string, data []byte, head *model.Head) (*compose.Sheet, error) {
	return through[*compose.Sheet](ctx, registerReader, registerHead{name, head}, data)
}

// Font reads a font file.
func Font(ctx context.Context, data []byte) (fonts.Font, error) {
	return through[fonts.Font](ctx, fontReader, struct{}{}, data)
}

// TypeOf returns the media type of a file by how its content begins, whatever it is called.
func TypeOf(ctx context.Context, begin []byte) (string, error) {
	out, err := gate.Do(ctx, typeReader, "", begin)
	name, _, _ := strings.Cut(string(out), ";")
	return name, err
}

// Sound reports what is wrong with pictures and fonts.
func Sound(ctx context.Context, p []pictures.Picture, f []fonts.Font) error {
	if len(p)+len(f) == 0 {
		return nil
	}
	raw, err := json.Marshal(contents{p, f})
	if err == nil {
		_, err = gate.Do(ctx, contentsReader, "", raw)
	}
	return err
}

func sound(all contents) error {
	for i := range all.Pictures {
		if err := picturefile.Sound(context.Background(), &all.Pictures[i]); err != nil {
			return fault(len(all.Pictures) > 1, fmt.Sprintf("pictures[%d]: ", i), fmt.Errorf("the picture %w", err))
		}
	}
	for i := range all.Fonts {
		f := &all.Fonts[i]
		if err := fontfile.Sound(f); err != nil {
			return fault(len(all.Fonts) > 1, fmt.Sprintf("fonts[%d]: ", i),
				fmt.Errorf("the font %s cannot be used: %w", f.Family, err))
		}
	}
	return nil
}

// fault says which of several is wrong.
func fault(several bool, place string, err error) error {
	if !several {
		place = ""
	}
	return errors.New(place + err.Error())
}
