package site

import (
	"errors"

	"github.com/gofiber/fiber/v3"

	"plaintracer/app/phrase"
	"plaintracer/exchange/gate"
)

// OrUnread turns what the gate says of a file into an answer.
func OrUnread(err error) error {
	if errors.Is(err, gate.ErrBusy) {
		return fiber.NewError(fiber.StatusServiceUnavailable, phrase.Sentence("the file "+err.Error()))
	}
	if words, ok := gate.Words("the file ", err); ok {
		return FormError(phrase.Sentence(words))
	}
	return err
}
