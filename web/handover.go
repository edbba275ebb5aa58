package web

import (
	"archive/zip"
	"bytes"
	"context"
	"encoding/base64"
	"encoding/json"
	"errors"
	"fmt"
	"html/template"
	"net/url"
	"slices"
	"strconv"
	"strings"

	"github.com/gofiber/fiber/v3"

	"plaintracer/core/diagram"
	"plaintracer/exchange"
)

// asked returns the format of a request and what was chosen for it, in its address or in its form.
func asked(c fiber.Ctx) (*exchange.Format, exchange.Settings, error) {
	f := exchange.Named(c.Params("format"))
	if f == nil {
		return nil, nil, fiber.NewError(fiber.StatusNotFound, "")
	}
	settings, err := exchange.Read(f, said(c))
	return f, settings, err
}

// said returns what a request says by a name, in its address or in its form.
func said(c fiber.Ctx) func(name string) (string, bool) {
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

// whole returns the map of a request as it is now.
func whole(c fiber.Ctx) (*diagram.Map, error) {
	d, err := at(c).document()
	if err != nil {
		return nil, err
	}
	m, _ := d.Snapshot()
	return m, nil
}

// made does the work of an export when its turn comes, as long as the client is there.
func (s *Server) made(c fiber.Ctx, do func(ctx context.Context) error) error {
	ctx, stop := whileThere(c)
	defer stop()
	return s.drawings.run(ctx, do)
}

// export gives a file that is made of the map, to keep unless inline is set. What the person should know of it stands in
// the head of the answer.
func (s *Server) export(c fiber.Ctx) error {
	f, settings, err := asked(c)
	if err != nil {
		return err
	}
	m, err := whole(c)
	if err != nil {
		return err
	}
	result := make(chan *exchange.Result, 1) // what is still under way after its time may yet send
	err = s.made(c, func(ctx context.Context) error {
		out, err := exchange.Make(ctx, m, f, settings)
		result <- out
		return err
	})
	if err != nil {
		return err
	}
	out := <-result
	if err := tell(c, out.Words); err != nil {
		return err
	}
	guarded(c, out.MediaType)
	c.Set("Cache-Control", "private, no-store")
	if c.Query("inline") == "" {
		attach(c, out.Name)
	}
	return c.Send(out.Data)
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

// preview shows a page of what an export would make.
func (s *Server) preview(c fiber.Ctx) error {
	f, settings, err := asked(c)
	if err != nil {
		return err
	}
	m, err := whole(c)
	if err != nil {
		return err
	}
	page, _ := said(c)("page")
	number, _ := strconv.Atoi(page)
	result := make(chan *exchange.Sight, 1)
	err = s.made(c, func(ctx context.Context) error {
		out, err := exchange.Show(ctx, m, f, settings, number)
		result <- out
		return err
	})
	if err != nil {
		return err
	}
	out := <-result
	if err := tell(c, out.Words); err != nil {
		return err
	}
	guarded(c, out.MediaType)
	c.Set("X-Pages", strconv.Itoa(out.Pages))
	c.Set("Cache-Control", "private, no-store")
	return c.Send(out.Data)
}

// print is a page that holds the pages of an export, each on paper of its own size, and prints itself.
func (s *Server) print(c fiber.Ctx) error {
	f, settings, err := asked(c)
	if err != nil {
		return err
	}
	m, err := whole(c)
	if err != nil {
		return err
	}
	type sheet struct {
		W, H    float64 // millimetres
		Picture template.URL
	}
	result := make(chan []sheet, 1)
	err = s.made(c, func(ctx context.Context) error {
		var list []sheet
		out, err := exchange.Print(ctx, m, f, settings)
		for _, p := range out {
			list = append(list, sheet{p.W, p.H, template.URL("data:image/svg+xml;base64," + base64.StdEncoding.EncodeToString(p.SVG))})
		}
		result <- list
		return err
	})
	if err != nil {
		return err
	}
	c.Set("Cache-Control", "private, no-store")
	// Styles stand on the page for the sizes of paper; it is shown in a frame of the editor.
	c.Set("Content-Security-Policy", strings.NewReplacer("style-src 'self'", "style-src 'self' 'unsafe-inline'", "frame-ancestors 'none'", "frame-ancestors 'self'").Replace(policy))
	return s.page(c, "print.html", map[string]any{"Title": m.Title, "Pages": <-result})
}

// exportMaps gives several maps as one archive, each in a format as it is made where nothing else is chosen.
func (s *Server) exportMaps(c fiber.Ctx) error {
	const most = 200
	format, _ := said(c)("format")
	f := exchange.Named(format)
	if f == nil {
		return fiber.NewError(fiber.StatusBadRequest, "Choose a format.")
	}
	var ids []string
	for _, raw := range c.Request().PostArgs().PeekMulti("id") {
		ids = append(ids, string(raw))
	}
	if len(ids) == 0 || len(ids) > most {
		return fiber.NewError(fiber.StatusBadRequest, fmt.Sprintf("Choose the maps to export, up to %d.", most))
	}
	settings, err := exchange.Read(f, func(name string) (string, bool) {
		if name == "what" {
			return "map", true
		}
		return "", false
	})
	if err != nil {
		return err
	}
	var maps []*diagram.Map
	for _, id := range ids {
		d, err := s.store.Document(id)
		if err != nil {
			return err
		}
		m, _ := d.Snapshot()
		maps = append(maps, m)
	}
	result := make(chan []byte, 1)
	err = s.made(c, func(ctx context.Context) error {
		out, err := packed(ctx, maps, f, settings)
		result <- out
		return err
	})
	if err != nil {
		return err
	}
	c.Set("Content-Type", "application/zip")
	c.Set("Cache-Control", "private, no-store")
	attach(c, "maps.zip")
	return c.Send(<-result)
}

// packed makes one file of each map and packs them together.
func packed(ctx context.Context, maps []*diagram.Map, f *exchange.Format, settings exchange.Settings) ([]byte, error) {
	var out bytes.Buffer
	z := zip.NewWriter(&out)
	var names []string
	for _, m := range maps {
		file, err := exchange.Make(ctx, m, f, settings)
		var wrong *exchange.Wrong
		if errors.As(err, &wrong) {
			return nil, &exchange.Wrong{Text: fmt.Sprintf("“%s”: %s", m.Title, wrong.Text)}
		}
		if err != nil {
			return nil, err
		}
		name := file.Name
		for n := 2; slices.Contains(names, name); n++ { // two maps of one title
			name = fmt.Sprintf("%d %s", n, file.Name)
		}
		names = append(names, name)
		w, err := z.Create(name)
		if err != nil {
			return nil, err
		}
		if _, err := w.Write(file.Data); err != nil {
			return nil, err
		}
	}
	err := z.Close()
	return out.Bytes(), err
}

// attach names a file to be saved (RFC 6266, RFC 8187).
func attach(c fiber.Ctx, name string) {
	c.Set("Content-Disposition", "attachment; filename*=UTF-8''"+url.PathEscape(exchange.FileName(name)))
}
