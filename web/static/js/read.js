// The reader's page: pan, zoom, follow references, and see the map change.
import { showFaces } from './faces.js'
import { fitting } from './fitting.js'

const { base } = document.body.dataset
const byId = id => document.getElementById(id)
let zoom = 1, pan = { x: 0, y: 0 }, sheet = byId('sheet').dataset.sheet, fitted = true, cut = false, all = false

function view() {
  byId('sheet').style.transform = `translate(${pan.x}px, ${pan.y}px) scale(${zoom})`
}

// fit shows the sheet; whole, all of it however small.
function fit(whole) {
  all = whole
  const svg = byId('sheet'), r = byId('reading').getBoundingClientRect()
  const w = svg.width.baseVal.value, h = svg.height.baseVal.value
  const page = { x: 0, y: 0, w, h }
  ;({ zoom, pan, cut } = fitting({ x: 12, y: 12, w: r.width - 24, h: r.height - 24 }, page, page, whole))
  fitted = true
  view()
}

function zoomAt(factor, x, y) {
  const r = byId('reading').getBoundingClientRect()
  x = x === undefined ? r.width / 2 : x - r.left
  y = y === undefined ? r.height / 2 : y - r.top
  const next = Math.min(8, Math.max(0.1, zoom * factor))
  pan = { x: x - (x - pan.x) * next / zoom, y: y - (y - pan.y) * next / zoom }
  zoom = next
  fitted = false
  view()
}

let asked = 0
async function show(id, find) {
  const turn = ++asked
  const answer = await fetch(`${base}/sheet/${encodeURIComponent(id)}`)
  if (!answer.ok) { location.reload(); return }
  const page = new DOMParser().parseFromString(await answer.text(), 'text/html')
  if (turn !== asked) return
  const turned = id !== sheet
  document.querySelector('.reader-bar h1').textContent = page.querySelector('.reader-bar h1').textContent
  document.title = `${document.querySelector('.reader-bar h1').textContent} · Plain Tracer`
  document.querySelector('.reader-bar .tabs').replaceWith(page.querySelector('.reader-bar .tabs'))
  byId('reading').replaceChildren(...page.getElementById('reading').childNodes)
  sheet = byId('sheet').dataset.sheet
  references()
  faces()
  if (turned || fitted) fit(all && !turned)
  else view()
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

// A reference that has a partner can be followed by click or key.
function references() {
  for (const r of document.querySelectorAll('.leads')) {
    const node = byId(`n-${r.dataset.id}`)
    if (!node) continue
    node.classList.add('leading')
    node.setAttribute('tabindex', '0')
    node.setAttribute('role', 'link')
    node.setAttribute('aria-label', `${[...node.querySelectorAll('text')].map(t => t.textContent).join('')}: the flow goes on at ${r.dataset.name}`)
    const go = () => show(r.dataset.sheet, r.dataset.partner)
    node.addEventListener('click', go)
    node.addEventListener('keydown', e => { if (e.key === 'Enter') go() })
  }
}

function connect(wait = 500) {
  const socket = new WebSocket(`${location.protocol === 'https:' ? 'wss' : 'ws'}://${location.host}${base}/socket`)
  socket.onopen = () => {
    byId('live').textContent = 'Live'
    if (wait > 500) show(sheet) // what changed while the connection was down
    wait = 500
  }
  socket.onmessage = m => {
    const { kind } = JSON.parse(m.data)
    if (kind === 'changed') show(sheet)
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
    pan = { x: pan.x + e.clientX - before.clientX, y: pan.y + e.clientY - before.clientY }
    fitted = false
    view()
    return
  }
  const [a, b] = [...touches.values()]
  const now = Math.hypot(a.clientX - b.clientX, a.clientY - b.clientY)
  if (spread) zoomAt(now / spread, (a.clientX + b.clientX) / 2, (a.clientY + b.clientY) / 2)
  spread = now
})
for (const kind of ['pointerup', 'pointercancel', 'pointerleave']) desk.addEventListener(kind, e => { touches.delete(e.pointerId); spread = 0 })
desk.addEventListener('wheel', e => {
  e.preventDefault()
  if (e.ctrlKey || e.metaKey) zoomAt(Math.exp(-e.deltaY / 300), e.clientX, e.clientY)
  else { pan.x -= e.deltaX; pan.y -= e.deltaY; fitted = false; view() }
}, { passive: false })
desk.addEventListener('keydown', e => {
  const d = { ArrowLeft: [40, 0], ArrowRight: [-40, 0], ArrowUp: [0, 40], ArrowDown: [0, -40] }[e.key]
  if (d) { pan.x += d[0]; pan.y += d[1]; fitted = false; view(); e.preventDefault() }
  if (e.key === '+') zoomAt(1.25)
  if (e.key === '-') zoomAt(0.8)
})
document.addEventListener('click', e => {
  const tab = e.target.closest('[data-sheet]')
  if (tab?.closest('.tabs')) { e.preventDefault(); show(tab.dataset.sheet) }
})
byId('in').addEventListener('click', () => zoomAt(1.25))
byId('out').addEventListener('click', () => zoomAt(0.8))
byId('fit').addEventListener('click', () => fit(fitted && cut)) // once more shows the whole
window.addEventListener('resize', () => { if (fitted) fit(all) })
references()
faces()
fit()
connect()
