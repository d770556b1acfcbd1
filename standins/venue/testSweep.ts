import type { Place } from '../../core/acoustics'
import { exponentialSweep, realFft, standardGrid, unity, type Curve } from '../../core/dsp'
import { blockSize } from './convolver'
import { fast, type PluggedRig } from './testHall'
import { createVenue, type Hall } from './venue'

const seconds = 1
const size = 2 ** 17

/**
 * For tests: what a microphone hears over what is played into the test feed, by one sweep, as a quotient of discrete
 * Fourier transforms read at the grid; no window, no average, no delay taken out.
 */
export function dft(hall: Hall, rig: PluggedRig, place: Place): Curve {
  const { spectrum: { re, im }, sampleRate } = spectrumIn(hall, rig, place)
  const curve = { ...unity(standardGrid), coherence: null }
  standardGrid.forEach((f, k) => {
    const n = Math.round((f * size) / sampleRate)
    curve.re[k] = re[n]!
    curve.im[k] = im[n]!
  })
  return curve
}

/** For tests: the same as an impulse response, sample 0 when it is played; nothing beyond the sweep's band. */
export function impulseIn(hall: Hall, rig: PluggedRig, place: Place): Float32Array {
  const { spectrum: { re, im }, sampleRate } = spectrumIn(hall, rig, place)
  re.forEach((_, n) => {
    const f = (n * sampleRate) / size
    if (f < 20 || f > 20_000) re[n] = im[n] = 0
  })
  const samples = new Float64Array(size)
  realFft(size).inverse(re, im, samples)
  return Float32Array.from(samples)
}

function spectrumIn(hall: Hall, rig: PluggedRig, place: Place) {
  const venue = createVenue(fast, hall, rig, place)
  const block = new Float32Array(blockSize)
  const heard = [new Float32Array(blockSize)]
  while (venue.settling) venue.hear({ test: block }, heard)
  venue.hear({ test: block }, heard) // the cross-fade of what was just computed
  const sweep = exponentialSweep({ low: 20, high: 20_000, seconds, level: -24 }, venue.sampleRate)
  const played = new Float64Array(size)
  const recorded = new Float64Array(size)
  played.set(sweep.subarray(0, size))
  for (let at = 0; at < size; at += blockSize) {
    block.set(played.subarray(at, at + blockSize))
    venue.hear({ test: block }, heard)
    recorded.set(heard[0]!, at)
  }
  const fft = realFft(size)
  const bins = () => new Float64Array(size / 2 + 1)
  const [xr, xi, yr, yi] = [bins(), bins(), bins(), bins()]
  fft.forward(played, xr, xi)
  fft.forward(recorded, yr, yi)
  for (let n = 0; n < xr.length; n++) {
    const power = xr[n]! ** 2 + xi[n]! ** 2 || 1
    const [a, b, c, d] = [yr[n]!, yi[n]!, xr[n]!, xi[n]!]
    yr[n] = (a * c + b * d) / power
    yi[n] = (b * c - a * d) / power
  }
  return { spectrum: { re: yr, im: yi }, sampleRate: venue.sampleRate }
}
