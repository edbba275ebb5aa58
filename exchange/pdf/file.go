package pdf

import (
	"bytes"
	"compress/zlib"
	"crypto/sha256"
	"fmt"
	"strconv"
	"unicode/utf16"
)

// file collects the objects of a PDF file (ISO 32000-1, 7.3 and 7.5).
type file struct {
	objects [][]byte
}

// ref is the number of an object, from 1.
type ref int

func (r ref) String() string { return strconv.Itoa(int(r)) + " 0 R" }

// reserve returns the number of an object that is written later.
func (f *file) reserve() ref {
	f.objects = append(f.objects, nil)
	return ref(len(f.objects))
}

func (f *file) set(r ref, content string) { f.objects[r-1] = []byte(content) }

func (f *file) add(content string) ref {
	r := f.reserve()
	f.set(r, content)
	return r
}

// stream adds a compressed stream; entries are those of its dictionary beside its length and filter.
func (f *file) stream(entries string, data []byte) ref {
	var packed bytes.Buffer
	w := zlib.NewWriter(&packed)
	w.Write(data)
	w.Close()
	r := f.reserve()
	f.objects[r-1] = fmt.Appendf(nil, "<<%s/Length %d/Filter/FlateDecode>>\nstream\n%s\nendstream", entries,
		packed.Len(), packed.Bytes())
	return r
}

// plain adds a stream as it is.
func (f *file) plain(entries string, data []byte) ref {
	r := f.reserve()
	f.objects[r-1] = fmt.Appendf(nil, "<<%s/Length %d>>\nstream\n%s\nendstream", entries, len(data), data)
	return r
}

// bytes returns the whole file. Its identifier is made of its content, so that the same map gives the same bytes.
func (f *file) bytes(root, info ref) []byte {
	out := []byte("%PDF-1.7\n%\xe2\xe3\xcf\xd3\n")
	places := make([]int, len(f.objects))
	for i, o := range f.objects {
		places[i] = len(out)
		out = fmt.Appendf(out, "%d 0 obj\n%s\nendobj\n", i+1, o)
	}
	id := sha256.Sum256(out)
	from := len(out)
	out = fmt.Appendf(out, "xref\n0 %d\n0000000000 65535 f \n", len(f.objects)+1)
	for _, at := range places {
		out = fmt.Appendf(out, "%010d 00000 n \n", at)
	}
	return fmt.Appendf(out, "trailer\n<</Size %d/Root %s/Info %s/ID[<%X><%X>]>>\nstartxref\n%d\n%%%%EOF\n",
		len(f.objects)+1, root, info, id[:16], id[:16], from)
}

// text writes a text string: UTF-16 with its mark (ISO 32000-1, 7.9.2.2).
func text(s string) string {
	var out []byte
	out = append(out, "<FEFF"...)
	for _, u := range utf16.Encode([]rune(s)) {
		out = fmt.Appendf(out, "%04X", u)
	}
	return string(append(out, '>'))
}

// num writes a number with at most so many places behind the point.
func num(buf []byte, v float64, places int) []byte {
	at := len(buf)
	buf = strconv.AppendFloat(buf, v, 'f', places, 64)
	if places > 0 {
		for buf[len(buf)-1] == '0' {
			buf = buf[:len(buf)-1]
		}
		if buf[len(buf)-1] == '.' {
			buf = buf[:len(buf)-1]
		}
	}
	if string(buf[at:]) == "-0" {
		buf = append(buf[:at], '0')
	}
	return buf
}
