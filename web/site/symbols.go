package site

import (
	"bytes"
	"cmp"
	"fmt"
	"html/template"
	"slices"

	"plaintracer/core/editor/command"
	"plaintracer/core/geometry"
	"plaintracer/core/model"
	"plaintracer/core/routing"
	"plaintracer/core/scene"
	"plaintracer/core/symbols"
)

// value is a value that a command takes, as a menu shows it: by a sign where it has one.
type value struct {
	command.Choice
	Sign template.HTML
}

// values are those that a command takes behind a prefix; now names what of the state of the bars is one of them.
func values(name, prefix, now string) (any, error) {
	title, list, err := command.Choices(name, prefix)
	out := struct {
		Title, Now string
		List       []value
	}{Title: title, Now: now}
	for _, c := range list {
		v := value{Choice: c}
		if mark := model.Mark(c.Value); slices.Contains(model.Marks, mark) && (prefix == "from=" || prefix == "to=") {
			v.Sign = markSign(mark, prefix == "from=")
		}
		out.List = append(out.List, v)
	}
	return out, err
}

// markSign draws the mark of a connector's end.
func markSign(mark model.Mark, begins bool) template.HTML {
	var b bytes.Buffer
	fmt.Fprint(&b, `<svg width="34" height="18" viewBox="0 0 34 18" aria-hidden="true">`)
	for _, s := range scene.Sample(mark, begins, "currentColor") {
		fmt.Fprintf(&b, `<path d="%s" fill="%s"`, scene.AppendPath(nil, s.Path), cmp.Or(s.Fill, "none"))
		if s.Stroke != "" {
			fmt.Fprintf(&b, ` stroke="%s" stroke-width="1.5"`, s.Stroke)
		}
		fmt.Fprint(&b, `/>`)
	}
	fmt.Fprint(&b, `</svg>`)
	return template.HTML(b.String())
}

// outline draws a symbol for the tray.
func outline(sym *symbols.Symbol) template.HTML {
	w, h := sym.W, sym.H
	var b bytes.Buffer
	fmt.Fprintf(&b, `<svg class="tray-shape" viewBox="%d %d %d %d" aria-hidden="true">`, -6, -6, w/geometry.Px+12,
		h/geometry.Px+12)
	draw := func(class string, p geometry.Path) {
		fmt.Fprintf(&b, `<path class="%s" d="%s"/>`, class, scene.AppendPath(nil, p))
	}
	if sym.Back != nil {
		draw("face", sym.Back(w, h))
	}
	switch {
	case sym.Kind == model.PlainText:
		draw("line", geometry.Path{}.Move(0, 0).Line(0, h).Move(w/8, h/3).Line(w, h/3).Move(w/8, h*2/3).Line(w*3/4,
			h*2/3))
	case sym.Kind == model.Picture:
		draw("face", geometry.Polygon(geometry.Point{}, geometry.Point{X: w}, geometry.Point{X: w, Y: h},
			geometry.Point{Y: h}))
		draw("line", geometry.Path{}.Move(0, h).Line(w/3, h/2).Line(w/2, h*2/3).Line(w*3/4, h/3).Line(w, h*3/4))
	case sym.Kind == model.Legend:
		h = sym.W * 2 / 3
		b.Reset()
		fmt.Fprintf(&b, `<svg class="tray-shape" viewBox="%d %d %d %d" aria-hidden="true">`, -6, -6, w/geometry.Px+12,
			h/geometry.Px+12)
		draw("face", sym.Outline(w, h))
		draw("line", geometry.Path{}.Move(w/8, h/4).Line(w/4, h/4).Move(w/3, h/4).Line(w*7/8, h/4).
			Move(w/8, h/2).Line(w/4, h/2).Move(w/3, h/2).Line(w*7/8, h/2).Move(w/8, h*3/4).Line(w/4, h*3/4).Move(w/3,
			h*3/4).Line(w*7/8, h*3/4))
	case !sym.Bare:
		draw("face", sym.Outline(w, h))
	}
	if sym.Inner != nil {
		draw("line", sym.Inner(w, h, false))
	}
	b.WriteString(`</svg>`)
	return template.HTML(b.String())
}

// lineShape draws a line symbol.
func lineShape(l symbols.LineSymbol) template.HTML {
	c := &model.Connector{ID: "line", Stroke: model.Stroke{Line: l.Line}}
	if l.Line == model.DashLine {
		c.ToMark = model.MarkNone
	}
	n := scene.ViewOf(new(model.Map), new(model.Sheet)).Connector(c,
		&routing.Course{Points: geometry.Polyline{{X: 0, Y: 24 * geometry.Px},
			{X: 64 * geometry.Px, Y: 24 * geometry.Px}}}, scene.Meeting{})
	return template.HTML(`<svg width="64" height="48" viewBox="0 0 64 48" aria-hidden="true">` +
		string(n.AppendInner(nil)) + `</svg>`)
}
