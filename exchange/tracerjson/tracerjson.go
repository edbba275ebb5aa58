// Package tracerjson reads and writes the open file form of a map,
// *.tracer.json, which docs/format.md describes.
package tracerjson

import (
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"slices"
	"strconv"
	"strings"

	"plaintracer/core/fonts"
	"plaintracer/core/model"
	"plaintracer/core/pictures"
)

// Format and Version stand at the head of every file.
const (
	Format  = "plain-tracer-map"
	Version = 1
)

// MaxSize is the largest file that is read.
const MaxSize = 64 << 20

type file struct {
	Format  string `json:"format"`
	Version int    `json:"version"`
	*model.Map
}

// Fault is what is wrong with a file, and where.
type Fault struct {
	Line, Column int
	Text         string
}

func (f *Fault) Error() string {
	if f.Line == 0 {
		return f.Text
	}
	return fmt.Sprintf("line %d, column %d: %s", f.Line, f.Column, f.Text)
}

// Write returns the file of a map.
func Write(m *model.Map) ([]byte, error) {
	var out bytes.Buffer
	enc := json.NewEncoder(&out)
	enc.SetEscapeHTML(false)
	enc.SetIndent("", "  ")
	err := enc.Encode(file{Format, Version, shown(m)})
	return out.Bytes(), err
}

// shown returns the map without pictures, fonts and files that nothing shows or leads to any more.
func shown(m *model.Map) *model.Map {
	used := map[string]bool{}
	for _, s := range m.Sheets {
		for id := range s.Pictures() {
			used[id] = true
		}
	}
	out := *m
	out.Pictures = slices.DeleteFunc(slices.Clone(m.Pictures), func(p pictures.Picture) bool { return !used[p.ID] })
	out.Fonts = slices.DeleteFunc(slices.Clone(m.Fonts), func(f fonts.Font) bool {
		return !m.UsesFont(f.ID)
	})
	out.Files = m.Attached()
	return &out
}

// Looks reports whether data begins like a map file.
func Looks(data []byte) bool {
	begin := bytes.TrimLeft(bytes.TrimPrefix(data, []byte("\xef\xbb\xbf")), " \t\r\n")
	return bytes.HasPrefix(begin, []byte("{")) && bytes.Contains(begin[:min(len(begin), 200)], []byte(`"`+Format+`"`))
}

// Read returns the map in a file. Every error is a *Fault.
func Read(data []byte) (*model.Map, error) {
	if len(data) > MaxSize {
		return nil, &Fault{Text: fmt.Sprintf("the file is larger than %d MB", MaxSize>>20)}
	}
	data = bytes.TrimPrefix(data, []byte("\xef\xbb\xbf")) // a byte order mark, which some editors write
	if err := model.Bounded(data); err != nil {
		return nil, &Fault{Text: "this is no map of Plain Tracer: " + err.Error()}
	}
	if !json.Valid(data) {
		return nil, syntax(data)
	}
	var head struct {
		Format  string `json:"format"`
		Version int    `json:"version"`
	}
	if err := json.Unmarshal(data, &head); err != nil || head.Format != Format {
		return nil, &Fault{Line: 1, Column: 1,
			Text: fmt.Sprintf("this is no map of Plain Tracer: it does not begin with \"format\": %q", Format)}
	}
	if head.Version != Version {
		return nil, at(data, "version", fmt.Sprintf("the file has version %d; this program reads version %d",
			head.Version, Version))
	}
	f := file{Map: new(model.Map)}
	dec := json.NewDecoder(bytes.NewReader(data))
	dec.DisallowUnknownFields()
	if err := dec.Decode(&f); err != nil {
		var kind *json.UnmarshalTypeError
		if errors.As(err, &kind) {
			line, column := position(data, int(kind.Offset))
			return nil, &Fault{line, column, fmt.Sprintf("%s cannot be a %s", strings.TrimPrefix(kind.Field, "Map."),
				kind.Value)}
		}
		if name, ok := strings.CutPrefix(err.Error(), "json: unknown field "); ok {
			line, column := position(data, bytes.Index(data, []byte(name)))
			return nil, &Fault{line, column, "this program knows no field " + name}
		}
		return nil, syntax(data)
	}
	fill(f.Map)
	err := f.CheckWeight()
	if err == nil {
		err = f.Validate()
	}
	if err != nil {
		var fault *model.Fault
		if errors.As(err, &fault) {
			return nil, at(data, fault.Path, fault.Path+": "+fault.Text)
		}
		return nil, &Fault{Text: err.Error()}
	}
	f.Map.SettleAll()
	return f.Map, nil
}

// fill gives lists that a file leaves out their empty form.
func fill(m *model.Map) {
	for _, s := range m.Sheets {
		if s == nil {
			continue
		}
		if s.Pools == nil {
			s.Pools = []*model.Pool{}
		}
		if s.Symbols == nil {
			s.Symbols = []*model.Symbol{}
		}
		if s.Connectors == nil {
			s.Connectors = []*model.Connector{}
		}
	}
}

func syntax(data []byte) *Fault {
	var v any
	err := json.Unmarshal(data, &v)
	var s *json.SyntaxError
	if errors.As(err, &s) {
		line, column := position(data, int(s.Offset))
		return &Fault{line, column, "the file is broken here: " + s.Error()}
	}
	return &Fault{Text: "the file is broken"}
}

// position turns an offset into a line and a column, both from 1.
func position(data []byte, offset int) (line, column int) {
	offset = max(0, min(offset, len(data)))
	before := data[:offset]
	return 1 + bytes.Count(before, []byte("\n")), max(1, offset-bytes.LastIndexByte(before, '\n')-1)
}

// at returns a fault at the value that path leads to, or at the nearest value
// around it when that is missing.
func at(data []byte, path, text string) *Fault {
	dec := json.NewDecoder(bytes.NewReader(data))
	best := 0
	// find goes on from a value whose path is matched, whose first token was read.
	var find func(first json.Token, rest []string) error
	next := func() (json.Token, error) { return dec.Token() }
	skip := func(tok json.Token) error { // over the rest of a value
		for depth := 0; ; {
			switch tok {
			case json.Delim('{'), json.Delim('['):
				depth++
			case json.Delim('}'), json.Delim(']'):
				depth--
			}
			if depth == 0 {
				return nil
			}
			var err error
			if tok, err = next(); err != nil {
				return err
			}
		}
	}
	find = func(first json.Token, rest []string) error {
		best = int(dec.InputOffset())
		object := first == json.Delim('{')
		if len(rest) == 0 || !object && first != json.Delim('[') {
			return io.EOF
		}
		for i := 0; dec.More(); i++ {
			name := strconv.Itoa(i)
			if object {
				key, err := next()
				if err != nil {
					return err
				}
				name, _ = key.(string)
			}
			value, err := next()
			if err != nil {
				return err
			}
			if name == rest[0] {
				return find(value, rest[1:])
			}
			if err := skip(value); err != nil {
				return err
			}
		}
		return io.EOF
	}
	steps := strings.FieldsFunc(path, func(r rune) bool { return strings.ContainsRune(".[]", r) })
	if first, err := next(); err == nil {
		_ = find(first, steps) // it ends where the path does or the text is no longer as it was validated
	}
	line, column := position(data, best)
	return &Fault{line, column, text}
}
