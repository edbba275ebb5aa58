package main

import (
	"fmt"
	"log"
	"os"
	"plaintracer/e2e/browser"
	"time"
)

type failer struct{ c []func() }

func (f *failer) Helper()                        {}
func (f *failer) Cleanup(do func())              { f.c = append(f.c, do) }
func (f *failer) Fatalf(s string, args ...any)   { log.Fatalf(s, args...) }

func main() {
	f := &failer{}
	b := browser.Start(f)
	p := b.Open(os.Args[1])
	time.Sleep(2 * time.Second)
	for _, e := range os.Args[3:] {
		time.Sleep(700 * time.Millisecond)
		fmt.Println(e, "=>", browser.Eval[any](p, e))
	}
	os.WriteFile(os.Args[2], p.Picture(), 0o644)
	for _, c := range f.c { c() }
}
