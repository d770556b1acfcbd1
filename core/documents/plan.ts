import * as v from 'valibot'
import {
  absorptionOf,
  Aim,
  Air,
  airEnergyLoss,
  between,
  eyring,
  OutlineSchema,
  Place,
  roomAreas,
  Surface,
} from '../acoustics'
import type { Seconds } from '../units'
import { hue, id, name, order } from './parts'

export const SiteInfo = v.strictObject({
  name,
  archived: v.boolean(),
  deleted: v.boolean(),
  /** What all sources aim for: a target of the site or one of the library; flat unless it is told. */
  target: v.optional(id),
  /** The stand-in hall whose hidden faults are heard where the sound is simulated; none where it is not told. */
  hall: v.optional(v.literal('ropewalk')),
  /** Steps of the run sheet that are not done on purpose. */
  skipped: v.optional(v.pipe(v.array(v.pipe(v.string(), v.maxLength(140))), v.maxLength(500))),
})
export type SiteInfo = v.InferOutput<typeof SiteInfo>

/** One cabinet: what it is (a sheet), where it stands, where it looks. What drives it stands in the wiring. */
export const Element = v.strictObject({ sheet: id, place: Place, aim: Aim })
export type Element = v.InferOutput<typeof Element>

/**
 * What is tuned as one: a loudspeaker, or identical ones driven together. `hue` numbers its colour among the
 * sources.
 */
export const Source = v.strictObject({
  id,
  name,
  order,
  hue,
  /** What it aims for by itself, otherwise than the site. */
  target: v.optional(id),
  /** What it is for, where its kind and place do not tell it right. */
  role: v.optional(v.picklist(['main', 'sub', 'fill'])),
  elements: v.pipe(v.array(Element), v.minLength(1, 'A source needs at least one cabinet'), v.maxLength(64)),
})
export type Source = v.InferOutput<typeof Source>

/** A place for a microphone; `dash` numbers its line style among the positions, `weight` counts in averages. */
export const Position = v.strictObject({
  id,
  name,
  order,
  place: Place,
  weight: between(0, 10, 'The weight', ''),
  dash: hue,
})
export type Position = v.InferOutput<typeof Position>

export const sides = ['front', 'back', 'left', 'right', 'floor', 'ceiling'] as const
export type Side = (typeof sides)[number]

export const areaKinds = { seating: 'area.seating', balcony: 'area.balcony', stage: 'area.stage' } as const

/**
 * A part of the floor: seats or standing room, a balcony, a stage. `floor` and `rear` are its floor's height in
 * metres at its
 * front and at its back; `rows` and `seats` the spacing of places along and across; `ear` the ears' height
 * above its floor.
 */
export const Area = v.strictObject({
  id,
  name,
  order,
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

/** The room and its air. */
export const Plan = v.strictObject({
  room: v.strictObject({
    size: v.strictObject({ x: length('length'), y: length('width'), z: length('height') }),
    /**
     * Null: the rectangle of `size`; otherwise the walls seen from above, reaching from 0 to `size` along and
     * across.
     */
    outline: v.nullable(OutlineSchema),
    surfaces: v.strictObject(Object.fromEntries(sides.map(s => [s, Surface])) as Record<Side, typeof Surface>),
  }),
  air: Air,
  /** The air expected at show time. */
  airLater: Air,
})
export type Plan = v.InferOutput<typeof Plan>

/** Decay time per octave of a site's room (Eyring, with the air's own loss). */
export function roomDecay({ room, air }: Pick<Plan, 'room' | 'air'>): Seconds[] {
  const { volume, ...areas } = roomAreas(room)
  const boundaries = sides.map(s => ({ area: areas[s], absorption: absorptionOf(room.surfaces[s]) }))
  return eyring(volume, boundaries, airEnergyLoss(air))
}

/**
 * Which of a source's cabinets and a position's microphone stand elsewhere than when a take was made (by more
 * than 5 mm).
 */
export function movedParts(
  geometry: { cabinets: readonly Place[], microphone: Place },
  source: Source,
  position: Position,
): { source: boolean, position: boolean } {
  const apart = (a: Place, b: Place | undefined) => !b || Math.hypot(a.x - b.x, a.y - b.y, a.z - b.z) > 0.005
  const count = source.elements.length !== geometry.cabinets.length
  return {
    source: count || source.elements.some((e, n) => apart(e.place, geometry.cabinets[n])),
    position: apart(position.place, geometry.microphone),
  }
}
