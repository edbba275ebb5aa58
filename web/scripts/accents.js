// Some words of a text are set otherwise than the rest: they are marked in the field in which it is written, and a bar
// below it shows how the text will be drawn. What the words are and how they are set is the core's to say.
import { all, around, byId, valueOf } from './dom.js'
import { keyOf, mods } from './keys.js'

export class Accents {
  constructor(app) {
    this.app = app
    this.field = byId('writing')
    this.bar = byId('accents')
    this.field.addEventListener('keydown', e => this.key(e))
    for (const what of ['select', 'input', 'keyup', 'pointerup']) this.field.addEventListener(what, () => this.show())
    this.bar.addEventListener('pointerdown', e => { e.preventDefault(); e.stopPropagation() })
    this.bar.addEventListener('click', e => {
      const b = around(e, '[data-accent]')
      if (b) this.set(b.dataset.accent, b.dataset.arg ?? '')
    })
    this.bar.addEventListener('keydown', e => this.within(e))
    this.bar.addEventListener('focusout', e => { if (e.relatedTarget !== this.field && !this.has(e.relatedTarget)) this.app.closeWriting(true) })
  }

  /** @param {EventTarget | null} target */
  has(target) { return target instanceof Node && this.bar.contains(target) }

  // marked counts the characters up to both ends of what is marked in the field.
  marked() {
    const { value, selectionStart, selectionEnd } = this.field
    return [selectionStart, selectionEnd].map(n => [...value.slice(0, n)].length)
  }

  // key is what a key does in the field: Ctrl B and Ctrl I set the marked words, Alt and the arrow down go to the bar.
  key(e) {
    const way = mods(e) === 2 && { b: 'bold', i: 'italic' }[keyOf(e).toLowerCase()]
    if (way) {
      e.preventDefault()
      this.set(way, '')
    } else if (e.altKey && e.key === 'ArrowDown' && this.show(true)) {
      e.preventDefault()
      all('button', this.bar)[0].focus()
    }
  }

  // within is what a key does in the bar: arrows go along it, Escape back to the field.
  within(e) {
    e.stopPropagation()
    const list = all('button', this.bar), at = list.indexOf(document.activeElement)
    const to = { ArrowRight: at + 1, ArrowLeft: at - 1, ArrowDown: at + 1, ArrowUp: at - 1, Home: 0, End: list.length - 1 }[e.key]
    if (to !== undefined) list.at(to % list.length).focus()
    else if (e.key === 'Escape' || e.key === 'Tab') this.field.focus()
    else return
    e.preventDefault()
  }

  // set sets the marked words otherwise.
  set(way, arg) {
    const { app, field } = this, w = app.written
    if (!w || w.at) return
    const [from, to] = this.marked()
    app.core.accentWords(w.id, field.value, from, to, way, arg)
    app.flush()
    this.show(true)
    app.saved()
  }

  // show shows how the text will be drawn, where words of it are set otherwise or a part of it is marked, or where that
  // is asked for. It returns whether it does.
  show(asked = false) {
    const { app, field, bar } = this, w = app.written
    const [from, to] = w ? this.marked() : [0, 0]
    const text = w && !w.at && !field.hidden ? valueOf(app.core.wordedAs(w.id, field.value, from, to)) : null
    const part = from < to && (from > 0 || to < [...field.value].length)
    bar.hidden = !text || !(asked && field.value || text.set || part)
    if (bar.hidden || !text) return false
    const seen = byId('accents-seen')
    seen.hidden = !text.set
    seen.style.background = text.fill
    seen.replaceChildren(...text.parts.map(p => {
      const span = document.createElement('span')
      span.textContent = p.text
      Object.assign(span.style, { fontWeight: p.bold ? '600' : '400', fontStyle: p.italic ? 'italic' : 'normal', color: p.colour })
      return span
    }))
    for (const b of all('[aria-pressed]', bar)) {
      const { accent, arg } = b.dataset
      b.setAttribute('aria-pressed', String(accent === 'colour' ? arg === text.colour && (!!arg || from < to) : !!text[accent]))
    }
    this.lay()
    return true
  }

  // lay sets the bar below the field, or above it where there is no room.
  lay() {
    const { field, bar } = this
    if (bar.hidden) return
    const at = field.getBoundingClientRect(), room = byId('drawing').getBoundingClientRect(), own = bar.getBoundingClientRect()
    const left = Math.max(room.left + 4, Math.min((at.left + at.right - own.width) / 2, room.right - own.width - 4))
    const below = at.bottom + 6 + own.height <= room.bottom ? at.bottom + 6 : Math.max(at.top - own.height - 6, room.top + 4)
    Object.assign(bar.style, { left: `${left - room.left}px`, top: `${below - room.top}px` })
  }
}
