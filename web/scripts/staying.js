// What has the focus may be swapped away when a list is made anew: then what stands in its place gets the focus, never
// nothing. What an answer wants to have it says so by autofocus.
import { all } from './dom.js'

const controls = 'a[href], button, input:not([type=hidden]), select, textarea, summary'

/** @param {Element} within @returns {HTMLElement[]} */
const within = within => all(controls, within).filter(e => e.offsetParent && !e.disabled)

export function staying() {
  /** @type {{ at: Element, lists: { list: Element, place: number }[] } | undefined} */
  let last
  document.addEventListener('focusin', e => {
    const at = /** @type {Element} */ (e.target), lists = []
    for (let list = at.parentElement; list && list !== document.body; list = list.parentElement) {
      if (list.matches('[id], ul, ol, form')) lists.push({ list, place: within(list).indexOf(/** @type {HTMLElement} */ (at)) })
    }
    last = { at, lists }
  })
  document.addEventListener('htmx:after:swap', () => {
    if (!last || last.at.isConnected || document.activeElement !== document.body) return
    const found = last.lists.find(({ list }) => list.isConnected && within(list).length)
    if (!found) return
    const next = within(found.list)
    ;(next.find(e => e.autofocus) ?? next[Math.min(found.place, next.length - 1)]).focus()
  })
}
