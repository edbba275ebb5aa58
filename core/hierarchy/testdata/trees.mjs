// Writes trees.json: made-up trees as two packages of the npm registry draw them, d3-hierarchy (cards of one size) and
// d3-flextree (cards of any size). Run by hand in a folder in which both are installed:
//
//	npm install d3-hierarchy@3.1.3 d3-flextree@2.1.2 && node trees.mjs > trees.json
import { hierarchy, tree } from 'd3-hierarchy'
import { flextree } from 'd3-flextree'

let seed = 20261130
const random = n => { seed = (seed * 1103515245 + 12345) % 2147483648; return Math.floor(seed / 65536) % n }

// grow returns for each card the place of its superior in the list; of wide trees the first cards have most below them.
const grow = (n, wide) => Array.from({ length: n }, (_, i) => i === 0 ? -1 : Math.min(i - 1, random(wide ? Math.ceil(Math.sqrt(i)) : i)))
const apart = 20, gap = 40
const cases = []
for (const n of [1, 2, 7, 12, 20, 40, 40, 75, 120, 200, 200]) {
  for (const wide of [false, true]) {
    for (const even of [true, false]) {
      const under = grow(n, wide)
      const w = under.map(() => even ? 180 : 60 + random(200)), h = under.map(() => even ? 56 : 30 + random(90))
      const nodes = under.map((_, i) => ({ i, children: [] }))
      under.forEach((p, i) => { if (p >= 0) nodes[p].children.push(nodes[i]) })
      const at = []
      if (even) {
        tree().nodeSize([w[0] + apart, h[0] + gap]).separation(() => 1)(hierarchy(nodes[0])).each(d => { at[d.data.i] = [d.x, d.y] })
      } else {
        const layout = flextree({ nodeSize: d => [w[d.data.i], h[d.data.i] + gap], spacing: () => apart })
        layout(layout.hierarchy(nodes[0])).each(d => { at[d.data.i] = [d.x, d.y] })
      }
      cases.push({ by: even ? 'd3-hierarchy' : 'd3-flextree', under, w, h, x: at.map(p => Math.round(p[0] * 100)), y: at.map(p => Math.round(p[1] * 100)) })
    }
  }
}
console.log('[\n' + cases.map(c => JSON.stringify(c)).join(',\n') + '\n]')
