// What Alpine and htmx do in the editor's page. Each would go through the whole page to find what is its own, Alpine again
// after every change; a drawing holds thousands of elements, and none of them is theirs.
import { all } from './dom.js'

document.addEventListener('alpine:init', () => {
  window.Alpine.data('drop', () => ({
    open: false,
    toggle() { this.open = !this.open && this.$el.getAttribute('aria-disabled') !== 'true' },
    shut() { this.open = false },
  }))
})

// The menus are all there from the start.
document.addEventListener('alpine:initialized', () => window.Alpine.stopObservingMutations())

document.addEventListener('htmx:before:process', e => {
  if (e.target !== document.body) return
  e.preventDefault()
  for (const part of all('[hx-get]')) window.htmx.process(part)
})
