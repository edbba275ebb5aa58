package pdf

import (
	"encoding/binary"
	"fmt"
	"math"

	"plaintracer/core/scene"
)

const producer = "Plain Tracer"

// described adds what the file says of itself: its metadata (XMP, ISO 16684-1), the same as in its dictionary, with
// what it conforms to; and which colours its numbers are (ISO 19005-3, 6.2.3). It returns the entries of the catalogue.
func (w *writer) described() string {
	profile := w.file.stream("/N 3", sRGB())
	intent := fmt.Sprintf("/OutputIntents[<</Type/OutputIntent/S/GTS_PDFA1/OutputConditionIdentifier(%s)/Info(%s)/DestOutputProfile %s>>]",
		sRGBName, sRGBName, profile)
	return "/Metadata " + w.file.plain("/Type/Metadata/Subtype/XML", w.metadata()).String() + intent
}

// conforms says to which standards a file conforms that has a title and a language, and describes the names in which it
// says so where one of the standards does not know them (ISO 19005-3, 6.6.2.3).
const conforms = `<pdfuaid:part>1</pdfuaid:part><pdfaid:part>3</pdfaid:part><pdfaid:conformance>U</pdfaid:conformance>
<pdfaExtension:schemas><rdf:Bag><rdf:li rdf:parseType="Resource"><pdfaSchema:schema>PDF/UA identification schema</pdfaSchema:schema><pdfaSchema:namespaceURI>http://www.aiim.org/pdfua/ns/id/</pdfaSchema:namespaceURI><pdfaSchema:prefix>pdfuaid</pdfaSchema:prefix><pdfaSchema:property><rdf:Seq><rdf:li rdf:parseType="Resource"><pdfaProperty:name>part</pdfaProperty:name><pdfaProperty:valueType>Integer</pdfaProperty:valueType><pdfaProperty:category>internal</pdfaProperty:category><pdfaProperty:description>The part of ISO 14289 to which the file conforms</pdfaProperty:description></rdf:li></rdf:Seq></pdfaSchema:property></rdf:li></rdf:Bag></pdfaExtension:schemas>
`

// metadata is the file's description of itself.
func (w *writer) metadata() []byte {
	d := w.doc
	out := []byte("<?xpacket begin=\"\ufeff\" id=\"W5M0MpCehiHzreSzNTczkc9d\"?>\n" +
		`<x:xmpmeta xmlns:x="adobe:ns:meta/"><rdf:RDF xmlns:rdf="http://www.w3.org/1999/02/22-rdf-syntax-ns#"><rdf:Description rdf:about="" xmlns:dc="http://purl.org/dc/elements/1.1/" xmlns:xmp="http://ns.adobe.com/xap/1.0/" xmlns:pdf="http://ns.adobe.com/pdf/1.3/" xmlns:pdfuaid="http://www.aiim.org/pdfua/ns/id/" xmlns:pdfaid="http://www.aiim.org/pdfa/ns/id/" xmlns:pdfaExtension="http://www.aiim.org/pdfa/ns/extension/" xmlns:pdfaSchema="http://www.aiim.org/pdfa/ns/schema#" xmlns:pdfaProperty="http://www.aiim.org/pdfa/ns/property#">` + "\n")
	put := func(before, value, behind string) {
		if value != "" {
			out = append(append(scene.AppendEscaped(append(out, before...), value), behind...), '\n')
		}
	}
	put(`<dc:title><rdf:Alt><rdf:li xml:lang="x-default">`, d.Title, `</rdf:li></rdf:Alt></dc:title>`)
	put(`<dc:creator><rdf:Seq><rdf:li>`, d.Author, `</rdf:li></rdf:Seq></dc:creator>`)
	put(`<dc:description><rdf:Alt><rdf:li xml:lang="x-default">`, d.Subject, `</rdf:li></rdf:Alt></dc:description>`)
	put(`<dc:language><rdf:Bag><rdf:li>`, d.Language, `</rdf:li></rdf:Bag></dc:language>`)
	put(`<xmp:CreatorTool>`, producer, `</xmp:CreatorTool>`)
	put(`<pdf:Producer>`, producer, `</pdf:Producer>`)
	if !d.Date.IsZero() {
		put(`<xmp:CreateDate>`, d.Date.UTC().Format("2006-01-02T15:04:05Z"), `</xmp:CreateDate>`)
	}
	if d.Title != "" && d.Language != "" {
		out = append(out, conforms...)
	}
	return append(out, "</rdf:Description></rdf:RDF></x:xmpmeta>\n<?xpacket end=\"r\"?>"...)
}

const sRGBName = "sRGB IEC61966-2.1"

// sRGB is a colour profile (ICC.1:2001-04, version 2.4: a display of three components and curves) of the colours in
// which drawings are made: those of IEC 61966-2-1, whose primaries are written as seen under D50.
func sRGB() []byte {
	word := binary.BigEndian
	fixed := func(out []byte, values ...float64) []byte { // s15Fixed16
		for _, v := range values {
			out = word.AppendUint32(out, uint32(int32(math.Round(v*65536))))
		}
		return out
	}
	xyz := func(x, y, z float64) []byte { return fixed([]byte("XYZ \x00\x00\x00\x00"), x, y, z) }
	name := append([]byte("desc\x00\x00\x00\x00"), word.AppendUint32(nil, uint32(len(sRGBName)+1))...)
	name = append(append(name, sRGBName...), 0)
	name = append(name, make([]byte, 4+4+2+1+67)...) // no names in Unicode or Macintosh's characters
	curve := word.AppendUint32([]byte("curv\x00\x00\x00\x00"), 1024)
	for i := range 1024 {
		v := float64(i) / 1023
		if v <= 0.04045 {
			v /= 12.92
		} else {
			v = math.Pow((v+0.055)/1.055, 2.4)
		}
		curve = word.AppendUint16(curve, uint16(math.Round(v*65535)))
	}
	tags := []struct {
		name string
		data []byte
	}{{"desc", name}, {"cprt", []byte("text\x00\x00\x00\x00No rights reserved\x00")}, {"wtpt", xyz(0.9642, 1, 0.8249)},
		{"rXYZ", xyz(0.4360747, 0.2225045, 0.0139322)}, {"gXYZ", xyz(0.3850649, 0.7168786, 0.0971045)},
		{"bXYZ", xyz(0.1430804, 0.0606169, 0.7141733)}, {"rTRC", curve}, {"gTRC", curve}, {"bTRC", curve}}
	const header = 128
	table := word.AppendUint32(nil, uint32(len(tags)))
	var data []byte
	at := header + 4 + 12*len(tags)
	curves := 0 // the three curves are one
	for _, t := range tags {
		from := at + len(data)
		if string(t.data[:4]) == "curv" {
			if curves > 0 {
				from = curves
			}
			curves = from
		}
		table = word.AppendUint32(word.AppendUint32(append(table, t.name...), uint32(from)), uint32(len(t.data)))
		if from == at+len(data) {
			data = append(data, t.data...)
			data = append(data, make([]byte, -len(data)&3)...)
		}
	}
	out := make([]byte, header)
	word.PutUint32(out, uint32(header+len(table)+len(data)))
	out[8], out[9] = 2, 0x40
	copy(out[12:], "mntrRGB XYZ ")
	for i, v := range [...]uint16{2026, 1, 1} {
		word.PutUint16(out[24+2*i:], v)
	}
	copy(out[36:], "acsp")
	copy(out[68:], fixed(nil, 0.9642, 1, 0.8249))
	return append(append(out, table...), data...)
}
