// The page of all symbols: what is typed leaves the symbols it finds, in the order in which they fit. Finding is the
// server's; lines, which are few, are looked through here.
import { byId, one, all } from './dom.js'
const words = byId('find-symbol'), order = all('.all-symbols li[id]')
let asked = 0

/** @param {Map<string, number>} rank the place of each symbol that is shown */
const show = (rank, query) => {
  for (const li of order) {
    li.hidden = !rank.has(li.id)
    li.style.order = String(rank.get(li.id) ?? 0)
  }
  for (const li of all('.all-symbols li:not([id])')) li.hidden = !li.dataset.search.toLowerCase().includes(query)
  for (const section of all('main section:has(.all-symbols)')) section.hidden = !one('li:not([hidden])', section)
}

words.addEventListener('input', async () => {
  const query = words.value.toLowerCase().trim(), mine = ++asked
  if (!query) { show(new Map(order.map((li, i) => [li.id, i])), ''); return }
  const answer = await fetch(`/symbols?find=${encodeURIComponent(query)}`, { headers: { Accept: 'application/json' } }).catch(() => null)
  const kinds = answer?.ok ? await answer.json() : null
  if (kinds && mine === asked) show(new Map(kinds.map((kind, i) => [kind, i])), query) // nothing else was typed meanwhile
})
