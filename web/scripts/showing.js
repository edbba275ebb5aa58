// A map over the whole screen, for a meeting: the step at hand lit, the rest dimmed, keys and clicker.
import { around, byId, one } from './dom.js'

/** @typedef {{id: string, sheet: string, title: string, words: string, seen: number[]}} Stop */

/** Begins and ends showing, and takes its keys. There are two ways through: along the flow, and from stop to stop.
 * tell tells the other windows what is shown here.
 * @param {{traced: any, viewport: any, fit: (whole?: boolean) => void, turn: (sheet: string) => Promise<void>, tell: (what: object) => void, remark?: (id: string) => void}} page */
export function showing({ traced, viewport, fit, turn, tell, remark }) {
  const body = document.body, spot = byId('spot'), blank = byId('blank')
  const own = location.pathname.endsWith('/show') // a page that shows and nothing else
  let larger = false

  // What is shown here, as the others are told; and what somebody else shows, which this window follows when asked to.
  /** @type {{stop?: string, at?: string}} */
  let here = {}
  /** @type {{name?: string, stop?: string, at?: string} | null} */
  let theirs = null
  let wanted = own && location.hash === '#follow' // the page was opened to follow
  let following = false
  const shows = what => {
    here = what
    if (!following) tell(what)
  }

  /** @returns {Stop[]} */
  const stops = () => JSON.parse(byId('reading').dataset.stops || '[]')
  let stop = -1 // the place of the stop that is shown; -1 along the flow

  // halt goes to a stop.
  const halt = async i => {
    const list = stops(), to = list[i]
    if (!to) return
    stop = i
    body.classList.add('stopping')
    history.replaceState(null, '', `#stop=${encodeURIComponent(to.id)}`)
    shows({ stop: to.id })
    await turn(to.sheet)
    const from = byId('sheet').viewBox.baseVal
    byId('case').hidden = false
    byId('case-at').textContent = to.title
    byId('case-who').textContent = `${i + 1} of ${list.length}`
    byId('case-facts').textContent = to.words
    byId('case-exits').replaceChildren(...list[i + 1] ? [Object.assign(document.createElement('button'), { type: 'button', className: 'primary', textContent: list[i + 1].title || 'On', onclick: () => halt(i + 1) })] : [])
    viewport.showPart([to.seen[0] - from.x, to.seen[1] - from.y, to.seen[2], to.seen[3]])
  }
  // along goes on along the flow again.
  const along = () => {
    stop = -1
    body.classList.remove('stopping')
    if (traced.here()) traced.again()
    else traced.begin()
  }
  const on = () => stop < 0 ? traced.take(0) : halt(stop + 1)
  const back = () => stop < 0 ? traced.back() : halt(stop - 1)

  // at brings the step into the middle, large enough to be read from afar where that is wished.
  const at = place => {
    if (!body.classList.contains('showing') || !place || stop >= 0) return
    history.replaceState(null, '', `#at=${encodeURIComponent(place.symbol)}`)
    shows({ at: place.symbol })
    const node = byId(`n-${place.symbol}`)
    if (!larger || !node) { fit(true); return }
    let b = node.getBoundingClientRect()
    const r = byId('reading').getBoundingClientRect()
    viewport.zoomAt(Math.min(r.width / 4 / b.width, r.height / 4 / b.height), { clientX: b.x, clientY: b.y })
    b = node.getBoundingClientRect()
    viewport.panBy(r.x + r.width / 2 - b.x - b.width / 2, r.y + r.height * 0.4 - b.y - b.height / 2)
  }

  const begin = async () => {
    following = wanted
    body.classList.add('showing')
    try { await document.documentElement.requestFullscreen?.() } catch { /* the window serves as well */ }
    const asked = decodeURIComponent(location.hash.match(/^#stop=([\w.%-]+)$/)?.[1] ?? '')
    byId('stops-key').hidden = !stops().length
    if (stops().length && (asked || !/^#at=/.test(location.hash) && !traced.here())) await halt(Math.max(0, stops().findIndex(s => s.id === asked)))
    else if (!traced.here()) await traced.begin(decodeURIComponent(location.hash.match(/^#at=([\w.%-]+)$/)?.[1] ?? ''))
    else at(traced.here())
    byId('reading').focus()
  }
  // steer goes where somebody else is.
  const steer = async () => {
    const to = theirs
    if (!to || !following) return
    const i = to.stop ? stops().findIndex(s => s.id === to.stop) : -1
    if (i >= 0) await halt(i)
    else if (to.at && traced.here()?.symbol !== to.at) {
      stop = -1
      body.classList.remove('stopping')
      await traced.reach(to.at)
    }
  }
  const follow = async () => {
    following = true
    wanted = false
    body.classList.add('showing')
    byId('case-end').focus()
    try { await document.documentElement.requestFullscreen?.() } catch { /* the window serves as well */ }
    await steer()
  }
  // alone ends following: what is pressed here goes its own way.
  const alone = () => {
    if (!following) return
    following = wanted = false
    byId('live').textContent = `${theirs?.name || 'Somebody'} is not followed any more`
  }
  // heard hears what somebody else shows.
  const heard = what => {
    theirs = what.stop || what.at ? what : null
    const button = byId('follow-show')
    button.hidden = !theirs
    byId('follow-name').textContent = `Follow ${theirs?.name || 'who shows it'}`
    if (!theirs && following) {
      alone()
      if (!own) end()
    } else if (theirs && wanted) follow()
    else steer()
  }
  byId('follow-show').addEventListener('click', follow)
  byId('case').addEventListener('click', e => { if (around(e, 'button') && e.isTrusted) alone() }, true)
  byId('reading').addEventListener('click', e => { if (around(e, '.symbol, .connector, a')) alone() }, true)

  const end = () => {
    following = false
    shows({})
    if (document.fullscreenElement) document.exitFullscreen()
    if (own) { location.assign(location.pathname.replace(/\/show$/, '') || '/'); return }
    body.classList.remove('showing', 'noting', 'stopping')
    stop = -1
    blank.hidden = spot.hidden = true
    traced.end()
    fit()
  }

  const keys = {
    ArrowRight: on, ArrowDown: on, PageDown: on, ' ': on, Enter: on,
    ArrowLeft: back, ArrowUp: back, PageUp: back, Backspace: back,
    s: () => { if (stop >= 0) along(); else if (stops().length) halt(0) },
    b: () => { blank.hidden = !blank.hidden }, '.': () => { blank.hidden = !blank.hidden },
    t: () => { larger = !larger; at(traced.here()) },
    l: () => { spot.hidden = !spot.hidden },
    f: () => document.fullscreenElement ? document.exitFullscreen() : document.documentElement.requestFullscreen?.(),
    r: () => { if (remark && stop >= 0) { body.classList.add('noting'); remark('') } else if (remark && traced.here()) { body.classList.add('noting'); remark(traced.here().symbol) } },
    Escape: () => body.classList.contains('noting') ? body.classList.remove('noting') : end(),
  }
  document.addEventListener('keydown', e => {
    const target = /** @type {HTMLElement} */ (e.target)
    if (!body.classList.contains('showing') || e.ctrlKey || e.metaKey || e.altKey || one('dialog[open]')) return
    if (target.matches('input, textarea, select') && e.key !== 'Escape') return
    if (target.matches('button, a') && (e.key === 'Enter' || e.key === ' ')) return
    const does = keys[e.key.length === 1 ? e.key.toLowerCase() : e.key]
    if (does === on || does === back || does === keys.s || /^[1-9]$/.test(e.key)) alone()
    if (does) does()
    else if (/^[1-9]$/.test(e.key) && stop < 0) traced.take(Number(e.key) - 1)
    else return
    if (blank.hidden === false && !['b', '.'].includes(e.key.toLowerCase())) blank.hidden = true
    e.preventDefault()
    e.stopPropagation()
  }, true)
  document.addEventListener('pointermove', e => { spot.style.transform = `translate(${e.clientX}px, ${e.clientY}px)` })
  blank.addEventListener('click', () => { blank.hidden = true })
  byId('show').addEventListener('click', begin)
  byId('case-back').addEventListener('click', e => {
    if (stop < 0) return
    e.stopImmediatePropagation()
    back()
  }, true)
  byId('case-end').addEventListener('click', () => { if (body.classList.contains('showing')) end() })

  // A finger that is drawn across goes on, or back.
  /** @type {PointerEvent | null} */
  let from = null
  byId('reading').addEventListener('pointerdown', e => { from = e.pointerType === 'touch' && e.isPrimary ? e : null })
  byId('reading').addEventListener('pointerup', e => {
    if (!from || !body.classList.contains('showing') || e.pointerId !== from.pointerId) return
    const x = e.clientX - from.clientX, y = e.clientY - from.clientY
    if (Math.abs(x) < 60 || Math.abs(y) > Math.abs(x) / 2 || e.timeStamp - from.timeStamp > 3000) return
    alone()
    if (x < 0) on()
    else back()
  })
  window.addEventListener('resize', () => stop < 0 ? at(traced.here()) : halt(stop))
  return { at, begin, heard, on: () => body.classList.contains('showing'), again: () => { if (!following && (here.stop || here.at)) tell(here) } }
}
