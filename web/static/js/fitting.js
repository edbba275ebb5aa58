// How much of a sheet "Fit" shows.

// legible is the zoom below which text of the usual size is hard to read.
const legible = 0.75

// fitting returns zoom and pan for what is to be seen, x, y, w, h, in a room of the window. Upright
// paper on a wide screen would be too small to be read: then it is what is drawn, and where that
// is too much, its width from the top; unless the whole is asked for. cut says that it is so.
export function fitting(room, page, drawn, whole) {
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
