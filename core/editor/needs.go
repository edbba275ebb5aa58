package editor

import (
	"slices"

	"plaintracer/core/model"
)

func needGroup(e *Desk) string {
	for _, sym := range e.chosen() {
		if sym.GroupWithin(e.inside) != "" {
			return ""
		}
	}
	return "Select a group first."
}

// needOwned says why nothing selected can have an owner.
func needOwned(e *Desk) string {
	for _, sym := range e.chosen() {
		if !sym.Kind.IsAside() {
			return ""
		}
	}
	return "Select the steps to set their owner."
}

// needNoLanes says why owners cannot become lanes.
func needNoLanes(e *Desk) string {
	s := e.Sheet()
	if len(s.Pools) > 0 {
		return "The sheet has lanes already."
	}
	if !slices.ContainsFunc(s.Symbols, func(sym *model.Symbol) bool { return sym.Owner != "" }) {
		return "Give steps an owner first."
	}
	return ""
}

// needPool says why there are no lanes to work on.
func needPool(e *Desk) string {
	if len(e.Sheet().Pools) == 0 {
		return "The sheet has no lanes."
	}
	return ""
}

func needStage(e *Desk) string {
	if p, _ := e.stageSelected(); p == nil {
		return "Select a stage by its name first."
	}
	return ""
}

func needStyled(e *Desk) string {
	if len(e.chosen()) == 0 && len(e.lines()) == 0 {
		return "Select a symbol or connector first."
	}
	return ""
}

func needLine(e *Desk) string {
	if len(e.lines()) == 0 {
		return "Select a connector first."
	}
	return ""
}

func needSymbols(n int, text string) func(*Desk) string {
	return func(e *Desk) string {
		if len(e.chosen()) < n {
			return text
		}
		return ""
	}
}

func needLane(e *Desk) string {
	if p, _ := e.laneSelected(); p == nil {
		return "Select a lane by its name first."
	}
	return ""
}

func needOne(e *Desk) string {
	if e.one() == nil {
		return needStep
	}
	return ""
}

func needDecision(e *Desk) string {
	id := ""
	if sym := e.one(); sym != nil {
		id = sym.ID
	} else if c := e.connector(); c != nil {
		id = c.From.Symbol
	}
	if sym := e.symbol(id); sym == nil || !sym.Kind.Asks() {
		return "Select a decision or one of its exits to swap the answers."
	}
	return ""
}

func needBranch(e *Desk) string {
	if e.one() == nil {
		return needStep
	}
	if e.Selecting.openDecision() == "" {
		return "No decision before this step has an unused answer."
	}
	return ""
}

func needAny(e *Desk) string {
	if len(e.Sheet().Symbols) == 0 {
		return "There is nothing on this sheet yet."
	}
	return ""
}

func needInLane(e *Desk) string {
	s := e.Sheet()
	for _, sym := range e.chosen() {
		if s.LaneOf(sym) != nil {
			return ""
		}
	}
	return "Select a step that stands in a lane."
}

func needSearch(e *Desk) string {
	if e.search.query == "" {
		return "Write what to find first."
	}
	return ""
}

const (
	needStep  = "Select a symbol first."
	needFrom  = "Select the one step that the next one follows."
	needTwo   = "Select two or more symbols to line up."
	needThree = "Select three or more symbols to space out."
)
