package shelf

import (
	"bytes"
	"context"
	"errors"
	"io"
	"strings"

	"github.com/gofiber/fiber/v3"

	"plaintracer/core/model"
	"plaintracer/exchange/bundle"
	"plaintracer/exchange/gate"
	"plaintracer/exchange/intake"
	"plaintracer/exchange/tracerjson"
	"plaintracer/store"
	"plaintracer/web/site"
)

// Archives of a map with its files. Large ones come in parts, before they are opened.

// sender is under whose name what a person sends waits to be opened.
func sender(c fiber.Ctx) string { return "person:" + site.WhoAsks(c).ID }

// BeginUpload begins to take an archive that is to be opened.
func (s *Shelf) BeginUpload(c fiber.Ctx) error {
	return s.Site.BeginUpload(c, sender(c), bundle.MaxSize)
}

// AddUpload takes a part of it, and answers how much has come.
func (s *Shelf) AddUpload(c fiber.Ctx) error {
	come, err := s.Site.AddUpload(c, sender(c))
	if err != nil {
		return err
	}
	return c.JSON(map[string]int{"come": come})
}

// openUpload makes a map of an archive that has come in parts.
func (s *Shelf) openUpload(c fiber.Ctx, upload string) error {
	content, err := s.House.Files.Upload(sender(c), upload)
	if errors.Is(err, store.ErrNotFound) {
		return fiber.NewError(fiber.StatusBadRequest, "The file has not come whole. Open it again.")
	}
	if err != nil {
		return err
	}
	err = s.openBundle(c, content, content.Size)
	return errors.Join(err, s.House.Files.Drop(sender(c), upload))
}

// openBundle makes a map of an archive, and keeps the files in it that something on the map leads to. All of it is read
// before anything is made.
func (s *Shelf) openBundle(c fiber.Ctx, r io.ReaderAt, size int64) error {
	b, err := site.Made(s.Site, c, func(context.Context) (*bundle.Bundle, error) { return bundle.Open(r, size) })
	if err != nil {
		return err
	}
	ctx, stop := site.WhileThere(c)
	defer stop()
	opened, err := intake.Map(ctx, b.Map)
	if words, ok := gate.Words("it ", err); ok && !errors.Is(err, gate.ErrBusy) {
		return &tracerjson.Fault{Text: words}
	}
	if err != nil {
		return site.OrUnread(err)
	}
	m := opened.Map
	if err := truthful(ctx, m, b); err != nil {
		return site.OrUnread(err)
	}
	folder := c.FormValue("folder")
	if err := s.intoFolder(c, folder); err != nil {
		return err
	}
	id, err := s.House.Add(m, site.WhoAsks(c).ID, folder)
	if err != nil {
		return err
	}
	for _, f := range m.Attached() {
		if err := s.keep(id, &f, b); err != nil {
			return err
		}
	}
	return c.Redirect().Status(fiber.StatusSeeOther).To("/maps/" + id)
}

// keep keeps a file of an archive with a map, where it is in it.
func (s *Shelf) keep(id string, f *model.File, b *bundle.Bundle) error {
	r, err := b.File(f.ID)
	if errors.Is(err, bundle.ErrMissing) {
		return nil
	}
	if err != nil {
		return err
	}
	defer r.Close()
	_, err = s.House.Files.Put(id, f.Name, f.Size, s.FileRoom, r, func([]byte) (string, error) { return f.Type, nil })
	return err
}

// truthful has the map say of its files what they are: their sizes, and their types by their contents.
func truthful(ctx context.Context, m *model.Map, b *bundle.Bundle) error {
	for i := range m.Files {
		f := &m.Files[i]
		size, ok := b.Has(f.ID)
		if !ok {
			continue
		}
		r, err := b.File(f.ID)
		if err != nil {
			return err
		}
		var begin bytes.Buffer
		_, err = io.Copy(&begin, io.LimitReader(r, store.HeadSize))
		if err = errors.Join(err, r.Close()); err != nil {
			return err
		}
		f.Size = size
		if f.Type, err = intake.TypeOf(ctx, begin.Bytes()); err != nil {
			return err
		}
	}
	return nil
}

// isBundle reports whether a file is an archive of a map with its files.
func isBundle(name string, data []byte) bool {
	return strings.HasSuffix(strings.ToLower(name), ".zip") && bundle.Looks(data)
}
