package desk

import (
	"errors"
	"html/template"
	"strings"

	"github.com/gofiber/fiber/v3"

	"plaintracer/app/phrase"
	"plaintracer/core/flow"
	"plaintracer/core/links"
	"plaintracer/core/model"
	"plaintracer/core/numbering"
	"plaintracer/exchange/intake"
	"plaintracer/store"
	"plaintracer/web/site"
)

// Files kept with a map. What is sent is kept first; the edit that leads to it is made by the window that sent it.

// BeginFile begins to take a file.
func (s *Desk) BeginFile(c fiber.Ctx) error { return s.BeginUpload(c, site.At(c).Map, model.MaxFile) }

// AddFile takes a part of a file, and answers how much has come; with the last part, what an edit says of the file.
func (s *Desk) AddFile(c fiber.Ctx) error {
	v := site.At(c)
	come, err := s.AddUpload(c, v.Map)
	if err != nil {
		return err
	}
	whole, err := s.House.Files.Whole(v.Map, c.Params("upload"))
	if err != nil {
		return err
	}
	if !whole {
		return c.JSON(map[string]int{"come": come})
	}
	ctx, stop := site.WhileThere(c)
	defer stop()
	f, err := s.House.Files.Complete(v.Map, c.Params("upload"),
		func(begin []byte) (string, error) { return intake.TypeOf(ctx, begin) })
	if err != nil {
		return site.OrUnread(err)
	}
	if v.Who != nil {
		f.By = v.Who.Name
	}
	return c.JSON(f)
}

// looked are the types that a browser may show in a window of its own, where nothing in them can do anything.
var looked = map[string]string{
	"image/png": filePolicy + "; sandbox", "image/jpeg": filePolicy + "; sandbox",
	"image/gif":  filePolicy + "; sandbox",
	"image/webp": filePolicy + "; sandbox",
	// Browsers show no document within a sandbox; they draw it in one of their own.
	"application/pdf": filePolicy + "; object-src 'self'",
}

// filePolicy lets a file do nothing.
const filePolicy = "default-src 'none'; img-src 'self' data:; style-src 'unsafe-inline'; base-uri 'none'; form-action 'none'; frame-ancestors 'none'"

// ReadFile gives a file kept with the map: to be saved, or to be looked at where it is a picture or PDF and that is
// asked for.
func (s *Desk) ReadFile(c fiber.Ctx) error {
	d, err := site.At(c).Shown()
	if err != nil {
		return err
	}
	var f *model.File
	d.View(func(m *model.Map, _ int) {
		if one := m.File(c.Params("file")); one != nil {
			copied := *one
			f = &copied
		}
	})
	if f == nil {
		return fiber.ErrNotFound
	}
	content, err := s.House.Files.Open(site.At(c).Map, f.ID)
	if errors.Is(err, store.ErrNotFound) {
		return fiber.NewError(fiber.StatusGone, "“"+f.Name+"” is not kept here: the map came without its files.")
	}
	if err != nil {
		return err
	}
	site.Attach(c, f.Name)
	c.Set("Content-Type", content.Type)
	c.Set("Content-Security-Policy", filePolicy+"; sandbox")
	if policy, ok := looked[content.Type]; ok && c.Query("look") != "" {
		c.Set("Content-Disposition", strings.Replace(c.GetRespHeader("Content-Disposition"), "attachment", "inline", 1))
		c.Set("Content-Security-Policy", policy)
	}
	c.Set("Cache-Control", "private, no-store")
	return c.SendStream(content, int(content.Size))
}

// attachedPanel is what attached.html shows: the files kept with the map, and what else its links lead to.
type attachedPanel struct {
	Base  template.URL
	Files []attachedFile
	Links []attachedLink
	// Total is what the files take together, Most what they may, in words.
	Total, Most string
}

type attachedFile struct {
	ID, Name, Size, By string
	// Query asks for it to be shown, where a browser can. Gone says that its content is not kept here.
	Query template.URL
	Gone  bool
	On    []attachedTo
}

// attachedTo is something of the map that leads to a file or an address.
type attachedTo struct{ ID, Text string }

type attachedLink struct {
	Title string
	To    template.URL
	// Outside says that it leads to another page; Gone that it leads nowhere.
	Outside, Gone bool
	On            attachedTo
}

// attached shows the files and links of the map. Addresses are never asked for: whether a page is still there, only a
// person can see.
func (s *Desk) attached(c fiber.Ctx) error {
	v := site.At(c)
	d, err := v.Shown()
	if err != nil {
		return err
	}
	m, _ := d.Snapshot()
	p := &attachedPanel{Base: template.URL(v.Base), Most: phrase.Size(model.MaxFiles)}
	at, size := map[string]int{}, 0
	for _, f := range m.Attached() {
		at["#"+f.ID], size = len(p.Files), size+f.Size
		_, err := s.House.Files.Open(v.Map, f.ID)
		if err != nil && !errors.Is(err, store.ErrNotFound) {
			return err
		}
		p.Files = append(p.Files, attachedFile{ID: f.ID, Name: f.Name, Size: phrase.Size(f.Size), By: f.By,
			Gone: err != nil})
		if looked[f.Type] != "" {
			p.Files[len(p.Files)-1].Query = "?look=1"
		}
	}
	p.Total = phrase.Size(size)
	numbers := numbering.Labels(flow.New(m))
	for l := range m.Leads() {
		to := attachedTo{l.On, links.Place(m, l.On, numbers)}
		if to.Text == "" {
			to.Text = "A connector of " + l.Sheet.Name
		}
		if i, ok := at[l.Link.To]; ok {
			p.Files[i].On = append(p.Files[i].On, to)
			continue
		}
		target := l.Link.To
		if id, inside := links.Inside(&l.Link); inside {
			target = "#n-" + id
		}
		link := attachedLink{links.Title(m, &l.Link, numbers), template.URL(target), l.Link.Opens(),
			links.Gone(m, &l.Link), to}
		if other := l.Link.OtherMap(); other != "" {
			link.To, link.Outside = template.URL(v.Base+"/map/"+other), true
			if link.Title, err = s.titleFor(v, other); err != nil {
				return err
			}
			if link.Gone = link.Title == ""; link.Gone {
				link.Title = "A map that is not there, or not for you"
			}
		}
		p.Links = append(p.Links, link)
	}
	return s.Page(c, "attached.html", p)
}
