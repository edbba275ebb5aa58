// Cases that were traced and kept: named, walked again, and two of them set side by side.
import { byId, one, all, around, valueOf } from './dom.js'

export class Cases {
  /** @param {any} app */
  constructor(app) {
    this.app = app
    this.dialog = byId('cases-dialog')
    this.list = byId('cases-list')
    this.chosen = /** @type {string[]} */ ([])
    byId('keep-case').addEventListener('click', () => this.keep())
    this.list.addEventListener('change', e => {
      const id = around(e, 'li')?.dataset.id, field = /** @type {HTMLInputElement} */ (e.target)
      if (!id) return
      if (field.type === 'checkbox') this.choose(id, field.checked)
      else app.command('case-name', `${id}\n${field.value}`)
      this.show()
    })
    this.list.addEventListener('keydown', e => { if (e.key === 'Enter' && e.target.matches('input:not([type=checkbox])')) { e.preventDefault(); e.target.blur() } })
    this.list.addEventListener('click', e => {
      const button = around(e, 'button'), id = button?.closest('li').dataset.id
      if (!id) return
      if (button.dataset.does === 'walk') {
        this.dialog.close()
        app.command('case-walk', id)
      } else {
        const at = this.told().findIndex(c => c.id === id)
        app.command('case-remove', id)
        this.show()
        const next = all('li', this.list)[at] ?? all('li', this.list)[at - 1]
        if (next) one('input', next).focus()
        else one('[data-close]', this.dialog).focus()
      }
    })
  }

  /** @returns {Story[]} */
  told() { return valueOf(this.app.core.cases()) }

  open() {
    this.show()
    this.dialog.showModal()
  }

  // keep keeps the case under way, and asks what it is called.
  keep() {
    const before = this.told().length
    this.app.command('case-keep')
    const list = this.told()
    if (list.length === before) return
    this.open()
    const name = one(`li[data-id="${list[list.length - 1].id}"] input:not([type=checkbox])`, this.list)
    name.focus()
    name.select()
  }

  choose(id, on) {
    this.chosen = this.chosen.filter(c => c !== id)
    if (on) this.chosen = [...this.chosen, id].slice(-2)
  }

  show() {
    const list = this.told(), words = sums => (sums ?? []).map(f => `${f.name} ${f.value}`)
    this.chosen = this.chosen.filter(id => list.some(c => c.id === id))
    byId('cases-none').hidden = list.length > 0
    this.list.replaceChildren(...list.map(c => {
      const item = document.createElement('li'), name = document.createElement('input'), told = document.createElement('p'), row = document.createElement('div')
      item.dataset.id = c.id
      Object.assign(name, { value: c.name, maxLength: 200, autocomplete: 'off' })
      name.setAttribute('aria-label', 'Name of the case')
      const compare = document.createElement('label'), box = Object.assign(document.createElement('input'), { type: 'checkbox', checked: this.chosen.includes(c.id) })
      compare.className = 'check'
      compare.append(box, 'Compare')
      box.setAttribute('aria-label', `Compare ${c.name}`)
      const button = (text, does) => {
        const b = Object.assign(document.createElement('button'), { type: 'button', className: 'tool', textContent: text })
        b.dataset.does = does
        b.setAttribute('aria-label', `${text} ${c.name}`)
        return b
      }
      row.className = 'row'
      row.append(name, compare, button('Walk', 'walk'), button('Remove', 'remove'))
      told.className = 'who'
      told.textContent = [`${c.steps.length} ${c.steps.length === 1 ? 'step' : 'steps'}`, ...words(c.sums), `${c.handovers} ${c.handovers === 1 ? 'hand-over' : 'hand-overs'}`].join(' · ')
      item.append(row, told)
      if (c.fault) item.append(Object.assign(document.createElement('p'), { className: 'refusal', textContent: c.fault }))
      return item
    }))
    this.compare(list)
  }

  // compare shows two cases in two columns: what both came by in one row.
  compare(list) {
    const [a, b] = this.chosen.map(id => list.find(c => c.id === id))
    byId('cases-beside').hidden = !b
    if (!a || !b) return
    byId('cases-a').textContent = a.name
    byId('cases-b').textContent = b.name
    /** @type {Pair[]} */
    const pairs = valueOf(this.app.core.casesBeside(a.id, b.id))
    const cell = step => {
      const td = document.createElement('td')
      if (!step) return td
      td.append([step.number, step.text].filter(Boolean).join('  '))
      if (step.answer) td.append(' ', Object.assign(document.createElement('strong'), { textContent: step.answer }))
      if (step.who) td.append(Object.assign(document.createElement('span'), { className: 'who', textContent: step.who }))
      return td
    }
    const sums = c => {
      const td = document.createElement('td')
      td.textContent = [...(c.sums ?? []).map(f => `${f.name} ${f.value}`), `${c.handovers} ${c.handovers === 1 ? 'hand-over' : 'hand-overs'}`].join(', ')
      return td
    }
    const rows = pairs.map(p => {
      const row = document.createElement('tr')
      if (!p.a || !p.b || p.a.answer !== p.b.answer) row.className = 'apart'
      row.append(cell(p.a), cell(p.b))
      return row
    })
    const last = document.createElement('tr')
    last.className = 'sum'
    last.append(sums(a), sums(b))
    one('tbody', byId('cases-beside')).replaceChildren(...rows, last)
  }
}
