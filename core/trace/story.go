package trace

import (
	"fmt"

	"plaintracer/core/flow"
	"plaintracer/core/model"
)

// Story is a kept case as the map tells it now.
type Story struct {
	ID   string `json:"id"`
	Name string `json:"name"`
	// Steps are those on its way that the map still has.
	Steps []Told `json:"steps"`
	// Sums and Handovers are those of the whole way.
	Sums      []Fact `json:"sums,omitempty"`
	Handovers int    `json:"handovers"`
	// Amounts are what the sums add up to, by the ids of fields and as fields hold it.
	Amounts map[string]string `json:"-"`
	// Fault says where the map has changed since, so that the case cannot go this way any more; empty where it can.
	Fault string `json:"fault,omitempty"`
}

// Told is a step on the way of a case, and the answer by which the case went on from there.
type Told struct {
	Symbol string `json:"symbol"`
	Number string `json:"number,omitempty"`
	Text   string `json:"text"`
	Who    string `json:"who,omitempty"`
	Answer string `json:"answer,omitempty"`
	Fields []Fact `json:"fields,omitempty"`
}

// Tell tells a kept case, with the numbers that are shown.
func Tell(g *flow.Graph, numbers map[string]string, c *model.Case) *Story {
	out := &Story{ID: c.ID, Name: c.Name, Steps: []Told{}}
	gone, astray := 0, ""
	for i, id := range c.Way {
		p := At(g, numbers, id)
		if p == nil {
			gone++
			continue
		}
		step := Told{Symbol: id, Number: p.Number, Text: model.Flat(p.Text), Who: p.Lane, Fields: p.Fields}
		if i+1 < len(c.Way) {
			leads := false
			for _, x := range p.Exits {
				if x.Target == c.Way[i+1] && !leads {
					leads, step.Answer = true, x.Answer
				}
			}
			if next := g.Node(c.Way[i+1]); !leads && next != nil && astray == "" {
				astray = fmt.Sprintf("“%s” does not lead to “%s” any more.", step.Text, model.Flat(Title(next.Symbol)))
			}
		}
		out.Steps = append(out.Steps, step)
	}
	switch {
	case gone == 1:
		out.Fault = "A step on its way is gone."
	case gone > 1:
		out.Fault = fmt.Sprintf("%d steps on its way are gone.", gone)
	default:
		out.Fault = astray
	}
	var sum Place
	out.Amounts = sum.Along(g, c.Way)
	out.Sums, out.Handovers = sum.Sums, sum.Handovers
	return out
}

// Pair is a row of two cases side by side: a step of both, or of one alone.
type Pair struct {
	A *Told `json:"a,omitempty"`
	B *Told `json:"b,omitempty"`
}

// Beside sets two cases side by side: what is common to both stands in one row, as much of it as can in the order of
// both (the longest common subsequence; Wagner and Fischer, 1974).
func Beside(a, b *Story) []Pair {
	n, m := len(a.Steps), len(b.Steps)
	long := make([][]int, n+1) // the length of what is common to the rest of both
	for i := range long {
		long[i] = make([]int, m+1)
	}
	for i := n - 1; i >= 0; i-- {
		for j := m - 1; j >= 0; j-- {
			if a.Steps[i].Symbol == b.Steps[j].Symbol {
				long[i][j] = long[i+1][j+1] + 1
			} else {
				long[i][j] = max(long[i+1][j], long[i][j+1])
			}
		}
	}
	out := []Pair{}
	for i, j := 0, 0; i < n || j < m; {
		switch {
		case i < n && j < m && a.Steps[i].Symbol == b.Steps[j].Symbol:
			out = append(out, Pair{&a.Steps[i], &b.Steps[j]})
			i, j = i+1, j+1
		case j == m || i < n && long[i+1][j] >= long[i][j+1]:
			out = append(out, Pair{A: &a.Steps[i]})
			i++
		default:
			out = append(out, Pair{B: &b.Steps[j]})
			j++
		}
	}
	return out
}
