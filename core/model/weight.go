package model

// MaxContent bounds the file of a map without its pictures and fonts, in bytes.
const MaxContent = 24 << 20

// What a symbol, a connector and a part of a pool take at most in a file beside their texts,
// in bytes, and what a sheet and the map themselves take.
const (
	weightSymbol    = 1000
	weightConnector = 1500
	weightValue     = 40
	weightCell      = 100
	weightBend      = 80
	weightPart      = 250
	weightSheet     = 1000
	weightMap       = 128 << 10
)

// Weight returns what the file of the map takes at most without its pictures and fonts, in
// bytes.
func (m *Map) Weight() int {
	// Quotes and line breaks take two bytes in a file.
	text := func(list ...string) int {
		n := 0
		for _, t := range list {
			n += 2 * len(t)
		}
		return n
	}
	n := weightMap
	for _, f := range m.Files {
		n += weightPart + text(f.Name, f.Type, f.By)
	}
	for _, c := range m.Cases {
		n += weightPart + text(c.Name) + weightValue*len(c.Way) + text(c.Way...)
	}
	for _, s := range m.Stops {
		n += weightPart + text(s.Title, s.Words)
	}
	for _, s := range m.Sheets {
		if s == nil {
			continue
		}
		n += weightSheet + text(s.Name)
		for _, sym := range s.Symbols {
			if sym == nil {
				continue
			}
			n += weightSymbol + text(sym.Text, sym.Owner, sym.Group, sym.ID)
			for _, v := range sym.Values {
				n += weightValue + text(v.Text)
			}
			n += weightOf(sym.Links) + weightValue*len(sym.Accents)
			if sym.Row != "" {
				n += weightCell + text(sym.Row, sym.Stage, sym.Sign)
			}
		}
		for _, c := range s.Connectors {
			if c == nil {
				continue
			}
			n += weightConnector + weightBend*len(c.Bends) + text(c.Text, c.FromText, c.ToText) + weightOf(c.Links)
		}
		for _, p := range s.Pools {
			if p == nil {
				continue
			}
			n += weightPart + text(p.Title, p.Words, p.Picture)
			for _, l := range p.Lanes {
				n += weightPart + text(l.Name, l.Of, string(l.Row), l.Field) + weightOf(l.Links)
			}
			for _, st := range p.Stages {
				n += weightPart + text(st.Name, st.Fill)
			}
		}
	}
	return n
}

// CheckWeight reports a map that is larger than one may become. It is not part of Validate: a
// map that is too large by a later rule still opens, and can be made smaller.
func (m *Map) CheckWeight() error {
	if len(m.Pictures) > MaxPictureCount {
		return fault("pictures", "a map shows at most %d pictures, not %d", MaxPictureCount, len(m.Pictures))
	}
	if m.Weight() > MaxContent {
		return fault("sheets",
			"the map is full: its symbols, connectors and texts take more than %d MB; begin another map",
			MaxContent>>20)
	}
	return nil
}

// weightOf is that of links.
func weightOf(links []Hyperlink) (n int) {
	for _, l := range links {
		n += weightValue + 2*len(l.Title) + 2*len(l.To)
	}
	return n
}
