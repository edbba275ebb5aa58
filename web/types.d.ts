// What stands on the window beside what browsers put there, for checking the scripts' types.
interface Window {
  Alpine: any
  htmx: any
  Go: any // wasm_exec.js
  plainTracer: any // the core, as cmd/editor offers it
  plainTracerApp: any // the page, for tests
  plainTracerTold: any // how far a worker has come
}
declare function importScripts(...urls: string[]): void
interface Navigator { userAgentData?: { platform: string } }
