package web

import (
	"context"
	"errors"

	"github.com/gofiber/fiber/v3"

	"plaintracer/core/edit"
	"plaintracer/core/fonts"
	"plaintracer/core/model"
	"plaintracer/core/pictures"
	"plaintracer/exchange/gate"
	"plaintracer/exchange/intake"
)

// vet looks at the pictures and fonts that an edit brings into a map.
func vet(made *edit.Revert) error {
	var p []pictures.Picture
	var f []fonts.Font
	id := ""
	for i := range made.Changes {
		c := &made.Changes[i]
		if one, ok := edit.Changed[pictures.Picture](c); ok && one.Before == nil {
			p, id = append(p, *one.After), c.ID
		} else if one, ok := edit.Changed[fonts.Font](c); ok && one.Before == nil {
			f, id = append(f, *one.After), c.ID
		}
	}
	err := intake.Sound(context.Background(), p, f)
	if err == nil {
		return nil
	}
	if words, ok := unread("what it brings ", err); ok {
		return &model.Refusal{ID: id, Text: words}
	}
	return err
}

// unread says in words why something from outside was not read; false where that lies elsewhere.
func unread(what string, err error) (words string, ok bool) {
	var refusal *gate.Refusal
	switch {
	case errors.As(err, &refusal):
		return refusal.Text, true
	case errors.Is(err, gate.ErrTooMuch) || errors.Is(err, gate.ErrBusy):
		return what + err.Error(), true
	}
	return "", false
}

// orUnread turns what the gate says of a file into an answer.
func orUnread(err error) error {
	if errors.Is(err, gate.ErrBusy) {
		return fiber.NewError(fiber.StatusServiceUnavailable, sentence("the file "+err.Error()))
	}
	if words, ok := unread("the file ", err); ok {
		return &unfit{sentence(words)}
	}
	return err
}
