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

  // adopt takes over the picture that came with the page, which is what would be drawn.
  adopt(w, h) {
    for (const layer of ['pools', 'connectors', 'symbols']) {
      for (const node of byId(layer).children) this.nodes.set(node.id.slice(2), node)
    }
    this.page(w, h)
    this.turned = true
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
