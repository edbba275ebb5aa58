package edit

import (
	"slices"
	"strings"

	"plaintracer/core/model"
)

func init() {
	register("setLinks", func(_ *model.Map, e *SetLinks) string { return "change the links" })
}

// SetLinks gives a symbol, connector or lane its links.
type SetLinks struct {
	Sheet string            `json:"sheet"`
	ID    string            `json:"id"`
	Links []model.Hyperlink `json:"links,omitempty"`
	// Files are those the links lead to, as far as the map may lack them.
	Files []model.File `json:"files,omitempty"`
}

// bring takes files into the map that it does not have yet.
func (t *transaction) bring(files []model.File) error {
	for _, f := range files {
		if err := fileList.add(t, len(t.m.Files), f); err != nil {
			return err
		}
	}
	return nil
}

// leads refuses new links to files that the map does not have.
func (t *transaction) leads(list []model.Hyperlink) error {
	for _, l := range list {
		if id := strings.TrimPrefix(l.To, "#"); model.IsFileID(id) && t.m.File(id) == nil {
			return model.Refuse(id, "the file it leads to is not kept with the map")
		}
	}
	return nil
}

func (e *SetLinks) change(t *transaction) error {
	s, err := t.sheet(e.Sheet)
	if err == nil {
		err = t.bring(e.Files)
	}
	if err == nil {
		err = t.leads(e.Links)
	}
	if err != nil {
		return err
	}
	if s.Connector(e.ID) != nil {
		c, err := t.editConnector(s, e.ID)
		if err == nil {
			c.Links = slices.Clone(e.Links)
		}
		return err
	}
	for _, p := range s.Pools {
		if i := p.LaneIndex(e.ID); i >= 0 {
			pool, err := t.editPool(s, p.ID)
			if err == nil {
				pool.Lanes[i].Links = slices.Clone(e.Links)
			}
			return err
		}
	}
	sym, err := t.editSymbol(s, e.ID)
	if err == nil {
		sym.Links = slices.Clone(e.Links)
	}
	return err
}
