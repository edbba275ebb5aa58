package main

import (
	"bytes"
	"os"
	"path/filepath"
	"testing"
)

// What is made from the types of maps is made from them as they are now.
func TestTheFilesAreUpToDate(t *testing.T) {
	for name, write := range files {
		want, err := generate(write)
		if err != nil {
			t.Fatal(err)
		}
		file := filepath.Join("../..", folder, name)
		if got, err := os.ReadFile(file); err != nil || !bytes.Equal(got, want) {
			t.Errorf("%s is out of date (%v): run go generate ./%s", file, err, folder)
		}
	}
}
