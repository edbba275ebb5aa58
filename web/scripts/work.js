// What can take long is done beside the page, which goes on answering, shows how far it has come, and can stop it. The
// server does it several times faster than a browser; where it cannot be reached, or has too much to do, a worker does.
import { byId, all, fromPage } from './dom.js'

export class Work {
  constructor(app, sources) {
    this.app = app
    this.sources = sources
    // The worker's code is fetched while nothing happens, so that it is there when the server is not.
    setTimeout(() => fetch(sources.core).catch(() => {}), 10_000)
    byId('working-stop').addEventListener('click', () => this.stop())
    // A tool that will need the worker wakes it when it is reached for.
    for (const tool of all('[data-command="lay-out"]')) {
      for (const event of ['pointerenter', 'focus']) tool.addEventListener(event, () => this.wake())
    }
  }

  wake() {
    if (this.worker) return
    this.worker = new Worker(this.sources.worker)
    this.worker.onmessage = ({ data }) => this.heard(data)
    this.worker.onerror = e => this.ended(`It could not be done: ${e.message || 'the worker did not start'}.`)
    this.worker.postMessage({ loader: this.sources.loader, core: this.sources.core })
  }

  async do(task) {
    if (this.busy) this.halt()
    this.busy = true
    byId('working-done').removeAttribute('value')
    this.showing = setTimeout(() => { byId('working').hidden = false }, 300)
    const asked = this.asked = new AbortController()
    try {
      const answer = await fetch(`${this.app.base}/work`, { method: 'POST', body: task, signal: asked.signal, headers: fromPage({ 'Content-Type': 'application/json' }) })
      if (answer.ok) {
        const edit = await answer.text()
        if (this.asked === asked) this.heard({ answer: edit })
        return
      }
    } catch {} // by the worker then
    if (asked.signal.aborted || this.asked !== asked) return
    this.wake()
    this.worker?.postMessage({ task })
  }

  /** @param {{done?: number, answer?: string, fault?: string}} told */
  heard({ done, answer, fault }) {
    if (!this.busy) return
    if (done !== undefined) {
      byId('working-done').value = done
      return
    }
    this.ended(fault && `Not done: ${fault}.`)
    if (fault) return
    this.app.core.worked(answer)
    this.app.flush()
    if (this.app.bars.state.proposal) this.app.fit() // all of it is to be judged
  }

  // ended puts things back as they were before the work began.
  ended(words) {
    clearTimeout(this.showing)
    byId('working').hidden = true
    this.busy = false
    if (words) this.app.bars.say(words)
  }

  halt() {
    this.asked?.abort()
    this.worker?.terminate()
    this.worker = null
  }

  stop() {
    this.halt()
    this.ended('Stopped. Nothing was changed.')
    this.app.focus()
  }
}
