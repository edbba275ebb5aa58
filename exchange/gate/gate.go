// Package gate is where everything that comes from outside is read: files that people open, pictures and fonts that
// come into a map. Short ones can ask for endless work or memory of whatever reads them, so that they are read by a
// process of its own, one for each, that is ended when it takes too long or too much. At most as many run as there are
// processors.
//
// Readers are registered by a name. Do runs one: in a process of the program that Isolate names, or in this one where
// none is named, as in tests of other packages and in commands, where whoever asks is whoever waits.
package gate

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"os"
	"os/exec"
	"runtime"
	"strconv"
	"time"
)

// The bounds of reading one file: the time of a processor and by the clock, and the memory. Files above a size have
// more of them, in proportion.
const (
	usualSize = 20 << 20
	usualTime = 3 * time.Second
	memory    = 300 << 20
	// clockShare is how much longer it may take by the clock, on a busy machine.
	clockShare = 4
	// turnTime is how long it may wait for its turn.
	turnTime = 20 * time.Second
	// mostOut is how much may come out.
	mostOut = 128 << 20
)

// Refusal is what a reader says of a file that it does not take.
type Refusal struct{ Text string }

func (r *Refusal) Error() string { return r.Text }

// ErrTooMuch is returned for a file that takes too long or too much memory to read; ErrBusy where the wait for a turn
// was too long.
var (
	ErrTooMuch = errors.New("takes too long or too much memory to read. Make it simpler, or part it")
	ErrBusy    = errors.New("cannot be read just now: the server is busy with others. Try again in a moment")
)

// Reader reads data as its head says, and returns what it comes to. Whatever error it returns is a refusal.
type Reader func(head string, data []byte) ([]byte, error)

var readers = map[string]Reader{}

// Register makes a reader known by a name. It is called when packages start.
func Register(name string, r Reader) {
	if readers[name] != nil {
		panic("two readers are called " + name)
	}
	readers[name] = r
}

// Command is the name under which the program reads in a process of its own. Its arguments are the name of a reader and
// the bounds; a head and the data come by the standard input, what it comes to goes to the standard output.
const Command = "read-file"

var (
	program string
	turns   = make(chan struct{}, runtime.GOMAXPROCS(0))
)

// Isolate has files be read by a program that has Command.
func Isolate(path string) { program = path }

// Do reads data by a reader. The error is a *Refusal, ErrTooMuch or ErrBusy, or that of the context.
func Do(ctx context.Context, name, head string, data []byte) ([]byte, error) {
	r := readers[name]
	if r == nil {
		return nil, fmt.Errorf("there is no reader %q", name)
	}
	if program == "" {
		return call(r, head, data)
	}
	wait, stop := context.WithTimeout(ctx, turnTime)
	defer stop()
	select {
	case turns <- struct{}{}:
		defer func() { <-turns }()
	case <-wait.Done():
		if ctx.Err() != nil {
			return nil, ctx.Err()
		}
		return nil, ErrBusy
	}
	more := max(1, float64(len(data))/usualSize)
	bytesAllowed, seconds := uint64(memory*more), time.Duration(float64(usualTime)*more)
	clock, cancel := context.WithTimeout(ctx, clockShare*seconds)
	defer cancel()
	cmd := exec.CommandContext(clock, program, Command, name, strconv.FormatUint(bytesAllowed, 10), seconds.String())
	headJSON, err := json.Marshal(head)
	if err != nil {
		return nil, err
	}
	cmd.Stdin = io.MultiReader(bytes.NewReader(headJSON), bytes.NewReader([]byte("\n")), bytes.NewReader(data))
	cmd.Env = []string{"GOMAXPROCS=1", fmt.Sprintf("GOMEMLIMIT=%d", bytesAllowed*3/4), "TMPDIR=" + os.TempDir()}
	var out limited
	out.room = mostOut
	cmd.Stdout = &out
	err = cmd.Run()
	switch {
	case ctx.Err() != nil:
		return nil, ctx.Err()
	case err != nil || len(out.data) == 0 || out.cut:
		return nil, ErrTooMuch
	}
	return answer(out.data)
}

// call runs a reader, and turns whatever it fails with into a refusal.
func call(r Reader, head string, data []byte) (out []byte, err error) {
	defer func() {
		if fault := recover(); fault != nil { // a library met what it does not expect
			out, err = nil, &Refusal{"cannot be read: something in it is not as it should be"}
		}
	}()
	if out, err = r(head, data); err != nil {
		err = &Refusal{err.Error()}
	}
	return out, err
}

// An answer begins with whether it was read.
const (
	taken   = '+'
	refused = '-'
)

func answer(raw []byte) ([]byte, error) {
	switch raw[0] {
	case taken:
		return raw[1:], nil
	case refused:
		return nil, &Refusal{string(raw[1:])}
	}
	return nil, ErrTooMuch
}

// limited keeps what is written up to a bound.
type limited struct {
	data []byte
	room int
	cut  bool
}

func (l *limited) Write(p []byte) (int, error) {
	if len(l.data)+len(p) > l.room {
		l.cut = true
		return 0, errors.New("too much comes out")
	}
	l.data = append(l.data, p...)
	return len(p), nil
}

// Main is the process of its own.
func Main(args []string, in io.Reader, out io.Writer) error {
	if len(args) != 3 {
		return fmt.Errorf("%s takes the name of a reader, a number of bytes and a time", Command)
	}
	bytesAllowed, err := strconv.ParseUint(args[1], 10, 64)
	if err != nil {
		return err
	}
	seconds, err := time.ParseDuration(args[2])
	if err != nil {
		return err
	}
	if err := confine(bytesAllowed, seconds); err != nil {
		return err
	}
	r := readers[args[0]]
	if r == nil {
		return fmt.Errorf("there is no reader %q", args[0])
	}
	raw, err := io.ReadAll(in)
	if err != nil {
		return err
	}
	first, data, _ := bytes.Cut(raw, []byte("\n"))
	var head string
	if err := json.Unmarshal(first, &head); err != nil {
		return err
	}
	result, err := call(r, head, data)
	sign := []byte{taken}
	if err != nil {
		sign[0], result = refused, []byte(err.Error())
	}
	if _, err := out.Write(sign); err != nil {
		return err
	}
	_, err = out.Write(result)
	return err
}
