// Command symbolbook writes docs/symbols.md, the reference of all symbols, and
// docs/symbols.svg, which shows them, from the catalogue; the names that a file
// may hold into docs/tracer.schema.json, from the tables of the document; and the
// keys of all commands into docs/keys.md, from the table of commands.
package main

import (
	"bytes"
	"encoding/json"
	"fmt"
	"log"
	"os"
	"regexp"
	"strings"

	"plaintracer/core/editor/command"
	"plaintracer/core/geometry"
	"plaintracer/core/model"
	"plaintracer/core/scene"
	"plaintracer/core/symbols"
	"plaintracer/exchange/svg"
)

func main() {
	log.SetFlags(0)
	picture, err := overview()
	if err != nil {
		log.Fatal(err)
	}
	old, err := os.ReadFile("docs/tracer.schema.json")
	if err != nil {
		log.Fatal(err)
	}
	oldKeys, err := os.ReadFile("docs/keys.md")
	if err != nil {
		log.Fatal(err)
	}
	for name, data := range map[string][]byte{"docs/keys.md": keys(oldKeys), "docs/symbols.md": page(),
		"docs/symbols.svg": picture, "docs/tracer.schema.json": schema(old)} {
		if err := os.WriteFile(name, data, 0o644); err != nil {
			log.Fatal(err)
		}
	}
}

// schema returns the schema of the files with the names of kinds, marks and papers as they are.
func schema(old []byte) []byte {
	for key, names := range map[string]any{"kind": model.Kinds, "mark": append([]model.Mark{""}, model.Marks...),
		"paper": papers()} {
		list, err := json.Marshal(names)
		if err != nil {
			log.Fatal(err)
		}
		list = bytes.ReplaceAll(list, []byte(`","`), []byte(`", "`))
		place := regexp.MustCompile(`"` + key + `": \{"enum": \[[^\]]*\]`)
		old = place.ReplaceAll(old, append([]byte(`"`+key+`": {"enum": `), list...))
	}
	return old
}

// The table of keys in docs/keys.md stands between these.
const keysBegin, keysEnd = "<!-- written by make symbols -->\n", "<!-- end -->\n"

// keys returns the page of keys with the table as it is.
func keys(old []byte) []byte {
	before, rest, ok := bytes.Cut(old, []byte(keysBegin))
	_, after, ok2 := bytes.Cut(rest, []byte(keysEnd))
	if !ok || !ok2 {
		log.Fatal("docs/keys.md has no place for the table of keys")
	}
	var b bytes.Buffer
	b.Write(before)
	b.WriteString(keysBegin)
	part := ""
	for _, e := range command.Entries() {
		if e.Key == "" || e.Part == "" {
			continue
		}
		if e.Part != part {
			fmt.Fprintf(&b, "\n**%s**\n\n| Key | What it does |\n|---|---|\n", e.Part)
			part = e.Part
		}
		fmt.Fprintf(&b, "| %s | %s |\n", strings.ReplaceAll(e.Key, "+", " "), e.Title)
	}
	b.WriteString(keysEnd)
	b.Write(after)
	return b.Bytes()
}

func papers() (names []string) {
	for _, p := range model.Papers {
		names = append(names, p.Name)
	}
	return names
}

// page is the reference as Markdown.
func page() []byte {
	var b strings.Builder
	b.WriteString("# The symbols\n\nMade from the catalogue by `make symbols`; the application shows the same at `/symbols`. The standards are named from memory. " +
		"Standard sizes are width by height in CSS pixels.\n\n![All symbols](symbols.svg)\n")
	for _, source := range []symbols.Source{symbols.ISO5807, symbols.Trade, symbols.ASME} {
		fmt.Fprintf(&b,
			"\n## %s\n\n| Symbol | Kind in a file | Key | Meaning | When to use it | Also searched as | Size |\n|---|---|---|---|---|---|---|\n",
			map[symbols.Source]string{symbols.ISO5807: "ISO 5807", symbols.Trade: "Other symbols in common use",
				symbols.ASME: "Work measurement (ASME process charts)"}[source])
		for _, s := range symbols.All() {
			if s.Source != source {
				continue
			}
			key := ""
			if s.Key != 0 {
				key = string(rune(s.Key))
			}
			fmt.Fprintf(&b, "| %s | `%s` | %s | %s | %s | %s | %d × %d |\n", s.Name, s.Kind, key, s.Meaning, s.When,
				strings.Join(s.Others, ", "), s.W/geometry.Px, s.H/geometry.Px)
		}
	}
	b.WriteString("\n## Lines of ISO 5807\n\n| Line | Pattern in a file | Meaning | When to use it |\n|---|---|---|---|\n")
	for _, l := range symbols.Lines {
		fmt.Fprintf(&b, "| %s | `%s` | %s | %s |\n", l.Name, l.Line, l.Meaning, l.When)
	}
	return []byte(b.String())
}

// overview shows every symbol with its name under it.
func overview() ([]byte, error) {
	m := model.New("The symbols", model.Rightwards, "A3", true)
	m.Numbers = false
	s := m.Sheets[0]
	const (
		columns = 8
		w, h    = 190 * geometry.Px, 134 * geometry.Px
	)
	for i, def := range symbols.All() {
		if def.Kind == model.Legend {
			continue // the last, which would show all the others once more
		}
		at := geometry.Point{X: i%columns*w + w/2, Y: i/columns*h + h/2 - 10*geometry.Px}
		sw, sh := def.W, def.H
		if def.Kind.Holds() || def.Kind == model.Picture {
			sw, sh = 120*geometry.Px, 80*geometry.Px
		}
		text := ""
		if def.Kind == model.PlainText {
			text = "Words"
		}
		s.Symbols = append(s.Symbols,
			&model.Symbol{ID: string(def.Kind), Kind: def.Kind, Box: geometry.Around(at, sw, sh), Text: text},
			&model.Symbol{ID: "name-" + string(def.Kind), Kind: model.PlainText, Type: model.Type{Align: "centre"},
				Text: def.Name,
				Box:  geometry.Around(at.Add(geometry.Point{Y: 58 * geometry.Px}), w-10*geometry.Px, 24*geometry.Px)})
	}
	d := scene.Draw(m, s)
	d.Extent = geometry.Box{W: columns * w, H: (len(symbols.All()) - 1 + columns - 1) / columns * h}
	return svg.Write(d, svg.Options{})
}
