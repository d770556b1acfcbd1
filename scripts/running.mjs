// For commands that ask the Kovrin that runs on the data folder: where it is, and what it refuses.
import { existsSync, readFileSync } from 'node:fs'
import { join, resolve } from 'node:path'
import { root, Stop } from './say.mjs'

export const dataFolder = () => resolve(process.env.KOVRIN_DATA ?? join(root, '.kovrin'))

/** The address of the Kovrin that runs on the data folder. Throws Stop when none does. */
export async function running() {
  const file = join(dataFolder(), 'address')
  const at = existsSync(file) ? readFileSync(file, 'utf8').trim() : null
  const answers = at !== null && (await fetch(`${at}/api/session`).then(a => a.ok, () => false))
  if (!answers)
    throw new Stop(`No Kovrin runs on ${dataFolder()}. Start it (npm start), then do this again beside it.`)
  return at
}

/** Asks it; throws Stop with its sentence when it refuses. */
export async function asked(url, init) {
  const answer = await fetch(url, init)
  if (answer.ok) return answer
  const told = await answer.json().catch(() => ({}))
  throw new Stop(told.message ?? `Kovrin answered ${answer.status}.`)
}
