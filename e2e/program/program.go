// Package program builds the application and runs it for tests, as a process of its own.
package program

import (
	"bufio"
	"fmt"
	"io"
	"net/http"
	"net/url"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"slices"
	"strings"
	"testing"
	"time"

	"plaintracer/bench/scripts"
	"plaintracer/core/model"
	"plaintracer/exchange/tracerjson"
)

var path string

// Main builds the program with its browser core, runs the tests and removes it. It is for
// TestMain, with the root of the repository relative to the test.
func Main(m *testing.M, root string) int {
	dir, err := os.MkdirTemp("", "plaintracer")
	if err != nil {
		fmt.Fprintln(os.Stderr, err)
		return 1
	}
	defer os.RemoveAll(dir)
	path = filepath.Join(dir, "plaintracer")
	fonts, err := scripts.Folder() // whatever fonts the machine has
	if err != nil {
		fmt.Fprintln(os.Stderr, err)
		return 1
	}
	defer os.RemoveAll(fonts)
	os.Setenv("PLAINTRACER_FONTS", fonts)
	core := []string{"run", "./tools/browsercore"}
	if os.Getenv("CORE_NAMES") != "" { // for a profile of what runs in the browser
		core = append(core, "-names")
	}
	for _, args := range [][]string{core, {"build", "-o", path, "./cmd/plaintracer"}} {
		cmd := exec.Command("go", args...)
		cmd.Dir = root
		if out, err := cmd.CombinedOutput(); err != nil {
			fmt.Fprintf(os.Stderr, "go %v: %v\n%s", args, err, out)
			return 1
		}
	}
	return m.Run()
}

// Run runs a command of the program to its end.
func Run(args ...string) ([]byte, error) { return exec.Command(path, args...).CombinedOutput() }

// Server is the program, running.
type Server struct {
	testing.TB
	cmd *exec.Cmd
	// Data is its data folder.
	Data       string
	URL, Links string
	// First is where the first owner of a new house comes in, with its key; empty where there are people.
	First  string
	listen string
	more   []string
	gone   chan struct{}
	// SignIn has people sign in; otherwise everybody is the analyst of the demo.
	SignIn bool
	token  string
}

// Analyst is the address of the person whom the program takes everybody for.
const Analyst = "ida.brandt@town.example"

// Start starts the program with a new data folder. It ends with the test.
func Start(t testing.TB, command string) *Server {
	t.Helper()
	return StartAt(t, command, t.TempDir())
}

// StartWith starts the program on a data folder with more arguments.
func StartWith(t testing.TB, command, data string, more ...string) *Server {
	t.Helper()
	s := &Server{TB: t, Data: data, listen: "127.0.0.1:0", more: more}
	s.run(command)
	t.Cleanup(s.Kill)
	return s
}

// StartForPeople starts the program with a new data folder, for people who sign in.
func StartForPeople(t testing.TB) *Server {
	t.Helper()
	s := &Server{TB: t, Data: t.TempDir(), listen: "127.0.0.1:0", SignIn: true}
	s.run("serve")
	t.Cleanup(s.Kill)
	return s
}

// StartAt starts the program on a data folder.
func StartAt(t testing.TB, command, data string) *Server {
	t.Helper()
	return StartWith(t, command, data)
}

// run starts the program and reads its addresses. Links are served on another
// loopback address than the editor.
func (s *Server) run(command string) {
	s.Helper()
	args := []string{command, "--data", s.Data, "--listen", s.listen, "--links", "127.0.0.2:0", "--log", "warn"}
	if command == "serve" && !s.SignIn {
		args = append(args, "--as", Analyst)
	}
	if command == "demo" && !slices.Contains(s.more, "--past") {
		args = append(args, "--past=false") // remarks and held numbers are in the way of what most tests do
	}
	s.cmd = exec.Command(path, append(args, s.more...)...)
	s.cmd.Stderr = os.Stderr
	out, err := s.cmd.StdoutPipe()
	if err != nil {
		s.Fatal(err)
	}
	if err := s.cmd.Start(); err != nil {
		s.Fatal(err)
	}
	lines := bufio.NewScanner(out)
	for s.Links == "" || s.URL == "" {
		if !lines.Scan() {
			s.Fatal("the program ended before it gave its addresses")
		}
		if _, url, ok := strings.Cut(lines.Text(), "Plain Tracer is at "); ok {
			s.URL = url
		}
		if _, url, ok := strings.Cut(lines.Text(), "Make its first owner at "); ok {
			s.First = url
		}
		if _, url, ok := strings.Cut(lines.Text(), "begin with "); ok {
			s.Links = url
		}
	}
	s.gone = make(chan struct{})
	go func() {
		io.Copy(io.Discard, out)
		s.cmd.Wait()
		close(s.gone)
	}()
}

// Alive reports whether the program is still running.
func (s *Server) Alive() bool {
	select {
	case <-s.gone:
		return false
	default:
		return true
	}
}

// PID is the number of its process.
func (s *Server) PID() int { return s.cmd.Process.Pid }

// Kill ends the program at once, with no chance to tidy up.
func (s *Server) Kill() {
	if s.cmd.Process != nil && s.gone != nil {
		s.cmd.Process.Kill()
		<-s.gone
	}
}

// Stop ends the program as a person does who presses Ctrl C.
func (s *Server) Stop() {
	s.cmd.Process.Signal(os.Interrupt)
	<-s.gone
}

// Again starts the killed program at its old address.
func (s *Server) Again() {
	s.Helper()
	s.listen = strings.TrimPrefix(s.URL, "http://")
	s.URL, s.Links = "", ""
	s.run("serve")
}

var pageToken = regexp.MustCompile(`name="page-token" content="([0-9a-f]+)"`)

// Token is what a page of the program brings along in what it sends.
func (s *Server) Token() string {
	s.Helper()
	if s.token == "" {
		_, page := Get(s, s.URL+"/")
		m := pageToken.FindSubmatch(page)
		if m == nil {
			s.Fatalf("the first page has no token: %.300s", page)
		}
		s.token = string(m[1])
	}
	return s.token
}

// Do sends a request as a page of the program does. Where it leads on is not followed.
func (s *Server) Do(req *http.Request) (*http.Response, error) {
	req.Header.Set("X-Page-Token", s.Token())
	client := http.Client{Timeout: time.Minute, CheckRedirect: func(*http.Request, []*http.Request) error {
		return http.ErrUseLastResponse
	}}
	return client.Do(req)
}

// Post sends a form to an address of the program, as one of its pages does, and returns the status, the body, and where
// it leads on.
func (s *Server) Post(path string, form url.Values) (int, string, string) {
	s.Helper()
	req, err := http.NewRequest("POST", s.URL+path, strings.NewReader(form.Encode()))
	if err != nil {
		s.Fatal(err)
	}
	req.Header.Set("Content-Type", "application/x-www-form-urlencoded")
	r, err := s.Do(req)
	if err != nil {
		s.Fatal(err)
	}
	defer r.Body.Close()
	body, err := io.ReadAll(r.Body)
	if err != nil {
		s.Fatal(err)
	}
	return r.StatusCode, string(body), r.Header.Get("Location")
}

// Get returns the status and body of an address.
func Get(t testing.TB, url string) (int, []byte) {
	t.Helper()
	r, err := http.Get(url)
	if err != nil {
		t.Fatal(err)
	}
	defer r.Body.Close()
	body, err := io.ReadAll(r.Body)
	if err != nil {
		t.Fatal(err)
	}
	return r.StatusCode, body
}

// File returns the map at an address of the editor, as its file says.
func (s *Server) File(path string) *model.Map {
	s.Helper()
	code, body := Get(s, s.URL+path+"/export/map")
	m, err := tracerjson.Read(body)
	if code != 200 || err != nil {
		s.Fatalf("the file of %s: %d, %v: %.200s", path, code, err, body)
	}
	return m
}
