import type { Decibels } from '../units'
import { refusal } from '../words'
import { bandLevelOf, type FrequencyBand } from './bands'

/** The third of an octave around 1 kHz, in which a calibrator's tone lies (IEC 60942), and what lies around it. */
const tone = { low: 890, high: 1120 }
const around = [{ low: 100, high: 890 }, { low: 1120, high: 20_000 }]
/** dB by which the tone must stand over all else, and the level in dBFS under which nothing is heard of it. */
const [over, least]: [Decibels, Decibels] = [10, -70]

/**
 * What 0 dBFS of a microphone is, in dB SPL to a tenth, with a calibrator of `level` on it. `heard`: its levels in
 * dBFS by `bands`. Throws Refusal where no calibrator is heard.
 */
export function calibrationOf(
  heard: ArrayLike<Decibels>,
  bands: readonly FrequencyBand[],
  level: Decibels,
): Decibels {
  const at = bandLevelOf(heard, bands, tone)
  const rest = Math.max(...around.map(band => bandLevelOf(heard, bands, band)))
  if (at < rest + over || at < least) throw refusal('calibration.notHeard', { over })
  return Math.round((level - at) * 10) / 10
}
