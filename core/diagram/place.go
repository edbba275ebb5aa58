package diagram

import (
	"errors"
	"fmt"
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
