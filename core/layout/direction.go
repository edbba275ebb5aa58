package layout

import (
	"plaintracer/core/flow"
	"plaintracer/core/geometry"
	"plaintracer/core/model"
)

// heading is one way on of the flow of a sheet that does not lead back.
type heading struct {
	from, to string
	// main says that it is on the main path: from where the flow begins on by the first answers.
	main bool
}

// headings lists the ways on of a sheet that do not lead back.
func headings(m *model.Map, s *model.Sheet) (list []heading) {
	g := flow.New(m)
	main := map[*flow.Exit]bool{}
	for _, n := range g.Starts() {
		if n.Sheet != s {
			continue
		}
		for seen := map[*flow.Node]bool{}; n != nil && !seen[n]; {
			seen[n] = true
			ahead := n.Forward()
			n = nil
			if len(ahead) > 0 {
				main[ahead[0]], n = true, ahead[0].To
			}
		}
		break // what else begins joins it, or is aside
	}
	for _, n := range g.Nodes() {
		for _, x := range n.Exits {
			if n.Sheet == s && !onlyInforms(n) && !onlyInforms(x.To) && x.To.Sheet == s && x.Connector != nil &&
				!x.Back {
				list = append(list, heading{n.Symbol.ID, x.To.Symbol.ID, main[x]})
			}
		}
	}
	return list
}

// onlyInforms reports whether a node is only written or read, and stands on any side of its step.
func onlyInforms(n *flow.Node) bool {
	return n.Symbol.Kind.IsInformation() && (len(n.Exits) == 0 || len(n.Entries) == 0)
}

// against counts the ways on that lead against the reading direction; of the main path also those that lead across it,
// where no lanes do.
func against(s *model.Sheet, list []heading, down bool) (n int) {
	if len(s.Pools) > 0 {
		down = s.Pools[0].Down
	}
	at := make(map[string]geometry.Point, len(s.Symbols))
	for _, sym := range s.Symbols {
		at[sym.ID] = sym.Centre().Turned(down)
	}
	for _, h := range list {
		ahead := at[h.to].X - at[h.from].X
		if ahead < 0 || ahead == 0 && h.main && len(s.Pools) == 0 {
			n++
		}
	}
	return n
}
