package links

import (
	"strings"
	"testing"

	"plaintracer/core/geometry"
	"plaintracer/core/model"
)

func TestAddresses(t *testing.T) {
	for text, want := range map[string]string{
		"https://example.org/form?a=1#b": "https://example.org/form?a=1#b",
		" HTTP://example.org ":           "http://example.org",
		"www.example.org/x":              "https://www.example.org/x",
		"mailto:desk@example.org":        "mailto:desk@example.org",
		"desk+lamps@sub.example.org":     "mailto:desk+lamps@sub.example.org",
		"javascript:alert(1)":            "",
		"data:text/html,x":               "",
		"ftp://example.org":              "",
		"file:///etc/passwd":             "",
		"https://":                       "",
		"https://a b":                    "",
		"mailto:a@b?subject=x y":         "",
		"a@b":                            "",
		"@example.org":                   "",
		"Ask the desk":                   "",
	} {
		if got, ok := Address(text); got != want || ok != (want != "") {
			t.Errorf("%q is %q, %v; not %q", text, got, ok, want)
		}
	}
}

// What stands around an address in a sentence is no part of it; brackets that an address opens are.
func TestAddressesInTexts(t *testing.T) {
	for text, want := range map[string]string{
		"See https://example.org/a, or (www.example.org).":   "https://example.org/a|https://www.example.org",
		"„https://example.org/wiki/Lamp_(street)“":           "https://example.org/wiki/Lamp_(street)",
		"Mail desk@example.org; then wait 2:30 to 3://4":     "mailto:desk@example.org",
		"<https://example.org/ü>\nand\thttps://example.org!": "https://example.org/ü|https://example.org",
		"a@b, user@host, javascript://x":                     "",
	} {
		var got []string
		for _, s := range InText(text) {
			if got = append(got, s.Address); !strings.HasSuffix(s.Address,
				strings.TrimPrefix(text[s.From:s.To], "www.")) {
				t.Errorf("%q stands for %q", text[s.From:s.To], s.Address)
			}
		}
		if strings.Join(got, "|") != want {
			t.Errorf("in %q are %v, not %s", text, got, want)
		}
	}
}

// Whatever a text holds, what is taken for an address may be opened, and stands where it is said to.
func FuzzInText(f *testing.F) {
	for _, text := range []string{"(see www.a.b)", "x@y.z.", "“https://a”", "http://[::1]/",
		"\xff@a.b https://\u202e"} {
		f.Add(text)
	}
	f.Fuzz(func(t *testing.T, text string) {
		at := 0
		for _, s := range InText(text) {
			l := model.Hyperlink{To: s.Address}
			if s.From < at || s.To <= s.From || s.To > len(text) || !l.Opens() {
				t.Fatalf("%q: %+v", text, s)
			}
			at = s.To
		}
	})
}

func TestLinksWithinTheMap(t *testing.T) {
	m := model.New("Lost key", model.Rightwards, "A4", true)
	m.Sheets[0].Name = "Desk"
	m.Fields = []model.Field{{ID: "f", Name: "Form", Type: "text"}}
	m.Sheets[0].Symbols = []*model.Symbol{
		{ID: "a", Kind: model.Process, Text: "Ask for it at www.example.org/keys",
			Values: []model.Value{{ID: "f", Text: "see https://example.org/form."}},
			Links:  []model.Hyperlink{{Title: "Keys", To: "https://www.example.org/keys"}, {To: "#b"}, {To: "#gone"}}},
		{ID: "b", Kind: model.Process, Text: "Hand it out", Box: geometry.Box{X: 20000}},
	}
	numbers := map[string]string{"a": "1", "b": "2"}
	var got []string
	for _, l := range Of(m, m.Sheets[0].Symbols[0]) {
		got = append(got, Title(m, &l, numbers)+" > "+l.To)
	}
	want := "Keys > https://www.example.org/keys, 2 Hand it out > #b, a step or sheet that is gone > #gone, " +
		"Form > https://example.org/form"
	if strings.Join(got, ", ") != want {
		t.Errorf("the links are %s", strings.Join(got, ", "))
	}
	for text, want := range map[string]string{"2": "#b", "hand  it out": "#b", "2 Hand it out": "#b",
		"desk":    "#sheet-1",
		"nothing": "", "": ""} {
		if to, ok := Read(m, text, numbers); ok != (want != "") || ok && to != want {
			t.Errorf("%q leads to %q, %v", text, to, ok)
		}
	}
	m.Sheets[0].Symbols[0].Text = "Hand it out"
	if to, ok := Read(m, "Hand it out", nil); ok {
		t.Errorf("one of two steps was taken: %s", to)
	}
	for _, bad := range []string{"javascript:alert(1)", "//example.org", "https://a\nb", "", "#", "#a b"} {
		m.Sheets[0].Symbols[1].Links = []model.Hyperlink{{To: bad}}
		if m.Validate() == nil {
			t.Errorf("a link to %q is taken", bad)
		}
	}
}
