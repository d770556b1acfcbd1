import { envelopePeak, findArrival, clearArrival, type Arrival } from './arrival'
import { createDualChannel, gridReader, type Averaging } from './dualChannel'
import { ringReader, type Ring } from './ring'
import { standardGrid, type Curve } from '../dsp'
import type { Decibels, Seconds } from '../units'

export interface LiveOptions {
  /** Ring channels. */
  reference: number
  microphone: number
  /** Samples a block; a power of two. */
  length: number
  /** 0 … 0.95: part of a block shared with the next. */
  overlap: number
  averaging: Averaging
}

export interface Level { peak: Decibels, rms: Decibels }

/** Reference below this is silence: its blocks are left out of the spectra. */
const silence: Decibels = -75
/** So many exact zeros in a row, in a signal that is not silent, are a hole made by the machine, not sound. */
const holeFrames = 64

/**
 * One measurement running on a ring: takes the microphone later than the reference by the compensated delay, drops blocks
 * with holes or a silent reference, averages the rest. `poll` is to be called often; it takes every block that is due.
 */
export function createLive(ring: Ring, options: LiveOptions) {
  const { sampleRate } = ring
  const { length, reference, microphone } = options
  const hop = Math.max(1, Math.round(length * (1 - options.overlap)))
  const reader = ringReader(ring)
  const spectra = createDualChannel({ sampleRate, length, hop, averaging: options.averaging })
  const grid = gridReader(standardGrid, length, sampleRate)
  const ref = new Float32Array(length), mic = new Float32Array(length)
  const search = Math.min(2 ** 16, ring.capacity / 4)
  let delay: Seconds = 0
  let next = reader.written(), fresh = next, dropped = 0, lost = 0

  const whole = () => Math.round(delay * sampleRate)
  /** First block wholly inside what the ring still holds. */
  const catchUp = () => {
    const oldest = reader.written() - ring.capacity + 8192 + Math.max(0, -whole())
    if (next < oldest) {
      lost += oldest - next
      next = oldest
    }
  }

  return {
    spectra,
    get delay() { return delay },
    get blocks() { return spectra.blocks },
    /** Blocks left out because of holes, and frames that came faster than they could be taken. */
    get gaps() { return { dropped, lost } },

    /** Takes the microphone later by `seconds`; the average starts anew. */
    setDelay(seconds: Seconds) {
      delay = seconds
      this.restart()
    },

    /**
     * Forgets the average because the system changed `ago` frames before now: blocks count again once three quarters of them (96 %
     * of what the window weighs) were fed to the changed system.
     */
    restart(ago = 0) {
      spectra.restart()
      fresh = reader.written() - ago
      next = Math.max(next, fresh - Math.round(length / 4))
    },

    /** Adds all blocks that are complete. True when the average changed. */
    poll(): boolean {
      let changed = false
      catchUp()
      while (next + length + Math.max(0, whole()) <= reader.written()) {
        if (reader.read(reference, next, ref) && reader.read(microphone, next + whole(), mic)) {
          const sounding = levelOf(ref).rms > silence
          if (sounding && hasHole(mic)) dropped++
          else if (sounding && !hasHole(ref)) { // a reference that only just starts or stops is no hole, but no full block either
            spectra.push(ref, mic)
            changed = true
          }
        }
        next += hop
      }
      return changed
    },

    /** Writes the current average onto the standard grid. `curve` must have coherence. */
    read(curve: Curve) {
      grid.read(spectra, delay - whole() / sampleRate, curve)
    },

    /** Arrival over up to `search` frames since the last restart, from nothing; null while too little was heard or nothing stands out. */
    findArrival(): Arrival | null {
      const frames = [search, search / 2, search / 4].find(n => reader.written() - fresh >= n)
      if (!frames) return null
      const a = new Float32Array(frames), b = new Float32Array(frames), from = reader.written() - frames
      if (!reader.read(reference, from, a) || !reader.read(microphone, from, b) || levelOf(a).rms < silence) return null
      const found = findArrival(a, b, sampleRate)
      return found && found.clearness >= clearArrival ? found : null
    },

    /** Arrival in the running average, near the compensated delay: sharper than `findArrival`. Null when nothing stands out. */
    trackArrival(): Arrival | null {
      if (spectra.blocks < 2) return null
      const { sxx, sxyRe, sxyIm } = spectra
      const floor = sxx.reduce((x, y) => x + y, 0) / sxx.length * 1e-6
      const found = envelopePeak(sxyRe.map((v, k) => v / (sxx[k]! + floor || 1)), sxyIm.map((v, k) => v / (sxx[k]! + floor || 1)), sampleRate, -length / 4, length / 4)
      return found && found.clearness >= clearArrival ? { ...found, time: found.time + whole() / sampleRate } : null
    },
  }
}

export type Live = ReturnType<typeof createLive>

function hasHole(block: Float32Array): boolean {
  let run = 0
  for (let n = 0; n < block.length; n++) {
    run = block[n] === 0 ? run + 1 : 0
    if (run >= holeFrames) return true
  }
  return false
}

/** Peak and RMS of a block in dBFS. */
export function levelOf(block: Float32Array): Level {
  let peak = 0, sum = 0
  for (let n = 0; n < block.length; n++) {
    const v = block[n]!
    sum += v * v
    if (v > peak) peak = v
    else if (-v > peak) peak = -v
  }
  return { peak: 20 * Math.log10(peak), rms: 10 * Math.log10(sum / block.length) }
}
