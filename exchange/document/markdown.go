package document

import (
	"fmt"
	"strings"
)

// Markdown writes blocks as CommonMark. Pictures are the addresses of files, by the ids of sheets; a sheet without one
// is left out.
func Markdown(blocks []Block, pictures map[string]string) []byte {
	var out strings.Builder
	// An item of a list is indented by its mark, and what stands under it by as much (CommonMark 0.31, 5.2). A list
	// that does not count on from the one before is parted from it.
	indent, next := "", 0
	for i := range blocks {
		b := &blocks[i]
		text := strings.ReplaceAll(markdownRuns(b.Runs), "\n", "\\\n"+indent)
		if b.Kind != Step && b.Kind != Under {
			indent, next = "", 0
		}
		switch b.Kind {
		case Title:
			fmt.Fprintf(&out, "# %s\n\n", text)
		case Facts, Item:
			fmt.Fprintf(&out, "- %s\n", text)
			if i+1 == len(blocks) || blocks[i+1].Kind != b.Kind {
				out.WriteString("\n")
			}
		case Heading:
			fmt.Fprintf(&out, "## %s\n\n", text)
		case Section:
			fmt.Fprintf(&out, "### %s\n\n", text)
		case Subsection:
			fmt.Fprintf(&out, "#### %s\n\n", text)
		case Paragraph:
			fmt.Fprintf(&out, "%s\n\n", text)
		case Step:
			item := "- "
			number, numbered := counted(b.Number)
			if numbered {
				item = fmt.Sprintf("%d. ", number)
			}
			if indent != "" && (!numbered || number != next) && !(!numbered && next == 0) {
				out.WriteString("<!-- -->\n\n")
			}
			indent = strings.Repeat(" ", len(item))
			if next = 0; numbered {
				next = number + 1
			}
			said := strings.ReplaceAll(markdownRuns(b.Runs), "\n", "\\\n"+indent)
			if !numbered && b.Number != "" {
				said = "**" + escapeMarkdown(b.Number) + "** " + said
			}
			fmt.Fprintf(&out, "%s<a id=\"%s\"></a>%s\n\n", item, anchor(b.Number), said)
		case Under:
			fmt.Fprintf(&out, "%s%s\n\n", indent, text)
		case Table:
			markdownTable(&out, b)
		case Picture:
			if file := pictures[b.ID]; file != "" {
				fmt.Fprintf(&out, "![%s](<%s>)\n\n", text, file)
			}
		}
	}
	return []byte(strings.TrimRight(out.String(), "\n") + "\n")
}

// markdownTable writes a table (GitHub Flavored Markdown 0.29, 4.10), which has a head in any case.
func markdownTable(out *strings.Builder, b *Block) {
	row := func(cells []string) {
		for _, c := range cells {
			fmt.Fprintf(out, "| %s ", strings.ReplaceAll(special.Replace(c), "\n", " "))
		}
		out.WriteString("|\n")
	}
	rows := b.Rows
	if !b.Head {
		rows = append([][]string{make([]string, len(rows[0]))}, rows...)
	}
	for i, cells := range rows {
		row(cells)
		if i == 0 {
			out.WriteString(strings.Repeat("|---", len(cells)) + "|\n")
		}
	}
	out.WriteString("\n")
}

func markdownRuns(runs []Run) string {
	var out strings.Builder
	for _, r := range runs {
		if r.Address != "" {
			fmt.Fprintf(&out, "[%s](<%s>)", escapeMarkdown(r.Text), r.Address)
			continue
		}
		if r.To != "" {
			fmt.Fprintf(&out, "[%s](#%s)", r.Text, anchor(r.Text))
			continue
		}
		out.WriteString(escapeMarkdown(r.Text))
	}
	return out.String()
}

// special are the signs that mean something wherever they stand.
var special = strings.NewReplacer("\\", "\\\\", "`", "\\`", "*", "\\*", "_", "\\_", "[", "\\[", "]", "\\]", "<", "\\<",
	">", "\\>", "#", "\\#", "&", "\\&", "|", "\\|", "~", "\\~", "!", "\\!")

// escapeMarkdown writes text that Markdown would read as something else (CommonMark 0.31, 2.4).
func escapeMarkdown(text string) string {
	text = special.Replace(text)
	// At the beginning a sign may make a list or a rule of it.
	if text != "" && strings.ContainsRune("+-=", rune(text[0])) {
		text = "\\" + text
	}
	digits := strings.TrimLeft(text, "0123456789")
	if n := len(text) - len(digits); n > 0 && digits != "" && (digits[0] == '.' || digits[0] == ')') {
		text = text[:n] + "\\" + digits
	}
	return text
}
