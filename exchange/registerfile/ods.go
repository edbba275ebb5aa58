package registerfile

import (
	"archive/zip"
	"bytes"
	"encoding/xml"
	"errors"
	"fmt"
	"io"
	"path"
	"regexp"
	"strconv"
	"strings"

	"plaintracer/core/compose"
)

// Spreadsheets in the OpenDocument format (ISO/IEC 26300): the first table of content.xml. It is read as it comes,
// since all that is asked of it are the texts of its cells.

// mostContent is how large the content of a spreadsheet may be once it is unpacked, mostDeep how deep its elements lie
// in each other.
const (
	mostContent = 64 << 20
	mostDeep    = 200
)

const (
	tableSpace  = "urn:oasis:names:tc:opendocument:xmlns:table:1.0"
	officeSpace = "urn:oasis:names:tc:opendocument:xmlns:office:1.0"
	textSpace   = "urn:oasis:names:tc:opendocument:xmlns:text:1.0"
)

// isODS reports whether a file is a spreadsheet in the OpenDocument format, by its name or by how it begins.
func isODS(name string, data []byte) bool {
	return strings.EqualFold(path.Ext(name), ".ods") ||
		bytes.Contains(data[:min(len(data), 200)], []byte("mimetypeapplication/vnd.oasis.opendocument.spreadsheet"))
}

func readODS(data []byte, loose bool) (*compose.Sheet, error) {
	archive, err := zip.NewReader(bytes.NewReader(data), int64(len(data)))
	if err != nil {
		return nil, &Fault{Text: "the spreadsheet cannot be opened: " + err.Error()}
	}
	for _, f := range archive.File {
		if f.Name != "content.xml" {
			continue
		}
		part, err := f.Open()
		if err != nil {
			return nil, &Fault{Text: "the spreadsheet cannot be opened: " + err.Error()}
		}
		defer part.Close()
		bounded := &io.LimitedReader{R: part, N: mostContent}
		r := odsReader{d: xml.NewDecoder(bounded), loose: loose,
			out: &gathering{Sheet: &compose.Sheet{Rows: [][]string{}, Notes: []string{}}}}
		if err := r.read(); err != nil {
			var known *Fault
			switch {
			case bounded.N == 0:
				return nil, &Fault{Text: fmt.Sprintf("unpacked, the spreadsheet is larger than %d MB", mostContent>>20)}
			case errors.As(err, &known):
				return nil, known
			}
			return nil, &Fault{Text: "the spreadsheet cannot be read: " + err.Error()}
		}
		for n := len(r.out.Rows); n > 0 && len(r.out.Rows[n-1]) == 0; n-- { // empty rows are kept only between others
			r.out.Rows = r.out.Rows[:n-1]
		}
		return r.out.Sheet, r.out.fits()
	}
	return nil, &Fault{Text: "there is no table in the spreadsheet"}
}

// odsReader goes through the content of a spreadsheet.
type odsReader struct {
	d    *xml.Decoder
	out  *gathering
	line int
	row  []string
	// empty counts empty rows that are kept once another one follows.
	empty int
	cell  strings.Builder
	value string
	times int
	lines int // paragraphs of the cell
	loose bool
}

// read reads the first table.
func (r *odsReader) read() error {
	in, deep := false, 0
	rows := 1
	for {
		token, err := r.d.Token()
		if err == io.EOF {
			return nil
		}
		if err != nil {
			return err
		}
		switch t := token.(type) {
		case xml.StartElement:
			if deep++; deep > mostDeep {
				return &Fault{Text: "the elements of the spreadsheet lie too deep in each other"}
			}
			switch {
			case t.Name.Space == tableSpace && t.Name.Local == "table":
				in = true
			case !in:
			case t.Name.Space == tableSpace && t.Name.Local == "table-row":
				r.row, rows = nil, repeated(t, "number-rows-repeated")
			case t.Name.Space == tableSpace && (t.Name.Local == "table-cell" || t.Name.Local == "covered-table-cell"):
				r.cell.Reset()
				r.lines, r.times, r.value = 0, repeated(t, "number-columns-repeated"), ""
				r.value = valueOf(t, r.loose)
			case t.Name.Space == textSpace && t.Name.Local == "p":
				if r.lines++; r.lines > 1 {
					r.cell.WriteByte('\n')
				}
			case t.Name.Space == textSpace && t.Name.Local == "s":
				r.cell.WriteString(strings.Repeat(" ", min(repeatedIn(t, textSpace, "c"), 100)))
			case t.Name.Space == textSpace && t.Name.Local == "line-break":
				r.cell.WriteByte('\n')
			case t.Name.Space == officeSpace && t.Name.Local == "annotation": // which is not what the cell says
				if err := r.annotation(); err != nil {
					return err
				}
				deep--
			}
		case xml.EndElement:
			deep--
			switch {
			case !in || t.Name.Space != tableSpace:
			case t.Name.Local == "table":
				return nil
			case t.Name.Local == "table-cell" || t.Name.Local == "covered-table-cell":
				r.endCell()
			case t.Name.Local == "table-row":
				if err := r.endRow(rows); err != nil {
					return err
				}
			}
		case xml.CharData:
			if in && r.lines > 0 {
				r.cell.Write(t)
			}
		}
	}
}

// annotation reads what somebody said of the cell under way.
func (r *odsReader) annotation() error {
	var author, text strings.Builder
	in := &text
	for deep := 1; deep > 0; {
		token, err := r.d.Token()
		if err != nil {
			return err
		}
		switch t := token.(type) {
		case xml.StartElement:
			if deep++; deep > mostDeep {
				return &Fault{Text: "the elements of the spreadsheet lie too deep in each other"}
			}
			switch t.Name.Local {
			case "creator":
				in = &author
			case "date", "creator-initials":
				in = &strings.Builder{}
			case "p":
				if in = &text; text.Len() > 0 {
					text.WriteByte('\n')
				}
			}
		case xml.EndElement:
			deep--
		case xml.CharData:
			in.Write(t)
		}
	}
	r.out.comment(len(r.out.Rows)+r.empty, len(r.row), strings.TrimSpace(author.String()), text.String())
	return nil
}

// valueOf is what a cell holds where its text is only how that is shown: a day, a duration in minutes, an amount of
// money. Where any table is read, amounts are taken as they are shown.
func valueOf(t xml.StartElement, loose bool) string {
	switch attribute(t, officeSpace, "value-type") {
	case "date":
		if date := attribute(t, officeSpace, "date-value"); len(date) >= 10 {
			return date[:10]
		}
	case "time":
		if m := timeOf.FindStringSubmatch(attribute(t, officeSpace, "time-value")); m != nil {
			sum := 0.0
			for i, unit := range [...]float64{1440, 60, 1, 1.0 / 60} {
				n, _ := strconv.ParseFloat(m[i+1], 64)
				sum += n * unit
			}
			return minutes(sum)
		}
	case "currency":
		if !loose {
			return attribute(t, officeSpace, "value")
		}
	}
	return ""
}

// timeOf is a duration (ISO 8601, 5.5.2.2).
var timeOf = regexp.MustCompile(`^P(?:(\d+)D)?T(?:(\d+)H)?(?:(\d+)M)?(?:([\d.]+)S)?$`)

func (r *odsReader) endCell() {
	text := strings.TrimSpace(r.cell.String())
	if r.value != "" {
		text = r.value
	}
	r.lines = 0
	for range min(r.times, maxColumns+1-min(len(r.row), maxColumns+1)) {
		r.row = append(r.row, text)
	}
}

func (r *odsReader) endRow(times int) error {
	for len(r.row) > 0 && r.row[len(r.row)-1] == "" {
		r.row = r.row[:len(r.row)-1]
	}
	if len(r.row) == 0 {
		r.empty = min(r.empty+times, maxRows+1)
		r.line = min(r.line+times, 1<<30)
		return nil
	}
	for range r.empty {
		if err := r.out.add(nil, r.line); err != nil {
			return err
		}
	}
	r.empty = 0
	for range min(times, maxRows+1) {
		r.line++
		if err := r.out.add(r.row, r.line); err != nil {
			return err
		}
	}
	return nil
}

func attribute(e xml.StartElement, space, name string) string {
	for _, a := range e.Attr {
		if a.Name.Space == space && a.Name.Local == name {
			return a.Value
		}
	}
	return ""
}

// repeated returns how often a row or cell stands there.
func repeated(e xml.StartElement, name string) int { return repeatedIn(e, tableSpace, name) }

func repeatedIn(e xml.StartElement, space, name string) int {
	n, err := strconv.Atoi(attribute(e, space, name))
	if err != nil || n < 1 {
		return 1
	}
	return min(n, 1<<20)
}
