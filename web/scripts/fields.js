// The one way in which fields show what the core says: a field that somebody is typing in is
// left alone until they are done with it.
let typing = null

document.addEventListener('input', e => { typing = e.target }, true)
// What was typed is passed on by the change; from then on the core has the last word. A field
// that is left as it was sends none.
for (const done of ['change', 'focusout']) document.addEventListener(done, e => { if (e.target === typing) typing = null }, true)

export function fill(field, value) {
  if (field !== typing && field.value !== String(value)) field.value = value
}
