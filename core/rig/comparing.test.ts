import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { ropewalkDevices } from '../../standins/ropewalk/devices'
import { compareSettings, compact, holdAll, parametersOf, withValue, type Settings } from '.'

const { capability } = ropewalkDevices[0]!
const paths = [...parametersOf(capability).keys()].filter(p => /gain|mute|delay|polarity|matrix/.test(p))
const numbers = fc.integer({ min: -20, max: 6 })
/** A value that a parameter of such a path may have. */
function valueFor(path: string, number: number, flag: boolean): unknown {
  if (path.includes('polarity')) return flag ? 'inverted' : 'normal'
  if (path.includes('mute')) return flag
  return path.includes('delay') ? Math.abs(number) / 1000 : number
}
/** A few settings of a processor, as it holds them. */
const settings: fc.Arbitrary<Settings> = fc
  .array(fc.tuple(fc.constantFrom(...paths), numbers, fc.boolean()), { maxLength: 12 })
  .map(list => compact(capability, holdAll(capability, Object.fromEntries(
    list.map(([path, number, flag]) => [path, valueFor(path, number, flag)])))))

describe('what differs between two states of a device', () => {
  it('whoever keeps some of the one and some of the other: both end alike, with nothing left to choose', () => {
    fc.assert(fc.property(settings, settings, fc.func(fc.boolean()), (device, mine, keepsMine) => {
      let [there, here] = [device, mine]
      for (const { path, from, to } of compareSettings(capability, device, mine).flatMap(c => c.settings)) {
        if (keepsMine(path)) there = withValue(there, path, to)
        else here = withValue(here, path, from)
      }
      expect(compareSettings(capability, there, here)).toEqual([])
    }))
  })
  it('every difference stands once, in a channel that the device has, and nothing else does', () => {
    fc.assert(fc.property(settings, settings, (a, b) => {
      const channels = compareSettings(capability, a, b)
      const told = channels.flatMap(c => c.settings.map(s => s.path))
      expect(new Set(told).size).toBe(told.length)
      for (const { id, settings: list } of channels) for (const { path } of list) expect(path.startsWith(`/${id}/`))
      const back = compareSettings(capability, b, a).flatMap(c => c.settings.map(s => s.path))
      expect(back.sort()).toEqual(told.sort())
    }))
  })
  it.each([
    ['a higher level', '/outputs/0/gain', -6, -3, true],
    ['a lower level', '/outputs/0/gain', -3, -6, false],
    ['a mute that opens', '/outputs/0/mute', true, false, true],
    ['a mute that closes', '/outputs/0/mute', false, true, false],
    ['a longer delay', '/outputs/0/delay', 0, 0.01, false],
    ['a boost',
      '/outputs/0/eq/0', undefined, { on: true, type: 'peaking', frequency: 100, gain: 4, q: 1 }, true],
    ['a crosspoint that is connected', '/matrix/1/3', null, -20, true],
    ['a limiter that is let go',
      '/outputs/0/limiter', { on: true, threshold: 0, attack: 0.01, hold: 0, release: 0.1, detector: 'rms' },
      undefined, true],
  ])('%s is told to be louder, or not', (_, path, from, to, expected) => {
    const of = (value: unknown) => {
      const held = holdAll(capability, value === undefined ? {} : { [path]: value })
      return compact(capability, held)
    }
    const [channel] = compareSettings(capability, of(from), of(to))
    expect(channel!.settings).toEqual([expect.objectContaining({ path, isLouder: expected })])
  })
})
