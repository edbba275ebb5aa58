// Command against runs benchmarks of this tree and of an older commit in turn on one machine, and prints their ratios:
// what a machine that is shared does to a figure it does to both.
//
//	against -ref COMMIT -bench PATTERN [-time 1s] [-rounds 10] PACKAGES...
package main

import (
	"errors"
	"flag"
	"fmt"
	"io"
	"log"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
)

func main() {
	log.SetFlags(0)
	log.SetPrefix("against: ")
	ref := flag.String("ref", "", "the older commit")
	pattern := flag.String("bench", ".", "which benchmarks")
	long := flag.String("time", "1s", "how long each runs, as for go test -benchtime")
	rounds := flag.Int("rounds", 10, "how often each runs at the most")
	flag.Parse()
	packages := flag.Args()
	if *ref == "" || len(packages) == 0 || *rounds < 2 {
		flag.Usage()
		os.Exit(2)
	}
	if err := run(os.Stdout, *ref, *pattern, *long, *rounds, packages); err != nil {
		log.Fatal(err)
	}
}

// enough is how wide the interval of a ratio may be at the end: a twentieth.
const enough = 0.05

func run(out io.Writer, ref, pattern, long string, rounds int, packages []string) error {
	root, err := output(".", "git", "rev-parse", "--show-toplevel")
	if err != nil {
		return err
	}
	commit, err := output(root, "git", "rev-parse", "--short", ref)
	if err != nil {
		return fmt.Errorf("there is no commit %q: %w", ref, err)
	}
	dir, err := os.MkdirTemp("", "against")
	if err != nil {
		return err
	}
	defer os.RemoveAll(dir)
	older := filepath.Join(dir, "older")
	if _, err := output(root, "git", "worktree", "add", "--detach", older, commit); err != nil {
		return err
	}
	defer output(root, "git", "worktree", "remove", "--force", older)
	var pairs []pair
	for _, p := range packages {
		b := pair{name: p}
		for i, tree := range [2]string{older, root} {
			b.side[i] = program{dir: filepath.Join(tree, p),
				path: filepath.Join(dir, fmt.Sprintf("%d-%d.test", len(pairs), i))}
			log.Printf("building %s of %s", p, [2]string{commit, "this tree"}[i])
			if _, err := output(tree, "go", "test", "-c", "-o", b.side[i].path, "./"+p); err != nil {
				return err
			}
		}
		pairs = append(pairs, b)
	}
	var t table
	for round := 1; round <= rounds; round++ {
		for _, p := range pairs {
			var figures [2][]figure
			for i := range figures {
				if figures[i], err = p.side[i].measure(pattern, long); err != nil {
					return fmt.Errorf("%s: %w", p.name, err)
				}
			}
			t.add(figures[0], figures[1])
		}
		widest := t.widest()
		log.Printf("round %d: the widest interval is %.1f %% wide", round, 100*widest)
		if round > 2 && widest < enough {
			break
		}
	}
	if len(t.rows) == 0 {
		return errors.New("no benchmark of that name is in both trees")
	}
	t.print(out, commit)
	return nil
}

// pair is a package in both trees.
type pair struct {
	name string
	side [2]program
}

// program is a test program with the folder it runs in.
type program struct{ dir, path string }

// measure runs the benchmarks once.
func (p program) measure(pattern, long string) ([]figure, error) {
	text, err := output(p.dir, p.path, "-test.run", "^$", "-test.bench", pattern, "-test.benchtime", long,
		"-test.timeout", "2h")
	if err != nil {
		return nil, err
	}
	return figures(text), nil
}

// output runs a program in a folder, and returns what it prints, or an error with what it says.
func output(dir, name string, args ...string) (string, error) {
	cmd := exec.Command(name, args...)
	cmd.Dir = dir
	var said strings.Builder
	cmd.Stderr = &said
	out, err := cmd.Output()
	if err != nil {
		return "", fmt.Errorf("%s %s: %w\n%s%s", name, strings.Join(args, " "), err, said.String(), out)
	}
	return strings.TrimSpace(string(out)), nil
}
