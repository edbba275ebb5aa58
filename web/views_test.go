package web

import (
	"go/ast"
	"go/parser"
	"go/token"
	"io/fs"
	"os"
	"path/filepath"
	"regexp"
	"strings"
	"testing"
	"text/template/parse"
)

// What a view asks of its page at the top is a field of it: a branch that no test comes to would fail only when
// somebody sees it.
func TestViewsAskOnlyForWhatPagesHave(t *testing.T) {
	pages := pageFields(t)
	trees := map[string]*parse.Tree{}
	files, err := filepath.Glob("views/*.html")
	if err != nil {
		t.Fatal(err)
	}
	for _, file := range files {
		text, err := os.ReadFile(file)
		if err != nil {
			t.Fatal(err)
		}
		tree := parse.New(filepath.Base(file))
		tree.Mode = parse.SkipFuncCheck
		if _, err := tree.Parse(string(text), "", "", trees); err != nil {
			t.Fatal(err)
		}
	}
	for view, fields := range pages {
		if trees[view] == nil {
			t.Errorf("there is no view %s", view)
			continue
		}
		asked := asking{trees: trees, names: map[string]bool{}, seen: map[string]bool{}}
		asked.template(view)
		for name := range asked.names {
			if !fields[name] {
				t.Errorf("%s asks for %s, which its page has not", view, name)
			}
		}
	}
	if len(pages) < 20 {
		t.Errorf("only %d pages", len(pages))
	}
}

// pageFields are the fields and methods of every type that says which view shows it, by that view.
func pageFields(t *testing.T) map[string]map[string]bool {
	t.Helper()
	shows := regexp.MustCompile(`is what ([\w-]+\.html) shows`)
	out := map[string]map[string]bool{}
	err := filepath.WalkDir(".", func(path string, d fs.DirEntry, err error) error {
		if err != nil || filepath.Ext(path) != ".go" || strings.Contains(path, "node_modules") {
			return err
		}
		file, err := parser.ParseFile(token.NewFileSet(), path, nil, parser.ParseComments)
		if err != nil {
			return err
		}
		for _, decl := range file.Decls {
			g, ok := decl.(*ast.GenDecl)
			if !ok || g.Tok != token.TYPE {
				continue
			}
			said := shows.FindStringSubmatch(g.Doc.Text())
			if said == nil {
				continue
			}
			fields := map[string]bool{"Title": true, "Place": true, "Me": true, "Token": true, "NoLetters": true}
			for _, f := range g.Specs[0].(*ast.TypeSpec).Type.(*ast.StructType).Fields.List {
				for _, n := range f.Names {
					fields[n.Name] = true
				}
			}
			out[said[1]] = fields
		}
		return nil
	})
	if err != nil {
		t.Fatal(err)
	}
	return out
}

// asking gathers what a view asks of the page itself, not of what it comes to inside range and with.
type asking struct {
	trees map[string]*parse.Tree
	names map[string]bool
	seen  map[string]bool
}

func (a *asking) template(name string) {
	if a.seen[name] || a.trees[name] == nil {
		return
	}
	a.seen[name] = true
	a.walk(a.trees[name].Root, true)
}

// walk goes through a node, in which the dot is the page or is not; $ always is.
func (a *asking) walk(n parse.Node, page bool) {
	switch n := n.(type) {
	case *parse.ListNode:
		if n == nil {
			return
		}
		for _, one := range n.Nodes {
			a.walk(one, page)
		}
	case *parse.ActionNode:
		a.walk(n.Pipe, page)
	case *parse.IfNode:
		a.branch(&n.BranchNode, page, page)
	case *parse.RangeNode:
		a.branch(&n.BranchNode, page, false)
	case *parse.WithNode:
		a.branch(&n.BranchNode, page, false)
	case *parse.TemplateNode:
		a.walk(n.Pipe, page)
		if n.Pipe != nil && len(n.Pipe.Cmds) == 1 && len(n.Pipe.Cmds[0].Args) == 1 {
			_, dot := n.Pipe.Cmds[0].Args[0].(*parse.DotNode)
			v, isVariable := n.Pipe.Cmds[0].Args[0].(*parse.VariableNode)
			if dot && page || isVariable && len(v.Ident) == 1 && v.Ident[0] == "$" {
				a.template(n.Name)
			}
		}
	case *parse.PipeNode:
		if n == nil {
			return
		}
		for _, c := range n.Cmds {
			for _, arg := range c.Args {
				a.walk(arg, page)
			}
		}
	case *parse.FieldNode:
		if page {
			a.names[n.Ident[0]] = true
		}
	case *parse.ChainNode:
		a.walk(n.Node, page)
	case *parse.VariableNode:
		if n.Ident[0] == "$" && len(n.Ident) > 1 {
			a.names[n.Ident[1]] = true
		}
	}
}

func (a *asking) branch(n *parse.BranchNode, page, inside bool) {
	a.walk(n.Pipe, page)
	a.walk(n.List, inside)
	a.walk(n.ElseList, page)
}
