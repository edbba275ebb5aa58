// The editor's page: loads the core, passes events in and draws what comes out.
import { byId, one, all, around, valueOf } from './dom.js'
import { Drawing } from './drawing.js'
import { Viewport } from './viewport.js'
import { Past } from './past.js'
import { Sync } from './sync.js'
import { Bars } from './bars.js'
import { reviewing } from './reviewing.js'
import { Others } from './others.js'
import { Handover } from './handover.js'
import { carries, openMap } from './opening.js'
import './embedding.js'
import { openFiles, send } from './files.js'
import { keyOf, mods } from './keys.js'
import { tray, asPiece } from './tray.js'
import { Accents } from './accents.js'
import { Heard } from './heard.js'
import { roving } from './roving.js'
import { staying } from './staying.js'
import { Work } from './work.js'
import { Drafts } from './drafts.js'
import { Register } from './register.js'
import { libraries } from './parts.js'

const ackWait = 250 // in ms: how long what is computed in a pause waits for the server to have what was done

/** Says whether a file is a picture that can be set down. @param {File} file */
const drawn = file => /^image\/(png|jpeg|svg\+xml)$/.test(file.type)

class App {
  /** @param {Core} core @param {string} map @param {string} base @param {any} ahead */
  constructor(core, map, base, ahead) {
    this.core = core
    this.map = map
    this.base = base // the address below which everything of the map is found
    this.ahead = ahead // what ahead.js has begun
    this.drawing = new Drawing()
    this.viewport = new Viewport(() => this.desk(), () => this.view())
    this.times = [] // how long each event took to show, in ms
    this.heard = new Heard(window => this.others?.there.get(window)?.name ?? '')
    this.bars = new Bars(this)
    this.drafts = new Drafts(map)
    this.sync = new Sync(map, base, core, () => { this.saved(); this.flush() })
    this.others = new Others(this)
    this.sync.did = (window, words) => this.heard.theirs(window, words)
    this.sync.here = (editors, readers, who) => { this.bars.here(editors, readers, who); this.others.here(who, editors); this.sync.present(who ?? []) }
    this.sync.points = where => this.others.points(where)
    this.sync.shows = what => this.others.shown(what)
    this.sync.moved = () => this.bars.moved()
    this.sync.stale = () => this.halt('The program was updated. Load this page again to go on; what you did is kept.')
    this.sync.apart = fault => this.halt(`This window and the server no longer agree (${fault}). Load the page again; what you did is kept.`)
    this.sync.ended = why => this.halt(why)
    this.bars.handover = new Handover(base, () => { this.flush(); return this.sync.settled() })
    /** Once the core runs.
     * @type {Work} */
    this.work = /** @type {any} */ (undefined)
    /** The fingers on the drawing, by pointer.
     * @type {Map<number, PointerEvent>} */
    this.fingers = new Map()
    this.elsewhere = new Map() // window: what is being written on there
    this.sync.writes = (window, item) => this.showWriting(window, item)
    this.sync.slow = why => this.bars.say(why)
    this.remarks = reviewing(this)
    this.register = new Register(this)
    this.settling = 0
    this.slice = this.slices()
    this.events()
    this.keys()
    this.writing()
    this.accents = new Accents(this)
    this.clipboard()
    openFiles()
    tray(this)
    roving()
    staying()
    one('.skip').addEventListener('click', e => {
      e.preventDefault()
      this.focus()
    })
  }

  get zoom() { return this.viewport.zoom }
  get pan() { return this.viewport.pan }

  async begin() {
    const late = await this.sync.deliver(this.ahead.fetchState)
    const { map, revision, window: given, secret: code } = await (this.ahead.state ?? this.ahead.fetchState())
    const past = new Past(this.map), left = await past.take()
    const name = left?.name ?? given, secret = left?.secret ?? code
    performance.mark('map there')
    if (localStorage.getItem('plain tracer grid') === 'off') this.core.command('grid', 'off')
    const fault = this.core.open(JSON.stringify(map), revision, name)
    if (fault) throw new Error(fault)
    if (left) this.core.resumePast(left.past)
    else past.hold(name)
    window.addEventListener('pagehide', () => past.keep(name, secret, this.core.past()))
    if (byId('drawing').dataset.revision === String(revision)) this.core.adopt()
    this.sync.begin(name, secret, revision)
    this.flush()
    performance.mark('drawn')
    this.fit()
    this.focus()
    this.sayLate(late)
    this.goTo()
    if (document.body.hasAttribute('data-wide')) this.register.show(true, true)
    const opened = this.ahead.replay(byId('writing'))
    this.readyAt = performance.mark('ready').startTime
    await this.offerDraft()
    await libraries().then(() => opened.forEach(button => button.click()),
      () => this.bars.say('A part of this page could not be fetched: its menus and lists stay shut. Load it again; what you did is kept.'))
    document.documentElement.dataset.ready = 'true'
  }

  // goTo shows the item that the address names, such as one that was found by a search.
  goTo() {
    const item = decodeURIComponent(location.hash.match(/^#at=([\w.%-]+)$/)?.[1] ?? '')
    if (item) this.command('find', item)
    const state = location.hash.match(/^#return=(\w+)$/)?.[1]
    if (state) this.returnTo(state)
  }

  // returnTo brings the map back to a state that was kept, as an edit of this window.
  async returnTo(state) {
    history.replaceState(null, '', location.pathname)
    const answer = await fetch(`${this.base}/versions/${state}/return`, { headers: { Accept: 'application/json' } })
    const text = await answer.text()
    if (!answer.ok) { this.bars.say(text); return }
    this.core.perform(text, 'The map is as it was then. Undo brings back what was here.')
    this.flush()
    this.fit()
  }

  // offerDraft offers the text that was being written when a page on this map was left.
  async offerDraft() {
    const [draft, ...older] = await this.drafts.left()
    if (!draft) return
    older.forEach(d => this.drafts.forget(d))
    this.bars.say(`You were writing “${draft.text.length > 60 ? draft.text.slice(0, 60) + '…' : draft.text}” when this page was left.`, {
      text: 'Go on writing',
      run: () => {
        this.drafts.forget(draft)
        this.writeOn(draft)
      },
    })
  }

  // keepDraft keeps the text in the field, with the step it stands on where that is not saved yet.
  keepDraft() {
    const text = byId('writing').value
    if (this.written && text !== this.written.text) this.drafts.keep({ id: this.written.id, label: this.written.at || '', held: this.core.held(), text })
    else this.drafts.drop()
    this.saved()
  }

  // sayLate tells what became of changes that an earlier window could not save.
  sayLate({ saved, refused, waiting }) {
    const count = n => n === 1 ? 'One change' : `${n} changes`
    const words = []
    if (saved) words.push(`${count(saved)} from an earlier window had not been saved and ${saved === 1 ? 'is' : 'are'} now.`)
    if (refused.length) words.push(`${count(refused.length)} from an earlier window could not be made any more: ${refused[0]}.`)
    if (waiting) words.push(`${count(waiting)} from an earlier window could not be saved yet and ${waiting === 1 ? 'is' : 'are'} kept in this browser.`)
    if (words.length) this.bars.say(words.join(' '))
  }

  halt(text) {
    this.bars.saved(text, 'wrong')
    this.bars.say(text)
  }

  saved() {
    const n = this.sync.pending.length
    if (this.sync.over) return
    if (this.written && !byId('writing').hidden && byId('writing').value !== this.written.text) this.bars.saved('Writing', 'waiting')
    else if (this.sync.trouble) this.bars.saved(`${this.sync.trouble} ${n === 1 ? 'One change waits' : n + ' changes wait'} in this browser.`, 'wrong')
    else if (!this.sync.connected) this.bars.saved(n ? `No connection. ${n === 1 ? 'One change waits' : n + ' changes wait'} in this browser.` : 'No connection. Go on working; changes are kept here.', 'wrong')
    else this.bars.saved(n ? 'Saving…' : 'Saved', n ? 'waiting' : '')
  }

  // flush draws what has changed and passes on what the core asks for.
  flush() {
    const out = JSON.parse(this.core.flush())
    this.drawing.patch(out.patch)
    if (this.drawing.turned) { this.drawing.turned = false; this.fit() }
    if (out.overlay !== undefined) byId('overlay').innerHTML = out.overlay
    if (out.state) this.bars.show(out.state)
    if (out.send) { this.sync.send(out.send); this.saved() }
    if (out.say) this.bars.say(out.say, out.offer)
    if (out.hush) byId('words').hidden = true
    if (out.open) this.bars.open(out.open)
    if (out.patch.length) this.outline()
    if (out.patch.length || out.state) { this.remarks.follow(this.bars.state.selected?.[0] ?? ''); this.others.tell() }
    if (out.patch.length || out.state) this.register.changed()
    if (out.centre) this.reveal(out.centre)
    this.ask(out.ask)
    if (out.write) this.openWriting(out.write)
    if (out.task) this.work.do(out.task)
    if (out.settle !== undefined) this.settle(out.settle)
    return out
  }

  // outline brings the list for those who do not see the sheet up to date, soon
  // after it has changed.
  outline() {
    clearTimeout(this.outlining)
    this.outlining = setTimeout(() => {
      byId('outline').replaceChildren(...valueOf(this.core.outline()).map(step => {
        const li = document.createElement('li')
        li.textContent = step.exits ? `${step.text}; ${step.exits}` : step.text
        return li
      }))
    }, 500)
  }

  command(name, arg = '') {
    this.core.command(name, arg)
    this.flush()
  }

  // focus goes to the drawing, unless a text is being written.
  focus() {
    if (this.register?.open) { if (!this.register.grid.editor) this.register.grid.focus() }
    else if (byId('writing').hidden) byId('drawing').focus({ preventScroll: true })
  }

  // Coordinates: the core counts in hundredths of a pixel of the sheet.
  /** @returns {[number, number]} */
  place(e) {
    const at = this.viewport.at(e)
    return [Math.round(at.x * 100), Math.round(at.y * 100)]
  }

  // desk is where the drawing lies in the window. Asking for it makes the browser
  // lay the whole sheet out, so it is asked once for every change of size.
  desk() {
    this.rect ??= byId('drawing').getBoundingClientRect()
    return this.rect
  }

  pointer(kind, e) {
    const begun = performance.now()
    this.core[kind](...this.place(e), Math.round(this.zoom * 1000), mods(e))
    this.flush()
    if (kind === 'move') {
      const took = performance.now() - begun
      this.times.push(took)
      clearTimeout(this.resting)
      clearTimeout(this.idle)
      this.idle = setTimeout(() => this.core.rest(), 1500)
      this.settle(Math.max(24 - took, 4)) // a frame and a half after the motion: nothing is under way any more
    }
  }

  // settle has the core compute what it has only sketched, in slices, so that
  // nothing that happens meanwhile has to wait. A message calls for the next slice
  // at once; a timer of no time would be held back.
  settle(wait) {
    clearTimeout(this.resting)
    this.settling++
    if (wait) this.resting = setTimeout(() => this.slice.postMessage(this.settling), wait)
    else this.slice.postMessage(this.settling)
  }

  slices() {
    const { port1, port2 } = new MessageChannel()
    port2.onmessage = ({ data }) => {
      if (data !== this.settling) return // something has happened since
      if (this.sync.pending.length && performance.now() - this.sync.sent < ackWait) { // what is under way to the server is not held up by it
        setTimeout(() => port1.postMessage(data), 10)
        return
      }
      if (this.core.pause()) port1.postMessage(data)
      else {
        this.flush()
        this.settledAt = performance.now()
      }
    }
    return port1
  }

  events() {
    const desk = byId('drawing')
    new ResizeObserver(() => { this.rect = null }).observe(desk)
    let button = -1
    const hold = e => { if (e.isTrusted) desk.setPointerCapture(e.pointerId) } // a press that is made up for has no pointer
    this.touches(desk)
    desk.addEventListener('pointerdown', e => {
      if (this.fingers.size > 1 || around(e, 'a.lead')) return // a link is pressed, nothing of the drawing
      if (!byId('writing').hidden) this.closeWriting(true)
      this.focus()
      this.core.coarse(e.pointerType === 'touch')
      // A finger on the empty desk moves the sheet.
      if (e.pointerType === 'touch' && this.core.empty(...this.place(e), Math.round(this.zoom * 1000))) {
        hold(e)
        this.core.command('leave', '')
        this.panning = { x: e.clientX - this.pan.x, y: e.clientY - this.pan.y, from: e }
        return
      }
      if (e.button === 1 || e.button === 0 && this.space) {
        button = 1
        hold(e)
        this.panning = { x: e.clientX - this.pan.x, y: e.clientY - this.pan.y }
        e.preventDefault()
      } else if (e.button === 0) {
        button = 0
        hold(e)
        this.pointer('down', e)
      }
    })
    desk.addEventListener('pointermove', e => {
      if (this.fingers.size > 1) return
      if (this.panning) {
        this.viewport.panTo(e.clientX - this.panning.x, e.clientY - this.panning.y)
        return
      }
      this.pointer('move', e)
    })
    const up = e => {
      if (this.panning) {
        const { from } = this.panning
        this.panning = null
        button = -1
        if (from && Math.hypot(e.clientX - from.clientX, e.clientY - from.clientY) < 6) { this.pointer('down', e); this.pointer('up', e) } // a tap on nothing
        return
      }
      if (button !== 0) return
      button = -1
      this.pointer('up', e)
    }
    desk.addEventListener('pointerup', up)
    desk.addEventListener('pointercancel', () => { this.panning = null; if (button === 0) { button = -1; this.core.key('Escape', 0); this.flush() } })
    desk.addEventListener('dblclick', e => { this.core.double(...this.place(e)); this.flush() })
    desk.addEventListener('wheel', e => {
      e.preventDefault()
      const { factor, x, y } = Viewport.wheel(e)
      if (factor) this.zoomAt(factor, e)
      else this.viewport.panBy(x, y)
    }, { passive: false })
    desk.addEventListener('dragover', e => e.preventDefault())
    desk.addEventListener('drop', e => { e.preventDefault(); this.dropped([...e.dataTransfer.files], e) })
    desk.addEventListener('contextmenu', e => {
      e.preventDefault()
      if (e.button === 2) this.bars.commands.openContext(e.clientX, e.clientY)
    })
    byId('in').addEventListener('click', () => this.zoomAt(1.25))
    byId('out').addEventListener('click', () => this.zoomAt(0.8))
    byId('fit').addEventListener('click', () => this.refit())
    window.addEventListener('resize', () => this.resized())
    window.addEventListener('beforeunload', e => { if (this.sync.pending.length && !this.sync.connected) e.preventDefault() })
  }

  // touches lets two fingers zoom and move the sheet, and a finger that rests ask
  // what fits there.
  touches(desk) {
    let spread = null
    const middle = () => {
      const [a, b] = [...this.fingers.values()]
      return { x: (a.clientX + b.clientX) / 2, y: (a.clientY + b.clientY) / 2, far: Math.hypot(a.clientX - b.clientX, a.clientY - b.clientY) }
    }
    desk.addEventListener('pointerdown', e => {
      if (e.pointerType !== 'touch') return
      this.fingers.set(e.pointerId, e)
      clearTimeout(this.resting2)
      if (this.fingers.size === 2) {
        this.core.key('Escape', 0) // what one finger began is given up
        this.panning = null
        this.flush()
        spread = middle()
      } else if (this.fingers.size === 1) {
        this.resting2 = setTimeout(() => {
          this.panning = null
          this.core.key('Escape', 0)
          this.bars.commands.openContext(e.clientX, e.clientY)
        }, 600)
      }
    }, true)
    desk.addEventListener('pointermove', e => {
      const was = this.fingers.get(e.pointerId)
      if (!was) return
      if (Math.hypot(e.clientX - was.clientX, e.clientY - was.clientY) > 6) clearTimeout(this.resting2)
      if (this.fingers.size !== 2 || !spread) return
      this.fingers.set(e.pointerId, e)
      const now = middle()
      this.viewport.panBy(now.x - spread.x, now.y - spread.y)
      this.zoomAt(now.far / spread.far, { clientX: now.x, clientY: now.y })
      spread = now
    }, true)
    const gone = e => {
      clearTimeout(this.resting2)
      if (this.fingers.size === 2) spread = null
      this.fingers.delete(e.pointerId)
    }
    for (const kind of ['pointerup', 'pointercancel']) desk.addEventListener(kind, gone, true)
  }

  resized() { this.rect = null; if (this.viewport.fitted) this.fit(this.viewport.whole) }

  view() {
    const transform = window.plainTracerFitting.transform(this.viewport)
    if (byId('view').getAttribute('transform') !== transform) byId('view').setAttribute('transform', transform) // or all is laid out again
    byId('grid').classList.toggle('far', this.zoom < 0.6)
    byId('zoom').textContent = `${Math.round(this.zoom * 100)} %`
    this.layWriting()
    this.layAsk()
    this.remarks?.zoomed(this.zoom)
    const [x, y, w, h] = this.viewport.seen().map(n => Math.round(n * 100))
    this.core.seen(x, y, w, h)
  }

  zoomAt(factor, e) {
    this.viewport.zoomAt(factor, e)
    const r = this.desk()
    this.core.move(...this.place(e || { clientX: r.left + r.width / 2, clientY: r.top + r.height / 2 }), Math.round(this.zoom * 1000), 0)
    this.flush()
  }

  // fit shows the sheet; whole, all of it however small.
  fit(whole) {
    this.rect = null
    const r = this.desk(), { size } = this.drawing
    if (!size.w || !r.width) return
    const [x, y, w, h] = this.core.drawn()
    this.viewport.fit(window.plainTracerFitting.onDesk(r, size, { x, y, w, h }, whole), whole)
  }

  // refit is fit by hand: it shows the whole; once more, what can be read of it.
  refit() { this.fit(!(this.viewport.fitted && this.viewport.whole)) }

  // reveal pans so that a box is in sight, clear of the tray.
  reveal(b) {
    const r = this.desk(), z = this.zoom / 100, edge = 24
    const left = b.x * z + this.pan.x, top = b.y * z + this.pan.y, right = left + b.w * z, bottom = top + b.h * z
    let dx = 0, dy = 0
    if (this.register.open) { // the strip follows the row
      this.viewport.panBy(r.width / 2 - (left + right) / 2, r.height / 2 - (top + bottom) / 2)
      return
    }
    if (left < edge) dx = edge - left
    else if (right > r.width - edge) dx = r.width - edge - right
    if (top < edge) dy = edge - top
    else if (bottom > r.height - 96) dy = r.height - 96 - bottom
    if (dx || dy) this.viewport.panBy(dx, dy)
  }

  keys() {
    const desk = byId('drawing')
    document.addEventListener('keydown', e => {
      if (e.isComposing || e.defaultPrevented || !this.forDrawing(e)) return
      const menu = e.key === 'Escape' && all('.strip .menu').find(m => m.offsetParent)
      if (menu) { // it is shut first, and the selection stays
        menu.dispatchEvent(new KeyboardEvent('keydown', { key: 'Escape', bubbles: true }))
        e.preventDefault()
        return
      }
      if (e.key === ' ' && !e.repeat && !this.bars.state.selected?.length) { this.space = true; desk.classList.add('panning') }
      const key = keyOf(e), ctrl = !!(mods(e) & 2)
      if (ctrl && 'cxv'.includes(key.toLowerCase())) { this.atPointer = e.shiftKey; return } // the clipboard's own events
      if (e.key === 'ContextMenu' || e.shiftKey && e.key === 'F10') { e.preventDefault(); this.contextByKey(); return }
      if (e.key === ' ' && this.space) { e.preventDefault(); return }
      const used = this.core.key(key, mods(e))
      const out = this.flush()
      // A letter that begins a text lands in the field that has just opened.
      if (used && !out.write?.replace || ctrl && key.toLowerCase() === 'a') e.preventDefault()
    })
    // A tool that was clicked gives the keys back to the drawing, unless it has opened something.
    document.addEventListener('click', e => {
      const control = around(e, 'button, a, summary, input[type=checkbox], input[type=radio]')
      if (e.detail && control && control === document.activeElement && !control.closest('dialog, .menu, .all, .finder, .looks') && control.getAttribute('aria-expanded') !== 'true' && !one('dialog[open]')) this.focus()
    })
    // From anywhere on the page.
    document.addEventListener('keydown', e => {
      const command = mods(e) === 2 && { k: 'search-open', f: 'find-open' }[keyOf(e).toLowerCase()]
      if (!command || e.defaultPrevented || one('dialog[open]')) return
      e.preventDefault()
      if (!byId('writing').hidden) this.closeWriting(true)
      e.stopPropagation()
      this.command(command)
    }, true)
    document.addEventListener('keyup', e => { if (e.key === ' ') { this.space = false; desk.classList.remove('panning') } })
    desk.addEventListener('blur', () => { this.space = false; desk.classList.remove('panning') })
  }

  // forDrawing says whether a key is the drawing's: when it has the focus or nothing has, and
  // nothing lies over the desk. A control that was reached by Tab keeps its keys; Esc leaves it.
  forDrawing(e) {
    const at = e.target
    if (at === byId('drawing')) return true
    if (one('dialog[open]')) return false
    if (at === document.body || at === document.documentElement) return e.key !== 'Tab'
    if (e.key === 'Escape' && at.matches?.('button, a, summary, [role=tab]') && !at.closest('dialog, .all, .finder, .looks')) this.focus() // a menu is left, no more
    return false
  }

  // contextByKey opens the menu of what is selected.
  contextByKey() {
    const node = this.drawing.nodes.get(this.bars.state.selected?.[0])
    const r = (node || byId('page')).getBoundingClientRect()
    this.bars.commands.openContext(r.x + r.width / 2, r.y + r.height / 2)
  }

  // Text is written in one field that lies over the drawing.
  writing() {
    const field = byId('writing')
    field.addEventListener('keydown', e => {
      if (e.isComposing) return
      if (e.key === 'Enter' && !e.shiftKey && (!e.ctrlKey || this.written?.goes) || e.key === 'Tab' && this.written?.goes ||
        this.written?.lanes && e.ctrlKey && (e.key === 'ArrowUp' || e.key === 'ArrowDown')) { e.preventDefault(); this.closeWriting(true, e) }
      if (e.key === 'Escape') { e.preventDefault(); this.closeWriting(false) }
      e.stopPropagation()
    })
    field.addEventListener('blur', e => { if (!field.hidden && !this.accents.has(e.relatedTarget)) this.closeWriting(true) })
    field.addEventListener('input', () => { this.layWriting(); this.keepDraft() })
  }

  // showWriting marks what somebody else is writing on.
  showWriting(window, item) {
    const mark = on => this.drawing.nodes.get(this.elsewhere.get(window))?.classList.toggle('written', on)
    mark(false)
    if (item) this.elsewhere.set(window, item)
    else this.elsewhere.delete(window)
    mark(true)
  }

  // openWriting opens the field over what is to be written on. Where somebody else is writing,
  // one is told first.
  openWriting(w, anyway) {
    const field = byId('writing')
    if (!anyway && [...this.elsewhere.values()].includes(w.id)) {
      this.core.cancel()
      this.bars.say('Someone else is writing here now.', { text: 'Write anyway', run: () => this.openWriting(w, true) })
      return
    }
    this.written = w
    this.sync.writing(w.id)
    field.hidden = false
    field.value = w.text
    field.setAttribute('aria-label', w.name)
    field.classList.toggle('bold', !!w.bold)
    field.classList.toggle('italic', !!w.italic)
    field.dir = 'auto'
    this.layWriting()
    field.focus({ preventScroll: true })
    field.select()
    this.accents.show()
  }

  layWriting() {
    const field = byId('writing'), w = this.written
    if (!w || field.hidden) return
    const z = this.zoom / 100
    const width = Math.max(w.w * z, 96)
    Object.assign(field.style, { fontSize: `${Math.max((w.size || 1300) * z, 11)}px`, width: `${width}px`, height: 'auto' })
    const height = Math.max(field.scrollHeight, 24)
    Object.assign(field.style, {
      height: `${height}px`,
      left: `${(w.x + w.w / 2) * z + this.pan.x - width / 2}px`,
      top: `${(w.y + w.h / 2) * z + this.pan.y - height / 2}px`,
    })
    this.accents.lay()
  }

  // choose asks which of two texts is meant, when somebody else has written on the same since
  // this one was begun. It returns false when there is nothing to choose.
  choose(w, field) {
    const [theirs, there] = this.core.textOf(w.id, w.at || '')
    if (!there || theirs === w.base || theirs === field.value.trim()) return false
    const dialog = byId('both-dialog')
    byId('both-theirs').textContent = theirs || '(nothing)'
    byId('both-mine').textContent = field.value
    dialog.returnValue = ''
    dialog.onclose = () => {
      dialog.onclose = null
      const { returnValue } = dialog
      if (returnValue === 'both') field.value = `${theirs}\n${field.value}`
      w.base = theirs
      if (returnValue) this.closeWriting(returnValue !== 'theirs')
      else field.focus()
    }
    dialog.showModal()
    return true
  }

  // closeWriting keeps the text or not. A key that ended it may go on to another card.
  closeWriting(keep, by) {
    const field = byId('writing'), w = this.written
    if (!w || byId('both-dialog').open) return
    if (keep && this.choose(w, field)) return
    this.written = null
    this.sync.writing('')
    if (!keep) this.drafts.drop()
    if (keep && !this.core.writeOn(w.id, w.at || '', field.value, by ? keyOf(by) : '', by ? mods(by) : 0)) {
      this.written = w
      this.sync.writing(w.id)
      this.flush()
      field.focus()
      return
    }
    if (!keep) {
      const given = field.value, waiting = this.core.held()
      this.core.cancel()
      const [, there] = this.core.textOf(w.id, w.at || ''), held = there ? '' : waiting // a step that was made for it stays
      if (given.trim() && given !== w.text) this.bars.say('What you wrote was given up.', { text: 'Take it back', run: () => this.writeOn({ id: w.id, label: w.at, held, text: given }) })
    }
    field.hidden = true
    this.accents.show()
    this.focus()
    this.flush()
    this.drafts.drop() // it is among what waits for the server, which is kept itself
    this.saved()
  }

  // writeOn opens a text again that was left or given up, with what was written; held are the edits that waited for it.
  writeOn({ id, label, held, text }) {
    this.core.resume(id, label || '', held || '')
    this.flush()
    const field = byId('writing')
    if (field.hidden) {
      navigator.clipboard?.writeText(text).catch(() => {})
      this.bars.say(`The step it belonged to is gone. Your text: ${text}`)
      return
    }
    field.value = text
    field.setSelectionRange(text.length, text.length)
    this.keepDraft()
    this.layWriting()
  }

  // ask shows the answers for a new exit of a decision.
  ask(a) {
    const box = byId('ask')
    if (!a) { box.hidden = true; this.asked = ''; return }
    if (this.asked === a.id) return
    this.asked = a.id
    this.askAt = a
    box.hidden = false
    box.setAttribute('aria-label', a.name || 'Answer for this exit')
    box.replaceChildren(...(a.kinds || a.options).map(text => {
      const b = document.createElement('button')
      b.type = 'button'
      if (a.kinds) asPiece(b, text)
      else b.textContent = text
      b.setAttribute('aria-pressed', text === a.chosen ? 'true' : 'false')
      b.addEventListener('pointerdown', e => { e.preventDefault(); e.stopPropagation() })
      b.addEventListener('click', () => this.command(a.command || 'answer', `${a.id}:${text}`))
      return b
    }))
    this.layAsk()
  }

  layAsk() {
    const box = byId('ask')
    if (box.hidden || !this.askAt) return
    const { width, height } = this.desk(), left = this.askAt.x / 100 * this.zoom + this.pan.x
    const top = this.askAt.y / 100 * this.zoom + this.pan.y + 6
    box.style.left = `${Math.max(4, Math.min(left, width - box.offsetWidth - 4))}px`
    box.style.top = `${Math.max(4, Math.min(top, height - box.offsetHeight - 4))}px`
  }

  clipboard() {
    const mark = 'data-plain-tracer'
    const here = () => this.forDrawing({ target: document.activeElement || document.body, key: '' })
    const put = e => {
      const [data, text] = this.sheetWanted ? this.core.copySheet() : this.core.copy()
      if (!data) return false
      localStorage.setItem('plain tracer clip', JSON.stringify({ data, text }))
      const span = document.createElement('span')
      span.setAttribute(mark, data)
      span.textContent = text
      e.clipboardData.setData('text/plain', text)
      e.clipboardData.setData('text/html', span.outerHTML)
      e.preventDefault()
      if (!this.sheetWanted && e.type === 'copy' && e.isTrusted) {
        const { sheet, selected } = this.bars.state
        this.bars.handover.beside(text, span, sheet, selected || [])
      }
      return true
    }
    document.addEventListener('copy', e => { if (this.sheetWanted || here()) put(e) })
    document.addEventListener('cut', e => { if (here() && put(e)) this.command('delete') })
    document.addEventListener('paste', e => {
      if (!here()) return
      e.preventDefault()
      const html = e.clipboardData?.getData('text/html') ?? '', text = e.clipboardData?.getData('text/plain') ?? ''
      let data = html && new DOMParser().parseFromString(html, 'text/html').querySelector(`[${mark}]`)?.getAttribute(mark)
      // Pasting by Ctrl+Shift+V the browser leaves only the text: if it is that of
      // our own last copy, the copy is meant.
      const own = JSON.parse(localStorage.getItem('plain tracer clip') || 'null')
      if (!data && own && own.text === text.replace(/\r\n/g, '\n')) data = own.data
      const { atPointer } = this
      this.atPointer = false
      if (data && atPointer) this.core.pasteHere(data)
      else if (data) this.core.paste(data)
      else if (text) this.core.pasteText(text)
      else if (e.clipboardData?.files.length) { for (const file of e.clipboardData.files) this.picture(file); return } else { this.bars.say('The clipboard holds nothing that can be pasted here.'); return }
      this.flush()
    })
  }

  // takeSheet copies the whole sheet by the browser's own copying, which needs no leave.
  takeSheet() {
    this.sheetWanted = true
    document.execCommand('copy')
    this.sheetWanted = false
    this.flush()
  }

  // pasteHere sets the last copy down around the pointer.
  pasteHere() {
    const own = JSON.parse(localStorage.getItem('plain tracer clip') || 'null')
    if (own) { this.core.pasteHere(own.data); this.flush() } else this.bars.say('Nothing was copied yet.')
  }

  // dropped takes files: a file with a map inside can be opened, a picture set down. What else there is is kept with the
  // map: the symbol it was dropped on leads to it, or a new document.
  async dropped(files, at) {
    const place = { clientX: at.clientX, clientY: at.clientY, target: at.target }
    if (files.length === 1) {
      const [file] = files
      const shows = drawn(file)
      const what = await carries(file) || (shows && this.core.takesFiles(...this.place(place)) ? 'plain' : '')
      if (what) {
        const dialog = byId('carries-dialog')
        one('[value=place]', dialog).hidden = !shows
        one('[value=open]', dialog).hidden = what === 'plain'
        byId('carries-name').textContent = file.name
        byId('carries-title').textContent = what === 'plain' ? 'A picture on a step' : 'There may be a map inside'
        byId('carries-how').textContent = what === 'plain' ? 'can be kept with the map, where the step leads to it, or be set down on the sheet.' : 'can be opened as a new map, or be kept with this one as a file.'
        dialog.returnValue = ''
        dialog.showModal()
        await new Promise(done => dialog.addEventListener('close', done, { once: true }))
        if (dialog.returnValue === 'open') {
          this.flush()
          await this.sync.settled()
          const refusal = await openMap(file)
          if (refusal) this.bars.say(refusal)
        }
        if (dialog.returnValue === 'keep') await this.attach([file], place)
        if (dialog.returnValue !== 'place') return
      }
    }
    for (const file of files.filter(drawn)) this.picture(file, place, files.length === 1)
    await this.attach(files.filter(file => !drawn(file)), place)
  }

  // attach keeps files with the map. What lies at a place leads to them, else what is selected.
  async attach(files, at) {
    if (!files.length) return
    /** @type {[number, number] | undefined} */
    const place = at && this.place(at)
    const kept = []
    try {
      for (const file of files) {
        const sending = share => this.bars.say(`Sending ${file.name}: ${Math.round(100 * share)} %`)
        sending(0)
        kept.push(await send(file, sending))
      }
    } catch (why) {
      this.bars.say(why instanceof TypeError ? 'The connection was lost. Nothing was added; try again.' : /** @type {Error} */ (why).message)
      return
    }
    if (place) this.core.attachAt(...place, JSON.stringify(kept))
    else this.core.command('attach', JSON.stringify(kept))
    this.flush()
    if (at) this.focus()
  }

  // picture sets a picture file down in the middle of the desk, or where it was
  // dropped; dropped by itself on a picture it takes its place.
  async picture(file, at, alone) {
    const bytes = new Uint8Array(await file.arrayBuffer())
    const r = byId('drawing').getBoundingClientRect()
    this.core[alone ? 'pictureOn' : 'picture'](bytes, ...this.place(at || { clientX: r.left + r.width / 2, clientY: r.top + r.height / 2 }))
    this.flush()
    this.focus()
  }
}

async function start() {
  performance.mark('scripts')
  const { map = '', base = '', build, loader, worker, workerCore } = document.body.dataset
  const ahead = window.plainTracerAhead
  const ready = new Promise(done => addEventListener('core-ready', done, { once: true }))
  const go = new window.Go()
  const module = await ahead.core
  performance.mark('core compiled')
  const instance = await WebAssembly.instantiate(module, go.importObject)
  go.run(instance).then(() => window.plainTracerApp?.halt('The editor has stopped, which is our fault. Load this page again; what you did is kept.'))
  await ready
  performance.mark('core started')
  const core = window.plainTracer
  if (core.build !== build) throw new Error('the page and the core are of different builds; load the page again')
  const app = new App(core, map, base, ahead)
  app.work = new Work(app, { worker, loader, core: workerCore })
  window.plainTracerApp = app
  await app.begin()
}

start().catch(e => {
  byId('saved').textContent = `The map could not be opened: ${e.message}`
  byId('saved').className = 'saved wrong'
})
