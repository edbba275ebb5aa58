package plaintracer

import (
	"bytes"
	"go/scanner"
	"go/token"
	"io/fs"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"slices"
	"strings"
	"testing"
	"unicode/utf8"
)

// order is the order of the packages of core: each may import those before it.
var order = []string{"scratch", "geometry", "fonts", "pictures", "fields", "values", "hierarchy", "model", "links",
	"flow", "numbering",
	"edit", "task", "looks", "symbols", "typeset", "spatial", "crossing", "labels", "routing", "layered", "grid",
	"tree", "arrange", "spread", "session", "register", "compare", "findings", "scene", "pages", "procedure",
	"handover", "paint",
	"layout", "worker", "compose", "steplist", "units", "outline", "trace", "find", "editor/desk", "editor/gesture",
	"editor/command", "editor"}

// layer says how far up a package stands; imports only point down.
func layer(path string) int {
	path = strings.TrimPrefix(path, "plaintracer/")
	switch first, rest, _ := strings.Cut(path, "/"); first {
	case "core":
		return slices.Index(order, rest)
	case "exchange":
		switch rest {
		case "fontfile", "cell", "gate", "book", "archive":
			return 99
		case "typeface":
			return 100
		case "picturefile":
			return 101
		case "carrier", "bundle", "webpage", "starts", "record", "changes", "edited": // of those beside them
			return 103
		case "intake":
			return 104
		case "":
			return 105
		}
		return 102
	case "docs":
		return 1
	case "background":
		return 97
	case "review":
		return 97
	case "account":
		return 101
	case "mail":
		return 101
	case "app":
		return map[string]int{"documents": 110, "search": 110, "live": 111, "phrase": 109, "post": 112,
			"house": 120, "rounds": 130}[rest]
	case "store":
		if rest != "" {
			return 101
		}
		return 102
	case "plaintracer":
		return 110
	case "bench":
		switch rest {
		case "compare":
			return 400
		case "hands", "gallery", "scripts":
			return 104
		}
		return 98
	case "web":
		return map[string]int{"site": 200, "accounts": 201, "shelf": 201, "sharing": 201, "reviews": 202, "desk": 203,
			"": 210}[rest]
	case "cmd":
		return 300
	case "e2e":
		if rest == "browser" || rest == "program" {
			return 350
		}
	}
	return 400 // tools and tests
}

func list(t *testing.T, env string, args ...string) []string {
	t.Helper()
	cmd := exec.Command("go", append([]string{"list"}, args...)...)
	if env != "" {
		cmd.Env = append(cmd.Environ(), strings.Fields(env)...)
	}
	out, err := cmd.Output()
	if err != nil {
		t.Fatalf("go list %v: %v", args, err)
	}
	return strings.Split(strings.TrimSpace(string(out)), "\n")
}

func TestImportsPointOneWay(t *testing.T) {
	for _, line := range list(t, "", "-f", `{{.ImportPath}} {{join .Imports " "}}`, "./...") {
		fields := strings.Fields(line)
		from := fields[0]
		if strings.HasPrefix(from, "plaintracer/core/") && layer(from) < 0 {
			t.Errorf("%s has no place in the order of core", from)
		}
		for _, to := range fields[1:] {
			if strings.HasPrefix(to, "plaintracer") && layer(to) >= layer(from) {
				t.Errorf("%s imports %s, which stands above or beside it", from, to)
			}
		}
	}
}

func TestCoreTouchesNothingOutside(t *testing.T) {
	banned := []string{"net/http", "database/sql", "os", "syscall/js"}
	for _, line := range list(t, "", "-f", `{{.ImportPath}} {{join .Imports " "}}`, "./core/...") {
		fields := strings.Fields(line)
		for _, to := range fields[1:] {
			if slices.Contains(banned, to) {
				t.Errorf("%s imports %s", fields[0], to)
			}
		}
	}
	list(t, "GOOS=js GOARCH=wasm", "-deps", "./cmd/editor") // it resolves for the browser too
}

// The page on security names tests that there are.
func TestSecurityPageNamesTests(t *testing.T) {
	declared := regexp.MustCompile(`(?m)^func ((?:Test|Fuzz|Benchmark)\w+)\(`)
	page, err := os.ReadFile("docs/security.md")
	if err != nil {
		t.Fatal(err)
	}
	there := map[string]bool{}
	if err := filepath.WalkDir(".", func(path string, d fs.DirEntry, err error) error {
		if err != nil || d.IsDir() || !strings.HasSuffix(path, "_test.go") {
			return err
		}
		raw, err := os.ReadFile(path)
		for _, m := range declared.FindAllStringSubmatch(string(raw), -1) {
			there[m[1]] = true
		}
		return err
	}); err != nil {
		t.Fatal(err)
	}
	named := regexp.MustCompile(`\b(?:Test|Fuzz|Benchmark)[A-Z]\w+`).FindAllString(string(page), -1)
	if len(named) < 100 {
		t.Fatalf("it names %d tests", len(named))
	}
	for _, name := range named {
		if !there[name] {
			t.Errorf("there is no test %s", name)
		}
	}
}

// Lines of code are at most 120 columns long, a tab counted as four, but for those with a text that reaches over the
// edge.
func TestLinesAreNotTooLong(t *testing.T) {
	const most = 120
	columns := func(s string) int { return utf8.RuneCountInString(s) + 3*strings.Count(s, "\t") }
	files := token.NewFileSet()
	seen := 0
	const each = `{{$d := .Dir}}{{range .GoFiles}}{{$d}}/{{.}}
{{end}}{{range .TestGoFiles}}{{$d}}/{{.}}
{{end}}{{range .XTestGoFiles}}{{$d}}/{{.}}
{{end}}`
	for _, path := range list(t, "", "-f", each, "./...") {
		if path == "" {
			continue
		}
		source, err := os.ReadFile(path)
		if err != nil {
			t.Fatal(err)
		}
		seen++
		lines := strings.Split(string(source), "\n")
		file := files.AddFile(path, files.Base(), len(source))
		over := map[int]bool{} // lines with a text that reaches over the edge
		var scan scanner.Scanner
		scan.Init(file, source, nil, 0)
		for {
			pos, tok, literal := scan.Scan()
			if tok == token.EOF {
				break
			}
			if tok != token.STRING {
				continue
			}
			at := file.Position(pos)
			for k, part := range strings.Split(literal, "\n") {
				line, end := lines[at.Line-1+k], len(part)
				if k == 0 {
					end += at.Column - 1
				}
				over[at.Line+k] = over[at.Line+k] || columns(line[:min(end, len(line))]) > most
			}
		}
		for k, line := range lines {
			if n := columns(line); n > most && !over[k+1] {
				t.Errorf("%s:%d: %d columns", path, k+1, n)
			}
		}
	}
	if seen < 300 {
		t.Errorf("only %d files", seen)
	}
}

// Every test that the page on accessibility names is there.
func TestAccessibilityNamesTestsThatExist(t *testing.T) {
	page, err := os.ReadFile("docs/accessibility.md")
	if err != nil {
		t.Fatal(err)
	}
	files, err := filepath.Glob("e2e/*_test.go")
	if err != nil {
		t.Fatal(err)
	}
	var all []byte
	for _, file := range files {
		text, err := os.ReadFile(file)
		if err != nil {
			t.Fatal(err)
		}
		all = append(all, text...)
	}
	named := regexp.MustCompile("`(Test[A-Za-z]+)`").FindAllSubmatch(page, -1)
	if len(named) < 20 {
		t.Errorf("the page names %d tests", len(named))
	}
	for _, one := range named {
		if !bytes.Contains(all, []byte("func "+string(one[1])+"(")) {
			t.Errorf("there is no %s", one[1])
		}
	}
}
