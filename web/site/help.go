package site

import (
	"bytes"
	"fmt"
	"html/template"
	"io/fs"
	"path"
	"strings"

	"github.com/gofiber/fiber/v3"
	"github.com/yuin/goldmark"

	"plaintracer/docs"
)

// chapter is a part of the guide as the page of help shows it.
type chapter struct {
	ID, Title string
	Text      template.HTML
	// Search is what it is found by.
	Search string
}

// chapters are those of the guide, in its order.
func chapters(guide []byte) (list []chapter, err error) {
	for _, part := range strings.Split(string(guide), "\n## ")[1:] {
		title, text, _ := strings.Cut(part, "\n")
		var out bytes.Buffer
		if err := goldmark.Convert([]byte(strings.ReplaceAll(text, "](screenshots/", "](/help/")), &out); err != nil {
			return nil, fmt.Errorf("the chapter %q of the guide: %w", title, err)
		}
		id := strings.ReplaceAll(strings.ToLower(strings.ReplaceAll(title, ",", "")), " ", "-")
		list = append(list, chapter{id, title, template.HTML(out.String()), title + " " + text})
	}
	return list, nil
}

// Help is the guide, for whoever asks.
func (s *Site) Help(c fiber.Ctx) error {
	guide, err := fs.ReadFile(docs.Files, "guide.md")
	if err != nil {
		return err
	}
	list, err := chapters(guide)
	if err != nil {
		return err
	}
	return s.Page(c, "help.html", &helpPage{Frame: Frame{Title: "Help"}, Chapters: list})
}

// HelpPicture is a picture of the guide.
func (s *Site) HelpPicture(c fiber.Ctx) error {
	picture, err := fs.ReadFile(docs.Files, path.Join("screenshots", path.Base(c.Params("picture"))+".png"))
	if err != nil {
		return fiber.ErrNotFound
	}
	c.Set("Content-Type", "image/png")
	c.Set("Cache-Control", "max-age=86400")
	return c.Send(picture)
}

// helpPage is what help.html shows.
type helpPage struct {
	Frame
	Chapters []chapter
}
