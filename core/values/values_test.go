package values

import (
	"math/big"
	"math/rand/v2"
	"strconv"
	"strings"
	"testing"
	"time"
)

// What people type, and what is kept of it.
func TestRead(t *testing.T) {
	for _, c := range []struct {
		t                Type
		typed, kept, why string
	}{
		{Text, " two\tlines\nin one ", "two lines in one", ""},
		{Long, "two\r\nlines", "two\nlines", ""},
		{Whole, "12", "12", ""}, {Whole, "1 200", "1200", ""}, {Whole, "007", "7", ""}, {Whole, "-0", "0", ""},
		{Whole, "12.5", "", "not whole"}, {Whole, "12.0", "12", ""},
		{Decimal, "12,5", "12.5", ""}, {Decimal, "1.200,75", "1200.75", ""}, {Decimal, "1,200.75", "1200.75", ""},
		{Decimal, "1,200", "", "two ways"},
		{Decimal, ".5", "0.5", ""}, {Decimal, "\u22123", "-3", ""}, {Decimal, "", "", ""},
		{Decimal, "1.2.3", "", "no number"}, {Decimal, "-", "", "no number"}, {Decimal, "1e5", "", "no number"},
		{Decimal, "0.07000000000000001", "0.07", ""}, {Decimal, "7.0E-2", "0.07", ""},
		{Decimal, "1E-05", "0.00001", ""}, {Decimal, "-99.90000000000001", "-99.9", ""}, {Whole, "1.2E+3", "1200", ""},
		{Money, "12.340000000000001", "12.34", ""}, {Duration, "9.0E+1", "90", ""}, {Decimal, "2E3", "", "no number"},
		{Decimal, "1.0E+300", "", "no number"},
		{Decimal, "9999999999999", "", "too large"}, {Decimal, "0.1234567", "", "more than 6 decimals"},
		{Duration, "90 min", "90", ""}, {Duration, "1.5 h", "90", ""}, {Duration, "2 d", "2880", ""},
		{Duration, "1h30min", "90", ""}, {Duration, "45", "45", ""}, {Duration, "2 weeks", "20160", ""},
		{Duration, "-5 min", "", "no duration"}, {Duration, "1 h 30", "", "no duration"},
		{Duration, "999999999999 d", "", "too long"},
		{Money, "12.5", "12.5", ""}, {Money, "€ 12.50", "12.5", ""}, {Money, "12,50 EUR", "12.5", ""},
		{Money, "12.505", "", "more than 2 decimals"},
		{YesNo, "Y", "yes", ""}, {YesNo, "maybe", "", "neither"},
		{Choice, "desk tool", "Desk tool", ""}, {Choice, "phone", "", "not in the list: Desk tool, Paper"},
		{Date, "2026-11-28", "2026-11-28", ""}, {Date, "28.11.2026", "2026-11-28", ""},
		{Date, "28/11/2026", "", "no date"}, {Date, "2026-02-29", "", "no date"},
		{Date, "2024-02-29", "2024-02-29", ""},
		{Address, "www.town.example/a", "https://www.town.example/a", ""},
		{Address, "javascript:alert(1)", "", "no web address"}, {Address, "https://a b", "", "no web address"},
		{Text, strings.Repeat("x", maxText+1), "", "at most 500"}, {Text, "a\x00b", "", "control character"},
		{Text, "a\xffb", "", "not text"},
		{"colour", "x", "", "no type of field"},
	} {
		got, err := Read(c.t, []string{"Desk tool", "Paper"}, c.typed, Measures{})
		if c.why != "" {
			if err == nil || !strings.Contains(err.Error(), c.why) {
				t.Errorf("%s %q is read as %q, %v; expected %q", c.t, c.typed, got, err, c.why)
			}
		} else if err != nil || got != c.kept {
			t.Errorf("%s %q is kept as %q, %v; expected %q", c.t, c.typed, got, err, c.kept)
		}
	}
}

// A number that a program has computed with and written with all 17 digits of its binary form is
// read as the one it is.
func TestResavedNumbers(t *testing.T) {
	r := rand.New(rand.NewPCG(1, 2))
	for range 20_000 {
		kept := FromAmount(r.Int64N(2*maxAmount) - maxAmount) // up to twelve digits, six of them decimals
		n, err := strconv.ParseFloat(kept, 64)
		if err != nil {
			t.Fatal(err)
		}
		for _, form := range []string{strconv.FormatFloat(n, 'g', 17, 64), strconv.FormatFloat(n, 'e', -1, 64),
			strconv.FormatFloat(n*10/10, 'g', 17, 64)} {
			if !strings.ContainsAny(form, ".-+") {
				continue
			}
			if got, err := Read(Decimal, nil, form, Measures{}); err != nil || got != kept {
				t.Fatalf("%s, written as %s, is read as %q, %v", kept, form, got, err)
			}
		}
	}
}

func TestShow(t *testing.T) {
	plain, work := Measures{Currency: "EUR"}, Measures{Currency: "EUR", Day: 8, Week: 5}
	for _, c := range []struct {
		t        Type
		v        string
		in       Measures
		all, sum string
	}{
		{"duration", "90", plain, "1 h 30 min", "1 h 30 min"}, {"duration", "45", plain, "45 min", "45 min"},
		{"duration", "2880", plain, "2 d", "2 d"}, {"duration", "720", plain, "12 h", "12 h"},
		{"duration", "0", plain, "0 min", "0 min"}, {"duration", "0.5", plain, "0.5 min", "0.5 min"},
		{"duration", "15.116", plain, "15.116 min", "15.12 min"},
		{"duration", "23370", plain, "16 d 5 h 30 min", "16 d 6 h"}, {"duration", "20160", plain, "14 d", "14 d"},
		{"duration", "1560", work, "3 d 2 h", "3 d 2 h"}, {"duration", "2400", work, "1 w", "1 w"},
		{"duration", "23370", work, "9 w 3 d 5 h 30 min", "9 w 4 d"}, {"duration", "2399", work, "4 d 7 h 59 min",
			"1 w"},
		{"money", "12.5", plain, "12.50 EUR", "12.50 EUR"}, {"money", "12", plain, "12.00 EUR", "12.00 EUR"},
		{"decimal", "12.5", plain, "12.5", "12.5"},
	} {
		if got := Show(c.t, c.v, c.in); got != c.all {
			t.Errorf("%s %s is shown as %q, not %q", c.t, c.v, got, c.all)
		}
		amount, _ := Amount(c.t, c.v)
		if got := ShowSum(c.t, amount, c.in); got != c.sum {
			t.Errorf("%s %s comes to %q, not %q", c.t, c.v, got, c.sum)
		}
	}
	if got := Show(Date, "", plain); got != "" {
		t.Errorf("nothing is shown as %q", got)
	}
	if got, _ := Read(Duration, nil, "1 w 1 d", work); got != "2880" {
		t.Errorf("a week and a day of work are %s minutes", got)
	}
}

// What is kept reads back as itself, however it was typed; numbers agree with math/big, dates with package time; and
// what is shown is read as what it shows.
func FuzzRead(f *testing.F) {
	for _, s := range []string{"12", "1,200.5", "-3.25", "90 min", "2 d 3 h", "2026-02-28", "yes", "www.x", "0.000001",
		"1\u00a0000"} {
		f.Add(s)
	}
	f.Fuzz(func(t *testing.T, text string) {
		for i, k := range kinds {
			in := Measures{Currency: "EUR"}
			if (i+len(text))%2 > 0 {
				in.Day, in.Week = 1+len(text)%24, 1+len(text)%7
			}
			v, err := Read(k.Type, []string{"One", text}, text, in)
			if err != nil || v == "" {
				continue
			}
			if again, err := Read(k.Type, []string{"One", text}, v, in); err != nil || again != v {
				t.Errorf("%s %q is kept as %q, which is read as %q, %v", k.Type, text, v, again, err)
			}
			if shown := Show(k.Type, v, in); k.Counts {
				if again, err := Read(k.Type, nil, shown, in); err != nil || again != v {
					t.Errorf("%s %q is shown as %q, which is read as %q, %v", k.Type, v, shown, again, err)
				}
				amount, ok := Amount(k.Type, v)
				exact, good := new(big.Rat).SetString(v)
				if !ok || !good || exact.Cmp(big.NewRat(amount, Parts)) != 0 || FromAmount(amount) != v {
					t.Errorf("%s %q counts as %d millionths", k.Type, v, amount)
				}
			}
			if k.Type == Date {
				if d, err := time.Parse(time.DateOnly, v); err != nil || d.Format(time.DateOnly) != v {
					t.Errorf("the date %q: %v", v, err)
				}
			}
			if Compare(k.Type, nil, v, v) != 0 || Compare(k.Type, nil, v, "") >= 0 || Compare(k.Type, nil, "", v) <= 0 {
				t.Errorf("%s %q is not in order with itself and nothing", k.Type, v)
			}
		}
	})
}
