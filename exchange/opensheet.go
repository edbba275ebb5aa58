package exchange

import (
	"bytes"
	"context"
	"fmt"
	"strconv"
	"strings"

	"plaintracer/core/scene"
	"plaintracer/core/steplist"
	"plaintracer/core/values"
	"plaintracer/exchange/archive"
)

// The parts of a spreadsheet in the OpenDocument format (version 1.3, part 3).
const (
	openSheetType = "application/vnd.oasis.opendocument.spreadsheet"
	openHead      = `<?xml version="1.0" encoding="UTF-8"?>` + "\n"
	openSpaces    = `xmlns:office="urn:oasis:names:tc:opendocument:xmlns:office:1.0" xmlns:style="urn:oasis:names:tc:opendocument:xmlns:style:1.0" xmlns:table="urn:oasis:names:tc:opendocument:xmlns:table:1.0" xmlns:text="urn:oasis:names:tc:opendocument:xmlns:text:1.0" xmlns:fo="urn:oasis:names:tc:opendocument:xmlns:xsl-fo-compatible:1.0" xmlns:number="urn:oasis:names:tc:opendocument:xmlns:datastyle:1.0" xmlns:dc="http://purl.org/dc/elements/1.1/" xmlns:meta="urn:oasis:names:tc:opendocument:xmlns:meta:1.0" xmlns:config="urn:oasis:names:tc:opendocument:xmlns:config:1.0" office:version="1.3"`
)

// openStyles are the styles of cells: of texts, of titles, of what is for programs, and of the types of values.
const openStyles = `<number:date-style style:name="Day"><number:year number:style="long"/><number:text>-</number:text><number:month number:style="long"/><number:text>-</number:text><number:day number:style="long"/></number:date-style><number:time-style style:name="Time" number:truncate-on-overflow="false"><number:hours/><number:text>:</number:text><number:minutes number:style="long"/></number:time-style><number:number-style style:name="Whole"><number:number number:decimal-places="0" number:min-integer-digits="1"/></number:number-style><number:number-style style:name="Decimal"><number:number number:decimal-places="6" number:min-decimal-places="0" number:min-integer-digits="1"/></number:number-style><style:style style:name="Text" style:family="table-cell"><style:table-cell-properties fo:wrap-option="wrap" style:vertical-align="top"/></style:style><style:style style:name="Head" style:family="table-cell"><style:table-cell-properties fo:wrap-option="wrap" style:vertical-align="top"/><style:text-properties fo:font-weight="bold"/></style:style><style:style style:name="Quiet" style:family="table-cell"><style:text-properties fo:font-size="8pt" fo:color="#999999"/></style:style><style:style style:name="OfDay" style:family="table-cell" style:data-style-name="Day"><style:table-cell-properties style:vertical-align="top"/></style:style><style:style style:name="OfTime" style:family="table-cell" style:data-style-name="Time"><style:table-cell-properties style:vertical-align="top"/></style:style><style:style style:name="OfMoney" style:family="table-cell" style:data-style-name="Money"><style:table-cell-properties style:vertical-align="top"/></style:style><style:style style:name="OfWhole" style:family="table-cell" style:data-style-name="Whole"><style:table-cell-properties style:vertical-align="top"/></style:style><style:style style:name="OfDecimal" style:family="table-cell" style:data-style-name="Decimal"><style:table-cell-properties style:vertical-align="top"/></style:style>`

func writeODS(_ context.Context, j *Job) ([]byte, error) {
	list := sheets(j)
	var styles, tables, checks, ranges, frozen bytes.Buffer
	styles.WriteString(`<number:currency-style style:name="Money"><number:number number:decimal-places="2" number:min-decimal-places="2" number:min-integer-digits="1" number:grouping="true"/>`)
	if sign := j.Whole.Currency; sign != "" {
		styles.WriteString(`<number:text> </number:text><number:currency-symbol>` + scene.Escaped(sign) +
			`</number:currency-symbol>`)
	}
	styles.WriteString(`</number:currency-style>` + openStyles)
	for i := range list {
		t := &list[i]
		t.writeOpen(i, &styles, &tables, &checks)
		fmt.Fprintf(&ranges,
			`<table:database-range table:name="Rows%d" table:target-range-address="%s" table:display-filter-buttons="true"/>`,
			i, scene.Escaped(fmt.Sprintf("'%s'.A1:'%s'.%s", t.name, t.name,
				steplist.CellName(max(len(t.rows), 2)-1, t.columns()-1))))
		fmt.Fprintf(&frozen,
			`<config:config-item-map-entry config:name="%s"><config:config-item config:name="VerticalSplitMode" config:type="short">2</config:config-item><config:config-item config:name="VerticalSplitPosition" config:type="int">1</config:config-item><config:config-item config:name="ActiveSplitRange" config:type="short">2</config:config-item><config:config-item config:name="PositionBottom" config:type="int">1</config:config-item></config:config-item-map-entry>`,
			scene.Escaped(t.name))
	}
	content := openHead + `<office:document-content ` + openSpaces + `><office:automatic-styles>` + styles.String() +
		`</office:automatic-styles><office:body><office:spreadsheet>`
	if checks.Len() > 0 {
		content += `<table:content-validations>` + checks.String() + `</table:content-validations>`
	}
	content += tables.String() + `<table:database-ranges>` + ranges.String() +
		`</table:database-ranges></office:spreadsheet></office:body></office:document-content>`
	settings := openHead + `<office:document-settings ` + openSpaces +
		`><office:settings><config:config-item-set config:name="ooo:view-settings"><config:config-item-map-indexed config:name="Views"><config:config-item-map-entry><config:config-item-map-named config:name="Tables">` +
		frozen.String() +
		`</config:config-item-map-named></config:config-item-map-entry></config:config-item-map-indexed></config:config-item-set></office:settings></office:document-settings>`
	page := openHead + `<office:document-styles ` + openSpaces +
		`><office:automatic-styles><style:page-layout style:name="Page"><style:page-layout-properties style:print-orientation="landscape" fo:page-width="29.7cm" fo:page-height="21cm" style:scale-to-X="1" style:scale-to-Y="0"/></style:page-layout></office:automatic-styles><office:master-styles><style:master-page style:name="Default" style:page-layout-name="Page"/></office:master-styles></office:document-styles>`
	meta := openHead + `<office:document-meta ` + openSpaces +
		`><office:meta><meta:generator>Plain Tracer</meta:generator><dc:title>` +
		scene.Escaped(j.Whole.Title) + `</dc:title></office:meta></office:document-meta>`
	manifest := openHead +
		`<manifest:manifest xmlns:manifest="urn:oasis:names:tc:opendocument:xmlns:manifest:1.0" manifest:version="1.3"><manifest:file-entry manifest:full-path="/" manifest:version="1.3" manifest:media-type="` + openSheetType + `"/>`
	p := archive.New()
	// The media type comes first, and is not packed (OpenDocument 1.3, part 2, 3.3).
	p.Store("mimetype", []byte(openSheetType))
	for _, part := range [][2]string{{"content.xml", content}, {"styles.xml", page}, {"settings.xml", settings},
		{"meta.xml", meta}} {
		manifest += `<manifest:file-entry manifest:full-path="` + part[0] + `" manifest:media-type="text/xml"/>`
		p.Put(part[0], []byte(part[1]))
	}
	p.Put("META-INF/manifest.xml", []byte(manifest+`</manifest:manifest>`))
	return p.Bytes()
}

// writeOpen writes a table, the styles of its columns, and what can be chosen from in their cells.
func (t *table) writeOpen(number int, styles, out, checks *bytes.Buffer) {
	fmt.Fprintf(out, `<table:table table:name="%s">`, scene.Escaped(t.name))
	for c, width := range t.widths() {
		const perCharacter = 0.2 // centimetres, of a text of 10 points (common practice, no source)
		fmt.Fprintf(styles,
			`<style:style style:name="Column%d-%d" style:family="table-column"><style:table-column-properties style:column-width="%.2fcm"/></style:style>`,
			number, c, float64(width)*perCharacter)
		fmt.Fprintf(out, `<table:table-column table:style-name="Column%d-%d"/>`, number, c)
		if list := t.choices[c]; len(list) > 0 {
			var quoted []string
			for _, one := range list {
				quoted = append(quoted, `"`+strings.ReplaceAll(one, `"`, `""`)+`"`)
			}
			fmt.Fprintf(checks,
				`<table:content-validation table:name="Check%d-%d" table:condition="%s" table:allow-empty-cell="true" table:base-cell-address="%s"><table:error-message table:message-type="warning" table:display="true"/></table:content-validation>`,
				number, c, scene.Escaped("of:cell-content-is-in-list("+strings.Join(quoted, ";")+")"),
				scene.Escaped(fmt.Sprintf("'%s'.%s", t.name, steplist.CellName(1, c))))
		}
	}
	for r, row := range t.rows {
		if r == 0 {
			out.WriteString(`<table:table-header-rows>`)
		}
		out.WriteString(`<table:table-row>`)
		for c, text := range row {
			attributes := ` table:style-name="Text"`
			switch {
			case r == 0:
				attributes = ` table:style-name="Head"`
			case c == t.quiet && t.quiet > 0:
				attributes = ` table:style-name="Quiet"`
			case t.types[c] != "":
				if typed := t.openValue(c, t.values[r][c]); typed != "" {
					attributes = typed
				}
			case !t.text[c]:
				if n, err := strconv.Atoi(text); err == nil && strconv.Itoa(n) == text {
					attributes += fmt.Sprintf(` office:value-type="float" office:value="%d"`, n)
				}
			}
			if !strings.Contains(attributes, "value-type") {
				attributes += ` office:value-type="string"`
			}
			if r > 0 && len(t.choices[c]) > 0 {
				attributes += fmt.Sprintf(` table:content-validation-name="Check%d-%d"`, number, c)
			}
			fmt.Fprintf(out, `<table:table-cell%s>`, attributes)
			for _, line := range strings.Split(text, "\n") {
				out.WriteString(`<text:p>` + scene.Escaped(line) + `</text:p>`)
			}
			out.WriteString(`</table:table-cell>`)
		}
		out.WriteString(`</table:table-row>`)
		if r == 0 {
			out.WriteString(`</table:table-header-rows>`)
		}
	}
	out.WriteString(`</table:table>`)
}

// openValue is how a cell says what its value is; empty for texts.
func (t *table) openValue(column int, value string) string {
	n, err := strconv.ParseFloat(value, 64)
	switch kind := t.types[column]; {
	case value == "":
	case kind == values.Date:
		return fmt.Sprintf(` table:style-name="OfDay" office:value-type="date" office:date-value="%s"`,
			scene.Escaped(value))
	case err != nil:
	case kind == values.Duration:
		seconds := n * 60
		return fmt.Sprintf(` table:style-name="OfTime" office:value-type="time" office:time-value="PT%dH%dM%sS"`,
			int(seconds)/3600, int(seconds)/60%60, strconv.FormatFloat(seconds-float64(int(seconds)/60*60), 'f', -1,
				64))
	case kind == values.Money:
		return fmt.Sprintf(` table:style-name="OfMoney" office:value-type="currency" office:value="%s"`,
			scene.Escaped(value))
	case kind == values.Whole:
		return fmt.Sprintf(` table:style-name="OfWhole" office:value-type="float" office:value="%s"`,
			scene.Escaped(value))
	case kind.Counts():
		return fmt.Sprintf(` table:style-name="OfDecimal" office:value-type="float" office:value="%s"`,
			scene.Escaped(value))
	}
	return ""
}
