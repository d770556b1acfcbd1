import { curveOfImpulse, standardGrid, type SweepPlan } from '~~/core/dsp'
import type { FastFft } from '~~/core/dsp/fastFft'
import { analyseSweep, levelOf, type Ring, type ringReader, type SweepResult } from '~~/core/measure'
import type { AnalysisAnswer, MeasurementSpec } from './messages'

/**
 * Seconds recorded before the sweep is asked for, and after its end: the room must have died away, and the
 * answer be quick.
 */
const lead = 0.15
const tail = 0.75
const holeFrames = 64

/** Responses of so many sweeps, put together by their arrivals: noise falls by 3 dB a doubling. */
function meanOf(results: SweepResult[]): SweepResult {
  const first = results[0]!
  if (results.length === 1) return first
  const impulse = new Float32Array(first.impulse.length)
  for (const r of results)
    for (let n = 0; n < impulse.length; n++) impulse[n]! += (r.impulse[n] ?? 0) / results.length
  return {
    ...first,
    impulse,
    signalToNoise: first.signalToNoise.map((b, k) => ({
      ...b,
      level: 10 * Math.log10(results.reduce((s, r) => s + 10 ** (r.signalToNoise[k]!.level / 10), 0)),
    })),
  }
}

/**
 * The response on the standard grid: the whole of it for the lows, the first 0.7 s above 200 Hz, where nothing
 * later matters to the ear's curve.
 */
function curveOf({ impulse, sampleRate, start, arrival }: SweepResult) {
  const split = standardGrid.findIndex(f => f >= 200)
  const at = start - arrival
  const low = curveOfImpulse(impulse.subarray(0, 2 ** 17), sampleRate, at, standardGrid.subarray(0, split))
  const high = curveOfImpulse(impulse.subarray(0, 2 ** 15), sampleRate, at, standardGrid.subarray(split))
  return { re: Float64Array.from([...low.re, ...high.re]), im: Float64Array.from([...low.im, ...high.im]) }
}

/** Records sweeps from the ring for every measurement at once and analyses them: `step` is to be called often. */
export function createSweeper(
  ring: Ring,
  reader: ReturnType<typeof ringReader>,
  measurements: readonly MeasurementSpec[],
  fast: FastFft,
  plan: SweepPlan,
  repeats: number,
  post: (answer: AnalysisAnswer, transfer?: Transferable[]) => void,
) {
  const frames = Math.round((lead + plan.seconds + tail) * ring.sampleRate)
  const chunk = 4096
  const recorded = new Map(
    measurements.flatMap(m => [m.microphone, m.reference]).map(channel => [channel, new Float32Array(frames)]),
  )
  const results: SweepResult[][] = []
  let taken = 0
  let from = reader.written()
  let asked = false
  let told = 0
  const fail = (why: string) => {
    post({ type: 'no-sweep', why })
    return true
  }

  /** Why a recording cannot be used; null when it can. */
  const fault = (): string | null => {
    if (measurements.some(m => levelOf(recorded.get(m.reference)!).rms < -75))
      return 'The reference stayed silent during the sweep. Is it wired to the right channel?'
    let gaps = 0
    for (const { microphone } of measurements) {
      const sound = recorded.get(microphone)!
      if (levelOf(sound).peak > -0.1)
        return 'A microphone clipped during the sweep. Turn it or the sweep down and do it again.'
      let run = 0
      for (let n = 0; n < frames; n++) {
        run = sound[n] === 0 ? run + 1 : 0
        if (run === holeFrames) gaps++
      }
    }
    return gaps
      ? `The machine left ${gaps} ${gaps === 1 ? 'gap' : 'gaps'} in the recording. Nothing was kept: do it again.`
      : null
  }

  /** True when it is over. */
  return function step(): boolean {
    if (!asked && reader.written() - from >= lead * ring.sampleRate * 0.5) {
      asked = true
      post({ type: 'sweep-now' })
    }
    while (taken < frames) {
      const count = Math.min(chunk, frames - taken)
      if (from + taken + count > reader.written()) break
      for (const [channel, sound] of recorded)
        if (!reader.read(channel, from + taken, sound.subarray(taken, taken + count)))
          return fail('The computer was too busy to record the sweep without a gap. Nothing was kept: do it again.')
      taken += count
    }
    const done = (results.length + taken / frames) / repeats
    if (done - told > 0.02) {
      told = done
      post({ type: 'sweeping', done })
    }
    if (taken < frames) return false
    const why = fault()
    if (why) return fail(why)
    try {
      results.push(
        measurements.map(m =>
          analyseSweep(recorded.get(m.reference)!, recorded.get(m.microphone)!, plan, ring.sampleRate, 2.5, size =>
            fast.block(size),
          ),
        ),
      )
    }
    catch (error) {
      return fail((error as Error).message)
    }
    if (results.length < repeats) {
      taken = 0
      asked = false
      from = reader.written()
      return false
    }
    const heard = measurements.map(({ id }, m) => {
      const result = meanOf(results.map(r => r[m]!))
      return { id, result, ...curveOf(result) }
    })
    post(
      { type: 'swept', heard, repeats },
      heard.flatMap(h => [h.re.buffer, h.im.buffer]),
    )
    return true
  }
}
