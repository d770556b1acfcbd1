import { magnitude, standardGrid } from '../dsp'
import { fractionalOctaves, smooth } from '../measure'
import type { Rig } from '../rig'
import { type Decibels, type Hertz, showFrequency, showNumber } from '../units'
import { freeBands } from './acts'
import { fitFilters } from './fit'
import { curveToFit } from './prepare'
import { heardUnder, levelOf, reachOf, type Heard, type Proposal, type TuneJob, type TuneSource } from './job'
import { levelsIn } from './spread'
import { message } from '../words'

/** dB under its loudest third of an octave, an octave's mean to which a source plays; a tilt comes on top. */
const edge: Decibels = 10
const tilt: Decibels = 2.5
/** Positions where a source is heard within so many dB of where it is loudest are its own. */
const own: Decibels = 6
const mostBands = 6
const limits = { gain: [-9, 3], q: [0.5, 6], fewest: 0.4 } as const
const smoothing = 6

/** Where a source plays, of what is heard of it: the run of thirds of an octave around its loudest octave. */
export function playsIn(heard: readonly Heard[]): [Hertz, Hertz] | null {
  if (!heard.length) return null
  const bands = fractionalOctaves(3, 25, 16_000)
  const each = heard.map(h => levelsIn(h.curve, bands))
  const mean = bands.map((_, b) => each.reduce((s, l) => s + l[b]! / each.length, 0))
  const wide = mean.map((_, b) => {
    const list = mean.slice(Math.max(0, b - 1), b + 2)
    return list.reduce((s, v) => s + v, 0) / list.length
  })
  const top = wide.indexOf(Math.max(...wide))
  const octaves = (b: number) => Math.max(0, Math.log2(bands[b]!.middle / bands[top]!.middle))
  const plays = (b: number) => wide[b]! + tilt * octaves(b) >= wide[top]! - edge
  let [low, high] = [top, top]
  for (let b = top; b >= 0 && top - b < 30; b--) if (plays(b)) low = low - b <= 1 ? b : low
  for (let b = top; b < bands.length; b++) if (plays(b)) high = b - high <= 1 ? b : high
  return high > low ? [bands[low]!.low, bands[high]!.high] : null
}

/** Positions of a source where it is loud, by its own measure. */
function ownPlaces(heard: readonly (Heard | null)[], [low, high]: readonly [Hertz, Hertz]): number[] {
  const levels = heard.map(h => (h ? levelOf(h, low, high) : -Infinity))
  const most = Math.max(...levels)
  return levels.flatMap((l, n) => (l > -Infinity && l >= most - own ? [n] : []))
}

/** Filters that bring a source nearest to its target where it is heard; null where none is worth it. */
export function shapeSource(job: TuneJob, source: TuneSource, rig: Rig): Proposal | null {
  const heard = source.takes.map(t => t && heardUnder(t, rig, source.outputs))
  const range = playsIn(heard.flatMap(h => h ?? []))
  if (!range) return null
  const free = freeBands(reachOf(job, source, rig))
  const device = free[0]?.[0]?.device
  const bands = Math.min(mostBands, free[0]?.length ?? 0)
  if (device === undefined || !bands) return null
  const places = ownPlaces(heard, range).filter(n => job.positions[n]!.weight > 0)
  if (!places.length) return null
  const curves = places.map((n) => {
    const { frequency_hz, magnitude_db, ...rest } = curveToFit(smooth(heard[n]!.curve, smoothing), {
      weight: job.positions[n]!.weight,
      trust: job.trust,
      without: (_, k) => source.target[k]!,
    })
    return { frequencies: frequency_hz, levels: magnitude_db, ...rest }
  })
  const found = fitFilters({
    sampleRate: rig.devices[device]!.capability.sampleRate,
    curves, target: 'flat', range, bands,
    gain: limits.gain, q: limits.q, kinds: ['peaking', 'high-shelf'], fill: false,
  })
  if (found.before - found.after < limits.fewest || !found.filters.length) return null
  const left = found.left.length ? message('tuning.placeLeftAloneFilters', { left: found.left.length }) : ''
  return {
    id: `shape/${source.id}`,
    source: source.id,
    title: message('tuning.correct', { name: source.name }),
    acts: [{ source: source.id, act: { kind: 'filters', filters: found.filters } }],
    reasons: [
      message('tuning.dbOffItsTargetBecomes', {
        before: showNumber(found.before, 1),
        after: showNumber(found.after, 1),
        low: showFrequency(range[0]),
        high: showFrequency(range[1]),
        left,
      }),
    ],
  }
}

/** How far a source is off its target where it is heard, RMS in dB; null where nothing tells it. */
export function offOwnTarget(job: TuneJob, source: TuneSource, rig: Rig): Decibels | null {
  const heard = source.takes.map(t => t && heardUnder(t, rig, source.outputs))
  const range = playsIn(heard.flatMap(h => h ?? []))
  if (!range) return null
  const places = ownPlaces(heard, range).filter(n => job.positions[n]!.weight > 0)
  const weights = places.map(n => job.positions[n]!.weight)
  const all = weights.reduce((s, w) => s + w, 0)
  if (!all) return null
  const at = [...standardGrid.keys()].filter(k => standardGrid[k]! >= range[0] && standardGrid[k]! <= range[1])
  const levels = places.map(n => magnitude(smooth(heard[n]!.curve, smoothing)))
  const errors = at.map(k => levels.reduce((s, l, p) => s + (weights[p]! / all) * l[k]!, 0) - source.target[k]!)
  const mean = errors.reduce((s, e) => s + e, 0) / errors.length
  return Math.sqrt(errors.reduce((s, e) => s + (e - mean) ** 2, 0) / errors.length)
}
