// Package phrase says small things in words: how many, how long ago, where a review stands.
package phrase

import (
	"fmt"
	"strings"
	"time"

	"plaintracer/store"
)

// Count writes a number with what is counted.
func Count(n int, what string) string {
	if n == 1 {
		return "1 " + what
	}
	return fmt.Sprintf("%d %ss", n, what)
}

// InDays is an end in so many days, as a form gives it.
func InDays(text string, usual time.Duration) (time.Time, error) {
	if text == "" {
		return time.Now().Add(usual), nil
	}
	t, err := time.ParseInLocation(time.DateOnly, text, time.Local)
	if err != nil || !t.AddDate(0, 0, 1).After(time.Now()) || t.After(time.Now().AddDate(1, 0, 0)) {
		return t, fmt.Errorf("choose a day that is still to come, within a year")
	}
	return t.AddDate(0, 0, 1), nil
}

// Sentence begins a text with a capital and ends it with a full stop.
func Sentence(text string) string {
	if text == "" {
		return ""
	}
	r := []rune(text)
	return strings.ToUpper(string(r[0])) + strings.TrimSuffix(string(r[1:]), ".") + "."
}

// Until says up to which day, in words; nothing for no end.
func Until(t time.Time) string {
	if t.IsZero() {
		return ""
	}
	return t.Add(-time.Second).Format("2 January 2006")
}

// Ago says how long something is past, in words.
func Ago(t time.Time) string {
	d := time.Since(t)
	plural := func(n int, unit string) string {
		if n == 1 {
			return "1 " + unit + " ago"
		}
		return fmt.Sprintf("%d %ss ago", n, unit)
	}
	switch {
	case d < time.Minute:
		return "just now"
	case d < time.Hour:
		return plural(int(d.Minutes()), "minute")
	case d < 24*time.Hour:
		return plural(int(d.Hours()), "hour")
	case d < 14*24*time.Hour:
		return plural(int(d.Hours()/24), "day")
	}
	return t.Format("2 January 2006")
}

// Clip returns the beginning of a text, at most so many characters.
func Clip(text string, n int) string {
	if r := []rune(text); len(r) > n {
		return string(r[:n])
	}
	return text
}

// ByName is what the author of something is called.
func ByName(names map[string]string, author string) string {
	switch {
	case names[author] != "":
		return names[author]
	case strings.HasPrefix(author, "link:"):
		return "somebody by a link"
	}
	return "somebody"
}

// StateOf says in words where the review of a map stands, by its latest round; nil for none.
func StateOf(r *store.Round, revision int) string {
	switch {
	case r == nil:
		return "draft"
	case r.Ended.IsZero():
		return "in review: " + r.Case(revision).Outcome()
	}
	c := r.Case(revision)
	of := fmt.Sprintf("version %d, %s", r.Version.Number, r.Ended.Format("2 January 2006"))
	if c.IsAgreed() {
		return "agreed: " + of + ", " + strings.TrimPrefix(c.Outcome(), "agreed ")
	}
	return "reviewed: " + of + ": " + c.Outcome()
}

// HeldLayout is how a map says since when its numbers are held.
const HeldLayout = "2006-01-02T15:04Z"

func InWords(d time.Duration) string {
	if s := int(d.Seconds()) + 1; s < 90 {
		return Count(s, "second")
	}
	return Count(int(d.Minutes())+1, "minute")
}

// Times says how often.
func Times(n int) string {
	if n == 1 {
		return "once"
	}
	return fmt.Sprint(n, " times")
}

// Size says how long a file is, in steps of 1024: 512 bytes, 40 KB, 1.4 MB.
func Size(n int) string {
	switch {
	case n < 1<<10:
		return Count(n, "byte")
	case n < 1<<20-1<<9:
		return fmt.Sprintf("%.0f KB", float64(n)/(1<<10))
	}
	return strings.TrimSuffix(fmt.Sprintf("%.1f", float64(n)/(1<<20)), ".0") + " MB"
}
