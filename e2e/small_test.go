package e2e

import (
	"fmt"
	"strings"
	"testing"

	"plaintracer/e2e/browser"
)

// smallWindows are the sizes at which everything has to be in reach: two screens, a tablet, a window at 200 %, two
// phones.
var smallWindows = [][2]int64{{1280, 800}, {1024, 768}, {820, 1180}, {640, 400}, {390, 844}, {320, 640}}

// No page is wider than its window, whatever the window is (WCAG 2.2, 1.4.10, asks for 320 px).
func TestNoPageIsWiderThanItsWindow(t *testing.T) {
	s := start(t, "demo")
	b := browser.Start(t)
	path := s.demo(b, "A street light is out")
	p := b.Open(s.URL + "/")
	reader := s.desk(b, path).readerPage(b)
	link := browser.Eval[string](reader, "location.href")
	reader.Close()
	pages := []string{s.URL + "/", s.URL + "/?view=list", s.URL + "/begin", s.URL + "/people", s.URL + "/audit", s.URL +
		"/me",
		s.URL + "/bin", s.URL + "/symbols", s.URL + "/help", s.URL + "/outbox", s.URL + path, s.URL + path + "?reading",
		s.URL + path + "/changes?from=visit", s.URL + path + "/show", s.URL + "/sign-in", s.URL + "/forgot",
		s.URL + path + "/export/page", link}
	// One for each layout of the pages.
	for _, size := range [][2]int64{{1280, 800}, {820, 1180}, {640, 400}, {320, 640}} {
		p.Phone(size[0], size[1])
		for _, page := range pages {
			p.Go(page)
			p.Until("document.readyState === 'complete'")
			if strings.HasSuffix(page, path) {
				p.Until("document.documentElement.dataset.ready")
			}
			if wide := browser.Eval[int64](p, "document.documentElement.scrollWidth"); wide > size[0] {
				t.Errorf("%s is %d px wide in a window of %d", page, wide, size[0])
			}
		}
	}
}

// In the editor what everybody needs is in reach in every window: nothing lies over it, and nothing of it outside. The
// side panel is a drawer in a small one, closed at first; the tray lies on the drawing and can be scrolled through.
func TestTheEditorFitsSmallWindows(t *testing.T) {
	s, path := stock(t, lamp())
	b := browser.Start(t)
	p := b.Open(s.URL + "/")
	for _, size := range smallWindows {
		p.Phone(size[0], size[1])
		p.Go(s.URL + path)
		p.Until("document.documentElement.dataset.ready")
		for _, what := range []string{"#share", "#export", "[data-command=undo]", "[data-command=redo]", "#draw",
			"#trace",
			"#review", "#fit", "#in", "#out", "#count", ".tray .piece", "#more-symbols"} {
			if got := browser.Eval[string](p, fmt.Sprintf(`(e => {
				const r = e.getBoundingClientRect(), at = document.elementFromPoint(r.x + r.width / 2, r.y + r.height / 2)
				return r.left < -1 || r.right > innerWidth + 1 || r.top < -1 || r.bottom > innerHeight + 1 ? 'outside' :
					e.contains(at) ? '' : 'under ' + (at?.id || at?.className)
			})(document.querySelector(%q))`, what)); got != "" {
				t.Errorf("at %d by %d %s is %s", size[0], size[1], what, got)
			}
		}
		small := size[0] < 1024
		if closed := browser.Eval[bool](p, "document.getElementById('book').hidden"); closed != small {
			t.Errorf("at %d px the side panel is closed: %v", size[0], closed)
		}
		if small {
			before := browser.Eval[float64](p, "document.getElementById('drawing').getBoundingClientRect().width")
			p.ClickOn("#open-book")
			p.Until("!document.getElementById('book').hidden")
			if after := browser.Eval[float64](p,
				"document.getElementById('drawing').getBoundingClientRect().width"); after != before {
				t.Errorf("at %d px the side panel takes %.0f px from the drawing", size[0], before-after)
			}
			p.ClickOn("#shut-book")
			p.Until("document.getElementById('book').hidden")
		}
		// The last of the tray can be brought into sight.
		if !browser.Eval[bool](p, `(e => {
			e.scrollIntoView({ inline: 'nearest', block: 'nearest' })
			const r = e.getBoundingClientRect(), tray = document.getElementById('tray').getBoundingClientRect()
			return r.left >= tray.left - 1 && r.right <= tray.right + 1
		})([...document.querySelectorAll('.pieces .piece')].filter(e => e.offsetParent).at(-1))`) {
			t.Errorf("at %d px the last symbol of the tray is out of reach", size[0])
		}
		if faults := p.Faults(); len(faults) > 0 {
			t.Errorf("at %d px the page reports %q", size[0], faults)
		}
	}
}

// On a phone the owner of a map reads it at first, and edits it on wish.
func TestOnAPhoneAMapIsReadAtFirst(t *testing.T) {
	s, path := stock(t, lamp())
	p := browser.Start(t).Open(s.URL + "/")
	p.Phone(390, 844)
	p.Touchscreen()
	p.Go(s.URL + path)
	p.Until("document.querySelector('#edit-anyway') && document.querySelector('#in-words li')")
	p.ClickOn("#edit-anyway")
	p.Until("document.documentElement.dataset.ready && document.getElementById('drawing')")
	p.Go(s.URL + "/")
	p.Go(s.URL + path)
	p.Until("document.documentElement.dataset.ready && document.getElementById('drawing')")
	if faults := p.Faults(); len(faults) > 0 {
		t.Errorf("the page reports %q", faults)
	}
}

// In the colours of the system the swatches keep theirs and say their names, and what is pressed or dimmed is marked;
// where more contrast is wished, soft text has the colour of the text.
func TestColoursOfTheSystemKeepMarks(t *testing.T) {
	s, path := stock(t, lamp())
	d := s.desk(browser.Start(t), path)
	style := func(selector, pseudo, name string) string {
		t.Helper()
		return browser.Eval[string](d.Page, fmt.Sprintf("getComputedStyle(document.querySelector(%q), %q)[%q]",
			selector,
			pseudo, name))
	}
	d.Prefers("forced-colors", "active")
	d.clickStep("Take the call")
	d.ClickOn("[data-needs=fill]")
	d.Until("document.querySelector('[data-swatches=fill]').offsetParent")
	const swatch = "[data-swatches=fill] [data-arg=moss]"
	if got := style(swatch+" .swatch", "", "backgroundColor"); got != "rgb(220, 235, 215)" {
		t.Errorf("moss is shown as %s", got)
	}
	if got := style(swatch, "::after", "content"); !strings.Contains(got, "moss green") {
		t.Errorf("its name is shown as %s", got)
	}
	if got := style("#draw", "", "outlineStyle"); got != "solid" {
		t.Errorf("what is pressed has the outline %s", got)
	}
	on, off := style("[data-command=straighten]", "", "color"), style("[data-needs=distribute]", "", "color")
	if on == off {
		t.Errorf("what is dimmed is as %s as what is not", off)
	}
	d.Prefers("prefers-contrast", "more")
	d.Until("getComputedStyle(document.getElementById('saved')).color === getComputedStyle(document.body).color")
}

// Nothing is cut when lines, letters and words stand as far apart as WCAG 2.2, 1.4.12, has it.
func TestTextMayStandFartherApart(t *testing.T) {
	s := start(t, "demo")
	p := browser.Start(t).Open(s.URL + "/")
	for _, page := range []string{"/", "/begin", "/people", "/audit", "/me", "/symbols", "/help", "/outbox"} {
		p.Go(s.URL + page)
		p.Until("document.readyState === 'complete'")
		cut := browser.Eval[[]string](p, `(() => {
			const style = new CSSStyleSheet()
			style.replaceSync('* { line-height: 1.5 !important; letter-spacing: 0.12em !important; ' +
				'word-spacing: 0.16em !important } p { margin-bottom: 2em !important }')
			document.adoptedStyleSheets = [style]
			const width = document.documentElement.scrollWidth
			const wide = width > innerWidth ? ['the page is ' + width + ' px wide'] : []
			const texts = [...document.querySelectorAll('button, a, h1, h2, th, td, label, summary, p, li')]
			return [...wide, ...texts.filter(e => {
				const { overflow, textOverflow } = getComputedStyle(e)
				return e.offsetParent && !e.closest('.skip, .visually-hidden') && ['hidden', 'clip'].includes(overflow) &&
					textOverflow !== 'ellipsis' && (e.scrollWidth > e.clientWidth + 2 || e.scrollHeight > e.clientHeight + 2)
			}).map(e => e.textContent.trim().slice(0, 40))]
		})()`)
		if len(cut) > 0 {
			t.Errorf("%s: %q", page, cut)
		}
	}
}
