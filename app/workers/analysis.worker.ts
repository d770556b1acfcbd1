import { hann, standardGrid, unity, type Curve, type SpectrumFft } from '~~/core/dsp'
import { loadFastFft, type FastFft } from '~~/core/dsp/fastFft'
import { arrivalsOf, bandLevels, createLive, createSoundLevel, fractionalOctaves, levelOf, openRing, ringReader, type Live, type LiveOptions, type Ring } from '~~/core/measure'
import type { AnalysisAnswer, AnalysisRequest, Wants } from './messages'
import { createOthers } from './others'
import { createSweeper } from './sweeper'

/** Ring channels: 0 is the microphone, 1 the reference. */
const channels = { microphone: 0, reference: 1 }
const pollEvery = 10, frameEvery = 40, searchEvery = 250, stalledAfter = 1500, searchFor = 2500, silence = -75

let ring: Ring | null = null
let reader: ReturnType<typeof ringReader> | null = null
let live: Live | null = null
let options: LiveOptions | null = null
let mark = 0
let searching = true
let expected: number | null = null, assumed = false
/** When the running search first heard the reference. */
let heardSince = 0
let arrival: { time: number, polarity: 1 | -1 } | null = null
let lastFrame = 0, lastSearch = 0, lastTrack = 0, lastWritten = 0, lastWrittenAt = 0, changed = false
const meter = new Float32Array(4096)
let fast: FastFft | null = null
/** Since when a take waits until every frequency was measured often enough, at every microphone; 0: none does. */
let taking = 0
const othersWait = 9000

const post = (answer: AnalysisAnswer, transfer: Transferable[] = []) => self.postMessage(answer, { transfer })

/** A new measurement on the same ring that keeps the delay already found. */
function begin(next: LiveOptions) {
  const delay = live?.delay ?? 0
  options = next
  live = createLive(ring!, { ...next, spectrum: fast!.spectrum })
  if (!searching) live.setDelay(delay)
}

function step() {
  if (!ring || !live) return
  const now = performance.now()
  const written = reader!.written()
  if (written !== lastWritten) { lastWritten = written; lastWrittenAt = now }
  const none = !live.heard
  if (live.poll()) changed = true
  if (taking) take()
  if (none && live.heard) lastFrame = 0 // the first answer after a change is shown at once
  if (searching && now - lastSearch > searchEvery) {
    lastSearch = now
    search(live, now)
  }
  if (sweeper?.()) sweeper = null
  others?.step(now, mark)
  besides(now)
  if (now - lastFrame < frameEvery) return
  lastFrame = now
  const levels = { microphone: levelNow(channels.microphone), reference: levelNow(channels.reference) }
  if (!live.heard || searching) {
    post({ type: 'quiet', mark, ...levels, searching, stalled: now - lastWrittenAt > stalledAfter })
    return
  }
  if (!searching && now - lastTrack > searchEvery) {
    lastTrack = now
    arrival = live.trackArrival() ?? (levels.reference.rms > silence ? null : arrival)
    // slow movement is followed; a jump is for the technician to decide
    if (following && arrival && Math.abs(arrival.time - live.delay) > 2e-5 && Math.abs(arrival.time - live.delay) < 0.003) live.follow(arrival.time)
  }
  if (!changed && now - lastWrittenAt < stalledAfter && levels.reference.rms > silence) return
  changed = false
  const curve = blank()
  live.read(curve)
  post({
    type: 'frame', mark, re: curve.re, im: curve.im, coherence: curve.coherence!, blocks: live.blocks, delay: live.delay, arrival, searching, assumed, gaps: live.gaps, ...levels,
  }, [curve.re.buffer, curve.im.buffer, curve.coherence!.buffer])
}

let others: ReturnType<typeof createOthers> | null = null
let sweeper: ReturnType<typeof createSweeper> | null = null
let following = false
let wants: Wants = { impulse: false, spectrum: false, level: null }
let lastImpulse = 0, lastSpectrum = 0, metered = 0
let meterNow: ReturnType<typeof createSoundLevel> | null = null
const spectrumLength = 2 ** 14, spectrumEvery = 85
/** Findings look at response and spectrum once a second, charts more often. */
const idleEvery = 1000
let spectrumFft: SpectrumFft | null = null
const spectrumBands = fractionalOctaves(24, 16, 20_000), spectrumBlock = new Float32Array(spectrumLength), spectrumWindow = hann(spectrumLength)

/** Level per 1/24 octave of the newest block of a channel. */
function bandsNow(channel: number): Float32Array {
  const written = reader!.written(), { sampleRate } = ring!
  if (!reader!.read(channel, written - spectrumLength, spectrumBlock)) return new Float32Array(spectrumBands.length).fill(-200)
  const s = (spectrumFft ??= fast!.spectrum(spectrumLength)).forward(spectrumBlock, spectrumWindow), power = new Float64Array(spectrumLength / 2 + 1)
  const scale = 2 / (0.375 * spectrumLength * spectrumLength) // both sides, and the window's mean square
  for (let k = 0; k < power.length; k++) power[k] = (s[2 * k]! ** 2 + s[2 * k + 1]! ** 2) * scale
  return Float32Array.from(bandLevels(power, sampleRate, spectrumBands))
}

/** What other charts than the curve need, each at its own pace. */
function besides(now: number) {
  if (now - lastSpectrum > (wants.spectrum ? spectrumEvery : idleEvery)) {
    lastSpectrum = now
    const microphone = bandsNow(channels.microphone), reference = bandsNow(channels.reference)
    post({ type: 'spectrum', microphone, reference }, [microphone.buffer, reference.buffer])
  }
  if (meterNow) {
    const written = reader!.written()
    if (written - metered > ring!.capacity / 2) metered = written - meter.length
    while (metered + meter.length <= written) {
      if (reader!.read(channels.microphone, metered, meter)) meterNow.push(meter)
      metered += meter.length
      if (metered + meter.length > written) post({ type: 'level', level: meterNow.read() })
    }
  }
  if (live!.blocks > 0 && !searching && now - lastImpulse > (wants.impulse ? 250 : idleEvery)) {
    lastImpulse = now
    const circular = live!.impulse(), early = circular.length / 8, { sampleRate } = ring!
    const samples = Float32Array.from({ length: circular.length }, (_, n) => circular[(n - early + circular.length) % circular.length]!)
    let within = 0, after = 0
    for (let n = 0; n < samples.length; n++) {
      const energy = samples[n]! ** 2
      if (n > early - 0.002 * sampleRate && n < early + 0.05 * sampleRate) within += energy
      else if (n >= early) after += energy
    }
    const echoes = arrivalsOf(samples.subarray(0, early + Math.round(0.1 * sampleRate)), sampleRate, -early / sampleRate)
    post({ type: 'impulse', mark, samples, sampleRate, start: -early / sampleRate, echoes, definition: within / (within + after) }, [samples.buffer])
  }
}

/** One try to find the arrival; when none stands out for a while, the plan's own is taken, and said to be. */
function search(live: Live, now: number) {
  const found = live.findArrival()
  if (levelNow(channels.reference).rms < silence) heardSince = now
  const giveUp = !found && expected !== null && now - heardSince > searchFor
  if (!found && !giveUp) return
  searching = false
  assumed = giveUp
  arrival = found
  live.setDelay(found ? found.time : expected!)
}

function startSearch(plan: number | null) {
  searching = true
  assumed = false
  arrival = null
  expected = plan
  heardSince = performance.now()
}

const blank = (): Curve => ({ ...unity(standardGrid), coherence: new Float64Array(standardGrid.length) })

function levelNow(channel: number) {
  const written = reader!.written()
  return written >= meter.length && reader!.read(channel, written - meter.length, meter) ? levelOf(meter) : { peak: -Infinity, rms: -Infinity }
}

/** Keeps what is measured now; waits for the lowest octave, whose blocks are the longest. */
function take() {
  if (!live) return post({ type: 'no-take', why: 'Nothing is measured yet.' })
  const now = performance.now()
  taking ||= now
  if (!live.complete || (others?.pending && now - taking < othersWait)) return
  taking = 0
  const curve = blank()
  live.read(curve)
  const { sampleRate } = ring!, circular = live.impulse(), length = circular.length
  // an eighth of the block before the arrival, so that what comes early is kept too
  const early = length / 8
  const impulse = Float32Array.from({ length }, (_, n) => circular[(n - early + length) % length]!)
  const whole = Math.round(live.delay * sampleRate) / sampleRate
  post({
    type: 'take', mark, re: curve.re, im: curve.im, coherence: curve.coherence!, impulse, impulseStart: -early / sampleRate + whole - live.delay,
    blocks: live.blocks, delay: live.delay, length, sampleRate, arrival: arrival?.time ?? null,
  }, [curve.re.buffer, curve.im.buffer, curve.coherence!.buffer, impulse.buffer])
  others?.take(mark)
}

function handle(request: AnalysisRequest) {
  switch (request.type) {
    case 'listen':
      ring = openRing(request.buffer)
      reader = ringReader(ring)
      startSearch(request.expected)
      lastWrittenAt = performance.now()
      begin({ ...channels, ...request.settings })
      others = request.others.length ? createOthers(ring, reader, request.others, { reference: channels.reference, ...request.settings }, fast!.spectrum, post) : null
      break
    case 'settings':
      if (options) begin({ ...options, ...request.settings })
      others?.settings({ reference: channels.reference, ...request.settings })
      break
    case 'wants':
      if (JSON.stringify(request.level) !== JSON.stringify(wants.level)) {
        meterNow = request.level && ring ? createSoundLevel(ring.sampleRate, request.level.weighting, request.level.time) : null
        metered = reader?.written() ?? 0
      }
      wants = request
      break
    case 'restart':
      mark = request.mark
      if (taking) post({ type: 'no-take', why: 'The settings changed before there was enough to keep. Nothing was kept: take it again.' })
      taking = 0
      live?.restart(request.ago)
      others?.restart(request.ago)
      break
    case 'find':
      startSearch(request.expected)
      live?.restart()
      others?.find(request.others)
      break
    case 'follow': following = request.on; break
    case 'delay':
      assumed = false
      searching = false
      live?.setDelay(request.seconds)
      break
    case 'take': take(); break
    case 'record': sweeper = ring && createSweeper(ring, reader!, channels.reference, [channels.microphone, ...others?.channels ?? []], fast!, request.plan, request.repeats, post); break
    case 'end-recording': sweeper = null; break
    case 'stop': ring = null; live = null; break
  }
}

const guarded = (job: () => void) => {
  try { job() }
  catch (error) { post({ type: 'failed', why: `The analysis stopped: ${(error as Error).message}` }) }
}
const ready = loadFastFft().then((loaded) => { fast = loaded }, (error: Error) => post({ type: 'failed', why: `The analysis cannot start: ${error.message}` }))
self.onmessage = (event: MessageEvent<AnalysisRequest>) => void ready.then(() => guarded(() => handle(event.data)))
setInterval(() => guarded(step), pollEvery)
