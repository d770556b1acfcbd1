import { defineStore } from 'pinia'
import type { EditsAnswer, PageMessage, SiteAnswer } from '~~/core/contract'
import { allOf, contentOf, planEdits, shown, splitKey } from '~~/core/documents'
import type {
  Change, DeliveryOptions, DesiredEdit, DocumentKindId, Documents, Mirror, Pending,
} from '~~/core/documents'
import { holdParameter, parametersOf, valueAt, type ParameterPath } from '~~/core/rig'
import { equal } from '~~/core/units'
import { ask, patiently, personKey, AnswerRefusal } from './api'
import { NotAgreed, useAgreement } from './agreement'
import { createEditor, refusalTold } from './editor'
import { createLine, type LineEvents } from './eventLine'
import { useSiteActs } from './useSiteActs'
import { useSiteView } from './useSiteView'
import { useSnapshots } from './snapshots'
import { useNotices } from '~/parts/notices'
import { inWords, message } from '~~/core/words'

/** Steps of one field within so long are one gesture: a knob turned, an arrow key held down. */
const oneGesture = 2000

type SoundEvents = Pick<LineEvents, 'hush' | 'word' | 'other'>

/** The open site as the server has it, kept in step over one line; every change goes through here. */
export const useSite = defineStore('site', () => {
  const notices = useNotices()
  const agreement = useAgreement()
  const snapshots = useSnapshots()
  const id = ref<string | null>(null)
  const missing = ref<string | null>(null)
  /** Who is away, so that the site cannot be read now; it is asked for again. */
  const trouble = ref<string | null>(null)
  /** The site that this page is to show. */
  let wanted: string | null = null
  /** True while the page is in step with the server. */
  const connected = ref(false)
  const live = ref(true)
  const mirror = shallowRef<Mirror | null>(null)
  const pending = shallowRef<readonly Pending[]>([])
  /** The documents as they are shown: the server's with this page's own edits that are still on their way. */
  const documents = computed<Documents>(() => (mirror.value ? shown(mirror.value.documents, pending.value) : {}))
  const view = useSiteView(documents)
  const { deviceOf, deviceName, linkOf, draft, held } = view
  const listeners = new Set<(changes: readonly Change[]) => void>()
  let line: ReturnType<typeof createLine> | null = null
  const soundEvents = new Set<SoundEvents>()

  const isOpen = computed(() => mirror.value !== null && id.value !== null)
  const open = computed(() => (isOpen.value ? { id: id.value!, name: view.name.value } : null))

  const path = (rest = '') => `/api/sites/${encodeURIComponent(id.value!)}${rest}`
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
          message('device.offline', { device: deviceName(device), why: now.why ?? now.state }),
          { about: `lost ${device}` },
        )
      }
      if (now.state === 'live') notices.over(`lost ${device}`)
      const differ = view.unsent.value[device]?.length ?? 0
      if (now.state === 'live' && was && was !== 'live') {
        notices.say('info', differ
          ? message('device.onlineDiffers', { device: deviceName(device), count: differ })
          : message('device.online', { device: deviceName(device) }))
      }
      if (now.misfits.length && !equal(now.misfits, contentOf(before, 'link', device)?.misfits)) {
        notices.say(
          'warn',
          message('device.draftMisfits', { device: deviceName(device), misfits: now.misfits.slice(0, 3).join(' ') }),
        )
      }
    }
  }
  const timeOf = (at: string) =>
    new Date(at).toLocaleTimeString([], { hour: '2-digit', minute: '2-digit', hour12: false })
  /** Who made what it is now, and when, where somebody else did; by document and path. */
  const lastBy = new Map<string, string>()
  const byOf = (document: string, path: string) => lastBy.get(`${document} ${path}`) ?? null
  function taken(changes: readonly Change[], before: Documents) {
    for (const c of changes) {
      if (c.person === personKey()) lastBy.delete(`${c.document} ${c.path}`)
      else lastBy.set(`${c.document} ${c.path}`, `${c.who}, ${timeOf(c.at)}`)
    }
    mirror.value = line!.mirror
    sayLinks(changes, before)
    for (const listener of listeners) listener(changes)
  }

  /** A site as the server has it, asked for until it answers; null: there is none, or it is not wanted any more. */
  async function read(key: string): Promise<SiteAnswer | null> {
    try {
      const found = await patiently(() => ask<SiteAnswer>(`/api/sites/${encodeURIComponent(key)}`), (who) => {
        if (wanted === key) trouble.value = who
        return wanted === key
      })
      if (wanted !== key) return null
      trouble.value = null
      return found
    }
    catch (error) {
      if (wanted !== key) return null
      if (error instanceof AnswerRefusal && error.status === 404) missing.value = error.message
      else notices.fail(error)
      return null
    }
  }
  async function openSite(key: string) {
    missing.value = null
    wanted = key
    const found = await read(key)
    if (!found) return
    // on its way while the page is made: without it no take is known to be fresh
    snapshots.want(allOf(found.documents, 'take').flatMap(t => t.snapshot ?? []))
    id.value = key
    mirror.value = { number: found.number, documents: found.documents }
    line = createLine(key, mirror.value, {
      changed: taken,
      reload: () => void reload(key),
      connected: (is) => {
        connected.value = is
      },
      hush: () => soundEvents.forEach(e => e.hush()),
      word: () => soundEvents.forEach(e => e.word()),
      other: (page, sounding) => soundEvents.forEach(e => e.other(page, sounding)),
    })
  }
  async function reload(key: string) {
    const found = await read(key)
    if (!found) return
    mirror.value = { number: found.number, documents: found.documents }
    line?.restart(mirror.value)
    for (const listener of listeners) listener([])
  }
  function close() {
    wanted = trouble.value = null
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
      if (!planned.ok && planned.status === 'refused') throw new AnswerRefusal(planned.why, 422, null)
      return agreement.through(agreed =>
        ask<EditsAnswer>(path('/changes'), { method: 'POST', body: { ...body, agreed } }))
    },
    known: (n, changes) => line!.known(n, changes),
    told: ({ why }) => {
      if (why) notices.say('warn', inWords(why))
    },
    refused: (error) => {
      if (error instanceof NotAgreed) return notices.say('info', message('edit.notApplied'))
      const { kind, told } = refusalTold(error)
      notices.say(kind, told)
      line?.follow()
    },
  })

  let lastGesture = { place: '', id: '', at: 0 }
  /** The gesture of an edit: that of the one before, when it goes on with it. */
  function gestureOf(wishes: readonly DesiredEdit[]): string {
    const place = wishes.map(w => `${w.document}${w.path}`).join(' ')
    const now = performance.now()
    const same = lastGesture.place === place && now - lastGesture.at < oneGesture
    lastGesture = { place, id: same ? lastGesture.id : crypto.randomUUID(), at: now }
    return lastGesture.id
  }
  /** Changes documents, shown at once; resolves with false when it was refused, with the reason shown. */
  const change = (wishes: readonly DesiredEdit[], options: DeliveryOptions = {}): Promise<boolean> =>
    editor.make(wishes, {
      ...options,
      gesture: options.gesture === undefined ? gestureOf(wishes) : options.gesture,
    })

  /** Settings as the device will keep them; the first that it cannot is said, and none is made. */
  function held_(wishes: readonly { device: string, path: ParameterPath, value: unknown }[]): DesiredEdit[] | null {
    const kept: DesiredEdit[] = []
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
    options: DeliveryOptions = {},
  ): Promise<boolean> {
    const record = deviceOf(device)
    const isSame = record && equal(valueAt(record.capability, draft(device), p), value)
    if (isSame && !editor.isPending(`settings/${device}`, p) && options.lease === undefined) return true
    const wishes = held_([{ device, path: p, value }])
    return wishes !== null && change(wishes, { live: live.value, ...options })
  }
  /** Sets several parameters together, of one device or of many: all of them, or none. */
  async function editAll(
    settings: readonly { device: string, path: ParameterPath, value: unknown }[],
    options: DeliveryOptions = {},
  ) {
    const gesture = options.gesture === undefined ? crypto.randomUUID() : options.gesture
    const wishes = held_(settings)
    return wishes !== null && change(wishes, { live: live.value, ...options, gesture })
  }

  const listen = (f: (changes: readonly Change[]) => void) => {
    listeners.add(f)
    return () => listeners.delete(f)
  }
  const drawn = new Set<DocumentKindId>(['plan', 'source', 'position', 'sheet', 'wiring', 'area'])
  const kindIn = (c: Change) => splitKey(c.document)?.kind

  const acts = useSiteActs({ view, path, live: () => live.value, idle: editor.idle })
  return {
    ...view,
    ...acts,
    byOf, open, id, missing, trouble, connected, live, mirror, documents, number,
    openSite, close, path,
    change, edit, editAll, wishesFor: held_, idle: editor.idle,
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
    /** Hears what the server says of sound. */
    onSound: (events: SoundEvents) => soundEvents.add(events),
    /** Tells the server that this page sounds, or that all are to be silent. */
    tell: (message: PageMessage) => line?.tell(message),
    /** Calls back whenever the plan or the wiring is another. */
    onPlan: (f: () => void) =>
      listen((changes) => {
        if (!changes.length || changes.some(c => drawn.has(kindIn(c)!))) f()
      }),
  }
})
