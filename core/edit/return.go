package edit

import (
	"slices"

	"plaintracer/core/model"
)

func init() {
	register("return", func(_ *model.Map, e *Return) string {
		if e.Of == "" {
			return "return to an earlier state"
		}
		return e.Of
	})
}

// Return brings a map back to an earlier state of it. What others change meanwhile stays, and is named.
type Return struct {
	// Of says to what it returns, in words.
	Of string `json:"of"`
	// Changes are those that lead from the state that is returned to to the map as it was found, as if one edit had
	// made them.
	Changes []Change `json:"changes"`
	// Orders are the symbols of each sheet in their drawing order, and under no name the sheets.
	Orders map[string][]string `json:"orders,omitempty"`
}

func (e *Return) change(t *transaction) error {
	if t.depth > 0 || len(t.log) > 0 {
		return model.Refuse("", "returning to an earlier state goes alone, not together with other changes")
	}
	if err := (&Revert{Changes: e.Changes}).change(t); err != nil {
		return err
	}
	if order := e.Orders[""]; permutes(order, model.IDsOf(t.m.Sheets)) {
		orderOf.set(t, nil, order)
	}
	for _, s := range t.m.Sheets {
		if order := e.Orders[s.ID]; s.ID != "" && permutes(order, model.IDsOf(s.Symbols)) {
			orderOf.set(t, s, order)
		}
	}
	return nil
}

// permutes reports whether one list of ids is another one in another order.
func permutes(order, of []string) bool {
	return !slices.Equal(order, of) && slices.Equal(sorted(order), sorted(of))
}

// ReturnTo returns the edit that brings a map back to an earlier state.
func ReturnTo(now, then *model.Map, of string) *Return {
	e := &Return{Of: of, Orders: map[string][]string{"": model.IDsOf(then.Sheets)}}
	// Taken back from the last to the first: attachments and heads, sheets, lanes, symbols, connectors; what is to go
	// after what hangs on it.
	var gone []Change
	for _, s := range now.Sheets {
		if then.Sheet(s.ID) == nil {
			gone = append(gone, Change{ID: s.ID, At: slices.Index(model.IDsOf(now.Sheets), s.ID), of: sheetList,
				after: s.Clone()})
		}
	}
	e.Changes = gone
	for _, was := range then.Sheets {
		s := now.Sheet(was.ID)
		if s == nil {
			continue
		}
		e.Orders[s.ID] = model.IDsOf(was.Symbols)
		e.Changes = append(e.Changes, removed(symbolList, s, was)...)
		e.Changes = append(e.Changes, removed(poolList, s, was)...)
		e.Changes = append(e.Changes, removed(connectorList, s, was)...)
		e.Changes = append(e.Changes, kept(connectorList, s, was)...)
		e.Changes = append(e.Changes, kept(symbolList, s, was)...)
		e.Changes = append(e.Changes, kept(poolList, s, was)...)
		if !was.SheetHead.Equal(&s.SheetHead) {
			before, after := was.SheetHead, s.SheetHead
			e.Changes = append(e.Changes, Change{ID: s.ID, Sheet: s.ID, of: sheetHead, before: &before, after: &after})
		}
	}
	for i, was := range then.Sheets {
		if now.Sheet(was.ID) == nil {
			e.Changes = append(e.Changes, Change{ID: was.ID, At: i, of: sheetList, before: was.Clone()})
		}
	}
	if !then.Head.Equal(&now.Head) {
		e.Changes = append(e.Changes, Change{of: mapHead, before: mapHead.clone(&then.Head),
			after: mapHead.clone(&now.Head)})
	}
	e.Changes = append(e.Changes, missing(pictureList, now, then)...)
	e.Changes = append(e.Changes, missing(fileList, now, then)...)
	e.Changes = append(e.Changes, missing(fontList, now, then)...)
	return e
}

// removed are the records of a list that are on a sheet now and were not.
func removed[T any, P item[T]](l *itemList[T, P], now, was *model.Sheet) (list []Change) {
	for i, v := range *l.list(now) {
		if model.Find(*l.list(was), v.Key()) == nil {
			list = append(list, Change{ID: v.Key(), Sheet: now.ID, At: i, of: l, after: (*T)(l.plain(now, v))})
		}
	}
	return list
}

// kept are the records of a list that were otherwise on a sheet, or are not there any more. These stand at the end, the
// last first, so that they are brought back before others refer to them.
func kept[T any, P item[T]](l *itemList[T, P], now, was *model.Sheet) []Change {
	var changed, gone []Change
	for i, v := range *l.list(was) {
		c := Change{ID: v.Key(), Sheet: now.ID, At: i, of: l, before: (*T)(l.plain(was, v))}
		if n := model.Find(*l.list(now), v.Key()); n == nil {
			gone = append(gone, c)
		} else if n := l.plain(now, n); !l.plain(was, v).Equal((*T)(n)) {
			c.after = (*T)(n)
			changed = append(changed, c)
		}
	}
	slices.Reverse(gone)
	return append(changed, gone...)
}

// missing are the attachments of a list that were in a map and are not any more.
func missing[T any](l *attachments[T], now, was *model.Map) (list []Change) {
	for i := range *l.list(was) {
		v := (*l.list(was))[i]
		if l.place(now, l.id(&v)) < 0 {
			list = append(list, Change{ID: l.id(&v), At: i, of: l, before: &v})
		}
	}
	return list
}
