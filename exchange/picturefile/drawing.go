package picturefile

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"image"
	"image/png"
	"os"
	"path/filepath"
	"regexp"
	"sync"

	"github.com/tdewolff/canvas"
	"github.com/tdewolff/canvas/renderers/rasterizer"

	"plaintracer/exchange/gate"
	"plaintracer/exchange/typeface"
)

var errDrawing = errors.New("cannot be drawn: something in it is not as SVG says")

// drawingReader is the name under which the gate draws a picture; its head is a width and a height in pixels.
const drawingReader = "drawing"

func init() {
	gate.Register(drawingReader, func(head string, data []byte) ([]byte, error) {
		var w, h int
		if _, err := fmt.Sscan(head, &w, &h); err != nil {
			return nil, err
		}
		img, err := draw1(data, w, h)
		if err != nil {
			return nil, err
		}
		var out bytes.Buffer
		err = (&png.Encoder{CompressionLevel: png.BestSpeed}).Encode(&out, img)
		return out.Bytes(), err
	})
}

// drawing draws an SVG picture.
func drawing(ctx context.Context, file []byte, w, h int) (image.Image, error) {
	out, err := gate.Do(ctx, drawingReader, fmt.Sprint(w, h), file)
	var refusal *gate.Refusal
	switch {
	case errors.As(err, &refusal):
		return nil, errDrawing
	case errors.Is(err, gate.ErrTooMuch):
		return nil, errors.New("takes too long or too much memory to draw. Make it simpler")
	case err != nil:
		return nil, err
	}
	return decodeDrawn(out, w, h)
}

var family = regexp.MustCompile(` font-family="[^"]*"`)

// draw1 draws a cleaned drawing in this process. Its texts are set in the shipped typeface, so
// that it looks alike on every machine.
func draw1(file []byte, w, h int) (img image.Image, err error) {
	defer func() {
		if recover() != nil { // the library does so at what it does not expect
			img, err = nil, errDrawing
		}
	}()
	forget, err := shippedFont()
	if err != nil {
		return nil, err
	}
	defer forget()
	file = family.ReplaceAll(file, nil)
	file = bytes.Replace(file, []byte("<svg"), []byte(`<svg font-family="`+fontName+`"`), 1)
	c, err := canvas.ParseSVG(bytes.NewReader(file))
	if err != nil || !(c.W > 0 && c.H > 0) {
		return nil, errDrawing
	}
	out := canvas.New(float64(w), float64(h))
	c.RenderViewTo(out, canvas.Identity.Scale(float64(w)/c.W, float64(h)/c.H))
	return rasterizer.Draw(out, canvas.DPMM(1), canvas.DefaultColorSpace), nil
}

const fontName = "IBM Plex Sans"

// oneFont is held while a drawing is read, for which the library looks for fonts in the
// places that are set for all.
var oneFont sync.Mutex

// shippedFont lets the library find the shipped typeface, and no other, until it is to forget
// it.
func shippedFont() (forget func(), err error) {
	oneFont.Lock()
	dir, err := os.MkdirTemp("", "face")
	if err != nil {
		oneFont.Unlock()
		return nil, err
	}
	forget = func() {
		os.RemoveAll(dir)
		oneFont.Unlock()
	}
	face, err := typeface.Shipped(typeface.Cut{})
	if err == nil {
		err = os.WriteFile(filepath.Join(dir, "face.ttf"), face.Data(), 0o600)
	}
	if err == nil {
		err = canvas.CacheSystemFonts(filepath.Join(dir, "list"), []string{dir})
	}
	if err != nil {
		forget()
		return nil, err
	}
	return forget, nil
}
