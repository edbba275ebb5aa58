// The page of help: what is typed leaves the chapters that have all of its words.
import { byId, all } from './dom.js'
const sought = byId('help-search')
sought.addEventListener('input', () => {
  const words = sought.value.toLowerCase().split(/\s+/).filter(Boolean)
  let found = 0
  for (const chapter of all('.chapters section')) {
    const has = words.every(w => chapter.dataset.search.toLowerCase().includes(w))
    chapter.hidden = !has
    for (const entry of all(`[data-chapter="${chapter.id}"]`)) entry.hidden = !has
    if (has) found++
  }
  byId('help-none').hidden = found > 0
})
