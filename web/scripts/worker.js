// What runs beside the page: it is given its loader and the address of its code, then tasks, one at a time.
self.plainTracerTold = (done, of) => postMessage({ done: done / of })

async function start(loader, core) {
  const ready = new Promise(done => addEventListener('core-ready', done, { once: true }))
  importScripts(loader)
  const go = new self.Go()
  const { instance } = await WebAssembly.instantiateStreaming(fetch(core), go.importObject)
  go.run(instance)
  return ready
}

let started
addEventListener('message', async ({ data: { loader, core, task } }) => {
  if (loader) {
    started = start(loader, core)
    started.catch(() => {}) // the task hears of it
    return
  }
  try {
    await started
  } catch (e) {
    postMessage({ fault: `what computes it could not be loaded (${e instanceof Error ? e.message : e})` })
    return
  }
  const [answer, fault] = self.plainTracer.work(task)
  postMessage({ answer, fault })
})
