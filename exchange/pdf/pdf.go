// Package pdf writes pages as a PDF file (ISO 32000-1): outlines and text stay what they are, fonts are inside as
// subsets, and what is read is marked with what it is and in its order, as PDF/UA-1 (ISO 14289-1) and PDF/A-3
// (ISO 19005-3) ask for.
//
// The libraries that were tried each lack something a hand-over needs: shaping, links inside, attachments, a reading
// order, or bookmarks that lead to the right place. What is written here is little: paths, glyphs, pictures, and the
// few dictionaries around them. Files are checked by programs that did not write them.
package pdf

import (
	"context"
	"errors"
	"fmt"
	"image"
	"image/color"
	"slices"
	"strings"
	"time"

	"plaintracer/core/geometry"
	"plaintracer/core/model"
	"plaintracer/core/pages"
	"plaintracer/core/pictures"
	"plaintracer/core/scene"
	"plaintracer/exchange/picturefile"
	"plaintracer/exchange/typeface"
)

// Document is what is written.
type Document struct {
	Title, Author, Subject string
	// Language is that of the texts (BCP 47); empty says nothing.
	Language string
	// Date is when it was made; the zero time says nothing, so that the same pages give the same bytes.
	Date        time.Time
	Pages       []pages.Page
	Attachments []Attachment
	// Structure is what is read, in its order. What has no place in it is read behind it, page by page as it is drawn.
	Structure []pages.Element
}

// Attachment is a file inside. What leads to its ID on a page opens it.
type Attachment struct {
	ID, Name, Description, MediaType string
	Data                             []byte
}

// perInch is how many pixels of a picture there are to an inch of paper at its own size.
const perInch = 200

// writer is the work on one document.
type writer struct {
	ctx   context.Context
	doc   *Document
	file  *file
	faces []*face
	// whole are the fonts that cannot be reduced.
	whole  map[string]bool
	images map[imageKey]ref
	fonts  map[*scene.Drawing]*typeface.Set
	// specs are the files inside; attached those that something on a page leads to, by its id.
	specs    []spec
	attached map[string]spec
	pageRefs []ref
	read     reading

	// Of the page under way:
	at        int
	out       []byte
	resources []string // of images
}

type imageKey struct {
	picture *pictures.Picture
	w, h    int
}

// Write returns the file. It ends early, with the error of the context, when that has ended.
func Write(ctx context.Context, d *Document) ([]byte, error) {
	if len(d.Pages) == 0 {
		return nil, errors.New("there is no page to write")
	}
	whole := map[string]bool{}
	for {
		w := &writer{ctx: ctx, doc: d, file: newFile(), whole: whole, images: map[imageKey]ref{},
			fonts: map[*scene.Drawing]*typeface.Set{}, attached: map[string]spec{}, read: readingOf(d)}
		out, err := w.write()
		if err != nil || out != nil {
			return out, err
		}
	}
}

// write returns nil when it has to be done again, with more fonts whole.
func (w *writer) write() ([]byte, error) {
	f, d := w.file, w.doc
	catalogue, tree := f.reserve(), f.reserve()
	w.attach()
	for range d.Pages {
		w.pageRefs = append(w.pageRefs, f.reserve())
	}
	var kids []string
	resources := f.reserve()
	for i := range d.Pages {
		if err := w.ctx.Err(); err != nil {
			return nil, err
		}
		p := &d.Pages[i]
		w.at = i
		if err := w.page(p); err != nil {
			return nil, err
		}
		content := f.stream("", w.out)
		annotations := w.links(p)
		f.set(w.pageRefs[i],
			fmt.Sprintf("<</Type/Page/Parent %s/MediaBox[0 0 %s %s]/Resources %s/Contents %s/StructParents %d/Tabs/S%s>>",
				tree, points(p.W), points(p.H), resources, content, i, annotations))
		kids = append(kids, w.pageRefs[i].String())
	}
	again := false
	var fonts, images []string
	for _, c := range w.faces {
		if !c.write(f) {
			w.whole[c.name], again = true, true
		}
		fonts = append(fonts, fmt.Sprintf("/%s %s", c.name, c.ref))
	}
	if again {
		return nil, nil
	}
	images = append(images, w.resources...)
	f.set(resources, fmt.Sprintf("<</ProcSet[/PDF/Text/ImageC]/Font<<%s>>/XObject<<%s>>>>", strings.Join(fonts, ""),
		strings.Join(images, "")))
	f.set(tree, fmt.Sprintf("<</Type/Pages/Count %d/Kids[%s]>>", len(kids), strings.Join(kids, " ")))
	entries := fmt.Sprintf("/Pages %s/StructTreeRoot %s/MarkInfo<</Marked true>>/ViewerPreferences<</DisplayDocTitle true>>",
		tree, w.structure())
	if d.Language != "" {
		entries += "/Lang" + text(d.Language)
	}
	entries += w.outline() + w.attachments() + w.described()
	f.set(catalogue, "<</Type/Catalog"+entries+">>")
	info := "<</Producer(" + producer + ")/Creator(" + producer + ")/Title" + text(d.Title)
	if d.Author != "" {
		info += "/Author" + text(d.Author)
	}
	if d.Subject != "" {
		info += "/Subject" + text(d.Subject)
	}
	if !d.Date.IsZero() {
		info += d.Date.UTC().Format("/CreationDate(D:20060102150405Z)")
	}
	return f.bytes(catalogue, f.add(info+">>")), nil
}

// points writes a length of a page in points, 72 to the inch.
func points(n int) string { return string(num(nil, float64(n)*0.75/geometry.Px, 3)) }

// links adds the links of a page, and returns the entry that names them.
func (w *writer) links(p *pages.Page) string {
	var list []string
	// add adds an annotation: its kind, what it says, and what it does.
	add := func(l *pages.Link, kind, says, does string) {
		r := w.file.reserve()
		key := w.read.linked(w.at, l, r, kind)
		w.file.set(r,
			fmt.Sprintf("<</Type/Annot/Subtype/%s/Rect[%s %s %s %s]/Border[0 0 0]/F 4/StructParent %d/Contents%s%s>>",
				kind, points(l.X), points(p.H-l.Bottom()), points(l.Right()), points(p.H-l.Y), key, text(says), does))
		list = append(list, r.String())
	}
	for i := range p.Links {
		l := &p.Links[i]
		if link := (model.Hyperlink{To: l.To}); link.Opens() {
			add(l, "Link", l.To, "/A<</Type/Action/S/URI/URI"+ascii(l.To)+">>")
			continue
		}
		if spec, ok := w.attached[l.To]; ok {
			add(l, "FileAttachment", spec.name, fmt.Sprintf("/FS %s/AP<</N %s>>", spec.ref,
				w.file.stream(fmt.Sprintf("/Type/XObject/Subtype/Form/Resources<<>>/BBox[0 0 %s %s]", points(l.W),
					points(l.H)), nil)))
			continue
		}
		page, at := pages.Find(w.doc.Pages, l.To)
		if page < 0 {
			continue
		}
		to := w.doc.Pages[page]
		add(l, "Link", fmt.Sprintf("Page %d", page+1), fmt.Sprintf("/Dest[%s/XYZ %s %s null]", w.pageRefs[page],
			points(max(at.X-40*geometry.Px, 0)), points(min(to.H-at.Y+40*geometry.Px, to.H))))
	}
	if len(list) == 0 {
		return ""
	}
	return "/Annots[" + strings.Join(list, " ") + "]"
}

// ascii writes an address as a string of 7-bit ASCII, as actions hold it (ISO 32000-1, 12.6.4.7): other signs as the
// bytes of UTF-8 in per cent (RFC 3986, 2.1).
func ascii(address string) string {
	var out strings.Builder
	out.WriteByte('(')
	for _, b := range []byte(address) {
		switch {
		case b <= ' ' || b >= 0x7f:
			fmt.Fprintf(&out, "%%%02X", b)
		case b == '(' || b == ')' || b == '\\':
			out.WriteByte('\\')
			fallthrough
		default:
			out.WriteByte(b)
		}
	}
	out.WriteByte(')')
	return out.String()
}

// spec is a file inside: the object that names it, and the name that no other has.
type spec struct {
	ref  ref
	name string
}

// attach writes the files inside, before the pages that lead to them.
func (w *writer) attach() {
	used := map[string]bool{}
	for _, a := range w.doc.Attachments {
		name := a.Name
		for n := 2; used[name]; n++ {
			name = fmt.Sprintf("%d %s", n, a.Name)
		}
		used[name] = true
		kind, date := a.MediaType, ""
		if kind == "" {
			kind = "application/octet-stream"
		}
		if !w.doc.Date.IsZero() {
			date = w.doc.Date.UTC().Format("/ModDate(D:20060102150405Z)")
		}
		stream := w.file.stream(fmt.Sprintf("/Type/EmbeddedFile/Subtype/%s/Params<</Size %d%s>>", nameOf(kind),
			len(a.Data), date), a.Data)
		relation := "Source"
		if a.ID != "" {
			relation = "Supplement"
		}
		r := w.file.add(fmt.Sprintf("<</Type/Filespec/F%s/UF%s/Desc%s/AFRelationship/%s/EF<</F %s/UF %s>>>>",
			text(name), text(name), text(a.Description), relation, stream, stream))
		w.specs = append(w.specs, spec{r, name})
		if a.ID != "" {
			w.attached[a.ID] = spec{r, name}
		}
	}
}

// attachments returns the entries of the catalogue that name the files inside, by their names in order (ISO 32000-1,
// 7.9.6).
func (w *writer) attachments() string {
	if len(w.specs) == 0 {
		return ""
	}
	slices.SortFunc(w.specs, func(a, b spec) int { return strings.Compare(text(a.name), text(b.name)) })
	var names, all []string
	for _, s := range w.specs {
		names, all = append(names, text(s.name)+s.ref.String()), append(all, s.ref.String())
	}
	return "/Names<</EmbeddedFiles<</Names[" + strings.Join(names, " ") + "]>>>>/AF[" + strings.Join(all, " ") + "]"
}

// nameOf writes a name, with all signs but letters and digits by their numbers (ISO 32000-1, 7.3.5).
func nameOf(s string) string {
	var out strings.Builder
	for _, b := range []byte(s) {
		if b >= 'a' && b <= 'z' || b >= 'A' && b <= 'Z' || b >= '0' && b <= '9' {
			out.WriteByte(b)
		} else {
			fmt.Fprintf(&out, "#%02X", b)
		}
	}
	return out.String()
}

// page writes what is drawn on a page.
func (w *writer) page(p *pages.Page) error {
	w.out = w.out[:0:0]
	// From here on lengths are CSS pixels, and y grows downwards.
	w.out = append(w.out, "0.75 0 0 -0.75 0 "...)
	w.out = append(append(w.out, points(p.H)...), " cm\n1 j\n"...)
	for i := range p.Views {
		v := &p.Views[i]
		k := v.Scale()
		if v.ID != "" {
			w.begin(v.ID, v.To)
		}
		w.out = append(w.out, "q\n"...)
		for _, n := range [...]int{v.To.X, v.To.Y, v.To.W, v.To.H} {
			w.out = append(num(w.out, float64(n)/geometry.Px, 3), ' ')
		}
		w.out = append(w.out, "re W n\n"...)
		w.out = append(num(w.out, k, 6), " 0 0 "...)
		w.out = append(num(w.out, k, 6), ' ')
		w.out = append(num(w.out, (float64(v.To.X)-k*float64(v.From.X))/geometry.Px, 3), ' ')
		w.out = append(num(w.out, (float64(v.To.Y)-k*float64(v.From.Y))/geometry.Px, 3), " cm\n"...)
		set, err := w.fontsOf(v.Drawing)
		if err != nil {
			return err
		}
		for j := range v.Drawing.Nodes {
			if n := &v.Drawing.Nodes[j]; v.From.Meets(n.Bounds()) {
				if err := w.node(n, v, set, k); err != nil {
					return err
				}
			}
		}
		w.out = append(w.out, "Q\n"...)
		if v.ID != "" {
			w.end()
		}
	}
	for i := range p.Nodes {
		if err := w.node(&p.Nodes[i], nil, &typeface.Set{}, 1); err != nil {
			return err
		}
	}
	return nil
}

// begin begins what is read as the content of an id, which stands at a box of the page.
func (w *writer) begin(id string, on geometry.Box) {
	kind, number := w.read.add(w.at, id, on)
	w.out = fmt.Appendf(w.out, "/%s<</MCID %d>>BDC\n", kind, number)
}

func (w *writer) end() { w.out = append(w.out, "EMC\n"...) }

func (w *writer) fontsOf(d *scene.Drawing) (*typeface.Set, error) {
	if w.fonts[d] == nil {
		set, err := typeface.Of(d)
		if err != nil {
			return nil, err
		}
		w.fonts[d] = set
	}
	return w.fonts[d], nil
}

// node writes a node that stands by itself, or in a view. What it draws is beside what is read, its texts are read, and
// its pictures where the structure has them as a figure.
func (w *writer) node(n *scene.Node, v *pages.View, set *typeface.Set, scale float64) error {
	if err := w.ctx.Err(); err != nil {
		return err
	}
	whole := v != nil && v.ID != "" // it is part of what is read already
	figure := !whole && w.read.kind(n.ID) == pages.Figure && len(n.Images) > 0
	if len(n.Shapes)+len(n.Images) > 0 {
		switch {
		case figure:
			on := n.Bounds()
			if v != nil {
				on, _ = v.Place(on)
			}
			w.begin(n.ID, on)
		case !whole:
			w.out = append(w.out, "/Artifact BMC\n"...)
		}
		for i := range n.Shapes {
			w.shape(n.At, &n.Shapes[i])
		}
		for i := range n.Images {
			if err := w.image(n.At, &n.Images[i], scale); err != nil {
				return err
			}
			if over, covered := n.Images[i].Over(); covered {
				w.shape(n.At, &over)
			}
		}
		if !whole {
			w.end()
		}
	}
	if len(n.Texts) == 0 {
		return nil
	}
	switch {
	case whole:
	case n.Class == pages.FootClass:
		w.out = append(w.out, "/Artifact<</Type/Pagination/Subtype/Footer>>BDC\n"...)
	case pages.Beside(n) || v != nil && v.Spread && w.read.elsewhere(w.at, v, n):
		w.out = append(w.out, "/Artifact BMC\n"...)
	default:
		w.begin(n.ID, geometry.Box{})
	}
	for i := range n.Texts {
		parts := n.Texts[i].Split()
		for k := range parts {
			if err := w.text(n.At, &parts[k], set, k+1 == len(parts) && i+1 < len(n.Texts)); err != nil {
				return err
			}
		}
	}
	if !whole {
		w.end()
	}
	return nil
}

// colour writes the operator that takes a colour, #rrggbb.
func (w *writer) colour(hex, operator string) {
	c := rgb(hex)
	for _, v := range [...]uint8{c.R, c.G, c.B} {
		w.out = append(num(w.out, float64(v)/255, 4), ' ')
	}
	w.out = append(append(w.out, operator...), '\n')
}

func rgb(hex string) color.RGBA {
	c := color.RGBA{A: 255}
	fmt.Sscanf(hex, "#%02x%02x%02x", &c.R, &c.G, &c.B)
	return c
}

func (w *writer) point(p geometry.Point) {
	w.out = append(num(w.out, float64(p.X)/geometry.Px, 2), ' ')
	w.out = append(num(w.out, float64(p.Y)/geometry.Px, 2), ' ')
}

func (w *writer) path(at geometry.Point, path geometry.Path) {
	for _, op := range path {
		switch op.Verb {
		case 'M':
			w.point(op.P.Add(at))
			w.out = append(w.out, "m\n"...)
		case 'L':
			w.point(op.P.Add(at))
			w.out = append(w.out, "l\n"...)
		case 'C':
			w.point(op.A.Add(at))
			w.point(op.B.Add(at))
			w.point(op.P.Add(at))
			w.out = append(w.out, "c\n"...)
		case 'Z':
			w.out = append(w.out, "h\n"...)
		}
	}
}

func (w *writer) shape(at geometry.Point, s *scene.Shape) {
	if s.Fill == "" && s.Stroke == "" {
		return
	}
	if s.Fill != "" {
		w.colour(s.Fill, "rg")
	}
	if s.Stroke != "" {
		w.colour(s.Stroke, "RG")
		w.out = append(num(w.out, float64(s.Width)/geometry.Px, 2), " w\n["...)
		for _, d := range s.Dash {
			w.out = append(num(w.out, float64(d)/geometry.Px, 2), ' ')
		}
		w.out = append(w.out, "]0 d\n"...)
	}
	w.path(at, s.Path)
	w.out = append(w.out, map[[2]bool]string{{true, true}: "B\n", {true, false}: "f\n",
		{false, true}: "S\n"}[[2]bool{s.Fill != "", s.Stroke != ""}]...)
}

// image draws a picture in the middle of its box, as large as its proportions allow.
func (w *writer) image(at geometry.Point, i *scene.Image, scale float64) error {
	box := i.Moved(at)
	fit := min(float64(box.W)/float64(i.Picture.W), float64(box.H)/float64(i.Picture.H))
	pw, ph := fit*float64(i.Picture.W)/geometry.Px, fit*float64(i.Picture.H)/geometry.Px
	x, y := float64(box.X)/geometry.Px+(float64(box.W)/geometry.Px-pw)/2,
		float64(box.Y)/geometry.Px+(float64(box.H)/geometry.Px-ph)/2
	fine := scale * perInch / 96
	key := imageKey{i.Picture, clamp(pw * fine), clamp(ph * fine)}
	if i.Picture.Type != "image/svg+xml" { // not finer than it is
		key.w, key.h = min(key.w, i.Picture.W), min(key.h, i.Picture.H)
	}
	r, ok := w.images[key]
	if !ok {
		bitmap, err := picturefile.Bitmap(w.ctx, i.Picture, key.w, key.h)
		if w.ctx.Err() != nil {
			return w.ctx.Err()
		}
		if err == nil {
			r = w.bitmap(bitmap)
			w.resources = append(w.resources, fmt.Sprintf("/I%d %s", r, r))
		}
		w.images[key] = r
	}
	if r == 0 { // a crossed frame stands for one that cannot be drawn
		a, z := geometry.Point{X: int(x * geometry.Px), Y: int(y * geometry.Px)},
			geometry.Point{X: int((x + pw) * geometry.Px), Y: int((y + ph) * geometry.Px)}
		frame := geometry.Polygon(a, geometry.Point{X: z.X, Y: a.Y}, z, geometry.Point{X: a.X, Y: z.Y}).Move(a.X,
			a.Y).Line(z.X, z.Y).Move(a.X, z.Y).Line(z.X, a.Y)
		w.shape(geometry.Point{}, &scene.Shape{Path: frame, Stroke: "#808080", Width: geometry.Px})
		return nil
	}
	w.out = append(w.out, "q "...)
	w.out = append(num(w.out, pw, 3), " 0 0 "...)
	w.out = append(num(w.out, -ph, 3), ' ')
	w.out = append(num(w.out, x, 3), ' ')
	w.out = append(num(w.out, y+ph, 3), " cm "...)
	w.out = fmt.Appendf(w.out, "/I%d Do Q\n", r)
	return nil
}

func clamp(v float64) int { return max(1, min(int(v+0.5), 4000)) }

// bitmap adds a picture, its transparency beside it.
func (w *writer) bitmap(img image.Image) ref {
	b := img.Bounds()
	var rgb, alpha []byte
	clear := false
	for y := b.Min.Y; y < b.Max.Y; y++ {
		for x := b.Min.X; x < b.Max.X; x++ {
			c := color.NRGBAModel.Convert(img.At(x, y)).(color.NRGBA)
			rgb, alpha = append(rgb, c.R, c.G, c.B), append(alpha, c.A)
			clear = clear || c.A < 255
		}
	}
	entries := fmt.Sprintf("/Type/XObject/Subtype/Image/Width %d/Height %d/BitsPerComponent 8", b.Dx(), b.Dy())
	mask := ""
	if clear {
		mask = "/SMask " + w.file.stream(entries+"/ColorSpace/DeviceGray", alpha).String()
	}
	return w.file.stream(entries+"/ColorSpace/DeviceRGB"+mask, rgb)
}

// text shows a line of text, each glyph where the core or the font has it, and a space after it where more follows,
// so that words at the ends of lines are not read as one.
func (w *writer) text(at geometry.Point, t *scene.Text, set *typeface.Set, more bool) error {
	line, err := set.Line(t.Text, t.Style)
	if err != nil || len(line.Glyphs) == 0 {
		return err
	}
	glyphs := line.Glyphs
	if more && !strings.HasSuffix(t.Text, " ") {
		f, err := set.Draws(typeface.CutOf(&t.Style), ' ')
		if err != nil {
			return err
		}
		glyphs = append(glyphs, typeface.Glyph{Font: f, ID: f.GlyphID(' '), X: line.Width, Text: " "})
	}
	size := float64(t.Style.Size) / geometry.Px
	begin := line.Begin(t.Anchor)
	x, y := float64(t.X+at.X)/geometry.Px, float64(t.Y+at.Y)/geometry.Px
	// place writes the matrix with which text stands upright, its origin so far along the line.
	place := func(along, up float64, end string) {
		if t.Turned {
			w.out = append(w.out, "0 -1 -1 0 "...)
			w.out = append(num(w.out, x-up*size, 3), ' ')
			w.out = append(num(w.out, y-along*size, 3), ' ')
		} else {
			w.out = append(w.out, "1 0 0 -1 "...)
			w.out = append(num(w.out, x+along*size, 3), ' ')
			w.out = append(num(w.out, y-up*size, 3), ' ')
		}
		w.out = append(w.out, end...)
	}
	w.colour(t.Fill, "rg")
	if t.Style.Underline {
		w.out = append(w.out, "q "...)
		place(begin, 0, "cm 0 ")
		w.out = append(num(w.out, -size*(typeface.UnderlineBelow+typeface.UnderlineThick), 3), ' ')
		w.out = append(num(w.out, line.Width*size, 3), ' ')
		w.out = append(num(w.out, size*typeface.UnderlineThick, 3), " re f Q\n"...)
	}
	w.out = append(w.out, "BT\n"...)
	for i := 0; i < len(glyphs); {
		g := glyphs[i]
		c := w.face(g)
		w.out = append(append(append(w.out, '/'), c.name...), ' ')
		w.out = append(num(w.out, size, 3), " Tf "...)
		place(begin+g.X, g.Y, "Tm ")
		// Where several glyphs together stand for characters, or one for other characters than its code does, that is
		// said of them. It is not said of whole lines: readers take what is said of a line written leftwards to be in
		// the order in which it is seen (seen in poppler 22.12, pdf.js 6.5 and MuPDF 1.28).
		together := cluster(glyphs[i:])
		said := together > 1 || !c.stands(g.ID, g.Text)
		if said {
			w.out = append(append(append(w.out, "/Span<</ActualText"...), text(g.Text)...), ">>BDC "...)
		}
		w.out = append(w.out, "[<"...)
		pen := g.X
		for end := i + together; i < len(glyphs) && glyphs[i].Font == g.Font && glyphs[i].Y == g.Y; i++ {
			o := glyphs[i]
			if i >= end && (said || cluster(glyphs[i:]) > 1 || !c.stands(o.ID, o.Text)) {
				break
			}
			if off := (pen - o.X) * 1000; off > 0.5 || off < -0.5 {
				w.out = append(num(append(w.out, '>'), off, 1), '<')
				pen = o.X
			}
			w.out = hex(w.out, c.code(o.ID, o.Text))
			pen += float64(c.width(o.ID)) / 1000
		}
		w.out = append(w.out, ">]TJ\n"...)
		if said {
			w.end()
		}
	}
	w.out = append(w.out, "ET\n"...)
	return nil
}

// hex writes a number with four digits.
func hex(out []byte, n uint16) []byte {
	const digits = "0123456789ABCDEF"
	return append(out, digits[n>>12], digits[n>>8&15], digits[n>>4&15], digits[n&15])
}

// cluster is how many glyphs from the first on stand for the same characters.
func cluster(glyphs []typeface.Glyph) int {
	n := 1
	for n < len(glyphs) && glyphs[n].Text == "" {
		n++
	}
	return n
}

// face returns the font of a glyph in the file.
func (w *writer) face(g typeface.Glyph) *face {
	for _, c := range w.faces {
		if c.font == g.Font {
			return c
		}
	}
	c := &face{font: g.Font, name: fmt.Sprintf("F%d", len(w.faces)+1), ref: w.file.reserve(), ids: []uint16{0},
		text: []string{""}, places: map[uint16][]int{}}
	c.whole = w.whole[c.name]
	w.faces = append(w.faces, c)
	return c
}
