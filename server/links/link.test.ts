import { mkdtempSync, readFileSync, writeFileSync } from 'node:fs'
import { connect, createServer, type Server, type Socket } from 'node:net'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { afterEach, describe, expect, it, vi } from 'vitest'
import { runDevice } from '../../standins/device/device'
import { ropewalkDevices } from '../../standins/ropewalk/devices'
import type { ParameterPath, ParameterValue, Settings } from '../../core/rig'
import { createLink, type Link, type LinkState } from './link'
import { lineDriver } from './lineDriver'

const amplifier = ropewalkDevices.find(d => d.id === 'amp-c')!
const ends: (() => void)[] = []
afterEach(() => {
  for (const end of ends.splice(0).reverse()) end()
})

const stateFile = () => join(mkdtempSync(join(tmpdir(), 'kovrin-device-')), 'amp-c.json')
async function device(file = stateFile(), port = 0) {
  const running = await runDevice(amplifier, file, port)
  ends.push(running.close)
  return { ...running, file, address: `127.0.0.1:${running.port}` }
}
function link(address: () => string | null) {
  const seen: LinkState[] = []
  const changes: [ParameterPath, ParameterValue][] = []
  let settings: Settings | null = null
  const made: Link = createLink(lineDriver, address, {
    state: s => seen.push(s),
    read: async (_, s) => {
      settings = s
    },
    changed: (path, value) => changes.push([path, value]),
  })
  ends.push(made.stop)
  return { made, seen, changes, settings: () => settings }
}
const live = (l: ReturnType<typeof link>) =>
  vi.waitFor(() => expect(l.made.state.state).toBe('live'), { timeout: 10_000 })

/** A server that answers every connection as told; what a broken or foreign device may do. */
async function stranger(behave: (socket: Socket) => void): Promise<string> {
  const server: Server = createServer((socket) => {
    socket.on('error', () => {})
    behave(socket)
  })
  await new Promise<void>(done => server.listen(0, '127.0.0.1', done))
  ends.push(() => server.close())
  return `127.0.0.1:${(server.address() as { port: number }).port}`
}

describe('a link to a device', () => {
  it('reads everything, writes what the device can hold, and hears what others change', async () => {
    const amp = await device()
    const a = link(() => amp.address)
    const b = link(() => amp.address)
    await Promise.all([live(a), live(b)])
    expect(a.settings()).toEqual(amplifier.delivered)
    expect(await a.made.connection!.write('/outputs/0/gain', -3.26)).toBe(-3.5) // steps of half a decibel
    await vi.waitFor(() => expect(b.changes).toEqual([['/outputs/0/gain', -3.5]]))
    await expect(a.made.connection!.write('/outputs/0/gain', 99)).rejects.toThrow(/is allowed/)
    await expect(a.made.connection!.write('/outputs/9/gain', 0)).rejects.toThrow(/no output 10/)
    expect(a.made.state.state).toBe('live')
  })
  it('says that the device is lost, and is live again when it is back with what it kept', async () => {
    const amp = await device()
    const l = link(() => amp.address)
    await live(l)
    await l.made.connection!.write('/outputs/1/mute', true)
    amp.close()
    await vi.waitFor(() => expect(l.made.state.state).toBe('lost'))
    expect(l.made.connection).toBeNull()
    await device(amp.file, amp.port)
    await live(l)
    expect(l.settings()!.outputs[1]!.mute).toBe(true)
    expect(l.seen.map(s => s.state)).toEqual(expect.arrayContaining(['live', 'lost']))
  })
  it.each<[string, (socket: Socket) => void, RegExp]>([
    ['garbage', s => void s.write('\u0000\u0001 not json\n'), /not JSON/],
    ['silence', () => {}, /does not answer/],
    ['a closed door', s => s.destroy(), /closed the connection|ECONNRESET|EPIPE/],
    ['a line without end', s => void s.write('x'.repeat(5 * 1024 * 1024)), /line without end/],
    [
      'a wrong description',
      s => s.on('data', () => s.write('{"id":1,"capability":{},"settings":{}}\n')),
      /Invalid/,
    ],
  ])('meets %s with a reason and goes on trying', async (_, behave, why) => {
    const address = await stranger(behave)
    const l = link(() => address)
    await vi.waitFor(() => expect(l.made.state.why).toMatch(why), { timeout: 10_000 })
    expect(l.made.state.state).toBe('searching')
  })
  it('waits for an address', async () => {
    const l = link(() => null)
    await vi.waitFor(() => expect(l.made.state.why).toMatch(/no address/))
  })
})

describe('the simulated device', () => {
  const talk = (port: number, lines: string) =>
    new Promise<unknown[]>((resolve, reject) => {
      let text = ''
      const socket = connect(port, '127.0.0.1', () => socket.write(lines))
      socket.setTimeout(5000, () => reject(new Error('no answer')))
      socket.on('data', (d) => {
        text += d
        const got = text.split('\n').slice(0, -1)
        if (got.length >= lines.split('\n').length - 1) {
          socket.destroy()
          resolve(got.map(l => JSON.parse(l) as unknown))
        }
      })
      socket.on('error', reject)
    })
  it('answers nonsense with a sentence and keeps running', async () => {
    const amp = await device()
    const answers = await talk(
      amp.port,
      'hello\n{"id":1,"op":"dance"}\n{"id":2,"op":"set","path":"/outputs/0/gain","value":null}\n[]\nnull\n{"id":3,"op":"ping"}\n',
    )
    expect(answers.slice(0, 5).every(a => typeof (a as { error?: unknown }).error === 'string')).toBe(true)
    expect(answers[5]).toEqual({ id: 3 })
  })
  it('keeps its settings over a power cut, and puts damaged ones aside', async () => {
    const file = stateFile()
    const amp = await device(file)
    await talk(amp.port, '{"id":1,"op":"set","path":"/outputs/0/delay","value":0.01}\n')
    amp.close()
    expect(JSON.parse(readFileSync(file, 'utf8')).outputs[0].delay).toBeCloseTo(0.01, 6)
    writeFileSync(file, '{"version":1,"inp')
    const quiet = vi.spyOn(console, 'error').mockImplementation(() => {})
    const again = await device(file)
    quiet.mockRestore()
    const [answer] = (await talk(again.port, '{"id":1,"op":"describe"}\n')) as [{ settings: Settings }]
    expect(answer.settings).toEqual(amplifier.delivered)
    expect(readFileSync(`${file}.damaged`, 'utf8')).toContain('{"version":1,"inp')
  })
})
