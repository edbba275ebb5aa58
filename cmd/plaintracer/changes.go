package main

import (
	"context"
	"fmt"
	"io"
	"path/filepath"
	"strings"

	"github.com/spf13/cobra"

	"plaintracer/exchange/changes"
)

// comparing is the command that tells what changed between two files of a map.
func comparing() *cobra.Command {
	var asJSON, asHTML bool
	c := &cobra.Command{Use: "changes OLD NEW", Short: "Tell what of the work changed between two states of a map",
		Args:    cobra.ExactArgs(2),
		Long:    "Tell what of the work changed between two states of a map, in words. Things are matched by their ids; what only tidies the drawing is counted.",
		Example: "  plaintracer changes before.tracer.json after.tracer.json --json",
		RunE: func(c *cobra.Command, args []string) error {
			return tellChanges(args, asJSON, asHTML, c.OutOrStdout())
		}}
	c.Flags().BoolVar(&asJSON, "json", false, "for programs, as JSON")
	c.Flags().BoolVar(&asHTML, "html", false, "as a web page; otherwise it is Markdown")
	c.MarkFlagsMutuallyExclusive("json", "html")
	return c
}

func tellChanges(files []string, asJSON, asHTML bool, out io.Writer) error {
	before, err := readMap(files[0])
	if err != nil {
		return fmt.Errorf("%s: %w", files[0], err)
	}
	after, err := readMap(files[1])
	if err != nil {
		return fmt.Errorf("%s: %w", files[1], err)
	}
	name := func(file string) string { return strings.TrimSuffix(filepath.Base(file), ".tracer.json") }
	a := changes.Between(before, after, name(files[0]), name(files[1]))
	text := a.Markdown()
	switch {
	case asJSON:
		text, err = a.JSON()
	case asHTML:
		text, err = a.HTML(context.Background())
	}
	if err == nil {
		_, err = out.Write(text)
	}
	return err
}
