// What every page needs of the document. Elements come as any: which one an id or a selector stands for
// is known by the page, not by the type checker.

/** @param {string} id @returns {any} */
export const byId = id => document.getElementById(id)

/** @param {string} selector @param {any} [within] @returns {any} */
export const one = (selector, within = document) => within.querySelector(selector)

/** @param {string} selector @param {any} [within] @returns {any[]} */
export const all = (selector, within = document) => [...within.querySelectorAll(selector)]

/** The nearest element around an event's target that a selector matches.
 * @param {Event} e @param {string} selector @returns {any} */
export const around = (e, selector) => /** @type {any} */ (e.target).closest?.(selector)

/** What a script sends along so that the server knows it to be of this page.
 * @param {Record<string, string>} [headers] */
export const fromPage = headers => ({ 'X-Page-Token': pageToken(), ...headers })

/** The token of this page, which its forms bring along as well. */
export const pageToken = () => /** @type {any} */ (document.querySelector('meta[name=page-token]'))?.content ?? ''

document.addEventListener('htmx:config:request', e => { Object.assign(/** @type {any} */ (e).detail.ctx.request.headers, fromPage()) })

/** The value that a text of the core holds.
 * @template T @param {JSONOf<T>} text @returns {T} */
export const valueOf = text => JSON.parse(text)

export const svgNS = 'http://www.w3.org/2000/svg'
