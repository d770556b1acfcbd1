import type { SweepPlan } from '~~/core/dsp'
import type { FastFft } from '~~/core/dsp/fastFft'
import { analyseSweep, findSweep } from '~~/core/measure'
import type { Correction, HeardSweep, Ring, ringReader, SweepResult } from '~~/core/measure'
import type { AnalysisAnswer, MeasurementSpec } from '~~/core/contract'
import { message, toldOf, type Message } from '~~/core/words'

/** Seconds of silence recorded before the sweep is asked for: the noise is told from them. */
const lead = 0.5
/** Longest wait for the sweep to begin: a busy page asks late, a device buffers. */
const patience = 4
const chunk = 4096
/** Reference over its own silence, and under its loudest, where a sweep counts as begun and ended (ratios of RMS). */
const begun = 10
const ended = 0.01
/** Part of a microphone's loudest that it still hears the sweep by: late, or in a long reverberation. */
const stillHeard = 0.1
/** RMS of a reference that counts as playing at all. */
const audible = 1e-4

/** Responses of so many sweeps, put together by their arrivals: noise falls by 3 dB a doubling. */
function meanOf(results: SweepResult[]): SweepResult {
  const first = results[0]!
  if (results.length === 1) return first
  const impulse = new Float32Array(first.impulse.length)
  for (const r of results)
    for (let n = 0; n < impulse.length; n++) impulse[n]! += (r.impulse[n] ?? 0) / results.length
  const mean = (column: (r: SweepResult) => Float64Array) =>
    column(first).map((_, k) => results.reduce((sum, r) => sum + column(r)[k]!, 0) / results.length)
  return {
    ...first,
    impulse,
    curve: {
      ...first.curve,
      re: mean(r => r.curve.re),
      im: mean(r => r.curve.im),
      coherence: mean(r => r.curve.coherence).map(c => 1 - (1 - c) / results.length),
    },
    signalToNoise: first.signalToNoise.map((b, k) => ({
      ...b,
      level: 10 * Math.log10(results.reduce((s, r) => s + 10 ** ((r.signalToNoise[k]?.level ?? -200) / 10), 0)),
    })),
  }
}

const rmsOf = (part: Float32Array) => Math.sqrt(part.reduce((sum, v) => sum + v * v, 0) / part.length)

/** Whether a microphone still hears the sweep: as loud as a part of the loudest, and well over its own silence. */
function createEar() {
  let silence = Infinity
  let loudest = 0
  return (part: Float32Array, at: number, sampleRate: number) => {
    const rms = rmsOf(part)
    if (at < lead * sampleRate) silence = Math.min(silence, rms)
    loudest = Math.max(loudest, rms)
    return rms > stillHeard * loudest && rms > 3 * silence
  }
}

/** When a sweep began and ended in the reference, by its level from part to part; the answer in frames. */
function createWatch(plan: SweepPlan, tail: number, sampleRate: number) {
  const ears = new Map<number, ReturnType<typeof createEar>>()
  let loudest = 0
  let quiet = 0
  let silence = audible
  let began = -1
  let over = -1
  return (part: Float32Array, microphones: readonly Float32Array[], at: number): 'waits' | 'sounds' | 'done' => {
    const rms = rmsOf(part)
    const hears = microphones.map((heard, n) => {
      const ear = ears.get(n) ?? createEar()
      ears.set(n, ear)
      return ear(heard, at, sampleRate)
    })
    if (began < 0) {
      if (at < lead * sampleRate) silence = Math.max(silence, rms)
      else if (rms > begun * silence) began = at
      return began < 0 ? 'waits' : 'sounds'
    }
    loudest = Math.max(loudest, rms)
    const played = at - began
    if (rms > ended * loudest || played < 0.5 * plan.seconds * sampleRate) {
      over = -1
      // whatever plays on after the sweep is none of it: the analysis says what is wrong
      return played > (plan.seconds + tail + patience) * sampleRate ? 'done' : 'sounds'
    }
    if (over < 0) over = at
    quiet = at - over
    // a wireless line or a long delay may bring it late: it is waited for
    const comesLate = hears.includes(true) && quiet < (tail + patience) * sampleRate
    return quiet >= tail * sampleRate && !comesLate ? 'done' : 'sounds'
  }
}

/** Records sweeps from the ring for every measurement at once and analyses them: `step` is to be called often. */
export function createSweeper(
  ring: Ring,
  reader: ReturnType<typeof ringReader>,
  measurements: readonly MeasurementSpec[],
  fast: FastFft,
  { plan, repeats, tail }: { plan: SweepPlan, repeats: number, /** Seconds. */ tail: number },
  post: (answer: AnalysisAnswer, transfer?: Transferable[]) => void,
  correctionOf: (channel: number) => Correction | null,
) {
  const { sampleRate } = ring
  const usual = Math.round((lead + plan.seconds + tail) * sampleRate)
  const frames = usual + Math.round((patience + 1) * sampleRate)
  const recorded = new Map(
    measurements.flatMap(m => [m.microphone, m.reference]).map(channel => [channel, new Float32Array(frames)]),
  )
  const results: SweepResult[][] = []
  let taken = 0
  let from = reader.written()
  let asked = false
  let told = 0
  let watch = createWatch(plan, tail, sampleRate)
  const fail = (why: Message) => {
    post({ type: 'no-sweep', why })
    return true
  }

  /** Takes what the ring has; true when a whole sweep and its tail are there, why not when they never will be. */
  function record(): boolean | Message {
    while (taken + chunk <= frames) {
      if (from + taken + chunk > reader.written()) return false
      for (const [channel, sound] of recorded)
        if (!reader.read(channel, from + taken, sound.subarray(taken, taken + chunk)))
          return message('sweep.busy')
      const partOf = (channel: number) => recorded.get(channel)!.subarray(taken, taken + chunk)
      const state = watch(partOf(measurements[0]!.reference), measurements.map(m => partOf(m.microphone)), taken)
      taken += chunk
      if (state === 'done') return true
      if (state === 'waits' && taken > (lead + patience) * sampleRate)
        return message('sweep.referenceSilent')
    }
    return true
  }
  const make = (size: number) => fast.block(size)
  const analysed = () => {
    const part = (channel: number) => recorded.get(channel)!.subarray(0, taken)
    const heard = new Map<number, HeardSweep>()
    return measurements.map(({ reference, microphone }) => {
      // found once in every reference, however many microphones are compared with it
      const sweep = heard.get(reference) ?? findSweep(part(reference), plan, sampleRate, make)
      heard.set(reference, sweep)
      return analyseSweep(part(reference), part(microphone), plan, sampleRate, tail, make, sweep)
    })
  }

  /** True when it is over. */
  return function step(): boolean {
    if (!asked && reader.written() - from >= lead * sampleRate) {
      asked = true
      post({ type: 'sweep-now' })
    }
    const state = record()
    if (typeof state === 'object') return fail(state)
    const done = (results.length + Math.min(1, taken / usual)) / repeats
    if (done - told > 0.02) {
      told = done
      post({ type: 'sweeping', done })
    }
    if (!state) return false
    try {
      results.push(analysed())
    }
    catch (error) {
      return fail(toldOf(error))
    }
    if (results.length < repeats) {
      taken = 0
      asked = false
      watch = createWatch(plan, tail, sampleRate)
      from = reader.written()
      return false
    }
    const heard = measurements.map(({ id, microphone }, m) => {
      const result = meanOf(results.map(r => r[m]!))
      const impulse = correctionOf(microphone)?.takeFromResponse(result.impulse) ?? result.impulse
      return { id, result: { ...result, impulse } }
    })
    post({ type: 'swept', heard, repeats })
    return true
  }
}
