package desk

import (
	"cmp"
	"context"
	"encoding/base64"
	"html/template"
	"slices"
	"strconv"
	"strings"
	"time"

	"github.com/gofiber/fiber/v3"

	"plaintracer/account"
	"plaintracer/core/model"
	"plaintracer/exchange"
	"plaintracer/web/site"
)

// asked returns the map of a request as it is now, the format it asks for, and what was chosen for that, in its address
// or in its form.
func (s *Desk) asked(c fiber.Ctx) (m *model.Map, f *exchange.Format, settings exchange.Settings, err error) {
	if f = exchange.Named(c.Params("format")); f == nil {
		return nil, nil, nil, fiber.NewError(fiber.StatusNotFound, "")
	}
	if settings, err = exchange.Read(f, site.Said(c)); err != nil {
		return nil, nil, nil, err
	}
	v := site.At(c)
	if f.Group == "Map" && v.Link != "" && v.Right < account.Edit {
		return nil, nil, nil, fiber.NewError(fiber.StatusForbidden,
			"Readers can save pictures and documents, not the map itself.")
	}
	if v.Link != "" && v.Right < account.Edit {
		settings["inside"] = "no" // nor inside of one
	}
	d, err := v.Shown()
	if err != nil {
		return nil, nil, nil, err
	}
	if settings[exchange.Standing], err = s.reviews.Standing(v); err != nil {
		return nil, nil, nil, err
	}
	if v.Who != nil {
		settings[exchange.Author] = v.Who.Name
	}
	m, revision := d.Snapshot()
	if f.Group != "Procedure" { // the others say nothing of it
		return m, f, settings, nil
	}
	told, err := s.reviews.Told(v, m, revision)
	if err != nil {
		return nil, nil, nil, err
	}
	settings[exchange.Review], settings[exchange.Owner] = told.Review, told.Owner
	settings[exchange.Changed] = strings.Join(told.Changed, "\n")
	return m, f, settings, nil
}

// Export gives a file that is made of the map, to keep unless inline is set.
func (s *Desk) Export(c fiber.Ctx) error {
	m, f, settings, err := s.asked(c)
	if err != nil {
		return err
	}
	out, err := site.Made(s.Site, c, func(ctx context.Context) (*exchange.Result, error) {
		return exchange.Make(ctx, m, f, settings, s.FilesOf(site.At(c).Map))
	})
	if err != nil {
		return err
	}
	if c.Query("inline") == "" {
		site.Attach(c, out.Name)
	}
	if out.Pour != nil {
		return site.PourFile(c, out.MediaType, out.Pour)
	}
	return site.SendFile(c, out.MediaType, out.Data, out.Words)
}

// Preview shows a page of what an export would make.
func (s *Desk) Preview(c fiber.Ctx) error {
	m, f, settings, err := s.asked(c)
	if err != nil {
		return err
	}
	page, _ := site.Said(c)("page")
	number, _ := strconv.Atoi(page)
	out, err := site.Made(s.Site, c, func(ctx context.Context) (*exchange.Preview, error) {
		return exchange.Show(ctx, m, f, settings, number)
	})
	if err != nil {
		return err
	}
	c.Set("X-Pages", strconv.Itoa(out.Pages))
	return site.SendFile(c, out.MediaType, out.Data, out.Words)
}

// Print is a page that holds the pages of an export, each on paper of its own size, and prints itself.
func (s *Desk) Print(c fiber.Ctx) error {
	m, f, settings, err := s.asked(c)
	if err != nil {
		return err
	}
	pages, err := site.Made(s.Site, c, func(ctx context.Context) ([]exchange.Printed, error) {
		return exchange.Print(ctx, m, f, settings)
	})
	if err != nil {
		return err
	}
	var list []printSheet
	for _, p := range pages {
		list = append(list,
			printSheet{p.W, p.H, template.URL("data:image/svg+xml;base64," + base64.StdEncoding.EncodeToString(p.SVG))})
	}
	c.Set("Cache-Control", "private, no-store")
	// Styles stand on the page for the sizes of paper; it is shown in a frame of the editor.
	c.Set("Content-Security-Policy",
		strings.NewReplacer("style-src 'self'", "style-src 'self' 'unsafe-inline'", "frame-ancestors 'none'",
			"frame-ancestors 'self'").Replace(site.Policy))
	return s.Page(c, "print.html", &printPage{Frame: site.Frame{Title: m.Title}, Pages: list})
}

// Embedded is the current picture of the map, for pages elsewhere: of the first sheet, or of the one that the address
// names by its number, or of all. It may name a width in pixels and a look as well.
func (s *Desk) Embedded(c fiber.Ctx) error {
	format := c.Params("format")
	if !site.At(c).Chosen.Embed || !slices.Contains([]string{"svg", "png", "jpeg"}, format) {
		return fiber.NewError(fiber.StatusForbidden, "This link is not made to be shown on other pages.")
	}
	c.Set("Cross-Origin-Resource-Policy", "cross-origin")
	asked := c.Request().URI().QueryArgs()
	asked.Set("inside", "no")
	asked.Set("inline", "1")
	if width := c.Query("width"); width != "" {
		asked.Del("width")
		asked.Set("size", "pixels")
		asked.Set("pixels", width)
	}
	if c.Query("sheet") != "all" {
		return s.Export(c)
	}
	asked.Del("sheet")
	m, f, settings, err := s.asked(c)
	if err != nil {
		return err
	}
	data, err := site.Made(s.Site, c, func(ctx context.Context) ([]byte, error) {
		return exchange.Together(ctx, m, f, settings)
	})
	if err != nil {
		return err
	}
	return site.SendFile(c, f.MediaType, data, nil)
}

// Frame is a small page with the current picture, for the sites that the link names, and says as of when it is.
func (s *Desk) Frame(c fiber.Ctx) error {
	v := site.At(c)
	if !v.Chosen.Embed {
		return fiber.NewError(fiber.StatusForbidden, "This link is not made to be shown on other pages.")
	}
	d, err := v.Shown()
	if err != nil {
		return err
	}
	m, revision := d.Snapshot()
	when := site.AsOf(d)
	if when.IsZero() {
		when = time.Now()
	}
	c.Set("Content-Security-Policy", strings.Replace(site.Policy, "frame-ancestors 'none'",
		"frame-ancestors "+cmp.Or(v.Chosen.Sites, "'none'"), 1))
	picture := v.Base + "/picture.svg"
	if asked := string(c.Request().URI().QueryString()); asked != "" {
		picture += "?" + asked
	}
	return s.Page(c, "frame.html", &framePage{Frame: site.Frame{Title: m.Title}, Base: template.URL(v.Base),
		Picture: template.URL(picture), Revision: revision, Now: when})
}

// framePage is what frame.html shows.
type framePage struct {
	site.Frame
	Base, Picture template.URL
	Revision      int
	Now           time.Time
}

// printPage is what print.html shows.
type printPage struct {
	site.Frame
	Pages []printSheet
}

// printSheet is a page on paper of its own size.
type printSheet struct {
	W, H    float64 // millimetres
	Picture template.URL
}
