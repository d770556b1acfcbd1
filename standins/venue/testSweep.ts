import type { Place } from '../../core/acoustics'
import { exponentialSweep, realFft, standardGrid, unity, type Curve } from '../../core/dsp'
import { blockSize } from './convolver'
import type { PluggedRig } from './testHall'
import { createVenue, type Hall } from './venue'

const seconds = 2
const size = 2 ** 18

/**
 * For tests: what a microphone hears over what is played into the test feed, by one sweep, as a quotient of discrete
 * Fourier transforms read at the grid; no window, no average, no delay taken out.
 */
export function dft(hall: Hall, rig: PluggedRig, place: Place): Curve {
  const venue = createVenue(hall, rig, place)
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
  const curve = { ...unity(standardGrid), coherence: null }
  standardGrid.forEach((f, k) => {
    const n = Math.round((f * size) / venue.sampleRate)
    const power = xr[n]! ** 2 + xi[n]! ** 2
    curve.re[k] = (yr[n]! * xr[n]! + yi[n]! * xi[n]!) / power
    curve.im[k] = (yi[n]! * xr[n]! - yr[n]! * xi[n]!) / power
  })
  return curve
}
