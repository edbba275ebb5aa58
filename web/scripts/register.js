// The wide register: the map as a table over the whole window, with the drawing as a strip above it.
import { byId, one, all, around, fromPage, valueOf } from './dom.js'
import { keyOf } from './keys.js'
import { Grid } from './grid.js'

/** The widths of the columns at the start, in px. */
const widths = { number: 76, text: 240, kind: 112, who: 132, stage: 104, next: 170, from: 120, papers: 150 }

export class Register {
  constructor(app) {
    this.app = app
    this.root = byId('wide')
    this.query = { rows: '', sort: '', down: false, filters: {}, search: '', by: '' }
    /** How a person has arranged the columns: their order, their widths and those that are hidden. */
    this.arrangement = { order: [], widths: {}, hidden: ['from', 'papers'], ...JSON.parse(this.root.dataset.arrangement || '{}') }
    this.grid = new Grid(byId('grid-table'), {
      write: (cells, as) => this.done(() => valueOf(app.core.setCells(JSON.stringify(cells), as))),
      sort: id => this.sort(id),
      filter: (id, text) => { this.query.filters[id] = text; this.refresh() },
      select: id => this.select(id),
      insert: after => this.ofSteps() ? this.done(() => app.core.insertRow(after)) : '',
      remove: ids => this.ofSteps() && this.done(() => app.core.removeRows(ids.join(' '))),
      move: (id, beside, before) => {
        if (!this.ofSteps()) return
        if (this.query.sort) { app.bars.say('Rows are moved while they stand in the order of the flow. Click the title of the sorted column to end the sorting.'); return }
        this.done(() => app.core.moveRow(id, beside, before))
      },
      arrange: () => this.arrange(),
      remark: () => this.remark(),
      say: text => app.bars.say(text),
      ask: () => this.ask(),
      undo: () => this.done(() => app.core.command('undo', '')),
      redo: () => this.done(() => app.core.command('redo', '')),
    })
    document.addEventListener('keydown', e => { // the key that opens the table leads back from it, wherever the focus is
      if (!this.open || !e.altKey || e.ctrlKey || e.metaKey || keyOf(e).toLowerCase() !== 't' || one('dialog[open]')) return
      e.preventDefault()
      e.stopPropagation()
      this.grid.commit()
      this.show(false)
    }, true)
    byId('wide-search').addEventListener('input', e => { this.query.search = e.target.value; this.refresh() })
    byId('wide-rows').addEventListener('change', e => { Object.assign(this.query, { rows: e.target.value, sort: '', filters: {} }); this.had = new Map(); this.refresh() })
    byId('wide-by').addEventListener('change', e => { this.query.by = e.target.value; this.refresh() })
    byId('wide-shut').addEventListener('click', () => this.show(false))
    byId('wide-insert').addEventListener('click', () => this.grid.insert())
    byId('wide-remove').addEventListener('click', () => this.grid.remove())
    byId('wide-fields').addEventListener('click', () => this.openFields())
    byId('wide-columns').addEventListener('change', e => this.hide(e.target))
    byId('wide-remark').addEventListener('click', () => this.remark())
    byId('wide-read').addEventListener('click', () => byId('wide-file').click())
    byId('wide-file').addEventListener('change', e => this.readBack(e.target))
    byId('taken-form').addEventListener('submit', () => this.take())
    byId('taken-all').addEventListener('change', e => all('#taken input').forEach(f => { if (!f.disabled) f.checked = e.target.checked }))
    byId('add-field').addEventListener('click', () => this.addField())
    byId('field-name').addEventListener('keydown', e => {
      if (e.key !== 'Enter' || !e.target.value.trim()) return
      e.preventDefault() // the dialog stays: there may be more to add
      this.addField()
    })
    byId('fields-list').addEventListener('change', e => this.changeField(e.target))
    byId('fields-list').addEventListener('click', e => this.clickField(e.target))
    byId('field-type').addEventListener('change', e => { byId('field-choices').hidden = e.target.value !== 'choice' })
    for (const name of ['day', 'week']) {
      byId(`work-${name}`).addEventListener('change', e => this.edit({ do: 'setHead', [name]: Number(e.target.value) || 0 }))
    }
    byId('currency').addEventListener('change', e => this.edit({ do: 'setHead', currency: e.target.value.trim() }))
    byId('colour-by').addEventListener('change', e => this.edit({ do: 'setHead', colourBy: e.target.value }))
    const book = byId('register')
    book.addEventListener('dblclick', e => this.writeInBook(around(e, '[data-find]')))
    book.addEventListener('keydown', e => {
      const row = around(e, '[data-find]')
      if (e.key === 'F2' && row) { e.preventDefault(); e.stopPropagation(); this.writeInBook(row) }
    })
    window.addEventListener('popstate', () => this.show(/\/table$/.test(location.pathname), true))
  }

  get open() { return document.body.classList.contains('wide') }

  show(on, there = false) {
    if (on === this.open) return
    if (on) this.bookWas = !byId('book').hidden
    document.body.classList.toggle('wide', on)
    this.root.hidden = !on
    byId('wide-strip').hidden = !on
    one('.draw-strip').hidden = on || document.body.classList.contains('reviewing')
    byId('book').hidden = on || !this.bookWas
    if (!there) history.pushState(null, '', this.app.base + (on ? '/table' : ''))
    this.app.resized()
    this.app.fit()
    if (on) {
      this.app.zoomAt(0.62 / this.app.zoom)
      this.refresh()
      const chosen = this.app.bars.state.selected?.[0]
      if (chosen) this.grid.goTo(chosen)
      if (this.grid.row) this.app.command('find', this.grid.row.id)
      this.grid.focus()
    } else { this.dim(); this.app.focus() }
  }

  // writeInBook opens the text of a step in the list of the side panel. The list is not refreshed under it.
  writeInBook(row) {
    if (!row || this.writing) return
    const id = row.dataset.find, [was, there] = this.app.core.textOf(id, '')
    if (!there) return
    const field = Object.assign(document.createElement('textarea'), { value: was, rows: 2, className: 'book-editor' })
    field.setAttribute('aria-label', 'Text of the step')
    this.writing = field
    row.after(field)
    row.hidden = true
    const shut = () => {
      if (this.writing !== field) return
      this.writing = null
      row.hidden = false
      field.remove()
      this.app.bars.moved()
    }
    const commit = () => {
      if (this.writing !== field) return
      const text = field.value.trim()
      shut()
      if (text === was) return
      const wrong = valueOf(this.app.core.setCells(JSON.stringify([{ id, column: 'text', text }]), 'write'))
      this.app.flush()
      if (wrong[0]) this.app.bars.say(wrong[0].why)
    }
    field.addEventListener('blur', commit)
    field.addEventListener('keydown', e => {
      e.stopPropagation()
      if (e.key === 'Enter' && !e.shiftKey) {
        e.preventDefault()
        const next = row.closest('li')?.nextElementSibling?.querySelector('[data-find]')
        commit()
        next?.focus()
      } else if (e.key === 'Escape') { e.preventDefault(); shut(); row.focus() }
    })
    field.focus()
    field.select()
  }

  // ask asks what a name means that no step has: one that is like it, or a new one. The table can be worked in meanwhile; the
  // map stays as it is until it is answered.
  ask() {
    const box = byId('wide-ask'), q = this.grid.question
    box.hidden = !q
    if (!q) { box.replaceChildren(); return }
    const number = this.grid.rows.find(r => r.id === q.id)?.cells.number
    const say = Object.assign(document.createElement('span'), { textContent: `${number ? `Step ${number}, ` : ''}Next: there is no step called “${q.unknown}”. Nothing is changed yet. Did you mean` })
    const offers = [...(q.near ?? []).map(n => n.name === n.text ? n.text : `${n.name} ${n.text}`), `a new step “${q.unknown}”`]
    box.replaceChildren(say, ...offers.map((text, i) => {
      const b = Object.assign(document.createElement('button'), { type: 'button', textContent: text })
      b.append(Object.assign(document.createElement('kbd'), { textContent: `Alt ${i + 1}` }))
      b.addEventListener('click', () => this.grid.answer(i))
      return b
    }), (() => {
      const b = Object.assign(document.createElement('button'), { type: 'button', textContent: 'Leave it as it is' })
      b.addEventListener('click', () => { this.grid.forget(`${q.id} ${q.column}`); this.grid.focus() })
      return b
    })())
  }

  // remark writes a remark on the cell in focus, in the side panel.
  remark() {
    const { row, column } = this.grid
    if (!row || !column) return
    this.app.remarks.write(row.id, null, { id: column.id, title: column.title })
  }

  // mark shows the cells on which something was said.
  mark(cells) {
    this.grid.noted = new Map(cells.map(c => [`${c.item} ${c.column}`, c]))
    this.grid.draw()
  }

  // done has the core change the map, and shows what came of it.
  done(change) {
    const out = change()
    this.app.flush()
    this.refresh()
    return out
  }

  edit(edit) { this.done(() => this.app.core.perform(JSON.stringify(edit), '')) }

  // changed takes in that the map or the selection is another one, soon.
  changed() {
    if (!this.open || this.waiting) return
    this.waiting = true
    requestAnimationFrame(() => {
      this.waiting = false
      this.refresh()
      const chosen = this.app.bars.state.selected?.[0]
      if (chosen && chosen !== this.chosen && chosen !== this.told) this.grid.goTo(chosen) // it was selected on the drawing
      this.chosen = chosen
    })
  }

  select(id) {
    clearTimeout(this.selecting)
    this.selecting = setTimeout(() => {
      if (!this.open) return
      this.told = id
      this.app.command('find', id)
    }, 60)
  }

  refresh() {
    const a = valueOf(this.app.core.register(JSON.stringify(this.query)))
    if (!a) return
    this.answer = a
    const known = a.columns.map(c => c.id), { order, hidden } = this.arrangement
    const place = id => { const i = order.indexOf(id); return i < 0 ? order.length + known.indexOf(id) : i }
    const columns = a.columns.filter(c => !hidden.includes(c.id)).sort((x, y) => place(x.id) - place(y.id))
      .map(c => ({ ...c, width: this.arrangement.widths[c.id] ?? widths[c.id] ?? 120 }))
    this.fitIn(columns)
    const at = Object.fromEntries(a.columns.map((c, i) => [c.id, i]))
    const before = this.had ?? new Map()
    const had = this.had = new Map()
    const rows = a.rows.map(r => {
      const key = JSON.stringify(r), was = before.get(r.id)
      const row = was?.key === key && was.columns === known.join() ? was.row : { id: r.id, cells: Object.fromEntries(known.map(id => [id, r.cells[at[id]]])) }
      had.set(r.id, { key, row, columns: known.join() })
      return row
    })
    this.grid.show(columns, rows, { column: this.query.sort, down: this.query.down })
    for (const field of all('.grid-filter')) {
      const why = a.wrong?.[field.dataset.column]
      field.setAttribute('aria-invalid', why ? 'true' : 'false')
      field.title = why ?? 'A text, or > 4 min, <= 10, = yes, empty, not empty'
    }
    const held = this.app.bars.state.numbers
    this.subjects(a)
    const many = a.all === 1 ? a.of.one : a.of.many
    byId('wide-count').textContent = (a.rows.length === a.all ? `${a.all} ${many}` : `${a.rows.length} of ${a.all} ${many}`) + (held?.since ? ', numbers held' : '')
    byId('wide-count').title = held?.since ? `Numbers are held since ${new Date(held.since).toLocaleString()}${held.by ? `, by ${held.by}` : ''}` : ''
    this.foot(a, columns)
    this.columnsMenu(a)
    this.dim(a)
  }

  // fitIn makes the columns that nobody has set narrower, as far as that brings all of them into sight; where it does not,
  // they keep their widths, and the table is scrolled.
  fitIn(columns) {
    const room = this.root.clientWidth - 2, all = columns.reduce((sum, c) => sum + c.width, 0)
    const loose = columns.filter(c => this.arrangement.widths[c.id] === undefined && c.width > 84)
    const spare = loose.reduce((sum, c) => sum + c.width - 84, 0)
    if (room <= 0 || all <= room || spare < all - room) return
    for (const c of loose) c.width = Math.floor(c.width - (c.width - 84) * (all - room) / spare)
  }

  // subjects offers what the rows can be, where there is more than steps.
  subjects(a) {
    const key = JSON.stringify(a.subjects)
    if (this.offered === key) return
    this.offered = key
    byId('wide-of').hidden = a.subjects.length < 2
    byId('wide-rows').replaceChildren(...a.subjects.map(s => new Option(s.title, s.name)))
    byId('wide-rows').value = a.of.name
  }

  // ofSteps reports whether rows can be added and moved, and says why not.
  ofSteps() {
    const why = this.answer?.of.adds
    if (why) this.app.bars.say(why)
    return !why
  }

  sort(id) {
    const q = this.query
    if (q.sort !== id) { q.sort = id; q.down = false } else if (!q.down) q.down = true
    else { q.sort = ''; q.down = false }
    this.refresh()
  }

  // foot shows what the columns that count come to, and for each lane or stage where that is asked for.
  foot(a, columns) {
    const foot = byId('wide-foot'), state = JSON.stringify([a.sums, a.groups])
    if (state === this.footed) return
    this.footed = state
    const titles = Object.fromEntries(columns.map(c => [c.id, c.title]))
    const shown = a.sums.filter(s => titles[s.column] && s.count)
    foot.hidden = !shown.length
    const table = document.createElement('table')
    const row = (cells, head = false) => {
      const tr = document.createElement('tr')
      for (const [i, text] of cells.entries()) {
        const cell = document.createElement(head || !i ? 'th' : 'td')
        if (head || !i) cell.setAttribute('scope', head ? 'col' : 'row')
        cell.textContent = text
        tr.append(cell)
      }
      table.append(tr)
    }
    row(['', 'Sum', 'Mean', 'Minimum', 'Maximum', 'Steps'], true)
    for (const s of shown) {
      row([titles[s.column], s.sum, s.mean, s.least, s.most, String(s.count)])
      for (const g of a.groups) {
        const part = g.sums.find(x => x.column === s.column)
        if (part?.count) { row([g.name || 'nobody yet', part.sum, part.mean, part.least, part.most, String(part.count)]); table.lastElementChild?.classList.add('part') }
      }
    }
    foot.replaceChildren(table)
  }

  columnsMenu(a) {
    const state = JSON.stringify([a.columns.map(c => [c.id, c.title]), this.arrangement.hidden])
    if (state === this.listed) return
    this.listed = state
    byId('wide-columns').replaceChildren(...a.columns.map(c => {
      const label = document.createElement('label')
      label.className = 'check'
      label.append(Object.assign(document.createElement('input'), { type: 'checkbox', value: c.id, checked: !this.arrangement.hidden.includes(c.id) }), c.title)
      return label
    }))
  }

  hide(box) {
    const hidden = this.arrangement.hidden.filter(id => id !== box.value)
    if (!box.checked) hidden.push(box.value)
    this.arrangement.hidden = hidden
    this.refresh()
    this.keep()
  }

  // arrange takes in the order and widths of the columns as they are now.
  arrange() {
    this.arrangement.order = this.grid.columns.map(c => c.id)
    for (const c of this.grid.columns) this.arrangement.widths[c.id] = c.width
    this.keep()
  }

  // keep stores the arrangement for this person, on whatever machine they come next.
  keep() {
    clearTimeout(this.keeping)
    this.keeping = setTimeout(() => fetch(`${this.app.base}/arrangement`, { method: 'POST', headers: fromPage({ 'Content-Type': 'application/x-www-form-urlencoded' }),
      body: new URLSearchParams({ arrangement: JSON.stringify(this.arrangement) }) }).catch(() => {}), 400)
  }

  // dim fades on the drawing what is not in the table, while something is filtered.
  dim(a) {
    const filtered = a && this.open && a.rows.length < a.all, shown = new Set(filtered ? a.rows.map(r => `n-${r.id}`) : [])
    byId('drawing').classList.toggle('filtered', !!filtered)
    for (const node of byId('symbols').children) node.classList.toggle('dimmed', !!filtered && !shown.has(node.id))
  }

  openFields() {
    this.fieldsList()
    byId('fields-dialog').showModal()
    byId('field-name').focus()
  }

  fieldsList() {
    const a = this.answer
    byId('currency').value = a.currency ?? ''
    byId('work-day').value = a.day || ''
    byId('work-week').value = a.week || ''
    byId('field-type').replaceChildren(...a.types.map(t => Object.assign(document.createElement('option'), { value: t.type, textContent: `${t.title}${t.hint ? ` (${t.hint})` : ''}` })))
    byId('field-choices').hidden = byId('field-type').value !== 'choice'
    const choices = (a.fields ?? []).filter(f => f.type === 'choice')
    byId('colour-by').replaceChildren(new Option('nothing', ''), ...choices.map(f => new Option(f.name, f.id)))
    byId('colour-by').value = a.colourBy ?? ''
    byId('fields-list').replaceChildren(...(a.fields ?? []).map((f, i) => {
      const li = document.createElement('li')
      li.dataset.field = f.id
      li.dataset.at = String(i)
      const name = Object.assign(document.createElement('input'), { value: f.name, maxLength: 100 })
      name.dataset.part = 'name'
      name.setAttribute('aria-label', 'Name of the field')
      const type = document.createElement('select')
      type.dataset.part = 'type'
      type.setAttribute('aria-label', `Type of ${f.name}`)
      type.append(...a.types.map(t => new Option(t.title, t.type)))
      type.value = f.type
      const shown = document.createElement('label')
      shown.className = 'check'
      const box = Object.assign(document.createElement('input'), { type: 'checkbox', checked: (a.shown ?? []).includes(f.id) })
      box.dataset.part = 'shown'
      shown.append(box, 'on the drawing')
      const button = (part, text, label) => {
        const b = Object.assign(document.createElement('button'), { type: 'button', textContent: text, className: 'tool small' })
        b.dataset.part = part
        b.setAttribute('aria-label', label)
        return b
      }
      li.append(name, type, shown, button('up', '↑', `Move ${f.name} up`), button('remove', 'Remove', `Remove ${f.name}`))
      if (f.type === 'choice') {
        const list = Object.assign(document.createElement('textarea'), { value: (f.choices ?? []).join('\n'), rows: 2 })
        list.dataset.part = 'choices'
        list.setAttribute('aria-label', `Values of ${f.name}, one a line`)
        li.append(list)
      }
      return li
    }))
  }

  addField() {
    const name = byId('field-name').value.trim()
    if (!name) { byId('field-name').focus(); return }
    this.done(() => this.app.core.addField(name, byId('field-type').value, byId('field-choices').value))
    if (this.answer.fields?.some(f => f.name === name)) { byId('field-name').value = ''; byId('field-choices').value = '' }
    this.fieldsList()
    byId('field-name').focus()
  }

  changeField(field) {
    const id = field.closest('li')?.dataset.field, part = field.dataset.part
    if (!id) return
    if (part === 'name') this.edit({ do: 'setField', id, name: field.value.trim() })
    if (part === 'type') this.edit({ do: 'setField', id, type: field.value })
    if (part === 'choices') this.edit({ do: 'setField', id, choices: field.value.split('\n').map(v => v.trim()).filter(Boolean) })
    if (part === 'shown') {
      const shown = (this.answer.shown ?? []).filter(s => s !== id)
      this.edit({ do: 'setHead', shown: field.checked ? [...shown, id].slice(-2) : shown })
    }
    this.fieldsList()
  }

  clickField(button) {
    const li = button.closest('li'), part = button.dataset?.part
    if (part === 'up' && Number(li.dataset.at) > 0) this.edit({ do: 'moveField', id: li.dataset.field, at: Number(li.dataset.at) - 1 })
    else if (part === 'remove') this.edit({ do: 'removeField', id: li.dataset.field })
    else return
    this.fieldsList()
  }

  // readBack reads a table that was filled in elsewhere, and shows what would change.
  async readBack(input) {
    const [file] = input.files
    input.value = ''
    if (file) await this.readFile(file, '')
  }

  // readFile reads it in an encoding; empty for the one that is recognised.
  async readFile(file, encoding) {
    const form = new FormData()
    form.append('file', file)
    if (encoding) form.append('encoding', encoding)
    const dialog = byId('taken-dialog'), again = dialog.open, turn = this.reading = (this.reading ?? 0) + 1
    const answer = await fetch(`${this.app.base}/table`, { method: 'POST', headers: fromPage({ Accept: 'application/json' }), body: form })
    const text = await answer.text()
    // Another file or encoding was asked for since, or the dialog that asked was shut: this answer is for nobody.
    if (turn !== this.reading || again && !dialog.open) return
    if (!answer.ok) { this.app.bars.say(text); return }
    const plan = valueOf(this.app.core.readBack(text))
    if (plan.refusal) { this.app.bars.say(plan.refusal); return }
    this.plan = plan
    const list = plan.changes
    byId('taken-words').textContent = [list.length ? `${list.length === 1 ? 'One cell changes' : `${list.length} cells change`}.` : 'Nothing in it is different.',
      plan.missing.length ? `${plan.missing.length === 1 ? 'One step is' : `${plan.missing.length} steps are`} not in the file and stay: ${plan.missing.slice(0, 8).join(', ')}${plan.missing.length > 8 ? ', …' : ''}.` : '', ...plan.notes].filter(Boolean).join(' ')
    const doubt = byId('taken-doubt'), ways = byId('taken-encoding')
    doubt.hidden = !plan.doubt && !encoding
    if (plan.doubt) doubt.firstChild.textContent = `The file does not say how its letters are written. Is “${plan.doubt}” right?`
    ways.value = plan.encoding || 'utf-8'
    ways.onchange = () => this.readFile(file, ways.value)
    const said = plan.comments || []
    byId('taken').replaceChildren(...list.map((c, i) => {
      const tr = document.createElement('tr')
      const box = Object.assign(document.createElement('input'), { type: 'checkbox', checked: !c.why && !c.computed, disabled: !!c.why, value: String(i) })
      box.setAttribute('aria-label', `Take ${c.title} of ${c.step}`)
      tr.insertCell().append(box)
      for (const text of [c.step, c.title]) tr.insertCell().textContent = text
      tr.insertCell().append(Object.assign(document.createElement('del'), { textContent: c.was }))
      tr.insertCell().append(Object.assign(document.createElement('ins'), { textContent: c.text }), c.also ? Object.assign(document.createElement('p'), { className: 'when', textContent: c.also }) : '', c.why ? Object.assign(document.createElement('p'), { className: 'refusal', textContent: c.why }) : '',
        c.computed ? Object.assign(document.createElement('p'), { className: 'when', textContent: 'computed by a formula elsewhere' }) : '')
      return tr
    }), ...said.map((c, i) => { // what others said of cells becomes remarks
      const tr = document.createElement('tr')
      const box = Object.assign(document.createElement('input'), { type: 'checkbox', checked: true, value: `comment ${i}` })
      box.setAttribute('aria-label', `Take the comment on ${c.step} as a remark`)
      tr.insertCell().append(box)
      for (const text of [c.step, c.title || '']) tr.insertCell().textContent = text
      tr.insertCell().append(Object.assign(document.createElement('span'), { className: 'when', textContent: 'a comment, as a remark' }))
      tr.insertCell().textContent = c.text
      return tr
    }))
    byId('taken-all').checked = list.every(c => c.why || !c.computed)
    byId('taken-take').disabled = !list.some(c => !c.why) && !said.length
    if (!dialog.open) dialog.showModal()
  }

  // asRemarks makes remarks of comments. Resolves with how many were taken, and why not all of them.
  async asRemarks(comments) {
    let done = 0
    for (const c of comments) {
      const answer = await fetch(`${this.app.base}/remarks`, { method: 'POST', headers: fromPage(), body: new URLSearchParams({ item: c.id, sheet: c.sheet, column: c.column || '', text: `In the table that came back: ${c.text}` }) }).catch(() => null)
      if (!answer?.ok) return { done, why: answer ? await answer.text() : 'The server does not answer.' }
      done++
    }
    return { done, why: '' }
  }

  async take() {
    const marked = all('#taken input:checked').map(f => f.value)
    const comments = marked.filter(v => v.startsWith('comment ')).map(v => this.plan.comments[Number(v.slice(8))])
    const chosen = marked.filter(v => !v.startsWith('comment ')).map(v => this.plan.changes[Number(v)])
    if (comments.length) {
      const { done, why } = await this.asRemarks(comments)
      this.app.bars.say(why ? `${done} of ${comments.length} comments became remarks. ${why}` : `${done === 1 ? 'One comment is a remark' : `${done} comments are remarks`} now.`)
    }
    if (!chosen.length) return
    const wrong = this.done(() => valueOf(this.app.core.takeBack(JSON.stringify(chosen))))
    const bad = Object.values(wrong)
    this.app.bars.say(bad.length ? `${chosen.length - bad.length} of ${chosen.length} cells were taken. ${bad[0]}` : `${chosen.length === 1 ? 'One cell was' : `${chosen.length} cells were`} taken. Undo brings the old ones back.`)
  }
}
