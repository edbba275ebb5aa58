// The list of maps: marked, moved by dragging and by keys, renamed in place; and the dialogs of the page.
import { byId, one, all, around, fromPage } from './dom.js'
import { openMap } from './opening.js'
import './embedding.js'

/** Sends a form as a script, and goes where the answer leads. Resolves with the reason where it is refused.
 * @param {string} address @param {FormData | URLSearchParams} body */
async function send(address, body) {
  try {
    const answer = await fetch(address, { method: 'POST', body, headers: fromPage({ Accept: 'application/json' }) })
    if (!answer.ok) return answer.text()
    location.assign(answer.redirected ? answer.url : location.href)
    return ''
  } catch {
    return 'The server does not answer. Is it still running?'
  }
}

/** Says why something was not done: in the form it was sent from, or over the list.
 * @param {string} words @param {any} [form] */
function refuse(words, form) {
  const place = form && one('.refusal', form) || byId('refusal')
  place.textContent = words
  place.hidden = !words
  if (words && place === byId('refusal')) place.scrollIntoView({ block: 'nearest' })
}

// Maps that are moved to the bin are named afterwards, with a way back; the focus goes to the next one.
const binned = 'plain tracer binned'

/** @param {any[]} cards */
async function bin(cards) {
  const list = all('.card'), after = list.slice(list.indexOf(cards[cards.length - 1]) + 1), before = list.slice(0, list.indexOf(cards[0])).reverse()
  const next = [...after, ...before].find(card => !cards.includes(card))
  sessionStorage.setItem(binned, JSON.stringify({ maps: cards.map(c => ({ id: c.dataset.id, title: c.dataset.title })), next: next?.dataset.id }))
  const refusal = await send('/maps/delete', new URLSearchParams([['back', location.pathname + location.search], ...cards.map(c => ['id', c.dataset.id])]))
  if (refusal) sessionStorage.removeItem(binned)
  refuse(refusal)
}

async function bringBack(maps) {
  for (const { id, title } of maps) {
    const answer = await fetch(`/maps/${id}/restore`, { method: 'POST', headers: fromPage({ Accept: 'application/json' }) }).catch(() => null)
    if (!answer?.ok) { refuse(`“${title}” was not brought back. It is in the bin.`); return }
  }
  sessionStorage.setItem(binned, JSON.stringify({ maps: [], next: maps[0].id }))
  location.reload()
}

function showBinned() {
  const { maps, next } = JSON.parse(sessionStorage.getItem(binned) || '{"maps":[]}')
  sessionStorage.removeItem(binned)
  const card = next && all('.card').find(c => c.dataset.id === next)
  if (card) one('h2 a', card).focus()
  if (!maps.length) return
  const line = byId('binned'), undo = Object.assign(document.createElement('button'), { type: 'button', textContent: 'Undo' })
  undo.addEventListener('click', () => bringBack(maps))
  line.replaceChildren(maps.length === 1 ? `“${maps[0].title}” is in the bin, and nobody can open it there. ` : `${maps.length} maps are in the bin, and nobody can open them there. `, undo)
  line.hidden = false
}

document.addEventListener('submit', async e => {
  const form = /** @type {any} */ (e.target)
  const away = /** @type {any} */ (e).submitter?.matches('[formaction="/maps/delete"]') ? marks() : /^\/maps\/\w+\/delete$/.test(form.getAttribute('action')) ? [form.closest('.card')] : []
  if (away.length) { e.preventDefault(); bin(away); return }
  const button = /** @type {any} */ (e).submitter
  if (!form.hasAttribute('data-told') && !button?.hasAttribute('data-told')) return
  e.preventDefault()
  const body = new URLSearchParams(/** @type {any} */ (new FormData(form)))
  refuse(await send(button?.getAttribute('formaction') || form.getAttribute('action'), body), form)
})

// The dialogs of the page, and the menus that open in place.
document.addEventListener('click', e => {
  for (const open of all('details.more[open]')) if (!open.contains(e.target)) open.open = false
  const button = around(e, '[data-dialog], [data-shut], [data-rename], [data-move], [data-share], [data-start], [data-copy]')
  if (!button) return
  const { dialog, share, links, what, start } = button.dataset
  const card = button.closest('.card')
  button.closest('details')?.removeAttribute('open')
  if (button.hasAttribute('data-shut')) button.closest('dialog').close()
  if (dialog) dialog === 'maps-move' ? move(marks()) : open(byId(dialog))
  if (button.hasAttribute('data-rename')) rename(card)
  if (button.hasAttribute('data-move')) move([card])
  if (start) {
    one('form', byId('start-dialog')).action = `/maps/${start}/start`
    open(byId('start-dialog'))
  }
  if (share) {
    byId('share-what').textContent = `Share ${what}`
    for (const part of ['shares', 'links']) byId(part).replaceChildren()
    byId('links').hidden = !links
    byId('share-dialog').showModal()
    window.htmx.ajax('GET', share, '#shares')
    if (links) window.htmx.ajax('GET', links, '#links')
  }
  if (button.hasAttribute('data-copy')) navigator.clipboard.writeText(one('input', button.parentElement).value).then(() => { button.lastChild.textContent = 'Copied' }, () => one('input', button.parentElement).select())
})
document.addEventListener('keydown', e => { if (e.key === 'Escape') for (const menu of all('details.more[open]')) { menu.open = false; one('summary', menu).focus() } })

// Enter on a choice in a dialog does what its button does.
document.addEventListener('keydown', e => {
  if (e.key === 'Enter' && around(e, 'dialog select')) { e.preventDefault(); around(e, 'form').requestSubmit() }
})

/** @param {any} dialog */
function open(dialog) {
  const refusal = one('.refusal', dialog)
  if (refusal) refusal.hidden = true
  dialog.showModal()
  one('input:not([type=hidden]), select', dialog)?.focus()
  one('input[name=name]', dialog)?.select()
}

/** @param {any} card */
function rename(card) {
  const form = card && one('.rename', card)
  if (!form) return
  form.hidden = !form.hidden
  card.classList.toggle('renaming', !form.hidden)
  if (!form.hidden) one('input[name=title]', form).select()
}
document.addEventListener('keydown', e => {
  const form = around(e, '.rename')
  if (form && e.key === 'Escape') { rename(form.closest('.card')); one('h2 a', form.closest('.card')).focus() }
})

// Maps that are marked are moved, pinned, put away and exported together.
const marks = () => all('.pick:checked').map(box => box.closest('.card'))
function showMarks() {
  const n = marks().length
  byId('marked-bar').hidden = !n
  byId('marked').textContent = n === 1 ? '1 map is selected' : `${n} maps are selected`
  for (const card of all('.card')) card.classList.toggle('is-marked', one('.pick', card).checked)
}
document.addEventListener('change', e => {
  const field = /** @type {any} */ (e.target)
  if (field.matches('.pick')) showMarks()
  if (field.id === 'sort') location.assign(field.value)
})
byId('unmark').addEventListener('click', () => { all('.pick').forEach(box => { box.checked = false }); showMarks() })
showMarks() // a browser may bring marks back
showBinned()

/** Asks where to move maps.
 * @param {any[]} cards */
function move(cards) {
  if (!cards.length) return
  byId('moving').textContent = cards.length === 1 ? `“${cards[0].dataset.title}”` : `${cards.length} maps`
  byId('moving-ids').replaceChildren(...cards.map(card => Object.assign(document.createElement('input'), { type: 'hidden', name: 'id', value: card.dataset.id })))
  open(byId('maps-move'))
}

// With a map in focus, arrows go to the next one, Space marks it, and keys do what its menu does.
document.addEventListener('keydown', e => {
  const at = /** @type {any} */ (e.target)
  const card = at.closest?.('.card')
  if (!card || at.matches('input:not(.pick), select, textarea') || at.closest('.menu') || e.ctrlKey || e.metaKey || e.altKey) return
  const cards = all('.card'), here = cards.indexOf(card)
  const columns = byId('maps').matches('.cards') ? getComputedStyle(byId('maps')).gridTemplateColumns.split(' ').length : 1
  const to = { ArrowRight: here + 1, ArrowLeft: here - 1, ArrowDown: here + columns, ArrowUp: here - columns, Home: 0, End: cards.length - 1 }[e.key]
  if (to !== undefined) {
    one('h2 a', cards[Math.max(0, Math.min(to, cards.length - 1))]).focus()
  } else if (e.key === ' ' && !at.matches('.pick, summary')) {
    one('.pick', card).click()
  } else if (e.key === 'F2') {
    rename(card)
  } else if (e.key === 'm' && one('[data-move]', card)) {
    const list = marks()
    move(list.includes(card) ? list : [card])
  } else if (e.key === 'Delete' && one('[data-move]', card)) {
    const list = marks()
    bin(list.includes(card) ? list : [card])
  } else return
  e.preventDefault()
})

// Maps and folders are dragged to a folder; files are dropped anywhere.
const kind = 'application/x-tracer-items'
document.addEventListener('dragstart', e => {
  const card = around(e, '.card'), folder = around(e, '.tree [data-folder]')
  if (!card && !folder) return
  const list = card ? (marks().includes(card) ? marks() : [card]) : []
  e.dataTransfer?.setData(kind, JSON.stringify(folder ? { folder: folder.dataset.folder } : { maps: list.map(c => c.dataset.id) }))
  if (e.dataTransfer) e.dataTransfer.effectAllowed = 'move'
})
const taking = e => e.dataTransfer.types.includes(kind) ? around(e, '[data-takes]') : null
document.addEventListener('dragover', e => {
  all('.tree .taking').forEach(t => t.classList.remove('taking'))
  const into = taking(e)
  into?.classList.add('taking')
  if (into || !e.dataTransfer?.types.includes(kind)) e.preventDefault()
  document.body.classList.toggle('taking', e.dataTransfer?.types.includes('Files') ?? false)
})
document.addEventListener('dragleave', e => { if (!e.relatedTarget) document.body.classList.remove('taking') })
document.addEventListener('drop', async e => {
  e.preventDefault()
  document.body.classList.remove('taking')
  all('.tree .taking').forEach(t => t.classList.remove('taking'))
  const into = taking(e), items = e.dataTransfer?.getData(kind)
  if (into && items) {
    const { maps, folder } = JSON.parse(items)
    const body = new URLSearchParams([['folder', into.dataset.folder], ['back', location.pathname + location.search], ...(maps || []).map(id => ['id', id])])
    if (folder !== into.dataset.folder) refuse(await send(folder ? `/folders/${folder}/move` : '/maps/move', body))
  } else if (e.dataTransfer?.files.length) refuse(await openMap(e.dataTransfer.files[0], document.body.dataset.folder))
})
