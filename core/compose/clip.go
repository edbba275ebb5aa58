package compose

import (
	"slices"
	"strconv"
	"strings"

	"plaintracer/core/edit"
	"plaintracer/core/geometry"
	"plaintracer/core/links"
	"plaintracer/core/model"
	"plaintracer/core/pictures"
)

// Clip is what copying puts on the clipboard.
type Clip struct {
	Format     string             `json:"format"`
	Symbols    []model.Symbol     `json:"symbols"`
	Connectors []model.Connector  `json:"connectors"`
	Pictures   []pictures.Picture `json:"pictures,omitempty"`
	// Files are those that links lead to.
	Files []model.File `json:"files,omitempty"`
	Pools []model.Pool `json:"pools,omitempty"`
	// Lanes are the names of the lanes that symbols stood in which do not come along, by symbol.
	Lanes map[string]string `json:"lanes,omitempty"`
	// Sheet is a whole sheet, which is pasted as one; Heading is that of its map.
	Sheet   *model.Sheet  `json:"sheet,omitempty"`
	Heading model.Heading `json:"heading,omitzero"`
}

// Keep takes a picture of the map along, once.
func (c *Clip) Keep(m *model.Map, id string) {
	p := m.Picture(id)
	if p != nil && !slices.ContainsFunc(c.Pictures, func(q pictures.Picture) bool { return q.ID == p.ID }) {
		c.Pictures = append(c.Pictures, *p)
	}
}

// Bring takes the files of the map along to which links lead, each once.
func (c *Clip) Bring(m *model.Map, list []model.Hyperlink) {
	for i := range list {
		f := links.File(m, &list[i])
		if f != nil && !slices.ContainsFunc(c.Files, func(g model.File) bool { return g.ID == f.ID }) {
			c.Files = append(c.Files, *f)
		}
	}
}

// ClipFormat marks the JSON form of a Clip.
const ClipFormat = "plain-tracer-clip-1"

// Unlisted takes the mark or number off a line of a list: "- Ask", "• Ask", "3. Ask", "b) Ask".
// A number that is part of the text ("3 days later", "2.5 km") stays.
func Unlisted(line string) string {
	mark, rest, ok := strings.Cut(line, " ")
	if !ok {
		return line
	}
	if slices.Contains([]string{"-", "–", "—", "*", "•", "◦", "▪", "·"}, mark) {
		return rest
	}
	mark = strings.TrimPrefix(mark, "(")
	number := strings.TrimRight(mark, ".)")
	if number == mark || len(number) > 3 || number == "" {
		return line
	}
	for _, part := range strings.Split(number, ".") {
		if _, err := strconv.Atoi(part); err != nil && (len(part) != 1 || part[0] < 'a' || part[0] > 'z') {
			return line
		}
	}
	return rest
}

// SetDown adds copies of what is on a clip, moved by d and within the group inside, and returns the ids of
// the symbols and pools among them; nil when there is nothing to add. Saved styles the map does not have
// are left out. A step that stood in a lane and comes to stand in none has the lane's name as its owner. Cards whose
// superior is not on the clip come under the card that the work names.
func (w *Work) SetDown(c Clip, d geometry.Point, inside, as string) (edit.Edit, []string) {
	ids, groups := map[string]string{}, map[string]string{}
	add := &edit.AddItems{Sheet: w.Sheet.ID, As: as, Pictures: c.Pictures, Files: c.Files}
	var chosen []string
	for i := range c.Pools { // the cells of journeys that come along
		for k := range c.Pools[i].Lanes {
			w.idFor(ids, c.Pools[i].Lanes[k].ID)
		}
		for k := range c.Pools[i].Stages {
			w.idFor(ids, c.Pools[i].Stages[k].ID)
		}
	}
	seat := w.seating(&c, ids)
	for _, sym := range c.Symbols {
		original := sym.ID
		seat(&sym)
		sym.ID, sym.Box, sym.Group = w.idFor(ids, sym.ID), sym.Moved(d), w.regroup(sym.Group, inside, groups)
		if w.Map.StyleNamed(sym.Style) == nil {
			sym.Style = ""
		}
		sym.Pinned = "" // no two have one number
		if w.Map.Sheet(sym.Detail) == nil || w.within(sym.Detail) {
			sym.Detail = "" // it would be told in a circle
		}
		if lane := c.Lanes[original]; lane != "" && w.Sheet.LaneOf(&sym) == nil {
			sym.Owner = lane
		}
		sym.Values = slices.DeleteFunc(slices.Clone(sym.Values),
			func(v model.Value) bool { return w.Map.Field(v.ID) == nil })
		add.Symbols = append(add.Symbols, sym)
		chosen = append(chosen, sym.ID)
	}
	for _, con := range c.Connectors {
		w.idFor(ids, con.ID)
	}
	for _, con := range c.Connectors {
		con.ID = ids[con.ID]
		if w.Map.StyleNamed(con.Style) == nil {
			con.Style = ""
		}
		move(&con, d)
		for _, end := range [...]*model.End{&con.From, &con.To} {
			end.Symbol, end.Connector = ids[end.Symbol], ids[end.Connector]
		}
		add.Connectors = append(add.Connectors, con)
	}
	for i := range add.Symbols {
		add.Symbols[i].Links = w.relinked(add.Symbols[i].Links, ids, c.Files)
	}
	for i := range add.Connectors {
		add.Connectors[i].Links = w.relinked(add.Connectors[i].Links, ids, c.Files)
	}
	for i := range add.Symbols { // what points at something copied points at the copy
		if tip := &add.Symbols[i].Tip; tip.On != "" && ids[tip.On] != "" {
			tip.On = ids[tip.On]
		} else if tip.On != "" && w.Sheet.Symbol(tip.On) == nil && w.Sheet.Connector(tip.On) == nil {
			*tip = model.Tip{}
		}
	}
	var heads []string
	for i := range add.Symbols {
		if sym := &add.Symbols[i]; w.Sheet.IsCell(sym) {
			continue
		} else if !w.Sheet.IsCard(sym) {
			sym.Seat = model.Seat{}
		} else if sym.Under = ids[sym.Under]; sym.Under == "" {
			heads = append(heads, sym.ID)
		}
	}
	copies := make([]*model.Symbol, len(add.Symbols))
	for i := range add.Symbols {
		copies[i] = &add.Symbols[i]
	}
	w.reletter(copies, func(id string) bool {
		return slices.ContainsFunc(add.Connectors, func(c model.Connector) bool { return c.From.Symbol == id })
	})
	var edits []edit.Edit
	for _, p := range c.Pools {
		p.ID, p.Locked, p.X, p.Y = w.NewID(), false, p.X+d.X, p.Y+d.Y
		p.Lanes, p.Stages = slices.Clone(p.Lanes), slices.Clone(p.Stages)
		for i := range p.Stages {
			p.Stages[i].ID = w.idFor(ids, p.Stages[i].ID)
		}
		for i := range p.Lanes {
			p.Lanes[i].ID, p.Lanes[i].Links = w.idFor(ids, p.Lanes[i].ID), w.relinked(p.Lanes[i].Links, ids, c.Files)
		}
		edits = append(edits, &edit.AddPool{Sheet: w.Sheet.ID, Pool: p})
		chosen = append(chosen, p.ID)
	}
	if len(add.Symbols) > 0 {
		edits = append(edits, add)
	}
	if len(heads) > 0 {
		under := w.Under
		if card := w.Sheet.Symbol(under); card != nil && ids[under] != "" { // its own copy comes beside it
			under = card.Under
		}
		edits = append(edits, &edit.HangCards{Sheet: w.Sheet.ID, IDs: heads, Under: under})
	}
	if len(edits) == 0 {
		return nil, nil
	}
	return edit.Together(as, edits...), chosen
}

// relinked returns links as copies have them: what leads to something copied leads to the copy, and what leads to
// nothing of the map, nor to a file that comes along, is left out.
func (w *Work) relinked(list []model.Hyperlink, ids map[string]string, files []model.File) []model.Hyperlink {
	comes := func(id string) bool { return slices.ContainsFunc(files, func(f model.File) bool { return f.ID == id }) }
	var out []model.Hyperlink
	for _, l := range list {
		if id, inside := links.Inside(&l); inside && ids[id] != "" {
			l.To = "#" + ids[id]
		} else if links.Gone(w.Map, &l) && !comes(id) {
			continue
		}
		out = append(out, l)
	}
	return out
}

// regroup returns the path of groups a copy has: new ones for those copied, within the group inside.
func (w *Work) regroup(path, inside string, groups map[string]string) string {
	if path == "" {
		return inside
	}
	out := inside
	for _, id := range strings.Split(path, "/") {
		out = strings.TrimPrefix(out+"/"+w.idFor(groups, id), "/")
	}
	return out
}

// idFor returns the id that a copy has in place of another: always the same one, and none for none.
func (w *Work) idFor(ids map[string]string, id string) string {
	if id != "" && ids[id] == "" {
		ids[id] = w.NewID()
	}
	return ids[id]
}

// Renewed returns a copy of a sheet in which everything has an id of its own, and no reference takes the place of
// another. Files are those that come with it.
func (w *Work) Renewed(s *model.Sheet, files []model.File) *model.Sheet {
	s = s.Clone()
	ids := map[string]string{}
	renew := func(id *string) { *id = w.idFor(ids, *id) }
	renew(&s.ID)
	for _, p := range s.Pools {
		renew(&p.ID)
		for i := range p.Lanes {
			renew(&p.Lanes[i].ID)
		}
		for i := range p.Stages {
			renew(&p.Stages[i].ID)
		}
	}
	for _, sym := range s.Symbols {
		renew(&sym.ID)
		renew(&sym.Under)
		renew(&sym.Row)
		renew(&sym.Stage)
		renew(&sym.Tip.On)
		groups := strings.Split(sym.Group, "/")
		for i := range groups {
			renew(&groups[i])
		}
		sym.Group = strings.Join(groups, "/")
	}
	for _, c := range s.Connectors {
		renew(&c.ID)
		for _, end := range [...]*model.End{&c.From, &c.To} {
			renew(&end.Symbol)
			renew(&end.Connector)
		}
	}
	for _, sym := range s.Symbols {
		sym.Links = w.relinked(sym.Links, ids, files)
	}
	for _, c := range s.Connectors {
		c.Links = w.relinked(c.Links, ids, files)
	}
	for _, p := range s.Pools {
		for i := range p.Lanes {
			p.Lanes[i].Links = w.relinked(p.Lanes[i].Links, ids, files)
		}
	}
	w.reletter(s.Symbols, s.LeadsOn)
	return s
}
