package model

import (
	"plaintracer/core/geometry"
)

// Heading is what a sheet says about the map beside its title and its own number.
// What is empty is not shown.
type Heading struct {
	Project string `json:"project,omitempty"`
	Process string `json:"process,omitempty"`
	Author  string `json:"author,omitempty"`
	Version string `json:"version,omitempty"`
	Date    string `json:"date,omitempty"`
	// Purpose says what the process is for, Scope where it begins and ends and what is left out. They do not
	// stand on sheets but in the procedure.
	Purpose string `json:"purpose,omitempty"`
	Scope   string `json:"scope,omitempty"`
}

// Field returns a field of the heading by its name, or nil.
func (h *Heading) Field(name string) *string {
	switch name {
	case "project":
		return &h.Project
	case "process":
		return &h.Process
	case "author":
		return &h.Author
	case "version":
		return &h.Version
	case "date":
		return &h.Date
	case "purpose":
		return &h.Purpose
	case "scope":
		return &h.Scope
	}
	return nil
}

// HeadingFields are the names of the fields, in the order in which they stand; HeadingTexts are those that hold
// paragraphs.
var (
	HeadingFields = []string{"project", "process", "author", "version", "date"}
	HeadingTexts  = []string{"purpose", "scope"}
)

// Sizes of the frame of a sheet and the strip with its heading.
const (
	FrameInset    = 12 * geometry.Px
	headingHeight = 44 * geometry.Px
)

// HeadingBox returns the strip with the heading, at the foot of the page inside
// its frame.
func (s *Sheet) HeadingBox() geometry.Box { return HeadingOn(s.Page()) }

// HeadingOn returns that strip on a page.
func HeadingOn(page geometry.Box) geometry.Box {
	b := page.Grown(-FrameInset)
	return geometry.Box{X: b.X, Y: b.Bottom() - headingHeight, W: b.W, H: headingHeight}
}

// Area returns the part of the page that the drawing may fill.
func (s *Sheet) Area() geometry.Box {
	b := s.Page()
	if s.Headed {
		b.H = s.HeadingBox().Y
	}
	return b
}
