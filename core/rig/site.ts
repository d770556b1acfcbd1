import * as v from 'valibot'
import {
  airEnergyLoss,
  boundsOf,
  eyring,
  isInside,
  loudspeakerIds,
  materialIds,
  materials,
  octaveBands,
  outlineFaults,
  roomAreas,
  type PerOctave,
} from '../acoustics'
import type { Seconds } from '../units'
import { mostSeats } from './seats'

const between = (min: number, max: number, what: string, unit: string) =>
  v.pipe(
    v.number(`${what} must be a number`),
    v.finite(`${what} must be a number`),
    v.minValue(min, `${what} must be ${min} to ${max} ${unit}`),
    v.maxValue(max, `${what} must be ${min} to ${max} ${unit}`),
  )
const name = v.pipe(
  v.string(),
  v.trim(),
  v.minLength(1, 'A name needs at least one character'),
  v.maxLength(80, 'A name has at most 80 characters'),
)
export const SiteName = name

/** Metres: x along the room from the stage wall, y across it from house left, z up from the floor. */
export const Place = v.strictObject({
  x: between(-500, 500, 'x', 'm'),
  y: between(-500, 500, 'y', 'm'),
  z: between(-500, 500, 'z', 'm'),
})
export type Place = v.InferOutput<typeof Place>

/** One connector of one device; `channel` counts from 0. */
export const Endpoint = v.strictObject({
  device: v.string(),
  channel: v.pipe(v.number(), v.integer(), v.minValue(0)),
})
export type Endpoint = v.InferOutput<typeof Endpoint>

/** A cable from an output to an input. */
export const Wire = v.strictObject({ from: Endpoint, to: Endpoint })
export type Wire = v.InferOutput<typeof Wire>

/** Degrees: `turn` from the room's length towards house right, `tilt` down from level. */
export const Aim = v.strictObject({
  turn: between(-180, 180, 'The turn', '°'),
  tilt: between(-90, 90, 'The tilt', '°'),
})

/** One cabinet: where it stands, where it looks, what it is, and the output that drives it. */
export const Element = v.strictObject({
  model: v.picklist(loudspeakerIds),
  place: Place,
  aim: Aim,
  output: Endpoint,
})
export type Element = v.InferOutput<typeof Element>

/**
 * What is tuned as one: a loudspeaker, or identical ones driven together. `hue` numbers its colour among the
 * sources.
 */
export const Source = v.strictObject({
  id: v.string(),
  name,
  hue: v.pipe(v.number(), v.integer(), v.minValue(0)),
  elements: v.pipe(v.array(Element), v.minLength(1, 'A source needs at least one cabinet'), v.maxLength(64)),
})
export type Source = v.InferOutput<typeof Source>

/** A place for a microphone; `dash` numbers its line style among the positions, `weight` counts in averages. */
export const Position = v.strictObject({
  id: v.string(),
  name,
  place: Place,
  weight: between(0, 10, 'The weight', ''),
  dash: v.pipe(v.number(), v.integer(), v.minValue(0)),
})
export type Position = v.InferOutput<typeof Position>

/** A finish from the table, or its absorption per octave from 63 Hz to 8 kHz. */
export const Surface = v.union([
  v.picklist(materialIds),
  v.pipe(
    v.array(between(0, 1, 'An absorption', '')),
    v.length(octaveBands.length, `An absorption has ${octaveBands.length} octaves`),
  ),
])
export type Surface = v.InferOutput<typeof Surface>

export const sides = ['front', 'back', 'left', 'right', 'floor', 'ceiling'] as const
export type Side = (typeof sides)[number]

/** Temperature in °C, relative humidity in %, static pressure in kPa. */
export const AirState = v.strictObject({
  temperature: between(-20, 50, 'The temperature', '°C'),
  humidity: between(1, 100, 'The humidity', '%'),
  pressure: between(50, 110, 'The pressure', 'kPa'),
})

/** Corners seen from above, in order. */
export const OutlineSchema = v.pipe(
  v.array(v.strictObject({ x: between(0, 300, 'x', 'm'), y: between(0, 300, 'y', 'm') })),
  v.minLength(3, 'An outline needs at least three corners'),
  v.maxLength(40, 'An outline has at most 40 corners'),
)

export const areaKinds = { seating: 'Seating or standing', balcony: 'Balcony', stage: 'Stage' } as const

/**
 * A part of the floor: seats or standing room, a balcony, a stage. `floor` and `rear` are its floor's height in
 * metres at its front
 * and at its back; `rows` and `seats` the spacing of places along and across; `ear` the ears' height above its floor.
 */
export const Area = v.strictObject({
  id: v.string(),
  name,
  kind: v.picklist(Object.keys(areaKinds) as (keyof typeof areaKinds)[]),
  outline: OutlineSchema,
  floor: between(0, 100, 'The floor', 'm'),
  rear: between(0, 100, 'The floor at the back', 'm'),
  rows: between(0.4, 5, 'The row spacing', 'm'),
  seats: between(0.3, 5, 'The seat spacing', 'm'),
  ear: between(0.5, 2.2, 'The ear height', 'm'),
})
export type Area = v.InferOutput<typeof Area>

const length = (what: string) => between(1, 300, `The room's ${what}`, 'm')

export const SitePlan = v.strictObject({
  room: v.strictObject({
    size: v.strictObject({ x: length('length'), y: length('width'), z: length('height') }),
    /**
     * Null: the rectangle of `size`; otherwise the walls seen from above, reaching from 0 to `size` along and
     * across.
     */
    outline: v.optional(v.nullable(OutlineSchema), null),
    surfaces: v.strictObject(Object.fromEntries(sides.map(s => [s, Surface])) as Record<Side, typeof Surface>),
  }),
  areas: v.optional(v.pipe(v.array(Area), v.maxLength(50)), []),
  air: AirState,
  /** The air expected at show time. */
  airLater: AirState,
  /** The interface output that feeds the system with Kovrin's test signal. */
  feed: Endpoint,
  wires: v.array(Wire),
})
export type SitePlan = v.InferOutput<typeof SitePlan>

/** Absorption per octave of a surface. */
export const absorptionOf = (surface: Surface): PerOctave =>
  typeof surface === 'string' ? materials[surface].absorption : surface

/** Decay time per octave of a site's room (Eyring, with the air's own loss). */
export function roomDecay({ room, air }: Pick<SitePlan, 'room' | 'air'>): Seconds[] {
  const { volume, ...areas } = roomAreas(room)
  return eyring(
    volume,
    sides.map(s => ({ area: areas[s], absorption: absorptionOf(room.surfaces[s]) })),
    airEnergyLoss(air),
  )
}

/** Most places that the areas of a site may have together. */
const mostPlaces = 20_000

/**
 * Why a plan cannot be: walls that do not close, everything that stands outside the room, in words. Empty when
 * it can.
 */
export function planFaults(plan: SitePlan, sources: readonly Source[], positions: readonly Position[]): string[] {
  const { size, outline } = plan.room
  const areas = plan.areas
  const broken = [
    ...(outline ? outlineFaults(outline, 'The room') : []),
    ...areas.flatMap(a => outlineFaults(a.outline, a.name)),
  ]
  if (broken.length) return broken
  if (outline) {
    const { x, y } = boundsOf(outline)
    if (x[0] !== 0 || y[0] !== 0 || Math.abs(x[1] - size.x) > 0.001 || Math.abs(y[1] - size.y) > 0.001)
      return [`The room’s corners must reach from 0 to its length of ${size.x} m and its width of ${size.y} m.`]
  }
  const floor = (p: { x: number, y: number }) =>
    p.x >= 0 && p.x <= size.x && p.y >= 0 && p.y <= size.y && (!outline || isInside(outline, p))
  const inside = (p: Place) => p.z >= 0 && p.z <= size.z && floor(p)
  const where = (p: Place) => `${p.x} / ${p.y} / ${p.z} m`
  const places = areas.reduce((sum, a) => sum + (a.kind === 'stage' ? 0 : mostSeats(a)), 0)
  return [
    ...sources.flatMap(s =>
      s.elements
        .filter(e => !inside(e.place))
        .map(e => `${s.name} at ${where(e.place)} stands outside the room of ${where(size)}.`),
    ),
    ...positions
      .filter(p => !inside(p.place))
      .map(p => `${p.name} at ${where(p.place)} lies outside the room of ${where(size)}.`),
    ...areas
      .filter(a => !a.outline.every(floor) || Math.max(a.floor, a.rear) > size.z)
      .map(a => `${a.name} reaches outside the room of ${where(size)}.`),
    ...(areas.length !== new Set(areas.map(a => a.id)).size ? ['Two areas have the same key.'] : []),
    ...(places > mostPlaces
      ? [
          `The areas have ${places} places together; at most ${mostPlaces} can be drawn. Set rows or seats `
          + `farther apart.`,
        ]
      : []),
  ]
}

/** Outputs that drive a source, each once. */
export const sourceOutputs = (source: Source) =>
  source.elements
    .map(e => e.output)
    .filter((o, k, all) => all.findIndex(p => p.device === o.device && p.channel === o.channel) === k)
