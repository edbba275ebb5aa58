// Draws what the core says has changed. Nodes are found by id; the sheet is
// never replaced while it is edited.
import { byId, svgNS } from './dom.js'

// One element at a time is parsed from the core's markup.
function parse(markup) {
  const holder = document.createElementNS(svgNS, 'g')
  holder.innerHTML = markup
  return holder.firstChild
}

export class Drawing {
  constructor() {
    this.nodes = new Map()
    this.size = { w: 0, h: 0 }
  }

  patch(list) {
    for (const op of list) this[op[0]](...op.slice(1))
  }

  all(w, h) {
    for (const layer of ['ground', 'pools', 'connectors', 'symbols']) byId(layer).replaceChildren()
    this.nodes.clear()
    this.page(w, h)
    this.turned = true
  }

  page(w, h) {
    this.size = { w, h }
    byId('page').setAttribute('width', w)
    byId('page').setAttribute('height', h)
    byId('grid').setAttribute('width', w)
    byId('grid').setAttribute('height', h)
  }

  // drawn is the box of the symbols and pools.
  drawn() {
    const boxes = ['pools', 'symbols'].map(layer => byId(layer).getBBox()).filter(b => b.width)
    if (!boxes.length) return { x: 0, y: 0, w: 0, h: 0 }
    const x = Math.min(...boxes.map(b => b.x)), y = Math.min(...boxes.map(b => b.y))
    return { x, y, w: Math.max(...boxes.map(b => b.x + b.width)) - x, h: Math.max(...boxes.map(b => b.y + b.height)) - y }
  }

  // extent is the page together with what stands beyond its edges.
  extent() {
    const b = this.drawn(), x = Math.min(0, b.x), y = Math.min(0, b.y)
    return { x, y, w: Math.max(this.size.w, b.x + b.w) - x, h: Math.max(this.size.h, b.y + b.h) - y }
  }

  ground(markup) { byId('ground').innerHTML = markup }

  add(layer, id, markup) {
    const node = parse(markup)
    this.nodes.set(id, node)
    byId(layer).append(node)
  }

  to(id, x, y) {
    this.nodes.get(id)?.setAttribute('transform', `translate(${x} ${y})`)
  }

  set(id, markup) {
    const node = this.nodes.get(id)
    if (node) node.innerHTML = markup
  }

  paths(id, ...paths) {
    const node = this.nodes.get(id)
    if (node) paths.forEach((path, i) => node.children[i].setAttribute('d', path))
  }

  drop(id) {
    this.nodes.get(id)?.remove()
    this.nodes.delete(id)
  }

  order(layer, ids) {
    byId(layer).append(...ids.map(id => this.nodes.get(id)).filter(Boolean))
  }
}
