package main

import (
	"bytes"
	"os"
	"testing"
)

// The references in docs are what the tables say now.
func TestTheReferenceIsUpToDate(t *testing.T) {
	picture, err := overview()
	if err != nil {
		t.Fatal(err)
	}
	old, err := os.ReadFile("../../docs/tracer.schema.json")
	if err != nil {
		t.Fatal(err)
	}
	oldKeys, err := os.ReadFile("../../docs/keys.md")
	if err != nil {
		t.Fatal(err)
	}
	for name, want := range map[string][]byte{"../../docs/keys.md": keys(oldKeys), "../../docs/symbols.md": page(),
		"../../docs/symbols.svg": picture, "../../docs/tracer.schema.json": schema(old)} {
		if got, err := os.ReadFile(name); err != nil || !bytes.Equal(got, want) {
			t.Errorf("%s is out of date (%v): run make symbols", name, err)
		}
	}
}
