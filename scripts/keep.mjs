// Keeps a process running: whatever kills it, it is back within seconds; one that dies again and again is given up.
import { say } from './say.mjs'

const minute = 60_000
/** Tests kill on purpose, and more often. */
const mostDeaths = Number(process.env.KOVRIN_MOST_DEATHS ?? 10)
const longestPause = 2000

/** Milliseconds until the next start, after so many deaths in the last minute: short at first, then longer. */
const pauseAfter = deaths => Math.min(longestPause, 100 * 2 ** (deaths - 1))

/**
 * Starts a process by `begin()` (which resolves with its child once it works, or rejects with why it does not), and
 * again whenever it ends by itself. After ten deaths within a minute, or when it ends with the code `final`, `gaveUp`
 * is called with a sentence. Rejects when the very first start fails.
 * @param {string} name
 * @param {() => Promise<import('node:child_process').ChildProcess>} begin
 * @param {{ gaveUp: (why: string) => void, pause?: number, final?: number | null }} how
 */
export async function keepRunning(name, begin, { gaveUp, pause = 0, final = null }) {
  let child = null
  let stopped = false
  let timer
  let deaths = []

  const died = (why, code) => {
    child = null
    if (stopped) return
    const now = Date.now()
    deaths = [...deaths.filter(at => now - at < minute), now]
    if (code === final && final !== null) return gaveUp(`${name} ended: ${why}`)
    if (deaths.length >= mostDeaths)
      return gaveUp(`${name} ended ${mostDeaths} times within a minute, last: ${why}. Kovrin gives up.`)
    const wait = Math.max(pause, pauseAfter(deaths.length))
    say(`${name} ended (${why}) and is started again.`)
    timer = setTimeout(() => void start().catch(error => died(error.message, error.code)), wait)
  }
  async function start() {
    const made = await begin()
    if (stopped) return made.kill('SIGKILL')
    child = made
    const ended = (code, signal) => died(signal ? `killed by ${signal}` : `code ${code}`, code)
    if (made.exitCode !== null || made.signalCode !== null) ended(made.exitCode, made.signalCode)
    else made.once('exit', ended)
  }
  await start()
  return {
    child: () => child,
    /** Ends it by a signal and waits; after `patience` ms without mercy. */
    stop: async (signal = 'SIGTERM', patience = 5000) => {
      stopped = true
      clearTimeout(timer)
      const last = child
      if (!last || last.exitCode !== null || last.signalCode !== null) return
      const gone = new Promise(done => last.once('exit', done))
      last.kill(signal)
      const hard = setTimeout(() => last.kill('SIGKILL'), patience)
      await gone
      clearTimeout(hard)
    },
  }
}
