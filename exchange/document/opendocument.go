package document

import (
	"archive/zip"
	"bytes"
	"fmt"
	"strings"

	"plaintracer/core/scene"
)

// Drawn is a picture of a sheet as a PNG file.
type Drawn struct {
	Data []byte
	// Width and Height are those of the sheet in CSS pixels.
	Width, Height float64
}

// OpenDocument writes blocks as a text document (OpenDocument 1.3, part 3). Pictures are those of sheets, by their ids.
func OpenDocument(blocks []Block, pictures map[string]Drawn, language string) ([]byte, error) {
	var body bytes.Buffer
	var files []string
	escape := func(text string) string { return string(scene.AppendEscaped(nil, text)) }
	inline := func(list []Run) string {
		var out strings.Builder
		for _, r := range list {
			if r.Address != "" {
				fmt.Fprintf(&out, `<text:a xlink:type="simple" xlink:href="%s">%s</text:a>`, escape(r.Address),
					escape(r.Text))
				continue
			}
			if r.To != "" {
				fmt.Fprintf(&out, `<text:a xlink:type="simple" xlink:href="#%s">%s</text:a>`, anchor(r.Text),
					escape(r.Text))
				continue
			}
			out.WriteString(escape(r.Text))
		}
		return out.String()
	}
	for i := range blocks {
		b := &blocks[i]
		text := inline(b.Runs)
		switch b.Kind {
		case Title:
			fmt.Fprintf(&body, `<text:h text:style-name="Title" text:outline-level="1">%s</text:h>`, text)
		case Heading:
			fmt.Fprintf(&body, `<text:h text:style-name="Heading" text:outline-level="2">%s</text:h>`, text)
		case Facts, Paragraph:
			fmt.Fprintf(&body, `<text:p text:style-name="Body">%s</text:p>`, text)
		case Item:
			fmt.Fprintf(&body, `<text:p text:style-name="Item">• %s</text:p>`, text)
		case Step:
			fmt.Fprintf(&body, `<text:p text:style-name="Step"><text:bookmark text:name="%s"/>%s<text:tab/>%s</text:p>`,
				anchor(b.Number), escape(mark(b.Number)), text)
		case Under:
			fmt.Fprintf(&body, `<text:p text:style-name="Under">%s</text:p>`, text)
		case Picture:
			fmt.Fprintf(&body, `<text:h text:style-name="Caption" text:outline-level="3">%s</text:h>`, text)
			if p, ok := pictures[b.ID]; ok {
				name := fmt.Sprintf("Pictures/%d.png", len(files)+1)
				files = append(files, b.ID)
				const room = 17.0 // centimetres between the margins of A4
				w := min(room, p.Width/96*2.54)
				fmt.Fprintf(&body,
					`<text:p text:style-name="Body"><draw:frame draw:name="%s" text:anchor-type="as-char" svg:width="%.2fcm" svg:height="%.2fcm"><draw:image xlink:href="%s" xlink:type="simple" xlink:show="embed" xlink:actuate="onLoad"/><svg:desc>%s</svg:desc></draw:frame></text:p>`,
					escape(b.Text()), w, w*p.Height/p.Width, name, escape(b.Text()))
			}
		}
		body.WriteByte('\n')
	}
	content := `<?xml version="1.0" encoding="UTF-8"?>
<office:document-content xmlns:office="urn:oasis:names:tc:opendocument:xmlns:office:1.0" xmlns:style="urn:oasis:names:tc:opendocument:xmlns:style:1.0" xmlns:text="urn:oasis:names:tc:opendocument:xmlns:text:1.0" xmlns:draw="urn:oasis:names:tc:opendocument:xmlns:drawing:1.0" xmlns:fo="urn:oasis:names:tc:opendocument:xmlns:xsl-fo-compatible:1.0" xmlns:xlink="http://www.w3.org/1999/xlink" xmlns:svg="urn:oasis:names:tc:opendocument:xmlns:svg-compatible:1.0" office:version="1.3"><office:body><office:text>
` + body.String() + `</office:text></office:body></office:document-content>`
	code, country, _ := strings.Cut(language, "-")
	styles := fmt.Sprintf(openStyles, escape(code), escape(country))
	manifest := `<?xml version="1.0" encoding="UTF-8"?>
<manifest:manifest xmlns:manifest="urn:oasis:names:tc:opendocument:xmlns:manifest:1.0" manifest:version="1.3"><manifest:file-entry manifest:full-path="/" manifest:version="1.3" manifest:media-type="` + openType + `"/><manifest:file-entry manifest:full-path="content.xml" manifest:media-type="text/xml"/><manifest:file-entry manifest:full-path="styles.xml" manifest:media-type="text/xml"/>`
	var out bytes.Buffer
	z := zip.NewWriter(&out)
	put := func(name string, data []byte, method uint16) error {
		w, err := z.CreateHeader(&zip.FileHeader{Name: name, Method: method}) // without a date
		if err != nil {
			return err
		}
		_, err = w.Write(data)
		return err
	}
	// The media type comes first, and is not packed (OpenDocument 1.3, part 2, 3.3).
	if err := put("mimetype", []byte(openType), zip.Store); err != nil {
		return nil, err
	}
	for i, id := range files {
		name := fmt.Sprintf("Pictures/%d.png", i+1)
		manifest += `<manifest:file-entry manifest:full-path="` + name + `" manifest:media-type="image/png"/>`
		if err := put(name, pictures[id].Data, zip.Store); err != nil {
			return nil, err
		}
	}
	for _, f := range [][2]string{{"content.xml", content}, {"styles.xml", styles},
		{"META-INF/manifest.xml", manifest + `</manifest:manifest>`}} {
		if err := put(f[0], []byte(f[1]), zip.Deflate); err != nil {
			return nil, err
		}
	}
	err := z.Close()
	return out.Bytes(), err
}

const openType = "application/vnd.oasis.opendocument.text"

const openStyles = `<?xml version="1.0" encoding="UTF-8"?>
<office:document-styles xmlns:office="urn:oasis:names:tc:opendocument:xmlns:office:1.0" xmlns:style="urn:oasis:names:tc:opendocument:xmlns:style:1.0" xmlns:text="urn:oasis:names:tc:opendocument:xmlns:text:1.0" xmlns:fo="urn:oasis:names:tc:opendocument:xmlns:xsl-fo-compatible:1.0" office:version="1.3"><office:styles>
<style:default-style style:family="paragraph"><style:text-properties fo:font-family="'IBM Plex Sans', Arial, sans-serif" fo:font-size="10.5pt" fo:language="%s" fo:country="%s"/></style:default-style>
<style:style style:name="Title" style:family="paragraph"><style:paragraph-properties fo:margin-bottom="0.4cm"/><style:text-properties fo:font-size="20pt" fo:font-weight="bold"/></style:style>
<style:style style:name="Heading" style:family="paragraph"><style:paragraph-properties fo:margin-top="0.6cm" fo:margin-bottom="0.2cm" fo:keep-with-next="always"/><style:text-properties fo:font-size="14pt" fo:font-weight="bold"/></style:style>
<style:style style:name="Caption" style:family="paragraph"><style:paragraph-properties fo:margin-top="0.4cm" fo:margin-bottom="0.1cm" fo:keep-with-next="always"/><style:text-properties fo:font-size="11pt" fo:font-weight="bold"/></style:style>
<style:style style:name="Body" style:family="paragraph"><style:paragraph-properties fo:margin-bottom="0.15cm"/></style:style>
<style:style style:name="Item" style:family="paragraph"><style:paragraph-properties fo:margin-left="0.4cm" fo:margin-bottom="0.1cm"/></style:style>
<style:style style:name="Step" style:family="paragraph"><style:paragraph-properties fo:margin-left="1cm" fo:text-indent="-1cm" fo:margin-top="0.15cm" fo:margin-bottom="0.1cm"><style:tab-stops><style:tab-stop style:position="0cm"/></style:tab-stops></style:paragraph-properties></style:style>
<style:style style:name="Under" style:family="paragraph"><style:paragraph-properties fo:margin-left="1cm" fo:margin-bottom="0.1cm"/><style:text-properties fo:color="#5b6773"/></style:style>
</office:styles><office:automatic-styles><style:page-layout style:name="Page"><style:page-layout-properties fo:page-width="21cm" fo:page-height="29.7cm" fo:margin-top="2cm" fo:margin-bottom="2cm" fo:margin-left="2cm" fo:margin-right="2cm"/></style:page-layout></office:automatic-styles><office:master-styles><style:master-page style:name="Standard" style:page-layout-name="Page"/></office:master-styles></office:document-styles>`
