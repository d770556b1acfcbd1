import { createRing, ringWriter } from '~~/core/measure'
import { blockSize } from '~~/standins/venue/convolver'
import { createInterface, simulatedTaps, type Interface } from '~~/standins/venue/interface'
import type { Rig } from '~~/core/rig'
import type { VenueAnswer, VenueRequest } from './messages'

/** The stand-in interface: computes the hall's sound in step with the clock and writes it into the ring. */
const post = (answer: VenueAnswer) => self.postMessage(answer)
const ringFrames = 2 ** 19
const longestGap = 1

let venue: Interface | null = null
let writer: ReturnType<typeof ringWriter> | null = null
let wires: Rig['wires'] = []
let started = 0
let produced = 0
const channels = simulatedTaps.map(() => new Float32Array(blockSize))

function handle(request: VenueRequest) {
  switch (request.type) {
    case 'open': {
      venue = createInterface(request.plan, request.sources, request.microphones)
      wires = request.plan.wires
      const ring = createRing(venue.sampleRate, channels.length, ringFrames)
      writer = ringWriter(ring)
      started = performance.now()
      produced = 0
      post({ type: 'ring', buffer: ring.buffer })
      break
    }
    case 'holds':
      change(false, () => venue?.holds({ devices: request.devices, wires }))
      break
    case 'move':
      change(true, () => venue?.moveMicrophones(request.microphones))
      break
    case 'replan':
      wires = request.plan.wires
      change(true, () =>
        venue?.replan(request.plan, request.sources, request.microphones, { devices: request.devices, wires }),
      )
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
}

function produce() {
  if (!venue || !writer) return
  const due = ((performance.now() - started) / 1000) * venue.sampleRate
  // asleep: go on from now, do not hurry after it
  if (due - produced > longestGap * venue.sampleRate) produced = due - blockSize
  while (produced + blockSize <= due) block()
}

const guarded = (job: () => void) => {
  try {
    job()
  }
  catch (error) {
    post({ type: 'failed', why: `The simulated hall stopped: ${(error as Error).message}` })
  }
}
self.onmessage = (event: MessageEvent<VenueRequest>) => guarded(() => handle(event.data))
setInterval(() => guarded(produce), 10)
