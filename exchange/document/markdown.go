package document

import (
	"fmt"
	"strings"
)

// Markdown writes blocks as CommonMark. Pictures are the addresses of files, by the ids of sheets.
func Markdown(blocks []Block, pictures map[string]string) []byte {
	var out strings.Builder
	for i := range blocks {
		b := &blocks[i]
		text := markdownRuns(b.Runs)
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
		case Paragraph:
			fmt.Fprintf(&out, "%s\n\n", text)
		case Step:
			item := mark(b.Number)
			if strings.Trim(b.Number, "0123456789") != "" || b.Number == "" { // what would begin no item of a list
				item = "- " + strings.TrimPrefix(item, "•")
			}
			fmt.Fprintf(&out, "<a id=\"%s\"></a>\n%s %s\n\n", anchor(b.Number), strings.TrimSpace(item), text)
		case Under:
			fmt.Fprintf(&out, "    %s\n\n", text)
		case Picture:
			fmt.Fprintf(&out, "### %s\n\n", text)
			if file := pictures[b.ID]; file != "" {
				fmt.Fprintf(&out, "![%s](<%s>)\n\n", text, file)
			}
		}
	}
	return []byte(strings.TrimRight(out.String(), "\n") + "\n")
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

// escapeMarkdown writes text that Markdown would read as something else (CommonMark 0.31, 2.4).
func escapeMarkdown(text string) string {
	text = strings.NewReplacer("\\", "\\\\", "`", "\\`", "*", "\\*", "_", "\\_", "[", "\\[", "]", "\\]", "<", "\\<",
		">", "\\>", "#", "\\#", "&", "\\&", "|", "\\|", "~", "\\~", "!", "\\!").Replace(text)
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
