// A table that becomes a journey, with what would come of it shown first.
import { byId, valueOf } from './dom.js'
import { readTable } from './people.js'

export class Journey {
  /** @param {any} app */
  constructor(app) {
    this.app = app
    this.dialog = byId('journey-dialog')
    /** @type {string} the table that was read, as JSON */ this.table = ''
    byId('journey-file').addEventListener('change', async e => {
      const [file] = e.target.files
      if (file) this.show(await readTable(app.base, file, file.name))
    })
    byId('journey-text').addEventListener('input', () => this.text())
    byId('journey-form').addEventListener('submit', e => this.take(e))
  }

  open() {
    byId('journey-text').value = byId('journey-file').value = ''
    this.show({ table: '', words: '' })
    this.dialog.showModal()
  }

  text() {
    clearTimeout(this.waiting)
    this.waiting = setTimeout(async () => {
      const text = byId('journey-text').value
      this.show(text.trim() ? await readTable(this.app.base, new Blob([text]), 'pasted.tsv') : { table: '', words: '' })
    }, 200)
  }

  show({ table, words }) {
    this.table = table
    const plan = table ? valueOf(this.app.core.journey(table)) : { refusal: words, notes: [] }
    const count = (n, one, many) => n === 1 ? `1 ${one}` : `${n} ${many}`
    byId('journey-words').textContent = plan.refusal || (table ? `${count(plan.journeys, 'journey', 'journeys')} of ${count(plan.stages, 'stage', 'stages')} and ${count(plan.rows, 'row', 'rows')}, with something in ${count(plan.cells, 'cell', 'cells')}, on a sheet of its own.` : '')
    byId('journey-notes').replaceChildren(...plan.notes.map(text => Object.assign(document.createElement('li'), { textContent: text })))
    byId('journey-take').disabled = !table || !!plan.refusal
  }

  take(e) {
    e.preventDefault()
    const wrong = this.app.core.takeJourney(this.table)
    if (wrong) { byId('journey-words').textContent = wrong; return }
    this.dialog.close()
    this.app.flush()
    this.app.saved()
    this.app.refit()
    this.app.focus()
  }

  // sums offers the fields that the selected row can sum up.
  sums(state) {
    const list = state.sums || []
    const key = JSON.stringify(list)
    byId('sum-field').hidden = !('sum' in state.now)
    if (key === this.listed) return
    this.listed = key
    byId('sum-fields').replaceChildren(new Option(list.length ? '(choose a field)' : 'The map has no field that counts', ''), ...list.map(f => new Option(f.name, f.id)))
    byId('sum-fields').value = state.now.sum || ''
  }
}
