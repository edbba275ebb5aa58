//go:build js && wasm

// Command worker is what runs beside the page in a worker of the browser: the object plainTracer there has the function
// work, which takes a task as JSON (package task) and returns its outcome as JSON and a fault, one of them empty.
package main

import (
	"runtime/debug"
	"syscall/js"

	"plaintracer/core/worker"
)

func main() {
	debug.SetGCPercent(400)
	work := func(_ js.Value, args []js.Value) any {
		outcome, err := worker.Do([]byte(args[0].String()), func(done, of int) bool {
			if told := js.Global().Get("plainTracerTold"); told.Truthy() {
				told.Invoke(done, of)
			}
			return true
		})
		if err != nil {
			return []any{"", err.Error()}
		}
		return []any{string(outcome), ""}
	}
	object := js.Global().Get("Object").New()
	object.Set("work", js.FuncOf(work))
	js.Global().Set("plainTracer", object)
	js.Global().Call("dispatchEvent", js.Global().Get("Event").New("core-ready"))
	select {}
}
