import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { createStalenessTable, partOf, staleness, type Moved, type Settings } from './index'
import { feed, rigOf, tuned } from './testRig'

const band = (gain: number) => ({ on: gain !== 0, type: 'peaking', frequency: 500, gain, q: 2 })
const set = <T>(paths: string[], values: T[]) =>
  fc.record({ path: fc.constantFrom(...paths), value: fc.constantFrom<unknown>(...values, undefined) })
const step = fc.record({
  set: fc.oneof(
    set(['/outputs/1/gain', '/outputs/2/gain', '/outputs/0/gain', '/inputs/0/gain'], [-3, -6]),
    set(['/outputs/1/delay'], [0.01, 0.02]),
    set(['/outputs/1/eq/0', '/outputs/1/eq/1'], [band(-3), band(0)]),
    set(['/outputs/1/mute'], [true]),
    set(['/matrix/0/1', '/matrix/0/2'], [0, -6]),
  ),
  amplifier: fc.boolean(),
})
const plain = (moved: readonly Moved[]) =>
  moved.map(({ device, path, from, to }) => JSON.stringify({ device, path, from, to })).sort()

describe('staleness of many takes, step after step', () => {
  it('is what it would be if it were found anew each time', () => {
    fc.assert(fc.property(fc.array(step, { maxLength: 15 }), (steps) => {
      const table = createStalenessTable()
      const then = partOf(rigOf(tuned), feed, 'top')
      let settings: Settings = tuned
      let amp: Settings = {}
      for (const { set: { path, value }, amplifier } of steps) {
        const next = (old: Settings): Settings => {
          const { [path]: _, ...others } = old
          return value === undefined ? others : { ...others, [path]: value }
        }
        const isAmplifiers = amplifier && /^.outputs.[12].gain$/.test(path)
        if (isAmplifiers) amp = next(amp)
        else settings = next(settings)
        const now = rigOf(settings, amp)
        const found = table(then, now, 'top', null, id => id)
        expect(plain(found.settings)).toEqual(plain(staleness(then, now, 'top').settings))
      }
    }))
  })
})
