package exchange_test

import (
	"archive/zip"
	"bytes"
	"io"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"

	"plaintracer/core/procedure"
	"plaintracer/exchange/document"
)

// packed makes a file of others, in pairs of a name and what is in it.
func packed(t testing.TB, pairs ...string) []byte {
	t.Helper()
	var out bytes.Buffer
	z := zip.NewWriter(&out)
	for i := 0; i < len(pairs); i += 2 {
		w, err := z.Create(pairs[i])
		if err == nil {
			_, err = io.WriteString(w, pairs[i+1])
		}
		if err != nil {
			t.Fatal(err)
		}
	}
	if err := z.Close(); err != nil {
		t.Fatal(err)
	}
	return out.Bytes()
}

// unpacked are the files in a file.
func unpacked(t testing.TB, file []byte) map[string]string {
	t.Helper()
	z, err := zip.NewReader(bytes.NewReader(file), int64(len(file)))
	if err != nil {
		t.Fatal(err)
	}
	out := map[string]string{}
	for _, f := range z.File {
		r, err := f.Open()
		if err != nil {
			t.Fatal(err)
		}
		data, err := io.ReadAll(r)
		if err != nil {
			t.Fatal(err)
		}
		if out[f.Name] != "" {
			t.Errorf("%s is inside twice", f.Name)
		}
		out[f.Name] = string(data)
	}
	return out
}

// A house's document as a German word processor keeps it: ids of styles in its language, its name in the head of pages,
// a list of its own.
func houseWord(t testing.TB) []byte {
	const w = `xmlns:w="http://schemas.openxmlformats.org/wordprocessingml/2006/main" xmlns:r="http://schemas.openxmlformats.org/officeDocument/2006/relationships"`
	const types = "application/vnd.openxmlformats-officedocument.wordprocessingml."
	const is = "http://schemas.openxmlformats.org/officeDocument/2006/relationships"
	return packed(t,
		"[Content_Types].xml",
		`<Types xmlns="http://schemas.openxmlformats.org/package/2006/content-types"><Default Extension="rels" ContentType="application/vnd.openxmlformats-package.relationships+xml"/><Default Extension="xml" ContentType="application/xml"/><Override PartName="/word/document.xml" ContentType="`+types+`template.main+xml"/><Override PartName="/word/styles.xml" ContentType="`+types+`styles+xml"/><Override PartName="/word/numbering.xml" ContentType="`+types+`numbering+xml"/><Override PartName="/word/header1.xml" ContentType="`+types+`header+xml"/></Types>`,
		"_rels/.rels",
		`<Relationships xmlns="http://schemas.openxmlformats.org/package/2006/relationships"><Relationship Id="rId1" Type="`+is+`/officeDocument" Target="word/document.xml"/></Relationships>`,
		"word/document.xml",
		`<w:document `+w+`><w:body><w:p><w:r><w:t>What stood here goes.</w:t></w:r></w:p><w:sectPr><w:headerReference w:type="default" r:id="rId3"/><w:pgSz w:w="11906" w:h="16838"/><w:pgMar w:top="2268" w:right="1134" w:bottom="1134" w:left="1134" w:header="567" w:footer="567" w:gutter="0"/></w:sectPr></w:body></w:document>`,
		"word/_rels/document.xml.rels",
		`<Relationships xmlns="http://schemas.openxmlformats.org/package/2006/relationships"><Relationship Id="rId1" Type="`+is+`/styles" Target="styles.xml"/><Relationship Id="rId2" Type="`+is+`/numbering" Target="numbering.xml"/><Relationship Id="rId3" Type="`+is+`/header" Target="header1.xml"/></Relationships>`,
		"word/styles.xml",
		`<w:styles `+w+`><w:style w:type="paragraph" w:default="1" w:styleId="Standard"><w:name w:val="Normal"/></w:style><w:style w:type="paragraph" w:styleId="berschrift1"><w:name w:val="heading 1"/><w:basedOn w:val="Standard"/><w:pPr><w:outlineLvl w:val="0"/></w:pPr><w:rPr><w:color w:val="AA0000"/></w:rPr></w:style></w:styles>`,
		"word/numbering.xml",
		`<w:numbering `+w+`><w:abstractNum w:abstractNumId="4"><w:lvl w:ilvl="0"><w:start w:val="1"/><w:numFmt w:val="lowerLetter"/><w:lvlText w:val="%1)"/></w:lvl></w:abstractNum><w:num w:numId="7"><w:abstractNumId w:val="4"/></w:num></w:numbering>`,
		"word/header1.xml", `<w:hdr `+w+`><w:p><w:r><w:t>Lighting of the town, handbook</w:t></w:r></w:p></w:hdr>`)
}

// The styles of a house are taken from its document, and its page with what stands at the head: in the form of either
// word processor.
func TestADocumentOfTheHouseGivesItsStyles(t *testing.T) {
	folder := t.TempDir()
	file := filepath.Join(folder, "template.docx")
	if err := os.WriteFile(file, houseWord(t), 0o600); err != nil {
		t.Fatal(err)
	}
	m := two(t)
	odt := unpacked(t, made(t, m, "procedure-odt").Data) // which serves as a template, changed
	styles := strings.NewReplacer(`fo:font-size="14pt"`, `fo:font-size="14pt" fo:color="#aa0000"`,
		`<style:header><text:p text:style-name="Header">`,
		`<style:header><text:p text:style-name="Header">Lighting of the town, handbook`,
		`<style:style style:name="UnderLed"`, `<style:style style:name="Renamed"`).Replace(odt["styles.xml"])
	if err := os.WriteFile(filepath.Join(folder, "template.odt"), packed(t, "mimetype", odt["mimetype"], "styles.xml",
		styles),
		0o600); err != nil {
		t.Fatal(err)
	}
	if err := document.UseFolder(folder); err != nil {
		t.Fatal(err)
	}
	defer document.UseFolder("")
	word := unpacked(t, made(t, m, "procedure-docx").Data)
	for part, wants := range map[string][]string{
		"word/document.xml": {`<w:pStyle w:val="berschrift1"/>`, `<w:pStyle w:val="Step"/>`,
			`<w:headerReference w:type="default" r:id="rId3"/>`,
			`w:top="2268"`},
		"word/styles.xml": {`<w:color w:val="AA0000"/>`,
			`w:styleId="Step"><w:name w:val="Step"/><w:basedOn w:val="Standard"/>`},
		"word/numbering.xml": {`<w:num w:numId="8"><w:abstractNumId w:val="5"/>`,
			`<w:num w:numId="9"><w:abstractNumId w:val="6"/>`},
		"word/header1.xml":    {"Lighting of the town"},
		"[Content_Types].xml": {"wordprocessingml.document.main+xml", `Extension="png"`, "docProps/core.xml"},
		"docProps/core.xml":   {"<dc:creator>A. Writer</dc:creator>"},
	} {
		run(t, []byte(word[part]), "xmllint", "--noout", "IN")
		for _, want := range wants {
			if !strings.Contains(word[part], want) {
				t.Errorf("%s lacks %s: %s", part, want, word[part])
			}
		}
	}
	if strings.Contains(word["word/document.xml"], "What stood here") || strings.Contains(word["word/styles.xml"],
		`w:val="heading 1"/><w:basedOn w:val="Normal"`) {
		t.Error("the text of the template stays, or a style of ours in the place of the organisation's")
	}
	if got := unpacked(t, made(t, m, "procedure-odt").Data)["styles.xml"]; !strings.Contains(got, "#aa0000") ||
		strings.Count(got, `style:name="UnderLed"`) != 1 || strings.Count(got, `style:name="Step"`) != 1 {
		t.Errorf("the styles of the text are %s", got)
	}
	soffice, err := exec.LookPath("soffice")
	if _, missing := os.Stat("/usr/lib/libreoffice/program/libswlo.so"); err == nil && missing == nil {
		for _, ending := range []string{"docx", "odt"} {
			text, _ := asPaper(t, soffice, made(t, m, "procedure-"+ending).Data, ending)
			for _, s := range procedure.Of(m).Steps {
				if want := s.Number + ". " + s.Text; !strings.Contains(text, want) {
					t.Errorf("%s: an office program shows no %q in %s", ending, want, text)
				}
			}
			if !strings.Contains(text, "Lighting of the town, handbook") {
				t.Errorf("%s: the head of the organisation is not there: %s", ending, text)
			}
		}
	}

	// One that cannot be taken is refused with why, and what was there stays.
	for _, wrong := range [][]byte{[]byte("no archive"), packed(t, "word/document.xml", "<w:document/>")} {
		other := t.TempDir()
		if err := os.WriteFile(filepath.Join(other, "template.docx"), wrong, 0o600); err != nil {
			t.Fatal(err)
		}
		if err := document.UseFolder(other); err == nil || !strings.Contains(err.Error(), "template") {
			t.Errorf("of a broken template it is said: %v", err)
		}
	}
	if !strings.Contains(unpacked(t, made(t, m, "procedure-docx").Data)["word/header1.xml"], "Lighting") {
		t.Error("after a refused template the one before is gone")
	}
}

// asPaper is the text of a document as an office program prints it, and the PDF that it makes.
func asPaper(t *testing.T, soffice string, file []byte, ending string) (text, paper string) {
	t.Helper()
	dir := t.TempDir()
	name := filepath.Join(dir, "in."+ending)
	if err := os.WriteFile(name, file, 0o600); err != nil {
		t.Fatal(err)
	}
	said(t, soffice, "-env:UserInstallation=file://"+dir+"/office", "--headless", "--convert-to", "pdf", "--outdir",
		dir,
		name)
	paper = filepath.Join(dir, "in.pdf")
	return strings.Join(strings.Fields(said(t, "pdftotext", "-layout", paper, "-")), " "), paper
}
