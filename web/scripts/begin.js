// Beginning a map: what is chosen at the side follows the starting point, and a file opens as a new map.
import { byId, one, all } from './dom.js'
import { openMap } from './opening.js'

const form = byId('begin-form')
const orientation = name => { one(`[name=orientation][value=${name}]`, form).checked = true }
let turned = false // by hand

form.addEventListener('change', e => {
  const { name, value } = e.target
  if (name === 'orientation') turned = true
  if (name === 'direction') {
    if (!turned) orientation(value === 'down' ? 'upright' : 'across')
    for (const picture of all('[data-picture]', form)) picture.src = `${picture.dataset.picture}?direction=${value}`
  }
  if (name === 'start') show()
})

// show asks only for what the chosen starting point heeds, and proposes its title.
function show() {
  const chosen = one('[name=start]:checked', form), title = one('[name=title]', form)
  one('.lanes.field', form).hidden = chosen.value !== 'swimlanes'
  const own = chosen.value.startsWith('own-')
  byId('of-house').hidden = !own
  for (const field of all('[name=direction], [name=orientation], [name=paper]', form)) field.disabled = own
  title.placeholder = chosen.dataset.title || 'What is the work called?'
}
show()

async function open(file) {
  const words = byId('open-refusal')
  words.hidden = true
  words.textContent = await openMap(file, one('[name=folder]', form).value)
  words.hidden = !words.textContent
}
one('[name=opened]').addEventListener('change', e => { if (e.target.files.length) open(e.target.files[0]) })
document.addEventListener('dragover', e => { e.preventDefault(); document.body.classList.add('taking') })
document.addEventListener('dragleave', e => { if (!e.relatedTarget) document.body.classList.remove('taking') })
document.addEventListener('drop', e => {
  e.preventDefault()
  document.body.classList.remove('taking')
  if (e.dataTransfer?.files.length) open(e.dataTransfer.files[0])
})
form.addEventListener('dblclick', e => { if (e.target.closest('.start-card')) form.requestSubmit(byId('create')) })
