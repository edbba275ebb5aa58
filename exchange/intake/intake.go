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
	"strings"

	"github.com/gabriel-vasile/mimetype"

	"plaintracer/core/compose"
	"plaintracer/core/fonts"
	"plaintracer/core/model"
	"plaintracer/core/pictures"
	"plaintracer/exchange/carrier"
	"plaintracer/exchange/edited"
	"plaintracer/exchange/fontfile"
	"plaintracer/exchange/gate"
	"plaintracer/exchange/picturefile"
	"plaintracer/exchange/registerfile"
	"plaintracer/exchange/tracerjson"
)

// The names of the readers.
const (
	mapReader      = "map"
	tableReader    = "table"
	registerReader = "register"
	fontReader     = "font"
	contentsReader = "contents"
	typeReader     = "type"
)

func init() {
	gate.Register(mapReader, reader(func(_ struct{}, file []byte) (*Opened, error) {
		data, err := carrier.Inside(file)
		if err != nil {
			return nil, err
		}
		m, err := tracerjson.Read(data)
		if err != nil {
			return nil, err
		}
		return &Opened{m, edited.Texts(file, m)}, sound(contents{m.Pictures, m.Fonts})
	}))
	gate.Register(tableReader, reader(func(h tableHead, data []byte) (*Listed, error) {
		return ReadTable(h.Name, data, h.Asked)
	}))
	gate.Register(registerReader, reader(func(h registerHead, data []byte) (*compose.Sheet, error) {
		return registerfile.ReadAs(h.Name, data, h.Head, registerfile.As{Encoding: h.Encoding})
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
	tableHead struct {
		Name  string
		Asked Asked
	}
	registerHead struct {
		Name, Encoding string
		Head           *model.Head
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

// Opened is a map that was read, and the texts that a picture with it inside shows otherwise: they were changed by
// another program.
type Opened struct {
	Map    *model.Map
	Edited []edited.Text
}

// Map reads a map file, or a file that carries one.
func Map(ctx context.Context, data []byte) (*Opened, error) {
	out, err := through[*Opened](ctx, mapReader, struct{}{}, data)
	if err == nil {
		out.Map.SettleAll()
	}
	return out, err
}

// Register reads a table that was filled in elsewhere, for the register of a map with a head. One of text is in an
// encoding; empty for the one that is recognised.
func Register(ctx context.Context, name, encoding string, data []byte, head *model.Head) (*compose.Sheet, error) {
	return through[*compose.Sheet](ctx, registerReader, registerHead{name, encoding, head}, data)
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
