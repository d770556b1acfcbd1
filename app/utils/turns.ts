/**
 * Work that waits for its turn: one piece a picture, so that what was measured and three charts of many lines do not
 * hold up the page together. What is asked for again while it waits is done once.
 */
const waiting = new Set<() => void>()
let running = false

function next() {
  const [first] = waiting
  if (!first) {
    running = false
    return
  }
  waiting.delete(first)
  requestAnimationFrame(next)
  first()
}

export function inTurn(work: () => void) {
  waiting.add(work)
  if (running) return
  running = true
  requestAnimationFrame(next)
}
