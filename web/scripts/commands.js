// Commands by name: the search for them, the list of their keys and the menu of
// what was clicked. What there is, and what it needs, the core says.
import { byId, valueOf } from './dom.js'
import { written } from './keys.js'


function keycaps(key) {
  const out = document.createElement('span')
  for (const part of key === 'Ctrl++' ? ['Ctrl', '+'] : key.split('+')) {
    const cap = document.createElement('kbd')
    cap.textContent = written(part)
    out.append(cap, ' ')
  }
  return out
}

export class Commands {
  constructor(app) {
    this.app = app
    this.openSearch = () => {}
    /** @type {(x: number, y: number) => void} */
    this.openContext = () => {}
    this.search()
    this.context()
  }

  // search finds a command by its name or by other words for it.
  search() {
    const dialog = byId('search-dialog'), field = byId('search-text'), list = byId('search-list')
    const show = () => {
      this.found = valueOf(this.app.core.find(field.value))
      this.at = 0
      list.replaceChildren(...this.found.map((c, i) => {
        const row = document.createElement('div')
        row.className = 'found-command'
        row.id = `found-${i}`
        row.setAttribute('role', 'option')
        row.setAttribute('aria-disabled', c.needs ? 'true' : 'false')
        const part = document.createElement('span'), title = document.createElement('span')
        part.className = 'part'
        part.textContent = c.part
        title.className = 'title'
        title.textContent = c.needs ? `${c.title}. ${c.needs}` : c.title
        row.append(part, title)
        if (c.key) { const k = keycaps(c.key); k.style.marginLeft = 'auto'; row.append(k) }
        row.addEventListener('click', () => { this.at = i; this.run() })
        return row
      }))
      this.mark()
    }
    this.openSearch = () => {
      field.value = ''
      dialog.showModal()
      show()
      field.focus()
    }
    field.addEventListener('input', show)
    field.addEventListener('keydown', e => {
      const step = { ArrowDown: 1, ArrowUp: -1 }[e.key]
      if (step && this.found.length) { this.at = (this.at + step + this.found.length) % this.found.length; this.mark(); e.preventDefault() }
      if (e.key === 'Enter') { e.preventDefault(); this.run() }
    })
  }

  mark() {
    const field = byId('search-text')
    for (const [i, row] of [...byId('search-list').children].entries()) row.setAttribute('aria-selected', i === this.at ? 'true' : 'false')
    const row = byId(`found-${this.at}`)
    row?.scrollIntoView({ block: 'nearest' })
    if (row) field.setAttribute('aria-activedescendant', row.id)
    else field.removeAttribute('aria-activedescendant')
  }

  run() {
    const c = this.found[this.at]
    if (!c) return
    if (c.needs) { this.app.bars.say(c.needs); return }
    byId('search-dialog').close()
    this.app.focus()
    this.app.command(c.command, c.arg || '')
  }

  // keys lists every command that has a key, part by part.
  keys() {
    const parts = new Map()
    for (const c of valueOf(this.app.core.directory())) {
      if (!c.key) continue
      if (!parts.has(c.part)) parts.set(c.part, [])
      parts.get(c.part).push(c)
    }
    byId('key-list').replaceChildren(...[...parts].flatMap(([part, list]) => {
      const head = document.createElement('h3'), dl = document.createElement('dl')
      head.textContent = part
      dl.className = 'keys'
      for (const c of list) {
        const div = document.createElement('div'), dt = document.createElement('dt'), dd = document.createElement('dd')
        dt.append(keycaps(c.key))
        dd.textContent = c.title
        div.append(dt, dd)
        dl.append(div)
      }
      return [head, dl]
    }))
    byId('keys-dialog').showModal()
  }

  // context shows what fits the thing at a place of the page.
  context() {
    const menu = byId('context')
    const shut = () => { if (!menu.hidden) { menu.hidden = true; this.app.focus() } }
    this.openContext = (x, y) => {
      const at = this.app.place({ clientX: x, clientY: y })
      const list = valueOf(this.app.core.menu(...at))
      this.app.flush()
      if (!list.length) return
      menu.replaceChildren(...list.map(c => {
        const b = document.createElement('button')
        b.type = 'button'
        b.setAttribute('role', 'menuitem')
        b.classList.toggle('apart', !!c.line)
        b.append(c.title)
        if (c.key) { const k = keycaps(c.key); k.style.marginLeft = 'auto'; b.append(k) }
        b.addEventListener('click', () => { shut(); this.app.command(c.command, c.arg || '') })
        return b
      }))
      menu.hidden = false
      const desk = byId('desk').getBoundingClientRect(), r = menu.getBoundingClientRect()
      menu.style.left = `${Math.max(4, Math.min(x - desk.left, desk.width - r.width - 4))}px`
      menu.style.top = `${Math.max(4, Math.min(y - desk.top, desk.height - r.height - 4))}px`
      menu.firstChild.focus()
    }
    menu.addEventListener('keydown', e => {
      const items = [...menu.children], i = items.indexOf(document.activeElement)
      const to = { ArrowDown: i + 1, ArrowUp: i - 1 + items.length, Home: 0, End: items.length - 1 }[e.key]
      if (to !== undefined) { items[to % items.length].focus(); e.preventDefault() }
      if (e.key === 'Escape' || e.key === 'Tab') { shut(); e.preventDefault() }
      e.stopPropagation()
    })
    document.addEventListener('pointerdown', e => { if (!menu.contains(e.target)) menu.hidden = true }, true)
    menu.addEventListener('contextmenu', e => e.preventDefault())
  }
}
