package model

import (
	"fmt"
)

// The bounds of what is read as JSON. An object of three bytes becomes a symbol of some
// hundred, and a batch in a batch is read again for every one around it: without bounds a
// small text takes much memory and time.
const (
	maxJSONDepth   = 32
	maxJSONObjects = 400_000
)

// Bounded reports a JSON text, of an edit or of a map, that is nested deeper or holds more
// objects than any that is meant.
func Bounded(data []byte) error {
	depth, objects, quoted := 0, 0, false
	for i := 0; i < len(data); i++ {
		switch c := data[i]; {
		case quoted:
			if c == '\\' {
				i++
			} else if c == '"' {
				quoted = false
			}
		case c == '"':
			quoted = true
		case c == '{' || c == '[':
			if c == '{' {
				objects++
			}
			if depth++; depth > maxJSONDepth {
				return fmt.Errorf("it is nested more than %d deep", maxJSONDepth)
			}
		case c == '}' || c == ']':
			depth--
		}
	}
	if objects > maxJSONObjects {
		return fmt.Errorf("it holds more than %d parts", maxJSONObjects)
	}
	return nil
}
