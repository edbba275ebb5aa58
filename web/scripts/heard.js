// What is done is said to those who do not see it: what oneself did where nothing else says it, and, gathered and quietly,
// what others do in the same map.
import { byId } from './dom.js'

/** How long it is waited for more before something is said, in ms. */
const ownWait = 500, othersWait = 3000

export class Heard {
  /** @param {(window: string) => string} nameOf who works in a window */
  constructor(nameOf) {
    this.nameOf = nameOf
    /** What each of the others did since it was last said. @type {Map<string, string[]>} */
    this.others = new Map()
  }

  // own says what the latest edit of this window was, or which one was taken back.
  own(state, before) {
    if (before.undo === undefined || state.undo === before.undo && state.redo === before.redo) return
    const undone = before.undo && state.redo === before.undo && state.redo !== before.redo
    const words = undone ? `Undone: ${state.redo}` : state.undo && state.undo !== before.undo ? `Done: ${state.undo}` : ''
    if (!words) return
    clearTimeout(this.soon)
    this.soon = setTimeout(() => this.say(words), ownWait)
  }

  // theirs gathers what somebody else did.
  theirs(window, words) {
    const name = this.nameOf(window) || 'Somebody', list = this.others.get(name) ?? []
    if (words && list.at(-1) !== words) list.push(words)
    this.others.set(name, list)
    this.later ??= setTimeout(() => {
      this.later = undefined
      this.say([...this.others].map(([who, did]) => `${who}: ${did.slice(-3).join('; ')}`).join('. '))
      this.others.clear()
    }, othersWait)
  }

  say(words) { byId('heard').textContent = words }
}
