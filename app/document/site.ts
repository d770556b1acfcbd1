import { defineStore } from 'pinia'
import type { EditsAnswer, SendAnswer, SiteAnswer, UndoAnswer } from '~~/core/contract'
import {
  allOf,
  contentOf,
  draftOf,
  planEdits,
  rigOf,
  shown,
  splitKey,
  type Change,
  type Contents,
  type DocumentKindId,
  type Documents,
  type LinkState,
  type Mirror,
  type Pending,
} from '~~/core/documents'
import {
  differences,
  holdParameter,
  outputsOf,
  parametersOf,
  routeSounds,
  routeTo,
  testFeed,
  valueAt,
  type Difference,
  type Endpoint,
  type ParameterPath,
  type Settings,
} from '~~/core/rig'
import { equal } from '~~/core/units'
import { ask, personKey, Refusal } from '~/utils/api'
import { createEditor, refusalWords, type EditOptions, type Wish } from './editor'
import { createLine } from './live'

/** Steps of one field within so long are one gesture: a knob turned, an arrow key held down. */
const oneGesture = 2000

/** A list that stays the same object while its items do: what is computed from it is not computed anew. */
function stableList<T>(get: () => T[]) {
  return computed<T[]>((old) => {
    const next = get()
    return old && old.length === next.length && next.every((item, k) => item === old[k]) ? old : next
  })
}

/** The open site as the server has it, kept in step over one line; every change goes through here. */
export const useSite = defineStore('site', () => {
  const notices = useNotices()
  const id = ref<string | null>(null)
  const missing = ref<string | null>(null)
  /** True while the page is in step with the server. */
  const connected = ref(false)
  const live = ref(true)
  const mirror = shallowRef<Mirror | null>(null)
  const pending = shallowRef<readonly Pending[]>([])
  /** The documents as they are shown: the server's with this page's own edits that are still on their way. */
  const documents = computed<Documents>(() => (mirror.value ? shown(mirror.value.documents, pending.value) : {}))
  const listeners = new Set<(changes: readonly Change[]) => void>()
  let line: ReturnType<typeof createLine> | null = null

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
  const open = computed(() => (mirror.value && id.value ? { id: id.value, name: name.value } : null))

  const path = (rest = '') => `/api/sites/${encodeURIComponent(id.value!)}${rest}`
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
    }
  const deviceName = (device: string) => deviceOf(device)?.name ?? device
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
  /** Number of the newest change that this page knows. */
  const number = computed(() => mirror.value?.number ?? 0)

  function sayLinks(changes: readonly Change[], before: Documents) {
    for (const { document } of changes.filter(c => c.document.startsWith('link/'))) {
      const device = splitKey(document)!.id
      const was = contentOf(before, 'link', device)?.state
      const now = linkOf(device)
      if (now.state === 'lost' && was !== 'lost') {
        notices.say(
          'warn',
          `${deviceName(device)} is lost: ${now.why}. Its settings are kept; Kovrin goes on looking for it.`,
          { about: `lost ${device}` },
        )
      }
      if (now.state === 'live') notices.over(`lost ${device}`)
      if (now.state === 'live' && was && was !== 'live')
        notices.say('info', `${deviceName(device)} is connected and in step.`)
      if (now.misfits.length && !equal(now.misfits, contentOf(before, 'link', device)?.misfits)) {
        notices.say(
          'warn',
          `${deviceName(device)} no longer takes all of its draft: ${now.misfits.slice(0, 3).join(' ')}`,
        )
      }
    }
  }
  /** Who made what it is now, where somebody else did; by document and path. */
  const lastBy = new Map<string, string>()
  const byOf = (document: string, path: string) => lastBy.get(`${document} ${path}`) ?? null
  function taken(changes: readonly Change[], before: Documents) {
    for (const c of changes) {
      if (c.person === personKey()) lastBy.delete(`${c.document} ${c.path}`)
      else lastBy.set(`${c.document} ${c.path}`, c.who)
    }
    mirror.value = line!.mirror
    sayLinks(changes, before)
    for (const listener of listeners) listener(changes)
  }

  async function read(key: string): Promise<SiteAnswer | null> {
    try {
      return await ask<SiteAnswer>(`/api/sites/${encodeURIComponent(key)}`)
    }
    catch (error) {
      if (error instanceof Refusal && error.status === 404) missing.value = error.message
      else notices.fail(error)
      return null
    }
  }
  async function openSite(key: string) {
    missing.value = null
    const found = await read(key)
    if (!found) return
    id.value = key
    mirror.value = { number: found.number, documents: found.documents }
    line = createLine(key, mirror.value, {
      changed: taken,
      reload: () => void reload(key),
      connected: (is) => {
        connected.value = is
      },
    })
  }
  async function reload(key: string) {
    const found = await read(key)
    if (!found || id.value !== key) return
    mirror.value = { number: found.number, documents: found.documents }
    line?.restart(mirror.value)
    for (const listener of listeners) listener([])
  }
  function close() {
    line?.close()
    line = null
    id.value = null
    mirror.value = null
    connected.value = false
  }

  const editor = createEditor({
    mirror: () => mirror.value,
    show: (next) => {
      pending.value = next
    },
    send: (body) => {
      // what the rules forbid is refused here as the server would, without a trip to it
      const planned = planEdits(mirror.value?.documents ?? {}, body.edits, 'person')
      if (!planned.ok && planned.status === 'refused') throw new Refusal(planned.why, 422, null)
      return ask<EditsAnswer>(path('/changes'), { method: 'POST', body })
    },
    known: (n, changes) => line!.known(n, changes),
    told: ({ why }) => {
      if (why) notices.say('warn', why)
    },
    refused: (error) => {
      const { kind, text } = refusalWords(error)
      notices.say(kind, text)
      line?.follow()
    },
  })

  let lastGesture = { place: '', id: '', at: 0 }
  /** The gesture of an edit: that of the one before, when it goes on with it. */
  function gestureOf(wishes: readonly Wish[]): string {
    const place = wishes.map(w => `${w.document}${w.path}`).join(' ')
    const now = performance.now()
    const same = lastGesture.place === place && now - lastGesture.at < oneGesture
    lastGesture = { place, id: same ? lastGesture.id : crypto.randomUUID(), at: now }
    return lastGesture.id
  }
  /** Changes documents, shown at once; resolves with false when it was refused, with the reason shown. */
  const change = (wishes: readonly Wish[], options: EditOptions = {}): Promise<boolean> =>
    editor.make(wishes, {
      ...options,
      gesture: options.gesture === undefined ? gestureOf(wishes) : options.gesture,
    })

  /** Settings as the device will keep them; the first that it cannot is said, and none is made. */
  function held_(wishes: readonly { device: string, path: ParameterPath, value: unknown }[]): Wish[] | null {
    const kept: Wish[] = []
    for (const { device, path, value } of wishes) {
      const record = deviceOf(device)
      if (!record) return null
      const asHeld = holdParameter(record.capability, path, value)
      if (!asHeld.ok) {
        notices.say('error', asHeld.why)
        return null
      }
      const neutral = parametersOf(record.capability).get(path)!.neutral
      kept.push({
        document: `settings/${device}`,
        path,
        new: equal(neutral, asHeld.value) ? undefined : asHeld.value,
      })
    }
    return kept
  }
  /** Sets one parameter of a device. */
  async function edit(
    device: string,
    p: ParameterPath,
    value: unknown,
    options: EditOptions = {},
  ): Promise<boolean> {
    const record = deviceOf(device)
    const isSame = record && equal(valueAt(record.capability, draft(device), p), value)
    if (isSame && !editor.isPending(`settings/${device}`, p) && options.lease === undefined) return true
    const wishes = held_([{ device, path: p, value }])
    return wishes !== null && change(wishes, { live: live.value, ...options })
  }
  /** Sets several parameters together, of one device or of many. */
  async function editAll(
    settings: readonly { device: string, path: ParameterPath, value: unknown }[],
    options: EditOptions = {},
  ) {
    const byDevice = Map.groupBy(settings, s => s.device)
    const gesture = options.gesture === undefined ? crypto.randomUUID() : options.gesture
    const kept = await Promise.all(
      [...byDevice.values()].map(async (list) => {
        const wishes = held_(list)
        return wishes !== null && change(wishes, { live: live.value, ...options, gesture })
      }),
    )
    return kept.every(Boolean)
  }

  /**
   * Takes back this person's newest change, whatever it was, or makes it again; under Live hands settings go on
   * to the device.
   */
  async function undo(which: 'undo' | 'redo') {
    await editor.idle()
    try {
      const { what, why } = await ask<UndoAnswer>(path(`/${which}`), { method: 'POST', body: { live: live.value } })
      notices.say(why ? 'warn' : 'info', why ? `${what} ${why}` : what)
    }
    catch (error) {
      notices.fail(error)
    }
  }

  /** Sends every unsent edit to its device and says what arrived. */
  async function send() {
    let sent = 0
    const left: string[] = []
    for (const [device, list] of Object.entries(unsent.value)) {
      if (!list.length) continue
      try {
        const report = await ask<SendAnswer>(path(`/devices/${encodeURIComponent(device)}/send`), {
          method: 'POST',
        })
        sent += report.sent.length
        if (report.left.length)
          left.push(`${deviceName(device)}: ${report.left[0]!.why} (${report.left.length} left)`)
      }
      catch (error) {
        left.push(`${deviceName(device)}: ${(error as Error).message}`)
      }
    }
    if (sent) notices.say('info', `${sent} ${sent === 1 ? 'edit' : 'edits'} sent and read back.`)
    if (left.length) notices.say('error', left.join(' '))
  }
  /** Lets every unsent edit go: the drafts become what the devices hold. */
  async function drop() {
    for (const [device, list] of Object.entries(unsent.value)) {
      if (list.length)
        await ask(path(`/devices/${encodeURIComponent(device)}/drop`), { method: 'POST' }).catch(notices.fail)
    }
  }
  /** Says that Kovrin may connect to the address at which a device is said to be. */
  async function confirmAddress(device: string) {
    const body = { address: deviceOf(device)?.address ?? '' }
    const at = path(`/devices/${encodeURIComponent(device)}/confirm`)
    await ask(at, { method: 'POST', body }).catch(notices.fail)
  }
  /** Lets this site drive a device that another one drives now. */
  async function takeOver(device: string) {
    try {
      const { from } = await ask<{ from: string | null }>(
        path(`/devices/${encodeURIComponent(device)}/take-over`),
        { method: 'POST' },
      )
      notices.say(
        'info',
        `${deviceName(device)} is driven from here now${from ? `, no longer from “${from}”` : ''}.`,
      )
    }
    catch (error) {
      notices.fail(error)
    }
  }

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
    () => new Set(mirror.value ? sources.value.filter(s => isFed(s.id)).map(s => s.id) : []),
  )

  const listen = (f: (changes: readonly Change[]) => void) => {
    listeners.add(f)
    return () => listeners.delete(f)
  }
  const drawn = new Set<DocumentKindId>(['plan', 'source', 'position', 'sheet', 'wiring', 'area'])
  const kindIn = (c: Change) => splitKey(c.document)?.kind

  return {
    byOf,
    open,
    id,
    info,
    name,
    missing,
    connected,
    live,
    mirror,
    documents,
    number,
    plan,
    wiring,
    areas,
    sources,
    positions,
    sheets,
    devices,
    takes,
    targets,
    groups,
    alternatives,
    heldRig,
    draftRig,
    draft,
    held,
    unsent,
    unsentCount,
    openSite,
    close,
    change,
    edit,
    editAll,
    wishesFor: held_,
    send,
    drop,
    takeOver,
    confirmAddress,
    path,
    deviceOf,
    deviceName,
    sourceOf,
    positionOf,
    sheetOf,
    linkOf,
    outputs,
    feedFrom,
    isFed,
    undo: () => undo('undo'),
    redo: () => undo('redo'),
    idle: () => editor.idle(),
    /** Whether the test signal reaches a source through what its devices hold. */
    fed: (sourceId: string) => fedSources.value.has(sourceId),
    /** Calls back with every change; none: everything was read anew. Returns how to stop. */
    onChanges: listen,
    /** Calls back whenever what the devices hold, or are thought to hold, is another. */
    onHeld: (f: () => void) =>
      listen((changes) => {
        const isHeld = (c: Change) => {
          const kind = kindIn(c)
          return kind === 'held' || (kind === 'settings' && !held(splitKey(c.document)!.id))
        }
        if (!changes.length || changes.some(isHeld)) f()
      }),
    /** Calls back whenever the plan or the wiring is another. */
    onPlan: (f: () => void) =>
      listen((changes) => {
        if (!changes.length || changes.some(c => drawn.has(kindIn(c)!))) f()
      }),
  }
})
