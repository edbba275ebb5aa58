package main

import (
	"os"
	"path/filepath"
	"testing"
)

// What the scripts are checked against is what the core offers.
func TestTypesAreCurrent(t *testing.T) {
	root := filepath.Join("..", "..")
	want, err := generate(filepath.Join(root, "cmd", "editor", "main.go"), filepath.Join(root, "core", "editor"))
	if err != nil {
		t.Fatal(err)
	}
	got, err := os.ReadFile(filepath.Join(root, "web", "core.d.ts"))
	if err != nil {
		t.Fatal(err)
	}
	if string(got) != string(want) {
		t.Error("web/core.d.ts is not what cmd/editor offers: run go run ./tools/scripttypes")
	}
}
