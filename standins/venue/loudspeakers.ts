import { applyGainAndDelay, applySections, classical, highShelf, lowShelf, peaking, type Curve, type Section } from '../../core/dsp'
import { ratioOf, type Decibels } from '../../core/units'

const rate = 192_000 // analogue things: far above the audio band, so that the bilinear transform does not bend them

interface Model { level: Decibels, sections: Section[], /** Directivity factor per octave, 63 Hz to 8 kHz. */ q: number[] }

/** What the simulated loudspeakers really do, at 1 m, with their amplifier: believable, not flat. */
const models: Record<string, Model> = {
  'top-12': {
    level: 13, q: [1, 1.3, 2, 4, 7, 10, 12, 14],
    sections: [...classical('butterworth', 'high', 3, 58, rate), ...classical('butterworth', 'low', 2, 19_000, rate),
      peaking(95, 2, 1.2, rate), peaking(1350, -2.5, 1.6, rate), peaking(3150, 4, 2.2, rate), highShelf(9000, -3, 0.7, rate)],
  },
  'top-8': {
    level: 9, q: [1, 1.2, 1.6, 3, 6, 9, 11, 12],
    sections: [...classical('butterworth', 'high', 3, 78, rate), ...classical('butterworth', 'low', 2, 18_000, rate), peaking(2100, 3, 2, rate), highShelf(10_000, -2, 0.7, rate)],
  },
  'sub-18': {
    level: 12, q: [1, 1, 1.2, 2, 3, 4, 5, 6],
    sections: [...classical('butterworth', 'high', 4, 33, rate), ...classical('butterworth', 'low', 3, 260, rate), peaking(62, 3, 1.5, rate)],
  },
  'fill-6': {
    level: 2, q: [1, 1, 1.4, 2.5, 5, 8, 10, 11],
    sections: [...classical('butterworth', 'high', 3, 105, rate), ...classical('butterworth', 'low', 2, 17_000, rate), peaking(1800, 3, 1.5, rate)],
  },
  'ceiling-6': {
    level: 0, q: [1, 1, 1.2, 2, 4, 6, 8, 9],
    sections: [...classical('butterworth', 'high', 2, 95, rate), ...classical('butterworth', 'low', 2, 15_000, rate), lowShelf(200, -3, 0.7, rate)],
  },
}

/** Cabinets that are wired the wrong way round inside, by source and number: faults worth finding. */
const turnedCabinets: Record<string, number[]> = { subs: [3] }

export function modelOf(name: string): Model {
  const model = models[name]
  if (!model) throw new RangeError(`The stand-in venue has no loudspeaker of kind ${name}`)
  return model
}

/** Multiplies a curve by what cabinet `number` of a source really does with its signal. */
export function applyLoudspeaker(curve: Curve, source: string, number: number, modelName: string) {
  const { level, sections } = modelOf(modelName)
  applySections(curve, sections, rate)
  applyGainAndDelay(curve, ratioOf(level) * (turnedCabinets[source]?.includes(number) ? -1 : 1), 0)
}
