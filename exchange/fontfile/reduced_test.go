package fontfile

import (
	"math/rand/v2"
	"os"
	"testing"
)

// However often a font is reduced, and to whatever characters, the outcome draws them as the font does, and is small:
// no reduction damages the next one. Characters that are made of others, such as the colon, are among them.
func TestReducingAFontManyTimes(t *testing.T) {
	packed, err := os.ReadFile("../typeface/IBMPlexSans-Regular.woff2")
	if err != nil {
		t.Fatal(err)
	}
	data, err := Unpack(packed)
	if err != nil {
		t.Fatal(err)
	}
	f, err := Open(data)
	if err != nil {
		t.Fatal(err)
	}
	const all = "abcdefghijklmnopqrstuvwxyzABCDEFGHIJKLMNOPQRSTUVWXYZ0123456789 .,;:?!()-“”→äöüßéèçñÄÖÜ/&%'\"+*=<>…–·½¼"
	r := rand.New(rand.NewPCG(1, 2))
	for range 100 {
		text := ""
		for _, c := range all {
			if r.IntN(3) > 0 {
				text += string(c)
			}
		}
		if small := f.Subset(text); len(small) > len(data)/4 || !f.agrees(small, text) {
			t.Fatalf("%q: %d bytes of %d", text, len(small), len(data))
		}
	}
}
