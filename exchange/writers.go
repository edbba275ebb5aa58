package exchange

import (
	"bytes"
	"context"
	"encoding/binary"
	"errors"
	"fmt"
	"image"
	"image/draw"
	"image/jpeg"
	"io"
	"strings"

	"plaintracer/core/flow"
	"plaintracer/core/geometry"
	"plaintracer/core/model"
	"plaintracer/core/numbering"
	"plaintracer/core/pages"
	"plaintracer/core/scene"
	"plaintracer/exchange/bundle"
	"plaintracer/exchange/carrier"
	"plaintracer/exchange/pdf"
	"plaintracer/exchange/png"
	"plaintracer/exchange/svg"
	"plaintracer/exchange/tracerjson"
)

const px = geometry.Px

func writeMap(_ context.Context, j *Job) ([]byte, error) { return tracerjson.Write(j.Inside) }

// pourBundle writes the map file and the files kept with the map.
func pourBundle(j *Job, w io.Writer) error {
	file, err := tracerjson.Write(j.Inside)
	if err != nil {
		return err
	}
	return bundle.Write(w, file, j.Inside.Attached(), j.Files.open)
}

// inside returns the map file that goes into a carrier, nil where none is to.
func (j *Job) inside() ([]byte, error) {
	if !j.Format.Heeds("inside") || !j.Settings.Yes("inside") {
		return nil, nil
	}
	return tracerjson.Write(j.Inside)
}

// first returns the only sheet of a job, or its first one.
func (j *Job) first(ctx context.Context, n int) (*scene.Drawing, error) {
	list, err := j.Drawings(ctx)
	if err != nil {
		return nil, err
	}
	return list[min(max(n, 0), len(list)-1)], nil
}

// area returns the part of a drawing that a picture shows.
func (j *Job) area(d *scene.Drawing) geometry.Box {
	if j.Settings["what"] != "selection" && j.Settings["area"] != "drawn" {
		return d.Extent
	}
	b := d.Content()
	if b == (geometry.Box{}) {
		return d.Extent
	}
	return b.Grown(int(j.Settings.Number("border") * px))
}

// scale returns by how much a picture of an area is enlarged: pixels of it for one CSS pixel.
func (j *Job) scale(area geometry.Box) float64 {
	width := float64(area.W) / px
	switch s := j.Settings; s["size"] {
	case "pixels":
		return s.Number("pixels") / width
	case "print":
		return s.Number("width") / 25.4 * s.Number("dots") / width
	default:
		return s.Number("scale")
	}
}

func writeSVG(ctx context.Context, j *Job) ([]byte, error) {
	d, err := j.first(ctx, 0)
	if err != nil {
		return nil, err
	}
	o := svg.Options{Area: j.area(d), Clear: j.Settings.Yes("clear"), Letters: svg.Letters(j.Settings["letters"]),
		Says: described(d)}
	o.Scale = j.scale(o.Area)
	if j.Settings["size"] == "print" { // the picture says its size itself, of 96 pixels to the inch
		o.Scale = j.Settings.Number("width") / 25.4 * 96 * px / float64(o.Area.W)
	}
	file, err := j.inside()
	if err != nil {
		return nil, err
	}
	if file != nil {
		o.Inside = carrier.InSVG(file)
	}
	return svg.Write(d, o)
}

// mostDescribed is how many steps a picture is described by.
const mostDescribed = 60

// described tells in words what is seen on a sheet: its steps in their order, by the numbers that they have.
func described(d *scene.Drawing) string {
	var list []string
	for _, n := range numbering.Reading(flow.New(&model.Map{Sheets: []*model.Sheet{d.Sheet}})) {
		text := model.Flat(n.Symbol.Text)
		if !n.Symbol.Kind.IsStep() || text == "" {
			continue
		}
		if number := d.Facts.Numbers[n.Symbol.ID]; number != "" {
			text = number + " " + text
		}
		list = append(list, text)
	}
	if len(list) == 0 {
		return ""
	}
	steps := "1 step"
	if len(list) > 1 {
		steps = fmt.Sprintf("%d steps", len(list))
	}
	more := ""
	if len(list) > mostDescribed {
		list, more = list[:mostDescribed], "; and more"
	}
	return steps + ": " + strings.Join(list, "; ") + more + "."
}

// bitmap draws the picture.
func (j *Job) bitmap(ctx context.Context, n int, most float64) (image.Image, error) {
	d, err := j.first(ctx, n)
	if err != nil {
		return nil, err
	}
	o := png.Options{Area: j.area(d), Clear: j.Settings.Yes("clear")}
	o.Scale = j.scale(o.Area)
	if most > 0 {
		o.Scale = min(o.Scale, most*px/float64(max(o.Area.W, o.Area.H)))
	}
	img, err := png.Draw(ctx, d, o)
	var large *png.TooLarge
	if errors.As(err, &large) {
		return nil, &ChoiceError{large.Error()}
	}
	return img, err
}

func writePNG(ctx context.Context, j *Job) ([]byte, error) {
	img, err := j.bitmap(ctx, 0, 0)
	if err != nil {
		return nil, err
	}
	out, err := png.Encode(img)
	if err != nil {
		return nil, err
	}
	dots, err := j.dots(ctx, img)
	if err != nil {
		return nil, err
	}
	out = png.WithDots(out, dots)
	file, err := j.inside()
	if err != nil || file == nil {
		return out, err
	}
	return carrier.IntoPNG(out, file), nil
}

func writeJPEG(ctx context.Context, j *Job) ([]byte, error) {
	img, err := j.bitmap(ctx, 0, 0)
	if err != nil {
		return nil, err
	}
	out, err := j.asJPEG(img)
	if err != nil {
		return nil, err
	}
	dots, err := j.dots(ctx, img)
	return withDots(out, dots), err
}

// dots is how many pixels of a picture there are to the inch, of which a sheet has 96: so that it comes out on paper as
// large as it is on the sheet, or as was chosen.
func (j *Job) dots(ctx context.Context, img image.Image) (float64, error) {
	if j.Settings["size"] == "print" {
		return j.Settings.Number("dots"), nil
	}
	d, err := j.first(ctx, 0)
	if err != nil {
		return 0, err
	}
	return 96 * px * float64(img.Bounds().Dx()) / float64(j.area(d).W), nil
}

// withDots has a JPEG file say how many of its pixels there are to the inch (ITU-T T.871, 10.1), which the encoder does
// not: in a segment after the mark that it begins with.
func withDots(file []byte, perInch float64) []byte {
	dots := uint16(min(max(perInch+0.5, 1), 1<<16-1))
	out := append([]byte(nil), file[:2]...)
	out = append(out, 0xff, 0xe0, 0, 16, 'J', 'F', 'I', 'F', 0, 1, 2, 1)
	out = binary.BigEndian.AppendUint16(out, dots)
	out = binary.BigEndian.AppendUint16(out, dots)
	return append(append(out, 0, 0), file[2:]...)
}

// asJPEG writes a bitmap, over white.
func (j *Job) asJPEG(img image.Image) ([]byte, error) {
	flat := image.NewRGBA(img.Bounds())
	draw.Draw(flat, flat.Bounds(), image.White, image.Point{}, draw.Src)
	draw.Draw(flat, flat.Bounds(), img, img.Bounds().Min, draw.Over)
	var out bytes.Buffer
	err := jpeg.Encode(&out, flat, &jpeg.Options{Quality: int(j.Settings.Number("quality"))})
	return out.Bytes(), err
}

// pages lays the sheets out on pages.
func (j *Job) pages(ctx context.Context) ([]pages.Page, error) {
	list, err := j.Drawings(ctx)
	if err != nil {
		return nil, err
	}
	s := j.Settings
	w := pages.Options{Paper: s["paper"], Across: s["way"] == "across", Upright: s["way"] == "upright",
		Tiled:  s["use"] == "tiles",
		Margin: pages.MM(s.Number("margin")), Overlap: pages.MM(s.Number("overlap"))}
	if s["use"] == "" {
		w.Least = pages.SmallSize
	}
	var out []pages.Page
	for _, d := range list {
		if s["what"] == "selection" { // a page as large as what is selected
			part := *d
			part.Page = d.Content().Grown(16 * px)
			part.Extent = part.Page
			d = &part
		}
		some, err := pages.Of(d, j.Shown, w)
		if err != nil {
			return nil, &ChoiceError{err.Error()}
		}
		j.spread(d, some, w)
		out = append(out, some...)
	}
	if len(out) > 1 {
		for i := range out {
			out[i].Foot(fmt.Sprintf("%d / %d", i+1, len(out)), w.Margin)
		}
	}
	if least := pages.Smallest(out); least > 0 && least < pages.SmallType {
		j.said = append(j.said,
			fmt.Sprintf("The smallest text comes out at %.1f points; under %d it is hard to read. A larger paper, or spreading over pages, keeps it larger.", least, pages.SmallType))
	}
	return out, nil
}

// spread says how a sheet came onto its pages where that is not as it is on its own.
func (j *Job) spread(d *scene.Drawing, some []pages.Page, w pages.Options) {
	name := d.Sheet.Name
	k := pages.Fits(d)
	if v := some[0].Views; w.Paper != "" && len(v) > 0 {
		k = v[len(v)-1].Scale()
	}
	switch {
	case len(some) > 1 && !w.Tiled:
		j.said = append(j.said, fmt.Sprintf("The sheet “%s” is spread over %d pages: on one, texts would come out under %d points.",
			name, len(some), pages.SmallType))
	case w.Tiled || j.Settings["what"] == "selection" || d.Page.Holds(d.Content()):
	case k < 1:
		j.said = append(j.said, fmt.Sprintf("What is drawn on the sheet “%s” goes beyond its paper and is scaled to %.0f %% to fit it.",
			name, k*100))
	default:
		j.said = append(j.said, fmt.Sprintf("What is drawn on the sheet “%s” goes beyond its paper and is moved onto it.", name))
	}
}

func writePDF(ctx context.Context, j *Job) ([]byte, error) {
	list, err := j.pages(ctx)
	if err != nil {
		return nil, err
	}
	return j.paper(ctx, list, reading(j.Shown))
}

// paper writes pages as a PDF file, which are read as the structure says.
func (j *Job) paper(ctx context.Context, list []pages.Page, structure []pages.Element) ([]byte, error) {
	day, err := j.Settings.day()
	if err != nil {
		return nil, err
	}
	d := &pdf.Document{Title: j.Whole.Title, Author: j.author(), Subject: j.Whole.Heading.Process,
		Language: j.Settings["language"], Date: day, Pages: list, Structure: structure}
	file, err := j.inside()
	if err != nil {
		return nil, err
	}
	if file != nil {
		d.Attachments = append(d.Attachments, pdf.Attachment{Name: carrier.Attachment,
			Description: "The map, to be opened with Plain Tracer", MediaType: "application/json", Data: file})
	}
	files, err := j.attached()
	if err != nil {
		return nil, err
	}
	for _, f := range files {
		d.Attachments = append(d.Attachments, pdf.Attachment{ID: f.ID, Name: f.Name, Description: "Kept with the map",
			MediaType: f.Type, Data: f.data})
	}
	return pdf.Write(ctx, d)
}

// reading is what is on the sheets of a map in the order in which it is read, a part for each sheet: its heading,
// lanes, what stands in journeys stage by stage, cards from the head down, then the steps as the work runs through
// them, each with the answers that lead on, and what else stands there.
func reading(m *model.Map) []pages.Element {
	bySheet := map[string][]string{}
	for _, n := range numbering.Reading(flow.New(m)) {
		list := append(bySheet[n.Sheet.ID], n.Symbol.ID)
		for _, e := range n.Exits {
			if e.Connector != nil {
				list = append(list, e.Connector.ID)
			}
		}
		bySheet[n.Sheet.ID] = list
	}
	var out []pages.Element
	for _, s := range m.Sheets {
		part := pages.Element{Type: pages.Part, Title: s.Name}
		if s.Headed {
			part.Kids = append(part.Kids, pages.Element{Type: "H1", Of: s.ID})
		}
		told := map[string]bool{}
		tell := func(ids ...string) {
			for _, id := range ids {
				if told[id] {
					continue
				}
				told[id] = true
				e := pages.Element{Type: pages.Paragraph, Of: id}
				if sym := s.Symbol(id); sym != nil && sym.Picture != "" && strings.TrimSpace(sym.Text) == "" {
					e.Type, e.Alt = pages.Figure, "Picture"
				}
				part.Kids = append(part.Kids, e)
			}
		}
		for _, p := range s.Pools {
			tell(p.ID)
			if p.Journey {
				tell(model.IDsOf(s.Cells(p))...)
			}
		}
		tell(model.IDsOf(s.Tree().Order())...)
		tell(bySheet[s.ID]...)
		tell(model.IDsOf(s.Symbols)...)
		tell(model.IDsOf(s.Connectors)...)
		out = append(out, part)
	}
	return out
}

// showPages shows a page as it will be printed.
func showPages(ctx context.Context, j *Job, page int) (*Preview, error) {
	list, err := j.pages(ctx)
	if err != nil {
		return nil, err
	}
	return sight(list, page)
}

func sight(list []pages.Page, page int) (*Preview, error) {
	data, err := svg.Page(&list[min(max(page, 0), len(list)-1)])
	return &Preview{MediaType: "image/svg+xml", Data: data, Pages: len(list)}, err
}

// previewWidth is the longer side of the preview of a picture, in its pixels.
const previewWidth = 1200

// showAsPicture shows a picture, no larger than a screen needs it.
func showAsPicture(ctx context.Context, j *Job, page int) (*Preview, error) {
	out := &Preview{MediaType: j.Format.MediaType, Pages: len(j.Shown.Sheets)}
	d, err := j.first(ctx, page)
	if err != nil {
		return nil, err
	}
	area := j.area(d)
	if j.Format.Name == "svg" {
		out.Data, err = svg.Write(d, svg.Options{Area: area, Clear: j.Settings.Yes("clear"),
			Letters: svg.Letters(j.Settings["letters"])})
		return out, err
	}
	scale := j.scale(area)
	if err := png.Fits(area, scale); err != nil {
		return nil, &ChoiceError{err.Error()}
	}
	w, h := float64(area.W)/px*scale, float64(area.H)/px*scale
	out.Words = append(out.Words, fmt.Sprintf("%.0f by %.0f pixels.", w, h))
	img, err := j.bitmap(ctx, page, previewWidth)
	if err != nil {
		return nil, err
	}
	if j.Format.Name == "jpeg" {
		out.Data, err = j.asJPEG(img)
	} else {
		out.Data, err = png.Encode(img)
	}
	return out, err
}

// showAsText shows the beginning of a file that is text.
func showAsText(ctx context.Context, j *Job, _ int) (*Preview, error) {
	const most = 20_000
	data, err := j.Format.write(ctx, j)
	if err != nil {
		return nil, err
	}
	if len(data) > most {
		data = append(bytes.ToValidUTF8(data[:most], nil), "\n…"...)
	}
	return &Preview{MediaType: "text/plain", Data: data, Pages: 1}, nil
}

// showAsPage shows a file that is a page.
func showAsPage(ctx context.Context, j *Job, _ int) (*Preview, error) {
	j.still = true
	data, err := j.Format.write(ctx, j)
	return &Preview{MediaType: "text/html", Data: data, Pages: 1}, err
}

// Printed is a page on paper: its size in millimetres, and what is on it.
type Printed struct {
	W, H float64
	SVG  []byte
}

// Print makes the pages of a format that has some, as a browser prints them: the same as in its file.
func Print(ctx context.Context, m *model.Map, f *Format, s Settings) ([]Printed, error) {
	j, err := New(m, f, s)
	if err != nil {
		return nil, err
	}
	var list []pages.Page
	switch f.Name {
	case "pdf":
		list, err = j.pages(ctx)
	case "procedure-pdf":
		list, _, err = j.procedurePages(ctx)
	default:
		return nil, &ChoiceError{fmt.Sprintf("%s has no pages to print; print its PDF.", f.Title)}
	}
	if err != nil {
		return nil, err
	}
	var out []Printed
	for i := range list {
		data, err := svg.Page(&list[i])
		if err != nil {
			return nil, err
		}
		mm := func(n int) float64 { return float64(n) / px / 96 * 25.4 }
		out = append(out, Printed{mm(list[i].W), mm(list[i].H), data})
	}
	return out, nil
}
