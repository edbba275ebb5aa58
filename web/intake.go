package web

import (
	"errors"

	"github.com/gofiber/fiber/v3"

	"plaintracer/exchange/gate"
)

// orUnread turns what the gate says of a file into an answer.
func orUnread(err error) error {
	if errors.Is(err, gate.ErrBusy) {
		return fiber.NewError(fiber.StatusServiceUnavailable, sentence("the file "+err.Error()))
	}
	if words, ok := gate.Words("the file ", err); ok {
		return &unfit{sentence(words)}
	}
	return err
}
