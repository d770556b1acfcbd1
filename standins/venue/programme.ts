import { bandPass, filterInPlace, seededRandom } from '../../core/dsp'
import type { Hertz, Seconds } from '../../core/units'

/** Seconds of the piece, of which the last `rest` are silence between two songs. */
const lasts: Seconds = 16
const rest: Seconds = 1.5
const beat: Seconds = 0.5

/**
 * What the simulated console plays: an invented little piece for drums, bass, chords and a tune, in stereo, RMS
 * about -18 dBFS while it plays.
 */
function compose(sampleRate: Hertz): [Float32Array, Float32Array] {
  const frames = Math.round(lasts * sampleRate)
  const left = new Float64Array(frames)
  const right = new Float64Array(frames)
  const random = seededRandom(1789)
  /** Adds `length` seconds of a sound that begins at `at`, panned from 0 (left) to 1. */
  const add = (at: Seconds, length: Seconds, pan: number, sound: (t: Seconds) => number) => {
    const from = Math.round(at * sampleRate)
    const count = Math.min(Math.round(length * sampleRate), frames - from)
    for (let n = 0; n < count; n++) {
      const v = sound(n / sampleRate)
      left[from + n]! += v * (1 - pan)
      right[from + n]! += v * pan
    }
  }
  const noise = (f1: Hertz, f2: Hertz, length: Seconds) => {
    const x = Float64Array.from({ length: Math.round(length * sampleRate) }, () => random() * 2 - 1)
    filterInPlace(x, bandPass(2, f1, f2, sampleRate))
    return (t: Seconds) => x[Math.min(x.length - 1, Math.floor(t * sampleRate))]!
  }
  const snare = noise(900, 6000, 0.25)
  const hat = noise(7000, 18_000, 0.1)
  const swell = (t: number, length: number) => Math.min(1, t / 0.02) * Math.min(1, Math.max(0, (length - t) / 0.05))
  const tone = (f: Hertz, harmonics: number, length: Seconds) => (t: Seconds) => {
    let v = 0
    for (let h = 1; h <= harmonics; h++) v += Math.sin(2 * Math.PI * f * h * t) / h
    return v * swell(t, length)
  }
  const roots = [110, 87.31, 130.81, 98]
  const chord = [2, 2.52, 3]
  const tune = [8, 9, 10, 12, 10, 9, 8, 6]
  const beats = Math.floor((lasts - rest) / beat)
  for (let b = 0; b < beats; b++) {
    const at = b * beat
    const root = roots[Math.floor(b / 4) % roots.length]!
    if (b % 2 === 0)
      add(
        at,
        0.3,
        0.5,
        t => 0.9 * Math.exp(-t * 14) * Math.sin(2 * Math.PI * (48 * t + 3.2 * (1 - Math.exp(-t * 30)))),
      )
    else add(at, 0.25, 0.5, t => 0.5 * Math.exp(-t * 16) * snare(t))
    for (const half of [0, 0.5]) add(at + half * beat, 0.09, 0.65, t => 0.3 * Math.exp(-t * 45) * hat(t))
    const bass = tone(root / 2, 5, beat)
    const lead = tone((root * tune[(b * 3) % tune.length]!) / 2, 7, beat)
    add(at, beat, 0.5, t => 0.22 * bass(t))
    add(at, beat, 0.4, t => 0.07 * lead(t))
    const held = Math.min(4 * beat, lasts - rest - at)
    if (b % 4 === 0)
      chord.forEach((ratio, n) => {
        const pad = tone(root * ratio, 4, held)
        add(at, held, [0.2, 0.5, 0.8][n]!, t => 0.05 * pad(t))
      })
  }
  const rms = Math.sqrt(left.reduce((s, v) => s + v * v, 0) / frames)
  const gain = 10 ** (-18 / 20) / rms
  return [Float32Array.from(left, v => v * gain), Float32Array.from(right, v => v * gain)]
}

/** The console's programme, played again and again; it is composed when it is first switched on. */
export function createProgramme(sampleRate: Hertz) {
  let tables: [Float32Array, Float32Array] | null = null
  let at = 0
  let gain = 0
  let aim = 0
  const step = 1 / (0.05 * sampleRate)
  return {
    play(on: boolean) {
      if (on) tables ??= compose(sampleRate)
      aim = on ? 1 : 0
    },
    /** The next samples of both sides; a change fades over 50 ms. */
    fill(left: Float32Array, right: Float32Array) {
      for (let n = 0; n < left.length; n++) {
        if (gain !== aim) gain = aim > gain ? Math.min(1, gain + step) : Math.max(0, gain - step)
        left[n] = gain && tables ? gain * tables[0][at]! : 0
        right[n] = gain && tables ? gain * tables[1][at]! : 0
        if (gain && tables) at = at + 1 === tables[0].length ? 0 : at + 1
      }
    },
  }
}
