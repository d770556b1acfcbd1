import { standardGrid, type Curve } from '~~/core/dsp'
import { flatOften, followFlat, generatorTap } from '~~/core/measure'
import type { BandPart, Hum, Level, Measurement, SoundLevel, Tap } from '~~/core/measure'
import type { AnalysisAnswer, Frame, ImpulseNow, SweepAnswer } from '~~/core/contract'
import { inTurn } from '~/document/turns'

const silence: Level = { peak: -Infinity, rms: -Infinity }

/** What the analysis says of the sound; the rest of its answers are what somebody asked for. */
export type Sounding = Exclude<AnalysisAnswer, SweepAnswer | { type: 'take' | 'no-take' | 'failed' }>

interface Expected {
  /** The measurement whose numbers are shown. */
  front: () => Measurement | null
  /** Mark of the average that runs: what carries an older one is of what was before. */
  mark: () => number
  /** The measurement in front shows what was changed. */
  settled: () => void
}

/** What is heard now by every running measurement and channel, as the analysis tells it; drawn once a picture. */
export function useHeardNow({ front, mark, settled }: Expected) {
  /** Newest state of each measurement, by its id. */
  const frames = shallowRef<Record<string, Frame>>({})
  /** Ring channels by tap, as the running input was opened. */
  let channels = new Map<Tap, number>()
  const meters = shallowRef(new Map<Tap, Level>())
  const spectra = shallowRef(new Map<Tap, Float32Array>())
  /** Levels by filters, of bands of `part` of an octave. */
  const bands = shallowRef<{ part: BandPart, levels: Map<Tap, Float32Array> } | null>(null)
  const impulse = shallowRef<ImpulseNow | null>(null)
  const level = shallowRef<SoundLevel | null>(null)
  /** What hums in silence, as it was told last. */
  const hum = shallowRef<Hum | null>(null)
  const stalled = ref(false)
  /** Taps that have clipped: marked until somebody looks. */
  const clipped = ref<Tap[]>([])
  /** How often of late each tap was cut off at its top. */
  const flats = new Map<Tap, number>()
  /** Newest frames that are not drawn yet. */
  const newest = new Map<string, Frame>()
  let listening = false

  function takeFrames() {
    if (!listening) return newest.clear()
    const next = { ...frames.value }
    for (const frame of newest.values()) {
      if (frame.mark !== mark()) continue
      next[frame.id] = {
        ...frame,
        curve: frame.curve ?? (frame.searching ? null : (next[frame.id]?.curve ?? null)),
      }
      if (frame.id === front()?.id && frame.curve) settled()
    }
    newest.clear()
    frames.value = next
  }
  const byTap = (levels: ReadonlyMap<number, Float32Array>) =>
    new Map([...channels].flatMap(([tap, channel]) => {
      const found = levels.get(channel)
      return found ? [[tap, found] as const] : []
    }))
  function takeMeters(answer: AnalysisAnswer & { type: 'meters' }) {
    const next = new Map<Tap, Level>()
    const taps = new Map([...channels].map(([tap, channel]) => [channel, tap]))
    for (const [channel, level] of answer.channels) {
      const tap = taps.get(channel)
      if (!tap) continue
      next.set(tap, level)
      flats.set(tap, followFlat(flats.get(tap) ?? 0, level.flat === true))
      if (level.peak >= -0.1 && tap !== generatorTap && !clipped.value.includes(tap))
        clipped.value = [...clipped.value, tap]
    }
    meters.value = next
    stalled.value = answer.stalled
  }
  function hear(answer: Sounding) {
    switch (answer.type) {
      case 'meters':
        takeMeters(answer)
        break
      case 'frame':
        // drawn once a picture: where the page is slower than the analysis, what it could not draw is left out,
        // not queued
        inTurn(takeFrames)
        newest.set(answer.id, answer.curve ? answer : { ...answer, curve: newest.get(answer.id)?.curve ?? null })
        break
      case 'impulse':
        if (answer.mark === mark()) impulse.value = answer
        break
      case 'spectrum':
        spectra.value = byTap(answer.channels)
        break
      case 'bands':
        bands.value = { part: answer.part, levels: byTap(answer.channels) }
        break
      case 'hum':
        hum.value = answer.known ? answer.hum : null
        break
      case 'level':
        level.value = answer.level
        break
    }
  }
  /** Another input is heard from here on, its channels in this order. */
  function open(taps: readonly Tap[]) {
    listening = true
    frames.value = {}
    newest.clear()
    channels = new Map(taps.map((tap, n) => [tap, n]))
  }
  function close() {
    listening = false
    impulse.value = level.value = hum.value = null
    frames.value = {}
    meters.value = new Map()
    spectra.value = new Map()
    bands.value = null
  }
  const frameNow = computed(() => frames.value[front()?.id ?? ''])
  const levels = computed(() => ({
    microphone: meters.value.get(front()?.microphone ?? '') ?? silence,
    reference: meters.value.get(front()?.reference ?? '') ?? silence,
  }))
  const spectrum = computed(() => {
    const [microphone, reference] = [front()?.microphone, front()?.reference].map(tap => spectra.value.get(tap ?? ''))
    return microphone && reference ? { microphone, reference } : null
  })
  const shown = {
    frames, frameNow, meters, levels, spectra, spectrum, bands, impulse, level, hum, stalled, clipped,
    arrival: computed(() => frameNow.value?.arrival ?? null),
    delay: computed(() => frameNow.value?.delay ?? 0),
    /** True while the delay is the plan's, because no arrival stood out of the sound. */
    assumed: computed(() => frameNow.value?.assumed ?? false),
    blocks: computed(() => frameNow.value?.blocks ?? 0),
    gaps: computed(() => frameNow.value?.gaps ?? { dropped: 0, lost: 0, poor: 0 }),
    curveOf: ({ curve }: Frame): Curve | null => curve && { frequencies: standardGrid, ...curve },
    /** The microphone is cut off at its top before full scale, and the reference is not. */
    isFlattened: () => {
      const often = (tap: Tap | undefined) => (tap ? (flats.get(tap) ?? 0) : 0) >= flatOften
      return often(front()?.microphone) && !often(front()?.reference)
    },
  }
  return { shown, hear, open, close, channelOf: (tap: Tap) => channels.get(tap) }
}
