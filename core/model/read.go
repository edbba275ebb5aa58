package model

import (
	"encoding/json"
	"math"
	"unicode/utf8"
)

//go:generate sh -c "cd ../.. && go run ./tools/mapcode"

// ReadMap reads a map from its JSON form, which is what json.Unmarshal makes of it, several times as fast. It does not
// say whether the map is sound.
func ReadMap(doc []byte) (*Map, error) {
	r := reader{data: doc}
	m := new(Map)
	r.readMap(m)
	r.space()
	if r.bad || r.at != len(doc) {
		m = new(Map)
		if err := json.Unmarshal(doc, m); err != nil {
			return m, err
		}
	}
	m.SettleAll()
	return m, nil
}

// reader reads JSON (RFC 8259) as json.Marshal writes it. What is written in another way, though it may mean the same,
// is bad:
// an unknown name, one that stands there twice, null for something that is no list or pointer, a fraction, an escape
// that the encoder does not use. Once something was bad, nothing is read any more.
type reader struct {
	data []byte
	at   int
	bad  bool
}

func (r *reader) space() {
	for r.at < len(r.data) {
		switch r.data[r.at] {
		case ' ', '\t', '\n', '\r':
			r.at++
		default:
			return
		}
	}
}

// take goes past a character, which has to be the next one.
func (r *reader) take(c byte) {
	r.space()
	if r.bad || r.at >= len(r.data) || r.data[r.at] != c {
		r.bad = true
		return
	}
	r.at++
}

// word goes past a word, and reports whether it was there.
func (r *reader) word(w string) bool {
	r.space()
	if r.bad || len(r.data)-r.at < len(w) || string(r.data[r.at:r.at+len(w)]) != w {
		return false
	}
	r.at += len(w)
	return true
}

// begin opens an object or a list, whose parts next goes through: first says that the next part is the first.
func (r *reader) begin(c byte) (first bool) {
	r.take(c)
	return true
}

// next reports whether another part follows, or else goes past the end.
func (r *reader) next(first *bool, end byte) bool {
	if r.space(); r.bad || r.at >= len(r.data) {
		r.bad = true
		return false
	}
	if r.data[r.at] == end {
		r.at++
		return false
	}
	if !*first {
		r.take(',')
	}
	*first = false
	return !r.bad
}

// key reads the name of a part of an object; it is valid until something else is read.
func (r *reader) key() []byte {
	begin, end, plain := r.quoted()
	if !plain {
		r.bad = true
		return nil
	}
	r.take(':')
	return r.data[begin:end]
}

// once notes that a name stood there, which it may only once.
func (r *reader) once(seen *uint64, i int) {
	r.bad = r.bad || *seen&(1<<i) != 0
	*seen |= 1 << i
}

func (r *reader) null() bool { return r.word("null") }

func (r *reader) truth() bool {
	if r.word("true") {
		return true
	}
	r.bad = r.bad || !r.word("false")
	return false
}

func (r *reader) number() int {
	r.space()
	negative := r.word("-")
	begin, n := r.at, 0
	for r.at < len(r.data) && r.data[r.at] >= '0' && r.data[r.at] <= '9' {
		if n > math.MaxInt32 { // far beyond every length; what is larger still may not be a number for us
			r.bad = true
			return 0
		}
		n = 10*n + int(r.data[r.at]-'0')
		r.at++
	}
	switch {
	case r.at == begin, r.at-begin > 1 && r.data[begin] == '0':
		r.bad = true
	case r.at < len(r.data) && (r.data[r.at] == '.' || r.data[r.at] == 'e' || r.data[r.at] == 'E'):
		r.bad = true
	}
	if negative {
		return -n
	}
	return n
}

// quoted goes past a string and returns where it begins and ends inside its quotes; plain says that it stands there as
// it is.
func (r *reader) quoted() (begin, end int, plain bool) {
	r.take('"')
	begin, plain = r.at, true
	ascii := true
	for ; r.at < len(r.data) && !r.bad; r.at++ {
		switch c := r.data[r.at]; {
		case c == '"':
			end = r.at
			r.at++
			r.bad = r.bad || !ascii && !utf8.Valid(r.data[begin:end])
			return begin, end, plain
		case c == '\\':
			plain = false
			r.at++
		case c < ' ':
			r.bad = true
		case c >= utf8.RuneSelf:
			ascii = false
		}
	}
	r.bad = true
	return 0, 0, false
}

func (r *reader) text() string {
	begin, end, plain := r.quoted()
	if r.bad {
		return ""
	}
	if plain {
		return string(r.data[begin:end])
	}
	out := make([]byte, 0, end-begin)
	for i := begin; i < end; i++ {
		c := r.data[i]
		if c != '\\' {
			out = append(out, c)
			continue
		}
		i++
		switch c = r.data[i]; c {
		case '"', '\\', '/':
			out = append(out, c)
		case 'b':
			out = append(out, '\b')
		case 'f':
			out = append(out, '\f')
		case 'n':
			out = append(out, '\n')
		case 'r':
			out = append(out, '\r')
		case 't':
			out = append(out, '\t')
		case 'u':
			letter := rune(0)
			for k := 1; k <= 4; k++ {
				if i+k >= end {
					r.bad = true
					return ""
				}
				d := hexDigit(r.data[i+k])
				r.bad = r.bad || d < 0
				letter = letter<<4 | d
			}
			// one half of a pair: the encoder writes none
			if r.bad = r.bad || letter >= 0xd800 && letter < 0xe000; r.bad {
				return ""
			}
			out = utf8.AppendRune(out, letter)
			i += 4
		default:
			r.bad = true
			return ""
		}
	}
	return string(out)
}

func hexDigit(c byte) rune {
	switch {
	case c >= '0' && c <= '9':
		return rune(c - '0')
	case c >= 'a' && c <= 'f':
		return rune(c-'a') + 10
	case c >= 'A' && c <= 'F':
		return rune(c-'A') + 10
	}
	return -1
}

// other has encoding/json read a value that has a way of its own.
func (r *reader) other(to any) {
	r.space()
	begin, depth := r.at, 0
	for !r.bad && r.at < len(r.data) {
		switch r.data[r.at] {
		case '{', '[':
			depth++
		case '}', ']':
			depth--
		case '"':
			r.quoted()
			r.at--
		case ',':
			if depth == 0 {
				depth = -1
			}
		}
		if depth < 0 { // the end of what it stands in
			break
		}
		if r.at++; depth == 0 && (r.data[r.at-1] == '}' || r.data[r.at-1] == ']' || r.data[r.at-1] == '"') {
			break
		}
	}
	r.bad = r.bad || json.Unmarshal(r.data[begin:r.at], to) != nil
}
