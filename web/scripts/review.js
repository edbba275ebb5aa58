// The pages of kept states and of what changed: the slider between old and new, and going from change to change.
import { byId, one, all } from './dom.js'

const slider = byId('slider')
if (slider) {
  const old = one('.over .old')
  const slide = () => { old.style.clipPath = `inset(0 ${100 - slider.value}% 0 0)` }
  slider.addEventListener('input', slide)
  slide()
  let now = -1
  const list = all('.in-words [data-change]')
  const go = n => {
    if (!list.length) return
    now = (n + list.length) % list.length
    const item = list[now]
    if (item.dataset.where && one(`.both-sides [data-sheet="${CSS.escape(item.dataset.where)}"]:not([aria-current])`)) {
      location.assign(`${one(`.both-sides [data-sheet="${CSS.escape(item.dataset.where)}"]`).href}#change-${now}`)
      return
    }
    for (const other of list) other.removeAttribute('aria-current')
    if (item.closest('#on-page')) byId('on-page').open = true
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
  const copied = (button, text) => navigator.clipboard.writeText(text).then(() => { one('span', button).textContent = 'Copied' })
  byId('copy-words').addEventListener('click', () => copied(byId('copy-words'), all('.in-words .said').map(s => `- ${s.textContent.trim()}`).join('\n')))
  byId('copy-link')?.addEventListener('click', () => copied(byId('copy-link'), location.origin + location.pathname + byId('copy-link').dataset.link))
  byId('print').addEventListener('click', () => print())
  // A day in place of a state: its evening.
  for (const field of all('[data-day]')) {
    field.addEventListener('change', () => {
      const select = one(`select[name=${field.dataset.day}]`)
      if (!field.value) return
      const option = one(`option[value="d${field.value}"]`, select) ?? select.appendChild(new Option(`the evening of ${field.value}`, `d${field.value}`))
      option.selected = true
    })
  }
  const page = byId('on-page'), marks = one('.marks')
  const moved = () => marks.classList.toggle('page-too', !!page?.open)
  page?.addEventListener('toggle', moved)
  moved()
}
