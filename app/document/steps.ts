import { useDebounceFn } from '@vueuse/core'
import { defineStore } from 'pinia'
import type { RunStep } from '~~/core/tune'
import { createTuning } from './tuning'
import { useHeard } from './heard'
import { useSite } from './site'
import { useNotices } from '~/parts/notices'
import { message } from '~~/core/words'

/** How long edits and takes rest before the steps are looked at again. */
const rest = 700

/** The run sheet: the steps of the job as the data have them, looked at again whenever those change. */
export const useSteps = defineStore('steps', () => {
  const site = useSite()
  const heard = useHeard()
  const notices = useNotices()
  const steps = shallowRef<readonly RunStep[]>([])
  const looking = ref(false)
  const tuning = createTuning({
    steps: (found) => {
      steps.value = found
      looking.value = false
    },
    failed: (why) => {
      looking.value = false
      notices.say('warn', message('run.noSheet', { why }), { about: 'run sheet' })
    },
  })
  /** It is kept in step while somebody looks at its progress: see TopRail. */
  function follow() {
    const look = useDebounceFn(() => {
      const { job, facts } = heard
      if (!job || !site.open) return
      looking.value = true
      tuning.ask(job, facts)
    }, rest)
    watch([() => heard.job, () => heard.facts], look, { immediate: true })
    onBeforeUnmount(tuning.stop)
  }
  const done = computed(() => steps.value.filter(s => s.state === 'done').length)
  const counted = computed(() => steps.value.filter(s => s.state !== 'skipped').length)
  const next = computed(() => steps.value.find(s => s.state === 'open' || s.state === 'stale') ?? null)
  /** Leaves a step out on purpose, or takes it up again. */
  function skip(id: string, is: boolean) {
    const before = site.info?.skipped ?? []
    const skipped = is ? [...before.filter(s => s !== id), id] : before.filter(s => s !== id)
    return site.change([{ document: 'site', path: '/skipped', new: skipped }], { live: false })
  }
  return { steps, looking, follow, done, counted, next, skip }
})
