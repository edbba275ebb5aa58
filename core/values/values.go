// Package values reads and writes what stands in the fields that a map adds to its steps: texts, numbers, durations,
// money, dates and the like.
//
// Read turns what a person typed into the form in which a value is kept, which is the same however it was typed. Show
// writes it for people again, Amount and Compare compute with it. A value is kept as text: a number without spaces and
// with a full stop, a duration as its minutes, a date as ISO 8601 has it. The empty text is no value.
package values

import (
	"cmp"
	"errors"
	"fmt"
	"slices"
	"strconv"
	"strings"
	"unicode/utf8"
)

// Type is what kind of values a field takes.
type Type string

// The types of fields.
const (
	Text     Type = "text"
	Long     Type = "long-text"
	Whole    Type = "whole"
	Decimal  Type = "decimal"
	Duration Type = "duration"
	Money    Type = "money"
	YesNo    Type = "yes-no"
	Choice   Type = "choice"
	Date     Type = "date"
	Person   Type = "person"
	Address  Type = "address"
)

// The bounds of a value.
const (
	maxText = 500
	MaxLong = 4000
	// maxAmount is the largest number; all are multiples of one in Parts.
	maxAmount = 1_000_000_000_000
	Parts     = 1_000_000
)

// Info is a type as a person chooses it.
type Info struct {
	Type Type `json:"type"`
	// Title names it, Hint shows how a value is typed.
	Title string `json:"title"`
	Hint  string `json:"hint"`
	// Counts says that values can be added up.
	Counts bool `json:"counts,omitempty"`
}

type kind struct {
	Info
	// more is what else is to know of it.
	more
	read func(text string, choices []string, in Measures) (string, error)
	show func(value string, in Measures) string
}

// more is what others than people have to know of a type.
type more struct {
	// guess is its turn among the types that a column of texts may be of, from 1: the first that all its values fit;
	// zero for never.
	guess int
	// found says that values are words one looks for.
	found bool
	// cell is how a spreadsheet shows its values; empty for texts.
	cell string
}

// kinds are all types, in the order in which they are offered.
var kinds = []kind{
	{Info{Text, "Text", "one line", false}, more{guess: 6, found: true}, readText, nil},
	{Info{Long, "Long text", "several lines", false}, more{guess: 7, found: true}, readLong, nil},
	{Info{Whole, "Whole number", "12", true}, more{guess: 1, cell: "0"}, readWhole, nil},
	{Info{Decimal, "Decimal number", "12.5", true}, more{guess: 2, cell: "0.######"},
		func(text string, _ []string, _ Measures) (string, error) { return readNumber(text, 6) }, nil},
	{Info{Duration, "Duration", "90 min, 1.5 h, 2 d", true}, more{guess: 4, cell: "[h]:mm"}, readDuration,
		showDuration},
	{Info{Money, "Money", "12.50", true}, more{cell: "#,##0.00"}, readMoney, showMoney},
	{Info{YesNo, "Yes or no", "yes or no", false}, more{}, readYesNo, nil},
	{Info{Choice, "Choice from a list", "one of the list", false}, more{found: true}, readChoice, nil},
	{Info{Date, "Date", "2026-11-28", false}, more{guess: 3, cell: "yyyy-mm-dd"}, readDate, nil},
	{Info{Person, "Person", "a name", false}, more{found: true}, readText, nil},
	{Info{Address, "Web address", "https://…", false}, more{guess: 5}, readAddress, nil},
}

func of(t Type) *kind {
	if i := slices.IndexFunc(kinds, func(k kind) bool { return k.Type == t }); i >= 0 {
		return &kinds[i]
	}
	return nil
}

// Types lists the types in the order in which they are offered.
func Types() (list []Info) {
	for _, k := range kinds {
		list = append(list, k.Info)
	}
	return list
}

// Guesses are the types that a column of texts may be of, the first that all its values fit.
func Guesses() (list []Type) {
	for turn := 1; ; turn++ {
		i := slices.IndexFunc(kinds, func(k kind) bool { return k.guess == turn })
		if i < 0 {
			return list
		}
		list = append(list, kinds[i].Type)
	}
}

// Found reports whether values of the type are words one looks for.
func (t Type) Found() bool { k := of(t); return k != nil && k.found }

// Cell is how a spreadsheet shows values of the type; empty for texts. A duration is a number of minutes, a date a
// day's number.
func (t Type) Cell() string {
	if k := of(t); k != nil {
		return k.cell
	}
	return ""
}

// Known reports whether there is such a type, Counts whether its values can be added up.
func (t Type) Known() bool  { return of(t) != nil }
func (t Type) Counts() bool { k := of(t); return k != nil && k.Counts }

// Title names the type.
func (t Type) Title() string {
	if k := of(t); k != nil {
		return k.Title
	}
	return string(t)
}

// Measures are what amounts are counted in: the sign or code of the currency, and how many hours a working day has and
// how many days a week. With no hours a day has 24, and nothing is counted in weeks.
type Measures struct {
	Currency  string
	Day, Week int
}

// hours returns how many hours a day has.
func (m Measures) hours() int64 { return int64(cmp.Or(m.Day, 24)) }

// Read returns what a person typed as the value that is kept, for a field of a type with a list to choose from. The
// error says what is expected.
func Read(t Type, choices []string, text string, in Measures) (value string, err error) {
	k := of(t)
	if k == nil {
		return "", fmt.Errorf("there is no type of field %q", t)
	}
	if !utf8.ValidString(text) {
		return "", errors.New("this is not text")
	}
	text = strings.TrimSpace(strings.ReplaceAll(text, "\r\n", "\n"))
	if text == "" {
		return "", nil
	}
	return k.read(text, choices, in)
}

// Show writes a value for people, all of it.
func Show(t Type, value string, in Measures) string {
	if k := of(t); k != nil && k.show != nil && value != "" {
		return k.show(value, in)
	}
	return value
}

// ShowSum writes what values of a type come to: a duration in its two largest units.
func ShowSum(t Type, amount int64, in Measures) string {
	if t == Duration {
		amount = in.twoUnits(amount)
	}
	return Show(t, FromAmount(amount), in)
}

// Amount returns a value that can be added up, in millionths: of one, of a minute, of the currency.
func Amount(t Type, value string) (amount int64, ok bool) {
	if !t.Counts() || value == "" {
		return 0, false
	}
	amount, err := parse(value)
	return amount, err == nil
}

// FromAmount returns the value that an amount is, as Amount counts it.
func FromAmount(amount int64) string {
	sign := ""
	if amount < 0 {
		sign, amount = "-", -amount
	}
	text := strconv.FormatInt(amount/Parts, 10)
	if rest := amount % Parts; rest > 0 {
		text += "." + strings.TrimRight(fmt.Sprintf("%06d", rest), "0")
	}
	return sign + text
}

// Compare puts values of a type in order; none comes last.
func Compare(t Type, choices []string, a, b string) int {
	switch {
	case a == b:
		return 0
	case a == "":
		return 1
	case b == "":
		return -1
	case t.Counts():
		x, _ := Amount(t, a)
		y, _ := Amount(t, b)
		return cmp.Compare(x, y)
	case t == Choice:
		return cmp.Compare(slices.Index(choices, a), slices.Index(choices, b))
	}
	return cmp.Or(cmp.Compare(strings.ToLower(a), strings.ToLower(b)), cmp.Compare(a, b))
}

func readText(text string, _ []string, _ Measures) (string, error) {
	text = strings.Join(strings.FieldsFunc(text, func(r rune) bool { return r == '\n' || r == '\r' || r == '\t' }), " ")
	return plain(text, maxText)
}

func readLong(text string, _ []string, _ Measures) (string, error) { return plain(text, MaxLong) }

// plain refuses characters that no text holds, and texts that are too long.
func plain(text string, most int) (string, error) {
	if n := utf8.RuneCountInString(text); n > most {
		return "", fmt.Errorf("this has %d characters; the field takes at most %d", n, most)
	}
	if i := strings.IndexFunc(text,
		func(r rune) bool { return r < ' ' && r != '\n' && r != '\t' || r == 0x7f }); i >= 0 {
		return "", errors.New("this holds a control character")
	}
	return text, nil
}

// number returns a number as it is kept: digits, and a full stop before at most so many more.
func readNumber(text string, decimals int) (string, error) {
	bad := fmt.Errorf("“%.40s” is no number; write it like 12 or 12.5", text)
	clean := strings.Map(func(r rune) rune {
		switch r {
		case ' ', '\u00a0', '\u202f', '\u2009', '\'':
			return -1
		case '\u2212':
			return '-'
		}
		return r
	}, text)
	clean = resaved(clean)
	sign := ""
	if rest, minus := strings.CutPrefix(clean, "-"); minus {
		sign, clean = "-", rest
	} else {
		clean = strings.TrimPrefix(clean, "+")
	}
	whole, part := clean, ""
	comma, stop := strings.Count(clean, ","), strings.Count(clean, ".")
	switch {
	case comma == 0 && stop <= 1:
		whole, part, _ = strings.Cut(clean, ".")
	case stop == 0 && comma == 1:
		whole, part, _ = strings.Cut(clean, ",")
		if len(part) == 3 && decimals != 3 {
			return "", fmt.Errorf("“%.40s” can be read in two ways; write %s%s or %s.%s", text, whole, part, whole,
				part)
		}
	case comma > 0 && stop == 1 && strings.LastIndex(clean, ",") < strings.Index(clean, "."):
		whole, part, _ = strings.Cut(strings.ReplaceAll(clean, ",", ""), ".")
	case stop > 0 && comma == 1 && strings.LastIndex(clean, ".") < strings.Index(clean, ","):
		whole, part, _ = strings.Cut(strings.ReplaceAll(clean, ".", ""), ",")
	default:
		return "", bad
	}
	if whole == "" {
		whole = "0"
	}
	digits := func(s string) bool { return strings.Trim(s, "0123456789") == "" }
	if !digits(whole) || !digits(part) || !strings.ContainsAny(clean, "0123456789") {
		return "", bad
	}
	part = strings.TrimRight(part, "0")
	if len(part) > decimals {
		if decimals == 0 {
			return "", fmt.Errorf("“%.40s” is not whole", text)
		}
		return "", fmt.Errorf("“%.40s” has more than %d decimals", text, decimals)
	}
	whole = strings.TrimLeft(whole, "0")
	if whole == "" {
		whole = "0"
	}
	if len(whole) > 13 {
		return "", fmt.Errorf("“%.40s” is too large; a number has at most %d", text, int64(maxAmount))
	}
	if part != "" {
		whole += "." + part
	}
	if whole != "0" {
		whole = sign + whole
	}
	if amount, err := parse(whole); err != nil || amount > maxAmount*Parts || amount < -maxAmount*Parts {
		return "", fmt.Errorf("“%.40s” is too large; a number has at most %d", text, int64(maxAmount))
	}
	return whole, nil
}

// resaved returns a number that a program has written of its binary form as people write it: 7.0E-2
// as 0.07, and 0.07000000000000001, which has more digits than such a form holds (15, IEEE 754
// binary64), as 0.07. Every other text stays as it is.
func resaved(text string) string {
	digits := 0
	for i, r := range text {
		switch {
		case r >= '0' && r <= '9':
			digits++
		case r != '.' && r != 'e' && r != 'E' &&
			!((r == '-' || r == '+') && (i == 0 || text[i-1] == 'e' || text[i-1] == 'E')):
			return text
		}
	}
	at := strings.IndexAny(text, "eE")
	// 2E3 alone may be a code; a program writes a full stop or a sign with it.
	exponent := at > 0 && (strings.Contains(text[:at], ".") || strings.ContainsAny(text[at:], "+-"))
	if !exponent && (digits <= 15 || !strings.Contains(text, ".")) {
		return text
	}
	n, err := strconv.ParseFloat(text, 64)
	if err != nil || n > maxAmount || n < -maxAmount {
		return text
	}
	if n, err = strconv.ParseFloat(strconv.FormatFloat(n, 'g', 15, 64), 64); err != nil {
		return text
	}
	return strconv.FormatFloat(n, 'f', -1, 64)
}

// parse returns a kept number in millionths.
func parse(value string) (int64, error) {
	rest, minus := strings.CutPrefix(value, "-")
	whole, part, _ := strings.Cut(rest, ".")
	if len(whole) > 13 || len(part) > 6 {
		return 0, errors.New("too long")
	}
	n, err := strconv.ParseInt(whole+part+strings.Repeat("0", 6-len(part)), 10, 64)
	if minus {
		n = -n
	}
	return n, err
}

func readWhole(text string, _ []string, _ Measures) (string, error) { return readNumber(text, 0) }

// unit is one of durations, in minutes.
type unit struct {
	names   []string
	minutes int64
}

// units of durations, the largest first. A week without days of its own has seven, and is only read, not written.
func (m Measures) units() []unit {
	day := m.hours() * 60
	return []unit{
		{[]string{"w", "week", "weeks"}, int64(cmp.Or(m.Week, 7)) * day},
		{[]string{"d", "day", "days"}, day},
		{[]string{"h", "hour", "hours", "hrs"}, 60},
		{[]string{"min", "mins", "minute", "minutes", "m"}, 1},
	}
}

// written are the units in which durations are written.
func (m Measures) written() []unit {
	if m.Week == 0 {
		return m.units()[1:]
	}
	return m.units()
}

// readDuration reads 90 min, 1.5 h, 2 d, 1 h 30 min; a number alone is minutes.
func readDuration(text string, _ []string, in Measures) (string, error) {
	bad := fmt.Errorf("“%.40s” is no duration; write it like 90 min, 1.5 h or 2 d", text)
	text = resaved(text)
	rest, sum, found := strings.ToLower(strings.TrimSpace(text)), int64(0), false
	for rest != "" {
		end := strings.IndexFunc(rest, func(r rune) bool { return !strings.ContainsRune("0123456789.,", r) })
		if end < 0 {
			end = len(rest)
		}
		number, err := readNumber(rest[:end], 6)
		if err != nil || end == 0 {
			return "", bad
		}
		amount, err := parse(number)
		if err != nil {
			return "", bad
		}
		rest = strings.TrimLeft(rest[end:], " ")
		end = strings.IndexFunc(rest, func(r rune) bool { return r < 'a' || r > 'z' })
		if end < 0 {
			end = len(rest)
		}
		unit := rest[:end]
		rest = strings.TrimLeft(rest[end:], " ")
		minutes := int64(0)
		for _, u := range in.units() {
			if slices.Contains(u.names, unit) {
				minutes = u.minutes
			}
		}
		if unit == "" && rest == "" && !found {
			minutes = 1
		}
		if minutes == 0 {
			return "", bad
		}
		if amount > maxAmount*Parts/minutes {
			return "", fmt.Errorf("“%.40s” is too long", text)
		}
		sum, found = sum+amount*minutes, true
		if sum > maxAmount*Parts {
			return "", fmt.Errorf("“%.40s” is too long", text)
		}
	}
	return FromAmount(sum), nil
}

// showDuration writes minutes in the largest units in which they come out: 3 d 2 h.
func showDuration(value string, in Measures) string {
	amount, err := parse(value)
	if err != nil {
		return value
	}
	var parts []string
	for _, u := range in.written() {
		one := u.minutes * Parts
		if u.minutes == 1 { // the rest, with its fraction
			if amount != 0 || len(parts) == 0 {
				parts = append(parts, FromAmount(amount)+" min")
			}
			break
		}
		if n := amount / one; n > 0 {
			parts = append(parts, fmt.Sprintf("%d %s", n, u.names[0]))
			amount -= n * one
		}
	}
	return strings.Join(parts, " ")
}

// twoUnits rounds a duration to the smaller of its two largest units; minutes alone to hundredths.
func (m Measures) twoUnits(amount int64) int64 {
	list := m.written()
	for i, u := range list {
		one := u.minutes * Parts
		if amount < one || u.minutes == 1 {
			continue
		}
		next := list[min(i+1, len(list)-1)].minutes * Parts
		return (amount + next/2) / next * next
	}
	const least = Parts / 100
	return (amount + least/2) / least * least
}

// readMoney takes a sign or code of a currency with the number.
func readMoney(text string, _ []string, _ Measures) (string, error) {
	return readNumber(strings.TrimSpace(strings.Trim(text, "€$£¥ABCDEFGHIJKLMNOPQRSTUVWXYZ \u00a0")), 2)
}

func showMoney(value string, in Measures) string {
	whole, part, _ := strings.Cut(value, ".")
	return strings.TrimSpace(whole + "." + (part + "00")[:2] + " " + in.Currency)
}

func readYesNo(text string, _ []string, _ Measures) (string, error) {
	switch strings.ToLower(text) {
	case "yes", "y", "true", "1", "x":
		return "yes", nil
	case "no", "n", "false", "0":
		return "no", nil
	}
	return "", fmt.Errorf("“%.40s” is neither yes nor no", text)
}

func readChoice(text string, choices []string, _ Measures) (string, error) {
	for _, c := range choices {
		if c == text {
			return c, nil
		}
	}
	for _, c := range choices {
		if strings.EqualFold(c, text) {
			return c, nil
		}
	}
	if len(choices) == 0 {
		return "", errors.New("the list of this field is empty; add to it first")
	}
	return "", fmt.Errorf("“%.40s” is not in the list: %s", text, strings.Join(choices[:min(len(choices), 8)], ", "))
}

// readDate reads 2026-11-28 (ISO 8601) and 28.11.2026. Dates with strokes can be read in two ways and are refused.
func readDate(text string, _ []string, _ Measures) (string, error) {
	bad := fmt.Errorf("“%.40s” is no date; write it like 2026-11-28", text)
	parts, order := strings.Split(text, "-"), []int{0, 1, 2}
	if strings.Contains(text, ".") {
		parts, order = strings.Split(text, "."), []int{2, 1, 0}
	}
	if len(parts) != 3 || len(parts[order[0]]) != 4 {
		return "", bad
	}
	var n [3]int
	for i, at := range order {
		v, err := strconv.ParseUint(strings.TrimSpace(parts[at]), 10, 16)
		if err != nil {
			return "", bad
		}
		n[i] = int(v)
	}
	if n[0] < 1 || n[1] < 1 || n[1] > 12 || n[2] < 1 || n[2] > daysIn(n[0], n[1]) {
		return "", bad
	}
	return fmt.Sprintf("%04d-%02d-%02d", n[0], n[1], n[2]), nil
}

// daysIn are the days of a month by the Gregorian calendar.
func daysIn(year, month int) int {
	switch month {
	case 2:
		if year%4 == 0 && (year%100 != 0 || year%400 == 0) {
			return 29
		}
		return 28
	case 4, 6, 9, 11:
		return 30
	}
	return 31
}

func readAddress(text string, _ []string, _ Measures) (string, error) {
	if strings.HasPrefix(text, "www.") {
		text = "https://" + text
	}
	scheme, rest, ok := strings.Cut(text, "://")
	if scheme = strings.ToLower(scheme); !ok || scheme != "http" && scheme != "https" || rest == "" ||
		strings.ContainsFunc(rest,
			func(r rune) bool { return r <= ' ' || r == '<' || r == '>' || r == '"' || r == 0x7f }) {
		return "", fmt.Errorf("“%.40s” is no web address; it begins with https://", text)
	}
	return plain(scheme+"://"+rest, 2000)
}
