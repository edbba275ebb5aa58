package intake

import (
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"plaintracer/core/model"
	"plaintracer/core/steplist"
)

// hand is a table as somebody else writes one: what it holds, and what comes of it. Encoding and separator are what it
// is in; ways names what leads from one step to another, in the order of the lines.
var hands = []struct {
	file, encoding, separator string
	titles                    int
	as                        string
	blank                     steplist.Blank
	ways                      string
}{
	{"en-support.csv", "utf-8", "comma", 1, "number text who answer answer next field", "end",
		"1>2 2>3 3>4 Yes 3>5 No 4>6 5>3 6>7"},
	{"en-plain.txt.csv", "utf-8", "semicolon", 0, "text who", "next", "1>2 2>3 3>4 4>5 5>6 6>7 7>8"},
	{"en-predecessors.csv", "utf-8", "tab", 1, "number text before who field", "next", "1>2 1>3 2>4 3>4 4>5 5>6"},
	{"de-antrag.csv", "windows-1252", "semicolon", 1, "number text who next field field", "end",
		"1>2 2>4 Ja 2>3 Nein 3>2 4>5 5>6 Ja 5>7 Nein"},
	{"de-kopf.csv", "utf-8", "semicolon", 4, "number text who kind next", "end", "1>2 2>3 3>4 Ja 3>5 Nein 4>6 5>6"},
	{"de-namen.csv", "utf-16le", "tab", 1, "text who next", "end", "1>2 2>4 Ja 2>3 Nein 3>2 4>5"},
	{"fr-reclamation.csv", "utf-8", "semicolon", 1, "number text who next", "end", "1>2 2>3 Oui 2>4 Non 3>5 4>5"},
	{"fr-si.csv", "utf-8", "comma", 1, "number text who answer answer field", "next", "1>2 2>5 Oui 2>3 Non 3>4 4>5"},
	{"fr-mac.csv", "macintosh", "comma", 1, "number text who next field", "end", "1>2 2>4 Oui 2>3 Non 3>2"},
	{"es-solicitud.csv", "utf-8", "semicolon", 1, "number text who next field", "end", "1>2 2>3 Sí 2>4 No 3>5 4>2"},
	{"es-sin-titulos.csv", "utf-8", "comma", 0, "number text who next", "end", "1>2 2>3 3>4 Sí 3>5 No 4>6 5>6"},
	{"es-anterior.csv", "utf-8", "bar", 1, "number text who before field", "next", "1>2 2>3 3>4"},
}

// leads names what leads from one step of a map to another, by their places.
func leads(m *model.Map) string {
	place := map[string]int{}
	for i, sym := range m.Sheets[0].Symbols {
		place[sym.ID] = i + 1
	}
	var out []string
	for _, c := range m.Sheets[0].Connectors {
		one := fmt.Sprintf("%d>%d", place[c.From.Symbol], place[c.To.Symbol])
		if c.Text != "" {
			one += " " + c.Text
		}
		out = append(out, one)
	}
	return strings.Join(out, " ")
}

// Tables by other hands, in four languages, are read with at most two corrections each, and say the same then as who
// wrote them meant.
func TestTablesByOtherHands(t *testing.T) {
	all := 0
	for _, h := range hands {
		data, err := os.ReadFile(filepath.Join("testdata", h.file))
		if err != nil {
			t.Fatal(err)
		}
		ask := Asked{Title: h.file, Direction: model.Rightwards}
		got, err := ReadTable(h.file, data, ask)
		if err != nil || got.Reading == nil {
			t.Errorf("%s: %v, read as %+v", h.file, err, got)
			continue
		}
		want := strings.Split(h.as, " ")
		var wrong []string
		if got.Encoding != h.encoding {
			wrong = append(wrong, got.Encoding)
		}
		if got.Separator != h.separator {
			wrong = append(wrong, got.Separator)
		}
		if got.Reading.Titles != h.titles {
			wrong = append(wrong, fmt.Sprint("titles in ", got.Reading.Titles))
		}
		if got.Reading.Blank != h.blank {
			wrong = append(wrong, "blank means "+string(got.Reading.Blank))
		}
		for k, as := range want {
			if k >= len(got.Reading.Columns) || got.Reading.Columns[k] != as {
				wrong = append(wrong, fmt.Sprintf("column %d as %v", k+1, got.Reading.Columns))
			}
		}
		all += len(wrong)
		if len(wrong) > 2 {
			t.Errorf("%s takes %d corrections: %s", h.file, len(wrong), strings.Join(wrong, "; "))
		} else if len(wrong) > 0 {
			t.Logf("%s takes %d: %s", h.file, len(wrong), strings.Join(wrong, "; "))
		}
		// Corrected, it says what was meant.
		ask.Encoding, ask.Separator = h.encoding, h.separator
		ask.Reading = &steplist.Reading{Titles: h.titles, Columns: want, Blank: h.blank}
		if got, err = ReadTable(h.file, data, ask); err != nil || got.Map == nil {
			t.Errorf("%s: %v, %+v", h.file, err, got.Plan)
			continue
		}
		if len(got.Plan.Wrong) > 0 {
			t.Errorf("%s: of what cannot be read it is said %q", h.file, got.Plan.Wrong)
		}
		if ways := leads(got.Map); ways != h.ways {
			t.Errorf("%s leads %s instead of %s", h.file, ways, h.ways)
		}
	}
	t.Logf("%d corrections of %d tables", all, len(hands))
}
