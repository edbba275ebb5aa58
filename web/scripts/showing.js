// A map over the whole screen, for a meeting: the step at hand lit, the rest dimmed, keys and clicker.
import { byId, one } from './dom.js'

/** Begins and ends showing, and takes its keys.
 * @param {{traced: any, viewport: any, fit: (whole?: boolean) => void, remark?: (id: string) => void}} page */
export function showing({ traced, viewport, fit, remark }) {
  const body = document.body, spot = byId('spot'), blank = byId('blank')
  const own = location.pathname.endsWith('/show') // a page that shows and nothing else
  let larger = false

  // at brings the step into the middle, large enough to be read from afar where that is wished.
  const at = place => {
    if (!body.classList.contains('showing') || !place) return
    history.replaceState(null, '', `#at=${encodeURIComponent(place.symbol)}`)
    const node = byId(`n-${place.symbol}`)
    if (!larger || !node) { fit(true); return }
    let b = node.getBoundingClientRect()
    const r = byId('reading').getBoundingClientRect()
    viewport.zoomAt(Math.min(r.width / 4 / b.width, r.height / 4 / b.height), { clientX: b.x, clientY: b.y })
    b = node.getBoundingClientRect()
    viewport.panBy(r.x + r.width / 2 - b.x - b.width / 2, r.y + r.height * 0.4 - b.y - b.height / 2)
  }

  const begin = async () => {
    body.classList.add('showing')
    try { await document.documentElement.requestFullscreen?.() } catch { /* the window serves as well */ }
    if (!traced.here()) await traced.begin(decodeURIComponent(location.hash.match(/^#at=([\w.%-]+)$/)?.[1] ?? ''))
    else at(traced.here())
    byId('reading').focus()
  }
  const end = () => {
    if (document.fullscreenElement) document.exitFullscreen()
    if (own) { location.assign(location.pathname.replace(/\/show$/, '') || '/'); return }
    body.classList.remove('showing', 'noting')
    blank.hidden = spot.hidden = true
    traced.end()
    fit()
  }

  const keys = {
    ArrowRight: () => traced.take(0), ArrowDown: () => traced.take(0), PageDown: () => traced.take(0), ' ': () => traced.take(0), Enter: () => traced.take(0),
    ArrowLeft: traced.back, ArrowUp: traced.back, PageUp: traced.back, Backspace: traced.back,
    b: () => { blank.hidden = !blank.hidden }, '.': () => { blank.hidden = !blank.hidden },
    t: () => { larger = !larger; at(traced.here()) },
    l: () => { spot.hidden = !spot.hidden },
    f: () => document.fullscreenElement ? document.exitFullscreen() : document.documentElement.requestFullscreen?.(),
    r: () => { if (remark && traced.here()) { body.classList.add('noting'); remark(traced.here().symbol) } },
    Escape: () => body.classList.contains('noting') ? body.classList.remove('noting') : end(),
  }
  document.addEventListener('keydown', e => {
    const target = /** @type {HTMLElement} */ (e.target)
    if (!body.classList.contains('showing') || e.ctrlKey || e.metaKey || e.altKey || one('dialog[open]')) return
    if (target.matches('input, textarea, select') && e.key !== 'Escape') return
    if (target.matches('button, a') && (e.key === 'Enter' || e.key === ' ')) return
    const does = keys[e.key.length === 1 ? e.key.toLowerCase() : e.key]
    if (does) does()
    else if (/^[1-9]$/.test(e.key)) traced.take(Number(e.key) - 1)
    else return
    if (blank.hidden === false && !['b', '.'].includes(e.key.toLowerCase())) blank.hidden = true
    e.preventDefault()
    e.stopPropagation()
  }, true)
  document.addEventListener('pointermove', e => { spot.style.transform = `translate(${e.clientX}px, ${e.clientY}px)` })
  blank.addEventListener('click', () => { blank.hidden = true })
  byId('show').addEventListener('click', begin)
  byId('case-end').addEventListener('click', () => { if (body.classList.contains('showing')) end() })

  // A finger that is drawn across goes on, or back.
  /** @type {PointerEvent | null} */
  let from = null
  byId('reading').addEventListener('pointerdown', e => { from = e.pointerType === 'touch' && e.isPrimary ? e : null })
  byId('reading').addEventListener('pointerup', e => {
    if (!from || !body.classList.contains('showing') || e.pointerId !== from.pointerId) return
    const x = e.clientX - from.clientX, y = e.clientY - from.clientY
    if (Math.abs(x) < 60 || Math.abs(y) > Math.abs(x) / 2 || e.timeStamp - from.timeStamp > 600) return
    if (x < 0) traced.take(0)
    else traced.back()
  })
  window.addEventListener('resize', () => at(traced.here()))
  return { at, begin, on: () => body.classList.contains('showing') }
}
