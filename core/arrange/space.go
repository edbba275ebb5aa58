package arrange

import (
	"plaintracer/core/geometry"
	"plaintracer/core/model"
	"plaintracer/core/symbols"
)

// Closable returns by how much the sheet can be closed up at a coordinate, so
// that nothing lands on anything: what lies beyond At moves back, what lies
// before it stays.
func Closable(s *model.Sheet, down bool, at int) int {
	if len(s.Pools) > 0 && s.Pools[0].Down {
		s, down = s.Turned(), !down
	}
	across := !down
	far := func(b geometry.Box) bool { return middle(b, across) >= at }
	least := model.MaxPlace
	for _, b := range s.Symbols {
		if !far(b.Box) || symbols.Of(b.Kind).Hollow {
			continue
		}
		for _, a := range s.Symbols {
			if !far(a.Box) && !symbols.Of(a.Kind).Hollow && overlap(a.Box, b.Box, !across) {
				least = min(least, begin(b.Box, across)-end(a.Box, across)-Grid)
			}
		}
	}
	for _, p := range s.Pools {
		b := p.Box()
		if begin(b, across) >= at || end(b, across) <= at {
			continue
		}
		lane := b
		if down {
			for i := range p.Lanes {
				if lb := p.LaneBox(i); lb.Y <= at {
					lane = lb
				}
			}
			least = min(least, lane.H-model.MinLane)
		} else {
			least = min(least, p.W-model.MinPool)
		}
		for _, sym := range s.Symbols {
			if lane.Contains(sym.Centre()) && !far(sym.Box) {
				least = min(least, end(lane, across)-end(sym.Box, across)-model.LanePad)
			}
			if lane.Contains(sym.Centre()) && far(sym.Box) {
				head := begin(lane, across) + model.LanePad
				if across {
					head = p.Content() + model.LanePad
				}
				least = min(least, begin(sym.Box, across)-head)
			}
		}
	}
	return max(least, 0)
}
