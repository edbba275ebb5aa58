package compose

import (
	"slices"

	"plaintracer/core/arrange"
	"plaintracer/core/edit"
	"plaintracer/core/flow"
	"plaintracer/core/model"
)

// Between is the room kept before and after a symbol that is put in between: that before a step that is added.
const Between = arrange.Gap

// IntoLine returns the edits that put a symbol into a connector: what led to
// its end leads to the symbol, and a new connector leads on from there.
func (w *Work) IntoLine(c *model.Connector, symbol string) []edit.Edit {
	to := model.End{Symbol: symbol}
	next := *c
	next.ID, next.From, next.To = w.NewID(), model.End{Symbol: symbol}, c.To
	next.Text, next.FromText, next.Place, next.FromPlace, next.Bends = "", "", model.Spot{}, model.Spot{}, nil
	next.FromMark = ""
	edits := []edit.Edit{
		&edit.SetEnds{Sheet: w.Sheet.ID, ID: c.ID, To: &to},
		&edit.AddItems{Sheet: w.Sheet.ID, Connectors: []model.Connector{next}},
	}
	if c.ToText != "" { // what stood at the end stays there
		edits = append(edits, &edit.SetText{Sheet: w.Sheet.ID, ID: c.ID, At: "to"})
	}
	return edits
}

// RemoveClosing returns the edits that delete a step and close the gap it leaves: what led to it leads to where it led,
// and what stands beyond moves into its place. There are none where the step has not exactly one way on.
func (w *Work) RemoveClosing(id string) []edit.Edit {
	edits := w.GapEdits(id)
	if len(edits) == 0 {
		return nil
	}
	s := w.Sheet
	gone := s.Symbol(id)
	var closing []edit.Edit
	for _, e := range edits {
		led := e.(*edit.SetEnds)
		c := s.Connector(led.ID)
		from, to := s.Symbol(c.From.Symbol), s.Symbol(led.To.Symbol)
		if from == nil || to == nil {
			continue
		}
		if closing = arrange.Close(s, gone, from, to); len(closing) > 0 {
			break
		}
	}
	edits = append(edits, &edit.RemoveItems{Sheet: s.ID, IDs: []string{id}})
	return append(edits, closing...)
}

// GapEdits returns the edits that join what led to a step to where it led. It needs exactly one way on.
func (w *Work) GapEdits(id string) []edit.Edit {
	s := w.Sheet
	var in, out []*model.Connector
	g := flow.New(w.Map)
	for _, c := range s.Connectors {
		switch {
		case besideFlow(g.Node(c.From.Symbol)): // what the step uses goes with it
		case c.From.Symbol == id:
			out = append(out, c)
		case c.To.Symbol == id:
			in = append(in, c)
		}
	}
	if len(out) > 1 { // and so does what it makes, where the flow goes on elsewhere
		out = slices.DeleteFunc(out, func(c *model.Connector) bool { return besideFlow(g.Node(c.To.Symbol)) })
	}
	if len(out) != 1 {
		return nil
	}
	next := out[0]
	if next.To.Loose() || len(in) == 0 {
		return nil
	}
	var edits []edit.Edit
	for _, c := range in {
		if c.From.Symbol != "" && c.From.Symbol == next.To.Symbol {
			continue // it would lead back to where it comes from
		}
		to := next.To
		edits = append(edits, &edit.SetEnds{Sheet: s.ID, ID: c.ID, To: &to})
	}
	return edits
}
