import type { ComputedRef } from 'vue'
import { allOf, contentOf, draftOf, nameIn, rigOf } from '~~/core/documents'
import type { Contents, DocumentKindId, Documents, LinkState } from '~~/core/documents'
import { differences, outputsOf, routeSounds, routeTo, testFeed } from '~~/core/rig'
import type { Difference, Endpoint, Settings } from '~~/core/rig'

/** A list that stays the same object while its items do: what is computed from it is not computed anew. */
function stableList<T>(get: () => T[]) {
  return computed<T[]>((old) => {
    const next = get()
    return old && old.length === next.length && next.every((item, k) => item === old[k]) ? old : next
  })
}

/** What the open site's documents say: its lists, its devices and what they hold, and who is fed. */
export function useSiteView(documents: ComputedRef<Documents>) {
  const list = <K extends DocumentKindId>(kind: K) => stableList<Contents[K]>(() => allOf(documents.value, kind))
  const areas = list('area')
  const sources = list('source')
  const positions = list('position')
  const sheets = list('sheet')
  const devices = list('device')
  const takes = list('take')
  const targets = list('target')
  const groups = list('group')
  const alternatives = list('alternative')
  const info = computed(() => contentOf(documents.value, 'site'))
  const name = computed(() => info.value?.name ?? '')
  const plan = computed(() => contentOf(documents.value, 'plan')!)
  const wiring = computed(() => contentOf(documents.value, 'wiring')!)
  const deviceOf = (key: string) => contentOf(documents.value, 'device', key)
  const sourceOf = (key: string | undefined) =>
    key === undefined ? undefined : contentOf(documents.value, 'source', key)
  const positionOf = (key: string | undefined) =>
    key === undefined ? undefined : contentOf(documents.value, 'position', key)
  const linkOf = (device: string): LinkState =>
    contentOf(documents.value, 'link', device) ?? {
      state: 'searching',
      why: 'It has no link',
      since: '',
      misfits: [],
      unknown: [],
    }
  const deviceName = (device: string) => nameIn(documents.value, 'device', device)
  const sourceName = (source: string) => nameIn(documents.value, 'source', source)
  const sheetOf = (key: string) => contentOf(documents.value, 'sheet', key)

  const heldRig = computed(() => rigOf(documents.value, 'held'))
  const draftRig = computed(() => rigOf(documents.value, 'draft'))
  const draft = (device: string): Settings => draftOf(documents.value, device)
  const held = (device: string): Settings | null => contentOf(documents.value, 'held', device) ?? null
  const unsentKept = new WeakMap<Settings, { to: Settings, list: Difference[] }>()
  const unsentOf = (device: string): Difference[] => {
    const from = held(device)
    const to = draft(device)
    if (!from || from === to) return []
    const before = unsentKept.get(from)
    if (before?.to === to) return before.list
    const list = differences(deviceOf(device)!.capability, from, to)
    unsentKept.set(from, { to, list })
    return list
  }
  const unsent = computed(() => Object.fromEntries(devices.value.map(d => [d.id, unsentOf(d.id)])))
  const unsentCount = computed(() => Object.values(unsent.value).reduce((n, l) => n + l.length, 0))
  const outputs = (sourceId: string): Endpoint[] => outputsOf(wiring.value, sourceId)
  /** Where a feed enters the rig; Kovrin's own unless another is named. */
  const feedFrom = (feed: string = testFeed): Endpoint | undefined => wiring.value.feeds[feed]?.from
  /** Whether a feed reaches a source through what its devices hold. */
  const isFed = (sourceId: string, feed: string = testFeed) => {
    const from = feedFrom(feed)
    return (
      from !== undefined
      && outputs(sourceId).some((to) => {
        const route = routeTo(heldRig.value, from, to)
        return route !== null && routeSounds(heldRig.value, route)
      })
    )
  }
  const fedSources = computed(
    () => new Set(sources.value.filter(s => isFed(s.id)).map(s => s.id)),
  )

  return {
    info, name, plan, wiring, areas, sources, positions, sheets, devices, takes, targets, groups, alternatives,
    deviceOf, deviceName, sourceOf, sourceName, positionOf, sheetOf, linkOf,
    heldRig, draftRig, draft, held, unsent, unsentCount,
    outputs, feedFrom, isFed,
    /** Whether the test signal reaches a source through what its devices hold. */
    fed: (sourceId: string) => fedSources.value.has(sourceId),
  }
}
