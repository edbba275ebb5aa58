// Where a sheet is shown in the room it has. This is a script of its own, and no module, so that the editor's page can run
// it before the drawing arrives: the picture stands where the editor will have it, and the browser lays it out but once.
{
  const legible = 0.75 // the zoom below which text of the usual size is hard to read

  /** Upright paper on a wide screen would be too small to be read: then it is what is drawn that is shown, and where that is
   * too much, its width from the top; unless the whole is asked for. cut says that something is left out.
   * @param {Box} room @param {Box} page @param {Box} drawn @param {boolean} whole
   * @returns {{zoom: number, pan: {x: number, y: number}, cut?: boolean}} */
  const fitting = (room, page, drawn, whole) => {
    const all = (b, most) => {
      const zoom = Math.min(most, room.w / b.w, room.h / b.h)
      return { zoom, pan: { x: room.x + (room.w - b.w * zoom) / 2 - b.x * zoom, y: room.y + Math.max(0, (room.h - b.h * zoom) / 2) - b.y * zoom } }
    }
    const view = all(page, 2)
    if (whole || view.zoom >= legible || page.h <= page.w || !drawn.w) return view
    const near = all(drawn, 1)
    if (near.zoom >= legible) return { ...near, cut: true }
    const zoom = Math.max(view.zoom, Math.min(1, room.w / drawn.w))
    return { zoom, pan: { x: room.x + (room.w - drawn.w * zoom) / 2 - drawn.x * zoom, y: room.y - drawn.y * zoom }, cut: true }
  }

  /** The same on the desk, where the tray lies over the foot. Lengths are in pixels of the sheet, r is the desk's place.
   * @param {DOMRect} r @param {{w: number, h: number}} size of the page @param {Box} drawn @param {boolean} [whole] */
  const onDesk = (r, size, drawn, whole = false) => {
    const x = Math.min(0, drawn.x), y = Math.min(0, drawn.y)
    const extent = { x, y, w: Math.max(size.w, drawn.x + drawn.w) - x, h: Math.max(size.h, drawn.y + drawn.h) - y }
    return fitting({ x: 16, y: 16, w: r.width - 32, h: r.height - 16 - 88 }, extent, drawn, whole)
  }

  /** How the drawing is moved and scaled.
   * @param {{zoom: number, pan: {x: number, y: number}}} view */
  const transform = ({ zoom, pan }) => `translate(${pan.x} ${pan.y}) scale(${zoom})`

  window.plainTracerFitting = { legible, fitting, onDesk, transform }

  // In a small window the side panel lies over the drawing, and is closed at first.
  const book = document.getElementById('book'), opener = document.getElementById('open-book')
  if (book && opener && matchMedia('(max-width: 1023px)').matches) {
    book.hidden = true
    opener.hidden = false
  }

  const desk = document.getElementById('desk')
  if (desk?.dataset.drawn) {
    const [x, y, w, h] = desk.dataset.drawn.split(' ').map(Number), [wide, high] = (desk.dataset.size ?? '').split(' ').map(Number)
    const view = onDesk(desk.getBoundingClientRect(), { w: wide, h: high }, { x, y, w, h })
    desk.style.setProperty('--first', `translate(${view.pan.x}px, ${view.pan.y}px) scale(${view.zoom})`)
    desk.dataset.first = transform(view)
  }
}
