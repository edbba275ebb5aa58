package book

import (
	"archive/zip"
	"bytes"
	"encoding/xml"
	"fmt"
	"strings"
	"testing"
	"time"

	"github.com/xuri/excelize/v2"
)

// archive packs parts together, in pairs of a name and a text.
func archive(t testing.TB, parts ...string) []byte {
	t.Helper()
	var out bytes.Buffer
	z := zip.NewWriter(&out)
	for i := 0; i < len(parts); i += 2 {
		w, err := z.Create(parts[i])
		if err != nil {
			t.Fatal(err)
		}
		w.Write([]byte(parts[i+1]))
	}
	if err := z.Close(); err != nil {
		t.Fatal(err)
	}
	return out.Bytes()
}

// Small files that once took seconds and gigabytes of whatever read them are refused before anything is built of them;
// what people fill in is not.
func TestSmallBooksThatAskForMuch(t *testing.T) {
	rich := strings.Repeat(`<r><rPr><b/></rPr><t>x</t></r>`, 2_000_000/5)
	for name, c := range map[string]struct {
		why  string
		data []byte
	}{
		"2.5 million style records": {"more than 50000 elements",
			archive(t, "xl/styles.xml", "<styleSheet><cellXfs>"+strings.Repeat("<xf/>", 2_500_000)+
				"</cellXfs></styleSheet>")},
		"rich text": {"more than 400000 elements",
			archive(t, "xl/sharedStrings.xml", "<sst><si>"+rich+"</si></sst>")},
		"deep elements": {"more than 64 deep", archive(t, "xl/workbook.xml",
			strings.Repeat("<a>", 1_000_000))},
		"deep elements in a sheet": {"more than 64 deep", archive(t, "xl/worksheets/sheet1.xml",
			"<worksheet>"+strings.Repeat(`<a b="x>y">`, 100))},
		"shared strings": {"more than 400000 elements",
			archive(t, "xl/sharedStrings.xml", "<sst>"+strings.Repeat("<si><t/></si>", 1_500_000)+"</sst>")},
		"many parts": {"has 600 parts", archive(t, func() (list []string) {
			for i := range 600 {
				list = append(list, fmt.Sprintf("xl/p%d.xml", i), "<a/>")
			}
			return list
		}()...)},
		"the same part twice": {"twice", archive(t, "xl/workbook.xml", "<a/>", "XL/Workbook.xml", "<a/>")},
		"much in all": {"more than 2000000 elements",
			archive(t, "xl/worksheets/sheet1.xml", "<w>"+strings.Repeat("<c/>", 1_100_000)+"</w>",
				"xl/worksheets/sheet2.xml", "<w>"+strings.Repeat("<c/>", 1_100_000)+"</w>")},
		"attributes": {"attributes", archive(t, "xl/worksheets/sheet1.xml",
			"<w "+strings.Repeat("a='' ", 3_100_000)+"/>")},
		"a bomb": {"unpacks to more than 64 MB",
			archive(t, "xl/media/image1.png", strings.Repeat("\x00", 70<<20))},
		"hidden behind a comment": {"more than 64 deep", archive(t, "xl/workbook.xml",
			"<!-- > --><![CDATA[ > ]]><?x ?>"+strings.Repeat("<a>", 100))},
		"no archive": {"no archive", []byte("PK\x03\x04 and nothing more")},
		"no book":    {"cannot be read", archive(t, "readme.txt", "hello")},
	} {
		begun := time.Now()
		book, err := Open(c.data, true)
		if err == nil {
			book.Close()
		}
		if err == nil || !strings.Contains(err.Error(), c.why) {
			t.Errorf("%s (%d KB): %v", name, len(c.data)>>10, err)
		}
		t.Logf("%s, %d KB: %v", name, len(c.data)>>10, time.Since(begun).Round(time.Millisecond))
	}
	f := excelize.NewFile()
	for row := 1; row <= 3000; row++ {
		line := []any{row, "A text with <signs> & \"quotes\"", 1.5, true, fmt.Sprint("Step ", row)}
		if err := f.SetSheetRow("Sheet1", fmt.Sprint("A", row), &line); err != nil {
			t.Fatal(err)
		}
	}
	var out bytes.Buffer
	if err := f.Write(&out); err != nil {
		t.Fatal(err)
	}
	book, err := Open(out.Bytes(), true)
	if err != nil {
		t.Fatalf("a table of 3,000 rows: %v", err)
	}
	defer book.Close()
	rows, err := book.GetRows("Sheet1")
	if err != nil || len(rows) != 3000 || rows[9][1] != "A text with <signs> & \"quotes\"" {
		t.Errorf("%d rows, %v", len(rows), err)
	}
}

// What is counted of an XML text is never less than what a parser would find in it.
func FuzzCount(f *testing.F) {
	for _, text := range []string{"<a/>", "<a><b c='>'/></a>", "<!-- <a> --><b/>", "<![CDATA[<a>]]><b/>",
		"<?x <a> ?><b/>", `<!DOCTYPE x [<!ENTITY y "<z>">]><b/>`, "<!--><a/>-->", "<a\n/>", "</a>", "<a b=\"<c>\"/>"} {
		f.Add(text)
	}
	f.Fuzz(func(t *testing.T, text string) {
		c := counter{room: 1 << 30, most: 1 << 30}
		c.scan([]byte(text)) // beyond the depth it stops, and is refused
		elements, depth := parsed(text)
		if depth > maxDepth {
			return
		}
		if c.elements < elements {
			t.Errorf("%q: %d elements are counted, and a parser finds %d", text, c.elements, elements)
		}
	})
}

// parsed is how many elements a parser finds in a text up to its first fault, and how deep they stand.
func parsed(text string) (elements, deepest int) {
	d := xml.NewDecoder(strings.NewReader(text))
	depth := 0
	for {
		token, err := d.Token()
		if err != nil {
			return elements, deepest
		}
		switch token.(type) {
		case xml.StartElement:
			elements++
			depth++
			deepest = max(deepest, depth)
		case xml.EndElement:
			depth--
		}
	}
}
