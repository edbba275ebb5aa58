package diagram

import (
	"fmt"
	"slices"
	"unicode/utf8"

	"plaintracer/core/geometry"
)

// The bounds of a map. They keep a broken or hostile file from taking the
// program down, and lie far beyond what a reader can follow.
const (
	MaxText     = 4000
	MaxName     = 200
	MaxPlace    = 100_000 * geometry.Px
	MaxSymbols  = 5000
	MaxSheets   = 200
	MaxLanes    = 60
	MinSymbol   = 8 * geometry.Px
	MaxSymbol   = 4000 * geometry.Px
	maxID       = 64
	maxAnswers  = 12
	maxConnects = 10000
)

// Fault is something wrong in a map, with its place in the document.
type Fault struct {
	// Path leads to the faulty value, such as sheets[0].symbols[3].kind.
	Path string
	Text string
}

func (f *Fault) Error() string { return f.Path + ": " + f.Text }

func fault(path, format string, args ...any) error {
	return &Fault{Path: path, Text: fmt.Sprintf(format, args...)}
}

// Validate returns the first fault of a map as a *Fault, or nil.
func (m *Map) Validate() error {
	if err := m.Head.validate(); err != nil {
		return err
	}
	if len(m.Sheets) == 0 || len(m.Sheets) > MaxSheets {
		return fault("sheets", "a map has 1 to %d sheets, not %d", MaxSheets, len(m.Sheets))
	}
	used := map[string]string{}
	for i, s := range m.Sheets {
		if s == nil {
			return fault(fmt.Sprintf("sheets[%d]", i), "a sheet is missing")
		}
		if err := s.validate(fmt.Sprintf("sheets[%d]", i), used); err != nil {
			return err
		}
	}
	return nil
}

func (h *Head) validate() error {
	if err := checkText("title", h.Title, MaxName); err != nil {
		return err
	}
	if h.Direction != Rightwards && h.Direction != Downwards {
		return fault("direction", "%q is no direction; use %q or %q", h.Direction, Rightwards, Downwards)
	}
	if len(h.Answers) < 2 || len(h.Answers) > maxAnswers {
		return fault("answers", "a map has 2 to %d answer words, not %d", maxAnswers, len(h.Answers))
	}
	for i, a := range h.Answers {
		path := fmt.Sprintf("answers[%d]", i)
		if a == "" {
			return fault(path, "an answer word is empty")
		}
		if slices.Index(h.Answers, a) != i {
			return fault(path, "the answer %q stands there twice", a)
		}
		if err := checkText(path, a, MaxName); err != nil {
			return err
		}
	}
	return nil
}

func (h *SheetHead) validate(path string) error {
	if err := checkText(path+".name", h.Name, MaxName); err != nil {
		return err
	}
	if w, _ := PaperSize(h.Paper, false); w == 0 {
		return fault(path+".paper", "%q is no paper size this program knows", h.Paper)
	}
	return nil
}

func (s *Sheet) validate(path string, used map[string]string) error {
	if err := checkID(path, s.ID, used); err != nil {
		return err
	}
	if err := s.SheetHead.validate(path); err != nil {
		return err
	}
	if len(s.Symbols) > MaxSymbols {
		return fault(path+".symbols", "a sheet holds at most %d symbols, not %d", MaxSymbols, len(s.Symbols))
	}
	if len(s.Connectors) > maxConnects {
		return fault(path+".connectors", "a sheet holds at most %d connectors, not %d", maxConnects, len(s.Connectors))
	}
	for i, p := range s.Pools {
		at := fmt.Sprintf("%s.pools[%d]", path, i)
		if p == nil {
			return fault(at, "a pool is missing")
		}
		if err := checkID(at, p.ID, used); err != nil {
			return err
		}
		for j := range p.Lanes {
			if err := checkID(fmt.Sprintf("%s.lanes[%d]", at, j), p.Lanes[j].ID, used); err != nil {
				return err
			}
		}
		if err := p.validate(at); err != nil {
			return err
		}
	}
	symbols := make(map[string]bool, len(s.Symbols))
	for i, sym := range s.Symbols {
		at := fmt.Sprintf("%s.symbols[%d]", path, i)
		if sym == nil {
			return fault(at, "a symbol is missing")
		}
		if err := checkID(at, sym.ID, used); err != nil {
			return err
		}
		if err := sym.validate(at); err != nil {
			return err
		}
		symbols[sym.ID] = true
	}
	for i, c := range s.Connectors {
		at := fmt.Sprintf("%s.connectors[%d]", path, i)
		if c == nil {
			return fault(at, "a connector is missing")
		}
		if err := checkID(at, c.ID, used); err != nil {
			return err
		}
		if err := c.validate(at, func(id string) bool { return symbols[id] }); err != nil {
			return err
		}
	}
	return nil
}

func (s *Symbol) validate(path string) error {
	switch {
	case !s.Kind.Known():
		return fault(path+".kind", "%q is no symbol this program knows", s.Kind)
	case s.W < MinSymbol || s.H < MinSymbol || s.W > MaxSymbol || s.H > MaxSymbol:
		return fault(path+".w", "a symbol is %d to %d px wide and high, not %d by %d",
			MinSymbol/geometry.Px, MaxSymbol/geometry.Px, s.W/geometry.Px, s.H/geometry.Px)
	case !placed(s.X) || !placed(s.Y):
		return fault(path+".x", "the place %d, %d px is beyond the desk", s.X/geometry.Px, s.Y/geometry.Px)
	case !slices.Contains(Fills, s.Fill):
		return fault(path+".fill", "%q is no colour of the palette", s.Fill)
	}
	return checkText(path+".text", s.Text, MaxText)
}

func (c *Connector) validate(path string, has func(id string) bool) error {
	for _, end := range []struct {
		name string
		End
	}{{".from", c.From}, {".to", c.To}} {
		if !has(end.Symbol) {
			return fault(path+end.name+".symbol", "there is no symbol %q on this sheet", end.Symbol)
		}
		if _, ok := geometry.SideNamed(end.Side); end.Side != "" && !ok {
			return fault(path+end.name+".side", "%q is no glue point", end.Side)
		}
	}
	if c.From.Symbol == c.To.Symbol {
		return fault(path+".to.symbol", "a connector leads from one symbol to another, not back to the same")
	}
	return checkText(path+".text", c.Text, MaxText)
}

func (p *Pool) validate(path string) error {
	if err := checkText(path+".title", p.Title, MaxName); err != nil {
		return err
	}
	if len(p.Lanes) == 0 || len(p.Lanes) > MaxLanes {
		return fault(path+".lanes", "a pool has 1 to %d lanes, not %d", MaxLanes, len(p.Lanes))
	}
	if !placed(p.X) || !placed(p.Y) || p.W < MinPool || p.W > MaxPlace {
		return fault(path+".x", "the pool is beyond the desk or narrower than %d px", MinPool/geometry.Px)
	}
	for i, l := range p.Lanes {
		at := fmt.Sprintf("%s.lanes[%d]", path, i)
		if l.H < MinLane || l.H > MaxPlace {
			return fault(at+".h", "a lane is at least %d px high, not %d", MinLane/geometry.Px, l.H/geometry.Px)
		}
		if err := checkText(at+".name", l.Name, MaxName); err != nil {
			return err
		}
	}
	return nil
}

func placed(n int) bool { return n >= -MaxPlace && n <= MaxPlace }

func checkText(path, text string, limit int) error {
	if n := utf8.RuneCountInString(text); n > limit {
		return fault(path, "the text has %d characters; at most %d fit", n, limit)
	}
	if !utf8.ValidString(text) {
		return fault(path, "the text is not valid UTF-8")
	}
	for _, r := range text {
		// XML cannot carry these, so neither could the exported picture.
		if r < ' ' && r != '\n' && r != '\t' || r == 0xFFFE || r == 0xFFFF {
			return fault(path, "the text holds the control character U+%04X", r)
		}
	}
	return nil
}

func checkID(path, id string, used map[string]string) error {
	if !validID(id) {
		return fault(path+".id", "%q is no id; use 1 to %d letters, digits, dots, dashes", id, maxID)
	}
	if at, taken := used[id]; taken {
		return fault(path+".id", "the id %q is used already, by %s", id, at)
	}
	used[id] = path
	return nil
}

func validID(id string) bool {
	if id == "" || len(id) > maxID {
		return false
	}
	for _, r := range id {
		if (r < 'a' || r > 'z') && (r < 'A' || r > 'Z') && (r < '0' || r > '9') && r != '-' && r != '.' && r != '_' {
			return false
		}
	}
	return true
}
