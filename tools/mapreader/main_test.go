package main

import (
	"bytes"
	"os"
	"testing"
)

// The reader of maps is made from their types as they are now.
func TestTheReaderIsUpToDate(t *testing.T) {
	want, err := generate()
	if err != nil {
		t.Fatal(err)
	}
	if got, err := os.ReadFile("../../core/diagram/read_gen.go"); err != nil || !bytes.Equal(got, want) {
		t.Errorf("core/diagram/read_gen.go is out of date (%v): run go generate ./core/diagram", err)
	}
}
