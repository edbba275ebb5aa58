// Carries edits to the server and back. What is not yet acknowledged is kept
// in the browser's storage, so that a closed tab or a broken connection loses
// nothing.
export class Sync {
  constructor(map, core, changed) {
    this.map = map
    this.core = core
    this.changed = changed
    this.pending = [] // {window, seq, edit}, in order
    this.connected = false
    this.waits = 500
    this.key = `pending ${map}`
  }

  // left returns the edits an earlier window could not deliver.
  left() {
    const found = []
    for (const name of Object.keys(localStorage)) {
      if (name.startsWith(this.key + ' ')) {
        try { found.push(...JSON.parse(localStorage.getItem(name))) } catch { localStorage.removeItem(name) }
      }
    }
    return found
  }

  // deliver sends what an earlier window left behind and forgets it; it
  // resolves when the server has taken or refused each of them.
  async deliver() {
    const left = this.left()
    if (!left.length) return 0
    await new Promise((done, failed) => {
      const socket = new WebSocket(this.address(Number.MAX_SAFE_INTEGER))
      let open = left.length
      socket.onopen = () => left.forEach(p => socket.send(JSON.stringify({ kind: 'edit', ...p })))
      socket.onmessage = m => {
        const { kind } = JSON.parse(m.data)
        if (kind === 'saved' || kind === 'refused') open--
        if (open === 0) { socket.close(); done() }
      }
      socket.onerror = failed
    })
    for (const name of Object.keys(localStorage)) if (name.startsWith(this.key + ' ')) localStorage.removeItem(name)
    return left.length
  }

  address(after) {
    return `${location.protocol === 'https:' ? 'wss' : 'ws'}://${location.host}/maps/${this.map}/socket?after=${after}`
  }

  begin(window, revision) {
    this.window = window
    this.revision = revision
    this.connect()
  }

  connect() {
    const socket = new WebSocket(this.address(this.revision))
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
          this.stale?.()
        }
        return
      case 'caught-up':
        this.connected = true
        this.waits = 500
        this.pending.forEach(p => this.put(p))
        break
      case 'edit':
        if (m.revision <= this.revision) return
        this.revision = m.revision
        if (m.window === this.window) this.done(m.seq, m.revision)
        else {
          const fault = this.core.foreign(JSON.stringify(m.edit), m.revision)
          if (fault) { this.over = true; this.socket.close(); this.apart?.(fault) }
        }
        this.moved?.()
        break
      case 'saved':
        if (m.window === this.window) this.done(m.seq, this.revision)
        break
      case 'refused':
        this.pending = this.pending.filter(p => p.seq !== m.seq)
        this.keep()
        this.core.refused(m.seq, m.why)
        break
      case 'trouble':
        this.socket.close()
        break
      case 'ended':
        this.over = true
        this.socket.close()
        this.ended?.(m.why)
        return
      case 'here':
        this.here?.(m.editors || 0, m.readers || 0)
        return
    }
    this.changed()
  }

  done(seq, revision) {
    this.pending = this.pending.filter(p => p.seq > seq)
    this.keep()
    this.core.confirm(seq, revision)
  }

  send(list) {
    for (const { seq, edit } of list) {
      const p = { window: this.window, seq, edit }
      this.pending.push(p)
      if (this.connected) this.put(p)
    }
    this.keep()
  }

  put(p) {
    if (this.socket.readyState === WebSocket.OPEN) this.socket.send(JSON.stringify({ kind: 'edit', ...p }))
  }

  keep() {
    const name = `${this.key} ${this.window}`
    if (this.pending.length) localStorage.setItem(name, JSON.stringify(this.pending))
    else localStorage.removeItem(name)
  }
}
