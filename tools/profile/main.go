// Command profile takes the names of files out of a profile for the compiler,
// which goes by functions and lines alone: what is left is the same wherever it
// was taken.
package main

import (
	"bytes"
	"compress/gzip"
	"encoding/binary"
	"io"
	"log"
	"os"
	"strings"
)

// The names are in the table of strings: field 6 of the message Profile
// (profile.proto of pprof), each with its length before it.
const (
	strings6 = 6<<3 | 2
	varint   = 0
	bytesOf  = 2
)

func main() {
	log.SetFlags(0)
	r, err := gzip.NewReader(os.Stdin)
	if err != nil {
		log.Fatal(err)
	}
	in, err := io.ReadAll(r)
	if err != nil {
		log.Fatal(err)
	}
	var out bytes.Buffer
	w, err := gzip.NewWriterLevel(&out, gzip.BestCompression)
	if err != nil {
		log.Fatal(err)
	}
	if _, err := w.Write(nameless(in)); err != nil {
		log.Fatal(err)
	}
	if err := w.Close(); err != nil {
		log.Fatal(err)
	}
	if _, err := out.WriteTo(os.Stdout); err != nil {
		log.Fatal(err)
	}
}

// nameless returns a profile with every string that is a path replaced by none.
func nameless(in []byte) (out []byte) {
	number := func() uint64 {
		v, n := binary.Uvarint(in)
		if n <= 0 {
			log.Fatal("this is no profile")
		}
		in = in[n:]
		return v
	}
	for len(in) > 0 {
		tag := number()
		out = binary.AppendUvarint(out, tag)
		switch tag & 7 {
		case varint:
			out = binary.AppendUvarint(out, number())
		case bytesOf:
			size := number()
			if size > uint64(len(in)) {
				log.Fatal("the profile is cut short")
			}
			part := in[:size]
			in = in[size:]
			if tag == strings6 && (strings.HasPrefix(string(part), "/") || strings.Contains(string(part), ":\\")) {
				part = nil
			}
			out = append(binary.AppendUvarint(out, uint64(len(part))), part...)
		default:
			log.Fatalf("the profile has a field of an unknown form, %d", tag&7)
		}
	}
	return out
}
