// The reader's page: pan, zoom, follow references, and see the map change.
import { byId, one, all, around } from './dom.js'
import { showFaces } from './faces.js'
import { Viewport } from './viewport.js'
import { Remarks } from './remarks.js'
import { showing } from './showing.js'
import { tracing } from './tracing.js'
import { openFiles } from './files.js'
import { staying } from './staying.js'

openFiles()
staying()

const { base = '' } = document.body.dataset
let sheet = byId('sheet').dataset.sheet

byId('edit-anyway')?.addEventListener('click', () => sessionStorage.setItem('edit anyway', 'yes'))

/** Where the visitor may remark, the list of remarks. @type {Remarks | undefined} */
let remarks

const viewport = new Viewport(() => byId('reading').getBoundingClientRect(), () => {
  byId('sheet').style.transform = `translate(${viewport.pan.x}px, ${viewport.pan.y}px) scale(${viewport.zoom})`
  remarks?.zoomed(viewport.zoom)
})

// fit shows the sheet; whole, all of it however small.
function fit(whole) {
  const svg = byId('sheet'), r = viewport.area()
  const page = { x: 0, y: 0, w: svg.width.baseVal.value, h: svg.height.baseVal.value }
  viewport.fit(window.plainTracerFitting.fitting({ x: 12, y: 12, w: r.width - 24, h: r.height - 24 }, page, page, whole), whole)
}

// Where the visitor may remark, the list of remarks stands beside the sheet.
function flags() {
  if (!byId('remarks')) return
  const layer = document.createElementNS('http://www.w3.org/2000/svg', 'g')
  layer.id = 'flags'
  byId('sheet').append(layer)
  if (!remarks) {
    remarks = new Remarks({
      base, layer, sheet: () => sheet, open: () => {}, goTo: (id, on) => show(id || on, id),
      textOf: id => all('text', byId(`n-${id}`)).map(t => t.textContent).join(' '), focus: () => byId('reading').focus({ preventScroll: true }),
      awaited: by => {
        document.body.toggleAttribute('data-asked', !!by)
        title()
      },
      name: id => all('text', byId(`n-${id}`)).map(t => t.textContent).join(' ').slice(0, 60) || 'what is selected',
    })
    if (document.body.hasAttribute('data-asked')) { // somebody waits for what this person says
      document.addEventListener('htmx:after:swap', () => one('.round', byId('remarks'))?.scrollIntoView({ block: 'nearest' }), { once: true })
    }
    byId('reading').addEventListener('click', e => {
      const node = around(e, '.symbol, .connector')
      all('#sheet .chosen').forEach(n => n.classList.remove('chosen'))
      node?.classList.add('chosen')
      remarks?.about(node ? node.id.slice(2) : '')
    })
  } else {
    remarks.page.layer = layer
    remarks.placed = ''
    remarks.place()
  }
}

const traced = tracing(base, async (on, id) => {
  if (on !== sheet) await show(on, id)
  if (!shown?.on()) bring(id)
}, at => shown?.at(at))
/** @type {ReturnType<typeof showing> | undefined} */
let shown

// bring pans so that something is in sight.
function bring(id) {
  const node = byId(`n-${id}`)
  if (!node) return
  const b = node.getBoundingClientRect(), r = byId('reading').getBoundingClientRect(), foot = byId('case').hidden ? 0 : byId('case').offsetHeight + 16
  const dx = b.left < r.left + 12 ? r.left + 12 - b.left : b.right > r.right - 12 ? r.right - 12 - b.right : 0
  const dy = b.top < r.top + 12 ? r.top + 12 - b.top : b.bottom > r.bottom - foot ? r.bottom - foot - b.bottom : 0
  if (dx || dy) viewport.panBy(dx, dy)
}

let asked = 0
// title names the page by the map, with a mark where somebody waits for a review.
function title() { document.title = `${document.body.hasAttribute('data-asked') ? '(1) ' : ''}${one('.reader-bar h1').textContent} · Plain Tracer` }
async function show(id, find) {
  const turn = ++asked
  const answer = await fetch(`${base}/sheet/${encodeURIComponent(id)}`)
  if (!answer.ok) { location.reload(); return }
  const page = new DOMParser().parseFromString(await answer.text(), 'text/html')
  if (turn !== asked) return
  const turned = id !== sheet
  one('.reader-bar h1').textContent = one('.reader-bar h1', page).textContent
  title()
  one('.reader-bar .tabs').replaceWith(one('.reader-bar .tabs', page))
  byId('reading').replaceChildren(...one('#reading', page).childNodes)
  byId('in-words').replaceChildren(...one('#in-words', page).childNodes)
  sheet = byId('sheet').dataset.sheet
  byId('reading').dataset.stops = one('#reading', page).dataset.stops
  references()
  faces()
  flags()
  traced.mark()
  if (turned || viewport.fitted) fit(viewport.whole && !turned)
  else viewport.show()
  if (find) {
    const node = byId(`n-${find}`)
    node?.classList.add('found')
    setTimeout(() => node?.classList.remove('found'), 2500)
  }
}

// faces shows the sheet in the fonts of its house.
function faces() {
  showFaces(JSON.parse(byId('sheet').dataset.faces), async id => {
    const answer = await fetch(`${base}/face/${id}`)
    if (!answer.ok) throw new Error(await answer.text())
    return answer.arrayBuffer()
  }).catch(() => { byId('live').textContent = 'Shown in another typeface: that of the map could not be loaded' })
}

// inWords shows the sheet in words in the place of its drawing, or the drawing again. For those who do not see, the words
// are there at all times.
function inWords(on) {
  document.body.classList.toggle('wording', on)
  byId('words-on').setAttribute('aria-pressed', String(on))
  if (on) byId('in-words').focus()
  else viewport.fitted && fit(viewport.whole)
}
byId('words-on').addEventListener('click', () => inWords(!document.body.classList.contains('wording')))
byId('to-words').addEventListener('click', e => {
  e.preventDefault()
  inWords(true)
})

// The drawing is one picture with a name for those who do not see it; what can be followed in it is a link. A reference
// that has a partner can be followed by click or key.
function references() {
  for (const node of byId('sheet').children) {
    for (const part of node.querySelector('a') ? node.children : [node]) if (!part.matches('a')) part.setAttribute('aria-hidden', 'true')
  }
  for (const r of all('.leads')) {
    const node = byId(`n-${r.dataset.id}`)
    if (!node) continue
    for (const part of [node, ...node.children]) part.removeAttribute('aria-hidden')
    node.classList.add('leading')
    node.setAttribute('tabindex', '0')
    node.setAttribute('role', 'link') // named by its title
    const go = () => show(r.dataset.sheet, r.dataset.partner)
    node.addEventListener('click', () => { if (!traced.on()) go() })
    node.addEventListener('keydown', e => { if (e.key === 'Enter' && !traced.on()) go() })
  }
}

/** @type {WebSocket | undefined} */
let socket

// tell tells the others what is shown here.
function tell(what) {
  if (socket?.readyState === WebSocket.OPEN) socket.send(JSON.stringify({ kind: 'showing', ...what }))
}

function connect(wait = 500) {
  socket = new WebSocket(`${location.protocol === 'https:' ? 'wss' : 'ws'}://${location.host}${base}/live`)
  socket.onopen = () => {
    byId('live').textContent = 'Live'
    if (wait > 500) show(sheet) // what changed while the connection was down
    wait = 500
    shown?.again()
  }
  socket.onmessage = m => {
    const { kind, ...said } = JSON.parse(m.data)
    if (kind === 'changed') show(sheet).then(traced.again)
    if (kind === 'showing') shown?.heard(said)
    if (kind === 'remarked') remarks?.heard()
    if (kind === 'again' || kind === 'ended') location.reload()
  }
  socket.onclose = () => {
    byId('live').textContent = 'No connection; trying again'
    setTimeout(() => connect(Math.min(wait * 2, 8000)), wait)
  }
}

const desk = byId('reading')
const touches = new Map()
let spread = 0
desk.addEventListener('pointerdown', e => { touches.set(e.pointerId, e); spread = 0 })
desk.addEventListener('pointermove', e => {
  const before = touches.get(e.pointerId)
  if (!before) return
  touches.set(e.pointerId, e)
  if (touches.size === 1) {
    viewport.panBy(e.clientX - before.clientX, e.clientY - before.clientY)
    return
  }
  const [a, b] = [...touches.values()]
  const now = Math.hypot(a.clientX - b.clientX, a.clientY - b.clientY)
  if (spread) viewport.zoomAt(now / spread, { clientX: (a.clientX + b.clientX) / 2, clientY: (a.clientY + b.clientY) / 2 })
  spread = now
})
for (const kind of ['pointerup', 'pointercancel', 'pointerleave']) desk.addEventListener(kind, e => { touches.delete(e.pointerId); spread = 0 })
desk.addEventListener('wheel', e => {
  e.preventDefault()
  const { factor, x, y } = Viewport.wheel(e)
  if (factor) viewport.zoomAt(factor, e)
  else viewport.panBy(x, y)
}, { passive: false })
desk.addEventListener('keydown', e => {
  const d = { ArrowLeft: [40, 0], ArrowRight: [-40, 0], ArrowUp: [0, 40], ArrowDown: [0, -40] }[e.key]
  if (d) { viewport.panBy(...d); e.preventDefault() }
  if (e.key === '+') viewport.zoomAt(1.25)
  if (e.key === '-') viewport.zoomAt(0.8)
  if (e.ctrlKey || e.metaKey || e.altKey || traced.on()) return
  if (e.key === 'n') remarks?.step(1)
  if (e.key === 'p') remarks?.step(-1)
})
document.addEventListener('click', e => {
  const within = around(e, 'a[href^="#n-"]')
  if (within) {
    const id = within.getAttribute('href').slice(3)
    e.preventDefault()
    show(id, id)
  }
  const tab = around(e, '[data-sheet]')
  if (tab?.closest('.tabs, .trail')) { e.preventDefault(); show(tab.dataset.sheet, tab.dataset.at) }
})
byId('in').addEventListener('click', () => viewport.zoomAt(1.25))
byId('out').addEventListener('click', () => viewport.zoomAt(0.8))
byId('fit').addEventListener('click', () => fit(!(viewport.fitted && viewport.whole))) // once more shows what can be read
window.addEventListener('resize', () => { if (viewport.fitted) fit(viewport.whole) })
references()
faces()
flags()
fit()
shown = showing({ traced, viewport, fit, tell, turn: async id => { if (id !== sheet) await show(id) }, remark: byId('remarks') ? id => remarks?.write(id) : undefined })
const sought = decodeURIComponent(location.hash.match(/^#at=([\w.%-]+)$/)?.[1] ?? '')
if (shown.on()) shown.begin()
else if (sought) show(sought, sought)
connect()
