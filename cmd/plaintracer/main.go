// Command plaintracer is the application: a server on which workflows are
// mapped, and commands on map files that need no server.
package main

import (
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"net"
	"os"
	"os/signal"
	"syscall"

	"github.com/gofiber/fiber/v3"
	"github.com/spf13/cobra"

	"plaintracer/core/diagram"
	"plaintracer/core/flow"
	"plaintracer/core/geometry"
	"plaintracer/core/scene"
	"plaintracer/exchange/document"
	"plaintracer/exchange/picturefile"
	"plaintracer/store"
	"plaintracer/web"
)

func main() {
	if err := run(os.Args[1:], os.Stdout); err != nil {
		fmt.Fprintln(os.Stderr, "plaintracer:", err)
		os.Exit(1)
	}
}

// run does what the arguments say, and writes what a command says to out.
func run(args []string, out io.Writer) error {
	if self, err := os.Executable(); err == nil {
		picturefile.Isolate(self)
	}
	if len(args) > 0 && args[0] == picturefile.Command { // of the program itself
		return picturefile.Main(args[1:], os.Stdin, out)
	}
	c := commands()
	c.SetArgs(args)
	c.SetOut(out)
	return c.Execute()
}

// commands are those of the program.
func commands() *cobra.Command {
	root := &cobra.Command{Use: "plaintracer", Short: "Plain Tracer maps workflows", Args: cobra.NoArgs, SilenceErrors: true, SilenceUsage: true,
		Long: "Plain Tracer maps workflows as flowcharts and swimlane diagrams.\n\nThe editor listens on this machine only. Links to read a map are served on a second address,\nwhich knows nothing else.",
		RunE: func(c *cobra.Command, _ []string) error { return c.Help() }}
	root.AddCommand(serving("demo", "Start the application, with the demo maps where there are none yet", true), serving("serve", "Start the application", false), exporting(), layingOut(),
		&cobra.Command{Use: "geometry MAP", Short: "Print where everything on a map is drawn, as JSON", Args: cobra.ExactArgs(1),
			RunE: func(c *cobra.Command, args []string) error { return printGeometry(args, c.OutOrStdout()) }})
	return root
}

// serving is a command that starts the application.
func serving(name, short string, demo bool) *cobra.Command {
	var listen, links, data, templates string
	c := &cobra.Command{Use: name, Short: short, Args: cobra.NoArgs,
		Example: "  plaintracer " + name + " --data maps --listen 127.0.0.1:8080 --links 192.168.1.20:8081",
		RunE: func(c *cobra.Command, _ []string) error {
			return serve(c.OutOrStdout(), listen, links, data, templates, demo)
		}}
	c.Flags().StringVar(&listen, "listen", "127.0.0.1:8080", "address of the editor, on this machine")
	c.Flags().StringVar(&links, "links", "", "address of the links to read, for colleagues; empty for none")
	c.Flags().StringVar(&data, "data", "data", "folder that keeps the maps")
	c.Flags().StringVar(&templates, "templates", "", "folder with the house's own words for procedures (words.tmpl)")
	return c
}

func serve(out io.Writer, listen, links, data, templates string, demo bool) error {
	if err := loopback(listen); err != nil {
		return err
	}
	if templates != "" {
		if err := document.UseFolder(templates); err != nil {
			return err
		}
	}
	s, err := store.Open(data)
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
	editor, err := bind(listen)
	if err != nil {
		return err
	}
	failed := make(chan error, 2)
	start := func(app *fiber.App, ln net.Listener) {
		go func() { failed <- app.Listener(ln, fiber.ListenConfig{DisableStartupMessage: true}) }()
	}
	if links != "" {
		ln, err := bind(links)
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
