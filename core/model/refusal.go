package model

import (
	"fmt"
	"strings"
)

// Refusal is an edit that cannot be made, with the thing it is about.
type Refusal struct {
	// ID is the item refused; empty when the refusal is about the map.
	ID   string
	Text string
}

// Error says why.
func (r *Refusal) Error() string { return r.Text }

// Refuse returns the refusal of what is about the item with an id.
func Refuse(id, format string, args ...any) error {
	return &Refusal{ID: id, Text: fmt.Sprintf(format, args...)}
}

// Quote sets the beginning of a text in quotation marks, for a message.
func Quote(text string) string { return fmt.Sprintf("“%.40s”", text) }

// Short is the beginning of a text, as long as a name may be.
func Short(text string) string {
	r := []rune(text)
	return string(r[:min(len(r), MaxName)])
}

// Flat is a text on one line.
func Flat(text string) string { return strings.Join(strings.Fields(text), " ") }
