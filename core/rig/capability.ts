import * as v from 'valibot'
import { blockKinds, type BlockCapability } from './blocks'

const count = (most: number) => v.pipe(v.number(), v.integer(), v.minValue(0), v.maxValue(most))
const id = v.pipe(v.string(), v.regex(/^[\w-]+(\/[\w-]+)*$/, 'An address has letters, digits, _, - and /'))
const name = v.pipe(v.string(), v.maxLength(80))

/** A block as a device describes it. One of a kind that Kovrin does not know is kept as it is, and left alone. */
const Block = v.pipe(
  v.looseObject({ kind: v.string(), id: v.string() }),
  v.rawTransform(({ dataset: { value }, addIssue, NEVER }): BlockCapability => {
    const known = blockKinds.get(value.kind)
    if (!known) return value
    const read = v.safeParse(known.capability, value)
    if (read.success) return read.output
    const issue = read.issues[0]
    addIssue({ message: `${value.kind} ${value.id}: ${v.getDotPath(issue) ?? ''} ${issue.message}` })
    return NEVER
  }),
)

/** A connector. An output says which strip's signal leaves by it. */
export const Port = v.strictObject({
  name,
  kind: v.picklist(['line', 'microphone', 'network', 'loudspeaker']),
  strip: v.optional(id),
  /** RMS voltage of a sine at its full scale; left out where the device does not tell. */
  fullScale: v.optional(v.pipe(v.number(), v.minValue(0.001), v.maxValue(1000))),
})
export type Port = v.InferOutput<typeof Port>

/** Where a strip's signal comes from: a connector, another strip, or a mixer; or the device does not say it. */
const From = v.union([
  v.strictObject({ untold: v.literal(true) }),
  v.strictObject({ port: count(511) }),
  v.strictObject({ strip: id }),
  v.strictObject({ mixer: id }),
])

/** A channel of a device: its blocks in the order in which the signal passes them. */
export const Strip = v.strictObject({ id, name, from: From, blocks: v.pipe(v.array(Block), v.maxLength(200)) })
export type Strip = v.InferOutput<typeof Strip>

/** Strips that feed strips, each at a level of its own. */
const Mixer = v.strictObject({ id, name, from: v.array(id), to: v.array(id), crosspoint: Block })
export type Mixer = v.InferOutput<typeof Mixer>

const Sensor = v.strictObject({
  id,
  name,
  kind: v.picklist(['level', 'gain-reduction', 'temperature', 'voltage', 'current', 'impedance']),
  strip: v.optional(id),
})

const Shape = v.strictObject({
  version: v.literal(2),
  model: v.string(),
  kind: v.picklist(['processor', 'amplifier', 'interface', 'loudspeaker', 'controller']),
  firmware: v.optional(v.string()),
  /** Rate in Hz at which its filters run. */
  sampleRate: v.pipe(v.number(), v.minValue(8000), v.maxValue(768_000)),
  /** Time in seconds from input to output with every delay at zero. */
  latency: v.pipe(v.number(), v.minValue(0), v.maxValue(1)),
  inputs: v.pipe(v.array(Port), v.maxLength(512)),
  outputs: v.pipe(v.array(Port), v.maxLength(512)),
  strips: v.pipe(v.array(Strip), v.maxLength(1024)),
  mixers: v.pipe(v.array(Mixer), v.maxLength(16)),
  sensors: v.pipe(v.array(Sensor), v.maxLength(2048)),
  /** Presets that it can keep. */
  slots: count(1000),
  /** What it does not tell and is assumed: such figures are not to be trusted. */
  assumed: v.optional(v.array(v.picklist(['sampleRate', 'latency']))),
  /** What of it is not understood, by its place and class: it is left alone. */
  leftAlone: v.optional(v.pipe(v.array(v.strictObject({ at: v.string(), class: v.string() })), v.maxLength(2000))),
})

/** Every name that a capability uses and does not have, in words. */
function loose({ inputs, outputs, strips, mixers }: v.InferOutput<typeof Shape>): string[] {
  const has = new Set(strips.map(s => s.id))
  const mixing = new Set(mixers.map(m => m.id))
  const missing = (what: string, at: string) => [`${what} names ${at}, which is not there`]
  return [
    ...(has.size === strips.length ? [] : ['Two strips have the same address']),
    ...outputs.flatMap(o => (o.strip === undefined || has.has(o.strip) ? [] : missing(o.name, o.strip))),
    ...mixers.flatMap(m => [...m.from, ...m.to].flatMap(s => (has.has(s) ? [] : missing(m.name, s)))),
    ...strips.flatMap(({ name, from }) => {
      if ('port' in from) return from.port < inputs.length ? [] : missing(name, `input ${from.port + 1}`)
      if ('strip' in from) return has.has(from.strip) ? [] : missing(name, from.strip)
      if ('untold' in from) return []
      return mixing.has(from.mixer) ? [] : missing(name, from.mixer)
    }),
  ]
}

/** Most strips into a mixer, and out of it; most parameters of a device: what is more cannot be kept in step. */
const mostMixed = 64
const mostParameters = 20_000

/** What of a capability is more than can be kept in step, in words; null: nothing. */
function tooMuch({ strips, mixers }: v.InferOutput<typeof Shape>): string | null {
  const large = mixers.find(m => m.from.length > mostMixed || m.to.length > mostMixed)
  if (large) {
    return `${large.name} mixes ${large.from.length} into ${large.to.length} strips: `
      + `at most ${mostMixed} into ${mostMixed} are taken`
  }
  const ofStrips = strips.flatMap(s => s.blocks).reduce((sum, b) => sum + Math.max(1, Number(b.count ?? 1) || 1), 0)
  const parameters = ofStrips + mixers.reduce((sum, m) => sum + m.from.length * m.to.length, 0)
  return parameters > mostParameters
    ? `It has ${parameters} parameters: at most ${mostParameters} are taken`
    : null
}

/** What a device is able to do, as the device itself states it. Data, never code. */
export const Capability = v.pipe(
  Shape,
  v.check(c => tooMuch(c) === null, issue => tooMuch(issue.input as v.InferOutput<typeof Shape>)!),
  v.check(c => loose(c).length === 0, issue => loose(issue.input as v.InferOutput<typeof Shape>).join('; ')),
)
export type Capability = v.InferOutput<typeof Capability>
