import { until } from '@vueuse/core'
import { defineStore } from 'pinia'
import { pathMap, testFeed } from '~~/core/rig'
import { figuresWith, settingsOf, type Figures, type Proposal, type TuneJob, type Tuning } from '~~/core/tune'
import { createTuning } from '~/document/tuning'
import { useActs } from '~/document/useActs'
import { counted } from '~~/core/units'
import { useAgreement } from '~/document/agreement'
import { useHeard } from '~/document/heard'
import { useSite } from '~/document/site'
import { useView } from '~/document/view'
import { useNotices } from '~/parts/notices'
import { useListen } from '~/sound/listen'
import { useSets } from '~/sound/sets'
import { useSweep } from '~/sound/sweep'
import { refusal } from '~~/core/words'

/** Where the work that runs by itself stands: it waits for a person to move a microphone, and for nothing else. */
export type RunState = 'idle' | 'sweeping' | 'move' | 'thinking' | 'proposals'

/** Does the run sheet as far as it goes without a person: measures, computes, proposes; sets nothing by itself. */
export const useRun = defineStore('run', () => {
  const site = useSite()
  const sweep = useSweep()
  const listen = useListen()
  const sets = useSets()
  const view = useView()
  const heard = useHeard()
  const notices = useNotices()
  const agreement = useAgreement()
  const { make } = useActs()
  const state = ref<RunState>('idle')
  const moveTo = ref<string | null>(null)
  const part = ref(0)
  const what = ref('')
  const tuning = shallowRef<Tuning | null>(null)
  /** The job that was computed with, so that what is accepted is what was shown. */
  const job = shallowRef<TuneJob | null>(null)
  const left = ref<string[]>([])
  /** What could not be measured, in words. */
  const silent: string[] = []
  let goOn: ((is: boolean) => void) | null = null

  const engine = createTuning({
    part: (p, w) => {
      part.value = p
      what.value = w
    },
    tuning: (found) => {
      tuning.value = { ...found, notes: [...found.notes, ...silent] }
      state.value = 'proposals'
    },
    failed: (why) => {
      notices.say('error', `Nothing could be proposed: ${why}`)
      state.value = 'idle'
    },
  })

  /** Positions where a microphone of the set stands for good. */
  const standing = () => sets.able.flatMap(m => m.position ?? [])
  /** Where a microphone must be put in turn; those that stand are heard from the first on. */
  const visits = () => {
    const counted = site.positions.filter(p => p.weight > 0).map(p => p.id)
    const walking = sets.able.some(m => m.position === null)
    const fixed = standing()
    const to = counted.filter(p => !fixed.includes(p) && needed(p))
    // it begins where it stands
    const here = view.cell?.position
    const order = to.toSorted((a, b) => Number(b === here) - Number(a === here))
    if (walking) return order.length || !fixed.some(needed) ? order : [fixed.find(needed)!]
    return fixed.filter(p => counted.includes(p)).slice(0, 1)
  }
  const needed = (position: string) => sweep.cellsAt([position]).length > 0
  const waitForMove = (position: string) => {
    moveTo.value = position
    state.value = 'move'
    return new Promise<boolean>((resolve) => {
      goOn = resolve
    })
  }

  /** Sweeps each source alone at every position; false when a person ended it. */
  async function measureAll(): Promise<boolean> {
    for (const [n, position] of visits().entries()) {
      // where it stands at first is where the person put it
      const moved = n > 0 || (view.cell !== null && view.cell.position !== position)
      if (moved && !(await waitForMove(position))) return false
      state.value = 'sweeping'
      view.cell = { source: view.cell?.source ?? site.sources[0]!.id, position }
      const { ended, failed } = await sweep.at([position, ...standing()])
      silent.push(...failed)
      if (ended) return false
    }
    return true
  }
  /** Names of devices on the way to the sources that are not in step: no sweep would get there. */
  function awayDevices(): string[] {
    const from = site.feedFrom(testFeed)
    if (!from || !sets.facts.inRig) return []
    const outputs = site.sources.flatMap(s => site.outputs(s.id))
    const needed = new Set(outputs.flatMap(to => pathMap(site.heldRig, from, to).devices))
    return [...needed].filter(id => site.linkOf(id).state !== 'live').map(site.deviceName)
  }
  async function start() {
    if (state.value !== 'idle' && state.value !== 'proposals') return
    if (!listen.mayStart()) return
    const away = awayDevices()
    if (away.length) {
      const [are, them] = away.length === 1 ? ['is', 'it'] : ['are', 'them']
      const why = `${away.join(', ')} ${are} not in sync. Connect ${them} in Rig, then start again.`
      notices.say('warn', `Not started: ${why}`)
      return
    }
    const sound = await agreement.ask(
      `Each source will play sweeps by itself at ${sweep.plan.level} dBFS, the others muted meanwhile.`
      + ' Is everybody out of the way?', 'Start')
    if (!sound) return
    tuning.value = null
    left.value = []
    silent.length = 0
    try {
      if (!(await measureAll())) return stop()
      await compute()
    }
    catch (error) {
      notices.fail(error)
      stop()
    }
  }
  /** Proposals from what is measured already. */
  async function compute() {
    state.value = 'thinking'
    part.value = 0
    what.value = 'the takes'
    await until(() => heard.complete).toBe(true)
    job.value = heard.job
    if (!job.value) throw refusal('rig.noFeed')
    engine.ask(job.value)
  }
  function stop() {
    engine.stop()
    sweep.stop()
    goOn?.(false)
    goOn = null
    state.value = tuning.value ? 'proposals' : 'idle'
  }
  const chosen = computed<Proposal[]>(() =>
    tuning.value?.proposals.filter(p => !left.value.includes(p.id)) ?? [])
  /** The whole with what is chosen. */
  const after = computed<Figures | null>(() => {
    if (!job.value || !tuning.value) return null
    if (!left.value.length) return tuning.value.after
    try {
      return figuresWith(job.value, chosen.value)
    }
    catch (error) {
      if (error instanceof RangeError) return null // said when it is set
      throw error
    }
  })
  async function accept() {
    try {
      const edits = settingsOf({ ...job.value!, rig: site.draftRig }, chosen.value)
      const count = chosen.value.length
      const words = `${counted(count, 'proposal is', 'proposals are')} set, ${counted(edits.length, 'setting')} in all.`
      if (!(await make(edits, words))) return
      tuning.value = null
      state.value = 'idle'
    }
    catch (error) { notices.fail(error) }
  }
  return {
    state, moveTo, part, what, tuning, left, chosen, after,
    start, stop, accept,
    /** The microphone stands where it was asked to. */
    moved: () => {
      goOn?.(true)
      goOn = null
    },
    think: () => compute().catch((error: unknown) => {
      notices.fail(error)
      state.value = 'idle'
    }),
    dismiss: () => {
      tuning.value = null
      state.value = 'idle'
    },
    toggle: (id: string) => {
      left.value = left.value.includes(id) ? left.value.filter(x => x !== id) : [...left.value, id]
    },
  }
})
