import { besselI0 } from './interpolate'

/** A low-pass of `length` taps (a sinc under a Kaiser window, Kaiser 1974), cut-off in parts of the sample rate. */
export function kaiserLowPass(length: number, cutoff: number, beta: number): Float64Array {
  const edge = besselI0(beta)
  const middle = (length - 1) / 2
  return Float64Array.from({ length }, (_, n) => {
    const t = n - middle
    const sinc = t === 0 ? 2 * cutoff : Math.sin(2 * Math.PI * cutoff * t) / (Math.PI * t)
    return (sinc * besselI0(beta * Math.sqrt(1 - (t / middle) ** 2))) / edge
  })
}

/** Taps a phase, and the window's shape: flat within 0.001 dB up to 0.45 of the rate, images 80 dB down from 0.55. */
const taps = 56
const beta = 8

/**
 * Values between the samples: `push` takes one sample and fills `out` with `factor` values at `factor` times
 * the rate, `delay` samples late. Allocates nothing.
 */
export function createOversampler(factor: 2 | 4) {
  const whole = kaiserLowPass(factor * taps, 0.5 / factor, beta)
  const phases = whole.map(v => factor * v)
  // twice, one behind the other: the newest `taps` samples always lie in one piece
  const line = new Float64Array(2 * taps)
  let at = 0
  const out = new Float64Array(factor)
  // all phases in one loop: each sum waits only for itself
  function two() {
    let a = 0
    let b = 0
    for (let k = 0; k < taps; k++) {
      const x = line[at + k]!
      a += phases[2 * k]! * x
      b += phases[2 * k + 1]! * x
    }
    out[0] = a
    out[1] = b
  }
  function four() {
    let a = 0
    let b = 0
    let c = 0
    let d = 0
    for (let k = 0; k < taps; k++) {
      const x = line[at + k]!
      a += phases[4 * k]! * x
      b += phases[4 * k + 1]! * x
      c += phases[4 * k + 2]! * x
      d += phases[4 * k + 3]! * x
    }
    out[0] = a
    out[1] = b
    out[2] = c
    out[3] = d
  }
  const fill = factor === 4 ? four : two
  return {
    out,
    delay: (factor * taps - 1) / 2 / factor,
    push(x: number): Float64Array {
      at = at === 0 ? taps - 1 : at - 1
      line[at] = x
      line[at + taps] = x
      fill()
      return out
    },
  }
}
