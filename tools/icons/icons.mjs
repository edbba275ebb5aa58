// Gathers the Lucide icons the pages use into one sprite. Run by "make icons"
// after npm ci in web/.
import { readFileSync, writeFileSync } from 'node:fs'

const names = `arrow-left arrow-left-right undo-2 redo-2 pencil-line bold palette square-dashed highlighter
align-start-vertical align-center-vertical align-end-vertical align-start-horizontal align-center-horizontal align-end-horizontal
align-horizontal-distribute-center align-vertical-distribute-center bring-to-front send-to-back rows-3 replace list-ordered
plus zoom-in zoom-out maximize share-2 download search x circle-check cloud-off users ellipsis trash-2 copy file-input file-output
book-open triangle-alert chevron-down chevron-up chevron-left chevron-right rotate-ccw keyboard image link spline layers command footprints
panel-left-close panel-left-open shapes type italic underline list scaling move-horizontal move-vertical shrink route git-fork tag move-right minus
between-vertical-start list-tree group ungroup lock pipette paintbrush swatch-book ruler unfold-horizontal clipboard-paste clipboard-copy text-search eraser remove-formatting grid-3x3 log-in arrow-up arrow-down workflow file-text globe scroll-text table printer pin pin-off user folder folder-plus folder-input log-out mail layout-grid user-plus message-square flag history check eye-off lock-open table-2 arrow-down-up filter columns-3 arrow-up-down paperclip presentation network`.split(/\s+/)
const out = names.map(name => {
  const svg = readFileSync(`web/node_modules/lucide-static/icons/${name}.svg`, 'utf8')
  const inner = svg.replace(/^[\s\S]*?<svg[^>]*>/, '').replace(/<\/svg>[\s\S]*$/, '').replace(/\s+/g, ' ').trim()
  return `<symbol id="${name}" viewBox="0 0 24 24" fill="none" stroke="currentColor" stroke-width="2" stroke-linecap="round" stroke-linejoin="round">${inner}</symbol>`
})
writeFileSync('web/views/icons.svg', `<svg xmlns="http://www.w3.org/2000/svg">\n${out.join('\n')}\n</svg>\n`)
