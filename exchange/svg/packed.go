package svg

import (
	"bytes"
	"compress/gzip"
	"encoding/base64"
	"errors"
	"html/template"

	"plaintracer/core/scene"
)

// Source returns a drawing as the address of a picture that a page holds inside (RFC 2397).
func Source(d *scene.Drawing) (template.URL, error) {
	out, err := Write(d, Options{})
	return template.URL("data:image/svg+xml;base64," + base64.StdEncoding.EncodeToString(out)), err
}

// Zipped compresses data (RFC 1952).
func Zipped(data []byte) ([]byte, error) {
	var packed bytes.Buffer
	w := gzip.NewWriter(&packed)
	_, err := w.Write(data)
	err = errors.Join(err, w.Close())
	return packed.Bytes(), err
}
