package main

import (
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"time"

	"github.com/spf13/cobra"

	"plaintracer/core/diagram"
	"plaintracer/exchange/starts"
	"plaintracer/exchange/steptable"
	"plaintracer/exchange/tracerjson"
)

// layoutTime is how long the layout of a map may take.
const layoutTime = 4 * time.Second

// layingOut is the command that lays out all sheets of a map, or makes a map of a table of steps.
func layingOut() *cobra.Command {
	var direction string
	c := &cobra.Command{Use: "layout IN OUT", Short: "Lay out all sheets of a map, or make a map of a table of steps", Args: cobra.ExactArgs(2),
		Long:    "Lay out all sheets of a map, or make a map of a table of steps: CSV, or the first sheet of an XLSX file, with the columns id, text, kind, lane, next.",
		Example: "  plaintracer layout steps.csv steps.tracer.json --direction down",
		RunE:    func(_ *cobra.Command, args []string) error { return layOut(args, direction) }}
	c.Flags().StringVar(&direction, "direction", "", "down or right")
	return c
}

func layOut(files []string, direction string) error {
	way := diagram.Direction(direction)
	if way != "" && way != diagram.Downwards && way != diagram.Rightwards {
		return fmt.Errorf("the direction is down or right, not %q", direction)
	}
	var m *diagram.Map
	var err error
	if ext := filepath.Ext(files[0]); strings.EqualFold(ext, ".csv") || strings.EqualFold(ext, ".xlsx") {
		data, err := os.ReadFile(files[0])
		if err != nil {
			return err
		}
		if way == "" {
			way = diagram.Rightwards
		}
		name := strings.TrimSuffix(filepath.Base(files[0]), filepath.Ext(files[0]))
		if m, err = steptable.ReadFile(files[0], data, name, way); err != nil {
			return fmt.Errorf("%s: %w", files[0], err)
		}
	} else if m, err = readMap(files[0]); err != nil {
		return err
	}
	if way != "" {
		m.Direction = way
	}
	late := time.Now().Add(layoutTime)
	if err := starts.LayOut(m, func() bool { return time.Now().After(late) }); err != nil {
		return fmt.Errorf("%s: %w", files[0], err)
	}
	out, err := tracerjson.Write(m)
	if err != nil {
		return err
	}
	return os.WriteFile(files[1], out, 0o644)
}
