package main

import (
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"time"

	"github.com/spf13/cobra"

	"plaintracer/core/model"
	"plaintracer/exchange/intake"
	"plaintracer/exchange/starts"
	"plaintracer/exchange/tracerjson"
)

// layingOut is the command that lays out all sheets of a map, or makes a map of a table of steps.
func layingOut() *cobra.Command {
	var direction string
	var deadline time.Duration
	c := &cobra.Command{Use: "layout IN OUT", Short: "Lay out all sheets of a map, or make a map of a table of steps",
		Args: cobra.ExactArgs(2),
		Long: "Lay out all sheets of a map, or make a map of a table of steps: CSV, or the first sheet of an XLSX file, " +
			"with the columns id, text, kind, lane, next; or a table of people or of a journey (docs/guide.md). A map of a table gets the smallest paper from A4 up that holds it.",
		Example: "  plaintracer layout steps.csv steps.tracer.json --direction down",
		RunE:    func(_ *cobra.Command, args []string) error { return layOut(args, direction, deadline) }}
	c.Flags().StringVar(&direction, "direction", "", "down or right")
	c.Flags().DurationVar(&deadline, "deadline", 0,
		"give up after so long, such as 30s; it takes as long as it takes without")
	return c
}

func layOut(files []string, direction string, deadline time.Duration) error {
	way := model.Direction(direction)
	if way != "" && way != model.Downwards && way != model.Rightwards {
		return fmt.Errorf("the direction is down or right, not %q", direction)
	}
	var m *model.Map
	var err error
	lay := starts.LayOut
	if ext := filepath.Ext(files[0]); strings.EqualFold(ext, ".csv") || strings.EqualFold(ext, ".xlsx") {
		data, err := os.ReadFile(files[0])
		if err != nil {
			return err
		}
		if way == "" {
			way = model.Rightwards
		}
		name := strings.TrimSuffix(filepath.Base(files[0]), filepath.Ext(files[0]))
		lay = starts.OnPaper
		if m, err = intake.ReadSteps(files[0], data, name, way); err != nil {
			return fmt.Errorf("%s: %w", files[0], err)
		}
	} else if m, err = readMap(files[0]); err != nil {
		return err
	}
	if way != "" && m.Sheets[0].Kind == model.FlowSheet {
		m.Direction = way
	}
	progress := newProgress(os.Stderr, deadline)
	err = lay(m, progress.tell)
	progress.end()
	if errors.Is(err, starts.ErrLong) {
		return fmt.Errorf("%s: not laid out within %s, which --deadline set", files[0], deadline)
	}
	if err != nil {
		return fmt.Errorf("%s: %w", files[0], err)
	}
	for _, s := range m.Sheets {
		if !s.Area().Holds(s.Drawn()) {
			fmt.Fprintf(os.Stderr, "%s: sheet %s is larger than its paper, %s\n", files[0], s.Name, s.Paper)
		}
	}
	out, err := tracerjson.Write(m)
	if err != nil {
		return err
	}
	return os.WriteFile(files[1], out, 0o644)
}

// progress shows on a terminal that a computation goes on that takes longer than a moment.
type progress struct {
	out             *os.File
	terminal, shown bool
	begun, told     time.Time
	deadline        time.Duration
}

func newProgress(out *os.File, deadline time.Duration) *progress {
	info, err := out.Stat()
	return &progress{out: out, terminal: err == nil && info.Mode()&os.ModeCharDevice != 0, begun: time.Now(),
		deadline: deadline}
}

// tell shows how long it has taken, and reports whether there is time left.
func (p *progress) tell(int, int) bool {
	now := time.Now()
	if p.terminal && now.Sub(p.begun) > time.Second && now.Sub(p.told) > time.Second/4 {
		p.told, p.shown = now, true
		fmt.Fprintf(p.out, "\rlaying out: %d s ", now.Sub(p.begun)/time.Second)
	}
	return p.deadline <= 0 || now.Sub(p.begun) <= p.deadline
}

// end takes what was shown away.
func (p *progress) end() {
	if p.shown {
		fmt.Fprint(p.out, "\r                    \r")
	}
}
