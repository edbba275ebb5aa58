// The tray: a symbol clicked is in hand, further clicks set symbols down, a symbol dragged is set down where it
// is let go, a symbol double-clicked stays in hand.
import { byId, one, all, valueOf } from './dom.js'

/** Gives a button the face that a symbol has in the tray. @param {HTMLElement} button @param {string} kind */
export function asPiece(button, kind) {
  const piece = one(`.tray .piece[data-take="${kind}"]`)
  button.classList.add('piece')
  button.dataset.kind = kind
  button.title = piece.dataset.name ?? ''
  button.append(...[...piece.children].map(part => part.cloneNode(true)))
}

export function tray(app) {
  const panel = byId('all-symbols'), more = byId('more-symbols')
  const open = on => {
    panel.hidden = !on
    more.setAttribute('aria-expanded', on ? 'true' : 'false')
    if (on) byId('find-symbol').focus()
  }
  more.addEventListener('click', () => open(panel.hidden))
  panel.addEventListener('keydown', e => { if (e.key === 'Escape') { open(false); more.focus() } })
  // What is found stands in the order in which it fits.
  const entries = new Map(all('li', panel).map(li => [one('[data-take]', li).dataset.take, li])), rows = one('ul', panel)
  byId('find-symbol').addEventListener('input', e => {
    for (const li of entries.values()) li.hidden = true
    for (const kind of valueOf(app.core.symbols(e.target.value))) {
      const li = entries.get(kind)
      if (!li) continue
      li.hidden = false
      rows.append(li)
    }
  })
  // From the field Enter takes the first that is shown, and arrows go through them.
  const shown = () => all('li:not([hidden]) [data-take]', panel)
  panel.addEventListener('keydown', e => {
    const list = shown(), at = list.indexOf(document.activeElement)
    if (e.key === 'Enter' && e.target.id === 'find-symbol') { e.preventDefault(); list[0]?.click() }
    const step = { ArrowDown: 1, ArrowUp: -1 }[e.key]
    if (!step || !list.length) return
    e.preventDefault()
    if (at + step < 0) byId('find-symbol').focus()
    else list[Math.min(at + step, list.length - 1)].focus()
  })
  for (const piece of all('[data-take]')) {
    piece.addEventListener('pointerdown', e => {
      if (e.button !== 0) return
      const from = { x: e.clientX, y: e.clientY }
      let far = false
      const move = m => {
        far ||= Math.hypot(m.clientX - from.x, m.clientY - from.y) > 6
        if (!far) return
        if (app.bars.state.hand !== piece.dataset.take) { open(false); app.command('take', piece.dataset.take) }
        app.pointer('move', m)
      }
      const up = m => {
        document.removeEventListener('pointermove', move)
        document.removeEventListener('pointerup', up)
        if (!far) return
        const over = document.elementFromPoint(m.clientX, m.clientY)
        if (over?.closest('#drawing')) { app.pointer('down', m); app.pointer('up', m) } else app.command('put')
        app.focus()
      }
      document.addEventListener('pointermove', move)
      document.addEventListener('pointerup', up)
    })
    piece.addEventListener('click', e => {
      if (e.detail > 1) return
      open(false)
      app.command('tray', piece.dataset.take)
      app.focus()
    })
    piece.addEventListener('dblclick', () => { app.command('hold', piece.dataset.take); app.focus() })
  }
}
