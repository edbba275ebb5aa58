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

/** Has the signs and links that lead to files lead to where they are, once somebody is about to follow one. */
export function openFiles() {
  const lead = e => {
    const a = around(e, 'a[href^="#n-file-"]')
    if (!a) return
    a.setAttribute('href', `${base}/files/${a.getAttribute('href').slice(3)}?look=1`)
    a.setAttribute('target', '_blank')
    a.setAttribute('rel', 'noopener noreferrer')
  }
  for (const kind of ['pointerdown', 'focusin', 'mouseover', 'click']) document.addEventListener(kind, lead, true)
}
