// All sheets as pictures: to go to one, to order, copy and remove them; and the picture that a tab shows under the pointer.
import { byId, all, around } from './dom.js'

export class Sheets {
  /** @param {any} app @param {() => any} state what the bars show */
  constructor(app, state) {
    this.app = app
    this.state = state
    this.dragged = ''
    this.list = byId('sheets-list')
    this.dialog = byId('sheets-dialog')
    byId('find-sheet').addEventListener('input', () => this.find())
    byId('find-sheet').addEventListener('keydown', e => {
      if (e.key !== 'Enter') return
      e.preventDefault()
      this.goTo(this.cards().find(card => !card.parentElement.hidden))
    })
    this.list.addEventListener('click', e => {
      const button = around(e, 'button')
      const id = button?.closest('li').dataset.id
      if (!id) return
      if (button.dataset.does) this.does(id, button.dataset.does)
      else this.goTo(button)
    })
    this.list.addEventListener('keydown', e => this.key(e))
    this.list.addEventListener('dragstart', e => {
      this.dragged = around(e, 'li')?.dataset.id ?? ''
      e.dataTransfer?.setData('text/plain', this.dragged)
    })
    this.list.addEventListener('dragover', e => { if (this.dragged) e.preventDefault() })
    this.list.addEventListener('drop', e => {
      const over = around(e, 'li')?.dataset.id
      if (!this.dragged || !over || over === this.dragged) return
      e.preventDefault()
      this.move(this.dragged, this.place(over))
    })
    this.list.addEventListener('dragend', () => { this.dragged = '' })
  }

  cards() { return all('li > button:first-child', this.list) }
  place(id) { return this.state().sheets.findIndex(s => s.id === id) }
  move(id, to) { if (to >= 0 && to < this.state().sheets.length) this.app.command('sheet-to', `${id}:${to}`) }

  open() {
    byId('find-sheet').value = ''
    this.dialog.showModal()
    this.show()
    this.focus(this.state().sheet)
  }

  // focus puts the focus on the card of a sheet.
  focus(id) { this.cards().find(card => card.parentElement.dataset.id === id)?.focus() }

  // show brings the pictures up to date. Each is drawn when it comes into sight, one after the other.
  show() {
    if (!this.dialog.open) return
    const at = /** @type {any} */ (document.activeElement)?.closest?.('#sheets-list li')?.dataset.id
    this.seen?.disconnect()
    const seen = this.seen = new IntersectionObserver(list => {
      for (const { isIntersecting, target } of list) {
        if (!isIntersecting) continue
        seen.unobserve(target)
        setTimeout(() => { target.innerHTML = this.app.core.sheetPicture(target.closest('li')?.dataset.id) })
      }
    })
    this.list.replaceChildren(...this.state().sheets.map((s, i) => {
      const item = document.createElement('li')
      item.dataset.id = s.id
      item.draggable = true
      const card = document.createElement('button'), picture = document.createElement('span'), name = document.createElement('span')
      card.type = 'button'
      picture.className = 'picture'
      name.textContent = `${i + 1}  ${s.name}`
      if (s.colour) name.style.borderLeft = `4px solid ${s.colour}`
      if (s.id === this.state().sheet) card.setAttribute('aria-current', 'page')
      card.append(picture, name)
      item.append(card, ...[['copy', 'Duplicate'], ['remove', 'Remove']].map(([does, title]) => {
        const b = document.createElement('button')
        Object.assign(b, { type: 'button', className: 'tool', textContent: title })
        b.dataset.does = does
        b.setAttribute('aria-label', `${title} ${s.name}`)
        return b
      }))
      seen.observe(picture)
      return item
    }))
    this.find()
    if (at) this.focus(at)
  }

  // find leaves the sheets with a number, or of which a name or a text is asked for.
  find() {
    const words = byId('find-sheet').value.trim().toLowerCase()
    for (const [i, card] of this.cards().entries()) {
      card.parentElement.hidden = /^[0-9]+$/.test(words) ? words !== String(i + 1) : !card.textContent.toLowerCase().includes(words)
    }
  }

  goTo(card) {
    const id = card?.closest('li').dataset.id
    if (!id) return
    this.dialog.close()
    this.app.command('sheet', id)
    this.app.focus()
  }

  does(id, does) {
    this.app.command('sheet', id)
    this.app.command(does === 'copy' ? 'sheet-copy' : 'sheet-remove', '')
    this.focus(this.state().sheet)
  }

  key(e) {
    const by = { ArrowLeft: -1, ArrowUp: -1, ArrowRight: 1, ArrowDown: 1 }[e.key]
    const id = around(e, 'li')?.dataset.id
    if (!by || !id) return
    e.preventDefault()
    if (e.altKey) {
      this.move(id, this.place(id) + by)
      this.focus(id)
      return
    }
    const seen = this.cards().filter(card => !card.parentElement.hidden)
    const i = seen.findIndex(card => card.parentElement.dataset.id === id)
    seen[Math.min(seen.length - 1, Math.max(0, i + by))]?.focus()
  }

  // peek shows the picture of a sheet over its tab while the pointer rests there.
  peek(tab, sheet) {
    const peek = byId('sheet-peek')
    tab.addEventListener('pointerenter', () => {
      clearTimeout(this.rests)
      if (sheet.id === this.state().sheet) return
      this.rests = setTimeout(() => {
        if (!tab.isConnected) return
        const b = tab.getBoundingClientRect(), picture = this.app.core.sheetPicture(sheet.id)
        peek.innerHTML = picture
        peek.hidden = !picture
        peek.style.left = `${Math.max(4, Math.min(b.left, innerWidth - 250))}px`
        peek.style.bottom = `${innerHeight - b.top + 6}px`
      }, 350)
    })
    for (const kind of ['pointerleave', 'pointerdown']) tab.addEventListener(kind, () => { clearTimeout(this.rests); peek.hidden = true })
  }
}
