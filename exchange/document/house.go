package document

import (
	"bytes"
	"errors"
	"fmt"
	"path"
	"plaintracer/exchange/archive"
	"regexp"
	"strconv"
	"strings"
)

// ErrTemplate is what is said of a template that cannot be taken.
var ErrTemplate = errors.New("the organisation's template cannot be taken: save it anew with a word processor")

var (
	styleBegins = regexp.MustCompile(`(?s)<w:style [^>]*w:styleId="([^"]*)"[^>]*>\s*<w:name w:val="([^"]*)"`)
	abstractIDs = regexp.MustCompile(`w:abstractNumId="(\d+)"`)
	listIDs     = regexp.MustCompile(`<w:num [^>]*w:numId="(\d+)"`)
	documentIs  = regexp.MustCompile(`(?s)<w:document[^>]*>`)
	lastSection = regexp.MustCompile(`(?s)<w:sectPr[^>]*?(?:/>|>.*?</w:sectPr>)`)
	mainType    = regexp.MustCompile(`ContentType="[^"]*(?:document|template)\.main\+xml"`)
)

// wordOfHouse writes a text into a document of the organisation: what stands in its body goes, its page with head and
// foot stays. A style of ours that it has under the same name is its own; others are added.
func (t *Text) wordOfHouse(parts []housePart) ([]byte, error) {
	at := map[string]*housePart{}
	for i := range parts {
		at[parts[i].name] = &parts[i]
	}
	const main, relations = "word/document.xml", "word/_rels/document.xml.rels"
	for _, name := range []string{main, relations, "word/styles.xml", "[Content_Types].xml", "_rels/.rels"} {
		if at[name] == nil {
			return nil, fmt.Errorf("%w: it has no %s", ErrTemplate, name)
		}
	}
	begins := documentIs.Find(at[main].data)
	for _, space := range []string{`xmlns:w="`, `xmlns:r="`} {
		if !bytes.Contains(begins, []byte(space)) {
			return nil, fmt.Errorf("%w: its text is written in a way of its own", ErrTemplate)
		}
	}
	if !bytes.Contains(begins, []byte(`xmlns:wp="`)) {
		begins = append(bytes.TrimSuffix(bytes.Clone(begins), []byte(">")),
			` xmlns:wp="http://schemas.openxmlformats.org/drawingml/2006/wordprocessingDrawing">`...)
	}

	// Styles are found by their names: their ids are those of the language of whoever made the template.
	ids := map[string]string{}
	used := map[string]bool{}
	for _, m := range styleBegins.FindAllSubmatch(at["word/styles.xml"].data, -1) {
		ids[strings.ToLower(string(m[2]))], used[string(m[1])] = string(m[1]), true
	}
	id := func(own string) string {
		name := own
		for i := range wordStyles {
			if wordStyles[i].id == own {
				name = wordStyles[i].name
			}
		}
		if own == "Grid" {
			name = "table grid"
		}
		if theirs := ids[strings.ToLower(name)]; theirs != "" {
			return theirs
		}
		return own
	}
	abstracts, lists := 0, 1
	numbers := at["word/numbering.xml"]
	if numbers != nil {
		abstracts, lists = behind(abstractIDs, numbers.data), behind(listIDs, numbers.data)
	}
	w := &wordWriter{Text: t, id: id, firstList: lists}
	w.write()

	added := ""
	for i := range wordStyles {
		s := &wordStyles[i]
		if ids[strings.ToLower(s.name)] == "" && !used[s.id] {
			added += s.xml(id, lists)
		}
	}
	if ids["table grid"] == "" && !used["Grid"] {
		added += tableStyle
	}
	section := ""
	if all := lastSection.FindAll(at[main].data, -1); len(all) > 0 {
		section = string(all[len(all)-1])
	}
	at[main].data = []byte(xmlHead + string(begins) + `<w:body>` + w.body.String() + section + `</w:body></w:document>`)
	at["word/styles.xml"].data = before(at["word/styles.xml"].data, "</w:styles>", added)
	types := at["[Content_Types].xml"]
	types.data = mainType.ReplaceAll(types.data, []byte(`ContentType="`+typesOfWord+`document.main+xml"`))
	if !bytes.Contains(bytes.ToLower(types.data), []byte(`extension="png"`)) {
		types.data = before(types.data, "</Types>", `<Default Extension="png" ContentType="image/png"/>`)
	}
	// Elements of a kind stand together, how lists look before the lists.
	abstract, list := w.numbering(abstracts)
	var more []housePart
	if numbers == nil {
		more = append(more, housePart{"word/numbering.xml",
			[]byte(xmlHead + `<w:numbering ` + wordSpaces + `>` + abstract + list + `</w:numbering>`)})
		w.relate("Numbers", "numbering", "numbering.xml")
		types.data = before(types.data, "</Types>",
			`<Override PartName="/word/numbering.xml" ContentType="`+typesOfWord+`numbering+xml"/>`)
	} else {
		if first := bytes.Index(numbers.data, []byte("<w:num ")); first >= 0 {
			numbers.data = []byte(string(numbers.data[:first]) + abstract + string(numbers.data[first:]))
		} else {
			list = abstract + list
		}
		numbers.data = before(numbers.data, "</w:numbering>", list)
	}
	at[relations].data = before(at[relations].data, "</Relationships>", w.relations.String())
	const properties = "docProps/core.xml"
	if at[properties] != nil {
		at[properties].data = []byte(xmlHead + w.properties())
	} else {
		more = append(more, housePart{properties, []byte(xmlHead + w.properties())})
		types.data = before(types.data, "</Types>",
			`<Override PartName="/`+properties+`" ContentType="`+propertiesType+`"/>`)
		at["_rels/.rels"].data = before(at["_rels/.rels"].data, "</Relationships>",
			`<Relationship Id="ptProperties" Type="`+propertiesSpace+`" Target="`+properties+`"/>`)
	}
	p := archive.New()
	for _, one := range append(parts, more...) {
		if end := path.Ext(one.name); end == ".png" || end == ".jpeg" {
			p.Store(one.name, one.data)
		} else {
			p.Put(one.name, one.data)
		}
	}
	w.putPictures(p)
	return p.Bytes()
}

// before puts a text before the last place of a mark.
func before(data []byte, mark, text string) []byte {
	at := bytes.LastIndex(data, []byte(mark))
	if at < 0 {
		return data
	}
	return []byte(string(data[:at]) + text + string(data[at:]))
}

// behind is the number after the largest one of a pattern.
func behind(pattern *regexp.Regexp, data []byte) int {
	most := 0
	for _, m := range pattern.FindAllSubmatch(data, -1) {
		if n, err := strconv.Atoi(string(m[1])); err == nil {
			most = max(most, n)
		}
	}
	return most + 1
}

var (
	openStyleIs = regexp.MustCompile(`<(?:style:style|text:list-style) [^>]*style:name="([^"]*)"`)
	ownStyle    = regexp.MustCompile(`^<(?:style:style|text:list-style) style:name="([^"]*)"`)
)

// openOfHouse gives the styles of a document of the organisation those of ours that it has not, and returns its other
// parts that the styles refer to, such as pictures in the heads of pages.
func openOfHouse(parts []housePart, ours string) (styles string, others []housePart, err error) {
	for _, p := range parts {
		switch {
		case p.name == "styles.xml":
			styles = string(p.data)
		case strings.HasPrefix(p.name, "Pictures/"):
			others = append(others, p)
		}
	}
	if !strings.Contains(styles, "</office:styles>") || !strings.Contains(styles, "<style:master-page ") {
		return "", nil, fmt.Errorf("%w: it has no styles, or no page", ErrTemplate)
	}
	there := map[string]bool{}
	for _, m := range openStyleIs.FindAllStringSubmatch(styles, -1) {
		there[m[1]] = true
	}
	added := ""
	for _, line := range strings.Split(ours, "\n") {
		if m := ownStyle.FindStringSubmatch(line); m != nil && !there[m[1]] {
			added += line
		}
	}
	return strings.Replace(styles, "</office:styles>", added+"</office:styles>", 1), others, nil
}
