import { expect, test, type APIRequestContext } from '@playwright/test'
import { readFileSync, readdirSync, readlinkSync } from 'node:fs'
import { connect } from 'node:net'
import { join } from 'node:path'

const site = '/api/sites/ropewalk-hall'
const device = `${site}/devices/amp-b`
interface Answer {
  value: unknown
  sent: boolean
  why: string | null
}
interface Change {
  deviceId: string
  path: string
  old: unknown
  new: unknown
  kind: string
  who: string
}

const state = async (request: APIRequestContext) =>
  (await (await request.get(site)).json()).devices.find((d: { id: string }) => d.id === 'amp-b') as {
    draft: { outputs: { gain: number, mute: boolean }[] }
    held: { outputs: { gain: number, mute: boolean }[] }
    revision: number
  }
const edit = async (request: APIRequestContext, path: string, old: unknown, value: unknown, live: boolean) =>
  (
    await request.post(`${device}/edits`, {
      data: { path, old, new: value, live },
      headers: { 'x-kovrin-who': encodeURIComponent('Zoë, système') },
    })
  ).json() as Promise<Answer>
const history = async (request: APIRequestContext) =>
  ((await (await request.get(`${site}/history?limit=50`)).json()).changes as Change[]).filter(
    c => c.deviceId === 'amp-b',
  )

/** Turns a knob on the device itself, as a hand at the rack would. */
async function atTheRack(path: string, value: unknown) {
  const port = portOfAmplifier()
  await new Promise<void>((done, fail) => {
    const socket = connect(port, '127.0.0.1', () =>
      socket.write(`${JSON.stringify({ id: 1, op: 'set', path, value })}\n`),
    )
    socket.once('data', () => {
      socket.destroy()
      done()
    })
    socket.once('error', fail)
  })
}
/** The stand-in's port, read off the process: it listens on whatever was free. */
function portOfAmplifier(): number {
  const pid = readFileSync(join(process.env.KOVRIN_DATA!, 'standins/amp-b.json.pid'), 'utf8').trim()
  const inodes = readdirSync(`/proc/${pid}/fd`).flatMap((fd) => {
    try {
      return /^socket:\[(\d+)\]$/.exec(readlinkSync(`/proc/${pid}/fd/${fd}`))?.[1] ?? []
    }
    catch {
      return []
    }
  })
  const listening = readFileSync('/proc/net/tcp', 'utf8')
    .split('\n')
    .map(l => l.trim().split(/\s+/))
    .find(c => c[3] === '0A' && inodes.includes(c[9]!))
  return parseInt(listening![1]!.split(':')[1]!, 16)
}

test('every change is kept with who, old and new; live and draft differ only in what the device holds', async ({
  request,
}) => {
  const first = await state(request)
  expect(await edit(request, '/outputs/3/gain', 0, -4, true)).toEqual({ value: -4, sent: true, why: null })
  expect((await state(request)).held.outputs[3]!.gain).toBe(-4)
  expect((await state(request)).revision).toBe(first.revision + 1)
  // what the device can hold
  expect(await edit(request, '/outputs/3/gain', -4, -9.3, false)).toEqual({ value: -9.5, sent: false, why: null })
  const now = await state(request)
  expect([now.draft.outputs[3]!.gain, now.held.outputs[3]!.gain]).toEqual([-9.5, -4])
  const [draft, sent, live] = await history(request)
  expect([draft, sent, live].map(c => [c!.kind, c!.old, c!.new, c!.who])).toEqual([
    ['edit', -4, -9.5, 'Zoë, système'],
    ['sent', 0, -4, 'Zoë, système'],
    ['edit', 0, -4, 'Zoë, système'],
  ])
})

test('send writes and reads back, drop lets go, and neither does anything twice', async ({ request }) => {
  expect(await (await request.post(`${device}/send`)).json()).toEqual({ sent: ['/outputs/3/gain'], left: [] })
  expect(await (await request.post(`${device}/send`)).json()).toEqual({ sent: [], left: [] })
  await edit(request, '/outputs/3/mute', false, true, false)
  expect(await (await request.post(`${device}/drop`)).json()).toEqual({ dropped: ['/outputs/3/mute'] })
  expect((await state(request)).draft.outputs[3]!.mute).toBe(false)
  expect((await request.post(`${site}/devices/toaster/send`)).status()).toBe(404)
})

test('a knob turned at the rack is seen; the draft follows unless it has an edit of its own', async ({
  request,
}) => {
  await atTheRack('/outputs/3/mute', true)
  await expect
    .poll(async () => {
      const s = await state(request)
      return [s.held.outputs[3]!.mute, s.draft.outputs[3]!.mute]
    })
    .toEqual([true, true])
  await edit(request, '/outputs/2/gain', 0, -7, false)
  await atTheRack('/outputs/2/gain', -2)
  await expect
    .poll(async () => {
      const s = await state(request)
      return [s.held.outputs[2]!.gain, s.draft.outputs[2]!.gain]
    })
    .toEqual([-2, -7])
  expect((await history(request))[0]).toMatchObject({ kind: 'device', old: 0, new: -2, who: 'At the device' })
  await atTheRack('/outputs/2/gain', 0)
  await atTheRack('/outputs/3/mute', false)
  await edit(request, '/outputs/2/gain', -7, 0, false)
})

test('many edits at once: one wins each time, the others are told, and nothing is half kept', async ({
  request,
}) => {
  const old = (await state(request)).draft.outputs[1]!.gain
  const answers = await Promise.all(
    Array.from({ length: 12 }, (_, k) =>
      request.post(`${device}/edits`, { data: { path: '/outputs/1/gain', old, new: -10 - k, live: true } }),
    ),
  )
  const codes = answers.map(a => a.status())
  expect(codes.filter(c => c === 200)).toHaveLength(1)
  expect(codes.filter(c => c === 409)).toHaveLength(11)
  const won = ((await answers[codes.indexOf(200)]!.json()) as Answer).value
  const now = await state(request)
  expect([now.draft.outputs[1]!.gain, now.held.outputs[1]!.gain]).toEqual([won, won])
  expect(await edit(request, '/outputs/1/gain', won, old, true)).toMatchObject({ sent: true })
})
