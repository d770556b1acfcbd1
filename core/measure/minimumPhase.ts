import { realFft } from '../dsp'

/**
 * The causal pulse of least delay that has this magnitude (its logarithm on bins 0 … size/2), by folding the
 * cepstrum. Source: Oppenheim & Schafer, Discrete-Time Signal Processing, 12.2.
 */
export function minimumPhasePulse(logMagnitude: Float64Array): { pulse: Float64Array, phase: Float64Array } {
  const bins = logMagnitude.length
  const size = 2 * (bins - 1)
  const fft = realFft(size)
  const cepstrum = new Float64Array(size)
  fft.inverse(logMagnitude, new Float64Array(bins), cepstrum)
  for (let n = 1; n < size / 2; n++) {
    cepstrum[n]! *= 2
    cepstrum[size - n] = 0
  }
  const re = new Float64Array(bins)
  const phase = new Float64Array(bins)
  fft.forward(cepstrum, re, phase)
  const im = new Float64Array(bins)
  for (let k = 0; k < bins; k++) {
    const magnitude = Math.exp(logMagnitude[k]!)
    re[k] = magnitude * Math.cos(phase[k]!)
    im[k] = magnitude * Math.sin(phase[k]!)
  }
  const pulse = new Float64Array(size)
  fft.inverse(re, im, pulse)
  return { pulse, phase }
}
