import { exactSpectrum, windows, type SpectrumFft, type SpectrumMaker, type WindowId } from '../dsp'
import type { Decibels } from '../units'
import { ringReader, type Ring } from './ring'

/** Reference below this is silence: its blocks are left out of the spectra. */
export const silence: Decibels = -75
/** So many exact zeros in a row, in a signal that is not silent, are a hole made by the machine, not sound. */
const holeFrames = 64
/** Blocks kept of each length: measurements are at most a few hops apart. */
const keeps = 3

export interface ReferenceBlock {
  /** Windowed spectrum, `length / 2 + 1` pairs. */ spectrum: Float32Array | Float64Array
  sounding: boolean
  holed: boolean
}
interface Slot extends ReferenceBlock {
  at: number
}

/**
 * Spectra of reference blocks on one ring, shared by all measurements: those that hold their microphones
 * against the same channel
 * need each block transformed once. They also count frames by the same reader.
 */
export function createReferences(ring: Ring, make: SpectrumMaker = exactSpectrum) {
  const reader = ringReader(ring)
  const lengths = new Map<
    string,
    { fft: SpectrumFft, window: Float64Array, block: Float32Array, slots: Slot[], next: number }
  >()
  return {
    reader,
    /**
     * The block of `length` frames from frame `at`; null when it is not in the ring. Good until the next calls
     * for the same length.
     */
    block(channel: number, length: number, window: WindowId, at: number): ReferenceBlock | null {
      const key = `${channel} ${length} ${window}`
      let of = lengths.get(key)
      if (!of)
        lengths.set(
          key,
          (of = {
            fft: make(length),
            window: windows[window].make(length),
            block: new Float32Array(length),
            slots: [],
            next: 0,
          }),
        )
      const known = of.slots.find(s => s.at === at)
      if (known) return known
      if (!reader.read(channel, at, of.block)) return null
      const sounding = isSounding(of.block)
      const slot: Slot = of.slots[of.next] ?? { at: -1, spectrum: new Float32Array(0), sounding, holed: false }
      slot.at = at
      slot.sounding = sounding
      slot.holed = sounding && hasHole(of.block)
      if (sounding && !slot.holed) {
        const spectrum = of.fft.forward(of.block, of.window)
        if (slot.spectrum.length !== spectrum.length) slot.spectrum = spectrum.slice()
        else slot.spectrum.set(spectrum)
      }
      of.slots[of.next] = slot
      of.next = (of.next + 1) % keeps
      return slot
    },
  }
}
export type References = ReturnType<typeof createReferences>

/** Looks at every 32nd sample first: a hole covers two of them. */
export function hasHole(block: Float32Array): boolean {
  for (let n = holeFrames / 2 - 1; n < block.length; n += holeFrames / 2) {
    if (block[n] !== 0) continue
    let from = n
    let to = n
    while (from > 0 && block[from - 1] === 0) from--
    while (to < block.length - 1 && block[to + 1] === 0) to++
    if (to - from + 1 >= holeFrames) return true
    n = to
  }
  return false
}

/** Whether a block's RMS lies above `silence`: sound that is there shows it within a few samples. */
function isSounding(block: Float32Array): boolean {
  const enough = 10 ** (silence / 10) * block.length
  let sum = 0
  for (let n = 0; n < block.length; n++) {
    sum += block[n]! * block[n]!
    if (sum > enough) return true
  }
  return false
}
