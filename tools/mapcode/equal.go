package main

import (
	"fmt"
	"reflect"

	"plaintracer/core/model"
)

// compared are the records of which it is asked whether two are the same.
var compared = []reflect.Type{
	reflect.TypeFor[model.Symbol](), reflect.TypeFor[model.Connector](), reflect.TypeFor[model.Pool](),
	reflect.TypeFor[model.SheetHead](), reflect.TypeFor[model.Head](),
}

// equality writes the methods that compare records, and the functions for what these hold.
func (g *generator) equality() {
	for _, t := range compared {
		name := g.name(t)
		fmt.Fprintf(&g.out,
			"\n// Equal reports whether two records are the same in every part; a list that is empty is as good as none.\n")
		fmt.Fprintf(&g.out, "func (a *%s) Equal(b *%s) bool {\n\treturn ", name, name)
		g.fields(t)
		g.out.WriteString("\n}\n")
	}
	for len(g.queue) > 0 {
		t := g.queue[0]
		g.queue = g.queue[1:]
		fmt.Fprintf(&g.out, "\nfunc equal%s(a, b %s) bool {\n\treturn ", t.Name(), g.name(t))
		g.fields(t)
		g.out.WriteString("\n}\n")
	}
}

// fields writes the comparison of all fields of a struct: what is compared at once first, then its lists.
func (g *generator) fields(t reflect.Type) {
	written := 0
	term := func(format string, args ...any) {
		if written++; written > 1 {
			g.out.WriteString(" &&\n\t\t")
		}
		fmt.Fprintf(&g.out, format, args...)
	}
	for _, lists := range []bool{false, true} {
		for i := range t.NumField() {
			f := t.Field(i)
			switch {
			case f.Type.Comparable() == lists || !f.IsExported() &&
				!f.Anonymous: // what is not exported follows from the rest
			case f.Type.Comparable() && f.Type.Kind() != reflect.Pointer && f.Type.Kind() != reflect.Interface:
				term("a.%s == b.%s", f.Name, f.Name)
			case f.Type.Kind() == reflect.Struct:
				term("equal%s(a.%s, b.%s)", g.equalFor(f.Type), f.Name, f.Name)
			case f.Type.Kind() == reflect.Slice && f.Type.Elem().Comparable():
				g.imports["slices"] = true
				term("slices.Equal(a.%s, b.%s)", f.Name, f.Name)
			case f.Type.Kind() == reflect.Slice && f.Type.Elem().Kind() == reflect.Struct:
				g.imports["slices"] = true
				term("slices.EqualFunc(a.%s, b.%s, equal%s)", f.Name, f.Name, g.equalFor(f.Type.Elem()))
			default:
				g.fault(t, f, "is of a kind that is not compared: "+f.Type.String())
			}
		}
	}
}

func (g *generator) equalFor(t reflect.Type) string {
	if !g.made[t] {
		g.made[t] = true
		g.queue = append(g.queue, t)
	}
	return t.Name()
}
