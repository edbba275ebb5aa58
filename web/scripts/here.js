// Remarks in place: a small card beside what they are about, with what was said there and a field to say more. It shows the same
// threads as the list, and sends to the same place.
import { byId, one, all, around } from './dom.js'
import { live, sendPart } from './parts.js'

export class Here {
  /** @param {any} remarks the list
   * @param {{base: string, textOf?: (id: string) => string, node: (id: string) => any, layer: () => any, selected?: () => string[]}} page */
  constructor(remarks, page) {
    this.remarks = remarks
    this.page = page
    this.card = byId('said-here')
    // What it is open on: a thing by its id, or a place; a thread of it; further things, and a line that was drawn.
    this.item = ''
    /** @type {{x: number, y: number} | null} */
    this.place = null
    this.thread = ''
    /** @type {string[]} */
    this.also = []
    /** @type {number[][]} */
    this.stroke = []
    this.key = ''
    /** What was being written elsewhere. @type {Map<string, string>} */
    this.kept = new Map()
    /** What is on its way. @type {string | undefined} */
    this.sent = undefined
    this.frame = 0
    this.laid = ''
    // The form of the card itself: the threads above it have forms of their own.
    const form = this.form = one(':scope > form', this.card)
    form.addEventListener('submit', e => { e.preventDefault(); this.send() })
    this.card.addEventListener('keydown', e => {
      if (e.key === 'Escape') { e.stopPropagation(); e.preventDefault(); this.shut(true) }
      if (e.key === 'Enter' && (e.ctrlKey || e.metaKey) && !e.isComposing) { e.preventDefault(); e.stopPropagation(); this.send() }
    })
    one('[data-shut]', this.card).addEventListener('click', () => this.shut(true))
    // Words that are marked in the text of the step are what the remark points at.
    document.addEventListener('selectionchange', () => {
      const s = getSelection(), quote = byId('said-text')
      if (!s || s.isCollapsed || !quote.contains(s.anchorNode) || !quote.contains(s.focusNode)) return
      this.words(s.toString().replace(/\s+/g, ' ').trim())
    })
    this.card.addEventListener('click', e => {
      if (around(e, '[data-unquote]')) this.words('')
      const goto = around(e, '.said-threads [data-goto]')
      if (goto) { e.preventDefault(); this.remarks.page.goTo(goto.dataset.goto, goto.dataset.sheet) }
      const take = around(e, '[data-proposal]')
      if (take) this.remarks.take(take)
    })
    document.addEventListener('htmx:after:swap', () => this.arrived())
    // A press elsewhere on the drawing shuts a card in which nothing is being written.
    document.addEventListener('pointerdown', e => {
      if (!this.open() || around(e, '#said-here, .flag, #remark-corner') || !around(e, '.desk, .reading')) return
      if (!all('[name=text], [name=proposal]', this.card).some(f => f.value !== f.defaultValue)) this.shut(false)
    }, true)
  }

  open() { return !this.card.hidden }

  words(words) {
    one('[name=words]', this.form).value = words
    byId('said-words').hidden = !words
    one('q', byId('said-words')).textContent = words
  }

  /** Opens the card on a thing or a place, with a thread of it, if there is one.
   * @param {{item?: string, place?: {x: number, y: number} | null, thread?: string, also?: string[], stroke?: number[][], write?: boolean}} about */
  show({ item = '', place = null, thread = '', also = [], stroke = [], write = false }) {
    if (this.open() && this.key !== this.keyOf(item, place, thread)) this.keep()
    this.key = this.keyOf(item, place, thread)
    Object.assign(this, { item, place, thread, also, stroke })
    const name = place ? 'this place' : item ? this.remarks.page.name(item) + (also.length ? ` and ${also.length} more` : '') : 'the whole map'
    byId('said-about').textContent = `On ${name}`
    const text = item && !place && this.page.textOf?.(item) || ''
    byId('said-text').textContent = text
    byId('said-quote').hidden = !text
    this.words('')
    const field = one('[name=text]', this.form)
    field.value = this.kept.get(this.key) ?? ''
    byId('said-refused').hidden = true
    this.card.hidden = false
    this.threads()
    this.follow()
    if (write) field.focus({ preventScroll: true })
  }

  keyOf(item, place, thread) { return `${item} ${place?.x ?? ''} ${place?.y ?? ''} ${place || !item ? thread : ''}` }

  // keep remembers what was being written, for when the card is opened there again.
  keep() {
    const text = one('[name=text]', this.form).value
    if (text) this.kept.set(this.key, text)
    else this.kept.delete(this.key)
  }

  shut(focus) {
    if (!this.open()) return
    this.keep()
    this.card.hidden = true
    cancelAnimationFrame(this.frame)
    this.remarks.undrawn()
    if (focus) this.remarks.page.focus?.()
  }

  // threads shows what was said here, as the list says it.
  threads() {
    const box = byId('said-threads')
    const at = document.activeElement, typed = box.contains(at) && /** @type {any} */ (at).name === 'text' ? { thread: one('[name=thread]', /** @type {any} */ (at).form)?.value, value: /** @type {any} */ (at).value } : null
    const mine = all('#remarks .thread').filter(t => this.thread && t.dataset.thread === this.thread || this.item && !this.place && t.dataset.item === this.item && !t.hasAttribute('data-place'))
    box.replaceChildren(...mine.map(t => {
      const copy = t.cloneNode(true)
      copy.removeAttribute('id')
      all('[id]', copy).forEach(e => e.removeAttribute('id'))
      // What it is about stands above; what it points at beside that does not.
      const about = one('.about', copy)
      if (about && copy.dataset.pointed) {
        const said = document.createElement('p')
        said.className = 'when'
        said.textContent = copy.dataset.pointed
        about.replaceWith(said)
      } else about?.remove()
      return copy
    }))
    byId('said-more').textContent = mine.length ? 'Another remark here' : 'What do you think?'
    live(box)
    const again = typed && all('.reply', box).find(f => one('[name=thread]', f).value === typed.thread)
    if (again) { const field = one('[name=text]', again); field.value = typed.value; field.focus({ preventScroll: true }) }
  }

  send() {
    const form = this.form, data = Object.fromEntries(new FormData(form))
    if (!String(data.text ?? '').trim() && !String(data.proposal ?? '').trim()) { one('[name=text]', form).focus(); return }
    const now = one('.said-page')?.dataset ?? {}
    const point = n => Math.round(n)
    this.sent = String(data.text)
    sendPart(`${this.page.base}/remarks`, '#remarks', {
      ...data, item: this.place ? '' : this.item, sheet: this.place || this.stroke.length ? this.remarks.page.sheet() : '', x: this.place?.x ?? '', y: this.place?.y ?? '', also: this.also.join(' '),
      stroke: this.stroke.map(([x, y]) => `${point(x)},${point(y)}`).join(' '), show: now.show ?? '', sort: now.sort ?? '',
    })
  }

  // arrived takes in what the list says now: what was sent is there, or was refused.
  arrived() {
    if (!this.open()) { this.sent = undefined; return }
    if (this.sent !== undefined) {
      const refusal = one('#remarks .refusal'), said = byId('said-refused')
      said.hidden = !refusal
      said.textContent = refusal?.textContent ?? ''
      if (!refusal) {
        const field = one('[name=text]', this.form)
        if (field.value === this.sent) field.value = ''
        one('[name=proposal]', this.form).value = ''
        this.words('')
        this.kept.delete(this.key)
        if (this.place || this.stroke.length) { this.sent = undefined; this.shut(true); return }
      }
      this.sent = undefined
    }
    this.threads()
  }

  // follow keeps the card beside what it is about while that moves on the screen.
  follow() {
    cancelAnimationFrame(this.frame)
    const lay = () => {
      if (!this.open()) return
      const area = this.page.layer().closest('.desk, .reading')?.getBoundingClientRect() ?? document.body.getBoundingClientRect()
      let r = this.item && !this.place && this.page.node(this.item)?.getBoundingClientRect()
      if (!r && this.place) { // the place, and the whole of a line that was drawn from there
        const m = this.page.layer().getScreenCTM(), points = [[this.place.x, this.place.y], ...this.stroke]
        const xs = points.map(p => m.a * p[0] / 100 + m.e), ys = points.map(p => m.d * p[1] / 100 + m.f)
        r = new DOMRect(Math.min(...xs), Math.min(...ys), Math.max(...xs) - Math.min(...xs) + 1, Math.max(...ys) - Math.min(...ys) + 1)
      }
      r ??= new DOMRect(area.right - 340, area.top + 8, 1, 1)
      const w = this.card.offsetWidth, h = this.card.offsetHeight, gap = 12
      let x = r.right + gap
      if (x + w > area.right - 4) x = r.left - gap - w
      if (x < area.left + 4) x = Math.max(area.left + 4, Math.min(area.right - w - 4, r.left))
      const beside = x >= r.right || x + w <= r.left
      const y = Math.max(area.top + 4, Math.min(area.bottom - h - 4, beside ? r.top : r.bottom + gap))
      const place = `${Math.round(x)}px ${Math.round(y)}px`
      if (place !== this.laid) { this.laid = place; this.card.style.left = `${Math.round(x)}px`; this.card.style.top = `${Math.round(y)}px` }
      this.frame = requestAnimationFrame(lay)
    }
    lay()
  }
}
