import { defineStore } from 'pinia'
import { useLocalStorage } from '@vueuse/core'
import { roomDecay } from '~~/core/documents'
import type { SweepPlan } from '~~/core/dsp'
import { isTooLoud, splitTap, type Measurement, type SweepResult } from '~~/core/measure'
import { sameEndpoint, unknownFeed, type Endpoint } from '~~/core/rig'
import { createSolo } from '~/sound/solo'
import type { SweepAnswer, Swept } from '~~/core/contract'
import { counted } from '~~/core/units'
import { useSite } from '~/document/site'
import { useTakes } from '~/document/takes'
import { useView } from '~/document/view'
import { useNotices } from '~/parts/notices'
import { useCorrections } from './corrections'
import { useInputs } from './inputs'
import { useListen } from './listen'
import { useSets } from './sets'
import { Refusal, wordsOf } from '~~/core/words'

interface SweepCell {
  source: string
  position: string
  /** One output alone, or all of the source's. */
  only: Endpoint | null
}

/** Seconds that a sweep takes besides its sound: the level check, and what it waits for. */
const aroundEach = 3

class Ended extends Error {}
/** dB by which a sweep that clips in the microphone is played softer, and how often. */
const [softer, mostSofter] = [12, 2]
const clips = (error: unknown) => error instanceof Refusal && isTooLoud(error.told)
/** Level in dBFS under which a microphone hears nothing that a sweep could be told from. */
const quietest = -68

/** Sweeps: one at the picked cell, or one by one over the whole ledger, with the other loudspeakers muted meanwhile. */
export const useSweep = defineStore('sweep', () => {
  const site = useSite()
  const view = useView()
  const listen = useListen()
  const takes = useTakes()
  const notices = useNotices()
  const sets = useSets()
  const inputs = useInputs()
  const corrections = useCorrections()
  const plan = useLocalStorage<SweepPlan & { repeats: number }>('kovrin-sweep', {
    low: 20,
    high: 20_000,
    seconds: 3,
    level: -20,
    repeats: 1,
  })
  /** Whether a round also records each output of a source alone, so that edits of one of them can be foreseen. */
  const alone = useLocalStorage('kovrin-sweep-alone', false)
  const solo = createSolo(site, () => {
    stop()
    notices.say('warn', 'Temporary mutes timed out and were restored. The sweep was ended; what was kept stays.')
  })
  const state = ref<'idle' | 'checking' | 'sweeping'>('idle')
  const done = ref(0)
  const round = ref<{ at: number, of: number, name: string } | null>(null)
  const last = shallowRef<SweepResult | null>(null)
  /** Set by Stop and by Hush; whatever waits looks at it. */
  let ended = false
  let endRecording: (() => void) | null = null
  const goOn = () => {
    if (ended) throw new Ended()
  }

  /** Resolves when `test` holds; rejects when it does not within `seconds`, or when the sweep is ended. */
  const until = (test: () => boolean, seconds: number, why: string) =>
    new Promise<void>((resolve, reject) => {
      const started = performance.now()
      const timer = setInterval(() => {
        if (test()) {
          clearInterval(timer)
          resolve()
        }
        else if (ended) {
          clearInterval(timer)
          reject(new Ended())
        }
        else if (performance.now() - started > seconds * 1000) {
          clearInterval(timer)
          reject(new Error(why))
        }
      }, 30)
    })

  const pause = async (ms: number) => {
    await new Promise(next => setTimeout(next, ms))
    goOn()
  }

  /** A short noise at the sweep's level: whether the microphone will hear it, and not clip. */
  async function checkLevel() {
    state.value = 'checking'
    const { noiseLevel } = listen
    try {
      listen.noiseLevel = plan.value.level
      await listen.turnNoise(true)
      // the signal's own tap and a cable have its level; a microphone as the reference whatever the air leaves of it
      await until(
        () =>
          listen.levels.reference.rms
          > Math.max(-70, plan.value.level - (sets.front && splitTap(sets.front.reference) ? 40 : 4)),
        8,
        'The reference stays silent. Is it wired to the right channel?',
      )
      // sound that is on its way through a busy machine is waited for; what is heard at once is judged at once
      const before = listen.levels.microphone.rms
      const rises = () => listen.levels.microphone.rms > Math.max(quietest, before + 3)
      await pause(350)
      await until(rises, 3, '').catch(goOn)
      const { microphone } = listen.levels
      if (microphone.peak > -3)
        throw new Error(
          `The microphone would clip (peak ${microphone.peak.toFixed(0)} dBFS): turn it or the sweep down by `
          + `${Math.ceil(microphone.peak + 9)} dB.`,
        )
      if (microphone.rms < quietest)
        throw new Error(
          `The microphone hears too little (${microphone.rms.toFixed(0)} dBFS): is the loudspeaker fed and the `
          + `microphone on? The path ribbon says where it ends.`,
        )
    }
    finally {
      await listen.turnNoise(false)
      listen.noiseLevel = noiseLevel
    }
  }

  /** Seconds in which this room falls by 50 dB, by its plan. */
  const tailOf = () => Math.max(0.75, Math.min(6, (50 / 60) * Math.max(...roomDecay(site.plan))))

  const record = () =>
    new Promise<Swept>((resolve, reject) => {
      state.value = 'sweeping'
      done.value = 0
      const over = (settle: () => void) => {
        listen.hearSweep(null)
        endRecording = null
        settle()
      }
      listen.hearSweep((answer: SweepAnswer) => {
        if (answer.type === 'sweeping') done.value = answer.done
        else if (answer.type === 'sweep-now')
          listen.toGenerator({
            type: 'sweep',
            plan: {
              low: plan.value.low,
              high: plan.value.high,
              seconds: plan.value.seconds,
              level: plan.value.level,
            },
          })
        else if (answer.type === 'swept') over(() => resolve(answer))
        else over(() => reject(new Refusal(answer.why)))
      })
      endRecording = () =>
        over(() => {
          listen.toAnalysis({ type: 'end-recording' })
          listen.toGenerator({ type: 'hush' })
          reject(new Ended())
        })
      const { repeats, ...sweep } = plan.value
      listen.toAnalysis({ type: 'record', plan: { ...sweep }, repeats, tail: tailOf() })
    })

  /** One sweep at the picked cell, kept as a take. */
  async function sweepCell(only: Endpoint | null = null, missing = false) {
    if (!view.cell)
      throw new Error('Pick a cell in the ledger first: which loudspeaker is this, and where is the microphone?')
    const { source } = view.cell
    if (sets.facts.inRig && !site.fed(source)) {
      throw new Error(
        `${site.sourceOf(source)?.name} gets no signal: the sweep would record another loudspeaker. `
        + 'Press “Feed only this” in the path ribbon, then sweep.',
      )
    }
    await listen.start()
    await until(() => listen.running, 5, 'The sound input did not open.')
    await checkLevel()
    await pause(1000 * Math.min(2, tailOf())) // the noise has died away: what is heard then is the room’s own
    const number = site.number
    const { heard, repeats } = await record()
    last.value = heard[0]!.result
    const kept = new Set<string>()
    for (const { id, result } of heard) {
      const m = sets.rows.find(x => x.id === id)
      const position = m && sets.placeOf(m)?.id
      if (!m || !position || kept.has(position)) continue // a second microphone at the same place adds nothing
      if (missing && isDone({ source, position, only })) continue
      kept.add(position)
      await keep({ source, position, only }, m, { result, repeats, number })
    }
    for (const warning of heard[0]!.result.warnings) notices.say('warn', wordsOf(warning))
  }
  interface Recorded {
    result: SweepResult
    repeats: number
    number: number
  }
  const keep = (cell: SweepCell, m: Measurement, { result, repeats, number }: Recorded) => {
    const { low, high, seconds, level } = plan.value
    const { impulse: samples, sampleRate, start, arrival, first, harmonics, total, signalToNoise } = result
    const withNoise = { order: 0, frequencies: total.frequencies, level: total.withNoise }
    return takes.store(
      {
        curve: corrections.corrected(result.curve, m.microphone),
        impulse: { samples, sampleRate, start: start - arrival },
        harmonics: [...harmonics, withNoise].flatMap(({ order, ...h }) => {
          const known = [...h.level.keys()].filter(k => Number.isFinite(h.level[k]))
          const of = (column: Float64Array) => Float32Array.from(known, k => column[k]!)
          return known.length ? [{ order, frequencies: of(h.frequencies), level: of(h.level) }] : []
        }),
        signalToNoise: signalToNoise.map(b => ({ middle: b.middle, level: b.level })),
      },
      {
        ...cell,
        feed: sets.feedOf(m) ?? unknownFeed,
        number,
        ...(cell.only ? { name: nameOf(cell).slice(0, 120) } : {}),
        info: {
          method: 'sweep',
          input: inputs.labelOf(m.microphone, true),
          sampleRate,
          length: 2 ** 17,
          blocks: repeats,
          arrival: first,
          microphoneLevel: null,
          referenceLevel: null,
          sweep: { low, high, seconds, level, repeats },
        },
        timing: { reference: m.reference, sameClock: !sets.clocks(m), drift: null, delay: arrival },
      },
    )
  }

  async function guarded(job: () => Promise<void>) {
    if (state.value !== 'idle' || !listen.mayStart()) return
    state.value = 'checking'
    ended = false
    try {
      await job()
    }
    catch (error) {
      if (error instanceof Ended) notices.say('info', 'The sweep was ended. What was kept before stays.')
      else notices.fail(error)
    }
    finally {
      state.value = 'idle'
      round.value = null
    }
  }

  const isDone = ({ source, position, only }: SweepCell) =>
    takes.inCell(source, position).some((t) => {
      const isSame = only ? t.only !== null && sameEndpoint(t.only, only) : t.only === null
      return isSame && t.info.method === 'sweep' && !takes.stale[t.id]?.length
    })
  /** What of a source is swept: all of it, and where wished each of several outputs alone. */
  const waysOf = (source: string): (Endpoint | null)[] => {
    const outputs = site.outputs(source)
    return [null, ...(alone.value && outputs.length > 1 ? outputs : [])]
  }
  /**
   * Cells still to be swept: without a fresh take by sweep. The simulated microphone walks; real ones stay
   * where they are.
   */
  const todo = computed<SweepCell[]>(() => {
    const stands = new Set(sets.able.map(m => sets.placeOf(m)?.id))
    return cellsAt(site.positions.filter(p => sets.facts.walks || stands.has(p.id)).map(p => p.id))
  })
  /** Cells at these positions without a fresh sweep, source after source at each. */
  function cellsAt(positions: readonly string[]): SweepCell[] {
    const cells = positions.flatMap(position =>
      site.sources.flatMap(s => waysOf(s.id).map(only => ({ source: s.id, position, only }))))
    return cells.filter(c => !isDone(c))
  }
  const nameOf = ({ source, position, only }: SweepCell) => {
    const name = `${site.sourceOf(source)?.name} at ${site.positionOf(position)?.name}`
    return only ? `${name}, ${site.deviceName(only.device)} output ${only.channel + 1} alone` : name
  }

  /** Does a sweep of a round again, softer, where the microphone clipped; nothing is ever made louder. */
  async function softEnough(job: () => Promise<void>) {
    const { level } = plan.value
    try {
      for (let n = 0; ; n++) {
        try {
          return await job()
        }
        catch (error) {
          if (!clips(error) || n === mostSofter) throw error
          plan.value.level -= softer
        }
      }
    }
    finally {
      plan.value.level = level
    }
  }

  /** Sweeps cells one by one; gives what went wrong, in words. */
  async function sweepEach(cells: readonly SweepCell[]): Promise<string[]> {
    const failed: string[] = []
    const stands = sets.facts.walks ? undefined : view.cell?.position
    let sounding = ''
    for (const [n, c] of cells.entries()) {
      if (isDone(c)) continue // heard by another microphone meanwhile
      round.value = { at: n + 1, of: cells.length, name: nameOf(c) }
      goOn()
      const wanted = JSON.stringify([c.source, c.only])
      if (wanted !== sounding) await solo.only(c.only ? [c.only] : site.outputs(c.source))
      sounding = wanted
      view.cell = { source: c.source, position: stands ?? c.position }
      try {
        await softEnough(() => sweepCell(c.only, true))
      }
      catch (error) {
        if (error instanceof Ended) throw error
        failed.push(`${nameOf(c)}: ${(error as Error).message}`)
      }
    }
    return failed
  }

  /** A round over cells as they stand, with the others muted meanwhile; says what came of it. */
  const failures = ref<string[]>([])
  const sweepRound = (cells: readonly SweepCell[]) =>
    guarded(async () => {
      failures.value = []
      if (!cells.length) return notices.say('info', 'Every cell has a fresh sweep already.')
      await solo.begin('Sweep all')
      try {
        const failed = await sweepEach(cells)
        failures.value = failed
        const more = failed.length > 1 ? ` (and ${failed.length - 1} more)` : ''
        const swept = `${cells.length - failed.length} of ${counted(cells.length, 'cell')}`
        const words = `${swept} ${cells.length === 1 ? 'was' : 'were'} swept. ${failed[0]}${more}`
        if (failed.length) notices.say('warn', words)
        else notices.say('info', cells.length === 1 ? 'The cell was swept.' : `All ${cells.length} cells were swept.`)
      }
      finally {
        await solo.end()
        notices.say('info', 'Mutes and connections are as they were before the sweeps.')
      }
    })
  const sweepAll = () => sweepRound([...todo.value])
  /** Sweeps each source alone at these positions, all microphones hearing: what failed, and whether it was ended. */
  async function sweepAt(positions: readonly string[]): Promise<{ ended: boolean, failed: readonly string[] }> {
    ended = false
    failures.value = []
    const cells = cellsAt(positions)
    if (cells.length) await sweepRound(cells)
    return { ended, failed: failures.value }
  }

  const stop = () => {
    ended = true
    endRecording?.()
  }
  watch(() => listen.hushed, stop)
  watch(state, (s) => {
    listen.sweeping = s !== 'idle'
  }, { flush: 'sync' })
  watch([state, round], () => {
    const each = plan.value.seconds * plan.value.repeats + tailOf() + aroundEach
    const left = round.value ? (round.value.of - round.value.at + 1) * each : each
    const at = round.value ? ` ${round.value.at} of ${round.value.of}` : ''
    listen.doing = state.value === 'idle' ? null : { what: `sweep${at}`, left }
  })
  const one = () => guarded(() => sweepCell())
  return { tailOf, plan, alone, state, done, round, last, todo, one, sweepAll, cellsAt, at: sweepAt, stop }
})
