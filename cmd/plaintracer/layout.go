package main

import (
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"time"

	"github.com/spf13/cobra"

	"plaintracer/core/diagram"
	"plaintracer/core/layout"
	"plaintracer/exchange/steptable"
	"plaintracer/exchange/tracerjson"
)

// layoutTime is how long the layout of a sheet may take.
const layoutTime = 4 * time.Second

// layingOut is the command that lays out all sheets of a map, or makes a map of a table of steps.
func layingOut() *cobra.Command {
	var direction string
	c := &cobra.Command{Use: "layout IN OUT", Short: "Lay out all sheets of a map, or make a map of a table of steps", Args: cobra.ExactArgs(2),
		Long:    "Lay out all sheets of a map, or make a map of a table of steps: CSV with the columns id, text, kind, lane, next.",
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
	if strings.EqualFold(filepath.Ext(files[0]), ".csv") {
		data, err := os.ReadFile(files[0])
		if err != nil {
			return err
		}
		if way == "" {
			way = diagram.Rightwards
		}
		name := strings.TrimSuffix(filepath.Base(files[0]), filepath.Ext(files[0]))
		if m, err = steptable.Read(data, name, way); err != nil {
			return fmt.Errorf("%s: %w", files[0], err)
		}
	} else if m, err = readMap(files[0]); err != nil {
		return err
	}
	if way != "" {
		m.Direction = way
	}
	for _, s := range m.Sheets {
		late := time.Now().Add(layoutTime)
		stopped := false
		edit := layout.Find(m, s, layout.Wish{Down: m.Direction == diagram.Downwards, Above: m.Above, Tell: func(int, int) bool {
			stopped = stopped || time.Now().After(late)
			return !stopped
		}})
		if stopped {
			return fmt.Errorf("%s, sheet %s: its %d steps and %d connectors take too long to lay out; spread them over several sheets", files[0], s.Name, len(s.Symbols), len(s.Connectors))
		}
		if edit == nil {
			continue
		}
		if _, err := diagram.Apply(m, edit); err != nil {
			return fmt.Errorf("%s, sheet %s: %w", files[0], s.Name, err)
		}
	}
	out, err := tracerjson.Write(m)
	if err != nil {
		return err
	}
	return os.WriteFile(files[1], out, 0o644)
}
