import { describe, expect, it } from 'vitest'
import { ropewalkDevices } from '../../standins/ropewalk/devices'
import { ropewalk as hall } from '../../standins/ropewalk/site'
import { logGrid, magnitude } from '../dsp'
import { stripResponse, valueAt, type Band, type Endpoint, type Limiter } from '../rig'
import {
  applyEdit, bandDriven, contentOf, departures, followed, followEdits, heardThrough, leftAside, noNeeds, planEdits,
  layerEdits, detachEdits, sheetResponse, type Documents, type Group, type Needs, type Sheet, type DesiredSetting,
} from './index'

/** The demo with its devices as they were left. */
const ropewalk: { documents: Documents } = {
  documents: {
    ...hall.documents,
    ...Object.fromEntries(ropewalkDevices.map(d => [`settings/${d.id}`, d.delivered])),
  },
}
const low: Endpoint = { device: 'processor', channel: 0 }
const amplifierOutput: Endpoint = { device: 'amp-a', channel: 0 }
const capability = (device: string) => contentOf(ropewalk.documents, 'device', device)!.capability
const settings = (documents: Documents, device: string) => contentOf(documents, 'settings', device)!
const at = (documents: Documents, path: string, device = 'processor') =>
  valueAt(capability(device), settings(documents, device), path)
const after = (documents: Documents, edits: readonly DesiredSetting[]) =>
  edits.reduce<Documents>((d, { device, path, value }) =>
    applyEdit(d, { document: `settings/${device}`, path, new: value }), documents)
const needs: Needs = {
  ...noNeeds,
  gain: -2,
  delay: 0.001,
  highPass: { family: 'butterworth', order: 4, frequency: 60 },
  lowPass: { family: 'linkwitz-riley', order: 4, frequency: 1400 },
  eq: [{ type: 'peaking', frequency: 700, gain: -3, q: 2 }],
}
const following = (documents: Documents, output: Endpoint, sheet: string, band: string) => applyEdit(documents, {
  document: 'wiring', path: '/follows', new: { [`${output.device}:${output.channel}`]: { sheet, band } },
})

describe('an output that follows a sheet', () => {
  it('plays what the sheet says, within the steps of the device', () => {
    const clean = applyEdit(ropewalk.documents, { document: 'settings/processor', path: '/outputs/0/eq/0' })
    const set = after(clean, followEdits(clean, low, noNeeds, needs))
    const grid = logGrid(12, 20, 20_000)
    const played = magnitude(stripResponse(capability('processor'), settings(set, 'processor'), 'outputs/0', grid))
    const sheet = { bands: [{ needs }] } as Sheet
    const wanted = magnitude(sheetResponse(sheet, grid, capability('processor').sampleRate).bands[0]!)
    played.forEach((level, k) => expect(Math.abs(level - wanted[k]!)).toBeLessThan(0.05))
  })
  it('keeps its own gain, delay and filters beside the sheet’s, and has them back when the sheet lets go', () => {
    const own = after(ropewalk.documents, [{ device: 'processor', path: '/outputs/0/gain', value: -1 }])
    const set = after(own, followEdits(own, low, noNeeds, needs))
    expect(at(set, '/outputs/0/gain')).toBeCloseTo(-3, 6)
    expect(at(set, '/outputs/0/eq/0')).toMatchObject({ on: true, frequency: 700 })
    expect(at(set, '/outputs/0/eq/1')).toMatchObject({ on: true, frequency: 160, gain: 4 })
    const back = after(set, followEdits(set, low, needs, { ...needs, eq: [], gain: 0, delay: 0 }))
    expect(at(back, '/outputs/0/gain')).toBeCloseTo(-1, 6)
    expect(at(back, '/outputs/0/delay')).toBeCloseTo(0, 9)
    expect((at(back, '/outputs/0/eq/0') as Band).on).toBe(false)
    expect(at(back, '/outputs/0/eq/1')).toMatchObject({ on: true, frequency: 160 })
  })
  it('has the device’s own Q: an amplifier of another convention draws the same curve', () => {
    const cut: Needs = { ...noNeeds, eq: [{ type: 'peaking', frequency: 1000, gain: -6, q: 1.4 }] }
    const grid = logGrid(24, 100, 10_000)
    const curve = (output: Endpoint) => {
      const { [`settings/${output.device}`]: _, ...rest } = ropewalk.documents as Record<string, unknown>
      const bare = { ...rest, [`settings/${output.device}`]: {} }
      const set = after(bare, followEdits(bare, output, noNeeds, cut))
      const device = capability(output.device)
      return magnitude(stripResponse(device, settings(set, output.device), `outputs/${output.channel}`, grid))
    }
    const [a, b] = [curve(low), curve(amplifierOutput)]
    a.forEach((level, k) => expect(Math.abs(level - b[k]!)).toBeLessThan(0.02))
  })
  it('limits at the volts of the sheet at the loudspeaker, whatever stands between; never higher', () => {
    const limited: Needs = {
      ...noNeeds, limiter: { detector: 'rms', threshold: 60, attack: 0.05, hold: 0, release: 1 },
    }
    const atAmplifier = followEdits(ropewalk.documents, amplifierOutput, noNeeds, limited)
    const found = atAmplifier.find(e => e.path.endsWith('limiter'))!.value as Limiter
    const volts = Math.SQRT2 * 89 * 10 ** (found.threshold / 20) // of a sine whose RMS value is at the threshold
    expect(volts).toBeLessThanOrEqual(60)
    expect(volts).toBeGreaterThan(60 * 10 ** (-0.5 / 20)) // one step of the device
    // the same volts as seen from the processor: its full scale is the amplifier's, less the gain set there
    const quieter = after(ropewalk.documents, [{ device: 'amp-a', path: '/outputs/0/gain', value: -6 }])
    const before = followEdits(quieter, low, noNeeds, limited).find(e => e.path.endsWith('limiter'))!.value as Limiter
    expect(before.threshold).toBeCloseTo(Math.min(0, found.threshold + 6), 6)
    expect(leftAside(ropewalk.documents, low, limited)).toEqual([])
  })
  it('says what departs from the sheet, its own gain and delay aside', () => {
    const sheet = contentOf(ropewalk.documents, 'sheet', 'top-12-active')!
    const wanted = sheet.bands[0]!.needs!
    const bare = following(ropewalk.documents, low, 'top-12-active', 'low')
    const set = after(bare, followEdits(bare, low, noNeeds, wanted))
    expect(followed(set, low)).toMatchObject({ sheet: 'top-12-active', band: 'low' })
    expect(departures(set, low)).toEqual([])
    const other = after(set, [
      { device: 'processor', path: '/outputs/0/gain', value: -5 },
      { device: 'processor', path: '/outputs/0/lowPass',
        value: { on: true, family: 'linkwitz-riley', order: 4, frequency: 2000 } },
    ])
    expect(departures(other, low)).toEqual(['Low-pass'])
    const put = after(other, followEdits(other, low, wanted, wanted))
    expect(departures(put, low)).toEqual([])
    expect(at(put, '/outputs/0/gain')).toBe(-5)
  })
  it('refuses what the device cannot do, and sets nothing of it', () => {
    const many = { ...noNeeds, eq: Array.from({ length: 8 }, () => needs.eq[0]!) }
    expect(() => followEdits(ropewalk.documents, low, noNeeds, many))
      .toThrow(/8 filters; its sheet and groups need 8, and 1 /)
    expect(() => followEdits(ropewalk.documents, amplifierOutput, noNeeds, needs)).toThrow(/no high-pass/)
    expect(() => followEdits(ropewalk.documents, { device: 'processor', channel: 99 }, noNeeds, needs)).toThrow(/there/)
  })
})

describe('a sheet that is edited', () => {
  it('reaches every output that follows it, and no other', () => {
    const sheet = contentOf(ropewalk.documents, 'sheet', 'sub-18')!
    const documents = applyEdit(ropewalk.documents, {
      document: 'wiring',
      path: '/follows',
      new: {
        'processor:4': { sheet: 'sub-18', band: 'full' },
        'processor:5': { sheet: 'sub-18', band: 'full' },
        'processor:8': { sheet: 'fill-6', band: 'full' },
      },
    })
    const lowPass = { family: 'linkwitz-riley' as const, order: 4, frequency: 90 }
    const next = { ...sheet, bands: [{ ...sheet.bands[0]!, needs: { ...sheet.bands[0]!.needs!, lowPass } }] }
    const after = applyEdit(documents, { document: 'sheet/sub-18', path: '', new: next })
    const edits = layerEdits(documents, after).filter(e => e.path.endsWith('lowPass'))
    expect(edits.map(e => e.path)).toEqual(['/outputs/4/lowPass', '/outputs/5/lowPass'])
    expect(edits.every(e => (e.value as { frequency: number }).frequency === 90)).toBe(true)
  })
  it('cannot be taken away, nor its band, while an output follows it', () => {
    const documents = following(ropewalk.documents, low, 'ceiling-6', 'full')
    const gone = planEdits(documents, [
      { document: 'sheet/ceiling-6', path: '', old: documents['sheet/ceiling-6'] },
    ], 'person')
    expect(gone).toMatchObject({ ok: false, status: 'refused' })
  })
})

describe('a group of outputs', () => {
  const group = (layer: Partial<Group['layer']>, members = [low, { ...low, channel: 2 }]): Group => ({
    id: 'mains', name: 'Mains', order: 0, members, layer: { gain: 0, delay: 0, polarity: 'normal', eq: [], ...layer },
  })
  const made = (documents: Documents, g: Group | undefined) =>
    applyEdit(documents, { document: 'group/mains', path: '', new: g })
  /** Documents with a group's edits in its members, as the page makes them. */
  const grouped = (documents: Documents, g: Group | undefined) => {
    const next = made(documents, g)
    return after(next, layerEdits(documents, next))
  }
  const cut = { type: 'peaking', frequency: 315, gain: -2, q: 1 } as const
  it('adds to what each member has of its own, and takes back no more than it added', () => {
    const own = after(ropewalk.documents, [{ device: 'processor', path: '/outputs/2/gain', value: -4 }])
    const set = grouped(own, group({ gain: -3, delay: 0.002, eq: [cut] }))
    expect([0, 2].map(n => at(set, `/outputs/${n}/gain`))).toEqual([-3, -7])
    expect(at(set, '/outputs/2/eq/0')).toMatchObject({ on: true, frequency: 315 })
    expect(at(set, '/outputs/0/eq/1')).toMatchObject({ on: true, frequency: 160 })
    expect(departures(set, low)).toEqual([])
    const back = grouped(set, undefined)
    expect([0, 2].map(n => at(back, `/outputs/${n}/gain`))).toEqual([0, -4])
    expect((at(back, '/outputs/2/eq/0') as Band).on).toBe(false)
    expect(at(back, '/outputs/2/delay')).toBeCloseTo(0, 9)
  })
  it('lies beside a sheet: each stays what it is, and a sheet that lets go leaves its filters to the output', () => {
    const follows = following(ropewalk.documents, low, 'top-12-active', 'low')
    const sheet = contentOf(follows, 'sheet', 'top-12-active')!
    const low2 = { ...sheet.bands[0]!, needs: { ...sheet.bands[0]!.needs!, eq: needs.eq } }
    const next = applyEdit(follows, {
      document: 'sheet/top-12-active', path: '', new: { ...sheet, bands: [low2, sheet.bands[1]!] },
    })
    const both = grouped(after(next, layerEdits(ropewalk.documents, next)), group({ eq: [cut] }))
    const filters = (d: Documents) =>
      [0, 1, 2].map(n => (at(d, `/outputs/0/eq/${n}`) as Band)).map(b => (b.on ? b.frequency : 0))
    expect(filters(both)).toEqual([700, 315, 160])
    const alone = after(both, detachEdits(both, low))
    expect(filters(alone)).toEqual([315, 700, 160])
    expect(departures(applyEdit(alone, { document: 'wiring', path: '/follows', new: {} }), low)).toEqual([])
  })
  it('names the output that cannot take it, and cannot have one that is not there', () => {
    const many = group({ eq: Array.from({ length: 8 }, () => cut) })
    expect(() => layerEdits(ropewalk.documents, made(ropewalk.documents, many)))
      .toThrow(/System processor, output 1: It has 8 filters/)
    const planned = planEdits(ropewalk.documents, [
      { document: 'group/mains', path: '', new: group({}, [{ device: 'processor', channel: 40 }]) },
    ], 'person')
    expect(planned).toMatchObject({ ok: false, why: expect.saying('output 41') as string })
  })
})

describe('what an output drives', () => {
  it('is found by name through cables and amplifiers', () => {
    expect(bandDriven(ropewalk.documents, 'main-l', amplifierOutput)?.band.id).toBe('low')
    expect(heardThrough(ropewalk.documents, low).map(h => [h.source, h.band.id])).toEqual([['main-l', 'low']])
    expect(bandDriven(ropewalk.documents, 'main-l', low)).toBeUndefined()
  })
})
