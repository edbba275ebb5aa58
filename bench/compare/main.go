// Command compare draws made-up processes with Plain Tracer and with two
// general-purpose layout libraries, has all drawings judged by one program that
// knows nothing of who made them, and writes the table of docs/benchmarks.md.
package main

import (
	"bytes"
	"encoding/json"
	"flag"
	"fmt"
	"os"
	"os/exec"
	"runtime"
	"slices"
	"strings"
	"time"

	"plaintracer/bench/hands"
	"plaintracer/bench/processes"
	"plaintracer/bench/score"
	"plaintracer/core/edit"
	"plaintracer/core/geometry"
	"plaintracer/core/layout"
	"plaintracer/core/scene"
)

// The sizes of the processes, and how many of each are drawn.
var sizes = []int{20, 50, 100, 200, 500}

// drawn is a drawing with the time it took.
type drawn struct {
	Nodes [][4]float64
	Edges [][][2]float64
	Ms    float64
}

const own, inRows = "Plain Tracer", "Plain Tracer, in rows"

func main() {
	peers := flag.String("peers", "bench/peers",
		"folder of the program that runs the libraries; empty for our own drawings only")
	each := flag.Int("each", 10, "processes of each size")
	flag.Parse()
	if err := run(*peers, *each); err != nil {
		fmt.Fprintln(os.Stderr, "compare:", err)
		os.Exit(1)
	}
}

func run(peers string, each int) error {
	var graphs []*processes.Graph
	for _, n := range sizes {
		for seed := range each {
			graphs = append(graphs, processes.Make(uint64(seed), processes.Shape{Steps: n, Strays: 3}))
		}
	}
	drawings := map[string][]drawn{}
	names := []string{own, inRows}
	if peers != "" {
		names = append(names, "elkjs layered", "dagre")
		var err error
		if drawings, err = byPeers(peers, graphs); err != nil {
			return err
		}
	}
	for _, g := range graphs {
		drawings[own], drawings[inRows] = append(drawings[own], ours(g, true)), append(drawings[inRows], ours(g, false))
	}
	return report(graphs, names, drawings, each)
}

// ours draws a process, in one row or in the shape of its paper: places, courses, crossings, all that the page shows.
func ours(g *processes.Graph, long bool) drawn {
	var times []float64
	var d *scene.Drawing
	for range 5 {
		m := g.Map()
		for _, c := range m.Sheets[0].Connectors {
			c.Text = "" // the libraries are given none
		}
		begun := time.Now()
		plan := layout.Find(m, m.Sheets[0], layout.Options{Long: long})
		if _, err := edit.Apply(m, plan); err != nil {
			panic(err)
		}
		d = scene.Draw(m, m.Sheets[0])
		times = append(times, float64(time.Since(begun).Microseconds())/1000)
	}
	slices.Sort(times)
	out := drawn{Ms: times[len(times)/2]}
	const px = geometry.Px
	for _, sym := range d.Sheet.Symbols {
		out.Nodes = append(out.Nodes, [4]float64{float64(sym.X) / px, float64(sym.Y) / px, float64(sym.W) / px,
			float64(sym.H) / px})
	}
	for _, c := range d.Courses {
		var line [][2]float64
		for _, p := range c.Points {
			line = append(line, [2]float64{float64(p.X) / px, float64(p.Y) / px})
		}
		out.Edges = append(out.Edges, line)
	}
	return out
}

// byPeers has the libraries draw the graphs.
func byPeers(folder string, graphs []*processes.Graph) (map[string][]drawn, error) {
	type given struct {
		Nodes [][2]float64 `json:"nodes"`
		Edges [][2]int     `json:"edges"`
	}
	var all []given
	for _, g := range graphs {
		var one given
		for _, sym := range g.Map().Sheets[0].Symbols {
			one.Nodes = append(one.Nodes, [2]float64{float64(sym.W) / geometry.Px, float64(sym.H) / geometry.Px})
		}
		for _, e := range g.Edges {
			one.Edges = append(one.Edges, [2]int{e.From, e.To})
		}
		all = append(all, one)
	}
	in, err := json.Marshal(all)
	if err != nil {
		return nil, err
	}
	cmd := exec.Command("node", "draw.mjs")
	cmd.Dir, cmd.Stdin, cmd.Stderr = folder, bytes.NewReader(in), os.Stderr
	raw, err := cmd.Output()
	if err != nil {
		return nil, fmt.Errorf("node %s/draw.mjs: %w (npm install in that folder first)", folder, err)
	}
	out := map[string][]drawn{}
	return out, json.Unmarshal(raw, &out)
}

func judge(g *processes.Graph, d drawn) score.Score {
	var out score.Drawing
	for _, b := range d.Nodes {
		out.Nodes = append(out.Nodes, score.Box{X: b[0], Y: b[1], W: b[2], H: b[3]})
	}
	for i, e := range g.Edges {
		line := make([]score.Point, len(d.Edges[i]))
		for k, p := range d.Edges[i] {
			line[k] = p
		}
		out.Edges = append(out.Edges, score.Edge{From: e.From, To: e.To, Points: line})
	}
	return score.Of(out)
}

func report(graphs []*processes.Graph, names []string, drawings map[string][]drawn, each int) error {
	fmt.Printf(`# Drawings compared

Made-up processes (%s, seeds 0 to %d) drawn by Plain Tracer and by two general-purpose layout libraries from npm, all from left to right with 40 px between
steps and between layers, and without labels; by Plain Tracer in one row as well as in rows, as it lays out on A3, where more than 40 steps take the shape of the paper. %s judges all drawings by the same rules, from boxes and lines alone. This page is written by %s.

Medians of %d processes of each size; sums in the columns of what is never to happen. Crossings and bends of a slanting line count as those of an upright one. The time
is that of places and courses together: for Plain Tracer compiled to native code, for the libraries in Node after warming up, each the median of five runs on the same machine.

`, "`bench/processes`", each-1, "`bench/score`", "`make compare`", each)
	fmt.Println("| Steps | Edges | | Crossings | Bends | Through symbols | Overlaps | Shared | Length px | Area Mpx | Long to wide | Time ms |")
	fmt.Println("|---|---|---|---|---|---|---|---|---|---|---|---|")
	for k, n := range sizes {
		for _, name := range names {
			var crossings, bends, length, area, shape, ms, edges []float64
			hits, overlaps, shared := 0, 0, 0
			for i := k * each; i < (k+1)*each; i++ {
				s := judge(graphs[i], drawings[name][i])
				crossings, bends = append(crossings, float64(s.Crossings)), append(bends, float64(s.Bends))
				length, area = append(length, s.Length), append(area, s.Area/1e6)
				shape = append(shape, s.Width/s.Height)
				ms, edges = append(ms, drawings[name][i].Ms), append(edges, float64(len(graphs[i].Edges)))
				hits, overlaps, shared = hits+s.Hits, overlaps+s.Overlaps, shared+s.Shared
			}
			fmt.Printf("| %d | %.0f | %s | %.1f | %.1f | %d | %d | %d | %.0f | %.2f | %.1f | %.2f |\n", n,
				median(edges), name,
				median(crossings), median(bends), hits, overlaps, shared, median(length), median(area), median(shape),
				median(ms))
		}
	}
	byHand()
	fmt.Printf("\nOn %s/%s, %d processors, %s.\n", runtime.GOOS, runtime.GOARCH, runtime.NumCPU(), runtime.Version())
	return nil
}

// byHand compares with maps that were arranged by hand.
func byHand() {
	fmt.Print("\n# Beside hands\n\nThe maps of `bench/hands` as they were arranged by hand, and laid out from their bare flow: by hand / laid out.\n\n")
	fmt.Println("| Map | Lines | Bends | Straight | Crossings | Through symbols | Length px | Width px | Height px |")
	fmt.Println("|---|---|---|---|---|---|---|---|---|")
	row := func(name string, a, b hands.Numbers) {
		fmt.Printf("| %s | %d | %d / %d | %d / %d | %d / %d | %d / %d | %.0f / %.0f | %.0f / %.0f | %.0f / %.0f |\n",
			name, a.Lines, a.Bends, b.Bends, a.Straight, b.Straight,
			a.Crossings, b.Crossings, a.Hits, b.Hits, a.Length, b.Length, a.Width, b.Width, a.Height, b.Height)
	}
	var hand, laid hands.Numbers
	for _, h := range hands.All() {
		a, b := hands.Of(h.Map()), hands.Of(h.LaidOut())
		row(strings.ReplaceAll(h.Name, "-", " "), a, b)
		hand, laid = hand.Plus(a), laid.Plus(b)
	}
	row("**all**", hand, laid)
}

func median(list []float64) float64 {
	slices.Sort(list)
	return (list[(len(list)-1)/2] + list[len(list)/2]) / 2
}
