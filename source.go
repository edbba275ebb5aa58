// Package plaintracer identifies the sources of the browser core, so that a
// server never hands out one that was built from other sources than its own.
package plaintracer

import (
	"crypto/sha256"
	"embed"
	"encoding/hex"
	"io/fs"
	"strings"
	"sync"
)

//go:embed go.mod core cmd/editor/*.go cmd/editor/default.pgo cmd/worker/*.go
var sources embed.FS

// EditorSource returns a hash of everything the browser core is built from.
var EditorSource = sync.OnceValue(func() string {
	h := sha256.New()
	err := fs.WalkDir(sources, ".", func(path string, d fs.DirEntry, err error) error {
		if err != nil || d.IsDir() || strings.HasSuffix(path, "_test.go") || strings.Contains(path, "/testdata/") {
			return err
		}
		text, err := sources.ReadFile(path)
		h.Write([]byte(path))
		h.Write(text)
		return err
	})
	if err != nil {
		panic(err) // the files are part of the program
	}
	return hex.EncodeToString(h.Sum(nil))[:16]
})
