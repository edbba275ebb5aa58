// Talk: the conversation on the map, as a narrow strip that may stay open beside the drawing. What is said in it is kept with the
// map; a line can be pinned to a step, and is a remark then.
import { byId, one, around, fromPage } from './dom.js'
import { fetchPart, sendPart } from './parts.js'

/** Sets the strip up. @param {any} app */
export function talking(app) {
  const strip = byId('talk'), list = byId('talk-list'), button = byId('talk-open')
  const shown = () => !strip.hidden
  let last = ''
  const load = async () => {
    await fetchPart(`${app.base}/talk`, '#talk-list')
  }
  const arrived = () => {
    const lines = one('.lines', list), latest = lines?.lastElementChild?.dataset.line ?? ''
    if (latest === last) return
    last = latest
    lines.scrollTop = lines.scrollHeight
  }
  document.addEventListener('htmx:after:swap', () => { if (shown()) arrived() })
  const open = on => {
    strip.hidden = !on
    button.setAttribute('aria-pressed', String(on))
    try { localStorage.setItem('talk', on ? 'open' : '') } catch { /* it is asked for anew then */ }
    if (on) load().then(() => one('[name=text]', list)?.focus({ preventScroll: true }))
    app.resized()
  }
  button.addEventListener('click', () => open(!shown()))
  one('[data-shut]', strip).addEventListener('click', () => { open(false); app.focus() })
  strip.addEventListener('keydown', e => { if (e.key === 'Escape') { e.stopPropagation(); app.focus() } })
  list.addEventListener('submit', async e => {
    e.preventDefault()
    const form = e.target, field = form.elements.text, said = field.value
    if (!said.trim()) return
    await sendPart(`${app.base}/talk`, '#talk-list', Object.fromEntries(new FormData(form)))
    const now = one('[name=text]', list)
    if (now?.value === said && !one('.refusal', list)) now.value = ''
  })
  list.addEventListener('click', e => {
    const step = around(e, '[data-goto]'), pin = around(e, '[data-pin]')
    if (step) { e.preventDefault(); app.command('find', step.dataset.goto) }
    if (!pin) return
    const item = app.bars.state.selected?.[0]
    if (!item) { app.bars.say('Select the step first to which this is to be pinned.'); return }
    sendPart(`${app.base}/remarks/${pin.dataset.pin}/pin`, '#remarks', { item }).then(load)
  })
  // Others see that somebody writes, at most every few seconds.
  let told = 0, gone = 0
  list.addEventListener('input', () => {
    if (Date.now() - told < 3000) return
    told = Date.now()
    fetch(`${app.base}/talk/writing`, { method: 'POST', headers: fromPage() })
  })
  app.sync.talks = name => {
    const writes = byId('talk-writes')
    if (!writes || name === document.body.dataset.me) return
    writes.textContent = `${name} writes…`
    clearTimeout(gone)
    gone = setTimeout(() => { if (byId('talk-writes')) byId('talk-writes').textContent = '' }, 4000)
  }
  app.sync.present = who => { byId('talk-here').textContent = who.length ? `Here: ${who.join(', ')}` : '' }
  try { if (localStorage.getItem('talk') === 'open' && innerWidth >= 1024) { strip.hidden = false; button.setAttribute('aria-pressed', 'true'); load() } } catch { /* it stays shut */ }
  return { heard: () => { if (shown()) load() } }
}
