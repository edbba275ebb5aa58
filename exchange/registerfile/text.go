package registerfile

import (
	"bytes"
	"encoding/csv"
	"errors"
	"fmt"
	"io"
	"slices"
	"strings"
	"unicode"
	"unicode/utf8"

	"golang.org/x/text/encoding"
	"golang.org/x/text/encoding/charmap"
	tounicode "golang.org/x/text/encoding/unicode"

	"plaintracer/core/compose"
	"plaintracer/exchange/cell"
)

// Encoding is a way in which the characters of a text are written as bytes.
type Encoding struct {
	// Name is that of the IANA's list of character sets, Title what people call it.
	Name, Title string
	encoding    encoding.Encoding
}

// Encodings are those that are read: the first is what is taken where nothing speaks against it.
var Encodings = []Encoding{
	{"utf-8", "UTF-8", encoding.Nop},
	{"utf-16le", "UTF-16", tounicode.UTF16(tounicode.LittleEndian, tounicode.UseBOM)},
	{"utf-16be", "UTF-16, other order of bytes", tounicode.UTF16(tounicode.BigEndian, tounicode.UseBOM)},
	{"windows-1252", "Windows-1252, Western Europe", charmap.Windows1252},
	{"windows-1250", "Windows-1250, Central Europe", charmap.Windows1250},
	{"iso-8859-15", "ISO 8859-15, Western Europe", charmap.ISO8859_15},
	{"macintosh", "Macintosh, Western Europe", charmap.Macintosh},
	{"ibm850", "DOS, Western Europe", charmap.CodePage850},
}

func encodingNamed(name string) *Encoding {
	for i := range Encodings {
		if strings.EqualFold(Encodings[i].Name, name) {
			return &Encodings[i]
		}
	}
	return nil
}

// recognised says in which encoding a text is, and whether that is sure: byte order marks and valid UTF-8 are, and so
// is text every other byte of which is zero. Among those of one byte a character it is a guess.
func recognised(data []byte) (e *Encoding, sure bool) {
	switch {
	case bytes.HasPrefix(data, []byte("\xff\xfe")):
		return encodingNamed("utf-16le"), true
	case bytes.HasPrefix(data, []byte("\xfe\xff")):
		return encodingNamed("utf-16be"), true
	}
	var zeros [2]int
	begin := data[:min(len(data), 4096)]
	for i, b := range begin {
		if b == 0 {
			zeros[i%2]++
		}
	}
	if many := len(begin) / 5; zeros[1] > many && zeros[0] < many/4 {
		return encodingNamed("utf-16le"), true
	} else if zeros[0] > many && zeros[1] < many/4 {
		return encodingNamed("utf-16be"), true
	}
	if utf8.Valid(data) {
		return &Encodings[0], true
	}
	// Letters with accents of Western Europe lie from C0 on in Windows-1252, and from 80 to 9F on a Macintosh and in
	// DOS; small ones are the more frequent. On a Macintosh ü is 9F, ä 8A and ö 9A, in DOS 81, 84 and 94.
	high, mac, dos := 0, 0, 0
	for _, b := range data {
		switch {
		case b >= 0xc0:
			high++
		case slices.Contains([]byte{0x8a, 0x9a, 0x9f, 0x8e, 0x8f, 0x88, 0x96, 0x87, 0x92, 0x97}, b):
			mac++
		}
		if slices.Contains([]byte{0x81, 0x84, 0x94, 0x82, 0x8a, 0x85, 0xa0, 0xa2, 0xa3, 0xa4}, b) {
			dos++
		}
	}
	switch {
	case mac > high && mac >= dos:
		return encodingNamed("macintosh"), false
	case dos > high:
		return encodingNamed("ibm850"), false
	}
	return encodingNamed("windows-1252"), false
}

// decoded is a text as UTF-8, with how it was read. A word of it is returned by which a person sees whether that is
// right, where it is not sure.
func decoded(data []byte, name string) (text string, e *Encoding, word string, err error) {
	e, sure := recognised(data)
	if name != "" {
		if e = encodingNamed(name); e == nil {
			return "", nil, "", &Fault{Text: fmt.Sprintf("there is no encoding %q", name)}
		}
	}
	out, err := e.encoding.NewDecoder().Bytes(data)
	if err != nil {
		return "", nil, "", &Fault{Text: "the table cannot be read as " + e.Title}
	}
	out = bytes.TrimPrefix(out, []byte("\xef\xbb\xbf"))
	if !utf8.Valid(out) {
		return "", nil, "", &Fault{Text: "the table is not in " + e.Title}
	}
	text = string(out)
	if strings.ContainsRune(text, 0) {
		return "", nil, "", &Fault{Text: "this is no table of text"}
	}
	if !sure || name != "" {
		for _, w := range strings.FieldsFunc(text, func(r rune) bool {
			return !unicode.IsLetter(r) &&
				r < utf8.RuneSelf
		}) {
			if strings.IndexFunc(w, func(r rune) bool { return r >= utf8.RuneSelf }) >= 0 {
				word = w
				break
			}
		}
	}
	return text, e, word, nil
}

// Separators are the signs that stand between the cells of a table of text, by their names.
var Separators = []struct {
	Name, Title string
	Sign        rune
}{{"comma", "a comma", ','}, {"semicolon", "a semicolon", ';'}, {"tab", "a tab", '\t'}, {"bar", "a bar", '|'}}

// separatorOf is the sign that parts the lines of a text into cells the most evenly: of which most of the first lines
// have as many, and more than none.
func separatorOf(text string) rune {
	const look = 40
	best, most := ',', 0
	for _, s := range Separators {
		r := csv.NewReader(strings.NewReader(text))
		r.Comma, r.FieldsPerRecord, r.LazyQuotes = s.Sign, -1, true
		counts, lines := map[int]int{}, 0
		for ; lines < look; lines++ {
			record, err := r.Read()
			if err != nil {
				break
			}
			counts[len(record)]++
		}
		for cells, n := range counts {
			if score := n*100/max(lines, 1)*10 + min(cells, 9); cells > 1 && score > most {
				best, most = s.Sign, score
			}
		}
	}
	return best
}

// readText reads a table of text.
func readText(data []byte, as As) (*compose.Sheet, error) {
	text, e, word, err := decoded(data, as.Encoding)
	if err != nil {
		return nil, err
	}
	r := csv.NewReader(strings.NewReader(text))
	r.Comma = separatorOf(text)
	for _, s := range Separators {
		if s.Name == as.Separator {
			r.Comma = s.Sign
		}
	}
	r.FieldsPerRecord = -1
	out := &gathering{Sheet: &compose.Sheet{Rows: [][]string{}, Notes: []string{}, Encoding: e.Name, Doubt: word}}
	for _, s := range Separators {
		if s.Sign == r.Comma {
			out.Separator = s.Name
		}
	}
	for at := 0; ; {
		record, err := r.Read()
		// Empty lines are rows as they are for a spreadsheet, which the reader leaves out.
		for end := int(r.InputOffset()); at < end && strings.ContainsRune("\r\n", rune(text[at])); at++ {
			if text[at] == '\n' && len(out.Rows) < maxRows && err == nil {
				out.Rows = append(out.Rows, []string{})
			}
		}
		at = int(r.InputOffset())
		if errors.Is(err, io.EOF) {
			break
		}
		var broken *csv.ParseError
		if errors.As(err, &broken) {
			return nil, &Fault{Row: broken.StartLine, Text: broken.Err.Error()}
		}
		if err != nil {
			return nil, &Fault{Text: err.Error()}
		}
		line, _ := r.FieldPos(0)
		for i := range record { // what was written so that no spreadsheet takes it for a formula
			record[i] = cell.Plain(record[i])
		}
		if err := out.add(record, line); err != nil {
			return nil, err
		}
	}
	return out.Sheet, out.fits()
}
