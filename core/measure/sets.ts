import * as v from 'valibot'
import { generatorTap, splitTap, type Tap } from './inputs'
import { phrase } from '../words'

const tapSchema = v.pipe(
  v.string(),
  v.check((t) => {
    try {
      splitTap(t)
      return true
    }
    catch {
      return false
    }
  }, 'names no input channel'),
)
const measurementSchema = v.object({
  id: v.string(),
  microphone: tapSchema,
  reference: tapSchema,
  /** Where the microphone stands; null: wherever the ledger's picked cell says. */
  position: v.nullable(v.string()),
  state: v.picklist(['on', 'paused', 'off']),
  /** Which feed of the rig the reference hears, as the user told; null: nobody knows. Left out where it is a fact. */
  hears: v.optional(v.nullable(v.string())),
})
/** One microphone held against one reference. */
export type Measurement = v.InferOutput<typeof measurementSchema>
export const measurementSetSchema = v.object({
  id: v.string(),
  name: v.string(),
  measurements: v.array(measurementSchema),
})
/** Measurements that run together, under a name. */
export type MeasurementSet = v.InferOutput<typeof measurementSetSchema>

/** Every channel that a set listens to, each once: first the microphones, then the references. */
export const tapsOf = (set: MeasurementSet): Tap[] => [
  ...new Set([...set.measurements.map(m => m.microphone), ...set.measurements.map(m => m.reference)]),
]

/** True when the two sides of a measurement come from different devices, and so from different clocks. */
export function twoClocks({ microphone, reference }: Measurement): boolean {
  const a = splitTap(microphone)
  const b = splitTap(reference)
  return a !== null && b !== null && a.key !== b.key
}

/**
 * Why measurements of a set cannot run, by id, in a sentence; those that can are not in it. `placeOf` tells where a
 * measurement's microphone stands, or null when nobody knows. Of two that are the same the later is refused.
 */
export function setFaults(set: MeasurementSet, placeOf: (m: Measurement) => string | null): Record<string, string> {
  const faults: Record<string, string> = {}
  const before: Measurement[] = []
  for (const m of set.measurements) {
    const twin = before.find(
      o => o.microphone === m.microphone && o.reference === m.reference && placeOf(o) === placeOf(m),
    )
    const elsewhere = before.find(o => o.microphone === m.microphone && placeOf(o) !== placeOf(m))
    if (m.microphone === generatorTap) faults[m.id] = phrase('measuring.kovrinsOwnNoiseIs')
    else if (m.microphone === m.reference)
      faults[m.id] = phrase('measuring.microphoneAndReferenceAre')
    else if (placeOf(m) === null && m.position !== null)
      faults[m.id] = phrase('measuring.itsPositionIsNo')
    else if (twin)
      faults[m.id] = phrase('measuring.thisIsTheSame')
    else if (elsewhere) faults[m.id] = phrase('measuring.thisMicrophoneStandsAt')
    if (!faults[m.id] && m.state !== 'off') before.push(m)
  }
  return faults
}
