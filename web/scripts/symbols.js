// The page of all symbols: what is typed leaves the symbols it finds.
import { byId, one, all } from './dom.js'
const words = byId('find-symbol')
words.addEventListener('input', () => {
  const query = words.value.toLowerCase().trim()
  for (const li of all('.all-symbols li')) li.hidden = !li.dataset.search.toLowerCase().includes(query)
  for (const section of all('main section:has(.all-symbols)')) section.hidden = !one('li:not([hidden])', section)
})
