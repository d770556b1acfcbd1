import { loudspeakerKinds, type LoudspeakerId } from '../../core/acoustics'
import {
  applyGainAndDelay,
  applySections,
  classical,
  highShelf,
  lowShelf,
  peaking,
  type Curve,
  type Section,
} from '../../core/dsp'
import { ratioOf } from '../../core/units'

const rate = 192_000 // analogue things: far above the audio band, so that the bilinear transform does not bend them

/** What the simulated loudspeakers really do beside their nominal level: believable, not flat. */
const models: Record<LoudspeakerId, Section[]> = {
  'top-12': [
    ...classical('butterworth', 'high', 3, 58, rate),
    ...classical('butterworth', 'low', 2, 19_000, rate),
    peaking(95, 2, 1.2, rate),
    peaking(1350, -2.5, 1.6, rate),
    peaking(3150, 4, 2.2, rate),
    highShelf(9000, -3, 0.7, rate),
  ],
  'top-8': [
    ...classical('butterworth', 'high', 3, 78, rate),
    ...classical('butterworth', 'low', 2, 18_000, rate),
    peaking(2100, 3, 2, rate),
    highShelf(10_000, -2, 0.7, rate),
  ],
  'sub-18': [
    ...classical('butterworth', 'high', 4, 33, rate),
    ...classical('butterworth', 'low', 3, 260, rate),
    peaking(62, 3, 1.5, rate),
  ],
  'fill-6': [
    ...classical('butterworth', 'high', 3, 105, rate),
    ...classical('butterworth', 'low', 2, 17_000, rate),
    peaking(1800, 3, 1.5, rate),
  ],
  'ceiling-6': [
    ...classical('butterworth', 'high', 2, 95, rate),
    ...classical('butterworth', 'low', 2, 15_000, rate),
    lowShelf(200, -3, 0.7, rate),
  ],
}

/** Cabinets that are wired the wrong way round inside, by source and number: faults worth finding. */
const turnedCabinets: Record<string, number[]> = { subs: [3] }

/** The kinds' responses on the frequencies last asked for: a hall asks on the same ones for every cabinet. */
const responses = new Map<LoudspeakerId, Curve>()

/** Multiplies a curve by what cabinet `number` of a source really does with its signal, on axis. */
export function applyLoudspeaker(curve: Curve, source: string, number: number, model: LoudspeakerId) {
  let known = responses.get(model)
  if (known?.frequencies !== curve.frequencies) {
    known = {
      frequencies: curve.frequencies,
      re: new Float64Array(curve.re.length).fill(1),
      im: new Float64Array(curve.re.length),
      coherence: null,
    }
    applySections(known, models[model], rate)
    responses.set(model, known)
  }
  for (let k = 0; k < curve.re.length; k++) {
    const re = curve.re[k]!
    const im = curve.im[k]!
    curve.re[k] = re * known.re[k]! - im * known.im[k]!
    curve.im[k] = re * known.im[k]! + im * known.re[k]!
  }
  applyGainAndDelay(
    curve,
    ratioOf(loudspeakerKinds[model].level) * (turnedCabinets[source]?.includes(number) ? -1 : 1),
    0,
  )
}
