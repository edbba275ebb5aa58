package e2e

import (
	"fmt"
	"testing"

	"plaintracer/e2e/browser"
)

// A window that was away while others made more edits than are told one by one gets the map as
// it is, keeps what was done in it meanwhile, and can still take it back.
func TestAWindowFarBehindCatchesUp(t *testing.T) {
	s := start(t, "demo")
	b := browser.Start(t)
	path := s.demo(b, "Lend a cargo bike")
	away, busy := s.desk(b, path), s.desk(b, path)
	browser.Eval[any](away.Page, "(s => { s.connect = () => {}; s.socket.close(); return 0 })(plainTracerApp.sync)")
	away.Until("document.getElementById('saved').textContent.startsWith('No connection')")
	away.rewrite("Loan slip", "Signed slip")
	away.Until("document.getElementById('saved').textContent.includes('One change')")
	busy.clickStep("Renew the card")
	browser.Eval[any](busy.Page,
		"(() => { for (let i = 0; i < 450; i++) { plainTracer.key(i % 3 ? 'ArrowUp' : 'ArrowDown', 0); plainTracerApp.flush() } })()")
	busy.saved()
	browser.Eval[any](away.Page, "(s => { delete s.connect; s.connect(); return 0 })(plainTracerApp.sync)")
	away.saved()
	for _, w := range []*desk{away, busy} {
		w.Until("plainTracerApp.sync.revision > 420 && document.getElementById('symbols').textContent.includes('Signed slip')")
	}
	for _, w := range []*desk{away, busy} { // both at the same
		w.Until(fmt.Sprintf("plainTracerApp.sync.revision === %d",
			max(browser.Eval[int](away.Page, "plainTracerApp.sync.revision"),
				browser.Eval[int](busy.Page, "plainTracerApp.sync.revision"))))
	}
	if one, other := browser.Eval[string](away.Page, shownJS), browser.Eval[string](busy.Page, shownJS); one != other {
		t.Error("the two windows show different maps")
	}
	away.Key("z", ctrl)
	busy.Until("document.getElementById('symbols').textContent.includes('Loan slip')")
	away.saved()
	away.sound()
	busy.sound()
}

// Changes that an earlier window left behind and that nobody takes do not keep the map from
// opening; it says what became of them.
func TestLeftoversThatNobodyTakes(t *testing.T) {
	s := start(t, "demo")
	b := browser.Start(t)
	path := s.demo(b, "Lend a cargo bike")
	d := s.desk(b, path)
	browser.Eval[any](d.Page, fmt.Sprintf(`(async () => {
		const map = %q, { window: name, secret } = await (await fetch('/maps/' + map + '/state')).json()
		const text = (id, text) => ({ do: 'setText', sheet: 'lend', id, text })
		localStorage.setItem('pending ' + map + ' ' + name, JSON.stringify({ window: name, secret, edits: [{ seq: 1, edit: text('b9', 'Paper slip') }, { seq: 2, edit: text('nobody', 'x') }] }))
		localStorage.setItem('pending ' + map + ' wforged', JSON.stringify({ window: 'wforged', secret: 'guessed', edits: [{ seq: 1, edit: text('b9', 'Stolen slip') }] }))
		localStorage.setItem('pending ' + map + ' w7', JSON.stringify([{ window: 'w7', seq: 1, edit: text('b4', 'Renew it') }]))
		window.laid = true
	})()`, path[len("/maps/"):]))
	d.Until("window.laid")
	d.Close()
	d = s.desk(b, path)
	words := "document.getElementById('words').textContent"
	d.Until(words + ".includes('2 changes from an earlier window had not been saved and are now') && " + words +
		".includes('could not be made any more') && " + words + ".includes('kept in this browser')")
	d.Until("document.getElementById('symbols').textContent.includes('Paper slip') && document.getElementById('symbols').textContent.includes('Renew it')")
	if left := browser.Eval[[]string](d.Page,
		"Object.keys(localStorage).filter(k => k.startsWith('pending '))"); len(left) != 1 {
		t.Errorf("what waits is %q", left)
	}
	d.sound()
}
