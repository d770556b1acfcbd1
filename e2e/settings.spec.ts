import { readFileSync, readdirSync, readlinkSync } from 'node:fs'
import { connect } from 'node:net'
import { join } from 'node:path'
import { contentOf, type Change } from '../core/documents'
import { expect, test, type Site } from './pages'

const device = 'amp-b'
const values = async (site: Site, path: string) => site.value(device, path)
const history = async (site: Site) => {
  const { changes } = await (await site.request.get(`${site.path}/history?limit=50`)).json() as { changes: Change[] }
  return changes.filter(c => c.document === `settings/${device}` || c.document === `held/${device}`)
}

/** Turns a knob on the device itself, as a hand at the rack would. */
async function atTheRack(site: Site, path: string, value: unknown) {
  const { address } = contentOf(await site.documents(), 'device', device)!
  await new Promise<void>((done, fail) => {
    const socket = connect(portOfAmplifier(), '127.0.0.1', () => {
      socket.write(`${JSON.stringify({ id: 1, op: 'rack', rack: address.split('@')[1] })}\n`)
      socket.write(`${JSON.stringify({ id: 2, op: 'set', values: [[path, value]] })}\n`)
    })
    let heard = ''
    socket.on('data', (text) => {
      heard += text
      if (heard.includes('"id":2')) {
        socket.destroy()
        done()
      }
    })
    socket.once('error', fail)
  })
}
/** The stand-in's port, read off the process: it listens on whatever was free. */
function portOfAmplifier(): number {
  const pid = readFileSync(join(process.env.KOVRIN_DATA!, 'standins/amp-b.pid'), 'utf8').trim()
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
  site,
}) => {
  const live = await site.edit(device, '/outputs/3/gain', 0, -4, { live: true }, 'Zoë, système')
  expect(live).toMatchObject({ status: 200, body: { sent: [`${device}/outputs/3/gain`], why: null } })
  expect(await values(site, '/outputs/3/gain')).toEqual([-4, -4])
  // what the device can hold
  const draft = await site.edit(device, '/outputs/3/gain', -4, -9.3, {}, 'Zoë, système')
  expect(draft.body.changes[0]).toMatchObject({ new: -9.5, origin: 'edit' })
  expect(await values(site, '/outputs/3/gain')).toEqual([-9.5, -4])
  const told = await history(site)
  expect(told.slice(0, 3).map(c => [c.origin, c.old, c.new, c.who])).toEqual([
    ['edit', -4, -9.5, 'Zoë, système'],
    ['sent', undefined, -4, expect.any(String)],
    ['edit', undefined, -4, 'Zoë, système'],
  ])
})

test('send writes and reads back, drop lets go, and neither does anything twice', async ({ site }) => {
  await site.edit(device, '/outputs/3/gain', 0, -9.5)
  const send = () => site.post(`/devices/${device}/send`, {})
  expect((await send()).body).toEqual({ sent: ['/outputs/3/gain'], left: [] })
  expect((await send()).body).toEqual({ sent: [], left: [] })
  await site.edit(device, '/outputs/3/mute', false, true)
  expect((await site.post(`/devices/${device}/drop`, {})).body).toEqual({ dropped: ['/outputs/3/mute'] })
  expect(await values(site, '/outputs/3/mute')).toEqual([false, false])
  expect((await site.post('/devices/toaster/send', {})).status).toBe(404)
})

test('a knob turned at the rack is seen; the draft follows unless it has an edit of its own', async ({ site }) => {
  await atTheRack(site, '/outputs/3/mute', true)
  await expect.poll(() => values(site, '/outputs/3/mute')).toEqual([true, true])
  await site.edit(device, '/outputs/1/gain', 0, -7)
  await atTheRack(site, '/outputs/1/gain', -2)
  await expect.poll(() => values(site, '/outputs/1/gain')).toEqual([-7, -2])
  expect((await history(site))[0]).toMatchObject({ origin: 'device', new: -2, who: 'At the device' })
})

test('many edits at once: one wins each time, the others are told, and nothing is half kept', async ({ site }) => {
  const answers = await Promise.all(Array.from({ length: 12 }, (_, k) =>
    site.edit(device, '/outputs/1/gain', 0, -10 - k, { live: true })))
  const codes = answers.map(a => a.status)
  expect(codes.filter(c => c === 200)).toHaveLength(1)
  expect(codes.filter(c => c === 409)).toHaveLength(11)
  const won = answers[codes.indexOf(200)]!.body.changes[0].new
  expect(await values(site, '/outputs/1/gain')).toEqual([won, won])
  expect(await site.edit(device, '/outputs/1/gain', won, 0, { live: true })).toMatchObject({ body: { why: null } })
})
