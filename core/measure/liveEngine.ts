import { arrivalOf, findArrival, type Arrival } from './arrival'
import { independence } from './confidence'
import { createDualChannel, impulseResponse, type Averaging, type DualChannel } from './dualChannel'
import { gridReader, lowestOf, measuredCurve, type Estimator, type MeasuredCurve } from './gridReader'
import { multiLevels, type LevelRange } from './resolution'
import { createReferences, hasHole, silence, type References } from './references'
import type { Ring } from './ring'
import { withoutTaper } from './taper'
import { standardGrid, windows, type SpectrumMaker, type WindowId } from '../dsp'
import type { Decibels, Seconds } from '../units'

export interface LiveOptions {
  /** Ring channels. */
  reference: number
  microphone: number
  /**
   * Samples a block, a power of two; or several lengths: long ones for low frequencies, short ones for high
   * (`multiLevels`).
   */
  length: number | 'multi'
  /** 0 … 0.95: part of a block shared with the next. */
  overlap: number
  averaging: Averaging
  estimator?: Estimator
  window?: WindowId
  /** The transform; exact unless a faster one is given. */
  spectrum?: SpectrumMaker | undefined
  /** Leaves out blocks that something else disturbed. */
  dropPoor?: boolean | undefined
  /** Shared by the measurements on the same ring, with the same transform. */
  references?: References
}

export interface Level {
  peak: Decibels
  rms: Decibels
  /** Cut off at the top, at whatever level (`isFlattened`); where it was looked at. */ flat?: boolean
}

/** How far from the compensated delay an arrival is followed, and the band’s end under which it needs a long block. */
const tracked: Seconds = 0.1
/** How often it is looked for over the longest blocks. */
const longEvery: Seconds = 4
/** How often a polarity is told anew while nothing begins anew. */
const signEvery: Seconds = 2
/** Every so many tries to find an arrival look whether the two are swapped. */
const swappedEvery = 4
const narrow = 1000

/**
 * Under so many blocks coherence says too much: that of a single block is 1 whatever was heard. It is scaled
 * down until then.
 */
const fewBlocks = 3

/**
 * The next frame where blocks begin: all measurements begin theirs at the same frames, and share what they need
 * of the reference.
 */
const onHop = (frame: number, hop: number) => Math.ceil(frame / hop) * hop

interface Layer extends LevelRange {
  hop: number
  next: number
  spectra: DualChannel
  reader: ReturnType<typeof gridReader>
  mic: Float32Array
  /**
   * True from a restart until the first block of the changed system: the old average is still shown, but not
   * trusted.
   */
  outdated: boolean
}

/**
 * One measurement running on a ring: takes the microphone later than the reference by the compensated delay,
 * drops blocks
 * with holes or a silent reference, averages the rest. `poll` is to be called often; it takes every block that is due.
 */
export function createLive(ring: Ring, options: LiveOptions) {
  const { sampleRate } = ring
  const { reference, microphone } = options
  const references = options.references ?? createReferences(ring, options.spectrum)
  const { reader } = references
  const window = options.window ?? 'hann'
  /**
   * The delay at frame `since`; from there it grows by `drift` samples a sample, as that of a clock that runs
   * differently.
   */
  let delay: Seconds = 0
  let drift = 0
  let since = 0
  /** What the two clocks had come apart at frame `since`: taken from whatever is told, so that it stands still. */
  let apart: Seconds = 0
  let fresh = reader.written()
  let dropped = 0
  let lost = 0
  let poor = 0

  const alike = independence(windows[window].make, options.overlap)
  const layers = multiLevels(options.length, sampleRate, standardGrid).map((level): Layer => {
    const hop = Math.max(1, Math.round(level.length * (1 - options.overlap)))
    return {
      ...level,
      hop,
      next: onHop(fresh, hop),
      outdated: false,
      mic: new Float32Array(level.length),
      spectra: createDualChannel({
        sampleRate,
        length: level.length,
        hop,
        averaging: options.averaging,
        spectrum: options.spectrum,
        dropPoor: options.dropPoor,
        bins: level.bins,
        window: windows[window].make(level.length),
      }),
      reader: gridReader(standardGrid, level.length, sampleRate, {
        estimator: options.estimator ?? 'H1',
        lobe: windows[window].lobe,
        independence: alike,
      }),
    }
  })
  /** The layer that arrivals are followed in and whose blocks are counted: about a third of a second. */
  const main = layers.find(l => l.role === 'main')!
  const long = layers.find(l => l.role === 'impulse') ?? main
  const search = Math.min(2 ** 16, ring.capacity / 4)
  const part = measuredCurve(standardGrid)
  const weights = new Float64Array(standardGrid.length)

  const whole = () => Math.round(delay * sampleRate)
  /** Arrival in an average, from the compensated delay on. */
  const arrivalIn = (
    { sxx, sxyRe, sxyIm }: DualChannel,
    length: number,
    known: { sign?: 1 | -1 | null } = {},
  ): Arrival | null => {
    const floor = (sxx.reduce((x, y) => x + y, 0) / sxx.length) * 1e-6
    const reach = Math.min(length / 4, Math.round(tracked * sampleRate))
    return arrivalOf(
      sxyRe.map((v, k) => v / (sxx[k]! + floor || 1)),
      sxyIm.map((v, k) => v / (sxx[k]! + floor || 1)),
      sampleRate,
      -reach,
      reach,
      known,
    )
  }
  let tries = 0
  /** Polarity that was told of late: it costs more than the time, and does not change from look to look. */
  let sign: { at: number, delay: Seconds, blocks: number, polarity: 1 | -1 | null } | null = null
  const mainArrival = () => {
    const now = reader.written()
    const { blocks } = main.spectra
    if (sign && (sign.delay !== delay || blocks < sign.blocks || now - sign.at > signEvery * sampleRate)) sign = null
    const found = arrivalIn(main.spectra, main.length, sign ? { sign: sign.polarity } : {})
    if (found && !sign) sign = { at: now, delay, blocks, polarity: found.polarity }
    return found
  }
  const sinceThen = () => (drift * (reader.written() - since)) / sampleRate
  const delayNow = () => delay + sinceThen()
  const apartNow = () => apart + sinceThen()
  /** Arrival over the longest blocks: dear, and seldom new. */
  let told: { at: number, delay: Seconds, arrival: Arrival | null } | null = null
  const longArrival = () => {
    const now = reader.written()
    if (!told || told.delay !== delay || now - told.at > longEvery * sampleRate)
      told = { at: now, delay, arrival: arrivalIn(long.spectra, long.length) }
    return told.arrival
  }
  const isSilent = (l: Layer) => l.spectra.blocks === 0
  const blocksOf = (l: Layer) => (l.outdated ? 0 : l.spectra.blocks)
  /** First block wholly inside what the ring still holds. */
  const catchUp = (layer: Layer) => {
    const oldest = reader.written() - ring.capacity + 8192 + Math.max(0, -Math.round(delayNow() * sampleRate))
    if (layer.next < oldest) {
      if (layer === main) lost += oldest - layer.next
      layer.next = onHop(oldest, layer.hop)
    }
  }
  const pollLayer = (layer: Layer): boolean => {
    let changed = false
    catchUp(layer)
    const { length, mic } = layer
    for (;;) {
      const drifted = drift * (layer.next + length / 2 - since)
      const shift = whole() + Math.round(drifted)
      if (layer.next + length + Math.max(0, shift) > reader.written()) break
      const block = references.block(reference, length, window, layer.next)
      if (block?.sounding && reader.read(microphone, layer.next + shift, mic)) {
        if (hasHole(mic)) {
          if (layer === main) dropped++
        }
        else if (!block.holed) {
          // a reference that only just starts or stops is no hole, but no full block either
          if (layer.outdated) layer.spectra.restart()
          layer.outdated = false
          if (layer.spectra.pushSpectrum(block.spectrum, mic, drifted - Math.round(drifted))) changed = true
          else if (layer === main) poor++
        }
      }
      layer.next += layer.hop
    }
    return changed
  }

  return {
    /** Delay taken out, less what the clocks have come apart. */
    get delay() {
      return delayNow() - apartNow()
    },
    /** How much later time 0 of the impulse is than the compensated delay: less than a sample. */
    get early() {
      return whole() / sampleRate - delay
    },
    /** What the two clocks have come apart, as far as it is known. */
    get apart() {
      return apartNow()
    },
    /** How much slower the microphone's clock runs than the reference's, as it is compensated: seconds a second. */
    get drift() {
      return drift
    },
    /** Below this the blocks resolve nothing. */
    lowest: lowestOf(Math.max(...layers.map(l => l.length)), sampleRate, windows[window].lobe),
    /** Blocks behind the average of the system as it is now. */
    get blocks() {
      return blocksOf(main)
    },
    /** True once anything of the system as it is now was averaged. */
    get heard() {
      return layers.some(l => blocksOf(l) > 0)
    },
    /** True once every frequency has two blocks of the system as it is now: only then is there something to keep. */
    get complete() {
      return layers.every(l => blocksOf(l) >= 2)
    },
    /** Seconds from a restart until `complete`. */
    get completeAfter(): Seconds {
      return Math.max(...layers.map(l => l.length + l.hop)) / sampleRate
    },
    /**
     * Blocks left out because of holes, frames that came faster than they could be taken, and blocks left out
     * as poor.
     */
    get gaps() {
      return { dropped, lost, poor }
    },

    /** Takes the microphone later by `seconds`; the average starts anew. */
    setDelay(seconds: Seconds) {
      apart = apartNow()
      delay = seconds + apart
      since = reader.written()
      // another delay is another phase: nothing of the old can be shown
      for (const layer of layers) layer.spectra.restart()
      this.restart()
    },

    /**
     * Follows a slow movement: takes the microphone later by `seconds` from here on and turns the average's
     * phase along, forgetting nothing.
     */
    follow(seconds: Seconds) {
      const before = whole()
      delay += seconds - this.delay
      for (const layer of layers) layer.spectra.delayBy(whole() - before)
    },

    /**
     * Takes the microphone's clock as one that falls behind by `rate` seconds a second, and did so for `ago` seconds:
     * every block is turned to where it would stand without, and what is told is what it was then.
     */
    setDrift(rate: number, ago: Seconds = 0) {
      const before = delay
      const wholeBefore = whole()
      delay = delayNow()
      apart = apartNow() + (rate - drift) * ago
      since = reader.written()
      drift = rate
      for (const layer of layers) layer.spectra.delayBy(whole() - wholeBefore - (delay - before) * sampleRate)
    },

    /** Takes up from another measurement on the same two clocks what is known of them. */
    setClocks({ drift: rate, apart: offset }: { readonly drift: number, readonly apart: Seconds }) {
      this.setDrift(rate)
      const told = delayNow() - apart
      apart = offset
      delay = told + offset
    },

    /** Leaves out what was heard until now: after a pause that should not count. */
    skip() {
      for (const layer of layers) layer.next = Math.max(layer.next, onHop(reader.written(), layer.hop))
    },

    /**
     * Forgets the average because the system changed `ago` frames before now: blocks count again once three
     * quarters of them (96 %
     * of what the window weighs) were fed to the changed system. Until then the old trace stays, without any trust.
     */
    restart(ago = 0) {
      fresh = reader.written() - ago
      for (const layer of layers) {
        layer.outdated = true
        layer.next = Math.max(layer.next, onHop(fresh - Math.round(layer.length / 4), layer.hop))
      }
    },

    /**
     * All that is heard is `seconds` later since `ago` frames before now, and nothing else differs: the average is
     * turned there, and blocks that hold both are left out.
     */
    later(seconds: Seconds, ago = 0) {
      const since = reader.written() - ago
      told = null
      for (const layer of layers) {
        layer.spectra.delayBy(-seconds * sampleRate)
        layer.next = Math.max(layer.next, onHop(since, layer.hop))
      }
    },

    /** Adds all blocks that are complete. True when the average changed. */
    poll(): boolean {
      let changed = false
      for (const layer of layers) if (pollLayer(layer)) changed = true
      return changed
    },

    /**
     * Writes the current average onto the standard grid, neighbouring layers faded into each other.
     */
    read(curve: MeasuredCurve) {
      const late = delay - whole() / sampleRate
      const { re, im, coherence, averages } = curve
      for (const column of [re, im, coherence, averages, weights]) column.fill(0)
      for (const layer of layers) {
        if (isSilent(layer)) continue
        layer.reader.read(layer.spectra, late, part, layer.first, layer.end)
        const trust = layer.outdated ? 0 : Math.min(1, (layer.spectra.blocks - 1) / (fewBlocks - 1))
        for (let p = layer.first; p < layer.end; p++) {
          const w = layer.weights[p - layer.first]!
          re[p]! += w * part.re[p]!
          im[p]! += w * part.im[p]!
          coherence[p]! += w * trust * part.coherence[p]!
          averages[p]! += w * part.averages[p]!
          weights[p]! += w
        }
      }
      for (let p = 0; p < weights.length; p++) {
        if (weights[p]! <= 0) continue
        re[p]! /= weights[p]!
        im[p]! /= weights[p]!
        coherence[p]! /= weights[p]!
        averages[p]! /= weights[p]!
      }
    },

    /**
     * Impulse response behind the average, time 0 at index 0 (see `impulseResponse`), as long as the longest
     * full block.
     */
    impulse: (): Float64Array => impulseResponse(blocksOf(long) > 0 ? long.spectra : main.spectra),

    /** The same in order, without the window's taper: what rooms are judged by. */
    response: () =>
      withoutTaper(impulseResponse(blocksOf(long) > 0 ? long.spectra : main.spectra), window, sampleRate),

    /**
     * Arrival over up to `search` frames since the last restart, from nothing; null while too little was heard
     * or nothing stands out.
     */
    findArrival(expected: Seconds | null = null): Arrival | null {
      const frames = [search, search / 2, search / 4].find(n => reader.written() - fresh >= n)
      if (!frames) return null
      const a = new Float32Array(frames)
      const b = new Float32Array(frames)
      const from = reader.written() - frames
      if (!reader.read(reference, from, a) || !reader.read(microphone, from, b) || levelOf(a).rms < silence)
        return null
      const raw = expected === null ? null : expected + apartNow()
      const found = findArrival(a, b, sampleRate, raw, tries++ % swappedEvery === swappedEvery - 1)
      return found && { ...found, time: found.time - apartNow() }
    },

    /**
     * Arrival in the running average, near the compensated delay: sharper than `findArrival`. Null when nothing
     * stands out.
     */
    trackArrival(): Arrival | null {
      if (blocksOf(main) < 2) return null
      const found = mainArrival()
      // a narrow band says its time only over a long block
      const isNarrow = (!found || found.band[1] < narrow) && long !== main && blocksOf(long) >= 2
      const better = isNarrow ? longArrival() : found
      return better && { ...better, time: better.time + whole() / sampleRate - apart }
    },
  }
}

export type Live = ReturnType<typeof createLive>

/** Peak and RMS of a block in dBFS. */
export function levelOf(block: Float32Array): Level {
  let peak = 0
  let sum = 0
  for (let n = 0; n < block.length; n++) {
    const v = block[n]!
    sum += v * v
    if (v > peak) peak = v
    else if (-v > peak) peak = -v
  }
  return { peak: 20 * Math.log10(peak), rms: 10 * Math.log10(sum / block.length) }
}
