// Files that are opened as maps: map files, and pictures and documents with a map inside.

import { fromPage } from './dom.js'
import { sendParts } from './files.js'

const sentWhole = 8 << 20 // in bytes: what is larger comes in parts

// What a file that carries a map holds somewhere; whether it can be read the server says.
const signs = [['image/png', 'Plain Tracer map', 'picture'], ['image/svg+xml', 'urn:plaintracer:map', 'picture'], ['application/pdf', '/EmbeddedFile', 'document'], ['application/json', '"plain-tracer-map"', 'map'], ['application/zip', 'map.tracer.json', 'map']]

/** Says whether a file seems to carry a map: 'picture' where it can be set down as one as well, 'document' or 'map' where not.
 * @param {File} file */
export async function carries(file) {
  const type = /\.zip$/i.test(file.name) ? 'application/zip' : file.type || (/\.json$/i.test(file.name) ? 'application/json' : '')
  for (const [kind, sign, what] of signs) {
    if (type === kind && new TextDecoder('latin1').decode(await file.arrayBuffer()).includes(sign)) return what
  }
  return type === 'application/pdf' ? 'document' : ''
}

/** Opens a file as a new map, and goes there. Where the server asks how it is meant, that is shown and the file sent again
 * with what was said. Resolves with the reason where it is refused.
 * @param {File} file @param {string} [folder] where it is to stand @param {FormData} [said] */
export async function openMap(file, folder = '', said = new FormData()) {
  try {
    const answer = await send(file, folder, said)
    if (!answer.ok) return answer.text()
    if (answer.headers.get('Asks')) return ask(file, folder, await answer.text())
    location.assign(answer.url)
    return ''
  } catch (why) {
    if (!(why instanceof TypeError)) return /** @type {Error} */ (why).message
    return 'The server does not answer. Is it still running?'
  }
}

async function send(file, folder, said) {
  const body = new FormData()
  for (const [name, value] of said) body.append(name, value)
  if (folder) body.append('folder', folder)
  if (file.size > sentWhole && /\.zip$/i.test(file.name)) body.append('upload', await sendParts(file, '/uploads'))
  else body.append('file', file)
  return fetch('/maps/open', { method: 'POST', body, headers: fromPage({ Accept: 'application/json' }) })
}

// ask shows a question about a file, anew whenever something in it is chosen. Resolves when it is answered.
function ask(file, folder, question) {
  const dialog = document.createElement('dialog')
  dialog.className = 'people asked'
  dialog.setAttribute('aria-labelledby', 'asked-title')
  dialog.innerHTML = question
  document.body.append(dialog)
  let turn = 0
  dialog.addEventListener('change', async e => {
    const field = /** @type {HTMLElement} */ (e.target), form = field.closest('form')
    if (!form || field.dataset.again === undefined) return
    const said = new FormData(form), mine = ++turn, name = field.getAttribute('name')
    said.append('said', 'look')
    if (field.dataset.again) said.append(field.dataset.again, 'yes')
    const answer = await send(file, folder, said)
    if (mine !== turn) return // something else was chosen meanwhile
    if (!answer.ok) { const words = dialog.querySelector('[role=status]'); if (words) words.textContent = await answer.text(); return }
    dialog.innerHTML = await answer.text()
    const again = dialog.querySelector(`[name="${name}"]`)
    if (again instanceof HTMLElement) again.focus()
  })
  return new Promise(done => {
    dialog.addEventListener('submit', e => {
      const button = e.submitter
      if (!(button instanceof HTMLButtonElement) || !button.name) { done(''); return }
      e.preventDefault()
      const said = new FormData(/** @type {HTMLFormElement} */ (e.target))
      said.append(button.name, button.value)
      button.disabled = true
      openMap(file, folder, said).then(why => {
        if (why) { button.disabled = false; const words = dialog.querySelector('[role=status]'); if (words) words.textContent = why }
        else dialog.close()
        if (!why || !dialog.open) done(why)
      })
    })
    dialog.addEventListener('close', () => { dialog.remove(); done('') })
    dialog.showModal()
  })
}
