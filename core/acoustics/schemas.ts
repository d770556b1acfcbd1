import * as v from 'valibot'
import { materialIds, materials, octaveBands, type PerOctave } from './materials'

/** A number within bounds, with a sentence that names them. */
export const between = (min: number, max: number, what: string, unit: string) => {
  const bounds = `${what} must be ${min} to ${max}${unit ? ` ${unit}` : ''}`
  const number = `${what} must be a number`
  return v.pipe(v.number(number), v.finite(number), v.minValue(min, bounds), v.maxValue(max, bounds))
}

/** Metres: x along the room from the stage wall, y across it from house left, z up from the floor. */
export const Place = v.strictObject({
  x: between(-500, 500, 'x', 'm'),
  y: between(-500, 500, 'y', 'm'),
  z: between(-500, 500, 'z', 'm'),
})
export type Place = v.InferOutput<typeof Place>

/** Where a loudspeaker looks, in degrees: `turn` from the room's length towards house right, `tilt` down from level. */
export const Aim = v.strictObject({
  turn: between(-180, 180, 'The turn', '°'),
  tilt: between(-90, 90, 'The tilt', '°'),
})
export type Aim = v.InferOutput<typeof Aim>

/** The air of a site: temperature in °C, relative humidity in %, static pressure in kPa. */
export const Air = v.strictObject({
  temperature: between(-20, 50, 'The temperature', '°C'),
  humidity: between(1, 100, 'The humidity', '%'),
  pressure: between(50, 110, 'The pressure', 'kPa'),
})
export type Air = v.InferOutput<typeof Air>

const coordinate = (axis: string) => between(0, 300, axis, 'm')

/** Corners seen from above, in order. */
export const OutlineSchema = v.pipe(
  v.array(v.strictObject({ x: coordinate('x'), y: coordinate('y') })),
  v.minLength(3, 'An outline needs at least three corners'),
  v.maxLength(40, 'An outline has at most 40 corners'),
)

const octaves = v.length<number[], number, string>(
  octaveBands.length,
  `One value for each of ${octaveBands.length} octaves is needed`,
)
/** A finish from the table, or its absorption per octave from 63 Hz to 8 kHz. */
export const Surface = v.union([
  v.picklist(materialIds),
  v.pipe(v.array(between(0, 1, 'An absorption', '')), octaves),
])
export type Surface = v.InferOutput<typeof Surface>

/** Absorption per octave of a surface. */
export const absorptionOf = (surface: Surface): PerOctave =>
  typeof surface === 'string' ? materials[surface].absorption : surface

/** A directivity factor per octave, 63 Hz to 8 kHz. */
export const Directivity = v.pipe(v.array(between(1, 100, 'A directivity factor', '')), octaves)
