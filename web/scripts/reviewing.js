// Review, the third way of working: what people say of the map, beside it and on it.
import { byId, one, all } from './dom.js'
import { refresh } from './parts.js'
import { Remarks } from './remarks.js'

/** Sets Review up on the editor's page, and returns its remarks. @param {any} app */
export function reviewing(app) {
  const open = () => { if (byId('remarks').hidden || byId('book').hidden) byId('tab-remarks').click() }
  const remarks = new Remarks({
    base: app.base, layer: byId('flags'), open, sheet: () => app.bars.state.sheet,
    name: id => {
      const number = one(`.register [data-find="${CSS.escape(id)}"] .number`)?.textContent
      if (number) return `step ${number}`
      const text = app.core.textOf(id, '')[0]?.split('\n')[0] // a card, or what stands in a journey
      return text ? `“${text.slice(0, 60)}”` : 'what is selected'
    },
    goTo: (id, sheet) => { if (id) app.command('find', id); else if (sheet) app.command('sheet', sheet) },
    marked: cells => app.register?.mark(cells),
    take: (id, text) => {
      app.command('find', id)
      app.core.perform(JSON.stringify({ do: 'setText', sheet: app.bars.state.sheet, id, text }), 'The proposed text is taken. Undo brings the other one back.')
      app.flush()
      return true
    },
  })
  app.sync.said = () => remarks.heard()
  const way = on => {
    document.body.classList.toggle('reviewing', on)
    one('.review-strip').hidden = !on
    one('.draw-strip').hidden = on
    byId('review').setAttribute('aria-pressed', String(on))
    if (on) byId('draw').setAttribute('aria-pressed', 'false')
    if (on) open()
    app.resized()
  }
  byId('review').addEventListener('click', () => way(byId('review').getAttribute('aria-pressed') !== 'true'))
  byId('draw').addEventListener('click', () => { way(false); byId('draw').setAttribute('aria-pressed', 'true') })
  byId('trace').addEventListener('click', () => way(false))
  const step = by => {
    const list = all('#remarks .thread'), now = list.findIndex(t => t.classList.contains('here'))
    const to = list[(now + by + list.length) % list.length]
    if (to) { remarks.show(to.dataset.thread); one('[data-goto]', to).click() }
  }
  const write = () => remarks.write(app.bars.state.selected?.[0])
  let placing = false
  const place = () => {
    app.bars.say('Click the place on the sheet that the remark is about.')
    placing = true
  }
  byId('review-write').addEventListener('click', write)
  byId('review-place').addEventListener('click', place)
  byId('review-before').addEventListener('click', () => step(-1))
  byId('review-next').addEventListener('click', () => step(1))
  byId('desk').addEventListener('pointerdown', e => {
    if (!placing) return
    placing = false
    e.stopPropagation()
    e.preventDefault()
    const r = byId('desk').getBoundingClientRect()
    remarks.write('', { x: Math.round((e.clientX - r.x - app.pan.x) / app.zoom * 100), y: Math.round((e.clientY - r.y - app.pan.y) / app.zoom * 100) })
  }, true)
  document.addEventListener('keydown', e => {
    const at = /** @type {any} */ (e.target)
    if (!document.body.classList.contains('reviewing') || e.ctrlKey || e.metaKey || e.altKey || at.matches('input, textarea, select') || one('dialog[open]')) return
    const what = { r: write, n: () => step(1), p: () => step(-1) }[e.key]
    if (!what) return
    e.preventDefault()
    e.stopPropagation()
    what()
  }, true)
  if (document.body.hasAttribute('data-asked')) way(true) // somebody waits for what this person says
  refresh(byId('remarks')) // for the flags
  return remarks
}
