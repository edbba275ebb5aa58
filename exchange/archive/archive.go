// Package archive writes ZIP archives whose files have no dates, so that the same content gives the same bytes: the
// documents of office programs are such archives.
package archive

import (
	"archive/zip"
	"bytes"
)

// Writer puts files into an archive, in their order. The first error stays, and is returned by Bytes.
type Writer struct {
	out bytes.Buffer
	zip *zip.Writer
	err error
}

// New begins an archive.
func New() *Writer {
	w := &Writer{}
	w.zip = zip.NewWriter(&w.out)
	return w
}

// Put adds a file, compressed.
func (w *Writer) Put(name string, data []byte) { w.add(name, data, zip.Deflate) }

// Store adds a file as it is, such as a picture, which is compressed already.
func (w *Writer) Store(name string, data []byte) { w.add(name, data, zip.Store) }

func (w *Writer) add(name string, data []byte, method uint16) {
	if w.err != nil {
		return
	}
	f, err := w.zip.CreateHeader(&zip.FileHeader{Name: name, Method: method})
	if err == nil {
		_, err = f.Write(data)
	}
	w.err = err
}

// Bytes ends the archive and returns it.
func (w *Writer) Bytes() ([]byte, error) {
	if w.err == nil {
		w.err = w.zip.Close()
	}
	return w.out.Bytes(), w.err
}
