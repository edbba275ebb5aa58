// A table that is worked in like a spreadsheet: the ARIA grid pattern over rows of which only those in sight are in the page.
// It knows nothing of what the rows are; the page says what they hold and takes what is written.
import { one, all } from './dom.js'
import { keyOf } from './keys.js'

const rowHeight = 34, spare = 6
const atTheEnd = 'This was the last row. Ins adds a step after it.'

/** @typedef {{id: string, title: string, width: number, fixed?: boolean, why?: string, choices?: string[], hint?: string, type: string, counts?: boolean}} GridColumn */
/** @typedef {{id: string, cells: Record<string, string>}} GridRow */
/** @typedef {{id: string, column: string, text: string, names?: Record<string, string>}} GridText a text for a cell, and what names in it mean */
/** @typedef {{why: string, unknown?: string, near?: {name: string, text: string}[]}} GridLeft why a cell was left; unknown is a name that is asked about */

export class Grid {
  /** @param {any} root @param {{write: (cells: GridText[], as: string) => Record<string, GridLeft>, sort: (column: string) => void, filter: (column: string, text: string) => void,
   *   select: (id: string) => void, insert: (after: string) => string, remove: (ids: string[]) => void, move: (id: string, beside: string, before: boolean) => void, arrange: () => void, remark: () => void,
   *   say: (text: string) => void, ask: () => void, undo: () => void, redo: () => void}} page */
  constructor(root, page) {
    this.root = root
    this.page = page
    /** @type {GridColumn[]} */ this.columns = []
    /** @type {GridRow[]} */ this.rows = []
    this.at = { id: '', row: 0, col: 1 } // the cell that has the focus
    this.from = { row: 0, col: 1 } // where a selected block begins
    /** @type {Map<string, GridText & GridLeft>} */ this.wrong = new Map() // row and column: what was typed there, and why it was not taken
    this.nothingTaken = false // the last that was written was refused as a whole
    /** @type {number | null} */ this.began = null // the column in which the typing of this row began, once one went on by Tab
    this.ended = '' // the last row was left at its end, and then typed: what is typed goes nowhere until the focus moves
    this.sorted = { column: '', down: false }
    /** @type {Map<string, any>} */ this.drawn = new Map() // the rows that are in the page, by their ids
    /** @type {Map<string, {thread: string, count: number}>} */ this.noted = new Map() // the cells on which something was said
    /** @type {any} */ this.editor = null // the field that is open
    /** @type {any} */ this.line = null // where a row that is dragged would go
    /** @type {number[]} */ this.lefts = []
    this.headed = ''
    root.innerHTML = '<div class="grid-head" role="rowgroup"></div><div class="grid-body" role="rowgroup"></div>'
    this.head = one('.grid-head', root)
    this.body = one('.grid-body', root)
    root.addEventListener('scroll', () => this.draw())
    root.addEventListener('keydown', e => this.key(e))
    root.addEventListener('pointerdown', e => this.press(e))
    root.addEventListener('dblclick', e => {
      const edge = e.target.closest?.('.grid-edge')
      if (edge) this.fit(edge.parentElement.dataset.column)
      else if (this.cellAt(e)) this.edit()
    })
    root.addEventListener('copy', e => this.copy(e))
    root.addEventListener('cut', e => { this.copy(e); this.clear() })
    root.addEventListener('paste', e => this.paste(e))
    new ResizeObserver(() => this.draw()).observe(root)
  }

  get row() { return this.rows[this.at.row] }
  get column() { return this.columns[this.at.col] }

  /** Shows rows under columns. What is being written, and where the focus is, stays with its row.
   * @param {GridColumn[]} columns @param {GridRow[]} rows @param {{column: string, down: boolean}} sorted */
  show(columns, rows, sorted) {
    const key = JSON.stringify([columns, sorted])
    const was = this.column?.id
    this.columns = columns
    this.rows = rows
    this.sorted = sorted
    const row = rows.findIndex(r => r.id === this.at.id)
    const apart = this.at.row - this.from.row
    if (row >= 0) this.at.row = row
    else this.at.row = Math.max(0, Math.min(this.at.row, rows.length - 1))
    this.at.id = this.rows[this.at.row]?.id ?? ''
    const col = columns.findIndex(c => c.id === was)
    if (col >= 0 && was) { this.from.col += col - this.at.col; this.at.col = col }
    this.at.col = Math.max(0, Math.min(this.at.col, columns.length - 1))
    this.from.row = Math.max(0, Math.min(this.at.row - apart, rows.length - 1))
    this.from.col = Math.max(0, Math.min(this.from.col, columns.length - 1))
    if (key !== this.headed) { this.headed = key; this.drawHead() }
    this.root.setAttribute('aria-rowcount', String(rows.length + 2))
    this.root.setAttribute('aria-colcount', String(columns.length))
    this.draw(true)
  }

  drawHead() {
    let x = 0
    this.lefts = this.columns.map(c => { const at = x; x += c.width; return at })
    this.width = x
    const typed = document.activeElement?.matches?.('.grid-filter') ? /** @type {any} */ (document.activeElement).dataset.column : ''
    const values = Object.fromEntries(all('.grid-filter', this.head).map(f => [f.dataset.column, f.value]))
    const titles = document.createElement('div'), filters = document.createElement('div')
    titles.className = 'grid-row titles'
    filters.className = 'grid-row filters'
    for (const [i, row] of [titles, filters].entries()) { row.setAttribute('role', 'row'); row.setAttribute('aria-rowindex', String(i + 1)) }
    for (const [i, c] of this.columns.entries()) {
      const cell = this.place(document.createElement('div'), i)
      cell.setAttribute('role', 'columnheader')
      cell.setAttribute('aria-sort', this.sorted.column === c.id ? this.sorted.down ? 'descending' : 'ascending' : 'none')
      cell.dataset.column = c.id
      const name = document.createElement('button')
      name.type = 'button'
      name.className = 'grid-title'
      name.tabIndex = -1
      name.textContent = c.title
      name.title = `Sort by ${c.title}; drag to another place`
      const edge = document.createElement('span')
      edge.className = 'grid-edge'
      edge.title = 'Drag to make the column wider; a double click fits it to its texts'
      cell.append(name, edge)
      titles.append(cell)
      const under = this.place(document.createElement('div'), i)
      under.setAttribute('role', 'gridcell')
      const field = document.createElement('input')
      field.className = 'grid-filter'
      field.dataset.column = c.id
      field.placeholder = 'filter'
      field.autocomplete = 'off'
      field.setAttribute('aria-label', `Filter ${c.title}`)
      field.value = values[c.id] ?? ''
      field.addEventListener('input', () => this.page.filter(c.id, field.value))
      field.addEventListener('keydown', e => {
        e.stopPropagation()
        if (e.key === 'Escape' && field.value) { field.value = ''; this.page.filter(c.id, '') }
        else if (e.key === 'ArrowDown' || e.key === 'Enter' || e.key === 'Escape') { e.preventDefault(); this.focus() }
      })
      under.append(field)
      filters.append(under)
    }
    this.head.replaceChildren(titles, filters)
    for (const node of [this.head, this.body, titles, filters]) node.style.width = `${x}px`
    if (typed) one(`.grid-filter[data-column="${CSS.escape(typed)}"]`, this.head)?.focus()
  }

  place(node, i) {
    node.className = 'grid-cell'
    node.setAttribute('aria-colindex', String(i + 1))
    node.style.left = `${this.lefts[i]}px`
    node.style.width = `${this.columns[i].width}px`
    return node
  }

  // draw puts the rows in sight into the page. Those that are there and hold the same are left alone.
  draw(all = false) {
    this.body.style.height = `${this.rows.length * rowHeight}px`
    const top = this.root.scrollTop, high = this.root.clientHeight
    const first = Math.max(0, Math.floor(top / rowHeight) - spare), last = Math.min(this.rows.length, Math.ceil((top + high) / rowHeight) + spare)
    const seen = new Set()
    for (let i = first; i < last; i++) {
      const r = this.rows[i]
      seen.add(r.id)
      let node = this.drawn.get(r.id)
      if (!node) {
        node = document.createElement('div')
        node.className = 'grid-row'
        node.setAttribute('role', 'row')
        node.dataset.row = r.id
        this.drawn.set(r.id, node)
        this.body.append(node)
      }
      const marks = this.columns.map(c => `${this.wrong.get(`${r.id} ${c.id}`)?.text ?? ''} ${this.noted.get(`${r.id} ${c.id}`)?.count ?? ''}`).join('\n')
      if (node.shown !== r || node.marks !== marks || node.headed !== this.headed) this.fill(node, r, marks)
      if (node.at !== i) {
        node.at = i
        node.style.transform = `translateY(${i * rowHeight}px)`
        node.setAttribute('aria-rowindex', String(i + 3))
      }
    }
    for (const [id, node] of this.drawn) if (!seen.has(id) && !node.contains(this.editor)) { node.remove(); this.drawn.delete(id) }
    this.mark()
  }

  fill(node, r, marks) {
    if (node.contains(this.editor)) return // what is being written is not disturbed
    node.shown = r
    node.marks = marks
    node.headed = this.headed
    if (node.children.length !== this.columns.length) node.replaceChildren(...this.columns.map(() => document.createElement('div')))
    for (const [i, c] of this.columns.entries()) {
      const cell = this.place(node.children[i], i), bad = this.wrong.get(`${r.id} ${c.id}`)
      cell.id = `cell-${r.id}-${i}`
      cell.setAttribute('role', 'gridcell')
      cell.setAttribute('aria-readonly', c.fixed ? 'true' : 'false')
      cell.dataset.col = String(i)
      const shown = (r.cells[c.id] ?? '').replace(/\n/g, ' ')
      if (bad) {
        const value = Object.assign(document.createElement('span'), { className: 'value', textContent: shown })
        const refused = Object.assign(document.createElement('span'), { className: 'refused', textContent: bad.text })
        cell.replaceChildren(value, refused)
      } else cell.textContent = shown
      cell.classList.toggle('wrong', !!bad)
      cell.classList.toggle('counts', !!c.counts)
      cell.classList.toggle('fixed', !!c.fixed)
      const said = this.noted.get(`${r.id} ${c.id}`)
      const about = [said && (said.count === 1 ? 'One remark' : `${said.count} remarks`), bad && `${bad.text} was not taken: ${bad.why}`].filter(Boolean).join('. ')
      cell.classList.toggle('noted', !!said)
      if (about) cell.setAttribute('aria-description', about)
      else cell.removeAttribute('aria-description')
      if (bad) { cell.setAttribute('aria-invalid', 'true'); cell.title = bad.why } else { cell.removeAttribute('aria-invalid'); cell.title = (r.cells[c.id] ?? '').length > 24 ? r.cells[c.id] : '' }
    }
  }

  // mark shows which cells are selected, and tells the grid which one has the focus.
  mark() {
    const [r0, r1] = [Math.min(this.at.row, this.from.row), Math.max(this.at.row, this.from.row)]
    const [c0, c1] = [Math.min(this.at.col, this.from.col), Math.max(this.at.col, this.from.col)]
    for (const node of this.drawn.values()) {
      const inside = node.at >= r0 && node.at <= r1
      node.classList.toggle('at-row', node.at === this.at.row)
      node.setAttribute('aria-selected', inside ? 'true' : 'false')
      for (const [i, cell] of [...node.children].entries()) {
        cell.classList.toggle('chosen', inside && i >= c0 && i <= c1)
        cell.classList.toggle('active', node.at === this.at.row && i === this.at.col)
      }
    }
    const id = this.row ? `cell-${this.row.id}-${this.at.col}` : ''
    if (id && document.getElementById(id)) this.root.setAttribute('aria-activedescendant', id)
    else this.root.removeAttribute('aria-activedescendant')
  }

  focus() { this.root.focus({ preventScroll: true }) }

  // go moves the focus to a cell, and with it the end of the selected block.
  go(row, col, extend = false) {
    row = Math.max(0, Math.min(row, this.rows.length - 1))
    col = Math.max(0, Math.min(col, this.columns.length - 1))
    const moved = this.rows[row]?.id !== this.at.id
    this.at = { id: this.rows[row]?.id ?? '', row, col }
    this.began = null
    this.ended = ''
    if (!extend) this.from = { row, col }
    this.reveal()
    this.draw()
    if (moved && this.at.id) this.page.select(this.at.id)
    const bad = this.wrong.get(`${this.at.id} ${this.column?.id}`)
    if (bad) this.page.say(bad.why)
  }

  // goTo moves to the row of a step that was selected elsewhere.
  goTo(id) {
    const row = this.rows.findIndex(r => r.id === id)
    if (row < 0 || id === this.at.id || this.editor) return
    this.at = { id, row, col: this.at.col }
    this.from = { row, col: this.at.col }
    this.reveal()
    this.draw()
  }

  reveal() {
    const top = this.at.row * rowHeight, head = this.head.offsetHeight
    if (top < this.root.scrollTop) this.root.scrollTop = top
    if (top + rowHeight > this.root.scrollTop + this.root.clientHeight - head) this.root.scrollTop = top + rowHeight - this.root.clientHeight + head
    const left = this.lefts[this.at.col] ?? 0, right = left + (this.column?.width ?? 0)
    if (left < this.root.scrollLeft) this.root.scrollLeft = left
    if (right > this.root.scrollLeft + this.root.clientWidth) this.root.scrollLeft = right - this.root.clientWidth
  }

  cellAt(e) {
    const cell = e.target.closest?.('.grid-body .grid-cell'), row = cell?.parentElement
    return cell && row?.dataset.row ? { row: row.at, col: Number(cell.dataset.col) } : null
  }

  press(e) {
    if (e.button !== 0) return
    const title = e.target.closest('.grid-title'), edge = e.target.closest('.grid-edge')
    if (edge) { this.widen(e, edge.parentElement.dataset.column); return }
    if (title) { this.carryColumn(e, title.parentElement.dataset.column); return }
    const cell = this.cellAt(e)
    if (!cell || this.editor?.contains(e.target)) return
    if (!this.commit()) { e.preventDefault(); return }
    this.go(cell.row, cell.col, e.shiftKey)
    this.focus()
    e.preventDefault()
    const whole = this.columns[cell.col]?.id === 'number' && !e.shiftKey
    const from = e.clientY
    this.follow(move => {
      if (whole && (this.carried || Math.abs(move.clientY - from) > 6)) this.carryRow(move, cell.row)
      else if (!whole) {
        const under = this.cellAt({ target: document.elementFromPoint(move.clientX, move.clientY) ?? this.root })
        if (under && (under.row !== this.at.row || under.col !== this.at.col)) this.go(under.row, under.col, true)
      }
    }, () => this.dropRow())
  }

  // follow calls move with every motion of the pointer until it is let go.
  follow(move, end) {
    const up = e => {
      document.removeEventListener('pointermove', move)
      document.removeEventListener('pointerup', up)
      document.removeEventListener('pointercancel', up)
      end(e)
    }
    document.addEventListener('pointermove', move)
    document.addEventListener('pointerup', up)
    document.addEventListener('pointercancel', up)
  }

  // carryRow shows where a row that is dragged by its number would go.
  carryRow(e, row) {
    const top = this.root.getBoundingClientRect().top + this.head.offsetHeight
    const gap = Math.max(0, Math.min(this.rows.length, Math.round((e.clientY - top + this.root.scrollTop) / rowHeight)))
    this.carried = { row, gap }
    this.line ??= Object.assign(document.createElement('div'), { className: 'grid-drop' })
    this.body.append(this.line)
    this.line.style.transform = `translateY(${gap * rowHeight - 1}px)`
  }

  dropRow() {
    const carried = this.carried
    this.carried = null
    this.line?.remove()
    if (!carried || carried.gap === carried.row || carried.gap === carried.row + 1) return
    const before = carried.gap <= carried.row, beside = this.rows[before ? carried.gap : carried.gap - 1]
    this.page.move(this.rows[carried.row].id, beside.id, before)
  }

  widen(e, id) {
    const c = this.columns.find(k => k.id === id), from = e.clientX, was = c?.width ?? 0
    e.preventDefault()
    this.follow(move => {
      if (!c) return
      c.width = Math.max(48, Math.min(800, Math.round(was + move.clientX - from)))
      this.headed = ''
      this.show(this.columns, this.rows, this.sorted)
    }, () => this.page.arrange())
  }

  // fit makes a column as wide as the longest of its texts, and its title.
  fit(id) {
    const c = this.columns.find(k => k.id === id), cell = one('.grid-body .grid-cell', this.root) ?? this.root
    if (!c) return
    const pen = document.createElement('canvas').getContext('2d')
    const wide = (text, of) => {
      if (!pen) return 0
      const { fontWeight, fontSize, fontFamily } = getComputedStyle(of)
      pen.font = `${fontWeight} ${fontSize} ${fontFamily}`
      return pen.measureText(text).width
    }
    const longest = Math.max(wide(c.title, one('.grid-title', this.head)) + 18, // with the arrow of a sorted one
      ...this.rows.map(r => wide((r.cells[c.id] ?? '').replace(/\n/g, ' '), cell)))
    c.width = Math.max(48, Math.min(800, Math.ceil(longest) + 18))
    this.headed = ''
    this.show(this.columns, this.rows, this.sorted)
    this.page.arrange()
  }

  // carryColumn sorts by a column whose title is clicked, and moves one whose title is dragged.
  carryColumn(e, id) {
    const from = e.clientX
    let over = ''
    e.preventDefault()
    this.follow(move => {
      if (Math.abs(move.clientX - from) < 8 && !over) return
      over = /** @type {any} */ (document.elementFromPoint(move.clientX, e.clientY))?.closest('[role=columnheader]')?.dataset.column ?? over
      all('[role=columnheader]', this.head).forEach(h => h.classList.toggle('over', h.dataset.column === over && over !== id))
    }, () => {
      all('.over', this.head).forEach(h => h.classList.remove('over'))
      if (!over) { this.page.sort(id); return }
      if (over === id) return
      const list = this.columns.filter(c => c.id !== id), moved = this.columns.find(c => c.id === id)
      const to = this.columns.findIndex(c => c.id === over)
      if (moved) list.splice(to, 0, moved)
      this.show(list, this.rows, this.sorted)
      this.page.arrange()
    })
  }

  key(e) {
    if (e.isComposing || e.target.closest('.grid-filter')) return
    const ctrl = e.ctrlKey || e.metaKey, { row, col } = this.at, page = Math.max(1, Math.floor(this.root.clientHeight / rowHeight) - 3)
    if (this.editor) { this.keyInEditor(e); return }
    e.stopPropagation() // the keys of the drawing rest meanwhile
    const moves = {
      ArrowUp: [row - 1, col], ArrowDown: [row + 1, col], ArrowLeft: [row, col - 1], ArrowRight: [row, col + 1],
      PageUp: [row - page, col], PageDown: [row + page, col], Home: [ctrl ? 0 : row, 0], End: [ctrl ? this.rows.length - 1 : row, this.columns.length - 1],
    }[e.key]
    if (this.ended && !ctrl && !e.altKey && (e.key.length === 1 || e.key === 'Enter' || e.key === 'Backspace' || e.key === 'Tab' && this.ended === 'typed')) {
      this.ended = e.key === 'Tab' || e.key === 'Enter' ? 'left' : 'typed'
      this.page.say(atTheEnd)
    } else if (e.altKey && keyOf(e) === 'r') this.page.remark()
    else if (e.altKey && (e.key === 'ArrowUp' || e.key === 'ArrowDown')) {
      const beside = this.rows[row + (e.key === 'ArrowUp' ? -1 : 1)]
      if (this.row && beside) this.page.move(this.row.id, beside.id, e.key === 'ArrowUp')
    } else if (moves) {
      const [r, c] = ctrl && e.key.startsWith('Arrow') ? { ArrowUp: [0, col], ArrowDown: [this.rows.length - 1, col], ArrowLeft: [row, 0], ArrowRight: [row, this.columns.length - 1] }[e.key] : moves
      this.go(r, c, e.shiftKey)
    } else if (e.key === 'Tab') {
      if (!this.tab(e.shiftKey)) return // out of the grid
    } else if (e.key === 'Enter' && !ctrl && this.began !== null) this.enter(e.shiftKey ? -1 : 1)
    else if (e.key === 'Enter' && !ctrl || e.key === 'F2') this.edit()
    else if (e.key === 'Escape') { this.forget(`${this.at.id} ${this.column?.id}`); this.from = { row, col }; this.mark() }
    else if (e.altKey && /^Digit[1-9]$/.test(e.code) && this.question) this.answer(Number(e.code.slice(5)) - 1)
    else if (ctrl && e.key === 'Enter' && this.block) this.fillBlock(this.row?.cells[this.column?.id ?? ''] ?? '')
    else if (e.key === 'Insert' || ctrl && e.key === 'Enter') this.insert()
    else if (ctrl && e.key === 'Delete') this.remove()
    else if (e.key === 'Delete' || e.key === 'Backspace') this.clear()
    else if (ctrl && e.key.toLowerCase() === 'd') this.fillDown()
    else if (ctrl && e.key.toLowerCase() === 'a') { this.from = { row: 0, col: 0 }; this.go(this.rows.length - 1, this.columns.length - 1, true) }
    else if (ctrl && e.key.toLowerCase() === 'z') { if (e.shiftKey) this.page.redo(); else this.undo() }
    else if (ctrl && e.key.toLowerCase() === 'y') this.page.redo()
    else if (e.key.length === 1 && !ctrl && !e.altKey) this.edit(e.key)
    else return
    e.preventDefault()
  }

  // tab goes to the next cell of the row that is written into, or the one before; from the last one to the first of the next
  // row. A number is never among them: it is pinned by who goes there by an arrow. It returns false where there is none.
  tab(back) {
    const { row, col } = this.at, step = back ? -1 : 1, began = this.began ?? col
    const takes = i => this.columns[i] && !this.columns[i].fixed && this.columns[i].id !== 'number'
    let next = col + step
    while (next >= 0 && next < this.columns.length && !takes(next)) next += step
    if (takes(next)) {
      this.go(row, next)
      this.began = began
      return true
    }
    if (!this.rows[row + step]) return false
    next = back ? this.columns.length - 1 : 0
    while (this.columns[next] && !takes(next)) next += step
    if (!takes(next)) return false
    this.go(row + step, next)
    this.began = next
    return true
  }

  // enter goes to the next row, where the typing of this one began. Behind the last row it stays, and says so.
  enter(step) {
    const col = this.began ?? this.at.col
    if (this.rows[this.at.row + step]) { this.go(this.at.row + step, col); return }
    if (step > 0) { this.ended = 'left'; this.page.say(atTheEnd) }
  }

  // undo takes back what was written last. Where that was refused as a whole, it takes that away; nothing else is undone.
  undo() {
    const only = this.nothingTaken && this.wrong.size > 0
    this.wrong.clear()
    this.nothingTaken = false
    this.page.ask()
    if (only) this.draw()
    else this.page.undo()
  }

  // forget takes away what was refused in a cell.
  forget(key) {
    if (!this.wrong.delete(key)) return
    this.page.ask()
    this.draw()
  }

  /** The first text that names a step there is none of. */
  get question() { return [...this.wrong.values()].find(w => w.unknown) }

  // answer says what the name that is asked about means: one of the steps that are near, or behind those a new one.
  answer(i) {
    const q = this.question
    if (!q?.unknown || i > (q.near?.length ?? 0)) return
    this.write([{ id: q.id, column: q.column, text: q.text, names: { ...q.names, [q.unknown]: q.near?.[i]?.name ?? '' } }], 'write')
    this.focus()
  }

  insert() {
    const id = this.page.insert(this.row?.id ?? '')
    const row = this.rows.findIndex(r => r.id === id)
    if (row < 0) return
    this.go(row, Math.max(0, this.columns.findIndex(c => c.id === 'text')))
    this.edit()
  }

  chosenRows() { return this.rows.slice(Math.min(this.at.row, this.from.row), Math.max(this.at.row, this.from.row) + 1) }
  chosenColumns() { return this.columns.slice(Math.min(this.at.col, this.from.col), Math.max(this.at.col, this.from.col) + 1) }

  remove() { if (this.rows.length) this.page.remove(this.chosenRows().map(r => r.id)) }

  // edit opens the field of the cell in focus; with a text, that takes the place of what is there.
  edit(text) {
    const r = this.row, c = this.column
    if (!r || !c || this.editor) return
    if (c.fixed) { this.page.say(c.why ?? ''); return }
    const cell = document.getElementById(`cell-${r.id}-${this.at.col}`)
    if (!cell) return
    const long = c.type === 'long-text', field = /** @type {any} */ (document.createElement(long ? 'textarea' : 'input'))
    field.className = 'grid-editor'
    field.autocomplete = 'off'
    field.setAttribute('aria-label', `${c.title}${c.hint ? `, ${c.hint}` : ''}`)
    if (!long && c.hint) field.placeholder = c.hint
    if (c.choices?.length && !long) {
      const list = document.createElement('datalist')
      list.id = 'grid-choices'
      list.append(...c.choices.map(v => Object.assign(document.createElement('option'), { value: v })))
      document.getElementById('grid-choices')?.remove()
      this.root.append(list)
      field.setAttribute('list', 'grid-choices')
    }
    const bad = this.wrong.get(`${r.id} ${c.id}`)
    this.was = r.cells[c.id] ?? ''
    field.value = text ?? bad?.text ?? this.was
    this.editing = { id: r.id, column: c.id }
    this.editor = field
    cell.classList.add('editing')
    cell.replaceChildren(field)
    field.addEventListener('blur', () => { if (this.editor === field) this.commit() })
    field.focus({ preventScroll: true })
    if (text === undefined) field.select()
    else field.setSelectionRange?.(field.value.length, field.value.length)
  }

  keyInEditor(e) {
    e.stopPropagation()
    const step = e.shiftKey ? -1 : 1
    if (e.key === 'Escape') { e.preventDefault(); this.shut(); this.focus() }
    else if (e.key === 'Enter' && (e.ctrlKey || e.metaKey)) { // into all that is selected
      e.preventDefault()
      const text = this.editor.value
      this.shut()
      this.fillBlock(text)
      this.focus()
    }
    else if (e.key === 'Enter' && !(e.shiftKey && this.editor.tagName === 'TEXTAREA')) {
      e.preventDefault()
      if (this.commit()) { this.focus(); this.enter(step) }
    } else if (e.key === 'Tab') {
      e.preventDefault()
      if (this.commit()) { this.focus(); if (!this.tab(e.shiftKey) && !e.shiftKey) this.enter(1) }
    }
  }

  // shut takes the field away; the cell shows what its row holds.
  shut() {
    const node = this.editor?.closest('.grid-row')
    this.editor?.parentElement?.classList.remove('editing')
    this.editor = null
    this.editing = null
    if (node) { node.shown = null; node.replaceChildren() }
    this.draw()
  }

  // commit writes what is in the field. What is refused stays in the cell, marked, with the reason.
  commit() {
    if (!this.editor) return true
    if (!this.editing) return
    const { id, column } = this.editing, text = this.editor.value, was = this.was
    this.shut()
    if (text === was && !this.wrong.has(`${id} ${column}`)) return true
    this.write([{ id, column, text }], 'write')
    return true
  }

  write(cells, as) {
    const before = this.rows.map(r => r.id)
    const wrong = this.page.write(cells, as)
    for (const [i, c] of cells.entries()) {
      const key = `${c.id} ${c.column}`
      if (wrong[i]) this.wrong.set(key, { ...c, ...wrong[i] })
      else this.wrong.delete(key)
    }
    const left = Object.values(wrong)
    this.nothingTaken = left.length === cells.length
    this.page.ask()
    if (left.length && !left[0].unknown) this.page.say(left.length > 1 ? `${left.length} cells were not taken. ${left[0].why}` : left[0].why)
    if (before.length) this.draw()
  }

  clear() {
    const cells = []
    for (const r of this.chosenRows()) for (const c of this.chosenColumns()) if (!c.fixed && r.cells[c.id]) cells.push({ id: r.id, column: c.id, text: '' })
    if (cells.length) this.write(cells, 'clear')
  }

  /** Whether more than one cell is selected. */
  get block() { return this.at.row !== this.from.row || this.at.col !== this.from.col }

  // fillBlock writes a text into every selected cell that takes one.
  fillBlock(text) {
    const cells = this.chosenRows().flatMap(r => this.chosenColumns().filter(c => !c.fixed && (r.cells[c.id] ?? '') !== text).map(c => ({ id: r.id, column: c.id, text })))
    if (cells.length) this.write(cells, 'fill')
  }

  fillDown() {
    const [first, ...rest] = this.chosenRows()
    const cells = rest.flatMap(r => this.chosenColumns().filter(c => !c.fixed).map(c => ({ id: r.id, column: c.id, text: first.cells[c.id] ?? '' })))
    if (cells.length) this.write(cells, 'fill down')
  }

  // copy puts the selected block on the clipboard as lines with tabs between their cells.
  copy(e) {
    if (this.editor || e.target.closest?.('.grid-filter')) return
    const quoted = text => /[\t\n"]/.test(text) ? `"${text.replace(/"/g, '""')}"` : text
    e.clipboardData.setData('text/plain', this.chosenRows().map(r => this.chosenColumns().map(c => quoted(r.cells[c.id] ?? '')).join('\t')).join('\n'))
    e.preventDefault()
    e.stopPropagation()
  }

  paste(e) {
    if (this.editor || e.target.closest?.('.grid-filter')) return
    const block = parted(e.clipboardData.getData('text/plain'))
    e.preventDefault()
    e.stopPropagation()
    if (!block.length) return
    const row = Math.min(this.at.row, this.from.row), col = Math.min(this.at.col, this.from.col)
    const chosen = this.chosenRows().length, cells = []
    // One value is pasted into every selected cell.
    const wide = block.length === 1 && block[0].length === 1 ? this.chosenColumns().length : 0
    const lines = wide ? Array(chosen).fill(Array(wide).fill(block[0][0])) : block
    for (const [i, line] of lines.entries()) {
      const r = this.rows[row + i]
      if (!r) break
      for (const [k, text] of line.entries()) {
        const c = this.columns[col + k]
        if (c && !c.fixed && (r.cells[c.id] ?? '') !== text) cells.push({ id: r.id, column: c.id, text })
      }
    }
    if (row + lines.length > this.rows.length) this.page.say(`${row + lines.length - this.rows.length} lines go beyond the last step and were left.`)
    if (cells.length) this.write(cells, 'paste')
  }
}

/** Reads lines with tabs between their cells, some of them in quotes, as spreadsheets write them.
 * @param {string} text @returns {string[][]} */
export function parted(text) {
  /** @type {string[][]} */
  const rows = [[]]
  let cell = '', quoted = false, begun = false
  const end = () => { rows[rows.length - 1].push(cell); cell = ''; begun = false }
  for (let i = 0; i < text.length; i++) {
    const c = text[i]
    if (quoted) {
      if (c !== '"') cell += c
      else if (text[i + 1] === '"') { cell += '"'; i++ }
      else quoted = false
    } else if (c === '"' && !begun && !cell) { quoted = true; begun = true }
    else if (c === '\t') end()
    else if (c === '\n') { end(); rows.push([]) }
    else if (c !== '\r') cell += c
  }
  if (cell || rows[rows.length - 1].length) end()
  if (!rows[rows.length - 1].length) rows.pop()
  return rows
}
