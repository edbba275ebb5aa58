// The other people on a map: where they point, what they have selected, and following one of them. Each is told from the
// others by the form of the outline as well as by colour.
import { byId, svgNS } from './dom.js'
import { boxOf } from './remarks.js'

const pause = 200, stays = 20000 // in ms: how often this window tells, and how long what another told is shown
const signs = ['M0 0l4 12 3-5 6-1z', 'M0 0h9v9H0z', 'M5 0l5 10H0z', 'M5 0l5 5-5 5-5-5z']
const initials = name => name.split(/\s+/).map(w => w[0]).slice(0, 2).join('').toUpperCase()

export class Others {
  constructor(app) {
    this.app = app
    this.there = new Map() // window: where it points
    this.forms = new Map() // name: which form
    this.at = { x: 0, y: 0 }
    byId('desk').addEventListener('pointermove', e => { [this.at.x, this.at.y] = app.place(e); this.tell() })
    byId('follow').addEventListener('click', e => {
      const name = /** @type {any} */ (e.target).closest('button')?.dataset.name
      if (name) this.follow(this.followed === name ? '' : name)
    })
    byId('desk').addEventListener('pointerdown', () => this.follow(''))
  }

  // tell tells where this window points, when others are there to see it.
  tell() {
    if (this.telling || !this.crowd) return
    this.telling = setTimeout(() => {
      this.telling = 0
      const where = { sheet: this.app.bars.state.sheet, ...this.at, items: (this.app.bars.state.selected || []).slice(0, 20) }
      const now = JSON.stringify(where)
      if (now !== this.told) this.app.sync.pointing(where)
      this.told = now
    }, pause)
  }

  here(who, editors) {
    this.crowd = editors > 1
    this.told = ''
    this.tell()
    for (const name of who) if (!this.forms.has(name)) this.forms.set(name, this.forms.size % 4)
    const now = new Set([...this.there.values()].map(w => w.name))
    for (const [window, w] of this.there) if (!who.includes(w.name)) this.there.delete(window)
    this.people = who.filter(n => now.has(n))
    this.show()
  }

  // shown offers to follow somebody who shows the map in a meeting, in a window of its own.
  shown(what) {
    byId('follow-show').hidden = !what.stop && !what.at
    byId('follow-name').textContent = `Follow ${what.name || 'who shows it'}`
  }

  points(where) {
    const known = [...this.there.values()].some(w => w.name === where.name)
    this.there.set(where.window, { ...where, when: performance.now() })
    if (!this.forms.has(where.name)) this.forms.set(where.name, this.forms.size % 4)
    if (!known) this.people = [...new Set([...(this.people || []), where.name])]
    this.show()
    if (this.followed === where.name) {
      if (where.sheet !== this.app.bars.state.sheet) this.app.command('sheet', where.sheet)
      this.app.reveal({ x: where.x - 4000, y: where.y - 4000, w: 8000, h: 8000 })
    }
    clearTimeout(this.fading)
    this.fading = setTimeout(() => this.show(), stays)
  }

  follow(name) {
    if (name === (this.followed || '')) return
    this.followed = name
    this.show()
    if (name) this.app.bars.say(`You see what ${name} sees, until you click on the sheet.`)
  }

  show() {
    const buttons = (this.people || []).filter(name => name !== document.body.dataset.me).map(name => {
      const b = Object.assign(document.createElement('button'), { type: 'button', className: `name-${this.forms.get(name)}`, textContent: initials(name), title: `Follow ${name}` })
      b.dataset.name = name
      b.setAttribute('aria-label', `${initials(name)}: follow ${name}`)
      b.setAttribute('aria-pressed', String(name === this.followed))
      return b
    })
    byId('follow').replaceChildren(...buttons)
    const nodes = [], element = (kind, values) => {
      const e = document.createElementNS(svgNS, kind)
      for (const [k, v] of Object.entries(values)) e.setAttribute(k, v)
      return e
    }
    for (const w of this.there.values()) {
      if (w.sheet !== this.app.bars.state.sheet || performance.now() - w.when > stays) continue
      const form = this.forms.get(w.name)
      for (const id of w.items || []) {
        const b = boxOf(id)
        if (b) nodes.push(element('rect', { class: `form-${form}`, x: b.x - 5, y: b.y - 5, width: b.width + 10, height: b.height + 10, rx: 5 }))
      }
      const sign = element('path', { class: `name-${form}`, d: signs[form], transform: `translate(${w.x / 100} ${w.y / 100})` })
      const name = element('text', { class: `name-${form}`, x: w.x / 100 + 12, y: w.y / 100 + 20 })
      name.textContent = w.name
      nodes.push(sign, name)
    }
    byId('others').replaceChildren(...nodes)
  }
}
