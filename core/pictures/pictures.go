// Package pictures checks the pictures a map carries: it reads their size,
// cleans drawings of everything that could run or reach outside, and names
// them by their content.
package pictures

import (
	"bytes"
	"encoding/base64"
	"encoding/hex"
	"errors"
	"fmt"
	"hash/fnv"
)

// maxData is the largest picture, in bytes after cleaning; MaxSide the largest
// width or height, in its own pixels.
const (
	maxData = 2 << 20
	MaxSide = 10000
)

// Picture is one picture of a map.
type Picture struct {
	// ID is made from the content, so that equal pictures are kept once.
	ID string `json:"id"`
	// Type is image/png, image/jpeg or image/svg+xml.
	Type string `json:"type"`
	// W and H are the size in the picture's own pixels.
	W    int    `json:"w"`
	H    int    `json:"h"`
	Data []byte `json:"data"`
}

// URL returns the picture as an address that carries its content.
func (p *Picture) URL() string {
	data := p.Data
	// A drawing that gives no view box is stretched by some viewers to the box it is to fit.
	if end := bytes.IndexByte(data, '>'); p.Type == "image/svg+xml" && end > 4 &&
		!bytes.Contains(data[:end], []byte(" viewBox=")) {
		data = fmt.Appendf(nil, "<svg viewBox=\"0 0 %d %d\"%s", p.W, p.H, data[len("<svg"):])
	}
	return "data:" + p.Type + ";base64," + base64.StdEncoding.EncodeToString(data)
}

// Read makes a picture of a PNG, JPEG or SVG file. A drawing is cleaned of
// scripts and of everything that points outside it.
func Read(file []byte) (Picture, error) {
	if len(file) > 4*maxData {
		return Picture{}, fmt.Errorf("the picture is larger than %d MB", maxData>>20)
	}
	var p Picture
	format, w, h, ok := sizeOf(file)
	switch {
	case ok:
		p = Picture{Type: "image/" + format, W: w, H: h, Data: file}
	case bytes.Contains(file[:min(len(file), 4096)], []byte("<svg")):
		var err error
		if p, err = clean(file); err != nil {
			return Picture{}, fmt.Errorf("the drawing cannot be used: %w", err)
		}
	default:
		return Picture{}, errors.New("the file is no PNG, JPEG or SVG picture")
	}
	if len(p.Data) > maxData {
		return Picture{}, fmt.Errorf("the picture is larger than %d MB", maxData>>20)
	}
	if p.W < 1 || p.H < 1 || p.W > MaxSide || p.H > MaxSide {
		return Picture{}, fmt.Errorf("the picture is %d by %d pixels; each side may have 1 to %d", p.W, p.H, MaxSide)
	}
	sum := fnv.New128a()
	sum.Write(p.Data)
	p.ID = "p" + hex.EncodeToString(sum.Sum(nil))
	return p, nil
}

// Check reports what is wrong with a picture that came from elsewhere: its
// content has to be what Read would make of it.
func (p *Picture) Check() error {
	q, err := Read(p.Data)
	if err != nil {
		return err
	}
	if q.ID != p.ID || q.Type != p.Type || q.W != p.W || q.H != p.H {
		return errors.New("the picture is not what its id, type and size say")
	}
	return nil
}
