// The core in a worker: it is given its loader and its code, then tasks, one at a
// time.
const ready = new Promise(done => addEventListener('core-ready', done, { once: true }))

self.plainTracerTold = (done, of) => postMessage({ done: done / of })

addEventListener('message', async ({ data: { loader, module, task } }) => {
  if (loader) {
    importScripts(loader)
    const go = new self.Go()
    go.run(await WebAssembly.instantiate(module, go.importObject))
    return
  }
  await ready
  const [answer, fault] = self.plainTracer.work(task)
  postMessage({ answer, fault })
})
