import { useEventListener, useThrottleFn } from '@vueuse/core'
import type { TakeHead } from '~~/core/contract'
import type { Take } from '~~/core/documents'
import { onGrid, standardGrid, type Curve } from '~~/core/dsp'
import { decodeTake, encodeTake, type TakeData } from '~~/core/formats/take'
import { ask, askBytes, patiently } from './api'
import { useSite } from './site'
import { useView } from './view'
import { useNotices } from '~/parts/notices'
import { message } from '~~/core/words'

/** Milliseconds in which takes that are read are shown together. */
const together = 250
/** Takes that are read at once for computations: the browser asks one server six things at a time. */
const mostBehind = 3

/** A take as it is sent: length of the head (uint32, little-endian), the head, the take's bytes. */
function bodyOf(head: TakeHead, kept: TakeData): Blob {
  const json = new TextEncoder().encode(JSON.stringify(head))
  const size = new Uint8Array(4)
  new DataView(size.buffer).setUint32(0, json.length, true)
  return new Blob([size, json, encodeTake(kept)])
}

/** What takes hold: read when it is first wanted, and sent until the server has it; `kept` hears of that. */
export function useTakeData(kept: (take: Take, measured: Curve) => void) {
  const site = useSite()
  const view = useView()
  const notices = useNotices()
  const data = shallowRef<Record<string, TakeData>>({})
  const asked = new Set<string>()
  const arrived = new Map<string, TakeData>()
  /** The first at once, and what comes close behind it together: much is worked out anew from all takes. */
  const show = useThrottleFn(() => {
    data.value = { ...data.value, ...Object.fromEntries(arrived) }
    arrived.clear()
  }, together, true)
  /** How many takes are here only, because the server is away. */
  const waiting = ref(0)
  useEventListener(window, 'beforeunload', (event) => {
    if (waiting.value) event.preventDefault()
  })

  async function read(id: string) {
    const [of, at] = [site.id, site.path(`/takes/${id}/data`)]
    try {
      const bytes = await patiently(() => askBytes(at), () => site.id === of)
      if (!bytes) {
        asked.delete(id)
        return
      }
      const found = decodeTake(bytes)
      arrived.set(id, { ...found, curve: onGrid(found.curve, standardGrid) })
      void show()
    }
    catch (error) {
      asked.delete(id)
      notices.fail(error)
    }
  }
  function load(id: string) {
    if (asked.has(id)) return
    asked.add(id)
    void read(id)
  }
  /** What only computations want, some at a time: what somebody looks at does not wait behind all of it. */
  const laterOnes = new Map<string, string | null>()
  let reading = 0
  function loadLater(id: string) {
    if (asked.has(id)) return
    laterOnes.set(id, site.id)
    readOn()
  }
  function readOn() {
    for (const [id, of] of laterOnes) {
      if (reading >= mostBehind) return
      laterOnes.delete(id)
      // another site was opened meanwhile, or none: nobody wants it any more
      if (asked.has(id) || of !== site.id) continue
      asked.add(id)
      reading++
      void read(id).finally(() => {
        reading--
        readOn()
      })
    }
  }

  /** Stores a take, in the picked cell unless the head names another. */
  async function store(
    taken: TakeData,
    head: Omit<TakeHead, 'id' | 'source' | 'position'> & Partial<TakeHead>,
  ): Promise<Take | null> {
    const source = head.source ?? view.cell?.source
    const position = head.position ?? view.cell?.position
    if (!source || !position) {
      notices.say('warn', message('take.noCell'))
      return null
    }
    const [of, at] = [site.id, site.path('/takes')]
    const id = crypto.randomUUID()
    const bytes = bodyOf({ ...head, id, source, position }, taken)
    let late = false
    const away = (who: string) => {
      if (!late) {
        waiting.value++
        notices.say('warn', message('take.waits', { why: who }), { about: `waiting ${id}` })
      }
      return (late = true)
    }
    try {
      const take = await patiently(() => ask<Take>(at, { method: 'POST', bytes }), away)
      if (take && site.id === of) kept(take, taken.curve)
      return take
    }
    catch (error) {
      notices.fail(error)
      return null
    }
    finally {
      if (late) waiting.value--
      notices.over(`waiting ${id}`)
    }
  }
  return { data, load, loadLater, store, waiting }
}
