// What stands on the window beside what browsers put there, for checking the scripts' types.
interface Window {
  Alpine: any
  htmx: any
  Go: any // wasm_exec.js
  plainTracer: any // the core, as cmd/editor offers it
  plainTracerApp: any // the page, for tests
  plainTracerFitting: any // fitting.js
  plainTracerAhead: any // ahead.js
  plainTracerTold: any // how far a worker has come
}
interface Box { x: number, y: number, w: number, h: number }
declare function importScripts(...urls: string[]): void
interface Navigator { userAgentData?: { platform: string } }
