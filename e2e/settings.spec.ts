import { readFileSync } from 'node:fs'
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
  const desk = readFileSync(join(process.env.KOVRIN_DATA!, 'standins/amp-b.desk'), 'utf8').trim()
  const answer = await fetch(`http://127.0.0.1:${desk}/racks/${address.split('@')[1]}/turn`, {
    method: 'POST', body: JSON.stringify([{ path, value }]),
  })
  expect(answer.status).toBe(200)
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
