// Review, the third way of working: what people say of the map, beside it and on it.
import { byId, one, all, around } from './dom.js'
import { Remarks } from './remarks.js'
import { talking } from './talk.js'

/** Sets Review up on the editor's page, and returns its remarks. @param {any} app */
export function reviewing(app) {
  // Word of what others say can be kept back for an hour.
  const quiet = () => Number(sessionStorage.getItem('quiet') ?? 0) > Date.now()
  const open = () => { if (byId('remarks').hidden || byId('book').hidden) byId('tab-remarks').click() }
  const remarks = new Remarks({
    base: app.base, layer: byId('flags'), open, sheet: () => app.bars.state.sheet,
    name: id => {
      const number = one(`.register [data-find="${CSS.escape(id)}"] .number`)?.textContent
      if (number) return `step ${number}`
      const text = app.core.textOf(id, '')[0]?.split('\n')[0] // a card, or what stands in a journey
      return text ? `“${text.slice(0, 60)}”` : 'what is selected'
    },
    textOf: id => app.core.textOf(id, '')[0] ?? '', focus: () => app.focus(),
    told: ({ n, thread, by, about }, more) => {
      const tab = byId('tab-remarks')
      tab.dataset.new = n || ''
      if (n) tab.setAttribute('aria-description', n === 1 ? 'one new' : `${n} new`)
      else tab.removeAttribute('aria-description')
      if (more && !quiet() && byId('talk').hidden) app.bars.say(`${by} said something on ${about.toLowerCase() === 'the whole map' ? 'the whole map' : about}.`, { text: 'Show', run: () => remarks.show(thread) })
    },
    awaited: by => {
      document.body.toggleAttribute('data-asked', !!by)
      byId('review').title = by ? `${by} asks for your review` : ''
      app.bars.titled()
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
  const talk = talking(app)
  app.sync.said = () => { remarks.heard(); talk.heard() }
  byId('remarks').addEventListener('click', e => {
    const button = around(e, '[data-quiet]')
    if (!button) return
    if (quiet()) sessionStorage.removeItem('quiet')
    else sessionStorage.setItem('quiet', String(Date.now() + 3600e3))
    button.setAttribute('aria-pressed', String(quiet()))
  })
  document.addEventListener('htmx:after:swap', () => one('[data-quiet]')?.setAttribute('aria-pressed', String(quiet())))
  const way = on => {
    document.body.classList.toggle('reviewing', on)
    one('.review-strip').hidden = !on
    one('.draw-strip').hidden = on
    byId('review').setAttribute('aria-pressed', String(on))
    if (on) byId('draw').setAttribute('aria-pressed', 'false')
    if (on) open()
    else remarks.here.shut(false)
    app.resized()
  }
  byId('review').addEventListener('click', () => way(byId('review').getAttribute('aria-pressed') !== 'true'))
  byId('draw').addEventListener('click', () => { way(false); byId('draw').setAttribute('aria-pressed', 'true') })
  byId('trace').addEventListener('click', () => way(false))
  const step = by => { open(); remarks.step(by) }
  const write = () => {
    const [first = '', ...also] = app.bars.state.selected ?? []
    remarks.write(first, null, null, { also })
  }
  let placing = false
  const place = () => {
    app.bars.say('Click the place on the sheet that the remark is about.')
    placing = true
  }
  byId('review-write').addEventListener('click', write)
  byId('review-place').addEventListener('click', place)
  byId('review-before').addEventListener('click', () => step(-1))
  byId('review-next').addEventListener('click', () => step(1))
  // A line is drawn by hand: where something should go, what belongs together. It is kept with the remark.
  let drawing = null
  const point = e => {
    const r = byId('desk').getBoundingClientRect()
    return [(e.clientX - r.x - app.pan.x) / app.zoom * 100, (e.clientY - r.y - app.pan.y) / app.zoom * 100]
  }
  const ghost = document.createElementNS('http://www.w3.org/2000/svg', 'polyline')
  ghost.setAttribute('class', 'drawn-line ghost')
  remarks.undrawn = () => ghost.remove()
  byId('review-line').addEventListener('click', () => {
    app.bars.say('Draw a line on the sheet; it ends in an arrow. Esc draws none.')
    drawing = []
  })
  byId('desk').addEventListener('pointerdown', e => {
    if (!drawing) return
    e.stopPropagation()
    e.preventDefault()
    byId('desk').setPointerCapture(e.pointerId)
    drawing = [point(e)]
    byId('view').append(ghost)
  }, true)
  byId('desk').addEventListener('pointermove', e => {
    if (!drawing?.length) return
    e.stopPropagation()
    const p = point(e), last = drawing[drawing.length - 1]
    if (Math.hypot(p[0] - last[0], p[1] - last[1]) * app.zoom < 600 || drawing.length >= 200) return
    drawing.push(p)
    ghost.setAttribute('points', drawing.map(([x, y]) => `${x / 100},${y / 100}`).join(' '))
  }, true)
  byId('desk').addEventListener('pointerup', e => {
    if (!drawing?.length) return
    e.stopPropagation()
    const stroke = [...drawing, point(e)].slice(0, 200)
    drawing = null
    if (stroke.length < 3) { ghost.remove(); return }
    const [x, y] = stroke[0]
    remarks.write('', { x: Math.round(x), y: Math.round(y) }, null, { stroke })
  }, true)
  // In Review a small corner appears on what the pointer is over; a press begins a remark there.
  const corner = byId('remark-corner')
  let over = ''
  byId('desk').addEventListener('pointermove', e => {
    if (e.buttons || !document.body.classList.contains('reviewing')) { corner.hidden = true; return }
    if (around(e, '#remark-corner')) return
    const node = around(e, '#symbols > g[id], #connectors > g[id]')
    corner.hidden = !node
    over = node?.id.slice(2) ?? ''
    if (!node) return
    const r = node.getBoundingClientRect(), d = byId('desk').getBoundingClientRect()
    corner.style.left = `${Math.min(r.right - d.left - 4, d.width - 26)}px`
    corner.style.top = `${Math.max(2, r.top - d.top - 12)}px`
  })
  corner.addEventListener('click', () => { corner.hidden = true; remarks.write(over) })
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
    if (e.key === 'Escape' && drawing) { drawing = null; ghost.remove(); return }
    const what = { r: write, n: () => step(1), p: () => step(-1) }[e.key]
    // A letter that is no key of Review would begin to write in the step that is selected, which Draw is for.
    if (!what && (!/^\p{L}$/u.test(e.key) || !app.forDrawing(e))) return
    if (!what) app.bars.say('In Review letters write nothing. Press F2 to write in the step, or choose Draw.')
    e.preventDefault()
    e.stopPropagation()
    what?.()
  }, true)
  if (location.hash === '#page=review') way(true) // from where one sees that somebody waits
  remarks.refresh() // for the flags
  return remarks
}
