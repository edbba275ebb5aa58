// Remarks: their flags on the drawing, what a new one is about, and the list beside it. The list comes from the server; the
// page says how to find things on its drawing.
import { byId, one, all, around, fromPage } from './dom.js'
import { Here } from './here.js'
import { fetchPart } from './parts.js'

/** The box of the shape of a thing on the drawing, in pixels of the sheet; null where it is not shown.
 * @param {string} id @returns {{x: number, y: number, width: number, height: number} | null} */
export function boxOf(id) {
  const node = byId(`n-${id}`), shape = node && (one('path', node) || node)
  if (!shape) return null
  const b = shape.getBBox(), m = node.transform.baseVal.consolidate()?.matrix
  return { x: b.x + (m?.e ?? 0), y: b.y + (m?.f ?? 0), width: b.width, height: b.height }
}

/** The head of an arrow at the end of a line, as a path. @param {string} points */
export function arrowAt(points) {
  const list = points.split(' ').map(p => p.split(',').map(Number)), [x, y] = list[list.length - 1]
  const [fx, fy] = list.findLast(([px, py]) => Math.hypot(px - x, py - y) > 8) ?? list[0]
  const a = Math.atan2(y - fy, x - fx), at = (turn, far) => `${(x + Math.cos(a + turn) * far).toFixed(1)} ${(y + Math.sin(a + turn) * far).toFixed(1)}`
  return `M${at(Math.PI - 0.45, 13)}L${x} ${y}L${at(Math.PI + 0.45, 13)}`
}

/** What tells a form of the list from the others, when the list is another one. @param {any} form */
const formOf = form => form ? `${form.getAttribute('hx-post')} ${one('[name=thread]', form)?.value ?? ''}` : ''

/** What is unfolded in the list, by what it is and the thread it stands in. @param {any} d */
const unfoldedAs = d => `${d.className} ${d.closest('.thread')?.id ?? ''}`

export class Remarks {
  /** @param {{base: string, layer: any, sheet: () => string, goTo: (id: string, sheet: string) => void, open: () => void, name: (id: string) => string, textOf?: (id: string) => string, focus?: () => void, told?: (fresh: {n: number, thread: string, by: string, about: string}, more: boolean) => void, take?: (id: string, text: string) => boolean, awaited?: (by: string) => void, marked?: (cells: {item: string, column: string, thread: string, count: number}[]) => void}} page */
  constructor(page) {
    this.page = page
    this.list = byId('remarks')
    this.here = new Here(this, { base: page.base, textOf: page.textOf, node: id => byId(`n-${id}`), layer: () => this.page.layer })
    this.zoom = 1
    /** Takes away a line that was drawn for a remark that is not made. */
    this.undrawn = () => {}
    // What is being written stays, whatever comes in meanwhile; a form that was sent is empty afterwards.
    this.list.addEventListener('submit', e => {
      this.sent = formOf(e.target)
      this.sending = Date.now()
      this.said = all('textarea, input:not([type=hidden], [type=checkbox])', e.target).map(f => ({ form: this.sent, name: f.name, value: f.value }))
      const to = /** @type {any} */ (one('[data-pin-to]', /** @type {any} */ (e.target)))
      if (to) to.value = this.selected ?? ''
    }, true)
    document.addEventListener('htmx:before:swap', () => this.remember())
    document.addEventListener('htmx:after:swap', () => { this.recall(); this.place(); this.arrived() })
    document.addEventListener('htmx:finally:request', () => this.arrived())
    this.list.addEventListener('click', e => this.click(e))
    this.list.addEventListener('keydown', e => { // what is said is sent by a key
      if (e.key !== 'Enter' || !e.ctrlKey && !e.metaKey || e.isComposing || !e.target.matches('textarea')) return
      e.preventDefault()
      e.stopPropagation()
      e.target.form?.requestSubmit()
    })
    this.list.addEventListener('change', e => { if (e.target.matches('[data-sorting]')) this.refresh({ sort: e.target.value }) })
    document.addEventListener('pointerdown', e => {
      const flag = around(e, '.flag[data-thread]')
      if (flag) { e.stopPropagation(); e.preventDefault(); this.at(flag.dataset) }
    }, true)
    this.list.addEventListener('toggle', e => { if (e.target.matches('.since')) this.place() }, true)
    const wanted = location.hash.match(/^#(?:remark=(\w+)|page=(?:remarks|review))$/)
    if (wanted) { page.open(); this.wanted = wanted[1] }
    this.place() // the list may have come before
  }

  remember() {
    const at = /** @type {any} */ (document.activeElement)
    this.typed = all('textarea, input:not([type=hidden], [type=file], [type=checkbox])', this.list).filter(f => f.value && f.form && formOf(f.form) !== this.sent)
      .map(f => ({ form: formOf(f.form), name: f.name, value: f.value, from: f.selectionStart, to: f.selectionEnd, here: f === at }))
    const sent = d => [d.closest('form'), ...all('form', d)].some(f => f && formOf(f) === this.sent)
    this.folded = all('details:not([open])', this.list).map(unfoldedAs)
    this.unfolded = all('details[open]', this.list).filter(d => !sent(d)).map(unfoldedAs)
    this.focused = at && this.list.contains(at) && !this.typed.some(f => f.here) ? { form: formOf(at.form), name: at.name } : null
    this.sent = ''
  }

  recall() {
    for (const d of all('details', this.list)) {
      if (this.unfolded?.includes(unfoldedAs(d))) d.open = true
      else if (this.folded?.includes(unfoldedAs(d))) d.open = false
    }
    this.unfolded = this.folded = []
    const find = ({ form, name }) => all('form', this.list).find(f => formOf(f) === form)?.elements[name]
    // What was sent has arrived, unless it was refused; it may come with the answer or with word of it before.
    if (!one('.refusal', this.list)) {
      for (const was of this.said ?? []) {
        const field = find(was)
        if (field && field.value === was.value && was.name !== 'called') field.value = ''
      }
    }
    this.said = one('.refusal', this.list) ? [] : this.said
    for (const was of this.typed ?? []) {
      const field = find(was)
      if (!field) continue
      if (field.value === field.defaultValue) field.value = was.value // else it was kept, and may have gone on
      if (was.here && document.activeElement !== field) field.focus({ preventScroll: true })
      if (was.here && was.from !== null && field.selectionStart !== was.from) field.setSelectionRange?.(was.from, was.to)
    }
    if (this.focused?.form && !this.list.contains(document.activeElement)) find(this.focused)?.focus?.({ preventScroll: true })
    this.typed = []
  }

  click(e) {
    const about = around(e, '[data-goto]'), filter = around(e, '[data-filter]'), take = around(e, '[data-proposal]'), more = around(e, '[data-more]'), earlier = around(e, '[data-earlier]')
    if (about) this.page.goTo(about.dataset.goto, about.dataset.sheet)
    if (filter) this.refresh({ show: filter.dataset.filter })
    if (take) this.take(take)
    if (earlier) { this.opened = earlier.dataset; this.refresh() }
    if (more) { this.most = more.dataset.more; this.refresh() }
  }

  // take puts a proposed text into its step, as an edit of this window, and says so to whoever proposed it.
  async take(button) {
    if (!this.page.take?.(button.dataset.step, button.dataset.text)) return
    await fetch(`${this.page.base}/remarks/${button.dataset.proposal}/proposal`, { method: 'POST', headers: fromPage({ Accept: 'application/json' }) })
    this.refresh()
  }

  /** @param {{show?: string, sort?: string, wanted?: string}} [ask] what to see, where it is something else than now */
  refresh(ask = {}) {
    const now = one('.said-page', this.list)?.dataset ?? {}
    const q = new URLSearchParams({ show: ask.show ?? now.show ?? 'open', sort: ask.sort ?? now.sort ?? 'step', again: '1', most: this.most ?? '', quiet: this.seen() ? '' : '1', thread: this.opened?.earlier ?? '', answers: this.opened?.answers ?? '', wanted: ask.wanted ?? '' })
    return fetchPart(`${this.page.base}/remarks?${q}`, '#remarks')
  }

  // seen says whether the list is looked at; what is new stays new until then.
  seen() { return !this.list.hidden && !byId('book')?.hidden && !document.hidden }

  // heard takes in that somebody said something. Who writes here is not disturbed: what is in fields stays. While something of
  // this page is on its way, the list waits for the answer: what is asked for before could come after it, and be older.
  heard() {
    if (this.sending && Date.now() - this.sending < 5000) {
      clearTimeout(this.late)
      this.late = setTimeout(() => { this.late = 0; this.sending = 0; this.heard() }, 5000)
    } else if (!this.list.hidden || this.list.children.length) this.refresh()
  }

  // arrived asks for what was heard of meanwhile.
  arrived() {
    this.sending = 0
    if (!this.late) return
    clearTimeout(this.late)
    this.late = 0
    this.heard()
  }

  // at opens what was said at a flag, beside it.
  at({ thread, item = '', x, y }) {
    const place = Number(x) || Number(y) ? this.placeOf(item, Number(x), Number(y)) : null
    this.here.show({ item, place, thread })
    if (this.seen()) this.mark(thread)
  }

  // placeOf is a place on the sheet that moves with a thing, in hundredths of a pixel.
  placeOf(item, x, y) {
    const box = item ? boxOf(item) : null
    return { x: x + (box?.x ?? 0) * 100, y: y + (box?.y ?? 0) * 100 }
  }

  mark(thread) {
    const item = byId(`thread-${thread}`)
    all('.thread.here', this.list).forEach(t => t.classList.remove('here'))
    item?.classList.add('here')
    item?.scrollIntoView({ block: 'nearest' })
    return !!item
  }

  show(thread) {
    this.page.open()
    const find = () => {
      return this.mark(thread)
    }
    if (!find()) this.wanted = thread
  }

  // about says what a new remark will be about: what is selected, a place, or the whole map.
  about(item, place, column) {
    const form = byId('new-remark')
    this.on = { item, place, column }
    if (!form) return
    one('[name=item]', form).value = place ? '' : item || ''
    one('[name=sheet]', form).value = place ? this.page.sheet() : ''
    one('[name=x]', form).value = place?.x ?? ''
    one('[name=y]', form).value = place?.y ?? ''
    one('[name=column]', form).value = column?.id ?? ''
    byId('remark-on').textContent = place ? 'this place' : item ? this.page.name(item) + (column ? `, ${column.title}` : '') : 'the whole map'
  }

  // step goes on to the next of what changed since the version that is known, and of the remarks after these; or back.
  step(by) {
    const list = all('.since[open] [data-changed], .thread', this.list), now = list.findIndex(t => t.classList.contains('here'))
    const to = list[(now < 0 && by < 0 ? list.length - 1 : now + by + list.length) % list.length]
    if (!to) return
    for (const other of list) other.classList.toggle('here', other === to)
    to.scrollIntoView({ block: 'nearest' })
    const goto = to.matches('[data-goto]') ? to : one('[data-goto]', to)
    this.page.goTo(goto.dataset.goto, goto.dataset.sheet)
    this.found = to.dataset.changed
    this.placed = ''
    this.place()
  }

  // follow keeps up with what is drawn and selected.
  follow(selected) {
    if (selected !== this.selected) { this.selected = selected; if (!this.on?.place && this.on?.item !== selected) this.about(selected) }
    clearTimeout(this.following)
    this.following = setTimeout(() => this.place(), 60)
  }

  // write begins a remark: in place, or on a cell of the register in the list.
  write(item, place, column, more = {}) {
    if (!column) { this.here.show({ item: item || '', place: place ?? null, write: true, ...more }); return }
    this.page.open()
    this.about(item, place, column)
    const field = one('#new-remark [name=text]')
    if (field) field.focus()
    else this.writes = true
  }

  // zoomed keeps flags as large on the screen as they are at full size, where the drawing is smaller.
  zoomed(zoom) {
    if (this.zoom === zoom) return
    this.zoom = zoom
    const size = Math.max(1, 1 / zoom)
    for (const flag of all('.flag', this.page.layer)) flag.setAttribute('transform', `translate(${flag.dataset.left} ${flag.dataset.top}) scale(${size})`)
  }

  // news tells of what is new, where nobody looks at the list.
  news() {
    const { fresh, freshThread, freshBy, freshAbout } = one('.said-page', this.list)?.dataset ?? {}
    if (fresh === undefined) return
    const { awaited } = one('.said-page', this.list).dataset
    this.page.awaited?.(awaited ?? '')
    const n = this.seen() ? 0 : Number(fresh)
    this.page.told?.({ n, thread: freshThread, by: freshBy, about: freshAbout }, n > (this.fresh ?? n))
    this.fresh = n
  }

  // place puts a flag with the count of what was said at the lower left corner of each thing on the sheet.
  place() {
    this.news()
    if (this.on) this.about(this.on.item, this.on.place, this.on.column)
    if (this.writes && one('#new-remark [name=text]')) { this.writes = false; one('#new-remark [name=text]').focus() }
    if (this.wanted && byId(`thread-${this.wanted}`)) { const w = this.wanted; this.wanted = ''; this.show(w) }
    else if (this.wanted && one('.said-page', this.list) && this.sought !== this.wanted) { this.sought = this.wanted; this.refresh({ wanted: this.wanted }) }
    const counts = new Map(), strokes = [], changed = []
    for (const line of all('.since[open] [data-changed]', this.list)) {
      const box = boxOf(line.dataset.changed)
      if (box) changed.push({ ...box, form: line.dataset.form, found: line.dataset.changed === this.found })
    }
    for (const mark of all('#marked-threads [data-mark-of]')) {
      const { item, x, y, left, foot, markOf, sheet, count, points, settled } = mark.dataset
      if (points && sheet === this.page.sheet()) strokes.push(points)
      const by = Number(x) || Number(y)
      const key = item && !by ? item : `${item} ${x} ${y}`
      const part = Number(foot) && sheet === this.page.sheet() ? { x: left / 100 + 11, y: foot / 100 - 20, width: 0, height: 0 } : null
      const box = item ? boxOf(item) ?? part : null
      if (item ? !box : !by || sheet !== this.page.sheet()) continue
      const corner = box ?? { x: 0, y: 0, height: 0 }
      const at = by ? { x: corner.x + x / 100, y: corner.y + y / 100 } : { x: corner.x, y: corner.y + corner.height }
      const flag = counts.get(key) ?? { ...at, thread: markOf, n: 0, item, by: by ? { x, y } : null, pale: settled !== undefined }
      flag.n += Number(count)
      counts.set(key, flag)
    }
    const state = JSON.stringify([[...counts], strokes, changed])
    this.page.marked?.(all('#marked-threads [data-column]').filter(m => m.dataset.column).map(m => ({ item: m.dataset.item, column: m.dataset.column, thread: m.dataset.markOf, count: Number(m.dataset.count) })))
    if (state === this.placed) return
    this.placed = state
    const ns = 'http://www.w3.org/2000/svg', size = Math.max(1, 1 / this.zoom)
    const lines = strokes.map(points => {
      const g = document.createElementNS(ns, 'g'), line = document.createElementNS(ns, 'polyline'), head = document.createElementNS(ns, 'path')
      g.setAttribute('class', 'drawn-line')
      line.setAttribute('points', points)
      head.setAttribute('d', arrowAt(points))
      g.append(line, head)
      return g
    })
    const marks = changed.map(({ x, y, width, height, form, found }) => {
      const r = document.createElementNS(ns, 'rect')
      r.setAttribute('class', `changed-mark ${form}${found ? ' found' : ''}`)
      for (const [name, n] of Object.entries({ x: x - 5, y: y - 5, width: width + 10, height: height + 10, rx: 6 })) r.setAttribute(name, String(n))
      return r
    })
    this.page.layer.replaceChildren(...marks, ...lines, ...[...counts.values()].map(({ x, y, thread, n, item, by, pale }) => {
      const g = document.createElementNS(ns, 'g')
      Object.assign(g.dataset, { thread, item: item ?? '', left: x + 3, top: y - 3, ...by })
      g.setAttribute('class', pale ? 'flag pale' : 'flag')
      g.setAttribute('transform', `translate(${x + 3} ${y - 3}) scale(${size})`)
      g.setAttribute('role', 'button')
      g.setAttribute('aria-label', n === 1 ? 'One remark' : `${n} remarks`)
      const shape = document.createElementNS(ns, 'path')
      shape.setAttribute('d', 'M0 0h-18v13h8l5 5v-5h5z')
      const text = document.createElementNS(ns, 'text')
      text.setAttribute('x', '-9')
      text.setAttribute('y', '10')
      text.textContent = String(n)
      g.append(shape, text)
      return g
    }))
  }
}
