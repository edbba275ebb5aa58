// Pan and zoom of a drawing in its part of the window, the same for the editor and for readers.

const leastZoom = 0.1, mostZoom = 8

export class Viewport {
  /** @param {() => DOMRect} area where the drawing is shown, on the screen
   * @param {() => void} show called after every change */
  constructor(area, show) {
    this.area = area
    this.show = show
    this.zoom = 1
    this.pan = { x: 0, y: 0 }
    this.fitted = false // whether what is seen is what fit chose
    this.cut = false // whether fit left something out, to be read
    this.whole = false // whether fit was asked for everything
  }

  /** The point of the drawing, in its pixels, at a point of the screen.
   * @param {{clientX: number, clientY: number}} e */
  at(e) {
    const r = this.area()
    return { x: (e.clientX - r.left - this.pan.x) / this.zoom, y: (e.clientY - r.top - this.pan.y) / this.zoom }
  }

  /** @param {number} x @param {number} y where the drawing's origin comes to lie */
  panTo(x, y) {
    this.pan = { x, y }
    this.fitted = false
    this.show()
  }

  panBy(x, y) { this.panTo(this.pan.x + x, this.pan.y + y) }

  /** Zooms about a point of the screen, or about the middle.
   * @param {number} factor
   * @param {{clientX: number, clientY: number}} [e] */
  zoomAt(factor, e) {
    const r = this.area()
    const x = e ? e.clientX - r.left : r.width / 2, y = e ? e.clientY - r.top : r.height / 2
    const zoom = Math.min(mostZoom, Math.max(leastZoom, this.zoom * factor))
    const pan = { x: x - (x - this.pan.x) * zoom / this.zoom, y: y - (y - this.pan.y) * zoom / this.zoom }
    this.zoom = zoom
    this.panTo(pan.x, pan.y)
  }

  /** What a turn of the wheel asks for: the factor to zoom by, or the way to pan.
   * @param {WheelEvent} e */
  static wheel(e) {
    if (e.ctrlKey || e.metaKey) return { factor: Math.exp(-e.deltaY / 300) }
    return e.shiftKey ? { x: -e.deltaY, y: 0 } : { x: -e.deltaX, y: -e.deltaY }
  }

  /** The part of the drawing that is seen: x, y, width and height in its pixels. */
  seen() {
    const r = this.area()
    return [-this.pan.x / this.zoom, -this.pan.y / this.zoom, r.width / this.zoom, r.height / this.zoom]
  }

  /** Shows a part of the drawing as large as it can be. @param {number[]} box as seen gives it */
  showPart([x, y, w, h]) {
    const r = this.area()
    const zoom = this.zoom = Math.min(mostZoom, Math.max(leastZoom, Math.min(r.width / w, r.height / h)))
    this.panTo(r.width / 2 - (x + w / 2) * zoom, r.height / 2 - (y + h / 2) * zoom)
  }

  /** Shows what is drawn as fitting.js has it.
   * @param {{zoom: number, pan: {x: number, y: number}, cut?: boolean}} view @param {boolean} [whole] */
  fit({ zoom, pan, cut = false }, whole = false) {
    this.zoom = zoom
    this.panTo(pan.x, pan.y)
    Object.assign(this, { fitted: true, cut, whole })
  }
}
