import { expect, test } from '@playwright/test'
import { spawn, spawnSync, type ChildProcess } from 'node:child_process'
import { chmodSync, existsSync, mkdtempSync, readFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'

const data = mkdtempSync(join(tmpdir(), 'kovrin-start-'))
chmodSync(data, 0o755)
// two of these run at a time
const port = String(4390 + 10 * Number(process.env.TEST_PARALLEL_INDEX ?? 0))

function start(
  env: Record<string, string> = {},
): Promise<{ child: ChildProcess, url: string, words: () => string }> {
  const child = spawn(process.execPath, ['scripts/start.mjs'], {
    env: { ...process.env, DATABASE_URL: '', KOVRIN_DATA: data, KOVRIN_PORT: port, ...env },
  })
  let words = ''
  return new Promise((resolve, reject) => {
    const hear = (text: Buffer) => {
      words += text
      const url = /Kovrin is ready at (\S+)/.exec(words)?.[1]
      if (url) resolve({ child, url, words: () => words })
    }
    child.stdout.on('data', hear)
    child.stderr.on('data', hear)
    child.on('exit', code => reject(new Error(`ended with ${code}: ${words}`)))
  })
}
const gone = (child: ChildProcess) => new Promise<number | null>(done => child.once('exit', code => done(code)))
const database = () => Number(readFileSync(join(data, 'postgres/cluster/postmaster.pid'), 'utf8').split('\n')[0])
/** A process that has ended but was not yet collected (state Z) runs no more. */
const running = (pid: number) =>
  existsSync(`/proc/${pid}`) && !/^State:\s+Z/m.test(readFileSync(`/proc/${pid}/status`, 'utf8'))

test('start, kill -9, start again, end cleanly', async () => {
  const first = await start()
  const health = await (await fetch(`${first.url}/api/health`)).json()
  expect(health).toMatchObject({
    version: expect.stringMatching(/^\d/),
    database: { ok: true },
    standins: { 'processor': 'answers', 'amp-a': 'answers', 'amp-b': 'answers', 'amp-c': 'answers' },
  })
  const edit = { document: 'settings/processor', path: '/outputs/9/gain', old: 0, new: -11 }
  const body = JSON.stringify({ edits: [edit] })
  expect(
    (
      await fetch(`${first.url}/api/sites/ropewalk-hall/changes`, {
        method: 'POST',
        body,
        headers: { 'content-type': 'application/json' },
      })
    ).ok,
  ).toBe(true)

  await expect(start()).rejects.toThrow(/already runs on this data folder/)

  const ended = gone(first.child)
  first.child.kill('SIGKILL')
  await ended
  const second = await start()
  const site = await (await fetch(`${second.url}/api/sites/ropewalk-hall`)).json()
  expect(site.documents['settings/processor']['/outputs/9/gain']).toBe(-11)

  const pid = database()
  const done = gone(second.child)
  second.child.kill('SIGTERM')
  expect(await done).toBe(0)
  expect(running(pid)).toBe(false)
  expect(existsSync(join(data, 'running.pid'))).toBe(false)
  await expect(fetch(`${second.url}/api/health`)).rejects.toThrow()
})

/** Everything that belongs to this data folder and still runs. */
const left = () => spawnSync('pgrep', ['-f', data], { encoding: 'utf8' }).stdout.split('\n').filter(Boolean)

test('nobody who reads it, two ends at once, an end of npm: nothing is left behind', async () => {
  const env = { ...process.env, DATABASE_URL: '', KOVRIN_DATA: data, KOVRIN_PORT: port }
  const piped = spawn('sh', ['-c', 'npm start --silent | head -n 2'], { env, stdio: 'ignore' })
  expect(await gone(piped)).toBe(0)
  await expect.poll(left).toEqual([])
  const twice = await start()
  const ended = gone(twice.child)
  twice.child.kill('SIGHUP')
  twice.child.kill('SIGINT')
  expect(await ended).toBe(0)
  expect(left()).toEqual([])
  const npm = spawn('npm', ['start', '--silent'], { env, stdio: ['ignore', 'pipe', 'ignore'] })
  await new Promise<void>(done => npm.stdout.on('data', (text: Buffer) => {
    if (/ready at/.test(String(text))) done()
  }))
  npm.kill('SIGKILL')
  await expect.poll(left).toEqual([])
})

test('a port that is no port, and a database that is not there, are said in words', async () => {
  await expect(start({ KOVRIN_PORT: 'http' })).rejects.toThrow(/KOVRIN_PORT must be a number/)
  await expect(start({ DATABASE_URL: 'postgresql://nobody@127.0.0.1:9/none' })).rejects.toThrow(/cannot start/)
})
