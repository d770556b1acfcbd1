// What every script shares: plain words on the terminal, and running commands with their output kept in a file.
import { spawn, spawnSync } from 'node:child_process'
import { existsSync, mkdirSync, openSync, readFileSync } from 'node:fs'
import { dirname, join } from 'node:path'
import { fileURLToPath } from 'node:url'

export const root = dirname(dirname(fileURLToPath(import.meta.url)))
const began = Date.now()
export const say = text => console.log(`[${((Date.now() - began) / 1000).toFixed(1).padStart(5)} s] ${text}`)

/** A fault that the user can act on: printed without a stack. */
export class Stop extends Error {}

const running = new Set()
/** Ends every command that still runs, with all that it started. */
export function endRunning() {
  for (const child of running) {
    try {
      process.kill(-child.pid, 'SIGTERM')
    }
    catch (error) {
      if (error.code !== 'ESRCH') throw error
    }
  }
}

/** Runs a command to its end; its output goes to `log`. Throws Stop with the last lines when it fails. */
export function run(what, command, args, log, options = {}) {
  mkdirSync(dirname(log), { recursive: true })
  const out = openSync(log, 'w')
  return new Promise((resolve, reject) => {
    const child = spawn(command, args, { cwd: root, stdio: ['ignore', out, out], detached: true, ...options })
    running.add(child)
    child.on('error', error => reject(new Stop(`${what} failed: ${error.message}`)))
    child.on('exit', (code) => {
      running.delete(child)
      if (code === 0) return resolve()
      const tail = readFileSync(log, 'utf8').trim().split('\n').slice(-12).join('\n')
      reject(new Stop(`${what} failed (its whole output is in ${log}):\n${tail}`))
    })
  })
}

export const isRoot = () => process.getuid?.() === 0

/** Installs Debian packages when this user may; otherwise stops with the one command to run. */
export async function debianPackages(what, packages, logs) {
  const command = `apt-get install -y --no-install-recommends ${packages.join(' ')}`
  if (!existsSync('/usr/bin/apt-get'))
    throw new Stop(`${what} is missing. Install it with your system's own package manager (on Debian: ${command}).`)
  if (!isRoot()) throw new Stop(`${what} is missing. Run this once, then start again:\n\n  sudo ${command}\n`)
  say(`Installing ${what} from Debian's packages …`)
  const env = { ...process.env, DEBIAN_FRONTEND: 'noninteractive' }
  await run('apt-get update', 'apt-get', ['update'], join(logs, 'apt-update.log'), { env })
  await run('apt-get install', 'apt-get', command.split(' ').slice(1), join(logs, 'apt-install.log'), { env })
}

export const works = (command, args) => spawnSync(command, args, { stdio: 'ignore' }).status === 0

/** Ends with the sentence of a Stop, or with the whole error for anything unforeseen. */
export function failWith(error) {
  console.error(`\n${error instanceof Stop ? error.message : error.stack}`)
  process.exitCode = 1
}
