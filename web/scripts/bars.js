// The bars around the drawing: they show the core's state and pass commands.
import { showCase } from './tracing.js'
import { byId, one, all, around, valueOf, fromPage } from './dom.js'
import { Sheets } from './sheets.js'
import { Stops } from './stops.js'
import { Cases } from './cases.js'
import { People } from './people.js'
import { Journey } from './journey.js'
import { Styles } from './styles.js'
import { Commands } from './commands.js'
import { refresh } from './parts.js'
import { leadsTo, otherMaps } from './files.js'
import { fill } from './fields.js'
import { rewrite } from './keys.js'
import { peeking } from './peek.js'

/** Whether a value that is offered is the one there is; a length is offered with its unit. @param {string} offered @param {string} now @param {string} units */
const same = (offered, now, units) => offered === now || (offered.endsWith(' pt') || offered.endsWith(' px') && units === 'px') && parseFloat(offered) === parseFloat(now)

/** What a field offers while one types in it. @param {string} list the id of its list @param {string[]} names */
const suggest = (list, names) => byId(list).replaceChildren(...names.map(name => Object.assign(document.createElement('option'), { value: name })))

export class Bars {
  constructor(app) {
    this.app = app
    /** What the bars show; nothing yet.
     * @type {BarState} */
    this.state = /** @type {any} */ ({})
    this.styles = new Styles(app)
    this.sheets = new Sheets(app, () => this.state)
    this.stops = new Stops(app, () => this.state)
    this.cases = new Cases(app)
    this.people = new People(app)
    this.journey = new Journey(app)
    /** Opens a page of the side panel. @type {(name: string) => void} */
    this.panel = () => {}
    this.commands = new Commands(app)
    /** Set by the page.
     * @type {import('./handover.js').Handover} */
    this.handover = /** @type {any} */ (undefined)
    document.addEventListener('click', e => this.click(e))
    document.addEventListener('focusin', e => this.explain(around(e, '[aria-disabled="true"]')))
    document.addEventListener('change', e => this.set(e.target))
    byId('title').addEventListener('change', e => app.command('title', e.target.value))
    byId('title').addEventListener('keydown', e => {
      if (e.key === 'Enter') { e.target.blur(); app.focus() }
      if (e.key === 'Escape') { e.target.value = this.state.title; e.target.blur(); app.focus() }
    })
    this.book()
    peeking(app)
    this.dialogs()
    rewrite(document)
  }

  // Commands may sit anywhere; one that does not apply says what it needs.
  click(e) {
    const button = around(e, '[data-command], [data-needs], [data-find], [data-close], [data-copy]')
    if (!button) return
    const { command, arg, find } = button.dataset
    if (button.getAttribute('aria-disabled') === 'true') {
      e.stopPropagation()
      e.preventDefault()
      this.say(button.title)
      return
    }
    if (find) { this.app.command('find', find); this.app.focus() }
    if (command) {
      this.app.command(command, arg || '')
      if (!button.closest('dialog, .finder, .looks') && !one('dialog[open]') && byId('finder').contains(document.activeElement) === false) this.app.focus()
    }
    if (button.hasAttribute('data-close')) button.closest('dialog')?.close()
    if (button.hasAttribute('data-copy')) {
      navigator.clipboard.writeText(one('input', button.parentElement).value)
        .then(() => this.say('The link is on the clipboard.'), () => this.say('The browser did not allow copying. Select the link and copy it yourself.'))
    }
  }

  // set passes a value that was typed or chosen on as a command.
  set(field) {
    const { set, name } = field.dataset
    if (!set || field.getAttribute('aria-disabled') === 'true') return
    this.app.command(set, name ? `${name}=${field.value}` : field.value)
    this.show(this.state) // a value that was refused goes back
  }

  // explain says what a dimmed tool needs when the keyboard comes to it.
  explain(button) { if (button?.title && button.matches(':focus-visible')) this.say(button.title) }

  // titled names the page by the map, with a mark where somebody waits for a review.
  titled() { document.title = `${document.body.hasAttribute('data-asked') ? '(1) ' : ''}${this.state.title ?? ''} · Plain Tracer` }

  show(state) {
    const before = this.state
    this.app.heard.own(state, before)
    this.state = state
    fill(byId('title'), state.title)
    this.titled()
    for (const button of all('[data-command], [data-needs]')) {
      const name = button.dataset.needs || button.dataset.command
      if (!name) continue
      let needs = state.needs[name] || ''
      if (name === 'undo' && !state.undo) needs = 'There is nothing to undo.'
      if (name === 'redo' && !state.redo) needs = 'There is nothing to redo.'
      button.setAttribute('aria-disabled', needs ? 'true' : 'false')
      button.title = needs || (name === 'undo' ? `Undo ${state.undo}` : name === 'redo' ? `Redo ${state.redo}` : '')
      if (button.dataset.shows && button.getAttribute('aria-haspopup') === null) button.setAttribute('aria-pressed', state.on[button.dataset.shows] ? 'true' : 'false')
    }
    const sheet = state.sheets.find(s => s.id === state.sheet)
    const now = { ...state.now, fitting: sheet.fitting, crossings: sheet.crossings, merging: sheet.merging, middle: sheet.middle, edge: sheet.edge, units: state.units === 'px' ? '' : state.units }
    for (const field of all('[data-now]')) {
      const needs = state.needs[field.dataset.set] || ''
      field.disabled = !!needs
      fill(field, now[field.dataset.now] ?? '')
    }
    for (const group of all('[data-values]')) {
      const value = String(now[group.dataset.values] ?? '')
      for (const b of all('button', group)) b.setAttribute('aria-pressed', same(b.dataset.value, value, state.units) ? 'true' : 'false')
    }
    for (const piece of all('.piece[data-take]')) piece.setAttribute('aria-pressed', state.hand === piece.dataset.take ? 'true' : 'false')
    for (const part of all('[data-for]')) part.hidden = part.dataset.for !== (state.shows || 'flow')
    for (const part of all('[data-not]')) part.hidden = part.dataset.not === state.shows
    this.journey.sums(state)
    byId('drawing').classList.toggle('placing', !!state.hand || !!state.on.room)
    this.tabs(state, before)
    this.way(state, before)
    this.links(state, before)
    if (JSON.stringify([state.stops, state.sheets]) !== JSON.stringify([before.stops, before.sheets])) this.stops.show()
    this.trace(state.trace)
    this.styles.show(state)
    byId('plain').textContent = state.plain ? `${state.plain} connectors drawn plainly` : ''
    const n = state.findings
    byId('count').classList.toggle('wrong', n > 0)
    one('span', byId('count')).textContent = n === 0 ? 'No findings' : n === 1 ? '1 finding' : `${n} findings`
    const selected = JSON.stringify(state.selected)
    if (selected !== this.marked) this.mark(state.selected)
    this.marked = selected
  }

  // mark marks what is selected in the lists beside, which can hold thousands of steps.
  mark(selected) {
    for (const step of all('.chosen[data-find]')) step.classList.remove('chosen')
    const chosen = new Set(selected)
    if (chosen.size) for (const step of all('[data-find]')) if (chosen.has(step.dataset.find)) step.classList.add('chosen')
  }

  // trace shows where a case is, and the ways on.
  trace(t) {
    byId('case').hidden = !t
    byId('draw').setAttribute('aria-pressed', t || document.body.classList.contains('reviewing') ? 'false' : 'true')
    byId('trace').setAttribute('aria-pressed', t ? 'true' : 'false')
    // Buttons are not replaced under a pointer that is about to press them.
    const now = JSON.stringify(t)
    if (!t || now === this.traced) { this.traced = now; return }
    this.traced = now
    showCase(t, t.steps, (b, i) => { b.dataset.command = 'trace-go'; b.dataset.arg = i })
  }

  // links lists where what is selected leads; a press opens one, or takes it away.
  links(state, before) {
    if (JSON.stringify(state.links) === JSON.stringify(before.links)) return
    byId('links-list').replaceChildren(...(state.links ?? []).map(link => {
      const line = document.createElement('li'), away = document.createElement('button')
      const open = Object.assign(document.createElement('a'), { textContent: link.title, href: leadsTo(link.to) })
      if (!open.getAttribute('href')?.startsWith('#')) Object.assign(open, { target: '_blank', rel: 'noopener noreferrer', title: link.to })
      line.append(open)
      if (link.own) {
        Object.assign(away, { type: 'button', className: 'tool', textContent: 'Remove' })
        away.setAttribute('aria-label', `Remove the link to ${link.title}`)
        away.addEventListener('click', () => this.app.command('link-remove', link.to))
        line.append(away)
      }
      return line
    }))
  }

  openLinks() {
    byId('link-to').value = byId('link-title').value = ''
    const names = [...this.state.sheets.map(s => s.name), ...all('.register [data-find]').map(row => `${one('.number', row)?.textContent ?? ''} ${one('.what', row)?.textContent ?? ''}`.trim())]
    byId('link-places').replaceChildren(...names.filter(Boolean).map(value => Object.assign(document.createElement('option'), { value })))
    byId('links-dialog').showModal()
    byId('link-to').focus()
    otherMaps().then(list => {
      this.otherMaps = new Map(list.map(m => [`Map: ${m.title}`, m]))
      byId('link-places').append(...[...this.otherMaps.keys()].map(value => Object.assign(document.createElement('option'), { value })))
    })
  }

  // sendTo offers the maps to which a sheet can be sent.
  async sendTo() {
    const maps = (await otherMaps()).filter(m => m.edit)
    byId('send-to').replaceChildren(...maps.map(m => Object.assign(document.createElement('option'), { value: m.id, textContent: m.title })))
    byId('send-copy').disabled = !maps.length
    byId('send-move').disabled = !maps.length || this.state.sheets.length < 2
  }

  // send copies the sheet to another map, or moves it there, once all that was done here is saved.
  async send(move) {
    const to = byId('send-to'), title = to.selectedOptions[0]?.textContent, { sheet } = this.state
    if (!to.value) return
    byId('sheet-menu').close()
    this.app.flush()
    await this.app.sync.settled()
    const answer = await fetch(`${document.body.dataset.base}/sheet/${encodeURIComponent(sheet)}/send`, { method: 'POST', body: new URLSearchParams({ to: to.value, move }), headers: fromPage({ Accept: 'application/json' }) }).catch(() => null)
    if (!answer) this.say('The connection was lost. Look into the other map before you try again.')
    else if (!answer.ok) this.say(await answer.text())
    else this.say(move ? `The sheet is the last one of “${title}” now.` : `A copy is the last sheet of “${title}” now.`)
  }

  // way shows through which steps one has come to a detail, each of which leads back to itself.
  way(state, before) {
    if (JSON.stringify(state.way) === JSON.stringify(before.way)) return
    byId('way').hidden = !state.way
    byId('way').replaceChildren(...(state.way ?? []).map(stage => {
      const part = document.createElement(stage.symbol ? 'button' : 'strong')
      if (part instanceof HTMLButtonElement) part.type = 'button'
      if (stage.symbol) part.dataset.find = stage.symbol
      part.textContent = stage.text || 'A step'
      return part
    }))
  }

  tabs(state, before) {
    if (JSON.stringify([state.sheets, state.sheet]) === JSON.stringify([before.sheets, before.sheet])) return
    this.sheets.show()
    byId('tabs').replaceChildren(...state.sheets.map(s => {
      const tab = document.createElement('button')
      tab.type = 'button'
      tab.role = 'tab'
      tab.textContent = s.name || 'Sheet'
      tab.setAttribute('aria-selected', s.id === state.sheet ? 'true' : 'false')
      tab.title = s.id === state.sheet ? 'Click to rename, duplicate or remove this sheet; drag it to another place' : 'Drag it to another place'
      tab.draggable = true
      tab.addEventListener('dragstart', e => {
        this.dragged = s.id
        if (e.dataTransfer) { e.dataTransfer.effectAllowed = 'move'; e.dataTransfer.setData('text/plain', s.name) }
      })
      tab.addEventListener('dragend', () => { this.dragged = '' })
      tab.addEventListener('dragover', e => { if (this.dragged) e.preventDefault() })
      tab.addEventListener('drop', e => {
        if (!this.dragged || this.dragged === s.id) return
        e.preventDefault()
        this.app.command('sheet-to', `${this.dragged}:${this.state.sheets.findIndex(o => o.id === s.id)}`)
      })
      if (s.colour) tab.style.boxShadow = `inset 0 3px ${s.colour}`
      this.sheets.peek(tab, s)
      tab.addEventListener('click', () => {
        if (s.id === this.state.sheet) {
          this.openSheet()
        } else {
          this.app.command('sheet', s.id)
          this.app.focus()
        }
      })
      return tab
    }))
  }

  openSheet() {
    const s = this.state.sheets.find(s => s.id === this.state.sheet)
    if (!s) return
    byId('sheet-name').value = s.name
    byId('sheet-paper').value = s.paper
    byId('sheet-turn').value = s.across ? 'across' : 'upright'
    byId('sheet-menu').showModal()
    byId('sheet-menu').focus() // what is typed next goes nowhere, until the name is clicked
    this.sendTo()
  }

  openOwner() {
    byId('owner').value = this.state.now.owner || ''
    suggest('owners', this.state.owners)
    byId('owner-dialog').showModal()
    byId('owner').select()
  }

  // openRelease shows which numbers change before they do.
  openRelease() {
    const list = valueOf(this.app.core.renumbering())
    byId('release-words').textContent = list.length ? `${list.length === 1 ? 'One number changes' : `${list.length} numbers change`}. Whoever cites the old ones has to know.` : 'No number changes.'
    byId('renumbering').replaceChildren(...list.map(cells => {
      const row = document.createElement('tr')
      for (const text of cells) row.insertCell().textContent = text || '–'
      return row
    }))
    byId('release-dialog').showModal()
  }

  // open opens what the core asks the page for.
  open(name) {
    const app = this.app
    const [place, where] = name.split(' ')
    if (place === 'leave') { location.href = where; return }
    if (place === 'panel') { this.panel(where); byId(`tab-${where}`).focus(); return }
    const what = {
      'find-open': () => this.styles.openFinder(),
      'search-open': () => this.commands.openSearch(),
      'keys-open': () => this.commands.keys(),
      'help-open': () => { open('/help', '_blank', 'noopener') },
      'styles-open': () => byId('styles-dialog').showModal(),
      'looks-open': () => this.styles.openLooks(),
      'house-open': () => this.styles.openHouse(),
      'answers-open': () => { byId('answers').value = this.state.answers.join('\n'); byId('answers-dialog').showModal() },
      'roles-open': () => { byId('roles').value = ''; byId('roles-chart').hidden = !this.state.posts; byId('roles-dialog').showModal() },
      'owner-open': () => this.openOwner(),
      'remark-open': () => app.remarks.write(this.state.selected?.[0]),
      'review-open': () => byId('review').click(),
      'talk-open': () => byId('talk-open').click(),
      'changes-open': () => open(`${app.base}/changes?from=visit`, '_blank', 'noopener'),
      'people-open': () => this.people.open(),
      'acts-open': () => this.people.acts(),
      'journey-open': () => this.journey.open(),
      'links-open': () => this.openLinks(),
      'stops-open': () => this.stops.open(),
      'cases-open': () => this.cases.open(),
      'sheets-open': () => this.sheets.open(),
      'show-open': () => byId('show').click(),
      'fields-open': () => { app.register.show(true); app.register.openFields() },
      'register-wide': () => app.register.show(!app.register.open),
      'pin-open': () => { byId('pinned').value = this.state.now.pinned || ''; byId('pin-dialog').showModal(); byId('pinned').select() },
      'hold-open': () => app.command('hold-numbers', `${new Date().toISOString().slice(0, 16)}Z ${document.body.dataset.me || 'somebody by a link'}`),
      'release-open': () => this.openRelease(),
      'part-open': () => { suggest('parts', this.state.parts || []); byId('part').value = this.state.now.part || ''; byId('part-dialog').showModal(); byId('part').select() },
      'sheet-open': () => this.openSheet(),
      'picture-open': () => byId('picture-file').click(),
      'share-open': () => byId('share').click(),
      'export-open': () => byId('export').click(),
      'paste-here': () => app.pasteHere(),
      'sheet-take': () => app.takeSheet(),
      'zoom-in': () => app.zoomAt(1.25),
      'zoom-out': () => app.zoomAt(0.8),
      'zoom-fit': () => app.refit(),
      'fit-all': () => app.fit(true),
    }[name]
    what?.()
  }

  // say shows a sentence, with something to do beside it if that is offered: a command, or a
  // function of the page.
  say(text, offer) {
    const words = byId('words'), button = one('button', words)
    one('[role=status]', words).textContent = text
    words.hidden = false
    button.hidden = !offer
    button.textContent = offer?.text || ''
    button.onclick = () => {
      words.hidden = true
      if (offer.run) { offer.run(); return }
      this.app.command(offer.command)
      this.app.focus()
    }
    clearTimeout(this.saying)
    this.saying = setTimeout(() => { words.hidden = true }, offer?.run ? 60000 : offer ? 15000 : 7000)
  }

  saved(text, kind) {
    const field = byId('saved')
    if (field.textContent !== text) field.textContent = text
    field.className = `saved ${kind}`
  }

  here(editors, readers, who = []) {
    byId('here').lastElementChild.textContent = readers ? `${editors} editing, ${readers} reading` : String(editors)
    byId('here').title = `${editors} ${editors === 1 ? 'window' : 'windows'} open on this map, ${readers} reading${who.length ? `: ${who.join(', ')}` : ''}`
  }

  // moved refreshes the open page of the side panel, soon after the revision
  // has moved.
  moved() {
    clearTimeout(this.moving)
    // A long page, which takes long to come, is asked for less often.
    this.moving = setTimeout(() => {
      this.asked = performance.now()
      const page = one('.page[role=tabpanel]:not([hidden])')
      if (this.app.register.writing) return // it comes with the next change, or when the text is written
      if (page && !byId('book').hidden) refresh(page)
    }, Math.min(2000, Math.max(120, 3 * (this.refreshing ?? 0))))
  }

  book() {
    const open = name => {
      byId('book').hidden = false
      byId('open-book').hidden = true
      for (const tab of all('.book [role=tab]')) {
        tab.setAttribute('aria-selected', tab.dataset.page === name ? 'true' : 'false')
        byId(tab.dataset.page).hidden = tab.dataset.page !== name
      }
      refresh(byId(name))
      this.app.resized()
    }
    this.panel = open
    for (const tab of all('.book [role=tab]')) tab.addEventListener('click', () => open(tab.dataset.page))
    byId('shut-book').addEventListener('click', () => { byId('book').hidden = true; byId('open-book').hidden = false; this.app.resized() })
    byId('open-book').addEventListener('click', () => open('register'))
    byId('count').addEventListener('click', () => open('findings'))
    document.addEventListener('htmx:after:swap', () => {
      this.refreshing = performance.now() - (this.asked ?? 0)
      this.marked = ''
      if (this.state.selected) this.show(this.state)
    })
  }

  dialogs() {
    byId('share').addEventListener('click', () => {
      byId('share-dialog').showModal()
      for (const part of all('.sharing > section')) { part.replaceChildren(); refresh(part) }
    })
    byId('export').addEventListener('click', () => this.handover.open(this.state))
    byId('picture-file').addEventListener('change', e => { for (const file of e.target.files) this.app.picture(file); e.target.value = '' })
    byId('set-answers').addEventListener('click', () => { this.app.command('answers', byId('answers').value); byId('answers-dialog').close() })
    byId('roles-chart').addEventListener('click', () => { byId('roles').value = (this.state.posts || []).join('\n'); byId('roles').focus() })
    byId('set-roles').addEventListener('click', () => { this.app.command('lanes-list', byId('roles').value); byId('roles-dialog').close() })
    byId('part-form').addEventListener('submit', () => this.app.command('lane-part', byId('part').value))
    byId('pin-form').addEventListener('submit', () => this.app.command('pin', byId('pinned').value))
    byId('release-form').addEventListener('submit', () => this.app.command('release-numbers'))
    byId('attach').addEventListener('click', () => byId('attach-file').click())
    byId('attach-file').addEventListener('change', e => { this.app.attach([...e.target.files]); e.target.value = '' })
    byId('links-form').addEventListener('submit', e => {
      e.preventDefault() // several can be added
      const to = byId('link-to'), title = byId('link-title')
      if (!to.value.trim()) { byId('links-dialog').close(); return }
      const had = JSON.stringify(this.state.links)
      const map = this.otherMaps?.get(to.value.trim())
      this.app.command('link-add', map ? `map:${map.id}\n${title.value.trim() || map.title}` : `${to.value.trim()}\n${title.value.trim()}`)
      if (JSON.stringify(this.state.links) !== had) to.value = title.value = ''
      to.focus()
    })
    document.addEventListener('click', e => {
      const within = around(e, 'a[href^="#n-"]')
      if (!within) return
      e.preventDefault()
      byId('links-dialog').close()
      this.app.command('find', (within.getAttribute('href') ?? '').slice(3))
    })
    byId('owner-form').addEventListener('submit', () => this.app.command('owner', byId('owner').value))
    byId('heading-toggle').dataset.arg = `today=${new Date().toLocaleDateString()}` // the date fills itself
    for (const [id, move] of [['send-copy', ''], ['send-move', 'yes']]) byId(id).addEventListener('click', () => this.send(move))
    byId('sheet-menu').addEventListener('close', () => {
      const name = byId('sheet-name').value.trim()
      const now = this.state.sheets.find(s => s.id === this.state.sheet)
      if (name && now && byId('sheet-menu').returnValue !== 'removed' && this.named === now.id && name !== now.name) this.app.command('sheet-name', name)
    })
    for (const name of ['sheet-paper', 'sheet-turn']) byId(name).addEventListener('change', e => { this.app.command(name, e.target.value) })
    byId('sheet-name').addEventListener('input', () => { this.named = this.state.sheet })
    for (const dialog of all('dialog')) dialog.addEventListener('close', () => { if (!document.activeElement?.matches('[role=tab]')) this.app.focus() })
  }
}
