import { randomUUID } from 'node:crypto'
import { contentOf, draftOf, type Documents } from '../../core/documents'
import {
  differences, parametersOf, rampOf, showParameter, valueAt, type DeviceAct, type Settings,
} from '../../core/rig'
import { actorOf } from '../store/actor'
import { onBus, serverId, tellServers } from '../store/bus'
import { complain as complainOf } from '../store/client'
import type { SendOutcome } from './link'
import { lookAtDevices, ownedOf, type Owned } from './links'

const complain = (error: unknown) => complainOf('Links', error)

/** What a server that owns a link is asked to do with its device; `number` is the change that it must know of first. */
export interface LinkCommand {
  /** Parameters whose draft shall go out; null: all that differ from what the device holds. */
  paths: string[] | null
  /** Says what the device does not hold all the same. */
  readBack: boolean
  number: number
}
export interface SendReport {
  sent: string[]
  left: { path: string, why: string }[]
}

/** Drives a device. What is read back afterwards stays wished until the device is known to hold it, or not to. */
async function carryOut(mine: Owned, command: LinkCommand): Promise<SendReport> {
  const { site, device, link, wished } = mine
  const { paths, readBack, number } = command
  const actor = actorOf(site)
  if (actor.number < number) await actor.follow()
  const mirror = await actor.read()
  const record = mirror && contentOf(mirror.documents, 'device', device)
  if (!record) return { sent: [], left: [] }
  const { capability } = record
  const draft = draftOf(mirror.documents, device)
  const held = contentOf(mirror.documents, 'held', device)
  const wanted = paths ?? (held ? differences(capability, held, draft).map(d => d.path) : [])
  const sent = new Map(wanted.map(path => [path, valueAt(capability, draft, path)]))
  if (readBack) for (const [path, to] of sent) wished.set(path, to)
  try {
    const outcomes = await Promise.all(
      [...sent].map(async ([path, to]): Promise<[string, SendOutcome]> => {
        const parameter = parametersOf(capability).get(path)
        const ramp = parameter ? rampOf(parameter, held && valueAt(capability, held, path), to) : []
        return [path, await link.wish(path, to, ramp)]
      }),
    )
    const report: SendReport = {
      sent: outcomes.filter(([, o]) => o.ok).map(([path]) => path),
      left: outcomes.flatMap(([path, o]) => (o.ok ? [] : [{ path, why: o.why }])),
    }
    if (readBack && report.sent.length) await compareBack(site, device, report)
    return report
  }
  finally {
    for (const [path, to] of sent) if (wished.get(path) === to) wished.delete(path)
  }
}

/** Takes out of the report what a device does not really hold: what was written was read back with it. */
async function compareBack(site: string, device: string, report: SendReport) {
  const mirror = await actorOf(site).read()
  if (!mirror) return
  const { capability } = contentOf(mirror.documents, 'device', device)!
  const held = contentOf(mirror.documents, 'held', device) ?? {}
  const wrong = new Set(differences(capability, held, draftOf(mirror.documents, device)).map(d => d.path))
  report.left.push(
    ...report.sent.filter(p => wrong.has(p)).map(path => ({
      path, why: `The device holds ${showParameter(capability, path, valueAt(capability, held, path))} all the same.`,
    })),
  )
  report.sent = report.sent.filter(p => !wrong.has(p))
}

/** The settings that a preset would make, where that is told and fits into a message between servers. */
async function presetOf({ link }: Owned, slot: number, isHere: boolean): Promise<Settings | null> {
  const settings = await link.presetAt(slot)
  return isHere || JSON.stringify(settings).length < longestAnswer ? settings : null
}

interface Answers {
  send: SendReport
  /** Why it was not done; null: it is. */
  act: string | null
  preset: Settings | null
}
/** What the server that owns a link is asked for. */
type Order
  = | { kind: 'send', command: LinkCommand }
    | { kind: 'act', act: DeviceAct }
    | { kind: 'preset', slot: number }

async function follow(mine: Owned, order: Order, isHere = true): Promise<Answers[Order['kind']]> {
  switch (order.kind) {
    case 'send': return carryOut(mine, order.command)
    case 'act': return mine.link.act(order.act)
    case 'preset': return presetOf(mine, order.slot, isHere)
  }
}

const answerTime = 6000
/** Milliseconds after which it is looked whether the owner of a link is still there. */
const ownerSilent = 400
/** PostgreSQL takes 8000 bytes in a message. */
const longestAnswer = 7000
const asked = new Map<string, (answer: unknown) => void>()
onBus((message) => {
  if (message.kind === 'answer' && message.to === serverId) asked.get(message.id)?.(message.answer)
  if (message.kind !== 'ask' || message.from === serverId) return
  const mine = ownedOf(message.site, message.device)
  if (!mine) return
  follow(mine, message.command as Order, false)
    .then(answer => tellServers({ kind: 'answer', id: message.id, from: serverId, to: message.from, answer }))
    .catch(complain)
})

/** Most paths that go into one message between servers. */
const mostPaths = 100

/** Has a device driven by whichever server owns its link. */
export async function drive(site: string, device: string, command: LinkCommand): Promise<SendReport> {
  const mine = ownedOf(site, device)
  if (mine) return carryOut(mine, command)
  const mirror = await actorOf(site).read()
  if (!mirror || contentOf(mirror.documents, 'link', device)?.state !== 'live')
    return { sent: [], left: notDriven(mirror?.documents ?? {}, device, command.paths ?? ['']) }
  const paths = command.paths && command.paths.length > mostPaths ? null : command.paths
  return askOwner(site, device, { kind: 'send', command: { ...command, paths } }, unanswered(command))
}

/** Has a device do something; resolves with why it does not, or null. */
export async function driveAct(site: string, device: string, act: DeviceAct): Promise<string | null> {
  const order: Order = { kind: 'act', act }
  const mine = ownedOf(site, device)
  return mine ? mine.link.act(act) : askOwner(site, device, order, 'The device did not answer in time.')
}
/** The settings that a preset of a device would make; null where that is not told. */
export async function drivePreset(site: string, device: string, slot: number): Promise<Settings | null> {
  const mine = ownedOf(site, device)
  return mine ? presetOf(mine, slot, true) : askOwner(site, device, { kind: 'preset', slot }, null)
}

/** What is said of settings of a device that is not there to take them. */
export function notDriven(now: Documents, device: string, paths: readonly string[]): SendReport['left'] {
  const link = contentOf(now, 'link', device)
  const why
    = link?.state === 'elsewhere' ? (link.why ?? '') : 'The device is not connected: the change is kept as a draft.'
  return paths.map(path => ({ path, why }))
}

/** Has the owner of a device's link do it; when there is none any more, whoever takes the link over does. */
async function askOwner<O extends Order>(
  site: string, device: string, order: O, late: Answers[O['kind']],
): Promise<Answers[O['kind']]> {
  type Answer = Answers[O['kind']]
  const id = randomUUID()
  const begun = Date.now()
  let timer: NodeJS.Timeout | undefined
  const answer = new Promise<Answer>((resolve, reject) => {
    asked.set(id, told => resolve(told as Answer))
    timer = setInterval(() => {
      const mine = ownedOf(site, device)
      const waited = Date.now() - begun
      if (mine?.link.state === 'live') {
        // once: it may take longer than until the next look
        clearInterval(timer)
        follow(mine, order).then(told => resolve(told as Answer), reject)
      }
      else if (waited > answerTime) resolve(late)
      else if (waited > ownerSilent) void lookAtDevices()
    }, 100)
  })
  await tellServers({ kind: 'ask', id, from: serverId, site, device, command: order })
  return answer.finally(() => {
    clearInterval(timer)
    asked.delete(id)
  })
}
const unanswered = ({ paths }: LinkCommand): SendReport => ({
  sent: [],
  left: (paths ?? ['']).map(path => ({
    path,
    why: 'The device did not answer in time: the change is kept as a draft.',
  })),
})
