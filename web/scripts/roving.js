// A toolbar, a row of tabs or a list of rows is one stop for Tab: arrows go along it, Home and End to its ends. Which these
// are is marked in the page by data-roving; "down" where they stand below each other.
import { all } from './dom.js'

/** What was reached last in each. @type {WeakMap<Element, HTMLElement>} */
const last = new WeakMap()

const controls = 'button, a[href], summary, input:not([type=hidden]), select'

/** What can be reached in one, in order. @param {Element} group @returns {HTMLElement[]} */
const inside = group => all(controls, group).filter(e => e.closest('[data-roving]') === group && !e.closest('.menu, .all') && !e.disabled)

/** @param {HTMLElement} e */
const seen = e => e.offsetParent !== null && getComputedStyle(e).visibility !== 'hidden'

// settle leaves one stop in each group: what was reached last, else what is chosen, else the first that is seen.
function settle() {
  for (const group of all('[data-roving]')) {
    const list = inside(group), shown = list.filter(seen), before = last.get(group)
    const one = before && shown.includes(before) ? before
      : shown.find(e => e.getAttribute('aria-selected') === 'true' || e.getAttribute('aria-pressed') === 'true' || e.classList.contains('chosen')) ?? shown[0]
    for (const e of list) e.tabIndex = e === one ? 0 : -1
  }
  for (const lead of all('.desk a.lead')) lead.setAttribute('tabindex', '-1') // the drawing is one stop, with keys of its own
}

export function roving() {
  settle()
  // What there is may have changed since: it is settled before the browser looks for the next stop.
  document.addEventListener('keydown', e => { if (e.key === 'Tab') settle() }, true)
  document.addEventListener('focusin', e => {
    const at = /** @type {HTMLElement} */ (e.target), group = at.closest('[data-roving]')
    if (group && inside(group).includes(at)) last.set(group, at)
  })
  document.addEventListener('keydown', e => {
    const at = /** @type {HTMLElement} */ (e.target), group = at.closest?.('[data-roving]')
    if (!group || e.defaultPrevented || e.ctrlKey || e.altKey || e.metaKey || at.matches('input:not([type=checkbox]), select')) return
    const list = inside(group).filter(seen), here = list.indexOf(at), down = group.getAttribute('data-roving') === 'down'
    if (here < 0) return
    const to = { [down ? 'ArrowDown' : 'ArrowRight']: here + 1, [down ? 'ArrowUp' : 'ArrowLeft']: here - 1, Home: 0, End: list.length - 1 }[e.key]
    if (to === undefined) return
    e.preventDefault()
    list.at(down ? Math.min(Math.max(to, 0), list.length - 1) : to % list.length)?.focus()
  })
}
