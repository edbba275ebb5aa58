package svg

import (
	"bytes"
	"compress/gzip"
	"errors"
)

// Zipped compresses data (RFC 1952).
func Zipped(data []byte) ([]byte, error) {
	var packed bytes.Buffer
	w := gzip.NewWriter(&packed)
	_, err := w.Write(data)
	err = errors.Join(err, w.Close())
	return packed.Bytes(), err
}
