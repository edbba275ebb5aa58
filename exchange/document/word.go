package document

import (
	"archive/zip"
	"bytes"
	"fmt"
	"slices"
	"strings"

	"plaintracer/core/scene"
)

// wordStyles are the styles of the kinds of blocks: the name that word processors know, and how each looks. Sizes are
// in half points, distances in twentieths of a point.
var wordStyles = map[Kind]struct{ id, name, level, paragraph, run string }{
	Title: {"Title", "Title", "", `<w:spacing w:after="120"/>`, `<w:b/><w:sz w:val="40"/>`},
	Facts: {"Subtitle", "Subtitle", "", `<w:spacing w:after="80"/>`, `<w:color w:val="5B6773"/>`},
	Section: {
		"Heading2",
		"heading 2",
		`<w:outlineLvl w:val="1"/>`,
		`<w:keepNext/><w:spacing w:before="240" w:after="60"/>`,
		`<w:b/><w:sz w:val="24"/>`,
	},
	Subsection: {
		"Heading3",
		"heading 3",
		`<w:outlineLvl w:val="2"/>`,
		`<w:keepNext/><w:spacing w:before="200" w:after="60"/>`,
		`<w:b/><w:sz w:val="22"/>`,
	},
	Contents: {"TOCHeading", "TOC Heading", "", `<w:keepNext/><w:spacing w:before="240" w:after="60"/>`, `<w:b/>`},
	Heading: {
		"Heading1",
		"heading 1",
		`<w:outlineLvl w:val="0"/>`,
		`<w:keepNext/><w:spacing w:before="320" w:after="80"/>`,
		`<w:b/><w:sz w:val="28"/>`,
	},
	Paragraph: {"BodyText", "Body Text", "", `<w:spacing w:after="80"/>`, ""},
	Item: {
		"ListBullet",
		"List Bullet",
		"",
		`<w:numPr><w:numId w:val="1"/></w:numPr><w:spacing w:after="60"/>`,
		"",
	},
	Step: {
		"Step",
		"Step",
		"",
		`<w:keepLines/><w:spacing w:before="80" w:after="60"/><w:ind w:left="567" w:hanging="567"/>`,
		"",
	},
	Under: {
		"Under",
		"Under a step",
		"",
		`<w:spacing w:after="60"/><w:ind w:left="567"/>`,
		`<w:color w:val="5B6773"/>`,
	},
	Picture: {"Caption", "caption", "", `<w:spacing w:after="160"/>`, `<w:color w:val="5B6773"/><w:sz w:val="19"/>`},
}

// wordKinds are the kinds in the order in which their styles are written.
var wordKinds = []Kind{Title, Facts, Contents, Heading, Section, Subsection, Paragraph, Item, Step, Under, Picture}

// The measures of OOXML: English metric units in a CSS pixel, and the room between the margins of A4 in them.
const (
	// firstSteps is the number of the first list of steps; the one before is that of bullets.
	firstSteps = 2
	emuPx      = 9525
	emuRoom    = 6120000 // 17 cm
)

// Word writes blocks as a text document for word processors (Office Open XML, ECMA-376 part 1, transitional). Pictures
// are those of sheets, by their ids; foot stands at the foot of every page, before its number.
//
// The numbers of steps are those of the word processor's own lists where they count on from one to the next; a number
// that begins anew begins a list of its own. The list of contents is a field with links and no numbers of pages,
// which only a word processor knows.
func Word(blocks []Block, pictures map[string]Drawn, language, foot string) ([]byte, error) {
	escape := func(text string) string { return string(scene.AppendEscaped(nil, text)) }
	var body, relations bytes.Buffer
	var files []string
	targets := 0
	run := func(text, properties string) string {
		var out strings.Builder
		for i, line := range strings.Split(text, "\n") {
			if i > 0 {
				out.WriteString(`<w:r><w:br/></w:r>`)
			}
			fmt.Fprintf(&out, `<w:r>%s<w:t xml:space="preserve">%s</w:t></w:r>`, properties, escape(line))
		}
		return out.String()
	}
	inline := func(list []Run) string {
		var out strings.Builder
		for _, r := range list {
			const linked = `<w:rPr><w:color w:val="1F6B57"/><w:u w:val="single"/></w:rPr>`
			switch {
			case r.Address != "":
				targets++
				fmt.Fprintf(
					&relations,
					`<Relationship Id="rLink%d" Type="http://schemas.openxmlformats.org/officeDocument/2006/relationships/hyperlink" Target="%s" TargetMode="External"/>`,
					targets,
					escape(r.Address),
				)
				fmt.Fprintf(&out, `<w:hyperlink r:id="rLink%d">%s</w:hyperlink>`, targets, run(r.Text, linked))
			case r.To != "":
				fmt.Fprintf(&out, `<w:hyperlink w:anchor="%s">%s</w:hyperlink>`, anchor(r.Text), run(r.Text, linked))
			default:
				out.WriteString(run(r.Text, ""))
			}
		}
		return out.String()
	}
	parts := contents(blocks)
	var lists []int // where each list of steps begins to count
	next := 0
	for i := range blocks {
		b := &blocks[i]
		switch b.Kind {
		case Contents:
			if len(parts) == 0 {
				continue
			}
			fmt.Fprintf(&body, `<w:p><w:pPr><w:pStyle w:val="TOCHeading"/></w:pPr>%s</w:p>`+"\n", inline(b.Runs))
			for k, c := range parts {
				before, behind := "", ""
				if k == 0 {
					before = `<w:r><w:fldChar w:fldCharType="begin"/></w:r><w:r><w:instrText xml:space="preserve"> TOC \o "1-3" \h \n \z </w:instrText></w:r><w:r><w:fldChar w:fldCharType="separate"/></w:r>`
				}
				if k+1 == len(parts) {
					behind = `<w:r><w:fldChar w:fldCharType="end"/></w:r>`
				}
				fmt.Fprintf(
					&body,
					`<w:p><w:pPr><w:pStyle w:val="TOC%d"/></w:pPr>%s<w:hyperlink w:anchor="part-%d">%s</w:hyperlink>%s</w:p>`+"\n",
					c.Level+1,
					before,
					c.At,
					run(c.Text, ""),
					behind,
				)
			}
			continue
		case Table:
			wordTable(&body, b, func(text string) string { return run(text, "") })
			continue
		case Picture:
			if p, ok := pictures[b.ID]; ok {
				files = append(files, b.ID)
				n := len(files)
				w := min(emuRoom, p.Width*emuPx)
				fmt.Fprintf(
					&relations,
					`<Relationship Id="rPicture%d" Type="http://schemas.openxmlformats.org/officeDocument/2006/relationships/image" Target="media/%d.png"/>`,
					n,
					n,
				)
				fmt.Fprintf(
					&body,
					`<w:p><w:pPr><w:keepNext/></w:pPr><w:r><w:drawing><wp:inline><wp:extent cx="%.0f" cy="%.0f"/><wp:docPr id="%d" name="Picture %d" descr="%s"/><a:graphic xmlns:a="http://schemas.openxmlformats.org/drawingml/2006/main"><a:graphicData uri="http://schemas.openxmlformats.org/drawingml/2006/picture"><pic:pic xmlns:pic="http://schemas.openxmlformats.org/drawingml/2006/picture"><pic:nvPicPr><pic:cNvPr id="%d" name="%d.png"/><pic:cNvPicPr/></pic:nvPicPr><pic:blipFill><a:blip r:embed="rPicture%d"/><a:stretch><a:fillRect/></a:stretch></pic:blipFill><pic:spPr><a:xfrm><a:off x="0" y="0"/><a:ext cx="%.0f" cy="%.0f"/></a:xfrm><a:prstGeom prst="rect"><a:avLst/></a:prstGeom></pic:spPr></pic:pic></a:graphicData></a:graphic></wp:inline></w:drawing></w:r></w:p>`+"\n",
					w,
					w*p.Height/p.Width,
					n,
					n,
					escape(b.Text()),
					n,
					n,
					n,
					w,
					w*p.Height/p.Width,
				)
			}
		}
		numbering, before := "", ""
		if b.Kind == Step {
			if number, ok := counted(b.Number); ok {
				if number != next {
					lists = append(lists, number)
				}
				next = number + 1
				numbering = fmt.Sprintf(
					`<w:numPr><w:ilvl w:val="0"/><w:numId w:val="%d"/></w:numPr>`,
					firstSteps+len(lists)-1,
				)
			} else {
				before = run(mark(b.Number), "") + `<w:r><w:tab/></w:r>`
			}
		}
		kept := ""
		if (b.Kind == Step || b.Kind == Under) && leads(blocks, i) {
			kept = `<w:keepNext/>`
		}
		fmt.Fprintf(&body, `<w:p><w:pPr><w:pStyle w:val="%s"/>%s%s</w:pPr>`, wordStyles[b.Kind].id, kept, numbering)
		switch {
		case b.Kind == Step:
			fmt.Fprintf(
				&body,
				`<w:bookmarkStart w:id="%d" w:name="%s"/>%s%s<w:bookmarkEnd w:id="%d"/>`,
				i+1,
				anchor(b.Number),
				before,
				inline(b.Runs),
				i+1,
			)
		case slices.Contains(headings, b.Kind):
			fmt.Fprintf(
				&body,
				`<w:bookmarkStart w:id="%d" w:name="part-%d"/>%s<w:bookmarkEnd w:id="%d"/>`,
				i+1,
				i,
				inline(b.Runs),
				i+1,
			)
		default:
			body.WriteString(inline(b.Runs))
		}
		body.WriteString("</w:p>\n")
	}
	var counting, counters strings.Builder
	for i, from := range lists {
		fmt.Fprintf(
			&counting,
			`<w:abstractNum w:abstractNumId="%d"><w:multiLevelType w:val="singleLevel"/><w:lvl w:ilvl="0"><w:start w:val="%d"/><w:numFmt w:val="decimal"/><w:lvlText w:val="%%1."/><w:lvlJc w:val="left"/><w:pPr><w:ind w:left="567" w:hanging="567"/></w:pPr></w:lvl></w:abstractNum>`,
			firstSteps+i-1,
			from,
		)
		fmt.Fprintf(
			&counters,
			`<w:num w:numId="%d"><w:abstractNumId w:val="%d"/></w:num>`,
			firstSteps+i,
			firstSteps+i-1,
		)
	}
	const spaces = `xmlns:w="http://schemas.openxmlformats.org/wordprocessingml/2006/main" xmlns:r="http://schemas.openxmlformats.org/officeDocument/2006/relationships" xmlns:wp="http://schemas.openxmlformats.org/drawingml/2006/wordprocessingDrawing"`
	const head = `<?xml version="1.0" encoding="UTF-8" standalone="yes"?>` + "\n"
	var styles strings.Builder
	fmt.Fprintf(
		&styles,
		head+`<w:styles %s><w:docDefaults><w:rPrDefault><w:rPr><w:rFonts w:ascii="IBM Plex Sans" w:hAnsi="IBM Plex Sans" w:cs="Arial"/><w:sz w:val="21"/><w:lang w:val="%s"/></w:rPr></w:rPrDefault></w:docDefaults><w:style w:type="paragraph" w:default="1" w:styleId="Normal"><w:name w:val="Normal"/></w:style>`,
		spaces,
		escape(language),
	)
	for _, kind := range wordKinds {
		s := wordStyles[kind]
		fmt.Fprintf(
			&styles,
			`<w:style w:type="paragraph" w:styleId="%s"><w:name w:val="%s"/><w:basedOn w:val="Normal"/><w:qFormat/><w:pPr>%s%s</w:pPr><w:rPr>%s</w:rPr></w:style>`,
			s.id,
			s.name,
			s.paragraph,
			s.level,
			s.run,
		)
	}
	for level := range len(headings) {
		fmt.Fprintf(
			&styles,
			`<w:style w:type="paragraph" w:styleId="TOC%d"><w:name w:val="toc %d"/><w:basedOn w:val="Normal"/><w:pPr><w:spacing w:after="40"/><w:ind w:left="%d"/></w:pPr></w:style>`,
			level+1,
			level+1,
			284*level,
		)
	}
	styles.WriteString(`<w:style w:type="paragraph" w:styleId="Cell"><w:name w:val="Cell"/><w:basedOn w:val="Normal"/><w:rPr><w:sz w:val="18"/></w:rPr></w:style><w:style w:type="paragraph" w:styleId="CellHead"><w:name w:val="Cell head"/><w:basedOn w:val="Cell"/><w:rPr><w:b/></w:rPr></w:style><w:style w:type="table" w:styleId="Grid"><w:name w:val="Table Grid"/><w:tblPr><w:tblBorders><w:top w:val="single" w:sz="4" w:color="C9C2B4"/><w:left w:val="single" w:sz="4" w:color="C9C2B4"/><w:bottom w:val="single" w:sz="4" w:color="C9C2B4"/><w:right w:val="single" w:sz="4" w:color="C9C2B4"/><w:insideH w:val="single" w:sz="4" w:color="C9C2B4"/><w:insideV w:val="single" w:sz="4" w:color="C9C2B4"/></w:tblBorders><w:tblCellMar><w:left w:w="85" w:type="dxa"/><w:right w:w="85" w:type="dxa"/></w:tblCellMar></w:tblPr></w:style>`)
	styles.WriteString(`</w:styles>`)
	title := ""
	if len(blocks) > 0 {
		title = blocks[0].Text()
	}
	packed := [][2]string{
		{
			"[Content_Types].xml",
			head +
				`<Types xmlns="http://schemas.openxmlformats.org/package/2006/content-types"><Default Extension="rels" ContentType="application/vnd.openxmlformats-package.relationships+xml"/><Default Extension="xml" ContentType="application/xml"/><Default Extension="png" ContentType="image/png"/><Override PartName="/word/document.xml" ContentType="application/vnd.openxmlformats-officedocument.wordprocessingml.document.main+xml"/><Override PartName="/word/styles.xml" ContentType="application/vnd.openxmlformats-officedocument.wordprocessingml.styles+xml"/><Override PartName="/word/numbering.xml" ContentType="application/vnd.openxmlformats-officedocument.wordprocessingml.numbering+xml"/><Override PartName="/word/footer1.xml" ContentType="application/vnd.openxmlformats-officedocument.wordprocessingml.footer+xml"/><Override PartName="/docProps/core.xml" ContentType="application/vnd.openxmlformats-package.core-properties+xml"/></Types>`,
		},
		{
			"_rels/.rels",
			head +
				`<Relationships xmlns="http://schemas.openxmlformats.org/package/2006/relationships"><Relationship Id="rId1" Type="http://schemas.openxmlformats.org/officeDocument/2006/relationships/officeDocument" Target="word/document.xml"/><Relationship Id="rId2" Type="http://schemas.openxmlformats.org/package/2006/relationships/metadata/core-properties" Target="docProps/core.xml"/></Relationships>`,
		},
		{
			"docProps/core.xml",
			head +
				`<cp:coreProperties xmlns:cp="http://schemas.openxmlformats.org/package/2006/metadata/core-properties" xmlns:dc="http://purl.org/dc/elements/1.1/"><dc:title>` + escape(
				title,
			) + `</dc:title><dc:language>` + escape(
				language,
			) + `</dc:language></cp:coreProperties>`,
		},
		{
			"word/document.xml",
			head + `<w:document ` + spaces + `><w:body>` + body.String() +
				`<w:sectPr><w:footerReference w:type="default" r:id="rFoot"/><w:pgSz w:w="11906" w:h="16838"/><w:pgMar w:top="1134" w:right="1134" w:bottom="1134" w:left="1134" w:header="567" w:footer="567" w:gutter="0"/></w:sectPr></w:body></w:document>`,
		},
		{
			"word/_rels/document.xml.rels",
			head +
				`<Relationships xmlns="http://schemas.openxmlformats.org/package/2006/relationships"><Relationship Id="rStyles" Type="http://schemas.openxmlformats.org/officeDocument/2006/relationships/styles" Target="styles.xml"/><Relationship Id="rNumbers" Type="http://schemas.openxmlformats.org/officeDocument/2006/relationships/numbering" Target="numbering.xml"/><Relationship Id="rFoot" Type="http://schemas.openxmlformats.org/officeDocument/2006/relationships/footer" Target="footer1.xml"/>` + relations.String() + `</Relationships>`,
		},
		{"word/styles.xml", styles.String()},
		{
			"word/numbering.xml",
			head + `<w:numbering ` + spaces +
				`><w:abstractNum w:abstractNumId="0"><w:multiLevelType w:val="singleLevel"/><w:lvl w:ilvl="0"><w:start w:val="1"/><w:numFmt w:val="bullet"/><w:lvlText w:val="•"/><w:lvlJc w:val="left"/><w:pPr><w:ind w:left="340" w:hanging="340"/></w:pPr></w:lvl></w:abstractNum>` + counting.String() + `<w:num w:numId="1"><w:abstractNumId w:val="0"/></w:num>` + counters.String() + `</w:numbering>`,
		},
		{
			"word/footer1.xml",
			head + `<w:ftr ` + spaces + `><w:p><w:pPr><w:tabs><w:tab w:val="right" w:pos="9638"/></w:tabs></w:pPr>` +
				run(
					foot,
					"",
				) +
				`<w:r><w:tab/></w:r><w:fldSimple w:instr=" PAGE "><w:r><w:t>1</w:t></w:r></w:fldSimple><w:r><w:t xml:space="preserve"> / </w:t></w:r><w:fldSimple w:instr=" NUMPAGES "><w:r><w:t>1</w:t></w:r></w:fldSimple></w:p></w:ftr>`,
		},
	}
	var out bytes.Buffer
	z := zip.NewWriter(&out)
	put := func(name string, data []byte, method uint16) error {
		w, err := z.CreateHeader(&zip.FileHeader{Name: name, Method: method}) // without a date
		if err == nil {
			_, err = w.Write(data)
		}
		return err
	}
	for _, p := range packed {
		if err := put(p[0], []byte(p[1]), zip.Deflate); err != nil {
			return nil, err
		}
	}
	for i, id := range files {
		if err := put(fmt.Sprintf("word/media/%d.png", i+1), pictures[id].Data, zip.Store); err != nil {
			return nil, err
		}
	}
	err := z.Close()
	return out.Bytes(), err
}

// wordTable writes a table, whose head stands at the top of each of its pages.
func wordTable(out *bytes.Buffer, b *Block, run func(string) string) {
	const twips = 15 // twentieths of a point in a pixel
	widths := columnsOn(b.Rows)
	out.WriteString(`<w:tbl><w:tblPr><w:tblStyle w:val="Grid"/><w:tblW w:w="0" w:type="auto"/><w:tblLayout w:type="fixed"/></w:tblPr><w:tblGrid>`)
	for _, w := range widths {
		fmt.Fprintf(out, `<w:gridCol w:w="%d"/>`, w*twips/px)
	}
	out.WriteString(`</w:tblGrid>`)
	for i, row := range b.Rows {
		head := b.Head && i == 0
		out.WriteString(`<w:tr><w:trPr><w:cantSplit/>`)
		if head {
			out.WriteString(`<w:tblHeader/>`)
		}
		out.WriteString(`</w:trPr>`)
		for k, cell := range row {
			style := "Cell"
			if head || !b.Head && k == 0 {
				style = "CellHead"
			}
			fmt.Fprintf(out, `<w:tc><w:tcPr><w:tcW w:w="%d" w:type="dxa"/></w:tcPr><w:p><w:pPr><w:pStyle w:val="%s"/></w:pPr>%s</w:p></w:tc>`,
				widths[k]*twips/px, style, run(cell))
		}
		out.WriteString(`</w:tr>`)
	}
	out.WriteString(`</w:tbl><w:p/>` + "\n") // what follows would join the table otherwise
}
