package exchange

import (
	"context"
	"errors"
	"fmt"
	"strings"

	"plaintracer/core/pages"
	"plaintracer/core/procedure"
	"plaintracer/core/scene"
	"plaintracer/exchange/document"
	"plaintracer/exchange/png"
	"plaintracer/exchange/webpage"
)

func writeHTML(ctx context.Context, j *Job) ([]byte, error) {
	list, err := j.Drawings(ctx)
	if err != nil {
		return nil, err
	}
	page := &webpage.Page{Map: j.Shown, Language: j.Settings["language"], Drawings: list,
		Procedure: procedure.Part(j.Whole, j.Inside), Still: j.still}
	files, err := j.attached()
	if err != nil {
		return nil, err
	}
	for _, f := range files {
		page.Files = append(page.Files, webpage.File{ID: f.ID, Data: f.data})
	}
	return webpage.Write(page)
}

// blocks are the procedure of the part that goes out, in words.
func (j *Job) blocks() ([]document.Block, error) {
	p := procedure.Part(j.Whole, j.Inside)
	p.Language = j.Settings["language"]
	for _, f := range []procedure.Fact{{Name: "Review", Value: j.Settings[Review]}, {Name: "Owner",
		Value: j.Settings[Owner]},
		{Name: "Standing", Value: j.Settings[Standing]}} {
		if f.Value != "" {
			p.Facts = append(p.Facts, f)
		}
	}
	if text := j.Settings[Changed]; text != "" {
		lines := strings.Split(text, "\n")
		p.Since, p.Changes = lines[0], lines[1:]
	}
	p.Appendix = j.Settings.Yes("appendix")
	if !j.Settings.Yes("legend") {
		p.Legend = nil
	}
	if !j.Settings.Yes("notes") {
		for i := range p.Steps {
			p.Steps[i].Notes = nil
		}
	}
	list, err := document.Blocks(p, j.Settings.Yes("pictures"))
	if err != nil {
		return nil, &ChoiceError{"The templates of the organisation cannot be used: " + err.Error()}
	}
	return list, nil
}

// pictured are the drawings of a document, none where it has no pictures.
func (j *Job) pictured(ctx context.Context) ([]*scene.Drawing, error) {
	if !j.Settings.Yes("pictures") {
		return nil, nil
	}
	return j.Drawings(ctx)
}

func writeProcedureHTML(ctx context.Context, j *Job) ([]byte, error) {
	blocks, err := j.blocks()
	if err != nil {
		return nil, err
	}
	list, err := j.pictured(ctx)
	if err != nil {
		return nil, err
	}
	return webpage.Write(&webpage.Page{Map: j.Shown, Language: j.Settings["language"], Drawings: list, Blocks: blocks})
}

// documentPaper is that on which a procedure is set where none was chosen.
const documentPaper = "A4"

// procedurePages are the procedure on paper, and what is read on it.
func (j *Job) procedurePages(ctx context.Context) ([]pages.Page, []pages.Element, error) {
	blocks, err := j.blocks()
	if err != nil {
		return nil, nil, err
	}
	list, err := j.pictured(ctx)
	if err != nil {
		return nil, nil, err
	}
	paper := j.Settings["paper"]
	if paper == "" {
		paper = documentPaper
	}
	out, read, err := document.Pages(blocks, j.Shown, list, paper, pages.MM(20))
	if err != nil {
		return nil, nil, &ChoiceError{err.Error()}
	}
	return out, read, nil
}

func writeProcedurePDF(ctx context.Context, j *Job) ([]byte, error) {
	list, read, err := j.procedurePages(ctx)
	if err != nil {
		return nil, err
	}
	return j.paper(ctx, list, read)
}

func showProcedurePages(ctx context.Context, j *Job, page int) (*Preview, error) {
	list, _, err := j.procedurePages(ctx)
	if err != nil {
		return nil, err
	}
	return sight(list, page)
}

// drawn are the pictures of the sheets in a document, by their ids.
func (j *Job) drawn(ctx context.Context, scale float64) (map[string]document.Drawn, error) {
	list, err := j.pictured(ctx)
	if err != nil {
		return nil, err
	}
	out := map[string]document.Drawn{}
	for _, d := range list {
		img, err := png.Draw(ctx, d, png.Options{Scale: min(scale, 2400*px/float64(d.Extent.W))})
		if err != nil {
			return nil, err
		}
		data, err := png.Encode(img)
		if err != nil {
			return nil, err
		}
		out[d.Sheet.ID] = document.Drawn{Data: data, Width: float64(d.Extent.W) / px, Height: float64(d.Extent.H) / px}
	}
	return out, nil
}

// writeProcedureMarkdown writes the text alone, or, with pictures, an archive of both.
func writeProcedureMarkdown(ctx context.Context, j *Job) ([]byte, error) {
	blocks, err := j.blocks()
	if err != nil {
		return nil, err
	}
	pictures, err := j.drawn(ctx, 2)
	if err != nil || len(pictures) == 0 {
		return document.Markdown(blocks, nil), err
	}
	names := map[string]string{}
	var list []File
	for i, s := range j.Shown.Sheets {
		names[s.ID] = fmt.Sprintf("%s pictures/%02d %s.png", j.name(), i+1, FileName(s.Name))
		list = append(list, File{names[s.ID], pictures[s.ID].Data})
	}
	return Pack(append(list, File{j.name() + ".md", document.Markdown(blocks, names)}))
}

// showProcedureText shows what stands in the text of a procedure.
func showProcedureText(ctx context.Context, j *Job, page int) (*Preview, error) {
	if j.Format.Ending != ".md" {
		return showProcedurePages(ctx, j, page)
	}
	blocks, err := j.blocks()
	if err != nil {
		return nil, err
	}
	return &Preview{MediaType: "text/plain", Data: document.Markdown(blocks, nil), Pages: 1}, nil
}

// asText writes the procedure for word processors, in one of their forms.
func asText(write func(*document.Text) ([]byte, error)) func(ctx context.Context, j *Job) ([]byte, error) {
	return func(ctx context.Context, j *Job) ([]byte, error) {
		blocks, err := j.blocks()
		if err != nil {
			return nil, err
		}
		pictures, err := j.drawn(ctx, 2)
		if err != nil {
			return nil, err
		}
		out, err := write(&document.Text{Blocks: blocks, Pictures: pictures, Language: j.Settings["language"],
			Author: j.author(), Head: j.heading(), Foot: j.Shown.Title})
		if errors.Is(err, document.ErrTemplate) {
			return nil, &ChoiceError{"The document was not made: " + err.Error() + "."}
		}
		return out, err
	}
}

// heading is what the heading of the map says beside its title, in a line.
func (j *Job) heading() string {
	h := j.Whole.Heading
	var out []string
	for _, part := range [][2]string{{"", h.Project}, {"", h.Process}, {"Version ", h.Version}, {"", h.Date}} {
		if part[1] != "" {
			out = append(out, part[0]+part[1])
		}
	}
	return strings.Join(out, " · ")
}
