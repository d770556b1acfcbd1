import { blackmanHarris, exactSpectrum, logGrid } from '../dsp'
import type { Decibels, Hertz, Seconds } from '../units'

/** A mode that goes on sounding when its neighbours have died away. */
export interface Mode {
  frequency: Hertz
  /** Time in which it falls by 60 dB. */ decay: Seconds
  /** How far it stands over its neighbours late in the decay. */ over: Decibels
  /** Median decay of the other frequencies. */ usual: Seconds
}

const grid = logGrid(24, 25, 320)
const window: Seconds = 0.34
const first: Seconds = 0.2
const last: Seconds = 0.6
const rows = 9
/**
 * Late level over the neighbours within a third of an octave, and decay against the rest, from which a mode is
 * worth a word; and how far over the noise it must end (common practice: what is heard as a boom).
 */
const standsOut: Decibels = 7
const longer = 1.5
const clearBy: Decibels = 6

/** Level in dB of a windowed part of a response around sample `centre`, on the grid. */
function levelsAround(response: ArrayLike<number>, sampleRate: Hertz, centre: number, size: number): Float64Array {
  const spectrum = exactSpectrum(size)
  const from = Math.round(centre) - size / 2
  const s = spectrum.forward(
    Float64Array.from({ length: size }, (_, n) => response[from + n] ?? 0),
    blackmanHarris(size),
  )
  const power = (n: number) => s[2 * n]! ** 2 + s[2 * n + 1]! ** 2
  return grid.map((f) => {
    const place = (f * size) / sampleRate
    const k = Math.floor(place)
    return 10 * Math.log10(Math.max(1e-40, (1 - place + k) * power(k) + (place - k) * power(k + 1)))
  })
}

/**
 * Modes that ring between 25 and 320 Hz, the most audible first: frequencies whose level 0.6 s after the
 * arrival (sample `at`)
 * stands out of its neighbours', over what is heard before the arrival, and has fallen in a straight line at least 1.5
 * times as slowly as the rest. Empty when the response is too short or too noisy to tell.
 */
export function ringingModes(response: ArrayLike<number>, sampleRate: Hertz, at: number): Mode[] {
  const size = 2 ** Math.round(Math.log2(window * sampleRate))
  if (response.length - at < last * sampleRate + size / 2) return []
  const times = Array.from({ length: rows }, (_, r) => first + (r * (last - first)) / (rows - 1))
  const levels = times.map(t => levelsAround(response, sampleRate, at + t * sampleRate, size))
  // half a window of what was there before the sound; noise is 3 dB louder in a whole one
  const before = at >= size / 2 ? levelsAround(response, sampleRate, at - size / 4, size / 2).map(l => l + 3) : null
  const mt = times.reduce((s, t) => s + t, 0) / rows
  const tt = times.reduce((s, t) => s + (t - mt) ** 2, 0)
  const fits = Array.from(grid, (_, k) => {
    const mean = levels.reduce((s, row) => s + row[k]!, 0) / rows
    let tl = 0
    let ll = 0
    levels.forEach((row, r) => {
      tl += (times[r]! - mt) * (row[k]! - mean)
      ll += (row[k]! - mean) ** 2
    })
    const late = levels[rows - 1]![k]!
    return {
      late,
      decay: tl < 0 ? (-60 * tt) / tl : Infinity,
      straight: ll > 0 ? (tl * tl) / (tt * ll) : 0,
      clear: !before || late > before[k]! + clearBy,
    }
  })
  const median = (list: number[]) => list.sort((a, b) => a - b)[Math.floor(list.length / 2)]!
  const usual = median(fits.map(f => f.decay))
  const modes: Mode[] = []
  for (let k = 1; k < fits.length - 1; k++) {
    const f = fits[k]!
    const a = fits[k - 1]!.late
    const c = fits[k + 1]!.late
    if (
      f.late < a
      || f.late <= c
      || !f.clear
      || f.straight < 0.9
      || !Number.isFinite(f.decay)
      || f.decay < longer * usual
    )
      continue
    const over = f.late - median(fits.slice(Math.max(0, k - 12), k + 13).map(x => x.late))
    if (over < standsOut) continue
    modes.push({
      frequency: grid[k]! * (grid[k + 1]! / grid[k]!) ** ((0.5 * (a - c)) / (a - 2 * f.late + c)),
      decay: f.decay,
      over,
      usual,
    }) // the peak between grid points
  }
  return modes.sort((a, b) => b.decay * b.over - a.decay * a.over)
}
