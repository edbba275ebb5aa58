// Package carrier puts a map into the pictures and documents made of it, and takes it out again, so that a picture
// found in a report can be opened and worked on: in the metadata of an SVG document, a chunk of a PNG file, and as an
// attachment of a PDF file.
package carrier

import (
	"bytes"
	"compress/zlib"
	"encoding/base64"
	"encoding/binary"
	"encoding/xml"
	"errors"
	"fmt"
	"hash/crc32"
	"io"
	"regexp"
	"slices"
	"strconv"
	"strings"

	"plaintracer/exchange/tracerjson"
)

const (
	// namespace is that of the element in an SVG document that holds the map.
	namespace = "urn:plaintracer:map"
	// keyword is that of the chunk in a PNG file.
	keyword = "Plain Tracer map"
	// Attachment is the name of the attachment of a PDF file.
	Attachment = "map.tracer.json"
)

// ErrNone says that a file is of a kind that can carry a map and carries none. What is returned says why as far as that
// can be seen.
var ErrNone = errors.New("there is no map inside this file")

// none says that there is no map, and why.
func none(why string) error { return fmt.Errorf("%w: %s", ErrNone, why) }

// What is said where a file does not tell who saved it.
const (
	leftOut = "it was saved without one, or saved anew by another program, which left the map out"
	noJPEG  = "a JPEG file never carries one; open the PDF, PNG or SVG file of the map"
)

// InSVG returns the content of the metadata of an SVG document for a map file.
func InSVG(file []byte) []byte {
	out := []byte(`<map xmlns="` + namespace + `" packing="zlib base64">`)
	out = base64.StdEncoding.AppendEncode(out, packed(file))
	return append(out, `</map>`...)
}

// IntoPNG returns a PNG file with a map file in it: as international text, packed (PNG, third edition, 11.3.3.4).
func IntoPNG(picture, file []byte) []byte {
	chunk := append([]byte("iTXt"+keyword), 0, 1, 0, 0, 0)
	chunk = append(chunk, packed(file)...)
	end := len(picture) - 12 // the last chunk, which is empty
	out := append([]byte(nil), picture[:end]...)
	out = binary.BigEndian.AppendUint32(out, uint32(len(chunk)-4))
	out = append(out, chunk...)
	out = binary.BigEndian.AppendUint32(out, crc32.ChecksumIEEE(chunk))
	return append(out, picture[end:]...)
}

func packed(file []byte) []byte {
	var out bytes.Buffer
	w, _ := zlib.NewWriterLevel(&out, zlib.BestCompression)
	w.Write(file)
	w.Close()
	return out.Bytes()
}

// unpack reverses packed, within the bounds of a map file.
func unpack(data []byte) ([]byte, error) {
	r, err := zlib.NewReader(bytes.NewReader(data))
	if err != nil {
		return nil, errors.New("the map inside the file is broken")
	}
	out, err := io.ReadAll(io.LimitReader(r, tracerjson.MaxSize+1))
	if err != nil {
		return nil, errors.New("the map inside the file is broken")
	}
	if len(out) > tracerjson.MaxSize {
		return nil, fmt.Errorf("the map inside the file is larger than %d MB", tracerjson.MaxSize>>20)
	}
	return out, nil
}

// Inside returns the map file in a file that may carry one, and the file itself where it is none of those. The error
// is ErrNone where it could carry one and does not.
func Inside(file []byte) ([]byte, error) {
	switch begin := file[:min(len(file), 1024)]; {
	case bytes.HasPrefix(file, []byte("\x89PNG\r\n\x1a\n")):
		return fromPNG(file)
	case bytes.HasPrefix(file, []byte("\xff\xd8\xff")):
		return nil, none(noJPEG)
	case bytes.Contains(begin, []byte("%PDF-")):
		return fromPDF(file)
	case bytes.HasPrefix(bytes.TrimLeft(bytes.TrimPrefix(file, []byte("\xef\xbb\xbf")), " \t\r\n"), []byte("<")):
		return fromSVG(file)
	}
	return file, nil
}

func fromPNG(file []byte) ([]byte, error) {
	for at := 8; at+12 <= len(file); {
		size := int(binary.BigEndian.Uint32(file[at:]))
		if size > len(file)-at-12 {
			break
		}
		kind, data := string(file[at+4:at+8]), file[at+8:at+8+size]
		if rest, ok := bytes.CutPrefix(data, []byte(keyword+"\x00")); ok && kind == "iTXt" && len(rest) >= 2 &&
			rest[0] == 1 {
			// Behind the two bytes about packing stand the language and the keyword in it, each with a zero.
			for range 2 {
				_, behind, ok := bytes.Cut(rest[2:], []byte{0})
				if !ok {
					return nil, errors.New("the map inside the file is broken")
				}
				rest = append(rest[:2:2], behind...)
			}
			return unpack(rest[2:])
		}
		at += 12 + size
	}
	return nil, none(leftOut)
}

func fromSVG(file []byte) ([]byte, error) {
	if !bytes.Contains(file, []byte(namespace)) {
		return nil, none(leftOut) // without reading all of it
	}
	d := xml.NewDecoder(bytes.NewReader(file))
	d.CharsetReader = func(string, io.Reader) (io.Reader, error) { return nil, errors.New("another character set") }
	for {
		t, err := d.Token()
		if err != nil {
			return nil, none(leftOut) // it ends, or is no XML
		}
		begin, ok := t.(xml.StartElement)
		if !ok || begin.Name.Space != namespace || begin.Name.Local != "map" {
			continue
		}
		var text strings.Builder
		for {
			t, err := d.Token()
			if err != nil {
				return nil, errors.New("the map inside the file is broken")
			}
			if chars, ok := t.(xml.CharData); ok {
				text.Write(chars)
				continue
			}
			if _, ok := t.(xml.EndElement); ok {
				break
			}
		}
		data, err := base64.StdEncoding.DecodeString(strings.Join(strings.Fields(text.String()), ""))
		if err != nil {
			return nil, errors.New("the map inside the file is broken")
		}
		return unpack(data)
	}
}

// The bounds of looking through a PDF: how far before a stream its dictionary may begin, and how many streams are
// looked at.
const (
	dictionaryRoom = 2048
	maxStreams     = 20_000
)

var lengthOf = regexp.MustCompile(`/Length\s+(\d+)([^\d]|$)`)

// fromPDF finds a map among the attachments. Their dictionaries stand before a stream, and streams stand in no other
// object, so that they are found in files that other programs have written anew as well. The file is gone through once.
func fromPDF(file []byte) ([]byte, error) {
	for at, n := 0, 0; n < maxStreams; n++ {
		i := bytes.Index(file[at:], []byte("stream"))
		if i < 0 {
			break
		}
		from := at + i
		at = from + len("stream")
		if bytes.HasSuffix(file[:from], []byte("end")) {
			continue
		}
		begin := max(from-dictionaryRoom, 0)
		if k := bytes.LastIndex(file[begin:from], []byte("obj")); k >= 0 {
			begin += k
		}
		dictionary := bytes.TrimRight(file[begin:from], " \t\r\n")
		if !bytes.HasSuffix(dictionary, []byte(">>")) || !bytes.Contains(dictionary, []byte("/EmbeddedFile")) {
			continue
		}
		data := file[at:]
		data = bytes.TrimPrefix(bytes.TrimPrefix(data, []byte("\r")), []byte("\n"))
		at = len(file) - len(data)
		known := false
		if m := lengthOf.FindSubmatch(dictionary); m != nil {
			if n, err := strconv.Atoi(string(m[1])); err == nil && n <= len(data) &&
				bytes.HasPrefix(bytes.TrimLeft(data[n:min(n+4, len(data))], "\r\n"), []byte("e")) {
				data, known = data[:n], true
			}
		}
		if !known {
			if i := bytes.Index(data, []byte("endstream")); i >= 0 {
				data = data[:i]
			}
		}
		at += len(data)
		if bytes.Contains(dictionary, []byte("/FlateDecode")) {
			out, err := unpack(data)
			if err != nil {
				continue
			}
			data = out
		}
		if tracerjson.Looks(data) {
			return data, nil
		}
	}
	return nil, none(whyNot(file))
}

var (
	encrypted = regexp.MustCompile(`/Encrypt\s+\d+\s+\d+\s+R|/Encrypt\s*<<`)
	ours      = regexp.MustCompile(`/Creator\s*\(Plain Tracer\)|<xmp:CreatorTool>Plain Tracer|xmp:CreatorTool=["']Plain Tracer`)
	savedBy   = regexp.MustCompile(`/Producer\s*\(([^()]{1,80})\)|(?:<pdf:Producer>|pdf:Producer=["'])([^<"']{1,80})`)
)

// whyNot says why a PDF carries no map, by what it says of itself.
func whyNot(file []byte) string {
	if encrypted.Match(file) {
		return "it is encrypted, and what is inside cannot be read; save it without encryption"
	}
	said := slices.Concat(file, dictionaries(file))
	if !ours.Match(said) {
		return leftOut
	}
	for _, m := range savedBy.FindAllSubmatch(said, -1) {
		if by := string(m[1]) + string(m[2]); by != "Plain Tracer" {
			return "it was saved anew by another program (" + by + "), which left the map out"
		}
	}
	return "it was saved without one, or another program took it out"
}

// maxSaid bounds what is unpacked of the dictionaries of a PDF, in bytes.
const maxSaid = 8 << 20

// dictionaries are the objects of a PDF that are packed into streams (ISO 32000-1, 7.5.7).
func dictionaries(file []byte) (out []byte) {
	for {
		i := bytes.Index(file, []byte("/ObjStm"))
		if i < 0 || len(out) >= maxSaid {
			return out
		}
		file = file[i+1:]
		_, data, ok := bytes.Cut(file, []byte("stream"))
		if !ok {
			return out
		}
		r, err := zlib.NewReader(bytes.NewReader(bytes.TrimLeft(data, "\r\n")))
		if err != nil {
			continue
		}
		some, _ := io.ReadAll(io.LimitReader(r, maxSaid-int64(len(out))))
		out = append(out, some...)
	}
}
