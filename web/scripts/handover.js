// The dialog by which a map goes out: a format, what can be chosen for it, and a preview of what will come of that.
// Formats and choices are those of the server's tables, which the page was made of.
import { byId, one, all, fromPage, pageToken } from './dom.js'

const remembered = 'export'

export class Handover {
  constructor(base, saved) {
    this.base = base
    /** Resolves once the server has what was changed. */
    this.saved = saved
    this.page = 0
    this.pages = 1
    this.form = byId('export-form')
    this.form.addEventListener('change', e => {
      if (e.target.name === 'format') this.choose(e.target.value)
      else { this.remember(); this.rules() }
      this.page = 0
      this.show()
    })
    this.form.addEventListener('input', e => { if (e.target.type === 'number' || !e.target.type) this.soon() })
    this.form.addEventListener('keydown', e => { if (e.key === 'Enter' && e.target.tagName === 'INPUT') { e.preventDefault(); e.target.dispatchEvent(new Event('change', { bubbles: true })) } })
    byId('export-before').addEventListener('click', () => this.flip(-1))
    byId('export-next').addEventListener('click', () => this.flip(1))
    byId('export-save').addEventListener('click', () => this.save())
    byId('copy-picture').addEventListener('click', () => this.copy())
    byId('export-print').addEventListener('click', () => this.print())
    byId('export-stop').addEventListener('click', () => this.making?.abort())
    byId('export-dialog').addEventListener('close', () => { this.making?.abort(); this.showing?.abort(); clearTimeout(this.waiting) })
  }

  // open shows the dialog for what is on the desk: the sheet, and what is selected on it.
  open(state) {
    this.sheet = state.sheet
    this.selected = state.selected || []
    this.sheets = state.sheets.length
    this.files = state.files ?? 0
    this.stops = (state.stops ?? []).length
    this.kept = JSON.parse(localStorage.getItem(remembered) || '{}')
    byId('export-words').textContent = ''
    const name = this.kept.format || 'pdf'
    const input = one(`[name=format][value="${name}"]`, this.form) || one('[name=format]', this.form)
    input.checked = true
    this.choose(input.value)
    byId('export-dialog').showModal()
    input.focus()
    this.page = 0
    this.show()
  }

  get format() { return one('[name=format]:checked', this.form) }

  // choose puts the choices of a format on the page, as they were made the last time.
  choose(name) {
    const heeded = this.format.dataset.choices.trim().split(' ')
    const kept = this.kept[name] || {}
    byId('export-about').textContent = this.format.closest('label').title
    for (const choice of all('.choice', this.form)) {
      const field = one('[data-name]', choice), its = choice.dataset.choice
      choice.dataset.heeded = heeded.includes(its) ? 'yes' : ''
      const own = choice.dataset.defaults.trim().split(' ').find(d => d.startsWith(`${name}=`))
      let value = kept[its] ?? (own ? own.slice(name.length + 1) : choice.dataset.default)
      if (its === 'what' && value === 'selection' && !this.selected.length) value = 'sheet'
      if (its === 'what' && this.selected.length && kept[its] === undefined && heeded.includes('ids') && !own) value = 'selection'
      if (field.type === 'checkbox') field.checked = value === 'yes'
      else field.value = value
      if (its === 'what') {
        one('[value=selection]', field).disabled = !this.selected.length || !heeded.includes('ids')
        one('[value=map]', field).hidden = this.sheets < 2 && value !== 'map'
      }
    }
    this.kept.format = name
    this.rules()
  }

  // rules shows what matters now: a choice can depend on another one.
  rules() {
    const values = this.values()
    for (const choice of all('.choice', this.form)) {
      const { when, heeded } = choice.dataset
      const depends = when && one(`[data-choice=${when}]`, this.form)
      choice.hidden = !heeded || choice.dataset.choice === 'files' && !this.files || !!depends && depends.hidden || !!when && !choice.dataset.values.split(' ').slice(0, -1).includes(values[when] ?? '') && !(choice.dataset.values.trim() === '' && values[when] === '')
    }
    const selection = values.what === 'selection'
    const area = one('[data-choice=area]', this.form)
    if (selection) area.hidden = true
    const type = this.format.dataset.type
    byId('copy-picture').hidden = !['image/png', 'image/svg+xml', 'text/csv'].includes(type) || this.format.dataset.single === 'true' && values.what === 'map' && this.sheets > 1
    byId('export-print').hidden = type !== 'application/pdf'
  }

  values() {
    const out = {}
    for (const choice of all('.choice', this.form)) {
      if (!choice.dataset.heeded) continue
      const field = one('[data-name]', choice)
      out[choice.dataset.choice] = field.type === 'checkbox' ? (field.checked ? 'yes' : 'no') : field.value
    }
    return out
  }

  remember() {
    this.kept[this.format.value] = this.values()
    delete this.kept[this.format.value].ids
    localStorage.setItem(remembered, JSON.stringify(this.kept))
  }

  body(more = {}) {
    /** @type {Record<string, any>} */
    const values = { ...this.values(), sheet: this.sheet, ...more }
    if (values.what === 'selection') values.ids = this.selected.join(',')
    return new URLSearchParams(values)
  }

  soon() {
    clearTimeout(this.waiting)
    this.waiting = setTimeout(() => { if (this.form.checkValidity()) { this.remember(); this.show() } }, 250)
  }

  flip(by) {
    this.page = Math.min(Math.max(this.page + by, 0), this.pages - 1)
    this.show()
  }

  // show fetches the preview; one that is under way is given up.
  async show() {
    clearTimeout(this.waiting)
    byId('export-words').textContent = '' // which was said of what was chosen before
    if (!this.form.checkValidity()) { this.form.reportValidity(); return }
    this.showing?.abort()
    const showing = this.showing = new AbortController()
    const sight = byId('export-sight')
    sight.classList.add('waiting')
    try {
      await this.saved()
      const body = this.body({ page: this.page })
      const answer = await fetch(`${this.base}/preview/${this.format.value}`, { method: 'POST', body, signal: showing.signal, headers: fromPage({ Accept: 'application/json' }) })
      if (!answer.ok) throw new Error(await answer.text())
      this.pages = Number(answer.headers.get('X-Pages')) || 1
      const type = (answer.headers.get('Content-Type') || '').split(';')[0]
      let shown
      if (type.startsWith('image/')) {
        shown = new Image()
        shown.alt = 'The page as it will come out'
        shown.src = URL.createObjectURL(await answer.blob())
        await shown.decode()
        URL.revokeObjectURL(shown.src)
        shown.classList.toggle('clear', body.get('clear') === 'yes')
      } else if (type === 'text/html') {
        shown = document.createElement('iframe')
        shown.title = 'The page as it will come out'
        shown.sandbox.add()
        shown.src = `${this.base}/preview/${this.format.value}?${body}`
      } else {
        shown = document.createElement('pre')
        shown.textContent = await answer.text()
      }
      sight.replaceChildren(shown)
      byId('export-notes').replaceChildren(...said(answer).map(item))
    } catch (e) {
      if (showing.signal.aborted) return
      sight.replaceChildren()
      this.pages = 1
      byId('export-notes').replaceChildren(item((e instanceof Error && e.message) || 'The server does not answer. Is it still running?'))
    }
    sight.classList.remove('waiting')
    byId('export-page').textContent = this.pages > 1 ? `${this.page + 1} of ${this.pages}` : ''
    for (const id of ['export-before', 'export-next']) byId(id).hidden = this.pages < 2
    byId('export-before').disabled = this.page === 0
    byId('export-next').disabled = this.page === this.pages - 1
  }

  // fetch has the file made; what takes longer than a moment says so and can be stopped.
  async fetch(more = {}) {
    const words = byId('export-words')
    this.making?.abort()
    const making = this.making = new AbortController()
    const slow = setTimeout(() => {
      for (const id of ['export-progress', 'export-stop']) byId(id).hidden = false
      words.textContent = 'Making the file…'
    }, 300)
    try {
      await this.saved()
      const answer = await fetch(`${this.base}/export/${this.format.value}`, { method: 'POST', body: this.body(more), signal: making.signal, headers: fromPage({ Accept: 'application/json' }) })
      if (!answer.ok) throw new Error(await answer.text())
      return { blob: await answer.blob(), name: nameOf(answer), said: said(answer) }
    } catch (e) {
      if (making.signal.aborted) throw new Error('Stopped; nothing was saved.')
      if (e instanceof TypeError) throw new Error('The server does not answer. Is it still running?')
      throw e
    } finally {
      clearTimeout(slow)
      for (const id of ['export-progress', 'export-stop']) byId(id).hidden = true
    }
  }

  async save() {
    const words = byId('export-words')
    if (!this.form.checkValidity()) { this.form.reportValidity(); return }
    try {
      const { blob, name } = await this.fetch()
      const link = document.createElement('a')
      link.href = URL.createObjectURL(blob)
      link.download = name
      link.click()
      setTimeout(() => URL.revokeObjectURL(link.href), 60_000)
      words.textContent = `Saved as ${name}, ${size(blob.size)}, where your browser keeps its downloads.`
    } catch (e) {
      words.textContent = String(e instanceof Error ? e.message : e)
    }
  }

  // copy puts a picture or a table on the clipboard.
  async copy() {
    const words = byId('export-words')
    const type = this.format.dataset.type
    try {
      const made = this.fetch({ inside: 'no' })
      if (type === 'image/png') {
        await navigator.clipboard.write([new ClipboardItem({ 'image/png': made.then(m => m.blob) })])
        words.textContent = 'The picture is on the clipboard.'
      } else if (type === 'image/svg+xml') {
        const text = made.then(async m => new Blob([await m.blob.text()], { type: 'text/plain' }))
        const items = { 'text/plain': text }
        if (window.ClipboardItem.supports?.('image/svg+xml')) items['image/svg+xml'] = made.then(m => m.blob)
        await navigator.clipboard.write([new ClipboardItem(items)])
        words.textContent = 'The picture is on the clipboard, as SVG.'
      } else {
        const rows = made.then(async m => new Blob([tabbed(await m.blob.text())], { type: 'text/plain' }))
        await navigator.clipboard.write([new ClipboardItem({ 'text/plain': rows })])
        words.textContent = 'The table is on the clipboard.'
      }
    } catch (e) {
      words.textContent = `Not copied: ${e instanceof Error ? e.message : e} Save it as a file instead.`
    }
  }

  // beside puts the picture of what was copied on the clipboard beside the copy, so that it can be pasted into a report;
  // where it cannot be made, or something else is copied meanwhile, the copy stays as it is.
  async beside(text, html, sheet, ids) {
    this.picturing?.abort()
    if (!navigator.clipboard?.write || !window.ClipboardItem || !ids.length) return
    const picturing = this.picturing = new AbortController()
    const made = async format => {
      await this.saved()
      const answer = await fetch(`${this.base}/export/${format}`, { method: 'POST', signal: picturing.signal, headers: fromPage({ Accept: 'application/json' }), body: new URLSearchParams({ what: 'selection', sheet, ids: ids.join(','), inside: 'no', ...(format === 'png' ? { scale: '2' } : { letters: 'outlines' }) }) })
      if (!answer.ok) throw new Error(await answer.text())
      const blob = await answer.blob()
      if (picturing.signal.aborted) throw new Error('something else was copied')
      return blob
    }
    const picture = made('png')
    const written = picture.then(async blob => {
      const image = document.createElement('img')
      image.src = await new Promise(done => { const r = new FileReader(); r.onload = () => done(String(r.result)); r.readAsDataURL(blob) })
      image.alt = text
      html.replaceChildren(image)
      return new Blob([html.outerHTML], { type: 'text/html' })
    })
    const items = { 'text/plain': new Blob([text], { type: 'text/plain' }), 'text/html': written, 'image/png': picture }
    if (ClipboardItem.supports?.('image/svg+xml')) items['image/svg+xml'] = made('svg')
    await navigator.clipboard.write([new ClipboardItem(items)]).catch(() => {})
  }

  async print() {
    await this.saved()
    one('#printing')?.remove()
    const frame = document.createElement('iframe')
    frame.id = 'printing'
    frame.title = 'What is printed'
    frame.name = 'printing'
    document.body.append(frame)
    // As a form, since a large selection is more than an address holds.
    const form = document.createElement('form')
    Object.assign(form, { method: 'post', action: `${this.base}/print/${this.format.value}`, target: 'printing', hidden: true })
    for (const [name, value] of [...this.body(), ['token', pageToken()]]) form.append(Object.assign(document.createElement('input'), { name, value }))
    document.body.append(form)
    form.submit()
    form.remove()
  }
}

const item = text => Object.assign(document.createElement('li'), { textContent: text })

function said(answer) {
  const words = answer.headers.get('X-Words')
  return words ? JSON.parse(decodeURIComponent(words)) : []
}

function nameOf(answer) {
  const name = /filename\*=UTF-8''([^;]+)/.exec(answer.headers.get('Content-Disposition') || '')
  return name ? decodeURIComponent(name[1]) : 'map'
}

const size = bytes => bytes < 1000 ? `${bytes} bytes` : bytes < 1e6 ? `${Math.round(bytes / 1000)} KB` : `${(bytes / 1e6).toFixed(1)} MB`

// tabbed turns comma-separated values (RFC 4180) into cells with tabs between, as spreadsheets take them from a clipboard.
function tabbed(text) {
  /** @type {string[][]} */
  const rows = [[]]
  for (const [, quoted, plain, end] of text.replace(/^\ufeff/, '').matchAll(/(?:"((?:[^"]|"")*)"|([^",\r\n]*))(,|\r?\n|$)/g)) {
    rows[rows.length - 1].push((quoted !== undefined ? quoted.replaceAll('""', '"') : plain).replace(/[\t\r\n]+/g, ' '))
    if (end === '') break
    if (end !== ',') rows.push([])
  }
  return rows.filter(row => row.some(cell => cell)).map(row => row.join('\t')).join('\n')
}
