// The list of maps: renaming in place, and opening a file with its refusal
// shown beside the button.
for (const card of document.querySelectorAll('.card')) {
  const form = card.querySelector('.rename')
  card.querySelector('[data-rename]').addEventListener('click', () => {
    form.hidden = !form.hidden
    if (!form.hidden) form.querySelector('input').select()
  })
  form.addEventListener('keydown', e => { if (e.key === 'Escape') form.hidden = true })
}

const open = document.querySelector('.open-map')
open.addEventListener('submit', async e => {
  e.preventDefault()
  const words = document.getElementById('open-refusal')
  words.hidden = true
  try {
    const answer = await fetch(open.action, { method: 'POST', body: new FormData(open), headers: { Accept: 'application/json' } })
    if (answer.ok) { location.assign(answer.url); return }
    words.textContent = await answer.text()
  } catch {
    words.textContent = 'The server does not answer. Is it still running?'
  }
  words.hidden = false
})

// A flow from top to bottom is drawn on upright paper, unless that was chosen otherwise; a
// plain flowchart has no lanes to name.
const begin = document.querySelector('.new-map')
begin.addEventListener('change', e => {
  if (e.target.name === 'orientation') begin.dataset.turned = 'by hand'
  if (e.target.name === 'direction' && !begin.dataset.turned) begin.querySelector(`[name=orientation][value=${e.target.value === 'down' ? 'upright' : 'across'}]`).checked = true
  if (e.target.name === 'kind') begin.querySelector('.lanes').hidden = e.target.value !== 'swimlanes'
})
