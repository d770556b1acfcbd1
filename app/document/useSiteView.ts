import type { ComputedRef } from 'vue'
import { allOf, contentOf, draftOf, goneName, rigOf } from '~~/core/documents'
import type { Contents, DocumentKindId, Documents, LinkState } from '~~/core/documents'
import { differences, noHousekeeping, outputsOf, routeSounds, routeTo, testFeed } from '~~/core/rig'
import type { Difference, Endpoint, Housekeeping, Rig, Settings } from '~~/core/rig'
import { phrase } from '~/parts/phrase'

/** A list that stays the same object while its items do: what is computed from it is not computed anew. */
function stableList<T>(get: () => T[]) {
  return computed<T[]>((old) => {
    const next = get()
    return old && old.length === next.length && next.every((item, k) => item === old[k]) ? old : next
  })
}

/** Things by their ids: a new map only when one of them is another. */
const byId = <T extends { id: string }>(list: ComputedRef<T[]>) =>
  computed(() => new Map(list.value.map(item => [item.id, item])))

/** The rig that stays the same object while everything in it does: an edit of a draft leaves what is held alone. */
function stableRig(documents: ComputedRef<Documents>, which: 'held' | 'draft') {
  return computed<Rig>((old) => {
    const next = rigOf(documents.value, which)
    return old && sameRig(old, next) ? old : next
  })
}
function sameRig(a: Rig, b: Rig): boolean {
  const [these, those] = [Object.keys(a.devices), Object.keys(b.devices)]
  return a.wiring === b.wiring && these.length === those.length && these.every((id) => {
    const [one, other] = [a.devices[id], b.devices[id]]
    return one?.capability === other?.capability && one?.settings === other?.settings
  })
}
const noLink: LinkState = {
  state: 'searching',
  why: phrase('document.itHasNoLink'),
  since: '',
  misfits: [],
  unknown: [],
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
  // looked up in lists that stay while their items do: who asks for a name is not told of every edit
  const [devicesById, sourcesById, positionsById, sheetsById]
    = [byId(devices), byId(sources), byId(positions), byId(sheets)]
  const deviceOf = (key: string) => devicesById.value.get(key)
  const sourceOf = (key: string | undefined) => (key === undefined ? undefined : sourcesById.value.get(key))
  const positionOf = (key: string | undefined) => (key === undefined ? undefined : positionsById.value.get(key))
  const links = stableList(() => devices.value.map(d => contentOf(documents.value, 'link', d.id) ?? noLink))
  const linkOf = (device: string): LinkState => links.value[devices.value.findIndex(d => d.id === device)] ?? noLink
  const housekeepingOf = (device: string): Housekeeping =>
    contentOf(documents.value, 'housekeeping', device) ?? noHousekeeping
  const nameOf = (kind: 'device' | 'source', thing: { name: string } | undefined) => thing?.name ?? goneName(kind)
  const deviceName = (device: string) => nameOf('device', deviceOf(device))
  const sourceName = (source: string) => nameOf('source', sourceOf(source))
  const sheetOf = (key: string) => sheetsById.value.get(key)

  const confirmedRig = stableRig(documents, 'held')
  const desiredRig = stableRig(documents, 'draft')
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
        const route = routeTo(confirmedRig.value, from, to)
        return route !== null && routeSounds(confirmedRig.value, route)
      })
    )
  }
  const fedSources = computed(
    () => new Set(sources.value.filter(s => isFed(s.id)).map(s => s.id)),
  )

  return {
    info, name, plan, wiring, areas, sources, positions, sheets, devices, takes, targets, groups, alternatives,
    deviceOf, deviceName, sourceOf, sourceName, positionOf, sheetOf, linkOf, housekeepingOf,
    confirmedRig, desiredRig, draft, held, unsent, unsentCount,
    outputs, feedFrom, isFed,
    /** Whether the test signal reaches a source through what its devices hold. */
    fed: (sourceId: string) => fedSources.value.has(sourceId),
  }
}
