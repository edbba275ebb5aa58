package browser

import (
	"context"
	"encoding/json"
	"strings"

	"github.com/chromedp/cdproto/accessibility"
	"github.com/chromedp/cdproto/cdp"
	"github.com/chromedp/chromedp"
)

// Heard returns what a screen reader is told of the page, in its order: of every node of the accessibility tree its
// role and its name, with a space between them.
func (p *Page) Heard() (list []string) {
	p.f.Helper()
	p.do(chromedp.Func(func(ctx context.Context, t *chromedp.Target) error {
		tree, err := cdp.Call(ctx, t, accessibility.GetFullAXTree, accessibility.GetFullAXTreeParams{})
		if err != nil {
			return err
		}
		nodes := map[accessibility.NodeID]*accessibility.Node{}
		for _, n := range tree.Nodes {
			nodes[n.NodeID] = n
		}
		said := func(v *accessibility.Value) (text string) {
			if v != nil {
				_ = json.Unmarshal(v.Value, &text) // what is no text has no name
			}
			return text
		}
		var walk func(n *accessibility.Node)
		walk = func(n *accessibility.Node) {
			if n == nil {
				return
			}
			if text := strings.TrimSpace(said(n.Role) + " " + said(n.Name)); !n.Ignored && text != "" {
				list = append(list, text)
			}
			for _, id := range n.ChildIDs {
				walk(nodes[id])
			}
		}
		if len(tree.Nodes) > 0 {
			walk(tree.Nodes[0])
		}
		return nil
	}))
	return list
}
