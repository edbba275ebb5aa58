package main

import (
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"time"

	"github.com/spf13/cobra"

	"plaintracer/core/model"
	"plaintracer/core/steplist"
	"plaintracer/exchange/intake"
	"plaintracer/exchange/registerfile"
	"plaintracer/exchange/starts"
	"plaintracer/exchange/tracerjson"
)

// layingOut is the command that lays out all sheets of a map, or makes a map of a table of steps.
func layingOut() *cobra.Command {
	var direction string
	var deadline time.Duration
	var how listFlags
	c := &cobra.Command{Use: "layout IN OUT", Short: "Lay out all sheets of a map, or make a map of a table of steps",
		Args: cobra.ExactArgs(2),
		Long: "Lay out all sheets of a map, or make a map of a table of steps: CSV, or the first sheet of an XLSX or ODS file, " +
			"with the columns id, text, kind, lane, next, a register, or any other list of steps, whose columns are guessed; or a table of people or of a journey (docs/guide.md). A map of a table gets the smallest paper from A4 up that holds it.",
		Example: "  plaintracer layout steps.csv steps.tracer.json --direction down\n" +
			"  plaintracer layout list.csv list.tracer.json --columns number,text,who,next,field",
		RunE: func(_ *cobra.Command, args []string) error { return layOut(args, direction, deadline, &how) }}
	c.Flags().StringVar(&direction, "direction", "", "down or right")
	c.Flags().DurationVar(&deadline, "deadline", 0,
		"give up after so long, such as 30s; it takes as long as it takes without")
	var known, encodings []string
	for _, as := range steplist.As {
		if as.As != "" {
			known = append(known, as.As)
		}
	}
	for _, e := range registerfile.Encodings {
		encodings = append(encodings, e.Name)
	}
	c.Flags().StringSliceVar(&how.columns, "columns", nil,
		"what the columns of a list hold, with commas between: "+strings.Join(known, ", ")+", or nothing")
	c.Flags().IntVar(&how.titles, "titles", -1,
		"the row with the titles of a list, from 1; 0 for none; guessed where it is not given")
	c.Flags().StringVar(&how.blank, "blank", "", "what follows in a list where nothing is said: next, or end")
	c.Flags().StringVar(&how.encoding, "encoding", "", "how a table of text is written: "+strings.Join(encodings, ", "))
	return c
}

// listFlags say how a list of steps is read.
type listFlags struct {
	columns         []string
	titles          int
	blank, encoding string
}

// read reads a table, and tells how, where it was guessed.
func (f *listFlags) read(file, title string, data []byte, way model.Direction) (*model.Map, error) {
	asked := intake.Asked{Title: title, Direction: way, Encoding: f.encoding}
	out, err := intake.ReadTable(file, data, asked)
	if err != nil {
		return nil, err
	}
	if (len(f.columns) > 0 || f.titles >= 0 || f.blank != "") && out.Reading != nil {
		asked.Reading = &steplist.Reading{Titles: out.Reading.Titles, Columns: out.Reading.Columns,
			Blank: out.Reading.Blank,
			Ends:  out.Reading.Ends}
		if f.titles >= 0 {
			asked.Reading.Titles, asked.Reading.Columns = f.titles, nil
		}
		if len(f.columns) > 0 {
			asked.Reading.Columns = f.columns
		}
		switch blank := steplist.Blank(f.blank); blank {
		case "":
		case steplist.BlankNext, steplist.BlankEnd:
			asked.Reading.Blank = blank
		default:
			return nil, fmt.Errorf("after a step that says nothing comes next or end, not %q", f.blank)
		}
		if out, err = intake.ReadTable(file, data, asked); err != nil {
			return nil, err
		}
	}
	if out.Doubt != "" {
		fmt.Fprintf(os.Stderr, "%s: read as %s, in which a word is “%s”; --encoding says otherwise\n", file,
			out.Encoding, out.Doubt)
	}
	if out.Plan == nil {
		return out.Map, nil
	}
	if !out.Known {
		var list []string
		for _, c := range out.Plan.Columns {
			as := c.As
			if as == "" {
				as = "nothing"
			}
			list = append(list, c.Title+": "+as)
		}
		fmt.Fprintf(os.Stderr, "%s: the columns are %s; where nothing is said, %s\n", file, strings.Join(list, ", "),
			map[steplist.Blank]string{steplist.BlankNext: "the next line follows",
				steplist.BlankEnd: "the work ends"}[out.Reading.Blank])
	}
	for _, text := range slices.Concat(out.Plan.Notes, out.Plan.Wrong) {
		fmt.Fprintf(os.Stderr, "%s: %s\n", file, text)
	}
	if out.Map == nil {
		return nil, errors.New(strings.TrimSuffix(out.Plan.Refusal, "."))
	}
	return out.Map, nil
}

func layOut(files []string, direction string, deadline time.Duration, how *listFlags) error {
	way := model.Direction(direction)
	if way != "" && way != model.Downwards && way != model.Rightwards {
		return fmt.Errorf("the direction is down or right, not %q", direction)
	}
	var m *model.Map
	var err error
	lay := starts.LayOut
	if ext := strings.ToLower(filepath.Ext(files[0])); slices.Contains([]string{".csv", ".tsv", ".xlsx", ".ods"}, ext) {
		data, err := os.ReadFile(files[0])
		if err != nil {
			return err
		}
		if way == "" {
			way = model.Rightwards
		}
		name := strings.TrimSuffix(filepath.Base(files[0]), filepath.Ext(files[0]))
		lay = starts.OnPaper
		if m, err = how.read(files[0], name, data, way); err != nil {
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
