// Command plaintracer is the application: a server on which workflows are
// mapped, and commands on map files that need no server.
package main

import (
	"context"
	"encoding/json"
	"errors"
	"flag"
	"fmt"
	"io"
	"net"
	"os"
	"os/signal"
	"syscall"

	"github.com/gofiber/fiber/v3"

	"plaintracer/core/diagram"
	"plaintracer/core/flow"
	"plaintracer/core/geometry"
	"plaintracer/core/scene"
	"plaintracer/exchange"
	"plaintracer/exchange/picturefile"
	"plaintracer/exchange/tracerjson"
	"plaintracer/store"
	"plaintracer/web"
)

const usage = `Plain Tracer maps workflows.

  plaintracer demo     [--listen 127.0.0.1:8080] [--links 127.0.0.1:8081] [--data FOLDER]
  plaintracer serve    the same, without the demo maps
  plaintracer export   MAP.tracer.json OUT.svg|OUT.png [--sheet N] [--scale N]
  plaintracer layout   IN.tracer.json|IN.csv OUT.tracer.json [--direction down|right]
  plaintracer geometry MAP.tracer.json

The editor listens on this machine only. Links to read a map are served on the
second address, which knows nothing else.
`

func main() {
	if err := run(os.Args[1:], os.Stdout); err != nil {
		fmt.Fprintln(os.Stderr, "plaintracer:", err)
		os.Exit(1)
	}
}

func run(args []string, out io.Writer) error {
	if len(args) == 0 {
		fmt.Fprint(out, usage)
		return nil
	}
	if self, err := os.Executable(); err == nil {
		picturefile.Isolate(self)
	}
	switch args[0] {
	case picturefile.Command: // of the program itself
		return picturefile.Main(args[1:], os.Stdin, out)
	case "demo":
		return serve(args[1:], out, true)
	case "serve":
		return serve(args[1:], out, false)
	case "export":
		return export(args[1:])
	case "layout":
		return layOut(args[1:])
	case "geometry":
		return printGeometry(args[1:], out)
	case "help", "-h", "--help":
		fmt.Fprint(out, usage)
		return nil
	}
	return fmt.Errorf("there is no command %q; plaintracer help lists them", args[0])
}

func serve(args []string, out io.Writer, demo bool) error {
	flags := flag.NewFlagSet("serve", flag.ContinueOnError)
	listen := flags.String("listen", "127.0.0.1:8080", "address of the editor, on this machine")
	links := flags.String("links", "", "address of the links to read, for colleagues; empty for none")
	data := flags.String("data", "data", "folder that keeps the maps")
	if err := flags.Parse(args); err != nil {
		return err
	}
	if err := loopback(*listen); err != nil {
		return err
	}
	s, err := store.Open(*data)
	if err != nil {
		return err
	}
	defer s.Close()
	if demo {
		if err := addDemo(s); err != nil {
			return err
		}
	}
	server, err := web.New(s)
	if err != nil {
		return err
	}
	editor, err := bind(*listen)
	if err != nil {
		return err
	}
	failed := make(chan error, 2)
	start := func(app *fiber.App, ln net.Listener) {
		go func() { failed <- app.Listener(ln, fiber.ListenConfig{DisableStartupMessage: true}) }()
	}
	if *links != "" {
		ln, err := bind(*links)
		if err != nil {
			return err
		}
		server.LinksURL = "http://" + reachable(ln.Addr().(*net.TCPAddr))
		start(server.Links(), ln)
	}
	start(server.Editor(), editor)
	s.Holder(fmt.Sprintf("Plain Tracer at http://%s", editor.Addr()))
	fmt.Fprintf(out, "Plain Tracer is at http://%s\n", editor.Addr())
	if server.LinksURL != "" {
		fmt.Fprintf(out, "Links to read a map begin with %s\n", server.LinksURL)
	}
	stop := make(chan os.Signal, 1)
	signal.Notify(stop, os.Interrupt, syscall.SIGTERM)
	select {
	case err := <-failed:
		return err
	case <-stop:
		return nil
	}
}

// loopback refuses an address that other machines could reach: whoever reaches
// the editor can change every map.
func loopback(address string) error {
	host, _, err := net.SplitHostPort(address)
	if err != nil {
		return err
	}
	if ip := net.ParseIP(host); host != "localhost" && (ip == nil || !ip.IsLoopback()) {
		return fmt.Errorf("the editor listens on this machine only, such as 127.0.0.1, not on %q; --links is for others", host)
	}
	return nil
}

func bind(address string) (net.Listener, error) {
	ln, err := net.Listen("tcp", address)
	if errors.Is(err, syscall.EADDRINUSE) {
		return nil, fmt.Errorf("the address %s is taken by another program; choose another, such as PORT=8090 LINKS=127.0.0.1:8091 make demo", address)
	}
	return ln, err
}

// reachable returns the address under which others find a listener: one that
// listens everywhere is found under this machine's own address.
func reachable(a *net.TCPAddr) string {
	if !a.IP.IsUnspecified() {
		return a.String()
	}
	addrs, _ := net.InterfaceAddrs()
	for _, addr := range addrs {
		if n, ok := addr.(*net.IPNet); ok && n.IP.To4() != nil && !n.IP.IsLoopback() {
			return net.JoinHostPort(n.IP.String(), fmt.Sprint(a.Port))
		}
	}
	return net.JoinHostPort("127.0.0.1", fmt.Sprint(a.Port))
}

// addDemo stores the demo maps in a data folder that has no maps yet.
func addDemo(s *store.Store) error {
	for _, binned := range []bool{false, true} {
		if _, all, err := s.List(binned, 0, 1); err != nil || all > 0 || s.ReadOnly() != "" {
			return err
		}
	}
	for _, m := range []*diagram.Map{cargoBike(), streetLight()} { // the latest comes first
		if _, err := s.Create(m); err != nil {
			return err
		}
	}
	return nil
}

// split takes the files of a command out of its arguments, so that options may
// stand before and after them.
func split(flags *flag.FlagSet, args []string) ([]string, error) {
	flags.SetOutput(io.Discard)
	var files []string
	for len(args) > 0 {
		if err := flags.Parse(args); err != nil {
			return nil, err
		}
		args = flags.Args()
		if len(args) > 0 {
			files, args = append(files, args[0]), args[1:]
		}
	}
	return files, nil
}

func readMap(name string) (*diagram.Map, error) {
	data, err := os.ReadFile(name)
	if err != nil {
		return nil, err
	}
	m, err := tracerjson.Read(data)
	if err != nil {
		return nil, fmt.Errorf("%s: %w", name, err)
	}
	return m, nil
}

func export(args []string) error {
	flags := flag.NewFlagSet("export", flag.ContinueOnError)
	sheet := flags.Int("sheet", 1, "number of the sheet")
	scale := flags.Float64("scale", 1, "enlargement")
	files, err := split(flags, args)
	if err != nil {
		return err
	}
	if len(files) != 2 {
		return errors.New("export takes a map and the file to write: plaintracer export MAP.tracer.json OUT.svg [--sheet N] [--scale N]")
	}
	format, err := exchange.Ending(files[1])
	if err != nil {
		return err
	}
	m, err := readMap(files[0])
	if err != nil {
		return err
	}
	if *sheet < 1 || *sheet > len(m.Sheets) {
		return fmt.Errorf("%s has %d sheets; there is no sheet %d", files[0], len(m.Sheets), *sheet)
	}
	if !(*scale > 0 && *scale <= 16) {
		return errors.New("the scale is a number above 0, up to 16")
	}
	var out []byte
	if format.Map != nil {
		out, err = format.Map(m)
	} else {
		d := scene.Draw(m, m.Sheets[*sheet-1])
		if missing := d.Missing(); len(missing) > 0 {
			fmt.Fprintf(os.Stderr, "plaintracer: the built-in typeface has no %s\n", scene.Named(missing))
		}
		out, err = format.Sheet(context.Background(), d, exchange.Options{Scale: *scale})
	}
	if err != nil {
		return err
	}
	return os.WriteFile(files[1], out, 0o644)
}

// The geometry of a map as it is drawn, in pixels.
type (
	sheetGeometry struct {
		ID         string              `json:"id"`
		Name       string              `json:"name"`
		W          float64             `json:"w"`
		H          float64             `json:"h"`
		Symbols    []symbolGeometry    `json:"symbols"`
		Connectors []connectorGeometry `json:"connectors"`
		Lanes      []laneGeometry      `json:"lanes"`
	}
	boxGeometry struct {
		X float64 `json:"x"`
		Y float64 `json:"y"`
		W float64 `json:"w"`
		H float64 `json:"h"`
	}
	symbolGeometry struct {
		ID     string `json:"id"`
		Kind   string `json:"kind"`
		Text   string `json:"text"`
		Number int    `json:"number,omitempty"`
		Lane   string `json:"lane,omitempty"`
		boxGeometry
	}
	connectorGeometry struct {
		ID     string         `json:"id"`
		From   string         `json:"from"`
		To     string         `json:"to"`
		Points [][2]float64   `json:"points"`
		Label  *labelGeometry `json:"label,omitempty"`
	}
	labelGeometry struct {
		Text string `json:"text"`
		boxGeometry
	}
	laneGeometry struct {
		ID   string `json:"id"`
		Name string `json:"name"`
		boxGeometry
	}
)

func pixels(n int) float64 { return float64(n) / geometry.Px }

func boxPixels(b geometry.Box) boxGeometry {
	return boxGeometry{pixels(b.X), pixels(b.Y), pixels(b.W), pixels(b.H)}
}

func printGeometry(args []string, out io.Writer) error {
	if len(args) != 1 {
		return errors.New("geometry takes one map: plaintracer geometry MAP.tracer.json")
	}
	m, err := readMap(args[0])
	if err != nil {
		return err
	}
	facts := scene.Know(m)
	sheets := []sheetGeometry{}
	for _, s := range m.Sheets {
		d := scene.DrawKnowing(m, s, facts)
		g := sheetGeometry{ID: s.ID, Name: s.Name, W: pixels(d.Page.W), H: pixels(d.Page.H),
			Symbols: []symbolGeometry{}, Connectors: []connectorGeometry{}, Lanes: []laneGeometry{}}
		for _, sym := range s.Symbols {
			one := symbolGeometry{ID: sym.ID, Kind: string(sym.Kind), Text: sym.Text, Number: facts.Numbers[sym.ID], boxGeometry: boxPixels(sym.Box)}
			if lane := s.LaneOf(sym); lane != nil {
				one.Lane = lane.ID
			}
			g.Symbols = append(g.Symbols, one)
		}
		links := flow.Links(s)
		for i, c := range s.Connectors {
			one := connectorGeometry{ID: c.ID}
			if links[i].From != nil {
				one.From = links[i].From.ID
			}
			if links[i].To != nil {
				one.To = links[i].To.ID
			}
			for _, p := range d.Courses[i].Points {
				one.Points = append(one.Points, [2]float64{pixels(p.X), pixels(p.Y)})
			}
			if c.Text != "" {
				one.Label = &labelGeometry{c.Text, boxPixels(d.Courses[i].Labels[0])}
			}
			g.Connectors = append(g.Connectors, one)
		}
		for _, p := range s.Pools {
			for i, l := range p.Lanes {
				g.Lanes = append(g.Lanes, laneGeometry{l.ID, l.Name, boxPixels(p.LaneBox(i))})
			}
		}
		sheets = append(sheets, g)
	}
	enc := json.NewEncoder(out)
	enc.SetEscapeHTML(false)
	return enc.Encode(map[string]any{"sheets": sheets})
}
