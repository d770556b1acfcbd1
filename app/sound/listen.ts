import { defineStore } from 'pinia'
import { useLocalStorage } from '@vueuse/core'
import { meanLevel, standardGrid, type Curve, type Signal } from '~~/core/dsp'
import {
  flatOften,
  followFlat,
  generatorTap,
  openRing,
  type BandPart,
  type Level,
  type Measurement,
  type SoundLevel,
  type Tap,
} from '~~/core/measure'
import { feedOfTap, simulatedTaps } from '~~/standins/venue/interface'
import {
  AnalysisAnswer,
  type AnalysisRequest,
  type Frame,
  type GeneratorRequest,
  type ImpulseNow,
  type MeasurementSpec,
  type SweepAnswer,
  type Wants,
} from '~~/core/contract'
import { laterBy, type Rig } from '~~/core/rig'
import type { Asked } from '~/sound/hall'
import { inTurn } from '~/utils/turns'
import { hearFrom } from '~/workers/line'

const silence: Level = { peak: -Infinity, rms: -Infinity }
/** Milliseconds that a take waits for what just changed to be heard. */
const takeWaits = 10_000

/**
 * The running measurements: the noise, the analysis, and keeping takes. What is in front is the measurement
 * whose findings and numbers are shown.
 */
export const useListen = defineStore('listen', () => {
  const site = useSite()
  const view = useView()
  const notices = useNotices()
  const computer = useComputerInputs()
  const sets = useSets()
  const hall = useHall()
  const corrections = useCorrections()
  const engine = useEngine()
  const planned = usePlannedArrival()
  const keep = useKeepLive()

  const input = computed(() => sets.input)
  const noiseLevel = useLocalStorage('kovrin-noise-level', -20)
  const running = ref(false)
  const noise = ref(false)
  const stalled = ref(false)
  const taking = ref(false)
  /** True from a change of settings until the first block that was measured with them alone. */
  const settling = ref(false)
  /** Newest state of each measurement, by its id. */
  const frames = shallowRef<Record<string, Frame>>({})
  const front = computed(() => sets.front)
  const frameNow = computed(() => front.value && frames.value[front.value.id])
  const uncorrected = computed(() => (frameNow.value ? curveOf(frameNow.value) : null))
  const curve = computed(
    () => uncorrected.value && corrections.corrected(uncorrected.value, front.value!.microphone),
  )
  const curveOf = ({ curve }: Frame): Curve | null => curve && { frequencies: standardGrid, ...curve }
  const arrival = computed(() => frameNow.value?.arrival ?? null)
  const delay = computed(() => frameNow.value?.delay ?? 0)
  /** True while the delay is the plan's, because no arrival stood out of the sound. */
  const assumed = computed(() => frameNow.value?.assumed ?? false)
  const blocks = computed(() => frameNow.value?.blocks ?? 0)
  const gaps = computed(() => frameNow.value?.gaps ?? { dropped: 0, lost: 0, poor: 0 })
  const searching = computed(() => running.value && (frameNow.value?.searching ?? true))
  /** Ring channels by tap, as the running input was opened. */
  let channels = new Map<Tap, number>()
  const meters = shallowRef(new Map<Tap, Level>())
  const spectra = shallowRef(new Map<Tap, Float32Array>())
  /** Levels by filters, of bands of `part` of an octave. */
  const bands = shallowRef<{ part: BandPart, levels: Map<Tap, Float32Array> } | null>(null)
  /** How often of late each tap was cut off at its top. */
  const flats = new Map<Tap, number>()
  const levels = computed(() => ({
    microphone: (front.value && meters.value.get(front.value.microphone)) ?? silence,
    reference: (front.value && meters.value.get(front.value.reference)) ?? silence,
  }))
  const spectrum = computed(() => {
    const microphone = front.value && spectra.value.get(front.value.microphone)
    const reference = front.value && spectra.value.get(front.value.reference)
    return microphone && reference ? { microphone, reference } : null
  })

  /**
   * dB added to the running trace for viewing, so that it sits at 0 dB; takes carry it as their offset, apart
   * from their data.
   */
  const trim = useLocalStorage('kovrin-trim', 0)
  /** Taps that have clipped: marked until somebody looks. */
  const clipped = ref<Tap[]>([])
  /** Counts every Hush: whatever plays by itself must end with it. */
  const hushed = ref(0)
  /** What the charts in view ask for besides the curve. */
  const wants = ref<Wants>({ impulse: false, spectrum: false, bands: null, level: null })
  const impulse = shallowRef<ImpulseNow | null>(null)
  const level = shallowRef<SoundLevel | null>(null)

  /** What the generator plays. */
  const signal = useLocalStorage<Signal>('kovrin-signal', { kind: 'pink' })
  let sweepListener: ((answer: SweepAnswer) => void) | null = null
  let analysis: Worker | null = null
  let mark = 0
  /** Number of the site's newest change when the average that carries `mark` began. */
  let measuredSince = 0
  const toAnalysis = (request: AnalysisRequest) => analysis?.postMessage(request)
  const plain = <T>(value: T): T => JSON.parse(JSON.stringify(value)) as T

  /** Newest frames that are not drawn yet. */
  const newest = new Map<string, Frame>()
  function takeFrames() {
    if (!analysis) return newest.clear()
    const next = { ...frames.value }
    for (const frame of newest.values()) {
      if (frame.mark !== mark) continue
      next[frame.id] = {
        ...frame,
        curve: frame.curve ?? (frame.searching ? null : (next[frame.id]?.curve ?? null)),
      }
      if (frame.id === front.value?.id && frame.curve) settling.value = false
    }
    newest.clear()
    frames.value = next
  }
  const byTap = (levels: ReadonlyMap<number, Float32Array>) =>
    new Map([...channels].flatMap(([tap, channel]) => {
      const found = levels.get(channel)
      return found ? [[tap, found] as const] : []
    }))
  const tapAt = (channel: number) => [...channels].find(([, c]) => c === channel)?.[0]

  function hear(answer: AnalysisAnswer) {
    switch (answer.type) {
      case 'meters': {
        const next = new Map<Tap, Level>()
        for (const [channel, level] of answer.channels) {
          const tap = tapAt(channel)
          if (!tap) continue
          next.set(tap, level)
          flats.set(tap, followFlat(flats.get(tap) ?? 0, level.flat === true))
          if (level.peak >= -0.1 && tap !== generatorTap && !clipped.value.includes(tap))
            clipped.value = [...clipped.value, tap]
        }
        meters.value = next
        stalled.value = answer.stalled
        break
      }
      case 'frame':
        // drawn once a picture: where the page is slower than the analysis, what it could not draw is left out,
        // not queued
        inTurn(takeFrames)
        newest.set(answer.id, answer.curve ? answer : { ...answer, curve: newest.get(answer.id)?.curve ?? null })
        break
      case 'impulse':
        if (answer.mark === mark) impulse.value = answer
        break
      case 'spectrum':
        spectra.value = byTap(answer.channels)
        break
      case 'bands':
        bands.value = { part: answer.part, levels: byTap(answer.channels) }
        break
      case 'level':
        level.value = answer.level
        break
      case 'take':
        void keep(answer, measuredNow()).finally(() => (taking.value = false))
        break
      case 'sweeping':
      case 'sweep-now':
      case 'swept':
      case 'no-sweep':
        sweepListener?.(answer)
        break
      case 'no-take':
        taking.value = false
        notices.say('warn', answer.why)
        break
      case 'failed':
        notices.say('error', answer.why)
        break
    }
  }

  const measuredNow = () => ({
    mark,
    since: measuredSince,
    meters: meters.value,
    frames: frames.value,
    trim: trim.value,
  })

  /** What is measured from here on belongs to the settings as they are now. */
  function begin() {
    mark++
    measuredSince = site.number
    settling.value = running.value
  }

  /** A new average from here on: the system has changed. */
  function restart(ago = 0) {
    begin()
    toAnalysis({ type: 'restart', mark, ago })
  }

  /** What the analysis is to measure, on the channels that are open. */
  const specs = (): MeasurementSpec[] =>
    sets.able.flatMap((m) => {
      const microphone = channels.get(m.microphone)
      const reference = channels.get(m.reference)
      return microphone === undefined || reference === undefined
        ? []
        : [
            {
              id: m.id,
              microphone,
              reference,
              expected: expected(m),
              paused: m.state === 'paused',
              clocks: sets.clocks(m),
            },
          ]
    })
  const expected = (m: Measurement) => {
    const at = sets.placeOf(m)
    return view.cell && at ? planned.arrivalByPlan(view.cell.source, at.id) : null
  }

  const sampleRate = ref(48_000)
  function startAnalysis(buffer: SharedArrayBuffer, taps: readonly Tap[]) {
    analysis?.terminate()
    sampleRate.value = openRing(buffer).sampleRate
    frames.value = {}
    newest.clear()
    channels = new Map(taps.map((tap, n) => [tap, n]))
    analysis = new Worker(new URL('../workers/analysis.worker.ts', import.meta.url), { type: 'module' })
    hearFrom(analysis, AnalysisAnswer, hear, why => notices.say('error', `The analysis stopped: ${why}`))
    toAnalysis({
      type: 'listen',
      buffer,
      settings: plain(engine.settings),
      measurements: specs(),
      front: front.value?.id ?? '',
    })
    toAnalysis({ type: 'wants', ...plain(wants.value) })
    toAnalysis({ type: 'follow', on: engine.following })
    running.value = true
    restart()
    if (noise.value) sendNoise()
  }

  const find = () =>
    toAnalysis({ type: 'find', expected: Object.fromEntries(sets.able.map(m => [m.id, expected(m)])) })

  const taps = computed(() => [...new Set(sets.able.flatMap(m => [m.microphone, m.reference]))])

  /** What sounded last, as far as it is known. */
  let sounding: Rig | null = null
  /** What sounds now is `rig`: the average goes on where all of it only became later, and begins anew otherwise. */
  function sounds(rig: Rig, ago = 0) {
    const feeds = sets.able.flatMap(m => site.feedFrom(feedOfTap(m.reference)) ?? [])
    const later = sounding && laterBy(sounding, rig, feeds)
    sounding = rig
    if (later === null) return restart(ago)
    begin()
    toAnalysis({ type: 'later', mark, ago, seconds: later })
  }
  function heard(ago: number, moved: boolean, { rig, alone }: Asked) {
    if (!alone) sounding = null
    sounds(rig, ago)
    if (moved) find()
  }

  async function start() {
    if (running.value || !site.open) return
    if (!sets.able.length)
      return notices.say(
        'warn',
        'Nothing to measure: this set has no measurement that can run. Add one, or mend the one that is refused.',
      )
    if (input.value === 'venue') return hall.open(buffer => startAnalysis(buffer, simulatedTaps), heard)
    const opened = [...taps.value]
    sounding = site.heldRig
    await computer.open(opened, buffer => startAnalysis(buffer, opened))
  }

  function stop() {
    noise.value = false
    analysis?.terminate()
    analysis = null
    hall.close()
    computer.close()
    running.value = false
    settling.value = taking.value = false
    sounding = null
    impulse.value = level.value = null
    frames.value = {}
    meters.value = new Map()
    spectra.value = new Map()
    bands.value = null
  }

  const toGenerator = (request: GeneratorRequest) =>
    input.value === 'venue' ? hall.tell(request) : computer.tell(request)
  const sendNoise = () => {
    toGenerator({ type: 'signal', signal: plain(signal.value) })
    toGenerator({ type: 'noise', on: noise.value, level: noiseLevel.value })
  }

  async function turnNoise(on: boolean) {
    if (on && !running.value) await start()
    noise.value = on
    sendNoise()
  }

  /** Silence at once, from any screen. */
  function hush() {
    noise.value = false
    hushed.value++
    hall.tell({ type: 'hush' })
    hall.programme = false // a real console has its own fader; the simulated one obeys
    computer.tell({ type: 'hush' })
  }

  function take() {
    if (!view.cell)
      return notices.say(
        'warn',
        'Pick a cell in the ledger first: which loudspeaker is this, and where is the microphone?',
      )
    if (!running.value) return notices.say('warn', 'Nothing is measured yet: start the noise first.')
    taking.value = true
    // what just changed is taken as soon as it is heard
    if (settling.value) setTimeout(giveUp, takeWaits)
    else toAnalysis({ type: 'take' })
  }
  function giveUp() {
    if (!taking.value || !settling.value) return
    taking.value = false
    notices.say('warn', 'Since the last change nothing is heard: start the noise, then take it. Nothing was kept.')
  }
  watch(settling, (still) => {
    if (!still && taking.value && analysis) toAnalysis({ type: 'take' })
  })

  site.onHeld(() => {
    if (running.value && input.value === 'computer') sounds(site.heldRig)
  }) // the hall says itself when it has followed
  watch(() => engine.settings, a => toAnalysis({ type: 'settings', settings: plain(a) }))
  watch(wants, w => toAnalysis({ type: 'wants', ...plain(w) }), { deep: true })
  watch([noiseLevel, signal], sendNoise, { deep: true })
  watch(() => engine.following, on => toAnalysis({ type: 'follow', on }))
  /** Everything that decides where the microphones stand and what is looked for there. */
  watch(
    () =>
      JSON.stringify([
        view.cell?.source,
        input.value === 'venue' ? hall.places : sets.able.map(m => sets.placeOf(m)?.id),
      ]),
    () => {
      if (!running.value) return
      frames.value = {}
      impulse.value = null
      if (input.value === 'venue') {
        begin() // what is still on its way is of the place before
        hall.move() // the search begins when the hall has followed
      }
      else {
        // a take that is on its way belongs to where the microphone was said to stand
        restart()
        find()
      }
    },
  )
  watch(
    () => JSON.stringify([sets.able, front.value?.id]),
    async () => {
      if (!running.value) return
      if (!sets.able.length) return stop()
      if (!taps.value.every(t => channels.has(t))) {
        // channels that are not open yet
        const on = noise.value
        stop()
        await (on ? turnNoise(true) : start())
        return
      }
      impulse.value = null
      toAnalysis({ type: 'measurements', measurements: specs(), front: front.value?.id ?? '' })
      frames.value = Object.fromEntries(
        Object.entries(frames.value).filter(([id]) => sets.able.some(m => m.id === id)),
      )
    },
  )
  watch([input, () => computer.output], () => stop())
  watch(
    () => computer.state,
    (state) => {
      if (input.value !== 'computer') return
      if (state !== 'open' && state !== 'asking') noise.value = false
      if (state === 'unplugged' || state === 'failed') running.value = false
    },
  )

  return {
    input,
    length,
    wants,
    impulse,
    spectrum,
    spectra,
    bands,
    level,
    noiseLevel,
    running,
    sampleRate,
    noise,
    searching,
    stalled,
    taking,
    settling,
    front,
    frames,
    frameNow,
    curve,
    curveOf,
    arrival,
    delay,
    assumed,
    blocks,
    gaps,
    levels,
    meters,
    /** The microphone is cut off at its top before full scale, and the reference is not. */
    isFlattened: () => {
      const often = (tap: Tap | undefined) => (tap ? (flats.get(tap) ?? 0) : 0) >= flatOften
      return often(front.value?.microphone) && !often(front.value?.reference)
    },
    trim,
    matchLevel: () => {
      if (!curve.value) return notices.say('warn', 'Nothing is measured yet: start the noise first.')
      trim.value = -Math.round(10 * meanLevel(curve.value, 500, 2000)) / 10
    },
    clipped,
    signal,
    hushed,
    ...planned,
    keepInterface: () => {
      if (corrections.keepInterface(uncorrected.value)) restart()
    },
    setDelay: (seconds: number) => toAnalysis({ type: 'delay', seconds }),
    toAnalysis,
    toGenerator,
    /** Hears of a sweep's recording; null ends it. */
    hearSweep(f: typeof sweepListener) {
      sweepListener = f
    },
    start,
    stop,
    turnNoise,
    hush,
    take,
    restart: () => restart(),
    find: () => {
      frames.value = {}
      find()
    },
  }
})
