package exchange

import (
	"context"
	"fmt"

	"plaintracer/core/model"
	"plaintracer/core/pages"
	"plaintracer/exchange/png"
	"plaintracer/exchange/slides"
)

// stops are the slides of a job: the stops of the map, or its sheets where there are none.
func (j *Job) stops(ctx context.Context) ([]pages.Slide, error) {
	drawings, err := j.Drawings(ctx)
	if err != nil {
		return nil, err
	}
	if len(j.Shown.StopsShown()) == 0 {
		j.said = append(j.said, "The map has no stops yet: each sheet is a slide. Set them under Show.")
	}
	return pages.Slides(drawings, j.Shown), nil
}

// slidePages are the slides as pages.
func (j *Job) slidePages(ctx context.Context) ([]pages.Page, error) {
	list, err := j.stops(ctx)
	if err != nil {
		return nil, err
	}
	var out []pages.Page
	for i := range list {
		if list[i].Cut {
			j.said = append(j.said,
				fmt.Sprintf("The words of slide %d are longer than there is room for; as notes they stand whole.", i+1))
		}
		out = append(out, list[i].Page(i, j.Shown))
	}
	return out, nil
}

func writeSlidesPDF(ctx context.Context, j *Job) ([]byte, error) {
	list, err := j.slidePages(ctx)
	if err != nil {
		return nil, err
	}
	return j.paper(ctx, list, nil)
}

// showSlides shows a slide.
func showSlides(ctx context.Context, j *Job, page int) (*Preview, error) {
	list, err := j.slidePages(ctx)
	if err != nil {
		return nil, err
	}
	return sight(list, page)
}

// slideScale is how many pixels of a picture there are to one of its slide.
const slideScale = 2

func writeSlides(ctx context.Context, j *Job) ([]byte, error) {
	list, err := j.stops(ctx)
	if err != nil {
		return nil, err
	}
	day, err := j.Settings.day()
	if err != nil {
		return nil, err
	}
	h := j.Whole.Heading
	deck := &slides.Deck{Title: j.Whole.Title, Author: j.author(), Subject: h.Process, Language: j.Settings["language"],
		Date: day, W: pages.SlideW, H: pages.SlideH}
	for i := range list {
		s := &list[i]
		picture, err := png.Draw(ctx, s.Drawing, png.Options{Area: s.From,
			Scale: slideScale * float64(s.To.W) / float64(s.From.W)})
		if err != nil {
			return nil, err
		}
		data, err := png.Encode(picture)
		if err != nil {
			return nil, err
		}
		deck.Slides = append(deck.Slides, slides.Slide{Title: s.Title, Words: s.Words, TitleAt: s.TitleAt(),
			Picture: data, PictureAt: s.To, Says: said(s)})
	}
	return slides.Write(deck)
}

// said tells what is seen on a slide: its sheet, and the steps that are wholly in sight.
func said(s *pages.Slide) string {
	out := "Sheet " + s.Drawing.Sheet.Name
	sep := ": "
	for _, sym := range s.Drawing.Sheet.Symbols {
		if text := model.Flat(sym.Text); text != "" && sym.Kind.IsStep() && s.From.Holds(sym.Box) {
			out, sep = out+sep+text, "; "
		}
	}
	return out
}
