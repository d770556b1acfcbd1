import { defineStore } from 'pinia'
import { useLocalStorage } from '@vueuse/core'
import { meanLevel, type Signal } from '~~/core/dsp'
import { openRing, type Measurement, type Tap } from '~~/core/measure'
import {
  AnalysisAnswer,
  type AnalysisRequest,
  type GeneratorRequest,
  type MeasurementSpec,
  type SweepAnswer,
  type Wants,
} from '~~/core/contract'
import { delayChange, type Rig } from '~~/core/rig'
import { useFed } from '~/sound/useFed'
import { useHeardNow } from '~/sound/useHeardNow'
import { useTaking } from '~/sound/useTaking'
import { nameHere } from '~/document/api'
import { hearFrom } from '~/workers/line'
import { useSite } from '~/document/site'
import { useView } from '~/document/view'
import { useNotices } from '~/parts/notices'
import { useComputerInputs } from './computerInputs'
import { useCorrections } from './corrections'
import { useEngine } from './engine'
import { useSets } from './sets'
import { useSoundInputs, type SoundChanged } from './soundInput'
import { useKeepLive } from './useKeepLive'
import { usePlannedArrival } from './usePlannedArrival'
import { useWord } from './word'
import { message } from '~~/core/words'
import { phrase } from '~/parts/phrase'

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
  const inputs = useSoundInputs()
  const corrections = useCorrections()
  const engine = useEngine()
  const planned = usePlannedArrival()
  const fed = useFed()
  const keep = useKeepLive()

  const input = computed(() => sets.input)
  const source = computed(() => inputs[input.value])
  const noiseLevel = useLocalStorage('kovrin-noise-level', -20)
  const running = ref(false)
  const noise = ref(false)
  /** True from a change of settings until the first block that was measured with them alone. */
  const settling = ref(false)
  const front = computed(() => sets.front)
  let mark = 0
  const now = useHeardNow({
    front: () => front.value,
    mark: () => mark,
    settled: () => (settling.value = false),
  })
  const { frames, frameNow, impulse, curveOf } = now.shown
  const uncorrected = computed(() => frameNow.value ? curveOf(frameNow.value) : null)
  const curve = computed(
    () => uncorrected.value && corrections.corrected(uncorrected.value, front.value!.microphone),
  )
  const searching = computed(() => running.value && (frameNow.value?.searching ?? true))

  /**
   * dB added to the running trace for viewing, so that it sits at 0 dB; takes carry it as their offset, apart
   * from their data.
   */
  const trim = useLocalStorage('kovrin-trim', 0)
  /** True while a sweep plays. */
  const sweeping = ref(false)
  /** What a sweep says of itself, and seconds until it is over. */
  const doing = ref<{ what: string, left: number } | null>(null)
  /** Counts every Hush: whatever plays by itself must end with it. */
  const hushed = ref(0)
  /** What the charts in view ask for besides the curve. */
  const wants = ref<Wants>({ calm: false, impulse: false, spectrum: false, bands: null, level: null })

  /** What the generator plays. */
  const signal = useLocalStorage<Signal>('kovrin-signal', { kind: 'pink' })
  let sweepListener: ((answer: SweepAnswer) => void) | null = null
  let analysis: Worker | null = null
  /** Number of the site's newest change when the average that carries `mark` began. */
  let measuredSince = 0
  const toAnalysis = (request: AnalysisRequest) => analysis?.postMessage(request)
  const plain = <T>(value: T): T => JSON.parse(JSON.stringify(value)) as T

  const { taking, take } = useTaking({ running, settling, fed, toAnalysis })

  function hear(answer: AnalysisAnswer) {
    switch (answer.type) {
      case 'take':
        taking.value = false
        void keep(answer, measuredNow())
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
      default:
        now.hear(answer)
    }
  }

  const measuredNow = () => ({
    mark,
    since: measuredSince,
    meters: now.shown.meters.value,
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
      const microphone = now.channelOf(m.microphone)
      const reference = now.channelOf(m.reference)
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
    now.open(taps)
    analysis = new Worker(new URL('../workers/analysis.worker.ts', import.meta.url), { type: 'module' })
    hearFrom(analysis, AnalysisAnswer, hear, why => notices.say('error', message('measure.stopped', { why })))
    toAnalysis({
      type: 'listen',
      buffer,
      settings: plain(engine.settings),
      measurements: specs(),
      front: front.value?.id ?? '',
    })
    sendCorrections()
    toAnalysis({ type: 'wants', ...plain(wants.value) })
    toAnalysis({ type: 'follow', on: engine.following })
    running.value = true
    restart()
    if (noise.value) sendNoise()
  }

  /** What the tools add is taken out of whatever is heard through them. */
  const sendCorrections = () => {
    const channels = taps.value.flatMap((tap) => {
      const channel = now.channelOf(tap)
      const correction = corrections.ofChannel(tap)
      return channel === undefined || !correction.whole ? [] : [[channel, correction] as const]
    })
    toAnalysis({ type: 'corrections', channels: new Map(channels) })
  }

  const find = () =>
    toAnalysis({ type: 'find', expected: Object.fromEntries(sets.able.map(m => [m.id, expected(m)])) })

  const taps = computed(() => [...new Set(sets.able.flatMap(m => [m.microphone, m.reference]))])

  /** What sounded last, as far as it is known. */
  let sounding: Rig | null = null
  /** What sounds now is `rig`: the average goes on where all of it only became later, and begins anew otherwise. */
  function sounds(rig: Rig, ago = 0) {
    const feeds = sets.able.flatMap((m) => {
      const feed = sets.feedOf(m)
      return (feed !== null && site.feedFrom(feed)) || []
    })
    const later = sounding && delayChange(sounding, rig, feeds)
    sounding = rig
    if (later === null) return restart(ago)
    begin()
    toAnalysis({ type: 'later', mark, ago, seconds: later })
  }
  const heard: SoundChanged = (ago, moved, { rig, alone }) => {
    if (!alone) sounding = null
    sounds(rig, ago)
    if (moved) find()
  }

  async function start() {
    if (running.value || !site.open) return
    if (!sets.able.length)
      return notices.say(
        'warn',
        message('set.noneRuns'),
      )
    if (!sets.facts.tellsChanges) sounding = site.confirmedRig
    await source.value.open([...taps.value], startAnalysis, heard)
  }

  function stop() {
    noise.value = false
    analysis?.terminate()
    analysis = null
    for (const one of Object.values(inputs)) one.close()
    running.value = false
    settling.value = taking.value = false
    sounding = null
    now.close()
  }

  const toGenerator = (request: GeneratorRequest) => source.value.tell(request)
  const sendNoise = () => {
    toGenerator({ type: 'signal', signal: plain(signal.value) })
    toGenerator({ type: 'noise', on: noise.value, level: noiseLevel.value })
  }

  /** Why nothing may be started here: somebody else sounds. Null: nobody does. */
  const taken = computed(() => {
    const other = word.other.value
    if (!other) return null
    if (other.left === null) return phrase('sound.isMeasuring', { who: other.who, what: other.what })
    const left = other.left < 90 ? `${Math.ceil(other.left)} s` : `${Math.ceil(other.left / 60)} min`
    return phrase('sound.isMeasuringAboutLeft', { who: other.who, what: other.what, left })
  })
  /** Says why nothing may be started; true when something may. */
  function mayStart(): boolean {
    if (taken.value) notices.say('warn', message('sound.taken', { what: taken.value }))
    return !taken.value
  }
  async function turnNoise(on: boolean) {
    if (on && !noise.value && !sweeping.value && !mayStart()) return
    if (on && !running.value) await start()
    noise.value = on
    sendNoise()
  }

  /** Silence of this page at once. */
  function silence() {
    noise.value = false
    hushed.value++
    for (const one of Object.values(inputs)) one.hush()
  }
  const word = useWord({
    site,
    sounds: computed(() => noise.value || sweeping.value),
    said: () => ({
      who: nameHere(),
      what: doing.value?.what ?? phrase('sound.noiseAtDbfs', { level: `${noiseLevel.value}`.replace('-', '−') }),
      left: doing.value?.left ?? null,
    }),
    silence,
    lost: () => notices.say(
      'warn',
      message('sound.serverAway'),
    ),
  })
  /** Silence of every page of the site at once, from any screen. */
  function hush() {
    silence()
    word.takeBack()
  }

  site.onHeld(() => {
    // what no device of this rig lets through does not change with it
    const isRouted = sets.able.some(m => sets.feedOf(m) !== null)
    if (running.value && !sets.facts.tellsChanges && isRouted) sounds(site.confirmedRig)
  })
  watch(() => engine.settings, a => toAnalysis({ type: 'settings', settings: plain(a) }))
  watch(() => taps.value.map(corrections.ofChannel), sendCorrections)
  watch(wants, w => toAnalysis({ type: 'wants', ...plain(w) }), { deep: true })
  watch([noiseLevel, signal], sendNoise, { deep: true })
  watch(() => engine.following, on => toAnalysis({ type: 'follow', on }))
  /** Everything that decides where the microphones stand and what is looked for there. */
  watch(
    () =>
      JSON.stringify([
        view.cell?.source,
        source.value.places(),
      ]),
    () => {
      if (!running.value) return
      frames.value = {}
      impulse.value = null
      // what is still on its way belongs to where the microphones stood; the search begins when they have moved
      if (source.value.move()) return begin()
      restart()
      find()
    },
  )
  watch(
    () => JSON.stringify([sets.able, front.value?.id]),
    async () => {
      if (!running.value) return
      if (!sets.able.length) return stop()
      if (!taps.value.every(t => now.channelOf(t) !== undefined)) {
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
      if (sets.facts.simulated) return
      if (state !== 'open' && state !== 'asking') noise.value = false
      if (state === 'unplugged' || state === 'failed') running.value = false
    },
  )

  return {
    ...now.shown,
    ...planned,
    ...fed,
    input, front, wants, signal, noiseLevel, noise, running, sampleRate, settling, searching, curve, trim, hushed,
    taking, take,
    matchLevel: () => {
      if (!curve.value) return notices.say('warn', message('measure.startNoise'))
      trim.value = -Math.round(10 * meanLevel(curve.value, 500, 2000)) / 10
    },
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
    sweeping,
    doing,
    taken,
    mayStart,
    silence,
    hush,
    restart: () => restart(),
    find: () => {
      frames.value = {}
      find()
    },
  }
})
