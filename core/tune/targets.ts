import type { Decibels, Hertz } from '../units'

const octaves = (f: Hertz, from: Hertz) => Math.log2(f / from)
const beyond = (f: Hertz, knee: Hertz) => Math.max(0, octaves(f, knee))
/** A shelf's smooth step of so many dB round a frequency, over about two octaves. */
const step = (f: Hertz, at: Hertz, height: Decibels) => height / (1 + 2 ** (2 * octaves(f, at)))

/** Targets to begin with (common practice): level in dB over frequency, 0 dB at 1 kHz or near it. */
export const targets = {
  'flat': { name: 'target.flat', level: () => 0 },
  'tilt': { name: 'target.tilt', level: f => -beyond(f, 1000) },
  'low-shelf': { name: 'target.lowShelf', level: f =>
    step(f, 120, 4) - 0.7 * beyond(f, 2000) },
  'speech': { name: 'target.speech', level: f =>
    -2 * beyond(150, f) - 3 * beyond(f, 5000) },
} as const satisfies Record<string, { name: string, level: (f: Hertz) => Decibels }>
export type TargetId = keyof typeof targets
