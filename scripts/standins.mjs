// The simulated devices: one process each, started again when one dies, ended with this one.
import { spawn } from 'node:child_process'
import { mkdirSync, openSync } from 'node:fs'
import { join } from 'node:path'
import { createInterface } from 'node:readline'
import { root, say, Stop } from './say.mjs'

const names = ['processor', 'amp-a', 'amp-b', 'amp-c']
const backAfter = Number(process.env.KOVRIN_STANDIN_PAUSE ?? 3000)

/** Starts all stand-in devices; gives their addresses by name and `stop`. */
export async function startStandins(data, logs) {
  const folder = join(data, 'standins')
  mkdirSync(folder, { recursive: true })
  const children = new Map()
  let over = false

  const start = (name, port = 0) =>
    new Promise((resolve, reject) => {
      const child = spawn(
        process.execPath,
        [join(root, '.output/standins/device.mjs'), name, folder, String(port)],
        { stdio: ['pipe', 'pipe', openSync(join(logs, `standin-${name}.log`), 'a')], detached: true },
      )
      children.set(name, child)
      let known = port
      createInterface(child.stdout).once('line', (line) => {
        known = JSON.parse(line).port
        resolve(known)
      })
      child.on('error', reject)
      child.on('exit', (code) => {
        if (!known)
          reject(
            new Stop(`The stand-in ${name} ended at once (code ${code}); see ${join(logs, `standin-${name}.log`)}`),
          )
        else if (!over)
          setTimeout(() => {
            if (!over) {
              say(`Stand-in ${name} is switched on again`)
              start(name, known).catch(error => console.error(error.message))
            }
          }, backAfter)
      })
    })

  const ports = await Promise.all(names.map(name => start(name)))
  return {
    addresses: Object.fromEntries(names.map((name, k) => [name, `127.0.0.1:${ports[k]}`])),
    stop() {
      over = true
      for (const child of children.values()) child.kill('SIGTERM')
    },
  }
}
