// What can take long is done by the same core in a worker: the page goes on
// answering, shows how far it has come, and can stop it.
import { byId, all } from './dom.js'

export class Work {
  constructor(app, sources) {
    this.app = app
    this.sources = sources
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
    this.worker.postMessage({ loader: this.sources.loader, module: this.sources.module })
  }

  do(task) {
    if (this.busy) this.halt()
    this.wake()
    this.busy = true
    byId('working-done').removeAttribute('value')
    this.showing = setTimeout(() => { byId('working').hidden = false }, 300)
    this.worker.postMessage({ task })
  }

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
    this.worker.terminate()
    this.worker = null
  }

  stop() {
    this.halt()
    this.ended('Stopped. Nothing was changed.')
    this.app.focus()
  }
}
