package desk

import (
	"slices"
	"strings"

	"plaintracer/core/edit"
	"plaintracer/core/model"
	"plaintracer/core/trace"
)

// Keep keeps the case under way with the map, called by the answers it took where no name is given.
func (e *Cases) Keep(name string) {
	if len(e.Tracing) == 0 {
		e.Say("Trace a case first.")
		return
	}
	c := model.Case{ID: e.NewID(), Name: model.Flat(name)}
	for _, v := range e.Tracing {
		c.Way = append(c.Way, v.Symbol)
	}
	if len(c.Way) > model.MaxWay {
		e.Say("A case with more than %d steps cannot be kept.", model.MaxWay)
		return
	}
	if c.Name == "" {
		c.Name = e.answersOf(&c)
	}
	c.Name = model.Short(c.Name)
	if e.note(&edit.AddCase{Case: c}) {
		e.Say("The case “%s” is kept with the map.", c.Name)
	}
}

// note makes an edit that changes nothing of what is traced, while it is traced.
func (e *Cases) note(change edit.Edit) bool {
	way := e.Tracing
	e.Tracing = nil
	done := e.Do(change)
	e.Tracing = way
	return done
}

// answersOf names a case by the answers it took.
func (e *Cases) answersOf(c *model.Case) string {
	var parts []string
	story := trace.Tell(e.Flow(), nil, c)
	for _, s := range story.Steps {
		if s.Answer != "" {
			parts = append(parts, strings.TrimSpace(s.Text+" "+s.Answer))
		}
	}
	if len(parts) == 0 {
		return story.Steps[0].Text
	}
	return strings.Join(parts, ", ")
}

// Name calls a kept case something else: its id, a line break and the name.
func (e *Cases) Name(arg string) {
	id, name, _ := strings.Cut(arg, "\n")
	name = model.Short(model.Flat(name))
	if i := e.caseAt(id); i >= 0 && name != "" && e.M.Cases[i].Name != name {
		e.note(&edit.NameCase{ID: id, Name: name})
	}
}

// Remove takes a kept case away.
func (e *Cases) Remove(id string) {
	if i := e.caseAt(id); i >= 0 {
		name := e.M.Cases[i].Name
		if e.note(&edit.RemoveCase{ID: id}) {
			e.Say("The case “%s” is gone. Undo brings it back.", name)
		}
	}
}

// Walk traces a kept case again, from its beginning to its last step; back takes it step by step.
func (e *Cases) Walk(id string) {
	i := e.caseAt(id)
	if i < 0 {
		return
	}
	e.Cancel()
	e.Hand, e.Sel, e.Lane, e.Tracing = "", nil, "", nil
	for _, symbol := range e.M.Cases[i].Way {
		via := ""
		if n := len(e.Tracing); n > 0 {
			for _, x := range trace.Exits(e.Flow(), e.Tracing[n-1].Symbol) {
				if x.Target == symbol && via == "" {
					via = x.Via
				}
			}
		}
		if s := e.M.SheetOf(symbol); s != nil && s.Symbol(symbol) != nil {
			e.Tracing = append(e.Tracing, visit{symbol, via})
		}
	}
	if len(e.Tracing) > 0 {
		e.traceShow()
	}
}

// Told tells all kept cases.
func (e *Cases) Told() []*trace.Story {
	out := []*trace.Story{}
	for i := range e.M.Cases {
		out = append(out, trace.Tell(e.Flow(), e.Facts.Numbers, &e.M.Cases[i]))
	}
	return out
}

// Beside sets two kept cases side by side; nothing where one is not there.
func (e *Cases) Beside(a, b string) []trace.Pair {
	i, j := e.caseAt(a), e.caseAt(b)
	if i < 0 || j < 0 {
		return []trace.Pair{}
	}
	all := e.Told()
	return trace.Beside(all[i], all[j])
}

func (e *Cases) caseAt(id string) int {
	return slices.IndexFunc(e.M.Cases, func(c model.Case) bool { return c.ID == id })
}
