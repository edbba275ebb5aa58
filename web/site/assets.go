package site

import (
	"bytes"
	"compress/gzip"
	"crypto/sha256"
	"encoding/hex"
	"fmt"
	"io"
	"io/fs"
	"mime"
	"path"
	"runtime"
	"strings"

	"github.com/andybalholm/brotli"
	"github.com/gofiber/fiber/v3"

	"plaintracer"
	"plaintracer/exchange/typeface"
)

// asset is a file served under a name that carries its hash, so that browsers
// may keep it for good.
type asset struct {
	kind                string
	plain, gzip, brotli []byte
}

type assets struct {
	byPath map[string]*asset
	// packer compresses them, one after the other: at a higher level it would take 30 MB for one per cent.
	packer *brotli.Writer
	// names leads from a plain name such as app.css to the path with the hash.
	names map[string]string
}

// LoadAssets gathers the embedded files and the browser core. It fails when the core is missing or
// was built from other sources than this program.
func LoadAssets(files, core fs.FS) (*assets, error) {
	a := &assets{
		byPath: map[string]*asset{}, names: map[string]string{},
		packer: brotli.NewWriterLevel(nil, 6),
	}
	defer func() { a.packer = nil }()
	if err := a.addCore(core); err != nil {
		return nil, err
	}
	a.add("regular.woff2", typeface.Regular)
	a.add("semibold.woff2", typeface.SemiBold)
	a.add("italic.woff2", typeface.Italic)
	a.add("semibold-italic.woff2", typeface.SemiBoldItalic)
	err := fs.WalkDir(files, "static", func(name string, d fs.DirEntry, err error) error {
		if err != nil || d.IsDir() || strings.HasSuffix(name, ".css") {
			return err
		}
		data, err := fs.ReadFile(files, name)
		if err == nil {
			a.add(path.Base(name), data)
		}
		return err
	})
	if err != nil {
		return nil, err
	}
	// The style sheet names the fonts by hash.
	css, err := fs.ReadFile(files, "static/app.css")
	if err != nil {
		return nil, err
	}
	for _, font := range []string{"regular.woff2", "semibold.woff2", "semibold-italic.woff2", "italic.woff2"} {
		css = bytes.ReplaceAll(css, []byte("/static/"+font), []byte(a.names[font]))
	}
	a.add("app.css", css)
	return a, nil
}

func (a *assets) addCore(core fs.FS) error {
	const rebuild = "run make to build it"
	stamp, err := fs.ReadFile(core, "stamp.txt")
	if err != nil {
		return fmt.Errorf("the browser core is missing from this program: %s", rebuild)
	}
	built := strings.Fields(string(stamp)) // source, version of Go, and how else it was built
	if len(built) < 2 || built[0] != plaintracer.EditorSource() || built[1] != runtime.Version() {
		return fmt.Errorf("the browser core was built from other sources than this program: %s", rebuild)
	}
	for _, name := range []string{"editor.wasm", "worker.wasm"} {
		packed, err := fs.ReadFile(core, name+".br")
		if err != nil {
			return fmt.Errorf("the browser core is missing from this program: %s", rebuild)
		}
		p := hashed(name, packed)
		a.byPath[p] = &asset{kind: "application/wasm", brotli: packed}
		a.names[name] = p
	}
	loader, err := fs.ReadFile(core, "wasm_exec.js")
	if err != nil {
		return fmt.Errorf("the loader of the browser core is missing from this program: %s", rebuild)
	}
	a.add("wasm_exec.js", loader)
	return nil
}

func hashed(name string, data []byte) string {
	sum := sha256.Sum256(data)
	ext := path.Ext(name)
	return "/static/" + strings.TrimSuffix(name, ext) + "." + hex.EncodeToString(sum[:6]) + ext
}

func (a *assets) add(name string, data []byte) {
	p := hashed(name, data)
	as := &asset{kind: mime.TypeByExtension(path.Ext(name)), plain: data}
	switch path.Ext(name) {
	case ".woff2":
		as.kind = "font/woff2" // compressed in itself
	case ".js":
		as.kind = "text/javascript; charset=utf-8"
		fallthrough
	default:
		var gz, br bytes.Buffer
		w := gzip.NewWriter(&gz)
		w.Write(data)
		w.Close()
		a.packer.Reset(&br)
		a.packer.Write(data)
		a.packer.Close()
		as.gzip, as.brotli = gz.Bytes(), br.Bytes()
	}
	a.byPath[p] = as
	a.names[name] = p
}

func (a *assets) serve(c fiber.Ctx) error {
	as := a.byPath[c.Path()]
	if as == nil {
		return fiber.ErrNotFound
	}
	c.Set("Content-Type", as.kind)
	c.Set("Cache-Control", "public, max-age=31536000, immutable")
	c.Set("Vary", "Accept-Encoding")
	accepts := c.Get("Accept-Encoding")
	switch {
	case as.brotli != nil && strings.Contains(accepts, "br"):
		c.Set("Content-Encoding", "br")
		return c.Send(as.brotli)
	case as.gzip != nil && strings.Contains(accepts, "gzip"):
		c.Set("Content-Encoding", "gzip")
		return c.Send(as.gzip)
	case as.plain == nil:
		plain, err := io.ReadAll(brotli.NewReader(bytes.NewReader(as.brotli)))
		if err != nil {
			return err
		}
		return c.Send(plain)
	}
	return c.Send(as.plain)
}
