import * as v from 'valibot'

const finite = v.pipe(v.number(), v.finite())
const name = v.pipe(v.string(), v.trim(), v.minLength(1, 'A name needs at least one character'), v.maxLength(80, 'A name has at most 80 characters'))

/** Metres: x along the room from the stage wall, y across it from house left, z up from the floor. */
export const Place = v.strictObject({ x: finite, y: finite, z: finite })
export type Place = v.InferOutput<typeof Place>

/** One connector of one device; `channel` counts from 0. */
export const Endpoint = v.strictObject({ device: v.string(), channel: v.pipe(v.number(), v.integer(), v.minValue(0)) })
export type Endpoint = v.InferOutput<typeof Endpoint>

/** A cable from an output to an input. */
export const Wire = v.strictObject({ from: Endpoint, to: Endpoint })
export type Wire = v.InferOutput<typeof Wire>

/** One cabinet: where it stands, what it is, and the output that drives it. */
export const Element = v.strictObject({ model: v.string(), place: Place, output: Endpoint })
export type Element = v.InferOutput<typeof Element>

/** What is tuned as one: a loudspeaker, or identical ones driven together. `hue` numbers its colour among the sources. */
export const Source = v.strictObject({ id: v.string(), name, hue: v.pipe(v.number(), v.integer(), v.minValue(0)), elements: v.pipe(v.array(Element), v.minLength(1)) })
export type Source = v.InferOutput<typeof Source>

/** A place for a microphone; `dash` numbers its line style among the positions, `weight` counts in averages. */
export const Position = v.strictObject({ id: v.string(), name, place: Place, weight: v.pipe(finite, v.minValue(0)), dash: v.pipe(v.number(), v.integer(), v.minValue(0)) })
export type Position = v.InferOutput<typeof Position>

export const SitePlan = v.strictObject({
  room: v.strictObject({ size: Place, decay: v.array(finite) }),
  air: v.strictObject({ temperature: finite, humidity: finite, pressure: finite }),
  /** The interface output that feeds the system with Kovrin's test signal. */
  feed: Endpoint,
  wires: v.array(Wire),
})
export type SitePlan = v.InferOutput<typeof SitePlan>

/** Outputs that drive a source, each once. */
export const sourceOutputs = (source: Source) =>
  source.elements.map(e => e.output).filter((o, k, all) => all.findIndex(p => p.device === o.device && p.channel === o.channel) === k)
