import { defineStore } from 'pinia'
import { useLocalStorage } from '@vueuse/core'
import * as v from 'valibot'
import {
  generatorTap,
  measurementSetSchema,
  setFaults,
  splitTap,
  tapOf,
  twoClocks,
  type Measurement,
  type MeasurementSet,
} from '~~/core/measure'
import { testFeed } from '~~/core/rig'
import { feedOfTap, simulatedInputs, simulatedInterface } from '~~/standins/venue/offers'
import { soundFacts, type SoundFrom } from './soundFacts'
import { useSite } from '~/document/site'
import { useView } from '~/document/view'
import { phrase } from '~/parts/phrase'

const keptSchema = v.object({
  current: v.string(),
  front: v.string(),
  sets: v.pipe(v.array(measurementSetSchema), v.minLength(1)),
})
type Kept = v.InferOutput<typeof keptSchema>
const serializer = {
  read: (text: string): Record<string, Kept> => {
    const read = v.safeParse(v.record(v.string(), keptSchema), JSON.parse(text))
    return read.success ? read.output : {}
  },
  write: JSON.stringify,
}
/** The key of whatever input the computer itself prefers. */
export const defaultInput = 'default'

const fresh = (): string => crypto.randomUUID().slice(0, 8)
const row = (microphone: string, reference: string, position: string | null = null): Measurement => ({
  id: fresh(),
  microphone,
  reference,
  position,
  state: 'on',
})

/**
 * Named sets of measurements, one of them in use; kept per site, and apart for the simulated interface and the
 * computer's own inputs.
 */
export const useSets = defineStore('sets', () => {
  const site = useSite()
  const view = useView()
  const wantedInput = useLocalStorage<SoundFrom>('kovrin-input', 'venue')
  /** The simulated hall plays what simulated devices let through: without any, sound comes from this computer. */
  const input = computed<SoundFrom>({
    get: () => (site.open && !site.devices.length ? 'computer' : wantedInput.value),
    set: (from) => {
      wantedInput.value = from
    },
  })
  const facts = computed(() => soundFacts[input.value])
  const all = useLocalStorage<Record<string, Kept>>('kovrin-sets', {}, { serializer })

  function usual(from: SoundFrom): Kept {
    if (!soundFacts[from].simulated) {
      const one = row(tapOf(defaultInput, 0), tapOf(defaultInput, 1))
      const set = { id: fresh(), name: phrase('sound.atThePickedCell'), measurements: [one] }
      return { current: set.id, front: one.id, sets: [set] }
    }
    const loopback = tapOf(simulatedInterface, 3)
    const mic = (n: number) => tapOf(simulatedInterface, n)
    const places = site.positions ?? []
    const one = row(mic(0), loopback)
    const sets = [{ id: fresh(), name: phrase('sound.atThePickedCell'), measurements: [one] }]
    if (places.length > 2)
      sets.push({
        id: fresh(),
        name: phrase('sound.threeMicrophones'),
        measurements: [row(mic(0), loopback), ...[1, 2].map(n => row(mic(n), loopback, places[n]!.id))],
      })
    return { current: sets[0]!.id, front: one.id, sets }
  }
  const key = computed(() => `${site.id ?? ''}/${input.value}`)
  /** Made once for a site, and kept from the first change on. */
  const begun = new Map<string, Kept>()
  const kept = computed<Kept>({
    get: () =>
      all.value[key.value] ?? begun.get(key.value) ?? begun.set(key.value, usual(input.value)).get(key.value)!,
    set: (next) => {
      all.value = { ...all.value, [key.value]: next }
    },
  })
  const current = computed(() => kept.value.sets.find(s => s.id === kept.value.current) ?? kept.value.sets[0]!)
  const rows = computed(() => current.value.measurements)
  const placeOf = (m: Measurement) => {
    const id = m.position ?? view.cell?.position
    return site.positions.find(p => p.id === id) ?? null
  }
  const faults = computed(() => setFaults(current.value, m => placeOf(m)?.id ?? null))
  /** Those that can be measured; paused ones too. */
  const able = computed(() => rows.value.filter(m => m.state !== 'off' && !faults.value[m.id]))
  const front = computed(() => able.value.find(m => m.id === kept.value.front) ?? able.value[0] ?? null)

  const isSimulated = (m: Measurement) => {
    const at = splitTap(m.reference)
    return at !== null && simulatedInputs.some(i => i.id === at.key)
  }
  /** The feed that a reference hears: a fact of the simulated interface and of Kovrin's own output, else as told. */
  function heardFeed(m: Measurement): string | null {
    if (isSimulated(m)) return feedOfTap(m.reference)
    if (m.hears !== undefined) return m.hears
    return m.reference === generatorTap ? testFeed : null
  }
  /**
   * The feed whose way through the rig says something of what is measured; null where that is not known: real sound
   * does not pass through simulated devices, and a site may have none.
   */
  function feedOf(m: Measurement): string | null {
    if (facts.value.inRig) return heardFeed(m)
    const isReal = site.devices.some(d => d.address && !d.address.startsWith('standin:'))
    return isReal ? heardFeed(m) : null
  }

  const changeSet = (patch: Partial<MeasurementSet>) => {
    kept.value = {
      ...kept.value,
      sets: kept.value.sets.map(s => (s.id === current.value.id ? { ...s, ...patch } : s)),
    }
  }
  const choose = (id: string) => {
    const set = kept.value.sets.find(s => s.id === id)
    if (set) kept.value = { ...kept.value, current: id, front: set.measurements[0]?.id ?? '' }
  }

  return {
    input,
    facts,
    kept,
    current,
    rows,
    faults,
    able,
    front,
    placeOf,
    heardFeed,
    feedOf,
    /** Whether what a reference hears must be told by the user. */
    isTold: (m: Measurement) => !isSimulated(m) && m.reference !== generatorTap,
    /**
     * Whether the two sides of a measurement may run by different clocks; with the computer's own output so may
     * Kovrin's own signal.
     */
    clocks: (m: Measurement) => twoClocks(m) || (!facts.value.oneClock && m.reference === generatorTap),
    choose,
    rename: (name: string) => changeSet({ name }),
    look: (id: string) => {
      kept.value = { ...kept.value, front: id }
    },
    change: (id: string, patch: Partial<Measurement>) =>
      changeSet({ measurements: rows.value.map(m => (m.id === id ? { ...m, ...patch } : m)) }),
    all: (state: 'on' | 'paused') =>
      changeSet({ measurements: rows.value.map(m => (m.state === 'off' ? m : { ...m, state })) }),
    add(microphone: string, reference: string, position: string | null) {
      changeSet({ measurements: [...rows.value, row(microphone, reference, position)] })
    },
    remove: (id: string) => changeSet({ measurements: rows.value.filter(m => m.id !== id) }),
    /** A copy of the set in use, under a name of its own, to go on from. */
    addSet(name: string) {
      const set: MeasurementSet = { id: fresh(), name, measurements: rows.value.map(m => ({ ...m, id: fresh() })) }
      kept.value = {
        ...kept.value,
        sets: [...kept.value.sets, set],
        current: set.id,
        front: set.measurements[0]?.id ?? '',
      }
    },
    removeSet() {
      const before = kept.value
      const rest = before.sets.filter(s => s.id !== current.value.id)
      if (!rest.length) return null
      kept.value = { ...before, sets: rest, current: rest[0]!.id, front: rest[0]!.measurements[0]?.id ?? '' }
      return () => {
        kept.value = before
      }
    },
    /** The sets as they are at first; comes back with what was there. */
    clean() {
      const before = all.value
      begun.delete(key.value)
      all.value = Object.fromEntries(Object.entries(all.value).filter(([k]) => k !== key.value))
      return () => {
        all.value = before
      }
    },
  }
})
