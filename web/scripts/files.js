// Files kept with a map: sending them, and opening them.
import { around, fromPage } from './dom.js'

const base = document.body.dataset.base ?? ''

/** Keeps a file with the map. Resolves with what an edit says of it.
 * @param {File} file @param {(share: number) => void} far @returns {Promise<any>} */
export const send = (file, far) => inParts(file, `${base}/files`, far)

/** Sends a file to an address, and resolves with the name under which it waits there.
 * @param {File} file @param {string} to @returns {Promise<string>} */
export const sendParts = (file, to) => inParts(file, to)

// inParts sends a file so that one whose connection drops goes on where it was. It ends when the answer is more than how
// much has come, or when all has.
async function inParts(file, to, far = share => {}) {
  const ask = async (address, body, headers = {}) => {
    const answer = await fetch(address, { method: 'POST', body, headers: fromPage(headers) })
    if (!answer.ok) throw new Error(await answer.text())
    return answer.json()
  }
  const form = new FormData()
  form.append('name', file.name)
  form.append('size', String(file.size))
  const { upload, part } = await ask(to, form)
  for (let at = 0, dropped = 0; ;) {
    try {
      const answer = await ask(`${to}/${upload}?at=${at}`, file.slice(at, at + part), { 'Content-Type': 'application/octet-stream' })
      if (answer.come === undefined) return answer
      at = answer.come
      dropped = 0
      far(at / file.size)
      if (at === file.size) return upload
    } catch (why) {
      if (!(why instanceof TypeError) || ++dropped > 4) throw why // what is no refusal of the server's is tried again
      await new Promise(done => setTimeout(done, 500 * 2 ** dropped))
    }
  }
}

/** Where something leads that stands on the map, on a page of it. @param {string} to */
export const leadsTo = to => to.startsWith('map:') ? `#map-${to.slice(4)}` : to.replace(/^#/, '#n-')

/** The other maps of the organisation that this person may read. @returns {Promise<{id: string, title: string, edit?: boolean}[]>} */
export async function otherMaps() {
  const answer = await fetch(`${base}/maps`).catch(() => null)
  return answer?.ok ? answer.json() : []
}

/** Has the signs and links that lead to files and other maps lead to where they are, once somebody is about to follow one,
 * and be called as the map is now. */
export function openFiles() {
  /** @type {Promise<{id: string, title: string, edit?: boolean}[]> | undefined} */
  let maps
  const called = async (a, id) => {
    maps ??= otherMaps()
    const title = (await maps).find(m => m.id === id)?.title ?? 'A map that is not there, or not for you'
    const told = a.querySelector('title')
    if (told) told.textContent = title
    else a.title = title
  }
  const lead = e => {
    const a = around(e, 'a[href^="#n-file-"], a[href^="#map-"]')
    if (!a) return
    const to = a.getAttribute('href')
    if (to.startsWith('#map-')) called(a, to.slice(5))
    a.setAttribute('href', to.startsWith('#map-') ? `${base}/map/${to.slice(5)}` : `${base}/files/${to.slice(3)}?look=1`)
    a.setAttribute('target', '_blank')
    a.setAttribute('rel', 'noopener noreferrer')
  }
  for (const kind of ['pointerdown', 'focusin', 'mouseover', 'click']) document.addEventListener(kind, lead, true)
}
