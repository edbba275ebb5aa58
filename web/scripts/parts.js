// Parts of a page that the server writes: htmx fetches them. On the editor's page it and Alpine, which opens the menus, come
// when the map is there; what is asked of them before waits. Each would go through the whole page to find what is its own,
// Alpine again after every change: a drawing holds thousands of elements, and none of them is theirs.
import { all, byId } from './dom.js'

const bound = window.htmx ? Promise.resolve() : new Promise(done => document.addEventListener('htmx:before:process', e => {
  if (byId('drawing')) {
    e.preventDefault()
    for (const part of all('[hx-get]')) window.htmx.process(part)
  }
  setTimeout(done) // when it is through
}, { once: true }))

/** Has a part of the page fetched again. @param {any} part */
export const refresh = part => bound.then(() => window.htmx.trigger(part, 'refresh'))

/** Fetches a part of the page. @param {string} path @param {string} target where to */
export const fetchPart = (path, target) => bound.then(() => window.htmx.ajax('GET', path, { target, swap: 'innerMorph' }))

/** Sends a form, of which only what it says is taken, and shows the answer in a part of the page.
 * @param {string} path @param {string} target @param {Record<string, any>} values */
export const sendPart = (path, target, values) => bound.then(() => window.htmx.ajax('POST', path, { target, swap: 'innerMorph', values }))

/** Has a part that a script has put onto the page do what its attributes say. @param {any} part */
export const live = part => bound.then(() => window.htmx.process(part))

/** Loads the libraries that the page names, and waits for them. It fails where one does not come. */
export async function libraries() {
  const menus = new Promise(done => document.addEventListener('alpine:initialized', done, { once: true }))
  document.addEventListener('alpine:init', () => {
    window.Alpine.data('drop', () => ({
      open: false,
      toggle() { this.open = !this.open && this.$el.getAttribute('aria-disabled') !== 'true' },
      shut() { this.open = false },
    }))
  })
  await Promise.all(all('link[data-library]').map(link => new Promise((done, fail) => {
    const script = document.createElement('script')
    Object.assign(script, { src: link.href, onload: done, onerror: fail })
    document.head.append(script)
  })))
  await menus
  window.Alpine.stopObservingMutations() // the menus are all there from the start
  await bound
}
