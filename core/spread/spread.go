// Package spread takes a flow over several sheets and brings it back: symbols go to a sheet behind, set up like the
// one they come from, and every connector that then leads over goes by a pair of references.
package spread

import (
	"fmt"
	"slices"
	"strconv"
	"strings"

	"plaintracer/core/edit"
	"plaintracer/core/flow"
	"plaintracer/core/geometry"
	"plaintracer/core/model"
	"plaintracer/core/symbols"
)

// Like returns a sheet without symbols that is set up as s is: paper, choices, lanes with their names, and stages,
// under ids of its own.
func Like(s *model.Sheet, name string, newID func() string) *model.Sheet {
	next := &model.Sheet{SheetHead: s.SheetHead, Pools: []*model.Pool{}, Symbols: []*model.Symbol{},
		Connectors: []*model.Connector{}}
	next.ID, next.Name = newID(), name
	for _, p := range s.Clone().Pools {
		p.ID, p.Locked = newID(), false
		for i := range p.Lanes {
			p.Lanes[i].ID = newID()
		}
		for i := range p.Stages {
			p.Stages[i].ID = newID()
		}
		next.Pools = append(next.Pools, p)
	}
	return next
}

// Continued names the sheet on which another goes on.
func Continued(name string) string {
	const more = ", continued"
	i := strings.LastIndex(name, more)
	if i < 0 {
		return model.Short(name + more)
	}
	n := 1
	if rest := strings.TrimPrefix(name[i+len(more):], " "); rest != "" {
		var err error
		if n, err = strconv.Atoi(rest); err != nil {
			return model.Short(name + more)
		}
	}
	return model.Short(fmt.Sprintf("%s%s %d", name[:i], more, n+1))
}

// Letters are the letters that references carry.
type Letters map[string]bool

// LettersOf returns those of a map.
func LettersOf(m *model.Map) Letters {
	used := Letters{}
	for _, s := range m.Sheets {
		for _, sym := range s.Symbols {
			if sym.Kind.IsReference() {
				used[sym.Text] = true
			}
		}
	}
	return used
}

// Next returns the first letter, or letters, that no reference carries, which it then does: A to Z, AA, AB.
func (l Letters) Next() string {
	for n := 0; ; n++ {
		text := ""
		for k := n; ; k = k/26 - 1 {
			text = string(rune('A'+k%26)) + text
			if k < 26 {
				break
			}
		}
		if !l[text] {
			l[text] = true
			return text
		}
	}
}

// Reference returns a sheet reference that stands around a place.
func Reference(id, letter string, at geometry.Point) model.Symbol {
	def := symbols.Of(model.SheetReference)
	return model.Symbol{ID: id, Kind: model.SheetReference, Text: letter, Box: geometry.Around(at, def.W, def.H)}
}

// Half is one of a pair of references that are to stand somewhere: at the end of what leads over, or where it arrives.
type Half struct {
	// Arrives says that the flow comes out of this half.
	Arrives bool
	// Next says that it stands on the sheet behind.
	Next bool
	// From and To are the symbols between which the flow leads over.
	From, To *model.Symbol
}

// Taken are the edits that take symbols away from a sheet, and set down the references that stand there for them.
type Taken struct {
	Remove *edit.RemoveItems
	Add    *edit.AddItems
}

// Take moves the symbols of s that are in gone to next, with the connectors among them, and leads all others between
// the two sheets over by pairs of references, one pair for each symbol that is led to. At says where a half of a pair
// stands. What it moves keeps its ids and places; s is left as it is.
func Take(m *model.Map, s, next *model.Sheet, gone map[string]bool, newID func() string,
	at func(Half) geometry.Point) Taken {
	remove, add := &edit.RemoveItems{Sheet: s.ID}, &edit.AddItems{Sheet: s.ID}
	for _, sym := range s.Clone().Symbols {
		if gone[sym.ID] {
			remove.IDs = append(remove.IDs, sym.ID)
			next.Symbols = append(next.Symbols, sym)
		}
	}
	letters, links := LettersOf(m), flow.Links(s)
	set := func(there bool, sym *model.Symbol, con *model.Connector) {
		switch {
		case there:
			if next.Connectors = append(next.Connectors, con); sym != nil {
				next.Symbols = append(next.Symbols, sym)
			}
		default:
			if add.Connectors = append(add.Connectors, *con); sym != nil {
				add.Symbols = append(add.Symbols, *sym)
			}
		}
	}
	arrival := map[string]string{} // by what is led to: the half that leads there, on the sheet where it starts
	for i, con := range s.Clone().Connectors {
		from, to := links[i].From, links[i].To
		if from == nil || to == nil || !gone[from.ID] && !gone[to.ID] {
			continue
		}
		if gone[from.ID] && gone[to.ID] {
			if con.From.Connector+con.To.Connector != "" { // what it joins may stay behind
				con.From, con.To = model.End{Symbol: from.ID}, model.End{Symbol: to.ID}
			}
			next.Connectors = append(next.Connectors, con)
			continue
		}
		if from.Kind.IsAside() || to.Kind.IsAside() {
			continue // a note by what went away: no flow leads over
		}
		con.From, con.To, con.Bends = model.End{Symbol: from.ID}, model.End{Symbol: to.ID}, nil
		if !gone[from.ID] {
			con.ID = newID() // the one it was goes with what it led to
		}
		half, there := arrival[to.ID], gone[from.ID]
		if half != "" {
			con.To.Symbol = half
			set(there, nil, con)
			continue
		}
		letter := letters.Next()
		leave := Reference(newID(), letter, at(Half{Next: there, From: from, To: to}))
		arrive := Reference(newID(), letter, at(Half{Arrives: true, Next: !there, From: from, To: to}))
		arrival[to.ID], con.To.Symbol = leave.ID, leave.ID
		set(there, &leave, con)
		set(!there, &arrive,
			&model.Connector{ID: newID(), From: model.End{Symbol: arrive.ID}, To: model.End{Symbol: to.ID}})
	}
	return Taken{remove, add}
}

// SameLanes reports whether two sheets have lanes of the same names, in the same order and direction, or both none.
func SameLanes(a, b *model.Sheet) bool {
	return slices.EqualFunc(a.Pools, b.Pools, func(p, q *model.Pool) bool {
		return p.Down == q.Down && slices.EqualFunc(p.Lanes, q.Lanes,
			func(l, k model.Lane) bool { return l.Name == k.Name })
	})
}
