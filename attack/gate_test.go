package attack

import (
	"archive/zip"
	"bytes"
	"fmt"
	"io"
	"mime/multipart"
	"net/http"
	"os"
	"path/filepath"
	"strings"
	"sync"
	"testing"
	"time"

	"plaintracer/e2e/program"
)

// book packs the parts of a spreadsheet, in pairs of a name and a text, beside what every one has.
func book(t testing.TB, parts ...string) []byte {
	t.Helper()
	have := map[string]string{
		"[Content_Types].xml": `<Types xmlns="http://schemas.openxmlformats.org/package/2006/content-types"><Default Extension="rels" ContentType="application/vnd.openxmlformats-package.relationships+xml"/><Default Extension="xml" ContentType="application/xml"/><Override PartName="/xl/workbook.xml" ContentType="application/vnd.openxmlformats-officedocument.spreadsheetml.sheet.main+xml"/></Types>`,
		"_rels/.rels":         `<Relationships xmlns="http://schemas.openxmlformats.org/package/2006/relationships"><Relationship Id="r1" Type="http://schemas.openxmlformats.org/officeDocument/2006/relationships/officeDocument" Target="xl/workbook.xml"/></Relationships>`,
		"xl/workbook.xml":     `<workbook xmlns="http://schemas.openxmlformats.org/spreadsheetml/2006/main" xmlns:r="http://schemas.openxmlformats.org/officeDocument/2006/relationships"><sheets><sheet name="Register" sheetId="1" r:id="r1"/></sheets></workbook>`,
		"xl/_rels/workbook.xml.rels": `<Relationships xmlns="http://schemas.openxmlformats.org/package/2006/relationships"><Relationship Id="r1" Type="http://schemas.openxmlformats.org/officeDocument/2006/relationships/worksheet" Target="worksheets/sheet1.xml"/>
			<Relationship Id="r2" Type="http://schemas.openxmlformats.org/officeDocument/2006/relationships/styles" Target="styles.xml"/><Relationship Id="r3" Type="http://schemas.openxmlformats.org/officeDocument/2006/relationships/sharedStrings" Target="sharedStrings.xml"/></Relationships>`,
		"xl/worksheets/sheet1.xml": `<worksheet xmlns="http://schemas.openxmlformats.org/spreadsheetml/2006/main"><sheetData><row r="1"><c r="A1" t="s" s="1"><v>0</v></c></row></sheetData></worksheet>`,
		"xl/styles.xml":            `<styleSheet xmlns="http://schemas.openxmlformats.org/spreadsheetml/2006/main"/>`,
		"xl/sharedStrings.xml":     `<sst xmlns="http://schemas.openxmlformats.org/spreadsheetml/2006/main"><si><t>id</t></si></sst>`,
	}
	for i := 0; i < len(parts); i += 2 {
		have[parts[i]] = parts[i+1]
	}
	var out bytes.Buffer
	z := zip.NewWriter(&out)
	for name, text := range have {
		w, err := z.Create(name)
		if err != nil {
			t.Fatal(err)
		}
		w.Write([]byte(text))
	}
	if err := z.Close(); err != nil {
		t.Fatal(err)
	}
	return out.Bytes()
}

// greedy are files that once cost seconds and gigabytes, and others like them, just within the bounds of each count.
func greedy(t testing.TB) map[string][]byte {
	const main = `xmlns="http://schemas.openxmlformats.org/spreadsheetml/2006/main"`
	carrierSpace := `xmlns="urn:plaintracer:map"`
	return map[string][]byte{
		"styles.xlsx": book(t, "xl/styles.xml",
			`<styleSheet `+main+`><cellXfs>`+strings.Repeat("<xf/>", 2_500_000)+`</cellXfs></styleSheet>`),
		"less styles.xlsx": book(t, "xl/styles.xml", `<styleSheet `+main+`><cellXfs>`+strings.Repeat("<xf/>", 49_000)+
			`</cellXfs></styleSheet>`),
		"rich.xlsx": book(t, "xl/sharedStrings.xml",
			`<sst `+main+`><si>`+strings.Repeat("<r><rPr><b/></rPr><t>x</t></r>", 79_000)+`</si></sst>`),
		"strings.xlsx": book(t, "xl/sharedStrings.xml", `<sst `+main+`>`+strings.Repeat("<si><t/></si>", 199_000)+
			`</sst>`),
		"deep.xlsx": book(t, "xl/workbook.xml", strings.Repeat("<a>", 2_000_000)),
		"cells.xlsx": book(t, "xl/worksheets/sheet1.xml",
			`<worksheet `+main+`><sheetData>`+strings.Repeat(`<row>`+strings.Repeat("<c><v>1</v></c>", 190)+`</row>`,
				3100)+`</sheetData></worksheet>`),
		"formulas.xlsx": book(t, "xl/worksheets/sheet1.xml",
			`<worksheet `+main+`><sheetData>`+strings.Repeat(`<row>`+strings.Repeat("<c><f>1</f><v>1</v></c>", 190)+
				`</row>`, 2000)+`</sheetData></worksheet>`),
		"merged.xlsx": book(t, "xl/worksheets/sheet1.xml",
			`<worksheet `+main+`><sheetData/><mergeCells>`+strings.Repeat(`<mergeCell ref="A1:B2"/>`, 1_000_000)+
				`</mergeCells></worksheet>`),
		"attachments.pdf": append([]byte("%PDF-1.7\n"), bytes.Repeat([]byte("/EmbeddedFile "), 1_000_000)...),
		"streams.pdf":     append([]byte("%PDF-1.7\n"), bytes.Repeat([]byte("/EmbeddedFile >>stream\n"), 800_000)...),
		"flate.pdf": append([]byte("%PDF-1.7\n"),
			bytes.Repeat([]byte("obj</EmbeddedFile/FlateDecode>>stream\nx\x9cendstream"), 300_000)...),
		"drawing.svg": []byte(`<svg xmlns="http://www.w3.org/2000/svg">` + strings.Repeat("<g a='b'>", 1_800_000) +
			`<map ` + carrierSpace + `/>`),
		"lines.csv": []byte("id,text\n" + strings.Repeat("\"\n", 3_900_000)),
		"cells.csv": []byte("id,text\n" + strings.Repeat(",", 7_900_000)),
		"map.tracer.json": []byte(`{"format":"plain-tracer-map","version":1,"title":"` + strings.Repeat("x", 19<<20) +
			`"}`),
		"texts.json": []byte(`{"format":"plain-tracer-map","version":1,"answers":[` + strings.Repeat(`"a",`,
			4_900_000) + `"b"]}`),
	}
}

// sendFile sends a file with a form as a page does, and returns the status of the answer, its text, and where it leads
// on.
func sendFile(s *program.Server, path, name string, file []byte) (code int, said, to string, err error) {
	var body bytes.Buffer
	form := multipart.NewWriter(&body)
	part, err := form.CreateFormFile("file", name)
	if err != nil {
		return 0, "", "", err
	}
	part.Write(file)
	form.Close()
	req, err := http.NewRequest("POST", s.URL+path, &body)
	if err != nil {
		return 0, "", "", err
	}
	req.Header.Set("Content-Type", form.FormDataContentType())
	req.Header.Set("Accept", "application/json")
	r, err := s.Do(req)
	if err != nil {
		return 0, "", "", err
	}
	defer r.Body.Close()
	raw, err := io.ReadAll(r.Body)
	return r.StatusCode, string(raw), r.Header.Get("Location"), err
}

// Whatever file is brought, and however many at once, the server answers each with a map or a plain word, takes little
// memory itself, and goes on with others. What reads them is ended at 3 s of a processor and 300 MB.
func TestFilesThatAskForMuchGoThroughTheGate(t *testing.T) {
	s := program.Start(t, "serve")
	id := create(t, s, 1)
	w, err := newWindow(s, id)
	if err != nil {
		t.Fatal(err)
	}
	if err := w.connect(w.Revision); err != nil {
		t.Fatal(err)
	}
	defer w.conn.Close()
	files := greedy(t)
	before := memoryOf(s.PID())
	var all sync.WaitGroup
	turns := make(chan struct{}, 3) // three at once took 3.3 GB
	for name, file := range files {
		paths := []string{"/maps/open"}
		if strings.HasSuffix(name, ".xlsx") || strings.HasSuffix(name, ".csv") {
			paths = append(paths, "/maps/"+id+"/table")
		}
		for _, path := range paths {
			all.Go(func() {
				turns <- struct{}{}
				defer func() { <-turns }()
				begun := time.Now()
				code, said, _, err := sendFile(s, path, name, file)
				if err != nil {
					t.Errorf("%s to %s: %v", name, path, err)
					return
				}
				asks := strings.Contains(said, "data-question") // how a table is meant
				if code != 303 && code != 400 && code != 503 && (code != 200 || path == "/maps/open" && !asks) {
					t.Errorf("%s to %s is answered by %d: %.300s", name, path, code, said)
				}
				t.Logf("%s, %d KB, to %s: %v, %d %.120s", name, len(file)>>10, path,
					time.Since(begun).Round(time.Millisecond), code, said)
			})
		}
	}
	over := make(chan struct{})
	go func() { all.Wait(); close(over) }()
	for n := 1; ; n++ { // somebody goes on editing meanwhile
		edit := addStep(w, n, fmt.Sprint("Step ", n))
		if n > 1 {
			edit = move(w.Window+"-1", n)
		}
		if err := w.send(n, edit); err != nil {
			t.Fatal(err)
		}
		if a, err := w.until("saved", "refused"); err != nil || a.Kind != "saved" {
			t.Fatalf("an edit meanwhile: %+v, %v", a, err)
		}
		select {
		case <-over:
			// beside the bodies of three requests of 20 MB, as they come and as they are handed on
			const most = 500 << 20
			if now := memoryOf(s.PID()); now > most {
				t.Errorf("the server took %d MB, and %d before", now>>20, before>>20)
			}
			t.Logf("the server took at most %d MB; %d edits meanwhile", memoryOf(s.PID())>>20, n)
			if left, err := filepath.Glob(filepath.Join(os.TempDir(), "excelize-*")); err != nil || len(left) > 0 {
				t.Errorf("left behind: %v, %v", left, err)
			}
			return
		case <-time.After(50 * time.Millisecond):
		}
	}
}
