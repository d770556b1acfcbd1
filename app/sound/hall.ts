import { useLocalStorage } from '@vueuse/core'
import { defineStore } from 'pinia'
import { usualOrder, type BackgroundId, microphoneTaps, simulatedTaps } from '~~/standins/venue/offers'
import { faultsOf } from '~~/standins/ropewalk/site'
import type { Rig } from '~~/core/rig'
import type { Hall } from '~~/standins/venue/venue'
import { VenueAnswer, type VenueRequest } from '~~/standins/venue/messages'
import { hearFrom } from '~/workers/line'
import { useSite } from '~/document/site'
import { useNotices } from '~/parts/notices'
import { useInputs } from './inputs'
import { useSets } from './sets'
import { message, wordsOf } from '~~/core/words'

/** A change that the hall was asked for: the rig with it, and whether nothing but the rig is another. */
export interface Asked {
  rig: Rig
  alone: boolean
}

/**
 * The simulated interface in the simulated hall: opened into a ring like any other input, and told what goes on
 * there.
 */
export const useHall = defineStore('hall', () => {
  const site = useSite()
  const sets = useSets()
  const inputs = useInputs()
  const notices = useNotices()
  /** What goes on beside the loudspeakers, and whether the evening passes. */
  const background = ref<BackgroundId>('empty')
  const evening = ref(false)
  const reflections = ref(usualOrder)
  /** True while the simulated console plays music into the rig. */
  const programme = ref(false)
  /** The interface's output (from 0) that Kovrin's own signal leaves by. */
  const output = ref(0)
  /** Seconds of the hall to one of ours: what is practised or tested need not wait for real time. */
  const speed = useLocalStorage('kovrin-hall-speed', 1)
  /** dB that every limiter that is on takes away now, by its device and strip. */
  const reductions = shallowRef<Record<string, number>>({})
  let venue: Worker | null = null
  /** Changes that are not heard yet, in order. */
  let asked: Asked[] = []
  const tell = (request: VenueRequest) => venue?.postMessage(request)
  const plain = <T>(value: T): T => JSON.parse(JSON.stringify(value)) as T

  /**
   * Where the microphones stand: where their own measurement says, or as a reference beside the other; one that
   * nothing is measured with stands nowhere.
   */
  const places = computed(() =>
    plain(
      microphoneTaps.map((tap) => {
        const m = sets.able.find(x => x.microphone === tap) ?? sets.able.find(x => x.reference === tap)
        return m ? (sets.placeOf(m)?.place ?? null) : null
      }),
    ),
  )
  const gains = computed(() => simulatedTaps.map(tap => inputs.channelOf(tap).gain))

  const described = (): Hall =>
    plain({ plan: site.plan, sources: site.sources, sheets: site.sheets, faults: faultsOf(site.info) })
  const rigNow = () => plain({ devices: site.confirmedRig.devices, wiring: site.wiring })

  /**
   * Opens the hall: `use` gets its ring; `heard` hears of every change that has become sound, and of how many
   * frames hold it already.
   */
  function open(
    use: (buffer: SharedArrayBuffer) => void,
    heard: (ago: number, moved: boolean, asked: Asked) => void,
  ) {
    close()
    venue = new Worker(new URL('../workers/venue.worker.ts', import.meta.url), { type: 'module' })
    const fail = (why: string) => notices.say('error', message('hall.stopped', { why }))
    const hear = (answer: VenueAnswer) => {
      if (answer.type === 'ring') use(answer.buffer)
      else if (answer.type === 'limiting') reductions.value = answer.reductions
      else if (answer.type === 'heard') {
        const { rig, alone } = asked.shift() ?? { rig: rigNow(), alone: false }
        heard(answer.ago, answer.moved, { rig, alone })
      }
      else {
        asked = [] // what failed will not be heard: which rig sounds is no longer known
        fail(wordsOf(answer.why))
      }
    }
    hearFrom(venue, VenueAnswer, hear, fail)
    asked = []
    tell({ type: 'open', hall: described(), rig: rigNow(), microphones: places.value })
    tell({ type: 'clock', speed: speed.value })
    tell({ type: 'background', id: background.value })
    tell({ type: 'evening', on: evening.value })
    tellReflections(reflections.value)
    tell({ type: 'programme', on: programme.value })
    tell({ type: 'output', channel: output.value })
    tell({ type: 'gains', gains: gains.value })
    tellHeld()
  }
  /** Asks for a change that will be heard. */
  function ask(request: VenueRequest) {
    if (venue) asked.push({ rig: 'rig' in request ? request.rig : rigNow(), alone: request.type === 'holds' })
    tell(request)
  }
  const tellHeld = () => ask({ type: 'holds', rig: rigNow() })
  const tellReflections = (order: number) => ask({ type: 'reflections', order })
  function close() {
    venue?.terminate()
    venue = null
    reductions.value = {}
  }

  site.onPlan(() => ask({ type: 'replan', hall: described(), rig: rigNow(), microphones: places.value }))
  site.onHeld(tellHeld)
  watch(speed, now => tell({ type: 'clock', speed: now }))
  watch(background, id => tell({ type: 'background', id }))
  watch(reflections, tellReflections)
  watch(evening, on => tell({ type: 'evening', on }))
  watch(programme, on => tell({ type: 'programme', on }))
  watch(output, channel => tell({ type: 'output', channel }))
  watch(gains, now => tell({ type: 'gains', gains: now }))
  return {
    background,
    evening,
    reflections,
    programme,
    speed,
    output,
    reductions,
    places,
    open,
    close,
    tell,
    move: () => ask({ type: 'move', microphones: places.value }),
  }
})
