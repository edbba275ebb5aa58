// Package slides writes presentations (Office Open XML, ECMA-376, part 1, transitional): a slide of 16:9 for each stop,
// with its title as text, what is seen as a picture, and its words as notes.
//
// No library that writes them is both free and kept up; what is needed of the format is little: one master, one layout,
// and three shapes a slide. Files are checked by an office program that did not write them.
package slides

import (
	"archive/zip"
	"bytes"
	"encoding/xml"
	"fmt"
	"strings"
	"time"

	"plaintracer/core/geometry"
)

// Deck is what is written.
type Deck struct {
	Title, Author, Subject, Language string
	// Date is when it was made; the zero time says nothing.
	Date   time.Time
	W, H   int // of a slide, in hundredths of a CSS pixel
	Slides []Slide
}

// Slide is one of them. The boxes say where on it things stand.
type Slide struct {
	Title, Words string
	TitleAt      geometry.Box
	// Picture is a PNG file, Says what it shows for those who do not see it.
	Picture   []byte
	Says      string
	PictureAt geometry.Box
}

// perPx is how many English metric units there are to a hundredth of a CSS pixel: 914,400 to the inch of 96 pixels
// (ECMA-376, part 1, 20.1.2.1).
const perPx = 9525.0 / geometry.Px

func emu(n int) int { return int(float64(n) * perPx) }

const (
	head      = `<?xml version="1.0" encoding="UTF-8" standalone="yes"?>` + "\n"
	spaces    = ` xmlns:a="http://schemas.openxmlformats.org/drawingml/2006/main" xmlns:r="http://schemas.openxmlformats.org/officeDocument/2006/relationships" xmlns:p="http://schemas.openxmlformats.org/presentationml/2006/main"`
	relations = "http://schemas.openxmlformats.org/officeDocument/2006/relationships/"
	types     = "application/vnd.openxmlformats-officedocument."
	// group is the frame in which the shapes of a slide stand.
	group = `<p:nvGrpSpPr><p:cNvPr id="1" name=""/><p:cNvGrpSpPr/><p:nvPr/></p:nvGrpSpPr><p:grpSpPr><a:xfrm><a:off x="0" y="0"/><a:ext cx="0" cy="0"/><a:chOff x="0" y="0"/><a:chExt cx="0" cy="0"/></a:xfrm></p:grpSpPr>`
	ink   = `<a:solidFill><a:srgbClr val="1D2A33"/></a:solidFill>`
)

// Write returns the file.
func Write(d *Deck) ([]byte, error) {
	var out bytes.Buffer
	w := &writer{zip: zip.NewWriter(&out)}
	contents := []string{`<Default Extension="rels" ContentType="application/vnd.openxmlformats-package.relationships+xml"/>`,
		`<Default Extension="xml" ContentType="application/xml"/>`,
		`<Default Extension="png" ContentType="image/png"/>`}
	add := func(name, kind, text string) {
		contents = append(contents, `<Override PartName="/`+name+`" ContentType="`+kind+`"/>`)
		w.put(name, head+text)
	}
	add("docProps/core.xml", "application/vnd.openxmlformats-package.core-properties+xml", core(d))
	add("docProps/app.xml", types+"extended-properties+xml",
		`<Properties xmlns="http://schemas.openxmlformats.org/officeDocument/2006/extended-properties"><Application>Plain Tracer</Application></Properties>`)
	w.relate("_rels/.rels", relations+"officeDocument", "ppt/presentation.xml",
		"http://schemas.openxmlformats.org/package/2006/relationships/metadata/core-properties", "docProps/core.xml",
		relations+"extended-properties", "docProps/app.xml")

	related := []string{relations + "slideMaster", "slideMasters/slideMaster1.xml", relations + "notesMaster",
		"notesMasters/notesMaster1.xml", relations + "theme", "theme/theme1.xml"}
	var ids strings.Builder
	for i := range d.Slides {
		related = append(related, relations+"slide", fmt.Sprintf("slides/slide%d.xml", i+1))
		fmt.Fprintf(&ids, `<p:sldId id="%d" r:id="rId%d"/>`, 256+i, 4+i)
	}
	add("ppt/presentation.xml", types+"presentationml.presentation.main+xml", fmt.Sprintf(
		`<p:presentation%s><p:sldMasterIdLst><p:sldMasterId id="2147483648" r:id="rId1"/></p:sldMasterIdLst><p:notesMasterIdLst><p:notesMasterId r:id="rId2"/></p:notesMasterIdLst><p:sldIdLst>%s</p:sldIdLst><p:sldSz cx="%d" cy="%d"/><p:notesSz cx="6858000" cy="9144000"/></p:presentation>`,
		spaces, ids.String(), emu(d.W), emu(d.H)))
	w.relate("ppt/_rels/presentation.xml.rels", related...)
	for _, name := range []string{"ppt/theme/theme1.xml", "ppt/theme/theme2.xml"} {
		add(name, types+"theme+xml", theme)
	}
	add("ppt/slideMasters/slideMaster1.xml", types+"presentationml.slideMaster+xml", master(d))
	w.relate("ppt/slideMasters/_rels/slideMaster1.xml.rels", relations+"slideLayout",
		"../slideLayouts/slideLayout1.xml", relations+"theme", "../theme/theme1.xml")
	add("ppt/slideLayouts/slideLayout1.xml", types+"presentationml.slideLayout+xml", layout(d))
	w.relate("ppt/slideLayouts/_rels/slideLayout1.xml.rels", relations+"slideMaster",
		"../slideMasters/slideMaster1.xml")
	add("ppt/notesMasters/notesMaster1.xml", types+"presentationml.notesMaster+xml", notesMaster)
	w.relate("ppt/notesMasters/_rels/notesMaster1.xml.rels", relations+"theme", "../theme/theme2.xml")
	for i := range d.Slides {
		s, n := &d.Slides[i], i+1
		add(fmt.Sprintf("ppt/slides/slide%d.xml", n), types+"presentationml.slide+xml", d.slide(s))
		w.relate(fmt.Sprintf("ppt/slides/_rels/slide%d.xml.rels", n), relations+"slideLayout",
			"../slideLayouts/slideLayout1.xml", relations+"image", fmt.Sprintf("../media/image%d.png", n),
			relations+"notesSlide", fmt.Sprintf("../notesSlides/notesSlide%d.xml", n))
		add(fmt.Sprintf("ppt/notesSlides/notesSlide%d.xml", n), types+"presentationml.notesSlide+xml", d.notes(s))
		w.relate(fmt.Sprintf("ppt/notesSlides/_rels/notesSlide%d.xml.rels", n), relations+"notesMaster",
			"../notesMasters/notesMaster1.xml", relations+"slide", fmt.Sprintf("../slides/slide%d.xml", n))
		w.put(fmt.Sprintf("ppt/media/image%d.png", n), string(s.Picture))
	}
	w.put("[Content_Types].xml", head+`<Types xmlns="http://schemas.openxmlformats.org/package/2006/content-types">`+
		strings.Join(contents, "")+`</Types>`)
	if w.err == nil {
		w.err = w.zip.Close()
	}
	return out.Bytes(), w.err
}

// writer puts parts into the archive.
type writer struct {
	zip *zip.Writer
	err error
}

// put adds a part, without a date, so that the same slides give the same bytes.
func (w *writer) put(name, content string) {
	if w.err != nil {
		return
	}
	part, err := w.zip.CreateHeader(&zip.FileHeader{Name: name, Method: zip.Deflate})
	if err == nil {
		_, err = part.Write([]byte(content))
	}
	w.err = err
}

// relate adds a part of relationships, given as pairs of a type and a target.
func (w *writer) relate(name string, pairs ...string) {
	var b strings.Builder
	b.WriteString(head + `<Relationships xmlns="http://schemas.openxmlformats.org/package/2006/relationships">`)
	for i := 0; i < len(pairs); i += 2 {
		fmt.Fprintf(&b, `<Relationship Id="rId%d" Type="%s" Target="%s"/>`, i/2+1, pairs[i], pairs[i+1])
	}
	w.put(name, b.String()+`</Relationships>`)
}

// text escapes a text; what XML cannot hold becomes the sign for that.
func text(s string) string {
	var b bytes.Buffer
	if err := xml.EscapeText(&b, []byte(s)); err != nil { // a buffer takes everything
		return ""
	}
	return b.String()
}

func core(d *Deck) string {
	var b strings.Builder
	b.WriteString(`<cp:coreProperties xmlns:cp="http://schemas.openxmlformats.org/package/2006/metadata/core-properties" xmlns:dc="http://purl.org/dc/elements/1.1/" xmlns:dcterms="http://purl.org/dc/terms/" xmlns:xsi="http://www.w3.org/2001/XMLSchema-instance">`)
	for _, e := range [][2]string{{"title", d.Title}, {"creator", d.Author}, {"subject", d.Subject},
		{"language", d.Language}} {
		if e[1] != "" {
			fmt.Fprintf(&b, "<dc:%s>%s</dc:%s>", e[0], text(e[1]), e[0])
		}
	}
	if !d.Date.IsZero() {
		at := d.Date.UTC().Format(time.RFC3339)
		for _, name := range []string{"created", "modified"} {
			fmt.Fprintf(&b, `<dcterms:%s xsi:type="dcterms:W3CDTF">%s</dcterms:%s>`, name, at, name)
		}
	}
	return b.String() + `</cp:coreProperties>`
}

func frame(b geometry.Box) string {
	return fmt.Sprintf(`<a:off x="%d" y="%d"/><a:ext cx="%d" cy="%d"/>`, emu(b.X), emu(b.Y), emu(b.W), emu(b.H))
}

// run are the lines of a text as paragraphs.
func (d *Deck) run(s string) string {
	var b strings.Builder
	for _, line := range strings.Split(s, "\n") {
		fmt.Fprintf(&b, `<a:p><a:r><a:rPr lang="%s"/><a:t>%s</a:t></a:r></a:p>`, text(d.Language), text(line))
	}
	return b.String()
}

func (d *Deck) slide(s *Slide) string {
	return fmt.Sprintf(`<p:sld%s><p:cSld><p:spTree>%s`+
		`<p:sp><p:nvSpPr><p:cNvPr id="2" name="Title"/><p:cNvSpPr><a:spLocks noGrp="1"/></p:cNvSpPr><p:nvPr><p:ph type="title"/></p:nvPr></p:nvSpPr><p:spPr><a:xfrm>%s</a:xfrm></p:spPr><p:txBody><a:bodyPr><a:normAutofit/></a:bodyPr><a:lstStyle/>%s</p:txBody></p:sp>`+
		`<p:pic><p:nvPicPr><p:cNvPr id="3" name="Picture" descr="%s"/><p:cNvPicPr><a:picLocks noChangeAspect="1"/></p:cNvPicPr><p:nvPr/></p:nvPicPr><p:blipFill><a:blip r:embed="rId2"/><a:stretch><a:fillRect/></a:stretch></p:blipFill><p:spPr><a:xfrm>%s</a:xfrm><a:prstGeom prst="rect"><a:avLst/></a:prstGeom></p:spPr></p:pic>`+
		`</p:spTree></p:cSld><p:clrMapOvr><a:masterClrMapping/></p:clrMapOvr></p:sld>`,
		spaces, group, frame(s.TitleAt), d.run(s.Title), text(s.Says), frame(s.PictureAt))
}

func (d *Deck) notes(s *Slide) string {
	return fmt.Sprintf(`<p:notes%s><p:cSld><p:spTree>%s`+
		`<p:sp><p:nvSpPr><p:cNvPr id="2" name="Slide"/><p:cNvSpPr><a:spLocks noGrp="1" noRot="1" noChangeAspect="1"/></p:cNvSpPr><p:nvPr><p:ph type="sldImg"/></p:nvPr></p:nvSpPr><p:spPr/></p:sp>`+
		`<p:sp><p:nvSpPr><p:cNvPr id="3" name="Notes"/><p:cNvSpPr><a:spLocks noGrp="1"/></p:cNvSpPr><p:nvPr><p:ph type="body" idx="1"/></p:nvPr></p:nvSpPr><p:spPr/><p:txBody><a:bodyPr/><a:lstStyle/>%s</p:txBody></p:sp>`+
		`</p:spTree></p:cSld><p:clrMapOvr><a:masterClrMapping/></p:clrMapOvr></p:notes>`, spaces, group, d.run(s.Words))
}

const colourMap = `<p:clrMap bg1="lt1" tx1="dk1" bg2="lt2" tx2="dk2" accent1="accent1" accent2="accent2" accent3="accent3" accent4="accent4" accent5="accent5" accent6="accent6" hlink="hlink" folHlink="folHlink"/>`

// titleShape is the place of titles on the master and the layout.
func titleShape(d *Deck, own bool) string {
	at := geometry.Box{}
	if len(d.Slides) > 0 {
		at = d.Slides[0].TitleAt
	}
	place := ""
	if own {
		place = `<a:xfrm>` + frame(at) + `</a:xfrm><a:prstGeom prst="rect"><a:avLst/></a:prstGeom>`
	}
	return `<p:sp><p:nvSpPr><p:cNvPr id="2" name="Title"/><p:cNvSpPr><a:spLocks noGrp="1"/></p:cNvSpPr><p:nvPr><p:ph type="title"/></p:nvPr></p:nvSpPr><p:spPr>` +
		place +
		`</p:spPr><p:txBody><a:bodyPr lIns="0" tIns="0" rIns="0" bIns="0" anchor="t"><a:normAutofit/></a:bodyPr><a:lstStyle/><a:p><a:r><a:rPr lang="en"/><a:t>Title</a:t></a:r></a:p></p:txBody></p:sp>`
}

func master(d *Deck) string {
	return fmt.Sprintf(`<p:sldMaster%s><p:cSld><p:bg><p:bgPr><a:solidFill><a:srgbClr val="FFFFFF"/></a:solidFill><a:effectLst/></p:bgPr></p:bg><p:spTree>%s%s</p:spTree></p:cSld>%s<p:sldLayoutIdLst><p:sldLayoutId id="2147483649" r:id="rId1"/></p:sldLayoutIdLst><p:txStyles><p:titleStyle><a:lvl1pPr algn="l"><a:lnSpc><a:spcPct val="90000"/></a:lnSpc><a:defRPr sz="2600" b="1">%s<a:latin typeface="+mj-lt"/></a:defRPr></a:lvl1pPr></p:titleStyle><p:bodyStyle><a:lvl1pPr><a:defRPr sz="1800">%s</a:defRPr></a:lvl1pPr></p:bodyStyle><p:otherStyle><a:lvl1pPr><a:defRPr sz="1800">%s</a:defRPr></a:lvl1pPr></p:otherStyle></p:txStyles></p:sldMaster>`,
		spaces, group, titleShape(d, true), colourMap, ink, ink, ink)
}

func layout(d *Deck) string {
	return fmt.Sprintf(`<p:sldLayout%s type="titleOnly" preserve="1"><p:cSld name="Title and picture"><p:spTree>%s%s</p:spTree></p:cSld><p:clrMapOvr><a:masterClrMapping/></p:clrMapOvr></p:sldLayout>`,
		spaces, group, titleShape(d, false))
}

const notesMaster = `<p:notesMaster` + spaces +
	`><p:cSld><p:bg><p:bgPr><a:solidFill><a:srgbClr val="FFFFFF"/></a:solidFill><a:effectLst/></p:bgPr></p:bg><p:spTree>` + group +
	`<p:sp><p:nvSpPr><p:cNvPr id="2" name="Slide"/><p:cNvSpPr><a:spLocks noGrp="1" noRot="1" noChangeAspect="1"/></p:cNvSpPr><p:nvPr><p:ph type="sldImg" idx="2"/></p:nvPr></p:nvSpPr><p:spPr><a:xfrm><a:off x="685800" y="1143000"/><a:ext cx="5486400" cy="3086100"/></a:xfrm><a:prstGeom prst="rect"><a:avLst/></a:prstGeom></p:spPr></p:sp>` +
	`<p:sp><p:nvSpPr><p:cNvPr id="3" name="Notes"/><p:cNvSpPr><a:spLocks noGrp="1"/></p:cNvSpPr><p:nvPr><p:ph type="body" sz="quarter" idx="3"/></p:nvPr></p:nvSpPr><p:spPr><a:xfrm><a:off x="685800" y="4400550"/><a:ext cx="5486400" cy="3600450"/></a:xfrm><a:prstGeom prst="rect"><a:avLst/></a:prstGeom></p:spPr><p:txBody><a:bodyPr/><a:lstStyle/><a:p><a:r><a:rPr lang="en"/><a:t>Notes</a:t></a:r></a:p></p:txBody></p:sp>` +
	`</p:spTree></p:cSld>` + colourMap + `</p:notesMaster>`

// theme is the least that a theme says: twelve colours, two typefaces, and the three of each kind of fill and line.
const theme = `<a:theme xmlns:a="http://schemas.openxmlformats.org/drawingml/2006/main" name="Plain"><a:themeElements><a:clrScheme name="Plain"><a:dk1><a:srgbClr val="1D2A33"/></a:dk1><a:lt1><a:srgbClr val="FFFFFF"/></a:lt1><a:dk2><a:srgbClr val="5B6670"/></a:dk2><a:lt2><a:srgbClr val="F3F0E8"/></a:lt2><a:accent1><a:srgbClr val="1F6B57"/></a:accent1><a:accent2><a:srgbClr val="3F6E94"/></a:accent2><a:accent3><a:srgbClr val="8A6D1F"/></a:accent3><a:accent4><a:srgbClr val="9A4B33"/></a:accent4><a:accent5><a:srgbClr val="5B6670"/></a:accent5><a:accent6><a:srgbClr val="1D2A33"/></a:accent6><a:hlink><a:srgbClr val="1F6B57"/></a:hlink><a:folHlink><a:srgbClr val="5B6670"/></a:folHlink></a:clrScheme><a:fontScheme name="Plain"><a:majorFont><a:latin typeface="IBM Plex Sans"/><a:ea typeface=""/><a:cs typeface=""/></a:majorFont><a:minorFont><a:latin typeface="IBM Plex Sans"/><a:ea typeface=""/><a:cs typeface=""/></a:minorFont></a:fontScheme><a:fmtScheme name="Plain"><a:fillStyleLst><a:solidFill><a:schemeClr val="phClr"/></a:solidFill><a:solidFill><a:schemeClr val="phClr"/></a:solidFill><a:solidFill><a:schemeClr val="phClr"/></a:solidFill></a:fillStyleLst><a:lnStyleLst><a:ln w="9525"><a:solidFill><a:schemeClr val="phClr"/></a:solidFill></a:ln><a:ln w="9525"><a:solidFill><a:schemeClr val="phClr"/></a:solidFill></a:ln><a:ln w="9525"><a:solidFill><a:schemeClr val="phClr"/></a:solidFill></a:ln></a:lnStyleLst><a:effectStyleLst><a:effectStyle><a:effectLst/></a:effectStyle><a:effectStyle><a:effectLst/></a:effectStyle><a:effectStyle><a:effectLst/></a:effectStyle></a:effectStyleLst><a:bgFillStyleLst><a:solidFill><a:schemeClr val="phClr"/></a:solidFill><a:solidFill><a:schemeClr val="phClr"/></a:solidFill><a:solidFill><a:schemeClr val="phClr"/></a:solidFill></a:bgFillStyleLst></a:fmtScheme></a:themeElements></a:theme>`
