package exchange_test

import (
	"bytes"
	"encoding/binary"
	"image/jpeg"
	"image/png"
	"math"
	"testing"
)

// Pictures say how many of their pixels there are to the inch, as PNG (third edition, 11.3.4.3) and JFIF (ITU-T T.871,
// 10.1) have it: a sheet has 96, and a picture of twice the size 192.
func TestPicturesSayTheirDots(t *testing.T) {
	m := two(t)
	for _, c := range []struct {
		pairs []string
		want  float64
	}{{[]string{"scale", "1"}, 96}, {[]string{"scale", "2"}, 192}, {[]string{"size", "print", "width", "100", "dots",
		"150"}, 150}} {
		file := made(t, m, "png", append([]string{"what", "sheet"}, c.pairs...)...).Data
		at := bytes.Index(file, []byte("pHYs"))
		if at < 0 {
			t.Fatalf("%v: a PNG file does not say it", c.pairs)
		}
		metre := binary.BigEndian.Uint32(file[at+4:])
		if got := float64(metre) * 0.0254; math.Abs(got-c.want) > 0.5 || file[at+12] != 1 {
			t.Errorf("%v: a PNG file says %.2f dots to the inch, not %.0f", c.pairs, got, c.want)
		}
		if _, err := png.Decode(bytes.NewReader(file)); err != nil {
			t.Error(err)
		}
		file = made(t, m, "jpeg", append([]string{"what", "sheet"}, c.pairs...)...).Data
		if !bytes.Equal(file[:13], []byte("\xff\xd8\xff\xe0\x00\x10JFIF\x00\x01\x02")) || file[13] != 1 {
			t.Fatalf("%v: a JPEG file begins with %x", c.pairs, file[:20])
		}
		if x, y := binary.BigEndian.Uint16(file[14:]), binary.BigEndian.Uint16(file[16:]); x != y ||
			math.Abs(float64(x)-c.want) > 1 {
			t.Errorf("%v: a JPEG file says %d by %d dots to the inch, not %.0f", c.pairs, x, y, c.want)
		}
		if _, err := jpeg.Decode(bytes.NewReader(file)); err != nil {
			t.Error(err)
		}
	}
}
