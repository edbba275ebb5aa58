// Keys of a single letter, digit or sign do nothing for whoever has switched them off (WCAG 2.2, 2.1.4): on the page of
// their account, or, where they have none, on the page itself. What is written into fields is not touched. This is a
// script of its own, and no module, so that it hears of a key before all others.
{
  const name = 'plain tracer letters'
  let off = document.currentScript instanceof HTMLScriptElement && 'off' in document.currentScript.dataset || localStorage.getItem(name) === 'off'
  window.addEventListener('keydown', e => {
    if (!off || e.key.length !== 1 || e.key === ' ' || e.ctrlKey || e.metaKey || e.altKey || e.isComposing) return
    if (e.target instanceof Element && e.target.closest('input, textarea, select, [contenteditable]')) return
    e.stopImmediatePropagation()
  }, true)
  document.addEventListener('DOMContentLoaded', () => {
    const box = document.getElementById('letters')
    if (!(box instanceof HTMLInputElement)) return
    box.checked = !off
    box.addEventListener('change', () => {
      off = !box.checked
      localStorage.setItem(name, off ? 'off' : 'on')
    })
  })
}
