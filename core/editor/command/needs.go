package command

import (
	"slices"

	"plaintracer/core/editor/desk"
	"plaintracer/core/model"
)

func needGroup(e *desk.Desk) string {
	for _, sym := range e.Chosen() {
		if sym.GroupWithin(e.Inside) != "" {
			return ""
		}
	}
	return "Select a group first."
}

// needOwned says why nothing selected can have an owner.
func needOwned(e *desk.Desk) string {
	for _, sym := range e.Chosen() {
		if !sym.Kind.IsAside() {
			return ""
		}
	}
	return "Select the steps to set their owner."
}

// needNoLanes says why owners cannot become lanes.
func needNoLanes(e *desk.Desk) string {
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
func needPool(e *desk.Desk) string {
	if len(e.Sheet().Pools) == 0 {
		return "The sheet has no lanes."
	}
	return ""
}

func needStage(e *desk.Desk) string {
	if p, _ := e.StageSelected(); p == nil {
		return "Select a stage by its name first."
	}
	return ""
}

func needStyled(e *desk.Desk) string {
	if len(e.Chosen()) == 0 && len(e.ChosenLines()) == 0 {
		return "Select a symbol or connector first."
	}
	return ""
}

func needLine(e *desk.Desk) string {
	if len(e.ChosenLines()) == 0 {
		return "Select a connector first."
	}
	return ""
}

func needSymbols(n int, text string) func(*desk.Desk) string {
	return func(e *desk.Desk) string {
		if len(e.Chosen()) < n {
			return text
		}
		return ""
	}
}

func needLane(e *desk.Desk) string {
	if p, _ := e.LaneSelected(); p == nil {
		return "Select a lane by its name first."
	}
	return ""
}

func needLaneHere(e *desk.Desk) string {
	if p, _ := e.LaneHere(); p == nil {
		return "Select a lane by its name, or a step in it."
	}
	return ""
}

func needOne(e *desk.Desk) string {
	if e.One() == nil {
		return desk.NeedStep
	}
	return ""
}

func needDecision(e *desk.Desk) string {
	id := ""
	if sym := e.One(); sym != nil {
		id = sym.ID
	} else if c := e.Connector(); c != nil {
		id = c.From.Symbol
	}
	if sym := e.Symbol(id); sym == nil || !sym.Kind.Asks() {
		return "Select a decision or one of its exits to swap the answers."
	}
	return ""
}

func needBranch(e *desk.Desk) string {
	if e.One() == nil {
		return desk.NeedStep
	}
	if e.Selecting.OpenDecision() == "" {
		return "No decision before this step has an unused answer."
	}
	return ""
}

func needAny(e *desk.Desk) string {
	if len(e.Sheet().Symbols) == 0 {
		return "There is nothing on this sheet yet."
	}
	return ""
}

func needInLane(e *desk.Desk) string {
	s := e.Sheet()
	for _, sym := range e.Chosen() {
		if s.LaneOf(sym) != nil {
			return ""
		}
	}
	return "Select a step that stands in a lane."
}

func needSearch(e *desk.Desk) string {
	if e.Search.Query == "" {
		return "Write what to find first."
	}
	return ""
}

func needDetail(e *desk.Desk) string {
	if sym := e.One(); sym == nil || sym.Detail == "" || !sym.Kind.IsStep() {
		return "Select a step that opens into a sheet."
	}
	return ""
}

func needStep(e *desk.Desk) string {
	if sym := e.One(); sym == nil || !sym.Kind.IsStep() {
		return "Select one step."
	}
	return ""
}

// needItem says with these words that exactly one symbol or connector has to be selected.
func needItem(words string) func(e *desk.Desk) string {
	return func(e *desk.Desk) string {
		if len(e.Sel) != 1 || e.Sheet().Symbol(e.Sel[0]) == nil && e.Sheet().Connector(e.Sel[0]) == nil {
			return words
		}
		return ""
	}
}

// needLinked is met by whatever can lead elsewhere.
func needLinked(e *desk.Desk) string {
	if pool, _ := e.LaneSelected(); pool != nil && len(e.Sel) == 0 {
		return ""
	}
	return needItem("Select one symbol, connector or lane.")(e)
}

func needReference(e *desk.Desk) string {
	if sym := e.One(); sym == nil || !sym.Kind.IsReference() {
		return "Select a reference first."
	}
	return ""
}
