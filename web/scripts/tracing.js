// Where a case is that is traced, and the ways on: in the editor, and on the reader's page, which asks the server for them.
import { byId, one, all, around } from './dom.js'
import { leadsTo } from './files.js'

/** @typedef {{name: string, value: string}} Fact */
/** @typedef {{symbol: string, sheet: string, text: string, kind: string, lane: string, number: string, exits: {answer: string, to: string, via: string, target: string}[] | null, fields?: Fact[] | null, links?: Fact[] | null, sums?: Fact[] | null, handovers?: number, said?: Fact[] | null}} Place */

/** Shows where a case is, after so many steps. The ways on become buttons, on which ways are put by choose.
 * @param {Place} at @param {number} steps @param {(button: any, i: number) => void} choose */
export function showCase(at, steps, choose) {
  byId('case-at').textContent = (at.number ? `${at.number}  ` : '') + at.text
  byId('case-who').textContent = [at.lane, at.kind, steps === 1 ? 'after 1 step' : steps ? `after ${steps} steps` : 'the case begins'].filter(Boolean).join(' · ')
  /** @type {any[]} */
  const exits = (at.exits || []).map((exit, i) => {
    const b = document.createElement('button')
    b.type = 'button'
    if (!i) b.className = 'primary'
    b.textContent = exit.answer ? `${exit.answer}: ${exit.to}` : exit.to
    choose(b, i)
    return b
  })
  if (!exits.length) exits.push('The case ends here.')
  byId('case-exits').replaceChildren(...exits)
  byId('case-facts').replaceChildren(...facts(at, steps))
}

// facts are what stands in the fields of a step, where it leads, and what has come together on the way.
function facts(at, steps) {
  const words = list => (list ?? []).map(f => `${f.name} ${f.value}`)
  const parts = [...words(at.fields).map(text => Object.assign(document.createElement('span'), { textContent: text }))]
  for (const link of at.links ?? []) {
    const a = Object.assign(document.createElement('a'), { textContent: link.name, href: leadsTo(link.value) })
    if (!a.getAttribute('href')?.startsWith('#')) Object.assign(a, { target: '_blank', rel: 'noopener noreferrer' })
    parts.push(a)
  }
  for (const remark of at.said ?? []) parts.push(Object.assign(document.createElement('em'), { textContent: `“${remark.value}” ${remark.name}` }))
  const far = [...words(at.sums), at.handovers ? `${at.handovers} ${at.handovers === 1 ? 'hand-over' : 'hand-overs'}` : ''].filter(Boolean)
  if (steps && far.length) parts.push(Object.assign(document.createElement('strong'), { textContent: `So far: ${far.join(', ')}` }))
  return parts
}

/** Lets a reader trace. show turns to the sheet on which something is, came hears of every place, and of the end.
 * @param {string} base @param {(sheet: string, id: string) => Promise<void>} show @param {(at: Place | null) => void} [came] */
export function tracing(base, show, came) {
  /** @type {{symbol: string, via: string}[]} */
  let way = []
  /** @type {Place | null} */
  let here = null
  const button = byId('trace'), box = byId('case')
  const mark = () => {
    all('#sheet .walked, #sheet .standing').forEach(n => n.classList.remove('walked', 'standing'))
    for (const [i, step] of way.entries()) {
      byId(`n-${step.via}`)?.classList.add('walked')
      byId(`r-${step.via}`)?.classList.add('walked')
      if (i === way.length - 1) byId(`n-${step.symbol}`)?.classList.add('standing')
    }
  }
  const end = () => {
    way = []
    here = null
    box.hidden = true
    button.setAttribute('aria-pressed', 'false')
    mark()
    came?.(null)
  }
  const go = async (symbol, via, back = false) => {
    const come = new URLSearchParams({ at: symbol, way: (back ? way.slice(0, -1) : way).map(step => step.symbol).join(',') })
    const answer = await fetch(`${base}/trace?${come}`)
    if (!answer.ok) {
      end()
      byId('live').textContent = await answer.text()
      return
    }
    here = /** @type {Place} */ (await answer.json())
    if (!back) way.push({ symbol: here.symbol, via })
    box.hidden = false
    button.setAttribute('aria-pressed', 'true')
    showCase(here, way.length - 1, (b, i) => b.addEventListener('click', () => take(i)))
    await show(here.sheet, here.symbol)
    mark()
    came?.(here)
  }
  const take = i => {
    const exit = here?.exits?.[i]
    if (exit) go(exit.target, exit.via)
  }
  const back = () => {
    if (way.length < 2) return
    way.pop()
    go(way[way.length - 1].symbol, '', true)
  }
  button.addEventListener('click', () => here ? end() : go('', ''))
  byId('case-back').addEventListener('click', back)
  byId('case-end').addEventListener('click', end)
  byId('reading').addEventListener('click', e => {
    const id = around(e, '.symbol, .connector')?.id.slice(2)
    const i = here?.exits?.findIndex(x => id && (x.target === id || x.via === id)) ?? -1
    if (i >= 0) take(i)
  })
  document.addEventListener('keydown', e => {
    const at = /** @type {any} */ (e.target)
    if (!here || e.ctrlKey || e.metaKey || e.altKey || at.matches('input, textarea, select, button, a, summary') || one('dialog[open]')) return
    if (e.key === 'Escape') end()
    else if (e.key === 'Enter') take(0)
    else if (e.key === 'Backspace') back()
    else if (/^[1-9]$/.test(e.key)) take(Number(e.key) - 1)
    else return
    e.preventDefault()
  })
  return {
    mark,
    begin: (symbol = '') => go(symbol, ''),
    // reach goes to a step: by the way on that leads there, or as the beginning of a case.
    reach: symbol => {
      const exit = here?.exits?.find(x => x.target === symbol)
      if (!exit) way = []
      return go(symbol, exit?.via ?? '')
    },
    take,
    back,
    end,
    here: () => here,
    on: () => !!here,
    again: () => { if (here) go(here.symbol, '', true) }, // the map has changed
  }
}
