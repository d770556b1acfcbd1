import { spawn } from 'node:child_process'
import { writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { createInterface } from 'node:readline'
import { coverage } from '../core/acoustics'
import { pinkNoise, realFft, standardGrid } from '../core/dsp'
import { loadFastFft } from '../core/dsp/fastFft'
import {
  createDualChannel,
  createLive,
  createReferences,
  createRing,
  deconvolve,
  measuredCurve,
  ringWriter,
} from '../core/measure'
import { sheetAt } from '../core/documents'
import { roomSpectrum } from '../standins/venue/acoustics'
import { blockSize, createConvolver } from '../standins/venue/convolver'
import { hall, plan, positions, sources } from '../standins/venue/testHall'

const rate = 48_000
const seconds = 60
const ref = new Float32Array(rate * seconds)
const mic = new Float32Array(rate * seconds)
pinkNoise(rate, 1)(ref)
pinkNoise(rate, 2)(mic)
const file = join(tmpdir(), `kovrin-bench-${process.pid}.f32`)
writeFileSync(file, Buffer.concat([Buffer.from(ref.buffer), Buffer.from(mic.buffer)]))

const python = spawn('/usr/bin/python3', [process.argv[2]!], { stdio: ['pipe', 'pipe', 'inherit'] })
const lines = createInterface(python.stdout)[Symbol.asyncIterator]()
async function scipy(operation: string, size: number, rounds: number): Promise<number> {
  python.stdin.write(`${JSON.stringify({ operation, size, rounds, file })}\n`)
  return JSON.parse((await lines.next()).value as string) as number
}

function median(job: () => void, rounds: number): number {
  for (let n = 0; n < Math.min(rounds, 20); n++) job()
  const times = Array.from({ length: rounds }, () => {
    const start = performance.now()
    job()
    return (performance.now() - start) / 1000
  })
  return times.sort((a, b) => a - b)[rounds >> 1]!
}

interface Row {
  'what': string
  'Kovrin ms': string
  'scipy ms': string
  'ratio': string
}
const rows: Row[] = []
const row = (what: string, ours: number, theirs: number) =>
  rows.push({
    what,
    'Kovrin ms': (ours * 1000).toFixed(3),
    'scipy ms': (theirs * 1000).toFixed(3),
    'ratio': (ours / theirs).toFixed(2),
  })

const fast = await loadFastFft()
for (const power of [10, 12, 14, 16, 18]) {
  const size = 2 ** power
  const rounds = Math.max(15, Math.min(400, 2 ** (21 - power)))
  const fft = realFft(size)
  const re = new Float64Array(size / 2 + 1)
  const im = new Float64Array(size / 2 + 1)
  const input = Float64Array.from(ref.subarray(0, size))
  const theirs = await scipy('rfft', size, rounds)
  const block = fast.block(size)
  const single = ref.subarray(0, size)
  row(
    `real FFT 2^${power}, single precision (live path)`,
    median(() => {
      block.forward(single)
    }, rounds),
    theirs,
  )
  row(
    `real FFT 2^${power}, double precision`,
    median(() => fft.forward(input, re, im), rounds),
    theirs,
  )
}
{
  const length = 16_384
  const hop = length / 4
  const ours = median(() => {
    const average = createDualChannel({
      sampleRate: rate,
      length,
      hop,
      averaging: { kind: 'exponential', time: 1 },
      spectrum: fast.spectrum,
    })
    for (let at = 0; at + length <= ref.length; at += hop)
      average.push(ref.subarray(at, at + length), mic.subarray(at, at + length))
  }, 5)
  row(
    `transfer function and coherence of ${seconds} s, 2^14, 75 % overlap; numpy in one pass`,
    ours,
    await scipy('one-pass', length, 5),
  )
  row(`the same; scipy’s csd, welch and coherence`, ours, await scipy('transfer', length, 5))
}
{
  const [size, frames] = [2 ** 17, 480_256]
  const convolver = createConvolver(size, fast)
  convolver.respond(ref.subarray(0, size))
  const out = new Float32Array(blockSize)
  const sound = mic.subarray(mic.length - frames)
  const ours = median(() => {
    for (let at = 0; at < frames; at += blockSize) convolver.process(sound.subarray(at, at + blockSize), out)
  }, 5)
  row('10 s through a response of 2^17, in blocks of 1024; scipy.signal.oaconvolve at once', ours,
    await scipy('convolve', size, 5))
}
{
  const size = 2 ** 20
  const x = ref.subarray(0, size / 2)
  const y = mic.subarray(0, size / 2)
  row(
    'deconvolution of 2^20, single precision',
    median(() => {
      deconvolve(x, y, { low: 20, high: 20_000 }, rate, n => fast.block(n))
    }, 9),
    await scipy('deconvolve', size, 9),
  )
}
{
  const ring = createRing(rate, 2, 2 ** 19)
  const writer = ringWriter(ring)
  const references = createReferences(ring, fast.spectrum)
  const count = 8
  const updates = 20
  const curve = measuredCurve(standardGrid)
  const lives = Array.from({ length: count }, () =>
    createLive(ring, {
      reference: 0,
      microphone: 1,
      length: 'multi',
      overlap: 0.75,
      averaging: { kind: 'exponential', time: 1 },
      spectrum: fast.spectrum,
      references,
    }),
  )
  const step = rate / updates
  let busy = 0
  for (let at = 0; at + step <= 30 * rate; at += step) {
    writer.write([ref.subarray(at, at + step), mic.subarray(at, at + step)], step)
    const start = performance.now()
    for (const live of lives) {
      live.poll()
      live.read(curve)
    }
    if (at >= 10 * rate) busy += performance.now() - start
  }
  console.log(
    `${count} live measurements with several block lengths at 48 kHz, ${updates} updates a second: `
    + `${((busy / 20_000) * 100).toFixed(1)} % of one core.`,
  )
}
{
  const places = Float32Array.from(
    { length: 3 * 2000 },
    (_, k) => [30 * ((k * 0.61803) % 1), 14 * ((k * 0.38197) % 1), 1.2][k % 3]!,
  )
  const sheetOf = (id: string) => hall.sheets.find(s => s.id === id)!
  const radiators = sources.flatMap(s => s.elements).slice(0, 12)
    .map(({ sheet, place, aim }) => ({ ...sheetAt(sheetOf(sheet), 2000), place, aim }))
  console.log(
    `Level map of 2,000 seats × ${radiators.length} loudspeakers: ${(
      1000
      * median(() => {
        coverage(places, radiators, plan.air, 2000)
      }, 15)
    ).toFixed(1)} ms.`,
  )
  const element = sources[0]!.elements[0]!
  const sheet = hall.sheets.find(s => s.id === element.sheet)!
  const radiating = { source: 'main-l', number: 0, element, sheet, band: sheet.bands[0]!, inverted: false }
  for (const order of [3, 5])
    console.log(
      `Simulated hall, one cabinet to one microphone, reflections to order ${order}: ${(
        1000
        * median(() => {
          roomSpectrum(plan, radiating, positions[0]!.place, order)
        }, 5)
      ).toFixed(0)} ms.`,
    )
}
python.stdin.end()
console.table(rows)
