// The pages of kept states and of what changed: the slider between old and new, and going from change to change.
import { byId, one, all } from './dom.js'

const slider = byId('slider')
if (slider) {
  const old = one('.over .old')
  const slide = () => { old.style.clipPath = `inset(0 ${100 - slider.value}% 0 0)` }
  slider.addEventListener('input', slide)
  slide()
  let now = -1
  const list = all('#change-list [data-change]')
  const go = n => {
    if (!list.length) return
    now = (n + list.length) % list.length
    const item = list[now]
    if (item.dataset.where && one(`.both-sides [data-sheet="${CSS.escape(item.dataset.where)}"]:not([aria-current])`)) {
      location.assign(`${one(`.both-sides [data-sheet="${CSS.escape(item.dataset.where)}"]`).href}#change-${now}`)
      return
    }
    for (const other of list) other.removeAttribute('aria-current')
    item.setAttribute('aria-current', 'true')
    item.scrollIntoView({ block: 'nearest' })
    for (const mark of all('[data-mark]')) mark.classList.toggle('found', mark.dataset.mark === item.dataset.change)
  }
  list.forEach((item, i) => item.addEventListener('click', () => go(i)))
  document.addEventListener('keydown', e => {
    if (/** @type {any} */ (e.target).matches('input, select, textarea') || e.ctrlKey || e.metaKey) return
    if (e.key === 'n') go(now + 1)
    else if (e.key === 'p') go(now - 1)
    else if (e.key === 'ArrowLeft' || e.key === 'ArrowRight') { slider.value = Number(slider.value) + (e.key === 'ArrowRight' ? 5 : -5); slide() } else return
    e.preventDefault()
  })
  const wanted = location.hash.match(/^#change-(\d+)$/)
  if (wanted) go(Number(wanted[1]))
  byId('copy-words').addEventListener('click', () => {
    const words = [...all('#change-list .said').map(s => `- ${s.textContent.trim()}`), byId('counted')?.textContent || ''].join('\n')
    navigator.clipboard.writeText(words).then(() => { byId('copy-words').lastChild.textContent = 'Copied' })
  })
}
