package document

import (
	"bytes"
	"fmt"
	"mime"
	"path"
	"plaintracer/exchange/archive"
	"slices"
	"strings"
)

// OpenDocument writes a text as OpenDocument 1.3, part 3. Where the folder of the organisation has a template.odt, its
// styles and its page with head and foot are taken.
func (t *Text) OpenDocument() ([]byte, error) {
	blocks := t.Blocks
	parts, err := houseParts("template.odt")
	if err != nil {
		return nil, err
	}
	var body, automatic bytes.Buffer
	var files []string
	lined := func(text string) string {
		return strings.ReplaceAll(escape(text), "\n", "<text:line-break/>")
	}
	inline := func(list []Run) string {
		var out strings.Builder
		for _, r := range list {
			if r.Address != "" {
				fmt.Fprintf(&out, `<text:a xlink:type="simple" xlink:href="%s">%s</text:a>`, escape(r.Address),
					lined(r.Text))
				continue
			}
			if r.To != "" {
				fmt.Fprintf(&out, `<text:a xlink:type="simple" xlink:href="#%s">%s</text:a>`, anchor(r.Text),
					escape(r.Text))
				continue
			}
			out.WriteString(lined(r.Text))
		}
		return out.String()
	}
	chapters := contents(blocks)
	inList := "" // the style of the list that is open
	counts := 0
	shut := func() {
		if inList != "" {
			body.WriteString("</text:list-item></text:list>\n")
		}
		inList = ""
	}
	// item begins an item of a list, in the one that is open or in a new one. A number of zero goes on counting.
	item := func(style string, number int) {
		if inList == style && (style != "Numbers" || number == counts+1) {
			body.WriteString("</text:list-item><text:list-item>")
		} else {
			shut()
			start := ""
			if style == "Numbers" {
				start = fmt.Sprintf(` text:start-value="%d"`, number)
			}
			fmt.Fprintf(&body, `<text:list text:style-name="%s"><text:list-item%s>`, style, start)
		}
		inList, counts = style, number
	}
	for i := range blocks {
		b := &blocks[i]
		text := inline(b.Runs)
		number, numbered := counted(b.Number)
		if b.Kind != Under && b.Kind != Item && !(b.Kind == Step && numbered) {
			shut()
		}
		switch b.Kind {
		case Title:
			fmt.Fprintf(&body, `<text:p text:style-name="Title">%s</text:p>`, text)
		case Heading, Section, Subsection:
			level := slices.Index(headings, b.Kind) + 1
			fmt.Fprintf(&body,
				`<text:h text:style-name="Heading_20_%d" text:outline-level="%d"><text:bookmark text:name="part-%d"/>%s</text:h>`,
				level, level, i, text)
		case Contents:
			if len(chapters) == 0 {
				break
			}
			fmt.Fprintf(&body,
				`<text:table-of-content text:name="contents" text:protected="true"><text:table-of-content-source text:outline-level="3"/><text:index-body><text:index-title text:name="contents-title"><text:p text:style-name="ContentsTitle">%s</text:p></text:index-title>`,
				text)
			for _, c := range chapters {
				fmt.Fprintf(&body,
					`<text:p text:style-name="Contents_20_%d"><text:a xlink:type="simple" xlink:href="#part-%d">%s</text:a></text:p>`,
					c.Level+1, c.At, escape(c.Text))
			}
			body.WriteString(`</text:index-body></text:table-of-content>`)
		case Facts, Paragraph:
			fmt.Fprintf(&body, `<text:p text:style-name="Body">%s</text:p>`, text)
		case Item:
			item("Bullets", 0)
			fmt.Fprintf(&body, `<text:p text:style-name="Item">%s</text:p>`, text)
		case Step:
			style := "Step"
			if leads(blocks, i) {
				style = "StepLed"
			}
			if numbered {
				item("Numbers", number)
				fmt.Fprintf(&body, `<text:p text:style-name="%s"><text:bookmark text:name="%s"/>%s</text:p>`, style,
					anchor(b.Number), text)
				break
			}
			fmt.Fprintf(&body,
				`<text:p text:style-name="%sAlone"><text:bookmark text:name="%s"/>%s<text:tab/>%s</text:p>`,
				style, anchor(b.Number), escape(mark(b.Number)), text)
		case Under:
			style := "Under"
			if leads(blocks, i) {
				style = "UnderLed"
			}
			if inList == "" {
				style += "Alone"
			}
			fmt.Fprintf(&body, `<text:p text:style-name="%s">%s</text:p>`, style, text)
		case Table:
			openTable(&body, &automatic, b, i, lined)
		case Picture:
			if p, ok := t.Pictures[b.ID]; ok {
				name := fmt.Sprintf("Pictures/plaintracer%d.png", len(files)+1)
				files = append(files, b.ID)
				const room = 17.0 // centimetres between the margins of A4
				w := min(room, p.Width/96*2.54)
				fmt.Fprintf(&body,
					`<text:p text:style-name="Drawing"><draw:frame draw:name="%s" text:anchor-type="as-char" svg:width="%.2fcm" svg:height="%.2fcm"><draw:image xlink:href="%s" xlink:type="simple" xlink:show="embed" xlink:actuate="onLoad"/><svg:title>%s</svg:title><svg:desc>%s</svg:desc></draw:frame></text:p>`,
					escape(b.Text()), w, w*p.Height/p.Width, name, escape(b.Text()), escape(b.Text()))
			}
			fmt.Fprintf(&body, `<text:p text:style-name="Caption">%s</text:p>`, text)
		}
		if inList == "" {
			body.WriteByte('\n')
		}
	}
	shut()
	content := `<?xml version="1.0" encoding="UTF-8"?>
<office:document-content xmlns:office="urn:oasis:names:tc:opendocument:xmlns:office:1.0" xmlns:style="urn:oasis:names:tc:opendocument:xmlns:style:1.0" xmlns:text="urn:oasis:names:tc:opendocument:xmlns:text:1.0" xmlns:draw="urn:oasis:names:tc:opendocument:xmlns:drawing:1.0" xmlns:fo="urn:oasis:names:tc:opendocument:xmlns:xsl-fo-compatible:1.0" xmlns:xlink="http://www.w3.org/1999/xlink" xmlns:svg="urn:oasis:names:tc:opendocument:xmlns:svg-compatible:1.0" xmlns:table="urn:oasis:names:tc:opendocument:xmlns:table:1.0" office:version="1.3"><office:automatic-styles>` + automatic.String() + `<style:style style:name="Cell" style:family="table-cell"><style:table-cell-properties fo:padding="0.1cm" fo:border="0.5pt solid #c9c2b4"/></style:style></office:automatic-styles><office:body><office:text>
` + body.String() + `</office:text></office:body></office:document-content>`
	code, country, _ := strings.Cut(t.Language, "-")
	styles := fmt.Sprintf(openStyles, escape(code), escape(country), escape(t.Head), escape(t.Foot))
	var others []housePart
	if parts != nil {
		if styles, others, err = openOfHouse(parts, styles); err != nil {
			return nil, err
		}
	}
	author := ""
	if t.Author != "" {
		author = `<meta:initial-creator>` + escape(t.Author) + `</meta:initial-creator><dc:creator>` +
			escape(t.Author) +
			`</dc:creator>`
	}
	meta := `<?xml version="1.0" encoding="UTF-8"?>
<office:document-meta xmlns:office="urn:oasis:names:tc:opendocument:xmlns:office:1.0" xmlns:dc="http://purl.org/dc/elements/1.1/" xmlns:meta="urn:oasis:names:tc:opendocument:xmlns:meta:1.0" office:version="1.3"><office:meta><meta:generator>Plain Tracer</meta:generator><dc:title>` + escape(t.title()) + `</dc:title>` + author + `<dc:language>` + escape(t.Language) + `</dc:language></office:meta></office:document-meta>`
	for i, id := range files {
		others = append(others, housePart{fmt.Sprintf("Pictures/plaintracer%d.png", i+1), t.Pictures[id].Data})
	}
	p := archive.New()
	// The media type comes first, and is not packed (OpenDocument 1.3, part 2, 3.3).
	p.Store("mimetype", []byte(openType))
	manifest := `<?xml version="1.0" encoding="UTF-8"?>
<manifest:manifest xmlns:manifest="urn:oasis:names:tc:opendocument:xmlns:manifest:1.0" manifest:version="1.3"><manifest:file-entry manifest:full-path="/" manifest:version="1.3" manifest:media-type="` + openType + `"/>`
	for _, one := range others {
		manifest += `<manifest:file-entry manifest:full-path="` + escape(one.name) + `" manifest:media-type="` +
			escape(mime.TypeByExtension(path.Ext(one.name))) + `"/>`
		p.Store(one.name, one.data)
	}
	for _, f := range [][2]string{{"content.xml", content}, {"styles.xml", styles}, {"meta.xml", meta}} {
		manifest += `<manifest:file-entry manifest:full-path="` + f[0] + `" manifest:media-type="text/xml"/>`
		p.Put(f[0], []byte(f[1]))
	}
	p.Put("META-INF/manifest.xml", []byte(manifest+`</manifest:manifest>`))
	return p.Bytes()
}

// openTable writes a table, whose head stands at the top of each of its pages.
// The styles of its columns are written into styles, by the place of the table.
func openTable(out, styles *bytes.Buffer, b *Block, place int, escape func(string) string) {
	cm := func(n int) float64 { return float64(n) / px / 96 * 2.54 }
	all := 0
	var list strings.Builder
	for k, w := range columnsOn(b.Rows) {
		fmt.Fprintf(styles,
			`<style:style style:name="Column%d-%d" style:family="table-column"><style:table-column-properties style:column-width="%.3fcm"/></style:style>`,
			place, k, cm(w))
		fmt.Fprintf(&list, `<table:table-column table:style-name="Column%d-%d"/>`, place, k)
		all += w
	}
	fmt.Fprintf(styles,
		`<style:style style:name="Table%d" style:family="table"><style:table-properties style:width="%.3fcm" table:align="left" fo:margin-top="0.1cm" fo:margin-bottom="0.3cm"/></style:style>`,
		place, cm(all))
	fmt.Fprintf(out, `<table:table table:style-name="Table%d">%s`, place, list.String())
	for i, row := range b.Rows {
		head := b.Head && i == 0
		if head {
			out.WriteString(`<table:table-header-rows>`)
		}
		out.WriteString(`<table:table-row>`)
		for k, cell := range row {
			style := "Cell"
			if head || !b.Head && k == 0 {
				style = "CellHead"
			}
			fmt.Fprintf(out,
				`<table:table-cell table:style-name="Cell" office:value-type="string"><text:p text:style-name="%s">%s</text:p></table:table-cell>`,
				style, escape(cell))
		}
		out.WriteString(`</table:table-row>`)
		if head {
			out.WriteString(`</table:table-header-rows>`)
		}
	}
	out.WriteString(`</table:table>`)
}

const openType = "application/vnd.oasis.opendocument.text"

const openStyles = `<?xml version="1.0" encoding="UTF-8"?>
<office:document-styles xmlns:office="urn:oasis:names:tc:opendocument:xmlns:office:1.0" xmlns:style="urn:oasis:names:tc:opendocument:xmlns:style:1.0" xmlns:text="urn:oasis:names:tc:opendocument:xmlns:text:1.0" xmlns:fo="urn:oasis:names:tc:opendocument:xmlns:xsl-fo-compatible:1.0" office:version="1.3"><office:styles>
<style:default-style style:family="paragraph"><style:text-properties fo:font-family="'IBM Plex Sans', Arial, sans-serif" fo:font-size="10.5pt" fo:language="%s" fo:country="%s"/></style:default-style>
<style:style style:name="Standard" style:family="paragraph" style:class="text"/>
<style:style style:name="Title" style:family="paragraph" style:parent-style-name="Standard" style:class="chapter"><style:paragraph-properties fo:margin-bottom="0.4cm"/><style:text-properties fo:font-size="20pt" fo:font-weight="bold"/></style:style>
<style:style style:name="Heading_20_1" style:display-name="Heading 1" style:family="paragraph" style:parent-style-name="Standard" style:default-outline-level="1" style:class="text"><style:paragraph-properties fo:margin-top="0.6cm" fo:margin-bottom="0.2cm" fo:keep-with-next="always"/><style:text-properties fo:font-size="14pt" fo:font-weight="bold"/></style:style>
<style:style style:name="Heading_20_2" style:display-name="Heading 2" style:family="paragraph" style:parent-style-name="Standard" style:default-outline-level="2" style:class="text"><style:paragraph-properties fo:margin-top="0.45cm" fo:margin-bottom="0.15cm" fo:keep-with-next="always"/><style:text-properties fo:font-size="12pt" fo:font-weight="bold"/></style:style>
<style:style style:name="Heading_20_3" style:display-name="Heading 3" style:family="paragraph" style:parent-style-name="Standard" style:default-outline-level="3" style:class="text"><style:paragraph-properties fo:margin-top="0.35cm" fo:margin-bottom="0.1cm" fo:keep-with-next="always"/><style:text-properties fo:font-size="11pt" fo:font-weight="bold"/></style:style>
<style:style style:name="ContentsTitle" style:family="paragraph" style:parent-style-name="Standard"><style:paragraph-properties fo:margin-top="0.4cm" fo:margin-bottom="0.1cm" fo:keep-with-next="always"/><style:text-properties fo:font-weight="bold"/></style:style>
<style:style style:name="Contents_20_1" style:display-name="Contents 1" style:family="paragraph" style:parent-style-name="Standard"/>
<style:style style:name="Contents_20_2" style:display-name="Contents 2" style:family="paragraph" style:parent-style-name="Standard"><style:paragraph-properties fo:margin-left="0.5cm"/></style:style>
<style:style style:name="Contents_20_3" style:display-name="Contents 3" style:family="paragraph" style:parent-style-name="Standard"><style:paragraph-properties fo:margin-left="1cm"/></style:style>
<style:style style:name="Drawing" style:family="paragraph" style:parent-style-name="Standard"><style:paragraph-properties fo:margin-top="0.2cm" fo:keep-with-next="always"/></style:style>
<style:style style:name="Caption" style:family="paragraph" style:parent-style-name="Standard"><style:paragraph-properties fo:margin-bottom="0.3cm"/><style:text-properties fo:font-size="9.5pt" fo:color="#5b6773"/></style:style>
<style:style style:name="Body" style:family="paragraph" style:parent-style-name="Standard"><style:paragraph-properties fo:margin-bottom="0.15cm"/></style:style>
<style:style style:name="Item" style:family="paragraph" style:parent-style-name="Standard"><style:paragraph-properties fo:margin-bottom="0.1cm"/></style:style>
<style:style style:name="Step" style:family="paragraph" style:parent-style-name="Standard"><style:paragraph-properties fo:margin-top="0.15cm" fo:margin-bottom="0.1cm" fo:keep-together="always"/></style:style>
<style:style style:name="StepLed" style:family="paragraph" style:parent-style-name="Step"><style:paragraph-properties fo:keep-with-next="always"/></style:style>
<style:style style:name="StepAlone" style:family="paragraph" style:parent-style-name="Step"><style:paragraph-properties fo:margin-left="1cm" fo:text-indent="-1cm"><style:tab-stops><style:tab-stop style:position="0cm"/></style:tab-stops></style:paragraph-properties></style:style>
<style:style style:name="StepLedAlone" style:family="paragraph" style:parent-style-name="StepAlone"><style:paragraph-properties fo:keep-with-next="always"/></style:style>
<style:style style:name="Under" style:family="paragraph" style:parent-style-name="Standard"><style:paragraph-properties fo:margin-bottom="0.1cm"/><style:text-properties fo:color="#5b6773"/></style:style>
<style:style style:name="UnderLed" style:family="paragraph" style:parent-style-name="Under"><style:paragraph-properties fo:keep-with-next="always"/></style:style>
<style:style style:name="UnderAlone" style:family="paragraph" style:parent-style-name="Under"><style:paragraph-properties fo:margin-left="1cm"/></style:style>
<style:style style:name="UnderLedAlone" style:family="paragraph" style:parent-style-name="UnderAlone"><style:paragraph-properties fo:keep-with-next="always"/></style:style>
<style:style style:name="Cell" style:family="paragraph" style:parent-style-name="Standard"><style:text-properties fo:font-size="9pt"/></style:style>
<style:style style:name="CellHead" style:family="paragraph" style:parent-style-name="Cell"><style:text-properties fo:font-weight="bold"/></style:style>
<style:style style:name="Header" style:family="paragraph" style:parent-style-name="Standard"><style:text-properties fo:font-size="9pt" fo:color="#5b6773"/></style:style>
<style:style style:name="Footer" style:family="paragraph" style:parent-style-name="Standard"><style:paragraph-properties><style:tab-stops><style:tab-stop style:position="17cm" style:type="right"/></style:tab-stops></style:paragraph-properties><style:text-properties fo:font-size="9pt" fo:color="#5b6773"/></style:style>
<text:list-style style:name="Bullets"><text:list-level-style-bullet text:level="1" text:bullet-char="•"><style:list-level-properties text:list-level-position-and-space-mode="label-alignment"><style:list-level-label-alignment text:label-followed-by="listtab" text:list-tab-stop-position="0.5cm" fo:text-indent="-0.5cm" fo:margin-left="0.5cm"/></style:list-level-properties></text:list-level-style-bullet></text:list-style>
<text:list-style style:name="Numbers"><text:list-level-style-number text:level="1" style:num-format="1" style:num-suffix="."><style:list-level-properties text:list-level-position-and-space-mode="label-alignment"><style:list-level-label-alignment text:label-followed-by="listtab" text:list-tab-stop-position="1cm" fo:text-indent="-1cm" fo:margin-left="1cm"/></style:list-level-properties></text:list-level-style-number></text:list-style>
</office:styles><office:automatic-styles><style:page-layout style:name="Page"><style:page-layout-properties fo:page-width="21cm" fo:page-height="29.7cm" fo:margin-top="1.2cm" fo:margin-bottom="1.5cm" fo:margin-left="2cm" fo:margin-right="2cm"/><style:header-style><style:header-footer-properties fo:min-height="0.8cm" fo:margin-bottom="0.3cm"/></style:header-style><style:footer-style><style:header-footer-properties fo:min-height="0.8cm" fo:margin-top="0.3cm"/></style:footer-style></style:page-layout></office:automatic-styles><office:master-styles><style:master-page style:name="Standard" style:page-layout-name="Page"><style:header><text:p text:style-name="Header">%s</text:p></style:header><style:footer><text:p text:style-name="Footer">%s<text:tab/><text:page-number text:select-page="current">1</text:page-number> / <text:page-count>1</text:page-count></text:p></style:footer></style:master-page></office:master-styles></office:document-styles>`
