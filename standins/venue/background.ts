import { pinkNoise, seededRandom, signalSource } from '../../core/dsp'
import { ratioOf, type Hertz } from '../../core/units'
import { backgrounds, type BackgroundId } from './offers'

type Fill = (block: Float32Array) => void

/** One-pole low-pass over a source of noise, brought back to RMS 1 at the first blocks' level. */
function lowPassed(source: Fill, f: Hertz, sampleRate: Hertz): Fill {
  const a = Math.exp((-2 * Math.PI * f) / sampleRate)
  let y = 0
  const trial = new Float32Array(2 ** 15)
  const raw: Fill = (block) => {
    source(block)
    for (let n = 0; n < block.length; n++) block[n] = y = (1 - a) * block[n]! + a * y
  }
  raw(trial)
  const gain = 1 / Math.sqrt(trial.reduce((sum, v) => sum + v * v, 0) / trial.length)
  return (block) => {
    raw(block)
    for (let n = 0; n < block.length; n++) block[n]! *= gain
  }
}

/** A slow random envelope between `low` and 1 that never jumps: a new aim every `seconds`. */
function swelling(source: Fill, low: number, seconds: number, sampleRate: Hertz, seed: number): Fill {
  const random = seededRandom(seed)
  const rate = 1 / (seconds * sampleRate)
  let from = 1
  let to = low + (1 - low) * random()
  let t = 0
  return (block) => {
    source(block)
    for (let n = 0; n < block.length; n++) {
      t += rate
      if (t >= 1) {
        t = 0
        from = to
        to = low + (1 - low) * random()
      }
      block[n]! *= from + (to - from) * (0.5 - 0.5 * Math.cos(Math.PI * t))
    }
  }
}

/** 50 Hz and the harmonics that a rectifier leaves, RMS 1. */
function hum(sampleRate: Hertz): Fill {
  const parts = [
    [50, 1],
    [100, 0.7],
    [150, 0.5],
    [250, 0.3],
    [350, 0.2],
  ] as const
  const gain = 1 / Math.sqrt(parts.reduce((sum, [, a]) => sum + (a * a) / 2, 0))
  let frame = 0
  return (block) => {
    for (let n = 0; n < block.length; n++, frame++) {
      let v = 0
      for (const [f, a] of parts) v += a * Math.sin((2 * Math.PI * f * frame) / sampleRate)
      block[n] = v * gain
    }
  }
}

/** Adds the chosen background to blocks of sound; a change fades over one block. */
export function createBackground(sampleRate: Hertz) {
  const pink = (seed: number) => pinkNoise(sampleRate, seed)
  const fills: Record<BackgroundId, Fill> = {
    empty: pink(4711),
    hum: hum(sampleRate),
    air: lowPassed(pink(31), 180, sampleRate),
    audience: swelling(lowPassed(pink(32), 1800, sampleRate), 0.35, 1.3, sampleRate, 5),
    tram: swelling(lowPassed(pink(33), 60, sampleRate), 0.01, 9, sampleRate, 6),
    wind: swelling(lowPassed(pink(34), 40, sampleRate), 0.1, 2.5, sampleRate, 7),
    calibrator: signalSource({ kind: 'sine', frequency: 1000 }, sampleRate, 1),
  }
  let now: BackgroundId = 'empty'
  let next: BackgroundId = 'empty'
  let work = new Float32Array(0)
  const add = (block: Float32Array, id: BackgroundId, from: number, to: number) => {
    fills[id](work)
    const level = ratioOf(backgrounds[id].level)
    for (let n = 0; n < block.length; n++) block[n]! += work[n]! * level * (from + ((to - from) * n) / block.length)
  }
  return {
    choose(id: BackgroundId) {
      next = id
    },
    addTo(block: Float32Array) {
      if (work.length !== block.length) work = new Float32Array(block.length)
      add(block, 'empty', 1, 1) // the microphone's own noise is always there
      if (now === next) {
        if (now !== 'empty') add(block, now, 1, 1)
      }
      else {
        if (now !== 'empty') add(block, now, 1, 0)
        if (next !== 'empty') add(block, next, 0, 1)
        now = next
      }
    },
  }
}
