// A table or a list of people that becomes a hierarchy, or renews the one that is shown. What it would do is shown first.
import { byId, one, all, valueOf, fromPage } from './dom.js'

/** Reads a table file through the server. Resolves with the table as JSON, or with why it cannot be read.
 * @param {string} base @param {Blob} file @param {string} name @returns {Promise<{table: string, words: string}>} */
export async function readTable(base, file, name) {
  const form = new FormData()
  form.append('file', file, name)
  const answer = await fetch(`${base}/table`, { method: 'POST', headers: fromPage({ Accept: 'application/json' }), body: form })
  const text = await answer.text()
  return answer.ok ? { table: text, words: '' } : { table: '', words: text }
}

export class People {
  /** @param {any} app */
  constructor(app) {
    this.app = app
    this.dialog = byId('people-dialog')
    /** @type {string} the table that was read, as JSON */ this.table = ''
    byId('people-file').addEventListener('change', e => this.file(e.target))
    byId('people-text').addEventListener('input', () => this.text())
    byId('people-columns').addEventListener('change', () => this.plan(JSON.stringify(all('select', byId('people-columns')).map(s => s.value))))
    byId('people-form').addEventListener('submit', e => this.take(e))
  }

  open() {
    byId('people-text').value = byId('people-file').value = byId('people-pictures').value = ''
    this.show('')
    this.dialog.showModal()
  }

  // acts lists the steps that whoever is on the selected card does; each leads there.
  acts() {
    const list = valueOf(this.app.core.acts())
    byId('acts').replaceChildren(...list.map(a => {
      const li = document.createElement('li')
      const button = Object.assign(document.createElement('button'), { type: 'button', textContent: a.text })
      button.addEventListener('click', () => { byId('acts-dialog').close(); this.app.command('find', a.id) })
      li.append(button)
      return li
    }))
    byId('acts-words').textContent = list.length ? '' : 'No step of this map has a lane or an owner of this name or role.'
    byId('acts-dialog').showModal()
  }

  async file(input) {
    const [file] = input.files
    if (file) this.show(await this.read(file, file.name))
  }

  // text reads what was pasted or typed: a list whose indentation is the level, or a table.
  text() {
    clearTimeout(this.waiting)
    this.waiting = setTimeout(async () => {
      const text = byId('people-text').value
      if (!text.trim()) { this.show(''); return }
      this.show(this.app.core.listTable(text) || await this.read(new Blob([text]), 'pasted.tsv'))
    }, 200)
  }

  async read(file, name) {
    const { table, words } = await readTable(this.app.base, file, name)
    if (!table) this.show('', words)
    return table
  }

  show(table, words) {
    this.table = table
    this.as = ''
    byId('people-columns').replaceChildren()
    if (table) this.plan('')
    else if (words || !byId('people-words').textContent || !byId('people-text').value) {
      byId('people-words').textContent = words || ''
      for (const id of ['people-wrong', 'people-changes']) byId(id).replaceChildren()
      byId('people-take').disabled = true
    }
  }

  // plan shows what the table would do with columns that hold what as says.
  plan(as) {
    this.as = as
    const plan = valueOf(this.app.core.people(this.table, as))
    const columns = byId('people-columns')
    if (!columns.children.length) {
      columns.replaceChildren(...plan.columns.map(c => {
        const select = document.createElement('select')
        select.append(...plan.choices.map(o => new Option(o.name, o.as)))
        select.value = c.as
        const label = Object.assign(document.createElement('label'), { className: 'field' })
        label.append(`${c.title || '(no title)'}${c.sample ? `: ${c.sample}` : ''}`, select)
        return label
      }))
    }
    const item = text => Object.assign(document.createElement('li'), { textContent: text })
    byId('people-wrong').replaceChildren(...[...plan.wrong, ...plan.notes].map(item))
    const lists = [['Come', plan.came], ['Leave', plan.left], ['Move', plan.moved], ['Change', plan.changed]].filter(l => l[1].length)
    byId('people-changes').replaceChildren(...lists.map(([name, list]) => item(`${name}: ${list.slice(0, 12).join('; ')}${list.length > 12 ? `; ${list.length - 12} more` : ''}`)))
    const people = plan.people === 1 ? 'One card' : `${plan.people} cards`
    byId('people-words').textContent = plan.refusal || (plan.onto ? `${people} in the table, for “${plan.onto}”.${lists.length ? ' Cards that stay keep their places.' : ' Nothing is different.'}` : `${people} on a sheet of ${plan.people === 1 ? 'its' : 'their'} own.`)
    byId('people-take').disabled = !!plan.refusal || !!plan.onto && !lists.length
    one('span', byId('people-take')).textContent = plan.onto ? 'Bring up to date' : 'Make the chart'
  }

  async take(e) {
    e.preventDefault()
    const wrongs = []
    for (const file of byId('people-pictures').files) wrongs.push(this.app.core.portrait(file.name, new Uint8Array(await file.arrayBuffer())))
    const wrong = this.app.core.takePeople(this.table, this.as)
    if (wrong) { byId('people-words').textContent = wrong; return }
    this.dialog.close()
    if (wrongs.some(Boolean)) this.app.bars.say(wrongs.filter(Boolean).join('; '))
    this.app.flush()
    this.app.saved()
    this.app.refit()
    this.app.focus()
  }
}
