package site

import (
	"bufio"
	"bytes"
	"compress/gzip"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"log/slog"
	"net/url"
	"slices"
	"strings"

	"github.com/gofiber/fiber/v3"

	"plaintracer/core/model"
	"plaintracer/exchange"
	"plaintracer/exchange/bundle"
	"plaintracer/store"
)

// Said returns what a request says by a name, in its address or in its form.
func Said(c fiber.Ctx) func(name string) (string, bool) {
	query, form := c.Request().URI().QueryArgs(), c.Request().PostArgs()
	return func(name string) (string, bool) {
		switch {
		case form.Has(name):
			return string(form.Peek(name)), true
		case query.Has(name):
			return string(query.Peek(name)), true
		}
		return "", false
	}
}

// Made does something that takes much of a processor when its turn comes, as long as the client is there.
func Made[T any](s *Site, c fiber.Ctx, do func(ctx context.Context) (T, error)) (out T, err error) {
	ctx, stop := WhileThere(c)
	defer stop()
	result := make(chan T, 1) // what is still under way after its time may yet send
	err = s.Drawings.Run(ctx, func(ctx context.Context) error {
		out, err := do(ctx)
		result <- out
		return err
	})
	if err == nil {
		out = <-result
	}
	return out, err
}

// SendFile answers with a file of ours, and tells in the head of the answer what the person should know of it.
func SendFile(c fiber.Ctx, mediaType string, data []byte, words []string) error {
	if err := tell(c, words); err != nil {
		return err
	}
	guarded(c, mediaType)
	c.Set("Cache-Control", "private, no-store")
	return c.Send(data)
}

// PourFile answers with a file of ours that is written while it is sent.
func PourFile(c fiber.Ctx, mediaType string, pour func(w io.Writer) error) error {
	guarded(c, mediaType)
	c.Set("Cache-Control", "private, no-store")
	return c.SendStreamWriter(func(w *bufio.Writer) {
		if err := pour(w); err != nil { // what has been sent is no whole archive, and cannot be taken for one
			slog.Error("a file was cut short", "error", err)
		}
	})
}

// FilesOf opens the files that a map holds.
func (s *Site) FilesOf(id string) exchange.Files {
	return func(file string) (io.Reader, error) {
		content, err := s.House.Files.Open(id, file)
		if errors.Is(err, store.ErrNotFound) {
			return nil, bundle.ErrMissing
		}
		return content, err
	}
}

// guarded sets the type of an answer that is a file of ours, and what such a file may do in a browser: nothing.
func guarded(c fiber.Ctx, mediaType string) {
	c.Set("Content-Type", mediaType)
	switch mediaType {
	case "image/svg+xml":
		c.Set("Content-Security-Policy", picturePolicy)
	case "text/html":
		c.Set("Content-Type", "text/html; charset=utf-8")
		c.Set("Content-Security-Policy", picturePolicy+"; sandbox")
	case "text/plain", "text/csv", "text/markdown":
		c.Set("Content-Type", mediaType+"; charset=utf-8")
	}
}

// Attach names a file to be saved (RFC 6266, RFC 8187).
func Attach(c fiber.Ctx, name string) {
	c.Set("Content-Disposition", "attachment; filename*=UTF-8''"+url.PathEscape(exchange.FileName(name)))
}

// FileOf is the file that comes with a form.
func FileOf(c fiber.Ctx) (name string, data []byte, err error) {
	h, err := c.FormFile("file")
	if err != nil {
		return "", nil, fiber.NewError(fiber.StatusBadRequest, "Choose a file first.")
	}
	f, err := h.Open()
	if err != nil {
		return "", nil, err
	}
	defer f.Close()
	data, err = io.ReadAll(f)
	return h.Filename, data, err
}

// SendPicture answers with an SVG picture that was compressed, and that its address stands for.
func SendPicture(c fiber.Ctx, packed []byte) error {
	c.Set("Content-Security-Policy", picturePolicy)
	c.Set("Cache-Control", "private, max-age=31536000") // the address carries the revision
	c.Set("Content-Type", "image/svg+xml")
	if strings.Contains(c.Get("Accept-Encoding"), "gzip") {
		c.Set("Content-Encoding", "gzip")
		c.Set("Vary", "Accept-Encoding")
		return c.Send(packed)
	}
	r, err := gzip.NewReader(bytes.NewReader(packed))
	if err != nil {
		return err
	}
	out, err := io.ReadAll(r)
	if err != nil {
		return err
	}
	return c.Send(out)
}

// Packed makes one file of each map and packs them together.
func Packed(ctx context.Context, maps []*model.Map, f *exchange.Format, settings exchange.Settings,
	files func(i int) exchange.Files) ([]byte, error) {
	var list []exchange.File
	room := model.MaxFiles
	for i, m := range maps {
		if f.Name == "map-files" {
			for _, one := range m.Attached() {
				room -= one.Size
			}
			if room < 0 {
				return nil, &exchange.ChoiceError{Text: fmt.Sprintf(
					"The files of these maps take more than %d MB together. Save fewer maps at once.",
					model.MaxFiles>>20)}
			}
		}
		file, err := exchange.Make(ctx, m, f, settings, files(i))
		if err == nil {
			file.Data, err = file.Whole()
		}
		var wrong *exchange.ChoiceError
		if errors.As(err, &wrong) {
			return nil, &exchange.ChoiceError{Text: fmt.Sprintf("“%s”: %s", m.Title, wrong.Text)}
		}
		if err != nil {
			return nil, err
		}
		name := file.Name
		// two maps of one title
		for n := 2; slices.ContainsFunc(list, func(o exchange.File) bool { return o.Name == name }); n++ {
			name = fmt.Sprintf("%d %s", n, file.Name)
		}
		list = append(list, exchange.File{Name: name, Data: file.Data})
	}
	return exchange.Pack(list)
}

// tell writes words for the person into the head of an answer, as JSON in the signs an address may have.
func tell(c fiber.Ctx, words []string) error {
	if len(words) == 0 {
		return nil
	}
	raw, err := json.Marshal(words)
	if err != nil {
		return err
	}
	c.Set("X-Words", url.PathEscape(string(raw)))
	return nil
}
