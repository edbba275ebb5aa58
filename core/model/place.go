package model

import (
	"errors"
	"fmt"
	"strings"
)

// place is where a thing stands in a map. It is written out only where there is a fault to report.
type place struct {
	path, list string
	i          int
	of         string // what on the sheet at path it is, where its place in a list is not known
}

func (p place) String() string {
	switch {
	case p.of != "":
		return p.of + " of " + p.path
	case p.list != "":
		return fmt.Sprintf("%s.%s[%d]", p.path, p.list, p.i)
	}
	return p.path
}

// within completes the path of a fault that begins at a thing itself.
func within(at place, err error) error {
	var f *Fault
	if err != nil && errors.As(err, &f) {
		f.Path = at.String() + f.Path
	}
	return err
}

func checkID(at place, id string, used map[string]place) error {
	if !ValidID(id) {
		return broken(at.String()+".id", "%q is no id; use 1 to %d letters, digits, dots, dashes", id, maxID)
	}
	if other, taken := used[id]; taken {
		return broken(at.String()+".id", "the id %q is used already, by %s", id, other)
	}
	used[id] = at
	return nil
}

// cellMark parts the ids of a row and a stage where they name a cell of a journey.
const cellMark = ".."

// CellID names a cell of a journey by the ids of its row and its stage.
func CellID(row, stage string) string { return row + cellMark + stage }

// CellIDs returns the rows and stages that the name of a cell may mean: one pair, unless ids hold the mark between
// them.
func CellIDs(name string) (pairs [][2]string) {
	for at := 0; ; at++ {
		i := strings.Index(name[at:], cellMark)
		if i < 0 {
			return pairs
		}
		at += i
		if row, stage := name[:at], name[at+len(cellMark):]; ValidID(row) && ValidID(stage) {
			pairs = append(pairs, [2]string{row, stage})
		}
	}
}

// ValidID reports whether a text can be the id of a thing.
func ValidID(id string) bool {
	if id == "" || len(id) > maxID {
		return false
	}
	for _, r := range id {
		if (r < 'a' || r > 'z') && (r < 'A' || r > 'Z') && (r < '0' || r > '9') && r != '-' && r != '.' && r != '_' {
			return false
		}
	}
	return true
}
