import { defineStore } from 'pinia'
import { useWebSocket } from '@vueuse/core'
import {
  differences,
  readParameter,
  sameValue,
  sourceOutputs,
  writeParameter,
  type ParameterPath,
  type ParameterValue,
  type Position,
  type Rig,
  type Settings,
  type SitePlan,
  type Source,
  routes,
  routeSounds,
} from '~~/core/rig'
import type { SiteSnapshot } from '~~/server/db/sites'
import type { LinkState } from '~~/server/links/link'
import type { SiteEvent } from '~~/server/live/channel'
import { ask, Refusal } from '~/utils/api'

type Snapshot = SiteSnapshot & { links: Record<string, LinkState> }

/** The open site as the server has it, kept in step over one WebSocket; every change goes through here. */
export const useSite = defineStore('site', () => {
  const notices = useNotices()
  const site = shallowRef<Snapshot | null>(null)
  const missing = ref<string | null>(null)
  /** True while the page is in step with the server. */
  const connected = ref(false)
  const live = ref(true)
  /** Drafts as shown: the server's plus edits still on their way. */
  const drafts = shallowRef<Record<string, Settings>>({})
  /** Drafts as the server has them: what an edit is checked against. Not drawn, so not reactive. */
  const known: Record<string, Settings> = {}
  const heldListeners = new Set<(device: string) => void>()
  const planListeners = new Set<() => void>()

  const path = (rest = '') => `/api/sites/${encodeURIComponent(site.value!.id)}${rest}`
  const deviceOf = (id: string) => site.value?.devices.find(d => d.id === id)

  const patch = (change: Partial<Snapshot>) => {
    site.value = { ...site.value!, ...change }
  }
  const patchDevice = (id: string, change: Partial<Snapshot['devices'][number]>) =>
    patch({ devices: site.value!.devices.map(d => (d.id === id ? { ...d, ...change } : d)) })

  const rigOf = (settings: (d: Snapshot['devices'][number]) => Settings): Rig => ({
    wires: site.value?.plan.wires ?? [],
    devices: Object.fromEntries(
      (site.value?.devices ?? []).map(d => [d.id, { capability: d.capability, settings: settings(d) }]),
    ),
  })
  const heldRig = computed(() => rigOf(d => d.held ?? d.draft))
  const draftRig = computed(() => rigOf(d => drafts.value[d.id] ?? d.draft))
  const unsent = computed(() =>
    Object.fromEntries(
      (site.value?.devices ?? []).map(d => [
        d.id,
        d.held ? differences(d.capability, d.held, drafts.value[d.id] ?? d.draft) : [],
      ]),
    ),
  )
  const unsentCount = computed(() => Object.values(unsent.value).reduce((n, list) => n + list.length, 0))
  const revisions = computed(() => Object.fromEntries((site.value?.devices ?? []).map(d => [d.id, d.revision])))

  async function fetchSite(id: string) {
    try {
      const found = await ask<Snapshot>(`/api/sites/${encodeURIComponent(id)}`)
      site.value = found
      drafts.value = Object.fromEntries(found.devices.map(d => [d.id, d.draft]))
      Object.assign(known, drafts.value)
      missing.value = null
      for (const d of found.devices) heldListeners.forEach(f => f(d.id))
    }
    catch (error) {
      if (error instanceof Refusal && error.status === 404) missing.value = error.message
      else notices.fail(error)
    }
  }

  let socket: ReturnType<typeof useWebSocket<string>> | null = null
  async function open(id: string) {
    await fetchSite(id)
    if (!site.value) return
    socket = useWebSocket<string>(`${location.origin.replace('http', 'ws')}/live?site=${encodeURIComponent(id)}`, {
      autoReconnect: { delay: 500 },
      heartbeat: { message: 'ping', interval: 5000, pongTimeout: 3000 },
      onMessage: (_, event) => hear(JSON.parse(event.data) as SiteEvent | { type: 'hello' }),
      onConnected: () => {
        void fetchSite(id).then(() => {
          connected.value = true
        })
      },
      onDisconnected: () => {
        connected.value = false
      },
    })
  }
  function close() {
    socket?.close()
    socket = null
    site.value = null
    connected.value = false
  }

  const waiting = new Map<string, { value: ParameterValue, live: boolean } | null>()
  const key = (device: string, p: ParameterPath) => `${device} ${p}`
  const showDraft = (device: string, p: ParameterPath, value: ParameterValue) => {
    if (sameValue(readParameter(drafts.value[device]!, p), value)) return
    drafts.value = { ...drafts.value, [device]: writeParameter(drafts.value[device]!, p, value) }
  }

  function hear(event: SiteEvent | { type: 'hello' }) {
    if (!site.value || event.type === 'hello') return
    switch (event.type) {
      case 'draft':
        known[event.device] = writeParameter(known[event.device]!, event.path, event.value)
        if (!waiting.has(key(event.device, event.path))) showDraft(event.device, event.path, event.value)
        break
      case 'held': {
        const held = deviceOf(event.device)!.held
        if (!held) return void fetchSite(site.value.id)
        patchDevice(event.device, { held: writeParameter(held, event.path, event.value), revision: event.revision })
        if (event.draft) {
          known[event.device] = event.draft
          if (!waiting.has(key(event.device, event.path))) showDraft(event.device, event.path, event.value)
        }
        heldListeners.forEach(f => f(event.device))
        break
      }
      case 'device':
        known[event.device] = event.draft
        patchDevice(event.device, { held: event.held, revision: event.revision })
        drafts.value = { ...drafts.value, [event.device]: event.draft }
        heldListeners.forEach(f => f(event.device))
        break
      case 'link': {
        const was = site.value.links[event.device]?.state
        patch({ links: { ...site.value.links, [event.device]: event.link } })
        const name = deviceOf(event.device)?.name
        if (event.link.state === 'lost' && was !== 'lost')
          notices.say(
            'warn',
            `${name} is lost: ${event.link.why}. Its settings are kept; Kovrin goes on looking for it.`,
          )
        if (event.link.state === 'live' && was && was !== 'live')
          notices.say('info', `${name} is connected and in step.`)
        break
      }
      case 'plan':
        takePlan(event)
        break
      case 'take':
        patch({ takes: replaced(site.value.takes, event.take.id, event.take) })
        break
      case 'take-gone':
        patch({ takes: site.value.takes.filter(t => t.id !== event.id) })
        break
    }
  }

  /**
   * Sets one parameter (`gesture`: see the server's edits), shown at once; while a change of it is on its way
   * only the newest wish waits behind it.
   */
  async function edit(
    device: string,
    p: ParameterPath,
    value: ParameterValue,
    asLive = live.value,
    gesture?: string | null,
  ) {
    if (sameValue(readParameter(drafts.value[device]!, p), value) && !waiting.has(key(device, p))) return
    showDraft(device, p, value)
    const k = key(device, p)
    if (waiting.has(k)) {
      waiting.set(k, { value, live: asLive })
      return
    }
    let wish: { value: ParameterValue, live: boolean } | null = { value, live: asLive }
    while (wish) {
      waiting.set(k, null)
      try {
        const answer: { value: ParameterValue, sent: boolean, why: string | null } = await ask(
          path(`/devices/${encodeURIComponent(device)}/edits`),
          {
            method: 'POST',
            body: {
              path: p,
              old: readParameter(known[device]!, p),
              new: wish.value,
              live: wish.live,
              ...(gesture === undefined ? {} : { gesture }),
            },
          },
        )
        known[device] = writeParameter(known[device]!, p, answer.value)
        if (answer.why) notices.say('warn', answer.why)
      }
      catch (error) {
        if (error instanceof Refusal && error.status === 409) {
          const now = (error.data as { value: ParameterValue }).value
          known[device] = writeParameter(known[device]!, p, now)
          notices.say('warn', `${error.message} The newer value is shown; set yours again if you still want it.`)
        }
        else notices.fail(error)
        waiting.set(k, null)
      }
      wish = waiting.get(k) ?? null
    }
    waiting.delete(k)
    showDraft(device, p, readParameter(known[device]!, p))
  }

  /** Plan edits on their way, in order; while there are any, what the server tells of the plan waits. */
  let planQueue: Promise<unknown> = Promise.resolve()
  let planPending = 0
  let planTold: Extract<SiteEvent, { type: 'plan' }> | null = null
  function takePlan(told: Extract<SiteEvent, { type: 'plan' }>) {
    planTold = told
    if (planPending > 0) return
    patch({ name: told.name, plan: told.plan, sources: told.sources, positions: told.positions })
    planListeners.forEach(f => f())
  }

  const replaced = <T extends { id: string }>(all: T[], id: string, next: T | null) => {
    if (!next) return all.filter(x => x.id !== id)
    return all.some(x => x.id === id) ? all.map(x => (x.id === id ? next : x)) : [...all, next]
  }

  /**
   * Changes the plan, a source or a position, shown at once: `old` null makes it, `next` null removes it. False
   * when it was
   * refused, with the reason shown and the server's plan back in place.
   */
  async function editPlan<T extends SitePlan | Source | Position>(
    what: 'plan' | 'source' | 'position',
    planKey: string,
    old: T | null,
    next: T | null,
  ): Promise<boolean> {
    if (what === 'plan') patch({ plan: next as SitePlan })
    else if (what === 'source') patch({ sources: replaced(site.value!.sources, planKey, next as Source | null) })
    else patch({ positions: replaced(site.value!.positions, planKey, next as Position | null) })
    planPending++
    const sent = planQueue.then(() =>
      ask(path('/plan/edits'), { method: 'POST', body: { what, key: planKey, old, new: next } }),
    )
    planQueue = sent.catch(() => {})
    try {
      await sent
      return true
    }
    catch (error) {
      notices.fail(error)
      planTold = null
      await fetchSite(site.value!.id)
      return false
    }
    finally {
      planPending--
      if (planPending === 0 && planTold) takePlan(planTold)
    }
  }
  /**
   * Takes back the newest change of this site, whatever it was, or makes it again; under Live hands settings go
   * on to the device.
   */
  async function undo(which: 'undo' | 'redo') {
    await planQueue
    try {
      const { what, why } = await ask<{ what: string, why: string | null }>(path(`/${which}`), {
        method: 'POST',
        body: { live: live.value },
      })
      notices.say(why ? 'warn' : 'info', why ? `${what} ${why}` : what)
    }
    catch (error) {
      notices.fail(error)
    }
  }

  /** Sends every unsent edit to its device and says what arrived. */
  async function send() {
    const names = Object.entries(unsent.value)
      .filter(([, list]) => list.length)
      .map(([id]) => id)
    let sent = 0
    const left: string[] = []
    for (const id of names) {
      try {
        const report = await ask<{ sent: string[], left: { path: string, why: string }[] }>(
          path(`/devices/${encodeURIComponent(id)}/send`),
          { method: 'POST' },
        )
        sent += report.sent.length
        if (report.left.length)
          left.push(`${deviceOf(id)!.name}: ${report.left[0]!.why} (${report.left.length} left)`)
      }
      catch (error) {
        left.push(`${deviceOf(id)!.name}: ${(error as Error).message}`)
      }
    }
    if (sent) notices.say('info', `${sent} ${sent === 1 ? 'edit' : 'edits'} sent and read back.`)
    if (left.length) notices.say('error', left.join(' '))
  }

  /** Lets every unsent edit go: the drafts become what the devices hold. */
  async function drop() {
    for (const [id, list] of Object.entries(unsent.value)) {
      if (list.length)
        await ask(path(`/devices/${encodeURIComponent(id)}/drop`), { method: 'POST' }).catch(notices.fail)
    }
  }

  return {
    site,
    missing,
    connected,
    live,
    drafts,
    heldRig,
    draftRig,
    unsent,
    unsentCount,
    revisions,
    open,
    close,
    edit,
    send,
    drop,
    path,
    deviceOf,
    editPlan,
    undo: () => undo('undo'),
    redo: () => undo('redo'),
    /** Calls back whenever a device confirmed something new; returns how to stop. */
    onHeld(f: (device: string) => void) {
      heldListeners.add(f)
      return () => heldListeners.delete(f)
    },
    /** Calls back whenever the plan changed; returns how to stop. */
    onPlan(f: () => void) {
      planListeners.add(f)
      return () => planListeners.delete(f)
    },
    /** Whether the test signal reaches a source through what its devices hold. */
    fed: (sourceId: string) => {
      const source = site.value?.sources.find(s => s.id === sourceId)
      return (
        !!source
        && sourceOutputs(source).some(to =>
          routes(heldRig.value, site.value!.plan.feed, to).some(r => routeSounds(heldRig.value, r)),
        )
      )
    },
    outputsOf: (sourceId: string) => {
      const source = site.value?.sources.find(s => s.id === sourceId)
      return source ? sourceOutputs(source) : []
    },
  }
})
