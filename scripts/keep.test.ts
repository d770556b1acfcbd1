import { spawn } from 'node:child_process'
import { once } from 'node:events'
import { afterEach, describe, expect, it, vi } from 'vitest'
import { keepRunning } from './keep.mjs'

const said = vi.spyOn(console, 'log').mockImplementation(() => {})
afterEach(() => said.mockClear())

/** A process that ends at once with a code, or runs until it is killed. */
const ending = (code: number) => spawn(process.execPath, ['-e', `process.exit(${code})`])
const lasting = () => spawn(process.execPath, ['-e', 'setInterval(() => {}, 1000)'])

describe('keeping a process running', () => {
  it('one that is killed is back, and stop ends it for good', async () => {
    const begin = vi.fn(async () => lasting())
    const gaveUp = vi.fn()
    const keeper = await keepRunning('It', begin, { gaveUp })
    const first = keeper.child()!
    first.kill('SIGKILL')
    await vi.waitFor(() => expect(begin).toHaveBeenCalledTimes(2), { timeout: 10_000 })
    await vi.waitFor(() => expect(keeper.child()).not.toBeNull())
    const second = keeper.child()!
    const gone = once(second, 'exit')
    await keeper.stop()
    await gone
    expect(begin).toHaveBeenCalledTimes(2)
    expect(gaveUp).not.toHaveBeenCalled()
    expect(said.mock.calls.flat().join(' ')).toContain('It ended (killed by SIGKILL) and is started again')
  })
  it('one that dies ten times within a minute is given up with a sentence', async () => {
    let told = ''
    const begin = vi.fn(async () => ending(3))
    await keepRunning('It', begin, { gaveUp: (why: string) => (told = why) })
    await vi.waitFor(() => expect(told).toContain('ended 10 times within a minute, last: code 3'), { timeout: 60_000 })
    expect(begin).toHaveBeenCalledTimes(10)
  })
  it('one that says that it would end the same way again is not started again', async () => {
    let told = ''
    const begin = vi.fn(async () => ending(78))
    await keepRunning('It', begin, { gaveUp: (why: string) => (told = why), final: 78 })
    await vi.waitFor(() => expect(told).toContain('code 78'), { timeout: 10_000 })
    expect(begin).toHaveBeenCalledTimes(1)
  })
  it('one that cannot be started at first is an error at once; later it is tried again', async () => {
    const broken = () => Promise.reject(new Error('no such program'))
    await expect(keepRunning('It', broken, { gaveUp: vi.fn() })).rejects.toThrow('no such program')
    let n = 0
    const begin = vi.fn(async () => {
      if (n++ === 1) throw new Error('its port is taken')
      return n === 1 ? ending(1) : lasting()
    })
    const keeper = await keepRunning('It', begin, { gaveUp: vi.fn() })
    await vi.waitFor(() => expect(begin).toHaveBeenCalledTimes(3), { timeout: 10_000 })
    await keeper.stop()
  })
  it('what ignores being asked is ended without mercy', async () => {
    const stubborn = spawn(process.execPath,
      ['-e', 'process.on("SIGTERM", () => {}); setInterval(() => {}, 1000); console.log("up")'])
    await once(stubborn.stdout, 'data')
    const keeper = await keepRunning('It', async () => stubborn, { gaveUp: vi.fn() })
    await keeper.stop('SIGTERM', 50)
    expect(stubborn.signalCode).toBe('SIGKILL')
  })
})
