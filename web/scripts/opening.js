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

/** Opens a file as a new map, and goes there. Resolves with the reason where it is refused.
 * @param {File} file @param {string} [folder] where it is to stand */
export async function openMap(file, folder = '') {
  const body = new FormData()
  if (folder) body.append('folder', folder)
  try {
    if (file.size > sentWhole && /\.zip$/i.test(file.name)) body.append('upload', await sendParts(file, '/uploads'))
    else body.append('file', file)
    const answer = await fetch('/maps/open', { method: 'POST', body, headers: fromPage({ Accept: 'application/json' }) })
    if (!answer.ok) return answer.text()
    location.assign(answer.url)
    return ''
  } catch (why) {
    if (!(why instanceof TypeError)) return /** @type {Error} */ (why).message
    return 'The server does not answer. Is it still running?'
  }
}
