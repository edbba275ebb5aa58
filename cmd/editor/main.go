//go:build js && wasm

// Command editor is the core as it runs in the browser. It hands core/editor
// to the page's script as the object plainTracer: events go in, patches out.
package main

import (
	"encoding/json"
	"runtime"
	"runtime/debug"
	"strings"
	"syscall/js"

	"plaintracer/core/edit"
	"plaintracer/core/editor"
	"plaintracer/core/geometry"
	"plaintracer/core/symbols"
)

// build is the hash of the sources, set when the core is built.
var build = "unknown"

// rest clears up while nothing happens, so that the next drag is not interrupted for
// it: what a drag allocates, which is little in every frame, has room until the next rest,
// or else until there is four times as much of it as of what lives.
func rest() {
	const room = 128 << 20
	runtime.GC()
	var s runtime.MemStats
	runtime.ReadMemStats(&s)
	debug.SetGCPercent(max(400, int(100*room/max(s.HeapAlloc, 1))))
}

// pastBytes is how much of what can be undone is left for the page that is loaded again; a browser keeps some 5 MB for
// a site.
const pastBytes = 1_000_000

func main() {
	debug.SetGCPercent(400) // until the first rest, and in the worker, which has none
	mark := func(name string) { js.Global().Get("performance").Call("mark", name) }
	mark("core began")
	e := editor.New()
	e.Reached = mark
	at := func(a []js.Value) geometry.Point { return geometry.Point{X: a[0].Int(), Y: a[1].Int()} }
	list := func(v any) string {
		raw, err := json.Marshal(v)
		if err != nil {
			return "[]"
		}
		return string(raw)
	}
	now := func() { e.Now(int64(js.Global().Get("performance").Call("now").Float())) }
	fail := func(err error) any {
		if err != nil {
			return err.Error()
		}
		return ""
	}
	api := map[string]func(a []js.Value) any{
		"open": func(a []js.Value) any {
			err := e.Open([]byte(a[0].String()), a[1].Int(), a[2].String())
			rest()
			mark("cleared up")
			return fail(err)
		},
		// past is what resumePast takes, in a window of the same name, so that undo goes on after the page was loaded
		// again.
		"past":       func([]js.Value) any { return string(e.Doc.Past(pastBytes)) },
		"resumePast": func(a []js.Value) any { return fail(e.Doc.Resume([]byte(a[0].String()))) },
		"adopt":      func([]js.Value) any { e.Adopt(); return nil },
		"drawn": func([]js.Value) any {
			b, pixels := e.Sheet().Drawn(), func(n int) any { return float64(n) / float64(geometry.Px) }
			return []any{pixels(b.X), pixels(b.Y), pixels(b.W), pixels(b.H)}
		},
		"down":    func(a []js.Value) any { e.Down(at(a), a[2].Int(), a[3].Int()); return nil },
		"move":    func(a []js.Value) any { e.Move(at(a), a[2].Int(), a[3].Int()); return nil },
		"up":      func(a []js.Value) any { e.Up(at(a), a[2].Int(), a[3].Int()); return nil },
		"double":  func(a []js.Value) any { e.Double(at(a)); return nil },
		"key":     func(a []js.Value) any { now(); return e.Key(a[0].String(), a[1].Int()) },
		"command": func(a []js.Value) any { now(); e.Command(a[0].String(), a[1].String()); return nil },
		"writeOn": func(a []js.Value) any {
			return e.Writing.WriteOn(a[0].String(), a[1].String(), a[2].String(), a[3].String(), a[4].Int())
		},
		"picture":    func(a []js.Value) any { e.Styling.Picture(bytesOf(a[0]), a[1].Int(), a[2].Int()); return nil },
		"pictureOn":  func(a []js.Value) any { e.Styling.PictureOn(bytesOf(a[0]), a[1].Int(), a[2].Int()); return nil },
		"attachAt":   func(a []js.Value) any { e.Writing.AttachAt(at(a), a[2].String()); return nil },
		"takesFiles": func(a []js.Value) any { return e.Writing.TakesFiles(at(a)) },
		"font":       func(a []js.Value) any { e.Styling.Font([]byte(a[0].String()), a[1].Bool()); return nil },
		"face": func(a []js.Value) any {
			file := e.Styling.Face(a[0].String())
			out := js.Global().Get("Uint8Array").New(len(file))
			js.CopyBytesToJS(out, file)
			return out
		},
		"textOf": func(a []js.Value) any {
			text, there := e.Writing.TextOf(a[0].String(), a[1].String())
			return []any{text, there}
		},
		"wordedAs": func(a []js.Value) any {
			return list(e.Writing.WordedAs(a[0].String(), a[1].String(), a[2].Int(), a[3].Int()))
		},
		"accentWords": func(a []js.Value) any {
			e.Writing.AccentWords(a[0].String(), a[1].String(), a[2].Int(), a[3].Int(), a[4].String(), a[5].String())
			return nil
		},
		"held": func([]js.Value) any { return string(e.Writing.Held()) },
		"resume": func(a []js.Value) any {
			e.Writing.Resume(a[0].String(), a[1].String(), []byte(a[2].String()))
			return nil
		},
		"cancel": func([]js.Value) any { e.Writing.Cancel(); return nil },
		"copy": func([]js.Value) any {
			data, text := e.Clipboard.Copy()
			return []any{data, text}
		},
		"copySheet": func([]js.Value) any {
			data, text := e.Sheets.CopySheet()
			return []any{data, text}
		},
		"peek":    func(a []js.Value) any { return e.Peek(a[0].String(), a[1].String()) },
		"endPeek": func([]js.Value) any { e.EndPeek(); return nil },
		"seen": func(a []js.Value) any {
			e.Seen = geometry.Box{X: a[0].Int(), Y: a[1].Int(), W: a[2].Int(), H: a[3].Int()}
			return nil
		},
		"coarse":     func(a []js.Value) any { e.Coarse(a[0].Bool()); return nil },
		"empty":      func(a []js.Value) any { return e.Empty(at(a), a[2].Int()) },
		"menu":       func(a []js.Value) any { return list(e.Menu(at(a))) },
		"directory":  func([]js.Value) any { return list(e.Directory()) },
		"find":       func(a []js.Value) any { return list(e.Find(a[0].String())) },
		"register":   func(a []js.Value) any { return string(e.Rows.Register(a[0].String())) },
		"setCells":   func(a []js.Value) any { return string(e.Rows.SetCells(a[0].String(), a[1].String())) },
		"insertRow":  func(a []js.Value) any { return e.Rows.InsertRow(a[0].String()) },
		"removeRows": func(a []js.Value) any { e.Rows.RemoveRows(strings.Fields(a[0].String())); return nil },
		"moveRow":    func(a []js.Value) any { e.Rows.MoveRow(a[0].String(), a[1].String(), a[2].Bool()); return nil },
		"addField": func(a []js.Value) any {
			e.Rows.AddField(a[0].String(), a[1].String(), lines(a[2].String()))
			return nil
		},
		"readBack":     func(a []js.Value) any { return string(e.Rows.ReadBack(a[0].String())) },
		"takeBack":     func(a []js.Value) any { return string(e.Rows.TakeBack(a[0].String())) },
		"acts":         func([]js.Value) any { return list(e.Cards.Acts()) },
		"symbols":      func(a []js.Value) any { return list(symbols.Kinds(symbols.Search(a[0].String()))) },
		"listTable":    func(a []js.Value) any { return string(e.Rows.ListTable(a[0].String())) },
		"journey":      func(a []js.Value) any { return string(e.Rows.Journey(a[0].String())) },
		"takeJourney":  func(a []js.Value) any { return e.Rows.TakeJourney(a[0].String()) },
		"portrait":     func(a []js.Value) any { return e.Rows.Portrait(a[0].String(), bytesOf(a[1])) },
		"people":       func(a []js.Value) any { return string(e.Rows.People(a[0].String(), a[1].String())) },
		"takePeople":   func(a []js.Value) any { return e.Rows.TakePeople(a[0].String(), a[1].String()) },
		"renumbering":  func([]js.Value) any { return string(e.Numbering.Renumbering()) },
		"sheetPicture": func(a []js.Value) any { return e.Sheets.Picture(a[0].String()) },
		"cases":        func([]js.Value) any { return list(e.Cases.Told()) },
		"casesBeside":  func(a []js.Value) any { return list(e.Cases.Beside(a[0].String(), a[1].String())) },
		"outline":      func([]js.Value) any { return list(e.Selecting.Outline()) },
		"pasteHere":    func(a []js.Value) any { e.Clipboard.PasteHere(a[0].String()); return nil },
		"paste":        func(a []js.Value) any { now(); e.Clipboard.Paste(a[0].String()); return nil },
		"pasteText":    func(a []js.Value) any { e.Clipboard.PasteText(a[0].String()); return nil },
		"confirm":      func(a []js.Value) any { e.Confirm(a[0].Int(), a[1].Int()); return nil },
		"refused":      func(a []js.Value) any { e.Refused(a[0].Int(), a[1].String()); return nil },
		"foreign": func(a []js.Value) any {
			var env edit.Envelope
			if err := json.Unmarshal([]byte(a[0].String()), &env); err != nil {
				return []any{err.Error(), ""}
			}
			words := ""
			if env.Edit != nil {
				words = edit.Words(e.Map(), env.Edit)
			}
			return []any{fail(e.Foreign(env.Edit, a[1].Int())), words}
		},
		"fresh": func(a []js.Value) any {
			return fail(e.Fresh([]byte(a[0].String()), a[1].Int(), a[2].Int()))
		},
		"worked":  func(a []js.Value) any { e.Layout.Worked([]byte(a[0].String())); return nil },
		"perform": func(a []js.Value) any { e.Layout.Perform([]byte(a[0].String()), a[1].String()); return nil },
		"pause":   func([]js.Value) any { return e.Pause() },
		"rest":    func([]js.Value) any { rest(); return nil },
		"flush":   func([]js.Value) any { return string(e.Flush()) },
		"collections": func([]js.Value) any {
			var s runtime.MemStats
			runtime.ReadMemStats(&s)
			return int(s.NumGC)
		},
	}
	object := js.Global().Get("Object").New()
	for name, do := range api {
		object.Set(name, js.FuncOf(func(_ js.Value, args []js.Value) any { return do(args) }))
	}
	object.Set("build", build)
	js.Global().Set("plainTracer", object)
	js.Global().Call("dispatchEvent", js.Global().Get("Event").New("core-ready"))
	select {}
}

// lines are those of a text that are not empty.
func lines(text string) (list []string) {
	for _, line := range strings.Split(text, "\n") {
		if line = strings.TrimSpace(line); line != "" {
			list = append(list, line)
		}
	}
	return list
}

// bytesOf copies a Uint8Array.
func bytesOf(v js.Value) []byte {
	b := make([]byte, v.Length())
	js.CopyBytesToGo(b, v)
	return b
}
