// Package attack does to the application what no page of it would do: it sends edits, files
// and messages made up and mutated, drops connections without a word, kills the server and
// fills its disk, and then looks whether every map is still whole.
//
// "make attack" runs it at length; "make test" runs a part of it.
package attack

import "flag"

var (
	editRounds = flag.Int("rounds", 60, "rounds of 250 made-up edits each")
	firstSeed  = flag.Uint64("seed", 1, "the first seed of the made-up edits")
)
