// The page of all symbols: what is typed leaves the symbols it finds.
const words = document.getElementById('find-symbol')
words.addEventListener('input', () => {
  const query = words.value.toLowerCase().trim()
  for (const li of document.querySelectorAll('.all-symbols li')) li.hidden = !li.dataset.search.toLowerCase().includes(query)
  for (const section of document.querySelectorAll('main section:not(:first-child)')) section.hidden = !section.querySelector('li:not([hidden])')
})
