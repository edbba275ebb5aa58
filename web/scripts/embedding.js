// What another page writes to show a map, as it is chosen: which sheet, how wide, in which look and format.
import { one, around } from './dom.js'

const escaped = text => text.replace(/&/g, '&amp;').replace(/</g, '&lt;').replace(/"/g, '&quot;')

document.addEventListener('input', e => {
  const box = around(e, '[data-embedding]')
  if (!box || !around(e, '[data-part]')) return
  const part = name => one(`[data-part=${name}]`, box).value
  const { address, title } = box.dataset
  const [sheet] = one('[data-part=sheet]', box).selectedOptions
  const width = Number(part('width')) || 960, height = Math.round(width * sheet.dataset.h / sheet.dataset.w)
  const asked = new URLSearchParams()
  if (part('sheet')) asked.set('sheet', part('sheet') === 'all' ? 'all' : String(Number(part('sheet')) + 1))
  if (part('look')) asked.set('look', part('look'))
  const framed = asked.toString()
  if (part('format') !== 'svg') asked.set('width', String(width))
  const behind = query => query ? `?${query}` : ''
  const picture = `<img src="${escaped(`${address}/picture.${part('format')}${behind(asked.toString())}`)}" alt="${escaped(title)}" title="${escaped(title)}" width="${width}" height="${height}">`
  one('[data-picture]', box).value = picture
  const frame = one('[data-frame]', box)
  if (frame) frame.value = `<iframe src="${escaped(`${address}/frame${behind(framed)}`)}" title="${escaped(title)}" width="${width}" height="${height + 48}" loading="lazy"><a href="${escaped(address)}">${picture}</a></iframe>`
})
