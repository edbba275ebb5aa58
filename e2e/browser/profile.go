package browser

import (
	"cmp"
	"context"
	"fmt"
	"maps"
	"slices"
	"strings"

	"github.com/chromedp/cdproto/cdp"
	"github.com/chromedp/cdproto/profiler"
	"github.com/chromedp/chromedp"
)

// Profile does something and returns, as a table, the functions of the page that took most of the time themselves.
// Those of the core have names where it was built with them (tools/browsercore -names).
func (p *Page) Profile(do func(), most int) string {
	p.f.Helper()
	call := func(f func(ctx context.Context, t *chromedp.Target) error) {
		p.f.Helper()
		p.do(chromedp.Func(f))
	}
	call(func(ctx context.Context, t *chromedp.Target) error {
		if _, err := cdp.Call(ctx, t, profiler.Enable, cdp.Empty{}); err != nil {
			return err
		}
		if _, err := cdp.Call(ctx, t, profiler.SetSamplingInterval,
			profiler.SetSamplingIntervalParams{Interval: 200}); err != nil {
			return err
		}
		_, err := cdp.Call(ctx, t, profiler.Start, cdp.Empty{})
		return err
	})
	do()
	hits, all := map[string]int64{}, int64(0)
	call(func(ctx context.Context, t *chromedp.Target) error {
		taken, err := cdp.Call(ctx, t, profiler.Stop, cdp.Empty{})
		if err != nil {
			return err
		}
		for _, n := range taken.Profile.Nodes {
			if name := n.CallFrame.FunctionName; name != "(idle)" && n.HitCount > 0 {
				hits[name] += n.HitCount
				all += n.HitCount
			}
		}
		return nil
	})
	names := slices.SortedFunc(maps.Keys(hits),
		func(a, b string) int { return cmp.Or(cmp.Compare(hits[b], hits[a]), cmp.Compare(a, b)) })
	var out strings.Builder
	for _, name := range names[:min(most, len(names))] {
		fmt.Fprintf(&out, "%5.1f %%  %s\n", 100*float64(hits[name])/float64(all), name)
	}
	return out.String()
}
