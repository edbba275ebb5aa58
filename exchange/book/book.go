// Package book opens spreadsheets from outside (Office Open XML, ISO/IEC 29500) within bounds. A small file can hold
// millions of elements, or elements millions deep, which the library that reads it would build in memory: they are
// counted while the file is unpacked, before the library sees it.
package book

import (
	"archive/zip"
	"bytes"
	"encoding/xml"
	"errors"
	"fmt"
	"io"
	"path"
	"regexp"
	"strings"

	"github.com/xuri/excelize/v2"
)

// The bounds of a spreadsheet: its parts, what it unpacks to, and the elements of its parts and how deep they stand in
// one another. A register of 5,000 steps with 30 columns has 450,000 elements in its sheet.
const (
	maxUnpacked   = 64 << 20
	maxParts      = 500
	maxSheet      = 1_200_000 // elements of a sheet
	maxTexts      = 400_000   // of the texts that sheets share
	maxOther      = 50_000    // of any other part
	maxAll        = 2_000_000
	maxDepth      = 64
	maxAttributes = 3_000_000 // equals signs within tags, of all parts
)

// Open opens a spreadsheet. Raw has cells be read as they are stored, not as they are shown.
func Open(data []byte, raw bool) (*excelize.File, error) {
	if err := bounded(data); err != nil {
		return nil, err
	}
	book, err := excelize.OpenReader(bytes.NewReader(data), excelize.Options{UnzipSizeLimit: maxUnpacked,
		UnzipXMLSizeLimit: maxUnpacked, RawCellValue: raw})
	if err != nil {
		return nil, fmt.Errorf("the spreadsheet cannot be read: %w", err)
	}
	if len(book.GetSheetList()) == 0 {
		return nil, errors.Join(errors.New("the spreadsheet has no sheet"), book.Close())
	}
	return book, nil
}

// bounded unpacks all parts of an archive, and reports one that goes beyond the bounds.
func bounded(data []byte) error {
	z, err := zip.NewReader(bytes.NewReader(data), int64(len(data)))
	if err != nil {
		return errors.New("the spreadsheet cannot be read: it is no archive, or is damaged")
	}
	if len(z.File) > maxParts {
		return fmt.Errorf("the spreadsheet has %d parts; at most %d are read", len(z.File), maxParts)
	}
	c := counter{room: maxUnpacked}
	seen := map[string]bool{}
	for _, f := range z.File {
		name := strings.ToLower(path.Clean("/" + f.Name))
		if seen[name] {
			return fmt.Errorf("the spreadsheet cannot be read: it holds the part %.60q twice", f.Name)
		}
		seen[name] = true
		c.part = f.Name
		switch c.most = maxOther; {
		case strings.Contains(name, "/worksheets/"):
			c.most = maxSheet
		case strings.HasSuffix(name, "/sharedstrings.xml"):
			c.most = maxTexts
		}
		if err := c.count(f); err != nil {
			return err
		}
	}
	return nil
}

// counter counts the elements of parts as they are unpacked.
type counter struct {
	room               int64
	part               string
	most, elements     int
	all, depth, equals int
	state              byte
	quote              byte
	closing, empty     bool
	begin              []byte
}

func (c *counter) count(f *zip.File) error {
	r, err := f.Open()
	if err != nil {
		return fmt.Errorf("the spreadsheet cannot be read: its part %.60q is damaged", f.Name)
	}
	defer r.Close()
	c.elements, c.depth, c.state = 0, 0, outside
	buf := make([]byte, 64<<10)
	for {
		n, err := r.Read(buf)
		if c.room -= int64(n); c.room < 0 {
			return fmt.Errorf("the spreadsheet unpacks to more than %d MB", maxUnpacked>>20)
		}
		if fault := c.scan(buf[:n]); fault != nil {
			return fault
		}
		if errors.Is(err, io.EOF) {
			return nil
		}
		if err != nil {
			return fmt.Errorf("the spreadsheet cannot be read: its part %.60q is damaged", f.Name)
		}
	}
}

// Where the scan stands: between tags, behind the sign that begins one, in one, in an attribute's value, or in what is
// no element.
const (
	outside = iota
	opened
	inside
	quoted
	aside // a comment, a declaration, a processing instruction or text that is marked as such
)

func (c *counter) scan(data []byte) error {
	for _, b := range data {
		switch c.state {
		case outside:
			if b == '<' {
				c.state = opened
			}
		case opened:
			c.state, c.closing, c.empty = inside, b == '/', false
			switch b {
			case '!', '?':
				c.state, c.begin = aside, append(c.begin[:0], b)
			case '/':
				c.depth--
			default:
				c.elements++
				c.all++
				if c.depth++; c.depth > maxDepth {
					return fmt.Errorf("the part %.60q of the spreadsheet has elements more than %d deep in one another",
						c.part, maxDepth)
				}
				if c.elements > c.most {
					return fmt.Errorf("the part %.60q of the spreadsheet has more than %d elements", c.part, c.most)
				}
				if c.all > maxAll {
					return fmt.Errorf("the spreadsheet has more than %d elements", maxAll)
				}
			}
		case inside:
			switch b {
			case '"', '\'':
				c.state, c.quote = quoted, b
			case '>':
				if c.empty && !c.closing {
					c.depth--
				}
				c.state = outside
			case '=':
				if c.equals++; c.equals > maxAttributes {
					return fmt.Errorf("the spreadsheet has more than %d attributes", maxAttributes)
				}
			}
			c.empty = b == '/'
		case quoted:
			if b == c.quote {
				c.state = inside
			}
		case aside:
			c.ends(b)
		}
	}
	return nil
}

// ends looks for the end of what is no element, by how it began.
func (c *counter) ends(b byte) {
	if len(c.begin) < 9 { // as much as tells the kinds apart
		c.begin = append(c.begin, b)
	} else {
		copy(c.begin[6:8], c.begin[7:9])
		c.begin[8] = b
	}
	if b != '>' {
		return
	}
	text := string(c.begin)
	switch {
	case strings.HasPrefix(text, "!--"):
		if !strings.HasSuffix(text, "-->") || len(text) < 6 {
			return
		}
	case strings.HasPrefix(text, "![CD"):
		if !strings.HasSuffix(text, "]]>") {
			return
		}
	}
	c.state = outside
}

// mayCompute finds what may be a formula in a sheet, quickly; Computed looks closer.
var mayCompute = regexp.MustCompile(`<(?:[\pL_][\pL\pN_.-]*:)?f[\s/>]`)

// Computed are the cells of a sheet that hold formulas, as numbers of a row and a column from 1. The sheet is read as a
// parser reads it, whatever prefixes, quotes and order of attributes it is written with (ISO/IEC 29500-1, 18.3.1).
func Computed(book *excelize.File, sheet string) (map[[2]int]bool, error) {
	part, err := partOf(book, sheet)
	if err != nil || part == nil || !mayCompute.Match(part) {
		return nil, err
	}
	out := map[[2]int]bool{}
	row, column := 0, 0
	d := xml.NewDecoder(bytes.NewReader(part))
	for {
		t, err := d.Token()
		if errors.Is(err, io.EOF) {
			return out, nil
		}
		if err != nil {
			return nil, fmt.Errorf("the first sheet cannot be read: %w", err)
		}
		at, ok := t.(xml.StartElement)
		if !ok {
			continue
		}
		switch at.Name.Local {
		case "row":
			row, column = row+1, 0
			if n := number(attribute(at, "r")); n > 0 {
				row = n
			}
		case "c":
			column++
			if ref := attribute(at, "r"); ref != "" {
				if x, y, err := excelize.CellNameToCoordinates(ref); err == nil {
					column, row = x, y
				}
			}
		case "f":
			out[[2]int{row, column}] = true
		}
	}
}

// MayMerge reports whether a sheet may hold merged cells: whether it does, the library says, which reads the whole
// sheet for it.
func MayMerge(book *excelize.File, sheet string) (bool, error) {
	part, err := partOf(book, sheet)
	return bytes.Contains(part, []byte("mergeCell")), err
}

func attribute(e xml.StartElement, name string) string {
	for _, a := range e.Attr {
		if a.Name.Local == name && a.Name.Space == "" {
			return strings.TrimSpace(a.Value)
		}
	}
	return ""
}

func number(text string) (n int) {
	for _, r := range text {
		if r < '0' || r > '9' || n > 1<<24 {
			return 0
		}
		n = n*10 + int(r-'0')
	}
	return n
}

// partOf returns a sheet of a book as it is written; nil where it is not found.
func partOf(book *excelize.File, name string) ([]byte, error) {
	read := func(part string) []byte {
		raw, _ := book.Pkg.Load(part)
		data, _ := raw.([]byte)
		return data
	}
	if book.WorkBook == nil {
		return nil, nil
	}
	for _, s := range book.WorkBook.Sheets.Sheet {
		if s.Name != name {
			continue
		}
		var relations struct {
			List []struct {
				ID     string `xml:"Id,attr"`
				Target string `xml:"Target,attr"`
			} `xml:"Relationship"`
		}
		if err := xml.Unmarshal(read("xl/_rels/workbook.xml.rels"), &relations); err != nil {
			return nil, fmt.Errorf("the spreadsheet cannot be read: %w", err)
		}
		for _, rel := range relations.List {
			if rel.ID == s.ID {
				if target, ok := strings.CutPrefix(rel.Target, "/"); ok {
					return read(path.Clean(target)), nil
				}
				return read(path.Join("xl", rel.Target)), nil
			}
		}
	}
	return nil, nil
}
