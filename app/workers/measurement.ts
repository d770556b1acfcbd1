import { standardGrid, type SpectrumMaker } from '~~/core/dsp'
import {
  createFollower,
  createLive,
  isFlattened,
  levelOf,
  measuredCurve,
  type Correction,
  type Level,
  type Live,
  type MeasuredCurve,
  type References,
  type Ring,
  type ringReader,
} from '~~/core/measure'
import type { EngineSettings, Frame, MeasurementSpec, TakeReady } from '~~/core/contract'

const searchEvery = 250
const searchFor = 2500
/** Upper end in Hz of a band whose arrival one block tells only roughly. */
const roughBelow = 1000
const silence = -75

const columnsOf = ({ re, im, coherence, averages }: MeasuredCurve) => ({ re, im, coherence, averages })
const buffersOf = (curve: MeasuredCurve) => Object.values(columnsOf(curve)).map(c => c.buffer)

/** Level of the newest 4096 samples of a channel. */
export function createMeter(reader: ReturnType<typeof ringReader>) {
  const block = new Float32Array(4096)
  const nothing: Level = { peak: -Infinity, rms: -Infinity }
  return (channel: number): Level => {
    const written = reader.written()
    return written >= block.length && reader.read(channel, written - block.length, block)
      ? { ...levelOf(block), flat: isFlattened(block) }
      : nothing
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
  correctionOf: (channel: number) => Correction | null,
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
  let searches = 0
  let lastTrack = 0
  let changed = false
  /** Uncertainty of an arrival that the average is to tell better; 0: none is. */
  let rough = 0

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
    searches++
    const found = live.findArrival(spec.expected)
    if (heardSince === null || meter(spec.reference).rms < silence) heardSince = now
    const giveUp = !found && spec.expected !== null && now - heardSince > searchFor
    if (!found && !giveUp) return
    searching = false
    rough = found && found.band[1] < roughBelow ? found.uncertainty : 0
    assumed = giveUp
    arrival = found
    live.setDelay(found ? found.time : spec.expected!)
  }
  function track(now: number, follow: boolean) {
    lastTrack = now
    const found = live.trackArrival()
    // one block told a narrow band's time only roughly: the average tells it better, once
    if (found && rough && found.uncertainty < rough) {
      live.setDelay(found.time)
      rough = 0
    }
    if (found) follower.heard(now / 1000, found.time, follow, spec.clocks)
    arrival = found ?? (meter(spec.reference).rms > silence ? null : arrival)
  }
  const read = () => {
    const curve = measuredCurve(standardGrid)
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
    /** How often its arrival was looked for, found or not. */
    get searches() {
      return searches
    },
    /** True while it cannot be kept yet: no arrival, or not everything measured often enough. */
    get pending() {
      return !spec.paused && (searching || !live.complete)
    },
    /**
     * Takes every block that is due. True when the first block after a change was just taken.
     */
    step(): boolean {
      if (spec.paused) return false
      const none = !live.heard
      if (live.poll()) changed = true
      return none && live.heard
    },
    /** Since when it waits to look for its arrival, or after it; Infinity while it need not. */
    get looksSince() {
      if (spec.paused || !(searching || live.heard)) return Infinity
      return (searching ? lastSearch : lastTrack) + searchEvery
    },
    /** Looks for the arrival, or follows it. */
    look(now: number, follow: boolean) {
      if (searching) search(now)
      else track(now, follow)
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
          curve: curve && columnsOf(curve),
          blocks: live.blocks,
          delay: live.delay,
          arrival,
          searching,
          paused: spec.paused,
          assumed,
          gaps: live.gaps,
          drift: follower.drift,
          compensated: live.drift !== 0,
          complete: live.complete,
        },
        transfer: curve ? buffersOf(curve) : [],
      }
    },
    /** The average's response, without what the microphone adds. */
    response() {
      const response = live.response()
      const correction = correctionOf(spec.microphone)
      return correction ? { ...response, samples: correction.takeFromResponse(response.samples) } : response
    },
    take(mark: number): { take: TakeReady, transfer: Transferable[] } {
      const curve = read()
      const { sampleRate } = ring
      const { samples: impulse, start, block } = this.response()
      return {
        take: {
          type: 'take',
          id: spec.id,
          mark,
          ...columnsOf(curve),
          impulse,
          impulseStart: start + live.early,
          blocks: live.blocks,
          delay: live.delay,
          length: block,
          sampleRate,
          arrival: arrival?.time ?? null,
        },
        transfer: [...buffersOf(curve), impulse.buffer],
      }
    },
    /** Another way to measure on the same channels: the delay already found is kept. */
    settings(next: EngineSettings) {
      const old = live
      live = create(next)
      live.setClocks(old)
      follower = createFollower(live)
      if (!searching) live.setDelay(old.delay)
    },
    /** What belongs to the measurement but does not touch its sound. */
    change(next: MeasurementSpec) {
      if (spec.paused && !next.paused) live.skip()
      if (spec.clocks && !next.clocks) live.setClocks({ drift: 0, apart: 0 })
      spec = { ...next, expected: spec.expected ?? next.expected }
    },
    restart(ago?: number) {
      live.restart(ago)
      follower.restart()
    },
    /** All that sounds is later: what was heard is turned, not forgotten. */
    later(seconds: number, ago: number) {
      live.later(seconds, ago)
      follower.restart()
      changed = true
    },
    find(expected: number | null) {
      // what is known of two clocks stays: what is found now is told as what was found before
      startSearch(expected)
      this.restart()
    },
    setDelay(seconds: number) {
      assumed = searching = false
      live.setDelay(seconds)
    },
  }
}
export type RunningMeasurement = ReturnType<typeof createMeasurement>
