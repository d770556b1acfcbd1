import * as v from 'valibot'
import { highShelf, lowShelf, peaking, type Section } from '../../dsp'
import { showFrequency, showLevel } from '../../units'
import { base, defineBlock, finite, Range, within } from './kind'
import { refusal, phrase } from '../../words'

const GraphicCapability = v.strictObject({
  kind: v.literal('graphic'),
  ...base,
  /** Middle of each band in Hz, upwards. */
  frequencies: v.pipe(v.array(v.pipe(finite, v.minValue(1))), v.minLength(1), v.maxLength(61)),
  q: v.pipe(finite, v.minValue(0.1)),
  gain: Range,
  /** Its lowest and its highest band are shelves: a tone control. */
  shelves: v.optional(v.boolean()),
})
export type GraphicCapability = v.InferOutput<typeof GraphicCapability>

function sectionOf({ frequencies, q, shelves }: GraphicCapability, k: number, level: number, rate: number): Section {
  const f = frequencies[k]!
  if (shelves && k === 0) return lowShelf(f, level, q, rate)
  if (shelves && k === frequencies.length - 1) return highShelf(f, level, q, rate)
  return peaking(f, level, q, rate)
}

/** A graphic EQ: one level in dB for each of its bands. */
export const graphic = defineBlock({
  kind: 'graphic',
  capability: GraphicCapability,
  value: v.array(finite),
  name: ({ shelves }) => (shelves ? phrase('rig.tone') : phrase('rig.graphicEq')),
  neutral: ({ frequencies }) => frequencies.map(() => 0),
  hold: ({ frequencies, gain }, wish, name) => {
    if (wish.length !== frequencies.length) {
      throw refusal('block.bands', { name, has: frequencies.length, given: wish.length })
    }
    return wish.map((level, k) => within(level, gain, showLevel, `${name} at ${showFrequency(frequencies[k]!)}`))
  },
  show: (value, c) => {
    const set = value.flatMap((level, k) => (level === 0 ? [] : [{ level, f: c?.frequencies[k] }]))
    if (!set.length) return phrase('rig.flat')
    const words = set
      .slice(0, 3)
      .map(({ level, f }) => (f ? `${showFrequency(f)} ${showLevel(level)}` : showLevel(level)))
    const said = words.join(', ')
    return set.length > 3 ? phrase('rig.andMore', { said, more: set.length - 3 }) : said
  },
  part: (value, c, rate) => ({
    sections: value.flatMap((level, k) => (level === 0 ? [] : [sectionOf(c, k, level, rate)])),
  }),
  stales: () => true,
  role: 'linear',
  mayRaise: true,
  fields: {},
})
