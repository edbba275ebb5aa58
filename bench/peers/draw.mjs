// Draws graphs with two general-purpose layout libraries: reads a JSON list of
// graphs ({nodes: [[w, h]], edges: [[from, to]]}) from standard input and writes
// for each, by the name of the library, {nodes: [[x, y, w, h]], edges: [points], ms},
// the time being the median of several runs after warming up.
import { readFileSync } from 'node:fs'
import ELK from 'elkjs'
import dagre from '@dagrejs/dagre'

const gap = 40
const elk = new ELK()
const options = {
  'elk.algorithm': 'layered', 'elk.direction': 'RIGHT', 'elk.edgeRouting': 'ORTHOGONAL',
  'elk.spacing.nodeNode': `${gap}`, 'elk.layered.spacing.nodeNodeBetweenLayers': `${gap}`,
}

const libraries = {
  'elkjs layered': {
    given: g => ({
      id: 'root', layoutOptions: options,
      children: g.nodes.map(([width, height], i) => ({ id: `n${i}`, width, height })),
      edges: g.edges.map(([from, to], i) => ({ id: `e${i}`, sources: [`n${from}`], targets: [`n${to}`] })),
    }),
    run: given => elk.layout(given),
    drawing: out => ({
      nodes: out.children.map(n => [n.x, n.y, n.width, n.height]),
      edges: out.edges.map(e => e.sections.flatMap(s => [s.startPoint, ...(s.bendPoints ?? []), s.endPoint]).map(p => [p.x, p.y])),
    }),
  },
  dagre: {
    given: g => {
      const graph = new dagre.graphlib.Graph({ multigraph: true })
      graph.setGraph({ rankdir: 'LR', nodesep: gap, ranksep: gap })
      graph.setDefaultEdgeLabel(() => ({}))
      g.nodes.forEach(([width, height], i) => graph.setNode(`n${i}`, { width, height }))
      g.edges.forEach(([from, to], i) => graph.setEdge(`n${from}`, `n${to}`, {}, `e${i}`))
      graph.sizes = g
      return graph
    },
    run: graph => { dagre.layout(graph); return graph },
    drawing: graph => ({
      nodes: graph.sizes.nodes.map((_, i) => { const n = graph.node(`n${i}`); return [n.x - n.width / 2, n.y - n.height / 2, n.width, n.height] }),
      edges: graph.sizes.edges.map(([from, to], i) => graph.edge(`n${from}`, `n${to}`, `e${i}`).points.map(p => [p.x, p.y])),
    }),
  },
}

const graphs = JSON.parse(readFileSync(0))
const out = {}
for (const [name, library] of Object.entries(libraries)) {
  for (let i = 0; i < 5; i++) for (const g of graphs.slice(0, 5)) await library.run(library.given(g))
  out[name] = []
  for (const g of graphs) {
    const times = []
    let drawn
    for (let i = 0; i < 5; i++) {
      const given = library.given(g)
      const begun = performance.now()
      drawn = await library.run(given)
      times.push(performance.now() - begun)
    }
    times.sort((a, b) => a - b)
    out[name].push({ ...library.drawing(drawn), ms: times[2] })
  }
}
process.stdout.write(JSON.stringify(out))
