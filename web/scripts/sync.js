// Carries edits to the server and back. What is not yet acknowledged is kept
// in the browser's storage, so that a closed tab or a broken connection loses
// nothing.
const tries = 3, patience = 5000 // how often, and how long in ms, an earlier window's edits are offered

export class Sync {
  constructor(map, base, core, changed) {
    this.map = map
    this.base = base
    this.core = core
    this.changed = changed
    this.pending = [] // {seq, edit}, in order
    this.sent = -Infinity // when the latest was sent
    /** @type {WebSocket} */
    this.socket = /** @type {any} */ (undefined) // once it connects
    this.connected = false
    this.waits = 500
    this.key = `pending ${map}`
    // What the page does when something is heard; it sets these.
    /** Where another window points. @type {(where: any) => void} */
    this.points = () => {}
    /** What somebody shows in a meeting. @type {(what: {name?: string, stop?: string, at?: string}) => void} */
    this.shows = () => {}
    /** @type {(editors: any, readers: number, who: string[]) => void} */
    this.here = () => {}
    this.moved = () => {}
    this.stale = () => {}
    /** @type {(fault: string) => void} */
    this.apart = () => {}
    /** @type {(why: string) => void} */
    this.ended = () => {}
    /** @type {(window: string, item: string) => void} */
    this.writes = () => {}
    /** Somebody said something of the map. */
    this.said = () => {}
    /** Somebody writes in the conversation. @type {(name: string) => void} */
    this.talks = () => {}
    /** What somebody else did. @type {(window: string, words: string) => void} */
    this.did = () => {}
    /** Who of the organisation is here. @type {(who: string[]) => void} */
    this.present = () => {}
    /** @type {(why: string) => void} */
    this.slow = () => {}
  }

  // left returns what earlier windows could not deliver, by the name under which it is kept.
  left() {
    const found = []
    for (const name of Object.keys(localStorage)) {
      if (!name.startsWith(this.key + ' ')) continue
      try {
        const kept = JSON.parse(localStorage.getItem(name) ?? '')
        // Earlier builds kept the edits alone, of windows that had no secret.
        found.push(Array.isArray(kept) ? { name, edits: kept } : { name, ...kept })
      } catch { localStorage.removeItem(name) }
    }
    return found
  }

  // deliver offers what earlier windows left behind. It resolves in a bounded time with how
  // many edits were saved, the reasons for those refused, and how many wait for another time.
  async deliver(newWindow) {
    const sum = { saved: 0, refused: [], waiting: 0 }
    for (const { name, window, secret, edits } of this.left()) {
      const who = window && secret ? { window, secret } : await newWindow()
      let open = edits
      for (let n = 0; n < tries && open.length; n++) {
        open = await this.offer(who, open, sum)
        if (open.length) localStorage.setItem(name, JSON.stringify({ ...who, edits: open }))
      }
      if (!open.length) localStorage.removeItem(name)
      sum.waiting += open.length
    }
    return sum
  }

  // offer sends edits of an earlier window and returns those that were not answered.
  offer(who, edits, sum) {
    return new Promise(done => {
      const socket = new WebSocket(this.address())
      const open = new Map(edits.map(p => [p.seq, p]))
      let timer
      const wait = () => { clearTimeout(timer); timer = setTimeout(() => socket.close(), patience) }
      wait()
      socket.onmessage = m => {
        const { kind, seq, why } = JSON.parse(m.data)
        if (kind === 'hello') socket.send(JSON.stringify({ kind: 'window', ...who, after: -1 }))
        if (kind === 'caught-up') edits.forEach(({ seq, edit }) => socket.send(JSON.stringify({ kind: 'edit', seq, edit })))
        if ((kind === 'saved' || kind === 'refused') && open.delete(seq)) {
          wait()
          if (kind === 'saved') sum.saved++
          else sum.refused.push(why)
        }
        if (kind === 'trouble' || kind === 'ended' || open.size === 0) socket.close()
      }
      socket.onclose = () => { clearTimeout(timer); done([...open.values()]) }
    })
  }

  address() {
    return `${location.protocol === 'https:' ? 'wss' : 'ws'}://${location.host}${this.base}/socket`
  }

  begin(window, secret, revision) {
    this.window = window
    this.secret = secret
    this.revision = revision
    this.connect()
  }

  connect() {
    const socket = new WebSocket(this.address())
    this.socket = socket
    socket.onmessage = m => this.receive(JSON.parse(m.data))
    socket.onclose = () => {
      if (this.over) return
      this.connected = false
      this.changed()
      setTimeout(() => this.connect(), this.waits)
      this.waits = Math.min(this.waits * 2, 5000)
    }
  }

  receive(m) {
    switch (m.kind) {
      case 'hello':
        if (m.build !== this.core.build) {
          this.over = true
          this.socket.close()
          this.stale()
        } else this.socket.send(JSON.stringify({ kind: 'window', window: this.window, secret: this.secret, after: this.revision }))
        return
      case 'fresh': { // too much was missed to be told one by one
        const held = m.seq || 0 // the last of our own edits that is in it
        this.pending = this.pending.filter(p => p.seq > held)
        this.keep()
        const fault = this.core.fresh(JSON.stringify(m.map), m.revision, held)
        if (fault) { this.over = true; this.socket.close(); this.apart(fault); return }
        this.revision = m.revision
        this.moved()
        break
      }
      case 'caught-up':
        this.connected = true
        if (!this.trouble) this.waits = 500
        this.pending.forEach(p => this.put(p))
        if (!this.pending.length) this.trouble = ''
        break
      case 'edit':
        if (m.revision <= this.revision) return
        this.revision = m.revision
        if (m.window === this.window) this.done(m.seq, m.revision)
        else {
          const [fault, words] = this.core.foreign(JSON.stringify(m.edit), m.revision)
          this.did(m.window, words)
          if (fault) { this.over = true; this.socket.close(); this.apart(fault) }
        }
        this.moved()
        break
      case 'saved':
        if (m.window === this.window) this.done(m.seq, this.revision)
        break
      case 'refused':
        this.pending = this.pending.filter(p => p.seq !== m.seq)
        this.keep()
        this.core.refused(m.seq || 0, m.why)
        break
      case 'trouble': // the edits are offered again after a while
        this.trouble = m.why
        this.socket.close()
        break
      case 'writing':
        this.writes(m.window, m.item || '')
        return
      case 'pointing':
        this.points(m)
        return
      case 'showing':
        this.shows(m)
        return
      case 'remarked':
        this.said()
        return
      case 'talking':
        this.talks(m.name)
        return
      case 'slow':
        this.slow(m.why)
        return
      case 'ended':
        this.over = true
        this.socket.close()
        this.ended(m.why)
        return
      case 'here':
        this.here(m.editors || 0, m.readers || 0, m.who || [])
        return
    }
    this.changed()
  }

  done(seq, revision) {
    this.trouble = ''
    this.waits = 500
    this.pending = this.pending.filter(p => p.seq > seq)
    this.keep()
    this.core.confirm(seq, revision)
  }

  send(list) {
    for (const { seq, edit } of list) {
      const p = { seq, edit }
      this.pending.push(p)
      if (this.connected) this.put(p)
    }
    this.keep()
  }

  // writing tells the other windows what is being written on here.
  writing(item) {
    if (this.connected && this.socket.readyState === WebSocket.OPEN) this.socket.send(JSON.stringify({ kind: 'writing', item }))
  }

  // pointing tells the other windows where this one points, and what is selected in it.
  pointing(where) {
    if (this.connected && this.socket.readyState === WebSocket.OPEN) this.socket.send(JSON.stringify({ kind: 'pointing', ...where }))
  }

  put(p) {
    this.sent = performance.now()
    if (this.socket.readyState === WebSocket.OPEN) this.socket.send(JSON.stringify({ kind: 'edit', ...p }))
  }

  // settled resolves once the server has every edit, or after a while in which it did not take them.
  settled() {
    return new Promise(/** @param {(value?: any) => void} done */ done => {
      const begun = performance.now()
      const look = () => this.pending.length && performance.now() - begun < 3000 ? setTimeout(look, 20) : done()
      look()
    })
  }

  keep() {
    const name = `${this.key} ${this.window}`
    if (this.pending.length) localStorage.setItem(name, JSON.stringify({ window: this.window, secret: this.secret, edits: this.pending }))
    else localStorage.removeItem(name)
  }
}
