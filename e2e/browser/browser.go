// Package browser drives headless Chromium the way a person would: by pointer,
// keys and what can be seen.
package browser

import (
	"context"
	"fmt"
	"os"
	"strings"
	"sync"
	"time"

	process "github.com/chromedp/cdproto/browser"
	"github.com/chromedp/cdproto/cdp"
	"github.com/chromedp/cdproto/emulation"
	"github.com/chromedp/cdproto/input"
	"github.com/chromedp/cdproto/page"
	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
)

// patience is how long a state may take to come about on a busy machine.
const patience = 45 * time.Second

// Failer is told when something did not work; testing.TB is one.
type Failer interface {
	Helper()
	Fatalf(format string, args ...any)
	Cleanup(func())
}

// Browser is a Chromium with a profile of its own: what pages of one keep, those of another do not see.
type Browser struct {
	f   Failer
	ctx context.Context
}

// chromium is the process that all browsers share, since starting one takes longer than most of what is done with it.
// It is started for the first of them.
var chromium struct {
	sync.Mutex
	ctx  context.Context
	stop func()
}

// Start returns a new browser, which ends with the test.
func Start(f Failer) *Browser {
	f.Helper()
	chromium.Lock()
	defer chromium.Unlock()
	if chromium.ctx == nil || chromium.ctx.Err() != nil {
		stop() // what is left of one that ended by itself
		if err := launch(); err != nil {
			stop()
			f.Fatalf("starting Chromium: %v", err)
		}
	}
	ctx, end := chromedp.NewContext(chromium.ctx, chromedp.WithNewBrowserContext())
	f.Cleanup(end)
	if err := chromedp.Do(ctx, chromedp.Navigate("about:blank")); err != nil {
		f.Fatalf("a browser of its own: %v", err)
	}
	return &Browser{f, ctx}
}

// Stop ends the process. It is for the end of all tests.
func Stop() {
	chromium.Lock()
	defer chromium.Unlock()
	stop()
}

func stop() {
	if chromium.stop != nil {
		chromium.stop()
	}
	chromium.ctx, chromium.stop = nil, nil
}

func launch() error {
	dir, err := os.MkdirTemp("", "chromium")
	if err != nil {
		return err
	}
	alloc, end := chromedp.NewExecAllocator(context.Background(),
		chromedp.NoFirstRun, chromedp.NoSandbox, chromedp.UserDataDir(dir),
		chromedp.Flag("headless", true), chromedp.Flag("disable-gpu", true), chromedp.Flag("disable-quic", true),
		chromedp.Flag("disable-background-networking", true), chromedp.Flag("disable-component-update", true),
		chromedp.Flag("disable-sync", true), chromedp.Flag("hide-scrollbars", true),
	)
	ctx, cancel := chromedp.NewContext(alloc)
	chromium.ctx, chromium.stop = ctx, func() {
		cancel()
		end()
		os.RemoveAll(dir)
	}
	return chromedp.Do(ctx, chromedp.Navigate("about:blank"))
}

// Page is one tab.
type Page struct {
	f     Failer
	ctx   context.Context
	x, y  float64
	Close func()
}

// watch collects what goes wrong in a page without being seen.
const watch = `window.faults = [];
addEventListener('error', e => faults.push(String(e.message)));
addEventListener('unhandledrejection', e => faults.push(String(e.reason)));
addEventListener('securitypolicyviolation', e => faults.push(e.violatedDirective + ' ' + e.blockedURI + ' ' + e.sample));`

// Faults returns the script errors and policy violations of the page so far.
func (p *Page) Faults() []string {
	p.f.Helper()
	return Eval[[]string](p, "window.faults")
}

// Open opens a page in a new tab of 1280 by 800 pixels.
func (b *Browser) Open(url string) *Page {
	b.f.Helper()
	ctx, cancel := chromedp.NewContext(b.ctx)
	p := &Page{f: b.f, ctx: ctx, Close: cancel}
	p.do(chromedp.EmulateViewport(1280, 800), chromedp.Func(func(ctx context.Context, t *chromedp.Target) error {
		_, err := cdp.Call(ctx, t, page.AddScriptToEvaluateOnNewDocument,
			page.AddScriptToEvaluateOnNewDocumentParams{Source: watch})
		return err
	}))
	p.Go(url)
	return p
}

func (p *Page) do(steps ...chromedp.Action[chromedp.Void]) {
	p.f.Helper()
	if err := chromedp.Do(p.ctx, steps...); err != nil {
		p.f.Fatalf("the browser: %v", err)
	}
}

// Do runs actions of chromedp on the page.
func (p *Page) Do(steps ...chromedp.Action[chromedp.Void]) { p.f.Helper(); p.do(steps...) }

// Go loads an address.
func (p *Page) Go(url string) {
	p.f.Helper()
	p.do(chromedp.Navigate(url))
}

// Prefers has the page shown to somebody whose system says so of a feature of media, such as "forced-colors" and
// "active".
func (p *Page) Prefers(feature, value string) {
	p.f.Helper()
	p.do(chromedp.Func(func(ctx context.Context, t *chromedp.Target) error {
		_, err := cdp.Call(ctx, t, emulation.SetEmulatedMedia, emulation.SetEmulatedMediaParams{
			Features: []*emulation.MediaFeature{{Name: feature, Value: value}}})
		return err
	}))
}

// Dark turns the page to the dark theme.
func (p *Page) Dark() {
	p.f.Helper()
	p.Prefers("prefers-color-scheme", "dark")
}

// AllowClipboard gives pages leave to read and write the clipboard, as somebody who is asked would.
func (p *Page) AllowClipboard() {
	p.f.Helper()
	p.do(chromedp.Func(func(ctx context.Context, t *chromedp.Target) error {
		for _, name := range []string{"clipboard-read", "clipboard-write"} {
			if _, err := cdp.Call(ctx, t, process.SetPermission, process.SetPermissionParams{
				Permission: &process.PermissionDescriptor{Name: name}, Setting: "granted",
				BrowserContextID: chromedp.FromContext(p.ctx).BrowserContextID}); err != nil {
				return err
			}
		}
		return nil
	}))
}

// Touchscreen makes the page one of a screen that is touched.
func (p *Page) Touchscreen() {
	p.f.Helper()
	p.do(chromedp.Func(func(ctx context.Context, t *chromedp.Target) error {
		_, err := cdp.Call(ctx, t, emulation.SetTouchEmulationEnabled,
			emulation.SetTouchEmulationEnabledParams{Enabled: true,
				MaxTouchPoints: 1})
		return err
	}))
}

// Phone has the page shown as on a phone, so many pixels wide and high.
func (p *Page) Phone(w, h int64) {
	p.f.Helper()
	p.do(chromedp.Func(func(ctx context.Context, t *chromedp.Target) error {
		_, err := cdp.Call(ctx, t, emulation.SetDeviceMetricsOverride,
			emulation.SetDeviceMetricsOverrideParams{Width: w, Height: h, DeviceScaleFactor: 2, Mobile: true})
		return err
	}))
}

// Downloads has files that are saved go into a folder.
func (p *Page) Downloads(folder string) {
	p.f.Helper()
	p.do(chromedp.Func(func(ctx context.Context, t *chromedp.Target) error {
		_, err := cdp.Call(ctx, t, process.SetDownloadBehavior, process.SetDownloadBehaviorParams{
			Behavior: process.SetDownloadBehaviorBehaviorAllow, DownloadPath: folder,
			BrowserContextID: chromedp.FromContext(p.ctx).BrowserContextID,
		})
		return err
	}))
}

// Eval returns the value of an expression in the page.
func Eval[T any](p *Page, expression string) T {
	p.f.Helper()
	v, err := chromedp.Run(p.ctx, chromedp.Evaluate[T](expression))
	if err != nil {
		p.f.Fatalf("%s: %v", expression, err)
	}
	return v
}

// Until waits for a condition to become true, across navigations.
func (p *Page) Until(condition string) {
	p.f.Helper()
	p.UntilWithin(patience, condition)
}

// UntilWithin is Until with another patience.
func (p *Page) UntilWithin(d time.Duration, condition string) {
	p.f.Helper()
	end := time.Now().Add(d)
	for {
		v, err := chromedp.Run(p.ctx, chromedp.Evaluate[bool]("!!("+condition+")"))
		if err == nil && v {
			return
		}
		if time.Now().After(end) {
			seen, _ := chromedp.Run(p.ctx, chromedp.Evaluate[string]("document.body.innerText.slice(0, 600)"))
			if file := os.Getenv("FAILURE_PICTURE"); file != "" {
				os.WriteFile(file, p.Picture(), 0o644)
			}
			p.f.Fatalf("waited %v in vain for %s (%v); the page shows: %s", d, condition, err,
				strings.Join(strings.Fields(seen), " "))
		}
		time.Sleep(15 * time.Millisecond) // between two looks, not for an effect
	}
}

// Mouse moves and buttons, in pixels of the window.

// Move moves the pointer, with the button as it is.
func (p *Page) Move(x, y float64, buttons int64, mods ...chromedp.Modifier) {
	p.f.Helper()
	p.mouse(input.DispatchMouseEventTypeMouseMoved, x, y, buttons, 0, mods)
	p.x, p.y = x, y
}

func (p *Page) mouse(kind input.DispatchMouseEventType, x, y float64, buttons, clicks int64, mods []chromedp.Modifier) {
	p.f.Helper()
	p.do(chromedp.MouseEvent(kind, x, y, func(m *input.DispatchMouseEventParams) {
		m.Buttons, m.ClickCount = buttons, clicks
		if kind != input.DispatchMouseEventTypeMouseMoved || buttons != 0 {
			m.Button = input.MouseButtonLeft
		}
		for _, k := range mods {
			m.Modifiers |= int64(k)
		}
	}))
}

// Press, Release and Click use the primary button.
func (p *Page) Press(x, y float64, mods ...chromedp.Modifier) {
	p.f.Helper()
	p.Move(x, y, 0, mods...)
	p.mouse(input.DispatchMouseEventTypeMousePressed, x, y, 1, 1, mods)
}

func (p *Page) Release(x, y float64, mods ...chromedp.Modifier) {
	p.f.Helper()
	p.mouse(input.DispatchMouseEventTypeMouseReleased, x, y, 0, 1, mods)
}

func (p *Page) Click(x, y float64, mods ...chromedp.Modifier) {
	p.f.Helper()
	p.Press(x, y, mods...)
	p.Release(x, y, mods...)
}

// DoubleClick clicks twice in one place.
func (p *Page) DoubleClick(x, y float64) {
	p.f.Helper()
	p.Click(x, y)
	p.mouse(input.DispatchMouseEventTypeMousePressed, x, y, 1, 2, nil)
	p.mouse(input.DispatchMouseEventTypeMouseReleased, x, y, 0, 2, nil)
}

// Drag presses at one place and lets go at another, with moves between.
func (p *Page) Drag(x0, y0, x1, y1 float64, mods ...chromedp.Modifier) {
	p.f.Helper()
	p.Press(x0, y0, mods...)
	const steps = 8
	for i := 1; i <= steps; i++ {
		t := float64(i) / steps
		p.Move(x0+(x1-x0)*t, y0+(y1-y0)*t, 1, mods...)
	}
	p.Release(x1, y1, mods...)
}

// Touch puts fingers on the window, moves them and lifts them: each is a list of
// places, the fingers in the same order throughout.
func (p *Page) Touch(steps ...[]Finger) {
	p.f.Helper()
	p.touch(input.DispatchTouchEventTypeTouchStart, steps[0])
	for i := 1; i < len(steps); i++ {
		const between = 6
		for k := 1; k <= between; k++ {
			at := make([]Finger, len(steps[i]))
			for j := range at {
				from, to := steps[i-1][j], steps[i][j]
				at[j] = Finger{from.X + (to.X-from.X)*float64(k)/between, from.Y + (to.Y-from.Y)*float64(k)/between}
			}
			p.touch(input.DispatchTouchEventTypeTouchMove, at)
		}
	}
	p.touch(input.DispatchTouchEventTypeTouchEnd, nil)
}

// PutFinger puts a finger down, and returns how it is lifted.
func (p *Page) PutFinger(x, y float64) (lift func()) {
	p.f.Helper()
	p.touch(input.DispatchTouchEventTypeTouchStart, []Finger{{x, y}})
	return func() { p.touch(input.DispatchTouchEventTypeTouchEnd, nil) }
}

func (p *Page) touch(kind input.DispatchTouchEventType, fingers []Finger) {
	p.f.Helper()
	points := []*input.TouchPoint{}
	for i, f := range fingers {
		id := float64(i + 1)
		points = append(points, &input.TouchPoint{X: f.X, Y: f.Y, ID: &id})
	}
	p.do(chromedp.Func(func(ctx context.Context, t *chromedp.Target) error {
		_, err := cdp.Call(ctx, t, input.DispatchTouchEvent,
			input.DispatchTouchEventParams{Type: kind, TouchPoints: points})
		return err
	}))
}

// Finger is the place of a finger in pixels of the window.
type Finger struct{ X, Y float64 }

// ClickRight clicks with the secondary button.
func (p *Page) ClickRight(x, y float64) {
	p.f.Helper()
	p.Move(x, y, 0)
	for _, kind := range []input.DispatchMouseEventType{input.DispatchMouseEventTypeMousePressed,
		input.DispatchMouseEventTypeMouseReleased} {
		p.do(chromedp.MouseEvent(kind, x, y, func(m *input.DispatchMouseEventParams) {
			m.Button, m.ClickCount = input.MouseButtonRight, 1
		}))
	}
}

// Key presses a key such as kb.Enter, or types a text.
func (p *Page) Key(keys string, mods ...chromedp.Modifier) {
	p.f.Helper()
	p.do(chromedp.Func(func(ctx context.Context, t *chromedp.Target) error {
		for _, r := range keys {
			events := kb.Encode(r)
			down, up := events[0], events[len(events)-1]
			for _, m := range mods {
				down.Modifiers |= int64(m)
				up.Modifiers |= int64(m)
			}
			if len(events) > 2 &&
				down.Modifiers&int64(chromedp.ModifierCtrl|chromedp.ModifierAlt|chromedp.ModifierMeta) == 0 {
				// With its text in the same event a key that the page takes for itself
				// writes nothing, as on a keyboard.
				down.Type, down.Text, down.UnmodifiedText = input.DispatchKeyEventTypeKeyDown, events[1].Text,
					events[1].UnmodifiedText
			} else {
				down.Type = input.DispatchKeyEventTypeRawKeyDown
			}
			for _, e := range []*input.DispatchKeyEventParams{down, up} {
				if _, err := cdp.Call(ctx, t, input.DispatchKeyEvent, *e); err != nil {
					return err
				}
			}
		}
		return nil
	}))
}

// Enter and friends, so that tests need not know the codes.
const (
	Enter     = kb.Enter
	Escape    = kb.Escape
	Delete    = kb.Delete
	Insert    = kb.Insert
	Backspace = kb.Backspace
	Tab       = kb.Tab
	Left      = kb.ArrowLeft
	Right     = kb.ArrowRight
	Up        = kb.ArrowUp
	Down      = kb.ArrowDown
	F1        = kb.F1
	F2        = kb.F2
	F3        = kb.F3
	F4        = kb.F4
	Home      = kb.Home
	End       = kb.End
	PageUp    = kb.PageUp
	PageDown  = kb.PageDown
)

// ClickOn clicks the middle of an element.
func (p *Page) ClickOn(selector string, mods ...chromedp.Modifier) {
	p.f.Helper()
	x, y := p.Middle(selector)
	p.Click(x, y, mods...)
}

// Choose gives a file to a file field.
func (p *Page) Choose(selector, file string) {
	p.f.Helper()
	p.do(chromedp.SetUploadFiles(selector, []string{file}))
}

// Middle returns the middle of an element, once it can be seen.
func (p *Page) Middle(selector string) (x, y float64) {
	p.f.Helper()
	q := fmt.Sprintf("document.querySelector(%q)", selector)
	p.Until(q + "?.getBoundingClientRect().width > 0")
	Eval[any](p, q+".scrollIntoView({block: 'nearest'})")
	v := Eval[[]float64](p, "(r => [r.x + r.width / 2, r.y + r.height / 2])("+q+".getBoundingClientRect())")
	return v[0], v[1]
}

// Text returns what an element says.
func (p *Page) Text(selector string) string {
	p.f.Helper()
	return Eval[string](p, fmt.Sprintf("document.querySelector(%q)?.textContent ?? ''", selector))
}

// Picture returns what the window shows as a PNG file.
func (p *Page) Picture() []byte {
	p.f.Helper()
	v, err := chromedp.Run(p.ctx, chromedp.CaptureScreenshot())
	if err != nil {
		p.f.Fatalf("taking a picture: %v", err)
	}
	return v
}

// PictureOf returns what a part of the window shows as a PNG file, so many times as large.
func (p *Page) PictureOf(x, y, w, h, scale float64) []byte {
	p.f.Helper()
	var out []byte
	p.do(chromedp.Func(func(ctx context.Context, t *chromedp.Target) error {
		got, err := cdp.Call(ctx, t, page.CaptureScreenshot,
			page.CaptureScreenshotParams{Clip: &page.Viewport{X: x, Y: y, Width: w, Height: h, Scale: scale}})
		out = got.Data
		return err
	}))
	return out
}

// Printed returns an address as Chromium prints it, on the paper that the page asks for; what the page prints itself is
// left out.
func (p *Page) Printed(url, ready string) []byte {
	p.f.Helper()
	var out []byte
	p.do(chromedp.Func(func(ctx context.Context, t *chromedp.Target) error {
		_, err := cdp.Call(ctx, t, page.AddScriptToEvaluateOnNewDocument,
			page.AddScriptToEvaluateOnNewDocumentParams{Source: "window.print = () => {}"})
		return err
	}))
	p.Go(url)
	p.Until(ready)
	p.do(chromedp.Func(func(ctx context.Context, t *chromedp.Target) error {
		own := true
		got, err := cdp.Call(ctx, t, page.PrintToPDF, page.PrintToPDFParams{PreferCSSPageSize: &own,
			PrintBackground: &own})
		out = got.Data
		return err
	}))
	return out
}
