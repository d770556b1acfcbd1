import { realFft } from '../dsp'
import type { Hertz, Seconds } from '../units'
import { minimumPhasePulse } from './minimumPhase'
import { levelAt, sourceBandOf, type SourceBand } from './sourceBand'

/** Arrival of a source that may play only a part of the band. */
export interface BandArrival {
  time: Seconds
  /** Null where the band does not tell it. */
  polarity: 1 | -1 | null
  /** Standard deviation of `time`, from what the pulse does not explain. */
  uncertainty: Seconds
  band: [low: Hertz, high: Hertz]
  /** Part of the energy around the arrival that the source's own pulse explains, 0 to 1. */
  explained: number
}

/** Behind the arrival so many periods of the band's upper edge are compared, and before it so many of those. */
const compared = 0.7
const quietBefore = 2
/** Of what is heard around an arrival the pulse must explain so much. */
const leastExplained = 0.55
/** An arrival under the largest swing by more is none. */
const leastLevel = 0.1
/** How much better the best sign must fit than the other. */
const clearSign = 0.12
/** Part of the upper edge’s period that its shape is known to, and what is too uncertain to be told. */
const bandPart = 0.025
const mostUncertain: Seconds = 0.0014
/** dB an octave of an edge that `bandPart` is true of, and dB of it that are all that is needed. */
const usualSlope = 24
const wellSeen = 45
/** How much worse than the best a fit may be that the plan speaks for. */
const tie = 0.12

/** The response, what is not the source's turned down, and the source's own pulse treated the same. */
function prepare(re: Float64Array, im: Float64Array, sampleRate: Hertz, band: SourceBand) {
  const bins = re.length
  const size = 2 * (bins - 1)
  const bin = sampleRate / size
  const noise = 10 ** (Math.max(band.floor, -45) / 10)
  const weight = (level: number) => 10 ** (level / 10) / (10 ** (level / 10) + noise)
  const wr = new Float64Array(bins)
  const wi = new Float64Array(bins)
  for (let k = 1; k < bins - 1; k++) {
    const w = weight(levelAt(band.levels, k * bin))
    wr[k] = re[k]! * w
    wi[k] = im[k]! * w
  }
  const response = new Float64Array(size)
  realFft(size).inverse(wr, wi, response)
  const points = 2 ** 15
  const log = new Float64Array(points / 2 + 1)
  const pulseBin = sampleRate / points
  for (let k = 0; k < log.length; k++) log[k] = (levelAt(band.levels, Math.max(k, 0.5) * pulseBin) * Math.LN10) / 20
  const { phase } = minimumPhasePulse(log)
  const pr = new Float64Array(log.length)
  const pi = new Float64Array(log.length)
  for (let k = 1; k < log.length - 1; k++) {
    const magnitude = Math.exp(log[k]!) * weight(levelAt(band.levels, k * pulseBin))
    pr[k] = magnitude * Math.cos(phase[k]!)
    pi[k] = magnitude * Math.sin(phase[k]!)
  }
  const pulse = new Float64Array(points)
  realFft(points).inverse(pr, pi, pulse)
  return { response, pulse }
}

interface Fit {
  lag: number
  gain: number
  explained: number
  /** `explained`, the louder the more. */ score: number
}

type FitAt = (lag: number) => Fit
/** How well the pulse at a lag explains the response from before it to shortly behind. */
function fits(response: Float64Array, pulse: Float64Array, before: number, behind: number): FitAt {
  const shape = Float64Array.from({ length: before + behind }, (_, n) =>
    pulse[(n - before + pulse.length) % pulse.length]!)
  const own = shape.reduce((sum, p) => sum + p * p, 0)
  return (lag) => {
    let at = (((lag - before) % response.length) + response.length) % response.length
    let cross = 0
    let heard = 0
    for (let n = 0; n < shape.length; n++) {
      const h = response[at]!
      cross += h * shape[n]!
      heard += h * h
      if (++at === response.length) at = 0
    }
    return { lag, gain: cross / own, explained: heard > 0 ? (cross * cross) / (own * heard) : 0, score: 0 }
  }
}

/** (∫ pulse'² / ∫ pulse²)^½ in rad/s: how sharply it tells its time. */
function sharpness(pulse: Float64Array, before: number, behind: number, sampleRate: Hertz): number {
  let slope = 0
  let own = 0
  for (let n = -before; n < behind; n++) {
    const a = pulse[(n + pulse.length) % pulse.length]!
    const b = pulse[(n + 1 + pulse.length) % pulse.length]!
    slope += (b - a) ** 2
    own += a * a
  }
  return Math.sqrt(slope / own) * sampleRate
}

/**
 * What the source's own shape leaves open of its time: the steeper its upper edge, the more of its delay lies in a
 * slope that is only seen as far as the floor lets it.
 */
function shapeUncertainty({ levels, floor, high }: SourceBand): Seconds {
  const fall = (octaves: number) => (levelAt(levels, high) - levelAt(levels, high * 2 ** octaves)) / octaves
  // what a room adds may flatten its beginning
  const slope = Math.max(fall(1 / 3), fall(1))
  const hidden = 1 + Math.max(0, wellSeen + floor) / wellSeen
  return (bandPart / high) * Math.max(1, slope / usualSlope) ** 2 * hidden
}

/**
 * How much the room ripples the magnitude that the pulse was made from: the energy of what is not the first sound, re
 * the first sound's, 1 at most.
 */
function rippled(response: Float64Array, pulse: Float64Array, gain: number): number {
  const energyOf = (signal: Float64Array) => signal.reduce((sum, x) => sum + x * x, 0)
  const direct = gain * gain * energyOf(pulse)
  return Math.min(1, Math.max(0, energyOf(response) - direct) / direct)
}

/** Best of three neighbours by a parabola through how well they explain. */
function between(a: Fit, b: Fit, c: Fit): number {
  const d = a.explained - 2 * b.explained + c.explained
  return d < 0 ? b.lag + (0.5 * (b.lag - a.lag) * (a.explained - c.explained)) / d : b.lag
}

/**
 * First arrival in a response given on the bins of a real transform, between lags `from` and `to` in samples: the
 * lag at which the causal pulse of least delay with the source's own magnitude explains best what is heard from
 * before it to shortly behind it. Reverberation comes later and takes no part. `expected` (the plan's, in samples)
 * decides between fits that are about as good. Null when nothing is explained well.
 */
export function bandArrival(
  re: Float64Array,
  im: Float64Array,
  sampleRate: Hertz,
  from: number,
  to: number,
  expected: number | null = null,
): BandArrival | null {
  const size = 2 * (re.length - 1)
  const bin = sampleRate / size
  const power = re.map((v, k) => v * v + im[k]! * im[k]!)
  const band = sourceBandOf(power, bin, Math.min(20_000, 0.45 * sampleRate))
  if (!band) return null
  const { response, pulse } = prepare(re, im, sampleRate, band)
  const behind = Math.max(6, Math.round((compared / band.high) * sampleRate))
  const before = quietBefore * behind
  const step = Math.max(1, Math.round(behind / 48))
  let loudest = 0
  for (let lag = from; lag <= to; lag++) loudest = Math.max(loudest, Math.abs(response[(lag + size) % size]!))
  let height = 0
  for (let n = 0; n < pulse.length / 2; n++) height = Math.max(height, Math.abs(pulse[n]!))
  const fitAt = fits(response, pulse, before, behind)
  const found: Fit[] = []
  for (let lag = from; lag <= to; lag += step) {
    const fit = fitAt(lag)
    // a short pulse resembles much by chance: what would be as loud as the loudest counts for more
    const level = Math.min(1, (Math.abs(fit.gain) * height) / loudest)
    fit.score = level < leastLevel ? 0 : fit.explained * Math.sqrt(level)
    found.push(fit)
  }
  const peaks = found.filter((f, k) =>
    f.score > 0 && f.score >= (found[k - 1]?.score ?? 0) && f.score >= (found[k + 1]?.score ?? 0))
  const best = pick(peaks, expected)
  if (!best || best.explained < leastExplained) return null
  const fine = refine(fitAt, best.lag, step)
  const other = peaks.filter(f => Math.sign(f.gain) !== Math.sign(best.gain) && Math.abs(f.lag - best.lag) < 2 * before)
  const rival = other.reduce((top, f) => Math.max(top, f.score), 0)
  const sign = best.gain < 0 ? -1 : 1
  const sharp = sharpness(pulse, before, behind, sampleRate)
  // what reverberation adds is not independent of the pulse: four times what white noise would make
  const scatter = 4 * Math.sqrt(Math.max(1e-8, 1 - fine.explained) / fine.explained) / sharp
  const uncertainty = Math.hypot(scatter, shapeUncertainty(band) * (1 + rippled(response, pulse, fine.gain)))
  if (uncertainty > mostUncertain) return null
  return {
    time: fine.lag / sampleRate,
    polarity: best.score - rival < clearSign ? null : sign,
    uncertainty,
    band: [band.low, band.high],
    explained: fine.explained,
  }
}

/** Over fewer octaves a source has no crossover of its own: its pulse tells its sign. */
const oneWay = 2.6
/** How far apart in seconds pulse and peak of a source without lows may lie. */
const nearPeak: Seconds = 0.0004
/** Points an octave at which phases are compared. */
const phasePoints = 8
/** Highest frequency whose phase says something of a sign: above, a sample more or less turns it. */
const highestPhase: Hertz = 3000
/** Periods before and behind the arrival that are looked at, and the limits of both in seconds. */
const periods = { before: 1, behind: 2.5 }
const gates = { shortest: 0.0008, longest: 0.05 }
/** Directions of neighbouring phases must agree so far to count, and lie so near to 0° or 180°. */
const steady = 0.6
const near = 0.5
/** Octaves: the lowest run begins within so much of the lowest frequency, and is so long at least. */
const beginsWithin = 0.4
const shortestRun = 0.9
/** How far the directions within that run must agree. */
const level = 0.9
/** Part of the octaves that tells a sign that nothing contradicts, and in how many octaves that begins. */
const undisputed = 0.6
const latest = 1

/** Σ x[at + n]·e^(-iωn), faded out at both ends. */
function phasorAt(signal: Float64Array, at: number, f: Hertz, sampleRate: Hertz) {
  const gate = (count: number) =>
    Math.round(Math.min(gates.longest, Math.max(gates.shortest, count / f)) * sampleRate)
  const [before, behind] = [gate(periods.before), gate(periods.behind)]
  const w = (2 * Math.PI * f) / sampleRate
  const [stepRe, stepIm] = [Math.cos(w), -Math.sin(w)]
  let [turnRe, turnIm] = [Math.cos(w * before), Math.sin(w * before)]
  let re = 0
  let im = 0
  for (let n = -before; n < behind; n++) {
    const part = n < 0 ? -n / before : n / behind
    const v = (0.5 + 0.5 * Math.cos(Math.PI * part)) * signal[(at + n + signal.length) % signal.length]!
    re += v * turnRe
    im += v * turnIm
    const t = turnRe * stepRe - turnIm * stepIm
    turnIm = turnRe * stepIm + turnIm * stepRe
    turnRe = t
  }
  return { re, im }
}

interface Phasor { re: number, im: number }
const length = ({ re, im }: Phasor) => Math.hypot(re, im)
const sumOf = (list: readonly Phasor[]): Phasor =>
  list.reduce((sum, p) => ({ re: sum.re + p.re, im: sum.im + p.im }), { re: 0, im: 0 })

/** Signs by frequency: 1, -1, or 0 where phases wander or lie between. */
const signsOf = (phasors: readonly Phasor[]): (1 | -1 | 0)[] =>
  phasors.map((_, k) => {
    const around = phasors.slice(Math.max(0, k - 2), k + 3)
    const sum = sumOf(around)
    const size = length(sum)
    if (size < steady * around.length || Math.abs(sum.re) < near * size) return 0
    return sum.re > 0 ? 1 : -1
  })

/**
 * The sign of the lowest band, where no crossover has turned the phase yet, if it stands for long enough and the rest
 * does not speak against it for longer. Bands that add up to an all-pass (Linkwitz & Riley 1976) turn by 180° to 360°
 * at each crossover: for about an octave an even order stands upside down, and above a crossover of 12 dB/oct all does.
 */
function lowestSign(phasors: readonly Phasor[]): 1 | -1 | null {
  const signs = signsOf(phasors)
  const first = signs.findIndex(s => s !== 0)
  const sign = signs[first]
  if (!sign) return null
  const count = (which: number) => signs.filter(s => s === which).length
  // one way alone: nothing speaks against it
  if (!count(-sign) && count(sign) >= undisputed * signs.length && first <= latest * phasePoints) return sign
  const other = signs.findIndex(s => s === -sign)
  // up to the last of its kind before the first of the other: single points may wander in a room
  const run = phasors.slice(first, signs.lastIndexOf(sign, other < 0 ? signs.length : other) + 1)
  // a steep crossover close by turns on and on, also where it happens to point backwards
  const isLevel = length(sumOf(run)) >= level * run.length
  if (first > beginsWithin * phasePoints || run.length < shortestRun * phasePoints || !isLevel) return null
  return count(-sign) > count(sign) ? null : sign
}

/**
 * Sign of a source that plays up to the highs, around the peak of its envelope (sample `at`): by its
 * phase against its own pulse of least delay, from the lowest that it plays on. Null when the phases do not agree.
 */
export function signNear(
  re: Float64Array,
  im: Float64Array,
  sampleRate: Hertz,
  band: SourceBand,
  at: number,
): 1 | -1 | null {
  if (Math.log2(band.high / band.low) < oneWay) {
    const near = Math.round(nearPeak * sampleRate)
    return bandArrival(re, im, sampleRate, at - near, at + near)?.polarity ?? null
  }
  const { response, pulse } = prepare(re, im, sampleRate, band)
  const from = Math.max(25, band.low)
  const to = Math.min(band.high, highestPhase)
  const count = Math.floor(Math.log2(to / from) * phasePoints) + 1
  const frequencies = Array.from({ length: count }, (_, k) => from * 2 ** (k / phasePoints))
  const phasors = frequencies.map((f) => {
    const heard = phasorAt(response, at, f, sampleRate)
    const own = phasorAt(pulse, 0, f, sampleRate)
    const size = length(heard) * length(own) || 1
    return { re: (heard.re * own.re + heard.im * own.im) / size, im: (heard.im * own.re - heard.re * own.im) / size }
  })
  return lowestSign(phasors)
}

function pick(peaks: readonly Fit[], expected: number | null): Fit | null {
  const best = peaks.reduce<Fit | null>((a, f) => (!a || f.score > a.score ? f : a), null)
  if (!best || expected === null) return best
  return peaks
    .filter(f => f.score > best.score - tie)
    .reduce((a, f) => (Math.abs(f.lag - expected) < Math.abs(a.lag - expected) ? f : a), best)
}

function refine(at: FitAt, lag: number, step: number) {
  let best = at(lag)
  for (let x = lag - step; x <= lag + step; x++) {
    const fit = at(x)
    if (fit.explained > best.explained) best = fit
  }
  return { lag: between(at(best.lag - 1), best, at(best.lag + 1)), explained: best.explained, gain: best.gain }
}
