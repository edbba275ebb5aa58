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
}

func tray() []trayEntry {
	var list []trayEntry
	for _, sym := range symbols.All() {
		e := trayEntry{Symbol: sym}
		if sym.Key != 0 {
			e.KeyName = string(rune(sym.Key))
		}
		list = append(list, e)
	}
	return list
}

// Symbols is the reference of all symbols: what each is called and means. Asked for JSON it returns the kinds that a
// description finds, the best first.
func (s *Desk) Symbols(c fiber.Ctx) error {
	if c.Get(fiber.HeaderAccept) == fiber.MIMEApplicationJSON {
		const most = 200 // characters
		words := []rune(c.Query("find"))
		return c.JSON(symbols.Kinds(symbols.Search(string(words[:min(len(words), most)]))))
	}
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
