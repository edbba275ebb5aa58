// A text that is being written is kept in the browser as it grows, so that a closed tab, a
// reload or the way back does not lose it. The next window on the map offers it again.
const prefix = map => `draft ${map} `

export class Drafts {
  constructor(map) {
    this.map = map
    this.name = prefix(map) + Math.random().toString(36).slice(2)
    // Held as long as this page lives: what others keep meanwhile is not offered.
    navigator.locks?.request(this.name, () => new Promise(() => {}))
  }

  keep(draft) { localStorage.setItem(this.name, JSON.stringify({ ...draft, at: Date.now() })) }

  drop() { localStorage.removeItem(this.name) }

  // left returns the latest text that a page which has gone left behind, and forgets the rest.
  async left() {
    const held = new Set((await navigator.locks?.query())?.held?.map(l => l.name))
    const found = []
    for (const name of Object.keys(localStorage)) {
      if (!name.startsWith(prefix(this.map)) || held.has(name)) continue
      try { found.push({ name, ...JSON.parse(localStorage.getItem(name) ?? '') }) } catch { localStorage.removeItem(name) }
    }
    return found.sort((a, b) => b.at - a.at)
  }

  forget(draft) { localStorage.removeItem(draft.name) }
}
