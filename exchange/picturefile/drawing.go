package picturefile

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"image"
	"image/png"
	"io"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"runtime"
	"strconv"
	"sync"
	"time"

	"github.com/tdewolff/canvas"
	"github.com/tdewolff/canvas/renderers/rasterizer"

	"plaintracer/exchange/typeface"
)

// The bounds of drawing one picture.
const (
	drawingTime   = 4 * time.Second
	drawingMemory = 400 << 20
)

var (
	errDrawing = errors.New("cannot be drawn: something in it is not as SVG says")
	errTooMuch = errors.New("takes too long or too much memory to draw. Make it simpler")
)

// Command is the name under which the program draws a picture in a process of its own: a width
// and a height in pixels are its arguments, the drawing comes by the standard input, and the
// bitmap goes to the standard output as PNG.
const Command = "draw-picture"

var (
	program string
	// turns are as many as there are processors: so many drawings are drawn at once.
	turns = make(chan struct{}, runtime.GOMAXPROCS(0))
)

// Isolate lets drawings be drawn by a program that has Command. Without it they are drawn in
// this process, where nothing ends them.
func Isolate(path string) { program = path }

// drawing draws an SVG picture.
func drawing(ctx context.Context, file []byte, w, h int) (image.Image, error) {
	if program == "" {
		return draw1(file, w, h)
	}
	select {
	case turns <- struct{}{}:
		defer func() { <-turns }()
	case <-ctx.Done():
		return nil, ctx.Err()
	}
	ctx, cancel := context.WithTimeout(ctx, drawingTime)
	defer cancel()
	cmd := exec.CommandContext(ctx, program, Command, strconv.Itoa(w), strconv.Itoa(h))
	cmd.Stdin = bytes.NewReader(file)
	cmd.Env = []string{"GOMAXPROCS=1", "TMPDIR=" + os.TempDir()}
	var out, words bytes.Buffer
	cmd.Stdout, cmd.Stderr = &out, &limited{Buffer: &words}
	err := cmd.Run()
	switch {
	case err == nil:
		return decodeDrawn(out.Bytes(), w, h)
	case ctx.Err() != nil && !errors.Is(ctx.Err(), context.DeadlineExceeded):
		return nil, ctx.Err()
	case bytes.HasPrefix(words.Bytes(), []byte(refused)):
		return nil, errDrawing
	}
	return nil, errTooMuch
}

// limited keeps only the beginning of what is written.
type limited struct{ *bytes.Buffer }

func (l *limited) Write(p []byte) (int, error) {
	if room := 4096 - l.Len(); room > 0 {
		l.Buffer.Write(p[:min(room, len(p))])
	}
	return len(p), nil
}

// refused begins what the process says of a drawing that is at fault itself.
const refused = "refused"

// Main is the process of its own.
func Main(args []string, in io.Reader, out io.Writer) error {
	if err := confine(drawingMemory, drawingTime); err != nil {
		return err
	}
	if len(args) != 2 {
		return fmt.Errorf("%s takes a width and a height", Command)
	}
	w, err := strconv.Atoi(args[0])
	if err != nil {
		return err
	}
	h, err := strconv.Atoi(args[1])
	if err != nil {
		return err
	}
	file, err := io.ReadAll(in)
	if err != nil {
		return err
	}
	img, err := draw1(file, w, h)
	if err != nil {
		fmt.Fprintln(os.Stderr, refused)
		os.Exit(1)
	}
	return (&png.Encoder{CompressionLevel: png.BestSpeed}).Encode(out, img)
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
