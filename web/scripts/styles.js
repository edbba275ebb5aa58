// Find and replace, looks, saved styles and the organisation's colours: what the page
// shows of them. The core does the finding and the changing.
import { byId, one, all, fromPage } from './dom.js'
import { showFaces } from './faces.js'


export class Styles {
  constructor(app) {
    this.app = app
    this.openFinder = () => {}
    this.finder()
    byId('looks-shut').addEventListener('click', () => this.shutLooks())
    byId('looks').addEventListener('keydown', e => { if (e.key === 'Escape') this.shutLooks() })
    byId('save-style').addEventListener('click', () => { this.app.command('style-save', byId('style-save').value); byId('style-save').value = '' })
    byId('style-save').addEventListener('keydown', e => { if (e.key === 'Enter') { e.preventDefault(); byId('save-style').click() } })
    byId('add-font').addEventListener('click', () => byId('font-file').click())
    byId('font-file').addEventListener('change', async e => {
      const files = [...e.target.files]
      e.target.value = ''
      for (const file of files) await this.font(file)
    })
    byId('set-house').addEventListener('click', () => { this.app.command('house', byId('house').value); byId('house-dialog').close() })
  }

  finder() {
    const bar = byId('finder'), field = byId('find-text'), by = byId('replace-text')
    const shut = () => { bar.hidden = true; this.app.command('search', ''); this.app.focus() }
    this.openFinder = () => { bar.hidden = false; field.focus(); field.select() }
    field.addEventListener('input', () => this.app.command('search', field.value))
    bar.addEventListener('submit', e => e.preventDefault())
    bar.addEventListener('keydown', e => {
      if (e.key === 'Escape') { e.preventDefault(); shut() }
      if (e.key === 'Enter' && e.target === field) { e.preventDefault(); this.app.command(e.shiftKey ? 'find-previous' : 'find-next') }
      if (e.key === 'Enter' && e.target === by) { e.preventDefault(); this.app.command('replace', by.value) }
      if (e.key === 'F3') { e.preventDefault(); this.app.command(e.shiftKey ? 'find-previous' : 'find-next') }
      e.stopPropagation()
    })
    byId('find-shut').addEventListener('click', shut)
    byId('replace-one').addEventListener('click', () => this.app.command('replace', by.value))
    byId('replace-all').addEventListener('click', () => this.app.command('replace-all', by.value))
  }

  openLooks() {
    byId('finder').hidden = true
    byId('looks').hidden = false
    this.app.resized()
    one('.look[aria-pressed=true]', byId('looks'))?.focus()
  }

  shutLooks() {
    byId('looks').hidden = true
    this.app.resized()
    if (this.app.bars.state.proposal) this.app.command('leave')
    this.app.focus()
  }

  openHouse() {
    byId('house').value = (this.app.bars.state.colours || []).map(c => `${c.name} ${c.value}`).join('\n')
    byId('house-dialog').showModal()
  }

  // font writes the map in a font file, once the server has unpacked and checked
  // it.
  async font(file) {
    const words = byId('font-refusal')
    words.textContent = ''
    try {
      const answer = await fetch(`${this.app.base}/fonts`, { method: 'POST', body: file, headers: fromPage({ Accept: 'application/json' }) })
      const text = await answer.text()
      if (!answer.ok) throw new Error(text)
      const f = JSON.parse(text)
      const bytes = Uint8Array.from(atob(f.data), c => c.charCodeAt(0))
      await new FontFace('House Face', bytes).load().catch(() => { throw new Error('The browser cannot show this font.') })
      this.app.core.font(text, byId('font-single').checked)
      this.app.flush()
    } catch (e) {
      words.textContent = `${file.name} is not used. ${e instanceof Error ? e.message : e}`
    }
  }

  // faces lists the fonts of the organisation and has the drawing shown in them.
  faces(list, cuts) {
    const key = JSON.stringify(cuts)
    if (key === this.facesShown) return
    this.facesShown = key
    showFaces(cuts, async id => this.app.core.face(id)).catch(e => this.app.bars.say(`A font of the house style cannot be shown: ${e.message}`))
    byId('faces-words').hidden = list.some(f => !f.single)
    byId('faces').replaceChildren(...list.map(f => {
      const li = document.createElement('li'), b = document.createElement('button')
      b.type = 'button'
      b.dataset.command = 'font-drop'
      b.dataset.arg = f.id
      b.textContent = 'Take off'
      b.setAttribute('aria-label', `Take off ${f.family}, ${f.cut}`)
      li.append(`${f.family}, ${f.cut}${f.single ? ', for single texts' : ''}`, b)
      return li
    }))
  }

  // typefaces lists those that a single text may be set in.
  typefaces(list, now) {
    const key = JSON.stringify(list), group = byId('text-faces')
    if (key === this.typefacesShown) return
    this.typefacesShown = key
    group.hidden = !list.length
    for (const old of all('button', group)) old.remove()
    group.append(...list.map(f => {
      const b = Object.assign(document.createElement('button'), { type: 'button', textContent: f.title })
      Object.assign(b.dataset, { command: 'text', arg: `face=${f.value}`, value: f.value })
      b.setAttribute('aria-pressed', String(f.value === (now ?? '')))
      return b
    }))
  }

  // show brings all of it up to date with the state of the core.
  show(state) {
    this.palette(state.palette)
    for (const unit of all('[data-unit]')) unit.textContent = state.units
    this.swatches(state.colours || [])
    this.faces(state.faces, state.cuts)
    this.typefaces(state.typefaces, state.now.face)
    byId('proposal').hidden = !state.proposal
    byId('tray').hidden = !!state.trace || !!state.proposal
    if (byId('proposal-words').textContent !== state.proposal) byId('proposal-words').textContent = state.proposal
    byId('proposal-other').hidden = !state.other
    byId('proposal-other').textContent = state.other
    byId('proposal-longer').hidden = !state.longer
    for (const b of all('.look')) b.setAttribute('aria-pressed', b.dataset.look === (state.trying || state.look) ? 'true' : 'false')
    const grid = state.on.grid ? 'on' : 'off'
    if (grid !== this.grid) localStorage.setItem('plain tracer grid', this.grid = grid)
    byId('grid').classList.toggle('off', !state.on.grid)
    if (byId('spoken').textContent !== state.spoken) byId('spoken').textContent = state.spoken
    const s = state.search
    byId('find-count').textContent = !s ? '' : !s.found ? 'nowhere' : s.at ? `${s.at} of ${s.found}${state.sheets.length > 1 && s.where ? ' · ' + s.where : ''}` : `${s.found} found`
    const styles = JSON.stringify([state.styles, state.now.style])
    if (styles !== this.shown) { this.shown = styles; this.list(state) }
  }

  // palette gives the swatches the colours of the look. They are set where they are shown, since a colour set on the whole page
  // has the browser style all of the drawing anew.
  palette(colours) {
    const key = JSON.stringify(colours)
    if (key === this.colours) return
    this.colours = key
    for (const row of all('[data-swatches]')) {
      for (const [name, colour] of Object.entries(colours)) row.style.setProperty(`--${name}`, colour)
    }
  }

  // swatches puts the organisation's colours behind those of the palette.
  swatches(colours) {
    const key = JSON.stringify(colours)
    if (key === this.house) return
    this.house = key
    for (const row of all('[data-swatches]')) {
      for (const old of all('.own', row)) old.remove()
      for (const c of colours) {
        const b = document.createElement('button'), chip = document.createElement('span')
        b.type = 'button'
        b.className = 'own'
        if (row.dataset.swatches === 'accent') b.dataset.accent = 'colour' // those of the marked words are no command
        else b.dataset.command = row.dataset.swatches
        b.dataset.arg = row.dataset.prefix + c.value
        b.setAttribute('aria-label', c.name)
        chip.className = 'swatch'
        chip.style.background = c.value
        b.append(chip)
        row.append(b)
      }
    }
  }

  list(state) {
    const button = (text, command, arg, pressed) => {
      const b = document.createElement('button')
      b.type = 'button'
      b.dataset.command = command
      b.dataset.arg = arg
      b.textContent = text
      if (pressed) b.setAttribute('aria-pressed', 'true')
      return b
    }
    const worn = y => {
      const chip = document.createElement('span')
      chip.className = 'worn'
      chip.textContent = y.wears === 1 ? '1 wears it' : `${y.wears} wear it`
      Object.assign(chip.style, { background: y.fill, borderColor: y.line, color: y.text })
      return chip
    }
    byId('style-list').replaceChildren(...state.styles.map(y => button(y.name, 'style-wear', y.id, state.now.style === y.id)))
    byId('styles').replaceChildren(...state.styles.map(y => {
      const li = document.createElement('li'), name = document.createElement('input')
      name.value = y.name
      name.setAttribute('aria-label', 'Name of the style')
      name.addEventListener('change', () => this.app.command('style-name', `${y.id}=${name.value}`))
      li.append(worn(y), name, button('Give', 'style-wear', y.id), button('Make it like the selected', 'style-change', y.id), button('Remove', 'style-remove', y.id))
      return li
    }))
  }
}
