import { hann, standardGrid, type SpectrumFft } from '~~/core/dsp'
import { loadFastFft, type FastFft } from '~~/core/dsp/fastFft'
import {
  arrivalsOf,
  bandLevels,
  correctionOf,
  createReferences,
  createSoundLevel,
  fractionalOctaves,
  openRing,
  roomTold,
  type Correction,
  type References,
  type Ring,
  type RoomTold,
} from '~~/core/measure'
import {
  AnalysisRequest,
  type AnalysisAnswer,
  type ChannelCorrection,
  type EngineSettings,
  type MeasurementSpec,
  type Wants,
} from '~~/core/contract/workers/measuring'
import { createBandMeters } from './bandMeters'
import { createHumWatch } from './humEar'
import { serve } from './line'
import { createMeasurement, createMeter, type RunningMeasurement } from './measurement'
import { createSweeper } from './sweeper'
import { message, toldOf, type Message } from '~~/core/words'

const pollEvery = 10
const frameEvery = 40
/** Milliseconds between pictures where little motion is wished. */
const calmEvery = 200
const otherFramesEvery = 200
const metersEvery = 100
const stalledAfter = 1500
/** Milliseconds without a new sample after which a take is given up. */
const takeWaits = 9000
/** Searches in vain after which a take goes on without a measurement. */
const enoughSearches = 12

let fast: FastFft | null = null
let ring: Ring | null = null
let references: References
let reader: References['reader']
let meter: ReturnType<typeof createMeter>
let settings: EngineSettings
let running: RunningMeasurement[] = []
/** The measurement whose findings, response, level and arrivals are shown. */
let front: RunningMeasurement | undefined
let mark = 0
let following = false
let lastFrame = 0
let lastOthers = 0
let lastMeters = 0
let lastWritten = 0
let lastWrittenAt = 0
/** While a take waits until all is measured often enough: how often each had been searched when it was asked for. */
let taking: Map<RunningMeasurement, number> | null = null
let sweeper: ReturnType<typeof createSweeper> | null = null
let wants: Wants = { calm: false, impulse: false, spectrum: false, bands: null, level: null }
let humWatch: ReturnType<typeof createHumWatch> | null = null
let bandMeters: ReturnType<typeof createBandMeters> | null = null

/** What is taken out of a channel: of its own sound, and of its response over a reference. */
let corrections = new Map<number, { own: Correction | null, whole: Correction | null }>()
const ownOf = (channel: number) => corrections.get(channel)?.own ?? null
const wholeOf = (channel: number) => corrections.get(channel)?.whole ?? null
function correct(channels: ReadonlyMap<number, ChannelCorrection>) {
  const { sampleRate } = ring!
  const made = (c: ChannelCorrection['own']) =>
    c && correctionOf({ frequencies: standardGrid, ...c, coherence: null }, sampleRate)
  corrections = new Map([...channels].map(([channel, c]) => [channel, { own: made(c.own), whole: made(c.whole) }]))
  meterChannel()
}

const post = (answer: AnalysisAnswer, transfer: Transferable[] = []) => self.postMessage(answer, { transfer })
/** Every ring channel that something is measured on, once. */
const used = () => [...new Set(running.flatMap(m => [m.spec.microphone, m.spec.reference]))]

/** Keeps those that go on, drops those that are gone, begins those that are new. */
function measure(specs: MeasurementSpec[], frontId: string) {
  running = specs.map((spec) => {
    const old = running.find(
      m => m.spec.id === spec.id && m.spec.microphone === spec.microphone && m.spec.reference === spec.reference,
    )
    old?.change(spec)
    return old ?? createMeasurement(ring!, meter, spec, settings, fast!.spectrum, references, wholeOf)
  })
  const next = running.find(m => m.spec.id === frontId)
  const isOther = next !== front
  front = next
  if (isOther) meterChannel()
  lastFrame = lastOthers = lastMeters = 0
}

let nextLook = 0
/** Looking costs the most of all: one at a time, whoever waits longest, and as long again is left for the rest. */
function look(heard: number) {
  const begun = performance.now()
  const waiting = running.filter(m => m.looksSince < heard).toSorted((a, b) => a.looksSince - b.looksSince)[0]
  if (!waiting || begun < nextLook) return
  waiting.look(heard, following)
  const over = performance.now()
  nextLook = over + (over - begun)
}

function step() {
  if (!ring) return
  const now = performance.now()
  const written = reader.written()
  // what is measured goes by the sound's own time: the hall may run faster than ours
  const heard = (written / ring.sampleRate) * 1000
  if (written !== lastWritten) {
    lastWritten = written
    lastWrittenAt = now
  }
  // the first answer after a change is shown at once
  for (const m of running) if (m.step() && m === front) lastFrame = 0
  look(heard)
  if (taking) take()
  if (sweeper?.()) sweeper = null
  besides(now)
  const show = (m: RunningMeasurement, anyway: boolean) => {
    const state = m.frame(mark, anyway)
    if (state) post(state.frame, state.transfer)
  }
  if (now - lastFrame >= (wants.calm ? calmEvery : frameEvery)) {
    const first = lastFrame === 0
    lastFrame = now
    if (front) show(front, first)
  }
  if (now - lastOthers >= otherFramesEvery) {
    const first = lastOthers === 0
    lastOthers = now
    for (const m of running) if (m !== front) show(m, first)
  }
  if (now - lastMeters >= (wants.calm ? calmEvery : metersEvery)) {
    lastMeters = now
    post({
      type: 'meters',
      channels: new Map(used().map(c => [c, meter(c)])),
      stalled: now - lastWrittenAt > stalledAfter,
    })
  }
}

let lastImpulse = 0
let lastJudged = 0
let lastSpectrum = 0
let lastBands = 0
let metered = 0
let room: RoomTold | null = null
let meterNow: ReturnType<typeof createSoundLevel> | null = null
let meterStream: ReturnType<Correction['stream']> | null = null
const meterBlock = new Float32Array(4096)
const spectrumLength = 2 ** 14
const spectrumEvery = 85
const often = () => (wants.calm ? calmEvery : spectrumEvery)
/** Findings look at response and spectrum once a second, charts more often. */
const idleEvery = 1000
let spectrumFft: SpectrumFft | null = null
const spectrumBands = fractionalOctaves(24, 16, 20_000)
const spectrumMiddles = spectrumBands.map(b => b.middle)
const spectrumBlock = new Float32Array(spectrumLength)
const spectrumWindow = hann(spectrumLength)

/** Level per 1/24 octave of the newest block of a channel. */
function bandsNow(channel: number): Float32Array {
  const written = reader.written()
  const { sampleRate } = ring!
  if (!reader.read(channel, written - spectrumLength, spectrumBlock))
    return new Float32Array(spectrumBands.length).fill(-200)
  const s = (spectrumFft ??= fast!.spectrum(spectrumLength)).forward(spectrumBlock, spectrumWindow)
  const power = new Float64Array(spectrumLength / 2 + 1)
  const scale = 2 / (0.375 * spectrumLength * spectrumLength) // both sides, and the window's mean square
  for (let k = 0; k < power.length; k++) power[k] = (s[2 * k]! ** 2 + s[2 * k + 1]! ** 2) * scale
  const levels = Float32Array.from(bandLevels(power, sampleRate, spectrumBands))
  ownOf(channel)?.takeFromLevels(levels, spectrumMiddles)
  return levels
}

/** The sound level begins anew, on the front measurement's microphone. */
function meterChannel() {
  meterNow = wants.level && ring ? createSoundLevel(ring.sampleRate, wants.level.weighting, wants.level.time) : null
  metered = ring ? reader.written() : 0
  meterStream = (front && ownOf(front.spec.microphone)?.stream(meterBlock.length)) ?? null
}

function meterBands() {
  bandMeters = wants.bands && ring ? createBandMeters(ring, reader, wants.bands, ownOf) : null
}

/** What other charts than the curve need, each at its own pace. */
function besides(now: number) {
  if (!front) return
  if (now - lastSpectrum > (wants.spectrum ? often() : idleEvery)) {
    lastSpectrum = now
    const channels = new Map(
      (wants.spectrum ? used() : [front.spec.microphone, front.spec.reference]).map(c => [c, bandsNow(c)]),
    )
    post(
      { type: 'spectrum', channels },
      [...channels.values()].map(c => c.buffer),
    )
  }
  if (bandMeters && now - lastBands > often()) {
    lastBands = now
    const levels = bandMeters.read(used())
    if (levels) post(levels.answer, levels.transfer)
  }
  const hum = humWatch?.step(front.spec.microphone, front.spec.reference)
  if (hum) post(hum)
  if (meterNow) {
    const written = reader.written()
    if (written - metered > ring!.capacity / 2) metered = written - meterBlock.length
    while (metered + meterBlock.length <= written) {
      const isWhole = reader.read(front.spec.microphone, metered, meterBlock)
      if (isWhole) meterNow.push(meterStream?.(meterBlock) ?? meterBlock)
      metered += meterBlock.length
      if (metered + meterBlock.length > written) post({ type: 'level', level: meterNow.read() })
    }
  }
  const { live } = front
  if (live.blocks > 0 && !front.searching && now - lastImpulse > (wants.impulse ? 250 : idleEvery)) {
    lastImpulse = now
    const { samples, start, block } = front.response()
    const { sampleRate } = ring!
    const early = Math.round(-start * sampleRate)
    if (!room || now - lastJudged > idleEvery) {
      lastJudged = now
      room = roomTold(samples, sampleRate, early, { block, length: settings.length, window: settings.window })
    }
    post(
      {
        type: 'impulse',
        room,
        mark,
        samples,
        sampleRate,
        start,
        echoes: arrivalsOf(
          samples.subarray(0, early + Math.round(0.1 * sampleRate)),
          sampleRate,
          -early / sampleRate,
        ),
      },
      [samples.buffer],
    )
  }
}

/** It is not ready for a take yet, but may still become so. */
const mayCome = (m: RunningMeasurement) =>
  m.pending && !(m.searching && m.searches - (taking?.get(m) ?? m.searches) >= enoughSearches)

const noTake = (why: Message) => {
  taking = null
  post({ type: 'no-take', why })
}

/**
 * Keeps what is measured now, in every measurement; waits for the lowest octave, whose blocks are the longest,
 * however slow the machine is, but not for what found no arrival in many searches.
 */
function take() {
  if (!front) return noTake(message('take.nothingYet'))
  if (front.spec.paused) return noTake(message('take.paused'))
  taking ??= new Map(running.map(m => [m, m.searches]))
  if (performance.now() - lastWrittenAt > takeWaits)
    return noTake(message('take.inputEnded'))
  if (front.pending || running.some(mayCome)) return
  taking = null
  for (const m of [front, ...running.filter(x => x !== front && !x.spec.paused)]) {
    if (m.pending) {
      noTake(message('take.leftOut'))
      continue
    }
    const kept = m.take(mark)
    post(kept.take, kept.transfer)
  }
}

/** The settings are others: what is on its way belongs to those before. */
function begin(next: number) {
  mark = next
  room = null
  if (taking) noTake(message('take.changedBefore'))
}

function handle(request: AnalysisRequest) {
  switch (request.type) {
    case 'listen':
      ring = openRing(request.buffer)
      references = createReferences(ring, fast!.spectrum)
      reader = references.reader
      meter = createMeter(reader)
      settings = request.settings
      lastWrittenAt = performance.now()
      measure(request.measurements, request.front)
      meterChannel()
      meterBands()
      humWatch = createHumWatch(ring, reader)
      break
    case 'measurements':
      if (ring) measure(request.measurements, request.front)
      break
    case 'settings':
      settings = request.settings
      for (const m of running) m.settings(settings)
      break
    case 'wants': {
      const before = JSON.stringify(wants.level)
      const bandsBefore = JSON.stringify(wants.bands)
      wants = request
      if (JSON.stringify(request.level) !== before) meterChannel()
      if (JSON.stringify(request.bands) !== bandsBefore) meterBands()
      break
    }
    case 'restart':
      begin(request.mark)
      for (const m of running) m.restart(request.ago)
      break
    case 'later':
      begin(request.mark)
      for (const m of running) m.later(request.seconds, request.ago)
      break
    case 'find':
      for (const m of running) m.find(request.expected[m.spec.id] ?? null)
      break
    case 'follow':
      following = request.on
      break
    case 'corrections':
      if (ring) correct(request.channels)
      break
    case 'delay':
      front?.setDelay(request.seconds)
      break
    case 'take':
      take()
      break
    case 'record': {
      const recorded = running.filter(m => !m.spec.paused).map(m => m.spec)
      const first = recorded.find(s => s.id === front?.spec.id)
      sweeper
        = ring && first
          ? createSweeper(
              ring,
              reader,
              [first, ...recorded.filter(s => s !== first)],
              fast!,
              request,
              post,
              wholeOf,
            )
          : null
      if (!sweeper) post({ type: 'no-sweep', why: message('measure.nothingListens') })
      break
    }
    case 'end-recording':
      sweeper = null
      break
    case 'stop':
      ring = null
      running = []
      front = undefined
      break
  }
}

const guarded = (job: () => void) => {
  try {
    job()
  }
  catch (error) {
    post({ type: 'failed', why: message('measure.stopped', { why: toldOf(error) }) })
  }
}
const ready = loadFastFft().then(
  (loaded) => {
    fast = loaded
  },
  (error: Error) => post({ type: 'failed', why: message('measure.notStarted', { why: toldOf(error) }) }),
)
serve(AnalysisRequest, request => void ready.then(() => guarded(() => handle(request))))
setInterval(() => guarded(step), pollEvery)
