package site

import (
	"errors"
	"strconv"
	"strings"

	"github.com/gofiber/fiber/v3"

	"plaintracer/app/phrase"
	"plaintracer/exchange"
	"plaintracer/store"
)

// Files come in parts, so that none is ever wholly in memory, and one whose connection dropped goes on where it was.

// uploadBegun is what whoever sends a file is told: the name of the upload, and how much may come at once.
type uploadBegun struct {
	Upload string `json:"upload"`
	Part   int    `json:"part"`
}

// BeginUpload begins to take a file of the size in a form to a holder, where it has at most so many bytes.
func (s *Site) BeginUpload(c fiber.Ctx, holder string, most int) error {
	size, err := strconv.Atoi(c.FormValue("size"))
	name := FileTitle(c.FormValue("name"))
	switch {
	case err != nil || size < 1:
		return fiber.NewError(fiber.StatusBadRequest, "“"+name+"” is empty.")
	case size > most:
		return fiber.NewError(fiber.StatusRequestEntityTooLarge, "“"+name+"” is larger than the "+phrase.Size(most)+
			" that a file may have here.")
	}
	upload, err := s.House.Files.Begin(holder, name, size, s.FileRoom)
	if errors.Is(err, store.ErrNoRoom) || errors.Is(err, store.ErrHeldTooMuch) {
		return fiber.NewError(fiber.StatusInsufficientStorage, phrase.Sentence(err.Error())+
			" Nothing was added; ask whoever runs the server.")
	}
	if err != nil {
		return err
	}
	return c.JSON(uploadBegun{upload, store.MaxPart})
}

// AddUpload takes a part of a file on its way to a holder, and returns how much of it has come.
func (s *Site) AddUpload(c fiber.Ctx, holder string) (come int, err error) {
	at, err := strconv.Atoi(c.Query("at"))
	if err != nil || at < 0 {
		return 0, fiber.NewError(fiber.StatusBadRequest, "It is not said where this part of the file begins.")
	}
	come, err = s.House.Files.Add(holder, c.Params("upload"), at, c.Body())
	var part *store.PartFault
	if errors.As(err, &part) {
		return 0, fiber.NewError(fiber.StatusBadRequest, phrase.Sentence(part.Error()))
	}
	return come, err
}

// FileTitle is what a file is called in a map: the last part of its path, as every file system takes it.
func FileTitle(name string) string {
	if name = name[strings.LastIndexAny(name, `/\`)+1:]; name == "" {
		return "file"
	}
	return exchange.FileName(name)
}
