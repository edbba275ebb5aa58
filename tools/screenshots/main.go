// Command screenshots takes the pictures in docs/screenshots from a running
// demo: screenshots [ADDRESS [NAME...]].
package main

import (
	"log"
	"os"
	"path/filepath"
	"slices"

	"github.com/chromedp/chromedp"

	"plaintracer/e2e/browser"
)

type failer struct{ cleanup []func() }

func (f *failer) Helper()                           {}
func (f *failer) Cleanup(do func())                 { f.cleanup = append(f.cleanup, do) }
func (f *failer) Fatalf(format string, args ...any) { f.end(); log.Fatalf(format, args...) }
func (f *failer) end() {
	for _, do := range slices.Backward(f.cleanup) {
		do()
	}
	f.cleanup = nil
}

// view is a main view: where it is, and what to do before the picture.
type view struct {
	name, path string
	prepare    func(p *browser.Page)
}

func step(p *browser.Page, text string) (x, y float64) {
	at := browser.Eval[[]float64](p,
		`(t => { const r = [...document.querySelectorAll('#symbols .symbol')].find(g => [...g.querySelectorAll('text')].map(x => x.textContent).join(' ').includes(t)).getBoundingClientRect(); return [r.x + r.width / 2, r.y + r.height / 2] })("`+text+`")`)
	return at[0], at[1]
}

func main() {
	log.SetFlags(0)
	base, only := "http://127.0.0.1:8080", []string{}
	if len(os.Args) > 1 {
		base, only = os.Args[1], os.Args[2:]
	}
	f := &failer{}
	defer f.end()
	defer browser.Stop()
	b := browser.Start(f)
	home := b.Open(base + "/")
	light := browser.Eval[string](home,
		`[...document.querySelectorAll('.card h2 a')].find(a => a.textContent.includes('street light')).getAttribute('href')`)
	bike := browser.Eval[string](home,
		`[...document.querySelectorAll('.card h2 a')].find(a => a.textContent.includes('cargo bike')).getAttribute('href')`)
	who := browser.Eval[string](home,
		`[...document.querySelectorAll('.card h2 a')].find(a => a.textContent.includes('Who is who')).getAttribute('href')`)
	ready := func(p *browser.Page) {
		p.Until("document.documentElement.dataset.ready && document.querySelectorAll('.register li').length > 3 && document.getElementById('saved').textContent === 'Saved'")
	}
	views := []view{
		{"home", "/", func(p *browser.Page) {
			p.Until("[...document.images].every(i => i.complete && i.naturalWidth > 0)")
		}},
		{"begin", "/begin", func(p *browser.Page) {
			p.Until("[...document.images].slice(0, 8).every(i => i.complete && i.naturalWidth > 0)")
		}},
		{"people", "/people", func(p *browser.Page) { p.Until("document.querySelector('.people tbody tr')") }},
		{"editor", light, ready},
		{"share", light, func(p *browser.Page) {
			ready(p)
			p.ClickOn("#share")
			p.Until("document.querySelector('#links p') && document.querySelector('#shares .give')")
			p.ClickOn("#links .new-link button")
			p.Until("document.querySelector('#links [data-made]')")
		}},
		{"trace", light, func(p *browser.Page) {
			ready(p)
			p.ClickOn("#trace")
			for range 4 {
				p.Key(browser.Enter)
			}
			p.Key("2")
			p.Key(browser.Enter)
		}},
		{"show", light + "/show", func(p *browser.Page) {
			p.Until("location.hash.startsWith('#stop=')")
			p.Key("s")
			p.Until("document.querySelector('#sheet .standing')")
			for range 3 {
				at := p.Text("#case-at")
				p.Key(browser.Right)
				p.Until("document.getElementById('case-at').textContent !== '" + at + "'")
			}
			p.Key(browser.Right)
			p.Until("document.getElementById('case-at').textContent.endsWith('?')")
		}},
		{"sheets", light, func(p *browser.Page) {
			ready(p)
			p.Key("j", chromedp.ModifierAlt)
			p.Until("document.querySelectorAll('#sheets-list svg').length === 4")
		}},
		{"files", light, func(p *browser.Page) {
			ready(p)
			p.ClickOn("[aria-controls=attached]")
			p.Until("document.querySelector('.attached a')")
			x, y := step(p, "Work order")
			p.Click(x, y)
			p.Key("a", chromedp.ModifierAlt)
			p.Until("document.getElementById('links-dialog').open && document.querySelectorAll('#links-list li').length === 2")
		}},
		{"journey", light, func(p *browser.Page) {
			ready(p)
			p.ClickOn("#tabs [role=tab]:last-child")
			p.Until("document.getElementById('symbols').textContent.includes('A date, at least')")
			x, y := step(p, "Reports the lamp")
			p.Click(x, y)
		}},
		{"hierarchy", who, func(p *browser.Page) {
			ready(p)
			x, y := step(p, "Emil Storm")
			p.Move(x, y, 0)
			p.Until("document.querySelector('#overlay .walked')")
		}},
		{"layout", bike, func(p *browser.Page) {
			ready(p)
			p.ClickOn("[data-command=lay-out]")
			p.Until("!document.getElementById('proposal').hidden")
		}},
		{"review", light + "#page=review", func(p *browser.Page) {
			ready(p)
			p.Until("document.querySelector('.since') && document.querySelector('#flags .changed-mark')")
			p.Key("n")
			p.Key("n")
			p.Until("document.querySelector('#flags .flag')")
			x, y := step(p, "All in stock?")
			p.Click(x, y)
			p.Key("r")
			p.Until("!document.getElementById('said-here').hidden && document.querySelector('#said-threads .thread')")
		}},
		{"register", light + "/table", func(p *browser.Page) {
			p.Until("document.querySelectorAll('.grid-body .grid-row').length > 5")
			browser.Eval[any](p, `(() => { const app = plainTracerApp, g = app.register.grid
				app.core.perform(JSON.stringify({ do: 'setHead', shown: ['f-time', 'f-wait'], colourBy: 'f-system' }), '')
				app.flush()
				g.focus()
				g.go(5, g.columns.findIndex(c => c.id === 'f-system'))
				const by = document.getElementById('wide-by')
				by.value = 'who'
				by.dispatchEvent(new Event('change')) })()`)
			p.Until("document.getElementById('saved').textContent === 'Saved' && " +
				"document.querySelector('#tabs [aria-selected=true]').textContent === 'Report and diagnosis'")
		}},
		{"changes", light + "#page=remarks", func(p *browser.Page) {
			p.Until("document.querySelector('.since a')")
			browser.Eval[any](p, "document.querySelector('.since a').click()")
			p.Until("document.querySelector('.over .new')?.naturalWidth > 0 && document.querySelector('.over .old').naturalWidth > 0 && document.readyState === 'complete'")
			browser.Eval[any](p,
				"(() => { const s = document.getElementById('slider'); s.value = 45; s.dispatchEvent(new Event('input')) })()")
			p.Key("n")
		}},
		{"export", light, func(p *browser.Page) {
			ready(p)
			p.ClickOn("#export")
			p.Until("document.querySelector('#export-sight img')?.naturalWidth && !document.querySelector('#export-sight.waiting')")
		}},
		{"procedure", light + "/export/procedure-html?inline=1", func(p *browser.Page) {
			p.Until("document.querySelector('.step')")
		}},
	}
	for _, v := range views {
		if len(only) > 0 && !slices.Contains(only, v.name) {
			continue
		}
		p := b.Open(base + v.path)
		v.prepare(p)
		write(v.name, p)
		if v.name == "share" {
			link := browser.Eval[string](p, "document.querySelector('#links [data-made]').value")
			r := b.Open(link)
			r.Until("document.getElementById('live').textContent === 'Live'")
			write("reader", r)
			browser.Eval[any](p, "document.querySelector('.new-link [name=purpose]').value = 'remark'")
			p.ClickOn("#links .new-link button")
			p.Until("document.querySelector('#links [data-made]')?.value.includes('/m/')")
			link = browser.Eval[string](p, "document.querySelector('#links [data-made]').value")
			r.Phone(390, 800)
			r.Go(link)
			r.Until("document.getElementById('live')?.textContent === 'Live' && document.querySelector('#new-remark')")
			write("phone", r)
		}
		p.Close()
	}
}

func write(name string, p *browser.Page) {
	file := filepath.Join("docs", "screenshots", name+".png")
	if err := os.WriteFile(file, p.Picture(), 0o644); err != nil {
		log.Fatal(err)
	}
}
