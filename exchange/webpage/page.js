// What the page does beyond being read: drawings that are moved and enlarged, and a search.
for (const part of document.querySelectorAll('main > section')) {
  const frame = part.querySelector('.sheet'), picture = frame && frame.querySelector('svg'), tools = part.querySelector('.tools')
  if (!picture || matchMedia('(pointer: coarse)').matches) continue // fingers move and enlarge the page itself
  const w = Number(frame.dataset.w), h = Number(frame.dataset.h)
  let x = 0, y = 0, scale = 1
  frame.classList.add('free')
  tools.hidden = false
  const show = () => { picture.style.transform = `translate(${x}px, ${y}px) scale(${scale})` }
  const fit = () => {
    frame.style.height = `${Math.min(innerHeight * 0.75, frame.clientWidth * h / w + 4)}px`
    scale = Math.min(frame.clientWidth / w, frame.clientHeight / h, 1)
    x = (frame.clientWidth - w * scale) / 2
    y = (frame.clientHeight - h * scale) / 2
    show()
  }
  const zoom = (by, at) => {
    const to = Math.min(Math.max(scale * by, 0.05), 8)
    x = at.x - (at.x - x) * to / scale
    y = at.y - (at.y - y) * to / scale
    scale = to
    show()
  }
  picture.setAttribute('width', w)
  picture.setAttribute('height', h)
  fit()
  addEventListener('resize', fit)
  tools.addEventListener('click', e => {
    const by = e.target.dataset.zoom
    if (by === '0') fit()
    else if (by) zoom(Number(by), { x: frame.clientWidth / 2, y: frame.clientHeight / 2 })
  })
  frame.addEventListener('wheel', e => {
    if (!e.ctrlKey && !e.metaKey) return
    e.preventDefault()
    const box = frame.getBoundingClientRect()
    zoom(Math.exp(-e.deltaY / 300), { x: e.clientX - box.x, y: e.clientY - box.y })
  }, { passive: false })
  let from = null
  frame.addEventListener('pointerdown', e => { if (e.button === 0 && !e.target.closest('a')) { from = { x: e.clientX - x, y: e.clientY - y }; frame.setPointerCapture(e.pointerId) } })
  frame.addEventListener('pointermove', e => { if (from) { x = e.clientX - from.x; y = e.clientY - from.y; show() } })
  frame.addEventListener('pointerup', () => { from = null })
  // A link to something on the drawing brings it to the middle.
  const reach = () => {
    const id = decodeURIComponent(location.hash.slice(1)), node = id.startsWith('n-') && document.getElementById(id)
    if (!node || !picture.contains(node)) return
    scale = Math.max(scale, Math.min(1, frame.clientWidth / w * 2))
    show()
    const box = node.getBoundingClientRect(), own = frame.getBoundingClientRect()
    x += own.x + own.width / 2 - box.x - box.width / 2
    y += own.y + own.height / 2 - box.y - box.height / 2
    show()
    frame.scrollIntoView({ block: 'center' })
  }
  addEventListener('hashchange', reach)
  reach()
}
const find = document.getElementById('find')
if (find) {
  document.getElementById('search').hidden = false
  const said = document.getElementById('found')
  let at = -1 // of those found, where Enter has led
  find.addEventListener('input', () => {
    const words = find.value.trim().toLowerCase()
    at = -1
    let rows = 0, signs = 0
    for (const row of document.querySelectorAll('#register tbody tr')) {
      const hit = words !== '' && row.textContent.toLowerCase().includes(words)
      row.classList.toggle('found', hit)
      row.hidden = words !== '' && !hit
      if (hit) rows++
    }
    for (const node of document.querySelectorAll('.sheet g[id]')) {
      const hit = words !== '' && node.textContent.toLowerCase().includes(words)
      node.classList.toggle('found', hit)
      if (hit) signs++
    }
    const count = document.querySelector('#register') ? rows || signs : signs
    said.textContent = words === '' ? '' : !rows && !signs ? 'nothing found' : `${count} found`
  })
  find.addEventListener('keydown', e => {
    if (e.key !== 'Enter') return
    const all = document.querySelectorAll('.sheet g.found')
    if (!all.length) return
    at = (at + 1) % all.length
    location.hash = all[at].id
    if (document.querySelector('#register')) said.textContent = `${at + 1} of ${all.length}`
  })
}
