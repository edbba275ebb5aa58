// The list of maps: renaming in place, and opening a file with its refusal
// shown beside the button.
import { byId, one, all } from './dom.js'
import { openMap } from './opening.js'
for (const card of all('.card')) {
  const form = one('.rename', card)
  one('[data-rename]', card).addEventListener('click', () => {
    form.hidden = !form.hidden
    if (!form.hidden) one('input', form).select()
  })
  form.addEventListener('keydown', e => { if (e.key === 'Escape') form.hidden = true })
}

const form = one('.open-map')
async function open(file) {
  const words = byId('open-refusal')
  words.hidden = true
  words.textContent = await openMap(file)
  words.hidden = !words.textContent
}
form.addEventListener('submit', e => {
  e.preventDefault()
  open(one('[type=file]', form).files[0])
})
// A file can be dropped anywhere on the page.
document.addEventListener('dragover', e => { e.preventDefault(); form.classList.add('taking') })
document.addEventListener('dragleave', e => { if (!e.relatedTarget) form.classList.remove('taking') })
document.addEventListener('drop', e => {
  e.preventDefault()
  form.classList.remove('taking')
  if (e.dataTransfer.files.length) open(e.dataTransfer.files[0])
})

// Maps that are marked can be exported together.
const marked = byId('export-maps')
const marks = () => {
  const list = all('.pick:checked')
  marked.hidden = !list.length
  byId('marked').textContent = list.length === 1 ? '1 map' : `${list.length} maps`
}
document.addEventListener('change', e => { if (/** @type {any} */ (e.target).matches('.pick')) marks() })
if (marked) marks()

// A flow from top to bottom is drawn on upright paper, unless that was chosen otherwise; a
// plain flowchart has no lanes to name.
const begin = one('.new-map')
begin.addEventListener('change', e => {
  if (e.target.name === 'orientation') begin.dataset.turned = 'by hand'
  if (e.target.name === 'direction' && !begin.dataset.turned) one(`[name=orientation][value=${e.target.value === 'down' ? 'upright' : 'across'}]`, begin).checked = true
  if (e.target.name === 'kind') one('.lanes', begin).hidden = e.target.value !== 'swimlanes'
})
