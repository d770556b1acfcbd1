import { realFft } from '../dsp'
import type { Hertz, Seconds } from '../units'
import { combOf, type Comb } from './comb'
import { arrivalsOf, type EchoArrival } from './decayMap'
import { ringingModes, type Mode } from './ringing'
import { roomCoherence, type Averaged } from './roomCoherence'
import { sourceBandOf } from './sourceBand'

/** What a running average's response says of source and room. */
export interface RoomTold {
  /** Where the source plays, 10 dB under its strongest; null when nothing stands out. */
  band: [low: Hertz, high: Hertz] | null
  echoes: EchoArrival[]
  modes: Mode[]
  comb: Comb | null
  /** Part of the energy within 50 ms of the arrival, the noise's taken off both sides. */
  definition: number
  /** Coherence that the room alone would leave in the measurement's blocks; null where that is not known. */
  coherence: number | null
}

const early: Seconds = 0.05
const ahead: Seconds = 0.002
/** Before the arrival the noise is told; so near to it a source's own pulse begins. */
const clearOf: Seconds = 0.02
/** A source must reach up to here for single reflections, and to there for combs, to be told in it. */
const echoesFrom: Hertz = 2000
const combsFrom: Hertz = 8000
/** Reflections are looked for so long. */
const echoesWithin: Seconds = 0.1
const bandFrames = 2 ** 15

function bandAt(samples: Float32Array, at: number, sampleRate: Hertz): RoomTold['band'] {
  const part = new Float64Array(bandFrames)
  const from = Math.max(0, at - Math.round(clearOf * sampleRate))
  const count = Math.min(bandFrames, samples.length - from, Math.round(0.2 * sampleRate))
  for (let n = 0; n < count; n++) part[n] = samples[from + n]! * Math.min(1, (2 * (count - n)) / count)
  const [re, im] = [new Float64Array(bandFrames / 2 + 1), new Float64Array(bandFrames / 2 + 1)]
  realFft(bandFrames).forward(part, re, im)
  const power = re.map((v, k) => v * v + im[k]! * im[k]!)
  const band = sourceBandOf(power, sampleRate / bandFrames, Math.min(20_000, 0.45 * sampleRate))
  return band && [band.low, band.high]
}

/** Early over all energy; noise is what lies before the arrival, and everywhere as much. */
function definitionOf(samples: Float32Array, at: number, sampleRate: Hertz): number {
  const quiet = Math.max(1, at - Math.round(clearOf * sampleRate))
  let noise = 0
  for (let n = 0; n < quiet; n++) noise += samples[n]! ** 2 / quiet
  const from = at - Math.round(ahead * sampleRate)
  const border = at + Math.round(early * sampleRate)
  let within = 0
  let after = 0
  for (let n = Math.max(0, from); n < samples.length; n++) {
    const energy = samples[n]! ** 2 - noise
    if (n < border) within += energy
    else after += energy
  }
  return within > 0 ? within / (within + Math.max(0, after)) : 0
}

/** Reads source and room off a response whose arrival lies at sample `at`. */
export function roomTold(samples: Float32Array, sampleRate: Hertz, at: number, made: Averaged): RoomTold {
  const band = bandAt(samples, at, sampleRate)
  const high = band?.[1] ?? 0
  const apart = Math.max(0.0006, 1.5 / Math.max(1, high))
  return {
    band,
    echoes:
      high < echoesFrom
        ? []
        : arrivalsOf(
            samples.subarray(0, at + Math.round(echoesWithin * sampleRate)),
            sampleRate,
            -at / sampleRate,
            8,
            24,
            apart,
          ),
    modes: ringingModes(samples, sampleRate, at),
    comb: high < combsFrom ? null : combOf(samples, sampleRate, at),
    definition: definitionOf(samples, at, sampleRate),
    coherence: roomCoherence(samples, at, sampleRate, band, made),
  }
}
