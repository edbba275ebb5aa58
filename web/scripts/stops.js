// The stops of a map beside the drawing: added where one looks, named, put in order.
import { byId, one, all, around } from './dom.js'

export class Stops {
  /** @param {any} app @param {() => any} state what the bars show */
  constructor(app, state) {
    this.app = app
    this.state = state
    this.list = byId('stops-list')
    byId('stops-shut').addEventListener('click', () => this.shut())
    byId('stops').addEventListener('keydown', e => { if (e.key === 'Escape') this.shut() })
    byId('stop-add').addEventListener('click', () => app.command('stop-add', app.viewport.seen().map(n => n.toFixed(2)).join(' ')))
    this.list.addEventListener('change', e => {
      const item = around(e, 'li')
      if (item) app.command('stop-set', JSON.stringify({ id: item.dataset.id, title: one('input', item).value, words: one('textarea', item).value }))
    })
    this.list.addEventListener('click', e => {
      const button = around(e, 'button'), item = button?.closest('li')
      if (!item) return
      const at = this.stops().findIndex(s => s.id === item.dataset.id), does = button.dataset.does
      if (does === 'remove') app.command('stop-remove', item.dataset.id)
      else if (does) app.command('stop-move', `${item.dataset.id}:${at + Number(does)}`)
      else this.goTo(this.stops()[at])
      if (does) one(`li[data-id="${item.dataset.id}"] [data-does="${does}"]`, this.list)?.focus()
    })
  }

  stops() { return this.state().stops ?? [] }

  open() {
    byId('stops').hidden = false
    this.app.resized()
    this.show()
    byId('stop-add').focus()
  }

  shut() {
    byId('stops').hidden = true
    this.app.resized()
    this.app.focus()
  }

  goTo(stop) {
    if (stop.sheet !== this.state().sheet) this.app.command('sheet', stop.sheet)
    this.app.viewport.showPart(stop.seen)
  }

  // show brings the list up to date; a field that is written in is left alone.
  show() {
    if (byId('stops').hidden || this.list.contains(document.activeElement) && /** @type {any} */ (document.activeElement).matches('input, textarea')) return
    const stops = this.stops()
    this.list.replaceChildren(...stops.map((stop, i) => {
      const item = document.createElement('li')
      item.dataset.id = stop.id
      const button = (text, does, name) => {
        const b = document.createElement('button')
        Object.assign(b, { type: 'button', className: 'tool', textContent: text })
        if (does) b.dataset.does = does
        b.setAttribute('aria-label', `${name} ${i + 1}, ${stop.title}`)
        return b
      }
      const title = document.createElement('input'), words = document.createElement('textarea'), row = document.createElement('div')
      Object.assign(title, { value: stop.title, maxLength: 200, autocomplete: 'off' })
      title.setAttribute('aria-label', `Title of stop ${i + 1}`)
      Object.assign(words, { value: stop.words, maxLength: 4000, rows: 2, placeholder: 'A few words' })
      words.setAttribute('aria-label', `Words of stop ${i + 1}`)
      const go = button(`${i + 1} · ${this.state().sheets.find(s => s.id === stop.sheet)?.name ?? ''}`, '', 'Go to stop')
      const up = button('↑', '-1', 'Move up stop'), down = button('↓', '1', 'Move down stop')
      up.disabled = i === 0
      down.disabled = i === stops.length - 1
      row.className = 'row'
      row.append(go, up, down, button('Remove', 'remove', 'Remove stop'))
      item.append(row, title, words)
      return item
    }))
  }
}
