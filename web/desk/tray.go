package desk

import (
	"github.com/gofiber/fiber/v3"

	"plaintracer/core/symbols"
	"plaintracer/web/site"
)

// trayEntry is a symbol as the tray shows it.
type trayEntry struct {
	*symbols.Symbol
	KeyName string
	Search  string
}

func tray() []trayEntry {
	var list []trayEntry
	for _, sym := range symbols.All() {
		e := trayEntry{Symbol: sym, Search: sym.Words()}
		if sym.Key != 0 {
			e.KeyName = string(rune(sym.Key))
		}
		list = append(list, e)
	}
	return list
}

// Symbols is the reference of all symbols: what each is called and means.
func (s *Desk) Symbols(c fiber.Ctx) error {
	groups := []symbolGroup{{Source: symbols.ISO5807}, {Source: symbols.Trade}, {Source: symbols.ASME}}
	for _, e := range tray() {
		for i := range groups {
			if groups[i].Source == e.Source {
				groups[i].Symbols = append(groups[i].Symbols, e)
			}
		}
	}
	return s.Page(c, "symbols.html", &symbolsPage{Frame: site.Frame{Title: "Symbols"}, Groups: groups,
		Lines: symbols.Lines})
}

// symbolsPage is what symbols.html shows.
type symbolsPage struct {
	site.Frame
	Groups []symbolGroup
	Lines  []symbols.LineSymbol
}

// symbolGroup are the symbols of one source.
type symbolGroup struct {
	Source  symbols.Source
	Symbols []trayEntry
}
