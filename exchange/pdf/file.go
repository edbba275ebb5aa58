package pdf

import (
	"bytes"
	"compress/zlib"
	"crypto/sha256"
	"fmt"
	"slices"
	"strconv"
	"unicode/utf16"
)

// file collects the objects of a PDF file (ISO 32000-1, 7.3 and 7.5).
type file struct {
	objects [][]byte
	packer  *zlib.Writer
}

func newFile() *file { return &file{packer: zlib.NewWriter(nil)} }

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
	f.packer.Reset(&packed)
	f.packer.Write(data)
	f.packer.Close()
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

// together is how many objects are packed into one stream.
const together = 200

// bytes returns the whole file, its dictionaries packed into streams (ISO 32000-1, 7.5.7 and 7.5.8). Its identifier is
// made of its content, so that the same map gives the same bytes.
func (f *file) bytes(root, info ref) []byte {
	out := []byte("%PDF-1.7\n%\xe2\xe3\xcf\xd3\n")
	// Where each object is: 0 and nothing, 1 and its place in the file, or 2, the stream that it is in and its place
	// there.
	type entry struct{ kind, at, index int }
	places := make([]entry, len(f.objects)+1)
	put := func(n int, o []byte) {
		places[n] = entry{1, len(out), 0}
		out = fmt.Appendf(out, "%d 0 obj\n%s\nendobj\n", n, o)
	}
	var small []int
	for i, o := range f.objects {
		if bytes.HasSuffix(o, []byte("endstream")) {
			put(i+1, o)
		} else {
			small = append(small, i+1)
		}
	}
	for some := range slices.Chunk(small, together) {
		var head, body []byte
		packed := len(places)
		for i, n := range some {
			places[n] = entry{2, packed, i}
			head = fmt.Appendf(head, "%d %d ", n, len(body))
			body = append(append(body, f.objects[n-1]...), '\n')
		}
		places = append(places, entry{})
		r := f.stream(fmt.Sprintf("/Type/ObjStm/N %d/First %d", len(some), len(head)), append(head, body...))
		put(int(r), f.objects[r-1])
	}
	id := sha256.Sum256(out)
	from := len(out)
	places = append(places, entry{1, from, 0})
	var table []byte
	for i, e := range places {
		if i == 0 {
			e.index = 65535 // the first object is none
		}
		table = append(table, byte(e.kind), byte(e.at>>24), byte(e.at>>16), byte(e.at>>8), byte(e.at), byte(e.index>>8),
			byte(e.index))
	}
	r := f.stream(fmt.Sprintf("/Type/XRef/Size %d/W[1 4 2]/Root %s/Info %s/ID[<%X><%X>]", len(places), root, info,
		id[:16],
		id[:16]), table)
	out = fmt.Appendf(out, "%d 0 obj\n%s\nendobj\n", r, f.objects[r-1])
	return fmt.Appendf(out, "startxref\n%d\n%%%%EOF\n", from)
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
