import { loadFastFft, type FastFft } from '~~/core/dsp/fastFft'
import { createRing, ringWriter } from '~~/core/measure'
import { blockSize } from '~~/standins/venue/convolver'
import { createInterface, type Interface } from '~~/standins/venue/interface'
import { simulatedTaps } from '~~/standins/venue/offers'
import { VenueRequest, type VenueAnswer } from '~~/standins/venue/messages'
import { serve } from './line'
import { message, toldOf } from '~~/core/words'

/** The stand-in interface: computes the hall's sound in step with the clock and writes it into the ring. */
const post = (answer: VenueAnswer) => self.postMessage(answer)
const ringFrames = 2 ** 19
const longestGap = 1
const mostSpeed = 16
/** Milliseconds of computing in one go, so that what is asked meanwhile is heard. */
const longestTurn = 40

let venue: Interface | null = null
let writer: ReturnType<typeof ringWriter> | null = null
/** Seconds of the hall to one of ours. */
let speed = 1
let started = 0
let produced = 0
const channels = simulatedTaps.map(() => new Float32Array(blockSize))

function handle(request: VenueRequest, fast: FastFft) {
  switch (request.type) {
    case 'open': {
      venue = createInterface(fast, request.hall, request.rig, request.microphones)
      const ring = createRing(venue.sampleRate, channels.length, ringFrames)
      writer = ringWriter(ring)
      started = performance.now()
      produced = 0
      post({ type: 'ring', buffer: ring.buffer })
      break
    }
    case 'holds':
      change(false, () => venue?.holds(request.rig))
      break
    case 'move':
      change(true, () => venue?.moveMicrophones(request.microphones))
      break
    case 'replan':
      change(true, () => venue?.replan(request.hall, request.rig, request.microphones))
      break
    case 'clock':
      speed = Math.max(0.1, Math.min(mostSpeed, request.speed))
      started = performance.now()
      produced = 0
      break
    case 'noise':
      venue?.generator.level(request.level)
      if (request.on) venue?.generator.start()
      else venue?.generator.stop()
      break
    case 'background':
      venue?.background(request.id)
      break
    case 'programme':
      venue?.programme(request.on)
      break
    case 'output':
      venue?.output(request.channel)
      break
    case 'gains':
      request.gains.forEach((gain, n) => venue?.gain(n, gain))
      break
    case 'evening':
      venue?.evening(request.on)
      break
    case 'reflections':
      change(false, () => venue?.reflections(request.order))
      break
    case 'signal':
      venue?.generator.signal(request.signal)
      break
    case 'sweep':
      venue?.generator.sweep(request.plan)
      break
    case 'hush':
      venue?.generator.hush()
      break
  }
}

/**
 * Something in the hall changes, and it is told how much sound is written already that is not all the new
 * hall's. The hall is
 * computed one output at a time, a block of sound after each, so that the others sound on.
 */
function change(moved: boolean, job: () => void) {
  produce()
  job()
  while (venue?.settling) block()
  const before = produced
  produce()
  post({ type: 'heard', moved, ago: Math.max(0, produced - before - blockSize) }) // one block is the cross-fade
}

function block() {
  venue!.process(channels)
  writer!.write(channels, blockSize)
  produced += blockSize
  tellLimiting()
}

/** Blocks between two tellings of what limiters do: ten a second. */
const tellEvery = 5
let untold = 0
let wasLimiting = false
function tellLimiting() {
  if (++untold < tellEvery) return
  untold = 0
  const reductions = venue!.limiting()
  const limiting = Object.keys(reductions).length > 0
  if (limiting || wasLimiting) post({ type: 'limiting', reductions })
  wasLimiting = limiting
}

function produce() {
  if (!venue || !writer) return
  const turn = performance.now()
  const due = ((turn - started) / 1000) * speed * venue.sampleRate
  // asleep, or slower than its clock: go on from now, do not hurry after it
  if (due - produced > longestGap * speed * venue.sampleRate) {
    started = turn - (1000 * (produced + blockSize)) / (speed * venue.sampleRate)
  }
  while (produced + blockSize <= due && performance.now() - turn < longestTurn) block()
}

const guarded = (job: () => void) => {
  try {
    job()
  }
  catch (error) {
    post({ type: 'failed', why: toldOf(error) })
  }
}
const ready = loadFastFft()
ready.catch((error: Error) => post({ type: 'failed', why: message('hall.notStarted', { why: toldOf(error) }) }))
serve(VenueRequest, request => void ready.then(fast => guarded(() => handle(request, fast)), () => {}))
setInterval(() => guarded(produce), 10)
