// The list of maps: renaming in place, and opening a file with its refusal
// shown beside the button.
import { byId, one, all } from './dom.js'
for (const card of all('.card')) {
  const form = one('.rename', card)
  one('[data-rename]', card).addEventListener('click', () => {
    form.hidden = !form.hidden
    if (!form.hidden) one('input', form).select()
  })
  form.addEventListener('keydown', e => { if (e.key === 'Escape') form.hidden = true })
}

const form = one('.open-map')
form.addEventListener('submit', async e => {
  e.preventDefault()
  const words = byId('open-refusal')
  words.hidden = true
  try {
    const answer = await fetch(form.action, { method: 'POST', body: new FormData(form), headers: { Accept: 'application/json' } })
    if (answer.ok) { location.assign(answer.url); return }
    words.textContent = await answer.text()
  } catch {
    words.textContent = 'The server does not answer. Is it still running?'
  }
  words.hidden = false
})

// A flow from top to bottom is drawn on upright paper, unless that was chosen otherwise; a
// plain flowchart has no lanes to name.
const begin = one('.new-map')
begin.addEventListener('change', e => {
  if (e.target.name === 'orientation') begin.dataset.turned = 'by hand'
  if (e.target.name === 'direction' && !begin.dataset.turned) one(`[name=orientation][value=${e.target.value === 'down' ? 'upright' : 'across'}]`, begin).checked = true
  if (e.target.name === 'kind') one('.lanes', begin).hidden = e.target.value !== 'swimlanes'
})
