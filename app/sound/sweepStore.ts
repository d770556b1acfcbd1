import { defineStore } from 'pinia'
import { useLocalStorage } from '@vueuse/core'
import type { Swept } from '~~/core/contract'
import { roomDecay } from '~~/core/documents'
import type { SweepPlan } from '~~/core/dsp'
import { splitTap, type Measurement, type SweepResult } from '~~/core/measure'
import { sameEndpoint, unknownFeed } from '~~/core/rig'
import {
  cellsToSweep,
  hasRisen,
  levelFault,
  referenceHears,
  sweepAfter,
  sweepLeft,
  sweepRound,
  sweepTail,
  type SweepCell,
  type SweepEvent,
  type SweepRound,
} from '~~/core/tune'
import type { Decibels, Seconds } from '~~/core/units'
import { message, Refusal, refusal, toldOf, type Message } from '~~/core/words'
import { useSite } from '~/document/site'
import { useTakes } from '~/document/takes'
import { useView } from '~/document/view'
import { useNotices } from '~/parts/notices'
import { createSolo } from '~/sound/solo'
import { useCorrections } from './corrections'
import { useInputs } from './inputs'
import { useListen } from './listen'
import { useSets } from './sets'
import { createRecorder, Ended } from './sweepRecorder'
import { sweptData, sweptInfo } from './sweptTake'
import { phrase } from '~/parts/phrase'

/** What each status of a round asks to be done. */
type Steps = Record<Exclude<SweepRound['status'], 'over' | 'ended'>, (cell: SweepCell) => Promise<SweepEvent>>
const done: SweepEvent = { type: 'done' }

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
  const say = (kind: 'info' | 'warn' | 'error', told: Message) => notices.say(kind, told)
  const solo = createSolo(site, () => {
    stop()
    say('warn', message('sweep.mutesOver'))
  })
  /** The sweeps that go on, if any; of a single one there is no talk of a round. */
  const now = shallowRef<SweepRound | null>(null)
  const isSingle = ref(false)
  const last = shallowRef<SweepResult | null>(null)
  const tell = (event: SweepEvent) => {
    if (now.value) now.value = sweepAfter(now.value, event)
  }
  const recorder = createRecorder(listen, part => tell({ type: 'recorded', part }))
  const isEnded = () => now.value?.status === 'ended'
  const goOn = () => {
    if (isEnded()) throw new Ended()
  }

  /** Resolves when `test` holds; rejects when it does not within `seconds`, or when the sweep is ended. */
  const until = (test: () => boolean, seconds: Seconds, why: Message) =>
    new Promise<void>((resolve, reject) => {
      const started = performance.now()
      const timer = setInterval(() => {
        const settle = (how: () => void) => {
          clearInterval(timer)
          how()
        }
        if (test()) settle(resolve)
        else if (isEnded()) settle(() => reject(new Ended()))
        else if (performance.now() - started > seconds * 1000) settle(() => reject(new Refusal(why)))
      }, 30)
    })
  const pause = async (seconds: Seconds) => {
    await new Promise(next => setTimeout(next, 1000 * seconds))
    goOn()
  }

  /** A short noise at the sweep's level: whether the microphone will hear it, and not clip. */
  async function checkLevel(level: Decibels) {
    const { noiseLevel } = listen
    const by = sets.front && splitTap(sets.front.reference) ? 'air' : 'cable'
    try {
      listen.noiseLevel = level
      await listen.turnNoise(true)
      await until(() => referenceHears(listen.levels.reference, level, by), 8, message('sweep.referenceStays'))
      // sound that is on its way through a busy machine is waited for; what is heard at once is judged at once
      const before = listen.levels.microphone.rms
      await pause(0.35)
      await until(() => hasRisen(listen.levels.microphone, before), 3, message('sweep.referenceStays')).catch(goOn)
      const fault = levelFault(listen.levels.microphone)
      if (fault) throw new Refusal(fault)
    }
    finally {
      await listen.turnNoise(false)
      listen.noiseLevel = noiseLevel
    }
  }

  /** Seconds in which this room falls by 50 dB, by its plan. */
  const tailOf = () => sweepTail(roomDecay(site.plan))
  const planNow = (): SweepPlan => {
    const { low, high, seconds } = plan.value
    return { low, high, seconds, level: now.value?.level ?? plan.value.level }
  }

  async function openInput({ source }: SweepCell) {
    if (sets.facts.inRig && !site.fed(source))
      throw refusal('sweep.unfed', { source: site.sourceOf(source)?.name ?? source })
    await listen.start()
    await until(() => listen.running, 5, message('sweep.notOpened'))
    return done
  }
  let swept: { heard: Swept['heard'], number: number } | null = null
  /** What the status of a round asks to be done; `prepare` comes first at every cell. */
  const stepsOf = (prepare: (cell: SweepCell) => Promise<SweepEvent>, missing: boolean): Steps => ({
    preparing: prepare,
    checking: async () => {
      await checkLevel(now.value!.level)
      return done
    },
    // the noise has died away: what is heard then is the room’s own
    settling: async () => {
      await pause(Math.min(2, tailOf()))
      return done
    },
    recording: async () => {
      const { number } = site
      const { heard } = await recorder.record(planNow(), plan.value.repeats, tailOf())
      swept = { heard, number }
      last.value = heard[0]!.result
      return done
    },
    keeping: async (cell) => {
      await keepHeard(cell, missing)
      return done
    },
  })

  /** Keeps what each microphone heard; a second one at the same place adds nothing. */
  async function keepHeard({ source, only }: SweepCell, missing: boolean) {
    const { heard, number } = swept!
    const kept = new Set<string>()
    for (const { id, result } of heard) {
      const m = sets.rows.find(x => x.id === id)
      const position = m && sets.placeOf(m)?.id
      if (!m || !position || kept.has(position)) continue
      if (missing && isDone({ source, position, only })) continue
      kept.add(position)
      await keep({ source, position, only }, m, result, number)
    }
    for (const warning of heard[0]!.result.warnings) say('warn', warning)
  }
  const keep = (cell: SweepCell, m: Measurement, result: SweepResult, number: number) =>
    takes.store(sweptData(result, corrections.corrected(result.curve, m.microphone)), {
      ...cell,
      feed: sets.feedOf(m) ?? unknownFeed,
      number,
      ...(cell.only ? { name: nameOf(cell).slice(0, 120) } : {}),
      info: sweptInfo(result, inputs.labelOf(m.microphone, true), { ...planNow(), repeats: plan.value.repeats }),
      timing: { reference: m.reference, sameClock: !sets.clocks(m), drift: null, delay: result.arrival },
    })

  /** Does what the round asks for until it is over or ended. */
  async function run(steps: Steps): Promise<SweepRound> {
    for (let step = now.value!; step.status !== 'over' && step.status !== 'ended'; step = now.value!) {
      const event = await steps[step.status](step.cells[step.at]!).catch((error: unknown): SweepEvent =>
        (error instanceof Ended ? { type: 'end' } : { type: 'refused', told: toldOf(error) }))
      tell(event)
    }
    return now.value!
  }
  /** Runs a job for a round while no other runs; nothing of it is left behind. */
  async function guarded(next: SweepRound, job: () => Promise<void>) {
    if (now.value || !listen.mayStart()) return
    now.value = next
    try {
      await job()
      if (isEnded()) say('info', message('sweep.ended'))
    }
    catch (error) {
      notices.fail(error)
    }
    finally {
      now.value = null
    }
  }

  const isDone = ({ source, position, only }: SweepCell) =>
    takes.inCell(source, position).some((t) => {
      const isSame = only ? t.only !== null && sameEndpoint(t.only, only) : t.only === null
      return isSame && t.info.method === 'sweep' && !takes.stale[t.id]?.length
    })
  /** Cells at these positions without a fresh sweep. */
  const cellsAt = (positions: readonly string[]): SweepCell[] =>
    cellsToSweep(site.sources.map(s => ({ id: s.id, outputs: site.outputs(s.id) })), positions, alone.value, isDone)
  /** Cells still to be swept. The simulated microphone walks; real ones stay where they are. */
  const todo = computed<SweepCell[]>(() => {
    const stands = new Set(sets.able.map(m => sets.placeOf(m)?.id))
    return cellsAt(site.positions.filter(p => sets.facts.walks || stands.has(p.id)).map(p => p.id))
  })
  const nameOf = ({ source, position, only }: SweepCell) => {
    const name = phrase('common.cellAt', {
      source: site.sourceOf(source)?.name ?? '',
      position: site.positionOf(position)?.name ?? '',
    })
    return only ? `${name}, ${site.deviceName(only.device)} output ${only.channel + 1} alone` : name
  }

  /** One sweep at the picked cell, kept as a take. */
  async function one() {
    if (!view.cell) return say('error', message('sweep.noCell'))
    const cell = { ...view.cell, only: null }
    await guarded(sweepRound([cell], plan.value.level, false), async () => {
      isSingle.value = true
      const { failed } = await run(stepsOf(openInput, false))
      if (failed[0]) throw new Refusal(failed[0].told)
    })
  }

  /** Lets only the source of a cell sound and goes there; one that another microphone has heard is passed over. */
  function goTo() {
    const stands = sets.facts.walks ? undefined : view.cell?.position
    let sounding = ''
    return async (cell: SweepCell): Promise<SweepEvent> => {
      if (isDone(cell)) return { type: 'skip' }
      const wanted = JSON.stringify([cell.source, cell.only])
      if (wanted !== sounding) await solo.only(cell.only ? [cell.only] : site.outputs(cell.source))
      sounding = wanted
      view.cell = { source: cell.source, position: stands ?? cell.position }
      return openInput(cell)
    }
  }
  /** What went wrong in the last round. */
  const failures = shallowRef<readonly Message[]>([])
  const wasEnded = ref(false)
  /** A round over cells as they stand, with the others muted meanwhile; says what came of it. */
  const sweepCells = (cells: readonly SweepCell[]) =>
    guarded(sweepRound(cells, plan.value.level, true), async () => {
      if (!cells.length) return say('info', message('sweep.allFresh'))
      isSingle.value = false
      failures.value = []
      await solo.begin(phrase('sound.sweepAll'))
      try {
        const { failed, status } = await run(stepsOf(goTo(), true))
        wasEnded.value = status === 'ended'
        const told = failed.map(f => message('sweep.failed', { cell: nameOf(f.cell), why: f.told }))
        failures.value = told
        if (!wasEnded.value) tellRound(cells.length, told)
      }
      finally {
        await solo.end()
        say('info', message('sweep.restored'))
      }
    })
  function tellRound(cells: number, failed: readonly Message[]) {
    const [first] = failed
    if (!first) return say('info', message('sweep.allSwept', { cells }))
    const [swept, more] = [cells - failed.length, failed.length - 1]
    say('warn', message('sweep.someSwept', { swept, cells, first, more }))
  }
  const sweepAll = () => sweepCells([...todo.value])
  /** Sweeps each source alone at these positions, all microphones hearing: what failed, and whether it was ended. */
  async function sweepAt(positions: readonly string[]): Promise<{ ended: boolean, failed: readonly Message[] }> {
    failures.value = []
    wasEnded.value = false
    const cells = cellsAt(positions)
    if (cells.length) await sweepCells(cells)
    return { ended: wasEnded.value, failed: failures.value }
  }

  const stop = () => {
    tell({ type: 'end' })
    recorder.end()
  }
  watch(() => listen.hushed, stop)

  const state = computed(() => {
    if (!now.value) return 'idle'
    return ['recording', 'keeping'].includes(now.value.status) ? 'sweeping' : 'checking'
  })
  const round = computed(() => {
    const cell = now.value?.cells[now.value.at]
    return isSingle.value || !now.value || !cell
      ? null
      : { at: now.value.at + 1, of: now.value.cells.length, name: nameOf(cell) }
  })
  watch(state, (s) => {
    listen.sweeping = s !== 'idle'
  }, { flush: 'sync' })
  watch([state, round], () => {
    const at = round.value ? ` ${round.value.at} of ${round.value.of}` : ''
    const each = plan.value.seconds * plan.value.repeats + tailOf()
    listen.doing = now.value ? { what: `sweep${at}`, left: sweepLeft(now.value, each) } : null
  })
  const part = computed(() => now.value?.part ?? 0)
  return { tailOf, plan, alone, state, done: part, round, last, todo, one, sweepAll, cellsAt, at: sweepAt, stop }
})
