// Package attack does to the application what no page of it would do: it sends edits, files
// and messages made up and mutated, drops connections without a word, kills the server and
// fills its disk, and then looks whether every map is still whole.
//
// "make attack" runs it at length; "make test" runs a part of it.
package attack

import (
	"flag"
	"fmt"
	"os"
	"testing"

	"plaintracer/e2e/program"
)

// How much is done; the defaults are for "make test".
var (
	editRounds  = flag.Int("rounds", 40, "rounds of 250 made-up edits each, in this process")
	firstSeed   = flag.Uint64("seed", 1, "the first seed of what is made up")
	dropRounds  = flag.Int("drops", 60, "rounds of dropped connections")
	wireEdits   = flag.Int("wire", 6000, "made-up edits over sockets")
	hardKills   = flag.Int("kills", 6, "hard kills of the server")
	harmedFiles = flag.Int("files", 60, "harmed files of every kind")
	long        = flag.Bool("long", false, "also what takes minutes")
	killEdits   = flag.Int("kept", 600, "acknowledged edits among the kills")
)

func TestMain(m *testing.M) {
	flag.Parse()
	os.Exit(program.Main(m, ".."))
}

func title(n int) string { return fmt.Sprint("Map ", n) }
