// Command browsercore builds the core for the browser into web/core: the
// compressed WebAssembly of each program, the loader that belongs to the Go in use, and the
// hash of the sources. It does nothing when that build is current. With -release it
// compresses as hard as it can, which takes a minute and a seventh off what a browser loads.
package main

import (
	"bytes"
	"flag"
	"fmt"
	"log"
	"os"
	"os/exec"
	"path/filepath"
	"runtime"
	"strings"
	"sync"

	"github.com/andybalholm/brotli"

	"plaintracer"
)

const dir = "web/core"

// programs are the commands that run in the browser: the editor in the page, and what a worker beside it does.
var programs = []string{"editor", "worker"}

// seldom are the packages that do not run in every frame of a drag. Calls in them
// are not written out in place: that takes a tenth off what the browser loads.
var seldom = []string{
	"encoding/...", "fmt", "reflect", "image/...", "compress/...", "time", "os", "io/...", "bufio", "strconv",
	"math/...", "unicode/...", "path", "hash/...", "sort", "errors", "internal/...",
	"github.com/rivo/uniseg",
	"plaintracer/core/symbols", "plaintracer/core/findings", "plaintracer/core/pictures", "plaintracer/core/fonts",
	"plaintracer/core/looks",
	"plaintracer/core/layout", "plaintracer/core/numbering", "plaintracer/core/arrange", "plaintracer/core/fields",
	"plaintracer/core/model", "plaintracer/core/edit", "plaintracer/core/editor", "plaintracer/core/editor/desk",
	"plaintracer/core/editor/gesture", "plaintracer/core/editor/command",
	"plaintracer/core/compose", "plaintracer/core/register", "plaintracer/core/values",
	"plaintracer/core/session", "plaintracer/core/find", "plaintracer/core/outline", "plaintracer/core/trace",
	"plaintracer/core/units", "plaintracer/core/task", "plaintracer/core/worker",
}

func main() {
	log.SetFlags(0)
	release := flag.Bool("release", false, "compress as hard as possible")
	names := flag.Bool("names", false, "leave the names of functions in, for a profile")
	flag.Parse()
	stamp, level := plaintracer.EditorSource()+" "+runtime.Version(), 6
	if *names {
		stamp += " names"
	}
	if *release {
		level = 11
	}
	if old, err := os.ReadFile(filepath.Join(dir, "stamp.txt")); err == nil &&
		(string(old) == stamp && !*release || string(old) == stamp+" release") {
		return
	}
	fmt.Println("building the core for the browser: half a minute the first time")
	tmp, err := os.MkdirTemp("", "browsercore")
	check(err)
	defer os.RemoveAll(tmp)
	compile(tmp, *names)
	var all sync.WaitGroup
	for _, name := range programs {
		all.Go(func() { pack(filepath.Join(tmp, name), name, level) })
	}
	all.Wait()
	root, err := exec.Command("go", "env", "GOROOT").Output()
	check(err)
	loader, err := os.ReadFile(filepath.Join(strings.TrimSpace(string(root)), "lib", "wasm", "wasm_exec.js"))
	check(err)
	check(os.WriteFile(filepath.Join(dir, "wasm_exec.js"), loader, 0o644))
	if *release {
		stamp += " release"
	}
	check(os.WriteFile(filepath.Join(dir, "stamp.txt"), []byte(stamp), 0o644))
}

// compile builds the programs into a folder: at once and with one profile, so that what they share is compiled once.
func compile(into string, names bool) {
	symbols := "-s -w "
	if names {
		symbols = "-w "
	}
	linking := symbols + "-X main.build=" + plaintracer.EditorSource()
	args := []string{"build", "-trimpath", "-pgo", "cmd/editor/default.pgo", "-ldflags", linking, "-o", into}
	for _, pattern := range seldom {
		args = append(args, "-gcflags="+pattern+"=-l")
	}
	for _, name := range programs {
		args = append(args, "./cmd/"+name)
	}
	cmd := exec.Command("go", args...)
	cmd.Env = append(os.Environ(), "GOOS=js", "GOARCH=wasm")
	cmd.Stderr = os.Stderr
	check(cmd.Run())
}

// pack writes a program, compressed.
func pack(file, name string, level int) {
	wasm, err := os.ReadFile(file)
	check(err)
	if less, err := withoutLines(wasm); err == nil {
		wasm = less
	} else {
		fmt.Printf("%s is a tenth larger than it could be: %v\n", name, err)
	}
	var packed bytes.Buffer
	w := brotli.NewWriterLevel(&packed, level)
	_, err = w.Write(wasm)
	check(err)
	check(w.Close())
	check(os.WriteFile(filepath.Join(dir, name+".wasm.br"), packed.Bytes(), 0o644))
	fmt.Printf("%s for the browser: %d KB, %d KB compressed\n", name, len(wasm)/1024, packed.Len()/1024)
}

func check(err error) {
	if err != nil {
		log.Fatal(err)
	}
}
