package document

import (
	"bytes"
	"fmt"
	"plaintracer/exchange/archive"
	"slices"
	"strings"
)

// wordStyle is a style: its id, the name that word processors know it by, and how it looks. Sizes are in half points,
// distances in twentieths of a point.
type wordStyle struct{ id, name, based, paragraph, run string }

// wordKinds are the styles of the kinds of blocks.
var wordKinds = map[Kind]string{Title: "Title", Facts: "Subtitle", Contents: "TOCHeading", Heading: "Heading1",
	Section: "Heading2", Subsection: "Heading3", Paragraph: "BodyText", Item: "ListBullet", Step: "Step",
	Under:   "Under",
	Picture: "Caption"}

// wordStyles are all styles, in the order in which they are written.
var wordStyles = []wordStyle{
	{"Title", "Title", "Normal", `<w:spacing w:after="120"/>`, `<w:b/><w:sz w:val="40"/>`},
	{"Subtitle", "Subtitle", "Normal", `<w:spacing w:after="80"/>`, `<w:color w:val="5B6773"/>`},
	{"TOCHeading", "TOC Heading", "Normal", `<w:keepNext/><w:spacing w:before="240" w:after="60"/>`, `<w:b/>`},
	{"Heading1", "heading 1", "Normal",
		`<w:keepNext/><w:spacing w:before="320" w:after="80"/><w:outlineLvl w:val="0"/>`,
		`<w:b/><w:sz w:val="28"/>`},
	{"Heading2", "heading 2", "Normal",
		`<w:keepNext/><w:spacing w:before="240" w:after="60"/><w:outlineLvl w:val="1"/>`,
		`<w:b/><w:sz w:val="24"/>`},
	{"Heading3", "heading 3", "Normal",
		`<w:keepNext/><w:spacing w:before="200" w:after="60"/><w:outlineLvl w:val="2"/>`,
		`<w:b/><w:sz w:val="22"/>`},
	{"BodyText", "Body Text", "Normal", `<w:spacing w:after="80"/>`, ""},
	{"ListBullet", "List Bullet", "Normal", `<w:numPr><w:numId w:val="BULLETS"/></w:numPr><w:spacing w:after="60"/>`,
		""},
	{"Step", "Step", "Normal",
		`<w:keepLines/><w:spacing w:before="80" w:after="60"/><w:ind w:left="567" w:hanging="567"/>`,
		""},
	{"Under", "Under a step", "Normal", `<w:spacing w:after="60"/><w:ind w:left="567"/>`, `<w:color w:val="5B6773"/>`},
	{"Caption", "caption", "Normal", `<w:spacing w:after="160"/>`, `<w:color w:val="5B6773"/><w:sz w:val="19"/>`},
	{"TOC1", "toc 1", "Normal", `<w:spacing w:after="40"/><w:ind w:left="0"/>`, ""},
	{"TOC2", "toc 2", "Normal", `<w:spacing w:after="40"/><w:ind w:left="284"/>`, ""},
	{"TOC3", "toc 3", "Normal", `<w:spacing w:after="40"/><w:ind w:left="568"/>`, ""},
	{"Cell", "Cell", "Normal", "", `<w:sz w:val="18"/>`},
	{"CellHead", "Cell head", "Cell", "", `<w:b/>`},
	{"Header", "header", "Normal", `<w:tabs><w:tab w:val="right" w:pos="9638"/></w:tabs>`,
		`<w:color w:val="5B6773"/><w:sz w:val="18"/>`},
	{"Footer", "footer", "Normal", `<w:tabs><w:tab w:val="right" w:pos="9638"/></w:tabs>`,
		`<w:color w:val="5B6773"/><w:sz w:val="18"/>`},
}

// tableStyle is that of tables; its name is known to word processors.
const tableStyle = `<w:style w:type="table" w:styleId="Grid"><w:name w:val="Table Grid"/><w:tblPr><w:tblBorders><w:top w:val="single" w:sz="4" w:color="C9C2B4"/><w:left w:val="single" w:sz="4" w:color="C9C2B4"/><w:bottom w:val="single" w:sz="4" w:color="C9C2B4"/><w:right w:val="single" w:sz="4" w:color="C9C2B4"/><w:insideH w:val="single" w:sz="4" w:color="C9C2B4"/><w:insideV w:val="single" w:sz="4" w:color="C9C2B4"/></w:tblBorders><w:tblCellMar><w:left w:w="85" w:type="dxa"/><w:right w:w="85" w:type="dxa"/></w:tblCellMar></w:tblPr></w:style>`

// xml is how that style is written, with other ids in the place of those that the organisation has under their names.
func (s *wordStyle) xml(ids func(string) string, bullets int) string {
	paragraph := strings.ReplaceAll(s.paragraph, "BULLETS", fmt.Sprint(bullets))
	return fmt.Sprintf(`<w:style w:type="paragraph" w:styleId="%s"><w:name w:val="%s"/><w:basedOn w:val="%s"/><w:qFormat/><w:pPr>%s</w:pPr><w:rPr>%s</w:rPr></w:style>`,
		s.id, s.name, ids(s.based), paragraph, s.run)
}

// The measures of OOXML: English metric units in a CSS pixel, and the room between the margins of A4 in them.
const (
	emuPx   = 9525
	emuRoom = 6120000 // 17 cm
)

const (
	xmlHead    = `<?xml version="1.0" encoding="UTF-8" standalone="yes"?>` + "\n"
	wordSpaces = `xmlns:w="http://schemas.openxmlformats.org/wordprocessingml/2006/main" xmlns:r="` + relationSpace +
		`" xmlns:wp="http://schemas.openxmlformats.org/drawingml/2006/wordprocessingDrawing"`
	relationSpace   = "http://schemas.openxmlformats.org/officeDocument/2006/relationships"
	relationsSpaces = `xmlns="http://schemas.openxmlformats.org/package/2006/relationships"`
	typesOfWord     = "application/vnd.openxmlformats-officedocument.wordprocessingml."
	propertiesType  = "application/vnd.openxmlformats-package.core-properties+xml"
	propertiesSpace = "http://schemas.openxmlformats.org/package/2006/relationships/metadata/core-properties"
)

// wordWriter is the work on a document of OOXML.
type wordWriter struct {
	*Text
	// id gives the id of a style of ours in the document; firstList is the number of its list of bullets.
	id              func(string) string
	firstList       int
	body, relations bytes.Buffer
	files           []string // the sheets of the pictures
	targets         int
	lists           []int // where each list of steps begins to count
}

// Word writes a text as Office Open XML (ECMA-376 part 1, transitional). Where the folder of the organisation has a
// template.docx, its styles, page, heads and feet are taken.
//
// The numbers of steps are those of the word processor's own lists where they count on from one to the next; a number
// that begins anew begins a list of its own. The list of contents is a field with links and no numbers of pages,
// which only a word processor knows.
func (t *Text) Word() ([]byte, error) {
	parts, err := houseParts("template.docx")
	if err != nil {
		return nil, err
	}
	if parts != nil {
		return t.wordOfHouse(parts)
	}
	w := &wordWriter{Text: t, id: func(id string) string { return id }, firstList: 1}
	w.write()
	p := archive.New()
	types := ""
	for _, one := range [][2]string{{"document", "document.main"}, {"styles", "styles"}, {"numbering", "numbering"},
		{"header1", "header"}, {"footer1", "footer"}} {
		types += fmt.Sprintf(`<Override PartName="/word/%s.xml" ContentType="%s%s+xml"/>`, one[0], typesOfWord, one[1])
	}
	put := func(name, content string) { p.Put(name, []byte(xmlHead+content)) }
	put("[Content_Types].xml",
		`<Types xmlns="http://schemas.openxmlformats.org/package/2006/content-types"><Default Extension="rels" ContentType="application/vnd.openxmlformats-package.relationships+xml"/><Default Extension="xml" ContentType="application/xml"/><Default Extension="png" ContentType="image/png"/>`+
			types+`<Override PartName="/docProps/core.xml" ContentType="`+propertiesType+`"/></Types>`)
	put("_rels/.rels", `<Relationships `+relationsSpaces+`><Relationship Id="rId1" Type="`+relationSpace+
		`/officeDocument" Target="word/document.xml"/><Relationship Id="rId2" Type="`+propertiesSpace+
		`" Target="docProps/core.xml"/></Relationships>`)
	put("docProps/core.xml", w.properties())
	put("word/document.xml", `<w:document `+wordSpaces+`><w:body>`+w.body.String()+
		`<w:sectPr><w:headerReference w:type="default" r:id="ptHead"/><w:footerReference w:type="default" r:id="ptFoot"/><w:pgSz w:w="11906" w:h="16838"/><w:pgMar w:top="1134" w:right="1134" w:bottom="1134" w:left="1134" w:header="567" w:footer="567" w:gutter="0"/></w:sectPr></w:body></w:document>`)
	own := ""
	for _, one := range [][3]string{{"Styles", "styles", "styles"}, {"Numbers", "numbering", "numbering"},
		{"Head", "header", "header1"}, {"Foot", "footer", "footer1"}} {
		own += fmt.Sprintf(`<Relationship Id="pt%s" Type="%s/%s" Target="%s.xml"/>`, one[0], relationSpace, one[1],
			one[2])
	}
	put("word/_rels/document.xml.rels",
		`<Relationships `+relationsSpaces+`>`+own+w.relations.String()+`</Relationships>`)
	styles := fmt.Sprintf(`<w:styles %s><w:docDefaults><w:rPrDefault><w:rPr><w:rFonts w:ascii="IBM Plex Sans" w:hAnsi="IBM Plex Sans" w:cs="Arial"/><w:sz w:val="21"/><w:lang w:val="%s"/></w:rPr></w:rPrDefault></w:docDefaults><w:style w:type="paragraph" w:default="1" w:styleId="Normal"><w:name w:val="Normal"/></w:style>`,
		wordSpaces, escape(t.Language))
	for i := range wordStyles {
		styles += wordStyles[i].xml(w.id, w.firstList)
	}
	put("word/styles.xml", styles+tableStyle+`</w:styles>`)
	abstract, lists := w.numbering(0)
	put("word/numbering.xml", `<w:numbering `+wordSpaces+`>`+abstract+lists+`</w:numbering>`)
	put("word/header1.xml", w.header())
	put("word/footer1.xml", w.footer())
	w.putPictures(p)
	return p.Bytes()
}

// properties are what the file says of itself.
func (w *wordWriter) properties() string {
	author := ""
	if w.Author != "" {
		author = `<dc:creator>` + escape(w.Author) + `</dc:creator>`
	}
	return `<cp:coreProperties xmlns:cp="http://schemas.openxmlformats.org/package/2006/metadata/core-properties" xmlns:dc="http://purl.org/dc/elements/1.1/"><dc:title>` +
		escape(w.title()) + `</dc:title>` + author + `<dc:language>` + escape(w.Language) +
		`</dc:language></cp:coreProperties>`
}

func (w *wordWriter) header() string {
	return `<w:hdr ` + wordSpaces + `><w:p><w:pPr><w:pStyle w:val="` + w.id("Header") + `"/></w:pPr>` + w.run(w.Head,
		"") +
		`</w:p></w:hdr>`
}

func (w *wordWriter) footer() string {
	return `<w:ftr ` + wordSpaces + `><w:p><w:pPr><w:pStyle w:val="` + w.id("Footer") + `"/></w:pPr>` + w.run(w.Foot,
		"") +
		`<w:r><w:tab/></w:r><w:fldSimple w:instr=" PAGE "><w:r><w:t>1</w:t></w:r></w:fldSimple><w:r><w:t xml:space="preserve"> / </w:t></w:r><w:fldSimple w:instr=" NUMPAGES "><w:r><w:t>1</w:t></w:r></w:fldSimple></w:p></w:ftr>`
}

// numbering are the lists, the first of which is that of bullets: how they look, with numbers from one on, and the
// lists themselves.
func (w *wordWriter) numbering(from int) (abstract, lists string) {
	abstract = fmt.Sprintf(`<w:abstractNum w:abstractNumId="%d"><w:multiLevelType w:val="singleLevel"/><w:lvl w:ilvl="0"><w:start w:val="1"/><w:numFmt w:val="bullet"/><w:lvlText w:val="•"/><w:lvlJc w:val="left"/><w:pPr><w:ind w:left="340" w:hanging="340"/></w:pPr></w:lvl></w:abstractNum>`,
		from)
	lists = fmt.Sprintf(`<w:num w:numId="%d"><w:abstractNumId w:val="%d"/></w:num>`, w.firstList, from)
	for i, start := range w.lists {
		abstract += fmt.Sprintf(`<w:abstractNum w:abstractNumId="%d"><w:multiLevelType w:val="singleLevel"/><w:lvl w:ilvl="0"><w:start w:val="%d"/><w:numFmt w:val="decimal"/><w:lvlText w:val="%%1."/><w:lvlJc w:val="left"/><w:pPr><w:ind w:left="567" w:hanging="567"/></w:pPr></w:lvl></w:abstractNum>`,
			from+1+i, start)
		lists += fmt.Sprintf(`<w:num w:numId="%d"><w:abstractNumId w:val="%d"/></w:num>`, w.firstList+1+i, from+1+i)
	}
	return abstract, lists
}

func (w *wordWriter) putPictures(p *archive.Writer) {
	for i, id := range w.files {
		p.Store(fmt.Sprintf("word/media/plaintracer%d.png", i+1), w.Pictures[id].Data)
	}
}

// run is a stretch of text with properties, its lines apart.
func (w *wordWriter) run(text, properties string) string {
	var out strings.Builder
	for i, line := range strings.Split(text, "\n") {
		if i > 0 {
			out.WriteString(`<w:r><w:br/></w:r>`)
		}
		fmt.Fprintf(&out, `<w:r>%s<w:t xml:space="preserve">%s</w:t></w:r>`, properties, escape(line))
	}
	return out.String()
}

// inline are runs with where they lead.
func (w *wordWriter) inline(list []Run) string {
	const linked = `<w:rPr><w:color w:val="1F6B57"/><w:u w:val="single"/></w:rPr>`
	var out strings.Builder
	for _, r := range list {
		switch {
		case r.Address != "":
			w.targets++
			w.relate(fmt.Sprint("Link", w.targets), "hyperlink", escape(r.Address)+`" TargetMode="External`)
			fmt.Fprintf(&out, `<w:hyperlink r:id="ptLink%d">%s</w:hyperlink>`, w.targets, w.run(r.Text, linked))
		case r.To != "":
			fmt.Fprintf(&out, `<w:hyperlink w:anchor="%s">%s</w:hyperlink>`, anchor(r.Text), w.run(r.Text, linked))
		default:
			out.WriteString(w.run(r.Text, ""))
		}
	}
	return out.String()
}

// relate notes what the document refers to under an id, which begins so that it is none of the organisation's.
func (w *wordWriter) relate(id, kind, target string) {
	fmt.Fprintf(&w.relations, `<Relationship Id="pt%s" Type="%s/%s" Target="%s"/>`, id, relationSpace, kind, target)
}

// write writes the body.
func (w *wordWriter) write() {
	next := 0
	for i := range w.Blocks {
		b := &w.Blocks[i]
		switch b.Kind {
		case Contents:
			w.contents(b)
			continue
		case Table:
			w.table(b)
			continue
		case Picture:
			w.picture(b)
		}
		properties, before := "", ""
		if (b.Kind == Step || b.Kind == Under) && leads(w.Blocks, i) {
			properties = `<w:keepNext/>`
		}
		if b.Kind == Step {
			if number, ok := counted(b.Number); ok {
				if number != next {
					w.lists = append(w.lists, number)
				}
				next = number + 1
				properties += fmt.Sprintf(`<w:numPr><w:ilvl w:val="0"/><w:numId w:val="%d"/></w:numPr>`,
					w.firstList+len(w.lists))
			} else {
				before = w.run(mark(b.Number), "") + `<w:r><w:tab/></w:r>`
			}
		}
		text := before + w.inline(b.Runs)
		name := ""
		switch {
		case b.Kind == Step:
			name = anchor(b.Number)
		case slices.Contains(headings, b.Kind):
			name = fmt.Sprint("part-", i)
		}
		if name != "" {
			text = fmt.Sprintf(`<w:bookmarkStart w:id="%d" w:name="%s"/>%s<w:bookmarkEnd w:id="%d"/>`, i+1, name, text,
				i+1)
		}
		fmt.Fprintf(&w.body, `<w:p><w:pPr><w:pStyle w:val="%s"/>%s</w:pPr>%s</w:p>`+"\n", w.id(wordKinds[b.Kind]),
			properties,
			text)
	}
}

// contents writes the list of contents, a field that a word processor makes anew when it is asked to.
func (w *wordWriter) contents(b *Block) {
	parts := contents(w.Blocks)
	if len(parts) == 0 {
		return
	}
	fmt.Fprintf(&w.body, `<w:p><w:pPr><w:pStyle w:val="%s"/></w:pPr>%s</w:p>`+"\n", w.id("TOCHeading"),
		w.inline(b.Runs))
	for k, c := range parts {
		before, behind := "", ""
		if k == 0 {
			before = `<w:r><w:fldChar w:fldCharType="begin"/></w:r><w:r><w:instrText xml:space="preserve"> TOC \o "1-3" \h \n \z </w:instrText></w:r><w:r><w:fldChar w:fldCharType="separate"/></w:r>`
		}
		if k+1 == len(parts) {
			behind = `<w:r><w:fldChar w:fldCharType="end"/></w:r>`
		}
		fmt.Fprintf(&w.body,
			`<w:p><w:pPr><w:pStyle w:val="%s"/></w:pPr>%s<w:hyperlink w:anchor="part-%d">%s</w:hyperlink>%s</w:p>`+"\n",
			w.id(fmt.Sprint("TOC", c.Level+1)), before, c.At, w.run(c.Text, ""), behind)
	}
}

// picture writes the picture of a sheet, with its words for those who do not see it.
func (w *wordWriter) picture(b *Block) {
	p, ok := w.Pictures[b.ID]
	if !ok {
		return
	}
	w.files = append(w.files, b.ID)
	n := len(w.files)
	w.relate(fmt.Sprint("Picture", n), "image", fmt.Sprintf("media/plaintracer%d.png", n))
	width := min(emuRoom, p.Width*emuPx)
	size := fmt.Sprintf(`cx="%.0f" cy="%.0f"`, width, width*p.Height/p.Width)
	fmt.Fprintf(&w.body,
		`<w:p><w:pPr><w:keepNext/></w:pPr><w:r><w:drawing><wp:inline><wp:extent %s/><wp:docPr id="%d" name="Picture %d" descr="%s"/><a:graphic xmlns:a="http://schemas.openxmlformats.org/drawingml/2006/main"><a:graphicData uri="http://schemas.openxmlformats.org/drawingml/2006/picture"><pic:pic xmlns:pic="http://schemas.openxmlformats.org/drawingml/2006/picture"><pic:nvPicPr><pic:cNvPr id="%d" name="%d.png"/><pic:cNvPicPr/></pic:nvPicPr><pic:blipFill><a:blip r:embed="ptPicture%d"/><a:stretch><a:fillRect/></a:stretch></pic:blipFill><pic:spPr><a:xfrm><a:off x="0" y="0"/><a:ext %s/></a:xfrm><a:prstGeom prst="rect"><a:avLst/></a:prstGeom></pic:spPr></pic:pic></a:graphicData></a:graphic></wp:inline></w:drawing></w:r></w:p>`+"\n",
		size, n, n, escape(b.Text()), n, n, n, size)
}

// table writes a table, whose head stands at the top of each of its pages.
func (w *wordWriter) table(b *Block) {
	const twips = 15 // twentieths of a point in a pixel
	widths := columnsOn(b.Rows)
	fmt.Fprintf(&w.body,
		`<w:tbl><w:tblPr><w:tblStyle w:val="%s"/><w:tblW w:w="0" w:type="auto"/><w:tblLayout w:type="fixed"/></w:tblPr><w:tblGrid>`,
		w.id("Grid"))
	for _, width := range widths {
		fmt.Fprintf(&w.body, `<w:gridCol w:w="%d"/>`, width*twips/px)
	}
	w.body.WriteString(`</w:tblGrid>`)
	for i, row := range b.Rows {
		head := b.Head && i == 0
		w.body.WriteString(`<w:tr><w:trPr><w:cantSplit/>`)
		if head {
			w.body.WriteString(`<w:tblHeader/>`)
		}
		w.body.WriteString(`</w:trPr>`)
		for k, cell := range row {
			style := "Cell"
			if head || !b.Head && k == 0 {
				style = "CellHead"
			}
			fmt.Fprintf(&w.body,
				`<w:tc><w:tcPr><w:tcW w:w="%d" w:type="dxa"/></w:tcPr><w:p><w:pPr><w:pStyle w:val="%s"/></w:pPr>%s</w:p></w:tc>`,
				widths[k]*twips/px, w.id(style), w.run(cell, ""))
		}
		w.body.WriteString(`</w:tr>`)
	}
	w.body.WriteString(`</w:tbl><w:p/>` + "\n") // what follows would join the table otherwise
}
