package desk

import (
	"encoding/json"
)

// AsJSON returns a value for the page; null where that cannot be written.
func AsJSON(v any) []byte {
	raw, err := json.Marshal(v)
	if err != nil {
		return []byte("null")
	}
	return raw
}
