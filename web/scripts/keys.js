// What a key means, whatever keyboard it is on, and how keys are written for the system at hand.
import { all } from './dom.js'
const mac = /mac|iphone|ipad/i.test(navigator.userAgentData?.platform || navigator.platform)

// keyOf returns the key that is meant. Letters and digits are meant by what they write; with
// Alt or Ctrl, where a layout writes something else (Option and a letter on a Mac, another
// script) or nothing, by where they lie (W3C UI Events KeyboardEvent code Values).
export function keyOf(e) {
  const plain = /^[a-z0-9]$/i.test(e.key)
  const [, letter, digit] = e.code?.match(/^(?:Key([A-Z])|Digit(\d))$/) || []
  if (!plain && (letter || digit) && (e.altKey && !e.getModifierState('AltGraph') || (e.ctrlKey || e.metaKey) && e.key.charCodeAt(0) > 127)) return letter ? letter.toLowerCase() : digit
  return (e.ctrlKey || e.metaKey) && e.key === '=' ? '+' : e.key
}

const shiftKey = 1, ctrlKey = 2, altKey = 4

// mods are the keys held beside it. AltGr, which some systems report as Ctrl and Alt, only
// helps to write a character.
export function mods(e) {
  const writes = e.getModifierState?.('AltGraph')
  return (e.shiftKey ? shiftKey : 0) | (!writes && (e.ctrlKey || e.metaKey) ? ctrlKey : 0) | (!writes && e.altKey ? altKey : 0)
}

// written shows the name of a key as it stands on the keyboard of the person.
export function written(key) {
  const name = key.replace('Arrow', '').replace('PageDown', 'PgDn').replace('PageUp', 'PgUp').replace('Delete', 'Del').replace('Insert', 'Ins').replace('Backspace', '⌫')
  const arrows = { Up: '↑', Down: '↓', Left: '←', Right: '→' }
  return (mac && { Ctrl: '⌘', Alt: '⌥', Shift: '⇧', Enter: '↵' }[name]) || arrows[name] || name
}

// rewrite shows the keys that stand on the page as they are written here.
export function rewrite(root) {
  if (!mac) return
  for (const kbd of all('kbd', root)) kbd.textContent = kbd.textContent.split(' ').map(written).join(' ')
}
