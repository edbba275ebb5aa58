package exchange_test

import (
	"encoding/base64"
	"encoding/json"
	"encoding/xml"
	"fmt"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"testing"

	"plaintracer/bench/gallery"
	"plaintracer/core/geometry"
	"plaintracer/core/model"
	"plaintracer/exchange/starts"
)

// objects are the objects of a PDF as qpdf reads them: numbers, strings, lists and dictionaries as JSON has them, with
// references as "12 0 R", names with a slash, and texts after "u:" (qpdf's JSON, version 2).
type objects struct {
	t     testing.TB
	byRef map[string]any
	data  map[string]string // of streams
}

func read(t testing.TB, file []byte) *objects {
	var whole struct {
		QPDF []map[string]json.RawMessage `json:"qpdf"`
	}
	text := run(t, file, "qpdf", "--json=2", "--json-stream-data=inline", "--decode-level=generalized", "IN")
	if err := json.Unmarshal([]byte(text), &whole); err != nil {
		t.Fatal(err)
	}
	o := &objects{t, map[string]any{}, map[string]string{}}
	for key, raw := range whole.QPDF[1] {
		var v struct {
			Value  any
			Stream *struct {
				Dict any
				Data string
			}
		}
		if err := json.Unmarshal(raw, &v); err != nil {
			t.Fatal(err)
		}
		key = strings.TrimPrefix(key, "obj:")
		o.byRef[key] = v.Value
		if v.Stream != nil {
			data, err := base64.StdEncoding.DecodeString(v.Stream.Data)
			if err != nil {
				t.Fatal(err)
			}
			o.byRef[key], o.data[key] = v.Stream.Dict, string(data)
		}
	}
	return o
}

// at follows keys, and references on the way.
func (o *objects) at(v any, keys ...string) any {
	follow := func(v any) any {
		if s, ok := v.(string); ok && strings.HasSuffix(s, " 0 R") {
			return o.byRef[s]
		}
		return v
	}
	v = follow(v)
	for _, k := range keys {
		d, _ := v.(map[string]any)
		v = follow(d[k])
	}
	return v
}

// list is a list, or the one thing that stands in the place of one.
func list(v any) []any {
	switch v := v.(type) {
	case nil:
		return nil
	case []any:
		return v
	}
	return []any{v}
}

// faults are what a PDF lacks of what ISO 14289-1 (PDF/UA-1) and ISO 19005-3 (PDF/A-3, level U) ask for and a program
// can see. The rules are from memory, with the numbers of their clauses; no program made for the two standards was to
// be had, so they are looked for in what qpdf reads of the file.
func (o *objects) faults() (out []string) {
	fault := func(format string, a ...any) { out = append(out, fmt.Sprintf(format, a...)) }
	root := o.at(o.byRef["trailer"], "/Root")
	info := o.at(o.byRef["trailer"], "/Info")
	is := func(v, want any, what string) {
		if fmt.Sprint(v) != fmt.Sprint(want) {
			fault("%s is %v, not %v", what, v, want)
		}
	}
	is(o.at(root, "/MarkInfo", "/Marked"), true, "UA 7.1: Marked")
	is(o.at(root, "/ViewerPreferences", "/DisplayDocTitle"), true, "UA 7.1: DisplayDocTitle")
	if s, _ := o.at(root, "/Lang").(string); len(s) < 4 {
		fault("UA 7.2: no language")
	}
	if o.at(o.byRef["trailer"], "/Encrypt") != nil || len(list(o.at(o.byRef["trailer"], "/ID"))) != 2 {
		fault("A 6.1.3: encrypted, or without an identifier")
	}

	// What the file says of itself, and that the two places where it does agree (A 6.6.2, 6.6.3).
	meta, _ := o.at(root).(map[string]any)["/Metadata"].(string)
	said := o.data[meta]
	if err := xml.Unmarshal([]byte(said), new(struct{})); err != nil {
		fault("A 6.6.2: the metadata are no XML: %v", err)
	}
	if o.at(meta, "/Filter") != nil {
		fault("A 6.6.2: the metadata are packed")
	}
	for _, pair := range [][2]string{{"/Title", `<dc:title><rdf:Alt><rdf:li xml:lang="x-default">`},
		{"/Author", `<dc:creator><rdf:Seq><rdf:li>`}, {"/Subject",
			`<dc:description><rdf:Alt><rdf:li xml:lang="x-default">`},
		{"/Producer", `<pdf:Producer>`}, {"/Creator", `<xmp:CreatorTool>`}} {
		value, _ := o.at(info, pair[0]).(string)
		_, after, found := strings.Cut(said, pair[1])
		there, _, _ := strings.Cut(after, "<")
		if found != (value != "") || there != strings.NewReplacer("&", "&amp;", "<", "&lt;", ">",
			"&gt;").Replace(strings.TrimPrefix(value, "u:")) {
			fault("A 6.6.3: %s is %q, and %q in the metadata", pair[0], value, there)
		}
	}
	for _, want := range []string{"<pdfuaid:part>1<", "<pdfaid:part>3<", "<pdfaid:conformance>U<",
		"pdfaExtension:schemas"} {
		if !strings.Contains(said, want) {
			fault("A 6.6.4, UA 5: the metadata lack %s", want)
		}
	}

	// Colours mean something, and files inside are said to belong to the document (A 6.2.3, 6.8).
	intents := list(o.at(root, "/OutputIntents"))
	if len(intents) != 1 || o.at(intents[0], "/S") != "/GTS_PDFA1" || fmt.Sprint(o.at(intents[0], "/DestOutputProfile",
		"/N")) != "3" {
		fault("A 6.2.3: the output intents are %v", intents)
	}
	for ref, v := range o.byRef {
		switch {
		case o.at(v, "/Type") == "/Filespec":
			belongs := slices.Contains(list(o.at(root, "/AF")), any(ref))
			if !belongs || o.at(v, "/F") == nil || o.at(v, "/UF") == nil || o.at(v, "/AFRelationship") == nil ||
				o.at(v, "/EF", "/F", "/Subtype") == nil {
				fault("A 6.8: the file %v is not declared: %v", ref, v)
			}
		case o.at(v, "/Type") == "/Action" && o.at(v, "/S") != "/URI":
			fault("A 6.5.1: an action %v", o.at(v, "/S"))
		case o.at(v, "/Subtype") == "/Image" && o.at(v, "/Interpolate") != nil:
			fault("A 6.2.8: a picture is interpolated")
		}
	}

	o.fonts(fault)
	o.tree(fault)
	return out
}

// fonts looks at the fonts, and at what is shown with them (A 6.2.11, UA 7.21).
func (o *objects) fonts(fault func(string, ...any)) {
	inside := regexp.MustCompile(`(?s)beginbfchar\n(.*?)endbfchar`)
	named := map[string]string{}
	means := map[string]map[string]string{}
	for ref, v := range o.byRef {
		if o.at(v, "/Subtype") != "/Type0" {
			continue
		}
		kid := list(o.at(v, "/DescendantFonts"))[0]
		if o.at(kid, "/FontDescriptor", "/FontFile2") == nil && o.at(kid, "/FontDescriptor", "/FontFile3") == nil {
			fault("A 6.2.11.4: the font %v is not inside", ref)
		}
		if o.at(kid, "/Subtype") == "/CIDFontType2" && o.at(kid, "/CIDToGIDMap") == nil {
			fault("A 6.2.11.3.2: the font %v has no CIDToGIDMap", ref)
		}
		to, _ := v.(map[string]any)["/ToUnicode"].(string)
		means[ref] = map[string]string{}
		for _, part := range inside.FindAllStringSubmatch(o.data[to], -1) {
			for _, line := range strings.Split(strings.TrimSpace(part[1]), "\n") {
				code, text, _ := strings.Cut(strings.Trim(line, "<>"), "><")
				if means[ref][code] != "" {
					fault("UA 7.21.7: the code %s of %v has two meanings", code, ref)
				}
				means[ref][code] = text
			}
		}
	}
	for _, v := range o.byRef {
		fonts, _ := o.at(v, "/Font").(map[string]any)
		for name, ref := range fonts {
			named[name], _ = ref.(string)
		}
	}
	shown := regexp.MustCompile(`/(F\d+) [\d.]+ Tf|<([0-9A-F]+)>(?:[^>]|$)`)
	for ref, v := range o.byRef {
		if o.at(v, "/Type") != "/Page" {
			continue
		}
		contents, _ := v.(map[string]any)["/Contents"].(string)
		font := ""
		for _, m := range shown.FindAllStringSubmatch(o.data[contents], -1) {
			if m[1] != "" {
				font = m[1]
				continue
			}
			for i := 0; font != "" && !strings.HasPrefix(m[2], "FEFF") && i+4 <= len(m[2]); i += 4 {
				code := m[2][i : i+4]
				if text := means[named["/"+font]][code]; code == "0000" || text == "" || text == "0000" ||
					text == "FEFF" || text == "FFFE" {
					fault("UA 7.21.7, A 6.2.11.8: page %s shows the code %s of %s, which means %q", ref, code, font,
						text)
				}
			}
		}
	}
}

// within says which elements stand in which (ISO 32000-1, 14.8.4).
var within = map[string][]string{"/L": {"/LI"}, "/LI": {"/Lbl", "/LBody"}, "/Table": {"/TR"}, "/TR": {"/TH", "/TD"}}

// tree looks at what is read: that every mark of every page is, once; what elements hold; and that links and pictures
// say what they are (UA 7.1 to 7.5, 7.18).
func (o *objects) tree(fault func(string, ...any)) {
	root := o.at(o.byRef["trailer"], "/Root")
	parents := map[int]any{}
	numbers := list(o.at(root, "/StructTreeRoot", "/ParentTree", "/Nums"))
	for i := 0; i+1 < len(numbers); i += 2 {
		parents[int(numbers[i].(float64))] = o.at(numbers[i+1])
		if ref, ok := numbers[i+1].(string); ok {
			parents[int(numbers[i].(float64))] = ref
		}
	}
	held := map[string]string{} // marks, as page and number, or annotations, by the element that holds them
	level := 0
	var walk func(ref string)
	walk = func(ref string) {
		e := o.byRef[ref]
		kind, _ := o.at(e, "/S").(string)
		kids := list(o.at(e, "/K"))
		switch {
		case len(kids) == 0:
			fault("an element %s holds nothing", kind)
		case kind == "/Figure" && (o.at(e, "/Alt") == nil || len(list(o.at(e, "/A", "/BBox"))) != 4):
			fault("UA 7.3: a figure has no words, or no place")
		case kind == "/TH" && o.at(e, "/A", "/Scope") == nil:
			fault("UA 7.5: a head of a table does not say of what")
		}
		if n, err := strconv.Atoi(strings.TrimPrefix(kind, "/H")); err == nil {
			if n > level+1 {
				fault("UA 7.4.2: after a heading %d comes one of %d", level, n)
			}
			level = n
		}
		for _, k := range kids {
			inside := o.at(k)
			switch o.at(inside, "/Type") {
			case "/MCR":
				mark := fmt.Sprint(inside.(map[string]any)["/Pg"], " ", o.at(inside, "/MCID"))
				if held[mark] != "" {
					fault("%s is read twice", mark)
				}
				held[mark] = ref
			case "/OBJR":
				held[fmt.Sprint(inside.(map[string]any)["/Obj"])] = ref
			default:
				of, _ := o.at(inside, "/S").(string)
				if allowed := within[kind]; allowed != nil && !slices.Contains(allowed, of) {
					fault("UA 7.2: a %s in a %s", of, kind)
				}
				for outer, inner := range within {
					if slices.Contains(inner, of) && outer != kind && !slices.Contains(within[kind], of) {
						fault("UA 7.2: a %s in a %s", of, kind)
					}
				}
				if o.at(inside, "/P") == nil || inside.(map[string]any)["/P"] != ref {
					fault("a %s does not know where it stands", of)
				}
				walk(k.(string))
			}
		}
	}
	for _, k := range list(o.at(root, "/StructTreeRoot").(map[string]any)["/K"]) {
		walk(k.(string))
	}
	mark := regexp.MustCompile(`^/(\w+)(?:<<(.*)>>)? ?B[DM]C$`)
	for ref, page := range o.byRef {
		if o.at(page, "/Type") != "/Page" {
			continue
		}
		own, _ := o.at(page, "/StructParents").(float64)
		by := list(parents[int(own)])
		contents, _ := page.(map[string]any)["/Contents"].(string)
		depth, marks := 0, 0
		for _, line := range strings.Split(o.data[contents], "\n") {
			for _, found := range mark.FindAllStringSubmatch(line, -1) {
				depth++
				if _, number, ok := strings.Cut(found[2], "/MCID "); ok {
					if marks++; held[ref+" "+number] == "" || len(by) <= marks-1 ||
						by[marks-1] != held[ref+" "+number] {
						fault("UA 7.1: the mark %s of page %s is not read, or not found from there", number, ref)
					}
				} else if found[1] != "Artifact" {
					fault("UA 7.1: a mark %s of page %s is neither read nor an artifact", found[1], ref)
				}
			}
			shows := strings.HasSuffix(line, "TJ") || strings.HasSuffix(line, " Do Q") || strings.HasSuffix(line,
				"S") ||
				line == "f" || line == "B"
			if shows && depth == 0 {
				fault("UA 7.1: %q of page %s is neither read nor an artifact", line, ref)
			}
			if strings.HasSuffix(line, "EMC") {
				depth--
			}
			if strings.Contains(line, "ActualText") {
				depth++
			}
		}
		if depth != 0 || marks != len(by) {
			fault("page %s has %d marks, %d in the tree, and ends %d deep", ref, marks, len(by), depth)
		}
		annotations := list(o.at(page, "/Annots"))
		if len(annotations) > 0 && o.at(page, "/Tabs") != "/S" {
			fault("UA 7.18.3: the links of page %s have no order", ref)
		}
		for _, a := range annotations {
			key, ok := o.at(a, "/StructParent").(float64)
			element, _ := parents[int(key)].(string)
			want := map[any]string{"/Link": "/Link", "/FileAttachment": "/Annot"}[o.at(a, "/Subtype")]
			if !ok || element == "" || element != held[fmt.Sprint(a)] || o.at(element, "/S") != want {
				fault("UA 7.18.1, 7.18.5: the link %v of page %s is not read as one", a, ref)
			}
			if fmt.Sprint(o.at(a, "/F")) != "4" || o.at(a, "/Contents") == nil {
				fault("UA 7.18.5, A 6.3: the link %v is not printed, or says nothing", a)
			}
		}
	}
}

// Every PDF that leaves the organisation meets what the standards for reading aloud and for archives ask for: drawings,
// procedures and slides, of flows, journeys and hierarchies, with files inside, in scripts of all directions.
func TestAPDFCanBeFiled(t *testing.T) {
	maps, err := gallery.Maps()
	if err != nil {
		t.Fatal(err)
	}
	maps["two sheets"] = two(t)
	for _, s := range starts.All {
		if testing.Short() && !s.Cards && !s.Journey {
			continue
		}
		if maps[s.Title], err = s.Make(s.Title, model.Rightwards, starts.Paper{Name: "A4"},
			func() bool { return false }); err != nil {
			t.Fatal(err)
		}
	}
	for name, m := range maps {
		for _, format := range []string{"pdf", "procedure-pdf", "slides-pdf"} {
			for _, more := range [][]string{nil, {"paper", "A5", "use", "tiles"}} {
				if more != nil && format != "pdf" {
					continue
				}
				file := made(t, m, format, append([]string{"date", "2026-11-27"}, more...)...).Data
				faults := read(t, file).faults()
				slices.Sort(faults)
				if len(faults) > 6 {
					faults = append(faults[:6], fmt.Sprintf("and %d more", len(faults)-6))
				}
				for _, f := range faults {
					t.Errorf("%s as %s %v: %s", name, format, more, f)
				}
			}
		}
	}
}

// Words come out of a PDF as they were written in, whatever their script and direction, those that no font has among
// them (poppler's pdftotext, which marks the direction of what is written leftwards).
func TestWordsComeOutAsTheyWereWritten(t *testing.T) {
	m := model.New("Scripts", model.Rightwards, "A3", true)
	texts := []string{"مرحبا بالعالم", "שלום עולם", "Ωmega and Ohm", "नमस्ते दुनिया", "عَرَبِي", "Grüße",
		"\U0001F701 and \U0001F702 and \U0001F701"}
	for i, text := range texts {
		m.Sheets[0].Symbols = append(m.Sheets[0].Symbols, &model.Symbol{ID: fmt.Sprint("s", i), Kind: model.Process,
			Text: text,
			Box:  geometry.Box{X: 100 * px, Y: (60 + 120*i) * px, W: 400 * px, H: 80 * px}})
	}
	out := run(t, made(t, m, "pdf", "numbers", "no").Data, "pdftotext", "IN", "-")
	out = strings.Map(func(r rune) rune {
		if r >= 0x202a && r <= 0x202e {
			return -1
		}
		return r
	}, out)
	words := strings.Join(strings.Fields(out), " ")
	for _, text := range texts {
		// Marks over and under letters make the program see gaps inside of words.
		marked := strings.ContainsRune(text, '\u064e') && strings.Contains(strings.ReplaceAll(words, " ", ""), text)
		if !strings.Contains(words, text) && !marked {
			t.Errorf("%q comes out of the PDF as %q", text, words)
		}
	}
}
