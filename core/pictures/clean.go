package pictures

import (
	"bytes"
	"encoding/xml"
	"errors"
	"fmt"
	"io"
	"strconv"
	"strings"
)

// elements are the elements of SVG 1.1 that draw something by themselves or
// hold such; everything else, with what it contains, is left out.
var elements = set(`svg g defs title desc path rect circle ellipse line polyline polygon text tspan
	linearGradient radialGradient stop clipPath mask pattern symbol use marker`)

// attributes are those that shape and colour. Event handlers, style sheets and
// addresses are not among them; href is kept where it points into the drawing.
var attributes = set(`id class x y x1 y1 x2 y2 cx cy r rx ry fx fy d points width height viewBox preserveAspectRatio
	transform gradientTransform gradientUnits patternUnits patternContentUnits patternTransform clipPathUnits maskUnits
	maskContentUnits markerUnits markerWidth markerHeight refX refY orient offset spreadMethod
	fill fill-opacity fill-rule stroke stroke-width stroke-opacity stroke-linecap stroke-linejoin stroke-miterlimit
	stroke-dasharray stroke-dashoffset opacity clip-path clip-rule mask marker-start marker-mid marker-end
	stop-color stop-opacity color display visibility overflow font-family font-size font-weight font-style
	text-anchor dominant-baseline dx dy rotate textLength lengthAdjust letter-spacing word-spacing text-decoration`)

func set(words string) map[string]bool {
	m := map[string]bool{}
	for _, w := range strings.Fields(words) {
		m[w] = true
	}
	return m
}

const svgSpace = "http://www.w3.org/2000/svg"

// maxDepth bounds how deep the elements of a drawing may lie in each other.
const maxDepth = 200

// clean writes a drawing anew from what is known to be harmless. Cleaning a
// clean drawing changes nothing.
func clean(file []byte) (Picture, error) {
	dec := xml.NewDecoder(bytes.NewReader(file))
	dec.Strict = true
	var out bytes.Buffer
	p := Picture{Type: "image/svg+xml"}
	depth, skip := 0, 0
	for {
		tok, err := dec.Token()
		if errors.Is(err, io.EOF) {
			break
		}
		if err != nil {
			return p, err
		}
		switch t := tok.(type) {
		case xml.StartElement:
			if skip > 0 || t.Name.Space != svgSpace && t.Name.Space != "" || !elements[t.Name.Local] {
				skip++
				continue
			}
			if depth++; depth > maxDepth {
				return p, errors.New("its elements lie too deep in each other")
			}
			if depth == 1 {
				if t.Name.Local != "svg" || out.Len() > 0 {
					return p, errors.New("it is not one svg element")
				}
				if p.W, p.H, err = size(t.Attr); err != nil {
					return p, err
				}
			}
			out.WriteString("<" + t.Name.Local)
			if depth == 1 {
				out.WriteString(` xmlns="` + svgSpace + `"`)
			}
			for _, a := range t.Attr {
				if harmless(a) {
					out.WriteString(" " + a.Name.Local + `="`)
					if err := xml.EscapeText(&out, []byte(a.Value)); err != nil {
						return p, err
					}
					out.WriteString(`"`)
				}
			}
			out.WriteString(">")
		case xml.EndElement:
			if skip > 0 {
				skip--
				continue
			}
			depth--
			out.WriteString("</" + t.Name.Local + ">")
		case xml.CharData:
			if skip == 0 && depth > 0 {
				if err := xml.EscapeText(&out, t); err != nil {
					return p, err
				}
			}
		}
	}
	if out.Len() == 0 {
		return p, errors.New("it is empty")
	}
	p.Data = out.Bytes()
	return p, nil
}

func harmless(a xml.Attr) bool {
	if a.Name.Local == "href" {
		return strings.HasPrefix(a.Value, "#")
	}
	if a.Name.Space != "" || !attributes[a.Name.Local] {
		return false
	}
	// An address may only point into the drawing.
	v := strings.ToLower(strings.Join(strings.Fields(a.Value), ""))
	return !strings.Contains(strings.NewReplacer("url(#", "", `url("#`, "", `url('#`, "").Replace(v), "url(") &&
		!strings.Contains(v, `\`)
}

// size returns the size of a drawing in pixels: its width and height, else
// those of its view box.
func size(list []xml.Attr) (w, h int, err error) {
	var box []string
	for _, a := range list {
		switch a.Name.Local {
		case "width":
			w = pixels(a.Value)
		case "height":
			h = pixels(a.Value)
		case "viewBox":
			box = strings.FieldsFunc(a.Value,
				func(r rune) bool { return r == ' ' || r == ',' || r == '\n' || r == '\t' })
		}
	}
	if (w == 0 || h == 0) && len(box) == 4 {
		w, h = pixels(box[2]), pixels(box[3])
	}
	if w == 0 || h == 0 {
		return 0, 0, fmt.Errorf("it does not say how large it is, by width and height or by viewBox")
	}
	return w, h, nil
}

// units are the lengths of CSS in pixels of 1/96 in.
var units = map[string]float64{"": 1, "px": 1, "pt": 96.0 / 72, "pc": 16, "mm": 96 / 25.4, "cm": 960 / 25.4, "in": 96}

func pixels(text string) int {
	text = strings.TrimSpace(text)
	end := strings.LastIndexAny(text, "0123456789.") + 1
	v, err := strconv.ParseFloat(text[:end], 64)
	unit, ok := units[strings.TrimSpace(text[end:])]
	if err != nil || !ok || !(v > 0 && v*unit < 1e6) {
		return 0
	}
	return max(int(v*unit), 1)
}
