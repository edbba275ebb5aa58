// What a value would look like shows on the drawing while the pointer rests on it or it has the focus, and goes when that
// leaves it. Which commands can be shown so is the core's to say.
import { around, byId } from './dom.js'

/** How long the pointer rests on a value before it is shown, in ms. */
const rest = 90

export function peeking(app) {
  let shown = false, timer = 0
  /** The menu in which the value stands.
   * @type {Element | null | undefined} */
  let menu = null
  const end = () => {
    clearTimeout(timer)
    if (!shown) return
    shown = false
    menu?.classList.remove('clear')
    app.core.endPeek()
    app.flush()
  }
  const begin = (command, arg) => {
    shown = !!app.core.peek(command, arg)
    app.flush()
    // A menu that lies over what is changed lets it through.
    const r = menu?.getBoundingClientRect(), s = byId('overlay').getBoundingClientRect()
    if (shown && r && s.width + s.height > 0 && r.left < s.right && s.left < r.right && r.top < s.bottom && s.top < r.bottom) menu?.classList.add('clear')
  }
  const valueAt = e => {
    const b = around(e, '.strip [data-command], .looks [data-command], dialog [data-command]')
    return b && b.getAttribute('aria-disabled') !== 'true' ? b : null
  }
  /** @type {Element | null} */
  let over = null
  document.addEventListener('pointerover', e => {
    const b = e.pointerType === 'touch' ? null : valueAt(e)
    if (b === over) return
    over = b
    end()
    if (b) menu = b.closest('.menu')
    if (b instanceof HTMLElement) timer = setTimeout(() => { if (b === over) begin(b.dataset.command ?? '', b.dataset.arg ?? '') }, rest)
  })
  document.addEventListener('pointerleave', () => { over = null; end() })
  document.addEventListener('focusin', e => {
    const b = valueAt(e)
    if (!(b instanceof HTMLElement) || !b.matches(':focus-visible')) { if (!over) end(); return }
    end()
    menu = b.closest('.menu')
    begin(b.dataset.command ?? '', b.dataset.arg ?? '')
  })
  // What is pressed is done, and is no preview any more; so is what Escape leaves.
  document.addEventListener('click', () => { clearTimeout(timer); end() }, true)
  document.addEventListener('keydown', e => { if (e.key === 'Escape') { over = null; end() } }, true)
  document.addEventListener('input', e => {
    const field = e.target
    if (!(field instanceof HTMLInputElement) || !field.matches('.hex, [type=color]')) return
    end()
    menu = null
    if (/^#?([0-9a-f]{3}|[0-9a-f]{6})$/i.test(field.value.trim())) {
      const { set = '', name } = field.dataset
      begin(set, name ? `${name}=${field.value}` : field.value)
    }
  })
  document.addEventListener('focusout', e => { if (e.target instanceof HTMLElement && e.target.matches('.hex, [type=color]')) end() })
}
