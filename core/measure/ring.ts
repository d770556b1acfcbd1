import type { Hertz } from '../units'

/**
 * Frames of audio shared between one writer (worklet or stand-in worker) and readers in other threads. Planar Float32
 * behind a small Int32 header; the count of frames written wraps at 2^32, so readers follow it by differences.
 */
export interface Ring {
  readonly buffer: SharedArrayBuffer
  readonly sampleRate: Hertz
  readonly channels: number
  /** Frames held, a power of two. */
  readonly capacity: number
}

const headerWords = 8
const enum Word {
  written,
  sampleRate,
  channels,
  capacity,
}

/** A silent ring. Throws RangeError unless `capacity` is a power of two and there is at least one channel. */
export function createRing(sampleRate: Hertz, channels: number, capacity: number): Ring {
  if (capacity < 2 || (capacity & (capacity - 1)) !== 0)
    throw new RangeError(`Ring capacity must be a power of two, not ${capacity}`)
  if (channels < 1) throw new RangeError('A ring needs at least one channel')
  const buffer = new SharedArrayBuffer(4 * (headerWords + channels * capacity))
  new Int32Array(buffer, 0, headerWords).set([0, sampleRate, channels, capacity])
  return openRing(buffer)
}

/** The ring behind a shared buffer that another thread made. */
export function openRing(buffer: SharedArrayBuffer): Ring {
  const header = new Int32Array(buffer, 0, headerWords)
  return {
    buffer,
    sampleRate: header[Word.sampleRate]!,
    channels: header[Word.channels]!,
    capacity: header[Word.capacity]!,
  }
}

/** The one writer: `write` takes a block of equally long channels and publishes it. */
export function ringWriter(ring: Ring) {
  const header = new Int32Array(ring.buffer, 0, headerWords)
  const data = new Float32Array(ring.buffer, 4 * headerWords)
  const mask = ring.capacity - 1
  return {
    write(block: readonly Float32Array[], frames: number) {
      const start = Atomics.load(header, Word.written)
      for (let c = 0; c < ring.channels; c++) {
        const base = c * ring.capacity
        const source = block[c]
        for (let n = 0; n < frames; n++) data[base + ((start + n) & mask)] = source ? source[n]! : 0
      }
      Atomics.add(header, Word.written, frames)
    },
  }
}

/** A reader with its own unbroken frame count from the moment it was made. */
export function ringReader(ring: Ring) {
  const header = new Int32Array(ring.buffer, 0, headerWords)
  const data = new Float32Array(ring.buffer, 4 * headerWords)
  const mask = ring.capacity - 1
  const origin = Atomics.load(header, Word.written)
  let last = origin
  let written = 0
  return {
    /** Frames written since the reader was made. */
    written(): number {
      const now = Atomics.load(header, Word.written)
      written += (now - last) | 0
      last = now
      return written
    },
    /**
     * Copies `target.length` frames of `channel` from frame `from` (of `written`'s count). False when they are
     * no longer, or not yet, there.
     */
    read(channel: number, from: number, target: Float32Array): boolean {
      const now = this.written()
      if (from + target.length > now || from < now - ring.capacity + 4096) return false
      const at = (origin + from) & mask
      const base = channel * ring.capacity
      const first = Math.min(target.length, ring.capacity - at)
      target.set(data.subarray(base + at, base + at + first))
      if (first < target.length) target.set(data.subarray(base, base + target.length - first), first)
      return true
    },
  }
}
