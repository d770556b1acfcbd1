// The simulated devices: one process each, started again when one dies, ended with this one.
import { spawn } from 'node:child_process'
import { openSync } from 'node:fs'
import { join } from 'node:path'
import { createInterface } from 'node:readline'
import { folderFor } from './home.mjs'
import { keepRunning } from './keep.mjs'
import { root, Stop } from './say.mjs'

const names = ['processor', 'amp-a', 'amp-b', 'amp-c']
/** A device that lost its power takes a while to come back. */
const pause = Number(process.env.KOVRIN_STANDIN_PAUSE ?? 3000)
const failing = error => console.error(error)

/** Starts one of them; resolves with its child once it told the port of its desk. */
function begin(name, { folder, logs, who, program }, known) {
  const log = join(logs, `standin-${name}.log`)
  const child = spawn(
    process.execPath,
    [join(program, '.output/standins/device.mjs'), name, folder, String(known.desk)],
    { ...who, cwd: '/', stdio: ['pipe', 'pipe', openSync(log, 'a')], detached: true },
  )
  return new Promise((resolve, reject) => {
    createInterface(child.stdout).once('line', (line) => {
      known.desk = JSON.parse(line).desk
      resolve(child)
    })
    child.once('error', reject)
    child.once('exit', code => reject(new Stop(`The stand-in ${name} ended at once (code ${code}); see ${log}`)))
  })
}

/** Starts all stand-in devices; gives the addresses of their desks by name and `stop`. */
export async function startStandins(data, logs, { who = {}, program = root, gaveUp = failing } = {}) {
  const place = { folder: folderFor(who, join(data, 'standins')), logs, who, program }
  const kept = await Promise.all(names.map(async (name) => {
    const known = { desk: 0 }
    const keeper = await keepRunning(`The stand-in ${name}`, () => begin(name, place, known), { gaveUp, pause })
    return { name, keeper, known }
  }))
  return {
    addresses: Object.fromEntries(kept.map(({ name, known }) => [name, `127.0.0.1:${known.desk}`])),
    stop: () => Promise.all(kept.map(({ keeper }) => keeper.stop())),
  }
}
