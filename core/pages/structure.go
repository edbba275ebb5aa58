package pages

import "plaintracer/core/scene"

// Element is a part of what pages say, for programs that read them aloud or take them apart: what it is, and what it
// holds. Elements stand in the order in which they are read.
type Element struct {
	// Type is a standard structure type (ISO 32000-1, 14.8.4), such as H1, P, L or Table. Without one the element is
	// content of the one that it is in.
	Type string
	// Of is the id of the nodes, or of the view, that are its content; empty for none of its own.
	Of string
	// Alt tells in words what is seen, where that is no text. Title names the part.
	Alt, Title string
	// How says of a head of a table whether it is one of a Column or of a Row, and of a list how it counts: Decimal or
	// Disc (ISO 32000-1, 14.8.5).
	How  string
	Kids []Element
}

// Standard structure types.
const (
	Paragraph = "P"
	Part      = "Sect"
	List      = "L"
	ListItem  = "LI"
	Label     = "Lbl"
	ItemBody  = "LBody"
	Table     = "Table"
	Row       = "TR"
	Head      = "TH"
	Cell      = "TD"
	Figure    = "Figure"
	Caption   = "Caption"
	Leading   = "Link"
)

// Marks are the classes of nodes that are no part of what is read: the foot of a page, what helps to join pages, and
// the head of a table where it stands again.
const (
	FootClass   = "foot"
	marksClass  = "marks"
	RepeatClass = "again"
)

// Beside reports whether a node is no part of what is read.
func Beside(n *scene.Node) bool {
	return n.Class == FootClass || n.Class == marksClass || n.Class == RepeatClass
}
