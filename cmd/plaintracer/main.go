// Command plaintracer is the application: a server on which workflows are
// mapped, and commands on map files that need no server.
package main

import (
	"cmp"
	"crypto/tls"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"log/slog"
	"net"
	"os"
	"os/signal"
	"strings"
	"syscall"
	"time"

	"github.com/gofiber/fiber/v3"
	"github.com/spf13/cobra"
	"github.com/spf13/pflag"

	"plaintracer/app/house"
	"plaintracer/core/flow"
	"plaintracer/core/geometry"
	"plaintracer/core/scene"
	"plaintracer/exchange/document"
	"plaintracer/exchange/gate"
	"plaintracer/exchange/typeface"
	"plaintracer/mail"
	"plaintracer/store"
	"plaintracer/web"
	"plaintracer/web/site"
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
		gate.Isolate(self)
	}
	if len(args) > 0 && args[0] == gate.Command { // of the program itself
		return gate.Main(args[1:], os.Stdin, out)
	}
	c := commands()
	c.SetArgs(args)
	c.SetOut(out)
	return c.Execute()
}

// commands are those of the program.
func commands() *cobra.Command {
	root := &cobra.Command{Use: "plaintracer", Short: "Plain Tracer maps workflows", Args: cobra.NoArgs,
		SilenceErrors: true, SilenceUsage: true,
		Long: "Plain Tracer maps workflows as flowcharts and swimlane diagrams.\n\n" +
			"People of the organisation sign in; others come by links, which can be served on an address of their " +
			"own\nthat knows nothing else.",
		RunE: func(c *cobra.Command, _ []string) error { return c.Help() },
		PersistentPreRunE: func(c *cobra.Command, _ []string) error {
			folders, err := fontFolders(c)
			if err == nil {
				_, err = typeface.From(folders...)
			}
			if err != nil {
				return fmt.Errorf("--fonts: %w", err)
			}
			return nil
		}}
	root.PersistentFlags().StringSlice("fonts", nil,
		"folders with the fonts of other scripts, with commas between; those of the machine where none is given")
	root.AddCommand(serving("demo", "Start the application, with the demo maps where there are none yet", true),
		serving("serve", "Start the application", false), exporting(), layingOut(), backingUp(), restoring(), people(),
		comparing(), registering(), verifying(),
		&cobra.Command{Use: "geometry MAP", Short: "Print where everything on a map is drawn, as JSON",
			Args: cobra.ExactArgs(1),
			RunE: func(c *cobra.Command, args []string) error { return printGeometry(args, c.OutOrStdout()) }})
	return root
}

// fontFolders are the folders that are given by the flag, or by the environment.
func fontFolders(c *cobra.Command) ([]string, error) {
	f := c.Flag("fonts")
	if text, ok := os.LookupEnv("PLAINTRACER_FONTS"); ok && !f.Changed && text != "" {
		if err := f.Value.Set(text); err != nil {
			return nil, err
		}
	}
	return c.Flags().GetStringSlice("fonts")
}

// service is how the application is served.
type service struct {
	listen, links, address, data, templates string
	tlsCert, tlsKey, logLevel, as           string
	behindProxy, demo, past                 bool
	proxies                                 []string
	fileRoom                                float64
	smtp                                    mail.Server
	directory                               site.Directory
}

// serving is a command that starts the application.
func serving(name, short string, demo bool) *cobra.Command {
	v := &service{demo: demo}
	c := &cobra.Command{Use: name, Short: short, Args: cobra.NoArgs,
		Long: short +
			".\n\nEvery flag can be given by the environment as well: --links as PLAINTRACER_LINKS, --tls-cert as PLAINTRACER_TLS_CERT.",
		Example: "  plaintracer " + name +
			" --data maps --listen 0.0.0.0:8443 --tls-cert site.crt --tls-key site.key --address https://maps.town.example:8443",
		RunE: func(c *cobra.Command, _ []string) error {
			if err := fromEnvironment(c); err != nil {
				return err
			}
			return v.run(c.OutOrStdout())
		}}
	f := c.Flags()
	noted, as := "info", ""
	if demo { // a person reads the terminal
		noted, as = "warn", demoPeople[0].Email
	}
	f.StringVar(&v.listen, "listen", "127.0.0.1:8080",
		"address to listen on; beyond this machine only with TLS, or behind a proxy")
	if demo {
		f.BoolVar(&v.past, "past", true, "let a map of the demo have a past: rounds of review, remarks, a conversation")
	}
	f.StringVar(&v.address, "address", "",
		"where people find the application, such as https://maps.town.example; messages and links begin with it")
	f.StringVar(&v.links, "links", "", "address on which links are served apart; empty for the same one")
	f.StringVar(&v.data, "data", "data", "folder that keeps the maps")
	f.StringVar(&v.templates, "templates", "", templatesHelp)
	f.Float64Var(&v.fileRoom, "file-room", 20,
		"how many gigabytes the files kept with all maps take together at most; 0 for no bound")
	f.StringVar(&v.tlsCert, "tls-cert", "", "certificate with which the application is served encrypted (PEM)")
	f.StringVar(&v.tlsKey, "tls-key", "", "its key (PEM)")
	f.StringVar(&v.logLevel, "log", noted, "what is noted on the standard error, as JSON: debug, info, warn, error")
	f.StringSliceVar(&v.proxies, "proxy", nil,
		"address or network of a proxy by which the application is reached, such as 10.1.0.5 or 10.1.0.0/24, with commas between several: it is believed to say who asks (X-Forwarded-For, X-Forwarded-Proto, X-Forwarded-Host)")
	f.BoolVar(&v.behindProxy, "behind-proxy", false, "the same as --proxy 127.0.0.1,::1: a proxy on this machine")
	f.StringVar(&v.as, "as", as,
		"on this machine only: take whoever is not signed in for the person with this address for mail")
	f.StringVar(&v.smtp.Address, "smtp", "", "server for mail, HOST:PORT; without it messages lie in the outbox")
	f.StringVar(&v.smtp.From, "smtp-from", "", "address that messages come from")
	f.StringVar(&v.smtp.Name, "smtp-name", "", "name to sign in to the server for mail with")
	f.StringVar(&v.smtp.Password, "smtp-password", "", "password for that; better given by the environment")
	f.BoolVar(&v.smtp.Plain, "smtp-plain", false, "the server for mail may be reached without TLS, on this machine")
	f.StringVar(&v.directory.Issuer, "openid-issuer", "",
		"address of the organisation's directory, to sign in with (OpenID Connect)")
	f.StringVar(&v.directory.Client, "openid-client", "", "how the directory knows this application")
	f.StringVar(&v.directory.Secret, "openid-secret", "",
		"the secret it shares with the directory; better given by the environment")
	f.BoolVar(&v.directory.Trusting, "openid-trusting", false,
		"the directory's addresses for mail are those of the people, also where it does not say whether it has verified them")
	c.MarkFlagsRequiredTogether("tls-cert", "tls-key")
	return c
}

// fromEnvironment sets the flags that were not given from the environment.
func fromEnvironment(c *cobra.Command) error {
	var err error
	c.Flags().VisitAll(func(f *pflag.Flag) {
		name := "PLAINTRACER_" + strings.ToUpper(strings.ReplaceAll(f.Name, "-", "_"))
		if text, ok := os.LookupEnv(name); ok && !f.Changed && err == nil {
			if fault := f.Value.Set(text); fault != nil {
				err = fmt.Errorf("%s: %w", name, fault)
			}
		}
	})
	return err
}

// check refuses settings that do not go together, or that would serve people unprotected.
func (v *service) check() error {
	local, err := loopback(v.listen)
	if err != nil {
		return err
	}
	switch {
	case !local && v.tlsCert == "" && len(v.proxies) == 0:
		return fmt.Errorf("%q can be reached by others, and what they write would go over the network in the open: give --tls-cert and --tls-key, or --proxy where a proxy does that", v.listen)
	case v.as != "" && (!local || len(v.proxies) > 0):
		return errors.New("--as takes everybody for one person, which is for this machine alone: listen on 127.0.0.1, without a proxy")
	case (v.smtp.Address == "") != (v.smtp.From == ""):
		return errors.New("--smtp and --smtp-from go together")
	case (v.directory.Issuer == "") != (v.directory.Client == ""):
		return errors.New("--openid-issuer and --openid-client go together")
	}
	return nil
}

func (v *service) run(out io.Writer) error {
	if v.behindProxy {
		v.proxies = append(v.proxies, "127.0.0.1", "::1")
	}
	if err := v.check(); err != nil {
		return err
	}
	proxies, err := site.ReadProxies(v.proxies)
	if err != nil {
		return fmt.Errorf("--proxy: %w", err)
	}
	var level slog.Level
	if err := level.UnmarshalText([]byte(v.logLevel)); err != nil {
		return fmt.Errorf("--log is debug, info, warn or error, not %q", v.logLevel)
	}
	slog.SetDefault(slog.New(slog.NewJSONHandler(os.Stderr, &slog.HandlerOptions{Level: level})))
	slog.SetLogLoggerLevel(slog.LevelWarn) // what is noted by way of log is worth it
	if v.templates != "" {
		if err := document.UseFolder(v.templates); err != nil {
			return err
		}
	}
	s, err := house.Open(v.data)
	if err != nil {
		return err
	}
	defer s.Close()
	if v.demo {
		if err := addDemo(s, v.past); err != nil {
			return err
		}
	}
	settings := site.Settings{Proxies: proxies, Demo: v.demo, FileRoom: int64(v.fileRoom * (1 << 30))}
	if v.as != "" {
		if settings.As, err = onlyPerson(s.Store, v.as); err != nil {
			return err
		}
	}
	if v.smtp.Address != "" {
		settings.Mail = &v.smtp
	}
	if v.directory.Issuer != "" {
		settings.Directory = &v.directory
	}
	wrap, scheme := func(ln net.Listener) net.Listener { return ln }, "http://"
	if v.tlsCert != "" {
		pair, err := tls.LoadX509KeyPair(v.tlsCert, v.tlsKey)
		if err != nil {
			return fmt.Errorf("the certificate cannot be used: %w", err)
		}
		scheme = "https://"
		wrap = func(ln net.Listener) net.Listener {
			return tls.NewListener(ln, &tls.Config{Certificates: []tls.Certificate{pair}, MinVersion: tls.VersionTLS12})
		}
	}
	editor, err := bind(v.listen)
	if err != nil {
		return err
	}
	settings.Address = strings.TrimSuffix(cmp.Or(v.address, scheme+reachable(editor.Addr().(*net.TCPAddr))), "/")
	local, _ := loopback(v.listen)
	settings.Local = local && len(proxies) == 0
	some, err := s.People.Any()
	if err != nil {
		return err
	}
	var links net.Listener
	if v.links != "" {
		local, err := loopback(v.links)
		if err != nil {
			return err
		}
		settings.LinksLocal = local && len(proxies) == 0
		if links, err = bind(v.links); err != nil {
			return err
		}
		settings.LinksURL = scheme + reachable(links.Addr().(*net.TCPAddr))
	}
	server, err := web.New(s, settings)
	if err != nil {
		return err
	}
	defer server.Close()
	failed := make(chan error, 2)
	var apps []*fiber.App
	start := func(app *fiber.App, ln net.Listener) {
		apps = append(apps, app)
		go func() { failed <- app.Listener(wrap(ln), fiber.ListenConfig{DisableStartupMessage: true}) }()
	}
	start(server.Editor(), editor)
	if links != nil {
		start(server.Links(), links)
	}
	s.Holder("Plain Tracer at " + scheme + editor.Addr().String())
	fmt.Fprintf(out, "Plain Tracer is at %s\n", cmp.Or(v.address, scheme+editor.Addr().String()))
	if !some {
		fmt.Fprintf(out, "Make its first owner at %s/first?key=%s\n", settings.Address, server.FirstKey)
	}
	if links != nil {
		fmt.Fprintf(out, "Links to maps begin with %s\n", settings.LinksURL)
	}
	stop := make(chan os.Signal, 1)
	signal.Notify(stop, os.Interrupt, syscall.SIGTERM)
	select {
	case err := <-failed:
		return err
	case got := <-stop:
		slog.Info("ending", "signal", got.String())
		for _, app := range apps { // what is being answered is answered; windows come back by themselves
			if err := app.ShutdownWithTimeout(endTime); err != nil {
				slog.Warn("ending before all was answered", "error", err)
			}
		}
		return nil
	}
}

// endTime is how long what is being answered may take when the program ends.
const endTime = 5 * time.Second

// backingUp and restoring are the commands that copy a data folder out and in.
func backingUp() *cobra.Command {
	var data string
	c := &cobra.Command{Use: "backup OUT", Short: "Copy all maps to a file, while the application runs or not",
		Args:    cobra.ExactArgs(1),
		Example: "  plaintracer backup /backups/maps-$(date +%F).db --data /var/lib/plaintracer",
		RunE:    func(c *cobra.Command, args []string) error { return store.Backup(c.Context(), data, args[0]) }}
	c.Flags().StringVar(&data, "data", "data", "folder that keeps the maps")
	return c
}

func restoring() *cobra.Command {
	var data string
	c := &cobra.Command{Use: "restore IN", Short: "Make a data folder of a backup", Args: cobra.ExactArgs(1),
		Long:    "Make a data folder of a backup. The folder must hold no maps yet: end the application, move the old folder aside, restore, and start again.",
		Example: "  plaintracer restore /backups/maps-2026-11-27.db --data /var/lib/plaintracer",
		RunE:    func(_ *cobra.Command, args []string) error { return store.Restore(args[0], data) }}
	c.Flags().StringVar(&data, "data", "data", "folder that will keep the maps")
	return c
}

// onlyPerson returns the id of the person with an address for mail. Where there is nobody yet, they become the first
// owner.
func onlyPerson(s *store.Store, email string) (string, error) {
	p, _, err := s.People.ByMail(email)
	if !errors.Is(err, store.ErrNotFound) {
		return p.ID, err
	}
	if s.ReadOnly() != "" {
		return "", errors.New(s.ReadOnly())
	}
	name, _, _ := strings.Cut(email, "@")
	id, err := s.People.AddFirst(store.NewPerson{Name: name, Email: email})
	if errors.Is(err, store.ErrTaken) {
		err = fmt.Errorf("nobody in the organisation has the address %s", email)
	}
	return id, err
}

// loopback reports whether an address can be reached from this machine only.
func loopback(address string) (bool, error) {
	host, _, err := net.SplitHostPort(address)
	if err != nil {
		return false, err
	}
	ip := net.ParseIP(host)
	return host == "localhost" || ip != nil && ip.IsLoopback(), nil
}

func bind(address string) (net.Listener, error) {
	ln, err := net.Listen("tcp", address)
	if errors.Is(err, syscall.EADDRINUSE) {
		return nil,
			fmt.Errorf("the address %s is taken by another program; choose another, such as PORT=8090 LINKS=127.0.0.1:8091 make demo", address)
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
		Number string `json:"number,omitempty"`
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
			one := symbolGeometry{ID: sym.ID, Kind: string(sym.Kind), Text: sym.Text, Number: facts.Numbers[sym.ID],
				boxGeometry: boxPixels(sym.Box)}
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
