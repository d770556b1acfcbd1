import { until } from '@vueuse/core'
import { defineStore } from 'pinia'
import { pathMap, testFeed } from '~~/core/rig'
import {
  figuresWith,
  resting,
  settingsOf,
  unattendedAfter,
  visitingOrder,
  type Figures,
  type Proposal,
  type TuneJob,
  type UnattendedEvent,
} from '~~/core/tune'
import { message, refusal } from '~~/core/words'
import { useAgreement } from '~/document/agreement'
import { useHeard } from '~/document/heard'
import { useSite } from '~/document/site'
import { createTuning } from '~/document/tuning'
import { useActs } from '~/document/useActs'
import { useView } from '~/document/view'
import { useNotices } from '~/parts/notices'
import { useListen } from '~/sound/listen'
import { useSets } from '~/sound/sets'
import { useSweep } from '~/sound/sweepStore'
import { phrase } from '~/parts/phrase'

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
  const now = shallowRef(resting)
  const tell = (event: UnattendedEvent) => {
    now.value = unattendedAfter(now.value, event)
  }
  /** The job that was computed with, so that what is accepted is what was shown. */
  const job = shallowRef<TuneJob | null>(null)

  const engine = createTuning({
    part: (part, what) => tell({ type: 'progress', part, what }),
    tuning: tuning => tell({ type: 'proposed', tuning }),
    failed: (why) => {
      notices.say('error', message('run.noProposal', { why }))
      tell({ type: 'end' })
    },
  })

  /** Positions where a microphone of the set stands for good. */
  const standing = () => sets.able.flatMap(m => m.position ?? [])
  const visits = () =>
    visitingOrder(site.positions, {
      fixed: standing(),
      walking: sets.able.some(m => m.position === null),
      here: view.cell?.position,
      isNeeded: position => sweep.cellsAt([position]).length > 0,
    })

  /** Sweeps each source alone at the position that is visited. */
  async function measure(position: string) {
    view.cell = { source: view.cell?.source ?? site.sources[0]!.id, position }
    const { ended, failed } = await sweep.at([position, ...standing()])
    tell(ended ? { type: 'end' } : { type: 'measured', failed })
  }
  /** Goes on as far as it goes without a person; what does not belong to the status begins nothing. */
  async function goOn(event: UnattendedEvent) {
    const before = now.value
    tell(event)
    if (now.value === before) return
    try {
      while (now.value.status === 'measuring') await measure(now.value.visits[now.value.at]!)
      if (now.value.status === 'computing') await compute()
    }
    catch (error) {
      notices.fail(error)
      stop()
    }
  }
  /** Names of devices on the way to the sources that are not in step: no sweep would get there. */
  function awayDevices(): string[] {
    const from = site.feedFrom(testFeed)
    if (!from || !sets.facts.inRig) return []
    const outputs = site.sources.flatMap(s => site.outputs(s.id))
    const needed = new Set(outputs.flatMap(to => pathMap(site.confirmedRig, from, to).devices))
    return [...needed].filter(id => site.linkOf(id).state !== 'live').map(site.deviceName)
  }
  async function start() {
    if (!['idle', 'proposals'].includes(now.value.status) || !listen.mayStart()) return
    const away = awayDevices()
    if (away.length) {
      const [are, them] = away.length === 1 ? ['is', 'it'] : ['are', 'them']
      const why = phrase('run.notInSyncConnect', { away: away.join(', '), are, them })
      notices.say('warn', message('run.notStarted', { why }))
      return
    }
    const sound = await agreement.ask(
      phrase('run.eachSourceWillPlay', { level: sweep.plan.level }), phrase('run.start'))
    if (!sound) return
    await goOn({ type: 'start', visits: visits(), here: view.cell?.position ?? null })
  }
  /** Proposals from what is measured. */
  async function compute() {
    await until(() => heard.complete).toBe(true)
    if (now.value.status !== 'computing') return
    job.value = heard.job
    if (!job.value) throw refusal('rig.noFeed')
    engine.ask(job.value)
  }
  function stop() {
    engine.stop()
    sweep.stop()
    tell({ type: 'end' })
  }
  const tuning = computed(() => now.value.tuning)
  const chosen = computed<Proposal[]>(() =>
    tuning.value?.proposals.filter(p => !now.value.left.includes(p.id)) ?? [])
  /** The whole with what is chosen. */
  const after = computed<Figures | null>(() => {
    if (!job.value || !tuning.value) return null
    if (!now.value.left.length) return tuning.value.after
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
      const edits = settingsOf({ ...job.value!, rig: site.desiredRig }, chosen.value)
      const count = chosen.value.length
      const words = phrase('run.proposalIsSetSetting', { count, edits: edits.length })
      if (await make(edits, words)) tell({ type: 'settled' })
    }
    catch (error) { notices.fail(error) }
  }
  return {
    state: computed(() => now.value.status),
    /** Where the microphone is to be put. */
    moveTo: computed(() => (now.value.status === 'moving' ? now.value.visits[now.value.at] : undefined)),
    part: computed(() => now.value.part),
    what: computed(() => now.value.what),
    tuning,
    left: computed(() => now.value.left),
    chosen,
    after,
    start,
    stop,
    accept,
    /** The microphone stands where it was asked to. */
    moved: () => void goOn({ type: 'moved' }),
    dismiss: () => tell({ type: 'settled' }),
    toggle: (proposal: string) => tell({ type: 'toggle', proposal }),
  }
})
