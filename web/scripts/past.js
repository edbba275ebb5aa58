// What a window leaves to the page that takes its place when it is loaded again: its name, and what it can undo. It lies with
// the tab, and goes with it.
export class Past {
  /** @param {string} map */
  constructor(map) { this.key = `plain tracer past ${map}` }

  /** @param {string} name @param {string} secret @param {string} past what the core says */
  keep(name, secret, past) {
    try {
      if (past) sessionStorage.setItem(this.key, JSON.stringify({ name, secret, past }))
    } catch { sessionStorage.removeItem(this.key) } // no room
  }

  /** What the page before this one left, if this is that page loaded again and no other one goes on as it, such as a copy of
   * the tab. @returns {Promise<{name: string, secret: string, past: string} | null>} */
  async take() {
    const kept = sessionStorage.getItem(this.key), [entry] = performance.getEntriesByType('navigation')
    sessionStorage.removeItem(this.key)
    if (!kept || !navigator.locks || /** @type {any} */ (entry)?.type !== 'reload') return null
    const left = JSON.parse(kept)
    for (let tries = 0; tries < 6; tries++) { // the page before may still be on its way out
      if (await this.hold(left.name)) return left
      await new Promise(done => setTimeout(done, 50))
    }
    return null
  }

  /** Holds the name of a window as long as this page lives; false where another one does. @param {string} name */
  async hold(name) {
    return new Promise(resolve => {
      if (!navigator.locks) { resolve(false); return }
      navigator.locks.request(`window ${name}`, { ifAvailable: true }, lock => {
        resolve(!!lock)
        return lock ? new Promise(() => {}) : undefined
      }).catch(() => resolve(false))
    })
  }
}
