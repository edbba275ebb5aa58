package web

import (
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

	"plaintracer/account"
	"plaintracer/core/model"
	"plaintracer/exchange"
)

// asked returns the map of a request as it is now, the format it asks for, and what was chosen for that, in its address
// or in its form.
func asked(c fiber.Ctx) (m *model.Map, f *exchange.Format, settings exchange.Settings, err error) {
	if f = exchange.Named(c.Params("format")); f == nil {
		return nil, nil, nil, fiber.NewError(fiber.StatusNotFound, "")
	}
	if settings, err = exchange.Read(f, said(c)); err != nil {
		return nil, nil, nil, err
	}
	v := at(c)
	if f.Name == "map" && v.link != "" && v.right < account.Edit {
		return nil, nil, nil, fiber.NewError(fiber.StatusForbidden, "Readers can save pictures and documents, not the map itself.")
	}
	if v.link != "" && v.right < account.Edit {
		settings["inside"] = "no" // nor inside of one
	}
	d, err := v.shown()
	if err != nil {
		return nil, nil, nil, err
	}
	m, _ = d.Snapshot()
	return m, f, settings, nil
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

// made does something that takes much of a processor when its turn comes, as long as the client is there.
func made[T any](s *Server, c fiber.Ctx, do func(ctx context.Context) (T, error)) (out T, err error) {
	ctx, stop := whileThere(c)
	defer stop()
	result := make(chan T, 1) // what is still under way after its time may yet send
	err = s.drawings.run(ctx, func(ctx context.Context) error {
		out, err := do(ctx)
		result <- out
		return err
	})
	if err == nil {
		out = <-result
	}
	return out, err
}

// sendFile answers with a file of ours, and tells in the head of the answer what the person should know of it.
func sendFile(c fiber.Ctx, mediaType string, data []byte, words []string) error {
	if err := tell(c, words); err != nil {
		return err
	}
	guarded(c, mediaType)
	c.Set("Cache-Control", "private, no-store")
	return c.Send(data)
}

// export gives a file that is made of the map, to keep unless inline is set.
func (s *Server) export(c fiber.Ctx) error {
	m, f, settings, err := asked(c)
	if err != nil {
		return err
	}
	out, err := made(s, c, func(ctx context.Context) (*exchange.Result, error) { return exchange.Make(ctx, m, f, settings) })
	if err != nil {
		return err
	}
	if c.Query("inline") == "" {
		attach(c, out.Name)
	}
	return sendFile(c, out.MediaType, out.Data, out.Words)
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
	m, f, settings, err := asked(c)
	if err != nil {
		return err
	}
	page, _ := said(c)("page")
	number, _ := strconv.Atoi(page)
	out, err := made(s, c, func(ctx context.Context) (*exchange.Sight, error) { return exchange.Show(ctx, m, f, settings, number) })
	if err != nil {
		return err
	}
	c.Set("X-Pages", strconv.Itoa(out.Pages))
	return sendFile(c, out.MediaType, out.Data, out.Words)
}

// print is a page that holds the pages of an export, each on paper of its own size, and prints itself.
func (s *Server) print(c fiber.Ctx) error {
	m, f, settings, err := asked(c)
	if err != nil {
		return err
	}
	type sheet struct {
		W, H    float64 // millimetres
		Picture template.URL
	}
	pages, err := made(s, c, func(ctx context.Context) ([]exchange.Printed, error) { return exchange.Print(ctx, m, f, settings) })
	if err != nil {
		return err
	}
	var list []sheet
	for _, p := range pages {
		list = append(list, sheet{p.W, p.H, template.URL("data:image/svg+xml;base64," + base64.StdEncoding.EncodeToString(p.SVG))})
	}
	c.Set("Cache-Control", "private, no-store")
	// Styles stand on the page for the sizes of paper; it is shown in a frame of the editor.
	c.Set("Content-Security-Policy", strings.NewReplacer("style-src 'self'", "style-src 'self' 'unsafe-inline'", "frame-ancestors 'none'", "frame-ancestors 'self'").Replace(policy))
	return s.page(c, "print.html", map[string]any{"Title": m.Title, "Pages": list})
}

// exportMaps gives several maps as one archive, each in a format as it is made where nothing else is chosen.
func (s *Server) exportMaps(c fiber.Ctx) error {
	format, _ := said(c)("format")
	f := exchange.Named(format)
	if f == nil {
		return fiber.NewError(fiber.StatusBadRequest, "Choose a format.")
	}
	ids, err := s.marked(c, account.Read)
	if err != nil {
		return err
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
	var maps []*model.Map
	for _, id := range ids {
		d, err := s.mine(c, id, account.Read)
		if err != nil {
			return err
		}
		m, _ := d.Snapshot()
		maps = append(maps, m)
	}
	out, err := made(s, c, func(ctx context.Context) ([]byte, error) { return packed(ctx, maps, f, settings) })
	if err != nil {
		return err
	}
	attach(c, "maps.zip")
	return sendFile(c, "application/zip", out, nil)
}

// packed makes one file of each map and packs them together.
func packed(ctx context.Context, maps []*model.Map, f *exchange.Format, settings exchange.Settings) ([]byte, error) {
	var list []exchange.File
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
		for n := 2; slices.ContainsFunc(list, func(o exchange.File) bool { return o.Name == name }); n++ { // two maps of one title
			name = fmt.Sprintf("%d %s", n, file.Name)
		}
		list = append(list, exchange.File{Name: name, Data: file.Data})
	}
	return exchange.Pack(list)
}

// attach names a file to be saved (RFC 6266, RFC 8187).
func attach(c fiber.Ctx, name string) {
	c.Set("Content-Disposition", "attachment; filename*=UTF-8''"+url.PathEscape(exchange.FileName(name)))
}
