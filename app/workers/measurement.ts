import { standardGrid, unity, type Curve, type SpectrumMaker } from '~~/core/dsp'
import {
  createFollower,
  createLive,
  levelOf,
  type Level,
  type Live,
  type References,
  type Ring,
  type ringReader,
} from '~~/core/measure'
import type { EngineSettings, Frame, MeasurementSpec, TakeReady } from './messages'

const searchEvery = 250
const searchFor = 2500
const silence = -75

/** Level of the newest 4096 samples of a channel. */
export function createMeter(reader: ReturnType<typeof ringReader>) {
  const block = new Float32Array(4096)
  const nothing: Level = { peak: -Infinity, rms: -Infinity }
  return (channel: number): Level => {
    const written = reader.written()
    return written >= block.length && reader.read(channel, written - block.length, block) ? levelOf(block) : nothing
  }
}

/** One measurement on the ring: it finds its own arrival, averages, follows, and says what it has. */
export function createMeasurement(
  ring: Ring,
  meter: (channel: number) => Level,
  first: MeasurementSpec,
  settings: EngineSettings,
  spectrum: SpectrumMaker,
  references: References,
) {
  let spec = first
  let live = create(settings)
  let follower = createFollower(live)
  /** `heardSince`: when the running search first heard the reference. */
  let searching = true
  let assumed = false
  let arrival: Frame['arrival'] = null
  let heardSince: number | null = null
  let lastSearch = 0
  let lastTrack = 0
  let changed = false

  function create(next: EngineSettings): Live {
    return createLive(ring, {
      reference: spec.reference,
      microphone: spec.microphone,
      ...next,
      spectrum,
      references,
    })
  }
  function startSearch(expected: number | null) {
    searching = true
    assumed = false
    arrival = null
    spec = { ...spec, expected }
    heardSince = null
  }
  /** One try to find the arrival; when none stands out for a while, the plan's own is taken, and said to be. */
  function search(now: number) {
    lastSearch = now
    const found = live.findArrival()
    if (heardSince === null || meter(spec.reference).rms < silence) heardSince = now
    const giveUp = !found && spec.expected !== null && now - heardSince > searchFor
    if (!found && !giveUp) return
    searching = false
    assumed = giveUp
    arrival = found
    live.setDelay(found ? found.time : spec.expected!)
  }
  function track(now: number, follow: boolean) {
    lastTrack = now
    const found = live.trackArrival()
    if (found) follower.heard(now / 1000, found.time, follow, spec.clocks)
    arrival = found ?? (meter(spec.reference).rms > silence ? null : arrival)
  }
  const read = (): Curve => {
    const curve = { ...unity(standardGrid), coherence: new Float64Array(standardGrid.length) }
    live.read(curve)
    return curve
  }

  return {
    get spec() {
      return spec
    },
    get live() {
      return live
    },
    get searching() {
      return searching
    },
    /** True while it cannot be kept yet: no arrival, or not everything measured often enough. */
    get pending() {
      return !spec.paused && (searching || !live.complete)
    },
    /**
     * Takes every block that is due; looks for the arrival or follows it. True when the first block after a
     * change was just taken.
     */
    step(now: number, follow: boolean): boolean {
      if (spec.paused) return false
      const none = !live.heard
      if (live.poll()) changed = true
      if (searching) {
        if (now - lastSearch > searchEvery) search(now)
      }
      else if (now - lastTrack > searchEvery && live.heard) track(now, follow)
      return none && live.heard
    },
    /**
     * Its state, with the curve if that changed since the last call, or `anyway`; null when there is nothing
     * new to say.
     */
    frame(mark: number, anyway: boolean): { frame: Frame, transfer: Transferable[] } | null {
      const curve = !searching && live.heard && (changed || anyway) ? read() : null
      if (!curve && !searching && live.heard) return null
      changed = false
      return {
        frame: {
          type: 'frame',
          id: spec.id,
          mark,
          curve: curve && { re: curve.re, im: curve.im, coherence: curve.coherence! },
          blocks: live.blocks,
          delay: live.delay,
          arrival,
          searching,
          assumed,
          gaps: live.gaps,
          drift: follower.drift,
          compensated: live.drift !== 0,
        },
        transfer: curve ? [curve.re.buffer, curve.im.buffer, curve.coherence!.buffer] : [],
      }
    },
    take(mark: number): { take: TakeReady, transfer: Transferable[] } {
      const curve = read()
      const { sampleRate } = ring
      const circular = live.impulse()
      const length = circular.length
      // an eighth of the block before the arrival, so that what comes early is kept too
      const early = length / 8
      const impulse = Float32Array.from({ length }, (_, n) => circular[(n - early + length) % length]!)
      const whole = Math.round(live.delay * sampleRate)
      return {
        take: {
          type: 'take',
          id: spec.id,
          mark,
          re: curve.re,
          im: curve.im,
          coherence: curve.coherence!,
          impulse,
          impulseStart: -early / sampleRate + whole / sampleRate - live.delay,
          blocks: live.blocks,
          delay: live.delay,
          length,
          sampleRate,
          arrival: arrival?.time ?? null,
        },
        transfer: [curve.re.buffer, curve.im.buffer, curve.coherence!.buffer, impulse.buffer],
      }
    },
    /** Another way to measure on the same channels: the delay already found is kept. */
    settings(next: EngineSettings) {
      const { delay, drift } = live
      live = create(next)
      follower = createFollower(live)
      if (searching) return
      live.setDelay(delay)
      live.setDrift(drift)
    },
    /** What belongs to the measurement but does not touch its sound. */
    change(next: MeasurementSpec) {
      if (spec.paused && !next.paused) live.skip()
      spec = { ...next, expected: spec.expected ?? next.expected }
    },
    restart(ago?: number) {
      live.restart(ago)
      follower.restart()
    },
    find(expected: number | null) {
      startSearch(expected)
      live.setDrift(0)
      this.restart()
    },
    setDelay(seconds: number) {
      assumed = searching = false
      live.setDelay(seconds)
    },
  }
}
export type RunningMeasurement = ReturnType<typeof createMeasurement>
