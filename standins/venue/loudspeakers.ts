import {
  applyGainAndDelay,
  applySections,
  classical,
  highShelf,
  lowShelf,
  peaking,
  unity,
  type Curve,
  type Section,
} from '../../core/dsp'
import type { Sheet, SheetBand } from '../../core/documents'
import { ratioOf, type Ratio, type Seconds } from '../../core/units'

const rate = 192_000 // analogue things: far above the audio band, so that the bilinear transform does not bend them

/** What a driver really does beside its nominal level. */
interface Driver {
  sections: Section[]
  /** How much later it sounds than the front of its box. */
  late: Seconds
}
const butterworth = (side: 'high' | 'low', order: number, f: number) =>
  classical('butterworth', side, order, f, rate)

/** The library's kinds, by sheet and band: believable, not flat. */
const drivers: Record<string, Driver> = {
  'top-12-active/low': {
    sections: [
      ...butterworth('high', 3, 58),
      ...butterworth('low', 2, 3800),
      peaking(95, 2, 1.2, rate),
      peaking(1350, -1.5, 1.6, rate),
    ],
    late: 0,
  },
  'top-12-active/high': {
    sections: [
      ...butterworth('high', 2, 500),
      ...butterworth('low', 2, 19_000),
      peaking(3150, 4, 2.2, rate),
      highShelf(9000, -3, 0.7, rate),
    ],
    late: 0.00008,
  },
  'top-12/full': {
    sections: [
      ...butterworth('high', 3, 58),
      ...butterworth('low', 2, 19_000),
      peaking(95, 2, 1.2, rate),
      peaking(1350, -2.5, 1.6, rate),
      peaking(3150, 4, 2.2, rate),
      highShelf(9000, -3, 0.7, rate),
    ],
    late: 0,
  },
  'top-8/full': {
    sections: [
      ...butterworth('high', 3, 78),
      ...butterworth('low', 2, 18_000),
      peaking(2100, 3, 2, rate),
      highShelf(10_000, -2, 0.7, rate),
    ],
    late: 0,
  },
  'sub-18/full': {
    sections: [...butterworth('high', 4, 33), ...butterworth('low', 3, 260), peaking(62, 3, 1.5, rate)],
    late: 0,
  },
  'fill-6/full': {
    sections: [...butterworth('high', 3, 105), ...butterworth('low', 2, 17_000), peaking(1800, 3, 1.5, rate)],
    late: 0,
  },
  'ceiling-6/full': {
    sections: [...butterworth('high', 2, 95), ...butterworth('low', 2, 15_000), lowShelf(200, -3, 0.7, rate)],
    late: 0,
  },
}

/** A driver of a kind that only the site knows: it plays its range and no more. */
const plain = ({ low, high }: SheetBand): Driver => ({
  sections: [...butterworth('high', 3, low), ...butterworth('low', 2, Math.min(high, 0.4 * rate))],
  late: 0,
})

/** Responses on the frequencies last asked for: a hall asks on the same ones for every cabinet. */
const known = new Map<string, Curve>()

/** Multiplies a curve by what one band of a cabinet really does with its signal, on axis. */
export function applyLoudspeaker(curve: Curve, sheet: Sheet, band: SheetBand, inverted: boolean) {
  const key = `${sheet.id}/${band.id}/${band.low}/${band.high}`
  let response = known.get(key)
  if (response?.frequencies !== curve.frequencies) {
    const { sections, late } = drivers[`${sheet.id}/${band.id}`] ?? plain(band)
    response = unity(curve.frequencies)
    applySections(response, sections, rate)
    applyGainAndDelay(response, 1, late)
    known.set(key, response)
  }
  const gain = ratioOf(band.level) * (inverted ? -1 : 1)
  for (let k = 0; k < curve.re.length; k++) {
    const re = curve.re[k]! * gain
    const im = curve.im[k]! * gain
    curve.re[k] = re * response.re[k]! - im * response.im[k]!
    curve.im[k] = re * response.im[k]! + im * response.re[k]!
  }
}

/** A driver's own distortion: gentle, rising with level, falling with frequency as its excursion does. */
export function createDistortion(sampleRate: number) {
  const follow = 1 - Math.exp((-2 * Math.PI * 160) / sampleRate)
  const settle = 1 - Math.exp((-2 * Math.PI * 4) / sampleRate)
  const even: Ratio = 0.08
  const odd: Ratio = 0.05
  let excursion = 0
  let offset = 0
  /** Adds its harmonics to a block, in place. */
  return (block: Float32Array) => {
    for (let n = 0; n < block.length; n++) {
      excursion += follow * (block[n]! - excursion)
      const bent = even * excursion * excursion
      offset += settle * (bent - offset)
      block[n]! += bent - offset - odd * excursion ** 3
    }
  }
}
