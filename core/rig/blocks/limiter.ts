import * as v from 'valibot'
import { showDelay, showLevel } from '../../units'
import { base, defineBlock, finite, Range, within } from './kind'
import { refusal, phrase } from '../../words'

const detectors = ['peak', 'rms'] as const
const detectorNames = { peak: 'detector.peak', rms: 'detector.rms' } as const

/** Threshold in dBFS; attack, hold and release in seconds. */
export const Limiter = v.strictObject({
  on: v.boolean(),
  detector: v.picklist(detectors),
  threshold: finite,
  attack: finite,
  hold: finite,
  release: finite,
})
export type Limiter = v.InferOutput<typeof Limiter>

const LimiterCapability = v.strictObject({
  kind: v.literal('limiter'),
  ...base,
  detectors: v.pipe(v.array(v.picklist(detectors)), v.minLength(1)),
  threshold: Range,
  attack: Range,
  hold: Range,
  release: Range,
  /** How far it hears ahead of what it lets through, in seconds, within the device's own latency. */
  lookAhead: v.optional(v.pipe(finite, v.minValue(0), v.maxValue(0.1))),
})
export type LimiterCapability = v.InferOutput<typeof LimiterCapability>

/** A limiter. Below its threshold it does nothing to a response; what it does above depends on the sound. */
export const limiter = defineBlock({
  kind: 'limiter',
  capability: LimiterCapability,
  value: Limiter,
  name: ({ count }, index) => (count ? phrase('rig.limiter', { index: index + 1 }) : phrase('rig.limiter2')),
  neutral: c => ({
    on: false,
    detector: c.detectors[0]!,
    threshold: c.threshold.max,
    attack: c.attack.min,
    hold: c.hold.min,
    release: c.release.max,
  }),
  hold: (c, wish, name) => {
    if (!c.detectors.includes(wish.detector)) {
      throw refusal('block.noDetector', { name, detector: wish.detector, detectors: c.detectors.join(', ') })
    }
    const time = (value: number, range: Range, what: string) =>
      within(value, range, s => showDelay(s), `${name} ${what}`)
    return {
      ...wish,
      threshold: within(wish.threshold, c.threshold, showLevel, `${name} threshold`),
      attack: time(wish.attack, c.attack, 'attack'),
      hold: time(wish.hold, c.hold, 'hold'),
      release: time(wish.release, c.release, 'release'),
    }
  },
  show: ({ on, detector, threshold, attack, release }) =>
    on
      ? `${phrase(detectorNames[detector])} ${showLevel(threshold)}FS, ${showDelay(attack)} / ${showDelay(release, 0)}`
      : phrase('rig.off'),
  part: () => ({}),
  stales: () => false,
  role: 'dynamics',
  mayRaise: true,
  fields: {
    on: { kind: 'switch', name: 'field.on' },
    detector: {
      kind: 'choice',
      name: 'field.detector',
      options: c => c.detectors.map(id => ({ id, name: phrase(detectorNames[id]) })),
    },
    threshold: { kind: 'number', name: 'field.threshold', quantity: 'level', range: c => c.threshold },
    attack: { kind: 'number', name: 'field.attack', quantity: 'delay', range: c => c.attack },
    hold: { kind: 'number', name: 'field.hold', quantity: 'delay', range: c => c.hold },
    release: { kind: 'number', name: 'field.release', quantity: 'delay', range: c => c.release },
  },
})
