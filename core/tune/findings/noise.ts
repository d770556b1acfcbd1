import { judgedBand } from '../../measure'
import { showFrequency, showNumber } from '../../units'
import { message } from '../../words'
import { likely, meanOver, mind, type Finding, type Observed } from './finding'

/** Coherence under which something is amiss. */
const lowCoherence = 0.6
/** A level over silence from which noise takes no great part, and under which it is the reason, in dB. */
const overSilence = 12
const nearSilence = 6

/** How far the microphone stands over what silence sounds like where the source plays; null while that is not known. */
function levelOverSilence({ spectrum, silence }: Observed, [low, high]: [number, number]): number | null {
  if (!spectrum || !silence) return null
  const inside = [...spectrum.bands.keys()].filter(k =>
    spectrum.bands[k]!.middle > low && spectrum.bands[k]!.middle < high)
  const over = inside.map(k => spectrum.microphone[k]! - silence[k]!).sort((a, b) => a - b)
  return over[Math.floor(over.length / 2)] ?? null
}

/**
 * Low coherence told apart: a wrong arrival, the room, or noise. What arrives too late for a block is incoherent by as
 * much as the response's own late energy says; where that is not enough, something else sounds.
 */
export function trustFindings(seen: Observed): Finding[] {
  const { curve, room } = seen
  if (!curve?.coherence || !seen.sounding) return []
  const [low, high] = judgedBand(room?.band ?? null)
  const coherence = meanOver(curve, low, high, k => curve.coherence![k]!)
  if (coherence === 0 || coherence > lowCoherence) return []
  const where = {
    coherence: showNumber(coherence, 2),
    low: showFrequency(Math.round(low)),
    high: showFrequency(Math.round(high)),
  }
  if (seen.arrival && Math.abs(seen.arrival.time - seen.delay) > Math.max(0.002, 3 * seen.arrival.uncertainty))
    return [mind('low-arrival', message('finding.low-arrival', where), 'coherence')]
  const over = levelOverSilence(seen, [low, high])
  // what is missing is the product of both parts: the room's, and what noise leaves of it
  const left = Math.max(0.01, room?.coherence ?? 1)
  const byRoom = 1 / left - 1
  const byNoise = Math.max(0, left / coherence - 1)
  const noise = mind('low-noise', message('finding.low-noise', where), 'spectrum')
  if (over !== null && over < nearSilence) return [noise]
  const isSure = over !== null && (byRoom > byNoise ? over > overSilence : over < overSilence)
  if (byRoom <= byNoise) return [isSure ? noise : likely(noise)]
  const late = showNumber(100 * (1 - (room?.definition ?? 1)), 0)
  const reflections = mind('low-room', message('finding.low-room', { ...where, late }), 'envelope')
  return [isSure ? reflections : likely(reflections)]
}

/** Hum is judged in silence only. */
export function humFindings({ hum, sounding, reference: { rms } }: Observed): Finding[] {
  if (!hum || sounding || rms > -75) return []
  const isBuzz = hum.lines[0]! >= 2 * hum.mains
  const frequencies = hum.lines.join(', ')
  return [likely(mind('hum', message(isBuzz ? 'finding.buzz' : 'finding.hum', { frequencies }), 'spectrum'))]
}
