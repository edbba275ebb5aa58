// Begins at the top of the editor's page what takes longest, so that it goes on while the rest arrives: the core is fetched
// and compiled, and the map is asked for. Until the editor runs, what is done to the page is kept, to be done then.
{
  const { wasm = '', base = '', map = '' } = /** @type {HTMLElement} */ (document.currentScript).dataset
  // On a phone a map is read at first; whoever wants to edit it there says so.
  if (matchMedia('(max-width: 640px) and (pointer: coarse)').matches && !sessionStorage.getItem('edit anyway')) location.replace(`${location.pathname}?reading${location.hash}`)

  // state is all that a window needs to begin: the map, its revision, and a name for the window.
  const state = async () => {
    const answer = await fetch(`${base}/state`, { headers: { Accept: 'application/json' } })
    if (!answer.ok) throw new Error(await answer.text())
    return answer.json()
  }
  const quiet = promise => { promise.catch(() => {}); return promise } // whoever waits for it hears of the fault

  // Where an earlier window has left changes, the map is asked for once these are saved.
  const left = Object.keys(localStorage).some(name => name.startsWith(`pending ${map} `))
  const kept = []
  const keep = e => {
    if (!e.isTrusted) return
    const tool = e.target.closest?.('button[data-command], button[data-take], [x-data] > button')
    if (e.type.startsWith('key')) {
      const free = e.target === document.body || e.target.closest?.('#drawing')
      if (!free || e.key === 'Tab' || e.ctrlKey || e.metaKey || e.altKey) return
      e.preventDefault()
    } else if (e.type === 'click' ? !tool : !e.target.closest?.('#drawing')) return
    if (e.type === 'pointermove' && kept.at(-1)?.e.type === 'pointermove') kept.pop() // only where it came to
    kept.push({ e, tool })
  }
  const kinds = ['pointerdown', 'pointermove', 'pointerup', 'dblclick', 'click', 'keydown']
  for (const kind of kinds) document.addEventListener(kind, keep, true)

  window.plainTracerAhead = {
    core: quiet(WebAssembly.compileStreaming(fetch(wasm))),
    state: left ? undefined : quiet(state()),
    fetchState: state,
    // replay does what was kept, in order, and returns the buttons of menus that were clicked, which open once the menus are
    // there. Letters go into the field that a key has opened, as they would have.
    replay(writing) {
      for (const kind of kinds) document.removeEventListener(kind, keep, true)
      const menus = []
      for (const { e, tool } of kept) {
        const { type, key } = e
        if (tool?.matches('[x-data] > button')) { menus.push(tool); continue }
        if (tool) { tool.click(); continue }
        const done = (type === 'keydown' && !writing.hidden ? writing : e.target).dispatchEvent(new e.constructor(type, e))
        if (done && type === 'keydown' && key.length === 1 && !writing.hidden) {
          writing.setRangeText(key, writing.selectionStart, writing.selectionEnd, 'end')
          writing.dispatchEvent(new Event('input'))
        }
      }
      return menus
    },
  }
}
