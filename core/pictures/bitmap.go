package pictures

import (
	"encoding/binary"
	"hash/crc32"
)

// The sizes of bitmaps are read here, rather than by the decoders of the standard library, which would be a twentieth
// of what a browser loads: the core never looks at a pixel. A test holds both against each other.

// sizeOf returns the format of a PNG or JPEG file, "png" or "jpeg", and its size in pixels; ok is false for all else.
func sizeOf(file []byte) (format string, w, h int, ok bool) {
	if w, h, ok = pngSize(file); ok {
		return "png", w, h, true
	}
	if w, h, ok = jpegSize(file); ok {
		return "jpeg", w, h, true
	}
	return "", 0, 0, false
}

const pngSignature = "\x89PNG\r\n\x1a\n"

// depths are the bits a sample may have in a PNG file, by the type of colour: grey, true colour, palette, and the first
// two with transparency (PNG specification, third edition, 11.2.1).
var depths = map[byte][]byte{0: {1, 2, 4, 8, 16}, 2: {8, 16}, 3: {1, 2, 4, 8}, 4: {8, 16}, 6: {8, 16}}

// pngSize reads the header chunk, which comes first (PNG specification, third edition, 5.3 and 11.2.1).
func pngSize(file []byte) (w, h int, ok bool) {
	const length = 13
	if len(file) < len(pngSignature)+4+4+length+4 || string(file[:len(pngSignature)]) != pngSignature {
		return 0, 0, false
	}
	chunk := file[len(pngSignature):]
	if binary.BigEndian.Uint32(chunk) != length || string(chunk[4:8]) != "IHDR" {
		return 0, 0, false
	}
	if crc32.ChecksumIEEE(chunk[4:8+length]) != binary.BigEndian.Uint32(chunk[8+length:]) {
		return 0, 0, false
	}
	head := chunk[8 : 8+length]
	known := false
	for _, d := range depths[head[9]] {
		known = known || d == head[8]
	}
	w, h = int(int32(binary.BigEndian.Uint32(head))), int(int32(binary.BigEndian.Uint32(head[4:])))
	return w, h, known && head[10] == 0 && head[11] == 0 && head[12] <= 1 && w > 0 && h > 0
}

// jpegSize reads the segments up to the head of the frame (ITU-T T.81, B.1.1 and B.2.2).
func jpegSize(file []byte) (w, h int, ok bool) {
	if len(file) < 2 || file[0] != 0xff || file[1] != 0xd8 {
		return 0, 0, false
	}
	for at := 2; ; {
		for at < len(file) && file[at] != 0xff { // what some cameras leave between segments
			at++
		}
		for at < len(file) && file[at] == 0xff { // a marker may have any number of these before it
			at++
		}
		if at >= len(file) {
			return 0, 0, false
		}
		marker := file[at]
		at++
		switch {
		case marker == 0 || marker == 0x01 || marker >= 0xd0 && marker <= 0xd7: // these stand alone
			continue
		case marker == 0xd9 || marker == 0xda || len(file)-at < 2: // the end, or pixels before a frame
			return 0, 0, false
		}
		n := int(binary.BigEndian.Uint16(file[at:]))
		if n < 2 || n > len(file)-at {
			return 0, 0, false
		}
		if frame := file[at+2 : at+n]; marker >= 0xc0 && marker <= 0xc2 { // by the ways of coding that browsers know
			if len(frame) < 6 || frame[0] != 8 || len(frame) != 6+3*int(frame[5]) {
				return 0, 0, false
			}
			return int(binary.BigEndian.Uint16(frame[3:])), int(binary.BigEndian.Uint16(frame[1:])), true
		}
		at += n
	}
}
