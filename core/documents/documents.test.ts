import { createHash } from 'node:crypto'
import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { ropewalk } from '../../standins/ropewalk/site'
import { decodeTake } from '../formats/take'
import { isStale, parametersOf, partOf, snapshotOf, staleness, valueAt, type Snapshot } from '../rig'
import { canonical, equal } from '../units'
import { firstSite } from './firstVersion'
import {
  against,
  allOf,
  applyEdit,
  contentOf,
  documentKinds,
  draftOf,
  hear,
  inOneGo,
  invertEdit,
  mergeEdits,
  planEdits,
  rigOf,
  sayEdit,
  shown,
  siteFileChecks,
  splitKey,
  upgradeMemory,
  upgradeSite,
  valueIn,
  type Change,
  type Documents,
  type Edit,
  type Tools,
} from './index'

const hashOf = (content: unknown) => createHash('sha256').update(canonical(content)).digest('hex')
const tools: Tools = {
  hashOf,
  newId: () => 'made-1',
  bytesOf: base64 => Buffer.from(base64, 'base64'),
  base64Of: bytes => Buffer.from(bytes).toString('base64'),
}
const demo = ropewalk.documents

/** Edits of many kinds as a person at the demo might make them; some cannot be. */
const wish = fc.oneof(
  fc.record({
    document: fc.constant('settings/processor'),
    path: fc.constantFrom(
      '/outputs/0/gain',
      '/outputs/3/delay',
      '/outputs/1/eq/2',
      '/matrix/0/3',
      '/outputs/99/gain',
    ),
    new: fc.constantFrom<unknown>(-6, 0.004, 3, null, undefined, {
      on: true,
      type: 'peaking',
      frequency: 500,
      gain: -3,
      q: 2,
    }),
  }),
  fc.record({
    document: fc.constantFrom('position/mid', 'position/rear'),
    path: fc.constantFrom('/name', '/place', '/weight', ''),
    new: fc.constantFrom<unknown>('A seat', { x: 9, y: 3, z: 1.2 }, 2, { x: 900, y: 3, z: 1.2 }, undefined),
  }),
  fc.record({
    document: fc.constant('plan'),
    path: fc.constantFrom('/air/temperature', '/room/size', '/room/surfaces/floor'),
    new: fc.constantFrom<unknown>(24, 'carpet', { x: 40, y: 20, z: 8 }, { x: 3, y: 3, z: 3 }),
  }),
  fc.record({
    document: fc.constant('wiring'),
    path: fc.constantFrom('/cables/amp-a:0', '/cables/amp-c:1', '/feeds/test/from'),
    new: fc.constantFrom<unknown>({ device: 'processor', channel: 3 }, undefined, {
      device: 'toaster',
      channel: 0,
    }),
  }),
)
/** What becomes of some wishes: documents after each edit that can be made. */
function made(wishes: readonly { document: string, path: string, new?: unknown }[]) {
  let now: Documents = demo
  const edits: Edit[] = []
  for (const w of wishes) {
    const planned = planEdits(now, [{ ...w, old: valueIn(now, w.document, w.path) }], 'person')
    if (!planned.ok) continue
    now = planned.documents
    edits.push(...planned.edits)
  }
  return { now, edits }
}
const inverted = (edits: readonly Edit[]) => [...edits].reverse().map(invertEdit)

describe('changes', () => {
  it('a whole document goes through the rules of its parts, and is said in words', () => {
    const settings = contentOf(demo, 'settings', 'processor')!
    const device = contentOf(demo, 'device', 'processor')!
    const whole = (value: object) => planEdits(demo, [
      { document: 'settings/processor', path: '', old: settings, new: { ...settings, ...value } }], 'person')
    expect(whole({ '/outputs/0/gain': -3 })).toMatchObject({ ok: true })
    for (const bad of [{ '/outputs/0/gain': 'loud' }, { '/outputs/0/gain': 1e308 }, { '/outputs/0/gain': 40 },
      { '/outputs/99/gain': 0 }])
      expect(whole(bad)).toMatchObject({ ok: false, status: 'refused' })
    const other = { ...device, capability: { ...device.capability, latency: 0 } }
    expect(planEdits(demo, [{ document: 'device/processor', path: '', old: device, new: other }], 'person'))
      .toMatchObject({ ok: false, status: 'refused', why: expect.saying('Only the device') })
    const gone = { document: 'settings/processor', path: '', old: settings }
    expect(sayEdit(demo, gone)).toBe('System processor, all settings removed')
    expect(sayEdit({}, { ...gone, new: {} })).toBe('a device that is gone, all settings set')
    const move = { document: 'source/main-l', path: '/elements/0/place' }
    const take = { document: 'take/x', path: '/deleted' }
    const one = { 'take/x': { name: 'One' } as never }
    expect(sayEdit(demo, { ...move, old: {}, new: {} })).toBe('Main L moved')
    expect(sayEdit(demo, { ...move, path: '/name', old: 'A', new: 'B' })).toBe('Main L renamed')
    expect(sayEdit(demo, { document: 'plan', path: '/air', old: {}, new: {} })).toMatch(/ changed$/)
    expect(sayEdit(one, { ...take, old: true, new: false })).toBe('One added to the ledger')
    expect(sayEdit(one, { ...take, old: false, new: true })).toBe('One deleted')
  })
  it('many edits together are what they are one by one, or refused whole', () => {
    fc.assert(fc.property(fc.array(wish, { maxLength: 40 }), (wishes) => {
      const { now, edits } = made(wishes)
      const given = structuredClone(demo)
      const together = planEdits(demo, edits, 'person')
      expect(together).toMatchObject({ ok: true, edits })
      expect(together.ok && equal(together.documents, now)).toBe(true)
      expect(demo).toEqual(given)
      const broken = [...edits, { document: 'position/mid', path: '/weight', old: -1, new: 2 }]
      expect(planEdits(demo, broken, 'person').ok).toBe(false)
    }))
  })
  it('apply, then invert: as if nothing had been', () => {
    fc.assert(
      fc.property(fc.array(wish, { maxLength: 12 }), (wishes) => {
        const { now, edits } = made(wishes)
        expect(equal(inverted(edits).reduce(applyEdit, now), demo)).toBe(true)
      }),
    )
  })
  it('a gesture merged does what its parts did, forth and back', () => {
    fc.assert(
      fc.property(fc.array(wish, { maxLength: 12 }), (wishes) => {
        const { now, edits } = made(wishes)
        const merged = mergeEdits(edits)
        expect(merged.length).toBeLessThanOrEqual(edits.length)
        expect(equal(merged.reduce(applyEdit, demo), now)).toBe(true)
        expect(equal(inverted(merged).reduce(applyEdit, now), demo)).toBe(true)
      }),
    )
  })
  it('never leave documents that could not be loaded again, and never touch those they were given', () => {
    const before = canonical(demo)
    fc.assert(
      fc.property(fc.array(wish, { maxLength: 12 }), (wishes) => {
        const { now } = made(wishes)
        const file = { format: 'kovrin-site' as const, version: 2 as const, documents: now, contents: {}, data: {} }
        expect(equal(inOneGo(siteFileChecks(file, tools)), now)).toBe(true)
      }),
    )
    expect(canonical(demo)).toBe(before)
  })
  it('a temperature sends a temperature, and does not meet somebody’s wall', () => {
    const walls = planEdits(
      demo,
      [{ document: 'plan', path: '/room/surfaces/floor', old: 'seats-empty', new: 'carpet' }],
      'person',
    )
    const floor = valueIn(demo, 'plan', '/room/surfaces/floor')
    const moved = walls.ok
      ? walls.documents
      : applyEdit(demo, { document: 'plan', path: '/room/surfaces/floor', old: floor, new: 'carpet' })
    const edit = {
      document: 'plan',
      path: '/air/temperature',
      old: valueIn(demo, 'plan', '/air/temperature'),
      new: 27,
    }
    const planned = planEdits(moved, [edit], 'person')
    expect(planned).toMatchObject({ ok: true, edits: [edit] })
    expect(JSON.stringify(edit).length).toBeLessThan(80)
  })
  it('several are all made or none, each against what stands before it', () => {
    const gain = (old: number, value: number) => ({
      document: 'settings/processor',
      path: '/outputs/2/gain',
      old,
      new: value,
    })
    expect(planEdits(demo, [gain(0, -1), gain(-1, -2)], 'person')).toMatchObject({ ok: true })
    const late = planEdits(demo, [gain(0, -1), gain(0, -2)], 'person')
    expect(late).toMatchObject({ ok: false, status: 'overtaken', now: { value: -1 } })
  })
  it.each<[string, Edit, string]>([
    ['what a device holds', { document: 'held/processor', path: '/outputs/0/gain', new: 1 }, 'device itself'],
    [
      'what a device can do',
      { document: 'device/processor', path: '/capability/slots', old: 20, new: 9 },
      'device itself',
    ],
    ['a kind of document that is not known', { document: 'weather', path: '', new: {} }, '“weather” is no kind'],
    ['the plan away', { document: 'plan', path: '', old: demo.plan }, 'cannot be taken away'],
    ['a prototype', { document: 'plan', path: '/__proto__/x', new: 1 }, 'no path'],
    [
      'a cable in a circle',
      {
        document: 'wiring',
        path: '/cables/processor:0',
        new: { device: 'amp-a', channel: 0 },
        old: valueIn(demo, 'wiring', '/cables/processor:0'),
      },
      'circle',
    ],
  ])('nobody may set %s', (_, edit, words) => {
    expect(planEdits(demo, [edit], 'person')).toMatchObject({ ok: false, why: expect.saying(words) })
  })
  it('what an edit meets is asked for its newest value again before it is sent', () => {
    const edit = { document: 'settings/processor', path: '/outputs/2/gain', old: 0, new: -3 }
    const now = applyEdit(demo, { ...edit, new: -1 })
    expect(against(now, [edit])).toEqual([{ ...edit, old: -1 }])
    expect(against(now, [{ ...edit, new: -1 }])).toEqual([])
  })
})

describe('a page that follows', () => {
  const change = (number: number, path: string, value: unknown): Change => ({
    document: 'settings/processor',
    path,
    new: value,
    number,
    gesture: null,
    who: 'Ann',
    person: 'ann',
    origin: 'edit',
    at: '2026-01-01T00:00:00.000Z',
    live: false,
  })
  const paths = ['/outputs/0/gain', '/outputs/1/gain', '/outputs/2/gain']
  it('ends equal to the server, whatever is dropped, doubled or late on the way', () => {
    const line = fc.array(
      fc.record({
        fate: fc.constantFrom('heard', 'lost', 'twice', 'late'),
        path: fc.constantFrom(...paths),
        value: fc.integer({ min: -40, max: 0 }),
      }),
      { minLength: 1, maxLength: 60 },
    )
    fc.assert(
      fc.property(line, (steps) => {
        const all = steps.map((s, k) => change(k + 1, s.path, s.value))
        const server = all.reduce<Documents>(applyEdit, demo)
        let mirror = { number: 0, documents: demo }
        const late: Change[] = []
        /** What a page does: takes in, and where there is a hole asks for everything since its number. */
        const take = (changes: Change[], upTo: number) => {
          const heard = hear(mirror, changes)
          if (heard.state === 'taken') ({ mirror } = heard)
          if (heard.state !== 'gap') return
          const rest = hear(mirror, all.slice(mirror.number, upTo))
          if (rest.state === 'taken') ({ mirror } = rest)
        }
        steps.forEach(({ fate }, k) => {
          if (fate === 'late') late.push(all[k]!)
          if (fate === 'heard') take([all[k]!], k + 1)
          if (fate === 'twice') for (let n = 0; n < 2; n++) take([all[k]!], k + 1)
          expect(mirror.number).toBeLessThanOrEqual(k + 1)
        })
        for (const c of late) take([c], all.length)
        take([...all.slice(mirror.number)], all.length) // the line is back: it follows from its number
        expect(mirror.number).toBe(all.length)
        expect(equal(mirror.documents, server)).toBe(true)
      }),
    )
  })
  it('shows its own edits over what is confirmed, and lets go of one whose place is gone', () => {
    const pending = { id: 1, edits: [{ document: 'position/mid', path: '/name', old: 'Mid house', new: 'Middle' }] }
    expect(contentOf(shown(demo, [pending]), 'position', 'mid')!.name).toBe('Middle')
    const gone = applyEdit(demo, { document: 'position/mid', path: '' })
    expect(contentOf(shown(gone, [pending]), 'position', 'mid')).toBeUndefined()
  })
})

describe('upgrades', () => {
  const old = firstSite(tools.base64Of)
  const file = upgradeSite(structuredClone(old), tools)
  it('a site file of the first version becomes documents that stand beside each other', () => {
    expect(file.version).toBe(2)
    const documents = inOneGo(siteFileChecks(file, tools))
    expect(allOf(documents, 'source').map(s => [s.name, s.elements[0]!.sheet])).toEqual([
      ['Left', 'top-12'],
      ['Right', 'top-12'],
    ])
    const { capability } = contentOf(documents, 'device', 'processor')!
    const draft = draftOf(documents, 'processor')
    const at = (path: string) => valueAt(capability, draft, path)
    expect([at('/outputs/0/gain'), at('/outputs/0/polarity'), at('/outputs/0/delay'), at('/matrix/0/0')]).toEqual([
      -2,
      'inverted',
      0.0125,
      -3,
    ])
    expect(at('/outputs/0/eq/1')).toEqual({ on: true, type: 'peaking', frequency: 200, gain: -4.5, q: 1.4 })
    expect(at('/outputs/0/highPass')).toMatchObject({ on: true, order: 4, frequency: 90 })
    expect(draftOf(documents, 'amp')).toEqual({}) // what is neutral is not written
    expect(contentOf(documents, 'wiring')!.drives['left:0:full']).toEqual({ device: 'amp', channel: 0 })
  })
  it('its takes keep their sound, their name and their settings, and are as fresh as they were', () => {
    const [take] = allOf(file.documents, 'take')
    expect(take).toMatchObject({ id: 'made-1', note: 'the old one', only: null, timing: { delay: 0.03 } })
    const data = decodeTake(tools.bytesOf(file.data['made-1']!))
    expect(data.curve.re[100]).toBe(0.5)
    expect(data.impulse).toMatchObject({ sampleRate: 48_000, start: -0.01 })
    expect([data.harmonics[0]!.order, data.signalToNoise[0]!.level]).toEqual([2, 41])
    const snapshot = file.contents[take!.snapshot!] as Snapshot
    const devices = Object.fromEntries(
      Object.entries(snapshot.devices).map(([id, d]) => [
        id,
        { capability: file.contents[d.capability] as never, settings: d.settings },
      ]),
    )
    const then = {
      from: snapshot.from,
      rig: { devices, wiring: { cables: snapshot.cables, drives: snapshot.drives } },
    }
    expect(isStale(staleness(then, rigOf(file.documents, 'held'), 'left'))).toBe(false)
    const turned = applyEdit(file.documents, {
      document: 'held/processor',
      path: '/outputs/0/polarity',
      new: 'normal',
    })
    expect(staleness(then, rigOf(turned, 'held'), 'left').settings.map(m => m.path)).toEqual([
      '/outputs/0/polarity',
    ])
  })
  it('what is newer is refused with a sentence and left as it is; what is none, or damaged, too', () => {
    const newer = { ...file, version: 3 }
    const before = canonical(newer)
    expect(() => upgradeSite(newer, tools)).toThrow(/newer Kovrin \(version 3; this one knows 2\)/)
    expect(canonical(newer)).toBe(before)
    const { capability } = contentOf(file.documents, 'device', 'processor')!
    expect(() => upgradeMemory(capability, { version: 9, settings: {} })).toThrow(/newer Kovrin/)
    for (const broken of [
      null,
      4,
      {},
      { version: 'two' },
      { version: 1 },
      { ...old, sources: 3 },
      { ...old, takes: [{}] },
    ]) {
      expect(() => upgradeSite(broken, tools)).toThrow(RangeError)
    }
  })
  it('a device’s memory of the first version is read, and one of today comes back as it is', () => {
    const { capability } = contentOf(file.documents, 'device', 'processor')!
    const memory = upgradeMemory(capability, old.devices[0]!.draft)
    expect(memory).toEqual(draftOf(file.documents, 'processor'))
    expect(upgradeMemory(capability, { version: 2, settings: { '/unknown': 3 } })).toEqual({ '/unknown': 3 })
  })
  it('an upgraded file goes through unchanged', () => {
    expect(upgradeSite(file, tools)).toEqual(file)
  })
})

describe('site files', () => {
  const plain = { format: 'kovrin-site' as const, version: 2 as const, documents: demo, contents: {}, data: {} }
  const check = (change: Documents) => () =>
    inOneGo(siteFileChecks({ ...plain, documents: { ...demo, ...change } }, tools))
  it.each<[string, Documents, RegExp]>([
    ['a document of no kind', { spare: {} }, /spare/],
    ['no plan', { plan: undefined }, /plan/],
    [
      'a source of a kind without a sheet',
      {
        'source/subs': {
          ...(demo['source/subs'] as object),
          elements: [{ sheet: 'none', place: { x: 1, y: 1, z: 1 }, aim: { turn: 0, tilt: 0 } }],
        },
      },
      /sheet/,
    ],
    ['settings of no device', { 'settings/toaster': {} }, /toaster/],
    ['a gain that is a text', { 'settings/processor': { '/outputs/0/gain': 'loud' } }, /outputs\/0\/gain.*number/],
    ['a filter that is a list', { 'held/processor': { '/outputs/0/highPass': [80] } }, /outputs\/0\/highPass/],
    [
      'a key that is not its own',
      { 'position/mid': { ...(demo['position/mid'] as object), id: 'other' } },
      /keeps its own key/,
    ],
  ])('%s is refused', (_, change, words) => {
    expect(check(change)).toThrow(words)
  })
  it('what a device lacks by now, or holds less of, is kept: it may have come back smaller', () => {
    const draft = { ...(demo['settings/processor'] as object), '/outputs/0/gain': 90, '/outputs/99/gain': -3 }
    const read = check({ 'settings/processor': draft })()
    expect(read['settings/processor']).toEqual(draft)
  })
  it.each<[string, (good: string) => string]>([
    ['that ends too early', good => good.slice(0, -1)],
    ['with a line’s end in it', good => `${good.slice(0, 8)}\n${good.slice(8)}`],
    ['with other characters', good => `${good.slice(0, 8)}!§%&${good.slice(12)}`],
    ['that ends twice', good => `${good.slice(0, 8)}====${good.slice(12)}`],
  ])('bytes of a take as base64 %s are refused', (_, spoil) => {
    const file = upgradeSite(firstSite(tools.base64Of), tools)
    const good = file.data['made-1']!
    const read = (data: string) => () => inOneGo(siteFileChecks({ ...file, data: { 'made-1': data } }, tools))
    expect(read(good)).not.toThrow()
    expect(read(spoil(good))).toThrow(/not base64/)
  })
  it('what takes share must fit its hash', () => {
    const contents = { ['0'.repeat(64)]: { version: 1 } }
    expect(() => inOneGo(siteFileChecks({ ...plain, contents }, tools))).toThrow(/hash/)
  })
})

describe('snapshots', () => {
  const rig = rigOf(demo, 'draft')
  const from = contentOf(demo, 'wiring')!.feeds.test!.from
  const hashText = (text: string) => createHash('sha256').update(text).digest('hex')
  it('equal content has an equal hash, however it was written', () => {
    const part = partOf(rig, from, 'main-l')
    const turned = (x: unknown): unknown =>
      x !== null && typeof x === 'object' && !Array.isArray(x)
        ? Object.fromEntries(
            Object.entries(x)
              .reverse()
              .map(([k, v]) => [k, turned(v)]),
          )
        : x
    const one = snapshotOf(part, hashText)
    expect(hashOf(turned(one))).toBe(hashOf(one))
    const neutral = Object.fromEntries(
      [...parametersOf(rig.devices['amp-a']!.capability)].map(([path, p]) => [path, p.neutral]),
    )
    const spelt = { ...rig, devices: { ...rig.devices, 'amp-a': { ...rig.devices['amp-a']!, settings: neutral } } }
    expect(hashOf(snapshotOf(partOf(spelt, from, 'main-l'), hashText))).toBe(hashOf(one))
  })
  it('hold only what the source’s sound depends on', () => {
    const { devices } = snapshotOf(partOf(rig, from, 'main-l'), hashText)
    expect(Object.keys(devices).sort()).toEqual(['amp-a', 'processor'])
  })
})

describe('kinds', () => {
  it('every key says its kind, and no other text is a key', () => {
    for (const key of Object.keys(demo)) expect(Object.keys(documentKinds)).toContain(splitKey(key)!.kind)
    for (const key of [
      '',
      'source',
      'plan/x',
      'source/',
      'source/a b',
      'toString',
      '__proto__/x',
      `take/${'x'.repeat(61)}`,
    ]) {
      expect(splitKey(key)).toBeNull()
    }
  })
})
