import { defineStore } from 'pinia'
import { useLocalStorage } from '@vueuse/core'
import { distance, speedOfSound } from '~~/core/acoustics'
import { curveOfText, readCurveText, textOfCurve, writeCurveText } from '~~/core/formats/curveText'
import { divide, onGrid, standardGrid, type Curve, type Signal, type WindowId } from '~~/core/dsp'
import { routeDelay, routes } from '~~/core/rig'
import type { Averaging, Level, MagnitudeKind, SoundLevel } from '~~/core/measure'
import { usualOrder } from '~~/standins/venue/acoustics'
import type { BackgroundId } from '~~/standins/venue/background'
import type { AnalysisAnswer, AnalysisRequest, EngineSettings, Frame, GeneratorRequest, ImpulseNow, OtherFrame, OtherTake, SpectrumNow, SweepFailed, SweepNext, SweepProgress, Swept, TakeReady, VenueAnswer, VenueRequest, Wants } from '~/workers/messages'

export const averagings: { id: string, name: string, averaging: Averaging }[] = [
  { id: 'fast', name: '0.5 s', averaging: { kind: 'exponential', time: 0.5 } },
  { id: 'watch', name: '1 s', averaging: { kind: 'exponential', time: 1 } },
  { id: 'slow', name: '4 s', averaging: { kind: 'exponential', time: 4 } },
  ...[1, 2, 4, 8, 16, 32, 64].map(count => ({ id: `${count}`, name: count === 1 ? '1 block' : `${count} blocks`, averaging: { kind: 'blocks' as const, count } })),
  { id: 'all', name: 'all since the restart', averaging: { kind: 'all' } },
]
export const blockLengths = ['multi', ...Array.from({ length: 8 }, (_, k) => 2 ** (10 + k))] as const
const silence: Level = { peak: -Infinity, rms: -Infinity }

/** The running measurement: where the sound comes from, the noise, the analysis, and keeping a take of it. */
export const useListen = defineStore('listen', () => {
  const site = useSite(), view = useView(), notices = useNotices(), computer = useComputerInputs()

  const input = useLocalStorage<'venue' | 'computer'>('kovrin-input', 'venue')
  const averagingId = useLocalStorage('kovrin-averaging', 'watch')
  const noiseLevel = useLocalStorage('kovrin-noise-level', -20)
  /** What goes on in the simulated hall beside the loudspeakers, and whether its evening passes. */
  const background = ref<BackgroundId>('empty')
  const evening = ref(false)
  const reflections = ref(usualOrder)
  const running = ref(false)
  const noise = ref(false)
  const searching = ref(false)
  const stalled = ref(false)
  const taking = ref(false)
  /** True from a change of settings until the first block that was measured with them alone. */
  const settling = ref(false)
  const curve = shallowRef<Curve | null>(null)
  const arrival = shallowRef<{ time: number, polarity: 1 | -1 } | null>(null)
  const delay = ref(0)
  /** True while the delay is the plan's, because no arrival stood out of the sound. */
  const assumed = ref(false)
  const blocks = ref(0)
  const gaps = shallowRef({ dropped: 0, lost: 0 })
  const levels = shallowRef({ microphone: silence, reference: silence })

  const length = useLocalStorage<number | 'multi'>('kovrin-length', 'multi', { serializer: { read: t => t === 'multi' ? t : Number(t), write: String } })
  const magnitude = useLocalStorage<MagnitudeKind>('kovrin-magnitude', 'complex')
  const window = useLocalStorage<WindowId>('kovrin-window', 'hann')
  const settings = computed<EngineSettings>(() => ({ length: length.value, overlap: 0.75, magnitude: magnitude.value, window: window.value, averaging: (averagings.find(a => a.id === averagingId.value) ?? averagings[1]!).averaging }))
  /** dB added to the running trace for viewing, so that it sits at 0 dB; takes carry it as their offset, apart from their data. */
  const trim = useLocalStorage('kovrin-trim', 0)
  /** The microphone's own response, as the text file that came with it; it is taken out of what is measured. */
  const correctionText = useLocalStorage<{ name: string, text: string } | null>('kovrin-correction', null, { serializer: { read: JSON.parse, write: JSON.stringify } })
  /** The interface's own response, measured once through a cable from output to input; taken out alike. */
  const interfaceText = useLocalStorage<{ name: string, text: string } | null>('kovrin-interface', null, { serializer: { read: JSON.parse, write: JSON.stringify } })
  const correctionOf = (kept: { text: string } | null): Curve | null => {
    if (!kept) return null
    try {
      const given = onGrid(curveOfText(readCurveText(kept.text)), standardGrid)
      const sounds = standardGrid.map((_, k) => Number(given.re[k] !== 0 || given.im[k] !== 0)) // beyond its range nothing is corrected
      return { ...given, re: given.re.map((v, k) => sounds[k] ? v : 1), coherence: null }
    }
    catch { return null } // was checked when it was chosen
  }
  const corrections = computed(() => [correctionOf(correctionText.value), correctionOf(interfaceText.value)].filter(c => c !== null))
  const corrected = (curve: Curve): Curve => corrections.value.reduce(divide, curve)
  /** Keeps what is measured now as the interface's own response; refused when it is no cable. */
  function keepInterface() {
    const c = uncorrected
    if (!c) return notices.say('warn', 'Nothing is measured yet: join an output to the microphone’s input by a cable, start the noise, then press again.')
    const inside = [...standardGrid.keys()].filter(k => standardGrid[k]! > 40 && standardGrid[k]! < 16_000), coherence = inside.reduce((sum, k) => sum + c.coherence![k]!, 0) / inside.length
    if (coherence < 0.995) return notices.say('error', `This is no loopback: the coherence is ${coherence.toFixed(2)}, and a cable has 1. Nothing was changed.`)
    interfaceText.value = { name: `interface, ${new Date().toLocaleString()}`, text: writeCurveText(textOfCurve({ ...c, coherence: null })) }
    restart()
    notices.say('info', 'The interface’s own response is taken out from now on.')
  }
  let uncorrected: Curve | null = null
  async function loadCorrection(file: File) {
    const text = await file.text()
    try {
      readCurveText(text)
      correctionText.value = { name: file.name, text }
      notices.say('info', `The microphone’s own response from “${file.name}” is taken out from now on.`)
    }
    catch (error) { notices.say('error', `“${file.name}” was not taken: ${(error as Error).message}`) }
  }
  /** A clip stays marked until it is looked at. */
  const clipped = ref({ microphone: false, reference: false })
  const watchClips = (l: { microphone: Level, reference: Level }) => { for (const which of ['microphone', 'reference'] as const) if (l[which].peak >= -0.1 && !clipped.value[which]) clipped.value[which] = true }
  /** True while the compensated delay follows the arrival. */
  const following = useLocalStorage('kovrin-follow', false)
  /** Arrivals of the last half minute, for the drift of clocks. */
  const trail = shallowRef<{ at: number, arrival: number }[]>([])
  /** Counts every Hush: whatever plays by itself must end with it. */
  const hushed = ref(0)
  /** What the charts in view ask for besides the curve. */
  const wants = ref<Wants>({ impulse: false, spectrum: false, level: null })
  const impulse = shallowRef<ImpulseNow | null>(null)
  const spectrum = shallowRef<SpectrumNow | null>(null)
  const level = shallowRef<SoundLevel | null>(null)

  /** What the generator plays. */
  const signal = useLocalStorage<Signal>('kovrin-signal', { kind: 'pink' })
  let sweepListener: ((answer: SweepProgress | SweepNext | Swept | SweepFailed) => void) | null = null
  let analysis: Worker | null = null, venue: Worker | null = null
  let mark = 0
  /** Revisions of the devices' settings behind the average that carries `mark`. */
  let measuredWith: Record<string, number> = {}
  const toAnalysis = (request: AnalysisRequest) => analysis?.postMessage(request)
  const toVenue = (request: VenueRequest) => venue?.postMessage(request)
  const plain = <T>(value: T): T => JSON.parse(JSON.stringify(value)) as T

  let newest: Frame | null = null
  function takeFrame(answer: Frame) {
    levels.value = { microphone: answer.microphone, reference: answer.reference }
    watchClips(levels.value)
    if (answer.mark !== mark) return
    uncorrected = { frequencies: standardGrid, re: answer.re, im: answer.im, coherence: answer.coherence }
    curve.value = corrected(uncorrected)
    blocks.value = answer.blocks
    if (answer.arrival && answer.arrival.time !== arrival.value?.time) trail.value = [...trail.value.filter(t => t.at > performance.now() / 1000 - 30), { at: performance.now() / 1000, arrival: answer.arrival.time }]
    arrival.value = answer.arrival
    delay.value = answer.delay
    assumed.value = answer.assumed
    gaps.value = answer.gaps
    searching.value = answer.searching
    stalled.value = false
    settling.value = false
  }

  function hear(answer: AnalysisAnswer) {
    switch (answer.type) {
      case 'quiet':
        levels.value = { microphone: answer.microphone, reference: answer.reference }
        watchClips(levels.value)
        searching.value = answer.searching
        stalled.value = answer.stalled
        break
      case 'frame':
        // drawn once a picture: where the page is slower than the analysis, what it could not draw is left out, not queued
        if (!newest) requestAnimationFrame(() => { const frame = newest; newest = null; if (frame && analysis) takeFrame(frame) })
        newest = answer
        break
      case 'impulse': if (answer.mark === mark) impulse.value = answer; break
      case 'spectrum': spectrum.value = answer; break
      case 'level': level.value = answer.level; break
      case 'other': { const p = positionOf(answer.channel); if (p && answer.mark === mark) otherFrames.value = { ...otherFrames.value, [p.id]: answer }; break }
      case 'other-take': { const p = positionOf(answer.channel); if (p && view.cell) void keep(answer, { source: view.cell.source, position: p.id }); break }
      case 'take': void keep(answer); break
      case 'sweeping': case 'sweep-now': case 'swept': case 'no-sweep': sweepListener?.(answer); break
      case 'no-take':
        taking.value = false
        notices.say('warn', answer.why)
        break
      case 'failed': notices.say('error', answer.why); break
    }
  }

  /** A new average from here on: the system has changed. */
  function restart(ago = 0) {
    trail.value = []
    otherFrames.value = {}
    mark++
    measuredWith = { ...site.revisions }
    settling.value = running.value
    toAnalysis({ type: 'restart', mark, ago })
  }

  function startAnalysis(buffer: SharedArrayBuffer) {
    analysis?.terminate()
    analysis = new Worker(new URL('../workers/analysis.worker.ts', import.meta.url), { type: 'module' })
    analysis.onmessage = (event: MessageEvent<AnalysisAnswer>) => hear(event.data)
    analysis.onerror = event => notices.say('error', `The analysis stopped: ${event.message}`)
    toAnalysis({ type: 'listen', buffer, settings: plain(settings.value), expected: expectedArrival(), others: othersByPlan().map((expected, n) => ({ channel: n + 2, expected })) })
    toAnalysis({ type: 'wants', ...plain(wants.value) })
    toAnalysis({ type: 'follow', on: following.value })
    running.value = true
    searching.value = true
    restart()
    if (noise.value) sendNoise()
  }

  /** Positions of the further simulated microphones; a position that is the main one's too is left out. */
  const otherPositions = useLocalStorage<string[]>('kovrin-other-microphones', [])
  const otherFrames = shallowRef<Record<string, OtherFrame>>({})
  const others = computed(() => input.value === 'venue' ? otherPositions.value.slice(0, 2).flatMap(id => site.site?.positions.find(p => p.id === id) ?? []) : [])
  /** Where a further microphone's ring channel stands: 0 and 1 are microphone and reference. */
  const positionOf = (channel: number) => others.value[channel - 2]
  const microphonePlaces = () => plain([(site.site!.positions.find(p => p.id === view.cell?.position) ?? site.site!.positions[0])?.place ?? { x: 1, y: 1, z: 1.2 }, ...others.value.map(p => p.place)])

  /** Arrival of a source at the picked position by the plan: electronics and flight from the nearest cabinet; null when it is not fed. */
  function arrivalByPlan(sourceId: string, positionId = view.cell?.position): number | null {
    const s = site.site, source = s?.sources.find(x => x.id === sourceId), position = s?.positions.find(p => p.id === positionId)
    if (!s || !source || !position) return null
    const route = routes(site.heldRig, s.plan.feed, site.outputsOf(source.id)[0]!)[0]
    const metres = Math.min(...source.elements.map(e => distance(e.place, position.place)))
    return (route ? routeDelay(site.heldRig, route) : 0) + metres / speedOfSound(s.plan.air.temperature)
  }
  const expectedArrival = () => view.cell && arrivalByPlan(view.cell.source)
  const othersByPlan = () => others.value.map(p => view.cell && arrivalByPlan(view.cell.source, p.id))
  const find = () => toAnalysis({ type: 'find', expected: expectedArrival(), others: othersByPlan() })

  function tellHeld() {
    if (input.value === 'venue' && venue) toVenue({ type: 'holds', devices: plain(site.heldRig.devices) })
    else restart()
  }

  function openVenue() {
    venue?.terminate()
    venue = new Worker(new URL('../workers/venue.worker.ts', import.meta.url), { type: 'module' })
    venue.onmessage = (event: MessageEvent<VenueAnswer>) => {
      const answer = event.data
      if (answer.type === 'ring') startAnalysis(answer.buffer)
      else if (answer.type === 'heard') {
        restart(answer.ago)
        if (answer.moved) find()
      }
      else notices.say('error', answer.why)
    }
    venue.onerror = event => notices.say('error', `The simulated hall stopped: ${event.message}`)
    toVenue({ type: 'open', plan: plain(site.site!.plan), sources: plain(site.site!.sources), microphones: microphonePlaces() })
    toVenue({ type: 'background', id: background.value })
    toVenue({ type: 'evening', on: evening.value })
    toVenue({ type: 'reflections', order: reflections.value })
    tellHeld()
  }

  async function start() {
    if (running.value || !site.site) return
    if (input.value === 'venue') openVenue()
    else await computer.open(startAnalysis)
  }

  function stop() {
    noise.value = false
    analysis?.terminate()
    venue?.terminate()
    analysis = venue = null
    computer.close()
    running.value = false
    curve.value = impulse.value = spectrum.value = level.value = null
    otherFrames.value = {}
    arrival.value = null
    blocks.value = 0
    levels.value = { microphone: silence, reference: silence }
  }

  const toGenerator = (request: GeneratorRequest) => input.value === 'venue' ? toVenue(request) : computer.tell(request)
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
    toVenue({ type: 'hush' })
    computer.tell({ type: 'hush' })
  }

  /** Sets the trim so that the running trace sits at 0 dB between 500 Hz and 2 kHz. */
  function matchLevel() {
    const c = curve.value
    if (!c) return notices.say('warn', 'Nothing is measured yet: start the noise first.')
    const inside = [...standardGrid.keys()].filter(k => standardGrid[k]! >= 500 && standardGrid[k]! <= 2000)
    trim.value = -Math.round(10 * inside.reduce((sum, k) => sum + 10 * Math.log10(Math.max(1e-12, c.re[k]! ** 2 + c.im[k]! ** 2)), 0) / inside.length) / 10
  }

  function take() {
    if (!view.cell) return notices.say('warn', 'Pick a cell in the ledger first: which loudspeaker is this, and where is the microphone?')
    if (!running.value) return notices.say('warn', 'Nothing is measured yet: start the noise first.')
    if (settling.value) return notices.say('warn', 'The settings just changed: let the trace settle for half a second, then take it.')
    taking.value = true
    toAnalysis({ type: 'take' })
  }

  async function keep(answer: TakeReady | OtherTake, cell = view.cell) {
    try {
      if (answer.mark !== mark) return notices.say('error', 'The settings changed while this was measured. Nothing was kept: take it again.')
      const level = (l: Level) => Number.isFinite(l.rms) ? l.rms : null
      const kept = await useTakes().store({ curve: corrected({ frequencies: standardGrid, re: answer.re, im: answer.im, coherence: answer.coherence }), impulse: answer.impulse }, {
        method: 'live', input: input.value === 'venue' ? 'Simulated interface' : computer.choice.label, sampleRate: answer.sampleRate, length: answer.length, blocks: answer.blocks,
        delay: answer.delay, arrival: answer.arrival, microphoneLevel: level(levels.value.microphone), referenceLevel: level(levels.value.reference), impulseStart: answer.impulseStart, revisions: measuredWith,
      }, undefined, cell)
      if (kept && trim.value) await useTakes().change(kept.id, { offset: trim.value })
    }
    finally { taking.value = false }
  }

  site.onPlan(() => {
    if (running.value && input.value === 'venue') toVenue({ type: 'replan', plan: plain(site.site!.plan), sources: plain(site.site!.sources), microphones: microphonePlaces(), devices: plain(site.heldRig.devices) })
  })
  site.onHeld(() => { if (running.value) tellHeld() })
  watch(settings, a => toAnalysis({ type: 'settings', settings: plain(a) }))
  watch(wants, w => toAnalysis({ type: 'wants', ...plain(w) }), { deep: true })
  watch([noiseLevel, signal], sendNoise, { deep: true })
  watch(background, id => toVenue({ type: 'background', id }))
  watch(following, on => toAnalysis({ type: 'follow', on }))
  watch(reflections, order => toVenue({ type: 'reflections', order }))
  watch(evening, on => toVenue({ type: 'evening', on }))
  watch(() => view.cell && `${view.cell.source}/${view.cell.position}`, () => {
    if (!running.value) return
    curve.value = impulse.value = null
    arrival.value = null
    if (input.value === 'venue') toVenue({ type: 'move', microphones: microphonePlaces() }) // the search begins when the hall has followed
    else find()
  })
  watch(() => others.value.map(p => p.id).join(), async () => {
    if (!running.value || input.value !== 'venue') return
    const on = noise.value // another number of microphones is another ring
    stop()
    await turnNoise(on)
  })
  watch(input, () => stop())
  watch(() => computer.state, (state) => {
    if (input.value !== 'computer') return
    if (state !== 'open' && state !== 'asking') noise.value = false
    if (state === 'unplugged' || state === 'failed') running.value = false
  })

  return {
    input, averagingId, length, magnitude, window, wants, impulse, spectrum, level, noiseLevel, background, evening, reflections, running, noise, searching, stalled, taking, settling, curve, arrival, delay, assumed, blocks, gaps, levels,
    electronics: () => { const s = site.site, out = view.cell && site.outputsOf(view.cell.source)[0], route = s && out && routes(site.heldRig, s.plan.feed, out)[0]; return route ? routeDelay(site.heldRig, route) : 0 },
    otherPositions, others, otherFrames, trim, matchLevel, correctionText, interfaceText, keepInterface, corrected, loadCorrection, clipped,
    signal, hushed, following, trail, arrivalByPlan, setDelay: (seconds: number) => { searching.value = false; toAnalysis({ type: 'delay', seconds }) }, measuredWith: () => measuredWith, toAnalysis, toGenerator,
    /** Hears of a sweep's recording; null ends it. */
    hearSweep(f: typeof sweepListener) { sweepListener = f },
    start, stop, turnNoise, hush, take, restart: () => restart(), find: () => { curve.value = null; arrival.value = null; find() },
  }
})
