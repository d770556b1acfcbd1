/** Milliseconds of work after which what is left waits for the next picture. */
const enough = 6

/**
 * Work that waits for its turn: as much a picture as is soon done, so that what was measured and three charts of many
 * lines do not hold up the page together, and small pieces do not each cost a picture of their own. What is asked for
 * again while it waits is done once.
 */
const waiting = new Set<() => void>()
let running = false

function next() {
  const began = performance.now()
  try {
    // what is asked for from here on comes with the next picture
    for (const work of [...waiting]) {
      waiting.delete(work)
      work()
      if (performance.now() - began >= enough) break
    }
  }
  finally {
    running = waiting.size > 0
    if (running) requestAnimationFrame(next)
  }
}

export function inTurn(work: () => void) {
  waiting.add(work)
  if (running) return
  running = true
  requestAnimationFrame(next)
}
