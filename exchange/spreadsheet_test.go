package exchange_test

import (
	"regexp"
	"strings"
	"testing"

	"plaintracer/core/model"
	"plaintracer/core/values"
)

// The register as a spreadsheet can be worked in and printed as it is: its titles stay in sight and on every page, with
// signs to filter by; columns are as wide as their texts; cells offer what can stand in them; what comes next is text,
// a duration hours and minutes, and an amount of money has its currency.
func TestASpreadsheetCanBeWorkedIn(t *testing.T) {
	m := two(t)
	m.Currency = "EUR"
	m.Fields = []model.Field{{ID: "time", Name: "Time taken", Type: values.Duration},
		{ID: "cost", Name: "Cost", Type: values.Money},
		{ID: "how", Name: "How", Type: values.Choice, Choices: []string{"by hand", "by machine"}}}
	sym := m.Sheets[0].Symbol("b")
	sym.Values = []model.Value{{ID: "time", Text: "90"}, {ID: "cost", Text: "1234.5"}, {ID: "how", Text: "by hand"}}
	if err := m.Validate(); err != nil {
		t.Fatal(err)
	}

	book := unpacked(t, made(t, m, "register-xlsx").Data)
	for name := range book {
		book[name] = strings.NewReplacer("&#39;", "'", "&#34;", "&quot;").Replace(book[name])
	}
	for name, wants := range map[string][]string{
		"xl/worksheets/sheet1.xml": {`state="frozen"`, `ySplit="1"`, `<autoFilter ref="$A$1:`, `fitToPage="true"`,
			`orientation="landscape"`,
			`fitToHeight="0"`, `<v>0.0625</v>`, `<v>1234.5</v>`, `Lists!$`},
		"xl/workbook.xml": {`_xlnm.Print_Titles`, `'Register'!$1:$1`, `_xlnm._FilterDatabase`, `state="hidden"`},
		"xl/styles.xml":   {`formatCode="[h]:mm"`, `formatCode="#,##0.00 &quot;EUR&quot;"`, `formatCode="@"`},
	} {
		run(t, []byte(book[name]), "xmllint", "--noout", "IN")
		for _, want := range wants {
			if !strings.Contains(book[name], want) {
				t.Errorf("%s has no %s", name, want)
			}
		}
	}
	widths := map[string]bool{}
	for _, m := range regexp.MustCompile(`<col [^>]*width="([\d.]+)"`).FindAllStringSubmatch(book["xl/worksheets/sheet1.xml"], -1) {
		widths[m[1]] = true
	}
	if len(widths) < 4 {
		t.Errorf("the columns are as wide as %v", widths)
	}

	sheet := unpacked(t, made(t, m, "register-ods").Data)
	for name, wants := range map[string][]string{
		"content.xml": {`office:value-type="time" office:time-value="PT1H30M0S"`,
			`office:value-type="currency" office:value="1234.5"`,
			`<table:table-header-rows>`, `display-filter-buttons="true"`,
			`cell-content-is-in-list(&quot;by hand&quot;;&quot;by machine&quot;)`,
			`<number:currency-symbol>EUR<`},
		"settings.xml": {`config:name="VerticalSplitPosition" config:type="int">1<`},
		"styles.xml":   {`style:print-orientation="landscape"`},
		"mimetype":     {"application/vnd.oasis.opendocument.spreadsheet"},
	} {
		if name != "mimetype" {
			run(t, []byte(sheet[name]), "xmllint", "--noout", "IN")
		}
		for _, want := range wants {
			if !strings.Contains(sheet[name], want) {
				t.Errorf("%s has no %s", name, want)
			}
		}
	}
	// Next is text, even where it is the number of a step.
	if !regexp.MustCompile(`office:value-type="string"[^>]*><text:p>\d+</text:p>`).MatchString(sheet["content.xml"]) {
		t.Error("what comes next is a number in the ODS")
	}
}
