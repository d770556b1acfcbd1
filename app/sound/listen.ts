import { defineStore } from 'pinia'
import { useLocalStorage } from '@vueuse/core'
import { distance, speedOfSound } from '~~/core/acoustics'
import { standardGrid, type Curve, type Signal, type WindowId } from '~~/core/dsp'
import { routeDelay, routeTo, testFeed } from '~~/core/rig'
import {
  generatorTap,
  type Averaging,
  type Level,
  type MagnitudeKind,
  type Measurement,
  type SoundLevel,
  type Tap,
} from '~~/core/measure'
import { feedOfTap, simulatedTaps } from '~~/standins/venue/interface'
import type {
  AnalysisAnswer,
  AnalysisRequest,
  EngineSettings,
  Frame,
  GeneratorRequest,
  ImpulseNow,
  MeasurementSpec,
  SweepFailed,
  SweepNext,
  SweepProgress,
  Swept,
  TakeReady,
  Wants,
} from '~/workers/messages'

export const averagings: { id: string, name: string, averaging: Averaging }[] = [
  { id: 'fast', name: '0.5 s', averaging: { kind: 'exponential', time: 0.5 } },
  { id: 'watch', name: '1 s', averaging: { kind: 'exponential', time: 1 } },
  { id: 'slow', name: '4 s', averaging: { kind: 'exponential', time: 4 } },
  ...[1, 2, 4, 8, 16, 32, 64].map(count => ({
    id: `${count}`,
    name: count === 1 ? '1 block' : `${count} blocks`,
    averaging: { kind: 'blocks' as const, count },
  })),
  { id: 'all', name: 'all since the restart', averaging: { kind: 'all' } },
]
export const blockLengths = ['multi', ...Array.from({ length: 8 }, (_, k) => 2 ** (10 + k))] as const
const silence: Level = { peak: -Infinity, rms: -Infinity }

/**
 * The running measurements: the noise, the analysis, and keeping takes. What is in front is the measurement
 * whose findings and numbers are shown.
 */
export const useListen = defineStore('listen', () => {
  const site = useSite()
  const view = useView()
  const notices = useNotices()
  const computer = useComputerInputs()
  const inputs = useInputs()
  const sets = useSets()
  const hall = useHall()
  const corrections = useCorrections()

  const input = computed(() => sets.input)
  const averagingId = useLocalStorage('kovrin-averaging', 'watch')
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
  const levels = computed(() => ({
    microphone: (front.value && meters.value.get(front.value.microphone)) ?? silence,
    reference: (front.value && meters.value.get(front.value.reference)) ?? silence,
  }))
  const spectrum = computed(() => {
    const microphone = front.value && spectra.value.get(front.value.microphone)
    const reference = front.value && spectra.value.get(front.value.reference)
    return microphone && reference ? { microphone, reference } : null
  })

  const length = useLocalStorage<number | 'multi'>('kovrin-length', 'multi', {
    serializer: { read: t => (t === 'multi' ? t : Number(t)), write: String },
  })
  const magnitude = useLocalStorage<MagnitudeKind>('kovrin-magnitude', 'complex')
  const window = useLocalStorage<WindowId>('kovrin-window', 'hann')
  /** Part of a block shared with the next. */
  const overlap = useLocalStorage('kovrin-overlap', 0.75)
  const dropPoor = useLocalStorage('kovrin-drop-poor', false)
  const settings = computed<EngineSettings>(() => ({
    length: length.value,
    overlap: overlap.value,
    dropPoor: dropPoor.value,
    magnitude: magnitude.value,
    window: window.value,
    averaging: (averagings.find(a => a.id === averagingId.value) ?? averagings[1]!).averaging,
  }))
  /**
   * dB added to the running trace for viewing, so that it sits at 0 dB; takes carry it as their offset, apart
   * from their data.
   */
  const trim = useLocalStorage('kovrin-trim', 0)
  /** Taps that have clipped: marked until somebody looks. */
  const clipped = ref<Tap[]>([])
  /** True while the compensated delay follows the arrival. */
  const following = useLocalStorage('kovrin-follow', false)
  /** Counts every Hush: whatever plays by itself must end with it. */
  const hushed = ref(0)
  /** What the charts in view ask for besides the curve. */
  const wants = ref<Wants>({ impulse: false, spectrum: false, level: null })
  const impulse = shallowRef<ImpulseNow | null>(null)
  const level = shallowRef<SoundLevel | null>(null)

  /** What the generator plays. */
  const signal = useLocalStorage<Signal>('kovrin-signal', { kind: 'pink' })
  let sweepListener: ((answer: SweepProgress | SweepNext | Swept | SweepFailed) => void) | null = null
  let analysis: Worker | null = null
  let mark = 0
  /** Number of the site's newest change when the average that carries `mark` began. */
  let measuredSince = 0
  const toAnalysis = (request: AnalysisRequest) => analysis?.postMessage(request)
  const plain = <T>(value: T): T => JSON.parse(JSON.stringify(value)) as T

  /** Newest frames that are not drawn yet. */
  const newest = new Map<string, Frame>()
  function takeFrames() {
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
  const tapAt = (channel: number) => [...channels].find(([, c]) => c === channel)?.[0]

  function hear(answer: AnalysisAnswer) {
    switch (answer.type) {
      case 'meters': {
        const next = new Map<Tap, Level>()
        for (const [channel, level] of answer.channels) {
          const tap = tapAt(channel)
          if (!tap) continue
          next.set(tap, level)
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
        if (!newest.size)
          requestAnimationFrame(() => {
            if (analysis) takeFrames()
            else newest.clear()
          })
        newest.set(answer.id, answer.curve ? answer : { ...answer, curve: newest.get(answer.id)?.curve ?? null })
        break
      case 'impulse':
        if (answer.mark === mark) impulse.value = answer
        break
      case 'spectrum':
        spectra.value = new Map(
          [...answer.channels].flatMap(([channel, bands]) => {
            const tap = tapAt(channel)
            return tap ? [[tap, bands] as const] : []
          }),
        )
        break
      case 'level':
        level.value = answer.level
        break
      case 'take':
        void keep(answer)
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

  /** A new average from here on: the system has changed. */
  function restart(ago = 0) {
    mark++
    measuredSince = site.number
    settling.value = running.value
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
    return view.cell && at ? arrivalByPlan(view.cell.source, at.id) : null
  }

  function startAnalysis(buffer: SharedArrayBuffer, taps: readonly Tap[]) {
    analysis?.terminate()
    frames.value = {}
    newest.clear()
    channels = new Map(taps.map((tap, n) => [tap, n]))
    analysis = new Worker(new URL('../workers/analysis.worker.ts', import.meta.url), { type: 'module' })
    analysis.onmessage = (event: MessageEvent<AnalysisAnswer>) => hear(event.data)
    analysis.onerror = event => notices.say('error', `The analysis stopped: ${event.message}`)
    toAnalysis({
      type: 'listen',
      buffer,
      settings: plain(settings.value),
      measurements: specs(),
      front: front.value?.id ?? '',
    })
    toAnalysis({ type: 'wants', ...plain(wants.value) })
    toAnalysis({ type: 'follow', on: following.value })
    running.value = true
    restart()
    if (noise.value) sendNoise()
  }

  /** Arrival of a source by the plan: electronics and flight from the nearest cabinet; null when it is not there. */
  function arrivalByPlan(sourceId: string, positionId = view.cell?.position, feed = feedNow()): number | null {
    const source = site.sourceOf(sourceId)
    const position = site.positionOf(positionId)
    if (!source || !position) return null
    const metres = Math.min(...source.elements.map(e => distance(e.place, position.place)))
    return electronicsOf(sourceId, feed) + metres / speedOfSound(site.plan.air.temperature)
  }
  /** The feed that the front measurement's reference hears. */
  const feedNow = () => (front.value ? feedOfTap(front.value.reference) : testFeed)
  /** Delay in the electronics from a feed to the first of a source's outputs that it reaches. */
  function electronicsOf(sourceId: string, feed: string): number {
    const from = site.feedFrom(feed)
    const delays = site.outputs(sourceId).flatMap((to) => {
      const route = from && routeTo(site.heldRig, from, to)
      return route ? [routeDelay(site.heldRig, route)] : []
    })
    return delays.length ? Math.min(...delays) : 0
  }
  const find = () =>
    toAnalysis({ type: 'find', expected: Object.fromEntries(sets.able.map(m => [m.id, expected(m)])) })

  const taps = computed(() => [...new Set(sets.able.flatMap(m => [m.microphone, m.reference]))])

  function heard(ago: number, moved: boolean) {
    restart(ago)
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
    await computer.open(opened, buffer => startAnalysis(buffer, opened))
  }

  function stop() {
    noise.value = false
    analysis?.terminate()
    analysis = null
    hall.close()
    computer.close()
    running.value = false
    impulse.value = level.value = null
    frames.value = {}
    meters.value = new Map()
    spectra.value = new Map()
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

  /** Sets the trim so that the running trace sits at 0 dB between 500 Hz and 2 kHz. */
  function matchLevel() {
    const c = curve.value
    if (!c) return notices.say('warn', 'Nothing is measured yet: start the noise first.')
    const inside = [...standardGrid.keys()].filter(k => standardGrid[k]! >= 500 && standardGrid[k]! <= 2000)
    trim.value
      = -Math.round(
        (10 * inside.reduce((sum, k) => sum + 10 * Math.log10(Math.max(1e-12, c.re[k]! ** 2 + c.im[k]! ** 2)), 0))
        / inside.length,
      ) / 10
  }

  function take() {
    if (!view.cell)
      return notices.say(
        'warn',
        'Pick a cell in the ledger first: which loudspeaker is this, and where is the microphone?',
      )
    if (!running.value) return notices.say('warn', 'Nothing is measured yet: start the noise first.')
    if (settling.value)
      return notices.say('warn', 'The settings just changed: let the trace settle for half a second, then take it.')
    taking.value = true
    toAnalysis({ type: 'take' })
  }

  async function keep(answer: TakeReady) {
    try {
      if (answer.mark !== mark)
        return notices.say(
          'error',
          'The settings changed while this was measured. Nothing was kept: take it again.',
        )
      const m = sets.rows.find(x => x.id === answer.id)
      const position = m && sets.placeOf(m)
      if (!m || !position || !view.cell)
        return notices.say('error', 'This measurement is no longer there. Nothing was kept.')
      const level = (tap: Tap) => {
        const rms = meters.value.get(tap)?.rms
        return rms !== undefined && Number.isFinite(rms) ? rms : null
      }
      const { re, im, coherence, sampleRate, length, blocks, arrival, impulse: samples, impulseStart } = answer
      const curve = corrections.corrected({ frequencies: standardGrid, re, im, coherence }, m.microphone)
      const response = { samples, sampleRate, start: impulseStart }
      const frame = frames.value[m.id]
      const kept = await useTakes().store({ curve, impulse: response, harmonics: [], signalToNoise: [] }, {
        source: view.cell.source,
        position: position.id,
        only: null,
        feed: feedOfTap(m.reference),
        number: measuredSince,
        info: {
          method: 'live',
          input: inputs.labelOf(m.microphone, true),
          sampleRate,
          length,
          blocks,
          arrival,
          microphoneLevel: level(m.microphone),
          referenceLevel: level(m.reference),
          sweep: null,
        },
        timing: {
          reference: m.reference,
          sameClock: !sets.clocks(m),
          drift: frame?.compensated ? frame.drift : null,
          delay: answer.delay,
        },
      })
      if (kept && trim.value) await useTakes().change(kept.id, { offset: trim.value })
    }
    finally {
      taking.value = false
    }
  }

  site.onHeld(() => {
    if (running.value && input.value === 'computer') restart()
  }) // the hall says itself when it has followed
  watch(settings, a => toAnalysis({ type: 'settings', settings: plain(a) }))
  watch(wants, w => toAnalysis({ type: 'wants', ...plain(w) }), { deep: true })
  watch([noiseLevel, signal], sendNoise, { deep: true })
  watch(following, on => toAnalysis({ type: 'follow', on }))
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
      if (input.value === 'venue')
        hall.move() // the search begins when the hall has followed
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
    averagingId,
    length,
    overlap,
    dropPoor,
    magnitude,
    window,
    wants,
    impulse,
    spectrum,
    spectra,
    level,
    noiseLevel,
    running,
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
    trim,
    matchLevel,
    clipped,
    signal,
    hushed,
    following,
    arrivalByPlan,
    electronics: () => (view.cell ? electronicsOf(view.cell.source, feedNow()) : 0),
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
